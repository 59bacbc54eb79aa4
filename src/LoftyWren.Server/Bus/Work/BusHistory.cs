using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using LoftyWren.Protocols.Tunnel;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Trends;
using LoftyWren.Storage.History;

namespace LoftyWren.Server.Bus.Work;

/// <summary>Something that a bus device counts, as it is asked for, in words and in its unit, and where it stands in what was seen.</summary>
internal sealed record Counted(string Key, string Label, string Unit, Func<ChannelHealth, double?> Of)
{
    /// <summary>What is trended of channels.</summary>
    public static IReadOnlyList<Counted> All { get; } = [new("hours", "On for", "h", c => c.Hours), new("cycles", "Came on", "×", c => c.Cycles), new("energy", "Energy", "Wh", c => c.WattHours), new("drives", "Drives", "", c => c.Drives)];
}

/// <summary>
/// What bus devices said of themselves whenever they were looked at, over time; and the looking by itself, every so many minutes
/// of site time. Kept beside the trends of the project.
/// </summary>
public sealed class BusHistory : IDisposable
{
    /// <summary>The key of how often the bus was lost, which is the device's own.</summary>
    public const string FailuresKey = "failures";

    /// <summary>The most minutes between two looks.</summary>
    public const int MostMinutes = 24 * 60 * 31;

    /// <summary>For so many days of site time every look is kept; of each day before that the last.</summary>
    public const int WholeDays = 31;

    private const string MinutesKey = "busLookMinutes", ThinnedKey = "busLooksThinned", Program = "the program";
    private const long Minute = 60_000, Day = 24 * 60 * Minute;
    private static readonly TimeSpan Beat = TimeSpan.FromSeconds(5);
    private readonly HistoryStore _store;
    private readonly Workspace _workspace;
    private readonly IVirtualSite _site;
    private readonly Contacts _contacts;
    private readonly JobRunner _jobs;
    private readonly ILogger _log;
    private readonly CancellationTokenSource _stop = new();
    private Task _watch = Task.CompletedTask;
    private long? _lookedAt;

    internal BusHistory(HistoryStore store, Workspace workspace, IVirtualSite site, Contacts contacts, JobRunner jobs, ILogger log) => (_store, _workspace, _site, _contacts, _jobs, _log) = (store, workspace, site, contacts, jobs, log);

    /// <summary>Its database, for backups.</summary>
    public Storage.Database Database => _store.Database;

    /// <summary>How often all devices are looked at by themselves, min of site time; 0 for never.</summary>
    public int Minutes
    {
        get => int.TryParse(_contacts.Store.Setting(MinutesKey), out int minutes) ? minutes : 0;
        set => _contacts.Store.Set(MinutesKey, $"{value}");
    }

    /// <summary>Keeps what a device said.</summary>
    public void Write(RecordId device, DeviceHealth health)
    {
        long now = _site.Clock().Now;
        var batches = new List<(RecordId, IReadOnlyList<Sample>, long)> { (LogOf(device, "", FailuresKey), [new Sample(0, now, health.Failures, StatusFlags.None)], 0) };
        foreach (ChannelHealth channel in health.Channels)
        {
            foreach (Counted counted in Counted.All)
            {
                if (counted.Of(channel) is { } value) batches.Add((LogOf(device, channel.Channel, counted.Key), [new Sample(0, now, value, StatusFlags.None)], 0));
            }
        }
        // A look that is still under way while the project closes has nowhere to put what it saw.
        lock (_store)
        {
            if (!_stop.IsCancellationRequested) _store.Write(batches);
        }
    }

    /// <summary>What was seen of a device in a stretch of site time: a line for each channel that counts it, or that of the whole device.</summary>
    internal IReadOnlyList<TrendData> Read(BusDevice device, DeviceForm form, string what, long from, long to, int columns)
    {
        if (what == FailuresKey) return [Line(device, "", what, "Bus lost", "×", from, to, columns)];
        Counted counted = Counted.All.First(c => c.Key == what);
        return [.. form.Channels.Where(c => c.Behaviour.Drives.Count > 0).Select(c => Line(device, c.Key, what, device.ChannelName(c), counted.Unit.Length > 0 ? counted.Unit : c.Behaviour.Drives[0].Unit, from, to, columns)).Where(d => d.At.Count > 0)];
    }

