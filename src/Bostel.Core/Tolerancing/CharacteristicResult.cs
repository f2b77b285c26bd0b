namespace Bostel.Core.Tolerancing;

/// <summary>
/// Where to look from to see a characteristic's evidence: a point, the direction from it to the eye, the width of what matters.
/// </summary>
public sealed record EvidenceView(double[] Target, double[] Direction, double Size);

/// <summary>A judged characteristic with how its number was obtained.</summary>
public sealed record CharacteristicResult(CharacteristicPlan Plan)
{
    public double? Nominal { get; init; }
    public double? LowerLimit { get; init; }
    public double? UpperLimit { get; init; }

    public double? Measured { get; init; }

    /// <summary>Measured minus nominal; for geometrical kinds the measured value itself.</summary>
    public double? Deviation { get; init; }

    /// <summary>By how much the value lies beyond the nearer limit; 0 inside.</summary>
    public double Beyond { get; init; }

    /// <summary>Expanded uncertainty for 95.45 %; null where it cannot be told.</summary>
    public double? Uncertainty { get; init; }

    /// <summary>What the uncertainty is made of.</summary>
    public IReadOnlyList<Contribution> Budget { get; init; } = [];

    public Verdict Verdict { get; init; } = Verdict.NotMeasured;

    /// <summary>Criterion, datums, filter in words.</summary>
    public string Method { get; init; } = "";

    /// <summary>What limits the number, or why there is none.</summary>
    public string? Remark { get; init; }

    /// <summary>What other ways make of the verdict; null: they were not tried.</summary>
    public Firmness? Firmness { get; init; }

    public int Points { get; init; }
    public double Coverage { get; init; }
    public EvidenceView? View { get; init; }

    /// <summary>By which a material requirement lets the tolerance grow, mm; the upper limit holds it.</summary>
    public double Bonus => UpperLimit - Plan.Limits.Upper ?? 0;

    /// <summary>Unit of the numbers: "mm" or "°".</summary>
    public string Unit => Plan.Unit;

    /// <summary>Decimals the tolerance calls for.</summary>
    public int Decimals => new Limits(Nominal, LowerLimit, UpperLimit).Decimals;
}
