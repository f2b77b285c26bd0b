using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>A plan as stored: its revision number, whether it can be undone or redone, who released it.</summary>
public sealed record StoredPlan(int Number, bool CanUndo, bool CanRedo, string? ReleasedBy, InspectionPlan Plan);

/// <summary>Plan revisions: every edit is kept; undo and redo move the head; an edit based on an older head is refused.</summary>
public sealed class PlanService(BostelContext context, MeshCache cache)
{
    public async Task<StoredPlan> GetAsync(Guid partId, CancellationToken cancel = default)
    {
        var plan = await context.Plans.AsNoTracking().SingleOrDefaultAsync(p => p.PartId == partId, cancel)
            ?? throw new NotFoundException("There is no such part.");
        return await DescribeAsync(plan, cancel);
    }

    /// <summary>Whether an approver released the revision in force.</summary>
    public static Task<bool> IsReleasedAsync(BostelContext context, Guid partId, CancellationToken cancel) =>
        context.Plans.Where(p => p.PartId == partId).AnyAsync(
            p => context.PlanRevisions.Any(r => r.PlanId == p.Id && r.Number == p.Head && r.ReleasedAt != null), cancel);

    /// <summary>A revision's plan, read once: revisions never change.</summary>
    public InspectionPlan Parsed(PlanRevision revision) => cache.Small($"plan/{revision.Id}", () => InspectionPlan.Parse(revision.Body));

    /// <exception cref="ConflictException">The plan has moved on since <paramref name="basedOn"/>.</exception>
    public async Task<StoredPlan> SaveAsync(Guid partId, int basedOn, InspectionPlan body, string who, CancellationToken cancel = default)
    {
        body.Check();
        body = await WithGeneralLimitsAsync(partId, body, cancel);
        var plan = await HeadAsync(partId, cancel);
        await RefuseStaleAsync(plan, basedOn, cancel);
        var number = 1 + await context.PlanRevisions.Where(r => r.PlanId == plan.Id).MaxAsync(r => r.Number, cancel);
        Add(plan, number, plan.Head, body, who);
        plan.Head = number;
        context.Record(who, "changed the plan", $"plan of {body.Part}", $"revision {number}");
        return await CommitAsync(plan, cancel);
    }

    public async Task<StoredPlan> UndoAsync(Guid partId, int basedOn, string who, CancellationToken cancel = default)
    {
        var plan = await HeadAsync(partId, cancel);
        await RefuseStaleAsync(plan, basedOn, cancel);
        var parent = await context.PlanRevisions.Where(r => r.PlanId == plan.Id && r.Number == plan.Head).Select(r => r.Parent)
            .SingleAsync(cancel);
        plan.Head = parent ?? throw new BadInputException("There is nothing to undo.");
        context.Record(who, "undid a change of the plan", $"part {partId}", $"back to revision {plan.Head}");
        return await CommitAsync(plan, cancel);
    }

    public async Task<StoredPlan> RedoAsync(Guid partId, int basedOn, string who, CancellationToken cancel = default)
    {
        var plan = await HeadAsync(partId, cancel);
        await RefuseStaleAsync(plan, basedOn, cancel);
        plan.Head = await NextAsync(plan, cancel) ?? throw new BadInputException("There is nothing to redo.");
        context.Record(who, "redid a change of the plan", $"part {partId}", $"forward to revision {plan.Head}");
        return await CommitAsync(plan, cancel);
    }

    /// <summary>The first, empty plan of a new part, or a given one.</summary>
    public void Create(Part part, InspectionPlan body, string who)
    {
        var plan = new Plan { Id = Guid.NewGuid(), PartId = part.Id, Head = 1 };
        context.Plans.Add(plan);
        Add(plan, 1, null, body, who);
    }

    /// <summary>With the limits that its general tolerances give on the part's nominal, where there is one.</summary>
    private async Task<InspectionPlan> WithGeneralLimitsAsync(Guid partId, InspectionPlan body, CancellationToken cancel)
    {
        if (body.General is null || !body.Characteristics.Any(c => c.General))
        {
            return body;
        }

        var model = await context.Parts.Where(p => p.Id == partId).Select(p => p.Nominal!.ModelSha).SingleOrDefaultAsync(cancel);
        return model is null ? body : body.WithGeneralLimits((await cache.RunnerAsync(model, cancel)).Nominal);
    }

    private void Add(Plan plan, int number, int? parent, InspectionPlan body, string who) => context.PlanRevisions.Add(new()
    {
        Id = Guid.NewGuid(),
        PlanId = plan.Id,
        Number = number,
        Parent = parent,
        Body = body.ToJson(),
        CreatedBy = who,
        CreatedAt = DateTimeOffset.UtcNow,
    });

    private async Task<Plan> HeadAsync(Guid partId, CancellationToken cancel) =>
        await context.Plans.SingleOrDefaultAsync(p => p.PartId == partId, cancel) ?? throw new NotFoundException("There is no such part.");

    private Task<int?> NextAsync(Plan plan, CancellationToken cancel) =>
        context.PlanRevisions.Where(r => r.PlanId == plan.Id && r.Parent == plan.Head).MaxAsync(r => (int?)r.Number, cancel);

    private async Task<StoredPlan> DescribeAsync(Plan plan, CancellationToken cancel)
    {
        var head = await context.PlanRevisions.AsNoTracking().SingleAsync(r => r.PlanId == plan.Id && r.Number == plan.Head, cancel);
        return new(plan.Head, head.Parent is not null, await NextAsync(plan, cancel) is not null, head.ReleasedBy, Parsed(head));
    }

    private async Task RefuseStaleAsync(Plan plan, int basedOn, CancellationToken cancel)
    {
        if (plan.Head != basedOn)
        {
            var by = await context.PlanRevisions.Where(r => r.PlanId == plan.Id && r.Number == plan.Head).Select(r => r.CreatedBy)
                .SingleAsync(cancel);
            throw new ConflictException($"The plan was changed meanwhile by {by} (revision {plan.Head}); your change was based on "
                + $"revision {basedOn} and was not saved.");
        }
    }

    private async Task<StoredPlan> CommitAsync(Plan plan, CancellationToken cancel)
    {
        try
        {
            await context.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException e)
            when (e is DbUpdateConcurrencyException || e.InnerException is Npgsql.PostgresException { SqlState: "23505" })
        {
            throw new ConflictException("The plan was changed meanwhile by someone else; your change was not saved.");
        }

        await EventHub.NotifyAsync(context, new("plan", plan.Id, plan.PartId), cancel);
        return await DescribeAsync(plan, cancel);
    }
}
