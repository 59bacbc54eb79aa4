using FsCheck.Xunit;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tests.Tags;

/// <summary>The filter language, after the chapter on filters of Project Haystack 4.</summary>
public class FilterTests
{
    private static TagSet Set(params string[] tags) => new(tags.Select(t => t.Split(':', 2)).Select(t => KeyValuePair.Create(t[0], t.Length == 1 ? TagValue.Marker : Zinc.Read(t[1]))));

    private static readonly Dictionary<string, TagSet> World = new()
    {
        ["floor"] = Set("floor", "floorNum:1", "dis:\"First floor\""),
        ["room"] = Set("room", "floorRef:@floor", "area:60m²", "built:2019-05-01"),
        ["temp"] = Set("point", "sensor", "temp", "air", "spaceRef:@room", "maxVal:40°C", "unit:\"°C\"", "open:08:00:00"),
        ["sp"] = Set("point", "sp", "temp", "spaceRef:@room", "spaceRef2:@nowhere"),
        ["fan"] = Set("point", "cmd", "fan", "enum:\"off,on\"", "live:T"),
    };

    private static string Found(string filter)
    {
        Filter parsed = Filter.Parse(filter);
        return string.Join(" ", World.Where(w => parsed.Matches(w.Value, World.GetValueOrDefault)).Select(w => w.Key));
    }

    [Theory]
    [InlineData("point", "temp sp fan")]
    [InlineData("^air-temp", "temp")]
    [InlineData("^point and not sensor", "sp fan")]
    [InlineData("*==@room", "temp sp")]
    [InlineData("space? @room", "temp sp")]
    [InlineData("space? ^room", "temp sp")]
    [InlineData("spaceRef? ^floor", "")]
    [InlineData("floor?", "room")]
    [InlineData("area >= 6_0m²", "room")]
    [InlineData("not point", "floor room")]
    [InlineData("point and temp and sensor", "temp")]
    [InlineData("sensor or sp or fan", "temp sp fan")]
    [InlineData("fan or point and sensor", "temp fan")]
    [InlineData("(fan or point) and sensor", "temp")]
    [InlineData("spaceRef->floorRef->floorNum == 1", "temp sp")]
    [InlineData("spaceRef->area", "temp sp")]
    [InlineData("not spaceRef->area", "floor room fan")]
    [InlineData("spaceRef == @room", "temp sp")]
    [InlineData("spaceRef2->area", "")]
    [InlineData("maxVal > 30°C", "temp")]
    [InlineData("maxVal >= 40°C and maxVal <= 40°C", "temp")]
    [InlineData("maxVal > 30", "")]
    [InlineData("maxVal > \"30\"", "")]
    [InlineData("unit == \"°C\"", "temp")]
    [InlineData("enum != \"on\"", "fan")]
    [InlineData("built < 2020-01-01", "room")]
    [InlineData("open < 09:00:00", "temp")]
    [InlineData("live == true", "fan")]
    [InlineData("dis == \"First floor\"", "floor")]
    public void Filters_match_as_the_standard_says(string filter, string found) => Assert.Equal(found, Found(filter));

    [Theory]
    [InlineData("", 0, "Type what to look for")]
    [InlineData("point and", 9, "missing at the end")]
    [InlineData("point sensor", 6, "Expected ‘and’, ‘or’ or the end")]
    [InlineData("(point", 6, "opened at character 1 is not closed")]
    [InlineData("area = 5", 5, "two signs: ==")]
    [InlineData("not area > 5", 9, "!=")]
    [InlineData("Point", 0, "small letter")]
    [InlineData("area > ", 7, "A value is missing")]
    [InlineData("area > big", 7, "‘big’ is no value")]
    [InlineData("and", 0, "not ‘and’")]
    [InlineData("spaceRef->", 10, "missing at the end")]
    public void An_error_points_at_the_character(string filter, int at, string says)
    {
        var wrong = Assert.Throws<SyntaxException>(() => Filter.Parse(filter));
        Assert.Contains(says, wrong.Message, StringComparison.Ordinal);
        Assert.Equal(at, wrong.At);
    }

    [Theory]
    [InlineData("point and temp and sensor", "sp", "sensor")]
    [InlineData("point and temp and sensor and air", "sp", null)]
    [InlineData("point and not air and temp", "temp", "not air")]
    [InlineData("point and (fan or heating) and temp", "temp", "fan or heating")]
    [InlineData("point and maxVal > 50°C", "temp", "maxVal > 50°C")]
    [InlineData("point", "temp", null)]
    public void A_near_miss_names_the_one_term_that_is_short(string filter, string on, string? term) =>
        Assert.Equal(term, Filter.Parse(filter).NearMiss(World[on], World.GetValueOrDefault));

    [Fact]
    public void Nesting_and_length_are_bounded()
    {
        Assert.Contains("60 deep", Assert.Throws<SyntaxException>(() => Filter.Parse(new string('(', 3000) + "point")).Message, StringComparison.Ordinal);
        Assert.Contains("4000", Assert.Throws<SyntaxException>(() => Filter.Parse(new string('a', 5000))).Message, StringComparison.Ordinal);
    }

    [Property(MaxTest = 500)]
    public bool Any_text_is_a_filter_or_an_error_at_a_place(string text)
    {
        try
        {
            return Filter.Parse(text ?? "").Text == text;
        }
        catch (SyntaxException e)
        {
            return e.At >= 0 && e.At <= Math.Max(4000, (text ?? "").Length);
        }
    }

    [Fact]
    public void The_names_asked_for_are_known() => Assert.Equal(["point", "spaceRef", "area", "temp"], Filter.Parse("point and spaceRef->area > 5m² or temp and point").Names());
}
