using System.Net;
using System.Net.Http.Json;
using System.Text;
using Bostel.Core;
using Bostel.Core.Meshes;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging.Abstractions;

namespace Bostel.Server.Tests;

/// <summary>Each bad input: one clear message that names the file or field, nothing half-written.</summary>
public class BadInputTests(ServerFixture server)
{
    [Fact]
    public async Task WithoutSigningInNothingIsShown()
    {
        using var client = server.Factory.CreateClient();
        Assert.Equal(HttpStatusCode.Unauthorized, (await client.GetAsync("/api/floor")).StatusCode);
        using var wrong = await client.PostAsJsonAsync("/api/session", new { user = "inspector", password = "nonsense" });
        Assert.Equal(HttpStatusCode.BadRequest, wrong.StatusCode);
    }

    [Theory]
    [InlineData("photo.jpg", "xx", "'.jpg' files are not read here")]
    [InlineData("empty.stl", "", "the file is empty")]
    public async Task AnUploadOfTheWrongKindIsRefused(string name, string content, string message)
    {
        using var body = new ByteArrayContent(Encoding.UTF8.GetBytes(content));
        using var answer = await server.Client.PostAsync($"/api/uploads?name={name}", body);
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains(message, await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task AnUploadCutOffLeavesNothing()
    {
        var before = await server.ScalarAsync<long>("SELECT count(*) FROM \"Blobs\"");
        using var answer = await server.Client.PostAsync("/api/uploads?name=cut.stl", new CutOff(5000, 200_000));
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains("cut off", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(before, await server.ScalarAsync<long>("SELECT count(*) FROM \"Blobs\""));
        Assert.Empty(Directory.GetFiles(server.BlobFolder, "*.partial"));
    }

    [Fact]
    public async Task AFullDiskIsSaidAndNothingIsKept()
    {
        var folder = Directory.CreateTempSubdirectory("bostel-full-").FullName;
        try
        {
            var contexts = server.Factory.Services.GetRequiredService<IDbContextFactory<BostelContext>>();
            var free = 70L << 20;
            var store = new BlobStore(contexts, folder, NullLogger<BlobStore>.Instance, freeSpace: () => free);
            var content = new byte[3 << 20];
            Random.Shared.NextBytes(content);
            var announced = await Assert.ThrowsAsync<BadInputException>(() => store.SaveAsync(new MemoryStream(content), content.Length));
            Assert.Contains("disk is full", announced.Message, StringComparison.Ordinal);
            free = 68L << 20;
            await Assert.ThrowsAsync<BadInputException>(() => store.SaveAsync(new MemoryStream(content)));
            Assert.Empty(Directory.GetFiles(folder));
            var sha = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(content));
            Assert.Equal(0, await server.ScalarAsync<long>($"SELECT count(*) FROM \"Blobs\" WHERE \"Sha\" = '{sha}'"));

            // Of unknown length: the disk is looked at while it comes in, not only before and after.
            free = 120L << 20;
            var endless = new Endless(() => free -= 1 << 20);
            await Assert.ThrowsAsync<BadInputException>(() => store.SaveAsync(endless));
            Assert.InRange(endless.Given, 1, 64 << 20);
            Assert.Empty(Directory.GetFiles(folder));
            free = 80L << 20;
            Assert.Equal(sha, (await store.SaveAsync(new MemoryStream(content), content.Length)).Sha);
            Assert.Equal(content, await store.BytesAsync(sha));
            File.Delete(Path.Combine(folder, sha));
            Assert.Equal(content, await store.BytesAsync(sha));
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [Theory]
    [InlineData("/api/session", "{\"user\": \"inspector\"}", "password")]
    [InlineData("/api/parts", "{\"number\": \"X\", \"name\": null, \"revision\": \"A\"}", "name")]
    [InlineData("/api/parts", "{\"number\": ", "JSON")]
    public async Task ARequestWithoutAFieldNamesIt(string url, string json, string named)
    {
        using var body = new StringContent(json, Encoding.UTF8, "application/json");
        using var answer = await server.Client.PostAsync(url, body);
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains(named, await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("truncated.stl", "cut off or damaged")]
    [InlineData("words.xyz", "not a point with three numbers")]
    [InlineData("nan.stl", "not finite")]
    public async Task AScanThatCannotBeReadSaysWhyAtThePiece(string name, string message)
    {
        var part = (await server.PostAsync("/api/parts", new { number = "BAD-" + name, name = "x", revision = "A" })).GetProperty("id")
            .GetString();
        var upload = await server.UploadAsync(name, Content(name));
        var piece = await server.PostAsync(
            "/api/pieces", new { partId = part, serial = "1", sha = upload.GetProperty("sha").GetString(), fileName = name, unit = "mm" });
        var job = piece.GetProperty("jobs")[0];
        var ended = await server.EndedAsync(job);
        Assert.Equal("failed", ended.GetProperty("state").GetString());
        Assert.Contains(message, ended.GetProperty("error").GetString(), StringComparison.Ordinal);
        var now = await server.GetAsync($"/api/pieces/{piece.GetProperty("id").GetString()}");
        Assert.StartsWith(name, now.GetProperty("problem").GetString(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task AStepFileWithoutASolidIsRefusedAndThePartKeepsWhatItHad()
    {
        var part = (await server.PostAsync("/api/parts", new { number = "BAD-STEP", name = "x", revision = "A" })).GetProperty("id")
            .GetString();
        const string Hollow = "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\n"
            + "FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n";
        var upload = await server.UploadAsync("hollow.step", Encoding.ASCII.GetBytes(Hollow));
        var job = await server.PostAsync(
            $"/api/parts/{part}/nominal", new { sha = upload.GetProperty("sha").GetString(), fileName = "hollow.step", unit = "mm" });
        var ended = await server.EndedAsync(job);
        Assert.Equal("failed", ended.GetProperty("state").GetString());
        Assert.StartsWith("hollow.step", ended.GetProperty("error").GetString(), StringComparison.Ordinal);
        Assert.Equal(0, await server.ScalarAsync<long>($"SELECT count(*) FROM \"Nominals\" WHERE \"PartId\" = '{part}'"));
    }

    [Fact]
    public async Task TheSameSerialNumberTwiceIsRefused()
    {
        var part = (await server.PostAsync("/api/parts", new { number = "BAD-TWICE", name = "x", revision = "A" })).GetProperty("id")
            .GetString();
        var upload = await server.UploadAsync("a.stl", ServerFixture.Stl(Tetrahedron()));
        var body = new { partId = part, serial = "7", sha = upload.GetProperty("sha").GetString(), fileName = "a.stl", unit = "mm" };
        await server.PostAsync("/api/pieces", body);
        using var second = await server.Client.PostAsJsonAsync("/api/pieces", body);
        Assert.Equal(HttpStatusCode.BadRequest, second.StatusCode);
        Assert.Contains("there already", await second.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    private static TriangleMesh Tetrahedron() => new([0, 0, 0, 10, 0, 0, 0, 10, 0, 0, 0, 10], [0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]);

    private static byte[] Content(string name)
    {
        var good = ServerFixture.Stl(Tetrahedron());
        switch (name)
        {
            case "truncated.stl": return good[..150];
            case "nan.stl":
                BitConverter.TryWriteBytes(good.AsSpan(100), float.NaN);
                return good;
            default: return "1 2 3\n4 5 6\nseven eight nine\n"u8.ToArray();
        }
    }

    /// <summary>A stream without an end, that fills the disk as it is read.</summary>
    private sealed class Endless(Action read) : Stream
    {
        public long Given { get; private set; }

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }

        public override int Read(byte[] buffer, int offset, int count)
        {
            read();
            Given += count;
            return count;
        }

        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }

    /// <summary>A body that announces more than it sends.</summary>
    private sealed class CutOff(int sent, long announced) : HttpContent
    {
        protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context) =>
            await stream.WriteAsync(new byte[sent]);

        protected override bool TryComputeLength(out long length)
        {
            length = announced;
            return true;
        }
    }
}
