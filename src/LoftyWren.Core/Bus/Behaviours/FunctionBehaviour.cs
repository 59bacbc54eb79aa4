using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="FunctionBehaviour"/> remembers.</summary>
public sealed class FunctionState : BehaviourState
{
    /// <summary>What was heard; not a number before.</summary>
    public double A = double.NaN, B = double.NaN, C = double.NaN, D = double.NaN, Said = double.NaN;

    /// <summary>When a time is over; what it brings then.</summary>
    public long DueAt = Behaviour.Never;

    /// <summary>As <see cref="DueAt"/>.</summary>
    public double Next;

    /// <summary>When its answer is said once more after bus return.</summary>
    public long SayAt = Behaviour.Never;

    /// <summary>Whether the bus is there.</summary>
    public bool HasBus = true;
}

/// <summary>
/// A function of its own in an actuator.
/// <list type="bullet">
/// <item>logic: and, or, exclusive or of up to four, each inverted at will; a gate lets A through while B is on. What was never heard counts as off.</item>
/// <item>timer: an on comes after <c>time</c>, an off does, or both; or an on is a pulse of it. The contrary ends what waits.</item>
/// <item>comparison: A above B, or above <c>limit</c>, with hysteresis. calculation: sum, difference, product, least, greatest, mean of A and B.</item>
/// </list>
/// The answer is said when it changes, or whenever an input comes, and once after bus return; a time that was running then begins from its start.
/// </summary>
public sealed class FunctionBehaviour : Behaviour<FunctionState>
{
    private static readonly ParameterDescription
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What it does.", (BehaviourKind.Disabled, "Disabled"), ("logic", "Logic"), ("timer", "Timer"), ("comparison", "Comparison"), ("calculation", "Calculation")),
        Logic = Parameters.Choice("logic", "Logic", "", ("and", "and"), ("or", "or"), ("xor", "exclusive or"), ("gate", "gate")).If("function = logic"),
        Inputs = Parameters.Numbered("inputs", "Inputs", "How many.", 2, 2, 4, step: 1).If("function = logic and logic != gate"),
        InvertA = Parameters.YesNo("invertA", "Inverts A", "").If("function = logic"), InvertB = Parameters.YesNo("invertB", "Inverts B", "").If("function = logic"),
        InvertC = Parameters.YesNo("invertC", "Inverts C", "").If("function = logic and logic != gate and inputs >= 3"), InvertD = Parameters.YesNo("invertD", "Inverts D", "").If("function = logic and logic != gate and inputs >= 4"),
        InvertOut = Parameters.YesNo("invertOut", "Inverts the answer", "").If("function in logic, timer, comparison"),
        Timer = Parameters.Choice("timer", "Timer", "", ("on", "on delay"), ("off", "off delay"), ("both", "on and off delay"), ("pulse", "pulse")).If("function = timer"),
        Time = Parameters.Time("time", "Time", "", 60, 0.1, 86_400).If("function = timer"),
        Compare = Parameters.Choice("compare", "Compares", "", ("limit", "A with a limit"), ("other", "A with B")).If("function = comparison"),
        Limit = Parameters.Numbered("limit", "Limit", "In the unit of A.", 20, -670_000, 670_000).If("function = comparison and compare = limit"),
        Hysteresis = Parameters.Numbered("hysteresis", "Hysteresis", "In the unit of A.", 1, 0, 100_000).If("function = comparison"),
        Calculation = Parameters.Choice("calculation", "Calculates", "", ("sum", "A + B"), ("difference", "A − B"), ("product", "A × B"), ("least", "the lesser"), ("greatest", "the greater"), ("mean", "the mean")).If("function = calculation"),
        Sends = Parameters.Choice("sends", "Says its answer", "", ("changed", "when it changes"), ("always", "whenever an input comes")).If("function != disabled");

    private static readonly BehaviourObject
        A = new("a", "{channel} · A", "1.002", "CWU", "logic input") { When = "function in logic, timer", Passes = ["out"] }, B = new("b", "{channel} · B", "1.002", "CWU", "logic input") { When = "function = logic", Passes = ["out"] },
        C = new("c", "{channel} · C", "1.002", "CWU", "logic input") { When = "function = logic and logic != gate and inputs >= 3", Passes = ["out"] }, D = new("d", "{channel} · D", "1.002", "CWU", "logic input") { When = "function = logic and logic != gate and inputs >= 4", Passes = ["out"] },
        Out = new("out", "{channel} · answer", "1.002", "CRT", "logic sender") { When = "function in logic, timer, comparison" },
        NumberA = new("numberA", "{channel} · A", "9.001", "CWU", "logic input") { When = "function in comparison, calculation", Passes = ["out", "numberOut"] }, NumberB = new("numberB", "{channel} · B", "9.001", "CWU", "logic input") { When = "function = calculation or (function = comparison and compare = other)", Passes = ["out", "numberOut"] },
        NumberOut = new("numberOut", "{channel} · answer", "9.001", "CRT", "logic sender") { When = "function = calculation" };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("function", "Function", [Function, Logic, Inputs, InvertA, InvertB, InvertC, InvertD, InvertOut, Timer, Time, Compare, Limit, Hysteresis, Calculation, Sends, DeviceBehaviour.SendDelay], [A, B, C, D, Out, NumberA, NumberB, NumberOut], [], [], s => new FunctionBehaviour(s));

