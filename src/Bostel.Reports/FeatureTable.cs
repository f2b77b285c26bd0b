using System.Text;
using Bostel.Core.Features;

namespace Bostel.Reports;

/// <summary>
/// The measured features as a table: place, direction and size against those of the nominal, mm and degrees in nominal coordinates. The
/// uncertainty is what scatter and number of points leave; device and temperature count where a number is judged.
/// </summary>
public static class FeatureTable
{
    private const string Diameter = "diameter";

    private static readonly string[] _columns =
    [
        "feature", "name", "kind", "x", "y", "z", "i", "j", "k",
        "nominal x", "nominal y", "nominal z", "nominal i", "nominal j", "nominal k",
        "size", "size measured", "size nominal", "size deviation", "U of the fit (95 %)",
        "second size", "second size measured", "second size nominal", "form", "points", "coverage", "remark",
    ];

    internal static Sheet SheetOf(IReadOnlyList<MeasuredFeature> features) => new("Features", _columns, [.. features.Select(Cells)]);

    public static byte[] Csv(IReadOnlyList<MeasuredFeature> features)
    {
        var text = new StringBuilder().AppendJoin(',', _columns).Append('\n');
        foreach (var feature in features)
        {
            text.AppendJoin(',', Cells(feature).Select(c => TableWriters.Cell(c.Value))).Append('\n');
        }

        return Encoding.UTF8.GetBytes(text.ToString());
    }

    private static IReadOnlyList<SheetCell> Cells(MeasuredFeature f)
    {
        var (first, second) = SizesOf(f.Kind);
        return
        [
            new(f.Plan.Id), new(f.Plan.Name), new(f.Kind), .. Place(f.Kind, f.Measured), .. Place(f.Kind, f.Nominal), .. Size(f, first),
            Of(first is { } size ? size.Of(f.Measured) - size.Of(f.Nominal) : null),
            Of(first is { Name: Diameter } && f.Measured.Length > 0 ? 4 * f.RadiusSigma : null), .. Size(f, second),
            Of(f.Failure is null && f.Construction is null ? f.Form : null), new(f.Used), new(f.Coverage, CellLook.Share),
            new(f.Failure ?? ""),
        ];
    }

    /// <summary>A size of a kind of feature, and how it follows from its numbers.</summary>
    private sealed record SizeColumn(string Name, int At, double Times)
    {
        public double? Of(double[] numbers) => At < numbers.Length ? Times * numbers[At] : null;
    }

    private static (SizeColumn? First, SizeColumn? Second) SizesOf(string kind) => kind switch
    {
        "cylinder" or "circle" => (new(Diameter, 6, 2), null),
        "sphere" => (new(Diameter, 3, 2), null),
        "cone" => (new("half angle", 6, 180 / Math.PI), null),
        "torus" => (new("major radius", 6, 1), new("minor radius", 7, 1)),
        "slot" => (new("length", 9, 1), new("width", 10, 1)),
        _ => (null, null),
    };

    private static IEnumerable<SheetCell> Size(MeasuredFeature f, SizeColumn? size) =>
        [new(size?.Name ?? ""), Of(size?.Of(f.Measured)), Of(size?.Of(f.Nominal))];

    /// <summary>Point and direction; a sphere and a point have none.</summary>
    private static IEnumerable<SheetCell> Place(string kind, double[] numbers)
    {
        var directed = kind is not ("sphere" or "point");
        return Enumerable.Range(0, 6).Select(i => Of(i < numbers.Length && (i < 3 || directed) ? numbers[i] : null));
    }

    /// <summary>Features have no tolerance that would ask for decimals: as many as a coordinate is good for.</summary>
    private static SheetCell Of(double? value) => new(value, CellLook.Plain, 4);
}
