using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Tolerancing;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>One thing that a plan says.</summary>
/// <param name="Section">The part of the plan it stands in, as the stations are called.</param>
/// <param name="Key">What it is about; the same in two revisions of a plan for the same thing.</param>
/// <param name="Words">What is said of it.</param>
public sealed record PlanLine(string Section, string Key, string Words);

/// <summary>A plan in words, one line for each thing it says: for people who read it, and for telling two revisions apart.</summary>
public static class PlanWords
{
    /// <summary>Lists longer than this are counted, not written out.</summary>
    private const int MostListed = 6;

    /// <summary>Everything the plan says, in the order of the work.</summary>
    public static IReadOnlyList<PlanLine> Of(InspectionPlan plan) =>
    [
        new("Part", "part", $"{plan.Part} {plan.Revision}".Trim()),
        .. plan.Prepare.Steps.Select((s, i) => new PlanLine("Prepare", $"step {i + 1}", WithFields(Spaced(s.Kind), ToNode(s), "kind"))),
        new("Align", "method", Align(plan.Align)),
        .. plan.Alignments.Select(a => new PlanLine("Align", $"alignment {a.Name}", Align(a.Align))),
        .. plan.Features.Select(f => new PlanLine("Features", $"feature {f.Id}", Feature(f))),
        .. plan.Constructions.Select(c => new PlanLine("Features", $"feature {c.Id}",
            $"{c.Name}: {c.What}, from {string.Join(", ", c.From.Select(plan.NameOf))}{In(c.Alignment)}")),
        .. plan.Datums.Select(d => new PlanLine("Features", $"datum {d.Label}", string.Join(" and ", d.Features.Select(plan.NameOf)))),
        new("Compare", "colour band", Invariant($"{Signed(plan.Compare.Lower)} to {Signed(plan.Compare.Upper)} mm")),
        new("Compare", "search", Search(plan.Compare) + In(plan.Compare.Alignment)),
        .. plan.Compare.Labels.Select((l, i) => new PlanLine("Compare", $"label {i + 1}", Of(l))),
        .. plan.Compare.LabelsSay is [LabelContent.Value] ? (PlanLine[])[] : [new("Compare", "labels say", Said(plan.Compare.LabelsSay))],
        .. plan.Compare.Sections.Select(s => new PlanLine("Compare", $"section {s.Name}", Of(s))),
        .. plan.Compare.Maps.Select(m => new PlanLine("Compare", $"map {m.Name}", Of(m, plan))),
        .. plan.Compare.Explain ? [new("Compare", "explained", "the deviation is taken apart")] : (PlanLine[])[],
        .. plan.Compare.Ramp == new RampPlan() ? (PlanLine[])[] : [new("Compare", "colours", plan.Compare.Ramp.Words)],
        .. plan.Characteristics.Select(c => new PlanLine("Evaluate", $"characteristic {c.No}", Characteristic(c, plan))),
        .. plan.Standard == default ? (PlanLine[])[] : [new("Evaluate", "standard", plan.Standard.InWords())],
        .. plan.General is { } general ? [new("Evaluate", "general tolerances", general.Words)] : (PlanLine[])[],
        .. plan.Shown == default ? (PlanLine[])[] : [new("Evaluate", "unit shown", plan.Shown.Sign())],
        new("Evaluate", "decision", plan.Decision.Words),
        .. plan.OtherWays ? [new("Evaluate", "other ways", "each number is found in other reasonable ways, too")] : (PlanLine[])[],
        new("Evaluate", "device", plan.Device.Words),
        new("Evaluate", "temperature", plan.Temperature.Words),
        .. plan.Figures.Select((f, i) => new PlanLine("Issue", $"figure {i + 1}", Figure(f))),
        .. plan.Report is { } report ? Report(report) : [],
    ];

    private static string Align(AlignPlan align) =>
        WithFields(align.Words, ToNode(align), "method", "faces", "datums", "first", "second", "origin");

