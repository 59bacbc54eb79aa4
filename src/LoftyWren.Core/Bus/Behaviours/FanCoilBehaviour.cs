using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="FanCoilBehaviour"/> remembers.</summary>
public sealed class FanCoilState : BehaviourState
{
    /// <summary>What the regulation remembers.</summary>
    public RegulatorState Room = new();

    /// <summary>The stage that runs and that which is wanted; whether people choose it, and which; the highest that is allowed; whether bus and mains are there.</summary>
    public int Stage, Wanted, HandStage, MostStage = 3;

    /// <summary>As <see cref="Stage"/>.</summary>
    public bool ByHand, HasBus = true, HasMains = true;

    /// <summary>Whether all states are to be said once more.</summary>
    public bool SaysAll;

    /// <summary>Until when the stage stays, when a kick start is over, until when nothing is sent after a return.</summary>
    public long StaysUntil = long.MinValue, KickUntil = Behaviour.Never, QuietUntil = long.MinValue;

    /// <summary>What is asked for as it was told, %, and when that is too old; whether the fan may run.</summary>
    public double HeatTold, CoolTold;

    /// <inheritdoc cref="HeatTold"/>
    public long ToldUntil = Behaviour.Never;

    /// <inheritdoc cref="HeatTold"/>
    public bool IsReleased = true;

    /// <summary>What was given last: valves %, fan %.</summary>
    public double HeatValve = double.NaN, CoolValve = double.NaN, Fan = double.NaN;

    /// <summary>What it counted: the fan.</summary>
    public RunMeter Meter = RunMeter.Off;

    /// <summary>When it reports.</summary>
    public long ReportAt = Behaviour.Never, LookedAt = long.MinValue;

    /// <inheritdoc/>
    public override BehaviourState Copy()
    {
        var copy = (FanCoilState)base.Copy();
        copy.Room = Room.Copy();
        return copy;
    }
}

/// <summary>
/// A fan-coil: the room's regulation, valves and a fan.
/// <list type="bullet">
/// <item>Four pipes have a heating and a cooling valve; two pipes have one, which heats while heating water is there and cools while it is not. A dew point alarm closes what cools.</item>
/// <item>A fan of stages runs the highest stage whose threshold is passed by what is asked for; it falls back below threshold − hysteresis. Each stage, and rest too, stays for <c>stageFor</c> at least, over a loss of the bus as well. From rest it is started at <c>kickStage</c> for <c>kickFor</c>.</item>
/// <item>A fan of 0–10 V runs from <c>fanLeast</c> at its first threshold to 100 % at full demand, and not below.</item>
/// <item>What is asked for comes of its own regulation or, where <c>demandIs</c> says so, is told over the bus by a room controller or a controller; told nothing for <c>demandWatch</c> it counts as none. Told to rest by <c>release</c>, the fan stands and what heats and cools is closed.</item>
/// <item>People may choose the stage; <c>most stage</c> told over the bus limits it. Without bus or mains everything is closed and off.</item>
/// </list>
/// </summary>
public sealed class FanCoilBehaviour : Behaviour<FanCoilState>, IMetered
{
    private static readonly RegulatorSettings Room = new("demandIs = own");

