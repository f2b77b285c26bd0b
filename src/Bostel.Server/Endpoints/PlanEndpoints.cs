using System.Security.Claims;
using System.Text;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Reports;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Mvc;

namespace Bostel.Server.Endpoints;

/// <summary>A part's plan: edited, its revisions looked through, loaded from a file or another part, released.</summary>
public static class PlanEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var plan = api.MapGroup("/parts/{id:guid}").WithMetadata(new RequestSizeLimitAttribute(RequestGuards.MostPlan));
        plan.MapGet("/plan", async (Guid id, PlanService plans, CancellationToken cancel) => Views.Of(await plans.GetAsync(id, cancel)))
            .WithName("plan").Needs(Role.Reader);
        plan.MapPut("/plan", async (Guid id, PlanEdit edit, PlanService plans, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await plans.SaveAsync(id, edit.BasedOn, edit.Plan, who.Name(), cancel))).WithName("savePlan").Needs(Role.Inspector);
        plan.MapPost("/plan/undo", async (Guid id, PlanStep step, PlanService plans, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await plans.UndoAsync(id, step.BasedOn, who.Name(), cancel))).WithName("undoPlan").Needs(Role.Inspector);
        plan.MapPost("/plan/redo", async (Guid id, PlanStep step, PlanService plans, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await plans.RedoAsync(id, step.BasedOn, who.Name(), cancel))).WithName("redoPlan").Needs(Role.Inspector);
        plan.MapGet("/plan/words", async (Guid id, PlanHistory history, CancellationToken cancel, int? number = null) =>
            PlanWords.Of(await history.AtAsync(id, number, cancel))).WithName("planWords").Needs(Role.Reader);
        plan.MapGet("/plan/file", async (Guid id, PlanHistory history, CancellationToken cancel, int? number = null) =>
        {
            var body = await history.AtAsync(id, number, cancel);
            return TypedResults.File(Encoding.UTF8.GetBytes(body.ToJson()), "application/json", $"{body.Part} plan.json");
        }).WithName("planFile").Needs(Role.Reader);
        plan.MapGet("/plan/revisions", async (Guid id, PlanHistory history, CancellationToken cancel, int? before = null) =>
            await history.RevisionsAsync(id, before, cancel)).WithName("revisions").Needs(Role.Reader);
        plan.MapGet("/plan/changes", async (Guid id, int from, int to, PlanHistory history, CancellationToken cancel) =>
            PlanChange.Between(await history.AtAsync(id, from, cancel), await history.AtAsync(id, to, cancel)))
            .WithName("planChanges").Needs(Role.Reader);
        plan.MapPost("/plan/proposals", async (Guid id, Picked picked, PlanHistory history, CancellationToken cancel) =>
            await history.ProposeAsync(id, picked.Faces, picked.Features ?? [], cancel)).WithName("proposals").Needs(Role.Reader);
        plan.MapPost("/plan/proposal", async (Guid id, ProposalAsked asked, PlanHistory history, CancellationToken cancel) =>
            await history.ProposalAsync(
                id, asked.Sources, asked.Table is { } table ? TableReader.Drawing(table.Bytes, table.FileName) : null, cancel))
            .WithName("planProposal").Needs(Role.Reader);
        plan.MapGet("/plan/as-drawn", async (Guid id, PlanHistory history, CancellationToken cancel) =>
            await history.AsDrawnAsync(id, cancel)).WithName("asDrawn").Needs(Role.Reader);
        plan.MapPost("/plan/as-drawn", async (Guid id, Written written, PlanHistory history, CancellationToken cancel) =>
            await history.WriteAsync(id, written.Characteristic, written.Text, cancel)).WithName("writeAsDrawn").Needs(Role.Reader);
        plan.MapPost("/plan/constructions", async (Guid id, PickedFeatures picked, PlanHistory history, CancellationToken cancel) =>
            await history.OfferAsync(id, picked.Features, cancel)).WithName("constructions").Needs(Role.Reader);
        plan.MapPost("/plan/feature", async (Guid id, PickedFaces picked, PlanHistory history, CancellationToken cancel) =>
            await history.FeatureAsync(id, picked.Faces, cancel)).WithName("feature").Needs(Role.Reader);
        plan.MapPost("/plan/edges", async (Guid id, PickedFaces picked, PlanHistory history, CancellationToken cancel) =>
            await history.EdgesAsync(id, picked.Faces, cancel)).WithName("edges").Needs(Role.Reader);
        plan.MapGet("/plan/alike", async (Guid id, int face, PlanHistory history, CancellationToken cancel, int? edgeOf = null) =>
            await history.AlikeAsync(id, face, edgeOf, cancel)).WithName("alike").Needs(Role.Reader);
        plan.MapPost("/plan/return", async (Guid id, PlanReturn back, PlanHistory history, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await history.ReturnAsync(id, back.BasedOn, back.Number, who.Name(), cancel)))
            .WithName("returnToRevision").Needs(Role.Inspector);
        plan.MapPost("/plan/load", async (Guid id, PlanLoad load, PlanHistory history, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await history.LoadAsync(id, load.BasedOn, load.FileName, load.Json, who.Name(), cancel)))
            .WithName("loadPlan").Needs(Role.Inspector);
        plan.MapPost("/plan/copy", async (Guid id, PlanCopy copy, PlanHistory history, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await history.CopyAsync(id, copy.BasedOn, copy.From, who.Name(), cancel))).WithName("copyPlan").Needs(Role.Inspector);
        plan.MapPost("/plan/release",
            async (Guid id, PlanRelease release, PlanHistory history, ClaimsPrincipal who, CancellationToken cancel) =>
            await history.ReleaseAsync(id, release.Number, who.Name(), cancel)).WithName("releasePlan").Needs(Role.Approver);
    }
}
