using System.Security.Claims;
using Bostel.Core;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Identity;

namespace Bostel.Server.Endpoints;

public static class SessionEndpoints
{
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/session", async (SignIn request, SignInManager<AppUser> signIn, UserManager<AppUser> users, BostelContext context) =>
        {
            var result = await signIn.PasswordSignInAsync(request.User, request.Password, isPersistent: true, lockoutOnFailure: true);
            if (!result.Succeeded)
            {
                throw new BadInputException(result.IsLockedOut ? "Too many wrong tries: wait five minutes." : "User name or password is wrong.");
            }

            var user = (await users.FindByNameAsync(request.User))!;
            context.Record(user.UserName!, "signed in", "session");
            await context.SaveChangesAsync();
            return new SessionView(user.UserName!, (await users.GetRolesAsync(user)).FirstOrDefault() ?? "");
        }).WithName("signIn");
        app.MapDelete("/api/session", async (SignInManager<AppUser> signIn) =>
        {
            await signIn.SignOutAsync();
            return TypedResults.NoContent();
        }).WithName("signOut");
        app.MapGet("/api/session", (ClaimsPrincipal who) => who.Identity?.IsAuthenticated == true
            ? new SessionView(who.Name(), who.FindFirstValue(ClaimTypes.Role) ?? "")
            : new SessionView("", "")).WithName("session");
    }

    /// <summary>The signed-in person's name.</summary>
    public static string Name(this ClaimsPrincipal who) => who.Identity?.Name ?? "";
}
