using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="PresenceBehaviour"/> remembers.</summary>
public sealed class PresenceState : BehaviourState
{
    /// <summary>Whether its sensor sees movement now; how bright it is, lx; whether it is night, locked; whether people switched off by hand.</summary>
    public bool Sees, IsNight, Locked, HandOff, HasBus = true;

    /// <summary>As <see cref="Sees"/>.</summary>
    public double Lux = double.NaN;

    /// <summary>0 off, 1 on, 2 warning.</summary>
    public int Stage;

    /// <summary>When movement was seen last; moments at which something is due.</summary>
    public long SeenAt = long.MinValue, WarnAt = Behaviour.Never, OffAt = Behaviour.Never, FirstUntil = Behaviour.Never, SayAt = Behaviour.Never, SideAt = Behaviour.Never;

    /// <summary>Of confirmed presence: when the present window ends; how many in a row before it had movement; whether this one had.</summary>
    public long WindowEndsAt = Behaviour.Never;

    /// <summary>As <see cref="WindowEndsAt"/>.</summary>
    public int InRow;

    /// <summary>As <see cref="WindowEndsAt"/>.</summary>
    public bool InWindow;
}

/// <summary>
/// One output of a presence detector. Movement is what its own sensor sees, and what side detectors tell.
/// <list type="bullet">
/// <item>light: movement switches on where it is darker than <c>threshold</c> (0: always); <c>hold</c> after the last movement comes the warning (<c>warnAt</c> for <c>warning</c>), then off. Movement in the warning brings it back. By night it has its own value and hold time. Where <c>brightOff</c>, it goes off as soon as daylight alone is brighter than the threshold and the hysteresis.</item>
/// <item>presence: the same whatever the light.</item>
/// <item>confirmed: it comes only when movement was seen in each of <c>windows</c> windows of <c>window</c> in a row. The first window begins with movement; it comes with the first movement in the last of them. A window without movement begins everything anew. It goes off <c>runOn</c> after the last movement.</item>
/// <item><c>first</c>: the first movement for that long does nothing but wait for a second one.</item>
/// <item>half: it goes on by hand only and off by itself. Who switches off by hand has it stay off until nobody was there for the hold time.</item>
/// <item>In test mode every hold time, window and run-on is 5 s, warnings are 2 s, and brightness does not count.</item>
/// </list>
/// </summary>
public sealed class PresenceBehaviour : Behaviour<PresenceState>
{
    private const long TestHold = 5000, TestWarning = 2000;

    // A side detector repeats what it sees sooner than the shortest hold time is over, 5 s.
    private const long SideMilliseconds = 4_000;

