using System.Security.Claims;
using Bostel.Core;
using Bostel.Data;
using Bostel.Server.Jobs;
using Bostel.Server.Security;
using Bostel.Server.Services;

namespace Bostel.Server.Endpoints;

/// <summary>Reports are issued, one or many, with one signature.</summary>
public static class IssuingEndpoints
{
    private const int Most = 500;

    public static void Map(RouteGroupBuilder api) =>
        api.MapPost("/issuing", IssueAsync).WithName("issueReports").Needs(Role.Inspector);

    /// <summary>Puts the reports into the queue in the order given. What stands in the way of one does not hold up the others.</summary>
    private static async Task<IReadOnlyList<IssuingView>> IssueAsync(
        Issuing request, StationService stations, ReportService reports, JobQueue jobs, SignInGuard guard, ClaimsPrincipal who,
        HttpContext http, CancellationToken cancel)
    {
        if (request.Pieces.Count is 0 or > Most)
        {
            throw new BadInputException($"pieces: 1 to {Most} are issued at once.");
        }

        await guard.RequirePasswordAsync(http, request.Password, cancel);
        var answers = new List<IssuingView>();
        foreach (var piece in request.Pieces.Distinct())
        {
            try
            {
                await reports.RequireReadyAsync(await stations.OpenAsync(piece, cancel), cancel);
                answers.Add(new(piece, Views.Of(await jobs.AddAsync(JobKind.Issue, piece, new(), who.Name(), cancel)), null));
            }
            catch (Exception e) when (e is BadInputException or ConflictException or NotFoundException)
            {
                answers.Add(new(piece, null, e.Message));
            }
        }

        return answers;
    }
}
