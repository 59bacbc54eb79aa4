using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Commissioning;
using LoftyWren.VirtualSite.Plant;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Commissioning;

/// <summary>A controller of the project and what is known of its connection. Label: the serial number of what hangs there on the virtual site.</summary>
public sealed record ContactLine(RecordId HostId, string Name, string Path, string Model, string? Address, KeptContact? Contact, string? Label, LinkQuality? Link);

/// <summary>A controller that answered, and for which of the project it may be; IsSure where its serial number or its label says so.</summary>
public sealed record FoundDevice(Discovered Device, string Model, RecordId? HostId, string? HostName, bool IsSure);

/// <summary>A network to be asked; none for the virtual site.</summary>
public sealed record DiscoverRequest(string? Network);

/// <summary>The set-up sheet of one controller: its lines, what was seen, what would be transferred, the wires that would be built, the parts that can be added by choice.</summary>
public sealed record SheetView(RecordId HostId, string Name, IReadOnlyList<SheetLine> Lines, ContactLook? Look, SendPlan Plan, int Wires, IReadOnlyList<PartChoice> Choices, bool IsReady);

/// <summary>A software part that the model has, and whether it is there by choice or because it is needed.</summary>
public sealed record PartChoice(string Key, string Name, int Kilobytes, bool IsNeeded, bool IsChosen);

/// <summary>One controller to be set up: which device, where, by which certificate.</summary>
public sealed record SetUpTarget(RecordId HostId, string Serial, string Host, int Port, string Fingerprint);

/// <summary>Controllers to be set up, all with the same secrets; none where all have theirs kept already.</summary>
public sealed record SetUpRequest(IReadOnlyList<SetUpTarget> Targets, TypedSecrets? Secrets, bool StartsNow = true, bool Build = true);

/// <summary>What came of it: a job for each controller, or what is wrong with the secrets.</summary>
public sealed record SetUpAnswer(IReadOnlyList<JobView> Jobs, IReadOnlyList<SecretTrouble> Wrong);

/// <summary>Something done to a connection, and why.</summary>
public sealed record ContactReason(string Why);

/// <summary>The label in the door of something that was hung.</summary>
public sealed record HungLabel(string Serial);

/// <summary>What a send would transfer, or why that is not known.</summary>
public sealed record PlanView(SendPlan? Plan, string? Trouble);

