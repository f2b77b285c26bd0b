namespace Bostel.Core.Plans;

/// <summary>One thing that differs between two revisions of a plan.</summary>
/// <param name="Section">The station it belongs to.</param>
/// <param name="Key">What it is about, as in <see cref="PlanLine"/>.</param>
/// <param name="Before">What was said of it; null: it is new.</param>
/// <param name="After">What is said of it now; null: it was removed.</param>
public sealed record PlanChange(string Section, string Key, string? Before, string? After)
{
    /// <summary>The change as a sentence.</summary>
    public string Words => (Before, After) switch
    {
        (null, _) => $"{Key} added: {After}",
        (_, null) => $"{Key} removed: {Before}",
        _ => $"{Key}: {Before} → {After}",
    };

    /// <summary>What a plan says otherwise than an earlier one, in the order of the work.</summary>
    public static IReadOnlyList<PlanChange> Between(InspectionPlan before, InspectionPlan after)
    {
        var (old, now) = (PlanWords.Of(before), PlanWords.Of(after));
        var oldByKey = old.ToDictionary(l => (l.Section, l.Key), l => l.Words);
        var nowKeys = now.Select(l => (l.Section, l.Key)).ToHashSet();
        return
        [
            .. old.Where(l => !nowKeys.Contains((l.Section, l.Key))).Select(l => new PlanChange(l.Section, l.Key, l.Words, null)),
            .. now.Select(l => new PlanChange(l.Section, l.Key, oldByKey.GetValueOrDefault((l.Section, l.Key)), l.Words))
                .Where(c => c.Before != c.After),
        ];
    }
}
