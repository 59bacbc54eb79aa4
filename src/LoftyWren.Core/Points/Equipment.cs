using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Templates;

namespace LoftyWren.Core.Points;

/// <summary>What equipment gives the place it stands in.</summary>
public enum Service
{
    /// <summary>Nothing of these: it carries points.</summary>
    None,
    /// <summary>Heat.</summary>
    Heat,
    /// <summary>Air or cold: what carries heat off.</summary>
    Air,
    /// <summary>Light.</summary>
    Light,
}

/// <summary>A kind of equipment: its name, what such equipment gives, and whether its sensors measure the room it stands in rather than its own inside.</summary>
public sealed record EquipmentKind(string Name, Service Service, bool SensesRoom = false)
{
    /// <summary>The kinds the virtual site has a stand-in for, and those that only carry points.</summary>
    public static IReadOnlyList<EquipmentKind> All { get; } =
    [
        new("extract fan", Service.Air), new("kiln", Service.Heat), new("fan-coil", Service.Heat, SensesRoom: true), new("radiator", Service.Heat, SensesRoom: true), new("air handler", Service.Air), new("boiler", Service.Heat),
        new("pump", Service.Air), new("heat pump", Service.Air), new("lighting", Service.Light), new("blind", Service.None), new("humidifier", Service.None), new("dust extract", Service.Air),
        new("weather mast", Service.None), new("meter", Service.None), new("room sensors", Service.None, SensesRoom: true), new("other", Service.None),
    ];

    /// <summary>A kind by its name; one that is not known gives nothing and measures itself.</summary>
    public static EquipmentKind Find(string name) => All.FirstOrDefault(k => k.Name == name) ?? new EquipmentKind(name, Service.None);
}

/// <summary>A piece of equipment in a place: a fan, a kiln, a fan-coil.</summary>
public sealed record Equipment : TaggedRecord
{
    /// <summary>The names of <see cref="EquipmentKind.All"/>.</summary>
    public static IReadOnlyList<string> Kinds { get; } = [.. EquipmentKind.All.Select(k => k.Name)];

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Equipment> AsKind { get; } = new("equipment")
    {
        Nouns = [new("equipment", "pieces of equipment") { One = "piece of equipment", NameTokens = ["building", "floor", "room", "short", "kind"] }],
        ListHeaders = ["plant", "unit name", "device", "equipment name", "system"],
        Grain = ConflictGrain.Field,
        Begins = (id, name, owner) => owner is Place ? new Equipment { Id = id, Name = name, PlaceId = owner.Id, Kind = "other" } : null,
        Tags = PointTags.Give,
        Fields =
        [
            FieldOf<Equipment>.Choice("kind", "Kind", Kinds, e => e.Kind, (e, v) => e with { Kind = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Import | FieldUses.Export | FieldUses.Condition, headers: ["equipment kind", "equipment type", "plant type"], column: "equipmentKind", noun: "kind of equipment").Told("What it is; tags, checks and the virtual site follow from it."),
            FieldOf<Equipment>.Link<Equipment>("partOf", "Part of", "piece of equipment", e => e.PartOf, (e, v) => e with { PartOf = v }, FieldUses.Grid | FieldUses.Form, far: false).Told("The larger piece of equipment that it is a part of."),
            FieldOf<Equipment>.Shown("placeId", "Place", (project, e) => project.Find(e.PlaceId)?.Name, "Move the equipment on the plan.", FieldUses.None),
        ],
    };

    /// <summary>Where it stands.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>One of <see cref="Kinds"/>.</summary>
    public required string Kind { get; init; }

    /// <summary>The equipment it is part of, if any.</summary>
    public RecordId? PartOf { get; init; }

    /// <summary>The template it was placed from, if any.</summary>
    public Placement? Placed { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => PlaceId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId place = map.Owner(InPlace, PlaceId);
        RecordId? whole = map.Link(Whole, PartOf);
        Placement? placed = Placed?.Through(map);
        return place == PlaceId && whole == PartOf && ReferenceEquals(placed, Placed) ? this : this with { PlaceId = place, PartOf = whole, Placed = placed };
    }

    private static readonly ReferenceSort InPlace = ReferenceSort.Owner<Place>("in", "placeId", "place"), Whole = ReferenceSort.Link<Equipment>("part of", "partOf", "piece of equipment");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() =>
        [new UniqueKey($"equipment|{PlaceId}|{Name.ToLowerInvariant()}", "name", "There is already equipment called ‘{0}’ in this place. Choose another name.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckNameAndTags()) yield return refusal;
        if (!Kinds.Contains(Kind)) yield return new Refusal(Id, "kind", $"‘{Kind}’ is not a kind of equipment. Use one of: {string.Join(", ", Kinds)}.");
        RecordId? up = PartOf;
        for (int depth = 0; up is { } whole; depth++)
        {
            if (project.Find(whole) is not Equipment other) yield break;
            if (whole == Id || depth > 20)
            {
                yield return new Refusal(Id, "partOf", $"‘{Name}’ would be part of itself. Choose equipment that is not inside it.");
                yield break;
            }
            up = other.PartOf;
        }
    }
}
