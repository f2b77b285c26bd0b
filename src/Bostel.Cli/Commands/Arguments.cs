using System.CommandLine;

namespace Bostel.Cli.Commands;

/// <summary>Arguments and options that several commands share.</summary>
internal static class Arguments
{
    public static Argument<string> In(string what) => new("IN") { Description = what };

    public static Argument<string> Out(string what) => new("OUT") { Description = what };

    public static Option<string> Unit() => new("--units") { Description = "Unit of the scan file: mm, cm, m or inch; 'file' takes what the file states, else mm.", DefaultValueFactory = _ => Files.AsStated };

    public static Option<string> Nominal() => new("--nominal") { Description = "Nominal: STEP, IGES or a mesh in mm.", Required = true };

    public static Option<string> Scan() => new("--scan") { Description = "Scan: mesh or points.", Required = true };

    public static Option<string?> Transform() => new("--transform") { Description = "JSON file with 16 numbers, scan to nominal." };
}
