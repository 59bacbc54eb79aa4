using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Texts;

namespace LoftyWren.Formats.Haystack;

/// <summary>A record's tags as a Haystack file holds them, its id among them.</summary>
public sealed record TaggedThing(IReadOnlyDictionary<string, TagValue> Tags);

/// <summary>The model in the file forms of Project Haystack: Zinc, Trio and JSON (version 4). Each writes what it reads back the same.</summary>
public static class HaystackFormats
{
    private const int MostThings = 500_000;

    /// <summary>The tagged records of a project in the order of their ids, each with its <c>id</c>.</summary>
    public static IReadOnlyList<TaggedThing> Of(Project project, TagIndex tags) =>
        [.. tags.All.OrderBy(t => t.Key).Select(t => new TaggedThing(t.Value.Append(KeyValuePair.Create("id", (TagValue)new RefValue(t.Key.Value, project.Find(t.Key)?.Name))).ToDictionary(x => x.Key, x => x.Value)))];

    /// <summary>Whether two models hold the same things, in the same order, with the same tags.</summary>
    public static bool Same(IReadOnlyList<TaggedThing> a, IReadOnlyList<TaggedThing> b) =>
        a.Count == b.Count && a.Zip(b).All(p => p.First.Tags.Count == p.Second.Tags.Count && p.First.Tags.All(t => p.Second.Tags.TryGetValue(t.Key, out TagValue? v) && v.Equals(t.Value)));

    /// <summary>Reads whichever of the three forms a text is in, told by how it begins.</summary>
    /// <exception cref="SyntaxException">It is none of them; says at which character.</exception>
    public static IReadOnlyList<TaggedThing> Read(string text)
    {
        string start = text.TrimStart();
        if (start.Length == 0) throw new SyntaxException(0, "It is empty. A model comes as Zinc, Trio or JSON.");
        return start.StartsWith("ver:", StringComparison.Ordinal) ? ReadZinc(start) : start[0] is '{' or '[' ? ReadJson(start) : ReadTrio(text);
    }

    /// <summary>As a Zinc grid; columns by name, the id first.</summary>
    public static string WriteZinc(IReadOnlyList<TaggedThing> things)
    {
        string[] columns = [.. things.SelectMany(t => t.Tags.Keys).Distinct().OrderBy(c => c != "id").ThenBy(c => c, StringComparer.Ordinal)];
        var text = new StringBuilder("ver:\"3.0\"\n").AppendJoin(',', columns.Length == 0 ? ["empty"] : columns).Append('\n');
        foreach (TaggedThing thing in things) text.AppendJoin(',', columns.Select(c => thing.Tags.TryGetValue(c, out TagValue? v) ? v.ToString() : "")).Append('\n');
        return text.ToString();
    }

    /// <summary>Reads a Zinc grid of scalars.</summary>
    /// <exception cref="SyntaxException">It is none; says at which character.</exception>
    public static IReadOnlyList<TaggedThing> ReadZinc(string text)
    {
        int at = 0;
        if (!text.StartsWith("ver:", StringComparison.Ordinal)) throw new SyntaxException(0, "A Zinc grid begins with ver:\"3.0\".");
        SkipLine(text, ref at);
        var columns = new List<string>();
        while (at < text.Length && text[at] != '\n')
        {
            int from = at;
            while (at < text.Length && (char.IsAsciiLetterOrDigit(text[at]) || text[at] == '_')) at++;
            string name = text[from..at];
            if (!TagSet.IsName(name)) throw new SyntaxException(from, $"‘{name}’ is no column's name.");
            columns.Add(name);
            // What a column says of itself is not kept; commas in its texts part nothing.
            for (bool isQuoted = false; at < text.Length && (isQuoted ? text[at] != '\n' : text[at] is not (',' or '\n')); at++)
            {
                if (text[at] == '\\' && isQuoted) at++;
                else if (text[at] == '"') isQuoted = !isQuoted;
            }
            if (at < text.Length && text[at] == ',') at++;
        }
        at++;
        var things = new List<TaggedThing>();
        while (at < text.Length)
        {
            if (things.Count >= MostThings) throw new SyntaxException(at, $"A grid has at most {MostThings} rows.");
            var tags = new Dictionary<string, TagValue>();
            for (int c = 0; c < columns.Count; c++)
            {
                while (at < text.Length && text[at] == ' ') at++;
                // N is the null of a grid: the row has no such tag.
                if (at < text.Length && text[at] == 'N' && (at + 1 == text.Length || text[at + 1] is ',' or '\n' or '\r' or ' '))
                {
                    at++;
                    while (at < text.Length && text[at] is ' ' or '\r') at++;
                }
                else if (at < text.Length && text[at] is not (',' or '\n' or '\r'))
                {
                    TagValue value = Zinc.ReadAt(text, ref at);
                    tags[columns[c]] = value;
                    while (at < text.Length && text[at] is ' ' or '\r') at++;
                }
                if (c < columns.Count - 1)
                {
                    if (at >= text.Length || text[at] != ',') throw new SyntaxException(Math.Min(at, text.Length), $"Expected a comma before column {columns[c + 1]}.");
                    at++;
                }
            }
            if (at < text.Length && text[at] == '\r') at++;
            if (at < text.Length && text[at] != '\n') throw new SyntaxException(at, "Expected the end of the row.");
            at++;
            if (tags.Count > 0) things.Add(new TaggedThing(tags));
        }
        return things;
    }

