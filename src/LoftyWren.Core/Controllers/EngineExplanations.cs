using LoftyWren.Core.Units;
using System.Globalization;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Claims;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Status;
using NodaTime;

namespace LoftyWren.Core.Controllers;

/// <summary>One rung of a claim ladder as it stands: who claims, what it says, whether it wins.</summary>
public sealed record Rung(int Priority, string Label, string Says, double? Value, bool Wins, RecordId? SourceId, Hold? Hold)
{
    /// <summary>What the output makes of what it says where that is beyond its limits, or none of its states; null where it is not.</summary>
    public string? LimitedTo { get; init; }
}

/// <summary>A ladder with all its rungs, strongest first, the fallback last as priority 0, and what would follow if the winner let go.</summary>
public sealed record LadderView(IReadOnlyList<Rung> Rungs, int Winner, string Says, string IfReleased);

/// <summary>A mode that a table went into, and when (ms of site time).</summary>
public sealed record ModeChange(string Mode, long At);

/// <summary>A mode table as it stands: the slot of the present mode, for how long it has been (s), what it waits for, the last modes it went into, the latest first, and how often it has changed.</summary>
public sealed record ModesView(int Slot, double Seconds, IReadOnlyList<string> Waits, IReadOnlyList<ModeChange> Last, long Changes);

public sealed partial class ControllerEngine
{
    private const int DeepestExplanation = 12;

    // The pins that the explanation being made has told of: where many lines lead to one, it is told once.
    private readonly HashSet<(RecordId Sequence, string Block, string Pin)> _told = [];

    /// <summary>The ladder of an output, with every claim there is; null when the point is not commanded here.</summary>
    public LadderView? ViewLadder(RecordId pointId)
    {
        if (!_index.TryGetValue(pointId, out int i) || _ladders[i] is not { } ladder) return null;
        Point point = _points[i];
        var claims = ClaimsOn(pointId).ToDictionary(c => c.Priority);
        var rungs = new List<Rung>();
        for (int priority = 1; priority <= 16; priority++)
        {
            bool isHand = priority == Sequence.ManualOperator;
            if (!claims.TryGetValue(priority, out var claim) && !isHand) continue;
            var (value, status) = ladder.Rung(priority);
            bool speaks = !double.IsNaN(value);
            Hold? hold = isHand ? _holds.GetValueOrDefault(pointId) : null;
            rungs.Add(new Rung(priority, isHand ? "By hand" : claim.Label, speaks ? Say(point, value) : (status & StatusFlags.Fault) != 0 ? "released (its source is in fault)" : "released", speaks ? value : null, ladder.Winner == priority, isHand ? null : claim.Owner, hold)
            {
                LimitedTo = speaks && ladder.Within(value) != value ? Say(point, ladder.Within(value)) : null,
            });
        }
        rungs.Add(new Rung(0, "Fallback", double.IsNaN(ladder.Fallback) ? "none" : Say(point, ladder.Fallback), double.IsNaN(ladder.Fallback) ? null : ladder.Fallback, ladder.Winner == 0, null, null));
        var (next, after) = ladder.WithoutRung(ladder.Winner);
        string follows = ladder.Winner == 0 ? "Nothing claims it; the fallback holds." : double.IsNaN(after)
            ? $"If {ladder.Winner} let go, nothing would speak and there is no fallback."
            : $"If {ladder.Winner} let go, {(next == 0 ? "the fallback" : $"{next} {claims.GetValueOrDefault(next).Label ?? "By hand"}")} would make it {Say(point, after)}.";
        return new LadderView(rungs, ladder.Winner, double.IsNaN(ladder.Value) ? "no value" : Say(point, ladder.Value), follows);
    }

    /// <summary>How a mode table of a sequence stands; null when it is not here.</summary>
    public ModesView? ViewModes(RecordId sequenceId, string blockId)
    {
        if (Array.Find(_sequences, s => s.Sequence.Id == sequenceId) is not { } running || running.Sequence.Blocks.FirstOrDefault(b => b.Id == blockId) is not { Modes: { } table } block || !_started) return null;
        ModeStanding standing = ModeMath.Standing(new Telling(this, running, block, 0), table);
        return new ModesView(table.Modes[standing.Place - 1].Slot, standing.Seconds, standing.Waits, [.. standing.Before.Select(b => new ModeChange(table.Modes.FirstOrDefault(m => m.Slot == b.Slot)?.Name ?? "a mode that has gone", SiteTime(b.At)))], (long)standing.Changes);
    }

