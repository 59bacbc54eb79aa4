using LoftyWren.Core.Status;

namespace LoftyWren.Core.Alarms;

/// <summary>The event states that this slice knows (ISO 16484-5, 12: Event_State).</summary>
public enum EventState
{
    /// <summary>Within the limits.</summary>
    Normal,
    /// <summary>The value cannot be relied on, so neither normal nor off-normal can be said.</summary>
    Fault,
    /// <summary>Above the high limit.</summary>
    HighLimit,
    /// <summary>Below the low limit.</summary>
    LowLimit,
}

/// <summary>
/// The out-of-range algorithm of ISO 16484-5, 13.3.6: off-normal when the value has been beyond a limit for the delay;
/// normal again when it has been inside by the deadband for the delay back; straight to the other limit when it has
/// been beyond that one for the delay. A value in fault goes to fault at once and leaves it at once.
/// </summary>
public sealed class OutOfRange(double? high, double? low, double deadband, double delaySeconds, double delayNormalSeconds)
{
    private readonly long _delay = (long)(delaySeconds * 1000), _delayNormal = (long)(delayNormalSeconds * 1000);

    /// <summary>The state now.</summary>
    public EventState State { get; private set; } = EventState.Normal;

    /// <summary>Since when, in ms of site time.</summary>
    public long Since { get; private set; }

    /// <summary>The state it is on its way to while a delay runs; the present state when none runs.</summary>
    public EventState Pending { get; private set; } = EventState.Normal;

    /// <summary>Since when the condition for the pending state has held, in ms of site time.</summary>
    public long PendingSince { get; private set; }

    /// <summary>Takes up where an earlier instance stood.</summary>
    public void Restore(EventState state, long since) => (State, Pending, Since, PendingSince) = (state, state, since, since);

    /// <summary>Looks at a value; answers whether the state changed.</summary>
    public bool Update(long now, double value, StatusFlags status)
    {
        if ((status & (StatusFlags.Fault | StatusFlags.Released)) != 0 || double.IsNaN(value)) return Become(EventState.Fault, now);
        // Out of fault the standard's machine restarts from normal; limits then count their delay anew.
        bool changed = State == EventState.Fault && Become(EventState.Normal, now);
        EventState wanted = Wanted(value);
        if (wanted != Pending)
        {
            Pending = wanted;
            PendingSince = now;
        }
        if (Pending == State) return changed;
        long delay = Pending == EventState.Normal ? _delayNormal : _delay;
        return now - PendingSince >= delay ? Become(Pending, now) : changed;
    }

    private EventState Wanted(double value)
    {
        if (value > high) return EventState.HighLimit;
        if (value < low) return EventState.LowLimit;
        return State switch
        {
            EventState.HighLimit when !(value < high - deadband) => EventState.HighLimit,
            EventState.LowLimit when !(value > low + deadband) => EventState.LowLimit,
            _ => EventState.Normal,
        };
    }

    private bool Become(EventState state, long now)
    {
        if (State == state) return false;
        (State, Pending, Since, PendingSince) = (state, state, now, now);
        return true;
    }
}
