using System.Collections.Frozen;
using System.Text.Json;
using System.Text.Json.Serialization;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Status;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Signals;

/// <summary>What one terminal is set to, worked out once; which of it counts is a matter of its signal.</summary>
/// <param name="Low">The point's value at the low end of a signal with a range.</param>
/// <param name="High">Its value at the high end.</param>
/// <param name="Correction">Added to what is measured, a difference in the point's unit.</param>
/// <param name="Inverted">Turns a contact round.</param>
/// <param name="Scale">Brings a thermometer's °C into the point's unit; null when they are that.</param>
/// <param name="LeadOhms">Resistance of the pair of wires, Ω.</param>
/// <param name="PerPulse">What one pulse counts, in the point's unit.</param>
/// <param name="Own">A curve of the project's own.</param>
public readonly record struct SignalSettings(double Low, double High, double Correction = 0, bool Inverted = false, Conversion? Scale = null, double LeadOhms = 0, double PerPulse = 1, Curve? Own = null);

/// <summary>What a signal asks of whoever sets a terminal up.</summary>
[Flags]
public enum SignalAsks
{
    /// <summary>Nothing.</summary>
    None = 0,
    /// <summary>What both ends of its range stand for.</summary>
    Range = 1,
    /// <summary>The resistance of the wires.</summary>
    Lead = 2,
    /// <summary>What one pulse counts.</summary>
    PerPulse = 4,
    /// <summary>A curve of the project's own, without which it says nothing.</summary>
    Curve = 8,
    /// <summary>How long the drive takes from one end to the other.</summary>
    RunTime = 16,
    /// <summary>The current that it switches.</summary>
    Load = 32,
    /// <summary>A curve may stand in the place of the range.</summary>
    MayCurve = 64,
}

/// <summary>How far a sensor of a class may be off at a value: a part that is always there and one that grows with the value.</summary>
/// <param name="Key">What it is called: AA, A, B, C, or a share of the range.</param>
/// <param name="Fixed">In K; for a signal with a range in parts of the range.</param>
/// <param name="Growing">In K for each K from 0 °C.</param>
/// <param name="GrowingBelow">The same below 0 °C.</param>
public sealed record Tolerance(string Key, double Fixed, double Growing = 0, double? GrowingBelow = null)
{
    /// <summary>How far off at a temperature in °C, in K.</summary>
    public double At(double celsius) => Fixed + (Math.Abs(celsius) * (celsius < 0 ? GrowingBelow ?? Growing : Growing));
}

/// <summary>
/// What a terminal carries: one object that says all about it and does its arithmetic. The registry of signals; the catalogue,
/// fitting, panels, controllers and the virtual site's wires read it. Nothing that it does in a scan allocates.
/// </summary>
[JsonConverter(typeof(SignalJson))]
public abstract class Signal
{
    private protected Signal(string key, string name, string rawUnit, PointKind carries, bool measures, bool drives)
    {
        (Key, Name, RawUnit, Carries, Measures, Drives) = (key, name, rawUnit, carries, measures, drives);
    }

    /// <summary>Its name in JSON and in catalogues. It never changes.</summary>
    public string Key { get; }

    /// <summary>The trade's name.</summary>
    public string Name { get; }

    /// <summary>The unit of its raw value.</summary>
    public string RawUnit { get; }

    /// <summary>The kind of point it serves.</summary>
    public PointKind Carries { get; }

    /// <summary>Whether an input can carry it.</summary>
    public bool Measures { get; }

    /// <summary>Whether an output can carry it.</summary>
    public bool Drives { get; }

    /// <summary>What it asks of whoever sets it up.</summary>
    public SignalAsks Asks { get; init; }

    /// <summary>How many cores its cable needs.</summary>
    public int Cores { get; init; } = 2;

    /// <summary>Whether what it measures is a temperature, whatever the terminal is set to.</summary>
    public bool IsThermometer { get; init; }

