using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tests;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Commissioning;
using LoftyWren.Storage.Projects;
using LoftyWren.Storage.Site;
using LoftyWren.VirtualSite.Devices;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.Logging.Abstractions;

namespace LoftyWren.Server.Tests.Commissioning;

/// <summary>A project, a virtual site and the connections between them, without pages: the kiln room, whose controller is in its box. The site moves on only when a send waits for it.</summary>
internal sealed class Workbench : IDisposable
{
    public static readonly RecordId Controller = KilnRoom.Controller;
    public static readonly DeviceSecrets Secrets = new([new DeviceAccount("contractor", "blue-glaze-77"), new DeviceAccount("client", "red-clay-and-sand")], "three pots on a shelf");

    private readonly string _folder = Directory.CreateTempSubdirectory("lofty-wren-bench-").FullName;
    private readonly ProjectStore _projects;
    private readonly ContactStore _contacts;
    private readonly EphemeralDataProtectionProvider _protection = new();
    private SiteStore _store;

    public Workbench()
    {
        _projects = new ProjectStore(Path.Combine(_folder, "project.db"));
        _contacts = new ContactStore(Path.Combine(_folder, "contacts.db"));
        Work = new Workspace(_projects, TimeProvider.System);
        Assert.True(Work.Apply([.. KilnRoom.Project().Records.Select(r => Core.Projects.Edit.Of(r))], "engineer").Accepted);
        (_store, Host) = Begin();
        Contacts = Connected();
    }

    public Workspace Work { get; }

    public SiteHost Host { get; private set; }

    public Contacts Contacts { get; private set; }

    public ContactStore Store => _contacts;

    public string SiteFile => Path.Combine(_folder, "site.db");

    public Project Project => Work.Project;

    public ProjectRecord Designed => Project.Find(Controller)!;

    public InstalledDevice Device => Host.Ask(s => s.Devices[Controller]);

    private (SiteStore, SiteHost) Begin()
    {
        var store = new SiteStore(SiteFile);
        var host = new SiteHost(store, TimeProvider.System, NullLogger.Instance);
        host.Open(SiteHost.Beginning);
        return (store, host);
    }

    private Contacts Connected() => new(_contacts, Work, new ImageCache(Work), Host, _protection) { Patience = TimeSpan.FromMilliseconds(40) };

    /// <summary>The process with the site ends at once and another takes up what it kept.</summary>
    public void Kill()
    {
        Host.Dispose();
        Host.CloseDoors();
        _store.Dispose();
        (_store, Host) = Begin();
        Contacts = Connected();
    }

    public DayRehearsals Days() => new(Work, Host, new ImageCache(Work));

    public Sending Sending() => new(Work, Host, Contacts, Days(), TimeProvider.System) { Waiting = () => Host.RunAhead(Host.Pulse().Now + 5000) };

    public string Hang() => Host.Hang("technician", "Hung", Controller, ControllerImageBuilder.KindKey, ContactEndpoints.BoxOf(Project, Designed, new LinkQuality(10_000_000, 0, 0)));

    public async Task<SetUpOrder> Met(string serial)
    {
        Discovered? found = null;
        // A busy machine may take longer than this bench waits.
        for (int i = 0; i < 50 && found is null; i++) found = (await Contacts.Discover(null, default)).FirstOrDefault(d => d.Serial == serial);
        Assert.NotNull(found);
        ContactLook look = await Contacts.Look(Designed, new ContactPlace(found.Host, found.Port), default);
        return new SetUpOrder(Controller, serial, found.Host, found.Port, look.Seen.Fingerprint, true);
    }

    public async Task<SetUpOrder> SetUp()
    {
        SetUpOrder order = await Met(Hang());
        Contacts.Type(Controller, Secrets);
        await Sending().SetUp(order, "technician", Job());
        return order;
    }

    public void Edit(double fallback) => Assert.True(Work.Apply([Core.Projects.Edit.Of(Project.Find<Core.Points.Point>(KilnRoom.Limit)! with { Fallback = fallback })], "engineer").Accepted);

    public void Runtime(string version) => Assert.True(Work.Apply([Core.Projects.Edit.Of((Controller)Designed with { Runtime = version })], "engineer").Accepted);

    public static JobContext Job(List<string>? said = null, CancellationToken stop = default) => new((_, _, text) => said?.Add(text), stop);

    public string DesignHash => HostKinds.HashOf(HostKinds.Build(Project, Designed).ToBytes());

    public void Dispose()
    {
        Host.CloseDoors();
        Host.Dispose();
        _store.Dispose();
        _contacts.Dispose();
        _projects.Dispose();
        Directory.Delete(_folder, recursive: true);
    }
}
