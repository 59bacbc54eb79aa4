using LoftyWren.Core.Places;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Templates;

/// <summary>Three studios, each with its own room temperature; a heater whose loop reads the room's temperature, a schedule and runs on a controller.</summary>
public class PlacingWordsTests
{
    private static readonly Project House = Accept(KilnRoom.Project(), [.. "abc".SelectMany(c => new ProjectRecord[]
    {
        new Place { Id = new($"{c}"), Name = $"Studio {char.ToUpperInvariant(c)}", Kind = PlaceKind.Room, In = Floor },
        new Point { Id = new($"{c}-temp"), Name = "Room temperature", OwnerId = new($"{c}"), Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
    })]);

    private static readonly Template Heater = new()
    {
        Id = "heater",
        Name = "Heater",
        Parameters = [new TemplateParameter("setpoint", "Setpoint wanted", ParameterKind.Number, "20", "°C", 5, 30)],
        Bindings = [new TemplateBinding(new("t-sp"), "fallback", "setpoint")],
        Externals = [new TemplateExternal(new("t-x1"), "point", "Room temperature (Kiln House › First floor › Kiln room)"), new TemplateExternal(new("t-x2"), "schedule", "Opening hours"), new TemplateExternal(new("t-x3"), "controller", "KH-C1")],
        Records =
        [
            new Equipment { Id = new("t-root"), Name = "{name}", Kind = "fan-coil", PlaceId = Template.Parent },
            new Point { Id = new("t-sp"), Name = "Setpoint", OwnerId = new("t-root"), Kind = PointKind.Analog, Role = PointRole.Setpoint, Unit = "°C", Low = 5, High = 30, Fallback = 20 },
            new Sequence
            {
                Id = new("t-seq"), Name = "{name}", EquipmentId = new("t-root"), ControllerId = new("t-x3"),
                Blocks =
                [
                    new Block { Id = "aim", Kind = BlockKind.Sel, Inputs = new Dictionary<string, Source> { ["g"] = new ScheduleSource(new("t-x2")), ["in0"] = new ConstantSource(15, "°C"), ["in1"] = new PointSource(new("t-sp")) } },
                    new Block { Id = "loop", Kind = BlockKind.Pid, Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(new("t-x1")), ["setpoint"] = new BlockSource("aim") } },
                ],
            },
        ],
    };

    private static (IReadOnlyList<ProjectRecord> Records, string? Refusal) Place(string words, string room = "a") =>
        PlacingWords.Place(House, Heater, "Heater", House.Find<Place>(new(room))!, new("heat"), words);

    private static RecordId? Measured(IEnumerable<ProjectRecord> records) =>
        records.OfType<Sequence>().Single().Blocks.Single(b => b.Id == "loop").Inputs.GetValueOrDefault("measured") is PointSource p ? p.PointId : null;

    [Fact]
    public void Words_set_parameters_and_lead_references_by_name_by_id_or_to_what_is_nearest()
    {
        var (records, refusal) = Place("setpoint wanted = 22.5; Room temperature = here; Opening hours = opening hours; KH-C1 = kh-c1");
        Assert.Null(refusal);
        Sequence sequence = records.OfType<Sequence>().Single();
        Assert.Equal((22.5, new RecordId("a-temp"), Hours, KilnRoom.Controller), (records.OfType<Point>().Single().Fallback!.Value, Measured(records)!.Value, ((ScheduleSource)sequence.Blocks[0].Inputs["g"]).ScheduleId, sequence.ControllerId!.Value));
        Assert.Equal(["heat", "heat-seq", "heat-sp"], records.Select(r => r.Id.Value).Order(StringComparer.Ordinal));
        // The placement remembers what was said, so that it equals its template now and later.
        Project placed = Accept(House, [.. records]);
        Assert.Empty(Placing.Compare(placed, placed.Find<Equipment>(new("heat"))!, Heater, Heater));
    }

    [Fact]
    public void What_is_not_said_keeps_its_default_or_stays_open()
    {
        var (records, refusal) = Place("");
        Assert.Null(refusal);
        Assert.Equal((20.0, null, null), (records.OfType<Point>().Single().Fallback!.Value, Measured(records), records.OfType<Sequence>().Single().ControllerId));
    }

    [Theory]
    [InlineData("setpoint", "‘setpoint’ says nothing: write what, an equals sign and a value, such as setpoint = 21.")]
    [InlineData("setpoint =", "‘setpoint =’ says nothing: write what, an equals sign and a value, such as setpoint = 21.")]
    [InlineData("setpoint = warm", "‘warm’ is no number for ‘Setpoint wanted’. Write digits, such as 20.")]
    [InlineData("setpoint = 31", "31 °C is out of range for ‘Setpoint wanted’: 5 to 30 °C.")]
    [InlineData("gain = 3", "‘Heater’ has nothing called ‘gain’. It has setpoint, Room temperature, Opening hours, KH-C1.")]
    [InlineData("Opening hours = night hours", "There is no schedule called ‘night hours’ in the project.")]
    [InlineData("Opening hours = kh-c1", "‘kh-c1’ is a controller, but ‘Opening hours (x)’ is a schedule.")]
    [InlineData("Room temperature = Room temperature", "There are several points called ‘Room temperature’. Give the id of the one that is meant, or ‘here’ for the nearest.")]
    public void What_cannot_be_is_said(string words, string sentence) => Assert.Equal(sentence.Replace(" (x)", "", StringComparison.Ordinal), Place(words).Refusal);