    private static readonly ParameterDescription
        Test = Parameters.YesNo("testMode", "Test mode", "All times are short and brightness does not count, to walk the room and see what is seen."),
        Role = Parameters.Choice("detector", "Detector", "Whether it commands, or only tells another one what it sees.", ("main", "Main detector"), ("side", "Side detector")),
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What the output is for.", ("light", "Light, by brightness"), ("presence", "Presence"), ("confirmed", "Confirmed presence"), (BehaviourKind.Disabled, "Disabled")).If("detector = main"),
        Out = Parameters.Choice("sends", "Sends", "What it says.", ("switch", "on and off"), ("value", "a percentage"), ("mode", "a heating mode")).If("detector = main and function != disabled"),
        OnValue = Parameters.Percent("onAt", "Value when on", "By day.", 100, 1).If("detector = main and function != disabled and sends = value"),
        OnMode = Mode("onMode", "Mode when on", "comfort").If("detector = main and function != disabled and sends = mode"),
        OffMode = Mode("offMode", "Mode when off", "economy").If("detector = main and function != disabled and sends = mode"),
        Hold = Parameters.Time("hold", "Hold time", "How long after the last movement it stays on.", 600, 5, 86_400).If("detector = main and function in light, presence"),
        Warning = Parameters.Time("warning", "Warning", "For how long it is dimmed before it goes off; 0: no warning.", 0, 0, 600).If("detector = main and function in light, presence and sends = value"),
        WarnValue = Parameters.Percent("warnAt", "Value as a warning", "How bright it is then.", 15, 1).If("detector = main and function in light, presence and sends = value and warning > 0"),
        Threshold = Parameters.Numbered("threshold", "On when darker than", "Movement switches on only where it is darker; 0: always.", 400, 0, 2000, "lx", 1).If("detector = main and function = light"),
        Hysteresis = Parameters.Numbered("hysteresis", "Hysteresis", "How much brighter than that it must be without doubt.", 50, 0, 1000, "lx", 1).If("detector = main and function = light and threshold > 0"),
        BrightOff = Parameters.YesNo("brightOff", "Off when bright", "Whether it goes off when daylight is enough; its own light must not shine on the sensor.").If("detector = main and function = light and threshold > 0"),
        Half = Parameters.Choice("how", "Comes on", "Whether it comes on by itself.", ("auto", "by movement"), ("half", "by hand only")).If("detector = main and function in light, presence"),
        First = Parameters.Time("first", "First movement waits", "For how long the first movement only waits for a second; 0: it acts.", 0, 0, 600).If("detector = main and function != disabled"),
        Night = Parameters.YesNo("night", "Day and night", "Whether value and hold time are otherwise by night.").If("detector = main and function in light, presence"),
        NightValue = Parameters.Percent("nightAt", "Value when on by night", "By night.", 20, 1).If("detector = main and function in light, presence and night and sends = value"),
        NightHold = Parameters.Time("nightHold", "Hold time by night", "By night.", 120, 5, 86_400).If("detector = main and function in light, presence and night"),
        Windows = Parameters.Numbered("windows", "Windows in a row", "In how many windows movement must be seen.", 2, 1, 10, "windows", 1).If("detector = main and function = confirmed"),
        Window = Parameters.Time("window", "Window", "How long each of them is.", 180, 10, 7200).If("detector = main and function = confirmed"),
        RunOn = Parameters.Time("runOn", "Run-on", "How long it stays on after the last movement.", 480, 0, 86_400).If("detector = main and function = confirmed"),
        Lock = Parameters.YesNo("lock", "Lock", "Whether it can be locked.").If("detector = main and function != disabled"),
        Locked = Parameters.Choice("locked", "When locked", "What it does when it is locked.", ("keep", "stays as it is"), ("off", "off"), ("on", "on")).If("detector = main and function != disabled and lock"),
        Again = Parameters.Time("stateEvery", "Again every", "What it says is sent when it changes, and again so often; 0: only then.", 0, 0, 86_400).If("detector = main and function != disabled");

    private static readonly BehaviourObject
        Switch = new("switch", "{channel} · switch", "1.001", "CRT", "switch sender") { When = "detector = main and function != disabled and sends = switch", Again = Again },
        Value = new("value", "{channel} · value", "5.001", "CRT", "value sender") { When = "detector = main and function != disabled and sends = value", Again = Again },
        ModeObject = new("mode", "{channel} · heating mode", "20.102", "CRT", "mode sender") { When = "detector = main and function != disabled and sends = mode", Again = Again },
        Side = new("side", "{channel} · side detectors", "1.001", "CW", "movement") { When = "detector = main and function != disabled", Passes = ["switch", "value", "mode"] },
        Movement = new("movement", "{channel} · movement", "1.001", "CT", "movement sender") { When = "detector = side" },
        Hand = new("hand", "{channel} · by hand", "1.001", "CWU", "switch") { When = "detector = main and function in light, presence", Passes = ["switch", "value", "mode"] },
        NightObject = new("nightIs", "{channel} · day or night", "1.024", "CW", "night") { When = "detector = main and function in light, presence and night" },
        LockObject = new("lockIt", "{channel} · lock", "1.003", "CW", "lock") { When = "detector = main and function != disabled and lock", Passes = ["switch", "value", "mode"] };

