using static System.FormattableString;

namespace Bostel.Core.Comparison;

/// <summary>What is measured of one part of a section, or between two.</summary>
public enum SectionMeasure
{
    /// <summary>Of an arc.</summary>
    Radius,

    /// <summary>Of an arc.</summary>
    Diameter,

    /// <summary>Of parallel lines, centres, or a centre and a line: gap, step, thickness.</summary>
    Distance,

    /// <summary>From a line to the far side of an arc, or over two arcs: their extremes along the direction square to the line, or between
    /// the centres.</summary>
    Greatest,

    /// <summary>Likewise to the near side.</summary>
    Least,

    /// <summary>Between two lines, degrees.</summary>
    Angle,
}

/// <summary>A dimension of a section, on the nominal and as found.</summary>
/// <param name="Sigmas">Of what each part brings to it: standard uncertainty and degrees of freedom.</param>
/// <param name="Parts">That it belongs to.</param>
public sealed record SectionDimension(
    double Nominal, double Value, IReadOnlyList<(double Sigma, double Freedom)> Sigmas, IReadOnlyList<SectionPart> Parts)
{
    /// <summary>Nominal lines farther out of parallel have no one distance, degrees (1e-3 rad, as for planes).</summary>
    private const double MostOutOfParallel = 0.0573;

    /// <summary>A part is found within so much of the place that names it, mm.</summary>
    private const double Near = 1;

    /// <summary>An extreme that is off the chords of an arc by no more than this share of its radius lies on it.</summary>
    private const double ArcShare = 0.01;

    /// <summary>The measures that the parts allow.</summary>
    public static IReadOnlyList<SectionMeasure> Possible(IReadOnlyList<SectionPart> parts) => parts switch
    {
        [{ Arc: true }] => [SectionMeasure.Radius, SectionMeasure.Diameter],
        [{ Arc: false } a, { Arc: false } b] when OutOfParallel(a.Ideal, b.Ideal) > MostOutOfParallel => [SectionMeasure.Angle],
        [_, _] => [SectionMeasure.Distance, .. Extremes(parts)],
        _ => [],
    };

    /// <summary>Extremes are measured where the nominal's arcs have them.</summary>
    private static IEnumerable<SectionMeasure> Extremes(IReadOnlyList<SectionPart> parts)
    {
        if (!parts.Any(p => p.Arc))
        {
            yield break;
        }

        SectionShape[] ideal = [.. parts.Select(p => p.Ideal)];
        if (Has(1))
        {
            yield return SectionMeasure.Greatest;
        }

        if (Has(-1) && Measured(SectionMeasure.Least, ideal, ideal, null) > 0)
        {
            yield return SectionMeasure.Least;
        }

        bool Has(double side) => parts.Select((p, k) => (Part: p, Other: ideal[1 - k])).Where(p => p.Part.Arc).All(p =>
            p.Part.Ideal.Extreme(p.Other, side) is { } at && OffRun(p.Part.Run, at) <= ArcShare * p.Part.Nominal);
    }

    /// <summary>The part of a sheet that lies where a plan says; null: none does.</summary>
    /// <param name="place">In space.</param>
    public static SectionPart? At(SectionSheet sheet, double[] place)
    {
        var at = sheet.Frame.Flat(place);
        return sheet.Parts.Select(p => (Part: p, Off: OffRun(p.Run, at))).Where(p => p.Off <= Near).OrderBy(p => p.Off).Select(p => p.Part)
            .FirstOrDefault();
    }

    /// <summary>The parts of a sheet that lie where a plan says.</summary>
    /// <exception cref="BadInputException">No part lies at one of them.</exception>
    public static IReadOnlyList<SectionPart> Named(SectionSheet sheet, IReadOnlyList<double[]> places) =>
        [.. places.Select(place => At(sheet, place) ?? throw new BadInputException(Invariant(
            $"The section has no line or arc within {Near} mm of ({place[0]:0.##}, {place[1]:0.##}, {place[2]:0.##}).")))];

    /// <summary>The dimension of the nominal alone.</summary>
    internal static double OnNominal(SectionMeasure measure, IReadOnlyList<SectionPart> parts, double? asked)
    {
        SectionShape[] ideal = [.. parts.Select(p => p.Ideal)];
        return Measured(measure, ideal, ideal, asked);
    }

    /// <param name="asked">The drawing's value: it tells an angle from its supplement.</param>
    /// <exception cref="BadInputException">A part has too few points, or the parts do not make such a dimension.</exception>
    public static SectionDimension Of(SectionMeasure measure, IReadOnlyList<SectionPart> parts, double? asked)
    {
        if (!Possible(parts).Contains(measure))
        {
            throw new BadInputException(Refusal(measure, parts));
        }

        if (parts.FirstOrDefault(p => p.Found is null) is { } bare)
        {
            throw new BadInputException(
                $"Only {bare.Points} points of the scan lie on {(bare.Arc ? "an arc" : "a line")} of the section: too few to tell it.");
        }

        SectionShape[] ideal = [.. parts.Select(p => p.Ideal)];

        // Directions as the nominal's have them.
        SectionShape Turned(SectionShape shape, int k) => shape.Degrees is null ? shape : shape.Along(ideal[k]);
        SectionShape[] found = [.. parts.Select((p, k) => Turned(p.Found!, k))];
        double Value(SectionShape[] shapes) => Measured(measure, shapes, ideal, asked);
        var value = Value(found);
        return new(
            Value(ideal), value,
            [.. parts.Select((p, k) => (
                Math.Sqrt(p.Variations.Sum(v => Math.Pow(Value([.. found.Select((f, i) => i == k ? Turned(v, k) : f)]) - value, 2))),
                p.Freedom))],
            parts);
    }

    private static double Measured(SectionMeasure measure, SectionShape[] shapes, SectionShape[] ideal, double? asked)
    {
        switch (measure, shapes)
        {
            case (SectionMeasure.Radius, [{ Radius: { } r }]):
                return r;
            case (SectionMeasure.Diameter, [{ Radius: { } r }]):
                return 2 * r;
            case (SectionMeasure.Angle, [var a, var b]):
                var onNominal = ideal[0].AngleTo(ideal[1]);
                var supplement = asked is { } wanted && Math.Abs(180 - onNominal - wanted) < Math.Abs(onNominal - wanted);
                return supplement ? 180 - a.AngleTo(b) : a.AngleTo(b);
            case (SectionMeasure.Greatest or SectionMeasure.Least, _):
                return Measured(SectionMeasure.Distance, shapes, ideal, asked)
                    + ((measure is SectionMeasure.Greatest ? 1 : -1) * shapes.Sum(s => s.Radius ?? 0));
            case (_, [{ Degrees: null } a, { Degrees: null } b]):
                return Math.Sqrt(Math.Pow(b.X - a.X, 2) + Math.Pow(b.Y - a.Y, 2));
            case (_, [{ Degrees: not null } a, { Degrees: not null } b]):
                // Between their middles, across the mean of their directions, the same in both orders.
                var other = b.Along(a);
                var mean = a with { Degrees = a.Degrees + (Math.IEEERemainder(other.Degrees!.Value - a.Degrees!.Value, 360) / 2) };
                return Side(ideal[0].LeftOf(ideal[1].X, ideal[1].Y)) * mean.LeftOf(b.X, b.Y);
            default:
                var (line, circle) = shapes[0].Degrees is null ? (1, 0) : (0, 1);
                return Side(ideal[line].LeftOf(ideal[circle].X, ideal[circle].Y)) * shapes[line].LeftOf(shapes[circle].X, shapes[circle].Y);
        }
    }

    private static string Refusal(SectionMeasure measure, IReadOnlyList<SectionPart> parts) => (measure, parts) switch
    {
        (SectionMeasure.Radius or SectionMeasure.Diameter, _) => "Radius and diameter belong to one arc of a section.",
        (SectionMeasure.Angle, [{ Arc: false }, { Arc: false }]) => "The lines are parallel: ask for their distance.",
        (SectionMeasure.Greatest or SectionMeasure.Least, _) =>
            "An extreme is measured from a line to an arc, or over two arcs, that reach it in the section.",
        (SectionMeasure.Angle, _) => "An angle lies between two lines of a section.",
        (_, [_, _]) => "The lines are not parallel: there is no one distance between them; ask for the angle.",
        _ => "A distance lies between two lines or arcs of a section.",
    };

    private static double OutOfParallel(SectionShape a, SectionShape b) => Math.Min(a.AngleTo(b), 180 - a.AngleTo(b));

    private static double Side(double value) => value < 0 ? -1 : 1;

    private static double OffRun(double[] run, double[] at)
    {
        var least = double.MaxValue;
        for (var i = 0; i + 3 < run.Length; i += 2)
        {
            var (x, y, dx, dy) = (at[0] - run[i], at[1] - run[i + 1], run[i + 2] - run[i], run[i + 3] - run[i + 1]);
            var share = Math.Clamp(((x * dx) + (y * dy)) / Math.Max(1e-300, (dx * dx) + (dy * dy)), 0, 1);
            least = Math.Min(least, Math.Pow(x - (share * dx), 2) + Math.Pow(y - (share * dy), 2));
        }

        return Math.Sqrt(least);
    }
}
