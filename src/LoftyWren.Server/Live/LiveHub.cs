using System.Collections.Concurrent;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.SignalR;

namespace LoftyWren.Server.Live;

/// <summary>One live value: its id as subscribed, value (null when there is none), status flags, since when (ms of site time), and how to say it.</summary>
public sealed record LiveValue(string Id, double? V, int F, long T, string Text);

/// <summary>An edit that was accepted, told to every open client.</summary>
public sealed record ProjectChanged(long Revision, string Author, string Label, IReadOnlyList<RecordId> Ids);

/// <summary>
/// Live values and events. A client says which ids it has on screen — <c>p:POINT</c>, <c>s:SCHEDULE</c>,
/// <c>b:SEQUENCE/BLOCK/PIN</c> — gets all of them at once and then only what changes, a few times a second at most.
/// </summary>
[Authorize(Policy = nameof(Role.Viewer))]
public sealed class LiveHub(ProjectDirectory projects, Sessions sessions) : Hub
{
    /// <summary>The most ids one client may watch.</summary>
    public const int MostIds = 5000;

    /// <summary>Sets what this client watches; earlier ids that are not among them are forgotten.</summary>
    public async Task Watch(IReadOnlyList<string> ids)
    {
        if (ids.Count > MostIds) throw new HubException($"At most {MostIds} values can be watched at once; this screen asks for {ids.Count}.");
        await Clients.Caller.SendAsync("live", Broadcaster.Watch(Context.ConnectionId, ids));
    }

    /// <inheritdoc/>
    public override async Task OnConnectedAsync()
    {
        HubCallerContext context = Context;
        if (!sessions.Tie(context.ConnectionId, context.User?.FindFirst(Least.SessionClaim)?.Value, context.Abort))
        {
            context.Abort();
            return;
        }
        await Groups.AddToGroupAsync(Context.ConnectionId, Project.Id);
        await Clients.Caller.SendAsync("clock", Broadcaster.Clock());
        await base.OnConnectedAsync();
    }

    /// <inheritdoc/>
    public override Task OnDisconnectedAsync(Exception? exception)
    {
        sessions.Untie(Context.ConnectionId);
        Broadcaster.Forget(Context.ConnectionId);
        return base.OnDisconnectedAsync(exception);
    }

    private OpenProject Project => projects.Of(Context.GetHttpContext());

    private Broadcaster Broadcaster => Project.Get<Broadcaster>();
}

/// <summary>Sends live values, clock, edits, alarms and jobs to the clients of one project.</summary>
public sealed class Broadcaster : BackgroundService
{
    private readonly ConcurrentDictionary<string, Watched[]> _watched = new();
    private readonly IHubContext<LiveHub> _hub;
    private readonly string _group;
    private readonly SiteHost _site;
    private readonly Workspace _workspace;

    /// <summary>Joins the sources of events to the hub.</summary>
    public Broadcaster(string group, IHubContext<LiveHub> hub, SiteHost site, Workspace workspace, JobRunner jobs)
    {
        (_group, _hub, _site, _workspace) = (group, hub, site, workspace);
        workspace.Changed += entry => _ = hub.Clients.Group(_group).SendAsync("changed", new ProjectChanged(entry.Revision, entry.Author, entry.Label, [.. entry.Changes.Select(c => c.Id).Take(500)]));
        site.EventsChanged += () => _ = hub.Clients.Group(_group).SendAsync("events");
        jobs.Moved += job => _ = hub.Clients.Group(_group).SendAsync("job", job);
    }

    /// <summary>Tells every client that alarms or holds have changed.</summary>
    public void TellEvents() => _ = _hub.Clients.Group(_group).SendAsync("events");

    /// <summary>The site clock.</summary>
    public ClockView Clock() => _site.Clock();

    /// <summary>Sets what a client watches; answers all present values.</summary>
    public IReadOnlyList<LiveValue> Watch(string connection, IReadOnlyList<string> ids)
    {
        var watched = ids.Distinct().Select(id => new Watched(id)).ToArray();
        _watched[connection] = watched;
        return Look(watched, all: true);
    }

