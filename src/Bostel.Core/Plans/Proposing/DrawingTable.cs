using System.Globalization;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>A line of a drawing's table. Lengths in mm, angles in degrees.</summary>
/// <param name="Line">Of the table, from 1, the head counted.</param>
/// <param name="Kind">Null: the line defines a datum, <paramref name="Name"/> its letter.</param>
/// <param name="Said">Limits or zone.</param>
/// <param name="Features">Names of what it refers to; lines with one name mean one thing.</param>
/// <param name="At">Where that is on the nominal.</param>
/// <param name="Count">How many alike it holds for.</param>
public sealed record DrawingLine(
    int Line, int? No, string Name, DrawingKind? Kind, DrawingRequirement Said, string[] Features, Vector3D? At, int Count);

/// <summary>
/// The characteristics of a drawing as a table, one a line. Columns, in any order: number, name, kind, requirement (as on the drawing) or
/// nominal, upper, lower (deviations), tolerance, material; datums, feature, x, y, z (of the nominal), count.
/// </summary>
public sealed record DrawingTable(IReadOnlyList<DrawingLine> Lines)
{
    private const int MostLines = 2000;

    /// <summary>Words a column may be headed with, the first its own.</summary>
    private static readonly Dictionary<Column, string[]> Heads = new()
    {
        [Column.Number] = ["number", "no", "no.", "nr"],
        [Column.Name] = ["name", "characteristic", "description"],
        [Column.Kind] = ["kind", "type"],
        [Column.Requirement] = ["requirement", "specification"],
        [Column.Nominal] = ["nominal", "nominal value", "size"],
        [Column.Upper] = ["upper", "upper deviation", "upper limit deviation"],
        [Column.Lower] = ["lower", "lower deviation", "lower limit deviation"],
        [Column.Tolerance] = ["tolerance", "zone"],
        [Column.Material] = ["material", "material requirement"],
        [Column.Datums] = ["datums", "datum", "datum system"],
        [Column.Feature] = ["feature", "features", "on"],
        [Column.X] = ["x"],
        [Column.Y] = ["y"],
        [Column.Z] = ["z"],
        [Column.Count] = ["count", "quantity"],
    };

    /// <summary>Words and signs (ISO 1101, table 1) for a kind.</summary>
    private static readonly Dictionary<string, DrawingKind> Kinds = new(StringComparer.OrdinalIgnoreCase)
    {
        ["diameter"] = DrawingKind.Diameter,
        ["⌀"] = DrawingKind.Diameter,
        ["radius"] = DrawingKind.Radius,
        ["r"] = DrawingKind.Radius,
        ["distance"] = DrawingKind.Distance,
        ["height"] = DrawingKind.Distance,
        ["depth"] = DrawingKind.Distance,
        ["length"] = DrawingKind.Distance,
        ["width"] = DrawingKind.Distance,
        ["thickness"] = DrawingKind.Distance,
        ["step"] = DrawingKind.Distance,
        ["angle"] = DrawingKind.Angle,
        ["straightness"] = DrawingKind.Straightness,
        ["⏤"] = DrawingKind.Straightness,
        ["flatness"] = DrawingKind.Flatness,
        ["⏥"] = DrawingKind.Flatness,
        ["roundness"] = DrawingKind.Roundness,
        ["circularity"] = DrawingKind.Roundness,
        ["○"] = DrawingKind.Roundness,
        ["cylindricity"] = DrawingKind.Cylindricity,
        ["⌭"] = DrawingKind.Cylindricity,
        ["parallelism"] = DrawingKind.Parallelism,
        ["∥"] = DrawingKind.Parallelism,
        ["//"] = DrawingKind.Parallelism,
        ["perpendicularity"] = DrawingKind.Perpendicularity,
        ["squareness"] = DrawingKind.Perpendicularity,
        ["⟂"] = DrawingKind.Perpendicularity,
        ["⊥"] = DrawingKind.Perpendicularity,
        ["angularity"] = DrawingKind.Angularity,
        ["∠"] = DrawingKind.Angularity,
        ["position"] = DrawingKind.Position,
        ["⌖"] = DrawingKind.Position,
        ["coaxiality"] = DrawingKind.Coaxiality,
        ["◎"] = DrawingKind.Coaxiality,
        ["concentricity"] = DrawingKind.Concentricity,
        ["symmetry"] = DrawingKind.Symmetry,
        ["⌯"] = DrawingKind.Symmetry,
        ["run-out"] = DrawingKind.CircularRunOut,
        ["runout"] = DrawingKind.CircularRunOut,
        ["↗"] = DrawingKind.CircularRunOut,
        ["circular run-out"] = DrawingKind.CircularRunOut,
        ["total run-out"] = DrawingKind.TotalRunOut,
        ["total runout"] = DrawingKind.TotalRunOut,
        ["⌰"] = DrawingKind.TotalRunOut,
        ["profile"] = DrawingKind.ProfileOfSurface,
        ["profile of a surface"] = DrawingKind.ProfileOfSurface,
        ["⌓"] = DrawingKind.ProfileOfSurface,
        ["profile of a line"] = DrawingKind.ProfileOfLine,
        ["⌒"] = DrawingKind.ProfileOfLine,
    };

