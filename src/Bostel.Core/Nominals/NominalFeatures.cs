using Bostel.Core.Geometry;

namespace Bostel.Core.Nominals;

/// <summary>
/// Faces that make one feature of the part. Kinds: plane, bore, shaft, counterbore, countersink, chamfer, fillet (concave), round (convex),
/// cone, sphere, torus, cylinder (part of one that is none of these), freeform.
/// </summary>
public sealed record NominalFeature(string Kind, int[] Faces, int[] Adjoining);

/// <summary>
/// Groups faces into features: faces of one surface that adjoin or face each other are one (a bore split in halves), and names them by
/// their shape, side and neighbours.
/// </summary>
public static class NominalFeatures
{
    private const double SameAngle = 1e-5;
    private const double Smooth = 12 * Math.PI / 180;

    public static IReadOnlyList<NominalFeature> Find(NominalModel nominal)
    {
        var borders = FaceBorders.Of(nominal);
        var within = 1e-5 + (nominal.ChordError > 0 ? 0 : 1e-3);
        var group = Grouped(nominal, borders, within);
        var groups = group.Select((g, f) => (g, f)).GroupBy(p => p.g).Select(g => g.Select(p => p.f).ToArray()).ToList();
        var naming = new Naming(nominal, borders, groups);
        return [.. groups.Select(g => new NominalFeature(naming.KindOf(g), g, borders.Adjoining(g)))];
    }

    private static int[] Grouped(NominalModel nominal, FaceBorders borders, double within)
    {
        var parent = Enumerable.Range(0, nominal.Faces.Count).ToArray();
        int Root(int f)
        {
            while (parent[f] != f)
            {
                f = parent[f] = parent[parent[f]];
            }

            return f;
        }

        for (var a = 0; a < parent.Length; a++)
        {
            for (var b = a + 1; b < parent.Length; b++)
            {
                if (Root(a) != Root(b) && IsOneSurface(nominal.Faces[a], nominal.Faces[b], within)
                    && (borders.Touch(a, b) || FacesAcross(nominal.Faces[a], nominal.Faces[b])))
                {
                    parent[Root(b)] = Root(a);
                }
            }
        }

        return [.. Enumerable.Range(0, parent.Length).Select(Root)];
    }

    private static bool IsOneSurface(NominalFace a, NominalFace b, double within)
    {
        if (a.Body != b.Body || a.Internal != b.Internal)
        {
            return false;
        }

        bool SameAxis(Line3D p, Line3D q) => p.Direction.LineAngleTo(q.Direction) < SameAngle && p.Distance(q.Point) < within;
        return (a.Shape, b.Shape) switch
        {
            (Plane3D p, Plane3D q) => p.Normal.AngleTo(q.Normal) < SameAngle && Math.Abs(p.Distance(q.Point)) < within,
            (Cylinder3D p, Cylinder3D q) => SameAxis(p.AxisLine, q.AxisLine) && Math.Abs(p.Radius - q.Radius) < within,
            (Cone3D p, Cone3D q) => Vector3D.Distance(p.Apex, q.Apex) < within && p.Axis.AngleTo(q.Axis) < SameAngle
                && Math.Abs(p.HalfAngle - q.HalfAngle) < SameAngle,
            (Sphere3D p, Sphere3D q) => Vector3D.Distance(p.Center, q.Center) < within && Math.Abs(p.Radius - q.Radius) < within,
            (Torus3D p, Torus3D q) => Vector3D.Distance(p.Center, q.Center) < within && p.Axis.LineAngleTo(q.Axis) < SameAngle
                && Math.Abs(p.MajorRadius - q.MajorRadius) < within && Math.Abs(p.MinorRadius - q.MinorRadius) < within,
            _ => false,
        };
    }

    /// <summary>
    /// Halves of a bore whose seam a keyway or slot took away: they share a stretch of their axis and together go more than half round.
    /// </summary>
    private static bool FacesAcross(NominalFace a, NominalFace b) => a.Shape is Cylinder3D p && b.Shape is Cylinder3D q
        && a.Sweep + b.Sweep > Math.PI && Overlap(a, b, (q.Point - p.Point).Dot(p.Axis), Math.Sign(p.Axis.Dot(q.Axis))) > 0;

    private static double Overlap(NominalFace a, NominalFace b, double shift, int sense)
    {
        var (low, high) = sense > 0 ? (b.Start + shift, b.End + shift) : (shift - b.End, shift - b.Start);
        return Math.Min(a.End, high) - Math.Max(a.Start, low);
    }

