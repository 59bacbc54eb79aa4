using System.Text.RegularExpressions;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Texts;
using LoftyWren.Formats.Haystack;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Formats.Tests.Haystack;

/// <summary>Files of Project Haystack: each form reads back what it wrote.</summary>
public class HaystackTests
{
    private static readonly Gen<TagValue> Value = Gen.OneOf(
        Gen.Constant(TagValue.Marker), Gen.Constant<TagValue>(new NaValue()), Gen.Elements(true, false).Select(b => (TagValue)new BoolValue(b)),
        ArbMap.Default.GeneratorFor<int>().SelectMany(i => Gen.Elements(null, "°C", "kWh", "%").Select(u => (TagValue)new NumberValue(i / 8.0, u))),
        Gen.Elements(double.NaN, double.PositiveInfinity, double.NegativeInfinity).Select(d => (TagValue)new NumberValue(d)),
        ArbMap.Default.GeneratorFor<string>().Select(s => (TagValue)new TextValue(new string([.. (s ?? "").Where(c => !char.IsSurrogate(c))]))),
        Gen.Elements("kiln-room", "a").SelectMany(i => Gen.Elements(null, "Kiln \"room\", first").Select(d => (TagValue)new RefValue(i, d))),
        Gen.Constant<TagValue>(new UriValue("http://wren.test/a,b")), Gen.Constant<TagValue>(new SymbolValue("elec-meter")),
        Gen.Constant(Zinc.Read("2026-04-14")), Gen.Constant(Zinc.Read("09:30:00")), Gen.Constant(Zinc.Read("2026-04-14T09:30:00+01:00 London")), Gen.Choose(-900_000_000, 900_000_000).SelectMany(a => Gen.Choose(-1_800_000_000, 1_800_000_000).Select(b => (TagValue)new CoordValue(a / 1e7, b / 1e7))), Gen.Elements("to day", "a\"b").Select(t => (TagValue)new XStrValue("Span", t)), Gen.Constant<TagValue>(new RemoveValue()));

    private static readonly Arbitrary<TaggedThing[]> Things = Gen.Elements("id", "dis", "temp", "area", "siteRef", "x_1").SelectMany(n => Value.Select(v => (n, v))).ListOf()
        .Where(l => l.Any()).Select(l => new TaggedThing(l.GroupBy(t => t.n).ToDictionary(g => g.Key, g => g.First().v))).ArrayOf().ToArbitrary();

    private static bool Same(IReadOnlyList<TaggedThing> a, IReadOnlyList<TaggedThing> b) =>
        a.Count == b.Count && a.Zip(b).All(p => p.First.Tags.Count == p.Second.Tags.Count && p.First.Tags.All(t => p.Second.Tags.TryGetValue(t.Key, out TagValue? v) && v.Equals(t.Value)));

    [Property(MaxTest = 150)]
    public Property Zinc_reads_back() => Prop.ForAll(Things, things => Same(things, HaystackFormats.ReadZinc(HaystackFormats.WriteZinc(things))));

    [Property(MaxTest = 150)]
    public Property Trio_reads_back() => Prop.ForAll(Things, things => Same(things, HaystackFormats.ReadTrio(HaystackFormats.WriteTrio(things))));

    [Property(MaxTest = 150)]
    public Property Json_reads_back() => Prop.ForAll(Things, things => Same(things, HaystackFormats.ReadJson(HaystackFormats.WriteJson(things))));

    /// <summary>The grid that the standard's Zinc chapter shows.</summary>
    [Fact]
    public void The_standards_own_grid_is_read()
    {
        var things = HaystackFormats.ReadZinc("ver:\"3.0\"\nfirstName,bday\n\"Jack\",1973-07-23\n\"Jill\",1975-11-15\n");
        Assert.Equal(["\"Jack\"", "\"Jill\""], things.Select(t => t.Tags["firstName"].ToString()));
        Assert.Equal("1975-11-15", things[1].Tags["bday"].ToString());
    }

    /// <summary>The record that the standard's Trio chapter shows.</summary>
    [Fact]
    public void The_standards_own_trio_is_read()
    {
        TaggedThing site = HaystackFormats.ReadTrio("dis:\"Site-A\"\nsite\narea:5000ft²\n---\ndis:Site B\nsite\n")[1];
        Assert.Equal((new TextValue("Site B"), TagValue.Marker), ((TextValue)site.Tags["dis"], site.Tags["site"]));
    }

