using System.Text.Json.Serialization;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Nominals;

/// <summary>
/// One recognised face of the nominal. The plane's normal and all others point out of the material; <see cref="Internal"/> is true for
/// holes and concave seats. <see cref="Start"/> and <see cref="End"/> are the extent along the axis of a round face, measured from its
/// point or apex.
/// </summary>
public sealed record NominalFace(int Id, string Kind, double Area, bool Internal, double Start, double End, double Sweep, Vector3D Center)
{
    /// <summary>The exact surface; null for freeform faces.</summary>
    [JsonIgnore]
    public Shape? Shape { get; init; }

    /// <summary>The exact surface of a freeform face; null where the file gives none, as a mesh does.</summary>
    [JsonIgnore]
    public BSplineSurface? Freeform { get; init; }

    /// <summary>Index of the body the face belongs to.</summary>
    public int Body { get; init; }

    /// <summary>Colour the CAD file gives this face, #rrggbb; null when it gives none.</summary>
    public string? Color { get; init; }

    /// <summary>Signed distance from the exact surface, positive out of the material.</summary>
    public double OutwardDistance(Vector3D p) => Internal ? -Shape!.Distance(p) : Shape!.Distance(p);
}

/// <summary>One part of the CAD file, with the name and colour (#rrggbb) it has there.</summary>
public sealed record NominalBody(string Name, string? Color);

/// <summary>A polyline between faces: 3·K coordinates and the faces it bounds.</summary>
public sealed record NominalEdge(double[] Points, int[] Faces);

/// <summary>
/// The nominal as everything downstream needs it: a closed triangulation whose triangles know their face, the faces, the edges. Lengths in
/// mm.
/// </summary>
public sealed class NominalModel
{
    private readonly Lazy<MeshTopology> _topology;

    public NominalModel(TriangleMesh mesh, int[] faceOfTriangle, IReadOnlyList<NominalFace> faces, IReadOnlyList<NominalEdge> edges,
        double chordError, IReadOnlyList<string> remarks)
    {
        Mesh = mesh;
        FaceOfTriangle = faceOfTriangle;
        Faces = faces;
        Edges = edges;
        ChordError = chordError;
        Remarks = remarks;
        _topology = new(() => mesh.Topology);
    }

    /// <summary>A surface without known features, as another scan that serves as reference.</summary>
    public static NominalModel OfSurface(TriangleMesh mesh) =>
        new(mesh, new int[mesh.TriangleCount], [new(0, "freeform", mesh.Area(), false, 0, 0, 0, mesh.Bounds.Center)], [], 0, []);

    /// <summary>The same in other coordinates.</summary>
    /// <exception cref="InvalidOperationException">It has freeform surfaces from CAD, whose coordinates are the drawing's.</exception>
    public NominalModel Transformed(RigidTransform to) => Faces.Any(f => f.Freeform is not null)
        ? throw new InvalidOperationException("The coordinates of CAD are the drawing's; they are not changed.")
        : new(Mesh.Transformed(to), FaceOfTriangle,
            [.. Faces.Select(f => f with { Shape = f.Shape?.Transformed(to), Center = to.Apply(f.Center) })],
            [.. Edges.Select(e => e with { Points = to.ApplyAll(e.Points) })], ChordError, Remarks)
        { Bodies = Bodies, Information = Information };

    public TriangleMesh Mesh { get; }

    /// <summary>Per triangle the id (index) of its face.</summary>
    public int[] FaceOfTriangle { get; }

    public IReadOnlyList<NominalFace> Faces { get; }
    public IReadOnlyList<NominalEdge> Edges { get; }

    /// <summary>
    /// Greatest distance between triangulation and exact surface, as asked for when it was made; 0 for a mesh taken as it is.
    /// </summary>
    public double ChordError { get; }

    public IReadOnlyList<string> Remarks { get; }

    /// <summary>Parts of an assembly, or the one part; empty for a mesh.</summary>
    public IReadOnlyList<NominalBody> Bodies { get; init; } = [];

    /// <summary>What the file says of its faces beyond geometry; nothing for a mesh.</summary>
    public ProductInformation Information { get; init; } = ProductInformation.None;

    /// <summary>
    /// Parameters of each triangle's corners on the freeform surface of its face, u and v by turns, six a triangle; empty when no face has
    /// one.
    /// </summary>
    public float[] CornerParameters { get; init; } = [];

    /// <summary>
    /// Where the exact surface of a triangle's face is nearest to a point near the triangle, with its outward normal. The surface may go on
    /// where the face ends. Null where it is not known, or has no foot there.
    /// </summary>
    public (Vector3D Point, Vector3D Normal)? ExactFoot(int triangle, Vector3D p)
    {
        var face = Faces[FaceOfTriangle[triangle]];
        if (face.Shape is { } shape)
        {
            var gradient = shape.Gradient(p);
            return (p - (shape.Distance(p) * gradient), face.Internal ? -gradient : gradient);
        }

        if (face.Freeform is not { } surface)
        {
            return null;
        }

        var (a, b, c) = Mesh.Triangle(triangle);
        var normal = (b - a).Cross(c - a);
        var (u, v) = Start(triangle, a, b, c, normal, p);
        return surface.Foot(p, u, v) is { } foot
            ? (foot.Point, foot.Normal.Dot(normal) < 0 ? -foot.Normal : foot.Normal)
            : null;
    }

    /// <summary>Parameters of a point's foot in the plane of a triangle, from those of its corners.</summary>
    private (double U, double V) Start(int triangle, Vector3D a, Vector3D b, Vector3D c, Vector3D normal, Vector3D p)
    {
        var area = normal.LengthSquared;
        var (beta, gamma) = (normal.Dot((p - a).Cross(c - a)) / area, normal.Dot((b - a).Cross(p - a)) / area);
        (beta, gamma) = area > 0 ? (beta, gamma) : (0, 0);
        double At(int k) => ((1 - beta - gamma) * CornerParameters[(6 * triangle) + k])
            + (beta * CornerParameters[(6 * triangle) + 2 + k]) + (gamma * CornerParameters[(6 * triangle) + 4 + k]);
        return (At(0), At(1));
    }

    /// <summary>Which triangles share an edge; built once.</summary>
    public MeshTopology Topology => _topology.Value;

    /// <exception cref="BadInputException">There is no such face.</exception>
    public NominalFace Face(int id) => id >= 0 && id < Faces.Count
        ? Faces[id]
        : throw new BadInputException($"faces: the nominal has no face {id}.");
}