    /// <summary>Why a point has the value it has, or has none, or an alarm is or is not. Null when this image does not know it.</summary>
    public Because? Explain(RecordId pointId)
    {
        if (!_index.ContainsKey(pointId)) return ExplainAlarm(pointId);
        _told.Clear();
        return ExplainPoint(pointId, 0);
    }

    /// <summary>Why an alarm is, or is not. Null when this image does not know the alarm.</summary>
    public Because? ExplainAlarm(RecordId alarmId)
    {
        foreach (var (rule, machine, point) in _alarms)
        {
            if (rule.Id != alarmId) continue;
            _told.Clear();
            return rule.Tell(machine, new AboutAlarm(this, point));
        }
        return null;
    }

    /// <summary>A point that an alarm watches, as its rule asks about it.</summary>
    private sealed class AboutAlarm(ControllerEngine engine, int index) : IEventTelling
    {
        public string Point => engine._points[index].Name;

        public Reading Reading => engine.ReadingAt(index);

        public string Now => ControllerEngine.Say(engine._points[index], Reading);

        public string Say(double value) => ControllerEngine.Say(engine._points[index], value);

        public string SayDifference(double value) => $"{Number(value)} {(engine._points[index].Unit is { } u ? Units.Unit.Find(u)?.Difference.Symbol ?? u : "")}";

        public string Time(long milliseconds) => engine.Time(milliseconds);

        public string Length(double seconds) => ControllerEngine.Length(seconds);

        public Because WhyPoint() => engine.ExplainPoint(engine._points[index].Id, 1);
    }

    private Because ExplainPoint(RecordId pointId, int depth)
    {
        int i = _index[pointId];
        Point point = _points[i];
        Reading reading = ReadingAt(i);
        if (_remote.Contains(i))
        {
            RecordId from = Image.Remote.First(r => r.PointId == pointId).ControllerId;
            Peer peer = Array.Find(_peers, p => p.HostId == from)!;
            if (reading.IsReleased && peer.HeardAt is null) return Because.Of($"{point.Name} has no value here: its controller has not answered yet. Send to that controller, or check that it runs and that the network between them does.", [pointId, from]);
            string heard = peer.HeardAt is { } at ? $", last heard at {Time(at)}" : "";
            string stale = (reading.Status & StatusFlags.Stale) == 0 ? "" : peer.IsSilent(Now) ? ", which no longer answers: this is the last value known" : ", which no longer has this point: this is the last value known";
            return Because.Of($"{point.Name} is {Say(point, reading)}, read from another controller{heard}{stale}.", [pointId, from]);
        }
        if (_ladders[i] is { } ladder) return ExplainOutput(i, point, ladder, depth);
        if (_busOf[i] is { } tie) return ExplainBus(tie, point, reading);
        Fitting? fitting = _fittings[i];
        if (fitting is null) return Because.Of($"{point.Name} has no source on {Image.Controller.Name}.", [pointId]);
        double raw = RawInputs[IndexOf(fitting.Terminal)];
        string measured = double.IsNaN(raw) ? "nothing connected" : $"{raw.ToString("0.0", CultureInfo.InvariantCulture)} {fitting.Signal.RawUnit}".TrimEnd();
        string terminal = $"{Image.Controller.Name} {fitting.Terminal}";
        SignalSettings settings = fitting.Settings(_records.Find);
        if ((reading.Status & StatusFlags.OutOfService) != 0)
            return Because.Of($"{point.Name} is {Say(point, reading)}: simulated, put by hand at {terminal} in place of its sensor.", [pointId, fitting.Id], [Because.Of("Operate › Held shows who did so and why, and lets it follow its sensor again.", weight: Weight.Note)]);
        if ((reading.Status & StatusFlags.Fault) != 0)
        {
            string trouble = (double.IsNaN(raw) ? null : fitting.Signal.Trouble(settings, raw)) ?? "nothing is connected";
            return Because.Of($"{point.Name} has no value: {terminal} reads {measured}, {trouble}.", [pointId, fitting.Id],
                [Because.Of($"Check the cable and the sensor on {fitting.Terminal}. Logic that needs this value releases its claims meanwhile.", weight: Weight.Note)]);
        }
        var under = new List<Because>();
        if (fitting.Signal.Told(settings, value => Say(point, value)) is { } told)
        {
            string correction = fitting.Correction == 0 ? "" : $", corrected by {Number(fitting.Correction)} {Units.Unit.Find(point.Unit)?.Difference.Symbol}";
            under.Add(Because.Of($"{terminal} measures {measured}, {fitting.Signal.Name} {told}{correction}.", [fitting.Id]));
        }
        else under.Add(Because.Of($"The contact on {terminal} is {(raw > 0.5 ? "closed" : "open")}{(fitting.Inverted ? ", and the terminal is turned round" : "")}.", [fitting.Id]));
        return Because.Of($"{point.Name} is {Say(point, reading)}.", [pointId], under);
    }

