using System.Collections.Concurrent;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Tunnel;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Supervision;

namespace LoftyWren.Server.Bus.Work;

/// <summary>A telegram as it was heard: its number, when (ms, of the site where it is a virtual one), how urgent, from whom and to whom with their names, what it says in words, whether it was repeated, its octets and how long it took, µs.</summary>
public sealed record HeardTelegram(long Number, long At, BusPriority Priority, string From, string? FromName, RecordId? FromId, string To, string? ToName, RecordId? ToId, string Service, string Says, bool IsRepeated, string Octets, long Microseconds);

/// <summary>How loaded a line was: in the last whole second, at its busiest second of the last two minutes and when that was (ms), in %; and second by second, oldest first.</summary>
public sealed record LineLoad(double Now, double Busiest, long BusiestAt, IReadOnlyList<double> Seconds);

/// <summary>Who spoke how much: a device or a group, how many telegrams, what share of all time, %.</summary>
public sealed record LoadShare(string Address, string? Name, long Telegrams, double Percent);

/// <summary>
/// Listens to a line over an interface and keeps what it hears, the last twenty thousand telegrams. It decodes by the project as it is when
/// somebody looks: names and datapoint types that come later are there too.
/// </summary>
public sealed class BusMonitor(RecordId line, TunnelClient tunnel, Func<long> now) : IAsyncDisposable
{
    private const int Most = 20_000, LoadSeconds = 120;
    private readonly Lock _turn = new();
    private readonly Queue<(long Number, long At, BusFrame Frame, long Microseconds)> _heard = new();
    private readonly Dictionary<long, long> _bySecond = [];
    private readonly Dictionary<ushort, (long Count, long Microseconds)> _byDevice = [], _byGroup = [];
    private long _number, _since;

    /// <summary>The line.</summary>
    public RecordId Line => line;

    /// <summary>Why it listens no more, or null.</summary>
    public string? Closed => tunnel.Closed;

    /// <summary>How many it has heard.</summary>
    public long Count => _number;

    /// <summary>Begins.</summary>
    public void Begin()
    {
        _since = now();
        tunnel.Heard += Heard;
    }

    private void Heard(BusFrame frame)
    {
        long at = now(), takes = FrameTime.OnTheLine(frame.Octets);
        lock (_turn)
        {
            _heard.Enqueue((++_number, at, frame, takes));
            if (_heard.Count > Most) _heard.Dequeue();
            _bySecond[at / 1000] = _bySecond.GetValueOrDefault(at / 1000) + takes;
            foreach (long old in _bySecond.Keys.Where(s => s < (at / 1000) - LoadSeconds).ToList()) _bySecond.Remove(old);
            Add(_byDevice, frame.From.Raw, takes);
            if (frame.IsToGroup) Add(_byGroup, frame.To, takes);
        }

        static void Add(Dictionary<ushort, (long Count, long Microseconds)> to, ushort key, long takes) => to[key] = (to.GetValueOrDefault(key).Count + 1, to.GetValueOrDefault(key).Microseconds + takes);
    }

