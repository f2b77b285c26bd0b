using System.Text.Json.Serialization;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>How a cut is seen square on: a point of its plane, what lies to the right, what is up, the side it is seen from.</summary>
public sealed record SheetFrame(double[] Origin, double[] Right, double[] Up, double[] Normal)
{
    /// <summary>Up is Z, or Y for a plane across Z; the middle of the box lies at 0, 0.</summary>
    internal static SheetFrame Of(Plane3D plane, Box3D box)
    {
        var n = plane.Normal;
        var toward = Math.Abs(n.Z) > 0.95 ? Vector3D.UnitY : Vector3D.UnitZ;
        var up = (toward - (toward.Dot(n) * n)).Normalized();
        return new(plane.Project(box.Center).ToArray(), up.Cross(n).ToArray(), up.ToArray(), n.ToArray());
    }

    /// <summary>2·N coordinates on the sheet of 3·N in space.</summary>
    internal double[] Flat(double[] points)
    {
        var (origin, right, up) = (Vector3D.FromArray(Origin), Vector3D.FromArray(Right), Vector3D.FromArray(Up));
        var flat = new double[points.Length / 3 * 2];
        for (var i = 0; i < flat.Length / 2; i++)
        {
            var p = Vector3D.At(points, i) - origin;
            (flat[2 * i], flat[(2 * i) + 1]) = (p.Dot(right), p.Dot(up));
        }

        return flat;
    }

    /// <summary>3·N coordinates in space of 2·N on the sheet.</summary>
    public double[] InSpace(double[] flat)
    {
        var (origin, right, up) = (Vector3D.FromArray(Origin), Vector3D.FromArray(Right), Vector3D.FromArray(Up));
        return [.. flat.Chunk(2).SelectMany(p => (origin + (p[0] * right) + (p[1] * up)).ToArray())];
    }
}

/// <summary>A face that the plane cuts askew, and the error that this makes, in words.</summary>
public sealed record ObliqueFace(int Face, string Words);

/// <summary>An outline of the nominal: 2·N coordinates on the sheet, mm.</summary>
public sealed record NominalOutline(double[] Points, bool Closed);

/// <summary>
/// An outline of the scan, or the points of a cloud near the plane (<see cref="Joined"/> false): 2·N coordinates on the sheet, the
/// deviation of each (null: no counterpart), and 2·N coordinates of where each belongs on the nominal's outline.
/// </summary>
public sealed record ScanOutline(double[] Points, bool Closed, bool Joined, double?[] Values, double[] Feet)
{
    /// <summary>The face of the nominal that each point belongs to; −1: none.</summary>
    [JsonIgnore]
    public int[] Faces { get; init; } = [];
}