    private static string Feature(FeaturePlan f) => $"{f.Name}: "
        + (f.EdgeOf is { } side ? Invariant($"edge of face {side} along {Counted(f.Faces, "face")}")
            : f.Region is { } region ? Invariant($"{Criterion(f.Criterion)} fit of the {region.Kind} on the scan about {At(region.At)}")
            : $"{Criterion(f.Criterion)} fit of {Counted(f.Faces, "face")}")
        + Invariant($", points within {f.SearchDistance:0.####} mm")
        + (f.Targets is { Count: > 0 } targets
            ? $", in {(targets.Count == 1 ? "1 target area" : $"{targets.Count} target areas")} ("
                + string.Join("; ", targets.Select(t => Invariant($"{t.Radius:0.####} mm about {At(t.Point)}"))) + ")"
            : "")
        + (f.EdgeMargin is { } margin ? Invariant($", those nearer than {margin:0.####} mm to the border left out") : "")
        + In(f.Alignment);

    private static string In(string? alignment) => alignment is null ? "" : $", in alignment '{alignment}'";

    private static string Criterion(Criterion criterion) => Spaced(JsonNamingPolicy.KebabCaseLower.ConvertName(criterion.ToString()));

    private static string Characteristic(CharacteristicPlan c, InspectionPlan plan)
    {
        var of = c is SectionDimensionPlan cut ? $"'{cut.Section}' at {string.Join(" and ", cut.Places.Select(At))}"
            : c.Refers.Features.Count > 0 ? string.Join(" and ", c.Refers.Features.Select(plan.NameOf))
            : Counted(c.Refers.Faces, "face");
        var to = c.Refers.Datums.Count > 0 ? $" to {string.Join(" | ", c.Refers.Datums)}" : "";
        return WithFields($"{c.Name}: {Spaced(c.Kind)} of {of}{to}, {Limits(c.Limits, c.Unit)}", ToNode(c),
            "kind", "no", "name", "features", "faces", "section", "parts", "datums", "nominal", "lower", "upper", "tolerance");
    }

    private static string Of(LabelPlan label) => (label.Name.Length > 0 ? $"'{label.Name}' " : "") + At(label.Point)
        + (label.Radius is { } r ? Invariant($", mean within {r:0.####} mm") : "");

    private static string Said(IReadOnlyList<LabelContent> contents) =>
        string.Join(", ", contents.Select(c => JsonNamingPolicy.KebabCaseLower.ConvertName(c.ToString())));

    private static string Of(SectionPlan section) => $"through {At(section.Point)} square to {At(section.Normal)}"
        + (section.Exaggeration is { } times ? Invariant($", strokes {times:0.###} times as long") : "");

    private static string Of(MapPlan map, InspectionPlan plan) => map.Words(plan)
        + (map.Lower is { } l ? Invariant($", at least {l:0.######} {map.Unit}") : "")
        + (map.Upper is { } u ? Invariant($", at most {u:0.######} {map.Unit}") : "")
        + (map.Faces.Length > 0 ? $", on {Counted(map.Faces, "face")}" : "");

    private static string Search(ComparePlan compare) => "counterparts within "
        + (compare.MaxDistance is { } most ? Invariant($"{most:0.####} mm") : "a distance that the size of the part gives")
        + Invariant($", whose normal agrees within {compare.MaxAngleDegrees:0.#}°");

    private static string Limits(Limits limits, string unit) => limits switch
    {
        { Nominal: { } n, Lower: { } l, Upper: { } u } => Invariant($"{n:0.######} {Signed(l - n)} {Signed(u - n)} {unit}"),
        { Nominal: { } n, Upper: { } u } => Invariant($"{n:0.######} {unit}, at most {u:0.######} {unit}"),
        { Nominal: { } n, Lower: { } l } => Invariant($"{n:0.######} {unit}, at least {l:0.######} {unit}"),
        { Upper: { } u } => Invariant($"at most {u:0.######} {unit}"),
        _ => "no limits",
    };

