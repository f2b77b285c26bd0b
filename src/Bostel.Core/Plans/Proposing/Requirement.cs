using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>
/// One thing that a drawing asks of surfaces that are known: where it stands in the drawing, what it limits, by how much.
/// </summary>
internal sealed record Requirement(DrawingKind Kind, IReadOnlyList<ProposedSurface> Of)
{
    public int? No { get; init; }

    public string? Name { get; init; }

    /// <summary>
    /// What is asked: its nominal in mm or degrees (null: the nominal's own), limits (none: general tolerances), zone, datums.
    /// </summary>
    public required DrawingRequirement Said { get; init; }

    /// <summary>Adds it to a draft as a characteristic, with the features it needs.</summary>
    /// <returns>Why it could not be added; null: it was.</returns>
    public string? AddTo(ProposalDraft draft)
    {
        if (Of.Count == 0)
        {
            return "it refers to no face of the nominal";
        }

        if (draft.MissingDatum(Said.Datums) is { } missing)
        {
            return $"its datum {missing} is not defined";
        }

        return Kind switch
        {
            DrawingKind.Diameter or DrawingKind.Radius or DrawingKind.Distance or DrawingKind.Angle => Dimension(draft),
            DrawingKind.ProfileOfSurface => Profile(draft),
            _ => Geometrical(draft),
        };
    }

    private string? Dimension(ProposalDraft draft)
    {
        DimensionalPlan? row = (Kind, Of) switch
        {
            (DrawingKind.Diameter, [{ Face.Shape: Cylinder3D or Sphere3D } f]) =>
                Sized(draft, new DiameterPlan(0, "") { Features = [draft.IdOf(f)] }, 2 * RadiusOf(f)),
            (DrawingKind.Radius, [{ Face.Shape: Cylinder3D or Sphere3D } f]) =>
                Sized(draft, new RadiusPlan(0, "") { Features = [draft.IdOf(f)] }, RadiusOf(f)),
            (DrawingKind.Angle, [{ Face.Shape: Cone3D cone } f]) =>
                Sized(draft, new ConeAnglePlan(0, "") { Features = [draft.IdOf(f)] }, 2 * cone.HalfAngle * 180 / Math.PI),
            (DrawingKind.Distance or DrawingKind.Angle, [var a, var b]) => BetweenTwo(draft, a, b),
            _ => null,
        };
        if (row is null)
        {
            return $"a {Kind.InWords()} does not suit what it refers to ({string.Join(", ", Of.Select(f => f.Surface.Kind))})";
        }

        draft.Ask(no => row with { No = no, Name = Name ?? $"{draft.NameOf(Of[0])} {Kind.InWords()}" }, No);
        return null;
    }

    /// <summary>Of what can be asked of the two, what is of this kind; a width where it is one.</summary>
    private DimensionalPlan? BetweenTwo(ProposalDraft draft, ProposedSurface a, ProposedSurface b)
    {
        draft.IdOf(a);
        draft.IdOf(b);
        var plan = new InspectionPlan { Features = [.. draft.AllFeatures] };
        var row = Proposals.For(draft.Nominal, plan, [], [draft.IdOf(a), draft.IdOf(b)]).Select(p => p.Characteristic)
            .OfType<DimensionalPlan>().FirstOrDefault(p => Kind == DrawingKind.Angle ? p is AnglePlan : p is DistancePlan);
        return row is null ? null : Sized(draft, row, row.Nominal!.Value);
    }

    private DimensionalPlan Sized(ProposalDraft draft, DimensionalPlan row, double own)
    {
        // Files of other systems may give angles in radians.
        var nominal = Kind == DrawingKind.Angle && Said.Nominal is { } angle && Near(angle * 180 / Math.PI, own) ? angle * 180 / Math.PI
            : Said.Nominal;
        if (nominal is { } said && !Near(said, own))
        {
            draft.Doubts.Add($"{Name ?? draft.NameOf(Of[0])}: the drawing says {said:0.####}, the nominal has {own:0.####}.");
        }

        row = Proposals.Sized(row, nominal ?? own);
        return Said is { Upper: null, Lower: null } ? row with { General = true } : row with { Upper = Said.Upper, Lower = Said.Lower };
    }

