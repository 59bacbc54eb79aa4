using LoftyWren.Core.Status;
using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>What blocks do that measure time or remember a stretch of it; bound as <see cref="BlockMath"/> is.</summary>
internal static class TimeMath
{
    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        yield return Plain(BlockKind.Staircase, "Staircase", "staircase light timer push button warning before off stairs corridor", "Time", [In("in", "pressed", PinKind.Binary)], [.. BinaryOut, On("warning", "warning")], true,
            [new("time", "on for", "s", 180, 0, 86_400), new("before", "warn before the end", "s", 20, 0, 3600)]) with
        { Speaks = Always, Cells = 4, How = t => $": it stays on for {t.Length("time")} after it was pressed last", Example = new("", 0, 1) };
        yield return Plain(BlockKind.Countdown, "Countdown", "countdown pulse boost overrun party timer left run for", "Time", [In("in", "start", PinKind.Binary), In("stop", "stop", PinKind.Binary, false)], [.. BinaryOut, Out("left", "left", "s")], true,
            [new("length", "runs for", "s", 3600, 0, 604_800)], [Choice("again", "started again", ("anew", "begins anew"), ("goOn", "goes on"))]) with
        { Speaks = Always, Cells = 4, How = t => $": it runs for {t.Length("length")} from its start" };
        yield return Plain(BlockKind.Blink, "Blink", "blink flash clock cycle lamp exercise", "Time", BinaryIn, BinaryOut, true, [new("on", "on for", "s", 1, 0.1, 86_400), new("off", "off for", "s", 1, 0.1, 86_400)]) with { Cells = 3 };
        yield return Plain(BlockKind.SeenInWindows, "Seen in windows", "seen in two windows in a row presence confirmed again repeatedly", "Time", BinaryIn, [.. BinaryOut, Out("row", "in a row", "")], true,
            [new("window", "window", "s", 600, 1, 86_400), new("count", "windows in a row", "", 2, 1, 100)]) with
        { Cells = 4, How = t => $": its input must be seen in {t.Setting("count")} windows of {t.Length("window")} in a row" };
        yield return Plain(BlockKind.Window, "Moving window", "moving average mean median least greatest rolling window last minutes smooth", "Time", AnalogIn, AnalogOut, true, [new("length", "over the last", "s", 900, 1, 604_800)],
            [Choice("of", "gives", ("mean", "mean"), ("least", "least"), ("greatest", "greatest"), ("median", "median"))]) with
        { Infers = BlockTyping.Alike, Cells = WindowCells, Example = new("°C", 18, 26) };
        yield return Plain(BlockKind.DeadTime, "Dead time", "dead time transport delay shift", "Time", AnalogIn, AnalogOut, true, [new("time", "later by", "s", 60, 0, 86_400)]) with { Infers = BlockTyping.Alike, Cells = DeadCells, Example = new("°C", 18, 26) };
        yield return Plain(BlockKind.RunHours, "Run hours", "run hours operating hours starts cycles counter maintenance", "Count", [In("in", "runs", PinKind.Binary), In("reset", "reset", PinKind.Binary, false)], [Out("out", "hours", "h"), Out("starts", "starts", "")], true) with { Speaks = Always, Cells = 4 };
        yield return Plain(BlockKind.Total, "Total", "total energy totaliser integrate meter volume heat quantity kwh", "Count", [In("in", "rate"), In("reset", "reset", PinKind.Binary, false)], AnalogOut, true) with
        { ChoosesUnit = true, Derived = [new("perSecond", BlockTyping.TotalPerSecond)], Infers = BlockTyping.Totalled, Speaks = Always, Cells = 3, Example = new("kW", 0, 12) };
    }

    /// <summary>Into how many parts a stretch of time is divided that is remembered.</summary>
    public const int Parts = 60;

    // Cells: 0 = s since it was pressed, 1 = time of the last scan, 2 = whether it runs, 3 = the input's last state.
    public static PinValue Staircase(PinValue @in, double time, double before, double now, Span<double> cells, ref PinValue warning)
    {
        double passed = Passed(ref cells[0], now);
        bool runs = cells[2] > 0.5;
        if (LogicMath.Rose(@in, ref cells[3])) (runs, cells[0]) = (time > 0, 0);
        else if (runs)
        {
            cells[0] += passed;
            runs = !IsOver(cells[0], time);
        }
        cells[2] = runs ? 1 : 0;
        warning = new(runs && IsOver(cells[0], time - before) && before > 0 ? 1 : 0, StatusFlags.None);
        return new(runs ? 1 : 0, StatusFlags.None);
    }

    // Cells: 0 = s since it began, 1 = time of the last scan, 2 = whether it runs, 3 = the input's last state.
    public static PinValue Countdown(PinValue @in, PinValue stop, double length, bool again, double now, Span<double> cells, ref PinValue left)
    {
        double passed = Passed(ref cells[0], now);
        bool runs = cells[2] > 0.5;
        if (runs)
        {
            cells[0] += passed;
            runs = !IsOver(cells[0], length);
        }
        if (LogicMath.Rose(@in, ref cells[3]) && !(runs && again)) (runs, cells[0]) = (length > 0, 0);
        if (stop.IsUsableTrue) runs = false;
        cells[2] = runs ? 1 : 0;
        left = new(runs ? length - cells[0] : 0, StatusFlags.None);
        return new(runs ? 1 : 0, StatusFlags.None);
    }

    // Cells: 0 = s into the present period, 1 = time of the last scan, 2 = whether it was on at the last scan.
    public static PinValue Blink(PinValue @in, double on, double off, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        cells[0] = @in.IsTrue && cells[2] > 0.5 ? (cells[0] + passed) % (on + off) : 0;
        cells[2] = @in.IsTrue ? 1 : 0;
        return new(@in.IsTrue && (!IsOver(cells[0], on) || IsOver(cells[0], on + off)) ? 1 : 0, status);
    }

    // Cells: 0 = s into the present window, 1 = time of the last scan, 2 = whether it was seen in this window, 3 = windows in a row in which it was.
    public static PinValue SeenInWindows(PinValue @in, double window, double count, double now, Span<double> cells, ref PinValue row)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return row = new(double.NaN, status);
        if (double.IsNaN(cells[0])) (cells[0], cells[2], cells[3]) = (0, 0, 0);
        for (cells[0] += passed; IsOver(cells[0], window); cells[0] = Math.Max(0, cells[0] - window))
        {
            cells[3] = cells[2] > 0.5 ? Math.Min(1e9, cells[3] + 1) : 0;
            cells[2] = 0;
            // Of windows that went by between two scans, in which nothing was seen, one stands for all: it ends the row.
            if (cells[0] > 3 * window) cells[0] = (2 * window) + (cells[0] % window);
        }
        if (@in.IsTrue) cells[2] = 1;
        row = new(cells[3], status);
        return new(cells[3] >= count ? 1 : 0, status);
    }

    // Cells: 0 = sum of value × s in the part that fills, 1 = time of the last scan, 2 = s of it, 3 = parts that are full, 4 = where the next goes, 5 = the value since the last scan; then for each part its mean, least and greatest value; last those of the part that fills.
    private const int Head = 6, Least = Head + Parts, Greatest = Least + Parts, PartLeast = Greatest + Parts;

    /// <summary>Cells of a moving window.</summary>
    public const int WindowCells = PartLeast + 2;

    public static PinValue Window(PinValue @in, double length, int of, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now), part = length / Parts;
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        if (double.IsNaN(cells[5])) (cells[0], cells[2], cells[3], cells[4], cells[5], cells[PartLeast], cells[PartLeast + 1]) = (0, 0, 0, 0, @in.Value, @in.Value, @in.Value);
        // A part that is as old as the window drops out; a pause longer than the window leaves one value.
        double left = Math.Min(passed, 2 * length), was = cells[5];
        while (left > 0)
        {
            double room = Math.Max(0, part - cells[2]), took = Math.Min(left, room);
            (cells[0], cells[2], left) = (cells[0] + (was * took), cells[2] + took, left - took);
            if (cells[2] < part - 1e-9) break;
            int at = (int)cells[4];
            (cells[Head + at], cells[Least + at], cells[Greatest + at]) = (cells[2] > 0 ? cells[0] / cells[2] : was, cells[PartLeast], cells[PartLeast + 1]);
            (cells[0], cells[2], cells[3], cells[4], cells[PartLeast], cells[PartLeast + 1]) = (0, 0, Math.Min(Parts, cells[3] + 1), (at + 1) % Parts, was, was);
        }
        cells[5] = @in.Value;
        (cells[PartLeast], cells[PartLeast + 1]) = (Math.Min(cells[PartLeast], @in.Value), Math.Max(cells[PartLeast + 1], @in.Value));
        int full = (int)cells[3];
        return of switch
        {
            0 => Simple(status, Mean(cells, full, part)),
            1 => Simple(status, Extreme(cells.Slice(Least, full), cells[PartLeast], -1)),
            2 => Simple(status, Extreme(cells.Slice(Greatest, full), cells[PartLeast + 1], 1)),
            _ => Simple(status, Middle(cells, full)),
        };
    }

    private static double Mean(Span<double> cells, int full, double part)
    {
        // With all parts full, as much of the oldest counts as the one that fills does not cover.
        double sum = cells[0], seconds = cells[2];
        for (int i = 0; i < full; i++)
        {
            bool isOldest = full == Parts && i == (int)cells[4];
            double counts = isOldest ? Math.Max(0, part - cells[2]) : part;
            (sum, seconds) = (sum + (cells[Head + i] * counts), seconds + counts);
        }
        return seconds > 0 ? sum / seconds : cells[5];
    }

    private static double Extreme(ReadOnlySpan<double> parts, double present, int sign)
    {
        for (int i = 0; i < parts.Length; i++) present = (parts[i] - present) * sign > 0 ? parts[i] : present;
        return present;
    }

    private static double Middle(Span<double> cells, int full)
    {
        Span<double> sorted = stackalloc double[Parts + 1];
        int count = 0;
        for (int i = 0; i <= full; i++)
        {
            double value = i < full ? cells[Head + i] : cells[2] > 0 ? cells[0] / cells[2] : cells[5];
            int at = count++;
            while (at > 0 && sorted[at - 1] > value) sorted[at] = sorted[--at];
            sorted[at] = value;
        }
        return (sorted[(count - 1) / 2] + sorted[count / 2]) / 2;
    }

    // Cells: 0 = s into the present part, 1 = time of the last scan, 2 = the input since then, 3 = where the next goes; then the values.
    private const int DeadHead = 4;

    /// <summary>Cells of a dead time.</summary>
    public const int DeadCells = DeadHead + Parts;

    public static PinValue DeadTime(PinValue @in, double time, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now), part = time / (Parts - 1);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        if (double.IsNaN(cells[2]))
        {
            (cells[0], cells[2], cells[3]) = (0, @in.Value, 0);
            cells[DeadHead..].Fill(@in.Value);
        }
        double was = cells[2];
        cells[2] = @in.Value;
        if (time <= 0) return Chosen(status, @in.Value);
        cells[0] += Math.Min(passed, 2 * time);
        while (IsOver(cells[0], part))
        {
            cells[0] = Math.Max(0, cells[0] - part);
            cells[DeadHead + (int)cells[3]] = was;
            cells[3] = ((int)cells[3] + 1) % Parts;
        }
        return Simple(status, cells[DeadHead + (int)cells[3]]);
    }

    // Cells: 0 = hours, 1 = time of the last scan, 2 = the input's last state, 3 = starts.
    public static PinValue RunHours(PinValue @in, PinValue reset, double now, Span<double> cells, ref PinValue starts)
    {
        double passed = Passed(ref cells[0], now);
        if (double.IsNaN(cells[0])) (cells[0], cells[3]) = (0, 0);
        if (cells[2] > 0.5) cells[0] += passed / 3600;
        if (LogicMath.Rose(@in, ref cells[2])) cells[3]++;
        else if (!@in.IsUsable) cells[2] = double.NaN;
        if (reset.IsUsableTrue) (cells[0], cells[3]) = (0, 0);
        starts = new(cells[3], StatusFlags.None);
        return new(cells[0], StatusFlags.None);
    }

    // Cells: 0 = total, 1 = time of the last scan, 2 = the rate since then.
    public static PinValue Total(PinValue @in, PinValue reset, double perSecond, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now);
        if (double.IsNaN(cells[0])) cells[0] = 0;
        if (!double.IsNaN(cells[2]) && double.IsFinite(perSecond)) cells[0] += cells[2] * perSecond * passed;
        cells[2] = @in.IsUsable ? @in.Value : double.NaN;
        if (reset.IsUsableTrue) cells[0] = 0;
        return new(cells[0], (@in.Status & Unusable) != 0 ? StatusFlags.Stale : @in.Status & (StatusFlags.Stale | StatusFlags.Overridden));
    }
}
