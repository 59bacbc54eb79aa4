using LoftyWren.Core.Findings;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tests.Projects;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Findings;

public class FindingsTests
{
    private static IEnumerable<string> Codes(Project project) => FindingsIndex.Full(project).All.Select(f => f.Code);

    [Fact]
    public void A_sound_project_has_none() => Assert.Empty(FindingsIndex.Full(Project()).All);

    [Fact]
    public void Checking_only_what_an_edit_touched_finds_the_same_as_checking_everything()
    {
        var random = new Random(5);
        // A second sequence that shares sensor, schedule and equipment with the first, and reads what the first commands.
        Schedule hours = Project().Find<Schedule>(Hours)!;
        Project shared = Accept(Project(),
            new Point { Id = new("light"), Name = "Light", OwnerId = Fan, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 },
            new Core.Hardware.Fitting { Id = new("f9"), Name = "RO2", ControllerId = Controller, PointId = new("light"), Terminal = "RO2", Signal = Core.Signals.Signal.Relay },
            hours with { Drives = [.. hours.Drives, new Drive(new("light"), 16)] },
            new Sequence
            {
                Id = new("second"),
                Name = "Second",
                EquipmentId = Fan,
                ControllerId = Controller,
                Blocks =
                [
                    new Block { Id = "warm", Kind = BlockKind.Gt, Inputs = new Dictionary<string, Source> { ["in1"] = new PointSource(Temperature), ["in2"] = new PointSource(Limit) } },
                    new Block { Id = "both", Kind = BlockKind.And, Inputs = new Dictionary<string, Source> { ["in1"] = new BlockSource("warm"), ["in2"] = new PointSource(FanCommand), ["in3"] = new ScheduleSource(Hours) } },
                ],
                Commands = [new OutputCommand { PointId = new("light"), Claims = [new Claim { Priority = 12, Source = new BlockSource("both") }] }],
            });
        for (int round = 0; round < 60; round++)
        {
            Project project = round % 3 == 0 ? Project() : shared;
            FindingsIndex findings = FindingsIndex.Full(project);
            for (int i = 0; i < 25; i++)
            {
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(RandomEdits.Next(project, random), "engineer", 0));
                if (!outcome.Accepted) continue;
                findings = findings.After(project, outcome.After!, outcome.Entry!.Changes.Select(c => c.Id));
                project = outcome.After!;
                FindingsIndex full = FindingsIndex.Full(project);
                Assert.Equal(full.All.Select(f => (f.Key, f.What)), findings.All.Select(f => (f.Key, f.What)));
                Assert.Equal(full.Count, findings.Count);
            }
        }
    }

    [Fact]
    public void A_point_without_a_source_that_logic_reads_is_grave_on_both()
    {
        Project project = Accept(Project(), Edit.Removing(new("f1")));
        var findings = FindingsIndex.Full(project).All.ToList();
        Assert.Contains(findings, f => f is { Code: "no-source", Severity: Severity.High } && f.RecordId == Temperature);
        Assert.Contains(findings, f => f is { Code: "reads-nothing", Severity: Severity.High } && f.RecordId == KilnRoom.Sequence);
    }

    [Fact]
    public void A_setpoint_without_a_home_is_mended_into_the_memory_of_the_controller_that_uses_it()
    {
        Project project = Accept(Project(), Edit.Removing(new("f3")));
        Finding finding = FindingsIndex.Full(project).On(Limit).Single(f => f.Code == "no-source");
        Assert.Equal("Put ‘High limit’ into the memory of KH-C1", finding.Fixes[0].Label);
        Assert.Empty(FindingsIndex.Full(Accept(project, [.. finding.Fixes[0].Edits])).All);
    }

    [Fact]
    public void Open_inputs_open_claims_and_unread_blocks_are_found()
    {
        var sequence = Project().Find<Sequence>(KilnRoom.Sequence)!;
        Project project = Accept(Project(), sequence with
        {
            Blocks = [sequence.Blocks[0] with { Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(Temperature) } }],
            Commands = [sequence.Commands[0] with { Claims = [sequence.Commands[0].Claims[0] with { Source = null }] }],
        });
        Assert.Equal(["open-claim", "open-input", "unused-block"], Codes(project).Where(c => c != "no-source").Order());
    }

    [Fact]
    public void A_sequence_without_a_controller_or_on_another_one_is_found()
    {
        var sequence = Project().Find<Sequence>(KilnRoom.Sequence)!;
        Assert.Contains("no-controller", Codes(Accept(Project(), sequence with { ControllerId = null })));
        Project project = Accept(Project(), new Core.Hardware.Controller { Id = new("c2"), Name = "KH-C2", PlaceId = Room, ModelId = "compact-20", DeviceInstance = 5 });
        Finding finding = FindingsIndex.Full(Accept(project, sequence with { ControllerId = new("c2") })).All.Single(f => f.Code == "elsewhere");
        Assert.Equal("‘Extract fan’ is on KH-C1, but ‘Kiln room extract’ runs on KH-C2.", finding.What);
    }

    [Fact]
    public void A_schedule_that_never_releases_masks_what_is_weaker_and_one_that_releases_does_not()
    {
        var hours = Project().Find<Schedule>(Hours)!;
        Project strong = Accept(Project(), hours with { Drives = [new Drive(FanCommand, 9)] });
        Assert.Equal("On ‘Extract fan’, claim 10 ‘High temperature’ can never speak.", FindingsIndex.Full(strong).All.Single(f => f.Code == "masked-claim").What);
        Assert.DoesNotContain("masked-claim", Codes(Accept(Project(), hours with { Default = null, Drives = [new Drive(FanCommand, 9)] })));
    }

    [Fact]
    public void A_command_that_nothing_commands_is_found()
    {
        Project project = Accept(Project(), new Point { Id = new("lamp"), Name = "Lamp", OwnerId = Fan, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"] });
        Assert.Equal(["no-fallback", "no-source", "not-commanded"], FindingsIndex.Full(project).On(new("lamp")).Select(f => f.Code).Order());
    }

    [Fact]
    public void A_schedule_that_drives_nothing_or_says_nothing_is_found() =>
        Assert.Equal(["empty-schedule", "idle-schedule"], FindingsIndex.Full(Accept(Project(), new Schedule { Id = new("s2"), Name = "Courses", PlaceId = Site, StateTexts = ["none", "course"], Default = 0 })).On(new("s2")).Select(f => f.Code).Order());

    [Fact]
    public void A_silenced_finding_is_kept_with_its_reason_and_comes_back_when_the_silence_is_lifted()
    {
        Project project = Accept(Project(), [Edit.Removing(new("f1"))]);
        FindingsIndex before = FindingsIndex.Full(project);
        Finding finding = before.All.First(f => f.Code == "no-source");
        var silence = new Silence { Id = new("s1"), Name = "s", OnId = finding.RecordId, FindingKey = finding.Key, Reason = "wired next week", Who = "engineer" };
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(silence)], "engineer", 0));
        FindingsIndex after = before.After(project, outcome.After!, [silence.Id]);
        Assert.Equal(before.Count - 1, after.Count);
        Assert.DoesNotContain(after.All, f => f.Key == finding.Key);
        Assert.Equal(("wired next week", finding.Since), (Assert.Single(after.Silenced).Silence!.Reason, after.Silenced.Single().Since));
        Assert.DoesNotContain(after.On(finding.RecordId), f => f.Key == finding.Key);
        Project lifted = Accept(outcome.After!, [Edit.Removing(silence.Id)]);
        Assert.Equal(before.Count, after.After(outcome.After!, lifted, [silence.Id]).Count);
        Assert.Contains("Say in up to 400", Refused(project, Edit.Of(silence with { Reason = " " })).Single().Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void A_finding_knows_since_which_revision_it_stands()
    {
        Project project = Project();
        FindingsIndex findings = FindingsIndex.Full(project);
        ChangeOutcome unwired = Changes.Apply(project, new ChangeSet([Edit.Removing(new("f1"))], "engineer", 0));
        findings = findings.After(project, unwired.After!, [new("f1")]);
        long since = unwired.After!.Revision;
        Assert.All(findings.All.Where(f => f.RecordId == Temperature), f => Assert.Equal(since, f.Since));
        ChangeOutcome renamed = Changes.Apply(unwired.After, new ChangeSet([Edit.Of(unwired.After.Find<Point>(Temperature)! with { Name = "Air temperature" })], "engineer", 0));
        findings = findings.After(unwired.After, renamed.After!, [Temperature]);
        Assert.All(findings.All.Where(f => f.RecordId == Temperature), f => Assert.Equal(since, f.Since));
    }

    [Fact]
    public void A_mend_is_worked_out_anew_when_it_is_carried_out()
    {
        // By the convention both rooms would be called R01; the second to be mended must get another name, or none.
        Project project = Accept(KilnRoom.Project(), NamingConvention.Empty with { Rules = [new NamingRule { For = "room", Pattern = "R{nn}", Unique = NameScope.Project }] }, new Place { Id = new("dry"), Name = "Drying room", Kind = PlaceKind.Room, In = Floor });
        FindingsIndex findings = FindingsIndex.Full(project);
        Finding first = findings.On(Room).Single(f => f.Code == "name"), second = findings.On(new("dry")).Single(f => f.Code == "name");
        Edit mend = Assert.Single(Assert.Single(first.Fixes).Edits);
        Project mended = Accept(project, mend);
        FindingsIndex now = findings.After(project, mended, [Room]);
        Assert.Null(now.Afresh(mended, Room, first.Key));
        Finding afresh = now.Afresh(mended, new("dry"), second.Key)!;
        Assert.NotEqual(mend.Put!.Name, afresh.Fixes.Single().Edits.Single().Put!.Name);
        Project both = Accept(mended, [.. afresh.Fixes.Single().Edits]);
        Assert.DoesNotContain(FindingsIndex.Full(both).All, f => f.Code == "name");
    }

    [Fact]
    public void Minimum_times_that_something_can_cut_short_are_found_and_those_that_hold_are_not()
    {
        Project house = Project();
        var sequence = (Sequence)house.Find(KilnRoom.Sequence)!;
        Block times = new() { Id = "times", Kind = BlockKind.MinimumTimes, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("high") } };
        Block not = new() { Id = "not", Kind = BlockKind.Not, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("times") } };
        Sequence Claiming(string block, int priority, params Block[] more) => sequence with { Blocks = [.. sequence.Blocks, times, .. more], Commands = [new OutputCommand { PointId = FanCommand, Claims = [new Claim { Priority = priority, Source = new BlockSource(block) }] }] };
        Assert.DoesNotContain("cut-short", Codes(Accept(house, Edit.Of(Claiming("times", 10)))));
        Finding behind = FindingsIndex.Full(Accept(house, Edit.Of(Claiming("not", 10, not)))).All.Single(f => f.Code == "cut-short");
        Assert.Contains("stands between ‘Minimum on and off’ and the output", behind.What);
        var hours = (Core.Schedules.Schedule)house.Find(Hours)!;
        Project under = Accept(house, Edit.Of(Claiming("times", 10)), Edit.Of(hours with { Drives = [new Core.Schedules.Drive(FanCommand, 6)] }));
        Assert.Contains("Claim 6 ‘Opening hours’ on ‘Extract fan’ can cut the times of", FindingsIndex.Full(under).All.Single(f => f.Code == "cut-short").What);
    }
}
