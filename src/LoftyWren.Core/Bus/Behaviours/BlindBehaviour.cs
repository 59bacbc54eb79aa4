using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="BlindBehaviour"/> remembers.</summary>
public sealed class BlindState : BehaviourState
{
    /// <summary>Where it is, 0 open to 100 % closed, and how its slats stand, 0 open to 100 % closed; not a number where nobody knows.</summary>
    public double Height = double.NaN, Slat = double.NaN;

    /// <summary>Which way its motor runs, −1 up, 1 down, 0 not; which way it will after the pause; which way it was moved last.</summary>
    public int Runs, Next, Last;

    /// <summary>Since when the motor runs; when it is to stop; when it stopped; when the next run may begin; when the slats are due.</summary>
    public long Since, StopAt = Behaviour.Never, StoppedAt = long.MinValue, NextAt = Behaviour.Never, SayAt = Behaviour.Never;

    /// <summary>Where it is on its way to: a height, then the slats; not a number for none. Whether a run goes to the very end.</summary>
    public double ToHeight = double.NaN, ToSlat = double.NaN, NextFor;

    /// <summary>Whether the present run goes to the very end, and so does the one after the pause; whether it only turns slats.</summary>
    public bool ToEnd, NextToEnd;

    /// <summary>What alarms and locks are there, a bit for each by the order of <see cref="BlindBehaviour"/>; which of them it obeys, −1 for none.</summary>
    public int Active, Obeys = -1;

    /// <summary>When each alarm counts as raised since it was not heard.</summary>
    public long[] Late = [Behaviour.Never, Behaviour.Never, Behaviour.Never];

    /// <summary>Whether the sun shines, and whether it follows it; whether bus and mains are there; whether a step has stopped it in an alarm.</summary>
    public bool Sun, Follows = true, HasBus = true, HasMains = true, StoppedInAlarm;

    /// <summary>Until when nothing is sent after bus return; when the speed of its way changes.</summary>
    public long QuietUntil = long.MinValue, BendsAt = Behaviour.Never;

    /// <summary>Where the sun has it stand.</summary>
    public double SunHeight = double.NaN, SunSlat = double.NaN;

    /// <summary>When it follows the sun again by itself.</summary>
    public long FollowsAt = Behaviour.Never;

    /// <summary>Where it was before alarms and locks, where it was told to go meanwhile, and where it was before the sun.</summary>
    public double BeforeHeight = double.NaN, BeforeSlat = double.NaN, LaterHeight = double.NaN, LaterSlat = double.NaN, ShadeHeight = double.NaN, ShadeSlat = double.NaN;

    /// <summary>How often it was started since it was at an end.</summary>
    public int Parts;

    /// <summary>What of its state was said: up, down, moving; whether all of it is to be said once more.</summary>
    public bool SaidUp, SaidDown, SaidMoves, SaysAll;

    /// <summary>What it counted: the running of its motor.</summary>
    public RunMeter Meter = RunMeter.Off;

    /// <summary>The values of scenes, once they are known.</summary>
    public double[]? Scenes, SceneSlats;

    /// <inheritdoc/>
    public override BehaviourState Copy()
    {
        var copy = (BlindState)base.Copy();
        (copy.Late, copy.Scenes, copy.SceneSlats) = ((long[])Late.Clone(), (double[]?)Scenes?.Clone(), (double[]?)SceneSlats?.Clone());
        return copy;
    }
}

/// <summary>
/// A blind, with slats or without. Where it stands is calculated from how long its motor has run.
/// <list type="bullet">
/// <item>The motor begins to turn <c>dead</c> after its relay has closed. Running down it closes the slats first, running up it opens them, in <c>slatTime</c> from open to closed; then the height moves, in <c>downTime</c> or <c>upTime</c> for the whole way, slower near the ends (<see cref="Travel"/>).</item>
/// <item>Before the motor turns round it rests for <c>pause</c>, counted from when it stopped.</item>
/// <item>A run to an end goes on for <c>reserve</c> longer, and there the position is certain again. Where the position is not known it first goes up; after <c>referenceAfter</c> part moves it does so before the next one.</item>
/// <item>A move goes to an end. A step stops what moves; what stands turns its slats by <c>step</c>, or, without slats, moves for it.</item>
/// <item>Alarms (wind, rain, frost), window and lock each have a rank; of those that are there the lowest is obeyed. An alarm that is not heard for its <c>…Watch</c> counts as raised. Where <c>stopInAlarm</c>, a step stops the run; else nothing is taken from people meanwhile but where they want it to go.</item>
/// <item>An alarm, a window or a lock has precedence over <c>busLoss</c> and <c>busReturn</c>, and what it commands is completed after any loss of bus or mains. Without mains the motor rests; when they return it continues to where it was going, or was told to go meanwhile.</item>
/// <item>When the last one ends, <c>after</c> says what comes: it stays, goes up or down, back to where it was, or to where it was told to go meanwhile.</item>
/// <item>While the sun shines it goes to the sun's height and slats, and back when it no longer does, unless it was moved by hand; then it follows again after <c>handFor</c> or when told.</item>
/// <item>What the position is worth: each start and stop may miss by <c>tolerance</c>; <c>worth</c> is all of them the same way since the last end, in % of the way.</item>
/// </list>
/// </summary>
public sealed class BlindBehaviour : Behaviour<BlindState>
{
    /// <summary>The settings that say how long a run from end to end takes.</summary>
    public const string DownTimeKey = "downTime", UpTimeKey = "upTime";

    private const int Wind = 0, Rain = 1, Frost = 2, Window = 3, LockAt = 4, Alarms = 3;
    private static readonly string[] Names = ["wind alarm", "rain alarm", "frost alarm", "window open", "locked"];

