using System.Globalization;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Benchmarks;

/// <summary>One number against the truth.</summary>
public sealed record CoverageTrial(string Kind, string Name, string Scan, double Truth, CharacteristicResult Row)
{
    public double Measured => Row.Measured!.Value;

    public double Uncertainty => Row.Uncertainty!.Value;

    /// <summary>What is exact by its making, as a plane moved from another, differs by rounding alone.</summary>
    public bool Held => Math.Abs(Measured - Truth) <= Uncertainty + 1e-9;
}

/// <summary>
/// How often the stated uncertainty holds the truth, kind by kind: scans with noise of perfect parts, and of parts whose every face is
/// moved and tilted a little, against the same plan on the same points without noise.
/// </summary>
public sealed class CoverageCampaign
{
    /// <summary>Faces with fewer points in the coarsest scan are not judged.</summary>
    private const int LeastPoints = 250;

    private static readonly double[] Spacings = [1, 1.5, 2.2];
    private static readonly double[] Noises = [0.005, 0.02];

    private readonly InspectionRunner _runner;
    private readonly CleanScan[] _scans;
    private readonly InspectionPlan _plan;

    /// <param name="spacing">Of the finest of three scans, mm.</param>
    /// <param name="constructed">Whether to ask of what can be constructed, too.</param>
    public CoverageCampaign(NominalModel nominal, double spacing, bool constructed = false)
    {
        _runner = new(nominal);
        _scans = [.. Spacings.Select(s => new CleanScan(_runner, s * spacing))];
        var count = _scans[^1].FaceOf.CountBy(f => f).ToDictionary();
        var measured = TrialPlan.For(nominal, faces => faces.Sum(f => count.GetValueOrDefault(f)) > LeastPoints);
        _plan = constructed ? ConstructedRows.Added(nominal, measured) : measured;
    }

    /// <summary>All rows of one scan; the same seed gives the same.</summary>
    public IReadOnlyList<CoverageTrial> Run(int seed)
    {
        var random = new Random(seed);
        var scan = _scans[seed % Spacings.Length];
        var sigma = Noises[seed / Spacings.Length % Noises.Length];
        var partial = seed / Spacings.Length / Noises.Length % 2 == 1;
        var made = random.Next(2) == 0 ? 0.0 : 0.02;
        var form = Made(scan, made, random);
        var gone = partial ? Gone(scan, random) : null;
        var noise = new SeededNoise(seed);
        var truth = _runner.Run(scan.Moved(v => form[v], gone), _plan).Characteristics;
        var measured = _runner.Run(scan.Moved(v => form[v] + (sigma * noise.Normal(v)), gone), _plan).Characteristics;
        var what = string.Create(CultureInfo.InvariantCulture, $"spacing {scan.Mesh.MeanEdge():0.00}, noise {sigma}, ")
            + $"{(partial ? "partial" : "full")}, {(made > 0 ? "moved faces" : "perfect")}";
        return [.. truth.Zip(measured).Where(p => p.First.Measured is not null && p.Second is { Measured: not null, Uncertainty: not null })
            .Select(p => new CoverageTrial(
                KindOf(p.First.Plan), p.First.Plan.Name, what, p.First.Measured!.Value, p.Second))];
    }

    /// <summary>Its own kind; of something constructed, with what that is.</summary>
    private string KindOf(CharacteristicPlan row) =>
        _plan.Constructions.FirstOrDefault(c => row.Refers.Features.Contains(c.Id)) is { } made ? $"{made.Kind}, {row.Kind}" : row switch
        {
            DiameterPlan { Size: not SizeKind.Global } d => $"{row.Kind}, {d.Size}",
            StraightnessPlan { Lines: true } => $"{row.Kind} of lines",
            _ => row.Kind,
        };

    /// <summary>Displacements along the normals by small rigid motions of each face.</summary>
    private double[] Made(CleanScan scan, double size, Random random)
    {
        double Uniform() => size * ((2 * random.NextDouble()) - 1);
        Vector3D Any() => new(Uniform(), Uniform(), Uniform());
        var reach = _runner.Nominal.Mesh.Bounds.Diagonal;
        var motions = _runner.Nominal.Faces.Select(f => new SmallMotion(Any() / reach, Any(), f.Center)).ToArray();
        return [.. Enumerable.Range(0, scan.FaceOf.Length)
            .Select(v => motions[scan.FaceOf[v]].Of(scan.Mesh.Vertex(v)).Dot(scan.Normals[v]))];
    }

    /// <summary>Nothing is measured near three places of the part.</summary>
    private bool[] Gone(CleanScan scan, Random random)
    {
        var reach = 0.12 * _runner.Nominal.Mesh.Bounds.Diagonal;
        var places = Enumerable.Range(0, 3).Select(_ => scan.Mesh.Vertex(random.Next(scan.FaceOf.Length))).ToArray();
        return [.. Enumerable.Range(0, scan.FaceOf.Length)
            .Select(v => places.Any(p => Vector3D.Distance(p, scan.Mesh.Vertex(v)) < reach))];
    }

    /// <summary>
    /// Kind by kind: how often U held the truth, and how large it is against what 95 % of the trials would have needed.
    /// </summary>
    public static IEnumerable<string> Summary(IReadOnlyList<CoverageTrial> trials)
    {
        foreach (var kind in trials.GroupBy(t => t.Kind))
        {
            var needed = kind.Select(t => Math.Abs(t.Measured - t.Truth) / t.Uncertainty).Order().ToList();
            var worst = kind.GroupBy(t => t.Name).MinBy(g => Share(g))!;
            var times = 1 / needed[(int)(0.95 * (needed.Count - 1))];
            yield return FormattableString.Invariant(
                $"{kind.Key}: {needed.Count} values, U holds {Share(kind):0.0} %, is {times:0.00} times what is needed; ")
                + FormattableString.Invariant($"least {Share(worst):0} % ({worst.Key})");
        }

        static double Share(IEnumerable<CoverageTrial> some) => 100 * some.Average(t => t.Held ? 1.0 : 0);
    }
}
