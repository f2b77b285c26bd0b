namespace Bostel.Core.Tolerancing;

/// <summary>A verdict that another reasonable way of finding the number would give.</summary>
/// <param name="What">The other way, in words.</param>
/// <param name="Measured">In the unit of the row.</param>
/// <param name="Uncertainty">Expanded, for 95.45 %.</param>
public sealed record OtherVerdict(string What, double? Measured, double? Uncertainty, Verdict Verdict);

/// <summary>Whether a verdict rests on a choice that the drawing leaves open.</summary>
/// <param name="Tried">In how many other ways the number was found.</param>
/// <param name="Others">Those of them that give another verdict.</param>
public sealed record Firmness(int Tried, IReadOnlyList<OtherVerdict> Others);
