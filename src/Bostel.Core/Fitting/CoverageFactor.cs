using MathNet.Numerics.Distributions;

namespace Bostel.Core.Fitting;

/// <summary>From standard to expanded uncertainty for 95.45 % (JCGM 100:2008, G.3).</summary>
internal static class CoverageFactor
{
    private const double Share = 0.9545;

    /// <summary>From so many degrees of freedom on the factor is 2 to 0.2 %.</summary>
    private const double Many = 1000;

    /// <summary>Student's t; 2 for many degrees of freedom.</summary>
    public static double Of(double freedom) => freedom < Many ? StudentT.InvCDF(0, 1, freedom, (1 + Share) / 2) : 2;
}
