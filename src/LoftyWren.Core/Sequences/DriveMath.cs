using LoftyWren.Core.Status;
using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>What blocks do that drive valves and heaters; bound as <see cref="BlockMath"/> is.</summary>
internal static class DriveMath
{
    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        yield return Plain(BlockKind.PulseWidth, "Pulse width", "pulse width pwm time proportional thermal valve heater share of period", "Drives", AnalogIn, BinaryOut, true, [new("period", "period", "s", 600, 1, 86_400), new("least", "shortest on or off", "s", 10, 0, 3600)]) with
        { Infers = t => t.As("in", "%"), Cells = 3, Refuses = (type, block) => type.Number(block, "least") * 2 > type.Number(block, "period") ? $"The shortest on or off of ‘{block.Called()}’ is more than half its period, so that it could never be both on and off." : null, Example = new("%", 10, 90) };
        yield return Plain(BlockKind.ThreePointDrive, "Three-point drive", "three point valve drive open close travel time actuator floating", "Drives", AnalogIn, [On("out", "open"), On("close", "close"), Out("position", "position", "%")], true, [new("travel", "travel time", "s", 120, 1, 3600), new("zone", "moves beyond", "%", 2, 0.1, 50)]) with
        { Infers = t => t.As("in", "%"), Cells = 5, How = t => $": the drive is taken to be at {t.Memory(0):0} %", Example = new("%", 0, 100) };
        yield return Plain(BlockKind.ValveCurve, "Valve characteristic", "valve characteristic equal percentage linear quick opening linearise", "Drives", AnalogIn, [Out("out", "out", "%")], false, [new("ratio", "rangeability", "", 50, 2, 1000)],
            [Choice("characteristic", "characteristic", ("equal", "equal percentage"), ("linear", "linear"), ("quick", "quick opening")), Choice("gives", "gives", ("lift", "lift for a flow"), ("flow", "flow at a lift"))]) with
        { Infers = t => t.As("in", "%"), Example = new("%", 0, 100) };
    }

    // Cells: 0 = s into the present period, 1 = time of the last scan, 2 = for how long it is on in it, s.
    public static PinValue PulseWidth(PinValue @in, double period, double least, double now, Span<double> cells)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0)
        {
            cells[2] = double.NaN;
            return new(double.NaN, status);
        }
        cells[0] += passed;
        if (double.IsNaN(cells[2]) || IsOver(cells[0], period))
        {
            cells[0] = double.IsNaN(cells[2]) ? 0 : Math.Max(0, (cells[0] + 1e-6) % period);
            double on = Math.Clamp(@in.Value, 0, 100) / 100 * period;
            cells[2] = on < least ? 0 : on > period - least ? period : on;
        }
        return new(!IsOver(cells[0], cells[2]) ? 1 : 0, status);
    }

    /// <summary>How much further than its whole way a drive is driven at an end, as a share of its travel time: there it finds itself again.</summary>
    public const double Beyond = 0.1;

    // Cells: 0 = where it is, %; 1 = time of the last scan; 2 = the way it moves; 3 = s beyond the end.
    public static PinValue ThreePointDrive(PinValue @in, double travel, double zone, double now, Span<double> cells, ref PinValue close, ref PinValue position)
    {
        double passed = Passed(ref cells[0], now);
        StatusFlags status = Settle(@in.Status);
        // Nobody knows where it is: it is taken to be open, driven shut for its whole way and beyond.
        if (double.IsNaN(cells[2])) (cells[0], cells[2], cells[3]) = (100, 0, 0);
        double moved = cells[0] + (cells[2] * passed / travel * 100);
        if (moved <= 0 || moved >= 100) cells[3] += cells[2] == 0 ? 0 : Math.Abs(moved - Math.Clamp(moved, 0, 100)) / 100 * travel;
        cells[0] = Math.Clamp(moved, 0, 100);
        position = new(cells[0], status & ~Unusable);
        if ((status & Unusable) != 0)
        {
            cells[2] = 0;
            return close = new(double.NaN, status);
        }
        if (double.IsNaN(cells[4])) cells[4] = 1;
        double wants = cells[4] > 0.5 ? 0 : Math.Clamp(@in.Value, 0, 100), off = wants - cells[0], way;
        bool atEnd = wants is 0 or 100;
        if (atEnd && Math.Abs(off) < 1e-9)
        {
            bool isThere = IsOver(cells[3], Beyond * travel);
            way = isThere ? 0 : wants == 0 ? -1 : 1;
            if (isThere) cells[4] = 0;
        }
        else
        {
            cells[3] = 0;
            bool goesOn = cells[2] != 0 && Math.Sign(off) == cells[2];
            way = atEnd || goesOn && Math.Abs(off) > 1e-9 || Math.Abs(off) > zone ? Math.Sign(off) : 0;
        }
        cells[2] = way;
        close = new(way < 0 ? 1 : 0, status);
        return new(way > 0 ? 1 : 0, status);
    }

    public static PinValue ValveCurve(PinValue @in, double ratio, int characteristic, bool gives)
    {
        double x = Math.Clamp(@in.Value, 0, 100) / 100;
        double y = characteristic switch
        {
            // IEC 60534-2-4: equal percentage, from the inherent rangeability.
            0 when gives => x <= 0 ? 0 : Math.Pow(ratio, x - 1),
            0 => x <= 0 ? 0 : Math.Max(0, 1 + (Math.Log(x) / Math.Log(ratio))),
            1 => x,
            _ when gives => Math.Sqrt(x),
            _ => x * x,
        };
        return Simple(@in.Status, y * 100);
    }
}
