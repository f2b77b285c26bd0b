using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Tests.Fitting;
using Bostel.Core.Tests.Tolerancing;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Features;

/// <summary>Constructions against closed forms, and their uncertainty against many noisy parts.</summary>
public class ConstructionTests
{
    private static readonly Plane3D _floor = new(new(5, 5, 0), Vector3D.UnitZ);
    private static readonly Plane3D _wall = new(new(0, 4, 3), Vector3D.UnitX);
    private static readonly Plane3D _side = new(new(4, 0, 3), Vector3D.UnitY);
    private static readonly Cylinder3D _bore = new(new(20, 10, -3), Vector3D.UnitZ, 4);

    /// <summary>What is made, from what, and where it must be; everything is put away from the origin and turned as well.</summary>
    public static TheoryData<string> Cases => [.. _cases.Keys];

    private static readonly Dictionary<string, (ConstructionPlan Plan, Shape[] From, Shape Expected)> _cases = new()
    {
        ["corner"] = (new PointOfPlanesPlan("c", "c"), [_floor, _wall, _side], Point(0, 0, 0)),
        ["pierced"] = (new PiercedPointPlan("c", "c"), [_floor, _bore], Point(20, 10, 0)),
        ["crossing of skew axes"] = (new NearestPointPlan("c", "c"),
            [new Line3D(new(-7, 0, 0), Vector3D.UnitX), new Line3D(new(3, 9, 2), Vector3D.UnitY)], Point(3, 0, 1)),
        ["apex"] = (new CentrePlan("c", "c"), [new Cone3D(new(1, 2, 3), Vector3D.UnitZ, 0.3)], Point(1, 2, 3)),
        ["onto a plane"] = (new ProjectedPointPlan("c", "c"), [Point(3, 4, 9), _floor], Point(3, 4, 0)),
        ["onto an axis"] = (new ProjectedPointPlan("c", "c"), [Point(3, 4, 9), _bore], Point(20, 10, 9)),
        ["middle"] = (new MidPointPlan("c", "c"), [Point(0, 0, 0), Point(4, 2, 0), Point(2, 4, 6)], Point(2, 2, 2)),
        ["crown of a sphere"] = (new ExtremePointPlan("c", "c"), [new Sphere3D(new(1, 2, 3), 4), _floor], Point(1, 2, 7)),
        ["lowest point of a ring"] = (new ExtremePointPlan("c", "c") { Reverse = true },
            [new Torus3D(new(1, 2, 3), Vector3D.UnitX, 10, 2), _floor], Point(1, 2, -9)),
        ["side of a hole"] = (new ExtremePointPlan("c", "c"), [new Circle3D(new(1, 2, 0), Vector3D.UnitZ, 5), _wall], Point(6, 2, 0)),
        ["end of a slot"] = (new ExtremePointPlan("c", "c") { Reverse = true },
            [new Slot3D(new(1, 2, 0), Vector3D.UnitZ, Vector3D.UnitX, 14, 6), _wall], Point(-6, 2, 0)),
        ["axis through centres"] = (new AxisThroughPlan("c", "c"), [Point(1, 1, 1), Point(3, 1, 1), Point(8, 1, 1)],
            new Line3D(new(0, 1, 1), Vector3D.UnitX)),
        ["line of planes"] = (new AxisOfPlanesPlan("c", "c"), [_floor, _wall], new Line3D(default, Vector3D.UnitY)),
        ["mid axis"] = (new MidAxisPlan("c", "c"), [_bore, new Cylinder3D(new(0, 0, 8), -Vector3D.UnitZ, 2)],
            new Line3D(new(10, 5, 0), Vector3D.UnitZ)),
        ["along"] = (new AxisAlongPlan("c", "c"), [Point(1, 2, 3), _wall], new Line3D(new(0, 2, 3), Vector3D.UnitX)),
        ["plane through points"] = (new PlaneThroughPlan("c", "c"), [Point(0, 0, 2), Point(9, 0, 2), Point(0, 7, 2), Point(9, 7, 2)],
            new Plane3D(new(0, 0, 2), Vector3D.UnitZ)),
        ["mid plane"] = (new MidPlanePlan("c", "c"), [_floor, new Plane3D(new(2, 2, 8), -Vector3D.UnitZ)],
            new Plane3D(new(0, 0, 4), Vector3D.UnitZ)),
        ["bisecting plane"] = (new MidPlanePlan("c", "c"), [_floor, _wall],
            new Plane3D(default, new Vector3D(-1, 0, 1).Normalized())),
        ["offset"] = (new OffsetPlanePlan("c", "c") { Distance = 2.5 }, [_floor], new Plane3D(new(0, 0, 2.5), Vector3D.UnitZ)),
        ["plane of an axis"] = (new PlaneOfAxisPlan("c", "c"), [_bore, Point(0, 10, 4)], new Plane3D(new(20, 10, 0), -Vector3D.UnitY)),
        ["across"] = (new PlaneAcrossPlan("c", "c"), [_bore, Point(1, 1, 7)], new Plane3D(new(0, 0, 7), Vector3D.UnitZ)),
        ["mirror"] = (new MirrorPlanePlan("c", "c"), [Point(-2, 0, 0), Point(6, 0, 0), Point(-1, 5, 2), Point(5, 5, 2)],
            new Plane3D(new(2, 0, 0), Vector3D.UnitX)),
        ["pitch circle"] = (new CircleThroughPlan("c", "c"), [Bore(10, 0), Bore(0, 10), Bore(-10, 0), Bore(0, -10), _floor],
            new Circle3D(default, Vector3D.UnitZ, 10)),
        ["section of a cone"] = (new SectionCirclePlan("c", "c"), [new Cone3D(new(0, 0, -5), Vector3D.UnitZ, Math.Atan(0.5)), _floor],
            new Circle3D(default, Vector3D.UnitZ, 2.5)),
        ["section of a sphere"] = (new SectionCirclePlan("c", "c"), [new Sphere3D(new(1, 1, 3), 5), _floor],
            new Circle3D(new(1, 1, 0), Vector3D.UnitZ, 4)),
        ["gauge"] = (new GaugeCirclePlan("c", "c") { Diameter = 6 }, [new Cone3D(new(0, 0, -5), Vector3D.UnitZ, Math.Atan(0.5))],
            new Circle3D(new(0, 0, 1), Vector3D.UnitZ, 3)),
        ["average of bores"] = (new AveragePlan("c", "c"),
            [new Cylinder3D(new(10, 0, -3), Vector3D.UnitZ, 4), new Cylinder3D(new(-4, 6, 9), -Vector3D.UnitZ, 4.5)],
            new Circle3D(new(3, 3, 3), Vector3D.UnitZ, 4.25)),
        ["average of spheres"] = (new AveragePlan("c", "c"), [new Sphere3D(new(1, 2, 3), 4), new Sphere3D(new(5, 2, 3), 5)],
            new Sphere3D(new(3, 2, 3), 4.5)),
        ["average of slots"] = (new AveragePlan("c", "c"),
            [
                new Slot3D(default, Vector3D.UnitZ, Vector3D.UnitX, 14, 6),
                new Slot3D(new(2, 8, 0), -Vector3D.UnitZ, -Vector3D.UnitX, 15, 6.5),
            ],
            new Slot3D(new(1, 4, 0), Vector3D.UnitZ, Vector3D.UnitX, 14.5, 6.25)),
        ["ring of bores, one left out"] = (new PolarPatternPlan("c", "c") { StepDegrees = 60 },
            [Ring(0), Ring(1), Ring(2), Ring(4), Ring(5), _floor], new Circle3D(new(3, -2, 0), Vector3D.UnitZ, 20)),
        ["row of points"] = (new LinearPatternPlan("c", "c") { Step = 8 }, [Point(-4, 1, 2), Point(4, 1, 2), Point(20, 1, 2)],
            new Line3D(new(0, 1, 2), Vector3D.UnitX)),
    };

