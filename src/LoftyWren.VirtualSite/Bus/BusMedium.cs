using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Media;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Bus;

/// <summary>What a channel senses or drives in the building: which of its ports, and the quantity.</summary>
public sealed record BusTie(string Channel, string Port, string Quantity);

/// <summary>
/// A bus device out of its box, to be hung: on which line, of a coupler the line above, what it is, the number on its label,
/// what its channels are tied to. One that was written at the bench before has an address and what it does.
/// </summary>
public sealed record BoxedBusDevice(RecordId Id, string Line, string? Above, DeviceDescription Description, string Serial, IReadOnlyList<BusTie> Ties, IndividualAddress? Address = null, ApplicationImage? Image = null);

/// <summary>A device that hangs, with its description by its place among those that are kept; of each tie that the building has, what it saw last (null: nothing), and whether it drives.</summary>
public sealed record KeptBusDevice(RecordId Id, string Line, string? Above, int Description, string Serial, IReadOnlyList<BusTie> Ties, IReadOnlyList<double?> Seen, IReadOnlyList<bool> Drove);

/// <summary>What the two-wire lines of a site keep: what hangs, each description once, and what the network knows; what controllers heard and said last.</summary>
public sealed record BusMediumMemory(IReadOnlyList<DeviceDescription> Descriptions, IReadOnlyList<KeptBusDevice> Hung, BusNetworkMemory Network, long NextLook, long Draws, IReadOnlyDictionary<RecordId, IReadOnlyDictionary<string, double>> Heard);

/// <summary>
/// The two-wire lines of a site with what hangs on them. Their devices look at the building, and move it, whenever it has
/// moved on; their telegrams go at their own times.
/// </summary>
public sealed class BusMedium(Site site) : IMedium
{
    private const long LookEvery = Plant.Plant.StepSeconds * 1000L, LookEveryOfMotors = 1000;

    /// <summary>How long the blinds of the building run from end to end, s, when somebody drives their motors by hand: not quite what is set at their devices.</summary>
    public const double RunsDownFor = 52, RunsUpFor = 55;
    private readonly Dictionary<RecordId, Hung> _hung = [];
    private readonly SortedDictionary<RecordId, PortStation> _ports = [];
    private readonly HashSet<PortStation> _news = [];
    private Plant.Plant? _plant;
    private IReadOnlyList<BuiltInFault>? _faults;
    private long _nextLook = long.MaxValue;

    /// <summary>A device with what it is tied to, as places in the plant.</summary>
    private sealed class Hung(BoxedBusDevice box, BusUnit unit)
    {
        public BoxedBusDevice Box = box;
        public BusUnit Unit = unit;
        public List<(int Channel, BehaviourPort Port, bool IsDriven, string Name, int Quantity)> Ties = [];
        public double[] Seen = [];
        public bool[] Drove = [];

        // At what the actuator of a tie is stuck; not a number where it moves.
        public double[] StuckAt = [];
        public DeviceRunner? Told;

        public void Find(Plant.Plant plant, SitePlan built)
        {
            Ties.Clear();
            DeviceForm form = Box.Description.Form;
            foreach (BusTie tie in Box.Ties)
            {
                int channel = form.ChannelAt(tie.Channel);
                if (channel < 0 || plant.IndexOf(tie.Quantity) is not (>= 0 and var quantity)) continue;
                BehaviourKind kind = form.Channels[channel].Behaviour;
                if (kind.Drives.FirstOrDefault(p => p.Key == tie.Port) is { } drives) Ties.Add((channel, drives, true, tie.Quantity, quantity));
                else if (kind.Senses.FirstOrDefault(p => p.Key == tie.Port) is { } senses) Ties.Add((channel, senses, false, tie.Quantity, quantity));
            }
            (Seen, Drove) = (new double[Ties.Count], new bool[Ties.Count]);
            Array.Fill(Seen, double.NaN);
            StuckAt = [.. Ties.Select(t => built.Faults.FirstOrDefault(f => f.Fault == WireFault.Stuck && f.ControllerId == Box.Id && f.Terminal == $"{form.Channels[t.Channel].Key}.{t.Port.Key}")?.Value ?? double.NaN)];
        }
    }

    private long Now => site.Now;

