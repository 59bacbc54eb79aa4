using LoftyWren.Core.Collections;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Places;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>A record and the project revision that last wrote it.</summary>
public sealed record Entry(ProjectRecord Record, long Revision);

/// <summary>
/// The whole project at one revision. Immutable: an edit answers another project that shares all it did not touch,
/// so the cost of an edit does not grow with the project (beyond a logarithm).
/// </summary>
public sealed class Project
{
    private readonly PersistentMap<RecordId, Entry> _entries;
    private readonly PersistentMap<string, RecordId> _keys;
    // Worked out when first asked for: an import that is only planned never asks.
    private readonly Lazy<Ways> _ways;
    private readonly HashSet<Read>? _noting;

    private Project(long revision, PersistentMap<RecordId, Entry> entries, PersistentMap<string, RecordId> keys, Lazy<Ways> ways, HashSet<Read>? noting = null)
    {
        _noting = noting;
        Revision = revision;
        _entries = entries;
        _keys = keys;
        _ways = ways;
    }

    /// <summary>How records are come to from others: by what they refer to, and by their sort; and what adds up over them.</summary>
    private sealed record Ways(Sums Sums, PersistentMap<RecordId, PersistentMap<Type, PersistentMap<RecordId, ProjectRecord>>> Referrers, PersistentMap<Type, PersistentMap<RecordId, ProjectRecord>> ByType);

    /// <summary>A project with nothing in it, at revision 0.</summary>
    public static Project Empty { get; } = new(
        0,
        PersistentMap<RecordId, Entry>.Empty,
        PersistentMap<string, RecordId>.Empty,
        new(new Ways(Sums.Empty, PersistentMap<RecordId, PersistentMap<Type, PersistentMap<RecordId, ProjectRecord>>>.Empty, PersistentMap<Type, PersistentMap<RecordId, ProjectRecord>>.Empty)));

    /// <summary>Counts the change sets ever accepted.</summary>
    public long Revision { get; }

    /// <summary>How many records there are.</summary>
    public int Count => _entries.Count;

    /// <summary>All records, in no order.</summary>
    public IEnumerable<ProjectRecord> Records
    {
        get
        {
            _noting?.Add(Read.Everything);
            return _entries.Values.Select(e => e.Record);
        }
    }

    /// <summary>The same project, which notes what it is asked: how a derivation comes to know what it rests on.</summary>
    internal Project Noting(HashSet<Read> noting) => new(Revision, _entries, _keys, _ways, noting);

    /// <summary>The record with this id, or null.</summary>
    public ProjectRecord? Find(RecordId id) => FindEntry(id)?.Record;

    /// <summary>The record with this id if it is of this sort, or null.</summary>
    public T? Find<T>(RecordId? id) where T : ProjectRecord => id is { } known ? Find(known) as T : null;

    /// <summary>The record with its revision, or null.</summary>
    public Entry? FindEntry(RecordId id)
    {
        _noting?.Add(Read.Record(id));
        return _entries.GetValueOrDefault(id);
    }

    /// <summary>All records of one sort, in no order.</summary>
    public IEnumerable<T> All<T>() where T : ProjectRecord => AllOf(typeof(T)).Cast<T>();

    /// <summary>All records of one sort, in no order.</summary>
    public IEnumerable<ProjectRecord> AllOf(Type sort)
    {
        _noting?.Add(Read.All(sort));
        return _ways.Value.ByType.TryGetValue(sort, out var all) ? all.Values : [];
    }

    /// <summary>Every record that refers to this one.</summary>
    public IEnumerable<ProjectRecord> Referrers(RecordId id) => Referrers<ProjectRecord>(id);

    /// <summary>The records of one sort that refer to this one; of others, of which there may be thousands, none is looked at.</summary>
    public IEnumerable<T> Referrers<T>(RecordId id) where T : ProjectRecord
    {
        if (typeof(T).IsSealed) return ReferrersOf(typeof(T), id).Cast<T>();
        _noting?.Add(Read.Referrers(id, typeof(T)));
        return _ways.Value.Referrers.TryGetValue(id, out var all) ? all.Where(ofOneSort => typeof(T).IsAssignableFrom(ofOneSort.Key)).SelectMany(ofOneSort => ofOneSort.Value.Values).Cast<T>() : [];
    }

    /// <summary>The records of one sort that refer to this one.</summary>
    public IEnumerable<ProjectRecord> ReferrersOf(Type sort, RecordId id)
    {
        _noting?.Add(Read.Referrers(id, sort));
        return _ways.Value.Referrers.TryGetValue(id, out var all) ? all.GetValueOrDefault(sort)?.Values ?? [] : [];
    }

    /// <summary>The record that holds a unique key, or null.</summary>
    public RecordId? Holder(string key)
    {
        _noting?.Add(Read.Holder(key));
        return _keys.TryGetValue(key, out RecordId id) ? id : null;
    }

    /// <summary>What adds up at a record: of what hangs on it, and of what hangs on that. Kept while the project changes; asking costs nothing.</summary>
    public long Sum(RecordId hub, SumSort of)
    {
        _noting?.Add(Read.Sums(hub));
        return _ways.Value.Sums.At(hub, of);
    }

    /// <summary>All sums there are.</summary>
    public IEnumerable<(RecordId Hub, SumSort Of, long Amount)> AllSums => _ways.Value.Sums.All;

    /// <summary>The records at which what adds up at this one counts too.</summary>
    internal IEnumerable<RecordId> SummedAbove(RecordId hub) => _ways.Value.Sums.Above(hub);

    /// <summary>The one site of the project, or null before it is made.</summary>
    public Place? Site => Find<Place>(Holder(Place.SiteKey));