    /// <summary>The telegrams after a number in which some words are, oldest first; the last ones where there are more than are wanted.</summary>
    public IReadOnlyList<HeardTelegram> After(Project project, long after, string? words, int most)
    {
        (long Number, long At, BusFrame Frame, long Microseconds)[] fresh;
        lock (_turn) fresh = [.. _heard.Where(h => h.Number > after)];
        string[] wanted = (words ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        var found = new List<HeardTelegram>();
        for (int i = fresh.Length - 1; i >= 0 && found.Count < most; i--)
        {
            HeardTelegram one = Decode(project, fresh[i].Number, fresh[i].At, fresh[i].Frame, fresh[i].Microseconds);
            string all = $"{one.From} {one.FromName} {one.To} {one.ToName} {one.Service} {one.Says} {one.Priority}";
            if (Array.TrueForAll(wanted, w => all.Contains(w, StringComparison.OrdinalIgnoreCase))) found.Add(one);
        }
        found.Reverse();
        return found;
    }

    /// <summary>The recorded values of groups from one number to another, with when each was.</summary>
    public IReadOnlyList<(long At, BusFrame Frame)> Recorded(long from, long until)
    {
        lock (_turn) return [.. _heard.Where(h => h.Number >= from && h.Number <= until && h.Frame.Service == BusService.GroupWrite).Select(h => (h.At, h.Frame))];
    }

    /// <summary>How loaded the line is.</summary>
    public LineLoad Load()
    {
        long second = now() / 1000;
        lock (_turn)
        {
            double Of(long s) => Math.Round(Math.Min(100, _bySecond.GetValueOrDefault(s) / 10_000.0), 1);
            long first = Math.Max(second - LoadSeconds, _since / 1000);
            double[] seconds = [.. Enumerable.Range(0, (int)Math.Clamp(second - first, 0, LoadSeconds)).Select(i => Of(first + i))];
            int busiest = seconds.Length == 0 ? 0 : Array.IndexOf(seconds, seconds.Max());
            return new LineLoad(Of(second - 1), seconds.Length == 0 ? 0 : seconds[busiest], (first + busiest) * 1000, seconds);
        }
    }

    /// <summary>Who spoke most: devices, then groups.</summary>
    public (IReadOnlyList<LoadShare> Devices, IReadOnlyList<LoadShare> Groups) Shares(Project project, int most)
    {
        double passed = Math.Max(1, now() - _since) * 1000.0;
        lock (_turn)
        {
            return ([.. _byDevice.OrderByDescending(d => d.Value.Microseconds).Take(most).Select(d => new LoadShare(new IndividualAddress(d.Key).ToString(), BusDevice.At(project, new(d.Key))?.Name, d.Value.Count, Math.Round(100 * d.Value.Microseconds / passed, 2)))],
                [.. _byGroup.OrderByDescending(d => d.Value.Microseconds).Take(most).Select(d => new LoadShare(new GroupNumber(d.Key).ToString(), GroupAddress.At(project, new(d.Key))?.Name, d.Value.Count, Math.Round(100 * d.Value.Microseconds / passed, 2)))]);
        }
    }

    /// <summary>A telegram in words, by the names and types of the project.</summary>
    internal static HeardTelegram Decode(Project project, long number, long at, BusFrame frame, long microseconds)
    {
        BusDevice? from = BusDevice.At(project, frame.From), to = frame.IsToGroup ? null : BusDevice.At(project, frame.Device);
        GroupAddress? group = frame is { IsToGroup: true, IsBroadcast: false } ? GroupAddress.At(project, frame.Group) : null;
        var (service, says) = Words(frame, group is null ? null : DatapointType.Find(group.Datapoint));
        return new HeardTelegram(number, at, frame.Priority, frame.From.ToString(), from?.Name, from?.Id, frame.IsBroadcast ? "all" : frame.IsToGroup ? frame.Group.ToString() : frame.Device.ToString(), frame.IsBroadcast ? null : group?.Name ?? to?.Name, group?.Id ?? to?.Id, service, says, frame.IsRepeated, Convert.ToHexString(frame.ToOctets()), microseconds);
    }

    private static (string Service, string Says) Words(BusFrame frame, DatapointType? type)
    {
        string value = type is not null && frame.Value.Length >= type.Octets ? type.Say(frame.Value) : frame.Unit.Length == 2 ? $"{frame.Value[0]}" : Convert.ToHexString(frame.Value);
        return frame.Service switch
        {
            BusService.GroupWrite => ("says", value),
            BusService.GroupAnswer => ("answers", value),
            BusService.GroupRead => ("asks", ""),
            BusService.AddressWrite => ("gives an address", frame.Data.Length >= 2 ? new IndividualAddress((ushort)((frame.Data[0] << 8) | frame.Data[1])).ToString() : ""),
            BusService.AddressRead => ("asks who waits", ""),
            BusService.AddressAnswer => ("waits for an address", ""),
            BusService.DescriptorRead => ("asks whether it is there", ""),
            BusService.DescriptorAnswer => ("is there", Convert.ToHexString(frame.Data)),
            BusService.Restart => ("starts it again", ""),
            BusService.SerialRead => ("asks for the label", frame.Data.Length >= 6 ? BusSerial.Label(frame.Data) : ""),
            BusService.SerialAnswer => ("has the label", frame.Data.Length >= 6 ? BusSerial.Label(frame.Data) : ""),
            BusService.SerialWrite => ("gives an address by label", frame.Data.Length >= 8 ? $"{BusSerial.Label(frame.Data)} → {new IndividualAddress((ushort)((frame.Data[6] << 8) | frame.Data[7]))}" : ""),
            BusService.PropertyRead or BusService.PropertyWrite or BusService.PropertyAnswer when BusPids.Read(frame) is var (part, pid, first, count, octets) =>
                (frame.Service switch { BusService.PropertyRead => "reads", BusService.PropertyWrite => "writes", _ => count == 0 ? "has not" : "has" }, $"{BusPids.Say(part, pid)}{(first != 1 ? $" ({first})" : "")}{(octets.Length > 0 ? " " + Convert.ToHexString(octets) : "")}"),
            _ => ("other", Convert.ToHexString(frame.Unit)),
        };
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        tunnel.Heard -= Heard;
        await tunnel.DisposeAsync();
    }
}

/// <summary>The monitors of a project, one for each line that somebody listens to.</summary>
public sealed class BusMonitors(BusLines lines, IVirtualSite site, TimeProvider clock) : IDisposable
{
    private readonly ConcurrentDictionary<RecordId, BusMonitor> _open = new();
    private readonly SemaphoreSlim _opening = new(1, 1);
    private readonly Lock _turn = new();
    private (long At, long Site, double Rate) _known = (long.MinValue / 2, 0, 1);

