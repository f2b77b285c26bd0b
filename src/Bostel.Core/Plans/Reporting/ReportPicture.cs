using System.Text.Json.Serialization;

namespace Bostel.Core.Plans;

/// <summary>A picture in a layout: PNG or JPEG, told by its first bytes and not by its name.</summary>
/// <param name="Base64">The file.</param>
public sealed record ReportPicture(string Base64)
{
    /// <summary>Larger ones would swell every revision of the plan.</summary>
    public const int MostBytes = 400_000;

    private static readonly byte[] Png = [0x89, (byte)'P', (byte)'N', (byte)'G', 0x0D, 0x0A, 0x1A, 0x0A];
    private static readonly byte[] Jpeg = [0xFF, 0xD8, 0xFF];

    /// <summary>What is wrong with it; null when nothing.</summary>
    [JsonIgnore]
    public string? Fault
    {
        get
        {
            if (Base64.Length > MostBytes * 4 / 3)
            {
                return $"a picture has at most {MostBytes / 1000} kB.";
            }

            var bytes = new byte[Base64.Length];
            return !Convert.TryFromBase64String(Base64, bytes, out var length) || TypeOf(bytes.AsSpan(0, length)) is null
                ? "the picture is neither PNG nor JPEG."
                : null;
        }
    }

    /// <summary>As an address that holds the picture itself.</summary>
    [JsonIgnore]
    public string DataAddress => $"data:{TypeOf(Convert.FromBase64String(Base64))};base64,{Base64}";

    private static string? TypeOf(ReadOnlySpan<byte> bytes) =>
        bytes.StartsWith(Png) ? "image/png" : bytes.StartsWith(Jpeg) ? "image/jpeg" : null;
}
