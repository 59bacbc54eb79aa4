using LoftyWren.Core.Fields;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.PointLists;

/// <summary>A run of rows that have one thing in common: what, the row it begins at, and how many.</summary>
public sealed record RowGroup(string Label, int From, int Count);

/// <summary>Records of one kind in an order: place by place, by a field, in groups.</summary>
public static class RecordOrder
{
    /// <summary>
    /// All records of a kind that belong to a record or to what is in it, place by place, in a stable order. Nothing is looked
    /// at before it is asked for, so the first rows of a large project cost what those of a small one do.
    /// </summary>
    public static IEnumerable<ProjectRecord> Under(Project project, RecordId id, RecordKind kind)
    {
        if (project.Find(id) is { } own && own.GetType() == kind.Type) yield return own;
        foreach (ProjectRecord record in Below(project, id, kind)) yield return record;
    }

    /// <summary>All points under a record.</summary>
    public static IEnumerable<Point> Points(Project project, RecordId id) => Under(project, id, Point.AsKind).Cast<Point>();

    private static IEnumerable<ProjectRecord> Below(Project project, RecordId id, RecordKind kind)
    {
        bool isContainer = kind.Type == typeof(Place) || kind.Type == typeof(Equipment);
        if (!isContainer)
        {
            foreach (ProjectRecord record in project.ReferrersOf(kind.Type, id).Where(r => r.ParentId == id).OrderBy(r => r.Name, NaturalOrder.Names)) yield return record;
        }
        // What belongs to points comes point by point; points themselves hold no points.
        IEnumerable<ProjectRecord> inside = project.Referrers(id).Where(r => (r is Place or Equipment || (r is Point && kind.Type != typeof(Point))) && r.ParentId == id)
            .OrderBy(r => r is Place p ? -p.Order : 0).ThenBy(r => r.Name, NaturalOrder.Names);
        foreach (ProjectRecord part in inside)
        {
            if (isContainer && part.GetType() == kind.Type) yield return part;
            foreach (ProjectRecord record in Below(project, part.Id, kind)) yield return record;
        }
    }

    /// <summary>Records sorted by a field (with − in front: downwards; none: as they come) within the groups of what they have in common (none: one).</summary>
    public static (RecordId[] Ids, IReadOnlyList<RowGroup> Groups) Sort(Project project, RecordKind kind, IEnumerable<ProjectRecord> records, string? sort, string? group)
    {
        bool down = sort?.StartsWith('-') == true;
        Field? by = string.IsNullOrEmpty(sort) ? null : kind.Field(sort.TrimStart('-')) ?? CommonFields.Name;
        Field? within = string.IsNullOrEmpty(group) ? null : kind.Groups.FirstOrDefault(f => f.Key == group);
        var rows = records.Select((r, i) => (Record: r, Group: within?.Say(project, r) ?? "", Key: by is null ? i : by.IsNumber ? by.Number(project, r) ?? double.NegativeInfinity : (object)by.Say(project, r))).ToList();
        var order = Comparer<object>.Create(Compare);
        IEnumerable<(ProjectRecord Record, string Group, object Key)> sorted = by is null ? rows : down ? rows.OrderByDescending(r => r.Key, order) : rows.OrderBy(r => r.Key, order);
        if (within is null) return ([.. sorted.Select(r => r.Record.Id)], []);
        var ids = new List<RecordId>(rows.Count);
        var groups = new List<RowGroup>();
        foreach (var one in sorted.GroupBy(r => r.Group).OrderBy(g => g.Key.Length == 0 ? 1 : 0).ThenBy(g => g.Key, NaturalOrder.Names))
        {
            int from = ids.Count;
            ids.AddRange(one.Select(r => r.Record.Id));
            groups.Add(new RowGroup(one.Key.Length == 0 ? $"no {within.Label.ToLowerInvariant()}" : one.Key, from, ids.Count - from));
        }
        return ([.. ids], groups);
    }

    private static int Compare(object? a, object? b) => (a, b) switch
    {
        (double x, double y) => x.CompareTo(y),
        (int x, int y) => x.CompareTo(y),
        _ => NaturalOrder.Names.Compare(a as string, b as string),
    };
}
