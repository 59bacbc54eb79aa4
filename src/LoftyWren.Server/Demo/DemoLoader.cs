using System.Text.Json;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Formats.Projects;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Libraries;
using LoftyWren.VirtualSite.Bus;
using LoftyWren.VirtualSite.Plant;
using NodaTime;

namespace LoftyWren.Server.Demo;

/// <summary>What the demo's site file says: when it starts, how far it has run already, and what is wrong with it on purpose.</summary>
public sealed record DemoSite
{
    /// <summary>Local time at which the site is built, as 2026-04-13T05:00.</summary>
    public required string StartsAt { get; init; }

    /// <summary>Local time up to which it has run before anybody looks.</summary>
    public required string RunsTo { get; init; }

    /// <summary>The seed of weather and noise.</summary>
    public int Seed { get; init; } = 41;

    /// <summary>Speed of the site clock afterwards.</summary>
    public int Speed { get; init; } = 60;

    /// <summary>Faults that are built in.</summary>
    public IReadOnlyList<BuiltInFault> Faults { get; init; } = [];

    /// <summary>Outputs that somebody holds.</summary>
    public IReadOnlyList<DemoHold> Holds { get; init; } = [];

    /// <summary>What carries to controllers, where that is not a cable in the same house.</summary>
    public IReadOnlyDictionary<RecordId, LinkQuality> Links { get; init; } = new Dictionary<RecordId, LinkQuality>();

    /// <summary>Change sets made after the site was sent, so that the design is ahead of it.</summary>
    public IReadOnlyList<DemoEdit> EditsAfter { get; init; } = [];
}

/// <summary>An output held by hand in the demo.</summary>
public sealed record DemoHold(RecordId PointId, double Value, string Who, string Why, double Minutes);

/// <summary>One edit of the demo after sending.</summary>
public sealed record DemoEdit(string Label, IReadOnlyList<Edit> Edits);

/// <summary>Loads the demo from the readable files of its folder: records as one change set, its templates as a shared library, then the site, sent and run ahead.</summary>
public static class DemoLoader
{
    private const string Library = "demo";

    /// <summary>Loads it.</summary>
    /// <exception cref="InvalidOperationException">What the files hold does not stand; the message says why.</exception>
    /// <exception cref="LoftyWren.Formats.Sheets.FileRefusedException">A file does not hold what it should; the message names it.</exception>
    public static async Task Load(string folder, Workspace workspace, SiteServer site, JobRunner jobs, Contacts contacts, DayRehearsals days, Comparing comparing, LibraryStore libraries)
    {
        IReadOnlyList<Edit> edits = ProjectFolder.Read(folder);
        Accept(workspace.Apply(edits, "engineer", "Loaded the demo project"));
        if (libraries.Add(new Library(Library, workspace.Project.Site!.Name, null)))
        {
            foreach (Template template in ProjectFolder.Templates(folder)) libraries.Save(Library, template, 0, DateTimeOffset.UtcNow.ToUnixTimeMilliseconds());
        }
        DemoSite demo = JsonSerializer.Deserialize<DemoSite>(await File.ReadAllTextAsync(Path.Combine(folder, "site.json")), RecordJson.Options)!;
        DateTimeZone zone = DateTimeZoneProviders.Tzdb[workspace.Project.Site!.TimeZone!];
        site.Link.Open(Milliseconds(demo.StartsAt, zone));
        // The drawings first, then the wires with the faults of the demo in them.
        var bare = new SitePlan { Seed = demo.Seed, Faults = demo.Faults, TimeZone = zone.Id };
        site.Link.Build("engineer", "Built the virtual site", SiteBuilder.Build(workspace.Project, bare), null);
        // Bus devices were written at the bench before they were hung.
        var tables = FilterTables.Of(workspace.Project);
        BoxedBusDevice[] boxes = [.. workspace.Project.All<BusDevice>().OrderBy(d => d.Id).Select(d => BusBuilder.BoxOf(workspace.Project, d, null, isWritten: true, tables)).OfType<BoxedBusDevice>()];
        if (boxes.Length > 0) site.Link.HangOnBus("engineer", $"Hung {boxes.Length} bus devices, written at the bench", boxes);
        await SetUp([.. workspace.Project.All<Controller>().OrderBy(c => c.Name)], workspace, site, jobs, contacts, days);
        site.RunAheadTo(Milliseconds(demo.RunsTo, zone));
        foreach (ProjectRecord host in comparing.Hosts()) await comparing.SetClock(host, CancellationToken.None);
        foreach (var (host, link) in demo.Links)
        {
            site.Link.SetLink("engineer", $"The connection of ‘{workspace.Project.Find(host)?.Name}’ is one of {link.KilobitsPerSecond / 1000:0.#} Mbit/s", host, link);
            contacts.Remember(host, contacts.Find(host)! with { KilobitsPerSecond = link.KilobitsPerSecond, RoundTripMilliseconds = link.RoundTripMilliseconds });
        }
        foreach (DemoHold hold in demo.Holds)
        {
            site.Link.Hold(hold.Who, $"Held ‘{workspace.Project.Find(hold.PointId)?.Name}’ by hand for {hold.Minutes} min: {hold.Why}", new HoldOrder(hold.PointId, hold.Value, hold.Why, hold.Minutes));
        }
        foreach (DemoEdit edit in demo.EditsAfter) Accept(workspace.Apply(edit.Edits, "engineer", edit.Label));
        site.Link.SetClock("engineer", running: true, demo.Speed, null);
    }

