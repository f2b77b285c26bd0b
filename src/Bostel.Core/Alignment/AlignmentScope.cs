using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>
/// The six motions of a rigid body: shifts along the nominal's axes, and turns about axes parallel to them through the middle of its box.
/// </summary>
[Flags]
public enum Motions
{
    None = 0,
    TurnX = 1,
    TurnY = 2,
    TurnZ = 4,
    ShiftX = 8,
    ShiftY = 16,
    ShiftZ = 32,
}

/// <summary>What a fine alignment may use and move. The default uses all surfaces alike and moves freely.</summary>
public sealed record AlignmentScope
{
    public static readonly AlignmentScope Everything = new();

    /// <summary>Motions that keep their start value.</summary>
    public Motions Locked { get; init; }

    /// <summary>One weight of 0 or more a triangle of the nominal; 0 leaves it out. Null: all alike.</summary>
    public double[]? TriangleWeights { get; init; }

    internal double WeightOf(int triangle) => TriangleWeights?[triangle] ?? 1;

    /// <summary>Indices of the free motions in the order turns, shifts.</summary>
    internal int[] Free => [.. Enumerable.Range(0, 6).Where(i => ((int)Locked & (1 << i)) == 0)];

    /// <summary>Takes locked motions out of what a pose has moved since its start.</summary>
    internal RigidTransform Held(RigidTransform pose, RigidTransform start, Vector3D center)
    {
        if (Locked == Motions.None)
        {
            return pose;
        }

        var moved = pose.After(start.Inverse());
        var turn = moved.RotationVector();
        var shift = moved.Apply(center) - center;
        double Keep(int motion, double value) => ((int)Locked & (1 << motion)) == 0 ? value : 0;
        return RigidTransform.FromTwist(
            new(Keep(0, turn.X), Keep(1, turn.Y), Keep(2, turn.Z)), new(Keep(3, shift.X), Keep(4, shift.Y), Keep(5, shift.Z)), center)
                .After(start);
    }

    /// <summary>Reads names as "shift-x" or "turn-z".</summary>
    /// <exception cref="BadInputException">A name is not known.</exception>
    public static Motions ParseMotions(IEnumerable<string> names)
    {
        var motions = Motions.None;
        foreach (var name in names)
        {
            motions |= name switch
            {
                "turn-x" => Motions.TurnX,
                "turn-y" => Motions.TurnY,
                "turn-z" => Motions.TurnZ,
                "shift-x" => Motions.ShiftX,
                "shift-y" => Motions.ShiftY,
                "shift-z" => Motions.ShiftZ,
                _ => throw new BadInputException($"locked: '{name}' is not one of turn-x, turn-y, turn-z, shift-x, shift-y, shift-z."),
            };
        }

        return motions;
    }
}
