using System.CommandLine;
using Bostel.Core;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Cli.Commands;

/// <summary>Looks after accounts on the server itself, without a browser: also when nobody can sign in any more.</summary>
internal static class UserCommand
{
    public static Command Build() =>
        new("user", "Accounts, on the machine of the server. Names the database by --data (the server's folder) or Bostel__Database.")
    {
        Add(), Change("disable", "Disables an account; its open sign-ins end at once.", true),
        Change("enable", "Enables a disabled account.", false), Reset(), List(),
    };

    private static Command Add()
    {
        var (name, data) = (Name(), Register.Data());
        var role = new Option<Role>("--role")
        { Description = "Reader, Inspector, Approver or Administrator.", DefaultValueFactory = _ => Role.Inspector };
        var command =
            new Command("add", "Adds an account and prints a one-time password, to be changed at the first sign-in.") { name, role, data };
        command.SetAction((parsed, cancel) => Register.WithAsync(parsed.GetValue(data), async context =>
        {
            var password = Accounts.OneTimePassword();
            var account = await new Accounts(context)
                .AddAsync(parsed.GetValue(name)!, password, parsed.GetValue(role), mustChange: true, cancel);
            await SaveAsync(context, "added a person", account, cancel);
            Files.Print(new { name = account.Name, role = account.Role, oneTimePassword = password });
            return ExitCode.Done;
        }, cancel));
        return command;
    }

    private static Command Change(string verb, string about, bool disabled)
    {
        var (name, data) = (Name(), Register.Data());
        var command = new Command(verb, about) { name, data };
        command.SetAction((parsed, cancel) => Register.WithAsync(parsed.GetValue(data), async context =>
        {
            var account = await FindAsync(context, parsed.GetValue(name)!, cancel);
            await new Accounts(context).ChangeAsync(account, account.Role, disabled, cancel);
            await SaveAsync(context, disabled ? "disabled a person" : "enabled a person", account, cancel);
            Files.Print(new { name = account.Name, role = account.Role, disabled = account.Disabled });
            return ExitCode.Done;
        }, cancel));
        return command;
    }

    private static Command Reset()
    {
        var (name, data) = (Name(), Register.Data());
        var command =
            new Command("reset", "Gives an account a one-time password and prints it; its open sign-ins end at once.") { name, data };
        command.SetAction((parsed, cancel) => Register.WithAsync(parsed.GetValue(data), async context =>
        {
            var account = await FindAsync(context, parsed.GetValue(name)!, cancel);
            var password = Accounts.OneTimePassword();
            Accounts.SetPassword(account, password, mustChange: true);
            await SaveAsync(context, "reset a password", account, cancel);
            Files.Print(new { name = account.Name, oneTimePassword = password });
            return ExitCode.Done;
        }, cancel));
        return command;
    }

    private static Command List()
    {
        var data = Register.Data();
        var command = new Command("list", "Lists the accounts, one JSON line each.") { data };
        command.SetAction((parsed, cancel) => Register.WithAsync(parsed.GetValue(data), async context =>
        {
            foreach (var account in await context.Accounts.AsNoTracking().OrderBy(a => a.NameKey).ToListAsync(cancel))
            {
                Files.Print(new
                {
                    name = account.Name,
                    role = account.Role,
                    disabled = account.Disabled,
                    mustChangePassword = account.MustChange,
                    createdAt = account.CreatedAt
                });
            }

            return ExitCode.Done;
        }, cancel));
        return command;
    }

    private static Argument<string> Name() => new("name") { Description = "The account's name." };

    private static async Task<Account> FindAsync(BostelContext context, string name, CancellationToken cancel) =>
        await new Accounts(context).FindAsync(name, cancel) ?? throw new BadInputException($"name: there is no account '{name}'.");

    private static async Task SaveAsync(BostelContext context, string action, Account account, CancellationToken cancel)
    {
        context.Audit.Add(new() { At = DateTimeOffset.UtcNow, Who = "command line", Action = action, Subject = account.Name });
        await context.SaveChangesAsync(cancel);
    }
}
