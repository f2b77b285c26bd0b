using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>What a characteristic asks, as its drawing would write it.</summary>
public sealed record DrawnText(int No, string Text);

/// <summary>Characteristics written as on a drawing, and changed by writing.</summary>
public static class AsDrawn
{
    /// <summary>All rows of a plan: dimensions as "52 +0.03/0", tolerances as "⌀0.2 M|A|B M|C".</summary>
    public static IReadOnlyList<DrawnText> Of(NominalModel nominal, InspectionPlan plan)
    {
        var draft = new ProposalDraft(nominal, plan);
        return [.. plan.Characteristics.Select(c => Of(draft, c))];
    }

    /// <summary>A row with the limits, zone, datums and material that a text says.</summary>
    /// <exception cref="BadInputException">The text has an error in it, or says what the row cannot have.</exception>
    public static CharacteristicPlan Changed(NominalModel nominal, InspectionPlan plan, CharacteristicPlan row, string text) => row switch
    {
        DimensionalPlan dimension => Dimension(dimension, text, dimension.IsLength ? plan.Shown : ShownUnit.Millimetre),
        GeometricalPlan tolerance => Tolerance(new(nominal, plan), tolerance, DrawingText.Tolerance(text).InMm(plan.Shown)),
        _ => throw new InvalidOperationException("Each kind is a dimension or a geometrical tolerance."),
    };

    private static DimensionalPlan Dimension(DimensionalPlan row, string text, ShownUnit unit)
    {
        var said = DrawingText.Dimension(text, row.Nominal / unit.Millimetres()).InMm(unit);
        var limits = said.Upper is not null || said.Lower is not null;
        return row with
        {
            Nominal = said.Nominal ?? row.Nominal,
            Upper = limits ? said.Upper : row.Upper,
            Lower = limits ? said.Lower : row.Lower,
            General = row.General && !limits,
        };
    }

    private static GeometricalPlan Tolerance(ProposalDraft draft, GeometricalPlan row, DrawingRequirement said)
    {
        if (draft.MissingDatum(said.Datums) is { } missing)
        {
            throw new BadInputException($"The plan has no datum {missing}.");
        }

        string[] letters = [.. said.Datums.Select(d => d.Label)];
        GeometricalPlan changed = row switch
        {
            PositionPlan p => p with { Datums = letters, Boundary = null },
            AxisPlan p => p with { Datums = letters },
            DatumedPlan p => p with { Datums = letters },
            SurfaceProfilePlan p => p with { Datums = letters },
            LineProfilePlan p => p with { Datums = letters },
            _ when letters.Length > 0 => throw new BadInputException($"{row.Kind} has no datums."),
            _ => row,
        };
        if (Requirement.Unmodified(changed, said) is { } why)
        {
            throw new BadInputException($"{why}.");
        }

        changed = Requirement.Modified(changed, said) with
        {
            Tolerance = said.Tolerance,
            General = row.General && said.Tolerance == row.Tolerance,
        };
        if (changed is not AxisPlan axis)
        {
            return said.Material is null && said.Datums.All(d => d.Material is null) ? changed
                : throw new BadInputException($"M and L need a feature of size; {row.Kind} has none.");
        }

        var surfaces = axis.Features.Select(id => draft.AllFeatures.FirstOrDefault(f => f.Id == id)).OfType<Features.FeaturePlan>()
            .Select(draft.SurfaceOf).OfType<ProposedSurface>().ToList();
        var material = said.Material is { } limit
            ? surfaces.Count > 0 && surfaces.All(s => s.Face.Shape is Cylinder3D)
                ? new MaterialRequirement(limit, Requirement.SizeAt(draft, surfaces, limit, axis.Name))
                : throw new BadInputException($"M and L need a feature of size; {axis.Name} refers to none.")
            : null;
        return Requirement.AtBoundary(
            draft, axis with { Material = material }, [.. said.Datums.Where(d => d.Material is not null)], axis.Name);
    }

    internal static DrawnText Of(ProposalDraft draft, CharacteristicPlan row) => new(row.No, Text(draft, row));

    private static string Text(ProposalDraft draft, CharacteristicPlan row)
    {
        string Number(double mm) => Invariant($"{mm / (row.Unit == "mm" ? draft.Shown.Millimetres() : 1):0.######}");
        string Signed(double? deviation) => deviation switch
        {
            null => "none",
            0 => "0",
            { } value => value > 0 ? "+" + Number(value) : "−" + Number(-value),
        };
        if (row is DimensionalPlan d)
        {
            var limits = (d.Lower, d.Upper) switch
            {
                (null, null) => "",
                var (lower, upper) when lower == -upper => $" ±{Number(upper!.Value)}",
                var (lower, upper) => $" {Signed(upper)}/{Signed(lower)}",
            };
            return (d is DiameterPlan ? "⌀" : d is RadiusPlan ? "R" : "") + (d.Nominal is { } n ? Number(n) : "?")
                + (d.Unit == "°" ? "°" : "") + limits;
        }

        var tolerance = (GeometricalPlan)row;
        var axis = tolerance as AxisPlan;
        var isRound = axis is not null && tolerance is PositionPlan or CoaxialityPlan or OrientationPlan && axis.Features.Length > 0
            && draft.AllFeatures.FirstOrDefault(f => f.Id == axis.Features[0]) is { } feature
            && feature is { EdgeOf: null, Region: null } && draft.Nominal.Face(feature.Faces[0]).Shape is Cylinder3D;
        var cells = tolerance.Refers.Datums.Select(label =>
            label + (tolerance is PositionPlan { Boundary: { } b } && b.Datum == label ? " M" : "")
            + (tolerance is PositionPlan { OrientationOnly: true } ? " " + DrawingText.DirectionOnly : ""));
        return string.Join('|', cells.Prepend(
            (isRound ? "⌀" : "") + (tolerance.Tolerance is { } t ? Number(t) : "?")
            + (axis?.Material is { } m ? m.Limit == MaterialLimit.Maximum ? " M" : " L" : "")
            + (axis?.ProjectedBy is { } by ? $" P{Number(by)}" : "")
            + (tolerance is OrientationPlan { TangentPlane: true } ? " T" : "")));
    }
}
