using System.Text.Json;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.ReferenceCases;

/// <summary>A fit that a case asks for, and how its expected values compare with it (docs/formats.md).</summary>
public sealed record FitCase(string Id, string Type, Criterion Criterion, double[] Points, Known Known, JsonElement Json)
{
    /// <param name="pointsOf">Gives the points of a file beside the case, 3·N coordinates.</param>
    /// <exception cref="BadInputException">Something is missing, or of a kind that is not known.</exception>
    public static FitCase Read(JsonElement json, string file, Func<string, double[]> pointsOf)
    {
        try
        {
            Vector3D? Get(string key) => json.TryGetProperty(key, out var v) ? Vector(v) : null;
            var known = new Known
            {
                Normal = Get("normal"),
                Outward = Get("outward"),
                Direction = Get("direction"),
                Radius = ToleranceCase.Number(json, "radius"),
                LeastSum = ToleranceCase.Text(json, "criterion") != "max",
            };
            var points = json.TryGetProperty("points", out var list)
                ? list.EnumerateArray().SelectMany(p => p.EnumerateArray().Take(3).Select(v => v.GetDouble())).ToArray()
                : pointsOf(json.GetProperty("pointsFile").GetString()!);
            return new(ToleranceCase.IdOf(json, file), json.GetProperty("type").GetString()!,
                json.GetProperty("method").Deserialize<Criterion>(), points, known, json);
        }
        catch (Exception e) when (e is KeyNotFoundException or InvalidOperationException or JsonException)
        {
            throw new BadInputException($"case: {e.Message}", e);
        }
    }

    public FitResult Run() => Association.Fit(Type, Criterion, Points, Known);

    public IEnumerable<(string Key, double Error, double Allowed)> Errors(FitResult fit)
    {
        foreach (var property in Json.GetProperty("expected").EnumerateObject())
        {
            var allowed = Json.GetProperty("tolerance").GetProperty(property.Name).GetDouble();
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
