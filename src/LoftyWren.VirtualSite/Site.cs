using System.Text.Json;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Images;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Media;
using LoftyWren.VirtualSite.Plant;
using LoftyWren.VirtualSite.Wiring;

namespace LoftyWren.VirtualSite;

/// <summary>An input that a person put by hand in place of its sensor: at a value, or from that value on along a course.</summary>
public sealed record InputHold(RecordId ControllerId, string Terminal, double Value, string Who, string Why, long AtMilliseconds, long? UntilMilliseconds, InputCourse? Course = null)
{
    /// <summary>What stands there at a moment of site time; not a number where the sensor is to be broken.</summary>
    public double At(long now) => Course?.At(Value, (now - AtMilliseconds) / 1000.0) ?? Value;
}

/// <summary>
/// The virtual site: plant, media, devices and their clock. It never looks into the project. It runs from a queue of due
/// times: a device sleeps until it is due or something comes to it. Everything it knows can be kept and taken up again by
/// name. Not safe for several threads: whoever owns it takes turns.
/// </summary>
public sealed class Site
{
    private readonly SortedDictionary<RecordId, InstalledDevice> _devices = [];
    private readonly List<InputHold> _holds = [];
    private readonly IMedium[] _media;
    private readonly Wires _wires;
    private readonly Dictionary<RecordId, Running> _running = [];
    private readonly PriorityQueue<Running, (long, int)> _due = new();
    private Running[] _alone = [], _entangled = [];
    private readonly Action<RecordId> _came;
    private Plant.Plant _plant;
    private SitePlan _built;
    private bool _isGrouped, _hasFailure;
    private long _nextPlantStep, _nextHoldEnd = long.MaxValue, _nextLife = long.MaxValue;

    /// <summary>Builds a site at a moment of site time.</summary>
    public Site(SitePlan plan, long now)
    {
        _built = plan with { Wires = [] };
        Now = now;
        _plant = new Plant.Plant(plan);
        _nextPlantStep = now;
        _media = MediumKinds.MakeAll(this);
        _wires = _media.OfType<Wires>().Single();
        _came = Came;
        foreach (var own in plan.Wires.GroupBy(w => w.ControllerId)) _wires.Build(own.Key, [.. own]);
    }

    /// <summary>What is built, wires and all.</summary>
    public SitePlan Plan => _built with { Wires = [.. _wires.All] };

    /// <summary>The rooms and machines that are built, without the wires.</summary>
    public SitePlan Built => _built;

    /// <summary>Site time, ms since 1970 UTC.</summary>
    public long Now { get; private set; }

    /// <summary>The plant.</summary>
    public Plant.Plant Plant => _plant;

    /// <summary>How many steps the plant has made since the beginning of time; by it a sensor knows whether there is anything new to see.</summary>
    public long PlantSteps => _nextPlantStep / (VirtualSite.Plant.Plant.StepSeconds * 1000L);

    /// <summary>What is mounted, by its id.</summary>
    public IReadOnlyDictionary<RecordId, InstalledDevice> Devices => _devices;

    /// <summary>The media by their keys.</summary>
    public IReadOnlyList<IMedium> Media => _media;

    /// <summary>Inputs held by hand.</summary>
    public IReadOnlyList<InputHold> InputHolds => _holds;

    /// <summary>Counts how often inputs were let go since their time was over.</summary>
    public long HoldsEnded { get; private set; }

    /// <summary>Mounts a device if it is not there; answers it.</summary>
    public InstalledDevice Mount(RecordId id, string kind = ControllerImageBuilder.KindKey)
    {
        if (!_devices.TryGetValue(id, out InstalledDevice? device)) _devices[id] = device = new InstalledDevice(id, kind);
        return device;
    }

    /// <summary>Hangs a device in place of the one that hung there; answers what takes it back.</summary>
    public Action Exchange(InstalledDevice device)
    {
        InstalledDevice? before = _devices.GetValueOrDefault(device.Id);
        _devices[device.Id] = device;
        Lives++;
        Connect(device.Id);
        NextLives();
        return () =>
        {
            if (before is null) _devices.Remove(device.Id);
            else _devices[device.Id] = before;
            Connect(device.Id);
            NextLives();
        };
    }

