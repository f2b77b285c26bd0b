using System.Globalization;
using Bostel.Core.Comparison;
using Bostel.Core.Formats;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Server.Services;

namespace Bostel.Server.Endpoints;

/// <summary>A piece with all that is shown of its record.</summary>
public static class PieceViews
{
    public static PieceView Of(Piece piece, StoredPlan plan, ShownRecord shown, IReadOnlyList<Job> jobs, Report? report)
    {
        var factor = LengthUnit.Factor(piece.Unit);
        double[] raw = [piece.RawX, piece.RawY, piece.RawZ];
        var nominal = piece.Part!.Nominal;
        double[]? nominalSize = nominal is null ? null : [nominal.SizeX, nominal.SizeY, nominal.SizeZ];
        var guess = GuessedUnit.Of(piece, nominal);
        return new(
            piece.Id, piece.PartId, piece.Part.Number, piece.Part.Name, piece.Part.Revision, piece.Serial, piece.FileName, piece.Unit,
            piece.Format, piece.Vertices, piece.Triangles, raw,
            [.. raw.Select(v => v * factor)], piece.Remarks, piece.Problem, piece.Columns, nominal?.Id, nominalSize,
            guess is { } g ? new(g.Unit, g.Agrees) : null, plan.Number,
            shown.Prepared is null ? null : RunOf(shown), Stations(piece, plan.Plan, shown, guess, report), [.. jobs.Select(Views.Of)]);
    }

    private static RunView RunOf(ShownRecord shown) => new(
        shown.Run?.Id, shown.Run?.PlanNumber, shown.RunStale || shown.Compared is { Stale: true }, shown.Prepared?.Outcome.Record,
        shown.Aligned is { } a ? Of(a.Outcome) : null,
        shown.Compared is { Outcome: var c } ? new(c.Lower, c.Upper, MethodWords.Of(c.How), Of(c.Statistics)) : null, shown.Run?.Verdict,
        shown.Features,
        [.. (shown.Run?.Characteristics ?? []).OrderBy(r => r.No).Select(CharacteristicRows.ResultOf)],
        shown.AlignStage, shown.CompareStage, shown.OwnStage,
        [.. shown.Named.Select(n => new NamedAlignmentView(n.Name, n.Aligned is { } named ? Of(named) : null, n.Stage))]);

    public static TrialView Of(AlignmentTrial trial, IReadOnlyList<VerdictChange> verdicts) => new(
        Of(trial.Aligned), trial.Change, verdicts);

    private static AlignmentView Of(AlignedOutcome outcome)
    {
        var a = outcome.Result;
        return new(
        a.Transform.ToArray(), a.Rms, a.Inliers, a.Coverage, a.Condition, a.Resembles, a.Mirrored,
        a.Resembles ? null : InspectionRunner.Unlike(a), a.PointsUsed,
        [.. a.Alternatives.Select(p => new AlternativeView(p.Transform.ToArray(), p.Rms, p.TimesWorse))], outcome.How,
        outcome.How.Words)
        {
            Motions = HeldMotion.Of(outcome),
            Steps = a.Steps,
            DecidedOn = a.DecidedOn,
            FarthestU = a.FarthestSigma is { } sigma ? Finite(2 * sigma) : null,
        };
    }

    private static StatisticsView Of(DeviationStatistics s) => new(
        s.Count, s.NoData, Finite(s.Min), Finite(s.Max), Finite(s.Mean), Finite(s.Std), Finite(s.Rms), Finite(s.WithinTolerance),
        s.Percentiles);

    private static List<StationView> Stations(
        Piece piece, InspectionPlan plan, ShownRecord shown, (string Unit, bool Agrees)? guess, Report? report)
    {
        static StationState State(bool done, bool stale, bool look = false) =>
            !done ? StationState.NotStarted : stale ? StationState.OutOfDate : look ? StationState.NeedsLook : StationState.Done;
        var rows = shown.Run?.Characteristics ?? [];
        var bad = rows.Count(r => r.Verdict != Verdict.Conforming);
        var received = piece.Vertices > 0;
        var steps = shown.Prepared?.Outcome.Record.Steps ?? [];
        var aligned = shown.Aligned?.Outcome.Result;
        var statistics = shown.Compared?.Outcome.Statistics;
        var failed = shown.Features.Count(f => f.Failure is not null);
        var figures = plan.Figures.Count;
        return
        [
            new("receive", piece.Problem is not null ? StationState.NeedsLook : !received
                ? StationState.NotStarted : guess is { Agrees: false } ? StationState.NeedsLook : StationState.Done,
                piece.Problem is not null ? "cannot be read" : !received
                    ? "reading" : guess is { Agrees: false } ? $"unit? {piece.Unit}" : piece.Triangles > 0
                    ? $"{Grouped(piece.Triangles)} triangles, {piece.Unit}"
                    : $"{Grouped(piece.Vertices)} points, {piece.Unit}"),
            new("prepare", State(shown.Prepared is not null, shown.Prepared?.Stale == true, steps.Any(s => s.Caution is not null)),
                shown.Prepared is null ? "not started" : steps.Count > 0 ? $"{steps.Count} {(steps.Count == 1 ? "step" : "steps")}, "
                    + $"{Grouped(steps[^1].Triangles > 0 ? steps[^1].Triangles : steps[^1].Vertices)} left" : "nothing to do"),
            new("align",
                State(aligned is not null, shown.Aligned?.Stale == true, aligned?.Resembles == false || aligned?.Alternatives.Count > 0
                    || (aligned is not null && shown.Named.Any(n => n.Aligned is not { Result.Resembles: true }))),
                aligned is null ? "not started" : aligned.Mirrored
                    ? "mirrored" : aligned.Resembles ? Text($"RMS {aligned.Rms:0.000} mm") : "does not resemble"),
            new("features", State(shown.Features.Count > 0, shown.FeaturesStale, failed > 0),
                shown.Features.Count > 0 ? $"{shown.Features.Count - failed} of {shown.Features.Count} measured" : "not started"),
            new("compare", State(statistics is not null, shown.Compared?.Stale == true),
                statistics is null ? "not started" : Text($"{100 * (Finite(statistics.WithinTolerance) ?? 0):0.0} % within")),
            new("evaluate", State(rows.Count > 0, shown.RunStale, bad > 0),
                rows.Count == 0 ? "not started" : $"{rows.Count - bad} of {rows.Count} conform"),
            new("issue", State(report is not null, shown.RunStale || report?.RunId != shown.Run?.Id),
                report is not null ? report.Number : figures > 0 ? $"{figures} figure{(figures == 1 ? "" : "s")}" : "not issued"),
        ];
    }

    private static string Text(FormattableString s) => s.ToString(CultureInfo.InvariantCulture);

    private static double? Finite(double v) => double.IsFinite(v) ? v : null;

    /// <summary>Thousands apart by a space that does not break, as everywhere on the screen.</summary>
    private static string Grouped(int n) => n.ToString("N0", CultureInfo.InvariantCulture).Replace(',', '\u00a0');
}
