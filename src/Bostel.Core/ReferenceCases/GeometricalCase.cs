using System.Text.Json;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.ReferenceCases;

/// <summary>A case of form, orientation, location, run-out or profile.</summary>
internal sealed class GeometricalCase(string kind, JsonElement callout, JsonElement features)
{
    private readonly CaseFeature _toleranced = new("toleranced", features.GetProperty("toleranced"));
    private readonly bool _leastSquares = ToleranceCase.Text(callout, "criterion") == "least-squares";
    private DatumSystem? _system;

    /// <exception cref="BadInputException">A kind or a feature that is not known.</exception>
    public CaseOutcome Evaluate()
    {
        _system = SystemOf();
        return kind switch
        {
            "flatness" => Judged(Form()),
            "straightness" => Judged(Form()),
            "roundness" or "circularity" => Judged(Form()),
            "cylindricity" => Judged(Form()),
            "parallelism" or "perpendicularity" or "angularity" => Judged(Oriented(), Bonus(_toleranced, null)),
            "position" => Positioned(),
            "coaxiality" or "concentricity" => Judged(AboutDatumAxis(), Bonus(_toleranced, null)),
            "symmetry" => Judged(AboutDatumPlane()),
            "circular-runout" or "total-runout" => Judged(RunningOut()),
            "surface-profile" or "line-profile" => Judged(Profiled()),
            _ => throw new BadInputException($"characteristic: '{kind}' is not known."),
        };
    }

    private DatumSystem System => _system ?? throw new BadInputException($"datums: {kind} needs one.");

    private DatumSystem? SystemOf()
    {
        var labels = callout.TryGetProperty("datums", out var list)
            ? list.EnumerateArray().Select(d => ToleranceCase.Text(d, "label")!).ToList()
            : [];
        return labels.Count == 0 ? null : DatumSystem.Build([.. labels.Select(l => new Datum(l, [DatumFeature(l)]))]);
    }

    /// <summary>Common datums are one feature through the points of both.</summary>
    private FeatureResult DatumFeature(string label)
    {
        if (features.TryGetProperty(label, out var own))
        {
            return new CaseFeature(label, own).Measured();
        }

        var each = label.Split('-').Select(l => new CaseFeature(l, features.GetProperty(l)).Measured()).ToList();
        double[] points = [.. each.SelectMany(f => f.Points)];
        var fit = LeastSquares.Fit(each[0].Nominal.Kind, points);
        var nominal = ReferenceEquals(each[0].Nominal.Shape, each[0].Shape) ? fit.Shape : each[0].Nominal.Shape;
        return each[0] with
        {
            Shape = fit.Shape,
            Points = points,
            Residuals = fit.Residuals,
            Nominal = each[0].Nominal with { Shape = nominal },
        };
    }

    private CaseOutcome Judged(double value, double bonus = 0)
    {
        var limit = callout.GetProperty("tolerance").GetDouble() + bonus;
        return new() { ["value"] = value, ["bonus"] = bonus, ["limit"] = limit, ["conforms"] = ToleranceCase.AtMost(value, limit) };
    }

    /// <summary>What the size of a feature adds to the tolerance.</summary>
    /// <param name="measured">Its size where the case does not give one; null: of a cylinder through its points.</param>
    private double Bonus(CaseFeature f, FeatureResult? measured)
    {
        var material = Material(f);
        return material?.Bonus(f.Number("actualSize") ?? 2 * (measured ?? f.Measured()).Radius!.Value, f.Internal) ?? 0;
    }

    private MaterialRequirement? Material(CaseFeature f) => ToleranceCase.Text(callout, "modifier") switch
    {
        "MMC" => new(MaterialLimit.Maximum, f.Number("mmcSize") ?? throw new BadInputException("mmcSize: is missing.")),
        "LMC" => new(MaterialLimit.Least, f.Number("lmcSize") ?? throw new BadInputException("lmcSize: is missing.")),
        _ => null,
    };

    private double Form()
    {
        if (_toleranced.IsLine || (kind == "straightness" && _toleranced.Sections is not null))
        {
            double[] line = [.. Line().SelectMany(p => p.ToArray())];
            return _leastSquares ? LeastSquares.Fit("line", line).Form : ExtremalFit.MinimumZoneLine(line).Form;
        }

        if (kind is "roundness" or "circularity" && _toleranced.Sections is { } sections)
        {
            return sections.Max(s => Zone("circle", s, null));
        }

        return Zone(_toleranced.Type, _toleranced.Points, _toleranced.Vector("planeNormal"));
    }

