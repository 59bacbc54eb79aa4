using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Projects;

/// <summary>Two people on one sequence: a block, a claim, a clause or a field are what clashes, never the whole.</summary>
public class MergingTests
{
    private static readonly Project Start = Project();
    private static readonly Sequence Was = Start.All<Sequence>().First(s => s.Blocks.Count > 0 && s.Commands.Count > 0);

    private static Block Added(string id) => new() { Id = id, Kind = BlockKind.Not, Label = id };

    private static Sequence With(Sequence s, string block, Func<Block, Block> change) => s with { Blocks = [.. s.Blocks.Select(b => b.Id == block ? change(b) : b)] };

    private static (ChangeOutcome First, ChangeOutcome Second) Both(Sequence first, Sequence second)
    {
        long seen = Start.FindEntry(Was.Id)!.Revision;
        ChangeOutcome one = Changes.Apply(Start, new ChangeSet([Edit.Of(first, seen)], "a", 0));
        Assert.True(one.Accepted, string.Join(" ", one.Refusals.Select(r => r.Sentence)));
        return (one, Changes.Apply(one.After!, new ChangeSet([Edit.Of(second, seen)], "b", 1), past: (id, revision) => revision == seen ? Start.Find(id) : null));
    }

    [Fact]
    public void What_two_people_add_and_change_side_by_side_goes_together()
    {
        string block = Was.Blocks[0].Id;
        Sequence mine = Was with { Blocks = [.. Was.Blocks, Added("mine")], ScanSeconds = 7 };
        Sequence theirs = With(Was, block, b => b with { Label = "As they call it" }) with { Clauses = [.. Was.Clauses, new Clause { Id = "their-clause", Text = "It runs." }], Blocks = [.. With(Was, block, b => b with { Label = "As they call it" }).Blocks, Added("theirs")] };
        var (first, second) = Both(theirs, mine);
        Assert.True(second.Accepted);
        Sequence both = second.After!.Find<Sequence>(Was.Id)!;
        Assert.Equal(7, both.ScanSeconds);
        Assert.Equal("As they call it", both.Blocks.Single(b => b.Id == block).Label);
        Assert.Equal(Was.Blocks.Count + 2, both.Blocks.Count);
        Assert.Contains(both.Clauses, c => c.Id == "their-clause");
        // Each takes back what is theirs, and nothing of the other's.
        var (edits, refusals) = Changes.Inverse(second.After!, first.Entry!);
        Assert.Empty(refusals);
        Sequence back = Accept(second.After!, [.. edits]).Find<Sequence>(Was.Id)!;
        Assert.Equal((7, Was.Blocks[0].Label), (back.ScanSeconds, back.Blocks[0].Label));
        Assert.Equal(["mine"], back.Blocks.Select(b => b.Id).Except(Was.Blocks.Select(b => b.Id)));
    }

    [Fact]
    public void The_same_block_changed_by_both_is_asked_about_and_what_is_apart_is_kept_in_what_is_offered()
    {
        string block = Was.Blocks[0].Id;
        var (_, second) = Both(With(Was, block, b => b with { Label = "Theirs" }) with { ScanSeconds = 9 }, With(Was, block, b => b with { Label = "Yours" }));
        Conflict conflict = Assert.Single(second.Conflicts);
        var yours = (Sequence)conflict.Yours!;
        Assert.Equal(("Yours", 9), (yours.Blocks[0].Label, yours.ScanSeconds));
        Assert.All(conflict.Fields, f => Assert.Equal("blocks", f.Field));
    }

    [Fact]
    public void A_block_that_the_one_removes_and_the_other_changes_is_asked_about()
    {
        Sequence removed = Was with { Blocks = [], Commands = [], Tests = [], Clauses = [.. Was.Clauses.Select(c => c with { Blocks = [], Modes = [], Outputs = [] })] };
        Assert.Single(Both(removed, With(Was, Was.Blocks[0].Id, b => b with { Label = "Changed" })).Second.Conflicts);
        Assert.Single(Both(With(Was, Was.Blocks[0].Id, b => b with { Label = "Changed" }), removed).Second.Conflicts);
    }

