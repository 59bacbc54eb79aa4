using LoftyWren.Core.Status;
using NodaTime;

namespace LoftyWren.Core.Trends;

/// <summary>One sample with its number in the log, counted from 1 (the total record count of ISO 16484-5, 12.25).</summary>
public readonly record struct Sample(long Number, long AtMilliseconds, double Value, StatusFlags Status);

/// <summary>
/// The samples one controller keeps of one point. Takes samples without allocating. Intervals are aligned to the site's own
/// clock: a log by the hour samples on the hour there, a daily one at midnight, in summer and in winter.
/// </summary>
public sealed class TrendBuffer(TrendMode mode, double intervalSeconds, double changeBy, int size, WhenFull whenFull, DateTimeZone? zone = null)
{
    private readonly long[] _times = new long[size];
    private readonly double[] _values = new double[size];
    private readonly StatusFlags[] _status = new StatusFlags[size];
    private readonly long _intervalMilliseconds = Math.Max(1, (long)(intervalSeconds * 1000));
    private readonly DateTimeZone _zone = zone ?? DateTimeZone.Utc;
    private long _nextDue = long.MinValue;
    private long _first = 1;

    // What was taken last by an earlier buffer whose samples have all been collected: the next change is one from that.
    private (double Value, StatusFlags Status)? _before;

    /// <summary>How many samples were ever taken; the number of the newest.</summary>
    public long Total { get; private set; }

    /// <summary>The number of the oldest sample still here.</summary>
    public long Oldest => Math.Max(_first, Total - size + 1);

    /// <summary>The number of the last sample before it was last emptied; 0 when it never was.</summary>
    public long EmptiedAt { get; private set; }

    /// <summary>Whether it is full and has stopped.</summary>
    public bool HasStopped => whenFull == WhenFull.Stop && Total - EmptiedAt >= size;

    /// <summary>Empties it, so that one that has stopped begins again; numbers go on.</summary>
    public void Empty()
    {
        EmptiedAt = Total;
        _first = Total + 1;
    }

    /// <summary>What takes a following <see cref="Empty"/> back: the samples are still in their places.</summary>
    public Action Undo()
    {
        var (emptied, first) = (EmptiedAt, _first);
        return () => (EmptiedAt, _first) = (emptied, first);
    }

    /// <summary>Looks at the value and takes a sample if one is due: at multiples of the interval, or on enough change.</summary>
    public bool Offer(long now, double value, StatusFlags status)
    {
        if (HasStopped) return false;
        if (mode == TrendMode.Interval)
        {
            if (_nextDue == long.MinValue) _nextDue = DueAfter(now - 1);
            if (now < _nextDue) return false;
            _nextDue = DueAfter(now);
        }
        else if (Total >= _first || _before is not null)
        {
            var (before, mark) = Total >= _first ? (_values[(int)((Total - 1) % size)], _status[(int)((Total - 1) % size)]) : _before!.Value;
            // A step of just the change counts, though binary fractions make it a hair too small.
            bool same = status == mark && (double.IsNaN(value) ? double.IsNaN(before) : Math.Abs(value - before) < (changeBy * (1 - 1e-9)) - (Math.Abs(value) * 1e-15) || value == before);
            if (same) return false;
        }
        Take(now, value, status);
        return true;
    }

    private void Take(long at, double value, StatusFlags status)
    {
        int place = (int)(Total % size);
        (_times[place], _values[place], _status[place]) = (at, value, status);
        Total++;
    }

    /// <summary>The first moment after another that is a whole number of intervals on the site's clock.</summary>
    private long DueAfter(long after)
    {
        long offset = OffsetAt(after), due = ((Floor(after + offset) + 1) * _intervalMilliseconds) - offset;
        // Where the clock changes on the way, the grid is that of the moment it leads to.
        long then = OffsetAt(due);
        if (then == offset || (due + then) % _intervalMilliseconds == 0) return due;
        due = (Floor(due + then) * _intervalMilliseconds) - then;
        return due > after && OffsetAt(due) == then ? due : due + _intervalMilliseconds;
    }

    private long Floor(long local) => local >= 0 ? local / _intervalMilliseconds : ((local + 1) / _intervalMilliseconds) - 1;

    private long OffsetAt(long at) => _zone.GetUtcOffset(Instant.FromUnixTimeMilliseconds(at)).Milliseconds;

    /// <summary>The sample that was taken last, collected or not; null before the first, and after it was emptied.</summary>
    public Sample? Last => Total >= _first ? new Sample(Total, _times[(int)((Total - 1) % size)], _values[(int)((Total - 1) % size)], _status[(int)((Total - 1) % size)]) : null;

    /// <summary>The samples after a number, oldest first, at most so many. A gap in the numbers tells that the buffer has rolled over what was not collected.</summary>
    public List<Sample> After(long number, int most = 10_000)
    {
        var samples = new List<Sample>();
        After(number, samples, most);
        return samples;
    }

    /// <summary>The same, added to a list that may be used again and again.</summary>
    public void After(long number, List<Sample> into, int most = int.MaxValue)
    {
        int full = (int)Math.Min(int.MaxValue, (long)into.Count + most);
        for (long n = Math.Max(number + 1, Oldest); n <= Total && into.Count < full; n++)
        {
            int at = (int)((n - 1) % size);
            into.Add(new Sample(n, _times[at], _values[at], _status[at]));
        }
    }

    /// <summary>
    /// Goes on counting where an earlier buffer of the same log stood. When the controller ran on (<paramref name="ranUntil"/>,
    /// ms of site time, is that of its last scan and <paramref name="wasOff"/> is false), the next sample is the one that
    /// would have come anyway; when it was off, a mark says from when on nothing was recorded. <paramref name="before"/> is what was
    /// taken last, though it has been collected.
    /// </summary>
    public void ContinueFrom(IReadOnlyList<Sample> samples, long total, long emptiedAt = 0, long? ranUntil = null, bool wasOff = true, (double Value, StatusFlags Status)? before = null)
    {
        _before = before;
        // What was collected before is not here any more: its places hold nothing and must not be read as samples.
        Total = total - samples.Count;
        _first = Total + 1;
        EmptiedAt = Math.Min(emptiedAt, total);
        foreach (Sample sample in samples) Take(sample.AtMilliseconds, sample.Value, sample.Status);
        if (ranUntil is not { } last) return;
        if (!wasOff) _nextDue = DueAfter(last);
        else if (Total > 0 && !HasStopped) Take(last + 1, double.NaN, StatusFlags.Interrupted);
    }
}
