using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Texts;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Site;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Installation;

/// <summary>What to do with the site clock; missing fields stay as they are.</summary>
public sealed record ClockRequest(bool? Running, int? Speed, int? StepSeconds);

/// <summary>Holding an output by hand, or simulating an input of the virtual site: at a value, or from that on along a course (see <see cref="InputCourse"/>). Minutes missing means for ever.</summary>
public sealed record HoldRequest(RecordId PointId, double Value, string Why, double? Minutes, string? Course = null);

/// <summary>Letting go what is held.</summary>
public sealed record ReleaseRequest(RecordId PointId);

/// <summary>Something held by hand, output or input.</summary>
public sealed record HeldView(RecordId PointId, string Name, string Path, bool IsInput, string Says, string Who, string Why, long At, long? Until, string? Course);

internal static class SiteEndpoints
{
    private const int MostCourse = 8_000;

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
        // Each where it is put, whatever is drawn by now; what has ended by itself meanwhile is let go as well.
        api.MapPost("/held/inputs/release", NoContent (HttpContext http, SiteServer site) =>
        {
            foreach (HeldInput held in site.Link.HeldInputs()) site.Link.ReleaseInput(http.User.Identity!.Name!, "Let all sensors speak again", held.HostId, held.Terminal, held.HostId);
            return Done(site);
        }).For(Role.Technician);
        api.MapGet("/trail", IReadOnlyList<TrailEntry> (long? below, IVirtualSite site) => site.TrailPage(below ?? long.MaxValue, 200)).For(Role.Viewer);
    }

    private static NoContent Done(SiteServer site)
    {
        site.Collect();
        return TypedResults.NoContent();
    }

    private static List<HeldView> Held(IVirtualSite site, Workspace workspace) =>
        [.. site.AllHeld().Select(h => new HeldView(h.PointId, h.Name, workspace.Project.PathOf(h.PointId), h.IsInput, h.Says, h.Who, h.Why, h.At, h.Until, h.Course))];

    private static string Beyond(Point point, double value) =>
        $"{value} is not a value ‘{point.Name}’ can take{(point.Kind == PointKind.Analog ? $" ({point.Low?.ToString() ?? "any"} to {point.High?.ToString() ?? "any"} {point.Unit})" : $": {string.Join(", ", point.StateTexts)}")}.";

    private static string? Hold(HoldRequest request, HttpContext http, SiteServer site, Workspace workspace, bool inputs)
    {
        if (workspace.Project.Find<Point>(request.PointId) is not { } point) return "This point is not in the project any more.";
        if (Reasons.Trouble(request.Why) is not null) return "Say why in a few words (at most 200 characters); whoever finds it held will want to know.";
        if (request.Minutes is { } minutes && !(minutes is > 0 and <= 525_600)) return "It can be held for up to a year, or for ever.";
        if ((point.Role == PointRole.Sensor) != inputs) return inputs ? $"‘{point.Name}’ is not an input; hold it as an output." : $"‘{point.Name}’ is a sensor. A technician can set inputs of the virtual site by hand.";
        InputCourse? course = null;
        double value = request.Value;
        var form = new ValueForm(point.Kind, point.Unit, point.StateTexts);
        if (request.Course is { } text)
        {
            if (!inputs) return "An output is held at a value; only an input of the virtual site follows a course.";
            if (text.Length > MostCourse) return $"A course has at most {MostCourse} characters.";
            try
            {
                course = InputCourse.Read(text, form);
            }
            catch (SyntaxException e)
            {
                return e.Message;
            }
            if (course.Legs.Select(l => l.To).OfType<double>().FirstOrDefault(v => !point.IsInRange(v), double.NaN) is var beyond && !double.IsNaN(beyond)) return Beyond(point, beyond);
            // It goes on from what is measured now.
            value = site.Link.Read(point.Id) is { IsUsable: true } now ? now.Value : course.Legs[0].To ?? point.Low ?? 0;
        }
        else if (!point.IsInRange(value)) return Beyond(point, value);
        string who = http.User.Identity!.Name!;
        string says = course?.Say(form) ?? ValueText.Of(value, point.Kind, point.Unit, point.StateTexts);
        string what = $"{(inputs ? "Simulated" : "Held")} ‘{point.Name}’ {(inputs ? "as" : "by hand at")} {says}{(request.Minutes is { } length ? $" for {length} min" : " for ever")}: {request.Why.Trim()}";
        var order = new HoldOrder(point.Id, value, request.Why.Trim(), request.Minutes, course);
        try
        {
            if (!inputs) site.Link.Hold(who, what, order);
            else if (workspace.Project.BindingOf(point.Id) is Fitting fitting) site.Link.HoldInput(who, what, fitting.ControllerId, fitting.Terminal, order);
            else if (workspace.Project.BindingOf(point.Id) is BusBinding bound) return $"‘{point.Name}’ is heard over the bus, under {workspace.Project.Find<GroupAddress>(bound.GroupId)?.Number}, and measured at no terminal. Say a value there under Commission › Line monitor.";
            else return $"‘{point.Name}’ is on no terminal. Put it onto one first.";
            return null;
        }
        catch (InvalidOperationException e)
        {
            return $"‘{point.Name}’ cannot be held: {e.Message}";
        }
    }
}
