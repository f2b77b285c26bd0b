using Bostel.Core.Geometry;

namespace Bostel.Core.Preparation;

/// <summary>
/// One step of preparation, as a rule that means the same on the next piece. Lengths in mm, areas in mm². Which fields a kind uses is said
/// at each.
/// </summary>
/// <param name="Kind">One of <see cref="Kinds"/>.</param>
public sealed record PrepareStep(string Kind)
{
    public static readonly IReadOnlyList<string> Kinds =
        ["keep-part", "keep-largest", "drop-pieces", "drop", "fill", "refill", "reduce", "smooth", "spikes", "clean", "orient", "flip",
            "split", "thin", "mesh"];

    /// <summary>Switched off: kept in the list, not carried out.</summary>
    public bool Off { get; init; }

    /// <summary>What drop, refill and smooth act on; smooth acts on everything without one.</summary>
    public IReadOnlyList<SelectionTerm>? Selection { get; init; }

    /// <summary>drop-pieces: pieces with fewer triangles go. reduce: the number to reduce to.</summary>
    public int? Triangles { get; init; }

    /// <summary>drop-pieces: pieces with less area go.</summary>
    public double? Area { get; init; }

    /// <summary>reduce: the share of triangles to keep, above 0 and below 1.</summary>
    public double? Share { get; init; }

    /// <summary>reduce: as far as this deviation allows.</summary>
    public double? MaxDeviation { get; init; }

    /// <summary>fill: holes up to this diameter.</summary>
    public double? MaxDiameter { get; init; }

    /// <summary>fill: only the holes whose centre lies near these points (x y z by turns), of those up to the diameter.</summary>
    public double[]? Near { get; init; }

    /// <summary>
    /// fill: what the points are given in, "nominal" or "scan"; the scan's own coordinates do not carry over to another piece.
    /// </summary>
    public string Frame { get; init; } = "nominal";

    /// <summary>fill, refill: follow the curvature; flat otherwise.</summary>
    public bool Curved { get; init; } = true;

    /// <summary>smooth: 1 to 100.</summary>
    public int? Passes { get; init; }

    /// <summary>smooth: no vertex is moved farther.</summary>
    public double? MaxDisplacement { get; init; }

    /// <summary>spikes: how many times the noise stands out.</summary>
    public double? Sigmas { get; init; }

    /// <summary>thin: spacing to thin a cloud to.</summary>
    public double? Spacing { get; init; }

    /// <summary>mesh: of the ball rolled over a cloud; from its spacing without one.</summary>
    public double? Radius { get; init; }

    /// <summary>Whether the step names a place in the scan's own coordinates.</summary>
    public bool IsTiedToScan() => (Near is not null && Frame == "scan") || Selection?.Any(t => t.Frame == "scan") == true;

    /// <summary>The same step with its places in nominal coordinates, so that it means the same on the next piece.</summary>
    /// <param name="toNominal">Scan to nominal.</param>
    public PrepareStep Anchored(RigidTransform toNominal) => this with
    {
        Selection = Selection is null ? null : [.. Selection.Select(t => t.Anchored(toNominal))],
        Near = Near is null || Frame == "nominal"
            ? Near
            : [.. Near.Chunk(3).SelectMany(p => toNominal.Apply(Vector3D.FromArray(p)).ToArray())],
        Frame = "nominal",
    };

    /// <exception cref="BadInputException">Names what is missing or wrong.</exception>
    public void Check(string where)
    {
        void Need(bool there, string what)
        {
            if (!there)
            {
                throw new BadInputException($"{where}: '{Kind}' needs {what}.");
            }
        }

        Need(Kinds.Contains(Kind), $"to be one of {string.Join(", ", Kinds)}");
        switch (Kind)
        {
            case "drop-pieces":
                Need(Triangles > 0 || Area > 0, "triangles or area above 0");
                break;
            case "drop" or "refill":
                Need(Selection is { Count: > 0 }, "a selection");
                break;
            case "fill":
                Need(MaxDiameter > 0, "maxDiameter above 0");
                Need(Frame is "nominal" or "scan", "frame to be nominal or scan");
                Need(Near is null || (Near.Length % 3 == 0 && Near.All(double.IsFinite)), "near as points of three numbers");
                break;
            case "reduce":
                Need(Triangles >= 4 || Share is > 0 and < 1 || MaxDeviation > 0, "triangles, a share between 0 and 1, or maxDeviation");
                break;
            case "smooth":
                Need(Passes is >= 1 and <= 100, "passes from 1 to 100");
                Need(MaxDisplacement > 0, "maxDisplacement above 0");
                break;
            case "spikes":
                Need(Sigmas >= 1, "sigmas of 1 or more");
                break;
            case "thin":
                Need(Spacing > 0, "spacing above 0");
                break;
            case "mesh":
                Need(Radius is null or > 0, "radius above 0");
                break;
            default:
                break;
        }

        for (var i = 0; i < (Selection?.Count ?? 0); i++)
        {
            Selection![i].Check($"{where}, selection {i + 1}");
        }
    }
}

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
