using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Places;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.PointLists;

/// <summary>Some rows of a points grid, how many there are in all (while counting: at least), and the groups they stand in.</summary>
public sealed record PointPage(int Total, bool Counting, int Offset, IReadOnlyList<PointRow> Rows, IReadOnlyList<PointGroup> Groups, string? FilterError);

/// <summary>A text to replace in one column of all points of a grid.</summary>
public sealed record ReplaceRequest(string Scope, string? Words, string? Filter, string Column, string Find, string Replace);

/// <summary>What a replacement changes (the first 200), or has changed.</summary>
public sealed record ReplaceView(int Count, IReadOnlyList<ReplacedCell> Cells);

/// <summary>One cell before and after.</summary>
public sealed record ReplacedCell(string Name, string Path, string Before, string After);

/// <summary>The points of a grid in order. The order is worked out once for each question and revision; pages are then cut from it.</summary>
public sealed class PointGrid(Workspace workspace)
{
    private const int Kept = 12;
    private readonly Lock _gate = new();
    private readonly LinkedList<((long Revision, string Question) Key, (RecordId[] Ids, IReadOnlyList<PointGroup> Groups) List)> _lists = [];

    /// <summary>The first points below a record, place by place, without looking at the rest; null when that is all, or when the whole order is known already.</summary>
    public RecordId[]? First(RecordId scope, int count)
    {
        lock (_gate)
        {
            if (_lists.Any(l => l.Key == Key(scope, null, null, null, null))) return null;
        }
        RecordId[] ids = [.. PointOrder.Under(workspace.Project, scope).Take(count + 1).Select(p => p.Id)];
        return ids.Length > count ? ids : null;
    }

    /// <summary>The ids of all points below a record that hold every word and match the tag filter, in groups, sorted by a column (with − in front: downwards), else place by place.</summary>
    /// <exception cref="TagSyntaxException">The filter cannot be read.</exception>
    public (RecordId[] Ids, IReadOnlyList<PointGroup> Groups) Ids(RecordId scope, string? words, string? filter, string? sort, string? group = null)
    {
        Project project = workspace.Project;
        var key = Key(scope, words, filter, sort, group);
        lock (_gate)
        {
            if (_lists.FirstOrDefault(l => l.Key == key) is { List.Ids: not null } known) return known.List;
        }
        Filter? parsed = string.IsNullOrWhiteSpace(filter) ? null : Filter.Parse(filter);
        string[] all = (words ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries);
        TagIndex tags = workspace.Tags;
        IEnumerable<Point> points = PointOrder.Under(project, scope);
        if (parsed is not null) points = points.Where(p => parsed.Matches(tags[p.Id], tags.Resolve));
        if (all.Length > 0)
        {
            points = points.Where(p =>
            {
                string text = $"{project.PathOf(p.Id)} {p.Name} {p.Kind} {p.Role} {p.Unit} {p.Description}".ToLowerInvariant();
                return all.All(w => text.Contains(w, StringComparison.Ordinal));
            });
        }
        var list = PointOrder.Sort(project, points, sort, group, workspace.Findings.Naming);
        lock (_gate)
        {
            _lists.AddFirst((key, list));
            if (_lists.Count > Kept) _lists.RemoveLast();
        }
        return list;
    }

    private (long, string) Key(RecordId scope, string? words, string? filter, string? sort, string? group) => (workspace.Project.Revision, $"{scope}\n{words}\n{filter}\n{sort}\n{group}");
}

