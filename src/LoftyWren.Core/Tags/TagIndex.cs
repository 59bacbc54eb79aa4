using System.Collections.Immutable;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tags;

/// <summary>The tags of all records, kept up to date edit by edit: what changed and what is in it is derived again, nothing else.</summary>
public sealed class TagIndex
{
    private readonly ImmutableDictionary<RecordId, TagSet> _sets;
    private readonly TaggingRules _rules;

    private TagIndex(ImmutableDictionary<RecordId, TagSet> sets, TaggingRules rules, IReadOnlyCollection<RecordId> derived)
    {
        _sets = sets;
        _rules = rules;
        Derived = derived;
    }

    /// <summary>The records whose tags were derived for this index and not taken over from the one before.</summary>
    public IReadOnlyCollection<RecordId> Derived { get; }

    /// <summary>The tags of a record.</summary>
    public TagSet this[RecordId id] => _sets.GetValueOrDefault(id, TagSet.Empty);

    /// <summary>All records with their tags, in no order.</summary>
    public IEnumerable<KeyValuePair<RecordId, TagSet>> All => _sets;

    /// <summary>Derives everything.</summary>
    public static TagIndex Full(Project project)
    {
        var rules = TaggingRules.Of(project);
        var sets = ImmutableDictionary.CreateBuilder<RecordId, TagSet>();
        foreach (TaggedRecord record in project.Records.OfType<TaggedRecord>()) sets[record.Id] = Derive(project, record, rules);
        return new TagIndex(sets.ToImmutable(), rules, [.. sets.Keys]);
    }

    /// <summary>Derives what an accepted change set could have touched.</summary>
    public TagIndex After(Project after, IReadOnlyCollection<RecordChange> changes)
    {
        if (changes.Any(c => (c.After ?? c.Before) is TaggingRule)) return Full(after);
        var derive = new HashSet<RecordId>();
        foreach (RecordChange change in changes)
        {
            if ((change.After ?? change.Before) is not TaggedRecord record) continue;
            if (change is { Before: { } was, After: { } now } && now.IsAlikeFromOutside(was)) derive.Add(record.Id);
            else Below(after, record.Id, derive);
        }
        if (derive.Count == 0) return new TagIndex(_sets, _rules, []);
        var sets = _sets.ToBuilder();
        foreach (RecordId id in derive)
        {
            if (after.Find(id) is TaggedRecord record) sets[id] = Derive(after, record, _rules);
            else sets.Remove(id);
        }
        return new TagIndex(sets.ToImmutable(), _rules, derive);
    }

    /// <summary>Each tag of a record with where it comes from and why.</summary>
    public IReadOnlyList<DerivedTag> Explain(Project project, TaggedRecord record) => [.. _rules.Derive(project, record).Values.OrderBy(t => t.Name, StringComparer.Ordinal)];

    /// <summary>The tags of what a reference of a tag leads to; for filters that walk through references.</summary>
    public TagSet? Resolve(string id) => RecordId.IsValid(id) ? _sets.GetValueOrDefault(new RecordId(id)) : null;

    private static TagSet Derive(Project project, TaggedRecord record, TaggingRules rules) =>
        new(rules.Derive(project, record).Select(t => KeyValuePair.Create(t.Key, t.Value.Value)));

    /// <summary>A record and all whose tags lean on it: what is in it, and what refers to it.</summary>
    private static void Below(Project project, RecordId id, HashSet<RecordId> all)
    {
        if (!all.Add(id)) return;
        foreach (TaggedRecord referrer in project.Referrers<TaggedRecord>(id)) Below(project, referrer.Id, all);
    }
}
