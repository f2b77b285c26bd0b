using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;

namespace Bostel.Core.Preparation;

/// <summary>
/// A scan of a good part that serves as the nominal of a part without CAD: what others are compared with, and where features are picked.
/// Its surfaces are recognised, and stand for the noisy triangles wherever they were found.
/// </summary>
public static class ReferenceScan
{
    /// <summary>Of the largest connected piece of a scan.</summary>
    /// <param name="scan">Triangles, mm.</param>
    /// <param name="name">The piece it is a scan of, for the record.</param>
    /// <exception cref="BadInputException">A cloud: it has no surfaces.</exception>
    public static NominalModel Of(TriangleMesh scan, string name, CancellationToken cancel = default)
    {
        if (scan.TriangleCount == 0)
        {
            throw new BadInputException(
                "A cloud of points has no surfaces to compare with: a reference is a scan of triangles.");
        }

        var (part, record) = LoosePieces.DropAllButPart(scan, null);
        var model = ScanSegmentation.Recognise(part, 1, cancel);
        var noise = FormattableString.Invariant(
            $"a scan of piece {name}, no CAD: its surfaces are known within the scatter of {scan.Noise:0.000} mm");
        return new(model.Mesh, model.FaceOfTriangle, model.Faces, model.Edges, model.ChordError,
            [.. model.Remarks, noise, .. record.PiecesDropped > 0 ? [$"{record.PiecesDropped} loose pieces left out"] : (string[])[]]);
    }
}
