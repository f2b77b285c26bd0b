using Bostel.Data;

namespace Bostel.Server.Services;

/// <summary>Adds to the log of who did what; saved together with the change itself.</summary>
public static class Audit
{
    public static void Record(this BostelContext context, string who, string action, string subject, string detail = "") =>
        context.Audit.Add(new() { At = DateTimeOffset.UtcNow, Who = who, Action = action, Subject = subject, Detail = detail });
}