    /// <summary>As Trio: one tag a line, a line of dashes between records.</summary>
    public static string WriteTrio(IReadOnlyList<TaggedThing> things)
    {
        var text = new StringBuilder();
        foreach (TaggedThing thing in things)
        {
            foreach (var (name, value) in thing.Tags.OrderBy(t => t.Key != "id").ThenBy(t => t.Key, StringComparer.Ordinal))
                text.Append(value is MarkerValue ? name : $"{name}:{value}").Append('\n');
            text.Append("---\n");
        }
        return text.ToString();
    }

    /// <summary>Reads Trio with Zinc values; text without quotes is taken as text, and text over several lines where they are indented below their tag.</summary>
    /// <exception cref="SyntaxException">A line cannot be read; says at which character.</exception>
    public static IReadOnlyList<TaggedThing> ReadTrio(string text)
    {
        var things = new List<TaggedThing>();
        var tags = new Dictionary<string, TagValue>();
        string? open = null;
        var lines = new List<string>();
        int at = 0;
        void Close()
        {
            if (open is not null) tags[open] = new TextValue(string.Join('\n', lines).TrimEnd());
            open = null;
            lines.Clear();
        }
        foreach (string line in text.Split('\n'))
        {
            string trimmed = line.TrimEnd('\r');
            if (open is not null && (trimmed.Length == 0 || trimmed[0] is ' ' or '\t')) lines.Add(trimmed.TrimStart(' ', '\t'));
            else if (trimmed.StartsWith("---", StringComparison.Ordinal))
            {
                Close();
                if (tags.Count > 0) things.Add(new TaggedThing(tags));
                tags = [];
            }
            else if (trimmed.Trim().Length > 0 && !trimmed.StartsWith("//", StringComparison.Ordinal))
            {
                Close();
                int colon = trimmed.IndexOf(':');
                string name = (colon < 0 ? trimmed : trimmed[..colon]).Trim();
                if (!TagSet.IsName(name)) throw new SyntaxException(at, $"‘{(name.Length > 30 ? name[..30] : name)}’ is no tag's name.");
                if (colon < 0) tags[name] = TagValue.Marker;
                else if (trimmed[(colon + 1)..].Trim().Length == 0) open = name;
                else tags[name] = Value(trimmed[(colon + 1)..].Trim(), at + colon + 1);
            }
            at += line.Length + 1;
            if (things.Count > MostThings) throw new SyntaxException(at, $"A file has at most {MostThings} records.");
        }
        Close();
        if (tags.Count > 0) things.Add(new TaggedThing(tags));
        return things;

        static TagValue Value(string text, int at)
        {
            try
            {
                return Zinc.Read(text);
            }
            catch (SyntaxException e)
            {
                if (text.StartsWith('"') || text.StartsWith('`')) throw new SyntaxException(at + e.At, e.Message);
                return new TextValue(text);
            }
        }
    }

