using System.Reflection;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using System.Xml.Linq;

namespace Bostel.Core.Plans;

/// <summary>
/// The JSON schema of a plan. What a field means, and its unit, is said once, in the documentation of the code: the compiler writes it
/// beside the program, and here it becomes the description of the field.
/// </summary>
internal static class PlanSchema
{
    public static JsonNode Write()
    {
        var docs = Path.ChangeExtension(typeof(InspectionPlan).Assembly.Location, ".xml");
        var members = File.Exists(docs)
            ? XDocument.Load(docs).Descendants("member").ToDictionary(m => m.Attribute("name")!.Value)
            : [];
        var whole = Plain(members.GetValueOrDefault($"T:{typeof(InspectionPlan).FullName}")?.Element("summary"));
        return InspectionPlan.Json.GetJsonSchemaAsNode(typeof(InspectionPlan), new()
        {
            TransformSchemaNode = (context, node) =>
            {
                var said = context.PropertyInfo?.AttributeProvider is MemberInfo property ? SaidOf(property, members)
                    : context.Path.Length == 0 ? whole : null;
                if (said is not null && node is JsonObject schema)
                {
                    schema["description"] = said;
                }

                return node;
            },
        });
    }

    /// <summary>A property has a summary of its own, or is a parameter of its record.</summary>
    private static string? SaidOf(MemberInfo property, Dictionary<string, XElement> members)
    {
        var type = property.DeclaringType!.FullName!.Replace('+', '.');
        return Plain(members.GetValueOrDefault($"P:{type}.{property.Name}")?.Element("summary")
            ?? members.GetValueOrDefault($"T:{type}")?.Elements("param").FirstOrDefault(p => p.Attribute("name")?.Value == property.Name));
    }

    private static string? Plain(XElement? said) => said is null ? null : string.Join(' ', string.Concat(said.Nodes().Select(TextOf)).Split(
        (char[]?)null, StringSplitOptions.RemoveEmptyEntries));

    /// <summary>Words as they are; of what is referred to the last part of its name.</summary>
    private static string TextOf(XNode node) => node switch
    {
        XText text => text.Value,
        XElement { Value: "" } reference => (reference.Attribute("cref") ?? reference.Attribute("name"))?.Value.Split('.', ':')[^1] ?? "",
        XElement element => element.Value,
        _ => "",
    };
}
