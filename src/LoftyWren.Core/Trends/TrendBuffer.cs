using LoftyWren.Core.Status;

namespace LoftyWren.Core.Trends;

/// <summary>One sample with its number in the log, counted from 1 (the total record count of ISO 16484-5, 12.25).</summary>
public readonly record struct Sample(long Number, long AtMilliseconds, double Value, StatusFlags Status);

/// <summary>The samples one controller keeps of one point. Takes samples without allocating.</summary>
public sealed class TrendBuffer(TrendMode mode, double intervalSeconds, double changeBy, int size, WhenFull whenFull)
{
    private readonly long[] _times = new long[size];
    private readonly double[] _values = new double[size];
    private readonly StatusFlags[] _status = new StatusFlags[size];
    private readonly long _intervalMilliseconds = Math.Max(1, (long)(intervalSeconds * 1000));
    private long _nextDue = long.MinValue;
    private long _first = 1;

    /// <summary>How many samples were ever taken; the number of the newest.</summary>
    public long Total { get; private set; }

    /// <summary>The number of the oldest sample still here.</summary>
    public long Oldest => Math.Max(_first, Total - size + 1);

    /// <summary>Whether it is full and has stopped.</summary>
    public bool HasStopped => whenFull == WhenFull.Stop && Total >= size;

    /// <summary>Looks at the value and takes a sample if one is due: at multiples of the interval, or on enough change.</summary>
    public bool Offer(long now, double value, StatusFlags status)
    {
        if (HasStopped) return false;
        if (mode == TrendMode.Interval)
        {
            if (now < _nextDue) return false;
            _nextDue = ((now / _intervalMilliseconds) + 1) * _intervalMilliseconds;
        }
        else if (Total >= _first)
        {
            int last = (int)((Total - 1) % size);
            bool same = status == _status[last] && (double.IsNaN(value) ? double.IsNaN(_values[last]) : Math.Abs(value - _values[last]) < changeBy || value == _values[last]);
            if (same) return false;
        }
        int at = (int)(Total % size);
        _times[at] = now;
        _values[at] = value;
        _status[at] = status;
        Total++;
        return true;
    }

    /// <summary>The samples after a number, oldest first, at most so many. A gap in the numbers tells that the buffer has rolled over what was not collected.</summary>
    public List<Sample> After(long number, int most = 10_000)
    {
        var samples = new List<Sample>();
        for (long n = Math.Max(number + 1, Oldest); n <= Total && samples.Count < most; n++)
        {
            int at = (int)((n - 1) % size);
            samples.Add(new Sample(n, _times[at], _values[at], _status[at]));
        }
        return samples;
    }

    /// <summary>Goes on counting where an earlier buffer of the same log stood, after a changed program or a restart.</summary>
    public void ContinueFrom(IReadOnlyList<Sample> samples, long total)
    {
        // What was collected before is not here any more: its places hold nothing and must not be read as samples.
        Total = total - samples.Count;
        _first = Total + 1;
        foreach (Sample sample in samples)
        {
            int at = (int)(Total % size);
            _times[at] = sample.AtMilliseconds;
            _values[at] = sample.Value;
            _status[at] = sample.Status;
            Total++;
        }
    }
}
