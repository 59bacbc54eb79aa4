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
/// at half of it on the other.
/// </summary>
public sealed class RoomControlBehaviour : Behaviour<RoomControlState>
{
    private static readonly RegulatorSettings Room = new();

    private static readonly ParameterDescription
        Answer = Parameters.Choice("answer", "Says", "How it asks for heat and cold.", ("percent", "a percentage"), ("pulses", "pulses"), ("binary", "on and off")),
        Cycle = Parameters.Time("cycle", "Cycle", "The length of one cycle of pulses.", 900, 60, 7200).If("answer = pulses"),
        Hysteresis = Parameters.Numbered("hysteresis", "Hysteresis", "Between on and off.", 0.5, 0.1, 5, "K", 0.1).If("answer = binary");

    private static readonly BehaviourObject
        HeatValue = new("heatValue", "{channel} · heating", "5.001", "CRT", "heating sender") { When = "system in both, heating and answer = percent" }, CoolValue = new("coolValue", "{channel} · cooling", "5.001", "CRT", "cooling sender") { When = "system in both, cooling and answer = percent" },
        HeatOn = new("heatOn", "{channel} · heating on", "1.001", "CRT", "heating switch sender") { When = "system in both, heating and answer in pulses, binary" }, CoolOn = new("coolOn", "{channel} · cooling on", "1.001", "CRT", "cooling switch sender") { When = "system in both, cooling and answer in pulses, binary" };

    private static readonly BehaviourPort Temperature = new("temperature", "{channel} · temperature", "°C", -20, 60) { Quantity = "temperature" };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("roomControl", "Room control", [.. Room.Settings, Answer, Cycle, Hysteresis, DeviceBehaviour.SendDelay],
        [.. Room.Objects.Where(o => o != Room.WaterObject && o != Room.DewObject), HeatValue, CoolValue, HeatOn, CoolOn], [Temperature], [], s => new RoomControlBehaviour(s));

    private readonly RoomRegulator _room;
    private readonly string _answer;
    private readonly long _cycle, _sendDelay;
    private readonly double _half;

    private RoomControlBehaviour(SettingValues s)
    {
        _room = new RoomRegulator(Room, s);
        (_answer, _cycle, _sendDelay, _half) = (s.Text(Answer), s.Milliseconds(Cycle), s.Milliseconds(DeviceBehaviour.SendDelay), s.Number(Hysteresis) / 2);
    }

    /// <inheritdoc/>
    public override long NextDue => !S.HasBus ? Never : Sooner(S.Room.LooksAt, S.CycleAt, S.HeatEndsAt, S.CoolEndsAt);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake == Wake.Mains) return;
        (S.HasBus, S.LookedAt, S.Room.LooksAt, S.SaidHeat, S.SaidCool) = (true, now, now + _sendDelay, double.NaN, double.NaN);
        S.CycleAt = _answer == "pulses" ? now + _sendDelay : Never;
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
                Percent(HeatValue, Room.HeatBand, Math.Round(r.Heat), ref S.SaidHeat, _room.Heats);
                Percent(CoolValue, Room.CoolBand, Math.Round(r.Cool), ref S.SaidCool, _room.Cools);
            }
            else if (_answer == "binary")
            {
                var (heating, cooling) = _room.Setpoints(r, _room.Mode(r, now, out _));
                double t = _room.Temperature(r);
                Binary(HeatOn, t <= heating - _half ? 1 : t >= heating + _half || double.IsNaN(t) ? 0 : S.SaidHeat, ref S.SaidHeat, _room.Heats);
                Binary(CoolOn, t >= cooling + _half ? 1 : t <= cooling - _half || double.IsNaN(t) ? 0 : S.SaidCool, ref S.SaidCool, _room.Cools);
            }
        }
        if (now >= S.CycleAt)
        {
            S.CycleAt = now + _cycle;
            S.HeatEndsAt = Pulse(now, HeatOn, r.Heat, ref S.SaidHeat, _room.Heats);
            S.CoolEndsAt = Pulse(now, CoolOn, r.Cool, ref S.SaidCool, _room.Cools);
        }
        if (now >= S.HeatEndsAt) S.HeatEndsAt = End(HeatOn, ref S.SaidHeat);
        if (now >= S.CoolEndsAt) S.CoolEndsAt = End(CoolOn, ref S.SaidCool);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply == Supply.Bus) (S.HasBus, S.Room.LooksAt, S.CycleAt, S.HeatEndsAt, S.CoolEndsAt) = (false, Never, Never, Never, Never);
    }

    private void Percent(BehaviourObject what, ParameterDescription by, double value, ref double said, bool has)
    {
        if (!has || value == said) return;
        said = value;
        Because(by, "what is asked for has moved");
        Say(what, value);
    }

    private void Binary(BehaviourObject what, double value, ref double said, bool has)
    {
        if (double.IsNaN(value)) value = 0;
        if (!has || value == said) return;
        said = value;
        Because(Hysteresis, value > 0 ? "the setpoint is left by half the hysteresis" : "the setpoint is passed by half the hysteresis");
        Say(what, value);
    }

    private long Pulse(long now, BehaviourObject what, double share, ref double said, bool has)
    {
        if (!has) return Never;
        double on = share >= 1 ? 1 : 0;
        if (on != said)
        {
            said = on;
            Because(Cycle, on > 0 ? "a pulse begins" : "nothing is asked for");
            Say(what, on);
        }
        return on > 0 && share < 99 ? now + (long)(_cycle * share / 100) : Never;
    }

    private long End(BehaviourObject what, ref double said)
    {
        said = 0;
        Because(Cycle, "its share of the cycle is over");
        Say(what, 0);
        return Never;
    }
}