    private static readonly ParameterDescription
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What hangs on it.", ("slats", "Blind with slats"), ("shutter", "Shutter or awning"), (BehaviourKind.Disabled, "Disabled")),
        DownTime = Parameters.Time(DownTimeKey, "Time down", "From open to closed, slats not counted.", 45, 1, 600).If("function != disabled"),
        UpTime = Parameters.Time(UpTimeKey, "Time up", "From closed to open, slats not counted.", 47, 1, 600).If("function != disabled"),
        SlatTime = Parameters.Time("slatTime", "Time of the slats", "From open to closed.", 1.5, 0.2, 30).If("function = slats"),
        Dead = Parameters.Time("dead", "Dead time", "Until the motor begins to turn.", 0.2, 0, 2).If("function != disabled"),
        Pause = Parameters.Time("pause", "Pause on reversal", "For how long the motor rests before it turns round; too short a rest breaks it.", 0.7, 0.1, 10).If("function != disabled"),
        Reserve = Parameters.Time("reserve", "Reserve at the ends", "How much longer a run to an end goes on.", 3, 0, 60).If("function != disabled"),
        SlowEnd = Parameters.Percent("slowEnd", "Slow part at each end", "Of the height; 0: as fast everywhere.", 0, 0, 40).If("function != disabled"),
        Ratio = Parameters.Percent("ratio", "Speed there", "As a share of that in the middle.", 60, 10, 100).If("function != disabled and slowEnd > 0"),
        Tolerance = Parameters.Time("tolerance", "Tolerance of a start", "How far the running time may be off each time it starts and stops.", 0.05, 0, 1).If("function != disabled"),
        ReferenceAfter = Parameters.Numbered("referenceAfter", "Reference run after", "How many part moves it makes before it goes to an end first; 0: never.", 0, 0, 250, "part moves", 1).If("function != disabled"),
        Step = Parameters.Time("step", "Step", "For how long a short press turns the slats, or moves it where there are none.", 0.2, 0, 10).If("function != disabled"),
        SlatsAfter = Parameters.Choice("slatsAfter", "Slats after a move to a height", "How they stand then.", ("before", "as before"), ("closed", "closed"), ("fixed", "as set")).If("function = slats"),
        SlatsAt = Parameters.Percent("slatsAt", "Slats then", "0 % is open.", 50).If("function = slats and slatsAfter = fixed"),
        WindIs = Reaction("wind", "Wind alarm", "up"), WindHeight = HeightOf("wind", "Wind alarm"), WindRank = Rank("wind", "Wind", 1), WindWatch = Watched("wind", "Wind"),
        RainIs = Reaction("rain", "Rain alarm", "none"), RainHeight = HeightOf("rain", "Rain alarm"), RainRank = Rank("rain", "Rain", 2), RainWatch = Watched("rain", "Rain"),
        FrostIs = Reaction("frost", "Frost alarm", "none"), FrostHeight = HeightOf("frost", "Frost alarm"), FrostRank = Rank("frost", "Frost", 3), FrostWatch = Watched("frost", "Frost"),
        WindowIs = Reaction("window", "Window open", "none"), WindowHeight = HeightOf("window", "Window open"), WindowRank = Rank("window", "Window", 4),
        LockIs = Reaction("lock", "Lock", "none"), LockHeight = HeightOf("lock", "Lock"), LockRank = Rank("lock", "Lock", 5),
        StopInAlarm = Parameters.YesNo("stopInAlarm", "May be stopped in an alarm", "Whether a step stops the run of an alarm; it stays there until the alarm is over or another comes.").If("function != disabled"),
        AfterAlarm = Parameters.Choice("after", "When it is over", "What it does when the last alarm or lock ends.", ("keep", "stays where it is"), ("before", "back to where it was"), ("follow", "to where it was told meanwhile"), ("up", "up"), ("down", "down")).If("function != disabled"),
        SunIs = Parameters.YesNo("sun", "Follows the sun", "Whether it goes to a height of its own while the sun shines.").If("function != disabled"),
        SunHeight = Parameters.Percent("sunHeight", "Height in the sun", "Until another is told.", 80).If("function != disabled and sun"),
        SunSlat = Parameters.Percent("sunSlat", "Slats in the sun", "Until others are told.", 50).If("function = slats and sun"),
        HandFor = Parameters.Time("handFor", "By hand for", "How long it does not follow the sun after it was moved by hand; 0: until it is told to.", 7200, 0, 86_400).If("function != disabled and sun"),
        Scenes = SceneTable.Uses().If("function != disabled"),
        Learns = SceneTable.Learns().If("function != disabled and scenes"),
        SceneNumber = SceneTable.Number().If("function != disabled and scenes"),
        SceneHeight = (Parameters.Percent("scene{i}Is", "Scene {i}: height", "0 % is open.", 50) with { Repeat = SceneTable.Usual }).If("function != disabled and scenes and scene{i} > 0"),
        SceneSlat = (Parameters.Percent("scene{i}Slat", "Scene {i}: slats", "0 % is open.", 50) with { Repeat = SceneTable.Usual }).If("function = slats and scenes and scene{i} > 0"),
        BusLoss = Parameters.Choice("busLoss", "When the bus is gone", "What it does.", ("stop", "stops"), ("up", "up"), ("down", "down")).If("function != disabled"),
        BusReturn = Parameters.Choice("busReturn", "When the bus is back", "What it does then.", ("keep", "stays where it is"), ("up", "up"), ("down", "down")).If("function != disabled"),
        StateEvery = Parameters.Time("stateEvery", "Position again every", "The position is sent when it has stopped, and again so often; 0: only then.", 0, 0, 86_400).If("function != disabled");