    /// <summary>As the standard's JSON: a grid of dicts, scalars with a <c>_kind</c>.</summary>
    public static string WriteJson(IReadOnlyList<TaggedThing> things)
    {
        var grid = new JsonObject
        {
            ["_kind"] = "grid",
            ["meta"] = new JsonObject { ["ver"] = "3.0" },
            ["cols"] = new JsonArray([.. things.SelectMany(t => t.Tags.Keys).Distinct().OrderBy(c => c != "id").ThenBy(c => c, StringComparer.Ordinal).Select(c => new JsonObject { ["name"] = c })]),
            ["rows"] = new JsonArray([.. things.Select(t => new JsonObject(t.Tags.OrderBy(x => x.Key, StringComparer.Ordinal).Select(x => KeyValuePair.Create(x.Key, ToJson(x.Value)))))]),
        };
        return grid.ToJsonString(new JsonSerializerOptions { Encoder = RecordJson.Options.Encoder });
    }

    /// <summary>Reads the standard's JSON: a grid of dicts whose values are scalars, or the array of its rows.</summary>
    /// <exception cref="SyntaxException">It is none; says what is wrong and on which path.</exception>
    public static IReadOnlyList<TaggedThing> ReadJson(string text)
    {
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(text, new JsonDocumentOptions { MaxDepth = 16 });
        }
        catch (JsonException e)
        {
            throw new SyntaxException(Math.Min(text.Length, (int)(e.BytePositionInLine ?? 0)), $"This is no JSON that can be read: line {(e.LineNumber ?? 0) + 1}, character {(e.BytePositionInLine ?? 0) + 1}. A grid is not deeper than 16 levels.");
        }
        using (document)
        {
            JsonElement root = document.RootElement, rows = root;
            if (root.ValueKind == JsonValueKind.Object && !root.TryGetProperty("rows", out rows)) throw new SyntaxException(0, "This JSON is no grid: it has no rows.");
            if (rows.ValueKind != JsonValueKind.Array) throw new SyntaxException(0, "The rows of a grid are a list.");
            if (rows.GetArrayLength() > MostThings) throw new SyntaxException(0, $"A grid has at most {MostThings} rows.");
            var things = new List<TaggedThing>();
            int number = 0;
            foreach (JsonElement row in rows.EnumerateArray())
            {
                string where = $"rows[{number++}]";
                if (row.ValueKind != JsonValueKind.Object) throw new SyntaxException(0, $"{where} is no row: a row is a dict of tags.");
                var tags = new Dictionary<string, TagValue>();
                foreach (JsonProperty tag in row.EnumerateObject())
                {
                    if (tag.Value.ValueKind == JsonValueKind.Null || (tag.NameEquals("_kind") && tag.Value.ValueKind == JsonValueKind.String)) continue;
                    if (!TagSet.IsName(tag.Name)) throw new SyntaxException(0, $"{where}: ‘{(tag.Name.Length > 30 ? tag.Name[..30] : tag.Name)}’ is no tag's name.");
                    if (!tags.TryAdd(tag.Name, FromJson(tag.Value, $"{where}.{tag.Name}"))) throw new SyntaxException(0, $"{where} has the tag {tag.Name} twice.");
                }
                if (tags.Count > 0) things.Add(new TaggedThing(tags));
            }
            return things;
        }
    }

    private static JsonNode? ToJson(TagValue value) => value switch
    {
        MarkerValue => new JsonObject { ["_kind"] = "marker" },
        NaValue => new JsonObject { ["_kind"] = "na" },
        RemoveValue => new JsonObject { ["_kind"] = "remove" },
        BoolValue b => b.Value,
        TextValue t => t.Value,
        NumberValue { Unit: null } n when double.IsFinite(n.Value) => n.Value,
        NumberValue n => With("number", ("val", double.IsFinite(n.Value) ? n.Value : JsonValue.Create(double.IsNaN(n.Value) ? "NaN" : n.Value > 0 ? "INF" : "-INF")), ("unit", n.Unit)),
        UriValue u => With("uri", ("val", u.Value)),
        RefValue r => With("ref", ("val", r.Id), ("dis", r.Called)),
        SymbolValue s => With("symbol", ("val", s.Value)),
        DateValue => With("date", ("val", value.ToString())),
        TimeValue => With("time", ("val", value.ToString())),
        MomentValue m => With("dateTime", ("val", value.ToString().Split(' ')[0]), ("tz", m.Zone)),
        CoordValue c => With("coord", ("lat", c.Latitude), ("lng", c.Longitude)),
        XStrValue x => With("xstr", ("type", x.Sort), ("val", x.Value)),
        _ => throw new ArgumentException($"{value.GetType().Name} is no scalar."),
    };

    private static JsonObject With(string kind, params (string Name, JsonNode? Value)[] fields)
    {
        var node = new JsonObject { ["_kind"] = kind };
        foreach (var (name, value) in fields)
        {
            if (value is not null) node[name] = value;
        }
        return node;
    }

    private static TagValue FromJson(JsonElement node, string path)
    {
        switch (node.ValueKind)
        {
            case JsonValueKind.True or JsonValueKind.False: return new BoolValue(node.GetBoolean());
            case JsonValueKind.Number: return new NumberValue(node.TryGetDouble(out double plain) ? plain : throw new SyntaxException(0, $"{path} is no number that can be kept."));
            case JsonValueKind.String: return new TextValue(Text(node, path));
            case JsonValueKind.Array: throw new SyntaxException(0, $"{path} is a list; a tag's value is a scalar.");
        }
        string kind = Field("_kind");
        return kind switch
        {
            "marker" => TagValue.Marker,
            "na" => new NaValue(),
            "remove" => new RemoveValue(),
            "number" => new NumberValue(Number("val"), Optional("unit")),
            "uri" => new UriValue(Field("val")),
            "ref" => new RefValue(Field("val"), Optional("dis")),
            "symbol" => new SymbolValue(Field("val")),
            "date" or "time" => Scalar(Field("val")),
            "dateTime" => Scalar($"{Field("val")} {Optional("tz") ?? "UTC"}"),
            "coord" => new CoordValue(Number("lat"), Number("lng")),
            "xstr" => new XStrValue(Field("type"), Field("val")),
            _ => throw new SyntaxException(0, $"{path}: ‘{(kind.Length > 30 ? kind[..30] : kind)}’ is no scalar that can be a tag's value."),
        };

        JsonElement? Find(string name) => node.TryGetProperty(name, out JsonElement field) && field.ValueKind != JsonValueKind.Null ? field : null;

        string? Optional(string name) => Find(name) is { } field ? Text(field, $"{path}.{name}") : null;

        string Field(string name) => Optional(name) ?? throw new SyntaxException(0, $"{path} has no {name}.");

        double Number(string name)
        {
            if (Find(name) is { ValueKind: JsonValueKind.Number } field && field.TryGetDouble(out double number)) return number;
            return Optional(name) switch
            {
                "NaN" => double.NaN,
                "INF" => double.PositiveInfinity,
                "-INF" => double.NegativeInfinity,
                _ => throw new SyntaxException(0, $"{path}.{name} is no number."),
            };
        }

        TagValue Scalar(string text)
        {
            try
            {
                return Zinc.Read(text);
            }
            catch (SyntaxException e)
            {
                throw new SyntaxException(0, $"{path}: {e.Message}");
            }
        }
    }

    private static string Text(JsonElement node, string path)
    {
        try
        {
            return node.ValueKind == JsonValueKind.String ? node.GetString()! : throw new SyntaxException(0, $"{path} is no text.");
        }
        catch (InvalidOperationException)
        {
            throw new SyntaxException(0, $"{path} holds letters that are no Unicode.");
        }
    }

    private static void SkipLine(string text, ref int at)
    {
        while (at < text.Length && text[at] != '\n') at++;
        at++;
    }

    /// <summary>The model in Brick terms: of each tagged record its class, its name, and what it is part of or a point of.</summary>
    public static IReadOnlyList<Statement> Brick(Project project, TagIndex tags)
    {
        var statements = new List<Statement>();
        foreach (var (id, set) in tags.All.OrderBy(t => t.Key))
        {
            void Says(string predicate, string to, bool isText = false) => statements.Add(new Statement($":{id}", predicate, to, isText));
            Says("a", $"brick:{BrickClass.Of(set)}");
            Says("rdfs:label", project.Find(id)!.Name, isText: true);
            if (set["equipRef"] is RefValue equipment) Says(set["point"] is not null ? "brick:isPointOf" : "brick:isPartOf", $":{equipment.Id}");
            if (set["spaceRef"] is RefValue space) Says($"brick:{(set["space"] is not null ? "isPartOf" : set["point"] is not null && set["equipRef"] is null ? "isPointOf" : "hasLocation")}", $":{space.Id}");
        }
        return statements;
    }

    /// <summary>Brick statements as Turtle.</summary>
    public static string WriteBrick(IEnumerable<Statement> statements) => Turtle.Write(BrickPrefixes, statements);

    /// <summary>The Brick statements of a Turtle text.</summary>
    /// <exception cref="FormatException">It cannot be read; the message names the character.</exception>
    public static IReadOnlyList<Statement> ReadBrick(string text) => Turtle.Read(text).Statements;

    private static readonly (string, string)[] BrickPrefixes = [("brick", "https://brickschema.org/schema/Brick#"), ("rdfs", "http://www.w3.org/2000/01/rdf-schema#"), ("", "urn:lofty-wren:")];
}

