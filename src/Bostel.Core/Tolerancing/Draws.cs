namespace Bostel.Core.Tolerancing;

/// <summary>
/// Random numbers of one trial of a simulation: splitmix64 (Steele, Lea and Flood 2014), the same on every machine, its trials unrelated.
/// Normal numbers after Box and Muller.
/// </summary>
internal struct Draws(int trial)
{
    private ulong _state = Mixed((ulong)trial + 1);
    private double _spare = double.NaN;

    public double Normal()
    {
        if (!double.IsNaN(_spare))
        {
            (var spare, _spare) = (_spare, double.NaN);
            return spare;
        }

        var (radius, angle) = (Math.Sqrt(-2 * Math.Log(1 - Uniform())), 2 * Math.PI * Uniform());
        _spare = radius * Math.Sin(angle);
        return radius * Math.Cos(angle);
    }

    private double Uniform()
    {
        _state += 0x9E3779B97F4A7C15;
        return (Mixed(_state) >> 11) * (1.0 / (1UL << 53));
    }

    private static ulong Mixed(ulong z)
    {
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
        return z ^ (z >> 31);
    }
}
