using LoftyWren.Core.Places;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Points;

/// <summary>The tags that follow from what equipment and points are and where they stand.</summary>
internal static class PointTags
{
    public static void Give(Equipment equipment, TagGiver tags)
    {
        tags.Mark("it is equipment", "equip");
        tags.Refer("spaceRef", tags.Above.OfType<Place>().FirstOrDefault(), "where it stands");
        if (equipment.PartOf is { } whole) tags.Refer("equipRef", tags.Project.Find(whole), "what it is part of");
        foreach (string tag in Model.EquipmentTags.GetValueOrDefault(equipment.Kind, [])) tags.Mark($"its kind is {equipment.Kind}", tag);
    }

    public static void Give(Point point, TagGiver tags)
    {
        tags.Mark("it is a point", "point");
        tags.Refer("equipRef", tags.Above.OfType<Equipment>().FirstOrDefault(), "what it belongs to");
        tags.Refer("spaceRef", tags.Above.OfType<Place>().FirstOrDefault(), "where it is");
        tags.Mark($"its role is {point.Role.ToString().ToLowerInvariant()}", point.Role switch { PointRole.Sensor => "sensor", PointRole.Command => "cmd", PointRole.Setpoint => "sp", _ => "point" });
        tags.Give("kind", new TextValue(point.Kind switch { PointKind.Analog => "Number", PointKind.Binary => "Bool", _ => "Str" }), $"it is {point.Kind.ToString().ToLowerInvariant()}");
        if (point.Unit is { Length: > 0 } unit) tags.Give("unit", new TextValue(Model.UnitName(unit)), "its unit");
        if (point.StateTexts.Count > 0) tags.Give("enum", new TextValue(string.Join(",", point.StateTexts)), "its state texts");
        if (point.Low is { } low) tags.Give("minVal", new NumberValue(low, point.Unit is null ? null : Model.UnitName(point.Unit)), "its low limit");
        if (point.High is { } high) tags.Give("maxVal", new NumberValue(high, point.Unit is null ? null : Model.UnitName(point.Unit)), "its high limit");
    }
}
