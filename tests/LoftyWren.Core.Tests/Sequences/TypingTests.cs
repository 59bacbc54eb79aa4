using LoftyWren.Core.Units;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Sequences;

public class TypingTests
{
    private static Block Make(string id, BlockKind kind, params (string Pin, Source Source)[] inputs) =>
        new() { Id = id, Kind = kind, Inputs = inputs.ToDictionary(i => i.Pin, i => i.Source) };

    private static ConstantSource Of(double value, string? unit = null) => new(value, unit);

    private static Typing Type(params Block[] blocks) =>
        Typing.Of(new Sequence { Id = new("s"), Name = "s", EquipmentId = Fan, Blocks = blocks }, KilnRoom.Project());

    private static string UnitOf(Typing typing, string block) => typing.Outputs[(block, "out")].Unit?.Symbol ?? "";

    [Fact]
    public void A_temperature_plus_a_difference_is_a_temperature_and_two_temperatures_do_not_add()
    {
        Assert.Equal("°C", UnitOf(Type(Make("a", BlockKind.Add, ("in1", new PointSource(Temperature)), ("in2", Of(2, "K")))), "a"));
        Typing wrong = Type(Make("a", BlockKind.Add, ("in1", new PointSource(Temperature)), ("in2", Of(20, "°C"))));
        Assert.Contains("the sum of two temperatures means nothing", wrong.Problems[0].Sentence);
    }

    [Fact]
    public void Temperature_less_temperature_is_a_difference_and_cannot_become_a_temperature_again()
    {
        Block difference = Make("d", BlockKind.Sub, ("in1", new PointSource(Temperature)), ("in2", new PointSource(Limit)));
        Assert.Equal("K", UnitOf(Type(difference), "d"));
        Typing wrong = Type(difference, Make("t", BlockKind.TwoPosition, ("measured", new PointSource(Temperature)), ("limit", new BlockSource("d"))));
        Assert.Equal("‘Two-position’ takes a temperature (°C), not a temperature difference (K).", wrong.Problems.Single().Sentence);
    }

    [Fact]
    public void A_difference_less_a_temperature_is_refused() =>
        Assert.Contains("Turn the two inputs round", Type(Make("d", BlockKind.Sub, ("in1", Of(2, "K")), ("in2", new PointSource(Limit)))).Problems[0].Sentence);

    [Fact]
    public void Fahrenheit_meets_Celsius_by_a_conversion_that_is_shown()
    {
        Typing typing = Type(Make("t", BlockKind.TwoPosition, ("measured", new PointSource(Temperature)), ("limit", Of(84.2, "°F"))));
        Assert.Empty(typing.Problems);
        Conversion conversion = typing.Conversions[("t", "limit")];
        Assert.Equal("°F", conversion.From);
        Assert.Equal(29, (84.2 * conversion.Factor) + conversion.Offset, 1e-9);
    }

    [Fact]
    public void A_temperature_does_not_go_into_a_percentage()
    {
        var project = Accept(KilnRoom.Project(), new Point { Id = new("valve"), Name = "Valve", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Fallback = 0 });
        var sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        var refusals = Refused(project, Edit.Of(sequence with { Commands = [.. sequence.Commands, new OutputCommand { PointId = new("valve"), Claims = [new Claim { Priority = 12, Source = new PointSource(Temperature) }] }] }));
        Assert.Contains("The output ‘Valve’ takes a percentage (%), not a temperature (°C).", refusals.Select(r => r.Sentence));
    }

    [Fact]
    public void On_and_off_do_not_go_into_numbers_nor_numbers_into_on_and_off()
    {
        Assert.Contains("takes a number at", Type(Make("g", BlockKind.Gt, ("in1", new PointSource(FanCommand)), ("in2", Of(1)))).Problems[0].Sentence);
        Assert.Contains("takes on or off at", Type(Make("n", BlockKind.Not, ("in", new PointSource(Temperature)))).Problems[0].Sentence);
    }

