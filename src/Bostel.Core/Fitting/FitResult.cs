using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>How an ideal feature is associated with measured points (ISO 25378, ISO 14405-1).</summary>
[JsonConverter(typeof(JsonStringEnumConverter<Criterion>))]
public enum Criterion
{
    [JsonStringEnumMemberName("least-squares")]
    LeastSquares,

    [JsonStringEnumMemberName("minimum-zone")]
    MinimumZone,

    [JsonStringEnumMemberName("minimum-circumscribed")]
    MinimumCircumscribed,

    [JsonStringEnumMemberName("maximum-inscribed")]
    MaximumInscribed,

    [JsonStringEnumMemberName("outer-tangent")]
    OuterTangent,
}

/// <summary>
/// An associated feature. Residuals are signed orthogonal distances, one a point in input order, rejected ones included; <see cref="Form"/>
/// is that of the points used. <see cref="Covariance"/> is that of the local parameters under independent errors of the observed scatter
/// (null for extremal criteria): first the displacements of the reference point across the feature, then the tilts in rad, then the sizes;
/// see the model of each shape.
/// </summary>
public sealed record FitResult(
    Shape Shape, Criterion Criterion, double[] Residuals, double Form, double[,]? Covariance, Vector3D Reference, int Iterations)
{
    /// <summary>Number of parameters fitted; held ones are not counted.</summary>
    public int Fitted { get; init; } = Covariance?.GetLength(0) ?? 0;

    /// <summary>How the search ended; closed forms and extremal fits whose contact points prove them are converged.</summary>
    public FitEnding Ending { get; init; } = FitEnding.Converged;

    /// <summary>The local frame of the covariance's parameters; the identity where there is none.</summary>
    internal RigidTransform Frame { get; init; } = RigidTransform.Identity;

    /// <summary>Indices of points that took no part, in order.</summary>
    public int[] Rejected { get; init; } = [];

    /// <summary>
    /// Standard deviation of the residuals of the points used, with the degrees of freedom used up by the parameters taken off.
    /// </summary>
    public double Scatter { get; init; } = Spread(Residuals, Covariance?.GetLength(0) ?? 0);

    public int Points => Residuals.Length - Rejected.Length;

    private static double Spread(double[] residuals, int fitted)
    {
        double sum = 0;
        foreach (var r in residuals)
        {
            sum += r * r;
        }

        var free = residuals.Length - fitted;
        return free <= 0 ? 0 : Math.Sqrt(sum / free);
    }
}