    private static bool Near(double said, double own) => Math.Abs(said - own) <= 1e-3 * Math.Max(1, Math.Abs(own));

    private string? Profile(ProposalDraft draft)
    {
        draft.Ask(no => new SurfaceProfilePlan(no, Name ?? $"{draft.NameOf(Of[0])} {Kind.InWords()}")
        {
            Faces = [.. Of.SelectMany(f => f.Surface.Faces).Order()],
            Datums = Letters,
            Tolerance = Said.Tolerance,
        }, No);
        return null;
    }

    private string? Geometrical(ProposalDraft draft)
    {
        string[] of = [.. Of.Select(draft.IdOf)];
        var first = draft.NameOf(Of[0]);
        var name = Name ?? $"{(of.Length == 1 ? first : $"{first} and {of.Length - 1} more")} {Kind.InWords()}";
        GeometricalPlan? row = Kind switch
        {
            DrawingKind.Straightness when Of is [{ Face.Shape: Cylinder3D }] => new StraightnessPlan(0, name) { Features = of },
            DrawingKind.Flatness when Of is [{ Face.Shape: Plane3D }] => new FlatnessPlan(0, name) { Features = of },
            DrawingKind.Roundness when Of is [{ Face.Shape: Cylinder3D or Cone3D or Sphere3D }] =>
                new RoundnessPlan(0, name) { Features = of },
            DrawingKind.Cylindricity when Of is [{ Face.Shape: Cylinder3D }] => new CylindricityPlan(0, name) { Features = of },
            DrawingKind.Parallelism when IsOneToDatums => new ParallelismPlan(0, name) { Features = of, Datums = Letters },
            DrawingKind.Perpendicularity when IsOneToDatums => new PerpendicularityPlan(0, name) { Features = of, Datums = Letters },
            DrawingKind.Angularity when IsOneToDatums => new AngularityPlan(0, name) { Features = of, Datums = Letters },
            DrawingKind.Position when Said.Datums.Length > 0 && Of.All(f => f.Face.Shape is Plane3D or Cylinder3D or Sphere3D) =>
                new PositionPlan(0, name) { Features = of, Datums = Letters },
            DrawingKind.Coaxiality or DrawingKind.Concentricity when IsOneToDatums && Of[0].Face.Shape is Cylinder3D =>
                new CoaxialityPlan(0, name) { Features = of, Datums = Letters },
            DrawingKind.Symmetry when Said.Datums.Length > 0 && Of.Count is 1 or 2 =>
                new SymmetryPlan(0, name) { Features = of, Datums = Letters },
            DrawingKind.CircularRunOut when IsOneToDatums => new CircularRunOutPlan(0, name) { Features = of, Datums = Letters },
            DrawingKind.TotalRunOut when IsOneToDatums => new TotalRunOutPlan(0, name) { Features = of, Datums = Letters },
            _ => null,
        };
        if (row is null)
        {
            return Kind switch
            {
                DrawingKind.ProfileOfLine => "a profile of a line lies in a section: make it there",
                DrawingKind.Other => "its kind is not known here",
                _ => $"{Kind.InWords()} does not suit what it refers to ({string.Join(", ", Of.Select(f => f.Surface.Kind))})"
                    + (Said.Datums.Length == 0 ? ", or needs a datum" : ""),
            };
        }

        if (Unmodified(row, Said) is { } why)
        {
            return why;
        }

        row = Modified(row, Said);
        if (Said.Material is { } limit)
        {
            if (row is not AxisPlan axis || Of.Any(f => f.Face.Shape is not Cylinder3D))
            {
                return $"{(limit == MaterialLimit.Maximum ? "M" : "L")} needs a feature of size";
            }

            row = axis with { Material = new(limit, SizeAt(draft, Of, limit, name)) };
        }

        if (Said.Datums.Where(d => d.Material is not null).ToList() is { Count: > 0 } bounded)
        {
            row = AtBoundary(draft, row, bounded, name);
        }

        draft.Ask(no => row with { No = no, Tolerance = Said.Tolerance }, No);
        return null;
    }

