using System.IO.Compression;
using System.Xml.Linq;
using Bostel.Core.Features;
using Bostel.Core.Tolerancing;
using Bostel.Reports;
using MiniExcelLibs;

namespace Bostel.Server.Tests;

/// <summary>Workbooks, read back by another reader and as the XML that ISO/IEC 29500 has.</summary>
public class WorkbookTests
{
    private static readonly XNamespace _main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";

    [Fact]
    public void NumbersStayNumbersToTheLastBitAndTextStaysText()
    {
        const double Value = 52.014999999999986;
        var book = Workbook.Write([new("A", ["x", "text", "none"], [[new(Value, Decimals: 3), new("=1+1"), new(null)]])]);
        var rows = new MemoryStream(book).Query(useHeaderRow: true).Cast<IDictionary<string, object?>>().ToList();
        var row = Assert.Single(rows);
        Assert.Equal(Value, Assert.IsType<double>(row["x"]));
        Assert.Equal("'=1+1", row["text"]);
        Assert.Null(row["none"]);
        Assert.DoesNotContain(Part(book, "xl/worksheets").Descendants(_main + "f"), _ => true);
    }

    [Fact]
    public void WhatNoWorkbookKnowsIsLeftOut()
    {
        var book = Workbook.Write([new("A\u0001", ["x", "text", "sign"], [[new(double.NaN), new("a\u0001b"), new("\U0001F600 ⌀")]])]);
        var row = Assert.Single(new MemoryStream(book).Query(useHeaderRow: true).Cast<IDictionary<string, object?>>());
        Assert.Null(row["x"]);
        Assert.Equal(("ab", "\U0001F600 ⌀"), (row["text"], row["sign"]));
    }

    [Fact]
    public void DecimalsAndVerdictsAreShownByTheStyleOfTheCell()
    {
        var book = Workbook.Write([new(
            "A", ["x"], [[new(1.5, Decimals: 4)], [SheetCell.Of(Verdict.NonConforming)], [new(0.25, CellLook.Share)]])]);
        var styles = Part(book, "xl/styles");
        var formats = styles.Root!.Element(_main + "cellXfs")!.Elements().ToList();
        var cells = Part(book, "xl/worksheets").Descendants(_main + "c").Skip(1).Select(c => formats[(int)c.Attribute("s")!]).ToList();
        string CodeOf(XElement format) => styles.Descendants(_main + "numFmt")
            .Single(f => (string?)f.Attribute("numFmtId") == (string?)format.Attribute("numFmtId")).Attribute("formatCode")!.Value;
        Assert.Equal("0.0000", CodeOf(cells[0]));
        var fill = styles.Descendants(_main + "fill").ElementAt((int)cells[1].Attribute("fillId")!);
        Assert.Equal("FFF3D9DA", (string?)fill.Descendants(_main + "fgColor").Single().Attribute("rgb"));

        // 10 is the standard's own number of 0.00 %.
        Assert.Equal("10", (string?)cells[2].Attribute("numFmtId"));
    }

    [Fact]
    public void OneSheetStandsOverAllAndOneForEachPiece()
    {
        CharacteristicResult Row(int no, double? measured, Verdict verdict) =>
            new(new DiameterPlan(no, $"Bore {no}") { Nominal = 10, Upper = 0.02 })
            { Nominal = 10, LowerLimit = 10, UpperLimit = 10.02, Measured = measured, Verdict = verdict };
        var book = PiecesWorkbook.Write(
        [
            new("2/1", "BR-1001", "revision 3", [Row(1, 10.01, Verdict.Conforming), Row(4, 10.05, Verdict.NonConforming)]),
            new("2:1", "", "revision 2", [Row(1, null, Verdict.NotMeasured)]),
        ]);
        using var stream = new MemoryStream(book);

        // Signs that names of sheets may not have are others, and names differ all the same.
        Assert.Equal(["All pieces", "2_1", "2_1 (2)"], stream.GetSheetNames());
        var all = stream.Query(useHeaderRow: true, sheetName: "All pieces").Cast<IDictionary<string, object?>>().ToList();
        Assert.Equal(["piece", "verdict", "report", "plan", "1 Bore 1, mm", "4 Bore 4, mm"], all[0].Keys);
        Assert.Equal(["2/1", "non-conforming", "BR-1001", "revision 3", 10.01, 10.05], all[0].Values);
        Assert.Equal(("2:1", "not measured", null), (all[1]["piece"], all[1]["verdict"], all[1]["4 Bore 4, mm"]));
        Assert.Equal(2, stream.Query(useHeaderRow: true, sheetName: "2_1").Count());
    }

    /// <summary>
    /// Radius 5.02 for 5: the diameter is 10.04, 0.04 too large, and U twice its standard deviation, four times that of the radius.
    /// </summary>
    [Fact]
    public void FeaturesStandWithPlaceDirectionAndSizeBesideTheirNominal()
    {
        MeasuredFeature bore = new(new("bore", "=Bore", [4]))
        {
            Kind = "cylinder",
            Measured = [1, 2, 3, 0, 0, 1, 5.02],
            Nominal = [1, 2, 0, 0, 0, 1, 5],
            RadiusSigma = 0.001,
            Form = 0.03,
            Used = 1200,
            Coverage = 0.9,
        };
        MeasuredFeature centre = new(new("centre", "Centre", [5])) { Kind = "sphere", Measured = [0, 0, 9, 4], Nominal = [0, 0, 10, 4.5] };
        var missing = MeasuredFeature.Failed(new("slot", "Slot", [6]), null, "Nothing was measured there.");
        var lines = System.Text.Encoding.UTF8.GetString(FeatureTable.Csv([bore, centre, missing])).TrimEnd().Split('\n');
        var columns = lines[0].Split(',');
        Assert.Equal(columns.Length, columns.Distinct().Count());
        Dictionary<string, string> Line(int i) => columns.Zip(lines[i].Split(',')).ToDictionary(p => p.First, p => p.Second);
        double Number(int line, string column) => double.Parse(Line(line)[column], System.Globalization.CultureInfo.InvariantCulture);
        Assert.Equal(("bore", "'=Bore", "diameter"), (Line(1)["feature"], Line(1)["name"], Line(1)["size"]));
        Assert.Equal((3, 1, 10.04, 10), (Number(1, "z"), Number(1, "k"), Number(1, "size measured"), Number(1, "size nominal")));
        Assert.Equal(0.04, Number(1, "size deviation"), 1e-12);
        Assert.Equal((0.004, 0.03, 1200), (Number(1, "U of the fit (95 %)"), Number(1, "form"), Number(1, "points")));
        Assert.Equal((-1, ""), (Number(2, "size deviation"), Line(2)["k"]));
        Assert.Equal(("", "", "Nothing was measured there."), (Line(3)["x"], Line(3)["size measured"], Line(3)["remark"]));
    }

    private static XDocument Part(byte[] book, string begins)
    {
        using var zip = new ZipArchive(new MemoryStream(book));
        using var part = zip.Entries.First(e => e.FullName.StartsWith(begins, StringComparison.Ordinal)).Open();
        return XDocument.Load(part);
    }
}
