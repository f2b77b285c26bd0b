using Bostel.Core.Fitting;
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
            return (x * u) + (GoldenSection.Least(-half, half, y => worst((x * u) + (y * v))) * v);
        }

        return Along(GoldenSection.Least(-Radius, Radius, x => worst(Along(x))));
    }
}
