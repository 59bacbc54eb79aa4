using LoftyWren.Core.Alarms;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Claims;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using NodaTime;

namespace LoftyWren.Core.Controllers;

/// <summary>An output that a person holds: value, who, why and until when (ms of site time; none is for ever).</summary>
public sealed record Hold(RecordId PointId, double Value, string Who, string Why, long AtMilliseconds, long? UntilMilliseconds);

/// <summary>An alarm that changed its state; the number counts the controller's events.</summary>
public sealed record AlarmEvent(long Number, RecordId AlarmId, EventState From, EventState To, long AtMilliseconds, double Value);

/// <summary>
/// What a controller does with its image: reads terminals, runs schedules and sequences, resolves the claim ladders,
/// drives terminals, watches alarms, keeps trends. Time comes with each call, never from the machine. A scan allocates nothing.
/// </summary>
public sealed partial class ControllerEngine : IDeviceProgram
{
    /// <summary>How often it reads its terminals, watches its alarms and offers to its trends at least, ms; a sequence that is due sooner is run sooner.</summary>
    public const int BeatMilliseconds = 1000;

    private readonly Project _records;
    private readonly Dictionary<RecordId, int> _index = [];
    private readonly Point[] _points;
    private readonly PinValue[] _readings;
    private readonly long[] _since;
    private readonly Ladder?[] _ladders;
    private readonly Ladder[] _timed;
    private readonly Fitting?[] _fittings;
    private readonly Tie[] _inputs, _outputs;
    private readonly int[] _inputAt;
    private readonly double[] _lastRaw;
    private readonly PinValue[] _lastGiven;
    private readonly TerminalPort _terminals;
    private readonly BusPort? _bus;
    private readonly BusTie[] _busTies;
    private readonly BusTie?[] _busOf;
    private readonly RunningSequence[] _sequences;
    private readonly RunningSchedule[] _schedules;
    private readonly (EventRule Rule, IEventAlgorithm Machine, int Point)[] _alarms;
    private readonly (TrendLog Log, TrendBuffer Buffer, int Point)[] _trends;
    private readonly Dictionary<RecordId, Hold> _holds = [];
    private readonly List<AlarmEvent> _events = [];
    private readonly int[] _remote;
    private readonly (RunningSchedule Schedule, int At)[] _ahead;
    private readonly (ControllerFact Fact, int At)[] _facts;
    private long _nextHoldEnd = long.MaxValue, _next = long.MinValue;
    private bool _started;
    private long? _running, _lastScan;

