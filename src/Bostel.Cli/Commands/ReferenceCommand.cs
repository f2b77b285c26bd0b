using System.CommandLine;
using System.Globalization;
using Bostel.Core;
using Bostel.Core.Alignment;
using Bostel.Core.Nominals;
using Bostel.Core.Preparation;

namespace Bostel.Cli.Commands;

/// <summary>Makes the nominal of a part without CAD from a scan of a good piece, in coordinates of its own.</summary>
internal static class ReferenceCommand
{
    private const string Symmetry = "symmetry-plane", Rotation = "rotation-axis";

    public static Command Build()
    {
        var scan = Arguments.Scan();
        var unit = Arguments.Unit();
        var output = new Option<string>("--out") { Description = $"The reference, {NominalModelStore.Suffix}.", Required = true };
        var first = Pick("--first", "What the first axis lies along");
        var second = Pick("--second", "What the second axis points towards");
        var axes = new Option<string>("--axes") { Description = "Names of the two axes.", DefaultValueFactory = _ => "z,x" };
        var origin = new Option<string[]>("--origin")
        {
            Description = $"Up to three things that the origin lies on: numbers of faces, {Symmetry} or {Rotation}.",
            AllowMultipleArgumentsPerToken = true,
        };
        var at = new Option<string>("--at") { Description = "x,y,z that this origin is given, mm.", DefaultValueFactory = _ => "0,0,0" };
        var command = new Command("reference",
            "Takes a scan as the nominal of a part without CAD: its surfaces are recognised, its coordinates laid along them. Faces are "
            + "numbered as in the scan's own coordinates; 'features' lists them.")
        { scan, unit, output, first, second, axes, origin, at };
        command.SetAction((parsed, cancel) =>
        {
            var path = parsed.GetValue(scan)!;
            var model = ReferenceScan.Of(Files.ReadMesh(path, parsed.GetValue(unit)!).Mesh, Path.GetFileNameWithoutExtension(path), cancel);
            var names = parsed.GetValue(axes)!.Split(',') is [var a, var b]
                ? (First: a, Second: b)
                : throw new BadInputException("--axes: is not two axes, as z,x.");
            var wanted = new ReferenceAxes(
                PickOf("--first", parsed.GetValue(first)), names.First, PickOf("--second", parsed.GetValue(second)), names.Second,
                [.. (parsed.GetValue(origin) ?? []).Select(o => PickOf("--origin", o)!)],
                Arguments.Numbers("--at", parsed.GetValue(at)!, 3));
            var to = wanted.On(model, cancel);
            var stored = NominalModelStore.Save(model.Transformed(to));
            Files.Write(parsed.GetValue(output)!, s => s.Write(stored));
            Files.Print(new { faces = model.Faces.Count, triangles = model.Mesh.TriangleCount, transform = to.ToArray(), model.Remarks });
            return Task.FromResult(ExitCode.Done);
        });
        return command;
    }

    private static Option<string?> Pick(string name, string what) =>
        new Option<string?>(name) { Description = $"{what}: the number of a face, {Symmetry} or {Rotation}." }.OneOf(Symmetry, Rotation);

    private static AxisPick? PickOf(string option, string? text) => text switch
    {
        null => null,
        Symmetry => new(Found: FoundShape.SymmetryPlane),
        Rotation => new(Found: FoundShape.RotationAxis),
        _ => int.TryParse(text, CultureInfo.InvariantCulture, out var face)
            ? new(face)
            : throw new BadInputException($"{option}: '{text}' is not the number of a face, {Symmetry} or {Rotation}."),
    };
}
