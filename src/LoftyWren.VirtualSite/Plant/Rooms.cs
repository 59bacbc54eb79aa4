using LoftyWren.VirtualSite.Weather;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>Where the heat of one room came from since the start, in J; positive warms. Their sum is what its two nodes have gained.</summary>
public struct EnergyLedger
{
    /// <summary>Through windows and outer walls.</summary>
    public double Outdoors;

    /// <summary>Through walls to other rooms.</summary>
    public double Neighbours;

    /// <summary>By air that is changed for outdoor air.</summary>
    public double Air;

    /// <summary>From the sun.</summary>
    public double Solar;

    /// <summary>From people.</summary>
    public double People;

    /// <summary>From lights, kilns, fan-coils and radiators.</summary>
    public double Plant;

    /// <summary>All together.</summary>
    public readonly double Sum => Outdoors + Neighbours + Air + Solar + People + Plant;
}

/// <summary>
/// Rooms as thermal networks: an air node and a structure node each, walls to neighbours, a skin to outdoors. Stepped by
/// explicit Euler, in which every flow leaves one account and enters another, so energy balances to rounding.
/// </summary>
public sealed class Rooms
{
    /// <summary>Density of air at 20 °C, kg/m³; its heat capacity, J/(m³·K); its CO₂ outdoors, ppm.</summary>
    public const double AirDensity = 1.2, AirHeat = AirDensity * 1005, OutdoorCo2 = 420;

    private const double ShadedAway = 0.75;
    private readonly IReadOnlyList<SiteRoom> _rooms;
    private readonly (int A, int B, double Conductance)[] _walls;
    private readonly double[] _change;

    /// <summary>Builds the network; all nodes start at a temperature in °C.</summary>
    public Rooms(IReadOnlyList<SiteRoom> rooms, double start = 18)
    {
        _rooms = rooms;
        int n = rooms.Count;
        Air = Filled(n, start);
        Structure = Filled(n, start);
        Co2 = Filled(n, 500);
        Moisture = Filled(n, 6.5);
        PlantHeat = new double[n];
        ExtraAir = new double[n];
        People = new double[n];
        Steam = new double[n];
        Shade = new double[n];
        Light = new double[n];
        Co2Flow = new double[n];
        Ledger = new EnergyLedger[n];
        _change = new double[n];
        var index = rooms.Select((r, i) => (r.Id, i)).ToDictionary(x => x.Id, x => x.i);
        // 1.5 W/(m²·K) through an inner wall; each wall is given from both sides and counted once.
        _walls = [.. rooms.SelectMany((r, i) => r.Walls.Where(w => index.ContainsKey(w.Room)).Select(w => (A: Math.Min(i, index[w.Room]), B: Math.Max(i, index[w.Room]), w.AreaSquareMetres)))
            .Where(w => w.A != w.B).DistinctBy(w => (w.A, w.B)).Select(w => (w.A, w.B, w.AreaSquareMetres * 1.5))];
    }

    /// <summary>Air temperature of each room, °C.</summary>
    public double[] Air { get; }

    /// <summary>Temperature of each room's walls, floor and ceiling, °C.</summary>
    public double[] Structure { get; }

    /// <summary>CO₂ of each room, ppm.</summary>
    public double[] Co2 { get; }

    /// <summary>Water in each room's air, g/kg.</summary>
    public double[] Moisture { get; }

    /// <summary>Heat from machines and lights during the next step, W.</summary>
    public double[] PlantHeat { get; }

    /// <summary>Air moved by fans during the next step, m³/h, replaced by outdoor air.</summary>
    public double[] ExtraAir { get; }

    /// <summary>People in each room during the next step.</summary>
    public double[] People { get; }

    /// <summary>How far blinds are down during the next step, 0 to 1.</summary>
    public double[] Shade { get; }

    /// <summary>What lamps give during the next step, lx.</summary>
    public double[] Light { get; }

    /// <summary>CO₂ that supply air brings during the next step, ppm·m³/h.</summary>
    public double[] Co2Flow { get; }

    /// <summary>Where the water in all rooms' air came from since the start, g: from people, by machines, by air that is changed; and what fell again.</summary>
    public double WaterOfPeople { get; private set; }

    /// <summary>Brought by machines, or taken by them, g.</summary>
    public double WaterOfMachines { get; private set; }

    /// <summary>Brought by air that is changed, g.</summary>
    public double WaterOfAir { get; private set; }

    /// <summary>Fallen in rooms, since air holds no more, g.</summary>
    public double WaterFallen { get; private set; }

    /// <summary>Water in the air of a room, g.</summary>
    public double WaterIn(int i) => Moisture[i] * _rooms[i].AreaSquareMetres * _rooms[i].HeightMetres * AirDensity;

