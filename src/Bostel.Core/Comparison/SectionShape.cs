using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>A straight line or a circle on the sheet of a section, mm.</summary>
/// <param name="X">Of a place in the middle of the line, or of the circle's centre.</param>
/// <param name="Y">See <paramref name="X"/>.</param>
/// <param name="Degrees">Direction of a line; null: a circle.</param>
/// <param name="Radius">Of a circle; null: a line.</param>
public sealed record SectionShape(double X, double Y, double? Degrees, double? Radius)
{
    private double Radians => Degrees!.Value * Math.PI / 180;

    /// <param name="shape">A line or a circle of the section's plane.</param>
    internal static SectionShape Of(Shape shape, SheetFrame frame)
    {
        if (shape is Circle3D circle)
        {
            var center = frame.Flat(circle.Center.ToArray());
            return new(center[0], center[1], null, circle.Radius);
        }

        var line = (Line3D)shape;
        var ends = frame.Flat([.. line.Point.ToArray(), .. (line.Point + line.Direction).ToArray()]);
        return new(ends[0], ends[1], Math.Atan2(ends[3] - ends[1], ends[2] - ends[0]) * 180 / Math.PI, null);
    }

    /// <summary>A line moved across itself.</summary>
    internal SectionShape Shifted(double by) => this with { X = X - (by * Math.Sin(Radians)), Y = Y + (by * Math.Cos(Radians)) };

    /// <summary>A line turned about its middle, by rad.</summary>
    internal SectionShape Turned(double by) => this with { Degrees = Degrees + (by * 180 / Math.PI) };

    /// <summary>How far a place lies to the left of a line.</summary>
    internal double LeftOf(double x, double y) => ((y - Y) * Math.Cos(Radians)) - ((x - X) * Math.Sin(Radians));

    /// <summary>
    /// Where a circle goes farthest (<paramref name="side"/> 1) from a line or another circle's centre, or comes nearest (−1), two
    /// coordinates; null where its centre lies on it: there is no direction.
    /// </summary>
    internal double[]? Extreme(SectionShape from, double side)
    {
        var off = from.Degrees is null ? 0 : from.LeftOf(X, Y);
        var (x, y) = from.Degrees is null ? (X - from.X, Y - from.Y) : (-off * Math.Sin(from.Radians), off * Math.Cos(from.Radians));
        var length = Math.Sqrt((x * x) + (y * y));
        return length <= 1e-6 * Radius!.Value ? null
            : [X + (side * Radius.Value * x / length), Y + (side * Radius.Value * y / length)];
    }

    /// <summary>Angle between two lines, 0° to 180°: that of their directions.</summary>
    internal double AngleTo(SectionShape other)
    {
        var turn = Math.Abs(Degrees!.Value - other.Degrees!.Value) % 360;
        return Math.Min(turn, 360 - turn);
    }

    /// <summary>The line with the direction, of its two, that is nearer to another's.</summary>
    internal SectionShape Along(SectionShape other) => AngleTo(other) > 90 ? this with { Degrees = Degrees + 180 } : this;
}
