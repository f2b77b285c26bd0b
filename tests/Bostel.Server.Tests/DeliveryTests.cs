using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>Copies of issued reports go out as the plan asks, complete or not at all.</summary>
public class DeliveryTests(ServerFixture server)
{
    [Fact]
    public async Task LettersAndFoldersHoldWhatWasIssued()
    {
        var report = await IssuedAsync("COPY-OUT", Copies("out@works.example", "Customer 4"));
        Assert.All(await SentAsync(report, 2), d => Assert.Equal("done", State(d)));
        var pdf = await FileAsync(report, "pdf");
        var folder = Path.Combine(server.DeliveryFolder, "Customer 4");
        var copy = Path.Combine(folder, Number(report));
        Assert.Equal(
            (string[])[$"{Number(report)}.csv", $"{Number(report)}.pdf"], Directory.GetFiles(copy).Select(Path.GetFileName).Order());
        Assert.Equal(pdf, await File.ReadAllBytesAsync(Path.Combine(copy, $"{Number(report)}.pdf")));
        Assert.Empty(Directory.GetDirectories(folder, ".*"));

        // Read by hand, as RFC 5322 and RFC 2045 have it: headers, a boundary, parts in base64.
        var letter = await File.ReadAllTextAsync(Assert.Single(Directory.GetFiles(server.OutboxFolder, $"{Number(report)}-*")));
        var (head, _) = Halves(letter);
        Assert.Contains("To: out@works.example", head, StringComparison.Ordinal);
        Assert.Contains($"Subject: {Number(report)}: COPY-OUT piece 1", head, StringComparison.Ordinal);
        var boundary = letter.Split("boundary=\"")[1].Split('"')[0];
        var parts = letter.Split("--" + boundary)[1..^1].Select(Halves).ToList();
        Assert.Contains("Note to manufacturing", parts[0].Body, StringComparison.Ordinal);
        var attached = Assert.Single(parts, p => p.Head.Contains($"{Number(report)}.pdf", StringComparison.Ordinal));
        Assert.Equal(pdf, Convert.FromBase64String(string.Concat(attached.Body.Where(c => !char.IsWhiteSpace(c)))));
    }

    [Fact]
    public async Task WhatCannotBeSentSaysSoAndIsSentAgain()
    {
        // A file lies where the folder would be made.
        var blocked = Path.Combine(server.DeliveryFolder, "Blocked");
        Directory.CreateDirectory(server.DeliveryFolder);
        await File.WriteAllTextAsync(blocked, "in the way");
        var report = await IssuedAsync("COPY-BLOCKED", """[{"kind": "folder", "name": "Blocked", "when": "always", "files": ["pdf"]}]""");
        var failed = Assert.Single(await SentAsync(report, 1));
        Assert.Equal("failed", State(failed));
        Assert.Contains(
            "could not be sent (folder Blocked)", failed.GetProperty("job").GetProperty("error").GetString(), StringComparison.Ordinal);

        File.Delete(blocked);
        var again = await server.PostAsync($"/api/outbox/{failed.GetProperty("job").GetProperty("id").GetString()}/again", new { });
        Assert.Equal("done", (await server.EndedAsync(again)).GetProperty("state").GetString());
        Assert.Equal(await FileAsync(report, "pdf"),
            await File.ReadAllBytesAsync(Path.Combine(blocked, Number(report), $"{Number(report)}.pdf")));
    }

    /// <summary>Two rules that send to one place send one copy with the files of both.</summary>
    [Fact]
    public async Task WhatSeveralRulesSendToOnePlaceGoesThereTogether()
    {
        var report = await IssuedAsync("COPY-TWO", """
            [{"kind": "folder", "name": "Two", "when": "always", "files": ["pdf"]},
             {"kind": "folder", "name": "Two", "when": "conforming", "files": ["json", "pdf"]}]
            """);
        Assert.Equal("done", State(Assert.Single(await SentAsync(report, 1))));
        Assert.Equal((string[])[".json", ".pdf"], Directory.GetFiles(Path.Combine(server.DeliveryFolder, "Two", Number(report)))
            .Select(Path.GetExtension).Order());
    }

    /// <summary>A mail server of a few lines (RFC 5321) is given the letter; one that is away is named.</summary>
    [Fact]
    public async Task LettersGoToTheMailServerThatTheSettingsName()
    {
        var report = await IssuedAsync("COPY-SMTP", "[]");
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var port = ((IPEndPoint)listener.LocalEndpoint).Port;
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var services = scope.ServiceProvider;
        var delivery = new DeliveryService(
            services.GetRequiredService<BostelContext>(), services.GetRequiredService<BlobStore>(),
            new(server.DeliveryFolder, server.OutboxFolder, new Uri($"smtp://127.0.0.1:{port}"), "Bostel <bostel@works.example>"));
        var copy = new Core.Plans.MailCopy("shop@works.example") { Files = [Core.Plans.ReportFormat.Csv] };
        Guid id = report.GetProperty("id").GetGuid();
        var taken = TakeAsync(listener);
        await delivery.DeliverAsync(id, copy, CancellationToken.None);
        var said = await taken;
        Assert.Contains("MAIL FROM:<bostel@works.example>", said, StringComparison.Ordinal);
        Assert.Contains("RCPT TO:<shop@works.example>", said, StringComparison.Ordinal);
        Assert.Contains($"Subject: {Number(report)}", said, StringComparison.Ordinal);
        Assert.Contains($"{Number(report)}.csv", said, StringComparison.Ordinal);
        listener.Stop();
        var error = await Assert.ThrowsAsync<Core.BadInputException>(() => delivery.DeliverAsync(id, copy, CancellationToken.None));
        Assert.Contains("could not be sent (mail to shop@works.example)", error.Message, StringComparison.Ordinal);
    }

