using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Texts;
using NodaTime;

namespace LoftyWren.Core.Tests.Tags;

/// <summary>Scalars in the Zinc form, after the grammar of Project Haystack 4.</summary>
public class ScalarTests
{
    public static Gen<TagValue> Any { get; } = Gen.OneOf(
        Gen.Constant(TagValue.Marker),
        Gen.Constant<TagValue>(new NaValue()),
        Gen.Elements(true, false).Select(b => (TagValue)new BoolValue(b)),
        ArbMap.Default.GeneratorFor<double>().Where(d => !double.IsNaN(d)).SelectMany(d => Gen.Elements(null, "°C", "%", "kWh", "m³/h", "_custom").Select(u => (TagValue)new NumberValue(d, double.IsFinite(d) ? u : null))),
        ArbMap.Default.GeneratorFor<string>().Where(s => s is not null).Select(s => (TagValue)new TextValue(s)),
        Gen.Elements("a", "kh-1", "p:demo:r:22a-b").Select(s => (TagValue)new RefValue(s)),
        Gen.Elements("elec-meter", "lib:ph").Select(s => (TagValue)new SymbolValue(s)),
        Gen.Choose(1, 40_000).Select(d => (TagValue)new DateValue(new LocalDate(1970, 1, 1).PlusDays(d))),
        Gen.Choose(0, 86_399).Select(s => (TagValue)new TimeValue(LocalTime.Midnight.PlusSeconds(s))),
        Gen.Choose(0, 1_000_000_000).Select(s => (TagValue)new MomentValue(Instant.FromUnixTimeSeconds(s).InZone(DateTimeZoneProviders.Tzdb["Europe/London"]).ToOffsetDateTime(), "London")),
        Gen.Choose(-90, 90).SelectMany(a => Gen.Choose(-180, 180).Select(b => (TagValue)new CoordValue(a, b + 0.25 < 180 ? b + 0.25 : b))));

    [Property(MaxTest = 400)]
    public Property What_is_written_reads_back_the_same() => Prop.ForAll(Any.ToArbitrary(), value => Zinc.Read(Zinc.Write(value)).Equals(value));

    /// <summary>The examples of the standard's Zinc chapter.</summary>
    [Theory]
    [InlineData("M", typeof(MarkerValue))]
    [InlineData("T", typeof(BoolValue))]
    [InlineData("-5.4e-45", typeof(NumberValue))]
    [InlineData("9.23kg", typeof(NumberValue))]
    [InlineData("50%", typeof(NumberValue))]
    [InlineData("INF", typeof(NumberValue))]
    [InlineData("\"hello\\nthere\"", typeof(TextValue))]
    [InlineData("`http://wren.test/`", typeof(UriValue))]
    [InlineData("@17eb0f3a-ad607713 \"Boiler\"", typeof(RefValue))]
    [InlineData("^elec-meter", typeof(SymbolValue))]
    [InlineData("2010-03-13", typeof(DateValue))]
    [InlineData("08:12:05", typeof(TimeValue))]
    [InlineData("2010-03-11T23:55:00-05:00 New_York", typeof(MomentValue))]
    [InlineData("2009-02-09T03:19:09Z", typeof(MomentValue))]
    [InlineData("C(37.55,-77.45)", typeof(CoordValue))]
    public void The_kinds_of_the_standard_are_told_apart(string text, Type kind) => Assert.IsType(kind, Zinc.Read(text));

    [Fact]
    public void Values_of_the_standards_examples()
    {
        Assert.Equal(new NumberValue(9.23, "kg"), Zinc.Read("9.23kg"));
        Assert.Equal(new TextValue("_ \\ \" \n \r \t \u0123"), Zinc.Read("\"_ \\\\ \\\" \\n \\r \\t \\u0123\""));
        Assert.Equal("Boiler", ((RefValue)Zinc.Read("@17eb0f3a \"Boiler\"")).Called);
        Assert.Equal(Instant.FromUtc(2010, 3, 12, 4, 55), ((MomentValue)Zinc.Read("2010-03-11T23:55:00-05:00 New_York")).Value.ToInstant());
    }

    [Theory]
    [InlineData("\"open", 0, "has no closing \"")]
    [InlineData("12 34", 3, "left over")]
    [InlineData("Hello", 0, "‘Hello’ is no value")]
    [InlineData("2026-02-30", 0, "is no date")]
    [InlineData("C(91,0)", 1, "in degrees")]
    [InlineData("", 0, "A value is missing")]
    [InlineData("@", 1, "reference's id")]
    public void What_cannot_be_read_is_pointed_at(string text, int at, string says)
    {
        var wrong = Assert.Throws<SyntaxException>(() => Zinc.Read(text));
        Assert.Contains(says, wrong.Message, StringComparison.Ordinal);
        Assert.Equal(at, wrong.At);
    }

    [Property(MaxTest = 500)]
    public bool Any_text_has_a_value_or_a_place_where_it_goes_wrong(string text)
    {
        try
        {
            Zinc.Read(text ?? "");
            return true;
        }
        catch (SyntaxException e)
        {
            return e.At >= 0 && e.At <= (text ?? "").Length;
        }
    }
}
