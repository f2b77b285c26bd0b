using Bostel.Core.Tolerancing;
using Bostel.Data;

namespace Bostel.Server.Services;

/// <summary>Judged characteristics as rows of a run, and back.</summary>
public static class CharacteristicRows
{
    public static CharacteristicRow Of(Guid run, CharacteristicResult c) => new()
    {
        RunId = run,
        No = c.Plan.No,
        Name = c.Plan.Name,
        Kind = c.Plan.Kind,
        Plan = StoredJson.Write(c.Plan),
        Nominal = c.Nominal,
        LowerLimit = c.LowerLimit,
        UpperLimit = c.UpperLimit,
        Measured = c.Measured,
        Deviation = c.Deviation,
        Beyond = c.Beyond,
        Uncertainty = c.Uncertainty,
        Budget = StoredJson.Write(c.Budget),
        Verdict = c.Verdict,
        Method = c.Method,
        Remark = c.Remark,
        Firmness = c.Firmness is null ? null : StoredJson.Write(c.Firmness),
        Points = c.Points,
        Coverage = c.Coverage,
        View = c.View is null ? null : StoredJson.Write(c.View),
    };

    public static CharacteristicResult ResultOf(CharacteristicRow r) => new(StoredJson.Read<CharacteristicPlan>(r.Plan))
    {
        Nominal = r.Nominal,
        LowerLimit = r.LowerLimit,
        UpperLimit = r.UpperLimit,
        Measured = r.Measured,
        Deviation = r.Deviation,
        Beyond = r.Beyond,
        Uncertainty = r.Uncertainty,
        Budget = r.Budget is null ? [] : StoredJson.Read<IReadOnlyList<Contribution>>(r.Budget),
        Verdict = r.Verdict,
        Method = r.Method,
        Remark = r.Remark,
        Firmness = r.Firmness is null ? null : StoredJson.Read<Firmness>(r.Firmness),
        Points = r.Points,
        Coverage = r.Coverage,
        View = r.View is null ? null : StoredJson.Read<EvidenceView>(r.View),
    };
}
