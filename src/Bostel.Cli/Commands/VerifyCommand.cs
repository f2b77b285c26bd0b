using System.CommandLine;
using System.Security.Cryptography;
using Bostel.Core;
using Bostel.Data.Register;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Cli.Commands;

/// <summary>Says of files whether each is what was issued, by whom, and whether it still holds.</summary>
internal static class VerifyCommand
{
    public static Command Build()
    {
        var files = new Argument<string[]>("files") { Description = "Issued files, of any format.", Arity = ArgumentArity.ZeroOrMore };
        var whole = new Option<bool>("--register")
        { Description = "Goes through the whole register: entries, signatures, reports and their stored files." };
        var data = Register.Data();
        var command = new Command("verify", "Says whether files are what was issued, by their SHA-256 in the register. Exit 1 when one "
            + "is not, or holds no more, or the register has a fault.") { files, whole, data };
        command.SetAction((parsed, cancel) => Register.WithAsync(parsed.GetValue(data), async context =>
        {
            var exit = ExitCode.Done;
            if (parsed.GetValue(whole))
            {
                var faults = await RegisterChain.FaultsAsync(
                    context, sha => RegisterChain.HashOfFileAsync(context, sha, cancel), cancel);
                exit = faults.Count > 0 ? ExitCode.NotConforming : exit;
                Files.Print(new { entries = await context.RegisterEntries.CountAsync(cancel), faults });
            }
            else if (parsed.GetValue(files) is not { Length: > 0 })
            {
                throw new BadInputException("Name files, or --register to go through the whole register.");
            }

            foreach (var file in parsed.GetValue(files)!)
            {
                if (!File.Exists(file))
                {
                    throw new BadInputException($"{file}: there is no such file.");
                }

                await using var stream = File.OpenRead(file);
                var sha = Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel));
                var report = await RegisterChain.FindAsync(context, sha, cancel);
                exit = report is { Holds: true } ? exit : ExitCode.NotConforming;
                Files.Print(report is null
                    ? new { file, sha256 = sha, issued = false }
                    : new
                    {
                        file,
                        sha256 = sha,
                        issued = true,
                        holds = report.Holds,
                        format = report.Files.First(f => f.Sha == sha).Format,
                        report = report.Number,
                        part = report.Piece!.Part!.Number,
                        piece = report.Piece.Serial,
                        verdict = report.Verdict,
                        issuedBy = report.IssuedBy,
                        issuedAt = report.IssuedAt,
                        countersignedBy = report.CountersignedBy,
                        supersededBy = report.SupersededBy,
                        withdrawnBy = report.WithdrawnBy,
                        withdrawnWhy = report.WithdrawnWhy,
                    });
            }

            return exit;
        }, cancel));
        return command;
    }
}