    private Because ExplainOutput(int i, Point point, Ladder ladder, int depth)
    {
        var claims = ClaimsOn(point.Id).ToDictionary(c => c.Priority);
        var under = new List<Because>();
        string fact;
        if (ladder.Winner == 0)
        {
            if (double.IsNaN(ladder.Fallback)) fact = $"{point.Name} has no value: every claim is released and it has no fallback.";
            else if (point.Role == PointRole.Setpoint && claims.Count == 0) fact = $"{point.Name} is {Say(point, ladder.Value)}, as it is set in the design.";
            else fact = $"{point.Name} is {Say(point, ladder.Value)}, its fallback: {(claims.Count == 0 ? "nothing claims it" : "every claim is released")}.";
        }
        else if (_holds.TryGetValue(point.Id, out Hold? hold) && ladder.Winner == Sequence.ManualOperator)
            fact = $"{point.Name} is {Say(point, ladder.Value)}: held by hand by {hold.Who}{(hold.UntilMilliseconds is { } until ? $" until {Time(until)}" : "")}, “{hold.Why}”.";
        // What was released since the last scan still holds until the next one.
        else if (!claims.TryGetValue(ladder.Winner, out var claim) || double.IsNaN(ladder.Rung(ladder.Winner).Value))
            fact = $"{point.Name} is still {Say(point, ladder.Value)}: {(ladder.Winner == Sequence.ManualOperator ? "the hold" : $"claim {ladder.Winner}")} was released after the last scan; the next scan decides again.";
        else
        {
            fact = $"{point.Name} is {Say(point, ladder.Value)}: claim {ladder.Winner} {claim.Label} says {Say(point, ladder.Rung(ladder.Winner).Value)}{(ladder.Rung(ladder.Winner).Value == ladder.Value ? "" : $", and {Say(point, ladder.Value)} is the nearest it can be")}{(ladder.Winner > 1 && claims.Keys.Any(k => k < ladder.Winner) ? "; nothing above it speaks" : "")}.";
        }
        if (depth < DeepestExplanation)
        {
            foreach (var claim in claims.Values.OrderBy(c => c.Priority))
            {
                var (value, status) = ladder.Rung(claim.Priority);
                bool speaks = !double.IsNaN(value);
                string says = speaks ? $"says {Say(point, value)}" : (status & StatusFlags.Fault) != 0 ? "is released, since its source is in fault" : "is released";
                Weight weight = ladder.Winner == claim.Priority ? Weight.Decides : speaks ? Weight.Outranked : Weight.Note;
                under.Add(Because.Of($"Claim {claim.Priority} {claim.Label} {says}{(weight == Weight.Outranked ? " and is outranked" : "")}.", [claim.Owner], claim.Explain(depth + 1), weight));
            }
        }
        return Because.Of(fact, [point.Id], under);
    }

    private IEnumerable<(int Priority, string Label, RecordId Owner, Func<int, IEnumerable<Because>> Explain)> ClaimsOn(RecordId pointId)
    {
        foreach (RunningSequence running in _sequences)
        {
            foreach (Claim claim in running.Sequence.Commands.Where(c => c.PointId == pointId).SelectMany(c => c.Claims))
                yield return (claim.Priority, string.IsNullOrWhiteSpace(claim.Label) ? running.Sequence.Name : claim.Label, running.Sequence.Id, depth => claim.Source is { } source ? ExplainSource(running, source, depth) : [Because.Of("It is not connected to anything, so it can never speak.", [running.Sequence.Id])]);
        }
        if (LadderOf(pointId) is { HasLeastTimes: true } timed) yield return (Ladder.LeastTimes, "Least times", pointId, _ => [ExplainLeast(timed)]);
        foreach (RunningSchedule running in _schedules)
        {
            foreach (Drive drive in running.Schedule.Drives.Where(d => d.PointId == pointId))
                yield return (drive.Priority, running.Schedule.Name, running.Schedule.Id, _ => [ExplainSchedule(running)]);
        }
    }

