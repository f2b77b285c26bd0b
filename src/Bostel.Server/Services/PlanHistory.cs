using Bostel.Core;
using Bostel.Core.Features;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>A revision of a plan: who made it from which other, what they changed in words, and what came of it.</summary>
/// <param name="Parent">The revision it was made from; null: the first.</param>
/// <param name="Changes">What it says otherwise than its parent.</param>
/// <param name="Reports">Reports issued on it and not withdrawn.</param>
public sealed record RevisionView(
    int Number, int? Parent, bool IsHead, string CreatedBy, DateTimeOffset CreatedAt, string? ReleasedBy, DateTimeOffset? ReleasedAt,
    IReadOnlyList<PlanChange> Changes, int Reports);

/// <summary>Looks through a plan's revisions and brings plans in from elsewhere: an earlier revision, a file, another part.</summary>
public sealed class PlanHistory(BostelContext context, PlanService plans, MeshCache meshes)
{
    /// <summary>Revisions in one answer.</summary>
    private const int Page = 50;

    /// <summary>The newest revisions before a number, newest first.</summary>
    public async Task<IReadOnlyList<RevisionView>> RevisionsAsync(Guid partId, int? before, CancellationToken cancel)
    {
        var plan = await PlanAsync(partId, cancel);
        var page = await context.PlanRevisions.AsNoTracking().Where(r => r.PlanId == plan.Id && r.Number < (before ?? int.MaxValue))
            .OrderByDescending(r => r.Number).Take(Page).ToListAsync(cancel);
        var parents = page.Select(r => r.Parent).ToHashSet();
        var bodies = (await context.PlanRevisions.AsNoTracking().Where(r => r.PlanId == plan.Id && parents.Contains(r.Number))
            .ToListAsync(cancel)).ToDictionary(r => r.Number);
        var issued = await context.Reports.AsNoTracking().Where(r => r.Piece!.PartId == partId && r.WithdrawnAt == null)
            .GroupBy(r => r.PlanNumber).ToDictionaryAsync(g => g.Key, g => g.Count(), cancel);
        return
        [
            .. page.Select(r => new RevisionView(
                r.Number, r.Parent, r.Number == plan.Head, r.CreatedBy, r.CreatedAt, r.ReleasedBy, r.ReleasedAt,
                r.Parent is { } parent ? PlanChange.Between(plans.Parsed(bodies[parent]), plans.Parsed(r)) : [],
                issued.GetValueOrDefault(r.Number))),
        ];
    }

    /// <summary>A revision's plan; null: the one in force.</summary>
    public async Task<InspectionPlan> AtAsync(Guid partId, int? number, CancellationToken cancel)
    {
        var plan = await PlanAsync(partId, cancel);
        return plans.Parsed(await RevisionAsync(plan, number ?? plan.Head, cancel));
    }

    /// <summary>Goes back: an earlier revision's plan becomes a new revision, so that nothing in between is lost.</summary>
    public async Task<StoredPlan> ReturnAsync(Guid partId, int basedOn, int number, string who, CancellationToken cancel) =>
        await plans.SaveAsync(partId, basedOn, await AtAsync(partId, number, cancel), who, cancel);

    /// <summary>Takes a plan from a file, of this version or an earlier one.</summary>
    /// <exception cref="BadInputException">Not a plan, or one for another nominal; names the file.</exception>
    public async Task<StoredPlan> LoadAsync(
        Guid partId, int basedOn, string fileName, string json, string who, CancellationToken cancel) =>
        await TakeAsync(partId, basedOn, InspectionPlan.Parse(json, fileName), fileName, who, cancel);

    /// <summary>Takes the plan in force of another part.</summary>
    /// <exception cref="BadInputException">It names faces that this part's nominal does not have.</exception>
    public async Task<StoredPlan> CopyAsync(Guid partId, int basedOn, Guid from, string who, CancellationToken cancel)
    {
        var body = await AtAsync(from, null, cancel);
        return await TakeAsync(partId, basedOn, body, $"the plan of {body.Part}", who, cancel);
    }

    /// <summary>Marks a revision as released for use.</summary>
    public async Task<IReadOnlyList<RevisionView>> ReleaseAsync(Guid partId, int number, string who, CancellationToken cancel)
    {
        var plan = await PlanAsync(partId, cancel);
        var revision = await context.PlanRevisions.SingleOrDefaultAsync(r => r.PlanId == plan.Id && r.Number == number, cancel)
            ?? throw Missing(number);
        if (revision.ReleasedAt is null)
        {
            (revision.ReleasedBy, revision.ReleasedAt) = (who, DateTimeOffset.UtcNow);
            context.Record(who, "released the plan", $"plan of {plans.Parsed(revision).Part}", $"revision {number}");
            await context.SaveChangesAsync(cancel);
            await EventHub.NotifyAsync(context, new("plan", plan.Id, plan.PartId), cancel);
        }

        return await RevisionsAsync(partId, null, cancel);
    }

