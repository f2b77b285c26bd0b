using System.Text.Json;
using Bostel.Core.Formats;

namespace Bostel.Core.ReferenceCases;

/// <summary>A case with verified results, and how the computation here agrees with them.</summary>
/// <param name="Id">Its name.</param>
/// <param name="Kind">What is computed.</param>
/// <param name="Json">The case itself.</param>
public abstract record ReferenceCase(string Id, string Kind, JsonElement Json)
{
    /// <summary>
    /// How far off each expected figure is, and how far it may be. A word or a truth that differs is infinitely off.
    /// </summary>
    public abstract IReadOnlyList<(string Key, double Error, double Allowed)> Errors();
}

/// <summary>The verified cases that ship with the program.</summary>
public static class ReferenceSet
{
    private const string Root = "reference/";

    private static readonly Lazy<IReadOnlyList<ReferenceCase>> _fits = new(() => Load("fits/"));
    private static readonly Lazy<IReadOnlyList<ReferenceCase>> _tolerances = new(() => Load("tolerances/"));

    public static IReadOnlyList<ReferenceCase> Fits => _fits.Value;

    public static IReadOnlyList<ReferenceCase> Tolerances => _tolerances.Value;

    /// <summary>Every file of the set by its name, in their order: what a fingerprint is taken of.</summary>
    public static IEnumerable<(string Name, byte[] Content)> Files => Names.Select(n => (n[Root.Length..], Bytes(n)));

    private static IEnumerable<string> Names => typeof(ReferenceSet).Assembly.GetManifestResourceNames()
        .Where(n => n.StartsWith(Root, StringComparison.Ordinal)).Order(StringComparer.Ordinal);

    private static IReadOnlyList<ReferenceCase> Load(string folder) =>
        [.. Names.Where(n => n.StartsWith(Root + folder, StringComparison.Ordinal) && n.EndsWith(".json", StringComparison.Ordinal))
            .Select(n => JsonDocument.Parse(Bytes(n)).RootElement)
            .Select(json => (ReferenceCase)(folder == "fits/"
                ? new ReferenceFit(
                    json, beside => MeshFormats.Read(new MemoryStream(Bytes(Root + folder + beside)), beside).Mesh.Coordinates)
                : new ReferenceTolerance(json)))];

    private static byte[] Bytes(string name)
    {
        using var stream = typeof(ReferenceSet).Assembly.GetManifestResourceStream(name)!;
        using var memory = new MemoryStream();
        stream.CopyTo(memory);
        return memory.ToArray();
    }
}

/// <summary>A fit with verified parameters.</summary>
internal sealed record ReferenceFit(JsonElement Json, Func<string, double[]> Beside) : ReferenceCase(
    Json.GetProperty("id").GetString()!, $"{Json.GetProperty("type").GetString()}, {Json.GetProperty("method").GetString()}", Json)
{
    public override IReadOnlyList<(string Key, double Error, double Allowed)> Errors()
    {
        var test = FitCase.Read(Json, "", Beside);
        return [.. test.Errors(test.Run())];
    }
}

/// <summary>A tolerance, decision or statistic with verified results.</summary>
internal sealed record ReferenceTolerance(JsonElement Json) : ReferenceCase(
    Json.GetProperty("id").GetString()!, Json.GetProperty("callout").GetProperty("characteristic").GetString()!, Json)
{
    public override IReadOnlyList<(string Key, double Error, double Allowed)> Errors()
    {
        var found = new List<(string, double, double)>();
        Compare(Json.GetProperty("expected"), ToleranceCase.Evaluate(Json), "", found);
        return found;
    }

    private void Compare(JsonElement expected, CaseOutcome outcome, string within, List<(string, double, double)> found)
    {
        foreach (var want in expected.EnumerateObject())
        {
            outcome.TryGetValue(want.Name, out var have);
            if (want.Value.ValueKind == JsonValueKind.Array)
            {
                var members = (have as IReadOnlyList<CaseOutcome>) ?? [];
                foreach (var (member, i) in want.Value.EnumerateArray().Select((m, i) => (m, i)))
                {
                    Compare(member, i < members.Count ? members[i] : [], $"{want.Name} {i + 1} ", found);
                }
            }
            else
            {
                var error = (want.Value.ValueKind, have) switch
                {
                    (JsonValueKind.Number, { } number and not (bool or string)) =>
                        Math.Abs(Convert.ToDouble(number, System.Globalization.CultureInfo.InvariantCulture) - want.Value.GetDouble()),
                    (JsonValueKind.True or JsonValueKind.False, bool truth) when truth == want.Value.GetBoolean() => 0,
                    (JsonValueKind.String, string word) when word == want.Value.GetString() => 0,
                    (JsonValueKind.Null, null) => 0,
                    _ => double.PositiveInfinity,
                };
                found.Add((within + want.Name, error, want.Value.ValueKind == JsonValueKind.Number ? Allowed(want.Name) : 0));
            }
        }
    }

    /// <summary>One number for all, or one for each key.</summary>
    private double Allowed(string key) => Json.GetProperty("tolerance") is { ValueKind: JsonValueKind.Object } each
        ? each.GetProperty(key).GetDouble()
        : Json.GetProperty("tolerance").GetDouble();
}
