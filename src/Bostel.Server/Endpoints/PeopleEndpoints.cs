using System.Security.Claims;
using Bostel.Core;
using Bostel.Data;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

/// <summary>Who may sign in, and as what.</summary>
public static class PeopleEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/people", async (BostelContext context, CancellationToken cancel) =>
            (await context.Accounts.AsNoTracking().OrderBy(a => a.NameKey).ToListAsync(cancel)).Select(ViewOf).ToList()).WithName("people")
                .Needs(Role.Administrator);
        api.MapPost("/people",
            async (NewPerson person, Accounts accounts, BostelContext context, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            var password = Accounts.OneTimePassword();
            var account = await accounts.AddAsync(person.Name, password, person.Role, mustChange: true, cancel);
            context.Record(who.Name(), "added a person", account.Name, $"as {account.Role.ToString().ToLowerInvariant()}");
            await context.SaveChangesAsync(cancel);
            return new OneTimePassword(account.Name, password);
        }).WithName("addPerson").Needs(Role.Administrator);
        api.MapPut("/people/{id:guid}",
            async (Guid id, PersonChange change, Accounts accounts, BostelContext context, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            if (id == who.AccountId() && change.Disabled)
            {
                throw new BadInputException("disabled: nobody disables their own sign-in.");
            }

            var account = await FindAsync(id, context, cancel);
            await accounts.ChangeAsync(account, change.Role, change.Disabled, cancel);
            context.Record(who.Name(), change.Disabled ? "disabled a person" : "changed a person", account.Name,
                $"as {account.Role.ToString().ToLowerInvariant()}");
            await SaveAsync(account, context, cancel);
            return ViewOf(account);
        }).WithName("changePerson").Needs(Role.Administrator);
        api.MapPost("/people/{id:guid}/password", async (Guid id, BostelContext context, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            var account = await FindAsync(id, context, cancel);
            var password = Accounts.OneTimePassword();
            Accounts.SetPassword(account, password, mustChange: true);
            context.Record(who.Name(), "reset a password", account.Name);
            await SaveAsync(account, context, cancel);
            return new OneTimePassword(account.Name, password);
        }).WithName("resetPassword").Needs(Role.Administrator);
    }

    private static async Task<Account> FindAsync(Guid id, BostelContext context, CancellationToken cancel) =>
        await context.Accounts.SingleOrDefaultAsync(a => a.Id == id, cancel) ?? throw new NotFoundException("There is no such person.");

    private static async Task SaveAsync(Account account, BostelContext context, CancellationToken cancel)
    {
        await context.SaveChangesAsync(cancel);
        await EventHub.NotifyAsync(context, new(EventHub.AccountChanged, account.Id, account.Id), cancel);
    }

    private static PersonView ViewOf(Account a) => new(a.Id, a.Name, a.Role, a.Disabled, a.MustChange, a.CreatedAt);
}
