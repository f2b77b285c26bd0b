using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>
/// A straight or round run of a nominal's outline: so many of its points, from one on (around the end of a closed outline, the first
/// repeated at the end of a whole one).
/// </summary>
/// <param name="Shape">The line or circle of the section's plane.</param>
/// <param name="Face">Of the nominal, in its middle.</param>
/// <param name="Hollow">An arc whose centre lies out of the material.</param>
internal sealed record NominalRun(int From, int Count, Shape Shape, int Face, bool Hollow)
{
    /// <summary>Shorter ones are none, mm.</summary>
    private const double Shortest = 0.05;

    /// <summary>Points that lie nearer to a line are straight, mm: an outline's corners are exact but for rounding.</summary>
    private const double Straight = 1e-6;

    /// <summary>The nominal's outline runs over chords: they lie within so many chord errors of its lines and arcs, mm beside.</summary>
    private const double Chords = 1.5, LeastTolerance = 0.002;

    /// <summary>A cylinder cut nearer to square than this is cut into a circle, rad.</summary>
    private const double AlongAxis = 1e-6;

    /// <summary>Fewer points lie on some circle anyway.</summary>
    private const int FewestOfArc = 4;

    /// <summary>
    /// Runs end where the outline goes over to another surface of the nominal. A plane is cut into a line, a round face into a circle or a
    /// line; where it is neither, and on free forms, the run is taken apart by <see cref="OutlineParts"/>.
    /// </summary>
    /// <param name="surfaces">The surface of each face: faces of one cylinder are one.</param>
    public static IReadOnlyList<NominalRun> Of(SectionOutline outline, Vector3D normal, NominalModel nominal, int[] surfaces)
    {
        var segments = outline.Triangles.Length;
        int Surface(int segment) => surfaces[nominal.FaceOfTriangle[outline.Triangles[segment % segments]]];
        var borders = Enumerable.Range(0, segments)
            .Where(k => k == 0 ? !outline.Closed || Surface(segments - 1) != Surface(0) : Surface(k - 1) != Surface(k)).ToList();
        if (borders.Count == 0)
        {
            return Runs(outline, 0, segments + 1, normal, nominal);
        }

        return [.. borders.SelectMany((from, i) =>
        {
            var to = i + 1 < borders.Count ? borders[i + 1] : outline.Closed ? borders[0] + segments : segments;
            return Runs(outline, from, to - from + 1, normal, nominal);
        })];
    }

    /// <summary>Which surface each face belongs to.</summary>
    public static int[] Surfaces(NominalModel nominal)
    {
        var of = new int[nominal.Faces.Count];
        foreach (var (surface, i) in NominalFeatures.Find(nominal).Select((s, i) => (s, i)))
        {
            foreach (var face in surface.Faces)
            {
                of[face] = i;
            }
        }

        return of;
    }

    /// <summary>How far its points lie along it, from 0 to its length, mm.</summary>
    public double[] Along(SectionOutline outline)
    {
        var along = new double[Count];
        for (var k = 1; k < Count; k++)
        {
            along[k] = along[k - 1] + Vector3D.Distance(Point(outline, k), Point(outline, k - 1));
        }

        return along;
    }

    public Vector3D Point(SectionOutline outline, int k) => outline.Point((From + k) % outline.Count);

    private static IReadOnlyList<NominalRun> Runs(SectionOutline outline, int from, int count, Vector3D normal, NominalModel nominal)
    {
        Vector3D At(int k) => outline.Point((from + k) % outline.Count);
        var points = Enumerable.Range(0, count).Select(At).ToArray();
        if (Enumerable.Range(1, count - 1).Sum(k => Vector3D.Distance(points[k], points[k - 1])) < Shortest)
        {
            return [];
        }

        var chord = points[^1] - points[0];
        if (chord.Length > Shortest && new Line3D(points[0], chord.Normalized()) is var line
            && points.All(p => line.Distance(p) < Straight))
        {
            return [Made(new Line3D((points[0] + points[^1]) / 2, line.Direction), 0, count)];
        }

        var tolerance = LeastTolerance + (Chords * nominal.ChordError);
        double[] coordinates = [.. points.SelectMany(p => p.ToArray())];
        if (count >= FewestOfArc && LeastSquares.Try("circle", coordinates, new() { Normal = normal }).Fit is { } fit
            && fit.Residuals.All(r => Math.Abs(r) <= tolerance))
        {
            return [Made(Exact((Circle3D)fit.Shape, nominal, FaceAt(count / 2), normal), 0, count)];
        }

        var whole = count > outline.Count;
        var part = whole ? outline : new SectionOutline(coordinates, false);
        return [.. OutlineParts.Split(part, normal, tolerance).Select(p => Made(p.Fit.Shape, p.From, p.Count))];

        int FaceAt(int k) => nominal.FaceOfTriangle[outline.Triangles[(from + Math.Max(0, k - 1)) % outline.Triangles.Length]];

        NominalRun Made(Shape shape, int first, int many)
        {
            var middle = (from + first + (many / 2)) % outline.Count;
            var hollow = shape is Circle3D circle
                && SectionDeviation.OutwardAt(outline, middle, normal).Dot(circle.Center - outline.Point(middle)) > 0;
            return new((from + first) % outline.Count, many, shape, FaceAt(first + (many / 2)), hollow);
        }
    }

    /// <summary>The circle that the plane cuts out of the face, where the face says it better than the chords of its facets do.</summary>
    private static Circle3D Exact(Circle3D circle, NominalModel nominal, int face, Vector3D normal)
    {
        var h = normal.Normalized();
        Circle3D? exact = nominal.Faces[face].Shape switch
        {
            Cylinder3D c when c.Axis.LineAngleTo(h) < AlongAxis => circle with
            {
                Center = c.Point + ((circle.Center - c.Point).Dot(c.Axis) * c.Axis),
                Radius = c.Radius,
            },
            Sphere3D s when Math.Abs((circle.Center - s.Center).Dot(h)) is var off && off < s.Radius => circle with
            {
                Center = s.Center + ((circle.Center - s.Center).Dot(h) * h),
                Radius = Math.Sqrt((s.Radius * s.Radius) - (off * off)),
            },
            _ => null,
        };
        return exact is not null && Math.Abs(exact.Radius - circle.Radius) < nominal.ChordError + LeastTolerance ? exact : circle;
    }
}