    private Because ExplainLeast(Ladder ladder)
    {
        if (ladder.Standing is not { } standing) return Because.Of("Nobody knows yet for how long it has been as it is, so no least time runs.", weight: Weight.Note);
        string state = standing.On ? "on" : "off";
        return ladder.Until is { } until ? Because.Of($"It went {state} at {Time(standing.Since)} and stays so for at least {Length((until - standing.Since) / 1000.0)}, until {Time(until)}.") : Because.Of($"It is {state} since {Time(standing.Since)}, and no least time runs.", weight: Weight.Note);
    }

    private Because ExplainSchedule(RunningSchedule running)
    {
        var (value, because, until) = running.Timetable.ValueAt(Instant.FromUnixTimeMilliseconds(Now + ClockOffset));
        string says = $"{running.Schedule.Name} says {running.Schedule.Say(value)}: {because}; it may change at {Time(until.ToUnixTimeMilliseconds() - ClockOffset)}.";
        // A second does not matter to an hour; more is worth knowing.
        return Math.Abs(ClockOffset) < 2000 ? Because.Of(says, [running.Schedule.Id])
            : Because.Of(says, [running.Schedule.Id], [Because.Of($"{Image.Host.Name} goes by its own clock, which is {Math.Abs(ClockOffset) / 1000.0:0} s {(ClockOffset < 0 ? "behind" : "ahead")}.", [Image.Host.Id])]);
    }

    private IEnumerable<Because> ExplainSource(RunningSequence running, Source source, int depth)
    {
        if (depth > DeepestExplanation) yield break;
        switch (source)
        {
            case PointSource p:
                if (_index.ContainsKey(p.PointId)) yield return ExplainPoint(p.PointId, depth);
                else yield return Because.Of("The point it reads has no source on any controller, so there is nothing to read.", [p.PointId]);
                break;
            case ScheduleSource { Ahead: true } s:
                if (_schedules.FirstOrDefault(x => x.Schedule.Id == s.ScheduleId) is { } looked && looked.UntilChange(Now + ClockOffset) is var left)
                    yield return Because.Of(left.IsUsable ? $"{looked.Schedule.Name} changes in {Length(left.Value)}." : $"{looked.Schedule.Name} does not change within eight days.", [looked.Schedule.Id], [ExplainSchedule(looked)]);
                break;
            case ScheduleSource s:
                if (_schedules.FirstOrDefault(x => x.Schedule.Id == s.ScheduleId) is { } schedule) yield return ExplainSchedule(schedule);
                break;
            case BlockSource b:
                yield return ExplainBlock(running, running.Sequence.Blocks.First(x => x.Id == b.BlockId), b.Pin, depth);
                break;
        }
    }

    private Because ExplainBlock(RunningSequence running, Block block, string pin, int depth)
    {
        RecordId[] on = [running.Sequence.Id];
        string says = SayPin(running, block.Id, pin);
        if (!_told.Add((running.Sequence.Id, block.Id, pin))) return Because.Of($"{block.Called()} gives {says}, as told here already.", on);
        BlockType type = BlockType.Of(block.Kind);
        var telling = new Telling(this, running, block, depth);
        if (type.Tells?.Invoke(telling) is { } told) return told;
        var inputs = block.Inputs.OrderBy(x => x.Key, StringComparer.Ordinal).SelectMany(x => ExplainSource(running, x.Value, depth + 1)).ToList();
        return Because.Of($"{block.Called()} gives {says}{type.How?.Invoke(telling)}.", on, inputs);
    }

    /// <summary>A running block, as its kind asks about it.</summary>
    private sealed class Telling(ControllerEngine engine, RunningSequence running, Block block, int depth) : IBlockTelling
    {
        public Block Block { get; } = block;

