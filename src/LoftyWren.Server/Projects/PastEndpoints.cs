using LoftyWren.Core.PointLists;
using LoftyWren.Core.Projects;
using LoftyWren.Formats.Projects;
using LoftyWren.Formats.Sheets;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Safety;
using LoftyWren.Storage;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Projects;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Projects;

/// <summary>A name for the present revision.</summary>
public sealed record SnapshotRequest(string Name);

/// <summary>Two states of the project side by side: counts, and the records that differ (the first 1000).</summary>
public sealed record DifferenceView(long From, long To, int Added, int Changed, int Removed, IReadOnlyList<RecordDifference> Records);

/// <summary>A project file against the project here, with what is wrong with the file and what would have to be left out.</summary>
public sealed record ProjectFileView(string Name, long Revision, int Records, IReadOnlyList<string> Problems, IReadOnlyList<string> LeftOut, int Added, int Changed, int Removed, bool Taken);

/// <summary>One backup of the project: its number, the revision it holds, when it was made (ms since 1970 UTC), how large it is in bytes.</summary>
public sealed record BackupLine(int Number, long Revision, long At, long Bytes);

/// <summary>The backups there are, newest first, how many are kept, how many minutes lie between them, and what went wrong last.</summary>
public sealed record BackupList(IReadOnlyList<BackupLine> Backups, int Kept, int EveryMinutes, string? Problem);

/// <summary>The project's past and its copies: snapshots, differences, restoring, the project file.</summary>
internal static class PastEndpoints
{
    private const int Shown = 1000;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/snapshots", IReadOnlyList<Snapshot> (Workspace workspace) => workspace.Store.Snapshots()).For(Role.Viewer);
        api.MapPost("/snapshots", Results<NoContent, ProblemHttpResult> (SnapshotRequest request, HttpContext http, Workspace workspace) =>
        {
            if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 120) return Problems.Refused("A snapshot's name has 1 to 120 characters.");
            workspace.Snapshot(request.Name.Trim(), Who(http));
            return TypedResults.NoContent();
        }).For(Role.Engineer);
        api.MapGet("/differences", (long from, long? to, Workspace workspace) => View(workspace, from, to)).For(Role.Viewer);
        api.MapGet("/differences/list", FileContentHttpResult (long from, long? to, Workspace workspace) =>
            Sheet(Between(workspace, from, to))).For(Role.Viewer);
        api.MapPost("/restore/{revision:long}", (long revision, HttpContext http, Workspace workspace) =>
        {
            Project then = workspace.At(revision);
            return ProjectEndpoints.Answer(workspace.Apply(now => Differences.Towards(now, then), Who(http), $"Restored revision {revision}", risky: true));
        }).For(Role.Engineer);
        api.MapGet("/backups", BackupList (Workspace workspace, BackupKeeper keeper) => ListBackups(workspace, keeper)).For(Role.Viewer);
        api.MapPost("/backups", BackupList (Workspace workspace, BackupKeeper keeper) =>
        {
            Backups.Make(workspace.Store.Database);
            return ListBackups(workspace, keeper);
        }).For(Role.Engineer);
        api.MapPost("/backups/{id:long}/restore", IResult (long id, HttpContext http, Workspace workspace) =>
        {
            if (Backups.Of(workspace.Store.Database.FilePath).FirstOrDefault(b => b.Number == id) is not { } backup) return Problems.Refused("This backup is not there any more; only the newest are kept.");
            Project then = ProjectStore.Load(backup);
            return Differences.Towards(workspace.Project, then).Count == 0 ? Problems.Refused($"The project is already as it was at revision {backup.Revision}.") : ProjectEndpoints.Answer(workspace.Apply(now => Differences.Towards(now, then), Who(http), $"Restored backup {backup.Number}, revision {backup.Revision}", risky: true));
        }).For(Role.Engineer);
        api.MapGet("/project/file", FileContentHttpResult (Workspace workspace) => TypedResults.File(ProjectFile.Write(workspace.Project), "application/zip", "project.wren")).For(Role.Viewer);
        api.MapPost("/project/file", async Task<Results<Ok<ProjectFileView>, ProblemHttpResult>> (bool? take, HttpContext http, Workspace workspace) =>
        {
            try
            {
                ProjectFile.Content content = ProjectFile.Read(await Uploads.Read(http));
                var (project, left) = ProjectFile.Salvage(content.Records);
                var differences = Differences.Between(workspace.Project, project);
                var view = new ProjectFileView(content.Name, content.Revision, content.Records.Count, [.. content.Problems.Take(200)], [.. left.Take(200)],
                    Count(differences, DifferenceKind.Added), Count(differences, DifferenceKind.Changed), Count(differences, DifferenceKind.Removed), take == true);
                if (take != true || differences.Count == 0) return TypedResults.Ok(view);
                ChangeOutcome outcome = workspace.Apply(now => Differences.Towards(now, project), Who(http), $"Took the project file ‘{content.Name}’, revision {content.Revision}", risky: true);
                return outcome.Accepted ? TypedResults.Ok(view) : Problems.Of(outcome);
            }
            catch (FileRefusedException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
    }

    private static string Who(HttpContext http) => http.User.Identity!.Name!;

    private static int Count(IReadOnlyList<RecordDifference> differences, DifferenceKind kind) => differences.Count(d => d.Kind == kind);

    private static IReadOnlyList<RecordDifference> Between(Workspace workspace, long from, long? to) => Differences.Between(workspace.At(from), to is { } end ? workspace.At(end) : workspace.Project);

    private static DifferenceView View(Workspace workspace, long from, long? to) => View(from, to ?? workspace.Project.Revision, Between(workspace, from, to));

    /// <summary>Differences as a CSV, one field a row.</summary>
    public static FileContentHttpResult Sheet(IReadOnlyList<RecordDifference> differences)
    {
        var rows = new List<string[]> { (string[])["What", "Sort", "Name", "Where", "Field", "Before", "After"] };
        foreach (RecordDifference d in differences)
        {
            string what = d.Kind.ToString().ToLowerInvariant();
            if (d.Fields.Count == 0) rows.Add([what, d.Noun, d.Name, d.Path, "", "", ""]);
            foreach (FieldDifference f in d.Fields) rows.Add([what, d.Noun, d.Name, d.Path, f.Words, f.Before ?? "", f.After ?? ""]);
        }
        return TypedResults.File(SheetWriter.Csv(new Sheet("Differences", rows)), "text/csv; charset=utf-8", "differences.csv");
    }

    /// <summary>Differences with their counts, the first of them in full.</summary>
    public static DifferenceView View(long from, long to, IReadOnlyList<RecordDifference> differences)
    {
        return new DifferenceView(from, to, Count(differences, DifferenceKind.Added), Count(differences, DifferenceKind.Changed), Count(differences, DifferenceKind.Removed), [.. differences.Take(Shown)]);
    }

    private static BackupList ListBackups(Workspace workspace, BackupKeeper keeper) =>
        new([.. Backups.Of(workspace.Store.Database.FilePath).Select(b => new BackupLine(b.Number, b.Revision, b.At.ToUnixTimeMilliseconds(), new FileInfo(b.Path).Length))], Backups.Kept, (int)BackupKeeper.Every.TotalMinutes, keeper.Problem);
}
