using System.CommandLine;

namespace Bostel.Cli.Commands;

internal static class ConvertCommand
{
    public static Command Build()
    {
        var input = Arguments.In("Mesh or points.");
        var output = Arguments.Out("File to write: .stl, .ply, .obj or .xyz, in mm.");
        var unit = Arguments.Unit();
        var transform = Arguments.Transform();
        var inverse = new Option<bool>("--inverse") { Description = "Apply the inverse of the transform." };
        var command = new Command("convert", "Writes a file in another open format, in mm.") { input, output, unit, transform, inverse };
        command.SetAction(parsed =>
        {
            var mesh = Files.ReadMesh(parsed.GetValue(input)!, parsed.GetValue(unit)!).Mesh;
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
