using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Security;

/// <summary>
/// A database without accounts gets one administrator, with a password of its own: given by whoever starts the server, or told once on its
/// console.
/// </summary>
public static class FirstAccount
{
    public const string Name = "administrator";

    /// <param name="given">The password chosen at the start; null: a one-time password that must be changed.</param>
    /// <returns>The one-time password, when one was made.</returns>
    public static async Task<string?> EnsureAsync(BostelContext context, Accounts accounts, string? given, CancellationToken cancel)
    {
        if (await context.Accounts.AnyAsync(cancel))
        {
            return null;
        }

        var oneTime = string.IsNullOrEmpty(given) ? Accounts.OneTimePassword() : null;
        await accounts.AddAsync(Name, oneTime ?? given!, Role.Administrator, mustChange: oneTime is not null, cancel);
        context.Record(Name, "made the first account", Name);
        await context.SaveChangesAsync(cancel);
        return oneTime;
    }
}
