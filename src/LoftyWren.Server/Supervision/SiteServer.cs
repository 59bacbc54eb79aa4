using LoftyWren.Core.Records;
using LoftyWren.Core.Trends;
using LoftyWren.Server.Installation;
using LoftyWren.Storage;
using LoftyWren.Storage.History;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Server.Supervision;

/// <summary>
/// What supervises the installation: brings trend samples and alarm events home over the link, tells whoever watches that
/// something happened, and knows whether the far end is heard. It reaches what is installed by the link alone.
/// </summary>
public sealed class SiteServer(IVirtualSite link, HistoryStore history, TimeProvider clock, ILogger log) : BackgroundService
{
    private static readonly TimeSpan Beat = TimeSpan.FromMilliseconds(250), LateAfter = TimeSpan.FromSeconds(3), SilentAfter = TimeSpan.FromSeconds(15);
    private readonly Lock _collecting = new();
    private Written _written = new(new Dictionary<RecordId, long>(), new Dictionary<RecordId, long>());
    private ClockView? _lastClock;
    private long _heardAt = clock.GetTimestamp(), _happenings = -1;
    private bool _isInTrouble, _wasSilent, _hasMissed;

    /// <summary>Told when alarm states changed or something was held or released.</summary>
    public event Action? EventsChanged;

    /// <summary>The inputs that are simulated, as far as the far end was heard last: whoever asks waits for nobody.</summary>
    public IReadOnlyList<Held> Simulated { get; private set; } = [];

    /// <summary>The link.</summary>
    public IVirtualSite Link => link;

    /// <summary>Whether the far end is heard.</summary>
    public LinkState State => clock.GetElapsedTime(Volatile.Read(ref _heardAt)) is var passed && passed > SilentAfter ? LinkState.Silent : passed > LateAfter ? LinkState.Late : LinkState.Heard;

    /// <summary>The site clock: as it is, or, while the far end is not heard, as it was last.</summary>
    public ClockView Clock()
    {
        try
        {
            ClockView now = link.Clock();
            _lastClock = now;
            Volatile.Write(ref _heardAt, clock.GetTimestamp());
            return now;
        }
        catch (LinkException e)
        {
            ClockView last = _lastClock ?? new ClockView(0, false, 1, 0, "UTC", 0, 0, null);
            return last with { Link = State, Running = false, Trouble = State == LinkState.Heard ? last.Trouble : e.Message, HeardAt = clock.GetUtcNow().ToUnixTimeMilliseconds() - (long)clock.GetElapsedTime(_heardAt).TotalMilliseconds };
        }
    }

    /// <summary>Brings home what is fresh, and tells what has happened.</summary>
    public void Collect()
    {
        bool hasEvents = false;
        lock (_collecting)
        {
            for (bool isMore = true; isMore;)
            {
                Collection fresh = link.Collect(_written);
                // What is not written yet counts as not collected, so that a full disk loses nothing.
                var logs = fresh.UnknownLogs.ToDictionary(id => id, history.Collected);
                var events = fresh.UnknownHosts.ToDictionary(id => id, history.EventsSeen);
                int at = 0;
                var batches = new List<(RecordId, IReadOnlyList<Sample>, long)>(fresh.Logs.Count);
                foreach (CollectedLog each in fresh.Logs)
                {
                    batches.Add((each.LogId, fresh.Samples.GetRange(at, each.Count), each.Total));
                    at += each.Count;
                }
                if (batches.Count > 0) history.Write(batches);
                foreach (CollectedLog each in fresh.Logs) logs[each.LogId] = each.Total;
                foreach (CollectedEvents each in fresh.Events)
                {
                    history.Take(each.HostId, each.Events);
                    events[each.HostId] = each.Events[^1].Number;
                    hasEvents = true;
                }
                _written = new Written(logs, events);
                // What comes while this is written comes with the next beat; a fast site has always something fresh.
                isMore = fresh.IsCut || fresh.UnknownLogs.Count > 0 || fresh.UnknownHosts.Count > 0;
            }
            Volatile.Write(ref _heardAt, clock.GetTimestamp());
            long happenings = link.Pulse().Happenings;
            if (happenings != _happenings)
            {
                (hasEvents, _happenings) = (true, happenings);
                Simulated = [.. link.AllHeld().Where(h => h.IsInput)];
            }
        }
        if (hasEvents) EventsChanged?.Invoke();
    }

    /// <summary>Runs ahead to a moment of site time at once, collecting on the way; for preparing the demo.</summary>
    public void RunAheadTo(long milliseconds)
    {
        while (link.RunAhead(milliseconds) < milliseconds) Collect();
        Collect();
        link.Keep();
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(Beat);
        while (await timer.WaitForNextTickAsync(stopping)) Look();
    }

    private void Look()
    {
        try
        {
            // Who answers now may be another process than the one that did not: it is opened like that one.
            if (_hasMissed) link.Open(SiteHost.Beginning);
            Collect();
            if (_isInTrouble) link.StandStill(null);
            if (_wasSilent) log.LogWarning("The site answers again.");
            (_isInTrouble, _wasSilent, _hasMissed) = (false, false, false);
        }
        catch (SqliteException e) when (StorageTrouble.Is(e))
        {
            string trouble = $"The site stands still: {StorageTrouble.Say(e, Path.GetDirectoryName(history.Database.FilePath)!)}";
            if (!_isInTrouble) log.LogWarning("{Trouble}", trouble);
            _isInTrouble = true;
            StandStill(trouble);
        }
        catch (LinkException e)
        {
            if (!_wasSilent && State != LinkState.Heard) log.LogWarning("{Message}", e.Message);
            _wasSilent |= State != LinkState.Heard;
            _hasMissed = true;
            // Whoever answers next may be another, which has not been told how far all is written.
            lock (_collecting) _written = new(new Dictionary<RecordId, long>(), new Dictionary<RecordId, long>());
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            log.LogError(e, "What is fresh on the site could not be collected: {Message}", e.Message);
        }
    }

    private void StandStill(string why)
    {
        try
        {
            link.StandStill(why);
        }
        catch (LinkException)
        {
            // Nobody hears it; then nothing is brought home either.
        }
    }

    /// <inheritdoc/>
    public override async Task StopAsync(CancellationToken cancellationToken)
    {
        await base.StopAsync(cancellationToken);
        Look();
    }
}
