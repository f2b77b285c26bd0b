using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Benchmarks;

/// <summary>One judged defect: what it was, what is true, what was measured.</summary>
public sealed record VerdictTrial(
    string Part, string Kind, string Defect, double Tolerance, double Truth, double? Measured, double? Uncertainty, Verdict Verdict,
    string? Remark)
{
    /// <summary>Accepted although out of tolerance.</summary>
    public bool FalselyAccepted => Verdict == Verdict.Conforming && Truth > Tolerance;

    /// <summary>The same by more than U: what no guard band allows.</summary>
    public bool FarFalselyAccepted => FalselyAccepted && Truth > Tolerance + (Uncertainty ?? 0);

    public bool FalselyRejected => Verdict == Verdict.NonConforming && Truth < Tolerance - (Uncertainty ?? 0);

    public bool IsMissing => Defect.StartsWith("missing", StringComparison.Ordinal) || Defect.StartsWith("hole", StringComparison.Ordinal);

    public bool Covered => Measured is { } m && Uncertainty is { } u && Math.Abs(m - Truth) <= u;

    public override string ToString() => FormattableString.Invariant(
        $"{Part} {Kind} {Defect}: tolerance {Tolerance:0.000}, true {Truth:0.000}, ")
        + FormattableString.Invariant($"measured {Measured:0.000} ± {Uncertainty:0.000}, {Verdict}; {Remark}");
}

/// <summary>
/// Random defects planted on faces of simulated scans, and whether any is accepted. The truth comes from the same points without noise:
/// their exact displacement, its zone by the minimum-zone fit that the reference data verify.
/// </summary>
public sealed class VerdictCampaign
{
    public static readonly string[] Defects = ["none", "step", "dent", "lump", "hole", "bow", "wear", "burr", "missing area"];

    /// <summary>What touches fewer points is no defect but a stray point.</summary>
    private const int LeastTouched = 12;

    private readonly string _part;
    private readonly InspectionRunner _runner;
    private readonly CleanScan _scan;
    private readonly double[] _toBorder;
    private readonly double _noise;
    private readonly NominalFace[] _faces;

    /// <param name="spacing">Of the scan, mm.</param>
    /// <param name="noise">Standard deviation along the normal, mm.</param>
    public VerdictCampaign(string part, NominalModel nominal, double spacing, double noise)
    {
        (_part, _noise, _runner) = (part, noise, new(nominal));
        _scan = new(_runner, spacing);
        _toBorder = new double[_scan.Mesh.VertexCount];
        var count = _scan.FaceOf.CountBy(f => f).ToDictionary();
        _faces = [.. nominal.Faces.Where(f => f.Shape is Plane3D or Cylinder3D && count.GetValueOrDefault(f.Id) > 300)];
        foreach (var face in _faces)
        {
            var border = FaceBorder.Of([face.Id], nominal);
            Parallel.For(0, _scan.FaceOf.Length, v =>
            {
                if (_scan.FaceOf[v] == face.Id)
                {
                    _toBorder[v] = border?.Closest(_scan.Mesh.Vertex(v)).Distance ?? double.PositiveInfinity;
                }
            });
        }
    }

