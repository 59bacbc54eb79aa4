using System.Runtime.CompilerServices;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Sequences;

/// <summary>
/// What each kind of block does, as stated in the comments of <see cref="BlockKind"/>: one method a kind, of the same name.
/// <see cref="PlanCode"/> ties parameters by name: a pin, a number or a choice of the block's definition (a choice is
/// true when it is not the first option, a whole number tells which it is); <c>…Connected</c>, whether the pin is;
/// <c>now</c>, running time in seconds; <c>cell</c>, the first of the block's memory cells, or <c>cells</c>, all of them; a
/// reference by the name of an output is that output, but for the first, which is what the method gives; <c>inputs</c>, the
/// connected inputs side by side; <c>pins</c>, all of them, open ones released, with <c>connected</c>, a bit for each that is.
/// Fresh cells are no number. A usable value is always a finite number.
/// </summary>
internal static class BlockMath
{
    internal const StatusFlags Unusable = StatusFlags.Fault | StatusFlags.Released;
    internal const MethodImplOptions Inline = MethodImplOptions.AggressiveInlining;

    /// <summary>What the controller has last heard, as a claim takes it: the mark of an alarm is the point's and not the value's. Blocks never pass that mark on.</summary>
    [MethodImpl(Inline)]
    public static PinValue Heard(PinValue reading) => reading.Unalarmed();

    /// <summary>A constant.</summary>
    [MethodImpl(Inline)]
    public static PinValue Well(ref PinValue slot) => new(slot.Value, StatusFlags.None);

    /// <summary>The same in another unit.</summary>
    [MethodImpl(Inline)]
    public static PinValue Converted(PinValue @in, double factor, double offset) => Simple(@in.Status, (@in.Value * factor) + offset);

    public static PinValue And(ReadOnlySpan<PinValue> inputs) => Logic(inputs, deciding: false);

    public static PinValue Or(ReadOnlySpan<PinValue> inputs) => Logic(inputs, deciding: true);

    public static PinValue Xor(ReadOnlySpan<PinValue> inputs)
    {
        if (inputs.Length == 0) return PinValue.Released;
        StatusFlags all = StatusFlags.None;
        int trues = 0;
        for (int i = 0; i < inputs.Length; i++)
        {
            all |= inputs[i].Status;
            if (inputs[i].IsTrue) trues++;
        }
        return Simple(all, trues & 1);
    }

    [MethodImpl(Inline)]
    public static PinValue Not(PinValue @in) => Simple(@in.Status, @in.IsTrue ? 0 : 1);

    [MethodImpl(Inline)]
    public static PinValue Gt(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value > in2.Value ? 1 : 0);

    [MethodImpl(Inline)]
    public static PinValue Ge(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value >= in2.Value ? 1 : 0);

    [MethodImpl(Inline)]
    public static PinValue Lt(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value < in2.Value ? 1 : 0);

    [MethodImpl(Inline)]
    public static PinValue Le(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value <= in2.Value ? 1 : 0);

    [MethodImpl(Inline)]
    public static PinValue Eq(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value == in2.Value ? 1 : 0);

    [MethodImpl(Inline)]
    public static PinValue Ne(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value != in2.Value ? 1 : 0);

    public static PinValue Add(ReadOnlySpan<PinValue> inputs)
    {
        StatusFlags all = inputs.Length == 0 ? StatusFlags.Released : StatusFlags.None;
        double sum = 0;
        for (int i = 0; i < inputs.Length; i++)
        {
            all |= inputs[i].Status;
            sum += inputs[i].Value;
        }
        return Simple(all, sum);
    }

    public static PinValue Mul(ReadOnlySpan<PinValue> inputs)
    {
        StatusFlags all = inputs.Length == 0 ? StatusFlags.Released : StatusFlags.None;
        double product = 1;
        for (int i = 0; i < inputs.Length; i++)
        {
            all |= inputs[i].Status;
            product *= inputs[i].Value;
        }
        return Simple(all, product);
    }

    [MethodImpl(Inline)]
    public static PinValue Sub(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value - in2.Value);