    /// <summary>Takes a device down; answers what takes it back.</summary>
    public Action TakeDown(RecordId host)
    {
        InstalledDevice before = _devices[host];
        List<InputHold> holds = [.. _holds.Where(h => h.ControllerId == host)];
        _devices.Remove(host);
        foreach (InputHold hold in holds) ReleaseInput(hold.ControllerId, hold.Terminal);
        Lives++;
        Connect(host);
        NextLives();
        return () =>
        {
            _devices[host] = before;
            foreach (InputHold hold in holds) HoldInput(hold);
            Connect(host);
            NextLives();
        };
    }

    /// <summary>The wires of one device, as built; the same list for as long as nothing is built there.</summary>
    public IReadOnlyList<Wire> WiresOf(RecordId host) => _wires.Of(host);

    /// <summary>The devices to which wires lead.</summary>
    public IEnumerable<RecordId> WiredHosts => _wires.Hosts;

    /// <summary>How many times something was built.</summary>
    public int Builds { get; private set; }

    /// <summary>Connects what a device runs now to its media, after it has changed over; all the others stay as they are.</summary>
    public void Connect(RecordId host)
    {
        if (!_devices.TryGetValue(host, out InstalledDevice? device) || device.Program is not { } program || !device.Life.Runs)
        {
            if (_running.TryGetValue(host, out Running? was)) was.Rest(Now);
            foreach (IMedium medium in _media) medium.Disconnect(host);
            _running.Remove(host);
        }
        else
        {
            // Whose communication is disabled meets its terminals and nothing else.
            if (device.Life.IsOffTheNetwork) foreach (IMedium medium in _media) medium.Disconnect(host);
            _running[host] = new Running(this, device, program, [.. program.Ports.Where(p => p is TerminalPort || !device.Life.IsOffTheNetwork).Select(p => MediumOf(p).Connect(host, p))]);
        }
        _isGrouped = false;
    }

    /// <summary>Counts how often the life of a device took another turn.</summary>
    public long Lives { get; private set; }

    /// <summary>Does something to a device: its supply, its program, its communication. Answers what takes it back.</summary>
    /// <exception cref="InvalidOperationException">It has nothing to run, or the order makes no sense as it stands; the message says why.</exception>
    public Action Order(RecordId host, DeviceOrder order)
    {
        if (!_devices.TryGetValue(host, out InstalledDevice? device) || (device.Program is null && device.Door is null)) throw new InvalidOperationException("Nothing was ever sent there. Send first.");
        DeviceLife life = device.Life.After(order, device.CalledBy, Now, ChanceOf(device));
        if (order == DeviceOrder.PowerOn && device.Door?.Settings is { StartsAfterPower: false }) life = life with { StaysDown = true };
        if (order == DeviceOrder.PowerOn && device.Door is { } door && Now - device.Life.Since > DeviceDoor.ClockKeptMilliseconds)
        {
            device.Door = door.WithClock(DeviceDoor.LostClock, Now);
            life = life.Noted(Now, "the clock was lost: off for longer than it is kept; it shows 2000-01-01 until it is set");
            Action back = Live(device, life);
            return () =>
            {
                back();
                device.Door = door;
            };
        }
        return Live(device, life);
    }

    /// <summary>Lets a device that took other parts start again with them.</summary>
    public Action StartRenewed(InstalledDevice device, bool starts) => Live(device, device.Life.Renewed(Now, device.Version, ChanceOf(device), starts));

    /// <summary>Makes what carries to a device another; where it is cut the device is off the network. Answers what takes it back.</summary>
    public Action Carry(InstalledDevice device, LinkQuality link)
    {
        DeviceDoor before = device.Door!;
        device.Door = before with { Link = link };
        Action? back = link.LossPercent >= 100 != device.Life.IsCut ? Live(device, device.Life.Carried(Now, link.LossPercent >= 100)) : null;
        return () =>
        {
            back?.Invoke();
            device.Door = before;
        };
    }