    /// <summary>The monitor of a line, or null where nobody listens.</summary>
    public BusMonitor? Find(RecordId line) => _open.GetValueOrDefault(line);

    /// <summary>Begins to listen to a line; goes on where somebody does already.</summary>
    public async Task<BusMonitor> Listen(RecordId line, CancellationToken stop)
    {
        await _opening.WaitAsync(stop);
        try
        {
            if (Find(line) is { Closed: null } there) return there;
            var monitor = new BusMonitor(line, await TunnelClient.Connect(lines.InterfaceOf(line), stop), SiteNow);
            monitor.Begin();
            _open[line] = monitor;
            return monitor;
        }
        finally
        {
            _opening.Release();
        }
    }

    /// <summary>Listens no more; what was heard is gone.</summary>
    public async Task End(RecordId line)
    {
        if (_open.TryRemove(line, out BusMonitor? monitor)) await monitor.DisposeAsync();
    }

    // The site's clock, asked for now and then and carried on between.
    private long SiteNow()
    {
        lock (_turn)
        {
            long tick = clock.GetUtcNow().ToUnixTimeMilliseconds();
            if (tick - _known.At > 100)
            {
                try
                {
                    ClockView view = site.Clock();
                    _known = (tick, view.Now, view.Running ? view.Speed : 0);
                }
                catch (LinkException)
                {
                    // Nobody answers at the site just now: its clock is carried on.
                    _known = (tick, _known.Site + (long)((tick - _known.At) * _known.Rate), _known.Rate);
                }
            }
            return _known.Site + (long)((tick - _known.At) * _known.Rate);
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (BusMonitor monitor in _open.Values) monitor.DisposeAsync().AsTask().Wait(TimeSpan.FromSeconds(1));
        _open.Clear();
        _opening.Dispose();
    }
}
