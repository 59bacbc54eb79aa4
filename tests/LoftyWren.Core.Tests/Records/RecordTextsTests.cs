using System.Text.Json.Nodes;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Records;

/// <summary>Every text of every record has its limit, and none holds what nobody sees.</summary>
public class RecordTextsTests
{
    private static readonly Project House = Accept(Project(),
        Edit.Of(((Point)Project().Find(Temperature)!) with { Description = "d", Tags = new Dictionary<string, string> { ["zone"] = "M" } }, 1),
        Edit.Of(((Equipment)Project().Find(Fan)!) with { Placed = new Placement("t", "name", 1, new Dictionary<string, string> { ["gain"] = "7" }) }, 1),
        Edit.Of(((Sequence)Project().Find(KilnRoom.Sequence)!) with { Clauses = [new Clause { Id = "c", Text = "It runs.", Blocks = ["high"] }] }, 1),
        Edit.Of(((Schedule)Project().Find(Hours)!) with { Exceptions = [new ExceptionDates { Name = "stocktake", From = "2026-05-01" }] }, 1),
        Edit.Of(new TaggingRule { Id = new("rule"), Name = "rule", Condition = "role is \"sensor\"", Gives = new Dictionary<string, string> { ["sensor"] = "M" } }),
        Edit.Of(new Core.Alarms.AlarmRule { Id = new("alarm"), Name = "alarm", PointId = Temperature, HighLimit = 30, Advice = "Look." }),
        Edit.Of(new Core.Names.NamingConvention { Id = Core.Names.NamingConvention.Empty.Id, Name = Core.Names.NamingConvention.Empty.Name, Words = ["raku"], Abbreviations = new Dictionary<string, string> { ["Temperature"] = "Temp" } }));

    // One text after the other, of every record there is, made 100 000 letters long: each is refused, whatever it is.
    [Fact]
    public void No_text_of_any_record_takes_a_hundred_thousand_letters()
    {
        int tried = 0;
        foreach (ProjectRecord record in House.Records)
        {
            foreach (object[] path in Paths(JsonNode.Parse(RecordJson.Write(record)), []).ToList())
            {
                JsonNode body = JsonNode.Parse(RecordJson.Write(record))!, at = body;
                foreach (object step in path[..^1]) at = step is int i ? at[i]! : at[(string)step]!;
                string text = new('y', 100_000);
                if (path[^1] is int last) at[last] = text;
                else at[(string)path[^1]] = text;
                tried++;
                try
                {
                    Assert.False(Changes.Apply(House, new ChangeSet([Edit.Of(RecordJson.Read(body.ToJsonString()))], "engineer", 0)).Accepted, $"{record.Id}: {string.Join('.', path)}");
                }
                catch (System.Text.Json.JsonException)
                {
                    // A text that is one of several words or an id is refused before it is a record.
                }
            }
        }
        Assert.InRange(tried, 80, 1000);

        static IEnumerable<object[]> Paths(JsonNode? node, object[] path) => node switch
        {
            JsonObject table => table.SelectMany(p => Paths(p.Value, [.. path, p.Key])),
            JsonArray list => list.SelectMany((m, i) => Paths(m, [.. path, i])),
            JsonValue value when value.TryGetValue(out string? _) && path is not ["type"] and not ["id"] => [path],
            _ => [],
        };
    }

    [Theory]
    [InlineData("Kiln\u202eroom", "U+202E")]
    [InlineData("Kiln\u200broom", "U+200B")]
    [InlineData("\ufeffKiln room", "U+FEFF")]
    [InlineData("Kiln\u2028room", "U+2028")]
    [InlineData("Kiln\u00adroom", "U+00AD")]
    public void A_name_holds_nothing_that_cannot_be_seen(string name, string which)
    {
        var room = (Core.Places.Place)House.Find(Room)!;
        Assert.Contains(Refused(House, Edit.Of(room with { Name = name })), r => r.Field == "name" && r.Sentence.Contains(which, StringComparison.Ordinal));
        Assert.Contains("U+D83D", RecordTexts.Unseen("Kiln " + '\ud83d'));
        Accept(House, Edit.Of(room with { Name = "Café कमरा 🔥 क्\u200dष" }));
    }

    [Fact]
    public void Other_texts_refuse_marks_that_turn_directions_and_lines_where_there_are_none()
    {
        var point = (Point)House.Find(Temperature)!;
        Refuses(House, point with { Description = "a\u202eb" }, "description", "‘description’ holds a mark that turns the direction of what follows (U+202E). Remove it.");
        Accept(House, Edit.Of(point with { Description = "two\nlines" }));
        var fan = (Equipment)House.Find(Fan)!;
        Refuses(House, fan with { Placed = fan.Placed! with { TemplateName = "a\nb" } }, "placed", "‘placed.templateName’ holds a line break. Remove it.");
        Refuses(House, fan with { Placed = fan.Placed! with { Values = new Dictionary<string, string> { ["gain"] = new string('7', 300) } } }, "placed", "‘placed.values’ has 300 characters; it has at most 200.");
    }
}
