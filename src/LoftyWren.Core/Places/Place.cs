using LoftyWren.Core.Fields;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using NodaTime;

namespace LoftyWren.Core.Places;

/// <summary>The four sorts of place, outermost first.</summary>
public enum PlaceKind
{
    /// <summary>The whole grounds.</summary>
    Site,
    /// <summary>A building on the site.</summary>
    Building,
    /// <summary>A floor of a building.</summary>
    Floor,
    /// <summary>A room on a floor.</summary>
    Room,
}

/// <summary>A corner of an outline, in metres east (X) and south (Y) of the floor's origin.</summary>
public readonly record struct Corner(double X, double Y);

/// <summary>A site, building, floor or room.</summary>
public sealed record Place : TaggedRecord
{
    /// <summary>The key that only the project's one site holds.</summary>
    public const string SiteKey = "the-site";

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Place> AsKind { get; } = new("place")
    {
        Nouns =
        [
            new("site", "sites"),
            new("building", "buildings") { NameTokens = [] },
            new("floor", "floors") { NameTokens = ["building"] },
            new("room", "rooms") { NameTokens = ["building", "floor"] },
        ],
        Grain = ConflictGrain.Field,
        Tags = PlaceTags.Give,
        Fields =
        [
            FieldOf<Place>.Shown("kind", "Kind", (_, p) => p.Noun, "A place stays what it is; add another.", FieldUses.Condition),
            FieldOf<Place>.Text("shortName", "Short name", p => p.ShortName, (p, v) => p with { ShortName = v }, FieldUses.Form | FieldUses.Import | FieldUses.Export, ["room no", "room number", "number", "short"], column: "shortName").Told("The number on the door or a word as short; at most 16 characters."),
            FieldOf<Place>.Whole("order", "Order", p => p.Order, (p, v) => p with { Order = v }, FieldUses.Form, only: p => p.Kind != PlaceKind.Site, labels: p => p.Kind == PlaceKind.Floor ? "Level" : "Order").Told("Where it stands among its neighbours; for a floor its level, with 0 at the ground."),
            FieldOf<Place>.Number("areaSquareMetres", "Area", "m²", p => p.AreaSquareMetres, (p, v) => p with { AreaSquareMetres = v }, FieldUses.Form | FieldUses.Import | FieldUses.Export, ["area", "m²", "m2", "area m²", "area m2", "size"], column: "area", only: p => p.Kind == PlaceKind.Room, words: "area in m²").Told("The floor area of the room, more than 0.", most: 1_000_000),
            OutlineField.AsField,
            FieldOf<Place>.Text("timeZone", "Time zone", p => p.TimeZone, (p, v) => p with { TimeZone = v }, FieldUses.Form, only: p => p.Kind == PlaceKind.Site).Told("The time zone of the site, such as Europe/London: schedules and trends are read in it."),
            FieldOf<Place>.Shown("in", "In", (project, p) => p.In is { } up ? project.Find(up)?.Name : null, "Move the place on the plan.", FieldUses.None, words: "is in"),
        ],
    };

    /// <summary>Which of the four.</summary>
    public required PlaceKind Kind { get; init; }

    private static readonly ReferenceSort InPlace = ReferenceSort.Owner<Place>("in", "in", "place");

    /// <summary>The place it is in; none for a site.</summary>
    public RecordId? In { get; init; }

    /// <summary>A few letters for labels and drawings.</summary>
    public string? ShortName { get; init; }

    /// <summary>Order among siblings; for floors, the higher number is the higher floor.</summary>
    public int Order { get; init; }

    /// <summary>Floor area in m², for rooms.</summary>
    public double? AreaSquareMetres { get; init; }

    /// <summary>The room's outline in floor coordinates, in metres; at least three corners, or none.</summary>
    public IReadOnlyList<Corner> Outline { get; init; } = [];

    /// <summary>The site's time zone, a name of the IANA list.</summary>
    public string? TimeZone { get; init; }

    /// <inheritdoc/>
    public override string Noun => Kind switch { PlaceKind.Site => "site", PlaceKind.Building => "building", PlaceKind.Floor => "floor", _ => "room" };

    /// <inheritdoc/>
    public override RecordId? ParentId => In;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId? @in = map.Link(InPlace, In);
        return @in == In ? this : this with { In = @in };
    }

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys()
    {
        yield return new UniqueKey($"place|{In}|{Name.ToLowerInvariant()}", "name", "There is already a {1} called ‘{0}’ here. Choose another name.");
        if (Kind == PlaceKind.Site) yield return new UniqueKey(SiteKey, "kind", "A project has one site, and this one has it already: ‘{0}’. Add a building to it.");
    }

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckNameAndTags()) yield return refusal;
        if (Kind == PlaceKind.Site)
        {
            if (In is not null) yield return new Refusal(Id, "in", "A site is not inside anything.");
            if (TimeZone is null || DateTimeZoneProviders.Tzdb.GetZoneOrNull(TimeZone) is null)
                yield return new Refusal(Id, "timeZone", $"‘{TimeZone}’ is not a time zone. Use a name such as Europe/London.");
        }
        else
        {
            PlaceKind wanted = Kind - 1;
            string wantedWord = wanted.ToString().ToLowerInvariant();
            if (In is not { } parent || project.Find(parent) is not Place container)
                yield return new Refusal(Id, "in", $"A {Noun} belongs in a {wantedWord}. Choose one.");
            else if (container.Kind != wanted)
                yield return new Refusal(Id, "in", $"A {Noun} belongs in a {wantedWord}, not in a {container.Noun} (‘{container.Name}’).");
        }
        if (AreaSquareMetres is { } area && area is not (> 0 and <= 1_000_000))
            yield return new Refusal(Id, "areaSquareMetres", $"An area of {area} m² cannot be; give more than 0 and at most 1 000 000 m².");
        if (ShortName is { Length: > 16 }) yield return new Refusal(Id, "shortName", "A short name has at most 16 characters.");
        if (Outline.Count is 1 or 2) yield return new Refusal(Id, "outline", "An outline needs at least three corners.");
        if (Outline.Count > 200) yield return new Refusal(Id, "outline", "An outline has at most 200 corners.");
        if (Outline.Any(c => !(Math.Abs(c.X) <= 10_000 && Math.Abs(c.Y) <= 10_000)))
            yield return new Refusal(Id, "outline", "A corner lies more than 10 km from the floor's origin. Coordinates are in metres.");
        if (Outline.Count >= 3 && Outlines.Area(Outline) < 0.1)
            yield return new Refusal(Id, "outline", "This outline encloses no area. List the corners in order around the room.");
    }
}
