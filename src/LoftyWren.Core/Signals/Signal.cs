using LoftyWren.Core.Status;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Signals;

/// <summary>What a terminal carries.</summary>
public enum Signal
{
    /// <summary>Platinum resistance, 1000 Ω at 0 °C, IEC 60751. Raw value in Ω.</summary>
    Pt1000,
    /// <summary>0 to 10 V. Raw value in V.</summary>
    Volts,
    /// <summary>4 to 20 mA. Raw value in mA.</summary>
    Milliamps,
    /// <summary>A contact without voltage. Raw value 1 closed, 0 open.</summary>
    DryContact,
    /// <summary>A relay output. Raw value 1 closed, 0 open.</summary>
    Relay,
    /// <summary>No terminal: a value in the controller's memory.</summary>
    Memory,
}

/// <summary>Turns what a terminal measures into a reading, and a command into what a terminal gives.</summary>
public static class SignalConversion
{
    /// <summary>Whether a signal says nothing by itself, but what its ends stand for does.</summary>
    public static bool HasRange(Signal signal) => signal is Signal.Volts or Signal.Milliamps;

    /// <summary>The trade's name of a signal.</summary>
    public static string Name(Signal signal) => signal switch
    {
        Signal.Pt1000 => "Pt1000",
        Signal.Volts => "0–10 V",
        Signal.Milliamps => "4–20 mA",
        Signal.DryContact => "dry contact",
        Signal.Relay => "relay",
        _ => "value",
    };

    /// <summary>The unit of a signal's raw value.</summary>
    public static string RawUnit(Signal signal) => signal switch { Signal.Pt1000 => "Ω", Signal.Volts => "V", Signal.Milliamps => "mA", _ => "" };

    /// <summary>
    /// From raw to reading. <paramref name="low"/> and <paramref name="high"/> are the values at both ends of the range,
    /// <paramref name="correction"/> is added to the result (a difference in the point's unit), <paramref name="inverted"/>
    /// turns a contact round, <paramref name="scale"/> brings a thermometer's °C into the point's unit (<see cref="ScaleOf"/>).
    /// Open and short circuit, and anything that is not a number, become a fault without a value:
    /// Pt1000 outside −200…850 °C, 0–10 V outside −0.2…10.5 V, 4–20 mA at or below 3.6 and at or above 21 mA (NAMUR NE 43).
    /// </summary>
    public static (double Value, StatusFlags Status) Read(Signal signal, double raw, double low, double high, double correction, bool inverted, Conversion? scale = null)
    {
        if (!double.IsFinite(raw)) return (double.NaN, StatusFlags.Fault);
        double value;
        switch (signal)
        {
            case Signal.Pt1000:
                value = Pt1000.Temperature(raw);
                if (scale is not null) value = (value * scale.Factor) + scale.Offset;
                break;
            case Signal.Volts:
                value = raw is < -0.2 or > 10.5 ? double.NaN : low + (raw / 10 * (high - low));
                break;
            case Signal.Milliamps:
                value = raw is <= 3.6 or >= 21 ? double.NaN : low + ((raw - 4) / 16 * (high - low));
                break;
            case Signal.DryContact:
            case Signal.Relay:
                return ((raw > 0.5) != inverted ? 1 : 0, StatusFlags.None);
            default:
                return (raw, StatusFlags.None);
        }
        return double.IsNaN(value) ? (double.NaN, StatusFlags.Fault) : (value + correction, StatusFlags.None);
    }

    /// <summary>How a thermometer's °C become a point's unit; null when they need not.</summary>
    public static Conversion? ScaleOf(Signal signal, string? unit)
    {
        if (signal != Signal.Pt1000 || unit == "°C" || Unit.Find(unit) is not { } own || Unit.Find("°C")!.To(own) is not { } by) return null;
        return new Conversion("°C", own.Symbol, by.Factor, by.Offset);
    }

    /// <summary>From command to raw, held within the terminal's range. A command without a value gives the rest position: 0.</summary>
    public static double Write(Signal signal, double value, double low, double high, bool inverted)
    {
        if (double.IsNaN(value)) return 0;
        double share = high == low ? 0 : Math.Clamp((value - low) / (high - low), 0, 1);
        return signal switch
        {
            Signal.Volts => share * 10,
            Signal.Milliamps => 4 + (share * 16),
            _ => (value > 0.5) != inverted ? 1 : 0,
        };
    }

    /// <summary>What is wrong with a raw value, in words, or null when nothing is.</summary>
    public static string? Trouble(Signal signal, double raw) => signal switch
    {
        Signal.Pt1000 when !(raw <= Pt1000.Resistance(850)) => "open circuit: no sensor answers on this pair",
        Signal.Pt1000 when raw < Pt1000.Resistance(-200) => "short circuit: the two wires touch",
        Signal.Volts when !(raw is >= -0.2 and <= 10.5) => $"{raw:0.00} V is outside 0–10 V",
        Signal.Milliamps when !(raw > 3.6) => "open loop: no more than 3.6 mA flows",
        Signal.Milliamps when raw >= 21 => "over range: 21 mA or more flows",
        _ => null,
    };
}

/// <summary>The platinum curve of IEC 60751, for a thermometer of 1000 Ω at 0 °C.</summary>
public static class Pt1000
{
    private const double R0 = 1000, A = 3.9083e-3, B = -5.775e-7, C = -4.183e-12;
    private static readonly double LowestOhms = Resistance(-200), HighestOhms = Resistance(850);

    /// <summary>Resistance in Ω at a temperature in °C, −200…850: R0·(1 + A·t + B·t² + C·(t − 100)·t³), the last term below 0 °C only.</summary>
    public static double Resistance(double celsius)
    {
        double t = celsius;
        return R0 * (1 + (A * t) + (B * t * t) + (t < 0 ? C * (t - 100) * t * t * t : 0));
    }

    /// <summary>
    /// Temperature in °C at a resistance in Ω; not a number outside −200…850 °C. From 0 °C up the quadratic is solved
    /// exactly; below, three Newton steps on the full polynomial bring it under 1 µK.
    /// </summary>
    public static double Temperature(double ohms)
    {
        // A hundred-thousandth of slack, so that the ends of the range are inside as the standard's table rounds them.
        if (!(ohms >= LowestOhms * (1 - 1e-5) && ohms <= HighestOhms * (1 + 1e-5))) return double.NaN;
        double t = (-A + Math.Sqrt((A * A) - (4 * B * (1 - (ohms / R0))))) / (2 * B);
        if (ohms >= R0) return t;
        for (int i = 0; i < 4; i++)
        {
            double slope = R0 * (A + (2 * B * t) + (C * ((4 * t * t * t) - (300 * t * t))));
            t -= (Resistance(t) - ohms) / slope;
        }
        return t;
    }
}
