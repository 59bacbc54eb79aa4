using FsCheck.Xunit;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Images;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Texts;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Tags;

public class TaggingTests
{
    private static readonly Project House = KilnRoom.Project();

    private static TaggingRule Rule(string name, string condition, params (string Tag, string Value)[] gives) =>
        new() { Id = new(name), Name = name, Condition = condition, Gives = gives.ToDictionary(g => g.Tag, g => g.Value), Order = name[^1] };

    private static IReadOnlyList<DerivedTag> TagsOf(Project project, RecordId id) => TagIndex.Full(project).Explain(project, project.Find<TaggedRecord>(id)!);

    private static bool Has(Project project, RecordId id, string tag) => TagIndex.Full(project)[id][tag] is not null;

    [Fact]
    public void What_a_record_is_and_where_it_is_gives_it_tags()
    {
        var tags = TagsOf(House, FanCommand).ToDictionary(t => t.Name, t => t.Value.ToString());
        Assert.Equal("M", tags["point"]);
        Assert.Equal("M", tags["cmd"]);
        Assert.Equal("@fan-eq \"Extract\"", tags["equipRef"]);
        Assert.Equal("@kiln-room \"Kiln room\"", tags["spaceRef"]);
        Assert.Equal("@site \"Saltmarsh Pottery\"", tags["siteRef"]);
        Assert.Equal("\"Bool\"", tags["kind"]);
        Assert.Equal("\"off,on\"", tags["enum"]);
        var room = TagsOf(House, Room).ToDictionary(t => t.Name, t => t.Value.ToString());
        Assert.Equal(("60m²", "@first \"First floor\"", "M"), (room["area"], room["floorRef"], room["room"]));
        Assert.Equal(["equip", "exhaust", "fan", "hvac"], TagsOf(House, Fan).Where(t => t.Value is MarkerValue).Select(t => t.Name));
    }

    [Theory]
    [InlineData("name contains \"FAN\"", true)]
    [InlineData("name is \"extract fan\"", true)]
    [InlineData("name begins \"fan\"", false)]
    [InlineData("name matches \"*tract ?an\"", true)]
    [InlineData("role is \"command\" and kind is \"binary\"", true)]
    [InlineData("place contains \"first floor\"", true)]
    [InlineData("equipment is \"extract\" and equipmentKind is \"extract fan\"", true)]
    [InlineData("not (record is \"point\") or unit is \"°C\"", false)]
    [InlineData("has cmd and not has sensor", true)]
    public void A_condition_tests_fields_whatever_the_letter_case(string condition, bool holds) =>
        Assert.Equal(holds, Has(Accept(House, Rule("r1", condition, ("fan", "M"))), FanCommand, "fan"));

