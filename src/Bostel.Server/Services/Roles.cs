namespace Bostel.Server.Services;

/// <summary>The roles people have.</summary>
public static class Roles
{
    public const string Inspector = "Inspector";
    public const string Approver = "Approver";
}
