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
    // In this order the steps below find them.
    private static readonly string[] OutdoorQuantities = ["temperature", "humidity", "wind", "solar", "rain"], RoomQuantities = ["temperature", "humidity", "co2", "presence"], MachineQuantities = ["run", "level", "status", "temperature", "state", "cool"];
    private readonly Dictionary<string, int> _index = [];
    private readonly List<string> _names = [];
    private readonly Dictionary<RecordId, int> _roomAt, _machineAt;
    private readonly List<double> _values = [];
    private readonly int _outdoor;
    private readonly int[] _roomFirst, _machineFirst, _machineRoom;
    private readonly uint[] _roomSeeds, _machineSeeds;
    private readonly Kiln?[] _kilns;
    private readonly Motor[] _motors;

    /// <summary>Builds the plant.</summary>
    public Plant(SitePlan plan)
    {
        _plan = plan;
        _weather = new WeatherYear(plan.Seed);
        _zone = DateTimeZoneProviders.Tzdb[plan.TimeZone];
        Rooms = new Rooms(plan.Rooms);
        _outdoor = Name("outdoor", OutdoorQuantities);
        _roomFirst = [.. plan.Rooms.Select(r => Name($"room/{r.Id}", RoomQuantities))];
        _machineFirst = [.. plan.Machines.Select(m => Name($"machine/{m.Id}", MachineQuantities))];
        _roomAt = plan.Rooms.Select((r, i) => (r.Id, i)).ToDictionary(x => x.Id, x => x.i);
        _machineAt = plan.Machines.Select((m, i) => (m.Id, i)).ToDictionary(x => x.Id, x => x.i);
        _machineRoom = [.. plan.Machines.Select(m => m.Room is { } room && _roomAt.TryGetValue(room, out int i) ? i : -1)];
        _roomSeeds = [.. plan.Rooms.Select(r => Chance.SeedOf(r.Id.Value))];
        _machineSeeds = [.. plan.Machines.Select(m => Chance.SeedOf(m.Id.Value))];
        _kilns = [.. plan.Machines.Select(m => m.Kind == "kiln" ? new Kiln() : null)];
        _motors = new Motor[plan.Machines.Count];
        foreach (int first in _machineFirst) _values[first + 3] = 20;
    }

    /// <summary>The unit in which a quantity is kept, or null when it has none that a sensor would turn into another.</summary>
    public static Unit? UnitOf(string quantity) => Unit.Find(quantity[(quantity.LastIndexOf('/') + 1)..] switch { "temperature" => "°C", "humidity" => "%RH", "wind" => "m/s", "solar" => "W/m²", _ => null });

    /// <summary>The rooms.</summary>
    public Rooms Rooms { get; }

    /// <summary>The weather now.</summary>
    public Conditions Weather { get; private set; }

    /// <summary>The kilns, by the order of machines; null where the machine is another.</summary>
    public IReadOnlyList<Kiln?> Kilns => _kilns;

    /// <summary>The motors, by the order of machines.</summary>
    public Span<Motor> Motors => _motors;

    /// <summary>Every quantity by name with its value.</summary>
    public IEnumerable<(string Name, double Value)> Quantities => _index.Select(q => (q.Key, _values[q.Value]));

    /// <summary>The index of a quantity, or −1.</summary>
    public int IndexOf(string quantity) => _index.GetValueOrDefault(quantity, -1);

    /// <summary>Takes a copy of all that moves, quickly; what is kept is made of it later.</summary>
    internal Func<PlantMemory> Copy()
    {
        double[] values = [.. _values], air = [.. Rooms.Air], structure = [.. Rooms.Structure], co2 = [.. Rooms.Co2], moisture = [.. Rooms.Moisture];
        Motor[] motors = [.. _motors];
        (double Temperature, long? FiringSince)?[] kilns = [.. _kilns.Select(k => k is null ? ((double, long?)?)null : (k.Temperature, k.FiringSince))];
        return () => new PlantMemory(
            [.. air.Select((a, i) => new RoomMemory(a, structure[i], co2[i], moisture[i]))],
            [.. kilns.Select(k => k is { } kiln ? new KilnMemory(kiln.Temperature, kiln.FiringSince) : null)],
            [.. motors.Select(m => new MotorMemory(m.Turns, m.Commanded, m.SinceCommand))],
            _names.Select((name, i) => (name, Value: values[i])).Where(q => double.IsFinite(q.Value)).ToDictionary(q => q.name, q => q.Value));
    }

    /// <summary>Whether a quantity is at an index.</summary>
    internal bool IsAt(int index, string quantity) => index >= 0 && index < _names.Count && _names[index] == quantity;

    /// <summary>Takes over, by their identities, the state of what stood before and still stands.</summary>
    internal void TakeOver(Plant before, long now)
    {
        LookOutside(now);
        for (int i = 0; i < _plan.Rooms.Count; i++)
        {
            if (!before._roomAt.TryGetValue(_plan.Rooms[i].Id, out int was))
            {
                // A sensor that looks before the next step must not find 0 °C.
                Publish(i);
                continue;
            }
            (Rooms.Air[i], Rooms.Structure[i], Rooms.Co2[i], Rooms.Moisture[i]) = (before.Rooms.Air[was], before.Rooms.Structure[was], before.Rooms.Co2[was], before.Rooms.Moisture[was]);
            Take(_roomFirst[i], before, before._roomFirst[was], RoomQuantities.Length);
        }
        for (int m = 0; m < _plan.Machines.Count; m++)
        {
            if (!before._machineAt.TryGetValue(_plan.Machines[m].Id, out int was)) continue;
            if (_kilns[m] is { } kiln && before._kilns[was] is { } old) kiln.Restore(old.Temperature, old.FiringSince);
            _motors[m] = before._motors[was];
            Take(_machineFirst[m], before, before._machineFirst[was], MachineQuantities.Length);
        }
        Take(_outdoor, before, before._outdoor, OutdoorQuantities.Length);
    }

    private void Take(int first, Plant before, int from, int count)
    {
        for (int i = 0; i < count; i++) _values[first + i] = before._values[from + i];
    }

    /// <summary>A quantity's value.</summary>
    public double this[int index]
    {
        get => _values[index];
        set => _values[index] = value;
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
        for (int i = 0; i < _plan.Rooms.Count; i++)
        {
            SiteRoom room = _plan.Rooms[i];
            // People come and go by the quarter of an hour, by a fixed pattern of room and time.
            bool here = open && room.People > 0 && (Chance.Draw(_roomSeeds[i], now / 900_000) & 7) != 0;
            Rooms.People[i] = here ? room.People : 0;
            Rooms.PlantHeat[i] = room.BackgroundHeating ? Math.Clamp((18.5 - Rooms.Air[i]) * 40, 0, 60) * room.AreaSquareMetres : 0;
            Rooms.ExtraAir[i] = 0;
            Rooms.Steam[i] = 0;
            _values[_roomFirst[i] + 3] = here ? 1 : 0;
        }
        for (int m = 0; m < _plan.Machines.Count; m++) StepMachine(m, now, local);
        Rooms.Step(StepSeconds, Weather);
        Publish();
    }

    /// <summary>Has the weather of a moment of site time without moving on, as after a restart.</summary>
    public void LookOutside(long now) => Weather = _weather.At(now);

    /// <summary>Makes the quantities show the nodes as they are, without moving on.</summary>
    public void Publish()
    {
        (_values[_outdoor], _values[_outdoor + 1], _values[_outdoor + 2], _values[_outdoor + 3], _values[_outdoor + 4]) =
            (Weather.Temperature, Weather.Humidity, Weather.Wind, Weather.Solar, Weather.Rain ? 1 : 0);
        for (int i = 0; i < _plan.Rooms.Count; i++) Publish(i);
    }

    private void Publish(int room) => (_values[_roomFirst[room]], _values[_roomFirst[room] + 1], _values[_roomFirst[room] + 2]) = (Rooms.Air[room], Rooms.Humidity(room), Rooms.Co2[room]);

    private void StepMachine(int m, long now, ZonedDateTime local)
    {
        SiteMachine machine = _plan.Machines[m];
        int first = _machineFirst[m], room = _machineRoom[m];
        double level = Math.Clamp(_values[first + 1] / 100, 0, 1);
        bool run = _values[first] > 0.5;
        double area = room >= 0 ? _plan.Rooms[room].AreaSquareMetres : 0;
        _motors[m].Step(StepSeconds, run || level > 0.02);
        _values[first + 2] = _motors[m].Turns ? 1 : 0;
        switch (machine.Kind)
        {
            case "kiln" when _kilns[m] is { } kiln:
                // The potter fires from two in the morning on the days the site is open, each kiln on its own days.
                if (kiln.State == 1 && local.Hour == 2 && local.DayOfWeek != IsoDayOfWeek.Monday && (local.DayOfYear + _machineSeeds[m]) % 2 == 0) kiln.FiringSince = now;
                double heat = kiln.Step(StepSeconds, now, room >= 0 ? Rooms.Air[room] : Weather.Temperature);
                if (room >= 0) Rooms.PlantHeat[room] += heat;
                _values[first + 3] = kiln.Temperature;
                _values[first + 4] = kiln.State;
                break;
            case "extract fan" or "dust extract" when room >= 0 && _motors[m].Turns:
                Rooms.ExtraAir[room] += 15 * area;
                break;
            case "fan-coil" or "radiator" when room >= 0:
                Rooms.PlantHeat[room] += (110 * area * level) - (70 * area * Math.Clamp(_values[first + 5] / 100, 0, 1));
                break;
            case "lighting" when room >= 0 && (run || level > 0):
                Rooms.PlantHeat[room] += 8 * area * Math.Max(level, run ? 1 : 0);
                break;
            case "humidifier" when room >= 0:
                Rooms.Steam[room] += 1500 * Math.Max(level, run ? 1 : 0);
                break;
            case "boiler":
                // Water relaxes to 75 °C while the boiler fires, to the plant room's 20 °C otherwise.
                _values[first + 3] += ((run ? 75 : 20) - _values[first + 3]) * StepSeconds / (run ? 600 : 5400);
                break;
            case "air handler":
                double target = Weather.Temperature + (level * 28) - (Math.Clamp(_values[first + 5] / 100, 0, 1) * 12);
                _values[first + 3] += (target - _values[first + 3]) * StepSeconds / 90;
                break;
            case "heat pump":
                _values[first + 3] += ((run ? 45 : 20) - _values[first + 3]) * StepSeconds / 1200;
                break;
        }
    }

    private int Name(string owner, string[] names)
    {
        int first = _values.Count;
        foreach (string name in names)
        {
            string full = $"{owner}/{name}";
            _index[full] = _values.Count;
            _names.Add(full);
            _values.Add(0);
        }
        return first;
    }
}
