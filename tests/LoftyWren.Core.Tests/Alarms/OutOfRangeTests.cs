using LoftyWren.Core.Alarms;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Alarms;

/// <summary>The out-of-range algorithm of ISO 16484-5, 13.3.6, condition by condition. Times in seconds.</summary>
public class OutOfRangeTests
{
    private readonly OutOfRange _alarm = new(29, 10, 0.5, 60, 30);

    private EventState At(double second, double value, StatusFlags status = StatusFlags.None)
    {
        _alarm.Update((long)(second * 1000), value, status);
        return _alarm.State;
    }

    [Fact]
    public void Above_the_high_limit_for_the_delay()
    {
        Assert.Equal(EventState.Normal, At(0, 29.1));
        Assert.Equal(EventState.Normal, At(59, 29.1));
        Assert.Equal(EventState.HighLimit, At(60, 29.1));
        Assert.Equal(60_000, _alarm.Since);
    }

    [Fact]
    public void At_the_limit_is_not_above_it()
    {
        At(0, 29);
        Assert.Equal(EventState.Normal, At(1000, 29));
    }

    [Fact]
    public void A_dip_below_the_limit_starts_the_delay_anew()
    {
        At(0, 29.1);
        At(50, 28.9);
        At(51, 29.1);
        Assert.Equal(EventState.Normal, At(100, 29.1));
        Assert.Equal(EventState.HighLimit, At(111, 29.1));
    }

    [Fact]
    public void Back_to_normal_only_below_the_limit_less_the_deadband_for_its_own_delay()
    {
        At(0, 30);
        At(60, 30);
        Assert.Equal(EventState.HighLimit, At(1000, 28.5));
        At(1001, 28.49);
        Assert.Equal(EventState.HighLimit, At(1030, 28.49));
        Assert.Equal(EventState.Normal, At(1031, 28.49));
    }

    // 13.3.6 (e): below high − deadband for the delay back is normal, whatever the low limit says meanwhile; (b): then below low for the delay.
    [Theory]
    [InlineData(9.9)]
    [InlineData(5)]
    public void From_high_to_low_the_way_goes_through_normal(double cold)
    {
        At(0, 30);
        At(60, 30);
        At(100, cold);
        Assert.Equal(EventState.HighLimit, At(129, cold));
        Assert.Equal(EventState.Normal, At(130, cold));
        Assert.Equal(EventState.Normal, At(159, cold));
        Assert.Equal(EventState.LowLimit, At(160, cold));
        At(200, 30);
        Assert.Equal(EventState.Normal, At(230, 30));
        Assert.Equal(EventState.HighLimit, At(260, 30));
    }

    [Fact]
    public void The_delay_back_goes_on_when_the_value_passes_below_the_low_limit()
    {
        At(0, 30);
        At(60, 30);
        At(100, 20);
        At(120, 9);
        Assert.Equal(EventState.HighLimit, At(129, 9));
        Assert.Equal(EventState.Normal, At(130, 9));
    }

    // 13.3.6 (c) and (f): with its limit disabled an off-normal state ends at once.
    [Theory]
    [InlineData(30, null, 10.0)]
    [InlineData(5, 29.0, null)]
    public void Taking_the_limit_away_that_raised_it_ends_it_at_once(double value, double? high, double? low)
    {
        At(0, value);
        At(60, value);
        Assert.NotEqual(EventState.Normal, _alarm.State);
        var next = new OutOfRange(high, low, 0.5, 60, 30);
        next.Restore(_alarm.Remember(), 60_000);
        Assert.True(next.Update(61_000, 20, StatusFlags.None));
        Assert.Equal((EventState.Normal, 61_000), (next.State, next.Since));
    }

    [Fact]
    public void A_running_delay_goes_on_over_a_changed_program_and_stands_still_in_a_pause()
    {
        At(0, 30);
        At(40, 30);
        var sent = new OutOfRange(29, 10, 0.5, 60, 30);
        sent.Restore(_alarm.Remember(), 40_000);
        sent.Update(59_000, 30, StatusFlags.None);
        Assert.Equal(EventState.Normal, sent.State);
        Assert.Equal(0, sent.PendingSince);
        sent.Update(60_000, 30, StatusFlags.None);
        Assert.Equal(EventState.HighLimit, sent.State);

        var restarted = new OutOfRange(29, 10, 0.5, 60, 30);
        restarted.Restore(_alarm.Remember(), null);
        restarted.Update(10_000_000, 30, StatusFlags.None);
        restarted.Update(10_019_000, 30, StatusFlags.None);
        Assert.Equal(EventState.Normal, restarted.State);
        restarted.Update(10_020_000, 30, StatusFlags.None);
        Assert.Equal(EventState.HighLimit, restarted.State);
    }

    [Fact]
    public void Low_side_mirrors_the_high_side()
    {
        At(0, 9.9);
        Assert.Equal(EventState.LowLimit, At(60, 9.9));
        Assert.Equal(EventState.LowLimit, At(100, 10.5));
        At(101, 10.51);
        Assert.Equal(EventState.Normal, At(131, 10.51));
    }

    [Fact]
    public void A_fault_is_told_at_once_and_limits_count_anew_afterwards()
    {
        At(0, 30);
        Assert.Equal(EventState.Fault, At(30, double.NaN, StatusFlags.Fault));
        Assert.Equal(EventState.Normal, At(40, 30));
        Assert.Equal(EventState.Normal, At(99, 30));
        Assert.Equal(EventState.HighLimit, At(100, 30));
    }

    [Fact]
    public void A_change_shorter_than_the_delay_is_never_reported()
    {
        int changes = 0;
        for (int s = 0; s < 3600; s++)
        {
            if (_alarm.Update(s * 1000L, s % 70 < 59 ? 31 : 20, StatusFlags.None)) changes++;
        }
        Assert.Equal(0, changes);
    }

    [Fact]
    public void With_one_limit_the_other_side_is_free()
    {
        var high = new OutOfRange(29, null, 0, 0, 0);
        high.Update(0, -100, StatusFlags.None);
        Assert.Equal(EventState.Normal, high.State);
    }
}
