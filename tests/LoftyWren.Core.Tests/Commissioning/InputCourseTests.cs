using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tests.Commissioning;

/// <summary>What stands at an input in place of its sensor, as time goes on.</summary>
public class InputCourseTests
{
    private static readonly ValueForm Celsius = new(PointKind.Analog, "°C", []), Contact = new(PointKind.Binary, null, ["closed", "open"]);

    /// <summary>By hand: from 20 °C to 30 °C in 10 min is 25 °C after 5; 5 min there; broken for 2 min; at once 22 °C, and so it stays.</summary>
    [Theory]
    [InlineData(0, 20)]
    [InlineData(300, 25)]
    [InlineData(600, 30)]
    [InlineData(899, 30)]
    [InlineData(900, double.NaN)]
    [InlineData(1019, double.NaN)]
    [InlineData(1020, 22)]
    [InlineData(90_000, 22)]
    public void Leg_after_leg(double seconds, double stands) =>
        Assert.Equal(stands, InputCourse.Read("30 °C over 10 min for 5 min\n\nbroken for 2 min\n22 °C", Celsius).At(20, seconds), 9);

    /// <summary>Again and again: from the second time on it comes from where it ended.</summary>
    [Theory]
    [InlineData(30, 21)]
    [InlineData(90, 10)]
    [InlineData(150, 15)]
    [InlineData(3630, 15)]
    public void Again_from_where_it_ended(double seconds, double stands) =>
        Assert.Equal(stands, InputCourse.Read("20 over 1 min\n10 for 1 min\nagain", Celsius).At(22, seconds), 9);

    [Fact]
    public void States_and_other_units_are_read_and_all_is_read_back()
    {
        Assert.Equal(new CourseLeg(1, 0, 30), InputCourse.Read("open for 30 s", Contact).Legs[0]);
        Assert.Equal(new CourseLeg(20, 0, 0), InputCourse.Read("68 °F", Celsius).Legs[0]);
        foreach (var (text, form) in ((string, ValueForm)[])[("30 °C over 10 min for 5 min\nbroken for 2 min\n22.5 °C", Celsius), ("open for 30 s\nclosed for 5 s\nagain", Contact)])
            Assert.Equal(text, InputCourse.Read(text, form).Write(form));
    }

    [Theory]
    [InlineData("", "at least one leg")]
    [InlineData("20 °C\nwarm", "Line 2, character 1")]
    [InlineData("20 kW", "A value in °C is meant")]
    [InlineData("1e999 °C", "is not a number")]
    [InlineData("20 °C for 2 s", "from 5 s")]
    [InlineData("20 °C\nagain", "lasts at least 5 s")]
    [InlineData("20 °C for 1 min\nagain\n30 °C", "nothing comes after")]
    [InlineData("broken over 1 min", "breaks at once")]
    [InlineData("20 °C for 20 d", "to 8 d")]
    [InlineData("20 °C for 1 min more", "is left over")]
    public void What_cannot_be_read_is_said(string text, string says) =>
        Assert.Contains(says, Assert.Throws<SyntaxException>(() => InputCourse.Read(text, Celsius)).Message, StringComparison.Ordinal);

    [Fact]
    public void A_contact_does_not_go_little_by_little() =>
        Assert.Contains("only a number", Assert.Throws<SyntaxException>(() => InputCourse.Read("open over 1 min", Contact)).Message, StringComparison.Ordinal);

    [Fact]
    public void More_legs_than_a_course_has_are_refused() =>
        Assert.Contains("at most 100", Assert.Throws<SyntaxException>(() => InputCourse.Read(string.Join('\n', Enumerable.Repeat("20 °C for 5 s", 101)), Celsius)).Message, StringComparison.Ordinal);
}
