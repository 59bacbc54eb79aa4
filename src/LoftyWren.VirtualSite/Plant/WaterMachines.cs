using LoftyWren.Core.Records;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>
/// A water circuit: one temperature of the water that goes round, a pump or several, a mixing valve, and heat from the circuit
/// above it or from boilers and heat pumps that are part of it. It is built for what hangs on it.
/// </summary>
internal sealed class WaterCircuit(SiteMachine drawn) : WaterNode(drawn)
{
    /// <summary>Heat capacity of water, J/(kg·K), which is also that of a litre.</summary>
    public const double LitreJoules = 4186;

    /// <summary>How warm the water is that comes from beyond what stands here, °C.</summary>
    public const double FromBeyond = 60;

    private const double LeastWatts = 2000, SpreadKelvin = 15, LitresPerKilowatt = 10, LossShare = 0.00005, JoulesPerKilowattHour = 3.6e6;
    private readonly List<Machine> _pumps = [], _fed = [];
    private readonly List<WaterSource> _sources = [];
    private WaterCircuit? _above;
    private bool _isFedFromBeyond;
    private int _run, _level, _status, _return, _flow, _pressure, _power, _energy;
    private double _conductance, _given, _used, _nominal = double.NaN;

    /// <summary>Whether its water goes round: by one of its pumps, or by the one that is built in.</summary>
    public bool Turns => _pumps.Count == 0 ? Motor.Turns : _pumps.Exists(p => p.Motor.Turns);

    /// <summary>The return temperature, °C.</summary>
    public double Return => this[_return];

    /// <summary>Is told of what hangs on it.</summary>
    internal void Feeds(Machine machine)
    {
        if (_fed.Count == 0 || _fed[^1] != machine) _fed.Add(machine);
    }

    // Worked out once, however many ask: all are tied by then. A circle, which the project refuses, would come back here.
    internal override double Nominal()
    {
        if (!double.IsNaN(_nominal)) return _nominal;
        _nominal = LeastWatts;
        return _nominal = Math.Max(LeastWatts, _fed.Sum(m => m.Nominal()));
    }

    protected override void Begin()
    {
        (_run, _level, _status, TemperatureAt, _return, _flow, _pressure, _power, _energy) = (At("run"), At("level"), At("status"), At("temperature"), At("return"), At("flow"), At("waterPressure"), At("power"), At("energy"));
        // A circuit whose pump and valve nobody drives goes round, and takes all that it is given.
        (this[_run], this[_level], this[TemperatureAt], this[_return], this[_pressure]) = (1, 100, 20, 20, 1.5);
    }

    internal override void Tie(Func<RecordId?, Machine?> find)
    {
        _above = CircuitAt(find, Drawn.WaterFrom);
        _isFedFromBeyond = Drawn.WaterFrom is not null && find(Drawn.WaterFrom) is null;
    }

    internal override void Has(Machine part)
    {
        if (part is WaterSource source) _sources.Add(source);
        else if (part is Runner) _pumps.Add(part);
    }

    internal override void Size()
    {
        Capacity = Nominal() / 1000 * LitresPerKilowatt * LitreJoules;
        _conductance = Nominal() / SpreadKelvin;
    }

    /// <summary>Takes so many J out for a machine that uses it.</summary>
    public void Use(double joules)
    {
        Take(joules);
        _used += joules;
    }

    internal override void Step(double seconds, in Moment moment)
    {
        Motor.Step(seconds, this[_run] > 0.5);
        bool turns = Turns;
        this[_status] = turns ? 1 : 0;
        this[_flow] = turns ? _conductance / LitreJoules * 3.6 : 0;
        Lose(LossShare * _conductance * SpreadKelvin * (Temperature - Around) * seconds, seconds);
        if (!turns) return;
        if (_above is { Turns: true } above) above.Use(Draw(above.Temperature, 1, seconds));
        if (_isFedFromBeyond) Ledger.Unfed += Draw(FromBeyond, 1, seconds);
        int giving = 0;
        foreach (WaterSource source in _sources) giving += source.Gives(Temperature) ? 1 : 0;
        foreach (WaterSource source in _sources)
        {
            if (source.Gives(Temperature)) source.Take(Draw(source.Temperature, giving, seconds));
        }
    }

    private double Draw(double from, int among, double seconds)
    {
        double joules = Share(_level) * _conductance / among * (from - Temperature) * seconds;
        Take(-joules);
        _given += joules;
        return joules;
    }

    internal override void Settle(double seconds)
    {
        this[_return] = Turns ? Temperature - (_used / seconds / _conductance) : Temperature;
        this[_power] = _given / seconds / 1000;
        this[_energy] += Math.Abs(_given) / JoulesPerKilowattHour;
        base.Settle(seconds);
        this[_pressure] = 1.5 + (0.006 * (Temperature - 20));
        (_given, _used) = (0, 0);
    }
}

/// <summary>What makes water warm or cold for the circuit it is part of; part of none, its water goes round in itself.</summary>
internal abstract class WaterSource(SiteMachine drawn) : WaterNode(drawn)
{
    /// <summary>The circuit that it is part of.</summary>
    protected WaterCircuit? Circuit { get; private set; }

    internal override void Tie(Func<RecordId?, Machine?> find) => Circuit = find(Drawn.PartOf) as WaterCircuit;

