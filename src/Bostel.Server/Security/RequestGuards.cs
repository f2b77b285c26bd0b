using System.Net;
using Microsoft.AspNetCore.HttpOverrides;

namespace Bostel.Server.Security;

/// <summary>What every answer carries and every request must satisfy, whoever sends it.</summary>
public static class RequestGuards
{
    /// <summary>Of a request's body, unless an endpoint says otherwise.</summary>
    public const long MostBody = 256 << 10;

    /// <summary>Of a plan, or of preparing steps with drawn selections.</summary>
    public const long MostPlan = 16 << 20;

    /// <summary>Of a file that is streamed in.</summary>
    public const long MostFile = 3L << 30;

    // Styles are set on elements by the components for layout; script comes from our own files only, with the WebAssembly in them that
    // decodes geometry.
    private const string PagePolicy =
        "default-src 'none'; img-src data:; font-src data:; style-src 'unsafe-inline'; frame-ancestors 'self'; sandbox";

    /// <summary>A page of a report: it runs nothing, reaches nothing, and may stand inside the application alone.</summary>
    public static void AllowInOwnFrame(IHeaderDictionary headers)
    {
        headers.ContentSecurityPolicy = PagePolicy;
        headers.XFrameOptions = "SAMEORIGIN";
    }

    private const string Policy =
        "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; "
        + "img-src 'self' data: blob:; font-src 'self' data:; worker-src 'self' blob:; "
        + "connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

    private static readonly string[] Safe = ["GET", "HEAD", "OPTIONS"];

    /// <summary>Trusts what named proxies say about the caller's address and scheme; nobody else's word counts.</summary>
    /// <param name="proxies">Addresses or networks, apart by commas; empty: none.</param>
    public static void UseProxies(WebApplication app, string? proxies)
    {
        if (string.IsNullOrWhiteSpace(proxies))
        {
            return;
        }

        var options =
            new ForwardedHeadersOptions
            {
                ForwardedHeaders =
                ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost
            };
        options.KnownProxies.Clear();
        options.KnownIPNetworks.Clear();
        foreach (var proxy in proxies.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (proxy.Contains('/', StringComparison.Ordinal))
            {
                options.KnownIPNetworks.Add(System.Net.IPNetwork.Parse(proxy));
            }
            else
            {
                options.KnownProxies.Add(IPAddress.Parse(proxy));
            }
        }

        app.UseForwardedHeaders(options);
    }

    public static void UseHeadersAndOrigin(WebApplication app) => app.Use(async (http, next) =>
    {
        var headers = http.Response.Headers;
        headers.ContentSecurityPolicy = Policy;
        headers.XContentTypeOptions = "nosniff";
        headers.XFrameOptions = "DENY";
        headers["Referrer-Policy"] = "same-origin";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        headers["Cross-Origin-Resource-Policy"] = "same-origin";
        if (!Safe.Contains(http.Request.Method) && !FromHere(http.Request))
        {
            await TypedResults.Problem("The request came from a page of another site and was refused.",
                statusCode: StatusCodes.Status403Forbidden).ExecuteAsync(http);
            return;
        }

        await next();
    });

    /// <summary>Browsers name the page's origin with whatever changes something; programs that are no browsers need not.</summary>
    private static bool FromHere(HttpRequest request)
    {
        if (request.Headers.Origin is [{ } origin])
        {
            return string.Equals(origin, $"{request.Scheme}://{request.Host}", StringComparison.OrdinalIgnoreCase);
        }

        return request.Headers["Sec-Fetch-Site"].ToString() is "" or "same-origin" or "none";
    }
}
