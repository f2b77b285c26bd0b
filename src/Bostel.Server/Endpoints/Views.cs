using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Data.Register;
using Bostel.Server.Services;

namespace Bostel.Server.Endpoints;

/// <summary>From stored rows to what is sent.</summary>
public static class Views
{
    public static JobView Of(Job j) => new(j.Id, j.Kind, j.SubjectId, j.State, j.Share, j.What, j.Error, j.CreatedAt);

    public static AuditView Of(AuditEntry a) => new(a.Id, a.At, a.Who, a.Action, a.Subject, a.Detail);

    public static PlanView Of(StoredPlan p) =>
        new(p.Number, p.CanUndo, p.CanRedo, p.ReleasedBy, p.Plan, new(p.Plan.Decision.Factor, p.Plan.Decision.Words),
            p.Plan.Standard.InWords(), p.Plan.General?.Words, $"{p.Plan.Device.Words}; {p.Plan.Temperature.Words}",
            [.. p.Plan.Characteristics.Select(c => new AskedView(c.No, c.Limits, c.Unit, c.Limits.Decimals))], p.Plan.Layout.Printed);

    public static ReportView Of(Report r) =>
        new(r.Id, r.Number, r.PieceId, r.Piece!.Part!.Number, r.Piece.Serial, r.Verdict, r.PlanNumber, r.IssuedBy, r.IssuedAt, r.PdfSha,
            r.CsvSha, r.XlsxSha,
            r.WithdrawnAt, r.WithdrawnBy, r.WithdrawnWhy, r.Holds, r.NeedsCountersignature, r.CountersignedAt, r.CountersignedBy,
            r.SupersededBy, [.. r.Files.Select(f => f.Format)]);

    public static RegisterEntryView Of(RegisterEntry e, string? publicKey) => new(
        e.Number, e.Event, e.Report, e.Who, e.At, e.Content, e.Before, e.Hash, e.Signature, publicKey);
}
