using LoftyWren.Core.Projects;
using LoftyWren.Server.Accounts;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Projects;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Projects;

/// <summary>A project as the list shows it. Records, revision and findings are known of open ones.</summary>
public sealed record ProjectLine(string Id, string Name, string Address, string? SiteName, bool IsThis, bool IsOpen, bool IsArchived, int? Records, long? Revision, int? Findings, long? MadeAt, string? MadeBy, string? CopyOf);

/// <summary>A project to make: empty, or a copy of one.</summary>
public sealed record NewProject(string Name, string? CopyOf = null);

/// <summary>Where a new project is.</summary>
public sealed record MadeProject(string Id, string Address);

/// <summary>A name to give a project.</summary>
public sealed record ProjectName(string Name);

/// <summary>The projects of the installation: list, make, copy, archive; and each day's copies.</summary>
internal static class ProjectListEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/projects", (HttpContext http, ProjectDirectory projects) => Lines(projects, projects.Of(http))).For(Role.Viewer);
        api.MapPost("/projects", async Task<Results<Ok<MadeProject>, ProblemHttpResult>> (NewProject request, HttpContext http, ProjectDirectory projects) =>
        {
            OpenProject? from = null;
            if (request.CopyOf is { } id && (from = await projects.Open(id)) is null) return Problems.Refused("The project to copy is not there, or is archived. Bring it back first.");
            var (made, refusal) = projects.Make(request.Name, http.User.Identity!.Name!, from);
            return made is null ? Problems.Refused(refusal!) : TypedResults.Ok(new MadeProject(made, Address(made)));
        }).For(Role.Engineer);
        api.MapPost("/projects/{id}/name", Results<NoContent, ProblemHttpResult> (string id, ProjectName request, ProjectDirectory projects) =>
        {
            string name = request.Name?.Trim() ?? "";
            if (name.Length is 0 or > 80 || name.Any(char.IsControl)) return Problems.Refused("A project's name has 1 to 80 characters, in one line.");
            return projects.List.Rename(id, name) ? TypedResults.NoContent() : Problems.Refused($"The name ‘{name}’ is taken, or this project is called after its site.");
        }).For(Role.Engineer);
        api.MapPost("/projects/{id}/archive", async Task<Results<NoContent, ProblemHttpResult>> (string id, HttpContext http, ProjectDirectory projects) =>
            await projects.Archive(id, projects.Of(http)) is { } refusal ? Problems.Refused(refusal) : TypedResults.NoContent()).For(Role.Engineer);
        api.MapPost("/projects/{id}/restore", Results<NoContent, ProblemHttpResult> (string id, ProjectDirectory projects) =>
            projects.List.Archive(id, null) ? TypedResults.NoContent() : Problems.Refused("This project is not in the list.")).For(Role.Engineer);
        api.MapGet("/projects/{id}/differences", async Task<Results<Ok<DifferenceView>, ProblemHttpResult>> (string id, Workspace workspace, ProjectDirectory projects) =>
            await Between(projects, id, workspace) is { } differences ? TypedResults.Ok(PastEndpoints.View(differences.Revision, workspace.Project.Revision, differences.Records)) : Problems.Missing("project")).For(Role.Viewer);
        api.MapGet("/projects/{id}/differences/list", async Task<Results<FileContentHttpResult, ProblemHttpResult>> (string id, Workspace workspace, ProjectDirectory projects) =>
            await Between(projects, id, workspace) is { } differences ? PastEndpoints.Sheet(differences.Records) : Problems.Missing("project")).For(Role.Viewer);
        api.MapGet("/daily-copies", (DailyCopies copies) => copies.View()).For(Role.Engineer);
        api.MapPost("/daily-copies", Results<Ok<DailyCopyView>, ProblemHttpResult> (DailyCopySettings settings, DailyCopies copies) =>
            copies.Set(settings) is { } refusal ? Problems.Refused(refusal) : TypedResults.Ok(copies.View())).For(Role.Administrator);
    }

    private static string Address(string id) => id == ProjectDirectory.First ? "/" : $"/p/{id}/";

    private static async Task<(long Revision, IReadOnlyList<RecordDifference> Records)?> Between(ProjectDirectory projects, string id, Workspace workspace)
    {
        if (await projects.Open(id) is not { } other) return null;
        Project theirs = other.Get<Workspace>().Project;
        return (theirs.Revision, Differences.Between(Alignment.Onto(theirs, workspace.Project), workspace.Project));
    }

    private static List<ProjectLine> Lines(ProjectDirectory projects, OpenProject here)
    {
        var open = projects.AllOpen.ToDictionary(p => p.Id);
        string main = projects.Main.Get<Workspace>().Project.Site?.Name ?? "New project";
        ProjectLine Line(ListedProject listed)
        {
            var workspace = open.GetValueOrDefault(listed.Id)?.Get<Workspace>();
            return new ProjectLine(listed.Id, listed.Name, Address(listed.Id), workspace?.Project.Site?.Name, listed.Id == here.Id, workspace is not null, listed.ArchivedAt is not null,
                workspace?.Project.Count, workspace?.Project.Revision, workspace?.Findings.Count, listed.MadeAt == 0 ? null : listed.MadeAt, listed.MadeBy.Length == 0 ? null : listed.MadeBy,
                listed.CopyOf == ProjectDirectory.First ? main : listed.CopyOf is { } of ? projects.List.Find(of)?.Name ?? of : null);
        }
        return [Line(new ListedProject(ProjectDirectory.First, main, 0, "", null, null)), .. projects.List.All().Select(Line)];
    }
}