    /// <summary>Water given off during the next step, or taken, g/h.</summary>
    public double[] Steam { get; }

    /// <summary>The heat accounts.</summary>
    public EnergyLedger[] Ledger { get; }

    /// <summary>Heat capacity of a room's air and furnishings, J/K: the air's four times.</summary>
    public double AirCapacity(int i) => AirHeat * _rooms[i].AreaSquareMetres * _rooms[i].HeightMetres * 4;

    /// <summary>Heat capacity of a room's structure, J/K: 150 kJ/K a square metre of floor.</summary>
    public double StructureCapacity(int i) => 150_000 * _rooms[i].AreaSquareMetres;

    /// <summary>Heat stored in both nodes, J above 0 °C.</summary>
    public double Stored(int i) => (AirCapacity(i) * Air[i]) + (StructureCapacity(i) * Structure[i]);

    /// <summary>Relative humidity of a room, %, by the Magnus formula over water at 1013 hPa.</summary>
    public double Humidity(int i) => RelativeHumidity(Moisture[i], Air[i]);

    /// <summary>Relative humidity in % of air with so many g/kg at a temperature in °C.</summary>
    public static double RelativeHumidity(double gramsPerKilogram, double celsius)
    {
        double saturation = 6.112 * Math.Exp(17.62 * celsius / (243.12 + celsius));
        double pressure = 1013 * gramsPerKilogram / (622 + gramsPerKilogram);
        return Math.Clamp(100 * pressure / saturation, 0, 100);
    }

    /// <summary>Water in g/kg of air at a temperature in °C and a relative humidity in %.</summary>
    public static double MoistureOf(double celsius, double humidity)
    {
        double pressure = humidity / 100 * 6.112 * Math.Exp(17.62 * celsius / (243.12 + celsius));
        return 622 * pressure / (1013 - pressure);
    }

    /// <summary>Moves every node on by so many seconds; at most 60, for stability.</summary>
    public void Step(double seconds, Conditions weather)
    {
        double outdoorMoisture = MoistureOf(weather.Temperature, weather.Humidity);
        Array.Clear(_change);
        foreach (var (a, b, conductance) in _walls)
        {
            double heat = conductance * (Structure[b] - Structure[a]) * seconds;
            _change[a] += heat;
            _change[b] -= heat;
        }
        for (int i = 0; i < _rooms.Count; i++)
        {
            SiteRoom room = _rooms[i];
            double area = room.AreaSquareMetres, volume = area * room.HeightMetres;
            double toStructure = 9 * area * (Air[i] - Structure[i]) * seconds;
            double skin = 0.6 * area * (weather.Temperature - Structure[i]) * seconds;
            double window = 0.2 * area * (weather.Temperature - Air[i]) * seconds;
            double cubicMetres = ((0.3 * volume) + ExtraAir[i]) * seconds / 3600;
            double air = cubicMetres * AirHeat * (weather.Temperature - Air[i]);
            double sun = 0.03 * area * weather.Solar * (1 - (ShadedAway * Math.Min(1, Shade[i]))) * seconds;
            double people = 80 * People[i] * seconds;
            double plant = PlantHeat[i] * seconds;
            ref EnergyLedger ledger = ref Ledger[i];
            ledger.Outdoors += skin + window;
            ledger.Neighbours += _change[i];
            ledger.Air += air;
            ledger.Solar += sun;
            ledger.People += people;
            ledger.Plant += plant;
            Air[i] += (window + air + (0.4 * sun) + people + plant - toStructure) / AirCapacity(i);
            Structure[i] += (skin + (0.6 * sun) + toStructure + _change[i]) / StructureCapacity(i);
            double changed = Math.Min(1, cubicMetres / volume);
            Co2[i] += (changed * (OutdoorCo2 - Co2[i])) + (People[i] * 0.018 * seconds / 3600 / volume * 1e6) + (Co2Flow[i] * seconds / 3600 / volume);
            double mass = volume * AirDensity, byAir = changed * (outdoorMoisture - Moisture[i]), hours = seconds / 3600;
            Moisture[i] += byAir + (((People[i] * 50) + Steam[i]) * hours / mass);
            // Below its dew point air lets water fall: it holds no more than saturation.
            double falls = Math.Max(0, Moisture[i] - MoistureOf(Air[i], 100));
            Moisture[i] -= falls;
            WaterOfPeople += People[i] * 50 * hours;
            WaterOfMachines += Steam[i] * hours;
            WaterOfAir += byAir * mass;
            WaterFallen += falls * mass;
        }
    }

    private static double[] Filled(int n, double value)
    {
        double[] values = new double[n];
        Array.Fill(values, value);
        return values;
    }
}
