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

/// <summary>Some rows of a points grid, and how many there are in all.</summary>
public sealed record PointPage(int Total, int Offset, IReadOnlyList<PointRow> Rows, string? FilterError);

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
    private readonly LinkedList<((long Revision, string Question) Key, RecordId[] Ids)> _lists = [];

    /// <summary>The ids of all points below a record that hold every word and match the tag filter, sorted by a column (with − in front: downwards), else place by place.</summary>
    /// <exception cref="TagSyntaxException">The filter cannot be read.</exception>
    public RecordId[] Ids(RecordId scope, string? words, string? filter, string? sort)
    {
        Project project = workspace.Project;
        var key = (project.Revision, $"{scope}\n{words}\n{filter}\n{sort}");
        lock (_gate)
        {
            if (_lists.FirstOrDefault(l => l.Key == key) is { Ids: not null } known) return known.Ids;
        }
        Filter? parsed = string.IsNullOrWhiteSpace(filter) ? null : Filter.Parse(filter);
        string[] all = (words ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries);
        TagIndex tags = workspace.Tags;
        IEnumerable<Point> points = PlaceEndpoints.PointsUnder(project, scope);
        if (parsed is not null) points = points.Where(p => parsed.Matches(tags[p.Id], tags.Resolve));
        if (all.Length > 0)
        {
            points = points.Where(p =>
            {
                string text = $"{project.PathOf(p.Id)} {p.Name} {p.Kind} {p.Role} {p.Unit} {p.Description}".ToLowerInvariant();
                return all.All(w => text.Contains(w, StringComparison.Ordinal));
            });
        }
        if (!string.IsNullOrEmpty(sort))
        {
            string column = sort.TrimStart('-');
            points = sort[0] == '-' ? points.OrderByDescending(p => Cell(project, p, column), Comparer<object>.Create(Compare)) : points.OrderBy(p => Cell(project, p, column), Comparer<object>.Create(Compare));
        }
        RecordId[] ids = [.. points.Select(p => p.Id)];
        lock (_gate)
        {
            _lists.AddFirst((key, ids));
            if (_lists.Count > Kept) _lists.RemoveLast();
        }
        return ids;
    }

    private static object Cell(Project project, Point point, string column) => column switch
    {
        "kind" => point.Kind.ToString(),
        "role" => point.Role.ToString(),
        "unit" => point.Unit ?? string.Join(" · ", point.StateTexts),
        "low" => point.Low ?? double.NegativeInfinity,
        "high" => point.High ?? double.NegativeInfinity,
        "fallback" => point.Fallback ?? double.NegativeInfinity,
        "owner" => project.PathOf(point.Id),
        _ => point.Name,
    };

    private static int Compare(object? a, object? b) => a is double x && b is double y ? x.CompareTo(y) : string.Compare(a as string, b as string, StringComparison.OrdinalIgnoreCase);
}

internal static class GridEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/points", Results<Ok<PointPage>, ProblemHttpResult> (string scope, string? words, string? filter, string? sort, int? offset, int? count, Workspace workspace, PointGrid grid) =>
        {
            if (!RecordId.IsValid(scope) || workspace.Project.Find(new RecordId(scope)) is null) return Problems.Missing("record");
            try
            {
                RecordId[] ids = grid.Ids(new RecordId(scope), words, filter, sort);
                int from = Math.Clamp(offset ?? 0, 0, ids.Length);
                return TypedResults.Ok(new PointPage(ids.Length, from, [.. ids.Skip(from).Take(Math.Clamp(count ?? 200, 1, 1000)).Select(id => workspace.Project.Find<Point>(id)).OfType<Point>().Select(p => PlaceEndpoints.Row(workspace, p))], null));
            }
            catch (TagSyntaxException e)
            {
                return TypedResults.Ok(new PointPage(0, 0, [], $"Character {e.At + 1}: {e.Message}"));
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

    private static (List<(Point Before, Point After)> Changed, string? Refusal) Replaced(ReplaceRequest request, Workspace workspace, PointGrid grid)
    {
        Project project = workspace.Project;
        if (string.IsNullOrEmpty(request.Find)) return ([], "Type what to find.");
        if (!RecordId.IsValid(request.Scope) || project.Find(new RecordId(request.Scope)) is null) return ([], "The place of this grid is no longer in the project.");
        if (request.Column is not ("name" or "description")) return ([], "Texts can be replaced in names and descriptions.");
        try
        {
            var changed = new List<(Point, Point)>();
            foreach (RecordId id in grid.Ids(new RecordId(request.Scope), request.Words, request.Filter, null))
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