    [Fact]
    public void What_cannot_be_together_is_asked_about_although_no_part_clashes()
    {
        // The one takes a block away to which the other connects something new.
        Sequence withTwo = Was with { Blocks = [.. Was.Blocks, Added("loose")] };
        Project start = Accept(Start, withTwo);
        long seen = start.FindEntry(Was.Id)!.Revision;
        Project after = Accept(start, Was);
        Sequence connects = withTwo with { Blocks = [.. withTwo.Blocks, Added("reader") with { Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("loose") } }] };
        ChangeOutcome outcome = Changes.Apply(after, new ChangeSet([Edit.Of(connects, seen)], "b", 1), past: (id, _) => start.Find(id));
        Assert.Empty(outcome.Refusals);
        Assert.Single(outcome.Conflicts);
    }

    /// <summary>Claims of one output are parts of their own, and so are outputs.</summary>
    [Fact]
    public void Claims_of_one_output_go_together()
    {
        OutputCommand output = Was.Commands[0];
        int[] free = [.. Enumerable.Range(1, 16).Where(p => p != Core.Sequences.Sequence.ManualOperator && output.Claims.All(c => c.Priority != p)).Take(2)];
        Sequence Claiming(int priority) => Was with { Commands = [output with { Claims = [.. output.Claims, new Claim { Priority = priority, Label = $"{priority}" }] }, .. Was.Commands.Skip(1)] };
        var (_, second) = Both(Claiming(free[0]), Claiming(free[1]));
        Assert.True(second.Accepted);
        Assert.Equal([.. output.Claims.Select(c => c.Priority).Concat(free).Order()], second.After!.Find<Sequence>(Was.Id)!.Commands[0].Claims.Select(c => c.Priority).Order());
    }

    /// <summary>Whatever two people do to different parts, in whichever order it comes in, both are there and nothing else has changed.</summary>
    [Fact]
    public void Edits_of_different_parts_come_to_the_same_in_either_order()
    {
        var random = new Random(20261126);
        string[] ids = [.. Enumerable.Range(0, 12).Select(i => $"b{i}")];
        Sequence was = Was with { Blocks = [.. ids.Select(Added)], Commands = [], Tests = [], Clauses = [] };
        for (int round = 0; round < 300; round++)
        {
            string[] shuffled = [.. ids.OrderBy(_ => random.Next())];
            int cut = random.Next(1, 11);
            Sequence Edited(IEnumerable<string> which, string tag)
            {
                Sequence s = was;
                foreach (string id in which.Where(_ => random.Next(2) == 0))
                    s = random.Next(3) == 0 ? s with { Blocks = [.. s.Blocks.Where(b => b.Id != id)] } : With(s, id, b => b with { Label = tag });
                return random.Next(2) == 0 ? s with { Blocks = [.. s.Blocks, Added($"{tag}-new")] } : s;
            }
            Sequence one = Edited(shuffled[..cut], "one"), other = Edited(shuffled[cut..], "other");
            var ab = (Sequence)Merged(one, other);
            var ba = (Sequence)Merged(other, one);
            Assert.Equal(ab.Blocks.Select(RecordOf).Order(), ba.Blocks.Select(RecordOf).Order());
            foreach (Sequence edited in (Sequence[])[one, other])
            {
                Assert.All(edited.Blocks.Where(b => was.Blocks.All(w => RecordOf(w) != RecordOf(b))), b => Assert.Contains(RecordOf(b), ab.Blocks.Select(RecordOf)));
                Assert.All(was.Blocks.Where(w => edited.Blocks.All(b => b.Id != w.Id)), w => Assert.DoesNotContain(ab.Blocks, b => b.Id == w.Id));
            }
            Assert.True(RecordJson.Same(one, Merged(one, was)) && RecordJson.Same(one, Merged(was, one)));
        }

        ProjectRecord Merged(Sequence theirs, Sequence yours)
        {
            Merged merged = Merging.Of(was, theirs, yours)!;
            Assert.Empty(merged.Clashes);
            return merged.Record;
        }

        static string RecordOf(Block block) => $"{block.Id} {block.Label}";
    }
}
