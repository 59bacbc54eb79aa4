using LoftyWren.Core.Fields;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Texts;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.PointLists;

/// <summary>Some rows of a grid, how many there are in all (while counting: at least), and the groups they stand in.</summary>
public sealed record GridPage(int Total, bool Counting, int Offset, IReadOnlyList<GridRow> Rows, IReadOnlyList<RowGroup> Groups, string? FilterError);

/// <summary>One row of a grid: a record and what it says in each column of its kind.</summary>
public sealed record GridRow(RecordId Id, string Name, long Revision, RecordId? OwnerId, string Owner, string Path, IReadOnlyList<string> Cells, int Findings, string? WorstFinding);

/// <summary>A text to replace in one field of all records of a grid.</summary>
public sealed record ReplaceRequest(string Scope, string? Words, string? Filter, string Column, string Find, string Replace);

/// <summary>What a replacement changes (the first 200), or has changed.</summary>
public sealed record ReplaceView(int Count, IReadOnlyList<ReplacedCell> Cells);

/// <summary>One cell before and after.</summary>
public sealed record ReplacedCell(string Name, string Path, string Before, string After);

/// <summary>The records of a grid in order. The order is worked out once for each question and revision; pages are then cut from it.</summary>
public sealed class RecordGrid(Workspace workspace)
{
    private const int Kept = 12;

    // A few pages are counted sooner than asked for twice.
    private const int PagesAhead = 5;
    private readonly Lock _gate = new();
    private readonly LinkedList<((long Revision, string Question) Key, (RecordId[] Ids, IReadOnlyList<RowGroup> Groups) List)> _lists = [];

    /// <summary>The first records below another, place by place, and some pages more, without looking at the rest; null when that is all, or when the whole order is known already.</summary>
    public RecordId[]? First(RecordKind kind, RecordId scope, int count)
    {
        lock (_gate)
        {
            if (_lists.Any(l => l.Key == Key(kind, scope, null, null, null, null))) return null;
        }
        RecordId[] ids = [.. RecordOrder.Under(workspace.Project, scope, kind).Take((count * PagesAhead) + 1).Select(p => p.Id)];
        return ids.Length > count * PagesAhead ? ids : null;
    }

    /// <summary>The ids of all records below another that hold every word and match the tag filter, in groups, sorted by a field (with − in front: downwards), else place by place.</summary>
    /// <exception cref="SyntaxException">The filter cannot be read.</exception>
    public (RecordId[] Ids, IReadOnlyList<RowGroup> Groups) Ids(RecordKind kind, RecordId scope, string? words, string? filter, string? sort, string? group = null)
    {
        Project project = workspace.Project;
        var key = Key(kind, scope, words, filter, sort, group);
        lock (_gate)
        {
            if (_lists.FirstOrDefault(l => l.Key == key) is { List.Ids: not null } known) return known.List;
        }
        Filter? parsed = string.IsNullOrWhiteSpace(filter) ? null : Filter.Parse(filter);
        string[] all = (words ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries);
        TagIndex tags = workspace.Tags;
        IEnumerable<ProjectRecord> records = RecordOrder.Under(project, scope, kind);
        if (parsed is not null) records = records.Where(r => parsed.Matches(tags[r.Id], tags.Resolve));
        if (all.Length > 0)
        {
            Field[] said = [.. kind.Fields.Where(f => f.Is(FieldUses.Grid) && !f.IsShown)];
            records = records.Where(r =>
            {
                string text = $"{project.PathOf(r.Id)} {r.Name} {string.Join(' ', said.Select(f => f.Say(project, r)))}".ToLowerInvariant();
                return all.All(w => text.Contains(w, StringComparison.Ordinal));
            });
        }
        var list = RecordOrder.Sort(project, kind, records, sort, group);
        lock (_gate)
        {
            _lists.AddFirst((key, list));
            if (_lists.Count > Kept) _lists.RemoveLast();
        }
        return list;
    }

    private (long, string) Key(RecordKind kind, RecordId scope, string? words, string? filter, string? sort, string? group) => (workspace.Project.Revision, $"{kind.Key}\n{scope}\n{words}\n{filter}\n{sort}\n{group}");
}