        public IReadOnlyList<RecordId> Records => [running.Sequence.Id, .. Block.Inputs.OrderBy(i => Place(i.Key)).Select(i => i.Value).OfType<PointSource>().Select(p => p.PointId)];

        public (Reading Reading, string? Unit, string Name)? Input(string pin)
        {
            if (!Block.Inputs.TryGetValue(pin, out Source? source)) return null;
            var (reading, unit, name) = engine.ReadSource(running, source);
            return running.Typing.Conversions.TryGetValue((Block.Id, pin), out Conversion? by) ? (reading with { Value = (reading.Value * by.Factor) + by.Offset }, by.To, name) : (reading, unit, name);
        }

        public IReadOnlyList<Because> WhyOf(string pin) => Block.Inputs.GetValueOrDefault(pin) is PointSource point ? [engine.ExplainPoint(point.PointId, 2)] : [];

        public IReadOnlyList<Because> Why(string pin) => Block.Inputs.TryGetValue(pin, out Source? source) ? [.. engine.ExplainSource(running, source, depth + 1)] : [];

        public double Memory(int cell) => running.State.Memory[running.Plan.Memory[Block.Id].Cell + cell];

        public string Time(double seconds) => engine.Time(engine.SiteTime(seconds));

        public double Setting(string setting) => BlockType.Of(Block.Kind).Number(Block, setting);

        public string Length(string setting) => ControllerEngine.Length(BlockType.Of(Block.Kind).Number(Block, setting));

        public string Span(double seconds) => ControllerEngine.Length(seconds);

        public string Say(double value, string? unit) => ValueText.Of(value, PointKind.Analog, unit, []);

        private int Place(string pin) => BlockType.Of(Block.Kind).Inputs.TakeWhile(p => p.Name != pin).Count();
    }

    private (Reading Reading, string? Unit, string Name) ReadSource(RunningSequence running, Source source)
    {
        switch (source)
        {
            case PointSource p when _index.TryGetValue(p.PointId, out int i):
                return (ReadingAt(i), _points[i].Unit, _points[i].Name);
            case BlockSource b when running.Plan.Pins.TryGetValue($"{b.BlockId}.{b.Pin}", out int slot):
                return (running.Reading(slot, Now), running.Typing.Outputs.GetValueOrDefault((b.BlockId, b.Pin)).Unit?.Symbol, running.Sequence.Blocks.First(x => x.Id == b.BlockId).Called());
            case ConstantSource c:
                return (new Reading(c.Value, StatusFlags.None, Now), c.Unit, "The constant");
            default:
                return (Reading.Released(Now), null, "Its input");
        }
    }

    private string SayPin(RunningSequence running, string blockId, string pin)
    {
        int slot = running.Plan.Pins[$"{blockId}.{pin}"];
        var reading = running.Reading(slot, Now);
        LineType type = running.Typing.Outputs.GetValueOrDefault((blockId, pin));
        return ValueText.Of(reading, type.Binary ? PointKind.Binary : type.States is null ? PointKind.Analog : PointKind.Multistate, type.Unit?.Symbol, type.Binary ? ["off", "on"] : type.States ?? []);
    }

    private static string Say(Point point, double value) => ValueText.Of(value, point.Kind, point.Unit, point.StateTexts);

    private static string Say(Point point, Reading reading) => ValueText.Of(reading, point.Kind, point.Unit, point.StateTexts);

    private static string Number(double value) => value.ToString("0.0##", CultureInfo.InvariantCulture);

    private static string Length(double seconds) => seconds switch
    {
        < 120 => $"{seconds.ToString("0.#", CultureInfo.InvariantCulture)} s",
        < 7200 => $"{(seconds / 60).ToString("0.#", CultureInfo.InvariantCulture)} min",
        _ => $"{(seconds / 3600).ToString("0.#", CultureInfo.InvariantCulture)} h",
    };

    /// <summary>The time of day in the site's zone, with the date when it is not today's.</summary>
    private string Time(long milliseconds)
    {
        ZonedDateTime at = Instant.FromUnixTimeMilliseconds(milliseconds).InZone(Zone), now = Instant.FromUnixTimeMilliseconds(Now).InZone(Zone);
        string time = at.ToString("HH:mm", CultureInfo.InvariantCulture);
        return at.Date == now.Date ? time : $"{time} on {at.ToString("ddd d MMM", CultureInfo.InvariantCulture)}";
    }
}
