using System.CommandLine;
using System.Text;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Reports;
using Bostel.Reports.Viewer;

namespace Bostel.Cli.Commands;

/// <summary>Replays a plan on one or many scans. The numbers are those of the web: the same runner on the same bytes.</summary>
internal static class InspectCommand
{
    public static Command Build()
    {
        var plan = new Option<string>("--plan") { Description = "Inspection plan, JSON.", Required = true };
        var nominal = Arguments.Nominal();
        var scans = new Option<string[]>("--scan")
        { Description = "One or many scans.", Required = true, AllowMultipleArgumentsPerToken = true };
        var unit = Arguments.Unit();
        var output = new Option<string>("--out") { Description = "Folder for the results, one subfolder a piece.", Required = true };
        var firm = new Option<bool>("--other-ways")
        {
            Description = "Finds each number by other criteria, margins, filters and alignments, too, and says where the verdict would be "
                + "another, whether the plan asks for it or not.",
        };
        var command =
            new Command("inspect",
                "Replays a plan on scans and writes for each report.pdf, report.html with the map inside, results.json, results.csv, "
                    + "features.csv, results.xlsx, results.qif.xml, note.txt and note.pdf; of several scans pieces.xlsx over all.")
            { plan, nominal, scans, unit, output, firm };
        command.SetAction(async (parsed, cancel) =>
        {
            var planFile = parsed.GetValue(plan)!;
            var wanted = InspectionPlan.Parse(Files.ReadText(planFile), Path.GetFileName(planFile));
            var model = await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel);
            wanted.CheckFaces(model, Path.GetFileName(planFile));
            wanted = wanted.WithGeneralLimits(model) with { OtherWays = wanted.OtherWays || parsed.GetValue(firm) };
            var runner = new InspectionRunner(model);
            await using var pdf = new PdfWriter();
            pdf.Warm();
            var exit = ExitCode.Done;
            var all = new List<PieceRows>();
            foreach (var scan in parsed.GetValue(scans)!)
            {
                var piece = await InspectAsync(
                    scan, parsed.GetValue(unit)!, wanted, runner, parsed.GetValue(nominal)!, parsed.GetValue(output)!, pdf,
                    cancel);
                exit = piece.Verdict == Verdict.Conforming ? exit : ExitCode.NotConforming;
                all.Add(piece);
            }

            if (all.Count > 1)
            {
                var table = PiecesWorkbook.Write(all);
                Files.Write(Path.Combine(parsed.GetValue(output)!, "pieces.xlsx"), s => s.Write(table));
            }

            return exit;
        });
        return command;
    }

    private static async Task<PieceRows> InspectAsync(
        string scan, string unit, InspectionPlan plan, InspectionRunner runner, string nominal, string output, PdfWriter pdf,
        CancellationToken cancel)
    {
        var file = Files.ReadMesh(scan, unit);
        var mesh = file.Mesh;
        var piece = Path.GetFileNameWithoutExtension(scan);
        using var progress = new TerminalProgress(piece);
        var result = runner.Run(mesh, plan, progress, cancel);
        var header = new ReportHeader("not issued", plan.Part, plan.Part, plan.Revision, piece, plan.Schema, "command line",
            DateTimeOffset.UtcNow, Path.GetFileName(nominal), Path.GetFileName(scan), Files.UnitOf(file, unit), []);
        var report = ReportMaker.Of(
            header, plan, new(result.Prepared.Record, result.Aligned, result.Named, result.Compared, result.Map, result.Features,
                result.Characteristics),
            runner, BesideScan.Alone(mesh), null, cancel);
        var folder = Directory.CreateDirectory(Path.Combine(output, piece)).FullName;
        foreach (var (name, bytes) in new[]
        {
            ("results.json", TableWriters.ToJson(report)), ("results.csv", TableWriters.Csv(report)),
            ("features.csv", FeatureTable.Csv(report.Features)),
            ("results.xlsx", TableWriters.Xlsx(report)), ("report.pdf", await pdf.PdfAsync(report)),
            ("report.html", Encoding.UTF8.GetBytes(await PdfWriter.HtmlAsync(report, ViewerData.Of(result.Map, plan)))),
            ("results.qif.xml", QifWriter.Write(report)), ("note.txt", Encoding.UTF8.GetBytes(ManufacturingNote.Of(report).Text())),
            ("note.pdf", await pdf.NotePdfAsync(report)),
        })
        {
            Files.Write(Path.Combine(folder, name), s => s.Write(bytes));
        }

        Files.Print(new
        {
            piece,
            verdict = result.Verdict,
            resembles = result.Alignment.Resembles,
            alignment = result.Aligned.How.Words,
            rms = result.Alignment.Rms,
            alignments = result.Named.Select(n => new { name = n.Name, alignment = n.Aligned?.How.Words, rms = n.Aligned?.Result.Rms }),
            comparison = MethodWords.Of(result.Compared.How),
            areas = report.Areas,
            explained = TableWriters.Explained(report.Explained),
            maps = report.Maps.Select(m => new
            {
                name = m.Plan.Name,
                of = m.Plan.Words(plan),
                unit = m.Plan.Unit,
                statistics = m.Statistics,
                remarks = m.Remarks,
            }),
            sections = report.Sections.Select(s => new { name = s.Plan.Name, statistics = s.Sheet.Statistics, remarks = s.Sheet.Remarks }),
            characteristics =
                result.Characteristics.Select(c => new
                {
                    no = c.Plan.No,
                    name = c.Plan.Name,
                    alignment = c.Plan.Alignment,
                    measured = c.Measured,
                    uncertainty = c.Uncertainty,
                    verdict = c.Verdict,
                    remark = c.Remark,
                    firmness = c.Firmness,
                }),
        });
        return new(piece, "", "", result.Characteristics);
    }
}
