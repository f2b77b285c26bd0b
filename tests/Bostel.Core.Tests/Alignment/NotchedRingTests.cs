using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Tests.Alignment;

/// <summary>
/// A ring with twelve equal lobes, and one notch 4 mm wide and 3 mm deep that alone tells the twelve poses apart: not a part that the
/// method was tuned on.
/// </summary>
public class NotchedRingTests
{
    private const double Outer = 30, Inner = 18, Height = 10;

    private static readonly Lazy<AlignmentTarget> _notched = new(() => new(new(Ring(2880, 4, 2, true, 0, 0))));
    private static readonly Lazy<AlignmentTarget> _plain = new(() => new(new(Ring(2880, 4, 2, false, 0, 0))));

    [Theory]
    [InlineData(1, 0.02)]
    [InlineData(2, 0.02)]
    [InlineData(3, 0.05)]
    [InlineData(4, 0)]
    public void TheNotchDecides(int seed, double noise)
    {
        var pose = Pose(seed);
        var scan = Ring(210, 11, 13, true, noise, seed).Transformed(pose);
        var found = SurfaceAlignment.FitToAllSurfaces(scan, _notched.Value);

        // The next pose is 30° away; what is left is the noise of the fit.
        Assert.InRange(found.Transform.After(pose).RotationAngle(), 0, 0.01);
        Assert.Empty(found.Alternatives);

        if (noise == 0)
        {
            // Without noise the whole surface tells: no other pose fits nearly as well.
            Assert.Null(found.DecidedOn);
            return;
        }

        // Bottom and walls of the notch, and the rim that would stand over it: some 3 to 30 samples of 0.9 mm high and wide.
        Assert.InRange(found.DecidedOn!.Value, 20, 400);
    }

    /// <summary>Without the notch nothing tells them apart, and all that fit are there to choose from.</summary>
    [Fact]
    public void WithoutItAllTwelveAreAlternativesOnEitherSide()
    {
        var pose = Pose(7);
        var found = SurfaceAlignment.FitToAllSurfaces(Ring(210, 11, 13, false, 0.02, 7).Transformed(pose), _plain.Value);

        // Twelve turns, each as it is and turned over.
        Assert.Equal(23, found.Alternatives.Count);
        Assert.Null(found.DecidedOn);
    }

    private static RigidTransform Pose(int seed)
    {
        var random = new Random(seed);
        var axis = new Vector3D(random.NextDouble() - 0.5, random.NextDouble() - 0.5, random.NextDouble() - 0.5).Normalized();
        return RigidTransform.FromAxisAngle(axis, 6 * random.NextDouble()) with { Translation = new(50, -30 * seed, 12) };
    }

    /// <summary>
    /// Walls and faces of the ring with so many steps round, up the walls and across the faces, and noise along z and outward.
    /// </summary>
    private static TriangleMesh Ring(int around, int up, int across, bool notch, double noise, int seed)
    {
        var random = new Random(seed);
        double Noise() => noise * (random.NextDouble() + random.NextDouble() + random.NextDouble() - 1.5) * 2;
        var (points, triangles) = (new List<double>(), new List<int>());
        double OuterAt(double angle)
        {
            var off = Math.IEEERemainder(angle - 0.4, 2 * Math.PI) * Outer;
            return Outer + (1.5 * Math.Cos(12 * angle)) - (notch && Math.Abs(off) < 2 ? 3 : 0);
        }

        // One closed loop of the section (radius as a share from inner to outer, height), repeated round.
        var section = new List<(double Share, double Z)>();
        section.AddRange(Enumerable.Range(0, across).Select(k => ((double)k / across, Height)));
        section.AddRange(Enumerable.Range(0, up).Select(k => (1.0, Height - (Height * k / up))));
        section.AddRange(Enumerable.Range(0, across).Select(k => (1 - ((double)k / across), 0.0)));
        section.AddRange(Enumerable.Range(0, up).Select(k => (0.0, Height * k / up)));
        for (var i = 0; i < around; i++)
        {
            var angle = 2 * Math.PI * i / around;
            foreach (var (share, z) in section)
            {
                var r = Inner + (share * (OuterAt(angle) - Inner)) + Noise();
                points.AddRange([r * Math.Cos(angle), r * Math.Sin(angle), z + Noise()]);
            }
        }

        var n = section.Count;
        for (var i = 0; i < around; i++)
        {
            for (var k = 0; k < n; k++)
            {
                var (a, b) = ((i * n) + k, (i * n) + ((k + 1) % n));
                var (c, d) = ((((i + 1) % around) * n) + k, (((i + 1) % around) * n) + ((k + 1) % n));
                triangles.AddRange([a, b, c, c, b, d]);
            }
        }

        return new TriangleMesh([.. points], [.. triangles]);
    }
}
