using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Segmentation;

namespace Bostel.Core.Plans;

/// <summary>How much a face counts in the alignment; 0 leaves it out.</summary>
public sealed record FaceWeight(int Face, double Weight);

/// <summary>A place where the part is held: point and direction in nominal coordinates, mm.</summary>
public sealed record ReferencePointPlan(string Name, double[] Point, double[] Direction, double Weight = 1, double Offset = 0);

/// <summary>A point of the scan as delivered (mm) and where it belongs on the nominal.</summary>
public sealed record PointPairPlan(double[] Scan, double[] Nominal, double Weight = 1);

/// <summary>
/// How the scan is brought onto the nominal. "all-surfaces": best fit to all of it. "faces": best fit to the named faces. "datums": by the
/// named datums of the plan, in order. "reference-points", "point-pairs": by those given here. "as-given": <see cref="Start"/> as it is.
/// Everything but point pairs starts from <see cref="Start"/>, or from a best fit to all surfaces that needs no start.
/// </summary>
public sealed record AlignPlan(string Method = "all-surfaces")
{
    public static readonly string[] Methods = ["all-surfaces", "faces", "datums", "reference-points", "point-pairs", "as-given"];

    /// <summary>Scan to nominal, 16 numbers row by row.</summary>
    public double[]? Start { get; init; }

    /// <summary>
    /// The pose that a person chose where several fit equally well (a symmetrical part): of those found, the one turned nearest to it is
    /// taken. Pieces delivered in another frame, where none lies near, keep the best. 16 numbers, scan to nominal.
    /// </summary>
    public double[]? Prefer { get; init; }

    public int[] Faces { get; init; } = [];
    public IReadOnlyList<FaceWeight> Weights { get; init; } = [];

    /// <summary>Motions that keep the start's value: turn-x, turn-y, turn-z, shift-x, shift-y, shift-z.</summary>
    public string[] Locked { get; init; } = [];

    /// <summary>
    /// Balances the part within its tolerance bands: those of its surface profiles, elsewhere the band of the comparison.
    /// </summary>
    public bool Balance { get; init; }

    public string[] Datums { get; init; } = [];
    public IReadOnlyList<ReferencePointPlan> Points { get; init; } = [];
    public IReadOnlyList<PointPairPlan> Pairs { get; init; } = [];

    /// <summary>Farthest a surface may lie from its reference point before, mm.</summary>
    public double SearchDistance { get; init; } = 5;

    internal RigidTransform? StartPose => Start is null ? null : RigidTransform.FromArray(Start);

    internal RigidTransform? PreferredPose => Prefer is null ? null : RigidTransform.FromArray(Prefer);

    internal IReadOnlyList<ReferencePoint> ReferencePoints =>
        [.. Points.Select(
            p => new ReferencePoint(p.Name, Vector3D.FromArray(p.Point), Vector3D.FromArray(p.Direction), p.Weight, p.Offset))];

    internal IReadOnlyList<PointPair> PointPairs =>
        [.. Pairs.Select(p => new PointPair(Vector3D.FromArray(p.Scan), Vector3D.FromArray(p.Nominal), p.Weight))];

    /// <summary>Which triangles of the nominal count how much, and what is locked.</summary>
    /// <exception cref="BadInputException">A face the nominal does not have.</exception>
    internal AlignmentScope Scope(NominalModel nominal)
    {
        var chosen = Method == "faces" ? Faces.Select(f => nominal.Face(f).Id).ToHashSet() : null;
        var weights = Weights.ToDictionary(w => nominal.Face(w.Face).Id, w => w.Weight);
        return new()
        {
            Locked = AlignmentScope.ParseMotions(Locked),
            TriangleWeights = chosen is null && weights.Count == 0
                ? null
                : [.. nominal.FaceOfTriangle.Select(f => chosen is null || chosen.Contains(f) ? weights.GetValueOrDefault(f, 1) : 0)],
        };
    }

    /// <exception cref="BadInputException">Names the field at fault.</exception>
    internal void Check(string name, IEnumerable<string> datumLabels)
    {
        void Require(bool holds, string what)
        {
            if (!holds)
            {
                throw new BadInputException($"{name}: align.{what}");
            }
        }

        bool Vector(double[] v) => v.Length == 3 && v.All(double.IsFinite);
        var labels = datumLabels.ToHashSet();
        Require(Methods.Contains(Method), $"method: '{Method}' is not one of {string.Join(", ", Methods)}.");
        Require(Method != "faces" || Faces.Length > 0, "faces: at least one face is needed.");
        Require(Method != "datums" || Datums.Length > 0, "datums: at least one datum is needed.");
        Require(Datums.All(labels.Contains), $"datums: '{Datums.FirstOrDefault(d => !labels.Contains(d))}' is not a datum of the plan.");
        Require(Method != "as-given" || Start is not null, "start: a pose taken as given is missing.");
        Require(Locked.Length == 0 || Start is not null, "locked: motions can only keep the value of a start; align.start is missing.");
        Require(Weights.All(w => w.Weight >= 0 && double.IsFinite(w.Weight)), "weights: a weight must be 0 or more.");
        Require(Weights.Select(w => w.Face).Distinct().Count() == Weights.Count, "weights: a face appears twice.");
        Require(Points.All(p => Vector(p.Point) && Vector(p.Direction)), "points: a point and its direction are three numbers each.");
        Require(Pairs.All(p => Vector(p.Scan) && Vector(p.Nominal)), "pairs: both points are three numbers each.");
        Require(SearchDistance > 0, "searchDistance: must be above 0 mm.");
        _ = AlignmentScope.ParseMotions(Locked);
        _ = StartPose;
        _ = PreferredPose;
    }
}