    /// <summary>The lines and what hangs on them.</summary>
    public BusNetwork Network { get; private set; } = new();

    /// <summary>What hangs.</summary>
    public IEnumerable<BoxedBusDevice> Boxes => _hung.Values.Select(h => h.Box).OrderBy(b => b.Id);

    /// <summary>The unit of a device, or null.</summary>
    public BusUnit? Find(RecordId id) => _hung.TryGetValue(id, out Hung? hung) ? hung.Unit : null;

    /// <inheritdoc/>
    public string Key => Carriers.TwoWire;

    /// <inheritdoc/>
    public long NextDue => Math.Min(Network.NextDue, _nextLook);

    /// <summary>
    /// Hangs a device. One with the same label that hangs there already stays as it is, wherever it is drawn now and whatever
    /// it is tied to anew.
    /// </summary>
    public void Hang(BoxedBusDevice box)
    {
        if (_hung.TryGetValue(box.Id, out Hung? there) && there.Box.Serial == box.Serial && there.Box.Line == box.Line && there.Box.Above == box.Above && there.Box.Description.Equals(box.Description)) there.Box = box with { Address = null, Image = null };
        else
        {
            there = Mount(box);
            if (box.Image is { } image) Network.Do(site.Now, there.Unit, (unit, now) => unit.Write(now, image, box.Address));
        }
        there.Find(site.Plant, site.Built);
        if (_nextLook == long.MaxValue) _nextLook = ((site.Now / LookEvery) + 1) * LookEvery;
    }

    private Hung Mount(BoxedBusDevice box)
    {
        var hung = new Hung(box with { Address = null, Image = null }, Network.Hang(site.Now, box.Id.Value, box.Line, box.Description, box.Serial, box.Above));
        _hung[box.Id] = hung;
        TwoWireLine line = Network.Line(box.Line);
        line.Spoils ??= Spoils;
        return hung;
    }

    /// <summary>What was done to devices may have taken a line its supply, or given it.</summary>
    public void Fed()
    {
        Network.RunUntil(site.Now);
        foreach (string line in Network.Lines.Keys.ToList())
        {
            bool isFed = _hung.Values.Any(h => h.Box.Line == line && h.Box.Description.Role == LineRole.Supply && h.Unit is { IsOff: false, HasMains: true });
            Network.Feed(site.Now, line, isFed);
        }
        foreach (PortStation station in _ports.Values) station.Live(site.Now);
    }

    // An even draw between 0 and 1 by the site's seed: the same ones each time.
    private bool Spoils(BusFrame frame)
    {
        foreach (MediumFault fault in site.Built.MediumFaults)
        {
            if (fault.Medium != Key || (fault.Address is not null && fault.Address != frame.From.ToString())) continue;
            if (fault.IsCut || (fault.LostPercent > 0 && Chance.Draw(Chance.SeedOf(Key) ^ (uint)site.Built.Seed, ++_draws) / (double)uint.MaxValue * 100 < fault.LostPercent)) return true;
        }
        return false;
    }

    private long _draws;

    /// <summary>Takes a device down; answers whether one hung there.</summary>
    public bool TakeDown(RecordId id)
    {
        if (!_hung.Remove(id)) return false;
        Network.TakeDown(id.Value);
        return true;
    }

    /// <summary>Does something to a device at this moment.</summary>
    /// <exception cref="InvalidOperationException">It does not hang.</exception>
    public void Do(RecordId id, Action<BusUnit, long> deed)
    {
        BusUnit unit = Find(id) ?? throw new InvalidOperationException("It does not hang on the virtual site. Hang it first.");
        Network.RunUntil(site.Now);
        Network.Do(site.Now, unit, deed);
    }