    private static readonly ParameterDescription
        DemandIs = Parameters.Choice("demandIs", "What is asked for", "Whether it regulates the room by itself, or is told by how much to heat and to cool.", ("own", "by its own regulation"), ("told", "as the bus tells")),
        DemandWatch = Parameters.Time("demandWatch", "Demand expected every", "If none comes for so long it counts as none; 0: the last one counts for ever.", 3600, 0, 86_400).If("demandIs = told"),
        FanRuns = Parameters.Choice("fanRuns", "Fan runs", "When something is asked for, or at its least speed or first stage all the while that it is released, so that the air of the room is moved.", ("asked", "when something is asked for"), ("released", "whenever it is released")).If("demandIs = told"),
        Pipes = Parameters.Choice("pipes", "Pipes", "How many bring its water.", ("four", "four"), ("two", "two, change-over")),
        FanIs = Parameters.Choice("fan", "Fan", "How it is driven.", ("stages", "stages by relays"), ("volts", "0–10 V")),
        Stages = Parameters.Numbered("stages", "Stages", "How many.", 3, 1, 3, "stages", 1).If("fan = stages"),
        Threshold1 = Parameters.Percent("threshold1", "Fan runs from", "What must be asked for.", 5, 1),
        Threshold2 = Parameters.Percent("threshold2", "Stage 2 from", "What must be asked for.", 40, 1).If("fan = stages and stages >= 2"),
        Threshold3 = Parameters.Percent("threshold3", "Stage 3 from", "What must be asked for.", 75, 1).If("fan = stages and stages >= 3"),
        Hysteresis = Parameters.Percent("hysteresis", "Hysteresis", "How much less it must be until a stage is left.", 4, 0, 30),
        StageFor = Parameters.Time("stageFor", "A stage stays for", "At least.", 60, 0, 3600).If("fan = stages"),
        KickStage = Parameters.Numbered("kickStage", "Starts at stage", "From rest, for the time below; 1: no kick start.", 2, 1, 3, step: 1).If("fan = stages and stages >= 2"),
        KickFor = Parameters.Time("kickFor", "Kick start for", "Then the stage that is asked for.", 5, 1, 60).If("fan = stages and stages >= 2 and kickStage > 1"),
        FanLeast = Parameters.Percent("fanLeast", "Least speed", "Where the fan just turns.", 20, 0, 80).If("fan = volts"),
        Valves = Parameters.Choice("valves", "Valves", "How they are driven.", ("percent", "0–10 V"), ("binary", "open and closed")),
        Meter = MeterSettings.Meter(), Watts = MeterSettings.Watts() with { Default = "45" }, ReportEvery = MeterSettings.Every();

    private static readonly BehaviourObject
        HeatDemand = new("heatDemand", "{channel} · heating demand", "5.001", "CWU", "demand") { Watch = DemandWatch, When = "demandIs = told and system in both, heating", Passes = ["heat", "stageState", "fanState"] }, CoolDemand = new("coolDemand", "{channel} · cooling demand", "5.001", "CWU", "cooling demand") { Watch = DemandWatch, When = "demandIs = told and system in both, cooling", Passes = ["cool", "stageState", "fanState"] },
        ReleaseObject = new("release", "{channel} · released", "1.003", "CWU", "release") { When = "demandIs = told", Passes = ["heat", "cool", "stageState", "fanState"] },
        HandObject = new("byHand", "{channel} · fan by hand", "1.001", "CW", "fan by hand") { Passes = ["byHandState", "stageState", "fanState"] }, StageObject = new("stage", "{channel} · fan stage", "5.100", "CW", "fan stage") { Passes = ["byHandState", "stageState", "fanState"] }, MostObject = new("mostStage", "{channel} · most fan stage", "5.100", "CW", "fan limit") { Passes = ["stageState", "fanState"] },
        StageState = new("stageState", "{channel} · fan stage in force", "5.100", "CRT", "fan stage state") { When = "fan = stages" }, FanState = new("fanState", "{channel} · fan speed", "5.001", "CRT", "fan state") { When = "fan = volts" }, HandState = new("byHandState", "{channel} · fan by hand, state", "1.001", "CRT", "fan by hand state"),
        HeatState = new("heat", "{channel} · heating", "5.001", "CRT", "heating state"), CoolState = new("cool", "{channel} · cooling", "5.001", "CRT", "cooling state"),
        HoursObject = new("hours", "{channel} · fan hours", "12.102", "CRT", "hours") { When = "meter" }, EnergyObject = new("energy", "{channel} · fan energy", "13.010", "CRT", "energy") { When = "meter" };

