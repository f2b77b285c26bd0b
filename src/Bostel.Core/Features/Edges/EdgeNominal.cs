using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>The edge that walls cut out of a side of a sheet, as the nominal has it.</summary>
/// <param name="Curve">In the plane of the side.</param>
/// <param name="Frame">Lays the curve into space: z is the outward normal of the side.</param>
/// <param name="Side">The plane of the side, its normal out of the material.</param>
internal sealed record EdgeNominal(EdgeCurve Curve, RigidTransform Frame, Plane3D Side)
{
    /// <summary>Walls lean no more than this out of square with the side, rad: their edge would be no circle.</summary>
    private const double Square = 1e-3;

    /// <summary>Less of a circle than this is a corner radius, rad.</summary>
    private const double WholeCircle = 5.5;

    /// <summary>The nominal feature: a circle, a slot, or a line with its extent.</summary>
    public NominalFace Face
    {
        get
        {
            var shape = Curve.ToShape(Frame);
            var (center, start, end) = Curve is StraightEdge line
                ? (((Line3D)shape).Point, -line.Length / 2, line.Length / 2)
                : (Frame.Apply(Middle), 0.0, 0.0);
            return new(-1, shape is Line3D ? "line" : shape.Kind, 0, IsHole, start, end, 0, center) { Shape = shape };
        }
    }

    private bool IsHole => Curve is RoundEdge { IsHole: true } or SlotEdge { IsHole: true };

    private Vector3D Middle => Curve switch
    {
        RoundEdge c => new(c.X, c.Y, 0),
        SlotEdge s => new(s.X, s.Y, 0),
        _ => Vector3D.Zero,
    };

    /// <summary>Faces that the walls end at, squarely: the sides whose edge can be measured, that with the longest border first.</summary>
    public static IReadOnlyList<int> SidesOf(IReadOnlyCollection<int> walls, NominalModel nominal, FaceBorders borders) =>
    [
        .. borders.Adjoining(walls)
            .Where(f => nominal.Face(f).Shape is Plane3D side && walls.All(w => IsSquare(nominal.Face(w).Shape, side)))
            .OrderByDescending(f => Math.Round(borders.Length(walls, f), 3)).ThenBy(f => f),
    ];

    /// <exception cref="BadInputException">The walls make no circle, slot or straight line on that side.</exception>
    public static EdgeNominal Of(FeaturePlan plan, NominalModel nominal)
    {
        var (edge, why) = Try(plan.Faces, plan.EdgeOf!.Value, nominal);
        return edge ?? throw new BadInputException($"{plan.Name}: {why}");
    }

    /// <summary>The edge, or why there is none.</summary>
    /// <exception cref="BadInputException">The nominal has no such face.</exception>
    public static (EdgeNominal? Edge, string? Why) Try(IReadOnlyCollection<int> faces, int sideFace, NominalModel nominal)
    {
        var at = nominal.Face(sideFace);
        if (at.Shape is not Plane3D side)
        {
            return (null, $"edges are measured on plane sides; face {at.Id} is a {at.Kind}.");
        }

        var walls = faces.Select(nominal.Face).ToList();
        if (walls.Count == 0 || !walls.All(w => IsSquare(w.Shape, side)))
        {
            return (null, $"its faces do not stand square on face {at.Id}; their edge there is not known.");
        }

        var edge = Straight(walls, side, at.Id, nominal) ?? Round(walls, side) ?? Slot(walls, side);
        return (edge, edge is null ? $"its faces make no circle, slot or straight line on face {at.Id}." : null);
    }

    private static bool IsSquare(Shape? wall, Plane3D side) => wall switch
    {
        Plane3D p => Math.Abs(p.Normal.Dot(side.Normal)) < Square,
        Cylinder3D c => c.Axis.LineAngleTo(side.Normal) < Square,
        _ => false,
    };

    private static EdgeNominal? Round(List<NominalFace> walls, Plane3D side)
    {
        if (walls[0].Shape is not Cylinder3D first || walls.Sum(w => w.Sweep) < WholeCircle || !walls.All(w =>
            w.Shape is Cylinder3D c && Math.Abs(c.Radius - first.Radius) < Square && first.AxisLine.Distance(c.Point) < Square))
        {
            return null;
        }

        var frame = FrameAt(first.AxisLine.Meet(side)!.Value, side.Normal.Perpendicular(), side);
        return new(new RoundEdge(0, 0, first.Radius, walls[0].Internal), frame, side);
    }

    private static EdgeNominal? Straight(List<NominalFace> walls, Plane3D side, int sideId, NominalModel nominal)
    {
        if (walls[0].Shape is not Plane3D wall || !walls.All(w =>
            w.Shape is Plane3D p && p.Normal.AngleTo(wall.Normal) < Square && Math.Abs(wall.Distance(p.Point)) < Square))
        {
            return null;
        }

        // Into the material is against the wall's outward normal.
        var into = -wall.Normal;
        var along = into.Cross(side.Normal).Normalized();
        var ids = walls.Select(w => w.Id).ToHashSet();
        var border = nominal.Edges.Where(e => e.Faces.Contains(sideId) && e.Faces.Any(ids.Contains))
            .SelectMany(e => e.Points.Chunk(3)).Select(Vector3D.FromArray).ToList();
        if (border.Count < 2)
        {
            return null;
        }

        var (low, high) = (border.Min(p => p.Dot(along)), border.Max(p => p.Dot(along)));
        var middle = border[0] + ((((low + high) / 2) - border[0].Dot(along)) * along);
        var half = (high - low) / 2;
        return new(new StraightEdge(0, 0, -half, half), FrameAt(side.Project(wall.Project(middle)), along, side), side);
    }

    private static EdgeNominal? Slot(List<NominalFace> walls, Plane3D side)
    {
        var axes = new List<Line3D>();
        foreach (var round in walls.Select(w => w.Shape).OfType<Cylinder3D>())
        {
            if (!axes.Any(a => a.Distance(round.Point) < Square))
            {
                axes.Add(round.AxisLine);
            }
        }

        var planes = walls.Select(w => w.Shape).OfType<Plane3D>().ToList();
        if (axes.Count != 2 || planes.Count < 2 || walls.Any(w => w.Shape is not (Plane3D or Cylinder3D)))
        {
            return null;
        }

        var radius = walls.Select(w => w.Shape).OfType<Cylinder3D>().First().Radius;
        var (a, b) = (axes[0].Meet(side)!.Value, axes[1].Meet(side)!.Value);
        var along = (b - a).Normalized();
        return planes.All(p => Math.Abs(p.Normal.Dot(along)) < Square && Math.Abs(Math.Abs(p.Distance(a)) - radius) < Square)
            ? new(new SlotEdge(0, 0, 0, (b - a).Length + (2 * radius), 2 * radius, walls.First(w => w.Shape is Cylinder3D).Internal),
                FrameAt(0.5 * (a + b), along, side), side)
            : null;
    }

    private static RigidTransform FrameAt(Vector3D origin, Vector3D x, Plane3D side) =>
        RigidTransform.FromAxes(x, side.Normal.Cross(x), side.Normal, origin);
}
