using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Media;

/// <summary>
/// A sort of medium that carries messages: whether one goes at a time, how many bits a second and for each octet, how many
/// octets each message has besides its body, and how long a bit travels, in ms.
/// </summary>
public sealed record LineSort(string Key, bool OneAtATime, int BitsPerSecond, int BitsPerOctet, int ExtraOctets, int DelayMilliseconds)
{
    /// <summary>
    /// Those that ship: the serial trunk sends characters of 11 bits at 38 400 bit/s, one message at a time; the IP network carries
    /// side by side. Two-wire lines are no such medium: see <see cref="Bus.BusMedium"/>.
    /// </summary>
    public static IReadOnlyList<LineSort> All { get; } =
    [
        new(Carriers.Ip, false, 100_000_000, 8, 66, 2),
        new(Carriers.Trunk, true, 38_400, 11, 8, 1),
    ];
}

/// <summary>What is on its way, until when a line of one message at a time is taken, and how often chance was asked for each address.</summary>
public sealed record LineMemory(IReadOnlyList<LineMessage> OnTheWay, long FreeAt, Dictionary<string, long> Draws);

/// <summary>A message on its way: when it arrives (ms of site time), from whom, to whom (null: all), its bytes.</summary>
public sealed record LineMessage(long Arrives, string From, string? To, byte[] Body);

/// <summary>A line of one sort: a queue of messages by the time of their arrival, with the delays, losses and breaks that the site's plan builds in.</summary>
public sealed class Line(LineSort sort, Site site) : IMedium
{
    private readonly Dictionary<RecordId, MessagePort> _ports = [];
    private readonly Dictionary<string, (RecordId Host, MessagePort Port)> _byAddress = new(StringComparer.Ordinal);
    private readonly PriorityQueue<LineMessage, (long, long)> _onTheWay = new();
    private Dictionary<string, long> _draws = [];
    private long _freeAt, _sent;

    /// <inheritdoc/>
    public string Key => sort.Key;

    /// <inheritdoc/>
    public long NextDue => _onTheWay.TryPeek(out LineMessage? next, out _) ? next.Arrives : long.MaxValue;

    /// <inheritdoc/>
    public void Run(long now, Action<RecordId> came)
    {
        while (_onTheWay.TryPeek(out LineMessage? next, out _) && next.Arrives <= now)
        {
            _onTheWay.Dequeue();
            if (next.To is { } to)
            {
                if (_byAddress.TryGetValue(to, out var at)) Bring(at.Host, at.Port, next, came);
            }
            else
            {
                foreach (var (host, port) in _ports.OrderBy(p => p.Key))
                {
                    if (port.Address != next.From) Bring(host, port, next, came);
                }
            }
        }
    }

    private void Bring(RecordId host, MessagePort port, LineMessage message, Action<RecordId> came)
    {
        if (FaultOf(port.Address) is { IsCut: true }) return;
        port.Hear(message.Arrives, new Telegram(message.From, message.To, message.Body));
        if (port.HasSaid) Take(port, message.Arrives);
        came(host);
    }

    private void Take(MessagePort port, long now) => port.Take((to, body) =>
    {
        MediumFault? fault = FaultOf(port.Address);
        if (fault is { IsCut: true }) return;
        bool isLost = fault is { LostPercent: > 0 } && Even(port.Address) * 100 < fault.LostPercent;
        long begins = sort.OneAtATime ? Math.Max(now, _freeAt) : now;
        long ends = begins + Math.Max(1, (((body.Length + (long)sort.ExtraOctets) * sort.BitsPerOctet * 1000) + sort.BitsPerSecond - 1) / sort.BitsPerSecond);
        if (sort.OneAtATime) _freeAt = ends;
        // What is lost on the way has taken the line all the same.
        if (!isLost) Send(new LineMessage(ends + sort.DelayMilliseconds + (fault?.DelayMilliseconds ?? 0), port.Address, to, body));
    });

    private void Send(LineMessage message) => _onTheWay.Enqueue(message, (message.Arrives, _sent++));

    private MediumFault? FaultOf(string address)
    {
        foreach (MediumFault fault in site.Built.MediumFaults)
        {
            if (fault.Medium == Key && (fault.Address is null || fault.Address == address)) return fault;
        }
        return null;
    }

    /// <summary>An even draw between 0 and 1, by the site's seed and the address: what one end is spared does not hang on what others say.</summary>
    private double Even(string address) => Chance.Draw(Chance.SeedOf(address) ^ (uint)site.Built.Seed, _draws[address] = _draws.GetValueOrDefault(address) + 1) / (double)uint.MaxValue;

    /// <inheritdoc/>
    public IConnection Connect(RecordId host, IDevicePort port)
    {
        Disconnect(host);
        var own = (MessagePort)port;
        _ports[host] = own;
        _byAddress[own.Address] = (host, own);
        return new Connection(this, own);
    }

    /// <inheritdoc/>
    public void Disconnect(RecordId host)
    {
        if (_ports.Remove(host, out MessagePort? port)) _byAddress.Remove(port.Address);
    }

    /// <inheritdoc/>
    public IEnumerable<(RecordId, RecordId)> Pairs()
    {
        foreach (var (host, port) in _ports)
        {
            // Where one goes at a time, whoever speaks makes the others wait.
            if (port.TalksTo is null || sort.OneAtATime)
            {
                // Whoever may be there: all of them.
                foreach (RecordId other in _ports.Keys) yield return (host, other);
                continue;
            }
            foreach (string address in port.TalksTo)
            {
                if (_byAddress.TryGetValue(address, out var other)) yield return (host, other.Host);
            }
        }
    }

    /// <inheritdoc/>
    public Func<object?> Remember()
    {
        (LineMessage Element, (long, long) Priority)[] onTheWay = [.. _onTheWay.UnorderedItems];
        var (freeAt, draws) = (_freeAt, new Dictionary<string, long>(_draws));
        return () => new LineMemory([.. onTheWay.OrderBy(m => m.Priority).Select(m => m.Element)], freeAt, draws);
    }

    /// <inheritdoc/>
    public Type MemoryType => typeof(LineMemory);

    /// <inheritdoc/>
    public void Recall(object? memory)
    {
        _onTheWay.Clear();
        if (memory is not LineMemory kept) return;
        (_freeAt, _draws) = (kept.FreeAt, new Dictionary<string, long>(kept.Draws));
        foreach (LineMessage message in kept.OnTheWay) Send(message);
    }

    private sealed class Connection(Line line, MessagePort port) : IConnection
    {
        public void BeforeRun(long now)
        {
        }

        public void AfterRun(long now)
        {
            if (port.HasSaid) line.Take(port, now);
        }
    }
}