    private static readonly BehaviourPort MovementPort = new("movement", "Movement") { States = ["none", "seen"], Quantity = "presence" }, LuxPort = new("brightness", "Brightness", "lx", 0, 2000) { Quantity = "light" };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("presence", "Presence output",
        [Test, Role, Function, Out, OnValue, OnMode, OffMode, Hold, Warning, WarnValue, Threshold, Hysteresis, BrightOff, Half, First, Night, NightValue, NightHold, Windows, Window, RunOn, Lock, Locked, Again, DeviceBehaviour.SendDelay],
        [Switch, Value, ModeObject, Side, Movement, Hand, NightObject, LockObject], [MovementPort, LuxPort], [], s => new PresenceBehaviour(s));

    private readonly string _function, _sends, _lockedTo;
    private readonly bool _isSide, _isHalf, _brightOff, _hasNight, _hasLock;
    private readonly double _onValue, _nightValue, _warnValue, _onMode, _offMode, _threshold, _hysteresis;
    private readonly long _hold, _nightHold, _warning, _first, _window, _runOn, _again, _sendDelay;
    private readonly int _windows;
    private bool _sendsNow;

    private PresenceBehaviour(SettingValues s)
    {
        bool test = s.Yes(Test);
        (_function, _sends, _lockedTo, _isSide) = (s.Text(Function), s.Text(Out), s.Text(Locked), s.Text(Role) == "side" && s.ChannelNumber == 1);
        if (s.Text(Role) == "side" && !_isSide) _function = BehaviourKind.Disabled;
        (_isHalf, _brightOff, _hasNight, _hasLock) = (s.Text(Half) == "half", s.Yes(BrightOff) && !test, s.Yes(Night), s.Yes(Lock));
        (_onValue, _nightValue, _warnValue) = (s.Number(OnValue), s.Number(NightValue), s.Number(WarnValue));
        (_onMode, _offMode) = (Modes.NumberOf(s.Text(OnMode)), Modes.NumberOf(s.Text(OffMode)));
        (_threshold, _hysteresis) = (test || _function != "light" ? 0 : s.Number(Threshold), s.Number(Hysteresis));
        (_hold, _nightHold, _warning) = test ? (TestHold, TestHold, s.Number(Warning) > 0 ? TestWarning : 0) : (s.Milliseconds(Hold), s.Milliseconds(NightHold), s.Milliseconds(Warning));
        if (_sends != "value") _warning = 0;
        (_window, _runOn) = test ? (TestHold, TestHold) : (s.Milliseconds(Window), s.Milliseconds(RunOn));
        (_first, _again, _sendDelay, _windows) = (s.Milliseconds(First), s.Milliseconds(Again), s.Milliseconds(DeviceBehaviour.SendDelay), (int)s.Number(Windows));
    }