    [Fact]
    public void Only_one_factor_has_a_unit_and_a_quotient_of_likes_is_a_bare_number()
    {
        Assert.Contains("would multiply", Type(Make("m", BlockKind.Mul, ("in1", Of(2, "K")), ("in2", Of(3, "%")))).Problems[0].Sentence);
        Assert.Equal("%", UnitOf(Type(Make("m", BlockKind.Mul, ("in1", Of(2)), ("in2", Of(3, "%")))), "m"));
        Assert.Equal("", UnitOf(Type(Make("q", BlockKind.Div, ("in1", Of(2, "K")), ("in2", Of(4, "K")))), "q"));
        Assert.Contains("cannot multiply a temperature", Type(Make("m", BlockKind.Mul, ("in1", Of(2)), ("in2", new PointSource(Temperature)))).Problems[0].Sentence);
        Assert.Contains("cannot divide temperatures", Type(Make("q", BlockKind.Div, ("in1", new PointSource(Temperature)), ("in2", Of(2)))).Problems[0].Sentence);
        Assert.Contains("of a temperature means nothing", Type(Make("x", BlockKind.Abs, ("in", new PointSource(Temperature)))).Problems[0].Sentence);
    }

    [Fact]
    public void A_loop_needs_a_block_with_memory()
    {
        Typing wrong = Type(Make("a", BlockKind.Not, ("in", new BlockSource("b"))), Make("b", BlockKind.Not, ("in", new BlockSource("a"))));
        Assert.Contains("feed each other in a loop without memory", wrong.Problems[0].Sentence);
        Typing right = Type(Make("a", BlockKind.Not, ("in", new BlockSource("b"))), Make("b", BlockKind.Ton, ("in", new BlockSource("a"))));
        Assert.Empty(right.Problems);
        Assert.Equal(2, right.Order.Count);
    }

    [Fact]
    public void Blocks_are_calculated_after_what_they_read_whatever_their_order_in_the_list()
    {
        Typing typing = Type(Make("last", BlockKind.Not, ("in", new BlockSource("middle"))), Make("middle", BlockKind.Not, ("in", new BlockSource("first"))), Make("first", BlockKind.Gt, ("in1", new PointSource(Temperature)), ("in2", Of(3, "°C"))));
        Assert.Equal(["first", "middle", "last"], typing.Order.Select(b => b.Id));
    }

    [Theory]
    [InlineData("29", 29, null, false)]
    [InlineData("29.5 °C", 29.5, "°C", false)]
    [InlineData("-3 K", -3, "K", false)]
    [InlineData("68F", 68, "°F", false)]
    [InlineData("on", 1, null, true)]
    [InlineData("off", 0, null, true)]
    public void Constants_are_read_as_people_type_them(string text, double value, string? unit, bool binary) => Assert.Equal(new ConstantSource(value, unit, binary), ConstantText.Read(text));

    [Theory]
    [InlineData("room")]
    [InlineData("29 parsecs")]
    [InlineData("")]
    [InlineData("1.2.3")]
    public void What_is_no_constant_is_none(string text) => Assert.Null(ConstantText.Read(text));

    [Fact]
    public void Flow_times_a_temperature_difference_has_a_unit_of_its_own_in_units_that_fit()
    {
        Typing typing = Type(Make("m", BlockKind.Mul, ("in1", Of(2, "l/s")), ("in2", Of(9, "Δ°F"))));
        Assert.Empty(typing.Problems);
        Assert.Equal("m³/h·K", UnitOf(typing, "m"));
        // 2 l/s are 7.2 m³/h, 9 °F of difference are 5 K.
        Assert.Equal((3.6, 5 / 9.0), (typing.Conversions[("m", "in1")].Factor, typing.Conversions[("m", "in2")].Factor));
        Assert.Contains("makes nothing that has a unit", Type(Make("m", BlockKind.Mul, ("in1", Of(2, "l/s")), ("in2", Of(3, "kWh")))).Problems[0].Sentence);
        // Heat of water by its flow: in whatever order, and back again.
        Assert.Equal("kW", UnitOf(Type(Make("m", BlockKind.Mul, ("in1", Of(2, "l/s")), ("in2", Of(1.163, "kWh/m³·K")), ("in3", Of(9, "K")))), "m"));
        Assert.Equal("kW", UnitOf(Type(Make("m", BlockKind.Mul, ("in1", Of(9, "K")), ("in2", Of(4.19, "kJ/kg·K")), ("in3", Of(720, "kg/h")))), "m"));
        Typing mean = Type(Make("m", BlockKind.Div, ("in1", Of(10, "MWh")), ("in2", Of(2, "d"))));
        Assert.Empty(mean.Problems);
        // 10 MWh in 2 days: 10 000 kWh ÷ 48 h.
        Assert.Equal(("kW", 1000.0, 24.0), (UnitOf(mean, "m"), mean.Conversions[("m", "in1")].Factor, mean.Conversions[("m", "in2")].Factor));
    }
}
