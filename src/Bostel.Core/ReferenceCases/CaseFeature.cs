using System.Text.Json;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.ReferenceCases;

/// <summary>
/// A feature of a reference case: its points in measuring coordinates and, where the case has one, its nominal in those of the drawing.
/// </summary>
internal sealed class CaseFeature(string name, JsonElement json)
{
    public string Type { get; } = json.GetProperty("type").GetString()!;

    /// <summary>Whether the value comes from the points of a line given directly, and not of a surface.</summary>
    public bool IsLine => Type == "axis";

    public bool Internal { get; } = json.TryGetProperty("internal", out var inside) && inside.GetBoolean();

    /// <summary>3·N coordinates.</summary>
    public double[] Points { get; } = json.TryGetProperty("points", out var points) ? Coordinates(points)
        : json.TryGetProperty("sections", out var sections) ? [.. sections.EnumerateArray().SelectMany(Coordinates)]
        : json.TryGetProperty("pairs", out var pairs) ? [.. pairs.EnumerateArray().SelectMany(p => Middle(Coordinates(p)))]
        : [];

    /// <summary>Points section by section; null: the case has none.</summary>
    public IReadOnlyList<double[]>? Sections { get; } =
        json.TryGetProperty("sections", out var cut) ? [.. cut.EnumerateArray().Select(Coordinates)] : null;

    /// <summary>Distances of opposite points; null: the case has none.</summary>
    public double[]? PairSizes { get; } = json.TryGetProperty("pairs", out var opposite)
        ? [.. opposite.EnumerateArray().Select(Coordinates).Select(p => Vector3D.Distance(Vector3D.At(p, 0), Vector3D.At(p, 1)))]
        : null;

    /// <summary>The points, and those of pairs one by one instead of their middles.</summary>
    public double[] AllPoints => json.TryGetProperty("points", out _) || !json.TryGetProperty("pairs", out var pairs)
        ? Points
        : [.. pairs.EnumerateArray().SelectMany(Coordinates)];

    public IReadOnlyList<CaseFeature> Members { get; } = json.TryGetProperty("members", out var members)
        ? [.. members.EnumerateArray().Select((m, i) => new CaseFeature($"{name} {i + 1}", m))]
        : [];

    public double? Number(string key) => json.TryGetProperty(key, out var n) && n.ValueKind == JsonValueKind.Number ? n.GetDouble() : null;

    public Vector3D? Vector(string key) => json.TryGetProperty(key, out var v) ? Vec(v) : null;

    /// <summary>Nominal surface of a profile, its normal out of the material.</summary>
    public (Shape Shape, int Side)? NominalSurface
    {
        get
        {
            if (!json.TryGetProperty("nominal", out var n) || !n.TryGetProperty("type", out var type))
            {
                return null;
            }

            var inside = !n.TryGetProperty("materialInside", out var m) || m.GetBoolean() ? 1 : -1;
            return type.GetString() switch
            {
                "plane" => (new Plane3D(Vec(n.GetProperty("point")), Vec(n.GetProperty("normal")).Normalized()), 1),
                "cylinder" => (new Cylinder3D(
                    Vec(n.GetProperty("point")), Vec(n.GetProperty("axis")).Normalized(), n.GetProperty("radius").GetDouble()), inside),
                "sphere" => (new Sphere3D(Vec(n.GetProperty("center")), n.GetProperty("radius").GetDouble()), inside),
                _ => throw new BadInputException($"{name}: a nominal {type.GetString()} is not known."),
            };
        }
    }

    /// <summary>As it would be measured: associated by least squares.</summary>
    /// <exception cref="BadInputException">A kind that is not known, or points that do not determine it.</exception>
    public FeatureResult Measured()
    {
        var kind = Type switch
        {
            "surface" or "width" => "plane",
            "axis" => "line",
            "line" or "plane" or "circle" or "sphere" or "cylinder" or "cone" => Type,
            _ => throw new BadInputException($"{name}: a feature of type '{Type}' is not known."),
        };
        var normal = Vector("planeNormal");
        var fit = LeastSquares.Fit(kind, Points, new() { Normal = normal });
        var shape = fit.Shape is Plane3D plane && Vector("outward") is { } outward && plane.Normal.Dot(outward) < 0
            ? plane with { Normal = -plane.Normal }
            : fit.Shape;
        var (nominal, length) = Nominal(shape);
        var area = new double[Points.Length / 3];
        Array.Fill(area, 1.0);
        return new(new(name, name, [0]), new(0, kind, 1, Internal, 0, length, 2 * Math.PI, PointSums.Centroid(Points)) { Shape = nominal },
            shape, Points, fit.Residuals)
        { Areas = area };
    }

    private (Shape Shape, double Length) Nominal(Shape measured)
    {
        if (!json.TryGetProperty("nominal", out var n))
        {
            return (measured, 0);
        }

        if (n.TryGetProperty("start", out var start))
        {
            var (from, to) = (Vec(start), Vec(n.GetProperty("end")));
            var axis = (to - from).Normalized();
            return (measured is Cylinder3D ? new Cylinder3D(from, axis, n.GetProperty("radius").GetDouble()) : new Line3D(from, axis),
                (to - from).Length);
        }

        return n.TryGetProperty("center", out var center)
            ? (new Sphere3D(Vec(center), n.TryGetProperty("radius", out var r) ? r.GetDouble() : 0), 0)
            : n.TryGetProperty("direction", out var direction)
                ? (new Line3D(Vec(n.GetProperty("point")), Vec(direction).Normalized()), 0)
                : (new Plane3D(Vec(n.GetProperty("point")), Vec(n.GetProperty("normal")).Normalized()), 0);
    }

    private static double[] Middle(double[] pair) => ((Vector3D.At(pair, 0) + Vector3D.At(pair, 1)) / 2).ToArray();

    private static double[] Coordinates(JsonElement points) =>
        [.. points.EnumerateArray().SelectMany(p => p.EnumerateArray().Select(v => v.GetDouble()))];

    private static Vector3D Vec(JsonElement e) => new(e[0].GetDouble(), e[1].GetDouble(), e[2].GetDouble());
}
