using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.SignalR;

namespace LoftyWren.Server.Live;

/// <summary>One live value: its id as subscribed, value (null when there is none), status flags, since when (ms of site time), and how to say it.</summary>
public sealed record LiveValue(string Id, double? V, int F, long T, string Text);

/// <summary>An edit that was accepted, told to every open client: which records it touched (the first 500) and of which kinds they all are.</summary>
public sealed record ProjectChanged(long Revision, string Author, string Label, IReadOnlyList<RecordId> Ids, IReadOnlyList<string> Kinds);

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
    public void Watch(IReadOnlyList<string> ids)
    {
        if (ids.Count > MostIds) throw new HubException($"At most {MostIds} values can be watched at once; this screen asks for {ids.Count}.");
        Broadcaster.Watch(Context.ConnectionId, ids);
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
    private readonly LiveBoard _board;
    private readonly IHubContext<LiveHub> _hub;
    private readonly string _group;
    private readonly DeviceLinks _links;

    /// <summary>Joins the sources of events to the hub.</summary>
    public Broadcaster(string group, IHubContext<LiveHub> hub, SiteServer site, DeviceLinks links, Workspace workspace, JobRunner jobs)
    {
        (_group, _hub, _links) = (group, hub, links);
        _board = new LiveBoard(site.Link, (connection, values, gone) => hub.Clients.Client(connection).SendAsync("live", values, gone));
        workspace.Changed += entry => _ = hub.Clients.Group(_group).SendAsync("changed", new ProjectChanged(entry.Revision, entry.Author, entry.Label, [.. entry.Changes.Select(c => c.Id).Take(500)], [.. entry.Changes.Select(c => RecordKinds.Of((c.After ?? c.Before)!).Key).Distinct()]));
        site.EventsChanged += () => _ = hub.Clients.Group(_group).SendAsync("events");
        jobs.Moved += job => _ = hub.Clients.Group(_group).SendAsync("job", job);
    }

    /// <summary>Tells every client that alarms or holds have changed.</summary>
    public void TellEvents() => _ = _hub.Clients.Group(_group).SendAsync("events");

    /// <summary>The site clock.</summary>
    public ClockView Clock() => _links.Clock();

    /// <summary>Sets what a client watches.</summary>
    public void Watch(string connection, IReadOnlyList<string> ids) => _board.Watch(connection, ids);

    /// <summary>Forgets a client.</summary>
    public void Forget(string connection) => _board.Forget(connection);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(330));
        int silent = 0;
        while (await timer.WaitForNextTickAsync(stopping))
        {
            ClockView clock = Clock();
            await _hub.Clients.Group(_group).SendAsync("clock", clock, stopping);
            if (clock.Silent != silent) TellEvents();
            silent = clock.Silent;
            _board.Look();
        }
    }
}
