using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Rooms that are given what another has, copies of rooms with bus devices, and what is found of scenes, circles and repeated telegrams.</summary>
public sealed class FurnishingTests
{
    private static readonly RecordId Line = new("line"), Studio = new("room-1"), Panel = new("panel");

    // A floor of rooms, a panel with a switching actuator of four, and one finished room: a button that switches the lamp on the actuator's first output, and tells its story.
    private static Project Floor(int rooms, string actuator = "switch-4")
    {
        ProjectRecord[] records =
        [
            new Place { Id = new("site"), Name = "Pottery", Kind = PlaceKind.Site, TimeZone = "Europe/London" }, new Place { Id = new("house"), Name = "House", Kind = PlaceKind.Building, In = new("site") },
            new Place { Id = new("ground"), Name = "Ground", Kind = PlaceKind.Floor, In = new("house") }, new Place { Id = Panel, Name = "Riser", Kind = PlaceKind.Room, In = new("ground") },
            .. Enumerable.Range(1, rooms).Select(i => new Place { Id = new($"room-{i}"), Name = $"Studio {i}", Kind = PlaceKind.Room, In = new("ground") }),
            .. Enumerable.Range(1, rooms).Select(i => new Equipment { Id = new($"lamp-{i}"), Name = "Lamp", Kind = "lighting", PlaceId = new($"room-{i}") }),
            new BusLine { Id = Line, Name = "Rooms", Area = 1, Line = 1, LengthMetres = 100 },
            new BusDevice { Id = new("supply"), Name = "Supply", PlaceId = Panel, DescriptionId = "supply-320", LineId = Line, Number = 1 },
            new BusDevice { Id = new("actuator"), Name = "Actuator", PlaceId = Panel, DescriptionId = actuator, LineId = Line, Number = 2, Settings = [new("output1.function", "staircase"), new("output1.staircase", "240")], Uses = [new("output1") { Name = "Lamp", PlaceId = Studio }] },
            new BusDevice { Id = new("button"), Name = "Button", PlaceId = Studio, DescriptionId = "button-4", LineId = Line, Number = 3, Serial = BusSerial.Label(0x00FA_1000_0001), Settings = [new("button1.light", "status")], Uses = [new("button1") { EquipmentId = new("lamp-1") }] },
        ];
        Project project = Done(Project.Empty, [.. records.Select(r => Edit.Of(r, 0))]);
        project = Done(project, Joining.Of(project, new Conversation { Id = new("conv"), Name = "Studio 1 light", PlaceId = Studio, Kind = "lamp", Channels = [new(new("button"), "button1"), new(new("actuator"), "output1")] }).Edits);
        return Done(project, [Edit.Of(new Story { Id = new("story"), Name = "Pressed", OwnerId = Studio, Seconds = 60, Events = [new("e1", 1, StoryDeed.Sense, "button1.contact") { Value = 1, For = 0.2, DeviceId = new("button") }], Expectations = [new("x1", 5, "button1.switch", 1) { DeviceId = new("button") }] }, 0)]);
    }

