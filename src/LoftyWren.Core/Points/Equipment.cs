using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Plant;
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

/// <summary>What a piece of equipment may be fed with by another, as it is in a building.</summary>
public enum Feed
{
    /// <summary>Heating water, or water that changes over.</summary>
    Water,
    /// <summary>Chilled water.</summary>
    Cold,
    /// <summary>Supply air.</summary>
    Air,
}

/// <summary>
/// A kind of equipment: its name, what such equipment gives its place, what can be measured and driven in it, what it may be
/// fed with and what it feeds others with.
/// </summary>
public sealed record EquipmentKind(string Name, Service Service)
{
    /// <summary>Whether its sensors measure the room it stands in where they are none of its own.</summary>
    public bool SensesRoom { get; init; }

    /// <summary>Whether its sensors measure the weather.</summary>
    public bool SensesWeather { get; init; }

    /// <summary>Whether it heats the room it stands in when it is told to.</summary>
    public bool HeatsRoom { get; init; }

    /// <summary>Whether it gives so much heat that nobody heats the room it stands in.</summary>
    public bool HasOwnHeat { get; init; }

    /// <summary>What the virtual site has of it to measure and to drive.</summary>
    public IReadOnlyList<PlantQuantity> Quantities { get; init; } = [];

    /// <summary>What it takes from other equipment.</summary>
    public IReadOnlyList<Feed> Takes { get; init; } = [];

    /// <summary>What it gives to other equipment.</summary>
    public IReadOnlyList<Feed> Feeds { get; init; } = [];

    private static readonly PlantQuantity Run = PlantQuantity.Switched("run"), Level = PlantQuantity.Moved("level"), Status = PlantQuantity.Contact("status"), Fault = PlantQuantity.Contact("fault", "fault", "alarm"),
        Power = PlantQuantity.Seen("power", "kW"), Temperature = PlantQuantity.Seen("temperature", "°C"), Return = PlantQuantity.Seen("return", "°C", "return", "entering"), Flow = PlantQuantity.Seen("flow", "m³/h"),
        Cool = PlantQuantity.Moved("cool", "cool", "cooling"), Speed = PlantQuantity.Moved("speed", "speed"), Position = PlantQuantity.Seen("position", "%"), Pressure = PlantQuantity.Seen("pressure", "Pa");

    private static readonly PlantQuantity[] Fan = [Run, Level, Status, Fault, Pressure];

    /// <summary>The kinds the virtual site has a stand-in for, and those that only carry points.</summary>
    public static IReadOnlyList<EquipmentKind> All { get; } =
    [
        new("extract fan", Service.Air) { Quantities = Fan },
        new("kiln", Service.Heat) { HasOwnHeat = true, Quantities = [Run, PlantQuantity.Moved("level", "damper"), Status, Fault, Temperature, PlantQuantity.Seen("state", ""), Position, Power] },
        new("fan-coil", Service.Heat) { SensesRoom = true, HeatsRoom = true, Quantities = [Run, Level, Cool, Speed, Status, Fault, PlantQuantity.Contact("drip", "condensate"), PlantQuantity.Seen("supply", "°C", "discharge")], Takes = [Feed.Water, Feed.Cold] },
        new("radiator", Service.Heat) { SensesRoom = true, HeatsRoom = true, Quantities = [Run, Level, Status], Takes = [Feed.Water] },
        new("air handler", Service.Air)
        {
            Quantities =
            [
                Run, Level, Cool, Speed, PlantQuantity.Moved("damper", "damper"), PlantQuantity.Switched("extract", "exhaust", "return"), Status, PlantQuantity.Contact("extractStatus", "exhaust", "return"), Fault, PlantQuantity.Contact("frost", "freezeStat"),
                Temperature, Return, PlantQuantity.Seen("mixed", "°C", "mixed"), PlantQuantity.Seen("humidity", "%RH"), PlantQuantity.Seen("co2", "ppm"), Flow, Pressure, PlantQuantity.Seen("duct", "Pa", "duct"), Power,
            ],
            Takes = [Feed.Water, Feed.Cold], Feeds = [Feed.Air],
        },
        new("supply zone", Service.Air) { SensesRoom = true, Quantities = [Level, Flow, Position], Takes = [Feed.Air] },
        new("boiler", Service.Heat) { Quantities = [Run, Level, Status, Fault, Temperature, Return, PlantQuantity.Seen("gas", "m³")] },
        new("pump", Service.Air) { Quantities = [Run, Level, Status, Fault] },
        new("heat pump", Service.Air) { Quantities = [Run, Level, PlantQuantity.Switched("changeover", "cooling"), Status, Fault, Temperature, Return, Power, PlantQuantity.Seen("energy", "kWh")] },
        new("water circuit", Service.Heat)
        {
            Quantities = [Run, Level, Status, Fault, Temperature, Return, Flow, PlantQuantity.Seen("waterPressure", "bar"), Power, PlantQuantity.Seen("energy", "kWh")],
            Takes = [Feed.Water], Feeds = [Feed.Water, Feed.Cold],
        },
        new("lighting", Service.Light) { Quantities = [Run, Level, Status, Power] },
        new("blind", Service.None) { Quantities = [Level, Position] },
        new("humidifier", Service.None) { Quantities = [Run, Level, Status, Fault, Power] },
        new("dust extract", Service.Air) { Quantities = Fan },
        new("weather mast", Service.None) { SensesWeather = true }, new("meter", Service.None), new("room sensors", Service.None) { SensesRoom = true }, new("other", Service.None) { Quantities = [Run, Level, Status, Fault] },
    ];

