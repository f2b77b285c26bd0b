using System.CommandLine;
using Bostel.Core;
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
            var align = parsed.GetValue(faces) is { } list ? ToFaces(wanted.Align, Arguments.Numbers("--faces", list)) : wanted.Align;
            if (parsed.GetValue(start) is { } path)
            {
                align = align is StartedPlan begun ? begun with { Start = Files.ReadTransform(path).ToArray() } : throw Unused("--start");
            }

            if (parsed.GetValue(weights) is { } pairs)
            {
                align = align is BestFitPlan fit ? fit with { Weights = [.. pairs.Split(',').Select(Weight)] } : throw Unused("--weights");
            }

            if (parsed.GetValue(locked) is { } motions)
            {
                align = align is BestFitPlan fit
                    ? fit with { Locked = [.. motions.Split(',').Select(AlignmentScope.MotionNamed)] }
                    : throw Unused("--lock");
            }

            if (band is not null)
            {
                align = align is BestFitPlan fit ? fit with { Balance = true } : throw Unused("--balance");
            }

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

    /// <summary>A best fit to chosen faces that keeps what the plan says of a best fit.</summary>
    private static ChosenFacesPlan ToFaces(AlignPlan planned, double[] faces)
    {
        var made = new ChosenFacesPlan { Faces = [.. faces.Select(f => (int)f)] };
        if (planned is StartedPlan begun)
        {
            made = made with { Start = begun.Start, Prefer = begun.Prefer };
        }

        return planned is BestFitPlan fit
            ? made with { Weights = fit.Weights, Locked = fit.Locked, Balance = fit.Balance }
            : made;
    }

    private static BadInputException Unused(string option) => new($"{option}: the plan aligns in a way that does not use it.");

    private static FaceWeight Weight(string pair)
    {
        var parts = Arguments.Numbers("--weights", pair.Replace(':', ','), 2);
        return new((int)parts[0], parts[1]);
    }
}