    /// <summary>The record and all it belongs to, innermost first.</summary>
    public IEnumerable<ProjectRecord> Lineage(RecordId id)
    {
        ProjectRecord? record = Find(id);
        for (int depth = 0; record is not null && depth < 32; depth++)
        {
            yield return record;
            record = record.ParentId is { } parent ? Find(parent) : null;
        }
    }

    /// <summary>Where a record is, outermost first, as people read it: “Kiln House › First floor › Kiln room”.</summary>
    public string PathOf(RecordId id) =>
        string.Join(" › ", Lineage(id).Skip(1).Where(r => r is not Place { Kind: PlaceKind.Site }).Select(r => r.Name).Reverse());

    /// <summary>This project with records put and removed, indexes kept, nothing validated. For change sets and for loading.</summary>
    internal Project With(long revision, IEnumerable<ProjectRecord> puts, IEnumerable<RecordId> removes, List<Refusal>? clashes = null) =>
        With(revision, [.. puts.Select(r => new Entry(r, revision))], removes, clashes);

    /// <summary>The same with records that were written at revisions of their own.</summary>
    internal Project With(long revision, IReadOnlyList<Entry> puts, IEnumerable<RecordId> removes, List<Refusal>? clashes = null)
    {
        var entries = _entries.ToBuilder();
        var keys = _keys.ToBuilder();
        var arriving = new List<ProjectRecord>(puts.Count);
        foreach (Entry put in puts) arriving.Add(put.Record);
        var left = new List<ProjectRecord>();
        void Leave(RecordId id)
        {
            if (!entries.TryGetValue(id, out Entry? old)) return;
            entries.Remove(id);
            left.Add(old.Record);
            foreach (UniqueKey key in old.Record.UniqueKeys())
            {
                if (keys.TryGetValue(key.Key, out RecordId holder) && holder == id) keys.Remove(key.Key);
            }
        }
        foreach (RecordId id in removes) Leave(id);
        if (entries.Count > 0)
        {
            foreach (ProjectRecord record in arriving) Leave(record.Id);
        }
        foreach (Entry put in puts)
        {
            ProjectRecord record = put.Record;
            entries[record.Id] = put;
            foreach (UniqueKey key in record.UniqueKeys())
            {
                if (keys.TryGetValue(key.Key, out RecordId holder))
                    clashes?.Add(new Refusal(record.Id, key.Field, string.Format(key.Sentence, entries[holder].Record.Called(id => entries.GetValueOrDefault(id)?.Record), record.Noun)));
                else keys[key.Key] = record.Id;
            }
        }
        // What this project rests on is worked out now, so that no more than one step ever waits.
        Ways before = _ways.Value;
        return new Project(revision, entries.ToImmutable(), keys.ToImmutable(), new(() => After(before, left, arriving)));
    }

    /// <summary>The ways with some records gone and others come. Sets are opened once and closed once, however many come and go.</summary>
    private static Ways After(Ways before, List<ProjectRecord> left, IReadOnlyCollection<ProjectRecord> arriving)
    {
        var referrers = before.Referrers.ToBuilder();
        var byType = before.ByType.ToBuilder();
        var openReferrers = new Dictionary<RecordId, Dictionary<Type, PersistentMap<RecordId, ProjectRecord>.Builder>>();
        var openTypes = new Dictionary<Type, PersistentMap<RecordId, ProjectRecord>.Builder>();
        PersistentMap<RecordId, ProjectRecord>.Builder ReferrersOf(RecordId to, Type sort)
        {
            if (!openReferrers.TryGetValue(to, out var open)) openReferrers[to] = open = [];
            return open.TryGetValue(sort, out var set) ? set : open[sort] = (before.Referrers.GetValueOrDefault(to)?.GetValueOrDefault(sort) ?? PersistentMap<RecordId, ProjectRecord>.Empty).ToBuilder();
        }
        PersistentMap<RecordId, ProjectRecord>.Builder OfSort(Type sort) =>
            openTypes.TryGetValue(sort, out var set) ? set : openTypes[sort] = (before.ByType.GetValueOrDefault(sort) ?? PersistentMap<RecordId, ProjectRecord>.Empty).ToBuilder();
        foreach (ProjectRecord record in left)
        {
            OfSort(record.GetType()).Remove(record.Id);
            foreach (Reference reference in record.References()) ReferrersOf(reference.To, record.GetType()).Remove(record.Id);
        }
        foreach (ProjectRecord record in arriving)
        {
            OfSort(record.GetType())[record.Id] = record;
            foreach (Reference reference in record.References()) ReferrersOf(reference.To, record.GetType())[record.Id] = record;
        }
        foreach (var (to, sorts) in openReferrers)
        {
            var all = (before.Referrers.GetValueOrDefault(to) ?? PersistentMap<Type, PersistentMap<RecordId, ProjectRecord>>.Empty).ToBuilder();
            Close(sorts, all);
            if (all.Count == 0) referrers.Remove(to);
            else referrers[to] = all.ToImmutable();
        }
        Close(openTypes, byType);
        return new Ways(before.Sums.After(left, arriving), referrers.ToImmutable(), byType.ToImmutable());
    }

    private static void Close(Dictionary<Type, PersistentMap<RecordId, ProjectRecord>.Builder> open, PersistentMap<Type, PersistentMap<RecordId, ProjectRecord>>.Builder all)
    {
        foreach (var (sort, set) in open)
        {
            if (set.Count == 0) all.Remove(sort);
            else all[sort] = set.ToImmutable();
        }
    }

    /// <summary>The project as storage kept it; each record with the revision that wrote it.</summary>
    public static Project Load(long revision, IEnumerable<Entry> stored) => Empty.With(revision, stored.ToList(), []);
}
