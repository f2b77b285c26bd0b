using System.Net;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Bostel.Server.Endpoints;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>The register tells whether a file is what was issued, and whether anything in it was changed.</summary>
public class RegisterTests(ServerFixture server)
{
    /// <summary>One report is spoiled and mended by every case in turn.</summary>
    private static Task<JsonElement>? _spoiled;

    private static Countersignature Signed => new(ServerFixture.Password);

    [Fact]
    public async Task AnIssuedFileIsKnownAndAChangedOneIsNot()
    {
        var report = await IssuedAsync("REG-FILE");
        foreach (var format in report.GetProperty("formats").EnumerateArray().Select(f => f.GetString()!))
        {
            var file = await server.Client.GetByteArrayAsync(Url(report, format));
            var found = await VerifiedAsync(file);
            Assert.Equal((format, report.GetProperty("number").GetString()),
                (found.GetProperty("format").GetString(), found.GetProperty("report").GetProperty("number").GetString()));
            Assert.True(found.GetProperty("report").GetProperty("holds").GetBoolean());

            file[file.Length / 2] ^= 1;
            Assert.Equal(JsonValueKind.Null, (await VerifiedAsync(file)).GetProperty("report").ValueKind);
        }
    }

    /// <summary>The signature is checked with the public key alone, as anybody without the server would.</summary>
    [Fact]
    public async Task TheSignatureOfAnEntryCanBeCheckedWithoutTheServer()
    {
        var report = await IssuedAsync("REG-SIGN");
        var entry = (await VerifiedAsync(await server.Client.GetByteArrayAsync(Url(report, "pdf")))).GetProperty("entry");
        using var key = ECDsa.Create();
        key.ImportFromPem(entry.GetProperty("publicKey").GetString());
        var signature = Convert.FromBase64String(entry.GetProperty("signature").GetString()!);
        Assert.True(key.VerifyData(Encoding.ASCII.GetBytes(entry.GetProperty("hash").GetString()!), signature, HashAlgorithmName.SHA256));
        Assert.False(key.VerifyData("another"u8, signature, HashAlgorithmName.SHA256));

        // What was signed names the file: its hash stands in what was entered.
        Assert.Contains(report.GetProperty("pdfSha").GetString()!, entry.GetProperty("content").GetString(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task ASecondPersonSignsWithTheirPasswordAndANewReportSupersedesTheOld()
    {
        var first = await IssuedAsync("REG-SECOND");
        var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        var url = $"/api/reports/{first.GetProperty("id").GetString()}/countersignature";
        Assert.Equal(HttpStatusCode.Forbidden, (await server.Client.PostAsJsonAsync(url, Signed)).StatusCode);
        var wrong = await approver.PostAsJsonAsync(url, new Countersignature("not the password"));
        Assert.Equal(HttpStatusCode.BadRequest, wrong.StatusCode);
        Assert.Contains("nothing was signed", await wrong.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        var signed = await ServerFixture.JsonAsync(await approver.PostAsJsonAsync(url, Signed));
        Assert.Equal("approver", signed.GetProperty("countersignedBy").GetString());
        Assert.Equal(HttpStatusCode.Conflict, (await approver.PostAsJsonAsync(url, Signed)).StatusCode);

        // Something printed changes: the next report takes the first one's place, and says so.
        var piece = first.GetProperty("pieceId").GetString()!;
        await ChangePlanAsync(piece, plan => plan["report"] = JsonSerializer.SerializeToNode(new { title = "Anew", countersigned = true }));
        await server.IssueAsync(piece);
        var reports = await ReportsAsync(piece);
        var (old, now) = (reports.Single(r => Number(r) == Number(first)), reports.Single(r => Number(r) != Number(first)));
        Assert.Equal((Number(now), false), (old.GetProperty("supersededBy").GetString(), old.GetProperty("holds").GetBoolean()));
        var page = await server.Client.GetStringAsync(Url(now, "html"));
        Assert.Contains($"Replaces {Number(first)}.", page, StringComparison.Ordinal);

        // Opened by its number, the old one says what took its place.
        var record = await server.GetAsync($"/api/reports/{Number(first)}/record");
        Assert.Equal(Number(now), record.GetProperty("report").GetProperty("supersededBy").GetString());
        Assert.Equal(["issued", "countersigned", "superseded"],
            record.GetProperty("entries").EnumerateArray().Select(e => e.GetProperty("event").GetString()));
        Assert.Equal(HttpStatusCode.NotFound, (await server.Client.GetAsync("/api/reports/BR-1/record")).StatusCode);

        // It asks for a second person, and does not hold before.
        Assert.False(now.GetProperty("holds").GetBoolean());
        var held = await ServerFixture.JsonAsync(await approver.PostAsJsonAsync(
            $"/api/reports/{now.GetProperty("id").GetString()}/countersignature", Signed));
        Assert.True(held.GetProperty("holds").GetBoolean());
        Assert.Empty(await FaultsOfAsync(Number(now), Number(first)));
    }

    [Fact]
    public async Task NobodyCountersignsTheirOwnReport()
    {
        var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        var piece = await server.JudgedPieceAsync("REG-OWN");
        await server.IssueAsync(piece, approver);
        var report = Assert.Single(await ReportsAsync(piece));
        var answer = await approver.PostAsJsonAsync($"/api/reports/{report.GetProperty("id").GetString()}/countersignature", Signed);
        Assert.Equal(HttpStatusCode.Conflict, answer.StatusCode);
        Assert.Contains("somebody else must", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task OnlyReleasedPlansAreIssuedAndOnlyWithThePassword()
    {
        var piece = await server.JudgedPieceAsync("REG-RELEASE");
        object Signed(string password) => new { pieces = new[] { piece }, password };
        var refused = await server.PostAsync("/api/issuing", Signed(ServerFixture.Password));
        Assert.Contains("is not released", refused[0].GetProperty("problem").GetString(), StringComparison.Ordinal);
        await server.ReleaseAsync(piece);
        var wrong = await server.Client.PostAsJsonAsync("/api/issuing", Signed("not the password"));
        Assert.Equal(HttpStatusCode.BadRequest, wrong.StatusCode);
        Assert.Contains("nothing was signed", await wrong.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Empty(await ReportsAsync(piece));
        Assert.Equal(HttpStatusCode.BadRequest,
            (await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/jobs", new { kind = "issue" })).StatusCode);
        Assert.Equal("done", (await server.IssueAsync(piece)).GetProperty("state").GetString());
    }

    /// <summary>On a released plan a captured piece is run by itself and waits as a draft; several are issued with one signature.</summary>
    [Fact]
    public async Task EveryNextPieceRunsByItselfAndManyAreIssuedAtOnce()
    {
        var first = await server.JudgedPieceAsync("REG-NEXT");
        var part = (await server.GetAsync($"/api/pieces/{first}")).GetProperty("partId").GetString()!;
        var unasked = await server.CaptureAsync(part, "2");
        Assert.Empty((await server.GetAsync($"/api/pieces/{unasked}")).GetProperty("jobs").EnumerateArray());
        await server.ReleaseAsync(first);
        var second = await server.CaptureAsync(part, "3");
        var run = (await server.GetAsync($"/api/pieces/{second}")).GetProperty("jobs")[0];
        Assert.Equal("run-plan", run.GetProperty("kind").GetString());
        Assert.Equal("done", (await server.EndedAsync(run)).GetProperty("state").GetString());

        async Task<string[]> DraftsAsync() => [.. (await server.GetAsync($"/api/pieces?list=draft&part={part}")).GetProperty("pieces")
            .EnumerateArray().Select(p => p.GetProperty("id").GetString()!).Order()];
        Assert.Equal(((string[])[first, second]).Order(), await DraftsAsync());

        // The one that is not judged says so and does not hold up the others.
        var pieces = new[] { first, unasked, second };
        var answers = (await server.PostAsync("/api/issuing", new { pieces, password = ServerFixture.Password })).EnumerateArray().ToList();
        Assert.Contains("not evaluated yet", answers[1].GetProperty("problem").GetString(), StringComparison.Ordinal);
        foreach (var answer in answers.Where(a => a.GetProperty("job").ValueKind == JsonValueKind.Object))
        {
            Assert.Equal("done", (await server.EndedAsync(answer.GetProperty("job"))).GetProperty("state").GetString());
        }

        Assert.Empty(await DraftsAsync());
        var issued = Assert.Single(await ReportsAsync(second));

        // The table over all of the part has both, with their reports.
        var table = new MemoryStream(await server.Client.GetByteArrayAsync($"/api/parts/{part}/table"));
        var rows = MiniExcelLibs.MiniExcel.Query(table, useHeaderRow: true, sheetName: "All pieces").Cast<IDictionary<string, object?>>();
        Assert.Equal(["3", "1"], rows.Select(r => r["piece"]));
        Assert.Equal(Number(issued), rows.First()["report"]);
    }

    /// <summary>Each thing that is stored of a report is changed in the database, found, and put back.</summary>
    [Theory]
    [InlineData("Reports", "Verdict", "'NotProven'", "is not what was entered")]
    [InlineData("Reports", "IssuedBy", "'somebody'", "is not what was entered")]
    [InlineData("Reports", "PdfSha", "'0000'", "is not what was entered")]
    [InlineData("Reports", "NotePdfSha", "'0000'", "is not what was entered")]
    [InlineData("Reports", "WithdrawnAt", "now()", "the register says otherwise")]
    [InlineData("RegisterEntries", "Who", "'somebody'", "was changed after it was entered")]
    [InlineData("RegisterEntries", "Content", "'{}'", "was changed after it was entered")]
    [InlineData("RegisterEntries", "Signature", "'AAAA'", "signature is not that of a known key")]
    public async Task AChangeInTheDatabaseIsFound(string table, string column, string to, string what)
    {
        var report = await (_spoiled ??= IssuedAsync("REG-SPOILED"));
        var number = Number(report);
        Assert.Empty(await FaultsOfAsync(number));
        var which = table == "Reports" ? "Number" : "Report";
        await server.ExecuteInAsync($"ALTER TABLE \"{table}\" ADD COLUMN kept text; "
            + $"UPDATE \"{table}\" SET kept = \"{column}\"::text WHERE \"{which}\" = '{number}'");
        try
        {
            await server.ExecuteInAsync($"UPDATE \"{table}\" SET \"{column}\" = {to} WHERE \"{which}\" = '{number}'");
            Assert.Contains(await FaultsOfAsync(number), f => f.Contains(what, StringComparison.Ordinal));
        }
        finally
        {
            var type = column.EndsWith("At", StringComparison.Ordinal) ? "timestamptz" : "text";
            await server.ExecuteInAsync($"UPDATE \"{table}\" SET \"{column}\" = kept::{type} WHERE \"{which}\" = '{number}'; "
                + $"ALTER TABLE \"{table}\" DROP COLUMN kept");
        }

        Assert.Empty(await FaultsOfAsync(number));
    }

    [Fact]
    public async Task AChangedFileAndAMissingEntryAreFound()
    {
        var report = await IssuedAsync("REG-GAP");
        var (number, sha) = (Number(report), report.GetProperty("csvSha").GetString());
        var turn = $"UPDATE \"BlobChunks\" SET \"Data\" = set_byte(\"Data\", 0, get_byte(\"Data\", 0) # 1) WHERE \"Sha\" = '{sha}'";
        await server.ExecuteInAsync(turn);
        Assert.Contains(await FaultsOfAsync(number), f => f == "its csv was changed");
        await server.ExecuteInAsync(turn);

        await IssuedAsync("REG-GAP-NEXT");
        await server.ExecuteInAsync(
            $"CREATE TABLE gone AS SELECT * FROM \"RegisterEntries\" WHERE \"Report\" = '{number}'; "
                + $"DELETE FROM \"RegisterEntries\" WHERE \"Report\" = '{number}'");
        try
        {
            var faults = (await server.GetAsync("/api/register/check")).GetProperty("faults").EnumerateArray()
                .Select(f => f.GetProperty("what").GetString()!).ToList();
            Assert.Contains(faults, f => f.EndsWith("are missing", StringComparison.Ordinal));
            Assert.Contains(await FaultsOfAsync(number), f => f.Contains("was not entered once", StringComparison.Ordinal));
        }
        finally
        {
            await server.ExecuteInAsync("INSERT INTO \"RegisterEntries\" SELECT * FROM gone; DROP TABLE gone");
        }

        Assert.Empty(await FaultsOfAsync(number));
    }

    [Fact]
    public async Task ReportsOfBeforeTheRegisterAreEntered()
    {
        // As if it had been issued before: its entry, the last one, was never made.
        var number = Number(await IssuedAsync("REG-EARLIER"));
        await server.ExecuteInAsync($"DELETE FROM \"RegisterEntries\" WHERE \"Report\" = '{number}'; "
            + "UPDATE \"Counters\" SET \"Next\" = \"Next\" - 1 WHERE \"Name\" = 'register'");
        Assert.Equal(["was not entered once when it was issued"], await FaultsOfAsync(number));
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var reports = scope.ServiceProvider.GetRequiredService<Services.ReportService>();
        await reports.EnterEarlierAsync(CancellationToken.None);
        Assert.Empty(await FaultsOfAsync(number));

        // Once more there is nothing to enter.
        var before = (await server.GetAsync("/api/register")).GetArrayLength();
        await reports.EnterEarlierAsync(CancellationToken.None);
        Assert.Equal(before, (await server.GetAsync("/api/register")).GetArrayLength());
    }

    [Fact]
    public async Task ManyWithdrawalsAtOnceAreOne()
    {
        var report = await IssuedAsync("REG-ONCE");
        var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        var url = $"/api/reports/{report.GetProperty("id").GetString()}/withdrawal";
        var answers = await Task.WhenAll(Enumerable.Range(0, 6)
            .Select(i => approver.PostAsJsonAsync(url, new Withdrawal($"reason {i}", ServerFixture.Password))));
        Assert.Equal(5, answers.Count(a => a.StatusCode == HttpStatusCode.Conflict));
        Assert.Single(answers, a => a.StatusCode == HttpStatusCode.OK);
        Assert.Single((await server.GetAsync("/api/register")).EnumerateArray(), e =>
            e.GetProperty("report").GetString() == Number(report) && e.GetProperty("event").GetString() == "withdrawn");
        Assert.Empty(await FaultsOfAsync(Number(report)));
    }

    private async Task<JsonElement> IssuedAsync(string part)
    {
        var piece = await server.JudgedPieceAsync(part);
        await server.IssueAsync(piece);
        return Assert.Single(await ReportsAsync(piece));
    }

    private async Task ChangePlanAsync(string piece, Action<System.Text.Json.Nodes.JsonNode> change)
    {
        var part = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("partId").GetString();
        var stored = await server.GetAsync($"/api/parts/{part}/plan");
        var plan = System.Text.Json.Nodes.JsonNode.Parse(stored.GetProperty("plan").GetRawText())!;
        change(plan);
        await ServerFixture.JsonAsync(await server.Client.PutAsJsonAsync(
            $"/api/parts/{part}/plan", new { basedOn = stored.GetProperty("number").GetInt32(), plan }));
    }

    private async Task<List<JsonElement>> ReportsAsync(string piece) =>
        [.. (await server.GetAsync("/api/reports")).EnumerateArray().Where(r => r.GetProperty("pieceId").GetString() == piece)];

    private async Task<JsonElement> VerifiedAsync(byte[] file) =>
        await ServerFixture.JsonAsync(await server.Client.PostAsync("/api/register/verification", new ByteArrayContent(file)));

    private async Task<List<string>> FaultsOfAsync(params string[] reports) =>
        [.. (await server.GetAsync("/api/register/check")).GetProperty("faults").EnumerateArray()
            .Where(f => reports.Contains(f.GetProperty("report").GetString())).Select(f => f.GetProperty("what").GetString()!)];

    private static string Number(JsonElement report) => report.GetProperty("number").GetString()!;

    private static string Url(JsonElement report, string format) => $"/api/reports/{report.GetProperty("id").GetString()}/{format}";
}
