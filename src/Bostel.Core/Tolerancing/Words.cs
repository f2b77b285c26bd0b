using Bostel.Core.Fitting;

namespace Bostel.Core.Tolerancing;

/// <summary>The standards' words for what was done.</summary>
internal static class Words
{
    public static string Of(Criterion criterion) => criterion switch
    {
        Criterion.LeastSquares => "least-squares",
        Criterion.MinimumZone => "minimum-zone",
        Criterion.MinimumCircumscribed => "minimum-circumscribed",
        Criterion.MaximumInscribed => "maximum-inscribed",
        _ => "outer-tangent",
    };

    public static string Filter(double? nestingIndex) =>
        nestingIndex is { } n
            ? string.Create(System.Globalization.CultureInfo.InvariantCulture, $", Gaussian filter {n:0.##} mm")
            : ", no filter";
}
