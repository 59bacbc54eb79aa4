using LoftyWren.Core.Alarms;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Templates;

public class TemplateTests
{
    private static readonly Project House = Accept(KilnRoom.Project(),
        new Place { Id = new("a"), Name = "Throwing studio", ShortName = "TS", Kind = PlaceKind.Room, In = Floor },
        new Place { Id = new("b"), Name = "Packing room", Kind = PlaceKind.Room, In = Floor });

    private static Template Shipped(string id) => StarterLibrary.Templates.Single(t => t.Id == id);

    private static Project Apply(Project project, IReadOnlyList<Edit> edits) => Accept(project, [.. edits]);

    private static (Project Project, Equipment Placed) Place(Template template, params (string, string)[] values)
    {
        PlacingPlan plan = Placing.Plan(House, template, new PlacingRequest([new("a")], 1, "{room} unit", values.ToDictionary(v => v.Item1, v => v.Item2)));
        Assert.Empty(plan.Refusals);
        Project project = Accept(House, [.. plan.Records]);
        return (project, project.All<Equipment>().Single(e => e.Name == "Throwing studio unit"));
    }

    public static TheoryData<string> All() => [.. StarterLibrary.Templates.Select(t => t.Id)];

    [Theory]
    [MemberData(nameof(All))]
    public void Every_shipped_template_can_be_placed_and_names_known_tags_and_parameters(string id)
    {
        Template template = Shipped(id);
        var (project, placed) = Place(template);
        Assert.Equal((id, 1), (placed.Placed!.TemplateId, placed.Placed.Revision));
        Assert.Equal(template.Records.Count, project.Count - House.Count);
        var known = Model.Definitions.Select(d => d.Name).ToHashSet();
        Assert.All(template.Records.OfType<TaggedRecord>().SelectMany(r => r.TemplateTags?.Keys ?? []), t => Assert.Contains(t, known));
        Assert.All(template.Bindings, b => Assert.Contains(template.Parameters, p => p.Name == b.Parameter));
        Assert.All(template.Parameters, p => Assert.Contains(template.Bindings, b => b.Parameter == p.Name));
        Assert.All(template.Parameters, p => Assert.Null(p.Refuse(p.Default)));
        Assert.Empty(Placing.Compare(project, placed, template, template));
    }

    [Fact]
    public void The_starter_library_holds_what_a_small_building_needs() => Assert.Equal(
        ["ahu-mixed", "blinds", "boiler-pair", "extract-limit", "fcu-2", "fcu-4", "heat-pump", "kiln", "lights-dimmed", "lights-switched", "meter-elec", "room-humid", "store-presence", "zone-co2"],
        StarterLibrary.Templates.Select(t => t.Id).Order(StringComparer.Ordinal));

    [Fact]
    public void Values_go_where_they_are_bound_and_names_and_tags_come_along()
    {
        var (project, placed) = Place(Shipped("extract-limit"), ("limit", "31.5"));
        Point limit = project.Find<Point>(Template.PlacedId(placed.Id, new("t-hl")))!;
        Assert.Equal(31.5, limit.Fallback);
        Assert.Equal(31.5, project.All<AlarmRule>().Single(a => a.Name == "Too warm").HighLimit);
        DerivedTag exhaust = TagIndex.Full(project).Explain(project, limit).Single(t => t.Name == "exhaust");
        Assert.Equal(TagOrigin.Template, exhaust.Origin);
    }

    [Fact]
    public void Names_count_over_all_places_and_within_one()
    {
        PlacingPlan plan = Placing.Plan(House, Shipped("lights-switched"), new PlacingRequest([new("a"), new("b")], 2, "{short} L{nn} {floor} {k}"));
        Assert.Equal(["TS L01 First floor 1", "TS L02 First floor 2", "Packing room L03 First floor 1", "Packing room L04 First floor 2"], plan.Rows.Select(r => r.Name));
        Assert.Equal(4 * Shipped("lights-switched").Records.Count, plan.Records.Count);
    }

    [Fact]
    public void A_row_has_its_own_values_and_a_bad_one_is_named()
    {
        var own = new Dictionary<int, IReadOnlyDictionary<string, string>> { [1] = new Dictionary<string, string> { ["setpoint"] = "23" } };
        PlacingPlan plan = Placing.Plan(House, Shipped("fcu-4"), new PlacingRequest([new("a"), new("b")], 1, "FCU {n}", null, own));
        Assert.Equal([20.0, 23.0], plan.Records.OfType<Point>().Where(p => p.Name == "Setpoint").Select(p => p.Fallback!.Value));
        own = new() { [1] = new Dictionary<string, string> { ["setpoint"] = "90" } };
        plan = Placing.Plan(House, Shipped("fcu-4"), new PlacingRequest([new("a"), new("b")], 1, "FCU {n}", null, own));
        Assert.Equal("FCU 2 in Kiln House › First floor › Packing room: 90 °C is out of range for ‘Setpoint’: 5 to 35 °C.", Assert.Single(plan.Refusals));
    }

