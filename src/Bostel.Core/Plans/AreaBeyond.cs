namespace Bostel.Core.Plans;

/// <summary>An area of a piece whose deviation lies beyond the band.</summary>
/// <param name="High">Above the upper limit; below the lower otherwise.</param>
/// <param name="Area">mm².</param>
/// <param name="Extreme">The deviation farthest beyond, mm.</param>
/// <param name="At">Where that is, nominal coordinates, mm.</param>
/// <param name="Face">Of the nominal, there.</param>
/// <param name="Points">How many points it has.</param>
public sealed record AreaBeyond(bool High, double Area, double Extreme, double[] At, int Face, int Points)
{
    /// <summary>So many are told, the largest.</summary>
    public const int Most = 100;

    /// <summary>Areas of fewer points are noise rather than form.</summary>
    internal const int FewPoints = 4;
}
