using Bostel.Core.Geometry;
using CsCheck;

namespace Bostel.Core.Tests.Geometry;

/// <summary>Small linear systems and eigenproblems, checked by putting the solution back.</summary>
public class SmallSystemTests
{
    private static readonly Gen<(int N, double[] Numbers)> Matrices = Gen.Int[1, 8]
        .SelectMany(n => Gen.Double[-3, 3].Array[n * n].Select(numbers => (n, numbers)));

    /// <summary>A matrix times its transpose, made safely positive, solved and multiplied again.</summary>
    [Fact]
    public void CholeskySolvesWhatItIsGiven() => Matrices.Sample(m =>
    {
        var (a, b, x) = (Positive(m.N, m.Numbers), m.Numbers[..m.N], new double[m.N]);
        return LinearSolve.Cholesky(a, b, x) && Times(a, x).Zip(b).All(p => Math.Abs(p.First - p.Second) < 1e-9);
    });

    [Fact]
    public void CholeskyRefusesWhatIsNotPositive()
    {
        Assert.False(LinearSolve.Cholesky(new double[,] { { 1, 2 }, { 2, 1 } }, [1, 1], new double[2]));
        Assert.False(LinearSolve.Cholesky(new double[,] { { 1, 1 }, { 1, 1 } }, [1, 1], new double[2]));
        Assert.False(LinearSolve.Cholesky(new double[,] { { double.NaN } }, [1], new double[1]));
    }

    [Fact]
    public void GaussAndTheInverseAgree() => Matrices.Sample(m =>
    {
        var a = Positive(m.N, m.Numbers);
        var inverse = LinearSolve.Inverse(a)!;
        var x = LinearSolve.Gauss(a, m.Numbers[..m.N])!;
        return Times(inverse, m.Numbers[..m.N]).Zip(x).All(p => Math.Abs(p.First - p.Second) < 1e-9);
    });

    [Fact]
    public void ASingularSystemHasNoSolution()
    {
        Assert.Null(LinearSolve.Gauss(new double[,] { { 1, 2, 3 }, { 2, 4, 6 }, { 0, 1, 5 } }, [1, 2, 3]));
        Assert.Null(LinearSolve.Inverse(new double[,] { { 0, 0 }, { 0, 1 } }));
    }

    [Fact]
    public void EigenvectorsAreOrthonormalAndStretchedByTheirValues() => Matrices.Sample(m =>
    {
        var a = new double[m.N, m.N];
        for (var r = 0; r < m.N; r++)
        {
            for (var c = 0; c < m.N; c++)
            {
                a[r, c] = m.Numbers[(r * m.N) + c] + m.Numbers[(c * m.N) + r];
            }
        }

        var (values, vectors) = SymmetricEigen.Solve(a);
        for (var k = 0; k < m.N; k++)
        {
            var v = Enumerable.Range(0, m.N).Select(r => vectors[r, k]).ToArray();
            if (Times(a, v).Zip(v).Any(p => Math.Abs(p.First - (values[k] * p.Second)) > 1e-9))
            {
                return false;
            }

            for (var other = 0; other <= k; other++)
            {
                var dot = Enumerable.Range(0, m.N).Sum(r => vectors[r, k] * vectors[r, other]);
                if (Math.Abs(dot - (other == k ? 1 : 0)) > 1e-10)
                {
                    return false;
                }
            }
        }

        // Ascending, and their sum is the trace.
        return values.SequenceEqual(values.Order()) && Math.Abs(values.Sum() - Enumerable.Range(0, m.N).Sum(r => a[r, r])) < 1e-9;
    });

    private static double[,] Positive(int n, double[] numbers)
    {
        var a = new double[n, n];
        for (var r = 0; r < n; r++)
        {
            for (var c = 0; c < n; c++)
            {
                a[r, c] = (r == c ? 1 : 0) + Enumerable.Range(0, n).Sum(k => numbers[(r * n) + k] * numbers[(c * n) + k]);
            }
        }

        return a;
    }

    private static double[] Times(double[,] a, double[] x) =>
        [.. Enumerable.Range(0, a.GetLength(0)).Select(r => Enumerable.Range(0, x.Length).Sum(c => a[r, c] * x[c]))];
}
