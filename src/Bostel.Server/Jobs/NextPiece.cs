using System.Text.Json;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Jobs;

/// <summary>
/// Every next piece by itself: one that was received or captured, of a part whose plan in force is released, is run at once; its report
/// waits as a draft. Not where the scan's size tells of another unit, nor where the plan is still being made.
/// </summary>
public static class NextPiece
{
    /// <summary>Queues what follows a job that is done, in the transaction that ends it.</summary>
    public static async Task FollowAsync(BostelContext context, Job done)
    {
        var pieces = context.Pieces.AsNoTracking().Include(p => p.Part).ThenInclude(p => p!.Nominal);
        var piece = done.Kind switch
        {
            JobKind.Receive => await pieces.SingleOrDefaultAsync(p => p.Id == done.SubjectId),
            JobKind.Capture when JsonSerializer.Deserialize<JobArguments>(done.Arguments)!.Serial is { } serial =>
                await pieces.SingleOrDefaultAsync(p => p.PartId == done.SubjectId && p.Serial == serial),
            _ => null,
        };
        if (piece is { RunId: null, Part.Nominal: { } nominal } && GuessedUnit.Of(piece, nominal) is { Agrees: true }
            && await PlanService.IsReleasedAsync(context, piece.PartId, CancellationToken.None))
        {
            try
            {
                await new JobQueue(context).AddAsync(JobKind.RunPlan, piece.Id, new(), done.CreatedBy);
            }
            catch (ConflictException)
            {
                // Somebody was quicker: it is being worked on.
            }
        }
    }
}
