using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Site;
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
        api.MapGet("/site", (DeviceLinks links) => links.Clock()).For(Role.Viewer);
        api.MapPost("/site/clock", Results<Ok<ClockView>, ProblemHttpResult> (ClockRequest request, HttpContext http, IVirtualSite site) =>
        {
            if (request.Speed is { } speed && !SiteHost.Speeds.Contains(speed)) return Problems.Refused($"The site clock runs at {string.Join("×, ", SiteHost.Speeds)}×.");
            if (request.StepSeconds is { } step && step is < 1 or > 86_400) return Problems.Refused("A step is between 1 s and one day.");
            site.SetClock(http.User.Identity!.Name!, request.Running, request.Speed, request.StepSeconds);
            return TypedResults.Ok(site.Clock());
        }).For(Role.Technician);
        api.MapGet("/held", (IVirtualSite site, Workspace workspace) => Held(site, workspace)).For(Role.Viewer);
        api.MapPost("/held", Results<NoContent, ProblemHttpResult> (HoldRequest request, HttpContext http, SiteServer site, Workspace workspace) =>
            Hold(request, http, site, workspace, inputs: false) is { } why ? Problems.Refused(why) : Done(site)).For(Role.Operator);
        api.MapPost("/held/inputs", Results<NoContent, ProblemHttpResult> (HoldRequest request, HttpContext http, SiteServer site, Workspace workspace) =>
            Hold(request, http, site, workspace, inputs: true) is { } why ? Problems.Refused(why) : Done(site)).For(Role.Technician);
        api.MapPost("/held/release", Results<NoContent, ProblemHttpResult> (ReleaseRequest request, HttpContext http, SiteServer site, Workspace workspace) =>
        {
            string who = http.User.Identity!.Name!, what = $"Released ‘{workspace.Project.Find(request.PointId)?.Name}’";
            if (site.Link.Release(who, what, request.PointId)) return Done(site);
            if (workspace.Project.BindingOf(request.PointId) is Fitting fitting && site.Link.AllHeld().Any(h => h.IsInput && h.PointId == request.PointId))
            {
                if (Least.Of(http.User) < Role.Technician) return Problems.Refused("An input is held here, which only a technician may hold and let go. Ask one.");
                if (site.Link.ReleaseInput(who, what, fitting.ControllerId, fitting.Terminal, request.PointId)) return Done(site);
            }
            return Problems.Refused("This is not held any more.");
        }).For(Role.Operator);
        api.MapGet("/trail", IReadOnlyList<TrailEntry> (long? below, IVirtualSite site) => site.TrailPage(below ?? long.MaxValue, 200)).For(Role.Viewer);
    }

    private static NoContent Done(SiteServer site)
    {
        site.Collect();
        return TypedResults.NoContent();
    }

    private static List<HeldView> Held(IVirtualSite site, Workspace workspace) =>
        [.. site.AllHeld().Select(h => new HeldView(h.PointId, h.Name, workspace.Project.PathOf(h.PointId), h.IsInput, h.Says, h.Who, h.Why, h.At, h.Until))];

    private static string? Hold(HoldRequest request, HttpContext http, SiteServer site, Workspace workspace, bool inputs)
    {
        if (workspace.Project.Find<Point>(request.PointId) is not { } point) return "This point is not in the project any more.";
        if (string.IsNullOrWhiteSpace(request.Why) || request.Why.Length > 200) return "Say why in a few words (at most 200 characters); whoever finds it held will want to know.";
        if (request.Minutes is { } minutes && !(minutes is > 0 and <= 525_600)) return "It can be held for up to a year, or for ever.";
        if ((point.Role == PointRole.Sensor) != inputs) return inputs ? $"‘{point.Name}’ is not an input; hold it as an output." : $"‘{point.Name}’ is a sensor. A technician can set inputs of the virtual site by hand.";
        if (!point.IsInRange(request.Value)) return $"{request.Value} is not a value ‘{point.Name}’ can take{(point.Kind == PointKind.Analog ? $" ({point.Low?.ToString() ?? "any"} to {point.High?.ToString() ?? "any"} {point.Unit})" : $": {string.Join(", ", point.StateTexts)}")}.";
        string who = http.User.Identity!.Name!;
        string says = ValueText.Of(request.Value, point.Kind, point.Unit, point.StateTexts);
        string what = $"Held ‘{point.Name}’ by hand at {says}{(request.Minutes is { } length ? $" for {length} min" : " for ever")}: {request.Why.Trim()}";
        var order = new HoldOrder(point.Id, request.Value, request.Why.Trim(), request.Minutes);
        try
        {
            if (!inputs) site.Link.Hold(who, what, order);
            else if (workspace.Project.BindingOf(point.Id) is Fitting fitting) site.Link.HoldInput(who, what, fitting.ControllerId, fitting.Terminal, order);
            else return $"‘{point.Name}’ is on no terminal. Put it onto one first.";
            return null;
        }
        catch (InvalidOperationException e)
        {
            return $"‘{point.Name}’ cannot be held: {e.Message}";
        }
    }
}
