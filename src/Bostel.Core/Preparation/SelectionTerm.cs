using System.Text.Json.Serialization;

namespace Bostel.Core.Preparation;

/// <summary>
/// One term of a selection, as a rule: it names places and sizes, never triangle numbers, so that it means the same on the next piece.
/// Terms are worked through in order; each adds to what is selected or takes away from it. Places are in nominal coordinates (mm) unless
/// <see cref="Frame"/> says "scan".
/// </summary>
/// <param name="Kind">lasso, brush, side, grow, surface, piece, beyond, pieces, loose, all, invert, widen or narrow.</param>
public sealed record SelectionTerm(string Kind)
{
    public static readonly IReadOnlyList<string> Kinds =
        ["lasso", "brush", "side", "grow", "surface", "piece", "beyond", "pieces", "loose", "all", "invert", "widen", "narrow"];

    /// <summary>"add" or "take".</summary>
    public string Op { get; init; } = "add";

    /// <summary>"nominal", or "scan" for a place in the scan's own coordinates, which does not carry over to another piece.</summary>
    public string Frame { get; init; } = "nominal";

    /// <summary>Seed of grow, surface and piece; a point of the plane of side; the origin of the plane a lasso is drawn in.</summary>
    public double[]? Point { get; init; }

    /// <summary>Normal of the plane of side: what lies ahead of it is selected. For a lasso: the direction toward the eye.</summary>
    public double[]? Normal { get; init; }

    /// <summary>The direction to the right in the plane of a lasso.</summary>
    public double[]? Right { get; init; }

    /// <summary>
    /// Corners of a lasso, x and y by turns, mm from the origin along right and up; or the points of a brush stroke, x y z by turns.
    /// </summary>
    public double[]? Path { get; init; }

    /// <summary>Of the brush, mm.</summary>
    public double? Radius { get; init; }

    /// <summary>Largest turn from a triangle to the next in grow, degrees.</summary>
    public double? Angle { get; init; }

    /// <summary>From the nominal in beyond; the half width of the band in surface; mm.</summary>
    public double? Distance { get; init; }

    /// <summary>Pieces with fewer triangles than this.</summary>
    public int? Triangles { get; init; }

    /// <summary>Pieces with less area than this, mm².</summary>
    public double? Area { get; init; }

    /// <summary>How many rows of triangles widen and narrow go.</summary>
    public int? Rows { get; init; }

    /// <summary>Whether a lasso takes what is hidden behind, too.</summary>
    public bool Through { get; init; }

    /// <exception cref="BadInputException">Names what is missing or wrong.</exception>
    public void Check(string where)
    {
        void Need(bool there, string field)
        {
            if (!there)
            {
                throw new BadInputException($"{where}: '{Kind}' needs {field}.");
            }
        }

        Need(Kinds.Contains(Kind), $"to be one of {string.Join(", ", Kinds)}");
        Need(Op is "add" or "take", "op to be add or take");
        Need(Frame is "nominal" or "scan", "frame to be nominal or scan");
        switch (Kind)
        {
            case "lasso":
                Need(IsVector(Point) && IsVector(Normal) && IsVector(Right), "point, normal and right");
                Need(Path is { Length: >= 6 } && Path.Length % 2 == 0 && Path.All(double.IsFinite), "a path of three corners or more");
                break;
            case "brush":
                Need(Path is { Length: >= 3 } && Path.Length % 3 == 0 && Path.All(double.IsFinite), "a path of points");
                Need(Radius > 0, "a radius above 0");
                break;
            case "side":
                Need(IsVector(Point) && IsVector(Normal), "point and normal");
                break;
            case "grow":
                Need(IsVector(Point) && Angle is > 0 and <= 90, "a point and an angle of up to 90°");
                break;
            case "surface" or "piece":
                Need(IsVector(Point), "a point");
                break;
            case "beyond":
                Need(Distance > 0, "a distance above 0");
                break;
            case "pieces":
                Need(Triangles > 0 || Area > 0, "a number of triangles or an area");
                break;
            case "widen" or "narrow":
                Need(Rows is >= 1 and <= 200, "rows from 1 to 200");
                break;
            default:
                break;
        }
    }

    /// <summary>Whether the term can only be worked out once the scan's pose on the nominal is known.</summary>
    [JsonIgnore]
    public bool NeedsPose => Kind == "beyond"
        || (Frame == "nominal" && Kind is "lasso" or "brush" or "side" or "grow" or "surface" or "piece");

    /// <summary>The same place in nominal coordinates, for a term drawn on the scan: then it means the same on the next piece.</summary>
    /// <param name="toNominal">Scan to nominal.</param>
    public SelectionTerm Anchored(Geometry.RigidTransform toNominal)
    {
        if (Frame != "scan")
        {
            return this;
        }

        double[]? At(double[]? p) => p is null ? null : toNominal.Apply(Geometry.Vector3D.FromArray(p)).ToArray();
        double[]? Turned(double[]? v) => v is null ? null : toNominal.Rotate(Geometry.Vector3D.FromArray(v)).ToArray();
        return this with
        {
            Frame = "nominal",
            Point = At(Point),
            Normal = Turned(Normal),
            Right = Turned(Right),
            Path = Kind == "brush" ? [.. Path!.Chunk(3).SelectMany(p => At(p)!)] : Path,
        };
    }

    private static bool IsVector(double[]? v) => v is { Length: 3 } && v.All(double.IsFinite);
}
