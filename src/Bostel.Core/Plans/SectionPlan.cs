using Bostel.Core.Geometry;

namespace Bostel.Core.Plans;

/// <summary>A plane in which every piece is cut and held against its nominal; nominal coordinates, mm.</summary>
/// <param name="Name">One of its own among the sections of the plan.</param>
/// <param name="Point">Any point of the plane.</param>
/// <param name="Normal">From where the cut is seen; need not be of length 1.</param>
public sealed record SectionPlan(string Name, double[] Point, double[] Normal)
{
    /// <summary>Of one plan.</summary>
    public const int Most = 60;

    private const double MostTimes = 1e6;

    /// <summary>Strokes of deviation are drawn so many times as long as they are; null: so that the longest is well seen.</summary>
    public double? Exaggeration { get; init; }

    internal Plane3D Plane() => new(Vector3D.FromArray(Point), Vector3D.FromArray(Normal).Normalized());

    /// <exception cref="BadInputException">It is no plane, has no name, or a scale that draws nothing.</exception>
    internal void Check(string name)
    {
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > InspectionPlan.MostName)
        {
            throw new BadInputException($"{name}: a section has a name of at most {InspectionPlan.MostName} characters.");
        }

        static bool Three(double[]? v) => v is { Length: 3 } && v.All(double.IsFinite);
        if (!Three(Point) || !Three(Normal) || !(Vector3D.FromArray(Normal).LengthSquared > 0))
        {
            throw new BadInputException($"{name}: section '{Name}': point and normal are three numbers each, and the normal has a length.");
        }

        if (Exaggeration is { } times && !(times is > 0 and <= MostTimes))
        {
            throw new BadInputException($"{name}: section '{Name}': exaggeration must be above 0 and at most {MostTimes:0}.");
        }
    }
}