internal static class GridEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/grid/{key}", Results<Ok<GridPage>, ProblemHttpResult> (string key, string scope, string? words, string? filter, string? sort, string? group, int? offset, int? count, Workspace workspace, RecordGrid grid) =>
        {
            if (RecordKinds.Find(key) is not { } kind) return Problems.Missing("kind of record");
            if (!RecordId.IsValid(scope) || workspace.Project.Find(new RecordId(scope)) is null) return Problems.Missing("record");
            try
            {
                if (!string.IsNullOrEmpty(group) && kind.Groups.All(g => g.Key != group)) return Problems.Refused($"{char.ToUpperInvariant(kind.Nouns[0].Plural[0])}{kind.Nouns[0].Plural[1..]} are grouped by {string.Join(", ", kind.Groups.Select(g => g.Key))}; ‘{group}’ is none of them.");
                int most = Math.Clamp(count ?? 200, 1, 1000);
                // The first rows come before the rest is counted: what is seen at once must not wait for what is not.
                bool isPlain = string.IsNullOrWhiteSpace(words + filter + sort + group) && offset is null or 0;
                if (isPlain && grid.First(kind, new RecordId(scope), most) is { } some) return TypedResults.Ok(new GridPage(some.Length, true, 0, Rows(workspace, kind, some.Take(most)), [], null));
                var (ids, groups) = grid.Ids(kind, new RecordId(scope), words, filter, sort, group);
                int from = Math.Clamp(offset ?? 0, 0, ids.Length);
                return TypedResults.Ok(new GridPage(ids.Length, false, from, Rows(workspace, kind, ids.Skip(from).Take(most)), groups, null));
            }
            catch (SyntaxException e)
            {
                return TypedResults.Ok(new GridPage(0, false, 0, [], [], $"Character {e.At + 1}: {e.Message}"));
            }
        }).For(Role.Viewer);
        api.MapPost("/grid/{key}/replace/preview", Results<Ok<ReplaceView>, ProblemHttpResult> (string key, ReplaceRequest request, Workspace workspace, RecordGrid grid) =>
        {
            var (changed, field, refusal) = Replaced(key, request, workspace, grid);
            return refusal is not null ? Problems.Refused(refusal) : TypedResults.Ok(View(workspace.Project, field!, changed));
        }).For(Role.Engineer);
        api.MapPost("/grid/{key}/replace", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string key, ReplaceRequest request, HttpContext http, Workspace workspace, RecordGrid grid) =>
        {
            var (changed, _, refusal) = Replaced(key, request, workspace, grid);
            if (refusal is not null) return Problems.Refused(refusal);
            if (changed.Count == 0) return Problems.Refused($"‘{request.Find}’ is nowhere in this column. Nothing was changed.");
            return ProjectEndpoints.Answer(workspace.Apply([.. changed.Select(c => Edit.Of(c.After, workspace.Project.FindEntry(c.After.Id)!.Revision))], http.User.Identity!.Name!, $"Replaced ‘{request.Find}’ by ‘{request.Replace}’ in {ChangeLabel.Count(changed.Count, changed[0].After.Noun)}"));
        }).For(Role.Engineer);
    }

    private static IReadOnlyList<GridRow> Rows(Workspace workspace, RecordKind kind, IEnumerable<RecordId> ids)
    {
        Project project = workspace.Project;
        Field[] columns = [.. kind.Offered(FieldUses.Grid)];
        return [.. ids.Select(project.FindEntry).OfType<Entry>().Select(Row)];

        GridRow Row(Entry entry)
        {
            ProjectRecord record = entry.Record;
            var findings = workspace.Findings.On(record.Id);
            return new GridRow(record.Id, record.Name, entry.Revision, record.ParentId, record.ParentId is { } owner ? project.Find(owner)?.Name ?? "" : "", project.PathOf(record.Id),
                [.. columns.Select(c => c.SayInColumn(project, record))], findings.Count, findings.OrderByDescending(f => f.Severity).FirstOrDefault()?.What);
        }
    }

    private static (List<(ProjectRecord Before, ProjectRecord After)> Changed, Field? Field, string? Refusal) Replaced(string key, ReplaceRequest request, Workspace workspace, RecordGrid grid)
    {
        Project project = workspace.Project;
        if (RecordKinds.Find(key) is not { } kind) return ([], null, "There is no such kind of record.");
        if (string.IsNullOrEmpty(request.Find)) return ([], null, "Type what to find.");
        if (!RecordId.IsValid(request.Scope) || project.Find(new RecordId(request.Scope)) is null) return ([], null, "The place of this grid is no longer in the project.");
        var offered = kind.Offered(FieldUses.Replace).ToList();
        if (offered.FirstOrDefault(f => f.Key == request.Column) is not { } field) return ([], null, $"Texts can be replaced in {string.Join(" and ", offered.Select(f => $"{f.Label.ToLowerInvariant()}s"))}.");
        try
        {
            var changed = new List<(ProjectRecord, ProjectRecord)>();
            foreach (RecordId id in grid.Ids(kind, new RecordId(request.Scope), request.Words, request.Filter, null).Ids)
            {
                if (project.Find(id) is not { } record) continue;
                string before = field.Say(project, record), after = before.Replace(request.Find, request.Replace ?? "", StringComparison.OrdinalIgnoreCase);
                if (before == after) continue;
                FieldReading reading = field.Read(project, record, after);
                if (reading.Record is not { } now) return ([], null, reading.Refusal);
                changed.Add((record, now));
            }
            return (changed, field, null);
        }
        catch (SyntaxException e)
        {
            return ([], null, $"The filter cannot be read at character {e.At + 1}: {e.Message}");
        }
    }

    private static ReplaceView View(Project project, Field field, List<(ProjectRecord Before, ProjectRecord After)> changed) =>
        new(changed.Count, [.. changed.Take(200).Select(c => new ReplacedCell(c.Before.Name, project.PathOf(c.Before.Id), field.Say(project, c.Before), field.Say(project, c.After)))]);
}
