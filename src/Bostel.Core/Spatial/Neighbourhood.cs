using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>
/// Which points of a scan lie beside each other on its surface: along the edges of a mesh; in a cloud, those within two and a half times
/// the mean spacing. What hangs together by this is one surface.
/// </summary>
public sealed class Neighbourhood
{
    private const double CloudReach = 2.5;

    private readonly TriangleMesh _mesh;
    private readonly Lazy<(PointTree Points, double Reach)> _cloud;

    public Neighbourhood(TriangleMesh mesh)
    {
        _mesh = mesh;
        _cloud = new(() =>
        {
            var points = new PointTree(mesh.Coordinates);
            return (points, CloudReach * PointSpacing.Median(mesh.Coordinates, points));
        });
    }

    /// <summary>The points beside one, itself left out; some may come twice.</summary>
    public void Of(int vertex, List<int> found)
    {
        found.Clear();
        if (_mesh.TriangleCount == 0)
        {
            _cloud.Value.Points.Within(_mesh.Vertex(vertex), _cloud.Value.Reach, found);
            found.Remove(vertex);
            return;
        }

        foreach (var corner in _mesh.Rings.Of(vertex))
        {
            var next = MeshTopology.Next(corner);
            found.Add(_mesh.Indices[next]);
            found.Add(_mesh.Indices[MeshTopology.Next(next)]);
        }
    }

    /// <summary>Mean edge of a mesh, median distance of neighbours in a cloud, mm.</summary>
    public double Spacing => _mesh.TriangleCount == 0 ? _cloud.Value.Reach / CloudReach : _mesh.MeanEdge();

    /// <summary>The surface a point stands for, mm²; in a cloud the square of the spacing.</summary>
    public double AreaOf(int vertex) => _mesh.TriangleCount == 0 ? Spacing * Spacing : _mesh.VertexAreas[vertex];

    /// <summary>The connected groups of the points that are marked, each in ascending order.</summary>
    public List<List<int>> Groups(IEnumerable<int> marked)
    {
        var left = new HashSet<int>(marked);
        var groups = new List<List<int>>();
        var near = new List<int>();
        foreach (var first in left.Order().ToArray())
        {
            if (!left.Remove(first))
            {
                continue;
            }

            var group = new List<int> { first };
            for (var i = 0; i < group.Count; i++)
            {
                Of(group[i], near);
                foreach (var v in near)
                {
                    if (left.Remove(v))
                    {
                        group.Add(v);
                    }
                }
            }

            group.Sort();
            groups.Add(group);
        }

        return groups;
    }
}
