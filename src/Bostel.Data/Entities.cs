namespace Bostel.Data;

public sealed class Part
{
    public Guid Id { get; set; }
    public required string Number { get; set; }
    public required string Name { get; set; }
    public required string Revision { get; set; }
    public Guid? NominalId { get; set; }
    public Nominal? Nominal { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}

/// <summary>A nominal as received and as recognised. The model is kept as a blob, so that a file is translated once.</summary>
public sealed class Nominal
{
    public Guid Id { get; set; }
    public Guid PartId { get; set; }
    public required string FileName { get; set; }
    public required string FileSha { get; set; }
    public required string ModelSha { get; set; }
    public required string Unit { get; set; }

    /// <summary>
    /// Of a scan that serves as reference: from the scan's coordinates to those in which it stands, 16 numbers row by row. Null: the
    /// coordinates are those of the file.
    /// </summary>
    public double[]? Frame { get; set; }
    public double SizeX { get; set; }
    public double SizeY { get; set; }
    public double SizeZ { get; set; }
    public double Area { get; set; }
    public int Triangles { get; set; }
    public string[] Remarks { get; set; } = [];
    public DateTimeOffset CreatedAt { get; set; }
}

/// <summary>The plan of a part: a line of revisions and the one in force. Undo and redo move the head.</summary>
public sealed class Plan
{
    public Guid Id { get; set; }
    public Guid PartId { get; set; }
    public int Head { get; set; }
    public uint Version { get; set; }
}

public sealed class PlanRevision
{
    public Guid Id { get; set; }
    public Guid PlanId { get; set; }
    public int Number { get; set; }
    public int? Parent { get; set; }
    public required string Body { get; set; }
    public required string CreatedBy { get; set; }
    public DateTimeOffset CreatedAt { get; set; }

    /// <summary>Who released it for use on parts, and when; null: it is not released.</summary>
    public string? ReleasedBy { get; set; }
    public DateTimeOffset? ReleasedAt { get; set; }
}

/// <summary>A piece of a part and the scan that was received for it. Sizes are in the file's own numbers.</summary>
public sealed class Piece
{
    public Guid Id { get; set; }
    public Guid PartId { get; set; }
    public Part? Part { get; set; }
    public required string Serial { get; set; }
    public required string FileName { get; set; }
    public required string FileSha { get; set; }
    public required string Unit { get; set; }

    /// <summary>What the columns of a text of points are; null for other files.</summary>
    public string? Columns { get; set; }
    public string? Format { get; set; }
    public int Vertices { get; set; }
    public int Triangles { get; set; }
    public double RawX { get; set; }
    public double RawY { get; set; }
    public double RawZ { get; set; }

    /// <summary>
    /// Diagonal of the largest connected piece, in the file's own numbers: stray data must not sway the guess of the unit.
    /// </summary>
    public double PartDiagonal { get; set; }
    public string[] Remarks { get; set; } = [];
    public string? Problem { get; set; }

    /// <summary>
    /// The keys of the outcomes last made, as JSON (<see cref="ShownKeys"/>): what is shown, marked out of date, when there are none for
    /// today's.
    /// </summary>
    public string? Shown { get; set; }

    /// <summary>The last evaluation.</summary>
    public Guid? RunId { get; set; }
    public Run? Run { get; set; }
    public required string CreatedBy { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}