    /// <summary>Names a group of faces by rules on its shape and on what adjoins it.</summary>
    private sealed class Naming(NominalModel nominal, FaceBorders borders, List<int[]> groups)
    {
        public string KindOf(int[] faces)
        {
            var face = nominal.Faces[faces[0]];
            var adjoining = borders.Adjoining(faces);
            var smooth = adjoining.Where(o => borders.Angle(faces, o) < Smooth).ToArray();
            switch (face.Shape)
            {
                case Plane3D plane:
                    return IsChamfer(faces, plane, adjoining) ? "chamfer" : "plane";
                case Cylinder3D cylinder:
                    var round = faces.Sum(f => nominal.Faces[f].Sweep) > 1.5 * Math.PI;
                    return !round && smooth.Length >= 2 ? (face.Internal ? "fillet" : "round")
                        : !round ? "cylinder"
                        : !face.Internal ? "shaft"
                        : IsCounterbore(cylinder, adjoining) ? "counterbore" : "bore";
                case Cone3D cone:
                    return Tapered(faces, cone, face.Internal, adjoining);
                case Torus3D:
                    return smooth.Length >= 2 ? (face.Internal ? "fillet" : "round") : "torus";
                default:
                    return face.Kind;
            }
        }

        /// <summary>A bore whose floor, an annular plane across it, leads on to a narrower coaxial bore.</summary>
        private bool IsCounterbore(Cylinder3D bore, int[] adjoining) => adjoining.Any(floor => nominal.Faces[floor].Shape is Plane3D plane
            && plane.Normal.LineAngleTo(bore.Axis) < 1e-3
            && borders.Adjoining([floor]).Any(f => nominal.Faces[f] is { Internal: true, Shape: Cylinder3D inner }
                && inner.Radius < 0.98 * bore.Radius && inner.Axis.LineAngleTo(bore.Axis) < 1e-3
                    && inner.AxisLine.Distance(bore.Point) < 1e-2));

        /// <summary>
        /// A cone between a coaxial bore or shaft and a plane across it: wide in a bore it is a countersink, narrow a chamfer.
        /// </summary>
        private string Tapered(int[] faces, Cone3D cone, bool inside, int[] adjoining)
        {
            var coaxial = adjoining.Select(f => nominal.Faces[f].Shape).OfType<Cylinder3D>()
                .Where(c => c.Axis.LineAngleTo(cone.Axis) < 1e-3 && c.AxisLine.Distance(cone.Apex) < 1e-2).ToList();
            var across = adjoining.Any(f => nominal.Faces[f].Shape is Plane3D p && p.Normal.LineAngleTo(cone.Axis) < 0.2);
            if (coaxial.Count == 0 || !across)
            {
                return "cone";
            }

            var largest = faces.Max(f => nominal.Faces[f].End) * Math.Tan(cone.HalfAngle);
            var radius = inside ? coaxial.Min(c => c.Radius) : coaxial.Max(c => c.Radius);
            return inside && largest > 1.25 * radius
                ? "countersink" : Math.Abs(largest - radius) < 0.5 * radius || inside ? "chamfer" : "cone";
        }

        /// <summary>
        /// A narrow plane along the edge of two wider ones that stand at an angle to each other, turned halfway between them.
        /// </summary>
        private bool IsChamfer(int[] faces, Plane3D plane, int[] adjoining)
        {
            var longest = adjoining.Where(f => nominal.Faces[f].Shape is Plane3D).OrderByDescending(f => borders.Length(faces, f)).Take(2)
                .ToArray();
            if (longest.Length < 2)
            {
                return false;
            }

            var (a, b) = ((Plane3D)nominal.Faces[longest[0]].Shape!, (Plane3D)nominal.Faces[longest[1]].Shape!);
            var (toA, toB) = (plane.Normal.AngleTo(a.Normal), plane.Normal.AngleTo(b.Normal));
            var length = Math.Min(borders.Length(faces, longest[0]), borders.Length(faces, longest[1]));
            var area = faces.Sum(f => nominal.Faces[f].Area);
            var wide = longest.Min(f => groups.First(g => g.Contains(f)).Sum(m => nominal.Faces[m].Area));
            return toA is > 0.3 and < 1.25 && toB is > 0.3 and < 1.25 && Math.Abs(toA + toB - a.Normal.AngleTo(b.Normal)) < 0.1
                && length > 0 && area / length < 0.3 * length && area < 0.5 * wide;
        }
    }
}
