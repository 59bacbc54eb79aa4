using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.VirtualSite.Controllers;
using LoftyWren.VirtualSite.Plant;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Commissioning;

/// <summary>How far the design of one controller is ahead of what is installed.</summary>
public sealed record Ahead(RecordId ControllerId, string Name, string Path, int Changes, bool Installed, int Version, string SentBy, long SentAt);

/// <summary>How far the design is ahead of what is installed in all: of how many controllers, of how many of them it is ahead, by how many records, the names of the first three, and the controller when it is but one.</summary>
public sealed record AheadSummary(int Controllers, int Ahead, int Changes, IReadOnlyList<string> Names, RecordId? Only);

/// <summary>What sending would change on one controller, record by record, and what the electrician would wire.</summary>
public sealed record SendReview(RecordId ControllerId, string Name, bool Installed, int Version, string InstalledHash, string DesignHash, int Bytes, IReadOnlyList<RecordDifference> Differences, IReadOnlyList<WireLine> Wires, IReadOnlyList<FindingView> Findings);

/// <summary>One wire that is new, changed or taken off.</summary>
public sealed record WireLine(string Terminal, string What, string Name);

/// <summary>What was read back from a controller, compared with the design.</summary>
public sealed record ReadBack(RecordId ControllerId, int Version, string Hash, int Bytes, int Records, IReadOnlyList<RecordDifference> Differences, string Sentence);