    /// <summary>Forgets a client.</summary>
    public void Forget(string connection) => _watched.TryRemove(connection, out _);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(330));
        while (await timer.WaitForNextTickAsync(stopping))
        {
            await _hub.Clients.Group(_group).SendAsync("clock", _site.Clock(), stopping);
            foreach (var (connection, watched) in _watched)
            {
                var changed = Look(watched, all: false);
                if (changed.Count > 0) await _hub.Clients.Client(connection).SendAsync("live", changed, stopping);
            }
        }
    }

    private List<LiveValue> Look(Watched[] watched, bool all)
    {
        var values = new List<LiveValue>();
        _site.Ask(_ =>
        {
            foreach (Watched one in watched)
            {
                lock (one)
                {
                    Reading? reading = Read(one.Id);
                    // Every scan gives a fresh time; only a value or a status that differs is news.
                    if (!all && one.Last is { } last && reading is { } now && last.Status == now.Status && (last.Value == now.Value || (double.IsNaN(last.Value) && double.IsNaN(now.Value)))) continue;
                    if (!all && one.Last is null && reading is null && one.Told) continue;
                    (one.Last, one.Told) = (reading, true);
                    values.Add(Say(one.Id, reading));
                }
            }
            return 0;
        });
        return values;
    }

    private Reading? Read(string id)
    {
        string rest = id.Length > 2 ? id[2..] : "";
        switch (id.Length > 1 ? id[0] : ' ')
        {
            case 'p':
                return _site.Read(new RecordId(rest));
            case 's':
                return _site.Ask(site => site.Controllers.Values.Select(c => c.Engine?.ReadSchedule(new RecordId(rest))).FirstOrDefault(r => r is not null));
            case 'b':
                string[] parts = rest.Split('/');
                if (parts.Length != 3 || _workspace.Project.Find<Sequence>(new RecordId(parts[0])) is not { } sequence || sequence.ControllerId is not { } on) return null;
                return _site.Ask(site => site.Controllers.TryGetValue(on, out var controller) ? controller.Engine?.ReadPin(sequence.Id, parts[1], parts[2]) : null);
            default:
                return null;
        }
    }

    private LiveValue Say(string id, Reading? reading)
    {
        if (reading is not { } r) return new LiveValue(id, null, (int)StatusFlags.Released, 0, "–");
        var (kind, unit, texts) = Form(id);
        return new LiveValue(id, double.IsFinite(r.Value) ? r.Value : null, (int)r.Status, r.AtMilliseconds, ValueText.Of(r, kind, unit, texts));
    }

    private (PointKind Kind, string? Unit, IReadOnlyList<string> Texts) Form(string id)
    {
        string rest = id[2..];
        if (id[0] == 'p' && _workspace.Project.Find<Point>(new RecordId(rest)) is { } point) return (point.Kind, point.Unit, point.StateTexts);
        if (id[0] == 's' && _workspace.Project.Find<Schedule>(new RecordId(rest)) is { } schedule) return (schedule.Kind, schedule.Unit, schedule.StateTexts);
        if (id[0] == 'b' && rest.Split('/') is [var sequenceId, var block, var pin] && _workspace.Project.Find<Sequence>(new RecordId(sequenceId)) is { } sequence)
        {
            // Typing is worked out once a project revision and sequence, not once a value.
            Typing typing = _typing.GetOrAdd(sequence.Id, _ => (_workspace.Project, Typing.Of(sequence, _workspace.Project))).Item2;
            if (_typing[sequence.Id].Item1 != _workspace.Project)
            {
                typing = Typing.Of(sequence, _workspace.Project);
                _typing[sequence.Id] = (_workspace.Project, typing);
            }
            LineType type = typing.Outputs.GetValueOrDefault((block, pin));
            return type.Binary ? (PointKind.Binary, null, ["off", "on"]) : (PointKind.Analog, type.Unit?.Symbol, []);
        }
        return (PointKind.Analog, null, []);
    }

    private readonly ConcurrentDictionary<RecordId, (Core.Projects.Project, Typing)> _typing = new();

    private sealed class Watched(string id)
    {
        public string Id { get; } = id;

        public Reading? Last { get; set; }

        public bool Told { get; set; }
    }
}
