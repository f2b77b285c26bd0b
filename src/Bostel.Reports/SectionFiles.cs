using System.Globalization;
using System.Text;
using Bostel.Core.Comparison;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;

namespace Bostel.Reports;

/// <summary>What a section is saved as.</summary>
public enum SectionFormat
{
    Svg,
    Dxf,
    Csv,
}

/// <summary>A section of a piece as a file, nominal coordinates, mm.</summary>
public static class SectionFiles
{
    public static (string Name, string Type, byte[] Bytes) Write(
        ReportSection section, ComparePlan compare, SectionFormat format)
    {
        var sheet = section.Sheet;
        var (suffix, type, text) = format switch
        {
            SectionFormat.Svg => (
                ".svg", "image/svg+xml", SectionDrawing.Svg(section, new(compare.Lower, compare.Upper, compare.Ramp))),
            SectionFormat.Dxf => (".dxf", "image/vnd.dxf", Dxf(sheet)),
            _ => (".csv", "text/csv", Csv(sheet)),
        };
        return (section.Plan.Name + suffix, type, Encoding.UTF8.GetBytes(text));
    }

    private static string Dxf(SectionSheet sheet)
    {
        using var text = new StringWriter();
        OutlineFormats.Dxf(text,
        [
            .. sheet.Nominal.Select(o => (sheet.Frame.InSpace(o.Points), o.Closed, "NOMINAL")),
            .. sheet.Scan.Where(o => o.Joined).Select(o => (sheet.Frame.InSpace(o.Points), o.Closed, "SCAN")),
            .. sheet.Scan.Where(o => !o.Joined).SelectMany(o => sheet.Frame.InSpace(o.Points).Chunk(3)).Select(p => (p, false, "SCAN")),
        ]);
        return text.ToString();
    }

    private static string Csv(SectionSheet sheet)
    {
        var text = new StringBuilder("of,outline,closed,x,y,z,deviation\n");
        void Rows(string of, int outline, bool closed, double[] points, double?[]? values)
        {
            for (var i = 0; i < points.Length / 3; i++)
            {
                var (x, y, z) = Vector3D.At(points, i);
                text.Append(CultureInfo.InvariantCulture, $"{of},{outline},{(closed ? "yes" : "no")},{x:R},{y:R},{z:R},{values?[i]:R}\n");
            }
        }

        for (var k = 0; k < sheet.Nominal.Count; k++)
        {
            Rows("nominal", k + 1, sheet.Nominal[k].Closed, sheet.Frame.InSpace(sheet.Nominal[k].Points), null);
        }

        for (var k = 0; k < sheet.Scan.Count; k++)
        {
            Rows("scan", k + 1, sheet.Scan[k].Closed, sheet.Frame.InSpace(sheet.Scan[k].Points), sheet.Scan[k].Values);
        }

        return text.ToString();
    }
}
