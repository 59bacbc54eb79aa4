using System.Text.Json;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.VirtualSite.Controllers;
using LoftyWren.VirtualSite.Plant;
using LoftyWren.VirtualSite.Wiring;

namespace LoftyWren.VirtualSite;

/// <summary>An input that a person put by hand in place of its sensor.</summary>
public sealed record InputHold(RecordId ControllerId, string Terminal, double Value, string Who, string Why, long AtMilliseconds, long? UntilMilliseconds);

/// <summary>
/// The virtual site: plant, wiring, controllers and their clock. It never looks into the project. Everything it knows can
/// be kept and taken up again by name. Not safe for several threads: whoever owns it takes turns.
/// </summary>
public sealed class Site
{
    private readonly Dictionary<RecordId, InstalledController> _controllers = [];
    private readonly List<InputHold> _holds = [];
    private Plant.Plant _plant;
    private readonly Dictionary<RecordId, FieldWire[]> _wires = [];
    private SitePlan _built;
    private Running[] _running = [];
    private Running[][] _groups = [];
    private long _nextPlantStep;

    /// <summary>Builds a site at a moment of site time.</summary>
    public Site(SitePlan plan, long now)
    {
        _built = plan with { Wires = [] };
        Now = now;
        _plant = new Plant.Plant(plan);
        _nextPlantStep = now;
        Connect(plan.Wires);
    }

    /// <summary>What is built, wires and all.</summary>
    public SitePlan Plan => _built with { Wires = [.. _wires.OrderBy(w => w.Key).SelectMany(w => w.Value).Select(w => w.Wire)] };

    /// <summary>The rooms and machines that are built, without the wires.</summary>
    public SitePlan Built => _built;

    /// <summary>Site time, ms since 1970 UTC.</summary>
    public long Now { get; private set; }

    /// <summary>How far one step goes, in ms: one second, or the shortest scan period if that is less.</summary>
    public int StepMilliseconds { get; private set; } = 1000;

    /// <summary>The plant.</summary>
    public Plant.Plant Plant => _plant;

    /// <summary>The controllers that are mounted.</summary>
    public IReadOnlyDictionary<RecordId, InstalledController> Controllers => _controllers;

    /// <summary>Inputs held by hand.</summary>
    public IReadOnlyList<InputHold> InputHolds => _holds;

    /// <summary>Mounts a controller if it is not there; answers it.</summary>
    public InstalledController Mount(RecordId id)
    {
        if (!_controllers.TryGetValue(id, out InstalledController? controller)) _controllers[id] = controller = new InstalledController(id);
        return controller;
    }

    /// <summary>Rebuilds plant and wiring to another plan; rooms and machines that stay keep their state.</summary>
    public void Rebuild(SitePlan plan)
    {
        SiteMemory memory = Remember();
        _built = plan with { Wires = [] };
        _plant = new Plant.Plant(plan);
        RecallPlant(memory);
        Connect(plan.Wires);
    }

    /// <summary>The wires of one controller, as built.</summary>
    public IReadOnlyList<Wire> WiresOf(RecordId controllerId) => [.. _wires.GetValueOrDefault(controllerId, []).Select(w => w.Wire)];

    /// <summary>
    /// Brings one controller's wires to what its wiring list says, after it has changed over too, since its engine is
    /// another. Rooms and machines are built anew only where the plan draws others; everybody else's wires stay as they are.
    /// </summary>
    public void Install(SitePlan drawn, RecordId controllerId, IReadOnlyList<Wire> wires)
    {
        SitePlan plan = drawn with { Seed = _built.Seed, Faults = _built.Faults, Wires = [] };
        if (!_built.IsBuiltLike(plan)) Rebuild(plan with { Wires = [.. Plan.Wires.Where(w => w.ControllerId != controllerId), .. wires] });
        else
        {
            _built = plan;
            Wire(controllerId, wires);
            Running? tied = Tie(_controllers[controllerId]);
            int at = Array.FindIndex(_running, r => r.Controller.Id == controllerId);
            if (at >= 0 && tied is not null) _running[at] = tied;
            else _running = [.. _running.Where(r => r.Controller.Id != controllerId).Concat(tied is null ? [] : [tied]).OrderBy(r => r.Controller.Id)];
            Group();
        }
    }

    /// <summary>Ties all wires to terminals and all controllers to each other anew.</summary>
    public void Connect() => Connect(Plan.Wires);

