using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Spatial;

namespace Bostel.Core.Figures;

/// <summary>
/// Draws a figure off screen: the scan (or, without one, the nominal) with its deviation colours, hatch beyond tolerance, dots where there
/// is no data and on patches, which were not measured, and the nominal's edges. A plain depth-buffer rasteriser at twice the size, averaged
/// down; shading as in the stage.
/// </summary>
public static class FigureRenderer
{
    private const int Over = 2;

    /// <summary>Half the side of the square that stands for a point of a cloud, at most, in oversampled pixels.</summary>
    private const int LargestPoint = 12;
    private static readonly (double R, double G, double B) Paper = (0xF7, 0xF4, 0xEE);
    private static readonly (double R, double G, double B) Grey = (0xB4, 0xBA, 0xC0);
    private static readonly (double R, double G, double B) Ink = (0x1E, 0x2A, 0x32);

    /// <summary>RGB bytes, row by row, width·height·3.</summary>
    /// <param name="scan">Scan in its own coordinates.</param>
    /// <param name="transform">Scan to nominal.</param>
    /// <param name="values">Of a map, one a vertex: NaN for no data, infinite where nothing was asked; null draws plain.</param>
    /// <param name="scale">The colours of the values.</param>
    public static byte[] Render(
        FigurePlan state, TriangleMesh scan, RigidTransform transform, double[]? values, ColourScale scale, NominalModel? nominal,
        int width, int height)
    {
        state.Check();
        var colours = new Colours(scale, state.HideWithin);
        var canvas = new Canvas(width * Over, height * Over);
        var view = new View(state, width * Over, height * Over);
        var shown = values is not null && state.ShowDeviation ? values : null;
        var normals = scan.VertexNormals;
        var projected = new double[scan.Coordinates.Length];
        Parallel.For(0, (scan.VertexCount + 8191) / 8192, chunk =>
        {
            for (var v = chunk * 8192; v < Math.Min(scan.VertexCount, (chunk + 1) * 8192); v++)
            {
                (projected[3 * v], projected[(3 * v) + 1], projected[(3 * v) + 2]) = view.Project(transform.Apply(scan.Vertex(v)));
            }
        });
        var light = transform.Inverse().Rotate(view.Back);
        for (var t = 0; t < scan.Indices.Length; t += 3)
        {
            canvas.Triangle(projected, scan.Indices.AsSpan(t, 3), t);
        }

        // What is seen is known now: every pixel is shaded once, however many surfaces lie behind one another.
        canvas.ShadeTriangles(projected, scan.Indices, (t, w, x, y) =>
            Shade(scan.Indices, t, t / 3 >= scan.MeasuredTriangleCount, w, normals, light, shown, colours, x, y));

        if (scan.TriangleCount == 0)
        {
            DrawPoints(canvas, projected, scan, normals, light, shown, colours, view.Scale);
        }

        if (nominal is not null && state.ShowEdges)
        {
            foreach (var edge in nominal.Edges)
            {
                for (var i = 0; i + 5 < edge.Points.Length; i += 3)
                {
                    canvas.Line(view.Project(new(edge.Points[i], edge.Points[i + 1], edge.Points[i + 2])),
                        view.Project(new(edge.Points[i + 3], edge.Points[i + 4], edge.Points[i + 5])), state.Camera.Span * 0.004);
                }
            }
        }

        return canvas.Reduce();
    }

    /// <summary>
    /// A cloud is drawn as small squares about as large as the points lie apart, so that near ones hide what is behind them.
    /// </summary>
    private static void DrawPoints(Canvas canvas, double[] projected, TriangleMesh scan, float[] normals, Vector3D light,
        double[]? values, Colours colours, double scale)
    {
        var half = Math.Clamp(
            (int)Math.Round(0.5 * scale * PointSpacing.Median(scan.Coordinates, new(scan.Coordinates))), 1, LargestPoint);
        for (var v = 0; v < scan.VertexCount; v++)
        {
            var n = scan.HasNormals ? Vector3D.At(normals, v) : light;
            var (d, at) = (values?[v] ?? 0, v);
            canvas.Square(projected[3 * at], projected[(3 * at) + 1], projected[(3 * at) + 2], half,
                (x, y) => Color(n, light, d, values is not null, false, colours, x, y));
        }
    }

    private static (double R, double G, double B) Shade(
        int[] indices, int t, bool patch, Vector3D w, float[] normals, Vector3D light, double[]? values, Colours colours, int x,
        int y)
    {
        var n = Vector3D.Zero;
        double d = 0;
        for (var k = 0; k < 3; k++)
        {
            var v = indices[t + k];
            n += w[k] * Vector3D.At(normals, v);

            // Where nothing was asked at a corner, nothing was asked in all of the triangle, as on the stage.
            var value = values?[v] ?? 0;
            d = double.IsPositiveInfinity(d) || double.IsPositiveInfinity(value) ? double.PositiveInfinity : d + (w[k] * value);
        }

        return Color(n.Normalized(), light, d, values is not null, patch, colours, x, y);
    }

