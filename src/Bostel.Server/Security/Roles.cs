using System.Security.Claims;
using Bostel.Data;

namespace Bostel.Server.Security;

/// <summary>Which role an endpoint needs; the test that walks all endpoints reads it too.</summary>
public sealed record RoleNeeded(Role Role);

/// <summary>Who may do what: a role may do all that the roles before it may.</summary>
public static class Roles
{
    /// <summary>The claim that says the password must be changed before anything else.</summary>
    public const string MustChange = "must-change";

    /// <summary>The claim with the stamp that a sign-in was made under.</summary>
    public const string Stamp = "stamp";

    public static void AddPolicies(IServiceCollection services)
    {
        var authorization = services.AddAuthorizationBuilder();
        foreach (var role in Enum.GetValues<Role>())
        {
            authorization.AddPolicy(PolicyOf(role),
                p => p.RequireAssertion(c => c.User.Role() is { } held && held >= role && !c.User.HasClaim(MustChange, "true")));
        }
    }

    /// <summary>Only those signed in with this role, or one after it.</summary>
    public static TBuilder Needs<TBuilder>(this TBuilder endpoint, Role role)
        where TBuilder : IEndpointConventionBuilder => endpoint.RequireAuthorization(PolicyOf(role)).WithMetadata(new RoleNeeded(role));

    /// <summary>The signed-in person's name.</summary>
    public static string Name(this ClaimsPrincipal who) => who.Identity?.Name ?? "";

    /// <summary>The signed-in person's role; null without a sign-in.</summary>
    public static Role? Role(this ClaimsPrincipal who) =>
        Enum.TryParse<Role>(who.FindFirstValue(ClaimTypes.Role), out var role) ? role : null;

    public static Guid? AccountId(this ClaimsPrincipal who) =>
        Guid.TryParse(who.FindFirstValue(ClaimTypes.NameIdentifier), out var id) ? id : null;

    private static string PolicyOf(Role role) => $"role {role}";
}
