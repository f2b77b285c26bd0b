using System.Text.Json;

namespace Bostel.Core.Tests.CommandLine;

/// <summary>`bostel reference`: a part without CAD gets its nominal from a scan of it, and a plan runs on that.</summary>
public class ReferenceCommandTests : CommandLineProgram
{
    [Fact]
    public void AScanBecomesANominalInCoordinatesOfItsOwn()
    {
        File.WriteAllText(At("recipe.json"), """{"seed": 4, "spacing": 1.0, "noise": 0.01}""");
        Assert.Equal(0, Run("scan", "--nominal", DemoParts.NominalPath("RC-077"), "--recipe", At("recipe.json"), At("good.ply")).Code);

        // The largest plane, the first that is recognised, is the base: 70 by 32 mm, the same on both sides of y = 16.
        var (code, text, messages) = RunOn(null, "reference", "--scan", At("good.ply"), "--first", "0", "--second", "symmetry-plane",
            "--axes=-z,y", "--origin", "0", "symmetry-plane", "--at", "0,16,0", "--out", At("part.bnom"));
        Assert.True(code == 0, messages);
        Assert.Contains("scan of piece good", text, StringComparison.Ordinal);
        var face = JsonDocument.Parse(RunOn(null, "features", "--nominal", At("part.bnom")).Text).RootElement.GetProperty("faces")[0];
        var numbers = face.GetProperty("parameters").EnumerateArray().Select(v => v.GetDouble()).ToArray();
        Assert.Equal("plane", face.GetProperty("kind").GetString());
        double[] ground = [0, 0, 0, -1];
        Assert.All(ground.Zip(numbers[2..6]), n => Assert.Equal(n.First, n.Second, 1e-9));
        Assert.Equal(16, numbers[1], 0.2);

        File.WriteAllText(At("plan.json"), """
            {"schema": "bostel-plan/8", "features": [{"id": "base", "name": "Base", "faces": [0]}],
             "characteristics": [{"kind": "flatness", "no": 1, "name": "Flat", "features": ["base"], "tolerance": 0.2}]}
            """);
        Assert.Equal(0, Run("inspect", "--plan", At("plan.json"), "--nominal", At("part.bnom"), "--scan", At("good.ply"),
            "--out", At("out")).Code);
    }

    [Fact]
    public void WhatIsNoReferenceIsSaidAndNothingIsWritten()
    {
        File.WriteAllText(At("cloud.xyz"), "0 0 0\n1 0 0\n0 1 0\n");
        var (code, _, messages) = RunOn(null, "reference", "--scan", At("cloud.xyz"), "--out", At("none.bnom"));
        Assert.Equal(2, code);
        Assert.Contains("cloud of points", messages, StringComparison.Ordinal);
        Assert.False(File.Exists(At("none.bnom")));
        File.WriteAllText(At("cut.bnom"), "BNOM");
        (code, _, messages) = RunOn(null, "features", "--nominal", At("cut.bnom"));
        Assert.Equal(2, code);
        Assert.StartsWith("cut.bnom: ", messages, StringComparison.Ordinal);
    }
}
