using Bostel.Cad;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Tests.Formats;

/// <summary>CAD files against the closed forms of what they hold.</summary>
public class CadFileTests
{
    private const double Inch = 25.4;

    [Fact]
    public async Task AnAssemblyKeepsItsPartsNamesColoursAndUnit()
    {
        var model = await ReadAsync("gate.step");
        Assert.Equal([new("plate", "#ff0000"), new("pin", "#0000ff"), new NominalBody("pin", "#0000ff")], model.Bodies);

        // A box of six faces and two cylinders of three.
        Assert.Equal([6, 3, 3], Enumerable.Range(0, 3).Select(b => model.Faces.Count(f => f.Body == b)));
        Assert.Equal("#00ff00", Assert.Single(model.Faces, f => f.Color is not null).Color);
        var plate = 2 * ((40 * 30) + (40 * 5) + (30 * 5));
        Assert.Equal(plate * Inch * Inch, model.Faces.Where(f => f.Body == 0).Sum(f => f.Area), 1e-6 * plate * Inch * Inch);

        // Both pins stand on the plate, 20 inches apart.
        var axes = model.Faces.Where(f => f.Shape is Cylinder3D).Select(f => (Cylinder3D)f.Shape!).OrderBy(c => c.Point.X).ToList();
        Assert.All(axes, c => Assert.Equal(3 * Inch, c.Radius, 1e-6));
        Assert.Equal((10 * Inch, 30 * Inch), (Math.Round(axes[0].Point.X, 6), Math.Round(axes[1].Point.X, 6)));
        Assert.Equal(17 * Inch, model.Mesh.Bounds.Size.Z, 1e-6);
        Assert.Contains("3 bodies", Assert.Single(model.Remarks), StringComparison.Ordinal);
    }

    [Fact]
    public async Task TwoSolidsInOneFileAreBothThere()
    {
        var model = await ReadAsync("pair.step");
        Assert.Equal(12, model.Faces.Count);
        Assert.Equal(600 + 150, model.Mesh.Area(), 1e-9);
        Assert.Equal(1000 + 125, Shapes.Volume(model.Mesh), 1e-9);
        Assert.Equal(2, model.Bodies.Count);
    }

    [Fact]
    public async Task ASheetWithoutASolidIsReadAndSaidToBeOne()
    {
        var model = await ReadAsync("sheet.step");
        Assert.Equal(400, Assert.Single(model.Faces).Area, 1e-9);
        Assert.Contains("no closed solid", Assert.Single(model.Remarks), StringComparison.Ordinal);
    }

    [Fact]
    public async Task AnIgesFileGivesExactSurfaces()
    {
        var model = await ReadAsync("drum.igs");
        var round = (Cylinder3D)Assert.Single(model.Faces, f => f.Kind == "cylinder").Shape!;
        Assert.Equal(8, round.Radius, 1e-9);
        Assert.Equal(2, model.Faces.Count(f => f.Kind == "plane"));

        // Areas are those of the triangulation: a chord error e takes at most 2e/r of them, here 0.001.
        var exact = (2 * Math.PI * 64) + (Math.PI * 16 * 20);
        Assert.InRange(model.Faces.Sum(f => f.Area), exact * (1 - (2 * model.ChordError / 8)), exact);
    }

    [Fact]
    public async Task WhatIsStoredIsWhatWasRead()
    {
        var model = await ReadAsync("gate.step");
        var back = NominalModelStore.Load(NominalModelStore.Save(model));
        Assert.Equal(model.Bodies, back.Bodies);
        Assert.Equal(model.Faces.Select(f => (f.Kind, f.Area, f.Body, f.Color, f.Shape)),
            back.Faces.Select(f => (f.Kind, f.Area, f.Body, f.Color, f.Shape)));
        Assert.Equal(model.Mesh.Coordinates, back.Mesh.Coordinates);
    }

    [Theory]
    [InlineData(0.3)]
    [InlineData(0.8)]
    public async Task ADamagedStepFileIsRefusedInOneSentence(double share)
    {
        var folder = Directory.CreateTempSubdirectory("bostel-step-");
        try
        {
            var text = await File.ReadAllTextAsync(Path.Combine(AppContext.BaseDirectory, "Data", "cad", "gate.step"));
            var path = Path.Combine(folder.FullName, "bad.step");
            await File.WriteAllTextAsync(path, text[..(int)(share * text.Length)]);
            var error = await Assert.ThrowsAsync<BadInputException>(() => CadTranslator.ReadAsync(path, "bad.step"));
            Assert.StartsWith("bad.step", error.Message, StringComparison.Ordinal);

            // Complete at both ends but with its middle scrambled.
            await File.WriteAllTextAsync(path, text[..3000] + new string('#', 2000) + text[^200..]);
            error = await Assert.ThrowsAsync<BadInputException>(() => CadTranslator.ReadAsync(path, "bad.step"));
            Assert.StartsWith("bad.step", error.Message, StringComparison.Ordinal);
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    /// <summary>
    /// The limits allow no translation in a microsecond: what answers within them was kept. A cut-off entry counts as none.
    /// </summary>
    [Fact]
    public async Task ATranslationIsKeptAndADamagedOneIsNotBelieved()
    {
        var folder = Directory.CreateTempSubdirectory("bostel-cache-");
        try
        {
            var cache = new TranslationCache(folder.FullName);
            var path = Path.Combine(AppContext.BaseDirectory, "Data", "cad", "pair.step");
            var hurried = CadLimits.Default with { Time = TimeSpan.FromMicroseconds(1) };
            await Assert.ThrowsAsync<BadInputException>(() => CadTranslator.ReadAsync(path, "pair.step", hurried, cache));
            Assert.Empty(folder.GetFiles());
            var made = await CadTranslator.ReadAsync(path, "pair.step", null, cache);
            var entry = Assert.Single(folder.GetFiles()).FullName;
            var kept = await CadTranslator.ReadAsync(path, "pair.step", hurried, cache);
            Assert.Equal(made.Mesh.Coordinates, kept.Mesh.Coordinates);
            var finer = hurried with { ChordError = 0.5 };
            await Assert.ThrowsAsync<BadInputException>(() => CadTranslator.ReadAsync(path, "pair.step", finer, cache));
            await File.WriteAllBytesAsync(entry, (await File.ReadAllBytesAsync(entry))[..^10]);
            await Assert.ThrowsAsync<BadInputException>(() => CadTranslator.ReadAsync(path, "pair.step", hurried, cache));
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static Task<NominalModel> ReadAsync(string name) =>
        CadTranslator.ReadAsync(Path.Combine(AppContext.BaseDirectory, "Data", "cad", name), name);
}
