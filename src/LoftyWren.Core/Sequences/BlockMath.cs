using LoftyWren.Core.Status;

namespace LoftyWren.Core.Sequences;

/// <summary>What each kind of block does, as stated in the comments of <see cref="BlockKind"/>.</summary>
internal static class BlockMath
{
    private const StatusFlags Unusable = StatusFlags.Fault | StatusFlags.Released;

    public static (double, StatusFlags) Calculate(ref StepContext c) => c.Kind switch
    {
        BlockKind.And => Logic(ref c, deciding: false),
        BlockKind.Or => Logic(ref c, deciding: true),
        BlockKind.Xor => Xor(ref c),
        BlockKind.Not => Simple(c.Common(1), c.IsTrue(0) ? 0 : 1),
        BlockKind.Gt => Simple(c.Common(2), c.Value(0) > c.Value(1) ? 1 : 0),
        BlockKind.Ge => Simple(c.Common(2), c.Value(0) >= c.Value(1) ? 1 : 0),
        BlockKind.Lt => Simple(c.Common(2), c.Value(0) < c.Value(1) ? 1 : 0),
        BlockKind.Le => Simple(c.Common(2), c.Value(0) <= c.Value(1) ? 1 : 0),
        BlockKind.Eq => Simple(c.Common(2), c.Value(0) == c.Value(1) ? 1 : 0),
        BlockKind.Ne => Simple(c.Common(2), c.Value(0) != c.Value(1) ? 1 : 0),
        BlockKind.Add => Fold(ref c, 0, product: false),
        BlockKind.Mul => Fold(ref c, 1, product: true),
        BlockKind.Sub => Simple(c.Common(2), c.Value(0) - c.Value(1)),
        BlockKind.Div => c.Value(1) == 0 && (c.Common(2) & Unusable) == 0 ? (double.NaN, StatusFlags.Fault) : Simple(c.Common(2), c.Value(0) / c.Value(1)),
        BlockKind.Min or BlockKind.Max or BlockKind.Average => Speaking(ref c),
        BlockKind.Abs => Simple(c.Common(1), Math.Abs(c.Value(0))),
        BlockKind.Limit => c.Value(0) > c.Value(2) ? (double.NaN, StatusFlags.Fault) : Simple(c.Common(3), Math.Min(Math.Max(c.Value(1), c.Value(0)), c.Value(2))),
        BlockKind.Sel => Select(ref c),
        BlockKind.Sr => Latch(ref c, setWins: true),
        BlockKind.Rs => Latch(ref c, setWins: false),
        BlockKind.RisingEdge => Edge(ref c, rising: true),
        BlockKind.FallingEdge => Edge(ref c, rising: false),
        BlockKind.Ton => OnDelay(ref c),
        BlockKind.Tof => OffDelay(ref c),
        BlockKind.Tp => Pulse(ref c),
        BlockKind.TwoPosition => TwoPosition(ref c),
        BlockKind.Scale => Scale(ref c),
        BlockKind.Pid => Pid(ref c),
        BlockKind.MinimumTimes => MinimumTimes(ref c),
        _ => (double.NaN, StatusFlags.Fault),
    };

    private static (double, StatusFlags) Simple(StatusFlags status, double value)
    {
        if ((status & Unusable) != 0) return (double.NaN, status);
        return double.IsFinite(value) ? (value, status) : (double.NaN, StatusFlags.Fault);
    }

    private static (double, StatusFlags) Logic(ref StepContext c, bool deciding)
    {
        StatusFlags all = StatusFlags.None;
        int connected = 0;
        for (int i = 0; i < c.Count; i++)
        {
            if (!c.IsConnected(i)) continue;
            connected++;
            if (c.IsUsable(i) && c.IsTrue(i) == deciding) return (deciding ? 1 : 0, c.Status(i) & (StatusFlags.Stale | StatusFlags.Overridden));
            all |= c.Status(i);
        }
        return connected == 0 ? (double.NaN, StatusFlags.Released) : Simple(StepContext.Settle(all), deciding ? 0 : 1);
    }

    private static (double, StatusFlags) Xor(ref StepContext c)
    {
        StatusFlags all = StatusFlags.None;
        int connected = 0, trues = 0;
        for (int i = 0; i < c.Count; i++)
        {
            if (!c.IsConnected(i)) continue;
            connected++;
            all |= c.Status(i);
            if (c.IsTrue(i)) trues++;
        }
        return connected == 0 ? (double.NaN, StatusFlags.Released) : Simple(StepContext.Settle(all), trues & 1);
    }

    private static (double, StatusFlags) Fold(ref StepContext c, double start, bool product)
    {
        StatusFlags all = StatusFlags.None;
        int connected = 0;
        double result = start;
        for (int i = 0; i < c.Count; i++)
        {
            if (!c.IsConnected(i)) continue;
            connected++;
            all |= c.Status(i);
            if (product) result *= c.Value(i);
            else result += c.Value(i);
        }
        return connected == 0 ? (double.NaN, StatusFlags.Released) : Simple(StepContext.Settle(all), result);
    }

