using LoftyWren.Core.Plant;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Units;
using LoftyWren.VirtualSite.Weather;
using NodaTime;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>
/// Rooms, machines and weather together, with every quantity under a name: <c>outdoor/temperature</c>,
/// <c>room/ID/temperature</c>, <c>machine/ID/run</c>. Sensors read quantities, actuators write them.
/// </summary>
public sealed class Plant
{
    /// <summary>The plant moves on in steps of so many seconds.</summary>
    public const int StepSeconds = 5;

    private readonly SitePlan _plan;
    private readonly WeatherYear _weather;
    private readonly DateTimeZone _zone;
    // In the order in which they are declared the steps below find them.
    private const int Temperature = 0, Humidity = 1, Wind = 2, Solar = 3, Rain = 4, OutdoorLight = 5, Co2 = 2, Presence = 3, Window = 4, RoomLight = 5;
    private const double LuxOfSun = 110, LuxThroughWindows = 1.2, LightKeptOut = 0.9, WindowChangesAnHour = 4;
    private readonly Dictionary<RecordId, int> _roomAt, _machineAt;
    private readonly double[] _values;
    private readonly int[] _roomFirst, _machineFirst;
    private readonly uint[] _roomSeeds;
    private readonly Machine[] _machines;

    /// <summary>Builds the plant.</summary>
    public Plant(SitePlan plan)
    {
        _plan = plan;
        _weather = new WeatherYear(plan.Seed);
        _zone = DateTimeZoneProviders.Tzdb[plan.TimeZone];
        Rooms = new Rooms(plan.Rooms);
        _machines = [.. plan.Machines.Select(MachineKinds.Make)];
        int count = 0;
        int Room(int keys) => (count += keys) - keys;
        Room(WeatherKeys.Length);
        _roomFirst = [.. plan.Rooms.Select(_ => Room(RoomKeys.Length))];
        _machineFirst = [.. _machines.Select(m => Room(m.Names.Count))];
        _values = new double[count];
        _roomAt = plan.Rooms.Select((r, i) => (r.Id, i)).ToDictionary(x => x.Id, x => x.i);
        _machineAt = plan.Machines.Select((m, i) => (m.Id, i)).ToDictionary(x => x.Id, x => x.i);
        _roomSeeds = [.. plan.Rooms.Select(r => Chance.SeedOf(r.Id.Value))];
        var alike = new Dictionary<(RecordId?, string), int>();
        foreach (SiteMachine machine in plan.Machines) alike[(machine.Room, machine.Kind)] = alike.GetValueOrDefault((machine.Room, machine.Kind)) + 1;
        for (int m = 0; m < _machines.Length; m++)
        {
            SiteMachine machine = plan.Machines[m];
            int room = machine.Room is { } at && _roomAt.TryGetValue(at, out int i) ? i : -1;
            _machines[m].Stand(this, _values, _machineFirst[m], room, room < 0 ? 0 : plan.Rooms[room].AreaSquareMetres, 1.0 / alike[(machine.Room, machine.Kind)]);
        }
        Machine? Find(RecordId? id) => id is { } of && _machineAt.TryGetValue(of, out int at) ? _machines[at] : null;
        foreach (Machine machine in _machines)
        {
            machine.Tie(Find);
            Find(machine.Drawn.PartOf)?.Has(machine);
        }
        foreach (Machine machine in _machines) machine.Size();
    }

    private static readonly string[] WeatherKeys = [.. PlantQuantities.Weather.Select(q => q.Key)], RoomKeys = [.. PlantQuantities.Room.Select(q => q.Key)];

    /// <summary>The unit in which a quantity is kept, or null when it has none that a sensor would turn into another.</summary>
    public static Unit? UnitOf(string quantity) => UnitOfKey.GetValueOrDefault(quantity[(quantity.LastIndexOf('/') + 1)..]);

