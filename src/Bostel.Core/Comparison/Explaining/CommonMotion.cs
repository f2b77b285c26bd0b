using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>
/// Faces whose own errors are one shift that they share, as of a core that stood beside its place. Each face that stands out says how far
/// it moved in some directions: a plane along its normal, a bore across its axis. A shift is sought that as many as possible agree with,
/// from every two of them (random sample consensus: Fischler and Bolles 1981; here all samples).
/// </summary>
internal static class CommonMotion
{
    /// <summary>Agreement within so many standard deviations, and within this share of what is to be explained.</summary>
    private const double Deviations = 3, Share = 0.2;

    /// <summary>A direction counts as seen when it has this share of the weight of the best.</summary>
    private const double Seen = 0.02;

    /// <param name="Along">Unit direction.</param>
    /// <param name="By">How far, mm.</param>
    /// <param name="Variance">mm².</param>
    private sealed record Moved(int Face, FaceError Error, Vector3D Along, double By, double Variance);

    /// <returns>The shared error, and the own errors of faces that it stands for.</returns>
    public static (SharedError Error, IReadOnlyList<(int Face, FaceError Error)> Instead)? Find(
        ErrorModel model, ErrorEstimate estimate)
    {
        var all = Enumerable.Range(0, model.Faces.Count).SelectMany(f => MovesOf(model, estimate, f)).ToList();
        all.RemoveAll(m => m.By * m.By < Deviations * Deviations * m.Variance);
        var known = model.Shared.Where(s => s.Of is null).Select(s => s.Faces!).ToList();
        all.RemoveAll(m => known.Any(k => k.Contains(model.Faces[m.Face].Face)));
        var faces = all.Select(m => m.Face).Distinct().ToList();
        (int Score, double Error, List<Moved> Agreeing) best = (0, 0, []);
        for (var i = 0; i < faces.Count; i++)
        {
            for (var j = i + 1; j < faces.Count; j++)
            {
                var shift = Shift([.. all.Where(m => m.Face == faces[i] || m.Face == faces[j])]).Value;
                var agreeing = faces.Where(f => all.Where(m => m.Face == f).All(m => Agrees(m, shift))).ToHashSet();
                var moves = all.Where(m => agreeing.Contains(m.Face)).ToList();
                if (agreeing.Count < 2)
                {
                    continue;
                }

                var (value, rank) = Shift(moves);
                var (score, error) = (moves.Count - rank, moves.Sum(m => Math.Pow(m.By - value.Dot(m.Along), 2) / m.Variance));
                if (score > best.Score || (score == best.Score && score > 0 && error < best.Error))
                {
                    best = (score, error, moves);
                }
            }
        }

        if (best.Score == 0)
        {
            return null;
        }

        var terms = model.Shared[0].Columns[0].Length;
        var columns = Directions(best.Agreeing).Select(d =>
        {
            var column = new double[terms];
            (column[0], column[1], column[2]) = (d.X, d.Y, d.Z);
            return column;
        });
        return (new([.. columns], [.. best.Agreeing.Select(m => model.Faces[m.Face].Face)], null),
            [.. best.Agreeing.Select(m => (m.Face, m.Error)).Distinct()]);
    }

    private static bool Agrees(Moved m, Vector3D shift)
    {
        var off = Math.Abs(m.By - shift.Dot(m.Along));
        return off * off < Deviations * Deviations * m.Variance && off < Math.Max(Share * shift.Length, 0.5 * Math.Sqrt(m.Variance));
    }

    /// <summary>The least shift that moves suggest, weighted, and of how many directions.</summary>
    private static (Vector3D Value, int Rank) Shift(List<Moved> moves)
    {
        var directions = Directions(moves);
        var n = directions.Count;
        var (left, right) = (new double[n, n], new double[n]);
        foreach (var m in moves)
        {
            for (var r = 0; r < n; r++)
            {
                right[r] += m.Along.Dot(directions[r]) * m.By / m.Variance;
                for (var c = 0; c < n; c++)
                {
                    left[r, c] += m.Along.Dot(directions[r]) * m.Along.Dot(directions[c]) / m.Variance;
                }
            }
        }

        var x = new double[n];
        return LinearSolve.Cholesky(left, right, x)
            ? (directions.Zip(x, (d, v) => v * d).Aggregate(Vector3D.Zero, (a, b) => a + b), n)
            : (Vector3D.Zero, n);
    }

    /// <summary>Orthogonal directions in which faces tell a motion.</summary>
    private static List<Vector3D> Directions(List<Moved> moves)
    {
        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        foreach (var a in moves.Select(m => m.Along))
        {
            (xx, xy, xz) = (xx + (a.X * a.X), xy + (a.X * a.Y), xz + (a.X * a.Z));
            (yy, yz, zz) = (yy + (a.Y * a.Y), yz + (a.Y * a.Z), zz + (a.Z * a.Z));
        }

        var (values, vectors) = SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz);
        return [.. Enumerable.Range(0, 3).Reverse().Where(k => values[k] > Seen * values[2]).Select(k => vectors[k])];
    }

    private static IEnumerable<Moved> MovesOf(ErrorModel model, ErrorEstimate estimate, int index)
    {
        var own = model.Faces[index].Own;
        var (values, covariance) = estimate.OfFace(index);
        var also = model.UsualVariance;
        if (own.IsPlane && model.IsReleased(index, FaceError.Offset))
        {
            var from = own.Groups[(int)FaceError.Offset].From;
            yield return new(index, FaceError.Offset, own.Normal, values[from], covariance[from, from] + also);
        }
        else if (!own.IsPlane && model.IsReleased(index, FaceError.Shift))
        {
            var shift = own.Physical(values, FaceError.Shift);
            var c = own.Physical(covariance, FaceError.Shift);
            var (x, y, z) = (FaceTerms.ShiftAt, FaceTerms.ShiftAt + 1, FaceTerms.ShiftAt + 2);
            var (seen, vectors) = SymmetricEigen.Solve3(c[x, x], c[x, y], c[x, z], c[y, y], c[y, z], c[z, z]);
            var by = new Vector3D(shift[x], shift[y], shift[z]);

            // Directions that the face does not tell have no part in its terms: there its covariance is none.
            for (var k = 0; k < 3; k++)
            {
                if (seen[k] > 1e-6 * seen[2])
                {
                    yield return new(index, FaceError.Shift, vectors[k], by.Dot(vectors[k]), seen[k] + also);
                }
            }
        }
    }
}