    /// <summary>Takes one letter and gives back all that was said to it.</summary>
    private static async Task<string> TakeAsync(TcpListener listener)
    {
        using var client = await listener.AcceptTcpClientAsync();
        using var reader = new StreamReader(client.GetStream());
        await using var writer = new StreamWriter(client.GetStream()) { NewLine = "\r\n", AutoFlush = true };
        await writer.WriteLineAsync("220 here");
        var (said, letter) = (new System.Text.StringBuilder(), false);
        while (await reader.ReadLineAsync() is { } line && line != "QUIT")
        {
            said.AppendLine(line);
            (letter, var answer) = (letter, line) switch
            {
                (true, ".") => (false, "250 taken"),
                (true, _) => (true, ""),
                (_, "DATA") => (true, "354 go on"),
                _ => (false, "250 yes"),
            };
            if (answer.Length > 0)
            {
                await writer.WriteLineAsync(answer);
            }
        }

        await writer.WriteLineAsync("221 bye");
        return said.ToString();
    }

    [Fact]
    public async Task NothingGoesOutOfAReportThatDoesNotHoldYet()
    {
        var report = await IssuedAsync("COPY-SECOND", Copies("second@works.example", "Second"), countersigned: true);
        Assert.Empty(await OfAsync(report));
        var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        await ServerFixture.JsonAsync(await approver.PostAsJsonAsync(
            $"/api/reports/{report.GetProperty("id").GetString()}/countersignature", new { password = ServerFixture.Password }));
        Assert.All(await SentAsync(report, 2), d => Assert.Equal("done", State(d)));
    }

    [Theory]
    [InlineData("""[{"kind": "mail", "to": "nobody"}]""", "'nobody' is no mail address")]
    [InlineData("""[{"kind": "mail", "to": "a@b.example\r\nBcc: c@d.example"}]""", "is no mail address")]
    [InlineData("""[{"kind": "folder", "name": "../up", "files": ["pdf"]}]""", "is no name of a folder")]
    [InlineData("""[{"kind": "folder", "name": "Empty", "files": []}]""", "needs at least one file")]
    [InlineData("""[{"kind": "pigeon"}]""", "'pigeon' is not one of")]
    public void ACopyThatCannotGoOutIsRefused(string copies, string sentence) => Assert.Contains(
        sentence,
        Assert.Throws<Core.BadInputException>(() => Core.Plans.InspectionPlan.Parse(
            $$"""{"schema": "bostel-plan/9", "part": "X", "report": {"copies": {{copies}} } }""")).Message,
        StringComparison.Ordinal);

    private static string Copies(string to, string folder) => $$"""
        [{"kind": "mail", "to": "{{to}}", "when": "always", "files": ["pdf"]},
         {"kind": "folder", "name": "{{folder}}", "when": "conforming", "files": ["pdf", "csv"]},
         {"kind": "folder", "name": "Never", "when": "open", "files": ["pdf"]}]
        """;

    private static (string Head, string Body) Halves(string text)
    {
        var parts = text.Trim().ReplaceLineEndings("\n").Split("\n\n", 2);
        return (parts[0], parts[1]);
    }

    private static string State(JsonElement delivery) => delivery.GetProperty("job").GetProperty("state").GetString()!;

    private static string Number(JsonElement report) => report.GetProperty("number").GetString()!;

    private Task<byte[]> FileAsync(JsonElement report, string format) =>
        server.Client.GetByteArrayAsync($"/api/reports/{report.GetProperty("id").GetString()}/{format}");

    private async Task<JsonElement> IssuedAsync(string number, string copies, bool countersigned = false)
    {
        var piece = await server.JudgedPieceAsync(number);
        var part = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("partId").GetString();
        var stored = await server.GetAsync($"/api/parts/{part}/plan");
        var plan = JsonNode.Parse(stored.GetProperty("plan").GetRawText())!;
        plan["report"] = new JsonObject { ["copies"] = JsonNode.Parse(copies), ["countersigned"] = countersigned };
        await ServerFixture.JsonAsync(await server.Client.PutAsJsonAsync(
            $"/api/parts/{part}/plan", new { basedOn = stored.GetProperty("number").GetInt32(), plan }));
        Assert.Equal("done", (await server.IssueAsync(piece)).GetProperty("state").GetString());
        return Assert.Single(
            (await server.GetAsync("/api/reports")).EnumerateArray(), r => r.GetProperty("pieceId").GetString() == piece);
    }

    private async Task<List<JsonElement>> OfAsync(JsonElement report) =>
        [.. (await server.GetAsync("/api/outbox")).GetProperty("recent").EnumerateArray()
            .Where(d => d.GetProperty("number").GetString() == Number(report))];

    /// <summary>What went out, once all of it has ended.</summary>
    private async Task<List<JsonElement>> SentAsync(JsonElement report, int expected)
    {
        var queued = await OfAsync(report);
        Assert.Equal(expected, queued.Count);
        foreach (var delivery in queued)
        {
            await server.EndedAsync(delivery.GetProperty("job"));
        }

        return await OfAsync(report);
    }
}