    /// <summary>A kind by its name; one that is not known gives nothing and measures itself.</summary>
    public static EquipmentKind Find(string name) => ByName.GetValueOrDefault(name) ?? new EquipmentKind(name, Service.None);

    private static readonly Dictionary<string, EquipmentKind> ByName = All.ToDictionary(k => k.Name);
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
            FieldOf<Equipment>.Link<Equipment>("partOf", "Part of", "piece of equipment", e => e.PartOf, (e, v) => e with { PartOf = v }, FieldUses.Grid | FieldUses.Form, far: false).Told("The larger piece of equipment that it is a part of: pumps, boilers and heat pumps of their water circuit."),
            FieldOf<Equipment>.Link<Equipment>("waterFrom", "Water from", "piece of equipment", e => e.WaterFrom, (e, v) => e with { WaterFrom = v }, FieldUses.Grid | FieldUses.Form, far: true).Told("The water circuit that heats it, or heats and cools it in turn. Empty: it has a heat of its own."),
            FieldOf<Equipment>.Link<Equipment>("coldFrom", "Chilled water from", "piece of equipment", e => e.ColdFrom, (e, v) => e with { ColdFrom = v }, FieldUses.Grid | FieldUses.Form, far: true).Told("The water circuit that cools it by a coil of its own."),
            FieldOf<Equipment>.Link<Equipment>("airFrom", "Air from", "piece of equipment", e => e.AirFrom, (e, v) => e with { AirFrom = v }, FieldUses.Grid | FieldUses.Form, far: true).Told("The air handler that supplies it."),
            FieldOf<Equipment>.Shown("placeId", "Place", (project, e) => project.Find(e.PlaceId)?.Name, "Move the equipment on the plan.", FieldUses.None),
        ],
    };

    /// <summary>Where it stands.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>One of <see cref="Kinds"/>.</summary>
    public required string Kind { get; init; }

    /// <summary>The equipment it is part of, if any.</summary>
    public RecordId? PartOf { get; init; }

    /// <summary>The water circuit that heats it, or heats and cools it in turn.</summary>
    public RecordId? WaterFrom { get; init; }

    /// <summary>The water circuit that cools it by a coil of its own.</summary>
    public RecordId? ColdFrom { get; init; }

    /// <summary>The air handler that supplies it.</summary>
    public RecordId? AirFrom { get; init; }

    /// <summary>What it is fed with and by what.</summary>
    private IEnumerable<(Feed Feed, string Field, RecordId From)> Fed()
    {
        if (WaterFrom is { } water) yield return (Feed.Water, "waterFrom", water);
        if (ColdFrom is { } cold) yield return (Feed.Cold, "coldFrom", cold);
        if (AirFrom is { } air) yield return (Feed.Air, "airFrom", air);
    }

    /// <summary>The template it was placed from, if any.</summary>
    public Placement? Placed { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => PlaceId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId place = map.Owner(InPlace, PlaceId);
        RecordId? whole = map.Link(Whole, PartOf);
        RecordId? water = map.Link(Water, WaterFrom), cold = map.Link(Cold, ColdFrom), air = map.Link(Air, AirFrom);
        Placement? placed = Placed?.Through(map);
        return place == PlaceId && whole == PartOf && water == WaterFrom && cold == ColdFrom && air == AirFrom && ReferenceEquals(placed, Placed) ? this
            : this with { PlaceId = place, PartOf = whole, WaterFrom = water, ColdFrom = cold, AirFrom = air, Placed = placed };
    }

    private static readonly ReferenceSort Water = ReferenceSort.Link<Equipment>("gets water from", "waterFrom", "piece of equipment"), Cold = ReferenceSort.Link<Equipment>("gets chilled water from", "coldFrom", "piece of equipment"), Air = ReferenceSort.Link<Equipment>("gets air from", "airFrom", "piece of equipment");
    private static readonly ReferenceSort InPlace = ReferenceSort.Owner<Place>("in", "placeId", "place"), Whole = ReferenceSort.Link<Equipment>("part of", "partOf", "piece of equipment");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() =>
        [new UniqueKey($"equipment|{PlaceId}|{Name.ToLowerInvariant()}", "name", "There is already equipment called ‘{0}’ in this place. Choose another name.")];

    // How many pieces of equipment are fed by one.
    private static readonly Derivation.SumSort[] FedBy = [new("fed with water", "pieces"), new("fed with chilled water", "pieces"), new("fed with air", "pieces")];

    /// <inheritdoc/>
    public override IEnumerable<Derivation.Share> Shares() => Fed().Select(f => new Derivation.Share(f.From, FedBy[(int)f.Feed], 1));

    private const int MostDeep = 20;
    private static readonly string[] FeedWords = ["water", "chilled water", "air"];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckNameAndTags()) yield return refusal;
        if (!Kinds.Contains(Kind)) yield return new Refusal(Id, "kind", $"‘{Kind}’ is not a kind of equipment. Use one of: {string.Join(", ", Kinds)}.");
        foreach (var (feed, field, from) in Fed())
        {
            if (project.Find<Equipment>(from) is not { } source) continue;
            string what = FeedWords[(int)feed];
            if (EquipmentKind.All.Any(k => k.Name == Kind) && !EquipmentKind.Find(Kind).Takes.Contains(feed)) yield return new Refusal(Id, field, $"Equipment of the kind {Kind} takes no {what}. Leave it empty.");
            else if (!EquipmentKind.Find(source.Kind).Feeds.Contains(feed)) yield return new Refusal(Id, field, $"‘{source.Name}’ is of the kind {source.Kind}, which gives no {what}. Choose one of the kind {string.Join(" or ", EquipmentKind.All.Where(k => k.Feeds.Contains(feed)).Select(k => k.Name))}.");
        }
        foreach (Feed feed in Enum.GetValues<Feed>())
        {
            if (!EquipmentKind.Find(Kind).Feeds.Contains(feed) && project.Sum(Id, FedBy[(int)feed]) is > 0 and var fed) yield return new Refusal(Id, "kind", $"‘{Name}’ gives {FeedWords[(int)feed]} to {fed} other piece{(fed == 1 ? "" : "s")} of equipment; the kind {Kind} gives none. Let those get it from elsewhere first.");
        }
        RecordId? upstream = WaterFrom;
        for (int depth = 0; upstream is { } source && project.Find<Equipment>(source) is { } circuit; depth++, upstream = circuit.WaterFrom)
        {
            if (source != Id && depth <= MostDeep) continue;
            yield return new Refusal(Id, "waterFrom", $"‘{Name}’ would get its water from itself. Choose a circuit that does not depend on it.");
            break;
        }
        RecordId? up = PartOf;
        for (int depth = 0; up is { } whole; depth++)
        {
            if (project.Find(whole) is not Equipment other) yield break;
            if (whole == Id || depth > MostDeep)
            {
                yield return new Refusal(Id, "partOf", $"‘{Name}’ would be part of itself. Choose equipment that is not inside it.");
                yield break;
            }
            up = other.PartOf;
        }
    }
}
