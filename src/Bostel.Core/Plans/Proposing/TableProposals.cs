using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Plans;

/// <summary>
/// What a drawing's table proposes: each line on the surfaces that suit it by name, kind, size and place. Where more than one would suit,
/// the largest is taken and the line is in doubt; where none does, it is left out, and that is said.
/// </summary>
internal sealed class TableProposals
{
    /// <summary>A size is one of the drawing's when it differs by no more than this share; mm where that is less.</summary>
    private const double SameShare = 1e-3, SameLength = 2e-3;

    /// <summary>Directions nearer than this are one, rad.</summary>
    private const double Parallel = 1e-4;

    /// <summary>A place lies on a surface that is no farther, mm; of equal ones the nearest.</summary>
    private const double OnSurface = 1;

    private readonly ProposalDraft _draft;
    private readonly Dictionary<string, IReadOnlyList<ProposedSurface>> _named = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, string> _doubts = new(StringComparer.OrdinalIgnoreCase);
    private readonly Lazy<TriangleTree> _tree;

    private TableProposals(ProposalDraft draft)
    {
        _draft = draft;
        _tree = new(() => new(draft.Nominal.Mesh));
        foreach (var feature in draft.AllFeatures)
        {
            if (draft.SurfaceOf(feature) is { } surface)
            {
                _named.TryAdd(feature.Name, [surface]);
                _named.TryAdd(feature.Id, [surface]);
            }
        }
    }

    public static void Add(ProposalDraft draft, DrawingTable table)
    {
        var proposals = new TableProposals(draft);
        draft.Reserve(table.Lines.Select(l => l.No ?? 0).DefaultIfEmpty().Max());

        // A name may be explained by a later line than the first that uses it; and datums come before what refers to them.
        foreach (var line in table.Lines)
        {
            proposals.Name(line);
        }

        foreach (var line in table.Lines.OrderBy(l => l.Kind is not null))
        {
            proposals.Take(line);
        }
    }

    /// <summary>Finds what the one name of a line means, from the line's size or place.</summary>
    private void Name(DrawingLine line)
    {
        if (line is not { Features: [var name], Kind: not DrawingKind.Distance } || _named.ContainsKey(name))
        {
            return;
        }

        var (of, doubt) = Suiting(line);
        if (of.Count == 0)
        {
            return;
        }

        _named[name] = of;
        foreach (var (i, f) in of.Index())
        {
            _draft.FeatureOf(f, of.Count == 1 ? name : $"{name} no. {i + 1}");
        }

        if (doubt is not null)
        {
            _doubts[name] = doubt;
        }
    }

    private void Take(DrawingLine line)
    {
        var what = $"Line {line.Line}" + (line.Name.Length > 0 ? $" ({line.Name})" : "");
        var (of, doubt) = Surfaces(line);
        var before = _draft.Rows.Count;
        var why = of.Count == 0 ? doubt ?? "which face is meant cannot be told: name a feature, or give its place x, y, z"
            : line.Kind is { } kind ? Asked(line, kind, of) : Datum(line.Name, of);
        if (why is not null)
        {
            _draft.Doubts.Add($"{what} is left out: {why}.");
        }
        else if (doubt is not null)
        {
            _draft.Doubts.Add($"{what}: {doubt}.");
            _draft.Doubtful.AddRange(_draft.Rows.Skip(before).Select(r => r.No));
        }
    }

    private string? Datum(string label, IReadOnlyList<ProposedSurface> of)
    {
        if (label is not { Length: 1 or 2 } || !label.All(char.IsAsciiLetterUpper))
        {
            return "a datum is named by a letter";
        }

        if (_draft.AllDatums.All(d => d.Label != label))
        {
            _draft.Define(new(label, [.. of.Select(_draft.IdOf)]));
        }

        return null;
    }

    private string? Asked(DrawingLine line, DrawingKind kind, IReadOnlyList<ProposedSurface> of)
    {
        // A dimension of several alike is one of each.
        IReadOnlyList<ProposedSurface>[] each = of.Count > 1 && kind is DrawingKind.Diameter or DrawingKind.Radius
            ? [.. of.Select(f => (IReadOnlyList<ProposedSurface>)[f])]
            : [of];
        foreach (var (i, some) in each.Index())
        {
            var requirement = new Requirement(kind, some)
            {
                No = line.No,
                Name = line.Name.Length == 0 ? null : each.Length == 1 ? line.Name : $"{line.Name} no. {i + 1}",
                Said = kind == DrawingKind.Angle ? line.Said : line.Said.InMm(_draft.Shown),
            };
            if (requirement.AddTo(_draft) is { } why)
            {
                return why;
            }
        }

        return null;
    }

