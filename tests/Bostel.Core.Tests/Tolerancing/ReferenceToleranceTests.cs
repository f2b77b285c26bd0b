using System.Text.Json;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>
/// Form, orientation and location against the verified reference cases. Measured points lie in measuring coordinates that differ from the
/// nominal's by an unknown large motion: the datums must find it.
/// </summary>
public class ReferenceToleranceTests
{
    [Theory]
    [InlineData("flatness-01")]
    [InlineData("parallelism-01")]
    [InlineData("perpendicularity-01")]
    [InlineData("position-01")]
    [InlineData("position-02")]
    [InlineData("size-02")]
    [InlineData("surface-profile-01")]
    public void AgreesWithTheReference(string id)
    {
        var json = Case(id);
        var toleranced = Feature("toleranced", json.GetProperty("features").GetProperty("toleranced"));
        var system = SystemOf(json);
        var value = json.GetProperty("callout").GetProperty("characteristic").GetString() switch
        {
            "size" => Size.Diameter(toleranced),
            "flatness" => Form.Flatness(toleranced, null),
            "parallelism" => Orientation.Parallelism(toleranced, system!, null),
            "perpendicularity" => Orientation.Perpendicularity(toleranced, system!, null),

            // The profile of a plane in a datum system is the zone of its position.
            _ => Location.Position(toleranced, system!),
        };
        Assert.Equal(json.GetProperty("expected").GetProperty("value").GetDouble(), value.Raw ?? value.Value,
            Tolerance(json));
    }

    /// <summary>Median lines are given by their points: what the zone makes of them in the datums.</summary>
    [Theory]
    [InlineData("perpendicularity-02")]
    [InlineData("coaxiality-01")]
    public void AgreesOnMedianLines(string id)
    {
        var json = Case(id);
        var system = SystemOf(json)!;
        Vector3D[] line = [.. json.GetProperty("features").GetProperty("toleranced").GetProperty("points").EnumerateArray()
            .Select(p => system.Transform.Apply(V(p)))];
        var axis = system.First.IsPlane ? new(Vector3D.Zero, system.First.Direction) : system.Features[0].NominalAxis!;
        var zone = new LineZone(v => v - (v.Dot(axis.Direction) * axis.Direction),
            system.First.IsPlane ? SmallestCircle.Diameter : LineZone.Doubled);
        var value = zone.Of(
            system.Features[0], new(line, [], null, ""), RigidTransform.Identity, [.. line.Select(_ => axis.Point)], system).Raw;
        Assert.Equal(json.GetProperty("expected").GetProperty("value").GetDouble(), value, Tolerance(json));
    }

    [Fact]
    public void AgreesOnThePatternMemberByMember()
    {
        var json = Case("position-04");
        var system = SystemOf(json)!;
        var values = json.GetProperty("features").GetProperty("toleranced").GetProperty("members").EnumerateArray()
            .Select(m => Location.Position(Feature("member", m), system, straight: true).Value).ToList();
        var expected = json.GetProperty("expected");
        foreach (var (member, value) in expected.GetProperty("members").EnumerateArray().Zip(values))
        {
            Assert.Equal(member.GetProperty("value").GetDouble(), value, Tolerance(json));
        }

        Assert.Equal(expected.GetProperty("value").GetDouble(), values.Max(), Tolerance(json));
    }

    [Fact]
    public void AgreesOnTheProfileOfALine()
    {
        var json = Case("line-profile-01");
        var toleranced = json.GetProperty("features").GetProperty("toleranced");
        var arc = toleranced.GetProperty("nominal");
        var nominal = new Cylinder3D(V(arc.GetProperty("point")), V(arc.GetProperty("axis")), arc.GetProperty("radius").GetDouble());
        var deviations = nominal.Distances(SystemOf(json)!.Transform.ApplyAll(Points(toleranced)));
        Assert.Equal(json.GetProperty("expected").GetProperty("value").GetDouble(),
            Extreme.Doubled(deviations.Min(), deviations.Max()), Tolerance(json));
    }

