using LoftyWren.Core.Images;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using LoftyWren.VirtualSite.Plant;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Commissioning;

/// <summary>How far the design of one controller is ahead of what is installed.</summary>
public sealed record Ahead(RecordId ControllerId, string Name, string Path, int Changes, bool Installed, int Version, string SentBy, long SentAt);

/// <summary>How far the design is ahead of what is installed in all: of how many controllers, of how many of them it is ahead, by how many records, the names of the first three, and the controller when it is but one.</summary>
public sealed record AheadSummary(int Controllers, int Ahead, int Changes, IReadOnlyList<string> Names, RecordId? Only);

/// <summary>What sending would change on one controller or device, record by record, and what would be built of its wires on the virtual site; whether its connection is known, so that something can be sent.</summary>
public sealed record SendReview(RecordId ControllerId, string Name, bool Installed, bool IsMet, int Version, string InstalledHash, string DesignHash, int Bytes, IReadOnlyList<RecordDifference> Differences, IReadOnlyList<BuildLine> Wires, IReadOnlyList<FindingView> Findings);

/// <summary>What was read back from a controller, compared with the design.</summary>
public sealed record ReadBack(RecordId ControllerId, int Version, string Hash, int Bytes, int Records, IReadOnlyList<TakeOverLine> Lines, string Sentence);

/// <summary>What a send would bring: the outputs and values that move, holds and logs that stay.</summary>
public sealed record RehearsalView(IReadOnlyList<MoveLine> Moves, int Holds, int HoldsKept, int Logs, int LogsKept, IReadOnlyList<StateLost> Lost);

/// <summary>An output or value that would be another.</summary>
public sealed record MoveLine(RecordId Id, string Name, string Path, string Before, string After);

/// <summary>How a device stands, in words, how its link is, and the site's time with it.</summary>
public sealed record DeviceView(DeviceStanding Standing, string Says, LinkState Link, long Now);

/// <summary>What is to be done to a device, and why.</summary>
public sealed record DeviceOrderRequest(DeviceOrder Order, string Why);

