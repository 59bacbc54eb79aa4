using LoftyWren.Core.Alarms;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Supervision;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.History;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Alarms;

/// <summary>An alarm that came: since when, the value then and now, the limit, advice, whether it is still so, who took note.</summary>
public sealed record AlarmView(long Id, RecordId AlarmId, RecordId PointId, string Name, string Point, string Path, EventState State, long Since, string Value, string? Limit, string? Now, bool StillSo, long? Until, string? Advice, string? AcknowledgedBy, long? AcknowledgedAt, string? Note);

/// <summary>An alarm rule in a list, with its state on the site; null when it is not installed.</summary>
public sealed record AlarmRuleLine(AlarmRule Rule, long Revision, string Point, string Path, string? Unit, string? DeadbandUnit, EventState? State);

/// <summary>A note that goes with an acknowledgement.</summary>
public sealed record AcknowledgeRequest(string? Note);

internal static class AlarmEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/alarms", (bool? all, Workspace workspace, ILink site, HistoryStore history) => history.Alarms(all ?? false).Select(o => View(workspace.Project, site, o)).ToList()).For(Role.Viewer);
        api.MapPost("/alarms/{id:long}/acknowledge", Results<NoContent, ProblemHttpResult> (long id, AcknowledgeRequest request, HttpContext http, Workspace workspace, ILink site, HistoryStore history, Live.Broadcaster broadcaster) =>
        {
            if (request.Note is { Length: > 500 }) return Problems.Refused("A note has at most 500 characters.");
            string who = http.User.Identity!.Name!;
            if (!history.Acknowledge(id, who, site.Pulse().Now, string.IsNullOrWhiteSpace(request.Note) ? null : request.Note.Trim())) return Problems.Refused("Somebody has acknowledged this alarm already.");
            AlarmOccurrence? occurrence = history.Alarms(true).FirstOrDefault(a => a.Id == id);
            site.Trail(who, $"Acknowledged ‘{occurrence?.Name}’{(string.IsNullOrWhiteSpace(request.Note) ? "" : $": {request.Note.Trim()}")}", occurrence?.AlarmId);
            broadcaster.TellEvents();
            return TypedResults.NoContent();
        }).For(Role.Operator);
        api.MapGet("/alarm-rules", (Workspace workspace, ILink site) =>
        {
            var states = site.AlarmStates();
            Project project = workspace.Project;
            return project.All<AlarmRule>().Select(rule =>
            {
                Point? point = project.Find<Point>(rule.PointId);
                EventState? state = states.TryGetValue(rule.Id, out EventState known) ? known : null;
                return new AlarmRuleLine(rule, project.FindEntry(rule.Id)!.Revision, point?.Name ?? "", project.PathOf(rule.PointId), point?.Unit, AlarmRule.AsKind.Field("deadband")!.UnitOn(project, rule), state);
            }).OrderBy(r => r.Rule.Name, NaturalOrder.Names).ThenBy(r => r.Path, NaturalOrder.Names).ToList();
        }).For(Role.Viewer);
    }

    private static AlarmView View(Project project, ILink site, AlarmOccurrence o)
    {
        Point? point = project.Find<Point>(o.PointId);
        string Say(double value) => point is null ? ValueText.Of(value, PointKind.Analog, null, []) : ValueText.Of(value, point.Kind, point.Unit, point.StateTexts);
        string? now = site.Read(o.PointId) is { } reading && point is not null ? ValueText.Of(reading, point.Kind, point.Unit, point.StateTexts) : null;
        return new AlarmView(o.Id, o.AlarmId, o.PointId, o.Name, point?.Name ?? "a point that was removed", project.PathOf(o.PointId), o.State, o.Since, o.Value is { } v ? Say(v) : "no value", o.Limit is { } l ? Say(l) : null, now, o.Until is null, o.Until,
            project.Find<AlarmRule>(o.AlarmId)?.Advice, o.AcknowledgedBy, o.AcknowledgedAt, o.Note);
    }
}
