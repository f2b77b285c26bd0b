using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Nominals;

/// <summary>Which faces of a nominal adjoin, along what length, and at what angle their surfaces meet there.</summary>
public sealed class FaceBorders
{
    private readonly Dictionary<(int, int), (double Length, double Turn)> _shared = [];
    private readonly SortedSet<int>[] _adjoining;

    private FaceBorders(int faces)
    {
        _adjoining = new SortedSet<int>[faces];
        for (var f = 0; f < faces; f++)
        {
            _adjoining[f] = [];
        }
    }

    public static FaceBorders Of(NominalModel nominal)
    {
        var borders = new FaceBorders(nominal.Faces.Count);
        var neighbours = nominal.Topology.Neighbours;
        var (mesh, face) = (nominal.Mesh, nominal.FaceOfTriangle);
        for (var h = 0; h < neighbours.Length; h++)
        {
            var (a, b) = (face[h / 3], neighbours[h] < 0 ? -1 : face[neighbours[h]]);
            if (b < 0 || a >= b)
            {
                continue;
            }

            var (from, to) = (mesh.Vertex(mesh.Indices[h]), mesh.Vertex(mesh.Indices[MeshTopology.Next(h)]));
            var length = Vector3D.Distance(from, to);
            var middle = 0.5 * (from + to);
            var turn = NormalAt(nominal, a, h / 3, middle).AngleTo(NormalAt(nominal, b, neighbours[h], middle));
            var before = borders._shared.GetValueOrDefault((a, b));
            borders._shared[(a, b)] = (before.Length + length, before.Turn + (length * turn));
            borders._adjoining[a].Add(b);
            borders._adjoining[b].Add(a);
        }

        return borders;
    }

    public bool Touch(int a, int b) => _adjoining[a].Contains(b);

    /// <summary>Faces that adjoin any of a group and are not of it.</summary>
    public int[] Adjoining(IReadOnlyCollection<int> group) => [.. group.SelectMany(f => _adjoining[f]).Except(group).Distinct().Order()];

    /// <summary>Length of the border between a group and a face, mm.</summary>
    public double Length(IReadOnlyCollection<int> group, int other) => group.Sum(f => Shared(f, other).Length);

    /// <summary>Mean angle between the surface normals along the border, rad; 0 where they meet tangentially.</summary>
    public double Angle(IReadOnlyCollection<int> group, int other)
    {
        var length = Length(group, other);
        return length > 0 ? group.Sum(f => Shared(f, other).Turn) / length : Math.PI;
    }

    private (double Length, double Turn) Shared(int a, int b) => _shared.GetValueOrDefault(a < b ? (a, b) : (b, a));

    /// <summary>The exact surface's normal out of the material where it is known, the triangle's elsewhere.</summary>
    private static Vector3D NormalAt(NominalModel nominal, int face, int triangle, Vector3D p)
    {
        var f = nominal.Faces[face];
        if (f.Shape is { } shape)
        {
            var gradient = shape.Gradient(p);
            return f.Internal ? -gradient : gradient;
        }

        var (a, b, c) = nominal.Mesh.Triangle(triangle);
        return (b - a).Cross(c - a).Normalized();
    }
}
