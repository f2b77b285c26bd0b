using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Selecting;

/// <summary>Whether what a term names is added to the selection or taken away from it.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<SelectionChange>))]
public enum SelectionChange
{
    [JsonStringEnumMemberName("add")]
    Add,

    [JsonStringEnumMemberName("take")]
    Take,
}

/// <summary>What the places of a rule are given in. The scan's own coordinates do not carry over to another piece.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<Frame>))]
public enum Frame
{
    [JsonStringEnumMemberName("nominal")]
    Nominal,

    [JsonStringEnumMemberName("scan")]
    Scan,
}

/// <summary>
/// One term of a selection, as a rule: it names places and sizes, never triangle numbers, so that it means the same on the next piece.
/// Terms are worked through in order. Lengths in mm. The kinds are a closed set.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(LassoTerm), "lasso")]
[JsonDerivedType(typeof(BrushTerm), "brush")]
[JsonDerivedType(typeof(SideTerm), "side")]
[JsonDerivedType(typeof(GrowTerm), "grow")]
[JsonDerivedType(typeof(SurfaceTerm), "surface")]
[JsonDerivedType(typeof(PieceTerm), "piece")]
[JsonDerivedType(typeof(BeyondTerm), "beyond")]
[JsonDerivedType(typeof(SmallPiecesTerm), "pieces")]
[JsonDerivedType(typeof(LooseTerm), "loose")]
[JsonDerivedType(typeof(AllTerm), "all")]
[JsonDerivedType(typeof(InvertTerm), "invert")]
[JsonDerivedType(typeof(WidenTerm), "widen")]
[JsonDerivedType(typeof(NarrowTerm), "narrow")]
public abstract record SelectionTerm
{
    [JsonIgnore]
    public string Kind => Kinds.NameOf(this);

    /// <summary>Whether the term can only be worked out once the scan's pose on the nominal is known.</summary>
    [JsonIgnore]
    public virtual bool NeedsPose => false;

    /// <summary>Whether it names a place in the scan's own coordinates.</summary>
    [JsonIgnore]
    public virtual bool IsTiedToScan => false;

    /// <summary>The same place in nominal coordinates, for a term drawn on the scan: then it means the same on the next piece.</summary>
    /// <param name="toNominal">Scan to nominal.</param>
    public virtual SelectionTerm Anchored(RigidTransform toNominal) => this;

    /// <summary>What it lacks, as "needs …" would say it; null when nothing.</summary>
    internal virtual string? Lacks => null;

    /// <summary>What is selected after this term.</summary>
    internal abstract bool[] Apply(bool[] selected, SelectionItems items, RigidTransform pose, PreparationContext context);

    /// <exception cref="BadInputException">Names what is missing or wrong.</exception>
    public void Check(string where)
    {
        if (Lacks is { } field)
        {
            throw new BadInputException($"{where}: '{Kind}' needs {field}.");
        }
    }

    private protected static bool IsVector(double[]? v) => v is { Length: 3 } && v.All(double.IsFinite);
}

/// <summary>A term that names items, which are added or taken away.</summary>
public abstract record NamingTerm : SelectionTerm
{
    public SelectionChange Op { get; init; }

    /// <summary>The items it names.</summary>
    private protected abstract bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context);

    internal override bool[] Apply(bool[] selected, SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        var named = Named(items, pose, context);
        for (var i = 0; i < named.Length; i++)
        {
            named[i] = Op == SelectionChange.Add ? selected[i] || named[i] : selected[i] && !named[i];
        }

        return named;
    }
}

/// <summary>A term that names a place, in nominal coordinates unless <see cref="Frame"/> says otherwise.</summary>
public abstract record PlacedTerm : NamingTerm
{
    public Frame Frame { get; init; }

    [JsonIgnore]
    public override bool NeedsPose => Frame == Frame.Nominal;

    [JsonIgnore]
    public override bool IsTiedToScan => Frame == Frame.Scan;

    public override SelectionTerm Anchored(RigidTransform toNominal) =>
        Frame == Frame.Nominal ? this : Moved(toNominal) with { Frame = Frame.Nominal };

    private protected abstract PlacedTerm Moved(RigidTransform by);

    private protected static double[] At(double[] p, RigidTransform by) => by.Apply(Vector3D.FromArray(p)).ToArray();

    private protected static double[] Turned(double[] v, RigidTransform by) => by.Rotate(Vector3D.FromArray(v)).ToArray();
}
