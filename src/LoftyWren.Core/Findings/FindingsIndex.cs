using System.Collections.Immutable;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Findings;

/// <summary>All findings of a project, kept up to date edit by edit: only what asked for something that changed is checked again.</summary>
public sealed class FindingsIndex
{
    private readonly Derived<ImmutableArray<Finding>> _byRecord;
    private readonly Standards _with;

    private FindingsIndex(Derived<ImmutableArray<Finding>> byRecord, int count, Standards with) => (_byRecord, Count, _with) = (byRecord, count, with);

    /// <summary>The naming convention that names were checked against, or null.</summary>
    public Naming? Naming => _with.Naming;

    /// <summary>How many there are, those silenced not counted.</summary>
    public int Count { get; }

    /// <summary>Those that somebody has silenced.</summary>
    public IEnumerable<Finding> Silenced => Every.Where(f => f.Silence is not null).OrderBy(f => f.Key, StringComparer.Ordinal);

    /// <summary>All findings that are not silenced, gravest first.</summary>
    public IEnumerable<Finding> All => Every.Where(f => f.Silence is null).OrderByDescending(f => f.Severity).ThenBy(f => f.Key, StringComparer.Ordinal);

    private IEnumerable<Finding> Every => _byRecord.Values.Values.SelectMany(f => f);

    /// <summary>The findings on one record that are not silenced.</summary>
    public IReadOnlyList<Finding> On(RecordId id) => _byRecord.Values.TryGetValue(id, out var findings) ? findings.Any(f => f.Silence is not null) ? [.. findings.Where(f => f.Silence is null)] : findings : [];

    /// <summary>A finding as it stands in the project now, with its ways to mend worked out anew; null when it is gone or silenced. A name that was free when it was checked may be taken since.</summary>
    public Finding? Afresh(Project project, RecordId id, string key) =>
        On(id).Any(f => f.Key == key) && project.Find(id) is { } record ? Check(project, record, _with with { Rules = TaggingRules.Of(project) }, k => Stood(id, k) ?? project.Revision).FirstOrDefault(f => f.Key == key) : null;

    /// <summary>Checks everything.</summary>
    public static FindingsIndex Full(Project project) => Full(project, (record, _) => project.FindEntry(record)!.Revision);

    private static FindingsIndex Full(Project project, Func<RecordId, string, long> since)
    {
        var naming = Naming.Of(project);
        var with = new Standards(TaggingRules.Of(project), naming, NameIndex.Full(project, naming), Spelling.Of(project));
        var found = Derived<ImmutableArray<Finding>>.Full(project, Checking(with, since));
        return new FindingsIndex(found, found.Values.Values.Sum(Spoken), with);
    }

    /// <summary>Checks what an accepted change set could have touched; <paramref name="retagged"/> are records whose tags are others than before.</summary>
    public FindingsIndex After(Project before, Project after, IEnumerable<RecordId> changed, IEnumerable<RecordId>? retagged = null)
    {
        var changes = changed.Select(id => (Before: before.Find(id), After: after.Find(id))).Where(c => c.Before is not null || c.After is not null).ToList();
        Spelling? spelling = _with.Spelling;
        if (changes.Any(c => (c.After ?? c.Before) is NamingConvention or TaggingRule or Place { Kind: PlaceKind.Site or PlaceKind.Building }))
        {
            spelling = Spelling.Of(after);
            bool sameWords = spelling is null ? _with.Spelling is null : _with.Spelling?.Knows(spelling) == true;
            // Another convention, other words to know or other rules can touch every record there is.
            if (!sameWords || changes.Any(c => (c.After ?? c.Before) is NamingConvention or TaggingRule)) return Full(after, (id, key) => Stood(id, key) ?? after.Revision);
        }
        var (names, met) = _with.Naming is null ? (_with.Names, []) : _with.Names.After(after, _with.Naming, changes);
        Standards with = _with with { Names = names, Spelling = spelling };
        var (found, computed) = _byRecord.After(after, changes, Checking(with, (id, key) => Stood(id, key) ?? after.Revision), (retagged ?? []).Concat(met));
        int count = Count;
        foreach (RecordId id in computed) count += Spoken(found.Values.GetValueOrDefault(id, [])) - Spoken(_byRecord.Values.GetValueOrDefault(id, []));
        return new FindingsIndex(found, count, with);
    }

    /// <summary>What records are checked against besides the project: read once, and with a change of their own everything is checked anew.</summary>
    private sealed record Standards(TaggingRules Rules, Naming? Naming, NameIndex Names, Spelling? Spelling);

    private long? Stood(RecordId id, string key) => _byRecord.Values.TryGetValue(id, out var stood) ? stood.FirstOrDefault(f => f.Key == key)?.Since : null;

    private static int Spoken(ImmutableArray<Finding> findings) => findings.IsDefaultOrEmpty ? 0 : findings.Count(f => f.Silence is null);

    private static Derived<ImmutableArray<Finding>>.Computing Checking(Standards with, Func<RecordId, string, long> since) =>
        (Project project, ProjectRecord record, out ImmutableArray<Finding> found) => (found = Check(project, record, with, key => since(record.Id, key))).Length > 0;

    private static ImmutableArray<Finding> Check(Project project, ProjectRecord record, Standards with, Func<string, long> since)
    {
        IEnumerable<Finding> found = Checks.On(project, record);
        if (record is TaggedRecord tagged) found = found.Concat(Checks.OnTags(project, tagged, with.Rules));
        if (with.Naming is not null) found = found.Concat(Checks.OnName(project, record, with.Naming, with.Names));
        if (with.Spelling is not null) found = found.Concat(Checks.OnWords(project, record, with.Spelling));
        return [.. found.Select(f => f with { Since = since(f.Key), Silence = project.Find<Silence>(project.Holder($"silence|{f.Key}")) })];
    }
}
