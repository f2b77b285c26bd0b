using System.Buffers.Binary;
using System.Globalization;
using System.IO.Compression;
using System.Text.Json;
using System.Xml.Linq;
using Bostel.Core;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Reports;
using Bostel.Reports.Viewer;

namespace Bostel.Server.Tests;

/// <summary>How a report is put together, what its parts print, and the files beside it.</summary>
public class ReportLayoutTests
{
    [Fact]
    public void TheVerdictIsASentence()
    {
        var model = ReportTests.Model();
        Assert.Equal("1 is not proven either way: 2 Hole position. 1 was not measured: 3 Back face.", Verdicts.Sentence(model));
        var bad = model.Rows[0] with { Verdict = Verdict.NonConforming, Beyond = 0.018 };
        Assert.Equal("1 of 1 characteristics does not conform: 1 Bore diameter, 0.018 mm beyond its limit.",
            Verdicts.Sentence(model with { Rows = [bad] }));
        Assert.Equal("The one characteristic conforms.", Verdicts.Sentence(model with { Rows = [model.Rows[0]] }));
        var four = string.Join("; ", Enumerable.Repeat("1 Bore diameter", 4));
        Assert.Equal($"6 of 6 characteristics do not conform: {four} and 2 more.",
            Verdicts.Sentence(model with { Rows = [.. Enumerable.Repeat(bad with { Beyond = 0 }, 6)] }));
    }

    [Fact]
    public async Task PartsComeInTheOrderOfTheLayoutAndTextIsShownAsText()
    {
        var report = new ReportPlan
        {
            Title = "First article <b>",
            House = "Works\n12 Street",
            Blocks =
            [
                new RulesBlock(), new NoteBlock { Title = "Remark", Text = "<script>alert(1)</script> السلام 検査" },
                new PageBlock(),
                new TableBlock { OnlyOpen = true, WithoutMethod = true },
            ],
        };
        var html = await PdfWriter.HtmlAsync(With(report));
        var places = ((string[])["How it was judged", "Remark", "next-page", "What is not proven to conform"])
            .Select(t => html.LastIndexOf(t, StringComparison.Ordinal)).ToArray();
        Assert.All(places, p => Assert.True(p > 0));
        Assert.Equal(places.Order(), places);
        Assert.DoesNotContain("<script", html, StringComparison.Ordinal);
        Assert.DoesNotContain("<b>", html, StringComparison.Ordinal);
        Assert.DoesNotContain("Bore diameter", html, StringComparison.Ordinal);
        Assert.DoesNotContain("What was done to the data", html, StringComparison.Ordinal);
        Assert.Contains("السلام 検査", System.Net.WebUtility.HtmlDecode(html), StringComparison.Ordinal);
        Assert.Contains("12 Street", html, StringComparison.Ordinal);
    }

