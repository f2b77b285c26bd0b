using System.CommandLine;
using Bostel.Core.ReferenceCases;
using Bostel.Reports;

namespace Bostel.Cli.Commands;

/// <summary>Runs every verified case that ships, on this installation, and gives a certificate. Exit 1 when one is out.</summary>
internal static class CertifyCommand
{
    public static Command Build()
    {
        var output = new Option<string?>("--out") { Description = "The certificate as a PDF." };
        var command = new Command("certify",
            "Runs every verified case that ships, on this installation, and gives a certificate with figures, versions and hashes. Exit 1 "
                + "when one is out.")
        { output };
        command.SetAction(async (parsed, _) =>
        {
            var certificate = Certificate.Issue(DateTimeOffset.UtcNow);
            if (parsed.GetValue(output) is { } file)
            {
                await using var pdf = new PdfWriter();
                var bytes = await pdf.PdfAsync(certificate);
                Files.Write(file, stream => stream.Write(bytes));
            }

            Files.Print(certificate);
            foreach (var bad in certificate.Cases.Where(c => !c.Passed))
            {
                Files.Say($"{bad.Id}: {bad.Failure ?? (bad.Error is { } off
                    ? FormattableString.Invariant($"{bad.Key} is off by {off:G3}, allowed {bad.Allowed:G3}")
                    : $"{bad.Key} differs")}");
            }

            return certificate.Passed ? ExitCode.Done : ExitCode.NotConforming;
        });
        return command;
    }
}
