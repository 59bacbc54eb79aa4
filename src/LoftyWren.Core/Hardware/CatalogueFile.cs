using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>Something that is wrong in a catalogue file, and in which line, from 1.</summary>
public sealed record CatalogueError(int Line, string Sentence)
{
    /// <inheritdoc/>
    public override string ToString() => $"line {Line}: {Sentence}";
}

/// <summary>What a catalogue file holds: its models, or what is wrong with it.</summary>
public sealed record CatalogueReading(IReadOnlyList<HardwareModel> Models, IReadOnlyList<CatalogueError> Errors);

/// <summary>
/// A catalogue as a file: JSON, <c>{"format": "lofty-wren-hardware-1", "models": […]}</c>, by the schema that is published at
/// <c>/api/schemas/hardware.json</c>. Every model is read by itself, so that one that is wrong does not hide what is wrong with the next.
/// </summary>
public static class CatalogueFile
{
    /// <summary>What the file says of its own form.</summary>
    public const string Format = "lofty-wren-hardware-1";

    /// <summary>The most models in one file; the most terminals of one.</summary>
    public const int MostModels = 500, MostTerminals = 128;

    private const int MostErrors = 50, Most = 1_000_000, MostMemory = 100_000_000;

    /// <summary>Reads a file; all that is wrong with it is told at once, with lines.</summary>
    public static CatalogueReading Parse(string json)
    {
        var errors = new List<CatalogueError>();
        var models = new List<HardwareModel>();
        byte[] bytes = Encoding.UTF8.GetBytes(json);
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(bytes, new JsonDocumentOptions { MaxDepth = 16, CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true });
        }
        catch (JsonException e)
        {
            return new CatalogueReading([], [new CatalogueError((int)(e.LineNumber ?? 0) + 1, "This is not JSON: a bracket, a comma or a quotation mark is missing or stands where none may be.")]);
        }
        using (document)
        {
            JsonElement root = document.RootElement;
            if (root.ValueKind != JsonValueKind.Object || !root.TryGetProperty("format", out JsonElement format) || format.ValueKind != JsonValueKind.String || format.GetString() != Format)
                return new CatalogueReading([], [new CatalogueError(1, $"The file does not say \"format\": \"{Format}\", so it is no hardware catalogue of this version.")]);
            if (!root.TryGetProperty("models", out JsonElement list) || list.ValueKind != JsonValueKind.Array)
                return new CatalogueReading([], [new CatalogueError(1, "The file has no list of \"models\".")]);
            var lines = LinesOf(bytes);
            if (list.GetArrayLength() > MostModels) return new CatalogueReading([], [new CatalogueError(1, $"The file has {list.GetArrayLength()} models; at most {MostModels} are read at once.")]);
            var ids = new Dictionary<string, int>();
            int at = 0;
            foreach (JsonElement element in list.EnumerateArray())
            {
                string path = $"$.models[{at++}]";
                int Line(string under) => lines.GetValueOrDefault(path + under, lines.GetValueOrDefault(path, 1));
                try
                {
                    HardwareModel model = element.Deserialize<HardwareModel>(Strict) ?? throw new JsonException("a model is missing");
                    if (ids.TryGetValue(model.Id, out int first)) errors.Add(new CatalogueError(Line(".id"), $"The id ‘{model.Id}’ is that of the model in line {first} too."));
                    ids.TryAdd(model.Id, Line(".id"));
                    foreach (string wrong in Check(model)) errors.Add(new CatalogueError(Line(""), wrong));
                    models.Add(model);
                }
                catch (JsonException e)
                {
                    string under = (e.Path ?? "$")[1..];
                    while (under.Length > 0 && !lines.ContainsKey(path + under)) under = under[..Math.Max(0, under.LastIndexOfAny(['.', '[']))];
                    errors.Add(new CatalogueError(Line(under), Say(e, under)));
                }
                if (errors.Count >= MostErrors) break;
            }
        }
        return new CatalogueReading(errors.Count == 0 ? models : [], errors);
    }

    /// <summary>What is wrong with a model, in words.</summary>
    public static IEnumerable<string> Check(HardwareModel model)
    {
        string which = $"Model ‘{model.Id}’";
        if (!RecordId.IsValid(model.Id)) yield return $"‘{model.Id}’ is no id: use small letters, digits and hyphens.";
        if (string.IsNullOrWhiteSpace(model.Name) || model.Name.Length > 80) yield return $"{which} needs a name of at most 80 characters.";
        if (model.WidthMillimetres is < 1 or > 600) yield return $"{which} is {model.WidthMillimetres} mm wide; 1 to 600 is believable.";
        if (model.Price is < 0 or > Most) yield return $"{which} has a price that is not between 0 and {Most}.";
        if (model.MostModules is < 0 or > 64) yield return $"{which} would take {model.MostModules} modules; 0 to 64 can be addressed.";
        if (model.MostModules > 0 && !model.RunsPrograms) yield return $"{which} takes modules but names no runtime, so nothing could run them.";
        if (model.Values is < 0 or > MostMemory || model.TrendSamples is < 0 or > MostMemory || model.OperationsPerSecond is < 0 or > MostMemory) yield return $"{which} has memory, or operations a second, that are not between 0 and {MostMemory}.";
        if (model.MemoryKilobytes is < 0 or > MostMemory || model.Parts.Any(p => p.Kilobytes is < 0 or > MostMemory)) yield return $"{which}: memory, and what a part takes of it, is between 0 and {MostMemory} kB.";
        if (model.TerminalCount > MostTerminals) yield return $"{which} has {model.TerminalCount} terminals; at most {MostTerminals} can be drawn and wired.";
        foreach (TerminalGroup group in model.Groups)
        {
            string its = $"{which}, terminals {group.Prefix}";
            if (group.Prefix.Length is < 1 or > 4 || !group.Prefix.All(char.IsAsciiLetterUpper)) yield return $"{its}: a prefix is one to four capital letters.";
            if (model.Groups.Count(g => g.Prefix == group.Prefix) > 1) yield return $"{its}: two groups have this prefix.";
            if (group.Count < 1) yield return $"{its}: there must be at least one.";
            if (group.Signals.Count == 0) yield return $"{its}: they carry no signal.";
            foreach (var signal in group.Signals.Where(s => !s.Goes(group.Direction))) yield return $"{its}: {signal.Name} is nothing that {(group.Direction == Direction.In ? "an input measures" : "an output gives")}.";
            if (group.FeedOf < 1) yield return $"{its}: a feed serves at least one.";
            if (group.MostAmps <= 0 || group.MostMilliamps <= 0 || group.FeedAmps <= 0) yield return $"{its}: a current must be above nothing.";
        }
        if (model.Draws.Concat(model.Gives).Any(c => c.Milliamps is < 0 or > Most || string.IsNullOrWhiteSpace(c.Supply))) yield return $"{which}: a current has a supply and is between 0 and {Most} mA.";
        foreach (SoftwarePart part in model.Parts)
        {
            if (model.Parts.Count(p => p.Key == part.Key) > 1) yield return $"{which} has the part ‘{part.Key}’ twice.";
            foreach (string need in part.Needs.Where(n => model.Parts.All(p => p.Key != n))) yield return $"{which}: part ‘{part.Key}’ needs ‘{need}’, which the model has not.";
        }
        if (PartClosure.Circle(model.Parts) is { } circle) yield return $"{which}: parts need each other in a circle, {string.Join(" → ", circle)}; none of them could start.";
    }

    /// <summary>The published schema of such a file (JSON Schema 2020-12), made of the types that read it.</summary>
    public static string Schema()
    {
        JsonNode model = Strict.GetJsonSchemaAsNode(typeof(HardwareModel), new JsonSchemaExporterOptions
        {
            TreatNullObliviousAsNonNullable = true,
            TransformSchemaNode = (context, node) => context.TypeInfo.Type == typeof(Signals.Signal) ? new JsonObject { ["enum"] = new JsonArray([.. Signals.Signal.All.Where(s => s != Signals.Signal.Memory).Select(s => (JsonNode)s.Key)]) } : node,
        });
        return new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["title"] = "Hardware catalogue of Lofty Wren",
            ["type"] = "object",
            ["required"] = new JsonArray("format", "models"),
            ["properties"] = new JsonObject
            {
                ["format"] = new JsonObject { ["const"] = Format },
                ["money"] = new JsonObject { ["type"] = "string" },
                ["models"] = new JsonObject { ["type"] = "array", ["maxItems"] = MostModels, ["items"] = model },
            },
        }.ToJsonString(new JsonSerializerOptions { WriteIndented = true });
    }

    private static readonly JsonSerializerOptions Strict = RecordJson.Configure(new JsonSerializerOptions { UnmappedMemberHandling = System.Text.Json.Serialization.JsonUnmappedMemberHandling.Disallow });

    private static string Say(JsonException e, string under)
    {
        string where = under.Length == 0 ? "" : $" ({under.TrimStart('.')})";
        string what = e.Message.Split(" Path:")[0].Split(" The JSON value")[0];
        if (e.Message.Contains("could not be mapped", StringComparison.Ordinal)) return $"There is no field of that name{where}. Look for a slip of the pen.";
        if (e.Message.Contains("was missing required properties", StringComparison.Ordinal)) return $"Something is missing{where}: {what[(what.IndexOf(':', StringComparison.Ordinal) + 1)..].Trim()}";
        if (e.Message.StartsWith("There is no signal", StringComparison.Ordinal)) return what;
        return $"The value here is not of the sort that belongs here{where}.";
    }

    /// <summary>The line in which each value begins, by its path.</summary>
    private static Dictionary<string, int> LinesOf(byte[] json)
    {
        var lines = new Dictionary<string, int>();
        var reader = new Utf8JsonReader(json, new JsonReaderOptions { MaxDepth = 16, CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true });
        var path = new Stack<(string Path, int Index)>();
        string? name = null;
        int line = 1, counted = 0;
        while (reader.Read())
        {
            for (; counted < reader.TokenStartIndex; counted++)
            {
                if (json[counted] == '\n') line++;
            }
            if (reader.TokenType == JsonTokenType.PropertyName)
            {
                name = reader.GetString();
                continue;
            }
            if (reader.TokenType is JsonTokenType.EndArray or JsonTokenType.EndObject)
            {
                path.Pop();
                continue;
            }
            string here = "$";
            if (path.Count > 0)
            {
                var (above, index) = path.Pop();
                here = index < 0 ? $"{above}.{name}" : $"{above}[{index}]";
                path.Push((above, index < 0 ? index : index + 1));
            }
            lines[here] = line;
            if (reader.TokenType is JsonTokenType.StartArray) path.Push((here, 0));
            else if (reader.TokenType is JsonTokenType.StartObject) path.Push((here, -1));
        }
        return lines;
    }
}