    [Theory]
    [InlineData("nam is \"x\"", 0, "‘nam’ is no field")]
    [InlineData("name is x", 8, "in quotes")]
    [InlineData("name equals \"x\"", 5, "is no comparison")]
    [InlineData("(name is \"x\"", 12, "is not closed")]
    [InlineData("name is \"x\" and", 15, "A test is missing")]
    public void A_condition_that_cannot_be_read_is_refused_at_the_character(string condition, int at, string says)
    {
        Assert.Equal(at, Assert.Throws<SyntaxException>(() => RuleCondition.Parse(condition)).At);
        Assert.Contains(says, Assert.Single(Refused(House, Edit.Of(Rule("r1", condition, ("fan", "M"))))).Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void A_rule_may_build_on_what_a_later_one_gives()
    {
        Project project = Accept(House, Rule("a1", "has temp and name contains \"room\"", ("zone", "M")), Rule("b2", "unit is \"°C\"", ("temp", "M")));
        DerivedTag zone = TagsOf(project, Temperature).Single(t => t.Name == "zone");
        Assert.Equal((TagOrigin.Rule, new RecordId("a1")), (zone.Origin, zone.RuleId!.Value));
        Assert.Contains("rule ‘a1’", zone.Why, StringComparison.Ordinal);
        Assert.DoesNotContain(TagsOf(project, Limit), t => t.Name == "zone");
    }

    [Fact]
    public void Two_rules_that_disagree_are_a_finding_and_the_first_wins()
    {
        Project project = Accept(House, Rule("a1", "role is \"sensor\"", ("stage", "1")), Rule("b2", "unit is \"°C\"", ("stage", "2")));
        Assert.Equal("1", TagIndex.Full(project)[Temperature]["stage"]!.ToString());
        Finding finding = FindingsIndex.Full(project).All.Single(f => f.Code == "tag-conflict");
        Assert.Equal(Temperature, finding.RecordId);
        Assert.Contains("rule ‘b2’ would give 2", finding.Why, StringComparison.Ordinal);
        Assert.DoesNotContain(FindingsIndex.Full(House).All, f => f.Code == "tag-conflict");
    }

    [Fact]
    public void A_direct_tag_goes_before_every_other_and_no_controller_runs_tags()
    {
        Point fan = House.Find<Point>(FanCommand)!;
        Project project = Accept(House, fan with { Tags = new Dictionary<string, string> { ["dis"] = "\"The fan\"", ["critical"] = "M" } });
        Assert.Equal("\"The fan\"", TagIndex.Full(project)[FanCommand]["dis"]!.ToString());
        var controller = project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!;
        Assert.Equal(ControllerImage.Build(House, controller).ToBytes(), ControllerImage.Build(project, controller).ToBytes());
        Assert.Contains("is not a tag's name", Refused(House, Edit.Of(fan with { Tags = new Dictionary<string, string> { ["Fan"] = "M" } }))[0].Sentence, StringComparison.Ordinal);
        Assert.Contains("cannot be read at character 1", Refused(House, Edit.Of(fan with { Tags = new Dictionary<string, string> { ["fan"] = "yes" } }))[0].Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void A_renamed_floor_changes_the_tags_of_what_is_on_it_and_of_nothing_else()
    {
        Project project = Accept(House, Rule("r1", "place contains \"upper\"", ("upper", "M")));
        TagIndex before = TagIndex.Full(project);
        Assert.Null(before[Temperature]["upper"]);
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(project.Find<Place>(Floor)! with { Name = "Upper floor" })], "engineer", 0));
        TagIndex after = before.After(outcome.After!, outcome.Entry!.Changes);
        Assert.NotNull(after[Temperature]["upper"]);
        Assert.DoesNotContain(Building, after.Derived);
    }

    [Fact]
    public void The_starter_rules_stand_and_name_known_tags()
    {
        Project project = Accept(House, [.. Model.StarterRules]);
        Assert.True(Has(project, Temperature, "temp") && Has(project, Temperature, "zone") && !Has(project, FanCommand, "temp"));
        var known = Model.Definitions.Select(d => d.Name).ToHashSet();
        Assert.All(Model.StarterRules.SelectMany(r => r.Gives.Keys), t => Assert.Contains(t, known));
        Assert.All(TagIndex.Full(project).All.SelectMany(r => r.Value).Select(t => t.Key).Distinct(), t => Assert.Contains(t, known));
    }

    [Fact]
    public void Rules_are_counted_as_their_conditions_hold()
    {
        Project project = Accept(House, [.. Model.StarterRules]);
        var rules = TaggingRules.Of(project);
        Assert.All(rules.Counts(project), c => Assert.Equal(rules.Holding(project, RuleCondition.Parse(project.Find<TaggingRule>(c.Key)!.Condition)).Count(), c.Value));
        // By hand: two points in °C, one of them with “room” in its name.
        Assert.Equal((2, 1), (rules.Counts(project)[new("rule-temperature-by-unit")], rules.Counts(project)[new("rule-room-air")]));
    }

    /// <summary>After any edits, the index kept edit by edit is the one made anew.</summary>
    [Property(MaxTest = 30)]
    public bool Kept_edit_by_edit_it_is_the_same_as_made_anew(int seed)
    {
        var random = new Random(seed);
        Project project = Accept(House, [.. Model.StarterRules]);
        TagIndex kept = TagIndex.Full(project);
        for (int i = 0; i < 12; i++)
        {
            ProjectRecord put = random.Next(6) switch
            {
                0 => project.Find<Place>(Floor)! with { Name = $"Floor {random.Next(100)}" },
                1 => project.Find<Point>(Temperature)! with { Name = $"{(random.Next(2) == 0 ? "Room" : "Supply")} temperature", OwnerId = random.Next(2) == 0 ? Room : Fan },
                2 => project.Find<Equipment>(Fan)! with { Kind = random.Next(2) == 0 ? "extract fan" : "dust extract" },
                3 => Rule("r1", $"name contains \"{(char)('a' + random.Next(26))}\"", ("marked", "M")),
                4 => new Place { Id = new($"x{i}"), Name = $"Extra {i}", Kind = PlaceKind.Room, In = Floor },
                _ => project.Find<Point>(Limit)! with { Tags = new Dictionary<string, string> { ["n"] = random.Next(9).ToString(System.Globalization.CultureInfo.InvariantCulture) } },
            };
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(put)], "engineer", 0));
            if (outcome.After is null) continue;
            project = outcome.After;
            kept = kept.After(project, outcome.Entry!.Changes);
        }
        TagIndex anew = TagIndex.Full(project);
        return anew.All.Count() == kept.All.Count() && anew.All.All(r => kept[r.Key].SameAs(r.Value));
    }
}
