using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>Copying logic between equipment by what its points are, and putting blocks behind blocks.</summary>
public class PastingTests
{
    private static readonly IReadOnlyDictionary<RecordId, RecordId?> NoChoice = new Dictionary<RecordId, RecordId?>();

    private static IEnumerable<Template> Holding => StarterLibrary.Templates.Where(t => t.Records.OfType<Core.Sequences.Sequence>().Any());

    public static TheoryData<string> Names() => new(Holding.Select(t => t.Name));

    private static (Project Project, List<Core.Sequences.Sequence> Sequences) Twice(string name)
    {
        PlacingPlan plan = Placing.Plan(Project(), Holding.First(t => t.Name == name), new PlacingRequest([Room], 2, "Unit {k}"));
        Assert.Empty(plan.Refusals);
        return (Accept(Project(), [.. plan.Records]), [.. plan.Records.OfType<Core.Sequences.Sequence>()]);
    }

    private static string[] All(Core.Sequences.Sequence sequence) => [.. sequence.Blocks.Select(b => b.Id), .. sequence.Commands.Select(c => $"o:{c.PointId}")];

    /// <summary>For every template: the logic of one unit, pasted into the emptied logic of its twin, reads and commands only the twin's own, and passes the twin's tests.</summary>
    [Theory]
    [MemberData(nameof(Names))]
    public void What_is_pasted_into_a_twin_is_the_twin_s(string template)
    {
        var (project, sequences) = Twice(template);
        foreach (var pair in sequences.GroupBy(s => s.Blocks.Count + s.Tests.Count + (s.Clauses.Count * 1000)).Where(g => g.Count() == 2))
        {
            var (one, two) = (pair.First(), pair.Last());
            Pasted pasted = Pasting.Into(project, two with { Blocks = [], Commands = [] }, one, All(one), NoChoice);
            Assert.All(pasted.Matches, m => Assert.NotNull(m.Is));
            Assert.Equal(0, pasted.Opened);
            RecordId theirs = one.EquipmentId, ours = two.EquipmentId;
            if (theirs != ours) Assert.DoesNotContain(pasted.Matches, m => project.Find<Point>(m.Is!.Value)!.OwnerId == theirs);
            Assert.Equal(one.Commands.Sum(c => c.Claims.Count), pasted.Sequence.Commands.Sum(c => c.Claims.Count));
            // Pasted into nothing blocks keep their ids, so that the twin's tests find them.
            Assert.All(pasted.Sequence.Tests, t => Assert.True(ProofBench.Prove(project, pasted.Sequence, t).Passed, $"{template}: {t.Name}"));
        }
    }

    [Fact]
    public void What_has_no_counterpart_is_asked_for_and_left_open_until_it_is_said()
    {
        Project project = Project();
        var kiln = project.Find<Core.Sequences.Sequence>(KilnRoom.Sequence)!;
        var other = new Equipment { Id = new("other"), Name = "Other", Kind = "extract fan", PlaceId = Building };
        var spare = new Point { Id = new("spare"), Name = "Spare", OwnerId = other.Id, Role = PointRole.Command, Kind = PointKind.Binary, StateTexts = ["off", "on"], Fallback = 0 };
        var empty = kiln with { Id = new("empty"), Name = "Empty", EquipmentId = other.Id, Blocks = [], Commands = [], Clauses = [], Tests = [], ControllerId = null };
        Project house = Accept(project, other, spare, empty);
        Pasted pasted = Pasting.Into(house, empty, kiln, All(kiln), NoChoice);
        // The fan has the only binary command of the other; its room's temperature has no counterpart there.
        Assert.Equal(spare.Id, pasted.Matches.Single(m => m.IsCommanded).Is);
        PasteMatch open = pasted.Matches.First(m => m.Was == Temperature);
        Assert.Null(open.Is);
        Assert.True(pasted.Opened > 0);
        Pasted chosen = Pasting.Into(house, empty, kiln, All(kiln), pasted.Matches.Where(m => m.Is is null).ToDictionary(m => m.Was, m => (RecordId?)m.Was));
        Assert.Equal(0, chosen.Opened);
        Assert.Contains(chosen.Sequence.Sources(), s => s.Source is PointSource p && p.PointId == Temperature);
        Assert.Contains("Copy it again", Assert.Throws<InvalidOperationException>(() => Pasting.Into(house, empty, kiln, ["gone"], NoChoice)).Message, StringComparison.Ordinal);
    }

