using System.IO.Compression;
using System.Runtime.InteropServices;
using System.Text.Json;
using Bostel.Core.Features;
using Bostel.Core.Plans;

namespace Bostel.Reports.Viewer;

/// <summary>
/// A map packed for a page that works alone: places to 1/65535 of the part's box, values to 1/32000 of the greatest, corners as numbers of
/// seven bits a byte, all deflated (RFC 1950).
/// </summary>
/// <param name="Meta">JSON that the page's script reads.</param>
/// <param name="Data">Base64.</param>
public sealed record ViewerData(string Meta, string Data)
{
    private const short NoData = short.MinValue;
    private const double Steps = 32000;
    private const int RampSteps = 256;

    /// <param name="scan">With its deviations; a mesh, as a cloud has no triangles to draw.</param>
    /// <returns>Null for a cloud.</returns>
    public static ViewerData? Of(AlignedScan scan, InspectionPlan plan)
    {
        var mesh = scan.Mesh;
        if (mesh.TriangleCount == 0)
        {
            return null;
        }

        var places = scan.Transform.ApplyAll(mesh.Coordinates);
        var (low, high) = (new double[3], new double[3]);
        Array.Fill(low, double.MaxValue);
        Array.Fill(high, double.MinValue);
        for (var i = 0; i < places.Length; i++)
        {
            (low[i % 3], high[i % 3]) = (Math.Min(low[i % 3], places[i]), Math.Max(high[i % 3], places[i]));
        }

        double[] step = [.. low.Zip(high, (l, h) => Math.Max(h - l, 1e-9) / ushort.MaxValue)];
        var values = scan.Deviations.Values;
        var greatest = values.Where(double.IsFinite).Select(Math.Abs).DefaultIfEmpty(1).Max();
        var valueStep = Math.Max(greatest, 1e-9) / Steps;
        var quantised = values.Select(v => double.IsFinite(v) ? (short)Math.Round(v / valueStep) : NoData).ToArray();
        var packed = new ushort[places.Length];
        for (var i = 0; i < places.Length; i++)
        {
            packed[i] = (ushort)Math.Clamp(Math.Round((places[i] - low[i % 3]) / step[i % 3]), 0, ushort.MaxValue);
        }

        // Vertices are numbered as the triangles first meet them: a corner is then told by how far it lies behind the newest one, mostly
        // little, and neighbours in the list are neighbours on the part.
        var number = new int[quantised.Length];
        Array.Fill(number, -1);
        var met = new List<int>(quantised.Length);
        var behind = new List<byte>(mesh.Indices.Length * 2);
        foreach (var vertex in mesh.Indices)
        {
            // 0 is a vertex that was not met before, 1 the newest one, 2 the one before that.
            var code = number[vertex] < 0 ? 0 : met.Count - number[vertex];
            if (code == 0)
            {
                number[vertex] = met.Count;
                met.Add(vertex);
            }

            for (; code >= 0x80; code >>= 7)
            {
                behind.Add((byte)(code | 0x80));
            }

            behind.Add((byte)code);
        }

        var steps = new ushort[3 * met.Count];
        for (var i = 0; i < steps.Length; i++)
        {
            steps[i] = unchecked((ushort)(packed[(3 * met[i / 3]) + (i % 3)] - (i < 3 ? 0 : packed[(3 * met[(i / 3) - 1]) + (i % 3)])));
        }

        using var memory = new MemoryStream();
        using (var deflate = new ZLibStream(memory, CompressionLevel.Optimal, leaveOpen: true))
        {
            deflate.Write(MemoryMarshal.AsBytes<ushort>(steps));
            deflate.Write(MemoryMarshal.AsBytes<short>(met.Select(v => quantised[v]).ToArray()));
            deflate.Write(CollectionsMarshal.AsSpan(behind));
        }

        var scale = new ColourScale(plan.Compare.Lower, plan.Compare.Upper, plan.Compare.Ramp);
        var (from, to) = FigureFrame.Range(scale);
        var ramp = Enumerable.Range(0, RampSteps).Select(i => scale.Color(from + ((to - from) * (i + 0.5) / RampSteps)))
            .SelectMany(c => (int[])[(int)c.R, (int)c.G, (int)c.B]).ToArray();
        var meta = JsonSerializer.Serialize(
            new
            {
                vertices = met.Count,
                corners = mesh.Indices.Length,
                low,
                step,
                valueStep,
                noData = NoData,
                range = (double[])[from, to],
                ramp,
                says = FormattableString.Invariant(
                    $"Places to ±{1000 * step.Max() / 2:0.#} µm, values to ±{1000 * valueStep / 2:0.##} µm of those stored."),
            });
        return new(meta, Convert.ToBase64String(memory.GetBuffer(), 0, (int)memory.Length));
    }
}
