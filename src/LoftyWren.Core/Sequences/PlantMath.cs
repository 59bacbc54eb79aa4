using LoftyWren.Core.Status;
using LoftyWren.Core.Devices;
using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>What blocks do that decide for whole plants, and what a controller tells of itself; bound as <see cref="BlockMath"/> is.</summary>
internal static class PlantMath
{
    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        yield return Plain(BlockKind.TwoPipe, "Two-pipe changeover", "two pipe changeover heating cooling water change over fan coil", "Plant", [In("in", "water")], AnalogOut, true,
            [new("cool", "cools below", "measured", 17, -50, 150), new("heat", "heats above", "measured", 28, -50, 150), new("differential", "differential", "difference", 1, 0, 50)]) with
        { Infers = t => t.Out(new LineType(false, null) { States = ["neither", "heating", "cooling"] }), Refuses = Rising("cool", "heat"), Cells = 1, Example = new("°C", 10, 40) };
        yield return Plain(BlockKind.EconomiserTemperature, "Free cooling by temperature", "economiser economizer free cooling outside air temperature", "Plant", [In("outdoor", "outdoor"), In("extract", "extract")], BinaryOut, true,
            [new("differential", "colder by", "difference", 2, 0, 50), new("lowest", "not below", "measured", 5, -50, 50)]) with
        { Infers = t => t.Agree(t.Types, t.First), Cells = 1, Example = new("°C", 0, 30) { Others = [("extract", "°C", 23, 23)] } };
        yield return Plain(BlockKind.EconomiserEnthalpy, "Free cooling by enthalpy", "economiser economizer free cooling outside air enthalpy humidity", "Plant", [In("outdoor", "outdoor"), In("outdoorHumidity", "outdoor humidity"), In("extract", "extract"), In("extractHumidity", "extract humidity")], BinaryOut, true,
            [new("differential", "less by", "kJ/kg", 2, 0, 100), new("lowest", "not below", "°C", 5, -50, 50), Pressure]) with
        { Infers = BlockTyping.Air, Cells = 1, Example = new("°C", 0, 30) { Others = [("outdoorHumidity", "%RH", 60, 60), ("extract", "°C", 24, 24), ("extractHumidity", "%RH", 50, 50)] } };
        yield return Plain(BlockKind.Co2Demand, "CO₂ demand", "co2 demand ventilation air quality fresh air carbon dioxide", "Plant", [In("in", "measured"), In("outdoor", "outdoor", PinKind.Analog, false)], [Out("out", "out", "%")], false, [new("start", "begins above outdoors by", "ppm", 180, 0, 5000), new("full", "full above outdoors by", "ppm", 580, 1, 10_000)]) with
        { Infers = t => t.Agree(t.Types, new LineType(false, Units.Unit.Find("ppm"))), Refuses = Rising("start", "full"), Example = new("ppm", 420, 1200) };
        yield return Plain(BlockKind.NightPurge, "Night purge", "night purge cooling at night flush summer", "Plant", [In("indoor", "indoor"), In("outdoor", "outdoor"), In("target", "down to"), In("occupied", "occupied", PinKind.Binary)], BinaryOut, true,
            [new("margin", "begins above by", "difference", 2, 0, 50), new("differential", "outdoors colder by", "difference", 3, 0, 50), new("lowest", "not below outdoors", "measured", 10, -50, 50)]) with
        { Infers = t => t.Agree(t.Types.Where(x => x.Key != "occupied"), t.First), Cells = 1, Example = new("°C", 18, 28) { Others = [("outdoor", "°C", 14, 14), ("target", "°C", 21, 21)] } };
        yield return Plain(BlockKind.Frost, "Frost protection", "frost protection stat freeze coil trip safety", "Plant", [In("measured", "measured"), In("reset", "reset", PinKind.Binary, false)], [On("out", "tripped"), Out("heat", "heat", "%")], true,
            [new("limit", "trips below", "measured", 5, -50, 50), new("differential", "clear above by", "difference", 2, 0.1, 50), new("start", "begins to heat above by", "difference", 5, 0.1, 50), new("delay", "trips after", "s", 10, 0, 3600)], [Choice("after", "afterwards", ("itself", "clears by itself"), ("reset", "waits for a reset"))]) with
        { Infers = t => t.Agree(t.Types.Where(x => x.Key == "measured"), t.First), Speaks = Always, Cells = 4, Example = new("°C", 12, 3) };
        yield return Plain(BlockKind.OptimumStart, "Optimum start", "optimum start preheat warm up learn early start ready in time", "Plant", [In("occupied", "occupied", PinKind.Binary), In("left", "time until then", PinKind.Analog, false), In("measured", "measured"), In("target", "target")], [.. BinaryOut, Out("lead", "lead", "s"), Out("learned", "learned (min per unit)", "")], true,
            [new("rate", "first guess, for each unit", "s", 900, 1, 36_000), new("most", "at most", "s", 14_400, 0, 86_400), new("learn", "learns by", "%", 25, 0, 100), new("near", "near enough", "difference", 0.3, 0.01, 20)], [Choice("action", "action", ("heat", "heating"), ("cool", "cooling"))]) with
        {
            Infers = t =>
            {
                t.As("left", "s");
                t.Agree(t.Types.Where(x => x.Key is "measured" or "target"), t.Types.GetValueOrDefault("measured", t.First));
            },
            How = t => $": it has learned that each unit takes {t.Memory(0) / 60:0.#} min",
            Example = new("°C", 17, 21) { Others = [("left", "s", 14000, 0), ("target", "°C", 21, 21)] },
        };
        yield return Plain(BlockKind.StartCause, "Start cause", "start cause restart reason power return after cold warm start new program", "Controller", [], [Out("out", "cause"), Out("since", "since", "s")]) with { Facts = [ControllerFact.StartCause, ControllerFact.SinceStart], Infers = t => t.Out(new LineType(false, null) { States = StartCauses.States }) };
        yield return Plain(BlockKind.SystemStatus, "System status", "system status operational download in progress", "Controller", [], [Out("out", "status")]) with { Facts = [ControllerFact.SystemStatus], Infers = t => t.Out(new LineType(false, null) { States = SystemStates.States }) };
        yield return Plain(BlockKind.Clock, "Clock", "clock time of day weekday hour day", "Controller", [], [Out("out", "time of day", "h"), Out("day", "day of the week")]) with { Facts = [ControllerFact.TimeOfDay, ControllerFact.Weekday], Infers = t => t.Out(new LineType(false, null) { States = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"] }, "day") };
    }

    internal static NumberSetting Pressure { get; } = new("pressure", "air pressure", "Pa", 101_325, 50_000, 110_000);

    // Cells: 0 = state.
    public static PinValue TwoPipe(PinValue @in, double cool, double heat, double differential, Span<double> cells)
    {
        StatusFlags status = Settle(@in.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        double water = @in.Value, state = double.IsNaN(cells[0]) ? 1 : cells[0];
        if (state == 2 && water < heat - differential || (state == 3 && water > cool + differential)) state = 1;
        if (water > heat) state = 2;
        else if (water < cool) state = 3;
        cells[0] = state;
        return new(state, status);
    }

    // Cells: 0 = whether it is allowed.
    public static PinValue EconomiserTemperature(PinValue outdoor, PinValue extract, double differential, double lowest, Span<double> cells)
    {
        StatusFlags status = Settle(outdoor.Status | extract.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        return Allowed(outdoor.Value < extract.Value - differential, outdoor.Value > extract.Value, outdoor.Value, lowest, differential, status, cells);
    }

    // Cells: 0 = whether it is allowed.
    public static PinValue EconomiserEnthalpy(PinValue outdoor, PinValue outdoorHumidity, PinValue extract, PinValue extractHumidity, double differential, double lowest, double pressure, Span<double> cells)
    {
        StatusFlags status = Settle(outdoor.Status | outdoorHumidity.Status | extract.Status | extractHumidity.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        double outside = MoistAir.Enthalpy(outdoor.Value, outdoorHumidity.Value, pressure), inside = MoistAir.Enthalpy(extract.Value, extractHumidity.Value, pressure);
        if (double.IsNaN(outside) || double.IsNaN(inside)) return PinValue.Fault;
        return Allowed(outside < inside - differential, outside > inside, outdoor.Value, lowest, 1, status, cells);
    }

    private static PinValue Allowed(bool better, bool worse, double outdoor, double lowest, double back, StatusFlags status, Span<double> cells)
    {
        bool was = cells[0] > 0.5, isOn = outdoor >= lowest && !worse && (better || was) && (was || outdoor >= lowest + back);
        cells[0] = isOn ? 1 : 0;
        return new(cells[0], status);
    }

    public static PinValue Co2Demand(PinValue @in, PinValue outdoor, bool outdoorConnected, double start, double full)
    {
        StatusFlags all = @in.Status | (outdoorConnected ? outdoor.Status : StatusFlags.None);
        double above = @in.Value - (outdoorConnected ? outdoor.Value : MoistAir.OutdoorCo2);
        return Simple(all, Math.Clamp((above - start) / (full - start), 0, 1) * 100);
    }

    // Cells: 0 = whether it runs.
    public static PinValue NightPurge(PinValue indoor, PinValue outdoor, PinValue target, PinValue occupied, double margin, double differential, double lowest, Span<double> cells)
    {
        StatusFlags status = Settle(indoor.Status | outdoor.Status | target.Status | occupied.Status);
        if ((status & Unusable) != 0) return new(double.NaN, status);
        bool was = cells[0] > 0.5, isOn = !occupied.IsTrue && outdoor.Value >= lowest
            && (was ? indoor.Value > target.Value && outdoor.Value < indoor.Value - (differential / 2) : indoor.Value > target.Value + margin && outdoor.Value < indoor.Value - differential);
        cells[0] = isOn ? 1 : 0;
        return new(cells[0], status);
    }

    // Cells: 0 = whether it has tripped, 1 = time of the last scan, 2 = for how long it has been below, s, 3 = the reset's last state.
    public static PinValue Frost(PinValue measured, PinValue reset, double limit, double differential, double start, double delay, bool after, double now, Span<double> cells, ref PinValue heat)
    {
        double passed = Passed(ref cells[0], now);
        if (double.IsNaN(cells[0])) cells[0] = 0;
        bool isReset = LogicMath.Rose(reset, ref cells[3]), blind = !measured.IsUsable;
        // What cannot see must act.
        bool below = blind || measured.Value < limit;
        if (blind || Lasts(below, passed, delay, ref cells[2])) cells[0] = 1;
        else if (cells[0] > 0.5 && measured.Value > limit + differential && (!after || isReset)) cells[0] = 0;
        StatusFlags marks = measured.Status & (StatusFlags.Stale | StatusFlags.Overridden);
        heat = new(cells[0] > 0.5 ? 100 : Math.Clamp((limit + start - measured.Value) / start, 0, 1) * 100, marks);
        return new(cells[0], marks);
    }

    // Cells: 0 = learned rate, s per unit; 1 = time of the last scan; 2 = 1 while it runs before its time; 3 = how far off it was when it began; 4 = for how long it has run, s; 5 = 1 once it has learned from this start.
    public static PinValue OptimumStart(PinValue occupied, PinValue left, PinValue measured, PinValue target, double rate, double most, double learn, double near, bool action, double now, Span<double> cells, ref PinValue lead, ref PinValue learned)
    {
        double passed = Passed(ref cells[0], now);
        if (double.IsNaN(cells[0])) (cells[0], cells[2], cells[5]) = (rate, 0, 0);
        learned = new(cells[0] / 60, StatusFlags.None);
        StatusFlags status = Settle(occupied.Status | measured.Status | target.Status);
        if ((status & Unusable) != 0) return lead = new(double.NaN, status);
        double off = Math.Max(0, action ? measured.Value - target.Value : target.Value - measured.Value), needs = Math.Min(most, off * cells[0]);
        bool early = cells[2] > 0.5;
        if (early) cells[4] += passed;
        if (early && cells[5] == 0 && (off <= near || occupied.IsTrue))
        {
            double gained = cells[3] - off;
            // Too short a way says nothing about how long the next will take.
            if (gained > 2 * near && cells[4] > 0) cells[0] = Math.Clamp(cells[0] + (learn / 100 * ((cells[4] / gained) - cells[0])), rate / 10, rate * 10);
            cells[5] = 1;
        }
        // A start that was called off: what it began for no longer lies ahead.
        if (occupied.IsTrue || (left.IsUsable && left.Value > Math.Max(most, needs))) early = false;
        else if (!early && left.IsUsable && off > near && left.Value <= needs)
        {
            early = true;
            (cells[3], cells[4], cells[5]) = (off, 0, 0);
        }
        cells[2] = early ? 1 : 0;
        lead = new(needs, status);
        learned = new(cells[0] / 60, StatusFlags.None);
        return new(early || occupied.IsTrue ? 1 : 0, status);
    }

    public static PinValue StartCause(PinValue startCause, PinValue sinceStart, ref PinValue since)
    {
        since = sinceStart;
        return startCause;
    }

    public static PinValue SystemStatus(PinValue systemStatus) => systemStatus;

    public static PinValue Clock(PinValue timeOfDay, PinValue weekday, ref PinValue day)
    {
        day = weekday;
        return Simple(timeOfDay.Status, timeOfDay.Value / 3600);
    }
}