    /// <summary>Makes an engine for an image; nothing runs until <see cref="Scan"/>.</summary>
    /// <exception cref="InvalidOperationException">The image does not fit its controller or holds a sequence that cannot be compiled.</exception>
    public ControllerEngine(ControllerImage image)
    {
        Image = image;
        Zone = DateTimeZoneProviders.Tzdb[image.TimeZone];
        _records = Project.Load(0, image.Records.Select(r => new Entry(r, 0)));
        if (Catalogue.Find(_records, image.Controller.ModelId) is null) throw new InvalidOperationException($"The catalogue has no model ‘{image.Controller.ModelId}’.");
        List<TerminalPlace> places = [.. PanelTerminals.Of(_records, image.Controller)];
        _terminals = new TerminalPort([.. places.Select(t => t.Terminal)]);
        _points = [.. image.Records.OfType<Point>()];
        for (int i = 0; i < _points.Length; i++) _index[_points[i].Id] = i;
        _since = new long[_points.Length];
        _ladders = new Ladder?[_points.Length];
        _fittings = new Fitting?[_points.Length];
        var remote = image.Remote.Select(r => r.PointId).ToHashSet();
        _remote = [.. image.Remote.Select(r => _index[r.PointId])];
        for (int i = 0; i < _points.Length; i++)
        {
            if (_points[i].Role != PointRole.Sensor && !remote.Contains(_points[i].Id)) _ladders[i] = Ladder.Of(_points[i]);
        }
        _timed = [.. _ladders.OfType<Ladder>().Where(l => l.HasLeastTimes)];
        var inputs = new List<Tie>();
        var outputs = new List<Tie>();
        foreach (Fitting fitting in image.Records.OfType<Fitting>())
        {
            int point = _index[fitting.PointId];
            _fittings[point] = fitting;
            int terminal = IndexOf(fitting.Terminal);
            if (terminal < 0) continue;
            (places[terminal].Group.Direction == Direction.In ? inputs : outputs).Add(new Tie(terminal, point, fitting.Signal, fitting.Settings(_records.Find)));
        }
        (_inputs, _outputs) = ([.. inputs], [.. outputs]);
        _busTies = [.. BusTies(image)];
        _busOf = new BusTie?[_points.Length];
        foreach (BusTie tie in _busTies) _busOf[tie.Point] = tie;
        _bus = _busTies.Length == 0 || image.Controller is not { BusLineId: { } onLine, BusNumber: { } busNumber } || _records.Find<BusLine>(onLine) is not { } line ? null
            : new BusPort(onLine.Value, IndividualAddress.Of(line.Area, line.Line, busNumber), [.. _busTies.Select(t => new PortGroup(t.Group.Number, t.Type, !t.IsInput, t.Binding.AgainMinutes * 60_000L))], now => _next = Math.Min(_next, now));
        _inputAt = new int[_points.Length];
        Array.Fill(_inputAt, -1);
        foreach (Tie input in _inputs) _inputAt[input.Point] = input.Terminal;
        (_lastRaw, _lastGiven) = (new double[_inputs.Length], new PinValue[_outputs.Length]);
        Array.Fill(_lastRaw, double.PositiveInfinity);
        // Of no status that a reading can have: so each is given once.
        Array.Fill(_lastGiven, new PinValue(0, (StatusFlags)byte.MaxValue));
        _schedules = [.. image.Records.OfType<Schedule>().Select(s => new RunningSchedule(s, Zone, _index))];
        // What is read that is no point comes behind the points: the schedules, then what is ahead of them or told of the controller itself, as far as anything reads it.
        var others = _schedules.Select((s, i) => (s.Schedule.Id, i: _points.Length + i)).ToDictionary(x => new OtherReading(x.Id, false, null), x => x.i);
        int OtherIndex(OtherReading other)
        {
            if (others.TryGetValue(other, out int at)) return at;
            if (other.ScheduleId is { } id && !others.ContainsKey(new OtherReading(id, false, null))) return -1;
            return others[other] = _points.Length + others.Count;
        }
        _sequences = [.. Ordered([.. image.Records.OfType<Sequence>()]).Select(s => new RunningSequence(s, Compiler.Compile(s, _records, id => _index.GetValueOrDefault(id, -1), OtherIndex)))];
        _readings = new PinValue[_points.Length + others.Count];
        Array.Fill(_readings, PinValue.Released);
        _ahead = [.. others.Where(o => o.Key.Ahead).Select(o => (Array.Find(_schedules, s => s.Schedule.Id == o.Key.ScheduleId)!, o.Value))];
        _facts = [.. others.Where(o => o.Key.Fact is not null).Select(o => (o.Key.Fact!.Value, o.Value))];
        _alarms = [.. image.Records.OfType<EventRule>().Where(a => _index.ContainsKey(a.PointId)).Select(a => (a, a.Begin(), _index[a.PointId]))];
        _trends = [.. image.Records.OfType<TrendLog>().Where(t => _index.ContainsKey(t.PointId)).Select(t => (t, new TrendBuffer(t.Mode, t.IntervalSeconds, t.ChangeBy, t.BufferSize, t.WhenFull, Zone), _index[t.PointId]))];
        _network = new MessagePort(Carriers.Ip, image.Controller.Id.Value, Hear, [.. image.Remote.Select(r => r.ControllerId.Value).Distinct()]);
        _peers = [.. image.Remote.Select((r, i) => (r, i)).GroupBy(x => x.r.ControllerId, (host, points) => new Peer(host, [.. points.Select(p => p.i)]))];
        Ports = _bus is null ? [_terminals, _network] : [_terminals, _network, _bus];
    }

    /// <inheritdoc/>
    IHostImage IDeviceProgram.Image => Image;

    /// <inheritdoc/>
    public IReadOnlyList<IDevicePort> Ports { get; }

    /// <inheritdoc/>
    public long NextDue => Math.Min(_next, _nextHoldEnd);

    /// <inheritdoc/>
    public IEnumerable<RecordId> Home => _points.Select(p => p.Id).Where(IsHome);

    /// <inheritdoc/>
    IEnumerable<(EventRule Rule, EventState State)> IDeviceProgram.AlarmStates => _alarms.Select(a => (a.Rule, a.Machine.State));

    /// <summary>What it runs.</summary>
    public ControllerImage Image { get; }

    /// <summary>The zone of its schedules.</summary>
    public DateTimeZone Zone { get; }