    /// <summary>All that was seen of a device, as CSV with the time as the site has it.</summary>
    internal string Csv(BusDevice device, DeviceForm form)
    {
        var text = new StringBuilder("time (UTC),channel,what,value,unit\r\n");
        IEnumerable<(string Channel, string Name, string Key, string Unit)> rows = [("", device.Name, FailuresKey, "×"), .. form.Channels.Where(c => c.Behaviour.Drives.Count > 0).SelectMany(c => Counted.All.Select(k => (c.Key, device.ChannelName(c), k.Key, k.Unit)))];
        foreach (var (channel, name, key, unit) in rows)
        {
            foreach (Sample sample in _store.Samples(LogOf(device.Id, channel, key), 0, long.MaxValue))
                text.Append(CultureInfo.InvariantCulture, $"{DateTimeOffset.FromUnixTimeMilliseconds(sample.AtMilliseconds):yyyy-MM-ddTHH:mm:ssZ},{BusWorkEndpoints.Cell(name)},{key},{sample.Value:0.###},{unit}\r\n");
        }
        return text.ToString();
    }

    /// <summary>Looks by itself from now on.</summary>
    public void Start()
    {
        _watch = Task.Run(async () =>
        {
            using var timer = new PeriodicTimer(Beat);
            try
            {
                while (await timer.WaitForNextTickAsync(_stop.Token)) Quietly();
            }
            catch (OperationCanceledException)
            {
                // The project is closed.
            }
        });
    }

    private void Quietly()
    {
        try
        {
            if (Minutes > 0) Look();
            Thin();
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // A site that does not answer is told elsewhere; it is looked at when it does.
            _log.LogWarning("Bus devices could not be looked at: {Message}", e.Message);
        }
    }

    /// <summary>Looks at all devices that have an address, when it is time and no other work is on the lines; answers whether it does.</summary>
    public bool Look()
    {
        long now = _site.Clock().Now;
        int minutes = Minutes;
        // A clock that was set back begins anew.
        if (_lookedAt is not { } last || now < last) _lookedAt = last = now;
        if (minutes == 0 || now - last < minutes * Minute || _jobs.All.Any(j => j.State == JobState.Running && j.Kind.StartsWith("bus", StringComparison.Ordinal))) return false;
        Project project = _workspace.Project;
        List<RecordId> devices = [.. project.All<BusDevice>().Where(d => d.AddressIn(project) is not null).OrderBy(d => d.AddressIn(project)!.Value.Raw).Select(d => d.Id)];
        _lookedAt = now;
        if (devices.Count == 0) return false;
        _jobs.Start(BusWork.LookJob, $"Look at {devices.Count} bus devices", Program, new BusLookOrder(devices));
        return true;
    }

    /// <summary>Leaves of each day that is long enough ago what was seen last, once a day.</summary>
    public void Thin()
    {
        long until = (_site.Clock().Now / Day) - WholeDays;
        long from = long.TryParse(_contacts.Store.Setting(ThinnedKey), out long day) ? day : 0;
        if (from >= until) return;
        lock (_store)
        {
            if (_stop.IsCancellationRequested) return;
            _store.Thin(from * Day, until * Day, Day);
        }
        _contacts.Store.Set(ThinnedKey, $"{until}");
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _stop.Cancel();
        _watch.Wait(TimeSpan.FromSeconds(3));
        lock (_store) _store.Dispose();
    }

    private TrendData Line(BusDevice device, string channel, string what, string name, string unit, long from, long to, int columns)
    {
        RecordId log = LogOf(device.Id, channel, what);
        IReadOnlyList<Bucket> buckets = _store.Buckets(log, from, to, columns);
        return new TrendData(log, name, unit, PointKind.Analog, [], [.. buckets.Select(b => b.From)], [.. buckets.Select(b => (double?)b.Least)], [.. buckets.Select(b => (double?)b.Greatest)], [.. buckets.Select(b => (double?)b.Last)], 0);
    }

    // A log is known by what it is of, however long that is called.
    private static RecordId LogOf(RecordId device, string channel, string what) => new(Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{device}/{channel}/{what}")))[..40]);
}
