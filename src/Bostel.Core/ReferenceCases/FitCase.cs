using System.Globalization;
using System.Text.Json;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.ReferenceCases;

/// <summary>One case of the reference set and how its expected values compare with a fit.</summary>
internal sealed record FitCase(string Type, Criterion Criterion, double[] Points, Known Known, JsonElement Expected, JsonElement Tolerance)
{
    /// <param name="file">Gives the text of a file beside the case.</param>
    public static FitCase Read(JsonElement json, Func<string, string> file)
    {
        var known = new Known
        {
            Normal = json.TryGetProperty("normal", out var n) ? Vector(n) : null,
            Outward = json.TryGetProperty("outward", out var o) ? Vector(o) : null,
            LeastSum = !json.TryGetProperty("criterion", out var c) || c.GetString() == "sum",
        };
        var points = json.TryGetProperty("points", out var list)
            ? list.EnumerateArray().SelectMany(p => p.EnumerateArray().Select(v => v.GetDouble())).ToArray()
            : [.. file(json.GetProperty("pointsFile").GetString()!).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
                .Select(w => double.Parse(w, CultureInfo.InvariantCulture))];
        return new(json.GetProperty("type").GetString()!, json.GetProperty("method").Deserialize<Criterion>(), points, known,
            json.GetProperty("expected"), json.GetProperty("tolerance"));
    }

    public FitResult Run() => Association.Fit(Type, Criterion, Points, Known);

    public IEnumerable<(string Key, double Error, double Allowed)> Errors(FitResult fit)
    {
        foreach (var property in Expected.EnumerateObject())
        {
            var allowed = Tolerance.GetProperty(property.Name).GetDouble();
            var value = property.Value;
            var error = (property.Name, fit.Shape) switch
            {
                ("form", _) => Math.Abs(fit.Form - value.GetDouble()),
                ("formMinimumZone", _) => Math.Abs(MinimumZone() - value.GetDouble()),
                ("point", Plane3D s) => Math.Abs(s.Distance(Vector(value))),
                ("point", Line3D s) => s.Distance(Vector(value)),
                ("point", Cylinder3D s) => s.AxisLine.Distance(Vector(value)),
                ("direction", Line3D s) => s.Direction.LineAngleTo(Vector(value)),
                ("normal", Plane3D s) when Criterion == Criterion.OuterTangent => s.Normal.AngleTo(Vector(value)),
                ("normal", Plane3D s) => s.Normal.LineAngleTo(Vector(value)),
                ("normal", Circle3D s) => s.Normal.LineAngleTo(Vector(value)),
                ("axis", Cylinder3D s) => s.Axis.LineAngleTo(Vector(value)),
                ("axis", Cone3D s) => s.Axis.AngleTo(Vector(value)),
                ("axis", Torus3D s) => s.Axis.LineAngleTo(Vector(value)),
                ("center", Slot3D s) => (s.Center - Vector(value)).Length,
                ("normal", Slot3D s) => s.Normal.LineAngleTo(Vector(value)),
                ("direction", Slot3D s) => s.Direction.LineAngleTo(Vector(value)),
                ("length", Slot3D s) => Math.Abs(s.Length - value.GetDouble()),
                ("width", Slot3D s) => Math.Abs(s.Width - value.GetDouble()),
                ("center", Circle3D s) => (s.Center - Vector(value)).Length,
                ("center", Sphere3D s) => (s.Center - Vector(value)).Length,
                ("center", Torus3D s) => (s.Center - Vector(value)).Length,
                ("apex", Cone3D s) => (s.Apex - Vector(value)).Length,
                ("radius", Circle3D s) => Math.Abs(s.Radius - value.GetDouble()),
                ("radius", Sphere3D s) => Math.Abs(s.Radius - value.GetDouble()),
                ("radius", Cylinder3D s) => Math.Abs(s.Radius - value.GetDouble()),
                ("halfAngle", Cone3D s) => Math.Abs(s.HalfAngle - value.GetDouble()),
                ("majorRadius", Torus3D s) => Math.Abs(s.MajorRadius - value.GetDouble()),
                ("minorRadius", Torus3D s) => Math.Abs(s.MinorRadius - value.GetDouble()),
                _ => throw new InvalidOperationException($"no comparison for {property.Name} of {fit.Shape.Kind}"),
            };
            yield return (property.Name, error, allowed);
        }
    }

    private double MinimumZone() => Association.Fit(Type, Criterion.MinimumZone, Points, Known).Form;

    private static Vector3D Vector(JsonElement e) => new(e[0].GetDouble(), e[1].GetDouble(), e[2].GetDouble());
}
