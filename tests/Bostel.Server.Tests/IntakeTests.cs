namespace Bostel.Server.Tests;

/// <summary>The watched folder: good files become pieces, bad ones go aside with their reason and leave nothing behind.</summary>
public class IntakeTests(ServerFixture server)
{
    [Fact]
    public async Task AGoodFileIsFiledUnderItsPart()
    {
        var part = await server.ClampAsync("IN-1");
        await PutAsync("IN-1-0007.stl", Tetrahedron());
        await UntilAsync(() => File.Exists(Path.Combine(server.IntakeFolder, "taken", "IN-1-0007.stl")));
        var piece = (await server.GetAsync($"/api/pieces?part={part}")).GetProperty("pieces").EnumerateArray().Single();
        Assert.Equal(("0007", 4), (piece.GetProperty("serial").GetString(), await TrianglesAsync(piece.GetProperty("id").GetString()!)));
        var seen = (await server.GetAsync("/api/intake")).GetProperty("recent").EnumerateArray();
        Assert.Contains(
            seen, a => a.GetProperty("subject").GetString() == "IN-1-0007.stl" && a.GetProperty("action").GetString() == "took a file in");

        // The same serial number again is a mistake, not a second piece.
        await PutAsync("IN-1_0007.stl", Tetrahedron());
        await ExpectAsideAsync("IN-1_0007.stl", "there already");
    }

    [Theory]
    [InlineData("NOBODY-1.stl", "no part number")]
    [InlineData("IN-2.stl", "serial number")]
    [InlineData("IN-2-cut.stl", "cut off or damaged")]
    [InlineData("IN-2-photo.jpg", "not a mesh or point format")]
    [InlineData("IN-2-empty.ply", "empty")]
    public async Task ABadFileGoesAsideWithItsReason(string name, string reason)
    {
        var part = await PartAsync();
        var content = name.Contains("cut", StringComparison.Ordinal)
            ? Tetrahedron()[..150] : name.Contains("empty", StringComparison.Ordinal) ? [] : Tetrahedron();
        var blobs = await server.ScalarAsync<long>("SELECT count(*) FROM \"Blobs\"");
        await PutAsync(name, content);
        await ExpectAsideAsync(name, reason);
        Assert.Equal(blobs, await server.ScalarAsync<long>("SELECT count(*) FROM \"Blobs\""));
        Assert.Equal(0, await server.ScalarAsync<long>($"SELECT count(*) FROM \"Pieces\" WHERE \"PartId\" = '{part}'"));
    }

    [Fact]
    public async Task AFileThatStillGrowsIsLeftAlone()
    {
        await server.ClampAsync("IN-3");
        var path = Path.Combine(server.IntakeFolder, "IN-3-0001.stl");
        var content = Tetrahedron();
        await using (var slow = new FileStream(path, FileMode.Create, FileAccess.Write, FileShare.ReadWrite))
        {
            // For more than a second, several looks long, it is never still.
            for (var i = 0; i < 60; i++)
            {
                await slow.WriteAsync(content.AsMemory(0, 1 + (content.Length * i / 60)));
                slow.Position = 0;
                slow.SetLength(1 + (content.Length * i / 60));
                await slow.FlushAsync();
                await Task.Delay(20);
                Assert.True(File.Exists(path));
            }

            slow.SetLength(content.Length);
            await slow.WriteAsync(content);
        }

        await UntilAsync(() => File.Exists(Path.Combine(server.IntakeFolder, "taken", "IN-3-0001.stl")));
    }

    private static Task<string>? _part;

    private Task<string> PartAsync() => _part ??= server.ClampAsync("IN-2");

    private async Task PutAsync(string name, byte[] content) =>
        await File.WriteAllBytesAsync(Path.Combine(server.IntakeFolder, name), content);

    private async Task ExpectAsideAsync(string name, string reason)
    {
        var note = Path.Combine(server.IntakeFolder, "aside", name + ".reason.txt");
        await UntilAsync(() => File.Exists(note) && new FileInfo(note).Length > 0);
        var text = await File.ReadAllTextAsync(note);
        Assert.StartsWith(name, text, StringComparison.Ordinal);
        Assert.Contains(reason, text, StringComparison.Ordinal);
        Assert.True(File.Exists(Path.Combine(server.IntakeFolder, "aside", name)));
        Assert.False(File.Exists(Path.Combine(server.IntakeFolder, name)));
    }

    private async Task<int> TrianglesAsync(string piece)
    {
        await server.EndedAsync((await server.GetAsync($"/api/pieces/{piece}")).GetProperty("jobs")[0]);
        return (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("triangles").GetInt32();
    }

    private static async Task UntilAsync(Func<bool> condition)
    {
        for (var i = 0; i < 300; i++)
        {
            if (condition())
            {
                return;
            }

            await Task.Delay(100);
        }

        throw new TimeoutException("Nothing happened within half a minute.");
    }

    private static byte[] Tetrahedron() =>
        ServerFixture.Stl(new([0, 0, 0, 10, 0, 0, 0, 10, 0, 0, 0, 10], [0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]));
}