internal static class GridEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/points", Results<Ok<PointPage>, ProblemHttpResult> (string scope, string? words, string? filter, string? sort, string? group, int? offset, int? count, Workspace workspace, PointGrid grid) =>
        {
            if (!RecordId.IsValid(scope) || workspace.Project.Find(new RecordId(scope)) is null) return Problems.Missing("record");
            try
            {
                if (!string.IsNullOrEmpty(group) && !PointOrder.Groups.Contains(group)) return Problems.Refused($"Points are grouped by {string.Join(", ", PointOrder.Groups)}; ‘{group}’ is none of them.");
                int most = Math.Clamp(count ?? 200, 1, 1000);
                // The first rows come before the rest is counted: what is seen at once must not wait for what is not.
                bool isPlain = string.IsNullOrWhiteSpace(words + filter + sort + group) && offset is null or 0;
                if (isPlain && grid.First(new RecordId(scope), most) is { } some) return TypedResults.Ok(new PointPage(some.Length, true, 0, Rows(workspace, some.Take(most)), [], null));
                var (ids, groups) = grid.Ids(new RecordId(scope), words, filter, sort, group);
                int from = Math.Clamp(offset ?? 0, 0, ids.Length);
                return TypedResults.Ok(new PointPage(ids.Length, false, from, Rows(workspace, ids.Skip(from).Take(most)), groups, null));
            }
            catch (TagSyntaxException e)
            {
                return TypedResults.Ok(new PointPage(0, false, 0, [], [], $"Character {e.At + 1}: {e.Message}"));
            }
        }).For(Role.Viewer);
        api.MapPost("/points/replace/preview", Results<Ok<ReplaceView>, ProblemHttpResult> (ReplaceRequest request, Workspace workspace, PointGrid grid) =>
        {
            var (changed, refusal) = Replaced(request, workspace, grid);
            return refusal is not null ? Problems.Refused(refusal) : TypedResults.Ok(View(workspace.Project, request.Column, changed));
        }).For(Role.Engineer);
        api.MapPost("/points/replace", Results<Ok<ChangeAnswer>, ProblemHttpResult> (ReplaceRequest request, HttpContext http, Workspace workspace, PointGrid grid) =>
        {
            var (changed, refusal) = Replaced(request, workspace, grid);
            if (refusal is not null) return Problems.Refused(refusal);
            if (changed.Count == 0) return Problems.Refused($"‘{request.Find}’ is nowhere in this column. Nothing was changed.");
            return ProjectEndpoints.Answer(workspace.Apply([.. changed.Select(c => Edit.Of(c.After, workspace.Project.FindEntry(c.After.Id)!.Revision))], http.User.Identity!.Name!, $"Replaced ‘{request.Find}’ by ‘{request.Replace}’ in {changed.Count} points"));
        }).For(Role.Engineer);
    }

    private static IReadOnlyList<PointRow> Rows(Workspace workspace, IEnumerable<RecordId> ids) => [.. ids.Select(id => workspace.Project.Find<Point>(id)).OfType<Point>().Select(p => PlaceEndpoints.Row(workspace, p))];

    private static (List<(Point Before, Point After)> Changed, string? Refusal) Replaced(ReplaceRequest request, Workspace workspace, PointGrid grid)
    {
        Project project = workspace.Project;
        if (string.IsNullOrEmpty(request.Find)) return ([], "Type what to find.");
        if (!RecordId.IsValid(request.Scope) || project.Find(new RecordId(request.Scope)) is null) return ([], "The place of this grid is no longer in the project.");
        if (request.Column is not ("name" or "description")) return ([], "Texts can be replaced in names and descriptions.");
        try
        {
            var changed = new List<(Point, Point)>();
            foreach (RecordId id in grid.Ids(new RecordId(request.Scope), request.Words, request.Filter, null).Ids)
            {
                if (project.Find<Point>(id) is not { } point) continue;
                string before = Text(point, request.Column), after = before.Replace(request.Find, request.Replace ?? "", StringComparison.OrdinalIgnoreCase);
                if (before != after) changed.Add((point, request.Column == "name" ? point with { Name = after.Trim() } : point with { Description = after.Length == 0 ? null : after }));
            }
            return (changed, null);
        }
        catch (TagSyntaxException e)
        {
            return ([], $"The filter cannot be read at character {e.At + 1}: {e.Message}");
        }
    }

    private static string Text(Point point, string column) => column == "name" ? point.Name : point.Description ?? "";

    private static ReplaceView View(Project project, string column, List<(Point Before, Point After)> changed) =>
        new(changed.Count, [.. changed.Take(200).Select(c => new ReplacedCell(c.Before.Name, project.PathOf(c.Before.Id), Text(c.Before, column), Text(c.After, column)))]);
}
