using Bostel.Core.Geometry;

namespace Bostel.Core.Selecting;

/// <summary>Selection by an outline drawn over a view.</summary>
internal static class ViewSelection
{
    private const int Cells = 700;

    /// <summary>
    /// Items whose centre appears inside the outline (even-odd rule). Unless the outline goes through, items that face away or lie hidden
    /// behind other triangles are left out, decided in a depth raster of the view.
    /// </summary>
    public static bool[] Lasso(LassoTerm term, SelectionItems items, RigidTransform pose)
    {
        var (origin, back) = (Vector3D.FromArray(term.Point), Vector3D.FromArray(term.Normal).Normalized());
        var right = Vector3D.FromArray(term.Right);
        right = (right - (right.Dot(back) * back)).Normalized();
        var up = back.Cross(right);
        Vector3D View(Vector3D p)
        {
            var d = pose.Apply(p) - origin;
            return new(d.Dot(right), d.Dot(up), d.Dot(back));
        }

        var corners = term.Path.Chunk(2).Select(c => (X: c[0], Y: c[1])).ToArray();
        var inside = items.Where(i =>
        {
            var p = View(items.Center(i));
            return Contains(corners, p.X, p.Y);
        });
        if (term.Through || !items.AreTriangles)
        {
            return inside;
        }

        var raster = new DepthRaster(corners.Min(c => c.X), corners.Min(c => c.Y), corners.Max(c => c.X), corners.Max(c => c.Y));
        for (var t = 0; t < items.Count; t++)
        {
            var (a, b, c) = items.Mesh.Triangle(t);
            raster.Draw(View(a), View(b), View(c));
        }

        return items.Where(t =>
        {
            if (!inside[t])
            {
                return false;
            }

            var (a, b, c) = items.Mesh.Triangle(t);
            var (u, v, w) = (View(a), View(b), View(c));
            var normal = (v - u).Cross(w - u).Normalized();
            return normal.Z > 0 && raster.Sees((u + v + w) / 3, normal);
        });
    }

    private static bool Contains((double X, double Y)[] corners, double x, double y)
    {
        var inside = false;
        for (int i = 0, j = corners.Length - 1; i < corners.Length; j = i++)
        {
            var (p, q) = (corners[i], corners[j]);
            if (p.Y > y != q.Y > y && x < ((q.X - p.X) * (y - p.Y) / (q.Y - p.Y)) + p.X)
            {
                inside = !inside;
            }
        }

        return inside;
    }

    /// <summary>The nearest depth in each cell of a rectangle of the view.</summary>
    private sealed class DepthRaster
    {
        private readonly double _x, _y, _cell;
        private readonly int _width, _height;
        private readonly double[] _depth;

        public DepthRaster(double x0, double y0, double x1, double y1)
        {
            (_x, _y) = (x0, y0);
            _cell = Math.Max(1e-6, Math.Max(x1 - x0, y1 - y0) / Cells);
            _width = (int)((x1 - x0) / _cell) + 1;
            _height = (int)((y1 - y0) / _cell) + 1;
            _depth = new double[_width * _height];
            Array.Fill(_depth, double.NegativeInfinity);
        }

        public void Draw(Vector3D a, Vector3D b, Vector3D c)
        {
            var (i0, i1) = (Column(Math.Min(a.X, Math.Min(b.X, c.X))), Column(Math.Max(a.X, Math.Max(b.X, c.X))));
            var (j0, j1) = (Row(Math.Min(a.Y, Math.Min(b.Y, c.Y))), Row(Math.Max(a.Y, Math.Max(b.Y, c.Y))));
            if (i1 < 0 || j1 < 0 || i0 >= _width || j0 >= _height)
            {
                return;
            }

            var area = ((b.X - a.X) * (c.Y - a.Y)) - ((b.Y - a.Y) * (c.X - a.X));
            for (var j = Math.Max(0, j0); j <= Math.Min(_height - 1, j1); j++)
            {
                for (var i = Math.Max(0, i0); i <= Math.Min(_width - 1, i1); i++)
                {
                    var (x, y) = (_x + ((i + 0.5) * _cell), _y + ((j + 0.5) * _cell));
                    var u = (((b.X - x) * (c.Y - y)) - ((b.Y - y) * (c.X - x))) / area;
                    var v = (((c.X - x) * (a.Y - y)) - ((c.Y - y) * (a.X - x))) / area;
                    if (u >= 0 && v >= 0 && u + v <= 1)
                    {
                        var z = (u * a.Z) + (v * b.Z) + ((1 - u - v) * c.Z);
                        ref var depth = ref _depth[(j * _width) + i];
                        depth = Math.Max(depth, z);
                    }
                }
            }
        }

        /// <summary>Whether nothing lies before a point: what its own surface may rise within a cell and a half is allowed for.</summary>
        public bool Sees(Vector3D p, Vector3D normal)
        {
            var (i, j) = (Column(p.X), Row(p.Y));
            var slope = Math.Sqrt((normal.X * normal.X) + (normal.Y * normal.Y)) / Math.Max(0.05, normal.Z);
            return i < 0 || j < 0 || i >= _width || j >= _height || _depth[(j * _width) + i] <= p.Z + (_cell * (1.5 + (2 * slope)));
        }

        private int Column(double x) => (int)Math.Floor(Math.Clamp((x - _x) / _cell, -2, int.MaxValue - 2.0));

        private int Row(double y) => (int)Math.Floor(Math.Clamp((y - _y) / _cell, -2, int.MaxValue - 2.0));
    }
}
