using System.Text;
using System.Text.Json;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>What differs in one field: its name in the record's JSON, where in it as words, and both values as words; null where there is none.</summary>
public sealed record FieldDifference(string Field, string Words, string? Before, string? After);

/// <summary>Whether a record came, changed or went.</summary>
public enum DifferenceKind
{
    /// <summary>Only the later one has it.</summary>
    Added,
    /// <summary>Both have it, and not the same.</summary>
    Changed,
    /// <summary>Only the earlier one has it.</summary>
    Removed,
}

/// <summary>One record that differs between two states of a project.</summary>
public sealed record RecordDifference(RecordId Id, DifferenceKind Kind, string Noun, string Name, string Path, IReadOnlyList<FieldDifference> Fields);

/// <summary>Differences in words, for conflicts, snapshots and whatever else lays two versions side by side.</summary>
public static class Differences
{
    /// <summary>A part of a list is known by the first of these that it has, so that one changed block is one line and not all that follow it.</summary>
    private static readonly string[] Identities = ["id", "pointId", "priority", "for"];

    /// <summary>The fields in which two versions of a record differ, in the order of the record.</summary>
    public static IReadOnlyList<FieldDifference> Fields(ProjectRecord? before, ProjectRecord? after, Func<RecordId, ProjectRecord?> find)
    {
        var old = Leaves(before, find);
        var now = Leaves(after, find);
        var result = new List<FieldDifference>();
        foreach (var (path, leaf) in old)
        {
            string? then = now.TryGetValue(path, out var other) ? other.Text : null;
            if (then != leaf.Text) result.Add(new FieldDifference(leaf.Field, path, leaf.Text, then));
        }
        foreach (var (path, leaf) in now)
        {
            if (!old.ContainsKey(path)) result.Add(new FieldDifference(leaf.Field, path, null, leaf.Text));
        }
        return result;
    }

    /// <summary>Every record in which two states of a project differ, by path and name. Records that both share are not looked into.</summary>
    public static IReadOnlyList<RecordDifference> Between(Project before, Project after)
    {
        var result = new List<RecordDifference>();
        foreach (ProjectRecord old in before.Records)
        {
            ProjectRecord? now = after.Find(old.Id);
            if (ReferenceEquals(old, now)) continue;
            if (now is null) result.Add(Make(before, old, DifferenceKind.Removed, old, null));
            else if (!RecordJson.Same(old, now)) result.Add(Make(after, now, DifferenceKind.Changed, old, now));
        }
        foreach (ProjectRecord now in after.Records)
        {
            if (before.Find(now.Id) is null) result.Add(Make(after, now, DifferenceKind.Added, null, now));
        }
        return [.. result.OrderBy(d => d.Path, StringComparer.Ordinal).ThenBy(d => d.Name, StringComparer.Ordinal).ThenBy(d => d.Id)];

        RecordDifference Make(Project where, ProjectRecord record, DifferenceKind kind, ProjectRecord? old, ProjectRecord? now) =>
            new(record.Id, kind, record.Noun, record.Called(where.Find), where.PathOf(record.Id), kind == DifferenceKind.Changed ? Fields(old, now, id => after.Find(id) ?? before.Find(id)) : []);
    }

    /// <summary>A project as it was at a revision, with what was changed since taken back, given newest first. What was not changed is shared.</summary>
    public static Project Before(Project now, long revision, IEnumerable<RecordChange> newestFirst)
    {
        var past = new Dictionary<RecordId, Entry?>();
        foreach (RecordChange change in newestFirst) past[change.Id] = change.Before is null ? null : new Entry(change.Before, change.BeforeRevision);
        return now.With(revision, [.. past.Values.OfType<Entry>()], [.. past.Where(p => p.Value is null).Select(p => p.Key)]);
    }

    /// <summary>The edits that make one state of a project into another.</summary>
    public static IReadOnlyList<Edit> Towards(Project now, Project wanted) =>
    [
        .. wanted.Records.Where(r => !RecordJson.Same(now.Find(r.Id), r)).OrderBy(r => r.Id).Select(r => Edit.Of(r, now.FindEntry(r.Id)?.Revision ?? 0)),
        .. now.Records.Where(r => wanted.Find(r.Id) is null).OrderBy(r => r.Id).Select(r => Edit.Removing(r.Id, now.FindEntry(r.Id)!.Revision)),
    ];

    /// <summary>The names, in JSON, of what is declared as a record's id anywhere in a record.</summary>
    private static readonly HashSet<string> IdFields = [.. RecordShape.Properties.Where(p => p.Name != "Id" && RecordShape.HoldsIds(p.PropertyType)).Select(p => JsonNamingPolicy.CamelCase.ConvertName(p.Name))];

    /// <summary>What a field of a record is called in a sentence: as it is declared, else its name in words.</summary>
    public static string Words(ProjectRecord record, string field) =>
        RecordKinds.Of(record).Field(field) is { } declared ? declared.Words ?? declared.Label.ToLowerInvariant() : Words(field);

    /// <summary>A name in words: <c>whenFull</c> reads “when full”.</summary>
    public static string Words(string field)
    {
        if (field.EndsWith("Id", StringComparison.Ordinal)) field = field[..^2];
        var text = new StringBuilder();
        foreach (char c in field)
        {
            if (char.IsUpper(c)) text.Append(' ');
            text.Append(char.ToLowerInvariant(c));
        }
        return text.ToString();
    }

    private static Dictionary<string, (string Field, string Text)> Leaves(ProjectRecord? record, Func<RecordId, ProjectRecord?> find)
    {
        var leaves = new Dictionary<string, (string, string)>();
        if (record is null) return leaves;
        foreach (JsonProperty property in JsonSerializer.SerializeToElement(record, RecordJson.Options).EnumerateObject())
        {
            if (property.Name is not ("id" or "type")) Walk(property.Value, property.Name, property.Name, Words(record, property.Name));
        }
        return leaves;

        void Walk(JsonElement value, string name, string field, string path)
        {
            switch (value.ValueKind)
            {
                case JsonValueKind.Object:
                    foreach (JsonProperty property in value.EnumerateObject()) Walk(property.Value, property.Name, field, $"{path} › {Words(property.Name)}");
                    break;
                case JsonValueKind.Array when value.GetArrayLength() > 0 && value[0].ValueKind == JsonValueKind.Object:
                    int i = 0;
                    foreach (JsonElement item in value.EnumerateArray())
                    {
                        string? identity = Identities.FirstOrDefault(n => item.TryGetProperty(n, out _));
                        string of = $"{path} › {(identity is null ? $"{++i}" : Say(item.GetProperty(identity), identity))}";
                        foreach (JsonProperty property in item.EnumerateObject())
                        {
                            if (property.Name != identity) Walk(property.Value, property.Name, field, $"{of} › {Words(property.Name)}");
                        }
                    }
                    break;
                case JsonValueKind.Array:
                    leaves[path] = (field, string.Join(", ", value.EnumerateArray().Select(v => Say(v, name))));
                    break;
                default:
                    leaves[path] = (field, Say(value, name));
                    break;
            }
        }

        string Say(JsonElement value, string name) => value.ValueKind switch
        {
            JsonValueKind.True => "yes",
            JsonValueKind.False => "no",
            JsonValueKind.String => IdFields.Contains(name) && value.GetString() is { } text && RecordId.IsValid(text) && find(new RecordId(text)) is { } other ? other.Called(find) : value.GetString()!,
            _ => value.GetRawText(),
        };
    }
}
