using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>
/// Lays one project over another, so that two that were made apart can be compared: records with the same id are the same;
/// of the rest, those of one noun with the same path and name are taken for the same where there is one such on each side.
/// </summary>
public static class Alignment
{
    /// <summary>The first project with the ids of its like in the second.</summary>
    public static Project Onto(Project one, Project other)
    {
        var ids = new Dictionary<string, string>();
        var theirs = other.Records.Where(r => !Same(one, r)).ToLookup(r => Where(other, r));
        foreach (var mine in one.Records.Where(r => !Same(other, r)).GroupBy(r => Where(one, r)))
        {
            if (mine.Count() == 1 && theirs[mine.Key].Take(2).ToList() is [var like]) ids[mine.First().Id.Value] = like.Id.Value;
        }
        if (ids.Count == 0) return one;
        return Project.Load(one.Revision, one.Records.Select(r => new Entry(Renamed(r, ids), one.FindEntry(r.Id)!.Revision)));
    }

    private static bool Same(Project project, ProjectRecord record) => project.Find(record.Id)?.GetType() == record.GetType();

    private static (Type, string, string) Where(Project project, ProjectRecord record) => (record.GetType(), record.ParentId is null ? record.Noun : project.PathOf(record.Id), record is Places.Place { Kind: Places.PlaceKind.Site } ? "" : record.Called(project.Find));

    private static ProjectRecord Renamed(ProjectRecord record, Dictionary<string, string> ids)
    {
        JsonNode node = JsonSerializer.SerializeToNode(record, RecordJson.Options)!;
        bool changed = false;
        Walk(node);
        return changed ? node.Deserialize<ProjectRecord>(RecordJson.Options)! : record;

        void Walk(JsonNode at)
        {
            if (at is JsonArray array)
            {
                foreach (JsonNode? item in array) if (item is not null) Walk(item);
            }
            else if (at is JsonObject o)
            {
                foreach (string key in o.Select(p => p.Key).ToList())
                {
                    if (o[key] is JsonValue value)
                    {
                        if ((key == "id" && at == node || Differences.IsReference(key)) && value.TryGetValue(out string? text) && ids.TryGetValue(text, out string? id))
                        {
                            o[key] = id;
                            changed = true;
                        }
                    }
                    else if (o[key] is { } inner) Walk(inner);
                }
            }
        }
    }
}
