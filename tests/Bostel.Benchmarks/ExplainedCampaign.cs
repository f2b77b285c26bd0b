using System.Globalization;
using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;
using Bostel.Scanner;

namespace Bostel.Benchmarks;

/// <summary>One scan with planted errors, and what was made of them.</summary>
/// <param name="Planted">How many errors.</param>
/// <param name="Held">How many were found, with the truth within their uncertainty.</param>
/// <param name="Invented">Findings that nothing was planted for.</param>
/// <param name="Wrong">What was missed or invented, in words.</param>
public sealed record ExplainedTrial(int Planted, int Held, int Invented, IReadOnlyList<string> Wrong);

/// <summary>
/// Errors of a whole part and of its faces, planted with the simulated scanner, alone and together, in a pose that is a little off: how
/// often each is found within its uncertainty, and how often something is stated that was not planted.
/// </summary>
public sealed class ExplainedCampaign
{
    /// <summary>Faces of less than this share of the surface are left as they are.</summary>
    private const double LeastShare = 0.01;

    /// <summary>Of the device, as its default length error says: 0.01/√3 mm.</summary>
    private const double Device = 0.00577;

    private readonly NominalModel _nominal;
    private readonly TriangleTree _tree;
    private readonly double _spacing;
    private readonly double _noise;
    private readonly int[] _planes, _bores;

    public ExplainedCampaign(NominalModel nominal, double spacing, double noise)
    {
        (_nominal, _tree, _spacing, _noise) = (nominal, new(nominal.Mesh), spacing, noise);
        var least = LeastShare * nominal.Mesh.Area();
        _planes = [.. nominal.Faces.Where(f => f.Shape is Plane3D && f.Area > least).Select(f => f.Id)];
        _bores = [.. nominal.Faces.Where(f => f.Shape is Cylinder3D && f.Sweep > 6 && f.Area > least / 2).Select(f => f.Id)];
    }

    /// <summary>The same seed gives the same.</summary>
    public ExplainedTrial Run(int seed)
    {
        var random = new Random(seed);
        var errors = Errors(random);
        var scan = SimulatedScanner.Scan(_nominal, new()
        {
            Seed = seed,
            Spacing = _spacing,
            Noise = _noise,
            RandomPose = false,
            StrayPieces = 0,
            TablePatch = false,
            Errors = errors,
        }).Mesh;
        var reach = _nominal.Mesh.Bounds.Diagonal / 2;
        var (shift, turn) = (Any(random, 0.03), Any(random, 0.03 / reach));
        var pose = RigidTransform.FromAxisAngle(turn.Normalized(), turn.Length) with { Translation = shift };
        var deviations = Deviation.Compute(scan, pose, _nominal, _tree, DeviationOptions.For(_nominal));
        var found = Explanation.Of(scan, pose, deviations, scan.VertexAreas, _spacing, _nominal, Device).Findings.ToList();
        found.RemoveAll(f => f is PoseFinding);
        var (held, wrong) = (0, new List<string>());
        foreach (var error in errors)
        {
            var said = found.FirstOrDefault(f => Meant(f, error));
            found.Remove(said!);
            if (said is not null && Truths(said, error).All(t => Math.Abs(t.Said.Value - t.True) <= t.Said.U))
            {
                held++;
            }
            else
            {
                wrong.Add($"seed {seed}: {Told(error)}: "
                    + (said?.Words(Name) ?? "not found"));
            }
        }

        // A face is turned about its middle, which need not be the middle of what was measured of it.
        found.RemoveAll(f => f is OffsetFinding o && errors.Any(e => e.Kind == "tilt" && e.Faces[0] == o.Face));
        wrong.AddRange(found.Select(f => $"seed {seed}: not planted: {f.Words(Name)}"));
        return new(errors.Count, held, found.Count, wrong);
    }

