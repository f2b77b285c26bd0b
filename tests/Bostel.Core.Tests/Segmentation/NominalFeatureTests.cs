using Bostel.Core.Nominals;

namespace Bostel.Core.Tests.Segmentation;

/// <summary>Features named from faces and what adjoins them, on CAD of the example parts whose drawings name them.</summary>
public class NominalFeatureTests
{
    [Theory]
    [InlineData("VH-310")]
    [InlineData("LB-045")]
    [InlineData("HW-118")]
    [InlineData("RC-077")]
    [InlineData("FB-620")]
    public void EveryFaceBelongsToOneFeature(string part)
    {
        var nominal = DemoParts.Model(part);
        var features = NominalFeatures.Find(nominal);
        Assert.Equal(Enumerable.Range(0, nominal.Faces.Count), features.SelectMany(f => f.Faces).Order());
        Assert.All(features, f => Assert.Empty(f.Faces.Intersect(f.Adjoining)));

        // Adjoining is mutual: a face next to a feature has a face of it next to itself.
        var borders = FaceBorders.Of(nominal);
        Assert.All(features, f => Assert.All(f.Adjoining, a => Assert.NotEmpty(borders.Adjoining([a]).Intersect(f.Faces))));
    }

    [Theory]
    [InlineData("VH-310", "counterbore", 1)]
    [InlineData("HW-118", "counterbore", 1)]
    [InlineData("RC-077", "countersink", 1)]
    [InlineData("LB-045", "bore", 5)]
    [InlineData("LB-045", "chamfer", 0)]
    [InlineData("FB-620", "bore", 2)]
    public void FeaturesAreNamed(string part, string kind, int count) =>
        Assert.Equal(count, NominalFeatures.Find(DemoParts.Model(part)).Count(f => f.Kind == kind));

    [Theory]
    [InlineData("VH-310")]
    [InlineData("LB-045")]
    public void FilletsAreHollowAndRoundsAreNot(string part)
    {
        var nominal = DemoParts.Model(part);
        foreach (var feature in NominalFeatures.Find(nominal))
        {
            if (feature.Kind is "fillet" or "round")
            {
                Assert.All(feature.Faces, f => Assert.Equal(feature.Kind == "fillet", nominal.Faces[f].Internal));
            }

            if (feature.Kind is "bore" or "counterbore" or "shaft")
            {
                Assert.All(feature.Faces, f => Assert.Equal(feature.Kind != "shaft", nominal.Faces[f].Internal));
            }
        }
    }

    /// <summary>A bore split in two half cylinders by two seams is one bore.</summary>
    [Fact]
    public void ASplitBoreIsOneFeature()
    {
        var nominal = DemoParts.Model("VH-310");
        var bore = nominal.Faces.Where(f => f.Kind == "cylinder" && f.Internal && f.Sweep > 6).MaxBy(f => f.Area)!;
        var axis = ((Core.Geometry.Cylinder3D)bore.Shape!).AxisLine;
        var side = axis.Direction.Perpendicular();
        var label = (int[])nominal.FaceOfTriangle.Clone();
        for (var t = 0; t < label.Length; t++)
        {
            var (a, b, c) = nominal.Mesh.Triangle(t);
            label[t] = label[t] == bore.Id && (((a + b + c) / 3) - axis.Point).Dot(side) > 0 ? nominal.Faces.Count : label[t];
        }

        NominalFace Face(int id) =>
            NominalFaceBuilder.Build(id, bore.Shape, nominal.Mesh, [.. Enumerable.Range(0, label.Length).Where(t => label[t] == id)]);
        List<NominalFace> faces = [.. nominal.Faces, Face(nominal.Faces.Count)];
        faces[bore.Id] = Face(bore.Id);
        var split = new NominalModel(nominal.Mesh, label, faces, nominal.Edges, nominal.ChordError, []);
        var feature = NominalFeatures.Find(split).Single(f => f.Faces.Contains(bore.Id));
        Assert.Equal([bore.Id, nominal.Faces.Count], feature.Faces);
        Assert.Equal(NominalFeatures.Find(nominal).Single(f => f.Faces.Contains(bore.Id)).Kind, feature.Kind);
    }
}
