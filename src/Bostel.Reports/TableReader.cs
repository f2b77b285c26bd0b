using System.Globalization;
using System.Text;
using Bostel.Core;
using Bostel.Core.Plans;
using MiniExcelLibs;
using MiniExcelLibs.Csv;

namespace Bostel.Reports;

/// <summary>Tables that come in, as CSV (separated by commas, semicolons or tabs) or XLSX (its first sheet).</summary>
public static class TableReader
{
    /// <summary>Endings of names that are read.</summary>
    public static readonly IReadOnlyList<string> Suffixes = [".csv", ".xlsx"];

    /// <summary>The characteristics of a drawing.</summary>
    /// <exception cref="BadInputException">Of another format, damaged, or with an error in a line.</exception>
    public static DrawingTable Drawing(byte[] bytes, string name) => DrawingTable.Of(Read(bytes, name), name);

    /// <summary>The texts of a table by line and column; numbers as they round-trip.</summary>
    /// <param name="name">Of the file: its ending tells the format, and messages show it.</param>
    /// <exception cref="BadInputException">Of another format, or damaged.</exception>
    public static IReadOnlyList<IReadOnlyList<string>> Read(byte[] bytes, string name)
    {
        var suffix = Path.GetExtension(name).ToLowerInvariant();
        if (!Suffixes.Contains(suffix))
        {
            throw new BadInputException($"{name}: a table is CSV or XLSX.");
        }

        try
        {
            using var memory = new MemoryStream(bytes);
            var rows = suffix == ".csv"
                ? memory.Query(excelType: ExcelType.CSV, configuration: new CsvConfiguration { Seperator = SeparatorOf(bytes) })
                : memory.Query(excelType: ExcelType.XLSX);
            return [.. rows.Cast<IDictionary<string, object?>>().Select(row => (IReadOnlyList<string>)[.. row.Values.Select(Text)])];
        }
        catch (Exception e) when (e is InvalidDataException or FormatException or ArgumentException or InvalidOperationException
            or NullReferenceException or System.Xml.XmlException or KeyNotFoundException)
        {
            throw new BadInputException(
                $"{name}: cannot be read as {suffix[1..].ToUpperInvariant()}; it is damaged or of another kind.", e);
        }
    }

    private static string Text(object? value) => value switch
    {
        double number => number.ToString("R", CultureInfo.InvariantCulture),
        IFormattable other => other.ToString(null, CultureInfo.InvariantCulture),
        _ => value?.ToString() ?? "",
    };

    /// <summary>What the head has most of.</summary>
    private static char SeparatorOf(byte[] bytes)
    {
        var head = Encoding.UTF8.GetString(bytes.AsSpan(0, Math.Min(bytes.Length, 4096))).Split('\n')[0];
        return new[] { ',', ';', '\t' }.MaxBy(c => head.Count(h => h == c));
    }
}