    private static (double, StatusFlags) Speaking(ref StepContext c)
    {
        StatusFlags all = StatusFlags.None;
        int speaking = 0;
        double result = 0;
        for (int i = 0; i < c.Count; i++)
        {
            if (!c.IsConnected(i)) continue;
            StatusFlags status = c.Status(i);
            if ((status & StatusFlags.Fault) != 0) return (double.NaN, StatusFlags.Fault);
            if ((status & StatusFlags.Released) != 0) continue;
            all |= status;
            double value = c.Value(i);
            result = speaking == 0 ? value : c.Kind switch { BlockKind.Min => Math.Min(result, value), BlockKind.Max => Math.Max(result, value), _ => result + value };
            speaking++;
        }
        if (speaking == 0) return (double.NaN, StatusFlags.Released);
        return Simple(StepContext.Settle(all), c.Kind == BlockKind.Average ? result / speaking : result);
    }

    private static (double, StatusFlags) Select(ref StepContext c)
    {
        if (!c.IsUsable(0)) return (double.NaN, c.Common(1));
        int chosen = c.IsTrue(0) ? 2 : 1;
        StatusFlags status = StepContext.Settle(c.Status(chosen) | (c.Status(0) & ~StatusFlags.InAlarm));
        return Simple(status, c.Value(chosen));
    }

    private static (double, StatusFlags) Latch(ref StepContext c, bool setWins)
    {
        bool set = c.IsUsable(0) && c.IsTrue(0), reset = c.IsUsable(1) && c.IsTrue(1);
        bool q = c.Cell(0) > 0.5;
        q = setWins ? set || (q && !reset) : !reset && (q || set);
        c.Cell(0) = q ? 1 : 0;
        return (q ? 1 : 0, StatusFlags.None);
    }

    private static (double, StatusFlags) Edge(ref StepContext c, bool rising)
    {
        if (!c.IsUsable(0)) return (double.NaN, c.Common(1));
        bool now = c.IsTrue(0), known = !double.IsNaN(c.Cell(0)), before = c.Cell(0) > 0.5;
        c.Cell(0) = now ? 1 : 0;
        return (known && (rising ? now && !before : !now && before) ? 1 : 0, c.Common(1));
    }

    // Cells of the three timers: 0 = elapsed seconds, 1 = time of the last scan, 2 = state.
    private static double Passed(ref StepContext c)
    {
        double last = c.Cell(1);
        c.Cell(1) = c.Now;
        return double.IsNaN(last) ? 0 : Math.Max(0, c.Now - last);
    }

    private static (double, StatusFlags) OnDelay(ref StepContext c)
    {
        double passed = Passed(ref c), pt = c.Number(0);
        StatusFlags status = c.Common(1);
        if ((status & Unusable) != 0)
        {
            c.SetSecondOutput(double.NaN, status);
            return (double.NaN, status);
        }
        // The time counts from the scan that first saw the input true.
        bool counting = c.Cell(2) > 0.5;
        c.Cell(0) = !c.IsTrue(0) ? 0 : counting ? Math.Min(pt, c.Cell(0) + passed) : 0;
        c.Cell(2) = c.IsTrue(0) ? 1 : 0;
        c.SetSecondOutput(c.Cell(0), status);
        return (c.IsTrue(0) && c.Cell(0) >= pt ? 1 : 0, status);
    }

    private static (double, StatusFlags) OffDelay(ref StepContext c)
    {
        double passed = Passed(ref c), pt = c.Number(0);
        StatusFlags status = c.Common(1);
        if ((status & Unusable) != 0)
        {
            c.SetSecondOutput(double.NaN, status);
            return (double.NaN, status);
        }
        // Cell 2: 1 while the input is true, 0 once the hold has ended, 0.75 while holding.
        double state = double.IsNaN(c.Cell(2)) ? 0 : c.Cell(2);
        if (c.IsTrue(0)) (c.Cell(0), state) = (0, 1);
        else if (state == 1) (c.Cell(0), state) = (0, 0.75);
        else if (state == 0.75) c.Cell(0) += passed;
        if (state == 0.75 && c.Cell(0) >= pt) (c.Cell(0), state) = (pt, 0);
        c.Cell(2) = state;
        c.SetSecondOutput(double.IsNaN(c.Cell(0)) ? 0 : c.Cell(0), status);
        return (state > 0.5 ? 1 : 0, status);
    }

