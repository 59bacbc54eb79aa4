using LoftyWren.Server.Bus.Work;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Live;
using LoftyWren.Server.PointLists;
using LoftyWren.Server.Sequences;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage;
using LoftyWren.Storage.Proofs;
using LoftyWren.Storage.Commissioning;
using LoftyWren.Storage.History;
using LoftyWren.Storage.Jobs;
using LoftyWren.Storage.Projects;
using LoftyWren.Storage.Secrets;
using LoftyWren.Storage.Site;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.SignalR;

namespace LoftyWren.Server.Projects;

/// <summary>Everything of one project that is open: its workspace and stores, its virtual site, its jobs, its live values. It has a folder of its own.</summary>
public sealed class OpenProject : IAsyncDisposable
{
    private readonly Dictionary<Type, object> _parts = [];
    private readonly Lock _gate = new();
    private bool _started, _closing;
    private int _requests;

    /// <summary>Opens the project of a folder; nothing runs yet.</summary>
    /// <param name="id">The project's id.</param>
    /// <param name="folder">Its folder.</param>
    /// <param name="asItIs">Whether a damaged database is opened as it is.</param>
    /// <param name="farSite">Its site where that is in another process; null for one in this.</param>
    /// <param name="hub">The live line to the pages.</param>
    /// <param name="clock">The machine's clock.</param>
    /// <param name="log">The log.</param>
    /// <param name="services">The server's services.</param>
    public OpenProject(string id, string folder, bool asItIs, IVirtualSite? farSite, IHubContext<LiveHub> hub, TimeProvider clock, ILogger<SiteHost> log, IServiceProvider services)
    {
        Directory.CreateDirectory(folder);
        Id = id;
        Part(new ProjectStore(Path.Combine(folder, "project.db"), asItIs));
        Part(new HistoryStore(Path.Combine(folder, "history.db"), asItIs));
        Part(new Workspace(Get<ProjectStore>(), clock));
        Part(new JobRunner(new JobStore(Path.Combine(folder, "jobs.db"))));
        Part(new CheckStore(Path.Combine(folder, "checks.db"), asItIs));
        Part(new ImageCache(Get<Workspace>()));
        Part(new SequenceFacts(Get<Workspace>()));
        Part(new ProofStore(Path.Combine(folder, "proofs.db")));
        Part(new ImportDesk(clock));
        Part(new RecordGrid(Get<Workspace>()));
        if (farSite is null)
        {
            var store = new SiteStore(Path.Combine(folder, "site.db"), asItIs);
            // Older versions kept the trail with the history.
            if (!store.HasTrail && Get<HistoryStore>().OlderTrail() is { Count: > 0 } older) store.Write([], older);
            Part(store);
            Part(new SiteHost(store, clock, log, services.GetRequiredService<IDataProtectionProvider>().CreateProtector(SiteHost.SealPurpose)));
            farSite = Get<SiteHost>();
        }
        Part(farSite);
        Part<ILink>(farSite);
        Part(new ProofShelf(Get<Workspace>(), Get<ProofStore>(), farSite, clock));
        Part(new ContactStore(Path.Combine(folder, "contacts.db"), asItIs));
        Part(new Contacts(Get<ContactStore>(), Get<Workspace>(), Get<ImageCache>(), farSite, services.GetRequiredService<IDataProtectionProvider>()));
        Part(new Comparing(Get<Workspace>(), farSite, Get<Contacts>(), Get<ImageCache>(), log));
        Part(new DayRehearsals(Get<Workspace>(), farSite, Get<ImageCache>()));
        Part(new BusKeys(new KeyStore(Path.Combine(folder, "keys.db"), asItIs)));
        Part(new BusLines(Get<Workspace>(), farSite, Get<BusKeys>(), clock));
        Part(new BusHistory(new HistoryStore(Path.Combine(folder, "bus-history.db"), asItIs), Get<Workspace>(), farSite, Get<Contacts>(), Get<JobRunner>(), log));
        Part(new BusMonitors(Get<BusLines>(), farSite, clock));
        Part(new BuildReviews(Get<Workspace>(), farSite));
        Part(new SiteServer(farSite, Get<HistoryStore>(), clock, log));
        Part(new DeviceLinks(Get<Workspace>(), Get<SiteServer>()));
        Get<JobRunner>().TakeUp(new ProjectServices(this, services), JobKinds.All);
        Part(new Broadcaster(id, hub, Get<SiteServer>(), Get<DeviceLinks>(), Get<Workspace>(), Get<JobRunner>()));
    }

