using System.Globalization;

namespace Bostel.Core.Formats;

/// <summary>Outlines of sections as open text formats.</summary>
public static class OutlineFormats
{
    /// <summary>
    /// Writes by suffix: .csv (outline, closed, x, y, z; one point a line) or .dxf (3D polylines, the plain R12 form that all readers
    /// know). mm.
    /// </summary>
    /// <param name="outlines">Points, 3·N numbers, and whether the outline is closed.</param>
    /// <exception cref="BadInputException">Another suffix.</exception>
    public static void Write(TextWriter writer, string fileName, IReadOnlyList<(double[] Points, bool Closed)> outlines)
    {
        switch (Path.GetExtension(fileName).ToLowerInvariant())
        {
            case ".csv": Csv(writer, outlines); break;
            case ".dxf": Dxf(writer, [.. outlines.Select(o => (o.Points, o.Closed, "SECTION"))]); break;
            default: throw new BadInputException($"{fileName}: outlines are written as .csv or .dxf.");
        }
    }

    private static void Csv(TextWriter writer, IReadOnlyList<(double[] Points, bool Closed)> outlines)
    {
        writer.Write("outline,closed,x,y,z\n");
        for (var k = 0; k < outlines.Count; k++)
        {
            var (points, closed) = outlines[k];
            for (var i = 0; i < points.Length; i += 3)
            {
                writer.Write(string.Create(CultureInfo.InvariantCulture,
                    $"{k + 1},{(closed ? "yes" : "no")},{points[i]:R},{points[i + 1]:R},{points[i + 2]:R}\n"));
            }
        }
    }

    /// <summary>3D polylines, each on a layer; one of a single point is written as a point.</summary>
    public static void Dxf(TextWriter writer, IReadOnlyList<(double[] Points, bool Closed, string Layer)> outlines)
    {
        void Pair(int code, string value) => writer.Write(string.Create(CultureInfo.InvariantCulture, $"{code}\n{value}\n"));
        void Number(int code, double value) => Pair(code, value.ToString("R", CultureInfo.InvariantCulture));
        void Place(double[] points, int i)
        {
            Number(10, points[i]);
            Number(20, points[i + 1]);
            Number(30, points[i + 2]);
        }

        Pair(0, "SECTION");
        Pair(2, "ENTITIES");
        foreach (var (points, closed, layer) in outlines)
        {
            if (points.Length == 3)
            {
                Pair(0, "POINT");
                Pair(8, layer);
                Place(points, 0);
                continue;
            }

            Pair(0, "POLYLINE");
            Pair(8, layer);
            Pair(66, "1");

            // 8: a polyline in space; 1: closed.
            Pair(70, closed ? "9" : "8");
            for (var i = 0; i < points.Length; i += 3)
            {
                Pair(0, "VERTEX");
                Pair(8, layer);
                Place(points, i);
                Pair(70, "32");
            }

            Pair(0, "SEQEND");
            Pair(8, layer);
        }

        Pair(0, "ENDSEC");
        Pair(0, "EOF");
    }
}
