using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Derivation;

/// <summary>What each computation asked of the project, and who asked for what.</summary>
/// <param name="whole">Whether the computations take records whole, to the last word: an image does, a check does not.</param>
internal sealed class ReadNotes(bool whole)
{
    // Most things are asked for by one record or two, some by thousands.
    private readonly Dictionary<Read, object> _readers = [];
    private readonly Dictionary<RecordId, Read[]> _reads = [];
    private readonly HashSet<Read> _noting = [];

    /// <summary>Counts the changes that were followed.</summary>
    public int Version { get; set; }

    /// <summary>What a computation that begins now is to note into.</summary>
    public HashSet<Read> Begin()
    {
        _noting.Clear();
        return _noting;
    }

    /// <summary>Takes what was noted as what a record's computation rests on.</summary>
    public void End(RecordId id)
    {
        if (_reads.TryGetValue(id, out Read[]? before) && _noting.SetEquals(before)) return;
        Forget(id);
        if (_noting.Count == 0) return;
        foreach (Read read in _noting)
        {
            if (!_readers.TryGetValue(read, out object? readers)) _readers[read] = id;
            else if (readers is HashSet<RecordId> many) many.Add(id);
            else _readers[read] = new HashSet<RecordId> { (RecordId)readers, id };
        }
        _reads[id] = [.. _noting];
    }

    /// <summary>Forgets what a record's computation rests on.</summary>
    public void Forget(RecordId id)
    {
        if (!_reads.Remove(id, out Read[]? before)) return;
        foreach (Read read in before)
        {
            if (_readers[read] is not HashSet<RecordId> many) _readers.Remove(read);
            else if (many.Remove(id) && many.Count == 0) _readers.Remove(read);
        }
    }

    /// <summary>Adds those whose computation asked for what a change touched.</summary>
    public void Touched(Project project, ProjectRecord? before, ProjectRecord? after, HashSet<RecordId> into) => Read.Touched(project, before, after, whole, read =>
    {
        if (!_readers.TryGetValue(read, out object? readers)) return;
        if (readers is HashSet<RecordId> many) into.UnionWith(many);
        else into.Add((RecordId)readers);
    });
}
