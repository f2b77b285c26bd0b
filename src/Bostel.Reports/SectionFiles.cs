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
        SectionPlan plan, SectionSheet sheet, ComparePlan compare, SectionFormat format)
    {
        var (suffix, type, text) = format switch
        {
            SectionFormat.Svg => (
                ".svg", "image/svg+xml", SectionDrawing.Svg(sheet, plan, new(compare.Lower, compare.Upper, compare.Ramp))),
            SectionFormat.Dxf => (".dxf", "image/vnd.dxf", Dxf(sheet)),
            _ => (".csv", "text/csv", Csv(sheet)),
        };
        return (plan.Name + suffix, type, Encoding.UTF8.GetBytes(text));
    }

    private static string Dxf(SectionSheet sheet)
    {
        using var text = new StringWriter();
        OutlineFormats.Dxf(text,
        [
            .. sheet.Nominal.Select(o => (InSpace(sheet.Frame, o.Points), o.Closed, "NOMINAL")),
            .. sheet.Scan.Where(o => o.Joined).Select(o => (InSpace(sheet.Frame, o.Points), o.Closed, "SCAN")),
            .. sheet.Scan.Where(o => !o.Joined).SelectMany(o => InSpace(sheet.Frame, o.Points).Chunk(3)).Select(p => (p, false, "SCAN")),
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
            Rows("nominal", k + 1, sheet.Nominal[k].Closed, InSpace(sheet.Frame, sheet.Nominal[k].Points), null);
        }

        for (var k = 0; k < sheet.Scan.Count; k++)
        {
            Rows("scan", k + 1, sheet.Scan[k].Closed, InSpace(sheet.Frame, sheet.Scan[k].Points), sheet.Scan[k].Values);
        }

        return text.ToString();
    }

    private static double[] InSpace(SheetFrame frame, double[] flat)
    {
        var (origin, right, up) = (Vector3D.FromArray(frame.Origin), Vector3D.FromArray(frame.Right), Vector3D.FromArray(frame.Up));
        return [.. flat.Chunk(2).SelectMany(p => (origin + (p[0] * right) + (p[1] * up)).ToArray())];
    }
}
