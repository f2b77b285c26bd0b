using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>
/// The average of repeated round features: a circle of their mean size about the middle of their places, or a slot of their mean length
/// and width. Planes and axes have their middle (<see cref="MidPlanePlan"/>, <see cref="MidAxisPlan"/>).
/// </summary>
public sealed record AveragePlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    /// <summary>Cosine of the angle up to which directions are averaged: some 18°.</summary>
    private const double SameWay = 0.95;

    [JsonIgnore]
    public override string What => $"average of {From.Length} features";

    protected override string Takes => "two or more bores, circles, spheres or slots of one kind";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count < 2)
        {
            return null;
        }

        double Mean(Func<Situated, double> of) => from.Sum(of) / from.Count;
        Vector3D Middle(Func<Situated, Vector3D> of) => from.Aggregate(Vector3D.Zero, (s, f) => s + (of(f) / from.Count));
        Vector3D? Along(Func<Situated, Vector3D> of)
        {
            var directions = Situated.Alike([.. from.Select(of)]).ToArray();
            return directions.All(d => d.Dot(directions[0]) > SameWay) ? directions.Aggregate((a, b) => a + b).Normalized() : null;
        }

        Made Apart() => Made.Failed($"{Name}: what it averages does not stand the same way.");
        if (from.All(f => f.Shape is Sphere3D { Radius: > 0 }))
        {
            return new Sphere3D(Middle(f => f.Place!.Value), Mean(f => ((Sphere3D)f.Shape).Radius));
        }

        if (from.All(f => f.Shape is Circle3D))
        {
            return Along(f => ((Circle3D)f.Shape).Normal) is { } normal
                ? new Circle3D(Middle(f => f.Place!.Value), normal, Mean(f => ((Circle3D)f.Shape).Radius))
                : Apart();
        }

        if (from.All(f => f.Shape is Cylinder3D))
        {
            // Of each bore the point of its axis where it was measured.
            return Along(f => f.Axis!.Direction) is { } axis
                ? new Circle3D(Middle(f => f.Axis!.Project(f.At)), axis, Mean(f => ((Cylinder3D)f.Shape).Radius))
                : Apart();
        }

        if (from.All(f => f.Shape is Slot3D))
        {
            return (Along(f => ((Slot3D)f.Shape).Normal), Along(f => ((Slot3D)f.Shape).Direction)) is ({ } across, { } along)
                ? new Slot3D(
                    Middle(f => f.Place!.Value), across, along, Mean(f => ((Slot3D)f.Shape).Length), Mean(f => ((Slot3D)f.Shape).Width))
                : Apart();
        }

        return null;
    }
}
