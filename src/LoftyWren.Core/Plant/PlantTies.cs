using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;

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
    /// What a point would be tied to by its role, its unit, what it belongs to and its tags; its name says nothing. A sensor
    /// looks at its own machine, unless that hangs in the room to sense it, then at the room, then at the weather. Null when
    /// the building has no such thing.
    /// </summary>
    public static Tied? Propose(Project project, Point point)
    {
        Equipment? equipment = project.Find<Equipment>(point.OwnerId);
        bool isMast = equipment is not null && EquipmentKind.Find(equipment.Kind).SensesWeather;
        Func<string, bool> has = tag => point.Tags?.ContainsKey(tag) == true || point.TemplateTags?.ContainsKey(tag) == true || TaggingRules.Of(project).Gives(project, point, tag);
        if (equipment is not null && PlantQuantities.Meant(PlantQuantities.Of(equipment), point, has) is { } own) return new Tied(equipment.Id, own.Key);
        if (point.Role != PointRole.Sensor) return null;
        RecordId? room = project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == PlaceKind.Room)?.Id;
        bool isOutside = isMast || room is null || has("outside");
        // A contact in a machine that has none is no matter of the room's.
        if (!isOutside && point.Kind == PointKind.Binary && equipment is not null && !EquipmentKind.Find(equipment.Kind).SensesRoom) return null;
        if (!isOutside && PlantQuantities.Meant(PlantQuantities.Room, point, has) is { } inside) return new Tied(room, inside.Key);
        return (isOutside || point.Kind != PointKind.Binary) && PlantQuantities.Meant(PlantQuantities.Weather, point, has) is { } weather && (isOutside || PlantQuantities.Room.All(q => q.Key != weather.Key)) ? new Tied(null, weather.Key) : null;
    }
}