    /// <summary>Terminal names in panel order; the index is that of the raw values.</summary>
    public IReadOnlyList<string> Terminals => _terminals.Terminals;

    /// <summary>What each terminal measures, in the unit of its signal; set by whoever wires it. Not a number: nothing connected.</summary>
    public double[] RawInputs => _terminals.Inputs;

    /// <summary>What each terminal gives, in the unit of its signal.</summary>
    public double[] RawOutputs => _terminals.Outputs;

    /// <summary>The last scan's site time in ms.</summary>
    public long Now { get; private set; }

    /// <summary>The points, in an order that is fixed for this engine.</summary>
    public IReadOnlyList<Point> Points => _points;

    /// <summary>Outputs held by people now.</summary>
    public IReadOnlyCollection<Hold> Holds => _holds.Values;

    /// <summary>Its trend logs.</summary>
    public IEnumerable<(TrendLog Log, TrendBuffer Buffer)> Trends => _trends.Select(t => (t.Log, t.Buffer));

    /// <summary>Empties a trend log, so that one that has stopped begins again; answers how to take that back, or null when it is not here.</summary>
    public Action? EmptyTrend(RecordId trendId)
    {
        foreach (var (log, buffer, _) in _trends)
        {
            if (log.Id != trendId) continue;
            Action undo = buffer.Undo();
            buffer.Empty();
            return undo;
        }
        return null;
    }

    /// <summary>Its alarms.</summary>
    public IEnumerable<(EventRule Rule, IEventAlgorithm Machine, Reading Reading)> Alarms => _alarms.Select(a => (a.Rule, a.Machine, ReadingAt(a.Point)));

    /// <summary>The terminal's index, or −1.</summary>
    public int IndexOf(string terminal) => _terminals.IndexOf(terminal);

    /// <inheritdoc/>
    IReadOnlyList<TerminalReading> IDeviceProgram.Terminals =>
    [
        .. _fittings.OfType<Fitting>().Select(f => (Fitting: f, At: IndexOf(f.Terminal))).Where(t => t.At >= 0).Select(t =>
        {
            bool isInput = Array.Exists(_inputs, i => i.Terminal == t.At);
            double raw = isInput ? RawInputs[t.At] : RawOutputs[t.At];
            return new TerminalReading(t.Fitting.Terminal, double.IsFinite(raw) ? Math.Round(raw, 2) : null, t.Fitting.Signal.RawUnit, isInput ? t.Fitting.Signal.Trouble(t.Fitting.Settings(_records.Find), raw) : null);
        }),
    ];

    /// <summary>Alarm events after a number, oldest first.</summary>
    public IReadOnlyList<AlarmEvent> EventsAfter(long number) => [.. _events.Where(e => e.Number > number)];

    /// <summary>The present reading of a point, or null when this image does not know it.</summary>
    public Reading? Read(RecordId pointId) => _index.TryGetValue(pointId, out int i) ? ReadingAt(i) : null;

    /// <summary>Whether the point is this controller's own, not one it reads from another.</summary>
    public bool IsHome(RecordId pointId) => _index.TryGetValue(pointId, out int i) && (_fittings[i] is not null || _busOf[i] is not null);

    /// <summary>The ladder of a commanded point, or null.</summary>
    public Ladder? LadderOf(RecordId pointId) => _index.TryGetValue(pointId, out int i) ? _ladders[i] : null;

    /// <summary>Holds an output by hand at the manual operator's priority.</summary>
    public void HoldByHand(Hold hold)
    {
        if (LadderOf(hold.PointId) is not { } ladder) throw new InvalidOperationException("Only an output of this controller can be held by hand.");
        _holds[hold.PointId] = hold;
        ladder.Claim(Sequence.ManualOperator, hold.Value, StatusFlags.Overridden);
        _nextHoldEnd = _holds.Values.Min(h => h.UntilMilliseconds ?? long.MaxValue);
    }

    /// <summary>Lets an output go; answers whether it was held.</summary>
    public bool ReleaseHold(RecordId pointId)
    {
        if (!_holds.Remove(pointId)) return false;
        LadderOf(pointId)?.Release(Sequence.ManualOperator);
        _nextHoldEnd = _holds.Count == 0 ? long.MaxValue : _holds.Values.Min(h => h.UntilMilliseconds ?? long.MaxValue);
        return true;
    }