/// <summary>The cut of one piece and its nominal, seen square on.</summary>
/// <param name="Statistics">Along the outlines; null where nothing has a counterpart.</param>
/// <param name="Remarks">What a reader must know: what the plane does not cut squarely, where nothing was measured.</param>
public sealed record SectionSheet(
    SheetFrame Frame, IReadOnlyList<NominalOutline> Nominal, IReadOnlyList<ScanOutline> Scan, DeviationStatistics? Statistics,
    IReadOnlyList<SectionPart> Parts, IReadOnlyList<string> Remarks)
{
    /// <summary>Degrees off square: a bore cut at less is cut squarely, at more it is meant to be cut lengthwise.</summary>
    private const double Square = 0.02, Lengthwise = 45;

    /// <summary>Cosine of 25°: facets across a square edge lean by 45° to both of its sides, those next to them less.</summary>
    private const double SameFacing = 0.906;

    /// <summary>Cosine of 30°: of a surface nearer than that to the plane a small deviation is a large one in the plane.</summary>
    private const double Along = 0.87;

    /// <summary>The longest stroke as a share of the section's larger extent.</summary>
    private const double LongStroke = 0.06;

    /// <summary>Round faces that are not cut squarely; the remarks say so too.</summary>
    [JsonIgnore]
    public IReadOnlyList<ObliqueFace> Oblique { get; init; } = [];

    /// <summary>How many times as long strokes of deviation are well seen: 1, 2 or 5 times a power of ten; 1 without any.</summary>
    public double Strokes
    {
        get
        {
            var largest = Scan.SelectMany(o => o.Values).Select(v => Math.Abs(v ?? 0)).DefaultIfEmpty(0).Max();
            return largest > 0 ? RoundNumber.AtMost(LongStroke * Math.Max(Extent(0), Extent(1)) / largest) : 1;

            double Extent(int axis)
            {
                var at = Nominal.SelectMany(o => o.Points.Where((_, i) => i % 2 == axis)).ToList();
                return at.Max() - at.Min();
            }
        }
    }

    /// <param name="plane">Nominal coordinates; its normal has length 1.</param>
    /// <param name="scan">In its own coordinates.</param>
    /// <param name="transform">Scan to nominal.</param>
    /// <param name="spacing">Of its points, mm.</param>
    /// <param name="options">Search distance and angle, as of the map.</param>
    /// <param name="lower">Of the band that the statistics count in, mm.</param>
    /// <param name="upper">See <paramref name="lower"/>.</param>
    /// <param name="parts">False: lines and arcs are not sought, which takes longer than all else.</param>
    /// <exception cref="BadInputException">The plane does not cut the nominal.</exception>
    public static SectionSheet Of(
        Plane3D plane, TriangleMesh scan, RigidTransform transform, double spacing, NominalModel nominal, DeviationOptions options,
        double lower, double upper, bool parts = true)
    {
        var reference = PlaneSection.Cut(nominal.Mesh, plane.Normal, plane.Normal.Dot(plane.Point));
        var (outlines, joined) = scan.TriangleCount > 0
            ? (Cut(scan, transform, plane), true)
            : (Near(scan, transform, spacing, plane), false);
        var deviations = SectionDeviation.Of(
            outlines, reference, plane.Normal, options, joined, joined ? Lies(outlines, scan, transform, reference, nominal, plane) : null);
        var frame = SheetFrame.Of(plane, nominal.Mesh.Bounds);
        var statistics = SectionDeviation.Statistics(deviations, lower, upper);
        var remarks = new List<string>();
        if (deviations.Count == 0)
        {
            remarks.Add("The plane does not cut the scan: nothing was measured here.");
        }
        else if (statistics.Count == 0)
        {
            remarks.Add("No point of the scan's outlines has a counterpart on the nominal's: is the piece aligned, and the right one?");
        }

        // An open outline's last point begins no segment.
        int[] faces = [.. reference.SelectMany(o => Enumerable.Range(0, o.Count)
            .Select(i => i < o.Triangles.Length ? nominal.FaceOfTriangle[o.Triangles[i]] : -1))];
        var oblique = Askew(plane, nominal);
        remarks.AddRange(oblique.Select(o => o.Words).Distinct());
        return new(
            frame,
            [.. reference.Select(o => new NominalOutline(frame.Flat(o.Points), o.Closed))],
            [.. deviations.Select(d => new ScanOutline(
                frame.Flat(d.Outline.Points), d.Outline.Closed, joined,
                [.. d.Values.Select(v => double.IsNaN(v) ? (double?)null : v)], frame.Flat(d.Feet))
            { Faces = [.. d.Segments.Select(s => s < 0 ? -1 : faces[s])] })],
            statistics.Count == 0 ? null : statistics,
            parts ? SectionPart.Of(reference, deviations, plane.Normal, nominal, spacing, frame) : [],
            remarks);
    }

    /// <summary>Cut where the scan lies, and moved as outlines: far cheaper than to move the scan.</summary>
    private static IReadOnlyList<SectionOutline> Cut(TriangleMesh scan, RigidTransform transform, Plane3D plane)
    {
        var back = transform.Inverse();
        var normal = back.Rotate(plane.Normal);
        return [.. PlaneSection.Cut(scan, normal, normal.Dot(back.Apply(plane.Point)))
            .Select(o => o with { Points = Moved(o.Points, transform) })];
    }

    private static double[] Moved(double[] points, RigidTransform by)
    {
        var moved = new double[points.Length];
        for (var i = 0; i < points.Length / 3; i++)
        {
            (moved[3 * i], moved[(3 * i) + 1], moved[(3 * i) + 2]) = by.Apply(Vector3D.At(points, i));
        }

        return moved;
    }

    /// <summary>
    /// Whether the facets on either side of a point of an outline, two each, face as the nominal does where it belongs, and the nominal is
    /// not cut nearly along there.
    /// </summary>
    private static Func<int, int, int, bool> Lies(
        IReadOnlyList<SectionOutline> outlines, TriangleMesh scan, RigidTransform transform, IReadOnlyList<SectionOutline> reference,
        NominalModel nominal, Plane3D plane)
    {
        var faces = reference.SelectMany(o => Enumerable.Range(0, o.Count)
            .Select(i => i < o.Triangles.Length ? Facing(nominal.Mesh, o.Triangles[i]) : plane.Normal)).ToArray();
        return (o, i, segment) =>
        {
            var (outline, outward) = (outlines[o], faces[segment]);
            var segments = outline.Triangles.Length;
            bool Faces(int k) => (!outline.Closed && (k < 0 || k >= segments))
                || transform.Rotate(Facing(scan, outline.Triangles[(k + segments) % segments])).Dot(outward) > SameFacing;
            return Math.Abs(outward.Dot(plane.Normal)) < Along && Faces(i - 2) && Faces(i - 1) && Faces(i) && Faces(i + 1);
        };
    }

    private static Vector3D Facing(TriangleMesh mesh, int triangle)
    {
        var (a, b, c) = mesh.Triangle(triangle);
        return (b - a).Cross(c - a).Normalized();
    }

    /// <summary>The points of a cloud within half their spacing of the plane, laid into it: one outline that joins nothing.</summary>
    private static IReadOnlyList<SectionOutline> Near(TriangleMesh scan, RigidTransform transform, double spacing, Plane3D plane)
    {
        var points = new List<double>();
        for (var v = 0; v < scan.MeasuredVertexCount; v++)
        {
            var p = transform.Apply(scan.Vertex(v));
            if (Math.Abs(plane.Distance(p)) <= spacing / 2)
            {
                points.AddRange(plane.Project(p).ToArray());
            }
        }

        return points.Count == 0 ? [] : [new([.. points], false)];
    }

    /// <summary>A cylinder cut askew reads as an ellipse: its long axis is the diameter over the cosine.</summary>
    private static IReadOnlyList<ObliqueFace> Askew(Plane3D plane, NominalModel nominal)
    {
        var sides = new (bool Above, bool Below)[nominal.Faces.Count];
        for (var t = 0; t < nominal.Mesh.TriangleCount; t++)
        {
            ref var side = ref sides[nominal.FaceOfTriangle[t]];
            for (var k = 0; k < 3; k++)
            {
                var above = plane.Distance(nominal.Mesh.Vertex(nominal.Mesh.Indices[(3 * t) + k])) >= 0;
                side = (side.Above || above, side.Below || !above);
            }
        }

        return [.. nominal.Faces.Where((f, i) => sides[i] is (true, true) && f.Shape is Cylinder3D)
            .Select(f => (f.Id, Shape: (Cylinder3D)f.Shape!))
            .Select(f => (f.Id, f.Shape.Radius, Angle: f.Shape.Axis.LineAngleTo(plane.Normal)))
            .Where(c => c.Angle * 180 / Math.PI is > Square and < Lengthwise)
            .Select(c => new ObliqueFace(c.Id, FormattableString.Invariant(
                $"Cuts a cylinder of ⌀{2 * c.Radius:0.###} at {c.Angle * 180 / Math.PI:0.##}° off square: ")
                + FormattableString.Invariant($"it reads up to {2 * c.Radius * ((1 / Math.Cos(c.Angle)) - 1):0.####} mm too wide.")))];
    }
}
