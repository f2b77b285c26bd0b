using MathNet.Numerics;

namespace Bostel.Core.Statistics;

/// <summary>
/// How much of what is seen comes from measuring: two-way crossed analysis of variance with random effects (ISO 22514-7; Montgomery, Design
/// and Analysis of Experiments, 13.3). An interaction that does not stand out is pooled with repeatability; components below 0 are 0.
/// </summary>
public sealed record GaugeStudy
{
    public required double[] SumsOfSquares { get; init; }

    public required double[] MeanSquares { get; init; }

    /// <summary>F of the interaction, and its probability by chance.</summary>
    public required double F { get; init; }

    public required double P { get; init; }

    public required bool Pooled { get; init; }
    public required double Repeatability { get; init; }
    public required double Operators { get; init; }
    public required double Interaction { get; init; }
    public required double Parts { get; init; }

    public double Reproducibility => Operators + Interaction;

    public double Gauge => Repeatability + Reproducibility;

    public double Total => Gauge + Parts;

    /// <summary>Part, operator, interaction, repeatability, in <see cref="SumsOfSquares"/> and <see cref="MeanSquares"/>.</summary>
    /// <param name="values">By part, operator and trial.</param>
    /// <param name="alphaToPool">An interaction that is likelier by chance is pooled.</param>
    /// <exception cref="BadInputException">Fewer than two parts, operators or trials, or not as many everywhere.</exception>
    public static GaugeStudy Of(double[][][] values, double alphaToPool)
    {
        var (p, o, r) = (values.Length, values.FirstOrDefault()?.Length ?? 0, values.FirstOrDefault()?.FirstOrDefault()?.Length ?? 0);
        if (p < 2 || o < 2 || r < 2 || values.Any(a => a.Length != o || a.Any(b => b.Length != r || !b.All(double.IsFinite))))
        {
            throw new BadInputException("values: two parts, operators and trials at least, as many trials everywhere.");
        }

        var grand = values.Average(a => a.Average(b => b.Average()));
        var parts = values.Select(a => a.Average(b => b.Average())).ToArray();
        var operators = Enumerable.Range(0, o).Select(j => values.Average(a => a[j].Average())).ToArray();
        var ssPart = o * r * parts.Sum(m => Square(m - grand));
        var ssOperator = p * r * operators.Sum(m => Square(m - grand));
        var ssInteraction = r * Enumerable.Range(0, p).Sum(i => Enumerable.Range(0, o)
            .Sum(j => Square(values[i][j].Average() - parts[i] - operators[j] + grand)));
        var ssRepeat = values.Sum(a => a.Sum(b => b.Sum(v => Square(v - b.Average()))));
        var (dfInteraction, dfRepeat) = ((p - 1) * (o - 1), p * o * (r - 1));
        double[] mean = [ssPart / (p - 1), ssOperator / (o - 1), ssInteraction / dfInteraction, ssRepeat / dfRepeat];
        var f = mean[2] / mean[3];

        // The upper tail of F is a regularized incomplete beta function (Abramowitz and Stegun, 26.6.2).
        var chance = SpecialFunctions.BetaRegularized(dfRepeat / 2.0, dfInteraction / 2.0, dfRepeat / (dfRepeat + (dfInteraction * f)));
        var pooled = chance > alphaToPool;
        var error = pooled ? (ssInteraction + ssRepeat) / (dfInteraction + dfRepeat) : mean[3];
        var under = pooled ? error : mean[2];
        return new()
        {
            SumsOfSquares = [ssPart, ssOperator, ssInteraction, ssRepeat],
            MeanSquares = mean,
            F = f,
            P = chance,
            Pooled = pooled,
            Repeatability = error,
            Operators = Math.Max(0, (mean[1] - under) / (p * r)),
            Interaction = pooled ? 0 : Math.Max(0, (mean[2] - mean[3]) / r),
            Parts = Math.Max(0, (mean[0] - under) / (o * r)),
        };
    }

    private static double Square(double v) => v * v;
}