    private static Cylinder3D Ring(int k) =>
        new(new(3 + (20 * Math.Cos(k * Math.PI / 3)), -2 + (20 * Math.Sin(k * Math.PI / 3)), 5), Vector3D.UnitZ, 3);

    [Theory]
    [MemberData(nameof(Cases))]
    public void EachIsItsClosedForm(string name)
    {
        var (plan, from, expected) = _cases[name];
        foreach (var pose in (RigidTransform[])[RigidTransform.Identity,
            RigidTransform.FromAxisAngle(new Vector3D(1, -2, 0.5).Normalized(), 0.9) with { Translation = new(3000, -800, 1200) }])
        {
            var made = plan.Make([.. from.Select((s, i) => At($"f{i}", s.Transformed(pose)))]).OrThrow();

            // A few roundings of 3000 mm.
            AssertSame(expected.Transformed(pose), made, 1e-10);
        }
    }

    /// <summary>Faces square to each other lean a little to either side: the plane that bisects them stays where it is.</summary>
    [Theory]
    [InlineData(1e-3)]
    [InlineData(0)]
    [InlineData(-1e-3)]
    public void ACornerIsBisectedTheSameHoweverItsFacesLean(double lean)
    {
        var wall = new Plane3D(default, new Vector3D(Math.Cos(lean), 0, Math.Sin(lean)));
        var made = (Plane3D)new MidPlanePlan("c", "c").Make([At("floor", _floor), At("wall", wall)]).OrThrow();
        Assert.Equal((Math.PI / 4) + (lean / 2), made.Normal.AngleTo(Vector3D.UnitZ), 1e-12);
        Assert.True(made.Normal.X < 0);
    }

