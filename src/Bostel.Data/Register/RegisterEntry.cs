namespace Bostel.Data.Register;

/// <summary>What happened to a report.</summary>
public enum RegisterEvent
{
    Issued,
    Countersigned,
    Superseded,
    Withdrawn,
}

/// <summary>
/// One line of the register, never changed. Each holds the hash of the one before it and is signed by the server that made it: a change or
/// a gap anywhere is found by going through them.
/// </summary>
public sealed class RegisterEntry
{
    /// <summary>From 1, without gaps.</summary>
    public int Number { get; set; }
    public RegisterEvent Event { get; set; }
    public required string Report { get; set; }
    public required string Who { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>What was issued, or why it was withdrawn: JSON, as it was hashed.</summary>
    public required string Content { get; set; }

    /// <summary>Hash of the entry before; empty in the first.</summary>
    public required string Before { get; set; }

    /// <summary>SHA-256 of all of the above.</summary>
    public required string Hash { get; set; }
    public required string KeyId { get; set; }

    /// <summary>Of the hash, by that key (ECDSA P-256, SHA-256), base64.</summary>
    public required string Signature { get; set; }
}

/// <summary>The public half of a key that entries are signed with. The private half never leaves its server's folder.</summary>
public sealed class SigningKey
{
    /// <summary>SHA-256 of the public key, 16 digits of it.</summary>
    public required string Id { get; set; }
    public required string PublicKey { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}
