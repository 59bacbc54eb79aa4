using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Tags;
using LoftyWren.Formats.Haystack;

namespace LoftyWren.Formats.Tests.Haystack;

public class ModelIntakeTests
{
    /// <summary>A model as another program would write it, by the open standard's own examples of site, floor, room, equip and point.</summary>
    private const string Foreign = """
        id:@p:pot:r:1
        dis:"Saltmarsh Pottery"
        site
        tz:"London"
        ---
        id:@p:pot:r:2
        dis:"Kiln House"
        space
        building
        siteRef:@p:pot:r:1
        ---
        id:@p:pot:r:3
        dis:"First floor"
        space
        floor
        floorNum:1
        spaceRef:@p:pot:r:2
        ---
        id:@p:pot:r:4
        dis:"Drying room"
        space
        room
        area:49m²
        spaceRef:@p:pot:r:3
        ---
        id:@p:pot:r:5
        dis:"FCU-5"
        equip
        hvac
        fcu
        chilledBeam
        spaceRef:@p:pot:r:4
        ---
        id:@p:pot:r:6
        dis:"Zone temp"
        point
        sensor
        kind:"Number"
        unit:"°C"
        minVal:-10°C
        maxVal:50°C
        zone
        air
        temp
        equipRef:@p:pot:r:5
        ---
        id:@p:pot:r:7
        dis:"Fan run"
        point
        cmd
        kind:"Bool"
        equipRef:@p:pot:r:5
        """;

    private static IReadOnlyList<IReadOnlyDictionary<string, TagValue>> Things(string text) => [.. HaystackFormats.Read(text).Select(t => t.Tags)];

    private static Project Take(Project project, string text)
    {
        IntakePlan plan = ModelIntake.Plan(project, Things(text));
        Assert.Empty(plan.Refusals);
        if (plan.Edits.Count == 0) return project;
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(plan.Edits, "engineer", 0));
        Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
        return outcome.After!;
    }

    [Fact]
    public void A_model_of_another_program_becomes_records_with_the_tags_that_do_not_follow()
    {
        Project project = Take(Project.Empty, Foreign);
        Assert.Equal("Europe/London", project.Site!.TimeZone);
        Place room = project.All<Place>().Single(p => p.Kind == PlaceKind.Room);
        Assert.Equal(("Drying room", 49.0, "Kiln House › First floor"), (room.Name, room.AreaSquareMetres, project.PathOf(room.Id)));
        Equipment coil = Assert.Single(project.All<Equipment>());
        Assert.Equal(("fan-coil", room.Id), (coil.Kind, coil.PlaceId));
        Assert.Equal(["chilledBeam"], coil.Tags!.Keys);
        Point temperature = project.All<Point>().Single(p => p.Role == PointRole.Sensor);
        Assert.Equal((PointKind.Analog, "°C", -10.0, 50.0, coil.Id), (temperature.Kind, temperature.Unit, temperature.Low, temperature.High, temperature.OwnerId));
        Assert.Equal(["air", "temp", "zone"], temperature.Tags!.Keys.Order());
        Assert.Equal(["off", "on"], project.All<Point>().Single(p => p.Role == PointRole.Command).StateTexts);
        Assert.Empty(ModelIntake.Plan(project, Things(Foreign)).Edits);
        // A site that is here already is the site of the model, and keeps its name.
        Project site = Changes.Apply(Project.Empty, new ChangeSet([Edit.Of(new Place { Id = new("site"), Name = "Our site", Kind = PlaceKind.Site, TimeZone = "Europe/London" })], "engineer", 0)).After!;
        Project into = Take(site, Foreign);
        Assert.Equal(("Our site", 7), (into.Site!.Name, into.Count));
    }

    [Theory]
    [InlineData("zinc")]
    [InlineData("trio")]
    [InlineData("json")]
    public void What_left_comes_back_the_same(string form)
    {
        Project project = Changes.Apply(Take(Project.Empty, Foreign), new ChangeSet([.. Model.StarterRules.Select(r => Edit.Of(r))], "engineer", 0)).After!;
        var things = HaystackFormats.Of(project, TagIndex.Full(project));
        string text = form switch { "zinc" => HaystackFormats.WriteZinc(things), "trio" => HaystackFormats.WriteTrio(things), _ => HaystackFormats.WriteJson(things) };
        Assert.Empty(ModelIntake.Plan(project, Things(text)).Edits);
        // Into an empty project it makes records that carry the same tags, rules or no rules.
        Project again = Take(Project.Empty, text);
        Assert.True(HaystackFormats.Same(things, HaystackFormats.Of(again, TagIndex.Full(again))));
    }

    [Theory]
    [InlineData("spaceRef:@p:pot:r:3", "spaceRef:@p:pot:r:1", "room", "A room belongs in a floor; its reference leads to the site ‘Saltmarsh Pottery’")]
    [InlineData("unit:\"°C\"", "unit:\"furlong\"", "point", "unit ‘furlong’ is none of those known here")]
    [InlineData("kind:\"Bool\"", "kind:\"Str\"", "point", "fewer than two states")]
    [InlineData("kind:\"Bool\"", "cool", "point", "does not say of which kind")]
    [InlineData("equipRef:@p:pot:r:5", "equipRef:@p:pot:r:99", "point", "neither in the file nor in the project")]
    [InlineData("id:@p:pot:r:7", "id:@p:pot:r:6", "thing", "Another thing before it has the id")]
    [InlineData("tz:\"London\"", "tz:\"Atlantis\"", "site", "the city of no time zone")]
    public void What_cannot_be_a_record_is_left_out_and_says_why(string text, string by, string noun, string why)
    {
        IntakePlan plan = ModelIntake.Plan(Project.Empty, Things(Foreign.Replace(text, by, StringComparison.Ordinal)));
        Assert.Contains(plan.Lines, l => l.Verdict == "left out" && l.Noun == noun && l.Why.Contains(why, StringComparison.Ordinal));
        Assert.Equal(7, plan.Lines.Count);
    }

    [Fact]
    public void Whatever_is_missing_every_thing_is_accounted_for()
    {
        var random = new Random(17);
        for (int round = 0; round < 300; round++)
        {
            var things = Things(Foreign).Where(_ => random.Next(8) > 0)
                .Select(t => (IReadOnlyDictionary<string, TagValue>)t.Where(_ => random.Next(10) > 0).ToDictionary(x => x.Key, x => x.Value)).ToList();
            IntakePlan plan = ModelIntake.Plan(Project.Empty, things);
            Assert.Equal(things.Count, plan.Lines.Count);
            Assert.Equal(plan.Edits.Count, plan.Lines.Count(l => l.Verdict is "adds" or "changes"));
            if (plan.Edits.Count > 0 && plan.Refusals.Count == 0) Assert.True(Changes.Apply(Project.Empty, new ChangeSet(plan.Edits, "engineer", 0)).Accepted);
        }
    }
}
