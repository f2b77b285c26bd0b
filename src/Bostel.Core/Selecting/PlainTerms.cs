using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Selecting;

/// <summary>What lies farther than a distance from the nominal.</summary>
public sealed record BeyondTerm : NamingTerm
{
    public double? Distance { get; init; }

    [JsonIgnore]
    public override bool NeedsPose => true;

    internal override string? Lacks => Distance > 0 ? null : "a distance above 0";

    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context) =>
        items.Where(i => !context.Nominal!.Closest(pose.Apply(items.Center(i)), Distance!.Value).Found);
}

/// <summary>Connected pieces with fewer triangles or less area than given.</summary>
public sealed record SmallPiecesTerm : NamingTerm
{
    public int? Triangles { get; init; }

    /// <summary>mm².</summary>
    public double? Area { get; init; }

    internal override string? Lacks => Triangles > 0 || Area > 0 ? null : "a number of triangles or an area";

    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        items.NeedTriangles(Kind);
        var (pieces, labels) = ConnectedPieces.Find(items.Mesh, null);
        var small = new bool[pieces.Count];
        foreach (var piece in pieces)
        {
            small[piece.Number] = piece.Triangles < Triangles || piece.Area < Area;
        }

        return items.Where(i => small[labels[i]]);
    }
}

/// <summary>All pieces but the part.</summary>
public sealed record LooseTerm : NamingTerm
{
    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        items.NeedTriangles(Kind);
        var (pieces, labels) = ConnectedPieces.Find(items.Mesh, context.NominalArea);
        var part = pieces.Where(p => p.IsPart).Select(p => p.Number).ToHashSet();
        return items.Where(i => !part.Contains(labels[i]));
    }
}

/// <summary>Everything.</summary>
public sealed record AllTerm : NamingTerm
{
    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context) =>
        [.. Enumerable.Repeat(true, items.Count)];
}

/// <summary>Exchanges what is selected and what is not.</summary>
public sealed record InvertTerm : SelectionTerm
{
    internal override bool[] Apply(bool[] selected, SelectionItems items, RigidTransform pose, PreparationContext context) =>
        [.. selected.Select(s => !s)];
}

/// <summary>A term that moves the border of the selection by rows of triangles.</summary>
public abstract record BorderTerm : SelectionTerm
{
    private const int MostRows = 200;

    public int? Rows { get; init; }

    internal override string? Lacks => Rows is >= 1 and <= MostRows ? null : $"rows from 1 to {MostRows}";

    /// <summary>Whether neighbours are added, or taken away.</summary>
    private protected abstract bool Wider { get; }

    internal override bool[] Apply(bool[] selected, SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        items.NeedTriangles(Kind);
        var (wider, neighbours) = (Wider, items.Mesh.Topology.Neighbours);
        var now = (bool[])selected.Clone();
        for (var row = 0; row < Rows; row++)
        {
            var before = now;
            now = items.Where(t => before[t] == wider || Touches(t, before) ? wider : !wider);
        }

        return now;

        bool Touches(int t, bool[] flags)
        {
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                if (neighbours[h] >= 0 && flags[neighbours[h]] == wider)
                {
                    return true;
                }
            }

            return false;
        }
    }
}

/// <summary>Adds the neighbours of what is selected, row by row.</summary>
public sealed record WidenTerm : BorderTerm
{
    private protected override bool Wider => true;
}

/// <summary>Takes away the outermost rows of what is selected.</summary>
public sealed record NarrowTerm : BorderTerm
{
    private protected override bool Wider => false;
}
