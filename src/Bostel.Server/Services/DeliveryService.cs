using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Reports;
using Bostel.Server.Jobs;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using Microsoft.EntityFrameworkCore;
using MimeKit;

namespace Bostel.Server.Services;

/// <summary>Where copies of reports go: a folder, and letters into a folder of their own or to a mail server.</summary>
/// <param name="Outbox">Letters are put there as .eml files where no mail server is named.</param>
/// <param name="Smtp">host:port of a mail server; null: none.</param>
/// <param name="From">The sender of letters.</param>
public sealed record DeliveryOptions(string Folder, string Outbox, Uri? Smtp, string From);

/// <summary>
/// Sends copies of issued reports: a copy is there complete or not at all. What cannot be sent says why and can be tried again; the report
/// itself does not wait for it.
/// </summary>
public sealed class DeliveryService(BostelContext context, BlobStore blobs, DeliveryOptions options)
{
    /// <summary>Queues the copies that a plan asks of a report that holds, in the transaction that makes it hold.</summary>
    public static async Task QueueAsync(BostelContext context, Report report, IReadOnlyList<CopyPlan> copies, CancellationToken cancel)
    {
        if (report.Holds)
        {
            // What several rules send to one place goes there together.
            foreach (var place in copies.Where(c => c.GoesOut(report.Verdict)).GroupBy(c => c.Words))
            {
                var copy = place.First() with { Files = [.. place.SelectMany(c => c.Files).Distinct()] };
                await new JobQueue(context).AddAsync(JobKind.Deliver, report.Id, new() { Copy = copy }, report.IssuedBy, cancel);
            }
        }
    }

    /// <exception cref="BadInputException">It could not be delivered; the sentence says why.</exception>
    public async Task DeliverAsync(Guid reportId, CopyPlan copy, CancellationToken cancel)
    {
        var report = await context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part)
            .SingleAsync(r => r.Id == reportId, cancel);
        var files = new List<(string Name, string MediaType, byte[] Content)>();
        foreach (var (format, sha) in report.Files.Where(f => copy.Files.Contains(f.Format)))
        {
            files.Add((report.Number + format.Ending(), format.MediaType(), await blobs.BytesAsync(sha, cancel)));
        }

        try
        {
            switch (copy)
            {
                case FolderCopy folder:
                    await IntoFolderAsync(Path.Combine(options.Folder, folder.Name), report.Number, files, cancel);
                    break;
                case MailCopy mail:
                    await SendAsync(await LetterAsync(report, mail, files, cancel), report.Number, cancel);
                    break;
                default:
                    throw new ArgumentOutOfRangeException(nameof(copy), copy, "This copy goes nowhere.");
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or SmtpCommandException or SmtpProtocolException
            or ServiceNotConnectedException or AuthenticationException or System.Net.Sockets.SocketException or SslHandshakeException)
        {
            // What stands in the way is told without the name that the file has while it is written.
            var why = FullDisk.Is(e) ? "no space is left where it goes; make room and send it again." : e.Message;
            throw new BadInputException($"{report.Number} could not be sent ({copy.Words}): {why}");
        }

        context.Record(report.IssuedBy, "sent a copy", $"{report.Piece!.Part!.Number} piece {report.Piece.Serial}",
            $"{report.Number}, {copy.Words}");
        await context.SaveChangesAsync(cancel);
    }

    /// <summary>
    /// Made beside and renamed, which file systems do whole or not at all. One that is there already was delivered before.
    /// </summary>
    private static async Task IntoFolderAsync(
        string folder, string number, List<(string Name, string MediaType, byte[] Content)> files, CancellationToken cancel)
    {
        var (target, making) = (Path.Combine(folder, number), Path.Combine(folder, $".{number}-{Guid.NewGuid():N}"));
        if (Directory.Exists(target))
        {
            return;
        }

        Directory.CreateDirectory(making);
        try
        {
            foreach (var (name, _, content) in files)
            {
                await File.WriteAllBytesAsync(Path.Combine(making, name), content, cancel);
            }

            Directory.Move(making, target);
        }
        finally
        {
            if (Directory.Exists(making))
            {
                Directory.Delete(making, recursive: true);
            }
        }
    }

    private async Task<MimeMessage> LetterAsync(
        Report report, MailCopy mail, List<(string Name, string MediaType, byte[] Content)> files, CancellationToken cancel)
    {
        var letter = new MimeMessage();
        letter.From.Add(MailboxAddress.Parse(options.From));
        letter.To.Add(new MailboxAddress("", mail.To));
        letter.Subject = $"{report.Number}: {report.Piece!.Part!.Number} piece {report.Piece.Serial}, {Wording.Of(report.Verdict)}";
        letter.Date = report.IssuedAt;
        var body = new BodyBuilder
        {
            TextBody = report.NoteSha is { } note
                ? System.Text.Encoding.UTF8.GetString(await blobs.BytesAsync(note, cancel))
                : letter.Subject,
        };
        foreach (var (name, type, content) in files)
        {
            body.Attachments.Add(name, content, ContentType.Parse(type));
        }

        letter.Body = body.ToMessageBody();
        return letter;
    }

    private async Task SendAsync(MimeMessage letter, string number, CancellationToken cancel)
    {
        if (options.Smtp is { } server)
        {
            using var client = new SmtpClient();
            await client.ConnectAsync(server.Host, server.Port, SecureSocketOptions.StartTlsWhenAvailable, cancel);
            if (server.UserInfo.Split(':', 2) is [{ Length: > 0 } user, var password])
            {
                await client.AuthenticateAsync(Uri.UnescapeDataString(user), Uri.UnescapeDataString(password), cancel);
            }

            await client.SendAsync(letter, cancel);
            await client.DisconnectAsync(true, cancel);
            return;
        }

        Directory.CreateDirectory(options.Outbox);
        var address = string.Concat(letter.To.Mailboxes.First().Address.Select(c => char.IsLetterOrDigit(c) || c is '.' or '-' ? c : '_'));
        var making = Path.Combine(options.Outbox, $".{Guid.NewGuid():N}");
        try
        {
            await letter.WriteToAsync(making, cancel);
            File.Move(making, Path.Combine(options.Outbox, $"{number}-{address}.eml"), overwrite: true);
        }
        finally
        {
            File.Delete(making);
        }
    }
}