    /// <summary>A division by zero has no finite result, which <see cref="Simple"/> makes a fault.</summary>
    [MethodImpl(Inline)]
    public static PinValue Div(PinValue in1, PinValue in2) => Simple(in1.Status | in2.Status, in1.Value / in2.Value);

    public static PinValue Min(ReadOnlySpan<PinValue> inputs) => Speaking(inputs, BlockKind.Min);

    public static PinValue Max(ReadOnlySpan<PinValue> inputs) => Speaking(inputs, BlockKind.Max);

    public static PinValue Median(ReadOnlySpan<PinValue> inputs)
    {
        Span<double> sorted = stackalloc double[BlockType.MostInputs];
        StatusFlags all = StatusFlags.None;
        int speaking = 0;
        for (int i = 0; i < inputs.Length; i++)
        {
            if ((inputs[i].Status & StatusFlags.Fault) != 0) return PinValue.Fault;
            if ((inputs[i].Status & StatusFlags.Released) != 0) continue;
            all |= inputs[i].Status;
            int at = speaking++;
            while (at > 0 && sorted[at - 1] > inputs[i].Value) sorted[at] = sorted[--at];
            sorted[at] = inputs[i].Value;
        }
        return speaking == 0 ? PinValue.Released : Simple(all, (sorted[(speaking - 1) / 2] + sorted[speaking / 2]) / 2);
    }

    public static PinValue Average(ReadOnlySpan<PinValue> inputs) => Speaking(inputs, BlockKind.Average);

    [MethodImpl(Inline)]
    public static PinValue Abs(PinValue @in) => Simple(@in.Status, Math.Abs(@in.Value));

    [MethodImpl(Inline)]
    public static PinValue Limit(PinValue low, PinValue @in, PinValue high)
    {
        StatusFlags all = low.Status | @in.Status | high.Status;
        if (low.Value > high.Value && (all & Unusable) == 0) return PinValue.Fault;
        return Chosen(all, Within(@in.Value, low.Value, high.Value));
    }

    [MethodImpl(Inline)]
    public static PinValue Sel(PinValue g, PinValue in0, PinValue in1)
    {
        if ((g.Status & Unusable) != 0) return new(double.NaN, Settle(g.Status));
        PinValue chosen = g.IsTrue ? in1 : in0;
        return Chosen(chosen.Status | g.Status, chosen.Value);
    }

    public static PinValue Sr(PinValue s1, PinValue r, ref double cell)
    {
        bool q = s1.IsUsableTrue || (cell > 0.5 && !r.IsUsableTrue);
        cell = q ? 1 : 0;
        return new(cell, StatusFlags.None);
    }

    public static PinValue Rs(PinValue s, PinValue r1, ref double cell)
    {
        bool q = !r1.IsUsableTrue && (cell > 0.5 || s.IsUsableTrue);
        cell = q ? 1 : 0;
        return new(cell, StatusFlags.None);
    }

    public static PinValue RisingEdge(PinValue @in, ref double cell)
    {
        if (!@in.IsUsable) return new(double.NaN, Settle(@in.Status));
        bool rose = @in.IsTrue && cell <= 0.5;
        cell = @in.IsTrue ? 1 : 0;
        return new(rose ? 1 : 0, Settle(@in.Status));
    }

    public static PinValue FallingEdge(PinValue @in, ref double cell)
    {
        if (!@in.IsUsable) return new(double.NaN, Settle(@in.Status));
        bool fell = !@in.IsTrue && cell > 0.5;
        cell = @in.IsTrue ? 1 : 0;
        return new(fell ? 1 : 0, Settle(@in.Status));
    }

