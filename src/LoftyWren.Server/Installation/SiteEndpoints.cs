using LoftyWren.Core.Controllers;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Site;
using LoftyWren.VirtualSite;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Installation;

/// <summary>What to do with the site clock; missing fields stay as they are.</summary>
public sealed record ClockRequest(bool? Running, int? Speed, int? StepSeconds);

/// <summary>Holding an output by hand, or an input of the virtual site. Minutes missing means for ever.</summary>
public sealed record HoldRequest(RecordId PointId, double Value, string Why, double? Minutes);

/// <summary>Letting go what is held.</summary>
public sealed record ReleaseRequest(RecordId PointId);

/// <summary>Something held by hand, output or input.</summary>
public sealed record HeldView(RecordId PointId, string Name, string Path, bool IsInput, string Says, string Who, string Why, long At, long? Until);

internal static class SiteEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/site", (SiteHost site) => site.Clock()).For(Role.Viewer);
        api.MapPost("/site/clock", Results<Ok<ClockView>, ProblemHttpResult> (ClockRequest request, HttpContext http, SiteHost site) =>
        {
            if (request.Speed is { } speed && !SiteHost.Speeds.Contains(speed)) return Problems.Refused($"The site clock runs at {string.Join("×, ", SiteHost.Speeds)}×.");
            if (request.StepSeconds is { } step && step is < 1 or > 86_400) return Problems.Refused("A step is between 1 s and one day.");
            site.SetClock(http.User.Identity!.Name!, request.Running, request.Speed, request.StepSeconds);
            return TypedResults.Ok(site.Clock());
        }).For(Role.Technician);
        api.MapGet("/held", (SiteHost site, Workspace workspace) => Held(site, workspace)).For(Role.Viewer);
        api.MapPost("/held", Results<NoContent, ProblemHttpResult> (HoldRequest request, HttpContext http, SiteHost site, Workspace workspace) =>
            Hold(request, http, site, workspace, inputs: false) is { } why ? Problems.Refused(why) : TypedResults.NoContent()).For(Role.Operator);
        api.MapPost("/held/inputs", Results<NoContent, ProblemHttpResult> (HoldRequest request, HttpContext http, SiteHost site, Workspace workspace) =>
            Hold(request, http, site, workspace, inputs: true) is { } why ? Problems.Refused(why) : TypedResults.NoContent()).For(Role.Technician);
        api.MapPost("/held/release", Results<NoContent, ProblemHttpResult> (ReleaseRequest request, HttpContext http, SiteHost site, Workspace workspace) =>
        {
            string who = http.User.Identity!.Name!;
            bool mayInputs = Least.Of(http.User) >= Role.Technician;
            string? why = null;
            bool was = site.Command(who, $"Released ‘{workspace.Project.Find(request.PointId)?.Name}’", request.PointId, s =>
            {
                var undo = new List<Action>();
                if (site.HomeOf(request.PointId)?.Engine is { } engine && engine.Holds.FirstOrDefault(h => h.PointId == request.PointId) is { } output)
                {
                    engine.ReleaseHold(request.PointId);
                    undo.Add(() => engine.HoldByHand(output));
                }
                if (Input(workspace, request.PointId) is { } fitting && s.InputHolds.FirstOrDefault(h => h.ControllerId == fitting.ControllerId && h.Terminal == fitting.Terminal) is { } input)
                {
                    if (mayInputs)
                    {
                        s.ReleaseInput(fitting.ControllerId, fitting.Terminal);
                        undo.Add(() => s.HoldInput(input));
                    }
                    else why = "An input is held here, which only a technician may hold and let go. Ask one.";
                }
                return undo.Count == 0 ? null : () => undo.ForEach(u => u());
            }, site.HomesOf(request.PointId));
            return was ? TypedResults.NoContent() : Problems.Refused(why ?? "This is not held any more.");
        }).For(Role.Operator);
        api.MapGet("/trail", IReadOnlyList<TrailEntry> (long? below, SiteStore store) => store.TrailPage(below ?? long.MaxValue, 200)).For(Role.Viewer);
    }

    private static List<HeldView> Held(SiteHost site, Workspace workspace) => site.Ask(s =>
    {
        var list = new List<HeldView>();
        foreach (var controller in s.Controllers.Values)
        {
            if (controller.Engine is not { } engine) continue;
            foreach (Hold hold in engine.Holds)
            {
                Point point = engine.Points.First(p => p.Id == hold.PointId);
                list.Add(new HeldView(hold.PointId, point.Name, workspace.Project.PathOf(hold.PointId), false, ValueText.Of(hold.Value, point.Kind, point.Unit, point.StateTexts), hold.Who, hold.Why, hold.AtMilliseconds, hold.UntilMilliseconds));
            }
            foreach (InputHold hold in s.InputHolds.Where(h => h.ControllerId == controller.Id))
            {
                if (engine.Image.Records.OfType<Fitting>().FirstOrDefault(f => f.Terminal == hold.Terminal) is not { } fitting) continue;
                Point point = engine.Points.First(p => p.Id == fitting.PointId);
                list.Add(new HeldView(point.Id, point.Name, workspace.Project.PathOf(point.Id), true, ValueText.Of(hold.Value, point.Kind, point.Unit, point.StateTexts), hold.Who, hold.Why, hold.AtMilliseconds, hold.UntilMilliseconds));
            }
        }
        return list.OrderBy(h => h.At).ToList();
    });

    private static string? Hold(HoldRequest request, HttpContext http, SiteHost site, Workspace workspace, bool inputs)
    {
        if (workspace.Project.Find<Point>(request.PointId) is not { } point) return "This point is not in the project any more.";
        if (string.IsNullOrWhiteSpace(request.Why) || request.Why.Length > 200) return "Say why in a few words (at most 200 characters); whoever finds it held will want to know.";
        if (request.Minutes is { } minutes && !(minutes is > 0 and <= 525_600)) return "It can be held for up to a year, or for ever.";
        if ((point.Role == PointRole.Sensor) != inputs) return inputs ? $"‘{point.Name}’ is not an input; hold it as an output." : $"‘{point.Name}’ is a sensor. A technician can set inputs of the virtual site by hand.";
        if (!point.IsInRange(request.Value)) return $"{request.Value} is not a value ‘{point.Name}’ can take{(point.Kind == PointKind.Analog ? $" ({point.Low?.ToString() ?? "any"} to {point.High?.ToString() ?? "any"} {point.Unit})" : $": {string.Join(", ", point.StateTexts)}")}.";
        string who = http.User.Identity!.Name!;
        string says = ValueText.Of(request.Value, point.Kind, point.Unit, point.StateTexts);
        string? why = null;
        site.Command(who, $"Held ‘{point.Name}’ by hand at {says}{(request.Minutes is { } length ? $" for {length} min" : " for ever")}: {request.Why.Trim()}", point.Id, s =>
        {
            long? until = request.Minutes is { } m ? s.Now + (long)(m * 60_000) : null;
            if (inputs)
            {
                if (Input(workspace, point.Id) is not { } fitting)
                {
                    why = $"‘{point.Name}’ is on no terminal. Put it onto one first.";
                    return null;
                }
                InputHold? before = s.InputHolds.FirstOrDefault(h => h.ControllerId == fitting.ControllerId && h.Terminal == fitting.Terminal);
                try
                {
                    s.HoldInput(new InputHold(fitting.ControllerId, fitting.Terminal, request.Value, who, request.Why.Trim(), s.Now, until));
                }
                catch (InvalidOperationException e)
                {
                    why = e.Message;
                    return null;
                }
                return () =>
                {
                    s.ReleaseInput(fitting.ControllerId, fitting.Terminal);
                    if (before is not null) s.HoldInput(before);
                };
            }
            if (site.HomeOf(point.Id)?.Engine is not { } engine)
            {
                why = $"‘{point.Name}’ is not installed on the site yet. Review and send its controller first.";
                return null;
            }
            Hold? held = engine.Holds.FirstOrDefault(h => h.PointId == point.Id);
            engine.HoldByHand(new Hold(point.Id, request.Value, who, request.Why.Trim(), s.Now, until));
            return () =>
            {
                engine.ReleaseHold(point.Id);
                if (held is not null) engine.HoldByHand(held);
            };
        }, site.HomesOf(point.Id));
        return why;
    }

    private static Fitting? Input(Workspace workspace, RecordId point) => workspace.Project.BindingOf(point) as Fitting;
}