    private Action Live(InstalledDevice device, DeviceLife life)
    {
        // A program gives its terminals only what changes: who takes this back finds them as they were.
        List<(TerminalPort Port, double[] Given)> given = [.. (device.Program?.Ports ?? []).OfType<TerminalPort>().Select(p => (p, (double[])p.Outputs.Clone()))];
        Action back = device.Live(life, Now);
        Lives++;
        Connect(device.Id);
        NextLives();
        return () =>
        {
            back();
            foreach (var (port, outputs) in given) outputs.CopyTo(port.Outputs, 0);
            Connect(device.Id);
            NextLives();
        };
    }

    // Each start of each device lasts a little otherwise, and the same in every run.
    private static uint ChanceOf(InstalledDevice device) => unchecked((Chance.SeedOf(device.Id.Value) + ((uint)device.Life.Starts * 2654435761u) + ((uint)device.Life.Phase * 40503u)) * 747796405u) >> 8;

    private void NextLives() => _nextLife = _devices.Values.Select(d => d.Life.Until).DefaultIfEmpty(long.MaxValue).Min();

    private void AdvanceLives(long now)
    {
        foreach (InstalledDevice device in _devices.Values.Where(d => d.Life.Until <= now).ToList()) Live(device, device.Advance(ChanceOf(device)));
    }

    /// <summary>Refuses a program that has a port on a medium which the site has not.</summary>
    /// <exception cref="InvalidOperationException">It has one; the message names the medium.</exception>
    public void CheckPorts(IDeviceProgram program)
    {
        foreach (IDevicePort port in program.Ports) MediumOf(port);
    }

    private IMedium MediumOf(IDevicePort port) => Array.Find(_media, m => m.Key == port.Medium) ?? throw new InvalidOperationException($"The site has no medium ‘{port.Medium}’.");

    /// <summary>The site as it stands now, to work out a building from outside of any turn.</summary>
    public StandingSite Standing => new(Plan, Builds);

    /// <summary>
    /// Works out, outside of any turn, what it takes to build the site to another plan: the plant is made ready, and only the
    /// wires that differ are named; of <paramref name="hosts"/> alone, where those are given. Null when all is built so already.
    /// </summary>
    public static ReadyBuild? MakeReady(StandingSite standing, SitePlan wanted, IReadOnlyCollection<RecordId>? hosts = null)
    {
        SitePlan built = standing.Plan;
        bool isPlantSame = built.HasPlantOf(wanted);
        var before = built.Wires.ToLookup(w => w.ControllerId);
        var after = wanted.Wires.ToLookup(w => w.ControllerId);
        // A wire has its fault and its noise built in.
        var faulty = built.Faults.Except(wanted.Faults).Concat(wanted.Faults.Except(built.Faults)).Select(f => f.ControllerId).ToHashSet();
        var wires = (hosts ?? before.Select(g => g.Key).Union(after.Select(g => g.Key))).Order()
            .Where(host => built.Seed != wanted.Seed || faulty.Contains(host) || !before[host].SequenceEqual(after[host])).ToDictionary(host => host, host => (IReadOnlyList<Wire>)[.. after[host]]);
        if (isPlantSame && wires.Count == 0 && built.IsBuiltLike(wanted)) return null;
        return new ReadyBuild(standing.Builds, wanted with { Wires = [] }, isPlantSame ? null : new Plant.Plant(wanted), wires);
    }