    [Fact]
    public void The_very_record_that_a_template_was_taken_with_is_known_among_many_of_its_name()
    {
        ProjectRecord[] more = [.. Enumerable.Range(0, 40).SelectMany(i => new ProjectRecord[]
        {
            new Place { Id = new($"more-{i}"), Name = $"Cell {i}", Kind = PlaceKind.Room, In = House.Find<Place>(new("b"))!.ParentId },
            new Point { Id = new($"more-{i}-t"), Name = "Room temperature", OwnerId = new($"more-{i}"), Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
        })];
        Project project = Accept(House, more);
        foreach (int i in (int[])[0, 17, 39])
            Assert.Equal($"more-{i}-t", PlacingWords.Origin(project, new TemplateExternal(new("t-x1"), "point", $"Room temperature ({project.PathOf(new($"more-{i}-t"))})"))?.Id.Value);
        // Another place, or another sort of that name, is not the very one.
        Assert.Null(PlacingWords.Origin(project, new TemplateExternal(new("t-x1"), "point", "Room temperature (Elsewhere)")));
        Assert.Null(PlacingWords.Origin(project, new TemplateExternal(new("t-x1"), "schedule", $"Room temperature ({project.PathOf(new("more-0-t"))})")));
    }

    [Fact]
    public void The_nearest_is_looked_for_from_the_place_outward_and_two_are_none()
    {
        (RecordId? To, string Why) Nearest(Project project, string room, string noun, string name) => PlacingWords.Namesake(project, project.Find<Place>(new(room))!, new TemplateExternal(new("t-x1"), noun, name));
        Assert.Equal(new RecordId("b-temp"), Nearest(House, "b", "point", "room TEMPERATURE").To);
        // The schedule belongs to the site, three places further out.
        Assert.Equal(Hours, Nearest(House, "b", "schedule", "Opening hours").To);
        // In the kiln room the limit belongs to equipment; seen from studio B it is in another room and so not near.
        Assert.Equal(Limit, Nearest(House, "kiln-room", "point", "High limit").To);
        Assert.Equal("Studio B has no point called ‘High limit’. Add one, lead this reference elsewhere, or leave it open.", Nearest(House, "b", "point", "High limit").Why);
        // A name may hold parentheses of its own; where it was, in parentheses after it, is none of it.
        Project named = Accept(House, new Point { Id = new("odd"), Name = "Temperature (wall)", OwnerId = new("b"), Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" });
        Assert.Equal(new RecordId("odd"), Nearest(named, "b", "point", "Temperature (wall)").To);
        Assert.Equal(new RecordId("odd"), Nearest(named, "b", "point", "Temperature (wall) (Kiln House › First floor)").To);
        Project twice = Accept(House, new Equipment { Id = new("e"), Name = "Sensor box", Kind = "other", PlaceId = new("b") },
            new Point { Id = new("e-temp"), Name = "Room temperature", OwnerId = new("e"), Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" });
        Assert.Equal("Studio B has several points called ‘Room temperature’. Name the one by its id, or lead this reference elsewhere.", Nearest(twice, "b", "point", "Room temperature").Why);
    }

    [Fact]
    public void One_placing_leads_each_placement_to_its_own_room()
    {
        PlacingRequest request = new([new("a"), new("b"), new("c")], 1, "Heater {n}", Namesakes: [new("t-x1"), new("t-x2")]);
        PlacingPlan plan = Placing.Plan(House, Heater, request);
        Assert.Empty(plan.Refusals);
        Assert.Equal(["a-temp", "b-temp", "c-temp"], plan.Records.OfType<Sequence>().Select(s => Measured([s])!.Value.Value));
        // The preview names every record that will be made, and there is no other.
        Assert.Equal(["equipment Heater 2", "point Setpoint", "sequence Heater 2"], plan.Rows[1].Records);
        Assert.Equal(plan.Records.Count, plan.Rows.Sum(r => r.Records.Count));
        PlacingPlan without = Placing.Plan(House, Heater, request with { Places = [new("a"), Room, Building] });
        Assert.Contains("Kiln House has no point called ‘Room temperature’. Add one, lead this reference elsewhere, or leave it open.", without.Refusals);
    }

    [Fact]
    public void A_stop_ends_a_placing_before_anything_is_made()
    {
        var seen = new List<int>();
        Assert.Throws<OperationCanceledException>(() => Placing.Plan(House, Heater, new([new("a"), new("b")], 100, "H {n}"), done =>
        {
            seen.Add(done);
            if (done >= 100) throw new OperationCanceledException();
        }));
        Assert.Equal([0, 50, 100], seen);
    }

    [Fact]
    public void A_list_places_with_values_and_the_id_it_gives_and_twice_changes_nothing()
    {
        Sheet sheet = new("list", [["Building", "Floor", "Room", "Equipment", "Template", "Values", "Id"], ["Kiln House", "First floor", "Studio A", "Heater", "Heater", "setpoint = 18; Room temperature = here", "heat-a"], ["Kiln House", "First floor", "Studio B", "Heater", "Heater", "setpoint = 99", "heat-b"]]);
        ImportPlan plan = ListImport.Plan(House, sheet, ListMapping.Propose(sheet), (_, name, place, id, values) => PlacingWords.Place(House, Heater, name, place, id, values));
        BadCell bad = Assert.Single(plan.BadCells);
        Assert.Equal((3, "99 °C is out of range for ‘Setpoint wanted’: 5 to 30 °C."), (bad.Row, bad.Sentence));
        Project placed = Accept(House, [.. plan.Edits]);
        Assert.Equal((18.0, new RecordId("a-temp")), (placed.Find<Point>(new("heat-a-sp"))!.Fallback!.Value, Measured([placed.Find<Sequence>(new("heat-a-seq"))!])!.Value));
        Sheet again = sheet with { Rows = [.. sheet.Rows.Take(2)] };
        Assert.Empty(ListImport.Plan(placed, again, ListMapping.Propose(again), (_, _, _, _, _) => throw new InvalidOperationException("It is there already.")).Edits);
    }
}