    // A key has the same unit wherever it is declared; see PlantQuantityTests.
    private static readonly Dictionary<string, Unit?> UnitOfKey = PlantQuantities.Weather.Concat(PlantQuantities.Room).Concat(EquipmentKind.All.SelectMany(k => k.Quantities))
        .Where(q => q is { IsDriven: false, Unit: not null }).DistinctBy(q => q.Key).ToDictionary(q => q.Key, q => Unit.Find(q.Unit));

    /// <summary>The rooms.</summary>
    public Rooms Rooms { get; }

    /// <summary>The weather now.</summary>
    public Conditions Weather { get; private set; }

    /// <summary>The machines, in the order in which they are drawn.</summary>
    public IReadOnlyList<Machine> Machines => _machines;

    /// <summary>The accounts of machines.</summary>
    public PlantLedger Ledger { get; } = new();

    /// <summary>Heat that old radiators gave to rooms by themselves since the start, J.</summary>
    public double BackgroundHeat { get; private set; }

    /// <summary>Every quantity by name with its value.</summary>
    public IEnumerable<(string Name, double Value)> Quantities => Named(_values);

    /// <summary>The index of a quantity, or −1.</summary>
    public int IndexOf(string quantity) => IndexOf(QuantityName.Parse(quantity));

    /// <summary>The index of a quantity, or −1.</summary>
    internal int IndexOf(QuantityName name)
    {
        if (name.Sort == QuantityName.Outdoor) return Array.IndexOf(WeatherKeys, name.Key);
        bool isRoom = name.Sort == QuantityName.Room;
        if (name.Thing is not { } thing || !(isRoom ? _roomAt : _machineAt).TryGetValue(thing, out int at)) return -1;
        int key = isRoom ? Array.IndexOf(RoomKeys, name.Key) : _machines[at].PlaceOf(name.Key);
        return key < 0 ? -1 : (isRoom ? _roomFirst : _machineFirst)[at] + key;
    }

    // The names are made when somebody asks for them: a site has a hundred thousand, and looks at few.
    private IEnumerable<(string Name, double Value)> Named(double[] values)
    {
        for (int i = 0; i < WeatherKeys.Length; i++) yield return ($"{QuantityName.Outdoor}/{WeatherKeys[i]}", values[i]);
        for (int r = 0; r < _roomFirst.Length; r++)
        {
            for (int i = 0; i < RoomKeys.Length; i++) yield return ($"{QuantityName.Room}/{_plan.Rooms[r].Id}/{RoomKeys[i]}", values[_roomFirst[r] + i]);
        }
        for (int m = 0; m < _machines.Length; m++)
        {
            for (int i = 0; i < _machines[m].Names.Count; i++) yield return ($"{QuantityName.Machine}/{_machines[m].Drawn.Id}/{_machines[m].Names[i]}", values[_machineFirst[m] + i]);
        }
    }

    /// <summary>Takes a copy of all that moves, quickly; what is kept is made of it later.</summary>
    internal Func<PlantMemory> Copy()
    {
        double[] values = [.. _values], air = [.. Rooms.Air], structure = [.. Rooms.Structure], co2 = [.. Rooms.Co2], moisture = [.. Rooms.Moisture];
        Motor[] motors = [.. _machines.Select(m => m.Motor)];
        (double Temperature, long? FiringSince)?[] kilns = [.. _machines.Select(m => m is KilnMachine { Kiln: { } k } ? ((double, long?)?)(k.Temperature, k.FiringSince) : null)];
        return () => new PlantMemory(
            [.. air.Select((a, i) => new RoomMemory(a, structure[i], co2[i], moisture[i]))],
            [.. kilns.Select(k => k is { } kiln ? new KilnMemory(kiln.Temperature, kiln.FiringSince) : null)],
            [.. motors.Select(m => new MotorMemory(m.Turns, m.Commanded, m.SinceCommand))],
            Named(values).Where(q => double.IsFinite(q.Value)).ToDictionary(q => q.Name, q => q.Value));
    }