    private void Connect(IReadOnlyList<Wire> wires)
    {
        foreach (RecordId gone in _wires.Keys.Except(wires.Select(w => w.ControllerId)).ToList()) _wires.Remove(gone);
        foreach (var own in wires.GroupBy(w => w.ControllerId)) Wire(own.Key, own);
        _running = [.. _controllers.Values.OrderBy(c => c.Id).Select(Tie).OfType<Running>()];
        Group();
    }

    private void Wire(RecordId controllerId, IEnumerable<Wire> wires)
    {
        var before = _wires.GetValueOrDefault(controllerId, []).ToDictionary(w => w.Key);
        _wires[controllerId] =
        [
            .. wires.Select(w =>
            {
                var made = new FieldWire(w, _plant.IndexOf(w.Quantity), !w.Terminal.StartsWith("RO", StringComparison.Ordinal) && !w.Terminal.StartsWith("AO", StringComparison.Ordinal), _built.Faults.FirstOrDefault(f => f.ControllerId == w.ControllerId && f.Terminal == w.Terminal), _built.Seed)
                {
                    Held = HoldOn(w.ControllerId, w.Terminal)?.Value,
                };
                made.Memory = before.GetValueOrDefault(made.Key)?.Memory;
                return made;
            }),
        ];
    }

    /// <summary>What of a controller takes part in each step; nothing of one that runs nothing.</summary>
    private Running? Tie(InstalledController controller)
    {
        if (controller.Engine is not { } engine) return null;
        var own = new List<FieldWire>();
        foreach (FieldWire wire in _wires.GetValueOrDefault(controller.Id, []))
        {
            wire.Terminal = engine.IndexOf(wire.Wire.Terminal);
            if (wire.Terminal >= 0) own.Add(wire);
        }
        int shortest = 1000;
        foreach (var sequence in engine.Image.Records.OfType<Core.Sequences.Sequence>())
            shortest = Math.Clamp((int)Math.Round(sequence.ScanSeconds * 1000), 100, shortest);
        return new Running(controller, [.. own.Where(w => w.IsInput)], [.. own.Where(w => !w.IsInput)], [.. engine.Image.Remote.Select(r => new Neighbour(r.ControllerId, r.PointId))], shortest);
    }

    private sealed record Running(InstalledController Controller, FieldWire[] Inputs, FieldWire[] Outputs, Neighbour[] Remote, int ShortestMilliseconds);

    /// <summary>A point of another controller, which may come to be mounted later.</summary>
    private sealed class Neighbour(RecordId controllerId, RecordId point)
    {
        private InstalledController? _controller;

        public RecordId ControllerId { get; } = controllerId;

        public RecordId Point { get; } = point;

        public ControllerEngine? EngineIn(Dictionary<RecordId, InstalledController> controllers) => (_controller ??= controllers.GetValueOrDefault(ControllerId))?.Engine;
    }

    /// <summary>One step of site time: plant when it is due, then every controller's scan.</summary>
    public void Step() => RunUntil(Now + StepMilliseconds);

    /// <summary>Steps until a moment of site time.</summary>
    public void RunUntil(long milliseconds)
    {
        int step = StepMilliseconds;
        while (Now + step <= milliseconds)
        {
            long first = Now + step;
            // The plant keeps its own beat, whatever the scans do: a step is made at its time, not at that of the scan after it.
            for (; _nextPlantStep <= first; _nextPlantStep += VirtualSite.Plant.Plant.StepSeconds * 1000) _plant.Step(_nextPlantStep);
            if (_holds.Count > 0) EndHolds(first);
            // Until the plant moves on, or a hold ends, those who do not hear of each other cannot tell whether they are scanned
            // in turn or one after the other; one after the other, what a controller works with stays close at hand.
            long until = Math.Min(milliseconds, _nextPlantStep - 1);
            foreach (InputHold hold in _holds) until = Math.Min(until, Math.Max(first, (hold.UntilMilliseconds ?? long.MaxValue) - 1));
            int steps = 1 + (int)((until - first) / step);
            foreach (Running[] group in _groups)
            {
                for (int k = 0; k < steps; k++)
                {
                    foreach (Running running in group) Scan(running, first + ((long)k * step));
                }
            }
            Now = first + ((long)(steps - 1) * step);
        }
    }

