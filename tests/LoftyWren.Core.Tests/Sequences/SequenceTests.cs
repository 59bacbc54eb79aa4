using LoftyWren.Core.Findings;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Sequences;

public class SequenceTests
{
    private static readonly Project House = KilnRoom.Project();
    private static readonly Sequence Extract = House.Find<Sequence>(KilnRoom.Sequence)!;
    private static readonly Block High = Extract.Blocks[0];

    private static Sequence With(Block block) => Extract with { Blocks = [block] };

    private static Sequence Claiming(params Claim[] claims) => Extract with { Commands = [new OutputCommand { PointId = FanCommand, Claims = claims }] };

    [Fact]
    public void A_sequence_is_of_equipment_runs_at_a_pace_and_has_a_size()
    {
        Refuses(House, Extract with { EquipmentId = Room }, "equipmentId", "The sequence ‘Kiln room extract’ refers to a piece of equipment that is not in the project (kiln-room).");
        Refuses(House, Extract with { ControllerId = new("gone") }, "controllerId", "The sequence ‘Kiln room extract’ refers to a controller that is not in the project (gone).");
        Refuses(House, Extract with { ScanSeconds = 0.05 }, "scanSeconds", "A scan period of 0.05 s cannot be; use 0.1 to 3600 s.");
        Refuses(House, Extract with { Blocks = [.. Enumerable.Range(0, 501).Select(i => new Block { Id = $"b{i}", Kind = BlockKind.Not })] }, "blocks", "A sequence has at most 500 blocks; this one has 501. Split it.");
    }

    [Fact]
    public void A_block_has_an_identity_and_settings_of_its_kind_within_limits()
    {
        Refuses(House, Extract with { Blocks = [High, High] }, "blocks", "Two blocks have the identity ‘high’.");
        Refuses(House, With(High with { Id = "No Id" }), "blocks", "‘No Id’ is not a block identity: use 1 to 64 of a–z, 0–9 and hyphen.");
        Refuses(House, With(High with { Label = new string('x', 61) }), "blocks", "A block's label has at most 60 characters.");
        Refuses(House, With(High with { Numbers = new Dictionary<string, double> { ["gain"] = 1 } }), "blocks", "‘Two-position’ has no setting ‘gain’.");
        Assert.StartsWith("The differential of ‘Two-position’ is -1; it must be from ", Refused(House, Edit.Of(With(High with { Numbers = new Dictionary<string, double> { ["differential"] = -1 } })))[0].Sentence, StringComparison.Ordinal);
        Refuses(House, With(High with { Choices = new Dictionary<string, string> { ["idle"] = "sleep" } }), "blocks", "‘Two-position’ has no choice ‘idle: sleep’.");
        Refuses(House, With(High with { Inputs = new Dictionary<string, Source> { ["sideways"] = new ConstantSource(1, null) } }), "blocks", "‘Two-position’ has no input ‘sideways’.");
        Refuses(House, With(new Block { Id = "s", Kind = BlockKind.Scale, Numbers = new Dictionary<string, double> { ["inLow"] = 4, ["inHigh"] = 4 } }), "blocks", "Both ends of the input range of ‘Scale’ are 4; they must differ.");
        Refuses(House, With(new Block { Id = "s", Kind = BlockKind.Scale, OutputUnit = "furlong" }), "blocks", "‘furlong’ is not a known unit.");
        Block Curve(params TableRow[] rows) => new() { Id = "c", Kind = BlockKind.Curve, Tables = new Dictionary<string, IReadOnlyList<TableRow>> { ["points"] = rows } };
        Refuses(House, With(Curve(new TableRow(1, 1))), "blocks", "The points of ‘Curve’ are 2 to 32 rows; there is 1.");
        Refuses(House, With(Curve(new TableRow(5, 1), new TableRow(5, 2))), "blocks", "The points of ‘Curve’ must rise: 5 comes after 5.");
        Refuses(House, With(Curve(new TableRow(5, 1), new TableRow(4, 2))), "blocks", "The points of ‘Curve’ must rise: 4 comes after 5.");
        Refuses(House, With(Curve(new TableRow(5, double.NaN), new TableRow(6, 2))), "blocks", "The points of ‘Curve’ must be numbers up to 1 000 000 000.");
        Refuses(House, With(High with { Tables = new Dictionary<string, IReadOnlyList<TableRow>> { ["points"] = [] } }), "blocks", "‘Two-position’ has no table ‘points’.");
        Refuses(House, With(High with { Texts = new Dictionary<string, string> { ["state"] = "on" } }), "blocks", "‘Two-position’ has no text ‘state’.");
        Refuses(House, With(new Block { Id = "p", Kind = BlockKind.Pid, Numbers = new Dictionary<string, double> { ["low"] = 50, ["high"] = 50 } }), "blocks", "The lowest output of ‘PID’ is not below its highest.");
    }

