using LoftyWren.Core.Records;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>A kiln in its room, fired by its own controller, with a hood that carries part of its heat outdoors and a contactor that may forbid it to fire.</summary>
public sealed class KilnMachine(SiteMachine drawn) : Machine(drawn)
{
    private const double HoodShare = 0.6;
    private readonly uint _seed = Chance.SeedOf(drawn.Id.Value);
    private int _run, _level, _status, _temperature, _state, _position, _power;

    public Kiln Kiln { get; } = new();

    public override double Stored => Kiln.Capacity * Kiln.Temperature;

    protected override void Begin()
    {
        (_run, _level, _status, _temperature, _state, _position, _power) = (At("run"), At("level"), At("status"), At("temperature"), At("state"), At("position"), At("power"));
        (this[_run], this[_temperature], this[_state]) = (1, Kiln.Temperature, Kiln.State);
    }

    internal override void Step(double seconds, in Moment moment)
    {
        // The potter fires from two in the morning on the days the site is open, each kiln on its own days.
        if (this[_run] < 0.5) Kiln.FiringSince = null;
        else if (Kiln.State == 1 && moment.Local.Hour == 2 && moment.Local.DayOfWeek != NodaTime.IsoDayOfWeek.Monday && (moment.Local.DayOfYear + _seed) % 2 == 0) Kiln.FiringSince = moment.Now;
        double before = Kiln.EnergyTaken, given = Kiln.Step(seconds, moment.Now, Around), taken = Kiln.EnergyTaken - before;
        double hood = Room >= 0 ? given * HoodShare * Share(_level) : given;
        if (Room >= 0) Rooms.PlantHeat[Room] += given - hood;
        Ledger.Electric += taken;
        Ledger.Outdoors -= hood * seconds;
        (this[_status], this[_temperature], this[_state], this[_position], this[_power]) = (Kiln.FiringSince is null ? 0 : 1, Kiln.Temperature, Kiln.State, Math.Clamp(this[_level], 0, 100), taken / seconds / 1000);
    }
}

/// <summary>A fan that carries air of its room outdoors through a filter.</summary>
internal sealed class ExtractFan(SiteMachine drawn) : Machine(drawn)
{
    private const double CubicMetresPerSquareMetre = 15, CleanPascal = 90, HoursUntilDoubled = 2500;
    private int _run, _level, _status, _pressure, _dirt;

    /// <summary>What it keeps beside the quantities of its kind.</summary>
    public static string[] Nodes { get; } = ["dirt"];

    protected override void Begin() => (_run, _level, _status, _pressure, _dirt) = (At("run"), At("level"), At("status"), At("pressure"), At("dirt"));

    internal override void Step(double seconds, in Moment moment)
    {
        Motor.Step(seconds, this[_run] > 0.5 || this[_level] > 2);
        this[_status] = Motor.Turns ? 1 : 0;
        if (Motor.Turns)
        {
            if (Room >= 0) Rooms.ExtraAir[Room] += CubicMetresPerSquareMetre * Area;
            this[_dirt] += seconds / 3600 / HoursUntilDoubled;
        }
        this[_pressure] = Motor.Turns ? CleanPascal * (1 + this[_dirt]) : 0;
    }
}

/// <summary>What gives heat to a room from water, or, fed by nothing that is drawn, from a heat of its own.</summary>
internal abstract class Emitter(SiteMachine drawn) : Machine(drawn)
{
    /// <summary>Heat from water of so many K above the room at so many W a square metre.</summary>
    protected const double NominalKelvin = 35;

    protected WaterCircuit? Water { get; private set; }

    internal override void Tie(Func<RecordId?, Machine?> find)
    {
        Water = CircuitAt(find, Drawn.WaterFrom);
    }

    /// <summary>
    /// Lets water of a circuit and the air of the room meet over a coil of so many W/K with so much air over it, m³/h; below the
    /// dew point of the air water falls and its heat goes into the circuit. Answers the heat given to the room, W.
    /// </summary>
    protected double Meet(WaterCircuit circuit, double conductance, double air, double seconds, out bool drips)
    {
        drips = false;
        if (!circuit.Turns || conductance <= 0) return 0;
        double heat = conductance * (circuit.Temperature - Rooms.Air[Room]);
        circuit.Use(heat * seconds);
        Rooms.PlantHeat[Room] += heat;
        if (heat < 0 && air > 0)
        {
            double fallen = Coil.Falls(Rooms.Moisture[Room], circuit.Temperature + Coil.SurfaceAbove, air);
            drips = fallen > 0;
            Rooms.Steam[Room] -= fallen;
            double latent = fallen / 3600 * Coil.JoulesPerGram * seconds;
            Ledger.Condensed += fallen * seconds / 3600;
            Ledger.Latent += latent;
            circuit.Use(-latent);
        }
        return heat;
    }
}

/// <summary>Air over a cold surface.</summary>
public static class Coil
{
    /// <summary>What a gram of water sets free when it falls, J: the heat of evaporation at about 10 °C.</summary>
    public const double JoulesPerGram = 2470;

    /// <summary>How much warmer the surface is than the water in it, K; of the air that passes, how much meets it.</summary>
    public const double SurfaceAbove = 3, Contact = 0.6;

    /// <summary>Water that falls, g/h, out of so many m³/h of air with so many g/kg over a surface in °C.</summary>
    public static double Falls(double moisture, double surface, double air) => Math.Max(0, moisture - Rooms.MoistureOf(surface, 100)) * Contact * air * Rooms.AirDensity;
}