    /// <summary>Takes over, by their identities, the state of what stood before and still stands.</summary>
    internal void TakeOver(Plant before, long moment)
    {
        LookOutside(moment);
        for (int i = 0; i < _plan.Rooms.Count; i++)
        {
            if (!before._roomAt.TryGetValue(_plan.Rooms[i].Id, out int was))
            {
                // A sensor that looks before the next step must not find 0 °C.
                Publish(i);
                continue;
            }
            (Rooms.Air[i], Rooms.Structure[i], Rooms.Co2[i], Rooms.Moisture[i]) = (before.Rooms.Air[was], before.Rooms.Structure[was], before.Rooms.Co2[was], before.Rooms.Moisture[was]);
            Take(_roomFirst[i], before, before._roomFirst[was], RoomKeys.Length);
        }
        for (int m = 0; m < _plan.Machines.Count; m++)
        {
            if (!before._machineAt.TryGetValue(_plan.Machines[m].Id, out int was)) continue;
            Machine now = _machines[m], old = before._machines[was];
            now.Motor = old.Motor;
            // What has become a machine of another kind begins anew.
            if (now.Drawn.Kind != old.Drawn.Kind) continue;
            if (now is KilnMachine { Kiln: { } kiln } && old is KilnMachine { Kiln: { } fired }) kiln.Restore(fired.Temperature, fired.FiringSince);
            Take(_machineFirst[m], before, before._machineFirst[was], now.Names.Count);
        }
        Take(0, before, 0, WeatherKeys.Length);
    }

    private void Take(int first, Plant before, int from, int count)
    {
        for (int i = 0; i < count; i++) _values[first + i] = before._values[from + i];
    }

    /// <summary>
    /// Lets what an older version kept of a machine, before that had all of its quantities, begin as it is when nobody drives
    /// it: what was kept of a fan that nobody switched was that it stood. What somebody drives is driven anew.
    /// </summary>
    internal void BeginWhereOlder(IReadOnlyDictionary<string, double> kept)
    {
        foreach (Machine machine in _machines)
        {
            string owner = $"machine/{machine.Drawn.Id}/";
            if (machine.Names.Any(n => kept.ContainsKey(owner + n)) && !machine.Names.All(n => kept.ContainsKey(owner + n))) machine.BeginAgain(EquipmentKind.Find(machine.Drawn.Kind).Quantities);
        }
    }

    /// <summary>A quantity's value.</summary>
    public double this[int index]
    {
        get => _values[index];
        set => _values[index] = value;
    }

    /// <summary>Has a quantity really be so: of a room its nodes, air and structure alike; of a machine what it keeps. What only follows from others, such as the weather, is so until the next step.</summary>
    public void Have(int index, double value)
    {
        _values[index] = value;
        if (RoomAt(index) is not var (room, key)) return;
        switch (key)
        {
            case Temperature:
                // As dry or damp as it was.
                double humidity = Rooms.Humidity(room);
                (Rooms.Air[room], Rooms.Structure[room]) = (value, value);
                Rooms.Moisture[room] = Rooms.MoistureOf(value, humidity);
                break;
            case Humidity:
                Rooms.Moisture[room] = Rooms.MoistureOf(Rooms.Air[room], Math.Clamp(value, 0, 100));
                break;
            case Co2:
                Rooms.Co2[room] = value;
                break;
        }
        Publish(room);
    }

    private (int Room, int Key)? RoomAt(int index)
    {
        for (int r = 0; r < _roomFirst.Length; r++)
        {
            if (index - _roomFirst[r] is >= 0 and var key && key < RoomKeys.Length) return (r, key);
        }
        return null;
    }

    /// <summary>Whether the site is open at a moment: Tuesday to Friday 9 to 17:30, weekends 10 to 16.</summary>
    public static bool IsOpen(ZonedDateTime at)
    {
        double hour = at.TimeOfDay.TickOfDay / (double)NodaConstants.TicksPerHour;
        return at.DayOfWeek switch
        {
            IsoDayOfWeek.Monday => false,
            IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday => hour is >= 10 and < 16,
            _ => hour is >= 9 and < 17.5,
        };
    }

