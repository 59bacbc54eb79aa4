using System.Collections.Immutable;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Names;

/// <summary>Who holds which name within the scopes of the convention, kept up to date edit by edit.</summary>
public sealed class NameIndex
{
    private readonly ImmutableDictionary<string, ImmutableHashSet<RecordId>> _holders;
    private readonly ImmutableDictionary<RecordId, ImmutableArray<string>> _keys;

    private NameIndex(ImmutableDictionary<string, ImmutableHashSet<RecordId>> holders, ImmutableDictionary<RecordId, ImmutableArray<string>> keys)
    {
        _holders = holders;
        _keys = keys;
    }

    /// <summary>With no names.</summary>
    public static NameIndex Empty { get; } = new(ImmutableDictionary.Create<string, ImmutableHashSet<RecordId>>(StringComparer.Ordinal), ImmutableDictionary<RecordId, ImmutableArray<string>>.Empty);

    /// <summary>With all names of a project.</summary>
    public static NameIndex Full(Project project, Naming? naming) => naming is null ? Empty : Empty.After(project, naming, project.Records.Select(r => r.Id)).Index;

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

    /// <summary>The index after these records changed, and all records that may have met or lost a namesake by that.</summary>
    public (NameIndex Index, IReadOnlyCollection<RecordId> Affected) After(Project project, Naming naming, IEnumerable<RecordId> changed)
    {
        var holders = _holders.ToBuilder();
        var keys = _keys.ToBuilder();
        var affected = new HashSet<RecordId>();
        void Touch(ImmutableHashSet<RecordId> set)
        {
            // What one key holds is read no further than tells whether it is shared: a thousand namesakes are not all checked again.
            foreach (RecordId id in set.Take(Most)) affected.Add(id);
        }
        foreach (RecordId id in changed)
        {
            ImmutableArray<string> old = keys.TryGetValue(id, out var held) ? held : [];
            ImmutableArray<string> now = project.Find(id) is { } record ? [.. naming.Keys(project, record)] : [];
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
            if (now.IsEmpty) keys.Remove(id);
            else keys[id] = now;
        }
        return (new NameIndex(holders.ToImmutable(), keys.ToImmutable()), affected);
    }

    /// <summary>These records and all that belongs to them: whose names may hold theirs.</summary>
    public static IReadOnlySet<RecordId> Below(Project project, IEnumerable<RecordId> ids)
    {
        var all = new HashSet<RecordId>();
        void Walk(RecordId id)
        {
            if (!all.Add(id)) return;
            foreach (ProjectRecord referrer in project.Referrers(id))
            {
                if (referrer.ParentId == id) Walk(referrer.Id);
            }
        }
        foreach (RecordId id in ids) Walk(id);
        return all;
    }

    private const int Most = 200;
}