    /// <summary>Classes of accuracy that its sensors come in, the usual one first.</summary>
    public IReadOnlyList<Tolerance> Tolerances { get; init; } = [];

    /// <summary>What stands at the terminal when a wire is broken.</summary>
    public double OpenRaw { get; init; }

    /// <summary>Of a thermometer, from where to where its element measures, °C; null where a range or a curve says that.</summary>
    public (double Low, double High)? Celsius { get; init; }

    /// <summary>What stands there when the two wires touch.</summary>
    public double ShortRaw { get; init; }

    /// <summary>Whether it serves a terminal of a direction.</summary>
    public bool Goes(Direction direction) => direction == Direction.In ? Measures : Drives;

    /// <summary>From raw to reading. Open and short circuit, and whatever is out of its range, become a fault without a value.</summary>
    public (double Value, StatusFlags Status) Read(in SignalSettings settings, double raw)
    {
        double value = double.IsFinite(raw) ? ToValue(settings, raw) : double.NaN;
        return double.IsNaN(value) ? (double.NaN, StatusFlags.Fault) : (value, StatusFlags.None);
    }

    /// <summary>From command to raw, held within the terminal's range; and what a sensor of this signal gives at a value. A command without a value gives the rest position.</summary>
    public double Write(in SignalSettings settings, double value) => double.IsNaN(value) ? Rest : ToRaw(settings, value);

    /// <summary>What is wrong with a raw value, in words, or null when nothing is.</summary>
    public virtual string? Trouble(in SignalSettings settings, double raw) => null;

    /// <summary>How it comes to its reading, for people: by which curve, from which range.</summary>
    /// <param name="settings">What the terminal is set to.</param>
    /// <param name="say">How a value of the point is written.</param>
    public virtual string? Told(in SignalSettings settings, Func<double, string> say) => null;

    /// <summary>How far off a sensor of a class may be at a reading, as a difference in the point's unit.</summary>
    public double? ToleranceAt(in SignalSettings settings, string? @class, double value)
    {
        Tolerance? tolerance = null;
        foreach (Tolerance t in Tolerances)
        {
            if (t.Key == @class) tolerance = t;
        }
        if (tolerance is null || double.IsNaN(value)) return null;
        if (!IsThermometer) return tolerance.Fixed * Math.Abs(settings.High - settings.Low);
        double celsius = settings.Scale is { } s ? (value - s.Offset) / s.Factor : value;
        return tolerance.At(celsius) * (settings.Scale?.Factor ?? 1);
    }

    /// <summary>How a thermometer's °C become a point's unit; null when they need not.</summary>
    public Conversion? ScaleOf(string? unit) =>
        IsThermometer && unit != "°C" && Unit.Find(unit) is { } own && Unit.Find("°C")!.To(own) is { } by ? new Conversion("°C", own.Symbol, by.Factor, by.Offset) : null;

    /// <summary>What stands at a terminal to which nothing is commanded.</summary>
    protected virtual double Rest => 0;

    /// <summary>The value of a raw value that is a number; not a number for one that means none.</summary>
    protected abstract double ToValue(in SignalSettings settings, double raw);

    /// <summary>The raw value of a value.</summary>
    protected abstract double ToRaw(in SignalSettings settings, double value);

    /// <inheritdoc/>
    public override string ToString() => Key;

    private static readonly Tolerance[] PlatinumClasses = [new("B", 0.3, 0.005), new("A", 0.15, 0.002), new("AA", 0.1, 0.0017), new("C", 0.6, 0.01)];
    private static readonly Tolerance[] RangeClasses = [new("1 %", 0.01), new("0.5 %", 0.005), new("2 %", 0.02)];

    /// <summary>Platinum resistance, 100 Ω at 0 °C (IEC 60751). Raw value in Ω.</summary>
    public static Signal Pt100 { get; } = new ElementSignal("pt100", "Pt100", Curve.Pt100, "by the IEC 60751 curve", PlatinumClasses);

