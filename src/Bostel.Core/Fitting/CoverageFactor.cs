using MathNet.Numerics.Distributions;

namespace Bostel.Core.Fitting;

/// <summary>From standard to expanded uncertainty (JCGM 100:2008, G.3).</summary>
internal static class CoverageFactor
{
    private const double Share = 0.9545;

    /// <summary>From so many degrees of freedom on the factor is 2 to 0.2 %.</summary>
    private const double Many = 1000;

    /// <summary>Student's t for a share of all cases.</summary>
    public static double Of(double freedom, double share) => StudentT.InvCDF(0, 1, freedom, (1 + share) / 2);

    /// <summary>Student's t for 95.45 %; 2 for many degrees of freedom.</summary>
    public static double Of(double freedom) => freedom < Many ? Of(freedom, Share) : 2;
}
