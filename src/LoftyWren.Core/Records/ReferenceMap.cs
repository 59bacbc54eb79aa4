namespace LoftyWren.Core.Records;

/// <summary>
/// One way in which records of a sort refer to others, declared once beside the field that holds it.
/// </summary>
/// <param name="As">What the one is to the other, as a list of uses says it: in, of, reads, commands.</param>
/// <param name="Field">The field of the record, by its name in JSON, in which the reference is.</param>
/// <param name="Word">What it must lead to, in words.</param>
/// <param name="To">The sorts of record that it may lead to.</param>
public sealed record ReferenceSort(string As, string Field, string Word, params Type[] To)
{
    /// <summary>Whether removing the target removes this record too.</summary>
    public bool Owning { get; init; }

    /// <summary>Whether the value of the target is read, so that a fixed one can stand in its place.</summary>
    public bool IsValue { get; init; }

    /// <summary>Whether the record moves its target, so that the target depends on the record: commands, drives.</summary>
    public bool Moves { get; init; }

    /// <summary>Whether only one record may refer to a target in this way: a copy of it would clash.</summary>
    public bool Alone { get; init; }

    /// <summary>What a removal asks and a template carries: the record belongs to its target.</summary>
    public static ReferenceSort Owner<T>(string @as, string field, string word) where T : ProjectRecord => new(@as, field, word, typeof(T)) { Owning = true };

    /// <summary>A record that is used, and may be let go of.</summary>
    public static ReferenceSort Link<T>(string @as, string field, string word) where T : ProjectRecord => new(@as, field, word, typeof(T));
}

/// <summary>One record pointing to another.</summary>
public readonly record struct Reference(RecordId To, ReferenceSort Sort)
{
    /// <inheritdoc cref="ReferenceSort.As"/>
    public string As => Sort.As;

    /// <inheritdoc cref="ReferenceSort.Owning"/>
    public bool Owning => Sort.Owning;
}

/// <summary>
/// What goes through the references of a record. A record hands each of them over in one method,
/// <see cref="ProjectRecord.Through"/>, and takes what comes back; so who walks them, leads them elsewhere or lets go of
/// some needs to know no record.
/// </summary>
public abstract class ReferenceMap
{
    /// <summary>Where a reference leads from now on; null lets go of it, which only a link may be.</summary>
    protected abstract RecordId? Lead(ReferenceSort sort, RecordId to);

    /// <summary>A reference to what the record belongs to, which it always has.</summary>
    public RecordId Owner(ReferenceSort sort, RecordId to) => Lead(sort, to) ?? to;

    /// <summary>A reference that need not be there.</summary>
    public RecordId? Link(ReferenceSort sort, RecordId? to) => to is { } id ? Lead(sort, id) : null;

    /// <summary>A list of references; those that are let go of leave it. The same list where nothing changes.</summary>
    public IReadOnlyList<RecordId> Links(ReferenceSort sort, IReadOnlyList<RecordId> list)
    {
        List<RecordId>? changed = null;
        for (int i = 0; i < list.Count; i++)
        {
            RecordId? to = Lead(sort, list[i]);
            if (changed is null && to != list[i]) changed = [.. list.Take(i)];
            if (to is { } id) changed?.Add(id);
        }
        return changed ?? list;
    }

    /// <summary>A list of parts that hold references; a part that comes to null leaves it. The same list where nothing changes.</summary>
    public IReadOnlyList<T> Each<T>(IReadOnlyList<T> list, Func<T, T?> through) where T : class
    {
        List<T>? changed = null;
        for (int i = 0; i < list.Count; i++)
        {
            T? part = through(list[i]);
            if (changed is null && !ReferenceEquals(part, list[i])) changed = [.. list.Take(i)];
            if (part is not null) changed?.Add(part);
        }
        return changed ?? list;
    }

    /// <summary>A table of parts that hold references; a part that comes to null leaves it. The same table where nothing changes.</summary>
    public IReadOnlyDictionary<TKey, T> Each<TKey, T>(IReadOnlyDictionary<TKey, T> table, Func<T, T?> through) where TKey : notnull where T : class
    {
        Dictionary<TKey, T>? changed = null;
        foreach (var (key, value) in table)
        {
            T? part = through(value);
            if (ReferenceEquals(part, value)) continue;
            changed ??= new(table);
            if (part is null) changed.Remove(key);
            else changed[key] = part;
        }
        return changed ?? table;
    }

    /// <summary>The fixed value that stands in the place of what a value was read from, where one does.</summary>
    public virtual FixedValue? InPlaceOf(RecordId to) => null;

    /// <summary>A text of parts between upright bars, some of which are ids; it is led along, and nothing rests on it.</summary>
    public virtual string Mentions(string text) => text;
}

/// <summary>A value that no longer changes: with its unit, or one of two states.</summary>
public sealed record FixedValue(double Value, string? Unit, bool IsBinary)
{
    /// <summary>A value in the place of a record's: in the unit of a point.</summary>
    public static FixedValue For(ProjectRecord? record, double value) => record is Points.Point point ? new FixedValue(value, point.Kind == Points.PointKind.Analog ? point.Unit : null, point.Kind == Points.PointKind.Binary) : new FixedValue(value, null, false);
}

/// <summary>Collects the references of a record.</summary>
internal sealed class References : ReferenceMap
{
    public List<Reference> Found { get; } = [];

    protected override RecordId? Lead(ReferenceSort sort, RecordId to)
    {
        Found.Add(new Reference(to, sort));
        return to;
    }
}

/// <summary>Lets go of every reference to what is gone.</summary>
internal sealed class LettingGo(IReadOnlySet<RecordId> gone) : ReferenceMap
{
    protected override RecordId? Lead(ReferenceSort sort, RecordId to) => !sort.Owning && gone.Contains(to) ? null : to;
}

/// <summary>Gives a record another owner; links to the old one stay.</summary>
internal sealed class MovingTo(RecordId from, RecordId to) : ReferenceMap
{
    protected override RecordId? Lead(ReferenceSort sort, RecordId at) => sort.Owning && at == from ? to : at;
}

/// <summary>Leads references elsewhere; those that are not named stay.</summary>
internal sealed class LeadingElsewhere(IReadOnlyDictionary<RecordId, RecordId> ids) : ReferenceMap
{
    protected override RecordId? Lead(ReferenceSort sort, RecordId to) => ids.TryGetValue(to, out RecordId other) ? other : to;

    public override string Mentions(string text) => string.Join('|', text.Split('|').Select(part => RecordId.IsValid(part) && ids.TryGetValue(new RecordId(part), out RecordId other) ? other.Value : part));
}
