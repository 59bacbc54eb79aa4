using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Lines, devices, group addresses and conversations as records of a project.</summary>
public sealed class JoiningTests
{
    private static readonly RecordId Gallery = new("gallery"), Line = new("line");

    private static BusDevice Device(string id, string description, int? number = null, params (string Path, string Value)[] set) => new()
    {
        Id = new RecordId(id),
        Name = id,
        PlaceId = Gallery,
        DescriptionId = description,
        LineId = number is null ? null : Line,
        Number = number,
        Settings = [.. set.Select(s => new DeviceSetting(s.Path, s.Value))],
    };

    private static Conversation Talk(string kind, params (string Device, string Channel)[] parts) => new() { Id = new RecordId("talk"), Name = "Track", PlaceId = Gallery, Kind = kind, Channels = [.. parts.Select(p => new TakingPart(new RecordId(p.Device), p.Channel))] };

    private static Project With(params ProjectRecord[] more)
    {
        Project project = Project.Empty;
        ProjectRecord[] ground =
        [
            new Place { Id = new RecordId("site"), Name = "Pottery", Kind = PlaceKind.Site, TimeZone = "Europe/London" }, new Place { Id = new RecordId("house"), Name = "House", Kind = PlaceKind.Building, In = new RecordId("site") },
            new Place { Id = new RecordId("ground"), Name = "Ground", Kind = PlaceKind.Floor, In = new RecordId("house") }, new Place { Id = Gallery, Name = "Gallery", Kind = PlaceKind.Room, In = new RecordId("ground") },
            new BusLine { Id = Line, Name = "Rooms", Area = 1, Line = 2, LengthMetres = 100 },
        ];
        return Done(project, [.. ground.Concat(more).Select(r => Edit.Of(r, 0))]);
    }

