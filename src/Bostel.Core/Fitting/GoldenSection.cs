namespace Bostel.Core.Fitting;

/// <summary>Where a function of one variable with one valley is least (golden section search: Kiefer 1953).</summary>
internal static class GoldenSection
{
    /// <summary>Narrows the interval to 1e-10 of its width.</summary>
    private const int Steps = 48;

    private const double Golden = 0.6180339887498949;

    public static double Least(double low, double high, Func<double, double> value)
    {
        var (a, b) = (high - (Golden * (high - low)), low + (Golden * (high - low)));
        var (atA, atB) = (value(a), value(b));
        for (var step = 0; step < Steps; step++)
        {
            if (atA < atB)
            {
                (high, b, atB) = (b, a, atA);
                a = high - (Golden * (high - low));
                atA = value(a);
            }
            else
            {
                (low, a, atA) = (a, b, atB);
                b = low + (Golden * (high - low));
                atB = value(b);
            }
        }

        return (low + high) / 2;
    }
}