    /// <summary>Platinum resistance, 1000 Ω at 0 °C (IEC 60751). Raw value in Ω.</summary>
    public static Signal Pt1000 { get; } = new ElementSignal("pt1000", "Pt1000", Curve.Pt1000, "by the IEC 60751 curve", PlatinumClasses);

    /// <summary>Nickel resistance, 1000 Ω at 0 °C, 6180 ppm/K (DIN 43760). Raw value in Ω.</summary>
    public static Signal Ni1000 { get; } = new ElementSignal("ni1000", "Ni1000", Curve.Ni1000, "by the DIN 43760 curve, 6180 ppm/K", [new("standard", 0.4, 0.007, 0.028)]);

    /// <summary>Thermistor, 10 kΩ at 25 °C. Raw value in Ω.</summary>
    public static Signal Ntc10K { get; } = new ElementSignal("ntc10k", "NTC 10k", Curve.Ntc10K, "by Steinhart and Hart", [new("0.5 K", 0.5), new("0.2 K", 0.2)]);

    /// <summary>Thermistor, 20 kΩ at 25 °C. Raw value in Ω.</summary>
    public static Signal Ntc20K { get; } = new ElementSignal("ntc20k", "NTC 20k", Curve.Ntc20K, "by Steinhart and Hart", [new("0.5 K", 0.5), new("0.2 K", 0.2)]);

    /// <summary>A resistance whose meaning a curve of the project says. Raw value in Ω.</summary>
    public static Signal Resistance { get; } = new OwnCurveSignal();

    /// <summary>A potentiometer, 0 to 10 kΩ from end to end; raw value in % of its way.</summary>
    public static Signal Potentiometer { get; } = new RangeSignal("potentiometer", "potentiometer", "%", 0, 100, -2, 102, measures: true, drives: false, "the slider has no contact", "the slider has no contact") { OpenRaw = -100, ShortRaw = -100, Cores = 3, Tolerances = [new("2 %", 0.02), new("5 %", 0.05)] };

    /// <summary>0 to 10 V. Raw value in V.</summary>
    public static Signal Volts { get; } = new RangeSignal("volts", "0–10 V", "V", 0, 10, -0.2, 10.5, measures: true, drives: true) { Tolerances = RangeClasses };

    /// <summary>2 to 10 V: a broken wire shows. Raw value in V.</summary>
    public static Signal LiveVolts { get; } = new RangeSignal("volts2to10", "2–10 V", "V", 2, 10, 1.5, 10.5, measures: true, drives: true, "open circuit: under 1.5 V where a live sensor gives 2 V at least") { Tolerances = RangeClasses };

    /// <summary>4 to 20 mA, broken at or under 3.6 and over range from 21 mA on (NAMUR NE 43). Raw value in mA.</summary>
    public static Signal Milliamps { get; } = new RangeSignal("milliamps", "4–20 mA", "mA", 4, 20, Math.BitIncrement(3.6), Math.BitDecrement(21), measures: true, drives: true, "open loop: no more than 3.6 mA flows", "over range: 21 mA or more flows") { Tolerances = RangeClasses, ShortRaw = 22 };

    /// <summary>A contact without voltage. Raw value 1 closed, 0 open.</summary>
    public static Signal DryContact { get; } = new ContactSignal("dryContact", "dry contact", measures: true) { ShortRaw = 1 };

    /// <summary>Pulses that are counted. Raw value in pulses since the counter began.</summary>
    public static Signal Pulses { get; } = new PulseSignal();

    /// <summary>A relay output. Raw value 1 closed, 0 open.</summary>
    public static Signal Relay { get; } = new ContactSignal("relay", "relay", measures: false) { Asks = SignalAsks.Load };

    /// <summary>A triac output, for 24 V drives and valves. Raw value 1 on, 0 off.</summary>
    public static Signal Triac { get; } = new ContactSignal("triac", "triac", measures: false) { Asks = SignalAsks.Load };

    /// <summary>Pulse width: on for a share of each period. Raw value in %.</summary>
    public static Signal Pwm { get; } = new RangeSignal("pwm", "pulse width", "%", 0, 100, 0, 100, measures: false, drives: true);