    /// <inheritdoc/>
    public void Run(long now, Action<RecordId> came)
    {
        // After a kill the clock that is kept may be later than what is due.
        now = Math.Max(now, site.Now);
        Network.RunUntil(now);
        if (_news.Count > 0)
        {
            // In the order of hosts, however it came.
            PortStation[] news = [.. _news.OrderBy(n => n.Host)];
            _news.Clear();
            foreach (PortStation station in news)
            {
                station.Port.Came(now);
                came(station.Host);
            }
        }
        if (now < _nextLook) return;
        _nextLook = _hung.Count == 0 ? long.MaxValue : ((now / LookEvery) + 1) * LookEvery;
        bool isMoving = false;
        Plant.Plant plant = site.Plant;
        bool isOther = !ReferenceEquals(plant, _plant) || !ReferenceEquals(site.Built.Faults, _faults);
        (_plant, _faults) = (plant, site.Built.Faults);
        foreach (Hung hung in _hung.Values)
        {
            if (isOther) hung.Find(plant, site.Built);
            // What was written anew has seen nothing yet.
            if (!ReferenceEquals(hung.Told, hung.Unit.Runner))
            {
                hung.Told = hung.Unit.Runner;
                Array.Fill(hung.Seen, double.NaN);
            }
            for (int i = 0; i < hung.Ties.Count; i++)
            {
                var (channel, port, isDriven, _, quantity) = hung.Ties[i];
                if (isDriven)
                {
                    if (!double.IsNaN(hung.StuckAt[i]))
                    {
                        plant[quantity] = hung.StuckAt[i];
                        continue;
                    }
                    double drives = hung.Unit.LoadOf(channel, port, now);
                    if (port.MovedBy is not null)
                    {
                        isMoving |= Move(hung, i, now, drives, plant);
                        continue;
                    }
                    // What has never driven leaves alone what others drive; what drives no more lets it rest.
                    bool isDriving = double.IsFinite(drives);
                    if (isDriving || hung.Drove[i]) plant[quantity] = isDriving ? drives : 0;
                    hung.Drove[i] = isDriving;
                    continue;
                }
                double value = plant[quantity];
                if (value.Equals(hung.Seen[i]) || double.IsNaN(value)) continue;
                hung.Seen[i] = value;
                Network.Do(now, hung.Unit, (unit, moment) => unit.Sense(moment, channel, port.Key, value));
            }
        }
        // A motor that somebody drives by hand is watched more closely.
        if (isMoving) _nextLook = Math.Min(_nextLook, now + LookEveryOfMotors);
    }

    /// <summary>
    /// Moves what a motor moves. By hand it runs as long as it takes in the building; else it goes as far as its device believes to
    /// have moved it, and both agree at the ends, where it runs on. Answers whether it is driven by hand now.
    /// </summary>
    private static bool Move(Hung hung, int tie, long now, double believed, Plant.Plant plant)
    {
        var (channel, port, _, _, quantity) = hung.Ties[tie];
        var (down, up) = hung.Unit.HandRan(channel, now);
        if (down != 0 || up != 0) plant[quantity] = Math.Clamp(plant[quantity] + (down / (10 * RunsDownFor)) - (up / (10 * RunsUpFor)), port.Low, port.High);
        double was = hung.Seen[tie];
        hung.Seen[tie] = believed;
        if (hung.Unit.HandOf(channel) is { } hand) return hand != 0;
        if (!double.IsFinite(believed) || believed == was) return false;
        bool isSure = double.IsNaN(was) || believed == port.Low || believed == port.High;
        plant[quantity] = isSure ? believed : Math.Clamp(plant[quantity] + believed - was, port.Low, port.High);
        return false;
    }

    /// <summary>Where what the motors of a device move really stands in the building: by channel.</summary>
    public IEnumerable<(string Channel, BehaviourPort Port, double Value)> MovedBy(RecordId id)
    {
        if (!_hung.TryGetValue(id, out Hung? hung)) yield break;
        foreach (var (channel, port, _, _, quantity) in hung.Ties.Where(t => t.IsDriven && t.Port.MovedBy is not null)) yield return (hung.Box.Description.Form.Channels[channel].Key, port, site.Plant[quantity]);
    }

    /// <inheritdoc/>
    public IConnection Connect(RecordId host, IDevicePort port)
    {
        Disconnect(host);
        var station = new PortStation(this, host, (BusPort)port);
        _ports[host] = station;
        Network.Line(station.Port.Line).Attach(station);
        station.Ask(site.Now);
        return station;
    }

    /// <inheritdoc/>
    public void Disconnect(RecordId host)
    {
        if (!_ports.Remove(host, out PortStation? was)) return;
        Network.Line(was.Port.Line).Detach(was);
        _news.Remove(was);
    }

    /// <inheritdoc/>
    public IEnumerable<RecordId> Met() => _ports.Keys;