    private enum Column
    {
        Number,
        Name,
        Kind,
        Requirement,
        Nominal,
        Upper,
        Lower,
        Tolerance,
        Material,
        Datums,
        Feature,
        X,
        Y,
        Z,
        Count,
    }

    /// <summary>Reads a table, its head first; lines without a kind and a name are blank.</summary>
    /// <param name="cells">Texts by line and column.</param>
    /// <param name="file">The name to show in messages.</param>
    /// <exception cref="BadInputException">A column is missing, or a line has an error in it: named by its number.</exception>
    public static DrawingTable Of(IReadOnlyList<IReadOnlyList<string>> cells, string file)
    {
        if (cells.Count == 0)
        {
            throw new BadInputException($"{file}: is empty.");
        }

        if (cells.Count > MostLines)
        {
            throw new BadInputException($"{file}: has more than {MostLines} lines.");
        }

        var columns = new Dictionary<Column, int>();
        foreach (var (i, head) in cells[0].Index())
        {
            foreach (var (column, _) in Heads.Where(h => h.Value.Contains(head.Trim(), StringComparer.OrdinalIgnoreCase)))
            {
                columns.TryAdd(column, i);
            }
        }

        if (!columns.ContainsKey(Column.Kind))
        {
            throw new BadInputException(
                $"{file}: has no column 'kind'. Columns are {string.Join(", ", Heads.Values.Select(h => h[0]))}.");
        }

        return new([.. cells.Skip(1).Select((c, i) => new Cells(columns, c, i + 2, file)).Where(c => !c.IsBlank).Select(c => c.Read())]);
    }

    private sealed record Cells(Dictionary<Column, int> Columns, IReadOnlyList<string> Texts, int Line, string File)
    {
        public bool IsBlank => Of(Column.Kind).Length + Of(Column.Name).Length == 0;

        public DrawingLine Read()
        {
            var kind = Of(Column.Kind);
            var isDatum = kind.Equals("datum", StringComparison.OrdinalIgnoreCase);
            if (!isDatum && !Kinds.ContainsKey(kind))
            {
                throw Wrong($"'{kind}' is no kind that is known: {string.Join(", ", Kinds.Keys.Where(k => k.Length > 2))}, datum");
            }

            DrawingKind? of = isDatum ? null : Kinds[kind];
            double?[] at = [Number(Column.X), Number(Column.Y), Number(Column.Z)];
            if (at.Count(v => v is null) is 1 or 2)
            {
                throw new BadInputException($"{File}, line {Line}: x, y and z are given together.");
            }

            string[] features = [.. Of(Column.Feature).Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)];
            return new(
                Line, Number(Column.Number) is { } no ? (int)no : null, Of(Column.Name), of, isDatum ? Nothing : Said(of!.Value), features,
                at[0] is null ? null : new(at[0]!.Value, at[1]!.Value, at[2]!.Value), (int)(Number(Column.Count) ?? 1));
        }

        private static DrawingRequirement Nothing => new(null, null, null, null, false, null, []);

        private DrawingRequirement Said(DrawingKind kind)
        {
            var isDimension = kind is DrawingKind.Diameter or DrawingKind.Radius or DrawingKind.Distance or DrawingKind.Angle;
            try
            {
                var said = Of(Column.Requirement) is { Length: > 0 } text
                    ? isDimension ? DrawingText.Dimension(text) : DrawingText.Tolerance(text)
                    : new(
                        Number(Column.Nominal), Number(Column.Upper), Number(Column.Lower), Number(Column.Tolerance), false,
                        DrawingText.Material(Of(Column.Material)), []);
                said = Of(Column.Datums) is { Length: > 0 } datums ? said.To(datums) : said;
                return !isDimension && !(said.Tolerance > 0) ? throw Wrong("a tolerance above 0 mm is needed")
                    : said.Lower >= said.Upper ? throw Wrong("the lower deviation must lie below the upper one")
                    : said;
            }
            catch (BadInputException reason) when (!reason.Message.StartsWith(File, StringComparison.Ordinal))
            {
                throw new BadInputException($"{File}, line {Line}: {reason.Message}", reason);
            }
        }

        private string Of(Column column) => Columns.TryGetValue(column, out var at) && at < Texts.Count ? Texts[at].Trim() : "";

        private double? Number(Column column) => Of(column) is not { Length: > 0 } text ? null
            : double.TryParse(text.Replace('−', '-').Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var value)
                && double.IsFinite(value) ? value
            : throw Wrong($"'{text}' under {Heads[column][0]} is no number");

        private BadInputException Wrong(string what) => new($"{File}, line {Line}: {what}.");
    }
}
