using System.IO.Compression;
using System.Text;
using System.Text.Json;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;
using Bostel.Reports;

namespace Bostel.Server.Tests;

/// <summary>What stands in a report, whatever the names in it are.</summary>
public class ReportTests
{
    [Fact]
    public void CsvHasARowForEachCharacteristicInFullPrecision()
    {
        var lines = Encoding.UTF8.GetString(TableWriters.Csv(Model())).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal(4, lines.Length);
        Assert.StartsWith(
            "no,characteristic,kind,datums,alignment,nominal,lower limit,upper limit,measured", lines[0], StringComparison.Ordinal);
        Assert.StartsWith("1,Bore diameter,diameter,,,52,52,52.03,52.014999999999986,", lines[1], StringComparison.Ordinal);
        Assert.Contains(",conforming,", lines[1], StringComparison.Ordinal);
        Assert.Contains("A|B", lines[2], StringComparison.Ordinal);
        Assert.Contains("not measured", lines[3], StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("=HYPERLINK(\"x\")", "\"'=HYPERLINK(\"\"x\"\")\"")]
    [InlineData("+1+1", "'+1+1")]
    [InlineData("-2", "'-2")]
    [InlineData("@SUM(A1)", "'@SUM(A1)")]
    [InlineData("\t=1", "'\t=1")]
    [InlineData("Bore, left \"A\"", "\"Bore, left \"\"A\"\"\"")]
    public void ANameThatASpreadsheetWouldRunIsNeutral(string name, string cell)
    {
        var csv = Encoding.UTF8.GetString(TableWriters.Csv(Model(name)));
        Assert.Contains($"1,{cell},diameter", csv, StringComparison.Ordinal);
        using var workbook = new ZipArchive(new MemoryStream(TableWriters.Xlsx(Model(name))));
        var sheets = string.Concat(workbook.Entries.Where(e => e.FullName.EndsWith(".xml", StringComparison.Ordinal)).Select(Text));
        Assert.DoesNotContain("<f>", sheets, StringComparison.Ordinal);
        Assert.Contains(System.Security.SecurityElement.Escape(name.TrimStart('\t'))!.Replace("&quot;", "\"", StringComparison.Ordinal),
            sheets.Replace("&quot;", "\"", StringComparison.Ordinal), StringComparison.Ordinal);
    }

    [Fact]
    public void JsonNumbersRoundTripAndNamesStayAsTheyAre()
    {
        var json = JsonDocument.Parse(TableWriters.ToJson(Model("=1+1"))).RootElement;
        var row = json.GetProperty("rows")[0];
        Assert.Equal("=1+1", row.GetProperty("plan").GetProperty("name").GetString());
        Assert.Equal(52.014999999999986, row.GetProperty("measured").GetDouble());
        Assert.Equal("drop", json.GetProperty("preparation").GetProperty("steps")[0].GetProperty("kind").GetString());
    }

    [Fact]
    public async Task ThePageSaysWhatWasDoneToTheData()
    {
        var html = System.Net.WebUtility.HtmlDecode(await PdfWriter.HtmlAsync(Model()));
        foreach (var said in (string[])["9568 selected triangles dropped", "2 holes filled, the largest 31.27 mm across",
            "Much of it is guessed.", "889.8 mm²", "0.0123 mm", "BR-0001", "not proven"])
        {
            Assert.Contains(said, html, StringComparison.Ordinal);
        }

        Assert.DoesNotContain("none was moved", html, StringComparison.Ordinal);
    }

    /// <summary>Each alignment with how it was made and how far it lies from the plan's own; each row with the one it stands in.</summary>
    [Fact]
    public async Task TheReportSaysInWhichAlignmentItsNumbersStand()
    {
        var model = Model();
        var fitted = new AlignedOutcome(
            new AllSurfacesPlan(), new(RigidTransform.FromTranslation(new(0.25, 0, 0)), 0.0213, 1, 0.837, 12, 0.001, 1e-5, 49932, []));
        model = model with
        {
            Named = [new("best fit", fitted, new(0.25, 0)), new("on its feet", null, null)],
            Plan = model.Plan with { Compare = model.Plan.Compare with { Alignment = "best fit" } },
            Rows = [model.Rows[0] with { Plan = model.Rows[0].Plan with { Alignment = "best fit" } }, .. model.Rows.Skip(1)],
        };
        var html = System.Net.WebUtility.HtmlDecode(await PdfWriter.HtmlAsync(model));
        foreach (var said in (string[])["in “best fit”; ", "best fit to all surfaces; RMS 0.0213 mm; up to 0.2500 mm and 0.0000° from",
            "determines no pose on this piece", "Figures and statistics stand in"])
        {
            Assert.Contains(said, html, StringComparison.Ordinal);
        }

        var csv = Encoding.UTF8.GetString(TableWriters.Csv(model));
        Assert.Contains("1,Bore diameter,diameter,,best fit,52,", csv, StringComparison.Ordinal);
        var json = JsonDocument.Parse(TableWriters.ToJson(model)).RootElement;
        Assert.Equal("best fit", json.GetProperty("mapStandsIn").GetString());
        Assert.Equal(0.25, json.GetProperty("alignments")[0].GetProperty("change").GetProperty("moves").GetDouble());
    }

    /// <summary>A circle 0.1 mm too large: its outlines, a stroke with a bar for a point beyond the band, its figures in words.</summary>
    [Fact]
    public async Task ASectionIsDrawnAndSavedAsItWasCut()
    {
        double[] Circle(double r) => [.. Enumerable.Range(0, 60).SelectMany(i =>
            new[] { r * Math.Cos(i * Math.PI / 30), r * Math.Sin(i * Math.PI / 30) })];
        var sheet = new SectionSheet(
            new([5, 0, 0], [0, 1, 0], [0, 0, 1], [1, 0, 0]), [new(Circle(20), true)],
            [new(Circle(20.1), true, true, [.. Enumerable.Repeat<double?>(0.1, 59), null], Circle(20))],
            DeviationStatistics.Of([0.1], [1], -0.05, 0.05), [], ["Cuts a cylinder of ⌀8 at 2° off square."]);

        // 0.06 of 40 mm over 0.1 mm are 24: of 1, 2 and 5 times powers of ten 20 comes next below.
        Assert.Equal(20, sheet.Strokes);
        var section = new ReportSection(new("Bore & rib", [5, 0, 0], [1, 0, 0]), sheet, [new(7, [[-20, 0], [20, 0]])]);
        var html = await PdfWriter.HtmlAsync(Model() with { Sections = [section] });
        Assert.Contains("Section Bore &amp; rib", html, StringComparison.Ordinal);
        Assert.Contains("strokes of deviation 20 times as long", html, StringComparison.Ordinal);
        Assert.Contains("greatest &#x2B;0.100", html, StringComparison.Ordinal);
        Assert.Contains("at 2&#xB0; off square", html, StringComparison.Ordinal);
        var svg = SectionDrawing.Svg(section, new(-0.05, 0.05, new()));

        // Characteristic 7 between two places left and right of the middle: its number stands there.
        Assert.Matches("<circle cx=\"600\" [^>]*/><text x=\"600\" [^>]*>7</text>", svg);

        // 59 strokes on a circle of 20 mm, all apart from each other, each with its bar: two moves in a path.
        Assert.Equal(59, System.Text.RegularExpressions.Regex.Count(svg, "d=\"M[^\"ML]*L[^\"ML]*M[^\"ML]*L[^\"ML]*\" stroke=\"#8f2d14\""));
        var (_, _, csv) = SectionFiles.Write(section, new(), SectionFormat.Csv);
        var lines = Encoding.UTF8.GetString(csv).TrimEnd().Split('\n');
        Assert.Equal(1 + 60 + 60, lines.Length);
        Assert.Equal("scan,1,yes,5,20.1,0,0.1", lines[61]);
        Assert.EndsWith(",", lines[^1], StringComparison.Ordinal);
        var dxf = Encoding.UTF8.GetString(SectionFiles.Write(section, new(), SectionFormat.Dxf).Bytes);
        Assert.Equal(2, System.Text.RegularExpressions.Regex.Count(dxf, "POLYLINE"));
        Assert.Contains("\nNOMINAL\n", dxf, StringComparison.Ordinal);
    }

    [Fact]
    public async Task NamesArePrintedAndNotRun()
    {
        var html = await PdfWriter.HtmlAsync(Model("<script>alert(1)</script>"));
        Assert.DoesNotContain("<script>", html, StringComparison.Ordinal);
        Assert.Contains("&lt;script&gt;", html, StringComparison.Ordinal);
    }

    [Fact]
    public async Task WithoutStepsThePageSaysThatNothingWasMoved()
    {
        var model = Model();
        var html = await PdfWriter.HtmlAsync(model with { Preparation = model.Preparation with { Steps = null } });
        Assert.Contains("none was moved", html, StringComparison.Ordinal);
    }

    /// <summary>Twelve labels on a part in the middle third of the picture: none covers another, or the part.</summary>
    [Fact]
    public void LabelsStandBesideThePart()
    {
        var labels = Enumerable.Range(0, 12).Select(i => new LabelPlan([((i % 4) - 1.5) * 4, 0, (i % 3) * 2])).ToArray();
        var figure = new FigurePlan(new([0, 0, 0], [0, -1, 0], [0, 0, 1], 60)) { Labels = labels };
        var part = new Box3D(new(-10, -10, -10), new(10, 10, 10));
        var placed = LabelLayout.Place(figure, part, 100, 40, 1200, 700);
        var (left, right) = (figure.Project(new(-10, 0, 0), 1200, 700).X, figure.Project(new(10, 0, 0), 1200, 700).X);
        Assert.All(placed, p => Assert.True(p.X + 100 < left || p.X > right));
        Assert.All(placed, p => Assert.InRange(p.Y, 0, 700 - 40));
        for (var i = 0; i < placed.Count; i++)
        {
            for (var k = 0; k < i; k++)
            {
                Assert.True(Math.Abs(placed[i].X - placed[k].X) >= 100 || Math.Abs(placed[i].Y - placed[k].Y) >= 40);
            }
        }
    }

    [Fact]
    public async Task FurtherMapsAndAreasAreTold()
    {
        var mesh = new TriangleMesh([0, 0, 0, 1, 0, 0, 0, 1, 0], [0, 1, 2]);
        var plan = new ThicknessMap { Name = "Walls & ribs", Lower = 1.5 };
        var map = new PieceMap(
            plan, mesh, RigidTransform.Identity, [1, 2, 3], [1, 1, 2], DeviationStatistics.Of([1, 2, 3], [1, 1, 2], 1.5, 9),
            ["It is open."]);
        var html = await PdfWriter.HtmlAsync(Model() with
        {
            Maps = [ReportMap.Of(new(plan, map, null)), ReportMap.Of(new(new DraftMap { Name = "Draft" }, null, "Draft needs normals."))],
            Areas = [new(true, 12.34, 0.25, [1, 2, 3], 4, 50)],
        });
        Assert.Contains("Walls &amp; ribs", html, StringComparison.Ordinal);
        Assert.Contains("; It is open.", html, StringComparison.Ordinal);
        Assert.Contains("75.0 %", html, StringComparison.Ordinal);
        Assert.Contains("Draft needs normals.", html, StringComparison.Ordinal);
        Assert.Contains("1, material in excess", html, StringComparison.Ordinal);
        Assert.Contains("0.150", html, StringComparison.Ordinal);
    }

    /// <summary>Every map has a figure: its own, or the whole part; one that the piece does not have has none.</summary>
    [Fact]
    public void EveryMapThatWasMadeHasAFigure()
    {
        var mesh = new TriangleMesh([0, 0, 0, 10, 0, 0, 0, 10, 0], [0, 1, 2]);
        var runner = new InspectionRunner(NominalModel.OfSurface(mesh));
        var scan = new AlignedScan(
            mesh, RigidTransform.Identity, Deviation.Compute(mesh, RigidTransform.Identity, runner.Nominal, runner.Tree, new(1)));
        var overview = FigurePlan.Overview(runner.Nominal, -1, 1);
        var plan = new InspectionPlan
        {
            Compare = new()
            {
                Maps = [new SpacingMap { Name = "kept" }, new SpacingMap { Name = "by itself" }, new ThicknessMap { Name = "open" }],
            },
            Figures = [overview with { Map = "kept" }, overview with { Map = "open" }],
        };
        var maps = runner.Maps(scan, BesideScan.Alone(mesh), plan);
        Assert.Contains("no value anywhere", maps[2].Failure, StringComparison.Ordinal);
        Assert.Equal(["kept", "by itself"], ReportFigures.All(plan, scan, runner, maps).Select(f => f.Map?.Name));
        var bare = ReportFigures.All(plan with { Figures = [] }, scan, runner, maps);
        Assert.Equal([null, "kept", "by itself"], bare.Select(f => f.Map?.Name));
    }

    /// <summary>What the deviation is made of: on the page in words, in the file in numbers; why not, where it cannot be told.</summary>
    [Fact]
    public async Task TheReportSaysWhatTheDeviationIsMadeOf()
    {
        var made = new Explanation(
            0.05, [new(ExplainedPart.Pose, 0.05), new(ExplainedPart.Size, 0.0102)],
            [new SizeFinding([new(-0.21, 0.02)]) { Rms = 0.0489 }, new OffsetFinding(7, new(0.12, 0.013), 0) { Rms = 0.01 }], [], 0.002);
        var model = Model() with { Explained = new(made, null, face => $"Face {face}") };
        var html = System.Net.WebUtility.HtmlDecode(await PdfWriter.HtmlAsync(model));
        foreach (var said in (string[])["The part is shrunk by 0.210 ± 0.020 %.", "Face 7 stands 0.120 ± 0.013 mm high.", "0.0500 mm",
            "without shrinkage or growth too, 0.0102 mm", "0.0489"])
        {
            Assert.Contains(said, html, StringComparison.Ordinal);
        }

        var json = JsonDocument.Parse(TableWriters.ToJson(model)).RootElement.GetProperty("explained");
        var size = json.GetProperty("findings")[0];
        Assert.Equal("The part is shrunk by 0.210 ± 0.020 %.", size.GetProperty("said").GetString());
        Assert.Equal("size", size.GetProperty("finding").GetProperty("kind").GetString());
        Assert.Equal(-0.21, size.GetProperty("finding").GetProperty("percent")[0].GetProperty("value").GetDouble());

        var without = await PdfWriter.HtmlAsync(Model() with { Explained = new(null, "Too little was measured.", face => "") });
        Assert.Contains("Too little was measured.", without, StringComparison.Ordinal);
        Assert.DoesNotContain("made of", await PdfWriter.HtmlAsync(Model()), StringComparison.Ordinal);
    }

    [Fact]
    public void ALabelSaysWhatIsAskedInItsOrder()
    {
        var scale = new ColourScale(-0.1, 0.2, new());
        LabelContent[] all = [LabelContent.Beyond, LabelContent.Value, LabelContent.Limits, LabelContent.Name];
        Assert.Equal(
            ["rib", "+0.250", "−0.100 … +0.200", "+0.050 beyond"], Wording.Label(new([0, 0, 0]) { Name = "rib" }, 0.25, scale, all));
        Assert.Equal(
            ["−0.050"], Wording.Label(new([0, 0, 0]), -0.05, scale, [LabelContent.Name, LabelContent.Value, LabelContent.Beyond]));
    }

    [Theory]
    [InlineData(Verdict.Conforming, Verdict.Conforming, Verdict.Conforming)]
    [InlineData(Verdict.Conforming, Verdict.NotProven, Verdict.NotProven)]
    [InlineData(Verdict.NotProven, Verdict.NonConforming, Verdict.NonConforming)]
    [InlineData(Verdict.Conforming, Verdict.NotMeasured, Verdict.NotProven)]
    [InlineData(Verdict.NotMeasured, Verdict.NotMeasured, Verdict.NotMeasured)]
    public void ThePieceIsAsGoodAsItsRows(Verdict a, Verdict b, Verdict whole) => Assert.Equal(whole, InspectionResult.Overall([a, b]));

    private static string Text(ZipArchiveEntry entry)
    {
        using var reader = new StreamReader(entry.Open());
        return reader.ReadToEnd();
    }

    internal static ReportModel Model(string name = "Bore diameter")
    {
        CharacteristicResult[] rows =
        [
            new(new DiameterPlan(1, name) { Features = ["bore"], Nominal = 52, Lower = 0, Upper = 0.03 })
            {
                Nominal = 52, LowerLimit = 52, UpperLimit = 52.03, Measured = 52.014999999999986, Deviation = 0.015, Uncertainty = 0.009,
                Verdict = Verdict.Conforming, Method = "least-squares cylinder", Points = 1200, Coverage = 0.97,
            },
            new(new PositionPlan(2, "Hole position") { Features = ["hole"], Tolerance = 0.1, Datums = ["A", "B"] })
            {
                UpperLimit = 0.1, Measured = 0.095, Uncertainty = 0.02, Verdict = Verdict.NotProven, Method = "axis, cylindrical zone",
                Points = 300, Coverage = 0.8,
            },
            new(new FlatnessPlan(3, "Back face") { Features = ["back"], Tolerance = 0.05 }) { UpperLimit = 0.05,
                Verdict = Verdict.NotMeasured, Method = "", Remark = "only 0 scan points lie on it" },
        ];
        StepRecord[] steps =
        [
            new("drop", "9568 selected triangles dropped, 5894.5 mm².", 99562, 50931, AreaRemoved: 5894.5),
            new("fill", "2 holes filled, the largest 31.27 mm across, 889.8 mm², not measured.", 100887, 51486, AreaAdded: 889.8,
                Caution: "Much of it is guessed."),
            new("smooth", "120 points smoothed in 5 passes, moved by 0.0123 mm at most.", 100887, 51486, Moved: 0.0123),
        ];
        var header = new ReportHeader("BR-0001", "HW-118", "Hand wheel", "B", "0002", "plan 4", "inspector",
            new(2026, 1, 2, 3, 4, 5, TimeSpan.Zero), "HW-118.step", "HW-118-0002.stl", "mm", []);
        var statistics = DeviationStatistics.Of([0.01, -0.02, 0.03], [1, 1, 1], -0.1, 0.1);
        return new(
            header, new() { Part = "HW-118", Revision = "B" }, new(109130, 100887, 5, 4, 5894.5, [], steps),
            new(new ByDatumsPlan { Datums = ["A", "B"] }, new(RigidTransform.Identity, 0.0116, 1, 0.837, 12, 0.001, 1e-5, 49932, [])),
            [], new(new(5, 60), -0.1, 0.1, statistics), rows, [], [], [], [], null);
    }
}
