using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>
/// What the product information of a CAD file proposes (ISO 10303-242): its datums, dimensions and tolerances on their faces. What cannot
/// be taken over is said; nothing is left out in silence.
/// </summary>
internal static class InformationProposals
{
    public static void Add(ProposalDraft draft)
    {
        var information = draft.Nominal.Information;
        if (information.IsEmpty)
        {
            draft.Doubts.Add("The nominal carries no product information: a STEP file of AP242 may.");
            return;
        }

        foreach (var datum in information.Datums.GroupBy(d => d.Label).OrderBy(g => g.Key, StringComparer.Ordinal))
        {
            Datum(draft, datum.Key, [.. datum]);
        }

        // Features that one tolerance holds together are numbered together.
        foreach (var pattern in information.Tolerances.Select(t => Surfaces(draft, t.Faces)).Where(p => p.Count > 1))
        {
            foreach (var (i, f) in pattern.Index())
            {
                draft.FeatureOf(f, i + 1);
            }
        }

        foreach (var (i, d) in information.Dimensions.Index())
        {
            Dimension(draft, d, i + 1);
        }

        foreach (var (i, t) in information.Tolerances.Index())
        {
            Tolerance(draft, t, i + 1);
        }
    }

    private static void Datum(ProposalDraft draft, string label, IReadOnlyList<InformationDatum> said)
    {
        var faces = said.SelectMany(d => d.Faces).Distinct().Where(f => f < draft.Nominal.Faces.Count).ToList();
        if (draft.AllDatums.Any(d => d.Label == label))
        {
            return;
        }

        if (faces.Count == 0)
        {
            draft.Doubts.Add($"Datum {label} is left out: it refers to no face of the nominal.");
            return;
        }

        if (said.Any(d => d.Target))
        {
            draft.Doubts.Add($"Datum {label} is given by targets: the whole of its surface is taken.");
        }

        draft.Define(new DatumPlan(label, [.. draft.SurfacesOf(faces).Select(draft.IdOf)]));
    }

    private static void Dimension(ProposalDraft draft, InformationDimension d, int number)
    {
        var what = Invariant($"Dimension {number} of the file ({d.Kind.InWords()} {d.Value:0.####})");
        var (upper, lower) = (d.Upper, d.Lower);
        if (d.Fit is { } fit)
        {
            if (ToleranceClass.Limits(d.Value, fit) is not { } limits)
            {
                draft.Doubts.Add($"{what}: the class {fit} is not known here; general tolerances are taken.");
            }
            else
            {
                (lower, upper) = limits;
            }
        }
        else if (upper is null && lower is null)
        {
            draft.Doubts.Add($"{what} has no limits: general tolerances are taken.");
        }

        Take(draft, what, new(d.Kind, Surfaces(draft, [.. d.Faces, .. d.Others]))
        {
            Said = new(d.Value, upper, lower, null, false, null, []),
        });
    }

    /// <summary>As the translator names it.</summary>
    private const string TangentPlane = "tangent plane";

    private static void Tolerance(ProposalDraft draft, InformationTolerance t, int number)
    {
        var what = Invariant($"Tolerance {number} of the file ({t.Kind.InWords()} {t.Value:0.####})");
        foreach (var modifier in t.Modifiers.Where(m => m != TangentPlane))
        {
            draft.Doubts.Add($"{what}: '{modifier}' is left out.");
        }

        var of = Surfaces(draft, t.Faces);
        var hasAxes = of.Count > 0 && of.All(f => f.Face.Shape is Cylinder3D);
        if (hasAxes && !t.Diametral && t.Kind is DrawingKind.Position or DrawingKind.Parallelism or DrawingKind.Perpendicularity
            or DrawingKind.Angularity)
        {
            draft.Doubts.Add($"{what} has no ⌀: a cylindrical zone is taken for its axis, where the file means one between planes.");
        }

        Take(draft, what, new(t.Kind, of)
        {
            Said = new(null, null, null, t.Value, t.Diametral, t.Material, [.. t.Datums.GroupBy(d => d.Position).Select(Together)])
            {
                TangentPlane = t.Modifiers.Contains(TangentPlane),
            },
        });
    }

    /// <summary>Datums of one place make one in common.</summary>
    private static DatumReference Together(IGrouping<int, DatumReference> place) =>
        new(DatumLetters.Common(place.Select(d => d.Label).Order(StringComparer.Ordinal)),
            place.Select(d => d.Material).FirstOrDefault(m => m is not null), place.Key);

    private static IReadOnlyList<ProposedSurface> Surfaces(ProposalDraft draft, IEnumerable<int> faces) =>
        draft.SurfacesOf([.. faces.Where(f => f < draft.Nominal.Faces.Count)]);

    private static void Take(ProposalDraft draft, string what, Requirement requirement)
    {
        if (requirement.AddTo(draft) is { } why)
        {
            draft.Doubts.Add($"{what} is left out: {why}.");
        }
    }
}