    [Fact]
    public void ThreePlanesLeaveNoFreedomAndAPlaneWithAnAxisLeavesTheSpin()
    {
        var a = Plane("A", Vector3D.Zero, -Vector3D.UnitZ);
        var b = Plane("B", Vector3D.Zero, -Vector3D.UnitY);
        var c = Plane("C", Vector3D.Zero, -Vector3D.UnitX);
        var bore = Bore("D", new(20, 10, 0));
        int Free(params FeatureResult[] datums) => DatumSystem.Build([.. datums.Select(d => new Datum(d.Plan.Id, [d]))]).FreeDegrees;
        Assert.Equal(3, Free(a));
        Assert.Equal(1, Free(a, b));
        Assert.Equal(0, Free(a, b, c));
        Assert.Equal(1, Free(a, bore));
        Assert.Equal(0, Free(a, bore, Bore("E", new(50, 10, 0))));
        Assert.Equal(2, Free(bore));

        // However far from where it is measured the nominal axis has its point.
        Assert.Equal(2, Free(Bore("F", new(20, 10, 400)) with { Nominal = bore.Nominal }));
    }

    private static JsonElement Case(string id) => JsonDocument.Parse(
        File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Data", "tolerances", $"ref-tol-{id}.json"))).RootElement;

    private static DatumSystem? SystemOf(JsonElement json)
    {
        var labels = json.GetProperty("callout").GetProperty("datums").EnumerateArray().Select(d => d.GetProperty("label").GetString()!)
            .ToList();
        return labels.Count == 0
            ? null
            : DatumSystem.Build([.. labels.Select(l => new Datum(l, [Feature(l, json.GetProperty("features").GetProperty(l))]))]);
    }

    private static double Tolerance(JsonElement json) => json.GetProperty("tolerance").GetDouble();

    private static double[] Points(JsonElement e) =>
        [.. e.GetProperty("points").EnumerateArray().SelectMany(p => p.EnumerateArray().Select(v => v.GetDouble()))];

    private static FeatureResult Feature(string id, JsonElement e)
    {
        var points = Points(e);
        var kind = e.GetProperty("type").GetString() is "surface" ? "plane" : e.GetProperty("type").GetString()!;
        var fit = LeastSquares.Fit(kind, points);
        var shape = fit.Shape;
        if (shape is Plane3D plane && e.TryGetProperty("outward", out var outward) && plane.Normal.Dot(V(outward)) < 0)
        {
            shape = plane with { Normal = -plane.Normal };
        }

        var nominal = shape;
        double start = 0, end = 0;
        if (e.TryGetProperty("nominal", out var n))
        {
            if (kind == "plane")
            {
                nominal = new Plane3D(V(n.GetProperty("point")), V(n.GetProperty("normal")));
            }
            else
            {
                var (from, to) = (V(n.GetProperty("start")), V(n.GetProperty("end")));
                nominal = new Cylinder3D(from, (to - from).Normalized(), n.GetProperty("radius").GetDouble());
                end = (to - from).Length;
            }
        }

        return new(new(id, id, [0]), new(0, kind, 1, true, start, end, 6.28, default) { Shape = nominal }, shape, points,
            fit.Residuals)
        { Areas = [.. fit.Residuals.Select(_ => 1.0)] };
    }

    private static FeatureResult Plane(string id, Vector3D at, Vector3D normal)
    {
        var u = normal.Perpendicular();
        var v = normal.Cross(u);
        double[] points = [.. new[] { at + (10 * u), at - (10 * u), at + (10 * v), at - (10 * v) }.SelectMany(p => p.ToArray())];
        return new(new(id, id, [0]), new(0, "plane", 1, false, 0, 0, 0, at) { Shape = new Plane3D(at, normal) }, new Plane3D(at, normal),
            points, new double[4]);
    }

    private static FeatureResult Bore(string id, Vector3D at)
    {
        var shape = new Cylinder3D(at, Vector3D.UnitZ, 5);
        double[] points =
            [.. Enumerable.Range(0, 24).SelectMany(i => (at + new Vector3D(5 * Math.Cos(i), 5 * Math.Sin(i), i % 10)).ToArray())];
        return new(new(id, id, [0]), new(0, "cylinder", 1, true, 0, 10, 6.28, at) { Shape = shape }, shape, points, new double[24]);
    }

    private static Vector3D V(JsonElement e) => new(e[0].GetDouble(), e[1].GetDouble(), e[2].GetDouble());
}
