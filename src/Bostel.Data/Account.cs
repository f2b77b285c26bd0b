using System.Text.Json.Serialization;

namespace Bostel.Data;

/// <summary>What a person may do; each role includes those before it.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<Role>))]
public enum Role
{
    /// <summary>Looks.</summary>
    [JsonStringEnumMemberName("reader")]
    Reader,

    /// <summary>Works and issues reports.</summary>
    [JsonStringEnumMemberName("inspector")]
    Inspector,

    /// <summary>Withdraws issued reports.</summary>
    [JsonStringEnumMemberName("approver")]
    Approver,

    /// <summary>Adds and disables people.</summary>
    [JsonStringEnumMemberName("administrator")]
    Administrator,
}

/// <summary>A person's sign-in. Never deleted: the log names it.</summary>
public sealed class Account
{
    public const int MostName = 60;

    public Guid Id { get; set; }
    public required string Name { get; set; }

    /// <summary>The name in lower case: two that differ in case only are one.</summary>
    public required string NameKey { get; set; }
    public required string PasswordHash { get; set; }
    public Role Role { get; set; }
    public bool Disabled { get; set; }

    /// <summary>The password was given by somebody else: nothing else can be done before a new one is set.</summary>
    public bool MustChange { get; set; }

    /// <summary>A sign-in counts only while it carries this; a new stamp ends all of them at once.</summary>
    public required string Stamp { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}

/// <summary>One try to sign in: what the limits by address and by name are counted from.</summary>
public sealed class SignInAttempt
{
    public long Id { get; set; }
    public DateTimeOffset At { get; set; }
    public required string Address { get; set; }
    public required string NameKey { get; set; }
    public bool Succeeded { get; set; }
}