    // Whatever is heard may move it, or hold it.
    private static readonly string[] Tells = ["positionState", "slatState", "moves", "upState", "downState", "alarmState"];

    private static readonly BehaviourObject
        Move = new("move", "{channel} · up or down", "1.008", "CW", "move") { When = "function != disabled", Passes = Tells },
        StepObject = new("stepIt", "{channel} · step or stop", "1.007", "CW", "step") { When = "function != disabled", Passes = Tells },
        Position = new("position", "{channel} · height", "5.001", "CW", "position") { When = "function != disabled", Passes = Tells },
        SlatObject = new("slat", "{channel} · slats", "5.001", "CW", "slat") { When = "function = slats", Passes = Tells },
        PositionState = new("positionState", "{channel} · height in force", "5.001", "CRT", "position state") { When = "function != disabled", Again = StateEvery },
        SlatState = new("slatState", "{channel} · slats in force", "5.001", "CRT", "slat state") { When = "function = slats", Again = StateEvery },
        MovesState = new("moves", "{channel} · moves", "1.011", "CRT", "moves") { When = "function != disabled" },
        UpState = new("upState", "{channel} · at the top", "1.011", "CRT", "top state") { When = "function != disabled" },
        DownState = new("downState", "{channel} · at the bottom", "1.011", "CRT", "bottom state") { When = "function != disabled" },
        WindObject = new("windAlarm", "{channel} · wind alarm", "1.005", "CWU", "wind alarm") { Watch = WindWatch, When = "function != disabled and wind != none", Priority = BusPriority.Urgent, Passes = Tells },
        RainObject = new("rainAlarm", "{channel} · rain alarm", "1.005", "CWU", "rain alarm") { Watch = RainWatch, When = "function != disabled and rain != none", Priority = BusPriority.Urgent, Passes = Tells },
        FrostObject = new("frostAlarm", "{channel} · frost alarm", "1.005", "CWU", "frost alarm") { Watch = FrostWatch, When = "function != disabled and frost != none", Priority = BusPriority.Urgent, Passes = Tells },
        WindowObject = new("windowOpen", "{channel} · window", "1.019", "CWU", "window") { When = "function != disabled and window != none", Passes = Tells },
        LockObject = new("lockIt", "{channel} · lock", "1.003", "CW", "lock") { When = "function != disabled and lock != none", Passes = Tells },
        AlarmState = new("alarmState", "{channel} · held by an alarm or lock", "1.011", "CRT", "alarm state") { When = "function != disabled" },
        SunObject = new("sunShines", "{channel} · sun", "1.002", "CW", "sun") { When = "function != disabled and sun", Passes = Tells },
        SunHeightObject = new("sunHeightIs", "{channel} · height in the sun", "5.001", "CW", "sun height") { When = "function != disabled and sun", Passes = Tells },
        SunSlatObject = new("sunSlatIs", "{channel} · slats in the sun", "5.001", "CW", "sun slats") { When = "function = slats and sun", Passes = Tells },
        AutoObject = new("auto", "{channel} · follow the sun", "1.003", "CW", "automatic") { When = "function != disabled and sun", Passes = Tells },
        SceneObject = new("scene", "{channel} · scene", "18.001", "CW", "scene") { When = "function != disabled and scenes", Passes = Tells, Scenes = SceneNumber },
        Reference = new("reference", "{channel} · reference run", "1.017", "CW") { When = "function != disabled", Passes = Tells };

    private static readonly ParameterDescription[] EachScene = SceneTable.Each(SceneHeight);

    private static readonly BehaviourPort
        Motor = new("motor", "{channel} · motor", "", -1, 1) { States = ["up", "rests", "down"] },
        HeightPort = new("height", "{channel}", "%", 0, 100) { Quantity = "level", MovedBy = Motor },
        SlatPort = new("slats", "{channel} · slats", "%", 0, 100),
        WorthPort = new("worth", "{channel} · position uncertain by", "%", 0, 100);

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("blind", "Blind",
        [
            Function, DownTime, UpTime, SlatTime, Dead, Pause, Reserve, SlowEnd, Ratio, Tolerance, ReferenceAfter, Step, SlatsAfter, SlatsAt, WindIs, WindHeight, WindRank, WindWatch, RainIs, RainHeight, RainRank, RainWatch, FrostIs, FrostHeight, FrostRank, FrostWatch,
            WindowIs, WindowHeight, WindowRank, LockIs, LockHeight, LockRank, StopInAlarm, AfterAlarm, SunIs, SunHeight, SunSlat, HandFor, Scenes, Learns, SceneNumber, SceneHeight, SceneSlat, BusLoss, BusReturn, StateEvery, DeviceBehaviour.SendDelay,
        ],
        [Move, StepObject, Position, SlatObject, PositionState, SlatState, MovesState, UpState, DownState, WindObject, RainObject, FrostObject, WindowObject, LockObject, AlarmState, SunObject, SunHeightObject, SunSlatObject, AutoObject, SceneObject, Reference],
        [], [Motor, HeightPort, SlatPort, WorthPort], s => new BlindBehaviour(s));

    private readonly bool _isOff, _hasSlats, _stopInAlarm, _hasSun, _learns;
    private readonly long _down, _up, _slat, _dead, _pause, _reserve, _step, _handFor, _stateEvery, _sendDelay;
    private readonly double _tolerance, _referenceAfter, _slatsAt, _sunHeight, _sunSlat;
    private readonly string _slatsAfter, _after, _busLoss, _busReturn;
    private readonly string[] _reactions;
    private readonly double[] _heights;
    private readonly int[] _order;
    private readonly long[] _watches;
    private readonly ParameterDescription[] _by = [WindIs, RainIs, FrostIs, WindowIs, LockIs];
    private readonly Travel _travel;
    private readonly SceneTable _scenes;
    private readonly double[] _sceneSlats;

