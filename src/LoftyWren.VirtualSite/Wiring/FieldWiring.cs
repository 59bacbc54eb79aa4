using LoftyWren.Core.Signals;
using LoftyWren.Core.Units;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Wiring;

/// <summary>What a lagging sensor remembers: its value, in the unit of its quantity, and the state of its noise.</summary>
public sealed record SensorMemory(double Lagged, uint Noise);

/// <summary>One wire with its sensor or actuator at work: lag, noise and faults on the way in, stuck drives on the way out.</summary>
internal sealed class FieldWire(Wire wire, int quantity, bool isInput, BuiltInFault? fault, int seed)
{
    private const double LagSeconds = 45, NoiseKelvin = 0.03;
    private readonly bool _lags = Plant.Plant.UnitOf(wire.Quantity)?.Quantity == Core.Units.Quantity.Temperature;
    private readonly Signal _signal = wire.Signal;
    private readonly double _low = wire.Low, _high = wire.High;
    private readonly (double Factor, double Offset)? _toWire = Plant.Plant.UnitOf(wire.Quantity) is { } native && Unit.Find(wire.Unit) is { } own && native != own ? native.To(own) : null;
    private double _lagged = double.NaN;
    // A noise of its own, by the terminal it is on: the order in which wires are drawn means nothing.
    private uint _noise = unchecked((Mixed($"{wire.ControllerId}/{wire.Terminal}") ^ (uint)seed) * 747796405u + 2891336453u);

    public Wire Wire { get; } = wire;

    /// <summary>What it is known by over a rebuilding and a restart.</summary>
    public string Key { get; } = $"{wire.ControllerId}/{wire.Terminal}/{wire.Quantity}";

    /// <summary>What the sensor remembers: the value it lags behind with, and where its noise is.</summary>
    public SensorMemory? Memory
    {
        get => double.IsNaN(_lagged) ? null : new SensorMemory(_lagged, _noise);
        set
        {
            if (value is not null) (_lagged, _noise) = (value.Lagged, value.Noise);
        }
    }

    public bool IsInput { get; } = isInput;

    /// <summary>The index of the quantity in the plant; −1 for one that it has not.</summary>
    public int Quantity { get; } = quantity;

    /// <summary>The value a person put in place of the sensor's, in the unit of the quantity.</summary>
    public double? Held { get; set; }

    public BuiltInFault? Fault { get; } = fault;

    public int Terminal { get; set; }

    /// <summary>What the sensor gives at the terminal, in the unit of its signal.</summary>
    public double Sense(Plant.Plant plant, double seconds)
    {
        double value = Quantity < 0 ? double.NaN : plant[Quantity];
        if (_lags)
        {
            _lagged = double.IsNaN(_lagged) ? value : _lagged + ((value - _lagged) * Math.Min(1, seconds / LagSeconds));
            value = _lagged + (NoiseKelvin * Noise());
        }
        if (_signal != Signal.Pt1000 && _toWire is { } by) value = (value * by.Factor) + by.Offset;
        if (Held is { } held) value = _signal == Signal.Pt1000 && _toWire is { } to ? (held - to.Offset) / to.Factor : held;
        else if (Fault?.Fault == WireFault.Open) return _signal == Signal.Pt1000 ? 100_000 : _signal == Signal.DryContact ? 0 : 0.0;
        if (double.IsNaN(value)) return double.NaN;
        return _signal switch
        {
            Signal.Pt1000 => Pt1000.Resistance(value),
            Signal.DryContact => value > 0.5 ? 1 : 0,
            _ => SignalConversion.Write(_signal, value, _low, _high, false),
        };
    }

    /// <summary>Lets the actuator follow the terminal.</summary>
    public void Drive(Plant.Plant plant, double raw)
    {
        if (Quantity < 0) return;
        if (Fault?.Fault == WireFault.Stuck)
        {
            plant[Quantity] = Fault.Value;
            return;
        }
        plant[Quantity] = _signal == Signal.Relay ? raw : SignalConversion.Read(_signal, raw, _low, _high, 0, false).Value;
    }

    // FNV-1a: the same on every machine and at every start.
    private static uint Mixed(string text)
    {
        uint hash = 2166136261;
        foreach (char c in text) hash = unchecked((hash ^ c) * 16777619);
        return hash;
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