    private static (double R, double G, double B) Color(
        Vector3D n, Vector3D light, double d, bool compared, bool patch, Colours colours, int x, int y)
    {
        var facing = Math.Abs(n.Dot(light));
        var shade = 0.42 + (0.58 * facing);
        var color = Grey;
        (x, y) = (x / Over, y / Over);
        if (patch || (compared && double.IsNaN(d)))
        {
            color = x % 5 == 0 && y % 5 == 0 ? Ink : Grey;
        }
        else if (compared && !double.IsInfinity(d))
        {
            var beyond = colours.Scale.Beyond(d);
            color = beyond == 0 && colours.HideWithin ? (0xE4, 0xE2, 0xDC) : colours.Scale.Color(d);

            // The hatch leans with the side, so that the ends can be told apart in grey print.
            if (beyond != 0 && (x + (beyond > 0 ? y : 8 * y)) % 9 < 3)
            {
                color = (0.55 * color.R, 0.55 * color.G, 0.55 * color.B);
            }
        }

        return (shade * color.R, shade * color.G, shade * color.B);
    }

    private readonly record struct Colours(ColourScale Scale, bool HideWithin);

    private sealed class View(FigurePlan state, int width, int height)
    {
        private readonly (Vector3D Right, Vector3D Up, Vector3D Back) _axes = state.Axes();
        private readonly Vector3D _target = Vector3D.FromArray(state.Camera.Target);
        private readonly double _scale = height / state.Camera.Span;

        public Vector3D Back => _axes.Back;

        /// <summary>Pixels a mm.</summary>
        public double Scale => _scale;

        /// <summary>Pixel and depth in mm toward the eye.</summary>
        public (double X, double Y, double Z) Project(Vector3D p)
        {
            var v = p - _target;
            return ((width / 2.0) + (_scale * v.Dot(_axes.Right)), (height / 2.0) - (_scale * v.Dot(_axes.Up)), v.Dot(_axes.Back));
        }
    }

    private sealed class Canvas
    {
        private readonly int _width, _height;
        private readonly float[] _depth;

        /// <summary>Place in the indices of the triangle that is nearest to the eye; −1: none.</summary>
        private readonly int[] _nearest;
        private readonly byte[] _pixels;

        public Canvas(int width, int height)
        {
            (_width, _height) = (width, height);
            _depth = new float[width * height];
            Array.Fill(_depth, float.NegativeInfinity);
            _nearest = new int[width * height];
            Array.Fill(_nearest, -1);
            _pixels = new byte[3 * width * height];
            var row = _pixels.AsSpan(0, 3 * width);
            for (var i = 0; i < row.Length; i += 3)
            {
                (row[i], row[i + 1], row[i + 2]) = ((byte)Paper.R, (byte)Paper.G, (byte)Paper.B);
            }

            for (var y = 1; y < height; y++)
            {
                row.CopyTo(_pixels.AsSpan(y * row.Length));
            }
        }

        /// <summary>A triangle on the screen, and where its pixels lie in it.</summary>
        private readonly ref struct Flat
        {
            private readonly double _ax, _ay, _az, _bx, _by, _bz, _cx, _cy, _cz;
            private readonly double _perArea;

            public Flat(double[] p, ReadOnlySpan<int> corner)
            {
                var (a, b, c) = (3 * corner[0], 3 * corner[1], 3 * corner[2]);
                (_ax, _ay, _az) = (p[a], p[a + 1], p[a + 2]);
                (_bx, _by, _bz) = (p[b], p[b + 1], p[b + 2]);
                (_cx, _cy, _cz) = (p[c], p[c + 1], p[c + 2]);
                _perArea = 1 / (((_bx - _ax) * (_cy - _ay)) - ((_by - _ay) * (_cx - _ax)));
            }

            /// <summary>Seen edge on, it covers nothing.</summary>
            public bool IsSeen => double.IsFinite(_perArea);

            /// <summary>How the weights of the first two corners grow from one pixel of a row to the next.</summary>
            public (double U, double V) Step => ((_by - _cy) * _perArea, (_cy - _ay) * _perArea);

            /// <summary>
            /// The pixels whose middles may lie in it, of a picture of a size; none where the last comes before the first.
            /// </summary>
            public (int X0, int X1, int Y0, int Y1) Pixels(int width, int height) => (
                Math.Max(0, (int)Math.Ceiling(Math.Min(_ax, Math.Min(_bx, _cx)) - 0.5)),
                Math.Min(width - 1, (int)Math.Floor(Math.Max(_ax, Math.Max(_bx, _cx)) - 0.5)),
                Math.Max(0, (int)Math.Ceiling(Math.Min(_ay, Math.Min(_by, _cy)) - 0.5)),
                Math.Min(height - 1, (int)Math.Floor(Math.Max(_ay, Math.Max(_by, _cy)) - 0.5)));

            /// <summary>Weights of the first two corners at the middle of a pixel; that of the third is what they leave of 1.</summary>
            public (double U, double V) At(int x, int y)
            {
                var (px, py) = (x + 0.5, y + 0.5);
                return ((((_bx - px) * (_cy - py)) - ((_by - py) * (_cx - px))) * _perArea,
                    (((_cx - px) * (_ay - py)) - ((_cy - py) * (_ax - px))) * _perArea);
            }

            public float Depth(double u, double v) => (float)((u * _az) + (v * _bz) + ((1 - u - v) * _cz));
        }

