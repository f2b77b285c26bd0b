using System.CommandLine;
using Bostel.Core.Alignment;
using Bostel.Core.Plans;

namespace Bostel.Cli.Commands;

internal static class AlignCommand
{
    public static Command Build()
    {
        var nominal = Arguments.Nominal();
        var scan = Arguments.Scan();
        var unit = Arguments.Unit();
        var plan = new Option<string?>("--plan")
        { Description = "A plan whose align section is carried out: any method, datums, reference points, point pairs." };
        var faces = new Option<string?>("--faces") { Description = "Faces of the nominal to fit to, as 3,4,9." };
        var weights = new Option<string?>("--weights") { Description = "Weights of faces, as 3:2,9:0." };
        var start = new Option<string?>("--start") { Description = "Transform file to start from." };
        var locked = new Option<string?>("--lock")
        { Description = "Motions that keep the start's value: turn-x,turn-y,turn-z,shift-x,shift-y,shift-z." };
        var balance = new Option<string?>("--balance")
        { Description = "lower,upper in mm: balance the part so that the worst point is least out of this band." };
        var command =
            new Command("align",
                "Brings a scan onto its nominal: from any pose to all surfaces, or as a plan or the options say.") { nominal, scan, unit,
                plan, faces, weights, start, locked, balance };
        command.SetAction(async (parsed, cancel) =>
        {
            var wanted = parsed.GetValue(plan) is { } file ? InspectionPlan.Parse(Files.ReadText(file), Path.GetFileName(file)) : new();
            var band = parsed.GetValue(balance) is { } text ? Arguments.Numbers("--balance", text, 2) : null;
            var align = wanted.Align with
            {
                Method = parsed.GetValue(faces) is null ? wanted.Align.Method : "faces",
                Faces = parsed.GetValue(faces) is { } list
                    ? [.. Arguments.Numbers("--faces", list).Select(f => (int)f)]
                    : wanted.Align.Faces,
                Weights = parsed.GetValue(weights) is { } pairs ? [.. pairs.Split(',').Select(Weight)] : wanted.Align.Weights,
                Start = parsed.GetValue(start) is { } path ? Files.ReadTransform(path).ToArray() : wanted.Align.Start,
                Locked = parsed.GetValue(locked)?.Split(',') ?? wanted.Align.Locked,
                Balance = band is not null || wanted.Align.Balance,
            };
            wanted = wanted with
            {
                Align = align,
                Compare = band is null
                ? wanted.Compare
                : wanted.Compare with { Lower = band[0], Upper = band[^1] }
            };
            wanted.Check(parsed.GetValue(plan) is null ? "align" : Path.GetFileName(parsed.GetValue(plan)!));
            var runner = new InspectionRunner(await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel));
            var mesh = Files.ReadMesh(parsed.GetValue(scan)!, parsed.GetValue(unit)!).Mesh;
            var result = runner.Align(runner.Prepare(mesh, wanted), wanted, null, cancel);
            if (!result.Resembles)
            {
                Files.Say($"{Path.GetFileName(parsed.GetValue(scan))}: {InspectionRunner.Unlike(result)}");
            }

            Files.Print(Printed(result, runner.Nominal.Mesh.Bounds.Center));
            return ExitCode.Done;
        });
        return command;
    }

    private static object Printed(AlignmentResult result, Core.Geometry.Vector3D center) => new
    {
        transform = result.Transform.ToArray(),
        rms = result.Rms,
        inliers = result.Inliers,
        coverage = result.Coverage,
        condition = result.Condition,
        resembles = result.Resembles,
        pointsUsed = result.PointsUsed,
        largestOutOfTolerance = result.LargestOutOfTolerance,
        uncertainty = result.Uncertainty is { } u
            ? new
            {
                covariance = u.Covariance,
                center = u.Center.ToArray(),
                effectivePoints = u.EffectivePoints,
                sigmaAtCenter = u.SigmaAt(center)
            }
            : null,
        steps = result.Steps.Select(s => new { name = s.Name, @fixed = s.Fixed, free = s.Free, residual = s.Residual, says = s.Says }),
        alternatives = result.Alternatives.Select(a => new { transform = a.Transform.ToArray(), rms = a.Rms, timesWorse = a.TimesWorse }),
    };

    private static FaceWeight Weight(string pair)
    {
        var parts = Arguments.Numbers("--weights", pair.Replace(':', ','), 2);
        return new((int)parts[0], parts[1]);
    }
}
