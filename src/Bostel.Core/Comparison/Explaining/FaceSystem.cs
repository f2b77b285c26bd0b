using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>
/// The normal equations of one face: products of its own terms (Z), those of the whole part (X) and its deviations (y) over its cells,
/// divided by the variance of a cell. All that is asked afterwards is answered from them.
/// </summary>
internal sealed class FaceSystem
{
    /// <summary>Cells that a part is looked at in, about; smaller ones than two spacings level no noise.</summary>
    private const int CellsOfPart = 5000, CellSpacings = 2;

    /// <summary>Fewer cells do not tell how their errors hang together.</summary>
    private const int FewCells = 40;

    private readonly List<(double[] Z, double W)> _rows = [];
    private (double[,] ZZ, double[,] ZX, double[,] XX, double[] ZY, double[] XY, double YY) _sums;
    private double[] _points = [];
    private PointTree? _tree;

    private FaceSystem(int face, FaceTerms own, IReadOnlyList<SurfaceCell> cells)
    {
        (Face, Own, Cells) = (face, own, cells);
        Weight = cells.Sum(c => c.Weight);
    }

    public int Face { get; }

    public FaceTerms Own { get; }

    public IReadOnlyList<SurfaceCell> Cells { get; }

    public double Weight { get; }

    public double[,] ZZ { get; private set; } = new double[0, 0];

    public double[,] ZX { get; private set; } = new double[0, 0];

    public double[,] XX { get; private set; } = new double[0, 0];

    public double[] ZY { get; private set; } = [];

    public double[] XY { get; private set; } = [];

    public double YY { get; private set; }

    /// <summary>Covariance of its own terms when nothing else is known, mm².</summary>
    public double[,] Alone { get; private set; } = new double[0, 0];

    /// <summary>
    /// What a displacement along a narrow round reads as across it, its square over twice the radius, mm: the terms are of first order.
    /// </summary>
    public double Bias { get; private init; }

    /// <summary>How many independent cells its own are worth.</summary>
    public double Effective { get; private set; }

    /// <summary>The systems of all faces that have cells enough to tell their terms.</summary>
    /// <param name="spacing">Of the readings, mm: no cell is smaller.</param>
    public static List<FaceSystem> Of(
        IReadOnlyList<SurfaceReading> readings, double spacing, WholePartTerms whole, NominalModel nominal)
    {
        var usual = Math.Max(CellSpacings * spacing, Math.Sqrt(nominal.Mesh.Area() / CellsOfPart));
        var square = readings.Sum(r => r.Weight * r.Value * r.Value) / Math.Max(1e-300, readings.Sum(r => r.Weight));
        IGrouping<int, SurfaceReading>[] groups = [.. readings.GroupBy(c => c.Face).OrderBy(g => g.Key)];
        var made = new FaceSystem?[groups.Length];
        Parallel.For(0, groups.Length, g =>
        {
            List<SurfaceReading> its = [.. groups[g]];
            var face = nominal.Faces[groups[g].Key];
            var own = new FaceTerms(face, its);
            var cells = SurfaceCell.Of(its, Math.Min(usual, Math.Max(spacing, Math.Sqrt(face.Area / FewCells))), whole, own);
            own.Normalise(cells);
            made[g] = cells.Count > own.Count ? new(groups[g].Key, own, cells) { Bias = square / (2 * own.Radius) } : null;
        });
        List<FaceSystem> systems = [.. made.OfType<FaceSystem>()];
        if (systems.Count > 0)
        {
            var mean = systems.Sum(s => s.Weight) / systems.Sum(s => s.Cells.Count);
            systems.ForEach(s => s.Sum(mean));
            Weigh(systems, _ => new double[whole.Count]);
        }

        return systems;
    }

