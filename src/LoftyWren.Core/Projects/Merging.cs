using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>A list in a record whose parts are edited side by side, by its name in JSON: what tells its parts apart, and a list within each part, if that is edited side by side as well.</summary>
public sealed record PartList(string Name, string Identity, PartList? Within = null);

/// <summary>What two people's edits of one record come to together; where both changed the same part it is the second one's, and the parts are named.</summary>
public sealed record Merged(ProjectRecord Record, IReadOnlyList<string> Clashes);

/// <summary>
/// Lays two edits of one record together that began from the same state. What only one of them changed is taken from that one;
/// fields, and the parts of the lists that its kind declares, are what both can change only alike.
/// </summary>
public static class Merging
{
    /// <summary>Both edits together, or null where the kind's records are edited whole or the two are of different kinds.</summary>
    public static Merged? Of(ProjectRecord was, ProjectRecord theirs, ProjectRecord yours)
    {
        RecordKind kind = RecordKinds.Of(yours);
        if (kind.Grain != ConflictGrain.Part || was.GetType() != yours.GetType() || theirs.GetType() != yours.GetType()) return null;
        var clashes = new List<string>();
        JsonObject merged = Objects(Node(was), Node(theirs), Node(yours), kind.Parts, "", clashes);
        try
        {
            return new Merged(RecordJson.Read(merged.ToJsonString(RecordJson.Options)), clashes);
        }
        catch (JsonException)
        {
            // The one has taken away what the other needs: together they are no record.
            return null;
        }
    }

    private static JsonObject Node(ProjectRecord record) => (JsonObject)JsonSerializer.SerializeToNode(record, RecordJson.Options)!;

    private static JsonObject Objects(JsonObject was, JsonObject theirs, JsonObject yours, IReadOnlyList<PartList> lists, string path, List<string> clashes)
    {
        var merged = new JsonObject();
        foreach (string name in theirs.Select(p => p.Key).Union(yours.Select(p => p.Key)).Union(was.Select(p => p.Key)).ToList())
        {
            JsonNode? w = was[name], t = theirs[name], y = yours[name];
            JsonNode? value = lists.FirstOrDefault(l => l.Name == name) is { } list
                ? Lists(w as JsonArray ?? [], t as JsonArray ?? [], y as JsonArray ?? [], list, path + name, clashes)
                : Chosen(w, t, y, path + name, clashes);
            if (value is not null) merged[name] = value.DeepClone();
        }
        return merged;
    }

    /// <summary>What only one changed as that one has it; what both changed, and not alike, as the second has it.</summary>
    private static JsonNode? Chosen(JsonNode? was, JsonNode? theirs, JsonNode? yours, string path, List<string> clashes)
    {
        if (JsonNode.DeepEquals(was, yours)) return theirs;
        if (!JsonNode.DeepEquals(was, theirs) && !JsonNode.DeepEquals(theirs, yours)) clashes.Add(path);
        return yours;
    }

    private static JsonArray Lists(JsonArray was, JsonArray theirs, JsonArray yours, PartList list, string path, List<string> clashes)
    {
        var (w, t, y) = (Keyed(was), Keyed(theirs), Keyed(yours));
        var merged = new Dictionary<string, JsonNode>();
        foreach (string key in w.Keys.Union(t.Keys).Union(y.Keys))
        {
            JsonObject? before = w.GetValueOrDefault(key), one = t.GetValueOrDefault(key), other = y.GetValueOrDefault(key);
            JsonNode? part = list.Within is { } within && one is not null && other is not null
                ? Objects(before ?? [], one, other, [within], $"{path} › {key} › ", clashes)
                : Chosen(before, one, other, $"{path} › {key}", clashes);
            if (part is not null) merged[key] = part;
        }
        // Who moved parts decides their order; what the other one added comes behind what it stood behind.
        bool isMoved = !w.Keys.Where(y.ContainsKey).SequenceEqual(y.Keys.Where(w.ContainsKey));
        var (first, second) = isMoved ? (y, t) : (t, y);
        List<string> order = [.. first.Keys.Where(merged.ContainsKey)];
        string? behind = null;
        foreach (string key in second.Keys)
        {
            if (merged.ContainsKey(key) && !order.Contains(key)) order.Insert(behind is null ? 0 : order.IndexOf(behind) + 1, key);
            if (order.Contains(key)) behind = key;
        }
        return new JsonArray([.. order.Select(k => merged[k].DeepClone())]);

        Dictionary<string, JsonObject> Keyed(JsonArray parts)
        {
            var keyed = new Dictionary<string, JsonObject>();
            foreach (JsonObject part in parts.OfType<JsonObject>()) keyed[part[list.Identity]?.ToJsonString() ?? ""] = part;
            return keyed;
        }
    }
}
