using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="DeviceBehaviour"/> remembers.</summary>
public sealed class DeviceState : BehaviourState
{
    /// <summary>When it gives its sign of life next.</summary>
    public long AliveAt = Behaviour.Never;
}

/// <summary>
/// What a device says of itself: a sign of life every so often, the first one <c>sendDelay</c> after the bus has come back.
/// </summary>
public sealed class DeviceBehaviour : Behaviour<DeviceState>
{
    /// <summary>How long channels wait with their first telegrams after the bus has come back; the same for the whole device.</summary>
    internal static readonly ParameterDescription SendDelay = Parameters.Time("sendDelay", "Waits after bus return", "For how long it says nothing after the bus has come back, so that not all devices of a line speak at once.", 2, 0, 255);

    private static readonly ParameterDescription AliveEvery = Parameters.Time("aliveEvery", "Sign of life every", "How often it tells that it is there; 0: never.", 0, 0, 86_400);

    private static readonly BehaviourObject Alive = new("alive", "In operation", "1.011", "CRT", "alive") { When = "aliveEvery > 0", Again = AliveEvery };

    private readonly long _delay, _every;

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("device", "The device itself", [SendDelay, AliveEvery], [Alive], [], [], s => new DeviceBehaviour(s));

    private DeviceBehaviour(SettingValues settings) => (_delay, _every) = (settings.Milliseconds(SendDelay), settings.Milliseconds(AliveEvery));

    /// <inheritdoc/>
    public override long NextDue => S.AliveAt;

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake != Wake.Mains) S.AliveAt = _every > 0 ? FirstSendAt(now, _delay) : Never;
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (now < S.AliveAt) return;
        S.AliveAt = now + _every;
        Because(AliveEvery, "sign of life");
        Say(Alive, 1);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply == Supply.Bus) S.AliveAt = Never;
    }
}
