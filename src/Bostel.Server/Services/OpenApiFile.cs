namespace Bostel.Server.Services;

/// <summary>Writes the OpenAPI document and ends: the web's types are generated from it. Needs no database.</summary>
public static class OpenApiFile
{
    public static async Task WriteAsync(WebApplication app, string path)
    {
        app.Urls.Add("http://127.0.0.1:0");
        await app.StartAsync();
        using var client = new HttpClient();
        var document = System.Text.Json.Nodes.JsonNode.Parse(await client.GetStringAsync(app.Urls.First() + "/openapi/v1.json"))!;

        // The address it happened to run at is no part of the contract.
        document.AsObject().Remove("servers");
        await File.WriteAllTextAsync(path, document.ToJsonString(new() { WriteIndented = true }) + "\n");
        await app.StopAsync();
    }
}
