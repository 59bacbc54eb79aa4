using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>A record that depends on another: as what, through which one (itself where it does so directly), and how many steps away.</summary>
public sealed record Dependent(ProjectRecord Record, string As, ProjectRecord Through, int Steps);

/// <summary>What depends on a record: what refers to it, and, through what a sequence commands or a schedule drives, what those lead to.</summary>
public static class Dependents
{
    /// <summary>
    /// All that depends on a record, nearest first, as far as <paramref name="most"/>. Who refers to something depends on it;
    /// what is commanded or driven depends on who does that.
    /// </summary>
    public static IReadOnlyList<Dependent> Of(Project project, RecordId id, int most = 500)
    {
        var found = new List<Dependent>();
        var seen = new HashSet<RecordId> { id };
        var queue = new Queue<(ProjectRecord Record, int Steps)>();
        if (project.Find(id) is { } first) queue.Enqueue((first, 0));
        while (queue.TryDequeue(out var at) && found.Count < most)
        {
            foreach (var (record, sort) in Next(project, at.Record, isFirst: at.Steps == 0))
            {
                if (found.Count >= most) break;
                if (!seen.Add(record.Id)) continue;
                found.Add(new Dependent(record, sort.As, at.Record, at.Steps + 1));
                queue.Enqueue((record, at.Steps + 1));
            }
        }
        return found;
    }

    /// <summary>The records one step further. Who only commands or drives something does not hang on its value: that counts for the record that is asked about, and no further on.</summary>
    private static IEnumerable<(ProjectRecord, ReferenceSort)> Next(Project project, ProjectRecord record, bool isFirst)
    {
        foreach (ProjectRecord referrer in project.Referrers(record.Id))
        {
            Reference reference = referrer.References().FirstOrDefault(r => r.To == record.Id && (isFirst || !r.Sort.Moves));
            if (reference.Sort is not null) yield return (referrer, reference.Sort);
        }
        foreach (Reference reference in record.References().Where(r => r.Sort.Moves))
        {
            if (project.Find(reference.To) is { } moved) yield return (moved, reference.Sort);
        }
    }
}
