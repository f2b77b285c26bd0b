using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Core;

namespace Bostel.Scanner;

/// <summary>
/// A manufacturing error planted on chosen faces, or on all when none are named. Kinds: "offset" (along the outward normal), "radius"
/// (round faces grow by the value), "shift" (moved by the vector), "tilt" (turned by the value in degrees about the vector through the
/// face's centre), "bow" (the middle of the face raised by the value), "worn" (taken away inward, by up to the value, unevenly), "warp"
/// (the part bent along its longest side, its ends raised by the value), "twist" (its ends turned about its longest side against each other
/// by the value in degrees), "shrunk" (smaller about its centre by the value in percent; times the vector along the axes where one is
/// given), "missing" (no data).
/// </summary>
public sealed record PlantedError(string Kind, int[] Faces, double Value = 0, double[]? Vector = null);

/// <summary>What the simulated scanner is asked to do. Lengths in mm; the same recipe gives the same scan, bit for bit.</summary>
public sealed record ScanRecipe
{
    public int Seed { get; init; } = 1;

    /// <summary>Spacing of the measured points.</summary>
    public double Spacing { get; init; } = 0.9;

    /// <summary>Standard deviation of the noise along the line of sight.</summary>
    public double Noise { get; init; } = 0.02;

    /// <summary>View directions from the part to the scanner; null for a full set all round.</summary>
    public double[][]? Views { get; init; }

    /// <summary>Steepest angle between surface normal and line of sight that still gives data, in degrees.</summary>
    public double MostIncidence { get; init; } = 80;

    /// <summary>
    /// all-round (an ideal device), turntable, structured-light or laser-line: from where, and with which baseline between light and
    /// camera.
    /// </summary>
    public string Device { get; init; } = "all-round";

    /// <summary>Angle between light and camera, degrees; the device's own when null.</summary>
    public double? Baseline { get; init; }

    /// <summary>Thickness of a coat sprayed on against reflections.</summary>
    public double Coat { get; init; }

    /// <summary>The noise grows with the incidence as (1 / cosine) to this power.</summary>
    public double NoiseGrowth { get; init; }

    /// <summary>Standard deviation of the position of each view among the others.</summary>
    public double Misregistration { get; init; }

    /// <summary>Shiny faces: they blind every view that looks at them within 20° of head-on.</summary>
    public int[] Shiny { get; init; } = [];

    /// <summary>Faces narrower than this give no data, as the edges of sheet metal.</summary>
    public double NarrowestFace { get; init; }

    /// <summary>Three posts the part stands on.</summary>
    public bool Fixture { get; init; }

    /// <summary>Points only, without triangles or normals.</summary>
    public bool Cloud { get; init; }

    public int StrayPieces { get; init; } = 3;
    public bool TablePatch { get; init; } = true;

    /// <summary>Place the scan at random (default) or leave it in nominal coordinates.</summary>
    public bool RandomPose { get; init; } = true;

    /// <summary>Unit of the written numbers.</summary>
    public string Unit { get; init; } = "mm";

    public IReadOnlyList<PlantedError> Errors { get; init; } = [];

    internal static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        ReadCommentHandling = JsonCommentHandling.Skip,
    };

    /// <exception cref="BadInputException">Not a recipe; the message names the field.</exception>
    public static ScanRecipe Parse(string json, string name)
    {
        try
        {
            var recipe = JsonSerializer.Deserialize<ScanRecipe>(json, Json) ?? throw new BadInputException($"{name}: is empty.");
            if (!Viewpoints.Devices.Contains(recipe.Device))
            {
                throw new BadInputException($"{name}: device: '{recipe.Device}' is not one of {string.Join(", ", Viewpoints.Devices)}.");
            }

            return recipe.Spacing is > 0.01 and < 100 && recipe.Noise is >= 0 and < 10
                ? recipe
                : throw new BadInputException($"{name}: spacing must lie between 0.01 and 100 mm, noise between 0 and 10 mm.");
        }
        catch (JsonException e)
        {
            throw new BadInputException($"{name}: is not a scan recipe: {e.Message}", e);
        }
    }

    public string ToJson() => JsonSerializer.Serialize(this, Json);
}

/// <summary>
/// What is true of a simulated scan: the motion from scan (mm) to nominal coordinates, and the recipe with its planted errors.
/// </summary>
public sealed record ScanTruth(double[] Transform, int PartTriangles, int StrayTriangles, ScanRecipe Recipe)
{
    public string ToJson() => JsonSerializer.Serialize(this, ScanRecipe.Json);
}