    private static readonly BehaviourPort
        Temperature = new("temperature", "{channel} · temperature", "°C", -20, 60) { Quantity = "temperature" }, StagePort = new("fanStage", "{channel} · fan stage", "", 0, 3) { States = ["off", "1", "2", "3"] }, FanPort = new("fanSpeed", "{channel} · fan", "%", 0, 100) { Quantity = "speed" }, HeatPort = new("heatValve", "{channel} · heating valve", "%", 0, 100) { Quantity = "level" }, CoolPort = new("coolValve", "{channel} · cooling valve", "%", 0, 100) { Quantity = "cool" };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("fanCoil", "Fan-coil",
        [.. Room.Settings, DemandIs, DemandWatch, FanRuns, Pipes, FanIs, Stages, Threshold1, Threshold2, Threshold3, Hysteresis, StageFor, KickStage, KickFor, FanLeast, Valves, Meter, Watts, ReportEvery, DeviceBehaviour.SendDelay],
        [.. Room.Objects, HeatDemand, CoolDemand, ReleaseObject, HandObject, StageObject, MostObject, StageState, FanState, HandState, HeatState, CoolState, HoursObject, EnergyObject],
        [Temperature], [StagePort, FanPort, HeatPort, CoolPort], s => new FanCoilBehaviour(s));

    private readonly RoomRegulator _room;
    private readonly bool _isTwo, _isStaged, _isBinary, _meters, _isTold, _runsReleased;
    private readonly int _stages, _kickStage;
    private readonly double[] _thresholds;
    private readonly double _hysteresis, _fanLeast, _watts;
    private readonly long _demandWatch, _stageFor, _kickFor, _reportEvery, _sendDelay;

    private FanCoilBehaviour(SettingValues s)
    {
        _room = new RoomRegulator(Room, s);
        (_isTold, _runsReleased, _demandWatch) = (s.Text(DemandIs) == "told", s.Text(DemandIs) == "told" && s.Text(FanRuns) == "released", s.Milliseconds(DemandWatch));
        (_isTwo, _isStaged, _isBinary, _meters) = (s.Text(Pipes) == "two", s.Text(FanIs) == "stages", s.Text(Valves) == "binary", s.Yes(Meter));
        (_stages, _kickStage) = ((int)s.Number(Stages), (int)s.Number(KickStage));
        _thresholds = [s.Number(Threshold1), s.Number(Threshold2), s.Number(Threshold3)];
        (_hysteresis, _fanLeast, _watts) = (s.Number(Hysteresis), s.Number(FanLeast), s.Number(Watts));
        (_stageFor, _kickFor, _reportEvery, _sendDelay) = (s.Milliseconds(StageFor), s.Milliseconds(KickFor), s.Milliseconds(ReportEvery), s.Milliseconds(DeviceBehaviour.SendDelay));
        if (_stages < 2) _kickStage = 1;
    }

    /// <inheritdoc/>
    RunMeter IMetered.Meter => S.Meter;

    /// <inheritdoc/>
    double IMetered.Watts => _meters ? _watts : double.NaN;

