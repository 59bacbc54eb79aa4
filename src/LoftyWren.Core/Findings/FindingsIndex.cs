using System.Collections.Immutable;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Findings;

/// <summary>All findings of a project, kept up to date edit by edit: only the neighbourhood of what changed is checked again.</summary>
public sealed class FindingsIndex
{
    private readonly ImmutableDictionary<RecordId, ImmutableArray<Finding>> _byRecord;
    private readonly NameIndex _names;
    private readonly Naming? _naming;
    private readonly Spelling? _spelling;

    private FindingsIndex(ImmutableDictionary<RecordId, ImmutableArray<Finding>> byRecord, int count, NameIndex names, Naming? naming, Spelling? spelling)
    {
        _byRecord = byRecord;
        Count = count;
        _names = names;
        _naming = naming;
        _spelling = spelling;
    }

    /// <summary>The naming convention that names were checked against, or null.</summary>
    public Naming? Naming => _naming;

    /// <summary>How many there are, those silenced not counted.</summary>
    public int Count { get; }

    /// <summary>Those that somebody has silenced.</summary>
    public IEnumerable<Finding> Silenced => _byRecord.Values.SelectMany(f => f).Where(f => f.Silence is not null).OrderBy(f => f.Key, StringComparer.Ordinal);

    /// <summary>All findings that are not silenced, gravest first.</summary>
    public IEnumerable<Finding> All => _byRecord.Values.SelectMany(f => f).Where(f => f.Silence is null).OrderByDescending(f => f.Severity).ThenBy(f => f.Key, StringComparer.Ordinal);

    /// <summary>The findings on one record that are not silenced.</summary>
    public IReadOnlyList<Finding> On(RecordId id) => _byRecord.TryGetValue(id, out var findings) ? findings.Any(f => f.Silence is not null) ? [.. findings.Where(f => f.Silence is null)] : findings : [];

    /// <summary>A finding as it stands in the project now, with its ways to mend worked out anew; null when it is gone or silenced. A name that was free when it was checked may be taken since.</summary>
    public Finding? Afresh(Project project, RecordId id, string key) =>
        On(id).Any(f => f.Key == key) && project.Find(id) is { } record ? Check(project, record, new Standards(TaggingRules.Of(project), _naming, _names, _spelling), k => Stood(id, k) ?? project.Revision).FirstOrDefault(f => f.Key == key) : null;

    /// <summary>Checks everything.</summary>
    public static FindingsIndex Full(Project project) => Full(project, (record, _) => project.FindEntry(record)!.Revision);

    private static FindingsIndex Full(Project project, Func<RecordId, string, long> since)
    {
        var found = ImmutableDictionary.CreateBuilder<RecordId, ImmutableArray<Finding>>();
        int count = 0;
        var naming = Naming.Of(project);
        var with = new Standards(TaggingRules.Of(project), naming, NameIndex.Full(project, naming), Spelling.Of(project));
        foreach (ProjectRecord record in project.Records)
        {
            ImmutableArray<Finding> on = Check(project, record, with, key => since(record.Id, key));
            if (on.Length == 0) continue;
            found[record.Id] = on;
            count += Spoken(on);
        }
        return new FindingsIndex(found.ToImmutable(), count, with.Names, naming, with.Spelling);
    }