    /// <summary>Why a row cannot have what is said of it; null: it can.</summary>
    public static string? Unmodified(GeometricalPlan row, DrawingRequirement said) =>
        said.TangentPlane && row is not OrientationPlan ? $"T belongs to parallelism, perpendicularity and angularity, not to {row.Kind}"
        : said.OrientationOnly && row is not PositionPlan
            ? $"{DrawingText.DirectionOnly} belongs to a position; {row.Kind} has no place to leave free"
        : said.ProjectedBy is not null && row is not AxisPlan ? $"P needs an axis; {row.Kind} has none"
        : null;

    /// <summary>With the modifiers that only some kinds can have.</summary>
    public static GeometricalPlan Modified(GeometricalPlan row, DrawingRequirement said) => row switch
    {
        OrientationPlan o => o with
        {
            TangentPlane = said.TangentPlane,
            Filter = said.TangentPlane ? null : o.Filter,
            ProjectedBy = said.ProjectedBy,
        },
        PositionPlan p => p with
        {
            OrientationOnly = said.OrientationOnly,
            AsAligned = p.AsAligned && !said.OrientationOnly,
            ProjectedBy = said.ProjectedBy,
        },
        AxisPlan a => a with { ProjectedBy = said.ProjectedBy },
        _ => row,
    };

    /// <summary>With its datum at the maximum material boundary, as far as that is had; what is not is said.</summary>
    public static GeometricalPlan AtBoundary(
        ProposalDraft draft, GeometricalPlan row, IReadOnlyList<DatumReference> bounded, string name)
    {
        foreach (var datum in bounded)
        {
            var feature = draft.AllFeatures.FirstOrDefault(
                f => f.Id == draft.AllDatums.FirstOrDefault(d => d.Label == datum.Label)?.Features[0]);
            if (row is PositionPlan { Boundary: null } position && datum.Material == MaterialLimit.Maximum
                && position.Datums[0] != datum.Label && feature is not null
                && draft.SurfaceOf(feature) is { Face.Shape: Cylinder3D } surface)
            {
                var size = SizeAt(draft, [surface], MaterialLimit.Maximum, $"datum {datum.Label}");
                row = position with { Boundary = new(datum.Label, size) };
                draft.Doubts.Add(FormattableString.Invariant(
                    $"{name}: datum {datum.Label} is taken at its maximum material size of {size:0.####} mm (ISO 2692)."));
            }
            else
            {
                draft.Doubts.Add($"{name}: the boundary of datum {datum.Label} is left out; the datum is taken regardless of its size.");
            }
        }

        return row;
    }

    /// <summary>The limit of size of most or least material, of a diameter that is asked of one of the features or of one alike.</summary>
    public static double SizeAt(ProposalDraft draft, IReadOnlyList<ProposedSurface> of, MaterialLimit limit, string name)
    {
        HashSet<string> ids = [.. of.Select(draft.IdOf)];
        var diameters = draft.AllRows.OfType<DiameterPlan>().ToList();
        var asked = diameters.FirstOrDefault(d => ids.Overlaps(d.Features))
            ?? diameters.FirstOrDefault(d => Near(d.Nominal ?? double.NaN, 2 * of[0].Radius));
        var limits = (asked ?? Proposals.Sized(new DiameterPlan(0, ""), 2 * of[0].Radius)).Limits;
        if (asked is null)
        {
            draft.Doubts.Add($"{name}: no diameter is given; its limit of material is that of the general tolerance.");
        }

        return (of[0].Face.Internal == (limit == MaterialLimit.Maximum) ? limits.Lower : limits.Upper) ?? (2 * of[0].Radius);
    }

    private bool IsOneToDatums => Of.Count == 1 && Said.Datums.Length > 0;

    private string[] Letters => [.. Said.Datums.OrderBy(d => d.Position).Select(d => d.Label)];

    private static double RadiusOf(ProposedSurface f) => f.Face.Shape is Sphere3D sphere ? sphere.Radius : f.Radius;
}
