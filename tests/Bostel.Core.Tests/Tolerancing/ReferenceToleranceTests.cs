using System.Text.Json;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Segmentation;
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
        var json = JsonDocument.Parse(
            File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Data", "tolerances", $"ref-tol-{id}.json"))).RootElement;
        var features = json.GetProperty("features");
        var toleranced = Feature("toleranced", features.GetProperty("toleranced"));
        var datums = json.GetProperty("callout").GetProperty("datums").EnumerateArray().Select(d => d.GetProperty("label").GetString()!)
            .Select(l => (Label: l, Feature: Feature(l, features.GetProperty(l)))).ToList();
        var system = datums.Count == 0 ? null : DatumSystem.Build([.. datums.Select(d => new Datum(d.Label, [d.Feature]))]);
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
            json.GetProperty("tolerance").GetDouble());
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

    private static FeatureResult Feature(string id, JsonElement e)
    {
        var points = e.GetProperty("points").EnumerateArray().SelectMany(p => p.EnumerateArray().Select(v => v.GetDouble())).ToArray();
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
