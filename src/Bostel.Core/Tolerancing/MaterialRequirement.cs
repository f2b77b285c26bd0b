using Bostel.Core.Features;
using Bostel.Core.Nominals;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Maximum or least material requirement: by as much as the size departs from the limit, the tolerance grows.
/// </summary>
/// <param name="Limit">Which limit.</param>
/// <param name="Size">That limit of the size, mm.</param>
public sealed record MaterialRequirement(MaterialLimit Limit, double Size)
{
    internal bool IsPossible => Size > 0 && double.IsFinite(Size);

    /// <summary>What the departure from the limit adds to the tolerance; never less than nothing.</summary>
    /// <param name="actual">Size as it is, mm.</param>
    /// <param name="internal">A hole, not a shaft.</param>
    public double Bonus(double actual, bool @internal) =>
        Math.Max(0, @internal == (Limit == MaterialLimit.Maximum) ? actual - Size : Size - actual);

    /// <summary>A value of a feature of size, with what its size adds to the tolerance and how sure that is.</summary>
    /// <exception cref="BadInputException">The feature has no size.</exception>
    internal Evaluated Applied(Evaluated value, FeatureResult f)
    {
        if (f.Radius is not { } radius)
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no size that a material requirement could refer to.");
        }

        var bonus = Bonus(2 * radius, f.Nominal.Internal);
        var sign = Limit == MaterialLimit.Maximum ? 'M' : 'L';
        return value with
        {
            Bonus = bonus,
            Budget = value.Budget is { } budget && bonus > 0
                ? Contribution.Of([.. budget, new("size, by which the tolerance grows", 2 * f.RadiusSigma, f.Freedom)])
                : value.Budget,
            Method = value.Method
                + Invariant($"; {sign}: tolerance and {bonus:0.0000} mm, size {2 * radius:0.0000} against {Size:0.####} mm"),
        };
    }
}

/// <summary>
/// A datum feature of size taken at its maximum material boundary: the part may move by as much as the feature departs from it.
/// </summary>
/// <param name="Datum">Its letter.</param>
/// <param name="Size">Of the boundary, mm.</param>
public sealed record DatumBoundary(string Datum, double Size)
{
    internal bool IsPossible => Size > 0 && double.IsFinite(Size) && !string.IsNullOrEmpty(Datum);
}
