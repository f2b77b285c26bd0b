using System.Text.Json.Serialization;

namespace Bostel.Core.Plans;

/// <summary>What a label says.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<LabelContent>))]
public enum LabelContent
{
    [JsonStringEnumMemberName("name")]
    Name,

    [JsonStringEnumMemberName("value")]
    Value,

    [JsonStringEnumMemberName("limits")]
    Limits,

    /// <summary>By how much the value lies beyond the nearer limit, where it does.</summary>
    [JsonStringEnumMemberName("beyond")]
    Beyond,
}

/// <summary>A label pinned at a place of the nominal, mm. What it reads is found on every piece anew.</summary>
public sealed record LabelPlan(double[] Point)
{
    public const int MostName = 40;

    private const double MostRadius = 1000;

    public string Name { get; init; } = "";

    /// <summary>It reads the mean within this distance of its place, mm; null: the nearest point.</summary>
    public double? Radius { get; init; }

    /// <exception cref="BadInputException">The place is not one, or the radius or the name is impossible.</exception>
    internal void Check(string name)
    {
        if (Point is not { Length: 3 } || !Point.All(double.IsFinite))
        {
            throw new BadInputException($"{name}: a label's point is three numbers.");
        }

        if (Name.Length > MostName || (Radius is { } radius && !(radius is > 0 and <= MostRadius)))
        {
            throw new BadInputException(
                $"{name}: a label's name has at most {MostName} characters, its radius is above 0 and at most {MostRadius:0} mm.");
        }
    }
}