    /// <summary>From their boxes to controllers that run, over their connections, as anybody would; only that the way is short and the site runs ahead while they start.</summary>
    private static async Task SetUp(IReadOnlyList<Controller> controllers, Workspace workspace, SiteServer site, JobRunner jobs, Contacts contacts, DayRehearsals days)
    {
        var serials = controllers.ToDictionary(c => c, c => site.Link.Hang("engineer", $"Hung {c.Name} out of its box", c.Id, HostKinds.Of(c)!.Key, ContactEndpoints.BoxOf(workspace.Project, c, new LinkQuality(10_000_000, 0, 0))));
        IReadOnlyList<Discovered> found = await contacts.Discover(null, CancellationToken.None);
        var sending = new Sending(workspace, site.Link, contacts, days, TimeProvider.System) { Waiting = () => site.Link.RunAhead(site.Link.Clock().Now + 5000) };
        foreach (var (controller, serial) in serials)
        {
            Discovered one = found.Single(d => d.Serial == serial);
            ContactLook look = await contacts.Look(controller, new ContactPlace(one.Host, one.Port), CancellationToken.None);
            contacts.Type(controller.Id, new DeviceSecrets([new DeviceAccount("contractor", "kiln-door-41"), new DeviceAccount("client", "quay-side-gallery")], "clay and glaze, fired twice"));
            var order = new SetUpOrder(controller.Id, serial, one.Host, one.Port, look.Seen.Fingerprint, true);
            JobView done = await jobs.Finish(jobs.Start("setUp", $"Set up {controller.Name}", "engineer", job => sending.SetUp(order, "engineer", job)).Id);
            if (done.State != JobState.Done) throw new InvalidOperationException($"{controller.Name} of the demo could not be set up: {done.Message}");
        }
    }

    private static void Accept(ChangeOutcome outcome)
    {
        if (!outcome.Accepted) throw new InvalidOperationException("The demo's records do not stand: " + string.Join(" ", outcome.Refusals.Take(8).Select(r => $"[{r.RecordId}] {r.Sentence}")));
    }

    private static long Milliseconds(string local, DateTimeZone zone) =>
        zone.AtLeniently(NodaTime.Text.LocalDateTimePattern.CreateWithInvariantCulture("yyyy-MM-dd'T'HH:mm").Parse(local).GetValueOrThrow()).ToInstant().ToUnixTimeMilliseconds();
}
