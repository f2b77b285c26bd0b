using System.Text.Json;
using Bostel.Cad;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;

namespace Bostel.Core.Tests.Segmentation;

/// <summary>Recognised faces against the exact features the demo parts were made with.</summary>
public class FaceRecognitionTests
{
    [Theory]
    [InlineData("VH-310")]
    [InlineData("RC-077")]
    [InlineData("HW-118")]
    [InlineData("LB-045")]
    public void CadFacesHaveTheExactParameters(string part)
    {
        var (expected, found) = Match(part, DemoParts.Model(part), 1e-6);
        Assert.True(expected > 5);
        Assert.Equal(expected, found);
    }

    /// <summary>
    /// The same parts as bare meshes, as a file keeps them in single precision or with few decimals: the triangles alone give back every
    /// face of the CAD model that is no freeform surface, and no other, whatever the tessellation, the order of the triangles and the pose.
    /// </summary>
    /// <param name="chord">Largest distance of a facet from its surface, mm; 0 for that of the translator.</param>
    /// <param name="decimals">Of a text file; 0 for single precision.</param>
    [Theory]
    [InlineData("RC-077", 0.003)]
    [InlineData("RC-077", 0, true)]
    [InlineData("RC-077", 0.02, false, 1.2)]
    [InlineData("RC-077", 0.03, false, 1, 4)]
    [InlineData("LB-045", 0, true)]
    [InlineData("LB-045", 0.03, false, 1, 3)]
    [InlineData("VH-310", 0.05, true)]
    [InlineData("FB-620", 0.02)]
    [InlineData("FB-620", 0.05, true)]
    [InlineData("HW-118", 0.05)]
    public async Task FacesOfAMeshAreThoseOfTheCadModel(
        string part, double chord, bool turned = false, double sensitivity = 1, int decimals = 0)
    {
        var limits = chord > 0 ? CadLimits.Default with { ChordShare = 0, ChordError = chord } : null;
        var file = DemoParts.NominalPath(part);
        var cancel = TestContext.Current.CancellationToken;
        var cad = await CadTranslator.ReadAsync(file, Path.GetFileName(file), limits, TranslationCache.OfUser(), cancel);
        var pose = turned
            ? RigidTransform.FromAxisAngle(new(1, 2, -0.4), 2.2) with { Translation = new(30, -10, 40) }
            : RigidTransform.Identity;
        var mesh = cad.Mesh.Transformed(pose);
        var order = Enumerable.Range(0, mesh.TriangleCount).ToArray();
        if (turned)
        {
            new Random(4).Shuffle(order);
        }

        var written = new TriangleMesh([.. mesh.Coordinates.Select(c => decimals > 0 ? Math.Round(c, decimals) : (float)c)],
            [.. order.SelectMany(t => mesh.Indices[(3 * t)..((3 * t) + 3)])]);
        var model = CadMeshSegmentation.Recognise(written, sensitivity);
        var exact = cad.Faces.Where(f => f.Shape is not null).ToList();

        // VH-310 has two freeform faces of a single triangle each, which is flat.
        Assert.Equal(Kinds(exact), Kinds(model.Faces.Where(f => f.Shape is not null && f.Area > 1e-3)));
        var shared = new Dictionary<(int Cad, int Mesh), double>();
        for (var t = 0; t < order.Length; t++)
        {
            var pair = (cad.FaceOfTriangle[order[t]], model.FaceOfTriangle[t]);
            shared[pair] = shared.GetValueOrDefault(pair) + written.TriangleArea(t);
        }

        foreach (var f in exact)
        {
            var g = model.Faces[shared.Where(p => p.Key.Cad == f.Id).MaxBy(p => p.Value).Key.Mesh];
            Assert.True(g.Kind == f.Kind && g.Internal == f.Internal && shared[(f.Id, g.Id)] > 0.97 * Math.Max(f.Area, g.Area),
                $"{f.Shape}, {f.Area:0.0} mm²: found {g.Shape}, {g.Area:0.0} mm²");
            if (f.Area > 20)
            {
                Assert.True(Same(f.Shape!.Transformed(pose), g.Shape!, pose.Apply(f.Center)),
                    $"{f.Shape!.Transformed(pose)}: found {g.Shape}");
            }
        }
    }

    [Fact]
    public void ASensitivityOutOfRangeIsRefused() =>
        Assert.Contains("sensitivity", Assert.Throws<BadInputException>(() => CadMeshSegmentation.Recognise(Shapes.Cube(1, 2), 3)).Message,
            StringComparison.Ordinal);

    /// <summary>A bumpy freeform surface is no collection of small cylinders: no exact surface of it is claimed.</summary>
    [Fact]
    public void AFreeformSurfaceStaysOne()
    {
        const int N = 60;
        var coordinates = new List<double>();
        var indices = new List<int>();
        for (var i = 0; i <= N; i++)
        {
            for (var j = 0; j <= N; j++)
            {
                var (x, y) = (i * 60.0 / N, j * 60.0 / N);
                coordinates.AddRange([x, y, (4 * Math.Sin(0.13 * x) * Math.Cos(0.17 * y)) + (0.01 * x * y)]);
                if (i < N && j < N)
                {
                    var a = (i * (N + 1)) + j;
                    indices.AddRange([a, a + N + 1, a + N + 2, a, a + N + 2, a + 1]);
                }
            }
        }

        var model = CadMeshSegmentation.Recognise(new([.. coordinates.Select(c => (double)(float)c)], [.. indices]));
        Assert.True(model.Faces.Where(f => f.Shape is null).Sum(f => f.Area) > 0.97 * model.Faces.Sum(f => f.Area));
    }