    [Fact]
    public void What_the_project_would_refuse_is_told_before_anything_is_made()
    {
        PlacingPlan plan = Placing.Plan(House, Shipped("lights-switched"), new PlacingRequest([Room], 2, "Same name"));
        Assert.Contains("There is already equipment called ‘Same name’", Assert.Single(plan.Refusals), StringComparison.Ordinal);
        Assert.Equal("Choose at least one place.", Placing.Plan(House, Shipped("kiln"), new PlacingRequest([], 1, "x")).Refusals[0]);
    }

    [Fact]
    public void A_newer_revision_comes_in_and_local_changes_stay_unless_given_up()
    {
        Template first = Shipped("fcu-4");
        var (project, placed) = Place(first, ("setpoint", "21"));
        RecordId window = Template.PlacedId(placed.Id, new("t-win")), heating = Template.PlacedId(placed.Id, new("t-hv"));
        // On site the window contact was named otherwise; in revision 2 it gets a description, the valve a limit, and a point is new.
        project = Accept(project, project.Find<Point>(window)! with { Name = "Window contact" });
        Template second = first with
        {
            Revision = 2,
            Records = [.. first.Records.Select(r => r.Id.Value switch { "t-win" => (Point)r with { Name = "Window open", Description = "Seen from inside" }, "t-hv" => (Point)r with { High = 90 }, _ => r }),
                new Point { Id = new("t-new"), Name = "Filter", OwnerId = new("t-root"), Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["clean", "dirty"] }],
        };
        var differences = Placing.Compare(project, placed, first, second);
        Assert.Equal([("high", "100", "90", false)], differences.Where(d => d.RecordId == heating).Select(d => (d.Field, d.Here, d.Template, d.IsLocal)));
        Assert.Equal([("description", false), ("name", true)], differences.Where(d => d.RecordId == window).Select(d => (d.Field, d.IsLocal)).Order());
        Project kept = Apply(project, Placing.Update(project, placed, first, second, new HashSet<string>()));
        Assert.Equal(("Window contact", "Seen from inside"), (kept.Find<Point>(window)!.Name, kept.Find<Point>(window)!.Description));
        Assert.Equal(90, kept.Find<Point>(heating)!.High);
        Assert.NotNull(kept.Find(Template.PlacedId(placed.Id, new("t-new"))));
        Equipment now = kept.Find<Equipment>(placed.Id)!;
        Assert.Equal((2, "21"), (now.Placed!.Revision, now.Placed.Values["setpoint"]));
        Project given = Apply(project, Placing.Update(project, placed, first, second, new HashSet<string> { $"{window}/name" }));
        Assert.Equal("Window open", given.Find<Point>(window)!.Name);
        Assert.Empty(Placing.Compare(given, given.Find<Equipment>(placed.Id)!, second, second));
    }

    [Fact]
    public void Finished_equipment_becomes_a_template_that_makes_the_same_again()
    {
        var left = new List<string>();
        Template template = Capture.Of(KilnRoom.Project(), Fan, "mine", "Kiln extract", left);
        Assert.Equal(["‘Extract fan’ is on KH-C1 RO1, which is not part of it: its terminal is left open.", "‘High limit’ is on KH-C1 value, which is not part of it: its terminal is left open."], left.Order());
        Assert.Equal([("controller", "KH-C1 (Kiln House › First floor › Kiln room)"), ("point", "Room temperature (Kiln House › First floor › Kiln room)")], template.Externals.Select(e => (e.Noun, e.Name)).Order());
        Assert.Contains(Capture.Variables(template), v => v is { Words: "Kiln room extract › blocks 1 › numbers › differential", Path: "blocks.0.numbers.differential", Value: "2" });
        Template varied = template with { Parameters = [new("diff", "Differential", ParameterKind.Number, "2", "K", 0.5, 5)], Bindings = [new(template.Records.OfType<Sequence>().Single().Id, "blocks.0.numbers.differential", "diff")] };
        TemplateExternal temperature = template.Externals.Single(e => e.Noun == "point");
        PlacingPlan plan = Placing.Plan(House, varied, new PlacingRequest([new("a")], 1, "Second extract", new Dictionary<string, string> { ["diff"] = "1.5" }, null, new Dictionary<RecordId, RecordId> { [temperature.Id] = Temperature }));
        Assert.Empty(plan.Refusals);
        Sequence sequence = plan.Records.OfType<Sequence>().Single();
        Assert.Null(sequence.ControllerId);
        Assert.Equal(1.5, sequence.Blocks[0].Numbers["differential"]);
        Assert.Equal(new PointSource(Temperature), sequence.Blocks[0].Inputs["measured"]);
        // What it was led to belongs to the placement: it is no difference from the template.
        Project with = Apply(House, [.. plan.Records.Select(r => Edit.Of(r))]);
        Equipment placed = plan.Records.OfType<Equipment>().Single();
        Assert.Empty(Placing.Compare(with, placed, varied, varied));
        Assert.Equal(plan.Records.OfType<Point>().Single(p => p.Name == "High limit").Id, ((PointSource)sequence.Blocks[0].Inputs["limit"]).PointId);
    }