    /// <inheritdoc/>
    public IEnumerable<(RecordId, RecordId)> Pairs() => [];

    /// <inheritdoc/>
    public Func<object?> Remember()
    {
        if (_hung.Count == 0 && _ports.Count == 0) return () => null;
        var heard = _ports.ToDictionary(p => p.Key, p => (IReadOnlyDictionary<string, double>)p.Value.Known());
        (BoxedBusDevice Box, double[] Seen, bool[] Drove)[] hung = [.. _hung.Values.OrderBy(h => h.Box.Id).Select(h => (h.Box, (double[])h.Seen.Clone(), (bool[])h.Drove.Clone()))];
        BusNetworkMemory network = Network.Remember();
        var (nextLook, draws) = (_nextLook, _draws);
        return () =>
        {
            var descriptions = new List<DeviceDescription>();
            var places = new Dictionary<DeviceDescription, int>();
            int Place(DeviceDescription description)
            {
                if (!places.TryGetValue(description, out int at))
                {
                    places[description] = at = descriptions.Count;
                    descriptions.Add(description);
                }
                return at;
            }
            return new BusMediumMemory(descriptions, [.. hung.Select(h => new KeptBusDevice(h.Box.Id, h.Box.Line, h.Box.Above, Place(h.Box.Description), h.Box.Serial, h.Box.Ties, [.. h.Seen.Select(v => double.IsNaN(v) ? (double?)null : v)], h.Drove))], network, nextLook, draws, heard);
        };
    }

    /// <inheritdoc/>
    public Type MemoryType => typeof(BusMediumMemory);

    /// <inheritdoc/>
    public void Recall(object? memory)
    {
        _hung.Clear();
        _news.Clear();
        Network = new BusNetwork();
        _nextLook = long.MaxValue;
        foreach (PortStation station in _ports.Values) Network.Line(station.Port.Line).Attach(station);
        if (memory is not BusMediumMemory kept) return;
        DeviceDescription[] descriptions = [.. kept.Descriptions.Select(d => DescriptionShelf.Shipped.FirstOrDefault(s => s.Id == d.Id && s.Revision == d.Revision) ?? d)];
        foreach (KeptBusDevice each in kept.Hung)
        {
            Hung hung = Mount(new BoxedBusDevice(each.Id, each.Line, each.Above, descriptions[each.Description], each.Serial, each.Ties));
            hung.Find(site.Plant, site.Built);
            if (hung.Seen.Length == each.Seen.Count) (hung.Seen, hung.Drove) = ([.. each.Seen.Select(v => v ?? double.NaN)], [.. each.Drove]);
        }
        (_plant, _faults) = (site.Plant, site.Built.Faults);
        Network.Recall(kept.Network, site.Now);
        (_nextLook, _draws) = (kept.NextLook, kept.Draws);
        foreach (Hung hung in _hung.Values) hung.Told = hung.Unit.Runner;
        foreach (PortStation station in _ports.Values) station.Recall(kept.Heard.GetValueOrDefault(station.Host));
    }

    /// <summary>A controller's port as a station of its line.</summary>
    private sealed class PortStation : ILineStation, IConnection
    {
        private readonly BusMedium _medium;
        private readonly Dictionary<GroupNumber, List<int>> _hears = [];
        // A number that moves all the while is said at most so often, ms; a switch at once.
        private const long NumbersEvery = 5000;
        private readonly double[] _said;
        private readonly long[] _saidAt;
        private bool _wasAlive = true;

        public PortStation(BusMedium medium, RecordId host, BusPort port)
        {
            (_medium, Host, Port, _said, _saidAt) = (medium, host, port, new double[port.Groups.Count], new long[port.Groups.Count]);
            Array.Fill(_said, double.NaN);
            for (int i = 0; i < port.Groups.Count; i++)
            {
                if (port.Groups[i].Says) continue;
                if (!_hears.TryGetValue(port.Groups[i].Group, out List<int>? at)) _hears[port.Groups[i].Group] = at = [];
                at.Add(i);
            }
        }

        public RecordId Host { get; }

        public BusPort Port { get; }

        public string Key => $"port/{Host}";

        public bool IsAlive => _medium.Network.Line(Port.Line).IsFed;