    private void Scan(Running running, long now)
    {
        ControllerEngine engine = running.Controller.Engine!;
        double seconds = StepMilliseconds / 1000.0;
        double[] inputs = engine.RawInputs, outputs = engine.RawOutputs;
        foreach (FieldWire wire in running.Inputs) inputs[wire.Terminal] = wire.Sense(_plant, seconds);
        for (int i = 0; i < running.Remote.Length; i++)
        {
            Reading? reading = running.Remote[i].EngineIn(_controllers) is { } other && other.IsHome(running.Remote[i].Point) ? other.Read(running.Remote[i].Point) : null;
            if (reading is { } known) engine.SetRemote(i, known.Value, known.Status);
            else engine.SetRemoteStale(i);
        }
        engine.Scan(now);
        foreach (FieldWire wire in running.Outputs) wire.Drive(_plant, outputs[wire.Terminal]);
    }

    /// <summary>Takes the shortest pace of all, and finds who hears of whom: through a point, or because one senses what the other drives.</summary>
    private void Group()
    {
        int shortest = 1000;
        var index = new Dictionary<RecordId, int>(_running.Length);
        int[] with = new int[_running.Length];
        for (int i = 0; i < _running.Length; i++)
        {
            shortest = Math.Min(shortest, _running[i].ShortestMilliseconds);
            index[_running[i].Controller.Id] = with[i] = i;
        }
        StepMilliseconds = shortest;
        var drives = new Dictionary<int, int>();
        for (int i = 0; i < _running.Length; i++)
        {
            foreach (Neighbour other in _running[i].Remote)
            {
                if (index.TryGetValue(other.ControllerId, out int j)) Join(i, j);
            }
            foreach (FieldWire wire in _running[i].Outputs)
            {
                if (wire.Quantity >= 0 && !drives.TryAdd(wire.Quantity, i)) Join(i, drives[wire.Quantity]);
            }
        }
        for (int i = 0; i < _running.Length; i++)
        {
            foreach (FieldWire wire in _running[i].Inputs)
            {
                if (drives.TryGetValue(wire.Quantity, out int j)) Join(i, j);
            }
        }
        _groups = [.. _running.Select((r, i) => (Running: r, Of: Root(i))).GroupBy(r => r.Of, r => r.Running).Select(g => g.ToArray())];

        int Root(int i)
        {
            while (with[i] != i) i = with[i] = with[with[i]];
            return i;
        }
        void Join(int i, int j) => with[Root(i)] = Root(j);
    }

    /// <summary>Puts an input by hand, in the unit of its point.</summary>
    /// <exception cref="InvalidOperationException">Nothing is wired to this terminal.</exception>
    public void HoldInput(InputHold hold)
    {
        FieldWire wire = WireAt(hold.ControllerId, hold.Terminal) ?? throw new InvalidOperationException($"Nothing is wired to {hold.Terminal} on the virtual site. Send the controller first; that wires what its wiring list says.");
        _holds.RemoveAll(h => h.ControllerId == hold.ControllerId && h.Terminal == hold.Terminal);
        _holds.Add(hold);
        wire.Held = hold.Value;
    }

    /// <summary>Lets an input follow its sensor again; answers whether it was held.</summary>
    public bool ReleaseInput(RecordId controllerId, string terminal)
    {
        if (WireAt(controllerId, terminal) is { } wire) wire.Held = null;
        return _holds.RemoveAll(h => h.ControllerId == controllerId && h.Terminal == terminal) > 0;
    }

    private InputHold? HoldOn(RecordId controllerId, string terminal) => _holds.FirstOrDefault(h => h.ControllerId == controllerId && h.Terminal == terminal);

    private FieldWire? WireAt(RecordId controllerId, string terminal) => Array.Find(_wires.GetValueOrDefault(controllerId, []), w => w.IsInput && w.Wire.Terminal == terminal);

    private void EndHolds(long now)
    {
        foreach (InputHold hold in _holds.Where(h => h.UntilMilliseconds <= now).ToList()) ReleaseInput(hold.ControllerId, hold.Terminal);
    }

