using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>
/// An orthographic camera in nominal coordinates: the point in the middle, the direction from it to the eye, what is up, and the height of
/// the picture in mm.
/// </summary>
public sealed record FigureCamera(double[] Target, double[] Direction, double[] Up, double Span);

/// <summary>A view that belongs into the report: enough to draw the same picture of every piece, without a screen.</summary>
public sealed record FigurePlan(FigureCamera Camera)
{
    public const int MostCaption = 500;
    public const int MostLabels = 100;

    public bool ShowDeviation { get; init; } = true;
    public bool HideWithin { get; init; }
    public bool ShowEdges { get; init; } = true;

    /// <summary>Name of the plan's map that it shows; null: the deviation.</summary>
    public string? Map { get; init; }

    /// <summary>Limits of the deviation; a further map has its own.</summary>
    public double Lower { get; init; } = -0.2;
    public double Upper { get; init; } = 0.2;
    public IReadOnlyList<LabelPlan> Labels { get; init; } = [];
    public string Caption { get; init; } = "";

    /// <summary>The whole part from above one corner.</summary>
    public static FigurePlan Overview(NominalModel nominal, double lower, double upper)
    {
        var box = nominal.Mesh.Bounds;
        return new(new FigureCamera(box.Center.ToArray(), [-0.55, -0.7, 0.6], [0, 0, 1], 0.95 * box.Diagonal))
        {
            Lower = lower,
            Upper = upper,
            Caption = "Deviation of the scan from the nominal, whole part.",
        };
    }

    /// <exception cref="BadInputException">The camera is not one.</exception>
    public void Check(string name = "figure")
    {
        static bool Three(double[]? v) => v is { Length: 3 } && v.All(double.IsFinite);
        if (!Three(Camera.Target) || !Three(Camera.Direction) || !Three(Camera.Up) || !(Camera.Span > 0) || !double.IsFinite(Camera.Span)
            || !(Lower < Upper))
        {
            throw new BadInputException(
                $"{name}: the camera needs target, direction and up of three numbers each, a span above 0, and limits in order.");
        }

        if (Caption.Length > MostCaption || Labels.Count > MostLabels)
        {
            throw new BadInputException(
                $"{name}: a caption has at most {MostCaption} characters and a figure at most {MostLabels} labels.");
        }

        foreach (var label in Labels)
        {
            label.Check(name);
        }
    }

    /// <summary>The camera's right, up and backward axes.</summary>
    internal (Vector3D Right, Vector3D Up, Vector3D Back) Axes()
    {
        var back = Vector3D.FromArray(Camera.Direction).Normalized();
        var up = Vector3D.FromArray(Camera.Up);
        up = (up - (up.Dot(back) * back)).Normalized();
        up = up.LengthSquared > 0 ? up : back.Perpendicular();
        return (up.Cross(back), up, back);
    }

    /// <summary>Pixel of a point in a picture of a size.</summary>
    public (double X, double Y) Project(Vector3D p, int width, int height)
    {
        var (right, up, _) = Axes();
        var scale = height / Camera.Span;
        var v = p - Vector3D.FromArray(Camera.Target);
        return ((width / 2.0) + (scale * v.Dot(right)), (height / 2.0) - (scale * v.Dot(up)));
    }
}
