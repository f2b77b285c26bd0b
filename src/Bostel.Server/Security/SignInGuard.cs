using System.Net;
using Bostel.Core;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Security;

/// <summary>
/// Slows guessing down, by address and by name, over all servers. Nobody can lock another person out: the limit by name does not hold for
/// addresses from which that person has signed in before, and an address is limited for itself only.
/// </summary>
public sealed class SignInGuard(BostelContext context)
{
    public const int MostOfAddress = 20;
    public const int MostOfName = 10;
    private static readonly TimeSpan Window = TimeSpan.FromMinutes(5);
    private static readonly TimeSpan Remembered = TimeSpan.FromDays(30);

    /// <exception cref="TooManyTriesException">Too many tries failed lately; the same sentence whether the name exists or not.</exception>
    public async Task RequireFreeAsync(IPAddress? from, string name, CancellationToken cancel)
    {
        var (now, address, key) = (DateTimeOffset.UtcNow, AddressOf(from), KeyOf(name));
        var since = now - Window;
        var failures = context.SignInAttempts.Where(a => a.At > since && !a.Succeeded);
        var ofAddress = await failures.Where(a => a.Address == address).OrderByDescending(a => a.At).Take(MostOfAddress).Select(a => a.At)
            .ToListAsync(cancel);
        if (ofAddress.Count == MostOfAddress)
        {
            throw Wait(ofAddress[^1], now);
        }

        var known = await context.SignInAttempts.AnyAsync(
            a => a.Succeeded && a.Address == address && a.NameKey == key && a.At > now - Remembered, cancel);
        var ofName = failures.Where(a => a.NameKey == key);
        var counted = await (known ? ofName.Where(a => a.Address == address) : ofName).OrderByDescending(a => a.At).Take(MostOfName)
            .Select(a => a.At).ToListAsync(cancel);
        if (counted.Count == MostOfName)
        {
            throw Wait(counted[^1], now);
        }
    }

    /// <summary>Whoever signs says the password again.</summary>
    /// <exception cref="BadInputException">It is wrong; tries are counted as those of signing in are.</exception>
    public async Task RequirePasswordAsync(HttpContext http, string password, CancellationToken cancel)
    {
        var from = http.Connection.RemoteIpAddress;
        await RequireFreeAsync(from, http.User.Name(), cancel);
        var account = await context.Accounts.SingleAsync(a => a.Id == http.User.AccountId(), cancel);
        if (!Accounts.Matches(account, password))
        {
            Count(from, account.Name, succeeded: false);
            await context.SaveChangesAsync(cancel);
            throw new BadInputException("password: it is wrong; nothing was signed.");
        }
    }

    /// <summary>Counts a try; a failed one is in the log.</summary>
    public void Count(IPAddress? from, string name, bool succeeded)
    {
        context.SignInAttempts.Add(
            new() { At = DateTimeOffset.UtcNow, Address = AddressOf(from), NameKey = KeyOf(name), Succeeded = succeeded });
        if (!succeeded)
        {
            context.Record(KeyOf(name), "failed to sign in", "session", $"from {AddressOf(from)}");
        }
    }

    /// <summary>Forgets tries that no limit looks at any more.</summary>
    public Task ForgetAsync(CancellationToken cancel)
    {
        var before = DateTimeOffset.UtcNow - Remembered;
        return context.SignInAttempts.Where(a => a.At < before).ExecuteDeleteAsync(cancel);
    }

    private static TooManyTriesException Wait(DateTimeOffset oldest, DateTimeOffset now)
    {
        var wait = oldest + Window - now;
        return new($"Too many wrong tries: wait {Math.Max(1, (int)Math.Ceiling(wait.TotalMinutes))} minutes.", wait);
    }

    /// <summary>An IPv6 network is one household: its addresses count as one.</summary>
    private static string AddressOf(IPAddress? from)
    {
        if (from is null)
        {
            return "local";
        }

        var address = from.IsIPv4MappedToIPv6 ? from.MapToIPv4() : from;
        return address.GetAddressBytes() is { Length: 16 } bytes
            ? Convert.ToHexStringLower(bytes.AsSpan(0, 8)) + "/64"
            : address.ToString();
    }

    private static string KeyOf(string name) => new([.. Accounts.KeyOf(name).Where(c => !char.IsControl(c)).Take(Account.MostName)]);
}
