using System.Collections.Concurrent;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Tunnel;
using LoftyWren.VirtualSite.Bus;

namespace LoftyWren.Server.Installation;

/// <content>Two-wire lines: what hangs on them, what is done at it, and the interfaces through which programs reach them.</content>
public sealed partial class SiteHost
{
    private readonly ConcurrentDictionary<RecordId, (TunnelServer Server, GateLine Line)> _gates = new();

    private bool IsGateOpen => !_gates.IsEmpty && _gates.Values.Any(g => g.Server.Open > 0);

    private static BusMedium BusOf(VirtualSite.Site site) => site.Media.OfType<BusMedium>().Single();

    /// <inheritdoc/>
    public void HangOnBus(string who, string what, IReadOnlyList<BoxedBusDevice> boxes)
    {
        BusChange(who, what, boxes.Count == 1 ? boxes[0].Id : null, bus =>
        {
            foreach (BoxedBusDevice box in boxes) bus.Hang(box);
        });
        OpenGates();
    }

    /// <inheritdoc/>
    public void TakeOffBus(string who, string what, IReadOnlyList<RecordId> devices)
    {
        BusChange(who, what, devices.Count == 1 ? devices[0] : null, bus =>
        {
            foreach (RecordId id in devices) bus.TakeDown(id);
        });
        foreach (RecordId id in devices)
        {
            if (_gates.TryRemove(id, out var gate)) gate.Server.Dispose();
        }
    }

    /// <inheritdoc/>
    public void ActOnBus(string who, string what, RecordId device, BusDeed deed) => BusChange(who, what, device, bus => bus.Do(device, (unit, now) =>
    {
        switch (deed)
        {
            case BusDeed.Press:
                if (!unit.IsAlive) throw new InvalidOperationException("Its light stays dark: it has no bus. Feed its line, or connect it again.");
                unit.Press();
                break;
            case BusDeed.Reset:
                unit.Reset(now);
                break;
            case BusDeed.TakeBus or BusDeed.GiveBus:
                unit.Supply(now, unit.HasBus, isOff: deed == BusDeed.TakeBus);
                break;
            default:
                unit.Mains(now, deed == BusDeed.GiveMains);
                break;
        }
    }));

    // What hangs is kept with the plant: with what was done there it is written at once; what cannot be written is taken back.
    private void BusChange(string who, string what, RecordId? record, Action<BusMedium> change)
    {
        lock (_pen)
        {
            lock (_turn)
            {
                BusMedium bus = BusOf(_site);
                object? before = bus.Remember()();
                try
                {
                    change(bus);
                    bus.Fed();
                    Write(Clock(hasPlant: true), [new Storage.Site.TrailEntry(0, clock.GetUtcNow().ToUnixTimeMilliseconds(), _site.Now, who, what, record)]);
                }
                catch (Microsoft.Data.Sqlite.SqliteException e)
                {
                    bus.Recall(before);
                    throw new Storage.StorageException(Storage.StorageTrouble.Say(e, store.Database.FilePath));
                }
            }
        }
        Interlocked.Increment(ref _happenings);
    }

    /// <inheritdoc/>
    public IReadOnlyList<SeenBusDevice> BusDevices() => Ask(site =>
    {
        BusMedium bus = BusOf(site);
        return (IReadOnlyList<SeenBusDevice>)[.. bus.Boxes.Select(b => Seen(b, bus, site.Now))];
    });

    /// <summary>What stands for a port where it is told what really is in the building, which a device need not know.</summary>
    internal const string InBuilding = "building";

    private static SeenBusDevice Seen(BoxedBusDevice box, BusMedium bus, long now)
    {
        BusUnit unit = bus.Find(box.Id)!;
        var loads = new List<SeenLoad>();
        DeviceForm form = box.Description.Form;
        for (int c = 0; c < form.Channels.Count; c++)
        {
            foreach (BehaviourPort port in form.Channels[c].Behaviour.Drives)
            {
                double value = unit.LoadOf(c, port, now);
                if (!double.IsFinite(value)) continue;
                loads.Add(new SeenLoad(form.Channels[c].Key, port.Key, port.Say(value), value));
            }
        }
        loads.AddRange(bus.MovedBy(box.Id).Select(m => new SeenLoad(m.Channel, InBuilding, m.Port.Say(m.Value), m.Value)));
        return new SeenBusDevice(box.Id, box.Line, unit.Serial, unit.IsProgramming, unit.IsAlive, unit.HasMains, loads);
    }

