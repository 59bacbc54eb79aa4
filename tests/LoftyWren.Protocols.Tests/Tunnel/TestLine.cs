using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Protocols.Tunnel;

namespace LoftyWren.Protocols.Tests.Tunnel;

/// <summary>A line in the time of this machine, with devices and an interface: what a virtual site has, without the site.</summary>
internal sealed class TestLine : ITunnelLine, IDisposable
{
    private readonly BusNetwork _network = new();
    private readonly Lock _turn = new();
    private readonly CancellationTokenSource _stop = new();
    private readonly Dictionary<int, Station> _stations = [];
    private readonly Task _clock;
    private long _now = 1_000_000;

    public TestLine() => _clock = Task.Run(() =>
    {
        // Faster than real time, so that tests wait for little.
        while (!_stop.IsCancellationRequested)
        {
            lock (_turn) _network.RunUntil(_now += 25);
            Thread.Sleep(1);
        }
    });

    public bool IsFed { get; set; } = true;

    public TunnelIdentity Identity { get; } = new(IndividualAddress.Of(1, 1, 5), [0, 0xFA, 0x10, 0, 1, 5], "Interface of a test");

    public BusUnit Hang(string key, string description, string serial)
    {
        lock (_turn) return _network.Hang(_now, key, "line", DescriptionShelf.Shipped.Single(d => d.Id == description), serial);
    }

    public T Ask<T>(Func<long, T> question)
    {
        lock (_turn) return question(_now);
    }

    public void Do(BusUnit unit, Action<BusUnit, long> deed)
    {
        lock (_turn) _network.Do(_now, unit, deed);
    }

    public IndividualAddress? Open(int tunnel, Action<BusFrame> heard, Action<BusFrame, bool> sent)
    {
        if (!IsFed) return null;
        lock (_turn)
        {
            var station = new Station(tunnel, heard, sent);
            _stations[tunnel] = station;
            _network.Line("line").Attach(station);
            return station.Address;
        }
    }

    public void Close(int tunnel)
    {
        lock (_turn)
        {
            if (_stations.Remove(tunnel, out Station? station)) _network.Line("line").Detach(station);
        }
    }

    public void Say(int tunnel, BusFrame frame)
    {
        lock (_turn)
        {
            if (_stations.TryGetValue(tunnel, out Station? station)) _network.Line("line").Want(station, frame with { From = station.Address }, _now * 1000);
        }
    }

    public void Dispose()
    {
        _stop.Cancel();
        _clock.Wait();
        _stop.Dispose();
    }

    private sealed class Station(int tunnel, Action<BusFrame> heard, Action<BusFrame, bool> sent) : ILineStation
    {
        public string Key => $"tunnel{tunnel}";

        public IndividualAddress Address { get; } = IndividualAddress.Of(1, 1, 240 + tunnel);

        public bool IsAlive => true;

        public LineAnswer Answer(BusFrame frame) => frame.IsBroadcast || (!frame.IsToGroup && frame.Device == Address) ? LineAnswer.Taken : LineAnswer.None;

        public void Hear(long microseconds, BusFrame frame) => heard(frame);

        public void Sent(long microseconds, BusFrame frame, bool isTaken) => sent(frame, isTaken);
    }
}

/// <summary>Labels that add up.</summary>
internal static class Labels
{
    public static string Of(int number) => BusSerial.Label(0x00FA_1000_0000ul + (uint)number);
}
