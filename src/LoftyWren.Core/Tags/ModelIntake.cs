using System.Security.Cryptography;
using System.Text;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using NodaTime;

namespace LoftyWren.Core.Tags;

/// <summary>What one thing of a tagged model comes to: adds, changes, same, or left out with why.</summary>
public sealed record IntakeLine(string Verdict, string Noun, string Name, string Why);

/// <summary>A tagged model read into a project: what would be done, and the edits that do it. Refusals are reasons why it cannot be taken at all.</summary>
public sealed record IntakePlan(IReadOnlyList<Edit> Edits, IReadOnlyList<IntakeLine> Lines, IReadOnlyList<string> Refusals);

/// <summary>
/// Takes a model of the open tagging standard into a project: sites, spaces, equipment and points become records, and every
/// tag that would not follow by itself is written on its record. A thing whose id is a record of the project changes that
/// one; the same model again changes nothing.
/// </summary>
public static class ModelIntake
{
    private static readonly HashSet<string> Structural = ["id", "dis", "navName", "site", "space", "building", "floor", "room", "equip", "point", "siteRef", "spaceRef", "floorRef", "equipRef", "kind", "unit", "enum", "minVal", "maxVal", "area", "tz", "floorNum", "sensor", "cmd", "sp"];

    /// <summary>Works out an intake; things are tags by name, their ids among them.</summary>
    public static IntakePlan Plan(Project project, IReadOnlyList<IReadOnlyDictionary<string, TagValue>> things)
    {
        var lines = new List<IntakeLine>();
        var byId = new Dictionary<string, IReadOnlyDictionary<string, TagValue>>();
        foreach (var thing in things)
        {
            if (thing.GetValueOrDefault("id") is not RefValue id) lines.Add(new IntakeLine("left out", "thing", Called(thing, "?"), "It has no id, so nothing can refer to it."));
            else if (!byId.TryAdd(id.Id, thing)) lines.Add(new IntakeLine("left out", "thing", Called(thing, id.Id), $"Another thing before it has the id {id.Id}."));
        }
        var ids = byId.ToDictionary(t => t.Key, t => IdOf(project, t.Key, t.Value));
        var made = new Dictionary<RecordId, (TaggedRecord Record, IReadOnlyDictionary<string, TagValue> Thing)>();
        var left = new Dictionary<string, string>();
        // Outermost first: a room needs its floor, a point its equipment. What refers to something left out is left out too.
        foreach (var (sort, wanted) in ((string Sort, Func<IReadOnlyDictionary<string, TagValue>, bool>)[])[("site", t => Has(t, "site")), ("building", t => Has(t, "building")), ("floor", t => Has(t, "floor")), ("room", t => Has(t, "room") || (Has(t, "space") && !Has(t, "building") && !Has(t, "floor"))), ("equipment", t => Has(t, "equip")), ("point", t => Has(t, "point"))])
        {
            foreach (var (key, thing) in byId.Where(t => wanted(t.Value) && !made.ContainsKey(ids[t.Key]) && !left.ContainsKey(t.Key)).OrderBy(t => t.Key, StringComparer.Ordinal).ToList())
            {
                try
                {
                    made[ids[key]] = (Make(sort, key, thing), thing);
                }
                catch (FormatException e)
                {
                    left[key] = e.Message;
                    lines.Add(new IntakeLine("left out", sort, Called(thing, key), e.Message));
                }
            }
        }
        foreach (var (key, thing) in byId.Where(t => !made.ContainsKey(ids[t.Key]) && !left.ContainsKey(t.Key)))
            lines.Add(new IntakeLine("left out", "thing", Called(thing, key), "It is no site, space, equip or point."));

        Project scratch = project.With(project.Revision, made.Values.Select(m => (ProjectRecord)m.Record), []);
        var rules = TaggingRules.Of(scratch);
        var edits = new List<Edit>();
        foreach (var (id, (record, thing)) in made)
        {
            TaggedRecord wanted = WithTags(scratch, rules, record, thing, ids);
            ProjectRecord? here = project.Find(id);
            string verdict = here is null ? "adds" : RecordJson.Same(here, wanted) ? "same" : "changes";
            lines.Add(new IntakeLine(verdict, record.Noun, record.Name, verdict == "changes" ? string.Join("; ", Differences.Fields(here, wanted, scratch.Find).Take(4).Select(f => $"{f.Words}: {f.Before ?? "none"} → {f.After ?? "none"}")) : ""));
            if (verdict != "same") edits.Add(Edit.Of(wanted, project.FindEntry(id)?.Revision ?? 0));
        }
        IReadOnlyList<string> refusals = edits.Count == 0 ? [] : [.. Changes.Apply(project, new ChangeSet(edits, "intake", 0, "Intake")).Refusals.Select(r => r.Sentence).Distinct().Take(50)];
        return new IntakePlan(edits, lines, refusals);

        ProjectRecord? To(IReadOnlyDictionary<string, TagValue> thing, string tag)
        {
            if (thing.GetValueOrDefault(tag) is not RefValue to) return null;
            if (left.TryGetValue(to.Id, out string? why)) throw new FormatException($"Its {tag} leads to something left out: {why}");
            RecordId id = ids.GetValueOrDefault(to.Id, RecordId.IsValid(to.Id) ? new RecordId(to.Id) : default);
            return made.TryGetValue(id, out var found) ? found.Record : id != default && project.Find(id) is { } here ? here : throw new FormatException($"Its {tag} leads to {to.Id}, which is neither in the file nor in the project.");
        }

        TaggedRecord Make(string sort, string key, IReadOnlyDictionary<string, TagValue> thing)
        {
            RecordId id = ids[key];
            string name = Name(thing) ?? key;
            switch (sort)
            {
                case "equipment":
                    var old = project.Find<Equipment>(id);
                    var at = (To(thing, "spaceRef") ?? To(thing, "siteRef") ?? project.Site) as Place ?? throw new FormatException("It stands nowhere: give it a spaceRef or a siteRef.");
                    return (old ?? new Equipment { Id = id, Name = name, Kind = Kind(thing), PlaceId = at.Id }) with { Name = name, PlaceId = at.Id, PartOf = (To(thing, "equipRef") as Equipment)?.Id ?? old?.PartOf };
                case "point":
                    return Point(id, name, thing);
                default:
                    PlaceKind kind = sort switch { "site" => PlaceKind.Site, "building" => PlaceKind.Building, "floor" => PlaceKind.Floor, _ => PlaceKind.Room };
                    Place? parent = kind == PlaceKind.Site ? null : (To(thing, "spaceRef") ?? (kind == PlaceKind.Room ? To(thing, "floorRef") : null) ?? To(thing, "siteRef") ?? project.Site) as Place;
                    if (kind != PlaceKind.Site && parent?.Kind != kind - 1) throw new FormatException($"A {sort} belongs in a {(kind - 1).ToString().ToLowerInvariant()}; its reference leads to {(parent is null ? "none" : $"the {parent.Noun} ‘{parent.Name}’")}. Give it the right spaceRef.");
                    Place place = project.Find<Place>(id) ?? new Place { Id = id, Name = name, Kind = kind, In = parent?.Id };
                    // A site of another model is this project's site; what it is called here stays.
                    if (kind == PlaceKind.Site && key != id.Value && project.Find(id) is not null) return place;
                    return place with
                    {
                        Name = name,
                        In = parent?.Id,
                        Order = thing.GetValueOrDefault("floorNum") is NumberValue level ? (int)level.Value : place.Order,
                        AreaSquareMetres = thing.GetValueOrDefault("area") is NumberValue { Unit: null or "m²" or "square_meter" } area ? area.Value : place.AreaSquareMetres,
                        TimeZone = kind == PlaceKind.Site ? place.TimeZone ?? Zone(thing) : null,
                    };
            }
        }

        Point Point(RecordId id, string name, IReadOnlyDictionary<string, TagValue> thing)
        {
            ProjectRecord owner = To(thing, "equipRef") ?? To(thing, "spaceRef") ?? To(thing, "siteRef") ?? project.Site ?? throw new FormatException("It belongs to nothing: give it an equipRef or a spaceRef.");
            string sort = (thing.GetValueOrDefault("kind") as TextValue)?.Value ?? throw new FormatException("It does not say of which kind it is: Number, Bool or Str.");
            PointKind kind = sort switch { "Number" => PointKind.Analog, "Bool" => PointKind.Binary, "Str" => PointKind.Multistate, _ => throw new FormatException($"Its kind is ‘{sort}’; a point is Number, Bool or Str.") };
            string[] states = (thing.GetValueOrDefault("enum") as TextValue)?.Value.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) ?? (kind == PointKind.Binary ? ["off", "on"] : []);
            if (kind == PointKind.Multistate && states.Length < 2) throw new FormatException("Its kind is Str and its enum names fewer than two states.");
            PointRole role = Has(thing, "sensor") ? PointRole.Sensor : Has(thing, "cmd") ? PointRole.Command : Has(thing, "sp") ? PointRole.Setpoint : PointRole.Value;
            var old = project.Find<Point>(id);
            return (old ?? new Point { Id = id, Name = name, OwnerId = owner.Id, Kind = kind, Role = role }) with
            {
                Name = name,
                OwnerId = owner.Id,
                Kind = kind,
                Role = role,
                Unit = kind == PointKind.Analog ? Unit(thing) : null,
                StateTexts = kind == PointKind.Analog ? [] : old is not null && old.StateTexts.SequenceEqual(states) ? old.StateTexts : states,
                Low = Limit(thing, "minVal") ?? old?.Low,
                High = Limit(thing, "maxVal") ?? old?.High,
            };
        }
    }

    private static bool Has(IReadOnlyDictionary<string, TagValue> thing, string tag) => thing.ContainsKey(tag);

    private static string? Name(IReadOnlyDictionary<string, TagValue> thing) => ((thing.GetValueOrDefault("dis") ?? thing.GetValueOrDefault("navName")) as TextValue)?.Value.Trim() is { Length: > 0 } name ? name : (thing.GetValueOrDefault("id") as RefValue)?.Called;

    private static string Called(IReadOnlyDictionary<string, TagValue> thing, string key) => Name(thing) ?? key;

    private static double? Limit(IReadOnlyDictionary<string, TagValue> thing, string tag) => thing.GetValueOrDefault(tag) is NumberValue n && double.IsFinite(n.Value) ? n.Value : null;

    private static string? Unit(IReadOnlyDictionary<string, TagValue> thing)
    {
        if (thing.GetValueOrDefault("unit") is not TextValue { Value: { Length: > 0 } text }) return null;
        return Units.Unit.All.FirstOrDefault(u => Model.UnitName(u.Symbol) == text || u.Symbol == text)?.Symbol ?? throw new FormatException($"Its unit ‘{text}’ is none of those known here: {string.Join(", ", Units.Unit.All.Select(u => Model.UnitName(u.Symbol)))}.");
    }

    private static string Zone(IReadOnlyDictionary<string, TagValue> thing)
    {
        string city = (thing.GetValueOrDefault("tz") as TextValue)?.Value ?? throw new FormatException("A site needs a tz, the city of its time zone.");
        return DateTimeZoneProviders.Tzdb.Ids.Where(z => z == city || z.EndsWith("/" + city, StringComparison.Ordinal)).Order(StringComparer.Ordinal).FirstOrDefault() ?? throw new FormatException($"‘{city}’ is the city of no time zone.");
    }

    /// <summary>The kind of equipment most of whose tags are here, all of them being so.</summary>
    private static string Kind(IReadOnlyDictionary<string, TagValue> thing) =>
        Model.EquipmentTags.Where(k => k.Value.All(thing.ContainsKey)).OrderByDescending(k => k.Value.Count).ThenBy(k => k.Key, StringComparer.Ordinal).Select(k => k.Key).FirstOrDefault() ?? "other";

    /// <summary>A record of the project keeps its id; the site is the site; any other id becomes one that follows from it, so that the same model finds its records again.</summary>
    private static RecordId IdOf(Project project, string key, IReadOnlyDictionary<string, TagValue> thing)
    {
        if (RecordId.IsValid(key) && project.Find(new RecordId(key)) is TaggedRecord) return new RecordId(key);
        if (Has(thing, "site") && project.Site is { } site) return site.Id;
        if (RecordId.IsValid(key) && project.Find(new RecordId(key)) is null) return new RecordId(key);
        return new RecordId("model-" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(key)))[..24]);
    }

    /// <summary>The record with every tag written on it that would not be there by itself; those it has stay.</summary>
    private static TaggedRecord WithTags(Project project, TaggingRules rules, TaggedRecord record, IReadOnlyDictionary<string, TagValue> thing, Dictionary<string, RecordId> ids)
    {
        var derived = rules.Derive(project, record);
        var direct = new SortedDictionary<string, string>(record.Tags?.ToDictionary() ?? [], StringComparer.Ordinal);
        int before = direct.Count;
        foreach (var (name, value) in thing)
        {
            if (Structural.Contains(name) || !TagSet.IsName(name) || value is RemoveValue) continue;
            TagValue ours = value is RefValue to && ids.TryGetValue(to.Id, out RecordId id) ? new RefValue(id.Value, to.Called) : value;
            if (derived.TryGetValue(name, out DerivedTag? there) && there.Value.Equals(ours)) continue;
            direct[name] = Zinc.Write(ours);
        }
        return direct.Count == before && before == 0 ? record : record.Tags is { } old && old.Count == direct.Count && direct.All(t => old.TryGetValue(t.Key, out string? v) && v == t.Value) ? record : record with { Tags = direct };
    }
}
