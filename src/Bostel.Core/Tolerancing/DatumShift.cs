using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// A datum feature of size at its maximum material boundary may lie anywhere in it (ISO 2692; ASME Y14.5, 7.16): square to its axis the
/// part moves freely within a circle. Of all such places the best counts.
/// </summary>
/// <param name="Axis">Of the datum, in nominal coordinates.</param>
/// <param name="Radius">By which the part may move, mm.</param>
/// <param name="Sigma">Standard uncertainty of that, mm.</param>
internal sealed record DatumShift(Line3D Axis, double Radius, double Sigma)
{
    private const int Steps = 48;

    /// <exception cref="BadInputException">The datum is no single hole or shaft.</exception>
    public static DatumShift Of(DatumBoundary boundary, Datum datum)
    {
        if (datum.Features is not [{ NominalAxis: { } axis, Radius: { } radius } f])
        {
            throw new BadInputException($"Datum {boundary.Datum} is no single hole or shaft that could lie at a boundary.");
        }

        var departs = f.Nominal.Internal ? (2 * radius) - boundary.Size : boundary.Size - (2 * radius);
        return new(axis, Math.Max(0, departs / 2), departs > 0 ? f.RadiusSigma : 0);
    }

    /// <summary>The displacement within the circle for which a convex function is least, and how far it goes.</summary>
    public Vector3D Best(Func<Vector3D, double> worst)
    {
        var (u, v) = (Axis.Direction.Perpendicular(), Axis.Direction.Cross(Axis.Direction.Perpendicular()));
        Vector3D Along(double x)
        {
            var half = Math.Sqrt(Math.Max(0, (Radius * Radius) - (x * x)));
            return (x * u) + (Valley(-half, half, y => worst((x * u) + (y * v))) * v);
        }

        return Along(Valley(-Radius, Radius, x => worst(Along(x))));
    }

    /// <summary>Where a convex function of one variable is least: golden section (Kiefer 1953).</summary>
    private static double Valley(double low, double high, Func<double, double> value)
    {
        const double Golden = 0.6180339887498949;
        var (a, b) = (high - (Golden * (high - low)), low + (Golden * (high - low)));
        var (atA, atB) = (value(a), value(b));
        for (var step = 0; step < Steps; step++)
        {
            if (atA < atB)
            {
                (high, b, atB) = (b, a, atA);
                a = high - (Golden * (high - low));
                atA = value(a);
            }
            else
            {
                (low, a, atA) = (a, b, atB);
                b = low + (Golden * (high - low));
                atB = value(b);
            }
        }

        return (low + high) / 2;
    }
}