    [Fact]
    public void What_others_write_is_read()
    {
        // Column meta with a comma in its text, nulls, underscores in numbers, an XStr, CRLF.
        var things = HaystackFormats.ReadZinc("ver:\"3.0\" dis:\"a,b\"\r\nid,area dis:\"Area, gross\" unit:\"m²\",span,n\r\n@a \"A\",1_000.5m²,Span(\"today\"),N\r\n@b,N,,2\r\n");
        Assert.Equal(2, things.Count);
        Assert.Equal((new NumberValue(1000.5, "m²"), new XStrValue("Span", "today")), ((NumberValue)things[0].Tags["area"], (XStrValue)things[0].Tags["span"]));
        Assert.False(things[0].Tags.ContainsKey("n"));
        Assert.Equal(["id", "n"], things[1].Tags.Keys.Order());

        TaggedThing trio = Assert.Single(HaystackFormats.ReadTrio("// a site\ndis: Kiln House, first floor\narea: 1_000m²\ndoc:\n  First line\n\n  third: line\nsite\n---\n"));
        Assert.Equal(new TextValue("Kiln House, first floor"), trio.Tags["dis"]);
        Assert.Equal(new NumberValue(1000, "m²"), trio.Tags["area"]);
        Assert.Equal(new TextValue("First line\n\nthird: line"), trio.Tags["doc"]);
        Assert.Equal(TagValue.Marker, trio.Tags["site"]);
    }

    // Every shape that is not a grid of scalars: an answer with a path, never anything else.
    [Theory]
    [InlineData("{}", "has no rows")]
    [InlineData("[1]", "rows[0] is no row")]
    [InlineData("{\"rows\":7}", "The rows of a grid are a list")]
    [InlineData("{\"rows\":[{\"A\":1}]}", "rows[0]: ‘A’ is no tag's name")]
    [InlineData("{\"rows\":[{\"a\":1,\"a\":1}]}", "rows[0] has the tag a twice")]
    [InlineData("{\"rows\":[{},{\"a\":[1]}]}", "rows[1].a is a list")]
    [InlineData("{\"rows\":[{\"a\":{\"_kind\":\"number\"}}]}", "rows[0].a.val is no number")]
    [InlineData("{\"rows\":[{\"a\":{\"_kind\":7}}]}", "rows[0].a._kind is no text")]
    [InlineData("{\"rows\":[{\"a\":{\"_kind\":\"date\",\"val\":\"x\"}}]}", "rows[0].a: ")]
    [InlineData("{\"rows\":[{\"a\":{\"b\":{\"c\":1}}}]}", "rows[0].a has no _kind")]
    [InlineData("{\"rows\":[{\"a\":\"\\ud800\"}]}", "no Unicode")]
    [InlineData("{\"rows\":", "no JSON that can be read")]
    public void Malformed_json_is_answered_with_its_path(string text, string why) => Assert.Contains(why, Assert.Throws<SyntaxException>(() => HaystackFormats.ReadJson(text)).Message);

    [Property(MaxTest = 300)]
    public Property Any_text_is_read_or_answered_in_words() => Prop.ForAll(Gen.Elements("ver:\"3.0\"\n", "{\"rows\":[", "[", "", "a:").SelectMany(start => Gen.Elements("{", "}", "[", "]", "(", "\"", "`", "@a", "^b", "N", "M", "C(1,", "1_0", "2026-04-14T", "\n", ",", ":", "---", "\\u", "-INF", "a", "\u202e").ListOf(30).Select(parts => start + string.Concat(parts))).ToArbitrary(), text =>
    {
        try
        {
            HaystackFormats.Read(text);
        }
        catch (SyntaxException e)
        {
            return e.Message.Length > 0;
        }
        return true;
    });

    [Theory]
    [InlineData("name\n1\n", 0, "begins with ver")]
    [InlineData("ver:\"3.0\"\na,b\n1\n", 15, "comma before column b")]
    [InlineData("ver:\"3.0\"\nA\n", 10, "no column's name")]
    [InlineData("ver:\"3.0\"\na\n\"x\n", 12, "no closing")]
    public void A_damaged_grid_is_pointed_at(string text, int at, string says)
    {
        var wrong = Assert.Throws<SyntaxException>(() => HaystackFormats.ReadZinc(text));
        Assert.Contains(says, wrong.Message, StringComparison.Ordinal);
        Assert.Equal(at, wrong.At);
    }