    /// <summary>
    /// Builds what was made ready: rooms and machines that stay keep their state, and wires that are not named are not touched.
    /// Answers what takes it back, as long as the site has not moved on.
    /// </summary>
    /// <exception cref="InvalidOperationException">Something else has been built since.</exception>
    public Action Build(ReadyBuild ready)
    {
        if (ready.After != Builds) throw new InvalidOperationException("The site has been built otherwise meanwhile. Look again, then build.");
        var (built, old) = (_built, _plant);
        if (ready.Plant is { } plant)
        {
            plant.TakeOver(old, Now);
            Stand(ready.Plan, plant);
        }
        else _built = ready.Plan;
        var wires = new List<Action>();
        foreach (var (host, list) in ready.Wires) wires.Add(_wires.Build(host, list));
        Changed();
        return () =>
        {
            Stand(built, old);
            foreach (Action back in wires) back();
            Changed();
        };
    }

    private void Stand(SitePlan plan, Plant.Plant plant)
    {
        bool isOther = !ReferenceEquals(plant, _plant);
        (_built, _plant) = (plan, plant);
        if (isOther) _wires.FindQuantities(plant);
    }

    private void Changed()
    {
        _isGrouped = false;
        Builds++;
    }

    /// <summary>Builds the wires of one device in place of those it has; answers what takes it back.</summary>
    public Action Rewire(RecordId host, IReadOnlyList<Wire> wires)
    {
        Action back = _wires.Build(host, wires);
        Changed();
        return () =>
        {
            back();
            Changed();
        };
    }

    /// <summary>Builds the site to another plan at once.</summary>
    public void Build(SitePlan wanted)
    {
        if (MakeReady(Standing, wanted) is { } ready) Build(ready);
    }

    /// <summary>What of a device takes part in the running of the site.</summary>
    private sealed class Running(Site site, InstalledDevice device, IDeviceProgram program, IConnection[] connections)
    {
        public RecordId Id { get; } = device.Id;

        public IDeviceProgram Program { get; } = program;

        /// <summary>Its place among those that are due at the same moment.</summary>
        public int Order { get; set; }

        /// <summary>Why its program failed, once it has; it is not run again.</summary>
        public string? Failure { get; private set; }

        /// <summary>Whether no other device can notice what it does but by the plant's steps.</summary>
        public bool IsAlone { get; set; }

        public void Run(long now)
        {
            if (Failure is not null) return;
            try
            {
                foreach (IConnection connection in connections) connection.BeforeRun(now);
                if (device.Door is { } door) Program.ClockOffset = door.OffsetAt(now);
                Program.Start = new DeviceStart(device.Life.Reason, device.Life.StartedAt, device.IsStaging ? SystemStatus.DownloadInProgress : SystemStatus.Operational);
                Program.Run(now);
                foreach (IConnection connection in connections) connection.AfterRun(now);
                if (_isMuted) Unheard();
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // One program that fails is no reason for the others to stand still.
                Failure = e.Message;
                site._hasFailure = true;
            }
        }

        private readonly bool _isMuted = connections.Length < program.Ports.Count;

        /// <summary>What it says while nobody hears it is lost.</summary>
        private void Unheard()
        {
            foreach (IDevicePort port in Program.Ports) (port as MessagePort)?.Take(static (_, _) => { });
        }

        /// <summary>Its outputs fall to rest.</summary>
        public void Rest(long now)
        {
            Unheard();
            foreach (IDevicePort port in Program.Ports)
            {
                if (port is TerminalPort terminals) Array.Clear(terminals.Outputs);
            }
            foreach (IConnection connection in connections) connection.AfterRun(now);
        }
    }

