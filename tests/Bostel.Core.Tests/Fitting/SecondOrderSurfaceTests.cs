using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using MathNet.Numerics.LinearRegression;

namespace Bostel.Core.Tests.Fitting;

public class SecondOrderSurfaceTests
{
    private static readonly RigidTransform _pose =
        RigidTransform.FromAxisAngle(new(1, -2, 3), 1.1) with { Translation = new(400, -250, 900) };
    private static readonly Plane3D _over = new(_pose.Apply(Vector3D.Zero), _pose.Rotate(Vector3D.UnitZ));

    [Fact]
    public void ASecondOrderSurfaceLeavesNothing() =>
        Assert.InRange(SecondOrderSurface.Scatter(
            Points(200, (x, y, _) => 3 - x + (0.5 * y) + (0.02 * x * x) - (0.03 * x * y) + (0.01 * y * y)), _over), 0, 1e-6);

    /// <summary>Against a QR regression of the same terms, which does not form normal equations.</summary>
    [Theory]
    [InlineData(7)]
    [InlineData(50)]
    [InlineData(3000)]
    public void WhatIsLeftIsTheResidualOfTheRegression(int count)
    {
        var points = Points(count, (x, y, random) => (0.3 * Math.Sin(x)) + (0.05 * y * y) + (0.1 * random.NextDouble()));
        var inverse = _pose.Inverse();
        var local = Enumerable.Range(0, count).Select(i => inverse.Apply(Vector3D.At(points, i)))
            .ToArray();
        var rows = local.Select(p => new[] { 1, p.X, p.Y, p.X * p.X, p.X * p.Y, p.Y * p.Y }).ToArray();
        var coefficients = MultipleRegression.QR(rows, [.. local.Select(p => p.Z)]);
        var left = local.Select((p, i) => p.Z - rows[i].Zip(coefficients, (a, b) => a * b).Sum());
        Assert.Equal(Math.Sqrt(left.Sum(e => e * e) / (count - 6)), SecondOrderSurface.Scatter(points, _over), 1e-6);
    }

    [Fact]
    public void WhatDeterminesNoneLeavesNothing()
    {
        Assert.Equal(0, SecondOrderSurface.Scatter(Points(6, (x, y, _) => x * y), _over));
        var row = Enumerable.Range(0, 40).SelectMany(i => _pose.Apply(new(i, 2 * i, i % 3)).ToArray()).ToArray();
        Assert.Equal(0, SecondOrderSurface.Scatter(row, _over));
    }

    private static double[] Points(int count, Func<double, double, Random, double> height)
    {
        var random = new Random(8);
        return [.. Enumerable.Range(0, count).SelectMany(_ =>
        {
            var (x, y) = ((20 * random.NextDouble()) - 10, (12 * random.NextDouble()) - 6);
            return _pose.Apply(new(x, y, height(x, y, random))).ToArray();
        })];
    }
}
