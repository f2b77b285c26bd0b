using Bostel.Core.Tolerancing;
using Microsoft.AspNetCore.Identity;

namespace Bostel.Data;

/// <summary>A person as a role; the role decides what may be issued.</summary>
public sealed class AppUser : IdentityUser
{
}

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

    /// <summary>Diagonal of the largest connected piece, in the file's own numbers: stray data must not sway the guess of the unit.</summary>
    public double PartDiagonal { get; set; }
    public string[] Remarks { get; set; } = [];
    public string? Problem { get; set; }
    public Guid? RunId { get; set; }
    public Run? Run { get; set; }
    public required string CreatedBy { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}

/// <summary>What one plan revision gave for one piece. Stations fill it in order; once a report is issued from it, it is frozen.</summary>
public sealed class Run
{
    public Guid Id { get; set; }
    public Guid PieceId { get; set; }
    public int PlanNumber { get; set; }
    public required string PlanBody { get; set; }
    public required string Unit { get; set; }
    public string? Preparation { get; set; }
    public string? Alignment { get; set; }
    public string? Statistics { get; set; }
    public string? DeviationSha { get; set; }
    public Verdict? Verdict { get; set; }
    public bool Frozen { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
    public List<FeatureRow> Features { get; set; } = [];
    public List<CharacteristicRow> Characteristics { get; set; } = [];
}

public sealed class FeatureRow
{
    public long Id { get; set; }
    public Guid RunId { get; set; }
    public required string FeatureId { get; set; }
    public required string Name { get; set; }
    public string? Failure { get; set; }
    public string Kind { get; set; } = "";
    public double[] Measured { get; set; } = [];
    public double[] Nominal { get; set; } = [];
    public int Used { get; set; }
    public int Rejected { get; set; }
    public double Coverage { get; set; }
    public double Scatter { get; set; }
    public double Form { get; set; }
    public double EdgeMargin { get; set; }
    public double RadiusSigma { get; set; }
    public double PositionSigma { get; set; }
    public double DirectionSigma { get; set; }
}

public sealed class CharacteristicRow
{
    public long Id { get; set; }
    public Guid RunId { get; set; }
    public int No { get; set; }
    public required string Name { get; set; }
    public required string Kind { get; set; }
    public required string Plan { get; set; }
    public double? Nominal { get; set; }
    public double? LowerLimit { get; set; }
    public double? UpperLimit { get; set; }
    public double? Measured { get; set; }
    public double? Deviation { get; set; }
    public double Beyond { get; set; }
    public double? Uncertainty { get; set; }
    public Verdict Verdict { get; set; }
    public string Method { get; set; } = "";
    public string? Remark { get; set; }
    public int Points { get; set; }
    public double Coverage { get; set; }
    public string? View { get; set; }
}

public sealed class Figure
{
    public Guid Id { get; set; }
    public Guid PieceId { get; set; }
    public int Order { get; set; }
    public required string State { get; set; }
    public required string CreatedBy { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}

/// <summary>An issued report. Its files never change; their hashes prove it.</summary>
public sealed class Report
{
    public Guid Id { get; set; }
    public required string Number { get; set; }
    public Guid PieceId { get; set; }
    public Piece? Piece { get; set; }
    public Guid RunId { get; set; }
    public int PlanNumber { get; set; }
    public Verdict Verdict { get; set; }
    public required string PdfSha { get; set; }
    public required string CsvSha { get; set; }
    public required string XlsxSha { get; set; }
    public required string IssuedBy { get; set; }
    public DateTimeOffset IssuedAt { get; set; }
}

public enum JobState
{
    Queued,
    Running,
    Done,
    Failed,
    Cancelled,
}

/// <summary>A piece of background work as people see it. The engine's own record only carries the id.</summary>
public sealed class Job
{
    public Guid Id { get; set; }
    public required string Kind { get; set; }
    public Guid SubjectId { get; set; }
    public required string Arguments { get; set; }
    public JobState State { get; set; }
    public double Share { get; set; }
    public string What { get; set; } = "";
    public string? Error { get; set; }
    public bool CancelRequested { get; set; }
    public int Attempts { get; set; }
    public required string CreatedBy { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
    public DateTimeOffset? FinishedAt { get; set; }
}

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
