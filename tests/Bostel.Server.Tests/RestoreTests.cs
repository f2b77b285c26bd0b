using System.Diagnostics;
using System.Net.Http.Json;
using System.Security.Cryptography;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace Bostel.Server.Tests;

/// <summary>Backup and restore as docs/operating.md has them: what comes back is all there, without the disk of the old server.</summary>
public class RestoreTests(ServerFixture server)
{
    [Fact]
    public async Task ABackupRestoredElsewhereHoldsScansPlansReportsAndSignIns()
    {
        var part = await server.ClampAsync("RESTORE");
        var piece = await server.CaptureAsync(part, "0001");
        await server.EndedAsync(await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind = "run-plan" }));
        await server.IssueAsync(piece);
        var report = (await server.GetAsync("/api/reports")).EnumerateArray().Single(r => r.GetProperty("pieceId").GetString() == piece);
        var dump = Path.Combine(Path.GetTempPath(), $"bostel-{Guid.NewGuid():N}.dump");
        var (old, restored) = (new NpgsqlConnectionStringBuilder(server.Connection), "restored_" + Guid.NewGuid().ToString("N"));
        var folder = Directory.CreateTempSubdirectory("bostel-restore-").FullName;
        try
        {
            Run(old, "pg_dump", "-Fc", "-f", dump, old.Database!);
            await server.AdminAsync($"CREATE DATABASE {restored} OWNER {old.Username}");
            Run(old, "pg_restore", "--no-owner", "-d", restored, dump);
            old.Database = restored;
            await using var factory = new WebApplicationFactory<Program>().WithWebHostBuilder(b =>
            {
                b.UseSetting("Bostel:Database", old.ConnectionString);
                b.UseSetting("Bostel:Data", folder);
                b.UseSetting("Bostel:OwnTemp", "false");
                b.UseSetting("Bostel:Jobs", "false");
            });
            using var client = await ServerFixture.SignedInAsync(factory, "inspector");
            var there = await client.GetFromJsonAsync<System.Text.Json.JsonElement>($"/api/pieces/{piece}");
            Assert.Equal(
                (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetRawText(), there.GetProperty("run").GetRawText());
            var pdf = await client.GetByteArrayAsync($"/api/reports/{report.GetProperty("id").GetString()}/pdf");
            Assert.Equal(report.GetProperty("pdfSha").GetString(), Convert.ToHexStringLower(SHA256.HashData(pdf)));
            var prepared = there.GetProperty("run").GetProperty("compareStage").GetProperty("preparedKey").GetString();
            Assert.NotEmpty(await client.GetByteArrayAsync($"/api/pieces/{piece}/geometry?prepared={prepared}"));
            Assert.Equal(await server.ScalarAsync<int>("SELECT \"Next\" FROM \"Counters\""),
                await factory.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand("SELECT \"Next\" FROM \"Counters\"")
                .ExecuteScalarAsync());
        }
        finally
        {
            File.Delete(dump);
            Directory.Delete(folder, recursive: true);
            NpgsqlConnection.ClearAllPools();
            await server.AdminAsync($"DROP DATABASE IF EXISTS {restored} WITH (FORCE)");
        }
    }

    private static void Run(NpgsqlConnectionStringBuilder connection, string program, params string[] arguments)
    {
        var bin = Directory.GetDirectories("/usr/lib/postgresql").Order().Last();
        var start = new ProcessStartInfo(Path.Combine(bin, "bin", program));
        start.Environment["PGPASSWORD"] = connection.Password;
        foreach (var argument in (string[])["-h", connection.Host!, "-p", $"{connection.Port}", "-U", connection.Username!, .. arguments])
        {
            start.ArgumentList.Add(argument);
        }

        using var process = Process.Start(start)!;
        process.WaitForExit();
        Assert.Equal((program, 0), (program, process.ExitCode));
    }
}
