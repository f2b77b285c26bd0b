using Bostel.Core.Geometry;

namespace Bostel.Core.Preparation;

/// <summary>Bends a patch so that it carries on the curvature around it.</summary>
internal sealed class PatchFairing
{
    private const int Rounds = 3;
    private const int MaxIterations = 2000;
    private readonly Vector3D[] _points;
    private readonly IReadOnlyList<(int A, int B, int C)> _triangles;
    private readonly bool[] _counts;
    private readonly bool[] _free;

    /// <summary>Rows one after the other: where each begins, its columns and its weights.</summary>
    private int[] _begin = [], _columns = [];
    private double[] _weights = [];

    private PatchFairing(Vector3D[] points, IReadOnlyList<(int, int, int)> triangles, bool[] counts, bool[] free) =>
        (_points, _triangles, _counts, _free) = (points, triangles, counts, free);

    /// <summary>
    /// Moves the free points so that the integral of the squared mean-curvature normal is least: the discrete thin plate (Kobbelt et al.
    /// 1998) with cotangent weights (Pinkall and Polthier 1993), which see the form and not how points are spread over it. The weights
    /// belong to the bent patch, so they are taken anew a few times. Solved by conjugate gradients on the normal equations, which need no
    /// factorisation.
    /// </summary>
    /// <param name="points">All points of the patch and its surroundings; the free ones are moved in place.</param>
    /// <param name="triangles">All triangles around the points that count.</param>
    /// <param name="counts">Points whose curvature enters the sum: those of the patch and its border.</param>
    /// <param name="free">Points that may move.</param>
    public static void Fair(Vector3D[] points, IReadOnlyList<(int A, int B, int C)> triangles, bool[] counts, bool[] free)
    {
        var fairing = new PatchFairing(points, triangles, counts, free);
        for (var round = 0; round < Rounds; round++)
        {
            fairing.Weigh();
            fairing.Bend();
        }
    }

    /// <summary>One row a counting point: cotangent Laplacian over the square root of the area around it.</summary>
    private void Weigh()
    {
        var rows = new Dictionary<int, double>[_points.Length];
        for (var v = 0; v < rows.Length; v++)
        {
            rows[v] = new(8);
        }

        var areas = new double[_points.Length];
        foreach (var (a, b, c) in _triangles)
        {
            var area = (_points[b] - _points[a]).Cross(_points[c] - _points[a]).Length / 2;
            Corner(a, b, c, area);
            Corner(b, c, a, area);
            Corner(c, a, b, area);
        }

        _begin = new int[rows.Length + 1];
        for (var v = 0; v < rows.Length; v++)
        {
            _begin[v + 1] = _begin[v] + (_counts[v] ? rows[v].Count : 0);
        }

        (_columns, _weights) = (new int[_begin[^1]], new double[_begin[^1]]);
        for (var v = 0; v < rows.Length; v++)
        {
            var scale = 1 / Math.Sqrt(Math.Max(1e-30, areas[v]));
            var at = _begin[v];
            foreach (var (n, w) in _counts[v] ? rows[v] : [])
            {
                (_columns[at], _weights[at++]) = (n, w * scale);
            }
        }

        void Corner(int i, int j, int k, double area)
        {
            areas[i] += area / 3;
            var (u, v) = (_points[j] - _points[i], _points[k] - _points[i]);

            // Slivers of an early round must not rule the sum.
            var half = Math.Clamp(u.Dot(v) / Math.Max(1e-30, u.Cross(v).Length), -1, 20) / 2;
            Add(j, k, half);
            Add(k, j, half);
        }

        void Add(int from, int to, double weight)
        {
            rows[from][to] = rows[from].GetValueOrDefault(to) + weight;
            rows[from][from] = rows[from].GetValueOrDefault(from) - weight;
        }
    }

    private void Bend()
    {
        var step = new Vector3D[_points.Length];
        var residual = Transposed(Product(_points));
        for (var v = 0; v < residual.Length; v++)
        {
            residual[v] = -residual[v];
        }

        var scale = Diagonal();
        var preconditioned = Scaled(residual, scale);
        var direction = (Vector3D[])preconditioned.Clone();
        var square = Dot(residual, preconditioned);
        var enough = 1e-18 * square;
        for (var i = 0; i < MaxIterations && square > enough && square > 0; i++)
        {
            var image = Transposed(Product(direction));
            var alpha = square / Dot(direction, image);
            for (var v = 0; v < step.Length; v++)
            {
                step[v] += alpha * direction[v];
                residual[v] -= alpha * image[v];
            }

            preconditioned = Scaled(residual, scale);
            var next = Dot(residual, preconditioned);
            var beta = next / square;
            square = next;
            for (var v = 0; v < step.Length; v++)
            {
                direction[v] = preconditioned[v] + (beta * direction[v]);
            }
        }

        for (var v = 0; v < _points.Length; v++)
        {
            _points[v] += step[v];
        }
    }

    private Vector3D[] Product(Vector3D[] x)
    {
        var result = new Vector3D[x.Length];
        for (var v = 0; v < x.Length; v++)
        {
            var sum = Vector3D.Zero;
            for (var i = _begin[v]; i < _begin[v + 1]; i++)
            {
                sum += _weights[i] * x[_columns[i]];
            }

            result[v] = sum;
        }

        return result;
    }

    /// <summary>Only the rows of free points: the others do not move.</summary>
    private Vector3D[] Transposed(Vector3D[] y)
    {
        var result = new Vector3D[y.Length];
        for (var v = 0; v < y.Length; v++)
        {
            for (var i = _begin[v]; i < _begin[v + 1]; i++)
            {
                if (_free[_columns[i]])
                {
                    result[_columns[i]] += _weights[i] * y[v];
                }
            }
        }

        return result;
    }

    private double[] Diagonal()
    {
        var diagonal = new double[_points.Length];
        for (var i = 0; i < _columns.Length; i++)
        {
            diagonal[_columns[i]] += _weights[i] * _weights[i];
        }

        return diagonal;
    }

    private static Vector3D[] Scaled(Vector3D[] x, double[] diagonal)
    {
        var result = new Vector3D[x.Length];
        for (var v = 0; v < x.Length; v++)
        {
            result[v] = diagonal[v] > 0 ? x[v] / diagonal[v] : x[v];
        }

        return result;
    }

    private static double Dot(Vector3D[] a, Vector3D[] b)
    {
        double sum = 0;
        for (var i = 0; i < a.Length; i++)
        {
            sum += a[i].Dot(b[i]);
        }

        return sum;
    }
}
