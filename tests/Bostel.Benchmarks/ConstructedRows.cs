using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Benchmarks;

/// <summary>What can be constructed from the features of a trial plan, and everything that can be asked of it.</summary>
internal static class ConstructedRows
{
    /// <summary>So many of each kind of construction, and so many rows of each kind asked of one.</summary>
    private const int MostOfKind = 2;

    /// <summary>Features are taken together two and three at a time, from so many first ones of the plan.</summary>
    private const int MostInPairs = 8, MostInTriples = 6;

    public static InspectionPlan Added(NominalModel nominal, InspectionPlan plan)
    {
        var ids = plan.Features.Select(f => f.Id).ToArray();
        foreach (var from in Groups(ids))
        {
            foreach (var offer in ConstructionOffers.For(nominal, plan, from))
            {
                if (plan.Constructions.Count(c => c.Kind == offer.Construction.Kind) < MostOfKind)
                {
                    plan = plan with { Constructions = [.. plan.Constructions, offer.Construction] };
                }
            }
        }

        foreach (var construction in plan.Constructions)
        {
            IEnumerable<string[]> asked = [[construction.Id], .. ids.Take(3).Select(id => new[] { construction.Id, id })];
            foreach (var row in asked.SelectMany(features => Proposals.For(nominal, plan, [], features)).Select(p => p.Characteristic)
                .GroupBy(c => c.Kind).SelectMany(kind => kind.Take(MostOfKind)))
            {
                plan = plan with { Characteristics = [.. plan.Characteristics, Wide(row, plan.Characteristics.Count + 1)] };
            }
        }

        return plan;
    }

    /// <summary>Limits that no value meets: only the value and its uncertainty count here.</summary>
    public static CharacteristicPlan Wide(CharacteristicPlan row, int no) => (row with { No = no, LeastCoverage = 0 }) switch
    {
        DimensionalPlan d => d with { Nominal = d.Nominal ?? 0, Lower = -1, Upper = 1 },
        GeometricalPlan g => g with { Tolerance = 1 },
        var other => other,
    };

    private static IEnumerable<string[]> Groups(string[] ids)
    {
        foreach (var id in ids)
        {
            yield return [id];
        }

        for (var i = 0; i < Math.Min(ids.Length, MostInPairs); i++)
        {
            for (var j = 0; j < i; j++)
            {
                yield return [ids[j], ids[i]];
                for (var k = 0; k < j && i < MostInTriples; k++)
                {
                    yield return [ids[k], ids[j], ids[i]];
                }
            }
        }
    }
}
