using Bostel.Data;
using Bostel.Server.Demo;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server;

/// <summary>What is done once when a server starts, before it answers.</summary>
internal static class StartUp
{
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(1);

    /// <summary>Waits for a database that is not there yet; whatever was begun is begun anew.</summary>
    /// <param name="data">The server's own folder.</param>
    public static async Task RunAsync(IServiceProvider services, IConfiguration settings, string data, CancellationToken cancel)
    {
        Leftovers.Clear(data);
        services.GetRequiredService<BlobStore>().ClearPartials();
        var until = DateTime.UtcNow + Patience;
        while (true)
        {
            try
            {
                await using var scope = services.CreateAsyncScope();
                await FillAsync(scope.ServiceProvider, settings, cancel);
                return;
            }
            catch (Exception e) when (DatabaseAway.Is(e) && DateTime.UtcNow < until)
            {
                Console.WriteLine($"The database cannot be reached ({e.GetBaseException().Message}); trying again ...");
                await Task.Delay(TimeSpan.FromSeconds(1), cancel);
            }
        }
    }

    private static async Task FillAsync(IServiceProvider services, IConfiguration settings, CancellationToken cancel)
    {
        var context = services.GetRequiredService<BostelContext>();
        await context.Database.MigrateAsync(cancel);
        await services.GetRequiredService<SignInGuard>().ForgetAsync(cancel);
        await services.GetRequiredService<ReportService>().EnterEarlierAsync(cancel);
        if (settings["Bostel:Demo"] is { Length: > 0 } folder)
        {
            var demo = services.GetRequiredService<DemoData>();
            await demo.EnsurePeopleAsync(cancel);
            await demo.EnsurePartsAsync(folder, cancel);
        }
        else if (await FirstAccount.EnsureAsync(
            context, services.GetRequiredService<Accounts>(), settings["Bostel:FirstPassword"], cancel) is { } password)
        {
            // On the console and nowhere else; it is worth nothing once it was changed.
            Console.WriteLine(
                $"\nThe first account: {FirstAccount.Name}, one-time password {password} ; it must be changed at the first sign-in.\n");
        }
    }
}
