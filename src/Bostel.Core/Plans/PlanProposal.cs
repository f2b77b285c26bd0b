using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>
/// A plan that a nominal proposes: datums that fit its main faces, sizes and places of its holes, patterns at once, flatness of its main
/// faces, a profile over all, with general tolerances (ISO 2768 m and K) to begin from.
/// </summary>
/// <param name="Features">That the plan does not have yet.</param>
/// <param name="Datums">Only where the plan has none.</param>
/// <param name="Characteristics">Numbered after those of the plan.</param>
/// <param name="Doubts">What was left out, and why.</param>
public sealed record PlanProposal(
    IReadOnlyList<FeaturePlan> Features, IReadOnlyList<DatumPlan> Datums, IReadOnlyList<CharacteristicPlan> Characteristics,
    IReadOnlyList<string> Doubts)
{
    /// <summary>A face of less than this share of the surface is no main one.</summary>
    private const double MainShare = 0.02;

    private const int MostPlanes = 8, MostRounds = 40;

    /// <summary>A round face that goes less far round is no hole, rad.</summary>
    private const double WholeTurn = 6;

    /// <summary>Directions nearer than this are one, rad; diameters, mm.</summary>
    private const double Parallel = 1e-4, SameSize = 1e-3;

    /// <summary>Holes nearer to each other tell no turn, mm.</summary>
    private const double LeastApart = 1;

    public static PlanProposal Of(NominalModel nominal, InspectionPlan plan) => new Maker(nominal, plan).Make();

    /// <summary>The plan with all of it.</summary>
    public InspectionPlan AddedTo(InspectionPlan plan) => plan with
    {
        Features = [.. plan.Features, .. Features],
        Datums = [.. plan.Datums, .. Datums],
        Characteristics = [.. plan.Characteristics, .. Characteristics],
    };

    private sealed class Maker(NominalModel nominal, InspectionPlan plan)
    {
        private readonly List<FeaturePlan> _features = [];
        private readonly List<CharacteristicPlan> _rows = [];
        private readonly List<string> _doubts = [];
        private readonly double _whole = nominal.Mesh.Area();
        private readonly Box3D[] _boxes = Boxes(nominal);

        private sealed record Found(NominalFeature Surface, NominalFace Face, double Area);

        public PlanProposal Make()
        {
            var all = NominalFeatures.Find(nominal)
                .Select(s => new Found(s, nominal.Face(s.Faces[0]), s.Faces.Sum(f => nominal.Face(f).Area))).OrderByDescending(f => f.Area)
                .ToList();
            var planes = all.Where(f => f.Face.Shape is Plane3D && f.Area > MainShare * _whole).Take(MostPlanes).ToList();
            var rounds = all.Where(f => f.Face.Shape is Cylinder3D && f.Face.Sweep > WholeTurn).ToList();
            if (rounds.Count > MostRounds)
            {
                _doubts.Add($"{rounds.Count - MostRounds} of {rounds.Count} round faces are left out, the smallest.");
                rounds = [.. rounds.Take(MostRounds)];
            }

            // Holes that are alike are numbered round their middle.
            foreach (var group in Alike(rounds).Where(g => g.Count > 1))
            {
                foreach (var (f, i) in InTurn(group).Select((f, i) => (f, i)))
                {
                    FeatureOf(f, i + 1);
                }
            }

            IReadOnlyList<DatumPlan> datums = plan.Datums.Count > 0 ? [] : Datums(planes, rounds);
            string[] labels = [.. plan.Datums.Concat(datums).Select(d => d.Label).Take(3)];
            HashSet<string> held = [.. plan.Datums.Concat(datums).SelectMany(d => d.Features)];
            planes.ForEach(f => Add(no => new FlatnessPlan(no, $"{NameOf(f)} flatness")
            { Features = [IdOf(f)], Tolerance = GeneralTolerance.OfForm(Extent(f)) }));
            rounds.ForEach(f => Add(no => Proposals.Sized(
                new DiameterPlan(no, $"{NameOf(f)} diameter") { Features = [IdOf(f)] }, 2 * ((Cylinder3D)f.Face.Shape!).Radius)));
            foreach (var group in Alike(rounds.Where(f => !held.Contains(IdOf(f)))).Where(_ => labels.Length > 0).Select(InTurn))
            {
                string[] of = [.. group.Select(IdOf)];
                var what = group.Count == 1 ? NameOf(group[0]) : $"{NameOf(group[0])} and {group.Count - 1} more";
                Add(no => new PositionPlan(no, $"{what} position")
                { Features = of, Datums = labels, Tolerance = 2 * GeneralTolerance.OfLength(group.Max(Extent)) });
            }

            var faces = nominal.Faces.Select(f => f.Id).ToArray();
            Add(no => new SurfaceProfilePlan(no, "Profile all over")
            { Faces = faces, Datums = labels, Tolerance = Math.Round(plan.Compare.Upper - plan.Compare.Lower, 6) });
            var free = nominal.Faces.Count(f => f.Shape is null);
            if (free > 0)
            {
                _doubts.Add($"{free} freeform face{(free == 1 ? "" : "s")}: under the profile only.");
            }

            if (labels.Length < 3)
            {
                _doubts.Add($"{labels.Length} datum{(labels.Length == 1 ? "" : "s")} found: what they leave free makes values least.");
            }

            return new(_features, datums, _rows, _doubts);
        }

        /// <summary>The largest plane; the largest plane square to it, or bore along it; a third that holds what is left.</summary>
        private IReadOnlyList<DatumPlan> Datums(List<Found> planes, List<Found> rounds)
        {
            if (planes.Count == 0)
            {
                return rounds.Count == 0 ? [] : [new("A", [IdOf(rounds[0])])];
            }

            var a = planes[0];
            List<Found> along = [.. rounds.Where(r => Axis(r).LineAngleTo(Normal(a)) < Parallel)];
            var square = planes.FirstOrDefault(p => IsSquare(p, a));
            var third = square is null ? null : planes.FirstOrDefault(p => IsSquare(p, a) && IsSquare(p, square));
            if (square is not null && third is not null)
            {
                return Lettered(a, square, third);
            }

            if (along.Count == 0)
            {
                return square is null ? Lettered(a) : Lettered(a, square);
            }

            if (square is not null)
            {
                return Lettered(a, along[0], square);
            }

            // A bore and, farthest from it, a hole along it that tells the turn.
            var far = along.MaxBy(r => Apart(r, along[0]))!;
            return Apart(far, along[0]) > LeastApart ? Lettered(a, along[0], far) : Lettered(a, along[0]);
        }

        private static double Apart(Found f, Found other) =>
            ((Cylinder3D)f.Face.Shape!).AxisLine.Distance(((Cylinder3D)other.Face.Shape!).Point);

        private IReadOnlyList<DatumPlan> Lettered(params Found[] features) =>
            [.. features.Select((f, i) => new DatumPlan(((char)('A' + i)).ToString(), [IdOf(f)]))];

        /// <summary>Holes of one size along one direction; those of another kind stand alone.</summary>
        private static IEnumerable<List<Found>> Alike(IEnumerable<Found> rounds)
        {
            var groups = new List<List<Found>>();
            foreach (var f in rounds)
            {
                var (shape, kind) = ((Cylinder3D)f.Face.Shape!, f.Surface.Kind);
                var group = groups.FirstOrDefault(g => g[0].Surface.Kind == kind
                    && Math.Abs(((Cylinder3D)g[0].Face.Shape!).Radius - shape.Radius) < SameSize / 2
                    && Axis(g[0]).LineAngleTo(shape.Axis) < Parallel);
                if (group is null)
                {
                    groups.Add([f]);
                }
                else
                {
                    group.Add(f);
                }
            }

            return groups;
        }

        private static List<Found> InTurn(List<Found> group)
        {
            var middle = group.Aggregate(Vector3D.Zero, (sum, f) => sum + (f.Face.Center / group.Count));
            var (u, v) = (Axis(group[0]).Perpendicular(), Axis(group[0]).Cross(Axis(group[0]).Perpendicular()));
            return [.. group.OrderBy(f => Math.Atan2((f.Face.Center - middle).Dot(v), (f.Face.Center - middle).Dot(u)))];
        }

        /// <summary>What the plan asks already is not proposed.</summary>
        private void Add(Func<int, CharacteristicPlan> row)
        {
            var made = row(1 + plan.Characteristics.Concat(_rows).Select(c => c.No).DefaultIfEmpty().Max());
            if (!plan.Characteristics.Any(c => c.Kind == made.Kind && c.Refers.Features.SequenceEqual(made.Refers.Features)
                && c.Refers.Faces.ToHashSet().SetEquals(made.Refers.Faces)))
            {
                _rows.Add(made);
            }
        }

        private string IdOf(Found f) => FeatureOf(f).Id;

        private string NameOf(Found f) => FeatureOf(f).Name;

        /// <summary>The plan's own feature of these faces, or a new one.</summary>
        private FeaturePlan FeatureOf(Found f, int number = 0)
        {
            var faces = f.Surface.Faces.ToHashSet();
            var known = plan.Features.Concat(_features).ToList();
            if (known.FirstOrDefault(k => k.EdgeOf is null && k.Region is null && faces.SetEquals(k.Faces)) is { } same)
            {
                return same;
            }

            var made = Proposals.Named(f.Surface, f.Face, known, number);
            _features.Add(made);
            return made;
        }

        private double Extent(Found f) => Box3D.Of(f.Surface.Faces.SelectMany(face => (Vector3D[])[_boxes[face].Min, _boxes[face].Max]))
            .Diagonal;

        private static Box3D[] Boxes(NominalModel nominal)
        {
            var boxes = new Box3D[nominal.Faces.Count];
            Array.Fill(boxes, Box3D.Empty);
            for (var t = 0; t < nominal.Mesh.TriangleCount; t++)
            {
                ref var box = ref boxes[nominal.FaceOfTriangle[t]];
                var (a, b, c) = nominal.Mesh.Triangle(t);
                box = box.Include(a).Include(b).Include(c);
            }

            return boxes;
        }

        private static bool IsSquare(Found a, Found b) => Math.Abs(Normal(a).Dot(Normal(b))) < Parallel;

        private static Vector3D Normal(Found f) => ((Plane3D)f.Face.Shape!).Normal;

        private static Vector3D Axis(Found f) => ((Cylinder3D)f.Face.Shape!).Axis;
    }
}