    public static string Summary(IReadOnlyList<ExplainedTrial> trials) => string.Create(
        CultureInfo.InvariantCulture,
        $"{trials.Count} scans, {trials.Sum(t => t.Planted)} errors, {100.0 * trials.Sum(t => t.Held) / trials.Sum(t => t.Planted):0.0} % ")
        + string.Create(CultureInfo.InvariantCulture,
        $"found within their uncertainty; {trials.Count(t => t.Invented > 0)} scans with something stated that was not planted");

    private static string Told(PlantedError e) =>
        FormattableString.Invariant($"{e.Kind} of {e.Value:0.000} ({string.Join(", ", e.Vector ?? [])}) on {string.Join(",", e.Faces)}");

    private static string Name(int face) => string.Create(CultureInfo.InvariantCulture, $"Face {face}");

    /// <summary>None in one scan of five, one in two, up to four in two, each on faces of its own.</summary>
    private List<PlantedError> Errors(Random random)
    {
        var count = random.Next(5) switch { 0 => 0, 1 or 2 => 1, _ => 2 + random.Next(3) };
        var errors = new List<PlantedError>();
        var free = _planes.Concat(_bores).OrderBy(_ => random.Next()).ToList();
        while (errors.Count < count)
        {
            var value = (random.Next(2) == 0 ? 1 : -1) * (0.08 + (0.2 * random.NextDouble()));
            var error = random.Next(8) switch
            {
                0 => new("shrunk", [], value),
                1 => new("shrunk", [], value, [1, 0.5 * random.NextDouble(), -1]),
                2 => new("warp", [], value),
                3 => new("twist", [], value),
                _ => OnFace(free, value, random),
            };
            if (error is not null && errors.All(e => e.Faces.Length > 0 || e.Kind != error.Kind))
            {
                errors.Add(error);
            }
        }

        return errors;
    }

    private PlantedError? OnFace(List<int> free, double value, Random random)
    {
        if (free.Count == 0)
        {
            return null;
        }

        var face = _nominal.Faces[free[0]];
        free.RemoveAt(0);
        if (face.Shape is Cylinder3D bore)
        {
            var across = bore.Axis.Cross(Any(random, 1)).Normalized();
            return random.Next(2) == 0 ? new("radius", [face.Id], value) : new("shift", [face.Id], 0, (Math.Abs(value) * across).ToArray());
        }

        var normal = ((Plane3D)face.Shape!).Normal;
        if (random.Next(2) == 0)
        {
            return new("offset", [face.Id], value);
        }

        var degrees = Math.Abs(value) / Math.Sqrt(face.Area) * 180 / Math.PI;
        return new("tilt", [face.Id], degrees, normal.Cross(Any(random, 1)).Normalized().ToArray());
    }

    private static bool Meant(Finding finding, PlantedError error) => (finding, error.Kind) switch
    {
        (SizeFinding, "shrunk") or (BendFinding, "warp") or (TwistFinding, "twist") => true,
        (OffsetFinding o, "offset" or "radius") => o.Face == error.Faces[0],
        (ShiftFinding s, "shift") => s.Face == error.Faces[0],
        (TurnFinding t, "tilt") => t.Face == error.Faces[0],
        _ => false,
    };

    private IEnumerable<(Found Said, double True)> Truths(Finding finding, PlantedError error) => finding switch
    {
        SizeFinding { Percent: var p } => p.Select((said, k) => (said, -error.Value * (error.Vector?[k] ?? 1))),
        BendFinding b => [(b.Height, error.Value)],
        TwistFinding t => [(t.Angle, error.Value)],
        OffsetFinding o => [(o.Height, error.Kind == "radius" && _nominal.Faces[o.Face].Internal ? -error.Value : error.Value)],
        ShiftFinding s => [(s.By, Vector3D.FromArray(error.Vector!).Length)],
        TurnFinding t => [(t.Turn, error.Value)],
        _ => [],
    };

    private static Vector3D Any(Random random, double size)
    {
        double Uniform() => size * ((2 * random.NextDouble()) - 1);
        return new(Uniform(), Uniform(), Uniform());
    }
}