    [Fact]
    public void Only_outputs_are_claimed_each_at_priorities_that_are_free()
    {
        Refuses(House, Extract with { Commands = [new OutputCommand { PointId = new("gone") }] }, "commands", "The sequence ‘Kiln room extract’ refers to a point that is not in the project (gone).");
        Refuses(House, Extract with { Commands = [new OutputCommand { PointId = Temperature }] }, "commands", "‘Room temperature’ is a sensor; it cannot be commanded. Use a point whose role is command, setpoint or value.");
        Refuses(House, Extract with { Commands = [new OutputCommand { PointId = FanCommand }, new OutputCommand { PointId = FanCommand }] }, "commands", "The output ‘Extract fan’ is listed twice; put all its claims together.");
        // ISO 16484-5, 19.2: priorities 1 to 16; 8 is the manual operator's.
        Refuses(House, Claiming(new Claim { Priority = 17 }), "commands", "Priority 17 does not exist; priorities go from 1 (strongest) to 16.");
        Refuses(House, Claiming(new Claim { Priority = 8 }), "commands", "Priority 8 belongs to people who hold outputs by hand. Choose another.");
        Refuses(House, Claiming(new Claim { Priority = 16 }), "commands", "Priority 16 of this output is already claimed by ‘Opening hours’. Choose a free priority.");
    }