    /// <inheritdoc/>
    public IReadOnlyList<BusGate> BusGates() => [.. _gates.OrderBy(g => g.Key).Select(g => new BusGate(g.Key, g.Value.Line.Line, g.Value.Server.At.Port))];

    /// <summary>Listens for every interface that hangs and is not listened for yet.</summary>
    private void OpenGates()
    {
        lock (_opening)
        {
            foreach (BoxedBusDevice box in Ask(s => BusOf(s).Boxes.Where(b => b.Description.Role == LineRole.Interface).ToList()))
            {
                if (_gates.TryGetValue(box.Id, out var there))
                {
                    if (there.Line.Line == box.Line) continue;
                    there.Server.Dispose();
                }
                var line = new GateLine(this, box);
                _gates[box.Id] = (new TunnelServer(line), line);
            }
        }
    }

    private void CloseGates()
    {
        foreach (var (server, _) in _gates.Values) server.Dispose();
        _gates.Clear();
    }

    /// <summary>The line as an interface of the site has it.</summary>
    private sealed class GateLine(SiteHost host, BoxedBusDevice box) : ITunnelLine
    {
        // Beside its own address an interface has some for its tunnels.
        private const int FirstOfTunnels = 240, MostWaiting = 64;
        private readonly ConcurrentDictionary<int, GateStation> _stations = new();

        public string Line => box.Line;

        public TunnelIdentity Identity => host.Ask(s => BusOf(s).Find(box.Id) is { } unit ? new TunnelIdentity(unit.Address, BusSerial.Octets(unit.Serial), box.Description.Name) : new TunnelIdentity(IndividualAddress.Factory, new byte[6], box.Description.Name));

        public IndividualAddress? Open(int tunnel, Action<BusFrame> heard, Action<BusFrame, bool> sent) => host.Ask<IndividualAddress?>(s =>
        {
            BusMedium bus = BusOf(s);
            if (bus.Find(box.Id) is not { IsAlive: true } unit) return null;
            IndividualAddress own = unit.Address == IndividualAddress.Factory ? IndividualAddress.Of(15, 15, FirstOfTunnels + tunnel) : IndividualAddress.Of(unit.Address.Area, unit.Address.Line, FirstOfTunnels + tunnel);
            var station = new GateStation($"{box.Id}/tunnel{tunnel}", unit, own, heard, sent);
            _stations[tunnel] = station;
            bus.Network.Line(box.Line).Attach(station);
            return own;
        });

        public void Close(int tunnel)
        {
            if (_stations.TryRemove(tunnel, out GateStation? station)) host.Ask(s => BusOf(s).Network.Line(box.Line).Detach(station));
        }

        public void Say(int tunnel, BusFrame frame)
        {
            if (!_stations.TryGetValue(tunnel, out GateStation? station)) return;
            BusFrame own = frame with { From = station.Address };
            bool isWaiting = host.Ask(s =>
            {
                TwoWireLine line = BusOf(s).Network.Line(box.Line);
                // Whoever does not wait until one is sent finds that there is room for so many.
                if (line.WaitingOf(station) >= MostWaiting) return false;
                line.Want(station, own, s.Now * 1000);
                return true;
            });
            if (!isWaiting) station.Sent(0, own, false);
        }
    }

    /// <summary>A tunnel as a station of the line: it takes what is to it and to all, and passes on whatever it hears.</summary>
    private sealed class GateStation(string key, BusUnit unit, IndividualAddress address, Action<BusFrame> heard, Action<BusFrame, bool> sent) : ILineStation
    {
        public string Key => key;

        public IndividualAddress Address => address;

        public bool IsAlive => unit.IsAlive;

        public LineAnswer Answer(BusFrame frame) => frame.IsBroadcast || (!frame.IsToGroup && frame.Device == address) ? LineAnswer.Taken : LineAnswer.None;

        public void Hear(long microseconds, BusFrame frame) => heard(frame);

        public void Sent(long microseconds, BusFrame frame, bool isTaken) => sent(frame, isTaken);
    }
}
