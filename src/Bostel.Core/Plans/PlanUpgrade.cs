using System.Text.Json.Nodes;

namespace Bostel.Core.Plans;

/// <summary>Brings plans of earlier versions to the present one, so that what was stored stays readable.</summary>
internal static class PlanUpgrade
{
    public static JsonObject Apply(JsonObject plan)
    {
        if (Schema(plan) == "bostel-plan/1")
        {
            SwitchToSteps(plan);
            plan["schema"] = "bostel-plan/2";
        }

        if (Schema(plan) == "bostel-plan/2")
        {
            PatchesAreNoEvidence(plan);
            plan["schema"] = InspectionPlan.Version;
        }

        return plan;
    }

    private static string? Schema(JsonObject plan) =>
        plan["schema"] is JsonValue value && value.TryGetValue<string>(out var schema) ? schema : null;

    /// <summary>Version 1 knew one preparing step, as a switch.</summary>
    private static void SwitchToSteps(JsonObject plan)
    {
        if (plan["prepare"] is JsonObject prepare && prepare.Remove("dropLoosePieces", out var drop))
        {
            prepare["steps"] = drop?.GetValueKind() == System.Text.Json.JsonValueKind.False
                ? new JsonArray()
                : new JsonArray(new JsonObject { ["kind"] = "keep-part" });
        }
    }

    /// <summary>Version 2 let a filling step count its patches as measured; a guess is no evidence, so the field is gone.</summary>
    private static void PatchesAreNoEvidence(JsonObject plan)
    {
        if (plan["prepare"] is JsonObject prepare && prepare["steps"] is JsonArray steps)
        {
            foreach (var step in steps.OfType<JsonObject>())
            {
                step.Remove("measured");
            }
        }
    }
}
