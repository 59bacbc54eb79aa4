using FsCheck.Xunit;
using LoftyWren.Core.Claims;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Claims;

/// <summary>The priority array of ISO 16484-5, 19.2.</summary>
public class LadderTests
{
    [Fact]
    public void The_lowest_number_that_speaks_wins_and_the_fallback_holds_when_none_does()
    {
        var ladder = new Ladder(0);
        ladder.Resolve();
        Assert.Equal((0, 0.0), (ladder.Winner, ladder.Value));
        ladder.Claim(16, 1, StatusFlags.None);
        ladder.Claim(10, 0.5, StatusFlags.None);
        ladder.Resolve();
        Assert.Equal((10, 0.5), (ladder.Winner, ladder.Value));
        Assert.Equal((16, 1.0), ladder.WithoutRung(10));
        ladder.Release(10);
        ladder.Resolve();
        Assert.Equal((16, 1.0), (ladder.Winner, ladder.Value));
        Assert.Equal((0, 0.0), ladder.WithoutRung(16));
    }

    [Theory]
    [InlineData(StatusFlags.Fault)]
    [InlineData(StatusFlags.Released)]
    public void A_claim_in_fault_or_released_says_nothing(StatusFlags status)
    {
        var ladder = new Ladder(0);
        ladder.Claim(5, 1, status);
        ladder.Resolve();
        Assert.Equal(0, ladder.Winner);
        Assert.True((ladder.Rung(5).Status & StatusFlags.Released) != 0);
    }

    [Fact]
    public void Without_fallback_and_claims_there_is_no_value()
    {
        var ladder = new Ladder(double.NaN);
        ladder.Resolve();
        Assert.Equal(StatusFlags.Released, ladder.Status);
        Assert.True(double.IsNaN(ladder.Value));
    }

    [Fact]
    public void What_a_hand_holds_is_marked_so()
    {
        var ladder = new Ladder(0);
        ladder.Claim(8, 1, StatusFlags.None);
        ladder.Resolve();
        Assert.Equal(StatusFlags.Overridden, ladder.Status);
    }

    [Property]
    public void The_winner_is_the_first_that_speaks_whatever_the_order_of_claims((byte Priority, bool Speaks)[] claims)
    {
        var ladder = new Ladder(-1);
        var model = new SortedDictionary<int, double>();
        for (int i = 0; i < claims.Length; i++)
        {
            int priority = (claims[i].Priority % 16) + 1;
            if (claims[i].Speaks)
            {
                ladder.Claim(priority, i, StatusFlags.None);
                model[priority] = i;
            }
            else
            {
                ladder.Release(priority);
                model.Remove(priority);
            }
        }
        ladder.Resolve();
        Assert.Equal(model.Count > 0 ? model.First().Key : 0, ladder.Winner);
        Assert.Equal(model.Count > 0 ? model.First().Value : -1, ladder.Value);
    }

    // A valve of 0–100 % cannot be 150 %; a point of three states has no fourth.
    [Theory]
    [InlineData(150, 100)]
    [InlineData(-3, 0)]
    [InlineData(55.5, 55.5)]
    public void What_wins_is_held_within_the_limits_of_the_output(double claimed, double expected)
    {
        var ladder = new Ladder(0, Core.Points.PointKind.Analog, 0, 100);
        ladder.Claim(14, claimed, StatusFlags.None);
        ladder.Resolve();
        Assert.Equal(expected, ladder.Value);
        Assert.Equal(claimed, ladder.Rung(14).Value);
        ladder.Claim(10, 20, StatusFlags.None);
        Assert.Equal((14, expected), ladder.WithoutRung(10));
    }

    [Theory]
    [InlineData(7, 3)]
    [InlineData(0, 1)]
    [InlineData(2.2, 2)]
    public void An_output_with_states_takes_the_nearest_one(double claimed, double expected)
    {
        var ladder = new Ladder(double.NaN, Core.Points.PointKind.Multistate, 1, 3);
        ladder.Claim(14, claimed, StatusFlags.None);
        ladder.Resolve();
        Assert.Equal(expected, ladder.Value);
    }
}