    private readonly string _function, _logic, _timer, _compare, _calculation;
    private readonly int _inputs;
    private readonly bool _invertA, _invertB, _invertC, _invertD, _invertOut, _always;
    private readonly long _time, _sendDelay;
    private readonly double _limit, _hysteresis;

    private FunctionBehaviour(SettingValues s)
    {
        (_function, _logic, _timer, _compare, _calculation) = (s.Text(Function), s.Text(Logic), s.Text(Timer), s.Text(Compare), s.Text(Calculation));
        _sendDelay = s.Milliseconds(DeviceBehaviour.SendDelay);
        (_inputs, _time, _limit, _hysteresis, _always) = (_logic == "gate" ? 2 : (int)s.Number(Inputs), s.Milliseconds(Time), s.Number(Limit), s.Number(Hysteresis), s.Text(Sends) == "always");
        (_invertA, _invertB, _invertC, _invertD, _invertOut) = (s.Yes(InvertA), s.Yes(InvertB), s.Yes(InvertC), s.Yes(InvertD), s.Yes(InvertOut));
    }

    /// <inheritdoc/>
    public override long NextDue => S.HasBus ? Math.Min(S.DueAt, S.SayAt) : Never;

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake == Wake.Mains) return;
        S.HasBus = true;
        if (S.DueAt != Never) S.DueAt = now + _time;
        if (!double.IsNaN(S.Said)) S.SayAt = FirstSendAt(now, _sendDelay);
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (!S.HasBus || _function == BehaviourKind.Disabled) return;
        if (what == A || what == NumberA) S.A = value;
        else if (what == B || what == NumberB) S.B = value;
        else if (what == C) S.C = value;
        else if (what == D) S.D = value;
        switch (_function)
        {
            case "logic":
                if (_logic == "gate" && !(IsOn(S.B) != _invertB)) return;
                Because(Logic, "an input came");
                Answer(Out, Combined() != _invertOut ? 1 : 0);
                break;
            case "timer":
                Timed(now, value >= 0.5);
                break;
            case "comparison":
                double limit = _compare == "other" ? S.B : _limit;
                if (double.IsNaN(S.A) || double.IsNaN(limit)) return;
                bool was = S.Said == (_invertOut ? 0 : 1), above = was ? S.A >= limit - _hysteresis : S.A > limit;
                Because(Limit, above ? "above" : "not above");
                Answer(Out, above != _invertOut ? 1 : 0);
                break;
            default:
                if (double.IsNaN(S.A) || double.IsNaN(S.B)) return;
                Because(Calculation, "an input came");
                Answer(NumberOut, _calculation switch { "sum" => S.A + S.B, "difference" => S.A - S.B, "product" => S.A * S.B, "least" => Math.Min(S.A, S.B), "greatest" => Math.Max(S.A, S.B), _ => (S.A + S.B) / 2 });
                break;
        }
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (!S.HasBus) return;
        if (now >= S.DueAt)
        {
            S.DueAt = Never;
            Because(Time, "its time is over");
            Answer(Out, S.Next);
        }
        if (now < S.SayAt) return;
        S.SayAt = Never;
        Because(DeviceBehaviour.SendDelay, "its answer once more");
        Say(_function == "calculation" ? NumberOut : Out, S.Said);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply == Supply.Bus) (S.HasBus, S.SayAt) = (false, Never);
    }

    private static bool IsOn(double value) => value >= 0.5;

    private bool Combined()
    {
        bool a = IsOn(S.A) != _invertA, b = IsOn(S.B) != _invertB, c = IsOn(S.C) != _invertC, d = IsOn(S.D) != _invertD;
        return _logic switch
        {
            "gate" => a,
            "or" => a || b || (_inputs >= 3 && c) || (_inputs >= 4 && d),
            "xor" => a ^ b ^ (_inputs >= 3 && c) ^ (_inputs >= 4 && d),
            _ => a && b && (_inputs < 3 || c) && (_inputs < 4 || d),
        };
    }

    private void Timed(long now, bool on)
    {
        double value = on != _invertOut ? 1 : 0, off = _invertOut ? 1 : 0;
        if (_timer == "pulse")
        {
            if (!on) return;
            Because(Timer, "a pulse begins");
            Answer(Out, value);
            (S.DueAt, S.Next) = (now + _time, off);
            return;
        }
        bool waits = _timer == "both" || (_timer == "on") == on;
        if (!waits)
        {
            S.DueAt = Never;
            Because(Timer, "told");
            Answer(Out, value);
        }
        else if (S.DueAt == Never || S.Next != value) (S.DueAt, S.Next) = (S.Said == value ? Never : now + _time, value);
    }

    private void Answer(BehaviourObject what, double value)
    {
        if (value == S.Said && !_always) return;
        S.Said = value;
        Say(what, value);
    }
}
