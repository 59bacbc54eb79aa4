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
    // Exact by definition: NIST SP 811, appendix B.8 (psi, cfm, gpm rounded there to seven figures), and hand calculation.
    [InlineData("psi", "Pa", 1, 6894.757293168361)]
    [InlineData("hPa", "Pa", 1013.25, 101325)]
    [InlineData("mbar", "kPa", 10, 1)]
    [InlineData("MPa", "bar", 1, 10)]
    [InlineData("cfm", "m³/s", 1, 4.719474432e-4)]
    [InlineData("gpm", "m³/s", 1, 6.30901964e-5)]
    [InlineData("l/min", "l/s", 60, 1)]
    [InlineData("m³/s", "m³/h", 1, 3600)]
    [InlineData("kWh", "MJ", 1, 3.6)]
    [InlineData("MWh", "kWh", 1, 1000)]
    [InlineData("kJ", "J", 1, 1000)]
    [InlineData("MW", "kW", 1, 1000)]
    [InlineData("kg/s", "kg/h", 1, 3600)]
    [InlineData("m³", "l", 1, 1000)]
    [InlineData("d", "h", 1, 24)]
    [InlineData("kΩ", "Ω", 1, 1000)]
    [InlineData("mV", "V", 1, 0.001)]
    public void Units_of_one_quantity_convert(string from, string to, double value, double expected)
    {
        var (factor, offset) = Unit.Find(from)!.To(Unit.Find(to)!)!.Value;
        Assert.Equal(expected, (value * factor) + offset, Math.Abs(expected) * 1e-9 + 1e-13);
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

    // The units the trade uses, by name.
    [Theory]
    [InlineData("psi hPa mbar MPa J kJ MJ MWh MW kVA kvar m³ l m³/s l/min kg/s kg/h cfm gpm Hz rpm g/kg kJ/kg W/m² µg/m³ ° d kg mV kΩ")]
    public void The_units_of_the_trade_are_there(string symbols) => Assert.All(symbols.Split(' '), s => Assert.NotNull(Unit.Find(s)));

    [Theory]
    [InlineData("degC", "°C")]
    [InlineData("m3/h", "m³/h")]
    [InlineData("KW", "kW")]
    [InlineData("mw", null)]
    [InlineData("MA", null)]
    [InlineData("MPA", "MPa")]
    [InlineData("mpa", null)]
    [InlineData("furlong", null)]
    public void Other_ways_of_writing_a_unit_are_read_but_milli_never_becomes_mega(string text, string? symbol) => Assert.Equal(symbol, Unit.Read(text)?.Symbol);

    [Fact]
    public void Products_of_two_quantities_have_units_of_their_own()
    {
        Assert.Equal("m³/h·K", Unit.Product(Quantity.Flow, Quantity.TemperatureDifference)!.Symbol);
        Assert.Equal("J", Unit.Product(Quantity.Time, Quantity.Power)!.Symbol);
        Assert.Null(Unit.Product(Quantity.Flow, Quantity.Temperature));
        // First units multiply to first units: 1 m³/h × 1 K, 1 W × 1 s, 1 V × 1 A.
        Assert.All(new[] { Quantity.Flow, Quantity.TemperatureDifference, Quantity.Power, Quantity.Time, Quantity.Voltage, Quantity.Current, Quantity.Energy, Quantity.ApparentPower }, q => Assert.Equal((1.0, 0.0), (Unit.First(q).Factor, Unit.First(q).Offset)));
    }
}