    private double Zone(string type, double[] points, Vector3D? normal)
    {
        var known = new Known { Normal = normal };
        return _leastSquares ? LeastSquares.Fit(type, points, known).Form
            : type == "line" && normal is null ? ExtremalFit.MinimumZoneLine(points).Form
            : ExtremalFit.Fit(type, Criterion.MinimumZone, points, known).Form;
    }

    /// <summary>The median line: its points as given, or the centres of least-squares circles.</summary>
    private Vector3D[] Line() => _toleranced.Sections is { } sections
        ? [.. sections.Select(s => ((Circle3D)LeastSquares.Fit("circle", s).Shape).Center)]
        : [.. _toleranced.Points.Chunk(3).Select(Vector3D.FromArray)];

    private double Oriented()
    {
        var d = System.First;
        if (_toleranced is { IsLine: false, Sections: null })
        {
            var f = InDatums(_toleranced.Measured());
            return Raw(kind switch
            {
                "parallelism" => Orientation.Parallelism(f, System, null, straight: true),
                "perpendicularity" => Orientation.Perpendicularity(f, System, null, straight: true),
                _ => Orientation.Angularity(f, System, null, straight: true),
            });
        }

        Vector3D[] line = [.. Line().Select(System.Transform.Apply)];
        if (ToleranceCase.Text(callout, "zone") == "between-planes" || (kind != "angularity" && (kind == "parallelism") == d.IsPlane))
        {
            // Along a datum plane, or square to a datum axis: only what lies across it counts.
            var heights = line.Select(p => p.Dot(d.Direction)).ToArray();
            return heights.Max() - heights.Min();
        }

        var along = kind == "angularity" ? AtAngle(line, d.Direction) : d.Direction;
        return SmallestCircle.Diameter([.. line.Select(p => p - (p.Dot(along) * along))]);
    }

    private Vector3D AtAngle(Vector3D[] line, Vector3D datum)
    {
        var nominal = _toleranced.Measured().Nominal.Shape is Line3D given ? given.Direction
            : throw new BadInputException("nominal: an angularity of an axis needs its direction.");
        return System.MayTurn ? Orientation.Turned(line, nominal, datum) : nominal;
    }

    /// <summary>Without a nominal of its own a feature has the measured one, in the datums' coordinates.</summary>
    private FeatureResult InDatums(FeatureResult f) => ReferenceEquals(f.Nominal.Shape, f.Shape)
        ? f with { Nominal = f.Nominal with { Shape = AtBasicAngle(f.Shape.Transformed(System.Transform)) } }
        : f;

    /// <summary>A plane without a nominal leans by the callout's basic angle, to the side to which it was measured.</summary>
    private Shape AtBasicAngle(Shape shape)
    {
        if (kind != "angularity" || shape is not Plane3D plane || ToleranceCase.Number(callout, "angle") is not { } angle)
        {
            return shape;
        }

        var d = System.First.Direction;
        var aside = (plane.Normal - (plane.Normal.Dot(d) * d)).Normalized();
        var turned = System.First.IsPlane ? angle : (Math.PI / 2) - angle;
        var up = Math.Sign(plane.Normal.Dot(d)) * Math.Abs(Math.Cos(turned));
        return plane with { Normal = (up * d) + (Math.Abs(Math.Sin(turned)) * aside) };
    }

    private CaseOutcome Positioned()
    {
        CaseFeature[] members = _toleranced.Members.Count > 0 ? [.. _toleranced.Members] : [_toleranced];
        var shift = Shift();
        FeatureResult[] measured = [.. members.Select(m => WithActualSize(m, m.Measured()))];
        var rows = Location.EachPosition(measured, System, straight: true, asAligned: false, shift, Material(members[0]));
        var outcomes = rows.Select(r => Judged(Raw(r), r.Bonus)).ToList();
        var worst = outcomes.MinBy(o => (double)o["limit"]! - (double)o["value"]!)!;
        var outcome = new CaseOutcome();
        foreach (var (key, value) in worst)
        {
            outcome[key] = value;
        }

        if (shift is not null)
        {
            outcome["datumShift"] = shift.Radius;
        }

        if (members.Length > 1)
        {
            outcome["members"] = outcomes;
            outcome["conforms"] = outcomes.TrueForAll(o => (bool)o["conforms"]!);
        }

        return outcome;
    }