    /// <summary>
    /// Finds the variance of the cells of each face, from what its own terms leave of them. What cells share beyond these, waves above all,
    /// makes them worth fewer. A small face is taken to be like the rest.
    /// </summary>
    /// <param name="shared">Of a face: coefficients of the terms of the whole part, as far as they are known.</param>
    public static void Weigh(IReadOnlyList<FaceSystem> systems, Func<FaceSystem, double[]> shared)
    {
        var (left, variances) = (new double[systems.Count][], new double[systems.Count]);
        Parallel.For(0, systems.Count, s =>
        {
            left[s] = systems[s].LeftOf(shared(systems[s]));
            variances[s] = systems[s].Cells.Count >= FewCells ? systems[s].Variance(left[s]) : 0;
        });
        double[] measured = [.. variances.Where((_, s) => systems[s].Cells.Count >= FewCells).Order()];
        var pooled = measured.Length > 0 ? measured[measured.Length / 2]
            : left.Sum(l => l.Sum(r => r * r)) / Math.Max(1, systems.Sum(s => s.Cells.Count - s.Own.Count));
        Parallel.For(0, systems.Count, s => systems[s].Divide(Math.Max(1e-18, Math.Max(pooled, variances[s]))));
    }

    /// <summary>Makes the products, undivided.</summary>
    /// <param name="mean">Weight of a cell that counts as one.</param>
    private void Sum(double mean)
    {
        var (l, g) = (Own.Count, Cells[0].Whole.Length);
        _sums = (new double[l, l], new double[l, g], new double[g, g], new double[l], new double[g], 0);
        foreach (var cell in Cells)
        {
            var (z, x, w) = (Own.Row(cell.Own), cell.Whole, cell.Weight / mean);
            _rows.Add((z, w));
            _sums.YY += w * cell.Value * cell.Value;
            for (var r = 0; r < l; r++)
            {
                _sums.ZY[r] += w * z[r] * cell.Value;
                for (var c = 0; c < l; c++)
                {
                    _sums.ZZ[r, c] += w * z[r] * z[c];
                }

                for (var c = 0; c < g; c++)
                {
                    _sums.ZX[r, c] += w * z[r] * x[c];
                }
            }

            for (var r = 0; r < g; r++)
            {
                _sums.XY[r] += w * x[r] * cell.Value;
                for (var c = 0; c < g; c++)
                {
                    _sums.XX[r, c] += w * x[r] * x[c];
                }
            }
        }
    }

    /// <summary>What shared terms and its own leave, by cell, times the root of its weight.</summary>
    private double[] LeftOf(double[] shared)
    {
        var right = SmallSystems.Times(_sums.ZX, shared);
        for (var k = 0; k < right.Length; k++)
        {
            right[k] = _sums.ZY[k] - right[k];
        }

        var own = new double[right.Length];
        if (!LinearSolve.Cholesky(_sums.ZZ, right, own))
        {
            Array.Clear(own);
        }

        return [.. Cells.Zip(_rows, (cell, row) =>
            Math.Sqrt(row.W) * (cell.Value - SmallSystems.Dot(cell.Whole, shared) - SmallSystems.Dot(row.Z, own)))];
    }

    /// <summary>Root mean square of what shared terms and its own leave: waves, and noise; mm.</summary>
    public double RmsLeft(double[] shared) => Math.Sqrt(LeftOf(shared).Sum(r => r * r) / _rows.Sum(r => r.W));

    /// <summary>Of a cell of mean weight, as if cells were independent.</summary>
    private double Variance(double[] left)
    {
        _tree ??= new PointTree(_points = [.. Cells.SelectMany(c => c.Point.ToArray())]);
        var effective = SpatialCorrelation.EffectiveCount(_points, left, _tree, Own.Count);
        Effective = Math.Max(1, effective - Own.Count);
        return left.Sum(r => r * r) / Math.Max(1, left.Length - Own.Count) * left.Length / effective;
    }

    private void Divide(double variance)
    {
        (ZZ, ZX, XX) = (Divided(_sums.ZZ, variance), Divided(_sums.ZX, variance), Divided(_sums.XX, variance));
        (ZY, XY, YY) = ([.. _sums.ZY.Select(v => v / variance)], [.. _sums.XY.Select(v => v / variance)], _sums.YY / variance);
        var ridged = (double[,])ZZ.Clone();
        for (var k = 0; k < Own.Count; k++)
        {
            ridged[k, k] += 1 / ErrorModel.Anything;
        }

        Alone = SmallSystems.Inverse(ridged);
    }

    private static double[,] Divided(double[,] matrix, double by)
    {
        var divided = new double[matrix.GetLength(0), matrix.GetLength(1)];
        for (var r = 0; r < matrix.GetLength(0); r++)
        {
            for (var c = 0; c < matrix.GetLength(1); c++)
            {
                divided[r, c] = matrix[r, c] / by;
            }
        }

        return divided;
    }
}
