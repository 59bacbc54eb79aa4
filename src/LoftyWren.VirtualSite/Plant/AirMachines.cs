using LoftyWren.Core.Records;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>
/// An air handler with mixed air: the fan blows a share of outdoor air and the rest of what comes back over a heating and a
/// cooling coil into its supply zones, and takes as much from their rooms. Without zones it blows outdoor air, and nobody
/// knows where to.
/// </summary>
internal sealed class AirHandler(SiteMachine drawn) : Machine(drawn)
{
    private const double FreeCubicMetresAnHour = 3000, HeatKelvin = 28, ColdKelvin = 12, CoilSeconds = 30, Touch = 0.8, WaterKelvin = 25, ColdWaterKelvin = 5, LossSeconds = 1800, FanWattsPerCubicMetre = 0.35, CleanPascal = 80, DuctPascal = 250, HoursUntilDoubled = 3000, FrostAt = 5;
    private readonly List<SupplyZone> _zones = [];
    private WaterCircuit? _water, _cold;
    private int _run, _level, _cool, _speed, _damper, _extract, _status, _extractStatus, _frost, _temperature, _return, _mixed, _humidity, _co2, _flow, _pressure, _duct, _power, _warmCoil, _coldCoil, _dirt;
    private double _nominal, _capacity, _intoWarm, _intoCold;

    /// <summary>What it keeps beside the quantities of its kind.</summary>
    public static string[] Nodes { get; } = ["warmCoil", "coldCoil", "dirt"];

    public override double Stored => _capacity * (this[_warmCoil] + this[_coldCoil]);

    /// <summary>What it blows through its coils at full speed, m³/h, and W for each K of it.</summary>
    private double WattsPerKelvin => _nominal / 3600 * Rooms.AirHeat;

    internal override double Nominal() => WattsPerKelvin * HeatKelvin;

    protected override void Begin()
    {
        (_run, _level, _cool, _speed, _damper, _extract) = (At("run"), At("level"), At("cool"), At("speed"), At("damper"), At("extract"));
        (_status, _extractStatus, _frost, _temperature, _return, _mixed, _humidity, _co2) = (At("status"), At("extractStatus"), At("frost"), At("temperature"), At("return"), At("mixed"), At("humidity"), At("co2"));
        (_flow, _pressure, _duct, _power, _warmCoil, _coldCoil, _dirt) = (At("flow"), At("pressure"), At("duct"), At("power"), At("warmCoil"), At("coldCoil"), At("dirt"));
        (this[_speed], this[_damper], this[_extract]) = (100, 100, 1);
        foreach (int node in (int[])[_temperature, _return, _mixed, _warmCoil, _coldCoil]) this[node] = 18;
        (this[_humidity], this[_co2]) = (50, 420);
        _nominal = FreeCubicMetresAnHour;
    }

    internal override void Tie(Func<RecordId?, Machine?> find)
    {
        (_water, _cold) = (CircuitAt(find, Drawn.WaterFrom), CircuitAt(find, Drawn.ColdFrom));
    }

    /// <summary>Supplies a zone.</summary>
    internal void Supplies(SupplyZone zone)
    {
        _nominal = (_zones.Count == 0 ? 0 : _nominal) + zone.Most;
        _zones.Add(zone);
    }

    internal override void Size() => _capacity = WattsPerKelvin * CoilSeconds;

    internal override void Step(double seconds, in Moment moment)
    {
        Motor.Step(seconds, this[_run] > 0.5);
        double outdoors = moment.Weather.Temperature, speed = Motor.Turns ? Share(_speed) : 0, air = 0, warmth = 0, water = 0, co2 = 0;
        foreach (SupplyZone zone in _zones)
        {
            double each = zone.Open(speed);
            air += each;
            warmth += each * Rooms.Air[zone.Room];
            water += each * Rooms.Moisture[zone.Room];
            co2 += each * Rooms.Co2[zone.Room];
        }
        double outdoorWater = Rooms.MoistureOf(moment.Weather.Temperature, moment.Weather.Humidity);
        bool isFree = _zones.Count == 0;
        if (isFree) (air, warmth, water, co2) = (_nominal * speed, _nominal * speed * outdoors, _nominal * speed * outdoorWater, _nominal * speed * Rooms.OutdoorCo2);
        (this[_status], this[_extractStatus]) = (Motor.Turns ? 1 : 0, this[_extract] > 0.5 ? 1 : 0);
        double watts = FanWattsPerCubicMetre * _nominal * speed * speed * speed, flows = air / 3600 * Rooms.AirHeat;
        if (air > 1) Blow(seconds, moment, air, (warmth / air, water / air, co2 / air), outdoorWater, watts, isFree);
        else
        {
            // It stands: the coils come to their water, and slowly to the air that leaks in from outdoors.
            watts = 0;
            this[_temperature] += (this[_warmCoil] - this[_temperature]) * seconds / 300;
            this[_mixed] += (outdoors - this[_mixed]) * seconds / LossSeconds;
            this[_frost] = this[_warmCoil] < FrostAt ? 1 : 0;
        }
        Warm(_warmCoil, _level, _water, WattsPerKelvin * HeatKelvin, WaterKelvin, 1, ref _intoWarm);
        Warm(_coldCoil, _cool, _cold, WattsPerKelvin * ColdKelvin, ColdWaterKelvin, -1, ref _intoCold);
        (this[_flow], this[_pressure], this[_duct], this[_power]) = (air, CleanPascal * speed * speed * (1 + this[_dirt]), DuctPascal * speed * speed, watts / 1000);
        if (air > 0) this[_dirt] += speed * seconds / 3600 / HoursUntilDoubled;

        void Warm(int coil, int valve, WaterCircuit? circuit, double nominal, double kelvin, int sign, ref double into)
        {
            double loss = _capacity / LossSeconds * (this[coil] - outdoors) * seconds, heat;
            if (circuit is null)
            {
                heat = sign * nominal * Share(valve) * (flows > 0 ? 1 : 0) * seconds;
                Ledger.Unfed += heat;
            }
            else
            {
                heat = circuit.Turns ? nominal / kelvin * Share(valve) * (circuit.Temperature - this[coil]) * seconds : 0;
                circuit.Use(heat);
            }
            into += heat - loss;
            Ledger.Outdoors -= loss;
        }
    }

