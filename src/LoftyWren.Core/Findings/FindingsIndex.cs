using System.Collections.Immutable;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Findings;

/// <summary>All findings of a project, kept up to date edit by edit: only the neighbourhood of what changed is checked again.</summary>
public sealed class FindingsIndex
{
    private readonly ImmutableDictionary<RecordId, ImmutableArray<Finding>> _byRecord;

    private FindingsIndex(ImmutableDictionary<RecordId, ImmutableArray<Finding>> byRecord, int count)
    {
        _byRecord = byRecord;
        Count = count;
    }

    /// <summary>How many there are.</summary>
    public int Count { get; }

    /// <summary>All findings, gravest first.</summary>
    public IEnumerable<Finding> All => _byRecord.Values.SelectMany(f => f).OrderByDescending(f => f.Severity).ThenBy(f => f.Key, StringComparer.Ordinal);

    /// <summary>The findings on one record.</summary>
    public IReadOnlyList<Finding> On(RecordId id) => _byRecord.TryGetValue(id, out var findings) ? findings : [];

    /// <summary>Checks everything.</summary>
    public static FindingsIndex Full(Project project)
    {
        var found = ImmutableDictionary.CreateBuilder<RecordId, ImmutableArray<Finding>>();
        int count = 0;
        var rules = TaggingRules.Of(project);
        foreach (ProjectRecord record in project.Records)
        {
            ImmutableArray<Finding> on = Check(project, record, rules);
            if (on.Length == 0) continue;
            found[record.Id] = on;
            count += on.Length;
        }
        return new FindingsIndex(found.ToImmutable(), count);
    }

    /// <summary>Checks what an accepted change set could have touched; <paramref name="retagged"/> are records whose tags were derived again.</summary>
    public FindingsIndex After(Project before, Project after, IEnumerable<RecordId> changed, IEnumerable<RecordId>? retagged = null)
    {
        var touched = new HashSet<RecordId>(retagged ?? []);
        var rules = TaggingRules.Of(after);
        foreach (RecordId id in changed)
        {
            Reach(before, id, touched, 3);
            Reach(after, id, touched, 3);
        }
        var found = _byRecord.ToBuilder();
        int count = Count;
        foreach (RecordId id in touched)
        {
            if (found.TryGetValue(id, out var old)) count -= old.Length;
            ImmutableArray<Finding> now = after.Find(id) is { } record ? Check(after, record, rules) : [];
            if (now.Length == 0) found.Remove(id);
            else found[id] = now;
            count += now.Length;
        }
        return new FindingsIndex(found.ToImmutable(), count);
    }

    private static ImmutableArray<Finding> Check(Project project, ProjectRecord record, TaggingRules rules) =>
        record is TaggedRecord tagged ? [.. Checks.On(project, record), .. Checks.OnTags(project, tagged, rules)] : [.. Checks.On(project, record)];

    private static void Reach(Project project, RecordId id, HashSet<RecordId> touched, int steps)
    {
        if (project.Find(id) is not { } record) return;
        touched.Add(id);
        // Places and controllers lead to everything in them; no check looks through one to its contents.
        if (steps == 0 || record is Place) return;
        if (record is not Controller)
        {
            foreach (Reference reference in record.References()) Reach(project, reference.To, touched, steps - 1);
        }
        foreach (ProjectRecord referrer in project.Referrers(id)) Reach(project, referrer.Id, touched, steps - 1);
    }
}