    [Fact]
    public async Task LengthsAreShownInInchWhereThePlanSaysSo()
    {
        var model = ReportTests.Model();
        var html = System.Net.WebUtility.HtmlDecode(await PdfWriter.HtmlAsync(
            model with { Plan = model.Plan with { Shown = ShownUnit.Inch, Standard = DrawingStandard.Asme } }));

        // 52.015 / 25.4 and 0.03 / 25.4, with one decimal more than in mm.
        Assert.Contains("2.0478", html, StringComparison.Ordinal);
        Assert.Contains("2.0472 … 2.0484", html, StringComparison.Ordinal);
        Assert.Contains("Lengths in inch", html, StringComparison.Ordinal);
        Assert.Contains("ASME Y14.5-2018", html, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("aGVsbG8=", "neither PNG nor JPEG")]
    [InlineData("not base64!", "neither PNG nor JPEG")]
    public void APictureThatIsNoneIsRefused(string base64, string why) =>
        Refused(why, new() { Logo = new(base64) });

    [Fact]
    public void WhatIsTooLargeIsRefused()
    {
        Refused("at most 400 kB", new() { Logo = new(new('A', 600_000)) });
        Refused("at most 60 parts", new() { Blocks = [.. Enumerable.Repeat(new RulesBlock(), 61)] });
        Refused("part 1: a note has at most", new() { Blocks = [new NoteBlock { Text = new('x', 5001) }] });
        Refused("part 1: a picture block holds a picture", new() { Blocks = [new PictureBlock()] });
        Assert.Contains("report, part 1: the kind 'sheet' is not one of summary, overview", Assert.Throws<BadInputException>(() =>
            InspectionPlan.Parse("""{"schema": "bostel-plan/8", "report": {"blocks": [{"kind": "sheet"}]}}""")).Message,
            StringComparison.Ordinal);
    }

    [Fact]
    public void TheNoteSaysWhichWayToCorrect()
    {
        var model = ReportTests.Model();
        var large = model.Rows[0] with { Verdict = Verdict.NonConforming, Measured = 52.048, Beyond = 0.018 };
        var note = ManufacturingNote.Of(model with { Rows = [large] }).Text();

        // The middle of 52 … 52.03 is 52.015.
        Assert.Contains("Make it 0.033 mm smaller, to the middle of its tolerance.", note, StringComparison.Ordinal);
        Assert.Contains("BR-0001", note, StringComparison.Ordinal);
        Assert.DoesNotContain("Make it", ManufacturingNote.Of(model).Text(), StringComparison.Ordinal);
    }

    /// <summary>Unpacked as the page's script does it, the map is the scan again to the accuracy that the page states.</summary>
    [Fact]
    public void TheMapInAFileIsTheScanToTheStatedAccuracy()
    {
        var random = new Random(3);
        double[] points = [.. Enumerable.Range(0, 3 * 500).Select(_ => (200 * random.NextDouble()) - 40)];
        int[] corners = [.. Enumerable.Range(0, 3 * 900).Select(_ => random.Next(500))];
        double[] values = [.. Enumerable.Range(0, 500).Select(i => i % 7 == 0 ? double.NaN : random.NextDouble() - 0.3)];
        var mesh = new TriangleMesh(points, corners);
        var scan = new AlignedScan(mesh, RigidTransform.Identity, new(values, new int[500]));
        var packed = ViewerData.Of(scan, new())!;
        var meta = JsonDocument.Parse(packed.Meta).RootElement;
        using var inflate = new ZLibStream(new MemoryStream(Convert.FromBase64String(packed.Data)), CompressionMode.Decompress);
        using var memory = new MemoryStream();
        inflate.CopyTo(memory);
        var bytes = memory.ToArray();
        var n = meta.GetProperty("vertices").GetInt32();
        ushort Place(int i) => BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(2 * i));
        short Value(int i) => BinaryPrimitives.ReadInt16LittleEndian(bytes.AsSpan((6 * n) + (2 * i)));
        var places = new ushort[3 * n];
        for (var i = 0; i < places.Length; i++)
        {
            places[i] = unchecked((ushort)(Place(i) + (i < 3 ? 0 : places[i - 3])));
        }

        double Of(string field, int k) => meta.GetProperty(field)[k].GetDouble();
        for (int i = 0, at = 8 * n, newest = -1; i < corners.Length; i++)
        {
            int code = 0, shift = 0;
            do
            {
                code |= (bytes[at] & 0x7f) << shift;
                shift += 7;
            }
            while ((bytes[at++] & 0x80) != 0);

            var vertex = code == 0 ? ++newest : newest + 1 - code;
            for (var k = 0; k < 3; k++)
            {
                Assert.Equal(points[(3 * corners[i]) + k], Of("low", k) + (Of("step", k) * places[(3 * vertex) + k]), 0.51 * Of("step", k));
            }

            var step = meta.GetProperty("valueStep").GetDouble();
            Assert.Equal(values[corners[i]], Value(vertex) == short.MinValue ? double.NaN : Value(vertex) * step, 0.51 * step);
        }
    }

    /// <summary>Read back as XML: ids are unique and what refers to one finds it, counts are true, numbers round-trip.</summary>
    [Fact]
    public void QualityInformationRefersToItself()
    {
        var model = ReportTests.Model("Bore \u0001 <diameter>");
        var document = XDocument.Load(new MemoryStream(QifWriter.Write(model)));
        var ids = document.Descendants().Attributes("id").Select(a => a.Value).ToList();
        Assert.Equal(ids.Count, ids.Distinct().Count());
        Assert.All(ids, id => Assert.True(int.Parse(id, CultureInfo.InvariantCulture) <= (int)document.Root!.Attribute("idMax")!));
        var references = document.Descendants()
            .Where(e => e.Name.LocalName.EndsWith("Id", StringComparison.Ordinal) && e.Name.LocalName != "QPId").ToList();
        Assert.NotEmpty(references);
        Assert.All(references, e => Assert.Contains(e.Value, ids));
        Assert.All(document.Descendants().Where(e => e.Attribute("n") is not null),
            e => Assert.Equal((int)e.Attribute("n")!, e.Elements().Count()));
        XElement Of(string name) => document.Descendants().Single(e => e.Name.LocalName == name);
        var bore = Of("DiameterCharacteristicMeasurement");
        var value = bore.Elements().Single(e => e.Name.LocalName == "Value");
        Assert.Equal(("52.014999999999986", "0.0045"), (value.Value, value.Attribute("combinedUncertainty")!.Value));
        Assert.Equal(["PASS", "UNDEFINED", "NOT_MEASURED"],
            document.Descendants().Where(e => e.Name.LocalName == "CharacteristicStatusEnum").Select(e => e.Value));
        Assert.Equal("Bore  <diameter>", Of("DiameterCharacteristicItem").Elements().First().Value);
    }

    [Fact]
    public void TheShareOfEachValueIsByTheSurfaceItStandsFor()
    {
        var scale = new ColourScale(-0.1, 0.1, new());
        var found = FigureFrame.Histogram(scale, [-9, 0, double.NaN, 0.01, 9], [1, 2, 4, 8, 16], bins: 3);
        Assert.Equal([1, 10, 16], found);
    }

    private static void Refused(string why, ReportPlan report) => Assert.Contains(
        why, Assert.Throws<BadInputException>(() => report.Check("report")).Message, StringComparison.Ordinal);

    private static ReportModel With(ReportPlan report)
    {
        var model = ReportTests.Model();
        return model with { Plan = model.Plan with { Report = report } };
    }
}
