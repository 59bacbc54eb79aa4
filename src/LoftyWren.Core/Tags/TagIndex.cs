using LoftyWren.Core.Derivation;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tags;

/// <summary>The tags of all records, kept up to date edit by edit: derived again where something was asked for that changed, nothing else.</summary>
public sealed class TagIndex
{
    private readonly Derived<TagSet> _sets;
    private readonly TaggingRules _rules;

    private TagIndex(Derived<TagSet> sets, TaggingRules rules, IReadOnlyCollection<RecordId> derived, Derived<TagSet>? before = null)
    {
        _sets = sets;
        _rules = rules;
        Derived = derived;
        Retagged = before is null ? derived : [.. derived.Where(id => !(before[id] ?? TagSet.Empty).SameAs(sets[id] ?? TagSet.Empty))];
    }

    /// <summary>The records whose tags were derived for this index and not taken over from the one before.</summary>
    public IReadOnlyCollection<RecordId> Derived { get; }

    /// <summary>Those of them whose tags are others than before: whoever rests on tags need look at these alone.</summary>
    public IReadOnlyCollection<RecordId> Retagged { get; }

    /// <summary>The tags of a record.</summary>
    public TagSet this[RecordId id] => _sets[id] ?? TagSet.Empty;

    /// <summary>All records with their tags, in no order.</summary>
    public IEnumerable<KeyValuePair<RecordId, TagSet>> All => _sets.Values;

    /// <summary>Derives everything.</summary>
    public static TagIndex Full(Project project)
    {
        var rules = TaggingRules.Of(project);
        var sets = Derived<TagSet>.Full(project, By(rules));
        return new TagIndex(sets, rules, [.. sets.Values.Keys]);
    }

    /// <summary>Derives what an accepted change set could have touched.</summary>
    public TagIndex After(Project after, IReadOnlyCollection<RecordChange> changes)
    {
        if (changes.Any(c => (c.After ?? c.Before) is TaggingRule)) return Full(after);
        var (sets, derived) = _sets.After(after, changes.Select(c => (c.Before, c.After)), By(_rules));
        return new TagIndex(sets, _rules, derived, _sets);
    }

    /// <summary>Each tag of a record with where it comes from and why.</summary>
    public IReadOnlyList<DerivedTag> Explain(Project project, TaggedRecord record) => [.. _rules.Derive(project, record).Values.OrderBy(t => t.Name, StringComparer.Ordinal)];

    /// <summary>The tags of what a reference of a tag leads to; for filters that walk through references.</summary>
    public TagSet? Resolve(string id) => RecordId.IsValid(id) ? _sets[new RecordId(id)] : null;

    private static Derived<TagSet>.Computing By(TaggingRules rules) => (Project project, ProjectRecord record, out TagSet tags) =>
    {
        tags = record is TaggedRecord tagged ? new(rules.Derive(project, tagged).Select(t => KeyValuePair.Create(t.Key, t.Value.Value))) : TagSet.Empty;
        return record is TaggedRecord;
    };
}