    private static (double, StatusFlags) Pulse(ref StepContext c)
    {
        double passed = Passed(ref c), pt = c.Number(0);
        StatusFlags status = c.Common(1);
        bool usable = (status & Unusable) == 0;
        // Cell 2: a pulse is running; cell 3: the input's last usable state.
        bool running = c.Cell(2) > 0.5;
        if (running)
        {
            c.Cell(0) = Math.Min(pt, c.Cell(0) + passed);
            if (c.Cell(0) >= pt) running = false;
        }
        else if (usable && c.IsTrue(0) && c.Cell(3) == 0) (running, c.Cell(0)) = (pt > 0, 0);
        else if (usable && !c.IsTrue(0)) c.Cell(0) = 0;
        if (usable) c.Cell(3) = c.IsTrue(0) ? 1 : 0;
        c.Cell(2) = running ? 1 : 0;
        StatusFlags result = running ? status & ~Unusable : status;
        c.SetSecondOutput((result & Unusable) != 0 ? double.NaN : double.IsNaN(c.Cell(0)) ? 0 : c.Cell(0), result);
        return (result & Unusable) != 0 ? (double.NaN, result) : (running ? 1 : 0, result);
    }

    private static (double, StatusFlags) TwoPosition(ref StepContext c)
    {
        StatusFlags status = c.Common(2);
        if ((status & Unusable) != 0) return (double.NaN, status);
        double measured = c.Value(0), limit = c.Value(1), differential = c.Number(0);
        bool onFall = c.IsOther(0), commandOff = c.IsOther(1), on = c.Cell(0) > 0.5;
        bool over = onFall ? measured < limit : measured > limit;
        bool under = onFall ? measured > limit + differential : measured < limit - differential;
        on = over || (on && !under);
        if (on != c.Cell(0) > 0.5 || double.IsNaN(c.Cell(1))) c.Cell(1) = c.Now;
        c.Cell(0) = on ? 1 : 0;
        if (on) return (1, status);
        return commandOff ? (0, status) : (double.NaN, StatusFlags.Released);
    }

    private static (double, StatusFlags) Scale(ref StepContext c)
    {
        double share = (c.Value(0) - c.Number(0)) / (c.Number(1) - c.Number(0));
        if (!c.IsOther(0)) share = Math.Clamp(share, 0, 1);
        return Simple(c.Common(1), c.Number(2) + (share * (c.Number(3) - c.Number(2))));
    }

    // Cells: 0 = integral part in %, 1 = time of last scan, 2 = last measurement, 3 = last output.
    private static (double, StatusFlags) Pid(ref StepContext c)
    {
        StatusFlags status = c.Common(2);
        bool enabled = !c.IsConnected(2) || (c.IsUsable(2) && c.IsTrue(2));
        if ((status & Unusable) != 0 || !enabled)
        {
            c.Cell(1) = double.NaN;
            return (double.NaN, (status & Unusable) != 0 ? status : StatusFlags.Released);
        }
        double gain = c.Number(0), ti = c.Number(1), td = c.Number(2), low = c.Number(3), high = c.Number(4);
        bool direct = c.IsOther(0);
        double measured = c.Value(0), error = direct ? measured - c.Value(1) : c.Value(1) - measured;
        double proportional = gain * error;
        if (double.IsNaN(c.Cell(1)))
        {
            double from = c.IsConnected(3) && c.IsUsable(3) ? c.Value(3) : c.Cell(3);
            c.Cell(0) = double.IsNaN(from) ? 0 : Math.Clamp(from, low, high) - proportional;
            if (ti == 0) c.Cell(0) = 0;
            c.Cell(2) = measured;
        }
        double passed = double.IsNaN(c.Cell(1)) ? 0 : Math.Max(0, c.Now - c.Cell(1));
        if (ti > 0)
        {
            double integral = c.Cell(0) + (proportional * passed / ti);
            // Never grows further beyond a limit that the output has already met.
            if (proportional + integral > high && integral > c.Cell(0)) integral = Math.Max(c.Cell(0), high - proportional);
            else if (proportional + integral < low && integral < c.Cell(0)) integral = Math.Min(c.Cell(0), low - proportional);
            c.Cell(0) = integral;
        }
        double slope = passed > 0 ? (measured - c.Cell(2)) / passed : 0;
        double output = Math.Clamp(proportional + c.Cell(0) + (gain * td * (direct ? slope : -slope)), low, high);
        c.Cell(1) = c.Now;
        c.Cell(2) = measured;
        c.Cell(3) = output;
        return Simple(status, output);
    }

    // Cells: 0 = state, 1 = since when.
    private static (double, StatusFlags) MinimumTimes(ref StepContext c)
    {
        StatusFlags status = c.Common(1);
        if ((status & Unusable) != 0) return (double.NaN, status);
        bool wanted = c.IsTrue(0), first = double.IsNaN(c.Cell(1)), state = c.Cell(0) > 0.5;
        if (first || (wanted != state && c.Now - c.Cell(1) >= (state ? c.Number(0) : c.Number(1))))
        {
            c.Cell(0) = wanted ? 1 : 0;
            c.Cell(1) = c.Now;
        }
        return (c.Cell(0), status);
    }
}
