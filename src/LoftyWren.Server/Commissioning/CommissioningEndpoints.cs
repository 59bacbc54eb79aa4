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

/// <summary>What sending would change on one controller or device, record by record, and what would be built of its wires on the virtual site.</summary>
public sealed record SendReview(RecordId ControllerId, string Name, bool Installed, int Version, string InstalledHash, string DesignHash, int Bytes, IReadOnlyList<RecordDifference> Differences, IReadOnlyList<BuildLine> Wires, IReadOnlyList<FindingView> Findings);

/// <summary>What was read back from a controller, compared with the design.</summary>
public sealed record ReadBack(RecordId ControllerId, int Version, string Hash, int Bytes, int Records, IReadOnlyList<RecordDifference> Differences, string Sentence);

/// <summary>What a send would bring: the outputs and values that move, holds and logs that stay, and about how long it takes.</summary>
public sealed record RehearsalView(IReadOnlyList<MoveLine> Moves, int Holds, int HoldsKept, int Logs, int LogsKept, int Pieces, double Seconds);

/// <summary>An output or value that would be another.</summary>
public sealed record MoveLine(RecordId Id, string Name, string Path, string Before, string After);

/// <summary>How a device stands, in words, and the site's time with it.</summary>
public sealed record DeviceView(DeviceStanding Standing, string Says, long Now);

/// <summary>What is to be done to a device, and why.</summary>
public sealed record DeviceOrderRequest(DeviceOrder Order, string Why);

