using LoftyWren.Core.Units;

namespace LoftyWren.Core.Tests.Units;

public class UnitTests
{
    // By hand: 68 °F is 20 °C, −40 is the same on both scales, 9 °F of difference are 5 K.
    [Theory]
    [InlineData("°F", "°C", 68, 20)]
    [InlineData("°F", "°C", -40, -40)]
    [InlineData("°C", "°F", 100, 212)]
    [InlineData("Δ°F", "K", 9, 5)]
    [InlineData("kPa", "Pa", 1.5, 1500)]
    [InlineData("l/s", "m³/h", 10, 36)]
    [InlineData("min", "s", 2, 120)]
    public void Units_of_one_quantity_convert(string from, string to, double value, double expected)
    {
        var (factor, offset) = Unit.Find(from)!.To(Unit.Find(to)!)!.Value;
        Assert.Equal(expected, (value * factor) + offset, 1e-9);
    }

    [Fact]
    public void A_temperature_and_a_difference_of_temperatures_are_not_the_same()
    {
        Assert.Null(Unit.Find("°C")!.To(Unit.Find("K")!));
        Assert.Null(Unit.Find("K")!.To(Unit.Find("°C")!));
        Assert.Equal("K", Unit.Find("°C")!.Difference.Symbol);
        Assert.Equal("Δ°F", Unit.Find("°F")!.Difference.Symbol);
        Assert.Equal("%", Unit.Find("%")!.Difference.Symbol);
    }

    [Fact]
    public void Every_conversion_undoes_the_opposite_one()
    {
        foreach (Unit a in Unit.All)
        {
            foreach (Unit b in Unit.All)
            {
                if (a.To(b) is not { } there) continue;
                var back = b.To(a)!.Value;
                Assert.Equal(12.34, (((12.34 * there.Factor) + there.Offset) * back.Factor) + back.Offset, 1e-9);
            }
        }
    }

    [Fact]
    public void Every_symbol_is_there_once_and_has_a_word()
    {
        Assert.Equal(Unit.All.Count, Unit.All.Select(u => u.Symbol).Distinct().Count());
        Assert.All(Unit.All, u => Assert.StartsWith("a", u.Word));
    }
}