    [Fact]
    public void What_is_read_must_be_there()
    {
        Refuses(House, With(High with { Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(new("gone")) } }), "blocks", "The sequence ‘Kiln room extract’ refers to a point that is not in the project (gone).");
        Refuses(House, With(High with { Inputs = new Dictionary<string, Source> { ["measured"] = new ScheduleSource(Room) } }), "blocks", "The sequence ‘Kiln room extract’ refers to a schedule that is not in the project (kiln-room).");
    }

    private static Clause Says(string id, string text = "The fan starts above the high limit.", string? block = null) => new() { Id = id, Text = text, Blocks = block is null ? [] : [block] };

    [Fact]
    public void A_clause_has_an_identity_and_a_text()
    {
        Refuses(House, Extract with { Clauses = [Says("a"), Says("a")] }, "clauses", "Two clauses have the same identity.");
        Refuses(House, Extract with { Clauses = [Says("Not So")] }, "clauses", "‘Not So’ is not a clause identity: use 1 to 64 of a–z, 0–9 and hyphen.");
        Refuses(House, Extract with { Clauses = [Says("a"), Says("b", " ")] }, "clauses", "Clause 2 needs a text of 1 to 1000 characters; it has 1.");
        Refuses(House, Extract with { Clauses = [Says("a", new string('x', 1001))] }, "clauses", "Clause 1 needs a text of 1 to 1000 characters; it has 1001.");
        Refuses(House, Extract with { Clauses = [.. Enumerable.Range(0, 201).Select(i => Says($"c{i}"))] }, "clauses", "A sequence has at most 200 clauses; this one has 201.");
    }

    [Fact]
    public void A_clause_that_nothing_meets_is_a_finding_until_something_does()
    {
        string[] Unmet(Project project) => [.. FindingsIndex.Full(project).All.Where(f => f.Code == "clause-unmet").Select(f => f.What)];
        Project asked = Accept(House, Extract with { Clauses = [Says("a"), Says("b", block: "high"), Says("c") with { Outputs = [FanCommand] }] });
        Assert.Equal(["Nothing meets clause 1 of ‘Kiln room extract’."], Unmet(asked));
        // A block or an output that is gone meets nothing any more.
        Sequence now = asked.Find<Sequence>(KilnRoom.Sequence)!;
        Assert.Equal(["Nothing meets clause 1 of ‘Kiln room extract’.", "Nothing meets clause 2 of ‘Kiln room extract’.", "Nothing meets clause 3 of ‘Kiln room extract’."],
            Unmet(Accept(asked, now with { Blocks = [], Commands = [] })).Order(StringComparer.Ordinal));
        Project without = Accept(asked, [.. Removal.Of(asked, [FanCommand]).Edits]);
        Assert.Empty(without.Find<Sequence>(KilnRoom.Sequence)!.Clauses[2].Outputs);
        Assert.Empty(Unmet(Accept(asked, now with { Clauses = [.. now.Clauses.Select(c => c with { Blocks = ["high"] })] })));
    }

    [Fact]
    public void A_clause_runs_nowhere_so_no_controller_is_behind_when_one_is_reworded()
    {
        Core.Hardware.Controller controller = House.Find<Core.Hardware.Controller>(KilnRoom.Controller)!;
        Project worded = Accept(House, Extract with { Clauses = [Says("a", block: "high")] });
        Assert.Empty(ImageComparison.Compare(ControllerImage.Build(House, controller), ControllerImage.Build(worded, controller)));
    }

    /// <summary>A named state is found when the sequence is compiled; a state that the value has not is refused, whether the block or the point is edited.</summary>
    [Fact]
    public void A_state_is_chosen_by_its_name()
    {
        var state = new Point { Id = new("kiln-state"), Name = "Kiln state", OwnerId = Room, Kind = PointKind.Multistate, Role = PointRole.Value, StateTexts = ["idle", "firing", "cooling"], Fallback = 2 };
        Project project = Accept(House, state, new Core.Hardware.Fitting { Id = new("f-state"), Name = "value", ControllerId = KilnRoom.Controller, PointId = state.Id, Terminal = Core.Hardware.Fitting.MemoryTerminal, Signal = Core.Signals.Signal.Memory });
        Sequence Waits(string? text, RecordId? of = null) => Extract with { Blocks = [.. Extract.Blocks, new Block { Id = "is", Kind = BlockKind.StateIs, Inputs = new Dictionary<string, Source> { ["in"] = new PointSource(of ?? state.Id) }, Texts = text is null ? null : new Dictionary<string, string> { ["state"] = text } }] };
        Refuses(project, Waits("glowing"), "blocks", "‘State is’ waits for ‘glowing’, but what it reads has no such state: it has idle, firing, cooling.");
        Refuses(project, Waits("idle", Temperature), "blocks", "‘State is’ takes a value with named states, not a temperature (°C).");
        foreach (var (text, expected) in new[] { ("firing", "on"), ("cooling", "off"), ((string?)null, "released") })
        {
            Project with = Accept(project, Edit.Of(Waits(text), 1));
            var engine = KilnRoom.Engine(with);
            engine.Run(At(2026, 4, 15, 9, 0));
            var live = engine.Watch(KilnRoom.Sequence, "is/out")!;
            Assert.Equal(expected, live.Form.Say(live.Read()));
        }
        Project firing = Accept(project, Edit.Of(Waits("firing"), 1));
        Assert.Equal([("is", "state", 3)], Typing.Of(firing.Find<Sequence>(KilnRoom.Sequence)!, firing).TextOffers.Select(o => (o.Block, o.Text, o.Offers.Count)));
        Assert.Contains("waits for ‘firing’", Refused(firing, Edit.Of(state with { StateTexts = ["idle", "heating", "cooling"] }, firing.FindEntry(state.Id)!.Revision))[0].Sentence);
    }
}
