using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;

namespace Bostel.Server.Services;

/// <summary>Where people reach this server: as configured, or where it listens.</summary>
public sealed class PublicAddress(IConfiguration configuration, IServer server)
{
    /// <summary>The page of the register that shows a report; null: nobody knows where people reach the server.</summary>
    public string? Of(string number)
    {
        var start = configuration["Bostel:Address"] is { Length: > 0 } told
            ? told
            : server.Features.Get<IServerAddressesFeature>()?.Addresses.FirstOrDefault()

                // The demo's reports are issued before the server listens.
                ?? configuration[WebHostDefaults.ServerUrlsKey]?.Split(';')[0];
        return start is null ? null : $"{start.TrimEnd('/')}/reports/{Uri.EscapeDataString(number)}";
    }
}
