namespace Bostel.Data;

/// <summary>Who did what, when.</summary>
public sealed class AuditEntry
{
    public long Id { get; set; }
    public DateTimeOffset At { get; set; }
    public required string Who { get; set; }
    public required string Action { get; set; }
    public required string Subject { get; set; }
    public string Detail { get; set; } = "";
}

/// <summary>A stored file; its content lies in chunks.</summary>
public sealed class Blob
{
    public required string Sha { get; set; }
    public long Length { get; set; }
}

public sealed class BlobChunk
{
    public required string Sha { get; set; }
    public int Index { get; set; }
    public required byte[] Data { get; set; }
}