    [Fact]
    public void A_reference_outward_that_nobody_resolves_is_left_open()
    {
        Template template = Capture.Of(KilnRoom.Project(), Fan, "mine", "Kiln extract", []);
        Sequence sequence = Placing.Plan(House, template, new PlacingRequest([new("a")], 1, "Second extract")).Records.OfType<Sequence>().Single();
        Assert.DoesNotContain("measured", sequence.Blocks[0].Inputs.Keys);
    }

    [Fact]
    public void A_floor_is_copied_with_all_on_it_and_what_becomes_of_its_links_is_told()
    {
        Project project = KilnRoom.Project();
        CopyPlan plan = Copying.Plan(project, Floor, 2, "Floor {n}");
        Assert.Empty(plan.Refusals);
        Assert.Equal(["Floor 2", "Floor 3"], plan.Names);
        Project after = Accept(project, [.. plan.Records]);
        Place[] floors = [.. after.All<Place>().Where(p => p.Kind == PlaceKind.Floor).OrderBy(p => p.Order)];
        Assert.Equal([("First floor", 1), ("Floor 2", 2), ("Floor 3", 3)], floors.Select(f => (f.Name, f.Order)));
        // Room, equipment, three points, controller, three terminals and the sequence come along, twice; the opening hours are the site's.
        Assert.Equal(2 * 11, plan.Records.Count);
        Assert.Equal(["KH-C1", "KH-C1-2", "KH-C1-3"], after.All<Core.Hardware.Controller>().OrderBy(c => c.Name).Select(c => c.Name));
        Assert.Equal([2101, 2102, 2103], after.All<Core.Hardware.Controller>().Select(c => c.DeviceInstance).Order());
        Assert.Contains("proposed: controller KH-C1-2 with device instance 2102", plan.Notes);
        Sequence copy = after.All<Sequence>().First(s => s.Id != KilnRoom.Sequence);
        Assert.NotEqual(KilnRoom.Controller, copy.ControllerId);
        Assert.NotEqual(FanCommand, copy.Commands[0].PointId);
        Assert.Equal(after.PathOf(copy.Id), after.PathOf(copy.Commands[0].PointId));
        Assert.Contains("Put {n} into the name", Copying.Plan(project, Floor, 2, "Same").Refusals[0], StringComparison.Ordinal);
    }

    [Fact]
    public void Copied_equipment_reads_what_the_original_reads_and_commands_only_its_own()
    {
        CopyPlan plan = Copying.Plan(KilnRoom.Project(), Fan, 1, "{name} {n}");
        Assert.Empty(plan.Refusals);
        Sequence copy = plan.Records.OfType<Sequence>().Single();
        Assert.Equal(new PointSource(Temperature), copy.Blocks[0].Inputs["measured"]);
        Assert.Null(copy.ControllerId);
        Assert.Contains(plan.Notes, n => n.StartsWith("kept: point Room temperature", StringComparison.Ordinal));
        Assert.Contains(plan.Notes, n => n.StartsWith("open: controller KH-C1", StringComparison.Ordinal));
    }

    public static TheoryData<string, Template> Unsound()
    {
        Template good = Shipped("extract-limit");
        return new TheoryData<string, Template>
        {
            { "begin with t-", good with { Records = [.. good.Records, new Point { Id = new("stray"), Name = "Stray", OwnerId = new("t-root"), Kind = PointKind.Analog, Role = PointRole.Value }] } },
            { "each once", good with { Records = [.. good.Records, good.Records[1]] } },
            { "needs 1 to 5000", good with { Records = [] } },
            { "does not fit", good with { Parameters = [good.Parameters[0] with { Default = "warm" }] } },
            { "that it does not have", good with { Bindings = [new(new("t-hl"), "fallback", "nothing")] } },
            { "no record can take", good with { Bindings = [new(new("t-hl"), "stateTexts.7", "limit")] } },
            { "no record can take", good with { Bindings = [new(new("t-hl"), "kind", "limit")] } },
        };
    }

    [Theory]
    [MemberData(nameof(Unsound))]
    public void A_template_that_cannot_be_placed_says_so_before_it_is_kept(string says, Template template) => Assert.Contains(says, template.Refuse()!, StringComparison.Ordinal);

    [Fact]
    public void Every_shipped_template_is_sound() => Assert.All(StarterLibrary.Templates, t => Assert.Null(t.Refuse()));

    // Written by hand into a file: once it broke the page of the placement for ever.
    [Fact]
    public void A_placed_value_that_its_parameter_does_not_take_counts_as_the_default()
    {
        Template template = StarterLibrary.Templates.First(t => t.Parameters.Any(p => p.Kind == ParameterKind.Number));
        TemplateParameter number = template.Parameters.First(p => p.Kind == ParameterKind.Number);
        Assert.Equal(number.Default, template.Values(new Dictionary<string, string> { [number.Name] = "not a number" })[number.Name]);
        var (project, placed) = Place(template);
        Project broken = Accept(project, Edit.Of(placed with { Placed = placed.Placed! with { Values = new Dictionary<string, string> { [number.Name] = "not a number" } } }, project.FindEntry(placed.Id)!.Revision));
        Assert.NotNull(Placing.Compare(broken, (Equipment)broken.Find(placed.Id)!, template, template));
    }
}