    /// <inheritdoc/>
    public override long NextDue => !S.HasBus ? (S.HasMains && S.Stage != 0 ? S.StaysUntil : Never) : !S.HasMains ? S.Room.LooksAt : Sooner(S.Room.LooksAt, S.ReportAt, S.KickUntil, S.Wanted != S.Stage && S.KickUntil == Never ? Math.Max(S.StaysUntil, S.LookedAt) : Never);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake == Wake.Mains) S.HasMains = true;
        else S.HasBus = true;
        _room.Begin(S.Room, now, wake);
        if (wake == Wake.New)
        {
            Drive(now, HeatPort, double.IsNaN(S.HeatValve) ? 0 : S.HeatValve);
            Drive(now, CoolPort, double.IsNaN(S.CoolValve) ? 0 : S.CoolValve);
            Drive(now, FanPort, _isStaged ? 100.0 * S.Stage / Math.Max(1, _stages) : double.IsNaN(S.Fan) ? 0 : S.Fan);
        }
        if (!S.HasBus) return;
        // What it does then is said whether it has changed or not.
        (S.SaysAll, S.QuietUntil) = (true, FirstSendAt(now, _sendDelay));
        (S.Room.LooksAt, S.LookedAt, S.ReportAt) = (S.QuietUntil, now, _meters && S.HasMains ? now + _reportEvery : Never);
        (S.HeatValve, S.CoolValve, S.Fan) = (double.NaN, double.NaN, double.NaN);
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (!S.HasBus) return;
        if (what == HandObject)
        {
            S.ByHand = value >= 0.5;
            Because(FanIs, S.ByHand ? "the fan is chosen by hand" : "the fan follows what is asked for");
            Say(HandState, S.ByHand ? 1 : 0);
        }
        else if (what == StageObject)
        {
            S.HandStage = (int)Math.Clamp(value, 0, _stages);
            if (!S.ByHand) Say(HandState, 1);
            S.ByHand = true;
        }
        else if (what == HeatDemand || what == CoolDemand)
        {
            if (what == HeatDemand) S.HeatTold = Math.Clamp(value, 0, 100);
            else S.CoolTold = Math.Clamp(value, 0, 100);
            S.ToldUntil = _demandWatch > 0 ? now + _demandWatch : Never;
        }
        else if (what == ReleaseObject) S.IsReleased = value >= 0.5;
        else if (what == MostObject) S.MostStage = (int)Math.Clamp(value, 0, 3);
        else if (!_room.Hear(S.Room, now, what, value)) return;
        if (S.HasMains) S.Room.LooksAt = Math.Min(S.Room.LooksAt, Math.Max(now, S.QuietUntil));
    }

    /// <inheritdoc/>
    public override void Sense(long now, BehaviourPort what, double value) => S.Room.Local = value;

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (!S.HasBus || !S.HasMains)
        {
            if (now < NextDue) return;
            if (S.HasBus) SayClosed();
            else
            {
                Because(StageFor, "the bus is gone, and the stage has stayed for its minimum time");
                ToStage(now, 0);
            }
            return;
        }
        if (now >= S.Room.LooksAt)
        {
            _room.Look(S.Room, now, Math.Max(0, now - S.LookedAt) / 1000.0, this);
            (S.LookedAt, S.Room.LooksAt) = (now, now + RoomRegulator.Period);
            if (_isTold)
            {
                if (now >= S.ToldUntil) (S.HeatTold, S.CoolTold, S.ToldUntil) = (0, 0, Never);
                (S.Room.Heat, S.Room.Cool) = S.IsReleased ? (S.HeatTold, S.CoolTold) : (0, 0);
            }
            Give(now);
            if (S.SaysAll)
            {
                S.SaysAll = false;
                if (_isStaged) Say(StageState, S.Stage);
                Say(HandState, S.ByHand ? 1 : 0);
            }
        }
        if (now >= S.KickUntil)
        {
            S.KickUntil = Never;
            Because(KickFor, "the kick start is over");
            // What has started runs for its minimum time.
            ToStage(now, Math.Max(1, S.Wanted));
        }
        else if (S.Wanted != S.Stage && S.KickUntil == Never && now >= S.StaysUntil) TowardsWanted(now, StageFor, "the stage has stayed for its minimum time");
        if (now < S.ReportAt) return;
        S.ReportAt = now + _reportEvery;
        Because(ReportEvery, "what it has counted");
        Say(HoursObject, Math.Floor(S.Meter.Hours(now)));
        Say(EnergyObject, Math.Round(S.Meter.WattHours(now, _watts)));
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply == Supply.Bus) S.HasBus = false;
        else S.HasMains = false;
        Because(null, supply == Supply.Bus ? "the bus is gone" : "the mains are gone");
        (S.Wanted, S.KickUntil, S.Room.LooksAt, S.ReportAt) = (0, Never, Never, Never);
        (S.Room.Heat, S.Room.Cool) = (0, 0);
        // Without mains the fan is stopped at once; without bus it runs until its stage has stayed for its minimum time.
        if (supply == Supply.Mains || now >= S.StaysUntil) ToStage(now, 0);
        Valve(now, 0, HeatPort, HeatState, ref S.HeatValve, null, "closed");
        Valve(now, 0, CoolPort, CoolState, ref S.CoolValve, null, "closed");
        FanTo(now, 0);
    }

    private void Give(long now)
    {
        RegulatorState r = S.Room;
        // One pair of pipes: what is asked for only goes where there is the water for it.
        double heat = _isTwo && !r.HeatingWater ? 0 : r.Heat, cool = r.Dew || (_isTwo && r.HeatingWater) ? 0 : r.Cool;
        ParameterDescription by = _isTold ? DemandIs : r.Dew && r.Cool > 0 ? Room.System : _isTwo ? Pipes : Room.HeatBand;
        Valve(now, Shown(heat), HeatPort, HeatState, ref S.HeatValve, by, "what is asked for");
        Valve(now, Shown(cool), CoolPort, CoolState, ref S.CoolValve, r.Dew && r.Cool > 0 ? Room.System : Room.CoolBand, r.Dew && r.Cool > 0 ? "water would drip" : "what is asked for");
        double asked = Math.Max(heat, cool);
        bool atLeast = _runsReleased && S.IsReleased;
        if (!_isStaged)
        {
            bool runs = atLeast || (asked >= (S.Fan > 0 ? _thresholds[0] - _hysteresis : _thresholds[0]) && asked > 0);
            double speed = S.ByHand ? S.HandStage * 100.0 / Math.Max(1, _stages) : !runs ? 0 : _fanLeast + ((100 - _fanLeast) * Math.Max(0, asked - _thresholds[0]) / (100 - _thresholds[0]));
            Because(S.ByHand ? FanIs : runs ? FanLeast : Threshold1, S.ByHand ? "chosen by hand" : "what is asked for");
            FanTo(now, S.MostStage == 0 ? 0 : speed);
            return;
        }
        int stage = atLeast ? 1 : 0;
        for (int i = 1; i <= _stages; i++)
        {
            if (asked >= (S.Wanted >= i ? _thresholds[i - 1] - _hysteresis : _thresholds[i - 1]) && asked > 0) stage = i;
        }
        if (S.ByHand) stage = S.HandStage;
        stage = Math.Min(stage, Math.Min(_stages, S.MostStage));
        if (stage == S.Wanted) return;
        S.Wanted = stage;
        ParameterDescription why = S.ByHand ? FanIs : stage switch { 3 => Threshold3, 2 => Threshold2, _ => Threshold1 };
        if (S.KickUntil == Never && now >= S.StaysUntil) TowardsWanted(now, why, S.ByHand ? "chosen by hand" : "what is asked for");
    }

    /// <summary>To the stage that is wanted; from rest with a kick start where it is a low one.</summary>
    private void TowardsWanted(long now, ParameterDescription by, string fact)
    {
        bool kicks = S.Stage == 0 && S.Wanted > 0 && S.Wanted < _kickStage;
        Because(kicks ? KickStage : by, kicks ? "it is started with more" : fact);
        if (kicks) S.KickUntil = now + _kickFor;
        ToStage(now, kicks ? Math.Min(_kickStage, _stages) : S.Wanted);
    }

    /// <summary>Bus without mains: all is closed and off, and that is said once.</summary>
    private void SayClosed()
    {
        S.Room.LooksAt = Never;
        S.SaysAll = false;
        Because(null, "the mains are gone");
        Say(HeatState, 0);
        Say(CoolState, 0);
        if (_isStaged) Say(StageState, 0);
        else Say(FanState, 0);
        Say(HandState, S.ByHand ? 1 : 0);
    }

    private double Shown(double percent) => _isBinary ? percent >= 5 ? 100 : 0 : Math.Round(percent, 1);

    private void Valve(long now, double percent, BehaviourPort port, BehaviourObject state, ref double given, ParameterDescription? by, string fact)
    {
        if (percent == given) return;
        bool says = double.IsNaN(given) || Math.Abs(percent - given) >= 1 || percent is 0 or 100;
        if (!says && S.HasBus) return;
        given = percent;
        Because(by, fact);
        Drive(now, port, percent);
        if (S.HasBus) Say(state, percent);
    }

    private void FanTo(long now, double speed)
    {
        speed = Math.Round(speed, 1);
        if (speed == S.Fan || (Math.Abs(speed - S.Fan) < 1 && speed > 0)) return;
        S.Fan = speed;
        S.Meter.Turn(now, speed > 0, speed / 100);
        Drive(now, FanPort, speed);
        if (S.HasBus) Say(FanState, speed);
    }

    private void ToStage(long now, int stage)
    {
        if (stage == S.Stage) return;
        S.Stage = stage;
        S.StaysUntil = now + _stageFor;
        S.Meter.Turn(now, stage > 0, (double)stage / Math.Max(1, _stages));
        Drive(now, StagePort, stage);
        Drive(now, FanPort, 100.0 * stage / Math.Max(1, _stages));
        if (S.HasBus) Say(StageState, stage);
    }
}
