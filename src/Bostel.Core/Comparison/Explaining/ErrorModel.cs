using System.Collections.Concurrent;
using Bostel.Core.Geometry;
using MathNet.Numerics;
using static Bostel.Core.Comparison.SmallSystems;

namespace Bostel.Core.Comparison;

/// <summary>One error that faces share: of the whole part, or of some faces that moved together.</summary>
/// <param name="Columns">Its columns, each as coefficients of the terms of the whole part.</param>
/// <param name="Faces">That have it; null: all.</param>
/// <param name="Of">The group of the whole part; null for faces that moved together.</param>
internal sealed record SharedError(double[][] Columns, HashSet<int>? Faces, WholePartGroup? Of)
{
    public static SharedError OfWhole(WholePartGroup group, int terms) =>
        new([.. Enumerable.Range(group.From, group.Count).Select(k => Unit(k, terms))], null, group);

    public bool IsOn(int face) => Faces?.Contains(face) != false;

    private static double[] Unit(int k, int terms)
    {
        var unit = new double[terms];
        unit[k] = 1;
        return unit;
    }
}

/// <summary>
/// A linear mixed model (Searle, Casella and McCulloch, Variance Components, 1992, ch. 7) of a part's deviations: errors that faces share
/// are fixed effects; the own errors of a face are random with what is usual among the faces, and never less than the device's error, until
/// they stand out: then they are released, and bend what is shared no more.
/// </summary>
internal sealed class ErrorModel
{
    /// <summary>Variance of an error that nothing is known of, mm²: farther off a place would have no counterpart.</summary>
    internal const double Anything = 1;

    /// <summary>Of the device's error, how much may differ from place to place of the smallest face.</summary>
    private const double LeastShare = 0.3;

    /// <summary>Median of χ² with one degree of freedom.</summary>
    private const double MedianChi = 0.4549364;

    /// <summary>What is usual is found anew until it changes by no more than this share, at most so often.</summary>
    private const double Settled = 2e-3;

    private const int Rounds = 6;

    private static readonly FaceError[] Kinds = Enum.GetValues<FaceError>();

    private readonly IReadOnlyList<FaceSystem> _faces;
    private readonly int _terms;
    private readonly double _device;
    private readonly double _reach;
    private readonly bool[][] _released;
    private readonly double[] _usual = new double[Kinds.Length];
    private readonly ConcurrentDictionary<(int, double, double), double> _limits;
    private SeenOn[] _seen = [];

    /// <param name="device">Standard uncertainty of a length by the device, mm.</param>
    public ErrorModel(IReadOnlyList<FaceSystem> faces, WholePartTerms whole, double device)
    {
        (_faces, _terms, _device, _reach) = (faces, whole.Count, device, whole.Reach);
        _released = [.. faces.Select(_ => new bool[Kinds.Length])];
        _limits = [];
    }

    private ErrorModel(ErrorModel other, IEnumerable<SharedError> shared)
    {
        (_faces, _terms, _device, _reach) = (other._faces, other._terms, other._device, other._reach);
        _released = [.. other._released.Select(r => (bool[])r.Clone())];
        _limits = other._limits;
        other._usual.CopyTo(_usual, 0);
        Shared.AddRange(shared);
    }

    public List<SharedError> Shared { get; } = [];

    public IReadOnlyList<FaceSystem> Faces => _faces;

    /// <summary>What faces usually differ by in offset, beyond what the model names: a standard deviation, mm.</summary>
    public double Usual => _usual[(int)FaceError.Offset];

    /// <summary>Variance of an offset that is no error: what is usual, and what the device cannot tell, mm².</summary>
    public double UsualVariance => Square(Usual) + Square(_device);

    /// <summary>
    /// Effective degrees of freedom (Satterthwaite 1946) of the variance that decides: what is usual was estimated from what the faces
    /// leave, the device's is known.
    /// </summary>
    public double Freedom => Math.Min(1e4, LeftOver * Square(UsualVariance / Math.Max(1e-12, Square(Usual))));

    private double LeftOver => Math.Max(2, _faces.Count - Shared.Where(s => s.Faces is null).Sum(s => s.Columns.Length));

    public bool IsReleased(int face, FaceError error) => _released[face][(int)error];

    public void Release(int face, FaceError error, bool released = true) => _released[face][(int)error] = released;

    /// <summary>The same with one shared error more, or others.</summary>
    public ErrorModel With(IEnumerable<SharedError> shared) => new(this, shared);

