using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.PointLists;

/// <summary>A run of rows that have one thing in common: what, the row it begins at, and how many.</summary>
public sealed record PointGroup(string Label, int From, int Count);

/// <summary>Points in an order: place by place, by a column, in groups.</summary>
public static class PointOrder
{
    /// <summary>What points can be grouped by.</summary>
    public static IReadOnlyList<string> Groups { get; } = ["building", "floor", "room", "owner", "equipment kind", "kind", "role", "unit", "controller"];

    /// <summary>
    /// All points of a record and of what is in it, place by place, in a stable order. Nothing is looked at before it is asked
    /// for, so the first rows of a large project cost what those of a small one do.
    /// </summary>
    public static IEnumerable<Point> Under(Project project, RecordId id)
    {
        if (project.Find(id) is Point own) yield return own;
        foreach (Point point in project.Referrers<Point>(id).Where(p => p.OwnerId == id).OrderBy(p => p.Name, NaturalOrder.Names)) yield return point;
        var inside = project.Referrers(id).Where(r => r is Place or Equipment && r.ParentId == id).OrderBy(r => r is Place p ? -p.Order : 0).ThenBy(r => r.Name, NaturalOrder.Names);
        foreach (ProjectRecord part in inside)
        {
            foreach (Point point in Under(project, part.Id)) yield return point;
        }
    }

    /// <summary>Points sorted by a column (with − in front: downwards; none: as they come) within the groups of what they have in common (none: one).</summary>
    public static (RecordId[] Ids, IReadOnlyList<PointGroup> Groups) Sort(Project project, IEnumerable<Point> points, string? sort, string? group, Naming? naming)
    {
        bool down = sort?.StartsWith('-') == true;
        string column = sort?.TrimStart('-') ?? "";
        var rows = points.Select((p, i) => (Point: p, Group: string.IsNullOrEmpty(group) ? "" : Group(project, p, group), Key: column.Length == 0 ? i : Cell(project, p, column, naming))).ToList();
        var order = Comparer<object>.Create(Compare);
        IEnumerable<(Point Point, string Group, object Key)> sorted = column.Length == 0 ? rows : down ? rows.OrderByDescending(r => r.Key, order) : rows.OrderBy(r => r.Key, order);
        if (string.IsNullOrEmpty(group)) return ([.. sorted.Select(r => r.Point.Id)], []);
        var ids = new List<RecordId>(rows.Count);
        var groups = new List<PointGroup>();
        foreach (var one in sorted.GroupBy(r => r.Group).OrderBy(g => g.Key.Length == 0 ? 1 : 0).ThenBy(g => g.Key, NaturalOrder.Names))
        {
            int from = ids.Count;
            ids.AddRange(one.Select(r => r.Point.Id));
            groups.Add(new PointGroup(one.Key.Length == 0 ? $"no {group}" : one.Key, from, ids.Count - from));
        }
        return ([.. ids], groups);
    }

    private static string Group(Project project, Point point, string by)
    {
        string At(PlaceKind kind) => project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == kind) is { } place ? string.Join(" › ", project.Lineage(place.Id).OfType<Place>().Where(p => p.Kind != PlaceKind.Site).Select(p => p.Name).Reverse()) : "";
        return by switch
        {
            "building" => At(PlaceKind.Building),
            "floor" => At(PlaceKind.Floor),
            "room" => At(PlaceKind.Room),
            "owner" => project.PathOf(point.Id),
            "equipment kind" => project.Find<Equipment>(point.OwnerId)?.Kind ?? "",
            "kind" => point.Kind.ToString().ToLowerInvariant(),
            "role" => point.Role.ToString().ToLowerInvariant(),
            "unit" => point.Unit ?? "",
            _ => project.Find<Fitting>(project.Holder($"source|{point.Id}")) is { } fitting ? project.Find(fitting.ControllerId)?.Name ?? "" : "",
        };
    }

    private static object Cell(Project project, Point point, string column, Naming? naming) => column switch
    {
        "kind" => point.Kind.ToString(),
        "role" => point.Role.ToString(),
        "unit" => point.Unit ?? string.Join(" · ", point.StateTexts),
        "low" => point.Low ?? double.NegativeInfinity,
        "high" => point.High ?? double.NegativeInfinity,
        "fallback" => point.Fallback ?? double.NegativeInfinity,
        "owner" => project.PathOf(point.Id),
        "setpointId" => project.Find(point.SetpointId ?? default)?.Name ?? "",
        "description" => point.Description ?? "",
        "networkName" => naming?.NetworkName(project, point) ?? "",
        _ => point.Name,
    };

    private static int Compare(object? a, object? b) => (a, b) switch
    {
        (double x, double y) => x.CompareTo(y),
        (int x, int y) => x.CompareTo(y),
        _ => NaturalOrder.Names.Compare(a as string, b as string),
    };
}
