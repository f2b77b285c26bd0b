using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization.Metadata;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>Brings plans of earlier versions to the present one, so that what was stored stays readable.</summary>
public static class PlanUpgrade
{
    private static readonly Dictionary<string, (Action<JsonObject> Change, string To)> Upgrades = new()
    {
        ["bostel-plan/1"] = (SwitchToSteps, "bostel-plan/2"),
        ["bostel-plan/2"] = (PatchesAreNoEvidence, "bostel-plan/3"),
        ["bostel-plan/3"] = (EachKindItsOwnFields, "bostel-plan/4"),

        // Version 5 added constructions; a plan without any reads alike.
        ["bostel-plan/4"] = (_ => { }, "bostel-plan/5"),

        // Version 6 added edges of sheets; a plan without any reads alike.
        ["bostel-plan/5"] = (_ => { }, "bostel-plan/6"),

        // Version 7 added alignments under names; a plan without any reads alike.
        ["bostel-plan/6"] = (_ => { }, "bostel-plan/7"),

        // Version 8 added the drawing's standard and the shown unit, projected zones, tangent planes, common datums and datums that hold
        // the direction alone; a plan without any reads alike.
        ["bostel-plan/7"] = (_ => { }, "bostel-plan/8"),
        ["bostel-plan/8"] = (OnlyReleasedHoldsEverywhere, "bostel-plan/9"),
    };

    /// <summary>Changes the plan itself, step by step.</summary>
    public static JsonObject Apply(JsonObject plan)
    {
        while (Schema(plan) is { } schema && Upgrades.TryGetValue(schema, out var upgrade))
        {
            upgrade.Change(plan);
            plan["schema"] = upgrade.To;
        }

        return plan;
    }

    private static string? Schema(JsonObject plan) =>
        plan["schema"] is JsonValue value && value.TryGetValue<string>(out var schema) ? schema : null;

    /// <summary>
    /// Version 8 let a plan ask that only released revisions are issued; that holds everywhere now. Version 9 added copies.
    /// </summary>
    private static void OnlyReleasedHoldsEverywhere(JsonObject plan) => (plan["report"] as JsonObject)?.Remove("onlyReleased");

    /// <summary>Version 1 knew one preparing step, as a switch.</summary>
    private static void SwitchToSteps(JsonObject plan)
    {
        if (plan["prepare"] is JsonObject prepare && prepare.Remove("dropLoosePieces", out var drop))
        {
            prepare["steps"] = drop?.GetValueKind() == JsonValueKind.False
                ? new JsonArray()
                : new JsonArray(new JsonObject { ["kind"] = "keep-part" });
        }
    }

    /// <summary>Version 2 let a filling step count its patches as measured; a guess is no evidence, so the field is gone.</summary>
    private static void PatchesAreNoEvidence(JsonObject plan)
    {
        foreach (var step in Members(plan["prepare"]?["steps"]))
        {
            step.Remove("measured");
        }
    }

    /// <summary>
    /// Up to version 3 every characteristic, step, selection and alignment had the fields of all kinds, of which only its own counted;
    /// and the name of an angle did not say its unit.
    /// </summary>
    private static void EachKindItsOwnFields(JsonObject plan)
    {
        foreach (var row in Members(plan["characteristics"]))
        {
            KeepOwn<CharacteristicPlan>(row, "kind", null);
        }

        foreach (var step in Members(plan["prepare"]?["steps"]))
        {
            KeepOwn<PrepareStep>(step, "kind", null);
            foreach (var term in Members(step["selection"]))
            {
                SayDegrees(term, "angle");
                KeepOwn<SelectionTerm>(term, "kind", null);
            }
        }

        SayDegrees(plan["compare"] as JsonObject, "maxAngle");

        if (plan["align"] is JsonObject align)
        {
            KeepOwn<AlignPlan>(align, "method", "all-surfaces");
        }

        if (plan["decision"] is JsonObject decision)
        {
            KeepOwn<DecisionRule>(decision, "rule", "iso-14253-1");
        }
    }

    private static void SayDegrees(JsonObject? member, string angle)
    {
        if (member?.Remove(angle, out var degrees) == true)
        {
            member[$"{angle}Degrees"] = degrees;
        }
    }

    /// <summary>Takes away the fields that only other members of its set have; what no member has stays, to be refused.</summary>
    private static void KeepOwn<T>(JsonObject member, string discriminator, string? usual)
    {
        if (usual is not null && !member.ContainsKey(discriminator))
        {
            member.Insert(0, discriminator, usual);
        }

        var set = InspectionPlan.Json.GetTypeInfo(typeof(T)).PolymorphismOptions!.DerivedTypes
            .ToDictionary(d => (string)d.TypeDiscriminator!, d => FieldsOf(d.DerivedType));
        if (member[discriminator] is JsonValue value && value.TryGetValue<string>(out var kind) && set.TryGetValue(kind, out var own))
        {
            foreach (var field in set.Values.SelectMany(f => f).Except(own).Where(member.ContainsKey).ToList())
            {
                member.Remove(field);
            }
        }
    }

    private static HashSet<string> FieldsOf(Type type)
    {
        var info = InspectionPlan.Json.GetTypeInfo(type);
        return info.Kind == JsonTypeInfoKind.Object ? [.. info.Properties.Select(p => p.Name)] : [];
    }

    private static IEnumerable<JsonObject> Members(JsonNode? list) => (list as JsonArray)?.OfType<JsonObject>() ?? [];
}
