using LoftyWren.Core.Alarms;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Explanations;

internal static class WhyEndpoints
{
    public static void Map(RouteGroupBuilder api) =>
        api.MapGet("/why/{id}", Results<Ok<Because>, ProblemHttpResult> (string id, Workspace workspace, SiteHost site) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id)) return Problems.Missing("record");
            (bool, bool) Installed(RecordId controller, RecordId point) => site.Ask(s => s.Controllers.TryGetValue(controller, out var c) && c.Engine is { } e ? (true, e.IsHome(point)) : (false, false));
            switch (project.Find(new RecordId(id)))
            {
                case Point point:
                    return TypedResults.Ok(site.Ask(_ => site.HomeOf(point.Id)?.Engine?.Explain(point.Id)) ?? NoValue.Explain(project, point, c => Installed(c, point.Id)));
                case AlarmRule rule:
                    return TypedResults.Ok(site.Ask(_ => site.HomeOf(rule.PointId)?.Engine?.ExplainAlarm(rule.Id)) ?? NoValue.ExplainAlarm(project, rule, c => Installed(c, rule.PointId)));
                default:
                    return Problems.Refused("Why? explains points and alarms.");
            }
        }).For(Role.Viewer);
}