    /// <summary>Pasted into where it came from, blocks get names of their own, and claims a priority that nobody has.</summary>
    [Fact]
    public void Pasted_beside_itself_nothing_is_pushed_aside()
    {
        Project project = Project();
        var kiln = project.Find<Core.Sequences.Sequence>(KilnRoom.Sequence)!;
        Pasted pasted = Pasting.Into(project, kiln, kiln, All(kiln), NoChoice);
        Assert.Equal(kiln.Blocks.Count * 2, pasted.Sequence.Blocks.Select(b => b.Id).Distinct().Count());
        Assert.All(pasted.Sequence.Commands, c => Assert.Equal(c.Claims.Count, c.Claims.Select(k => k.Priority).Distinct().Count()));
        Assert.Equal(kiln.Blocks, pasted.Sequence.Blocks.Take(kiln.Blocks.Count));
        Assert.Empty(project.Find(KilnRoom.Sequence)!.Check(project));
        Assert.DoesNotContain(pasted.Sequence.Check(project), r => r.Field == "commands");
    }

    /// <summary>For every on/off block of every template: behind it a NOT, and behind that another, and the tests pass as before.</summary>
    [Theory]
    [MemberData(nameof(Names))]
    public void Wrapped_in_two_nots_it_is_the_same(string template)
    {
        var (project, sequences) = Twice(template);
        foreach (var sequence in sequences.Take(1))
        {
            Typing typing = Typing.Of(sequence, project);
            foreach (Block block in sequence.Blocks.Where(b => BlockType.Of(b).Outputs.Count == 1 && typing.Outputs.GetValueOrDefault((b.Id, BlockType.Of(b).Outputs[0].Name)).Binary))
            {
                if (!sequence.Sources().Any(s => s.Source is BlockSource b && b.BlockId == block.Id)) continue;
                var (once, first) = Wrapping.Around(project, sequence, [block.Id], BlockKind.Not, "w1");
                Assert.Equal("w1", first);
                Assert.DoesNotContain(once.Sources(), s => s.Block?.Id != "w1" && s.Source is BlockSource b && b.BlockId == block.Id);
                var (twice, _) = Wrapping.Around(project, once, ["w1"], BlockKind.Not, "w2");
                Assert.All(sequence.Tests, t => Assert.True(ProofBench.Prove(project, twice, t).Passed, $"{template}, behind {block.Called()}: {t.Name}"));
            }
        }
    }

    /// <summary>Whatever kind somebody names: a block behind what was picked, or words why not.</summary>
    [Fact]
    public void Of_every_kind_there_is_an_answer()
    {
        Project project = Project();
        var kiln = project.Find<Core.Sequences.Sequence>(KilnRoom.Sequence)!;
        int wrapped = 0;
        foreach (BlockKind kind in Enum.GetValues<BlockKind>())
        {
            try
            {
                Assert.Contains(Wrapping.Around(project, kiln, [kiln.Blocks[0].Id], kind, "w").Sequence.Blocks, b => b.Id == "w" && b.Kind == kind && b.Inputs.Count == 1);
                wrapped++;
            }
            catch (InvalidOperationException e)
            {
                Assert.EndsWith(".", e.Message, StringComparison.Ordinal);
            }
        }
        Assert.True(wrapped > 60, $"{wrapped}");
    }

    /// <summary>Where an output has no priority left nothing is lost in silence.</summary>
    [Fact]
    public void An_output_without_a_priority_left_is_named()
    {
        Project project = Project();
        var kiln = project.Find<Core.Sequences.Sequence>(KilnRoom.Sequence)!;
        var full = kiln with { Commands = [.. kiln.Commands.Select(c => c with { Claims = [.. Enumerable.Range(1, 16).Where(p => p != Core.Sequences.Sequence.ManualOperator).Select(p => new Claim { Priority = p })] })] };
        Assert.Contains("Every priority of ‘Extract fan’", Assert.Throws<InvalidOperationException>(() => Pasting.Into(project, full, kiln, All(kiln), NoChoice)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void What_cannot_be_wrapped_is_said()
    {
        Project project = Project();
        var kiln = project.Find<Core.Sequences.Sequence>(KilnRoom.Sequence)!;
        Assert.Contains("Pick the blocks", Assert.Throws<InvalidOperationException>(() => Wrapping.Around(project, kiln, [], BlockKind.Not, "w")).Message, StringComparison.Ordinal);
        Assert.Contains("takes nothing in", Assert.Throws<InvalidOperationException>(() => Wrapping.Around(project, kiln, [kiln.Blocks[0].Id], BlockKind.SystemStatus, "w")).Message, StringComparison.Ordinal);
    }
}
