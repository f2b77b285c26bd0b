namespace Bostel.Data;

/// <summary>A layout of reports under a name: the house's own, or a customer's. Plans take a copy of it and keep theirs.</summary>
public sealed class Layout
{
    public const int MostName = 60;

    public required string Name { get; set; }

    /// <summary>A plan with nothing but its layout, so that earlier versions stay readable.</summary>
    public required string Body { get; set; }

    /// <summary>New parts begin with it; at most one does.</summary>
    public bool ForNewParts { get; set; }
    public required string ChangedBy { get; set; }
    public DateTimeOffset ChangedAt { get; set; }
}