internal static class CommissioningEndpoints
{
    private const int PieceBytes = 2048;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/commission", (Workspace workspace, SiteHost site, ImageCache images) => AllAhead(workspace, site, images)).For(Role.Viewer);
        api.MapGet("/commission/ahead", (Workspace workspace, SiteHost site, ImageCache images) => Summary(AllAhead(workspace, site, images))).For(Role.Viewer);
        api.MapGet("/commission/{id}", Results<Ok<SendReview>, ProblemHttpResult> (string id, Workspace workspace, SiteHost site, ImageCache images) =>
            Find(workspace, id) is { } controller ? TypedResults.Ok(Review(workspace, site, images, controller)) : Problems.Missing("controller")).For(Role.Viewer);
        api.MapPost("/commission/{id}/send", Results<Ok<JobView>, ProblemHttpResult> (string id, HttpContext http, Workspace workspace, JobRunner jobs) =>
        {
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            return TypedResults.Ok(jobs.Start(SendJob, $"Send {controller.Name}", http.User.Identity!.Name!, new SendOrder(controller.Id)));
        }).For(Role.Technician);
        api.MapGet("/commission/{id}/read-back", Results<Ok<ReadBack>, ProblemHttpResult> (string id, Workspace workspace, SiteHost site) =>
        {
            if (Find(workspace, id) is not { } controller) return Problems.Missing("controller");
            if (site.Ask(s => s.Controllers.GetValueOrDefault(controller.Id)) is not { ImageBytes: { } bytes } installed) return Problems.Refused($"{controller.Name} runs nothing yet, so there is nothing to read back. Send it first.");
            ControllerImage image = ControllerImage.FromBytes(bytes);
            var differences = ImageComparison.Compare(image, ControllerImage.Build(workspace.Project, controller));
            string sentence = differences.Count == 0 ? $"{controller.Name} runs exactly the design." : $"The design of {controller.Name} differs from what runs there in {differences.Count} record{(differences.Count == 1 ? "" : "s")}.";
            return TypedResults.Ok(new ReadBack(controller.Id, installed.Version, ControllerImage.HashOf(bytes), bytes.Length, image.Records.Count, differences, sentence));
        }).For(Role.Technician);
    }

    /// <summary>A controller to be sent what is designed for it by then.</summary>
    internal sealed record SendOrder(RecordId ControllerId);

    /// <summary>The job that sends a controller.</summary>
    internal static JobKind<SendOrder> SendJob { get; } = new("send", (services, who, order) =>
    {
        Project project = services.GetRequiredService<Workspace>().Project;
        return Send(project.Find<Controller>(order.ControllerId) ?? throw new InvalidOperationException("The controller is not in the project any more."), project, services.GetRequiredService<SiteHost>(), who);
    });

    /// <summary>Sends a controller's image: wires, transfer in pieces, change-over. Until the last step the old program runs on.</summary>
    public static JobWork Send(Controller controller, Project project, SiteHost site, string who, int pauseMilliseconds = 15)
    {
        byte[] bytes = ControllerImage.Build(project, controller).ToBytes();
        string hash = ControllerImage.HashOf(bytes);
        return new JobWork(async context =>
        {
            int offset = site.Ask(s => s.Mount(controller.Id).BeginSend(bytes.Length, hash));
            while (offset < bytes.Length)
            {
                context.Report(offset, bytes.Length, $"{offset / 1024} of {Math.Max(1, bytes.Length / 1024)} kB are on {controller.Name}; the old program runs on");
                int length = Math.Min(PieceBytes, bytes.Length - offset), from = offset;
                site.Ask(s =>
                {
                    s.Mount(controller.Id).Receive(from, bytes.AsSpan(from, length));
                    return 0;
                });
                offset += length;
                if (pauseMilliseconds > 0) await Task.Delay(pauseMilliseconds, context.Stop);
            }
            context.Report(bytes.Length, bytes.Length, "Changing over");
            // All that takes time is made ready before the turn in which the program changes.
            ReadyProgram ready = InstalledController.MakeReady(site.Ask(s => s.Mount(controller.Id).Sent()));
            SitePlan drawn = site.Draw(project);
            IReadOnlyList<Wire> wires = [.. SiteBuilder.WiresOf(project, controller, site.Ask(s => s.WiresOf(controller.Id)))];
            int version = site.Ask(s => s.Mount(controller.Id).Version) + 1;
            site.Command(who, $"Sent {controller.Name}, version {version}", controller.Id, s =>
            {
                InstalledController installed = s.Mount(controller.Id);
                var (present, plan, before) = (installed.Present, s.Built, s.WiresOf(controller.Id));
                // Only this controller is visited: the wires of others stay as they were built.
                installed.ChangeOver(ready, who, DateTimeOffset.UtcNow.ToUnixTimeMilliseconds());
                s.Install(drawn, controller.Id, wires);
                return () =>
                {
                    installed.GoBack(present);
                    s.Install(plan, controller.Id, before);
                };
            }, controller.Id);
            return $"{controller.Name} runs version {version}.";
        });
    }

    private static Controller? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Controller>(new RecordId(id)) : null;

    private static AheadSummary Summary(List<Ahead> all)
    {
        var ahead = all.Where(a => a.Changes > 0).ToList();
        return new AheadSummary(all.Count, ahead.Count, ahead.Sum(a => a.Changes), [.. ahead.Take(3).Select(a => a.Name)], ahead.Count == 1 ? ahead[0].ControllerId : null);
    }

    private static List<Ahead> AllAhead(Workspace workspace, SiteHost site, ImageCache images) =>
        [.. workspace.Project.All<Controller>().OrderBy(c => c.Name, NaturalOrder.Names).Select(c =>
        {
            InstalledController? installed = site.Ask(s => s.Controllers.GetValueOrDefault(c.Id));
            return new Ahead(c.Id, c.Name, workspace.Project.PathOf(c.Id), images.Changes(workspace.Project, c, installed), installed?.Engine is not null, installed?.Version ?? 0, installed?.SentBy ?? "", installed?.SentAt ?? 0);
        })];

    /// <summary>With the owner's name in front, so that forty “Room temperature” can be told apart.</summary>
    private static RecordDifference Placed(Project project, RecordDifference difference) =>
        project.Find(difference.Id) is Core.Points.Point point && project.Find(point.OwnerId) is { } owner ? difference with { Name = $"{owner.Name} · {difference.Name}" } : difference;

    private static SendReview Review(Workspace workspace, SiteHost site, ImageCache images, Controller controller)
    {
        Project project = workspace.Project;
        ControllerImage design = ControllerImage.Build(project, controller);
        byte[] bytes = design.ToBytes();
        InstalledController? installed = site.Ask(s => s.Controllers.GetValueOrDefault(controller.Id));
        ControllerImage? old = installed?.ImageBytes is { } running ? ControllerImage.FromBytes(running) : null;
        var built = site.Ask(s => s.WiresOf(controller.Id)).ToDictionary(w => w.Terminal);
        var drawn = SiteBuilder.WiresOf(project, controller, built.Values).ToDictionary(w => w.Terminal);
        // What a wire is called, and for which point it was drawn, changes nothing in the building.
        var wires = drawn.Values.Where(w => !built.TryGetValue(w.Terminal, out Wire? was) || was with { Name = w.Name, PointId = w.PointId } != w).Select(w => new WireLine(w.Terminal, built.ContainsKey(w.Terminal) ? "rewire" : "wire", w.Name))
            .Concat(built.Values.Where(w => !drawn.ContainsKey(w.Terminal)).Select(w => new WireLine(w.Terminal, "take off", w.Name))).OrderBy(w => w.Terminal, StringComparer.Ordinal).ToList();
        var ids = design.Records.Select(r => r.Id).ToHashSet();
        var findings = ids.SelectMany(workspace.Findings.On).Where(f => f.Severity >= Core.Findings.Severity.Medium).OrderByDescending(f => f.Severity).Select(f => ProjectEndpoints.View(project, f)).ToList();
        return new SendReview(controller.Id, controller.Name, old is not null, installed?.Version ?? 0, installed?.Hash ?? "", ControllerImage.HashOf(bytes), bytes.Length, [.. ImageComparison.Compare(old, design).Select(d => Placed(project, d))], wires, findings);
    }
}
