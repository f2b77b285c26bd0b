using System.Security.Claims;
using Bostel.Data;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Mvc;

namespace Bostel.Server.Endpoints;

/// <summary>Layouts of reports under names.</summary>
public static class LayoutEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/layouts", ViewsAsync).WithName("layouts").Needs(Role.Reader);
        api.MapPut("/layouts/{name}",
            async (string name, LayoutEdit edit, LayoutService service, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            await service.KeepAsync(name, edit.Report, edit.ForNewParts, who.Name(), cancel);
            return await ViewsAsync(service, cancel);
        }).WithName("keepLayout").Needs(Role.Approver).WithMetadata(new RequestSizeLimitAttribute(RequestGuards.MostPlan));
        api.MapDelete("/layouts/{name}", async (string name, LayoutService service, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            await service.RemoveAsync(name, who.Name(), cancel);
            return await ViewsAsync(service, cancel);
        }).WithName("removeLayout").Needs(Role.Approver);
    }

    private static async Task<IReadOnlyList<LayoutView>> ViewsAsync(LayoutService service, CancellationToken cancel) =>
        [.. (await service.AllAsync(cancel)).Select(l => new LayoutView(
            l.Kept.Name, l.Kept.ForNewParts, l.Kept.ChangedBy, l.Kept.ChangedAt, l.Report))];
}