    /// <summary>Estimates all, and what is usual among the faces from those that are not released.</summary>
    public ErrorEstimate Fit()
    {
        var estimate = Solve();
        for (var round = 0; round < Rounds; round++)
        {
            var before = (double[])_usual.Clone();

            // Whether a face stands high or a bore lies beside its place: both are errors of place, and as large.
            var alone = new double[_faces.Count][];
            Parallel.For(0, alone.Length, f => alone[f] = estimate.Alone(_faces[f]));
            var place = UsualOf([FaceError.Offset, FaceError.Shift], alone);
            (_usual[(int)FaceError.Offset], _usual[(int)FaceError.Shift]) = (place, place);
            _usual[(int)FaceError.Turn] = UsualOf([FaceError.Turn], alone);
            _usual[(int)FaceError.Form] = UsualOf([FaceError.Form], alone);
            if (before.Zip(_usual).All(p => Math.Abs(p.First - p.Second) <= Settled * p.Second))
            {
                break;
            }

            estimate = Solve();
        }

        return estimate;
    }

    /// <summary>Estimates all once more, with the variance of the cells as an estimate leaves it.</summary>
    public ErrorEstimate Weighed(ErrorEstimate estimate)
    {
        FaceSystem.Weigh(_faces, estimate.SharedOn);
        return Fit();
    }

    /// <summary>
    /// How far a face's own error stands out, were it released: its share of the limit that chance keeps to, and how likely the model then
    /// is. Different faces may be asked at once.
    /// </summary>
    public (double Share, double Likelihood) StandsOut(int face, FaceError error, double chance)
    {
        var (from, count) = _faces[face].Own.Groups[(int)error];
        if (count == 0)
        {
            return (0, double.NegativeInfinity);
        }

        var before = _released[face][(int)error];
        _released[face][(int)error] = true;
        var estimate = Solve(Seen(face));
        var (own, covariance) = estimate.OfFace(face);
        _released[face][(int)error] = before;
        return (Share([.. own.Skip(from).Take(count)], Block(covariance, from, count), chance), estimate.Likelihood);
    }

    /// <summary>How far values stand out of their covariance: the F statistic over its limit, above 1 beyond chance.</summary>
    public double Share(double[] values, double[,] covariance, double chance)
    {
        var solved = new double[values.Length];
        if (!LinearSolve.Cholesky(covariance, values, solved))
        {
            return 0;
        }

        var f = values.Zip(solved, (a, b) => a * b).Sum() / values.Length;
        return f / Limit(values.Length, Freedom, chance);
    }

    /// <summary>
    /// The value that F exceeds with a chance (Abramowitz and Stegun 26.6.2), found by halving: its tail is exact where 1 less the chance
    /// is not.
    /// </summary>
    private double Limit(int numerator, double denominator, double chance)
    {
        denominator = Math.Round(denominator, 1);
        if (_limits.TryGetValue((numerator, denominator, chance), out var known))
        {
            return known;
        }

        var (low, high) = (0.0, Math.Log(1e9));
        for (var step = 0; step < 50; step++)
        {
            var middle = 0.5 * (low + high);
            var tail = SpecialFunctions.BetaRegularized(
                denominator / 2, numerator / 2.0, denominator / (denominator + (numerator * Math.Exp(middle))));
            (low, high) = tail > chance ? (middle, high) : (low, middle);
        }

        return _limits[(numerator, denominator, chance)] = Math.Exp(low);
    }

    private static double Square(double x) => x * x;

    /// <summary>Variances of a face's own terms before they are seen: what is usual, and what the device cannot tell.</summary>
    private double[] Priors(int index)
    {
        var face = _faces[index];
        var priors = new double[face.Own.Count];
        foreach (var kind in Kinds)
        {
            // Over a face the device's error changes by the face's share of the part, and by some of it in any case.
            var share = kind is FaceError.Offset or FaceError.Shift ? 1 : Math.Clamp(face.Own.Reach / _reach, LeastShare, 1);
            var (from, count) = face.Own.Groups[(int)kind];
            Array.Fill(
                priors,
                IsReleased(index, kind) ? Anything
                    : Math.Max(1e-12, Square(_usual[(int)kind]) + Square(share * _device) + Square(face.Bias)),
                from, count);
        }

        return priors;
    }

    /// <summary>What a face says of the shared errors, as things stand.</summary>
    private SeenOn Seen(int index)
    {
        var (face, priors) = (_faces[index], Priors(index));
        var inverse = (double[,])face.ZZ.Clone();
        for (var k = 0; k < priors.Length; k++)
        {
            inverse[k, k] += 1 / priors[k];
        }

        (inverse, var logDeterminant) = InverseAndLogDeterminant(inverse);
        var (xx, xy) = Marginal(face, inverse);
        var columns = Shared.SelectMany(s => s.Columns.Select(c => s.IsOn(face.Face) ? c : null)).ToList();
        var (left, right) = (new double[columns.Count, columns.Count], new double[columns.Count]);
        for (var i = 0; i < columns.Count; i++)
        {
            if (columns[i] is not { } column)
            {
                continue;
            }

            var half = Times(xx, column);
            right[i] = Dot(column, xy);
            for (var j = 0; j < columns.Count; j++)
            {
                left[j, i] = columns[j] is { } other ? Dot(other, half) : 0;
            }
        }

        // Of the deviations of the face without what it shares; the shared terms' part comes when all are solved.
        var score = -0.5 * (priors.Sum(Math.Log) + logDeterminant + face.YY - Dot(face.ZY, Times(inverse, face.ZY)));
        return new(index, inverse, left, right, score);
    }