    private static IEnumerable<PlanLine> Report(ReportPlan report) =>
    [
        new("Issue", "report", string.Join(", ", ((string[])[report.Title, report.House.ReplaceLineEndings(", "),
            report.Logo is null ? "" : "with a logo", report.Paper == PaperSize.Letter ? "on letter paper" : "on A4",
            report.Countersigned ? "countersigned" : ""])
            .Where(s => s.Length > 0))),
        .. (report.Copies ?? []).Select((c, i) => new PlanLine("Issue", $"copy {i + 1} of the report",
            $"{c.Words}, {c.WhatWords}")),
        .. report.Blocks.Select((b, i) => new PlanLine("Issue", $"part {i + 1} of the report", b switch
        {
            NoteBlock note => $"note '{note.Title}': {note.Text}",
            PictureBlock picture => $"picture '{picture.Caption}'",
            _ => WithFields(Spaced(b.Kind), ToNode(b), "kind"),
        })),
    ];

    private static string Figure(FigurePlan f) =>
        (f.Caption.Length > 0 ? $"'{f.Caption}', " : "") + Invariant($"from {At(f.Camera.Direction)}, {f.Camera.Span:0.#} mm high")
        + (f.Map is { } map ? $", map '{map}'" : "")
        + (f.ShowDeviation && f.Map is null ? Invariant($", colours from {Signed(f.Lower)} to {Signed(f.Upper)} mm") : "")
        + (f.Labels.Count > 0 ? $", {f.Labels.Count} labels" : "");

    /// <summary>What a member of a closed set says beyond its main sentence: its fields that are not empty, by their names.</summary>
    private static string WithFields(string main, JsonObject member, params string[] except)
    {
        var said = member.Where(f => !except.Contains(f.Key)).Select(f => Field(Spaced(JsonNamingPolicy.KebabCaseLower.ConvertName(f.Key)),
            f.Value)).Where(s => s.Length > 0);
        return string.Join(", ", said.Prepend(main));
    }

    private static string Field(string name, JsonNode? value) => value switch
    {
        JsonArray { Count: 0 } or null => "",
        JsonArray list when list.All(n => n is JsonValue) => list.Count <= MostListed
            ? $"{name} {string.Join(", ", list.Select(n => Plain(n!)))}"
            : $"{list.Count} numbers as {name} ({Fingerprint(list)})",
        JsonArray list => $"{name} ({string.Join("; ", list.OfType<JsonObject>().Select(m => Nested(m)))})",
        JsonObject member => $"{name} ({Nested(member)})",
        _ => value.GetValueKind() switch
        {
            JsonValueKind.False => "",
            JsonValueKind.True => name,
            _ => $"{name} {Plain(value)}",
        },
    };

    /// <summary>A term of a list begins with its kind where it has one.</summary>
    private static string Nested(JsonObject member) =>
        string.Join(", ", member.Select(f => f.Key == "kind" ? Spaced(Plain(f.Value!)) : Field(f.Key, f.Value)).Where(s => s.Length > 0));

    /// <summary>Long paths are not read; whether two are the same is.</summary>
    private static string Fingerprint(JsonArray list) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(list.ToJsonString())))[..6];

    private static string Plain(JsonNode value) =>
        value.GetValueKind() == JsonValueKind.String ? value.GetValue<string>() : value.ToJsonString();

    private static JsonObject ToNode<T>(T value) => JsonSerializer.SerializeToNode(value, InspectionPlan.Json)!.AsObject();

    private static string At(double[] p) => Invariant($"{p[0]:0.###}, {p[1]:0.###}, {p[2]:0.###}");

    private static string Counted(IReadOnlyList<int> faces, string what) => faces.Count <= MostListed
        ? $"{what}{(faces.Count == 1 ? "" : "s")} {string.Join(", ", faces)}"
        : $"{faces.Count} {what}s ({string.Join(", ", faces.Take(MostListed))}, …)";

    private static string Signed(double value) => value.ToString("+0.######;−0.######;0", CultureInfo.InvariantCulture);

    private static string Spaced(string name) => name.Replace('-', ' ');
}
