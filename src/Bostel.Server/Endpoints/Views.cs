using System.Globalization;
using System.Text.Json;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Formats;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Reports;
using Bostel.Server.Services;
using Piece = Bostel.Data.Piece;

namespace Bostel.Server.Endpoints;

/// <summary>From stored rows to what is sent.</summary>
public static class Views
{
    public static JobView Of(Job j) => new(j.Id, j.Kind, j.SubjectId, JsonNamingPolicy.CamelCase.ConvertName(j.State.ToString()), j.Share, j.What, j.Error, j.CreatedAt);

    public static AuditView Of(AuditEntry a) => new(a.Id, a.At, a.Who, a.Action, a.Subject, a.Detail);

    public static PlanView Of(StoredPlan p) => new(p.Number, p.CanUndo, p.CanRedo, p.Plan);

    public static ReportView Of(Report r) => new(r.Id, r.Number, r.PieceId, r.Piece!.Part!.Number, r.Piece.Serial, r.Verdict, r.PlanNumber, r.IssuedBy, r.IssuedAt, r.PdfSha, r.CsvSha, r.XlsxSha);

    public static FeatureView Of(FeatureRow f, IReadOnlyList<int> faces) => new(
        f.FeatureId, f.Name, f.Kind, f.Failure, faces, f.Measured, f.Nominal, f.Used, f.Rejected, f.Coverage, f.Scatter, f.Form, f.EdgeMargin, f.RadiusSigma, f.PositionSigma, f.DirectionSigma);

    public static PieceView Of(Piece piece, int planNumber, Run? run, IReadOnlyList<Job> jobs, int figures, Report? report)
    {
        var factor = LengthUnit.Factor(piece.Unit);
        double[] raw = [piece.RawX, piece.RawY, piece.RawZ];
        var nominal = piece.Part!.Nominal;
        double[]? nominalSize = nominal is null ? null : [nominal.SizeX, nominal.SizeY, nominal.SizeZ];
        var guess = nominalSize is null || piece.Vertices == 0 ? ((string Unit, bool Agrees)?)null : LengthUnit.Guess(piece.PartDiagonal, Diagonal(nominalSize), piece.Unit);
        var view = run is null ? null : Of(run, run.PlanNumber != planNumber || run.Unit != piece.Unit);
        return new(
            piece.Id, piece.PartId, piece.Part.Number, piece.Part.Name, piece.Part.Revision, piece.Serial, piece.FileName, piece.Unit, piece.Format, piece.Vertices, piece.Triangles, raw,
            [.. raw.Select(v => v * factor)], piece.Remarks, piece.Problem, piece.Columns, nominal?.Id, nominalSize, guess is { } g ? new(g.Unit, g.Agrees) : null, planNumber, view,
            Stations(piece, view, guess, figures, report), [.. jobs.Select(Of)]);
    }

    private static RunView Of(Run run, bool stale)
    {
        var plan = InspectionPlan.Parse(run.PlanBody);
        var faces = plan.Features.ToDictionary(f => f.Id, f => f.Faces);
        var alignment = Read<AlignmentResult>(run.Alignment);
        var statistics = Read<DeviationStatistics>(run.Statistics);
        return new(
            run.Id, run.PlanNumber, stale, Read<PreparationRecord>(run.Preparation), alignment is null ? null : Of(alignment), statistics is null ? null : Of(statistics), run.Verdict,
            [.. run.Features.OrderBy(f => f.Id).Select(f => Of(f, faces.GetValueOrDefault(f.FeatureId) ?? []))], [.. run.Characteristics.OrderBy(c => c.No).Select(Of)]);
    }

    private static AlignmentView Of(AlignmentResult a) => new(
        a.Transform.ToArray(), a.Rms, a.Inliers, a.Coverage, a.Condition, a.Resembles, a.Resembles ? null : InspectionRunner.Unlike(a), a.PointsUsed,
        [.. a.Alternatives.Select(p => new AlternativeView(p.Transform.ToArray(), p.Rms, p.TimesWorse))]);

