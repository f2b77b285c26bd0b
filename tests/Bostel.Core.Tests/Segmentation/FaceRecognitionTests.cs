using System.Text.Json;
using Bostel.Core.Geometry;
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

    /// <summary>The same part as a bare mesh: planes, cylinders, cones and spheres are found again from the triangles alone.</summary>
    [Fact]
    public void FacesOfAMeshNominalAreRecognised()
    {
        var mesh = new Core.Meshes.TriangleMesh(DemoParts.Model("RC-077").Mesh.Coordinates, DemoParts.Model("RC-077").Mesh.Indices);
        var (expected, found) = Match("RC-077", CadMeshSegmentation.Recognise(mesh), 0.005);
        Assert.True(found >= expected - 1, $"{found} of {expected} features were found");
    }

    [Fact]
    public void AStoredNominalComesBackAsItWas()
    {
        var model = DemoParts.Model("RC-077");
        var back = NominalModelStore.Load(NominalModelStore.Save(model));
        Assert.Equal(model.Mesh.Coordinates, back.Mesh.Coordinates);
        Assert.Equal(model.FaceOfTriangle, back.FaceOfTriangle);
        Assert.Equal(model.Faces.Select(f => (f.Kind, f.Shape, f.Internal, f.Area)), back.Faces.Select(f => (f.Kind, f.Shape, f.Internal, f.Area)));
    }

    private static (int Expected, int Found) Match(string part, NominalModel model, double tolerance)
    {
        var json = JsonDocument.Parse(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Data", "features", part + ".json"))).RootElement;
        int expected = 0, found = 0;
        foreach (var f in json.GetProperty("features").EnumerateArray())
        {
            Func<NominalFace, bool>? same = f.GetProperty("kind").GetString() switch
            {
                "plane" => face => face.Shape is Plane3D s && s.Normal.AngleTo(V(f, "normal")) < 1e-6 + (tolerance / 10) && Math.Abs(s.Distance(V(f, "point"))) < tolerance,
                "cylinder" => face => face.Shape is Cylinder3D s && s.Axis.LineAngleTo(V(f, "axis")) < 1e-6 + (tolerance / 10) && s.AxisLine.Distance(V(f, "point")) < tolerance
                    && Math.Abs(s.Radius - f.GetProperty("radius").GetDouble()) < tolerance && face.Internal == f.GetProperty("internal").GetBoolean(),
                "sphere" => face => face.Shape is Sphere3D s && Math.Abs(s.Radius - f.GetProperty("radius").GetDouble()) < tolerance,
                "cone" => face => face.Shape is Cone3D s && Math.Abs((s.HalfAngle * 180 / Math.PI) - f.GetProperty("half_angle").GetDouble()) < 1e-4 + tolerance,
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

    private static Vector3D V(JsonElement e, string key) => new(e.GetProperty(key)[0].GetDouble(), e.GetProperty(key)[1].GetDouble(), e.GetProperty(key)[2].GetDouble());
}
