using LoftyWren.Core.Status;
using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>What blocks do that shape a signal, go in stages or share work out; bound as <see cref="BlockMath"/> is.</summary>
internal static class ControlMath
{
    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        Pin[] demand = [In("demand", "demand")];
        Pin[] stages(int n) => [.. Enumerable.Range(1, n).Select(i => On($"s{i}", $"stage {i}"))];
        void percent(BlockTyping t, string pin) => t.As(pin, "%");
        yield return Plain(BlockKind.Filter, "Filter", "first order filter smooth damp noise lag low pass", "Control", AnalogIn, AnalogOut, true, [new("time", "time constant", "s", 60, 0, 86_400)]) with { Infers = BlockTyping.Alike, Cells = 2, Example = new("°C", 18, 26) };
        yield return Plain(BlockKind.Ramp, "Ramp", "ramp rate limit slowly setpoint ramp soft start slew", "Control", AnalogIn, AnalogOut, true, [new("up", "up by at most, a minute (0: at once)", "difference", 1, 0, 1e6), new("down", "down by at most, a minute (0: at once)", "difference", 1, 0, 1e6)]) with { Infers = BlockTyping.Alike, Cells = 2, Example = new("°C", 18, 26) };
        yield return Plain(BlockKind.Derivative, "Rate of change", "derivative rate of change slope rising falling trend fast", "Control", AnalogIn, AnalogOut, true, [new("filter", "filter", "s", 60, 0.1, 86_400), new("per", "change in", "s", 3600, 0.1, 86_400)]) with { Infers = BlockTyping.Slope, Cells = 3, Example = new("°C", 18, 26) };
        yield return Plain(BlockKind.Deadband, "Follow beyond", "deadband do not chatter ignore small changes hysteresis follow quiet", "Control", AnalogIn, AnalogOut, true, [new("by", "follows beyond", "difference", 0.5, 0, 1e6)]) with { Infers = BlockTyping.Alike, Cells = 1, Example = new("°C", 18, 22) };
        yield return Plain(BlockKind.ThreePosition, "Three-position", "three position raise lower up down dead zone on off off", "Control", [In("measured", "measured"), In("setpoint", "setpoint")], [On("out", "raise"), On("lower", "lower")], true,
            [new("zone", "dead zone", "difference", 2, 0, 1e6), new("differential", "differential", "difference", 0.5, 0, 1e6)], [Choice("action", "raises when", ("below", "below"), ("above", "above"))]) with
        { Infers = t => t.Agree(t.Types, t.Types.GetValueOrDefault("measured", t.First)), Cells = 1, Example = new("°C", 18, 26) };
        yield return Plain(BlockKind.Stages, "Stages", "stages staged control steps boilers heaters cascade demand", "Control", demand, [Out("out", "stages on", ""), .. stages(4)], true, [new("stages", "stages", "", 2, 1, 4), new("interval", "from stage to stage", "s", 300, 0, 86_400)]) with
        { Infers = t => percent(t, "demand"), Cells = 3, How = t => $": at most one stage in {t.Length("interval")}", Example = new("%", 0, 110) };
        yield return Plain(BlockKind.SplitRange, "Heat, air, cool", "sequence heating mixed air cooling split range dead zone one after the other economiser", "Control", [In("in", "demand"), In("air", "free cooling", PinKind.Binary, false)], [Out("out", "heating", "%"), Out("outside", "outside air", "%"), Out("cool", "cooling", "%")], false,
            [new("dead", "dead zone", "%", 10, 0, 100), new("share", "of it for outside air", "%", 50, 0, 100)]) with
        { Infers = t => percent(t, "in"), Example = new("%", -100, 100) };
        yield return Plain(BlockKind.FanStages, "Fan stages", "fan stages speeds three speed hysteresis kick start fan coil", "Drives", demand, [Out("out", "stage", ""), .. stages(3)], true, [new("stages", "stages", "", 3, 1, 3), new("differential", "differential", "%", 8, 1, 30), new("kick", "starts on the highest for", "s", 3, 0, 60)]) with { Infers = t => percent(t, "demand"), Cells = 3, Example = new("%", 0, 100) };
        yield return Plain(BlockKind.Rotation, "Rotation", "rotation lead lag standby duty run hours fault changeover pumps alternate", "Plant", [In("wanted", "how many"), .. Enumerable.Range(1, Machines).Select(i => In($"fault{i}", $"fault {i}", PinKind.Binary, false))], [Out("out", "run", ""), .. Enumerable.Range(1, Machines).Select(i => On($"run{i}", $"run {i}"))], true,
            [new("machines", "machines", "", 2, 1, Machines), new("change", "changes over after (0: never)", "h", 168, 0, 100_000)]) with
        { Infers = t => t.Bare("wanted"), Cells = 10, How = t => $": run hours {string.Join(", ", Enumerable.Range(0, (int)t.Setting("machines")).Select(i => $"{(double.IsNaN(t.Memory(i)) ? 0 : t.Memory(i)):0.0}"))}", Example = new("", 0, 2) };
        yield return Plain(BlockKind.LoadShed, "Load shedding", "load shedding peak demand limit power shed restore", "Plant", [In("power", "power"), In("limit", "limit")], [Out("out", "shed", ""), .. Enumerable.Range(1, 4).Select(i => On($"s{i}", $"shed {i}"))], true,
            [new("loads", "loads", "", 2, 1, 4), new("after", "sheds after", "s", 60, 0, 86_400), new("differential", "restores below by", "difference", 5, 0, 1e6), new("restore", "restores after", "s", 600, 0, 86_400)]) with
        { Infers = t => t.Agree(t.Types, t.Types.GetValueOrDefault("power", t.First)), Cells = 4, Speaks = Always, Example = new("kW", 60, 120) { Others = [("limit", "kW", 100, 100)] } };
    }

    // Cells: 0 = output, 1 = time of the last scan.
    public static PinValue Filter(PinValue @in, double time, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        double was = double.IsNaN(cells[0]) ? @in.Value : cells[0];
        cells[0] = time > 0 ? was + ((@in.Value - was) * (1 - Math.Exp(-passed / time))) : @in.Value;
        return Simple(status, cells[0]);
    }

    // Cells: 0 = output, 1 = time of the last scan.
    public static PinValue Ramp(PinValue @in, double up, double down, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        double was = double.IsNaN(cells[0]) ? @in.Value : cells[0];
        double highest = up > 0 ? was + (up * passed / 60) : double.PositiveInfinity, lowest = down > 0 ? was - (down * passed / 60) : double.NegativeInfinity;
        cells[0] = Within(@in.Value, lowest, highest);
        return Chosen(status, cells[0]);
    }

    // Cells: 0 = filtered slope per s, 1 = time of the last scan, 2 = input of the last scan.
    public static PinValue Derivative(PinValue @in, double filter, double per, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0)
        {
            // What it was before it failed is no place to measure a slope from.
            cells[2] = double.NaN;
            return new(double.NaN, status);
        }
        if (double.IsNaN(cells[0])) cells[0] = 0;
        // Exact for an input that goes in a straight line from scan to scan.
        if (passed > 0 && !double.IsNaN(cells[2])) cells[0] += (((@in.Value - cells[2]) / passed) - cells[0]) * (1 - Math.Exp(-passed / filter));
        cells[2] = @in.Value;
        return Simple(status, cells[0] * per);
    }

    // Cells: 0 = output.
    public static PinValue Deadband(PinValue @in, double by, Span<double> cells)
    {
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        if (!(Math.Abs(@in.Value - cells[0]) <= by)) cells[0] = @in.Value;
        return Chosen(status, cells[0]);
    }

    // Cells: 0 = direction.
    public static PinValue ThreePosition(PinValue measured, PinValue setpoint, double zone, double differential, bool action, Span<double> cells, ref PinValue lower)
    {
        StatusFlags status = Settle(measured.Status | setpoint.Status);
        if ((status & Unusable) != 0) return lower = new(double.NaN, status);
        double error = action ? measured.Value - setpoint.Value : setpoint.Value - measured.Value, beyond = zone / 2, back = Math.Max(0, beyond - differential);
        double way = double.IsNaN(cells[0]) ? 0 : cells[0];
        if (way > 0 && error <= back || (way < 0 && error >= -back)) way = 0;
        if (error > beyond) way = 1;
        else if (error < -beyond) way = -1;
        cells[0] = way;
        lower = new(way < 0 ? 1 : 0, status);
        return new(way > 0 ? 1 : 0, status);
    }

    // Cells: 0 = stage, 1 = time of the last scan, 2 = s since it changed.
    public static PinValue Stages(PinValue demand, double stages, double interval, double now, Span<double> cells, ref PinValue s1, ref PinValue s2, ref PinValue s3, ref PinValue s4)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(demand.Status);
        if (double.IsNaN(cells[0])) (cells[0], cells[2]) = (0, double.MaxValue);
        cells[2] = Math.Min(1e12, cells[2] + passed);
        if ((status & Unusable) != 0) return s1 = s2 = s3 = s4 = new(double.NaN, status);
        double step = 100 / stages, stage = Math.Min(cells[0], stages);
        // On at the upper end of its share of the demand, off at the lower: the share itself keeps it from chattering.
        if (IsOver(cells[2], interval))
        {
            if (stage < stages && demand.Value >= ((stage + 1) * step) - 1e-9) stage++;
            else if (stage > 0 && demand.Value <= ((stage - 1) * step) + 1e-9) stage--;
        }
        if (stage != cells[0]) (cells[0], cells[2]) = (stage, 0);
        s1 = new(stage >= 1 ? 1 : 0, status);
        s2 = new(stage >= 2 ? 1 : 0, status);
        s3 = new(stage >= 3 ? 1 : 0, status);
        s4 = new(stage >= 4 ? 1 : 0, status);
        return new(stage, status);
    }

    public static PinValue SplitRange(PinValue @in, PinValue air, bool airConnected, double dead, double share, ref PinValue outside, ref PinValue cool)
    {
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return outside = cool = new(double.NaN, status);
        double half = dead / 2, span = 100 - half, wants = @in.Value;
        double warm = Math.Clamp((-wants - half) / span * 100, 0, 100), cold = Math.Clamp((wants - half) / span * 100, 0, 100);
        bool free = airConnected && air.IsUsableTrue && share > 0;
        outside = new(free ? Math.Min(100, cold / share * 100) : 0, status);
        cool = new(!free ? cold : share >= 100 ? 0 : Math.Max(0, (cold - share) / (100 - share) * 100), status);
        return new(warm, status);
    }

    // Cells: 0 = stage, 1 = time of the last scan, 2 = s of the kick that are left.
    public static PinValue FanStages(PinValue demand, double stages, double differential, double kick, double now, Span<double> cells, ref PinValue s1, ref PinValue s2, ref PinValue s3)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(demand.Status);
        if (double.IsNaN(cells[0])) (cells[0], cells[2]) = (0, 0);
        cells[2] = Math.Max(0, cells[2] - passed);
        if ((status & Unusable) != 0) return s1 = s2 = s3 = new(double.NaN, status);
        double step = 100 / stages, stage = Math.Min(cells[0], stages);
        bool stood = stage == 0;
        while (stage < stages && demand.Value > (stage * step) + differential) stage++;
        while (stage > 0 && demand.Value <= (stage - 1) * step) stage--;
        if (stood && stage > 0 && stage < stages) cells[2] = kick;
        if (stage == 0) cells[2] = 0;
        cells[0] = stage;
        double runs = cells[2] > 1e-6 ? stages : stage;
        s1 = new(runs == 1 ? 1 : 0, status);
        s2 = new(runs == 2 ? 1 : 0, status);
        s3 = new(runs == 3 ? 1 : 0, status);
        return new(runs, status);
    }

    /// <summary>How many machines take turns at most.</summary>
    public const int Machines = 4;

    // Cells: 0 to 3 = run hours, 4 to 7 = whether each runs, 8 and 9 = a pair of which the second is the time of the last scan.
    public static PinValue Rotation(PinValue wanted, PinValue fault1, PinValue fault2, PinValue fault3, PinValue fault4, double machines, double change, double now, Span<double> cells, ref PinValue run1, ref PinValue run2, ref PinValue run3, ref PinValue run4)
    {
        double passed = Passed(ref cells[8], now);
        Span<bool> able = [machines >= 1 && !fault1.IsUsableTrue, machines >= 2 && !fault2.IsUsableTrue, machines >= 3 && !fault3.IsUsableTrue, machines >= 4 && !fault4.IsUsableTrue];
        StatusFlags status = Settle(wanted.Status);
        bool says = (status & Unusable) == 0;
        Span<double> hours = cells[..Machines], runs = cells.Slice(Machines, Machines);
        int running = 0, ready = 0;
        for (int i = 0; i < Machines; i++)
        {
            if (double.IsNaN(hours[i])) (hours[i], runs[i]) = (0, 0);
            // What it does not say is not known to run.
            if (runs[i] > 0.5 && says) hours[i] += passed / 3600;
            if (!able[i]) runs[i] = 0;
            if (able[i]) ready++;
            if (runs[i] > 0.5) running++;
        }
        if (says)
        {
            int want = (int)Math.Clamp(Math.Round(wanted.Value, MidpointRounding.ToEven), 0, ready);
            for (; running < want; running++) runs[Pick(hours, runs, able, isRunning: false)] = 1;
            for (; running > want; running--) runs[Pick(hours, runs, able, isRunning: true)] = 0;
            if (change > 0 && running > 0 && Pick(hours, runs, able, isRunning: false) is >= 0 and var fresh && Pick(hours, runs, able, isRunning: true) is var tired && hours[tired] - hours[fresh] >= change)
                (runs[tired], runs[fresh]) = (0, 1);
        }
        run1 = says ? new(runs[0], status) : new(double.NaN, status);
        run2 = says ? new(runs[1], status) : new(double.NaN, status);
        run3 = says ? new(runs[2], status) : new(double.NaN, status);
        run4 = says ? new(runs[3], status) : new(double.NaN, status);
        return says ? new(running, status) : new(double.NaN, status);
    }

    /// <summary>Of those that can: the one that stands and has the fewest hours, or that runs and has the most; −1 for none.</summary>
    private static int Pick(ReadOnlySpan<double> hours, ReadOnlySpan<double> runs, ReadOnlySpan<bool> able, bool isRunning)
    {
        int best = -1;
        for (int i = 0; i < hours.Length; i++)
        {
            if (able[i] && runs[i] > 0.5 == isRunning && (best < 0 || (isRunning ? hours[i] > hours[best] : hours[i] < hours[best]))) best = i;
        }
        return best;
    }

    // Cells: 0 = how many are shed, 1 = time of the last scan, 2 = for how long it has been over, 3 = for how long well under, s.
    public static PinValue LoadShed(PinValue power, PinValue limit, double loads, double after, double differential, double restore, double now, Span<double> cells, ref PinValue s1, ref PinValue s2, ref PinValue s3, ref PinValue s4)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(power.Status | limit.Status);
        if (double.IsNaN(cells[0])) cells[0] = 0;
        double shed = Math.Min(cells[0], loads);
        bool says = (status & Unusable) == 0;
        if (says)
        {
            bool isOver = Lasts(power.Value > limit.Value, passed, after, ref cells[2]), isUnder = Lasts(power.Value < limit.Value - differential, passed, restore, ref cells[3]);
            if (isOver && shed < loads) (shed, cells[2]) = (shed + 1, 0);
            else if (isUnder && shed > 0) (shed, cells[3]) = (shed - 1, 0);
        }
        cells[0] = shed;
        StatusFlags marks = says ? status : StatusFlags.Stale;
        s1 = new(shed >= 1 ? 1 : 0, marks);
        s2 = new(shed >= 2 ? 1 : 0, marks);
        s3 = new(shed >= 3 ? 1 : 0, marks);
        s4 = new(shed >= 4 ? 1 : 0, marks);
        return new(shed, marks);
    }
}