/// <summary>A fan-coil: a heating valve, or one for water that changes over; a cooling valve; a fan without which little passes.</summary>
internal sealed class FanCoil(SiteMachine drawn) : Emitter(drawn)
{
    private const double HeatPerSquareMetre = 110, ColdPerSquareMetre = 70, ColdKelvin = 15, AirPerSquareMetre = 15, Still = 0.1;
    private int _run, _level, _cool, _speed, _status, _drip, _supply;
    private WaterCircuit? _cold;

    internal override double Nominal() => HeatPerSquareMetre * Area;

    protected override void Begin()
    {
        (_run, _level, _cool, _speed, _status, _drip, _supply) = (At("run"), At("level"), At("cool"), At("speed"), At("status"), At("drip"), At("supply"));
        // Where nobody switches the fan it runs, at its full speed.
        (this[_run], this[_speed], this[_supply]) = (1, 100, 18);
    }

    internal override void Tie(Func<RecordId?, Machine?> find)
    {
        base.Tie(find);
        _cold = CircuitAt(find, Drawn.ColdFrom);
    }

    internal override void Step(double seconds, in Moment moment)
    {
        Motor.Step(seconds, this[_run] > 0.5);
        this[_status] = Motor.Turns ? 1 : 0;
        if (Room < 0) return;
        double fan = Motor.Turns ? Math.Max(Still, Share(_speed)) : Still, heat, air = AirPerSquareMetre * Area * fan;
        bool drips = false, dripsToo = false;
        if (Water is { } water) heat = Meet(water, HeatPerSquareMetre * Area / NominalKelvin * Share(_level) * fan, air, seconds, out drips);
        else
        {
            heat = HeatPerSquareMetre * Area * Share(_level) * fan;
            Rooms.PlantHeat[Room] += heat;
            Ledger.Unfed += heat * seconds;
        }
        if (_cold is { } cold) heat += Meet(cold, ColdPerSquareMetre * Area / ColdKelvin * Share(_cool) * fan, air, seconds, out dripsToo);
        else
        {
            double taken = ColdPerSquareMetre * Area * Share(_cool) * fan;
            Rooms.PlantHeat[Room] -= taken;
            Ledger.Unfed -= taken * seconds;
            heat -= taken;
        }
        (this[_drip], this[_supply]) = (drips || dripsToo ? 1 : 0, Rooms.Air[Room] + (heat / (air * Rooms.AirHeat / 3600)));
    }
}

/// <summary>A radiator with a valve.</summary>
internal sealed class Radiator(SiteMachine drawn) : Emitter(drawn)
{
    private const double PerSquareMetre = 110;
    private int _level, _status;

    internal override double Nominal() => PerSquareMetre * Area;

    protected override void Begin() => (_level, _status) = (At("level"), At("status"));

    internal override void Step(double seconds, in Moment moment)
    {
        this[_status] = this[_level] > 2 ? 1 : 0;
        if (Room < 0) return;
        if (Water is { } water) Meet(water, PerSquareMetre * Area / NominalKelvin * Share(_level), 0, seconds, out _);
        else
        {
            double heat = PerSquareMetre * Area * Share(_level);
            Rooms.PlantHeat[Room] += heat;
            Ledger.Unfed += heat * seconds;
        }
    }
}

/// <summary>Lamps.</summary>
internal sealed class Lighting(SiteMachine drawn) : Machine(drawn)
{
    private const double WattsPerSquareMetre = 8, Lux = 400;
    private int _run, _level, _status, _power;

    protected override void Begin() => (_run, _level, _status, _power) = (At("run"), At("level"), At("status"), At("power"));

    internal override void Step(double seconds, in Moment moment)
    {
        double light = Math.Max(Share(_level), this[_run] > 0.5 ? 1 : 0), power = Room < 0 ? 0 : WattsPerSquareMetre * Area * light;
        (this[_status], this[_power]) = (light > 0 ? 1 : 0, power / 1000);
        if (Room < 0) return;
        Rooms.PlantHeat[Room] += power;
        Rooms.Light[Room] += Lux * RoomShare * light;
        Ledger.Electric += power * seconds;
    }
}

/// <summary>A blind before a window: 100 % is down.</summary>
internal sealed class Blind(SiteMachine drawn) : Machine(drawn)
{
    private int _level, _position;

    protected override void Begin() => (_level, _position) = (At("level"), At("position"));

    internal override void Step(double seconds, in Moment moment)
    {
        this[_position] = Math.Clamp(this[_level], 0, 100);
        if (Room >= 0) Rooms.Shade[Room] += Share(_position) * RoomShare;
    }
}

/// <summary>A humidifier that gives steam.</summary>
internal sealed class Humidifier(SiteMachine drawn) : Machine(drawn)
{
    private const double GramsAnHour = 1500, Kilowatts = 1.1;
    private int _run, _level, _status, _power;

    protected override void Begin() => (_run, _level, _status, _power) = (At("run"), At("level"), At("status"), At("power"));

    internal override void Step(double seconds, in Moment moment)
    {
        Motor.Step(seconds, this[_run] > 0.5 || this[_level] > 2);
        double share = Math.Max(Share(_level), this[_run] > 0.5 ? 1 : 0);
        (this[_status], this[_power]) = (Motor.Turns ? 1 : 0, Kilowatts * share);
        if (Room < 0) return;
        Rooms.Steam[Room] += GramsAnHour * share;
        Ledger.Steam += GramsAnHour * share * seconds / 3600;
    }
}