    [Fact]
    public void WhatIsNotDeterminedSaysWhy()
    {
        Assert.Contains("parallel", Why(new AxisOfPlanesPlan("c", "C"), _floor, new Plane3D(new(0, 0, 4), -Vector3D.UnitZ)));
        var other = new Plane3D(new(9, 0, 0), Vector3D.UnitX);
        Assert.Contains("do not meet in one point", Why(new PointOfPlanesPlan("c", "C"), _floor, _wall, other));
        Assert.Contains("runs along", Why(new PiercedPointPlan("c", "C"), _wall, _bore));
        Assert.Contains("lie on a line", Why(new PlaneThroughPlan("c", "C"), Point(0, 0, 0), Point(1, 1, 1), Point(2, 2, 2)));
        Assert.Contains("on the axis", Why(new PlaneOfAxisPlan("c", "C"), _bore, Point(20, 10, 5)));
        Assert.Contains("all of it", Why(new ExtremePointPlan("c", "C"), new Circle3D(default, Vector3D.UnitZ, 5), _floor));
        Assert.Contains("all of one", Why(
            new ExtremePointPlan("c", "C"), new Slot3D(default, Vector3D.UnitZ, Vector3D.UnitX, 14, 6), _side));
        Assert.Contains("between two steps", Why(
            new LinearPatternPlan("c", "C") { Step = 8 }, Point(0, 0, 0), Point(8, 0, 0), Point(20, 0, 0)));
        Assert.Contains("at the same step", Why(
            new LinearPatternPlan("c", "C") { Step = 8 }, Point(0, 0, 0), Point(8, 0, 0), Point(8.5, 0, 0)));
        Assert.Contains("do not stand in a row", Why(
            new LinearPatternPlan("c", "C") { Step = 8 }, Point(0, 0, 0), Point(8, 3, 0), Point(16, 0, 0)));
        Assert.Contains("does not stand the same way", Why(
            new AveragePlan("c", "C"), new Circle3D(default, Vector3D.UnitZ, 5), new Circle3D(default, Vector3D.UnitX, 5)));
        Assert.Contains("no point of f0 is nearest", Why(
            new SurfacePointPlan("c", "C") { At = [0, 0, 7] }, new Cylinder3D(default, Vector3D.UnitZ, 5)));
        Assert.Contains("misses", Why(new SectionCirclePlan("c", "C"), new Sphere3D(new(0, 0, 9), 2), _floor));
        Assert.Contains("needs two planes; it is given f0 (plane), f1 (cylinder)", Why(new AxisOfPlanesPlan("c", "C"), _floor, _bore));
        string Why(ConstructionPlan plan, params Shape[] from) => plan.Make([.. from.Select((s, i) => At($"f{i}", s))]).Why!;
    }

