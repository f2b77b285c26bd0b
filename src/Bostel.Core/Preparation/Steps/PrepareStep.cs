using System.Globalization;
using System.Text.Json.Serialization;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>
/// One step of preparation, as a rule that means the same on the next piece, and what it does. Lengths in mm, areas in mm². The kinds are
/// a closed set; each is a file of its own beside this one. The same step on the same scan gives the same bits.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(KeepPartStep), "keep-part")]
[JsonDerivedType(typeof(KeepLargestStep), "keep-largest")]
[JsonDerivedType(typeof(DropPiecesStep), "drop-pieces")]
[JsonDerivedType(typeof(DropStep), "drop")]
[JsonDerivedType(typeof(FillStep), "fill")]
[JsonDerivedType(typeof(RefillStep), "refill")]
[JsonDerivedType(typeof(ReduceStep), "reduce")]
[JsonDerivedType(typeof(SmoothStep), "smooth")]
[JsonDerivedType(typeof(SpikesStep), "spikes")]
[JsonDerivedType(typeof(CleanStep), "clean")]
[JsonDerivedType(typeof(OrientStep), "orient")]
[JsonDerivedType(typeof(FlipStep), "flip")]
[JsonDerivedType(typeof(SplitStep), "split")]
[JsonDerivedType(typeof(ThinStep), "thin")]
[JsonDerivedType(typeof(MeshStep), "mesh")]
public abstract record PrepareStep
{
    /// <summary>Displacement beyond this many times the noise takes form away, not only noise.</summary>
    private protected const double NoiseMultiple = 3;

    /// <summary>Switched off: kept in the list, not carried out.</summary>
    public bool Off { get; init; }

    [JsonIgnore]
    public string Kind => Kinds.NameOf(this);

    /// <summary>Whether the step names a place in the scan's own coordinates.</summary>
    [JsonIgnore]
    public virtual bool IsTiedToScan => false;

    /// <summary>The same step with its places in nominal coordinates, so that it means the same on the next piece.</summary>
    /// <param name="toNominal">Scan to nominal.</param>
    public virtual PrepareStep Anchored(RigidTransform toNominal) => this;

    /// <summary>What it lacks, as "needs …" would say it; null when nothing.</summary>
    private protected virtual string? Lacks => null;

    /// <summary>Whether it does nothing on a cloud of points.</summary>
    private protected virtual bool NeedsTriangles => false;

    private protected abstract StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel);

    /// <summary>Carries the step out.</summary>
    /// <exception cref="BadInputException">The step is incomplete, its selection needs what the scan has not, or it would leave
    /// nothing.</exception>
    public StepOutcome Apply(TriangleMesh mesh, PreparationContext context, CancellationToken cancel = default)
    {
        Check($"step '{Kind}'");
        if (mesh.TriangleCount == 0 && NeedsTriangles)
        {
            // The same plan may meet a mesh today and a cloud tomorrow: what does not apply is left out, and the record says so.
            return LeftOut(mesh, "this scan is a cloud of points; mesh it first.");
        }

        var outcome = Do(mesh, context, cancel);
        return outcome.Mesh.VertexCount == 0
            ? throw new BadInputException($"step '{Kind}': nothing would remain of the scan.")
            : outcome;
    }

    /// <exception cref="BadInputException">Names what is missing or wrong.</exception>
    public virtual void Check(string where)
    {
        if (Lacks is { } what)
        {
            throw new BadInputException($"{where}: '{Kind}' needs {what}.");
        }
    }

    private protected StepRecord Record(
        TriangleMesh after, FormattableString said, double moved = 0, double removed = 0, double added = 0, string? caution = null) =>
        new(Kind, said.ToString(CultureInfo.InvariantCulture), after.TriangleCount, after.VertexCount, moved, removed, added, caution);

    private protected StepOutcome LeftOut(TriangleMesh mesh, string why) =>
        new(mesh, Record(mesh, $"Left out: {why}", caution: "This step did nothing on this scan."));

    private protected StepOutcome Dropped(TriangleMesh before, (TriangleMesh Mesh, PreparationRecord Record) result)
    {
        var (left, pieces) = (result.Mesh, result.Record);
        var triangles = before.TriangleCount - left.TriangleCount;
        var record = Record(
            left, $"{pieces.PiecesDropped} of {pieces.PiecesFound} pieces dropped, {triangles} triangles.", removed: pieces.AreaDropped);
        return new(left, record with { PiecesDropped = pieces.PiecesDropped });
    }
}

/// <summary>A step that acts on a selection.</summary>
public abstract record SelectingStep : PrepareStep
{
    public IReadOnlyList<SelectionTerm>? Selection { get; init; }

    [JsonIgnore]
    public override bool IsTiedToScan => Selection?.Any(t => t.IsTiedToScan) == true;

    public override PrepareStep Anchored(RigidTransform toNominal) =>
        this with { Selection = Selection is null ? null : [.. Selection.Select(t => t.Anchored(toNominal))] };

    private protected override string? Lacks => Selection is { Count: > 0 } ? null : "a selection";

    public override void Check(string where)
    {
        base.Check(where);
        for (var i = 0; i < (Selection?.Count ?? 0); i++)
        {
            Selection![i].Check($"{where}, selection {i + 1}");
        }
    }

    private protected bool[] Selected(TriangleMesh mesh, PreparationContext context, CancellationToken cancel) =>
        Selecting.Selection.Resolve(mesh, Selection!, context, cancel);
}

/// <summary>The outcome of one step: the mesh, what was done, and how far each vertex was moved where a step moves them.</summary>
public sealed record StepOutcome(TriangleMesh Mesh, StepRecord Record, float[]? Displacements = null);

/// <summary>What a step did to one scan.</summary>
/// <param name="Kind">Of the step.</param>
/// <param name="Said">One sentence for the record and the report.</param>
/// <param name="Triangles">After the step.</param>
/// <param name="Vertices">After the step.</param>
/// <param name="Moved">How far any point was moved or the surface now deviates, mm; 0 when nothing moved.</param>
/// <param name="AreaRemoved">mm².</param>
/// <param name="AreaAdded">Of patches, mm².</param>
/// <param name="Caution">What may bias a measurement, if anything.</param>
/// <param name="PiecesDropped">Whole connected pieces that went.</param>
public sealed record StepRecord(string Kind, string Said, int Triangles, int Vertices, double Moved = 0, double AreaRemoved = 0,
    double AreaAdded = 0, string? Caution = null, int PiecesDropped = 0);
