using LoftyWren.Core.Points;
using LoftyWren.Core.Templates;

namespace LoftyWren.Core.Tests.Templates;

/// <summary>A template from somebody else is looked at before it is kept: what could never be placed is refused, with why.</summary>
public class TemplateRefusalTests
{
    private static readonly Equipment Root = new() { Id = new("t-root"), Name = "{name}", Kind = "fan-coil", PlaceId = Template.Parent };
    private static readonly Point Setpoint = new() { Id = new("t-sp"), Name = "Setpoint", OwnerId = Root.Id, Kind = PointKind.Analog, Role = PointRole.Setpoint, Unit = "°C", Fallback = 20 };
    private static readonly TemplateParameter Warmth = new("warmth", "Warmth", ParameterKind.Number, "20", "°C", 5, 30);
    private static readonly Template Good = new() { Id = "heater", Name = "Heater", Parameters = [Warmth], Bindings = [new TemplateBinding(Setpoint.Id, "fallback", "warmth")], Records = [Root, Setpoint] };

    [Fact]
    public void A_good_one_is_not_refused() => Assert.Null(Good.Refuse());

    [Fact]
    public void Names_records_parameters_and_bindings_must_fit_together()
    {
        Assert.Equal("A template needs an id, and a name of at most 80 characters.", (Good with { Id = "../../etc" }).Refuse());
        Assert.Equal("A template needs an id, and a name of at most 80 characters.", (Good with { Name = new string('x', 81) }).Refuse());
        Assert.Equal("The template ‘Heater’ has 0 records; it needs 1 to 5000.", (Good with { Records = [] }).Refuse());
        Assert.Equal("The records of ‘Heater’ need ids of their own that begin with t-, each once.", (Good with { Records = [Root, Root] }).Refuse());
        Assert.Equal("The records of ‘Heater’ need ids of their own that begin with t-, each once.", (Good with { Records = [Root with { Id = new("kiln-room") }] }).Refuse());
        Assert.Equal("Two parameters of ‘Heater’ have the same name.", (Good with { Parameters = [Warmth, Warmth] }).Refuse());
        Assert.Equal("The default of a parameter of ‘Heater’ does not fit: 40 °C is out of range for ‘Warmth’: 5 to 30 °C.", (Good with { Parameters = [Warmth with { Default = "40" }] }).Refuse());
        Assert.Equal("‘Heater’ binds fallback to a parameter or a record that it does not have.", (Good with { Parameters = [] }).Refuse());
    }

    [Theory]
    [InlineData("fallback.deeper.still")]
    [InlineData("stateTexts.7")]
    [InlineData("stateTexts.first")]
    [InlineData("kind")]
    public void A_binding_to_where_no_value_can_go_is_refused_and_never_thrown(string path) =>
        Assert.StartsWith("‘Heater’ has a value that no record can take: ", (Good with { Bindings = [new TemplateBinding(Setpoint.Id, path, "warmth")] }).Refuse(), StringComparison.Ordinal);

    [Theory]
    [InlineData(ParameterKind.Number, "warm", "‘warm’ is no number for ‘Warmth’. Write digits, such as 20.")]
    [InlineData(ParameterKind.Number, "1e999", "‘1e999’ is no number for ‘Warmth’. Write digits, such as 20.")]
    [InlineData(ParameterKind.Choice, "tepid", "‘tepid’ is no choice for ‘Warmth’. Choose one of: cold, warm.")]
    public void A_value_that_a_parameter_cannot_take_says_what_it_can(ParameterKind kind, string value, string sentence) =>
        Assert.Equal(sentence, (Warmth with { Kind = kind, Choices = ["cold", "warm"] }).Refuse(value));
}
