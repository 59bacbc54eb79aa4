using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="DimmingBehaviour"/> remembers.</summary>
public sealed class DimmingState : BehaviourState
{
    /// <summary>How bright it is by command, %, on its way from one moment to another.</summary>
    public long From = long.MinValue, Until = long.MinValue;

    /// <summary>As <see cref="From"/>: where the way begins and ends, %; the last brightness at which it was on; what locks and forces are over; at what a lock keeps it.</summary>
    public double At, To, Last = 100, Wanted, LockedAt = double.NaN;

    /// <summary>Whether it is night, locked, has the bus and the mains; whether its state was said as on.</summary>
    public bool IsNight, Locked, HasBus = true, HasMains = true, SaidOn;

    /// <summary>Forced: 0 free, 2 off, 3 on.</summary>
    public int Forced;

    /// <summary>Moments at which something is due.</summary>
    public long WarnAt = Behaviour.Never, OffAt = Behaviour.Never, SayAt = Behaviour.Never, ReportAt = Behaviour.Never, ArriveAt = Behaviour.Never, QuietUntil = long.MinValue;

    /// <summary>What it counted.</summary>
    public RunMeter Meter = RunMeter.Off;

    /// <summary>The values of scenes, once they are known.</summary>
    public double[]? Scenes;

    /// <inheritdoc/>
    public override BehaviourState Copy()
    {
        var copy = (DimmingState)base.Copy();
        copy.Scenes = (double[]?)Scenes?.Clone();
        return copy;
    }
}

