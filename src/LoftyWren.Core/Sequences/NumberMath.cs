using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>What blocks of arithmetic and type conversion do; bound as <see cref="BlockMath"/> is.</summary>
internal static class NumberMath
{
    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        yield return Plain(BlockKind.Median, "Median", "median middle of three sensors outlier", "Arithmetic", Many(PinKind.Analog), AnalogOut) with { Infers = BlockTyping.Alike, Example = new("°C", 18, 24) { Others = [("in3", "°C", 23, 19)] } };
        yield return Plain(BlockKind.Round, "Round", "round step whole truncate floor ceiling real to int", "Arithmetic", AnalogIn, AnalogOut, false, [new("step", "to steps of", "difference", 1, 1e-6, 1e6)],
            [Choice("way", "way", ("near", "to the nearest"), ("down", "down"), ("up", "up"), ("zero", "towards 0"))]) with
        { Infers = BlockTyping.Alike, Example = new("°C", 18, 24) };
        yield return Plain(BlockKind.WholeQuotient, "Whole quotient", "integer division remainder mod modulo whole quotient", "Arithmetic", Two(PinKind.Analog), [.. AnalogOut, Out("rest", "rest")]) with { Infers = BlockTyping.Whole, Example = new("", 0, 12) { IsWhole = true } };
        yield return Plain(BlockKind.Root, "Square root", "sqrt square root flow from differential pressure orifice", "Arithmetic", AnalogIn, AnalogOut, false, [new("factor", "factor", "", 1, -1e9, 1e9)]) with
        {
            ChoosesUnit = true,
            Infers = t =>
            {
                t.NoTemperature("in", "take the root of");
                t.Out(new LineType(false, Units.Unit.Find(t.Block.OutputUnit)));
            },
            Example = new("Pa", 0, 200),
        };
        yield return Plain(BlockKind.Power, "Power", "expt power exponent raise square", "Arithmetic", Two(PinKind.Analog), [Out("out", "out", "")]) with
        {
            Infers = t =>
            {
                t.Bare("in1");
                t.Bare("in2");
            },
            Example = new("", 0, 4),
        };
        yield return Plain(BlockKind.Function, "Function", "ln log exp sin cos tan asin acos atan function logarithm", "Arithmetic", AnalogIn, AnalogOut, false, null,
            [Choice("of", "function", ("ln", "ln"), ("log", "log₁₀"), ("exp", "eˣ"), ("sin", "sin"), ("cos", "cos"), ("tan", "tan"), ("asin", "arcsin"), ("acos", "arccos"), ("atan", "arctan"))]) with
        { Derived = [new("angle", BlockTyping.Angle)], Infers = BlockTyping.OfNumber, Example = new("", 0.1, 6) };
        yield return Plain(BlockKind.ToNumber, "On/off to number", "bool to int binary to number type conversion", "Convert", BinaryIn, AnalogOut, false, [new("off", "when off", "out", 0, -1e6, 1e6), new("on", "when on", "out", 1, -1e6, 1e6)]) with
        { ChoosesUnit = true, Infers = t => t.Out(new LineType(false, Units.Unit.Find(t.Block.OutputUnit))) };
        yield return Plain(BlockKind.ToBinary, "Number to on/off", "int to bool number to binary not zero type conversion", "Convert", AnalogIn, BinaryOut);
    }

    public static PinValue Round(PinValue @in, double step, int way)
    {
        double steps = @in.Value / step;
        // A value that is a whole number of steps but for the last binary digit is one.
        double near = Math.Round(steps, MidpointRounding.ToEven);
        if (Math.Abs(steps - near) < 1e-9 * Math.Max(1, Math.Abs(steps))) steps = near;
        return Simple(@in.Status, step * way switch { 0 => near, 1 => Math.Floor(steps), 2 => Math.Ceiling(steps), _ => Math.Truncate(steps) });
    }

    public static PinValue WholeQuotient(PinValue in1, PinValue in2, ref PinValue rest)
    {
        double whole = Math.Truncate(in1.Value / in2.Value);
        rest = Simple(in1.Status | in2.Status, in1.Value - (whole * in2.Value));
        return Simple(in1.Status | in2.Status, whole);
    }

    public static PinValue Root(PinValue @in, double factor) => Simple(@in.Status, factor * Math.Sqrt(@in.Value));

    public static PinValue Power(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, Math.Pow(in1.Value, in2.Value));

    public static PinValue Function(PinValue @in, int of, double angle) => Simple(@in.Status, of switch
    {
        0 => Math.Log(@in.Value),
        1 => Math.Log10(@in.Value),
        2 => Math.Exp(@in.Value),
        3 => Math.Sin(@in.Value * angle),
        4 => Math.Cos(@in.Value * angle),
        5 => Math.Tan(@in.Value * angle),
        6 => Math.Asin(@in.Value),
        7 => Math.Acos(@in.Value),
        _ => Math.Atan(@in.Value),
    });

    public static PinValue ToNumber(PinValue @in, double off, double on) => Simple(@in.Status, @in.IsTrue ? on : off);

    public static PinValue ToBinary(PinValue @in) => Simple(@in.Status, @in.Value != 0 ? 1 : 0);
}
