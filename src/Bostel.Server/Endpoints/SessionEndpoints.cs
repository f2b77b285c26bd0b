using System.Security.Claims;
using Bostel.Core;
using Bostel.Data;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

/// <summary>Signing in and out, and one's own password: open to those who are not signed in.</summary>
public static class SessionEndpoints
{
    private const long MostBody = 4 << 10;

    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/session", SignInAsync).WithName("signIn").WithMetadata(new RequestSizeLimitAttribute(MostBody));
        app.MapDelete("/api/session", async (HttpContext http, ClaimsPrincipal who, BostelContext context, CancellationToken cancel) =>
        {
            if (who.AccountId() is { } id && await context.Accounts.SingleOrDefaultAsync(a => a.Id == id, cancel) is { } account)
            {
                Accounts.EndSignIns(account);
                context.Record(account.Name, "signed out", "session");
                await context.SaveChangesAsync(cancel);
                await EventHub.NotifyAsync(context, new(EventHub.AccountChanged, id, id), cancel);
            }

            await http.SignOutAsync();
            return TypedResults.NoContent();
        }).WithName("signOut");
        app.MapGet("/api/session", (ClaimsPrincipal who) => who.Role() is { } role
            ? new SessionView(who.Name(), role, who.HasClaim(Roles.MustChange, "true"))
            : new SessionView("", null, false)).WithName("session");
        app.MapPost("/api/session/password", ChangePasswordAsync).WithName("changePassword")
            .WithMetadata(new RequestSizeLimitAttribute(MostBody)).RequireAuthorization();
    }

    private static async Task<SessionView> SignInAsync(
        SignIn request, HttpContext http, BostelContext context, Accounts accounts, SignInGuard guard, CancellationToken cancel)
    {
        var from = http.Connection.RemoteIpAddress;
        await guard.RequireFreeAsync(from, request.User, cancel);
        var account = await accounts.FindAsync(request.User, cancel);
        var matches = Accounts.Matches(account, request.Password);
        guard.Count(from, request.User, matches);
        if (!matches)
        {
            await context.SaveChangesAsync(cancel);
            throw new BadInputException("User name or password is wrong.");
        }

        context.Record(account!.Name, "signed in", "session");
        await context.SaveChangesAsync(cancel);
        await SignInCookie.SignInAsync(http, account);
        return new(account.Name, account.Role, account.MustChange);
    }

    /// <summary>Sets one's own password; all other sign-ins of the account end.</summary>
    private static async Task<SessionView> ChangePasswordAsync(
        PasswordChange change, HttpContext http, ClaimsPrincipal who, BostelContext context, SignInGuard guard, CancellationToken cancel)
    {
        var from = http.Connection.RemoteIpAddress;
        await guard.RequireFreeAsync(from, who.Name(), cancel);
        var account = await context.Accounts.SingleAsync(a => a.Id == who.AccountId(), cancel);
        if (!Accounts.Matches(account, change.Old))
        {
            guard.Count(from, account.Name, succeeded: false);
            await context.SaveChangesAsync(cancel);
            throw new BadInputException("old: the present password is wrong.");
        }

        if (change.New == change.Old)
        {
            throw new BadInputException("new: it must differ from the present password.");
        }

        Accounts.SetPassword(account, change.New, mustChange: false);
        context.Record(account.Name, "changed the password", "session");
        await context.SaveChangesAsync(cancel);
        await EventHub.NotifyAsync(context, new(EventHub.AccountChanged, account.Id, account.Id), cancel);
        await SignInCookie.SignInAsync(http, account);
        return new(account.Name, account.Role, false);
    }
}