        public LineAnswer Answer(BusFrame frame) => frame.IsBroadcast || (frame.IsToGroup ? _hears.ContainsKey(frame.Group) : frame.Device == Port.Address) ? LineAnswer.Taken : LineAnswer.None;

        public void Hear(long microseconds, BusFrame frame)
        {
            if (!frame.IsToGroup || frame.Service is not (BusService.GroupWrite or BusService.GroupAnswer) || !_hears.TryGetValue(frame.Group, out List<int>? at)) return;
            foreach (int i in at) Port.Heard[i] = Port.Groups[i].Type.ToNumber(frame.Value);
            _medium._news.Add(this);
        }

        // Whoever says a group here and hears it here too hears itself.
        public void Sent(long microseconds, BusFrame frame, bool isTaken) => Hear(microseconds, frame);

        /// <summary>Asks for all that it hears and does not know.</summary>
        public void Ask(long now)
        {
            foreach (var (group, at) in _hears.OrderBy(h => h.Key))
            {
                if (double.IsNaN(Port.Heard[at[0]])) _medium.Network.Line(Port.Line).Want(this, BusFrame.OfGroup(BusService.GroupRead, group, [], 1) with { From = Port.Address }, now * 1000);
            }
        }

        /// <summary>Its line may have lost its supply, or have it again: a dead line says nothing, and all is said and asked anew when it is back.</summary>
        public void Live(long now)
        {
            if (IsAlive == _wasAlive) return;
            _wasAlive = IsAlive;
            if (_wasAlive)
            {
                Array.Fill(_said, double.NaN);
                Ask(now);
            }
            else Array.Fill(Port.Heard, double.NaN);
            _medium._news.Add(this);
        }

        public void BeforeRun(long now)
        {
        }

        public void AfterRun(long now)
        {
            Span<byte> octets = stackalloc byte[16], last = stackalloc byte[16];
            for (int i = 0; i < _said.Length; i++)
            {
                double says = Port.Says[i];
                PortGroup group = Port.Groups[i];
                if (!group.Says || double.IsNaN(says) || !IsAlive) continue;
                bool isDue = double.IsNaN(_said[i]) || (group.AgainMilliseconds > 0 && now - _saidAt[i] >= group.AgainMilliseconds);
                if (!isDue && says.Equals(_said[i])) continue;
                if (!isDue && group.Type.Bits > 1 && now - _saidAt[i] is >= 0 and < NumbersEvery) continue;
                int length = group.Type.Write(says, octets);
                // What would be the same octets again is nothing new.
                if (!isDue && group.Type.Write(_said[i], last) == length && octets[..length].SequenceEqual(last[..length])) continue;
                (_said[i], _saidAt[i]) = (says, now);
                _medium.Network.Line(Port.Line).Want(this, BusFrame.OfGroup(BusService.GroupWrite, group.Group, octets[..length], group.Type.Bits) with { From = Port.Address }, now * 1000);
            }
        }

        // Two points may be under one group: each is known by its place too.
        private string KeyOf(int i) => $"{i} {Port.Groups[i].Group}";

        private string MomentOf(int i) => $"{KeyOf(i)} at";

        /// <summary>What it has heard, and what it said last.</summary>
        public Dictionary<string, double> Known()
        {
            var known = new Dictionary<string, double>();
            for (int i = 0; i < _said.Length; i++)
            {
                double value = Port.Groups[i].Says ? _said[i] : Port.Heard[i];
                if (!double.IsNaN(value)) known[KeyOf(i)] = value;
                if (_saidAt[i] > 0) known[MomentOf(i)] = _saidAt[i];
            }
            return known;
        }

        /// <summary>Takes up what was kept, so that what was said is not said again and what was heard need not be asked for.</summary>
        public void Recall(IReadOnlyDictionary<string, double>? known)
        {
            _wasAlive = IsAlive;
            if (known is null)
            {
                Ask(_medium.Now);
                return;
            }
            for (int i = 0; i < _said.Length; i++)
            {
                if (!known.TryGetValue(KeyOf(i), out double value)) continue;
                if (Port.Groups[i].Says) (_said[i], _saidAt[i]) = (value, (long)known.GetValueOrDefault(MomentOf(i)));
                else Port.Heard[i] = value;
            }
        }
    }
}
