using System.Text.Json.Nodes;
using Bostel.Core.Features;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>Names what a plan calls by a kind that there is not, before the parts are read by their kinds.</summary>
internal static class PlanKinds
{
    /// <returns>The plan itself.</returns>
    /// <exception cref="BadInputException">Names the place and the kinds that there are.</exception>
    public static JsonObject Checked(JsonObject plan, string name)
    {
        foreach (var (row, i) in Members(plan["characteristics"]))
        {
            Check<CharacteristicPlan>(row, "kind", $"{name}: characteristic {row["no"]?.ToString() ?? $"{i + 1}"}");
        }

        foreach (var (made, i) in Members(plan["constructions"]))
        {
            Check<ConstructionPlan>(made, "kind", $"{name}: construction {made["name"]?.ToString() ?? $"{i + 1}"}");
        }

        foreach (var (step, i) in Members(plan["prepare"]?["steps"]))
        {
            Check<PrepareStep>(step, "kind", $"{name}: prepare step {i + 1}");
            foreach (var (term, t) in Members(step["selection"]))
            {
                Check<SelectionTerm>(term, "kind", $"{name}: prepare step {i + 1}, selection {t + 1}");
            }
        }

        if (plan["align"] is JsonObject align)
        {
            Check<AlignPlan>(align, "method", $"{name}: align");
        }

        foreach (var (map, i) in Members(plan["compare"]?["maps"]))
        {
            Check<MapPlan>(map, "kind", $"{name}: map {map["name"]?.ToString() ?? $"{i + 1}"}");
        }

        foreach (var (named, i) in Members(plan["alignments"]))
        {
            var where = $"{name}: alignment {named["name"]?.ToString() ?? $"{i + 1}"}";
            if (named["align"] is not JsonObject way)
            {
                throw new BadInputException($"{where}: align, the way of aligning, is missing.");
            }

            Check<AlignPlan>(way, "method", where);
        }

        foreach (var (block, i) in Members(plan["report"]?["blocks"]))
        {
            Check<ReportBlock>(block, "kind", $"{name}: report, part {i + 1}");
        }

        foreach (var (copy, i) in Members(plan["report"]?["copies"]))
        {
            Check<CopyPlan>(copy, "kind", $"{name}: report, copy {i + 1}");
        }

        if (plan["decision"] is JsonObject decision)
        {
            Check<DecisionRule>(decision, "rule", $"{name}: decision");
        }

        return plan;
    }

    private static void Check<T>(JsonObject member, string field, string where)
    {
        var kind = member[field]?.ToString();
        if (kind is null || !Kinds.Of<T>().Contains(kind))
        {
            throw new BadInputException($"{where}: the {field} '{kind}' is not one of {string.Join(", ", Kinds.Of<T>())}.");
        }
    }

    private static IEnumerable<(JsonObject Member, int Index)> Members(JsonNode? list) =>
        (list as JsonArray)?.Select((n, i) => (n as JsonObject, i)).Where(m => m.Item1 is not null).Select(m => (m.Item1!, m.i)) ?? [];
}
