using System.Text.Json.Nodes;

namespace Bostel.Core.Plans;

/// <summary>Brings plans of earlier versions to the present one, so that what was stored stays readable.</summary>
internal static class PlanUpgrade
{
    /// <summary>Version 1 knew one preparing step, as a switch.</summary>
    public static JsonObject Apply(JsonObject plan)
    {
        if (plan["schema"]?.GetValueKind() == System.Text.Json.JsonValueKind.String && (string?)plan["schema"] == "bostel-plan/1")
        {
            plan["schema"] = InspectionPlan.Version;
            if (plan["prepare"] is JsonObject prepare && prepare.Remove("dropLoosePieces", out var drop))
            {
                prepare["steps"] = drop?.GetValueKind() == System.Text.Json.JsonValueKind.False ? new JsonArray() : new JsonArray(new JsonObject { ["kind"] = "keep-part" });
            }
        }

        return plan;
    }
}
