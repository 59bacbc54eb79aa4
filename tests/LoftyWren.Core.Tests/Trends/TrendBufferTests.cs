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
        Assert.Equal([60, 120, 180], buffer.After(0).Select(s => s.Value));
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

    // 100 steps of 0.1 are 100 changes of 0.1, though 0.3 − 0.2 is 0.09999999999999998 in binary.
    [Theory]
    [InlineData(0)]
    [InlineData(20)]
    [InlineData(100_000)]
    public void Steps_of_just_the_change_all_count(double from)
    {
        var buffer = new TrendBuffer(TrendMode.Change, 0, 0.1, 1000, WhenFull.Roll);
        for (int i = 0; i <= 100; i++) buffer.Offer(i * 1000, from + (i * 0.1), StatusFlags.None);
        Assert.Equal(101, buffer.Total);
        for (int i = 0; i <= 100; i++) buffer.Offer(200_000 + (i * 1000), from + 10 + (i % 2 * 0.0999), StatusFlags.None);
        Assert.Equal(101, buffer.Total);
    }

    // London: midnight is 23:00 UTC in summer and 00:00 in winter; Kathmandu is UTC + 5:45; clocks go forward on 29 March 2026 and back on 25 October.
    [Theory]
    [InlineData("Europe/London", 86_400, "2026-06-10T12:00", "2026-06-10T23:00 2026-06-11T23:00")]
    [InlineData("Europe/London", 86_400, "2026-03-28T12:00", "2026-03-29T00:00 2026-03-29T23:00 2026-03-30T23:00")]
    [InlineData("Europe/London", 86_400, "2026-10-24T12:00", "2026-10-24T23:00 2026-10-26T00:00 2026-10-27T00:00")]
    [InlineData("Europe/London", 3600, "2026-03-29T00:10", "2026-03-29T01:00 2026-03-29T02:00")]
    [InlineData("Europe/London", 3600, "2026-10-25T00:10", "2026-10-25T01:00 2026-10-25T02:00")]
    [InlineData("Asia/Kathmandu", 3600, "2026-06-10T12:00", "2026-06-10T12:15 2026-06-10T13:15")]
    [InlineData("Asia/Kathmandu", 86_400, "2026-06-10T12:00", "2026-06-10T18:15 2026-06-11T18:15")]
    public void Intervals_follow_the_clock_of_the_site(string zone, int seconds, string begin, string expectedUtc)
    {
        var buffer = new TrendBuffer(TrendMode.Interval, seconds, 0, 100, WhenFull.Roll, NodaTime.DateTimeZoneProviders.Tzdb[zone]);
        long start = Ms(begin);
        string[] expected = expectedUtc.Split(' ');
        for (long now = start; now <= Ms(expected[^1]); now += 60_000) buffer.Offer(now, 1, StatusFlags.None);
        Assert.Equal(expected, buffer.After(0).Select(s => DateTimeOffset.FromUnixTimeMilliseconds(s.AtMilliseconds).ToString("yyyy-MM-dd'T'HH:mm", System.Globalization.CultureInfo.InvariantCulture)));

        static long Ms(string text) => new DateTimeOffset(DateTime.Parse(text, System.Globalization.CultureInfo.InvariantCulture), TimeSpan.Zero).ToUnixTimeMilliseconds();
    }

    [Fact]
    public void A_stopped_log_can_be_emptied_and_begins_again_also_over_a_restart()
    {
        var stop = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Stop);
        for (int s = 1; s <= 25; s++) stop.Offer(s * 1000, s, StatusFlags.None);
        stop.Empty();
        Assert.False(stop.HasStopped);
        Assert.Empty(stop.After(0));
        for (int s = 26; s <= 50; s++) stop.Offer(s * 1000, s, StatusFlags.None);
        Assert.Equal(Enumerable.Range(26, 10).Select(v => (double)v), stop.After(0).Select(s => s.Value));
        Assert.Equal([11L, 20L], [stop.After(0)[0].Number, stop.After(0)[^1].Number]);
        stop.Empty();
        var restarted = new TrendBuffer(TrendMode.Interval, 1, 0, 10, WhenFull.Stop);
        restarted.ContinueFrom([], stop.Total, stop.EmptiedAt, 50_000);
        Assert.False(restarted.HasStopped);
        Assert.True(restarted.Offer(60_000, 1, StatusFlags.None));
    }

    [Fact]
    public void A_restart_adds_no_sample_to_a_log_by_change_whose_samples_were_all_collected()
    {
        var before = new TrendBuffer(TrendMode.Change, 0, 0.5, 10, WhenFull.Roll);
        foreach (int s in (int[])[1, 2, 3]) before.Offer(s * 1000, 20, StatusFlags.None);
        Assert.Equal(1, before.Total);
        var after = new TrendBuffer(TrendMode.Change, 0, 0.5, 10, WhenFull.Roll);
        after.ContinueFrom([], before.Total, 0, 3000, wasOff: false, before: (before.Last!.Value.Value, before.Last.Value.Status));
        Assert.False(after.Offer(4000, 20.4, StatusFlags.None));
        Assert.True(after.Offer(5000, 20.5, StatusFlags.None));
        Assert.Equal(2, after.Total);
    }

    [Fact]
    public void A_send_neither_adds_nor_loses_a_sample_and_a_pause_leaves_a_mark()
    {
        // Scans every 7 s, samples every 60 s: taken at the first scan at or after each minute.
        var before = new TrendBuffer(TrendMode.Interval, 60, 0, 100, WhenFull.Roll);
        var straight = new TrendBuffer(TrendMode.Interval, 60, 0, 100, WhenFull.Roll);
        var sent = new TrendBuffer(TrendMode.Interval, 60, 0, 100, WhenFull.Roll);
        for (int s = 0; s <= 56; s += 7) before.Offer(s * 1000, s, StatusFlags.None);
        sent.ContinueFrom(before.After(0), before.Total, 0, 56_000, wasOff: false);
        for (int s = 0; s <= 350; s += 7)
        {
            straight.Offer(s * 1000, s, StatusFlags.None);
            if (s > 56) sent.Offer(s * 1000, s, StatusFlags.None);
        }
        Assert.Equal(straight.After(0), sent.After(0));

        var restarted = new TrendBuffer(TrendMode.Interval, 60, 0, 100, WhenFull.Roll);
        restarted.ContinueFrom(straight.After(0), straight.Total, 0, 350_000, wasOff: true);
        restarted.Offer(1_000_000, 1, StatusFlags.None);
        restarted.Offer(1_020_000, 1, StatusFlags.None);
        Assert.Equal([(350_001L, StatusFlags.Interrupted), (1_020_000L, StatusFlags.None)], restarted.After(straight.Total).Select(s => (s.AtMilliseconds, s.Status)));
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