    /// <summary>One trial; the same seed gives the same.</summary>
    public VerdictTrial Run(int seed)
    {
        var random = new Random(seed);
        var face = _faces[random.Next(_faces.Length)];
        var defect = Defects[random.Next(Defects.Length)];
        var profile = random.Next(3) == 0;
        var tolerance = _noise * (4 + (8 * random.NextDouble())) * (profile ? 2 : 1);
        var size = tolerance * (0.5 + (4.5 * random.NextDouble()));
        var on = Enumerable.Range(0, _scan.FaceOf.Length).Where(v => _scan.FaceOf[v] == face.Id).ToArray();
        var center = _scan.Mesh.Vertex(on[random.Next(on.Length)]);
        var reach = Reach(on, center, 0.01 + (0.59 * random.NextDouble()));
        var direction = _scan.Normals[on[0]].Perpendicular();
        var shift = new double[_scan.FaceOf.Length];
        var gone = new bool[_scan.FaceOf.Length];
        foreach (var v in on)
        {
            var d = _scan.Mesh.Vertex(v) - center;
            var r = d.Length / reach;
            var bump = r < 1 ? (1 - (r * r)) * (1 - (r * r)) : 0;
            shift[v] = defect switch
            {
                "step" => d.Dot(direction) > 0.3 * reach ? size : 0,
                "dent" => -size * bump,
                "lump" => bump * (size > 2 * tolerance ? 5.5 : size),
                "bow" => size * r * r,
                "wear" => r < 1 ? -size : 0,
                "burr" => _toBorder[v] < 1.5 && r < 1 ? size * (1 - (_toBorder[v] / 1.5)) : 0,
                "missing area" => size * bump,
                _ => 0,
            };
            gone[v] = r < 1 && defect is "hole" or "missing area";
        }

        var margin = profile ? -1 : Math.Max(0.5, 3 * _scan.Mesh.MeanEdge());
        var inside = on.Where(v => _toBorder[v] > margin).ToArray();
        var touched = on.Count(v => gone[v] || Math.Abs(shift[v]) > 0.2 * size);
        if (inside.Length < 60 || (defect != "none" && touched < LeastTouched))
        {
            return Run(seed + 100_000);
        }

        // What hides under missing data nobody can see; so much of it must be missing that the face is not proven.
        var visible = gone.Count(g => g) < 0.3 * on.Length ? inside.Where(v => !gone[v]).ToArray() : inside;
        CharacteristicPlan asked = (profile, face.Shape) switch
        {
            (true, _) => new SurfaceProfilePlan(1, "under trial") { Faces = [face.Id], AsAligned = true, Tolerance = tolerance },
            (_, Plane3D) => new FlatnessPlan(1, "under trial") { Features = ["f"], Tolerance = tolerance },
            _ => new CylindricityPlan(1, "under trial") { Features = ["f"], Tolerance = tolerance },
        };
        var truth = Truth(asked, face, visible, shift);
        var noise = new SeededNoise(seed);
        var scan = _scan.Moved(v => shift[v] + (_noise * noise.Normal(v)), gone);
        var row = Measure(asked, face, margin, scan);
        return new(_part, $"{asked.Kind} of face {face.Id}", $"{defect} of {size:0.000}", tolerance, truth, row.Measured, row.Uncertainty,
            row.Verdict, row.Remark);
    }

    /// <summary>Radius about a point that holds a share of the vertices.</summary>
    private double Reach(int[] on, Vector3D center, double share)
    {
        var distances = on.Select(v => Vector3D.Distance(_scan.Mesh.Vertex(v), center)).Order().ToArray();
        return Math.Max(3 * _scan.Mesh.MeanEdge(), distances[(int)(share * (distances.Length - 1))]);
    }

    private double Truth(CharacteristicPlan asked, NominalFace face, int[] inside, double[] shift)
    {
        var worst = inside.Max(v => Math.Abs(shift[v]));
        var points = inside.SelectMany(v => (_scan.Mesh.Vertex(v) + (shift[v] * _scan.Normals[v])).ToArray()).ToArray();
        return asked switch
        {
            SurfaceProfilePlan => 2 * worst,
            _ when worst == 0 => 0,
            FlatnessPlan => ExtremalFit.MinimumZonePlane(points).Form,
            _ => Association.Fit("cylinder", Criterion.MinimumZone, points, new() { Start = face.Shape }).Form,
        };
    }

    private CharacteristicResult Measure(CharacteristicPlan asked, NominalFace face, double margin, TriangleMesh mesh)
    {
        var plan = new InspectionPlan
        {
            Prepare = new() { Steps = [] },
            Align = new AsGivenPlan { Start = RigidTransform.Identity.ToArray() },
            Features = asked is SurfaceProfilePlan ? [] : [new("f", "Face", [face.Id]) { EdgeMargin = margin }],
            Characteristics = [asked],
            Device = new() { LengthError = 0 },
        };
        return _runner.Run(mesh, plan).Characteristics[0];
    }

    /// <summary>What came of a number of trials, for the table and for the test.</summary>
    public static string Summary(IReadOnlyList<VerdictTrial> trials)
    {
        // Where half the face is gone or the defect is many times the tolerance, the number no longer matters.
        var sure = trials.Where(t => t is { Measured: not null, Uncertainty: not null } && t.Truth < 4 * t.Tolerance && !t.IsMissing)
            .ToList();
        var (bad, held) = (trials.Count(t => t.Truth > t.Tolerance), 100.0 * sure.Count(t => t.Covered) / Math.Max(1, sure.Count));
        return $"{trials.Count} trials: {bad} out of tolerance, of these {trials.Count(t => t.FalselyAccepted)} accepted, "
            + $"{trials.Count(t => t.FarFalselyAccepted)} by more than U; {trials.Count(t => t.FalselyRejected)} rejected wrongly; "
            + FormattableString.Invariant($"U holds the truth in {held:0} %");
    }
}
