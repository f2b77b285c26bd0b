using System.Text.Json.Serialization;

namespace Bostel.Core.Plans;

/// <summary>Which colours values go through, from what lies below to what lies above.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<RampKind>))]
public enum RampKind
{
    /// <summary>Told apart by who does not tell red from green.</summary>
    [JsonStringEnumMemberName("blue-rust")]
    BlueRust,

    /// <summary>Told apart by who does not tell blue from yellow.</summary>
    [JsonStringEnumMemberName("green-plum")]
    GreenPlum,

    /// <summary>Dark to light, for print and for who sees no colours.</summary>
    [JsonStringEnumMemberName("grey")]
    Grey,
}

/// <summary>The colours of all maps of a plan.</summary>
/// <param name="Steps">Steps of one colour each on either side of the middle; null: smooth.</param>
public sealed record RampPlan(RampKind Kind = RampKind.BlueRust, int? Steps = null)
{
    private const int MostSteps = 20;

    [JsonIgnore]
    public string Words => Kind switch
    {
        RampKind.BlueRust => "blue to rust",
        RampKind.GreenPlum => "green to plum",
        _ => "dark to light grey",
    } + (Steps is { } n ? $", {n} steps either side" : ", smooth");

    /// <exception cref="BadInputException">No number of steps.</exception>
    internal void Check(string name)
    {
        if (Steps is not (null or (>= 1 and <= MostSteps)))
        {
            throw new BadInputException($"{name}: steps must be from 1 to {MostSteps}.");
        }
    }
}
