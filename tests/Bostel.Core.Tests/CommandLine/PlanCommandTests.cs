namespace Bostel.Core.Tests.CommandLine;

/// <summary>`bostel plan`, completion and the examples under the help.</summary>
public class PlanCommandTests : CommandLineProgram
{
    private static string Demo => Path.Combine(DemoParts.Root, "demo", "plans", "VH-310.json");

    [Fact]
    public void APlanIsCheckedAgainstItsNominalAndRefusedOnAnother()
    {
        Assert.Equal(0, Run("plan", "check", Demo, "--nominal", DemoParts.NominalPath("VH-310")).Code);
        var (code, _, messages) = RunOn(null, "plan", "check", Demo, "--nominal", DemoParts.NominalPath("RC-077"));
        Assert.Equal(2, code);
        Assert.Contains("VH-310.json: feature 'Base face' names face 119", messages, StringComparison.Ordinal);
    }

    [Fact]
    public void AnOldPlanIsUpgradedExplainedAndCompared()
    {
        var old = At("old.json");
        File.WriteAllText(old, """{"schema": "bostel-plan/3", "part": "X", "decision": {"rule": "guard-band", "guardFactor": 1.5}}""");
        var (code, upgraded, _) = RunOn(null, "plan", "upgrade", old);
        Assert.Equal(0, code);
        Assert.Contains("bostel-plan/9", upgraded, StringComparison.Ordinal);
        File.WriteAllText(At("new.json"), upgraded.Replace("1.5", "0.5", StringComparison.Ordinal));
        Assert.Contains("decision: guard bands of 1.5 U", RunOn(null, "plan", "explain", old).Text, StringComparison.Ordinal);
        Assert.Equal(
            "Evaluate: decision: guard bands of 1.5 U → guard bands of 0.5 U",
            RunOn(null, "plan", "compare", old, At("new.json")).Text.Trim());
    }

    [Theory]
    [InlineData("bostel pl", "plan")]
    [InlineData("bostel fit --method max", "maximum-inscribed")]
    [InlineData("bostel inspect --pl", "--plan")]
    public void TheShellIsToldHowALineMayGoOn(string line, string word)
    {
        var (code, offered, _) = RunOn(null, $"[suggest:{line.Length}]", line);
        Assert.Equal(0, code);
        Assert.Contains(word, offered.Split('\n', StringSplitOptions.TrimEntries));
    }

    /// <summary>An option that an example names is one of the command's.</summary>
    [Theory]
    [InlineData("prepare")]
    [InlineData("fit")]
    [InlineData("compare")]
    [InlineData("section")]
    [InlineData("inspect")]
    [InlineData("plan check")]
    public void ExamplesUnderTheHelpUseWhatThereIs(string command)
    {
        var help = RunOn(null, [.. command.Split(' '), "--help"]).Text;
        var at = help.IndexOf("Examples:", StringComparison.Ordinal);
        Assert.True(at > 0, help);
        var options = help[at..].Split(' ', '\n').Where(w => w.StartsWith("--", StringComparison.Ordinal)).ToList();
        Assert.NotEmpty(options);
        Assert.All(options, o => Assert.Contains($"  {o}", help[..at], StringComparison.Ordinal));
        Assert.Contains($"bostel {command} ", help[at..], StringComparison.Ordinal);
    }
}
