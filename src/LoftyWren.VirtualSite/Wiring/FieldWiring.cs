using LoftyWren.Core.Hardware;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Units;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Wiring;

/// <summary>What a sensor remembers: what it saw last, in the unit of its quantity and lagging where it does, at which step of the plant, and its noise then with the seed of the next.</summary>
public sealed record SensorMemory(double Lagged, uint Noise, double NoiseNow = 0, long At = -1);

/// <summary>What a sensor is like at a moment; not a number for one that has seen nothing, and for actuators.</summary>
internal readonly record struct SensorState(double Lagged, uint Noise, double NoiseNow, long At)
{
    public SensorMemory ToMemory() => new(Lagged, Noise, NoiseNow, At);
}

/// <summary>One wire with its sensor or actuator at work: lag, noise and faults on the way in, stuck drives on the way out.</summary>
internal sealed class FieldWire(Wire wire, int quantity, BuiltInFault? fault, int seed)
{
    /// <summary>How a thermometer follows, s.</summary>
    public const double LagSeconds = 45;

    private const double NoiseKelvin = 0.03;
    private readonly bool _lags = Plant.Plant.UnitOf(wire.Quantity)?.Quantity == Core.Units.Quantity.Temperature;
    private readonly Signal _signal = wire.Signal;
    private readonly SignalSettings _settings = wire.Settings;
    private readonly double _runTimeSeconds = wire.RunTimeSeconds;
    private readonly (double Factor, double Offset)? _toWire = Plant.Plant.UnitOf(wire.Quantity) is { } native && Unit.Find(wire.Unit) is { } own && native != own ? native.To(own) : null;
    private double _lagged = double.NaN, _noiseNow;
    private long _at = -1;
    // A noise of its own, by the terminal it is on: the order in which wires are drawn means nothing.
    private uint _noise = unchecked((Chance.SeedOf($"{wire.ControllerId}/{wire.Terminal}") ^ (uint)seed) * 747796405u + 2891336453u);

    public Wire Wire { get; } = wire;

    /// <summary>What it is tied to, in its parts, so that it is found again without taking words apart.</summary>
    public QuantityName Name { get; } = QuantityName.Parse(wire.Quantity);

    /// <summary>What it is known by over a rebuilding and a restart.</summary>
    public string Key { get; } = $"{wire.ControllerId}/{wire.Terminal}/{wire.Quantity}";

    /// <summary>What the sensor is like now.</summary>
    public SensorState State => new(_lagged, _noise, _noiseNow, _at);

    /// <summary>What the sensor remembers, or a drive that takes its time; null for one that has seen nothing, and for other actuators.</summary>
    public SensorMemory? Memory
    {
        get => double.IsNaN(_lagged) ? null : State.ToMemory();
        set
        {
            if (value is not null) (_lagged, _noise, _noiseNow, _at) = (value.Lagged, value.Noise, value.NoiseNow, value.At);
        }
    }

    /// <summary>Whether something is measured over it.</summary>
    public bool IsInput { get; } = wire.Direction != Direction.Out;

    /// <summary>The index of the quantity in the plant; −1 for one that it has not.</summary>
    public int Quantity { get; set; } = quantity;

    /// <summary>The value a person put in place of the sensor's, in the unit of the point; not a number for a broken sensor.</summary>
    public double? Held { get; set; }

    public BuiltInFault? Fault { get; } = fault;

    public int Terminal { get; set; }

    /// <summary>What its terminal gave last; not a number when it must be given anew.</summary>
    public double Given { get; set; } = double.NaN;

    /// <summary>What the sensor gives at the terminal, in the unit of its signal, once the plant has made so many steps. It looks once a step.</summary>
    public double Sense(Plant.Plant plant, long steps)
    {
        if (_at != steps)
        {
            double seen = Quantity < 0 ? double.NaN : plant[Quantity];
            double seconds = Math.Max(1, steps - _at) * Plant.Plant.StepSeconds;
            _lagged = !_lags || double.IsNaN(_lagged) ? seen : _lagged + ((seen - _lagged) * Math.Min(1, seconds / LagSeconds));
            if (_lags) _noiseNow = NoiseKelvin * Noise();
            _at = steps;
        }
        double value = _lagged + _noiseNow;
        // A thermometer meets its °C, whatever unit its reading is shown in.
        if (!_signal.IsThermometer && _toWire is { } by) value = (value * by.Factor) + by.Offset;
        if (Held is double.NaN) return _signal.OpenRaw;
        if (Held is { } held) value = _signal.IsThermometer && _toWire is { } to ? (held - to.Offset) / to.Factor : held;
        else if (Fault?.Fault == WireFault.Open) return _signal.OpenRaw;
        else if (Fault?.Fault == WireFault.Short) return _signal.ShortRaw;
        return double.IsNaN(value) ? double.NaN : _signal.Write(_settings, value);
    }

    /// <summary>A value of the point in the unit in which the plant keeps the quantity.</summary>
    public double ToNative(double value) => _toWire is { } to ? (value - to.Offset) / to.Factor : value;

    /// <summary>Has the sensor be in equilibrium with what it looks at.</summary>
    public void Saw(double native) => _lagged = native;

    /// <summary>Lets the actuator follow the terminal.</summary>
    public void Drive(Plant.Plant plant, double raw)
    {
        if (Quantity < 0) return;
        if (Fault?.Fault == WireFault.Stuck)
        {
            plant[Quantity] = Fault.Value;
            return;
        }
        double asked = _signal.Read(_settings, raw).Value;
        if (double.IsNaN(asked)) asked = _settings.Low;
        if (!Travels) plant[Quantity] = asked;
        else _lagged = asked;
    }

    /// <summary>Whether the actuator takes its time, so that it must be looked after at every step of the plant.</summary>
    public bool Travels { get; } = wire.Direction == Direction.Out && wire.RunTimeSeconds > 0;

    /// <summary>Lets a drive that takes its time go on, once a step of the plant, towards what was asked of it: that is what such a wire remembers.</summary>
    public void Travel(Plant.Plant plant, long steps)
    {
        if (_at == steps || Quantity < 0 || Fault?.Fault == WireFault.Stuck || double.IsNaN(_lagged)) return;
        _at = steps;
        double now = plant[Quantity], most = Math.Abs(_settings.High - _settings.Low) * Plant.Plant.StepSeconds / _runTimeSeconds;
        plant[Quantity] = double.IsNaN(now) ? _lagged : now + Math.Clamp(_lagged - now, -most, most);
    }

    // Near enough to a bell: the sum of three even draws, between −1.5 and 1.5, by a seed of the wire's own.
    private double Noise()
    {
        double sum = 0;
        for (int i = 0; i < 3; i++)
        {
            _noise = (_noise * 747796405u) + 2891336453u;
            sum += (_noise >> 8) / (double)(1 << 24);
        }
        return sum - 1.5;
    }
}
