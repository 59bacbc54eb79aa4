using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="SwitchingBehaviour"/> remembers.</summary>
public sealed class SwitchingState : BehaviourState
{
    /// <summary>What commands, delays and times would have; what the output is; whether it is locked; whether it is open for a moment to warn; whether the bus is there; the mains.</summary>
    public bool Wanted, Output, Locked, Blinks, HasBus = true, HasMains = true;

    /// <summary>Forced: 0 free, 2 off, 3 on.</summary>
    public int Forced;

    /// <summary>Moments at which something is due.</summary>
    public long OnAt = Behaviour.Never, OffAt = Behaviour.Never, WarnAt = Behaviour.Never, BlinkEndsAt = Behaviour.Never, FreeAt = long.MinValue, QuietUntil = long.MinValue, SayAt = Behaviour.Never, ReportAt = Behaviour.Never;

    /// <summary>Of a pulse: when it began, and whether an off has come meanwhile and when.</summary>
    public long PulseFrom = Behaviour.Never, OffHeardAt = Behaviour.Never;

    /// <summary>Of a valve: its demand in %, when its cycle began, when it was told last, when it is exercised next and until when.</summary>
    public double Demand;

    /// <summary>As <see cref="Demand"/>.</summary>
    public long CycleAt = Behaviour.Never, PhaseAt = Behaviour.Never, LateAt = Behaviour.Never, ExerciseAt = Behaviour.Never, ExerciseEndsAt = Behaviour.Never;

    /// <summary>Whether the demand has not been told for too long; whether that is to be said once more.</summary>
    public bool IsLate, SaysLate;

    /// <summary>What it counted.</summary>
    public RunMeter Meter = RunMeter.Off;

    /// <summary>The values of scenes, once they are known.</summary>
    public double[]? Scenes;

    /// <inheritdoc/>
    public override BehaviourState Copy()
    {
        var copy = (SwitchingState)base.Copy();
        copy.Scenes = (double[]?)Scenes?.Clone();
        return copy;
    }
}

/// <summary>
/// A switching output.
/// <list type="bullet">
/// <item>switching: as it is told. delay: an on comes after <c>onDelay</c>, an off after <c>offDelay</c>; what is told again does not begin the delay anew, the contrary ends it.</item>
/// <item>staircase: an on lasts <c>staircase</c>, then the warning (open for 1 s) and <c>warning</c> later it goes off; an on meanwhile begins anew, adds, or does nothing; an off ends it where <c>staircaseOff</c>.</item>
/// <item>pulse: an on lasts <c>pulse</c>; an off that comes meanwhile ends it <c>runOn</c> after the off, but not before the pulse is over.</item>
/// <item>valve: two-point as it is told, or in a cycle of <c>cycle</c> for the share that is demanded; without a demand for <c>valveWatch</c> it takes <c>valveEmergency</c>; every <c>exerciseEvery</c> it is open for <c>exerciseFor</c>.</item>
/// <item>Over all of that stands a lock, over the lock a forced position. Below the output stand <c>leastOn</c> and <c>leastOff</c>: it changes no sooner, whoever wants it.</item>
/// <item>When the bus fails it does <c>busLoss</c>, once its minimum time allows; a lock and a forced position have precedence over that and remain in force. When the bus returns it does <c>busReturn</c>, and what was on for a time, or waited for a delay, gets that time from the beginning. Without mains the relay is where it is, and the load has no power.</item>
/// </list>
/// </summary>
public sealed class SwitchingBehaviour : Behaviour<SwitchingState>, IMetered
{
    private const long BlinkMilliseconds = 1000;

