using Bostel.Core.ReferenceCases;

namespace Bostel.Core.Tests.CommandLine;

/// <summary>`bostel evaluate --cases` and `bostel certify`.</summary>
public sealed class CaseCommandTests : CommandLineProgram
{
    private const string Wobble = """
        {"callout": {"characteristic": "wobble"}, "features": {"toleranced": {"type": "plane", "points": []}}}
        """;

    /// <summary>The position of a hole that conforms with its bonus only: its figures stand in the case itself.</summary>
    [Fact]
    public void ACaseIsAnsweredWithTheKeysOfItsExpectedResult()
    {
        var folder = CaseFolder("good", ("position.json", Case("tolerances/ref-tol-position-02.json")));
        var (code, answer, _) = Run("evaluate", "--cases", folder);
        Assert.Equal(0, code);
        Assert.Equal("ref-tol-position-02", answer.GetProperty("id").GetString());
        var result = answer.GetProperty("result");
        Assert.Equal(0.12, result.GetProperty("value").GetDouble(), 1e-6);
        Assert.Equal(0.06, result.GetProperty("bonus").GetDouble(), 1e-6);
        Assert.Equal(0.14, result.GetProperty("limit").GetDouble(), 1e-6);
        Assert.True(result.GetProperty("conforms").GetBoolean());
    }

    [Theory]
    [InlineData(Wobble, "'wobble' is not known")]
    [InlineData("{\"callout\": {}}", "case:")]
    [InlineData("not a case", "invalid")]
    public void AWrongCaseGetsALineThatSaysSo(string json, string why)
    {
        var (code, answer, messages) = Run("evaluate", "--cases", CaseFolder("bad", ("wrong.json", json)));
        Assert.Equal(2, code);
        Assert.Equal("wrong", answer.GetProperty("id").GetString());
        Assert.Contains(why, answer.GetProperty("error").GetString(), StringComparison.Ordinal);
        Assert.Contains("wrong.json", messages, StringComparison.Ordinal);
    }

    [Fact]
    public void AFolderWithoutCasesIsRefused()
    {
        var (code, _, messages) = Run("evaluate", "--cases", CaseFolder("empty"));
        Assert.Equal(2, code);
        Assert.Contains("holds no .json file", messages, StringComparison.Ordinal);
    }

    [Fact]
    public void TheCertificateNamesWhatItRanOn()
    {
        var (code, answer, _) = Run("certify");
        Assert.Equal(0, code);
        Assert.True(answer.GetProperty("passed").GetBoolean());
        Assert.Equal(ReferenceSet.Fits.Count + ReferenceSet.Tolerances.Count, answer.GetProperty("cases").GetArrayLength());
        Assert.Contains(".NET", answer.GetProperty("runtime").GetString(), StringComparison.Ordinal);
        Assert.Equal(64, answer.GetProperty("computationSha").GetString()!.Length);
    }

    private string CaseFolder(string name, params (string Name, string Text)[] files)
    {
        var folder = At(name);
        Directory.CreateDirectory(folder);
        foreach (var (file, text) in files)
        {
            File.WriteAllText(Path.Combine(folder, file), text);
        }

        return folder;
    }

    private static string Case(string name) =>
        System.Text.Encoding.UTF8.GetString(ReferenceSet.Files.Single(f => f.Name == name).Content);
}
