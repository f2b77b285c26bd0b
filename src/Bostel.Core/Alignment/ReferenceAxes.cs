using System.Text.Json.Serialization;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Alignment;

/// <summary>What is found on a part as a whole.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<FoundShape>))]
public enum FoundShape
{
    [JsonStringEnumMemberName("symmetry-plane")]
    SymmetryPlane,

    [JsonStringEnumMemberName("rotation-axis")]
    RotationAxis,
}

/// <summary>What an axis or an origin is taken from: a face, or something found on the whole part; exactly one of them.</summary>
public sealed record AxisPick(int? Face = null, FoundShape? Found = null);

/// <summary>
/// The coordinates of a part that has no drawing to give them: axes along its own surfaces. Directions that are not picked stay as they
/// are, and so does the origin when nothing is picked for it; what the picks leave open of it is the middle of the part.
/// </summary>
/// <param name="FirstAxis">x, y or z, with - before it for the opposite sense: the axis that lies along <see cref="First"/>.</param>
/// <param name="SecondAxis">Another of them: it points towards <see cref="Second"/>.</param>
/// <param name="Origin">Up to three; the origin lies on all of them.</param>
/// <param name="At">Coordinates that the origin so found is given, mm.</param>
public sealed record ReferenceAxes(
    AxisPick? First, string FirstAxis, AxisPick? Second, string SecondAxis, IReadOnlyList<AxisPick> Origin, double[] At)
{
    /// <summary>From the reference's present coordinates to these.</summary>
    /// <exception cref="BadInputException">A pick that is not there, or picks that do not determine the axes.</exception>
    public RigidTransform On(NominalModel reference, CancellationToken cancel = default)
    {
        if (Origin.Count > 3 || At.Length != 3 || !At.All(double.IsFinite))
        {
            throw new BadInputException("origin: up to three picks and three coordinates.");
        }

        var found = new Dictionary<FoundShape, Shape>();
        Shape ShapeOf(AxisPick pick)
        {
            if (pick is { Face: { } face, Found: null })
            {
                return reference.Face(face).Shape
                    ?? throw new BadInputException($"axes: face {face} is freeform: it has neither direction nor place.");
            }

            var what = pick is { Found: { } named, Face: null }
                ? named
                : throw new BadInputException("axes: a pick is a face or a shape found.");
            return found.TryGetValue(what, out var known) ? known : found[what] = Sought(what, reference.Mesh, cancel);
        }

        var system = AxisSystem.Through(
            First is null ? null : ShapeOf(First), FirstAxis, Second is null ? null : ShapeOf(Second), SecondAxis,
            [.. Origin.Select(ShapeOf)], Origin.Count > 0 ? reference.Mesh.Bounds.Center : Vector3D.Zero);
        return RigidTransform.FromTranslation(Vector3D.FromArray(At)).After(system);
    }

    private static Shape Sought(FoundShape what, TriangleMesh mesh, CancellationToken cancel) => what switch
    {
        FoundShape.SymmetryPlane => SymmetryPlane.Find(mesh, cancel).MaxBy(p => p.Share)?.Plane
            ?? throw new BadInputException("axes: the part has no plane of symmetry."),
        FoundShape.RotationAxis => RotationAxis.Find(mesh).Axis,
        _ => throw new ArgumentOutOfRangeException(nameof(what), what, "No such shape."),
    };
}
