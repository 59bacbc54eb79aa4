using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Plant;
using LoftyWren.VirtualSite.Wiring;

namespace LoftyWren.VirtualSite.Media;

/// <summary>
/// The wires of all terminals, each with its sensor or actuator. A sensor looks at the plant when the plant has moved on, so
/// what it gives does not hang on how often a device scans; an actuator follows as soon as its terminal gives something else.
/// </summary>
public sealed class Wires(Site site) : IMedium
{
    private readonly Dictionary<RecordId, FieldWire[]> _built = [];
    private readonly Dictionary<RecordId, IReadOnlyList<Wire>> _lists = [];
    private readonly Dictionary<RecordId, Connection> _connections = [];

    /// <inheritdoc/>
    public string Key => TerminalPort.Wires;

    /// <inheritdoc/>
    public long NextDue => long.MaxValue;

    /// <inheritdoc/>
    public void Run(long now, Action<RecordId> came)
    {
    }

    /// <summary>The wires as built, by the device whose terminals they are on.</summary>
    internal IEnumerable<Wire> All => _lists.OrderBy(w => w.Key).SelectMany(w => w.Value);

    internal IEnumerable<RecordId> Hosts => _lists.Keys;

    internal IReadOnlyList<Wire> Of(RecordId host) => _lists.GetValueOrDefault(host, []);

    internal FieldWire? InputAt(RecordId host, string terminal) => Array.Find(_built.GetValueOrDefault(host, []), w => w.IsInput && w.Wire.Terminal == terminal);

    /// <summary>Builds the wires of one device in place of those it had; what stays keeps what its sensor remembers. Answers what takes it back.</summary>
    internal Action Build(RecordId host, IReadOnlyList<Wire> wires)
    {
        var (list, built) = (Of(host), _built.GetValueOrDefault(host, []));
        var before = built.ToDictionary(w => w.Key);
        Have(host, wires,
        [
            .. wires.Select(w =>
            {
                var made = new FieldWire(w, site.Plant.IndexOf(w.Quantity), site.Built.Faults.FirstOrDefault(f => f.ControllerId == w.ControllerId && f.Terminal == w.Terminal), site.Built.Seed) { Held = site.HoldOn(host, w.Terminal)?.At(site.Now) };
                made.Memory = before.GetValueOrDefault(made.Key)?.Memory;
                return made;
            }),
        ]);
        return () =>
        {
            foreach (FieldWire wire in built) wire.Quantity = site.Plant.IndexOf(wire.Wire.Quantity);
            Have(host, list, built);
        };
    }

    private void Have(RecordId host, IReadOnlyList<Wire> list, FieldWire[] wires)
    {
        if (wires.Length == 0)
        {
            _built.Remove(host);
            _lists.Remove(host);
        }
        else (_lists[host], _built[host]) = (list, wires);
        if (_connections.TryGetValue(host, out Connection? connection)) connection.Tie(wires);
    }

    /// <summary>Finds every wire's quantity again, after the plant was built otherwise.</summary>
    internal void FindQuantities(Plant.Plant plant)
    {
        foreach (FieldWire[] wires in _built.Values)
        {
            foreach (FieldWire wire in wires) wire.Quantity = plant.IndexOf(wire.Name);
        }
        foreach (Connection connection in _connections.Values) connection.Fresh();
    }

    /// <summary>A person put something in place of a sensor, or let it go: that is seen at the next run.</summary>
    internal void Fresh(RecordId host)
    {
        if (_connections.TryGetValue(host, out Connection? connection)) connection.Fresh();
    }

    /// <inheritdoc/>
    public IConnection Connect(RecordId host, IDevicePort port) => _connections[host] = new Connection(site, (TerminalPort)port, _built.GetValueOrDefault(host, []));

    /// <inheritdoc/>
    public void Disconnect(RecordId host) => _connections.Remove(host);

    /// <inheritdoc/>
    public IEnumerable<(RecordId, RecordId)> Pairs()
    {
        var drives = new Dictionary<int, RecordId>();
        foreach (var (host, connection) in _connections)
        {
            foreach (FieldWire wire in connection.Outputs)
            {
                if (wire.Quantity >= 0 && !drives.TryAdd(wire.Quantity, host)) yield return (host, drives[wire.Quantity]);
            }
        }
        foreach (var (host, connection) in _connections)
        {
            foreach (FieldWire wire in connection.Inputs)
            {
                if (drives.TryGetValue(wire.Quantity, out RecordId other)) yield return (host, other);
            }
        }
    }

    /// <summary>What the sensors remember.</summary>
    public Func<object?> Remember()
    {
        var all = new List<(string Key, SensorState State)>();
        foreach (FieldWire[] wires in _built.Values)
        {
            foreach (FieldWire wire in wires) all.Add((wire.Key, wire.State));
        }
        return () => all.Where(w => !double.IsNaN(w.State.Lagged)).ToDictionary(w => w.Key, w => w.State.ToMemory());
    }

    /// <inheritdoc/>
    public Type MemoryType => typeof(Dictionary<string, SensorMemory>);

    /// <inheritdoc/>
    public void Recall(object? memory)
    {
        if (memory is not Dictionary<string, SensorMemory> kept) return;
        foreach (FieldWire wire in _built.Values.SelectMany(w => w)) wire.Memory = kept.GetValueOrDefault(wire.Key);
        foreach (Connection connection in _connections.Values) connection.Fresh();
    }

    private sealed class Connection : IConnection
    {
        private readonly Site _site;
        private readonly TerminalPort _port;
        private long _seen = -1;

        public Connection(Site site, TerminalPort port, FieldWire[] wires)
        {
            (_site, _port) = (site, port);
            Tie(wires);
        }

        public FieldWire[] Inputs { get; private set; } = [];

        public FieldWire[] Outputs { get; private set; } = [];

        private FieldWire[] Travelling { get; set; } = [];

        public void Tie(FieldWire[] wires)
        {
            foreach (FieldWire wire in wires) wire.Terminal = _port.IndexOf(wire.Wire.Terminal);
            Array.Fill(_port.Inputs, double.NaN);
            Array.Clear(_port.Simulated);
            Inputs = Array.FindAll(wires, w => w.Terminal >= 0 && w.IsInput);
            foreach (FieldWire wire in Inputs) _port.Simulated[wire.Terminal] = wire.Held is not null;
            Outputs = Array.FindAll(wires, w => w.Terminal >= 0 && !w.IsInput);
            Travelling = Array.FindAll(Outputs, w => w.Travels);
            Fresh();
        }

        public void Fresh()
        {
            _seen = -1;
            foreach (FieldWire wire in Outputs) wire.Given = double.NaN;
        }

        public void BeforeRun(long now)
        {
            long steps = _site.PlantSteps;
            if (_seen == steps) return;
            _seen = steps;
            foreach (FieldWire wire in Inputs)
            {
                _port.Inputs[wire.Terminal] = wire.Sense(_site.Plant, steps);
                _port.Simulated[wire.Terminal] = wire.Held is not null;
            }
            foreach (FieldWire wire in Travelling) wire.Travel(_site.Plant, steps);
        }

        public void AfterRun(long now)
        {
            foreach (FieldWire wire in Outputs)
            {
                double raw = _port.Outputs[wire.Terminal];
                if (wire.Given.Equals(raw) && !double.IsNaN(raw)) continue;
                wire.Given = raw;
                wire.Drive(_site.Plant, raw);
            }
        }
    }
}
