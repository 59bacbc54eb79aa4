using System.Collections.Concurrent;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Formats.Sheets;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Libraries;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.PointLists;

/// <summary>A list that was sent and read, waiting to be mapped.</summary>
public sealed record UploadedList(string Token, IReadOnlyList<UploadedSheet> Sheets, IReadOnlyList<string> Notes, IReadOnlyList<ColumnView> Columns);

/// <summary>What a column can say: its name in a mapping, and what people call it.</summary>
public sealed record ColumnView(string Key, string Label);

/// <summary>One sheet of it: its first rows, and a mapping proposed from headers and contents.</summary>
public sealed record UploadedSheet(string Name, int Rows, IReadOnlyList<string[]> First, ListMapping Proposed);

/// <summary>A sheet of an uploaded list with its mapping.</summary>
public sealed record ImportRequest(string Token, int Sheet, ListMapping Mapping, bool GoodRowsOnly = false, long? SeenRevision = null);

/// <summary>What an import would do: counts, the lines (the first 300 of each verdict), the bad cells (the first 300), and the project's revision it was worked out for.</summary>
public sealed record ImportPreview(long Revision, int Adds, int Changes, int Same, int Bad, IReadOnlyList<string> Records, IReadOnlyList<ImportLine> Lines, IReadOnlyList<BadCell> BadCells, int BadCellCount);

/// <summary>Lists that were sent, kept for an hour in memory: one a person, the newest few only.</summary>
public sealed class ImportDesk(TimeProvider clock)
{
    private const int Kept = 6;
    private readonly ConcurrentDictionary<string, (Workbook Book, string Who, DateTimeOffset At)> _lists = new();

    /// <summary>Keeps a list; answers its token.</summary>
    public string Keep(Workbook book, string who)
    {
        foreach (var mine in _lists.Where(l => l.Value.Who == who)) _lists.TryRemove(mine.Key, out _);
        foreach (var old in _lists.OrderByDescending(l => l.Value.At).Skip(Kept - 1)) _lists.TryRemove(old.Key, out _);
        string token = RecordId.New("list").Value;
        _lists[token] = (book, who, clock.GetUtcNow());
        return token;
    }

    /// <summary>A sheet that this person sent, or null when it is gone.</summary>
    public Sheet? Find(string token, int sheet, string who) =>
        _lists.TryGetValue(token, out var kept) && kept.Who == who && clock.GetUtcNow() - kept.At < TimeSpan.FromHours(1) && sheet >= 0 && sheet < kept.Book.Sheets.Count ? kept.Book.Sheets[sheet] : null;
}