    private void Blow(double seconds, in Moment moment, double air, (double Temperature, double Water, double Co2) back, double outdoorWater, double watts, bool isFree)
    {
        double flows = air / 3600 * Rooms.AirHeat, fresh = Share(_damper), outdoors = moment.Weather.Temperature;
        double mixed = back.Temperature + (fresh * (outdoors - back.Temperature)), water = back.Water + (fresh * (outdoorWater - back.Water)), co2 = back.Co2 + (fresh * (Rooms.OutdoorCo2 - back.Co2));
        double afterWarm = mixed + (Touch * (this[_warmCoil] - mixed)), afterCold = afterWarm + (Touch * (this[_coldCoil] - afterWarm)), supply = afterCold + (watts / flows);
        double fallen = this[_coldCoil] < afterWarm ? Coil.Falls(water, this[_coldCoil] + Coil.SurfaceAbove, air) : 0;
        water -= fallen / (air * Rooms.AirDensity);
        double latent = fallen / 3600 * Coil.JoulesPerGram * seconds;
        Ledger.Condensed += fallen * seconds / 3600;
        Ledger.Latent += latent;
        _intoWarm -= flows * (afterWarm - mixed) * seconds;
        _intoCold += (flows * (afterWarm - afterCold) * seconds) + latent;
        Ledger.Electric += watts * seconds;
        // What nobody knows the rooms of goes outdoors again.
        Ledger.Outdoors += isFree ? -flows * (supply - outdoors) * seconds : flows * fresh * (outdoors - back.Temperature) * seconds;
        // Water of outdoor air: what comes into rooms, or, where it goes nowhere, what falls of it.
        Ledger.Steam += (isFree ? fallen : fresh * (outdoorWater - back.Water) * air * Rooms.AirDensity) * seconds / 3600;
        foreach (SupplyZone zone in _zones) zone.Receive(supply, water, co2);
        (this[_temperature], this[_return], this[_mixed], this[_frost]) = (supply, back.Temperature, mixed, afterWarm < FrostAt ? 1 : 0);
        (this[_humidity], this[_co2]) = (Rooms.RelativeHumidity(water, supply), back.Co2);
    }

    internal override void Settle(double seconds)
    {
        this[_warmCoil] += _intoWarm / _capacity;
        this[_coldCoil] += _intoCold / _capacity;
        (_intoWarm, _intoCold) = (0, 0);
    }
}

/// <summary>Where supply air comes into a room, through a damper; as much is taken out there.</summary>
internal sealed class SupplyZone(SiteMachine drawn) : Machine(drawn)
{
    private const double CubicMetresPerSquareMetre = 9;
    private int _level, _flow, _position;

    /// <summary>How much it lets through at most, m³/h.</summary>
    public double Most => CubicMetresPerSquareMetre * Area;

    protected override void Begin()
    {
        (_level, _flow, _position) = (At("level"), At("flow"), At("position"));
        this[_level] = 100;
    }

    internal override void Tie(Func<RecordId?, Machine?> find)
    {
        if (Room >= 0) (find(Drawn.AirFrom) as AirHandler)?.Supplies(this);
    }

    /// <summary>How much it lets through at a speed of the fan, m³/h.</summary>
    public double Open(double speed) => this[_flow] = Most * Share(_level) * speed;

    /// <summary>Lets supply air in and air of the room out.</summary>
    public void Receive(double temperature, double moisture, double co2)
    {
        double air = this[_flow];
        Rooms.PlantHeat[Room] += air / 3600 * Rooms.AirHeat * (temperature - Rooms.Air[Room]);
        Rooms.Steam[Room] += air * Rooms.AirDensity * (moisture - Rooms.Moisture[Room]);
        Rooms.Co2Flow[Room] += air * (co2 - Rooms.Co2[Room]);
    }

    internal override void Step(double seconds, in Moment moment)
    {
        this[_position] = Math.Clamp(this[_level], 0, 100);
        if (Drawn.AirFrom is null) this[_flow] = 0;
    }
}
