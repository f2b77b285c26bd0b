using System.CommandLine;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;

namespace Bostel.Cli.Commands;

internal static class PrepareCommand
{
    public static Command Build()
    {
        var input = Arguments.In("Scan.");
        var output = Arguments.Out("Prepared scan, in mm.");
        var unit = Arguments.Unit();
        var plan = new Option<string?>("--plan")
        { Description = "Carry out this plan's steps; needs --nominal when one of them refers to it." };
        var nominal = new Option<string?>("--nominal") { Description = "Nominal that the plan's steps refer to." };
        var below = new Option<int?>("--drop-pieces-below") { Description = "Drop connected pieces with fewer triangles." };
        var largest = new Option<bool>("--keep-largest")
        { Description = "Drop all but the largest connected piece; the default when nothing else is asked for." };
        var fill = new Option<double?>("--fill-holes-below")
        { Description = "Fill holes up to this diameter, mm, following the curvature." };
        var spikes =
            new Option<double?>("--remove-spikes") { Description = "Remove points that stand out by more than so many times the noise." };
        var smooth = new Option<double?>("--smooth") { Description = "Smooth, moving no point farther than this, mm." };
        var passes = new Option<int>("--passes") { Description = "Passes of smoothing.", DefaultValueFactory = _ => 10 };
        var reduceTo = new Option<double?>("--reduce-to") { Description = "Reduce to this share of the triangles, percent." };
        var reduceWithin = new Option<double?>("--reduce-within") { Description = "Reduce as far as this deviation allows, mm." };
        var mesh = new Option<bool>("--mesh") { Description = "Mesh a cloud of points first." };
        var command = new Command("prepare", "Carries out preparing steps, in the order listed here, and says what each did.")
        {
            input, output, unit, plan, nominal, mesh, below, largest, spikes, fill, smooth, passes, reduceTo, reduceWithin,
        };
        command.SetAction(async (parsed, cancel) =>
        {
            var scan = Files.ReadMesh(parsed.GetValue(input)!, parsed.GetValue(unit)!).Mesh;
            var model = parsed.GetValue(nominal) is { } path ? await Files.ReadNominalAsync(path, cancel) : null;
            List<PrepareStep> steps = parsed.GetValue(plan) is { } file
                ? [.. InspectionPlan.Parse(Files.ReadText(file), file).Prepare.Steps]
                : [];
            void Add(bool wanted, PrepareStep step)
            {
                if (wanted)
                {
                    steps.Add(step);
                }
            }

            Add(parsed.GetValue(mesh), new MeshStep());
            Add(parsed.GetValue(below) is not null, new DropPiecesStep { Triangles = parsed.GetValue(below) });
            Add(parsed.GetValue(largest), new KeepLargestStep());
            Add(parsed.GetValue(spikes) is not null, new SpikesStep { Sigmas = parsed.GetValue(spikes) });
            Add(parsed.GetValue(fill) is not null, new FillStep { MaxDiameter = parsed.GetValue(fill) });
            Add(parsed.GetValue(smooth) is not null,
                new SmoothStep { MaxDisplacement = parsed.GetValue(smooth), Passes = parsed.GetValue(passes) });
            Add(parsed.GetValue(reduceTo) is not null, new ReduceStep { Share = parsed.GetValue(reduceTo) / 100 });
            Add(parsed.GetValue(reduceWithin) is not null, new ReduceStep { MaxDeviation = parsed.GetValue(reduceWithin) });
            Add(steps.Count == 0 && parsed.GetValue(plan) is null, new KeepLargestStep());
            var (prepared, records) = Run(scan, steps, model, cancel);
            Files.WriteMesh(parsed.GetValue(output)!, prepared);
            Files.Print(new
            {
                trianglesBefore = scan.TriangleCount,
                trianglesAfter = prepared.TriangleCount,
                measuredTriangles = prepared.MeasuredTriangleCount,
                steps = records
            });
            return ExitCode.Done;
        });
        return command;
    }

    private static (TriangleMesh Mesh, List<StepRecord> Records) Run(
        TriangleMesh scan, List<PrepareStep> steps, NominalModel? nominal, CancellationToken cancel)
    {
        var context = nominal is null ? new PreparationContext(null, null) : new InspectionRunner(nominal).ContextFor(scan);
        var records = new List<StepRecord>();
        var mesh = scan;
        foreach (var step in steps.Where(s => !s.Off))
        {
            var outcome = step.Apply(mesh, context, cancel);
            Files.Say(outcome.Record.Said);
            records.Add(outcome.Record);
            mesh = outcome.Mesh;
        }

        return (mesh, records);
    }
}