    /// <summary>Two contacts that open and close a drive; the module makes the pulses from the position asked and the run time. Raw value: the position asked, %.</summary>
    public static Signal ThreePoint { get; } = new RangeSignal("threePoint", "three-point", "%", 0, 100, 0, 100, measures: false, drives: true) { Asks = SignalAsks.Range | SignalAsks.RunTime, Cores = 3 };

    /// <summary>No terminal: a value in the controller's memory.</summary>
    public static Signal Memory { get; } = new MemorySignal();

    /// <summary>All of them, in the order in which they are preferred.</summary>
    public static IReadOnlyList<Signal> All { get; } =
        [Pt1000, Pt100, Ni1000, Ntc10K, Ntc20K, Volts, Milliamps, LiveVolts, Resistance, Potentiometer, DryContact, Pulses, Relay, Triac, ThreePoint, Pwm, Memory];

    private static readonly FrozenDictionary<string, Signal> ByKey = All.ToFrozenDictionary(s => s.Key);

    /// <summary>The signal with this key, or null.</summary>
    public static Signal? Find(string? key) => key is null ? null : ByKey.GetValueOrDefault(key);
}

/// <summary>A thermometer by a curve that everybody knows.</summary>
internal sealed class ElementSignal : Signal
{
    private readonly Curve _curve;
    private readonly string _told;
    private readonly (double Low, double High) _raw;

    public ElementSignal(string key, string name, Curve curve, string told, Tolerance[] tolerances)
        : base(key, name, "Ω", PointKind.Analog, measures: true, drives: false)
    {
        (_curve, _told, _raw) = (curve, told, curve.RawRange);
        (Asks, IsThermometer, Tolerances, OpenRaw) = (SignalAsks.Lead, true, tolerances, 100 * _raw.High);
        Celsius = curve.Range;
    }

    protected override double ToValue(in SignalSettings settings, double raw)
    {
        double celsius = _curve.ValueOf(raw - settings.LeadOhms);
        return (settings.Scale is { } scale ? (celsius * scale.Factor) + scale.Offset : celsius) + settings.Correction;
    }

    protected override double ToRaw(in SignalSettings settings, double value) => _curve.RawOf(settings.Scale is { } scale ? (value - scale.Offset) / scale.Factor : value) + settings.LeadOhms;

    public override string? Trouble(in SignalSettings settings, double raw) =>
        !(raw - settings.LeadOhms <= _raw.High * (1 + 1e-5)) ? "open circuit: no sensor answers on this pair" : raw - settings.LeadOhms < _raw.Low * (1 - 1e-5) ? "short circuit: the two wires touch" : null;

    public override string Told(in SignalSettings settings, Func<double, string> say) => _told;
}

/// <summary>A resistance by a curve of the project's own.</summary>
internal sealed class OwnCurveSignal : Signal
{
    public OwnCurveSignal() : base("resistance", "resistance by curve", "Ω", PointKind.Analog, measures: true, drives: false) => (Asks, OpenRaw) = (SignalAsks.Curve | SignalAsks.Lead, 1e9);

    protected override double ToValue(in SignalSettings settings, double raw) => settings.Own is { } curve ? curve.ValueOf(raw - settings.LeadOhms) + settings.Correction : double.NaN;

    protected override double ToRaw(in SignalSettings settings, double value) => settings.Own is { } curve ? curve.RawOf(value) + settings.LeadOhms : double.NaN;

    public override string? Trouble(in SignalSettings settings, double raw)
    {
        if (settings.Own is not { } curve) return "no curve is chosen, so the resistance says nothing";
        var (low, high) = curve.RawRange;
        return !(raw - settings.LeadOhms <= high) ? "open circuit, or over the end of its curve" : raw - settings.LeadOhms < low ? "short circuit, or under the end of its curve" : null;
    }

    public override string Told(in SignalSettings settings, Func<double, string> say) => "by the project's own curve";
}

