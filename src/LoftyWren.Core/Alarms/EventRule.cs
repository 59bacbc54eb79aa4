using LoftyWren.Core.Explanations;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Alarms;

/// <summary>The event states of ISO 16484-5, 12 (Event_State), that the algorithms here know.</summary>
public enum EventState
{
    /// <summary>As it should be.</summary>
    Normal,
    /// <summary>The value cannot be relied on, so neither normal nor off-normal can be said.</summary>
    Fault,
    /// <summary>Above the high limit.</summary>
    HighLimit,
    /// <summary>Below the low limit.</summary>
    LowLimit,
    /// <summary>Not as it should be, where nothing more can be said.</summary>
    Offnormal,
}

/// <summary>
/// What an event algorithm keeps over a restart: its state, since when (ms of site time), and whatever else it counts, by
/// names of its own. The three that are named here are those of <see cref="OutOfRange"/>, which came first.
/// </summary>
public sealed record AlarmMemory(EventState State, long Since, long Above = -1, long Below = -1, long Inside = -1, IReadOnlyDictionary<string, double>? More = null);

/// <summary>
/// An event algorithm of ISO 16484-5, 13.3, at work on one value. It is asked at every scan; time in which the controller is off
/// is not counted. It allocates nothing while it is asked.
/// </summary>
public interface IEventAlgorithm
{
    /// <summary>The state now.</summary>
    EventState State { get; }

    /// <summary>Since when, in ms of site time.</summary>
    long Since { get; }

    /// <summary>The state it is on its way to while a delay runs; the present state when none runs.</summary>
    EventState Pending { get; }

    /// <summary>Since when the condition for the pending state has held, in ms of site time; time in which the controller was off is left out.</summary>
    long PendingSince { get; }

    /// <summary>Looks at a value; answers whether the state changed.</summary>
    bool Update(long now, double value, StatusFlags status);

    /// <summary>What to keep.</summary>
    AlarmMemory Remember();

    /// <summary>Takes up where an earlier instance stood; <paramref name="last"/> is when that was last asked, or null after a pause.</summary>
    void Restore(AlarmMemory memory, long? last);
}

/// <summary>A rule that watches one point by an event algorithm. Each algorithm has a kind of rule of its own, with its parameters.</summary>
public abstract record EventRule : ProjectRecord
{
    /// <summary>The point.</summary>
    public required RecordId PointId { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => PointId;

    /// <summary>The algorithm with this rule's parameters, which has been asked nothing yet.</summary>
    public abstract IEventAlgorithm Begin();

    /// <summary>The limit that a state has passed, in the point's unit; null where there is none.</summary>
    public virtual double? LimitOf(EventState state) => null;

    /// <summary>Why it is as it is.</summary>
    public abstract Because Tell(IEventAlgorithm algorithm, IEventTelling about);
}

/// <summary>What runs a rule, as the rule asks about it to explain itself.</summary>
public interface IEventTelling
{
    /// <summary>What the point is called.</summary>
    string Point { get; }

    /// <summary>The point's value now.</summary>
    Reading Reading { get; }

    /// <summary>A value of the point in words.</summary>
    string Say(double value);

    /// <summary>The value now in words.</summary>
    string Now { get; }

    /// <summary>A difference of the point's unit in words.</summary>
    string SayDifference(double value);

    /// <summary>A moment of site time, in ms, as people read it.</summary>
    string Time(long milliseconds);

    /// <summary>A length of time in words.</summary>
    string Length(double seconds);

    /// <summary>Why the point is as it is.</summary>
    Because WhyPoint();
}
