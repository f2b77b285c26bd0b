using Bostel.Core;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Reports;

namespace Bostel.Server.Tests;

/// <summary>Tables that come in.</summary>
public class TableTests
{
    /// <summary>Separated by semicolons with decimal commas, or as a workbook: the same table.</summary>
    [Fact]
    public void TablesAreReadInEachForm()
    {
        var text = TableReader.Read(System.Text.Encoding.UTF8.GetBytes("kind;nominal;upper\ndiameter;52;0,03\n"), "t.csv");
        using var workbook = new MemoryStream();
        MiniExcelLibs.MiniExcel.SaveAs(workbook, new[] { new { kind = "diameter", nominal = 52.0, upper = 0.03 } });
        foreach (var cells in (IReadOnlyList<IReadOnlyList<string>>[])[text, TableReader.Read(workbook.ToArray(), "t.xlsx")])
        {
            var line = Assert.Single(DrawingTable.Of(cells, "t").Lines);
            Assert.Equal((DrawingKind.Diameter, 52.0, 0.03), (line.Kind!.Value, line.Said.Nominal!.Value, line.Said.Upper!.Value));
        }

        Assert.Throws<BadInputException>(() => TableReader.Read([1, 2, 3], "t.xlsx"));
        Assert.Throws<BadInputException>(() => TableReader.Read([1, 2, 3], "t.docx"));
    }
}