    /// <summary>
    /// How long it has run, in ms: counts with site time while it scans and stands still while it is off, and is what blocks
    /// measure their times by. Begins with site time, so that both are the same until the first pause.
    /// </summary>
    public long RunMilliseconds => _running ?? Now;

    /// <summary>The site time at which its running time was so many seconds, in ms; pauses since then are left out.</summary>
    private long SiteTime(double runSeconds) => Now - (RunMilliseconds - (long)Math.Round(runSeconds * 1000));

    /// <summary>One pass at a moment of site time, in ms: inputs, schedules, due sequences, ladders, outputs, alarms, trends.</summary>
    public void Scan(long now)
    {
        _running = _running is { } run ? run + (_lastScan is { } last ? Math.Max(0, now - last) : 0) : now;
        (Now, _lastScan) = (now, now);
        double[] measured = _terminals.Inputs, given = _terminals.Outputs;
        for (int i = 0; i < _inputs.Length; i++)
        {
            ref readonly Tie input = ref _inputs[i];
            // What is measured as before stands for what it stood for.
            double raw = measured[input.Terminal];
            if (BitConverter.DoubleToInt64Bits(raw) == BitConverter.DoubleToInt64Bits(_lastRaw[i])) continue;
            _lastRaw[i] = raw;
            var (value, status) = input.Signal.Read(input.Settings, raw);
            Set(input.Point, value, status, now);
        }
        HearBus(now);
        if (_simulated.Count > 0) TellSimulated(now);
        if (now >= _nextHoldEnd) EndHolds(now);
        for (int i = 0; i < _timed.Length; i++) _timed[i].EndLeast(now);
        for (int i = 0; i < _schedules.Length; i++) _schedules[i].Update(now + ClockOffset, _ladders, ref _readings[_points.Length + i]);
        for (int i = 0; i < _ahead.Length; i++) _readings[_ahead[i].At] = _ahead[i].Schedule.UntilChange(now + ClockOffset);
        if (_facts.Length > 0) TellFacts(now);
        if (!_started) ResolveLadders(now);
        for (int i = 0; i < _sequences.Length; i++)
        {
            RunningSequence running = _sequences[i];
            if (!running.IsDue(now)) continue;
            running.RanAt = now;
            Run(running);
            ResolveClaims(running, now);
        }
        ResolveLadders(now);
        if (_timed.Length > 0)
        {
            for (int i = 0; i < _timed.Length; i++) _timed[i].BeginLeast(now);
            ResolveLadders(now);
        }
        _started = true;
        for (int i = 0; i < _outputs.Length; i++)
        {
            ref readonly Tie output = ref _outputs[i];
            ref readonly PinValue reading = ref _readings[output.Point];
            if (reading.Status == _lastGiven[i].Status && reading.Value.Equals(_lastGiven[i].Value)) continue;
            _lastGiven[i] = reading;
            given[output.Terminal] = output.Signal.Write(output.Settings, reading.IsUsable ? reading.Value : double.NaN);
        }
        SayBus();
        for (int i = 0; i < _rings.Count; i++)
        {
            if (_rings[i].Running.RanAt == now) _rings[i].Note(now);
        }
        WatchAlarms(now);
        for (int i = 0; i < _trends.Length; i++)
        {
            ref readonly var trend = ref _trends[i];
            trend.Buffer.Offer(now, _readings[trend.Point].Value, _readings[trend.Point].Status | MarkOf(trend.Point));
        }
        _next = AfterBeat(now);
        for (int i = 0; i < _sequences.Length; i++) _next = Math.Min(_next, _sequences[i].Due);
        for (int i = 0; i < _timed.Length; i++) _next = Math.Min(_next, _timed[i].Until ?? long.MaxValue);
    }

    /// <inheritdoc/>
    public void Run(long now)
    {
        Ask(now);
        Scan(now);
        Tell(now);
    }

    /// <inheritdoc/>
    public long ClockOffset { get; set; }

    /// <inheritdoc/>
    public DeviceStart Start
    {
        get => _start;
        set
        {
            // While its program was stopped its outputs were at rest.
            if (value.Reason == RestartReason.Suspended && _lastScan is { } last && value.At > last) RestOutputs(last);
            _start = value;
        }
    }

    private DeviceStart _start;

    /// <summary>Has outputs with least times that were on be off since a moment.</summary>
    private void RestOutputs(long since)
    {
        foreach (Ladder ladder in _timed)
        {
            if (ladder.Standing is { On: true }) ladder.Stand(false, since);
        }
    }