internal static class CommissioningEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/commission", (Workspace workspace, IVirtualSite site, ImageCache images) => AllAhead(workspace, site, images)).For(Role.Viewer);
        api.MapGet("/commission/ahead", (Workspace workspace, IVirtualSite site, ImageCache images) => Summary(AllAhead(workspace, site, images))).For(Role.Viewer);
        api.MapGet("/commission/{id}", Results<Ok<SendReview>, ProblemHttpResult> (string id, Workspace workspace, IVirtualSite site, Contacts contacts, ImageCache images) =>
            Find(workspace, id) is { } host && images.Design(host.Id) is { } design ? TypedResults.Ok(Review(workspace, site, contacts, images, host, design)) : Problems.Missing("controller")).For(Role.Viewer);
        api.MapPost("/commission/{id}/send", Results<Ok<JobView>, ProblemHttpResult> (string id, bool? build, HttpContext http, Workspace workspace, DayRehearsals days, JobRunner jobs) =>
        {
            if (Find(workspace, id) is not { } host) return Problems.Missing("controller");
            if (days.MustLive(host) is { } why) return Problems.Refused(why);
            return TypedResults.Ok(jobs.Start(Sending.SendJob, $"Send {host.Name}", http.User.Identity!.Name!, new SendOrder(host.Id, build ?? true)));
        }).For(Role.Technician);
        api.MapGet("/commission/{id}/read-back", async Task<Results<Ok<ReadBack>, ProblemHttpResult>> (string id, HttpContext http, Workspace workspace, IVirtualSite site, Comparing comparing) =>
        {
            if (Find(workspace, id) is not { } host) return Problems.Missing("controller");
            return await Problems.Try(async () =>
            {
                var (image, hash) = await comparing.ReadBack(host, http.RequestAborted);
                Project project = workspace.Project;
                IReadOnlyList<TakeOverLine> lines = [.. TakeOver.Lines(project, host, image).Select(l => l with { Difference = Placed(project, l.Difference) })];
                string sentence = lines.Count == 0 ? $"{host.Name} runs exactly the design." : $"The design of {host.Name} differs from what runs there in {lines.Count} record{(lines.Count == 1 ? "" : "s")}.";
                return new ReadBack(host.Id, site.Find(host.Id)?.Version ?? 0, hash, image.ToBytes().Length, image.Records.Count, lines, sentence);
            });
        }).For(Role.Technician);
        api.MapGet("/commission/{id}/rehearsal", Results<Ok<RehearsalView>, ProblemHttpResult> (string id, Workspace workspace, IVirtualSite site) =>
        {
            if (Find(workspace, id) is not { } host) return Problems.Missing("controller");
            Project project = workspace.Project;
            byte[] bytes = HostKinds.Build(project, host).ToBytes();
            Rehearsal rehearsal;
            try
            {
                rehearsal = site.Rehearse(host.Id, HostKinds.Of(host)!.Key, bytes);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
            List<MoveLine> moves = [.. rehearsal.Moves.Select(m => (Move: m, Point: project.Find<Core.Points.Point>(m.PointId)))
                .Where(m => m.Point is null || m.Point.Role != Core.Points.PointRole.Sensor)
                .Select(m => new MoveLine(m.Move.PointId, m.Point is { } p ? $"{project.Find(p.OwnerId)?.Name} · {p.Name}" : m.Move.PointId.Value, m.Point is null ? "" : project.PathOf(m.Point.Id), Say(m.Point, m.Move.Before), Say(m.Point, m.Move.After)))
                .Where(m => m.Before != m.After).OrderBy(m => m.Name, NaturalOrder.Names)];
            return TypedResults.Ok(new RehearsalView(moves, rehearsal.Holds, rehearsal.HoldsKept, rehearsal.Logs, rehearsal.LogsKept, rehearsal.Lost));
        }).For(Role.Technician);
        api.MapGet("/devices", (IVirtualSite site, DeviceLinks links) =>
        {
            long now = site.Pulse().Now;
            return site.Standings().Select(s => (Standing: s, Link: links.StateOf(s.Id, s.SilentSince, now))).Select(d => new DeviceView(d.Standing, WordsOf(d.Standing, d.Link), d.Link, now)).ToList();
        }).For(Role.Viewer);
        api.MapPost("/devices/{id}/order", Results<NoContent, ProblemHttpResult> (string id, DeviceOrderRequest request, HttpContext http, Workspace workspace, SiteServer server) =>
        {
            if (Find(workspace, id) is not { } host) return Problems.Missing("controller");
            if (Reasons.Trouble(request.Why) is not null) return Problems.Refused("Say why in a few words (at most 200 characters); who did this and why stays in the trail.");
            try
            {
                server.Link.Order(http.User.Identity!.Name!, $"{Says[request.Order]} {host.Name}: {request.Why.Trim()}", host.Id, request.Order);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
            server.Collect();
            return TypedResults.NoContent();
        }).For(Role.Technician);
    }

    private static string Say(Core.Points.Point? point, Core.Status.Reading? reading) =>
        reading is not { } r ? "not there" : point is null ? r.Value.ToString("0.##", System.Globalization.CultureInfo.InvariantCulture) : Core.Points.ValueText.Of(r, point.Kind, point.Unit, point.StateTexts);

    /// <summary>What the trail says of each order.</summary>
    private static readonly Dictionary<DeviceOrder, string> Says = new()
    {
        [DeviceOrder.PowerOff] = "Took the supply of",
        [DeviceOrder.PowerOn] = "Gave its supply back to",
        [DeviceOrder.WarmStart] = "Started again, with what it remembers,",
        [DeviceOrder.ColdStart] = "Started again, forgetting its values,",
        [DeviceOrder.Stop] = "Stopped the program of",
        [DeviceOrder.Resume] = "Let the program go on of",
        [DeviceOrder.DisableCommunication] = "Disabled the communication of",
        [DeviceOrder.EnableCommunication] = "Enabled the communication of",
    };

    /// <summary>How a device stands, in a few words.</summary>
    private static string WordsOf(DeviceStanding s, LinkState link) => s switch
    {
        { Status: SystemStatus.DownloadRequired } => "runs nothing yet",
        { SilentSince: not null } => link == LinkState.Late ? "late" : "silent",
        { Phase: DevicePhase.Stopped } => "program stopped",
        { Status: SystemStatus.DownloadInProgress } => "a program is on its way",
        _ => "runs its program",
    };

    internal static ProjectRecord? Find(Workspace workspace, string id) => RecordId.IsValid(id) && workspace.Project.Find(new RecordId(id)) is { } record && HostKinds.Of(record) is not null ? record : null;

    private static AheadSummary Summary(List<Ahead> all)
    {
        var ahead = all.Where(a => a.Changes > 0).ToList();
        return new AheadSummary(all.Count, ahead.Count, ahead.Sum(a => a.Changes), [.. ahead.Take(3).Select(a => a.Name)], ahead.Count == 1 ? ahead[0].ControllerId : null);
    }

    private static List<Ahead> AllAhead(Workspace workspace, IVirtualSite site, ImageCache images)
    {
        var there = site.AllInstalled().ToDictionary(i => i.Id);
        return [.. HostKinds.HostsOf(workspace.Project).OrderBy(h => h.Name, NaturalOrder.Names).Select(h =>
        {
            Installed? installed = there.GetValueOrDefault(h.Id);
            return new Ahead(h.Id, h.Name, workspace.Project.PathOf(h.Id), images.Changes(h.Id, installed, site), installed is { Runs: true }, installed?.Version ?? 0, installed?.SentBy ?? "", installed?.SentAt ?? 0);
        })];
    }

    /// <summary>With the owner's name in front, so that forty “Room temperature” can be told apart.</summary>
    private static RecordDifference Placed(Project project, RecordDifference difference) =>
        project.Find(difference.Id) is Core.Points.Point point && project.Find(point.OwnerId) is { } owner ? difference with { Name = $"{owner.Name} · {difference.Name}" } : difference;

    private static SendReview Review(Workspace workspace, IVirtualSite site, Contacts contacts, ImageCache images, ProjectRecord host, DesignImage design)
    {
        Project project = workspace.Project;
        Installed? installed = site.Find(host.Id);
        IHostImage? old = images.ImageOf(installed, site);
        var built = site.WiresOf(host.Id);
        var ids = design.Image.Records.Select(r => r.Id).ToHashSet();
        var findings = ids.SelectMany(workspace.Findings.On).Where(f => f.Severity >= Core.Findings.Severity.Medium).OrderByDescending(f => f.Severity).Select(f => ProjectEndpoints.View(project, f)).ToList();
        return new SendReview(host.Id, host.Name, old is not null, contacts.Find(host.Id) is not null, installed?.Version ?? 0, installed?.Hash ?? "", design.Hash, design.Bytes.Length, [.. ImageComparison.Compare(old, design.Image).Select(d => Placed(project, d))],
            [.. SiteDifferences.OfWires(built, SiteBuilder.WiresOf(project, host.Id, built)).Select(d => SiteBuilding.Line(project, d))], findings);
    }
}
