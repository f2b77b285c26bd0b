using System.Text.Json.Serialization;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>How much deviation is left once a part of it is taken out too.</summary>
/// <param name="Left">Root mean square, mm.</param>
public sealed record ExplainedStep(ExplainedPart Part, double Left);

/// <summary>One face, what holds for the whole part taken out. Lengths in mm.</summary>
/// <param name="Offset">Mean height.</param>
/// <param name="Shift">How far a round face lies beside its place; 0 of others.</param>
/// <param name="Turn">How far it leans, degrees; of round faces the axis.</param>
/// <param name="Bow">Of its middle over its ends, along its length.</param>
/// <param name="Left">Root mean square of waves and noise, all else taken out.</param>
/// <param name="Worst">The deviation farthest from 0 that is left.</param>
/// <param name="At">Where that is.</param>
public sealed record FaceErrors(int Face, Found Offset, Found Shift, Found Turn, Found Bow, double Left, double Worst, double[] At);

/// <summary>
/// A part's deviation taken apart: what of it the whole part shares, what single faces add, how sure each is, and what is left. Only what
/// stands out is stated: an error is one that chance makes in one part of a hundred, all faces looked at together.
/// </summary>
/// <param name="Rms">Of the deviation where it was looked at: means over cells of it, area-weighted; mm.</param>
/// <param name="Steps">What is left of it after each part, in order.</param>
/// <param name="Findings">The whole part first, then faces, the largest first.</param>
/// <param name="Usual">Standard deviation of what else faces differ by, mm.</param>
public sealed record Explanation(
    double Rms, IReadOnlyList<ExplainedStep> Steps, IReadOnlyList<Finding> Findings, IReadOnlyList<FaceErrors> Faces, double Usual)
{
    /// <summary>Faces below which the whole and its parts are the same.</summary>
    private const int Fewest = 3;

    [JsonIgnore]
    internal ExplainedField? Field { get; private init; }

    /// <summary>Explains the deviation of a scan.</summary>
    /// <param name="transform">Scan to nominal.</param>
    /// <param name="areas">Weights of the scan's vertices.</param>
    /// <param name="spacing">Of its points, mm.</param>
    /// <param name="device">Standard uncertainty of a length over the part by the device, mm.</param>
    /// <exception cref="BadInputException">Too little of the part was measured.</exception>
    public static Explanation Of(
        TriangleMesh scan, RigidTransform transform, DeviationMap deviations, double[] areas, double spacing, NominalModel nominal,
        double device) =>
        Of(SurfaceReadings.Of(scan, transform, deviations, areas, spacing, nominal), spacing, nominal, device);

    /// <summary>The same of readings.</summary>
    public static Explanation Of(IReadOnlyList<SurfaceReading> readings, double spacing, NominalModel nominal, double device)
    {
        var whole = new WholePartTerms(nominal.Mesh.Bounds);
        var faces = FaceSystem.Of(readings, spacing, whole, nominal);
        if (faces.Count < Fewest)
        {
            throw new BadInputException(nominal.Faces.Count < Fewest
                ? "The nominal has no faces to be told apart: recognise its faces first."
                : "Too little of the part was measured, or has a counterpart, to tell what its deviation is made of.");
        }

        var (first, found) = ErrorSelection.Run(faces, whole, device);
        double[][] moved = [.. first.Shared.Where(s => s.Faces is null).Select(found.Of)];
        var back = SurfaceReadings.PutBack(
            readings, nominal, p => moved.Aggregate(Vector3D.Zero, (sum, c) => sum + whole.Displacement(c, p)));
        var (model, estimate) = ErrorSelection.Run(FaceSystem.Of(back, spacing, whole, nominal), whole, device);
        var telling = new Telling(model, estimate, whole, nominal, device);
        var field = telling.Field;
        return new(
            field.Left([]), [.. Enum.GetValues<ExplainedPart>().Select(p => new ExplainedStep(p, field.Left(UpTo(p))))],
            telling.Findings, telling.Faces, model.Usual)
        {
            Field = field,
        };
    }

    /// <summary>
    /// What is left of each deviation once parts of it are taken out; where nothing is known of a face, it stays as it is.
    /// </summary>
    internal double[] Remaining(
        TriangleMesh scan, RigidTransform transform, DeviationMap deviations, NominalModel nominal,
        IReadOnlyCollection<ExplainedPart> without)
    {
        var left = (double[])deviations.Values.Clone();
        Parallel.For(0, left.Length, v =>
        {
            if (Field is not null && deviations.Triangles[v] is var t and >= 0 && double.IsFinite(left[v]))
            {
                left[v] = Field.LeftAt(transform.Apply(scan.Vertex(v)), t, nominal, left[v], without);
            }
        });
        return left;
    }

    private static ExplainedPart[] UpTo(ExplainedPart part) => [.. Enum.GetValues<ExplainedPart>().Where(p => p <= part)];
}
