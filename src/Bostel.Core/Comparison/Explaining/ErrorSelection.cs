namespace Bostel.Core.Comparison;

/// <summary>
/// Finds the errors that explain a part: stepwise, the one that makes the model most likely each time, of those that stand out of chance,
/// all estimated anew together, until none does (forward selection with backward elimination: Miller, Subset Selection in Regression, 2002,
/// 3.5). Errors of faces are tried on a level that holds for all faces together (Bonferroni).
/// </summary>
internal static class ErrorSelection
{
    /// <summary>Chance that anything is stated of a part without errors: half of it for the whole part, half for its faces.</summary>
    private const double Chance = 0.01;

    /// <summary>More errors than this are no explanation.</summary>
    private const int Most = 80;

    public static (ErrorModel Model, ErrorEstimate Estimate) Run(
        IReadOnlyList<FaceSystem> faces, WholePartTerms whole, double device)
    {
        var model = new ErrorModel(faces, whole, device);
        model.Shared.Add(SharedError.OfWhole(whole.Group(WholePartError.Pose), whole.Count));
        var estimate = model.Fit();
        var candidates = whole.Groups.Where(g => g.Kind != WholePartError.Pose).ToList();
        var (onWhole, onFaces) = (Chance / 2 / candidates.Count, Chance / 2 / (Enum.GetValues<FaceError>().Length * faces.Count));
        var dropped = new HashSet<object>();
        for (var step = 0; step < Most; step++)
        {
            var best = (Likelihood: double.NegativeInfinity, Take: (Func<ErrorModel>?)null);
            void Try(double share, double likelihood, Func<ErrorModel> take) =>
                best = share > 1 && likelihood > best.Likelihood ? (likelihood, take) : best;
            foreach (var group in candidates.Where(g => !dropped.Contains(g) && model.Shared.All(s => s.Of != g)))
            {
                // What is usual among the faces is less once the error is named: so it is judged.
                var with = model.With([.. model.Shared, SharedError.OfWhole(group, whole.Count)]);
                var then = with.Fit();
                Try(ShareOf(with, then, with.Shared[^1], onWhole), then.Likelihood, () => with);
            }

            var asked = model;
            var own = new List<(FaceError Error, double Share, double Likelihood)>[faces.Count];
            Parallel.For(0, own.Length, f => own[f] = [.. Enum.GetValues<FaceError>()
                .Where(e => !asked.IsReleased(f, e) && !dropped.Contains((f, e)))
                .Select(e => asked.StandsOut(f, e, onFaces) is var (share, likelihood) ? (e, share, likelihood) : default)]);
            foreach (var (face, found) in own.Index())
            {
                found.ForEach(e => Try(e.Share, e.Likelihood, () => Released(asked, face, e.Error)));
            }

            if (best.Take is null && Moved(model, estimate) is { } moved)
            {
                best = (0, () => moved);
            }

            if (best.Take is null)
            {
                break;
            }

            // What is explained is no noise any more.
            model = best.Take();
            estimate = model.Weighed(model.Fit());
            while (Drop(model, estimate, onWhole, onFaces, dropped))
            {
                estimate = model.Weighed(model.Fit());
            }
        }

        return Equal(model, whole) is { } equal ? (equal, equal.Fit()) : (model, estimate);
    }

    /// <summary>How far a shared error stands out of its uncertainty.</summary>
    public static double ShareOf(ErrorModel model, ErrorEstimate estimate, SharedError error, double chance)
    {
        var from = estimate.From(error);
        return model.Share(
            [.. estimate.Values.Skip(from).Take(error.Columns.Length)],
            SmallSystems.Block(estimate.Covariance, from, error.Columns.Length), chance);
    }

    private static ErrorModel Released(ErrorModel model, int face, FaceError error)
    {
        var with = model.With(model.Shared);
        with.Release(face, error);
        return with;
    }

    /// <summary>Takes back what stands out least, if it no longer does beside what came later; it is not tried again.</summary>
    private static bool Drop(
        ErrorModel model, ErrorEstimate estimate, double onWhole, double onFaces, HashSet<object> dropped)
    {
        var least = (Share: 1.0, Drop: (Action?)null);
        void Try(double share, Action drop) => least = share < least.Share ? (share, drop) : least;
        foreach (var error in model.Shared.Where(s => s.Of is not { Kind: WholePartError.Pose }))
        {
            Try(ShareOf(model, estimate, error, onWhole), () =>
            {
                model.Shared.Remove(error);
                dropped.Add(error.Of ?? (object)error);
            });
        }

        for (var f = 0; f < model.Faces.Count; f++)
        {
            foreach (var error in Enum.GetValues<FaceError>().Where(e => model.IsReleased(f, e)))
            {
                var (face, kind) = (f, error);
                Try(model.StandsOut(f, error, onFaces).Share, () =>
                {
                    model.Release(face, kind, released: false);
                    dropped.Add((face, kind));
                });
            }
        }

        least.Drop?.Invoke();
        return least.Drop is not null;
    }

    /// <summary>Faces whose own errors are one motion that they share; null: there are none, or none more.</summary>
    private static ErrorModel? Moved(ErrorModel model, ErrorEstimate estimate)
    {
        if (CommonMotion.Find(model, estimate) is not { } moved)
        {
            return null;
        }

        var with = model.With([.. model.Shared, moved.Error]);
        foreach (var (face, error) in moved.Instead)
        {
            with.Release(face, error, released: false);
        }

        return with;
    }

    /// <summary>Where the three strains are one within their uncertainty, one is stated.</summary>
    private static ErrorModel? Equal(ErrorModel model, WholePartTerms whole)
    {
        const double Differs = 0.05;
        if (model.Shared.FirstOrDefault(s => s.Of?.Kind == WholePartError.Size) is not { } size)
        {
            return null;
        }

        var estimate = model.Fit();
        var from = estimate.From(size);
        var (x, c) = (estimate.Values, estimate.Covariance);
        double[] differences = [x[from] - x[from + 1], x[from + 1] - x[from + 2]];
        double Of(int a, int b) => c[from + a, from + b];
        var covariance = new[,]
        {
            { Of(0, 0) - (2 * Of(0, 1)) + Of(1, 1), Of(0, 1) - Of(0, 2) - Of(1, 1) + Of(1, 2) },
            { Of(0, 1) - Of(0, 2) - Of(1, 1) + Of(1, 2), Of(1, 1) - (2 * Of(1, 2)) + Of(2, 2) },
        };
        if (model.Share(differences, covariance, Differs) > 1)
        {
            return null;
        }

        var column = new double[whole.Count];
        (column[size.Of!.From], column[size.Of.From + 1], column[size.Of.From + 2]) = (1, 1, 1);
        return model.With(model.Shared.Select(s => s == size ? s with { Columns = [column] } : s));
    }
}
