using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="RoomControlBehaviour"/> remembers.</summary>
public sealed class RoomControlState : BehaviourState
{
    /// <summary>What the regulation remembers.</summary>
    public RegulatorState Room = new();

    /// <summary>Whether the bus is there.</summary>
    public bool HasBus = true;

    /// <summary>What was said last of heating and cooling; when their pulse began and when it ends.</summary>
    public double SaidHeat = double.NaN, SaidCool = double.NaN;

    /// <summary>When that was.</summary>
    public long SaidHeatAt, SaidCoolAt;

    /// <summary>As <see cref="SaidHeat"/>.</summary>
    public long CycleAt = Behaviour.Never, HeatEndsAt = Behaviour.Never, CoolEndsAt = Behaviour.Never, LookedAt = long.MinValue;

    /// <inheritdoc/>
    public override BehaviourState Copy()
    {
        var copy = (RoomControlState)base.Copy();
        copy.Room = Room.Copy();
        return copy;
    }
}

/// <summary>
/// A room controller: the room's regulation, whose answer goes out as a percentage when it has moved by 1 %, as pulses of
/// <c>cycle</c> on for the share that is asked for, or two-point: on at half a hysteresis on the one side of the setpoint, off
/// at half of it on the other. It is said again every <c>answerEvery</c> though it is the same, for valves take a demand that does not come for lost.
/// </summary>
public sealed class RoomControlBehaviour : Behaviour<RoomControlState>
{
    private static readonly RegulatorSettings Room = new();

    private static readonly ParameterDescription
        Answer = Parameters.Choice("answer", "Says", "How it asks for heat and cold.", ("percent", "a percentage"), ("pulses", "pulses"), ("binary", "on and off")),
        Cycle = Parameters.Time("cycle", "Cycle", "The length of one cycle of pulses.", 900, 60, 7200).If("answer = pulses"),
        Hysteresis = Parameters.Numbered("hysteresis", "Hysteresis", "Between on and off.", 0.5, 0.1, 5, "K", 0.1).If("answer = binary"),
        AnswerEvery = Parameters.Time("answerEvery", "Said again every", "It is said when it is another, and again so often, so that a valve knows that somebody asks; 0: only then.", 900, 0, 86_400);

    private static readonly BehaviourObject
        HeatValue = new("heatValue", "{channel} · heating", "5.001", "CRT", "heating sender") { Again = AnswerEvery, When = "system in both, heating and answer = percent" }, CoolValue = new("coolValue", "{channel} · cooling", "5.001", "CRT", "cooling sender") { Again = AnswerEvery, When = "system in both, cooling and answer = percent" },
        HeatOn = new("heatOn", "{channel} · heating on", "1.001", "CRT", "heating switch sender") { Again = AnswerEvery, When = "system in both, heating and answer in pulses, binary" }, CoolOn = new("coolOn", "{channel} · cooling on", "1.001", "CRT", "cooling switch sender") { Again = AnswerEvery, When = "system in both, cooling and answer in pulses, binary" };

    private static readonly BehaviourPort Temperature = new("temperature", "{channel} · temperature", "°C", -20, 60) { Quantity = "temperature" };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("roomControl", "Room control", [.. Room.Settings, Answer, Cycle, Hysteresis, AnswerEvery, DeviceBehaviour.SendDelay],
        [.. Room.Objects.Where(o => o != Room.WaterObject && o != Room.DewObject), HeatValue, CoolValue, HeatOn, CoolOn], [Temperature], [], s => new RoomControlBehaviour(s));

    private readonly RoomRegulator _room;
    private readonly string _answer;
    private readonly long _cycle, _sendDelay, _again;
    private readonly double _half;

    private RoomControlBehaviour(SettingValues s)
    {
        _room = new RoomRegulator(Room, s);
        (_answer, _cycle, _sendDelay, _again, _half) = (s.Text(Answer), s.Milliseconds(Cycle), s.Milliseconds(DeviceBehaviour.SendDelay), s.Milliseconds(AnswerEvery), s.Number(Hysteresis) / 2);
    }

