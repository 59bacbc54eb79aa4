using LoftyWren.Storage;
using System.Collections.Concurrent;
using System.Text;
using LoftyWren.Core.Records;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Live;
using LoftyWren.Storage.Projects;
using Microsoft.AspNetCore.SignalR;

namespace LoftyWren.Server.Projects;

/// <summary>
/// The projects of the installation. The first lies in the data folder itself and answers at the root; each further one has a
/// folder below <c>projects</c> and answers below <c>/p/ID</c>, so that several can be worked on side by side. A project is
/// opened by the first request for it.
/// </summary>
public sealed class ProjectDirectory(ServerOptions options, ProjectList list, IHubContext<LiveHub> hub, TimeProvider clock, ILogger<SiteHost> log, IServiceProvider services) : IHostedService, IAsyncDisposable
{
    /// <summary>The id of the first project.</summary>
    public const string First = "main";

    /// <summary>Under which a request carries its project.</summary>
    public const string Item = "project";

    private const int Most = 200;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(10);
    private readonly ConcurrentDictionary<string, OpenProject> _open = new();
    private readonly Lock _turn = new();
    private OpenProject? _main;
    private bool _running;

    /// <summary>The first project.</summary>
    public OpenProject Main
    {
        get
        {
            lock (_turn) return _main ??= _open[First] = new OpenProject(First, options.DataFolder, options.AsItIs, FarSiteOf(First), hub, clock, log, services);
        }
    }

    /// <summary>The list on disk.</summary>
    public ProjectList List => list;

    /// <summary>The projects that are open now.</summary>
    public IEnumerable<OpenProject> AllOpen => _open.Values;

    /// <summary>The project a request is for.</summary>
    public OpenProject Of(HttpContext? http) => http?.Items[Item] as OpenProject ?? Main;

    /// <summary>Opens a project; null when there is none, or it is archived.</summary>
    public async Task<OpenProject?> Open(string id)
    {
        if (id == First) return Main;
        if (_open.TryGetValue(id, out OpenProject? known)) return known;
        if (!RecordId.IsValid(id) || list.Find(id) is not { ArchivedAt: null }) return null;
        OpenProject project;
        lock (_turn)
        {
            if (_open.TryGetValue(id, out known)) return known;
            project = new OpenProject(id, Folder(id), options.AsItIs, FarSiteOf(id), hub, clock, log, services);
            try
            {
                project.Get<IVirtualSite>().Open(SiteHost.Beginning);
                project.Get<Commissioning.Contacts>().FollowStandIns();
            }
            catch
            {
                // Its site does not answer: nothing of it stays open, and the next request tries again.
                project.DisposeAsync().AsTask().GetAwaiter().GetResult();
                throw;
            }
            _open[id] = project;
        }
        if (_running) await project.Start(CancellationToken.None);
        return project;
    }

    /// <summary>Makes a project: empty, or with all of another's design and history. Its site is new: nothing is installed yet. Answers its id, or why not.</summary>
    public (string? Id, string? Refusal) Make(string name, string who, OpenProject? copyOf)
    {
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 80 || name.Any(char.IsControl)) return (null, "A project's name has 1 to 80 characters, in one line.");
        lock (_turn)
        {
            var all = list.All();
            if (all.Count >= Most) return (null, $"An installation holds up to {Most} projects. Archive is no removal: move the folders of old ones away with the server stopped.");
            string id = FreeId(name, all);
            string folder = Folder(id);
            // The list comes last, so that a project that is listed is whole.
            try
            {
                Directory.CreateDirectory(folder);
                if (copyOf is not null) copyOf.Get<ProjectStore>().CopyTo(Path.Combine(folder, "project.db"));
                if (list.Add(new ListedProject(id, name, clock.GetUtcNow().ToUnixTimeMilliseconds(), who, copyOf?.Id, null))) return (id, null);
            }
            catch (Exception e) when (e is IOException or Microsoft.Data.Sqlite.SqliteException)
            {
                if (Directory.Exists(folder)) Directory.Delete(folder, recursive: true);
                return (null, e is Microsoft.Data.Sqlite.SqliteException sqlite && StorageTrouble.Is(sqlite) ? StorageTrouble.Say(sqlite, folder) : $"The project could not be written: {e.Message}. Nothing was made.");
            }
            Directory.Delete(folder, recursive: true);
            return (null, $"There is already a project called ‘{name}’. Choose another name.");
        }
    }

    /// <summary>Marks a project archived and closes it when the requests inside have had their answers; <paramref name="from"/> is the project whose request this is. Answers why not, or null.</summary>
    public async Task<string?> Archive(string id, OpenProject? from = null)
    {
        if (id == First) return "The first project answers at the root of the address, so it stays. Copy it, and work on in the copy.";
        if (!list.Archive(id, clock.GetUtcNow().ToUnixTimeMilliseconds())) return "This project is not in the list any more.";
        if (_open.TryRemove(id, out OpenProject? project))
        {
            await project.Empty(from == project ? 1 : 0, Patience);
            await project.DisposeAsync();
        }
        return null;
    }

    /// <inheritdoc/>
    public async Task StartAsync(CancellationToken cancellationToken)
    {
        _ = Main;
        _running = true;
        foreach (OpenProject project in _open.Values) await project.Start(cancellationToken);
    }

    /// <inheritdoc/>
    public async Task StopAsync(CancellationToken cancellationToken)
    {
        _running = false;
        foreach (OpenProject project in _open.Values) await project.Stop(cancellationToken);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (OpenProject project in _open.Values) await project.DisposeAsync();
        _open.Clear();
    }

    private IVirtualSite? FarSiteOf(string id) => options.Site is { } address ? FarSite.At(address, id, LinkWire.KeyIn(options.SiteKeyFile)) : null;

    private string Folder(string id) => Path.Combine(options.DataFolder, "projects", id);

    private string FreeId(string name, IReadOnlyList<ListedProject> all)
    {
        var text = new StringBuilder();
        foreach (char c in name.ToLowerInvariant())
        {
            if (char.IsAsciiLetterOrDigit(c)) text.Append(c);
            else if (text.Length > 0 && text[^1] != '-') text.Append('-');
        }
        string stem = text.ToString().Trim('-');
        stem = stem.Length == 0 || stem == First ? "project" : stem[..Math.Min(40, stem.Length)].Trim('-');
        for (int n = 1; ; n++)
        {
            string id = n == 1 ? stem : $"{stem}-{n}";
            if (all.All(p => p.Id != id) && !Directory.Exists(Folder(id))) return id;
        }
    }
}

/// <summary>The services of a request: those of its project before those of the server.</summary>
internal sealed class ProjectServices(OpenProject project, IServiceProvider rest) : IServiceProvider
{
    public object? GetService(Type serviceType) => project.Find(serviceType) ?? rest.GetService(serviceType);
}
