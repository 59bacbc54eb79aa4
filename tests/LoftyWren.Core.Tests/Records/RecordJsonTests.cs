using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Records;

public class RecordJsonTests
{
    private static readonly Project House = Accept(KilnRoom.Project(),
        new TrendLog { Id = new("tr"), Name = "Room temperature", PointId = Temperature },
        new AlarmRule { Id = new("al"), Name = "Too warm", PointId = Temperature, HighLimit = 30, Advice = "Open the hood damper." },
        new TaggingRule { Id = new("tagging"), Name = "Sensors", Condition = "role is \"sensor\"", Gives = new Dictionary<string, string> { ["sensor"] = "M" } },
        new Silence { Id = new("si"), Name = "Spare", OnId = Fan, FindingKey = "key", Reason = "Comes later.", Who = "engineer" },
        NamingConvention.Empty with { Rules = [new NamingRule { For = "room", Pattern = "{name}", Letters = "letters space" }], Abbreviations = new Dictionary<string, string> { ["temperature"] = "temp" } },
        KilnRoom.Project().Find<Sequence>(KilnRoom.Sequence)! with { Clauses = [new Clause { Id = "a", Text = "The fan starts above the high limit.", Blocks = ["high"], Outputs = [FanCommand] }] });

    [Fact]
    public void Every_sort_of_record_comes_back_as_it_was()
    {
        Assert.Equal(12, House.Records.Select(r => r.GetType()).Distinct().Count());
        Assert.All(House.Records, r => Assert.True(RecordJson.Same(r, RecordJson.Read(RecordJson.Write(r))), r.Id.Value));
    }

    [Theory]
    [InlineData("{\"type\":\"point\",\"id\":\"a\",\"name\":null,\"ownerId\":\"b\",\"kind\":\"analog\",\"role\":\"sensor\"}")]
    [InlineData("{\"type\":\"point\",\"id\":\"a\",\"name\":\"A\",\"ownerId\":\"b\",\"kind\":\"analog\",\"role\":\"sensor\",\"stateTexts\":null}")]
    [InlineData("{\"type\":\"point\",\"id\":\"a\",\"name\":\"A\",\"ownerId\":\"b\",\"kind\":\"analog\"}")]
    [InlineData("{\"type\":\"schedule\",\"id\":\"a\",\"name\":\"A\",\"placeId\":\"b\",\"drives\":[{\"priority\":3}]}")]
    [InlineData("{\"id\":\"a\",\"name\":\"A\"}")]
    [InlineData("null")]
    public void A_gap_or_a_null_where_there_is_none_is_an_error_and_no_record(string json) => Assert.Throws<JsonException>(() => RecordJson.Read(json));

    /// <summary>
    /// Whatever is written into one field of a record: it is no JSON of a record, or the project answers — takes it, and can
    /// then be checked, or says why not. Nothing else may come out.
    /// </summary>
    [Fact]
    public void One_wrong_value_anywhere_is_answered_and_never_thrown()
    {
        JsonNode?[] values = [null, "", " ", "x", "kiln-room", "room-temp", -1, 0, 1e308, 9007199254740993, true, new JsonArray(), new JsonArray((JsonNode?)null), new JsonArray("x", "x"), new JsonObject(), new JsonObject { ["x"] = "y" }];
        int taken = 0, refused = 0, unreadable = 0;
        foreach (ProjectRecord record in House.Records)
        {
            JsonNode whole = JsonSerializer.SerializeToNode(record, RecordJson.Options)!;
            foreach (string path in Paths(whole).ToList())
            {
                foreach (JsonNode? value in values)
                {
                    JsonNode changed = whole.DeepClone();
                    Set(changed, path.Split('/'), value?.DeepClone());
                    ProjectRecord read;
                    try
                    {
                        read = RecordJson.Read(changed.ToJsonString());
                    }
                    catch (JsonException)
                    {
                        unreadable++;
                        continue;
                    }
                    ChangeOutcome outcome = Changes.Apply(House, new ChangeSet([Edit.Of(read)], "engineer", 0));
                    if (outcome.After is not { } after)
                    {
                        Assert.All(outcome.Refusals, r => Assert.False(string.IsNullOrWhiteSpace(r.Sentence)));
                        Assert.NotEmpty(outcome.Refusals);
                        refused++;
                        continue;
                    }
                    taken++;
                    Assert.NotNull(FindingsIndex.Full(after));
                    Assert.True(RecordJson.Same(after.Find(read.Id)!, RecordJson.Read(RecordJson.Write(read))));
                }
            }
        }
        // All three ways are met often, or the test would prove little.
        Assert.True(taken > 200 && refused > 200 && unreadable > 500, $"{taken} taken, {refused} refused, {unreadable} unreadable");
    }

    private static IEnumerable<string> Paths(JsonNode node, string at = "")
    {
        IEnumerable<(string Key, JsonNode? Value)> parts = node switch
        {
            JsonObject o => o.Select(p => (p.Key, p.Value)),
            JsonArray a => a.Select((v, i) => (i.ToString(System.Globalization.CultureInfo.InvariantCulture), v)),
            _ => [],
        };
        foreach (var (key, value) in parts)
        {
            if (key is "id" && at.Length == 0) continue;
            yield return at + key;
            if (value is null) continue;
            foreach (string below in Paths(value, $"{at}{key}/")) yield return below;
        }
    }

    private static void Set(JsonNode node, string[] path, JsonNode? value)
    {
        foreach (string part in path[..^1]) node = node is JsonArray list ? list[int.Parse(part, System.Globalization.CultureInfo.InvariantCulture)]! : node[part]!;
        if (node is JsonArray array) array[int.Parse(path[^1], System.Globalization.CultureInfo.InvariantCulture)] = value;
        else node[path[^1]] = value;
    }
}
