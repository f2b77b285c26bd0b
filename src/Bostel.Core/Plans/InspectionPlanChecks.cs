using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>What must hold within a plan, and between it and its nominal.</summary>
public sealed partial record InspectionPlan
{
    /// <summary>Checks what the schema cannot: references and limits.</summary>
    /// <exception cref="BadInputException">Names the field at fault.</exception>
    public void Check(string name = "plan")
    {
        if (Schema != Version)
        {
            throw new BadInputException($"{name}: schema is '{Schema}', this version reads '{Version}'.");
        }

        if (!(Compare.Lower < Compare.Upper))
        {
            throw new BadInputException($"{name}: compare.lower must lie below compare.upper.");
        }

        if (Compare.MaxDistance is <= 0 || !(Compare.MaxAngleDegrees is > 0 and <= 180))
        {
            throw new BadInputException(
                $"{name}: compare.maxDistance must be above 0 mm and compare.maxAngleDegrees above 0 and at most 180 degrees.");
        }

        if (Compare.Labels.Count > ComparePlan.MostLabels || Figures.Count > MostFigures)
        {
            throw new BadInputException($"{name}: at most {ComparePlan.MostLabels} labels and {MostFigures} figures.");
        }

        foreach (var label in Compare.Labels)
        {
            label.Check($"{name}: compare.labels");
        }

        if (Compare.LabelsSay.Count == 0 || Compare.LabelsSay.Distinct().Count() < Compare.LabelsSay.Count)
        {
            throw new BadInputException($"{name}: compare.labelsSay: labels say something, and each thing once.");
        }

        if (Compare.Sections.Count > SectionPlan.Most)
        {
            throw new BadInputException($"{name}: at most {SectionPlan.Most} sections.");
        }

        foreach (var section in Compare.Sections)
        {
            section.Check($"{name}: compare.sections");
        }

        Unique(name, "compare.sections", Compare.Sections.Select(s => s.Name));
        if (Compare.Maps.Count > MapPlan.Most)
        {
            throw new BadInputException($"{name}: at most {MapPlan.Most} maps.");
        }

        foreach (var map in Compare.Maps)
        {
            map.Check($"{name}: compare.maps");
        }

        Unique(name, "compare.maps", Compare.Maps.Select(m => m.Name));
        Compare.Ramp.Check($"{name}: compare.ramp");
        for (var i = 0; i < Figures.Count; i++)
        {
            Figures[i].Check($"{name}: figure {i + 1}");
            if (Figures[i].Map is { } shown && Compare.Maps.All(m => m.Name != shown))
            {
                throw new BadInputException($"{name}: figure {i + 1} shows map '{shown}', which the plan does not have.");
            }
        }

        Report?.Check($"{name}: report");
        CheckGeneral(name);
        CheckLengths(name);
        if (Decision.Fault is { } fault)
        {
            throw new BadInputException($"{name}: decision.{fault}");
        }

        if (!Device.IsPossible || !Temperature.IsPossible)
        {
            throw new BadInputException(
                $"{name}: device and temperature: errors, uncertainties and the expansion must be 0 or more, the deviation below 1000 K.");
        }

        for (var i = 0; i < Prepare.Steps.Count; i++)
        {
            Prepare.Steps[i].Check($"{name}: prepare step {i + 1}");
        }

        var labels = Datums.Select(d => d.Label).ToHashSet();
        if (Align.Faults(labels).FirstOrDefault() is { } wrong)
        {
            throw new BadInputException($"{name}: align.{wrong}");
        }

        Unique(name, "alignments", Alignments.Select(a => a.Name));
        if (PlanAlignments.Faults(this, labels).FirstOrDefault() is { } misnamed)
        {
            throw new BadInputException($"{name}: {misnamed}");
        }

        if (Features.FirstOrDefault(f => f.EdgeLoss is { } loss && (f.EdgeOf is null || !(loss >= 0 && double.IsFinite(loss))))
            is { } lossy)
        {
            throw new BadInputException($"{name}: feature '{lossy.Name}': edgeLoss must be 0 mm or more, of a feature with edgeOf.");
        }

        if (Features.FirstOrDefault(f => f.Targets is { } targets
            && (f.EdgeOf is not null || targets.Count > MostTargets || !targets.All(t => t.IsPossible))) is { } aimed)
        {
            throw new BadInputException($"{name}: feature '{aimed.Name}': a surface has at most {MostTargets} targets, each with three "
                + "coordinates and a radius above 0 mm.");
        }

        if (Features.FirstOrDefault(f => f.Region is { } region
            && (f.EdgeOf is not null || f.Targets is not null || f.Faces.Length > 0 || !region.IsPossible)) is { } grown)
        {
            throw new BadInputException($"{name}: feature '{grown.Name}': a region of the scan has a place, an area, and the numbers of a "
                + "plane, cylinder, cone, sphere or torus, and no faces, targets or edge beside them.");
        }

        Unique(name, "features", FeatureIds);
        Unique(name, "datums", Datums.Select(d => d.Label));
        Unique(name, "characteristics", Characteristics.Select(c => c.No.ToString(System.Globalization.CultureInfo.InvariantCulture)));
        var known = Features.Select(f => f.Id).ToHashSet();
        foreach (var c in Constructions)
        {
            if (c.Faults().FirstOrDefault() is { } lacks)
            {
                throw new BadInputException($"{name}: construction '{c.Name}': {lacks}");
            }

            Refer(name, $"construction '{c.Name}'", c.From, known);
            known.Add(c.Id);
        }

        Refer(name, "align", Align.NamedFeatures, known);
        foreach (var map in Compare.Maps)
        {
            Refer(name, $"map '{map.Name}'", map.NamedFeatures, known);
        }

        foreach (var a in Alignments)
        {
            Refer(name, $"alignment '{a.Name}'", a.Align.NamedFeatures, known);
        }

        foreach (var d in Datums)
        {
            Refer(name, $"datum {d.Label}", d.Features, known);
        }

        foreach (var c in Characteristics)
        {
            CheckOne(name, c);
            Refer(name, $"characteristic {c.No}", c.Refers.Features, known);
            if (c.Refers.Letters.FirstOrDefault(l => !labels.Contains(l)) is { } missing)
            {
                throw new BadInputException($"{name}: characteristic {c.No} names datum {missing}, which the plan does not have.");
            }

            if (c.Refers.Section is { } section && Compare.Sections.All(s => s.Name != section))
            {
                throw new BadInputException($"{name}: characteristic {c.No} lies in section '{section}', which the plan does not have.");
            }
        }
    }