    private static Project Done(Project project, IReadOnlyList<Edit> edits)
    {
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "engineer", 0, "x"));
        Assert.True(outcome.Accepted, string.Join(' ', outcome.Refusals.Select(r => r.Sentence)));
        return outcome.After!;
    }

    private static Furnished Plan(Project project, params int[] rooms)
    {
        var links = new Dictionary<RecordId, RecordId>();
        return Furnishing.Plan(project, Capture.Of(project, Studio, "room", "Studio 1", [], links), [.. rooms.Select(i => new RecordId($"room-{i}"))], links);
    }

    private static IReadOnlyList<string> Codes(Project project, string code) => [.. project.Records.SelectMany(r => RecordKinds.Of(r).Check(project, r)).Where(f => f.Code == code).Select(f => $"{f.What} {f.Why}")];

    [Fact]
    public void A_floor_is_furnished_like_one_room_in_one_change()
    {
        Project project = Floor(4);
        Furnished plan = Plan(project, 2, 3, 4);
        Assert.Empty(plan.Refusals);
        Assert.Empty(plan.Doubts);
        project = Done(project, plan.Edits);
        // Each room has a button on the next number of the line, without the label of its model, and the next output of the actuator, set as the first.
        Assert.Equal(["1.1.3", "1.1.4", "1.1.5", "1.1.6"], project.All<BusDevice>().Where(d => d.Name == "Button").Select(d => d.AddressIn(project)!.Value.ToString()).Order());
        Assert.Single(project.All<BusDevice>(), d => d.Serial is not null);
        BusDevice actuator = project.Find<BusDevice>(new("actuator"))!;
        Assert.Equal(["output1 room-1", "output2 room-2", "output3 room-3", "output4 room-4"], actuator.Uses.Select(u => $"{u.Channel} {u.PlaceId}").Order());
        Assert.All(Enumerable.Range(1, 4), i => Assert.Equal("240", actuator.ValuesIn(project)!.ValueOf(actuator.ValuesIn(project)!.Form.Find($"output{i}.staircase")!.At)));
        Assert.Equal(["Studio 1 light", "Studio 2 light", "Studio 3 light", "Studio 4 light"], project.All<Conversation>().Select(c => c.Name).Order());
        Assert.All(project.All<BusDevice>().Where(d => d.Name == "Button"), d => Assert.Equal(new RecordId($"lamp-{d.PlaceId.Value[^1]}"), d.Uses[0].EquipmentId));
        // No two share an address, all are joined, and each story is about its own room and comes true.
        Assert.Empty(Codes(project, "conversation-behind"));
        Assert.Equal(project.All<GroupAddress>().Count(), project.All<GroupAddress>().Select(g => g.Number).Distinct().Count());
        foreach (Story story in project.All<Story>())
        {
            Assert.Equal(story.OwnerId, project.Find<BusDevice>(story.Events[0].DeviceId!.Value)!.PlaceId);
            Assert.All(story.Tell(project).Verdicts, v => Assert.True(v.Passed, v.Said));
        }
        Assert.Equal(4, project.All<Story>().Count());
    }

    /// <summary>Law: doing it again, for the model itself too, changes nothing.</summary>
    [Fact]
    public void Furnishing_again_changes_nothing()
    {
        Project project = Floor(3);
        project = Done(project, Plan(project, 1, 2, 3).Edits);
        Assert.Empty(Plan(project, 1, 2, 3).Edits);
    }

    [Fact]
    public void A_device_that_the_room_has_serves_and_what_somebody_set_stays()
    {
        Project project = Floor(3);
        project = Done(project, [
            Edit.Of(new BusDevice { Id = new("mine"), Name = "By the door", PlaceId = new("room-2"), DescriptionId = "button-4", LineId = Line, Number = 40 }, 0),
            Edit.Of(new BusDevice { Id = new("set"), Name = "Button", PlaceId = new("room-3"), DescriptionId = "button-4", LineId = Line, Number = 41, Settings = [new("button1.light", "on")] }, 0),
            Edit.Of(project.Find<BusDevice>(new("actuator"))! with { Uses = [new("output1") { Name = "Lamp", PlaceId = Studio }, new("output4") { PlaceId = new("room-2") }] }, project.FindEntry(new("actuator"))!.Revision)]);
        Furnished plan = Plan(project, 2, 3);
        Assert.All(plan.Rooms, r => Assert.Empty(r.Made));
        project = Done(project, plan.Edits);
        Assert.Equal("status", project.Find<BusDevice>(new("mine"))!.Settings.Single(s => s.Path == "button1.light").Value);
        Assert.Equal("on", project.Find<BusDevice>(new("set"))!.Settings.Single(s => s.Path == "button1.light").Value);
        // The output that is said to serve the room is taken, and the next free one for the room of which nobody has said.
        Assert.Contains(project.All<Conversation>().Single(c => c.PlaceId == new RecordId("room-2")).Channels, c => c.Channel == "output4");
        Assert.Contains(project.All<Conversation>().Single(c => c.PlaceId == new RecordId("room-3")).Channels, c => c.Channel == "output2");
    }

    [Fact]
    public void When_no_channel_is_left_it_is_said_and_nothing_else_is_lost()
    {
        Furnished plan = Plan(Floor(6), 2, 3, 4, 5, 6);
        Assert.Equal(5, plan.Rooms.Count);
        Assert.Equal(["Studio 5", "Studio 6"], plan.Doubts.Where(d => d.Why.StartsWith("No channel like", StringComparison.Ordinal)).Select(d => d.What));
    }

    [Fact]
    public void Only_a_joined_room_can_be_a_model()
    {
        Project project = Floor(2);
        Template bare = Capture.Of(project, new("room-2"), "room", "Studio 2", []);
        Assert.Contains("no conversation", Assert.Single(Furnishing.Plan(project, bare, [Studio]).Refusals), StringComparison.Ordinal);
        Assert.Contains("no template of a room", Furnishing.Plan(project, Capture.Of(project, new("lamp-1"), "lamp", "Lamp", []), [Studio]).Refusals[0], StringComparison.Ordinal);
    }

    // What a template holds of a room has left the project: the same comes of it where the names of what is outside are found.
    [Fact]
    public void A_template_of_a_room_furnishes_as_the_room_itself_does()
    {
        Project project = Floor(2);
        Template template = Capture.Of(project, Studio, "room", "Studio 1", []);
        Furnished plan = Furnishing.Plan(project, template, [new("room-2")]);
        Assert.Empty(plan.Refusals);
        Assert.Empty(plan.Doubts);
        project = Done(project, plan.Edits);
        Assert.Equal(new RecordId("room-2"), project.Find<BusDevice>(new("actuator"))!.Uses.Single(u => u.Channel == "output2").PlaceId);
    }

    [Fact]
    public void A_room_is_copied_with_its_bus_devices_under_addresses_of_their_own()
    {
        Project project = Floor(1);
        CopyPlan plan = Copying.Plan(project, Studio, 3, "Studio {n}");
        Assert.Empty(plan.Refusals);
        Project after = Done(project, [.. plan.Records.Select(r => Edit.Of(r, 0))]);
        Assert.Equal(after.All<GroupAddress>().Count(), after.All<GroupAddress>().Select(g => g.Number).Distinct().Count());
        // The actuator's output goes on serving the original alone; roles are about devices of the copy.
        Assert.Single(after.All<Conversation>(), c => c.Channels.Any(p => p.DeviceId == new RecordId("actuator")));
        Assert.All(plan.Records.OfType<BusDevice>(), d => Assert.Null(d.Number));
        Assert.Contains(plan.Notes, n => n.StartsWith("open: bus device Actuator", StringComparison.Ordinal));
    }

    [Fact]
    public void Group_addresses_of_a_copy_are_the_next_free_ones_nearby()
    {
        Project project = Done(Project.Empty, [.. Enumerable.Range(3, 253).Select(i => Edit.Of(new GroupAddress { Id = new($"g{i}"), Name = $"g{i}", Number = GroupNumber.Of(1, 2, i), Datapoint = "1.001" }, 0))]);
        var taken = new HashSet<string>();
        Assert.Equal(["1/2/0", "1/2/1", "1/2/2", "1/3/0"], Enumerable.Range(0, 4).Select(_ => AddressPlan.Near(project, taken, GroupNumber.Of(1, 2, 200)).ToString()));
    }

    private static BusDevice On(string id, string description, int number, (string Path, string Value)[] set, params (string Object, string Group)[] joins) => new()
    {
        Id = new(id),
        Name = id,
        PlaceId = Panel,
        DescriptionId = description,
        LineId = Line,
        Number = number,
        Settings = [.. set.Select(s => new DeviceSetting(s.Path, s.Value))],
        Joins = [.. joins.Select(j => new ObjectJoin(j.Object, [new(j.Group)])).OrderBy(j => j.Object, StringComparer.Ordinal)],
    };

    private static GroupAddress Group(string id, int sub, string type) => new() { Id = new(id), Name = id, Number = GroupNumber.Of(7, 0, sub), Datapoint = type };

    [Fact]
    public void Scene_numbers_that_nobody_answers_to_are_found()
    {
        Project project = Done(Floor(1), [
            Edit.Of(Group("scene", 1, "18.001"), 0),
            Edit.Of(On("caller", "button-4", 20, [("button1.function", "scene"), ("button1.sceneNumber", "5")], ("button1.scene", "scene")), 0),
            Edit.Of(On("lamp", "dim-4", 21, [("output1.scenes", "yes"), ("output1.scene1", "4")], ("output1.scene", "scene")), 0)]);
        string found = Assert.Single(Codes(project, "group-scenes"));
        Assert.Contains("scene 5 is called by caller", found, StringComparison.Ordinal);
        Assert.Contains("answers to scene 4, which nobody calls", found, StringComparison.Ordinal);
        BusDevice lamp = project.Find<BusDevice>(new("lamp"))!;
        project = Done(project, [Edit.Of(lamp.With(lamp.ValuesIn(project)!.Form.Find("output1.scene2")!, "5"), project.FindEntry(lamp.Id)!.Revision)]);
        Assert.Empty(Codes(project, "group-scenes"));
    }

    [Fact]
    public void Who_waits_for_more_than_is_said_is_found()
    {
        Project Of(string every, string watch = "3600") => Done(Floor(1), [
            Edit.Of(Group("heat", 1, "5.001"), 0),
            Edit.Of(On("room", "room-1", 20, [("room1.answerEvery", every)], ("room1.heatValue", "heat")), 0),
            Edit.Of(On("valve", "switch-4", 21, [("output1.function", "valve"), ("output1.valveSignal", "percent"), ("output1.valveWatch", watch)], ("output1.demand", "heat")), 0)]);
        string found = Assert.Single(Codes(Of("0"), "group-watch"));
        Assert.Contains("when it does not come for 1 h, and ‘room’ says it only when it is another", found, StringComparison.Ordinal);
        Assert.Contains("set ‘Demand expected every’ to more", found, StringComparison.Ordinal);
        Assert.Contains("says it every 1 h", Assert.Single(Codes(Of("3600"), "group-watch")), StringComparison.Ordinal);
        Assert.Empty(Codes(Of("3590"), "group-watch"));
        Assert.Empty(Codes(Of("0", "0"), "group-watch"));
        // What ships waits for nothing that is not said.
        Assert.Empty(Codes(Floor(1), "group-watch"));
    }

    // Two outputs that each switch by the other's state: told on, either goes on for ever. Without the second join nothing comes back.
    [Fact]
    public void Telegrams_that_come_back_to_where_they_began_are_found_once()
    {
        Project project = Done(Floor(1), [
            Edit.Of(Group("a", 1, "1.001"), 0), Edit.Of(Group("b", 2, "1.001"), 0),
            Edit.Of(On("one", "switch-4", 20, [], ("output1.switch", "a"), ("output1.state", "b")), 0),
            Edit.Of(On("two", "switch-4", 21, [], ("output1.switch", "b"), ("output1.state", "a")), 0)]);
        string found = Assert.Single(Codes(project, "group-circle"));
        Assert.Contains("7/0/1 is heard by ‘one’", found, StringComparison.Ordinal);
        Assert.Contains("which says ‘", found.Replace("Output A", "‘", StringComparison.Ordinal), StringComparison.Ordinal);
        Assert.Contains("to 7/0/1", found, StringComparison.Ordinal);
        BusDevice two = project.Find<BusDevice>(new("two"))!;
        project = Done(project, [Edit.Of(two.With("output1.state", []), project.FindEntry(two.Id)!.Revision)]);
        Assert.Empty(Codes(project, "group-circle"));
        // What ships is spared: a button hears the state of what it switches and says nothing by it.
        Assert.Empty(Codes(Floor(1), "group-circle"));
        // A detector that hears by hand what it switches itself hears others there, and never itself; a second one it hears.
        BusDevice Detector(string id, int number) => On(id, "presence-6", number, [("output1.function", "presence")], ("output1.hand", "light"), ("output1.switch", "light"));
        project = Done(Floor(1), [Edit.Of(Group("light", 3, "1.001"), 0), Edit.Of(Detector("one", 20), 0)]);
        Assert.Empty(Codes(project, "group-circle"));
        Assert.Single(Codes(Done(project, [Edit.Of(Detector("two", 21), 0)]), "group-circle"));
    }

    // A telegram of one octet takes (50 + 10·13 + 15 + 13) / 9600 s = 21.67 ms: 46.2 a second, of which a quarter, 11.5, may be repetition.
    [Fact]
    public void What_is_said_again_and_again_is_a_budget_of_its_line()
    {
        Assert.Equal(46.2, Math.Round(BusLine.MostTelegrams, 1));
        (string, string)[] often = [.. Enumerable.Range(1, 4).SelectMany(i => ((string, string)[])[($"output{i}.stateEvery", "1")])];
        Project project = Done(Floor(1), [
            .. Enumerable.Range(1, 4).Select(i => Edit.Of(Group($"s{i}", i, "1.001"), 0)),
            .. Enumerable.Range(0, 2).Select(d => Edit.Of(On($"loud{d}", "switch-4", 20 + d, often, [.. Enumerable.Range(1, 4).Select(i => ($"output{i}.state", $"s{i}"))]), 0))]);
        Assert.Equal(8000, project.Sum(Line, BusLine.Again));
        Assert.Empty(Codes(project, "line-again"));
        project = Done(project, [Edit.Of(On("loud2", "switch-4", 22, often, [.. Enumerable.Range(1, 4).Select(i => ($"output{i}.state", $"s{i}"))]), 0)]);
        Assert.Contains("12 telegrams a second", Assert.Single(Codes(project, "line-again")), StringComparison.Ordinal);
    }

    [Fact]
    public void What_crosses_into_a_line_belongs_to_its_budget()
    {
        (string, string)[] often = [.. Enumerable.Range(1, 4).SelectMany(i => ((string, string)[])[($"output{i}.stateEvery", "1")])];
        Project project = Done(Floor(1), [
            Edit.Of(new BusLine { Id = new("other"), Name = "Other", Area = 1, Line = 9 }, 0), .. Enumerable.Range(1, 4).Select(i => Edit.Of(Group($"s{i}", i, "1.001"), 0)),
            Edit.Of(On("loud", "switch-6", 20, often, [.. Enumerable.Range(1, 4).Select(i => ($"output{i}.state", $"s{i}"))]) with { LineId = new("other") }, 0)]);
        BusLine line = project.Find<BusLine>(Line)!, other = project.Find<BusLine>(new RecordId("other"))!;
        Assert.Equal((0, 4), (BusLine.AgainOn(project, line), BusLine.AgainOn(project, other)));
        // Two of its four states are listened to on the first line.
        project = Done(project, [Edit.Of(On("listens", "button-4", 30, [], [("button1.status", "s1"), ("button2.status", "s2")]), 0)]);
        Assert.Equal((2, 4), (BusLine.AgainOn(project, line), BusLine.AgainOn(project, other)));
    }
}
