using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Plans;

/// <summary>The demo plan on simulated scans whose manufacturing errors are known: what was planted is found.</summary>
public class PlantedErrorTests
{
    private static readonly InspectionPlan Plan =
        InspectionPlan.Parse(File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "VH-310.json")));

    private static readonly Lazy<InspectionResult> Bad = new(() => Run("VH-310-0008.json"));

    /// <summary>
    /// Truth by construction of the recipe. The allowed error is what the noise of 0.008 mm leaves on a mean of many points (diameters,
    /// distances) or on an axis from a few hundred (positions, where the datums add theirs).
    /// </summary>
    [Theory]
    [InlineData(2, 52.048, 0.001)]
    [InlineData(4, 62.023, 0.001)]
    [InlineData(6, 12.030, 0.002)]
    [InlineData(7, 85.030, 0.001)]
    [InlineData(9, 0.3046, 0.006)]
    [InlineData(10, 0.1077, 0.006)]
    [InlineData(11, 30.0, 0.005)]
    public void WhatWasPlantedIsMeasured(int no, double truth, double allowed)
    {
        var row = Bad.Value.Characteristics.Single(c => c.Plan.No == no);
        Assert.Equal(truth, row.Measured!.Value, allowed);
        Assert.True(Math.Abs(row.Measured.Value - truth) <= row.Uncertainty, $"the truth lies outside ±{row.Uncertainty}");
    }

    [Fact]
    public void VerdictsFollowFromTheLimitsAndTheUncertainty()
    {
        var verdicts = Bad.Value.Characteristics.ToDictionary(c => c.Plan.No, c => c.Verdict);
        Assert.Equal([2, 9, 22], verdicts.Where(v => v.Value == Verdict.NonConforming).Select(v => v.Key));
        Assert.Equal(Verdict.NonConforming, Bad.Value.Verdict);
        Assert.Equal(Verdict.Conforming, Run("VH-310-0007.json").Verdict);
    }

    [Fact]
    public void LoosePiecesAreDroppedAndNothingElse()
    {
        var (_, truth) = Scan("VH-310-0008.json");
        Assert.Equal(truth.PartTriangles, Bad.Value.Prepared.Record.TrianglesAfter);
        Assert.Equal(truth.StrayTriangles, Bad.Value.Prepared.Record.TrianglesBefore - Bad.Value.Prepared.Record.TrianglesAfter);
    }

    [Fact]
    public void AnotherPartGetsNoVerdict()
    {
        var other = SimulatedScanner.Scan(DemoParts.Model("RC-077"), new() { Spacing = 1, TablePatch = false, StrayPieces = 0 });
        var result = new InspectionRunner(DemoParts.Model("VH-310")).Run(other.Mesh, Plan);
        Assert.False(result.Alignment.Resembles);
        Assert.All(result.Characteristics, c => Assert.Equal(Verdict.NotMeasured, c.Verdict));
    }

    /// <summary>A cloud without triangles or normals goes the same way.</summary>
    [Fact]
    public void ABareCloudIsAlignedAndMeasured()
    {
        var scan = SimulatedScanner.Scan(
            DemoParts.Model("VH-310"), new() { Spacing = 1.6, Noise = 0.01, TablePatch = false, StrayPieces = 0 });
        var cloud = new Core.Meshes.TriangleMesh(scan.Mesh.Coordinates, []);
        var result = new InspectionRunner(DemoParts.Model("VH-310")).Run(cloud, Plan);
        Assert.True(result.Alignment.Resembles);
        Assert.Equal(52, result.Characteristics.Single(c => c.Plan.No == 2).Measured!.Value, 0.01);
    }

    private static (Core.Meshes.TriangleMesh Mesh, ScanTruth Truth) Scan(string recipe)
    {
        var scan = SimulatedScanner.Scan(
            DemoParts.Model("VH-310"), ScanRecipe.Parse(File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "recipes", recipe)), recipe));
        return (scan.Mesh, scan.Truth);
    }

    private static InspectionResult Run(string recipe) => new InspectionRunner(DemoParts.Model("VH-310")).Run(Scan(recipe).Mesh, Plan);
}