    private BlindBehaviour(SettingValues s)
    {
        string function = s.Text(Function);
        (_isOff, _hasSlats, _stopInAlarm, _hasSun, _learns) = (function == BehaviourKind.Disabled, function == "slats", s.Yes(StopInAlarm), s.Yes(SunIs), s.Yes(Learns));
        (_down, _up, _slat, _dead, _pause, _reserve, _step) = (s.Milliseconds(DownTime), s.Milliseconds(UpTime), _hasSlats ? s.Milliseconds(SlatTime) : 0, s.Milliseconds(Dead), s.Milliseconds(Pause), s.Milliseconds(Reserve), s.Milliseconds(Step));
        (_handFor, _stateEvery, _sendDelay) = (s.Milliseconds(HandFor), s.Milliseconds(StateEvery), s.Milliseconds(DeviceBehaviour.SendDelay));
        (_tolerance, _referenceAfter, _slatsAt, _sunHeight, _sunSlat) = (s.Milliseconds(Tolerance), s.Number(ReferenceAfter), s.Number(SlatsAt), s.Number(SunHeight), s.Number(SunSlat));
        (_slatsAfter, _after, _busLoss, _busReturn) = (s.Text(SlatsAfter), s.Text(AfterAlarm), s.Text(BusLoss), s.Text(BusReturn));
        _reactions = [s.Text(WindIs), s.Text(RainIs), s.Text(FrostIs), s.Text(WindowIs), s.Text(LockIs)];
        _heights = [s.Number(WindHeight), s.Number(RainHeight), s.Number(FrostHeight), s.Number(WindowHeight), s.Number(LockHeight)];
        double[] ranks = [s.Number(WindRank), s.Number(RainRank), s.Number(FrostRank), s.Number(WindowRank), s.Number(LockRank)];
        _order = [.. Enumerable.Range(0, ranks.Length).OrderBy(i => ranks[i])];
        _watches = [s.Milliseconds(WindWatch), s.Milliseconds(RainWatch), s.Milliseconds(FrostWatch)];
        _travel = new Travel(s.Number(SlowEnd), s.Number(Ratio) / 100);
        _scenes = new SceneTable(s, Scenes, SceneNumber, SceneHeight, (value, i) => s.Number(value, i));
        _sceneSlats = [.. Enumerable.Range(1, SceneTable.Most).Select(i => s.Number(SceneSlat, i))];
    }

