using System.Collections.Immutable;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
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

    /// <summary>How many there are, those silenced not counted.</summary>
    public int Count { get; }

    /// <summary>Those that somebody has silenced.</summary>
    public IEnumerable<Finding> Silenced => _byRecord.Values.SelectMany(f => f).Where(f => f.Silence is not null).OrderBy(f => f.Key, StringComparer.Ordinal);

    /// <summary>All findings that are not silenced, gravest first.</summary>
    public IEnumerable<Finding> All => _byRecord.Values.SelectMany(f => f).Where(f => f.Silence is null).OrderByDescending(f => f.Severity).ThenBy(f => f.Key, StringComparer.Ordinal);

    /// <summary>The findings on one record that are not silenced.</summary>
    public IReadOnlyList<Finding> On(RecordId id) => _byRecord.TryGetValue(id, out var findings) ? findings.Any(f => f.Silence is not null) ? [.. findings.Where(f => f.Silence is null)] : findings : [];

    /// <summary>Checks everything.</summary>
    public static FindingsIndex Full(Project project)
    {
        var found = ImmutableDictionary.CreateBuilder<RecordId, ImmutableArray<Finding>>();
        int count = 0;
        var rules = TaggingRules.Of(project);
        foreach (ProjectRecord record in project.Records)
        {
            ImmutableArray<Finding> on = Check(project, record, rules, _ => project.FindEntry(record.Id)!.Revision);
            if (on.Length == 0) continue;
            found[record.Id] = on;
            count += Spoken(on);
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
            ImmutableArray<Finding> old = found.TryGetValue(id, out var stood) ? stood : [];
            count -= Spoken(old);
            ImmutableArray<Finding> now = after.Find(id) is { } record ? Check(after, record, rules, key => old.FirstOrDefault(f => f.Key == key)?.Since ?? after.Revision) : [];
            if (now.Length == 0) found.Remove(id);
            else found[id] = now;
            count += Spoken(now);
        }
        return new FindingsIndex(found.ToImmutable(), count);
    }

    private static int Spoken(ImmutableArray<Finding> findings) => findings.Count(f => f.Silence is null);

    private static ImmutableArray<Finding> Check(Project project, ProjectRecord record, TaggingRules rules, Func<string, long> since)
    {
        IEnumerable<Finding> found = Checks.On(project, record);
        if (record is TaggedRecord tagged) found = found.Concat(Checks.OnTags(project, tagged, rules));
        return [.. found.Select(f => f with { Since = since(f.Key), Silence = project.Find<Silence>(project.Holder($"silence|{f.Key}")) })];
    }

    private static void Reach(Project project, RecordId id, HashSet<RecordId> touched, int steps, ProjectRecord? from = null)
    {
        if (project.Find(id) is not { } record) return;
        touched.Add(id);
        // Places and controllers lead to everything in them; no check looks through one to its contents.
        if (steps == 0 || record is Place) return;
        if (record is not Controller)
        {
            foreach (Reference reference in record.References())
            {
                // Who else reads what this one reads is none of its business: an outdoor temperature would lead to every sequence.
                if (reference.As == Reads) touched.Add(reference.To);
                else Reach(project, reference.To, touched, steps - 1, record);
            }
        }
        foreach (ProjectRecord referrer in project.Referrers(id))
        {
            bool onlyReads = from is Sequence or Schedule && referrer.References().Where(r => r.To == id).All(r => r.As == Reads);
            if (!onlyReads) Reach(project, referrer.Id, touched, steps - 1, record);
        }
    }

    private const string Reads = "reads";
}
