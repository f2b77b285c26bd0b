using System.CommandLine;
using Bostel.Cad;

namespace Bostel.Cli.Commands;

internal static class ConvertCommand
{
    public static Command Build()
    {
        var input = Arguments.In("Mesh, points or CAD.");
        var output = Arguments.Out("File to write: .stl, .ply, .obj, .3mf, .glb or .xyz, in mm (.glb in metres).");
        var unit = Arguments.Unit();
        var transform = Arguments.Transform();
        var inverse = new Option<bool>("--inverse") { Description = "Apply the inverse of the transform." };
        var chord = new Option<double?>("--chord-error") { Description = "For CAD: how far triangles may leave the surface, mm." };
        var command =
            new Command("convert", "Writes a file in another open format, in mm.") { input, output, unit, transform, inverse, chord };
        command.SetAction(async (parsed, cancel) =>
        {
            var path = parsed.GetValue(input)!;
            var mesh = CadTranslator.Suffixes.Contains(Path.GetExtension(path).ToLowerInvariant())
                ? (await Files.ReadCadAsync(path, parsed.GetValue(chord), cancel)).Mesh
                : Files.ReadMesh(path, parsed.GetValue(unit)!).Mesh;
            if (parsed.GetValue(transform) is { } file)
            {
                var motion = Files.ReadTransform(file);
                mesh = mesh.Transformed(parsed.GetValue(inverse) ? motion.Inverse() : motion);
            }

            Files.WriteMesh(parsed.GetValue(output)!, mesh);
            Files.Print(new { file = parsed.GetValue(output), vertices = mesh.VertexCount, triangles = mesh.TriangleCount });
            return ExitCode.Done;
        });
        return command;
    }
}