    /// <summary>All that the site must keep over a restart, but for the images.</summary>
    public SiteMemory Remember() => new()
    {
        Now = Now,
        Rooms = _built.Rooms.Select((r, i) => (r.Id, new RoomMemory(_plant.Rooms.Air[i], _plant.Rooms.Structure[i], _plant.Rooms.Co2[i], _plant.Rooms.Moisture[i]))).ToDictionary(x => x.Id, x => x.Item2),
        Kilns = _built.Machines.Select((m, i) => (m.Id, _plant.Kilns[i])).Where(x => x.Item2 is not null).ToDictionary(x => x.Id, x => new KilnMemory(x.Item2!.Temperature, x.Item2.FiringSince)),
        NextPlantStep = _nextPlantStep,
        Motors = _built.Machines.Select((m, i) => (m.Id, _plant.Motors[i])).ToDictionary(x => x.Id, x => new MotorMemory(x.Item2.Turns, x.Item2.Commanded, x.Item2.SinceCommand)),
        Sensors = _wires.Values.SelectMany(w => w).Where(w => w.Memory is not null).ToDictionary(w => w.Key, w => w.Memory!),
        Quantities = _plant.Quantities.Where(q => double.IsFinite(q.Value)).ToDictionary(q => q.Name, q => q.Value),
        InputHolds = [.. _holds],
    };

    /// <summary>Takes up what was kept.</summary>
    public void Recall(SiteMemory memory)
    {
        Now = memory.Now;
        RecallPlant(memory);
        _holds.Clear();
        _holds.AddRange(memory.InputHolds);
        Connect();
        foreach (FieldWire wire in _wires.Values.SelectMany(w => w)) wire.Memory = memory.Sensors.GetValueOrDefault(wire.Key);
    }

    private void RecallPlant(SiteMemory memory)
    {
        _nextPlantStep = memory.NextPlantStep ?? Now;
        _plant.LookOutside(Now);
        for (int i = 0; i < _built.Rooms.Count; i++)
        {
            if (!memory.Rooms.TryGetValue(_built.Rooms[i].Id, out RoomMemory? room)) continue;
            (_plant.Rooms.Air[i], _plant.Rooms.Structure[i], _plant.Rooms.Co2[i], _plant.Rooms.Moisture[i]) = (room.Air, room.Structure, room.Co2, room.Moisture);
        }
        for (int i = 0; i < _built.Machines.Count; i++)
        {
            if (_plant.Kilns[i] is { } kiln && memory.Kilns.TryGetValue(_built.Machines[i].Id, out KilnMemory? kept)) kiln.Restore(kept.Temperature, kept.FiringSince);
            if (memory.Motors.TryGetValue(_built.Machines[i].Id, out MotorMemory? motor)) _plant.Motors[i].Restore(motor.Turns, motor.Commanded, motor.SinceCommand);
        }
        foreach (var (name, value) in memory.Quantities)
        {
            int index = _plant.IndexOf(name);
            if (index >= 0) _plant[index] = value;
        }
    }
}

/// <summary>What the site keeps over a restart.</summary>
public sealed record SiteMemory
{
    /// <summary>Site time, ms.</summary>
    public long Now { get; init; }

    /// <summary>Room nodes.</summary>
    public Dictionary<RecordId, RoomMemory> Rooms { get; init; } = [];

    /// <summary>Kilns.</summary>
    public Dictionary<RecordId, KilnMemory> Kilns { get; init; } = [];

    /// <summary>Motors.</summary>
    public Dictionary<RecordId, MotorMemory> Motors { get; init; } = [];

    /// <summary>Lagging sensors, by <c>controller/terminal/quantity</c>.</summary>
    public Dictionary<string, SensorMemory> Sensors { get; init; } = [];

    /// <summary>When the plant moves on next, ms of site time; missing in what older versions kept.</summary>
    public long? NextPlantStep { get; init; }

    /// <summary>All named quantities.</summary>
    public Dictionary<string, double> Quantities { get; init; } = [];

    /// <summary>Inputs held by hand.</summary>
    public List<InputHold> InputHolds { get; init; } = [];

    /// <summary>As JSON bytes.</summary>
    public byte[] ToBytes() => JsonSerializer.SerializeToUtf8Bytes(this, RecordJson.Options);

    /// <summary>From JSON bytes.</summary>
    public static SiteMemory FromBytes(ReadOnlySpan<byte> bytes) => JsonSerializer.Deserialize<SiteMemory>(bytes, RecordJson.Options)!;
}

/// <summary>The nodes of one room: °C, °C, ppm, g/kg.</summary>
public sealed record RoomMemory(double Air, double Structure, double Co2, double Moisture);

/// <summary>The state of one kiln.</summary>
public sealed record KilnMemory(double Temperature, long? FiringSince);

/// <summary>The state of one motor: whether it turns, what it is told, and for how many seconds.</summary>
public sealed record MotorMemory(bool Turns, bool Commanded, double SinceCommand);
