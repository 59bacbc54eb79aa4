using LoftyWren.Core.Points;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Plant;

/// <summary>Something that can be measured or driven in the building.</summary>
/// <param name="Key">What it is called among the quantities of its room or machine.</param>
/// <param name="IsDriven">Whether a command moves it; else it is measured.</param>
/// <param name="Unit">The unit in which the site keeps it, empty for a number without one; null for a contact or a switch.</param>
/// <param name="Tags">Of points that could mean several quantities, those with one of these tags mean this one; none: those that have no other's.</param>
public sealed record PlantQuantity(string Key, bool IsDriven, string? Unit, params string[] Tags)
{
    /// <summary>A contact that is looked at.</summary>
    public static PlantQuantity Contact(string key, params string[] tags) => new(key, false, null, tags);

    /// <summary>What a sensor sees.</summary>
    public static PlantQuantity Seen(string key, string unit, params string[] tags) => new(key, false, unit, tags);

    /// <summary>What a relay switches.</summary>
    public static PlantQuantity Switched(string key, params string[] tags) => new(key, true, null, tags);

    /// <summary>What a drive moves, in %.</summary>
    public static PlantQuantity Moved(string key, params string[] tags) => new(key, true, "%", tags);

    /// <summary>Whether a point could mean it, but for tags: a command moves, a sensor sees what it has the unit for.</summary>
    public bool Suits(Point point) => point.Role switch
    {
        PointRole.Command => IsDriven && Unit is null == (point.Kind == PointKind.Binary),
        PointRole.Sensor => !IsDriven && (Unit is null ? point.Kind == PointKind.Binary : point.Kind != PointKind.Binary && Units.Unit.Find(point.Unit)?.Quantity == Units.Unit.Find(Unit)?.Quantity),
        _ => false,
    };
}

/// <summary>What can be measured and driven in rooms, in machines by their kind, and out of doors.</summary>
public static class PlantQuantities
{
    /// <summary>Those of the weather.</summary>
    public static IReadOnlyList<PlantQuantity> Weather { get; } =
        [PlantQuantity.Seen("temperature", "°C"), PlantQuantity.Seen("humidity", "%RH"), PlantQuantity.Seen("wind", "m/s"), PlantQuantity.Seen("solar", "W/m²"), PlantQuantity.Contact("rain"), PlantQuantity.Seen("light", "lx")];

    /// <summary>Those of a room.</summary>
    public static IReadOnlyList<PlantQuantity> Room { get; } =
        [PlantQuantity.Seen("temperature", "°C"), PlantQuantity.Seen("humidity", "%RH"), PlantQuantity.Seen("co2", "ppm"), PlantQuantity.Contact("presence"), PlantQuantity.Contact("window", "window"), PlantQuantity.Seen("light", "lx"), PlantQuantity.Contact("alarm", "alarm", "leak", "smoke")];

    /// <summary>All their keys.</summary>
    public static IEnumerable<string> Keys => Weather.Concat(Room).Concat(EquipmentKind.All.SelectMany(k => k.Quantities)).Select(q => q.Key).Distinct();

    /// <summary>Those of a room, of a machine, or, of nothing, of the weather.</summary>
    public static IReadOnlyList<PlantQuantity> Of(ProjectRecord? thing) => thing switch { null => Weather, Equipment equipment => EquipmentKind.Find(equipment.Kind).Quantities, _ => Room };

    /// <summary>Which of some quantities a point means by its role, its unit and its tags; null for none of them.</summary>
    public static PlantQuantity? Meant(IReadOnlyList<PlantQuantity> among, Point point, Func<string, bool> has)
    {
        PlantQuantity? plain = null;
        foreach (PlantQuantity each in among)
        {
            if (!each.Suits(point)) continue;
            if (each.Tags.Length == 0) plain ??= each;
            else if (Array.Exists(each.Tags, t => has(t))) return each;
        }
        return plain;
    }
}