    /// <summary>What a line refers to, and what is not certain of it.</summary>
    private (IReadOnlyList<ProposedSurface> Of, string? Doubt) Surfaces(DrawingLine line)
    {
        var unknown = line.Features.Where(f => !_named.ContainsKey(f)).ToList();
        var isApart = line.Kind == DrawingKind.Distance && line.Features.Length < 2;
        if (unknown.Count > 0)
        {
            return ([], $"'{unknown[0]}' is a name that no line explains by a size or a place");
        }

        if (isApart)
        {
            return line.Said.Nominal is { } apart ? Apart(apart, [.. line.Features.SelectMany(f => _named[f])])
                : ([], "a distance needs two features, or its nominal");
        }

        if (line.Features.Length > 0)
        {
            return ([.. line.Features.SelectMany(f => _named[f])],
                line.Features.Select(f => _doubts.GetValueOrDefault(f)).FirstOrDefault(d => d is not null));
        }

        return line is { Kind: DrawingKind.ProfileOfSurface, At: null } ? (_draft.Surfaces, null) : Suiting(line);
    }

    /// <summary>Surfaces of the kind, size and place of a line.</summary>
    private (IReadOnlyList<ProposedSurface> Of, string? Doubt) Suiting(DrawingLine line)
    {
        var size = line.Kind switch
        {
            DrawingKind.Diameter => line.Said.Nominal,
            DrawingKind.Radius => 2 * line.Said.Nominal,
            _ => null,
        };
        var suiting = _draft.Surfaces.Where(f => Suits(line.Kind, f, size)).ToList();
        if (line.At is { } at)
        {
            var nearest = _tree.Value.Closest(at, OnSurface);
            suiting = [.. suiting.Select(f => (Surface: f, Distance: Distance(f, at, nearest))).Where(f => f.Distance <= OnSurface)
                .OrderBy(f => f.Distance).Take(line.Count).Select(f => f.Surface)];
        }

        if (size is null && line.At is null)
        {
            return ([], null);
        }

        if (suiting.Count < line.Count)
        {
            return ([], size is { } d
                ? FormattableString.Invariant($"the nominal has {suiting.Count} of diameter {d:0.####}, and the drawing {line.Count}")
                : "no face that suits it is at its place");
        }

        return suiting.Count == line.Count ? (suiting, null)
            : ([.. suiting.Take(line.Count)],
                $"{suiting.Count} would suit, and the largest {(line.Count == 1 ? "is" : $"{line.Count} are")} taken");
    }

    private static bool Suits(DrawingKind? kind, ProposedSurface f, double? diameter) => kind switch
    {
        DrawingKind.Diameter or DrawingKind.Radius => f.Face.Shape is Cylinder3D && (kind == DrawingKind.Radius || f.IsWhole)
            && (diameter is not { } d || Math.Abs((2 * f.Radius) - d) <= Math.Max(SameLength, SameShare * d)),
        DrawingKind.Flatness => f.Face.Shape is Plane3D,
        DrawingKind.Cylindricity or DrawingKind.Coaxiality or DrawingKind.Concentricity => f.Face.Shape is Cylinder3D,
        DrawingKind.Roundness => f.Face.Shape is Cylinder3D or Cone3D or Sphere3D,
        _ => true,
    };

    /// <summary>Two planes that lie so far apart and face the same or opposite ways; of several the largest.</summary>
    /// <param name="among">One of them is one of these; empty: any.</param>
    private (IReadOnlyList<ProposedSurface> Of, string? Doubt) Apart(double nominal, IReadOnlyList<ProposedSurface> among)
    {
        var planes = _draft.Surfaces.Where(f => f.Face.Shape is Plane3D).ToList();
        var pairs = planes.SelectMany((a, i) => planes.Skip(i + 1).Select(b => (A: a, B: b)))
            .Where(p => (among.Count == 0 || among.Contains(p.A) || among.Contains(p.B)) && p.A.Normal.LineAngleTo(p.B.Normal) < Parallel
                && Math.Abs(Math.Abs((p.B.Face.Center - p.A.Face.Center).Dot(p.A.Normal)) - nominal) <= SameLength)
            .OrderByDescending(p => Math.Min(p.A.Area, p.B.Area)).ToList();
        return pairs.Count == 0 ? ([], FormattableString.Invariant($"no two planes lie {nominal:0.####} mm apart"))
            : ([pairs[0].A, pairs[0].B], pairs.Count == 1 ? null
                : $"{pairs.Count} pairs of planes lie that far apart, and the largest are taken");
    }

    /// <summary>From a place to a surface; of a round one from its axis, where that is nearer: drawings give the places of axes.</summary>
    /// <param name="nearest">To the place, of all of the nominal.</param>
    private double Distance(ProposedSurface f, Vector3D at, in ClosestHit nearest)
    {
        var onIt = nearest.Found && f.Surface.Faces.Contains(_draft.Nominal.FaceOfTriangle[nearest.Triangle]);
        var surface = onIt ? Math.Sqrt(nearest.DistanceSquared) : double.PositiveInfinity;
        if (f.Face.Shape is not Cylinder3D cylinder)
        {
            return surface;
        }

        var along = (at - cylinder.Point).Dot(cylinder.Axis);
        var beyond = Math.Max(0, Math.Max(f.Face.Start - along, along - f.Face.End));
        return Math.Min(surface, Math.Max(cylinder.AxisLine.Distance(at), beyond));
    }
}
