using System.CommandLine;
using System.Globalization;
using Bostel.Core;
using Bostel.Core.Geometry;

namespace Bostel.Cli.Commands;

/// <summary>Arguments and options that several commands share.</summary>
internal static class Arguments
{
    public static Argument<string> In(string what) => new("IN") { Description = what };

    public static Argument<string> Out(string what) => new("OUT") { Description = what };

    public static Option<string> Unit() =>
        new Option<string>("--units")
        {
            Description = "Unit of the scan file: mm, cm, m or inch; 'file' takes what the file states, else mm.",
            DefaultValueFactory = _ => Files.AsStated
        }.OneOf(Files.AsStated, "mm", "cm", "m", "inch");

    /// <summary>Offers the words of a closed set to the shell; what is none of them is refused where it is read.</summary>
    public static Option<T> OneOf<T>(this Option<T> option, params string[] words)
    {
        option.CompletionSources.Add(words);
        return option;
    }

    public static Option<string> Nominal() => new("--nominal") { Description = "Nominal: STEP, IGES or a mesh in mm.", Required = true };

    public static Option<string> Scan() => new("--scan") { Description = "Scan: mesh or points.", Required = true };

    /// <summary>Numbers parted by commas.</summary>
    /// <exception cref="BadInputException">Names the option.</exception>
    public static double[] Numbers(string option, string text, int? count = null)
    {
        var numbers = text.Split(',')
            .Select(w => double.TryParse(w, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v)
            ? v
            : throw new BadInputException($"{option}: '{w}' is not a number.")).ToArray();
        return count is null || numbers.Length == count
            ? numbers
            : throw new BadInputException($"{option}: '{text}' is not {count} numbers.");
    }

    public static Vector3D Vector(string option, string text) => Vector3D.FromArray(Numbers(option, text, 3));

    public static Option<string?> Transform() => new("--transform") { Description = "JSON file with 16 numbers, scan to nominal." };
}
