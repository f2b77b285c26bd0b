using Bostel.Benchmarks;
using Bostel.Core.Nominals;

namespace Bostel.Cli.Commands;

/// <summary>Long runs on the demo parts that measure how far verdicts and uncertainties can be trusted.</summary>
internal static class Campaigns
{
    private const double Noise = 0.01;

    public static Action<int, string>? Named(string name) => name switch
    {
        "verdicts" => Verdicts,
        "coverage" => Coverage,
        "explained" => Explained,
        _ => null,
    };

    /// <summary>Planted defects: every wrong acceptance by name, then the sums.</summary>
    private static void Verdicts(int trials, string parts)
    {
        var all = new List<VerdictTrial>();
        foreach (var (part, nominal) in Parts(parts))
        {
            var campaign = new VerdictCampaign(part, nominal, nominal.Mesh.Bounds.Diagonal / 180, Noise);
            var done = Enumerable.Range(1, trials).Select(campaign.Run).ToList();
            foreach (var wrong in done.Where(
                t => t.FalselyAccepted || t.FalselyRejected || (!t.Covered && !t.IsMissing && t.Truth < 4 * t.Tolerance)))
            {
                Files.Say(wrong.ToString());
            }

            Console.Out.WriteLine($"{part}: {VerdictCampaign.Summary(done)}");
            all.AddRange(done);
        }

        Console.Out.WriteLine($"all: {VerdictCampaign.Summary(all)}");
    }

    /// <summary>Scans with noise: how often U holds the truth, by kind and part.</summary>
    private static void Coverage(int trials, string parts)
    {
        foreach (var (part, nominal) in Parts(parts))
        {
            var campaign = new CoverageCampaign(nominal, nominal.Mesh.Bounds.Diagonal / 200, constructed: true);
            var all = Enumerable.Range(1, trials).SelectMany(campaign.Run).ToList();
            foreach (var missed in all.Where(t => !t.Held))
            {
                var (value, u) = (missed.Measured, missed.Uncertainty);
                Files.Say(FormattableString.Invariant(
                    $"{part} {missed.Name}: true {missed.Truth:0.0000}, measured {value:0.0000} ± {u:0.0000}; ")
                    + $"{missed.Scan}; {missed.Row.Method}");
            }

            foreach (var line in CoverageCampaign.Summary(all))
            {
                Console.Out.WriteLine($"{part} {line}");
            }
        }
    }

    /// <summary>Planted errors of the whole part and of faces: every one that was missed or invented, then the sums.</summary>
    private static void Explained(int trials, string parts)
    {
        foreach (var (part, nominal) in Parts(parts))
        {
            var campaign = new ExplainedCampaign(nominal, nominal.Mesh.Bounds.Diagonal / 150, Noise);
            var all = Enumerable.Range(1, trials).Select(campaign.Run).ToList();
            foreach (var said in all.SelectMany(t => t.Wrong))
            {
                Files.Say($"{part} {said}");
            }

            Console.Out.WriteLine($"{part}: {ExplainedCampaign.Summary(all)}");
        }
    }

    /// <param name="wanted">Their numbers with commas; all when empty.</param>
    private static IEnumerable<(string Part, NominalModel Nominal)> Parts(string wanted) =>
        Directory.GetFiles(Path.Combine("demo", "nominal"), "*.step").Order()
            .Where(p => wanted.Length == 0 || wanted.Split(',').Contains(Path.GetFileName(p)[..6]))
            .Select(p => (Path.GetFileName(p)[..6], Files.ReadNominalAsync(p, CancellationToken.None).GetAwaiter().GetResult()));
}
