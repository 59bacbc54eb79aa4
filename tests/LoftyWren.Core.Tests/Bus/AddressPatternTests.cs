using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Groups;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Group addresses moved by a pattern, and what timed runs of a blind come to.</summary>
public sealed class AddressPatternTests
{
    [Theory]
    [InlineData("3/*/+16", "1/2/10", "3/2/26")]
    [InlineData("*/*/*", "1/2/10", "1/2/10")]
    [InlineData("+1/-2/*", "1/2/10", "2/0/10")]
    [InlineData("*/*/+250", "1/2/10", null)]
    [InlineData("*/-3/*", "1/2/10", null)]
    [InlineData("0/0/0", "1/2/10", null)]
    [InlineData(" 31 / 7 / 255 ", "1/2/10", "31/7/255")]
    public void Each_level_stays_is_set_or_moves(string pattern, string from, string? to) => Assert.Equal(to, AddressPattern.Read(pattern).Pattern!.Of(GroupNumber.Read(from)!.Value)?.ToString());

    [Theory]
    [InlineData("3/16", "three levels")]
    [InlineData("a/*/*", "‘a’ is no level")]
    [InlineData("*/*/+300", "‘+300’ is no level")]
    public void What_is_no_pattern_says_what_would_be(string text, string words) => Assert.Contains(words, AddressPattern.Read(text).Refusal, StringComparison.Ordinal);

    // By hand: (26.1 + 25.9 + 26.0) / 3 = 26.0; (28.0 + 28.3 + 28.0) / 3 = 28.1; the widest range is 0.3; 28.1 / 26.0 = 1.081.
    [Fact]
    public void Three_runs_each_way_that_agree_give_times_a_ratio_and_a_spread()
    {
        TimedRun[] runs = [new(true, 26.1), new(false, 28.0), new(true, 25.9), new(false, 28.3), new(true, 26.0), new(false, 28.0)];
        TravelMeasure measure = TravelMeasure.Of(runs);
        Assert.Equal((26.0, 28.1, 0.3, 1.081, true), (measure.Down, measure.Up, measure.Spread, measure.Ratio, measure.IsTrusted));
        Assert.Equal("2 more runs: three down and three up say how even the drive is.", TravelMeasure.Of(runs[..4]).Says);
        Assert.False(TravelMeasure.Of([.. runs[..5], new(false, 31)]).IsTrusted);
        Assert.Equal((null, null), (TravelMeasure.Of([]).Down, TravelMeasure.Of([]).Ratio));
    }
}