    /// <summary>
    /// Runs until a moment of site time, in ms: everything at the moment at which it is due, the plant before holds that end,
    /// those before what arrives, that before devices by their ids. However far it is run at a time, it comes to the same.
    /// </summary>
    public void RunUntil(long milliseconds)
    {
        if (milliseconds < Now) return;
        _due.Clear();
        bool isQueued = false;
        while (true)
        {
            if (!_isGrouped || !isQueued)
            {
                if (!_isGrouped) Group();
                _due.Clear();
                foreach (Running running in _entangled) Queue(running);
                isQueued = true;
            }
            long next = Math.Min(Math.Min(_nextPlantStep, _nextHoldEnd), _nextLife), until = Math.Min(milliseconds, next - 1);
            // Whom nobody notices is run on until the plant moves; what it works with stays close at hand.
            foreach (Running running in _alone)
            {
                for (long due = Math.Max(running.Program.NextDue, Now); due <= until && running.Failure is null; due = Math.Max(running.Program.NextDue, due + 1)) running.Run(due);
            }
            RunEntangled(until);
            Now = Math.Max(Now, until);
            if (next > milliseconds) return;
            Now = next;
            if (_nextPlantStep <= next)
            {
                _plant.Step(_nextPlantStep);
                _nextPlantStep += VirtualSite.Plant.Plant.StepSeconds * 1000;
                FollowCourses();
                // At a step of the plant, so that it falls at the same moment however far the site is run at a time.
                if (_hasFailure) TakeDownFailed();
            }
            else if (_nextHoldEnd <= next) EndHolds(next);
            else AdvanceLives(next);
        }
    }

    private void TakeDownFailed()
    {
        _hasFailure = false;
        foreach (Running failed in _running.Values.Where(r => r.Failure is not null).ToList())
        {
            _devices[failed.Id].Fail(failed.Failure!, Now);
            Lives++;
            failed.Rest(Now);
            Connect(failed.Id);
        }
    }

    /// <summary>Runs those that may notice each other, in turn, with what arrives in between.</summary>
    private void RunEntangled(long until)
    {
        while (true)
        {
            long arrival = NextArrival(), device = _due.TryPeek(out _, out var first) ? first.Item1 : long.MaxValue;
            long next = Math.Min(arrival, device);
            if (next > until) return;
            Now = Math.Max(Now, next);
            if (arrival <= next)
            {
                foreach (IMedium medium in _media)
                {
                    if (medium.NextDue <= next) medium.Run(next, _came);
                }
                continue;
            }
            Running running = _due.Dequeue();
            // Queued when something came, and run since.
            if (running.Program.NextDue > next) continue;
            running.Run(next);
            Queue(running);
        }
    }

    private void Queue(Running running)
    {
        if (running.Failure is null && running.Program.NextDue is var due && due < long.MaxValue) _due.Enqueue(running, (Math.Max(due, Now), running.Order));
    }

    private void Came(RecordId host)
    {
        if (_running.TryGetValue(host, out Running? running) && !running.IsAlone) Queue(running);
    }

    private long NextArrival()
    {
        long next = long.MaxValue;
        foreach (IMedium medium in _media) next = Math.Min(next, medium.NextDue);
        return next;
    }

    /// <summary>Puts the devices in order, and finds who may notice what another does.</summary>
    private void Group()
    {
        _isGrouped = true;
        int order = 0;
        foreach (Running running in _running.Values.OrderBy(r => r.Id)) (running.Order, running.IsAlone) = (order++, true);
        foreach (var (one, other) in _media.SelectMany(m => m.Pairs()))
        {
            if (one == other || !_running.TryGetValue(one, out Running? a) || !_running.TryGetValue(other, out Running? b)) continue;
            (a.IsAlone, b.IsAlone) = (false, false);
        }
        foreach (RecordId met in _media.SelectMany(m => m.Met()))
        {
            if (_running.TryGetValue(met, out Running? running)) running.IsAlone = false;
        }
        _alone = [.. _running.Values.Where(r => r.IsAlone).OrderBy(r => r.Order)];
        _entangled = [.. _running.Values.Where(r => !r.IsAlone)];
    }

    /// <summary>Puts an input by hand, in the unit of its point.</summary>
    /// <exception cref="InvalidOperationException">Nothing is wired to this terminal.</exception>
    public void HoldInput(InputHold hold)
    {
        FieldWire wire = _wires.InputAt(hold.ControllerId, hold.Terminal) ?? throw new InvalidOperationException($"Nothing is wired to {hold.Terminal} on the virtual site. Build the site first; that wires what the wiring list says.");
        _holds.RemoveAll(h => h.ControllerId == hold.ControllerId && h.Terminal == hold.Terminal);
        _holds.Add(hold);
        HoldsChanged(wire, hold.ControllerId, hold.At(Now));
    }

