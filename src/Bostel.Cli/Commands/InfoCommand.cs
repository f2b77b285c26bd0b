using System.CommandLine;
using Bostel.Cad;
using Bostel.Core.Meshes;

namespace Bostel.Cli.Commands;

internal static class InfoCommand
{
    public static Command Build()
    {
        var file = Arguments.In("Mesh, cloud or CAD file.");
        var unit = Arguments.Unit();
        var command = new Command("info", "Says what a file holds.") { file, unit };
        command.SetAction(async (parsed, cancel) =>
        {
            var path = parsed.GetValue(file)!;
            if (CadTranslator.Suffixes.Contains(Path.GetExtension(path).ToLowerInvariant()))
            {
                var nominal = await Files.ReadNominalAsync(path, cancel);
                Print(path, "CAD", nominal.Mesh, nominal.Remarks, nominal.Faces.Count);
            }
            else
            {
                var mesh = Files.ReadMesh(path, parsed.GetValue(unit)!);
                Print(path, mesh.Format, mesh.Mesh, mesh.Remarks, null);
            }

            return ExitCode.Done;
        });
        return command;
    }

    private static void Print(string path, string format, TriangleMesh mesh, IReadOnlyList<string> remarks, int? faces)
    {
        var topology = mesh.TriangleCount > 0 ? mesh.Topology : null;
        Files.Print(new
        {
            file = Path.GetFileName(path),
            format,
            vertices = mesh.VertexCount,
            triangles = mesh.TriangleCount,
            faces,
            sizeMm = mesh.Bounds.Size.ToArray(),
            sizeInch = (mesh.Bounds.Size / 25.4).ToArray(),
            min = mesh.Bounds.Min.ToArray(),
            max = mesh.Bounds.Max.ToArray(),
            area = mesh.Area(),
            closed = topology is { BoundaryEdges: 0 },
            boundaryEdges = topology?.BoundaryEdges,
            nonManifoldEdges = topology?.NonManifoldEdges,
            pieces = topology?.Pieces().Count,
            meanEdge = mesh.MeanEdge(),
            remarks,
        });
    }
}