    /// <summary>
    /// Corner, line and pierced point of noisy surfaces, many times: the errors scatter as is stated. The worst direction's standard
    /// deviation from 400 parts is known within 3.5 % (one standard error); four of these and the stated one's own scatter make 20 %.
    /// </summary>
    [Theory]
    [InlineData("corner")]
    [InlineData("line")]
    [InlineData("pierced")]
    [InlineData("gauge")]
    public void UncertaintyIsThatOfManyParts(string what)
    {
        const int Parts = 400;
        var (errors, stated) = (new List<Vector3D>(), 0.0);
        var cone = new Cone3D(new(20, 10, -10), Vector3D.UnitZ, 0.4);
        for (var seed = 0; seed < Parts; seed++)
        {
            FeatureResult Patch(string id, Shape s, int k) => MadeFeature.Fitted(
                id, s, FitShapes.Points(s, 1, 0.02, (5 * seed) + k, 60));
            FeatureResult[] from = what switch
            {
                "corner" => [Patch("a", _floor, 0), Patch("b", _wall, 1), Patch("c", _side, 2)],
                "line" => [Patch("a", _floor, 0), Patch("b", _wall, 1)],
                "pierced" => [Patch("a", _floor, 0), Patch("d", _bore, 3)],
                _ => [Patch("e", cone, 4)],
            };
            ConstructionPlan plan = what switch
            {
                "corner" => new PointOfPlanesPlan("x", "X"),
                "line" => new AxisOfPlanesPlan("x", "X"),
                "pierced" => new PiercedPointPlan("x", "X"),
                _ => new GaugeCirclePlan("x", "X") { Diameter = 12 },
            };
            var made = Constructed.Of(plan, from);
            errors.Add(made.Shape switch
            {
                Line3D l => l.Project(made.Nominal.Center) - made.Nominal.Center,
                Circle3D c => c.Center - new Vector3D(20, 10, -10 + (6 / Math.Tan(0.4))),
                Sphere3D s => s.Center - made.Nominal.Center,
                _ => default,
            });
            stated += made.PositionSigma / Parts;
        }

        var spread = new double[3, 3];
        foreach (var e in errors)
        {
            for (var i = 0; i < 9; i++)
            {
                spread[i / 3, i % 3] += e[i / 3] * e[i % 3] / Parts;
            }
        }

        Assert.Equal(1, Math.Sqrt(SymmetricEigen.Solve(spread).Values[^1]) / stated, 0.2);
    }

    [Fact]
    public void APointOfASurfaceIsTheFootOfItsPlace()
    {
        Vector3D Foot(Shape surface, double[] at) =>
            ((Sphere3D)new SurfacePointPlan("c", "c") { At = at }.Make([At("f0", surface)]).OrThrow()).Center;
        Assert.Equal(0, Vector3D.Distance(new(7, 8, 0), Foot(_floor, [7, 8, 3])), 1e-12);
        Assert.Equal(0, Vector3D.Distance(new(24, 10, 5), Foot(_bore, [22, 10, 5])), 1e-12);
        Assert.Equal(0, Vector3D.Distance(new(1, 2, 7), Foot(new Sphere3D(new(1, 2, 3), 4), [1, 2, 30])), 1e-12);

        // A cone of 45°: the foot of a point on its axis, 2 above the apex, lies 1 up and 1 out.
        var foot = Foot(new Cone3D(default, Vector3D.UnitZ, Math.PI / 4), [1e-9, 0, 2]);
        Assert.Equal(0, Vector3D.Distance(new(1, 0, 1), foot), 1e-8);
    }

    /// <summary>
    /// Places moved in turn out and in, and ahead and back: neither centre, radius nor phase of the ring follows such an error, as the sum
    /// of (−1)^k·exp(i·k·60°) is zero, so that all of it must be found again.
    /// </summary>
    [Fact]
    public void EachPlaceOfARingIsToldAgainstTheIdeal()
    {
        const double R = 20, Out = 0.03, Ahead = 0.02;
        FeatureResult Ball(int k)
        {
            var (a, s) = (k * Math.PI / 3, k % 2 == 0 ? 1 : -1);
            var (u, v) = (new Vector3D(Math.Cos(a), Math.Sin(a), 0), new Vector3D(-Math.Sin(a), Math.Cos(a), 0));
            var at = new Vector3D(5, -3, 1);
            var ball = new Sphere3D(at + (R * u), 4);
            return MadeFeature.Fitted($"b{k}", ball, FitShapes.Points(ball, 1, 0, k, 60)) with
            {
                Shape = new Sphere3D(at + ((R + (s * Out)) * u) + (s * Ahead * v), 4),
            };
        }

        var made = Constructed.Of(new PolarPatternPlan("x", "X") { StepDegrees = 60 }, [.. Enumerable.Range(0, 6).Select(Ball)]);
        var reading = MeasuredFeature.Of(made).Pattern!;
        Assert.Equal(60, reading.NominalStep, 1e-9);

        // Ahead and back on circles of two sizes are not quite the same angle: the ring begins at their mean.
        double Angle(int s) => R * Math.Atan2(s * Ahead, R + (s * Out));
        var mean = (Angle(1) + Angle(-1)) / 2;
        foreach (var (place, k) in reading.Places.Select((p, k) => (p, k)))
        {
            var s = k % 2 == 0 ? 1 : -1;
            Assert.Equal($"b{k}", place.Feature);
            Assert.Equal(Math.Sqrt(Math.Pow(R + (s * Out), 2) + (Ahead * Ahead)) - R, place.Across, 1e-9);
            Assert.Equal(Angle(s) - mean, place.Along, 1e-9);
        }
    }

