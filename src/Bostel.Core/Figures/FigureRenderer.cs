using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Segmentation;
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
            var patch = t / 3 >= scan.MeasuredTriangleCount;
            canvas.Triangle(
                projected, scan.Indices.AsSpan(t, 3), (w, x, y) => Shade(scan.Indices, t, patch, w, normals, light, shown, colours, x, y));
        }

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
        private readonly byte[] _pixels;

        public Canvas(int width, int height)
        {
            (_width, _height) = (width, height);
            _depth = new float[width * height];
            Array.Fill(_depth, float.NegativeInfinity);
            _pixels = new byte[3 * width * height];
            for (var i = 0; i < _pixels.Length; i += 3)
            {
                (_pixels[i], _pixels[i + 1], _pixels[i + 2]) = ((byte)Paper.R, (byte)Paper.G, (byte)Paper.B);
            }
        }

        public void Triangle(double[] p, ReadOnlySpan<int> corner, Func<Vector3D, int, int, (double R, double G, double B)> shade)
        {
            var (ax, ay, az) = (p[3 * corner[0]], p[(3 * corner[0]) + 1], p[(3 * corner[0]) + 2]);
            var (bx, by, bz) = (p[3 * corner[1]], p[(3 * corner[1]) + 1], p[(3 * corner[1]) + 2]);
            var (cx, cy, cz) = (p[3 * corner[2]], p[(3 * corner[2]) + 1], p[(3 * corner[2]) + 2]);
            var area = ((bx - ax) * (cy - ay)) - ((by - ay) * (cx - ax));
            if (area == 0)
            {
                return;
            }

            var x0 = Math.Max(0, (int)Math.Ceiling(Math.Min(ax, Math.Min(bx, cx)) - 0.5));
            var x1 = Math.Min(_width - 1, (int)Math.Floor(Math.Max(ax, Math.Max(bx, cx)) - 0.5));
            var y0 = Math.Max(0, (int)Math.Ceiling(Math.Min(ay, Math.Min(by, cy)) - 0.5));
            var y1 = Math.Min(_height - 1, (int)Math.Floor(Math.Max(ay, Math.Max(by, cy)) - 0.5));
            for (var y = y0; y <= y1; y++)
            {
                for (var x = x0; x <= x1; x++)
                {
                    var (px, py) = (x + 0.5, y + 0.5);
                    var u = (((bx - px) * (cy - py)) - ((by - py) * (cx - px))) / area;
                    var v = (((cx - px) * (ay - py)) - ((cy - py) * (ax - px))) / area;
                    var w = 1 - u - v;
                    if (u < -1e-9 || v < -1e-9 || w < -1e-9)
                    {
                        continue;
                    }

                    var z = (float)((u * az) + (v * bz) + (w * cz));
                    var at = (y * _width) + x;
                    if (z > _depth[at])
                    {
                        _depth[at] = z;
                        Put(at, shade(new(u, v, w), x, y), 1);
                    }
                }
            }
        }

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
            for (var y = 0; y < h; y++)
            {
                for (var x = 0; x < w; x++)
                {
                    for (var c = 0; c < 3; c++)
                    {
                        var sum = 0;
                        for (var k = 0; k < Over * Over; k++)
                        {
                            sum += _pixels[(3 * ((((y * Over) + (k / Over)) * _width) + (x * Over) + (k % Over))) + c];
                        }

                        small[(3 * ((y * w) + x)) + c] = (byte)(sum / (Over * Over));
                    }
                }
            }

            return small;
        }

        private void Put(int at, (double R, double G, double B) c, double alpha)
        {
            byte Mix(int i, double v) => (byte)Math.Clamp((alpha * v) + ((1 - alpha) * _pixels[(3 * at) + i]), 0, 255);
            (_pixels[3 * at], _pixels[(3 * at) + 1], _pixels[(3 * at) + 2]) = (Mix(0, c.R), Mix(1, c.G), Mix(2, c.B));
        }
    }
}
