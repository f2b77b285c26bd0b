using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>The places at which an axis or centre is judged, in the coordinates of the datums.</summary>
/// <param name="Places">Along the axis from end to end of the nominal one.</param>
/// <param name="Errors">Independent errors of one standard deviation each: how far every place is off.</param>
/// <param name="Smooth">The places of an extracted line without what noise bends; null for a straight axis.</param>
/// <param name="Words">What the places belong to.</param>
internal sealed record AxisPlaces(Vector3D[] Places, IReadOnlyList<Vector3D[]> Errors, Vector3D[]? Smooth, string Words)
{
    /// <summary>Directions in which the outermost points of a face are sought; between them a convex border is lost by 0.5 %.</summary>
    private const int Around = 32;

    /// <summary>An axis that lies flatter over a plane does not come out of it: sine of 6°.</summary>
    private const double LeastRise = 0.1;

    private const int MostSections = 9, LeastSections = 3, PointsOfSection = 60;

    /// <summary>Of a ring that is not seen all round the centre is known this many times worse at most.</summary>
    private const double MostDilution = 3;

    /// <summary>The feature's centre, the ends of its associated axis, or its extracted median line.</summary>
    /// <param name="straight">The associated axis is asked for (ASME Y14.5), not the extracted median line (ISO 1101:2017).</param>
    /// <param name="projectedBy">How far a projected zone goes, mm; null: it is none.</param>
    /// <param name="system">Out of whose first plane it goes.</param>
    /// <exception cref="BadInputException">The feature has no axis, or a projected zone no plane to go out of.</exception>
    public static AxisPlaces Of(FeatureResult f, bool straight, double? projectedBy = null, DatumSystem? system = null)
    {
        if (projectedBy is { } length)
        {
            return Projected(f, length, system);
        }

        if (f.Shape is Sphere3D sphere)
        {
            return Rigid(f, [sphere.Center], "centre");
        }

        if (f is { Shape: Plane3D, Construction: not null })
        {
            return Rigid(f, [.. f.Points.Chunk(3).Select(Vector3D.FromArray)], "corners");
        }

        if (f.Shape is Circle3D or Slot3D)
        {
            return Rigid(f, [f.Axis!.Point], "centre");
        }

        if (f.Axis is null)
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no axis.");
        }