    private static Project Done(Project project, IReadOnlyList<Edit> edits)
    {
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "engineer", 0, "x"));
        Assert.True(outcome.Accepted, string.Join(' ', outcome.Refusals.Select(r => r.Sentence)));
        return outcome.After!;
    }

    private static string Refused(Project project, ProjectRecord record) => Assert.Single(Changes.Apply(project, new ChangeSet([Edit.Of(record, project.FindEntry(record.Id)?.Revision ?? 0)], "engineer", 0, "x")).Refusals).Sentence;

    private static string Joins(Project project, string device) => string.Join("; ", project.Find<BusDevice>(new RecordId(device))!.Joins.Select(j => $"{j.Object} {string.Join(' ', j.Groups.Select(g => project.Find<GroupAddress>(g)!.Number))}"));

    // An actuator of four says its four states when it begins, and again when all four are told on: then, by hand, 4 telegrams of 9 octets, 15 104 µs each, with the one that told it 5 · 15.104 ms = 7.6 % of the second.
    [Fact]
    public void What_a_story_loads_its_line_with_is_counted()
    {
        StagedDevice four = Told.Device("switch-4", "", "s", [.. Enumerable.Range(1, 4).SelectMany(i => ((string, string)[])[($"output{i}.switch", "1/0/1"), ($"output{i}.state", $"1/1/{i}")])]);
        StoryLoad load = Told.Story(four, 60, "10 tell output1.switch 1").Load;
        Assert.Equal((9, 10.0, 5, 7.6), (load.Telegrams, load.BusiestAt, load.InBusiest, load.Percent));
    }

    /// <summary>Law: in whichever order conversations that share an actuator are joined, it tells its state once, whoever shows it listens there, and joining any of them again changes nothing.</summary>
    [Fact]
    public void A_lamp_that_is_in_two_conversations_tells_its_state_once()
    {
        Conversation own = Talk("dimmedLamp", ("dimmer", "output1")) with { Id = new("own"), Name = "Lamp 1" }, all = Talk("dimmedLamp", ("button", "button1"), ("dimmer", "output1"), ("dimmer", "output2")) with { Id = new("all"), Name = "All lamps" };
        Project project = With(Device("button", "button-4", 1, ("button1.function", "dim"), ("button1.light", "status")), Device("dimmer", "dim-4", 2));
        project = Done(project, Joining.Of(project, own).Edits);
        project = Done(project, Joining.Of(project, all).Edits);
        GroupAddress state = Assert.Single(project.All<GroupAddress>(), g => g.Role == "state:dimmer/output1");
        Assert.Equal(own.Id, state.ConversationId);
        Assert.Contains($"button1.status {state.Number}", Joins(project, "button"), StringComparison.Ordinal);
        foreach (Conversation each in new[] { own, all })
        {
            Assert.All(Joining.Of(project, each).Lines, l => Assert.False(l.IsNew || l.Goes));
            Assert.Empty(project.All<Conversation>().Where(c => c.Id == each.Id).SelectMany(c => BusChecksOf(project, c)));
        }
        // Who leaves lets go of what it showed.
        project = Done(project, Joining.Of(project, all with { Channels = [.. all.Channels.Where(c => c.DeviceId != new RecordId("button"))] }).Edits);
        Assert.DoesNotContain(state.Number.ToString(), Joins(project, "button"), StringComparison.Ordinal);
    }

    private static IEnumerable<string> BusChecksOf(Project project, Conversation conversation) => RecordKinds.Of(conversation).Check(project, conversation).Where(f => f.Code == "conversation-behind").Select(f => f.What);

    [Fact]
    public void All_roles_of_a_lamp_are_joined_at_once_with_its_feedback()
    {
        Project project = With(Device("button", "button-4", 1, ("button1.function", "dim"), ("button1.light", "status")), Device("dimmer", "dim-4", 2, ("output1.scenes", "yes")));
        Joined joined = Joining.Of(project, Talk("dimmedLamp", ("button", "button1"), ("dimmer", "output1")));
        project = Done(project, joined.Edits);
        // Light is main group 1; the middle group is the role's turn: switch 0, state 1, dim 2, brightness 3, its state 4, scene 6.
        Assert.Equal("button1.dim 1/2/0; button1.status 1/1/0; button1.switch 1/0/0 1/1/0", Joins(project, "button"));
        Assert.Equal("output1.dim 1/2/0; output1.scene 1/6/0; output1.state 1/1/0; output1.switch 1/0/0; output1.value 1/3/0; output1.valueState 1/4/0", Joins(project, "dimmer"));
        Assert.Equal("Track · brightness in force", GroupAddress.At(project, GroupNumber.Of(1, 4, 0))!.Name);
        Assert.Equal("5.001", GroupAddress.At(project, GroupNumber.Of(1, 4, 0))!.Datapoint);
        // It has all been done: joining again changes nothing, and nothing is found.
        Joined again = Joining.Of(project, project.Find<Conversation>(new RecordId("talk"))!);
        Assert.Empty(again.Made);
        Assert.All(again.Lines, l => Assert.False(l.IsNew || l.Goes));
        Assert.DoesNotContain(FindingsIndex.Full(project).All, f => f.Code.StartsWith("conversation", StringComparison.Ordinal) || f.Code.StartsWith("group", StringComparison.Ordinal) || f.Code == "bus-type");
    }

    [Fact]
    public void Each_of_several_lamps_tells_its_state_under_an_address_of_its_own()
    {
        Project project = With(Device("button", "button-4"), Device("actuator", "switch-4"));
        project = Done(project, Joining.Of(project, Talk("lamp", ("button", "button1"), ("actuator", "output1"), ("actuator", "output2"))).Edits);
        Assert.Equal("output1.state 1/1/0; output1.switch 1/0/0; output2.state 1/1/1; output2.switch 1/0/0", Joins(project, "actuator"));
        // The button shows the first one's.
        Assert.Equal("button1.status 1/1/0; button1.switch 1/0/0 1/1/0", Joins(project, "button"));
    }

    [Fact]
    public void Who_no_longer_takes_part_is_let_go_and_what_others_joined_stays()
    {
        Project project = With(Device("button", "button-4"), Device("actuator", "switch-4"), new GroupAddress { Id = new RecordId("central"), Name = "All off", Number = GroupNumber.Of(6, 0, 1), Datapoint = "1.001" });
        project = Done(project, Joining.Of(project, Talk("lamp", ("button", "button1"), ("actuator", "output1"), ("actuator", "output2"))).Edits);
        BusDevice actuator = project.Find<BusDevice>(new RecordId("actuator"))!;
        project = Done(project, [Edit.Of(actuator.With("output2.switch", [.. actuator.GroupsOf("output2.switch"), new RecordId("central")]), project.FindEntry(actuator.Id)!.Revision)]);
        Joined less = Joining.Of(project, Talk("lamp", ("button", "button1"), ("actuator", "output1")));
        Assert.Contains(less.Lines, l => l is { Goes: true, Address: "1/0/0" });
        project = Done(project, less.Edits);
        Assert.Equal("output1.state 1/1/0; output1.switch 1/0/0; output2.switch 6/0/1", Joins(project, "actuator"));
        Assert.Equal(3, project.All<GroupAddress>().Count());
        // Without the conversation its addresses and joins go; what stands beside it stays.
        Removal removal = Removal.Of(project, [new RecordId("talk")], []);
        project = Done(project, removal.Edits);
        Assert.Equal("output2.switch 6/0/1", Joins(project, "actuator"));
    }

    [Fact]
    public void What_is_doubtful_is_said_with_its_reason()
    {
        Project project = With(Device("button", "button-4", null, ("button1.function", "blind"), ("button2.function", "disabled")), Device("actuator", "switch-4"));
        Joined joined = Joining.Of(project, Talk("lamp", ("button", "button1"), ("button", "button2"), ("actuator", "output1")));
        Assert.Contains(joined.Doubts, d => d is { Device: "button", What: "Button 2" } && d.Why.Contains("disabled", StringComparison.Ordinal));
        Assert.Contains(joined.Doubts, d => d is { Device: "button", What: "Button 1" } && d.Why.StartsWith("Nothing of this channel is said or heard in ‘Light, switched’", StringComparison.Ordinal));
    }

    [Fact]
    public void Addresses_are_made_by_plan_and_the_nearest_place_first()
    {
        Project project = With(Device("button", "button-4"), Device("actuator", "switch-4"), new GroupRange { Id = new RecordId("r1"), Name = "Switching", Main = 8, Middle = 2, Takes = "lamp.switch" }, new GroupRange { Id = new RecordId("r2"), Name = "Gallery", Main = 9, Middle = 0, Takes = "lamp", PlaceId = Gallery });
        Joined joined = Joining.Of(project, Talk("lamp", ("button", "button1"), ("actuator", "output1")));
        Assert.Equal(["9/0/0", "9/0/1"], joined.Made.Select(m => m.Number.ToString()));
        Assert.Contains("‘lamp.shine’ is no role", Refused(project, new GroupRange { Id = new RecordId("r3"), Name = "X", Main = 1, Takes = "lamp.shine" }), StringComparison.Ordinal);
    }

    [Fact]
    public void What_cannot_be_is_refused_in_words()
    {
        Project project = With(Device("a", "switch-4", 5), new GroupAddress { Id = new RecordId("g"), Name = "Temperature", Number = GroupNumber.Of(1, 0, 0), Datapoint = "9.001" });
        Assert.Equal("Number 5 on this line is that of ‘a’. Choose a free one.", Refused(project, Device("b", "switch-4", 5)));
        Assert.Equal("‘Switching actuator, 4-fold’ has no parameter ‘output9.lock’.", Refused(project, Device("b", "switch-4", 6, ("output9.lock", "yes"))));
        Assert.Contains("‘Staircase time’ is from 1 s to 1 d", Refused(project, Device("b", "switch-4", 6, ("output1.staircase", "0"))), StringComparison.Ordinal);
        Assert.Contains("carries 9.001 temperature of 16 bits", Refused(project, project.Find<BusDevice>(new RecordId("a"))!.With("output1.switch", [new RecordId("g")])), StringComparison.Ordinal);
        Assert.Contains("no description ‘lamp-1’", Refused(project, Device("b", "lamp-1")), StringComparison.Ordinal);
        Assert.Equal("Line 1.2 is there already: ‘Rooms’. Choose another number.", Refused(project, new BusLine { Id = new RecordId("l2"), Name = "X", Area = 1, Line = 2 }));
        Assert.Equal("1/0/0 is that of ‘Temperature’ already. Choose a free address.", Refused(project, new GroupAddress { Id = new RecordId("g2"), Name = "X", Number = GroupNumber.Of(1, 0, 0), Datapoint = "1.001" }));
    }

    [Fact]
    public void Budgets_and_what_does_nothing_are_found()
    {
        // A 12-fold actuator draws 12 mA, a button 8.
        Project project = With(Device("a", "switch-12", 1, ("output1.staircase", "90")), Device("b", "button-4", 2));
        string[] found = [.. FindingsIndex.Full(project).All.Select(f => f.What)];
        Assert.Contains("Nothing feeds line 1.2.", found);
        Assert.Contains("‘a’ has a value that is set but not in force.", found);
        Assert.Contains("12 channels of ‘a’ are in use and joined to nothing.", found);
        Assert.Equal(20, project.Sum(Line, BusLine.Drawn));
        project = Done(project, [Edit.Of(Device("s", "supply-320", 3), 0)]);
        Assert.DoesNotContain("Nothing feeds line 1.2.", FindingsIndex.Full(project).All.Select(f => f.What));
    }

    // CRC-8 (polynomial 07) of 00 FA 10 00 01 01, worked out bit by bit: A1.
    [Theory]
    [InlineData("00FA-1000-0101-A1", null)]
    [InlineData("00fa10000101a1", null)]
    [InlineData("00FA-1000-0110-A1", "does not add up")]
    [InlineData("00FA-1000-0101", "no serial number")]
    public void A_serial_number_is_checked_by_its_sum(string text, string? says)
    {
        if (says is null) Assert.Null(BusSerial.Trouble(text));
        else Assert.Contains(says, BusSerial.Trouble(text), StringComparison.Ordinal);
    }

    [Fact]
    public void Any_two_digits_that_change_places_are_noticed()
    {
        string label = BusSerial.Plain(BusSerial.Label(0x00FA_1234_5678));
        for (int i = 0; i + 1 < label.Length; i++)
        {
            if (label[i] == label[i + 1]) continue;
            string swapped = label[..i] + label[i + 1] + label[i] + label[(i + 2)..];
            Assert.NotNull(BusSerial.Trouble(swapped));
        }
    }

    [Theory]
    [InlineData("1.2.34", 0x1222)]
    [InlineData("15.15.255", 0xFFFF)]
    [InlineData("16.0.1", null)]
    [InlineData("1.2", null)]
    [InlineData("1.2.256", null)]
    public void Individual_addresses_have_four_four_and_eight_bits(string text, int? raw)
    {
        Assert.Equal(raw, IndividualAddress.Read(text)?.Raw);
        if (raw is not null) Assert.Equal(text, new IndividualAddress((ushort)raw).ToString());
    }

    [Theory]
    [InlineData("1/2/34", 0x0A22)]
    [InlineData("31/7/255", 0xFFFF)]
    [InlineData("32/0/0", null)]
    [InlineData("1/8/0", null)]
    [InlineData("1.2.3", null)]
    public void Group_addresses_have_five_three_and_eight_bits(string text, int? raw)
    {
        Assert.Equal(raw, GroupNumber.Read(text)?.Raw);
        if (raw is not null) Assert.Equal(text, new GroupNumber((ushort)raw).ToString());
    }

    [Fact]
    public void A_whole_room_lives_a_story_together()
    {
        Project project = With(Device("button", "button-4", 1, ("button1.function", "dim"), ("button1.debounce", "0")), Device("dimmer", "dim-4", 2, ("output1.softOn", "0")));
        project = Done(project, Joining.Of(project, Talk("dimmedLamp", ("button", "button1"), ("dimmer", "output1"))).Edits);
        StoryRun run = StoryStage.Tell(Story.Cast(project, Gallery), [new StoryEvent("e", 5, StoryDeed.Sense, "button1.contact") { Value = 1, For = 0.2, DeviceId = new RecordId("button") }], [new StoryExpectation("x", 6, "output1.level", 100)], 20);
        Assert.True(Assert.Single(run.Verdicts).Passed, run.Verdicts[0].Said);
        // The press goes out at 5.2; the lamp is on a telegram later, and its state comes back to the button.
        Assert.Equal(["1/0/0 on", "1/1/0 on", "1/4/0 100 %"], run.Telegrams.Where(t => t.At > 5).Select(t => $"{t.Group} {t.Value}"));
    }
}