    /// <inheritdoc/>
    public override long NextDue => !S.HasBus ? Never : Sooner(S.Room.LooksAt, S.CycleAt, S.HeatEndsAt, S.CoolEndsAt);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake == Wake.Mains) return;
        (S.HasBus, S.LookedAt, S.Room.LooksAt, S.SaidHeat, S.SaidCool) = (true, now, FirstSendAt(now, _sendDelay), double.NaN, double.NaN);
        S.CycleAt = _answer == "pulses" ? S.Room.LooksAt : Never;
        _room.Begin(S.Room, now, wake);
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (S.HasBus && _room.Hear(S.Room, now, what, value)) S.Room.LooksAt = Math.Min(S.Room.LooksAt, now);
    }

    /// <inheritdoc/>
    public override void Sense(long now, BehaviourPort what, double value) => S.Room.Local = value;

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (!S.HasBus) return;
        RegulatorState r = S.Room;
        if (now >= r.LooksAt)
        {
            _room.Look(r, now, Math.Max(0, now - S.LookedAt) / 1000.0, this);
            (S.LookedAt, r.LooksAt) = (now, now + RoomRegulator.Period);
            if (_answer == "percent")
            {
                Tell(now, HeatValue, Math.Round(r.Heat), ref S.SaidHeat, ref S.SaidHeatAt, Room.HeatBand, "what is asked for has moved", _room.Heats);
                Tell(now, CoolValue, Math.Round(r.Cool), ref S.SaidCool, ref S.SaidCoolAt, Room.CoolBand, "what is asked for has moved", _room.Cools);
            }
            else if (_answer == "binary")
            {
                var (heating, cooling) = _room.Setpoints(r, _room.Mode(r, now, out _));
                double t = _room.Temperature(r);
                Switch(now, HeatOn, double.IsNaN(t) ? RoomRegulator.IsOpenWithout(r, now) ? 1 : 0 : t <= heating - _half ? 1 : t >= heating + _half ? 0 : S.SaidHeat, ref S.SaidHeat, ref S.SaidHeatAt, _room.Heats);
                Switch(now, CoolOn, t >= cooling + _half ? 1 : t <= cooling - _half || double.IsNaN(t) ? 0 : S.SaidCool, ref S.SaidCool, ref S.SaidCoolAt, _room.Cools);
            }
            else
            {
                // Between pulses what was said last is said again.
                Again(now, HeatOn, S.SaidHeat, ref S.SaidHeatAt);
                Again(now, CoolOn, S.SaidCool, ref S.SaidCoolAt);
            }
        }
        if (now >= S.CycleAt)
        {
            S.CycleAt = now + _cycle;
            S.HeatEndsAt = Pulse(now, HeatOn, r.Heat, ref S.SaidHeat, ref S.SaidHeatAt, _room.Heats);
            S.CoolEndsAt = Pulse(now, CoolOn, r.Cool, ref S.SaidCool, ref S.SaidCoolAt, _room.Cools);
        }
        if (now >= S.HeatEndsAt) S.HeatEndsAt = End(now, HeatOn, ref S.SaidHeat, ref S.SaidHeatAt);
        if (now >= S.CoolEndsAt) S.CoolEndsAt = End(now, CoolOn, ref S.SaidCool, ref S.SaidCoolAt);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply == Supply.Bus) (S.HasBus, S.Room.LooksAt, S.CycleAt, S.HeatEndsAt, S.CoolEndsAt) = (false, Never, Never, Never, Never);
    }

    /// <summary>Says what is another than before, for a reason; and what is the same when it is time to say it again.</summary>
    private void Tell(long now, BehaviourObject what, double value, ref double said, ref long saidAt, ParameterDescription by, string fact, bool has)
    {
        if (!has) return;
        if (value == said)
        {
            Again(now, what, said, ref saidAt);
            return;
        }
        (said, saidAt) = (value, now);
        Because(by, fact);
        Say(what, value);
    }

    private void Again(long now, BehaviourObject what, double said, ref long saidAt)
    {
        if (double.IsNaN(said) || _again == 0 || now - saidAt < _again) return;
        saidAt = now;
        Because(AnswerEvery, "it is said again");
        Say(what, said);
    }

    private void Switch(long now, BehaviourObject what, double value, ref double said, ref long saidAt, bool has)
    {
        if (double.IsNaN(value)) value = 0;
        Tell(now, what, value, ref said, ref saidAt, Hysteresis, value > 0 ? "the setpoint is left by half the hysteresis" : "the setpoint is passed by half the hysteresis", has);
    }

    private long Pulse(long now, BehaviourObject what, double share, ref double said, ref long saidAt, bool has)
    {
        if (!has) return Never;
        double on = share >= 1 ? 1 : 0;
        Tell(now, what, on, ref said, ref saidAt, Cycle, on > 0 ? "a pulse begins" : "nothing is asked for", has);
        return on > 0 && share < 99 ? now + (long)(_cycle * share / 100) : Never;
    }

    private long End(long now, BehaviourObject what, ref double said, ref long saidAt)
    {
        Tell(now, what, 0, ref said, ref saidAt, Cycle, "its share of the cycle is over", true);
        return Never;
    }
}
