using System.Text.Json;
using System.Text.Json.Serialization;

namespace Bostel.Server.Services;

/// <summary>
/// How records are kept in text columns. Numbers come back to the last bit; infinities occur in pose uncertainties of turned parts.
/// </summary>
public static class StoredJson
{
    public static readonly JsonSerializerOptions Options =
        new(JsonSerializerDefaults.Web)
        {
            NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals,
            AllowOutOfOrderMetadataProperties = true,
        };

    public static string Write<T>(T value) => JsonSerializer.Serialize(value, Options);

    public static T Read<T>(string json) => JsonSerializer.Deserialize<T>(json, Options)!;
}
