using System.CommandLine;
using System.Security.Cryptography;
using Bostel.Core;
using Bostel.Core.Tolerancing;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Cli.Commands;

/// <summary>Says of files whether each is what was issued, by whom, and whether it still holds.</summary>
internal static class VerifyCommand
{
    public static Command Build()
    {
        var files = new Argument<string[]>("files") { Description = "Issued files: PDF, CSV or XLSX.", Arity = ArgumentArity.OneOrMore };
        var data = Register.Data();
        var command = new Command("verify", "Says whether files are what was issued, by their SHA-256 in the register. Exit 1 when one "
            + "is not, or was withdrawn.") { files, data };
        command.SetAction((parsed, cancel) => Register.WithAsync(parsed.GetValue(data), async context =>
        {
            var exit = ExitCode.Done;
            foreach (var file in parsed.GetValue(files)!)
            {
                if (!File.Exists(file))
                {
                    throw new BadInputException($"{file}: there is no such file.");
                }

                await using var stream = File.OpenRead(file);
                var sha = Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel));
                var report = await context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part)
                    .FirstOrDefaultAsync(r => r.PdfSha == sha || r.CsvSha == sha || r.XlsxSha == sha, cancel);
                exit = report is { WithdrawnAt: null } ? exit : ExitCode.NotConforming;
                Files.Print(report is null
                    ? new { file, sha256 = sha, issued = false }
                    : new
                    {
                        file,
                        sha256 = sha,
                        issued = true,
                        holds = report.WithdrawnAt is null,
                        report = report.Number,
                        part = report.Piece!.Part!.Number,
                        piece = report.Piece.Serial,
                        verdict = report.Verdict,
                        issuedBy = report.IssuedBy,
                        issuedAt = report.IssuedAt,
                        withdrawnBy = report.WithdrawnBy,
                        withdrawnWhy = report.WithdrawnWhy,
                    });
            }

            return exit;
        }, cancel));
        return command;
    }
}