internal static class CommissioningEndpoints
{
    private const int PieceBytes = 2048, PauseMilliseconds = 15;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/commission", (Workspace workspace, IVirtualSite site, ImageCache images) => AllAhead(workspace, site, images)).For(Role.Viewer);
        api.MapGet("/commission/ahead", (Workspace workspace, IVirtualSite site, ImageCache images) => Summary(AllAhead(workspace, site, images))).For(Role.Viewer);
        api.MapGet("/commission/{id}", Results<Ok<SendReview>, ProblemHttpResult> (string id, Workspace workspace, IVirtualSite site, ImageCache images) =>
            Find(workspace, id) is { } host && images.Design(host.Id) is { } design ? TypedResults.Ok(Review(workspace, site, host, design)) : Problems.Missing("controller")).For(Role.Viewer);
        api.MapPost("/commission/{id}/send", Results<Ok<JobView>, ProblemHttpResult> (string id, bool? build, HttpContext http, Workspace workspace, JobRunner jobs) =>
        {
            if (Find(workspace, id) is not { } host) return Problems.Missing("controller");
            return TypedResults.Ok(jobs.Start(SendJob, $"Send {host.Name}", http.User.Identity!.Name!, new SendOrder(host.Id, build ?? true)));
        }).For(Role.Technician);
        api.MapGet("/commission/{id}/read-back", Results<Ok<ReadBack>, ProblemHttpResult> (string id, Workspace workspace, IVirtualSite site) =>
        {
            if (Find(workspace, id) is not { } host) return Problems.Missing("controller");
            if (site.Find(host.Id) is not { Runs: true } installed || site.ImageOf(host.Id) is not { } bytes) return Problems.Refused($"{host.Name} runs nothing yet, so there is nothing to read back. Send it first.");
            if (site.Standings().FirstOrDefault(s => s.Id == host.Id) is { SilentSince: not null }) return Problems.Refused($"{host.Name} does not answer, so nothing can be read back from it. Look at its state.");
            IHostImage image = HostKinds.Find(installed.Kind).Read(bytes);
            var differences = ImageComparison.Compare(image, HostKinds.Build(workspace.Project, host));
            string sentence = differences.Count == 0 ? $"{host.Name} runs exactly the design." : $"The design of {host.Name} differs from what runs there in {differences.Count} record{(differences.Count == 1 ? "" : "s")}.";
            return TypedResults.Ok(new ReadBack(host.Id, installed.Version, HostKinds.HashOf(bytes), bytes.Length, image.Records.Count, differences, sentence));
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
            int pieces = (bytes.Length + PieceBytes - 1) / PieceBytes;
            List<MoveLine> moves = [.. rehearsal.Moves.Select(m => (Move: m, Point: project.Find<Core.Points.Point>(m.PointId)))
                .Where(m => m.Point is null || m.Point.Role != Core.Points.PointRole.Sensor)
                .Select(m => new MoveLine(m.Move.PointId, m.Point is { } p ? $"{project.Find(p.OwnerId)?.Name} · {p.Name}" : m.Move.PointId.Value, m.Point is null ? "" : project.PathOf(m.Point.Id), Say(m.Point, m.Move.Before), Say(m.Point, m.Move.After)))
                .Where(m => m.Before != m.After).OrderBy(m => m.Name, NaturalOrder.Names)];
            return TypedResults.Ok(new RehearsalView(moves, rehearsal.Holds, rehearsal.HoldsKept, rehearsal.Logs, rehearsal.LogsKept, pieces, Math.Round(pieces * PauseMilliseconds / 1000.0, 1)));
        }).For(Role.Technician);
        api.MapGet("/devices", (IVirtualSite site) => site.Standings().Select(s => new DeviceView(s, WordsOf(s), site.Clock().Now)).ToList()).For(Role.Viewer);
        api.MapPost("/devices/{id}/order", Results<NoContent, ProblemHttpResult> (string id, DeviceOrderRequest request, HttpContext http, Workspace workspace, SiteServer server) =>
        {
            if (Find(workspace, id) is not { } host) return Problems.Missing("controller");
            if (string.IsNullOrWhiteSpace(request.Why) || request.Why.Length > 200) return Problems.Refused("Say why in a few words (at most 200 characters); who did this and why stays in the trail.");
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
    private static string WordsOf(DeviceStanding s) => s switch
    {
        { Status: SystemStatus.DownloadRequired } => "runs nothing yet",
        { SilentSince: not null } => "silent",
        { Phase: DevicePhase.Stopped } => "program stopped",
        { Status: SystemStatus.DownloadInProgress } => "a program is on its way",
        _ => "runs its program",
    };

    /// <summary>A controller or device to be sent what is designed for it by then, and whether its wires are built first.</summary>
    internal sealed record SendOrder(RecordId ControllerId, bool Build = true);

    /// <summary>The job that sends a controller.</summary>
    internal static JobKind<SendOrder> SendJob { get; } = new("send", (services, who, order) =>
    {
        Project project = services.GetRequiredService<Workspace>().Project;
        ProjectRecord host = project.Find(order.ControllerId) ?? throw new InvalidOperationException("The controller is not in the project any more.");
        return Send(host, project, services.GetRequiredService<IVirtualSite>(), who, build: order.Build);
    });

    /// <summary>Sends an image: the wires, as an act of its own, the transfer in pieces, the change-over. Until the last step the old program runs on.</summary>
    public static JobWork Send(ProjectRecord host, Project project, IVirtualSite site, string who, int pauseMilliseconds = PauseMilliseconds, bool build = true)
    {
        byte[] bytes = HostKinds.Build(project, host).ToBytes();
        string hash = HostKinds.HashOf(bytes), kind = HostKinds.Of(host)!.Key;
        return new JobWork(async context =>
        {
            if (build)
            {
                context.Report(0, bytes.Length, $"Building what {host.Name} is wired to");
                SiteBuilding.BuildFor(project, host, site, who);
            }
            int offset = site.BeginSend(host.Id, kind, bytes.Length, hash);
            while (offset < bytes.Length)
            {
                context.Report(offset, bytes.Length, $"{offset / 1024} of {Math.Max(1, bytes.Length / 1024)} kB are on {host.Name}; the old program runs on");
                int length = Math.Min(PieceBytes, bytes.Length - offset);
                site.Receive(host.Id, offset, bytes[offset..(offset + length)]);
                offset += length;
                if (pauseMilliseconds > 0) await Task.Delay(pauseMilliseconds, context.Stop);
            }
            context.Report(bytes.Length, bytes.Length, "Changing over");
            int version = site.ChangeOver(who, host.Name, host.Id);
            // Whoever stopped a program may be working at what it drives: a send starts nothing there.
            return site.Standings().FirstOrDefault(s => s.Id == host.Id) is { Phase: DevicePhase.Stopped } ? $"{host.Name} has version {version}, and its program is stopped. Let it go on from its state when that is safe." : $"{host.Name} runs version {version}.";
        });
    }

    private static ProjectRecord? Find(Workspace workspace, string id) => RecordId.IsValid(id) && workspace.Project.Find(new RecordId(id)) is { } record && HostKinds.Of(record) is not null ? record : null;

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

    private static SendReview Review(Workspace workspace, IVirtualSite site, ProjectRecord host, DesignImage design)
    {
        Project project = workspace.Project;
        Installed? installed = site.Find(host.Id);
        IHostImage? old = ImageCache.ImageOf(installed, site);
        var built = site.WiresOf(host.Id);
        var ids = design.Image.Records.Select(r => r.Id).ToHashSet();
        var findings = ids.SelectMany(workspace.Findings.On).Where(f => f.Severity >= Core.Findings.Severity.Medium).OrderByDescending(f => f.Severity).Select(f => ProjectEndpoints.View(project, f)).ToList();
        return new SendReview(host.Id, host.Name, old is not null, installed?.Version ?? 0, installed?.Hash ?? "", design.Hash, design.Bytes.Length, [.. ImageComparison.Compare(old, design.Image).Select(d => Placed(project, d))],
            [.. SiteDifferences.OfWires(built, SiteBuilder.WiresOf(project, host.Id, built)).Select(d => SiteBuilding.Line(project, d))], findings);
    }
}