    /// <summary>Moves everything on by one step that ends at a moment of site time.</summary>
    public void Step(long now)
    {
        Weather = _weather.At(now);
        ZonedDateTime local = Instant.FromUnixTimeMilliseconds(now).InZone(_zone);
        bool open = IsOpen(local);
        for (int i = 0; i < _plan.Rooms.Count; i++) StepPeople(i, now, open);
        var moment = new Moment(now, local, Weather);
        foreach (Machine machine in _machines) machine.Step(StepSeconds, moment);
        foreach (Machine machine in _machines) machine.Settle(StepSeconds);
        Rooms.Step(StepSeconds, Weather);
        Publish();
    }

    /// <summary>Has the weather of a moment of site time without moving on, as after a restart.</summary>
    public void LookOutside(long now) => Weather = _weather.At(now);

    /// <summary>Makes the quantities show the nodes as they are, without moving on.</summary>
    public void Publish()
    {
        (_values[Temperature], _values[Humidity], _values[Wind], _values[Solar], _values[Rain], _values[OutdoorLight]) =
            (Weather.Temperature, Weather.Humidity, Weather.Wind, Weather.Solar, Weather.Rain ? 1 : 0, Weather.Solar * LuxOfSun);
        for (int i = 0; i < _plan.Rooms.Count; i++) Publish(i);
    }

    private void Publish(int room)
    {
        int first = _roomFirst[room];
        (_values[first + Temperature], _values[first + Humidity], _values[first + Co2]) = (Rooms.Air[room], Rooms.Humidity(room), Rooms.Co2[room]);
        _values[first + RoomLight] = (Weather.Solar * LuxThroughWindows * (1 - (LightKeptOut * Math.Min(1, Rooms.Shade[room])))) + Rooms.Light[room];
    }

    private void StepPeople(int i, long now, bool open)
    {
        SiteRoom room = _plan.Rooms[i];
        int first = _roomFirst[i];
        // People come and go by the quarter of an hour, by a fixed pattern of room and time.
        bool here = open && room.People > 0 && (Chance.Draw(_roomSeeds[i], now / 900_000) & 7) != 0;
        // They open a window when it is too warm, if it is mild outside, and shut it when it is cool or they leave.
        bool window = _values[first + Window] > 0.5 ? here && Rooms.Air[i] > 21 : here && Rooms.Air[i] > 25 && Weather.Temperature > 12;
        Rooms.People[i] = here ? room.People : 0;
        double background = room.BackgroundHeating ? Math.Clamp((18.5 - Rooms.Air[i]) * 40, 0, 60) * room.AreaSquareMetres : 0;
        Rooms.PlantHeat[i] = background;
        BackgroundHeat += background * StepSeconds;
        Rooms.ExtraAir[i] = window ? WindowChangesAnHour * room.AreaSquareMetres * room.HeightMetres : 0;
        (Rooms.Steam[i], Rooms.Shade[i], Rooms.Light[i], Rooms.Co2Flow[i]) = (0, 0, 0, 0);
        (_values[first + Presence], _values[first + Window]) = (here ? 1 : 0, window ? 1 : 0);
    }
}

/// <summary>What a quantity is called, in its parts: <c>outdoor/temperature</c>, <c>room/ID/temperature</c>, <c>machine/ID/run</c>.</summary>
internal readonly record struct QuantityName(string Sort, RecordId? Thing, string Key)
{
    public const string Outdoor = "outdoor", Room = "room", Machine = "machine";

    /// <summary>Its parts; of what is no name those of a machine that is nowhere.</summary>
    public static QuantityName Parse(string name) => name.Split('/') switch
    {
        [Outdoor, var key] => new(Outdoor, null, key),
        [var sort and (Room or Machine), var id, var key] when RecordId.IsValid(id) => new(sort, new RecordId(id), key),
        _ => new(Machine, null, ""),
    };
}