internal static class ContactEndpoints
{
    private const int MostTargets = 500;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/contacts", (Workspace workspace, Contacts contacts, IVirtualSite site) => Lines(workspace.Project, contacts, site)).For(Role.Viewer);
        api.MapPost("/contacts/discover", async Task<Results<Ok<List<FoundDevice>>, ProblemHttpResult>> (DiscoverRequest request, HttpContext http, Workspace workspace, Contacts contacts, IVirtualSite site) =>
            await Problems.Try(async () => Match(workspace.Project, contacts, site, await contacts.Discover(request.Network, http.RequestAborted)))).For(Role.Technician);
        api.MapPost("/contacts/secrets", (TypedSecrets typed) => SecretRules.Check(typed)).For(Role.Technician);
        api.MapPost("/contacts/set-up", async Task<Results<Ok<SetUpAnswer>, ProblemHttpResult>> (SetUpRequest request, HttpContext http, Workspace workspace, Contacts contacts, JobRunner jobs) =>
            await Problems.Try(() => Task.FromResult(SetUp(request, http.User.Identity!.Name!, workspace, contacts, jobs)))).For(Role.Technician);
        api.MapPost("/contacts/{id}/look", async Task<Results<Ok<ContactLook>, ProblemHttpResult>> (string id, ContactPlace place, HttpContext http, Workspace workspace, Contacts contacts) =>
            CommissioningEndpoints.Find(workspace, id) is not { } host ? Problems.Missing("controller") : await Problems.Try(() => contacts.Look(host, place, http.RequestAborted))).For(Role.Technician);
        api.MapGet("/contacts/{id}/sheet", async Task<Results<Ok<SheetView>, ProblemHttpResult>> (string id, string? host, int? port, bool? startsNow, HttpContext http, Workspace workspace, Contacts contacts, IVirtualSite site) =>
            CommissioningEndpoints.Find(workspace, id) is not Controller controller ? Problems.Missing("controller")
                : await Problems.Try(() => Sheet(workspace.Project, controller, host is not null && port is { } at ? new ContactPlace(host, at) : null, startsNow ?? true, contacts, site, http.RequestAborted))).For(Role.Technician);
        api.MapGet("/commission/{id}/plan", async Task<Results<Ok<PlanView>, ProblemHttpResult>> (string id, HttpContext http, Workspace workspace, Contacts contacts) =>
            CommissioningEndpoints.Find(workspace, id) is not { } host ? Problems.Missing("controller") : TypedResults.Ok(await Plan(host, contacts, http.RequestAborted))).For(Role.Technician);
        api.MapPost("/contacts/{id}/hang", Results<Ok<HungLabel>, ProblemHttpResult> (string id, ContactReason reason, HttpContext http, Workspace workspace, IVirtualSite site) =>
        {
            if (CommissioningEndpoints.Find(workspace, id) is not { } host) return Problems.Missing("controller");
            HungDevice? there = site.Hung().FirstOrDefault(h => h.HostId == host.Id);
            bool isThere = there is not null || site.Find(host.Id) is { Runs: true };
            if (reason.Why is { } why && Reasons.Trouble(why, isNeeded: false) is { } tooLong) return Problems.Refused(tooLong);
            if (isThere && string.IsNullOrWhiteSpace(reason.Why)) return Problems.Refused($"{there?.Serial ?? host.Name} hangs there. Say why it is exchanged for another; its program, its logs and what it remembers go with it.");
            string what = !isThere ? $"Hung {host.Name} out of its box" : $"Exchanged {host.Name}{(there is null ? "" : $", {there.Serial},")} for another out of its box: {reason.Why.Trim()}";
            return TypedResults.Ok(new HungLabel(site.Hang(http.User.Identity!.Name!, what, host.Id, HostKinds.Of(host)!.Key, BoxOf(workspace.Project, host, there?.Link ?? new LinkQuality(20_000, 0, 1)))));
        }).For(Role.Technician);
        api.MapPost("/contacts/{id}/link", async Task<Results<Ok<bool>, ProblemHttpResult>> (string id, LinkQuality link, HttpContext http, Workspace workspace, IVirtualSite site) =>
        {
            if (CommissioningEndpoints.Find(workspace, id) is not { } host) return Problems.Missing("controller");
            if (!(link.KilobitsPerSecond is >= 1 and <= 10_000_000)) return Problems.Refused("A connection carries between 1 kbit/s and 10 Gbit/s.");
            if (!(link.LossPercent is >= 0 and <= 100) || !(link.RoundTripMilliseconds is >= 0 and <= 5000)) return Problems.Refused("Frames are lost to 0 to 100 %, and an answer takes 0 to 5000 ms.");
            return await Problems.Try(() =>
            {
                site.SetLink(http.User.Identity!.Name!, link.LossPercent >= 100 ? $"Cut the connection of {host.Name}" : FormattableString.Invariant($"Made the connection of {host.Name} one of {link.KilobitsPerSecond:0.#} kbit/s that loses {link.LossPercent:0.#} %"), host.Id, link);
                return Task.FromResult(true);
            });
        }).For(Role.Technician);
        api.MapPost("/contacts/{id}/forget", Results<NoContent, ProblemHttpResult> (string id, ContactReason reason, HttpContext http, Workspace workspace, Contacts contacts, IVirtualSite site) =>
        {
            if (CommissioningEndpoints.Find(workspace, id) is not { } host) return Problems.Missing("controller");
            if (Reasons.Trouble(reason.Why) is not null) return Problems.Refused("Say why in a few words (at most 200 characters); its certificate and the credentials kept for it are forgotten.");
            if (!contacts.Forget(host.Id)) return Problems.Refused($"Nothing is remembered of {host.Name}.");
            site.Trail(http.User.Identity!.Name!, $"Forgot the certificate and credentials of {host.Name}: {reason.Why.Trim()}", host.Id);
            return TypedResults.NoContent();
        }).For(Role.Technician);
    }

    /// <summary>A host in its box: its model with the loader that it comes with.</summary>
    internal static BoxedDevice BoxOf(Project project, ProjectRecord host, LinkQuality link) =>
        host is Controller controller && Catalogue.Find(project, controller.ModelId) is { } model ? new BoxedDevice(model.Id, model.Loader, link) : new BoxedDevice(host.Noun, "1.0", link);

    private static List<ContactLine> Lines(Project project, Contacts contacts, IVirtualSite site)
    {
        var kept = contacts.Store.All().ToDictionary(c => c.HostId);
        var hung = site.Hung().ToDictionary(h => h.HostId);
        return [.. HostKinds.HostsOf(project).OrderBy(h => h.Name, NaturalOrder.Names).Select(h => new ContactLine(h.Id, h.Name, project.PathOf(h.Id), h is Controller c ? Catalogue.Find(project, c.ModelId)?.Name ?? c.ModelId : h.Noun, (h as Controller)?.Address, kept.GetValueOrDefault(h.Id.Value), hung.GetValueOrDefault(h.Id)?.Serial, hung.GetValueOrDefault(h.Id)?.Link))];
    }

    /// <summary>Which controller of the project each of those that answered may be: by what is remembered, by the label on the virtual site, by its name, or because it alone is of its model and so is one that is still to be set up.</summary>
    private static List<FoundDevice> Match(Project project, Contacts contacts, IVirtualSite site, IReadOnlyList<Discovered> found)
    {
        IReadOnlyList<KeptContact> kept = contacts.Store.All();
        // Should two of an older version have one serial number, it is the one that was set up last.
        var bySerial = kept.OrderBy(c => c.SetUpAt ?? 0).GroupBy(c => c.Serial).ToDictionary(g => g.Key, g => new RecordId(g.Last().HostId));
        var met = kept.Select(c => c.HostId).ToHashSet();
        var byLabel = site.Hung().GroupBy(h => h.Serial).ToDictionary(g => g.Key, g => g.First().HostId);
        var open = project.All<Controller>().Where(c => !met.Contains(c.Id.Value)).ToList();
        return [.. found.Select(d =>
        {
            ProjectRecord? host = bySerial.TryGetValue(d.Serial, out RecordId known) ? project.Find(known) : byLabel.TryGetValue(d.Serial, out RecordId label) ? project.Find(label) : null;
            bool isSure = host is not null;
            host ??= project.All<Controller>().FirstOrDefault(c => d.Name.Length > 0 && c.Name == d.Name) ?? (d.IsFactory && open.Count(c => c.ModelId == d.ModelId) == 1 && found.Count(f => f.IsFactory && f.ModelId == d.ModelId) == 1 ? open.Single(c => c.ModelId == d.ModelId) : null);
            return new FoundDevice(d, Catalogue.Find(project, d.ModelId)?.Name ?? d.ModelId, host?.Id, host?.Name, isSure);
        })];
    }

    private static async Task<SheetView> Sheet(Project project, Controller controller, ContactPlace? place, bool startsNow, Contacts contacts, IVirtualSite site, CancellationToken stop)
    {
        ContactLook? look = place is null ? null : await contacts.Look(controller, place, stop);
        SendPlan plan = contacts.Plan(controller, look?.Parts ?? []);
        IReadOnlyList<SheetLine> lines = SetUpSheet.Of(project, controller, look?.Seen, plan, startsNow);
        var built = site.WiresOf(controller.Id);
        HardwareModel? model = Catalogue.Find(project, controller.ModelId);
        var needed = plan.Lines.Where(l => l.IsNeeded).Select(l => l.Key).ToHashSet();
        return new SheetView(controller.Id, controller.Name, lines, look, plan, SiteDifferences.OfWires(built, SiteBuilder.WiresOf(project, controller.Id, built)).Count,
            [.. (model?.Parts ?? []).Select(p => new PartChoice(p.Key, p.Name, p.Kilobytes, needed.Contains(p.Key), plan.Lines.Any(l => l.Key == p.Key && !l.IsNeeded) || controller.ExtraParts?.Contains(p.Key) == true))], lines.All(l => l.State != SheetState.Blocked));
    }

    private static SetUpAnswer SetUp(SetUpRequest request, string who, Workspace workspace, Contacts contacts, JobRunner jobs)
    {
        if (request.Targets.Count is < 1 or > MostTargets) throw new InvalidOperationException($"Between one and {MostTargets} controllers are set up at a time.");
        if (request.Targets.Select(t => t.HostId).Distinct().Count() < request.Targets.Count || request.Targets.Select(t => t.Serial).Distinct().Count() < request.Targets.Count) throw new InvalidOperationException("One controller, or one device, is named twice. Give each controller a device of its own.");
        var hosts = request.Targets.Select(t => (Target: t, Host: CommissioningEndpoints.Find(workspace, t.HostId.Value) ?? throw new InvalidOperationException("A controller of the list is not in the project any more. Look at the list again."))).ToList();
        foreach (var (target, host) in hosts)
        {
            if (contacts.OwnerOf(target.Serial, host.Id) is { } other) throw new InvalidOperationException($"{target.Serial} is {other.Name}. A device is one controller only; forget the connection of {other.Name} first, or choose another device for {host.Name}.");
        }
        if (request.Secrets is { } typed)
        {
            IReadOnlyList<SecretTrouble> wrong = SecretRules.Check(typed);
            if (wrong.Count > 0) return new SetUpAnswer([], wrong);
            foreach (var (_, host) in hosts) contacts.Type(host.Id, typed.ToSecrets());
        }
        return new SetUpAnswer([.. hosts.Select(h => jobs.Start(Sending.SetUpJob, $"Set up {h.Host.Name}", who, new SetUpOrder(h.Host.Id, h.Target.Serial, h.Target.Host, h.Target.Port, h.Target.Fingerprint, request.StartsNow, request.Build)))], []);
    }

    private static async Task<PlanView> Plan(ProjectRecord host, Contacts contacts, CancellationToken stop)
    {
        try
        {
            if (contacts.Find(host.Id) is null) return new PlanView(contacts.Plan(host, []), $"{host.Name} was never set up from here. Set it up under First contact; then all of this goes.");
            await using ContactClient client = await contacts.Open(host, stop);
            return new PlanView(contacts.Plan(host, (await client.Report()).Parts), null);
        }
        catch (Exception e) when (e is InvalidOperationException or ContactLostException)
        {
            return new PlanView(null, e.Message);
        }
    }
}