/// <summary>
/// A dimmed output. Brightness is told and said from 0 to 100 %; what the load gets lies between <c>least</c> and <c>most</c>
/// along the curve: straight, or by the square or the cube, as the eye sees it.
/// <list type="bullet">
/// <item>On goes within <c>softOn</c> to <c>onAt</c> (by night <c>nightAt</c>) or to where it was last; off within <c>softOff</c> to 0.</item>
/// <item>A value is reached at the pace of <c>valueTime</c> for the whole range, or at once where that is 0.</item>
/// <item>Relative dimming goes at the pace of <c>dimTime</c> for the whole range by 100 % / 2^(step − 1); step 0 stops where it is. It ends at 1 % unless <c>dimOff</c>, and begins only when it is on unless <c>dimOn</c>.</item>
/// <item>Staircase: an on lasts <c>staircase</c>; then it goes to <c>warnAt</c> for <c>warning</c>, then off.</item>
/// <item>Over all of that stands a lock, over the lock a forced position; what is told meanwhile is what it goes to afterwards.</item>
/// <item>Without bus it does <c>busLoss</c>, over which a lock and a forced position have precedence; without mains it is dark. When they return, <c>busReturn</c> and <c>mainsReturn</c>.</item>
/// <item>Its state is said when it goes on or off, its brightness when it has arrived or is stopped.</item>
/// </list>
/// </summary>
public sealed class DimmingBehaviour : Behaviour<DimmingState>, IMetered
{
    private static readonly ParameterDescription
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What the output is for.", ("dimming", "Dimming"), ("staircase", "Staircase"), (BehaviourKind.Disabled, "Disabled")),
        Curve = Parameters.Choice("curve", "Curve", "How what the load gets follows the brightness that is told.", ("straight", "Straight"), ("square", "By the square"), ("cube", "By the cube, as the eye sees it")).If("function != disabled"),
        Least = Parameters.Percent("least", "Least output", "What the load gets at the lowest brightness; below it lamps flicker.", 5, 0, 50).If("function != disabled"),
        Most = Parameters.Percent("most", "Greatest output", "What the load gets at 100 %.", 100, 51, 100).If("function != disabled"),
        OnAt = Parameters.Choice("on", "When switched on", "How bright it becomes.", ("fixed", "to a fixed brightness"), ("last", "to where it was last")).If("function != disabled"),
        OnValue = Parameters.Percent("onAt", "Brightness when on", "By day.", 100, 1).If("function != disabled and on = fixed"),
        Night = Parameters.YesNo("night", "Day and night", "Whether it comes on otherwise by night.").If("function != disabled"),
        NightValue = Parameters.Percent("nightAt", "Brightness when on by night", "By night.", 20, 1).If("function != disabled and night"),
        SoftOn = Parameters.Time("softOn", "Soft on", "How long it takes to come on.", 0.4, 0, 600).If("function != disabled"),
        SoftOff = Parameters.Time("softOff", "Soft off", "How long it takes to go off.", 0.4, 0, 600).If("function != disabled"),
        DimTime = Parameters.Time("dimTime", "Time to dim", "For the whole range by relative dimming.", 5, 0.5, 300).If("function != disabled"),
        ValueTime = Parameters.Time("valueTime", "Time to a value", "For the whole range towards a value or a scene; 0: at once.", 0, 0, 3600).If("function != disabled"),
        DimOn = Parameters.YesNo("dimOn", "Dimming brighter switches on", "Whether relative dimming begins when it is off.", true).If("function != disabled"),
        DimOff = Parameters.YesNo("dimOff", "Dimming darker switches off", "Whether relative dimming ends at 0 % instead of 1 %.").If("function != disabled"),
        Staircase = Parameters.Time("staircase", "Staircase time", "For how long it is on.", 180, 1, 86_400).If("function = staircase"),
        Warning = Parameters.Time("warning", "Warning", "For how long it is dimmed before it goes off; 0: no warning.", 20, 0, 600).If("function = staircase"),
        WarnValue = Parameters.Percent("warnAt", "Brightness as a warning", "How bright it is then.", 15, 1).If("function = staircase and warning > 0"),
        Lock = Parameters.YesNo("lock", "Lock", "Whether it can be locked.").If("function != disabled"),
        Locked = Parameters.Choice("locked", "When locked", "What it does when it is locked.", ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled and lock"),
        Unlocked = Parameters.Choice("unlocked", "When unlocked", "What it does afterwards.", ("follow", "as it was told meanwhile"), ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled and lock"),
        Forcing = Parameters.YesNo("forcing", "Forced position", "Whether it can be forced on or off.").If("function != disabled"),
        Scenes = SceneTable.Uses().If("function != disabled"),
        Learns = SceneTable.Learns().If("function != disabled and scenes"),
        SceneNumber = SceneTable.Number().If("function != disabled and scenes"),
        SceneValue = (Parameters.Percent("scene{i}Is", "Scene {i} is", "The brightness that the scene brings.", 50) with { Repeat = SceneTable.Usual }).If("function != disabled and scenes and scene{i} > 0"),
        BusLoss = Parameters.Choice("busLoss", "When the bus is gone", "What it does.", ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("function != disabled"),
        BusReturn = Parameters.Choice("busReturn", "When the bus is back", "What it does then.", ("keep", "stays as it is"), ("before", "as before it went"), ("off", "off"), ("on", "on")).If("function != disabled"),
        MainsReturn = Parameters.Choice("mainsReturn", "When the mains are back", "What it does then.", ("before", "as before they went"), ("off", "off"), ("on", "on")).If("function != disabled"),
        StateEvery = Parameters.Time("stateEvery", "State again every", "State and brightness are sent when they change, and again so often; 0: only then.", 0, 0, 86_400).If("function != disabled"),
        Meter = MeterSettings.Meter().If("function != disabled"),
        Watts = MeterSettings.Watts().If("function != disabled and meter"),
        ReportEvery = MeterSettings.Every().If("function != disabled and meter");

    private static readonly BehaviourObject
        Switch = new("switch", "{channel} · switch", "1.001", "CW", "switch") { When = "function != disabled", Passes = ["state", "valueState"] },
        Dim = new("dim", "{channel} · dim", "3.007", "CW", "dim") { When = "function != disabled", Passes = ["state", "valueState"] },
        Value = new("value", "{channel} · brightness", "5.001", "CW", "value") { When = "function != disabled", Passes = ["state", "valueState"] },
        State = new("state", "{channel} · state", "1.001", "CRT", "switch state") { When = "function != disabled", Again = StateEvery },
        ValueState = new("valueState", "{channel} · brightness in force", "5.001", "CRT", "value state") { When = "function != disabled", Again = StateEvery },
        NightObject = new("nightIs", "{channel} · day or night", "1.024", "CW", "night") { When = "function != disabled and night", Passes = ["state", "valueState"] },
        LockObject = new("lockIt", "{channel} · lock", "1.003", "CW", "lock") { When = "function != disabled and lock", Passes = ["state", "valueState"] },
        ForceObject = new("force", "{channel} · force", "2.001", "CW", "force") { When = "function != disabled and forcing", Passes = ["state", "valueState"] },
        SceneObject = new("scene", "{channel} · scene", "18.001", "CW", "scene") { When = "function != disabled and scenes", Passes = ["state", "valueState"], Scenes = SceneNumber },
        HoursObject = new("hours", "{channel} · operating hours", "12.102", "CRT", "hours") { When = "function != disabled and meter", Again = ReportEvery },
        CyclesObject = new("cycles", "{channel} · cycles", "12.001", "CRT", "cycles") { When = "function != disabled and meter", Again = ReportEvery },
        EnergyObject = new("energy", "{channel} · energy", "13.010", "CRT", "energy") { When = "function != disabled and meter", Again = ReportEvery },
        ResetObject = new("reset", "{channel} · reset counters", "1.015", "CW") { When = "function != disabled and meter", Passes = ["hours", "cycles", "energy"] };

    private static readonly ParameterDescription[] EachScene = SceneTable.Each(SceneValue);

    private static readonly BehaviourPort Level = new("level", "{channel}", "%", 0, 100) { Quantity = "level" };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("dimming", "Dimmed output",
        [Function, Curve, Least, Most, OnAt, OnValue, Night, NightValue, SoftOn, SoftOff, DimTime, ValueTime, DimOn, DimOff, Staircase, Warning, WarnValue, Lock, Locked, Unlocked, Forcing, Scenes, Learns, SceneNumber, SceneValue, BusLoss, BusReturn, MainsReturn, StateEvery, DeviceBehaviour.SendDelay, Meter, Watts, ReportEvery],
        [Switch, Dim, Value, State, ValueState, NightObject, LockObject, ForceObject, SceneObject, HoursObject, CyclesObject, EnergyObject, ResetObject], [], [Level], s => new DimmingBehaviour(s));

    private readonly string _function, _lockedTo, _unlocked, _busLoss, _busReturn, _mainsReturn;
    private readonly double _least, _most, _onValue, _nightValue, _warnValue, _watts, _power;
    private readonly bool _isFixed, _hasNight, _dimOn, _dimOff, _learns, _meters, _hasLock, _hasForce;
    private readonly long _softOn, _softOff, _dimTime, _valueTime, _staircase, _warning, _stateEvery, _sendDelay, _reportEvery;
    private readonly SceneTable _scenes;

    private DimmingBehaviour(SettingValues s)
    {
        (_function, _lockedTo, _unlocked, _busLoss, _busReturn, _mainsReturn) = (s.Text(Function), s.Text(Locked), s.Text(Unlocked), s.Text(BusLoss), s.Text(BusReturn), s.Text(MainsReturn));
        (_least, _most, _onValue, _nightValue, _warnValue, _watts) = (s.Number(Least), s.Number(Most), s.Number(OnValue), s.Number(NightValue), s.Number(WarnValue), s.Number(Watts));
        _power = s.Text(Curve) switch { "square" => 2, "cube" => 3, _ => 1 };
        (_isFixed, _hasNight, _dimOn, _dimOff, _learns, _meters, _hasLock, _hasForce) = (s.Text(OnAt) == "fixed", s.Yes(Night), s.Yes(DimOn), s.Yes(DimOff), s.Yes(Learns), s.Yes(Meter), s.Yes(Lock), s.Yes(Forcing));
        (_softOn, _softOff, _dimTime, _valueTime) = (s.Milliseconds(SoftOn), s.Milliseconds(SoftOff), s.Milliseconds(DimTime), s.Milliseconds(ValueTime));
        (_staircase, _warning, _stateEvery, _sendDelay, _reportEvery) = (s.Milliseconds(Staircase), s.Milliseconds(Warning), s.Milliseconds(StateEvery), s.Milliseconds(DeviceBehaviour.SendDelay), s.Milliseconds(ReportEvery));
        _scenes = new SceneTable(s, Scenes, SceneNumber, SceneValue, (value, i) => s.Number(value, i));
    }

    /// <inheritdoc/>
    RunMeter IMetered.Meter => S.Meter;

    /// <inheritdoc/>
    double IMetered.Watts => _meters ? _watts : double.NaN;

    /// <inheritdoc/>
    public override long NextDue => _function == BehaviourKind.Disabled ? Never : !S.HasBus ? S.ArriveAt : Sooner(S.WarnAt, S.OffAt, S.SayAt, S.ReportAt, S.ArriveAt);

    /// <summary>What the load gets of its full power at a brightness, %: 0 at 0, else from the least to the greatest along the curve.</summary>
    public double OutputAt(double brightness) => brightness <= 0 ? 0 : _least + ((_most - _least) * Math.Pow(brightness / 100, _power));

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (_function == BehaviourKind.Disabled) return;
        S.Scenes = _scenes.Known(S.Scenes);
        if (wake == Wake.Mains)
        {
            S.HasMains = true;
            Because(MainsReturn, "the mains are back");
            double before = S.Wanted;
            S.Wanted = _mainsReturn switch { "off" => 0, "on" => OnBrightness, _ => before };
            Go(now, 0);
            return;
        }
        (S.HasBus, S.QuietUntil) = (true, FirstSendAt(now, _sendDelay));
        if (wake == Wake.Bus)
        {
            Because(BusReturn, "the bus is back");
            // Without mains it is dark now; what it keeps is what it will be once they return.
            if (_busReturn == "keep") S.Wanted = S.HasMains ? Bright(now) : S.Wanted;
            else if (_busReturn != "before") S.Wanted = _busReturn == "on" ? OnBrightness : 0;
            Go(now, 0);
            if (_function == "staircase" && S.Wanted > 0) Light(now);
        }
        else World.Drive(this, Level, Course.Standing(now, S.To));
        S.SayAt = S.QuietUntil;
        S.ReportAt = _meters ? now + _reportEvery : Never;
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (!S.HasBus || _function == BehaviourKind.Disabled) return;
        if (what == Switch) Command(now, value >= 0.5 ? OnBrightness : 0, value >= 0.5 ? _softOn : _softOff, Function, value >= 0.5 ? "told on" : "told off");
        else if (what == Value) Command(now, Math.Clamp(value, 0, 100), Pace(now, value, _valueTime), ValueTime, "told a brightness");
        else if (what == Dim) DimBy(now, (int)value);
        else if (what == NightObject) S.IsNight = value >= 0.5;
        else if (what == LockObject && _hasLock && S.Locked != value >= 0.5)
        {
            S.Locked = value >= 0.5;
            if (S.Locked)
            {
                S.LockedAt = S.HasMains ? Bright(now) : S.Wanted;
                Because(Locked, "locked");
                Go(now, _lockedTo == "keep" ? 0 : _softOff);
            }
            else Free(now, Unlocked, "unlocked");
        }
        else if (what == ForceObject && _hasForce && S.Forced != ((int)value >= 2 ? (int)value : 0))
        {
            S.Forced = (int)value >= 2 ? (int)value : 0;
            if (S.Forced == 0) Free(now, Forcing, "no longer forced");
            else
            {
                Because(Forcing, S.Forced == 3 ? "forced on" : "forced off");
                Go(now, _softOn);
            }
        }
        else if (what == SceneObject)
        {
            int at = _scenes.Find(value, out bool stores);
            if (at < 0) return;
            if (!stores) Command(now, S.Scenes![at], Pace(now, S.Scenes[at], _valueTime), EachScene[at], "scene");
            else if (_learns) S.Scenes![at] = Bright(now);
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
        if (now >= S.ArriveAt) Arrive(now);
        if (!S.HasBus) return;
        if (now >= S.WarnAt)
        {
            S.WarnAt = Never;
            Because(Warning, "warning: it goes off soon");
            S.Wanted = Math.Min(_warnValue, S.Wanted);
            Go(now, _softOff);
        }
        if (now >= S.OffAt)
        {
            S.OffAt = Never;
            Because(_warning > 0 ? Warning : Staircase, "its time is over");
            S.Wanted = 0;
            Go(now, _softOff);
        }
        if (now >= S.SayAt)
        {
            S.SayAt = _stateEvery > 0 ? now + _stateEvery : Never;
            Because(_stateEvery > 0 ? StateEvery : DeviceBehaviour.SendDelay, "its state once more");
            // A way that has begun counts as on until it has ended, here as when it was said first.
            S.SaidOn = S.To > 0 || Bright(now) > 0;
            Say(State, S.SaidOn ? 1 : 0);
            Say(ValueState, Bright(now));
        }
        if (now >= S.ReportAt) Report(now);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (_function == BehaviourKind.Disabled) return;
        if (supply == Supply.Mains)
        {
            S.HasMains = false;
            Because(null, "the mains are gone");
            Move(now, 0, 0);
            return;
        }
        S.HasBus = false;
        double before = S.Wanted;
        if (_busLoss != "keep" && IsFree)
        {
            Because(BusLoss, "the bus is gone");
            S.Wanted = _busLoss == "on" ? OnBrightness : 0;
            Go(now, 0);
        }
        S.Wanted = before;
        (S.HasBus, S.WarnAt, S.OffAt, S.SayAt, S.ReportAt) = (false, Never, Never, Never, Never);
    }

    private double OnBrightness => _hasNight && S.IsNight ? _nightValue : _isFixed ? _onValue : S.Last;

    private double Bright(long now) => new Course(S.From, S.At, S.Until, S.To).Now(now);

    private long Pace(long now, double to, long whole) => (long)(whole * Math.Abs(to - Bright(now)) / 100);

    private double Target => S.Forced == 3 ? OnBrightness : S.Forced == 2 ? 0 : !S.Locked ? S.Wanted : _lockedTo switch { "on" => OnBrightness, "off" => 0, _ => double.IsNaN(S.LockedAt) ? S.Wanted : S.LockedAt };

    private bool IsFree => S.Forced == 0 && !S.Locked;

    private void Command(long now, double brightness, long takes, ParameterDescription by, string fact)
    {
        S.Wanted = brightness;
        if (_function == "staircase")
        {
            if (brightness > 0) Light(now);
            else (S.WarnAt, S.OffAt) = (Never, Never);
        }
        if (!IsFree) return;
        Because(by, fact);
        Go(now, takes);
    }

    private void Light(long now) => (S.WarnAt, S.OffAt) = (_warning > 0 ? now + _staircase : Never, now + _staircase + _warning);

    private void Free(long now, ParameterDescription by, string fact)
    {
        string how = by == Unlocked ? _unlocked : "follow";
        S.Wanted = how switch { "keep" when S.HasMains => Bright(now), "off" => 0, "on" => OnBrightness, _ => S.Wanted };
        Because(by, fact);
        Go(now, _softOn);
    }

    private void DimBy(long now, int code)
    {
        bool up = (code & 8) != 0;
        int step = code & 7;
        double here = Bright(now);
        // Without mains it is dark whatever is told, and what it goes back to stays as it was.
        if (!IsFree || !S.HasMains) return;
        if (step == 0)
        {
            S.Wanted = here;
            Because(DimTime, "told to stop");
            Move(now, here, 0);
            return;
        }
        if (up ? here <= 0 && !_dimOn : here <= 0) return;
        double by = 100.0 / (1 << (step - 1));
        double to = up ? Math.Min(100, here + by) : Math.Max(_dimOff ? 0 : 1, here - by);
        S.Wanted = to;
        if (_function == "staircase" && to > 0) Light(now);
        Because(DimTime, up ? "told to dim brighter" : "told to dim darker");
        Move(now, to, Pace(now, to, _dimTime));
    }

    /// <summary>Goes to where it ought to be.</summary>
    private void Go(long now, long takes)
    {
        if (!S.HasMains) return;
        Move(now, Target, takes);
    }

    private void Move(long now, double to, long takes)
    {
        double here = Bright(now);
        if (here == to) takes = 0;
        (S.From, S.At, S.Until, S.To) = (now, here, now + takes, to);
        if (to > 0) S.Last = to;
        World.Drive(this, Level, new Course(now, here, now + takes, to));
        SayOn(now, to > 0 || (takes > 0 && here > 0));
        S.ArriveAt = now + takes;
        if (takes == 0) Arrive(now);
        else S.Meter.Turn(now, true, OutputAt((here + to) / 2) / 100);
    }

    private void Arrive(long now)
    {
        S.ArriveAt = Never;
        S.Meter.Turn(now, S.To > 0, OutputAt(S.To) / 100);
        SayOn(now, S.To > 0);
        if (!S.HasBus) return;
        World.Say(this, ValueState, S.To, now >= S.QuietUntil);
    }

    private void SayOn(long now, bool on)
    {
        if (on == S.SaidOn || !S.HasBus) return;
        S.SaidOn = on;
        World.Say(this, State, on ? 1 : 0, now >= S.QuietUntil);
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
