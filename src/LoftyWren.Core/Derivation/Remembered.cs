using System.Diagnostics.CodeAnalysis;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Derivation;

/// <summary>
/// Something costly computed for a record when somebody asks, and remembered until a change touches what the computation
/// asked of the project, to the last word of any record. Not safe for several threads.
/// </summary>
/// <typeparam name="T">What is computed.</typeparam>
public sealed class Remembered<T>
{
    private readonly Dictionary<RecordId, T> _known = [];
    private readonly ReadNotes _notes = new(whole: true);

    /// <summary>What is remembered of a record.</summary>
    public bool TryGet(RecordId id, [MaybeNullWhen(false)] out T value) => _known.TryGetValue(id, out value);

    /// <summary>Computes it for a record and remembers it. The computation asks the project it is given, and no other.</summary>
    public T Compute(Project project, RecordId id, Func<Project, T> compute)
    {
        T value = compute(project.Noting(_notes.Begin()));
        _notes.End(id);
        return _known[id] = value;
    }

    /// <summary>Forgets what some changes touched, which led to a project.</summary>
    public void Follow(Project after, IEnumerable<RecordChange> changes)
    {
        var touched = new HashSet<RecordId>();
        foreach (RecordChange change in changes) _notes.Touched(after, change.Before, change.After, touched);
        foreach (RecordId id in touched)
        {
            _known.Remove(id);
            _notes.Forget(id);
        }
    }
}