    /// <summary>Checks what an accepted change set could have touched; <paramref name="retagged"/> are records whose tags were derived again.</summary>
    public FindingsIndex After(Project before, Project after, IEnumerable<RecordId> changed, IEnumerable<RecordId>? retagged = null)
    {
        var changes = changed.ToList();
        Spelling? spelling = _spelling;
        if (changes.Any(id => (after.Find(id) ?? before.Find(id)) is NamingConvention or Place { Kind: PlaceKind.Site or PlaceKind.Building }))
        {
            spelling = Spelling.Of(after);
            bool sameWords = spelling is null ? _spelling is null : _spelling?.Knows(spelling) == true;
            // Another convention, or other words to know, can touch every name there is.
            if (!sameWords || changes.Any(id => (after.Find(id) ?? before.Find(id)) is NamingConvention))
                return Full(after, (id, key) => Stood(id, key) ?? after.Revision);
        }
        var touched = new HashSet<RecordId>(retagged ?? []);
        foreach (RecordId id in changes)
        {
            if (before.Find(id) is { } was && after.Find(id) is { } now && now.IsAlikeFromOutside(was)) touched.Add(id);
            else
            {
                Reach(before, id, touched, 3);
                Reach(after, id, touched, 3);
            }
        }
        NameIndex names = _names;
        if (_naming is not null)
        {
            // A name can be part of the names of all that is below.
            var renamed = NameIndex.Below(after, changes.Where(id => IsNamedOtherwise(before.Find(id), after.Find(id))));
            (names, var met) = _names.After(after, _naming, renamed.Concat(changes).Distinct());
            touched.UnionWith(renamed);
            touched.UnionWith(met);
        }
        var with = new Standards(TaggingRules.Of(after), _naming, names, spelling);
        var found = _byRecord.ToBuilder();
        int count = Count;
        foreach (RecordId id in touched)
        {
            count -= Spoken(found.TryGetValue(id, out var stood) ? stood : []);
            ImmutableArray<Finding> now = after.Find(id) is { } record ? Check(after, record, with, key => Stood(id, key) ?? after.Revision) : [];
            if (now.Length == 0) found.Remove(id);
            else found[id] = now;
            count += Spoken(now);
        }
        return new FindingsIndex(found.ToImmutable(), count, names, _naming, spelling);
    }

    private readonly record struct Standards(TaggingRules Rules, Naming? Naming, NameIndex Names, Spelling? Spelling);

    private long? Stood(RecordId id, string key) => _byRecord.TryGetValue(id, out var stood) ? stood.FirstOrDefault(f => f.Key == key)?.Since : null;

    private static bool IsNamedOtherwise(ProjectRecord? before, ProjectRecord? after) =>
        before?.Name != after?.Name || before?.ParentId != after?.ParentId || (before as Place)?.ShortName != (after as Place)?.ShortName || (before as Points.Equipment)?.Kind != (after as Points.Equipment)?.Kind;

    private static int Spoken(ImmutableArray<Finding> findings) => findings.Count(f => f.Silence is null);

    private static ImmutableArray<Finding> Check(Project project, ProjectRecord record, Standards with, Func<string, long> since)
    {
        IEnumerable<Finding> found = Checks.On(project, record);
        if (record is TaggedRecord tagged) found = found.Concat(Checks.OnTags(project, tagged, with.Rules));
        if (with.Naming is not null) found = found.Concat(Checks.OnName(project, record, with.Naming, with.Names));
        if (with.Spelling is not null) found = found.Concat(Checks.OnWords(project, record, with.Spelling));
        return [.. found.Select(f => f with { Since = since(f.Key), Silence = project.Find<Silence>(project.Holder($"silence|{f.Key}")) })];
    }

    /// <summary>
    /// Who looks at a record when it is checked. What many refer to (a place, equipment, a controller, a schedule, a setpoint) is
    /// checked again itself where it is come to, and gone on from only where it is what has changed: nobody looks through it
    /// at its other referrers, of which there may be thousands.
    /// </summary>
    private static void Reach(Project project, RecordId id, HashSet<RecordId> touched, int steps, ProjectRecord? from = null)
    {
        if (project.Find(id) is not { } record) return;
        touched.Add(id);
        if (steps == 0 || record is Place || (from is not null && record is Controller or Schedule or Equipment)) return;
        if (record is not Controller)
        {
            foreach (Reference reference in record.References())
            {
                bool isLookedThrough = (reference.Owning && record is Fitting or TrendLog) || reference.Sort.Alone;
                if (isLookedThrough) Reach(project, reference.To, touched, steps - 1, record);
                else touched.Add(reference.To);
            }
        }
        foreach (ProjectRecord referrer in project.Referrers(id))
        {
            // Who else reads what this one reads is none of its business: an outdoor temperature would lead to every sequence.
            bool onlyReads = from is Sequence or Schedule && referrer is Sequence sequence && sequence.References().Where(r => r.To == id).All(r => r.As == Reads);
            if (!onlyReads) Reach(project, referrer.Id, touched, steps - 1, record);
        }
    }

    private const string Reads = "reads";
}