/// <summary>The Brick class that a set of tags comes to; the general class where none is closer.</summary>
internal static class BrickClass
{
    private static readonly (string Class, string[] Tags)[] Classes =
    [
        ("Site", ["site"]), ("Building", ["building"]), ("Floor", ["floor"]), ("Room", ["room"]),
        ("Zone_Air_Temperature_Sensor", ["sensor", "zone", "air", "temp"]), ("Supply_Air_Temperature_Sensor", ["sensor", "discharge", "air", "temp"]), ("Return_Air_Temperature_Sensor", ["sensor", "return", "air", "temp"]),
        ("Outside_Air_Temperature_Sensor", ["sensor", "outside", "air", "temp"]), ("Mixed_Air_Temperature_Sensor", ["sensor", "mixed", "air", "temp"]), ("Leaving_Hot_Water_Temperature_Sensor", ["sensor", "leaving", "hot", "water", "temp"]),
        ("CO2_Level_Sensor", ["sensor", "co2"]), ("Humidity_Sensor", ["sensor", "humidity"]), ("Pressure_Sensor", ["sensor", "pressure"]), ("Illuminance_Sensor", ["sensor", "illuminance"]), ("Occupancy_Sensor", ["sensor", "occupied"]),
        ("Energy_Sensor", ["sensor", "energy"]), ("Power_Sensor", ["sensor", "power"]), ("Temperature_Sensor", ["sensor", "temp"]), ("Sensor", ["sensor"]),
        ("Temperature_Setpoint", ["sp", "temp"]), ("CO2_Setpoint", ["sp", "co2"]), ("Humidity_Setpoint", ["sp", "humidity"]), ("Setpoint", ["sp"]),
        ("Heating_Valve_Command", ["cmd", "valve", "heating"]), ("Valve_Command", ["cmd", "valve"]), ("Damper_Command", ["cmd", "damper"]), ("Fan_Command", ["cmd", "fan"]), ("Lighting_Level_Command", ["cmd", "lights"]), ("Command", ["cmd"]), ("Point", ["point"]),
        ("AHU", ["ahu"]), ("FCU", ["fcu"]), ("Boiler", ["boiler"]), ("Heat_Pump", ["heatPump"]), ("Radiator", ["radiator"]), ("Humidifier", ["humidifier"]), ("Pump", ["equip", "pump"]), ("Exhaust_Fan", ["equip", "fan", "exhaust"]), ("Fan", ["equip", "fan"]),
        ("Lighting", ["equip", "lights"]), ("Blind", ["equip", "blind"]), ("Weather_Station", ["weatherStation"]), ("Meter", ["meter"]), ("Equipment", ["equip"]),
    ];

    /// <summary>The first class all of whose tags are there; the list goes from the particular to the general.</summary>
    public static string Of(TagSet tags) => Classes.First(c => c.Tags.All(t => tags[t] is not null) || c.Class == "Equipment").Class;
}
