using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Plant;

/// <summary>What a point is tied to in the building: the room or the machine (none: the weather), and which of its quantities.</summary>
public readonly record struct Tied(RecordId? Thing, string Quantity);

/// <summary>What points are tied to: as somebody chose, else as it is proposed.</summary>
public static class PlantTies
{
    internal static string Key(RecordId point) => $"tie|{point}";

    /// <summary>The tie that somebody chose for a point, or null.</summary>
    public static PlantTie? Chosen(Project project, RecordId point) => project.Find<PlantTie>(project.Holder(Key(point)));

    /// <summary>What a point is tied to, or null when the building has no such thing.</summary>
    public static Tied? Of(Project project, Point point) => Chosen(project, point.Id) is { } tie ? new Tied(tie.ThingId, tie.Quantity) : Propose(project, point);

    /// <summary>
    /// What a point would be tied to by its role, its unit, what it belongs to and its tags (<c>outside</c>, <c>cool</c>); its
    /// name says nothing. Null when the building has no such thing.
    /// </summary>
    public static Tied? Propose(Project project, Point point)
    {
        Equipment? equipment = project.Find<Equipment>(point.OwnerId);
        RecordId? room = project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == PlaceKind.Room)?.Id;
        if (point.Role != PointRole.Sensor)
        {
            if (equipment is null || point.Role != PointRole.Command) return null;
            return new Tied(equipment.Id, point.Kind == PointKind.Binary ? "run" : Has("cool") || Has("cooling") ? "cool" : "level");
        }
        bool isMast = equipment?.Kind == "weather mast";
        if (point.Kind == PointKind.Binary) return isMast ? new Tied(null, "rain") : equipment is not null && equipment.Kind != "room sensors" ? new Tied(equipment.Id, "status") : room is not null ? new Tied(room, "presence") : null;
        string? quantity = Unit.Find(point.Unit)?.Quantity switch
        {
            Quantity.Temperature => "temperature",
            Quantity.RelativeHumidity => "humidity",
            Quantity.Concentration => "co2",
            Quantity.Speed => "wind",
            Quantity.Power or Quantity.Irradiance or Quantity.Illuminance => "solar",
            _ => null,
        };
        if (quantity is null) return null;
        if (quantity is "wind" or "solar") return new Tied(null, quantity);
        if (isMast || room is null || Has("outside")) return quantity == "co2" ? null : new Tied(null, quantity);
        // What is inside a machine is its own; a sensor of a fan-coil or a radiator hangs in the room.
        return quantity == "temperature" && equipment is { Kind: "kiln" or "boiler" or "air handler" or "heat pump" } ? new Tied(equipment.Id, quantity) : new Tied(room, quantity);

        bool Has(string tag) => point.Tags?.ContainsKey(tag) == true || point.TemplateTags?.ContainsKey(tag) == true || TaggingRules.Of(project).Gives(project, point, tag);
    }
}