    private void TellFacts(long now)
    {
        ZonedDateTime clock = Instant.FromUnixTimeMilliseconds(now + ClockOffset).InZone(Zone);
        for (int i = 0; i < _facts.Length; i++)
        {
            double value = _facts[i].Fact switch
            {
                ControllerFact.StartCause => StartCauses.NumberOf(Start.Reason),
                ControllerFact.SinceStart => Math.Max(0, now - Start.At) / 1000.0,
                ControllerFact.StartedAt => Start.At / 1000.0,
                ControllerFact.SystemStatus => SystemStates.NumberOf(Start.Status),
                ControllerFact.TimeOfDay => clock.TickOfDay / (double)NodaConstants.TicksPerSecond,
                _ => (int)clock.DayOfWeek,
            };
            _readings[_facts[i].At] = new PinValue(value, StatusFlags.None);
        }
    }

    /// <summary>The first beat after a moment: beats come at whole seconds of site time.</summary>
    private static long AfterBeat(long now) => ((now / BeatMilliseconds) + 1) * BeatMilliseconds;

    private void Run(RunningSequence running)
    {
        Plan plan = running.Plan;
        PlanState state = running.State;
        plan.Scan(state, _readings, RunMilliseconds / 1000.0);
        foreach (ClaimStep claim in plan.Claims) _ladders[claim.Ladder]?.Claim(claim.Priority, state.Slots[claim.Slot].Value, state.Slots[claim.Slot].Status);
    }

    private void ResolveClaims(RunningSequence running, long now)
    {
        foreach (ClaimStep claim in running.Plan.Claims) ResolveLadder(claim.Ladder, now);
    }

    private void ResolveLadders(long now)
    {
        for (int i = 0; i < _ladders.Length; i++) ResolveLadder(i, now);
    }

    private void ResolveLadder(int i, long now)
    {
        if (_ladders[i] is not { IsStale: true } ladder) return;
        ladder.Resolve();
        Set(i, ladder.Value, ladder.Status, now);
    }

    private void WatchAlarms(long now)
    {
        // Several alarms may watch one point, so the mark goes from all before it comes back to some.
        for (int i = 0; i < _alarms.Length; i++) _readings[_alarms[i].Point] = _readings[_alarms[i].Point].Unalarmed();
        for (int i = 0; i < _alarms.Length; i++)
        {
            ref readonly var alarm = ref _alarms[i];
            EventState before = alarm.Machine.State;
            if (alarm.Machine.Update(now, _readings[alarm.Point].Value, _readings[alarm.Point].Status))
                _events.Add(new AlarmEvent(_events.Count == 0 ? FirstEvent : Math.Max(FirstEvent, _events[^1].Number + 1), alarm.Rule.Id, before, alarm.Machine.State, now, _readings[alarm.Point].Value));
            if (alarm.Machine.State == EventState.Normal) continue;
            _readings[alarm.Point] = new PinValue(_readings[alarm.Point].Value, _readings[alarm.Point].Status | StatusFlags.InAlarm);
        }
        if (_events.Count > 20_000) _events.RemoveRange(0, 10_000);
    }

    private void EndHolds(long now)
    {
        foreach (Hold hold in _holds.Values.Where(h => h.UntilMilliseconds <= now).ToList()) ReleaseHold(hold.PointId);
    }

    private void Set(int i, double value, StatusFlags status, long now)
    {
        // Blocks count on it that what may be calculated with is a finite number.
        if (!double.IsFinite(value) && (status & (StatusFlags.Fault | StatusFlags.Released)) == 0) (value, status) = (double.NaN, status | StatusFlags.Fault);
        double before = _readings[i].Value;
        if (before != value && !(double.IsNaN(before) && double.IsNaN(value))) _since[i] = now;
        else if (_since[i] == 0) _since[i] = now;
        _readings[i] = new PinValue(value, status);
    }

    private Reading ReadingAt(int i) => new(_readings[i].Value, _readings[i].Status | MarkOf(i), _since[i]);

    /// <summary>Out of service, in the words of ISO 16484-5: what stands at its terminal is not its sensor's. Logic takes such a value as any other; whoever looks, and every record, is told.</summary>
    private StatusFlags MarkOf(int point) => _inputAt[point] is >= 0 and var at && _terminals.Simulated[at] ? StatusFlags.OutOfService : StatusFlags.None;

