using System.CommandLine;
using Bostel.Cad;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;

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
                Print(path, mesh.Format, mesh.Mesh, mesh.Remarks, null, mesh.Unit, mesh.Columns);
            }

            return ExitCode.Done;
        });
        return command;
    }

    private static void Print(string path, string format, TriangleMesh mesh, IReadOnlyList<string> remarks, int? faces, string? unit = null,
        PointColumns? columns = null)
    {
        var sheet = MeshSheet.Of(mesh);
        var pieces = mesh.TriangleCount > 0 ? ConnectedPieces.Find(mesh, null).Pieces : [];
        Files.Print(new
        {
            file = Path.GetFileName(path),
            format,
            unitInFile = unit,
            columns = columns?.ToString(),
            faces,
            sizeMm = mesh.Bounds.Size.ToArray(),
            sizeInch = (mesh.Bounds.Size / 25.4).ToArray(),
            min = mesh.Bounds.Min.ToArray(),
            max = mesh.Bounds.Max.ToArray(),
            sheet.Vertices,
            sheet.Triangles,
            sheet.Area,
            sheet.Volume,
            sheet.Closed,
            sheet.Pieces,
            sheet.HoleCount,
            holes = sheet.Holes.Take(20).Select(h => new { h.Diameter, h.Perimeter, h.Edges, center = h.Center.ToArray() }),
            boundaryEdges = sheet.BorderEdges,
            sheet.NonManifoldEdges,
            sheet.Degenerate,
            sheet.Duplicate,
            sheet.FlippedEdges,
            sheet.InsideOut,
            sheet.MeanEdge,
            sheet.EdgeSpread,
            sheet.Noise,
            remarks,
            advice = PrepareAdvice.For(sheet, pieces).Select(a => a.Text),
        });
    }
}
