using System.Numerics;
using LoftyWren.Core.Points;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Claims;

/// <summary>One claim that speaks.</summary>
public sealed record ClaimMemory(int Priority, double Value, StatusFlags Status);

/// <summary>
/// The 16 priorities of one commanded output (ISO 16484-5, 19.2): the strongest claim that is not released wins,
/// the lowest number being the strongest; when all are released the relinquish default holds. What wins is brought to
/// what the output can be: within its limits if it is analog, to the nearest of its states otherwise.
/// An output with least times on or off (ms) that has gone on or off claims that itself, at the priority that the standard
/// keeps for it (19.2.3): what is stronger still goes through, and begins a time of its own.
/// </summary>
public sealed class Ladder(double fallback, PointKind kind = PointKind.Analog, double? low = null, double? high = null, long leastOn = 0, long leastOff = 0)
{
    /// <summary>The priority at which least times speak.</summary>
    public const int LeastTimes = 6;

    private readonly double _low = low ?? double.NegativeInfinity, _high = high ?? double.PositiveInfinity;
    private readonly bool _whole = kind != PointKind.Analog;
    private readonly double[] _values = NewRungs();
    private readonly StatusFlags[] _status = new StatusFlags[16];
    // One bit a priority that speaks, the strongest lowest: the winner is found without looking at all.
    private uint _speaking;

    /// <summary>The ladder of a point that is commanded.</summary>
    public static Ladder Of(Point point) => point.Kind switch
    {
        PointKind.Analog => new Ladder(point.Fallback ?? double.NaN, point.Kind, point.Low, point.High),
        PointKind.Binary => new Ladder(point.Fallback ?? double.NaN, point.Kind, 0, 1, Milliseconds(point.LeastOn), Milliseconds(point.LeastOff)),
        _ => new Ladder(point.Fallback ?? double.NaN, point.Kind, 1, point.StateTexts.Count),
    };

    private static long Milliseconds(double? seconds) => (long)Math.Round((seconds ?? 0) * 1000);

    /// <summary>Whether it stays on or off for a time once it is.</summary>
    public bool HasLeastTimes => leastOn > 0 || leastOff > 0;

    /// <summary>Whether it is on, and since when (ms of site time); null before it is known.</summary>
    public (bool On, long Since)? Standing { get; private set; }

    /// <summary>When its least time is over, ms of site time; null while none runs.</summary>
    public long? Until { get; private set; }

    /// <summary>Takes up since when it is on or off.</summary>
    public void Stand(bool isOn, long since)
    {
        Standing = (isOn, since);
        long least = isOn ? leastOn : leastOff;
        Until = least > 0 ? since + least : null;
        if (least > 0) Claim(LeastTimes, isOn ? 1 : 0, StatusFlags.None);
        else Release(LeastTimes);
    }

    /// <summary>Lets go what has lasted its least time; before anything is claimed at a moment.</summary>
    public void EndLeast(long now)
    {
        if (Until is not { } until || now < until) return;
        Until = null;
        Release(LeastTimes);
    }

    /// <summary>Begins a least time where it has gone on or off; once a moment, when all has been claimed. What it is at first begins none: nobody knows for how long it has been so.</summary>
    public void BeginLeast(long now)
    {
        bool isOn = Value == 1;
        if (Standing is not { } standing) Standing = (isOn, now);
        else if (standing.On != isOn) Stand(isOn, now);
    }

    /// <summary>The relinquish default; not a number when the point has none.</summary>
    public double Fallback { get; } = fallback;

    /// <summary>The winning priority 1–16, or 0 when the fallback holds.</summary>
    public int Winner { get; private set; }

    /// <summary>The value that holds now.</summary>
    public double Value { get; private set; } = fallback;

    /// <summary>The marks that came with the winning claim; released when nothing speaks and there is no fallback.</summary>
    public StatusFlags Status { get; private set; } = double.IsNaN(fallback) ? StatusFlags.Released : StatusFlags.None;

    /// <summary>Says a value at a priority. A value that is not a number, or in fault, is a release: nothing missing becomes a command.</summary>
    public void Claim(int priority, double value, StatusFlags status)
    {
        bool speaks = !double.IsNaN(value) && (status & (StatusFlags.Released | StatusFlags.Fault)) == 0;
        if (!speaks) (value, status) = (double.NaN, status | StatusFlags.Released);
        int rung = priority - 1;
        if (_status[rung] == status && _values[rung].Equals(value)) return;
        (_values[rung], _status[rung]) = (value, status);
        _speaking = speaks ? _speaking | (1u << rung) : _speaking & ~(1u << rung);
        IsStale = true;
    }

    /// <summary>Whether a claim has changed since the winner was last found.</summary>
    public bool IsStale { get; private set; } = true;

    /// <summary>Says nothing at a priority.</summary>
    public void Release(int priority) => Claim(priority, double.NaN, StatusFlags.Released);

    /// <summary>What the output makes of a value: within its limits, or the nearest of its states.</summary>
    public double Within(double value)
    {
        if (_whole) value = Math.Round(value, MidpointRounding.AwayFromZero);
        return value < _low ? _low : value > _high ? _high : value;
    }

    /// <summary>What a priority says, as it says it; released when it says nothing.</summary>
    public (double Value, StatusFlags Status) Rung(int priority) => double.IsNaN(_values[priority - 1])
        ? (double.NaN, _status[priority - 1] | StatusFlags.Released)
        : (_values[priority - 1], _status[priority - 1]);

    /// <summary>The claims that speak, strongest first.</summary>
    public IReadOnlyList<ClaimMemory> Speaking()
    {
        var speaking = new List<ClaimMemory>();
        for (int i = 0; i < 16; i++)
        {
            if (!double.IsNaN(_values[i])) speaking.Add(new ClaimMemory(i + 1, _values[i], _status[i]));
        }
        return speaking;
    }

    /// <summary>Finds the winner anew.</summary>
    public void Resolve()
    {
        IsStale = false;
        Winner = _speaking == 0 ? 0 : BitOperations.TrailingZeroCount(_speaking) + 1;
        Value = Within(Winner > 0 ? _values[Winner - 1] : Fallback);
        Status = Winner > 0 ? _status[Winner - 1] & (StatusFlags.Stale | StatusFlags.Overridden) : double.IsNaN(Fallback) ? StatusFlags.Released : StatusFlags.None;
        if (Winner == Sequences.Sequence.ManualOperator) Status |= StatusFlags.Overridden;
    }

    /// <summary>What would hold if the given priority let go: the next priority that speaks, or 0 for the fallback, and its value.</summary>
    public (int Priority, double Value) WithoutRung(int priority)
    {
        for (int i = 0; i < 16; i++)
        {
            if (i != priority - 1 && !double.IsNaN(_values[i])) return (i + 1, Within(_values[i]));
        }
        return (0, Fallback);
    }

    private static double[] NewRungs()
    {
        double[] rungs = new double[16];
        Array.Fill(rungs, double.NaN);
        return rungs;
    }
}