internal static class ListEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/lists", async Task<Results<Ok<UploadedList>, ProblemHttpResult>> (HttpContext http, ImportDesk desk) =>
        {
            try
            {
                Workbook book = SheetReader.Read(await Uploads.Read(http));
                return TypedResults.Ok(new UploadedList(desk.Keep(book, Who(http)), [.. book.Sheets.Select(s => new UploadedSheet(s.Name, s.Rows.Count, [.. s.Rows.Take(30)], ListMapping.Propose(s)))], book.Notes, [.. ListColumns.All.Select(c => new ColumnView(c.Key, c.Label))]));
            }
            catch (FileRefusedException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapPost("/lists/preview", Results<Ok<ImportPreview>, ProblemHttpResult> (ImportRequest request, HttpContext http, ImportDesk desk, Workspace workspace, Shelf shelf) =>
        {
            if (desk.Find(request.Token, request.Sheet, Who(http)) is not { } sheet) return Gone();
            Project project = workspace.Project;
            ImportPlan plan = Plan(project, sheet, request.Mapping, shelf, Who(http));
            var lines = plan.Lines.GroupBy(l => l.Verdict).SelectMany(g => g.Take(300)).OrderBy(l => l.Row).ToList();
            return TypedResults.Ok(new ImportPreview(project.Revision, plan.Count(RowVerdict.Adds), plan.Count(RowVerdict.Changes), plan.Count(RowVerdict.Same), plan.Count(RowVerdict.Bad), plan.Counts, lines, [.. plan.BadCells.Take(300)], plan.BadCells.Count));
        }).For(Role.Engineer);
        api.MapPost("/lists/apply", Results<Ok<ChangeAnswer>, ProblemHttpResult> (ImportRequest request, HttpContext http, ImportDesk desk, Workspace workspace, Shelf shelf) =>
            desk.Find(request.Token, request.Sheet, Who(http)) is { } sheet ? Import(request, sheet, workspace, shelf, Who(http)).Now() : Gone()).For(Role.Engineer);
        api.MapPost("/lists/apply/start", Results<Ok<JobView>, ProblemHttpResult> (ImportRequest request, HttpContext http, ImportDesk desk, JobRunner jobs) =>
            desk.Find(request.Token, request.Sheet, Who(http)) is { } sheet ? TypedResults.Ok(jobs.Start(ImportJob, $"Import of ‘{sheet.Name}’", Who(http), new ImportOrder(request, sheet))) : Gone()).For(Role.Engineer);
        api.MapGet("/lists/summary", Results<Ok<IoSummary>, ProblemHttpResult> (string? by, int? spare, Workspace workspace) =>
            Enum.TryParse(by ?? "panel", ignoreCase: true, out SummaryBy groups) ? TypedResults.Ok(IoSummary.Of(workspace.Project, groups, Math.Clamp(spare ?? 20, 0, 300))) : Problems.Refused("A summary is by floor, room, panel or equipmentKind; choose one.")).For(Role.Viewer);
        api.MapGet("/lists/summary/file", Results<FileContentHttpResult, ProblemHttpResult> (string? by, int? spare, string? form, Workspace workspace) =>
        {
            if (!Enum.TryParse(by ?? "panel", ignoreCase: true, out SummaryBy groups)) return Problems.Refused("A summary is by floor, room, panel or equipmentKind; choose one.");
            Sheet sheet = IoSummary.Of(workspace.Project, groups, Math.Clamp(spare ?? 20, 0, 300)).ToSheet();
            return form == "xlsx"
                ? TypedResults.File(SheetWriter.Xlsx(sheet), "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "io-summary.xlsx")
                : TypedResults.File(SheetWriter.Csv(sheet), "text/csv; charset=utf-8", "io-summary.csv");
        }).For(Role.Viewer);
        api.MapGet("/lists/export", Results<FileContentHttpResult, ProblemHttpResult> (string scope, string? form, bool? whole, Workspace workspace) =>
        {
            if (!RecordId.IsValid(scope) || workspace.Project.Find(new RecordId(scope)) is null) return Problems.Missing("record");
            Sheet list = ListExport.Of(workspace.Project, new RecordId(scope), whole == true);
            return form == "xlsx"
                ? TypedResults.File(SheetWriter.Xlsx(list), "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "points.xlsx")
                : TypedResults.File(SheetWriter.Csv(list), "text/csv; charset=utf-8", "points.csv");
        }).For(Role.Viewer);
    }

    /// <summary>A large list that is taken as a job, with the list itself: it is kept longer than the desk keeps it.</summary>
    internal sealed record ImportOrder(ImportRequest Request, Sheet Sheet);

    /// <summary>The job that takes a list.</summary>
    internal static JobKind<ImportOrder> ImportJob { get; } = new("import", (services, who, order) =>
        Import(order.Request, order.Sheet, services.GetRequiredService<Workspace>(), services.GetRequiredService<Shelf>(), who).AsWork())
    { May = Role.Engineer };

    private static string Who(HttpContext http) => http.User.Identity!.Name!;

    private static ProblemHttpResult Gone() => Problems.Refused("This list is no longer here; lists are kept for an hour. Choose the file again.");

    private static PlannedEdit Import(ImportRequest request, Sheet sheet, Workspace workspace, Shelf shelf, string who) => new(workspace, who, report =>
    {
        if (request.SeenRevision is { } seen && seen != workspace.Project.Revision) return new PlannedEdits([], "", "The project has changed since this preview was made. Look at the new preview and apply again.");
        int rows = sheet.Rows.Count, total = rows + Math.Max(1, rows / 2);
        ImportPlan plan = Plan(workspace.Project, sheet, request.Mapping, shelf, who, row => report?.Invoke(row, total, $"Reading row {row:N0} of {rows:N0}"));
        string? refusal = plan.BadCells.Count > 0 && !request.GoodRowsOnly ? $"{plan.BadCells.Count} cells cannot be taken. Correct them, or apply the good rows only. Nothing was changed."
            : plan.Edits.Count == 0 ? "The list says nothing that is not so already. Nothing was changed." : null;
        return new PlannedEdits(plan.Edits, $"Imported ‘{sheet.Name}’: {string.Join(", ", plan.Counts)}", refusal, plan.Planned);
    });

    private static ImportPlan Plan(Project project, Sheet sheet, ListMapping mapping, Shelf shelf, string who, Action<int>? progress = null)
    {
        var templates = new Dictionary<string, Template?>(StringComparer.OrdinalIgnoreCase);
        return ListImport.Plan(project, sheet, mapping, (name, equipment, place, id, values) =>
        {
            if (!templates.TryGetValue(name, out Template? template)) templates[name] = template = shelf.Named(who, name);
            if (template is null) return ([], $"There is no template ‘{name}’ in your libraries. Name one of: {string.Join(", ", shelf.For(who).SelectMany(l => shelf.Templates(l.Id)).Take(12).Select(t => t.Name))}.");
            return PlacingWords.Place(project, template, equipment, place, id, values);
        }, progress);
    }
}
