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
        Assert.Equal("m³/h·K", Unit.Product(Quantity.Flow, Quantity.TemperatureDifference)!.Product.Symbol);
        Assert.Equal("kWh", Unit.Product(Quantity.Time, Quantity.Power)!.Product.Symbol);
        Assert.Null(Unit.Product(Quantity.Flow, Quantity.Temperature));
        Assert.Equal(("kW", "kWh", "h"), Unit.Quotient(Quantity.Energy, Quantity.Time) is var by ? (by!.One.Symbol, by.Product.Symbol, by.Other.Symbol) : default);
        Assert.Equal("K", Unit.Quotient(Quantity.FlowTimesDifference, Quantity.Flow)!.One.Symbol);
    }

    // Each unit in kg, m, s, K, A, with its factor (SI brochure, 9th edition); an angle of a whole turn counts as 1.
    private static readonly Dictionary<string, (double Factor, int Kg, int M, int S, int K, int A)> Si = new()
    {
        ["m³/h"] = (1 / 3600.0, 0, 3, -1, 0, 0),
        ["K"] = (1, 0, 0, 0, 1, 0),
        ["m³/h·K"] = (1 / 3600.0, 0, 3, -1, 1, 0),
        ["kWh/m³·K"] = (3.6e6, 1, -1, -2, -1, 0),
        ["kW"] = (1000, 1, 2, -3, 0, 0),
        ["kg/s"] = (1, 1, 0, -1, 0, 0),
        ["kg/s·K"] = (1, 1, 0, -1, 1, 0),
        ["kJ/kg·K"] = (1000, 0, 2, -2, -1, 0),
        ["kW/K"] = (1000, 1, 2, -3, -1, 0),
        ["kJ/kg"] = (1000, 0, 2, -2, 0, 0),
        ["kg"] = (1, 1, 0, 0, 0, 0),
        ["kJ"] = (1000, 1, 2, -2, 0, 0),
        ["kg/m³"] = (1, 1, -3, 0, 0, 0),
        ["kg/h"] = (1 / 3600.0, 1, 0, -1, 0, 0),
        ["m³"] = (1, 0, 3, 0, 0, 0),
        ["h"] = (3600, 0, 0, 1, 0, 0),
        ["kWh"] = (3.6e6, 1, 2, -2, 0, 0),
        ["m/s"] = (1, 0, 1, -1, 0, 0),
        ["s"] = (1, 0, 0, 1, 0, 0),
        ["m"] = (1, 0, 1, 0, 0, 0),
        ["m²"] = (1, 0, 2, 0, 0, 0),
        ["m³/s"] = (1, 0, 3, -1, 0, 0),
        ["W/m²"] = (1, 1, 0, -3, 0, 0),
        ["W"] = (1, 1, 2, -3, 0, 0),
        ["Pa"] = (1, 1, -1, -2, 0, 0),
        ["V"] = (1, 1, 2, -3, 0, -1),
        ["A"] = (1, 0, 0, 0, 0, 1),
        ["VA"] = (1, 1, 2, -3, 0, 0),
        ["Ω"] = (1, 1, 2, -3, 0, -2),
        ["rpm"] = (1 / 60.0, 0, 0, -1, 0, 0),
        ["min"] = (60, 0, 0, 1, 0, 0),
        ["turns"] = (1, 0, 0, 0, 0, 0),
        ["Hz"] = (1, 0, 0, -1, 0, 0),
        ["periods"] = (1, 0, 0, 0, 0, 0),
    };

    [Fact]
    public void Every_product_holds_without_a_factor_in_its_units()
    {
        foreach (UnitProduct p in Unit.Products)
        {
            var (f, kg, m, s, k, a) = Si[p.One.Symbol];
            var (g, kg2, m2, s2, k2, a2) = Si[p.Other.Symbol];
            var product = Si[p.Product.Symbol];
            Assert.Equal((kg + kg2, m + m2, s + s2, k + k2, a + a2), (product.Kg, product.M, product.S, product.K, product.A));
            Assert.Equal(product.Factor, f * g, 1e-9 * product.Factor);
        }
    }
}
