using System.Collections.Immutable;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Derivation;

/// <summary>
/// Something computed for records from the project: findings, tags, names. What each computation asked of the project is
/// noted while it runs, so that after a change only those are run again that asked for what changed; who looks at whom is
/// written nowhere. What a record keeps to itself (<see cref="ProjectRecord.IsAlikeFromOutside"/>) computes only its own again.
/// </summary>
/// <typeparam name="T">What is computed for one record.</typeparam>
public sealed class Derived<T>
    where T : notnull
{
    private readonly ImmutableDictionary<RecordId, T> _values;
    // The notes belong to the newest state alone, and go along with it.
    private readonly ReadNotes _notes;
    private readonly int _version;

    private Derived(ImmutableDictionary<RecordId, T> values, ReadNotes notes, int version) => (_values, _notes, _version) = (values, notes, version);

    /// <summary>Computes one record's; answers false where it has none. It asks the project it is given, and no other.</summary>
    public delegate bool Computing(Project project, ProjectRecord record, out T value);

    /// <summary>All that is computed.</summary>
    public ImmutableDictionary<RecordId, T> Values => _values;

    /// <summary>Of one record; the default where there is none.</summary>
    public T? this[RecordId id] => _values.TryGetValue(id, out T? value) ? value : default;

    /// <summary>Computes everything.</summary>
    public static Derived<T> Full(Project project, Computing compute)
    {
        var notes = new ReadNotes(whole: false);
        var values = ImmutableDictionary.CreateBuilder<RecordId, T>();
        foreach (ProjectRecord record in project.Records) Compute(notes, project, record.Id, compute, values);
        return new Derived<T>(values.ToImmutable(), notes, notes.Version);
    }

    /// <summary>
    /// Computes again what some changes can have touched, and what <paramref name="also"/> names for reasons of its own. Answers
    /// the records it was computed for. Taken up where somebody else has gone on from here meanwhile, all is computed anew.
    /// </summary>
    public (Derived<T> Next, IReadOnlyCollection<RecordId> Computed) After(Project after, IEnumerable<(ProjectRecord? Before, ProjectRecord? After)> changes, Computing compute, IEnumerable<RecordId>? also = null)
    {
        if (_notes.Version != _version)
        {
            Derived<T> anew = Full(after, compute);
            return (anew, [.. _values.Keys.Union(after.Records.Select(r => r.Id))]);
        }
        var wanted = new HashSet<RecordId>(also ?? []);
        foreach (var (before, now) in changes)
        {
            wanted.Add((now ?? before)!.Id);
            _notes.Touched(after, before, now, wanted);
        }
        var values = _values.ToBuilder();
        _notes.Version++;
        foreach (RecordId id in wanted) Compute(_notes, after, id, compute, values);
        return (new Derived<T>(values.ToImmutable(), _notes, _notes.Version), wanted);
    }

    private static void Compute(ReadNotes notes, Project project, RecordId id, Computing compute, ImmutableDictionary<RecordId, T>.Builder values)
    {
        if (project.Find(id) is not { } record)
        {
            values.Remove(id);
            notes.Forget(id);
            return;
        }
        if (compute(project.Noting(notes.Begin()), record, out T value)) values[id] = value;
        else values.Remove(id);
        notes.End(id);
    }
}