    private ErrorEstimate Solve()
    {
        var seen = new SeenOn[_faces.Count];
        Parallel.For(0, seen.Length, f => seen[f] = Seen(f));
        _seen = seen;
        return Solve(null);
    }

    /// <param name="instead">Of one face, instead of what it said when all were last asked.</param>
    private ErrorEstimate Solve(SeenOn? instead)
    {
        var n = Shared.Sum(s => s.Columns.Length);
        var (left, right) = (new double[n, n], new double[n]);
        var seen = instead is null ? _seen : [.. _seen.Select(s => s.Index == instead.Index ? instead : s)];
        foreach (var face in seen)
        {
            for (var i = 0; i < n; i++)
            {
                right[i] += face.Right[i];
                for (var j = 0; j < n; j++)
                {
                    left[i, j] += face.Left[i, j];
                }
            }
        }

        for (var k = 0; k < n; k++)
        {
            left[k, k] += 1 / Anything;
        }

        var (covariance, logDeterminant) = InverseAndLogDeterminant(left);
        var values = Times(covariance, right);
        var likelihood = seen.Sum(s => s.Score) + (0.5 * (Dot(values, right) - logDeterminant - (n * Math.Log(Anything))));
        return new(_faces, [.. Shared], values, covariance, [.. seen.Select(s => s.Inverse)], likelihood);
    }

    /// <summary>What the whole part's terms are seen by on a face, its own errors allowed for.</summary>
    private (double[,] XX, double[] XY) Marginal(FaceSystem face, double[,] inverse)
    {
        var (l, g) = (face.Own.Count, _terms);
        var (xx, xy) = ((double[,])face.XX.Clone(), (double[])face.XY.Clone());
        var half = new double[l, g];
        for (var r = 0; r < l; r++)
        {
            for (var c = 0; c < g; c++)
            {
                for (var k = 0; k < l; k++)
                {
                    half[r, c] += inverse[r, k] * face.ZX[k, c];
                }
            }
        }

        for (var k = 0; k < l; k++)
        {
            for (var r = 0; r < g; r++)
            {
                xy[r] -= half[k, r] * face.ZY[k];
                for (var c = 0; c < g; c++)
                {
                    xx[r, c] -= face.ZX[k, r] * half[k, c];
                }
            }
        }

        return (xx, xy);
    }

    /// <summary>
    /// The standard deviation of an own error among the faces: the one for which half of them lie within what a normal distribution says,
    /// their own uncertainties allowed for, so that some that stand out do not count.
    /// </summary>
    /// <param name="alone">The own terms of each face, as its own readings tell them.</param>
    private double UsualOf(FaceError[] errors, double[][] alone)
    {
        var found = new List<(double Square, double Variance)>();
        for (var f = 0; f < _faces.Count; f++)
        {
            var (face, own) = (_faces[f], alone[f]);
            foreach (var error in errors.Where(e => !_released[f][(int)e]))
            {
                var (from, count) = face.Own.Groups[(int)error];
                for (var k = from; k < from + count; k++)
                {
                    found.Add((Square(own[k]), face.Alone[k, k]));
                }
            }
        }

        if (found.Count == 0)
        {
            return 0;
        }

        var (low, high) = (0.0, found.Max(p => p.Square) + 1e-12);
        var ratios = new double[found.Count];
        while (high - low > Math.Max(1e-10, 1e-3 * low))
        {
            var middle = 0.5 * (low + high);
            for (var k = 0; k < ratios.Length; k++)
            {
                ratios[k] = found[k].Square / (found[k].Variance + middle);
            }

            Array.Sort(ratios);
            (low, high) = ratios[ratios.Length / 2] > MedianChi ? (middle, high) : (low, middle);
        }

        // The shared terms were fitted to the same faces.
        return Math.Sqrt(low * (errors.Contains(FaceError.Offset) ? _faces.Count / LeftOver : 1));
    }

    /// <param name="Inverse">Of the face's own equations.</param>
    /// <param name="Score">Its part of the logarithm of the likelihood.</param>
    private sealed record SeenOn(int Index, double[,] Inverse, double[,] Left, double[] Right, double Score);
}
