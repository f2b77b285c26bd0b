using System.Security.Cryptography;
using Bostel.Core;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Data;

/// <summary>Adds people, changes what they may do and checks their passwords; used by the server and by 'bostel user'.</summary>
public sealed class Accounts(BostelContext context)
{
    public const int LeastPassword = 10;
    private const int MostPassword = 200;
    private const string OneTimeLetters = "abcdefghjkmnpqrstuvwxyz23456789";

    private static readonly PasswordHasher<Account> Hasher = new();

    private static readonly Account Nobody = new() { Name = "", NameKey = "", PasswordHash = "", Stamp = "" };

    /// <summary>Checked when there is no such account, so that the answer takes as long as with one.</summary>
    private static readonly Lazy<string> NobodysHash = new(() => Hasher.HashPassword(Nobody, OneTimePassword()));

    /// <summary>Adds an account; the password is the person's own unless they are to change it at once.</summary>
    /// <exception cref="BadInputException">The name is taken or not one, the password is too short.</exception>
    public async Task<Account> AddAsync(string name, string password, Role role, bool mustChange, CancellationToken cancel = default)
    {
        name = name.Trim();
        if (name.Length is 0 or > Account.MostName || name.Any(char.IsControl))
        {
            throw new BadInputException($"name: an account needs a name of at most {Account.MostName} characters.");
        }

        RequirePassword(password);
        if (await FindAsync(name, cancel).ConfigureAwait(false) is not null)
        {
            throw new BadInputException($"name: there is an account '{name}' already.");
        }

        var account = new Account
        {
            Id = Guid.NewGuid(),
            Name = name,
            NameKey = KeyOf(name),
            PasswordHash = Hasher.HashPassword(Nobody, password),
            Role = role,
            MustChange = mustChange,
            Stamp = NewStamp(),
            CreatedAt = DateTimeOffset.UtcNow,
        };
        context.Accounts.Add(account);
        return account;
    }

    public Task<Account?> FindAsync(string name, CancellationToken cancel = default)
    {
        var key = KeyOf(name);
        return context.Accounts.SingleOrDefaultAsync(a => a.NameKey == key, cancel);
    }

    /// <summary>Whether the password is the account's. Takes as long without an account.</summary>
    public static bool Matches(Account? account, string password)
    {
        var matches = Hasher.VerifyHashedPassword(
            account ?? Nobody, account?.PasswordHash ?? NobodysHash.Value, password) != PasswordVerificationResult.Failed;
        return matches && account is { Disabled: false };
    }

    /// <summary>A new password; all open sign-ins of the account end.</summary>
    public static void SetPassword(Account account, string password, bool mustChange)
    {
        RequirePassword(password);
        (account.PasswordHash, account.MustChange) = (Hasher.HashPassword(account, password), mustChange);
        EndSignIns(account);
    }

    public static void EndSignIns(Account account) => account.Stamp = NewStamp();

    /// <summary>Disables or enables an account, or changes its role; the last administrator stays one.</summary>
    /// <exception cref="BadInputException">Nobody would be left to look after people.</exception>
    public async Task ChangeAsync(Account account, Role role, bool disabled, CancellationToken cancel = default)
    {
        var loses = account is { Role: Role.Administrator, Disabled: false } && (role != Role.Administrator || disabled);
        if (loses && !await context.Accounts.AnyAsync(a => a.Id != account.Id && a.Role == Role.Administrator && !a.Disabled, cancel)
            .ConfigureAwait(false))
        {
            throw new BadInputException($"role: {account.Name} is the only administrator; make another one first.");
        }

        (account.Role, account.Disabled) = (role, disabled);
        EndSignIns(account);
    }

    /// <summary>A password to be told once and changed at the first sign-in.</summary>
    public static string OneTimePassword() =>
        string.Join('-', Enumerable.Range(0, 4).Select(_ => RandomNumberGenerator.GetString(OneTimeLetters, 4)));

    public static string KeyOf(string name) => name.Trim().ToLowerInvariant();

    private static void RequirePassword(string password)
    {
        if (password.Length is < LeastPassword or > MostPassword)
        {
            throw new BadInputException($"password: at least {LeastPassword} characters are needed, and at most {MostPassword}.");
        }
    }

    private static string NewStamp() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
}
