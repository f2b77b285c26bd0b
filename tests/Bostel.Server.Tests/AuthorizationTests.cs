using System.Net;
using System.Text.RegularExpressions;
using Bostel.Data;
using Bostel.Server.Security;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>
/// Every endpoint without signing in and with each role. What each needs is written down here once more, apart from the code.
/// </summary>
public class AuthorizationTests(ServerFixture server)
{
    /// <summary>Endpoint, and the least role it is open to; null: to everybody.</summary>
    public static readonly Dictionary<string, Role?> Expected = new()
    {
        ["POST /api/session"] = null,
        ["DELETE /api/session"] = null,
        ["GET /api/session"] = null,
        ["POST /api/session/password"] = Role.Reader,
        ["GET /api/floor"] = Role.Reader,
        ["GET /api/pieces"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/picture"] = Role.Reader,
        ["GET /api/nominals/{id:guid}/picture"] = Role.Reader,
        ["GET /api/parts/{id:guid}/nominal"] = Role.Reader,
        ["GET /api/nominals/{id:guid}/geometry"] = Role.Reader,
        ["GET /api/parts/{id:guid}/plan"] = Role.Reader,
        ["GET /api/parts/{id:guid}/plan/words"] = Role.Reader,
        ["GET /api/parts/{id:guid}/plan/file"] = Role.Reader,
        ["GET /api/parts/{id:guid}/plan/revisions"] = Role.Reader,
        ["GET /api/parts/{id:guid}/plan/changes"] = Role.Reader,
        ["POST /api/parts/{id:guid}/plan/proposals"] = Role.Reader,
        ["POST /api/parts/{id:guid}/plan/constructions"] = Role.Reader,
        ["GET /api/parts/{id:guid}/plan/alike"] = Role.Reader,
        ["POST /api/parts/{id:guid}/plan/edges"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/align/alternatives/{index:int}/picture"] = Role.Reader,
        ["POST /api/parts/{id:guid}/plan/feature"] = Role.Reader,
        ["GET /api/pieces/{id:guid}"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/deviation"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/transform"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/measure"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/align/try"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/region"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/alignments"] = Role.Reader,
        ["POST /api/parts/{id:guid}/nominal/reference"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/nominal/axes"] = Role.Inspector,
        ["GET /api/nominals/{id:guid}/model"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/evidence/{no:int}"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/readings"] = Role.Reader,
        ["GET /api/certificate"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/face-distance"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/other-ways/{no:int}"] = Role.Reader,
        ["POST /api/parts/{id:guid}/plan/proposal"] = Role.Reader,
        ["GET /api/parts/{id:guid}/plan/as-drawn"] = Role.Reader,
        ["POST /api/parts/{id:guid}/plan/as-drawn"] = Role.Reader,
        ["GET /api/certificate/file"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/section"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/section/offers"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/map"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/map/values"] = Role.Reader,
        ["POST /api/pieces/{id:guid}/areas"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/explanation"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/faces"] = Role.Reader,
        ["GET /api/nominals/{id:guid}/surface"] = Role.Reader,
        ["POST /api/nominals/{id:guid}/distance"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/sections/{index:int}/file"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/figures/{index:int}"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/sheet"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/loose"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/geometry"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/export"] = Role.Reader,
        ["GET /api/jobs/{id:guid}"] = Role.Reader,
        ["GET /api/events"] = Role.Reader,
        ["GET /api/intake"] = Role.Reader,
        ["GET /api/reports"] = Role.Reader,
        ["GET /api/reports/{id:guid}/{format}"] = Role.Reader,
        ["GET /api/log"] = Role.Reader,
        ["GET /api/log/file"] = Role.Reader,
        ["GET /api/outbox"] = Role.Reader,
        ["POST /api/outbox/{id:guid}/again"] = Role.Inspector,
        ["GET /api/register"] = Role.Reader,
        ["GET /api/register/check"] = Role.Reader,
        ["GET /api/pieces/{id:guid}/report/draft"] = Role.Reader,
        ["GET /openapi/{documentName}.json"] = Role.Reader,
        ["POST /api/parts"] = Role.Inspector,
        ["POST /api/uploads"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/nominal"] = Role.Inspector,
        ["PUT /api/parts/{id:guid}/plan"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/plan/undo"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/plan/redo"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/plan/return"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/plan/load"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/plan/copy"] = Role.Inspector,
        ["POST /api/parts/{id:guid}/plan/release"] = Role.Approver,
        ["POST /api/captures"] = Role.Inspector,
        ["POST /api/pieces"] = Role.Inspector,
        ["POST /api/pieces/{id:guid}/jobs"] = Role.Inspector,
        ["GET /api/parts/{id:guid}/table"] = Role.Reader,
        ["GET /api/parts/{id:guid}/trend"] = Role.Reader,
        ["GET /api/reports/{number}/record"] = Role.Reader,
        ["GET /api/layouts"] = Role.Reader,
        ["PUT /api/layouts/{name}"] = Role.Approver,
        ["DELETE /api/layouts/{name}"] = Role.Approver,
        ["POST /api/issuing"] = Role.Inspector,
        ["POST /api/pieces/{id:guid}/unit"] = Role.Inspector,
        ["POST /api/pieces/{id:guid}/columns"] = Role.Inspector,
        ["POST /api/pieces/{id:guid}/preview"] = Role.Inspector,
        ["POST /api/pieces/{id:guid}/preview/geometry"] = Role.Inspector,
        ["POST /api/pieces/{id:guid}/selection"] = Role.Inspector,
        ["POST /api/pieces/{id:guid}/anchor"] = Role.Inspector,
        ["POST /api/jobs/{id:guid}/cancel"] = Role.Inspector,
        ["POST /api/reports/{id:guid}/withdrawal"] = Role.Approver,
        ["POST /api/reports/{id:guid}/countersignature"] = Role.Approver,
        ["POST /api/register/verification"] = Role.Reader,
        ["GET /api/people"] = Role.Administrator,
        ["POST /api/people"] = Role.Administrator,
        ["PUT /api/people/{id:guid}"] = Role.Administrator,
        ["POST /api/people/{id:guid}/password"] = Role.Administrator,
    };

    [Fact]
    public void EveryEndpointIsWrittenDownHere()
    {
        var there = Endpoints().Select(e => e.Name).Order().ToArray();
        Assert.Equal(Expected.Keys.Order(), there);
    }

    [Fact]
    public async Task EveryEndpointIsOpenToItsRolesAndToNobodyElse()
    {
        var clients = new Dictionary<Role, HttpClient>();
        foreach (var role in Enum.GetValues<Role>())
        {
            clients[role] = await ServerFixture.SignedInAsync(server.Factory, role.ToString().ToLowerInvariant());
        }

        using var nobody = server.Factory.CreateClient();
        foreach (var (name, needed) in Expected.Where(
            e => e.Value is not null && !e.Key.StartsWith("POST /api/session/password", StringComparison.Ordinal)))
        {
            Assert.Equal((name, HttpStatusCode.Unauthorized), (name, await AskAsync(nobody, name)));
            foreach (var (role, client) in clients)
            {
                var status = await AskAsync(client, name);
                Assert.True(
                    role < needed
                        ? status == HttpStatusCode.Forbidden
                        : status is not (HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden or HttpStatusCode.InternalServerError),
                    $"{name} as {role}: {status}");
            }
        }
    }

    [Fact]
    public void TheTableOfRolesInTheDocumentsIsTheCodes()
    {
        var text = File.ReadAllText(Path.Combine(ServerFixture.Root, "docs", "operating.md"));
        foreach (var endpoint in Endpoints().Where(e => e.Needed is > Role.Inspector))
        {
            var path = endpoint.Name.Split(' ')[1].Replace(":guid", "", StringComparison.Ordinal);
            Assert.Contains(path, text, StringComparison.Ordinal);
        }
    }

    private IEnumerable<(string Name, Role? Needed)> Endpoints() =>
        server.Factory.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>()
        .Where(e => e.RoutePattern.RawText is { } path
            && (path.StartsWith("/api", StringComparison.Ordinal) || path.StartsWith("/openapi", StringComparison.Ordinal))
            && !path.Contains("**", StringComparison.Ordinal))
        .SelectMany(e => e.Metadata.GetMetadata<HttpMethodMetadata>()!.HttpMethods.Select(
            m => ($"{m} {e.RoutePattern.RawText}", e.Metadata.GetMetadata<RoleNeeded>()?.Role)));

    private static async Task<HttpStatusCode> AskAsync(HttpClient client, string name)
    {
        var (method, path) = (new HttpMethod(name.Split(' ')[0]), name.Split(' ')[1]);
        path = Regex.Replace(path, "{id:guid}", Guid.NewGuid().ToString());
        path = Regex.Replace(path, "{\\w+:int}", "0").Replace("{format}", "pdf", StringComparison.Ordinal)
            .Replace("{documentName}", "v1", StringComparison.Ordinal);
        path += path.EndsWith("/uploads", StringComparison.Ordinal)
            ? "?name=x.jpg"
            : path.EndsWith("/export", StringComparison.Ordinal) ? "?format=stl&prepared=false"
            : path.EndsWith("/deviation", StringComparison.Ordinal) ? "?key=x" : "";
        using var request = new HttpRequestMessage(method, path);
        if (method != HttpMethod.Get)
        {
            request.Content = new StringContent("{}", System.Text.Encoding.UTF8, "application/json");
        }

        // An open stream of events never ends: the head of the answer is enough.
        using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
        return answer.StatusCode;
    }
}