    [Property(MaxTest = 300)]
    public bool Any_text_is_read_or_refused(string text)
    {
        foreach (Func<string, object> read in (Func<string, object>[])[t => HaystackFormats.ReadZinc("ver:\"3.0\"\n" + t), HaystackFormats.ReadTrio, HaystackFormats.ReadJson])
        {
            try
            {
                read(text ?? "");
            }
            catch (FormatException)
            {
                // Refused in words.
            }
        }
        return true;
    }

    /// <summary>Read back with a plain pattern: every record is there once, and every reference leads to one that is.</summary>
    [Fact]
    public void The_model_in_brick_has_every_record_and_no_loose_end()
    {
        Project house = Accept(Core.Tests.KilnRoom.Project(), [.. Model.StarterRules]);
        string turtle = HaystackFormats.WriteBrick(HaystackFormats.Brick(house, TagIndex.Full(house)));
        string[] subjects = [.. Regex.Matches(turtle, @"^:(\S+) a brick:(\w+) ;", RegexOptions.Multiline).Select(m => m.Groups[1].Value)];
        Assert.Equal(house.Records.OfType<TaggedRecord>().Select(r => r.Id.Value).Order(StringComparer.Ordinal), subjects);
        Assert.All(Regex.Matches(turtle, @"brick:is\w+ :(\S+)").Select(m => m.Groups[1].Value), s => Assert.Contains(s, subjects));
        Assert.Contains(":room-temp a brick:Zone_Air_Temperature_Sensor ;\n    rdfs:label \"Room temperature\" ;\n    brick:isPointOf :kiln-room .", turtle, StringComparison.Ordinal);
        Assert.Contains(":fan-eq a brick:Exhaust_Fan ;", turtle, StringComparison.Ordinal);
    }

    [Fact]
    public void A_project_leaves_with_its_ids_and_names()
    {
        Project house = Core.Tests.KilnRoom.Project();
        var things = HaystackFormats.Of(house, TagIndex.Full(house));
        Assert.Equal(house.Records.OfType<TaggedRecord>().Count(), things.Count);
        Assert.True(Same(things, HaystackFormats.ReadZinc(HaystackFormats.WriteZinc(things))));
        Assert.Contains(things, t => t.Tags["id"] is RefValue { Id: "fan-cmd", Called: "Extract fan" });
    }

    /// <summary>Whatever names hold, statements written as Turtle are read back the same, in the same order.</summary>
    [Fact]
    public void Statements_come_back_from_Turtle_as_they_went()
    {
        var random = new Random(17);
        const string Letters = "ab \"\\\n\r\t;.:@<>#°é\u0001\u2028🔥";
        string Said() => string.Concat(Enumerable.Range(0, random.Next(12)).Select(_ => Letters[random.Next(Letters.Length)]));
        for (int round = 0; round < 300; round++)
        {
            Statement[] statements = [.. Enumerable.Range(0, random.Next(8)).Select(i => random.Next(2) == 0
                ? new Statement($":r{random.Next(3)}", "rdfs:label", Said(), true)
                : new Statement($":r{random.Next(3)}", random.Next(2) == 0 ? "a" : "brick:isPartOf", random.Next(2) == 0 ? "brick:Room" : $":r-{i}", false))];
            Assert.Equal(statements, HaystackFormats.ReadBrick(HaystackFormats.WriteBrick(statements)));
        }
    }

    [Theory]
    [InlineData(":a a brick:Room .", "Character 3: a prefix for :a is missing here.")]
    [InlineData("@prefix : <urn:x:> .\n:a rdfs:label \"open .", "a prefix for rdfs:label is missing here.")]
    [InlineData("@prefix : <urn:x:> .\n:a :says \"open .", "a quotation mark is missing here.")]
    [InlineData("@prefix : <urn:x:> .\n:a :says \"\\q\" .", "a known escape is missing here.")]
    [InlineData("@prefix : <urn:x:> .\n:a :says :b", "‘.’ is missing here.")]
    [InlineData("@prefix : <urn:x:", "an address that ends with > is missing here.")]
    public void Turtle_that_cannot_be_read_says_where(string text, string sentence) =>
        Assert.EndsWith(sentence, Assert.Throws<FormatException>(() => HaystackFormats.ReadBrick(text)).Message, StringComparison.Ordinal);
}