    private static StatisticsView Of(DeviationStatistics s) => new(
        s.Count, s.NoData, Finite(s.Min), Finite(s.Max), Finite(s.Mean), Finite(s.Std), Finite(s.Rms), Finite(s.WithinTolerance), s.Percentiles);

    private static CharacteristicView Of(CharacteristicRow row)
    {
        var c = StationService.ResultOf(row);
        return new(
            c.Plan.No, c.Plan.Name, c.Plan.Kind, c.Plan.Datums, c.Plan.Features, c.Plan.Faces, c.Nominal, c.LowerLimit, c.UpperLimit, c.Measured, c.Deviation, c.Beyond, c.Uncertainty, c.Verdict,
            c.Method, c.Remark, c.Points, c.Coverage, c.View, c.Unit, Wording.Decimals(c));
    }

    private static List<StationView> Stations(Piece piece, RunView? run, (string Unit, bool Agrees)? guess, int figures, Report? report)
    {
        var stale = run?.Stale == true;
        string State(bool done, bool look = false) => !done ? "notStarted" : stale ? "outOfDate" : look ? "needsLook" : "done";
        var rows = run?.Characteristics ?? [];
        var bad = rows.Count(r => r.Verdict != Verdict.Conforming);
        var received = piece.Vertices > 0;
        var prepared = run?.Preparation;
        var aligned = run?.Alignment;
        var statistics = run?.Statistics;
        return
        [
            new("receive", piece.Problem is not null ? "needsLook" : !received ? "notStarted" : guess is { Agrees: false } ? "needsLook" : "done",
                piece.Problem is not null ? "cannot be read" : !received ? "reading" : guess is { Agrees: false } ? $"unit? {piece.Unit}" : piece.Triangles > 0 ? $"{Grouped(piece.Triangles)} triangles, {piece.Unit}" : $"{Grouped(piece.Vertices)} points, {piece.Unit}"),
            new("prepare", State(prepared is not null), prepared is null ? "not started" : prepared.Steps is { Count: > 0 } done ? $"{done.Count} {(done.Count == 1 ? "step" : "steps")}, {Grouped(done[^1].Triangles > 0 ? done[^1].Triangles : done[^1].Vertices)} left" : "nothing to do"),
            new("align", State(aligned is not null, aligned?.Resembles == false || aligned?.Alternatives.Count > 0),
                aligned is null ? "not started" : aligned.Resembles ? Text($"RMS {aligned.Rms:0.000} mm") : "does not resemble"),
            new("features", State(run is { Features.Count: > 0 }, run?.Features.Any(f => f.Failure is not null) == true),
                run is { Features.Count: > 0 } ? $"{run.Features.Count(f => f.Failure is null)} of {run.Features.Count} measured" : "not started"),
            new("compare", State(statistics is not null), statistics is null ? "not started" : Text($"{100 * (statistics.WithinTolerance ?? 0):0.0} % within")),
            new("evaluate", State(rows.Count > 0, bad > 0), rows.Count == 0 ? "not started" : $"{rows.Count - bad} of {rows.Count} conform"),
            new("issue", report is not null ? (stale || report.RunId != piece.RunId ? "outOfDate" : "done") : "notStarted",
                report is not null ? report.Number : figures > 0 ? $"{figures} figure{(figures == 1 ? "" : "s")}" : "not issued"),
        ];
    }

    private static string Text(FormattableString s) => s.ToString(CultureInfo.InvariantCulture);

    private static double? Finite(double v) => double.IsFinite(v) ? v : null;

    private static double Diagonal(double[] size) => Math.Sqrt(size.Sum(v => v * v));

    private static T? Read<T>(string? json)
        where T : class => json is null ? null : JsonSerializer.Deserialize<T>(json, StationService.Json);

    /// <summary>Thousands apart by a space that does not break, as everywhere on the screen.</summary>
    private static string Grouped(int n) => n.ToString("N0", CultureInfo.InvariantCulture).Replace(',', '\u00a0');
}
