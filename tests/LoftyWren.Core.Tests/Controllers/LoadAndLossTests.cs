using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Controllers;

/// <summary>What a controller has to calculate against what it can, and what a change-over makes its blocks forget.</summary>
public class LoadAndLossTests
{
    private static Sequence Chain(Sequence sequence, int blocks, double seconds) => sequence with
    {
        ScanSeconds = seconds,
        Blocks = [.. sequence.Blocks, .. Enumerable.Range(0, blocks).Select(i => new Block { Id = $"n{i}", Kind = BlockKind.Not, Inputs = new Dictionary<string, Source> { ["in"] = i == 0 ? new BlockSource("high") : new BlockSource($"n{i - 1}") } })],
    };

    /// <summary>By hand: the block and its two lines are three, its claim one, each of the chain two; compact-20 is good for 8 000 a second.</summary>
    [Fact]
    public void Operations_are_counted_at_the_scan_period_and_said_when_they_come_near_what_the_model_can()
    {
        Project project = Project();
        Controller controller = project.Find<Controller>(KilnRoom.Controller)!;
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        Assert.Equal(4, ControllerLoad.Of(project, controller)!.Operations);
        Project more = Accept(project, Chain(sequence, 400, 0.5));
        Assert.Equal((4 + 800) * 2, ControllerLoad.Of(more, controller)!.Operations);
        Assert.DoesNotContain(FindingsIndex.Full(more).On(controller.Id), f => f.Key.StartsWith("load|", StringComparison.Ordinal));
        Project near = Accept(project, Chain(sequence, 400, 0.12));
        // 804 operations every 0.12 s are 6 700 a second: 84 % of 8 000.
        Finding finding = Assert.Single(FindingsIndex.Full(near).On(controller.Id), f => f.Key.StartsWith("load|", StringComparison.Ordinal));
        Assert.Equal((Severity.Medium, "Its sequences take 6 700 operations a second and its model is good for 8 000. Scan the slow ones less often, or move some to another controller."), (finding.Severity, finding.Why));
        Assert.Equal(Severity.High, Assert.Single(FindingsIndex.Full(Accept(project, Chain(sequence, 450, 0.1))).On(controller.Id), f => f.Key.StartsWith("load|", StringComparison.Ordinal)).Severity);
        Assert.Equal(0, ControllerLoad.Of(Accept(project, sequence with { ControllerId = null }), controller)!.Operations);
    }

    [Fact]
    public void A_change_over_says_which_blocks_begin_anew_and_why()
    {
        Project before = Project();
        Sequence sequence = before.Find<Sequence>(KilnRoom.Sequence)!;
        Block delay = new() { Id = "later", Kind = BlockKind.Ton, Label = "Later", Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("high") } };
        Sequence Claims(Block block) => sequence with { Blocks = [.. sequence.Blocks, block], Commands = [.. sequence.Commands.Select(c => c with { Claims = [.. c.Claims, new Claim { Priority = 12, Source = new BlockSource("later") }] })] };
        before = Accept(before, Claims(delay));
        ControllerEngine runs = Engine(before);
        for (int s = 0; s < 5; s++) runs.ScanAt(At(2026, 4, 14, 12, 0, s), 40);
        IReadOnlyList<StateLost> Lost(params Sequence[] next) => runs.LosesTo(Engine(next.Aggregate(before, (p, s) => Accept(p, s))));
        Assert.Empty(Lost(Claims(delay with { Numbers = new Dictionary<string, double> { ["pt"] = 99 }, Label = "Much later" })));
        Assert.Equal([("Later", "it is now of the kind Off-delay")], Lost(Claims(delay with { Kind = BlockKind.Tof })).Select(l => (l.Block, l.Why)));
        Assert.Equal([("Later", "it is no longer there")], Lost(sequence).Select(l => (l.Block, l.Why)));
        Assert.Contains(Lost(Claims(delay) with { ControllerId = null }), l => l.Why == "its sequence no longer runs here");
    }
}
