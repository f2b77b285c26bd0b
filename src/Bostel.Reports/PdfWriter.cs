using System.Text;
using Bostel.Core.ReferenceCases;
using Bostel.Reports.Viewer;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Components.Web;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Microsoft.Extensions.Logging.Abstractions;
using PuppeteerSharp;

namespace Bostel.Reports;

/// <summary>
/// A report or a certificate as HTML (one self-contained file) and as PDF: the HTML printed by Debian's Chromium. One browser process
/// serves all of a process; it is started when first needed.
/// </summary>
public sealed class PdfWriter : IAsyncDisposable
{
    private readonly SemaphoreSlim _gate = new(1, 1);
    private IBrowser? _browser;

    public static Task<string> HtmlAsync(ReportModel report) => HtmlAsync<InspectionReport>(report);

    /// <summary>
    /// One file that works alone, with the map inside to turn and read; a page that runs a script, so never one of our own.
    /// </summary>
    /// <param name="map">Null: it has no triangles to draw.</param>
    public static Task<string> HtmlAsync(ReportModel report, ViewerData? map) => map is null ? HtmlAsync(report)
        : HtmlAsync<InspectionReport>(report, new() { ["Map"] = map, ["Script"] = Encoding.UTF8.GetString(Resource("viewer.js")) });

    public static Task<string> HtmlAsync(Certificate certificate) => HtmlAsync<CertificateSheet>(certificate);

    private static async Task<string> HtmlAsync<TSheet>(object model, Dictionary<string, object?>? more = null)
        where TSheet : IComponent
    {
        await using var services = new ServiceCollection().AddSingleton<ILoggerFactory>(NullLoggerFactory.Instance).BuildServiceProvider();
        await using var renderer = new HtmlRenderer(services, NullLoggerFactory.Instance);
        return await renderer.Dispatcher.InvokeAsync(async () =>
        {
            var parameters = ParameterView.FromDictionary(
                new Dictionary<string, object?>(more ?? []) { ["Model"] = model, ["Style"] = Style() });
            return (await renderer.RenderComponentAsync<TSheet>(parameters)).ToHtmlString();
        }).ConfigureAwait(false);
    }

    public async Task<byte[]> PdfAsync(ReportModel report) => await PrintAsync(await HtmlAsync(report).ConfigureAwait(false))
        .ConfigureAwait(false);

    /// <summary>The note to manufacturing with one picture.</summary>
    public async Task<byte[]> NotePdfAsync(ReportModel report) =>
        await PrintAsync(await HtmlAsync<NoteSheet>(report).ConfigureAwait(false)).ConfigureAwait(false);

    public async Task<byte[]> PdfAsync(Certificate certificate) => await PrintAsync(await HtmlAsync(certificate).ConfigureAwait(false))
        .ConfigureAwait(false);

    /// <summary>Starts the browser beside other work; what goes wrong is said when something is printed.</summary>
    public void Warm() => _ = Task.Run(async () =>
    {
        await _gate.WaitAsync().ConfigureAwait(false);
        try
        {
            await RunningAsync().ConfigureAwait(false);
        }
        catch (Exception e) when (e is InvalidOperationException or PuppeteerException or IOException)
        {
            _browser = null;
        }
        finally
        {
            _gate.Release();
        }
    });

    private async Task<IBrowser> RunningAsync() => _browser is { IsConnected: true }
        ? _browser
        : _browser = await LaunchAsync().ConfigureAwait(false);

    private async Task<byte[]> PrintAsync(string html)
    {
        await _gate.WaitAsync().ConfigureAwait(false);
        try
        {
            var browser = await RunningAsync().ConfigureAwait(false);

            await using var page = await browser.NewPageAsync().ConfigureAwait(false);

            // The report holds all it needs: whatever it might be made to ask for, it does not get.
            await page.SetJavaScriptEnabledAsync(false).ConfigureAwait(false);
            await page.SetOfflineModeAsync(true).ConfigureAwait(false);
            await page.SetContentAsync(html).ConfigureAwait(false);
            return await page.PdfDataAsync(
                new() { PreferCSSPageSize = true, PrintBackground = true, Tagged = true, Outline = true }).ConfigureAwait(false);
        }
        finally
        {
            _gate.Release();
        }
    }

    public async ValueTask DisposeAsync()
    {
        if (_browser is not null)
        {
            await _browser.DisposeAsync().ConfigureAwait(false);
        }

        _gate.Dispose();
    }

    private static async Task<IBrowser> LaunchAsync()
    {
        var path = Environment.GetEnvironmentVariable("BOSTEL_CHROMIUM") ?? "/usr/bin/chromium";
        return !File.Exists(path)
            ? throw new InvalidOperationException($"Reports need Chromium at {path}: install Debian's package 'chromium'.")
            : await Puppeteer.LaunchAsync(new()
            {
                ExecutablePath = path,
                Headless = true,
                Args =
                [
                    .. Environment.IsPrivilegedProcess ? (string[])["--no-sandbox"] : [],
                    "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
                    "--disable-sync",
                    "--disable-extensions",
                ],
            }).ConfigureAwait(false);
    }

    private static byte[] Resource(string name)
    {
        using var stream = typeof(PdfWriter).Assembly.GetManifestResourceStream(name)
            ?? throw new InvalidOperationException($"The resource {name} is missing.");
        using var memory = new MemoryStream();
        stream.CopyTo(memory);
        return memory.ToArray();
    }

    private static string Style()
    {
        static string Face(string family, string file) =>
            $"@font-face {{ font-family: {family}; font-weight: 200 800; src: "
                + $"url(data:font/woff2;base64,{Convert.ToBase64String(Resource(file))}) format('woff2'); }}\n";
        return Face("Text", "text.woff2") + Face("Mono", "mono.woff2") + Encoding.UTF8.GetString(Resource("report.css"));
    }
}
