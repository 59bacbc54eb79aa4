using LoftyWren.Core.Fields;
using LoftyWren.Core.Projects;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Records;

/// <summary>Texts for fields of records, and what the change is called; named by what it does when null.</summary>
public sealed record CellsRequest(IReadOnlyList<CellEdit> Cells, string? Label = null);

/// <summary>What some cells would change, in how many records and how many lines of words (the first 500).</summary>
public sealed record CellsView(int Records, int Count, IReadOnlyList<string> Lines);

/// <summary>Texts of a grid, a form or the clipboard, read into fields.</summary>
internal static class CellEndpoints
{
    private const int Shown = 500;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/cells/preview", Results<Ok<CellsView>, ProblemHttpResult> (CellsRequest request, Workspace workspace) =>
        {
            CellPlan plan = Plan(request, workspace);
            if (plan.Refusals.Count > 0) return Refused(plan);
            var lines = plan.Lines.ToList();
            return TypedResults.Ok(new CellsView(plan.Edits.Count, lines.Count, [.. lines.Take(Shown)]));
        }).For(Role.Engineer);
        api.MapPost("/cells", Results<Ok<ChangeAnswer>, ProblemHttpResult> (CellsRequest request, HttpContext http, Workspace workspace) =>
        {
            if (request.Label is { Length: > 200 }) return Problems.Refused("A label has at most 200 characters.");
            CellPlan plan = Plan(request, workspace);
            if (plan.Refusals.Count > 0) return Refused(plan);
            return plan.Edits.Count == 0 ? TypedResults.Ok(new ChangeAnswer(workspace.Project.Revision, "", [])) : ProjectEndpoints.Answer(workspace.Apply(plan.Edits, http.User.Identity!.Name!, request.Label));
        }).For(Role.Engineer);
    }

    private static CellPlan Plan(CellsRequest request, Workspace workspace) => CellEdits.Plan(workspace.Project, request.Cells, workspace.Store.RecordAt);

    private static ProblemHttpResult Refused(CellPlan plan) => Problems.Of(new ChangeOutcome(null, null, [.. plan.Refusals.Take(50)], []));
}