    /// <inheritdoc/>
    public override long NextDue => !S.HasBus || (_function == BehaviourKind.Disabled && !_isSide) ? Never : Math.Min(Sooner(S.WarnAt, S.OffAt, S.FirstUntil, S.SayAt, S.SideAt), S.WindowEndsAt);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake == Wake.Mains) return;
        S.HasBus = true;
        if (_isSide) S.SideAt = S.Sees ? FirstSendAt(now, _sendDelay) : Never;
        if (_function == BehaviourKind.Disabled || _isSide) return;
        // What it saw before is over; who is there moves again. What a lock commands goes on.
        int stage = !S.Locked ? 0 : _lockedTo == "keep" ? S.Stage : _lockedTo == "on" ? 1 : 0;
        (S.Stage, S.SeenAt, S.WarnAt, S.OffAt, S.WindowEndsAt, S.InRow, S.InWindow) = (stage, long.MinValue, Never, Never, Never, 0, false);
        S.SayAt = FirstSendAt(now, _sendDelay);
        if (S.Sees) Seen(now);
    }

    /// <inheritdoc/>
    public override void Sense(long now, BehaviourPort what, double value)
    {
        if (what == LuxPort)
        {
            S.Lux = value;
            if (S.HasBus) Bright(now);
            return;
        }
        bool sees = value >= 0.5;
        if (sees == S.Sees) return;
        S.Sees = sees;
        if (!S.HasBus) return;
        if (_isSide)
        {
            if (!sees) return;
            Because(Role, "movement");
            Say(Movement, 1);
            S.SideAt = now + SideMilliseconds;
        }
        else if (_function != BehaviourKind.Disabled) Seen(now);
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (!S.HasBus || _function == BehaviourKind.Disabled || _isSide) return;
        bool on = value >= 0.5;
        if (what == Side)
        {
            if (!on) return;
            Seen(now);
        }
        // In one group with what it sends, it takes its own telegram for nobody's hand.
        else if (what == Hand && _sendsNow) return;
        else if (what == Hand && on && !S.Locked)
        {
            S.HandOff = false;
            S.SeenAt = now;
            Enter(now, Half, "switched on by hand");
        }
        else if (what == Hand && !S.Locked)
        {
            S.HandOff = true;
            S.OffAt = Never;
            Leave(now, Half, "switched off by hand");
            // It stays off until nobody was there for the hold time.
            S.WarnAt = now + HoldNow;
        }
        else if (what == NightObject) S.IsNight = on;
        else if (what == LockObject && _hasLock && on != S.Locked)
        {
            S.Locked = on;
            Because(Locked, on ? "locked" : "unlocked");
            if (on)
            {
                (S.WarnAt, S.OffAt, S.WindowEndsAt, S.InRow, S.InWindow) = (Never, Never, Never, 0, false);
                if (_lockedTo != "keep") Stage(now, _lockedTo == "on" ? 1 : 0);
            }
            else if (S.Sees) Seen(now);
            else Stage(now, 0);
        }
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (!S.HasBus) return;
        if (now >= S.SideAt)
        {
            S.SideAt = S.Sees ? now + SideMilliseconds : Never;
            if (S.Sees)
            {
                Because(Role, "still movement");
                Say(Movement, 1);
            }
        }
        if (now >= S.FirstUntil) S.FirstUntil = Never;
        if (now >= S.WindowEndsAt)
        {
            // Who still moves when a window ends has moved in it and in the next.
            bool seen = S.InWindow || S.Sees;
            S.InRow = seen ? S.InRow + 1 : 0;
            S.InWindow = false;
            S.WindowEndsAt = seen ? S.WindowEndsAt + _window : Never;
            if (S.Sees) Confirm(now);
        }
        if (now >= S.WarnAt)
        {
            S.WarnAt = Never;
            HoldIsOver(now);
        }
        if (now >= S.OffAt)
        {
            S.OffAt = Never;
            if (_function == "confirmed")
            {
                if (!S.Sees) Leave(now, RunOn, "nobody moved for the run-on");
            }
            else Leave(now, Warning, "the warning is over");
        }
        if (now >= S.SayAt)
        {
            S.SayAt = _again > 0 ? now + _again : Never;
            Because(_again > 0 ? Again : DeviceBehaviour.SendDelay, "its state once more");
            Tell();
        }
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply != Supply.Bus) return;
        S.HasBus = false;
        (S.WarnAt, S.OffAt, S.FirstUntil, S.SayAt, S.SideAt, S.WindowEndsAt) = (Never, Never, Never, Never, Never, Never);
    }

    private long HoldNow => S.IsNight && _hasNight ? _nightHold : _hold;

    private bool IsDark => _threshold == 0 || double.IsNaN(S.Lux) || S.Lux < _threshold;

    /// <summary>Movement begins or ends, here or at a side detector.</summary>
    private void Seen(long now)
    {
        if (S.Locked) return;
        if (_first > 0 && S.Stage == 0 && S.InRow == 0 && !S.InWindow && S.SeenAt == long.MinValue)
        {
            if (S.FirstUntil == Never)
            {
                if (S.Sees) S.FirstUntil = now + _first;
                return;
            }
            if (!S.Sees) return;
            S.FirstUntil = Never;
        }
        S.SeenAt = now;
        if (_function == "confirmed")
        {
            if (S.WindowEndsAt == Never) (S.WindowEndsAt, S.InRow) = (now + _window, 0);
            S.InWindow = true;
            Confirm(now);
            if (S.Stage == 1) S.OffAt = S.Sees ? Never : now + _runOn;
            return;
        }
        if (S.HandOff)
        {
            S.WarnAt = S.Sees ? Never : now + HoldNow;
            return;
        }
        if (S.Stage > 0 || (!_isHalf && IsDark)) Enter(now, S.Stage == 2 ? Warning : S.Stage == 0 && _threshold > 0 ? Threshold : Function, S.Stage == 0 && _threshold > 0 ? "movement, and darker than the threshold" : "movement");
    }

    private void HoldIsOver(long now)
    {
        if (S.Sees) return;
        if (S.HandOff)
        {
            S.HandOff = false;
            return;
        }
        if (S.Stage != 1 || _warning == 0)
        {
            Leave(now, S.IsNight && _hasNight ? NightHold : Hold, "nobody moved for the hold time");
            return;
        }
        S.OffAt = now + _warning;
        Because(Hold, "nobody moved for the hold time: it goes off soon");
        Stage(now, 2);
    }

    private void Confirm(long now)
    {
        if (S.InRow + 1 < _windows) return;
        S.InWindow = true;
        if (S.Stage == 1) return;
        Because(Windows, "movement in so many windows in a row");
        Stage(now, 1);
        S.OffAt = S.Sees ? Never : now + _runOn;
    }

    private void Enter(long now, ParameterDescription by, string fact)
    {
        S.OffAt = Never;
        S.WarnAt = S.Sees ? Never : now + HoldNow;
        if (S.Stage == 1) return;
        Because(by, fact);
        Stage(now, 1);
    }

    private void Leave(long now, ParameterDescription by, string fact)
    {
        (S.SeenAt, S.WarnAt, S.OffAt) = (long.MinValue, Never, Never);
        if (S.Stage == 0) return;
        Because(by, fact);
        Stage(now, 0);
    }

    private void Bright(long now)
    {
        if (_function != "light" || S.Locked || _threshold == 0) return;
        if (S.Stage > 0 && _brightOff && S.Lux > _threshold + _hysteresis)
        {
            Because(BrightOff, "daylight is enough");
            (S.WarnAt, S.OffAt) = (Never, Never);
            Stage(now, 0);
        }
        else if (S.Stage == 0 && !_isHalf && !S.HandOff && IsDark && (S.Sees || (S.SeenAt != long.MinValue && now < S.SeenAt + HoldNow)))
        {
            Because(Threshold, "it has become dark while somebody is there");
            S.WarnAt = S.Sees ? Never : S.SeenAt + HoldNow;
            Stage(now, 1);
        }
    }

    private void Stage(long now, int stage)
    {
        if (stage == S.Stage) return;
        S.Stage = stage;
        if (_again > 0) S.SayAt = now + _again;
        Tell();
    }

    private void Tell()
    {
        _sendsNow = true;
        Send();
        _sendsNow = false;
    }

    private void Send()
    {
        switch (_sends)
        {
            case "value":
                Say(Value, S.Stage == 0 ? 0 : S.Stage == 2 ? _warnValue : _hasNight && S.IsNight ? _nightValue : _onValue);
                break;
            case "mode":
                Say(ModeObject, S.Stage == 0 ? _offMode : _onMode);
                break;
            default:
                Say(Switch, S.Stage == 0 ? 0 : 1);
                break;
        }
    }

    private static ParameterDescription Mode(string key, string label, string begins) => Parameters.Choice(key, label, "By the standard's heating modes.", [.. Modes.All]) with { Default = begins };
}

/// <summary>The heating modes of datapoint type 20.102 by their keys.</summary>
internal static class Modes
{
    public static readonly (string Key, string Label)[] All = [("auto", "automatic"), ("comfort", "comfort"), ("standby", "standby"), ("economy", "economy"), ("protection", "protection")];

    public const int Auto = 0, Comfort = 1, Standby = 2, Economy = 3, Protection = 4;

    public static int NumberOf(string key) => Array.FindIndex(All, m => m.Key == key);
}