    private static FeatureResult WithActualSize(CaseFeature of, FeatureResult f) =>
        of.Number("actualSize") is { } size && f.Shape is Cylinder3D c ? f with { Shape = c with { Radius = size / 2 } } : f;

    private DatumShift? Shift()
    {
        foreach (var d in callout.GetProperty("datums").EnumerateArray().Where(d => ToleranceCase.Text(d, "modifier") == "MMB"))
        {
            var label = ToleranceCase.Text(d, "label")!;
            var of = new CaseFeature(label, features.GetProperty(label));
            return DatumShift.Of(
                new(label, of.Number("mmbSize") ?? throw new BadInputException($"{label}: mmbSize is missing.")),
                new(label, [WithActualSize(of, of.Measured() with { Nominal = DatumFeature(label).Nominal })]));
        }

        return null;
    }

    private double AboutDatumAxis()
    {
        var axis = System.Features[0].NominalAxis ?? throw new BadInputException($"{kind}: the datum has no axis.");
        var line = _toleranced is { IsLine: false, Sections: null } ? Ends(_toleranced.Measured()) : Line();
        return LineZone.Doubled([.. line.Select(System.Transform.Apply).Select(p => p - axis.Project(p))]);
    }

    /// <summary>Where the associated axis leaves the points.</summary>
    private static Vector3D[] Ends(FeatureResult f)
    {
        if (f.Axis is not { } axis)
        {
            return [f.Place];
        }

        var heights = f.Points.Chunk(3).Select(p => (Vector3D.FromArray(p) - axis.Point).Dot(axis.Direction)).ToList();
        return [axis.Point + (heights.Min() * axis.Direction), axis.Point + (heights.Max() * axis.Direction)];
    }

    private double AboutDatumPlane()
    {
        var plane = System.Features[0].Nominal.Shape as Plane3D ?? throw new BadInputException($"{kind}: the datum has no plane.");
        var heights = plane.Distances(System.Transform.ApplyAll([.. Line().SelectMany(p => p.ToArray())]));
        return Extreme.Doubled(heights.Min(), heights.Max());
    }

    private double RunningOut()
    {
        var axis = System.Features[0].NominalAxis ?? throw new BadInputException($"{kind}: the datum has no axis.");
        var axial = ToleranceCase.Text(callout, "zone") == "axial";
        IEnumerable<double[]> sections = _toleranced.Sections ?? [_toleranced.Points];
        double[][] values = [.. sections.Select(s => System.Transform.ApplyAll(s).Chunk(3).Select(Vector3D.FromArray)
            .Select(p => axial ? (p - axis.Point).Dot(axis.Direction) : axis.Distance(p)).ToArray())];
        return RunOut.Widest(kind == "total-runout" ? [[.. values.SelectMany(v => v)]] : values);
    }

    private double Profiled()
    {
        var (nominal, side) = _toleranced.NominalSurface ?? throw new BadInputException("nominal: a profile needs one.");
        var free = callout.TryGetProperty("zoneOffset", out var o) && o.ValueKind == JsonValueKind.String;
        var middle = free ? 0 : ToleranceCase.Number(callout, "zoneOffset") ?? 0;

        // Without datums the nominal feature moves freely: what is sought is begun where it lies best by least squares.
        var start = _system?.Transform ?? DatumSystem.Build([new("itself", [new FeatureResult(
            new("itself", "itself", [0]), new(0, nominal.Kind, 1, false, 0, 0, 0, default) { Shape = nominal },
            LeastSquares.Fit(nominal.Kind, _toleranced.Points).Shape, _toleranced.Points, [])])]).Transform;
        var points = start.ApplyAll(_toleranced.Points).Chunk(3).Select(Vector3D.FromArray).ToList();
        var motions = _system?.FreeMotions ?? FreeZone.Everything(Box3D.Of(points));
        var rows = FreeZone.Best(RigidTransform.Identity, motions, t => [.. points.Select(t.Apply)
            .Select(p => new ZoneRow((side * nominal.Distance(p)) - middle, p, side * nominal.Gradient(p)))], free).Rows;
        return free ? rows.Max(r => r.Distance) - rows.Min(r => r.Distance) : 2 * rows.Max(r => Math.Abs(r.Distance));
    }

    private static double Raw(Evaluated e) => e.Raw ?? e.Value;
}
