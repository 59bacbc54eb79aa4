using LoftyWren.Core.Status;

namespace LoftyWren.Core.Alarms;

/// <summary>
/// The out-of-range algorithm of ISO 16484-5, 13.3.6: off-normal when the value has been beyond a limit for the delay;
/// normal again when it has been inside by the deadband for the delay back, whatever else it does meanwhile; at once when
/// the limit it had passed is taken away. The way from one limit to the other goes through normal: the standard leaves the
/// short cut to choice, and everybody who counts returns to normal would miss one. Each condition has a clock of its own,
/// which counts only while the machine is asked: time in which the controller is off is not counted. A value in fault goes
/// to fault at once and leaves it at once.
/// </summary>
public sealed class OutOfRange(double? high, double? low, double deadband, double delaySeconds, double delayNormalSeconds) : IEventAlgorithm
{
    private readonly long _delay = (long)Math.Round(delaySeconds * 1000), _delayNormal = (long)Math.Round(delayNormalSeconds * 1000);
    private long? _last;
    private long _above = -1, _below = -1, _inside = -1;

    /// <inheritdoc/>
    public EventState State { get; private set; } = EventState.Normal;

    /// <inheritdoc/>
    public long Since { get; private set; }

    /// <inheritdoc/>
    public EventState Pending => State switch
    {
        EventState.Normal when _above >= 0 => EventState.HighLimit,
        EventState.Normal when _below >= 0 => EventState.LowLimit,
        EventState.HighLimit or EventState.LowLimit when _inside >= 0 => EventState.Normal,
        _ => State,
    };

    /// <inheritdoc/>
    public long PendingSince => (_last ?? Since) - Math.Max(0, Pending switch { EventState.HighLimit => _above, EventState.LowLimit => _below, _ => _inside });

    /// <inheritdoc/>
    public AlarmMemory Remember() => new(State, Since, _above, _below, _inside);

    /// <inheritdoc/>
    public void Restore(AlarmMemory memory, long? last)
    {
        (State, Since, _above, _below, _inside) = (memory.State, memory.Since, memory.Above, memory.Below, memory.Inside);
        _last = last;
    }

    /// <inheritdoc/>
    public bool Update(long now, double value, StatusFlags status)
    {
        long passed = _last is { } last && now > last ? now - last : 0;
        _last = now;
        if ((status & (StatusFlags.Fault | StatusFlags.Released)) != 0 || double.IsNaN(value))
        {
            _above = _below = _inside = -1;
            return Become(EventState.Fault, now);
        }
        // Out of fault the standard's machine restarts from normal; limits then count their delay anew.
        bool changed = State == EventState.Fault && Become(EventState.Normal, now);
        Count(ref _above, value > high, passed);
        Count(ref _below, value < low, passed);
        Count(ref _inside, State switch { EventState.HighLimit => value < high - deadband, EventState.LowLimit => value > low + deadband, _ => false }, passed);
        return State switch
        {
            EventState.HighLimit when high is null || (_inside >= 0 && _inside >= _delayNormal) => Become(EventState.Normal, now),
            EventState.LowLimit when low is null || (_inside >= 0 && _inside >= _delayNormal) => Become(EventState.Normal, now),
            EventState.Normal when _above >= 0 && _above >= _delay => Become(EventState.HighLimit, now),
            EventState.Normal when _below >= 0 && _below >= _delay => Become(EventState.LowLimit, now),
            _ => changed,
        };
    }

    /// <summary>How long a condition has held, ms: 0 when it is first seen, −1 while it does not hold.</summary>
    private static void Count(ref long held, bool holds, long passed) => held = !holds ? -1 : held < 0 ? 0 : held + passed;

    private bool Become(EventState state, long now)
    {
        if (State == state) return false;
        (State, Since, _inside) = (state, now, -1);
        return true;
    }
}