    /// <inheritdoc/>
    public override long NextDue => _isOff ? Never : !S.HasBus ? Sooner(S.StopAt, S.NextAt, S.BendsAt) : Sooner(Sooner(S.StopAt, S.NextAt, S.BendsAt), S.SayAt, S.FollowsAt, S.Late[Wind], S.Late[Rain], S.Late[Frost]);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (_isOff) return;
        S.Scenes = _scenes.Known(S.Scenes);
        if (S.SceneSlats?.Length != _sceneSlats.Length) S.SceneSlats = (double[])_sceneSlats.Clone();
        if (wake == Wake.Mains)
        {
            if (S.HasMains) return;
            S.HasMains = true;
            if (S.Obeys >= 0) React(now, "the mains are back");
            else if (!double.IsNaN(S.ToHeight) || !double.IsNaN(S.ToSlat))
            {
                Because(null, "the mains are back");
                Further(now);
            }
            return;
        }
        (S.HasBus, S.QuietUntil) = (true, FirstSendAt(now, _sendDelay));
        for (int i = 0; i < Alarms; i++) S.Late[i] = _reactions[i] != "none" && _watches[i] > 0 ? now + _watches[i] : Never;
        // The time that was left is unknown after a failure: it starts again.
        if (S.FollowsAt != Never) S.FollowsAt = now + _handFor;
        S.SayAt = S.QuietUntil;
        S.SaysAll = wake == Wake.Bus || S.SaidMoves || S.SaidUp || S.SaidDown || S.Active != 0;
        if (wake == Wake.New)
        {
            // Its settings may be others: what it did is over, and alarms count by those that it has now.
            Stop(now);
            Drive(now, Motor, 0);
            Show(now);
            for (int i = 0; i < _reactions.Length; i++)
            {
                if (_reactions[i] == "none") S.Active &= ~(1 << i);
            }
            S.Obeys = Ranking();
        }
        if (S.Obeys >= 0) React(now, wake == Wake.New ? Names[S.Obeys] : "the bus is back");
        else if (wake == Wake.Bus && _busReturn != "keep")
        {
            Because(BusReturn, "the bus is back");
            Go(now, _busReturn == "up" ? 0 : 100, double.NaN);
        }
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (_isOff || !S.HasBus) return;
        if (what == Move)
        {
            double to = value >= 0.5 ? 100 : 0;
            if (ByHand(now, to, double.NaN)) Order(now, Function, value >= 0.5 ? "told down" : "told up", to, double.NaN);
        }
        else if (what == StepObject) Stepped(now, value >= 0.5 ? 1 : -1);
        else if (what == Position)
        {
            if (ByHand(now, value, SlatFor(now))) Order(now, SlatsAfter, "told a height", value, SlatFor(now));
        }
        else if (what == SlatObject)
        {
            if (ByHand(now, double.NaN, value)) Order(now, SlatTime, "told how the slats stand", double.NaN, value);
        }
        else if (what == SceneObject) Scene(now, value);
        else if (what == SunObject) SunIsThere(now, value >= 0.5);
        else if (what == SunHeightObject || what == SunSlatObject) SunMoves(now, what, value);
        else if (what == AutoObject)
        {
            S.Follows = value >= 0.5;
            S.FollowsAt = Never;
            if (S.Follows && S.Sun && S.Obeys < 0) Order(now, SunIs, "it follows the sun again", S.SunHeight, S.SunSlat);
        }
        else if (what == Reference)
        {
            if (S.Obeys < 0) Order(now, ReferenceAfter, "told to find its end", 0, double.NaN);
        }
        else
        {
            int which = what == WindObject ? Wind : what == RainObject ? Rain : what == FrostObject ? Frost : what == WindowObject ? Window : LockAt;
            if (which < Alarms) S.Late[which] = _watches[which] > 0 ? now + _watches[which] : Never;
            Raise(now, which, value >= 0.5, Names[which]);
        }
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (_isOff) return;
        if (now >= S.StopAt) Arrived(now);
        if (now >= S.BendsAt)
        {
            Because(SlowEnd, "its speed changes here");
            Show(now);
        }
        if (now >= S.NextAt)
        {
            int next = S.Next;
            (S.NextAt, S.Next) = (Never, 0);
            Because(Pause, "the pause is over");
            Start(now, next, S.NextFor, S.NextToEnd);
        }
        if (!S.HasBus) return;
        for (int i = 0; i < Alarms; i++)
        {
            if (now < S.Late[i]) continue;
            S.Late[i] = Never;
            Raise(now, i, true, "an alarm was not heard for too long and counts as raised");
        }
        if (now >= S.FollowsAt)
        {
            (S.FollowsAt, S.Follows) = (Never, true);
            if (S.Sun && S.Obeys < 0) Order(now, HandFor, "the time by hand is over", S.SunHeight, S.SunSlat);
        }
        if (now >= S.SayAt)
        {
            S.SayAt = _stateEvery > 0 ? now + _stateEvery : Never;
            Because(_stateEvery > 0 ? StateEvery : DeviceBehaviour.SendDelay, "its position once more");
            if (S.SaysAll)
            {
                S.SaysAll = false;
                S.SaidMoves = S.Runs != 0;
                Say(MovesState, S.SaidMoves ? 1 : 0);
                Say(AlarmState, S.Obeys >= 0 ? 1 : 0);
                (S.SaidUp, S.SaidDown) = (S.Runs == 0 && S.Height == 0, S.Runs == 0 && S.Height == 100);
                Say(UpState, S.SaidUp ? 1 : 0);
                Say(DownState, S.SaidDown ? 1 : 0);
            }
            if (S.Runs == 0) SayPosition(now);
        }
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (_isOff) return;
        if (supply == Supply.Mains)
        {
            (double height, double slat) = (S.ToHeight, S.ToSlat);
            Because(null, "the mains are gone");
            Stop(now);
            (S.ToHeight, S.ToSlat, S.HasMains) = (height, slat, false);
            return;
        }
        S.HasBus = false;
        if (S.Obeys < 0)
        {
            Because(BusLoss, "the bus is gone");
            Stop(now);
            if (_busLoss != "stop") Go(now, _busLoss == "up" ? 0 : 100, double.NaN);
        }
        S.SayAt = Never;
        for (int i = 0; i < Alarms; i++) S.Late[i] = Never;
    }

    /// <summary>How far the position may be off, % of the way: every start since the last end missing the same way.</summary>
    public double Worth => double.IsNaN(S.Height) ? 100 : Math.Min(100, 100 * S.Parts * _tolerance / Math.Max(1, Math.Min(_up, _down)));

    private double SlatFor(long now) => !_hasSlats ? double.NaN : _slatsAfter switch { "closed" => 100, "fixed" => _slatsAt, _ => SlatNow(now) is var slat && double.IsNaN(slat) ? 0 : double.IsNaN(S.ToSlat) ? slat : S.ToSlat };

    /// <summary>Somebody wants it elsewhere: whether that is done now. What must wait is remembered, and it no longer follows the sun.</summary>
    private bool ByHand(long now, double height, double slat)
    {
        if (_hasSun && S.Sun && S.Follows)
        {
            S.Follows = false;
            S.FollowsAt = _handFor > 0 ? now + _handFor : Never;
        }
        if (S.Obeys < 0) return true;
        if (!double.IsNaN(height)) (S.LaterHeight, S.LaterSlat) = (height, slat);
        else S.LaterSlat = slat;
        return false;
    }

    private void Stepped(long now, int way)
    {
        bool moves = S.Runs != 0 || S.NextAt != Never;
        if (S.Obeys >= 0 && !(_stopInAlarm && moves)) return;
        if (moves)
        {
            Because(S.Obeys >= 0 ? StopInAlarm : Function, "told to stop");
            S.StoppedInAlarm = S.Obeys >= 0;
            Stop(now);
            if (S.Obeys < 0) ByHand(now, S.Height, S.Slat);
            return;
        }
        if (!ByHand(now, double.NaN, double.NaN)) return;
        // Without mains nothing turns; what it was to do later is called off, as a step stops what moves.
        if (!S.HasMains) (S.ToHeight, S.ToSlat) = (double.NaN, double.NaN);
        if (_step == 0 || !S.HasMains) return;
        Because(Step, way > 0 ? "a step down" : "a step up");
        Turn(now, way, _step + _dead, false);
    }

    private void Scene(long now, double told)
    {
        int at = _scenes.Find(told, out bool stores);
        if (at < 0) return;
        if (stores)
        {
            if (_learns && !double.IsNaN(S.Height)) (S.Scenes![at], S.SceneSlats![at]) = (S.Height, double.IsNaN(S.Slat) ? 0 : S.Slat);
            return;
        }
        double slat = _hasSlats ? S.SceneSlats![at] : double.NaN;
        if (ByHand(now, S.Scenes![at], slat)) Order(now, EachScene[at], "scene", S.Scenes[at], slat);
    }

    private void SunIsThere(long now, bool there)
    {
        if (there == S.Sun || !_hasSun) return;
        S.Sun = there;
        if (there)
        {
            (S.SunHeight, S.SunSlat) = (double.IsNaN(S.SunHeight) ? _sunHeight : S.SunHeight, !_hasSlats ? double.NaN : double.IsNaN(S.SunSlat) ? _sunSlat : S.SunSlat);
            (S.ShadeHeight, S.ShadeSlat) = (S.Height, S.Slat);
            if (S.Follows && S.Obeys < 0) Order(now, SunIs, "the sun shines", S.SunHeight, S.SunSlat);
            else if (S.Follows) (S.LaterHeight, S.LaterSlat) = (S.SunHeight, S.SunSlat);
        }
        else if (S.Follows)
        {
            double height = double.IsNaN(S.ShadeHeight) ? 0 : S.ShadeHeight;
            if (S.Obeys < 0) Order(now, SunIs, "the sun is gone", height, S.ShadeSlat);
            else (S.LaterHeight, S.LaterSlat) = (height, S.ShadeSlat);
        }
    }

    private void SunMoves(long now, BehaviourObject what, double value)
    {
        if (what == SunHeightObject) S.SunHeight = value;
        else S.SunSlat = value;
        if (!S.Sun || !S.Follows || !_hasSun) return;
        if (S.Obeys < 0) Order(now, SunIs, "the sun has moved", S.SunHeight, double.IsNaN(S.SunSlat) && _hasSlats ? _sunSlat : S.SunSlat);
        else (S.LaterHeight, S.LaterSlat) = (S.SunHeight, S.SunSlat);
    }

    private void Raise(long now, int which, bool on, string fact)
    {
        if (_reactions[which] == "none") return;
        int before = S.Active;
        S.Active = on ? S.Active | (1 << which) : S.Active & ~(1 << which);
        if (S.Active == before)
        {
            // Heard again, it is made sure that it was done.
            if (on && which == S.Obeys && !S.StoppedInAlarm && S.Runs == 0 && S.NextAt == Never) React(now, fact);
            return;
        }
        int obeys = Ranking();
        if (obeys == S.Obeys) return;
        if (S.Obeys < 0)
        {
            // Where it was, or was on its way to.
            (S.BeforeHeight, S.BeforeSlat) = (double.IsNaN(S.ToHeight) ? HeightNow(now) : S.ToHeight, double.IsNaN(S.ToSlat) ? SlatNow(now) : S.ToSlat);
            (S.LaterHeight, S.LaterSlat) = (double.NaN, double.NaN);
            Tell(now, AlarmState, 1);
        }
        (S.Obeys, S.StoppedInAlarm) = (obeys, false);
        if (obeys >= 0)
        {
            React(now, fact);
            return;
        }
        Because(AfterAlarm, "no alarm and no lock any more");
        Tell(now, AlarmState, 0);
        switch (_after)
        {
            case "up":
                Go(now, 0, double.NaN);
                break;
            case "down":
                Go(now, 100, double.NaN);
                break;
            case "follow" when !double.IsNaN(S.LaterHeight) || !double.IsNaN(S.LaterSlat):
                Go(now, double.IsNaN(S.LaterHeight) ? S.BeforeHeight : S.LaterHeight, S.LaterSlat);
                break;
            case "follow" or "before" when !double.IsNaN(S.BeforeHeight):
                Go(now, S.BeforeHeight, S.BeforeSlat);
                break;
        }
    }

    /// <summary>Of the alarms and locks that are there that with the lowest rank; −1 for none.</summary>
    private int Ranking()
    {
        foreach (int i in _order)
        {
            if ((S.Active & (1 << i)) != 0) return i;
        }
        return -1;
    }

    /// <summary>Does what the alarm or lock that it obeys commands.</summary>
    private void React(long now, string fact)
    {
        S.StoppedInAlarm = false;
        Because(_by[S.Obeys], fact);
        switch (_reactions[S.Obeys])
        {
            case "up":
                Go(now, 0, double.NaN);
                break;
            case "down":
                Go(now, 100, double.NaN);
                break;
            case "height":
                Go(now, _heights[S.Obeys], SlatFor(now));
                break;
            default:
                Stop(now);
                break;
        }
    }

    private void Order(long now, ParameterDescription by, string fact, double height, double slat)
    {
        Because(by, fact);
        Go(now, height, slat);
    }

    /// <summary>Sends it to a height and slats; a part that is not a number stays as it is.</summary>
    private void Go(long now, double height, double slat)
    {
        if (S.Runs != 0) Account(now);
        if (!double.IsNaN(height)) height = Math.Clamp(height, 0, 100);
        slat = _hasSlats && !double.IsNaN(slat) ? Math.Clamp(slat, 0, 100) : double.NaN;
        (S.ToHeight, S.ToSlat) = (height, slat);
        // Without mains it waits for them.
        if (S.HasMains) Further(now);
    }

    /// <summary>The next run on the way to where it is to go.</summary>
    private void Further(long now)
    {
        if (!double.IsNaN(S.ToHeight))
        {
            bool isEnd = S.ToHeight is <= 0 or >= 100;
            if (double.IsNaN(S.Height) && !isEnd)
            {
                Because(Reserve, "its position is not known: up first");
                Turn(now, -1, double.MaxValue, true);
                return;
            }
            if (!isEnd && _referenceAfter > 0 && S.Parts >= _referenceAfter)
            {
                Because(ReferenceAfter, "after so many part moves it finds its end first");
                int way = S.Height <= 50 ? -1 : 1;
                Turn(now, way, TimeTo(way, way < 0 ? 0 : 100), true);
                return;
            }
            if (isEnd)
            {
                int way = S.ToHeight <= 0 ? -1 : 1;
                double takes = double.IsNaN(S.Height) ? double.MaxValue : TimeTo(way, S.ToHeight);
                bool isThere = !double.IsNaN(S.Height) && S.Height == S.ToHeight && S.Parts == 0;
                double slat = S.ToSlat;
                if (!isThere)
                {
                    Turn(now, way, takes, true);
                    return;
                }
                (S.ToHeight, S.ToSlat) = (double.NaN, slat);
            }
            else if (Math.Abs(S.Height - S.ToHeight) > 0.01)
            {
                int way = S.ToHeight > S.Height ? 1 : -1;
                Turn(now, way, TimeTo(way, S.ToHeight), false);
                return;
            }
            else S.ToHeight = double.NaN;
        }
        if (!double.IsNaN(S.ToSlat) && !double.IsNaN(S.Slat))
        {
            double turn = S.ToSlat - S.Slat;
            S.ToSlat = double.NaN;
            if (Math.Abs(turn) > 0.5)
            {
                Because(SlatTime, "its slats turn");
                Turn(now, turn > 0 ? 1 : -1, (Math.Abs(turn) / 100 * _slat) + _dead, false);
                return;
            }
        }
        (S.ToHeight, S.ToSlat) = (double.NaN, double.NaN);
        if (S.Runs != 0) Halt(now);
    }

    /// <summary>How long the relay is closed until it is at a height: dead time, slats, way.</summary>
    private double TimeTo(int way, double height)
    {
        double slats = !_hasSlats ? 0 : double.IsNaN(S.Slat) ? _slat : _slat * (way > 0 ? 100 - S.Slat : S.Slat) / 100;
        return _dead + slats + (Math.Abs(_travel.TimeTo(height) - _travel.TimeTo(S.Height)) * (way > 0 ? _down : _up));
    }

    /// <summary>Runs the motor a way for so many ms; it rests first where it ran the other way.</summary>
    private void Turn(long now, int way, double takes, bool toEnd)
    {
        // What was to come after a pause is replaced by this.
        (S.Next, S.NextAt) = (0, Never);
        if (S.Runs == way)
        {
            // It runs that way already: only when it stops is otherwise, and its dead time is behind it.
            bool passed = now - S.Since >= _dead;
            StopAfter(now, takes == double.MaxValue ? takes : takes - (passed ? _dead : 0), toEnd);
            return;
        }
        if (S.Runs != 0) Halt(now);
        long free = S.Last == -way && S.StoppedAt != long.MinValue ? S.StoppedAt + _pause : now;
        if (free <= now)
        {
            Start(now, way, takes, toEnd);
            return;
        }
        (S.Next, S.NextAt, S.NextFor, S.NextToEnd) = (way, free, takes, toEnd);
    }

    private void Start(long now, int way, double takes, bool toEnd)
    {
        (S.Runs, S.Last, S.Since) = (way, way, now);
        S.Parts++;
        S.Meter.Turn(now, true);
        Drive(now, Motor, way);
        StopAfter(now, takes, toEnd);
        if (!S.SaidMoves) Tell(now, MovesState, 1);
        S.SaidMoves = true;
        SayEnds(now, false, false);
    }

    private void StopAfter(long now, double takes, bool toEnd)
    {
        double whole = takes == double.MaxValue ? _dead + _slat + (S.Runs > 0 ? _down : _up) : takes;
        S.StopAt = now + (long)Math.Round(whole) + (toEnd ? _reserve : 0);
        S.ToEnd = toEnd;
        Show(now);
    }

    private void Halt(long now)
    {
        if (S.Runs == 0) return;
        Account(now);
        (S.Runs, S.StopAt, S.StoppedAt) = (0, Never, now);
        S.Meter.Turn(now, false);
        Drive(now, Motor, 0);
        Show(now);
        if (S.NextAt != Never || (!double.IsNaN(S.ToHeight) || !double.IsNaN(S.ToSlat))) return;
        Rests(now);
    }

    /// <summary>Stops it for good: it is not on its way anywhere any more.</summary>
    private void Stop(long now)
    {
        bool rested = S.Runs == 0;
        bool waited = S.NextAt != Never;
        (S.ToHeight, S.ToSlat, S.NextAt, S.Next) = (double.NaN, double.NaN, Never, 0);
        Halt(now);
        if (rested && waited) Rests(now);
    }

    private void Rests(long now)
    {
        if (S.SaidMoves) Tell(now, MovesState, 0);
        S.SaidMoves = false;
        SayPosition(now);
    }

    private void Arrived(long now)
    {
        bool toEnd = S.ToEnd;
        int way = S.Runs;
        Account(now);
        if (toEnd)
        {
            (S.Height, S.Slat, S.Parts) = (way > 0 ? 100 : 0, way > 0 ? 100 : 0, 0);
            if (S.ToHeight == S.Height) S.ToHeight = double.NaN;
        }
        else if (!double.IsNaN(S.ToHeight) && Math.Abs(S.Height - S.ToHeight) < 0.5) (S.Height, S.ToHeight) = (S.ToHeight, double.NaN);
        (S.Runs, S.StopAt, S.StoppedAt) = (0, Never, now);
        S.Meter.Turn(now, false);
        Because(toEnd ? Reserve : way > 0 ? DownTime : UpTime, toEnd ? "it is at its end" : "it is there");
        Drive(now, Motor, 0);
        Show(now);
        Further(now);
        if (S.Runs == 0 && S.NextAt == Never) Rests(now);
    }

    /// <summary>Brings height and slats to where the motor has moved them, and counts from here on.</summary>
    private void Account(long now)
    {
        if (S.Runs == 0) return;
        (double height, double slat) = Where(now);
        (S.Height, S.Slat) = (height, slat);
        // What of the dead time is not over yet is still to come.
        S.Since = now - S.Since >= _dead ? now - _dead : S.Since;
    }

    private double HeightNow(long now) => Where(now).Height;

    private double SlatNow(long now) => Where(now).Slat;

    private (double Height, double Slat) Where(long now)
    {
        if (S.Runs == 0 || !S.HasMains) return (S.Height, S.Slat);
        double turned = Math.Max(0, now - S.Since - _dead), slat = S.Slat;
        if (_hasSlats)
        {
            double from = double.IsNaN(slat) ? S.Runs > 0 ? 0 : 100 : slat, left = _slat * (S.Runs > 0 ? 100 - from : from) / 100;
            double used = Math.Min(turned, left);
            if (turned >= left) slat = S.Runs > 0 ? 100 : 0;
            else if (!double.IsNaN(slat)) slat += S.Runs * 100 * used / _slat;
            turned -= used;
        }
        if (double.IsNaN(S.Height)) return (S.Height, slat);
        double time = _travel.TimeTo(S.Height) + (S.Runs * turned / (S.Runs > 0 ? _down : _up));
        return (_travel.HeightAfter(time), slat);
    }

    /// <summary>Shows height, slats and what they are worth on their way, as far as the height goes at one speed.</summary>
    private void Show(long now)
    {
        S.BendsAt = Never;
        (double height, double slat) = Where(now);
        World.Drive(this, WorthPort, Course.Standing(now, Worth));
        if (S.Runs == 0)
        {
            World.Drive(this, HeightPort, Course.Standing(now, height));
            if (_hasSlats) World.Drive(this, SlatPort, Course.Standing(now, slat));
            return;
        }
        long moves = S.Since + _dead, turned = moves + (long)(_hasSlats && !double.IsNaN(S.Slat) ? _slat * (S.Runs > 0 ? 100 - S.Slat : S.Slat) / 100 : 0);
        double end = double.IsNaN(height) ? height : _travel.HeightAfter(_travel.TimeTo(S.Height) + (S.Runs * Math.Max(0, S.StopAt - turned) / (double)(S.Runs > 0 ? _down : _up)));
        long until = double.IsNaN(height) ? S.StopAt : Math.Min(S.StopAt, turned + (long)(Math.Abs(_travel.TimeTo(end) - _travel.TimeTo(S.Height)) * (S.Runs > 0 ? _down : _up)));
        if (!double.IsNaN(height))
        {
            double bend = _travel.NextBend(height, S.Runs);
            // Rounded up, so that it is shown from behind the bend on.
            long at = turned + (long)Math.Ceiling(Math.Abs(_travel.TimeTo(bend) - _travel.TimeTo(S.Height)) * (S.Runs > 0 ? _down : _up));
            if ((end - bend) * S.Runs > 1e-9 && at > now && at < S.StopAt) (S.BendsAt, until, end) = (at, at, _travel.HeightAfter(_travel.TimeTo(S.Height) + (S.Runs * (at - turned) / (double)(S.Runs > 0 ? _down : _up))));
        }
        World.Drive(this, HeightPort, new Course(Math.Max(now, turned), height, Math.Max(now, until), end));
        if (_hasSlats) World.Drive(this, SlatPort, new Course(Math.Max(now, moves), slat, Math.Max(now, Math.Min(S.StopAt, turned)), S.StopAt >= turned ? S.Runs > 0 ? 100 : 0 : slat + (S.Runs * 100.0 * Math.Max(0, S.StopAt - Math.Max(now, moves)) / _slat)));
    }

    private void SayPosition(long now)
    {
        if (!double.IsNaN(S.Height)) Tell(now, PositionState, Math.Round(S.Height, 2));
        if (_hasSlats && !double.IsNaN(S.Slat)) Tell(now, SlatState, Math.Round(S.Slat, 2));
        SayEnds(now, S.Height == 0, S.Height == 100);
    }

    /// <summary>Says a state; while it is quiet after bus return, and without bus, it has it ready until all is said once more.</summary>
    private void Tell(long now, BehaviourObject what, double value) => World.Say(this, what, value, S.HasBus && now >= S.QuietUntil);

    private void SayEnds(long now, bool up, bool down)
    {
        if (up != S.SaidUp) Tell(now, UpState, up ? 1 : 0);
        if (down != S.SaidDown) Tell(now, DownState, down ? 1 : 0);
        (S.SaidUp, S.SaidDown) = (up, down);
    }

    private static ParameterDescription Reaction(string key, string label, string begins) =>
        (Parameters.Choice(key, label, "What it does then.", ("none", "not used"), ("up", "up"), ("down", "down"), ("stop", "stops and stays"), ("height", "to a height")) with { Default = begins }).If("function != disabled");

    private static ParameterDescription HeightOf(string key, string label) => Parameters.Percent($"{key}Height", $"{label}: height", "0 % is open.", 0).If($"function != disabled and {key} = height");

    private static ParameterDescription Rank(string key, string label, int begins) => Parameters.Numbered($"{key}Rank", $"{label}: rank", "Of those that are there, the lowest is obeyed.", begins, 1, 5, step: 1).If($"function != disabled and {key} != none");

    private static ParameterDescription Watched(string key, string label) => Parameters.Time($"{key}Watch", $"{label}: heard every", "If it is not heard for so long it counts as raised; 0: it is not watched.", key == "wind" ? 600 : 0, 0, 86_400).If($"function != disabled and {key} != none");
}
