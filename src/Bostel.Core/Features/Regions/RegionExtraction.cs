using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;
using Bostel.Core.Spatial;
using static System.FormattableString;

namespace Bostel.Core.Features;

/// <summary>Picks regions of a scan, and measures them on it and on the next.</summary>
public static class RegionExtraction
{
    /// <summary>Of diameters in mm and angles in degrees that count as nominal: drawings give no finer ones.</summary>
    private const int Decimals = 2;

    /// <summary>The surface under a place of the scan as a feature; its sizes as a drawing would give them, its place as it is.</summary>
    /// <param name="at">In nominal coordinates.</param>
    /// <param name="id">Which it gets, and its name.</param>
    /// <exception cref="BadInputException">No point is near, or no plane, cylinder, cone, sphere or torus is told there.</exception>
    public static FeaturePlan Pick(AlignedScan scan, Vector3D at, string id, string name)
    {
        var growth = new RegionGrowth(scan);
        var plan = new FeaturePlan(id, name, []);
        var seed = Seed(growth, plan, at);
        var fit = scan.Mesh.TriangleCount == 0 ? new CloudGrowth(scan.Mesh).Surface(seed, null)?.Fit
            : scan.Mesh.Rings.Of(seed) is [var corner, ..] ? new PickedSurface(scan.Mesh).At(corner / 3, null)?.Fit
            : null;
        if (fit is null)
        {
            throw new BadInputException("No plane, cylinder, cone, sphere or torus is told at that place of the scan.");
        }

        var (vertices, surface) = growth.From(seed, fit.Shape.Transformed(scan.Transform), plan.SearchDistance, fit.Scatter);
        if (vertices.Count < FeatureExtraction.FewestPoints)
        {
            throw new BadInputException("What lies at that place of the scan is too small to be measured.");
        }

        var meant = Meant(surface, FeatureExtraction.Coordinates(scan, vertices));
        return plan with { Region = ScanRegion.Of(FaceOf(scan, vertices, Rounded(meant)), at) };
    }

    /// <summary>A plane where a round surface hardly bends: the plane of a drawing, bowed by its making.</summary>
    private static Shape Meant(Shape surface, double[] points)
    {
        // A radius of fifty times the extent bows by a four-hundredth of it.
        const double Flat = 50;
        var radius = surface switch
        {
            Sphere3D s => s.Radius,
            Cylinder3D s => s.Radius,
            Torus3D s => s.MinorRadius,
            _ => 0,
        };
        return radius > Flat * Box3D.Of(points.Chunk(3).Select(Vector3D.FromArray)).Diagonal
            && LeastSquares.Try("plane", points).Fit is { } plane
            ? plane.Shape
            : surface;
    }

    /// <exception cref="BadInputException">Nothing of it is found on this scan, or too little.</exception>
    /// <param name="leaveOut">False: isolated points far off stay in.</param>
    internal static FeatureResult Measure(FeaturePlan plan, AlignedScan scan, bool leaveOut)
    {
        var region = plan.Region!.IsPossible ? plan.Region : throw new BadInputException($"{plan.Name}: its region is none.");
        var (growth, face) = (new RegionGrowth(scan), region.Face);
        var (vertices, _) = growth.From(Seed(growth, plan, Vector3D.FromArray(region.At)), face.Shape!, plan.SearchDistance);
        var distances = FromBorder(scan, vertices, growth.Border(vertices));
        var usual = Math.Max(0.5, 3 * scan.Beside.Spacing);
        var margin = plan.EdgeMargin ?? Math.Min(usual, FeatureExtraction.NarrowShare * distances.DefaultIfEmpty(0).Max());
        var within = vertices.ToHashSet();
        return FeatureExtraction.Fitted(plan, face, scan, [.. vertices.Where((_, i) => distances[i] > margin)], (margin, usual),
            leaveOut ? within.Contains : null) with
        {
            Coverage = Math.Min(1, vertices.Sum(scan.Beside.AreaOf) / region.Area),
        };
    }

    private static int Seed(RegionGrowth growth, FeaturePlan plan, Vector3D at)
    {
        var (vertex, distance) = growth.Nearest(at);
        return vertex >= 0 && distance <= 2 * plan.SearchDistance
            ? vertex
            : throw new BadInputException($"{plan.Name}: no point of the scan lies near "
                + Invariant($"({at.X:0.##}, {at.Y:0.##}, {at.Z:0.##}), ") + "where its region was picked; it cannot be measured.");
    }

    /// <summary>How far points lie from a border; endlessly far from none.</summary>
    private static double[] FromBorder(AlignedScan scan, List<int> vertices, List<int> border)
    {
        if (border.Count == 0)
        {
            return [.. vertices.Select(_ => double.PositiveInfinity)];
        }

        double[] rim = [.. border.SelectMany(v => scan.Mesh.Vertex(v).ToArray())];
        var tree = new PointTree(rim);
        return [.. vertices.Select(v => Vector3D.Distance(scan.Mesh.Vertex(v), Vector3D.At(rim, tree.Nearest(scan.Mesh.Vertex(v)))))];
    }

    private static NominalFace FaceOf(AlignedScan scan, List<int> vertices, Shape surface)
    {
        var within = vertices.ToHashSet();
        var aligned = scan.Mesh.Transformed(scan.Transform);
        var triangles = Enumerable.Range(0, scan.Mesh.TriangleCount)
            .Where(t => Enumerable.Range(3 * t, 3).All(h => within.Contains(scan.Mesh.Indices[h]))).ToList();
        if (triangles.Count > 0)
        {
            return NominalFaceBuilder.Build(-1, surface, aligned, triangles);
        }

        // Points without triangles: each stands for as much as its spacing.
        var center = vertices.Aggregate(Vector3D.Zero, (s, v) => s + (aligned.Vertex(v) / vertices.Count));
        var axis = NominalFaceBuilder.AxisOf(surface);
        var along = vertices.Select(v => axis is null ? 0 : (aligned.Vertex(v) - axis.Point).Dot(axis.Direction)).ToArray();
        return new(-1, surface.Kind, vertices.Sum(scan.Beside.AreaOf), false, along.Min(), along.Max(), 0, center)
        {
            Shape = surface is Plane3D plane ? plane with { Point = plane.Project(center) } : surface,
        };
    }

    private static Shape Rounded(Shape shape) => shape switch
    {
        Cylinder3D s => s with { Radius = Half(s.Radius) },
        Sphere3D s => s with { Radius = Half(s.Radius) },
        Torus3D s => s with { MajorRadius = Half(s.MajorRadius), MinorRadius = Half(s.MinorRadius) },
        Cone3D s => s with { HalfAngle = Math.Round(s.HalfAngle * 180 / Math.PI, Decimals) * Math.PI / 180 },
        _ => shape,
    };

    /// <summary>The radius of a diameter as a drawing gives it.</summary>
    private static double Half(double radius) => Math.Round(2 * radius, Decimals) / 2;
}
