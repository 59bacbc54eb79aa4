using LoftyWren.Core.Status;
using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>What blocks of logic, choice and counting do; bound as <see cref="BlockMath"/> is.</summary>
internal static class LogicMath
{
    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        yield return Plain(BlockKind.AtLeast, "At least", "at least n of majority voting two of three any two", "Logic", Many(PinKind.Binary), BinaryOut, false, [new("least", "at least", "", 2, 1, BlockType.MostInputs)]) with
        { How = t => $": at least {t.Setting("least")} of its inputs must be on", Refuses = Whole("least") };
        yield return Plain(BlockKind.StateOf, "State of", "state from contacts enumeration own texts named states first that is on priority", "Select", Many(PinKind.Binary, 1), AnalogOut) with
        { Texts = [new("states", "states, by commas", 400) { Means = BlockTyping.LastState, IsFree = true, Example = "alarm, runs, off" }], Infers = BlockTyping.StatesWritten, Example = new("", 0, 1) { Others = [("in2", "", 0, 1)] } };
        yield return Plain(BlockKind.Mux, "Choose among", "mux choose among many select by number mode setpoint", "Select", [In("k", "which"), .. Many(PinKind.Any)], AnyOut) with { Infers = BlockTyping.ChosenByNumber, Example = new("", 1, 3) { Others = [("k", "", 1, 3.4), ("in1", "°C", 16, 16), ("in2", "°C", 19, 19), ("in3", "°C", 22, 22)] } };
        yield return Plain(BlockKind.FirstGood, "First good", "first good value choose by status fallback replacement sensor spare", "Select", Many(PinKind.Any, 1), [.. AnyOut, Out("which", "which", "")]) with { Infers = BlockTyping.AnyAlike, Example = new("°C", 18, 24) { Fails = true } };
        yield return Plain(BlockKind.HoldGood, "Hold last good", "hold last good value bridge sensor fault keep", "Select", [In("in", "in", PinKind.Any)], AnyOut, true, [new("most", "for at most (0: for ever)", "s", 600, 0, 604_800)]) with
        { Infers = BlockTyping.AnyAlike, Cells = 3, How = t => double.IsNaN(t.Memory(2)) || t.Memory(2) == 0 ? "" : ": the last good value, held while its input has none", Example = new("°C", 18, 24) { Fails = true } };
        yield return Plain(BlockKind.StatusIs, "Status is", "status is fault stale released by hand usable valid quality", "Select", [In("in", "in", PinKind.Any)], BinaryOut, false, null,
            [Choice("is", "is", ("fault", "in fault"), ("released", "released"), ("stale", "stale"), ("byHand", "held by hand"), ("usable", "usable"))]) with
        { Speaks = Always, Example = new("°C", 18, 24) { Fails = true } };
        yield return Plain(BlockKind.Sample, "Sample and hold", "sample hold take over store remember value at moment", "Select", [In("in", "in", PinKind.Any), In("take", "take", PinKind.Binary)], AnyOut, true) with { Infers = BlockTyping.SampledBy, Speaks = (_, _) => BlockSpeech.Releases, Cells = 2, Example = new("°C", 18, 24) };
        yield return Plain(BlockKind.Bits, "Bits to number", "bits word pack binary to number type conversion", "Convert", Many(PinKind.Binary, 1), [Out("out", "out", "")]);
        yield return Plain(BlockKind.BitOf, "Bit of number", "bit of word unpack status word register type conversion", "Convert", AnalogIn, BinaryOut, false, [new("bit", "bit (0 is the last)", "", 0, 0, 15)]) with { Infers = t => t.Bare("in"), Refuses = Whole("bit"), Example = new("", 0, 7) { IsWhole = true } };
        yield return Plain(BlockKind.WordLogic, "Bitwise", "bitwise and or xor mask word", "Convert", Two(PinKind.Analog), [Out("out", "out", "")], false, null, [Choice("operation", "operation", ("and", "AND"), ("or", "OR"), ("xor", "XOR"))]) with { Infers = BothBare, Example = new("", 0, 15) { IsWhole = true } };
        yield return Plain(BlockKind.ShiftBits, "Shift bits", "shift rotate bits shl shr rol ror word", "Convert", AnalogIn, [Out("out", "out", "")], false, [new("places", "places", "", 1, 0, 15)],
            [Choice("way", "way", ("left", "left"), ("right", "right"), ("rotateLeft", "left, round"), ("rotateRight", "right, round"))]) with
        { Infers = t => t.Bare("in"), Refuses = Whole("places"), Example = new("", 0, 9) { IsWhole = true } };
        NumberSetting pv = new("pv", "preset", "", 10, 0, 1e9);
        Pin cv = Out("cv", "count", "");
        yield return Plain(BlockKind.CountUp, "Count up", "ctu count up counter pulses starts", "Count", [In("cu", "count", PinKind.Binary), In("r", "reset", PinKind.Binary, false)], [On("out", "reached"), cv], true, [pv]) with { Speaks = Always, Cells = 2, How = t => $": {t.Memory(0):0} counted", Example = new("", 0, 1) { Others = [("r", "", 0, 0)] } };
        yield return Plain(BlockKind.CountDown, "Count down", "ctd count down counter left", "Count", [In("cd", "count", PinKind.Binary), In("ld", "load", PinKind.Binary, false)], [On("out", "used up"), cv], true, [pv]) with { Speaks = Always, Cells = 2, How = t => $": {t.Memory(0):0} left", Example = new("", 0, 1) { Others = [("ld", "", 0, 0)] } };
        yield return Plain(BlockKind.CountUpDown, "Count up and down", "ctud count up down counter occupancy people", "Count", [In("cu", "count up", PinKind.Binary), In("cd", "count down", PinKind.Binary), In("r", "reset", PinKind.Binary, false), In("ld", "load", PinKind.Binary, false)], [On("out", "reached"), On("qd", "none left"), cv], true, [pv]) with { Speaks = Always, Cells = 3, How = t => $": the count is {t.Memory(0):0}" };
    }

    private static void BothBare(BlockTyping t)
    {
        t.Bare("in1");
        t.Bare("in2");
    }

    private static Func<BlockType, Block, string?> Whole(string setting) => (type, block) =>
        type.Number(block, setting) == Math.Floor(type.Number(block, setting)) ? null : $"The ‘{type.Numbers.First(n => n.Name == setting).Label}’ of ‘{block.Called()}’ is a whole number.";

    private const StatusFlags Marks = StatusFlags.Stale | StatusFlags.Overridden;
    private const double WordEnd = 65_536, MostCount = 1e9;

    public static PinValue AtLeast(ReadOnlySpan<PinValue> inputs, double least)
    {
        int on = 0, unknown = 0;
        StatusFlags all = StatusFlags.None, marks = StatusFlags.None;
        for (int i = 0; i < inputs.Length; i++)
        {
            all |= inputs[i].Status;
            if (!inputs[i].IsUsable) unknown++;
            else
            {
                marks |= inputs[i].Status & Marks;
                if (inputs[i].IsTrue) on++;
            }
        }
        if (on >= least) return new(1, marks);
        return on + unknown < least ? new(0, marks) : Simple(all, 0);
    }

    public static PinValue Bits(ReadOnlySpan<PinValue> pins, int connected)
    {
        StatusFlags all = connected == 0 ? StatusFlags.Released : StatusFlags.None;
        int number = 0;
        for (int i = 0; i < pins.Length; i++)
        {
            if ((connected & (1 << i)) == 0) continue;
            all |= pins[i].Status;
            if (pins[i].IsTrue) number |= 1 << i;
        }
        return Simple(all, number);
    }

    public static PinValue BitOf(PinValue @in, double bit) => @in.IsUsable && !IsWord(@in.Value) ? PinValue.Fault : Simple(@in.Status, @in.IsUsable ? ((int)@in.Value >> (int)bit) & 1 : 0);

    public static PinValue WordLogic(PinValue in1, PinValue in2, int operation)
    {
        StatusFlags all = in1.Status | in2.Status;
        if ((all & Unusable) != 0) return Simple(all, 0);
        if (!IsWord(in1.Value) || !IsWord(in2.Value)) return PinValue.Fault;
        int a = (int)in1.Value, b = (int)in2.Value;
        return Simple(all, operation switch { 0 => a & b, 1 => a | b, _ => a ^ b });
    }

    public static PinValue ShiftBits(PinValue @in, double places, int way)
    {
        if (!@in.IsUsable) return Simple(@in.Status, 0);
        if (!IsWord(@in.Value)) return PinValue.Fault;
        int word = (int)@in.Value, n = (int)places;
        return Simple(@in.Status, way switch
        {
            0 => (word << n) & 0xFFFF,
            1 => word >> n,
            2 => ((word << n) | (word >> (16 - n))) & 0xFFFF,
            _ => ((word >> n) | (word << (16 - n))) & 0xFFFF,
        });
    }

    private static bool IsWord(double value) => value >= 0 && value < WordEnd && value == Math.Floor(value);

    /// <summary>Pins: which, then what to choose among.</summary>
    public static PinValue Mux(ReadOnlySpan<PinValue> pins)
    {
        PinValue which = pins[0];
        if (!which.IsUsable) return new(double.NaN, Settle(which.Status));
        if (which.Value != Math.Floor(which.Value) || which.Value < 1 || which.Value >= pins.Length) return PinValue.Fault;
        PinValue chosen = pins[(int)which.Value];
        return Chosen(chosen.Status | which.Status, chosen.Value);
    }

    public static PinValue FirstGood(ReadOnlySpan<PinValue> pins, ref PinValue which)
    {
        StatusFlags all = StatusFlags.None;
        for (int i = 0; i < pins.Length; i++)
        {
            if (pins[i].IsUsable)
            {
                which = new(i + 1, StatusFlags.None);
                return Chosen(pins[i].Status, pins[i].Value);
            }
            all |= pins[i].Status;
        }
        which = new(0, StatusFlags.None);
        return new(double.NaN, Settle(all));
    }

    // Cells: 0 = last good value, 1 = time of the last scan, 2 = for how long it has been held, s.
    public static PinValue HoldGood(PinValue @in, double most, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now);
        if (@in.IsUsable)
        {
            (cells[0], cells[2]) = (@in.Value, 0);
            return Chosen(@in.Status, @in.Value);
        }
        if (double.IsNaN(cells[0])) return new(double.NaN, Settle(@in.Status));
        cells[2] += passed;
        return most > 0 && IsOver(cells[2], most) ? new(double.NaN, Settle(@in.Status)) : new(cells[0], StatusFlags.Stale);
    }

    public static PinValue StatusIs(PinValue @in, int @is)
    {
        bool so = @is switch
        {
            0 => (@in.Status & StatusFlags.Fault) != 0,
            1 => (@in.Status & Unusable) == StatusFlags.Released,
            2 => (@in.Status & StatusFlags.Stale) != 0,
            3 => (@in.Status & StatusFlags.Overridden) != 0,
            _ => @in.IsUsable,
        };
        return new(so ? 1 : 0, StatusFlags.None);
    }

    public static PinValue StateOf(ReadOnlySpan<PinValue> pins, double states)
    {
        for (int i = 0; i < pins.Length; i++)
        {
            if ((pins[i].Status & StatusFlags.Fault) != 0) return PinValue.Fault;
            if (pins[i].IsUsableTrue) return new(i + 1, pins[i].Status & Marks);
        }
        return double.IsNaN(states) ? PinValue.Released : new(states, StatusFlags.None);
    }

    // Cells: 0 = what it holds, 1 = whether the last scan was told to take.
    public static PinValue Sample(PinValue @in, PinValue take, Span<double> cells)
    {
        bool takes = take.IsUsableTrue;
        if (takes && @in.IsUsable && cells[1] == 0) cells[0] = @in.Value;
        if (take.IsUsable) cells[1] = takes ? 1 : 0;
        return double.IsNaN(cells[0]) ? PinValue.Released : new(cells[0], StatusFlags.None);
    }

    // Cells of the counters: 0 = count, 1 and 2 = last states of the counted inputs.
    public static PinValue CountUp(PinValue cu, PinValue r, double pv, Span<double> cells, ref PinValue cv)
    {
        double count = Begun(cells);
        if (Rose(cu, ref cells[1])) count = Math.Min(MostCount, count + 1);
        if (r.IsUsableTrue) count = 0;
        return Counted(cells, count, count >= pv, ref cv);
    }

    public static PinValue CountDown(PinValue cd, PinValue ld, double pv, Span<double> cells, ref PinValue cv)
    {
        double count = Begun(cells);
        if (Rose(cd, ref cells[1])) count = Math.Max(-MostCount, count - 1);
        if (ld.IsUsableTrue) count = pv;
        return Counted(cells, count, count <= 0, ref cv);
    }

    public static PinValue CountUpDown(PinValue cu, PinValue cd, PinValue r, PinValue ld, double pv, Span<double> cells, ref PinValue qd, ref PinValue cv)
    {
        double count = Begun(cells);
        bool up = Rose(cu, ref cells[1]), down = Rose(cd, ref cells[2]);
        if (r.IsUsableTrue) count = 0;
        else if (ld.IsUsableTrue) count = pv;
        else if (up != down) count = Math.Clamp(count + (up ? 1 : -1), -MostCount, MostCount);
        qd = new(count <= 0 ? 1 : 0, StatusFlags.None);
        return Counted(cells, count, count >= pv, ref cv);
    }

    private static double Begun(Span<double> cells) => double.IsNaN(cells[0]) ? 0 : cells[0];

    private static PinValue Counted(Span<double> cells, double count, bool q, ref PinValue cv)
    {
        cells[0] = count;
        cv = new(count, StatusFlags.None);
        return new(q ? 1 : 0, StatusFlags.None);
    }

    /// <summary>Whether an input has turned on; what is not usable is no edge, and one that is on at first has not turned.</summary>
    internal static bool Rose(PinValue input, ref double before)
    {
        if (!input.IsUsable) return false;
        bool rose = input.IsTrue && before == 0;
        before = input.IsTrue ? 1 : 0;
        return rose;
    }
}