    /// <summary>Has what an input is wired to really be so, in the unit of its point: the plant goes on from there.</summary>
    /// <exception cref="InvalidOperationException">Nothing is wired to this terminal.</exception>
    public void HaveAt(RecordId host, string terminal, double value)
    {
        FieldWire wire = _wires.InputAt(host, terminal) ?? throw new InvalidOperationException($"Nothing is wired to {terminal} on the virtual site. Build the site first; that wires what the wiring list says.");
        if (wire.Quantity < 0) throw new InvalidOperationException($"What is wired to {terminal} measures nothing in the plant.");
        double native = wire.ToNative(value);
        _plant.Have(wire.Quantity, native);
        wire.Saw(native);
        _wires.Fresh(host);
    }

    /// <summary>Lets an input follow its sensor again; answers whether it was held.</summary>
    public bool ReleaseInput(RecordId host, string terminal)
    {
        bool was = _holds.RemoveAll(h => h.ControllerId == host && h.Terminal == terminal) > 0;
        HoldsChanged(_wires.InputAt(host, terminal), host, null);
        return was;
    }

    private void HoldsChanged(FieldWire? wire, RecordId host, double? value)
    {
        if (wire is not null) wire.Held = value;
        _wires.Fresh(host);
        _nextHoldEnd = _holds.Count == 0 ? long.MaxValue : _holds.Min(h => h.UntilMilliseconds ?? long.MaxValue);
    }

    // Sensors look at the plant when it has moved on: what is put in their place moves with it.
    private void FollowCourses()
    {
        foreach (InputHold hold in _holds)
        {
            if (hold.Course is not null && _wires.InputAt(hold.ControllerId, hold.Terminal) is { } wire) wire.Held = hold.At(Now);
        }
    }

    internal InputHold? HoldOn(RecordId host, string terminal) => _holds.Find(h => h.ControllerId == host && h.Terminal == terminal);

    private void EndHolds(long now)
    {
        foreach (InputHold hold in _holds.Where(h => h.UntilMilliseconds <= now).ToList()) ReleaseInput(hold.ControllerId, hold.Terminal);
        HoldsEnded++;
    }

    /// <summary>All that the site must keep over a restart, but for the images and what their programs remember.</summary>
    public SiteMemory Remember() => Copy()();

    /// <summary>The same in two steps: a copy is taken now, in the site's turn; what is kept is made of it later, outside of any.</summary>
    public Func<SiteMemory> Copy()
    {
        var (now, next, built) = (Now, _nextPlantStep, _built);
        Func<PlantMemory> plant = _plant.Copy();
        InputHold[] holds = [.. _holds];
        (string Key, Func<object?> Memory)[] media = [.. _media.Select(m => (m.Key, m.Remember()))];
        return () =>
        {
            PlantMemory kept = plant();
            return new SiteMemory
            {
                Now = now,
                NextPlantStep = next,
                Rooms = built.Rooms.Select((r, i) => (r.Id, Memory: kept.Rooms[i])).ToDictionary(x => x.Id, x => x.Memory),
                Kilns = built.Machines.Select((m, i) => (m.Id, Memory: kept.Kilns[i])).Where(x => x.Memory is not null).ToDictionary(x => x.Id, x => x.Memory!),
                Motors = built.Machines.Select((m, i) => (m.Id, Memory: kept.Motors[i])).ToDictionary(x => x.Id, x => x.Memory),
                Quantities = kept.Quantities,
                InputHolds = [.. holds],
                Media = media.Select(m => (m.Key, Memory: m.Memory())).Where(m => m.Memory is not null).ToDictionary(m => m.Key, m => JsonSerializer.SerializeToElement(m.Memory, m.Memory!.GetType(), RecordJson.Options)),
            };
        };
    }