    [Fact]
    public void ThePrecisionOfAFileIsThatOfItsNumbers()
    {
        var random = new Random(2);
        double[] exact = [.. Enumerable.Range(0, 3000).Select(_ => 200 * random.NextDouble())];
        Assert.Equal(0.0005, CoordinatePrecision.Of([.. exact.Select(c => Math.Round(c, 3))]), 1e-9);

        // Between 128 and 256 single-precision numbers are 2⁻¹⁶ apart.
        Assert.Equal(Math.ScaleB(1, -17), CoordinatePrecision.Of([.. exact.Select(c => (double)(float)c)]), 1e-12);
        Assert.True(CoordinatePrecision.Of(exact) < 1e-12);
    }

    private static string Kinds(IEnumerable<NominalFace> faces) =>
        string.Join(", ", faces.GroupBy(f => f.Kind).OrderBy(g => g.Key, StringComparer.Ordinal).Select(g => $"{g.Count()} {g.Key}"));

    /// <summary>Same kind, place and size, within what single precision of the corners leaves of small faces.</summary>
    private static bool Same(Shape p, Shape q, Vector3D center) => (p, q) switch
    {
        (Plane3D a, Plane3D b) => a.Normal.AngleTo(b.Normal) < 1e-3 && Math.Abs(a.Distance(b.Point)) < 0.005,
        (Cylinder3D a, Cylinder3D b) => a.Axis.LineAngleTo(b.Axis) < 2e-3 && Math.Abs(a.Radius - b.Radius) < 0.005
            && Vector3D.Distance(a.AxisLine.Project(center), b.AxisLine.Project(center)) < 0.005,
        (Cone3D a, Cone3D b) => Math.Abs(a.HalfAngle - b.HalfAngle) < 2e-3 && Vector3D.Distance(a.Apex, b.Apex) < 0.02,
        (Sphere3D a, Sphere3D b) => Math.Abs(a.Radius - b.Radius) < 0.005 && Vector3D.Distance(a.Center, b.Center) < 0.005,
        (Torus3D a, Torus3D b) => Math.Abs(a.MajorRadius - b.MajorRadius) < 0.005 && Math.Abs(a.MinorRadius - b.MinorRadius) < 0.005
            && Vector3D.Distance(a.Center, b.Center) < 0.005,
        _ => false,
    };

    [Fact]
    public void AStoredNominalComesBackAsItWas()
    {
        var model = DemoParts.Model("RC-077");
        var back = NominalModelStore.Load(NominalModelStore.Save(model));
        Assert.Equal(model.Mesh.Coordinates, back.Mesh.Coordinates);
        Assert.Equal(model.FaceOfTriangle, back.FaceOfTriangle);
        Assert.Equal(
            model.Faces.Select(f => (f.Kind, f.Shape, f.Internal, f.Area)), back.Faces.Select(f => (f.Kind, f.Shape, f.Internal, f.Area)));
    }

    private static (int Expected, int Found) Match(string part, NominalModel model, double tolerance)
    {
        var json = JsonDocument.Parse(
            File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Data", "features", part + ".json"))).RootElement;
        int expected = 0, found = 0;
        foreach (var f in json.GetProperty("features").EnumerateArray())
        {
            Func<NominalFace, bool>? same = f.GetProperty("kind").GetString() switch
            {
                "plane" => face => face.Shape is Plane3D s && s.Normal.AngleTo(V(f, "normal")) < 1e-6 + (tolerance / 10)
                    && Math.Abs(s.Distance(V(f, "point"))) < tolerance,
                "cylinder" => face => face.Shape is Cylinder3D s && s.Axis.LineAngleTo(V(f, "axis")) < 1e-6 + (tolerance / 10)
                    && s.AxisLine.Distance(V(f, "point")) < tolerance
                    && Math.Abs(s.Radius - f.GetProperty("radius").GetDouble()) < tolerance && face.Internal == f.GetProperty("internal")
                        .GetBoolean(),
                "sphere" => face => face.Shape is Sphere3D s && Math.Abs(s.Radius - f.GetProperty("radius").GetDouble()) < tolerance,
                "cone" => face => face.Shape is Cone3D s
                    && Math.Abs((s.HalfAngle * 180 / Math.PI) - f.GetProperty("half_angle").GetDouble()) < 1e-4 + tolerance,
                _ => null,
            };
            if (same is not null)
            {
                expected++;
                found += model.Faces.Any(same) ? 1 : 0;
            }
        }

        return (expected, found);
    }

    private static Vector3D V(JsonElement e, string key) =>
        new(e.GetProperty(key)[0].GetDouble(), e.GetProperty(key)[1].GetDouble(), e.GetProperty(key)[2].GetDouble());
}
