using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;

namespace LoftyWren.Core.Records;

/// <summary>Something that is wrong in a file, and in which line, from 1.</summary>
public sealed record FileError(int Line, string Sentence)
{
    /// <inheritdoc/>
    public override string ToString() => $"line {Line}: {Sentence}";
}

/// <summary>What a file holds, or what is wrong with it.</summary>
public sealed record ListReading<T>(IReadOnlyList<T> Items, IReadOnlyList<FileError> Errors);

/// <summary>
/// A file that people write: JSON, <c>{"format": …, "models": […]}</c>, by a published schema. Every item is read by itself, so
/// that one that is wrong does not hide what is wrong with the next, and each error has its line.
/// </summary>
/// <param name="format">What the file says of its own form.</param>
/// <param name="list">What the list in it is called.</param>
/// <param name="title">What the schema is called.</param>
/// <param name="noun">What one item is, in a sentence: model.</param>
/// <param name="most">The most items in one file.</param>
/// <param name="id">The id of an item, once in a file.</param>
/// <param name="check">What is wrong with an item besides its form: where under it, such as <c>.pages[2]</c>, and a sentence.</param>
/// <param name="schemaOf">What the schema says of a type in place of what follows from it; null to leave it.</param>
public sealed class ListFile<T>(string format, string list, string title, string noun, int most, Func<T, string> id, Func<T, IEnumerable<(string Under, string Sentence)>> check, Func<Type, JsonNode?>? schemaOf = null)
    where T : class
{
    private const int MostErrors = 50, Deepest = 16;

    private static readonly JsonSerializerOptions Strict = RecordJson.Configure(new JsonSerializerOptions { UnmappedMemberHandling = System.Text.Json.Serialization.JsonUnmappedMemberHandling.Disallow });
    private static readonly JsonSerializerOptions Indented = new() { WriteIndented = true };

    /// <summary>Reads a file; all that is wrong with it is told at once, with lines.</summary>
    public ListReading<T> Parse(string json)
    {
        var errors = new List<FileError>();
        var items = new List<T>();
        byte[] bytes = Encoding.UTF8.GetBytes(json);
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(bytes, new JsonDocumentOptions { MaxDepth = Deepest, CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true });
        }
        catch (JsonException e)
        {
            return Wrong((int)(e.LineNumber ?? 0) + 1, "This is not JSON: a bracket, a comma or a quotation mark is missing or stands where none may be.");
        }
        using (document)
        {
            JsonElement root = document.RootElement;
            if (root.ValueKind != JsonValueKind.Object || !root.TryGetProperty("format", out JsonElement says) || says.ValueKind != JsonValueKind.String || says.GetString() != format)
                return Wrong(1, $"The file does not say \"format\": \"{format}\", so it is no {title.ToLowerInvariant()} of this version.");
            if (!root.TryGetProperty(list, out JsonElement all) || all.ValueKind != JsonValueKind.Array) return Wrong(1, $"The file has no list of \"{list}\".");
            if (all.GetArrayLength() > most) return Wrong(1, $"The file has {all.GetArrayLength()} {list}; at most {most} are read at once.");
            var lines = LinesOf(bytes);
            var ids = new Dictionary<string, int>();
            int at = 0;
            foreach (JsonElement element in all.EnumerateArray())
            {
                string path = $"$.{list}[{at++}]";
                int Line(string under)
                {
                    while (under.Length > 0 && !lines.ContainsKey(path + under)) under = under[..Math.Max(0, under.LastIndexOfAny(['.', '[']))];
                    return lines.GetValueOrDefault(path + under, 1);
                }
                try
                {
                    T item = element.Deserialize<T>(Strict) ?? throw new JsonException($"a {noun} is missing");
                    if (ids.TryGetValue(id(item), out int first)) errors.Add(new FileError(Line(".id"), $"The id ‘{id(item)}’ is that of the {noun} in line {first} too."));
                    ids.TryAdd(id(item), Line(".id"));
                    foreach (var (under, sentence) in check(item)) errors.Add(new FileError(Line(under), sentence));
                    items.Add(item);
                }
                catch (JsonException e)
                {
                    string under = (e.Path ?? "$")[1..];
                    errors.Add(new FileError(Line(under), Say(e, under)));
                }
                if (errors.Count >= MostErrors) break;
            }
        }
        return new ListReading<T>(errors.Count == 0 ? items : [], errors);

        static ListReading<T> Wrong(int line, string sentence) => new([], [new FileError(line, sentence)]);
    }

    /// <summary>The published schema of such a file (JSON Schema 2020-12), made of the types that read it.</summary>
    public string Schema()
    {
        JsonNode item = Strict.GetJsonSchemaAsNode(typeof(T), new JsonSchemaExporterOptions { TreatNullObliviousAsNonNullable = true, TransformSchemaNode = (context, node) => schemaOf?.Invoke(context.TypeInfo.Type) ?? node });
        return new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["title"] = $"{title} of Lofty Wren",
            ["type"] = "object",
            ["required"] = new JsonArray("format", list),
            ["properties"] = new JsonObject { ["format"] = new JsonObject { ["const"] = format }, ["money"] = new JsonObject { ["type"] = "string" }, [list] = new JsonObject { ["type"] = "array", ["maxItems"] = most, ["items"] = item } },
        }.ToJsonString(Indented);
    }

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
        var reader = new Utf8JsonReader(json, new JsonReaderOptions { MaxDepth = Deepest, CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true });
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