    /// <summary>
    /// A row with a step too long by 0.01 mm: the step is found, and each place lies by its number times that from the ideal; the step of
    /// many noisy rows scatters as is stated, within 15 %: four standard errors of a standard deviation from 400 rows.
    /// </summary>
    [Fact]
    public void TheStepOfARowIsFoundWithItsUncertainty()
    {
        const int Rows = 400;
        var (steps, stated) = (new double[Rows], 0.0);
        for (var row = 0; row < Rows; row++)
        {
            FeatureResult Ball(int k, double noise)
            {
                var nominal = new Sphere3D(new(8 * k, 1, 2), 3);
                var shifted = new Sphere3D(nominal.Center + new Vector3D(0.01 * k, 0, 0), 3);
                var fitted = MadeFeature.Fitted($"b{k}", shifted, FitShapes.Points(shifted, 1, noise, (9 * row) + k, 60));
                return fitted with { Nominal = fitted.Nominal with { Shape = nominal, Center = nominal.Center } };
            }

            PatternReading Reading(double noise) => MeasuredFeature.Of(Constructed.Of(
                new LinearPatternPlan("x", "X") { Step = 8 }, [.. Enumerable.Range(0, 5).Select(k => Ball(k, noise))])).Pattern!;
            var noisy = Reading(0.02);
            steps[row] = noisy.Step;
            stated += noisy.StepSigma / Rows;
            if (row == 0)
            {
                var exact = Reading(0);
                Assert.Equal(8.01, exact.Step, 1e-9);
                Assert.Equal([-0.02, -0.01, 0, 0.01, 0.02], exact.Places.Select(p => Math.Round(p.Along, 9)));
            }
        }

        var mean = steps.Average();
        var seen = Math.Sqrt(steps.Sum(s => (s - mean) * (s - mean)) / (Rows - 1));
        Assert.Equal(8.01, mean, 4 * stated / Math.Sqrt(Rows));
        Assert.InRange(seen / stated, 0.85, 1.15);
    }

    /// <summary>A plane offset by 10 and the plane itself err together: their distance is exact.</summary>
    [Fact]
    public void WhatErrsTogetherDoesNotAddUp()
    {
        var floor = MadeFeature.Fitted("a", _floor, FitShapes.Points(_floor, 1, 0.02, 1, 60));
        var raised = Constructed.Of(new OffsetPlanePlan("x", "X") { Distance = 10 }, [floor]);
        var distance = Size.Distance(floor, raised);
        Assert.Equal(10, distance.Value, 1e-9);
        Assert.InRange(Contribution.Expanded(distance.Budget!), 0, 1e-6);
        Assert.True(raised.PositionSigma > 1e-3);
    }

    [Fact]
    public void AConstructionHasNoForm()
    {
        var floor = MadeFeature.Fitted("a", _floor, FitShapes.Points(_floor, 1, 0.02, 1, 60));
        var raised = Constructed.Of(new OffsetPlanePlan("x", "Raised") { Distance = 10 }, [floor]);
        Assert.Contains("Raised is constructed", Assert.Throws<BadInputException>(() => Form.Flatness(raised, null)).Message);
    }

    private static Sphere3D Point(double x, double y, double z) => Situated.Point(new(x, y, z));

    private static Cylinder3D Bore(double x, double y) => new(new(x, y, 4), Vector3D.UnitZ, 1);

    /// <summary>Measured at its own point.</summary>
    private static Situated At(string name, Shape shape) => new(name, shape, FitShapes.PointOf(shape));

    private static void AssertSame(Shape expected, Shape made, double tolerance)
    {
        Assert.Equal(expected.GetType(), made.GetType());
        switch (expected, made)
        {
            case (Plane3D e, Plane3D m):
                Assert.Equal(1, Math.Abs(e.Normal.Dot(m.Normal)), tolerance);
                Assert.Equal(0, e.Distance(m.Point), tolerance);
                break;
            case (Line3D e, Line3D m):
                Assert.Equal(1, Math.Abs(e.Direction.Dot(m.Direction)), tolerance);
                Assert.Equal(0, e.Distance(m.Point), tolerance);
                break;
            default:
                Assert.Equal(0, Vector3D.Distance(FitShapes.PointOf(expected), FitShapes.PointOf(made)), tolerance);
                Assert.Equal(FitShapes.RadiusOf(expected)!.Value, FitShapes.RadiusOf(made)!.Value, tolerance);
                break;
        }
    }
}
