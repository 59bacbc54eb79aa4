using System.Collections.Immutable;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Names;

/// <summary>Who holds which name within the scopes of the convention, kept up to date edit by edit.</summary>
public sealed class NameIndex
{
    private readonly ImmutableDictionary<string, ImmutableHashSet<RecordId>> _holders;
    private readonly Derived<ImmutableArray<string>> _keys;

    private NameIndex(ImmutableDictionary<string, ImmutableHashSet<RecordId>> holders, Derived<ImmutableArray<string>> keys)
    {
        _holders = holders;
        _keys = keys;
    }

    /// <summary>With no names.</summary>
    public static NameIndex Empty { get; } = new(ImmutableDictionary.Create<string, ImmutableHashSet<RecordId>>(StringComparer.Ordinal), Derived<ImmutableArray<string>>.Full(Project.Empty, KeysBy(null)));

    /// <summary>With all names of a project.</summary>
    public static NameIndex Full(Project project, Naming? naming)
    {
        if (naming is null) return Empty;
        var keys = Derived<ImmutableArray<string>>.Full(project, KeysBy(naming));
        var holders = Empty._holders.ToBuilder();
        foreach (var (id, held) in keys.Values)
        {
            foreach (string key in held) holders[key] = holders.GetValueOrDefault(key, ImmutableHashSet<RecordId>.Empty).Add(id);
        }
        return new NameIndex(holders.ToImmutable(), keys);
    }

    private static Derived<ImmutableArray<string>>.Computing KeysBy(Naming? naming) =>
        (Project project, ProjectRecord record, out ImmutableArray<string> keys) => (keys = naming is null ? [] : [.. naming.Keys(project, record)]).Length > 0;

    /// <summary>Another record that holds a key, or null.</summary>
    public RecordId? Other(string key, RecordId but)
    {
        if (!_holders.TryGetValue(key, out var holders)) return null;
        foreach (RecordId id in holders)
        {
            if (id != but) return id;
        }
        return null;
    }

    /// <summary>The index after some records changed, and all records that may have met or lost a namesake by that. A name can be part of the names of all that is below.</summary>
    public (NameIndex Index, IReadOnlyCollection<RecordId> Affected) After(Project project, Naming naming, IEnumerable<(ProjectRecord? Before, ProjectRecord? After)> changed)
    {
        var (keys, computed) = _keys.After(project, changed, KeysBy(naming));
        var holders = _holders.ToBuilder();
        var affected = new HashSet<RecordId>();
        void Touch(ImmutableHashSet<RecordId> set)
        {
            // What one key holds is read no further than tells whether it is shared: a thousand namesakes are not all checked again.
            foreach (RecordId id in set.Take(Most)) affected.Add(id);
        }
        foreach (RecordId id in computed)
        {
            ImmutableArray<string> old = _keys.Values.GetValueOrDefault(id, []), now = keys.Values.GetValueOrDefault(id, []);
            if (old.AsSpan().SequenceEqual(now.AsSpan())) continue;
            foreach (string key in old)
            {
                var left = holders[key].Remove(id);
                if (left.IsEmpty) holders.Remove(key);
                else holders[key] = left;
                Touch(left);
            }
            foreach (string key in now)
            {
                var set = holders.GetValueOrDefault(key, ImmutableHashSet<RecordId>.Empty).Add(id);
                holders[key] = set;
                Touch(set);
            }
        }
        return (new NameIndex(holders.ToImmutable(), keys), affected);
    }

    private const int Most = 200;
}
