using LoftyWren.Core.Alarms;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Supervision;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Explanations;

internal static class WhyEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/why-not/{id}", Results<Ok<Because>, ProblemHttpResult> (string id, TestCondition condition, Workspace workspace, ILink site) =>
        {
            if (!RecordId.IsValid(id) || workspace.Project.Find<Point>(new RecordId(id)) is not { } point) return Problems.Missing("point");
            if (point.Role == PointRole.Sensor) return Problems.Refused($"‘{point.Name}’ is measured, not commanded: nothing decides what it is. Ask about an output.");
            return site.WhyNot(point.Id, condition) is { } because ? TypedResults.Ok(because) : Problems.Refused($"‘{point.Name}’ is not installed on the site, so nothing can be tried. Send its controller first.");
        }).For(Role.Viewer);
        api.MapGet("/outputs/{id}/trials", Results<Ok<IReadOnlyList<OutputTrial>>, ProblemHttpResult> (string id, ILink site) =>
            RecordId.IsValid(id) && site.Trials(new RecordId(id)) is { } trials ? TypedResults.Ok(trials) : Problems.Refused("This output is not installed on the site, so nothing can be tried. Send its controller first.")).For(Role.Viewer);
        api.MapGet("/why/{id}", Results<Ok<Because>, ProblemHttpResult> (string id, Workspace workspace, ILink site) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id)) return Problems.Missing("record");
            (bool, bool) Installed(RecordId host, RecordId point) => site.Knows(host, point) is var known ? (known.Runs, known.Knows) : default;
            Because ExplainPoint(Point point) => site.Explain(point.Id, point.Id) ?? NoValue.Explain(project, point, c => Installed(c, point.Id));
            switch (project.Find(new RecordId(id)))
            {
                case Point point:
                    return TypedResults.Ok(ExplainPoint(point));
                case EventRule rule:
                    return TypedResults.Ok(site.Explain(rule.PointId, rule.Id) ?? NoValue.ExplainAlarm(project, rule, c => Installed(c, rule.PointId)));
                case Place or Equipment:
                    return TypedResults.Ok(OfAll(project, new RecordId(id), ExplainPoint, site.Read));
                case { } other:
                    return site.Explain(other.Id, other.Id) is { } because ? TypedResults.Ok(because) : Problems.Refused("Why? explains points, alarms, equipment and places.");
                default:
                    return Problems.Missing("record");
            }
        }).For(Role.Viewer);
    }

    /// <summary>The explanations of what a room, a floor or a piece of equipment has that asks for one: outputs, and whatever is in alarm, held, or without a value.</summary>
    private static Because OfAll(Project project, RecordId id, Func<Point, Because> explain, Func<RecordId, Reading?> read)
    {
        const int most = 8;
        const StatusFlags notable = StatusFlags.InAlarm | StatusFlags.Fault | StatusFlags.Overridden | StatusFlags.Released | StatusFlags.Stale;
        var owners = new List<RecordId> { id };
        for (int i = 0; i < owners.Count; i++) owners.AddRange(project.Referrers(owners[i]).Where(r => r is Place or Equipment && r.ParentId == owners[i]).Select(r => r.Id).Where(r => !owners.Contains(r)));
        var asking = owners.SelectMany(o => project.Referrers<Point>(o).Where(p => p.OwnerId == o))
            .Select(p => (Point: p, Status: read(p.Id)?.Status ?? StatusFlags.Released))
            .Where(x => x.Point.Role == PointRole.Command || (x.Status & notable) != 0)
            .OrderByDescending(x => (x.Status & StatusFlags.InAlarm) != 0).ThenByDescending(x => (x.Status & notable) != 0).ThenBy(x => x.Point.Name).ToList();
        string name = project.Find(id)!.Name;
        // Two kilns in a room have a temperature each; the owner's name tells them apart.
        Because Named(Point point)
        {
            Because because = explain(point);
            return point.OwnerId == id ? because : because with { Fact = $"{project.Find(point.OwnerId)!.Name}: {because.Fact}" };
        }
        if (asking.Count == 0) return Because.Of($"{name} has no output, and nothing in it is in alarm, held or without a value.", [id], weight: Weight.Note);
        Because[] more = asking.Count > most ? [Because.Of($"And {asking.Count - most} more; choose one of its points to ask about it.", weight: Weight.Note)] : [];
        return Because.Of($"{name}: {asking.Count} to explain.", [id], [.. asking.Take(most).Select(x => Named(x.Point)), .. more], Weight.Note);
    }
}
