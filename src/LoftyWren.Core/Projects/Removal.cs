using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>What a removal takes along, and what it changes in the records that stay.</summary>
public sealed record Removal(IReadOnlyList<ProjectRecord> Gone, IReadOnlyList<ProjectRecord> Loosened, IReadOnlyList<Edit> Edits)
{
    /// <summary>
    /// Works out the removal of some records: everything that belongs to them goes too, and everything else that refers
    /// to what goes is kept without that reference. The edits carry the revisions seen, so a removal decided on an old
    /// picture is a conflict, not a surprise.
    /// </summary>
    public static Removal Of(Project project, IEnumerable<RecordId> ids)
    {
        var gone = new HashSet<RecordId>();
        var queue = new Queue<RecordId>(ids.Where(id => project.Find(id) is not null));
        while (queue.TryDequeue(out RecordId id))
        {
            if (!gone.Add(id)) continue;
            foreach (ProjectRecord referrer in project.Referrers(id))
            {
                if (referrer.References().Any(r => r.To == id && r.Owning)) queue.Enqueue(referrer.Id);
            }
        }
        var loosened = gone.SelectMany(project.Referrers).Where(r => !gone.Contains(r.Id)).DistinctBy(r => r.Id)
            .OrderBy(r => r.Noun).ThenBy(r => r.Name).ToList();
        var edits = gone.Order().Select(id => Edit.Removing(id, project.FindEntry(id)!.Revision))
            .Concat(loosened.Select(r => Edit.Of(r.Without(gone), project.FindEntry(r.Id)!.Revision)))
            .ToList();
        var goneRecords = gone.Select(id => project.Find(id)!).OrderBy(r => r.Noun).ThenBy(r => r.Name).ToList();
        return new Removal(goneRecords, loosened, edits);
    }
}