    /// <summary>Whether its water mixes with that of its circuit.</summary>
    internal abstract bool Gives(double circuit);

    /// <summary>Chooses what water it holds, by its power in W.</summary>
    protected void Hold(double watts, double litresPerKilowatt)
    {
        if (Circuit is not null) Capacity = watts / 1000 * litresPerKilowatt * WaterCircuit.LitreJoules;
    }
}

/// <summary>A gas boiler that modulates near its own limit.</summary>
internal sealed class Boiler(SiteMachine drawn) : WaterSource(drawn)
{
    private const double LeastWatts = 10_000, ShareOfAll = 0.6, LitresPerKilowatt = 1, Limit = 85, BandKelvin = 5, Efficiency = 0.92, JoulesPerCubicMetre = 10.5 * 3.6e6, LossPerKelvin = 0.00008;
    private int _run, _status, _return, _gas;
    private double _power;

    protected override void Begin()
    {
        (_run, _status, TemperatureAt, _return, _gas) = (At("run"), At("status"), At("temperature"), At("return"), At("gas"));
        (this[TemperatureAt], this[_return]) = (20, 20);
    }

    internal override void Size()
    {
        _power = Math.Max(LeastWatts, ShareOfAll * (Circuit?.Nominal() ?? 0));
        Hold(_power, LitresPerKilowatt);
    }

    // Its valve lets nothing flow back.
    internal override bool Gives(double circuit) => Temperature > circuit;

    internal override void Step(double seconds, in Moment moment)
    {
        bool run = this[_run] > 0.5;
        Motor.Step(seconds, run);
        if (Circuit is not { } circuit)
        {
            // Its water comes to 75 °C while it fires, to the plant room's 20 °C otherwise.
            this[_status] = Motor.Turns ? 1 : 0;
            this[TemperatureAt] += ((run ? 75 : 20) - Temperature) * seconds / (run ? 600 : 5400);
            this[_return] = Temperature;
            return;
        }
        double heat = Motor.Turns ? _power * Math.Clamp((Limit - Temperature) / BandKelvin, 0, 1) * seconds : 0;
        Take(-heat);
        Lose(LossPerKelvin * _power * (Temperature - Around) * seconds, seconds);
        Ledger.Gas += heat / Efficiency;
        Ledger.Flue += heat / Efficiency * (1 - Efficiency);
        (this[_status], this[_return]) = (heat > 0 ? 1 : 0, circuit.Return);
        this[_gas] += heat / Efficiency / JoulesPerCubicMetre;
    }
}

/// <summary>A heat pump between the air outdoors and water, that changes over to cooling.</summary>
internal sealed class HeatPump(SiteMachine drawn) : WaterSource(drawn)
{
    private const double LeastWatts = 8000, ShareOfAll = 0.6, DesignPerformance = 3.2, LitresPerKilowatt = 3, OfCarnot = 0.45, Zero = 273.15, LossSeconds = 20_000, SourceKelvin = 8, WarmLimit = 58, ColdLimit = 4;
    private int _run, _changeover, _status, _return, _power, _energy;
    private double _compressor;

    protected override void Begin()
    {
        (_run, _changeover, _status, TemperatureAt, _return, _power, _energy) = (At("run"), At("changeover"), At("status"), At("temperature"), At("return"), At("power"), At("energy"));
        (this[TemperatureAt], this[_return]) = (20, 20);
    }

    internal override void Size()
    {
        double nominal = Math.Max(LeastWatts, ShareOfAll * (Circuit?.Nominal() ?? 0));
        _compressor = nominal / DesignPerformance;
        Hold(nominal, LitresPerKilowatt);
    }

    // Its own pump runs with it.
    internal override bool Gives(double circuit) => Motor.Turns;

    internal override void Step(double seconds, in Moment moment)
    {
        bool run = this[_run] > 0.5;
        Motor.Step(seconds, run);
        this[_status] = Motor.Turns ? 1 : 0;
        if (Circuit is not { } circuit)
        {
            this[TemperatureAt] += ((run ? 45 : 20) - Temperature) * seconds / 1200;
            this[_return] = Temperature;
            return;
        }
        bool cools = this[_changeover] > 0.5, works = Motor.Turns && (cools ? Temperature > ColdLimit : Temperature < WarmLimit);
        double outdoors = moment.Weather.Temperature, electric = works ? _compressor * seconds : 0;
        // Performance as a share of what Carnot allows between the two sides, each with its exchanger's difference.
        double warm = (cools ? outdoors : Temperature) + SourceKelvin + Zero, cold = (cools ? Temperature : outdoors) - SourceKelvin + Zero;
        double heating = Math.Clamp(OfCarnot * warm / Math.Max(15, warm - cold), 1.5, 6), moved = electric * (cools ? heating - 1 : heating);
        double loss = Capacity / LossSeconds * (Temperature - outdoors) * seconds;
        Take((cools ? moved : -moved) + loss);
        Ledger.Outdoors -= loss;
        Ledger.Electric += electric;
        Ledger.Outdoors += cools ? -(moved + electric) : moved - electric;
        (this[_return], this[_power]) = (circuit.Return, electric / seconds / 1000);
        this[_energy] += electric / 3.6e6;
    }
}