    /// <summary>Producers before consumers: a sequence that commands a point runs before one that reads it; ties and loops keep the order of ids.</summary>
    private static IEnumerable<Sequence> Ordered(List<Sequence> sequences)
    {
        var commands = sequences.SelectMany(s => s.Commands.Select(c => (c.PointId, s.Id))).ToLookup(x => x.PointId, x => x.Id);
        var waiting = sequences.ToDictionary(s => s.Id, s => s.Sources().Select(x => x.Source).OfType<PointSource>().SelectMany(p => commands[p.PointId]).Where(id => id != s.Id).ToHashSet());
        while (sequences.Count > 0)
        {
            Sequence next = sequences.FirstOrDefault(s => waiting[s.Id].Count == 0) ?? sequences[0];
            sequences.Remove(next);
            foreach (var set in waiting.Values) set.Remove(next.Id);
            yield return next;
        }
    }

    /// <summary>A terminal and the point on it, with what turns one into the other close at hand.</summary>
    private readonly record struct Tie(int Terminal, int Point, Signal Signal, SignalSettings Settings);

    private sealed class RunningSequence(Sequence sequence, (Plan Plan, Typing Typing) compiled)
    {
        private readonly long _period = Math.Max(1, (long)Math.Round(sequence.ScanSeconds * 1000));
        private long _due = long.MinValue;

        /// <summary>As it is calculated, in plain blocks.</summary>
        public Sequence Sequence { get; } = compiled.Typing.Plain;

        public Plan Plan { get; } = compiled.Plan;

        public Typing Typing { get; } = compiled.Typing;

        public PlanState State { get; set; } = compiled.Plan.NewState();

        /// <summary>The site time of its last scan, ms.</summary>
        public long RanAt { get; set; } = long.MinValue;

        /// <summary>When it is due next, ms of site time.</summary>
        public long Due => _due;

        /// <summary>Goes on from a scan that was made at a moment.</summary>
        public void GoOnAfter(long scan) => _due = ((scan / _period) + 1) * _period;

        public Reading Reading(int slot, long now) => new(State.Slots[slot].Value, State.Slots[slot].Status, now);

        public bool IsDue(long now)
        {
            if (now < _due) return false;
            // Due at whole periods of site time; the next one is mostly the next.
            _due = now - _due < _period && _due > 0 ? _due + _period : ((now / _period) + 1) * _period;
            return true;
        }
    }

    private sealed class RunningSchedule(Schedule schedule, DateTimeZone zone, Dictionary<RecordId, int> index)
    {
        private readonly (int Point, int Priority)[] _drives = [.. schedule.Drives.Where(d => index.ContainsKey(d.PointId)).Select(d => (index[d.PointId], d.Priority))];
        private long _from = long.MaxValue, _until = long.MinValue, _lookedAt = long.MaxValue, _changesAt = long.MinValue;

        public Schedule Schedule { get; } = schedule;

        public Timetable Timetable { get; } = new(schedule, zone);

        public double Value { get; private set; } = double.NaN;

        public StatusFlags Status { get; private set; } = StatusFlags.Released;

        /// <summary>How long until the value is another, s; released where that is further off than can be looked ahead.</summary>
        public PinValue UntilChange(long now)
        {
            if (now >= _changesAt || now < _lookedAt)
            {
                (_lookedAt, _changesAt) = (now, now);
                long end = now + (DaysAhead * NodaConstants.MillisecondsPerDay);
                double? present = Timetable.ValueAt(Instant.FromUnixTimeMilliseconds(now)).Value;
                while (_changesAt < end && Timetable.ValueAt(Instant.FromUnixTimeMilliseconds(_changesAt)) is var (value, _, until) && value == present) _changesAt = until.ToUnixTimeMilliseconds();
                _isFar = _changesAt >= end;
            }
            return _isFar ? PinValue.Released : new PinValue((_changesAt - now) / 1000.0, StatusFlags.None);
        }

        private const int DaysAhead = 8;
        private bool _isFar;

        public void Update(long now, Ladder?[] ladders, ref PinValue reading)
        {
            // A clock that was put back is before what was looked up by it.
            if (now < _until && now >= _from) return;
            _from = now;
            var (value, _, until) = Timetable.ValueAt(Instant.FromUnixTimeMilliseconds(now));
            Value = value ?? double.NaN;
            Status = value is null ? StatusFlags.Released : StatusFlags.None;
            reading = new PinValue(Value, Status);
            _until = until.ToUnixTimeMilliseconds();
            foreach (var (point, priority) in _drives) ladders[point]?.Claim(priority, Value, Status);
        }
    }
}