    /// <summary>Checks that the nominal has every face the plan names, determines every construction and is met by every
    /// section.</summary>
    /// <exception cref="BadInputException">Names who names which face, or the construction.</exception>
    public void CheckFaces(NominalModel nominal, string name = "plan")
    {
        IEnumerable<(string Who, int Face)> named =
        [
            .. Features.SelectMany(f => f.EdgeOf is { } side ? [.. f.Faces, side] : f.Faces, (f, face) => ($"feature '{f.Name}'", face)),
            .. Characteristics.SelectMany(c => c.Refers.Faces, (c, face) => ($"characteristic {c.No}", face)),
            .. Align.NamedFaces.Select(face => ("align", face)),
            .. Alignments.SelectMany(a => a.Align.NamedFaces, (a, face) => ($"alignment '{a.Name}'", face)),
            .. Compare.Maps.SelectMany(m => m.Faces, (m, face) => ($"map '{m.Name}'", face)),
        ];
        foreach (var (who, face) in named)
        {
            if (face < 0 || face >= nominal.Faces.Count)
            {
                throw new BadInputException(
                    $"{name}: {who} names face {face}; this nominal has faces 0 to {nominal.Faces.Count - 1}. Is it another part's plan?");
            }
        }

        foreach (var section in Compare.Sections)
        {
            var plane = section.Plane();
            var heights = Enumerable.Range(0, nominal.Mesh.VertexCount).Select(v => plane.Distance(nominal.Mesh.Vertex(v)));
            if (!heights.Any(h => h < 0) || !heights.Any(h => h >= 0))
            {
                throw new BadInputException($"{name}: section '{section.Name}' does not cut the nominal.");
            }
        }

        foreach (var (feature, target) in Features.SelectMany(f => f.Targets ?? [], (f, t) => (f, t)))
        {
            if (target.Off(feature.Faces, nominal) is var off && off > target.Radius)
            {
                throw new BadInputException(FormattableString.Invariant(
                    $"{name}: feature '{feature.Name}': a target lies {off:0.##} mm off its faces, farther than its radius."));
            }
        }

        var nominals = new PlanNominals(this, nominal);
        foreach (var c in Constructions)
        {
            nominals.Of(c);
        }
    }

    private void CheckGeneral(string name)
    {
        if (General?.Fault is { } wrong)
        {
            throw new BadInputException($"{name}: general: {wrong}");
        }

        if (General is null && Characteristics.FirstOrDefault(c => c.General) is { } loose)
        {
            throw new BadInputException(
                $"{name}: characteristic {loose.No} takes its limits from the general tolerances; the plan states none.");
        }
    }

    /// <summary>Names are for people: long ones would break every table they stand in.</summary>
    private void CheckLengths(string name)
    {
        var texts = new[] { Part, Revision }.Concat(Features.SelectMany(f => new[] { f.Id, f.Name }))
            .Concat(Constructions.SelectMany(c => new[] { c.Id, c.Name })).Concat(Datums.Select(d => d.Label))
            .Concat(Characteristics.Select(c => c.Name));
        if (texts.FirstOrDefault(t => t.Length > MostName) is { } longest)
        {
            throw new BadInputException($"{name}: '{longest[..20]}…' is longer than {MostName} characters.");
        }
    }

    private static void CheckOne(string name, CharacteristicPlan c)
    {
        if (c.Faults().FirstOrDefault() is { } fault)
        {
            throw new BadInputException($"{name}: characteristic {c.No}: {fault}");
        }
    }

    private static void Unique(string name, string field, IEnumerable<string> ids)
    {
        if (ids.GroupBy(i => i).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            throw new BadInputException($"{name}: {field}: '{twice.Key}' appears twice.");
        }
    }

    private static void Refer(string name, string who, IEnumerable<string> ids, HashSet<string> known)
    {
        if (ids.FirstOrDefault(i => !known.Contains(i)) is { } missing)
        {
            throw new BadInputException($"{name}: {who} names feature '{missing}', which the plan does not have.");
        }
    }
}