    private static readonly ParameterDescription
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What the output is for.", ("switching", "Switching"), ("delay", "On and off delay"), ("staircase", "Staircase"), ("pulse", "Pulse with run-on"), ("valve", "Thermal valve drive"), (BehaviourKind.Disabled, "Disabled")),
        Contact = Parameters.Choice("contact", "Contact", "Whether the relay is closed or open when the output is on.", ("open", "Normally open"), ("closed", "Normally closed")).If("function != disabled and function != valve"),
        OnDelay = Parameters.Time("onDelay", "On delay", "How long an on waits.", 0, 0, 86_400).If("function = delay"),
        OffDelay = Parameters.Time("offDelay", "Off delay", "How long an off waits.", 60, 0, 86_400).If("function = delay"),
        Staircase = Parameters.Time("staircase", "Staircase time", "For how long it is on.", 180, 1, 86_400).If("function = staircase"),
        Again = Parameters.Choice("again", "An on meanwhile", "What an on does while the time runs.", ("anew", "begins anew"), ("adds", "adds the time once more"), ("nothing", "does nothing")).If("function = staircase"),
        AddsMost = Parameters.Numbered("addsMost", "Adds at most", "How many times the staircase time may have been added.", 5, 1, 20, "times", 1).If("function = staircase and again = adds"),
        StaircaseOff = Parameters.YesNo("staircaseOff", "An off ends it", "Whether an off ends the staircase time.", true).If("function = staircase"),
        Warning = Parameters.Time("warning", "Warning", "At the end of its time the output opens for a second and goes off this long later; 0: no warning.", 30, 0, 600).If("function = staircase"),
        Pulse = Parameters.Time("pulse", "Pulse", "For how long an on lasts.", 60, 1, 86_400).If("function = pulse"),
        RunOn = Parameters.Time("runOn", "Run-on", "How long it stays on after an off.", 0, 0, 86_400).If("function = pulse"),
        Signal = Parameters.Choice("valveSignal", "Demand", "How the demand comes.", ("percent", "Percentage, by pulse width"), ("binary", "On and off")).If("function = valve"),
        Valve = Parameters.Choice("valve", "Valve", "What the valve does without current.", ("closed", "Closed without current"), ("open", "Open without current")).If("function = valve"),
        Cycle = Parameters.Time("cycle", "Cycle", "The length of one cycle of the pulse width.", 900, 60, 7200).If("function = valve and valveSignal = percent"),
        Watch = Parameters.Time("valveWatch", "Demand expected every", "How long it goes on without being told; 0: for ever.", 3600, 0, 86_400).If("function = valve"),
        Emergency = Parameters.Percent("valveEmergency", "Position without a demand", "How far the valve opens when nothing has been told for too long.", 25).If("function = valve and valveWatch > 0"),
        ExerciseEvery = Parameters.Time("exerciseEvery", "Exercise every", "How often the valve is opened once so that it does not stick; 0: never.", 604_800, 0, 2_592_000).If("function = valve"),
        ExerciseFor = Parameters.Time("exerciseFor", "Exercise for", "For how long.", 300, 60, 3600).If("function = valve and exerciseEvery > 0"),
        LeastOn = Parameters.Time("leastOn", "Least time on", "Once on, it stays on for so long.", 0, 0, 3600).If("function != disabled"),
        LeastOff = Parameters.Time("leastOff", "Least time off", "Once off, it stays off for so long.", 0, 0, 3600).If("function != disabled"),
        Lock = Parameters.YesNo("lock", "Lock", "Whether it can be locked.").If("function != disabled"),
        LockAt = Parameters.Choice("lockAt", "Locked at", "Which value locks it.", ("one", "1"), ("zero", "0")).If("function != disabled and lock"),
        Locked = Parameters.Choice("locked", "When locked", "What it does when it is locked.", ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled and lock"),
        Unlocked = Parameters.Choice("unlocked", "When unlocked", "What it does afterwards.", ("follow", "as it was told meanwhile"), ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled and lock"),
        Forcing = Parameters.YesNo("forcing", "Forced position", "Whether it can be forced on or off.").If("function != disabled"),
        Unforced = Parameters.Choice("unforced", "When no longer forced", "What it does afterwards.", ("follow", "as it was told meanwhile"), ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled and forcing"),
        Scenes = SceneTable.Uses().If("function in switching, delay, staircase"),
        Learns = SceneTable.Learns().If("function in switching, delay, staircase and scenes"),
        SceneNumber = SceneTable.Number().If("function in switching, delay, staircase and scenes"),
        SceneValue = (Parameters.Choice("scene{i}Is", "Scene {i} is", "What the scene brings.", ("off", "off"), ("on", "on")) with { Repeat = SceneTable.Usual }).If("function in switching, delay, staircase and scenes and scene{i} > 0"),
        BusLoss = Parameters.Choice("busLoss", "When the bus is gone", "What the relay does.", ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled"),
        BusReturn = Parameters.Choice("busReturn", "When the bus is back", "What it does then.", ("before", "as before it went"), ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled"),
        StateEvery = Parameters.Time("stateEvery", "State again every", "The state is sent when it changes, and again so often; 0: only then.", 0, 0, 86_400).If("function != disabled"),
        Meter = MeterSettings.Meter().If("function != disabled"),
        Watts = MeterSettings.Watts().If("function != disabled and meter"),
        ReportEvery = MeterSettings.Every().If("function != disabled and meter");

    private static readonly BehaviourObject
        Switch = new("switch", "{channel} · switch", "1.001", "CW", "switch") { Watch = Watch, When = "function in switching, delay, staircase, pulse or (function = valve and valveSignal = binary)", Passes = ["state", "demandState", "demandFault"] },
        DemandObject = new("demand", "{channel} · demand", "5.001", "CW", "demand") { Watch = Watch, When = "function = valve and valveSignal = percent", Passes = ["state", "demandState", "demandFault"] },
        State = new("state", "{channel} · state", "1.001", "CRT", "switch state") { When = "function != disabled", Again = StateEvery },
        DemandState = new("demandState", "{channel} · demand in force", "5.001", "CRT", "demand state") { When = "function = valve" },
        DemandFault = new("demandFault", "{channel} · no demand", "1.005", "CRT") { When = "function = valve and valveWatch > 0", Priority = BusPriority.Urgent },
        LockObject = new("lockIt", "{channel} · lock", "1.003", "CW", "lock") { When = "function != disabled and lock", Passes = ["state"] },
        ForceObject = new("force", "{channel} · force", "2.001", "CW", "force") { When = "function != disabled and forcing", Passes = ["state"] },
        SceneObject = new("scene", "{channel} · scene", "18.001", "CW", "scene") { When = "function in switching, delay, staircase and scenes", Passes = ["state"], Scenes = SceneNumber },
        HoursObject = new("hours", "{channel} · operating hours", "12.102", "CRT", "hours") { When = "function != disabled and meter", Again = ReportEvery },
        CyclesObject = new("cycles", "{channel} · cycles", "12.001", "CRT", "cycles") { When = "function != disabled and meter", Again = ReportEvery },
        EnergyObject = new("energy", "{channel} · energy", "13.010", "CRT", "energy") { When = "function != disabled and meter", Again = ReportEvery },
        ResetObject = new("reset", "{channel} · reset counters", "1.015", "CW") { When = "function != disabled and meter", Passes = ["hours", "cycles", "energy"] };

    private static readonly ParameterDescription[] EachScene = SceneTable.Each(SceneValue);

    private static readonly BehaviourPort Output = new("output", "{channel}") { States = ["off", "on"], Quantity = "run" };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("switching", "Switching output",
        [Function, Contact, OnDelay, OffDelay, Staircase, Again, AddsMost, StaircaseOff, Warning, Pulse, RunOn, Signal, Valve, Cycle, Watch, Emergency, ExerciseEvery, ExerciseFor, LeastOn, LeastOff, Lock, LockAt, Locked, Unlocked, Forcing, Unforced, Scenes, Learns, SceneNumber, SceneValue, BusLoss, BusReturn, StateEvery, DeviceBehaviour.SendDelay, Meter, Watts, ReportEvery],
        [Switch, DemandObject, State, DemandState, DemandFault, LockObject, ForceObject, SceneObject, HoursObject, CyclesObject, EnergyObject, ResetObject], [], [Output], s => new SwitchingBehaviour(s));

    private readonly string _function, _again, _lockedTo, _unlocked, _unforced, _busLoss, _busReturn;
    private readonly long _onDelay, _offDelay, _staircase, _warning, _pulse, _runOn, _cycle, _watch, _exerciseEvery, _exerciseFor, _leastOn, _leastOff, _stateEvery, _sendDelay, _reportEvery;
    private readonly double _addsMost, _emergency, _watts;
    private readonly bool _staircaseOff, _isPercent, _isInverse, _learns, _meters, _hasLock, _hasForce;
    private readonly double _lockValue;
    private readonly SceneTable _scenes;

    private SwitchingBehaviour(SettingValues s)
    {
        (_function, _again, _lockedTo, _unlocked, _unforced, _busLoss, _busReturn) = (s.Text(Function), s.Text(Again), s.Text(Locked), s.Text(Unlocked), s.Text(Unforced), s.Text(BusLoss), s.Text(BusReturn));
        (_onDelay, _offDelay, _staircase, _warning, _pulse, _runOn) = (s.Milliseconds(OnDelay), s.Milliseconds(OffDelay), s.Milliseconds(Staircase), s.Milliseconds(Warning), s.Milliseconds(Pulse), s.Milliseconds(RunOn));
        (_cycle, _watch, _exerciseEvery, _exerciseFor) = (s.Milliseconds(Cycle), s.Milliseconds(Watch), s.Milliseconds(ExerciseEvery), s.Milliseconds(ExerciseFor));
        (_leastOn, _leastOff, _stateEvery, _sendDelay, _reportEvery) = (s.Milliseconds(LeastOn), s.Milliseconds(LeastOff), s.Milliseconds(StateEvery), s.Milliseconds(DeviceBehaviour.SendDelay), s.Milliseconds(ReportEvery));
        (_addsMost, _emergency, _watts) = (s.Number(AddsMost), s.Number(Emergency), s.Number(Watts));
        (_staircaseOff, _learns, _meters, _hasLock, _hasForce) = (s.Yes(StaircaseOff), s.Yes(Learns), s.Yes(Meter), s.Yes(Lock), s.Yes(Forcing));
        _isPercent = _function == "valve" && s.Text(Signal) == "percent";
        _isInverse = _function == "valve" ? s.Text(Valve) == "open" : s.Text(Contact) == "closed";
        _lockValue = s.Text(LockAt) == "one" ? 1 : 0;
        _scenes = new SceneTable(s, Scenes, SceneNumber, SceneValue, (value, i) => s.Text(value, i) == "on" ? 1 : 0);
    }

    /// <inheritdoc/>
    RunMeter IMetered.Meter => S.Meter;

    /// <inheritdoc/>
    double IMetered.Watts => _meters ? _watts : double.NaN;

    /// <inheritdoc/>
    public override long NextDue => _function == BehaviourKind.Disabled ? Never : !S.HasBus ? (LossTarget() == S.Output ? Never : S.FreeAt)
        : Sooner(Sooner(S.OnAt, S.OffAt, S.WarnAt, S.BlinkEndsAt, S.SayAt, S.ReportAt), Sooner(S.PhaseAt, S.CycleAt, S.LateAt, S.ExerciseAt, S.ExerciseEndsAt), Target() == S.Output ? Never : S.FreeAt);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (_function == BehaviourKind.Disabled) return;
        S.Scenes = _scenes.Known(S.Scenes);
        if (wake == Wake.Mains)
        {
            S.HasMains = true;
            S.Meter.Turn(now, S.Output);
            return;
        }
        (S.HasBus, S.QuietUntil) = (true, FirstSendAt(now, _sendDelay));
        if (wake == Wake.Bus)
        {
            Because(BusReturn, "the bus is back");
            if (_busReturn is "on" or "off") Command(now, _busReturn == "on", BusReturn, "the bus is back");
            else if (_busReturn == "keep") S.Wanted = S.Output;
            if (_busReturn is "keep" or "before") RestartTimes(now);
        }
        else Drive(now, Output, Closed ? 1 : 0);
        Apply(now, BusReturn, "the bus is back");
        S.SayAt = S.QuietUntil;
        S.ReportAt = _meters ? now + _reportEvery : Never;
        if (_function != "valve") return;
        S.SaysLate = wake == Wake.Bus || S.IsLate;
        S.LateAt = _watch > 0 ? now + _watch : Never;
        S.ExerciseAt = _exerciseEvery > 0 ? now + _exerciseEvery : Never;
        if (_isPercent) BeginCycle(now);
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (!S.HasBus || _function == BehaviourKind.Disabled) return;
        if (what == Switch)
        {
            Told(now);
            if (_function == "valve") Demand(now, value >= 0.5 ? 100 : 0, Function, value >= 0.5 ? "told on" : "told off");
            else Command(now, value >= 0.5, Function, value >= 0.5 ? "told on" : "told off");
        }
        else if (what == DemandObject)
        {
            Told(now);
            Demand(now, value, Cycle, "another demand");
        }
        else if (what == LockObject)
        {
            bool locks = value == _lockValue;
            if (locks == S.Locked || !_hasLock) return;
            S.Locked = locks;
            EndBlink(now, Locked, "locked");
            if (locks) Apply(now, Locked, "locked");
            else Free(now, _unlocked, Unlocked, "unlocked");
        }
        else if (what == ForceObject)
        {
            int forced = (int)value >= 2 ? (int)value : 0, before = S.Forced;
            if (forced == before || !_hasForce) return;
            S.Forced = forced;
            EndBlink(now, Forcing, "forced");
            if (forced > 0) Apply(now, Forcing, forced == 3 ? "forced on" : "forced off");
            else Free(now, _unforced, Unforced, "no longer forced");
        }
        else if (what == SceneObject)
        {
            int at = _scenes.Find(value, out bool stores);
            if (at < 0) return;
            if (!stores) Command(now, S.Scenes![at] > 0.5, EachScene[at], "scene");
            else if (_learns) S.Scenes![at] = S.Wanted ? 1 : 0;
        }
        else if (what == ResetObject && value >= 0.5)
        {
            S.Meter.Reset(now);
            Report(now);
        }
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (_function == BehaviourKind.Disabled) return;
        if (!S.HasBus)
        {
            ApplyLoss(now);
            return;
        }
        if (now >= S.BlinkEndsAt)
        {
            (S.Blinks, S.BlinkEndsAt) = (false, Never);
            Because(Warning, "the warning was given");
            Drive(now, Output, Closed ? 1 : 0);
        }
        if (now >= S.WarnAt)
        {
            S.WarnAt = Never;
            // What is locked or forced stays closed: nothing goes off soon.
            if (S.Output && S.Forced == 0 && !S.Locked)
            {
                (S.Blinks, S.BlinkEndsAt) = (true, now + Math.Min(BlinkMilliseconds, _warning));
                Because(Warning, "warning: it goes off soon");
                Drive(now, Output, Closed ? 1 : 0);
            }
        }
        if (now >= S.OnAt)
        {
            (S.OnAt, S.Wanted) = (Never, true);
            Apply(now, OnDelay, "the on delay is over");
        }
        if (now >= S.OffAt)
        {
            (S.OffAt, S.PulseFrom, S.OffHeardAt, S.Wanted) = (Never, Never, Never, false);
            (S.Blinks, S.BlinkEndsAt) = (false, Never);
            Apply(now, _function switch { "delay" => OffDelay, "staircase" => Staircase, _ => Pulse }, _function == "delay" ? "the off delay is over" : "its time is over");
        }
        if (now >= S.LateAt)
        {
            (S.LateAt, S.IsLate) = (Never, true);
            Because(Watch, "no demand was told for too long");
            Say(DemandFault, 1);
            Demand(now, _emergency, Emergency, "no demand was told for too long");
        }
        if (now >= S.ExerciseEndsAt)
        {
            S.ExerciseEndsAt = Never;
            Apply(now, ExerciseFor, "the exercise is over");
        }
        if (now >= S.ExerciseAt)
        {
            (S.ExerciseAt, S.ExerciseEndsAt) = (now + _exerciseEvery, now + _exerciseFor);
            Apply(now, ExerciseEvery, "the valve is exercised");
        }
        if (now >= S.CycleAt) BeginCycle(now);
        if (now >= S.PhaseAt)
        {
            (S.PhaseAt, S.Wanted) = (Never, false);
            Apply(now, Cycle, "its share of the cycle is over");
        }
        if (now >= S.FreeAt && Target() != S.Output) Apply(now, S.Output ? LeastOn : LeastOff, "its least time is over");
        if (now >= S.SayAt) SayState(now);
        if (now >= S.ReportAt) Report(now);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (_function == BehaviourKind.Disabled) return;
        if (supply == Supply.Mains)
        {
            S.HasMains = false;
            S.Meter.Turn(now, false);
            return;
        }
        S.HasBus = false;
        (S.WarnAt, S.SayAt, S.ReportAt) = (Never, Never, Never);
        (S.CycleAt, S.PhaseAt, S.LateAt, S.ExerciseAt, S.ExerciseEndsAt) = (Never, Never, Never, Never, Never);
        EndBlink(now, BusLoss, "the bus is gone");
        ApplyLoss(now);
    }

    /// <summary>What the output is to be while there is no bus: a forced position and a lock have precedence over the reaction to the loss.</summary>
    private bool LossTarget() => S.Forced != 0 ? S.Forced == 3 : S.Locked ? _lockedTo == "keep" ? S.Output : _lockedTo == "on" : _busLoss == "keep" ? S.Output : _busLoss == "on";

    private void ApplyLoss(long now)
    {
        if (LossTarget() == S.Output || now < S.FreeAt) return;
        Because(BusLoss, "the bus is gone");
        Set(now, LossTarget());
    }

    /// <summary>After bus return the time that was left is unknown: a timed output and a running delay start again with their full time.</summary>
    private void RestartTimes(long now)
    {
        switch (_function)
        {
            case "staircase" when S.Wanted:
                Light(now);
                break;
            case "pulse" when S.Wanted:
                (S.PulseFrom, S.OffHeardAt, S.OffAt) = (now, Never, now + _pulse);
                break;
            case "delay":
                S.OffAt = S.Wanted && S.OffAt != Never ? now + _offDelay : Never;
                S.OnAt = !S.Wanted && S.OnAt != Never && _busReturn == "before" ? now + _onDelay : Never;
                break;
            default:
                (S.OnAt, S.OffAt) = (Never, Never);
                break;
        }
    }

    private void EndBlink(long now, ParameterDescription by, string fact)
    {
        if (!S.Blinks) return;
        (S.Blinks, S.BlinkEndsAt) = (false, Never);
        Because(by, fact);
        Drive(now, Output, Closed ? 1 : 0);
    }

    private bool Closed => (S.Output && !S.Blinks) != _isInverse;

    private bool Target() => S.Forced == 3 || (S.Forced != 2 && (S.Locked && _lockedTo != "keep" ? _lockedTo == "on" : S.Locked ? S.Output : S.ExerciseEndsAt != Never || S.Wanted));

    private void Command(long now, bool on, ParameterDescription? by, string fact)
    {
        switch (_function)
        {
            case "delay" when on:
                S.OffAt = Never;
                if (_onDelay == 0) S.Wanted = true;
                else if (!S.Wanted) S.OnAt = Math.Min(S.OnAt, now + _onDelay);
                break;
            case "delay":
                S.OnAt = Never;
                if (_offDelay == 0) S.Wanted = false;
                else if (S.Wanted) S.OffAt = Math.Min(S.OffAt, now + _offDelay);
                break;
            case "staircase" when on:
                if (!S.Wanted || _again == "anew") Light(now);
                else if (_again == "adds") Until(Math.Min(S.OffAt - _warning + _staircase, now + (long)(_staircase * _addsMost)), now);
                break;
            case "staircase":
                if (!_staircaseOff) return;
                (S.Wanted, S.OffAt, S.WarnAt, S.Blinks, S.BlinkEndsAt) = (false, Never, Never, false, Never);
                break;
            case "pulse" when on:
                if (S.PulseFrom == Never) (S.Wanted, S.PulseFrom, S.OffAt) = (true, now, now + _pulse);
                S.OffHeardAt = Never;
                S.OffAt = S.PulseFrom + _pulse;
                break;
            case "pulse":
                if (S.PulseFrom == Never || S.OffHeardAt != Never) return;
                S.OffHeardAt = now;
                S.OffAt = Math.Max(S.PulseFrom + _pulse, now + _runOn);
                break;
            default:
                S.Wanted = on;
                if (_function == "valve") S.Demand = on ? 100 : 0;
                break;
        }
        Apply(now, by, fact);
    }

    private void Light(long now)
    {
        S.Wanted = true;
        Until(now + _staircase, now);
    }

    private void Until(long end, long now)
    {
        (S.WarnAt, S.OffAt) = (_warning > 0 ? end : Never, end + _warning);
        EndBlink(now, Warning, "told on while it warned");
    }

    private void Free(long now, string how, ParameterDescription by, string fact)
    {
        if (how == "keep") S.Wanted = S.Output;
        else if (how is "on" or "off") Command(now, how == "on", by, fact);
        Apply(now, by, fact);
    }

    private void Told(long now)
    {
        if (_function != "valve") return;
        S.LateAt = _watch > 0 ? now + _watch : Never;
        if (!S.IsLate) return;
        S.IsLate = false;
        Because(Watch, "a demand was told again");
        Say(DemandFault, 0);
    }

    private void Demand(long now, double percent, ParameterDescription by, string fact)
    {
        percent = Math.Clamp(percent, 0, 100);
        if (!_isPercent)
        {
            // Open or closed, and nothing between.
            S.Wanted = percent >= 50;
            double opens = S.Wanted ? 100 : 0;
            if (opens != S.Demand)
            {
                S.Demand = opens;
                Because(by, fact);
                Say(DemandState, opens);
            }
            Apply(now, by, fact);
            return;
        }
        if (percent == S.Demand) return;
        S.Demand = percent;
        Because(by, fact);
        Say(DemandState, percent);
        // What is left of the cycle goes by the new demand at once.
        long ends = S.CycleAt - _cycle + Share;
        (S.Wanted, S.PhaseAt) = percent >= 100 ? (true, Never) : ends > now ? (true, ends) : (false, Never);
        Apply(now, by, fact);
    }

    private long Share => (long)(_cycle * S.Demand / 100);

    private void BeginCycle(long now)
    {
        S.CycleAt = now + _cycle;
        (S.Wanted, S.PhaseAt) = S.Demand >= 100 ? (true, Never) : Share > 0 ? (true, now + Share) : (false, Never);
        Apply(now, Cycle, "a cycle begins");
    }

    private void Apply(long now, ParameterDescription? by, string fact)
    {
        bool target = Target();
        if (target == S.Output || now < S.FreeAt) return;
        Because(by, fact);
        Set(now, target);
    }

    private void Set(long now, bool on)
    {
        S.Output = on;
        S.FreeAt = now + (on ? _leastOn : _leastOff);
        S.Meter.Turn(now, on && S.HasMains);
        Drive(now, Output, Closed ? 1 : 0);
        if (!S.HasBus) return;
        if (now < S.QuietUntil) Keep(State, on ? 1 : 0);
        else
        {
            Say(State, on ? 1 : 0);
            if (_stateEvery > 0) S.SayAt = now + _stateEvery;
        }
    }

    private void SayState(long now)
    {
        S.SayAt = _stateEvery > 0 ? now + _stateEvery : Never;
        Because(_stateEvery > 0 ? StateEvery : DeviceBehaviour.SendDelay, "its state once more");
        Say(State, S.Output ? 1 : 0);
        if (_function != "valve") return;
        Say(DemandState, S.Demand);
        if (_watch > 0 && S.SaysLate) Say(DemandFault, S.IsLate ? 1 : 0);
        S.SaysLate = false;
    }

    private void Report(long now)
    {
        S.ReportAt = now + _reportEvery;
        Because(ReportEvery, "what it has counted");
        Say(HoursObject, Math.Floor(S.Meter.Hours(now)));
        Say(CyclesObject, S.Meter.Cycles);
        Say(EnergyObject, Math.Round(S.Meter.WattHours(now, _watts)));
    }
}
