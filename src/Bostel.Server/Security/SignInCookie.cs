using System.Globalization;
using System.Security.Claims;
using Bostel.Data;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Security;

/// <summary>
/// The sign-in as a cookie. Every request looks at the account: a sign-in whose stamp is no longer the account's, or whose account is
/// disabled, counts as none.
/// </summary>
public static class SignInCookie
{
    private static readonly TimeSpan Lasts = TimeSpan.FromDays(14);

    public static void Add(IServiceCollection services) =>
        services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie(o =>
    {
        o.Cookie.Name = "bostel";
        o.Cookie.SameSite = SameSiteMode.Strict;
        o.Cookie.HttpOnly = true;
        o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        o.ExpireTimeSpan = Lasts;
        o.Events.OnRedirectToLogin = c => Answer(c.Response, StatusCodes.Status401Unauthorized);
        o.Events.OnRedirectToAccessDenied = c => Answer(c.Response, StatusCodes.Status403Forbidden);
        o.Events.OnValidatePrincipal = ValidateAsync;
    });

    public static Task SignInAsync(HttpContext http, Account account) =>
        http.SignInAsync(PrincipalOf(account), new AuthenticationProperties { IsPersistent = true });

    private static async Task ValidateAsync(CookieValidatePrincipalContext cookie)
    {
        var context = cookie.HttpContext.RequestServices.GetRequiredService<BostelContext>();
        var account = cookie.Principal?.AccountId() is { } id
            ? await context.Accounts.AsNoTracking().SingleOrDefaultAsync(a => a.Id == id, cookie.HttpContext.RequestAborted)
            : null;
        if (account is null || account.Disabled || account.Stamp != cookie.Principal!.FindFirstValue(Roles.Stamp))
        {
            cookie.RejectPrincipal();
            cookie.HttpContext.Response.Cookies.Delete(cookie.Options.Cookie.Name!);
            return;
        }

        // The role is the account's of today, not that of when the cookie was made.
        cookie.ReplacePrincipal(PrincipalOf(account));
    }

    private static ClaimsPrincipal PrincipalOf(Account account) => new(new ClaimsIdentity(
        [
            new(ClaimTypes.NameIdentifier, account.Id.ToString()), new(ClaimTypes.Name, account.Name),
            new(ClaimTypes.Role, account.Role.ToString()),
            new(Roles.Stamp, account.Stamp),
            new(Roles.MustChange, account.MustChange.ToString(CultureInfo.InvariantCulture).ToLowerInvariant()),
        ],
        CookieAuthenticationDefaults.AuthenticationScheme));

    private static Task Answer(HttpResponse response, int status)
    {
        response.StatusCode = status;
        return Task.CompletedTask;
    }
}
