using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Data;

/// <summary>Which station an outcome belongs to.</summary>
public enum OutcomeKind
{
    Prepared,
    Aligned,
    Deviations,
    Compared,
    Feature,
    Value,
    OtherWays,
}

/// <summary>
/// What a station gave, under the key of what made it (Core's OutcomeKeys). Never changed: the same key is the same content.
/// <see cref="Before"/> is the key of the outcome it rests on, so that an old one can be shown again whatever has changed since.
/// </summary>
public sealed class Outcome
{
    public required string Key { get; set; }
    public OutcomeKind Kind { get; set; }
    public string? Before { get; set; }
    public required string Body { get; set; }

    /// <summary>The deviations themselves.</summary>
    public string? BlobSha { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}

/// <summary>The keys of the outcomes a piece last got, station by station.</summary>
public sealed record ShownKeys
{
    public string? Prepared { get; init; }
    public string? Aligned { get; init; }
    public string? Deviations { get; init; }

    /// <summary>Of the deviations that the map shows; null: those above.</summary>
    public string? Map { get; init; }
    public string? Compared { get; init; }
    public IReadOnlyList<string> Features { get; init; } = [];
}

/// <summary>One evaluation of one piece: its rows and its verdict, under the key of all that made them. Never changed.</summary>
public sealed class Run
{
    public Guid Id { get; set; }
    public Guid PieceId { get; set; }
    public required string Key { get; set; }
    public int PlanNumber { get; set; }
    public Verdict Verdict { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
    public List<CharacteristicRow> Characteristics { get; set; } = [];
}

/// <summary>A judged characteristic as a row, so that trends can be queried.</summary>
public sealed class CharacteristicRow
{
    public long Id { get; set; }
    public Guid RunId { get; set; }
    public int No { get; set; }
    public required string Name { get; set; }
    public required string Kind { get; set; }
    public required string Plan { get; set; }
    public double? Nominal { get; set; }
    public double? LowerLimit { get; set; }
    public double? UpperLimit { get; set; }
    public double? Measured { get; set; }
    public double? Deviation { get; set; }
    public double Beyond { get; set; }
    public double? Uncertainty { get; set; }

    /// <summary>What the uncertainty is made of, JSON; null in rows judged before it was kept.</summary>
    public string? Budget { get; set; }

    public Verdict Verdict { get; set; }
    public string Method { get; set; } = "";
    public string? Remark { get; set; }

    /// <summary>What other ways make of the verdict, JSON; null: they were not tried.</summary>
    public string? Firmness { get; set; }
    public int Points { get; set; }
    public double Coverage { get; set; }
    public string? View { get; set; }
}

/// <summary>An issued report. Its files never change; their hashes prove it. It can be withdrawn, with a reason, but never goes.</summary>
public sealed class Report
{
    public Guid Id { get; set; }
    public required string Number { get; set; }
    public Guid PieceId { get; set; }
    public Piece? Piece { get; set; }
    public Guid RunId { get; set; }

    /// <summary>Of everything printed in it: a piece has no two reports of the same.</summary>
    public required string Key { get; set; }

    /// <summary>The request it came from: one request gives one report.</summary>
    public Guid? JobId { get; set; }
    public int PlanNumber { get; set; }
    public Verdict Verdict { get; set; }
    public required string PdfSha { get; set; }
    public required string CsvSha { get; set; }
    public required string XlsxSha { get; set; }

    /// <summary>Null in reports issued before there were such files.</summary>
    public string? HtmlSha { get; set; }
    public string? JsonSha { get; set; }
    public string? QifSha { get; set; }
    public string? NoteSha { get; set; }
    public string? NotePdfSha { get; set; }
    public required string IssuedBy { get; set; }
    public DateTimeOffset IssuedAt { get; set; }
    public DateTimeOffset? WithdrawnAt { get; set; }
    public string? WithdrawnBy { get; set; }
    public string? WithdrawnWhy { get; set; }

    /// <summary>It holds only once another person has countersigned it.</summary>
    public bool NeedsCountersignature { get; set; }
    public DateTimeOffset? CountersignedAt { get; set; }
    public string? CountersignedBy { get; set; }

    /// <summary>Number of the report that took its place; null: none.</summary>
    public string? SupersededBy { get; set; }

    /// <summary>Its files by their formats.</summary>
    public IEnumerable<(ReportFormat Format, string Sha)> Files
    {
        get
        {
            (ReportFormat Format, string? Sha)[] all =
            [
                (ReportFormat.Pdf, PdfSha), (ReportFormat.Csv, CsvSha), (ReportFormat.Xlsx, XlsxSha), (ReportFormat.Html, HtmlSha),
                (ReportFormat.Json, JsonSha), (ReportFormat.Qif, QifSha), (ReportFormat.Note, NoteSha), (ReportFormat.NotePdf, NotePdfSha),
            ];
            return all.Where(f => f.Sha is not null).Select(f => (f.Format, f.Sha!));
        }
    }

    /// <summary>Whether it may be relied on.</summary>
    public bool Holds => WithdrawnAt is null && SupersededBy is null && (!NeedsCountersignature || CountersignedAt is not null);
}

/// <summary>The next number of a series, drawn in the transaction that uses it: a number that was not used is not gone.</summary>
public sealed class Counter
{
    public const string Reports = "report";
    public const string Register = "register";

    public required string Name { get; set; }
    public int Next { get; set; }
}
