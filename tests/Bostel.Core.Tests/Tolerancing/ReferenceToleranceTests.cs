using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.ReferenceCases;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>
/// Form, orientation, location, run-out, profile, size, decisions and statistics against the verified reference cases. Measured points lie
/// in measuring coordinates that differ from the nominal's by an unknown large motion: the datums must find it.
/// </summary>
public class ReferenceToleranceTests
{
    public static TheoryData<string> Cases() => [.. ReferenceSet.Tolerances.Select(c => c.Id)];

    [Theory]
    [MemberData(nameof(Cases))]
    public void AgreesWithTheReference(string id)
    {
        var errors = ReferenceSet.Tolerances.Single(c => c.Id == id).Errors();
        Assert.NotEmpty(errors);
        foreach (var (key, error, allowed) in errors)
        {
            Assert.True(error <= allowed, $"{id}: {key} is off by {error:G3}, allowed {allowed:G3}");
        }
    }

    [Fact]
    public void TheCertificateHoldsEveryCase()
    {
        var certificate = Certificate.Issue(DateTimeOffset.UnixEpoch);
        Assert.True(certificate.Passed);
        Assert.Equal(61, certificate.Cases.Count);
        Assert.All(certificate.Cases, c => Assert.True(c.Figures > 0 && c.Error <= c.Allowed && c.Failure is null, c.Id));
        Assert.Equal(64, certificate.ReferenceSha.Length);
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
}
