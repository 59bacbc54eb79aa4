using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="AnalogInputBehaviour"/> remembers.</summary>
public sealed class AnalogInputState : BehaviourState
{
    /// <summary>What it measures, % of its signal; what it said last; whether its thresholds are passed.</summary>
    public double Signal = double.NaN, Said = double.NaN;

    /// <summary>As <see cref="Signal"/>.</summary>
    public bool Passed1, Passed2, HasBus = true;

    /// <summary>Whether it says what its thresholds are, changed or not, with its next value: after a new start or bus return.</summary>
    public bool SaysThresholds;

    /// <summary>When it says its value again.</summary>
    public long SayAt = Behaviour.Never;
}

/// <summary>
/// An analog input: its signal from 0 to 100 % is a value from <c>low</c> to <c>high</c>, straight between. It is said when it
/// has moved by <c>change</c>, and every <c>every</c>. A threshold is passed above its value, and no longer once it is below
/// value − hysteresis.
/// </summary>
public sealed class AnalogInputBehaviour : Behaviour<AnalogInputState>
{
    private static readonly ParameterDescription
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What it is for.", ("value", "Measures"), (BehaviourKind.Disabled, "Disabled")),
        Low = Parameters.Numbered("low", "Value at 0 % of the signal", "In the unit of its object.", 0, -670_000, 670_000).If("function = value"),
        High = Parameters.Numbered("high", "Value at 100 % of the signal", "In the unit of its object.", 100, -670_000, 670_000).If("function = value"),
        Change = Parameters.Numbered("change", "Said when changed by", "In the unit of its object; 0: only every so often.", 1, 0, 100_000).If("function = value"),
        Every = Parameters.Time("every", "Said every", "0: only when changed.", 600, 0, 86_400).If("function = value"),
        Threshold1 = Parameters.YesNo("threshold1", "First threshold", "Whether it tells when the value is above it.").If("function = value"),
        Limit1 = Parameters.Numbered("limit1", "First threshold at", "In the unit of its object.", 50, -670_000, 670_000).If("function = value and threshold1"),
        Threshold2 = Parameters.YesNo("threshold2", "Second threshold", "Whether it tells when the value is above it.").If("function = value"),
        Limit2 = Parameters.Numbered("limit2", "Second threshold at", "In the unit of its object.", 80, -670_000, 670_000).If("function = value and threshold2"),
        Hysteresis = Parameters.Numbered("hysteresis", "Hysteresis", "In the unit of its object.", 2, 0, 100_000).If("function = value and (threshold1 or threshold2)");

    private static readonly BehaviourObject
        Value = new("value", "{channel} · value", "9.001", "CRT", "measured") { When = "function = value", Again = Every },
        First1 = new("first", "{channel} · first threshold", "1.005", "CRT", "alarm sender") { When = "function = value and threshold1" },
        Second2 = new("second", "{channel} · second threshold", "1.005", "CRT", "alarm sender") { When = "function = value and threshold2" };

    private static readonly BehaviourPort SignalPort = new("signal", "{channel} · signal", "%", 0, 100);

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("analogInput", "Analog input", [Function, Low, High, Change, Every, Threshold1, Limit1, Threshold2, Limit2, Hysteresis, DeviceBehaviour.SendDelay], [Value, First1, Second2], [SignalPort], [], s => new AnalogInputBehaviour(s));

    private readonly bool _isOff, _has1, _has2;
    private readonly double _low, _high, _change, _limit1, _limit2, _hysteresis;
    private readonly long _every, _sendDelay;

    private AnalogInputBehaviour(SettingValues s)
    {
        (_isOff, _has1, _has2) = (s.Text(Function) == BehaviourKind.Disabled, s.Yes(Threshold1), s.Yes(Threshold2));
        (_low, _high, _change, _limit1, _limit2, _hysteresis) = (s.Number(Low), s.Number(High), s.Number(Change), s.Number(Limit1), s.Number(Limit2), s.Number(Hysteresis));
        (_every, _sendDelay) = (s.Milliseconds(Every), s.Milliseconds(DeviceBehaviour.SendDelay));
    }

    /// <inheritdoc/>
    public override long NextDue => _isOff || !S.HasBus ? Never : S.SayAt;

    private double Now => _low + ((_high - _low) * Math.Clamp(S.Signal, 0, 100) / 100);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (_isOff || wake == Wake.Mains) return;
        (S.HasBus, S.SayAt, S.Said, S.SaysThresholds) = (true, FirstSendAt(now, _sendDelay), double.NaN, wake == Wake.Bus || S.Passed1 || S.Passed2);
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
    }

    /// <inheritdoc/>
    public override void Sense(long now, BehaviourPort what, double value)
    {
        S.Signal = value;
        if (_isOff || !S.HasBus) return;
        if (_change > 0 && !double.IsNaN(S.Said) && Math.Abs(Now - S.Said) >= _change - 1e-9)
        {
            Because(Change, "it has moved by so much");
            Tell(now);
        }
        else Keep(Value, Now);
        Thresholds(false);
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (_isOff || !S.HasBus || now < S.SayAt) return;
        Because(Every, "its value once more");
        Tell(now);
        if (double.IsNaN(S.Signal) || !S.SaysThresholds) return;
        Thresholds(true);
        S.SaysThresholds = false;
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply == Supply.Bus) (S.HasBus, S.SayAt) = (false, Never);
    }

    private void Tell(long now)
    {
        S.SayAt = _every > 0 ? now + _every : Never;
        if (double.IsNaN(S.Signal)) return;
        S.Said = Now;
        Say(Value, Now);
    }

    private void Thresholds(bool says)
    {
        S.Passed1 = Threshold(_has1, First1, Threshold1, _limit1, S.Passed1, says);
        S.Passed2 = Threshold(_has2, Second2, Threshold2, _limit2, S.Passed2, says);
    }

    private bool Threshold(bool has, BehaviourObject what, ParameterDescription by, double limit, bool passed, bool says)
    {
        if (!has) return passed;
        bool above = passed ? Now >= limit - _hysteresis : Now > limit;
        if (above == passed && !says) return passed;
        Because(by, above ? "above the threshold" : "below the threshold again");
        Say(what, above ? 1 : 0);
        return above;
    }
}