        var (start, end) = Ends(f);
        return (straight || !f.IsSurface ? null : MedianLine(f, start, end)) ?? Rigid(f, [start, end], "axis");
    }

    /// <summary>The nominal extent of the axis, at the measured place and direction.</summary>
    public static (Vector3D Start, Vector3D End) Ends(FeatureResult f)
    {
        var nominal = f.NominalAxis!;
        var axis = f.Axis!;
        Vector3D At(double h) => axis.Meet(new(nominal.Point + (h * nominal.Direction), nominal.Direction)) ?? axis.Point;
        return (At(f.Nominal.Start), At(f.Nominal.End));
    }

    /// <summary>
    /// The associated axis drawn out from its end at the first datum's plane, away from the feature (ISO 10578:1992; ASME Y14.5-2018,
    /// 10.4.7).
    /// </summary>
    private static AxisPlaces Projected(FeatureResult f, double length, DatumSystem? system)
    {
        if (f.NominalAxis is not { } nominal || f.Axis is not { } axis || !f.IsSurface)
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no axis that could be projected.");
        }

        if (system?.Features[0].Nominal.Shape is not Plane3D plane || Math.Abs(plane.Normal.Dot(nominal.Direction)) < LeastRise)
        {
            throw new BadInputException($"{f.Plan.Name}: a projected zone goes out of the plane of its first datum, which cuts its axis.");
        }

        double Off(double h) => Math.Abs(plane.Distance(nominal.Point + (h * nominal.Direction)));
        var (near, far) = Off(f.Nominal.Start) < Off(f.Nominal.End) ? (f.Nominal.Start, f.Nominal.End) : (f.Nominal.End, f.Nominal.Start);
        Vector3D At(double h) => axis.Meet(new(nominal.Point + (h * nominal.Direction), nominal.Direction)) ?? axis.Point;
        return Rigid(f, [At(near), At(near + (Math.Sign(near - far) * length))], FormattableString.Invariant(
            $"axis projected by {length:0.####} mm"));
    }

    /// <summary>A plane over the extent of its feature: the feature's outermost points in directions all round, laid on it.</summary>
    public static AxisPlaces OfPlane(FeatureResult f, Plane3D plane)
    {
        var (u, v) = (plane.Normal.Perpendicular(), plane.Normal.Cross(plane.Normal.Perpendicular()));
        var points = f.Points.Chunk(3).Select(Vector3D.FromArray).ToArray();
        var outermost = Enumerable.Range(0, Around)
            .Select(k => (Math.Cos(2 * Math.PI * k / Around) * u) + (Math.Sin(2 * Math.PI * k / Around) * v))
            .Select(d => points.MaxBy(p => p.Dot(d))).Distinct();
        return Rigid(f, [.. outermost.Select(p => p - (plane.Distance(p) * plane.Normal))], "tangent plane");
    }

    private static AxisPlaces Rigid(FeatureResult f, Vector3D[] places, string what) => new(
        places, [.. f.ErrorMotions.Select(m => places.Select(m.Of).ToArray())], null,
        $"{what} of {Tolerancing.Words.Associated(f)}");

    /// <summary>
    /// Centres of the least-squares circles in sections square to the associated axis (ISO 14660-2, 4.1; ISO 22432), drawn out to the
    /// nominal ends along it. Null where the points do not allow three sections, or do not go round far enough.
    /// </summary>
    private static AxisPlaces? MedianLine(FeatureResult f, Vector3D start, Vector3D end)
    {
        var sections = Math.Min(MostSections, f.Used / PointsOfSection);
        if (f.Shape is not Cylinder3D cylinder || sections < LeastSections)
        {
            return null;
        }

        var found = Sections(f, cylinder, sections);
        if (found.Any(s => s is null))
        {
            return null;
        }

        var (u, v) = (cylinder.Axis.Perpendicular(), cylinder.Axis.Cross(cylinder.Axis.Perpendicular()));
        var offsets = found.Select(s => (s!.X * u) + (s.Y * v)).ToArray();

        // Noise alone bends the line by so much; what is more is taken for form (James and Stein 1961).
        var bend = found.Sum(s => ((s!.X * s.X) + (s.Y * s.Y)) / (s.Sigma * s.Sigma));
        var form = Math.Sqrt(Math.Max(0, 1 - (((2 * sections) - 4) / Math.Max(1e-300, bend))));
        Vector3D[] Line(double share)
        {
            var middle = found.Select((s, i) => cylinder.Point + (s!.Height * cylinder.Axis) + (share * offsets[i]));
            return [start + (share * offsets[0]), .. middle, end + (share * offsets[^1])];
        }

        var errors = new List<Vector3D[]>();
        for (var i = 0; i < sections; i++)
        {
            foreach (var e in (Vector3D[])[u, v])
            {
                var off = new Vector3D[sections + 2];
                off[i + 1] = found[i]!.Sigma * e;
                off[0] = i == 0 ? off[1] : off[0];
                off[^1] = i == sections - 1 ? off[^2] : off[^1];
                errors.Add(off);
            }
        }

        return new(Line(1), errors, Line(form), $"extracted median line, {sections} sections of {Tolerancing.Words.Associated(f)}");
    }

    private sealed record Section(double Height, double X, double Y, double Sigma);

    /// <summary>From the nominal start to its end, as places and errors are.</summary>
    private static Section?[] Sections(FeatureResult f, Cylinder3D c, int count)
    {
        var (u, v) = (c.Axis.Perpendicular(), c.Axis.Cross(c.Axis.Perpendicular()));
        var local = f.Points.Chunk(3).Select(p => Vector3D.FromArray(p) - c.Point)
            .Select(d => (Height: d.Dot(c.Axis), Angle: Math.Atan2(d.Dot(v), d.Dot(u)))).ToArray();
        var residuals = c.Distances(f.Points);
        var (low, high) = (local.Min(l => l.Height), local.Max(l => l.Height));
        var members = Enumerable.Range(0, local.Length)
            .ToLookup(i => Math.Min(count - 1, (int)(count * (local[i].Height - low) / Math.Max(1e-12, high - low))));

        // Neighbours that err alike tell as much as fewer independent ones.
        var alike = Math.Max(1, f.Used / Math.Max(1, f.EffectivePoints));
        return [.. Enumerable.Range(0, count).Select(s => Circle([.. members[s]]))];

        Section? Circle(int[] points)
        {
            var (normal, right) = (new double[3, 3], new double[3]);
            double weights = 0, squares = 0, height = 0;
            foreach (var i in points)
            {
                var w = f.Areas[i];
                double[] row = [Math.Cos(local[i].Angle), Math.Sin(local[i].Angle), 1];
                for (var a = 0; a < 3; a++)
                {
                    right[a] += w * row[a] * residuals[i];
                    for (var b = 0; b < 3; b++)
                    {
                        normal[a, b] += w * row[a] * row[b];
                    }
                }

                (weights, squares, height) = (weights + w, squares + (w * w), height + (w * local[i].Height));
            }

            if (points.Length < PointsOfSection / 3 || LinearSolve.Inverse(normal) is not { } inverse)
            {
                return null;
            }

            double Along(int r) => (inverse[r, 0] * right[0]) + (inverse[r, 1] * right[1]) + (inverse[r, 2] * right[2]);
            var (x, y, r) = (Along(0), Along(1), Along(2));
            var rest = points.Sum(i => f.Areas[i] * Math.Pow(
                residuals[i] - (x * Math.Cos(local[i].Angle)) - (y * Math.Sin(local[i].Angle)) - r, 2)) / weights;

            // All round, the centre is known by √(2/n) of the scatter.
            var worst = Math.Sqrt(
                SymmetricEigen.Solve(new[,] { { inverse[0, 0], inverse[0, 1] }, { inverse[1, 0], inverse[1, 1] } }).Values[1]);
            return worst > MostDilution * Math.Sqrt(2 / weights)
                ? null
                : new(height / weights, x, y, worst * Math.Sqrt(
                    rest * alike * squares / weights * points.Length / Math.Max(1, points.Length - 3)));
        }
    }
}
