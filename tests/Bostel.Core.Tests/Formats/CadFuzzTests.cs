using System.Text;
using Bostel.Cad;

namespace Bostel.Core.Tests.Formats;

/// <summary>
/// Damaged CAD files: each is translated or refused with one sentence that names it, the child process never takes the parent along, and no
/// folder stays behind.
/// </summary>
public class CadFuzzTests
{
    [Theory]
    [InlineData("pair.step", 1)]
    [InlineData("gate.step", 2)]
    [InlineData("drum.igs", 3)]
    public async Task ADamagedFileIsReadOrRefused(string name, int seed)
    {
        var good = await File.ReadAllBytesAsync(Path.Combine(AppContext.BaseDirectory, "Data", "cad", name));
        var random = new Random(seed);
        var folder = Directory.CreateTempSubdirectory("bostel-fuzz-");
        try
        {
            var refused = 0;
            for (var i = 0; i < 15; i++)
            {
                var path = Path.Combine(folder.FullName, name);
                await File.WriteAllBytesAsync(path, Damage(good, random, i));
                try
                {
                    var model = await CadTranslator.ReadAsync(path, name, new(TimeSpan.FromSeconds(20), 2L << 30));
                    Assert.True(model.Mesh.TriangleCount > 0);
                    Assert.All(model.FaceOfTriangle, f => Assert.InRange(f, 0, model.Faces.Count - 1));
                }
                catch (BadInputException e)
                {
                    refused++;
                    Assert.StartsWith(name, e.Message, StringComparison.Ordinal);
                    Assert.DoesNotContain('\n', e.Message);
                }
            }

            Assert.True(refused > 2, $"{refused} refused: the damage does nothing.");
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    [Fact]
    public async Task ATranslationThatTakesTooLongIsStopped()
    {
        var path = DemoParts.NominalPath("VH-310");
        var error = await Assert.ThrowsAsync<BadInputException>(
            () => CadTranslator.ReadAsync(path, "slow.step", new(TimeSpan.FromMilliseconds(60), 2L << 30)));
        Assert.Contains("longer than the limit", error.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task ATranslationThatNeedsTooMuchMemoryIsStopped()
    {
        var path = DemoParts.NominalPath("VH-310");
        var error = await Assert.ThrowsAsync<BadInputException>(
            () => CadTranslator.ReadAsync(path, "large.step", new(TimeSpan.FromMinutes(1), 60L << 20)));
        Assert.StartsWith("large.step", error.Message, StringComparison.Ordinal);
    }

    private static byte[] Damage(byte[] good, Random random, int kind)
    {
        var bad = (byte[])good.Clone();
        switch (kind % 5)
        {
            case 0: return bad[..random.Next(bad.Length)];
            case 1:
                for (var i = 0; i < 12; i++)
                {
                    bad[random.Next(bad.Length)] = (byte)random.Next(32, 127);
                }

                return bad;
            case 2:
                // A reference leads somewhere else.
                var text = Encoding.Latin1.GetString(bad);
                var at = text.IndexOf(",#", random.Next(text.Length / 2), StringComparison.Ordinal);
                return at < 0 ? bad[..100] : Encoding.Latin1.GetBytes(text[..(at + 2)] + "9" + text[(at + 2)..]);
            case 3:
                var from = random.Next(bad.Length / 2);
                return [.. bad[..from], .. bad[(from + random.Next(2000))..]];
            default:
                // Numbers beyond all measure.
                return Encoding.Latin1.GetBytes(Encoding.Latin1.GetString(bad).Replace("10.", "1.E+300", StringComparison.Ordinal)
                    .Replace("6.", "NAN", StringComparison.Ordinal));
        }
    }
}
