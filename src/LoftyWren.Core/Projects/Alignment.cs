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
        var ids = new Dictionary<RecordId, RecordId>();
        var theirs = other.Records.Where(r => !Same(one, r)).ToLookup(r => Where(other, r));
        foreach (var mine in one.Records.Where(r => !Same(other, r)).GroupBy(r => Where(one, r)))
        {
            if (mine.Count() == 1 && theirs[mine.Key].Take(2).ToList() is [var like]) ids[mine.First().Id] = like.Id;
        }
        if (ids.Count == 0) return one;
        return Project.Load(one.Revision, one.Records.Select(r => new Entry(r.Led(ids), one.FindEntry(r.Id)!.Revision)));
    }

    private static bool Same(Project project, ProjectRecord record) => project.Find(record.Id)?.GetType() == record.GetType();

    private static (Type, string, string) Where(Project project, ProjectRecord record) => (record.GetType(), record.ParentId is null ? record.Noun : project.PathOf(record.Id), record is Places.Place { Kind: Places.PlaceKind.Site } ? "" : record.Called(project.Find));
}
