using LoftyWren.Core.Alarms;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using LoftyWren.Storage.History;

namespace LoftyWren.Storage.Tests;

public class HistoryStoreTests : Folder
{
    private static readonly RecordId Log = new("log"), Controller = new("kh-c1");

    private static Sample At(long minute, double value, StatusFlags status = StatusFlags.None) => new(minute, minute * 60_000, value, status);

    [Fact]
    public void Samples_come_back_as_they_were_and_twice_the_same_changes_nothing()
    {
        using var store = new HistoryStore(File("h.db"));
        Sample[] samples = [At(1, 20.5), At(2, double.NaN, StatusFlags.Fault), At(3, 21, StatusFlags.Stale)];
        store.Write([(Log, samples, 3)]);
        store.Write([(Log, samples, 3)]);
        Assert.Equal(3, store.Collected(Log));
        var back = store.Samples(Log, 0, long.MaxValue).ToList();
        Assert.Equal(samples.Select(s => (s.AtMilliseconds, s.Value, s.Status)), back.Select(s => (s.AtMilliseconds, s.Value, s.Status)));
        Assert.Equal(0, store.Collected(new("other")));
        Assert.Empty(store.Samples(new("other"), 0, long.MaxValue));
    }

    [Fact]
    public void A_chart_keeps_the_least_and_greatest_of_each_column_and_leaves_gaps()
    {
        using var store = new HistoryStore(File("h.db"));
        // An hour of samples, a peak of one minute at 30, and nothing between minute 60 and minute 120.
        store.Write([(Log, [.. Enumerable.Range(0, 60).Select(m => At(m, m == 30 ? 99 : 20)), .. Enumerable.Range(120, 60).Select(m => At(m, 21))], 120)]);
        var buckets = store.Buckets(Log, 0, 180 * 60_000, 18);
        Assert.Equal(12, buckets.Count);
        Assert.Equal((20, 99, 20), ((int)buckets[3].Least, (int)buckets[3].Greatest, (int)buckets[3].Last));
        Assert.Equal(10, buckets[3].Count);
        Assert.DoesNotContain(buckets, b => b.From is >= 60 * 60_000 and < 120 * 60_000);
        Assert.Equal(120, buckets.Sum(b => b.Count));
    }

    /// <summary>Of each stretch between two moments the last is left, of every log; before and after nothing goes, and what was thinned is thinned no further.</summary>
    [Fact]
    public void Thinned_the_last_of_each_day_is_left()
    {
        const long day = 24 * 60 * 60_000L;
        var random = new Random(41);
        using var store = new HistoryStore(File("h.db"));
        RecordId[] logs = [Log, new("log-2"), new("log-3")];
        var all = logs.ToDictionary(l => l, _ => Enumerable.Range(0, 200).Select(_ => random.NextInt64(10 * day)).Distinct().Order().Select(at => new Sample(0, at, random.Next(100), StatusFlags.None)).ToArray());
        store.Write([.. all.Select(a => (a.Key, (IReadOnlyList<Sample>)a.Value, 0L))]);
        int gone = store.Thin(2 * day, 7 * day, day);
        foreach (var (log, samples) in all)
        {
            var kept = samples.Where(s => s.AtMilliseconds < 2 * day || s.AtMilliseconds >= 7 * day || s.AtMilliseconds == samples.Last(o => o.AtMilliseconds / day == s.AtMilliseconds / day).AtMilliseconds);
            Assert.Equal(kept.Select(s => (s.AtMilliseconds, s.Value)), store.Samples(log, 0, long.MaxValue).Select(s => (s.AtMilliseconds, s.Value)));
        }
        Assert.Equal(all.Sum(a => a.Value.Length) - logs.Sum(store.Count), gone);
        Assert.Equal(0, store.Thin(2 * day, 7 * day, day));
    }

    [Fact]
    public void What_a_log_by_change_last_said_before_a_moment()
    {
        using var store = new HistoryStore(File("h.db"));
        store.Write([(Log, [At(1, 0), At(5, 1)], 2)]);
        Assert.Equal(1, store.LastBefore(Log, 10 * 60_000)!.Value.Value);
        Assert.Equal(0, store.LastBefore(Log, 3 * 60_000)!.Value.Value);
        Assert.Null(store.LastBefore(Log, 60_000));
    }

    [Fact]
    public void An_alarm_comes_changes_goes_and_is_acknowledged_once()
    {
        using var store = new HistoryStore(File("h.db"));
        var rule = new AlarmRule { Id = new("too-warm"), Name = "Too warm", PointId = new("p"), HighLimit = 29, LowLimit = 10 };
        store.Take(Controller, [Entry(1, rule, EventState.HighLimit, 1000, 29.5)]);
        AlarmOccurrence open = Assert.Single(store.Alarms(all: false));
        Assert.Equal((EventState.HighLimit, 29.5, 29.0, (long?)null), (open.State, open.Value!.Value, open.Limit!.Value, open.Until));
        Assert.True(store.Acknowledge(open.Id, "operator", 2000, "seen"));
        Assert.False(store.Acknowledge(open.Id, "viewer", 2001, null));
        store.Take(Controller, [Entry(2, rule, EventState.LowLimit, 3000, 9), Entry(3, rule, EventState.Normal, 4000, 20)]);
        // The low one is over but nobody has acknowledged it; the high one is over and acknowledged.
        AlarmOccurrence left = Assert.Single(store.Alarms(all: false));
        Assert.Equal((EventState.LowLimit, 4000L), (left.State, left.Until!.Value));
        var high = store.Alarms(all: true).Single(a => a.State == EventState.HighLimit);
        Assert.Equal((3000L, "operator", "seen"), (high.Until!.Value, high.AcknowledgedBy, high.Note));
        Assert.Equal(3, store.EventsSeen(Controller));
    }

    private static AlarmEntry Entry(long number, AlarmRule rule, EventState to, long at, double value) => new(number, rule.Id, rule.PointId, rule.Name, to, at, value, rule.LimitOf(to));
}