    /// <summary>The types that a request gets from the project it is for.</summary>
    public static IReadOnlyList<Type> Parts { get; } =
        [typeof(ProjectStore), typeof(SiteStore), typeof(HistoryStore), typeof(Workspace), typeof(CheckStore), typeof(ContactStore), typeof(Contacts), typeof(Comparing), typeof(DayRehearsals), typeof(DeviceLinks), typeof(JobRunner), typeof(ImageCache), typeof(SequenceFacts), typeof(ProofStore), typeof(ProofShelf), typeof(ImportDesk), typeof(RecordGrid), typeof(SiteHost), typeof(IVirtualSite), typeof(ILink), typeof(BuildReviews), typeof(BusKeys), typeof(BusLines), typeof(BusHistory), typeof(BusMonitors), typeof(SiteServer), typeof(Broadcaster)];

    /// <summary>The project's id in the installation.</summary>
    public string Id { get; }

    /// <summary>One of its parts.</summary>
    public T Get<T>() where T : class => (T)_parts[typeof(T)];

    /// <summary>Its databases, for their backups.</summary>
    public IEnumerable<Database> Databases => [Get<ProjectStore>().Database, .. Find(typeof(SiteStore)) is SiteStore site ? [site.Database] : Array.Empty<Database>(), Get<HistoryStore>().Database, Get<CheckStore>().Database, Get<ContactStore>().Database, Get<BusKeys>().Database, Get<BusHistory>().Database];

    /// <summary>One of its parts, or null when there is none of that type.</summary>
    public object? Find(Type type) => _parts.GetValueOrDefault(type);

    /// <summary>Sets its site and its live values going.</summary>
    public async Task Start(CancellationToken stopping)
    {
        if (Find(typeof(SiteHost)) is SiteHost own) await own.StartAsync(stopping);
        await Get<SiteServer>().StartAsync(stopping);
        await Get<Broadcaster>().StartAsync(stopping);
        Get<Comparing>().Start();
        Get<BusHistory>().Start();
        _started = true;
    }

    /// <summary>Stops them; the site's state is kept.</summary>
    public async Task Stop(CancellationToken stopping)
    {
        if (!_started) return;
        _started = false;
        await Get<Broadcaster>().StopAsync(stopping);
        await Get<SiteServer>().StopAsync(stopping);
        if (Find(typeof(SiteHost)) is SiteHost own) await own.StopAsync(stopping);
    }

    /// <summary>Lets a request in; false once the project is being closed. Whoever was let in leaves by <see cref="Leave"/>.</summary>
    public bool TryEnter()
    {
        lock (_gate)
        {
            if (_closing) return false;
            _requests++;
            return true;
        }
    }

    /// <summary>A request that was let in is over.</summary>
    public void Leave() => Interlocked.Decrement(ref _requests);

    /// <summary>Lets nobody in any more and waits until those inside have left, but <paramref name="mine"/> of them and no longer than a time.</summary>
    public async Task Empty(int mine, TimeSpan atMost)
    {
        lock (_gate) _closing = true;
        long until = Environment.TickCount64 + (long)atMost.TotalMilliseconds;
        while (Volatile.Read(ref _requests) > mine && Environment.TickCount64 < until) await Task.Delay(20);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await Stop(CancellationToken.None);
        foreach (IDisposable part in _parts.Values.OfType<IDisposable>().Reverse()) part.Dispose();
    }

    private void Part<T>(T part) where T : class => _parts[typeof(T)] = part;
}
