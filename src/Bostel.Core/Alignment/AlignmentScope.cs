using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>
/// The six motions of a rigid body: shifts along the nominal's axes, and turns about axes parallel to them through the middle of its box.
/// </summary>
[JsonConverter(typeof(JsonStringEnumConverter<Motion>))]
public enum Motion
{
    [JsonStringEnumMemberName("turn-x")]
    TurnX,

    [JsonStringEnumMemberName("turn-y")]
    TurnY,

    [JsonStringEnumMemberName("turn-z")]
    TurnZ,

    [JsonStringEnumMemberName("shift-x")]
    ShiftX,

    [JsonStringEnumMemberName("shift-y")]
    ShiftY,

    [JsonStringEnumMemberName("shift-z")]
    ShiftZ,
}

/// <summary>What a fine alignment may use and move. The default uses all surfaces alike and moves freely.</summary>
public sealed record AlignmentScope
{
    public static readonly AlignmentScope Everything = new();

    /// <summary>Motions that keep their start value.</summary>
    public IReadOnlyList<Motion> Locked { get; init; } = [];

    /// <summary>One weight of 0 or more a triangle of the nominal; 0 leaves it out. Null: all alike.</summary>
    public double[]? TriangleWeights { get; init; }

    internal bool IsEverything => Locked.Count == 0 && TriangleWeights is null;

    internal double WeightOf(int triangle) => TriangleWeights?[triangle] ?? 1;

    /// <summary>Indices of the free motions in the order turns, shifts.</summary>
    internal int[] Free => [.. Enumerable.Range(0, 6).Where(i => !Locked.Contains((Motion)i))];

    /// <summary>Takes locked motions out of what a pose has moved since its start.</summary>
    internal RigidTransform Held(RigidTransform pose, RigidTransform start, Vector3D center)
    {
        if (Locked.Count == 0)
        {
            return pose;
        }

        var moved = pose.After(start.Inverse());
        var turn = moved.RotationVector();
        var shift = moved.Apply(center) - center;
        double Keep(Motion motion, double value) => Locked.Contains(motion) ? 0 : value;
        return RigidTransform.FromTwist(
            new(Keep(Motion.TurnX, turn.X), Keep(Motion.TurnY, turn.Y), Keep(Motion.TurnZ, turn.Z)),
            new(Keep(Motion.ShiftX, shift.X), Keep(Motion.ShiftY, shift.Y), Keep(Motion.ShiftZ, shift.Z)), center).After(start);
    }

    /// <summary>A motion as plans write it: "shift-x" or "turn-z".</summary>
    public static string NameOf(Motion motion) => JsonNamingPolicy.KebabCaseLower.ConvertName(motion.ToString());

    /// <exception cref="BadInputException">The name of none.</exception>
    public static Motion MotionNamed(string name) =>
        Enum.GetValues<Motion>().Cast<Motion?>().FirstOrDefault(m => NameOf(m!.Value) == name)
        ?? throw new BadInputException($"locked: '{name}' is not one of {string.Join(", ", Enum.GetValues<Motion>().Select(NameOf))}.");
}
