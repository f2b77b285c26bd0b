using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>A datum of several features is their joint fit to all points, checked against fits computed point by point.</summary>
public class DatumSystemTests
{
    private const double Noise = 0.01;

    /// <summary>
    /// A plane, and a pattern of a shallow bore, seen on one side only, with a deep one. Turn and shift in the plane are compared with
    /// those that make the sum of squares over the points of both bores least, each with its own radius, found by Gauss–Newton on
    /// numerical derivatives. The weights are told from the scatter, which 800 points know to 2.5 %; the bores disagree by hundredths.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void APatternIsFittedJointlyToItsPoints(int seed)
    {
        var random = new Random(seed);
        var floor = MadeFeature.Fitted("A", new Plane3D(Vector3D.Zero, -Vector3D.UnitZ), Scattered(random, 800, k =>
            (new(-40 + (80 * random.NextDouble()), -40 + (80 * random.NextDouble()), 0), Vector3D.UnitZ)));
        var shallow = new Cylinder3D(new(-30, 0, 0), Vector3D.UnitZ, 8);
        var deep = new Cylinder3D(new(30, 5, 0), Vector3D.UnitZ, 5);
        var first = Scattered(random, 800, _ => On(shallow, Math.PI * random.NextDouble(), 3 * random.NextDouble(), 0.02));
        var second = Scattered(random, 800, _ => On(deep, 2 * Math.PI * random.NextDouble(), 40 * random.NextDouble(), -0.03));
        var system = DatumSystem.Build([
            new("A", [floor]), new("B", [MadeFeature.Fitted("b1", shallow, first), MadeFeature.Fitted("b2", deep, second)])]);
        Assert.Equal(0, system.FreeDegrees);

        // Brute force in the frame that the first datum holds: x, y, the turn, both radii.
        var level = DatumSystem.Build([new("A", [floor])]).Transform;
        var (inFirst, inSecond) = (Moved(first, level), Moved(second, level));
        double[] Residuals(double[] q)
        {
            var t = RigidTransform.FromAxisAngle(Vector3D.UnitZ, q[2]) with { Translation = new(q[0], q[1], 0) };
            return [.. (shallow with { Radius = q[3] }).Distances(Moved(inFirst, t)),
                .. (deep with { Radius = q[4] }).Distances(Moved(inSecond, t))];
        }

        var best = LeastSquaresBy(Residuals, [0, 0, 0, 8, 5]);
        var expected = (RigidTransform.FromAxisAngle(Vector3D.UnitZ, best[2]) with { Translation = new(best[0], best[1], 0) }).After(level);
        foreach (var p in (Vector3D[])[new(-30, 0, 1), new(30, 5, 20), new(0, 80, 0)])
        {
            var moved = Vector3D.Distance(expected.Apply(p), level.Apply(p));
            Assert.Equal(0, Vector3D.Distance(system.Transform.Apply(p), expected.Apply(p)), 0.05 * Math.Max(moved, 0.02));
        }
    }

    /// <summary>
    /// A datum of two coplanar pads, one 0.1 mm too high over a distance of 100: its direction is that of the plane through all their
    /// points, and parallelism to it is judged by that, not by the first pad's alone.
    /// </summary>
    [Fact]
    public void ADirectionComesFromAllFeaturesOfADatum()
    {
        var random = new Random(4);
        double[] Pad(double x, double z) => Scattered(random, 400, _ =>
            (new(x + (10 * random.NextDouble()), 10 * random.NextDouble(), z), Vector3D.UnitZ));
        var nominal = new Plane3D(Vector3D.Zero, -Vector3D.UnitZ);
        var (left, right) = (Pad(0, 0), Pad(100, 0.1));
        var system = DatumSystem.Build([new("A", [MadeFeature.Fitted("a1", nominal, left), MadeFeature.Fitted("a2", nominal, right)])]);
        var joint = ((Plane3D)LeastSquares.Plane([.. left, .. right]).OrThrow().Shape).Normal;
        var found = system.Transform.Inverse().Rotate(nominal.Normal);
        Assert.Equal(0, found.LineAngleTo(joint), 0.02 * 0.001);

        // A level plate 80 mm long leans against it by 0.001 · 80.
        var plate = Scattered(random, 2000, _ => (new(80 * random.NextDouble(), 20 * random.NextDouble(), 30), Vector3D.UnitZ));
        var row = Orientation.Parallelism(MadeFeature.Fitted("t", new Plane3D(new(0, 0, 30), Vector3D.UnitZ), plate), system, null);
        Assert.InRange(row.Raw!.Value, 0.08, 0.08 + (8 * Noise));
    }

    private static double[] LeastSquaresBy(Func<double[], double[]> residuals, double[] q)
    {
        const double Step = 1e-6;
        for (var round = 0; round < 8; round++)
        {
            var now = residuals(q);
            var columns = q.Select((_, k) =>
            {
                var other = (double[])q.Clone();
                other[k] += Step;
                return residuals(other).Zip(now, (b, a) => (b - a) / Step).ToArray();
            }).ToArray();
            var (normal, down) = (new double[q.Length, q.Length], new double[q.Length]);
            for (var a = 0; a < q.Length; a++)
            {
                down[a] = -columns[a].Zip(now, (x, r) => x * r).Sum();
                for (var b = 0; b < q.Length; b++)
                {
                    normal[a, b] = columns[a].Zip(columns[b], (x, y) => x * y).Sum();
                }
            }

            q = [.. q.Zip(LinearSolve.Gauss(normal, down)!, (v, d) => v + d)];
        }

        return q;
    }

    private static (Vector3D Point, Vector3D Normal) On(Cylinder3D bore, double angle, double height, double shift)
    {
        var normal = new Vector3D(Math.Cos(angle), Math.Sin(angle), 0);
        return (bore.Point + new Vector3D(0, shift, height) + (bore.Radius * normal), normal);
    }

    private static double[] Scattered(Random random, int count, Func<int, (Vector3D Point, Vector3D Normal)> at) =>
        [.. Enumerable.Range(0, count).Select(at).SelectMany(s => (s.Point + (Noise * Normal(random) * s.Normal)).ToArray())];

    private static double Normal(Random random) =>
        Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());

    private static double[] Moved(double[] points, RigidTransform t) =>
        [.. points.Chunk(3).SelectMany(p => t.Apply(Vector3D.FromArray(p)).ToArray())];
}
