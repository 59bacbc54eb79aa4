using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Derivation;

/// <summary>
/// One thing that a computation asked of a project: a record (nothing else told), the records of a sort that refer to it (the
/// sort), all records of a sort (no record, the sort), who holds a unique key (no record, the key), what adds up at a record (the sort of sums), or every record there is.
/// </summary>
public readonly record struct Read(RecordId Id, object? What)
{
    /// <summary>A record, there or not.</summary>
    public static Read Record(RecordId id) => new(id, null);

    /// <summary>The records of a sort, or of one derived from it, that refer to a record.</summary>
    public static Read Referrers(RecordId id, Type sort) => new(id, sort);

    /// <summary>All records of a sort.</summary>
    public static Read All(Type sort) => new(default, sort);

    /// <summary>The holder of a unique key.</summary>
    public static Read Holder(string key) => new(default, key);

    /// <summary>What adds up at a record.</summary>
    public static Read Sums(RecordId hub) => new(hub, typeof(SumSort));

    /// <summary>Every record of the project.</summary>
    public static Read Everything { get; } = new(default, typeof(ProjectRecord));

    /// <summary>
    /// Hands over all that a change of one record, which led to a project, can have made another answer to; nothing for a record that nobody outside
    /// can tell from what it was, unless <paramref name="whole"/> says that records are taken whole, to the last word.
    /// </summary>
    public static void Touched(Project project, ProjectRecord? before, ProjectRecord? after, bool whole, Action<Read> touch)
    {
        ProjectRecord one = (after ?? before)!;
        if (!whole && before is not null && after is not null && after.IsAlikeFromOutside(before)) return;
        touch(Record(one.Id));
        for (Type? sort = one.GetType(); sort is not null && typeof(ProjectRecord).IsAssignableFrom(sort); sort = sort.BaseType) touch(All(sort));
        TouchReferred(before, touch);
        TouchReferred(after, touch);
        TouchKeys(before, after, touch);
        TouchKeys(after, before, touch);
        TouchSums(project, before, touch);
        TouchSums(project, after, touch);
    }

    // What was carried before by something that changed with it is touched by that.
    private static void TouchSums(Project project, ProjectRecord? record, Action<Read> touch)
    {
        if (record is null) return;
        foreach (Share share in record.Shares()) TouchSums(project, share.Hub, touch);
        if (record.Carries is { } tie) TouchSums(project, tie.To, touch);
    }

    private static void TouchSums(Project project, RecordId hub, Action<Read> touch)
    {
        touch(Sums(hub));
        foreach (RecordId above in project.SummedAbove(hub)) touch(Sums(above));
    }

    private static void TouchReferred(ProjectRecord? record, Action<Read> touch)
    {
        if (record is null) return;
        foreach (Reference reference in record.References())
        {
            for (Type? sort = record.GetType(); sort is not null && typeof(ProjectRecord).IsAssignableFrom(sort); sort = sort.BaseType) touch(Referrers(reference.To, sort));
        }
    }

    private static void TouchKeys(ProjectRecord? one, ProjectRecord? other, Action<Read> touch)
    {
        if (one is null) return;
        HashSet<string>? kept = null;
        foreach (UniqueKey key in one.UniqueKeys())
        {
            kept ??= other is null ? [] : [.. other.UniqueKeys().Select(k => k.Key)];
            if (!kept.Contains(key.Key)) touch(Holder(key.Key));
        }
    }
}
