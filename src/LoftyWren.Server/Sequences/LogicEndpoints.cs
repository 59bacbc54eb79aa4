using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Formats.Logic;
using LoftyWren.Formats.Sheets;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>The logic of a sequence in the forms of IEC 61131: taken away as a diagram or as text, brought in as a diagram.</summary>
internal static class LogicEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/sequences/{id}/logic.xml", Results<FileContentHttpResult, ProblemHttpResult> (string id, Workspace workspace, TimeProvider clock) =>
            Find(workspace, id) is { } sequence ? TypedResults.File(LogicXml.Write(workspace.Project, sequence, clock.GetUtcNow()), "application/xml", $"{sequence.Id}.xml") : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapGet("/sequences/{id}/logic.st", Results<FileContentHttpResult, ProblemHttpResult> (string id, Workspace workspace) =>
            Find(workspace, id) is { } sequence ? TypedResults.File(System.Text.Encoding.UTF8.GetBytes(StructuredText.Write(workspace.Project, sequence)), "text/plain; charset=utf-8", $"{sequence.Id}.st") : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapPost("/sequences/{id}/logic/read", async Task<Results<Ok<LogicReading>, ProblemHttpResult>> (string id, Workspace workspace, HttpContext http) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            try
            {
                string text = System.Text.Encoding.UTF8.GetString(await Uploads.Read(http)).TrimStart('\uFEFF');
                return TypedResults.Ok(LogicXml.Read(workspace.Project, sequence, text, http.RequestAborted));
            }
            catch (Exception e) when (e is FormatException or FileRefusedException)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
    }

    private static Sequence? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Sequence>(new RecordId(id)) : null;
}
