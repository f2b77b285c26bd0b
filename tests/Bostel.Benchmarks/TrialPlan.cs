using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Benchmarks;

/// <summary>
/// A plan of every kind of characteristic for any part, made from its faces: A is the largest plane, B the largest plane square to it, C
/// the largest square to both; where there is none, the largest bore along A's normal takes its place.
/// </summary>
internal static class TrialPlan
{
    /// <summary>So many rows of a kind at most.</summary>
    private const int MostOfKind = 3;

    private const double Straight = 1e-6;

    /// <summary>The datum that run-out is measured about: the largest round face.</summary>
    private const string RunsAbout = "R";

    /// <summary>A feature of the nominal that a plan may measure.</summary>
    private sealed record Candidate(int[] Faces, Shape Shape, double Area);

    /// <param name="usable">Whether enough of some faces was measured.</param>
    public static InspectionPlan For(NominalModel nominal, Func<int[], bool> usable)
    {
        var found = NominalFeatures.Find(nominal).Where(f => usable(f.Faces) && nominal.Faces[f.Faces[0]].Shape is not null).ToList();
        List<Candidate> Of(params string[] kinds) => [.. found.Where(f => kinds.Contains(f.Kind))
            .Select(f => new Candidate(f.Faces, nominal.Faces[f.Faces[0]].Shape!, f.Faces.Sum(i => nominal.Faces[i].Area)))
            .OrderByDescending(f => f.Area)];
        var (planes, rounds) = (Of("plane"), Of("bore", "shaft", "counterbore"));
        var a = planes[0];
        var b = planes.FirstOrDefault(f => Square(a, f)) ?? rounds.First(f => Along(a, f));
        var c = planes.FirstOrDefault(f => Square(a, f) && b.Shape is Plane3D && Square(b, f))
            ?? rounds.FirstOrDefault(f => f != b && Along(a, f));
        Candidate[] datums = c is null ? [a, b] : [a, b, c];
        string[] labels = [.. datums.Select((_, i) => ((char)('A' + i)).ToString())];
        var parallel = planes.Where(f => f != a && Normal(f).LineAngleTo(Normal(a)) < Straight).ToList();
        var free = rounds.Where(f => !datums.Contains(f)).ToList();
        var features = new Dictionary<int, FeaturePlan>();
        var rows = new List<CharacteristicPlan>();
        foreach (var d in datums)
        {
            Feature(d);
        }

        planes.Take(MostOfKind).ToList().ForEach(f => Add(new FlatnessPlan(0, "") { Features = [Feature(f)] }, f));
        rounds.Take(MostOfKind).ToList().ForEach(f => Add(new CylindricityPlan(0, "") { Features = [Feature(f)] }, f));
        rounds.Take(MostOfKind).ToList().ForEach(f => Add(new DiameterPlan(0, "") { Features = [Feature(f)] }, f));
        parallel.Take(MostOfKind).ToList().ForEach(f => Add(new DistancePlan(0, "") { Features = [Feature(a), Feature(f)] }, a, f));
        parallel.Where(f => Normal(f).Dot(Normal(a)) < 0).Take(MostOfKind).ToList()
            .ForEach(f => Add(new WidthPlan(0, "") { Features = [Feature(a), Feature(f)] }, a, f));
        planes.Where(f => Square(a, f)).Take(MostOfKind).ToList()
            .ForEach(f => Add(new AnglePlan(0, "") { Features = [Feature(a), Feature(f)], Nominal = 90 }, a, f));
        parallel.Take(MostOfKind).ToList().ForEach(f => Add(new ParallelismPlan(0, "") { Features = [Feature(f)], Datums = ["A"] }, f));
        planes.Where(f => Square(a, f)).Take(MostOfKind).Concat(rounds.Where(f => Along(a, f)).Take(MostOfKind)).ToList()
            .ForEach(f => Add(new PerpendicularityPlan(0, "") { Features = [Feature(f)], Datums = ["A"] }, f));
        free.Take(MostOfKind).Concat(parallel.Take(1)).ToList()
            .ForEach(f => Add(new PositionPlan(0, "") { Features = [Feature(f)], Datums = labels }, f));
        planes.Concat(rounds).Where(f => !datums.Contains(f)).Take(MostOfKind).ToList()
            .ForEach(f => Add(new SurfaceProfilePlan(0, "") { Faces = f.Faces, Datums = labels }, f));
        foreach (var f in rounds.Take(MostOfKind))
        {
            Add(new RoundnessPlan(0, "") { Features = [Feature(f)] }, f);
            Add(new StraightnessPlan(0, "") { Features = [Feature(f)] }, f);
            Add(new StraightnessPlan(0, "") { Features = [Feature(f)], Lines = true }, f);
            Add(new DiameterPlan(0, "") { Features = [Feature(f)], Size = SizeKind.TwoPoint }, f);
            Add(new DiameterPlan(0, "") { Features = [Feature(f)], Size = SizeKind.Envelope }, f);
        }

        planes.Where(f => !Square(a, f) && Normal(f).LineAngleTo(Normal(a)) > Straight).Take(MostOfKind).ToList()
            .ForEach(f => Add(new AngularityPlan(0, "") { Features = [Feature(f)], Datums = labels }, f));
        if (rounds.FirstOrDefault() is { } spindle)
        {
            string[] about = [RunsAbout];
            Feature(spindle);
            rounds.Where(f => f != spindle && Coaxial(f, spindle)).Take(MostOfKind).ToList().ForEach(f =>
            {
                Add(new CircularRunOutPlan(0, "") { Features = [Feature(f)], Datums = about }, f);
                Add(new TotalRunOutPlan(0, "") { Features = [Feature(f)], Datums = about }, f);
                Add(new CoaxialityPlan(0, "") { Features = [Feature(f)], Datums = about }, f);
            });
            planes.Where(f => Normal(f).LineAngleTo(((Cylinder3D)spindle.Shape).Axis) < Straight).Take(MostOfKind).ToList().ForEach(f =>
            {
                Add(new CircularRunOutPlan(0, "") { Features = [Feature(f)], Datums = about }, f);
                Add(new TotalRunOutPlan(0, "") { Features = [Feature(f)], Datums = about }, f);
            });
        }

        return new()
        {
            Prepare = new() { Steps = [] },
            Align = new AsGivenPlan { Start = RigidTransform.Identity.ToArray() },
            Features = [.. features.Values],
            Datums = [
                .. datums.Select((d, i) => new DatumPlan(labels[i], [Feature(d)])),
                .. rounds.Take(1).Select(d => new DatumPlan(RunsAbout, [Feature(d)]))],
            Characteristics = rows,
            Device = new() { LengthError = 0 },
        };

        string Feature(Candidate f) =>
            (features.TryGetValue(f.Faces[0], out var known)
                ? known
                : features[f.Faces[0]] = new($"f{f.Faces[0]}", $"face {f.Faces[0]}", f.Faces)).Id;

        void Add(CharacteristicPlan row, params Candidate[] of)
        {
            row = row with
            {
                Name = $"{row.Kind} of {string.Join(", ", of.Select(f => f.Faces[0]))}",
            };
            rows.Add(ConstructedRows.Wide(row, rows.Count + 1));
        }
    }

    private static bool Coaxial(Candidate f, Candidate other) => (f.Shape, other.Shape) is (Cylinder3D a, Cylinder3D b)
        && a.Axis.LineAngleTo(b.Axis) < Straight && a.AxisLine.Distance(b.Point) < Straight;

    private static bool Square(Candidate a, Candidate b) => Math.Abs(Normal(a).Dot(Normal(b))) < Straight;

    private static bool Along(Candidate plane, Candidate round) => ((Cylinder3D)round.Shape).Axis.LineAngleTo(Normal(plane)) < Straight;

    private static Vector3D Normal(Candidate f) => ((Plane3D)f.Shape).Normal;
}