/// <summary>A signal between two ends that stand for two values, straight between them or by a curve of the project's own.</summary>
internal sealed class RangeSignal : Signal
{
    private readonly double _from, _to, _least, _most;
    private readonly string? _under, _over;

    public RangeSignal(string key, string name, string rawUnit, double from, double to, double least, double most, bool measures, bool drives, string? under = null, string? over = null)
        : base(key, name, rawUnit, PointKind.Analog, measures, drives)
    {
        (_from, _to, _least, _most, _under, _over) = (from, to, least, most, under, over);
        Asks = measures ? SignalAsks.Range | SignalAsks.MayCurve : SignalAsks.Range;
    }

    protected override double ToValue(in SignalSettings settings, double raw)
    {
        if (raw < _least || raw > _most) return double.NaN;
        if (settings.Own is { } curve) return curve.ValueOf(raw) + settings.Correction;
        return settings.Low + ((raw - _from) / (_to - _from) * (settings.High - settings.Low)) + settings.Correction;
    }

    protected override double ToRaw(in SignalSettings settings, double value)
    {
        if (settings.Own is { } curve) return Math.Clamp(curve.RawOf(value), _from, _to);
        double share = settings.High == settings.Low ? 0 : Math.Clamp((value - settings.Low) / (settings.High - settings.Low), 0, 1);
        return _from + (share * (_to - _from));
    }

    public override string? Trouble(in SignalSettings settings, double raw)
    {
        if (!Measures || (raw >= _least && raw <= _most)) return null;
        return raw > _most ? _over ?? Outside(raw) : _under ?? Outside(raw);
    }

    private string Outside(double raw) => FormattableString.Invariant($"{raw:0.00} {RawUnit} is outside {Name}");

    public override string Told(in SignalSettings settings, Func<double, string> say) => settings.Own is null ? $"from a range of {say(settings.Low)} to {say(settings.High)}" : "by the project's own curve";
}

/// <summary>Open or closed, on or off.</summary>
internal sealed class ContactSignal(string key, string name, bool measures) : Signal(key, name, "", PointKind.Binary, measures, !measures)
{
    protected override double ToValue(in SignalSettings settings, double raw) => (raw > 0.5) != settings.Inverted ? 1 : 0;

    protected override double ToRaw(in SignalSettings settings, double value) => (value > 0.5) != settings.Inverted ? 1 : 0;
}

/// <summary>Pulses since the counter began, each worth something.</summary>
internal sealed class PulseSignal : Signal
{
    public PulseSignal() : base("pulses", "pulses", "", PointKind.Analog, measures: true, drives: false) => Asks = SignalAsks.PerPulse;

    protected override double ToValue(in SignalSettings settings, double raw) => raw < 0 ? double.NaN : (raw * settings.PerPulse) + settings.Correction;

    protected override double ToRaw(in SignalSettings settings, double value) => settings.PerPulse == 0 ? 0 : Math.Max(0, Math.Floor((value / settings.PerPulse) + 1e-9));

    public override string Told(in SignalSettings settings, Func<double, string> say) => $"each pulse worth {say(settings.PerPulse)}";
}

/// <summary>A value in memory.</summary>
internal sealed class MemorySignal() : Signal("memory", "value", "", PointKind.Analog, measures: false, drives: false)
{
    protected override double ToValue(in SignalSettings settings, double raw) => raw;

    protected override double ToRaw(in SignalSettings settings, double value) => value;
}

/// <summary>A signal as its key.</summary>
public sealed class SignalJson : JsonConverter<Signal>
{
    /// <inheritdoc/>
    public override Signal Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        string? key = reader.TokenType == JsonTokenType.String ? reader.GetString() : null;
        return Signal.Find(key) ?? throw new JsonException($"There is no signal ‘{key}’. There are {string.Join(", ", Signal.All.Select(s => s.Key))}.");
    }

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, Signal value, JsonSerializerOptions options) => writer.WriteStringValue(value.Key);
}