    /// <summary>What can be asked of picked features, and of faces picked on the part's nominal.</summary>
    public async Task<IReadOnlyList<Proposal>> ProposeAsync(
        Guid partId, IReadOnlyList<int> faces, IReadOnlyList<string> features, CancellationToken cancel) =>
        Proposals.For(await NominalAsync(partId, cancel), await AtAsync(partId, null, cancel), faces, features);

    /// <summary>What the part's nominal proposes to its plan, perhaps with a table of its drawing.</summary>
    /// <param name="sources">Null: what there is.</param>
    public async Task<PlanProposal> ProposalAsync(
        Guid partId, IReadOnlyList<ProposalSource>? sources, DrawingTable? table, CancellationToken cancel)
    {
        var nominal = await NominalAsync(partId, cancel);
        return PlanProposal.Of(
            nominal, await AtAsync(partId, null, cancel), sources ?? PlanProposal.Usual(nominal, table is not null), table);
    }

    /// <summary>All characteristics of a plan as its drawing would write them.</summary>
    public async Task<IReadOnlyList<DrawnText>> AsDrawnAsync(Guid partId, CancellationToken cancel) =>
        AsDrawn.Of(await NominalAsync(partId, cancel), await AtAsync(partId, null, cancel));

    /// <summary>A characteristic as a text written as on a drawing changes it; it is not saved.</summary>
    public async Task<CharacteristicPlan> WriteAsync(Guid partId, CharacteristicPlan row, string text, CancellationToken cancel) =>
        AsDrawn.Changed(await NominalAsync(partId, cancel), await AtAsync(partId, null, cancel), row, text);

    /// <summary>What can be constructed from features of the part's plan.</summary>
    public async Task<IReadOnlyList<ConstructionOffer>> OfferAsync(
        Guid partId, IReadOnlyList<string> features, CancellationToken cancel) =>
        ConstructionOffers.For(await NominalAsync(partId, cancel), await AtAsync(partId, null, cancel), features);

    /// <summary>The feature that faces picked on the part's nominal make.</summary>
    public async Task<FeaturePlan> FeatureAsync(Guid partId, IReadOnlyList<int> faces, CancellationToken cancel) =>
        Proposals.FeatureOf(await NominalAsync(partId, cancel), await AtAsync(partId, null, cancel), faces);

    /// <summary>The edges of a sheet that faces picked on the part's nominal make.</summary>
    public async Task<IReadOnlyList<FeaturePlan>> EdgesAsync(Guid partId, IReadOnlyList<int> faces, CancellationToken cancel) =>
        EdgeOffers.For(await NominalAsync(partId, cancel), await AtAsync(partId, null, cancel), faces);

    /// <summary>All features like a face picked on the part's nominal that the plan has not.</summary>
    public async Task<IReadOnlyList<FeaturePlan>> AlikeAsync(Guid partId, int face, int? edgeOf, CancellationToken cancel) =>
        FeaturesAlike.Of(await NominalAsync(partId, cancel), await AtAsync(partId, null, cancel), face, edgeOf);

    private async Task<NominalModel> NominalAsync(Guid partId, CancellationToken cancel)
    {
        var sha = await context.Parts.AsNoTracking().Where(p => p.Id == partId).Select(p => p.Nominal!.ModelSha)
            .SingleOrDefaultAsync(cancel) ?? throw new NotFoundException("This part has no nominal yet.");
        return (await meshes.RunnerAsync(sha, cancel)).Nominal;
    }

    private async Task<StoredPlan> TakeAsync(
        Guid partId, int basedOn, InspectionPlan body, string name, string who, CancellationToken cancel)
    {
        var part = await context.Parts.AsNoTracking().SingleOrDefaultAsync(p => p.Id == partId, cancel)
            ?? throw new NotFoundException("There is no such part.");
        if (part.NominalId is not null)
        {
            body.CheckFaces(await NominalAsync(partId, cancel), name);
        }

        return await plans.SaveAsync(partId, basedOn, body with { Part = part.Number, Revision = part.Revision }, who, cancel);
    }

    private async Task<Plan> PlanAsync(Guid partId, CancellationToken cancel) =>
        await context.Plans.AsNoTracking().SingleOrDefaultAsync(p => p.PartId == partId, cancel)
        ?? throw new NotFoundException("There is no such part.");

    private async Task<PlanRevision> RevisionAsync(Plan plan, int number, CancellationToken cancel) =>
        await context.PlanRevisions.AsNoTracking().SingleOrDefaultAsync(r => r.PlanId == plan.Id && r.Number == number, cancel)
        ?? throw Missing(number);

    private static NotFoundException Missing(int number) => new($"The plan has no revision {number}.");
}