        /// <summary>Puts a triangle before what lies behind it; it is shaded when all are there.</summary>
        public void Triangle(double[] p, ReadOnlySpan<int> corner, int triangle)
        {
            const double OnEdge = -1e-9;
            var flat = new Flat(p, corner);
            if (!flat.IsSeen)
            {
                return;
            }

            var (x0, x1, y0, y1) = flat.Pixels(_width, _height);
            var (stepU, stepV) = flat.Step;
            for (var y = y0; y <= y1; y++)
            {
                var (firstU, firstV) = flat.At(x0, y);
                for (var x = x0; x <= x1; x++)
                {
                    var (u, v) = (firstU + ((x - x0) * stepU), firstV + ((x - x0) * stepV));
                    if (u < OnEdge || v < OnEdge || 1 - u - v < OnEdge)
                    {
                        continue;
                    }

                    var z = flat.Depth(u, v);
                    var at = (y * _width) + x;
                    if (z > _depth[at])
                    {
                        _depth[at] = z;
                        _nearest[at] = triangle;
                    }
                }
            }
        }

        public void ShadeTriangles(double[] p, int[] indices, Func<int, Vector3D, int, int, (double R, double G, double B)> shade) =>
            Parallel.For(0, _height, y =>
            {
                for (var x = 0; x < _width; x++)
                {
                    var at = (y * _width) + x;
                    if (_nearest[at] is var t and >= 0)
                    {
                        var (u, v) = new Flat(p, indices.AsSpan(t, 3)).At(x, y);
                        Put(at, shade(t, new(u, v, 1 - u - v), x, y), 1);
                    }
                }
            });

        public void Square(double x, double y, double z, int half, Func<int, int, (double R, double G, double B)> shade)
        {
            var (cx, cy) = ((int)Math.Floor(x), (int)Math.Floor(y));
            for (var py = Math.Max(0, cy - half); py <= Math.Min(_height - 1, cy + half); py++)
            {
                for (var px = Math.Max(0, cx - half); px <= Math.Min(_width - 1, cx + half); px++)
                {
                    var at = (py * _width) + px;
                    if ((float)z > _depth[at])
                    {
                        _depth[at] = (float)z;
                        Put(at, shade(px, py), 1);
                    }
                }
            }
        }

        public void Line((double X, double Y, double Z) a, (double X, double Y, double Z) b, double lift)
        {
            var steps = (int)Math.Ceiling(Math.Max(Math.Abs(b.X - a.X), Math.Abs(b.Y - a.Y)));
            for (var i = 0; i <= steps; i++)
            {
                var f = steps == 0 ? 0 : (double)i / steps;
                var (x, y, z) = ((int)(a.X + (f * (b.X - a.X))), (int)(a.Y + (f * (b.Y - a.Y))), a.Z + (f * (b.Z - a.Z)) + lift);
                if (x >= 0 && y >= 0 && x < _width && y < _height && z >= _depth[(y * _width) + x])
                {
                    Put((y * _width) + x, Ink, 0.5);
                }
            }
        }

        /// <summary>Averages the oversampled pixels down.</summary>
        public byte[] Reduce()
        {
            var (w, h) = (_width / Over, _height / Over);
            var small = new byte[3 * w * h];
            Parallel.For(0, h, y =>
            {
                for (var x = 0; x < w; x++)
                {
                    var (r, g, b) = (0, 0, 0);
                    for (var row = y * Over; row < (y + 1) * Over; row++)
                    {
                        var from = 3 * ((row * _width) + (x * Over));
                        for (var i = from; i < from + (3 * Over); i += 3)
                        {
                            (r, g, b) = (r + _pixels[i], g + _pixels[i + 1], b + _pixels[i + 2]);
                        }
                    }

                    var at = 3 * ((y * w) + x);
                    (small[at], small[at + 1], small[at + 2]) =
                        ((byte)(r / (Over * Over)), (byte)(g / (Over * Over)), (byte)(b / (Over * Over)));
                }
            });
            return small;
        }

        private void Put(int at, (double R, double G, double B) c, double alpha)
        {
            byte Mix(int i, double v) => (byte)Math.Clamp((alpha * v) + ((1 - alpha) * _pixels[(3 * at) + i]), 0, 255);
            (_pixels[3 * at], _pixels[(3 * at) + 1], _pixels[(3 * at) + 2]) = (Mix(0, c.R), Mix(1, c.G), Mix(2, c.B));
        }
    }
}
