using FsCheck.Xunit;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Tests.Trends;

public class TrendBufferTests
{
    [Fact]
    public void By_interval_it_samples_at_multiples_of_the_interval()
    {
        var buffer = new TrendBuffer(TrendMode.Interval, 60, 0, 100, WhenFull.Roll);
        for (int s = 5; s <= 185; s++) buffer.Offer(s * 1000L, s, StatusFlags.None);
        Assert.Equal([5, 60, 120, 180], buffer.After(0).Select(s => s.Value));
    }

    [Fact]
    public void By_change_it_samples_on_enough_change_or_another_status()
    {
        var buffer = new TrendBuffer(TrendMode.Change, 0, 0.5, 100, WhenFull.Roll);
        double[] values = [20, 20.4, 20.5, 20.9, 21.0];
        for (int i = 0; i < values.Length; i++) buffer.Offer(i * 1000, values[i], StatusFlags.None);
        Assert.Equal([20, 20.5, 21.0], buffer.After(0).Select(s => s.Value));
        Assert.True(buffer.Offer(9000, 21.0, StatusFlags.Stale));
        Assert.True(buffer.Offer(10_000, double.NaN, StatusFlags.Fault));
        Assert.False(buffer.Offer(11_000, double.NaN, StatusFlags.Fault));
    }

    [Fact]
    public void Full_it_rolls_or_stops()
    {
        var roll = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Roll);
        var stop = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Stop);
        for (int s = 1; s <= 25; s++)
        {
            roll.Offer(s * 1000, s, StatusFlags.None);
            stop.Offer(s * 1000, s, StatusFlags.None);
        }
        Assert.Equal((16, 25, 25L), ((int)roll.After(0)[0].Value, (int)roll.After(0)[^1].Value, roll.Total));
        Assert.Equal((1, 10, 10L), ((int)stop.After(0)[0].Value, (int)stop.After(0)[^1].Value, stop.Total));
        Assert.True(stop.HasStopped);
    }

    [Property]
    public void Collected_in_any_portions_nothing_is_lost_or_doubled_while_it_keeps_up(byte[] portions)
    {
        var buffer = new TrendBuffer(TrendMode.Interval, 1, 0, 300, WhenFull.Roll);
        var collected = new List<Sample>();
        long now = 0;
        foreach (byte portion in portions)
        {
            for (int i = 0; i < portion; i++) buffer.Offer(++now * 1000, now, StatusFlags.None);
            collected.AddRange(buffer.After(collected.Count == 0 ? 0 : collected[^1].Number));
        }
        Assert.Equal(Enumerable.Range(1, (int)now).Select(n => (long)n), collected.Select(s => s.Number));
        Assert.All(collected, s => Assert.Equal(s.Number, s.Value));
    }

    [Fact]
    public void A_gap_in_the_numbers_tells_what_rolled_away_uncollected()
    {
        var buffer = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Roll);
        for (int s = 1; s <= 30; s++) buffer.Offer(s * 1000, s, StatusFlags.None);
        Assert.Equal(21, buffer.After(5)[0].Number);
    }

    [Fact]
    public void It_goes_on_counting_after_a_restart()
    {
        var before = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Roll);
        for (int s = 1; s <= 25; s++) before.Offer(s * 1000, s, StatusFlags.None);
        var after = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Roll);
        after.ContinueFrom(before.After(20), before.Total);
        after.Offer(26_000, 26, StatusFlags.None);
        Assert.Equal([21, 22, 23, 24, 25, 26], after.After(20).Select(s => s.Number));
        Assert.Equal(26, after.After(25).Single().Value);
    }

    [Fact]
    public void What_was_collected_before_a_restart_is_not_made_up_again()
    {
        var after = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Roll);
        after.ContinueFrom([], 25);
        Assert.Empty(after.After(0));
        after.Offer(26_000, 26, StatusFlags.None);
        Sample sample = Assert.Single(after.After(0));
        Assert.Equal((26L, 26_000L, 26.0), (sample.Number, sample.AtMilliseconds, sample.Value));
    }
}