    /// <summary>Takes up what was kept; all that is mounted is connected.</summary>
    public void Recall(SiteMemory memory)
    {
        Now = memory.Now;
        RecallPlant(memory);
        _holds.Clear();
        _holds.AddRange(memory.InputHolds);
        _nextHoldEnd = _holds.Count == 0 ? long.MaxValue : _holds.Min(h => h.UntilMilliseconds ?? long.MaxValue);
        foreach (InputHold hold in _holds)
        {
            if (_wires.InputAt(hold.ControllerId, hold.Terminal) is { } wire) wire.Held = hold.At(Now);
        }
        foreach (RecordId host in _devices.Keys) Connect(host);
        NextLives();
        foreach (IMedium medium in _media) medium.Recall(memory.Media.TryGetValue(medium.Key, out JsonElement kept) ? kept.Deserialize(medium.MemoryType, RecordJson.Options) : null);
        if (memory.Sensors.Count > 0) _wires.Recall(memory.Sensors);
    }

    private void RecallPlant(SiteMemory memory)
    {
        _nextPlantStep = memory.NextPlantStep ?? Now;
        _plant.LookOutside(_nextPlantStep - (VirtualSite.Plant.Plant.StepSeconds * 1000));
        for (int i = 0; i < _built.Rooms.Count; i++)
        {
            if (!memory.Rooms.TryGetValue(_built.Rooms[i].Id, out RoomMemory? room)) continue;
            (_plant.Rooms.Air[i], _plant.Rooms.Structure[i], _plant.Rooms.Co2[i], _plant.Rooms.Moisture[i]) = (room.Air, room.Structure, room.Co2, room.Moisture);
        }
        for (int i = 0; i < _built.Machines.Count; i++)
        {
            if (_plant.Machines[i] is KilnMachine { Kiln: { } kiln } && memory.Kilns.TryGetValue(_built.Machines[i].Id, out KilnMemory? kept)) kiln.Restore(kept.Temperature, kept.FiringSince);
            if (memory.Motors.TryGetValue(_built.Machines[i].Id, out MotorMemory? motor)) _plant.Machines[i].Motor.Restore(motor.Turns, motor.Commanded, motor.SinceCommand);
        }
        foreach (var (name, value) in memory.Quantities)
        {
            int index = _plant.IndexOf(name);
            if (index >= 0) _plant[index] = value;
        }
        _plant.BeginWhereOlder(memory.Quantities);
    }
}

/// <summary>A site as it stands: its plan, wires and all, and how many times something was built there.</summary>
public sealed record StandingSite(SitePlan Plan, int Builds);

/// <summary>What it takes to build the site to another plan: after which building it was worked out, the plan without wires, the new plant if it differs, and the wires of each device whose wires differ.</summary>
public sealed record ReadyBuild(int After, SitePlan Plan, Plant.Plant? Plant, IReadOnlyDictionary<RecordId, IReadOnlyList<Wire>> Wires);

/// <summary>What the plant is like at a moment: rooms, kilns (null for other machines) and motors by their order, and every quantity that is a number by its name.</summary>
internal sealed record PlantMemory(IReadOnlyList<RoomMemory> Rooms, IReadOnlyList<KilnMemory?> Kilns, IReadOnlyList<MotorMemory> Motors, Dictionary<string, double> Quantities);

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

    /// <summary>Where older versions kept what sensors remember, by <c>controller/terminal/quantity</c>.</summary>
    public Dictionary<string, SensorMemory> Sensors { get; init; } = [];

    /// <summary>When the plant moves on next, ms of site time; missing in what older versions kept.</summary>
    public long? NextPlantStep { get; init; }

    /// <summary>All named quantities.</summary>
    public Dictionary<string, double> Quantities { get; init; } = [];

    /// <summary>Inputs held by hand.</summary>
    public List<InputHold> InputHolds { get; init; } = [];

    /// <summary>What is on its way, by the key of its medium.</summary>
    public Dictionary<string, JsonElement> Media { get; init; } = [];

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
