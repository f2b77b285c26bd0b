using System.Text;
using Bostel.Core.Formats;

namespace Bostel.Core.Tests.Formats;

/// <summary>
/// Hundreds of damaged files made from good ones by a seeded hand: each is either read or refused with one sentence that names the file.
/// Nothing else may come out, in bounded memory.
/// </summary>
public class FuzzTests
{
    private const int Variants = 60;
    private const long MostBytes = 256L << 20;

    public static TheoryData<string> Good() =>
        [.. Directory.GetFiles(Path.Combine(AppContext.BaseDirectory, "Data", "formats")).Select(
            f => Path.GetFileName(f)).Where(n => n is not ("README.md" or "expected.json")).Order(), "cloud.xyz", "cloud.pts", "cube.off"];

    [Theory]
    [MemberData(nameof(Good))]
    public void ADamagedFileIsReadOrRefusedInOneSentence(string name)
    {
        var good = Content(name);
        _ = MeshFormats.Read(new MemoryStream(good), name);
        var random = new Random(name.Sum(c => c));
        var refused = 0;
        for (var i = 0; i < Variants; i++)
        {
            var bad = Damage(good, random, i);
            var before = GC.GetAllocatedBytesForCurrentThread();
            try
            {
                var mesh = MeshFormats.Read(new MemoryStream(bad), name).Mesh;
                Assert.All(mesh.Indices, v => Assert.InRange(v, 0, mesh.VertexCount - 1));
                Assert.DoesNotContain(mesh.Coordinates, double.IsNaN);
            }
            catch (BadInputException e)
            {
                refused++;
                Assert.StartsWith(name, e.Message, StringComparison.Ordinal);
                Assert.DoesNotContain("   at ", e.Message, StringComparison.Ordinal);
                Assert.InRange(e.Message.Length, name.Length + 5, 400);
            }

            Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, MostBytes);
        }

        Assert.True(refused > 5, $"{refused} of {Variants} refused: the damage does nothing.");
    }

    private static byte[] Damage(byte[] good, Random random, int kind)
    {
        var bad = (byte[])good.Clone();
        switch (kind % 6)
        {
            case 0: return bad[..random.Next(bad.Length)];
            case 1:
                for (var i = 0; i < 1 + random.Next(20); i++)
                {
                    bad[random.Next(bad.Length)] = (byte)random.Next(256);
                }

                return bad;
            case 2:
                // In the head, where counts and kinds stand.
                for (var i = 0; i < 3; i++)
                {
                    bad[random.Next(Math.Min(bad.Length, 400))] ^= (byte)(1 << random.Next(8));
                }

                return bad;
            case 3:
                var from = random.Next(bad.Length);
                return [.. bad[..from], .. bad[Math.Min(bad.Length, from + random.Next(200))..]];
            case 4:
                random.NextBytes(bad.AsSpan(random.Next(bad.Length)));
                return bad;
            default:
                // A digit becomes nine of them: counts grow beyond all bounds.
                var at = Array.FindIndex(bad, random.Next(Math.Min(bad.Length, 300)), b => b is >= (byte)'0' and <= (byte)'9');
                return at < 0 ? [.. bad, .. bad] : [.. bad[..at], .. "999999999"u8, .. bad[at..]];
        }
    }

    private static byte[] Content(string name) => name switch
    {
        "cloud.xyz" =>
            Encoding.ASCII.GetBytes("x y z\n" + string.Concat(Enumerable.Range(0, 200).Select(i => $"{i}.5 {i * i % 17} {i % 7}.25\n"))),
        "cloud.pts" =>
            Encoding.ASCII.GetBytes(
                "200\n" + string.Concat(Enumerable.Range(0, 200).Select(i => $"{i}.5 {i * i % 17} {i % 7}.25 {i} 10 20 30\n"))),
        "cube.off" => Encoding.ASCII.GetBytes("OFF\n4 4 6\n0 0 0\n1 0 0\n0 1 0\n0 0 1\n3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n"),
        _ => File.ReadAllBytes(Path.Combine(AppContext.BaseDirectory, "Data", "formats", name)),
    };
}
