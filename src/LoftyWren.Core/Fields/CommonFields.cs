using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Fields;

/// <summary>What every record says, whatever its kind.</summary>
public static class CommonFields
{
    /// <summary>The name.</summary>
    public static Field<ProjectRecord> Name { get; } = new Field<ProjectRecord>("name", "Name")
    {
        Uses = FieldUses.Grid | FieldUses.Replace | FieldUses.Condition | FieldUses.Spelled,
        Says = (_, record) => record.Name,
        Reads = (_, record, text) => FieldReading.Of(record with { Name = text }),
    }.Told("What people call it where it stands.");

    /// <summary>All of them, the name first.</summary>
    public static IReadOnlyList<Field> All { get; } =
    [
        Name,
        Off("record", "Record", (_, record) => record.Noun, FieldUses.Condition),
        Off("place", "Place", (project, record) => string.Join(" › ", project.Lineage(record.Id).OfType<Place>().Select(p => p.Name).Reverse()), FieldUses.Condition),
        Off("equipment", "Equipment", (project, record) => EquipmentOf(project, record)?.Name, FieldUses.Condition),
        Off("building", "Building", (project, record) => At(project, record, PlaceKind.Building), FieldUses.Group),
        Off("floor", "Floor", (project, record) => At(project, record, PlaceKind.Floor), FieldUses.Group),
        Off("room", "Room", (project, record) => At(project, record, PlaceKind.Room), FieldUses.Group),
        Off("owner", "Owner", (project, record) => project.PathOf(record.Id), FieldUses.Group),
        Off("equipmentKind", "Equipment kind", (project, record) => EquipmentOf(project, record)?.Kind, FieldUses.Condition | FieldUses.Group),
    ];

    /// <summary>The common field with this key, or null.</summary>
    public static Field? Find(string key)
    {
        foreach (Field field in All)
        {
            if (field.Key == key) return field;
        }
        return null;
    }

    private static Field<ProjectRecord> Off(string key, string label, Func<Project, ProjectRecord, string?> says, FieldUses uses) => FieldOf<ProjectRecord>.Shown(key, label, says, $"The {label.ToLowerInvariant()} follows from where the record is; move it instead.", uses);

    private static Equipment? EquipmentOf(Project project, ProjectRecord record) => project.Lineage(record.Id).OfType<Equipment>().FirstOrDefault();

    private static string? At(Project project, ProjectRecord record, PlaceKind kind) => project.Lineage(record.Id).OfType<Place>().FirstOrDefault(p => p.Kind == kind) is { } place
        ? string.Join(" › ", project.Lineage(place.Id).OfType<Place>().Where(p => p.Kind != PlaceKind.Site).Select(p => p.Name).Reverse()) : null;
}