    // Cells of the three timers: 0 = elapsed seconds, 1 = time of the last scan, 2 = state.
    // A time is over within a microsecond of its length, so that ten scans of 0.1 s, summed in binary, make one second.
    public static PinValue Ton(PinValue @in, double pt, double now, ref double cell, ref PinValue et)
    {
        double passed = Passed(ref cell, now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return et = new(double.NaN, status);
        ref double elapsed = ref cell, counting = ref Unsafe.Add(ref cell, 2);
        // The time counts from the scan that first saw the input true.
        elapsed = @in.IsTrue && counting > 0.5 ? Math.Min(pt, elapsed + passed) : 0;
        counting = @in.IsTrue ? 1 : 0;
        et = new(elapsed, status);
        return new(@in.IsTrue && IsOver(elapsed, pt) ? 1 : 0, status);
    }

    public static PinValue Tof(PinValue @in, double pt, double now, ref double cell, ref PinValue et)
    {
        double passed = Passed(ref cell, now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return et = new(double.NaN, status);
        // State: 1 while the input is true, 0 once the hold has ended, 0.75 while holding.
        ref double elapsed = ref cell, state = ref Unsafe.Add(ref cell, 2);
        if (double.IsNaN(state)) state = 0;
        if (@in.IsTrue) (elapsed, state) = (0, 1);
        else if (state == 1) (elapsed, state) = (0, 0.75);
        else if (state == 0.75) elapsed += passed;
        if (state == 0.75 && IsOver(elapsed, pt)) (elapsed, state) = (pt, 0);
        et = new(double.IsNaN(elapsed) ? 0 : elapsed, status);
        return new(state > 0.5 ? 1 : 0, status);
    }

    public static PinValue Tp(PinValue @in, double pt, double now, ref double cell, ref PinValue et)
    {
        double passed = Passed(ref cell, now);
        StatusFlags status = Settle(@in.Status);
        bool usable = (status & Unusable) == 0;
        // Cell 2: a pulse is running; cell 3: the input's last usable state.
        ref double elapsed = ref cell, before = ref Unsafe.Add(ref cell, 3);
        bool running = Unsafe.Add(ref cell, 2) > 0.5;
        if (running)
        {
            elapsed = Math.Min(pt, elapsed + passed);
            if (IsOver(elapsed, pt)) running = false;
        }
        else if (usable && @in.IsTrue && before == 0) (running, elapsed) = (pt > 0, 0);
        else if (usable && !@in.IsTrue) elapsed = 0;
        if (usable) before = @in.IsTrue ? 1 : 0;
        Unsafe.Add(ref cell, 2) = running ? 1 : 0;
        StatusFlags result = running ? status & ~Unusable : status;
        if ((result & Unusable) != 0) return et = new(double.NaN, result);
        et = new(double.IsNaN(elapsed) ? 0 : elapsed, result);
        return new(running ? 1 : 0, result);
    }

    // Cells: 0 = state, 1 = since when.
    public static PinValue TwoPosition(PinValue measured, PinValue limit, double differential, bool acts, bool idle, double now, ref double cell)
    {
        StatusFlags status = Settle(measured.Status | limit.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        bool onFall = acts, commandOff = idle, was = cell > 0.5;
        bool over = onFall ? measured.Value < limit.Value : measured.Value > limit.Value;
        bool under = onFall ? measured.Value > limit.Value + differential : measured.Value < limit.Value - differential;
        bool on = over || (was && !under);
        ref double since = ref Unsafe.Add(ref cell, 1);
        if (on != was || double.IsNaN(since)) since = now;
        cell = on ? 1 : 0;
        if (on) return new(1, status);
        return commandOff ? new(0, status) : PinValue.Released;
    }

    public static PinValue Curve(PinValue @in, bool ends, ReadOnlySpan<TableRow> points)
    {
        double x = @in.Value;
        int at = 1;
        while (at < points.Length - 1 && x > points[at].X) at++;
        ref readonly TableRow from = ref points[at - 1], to = ref points[at];
        double share = (x - from.X) / (to.X - from.X);
        // At the ends themselves what is set is given, not what rounding makes of it.
        if (!ends && share <= 0) return Simple(@in.Status, from.Y);
        if (!ends && share >= 1) return Simple(@in.Status, to.Y);
        return Simple(@in.Status, from.Y + (share * (to.Y - from.Y)));
    }

    public static PinValue StateIs(PinValue @in, double state) => double.IsNaN(state) ? PinValue.Released : Simple(@in.Status, @in.Value == state ? 1 : 0);

    public static PinValue Scale(PinValue @in, double inLow, double inHigh, double outLow, double outHigh, bool ends)
    {
        double share = (@in.Value - inLow) / (inHigh - inLow);
        if (!ends) share = Math.Clamp(share, 0, 1);
        return Simple(@in.Status, outLow + (share * (outHigh - outLow)));
    }

    // Cells: 0 = integral part in %, 1 = time of last scan, 2 = smoothed measurement, 3 = last output, 4 = gain of the last scan with the sign of its action, 5 = derivative time of the last scan, 6 = its filter.
    // What goes on as in the last scan, without a derivative, is calculated in place; all else in full.
    [MethodImpl(Inline)]
    public static PinValue Pid(PinValue measured, PinValue setpoint, PinValue enable, PinValue track, PinValue forward, bool enableConnected, bool trackConnected, bool forwardConnected, double gain, double ti, double td, double filter, double low, double high, bool action, double now, ref double cell)
    {
        double passed = now - Unsafe.Add(ref cell, 1), signed = action ? gain : -gain, proportional = signed * (measured.Value - setpoint.Value);
        bool goesOn = (measured.Status | setpoint.Status) == StatusFlags.None && (!enableConnected || enable.IsUsableTrue);
        // A loop that has just begun has no last scan: not a number, which is neither above nor below anything.
        if (goesOn && !forwardConnected && (BitConverter.DoubleToInt64Bits(td) | BitConverter.DoubleToInt64Bits(Unsafe.Add(ref cell, 5))) == 0 && signed == Unsafe.Add(ref cell, 4) && passed > 0 && ti > 0)
        {
            double integral = cell, grown = integral + (proportional * passed / ti), output = proportional + grown;
            if (output > high)
            {
                if (grown > integral) grown = Within(high > proportional ? high - proportional : 0, integral, grown);
                output = high;
            }
            else if (output < low)
            {
                if (grown < integral) grown = Within(low < proportional ? low - proportional : 0, grown, integral);
                output = low;
            }
            if (!double.IsNaN(output))
            {
                cell = grown;
                Unsafe.Add(ref cell, 1) = now;
                Unsafe.Add(ref cell, 3) = output;
                return new(output, StatusFlags.None);
            }
        }
        return PidInFull(measured, setpoint, enable, track, forward, enableConnected, trackConnected, signed, ti, td, filter, low, high, now, ref cell);
    }

    [MethodImpl(MethodImplOptions.NoInlining)]
    private static PinValue PidInFull(PinValue measured, PinValue setpoint, PinValue enable, PinValue track, PinValue forward, bool enableConnected, bool trackConnected, double signed, double ti, double td, double filter, double low, double high, double now, ref double cell)
    {
        ref double last = ref Unsafe.Add(ref cell, 1);
        StatusFlags status = Settle(measured.Status | setpoint.Status);
        if ((status & Unusable) != 0 || (enableConnected && !enable.IsUsableTrue))
        {
            last = double.NaN;
            return new(double.NaN, (status & Unusable) != 0 ? status : StatusFlags.Released);
        }
        double integral = cell, passed = now - last, proportional = signed * (measured.Value - setpoint.Value), derivative = 0, direct = proportional + (forward.IsUsable ? forward.Value : 0);
        bool begins = double.IsNaN(passed), isNew = !(passed >= 0) || signed != Unsafe.Add(ref cell, 4) || td != Unsafe.Add(ref cell, 5) || (td > 0 && Math.Abs(filter - Unsafe.Add(ref cell, 6)) > 0);
        if (!(passed >= 0)) passed = 0;
        if (td > 0)
        {
            // The slope of the measurement behind a first-order filter, and with it the smoothed measurement.
            ref double smooth = ref Unsafe.Add(ref cell, 2);
            if (begins || !(Unsafe.Add(ref cell, 5) > 0) || double.IsNaN(smooth)) smooth = measured.Value;
            double slope = (measured.Value - smooth) / ((td * filter) + passed);
            derivative = signed * td * slope;
            smooth += slope * passed;
        }
        Unsafe.Add(ref cell, 6) = filter;
        if (isNew)
        {
            // What it goes on with when it begins, or when a parameter has changed.
            double from = !begins ? Unsafe.Add(ref cell, 3) : trackConnected && track.IsUsable ? track.Value : double.NaN;
            (Unsafe.Add(ref cell, 4), Unsafe.Add(ref cell, 5)) = (signed, td);
            integral = Resumed(cell, direct + derivative, from, low, high);
        }
        if (ti > 0)
        {
            double grown = integral + (proportional * passed / ti);
            // At a limit the integral only goes back towards nothing, never further beyond.
            if (direct + grown > high && grown > integral) grown = Within(high > direct ? high - direct : 0, integral, grown);
            else if (direct + grown < low && grown < integral) grown = Within(low < direct ? low - direct : 0, grown, integral);
            integral = grown;
        }
        else integral = 0;
        double output = Within(direct + integral + derivative, low, high);
        cell = double.IsFinite(integral) ? integral : 0;
        last = now;
        Unsafe.Add(ref cell, 3) = output;
        return Simple(status, output);
    }

    /// <summary>
    /// The integral, in %, with which the output goes on from <paramref name="from"/> (not a number: from the integral
    /// itself). Kept as it was where the output comes to the same anyway, as at a limit; never larger than the range of the
    /// output, so that it can leave a limit again.
    /// </summary>
    private static double Resumed(double integral, double rest, double from, double low, double high)
    {
        if (double.IsNaN(integral)) integral = 0;
        if (double.IsNaN(from)) return integral;
        from = Math.Clamp(from, low, high);
        if (Math.Clamp(rest + integral, low, high) == from) return integral;
        double most = Math.Max(high - low, Math.Max(Math.Abs(low), Math.Abs(high)));
        return Math.Clamp(from - rest, -most, most);
    }

    // Cells: 0 = state, 1 = since when.
    public static PinValue MinimumTimes(PinValue @in, double minOn, double minOff, double now, ref double cell)
    {
        ref double since = ref Unsafe.Add(ref cell, 1);
        bool wanted = @in.IsUsableTrue, state = cell > 0.5;
        if (double.IsNaN(since) || (wanted != state && IsOver(now - since, state ? minOn : minOff)))
        {
            cell = wanted ? 1 : 0;
            since = now;
        }
        return new(cell, @in.Status & (StatusFlags.Stale | StatusFlags.Overridden));
    }

    /// <summary>
    /// What a line that closes a loop carries into the next scan: what the pin gave; nothing said counts as off; a fault
    /// leaves what it carried, so that a loop is not caught in it.
    /// </summary>
    public static PinValue Carried(PinValue given, PinValue before, bool binary) =>
        given.IsUsable ? given : binary && (given.Status & StatusFlags.Fault) == 0 ? new(0, StatusFlags.None) : before;

    /// <summary>The common rule: fault before released; other marks are passed on.</summary>
    [MethodImpl(Inline)]
    internal static StatusFlags Settle(StatusFlags all)
    {
        if (all == StatusFlags.None) return all;
        if ((all & StatusFlags.Fault) != 0) return StatusFlags.Fault;
        return (all & StatusFlags.Released) != 0 ? StatusFlags.Released : all & (StatusFlags.Stale | StatusFlags.Overridden);
    }

    [MethodImpl(Inline)]
    internal static PinValue Simple(StatusFlags all, double value) =>
        all == StatusFlags.None && double.IsFinite(value) ? new(value, all) : Marked(all, value);

    /// <summary>As <see cref="Simple"/>, for a value that is one of the inputs and so finite when they are usable.</summary>
    [MethodImpl(Inline)]
    internal static PinValue Chosen(StatusFlags all, double value) => all == StatusFlags.None ? new(value, all) : Marked(all, value);

    private static PinValue Marked(StatusFlags all, double value)
    {
        StatusFlags status = Settle(all);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        return double.IsFinite(value) ? new(value, status) : PinValue.Fault;
    }

    private static PinValue Logic(ReadOnlySpan<PinValue> inputs, bool deciding)
    {
        if (inputs.Length == 0) return PinValue.Released;
        StatusFlags all = StatusFlags.None;
        for (int i = 0; i < inputs.Length; i++)
        {
            if (inputs[i].IsUsable && inputs[i].IsTrue == deciding) return new(deciding ? 1 : 0, inputs[i].Status & (StatusFlags.Stale | StatusFlags.Overridden));
            all |= inputs[i].Status;
        }
        return Simple(all, deciding ? 0 : 1);
    }

    private static PinValue Speaking(ReadOnlySpan<PinValue> inputs, BlockKind kind)
    {
        StatusFlags all = StatusFlags.None;
        int speaking = 0;
        double result = 0;
        for (int i = 0; i < inputs.Length; i++)
        {
            PinValue input = inputs[i];
            if ((input.Status & StatusFlags.Fault) != 0) return PinValue.Fault;
            if ((input.Status & StatusFlags.Released) != 0) continue;
            all |= input.Status;
            result = speaking == 0 ? input.Value : kind switch { BlockKind.Min => Math.Min(result, input.Value), BlockKind.Max => Math.Max(result, input.Value), _ => result + input.Value };
            speaking++;
        }
        if (speaking == 0) return PinValue.Released;
        return Simple(all, kind == BlockKind.Average ? result / speaking : result);
    }

    /// <summary>Whether something has been so for a length of time, in s: it counts from the scan that first saw it, whatever the scan period.</summary>
    internal static bool Lasts(bool isSo, double passed, double length, ref double cell)
    {
        cell = !isSo ? double.NaN : double.IsNaN(cell) ? 0 : cell + passed;
        return isSo && IsOver(cell, length);
    }

    /// <summary>Whether a time, in s, has come to its length.</summary>
    [MethodImpl(Inline)]
    internal static bool IsOver(double elapsed, double length) => elapsed > length - 1e-6;

    /// <summary>The value within two limits; what is not a number stays so. Decided by comparing, which the machine foresees, where <see cref="Math.Clamp(double, double, double)"/> waits for both.</summary>
    [MethodImpl(Inline)]
    internal static double Within(double value, double low, double high) => value < low ? low : value > high ? high : value;

    // Cells: 0 = integral part in %, 1 = time of the last scan.
    public static PinValue PiBand(PinValue measured, PinValue setpoint, PinValue enable, bool enableConnected, double band, double reset, bool action, double now, ref double cell)
    {
        double passed = Passed(ref cell, now), gain = 100 / band;
        StatusFlags status = Settle(measured.Status | setpoint.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        if (enableConnected && !enable.IsUsableTrue)
        {
            cell = 0;
            return new(0, status);
        }
        double error = action ? measured.Value - setpoint.Value : setpoint.Value - measured.Value;
        cell = reset > 0 ? Math.Clamp((double.IsNaN(cell) ? 0 : cell) + (gain * error * passed / (reset * 60)), 0, 100) : 0;
        return new(Math.Clamp((gain * error) + cell, 0, 100), status);
    }

    // Cells: 0 = state.
    public static PinValue TwoLimits(PinValue measured, double on, double off, ref double cell)
    {
        StatusFlags status = Settle(measured.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        bool was = cell > 0.5, isOn = on >= off ? measured.Value > on || (was && !(measured.Value < off)) : measured.Value < on || (was && !(measured.Value > off));
        cell = isOn ? 1 : 0;
        return new(cell, status);
    }

    // Cells: 0 = elapsed seconds, 1 = time of the last scan, 2 = input of the last scan, 3 = whether a pulse runs.
    public static PinValue MinuteTimer(PinValue @in, double minutes, bool mode, double now, ref double cell)
    {
        double passed = Passed(ref cell, now), length = minutes * 60;
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        ref double before = ref Unsafe.Add(ref cell, 2), runs = ref Unsafe.Add(ref cell, 3);
        bool isPulse = mode, began = @in.IsTrue && (isPulse ? before == 0 : !(before > 0.5)), goesOn = isPulse ? runs > 0.5 : @in.IsTrue;
        cell = began || !goesOn || double.IsNaN(cell) ? 0 : Math.Min(length, cell + passed);
        before = @in.IsTrue ? 1 : 0;
        bool isOver = IsOver(cell, length);
        runs = isPulse && (began || (goesOn && !isOver)) && length > 0 ? 1 : 0;
        return new(isPulse ? runs : @in.IsTrue && isOver ? 1 : 0, status);
    }

    internal static double Passed(ref double cell, double now)
    {
        ref double last = ref Unsafe.Add(ref cell, 1);
        double passed = double.IsNaN(last) ? 0 : Math.Max(0, now - last);
        last = now;
        return passed;
    }
}
