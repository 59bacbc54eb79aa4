using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Templates;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Proofs;

/// <summary>Tests made of the words of clauses: what is expected comes from the words, never from what the logic happens to do.</summary>
public class ProposingTests
{
    private static readonly Project House = Project();

    private static Core.Sequences.Sequence Logic => House.Find<Core.Sequences.Sequence>(KilnRoom.Sequence)!;

    private static Clause Said(string text) => new() { Id = "c", Text = text, Outputs = [FanCommand] };

    private static string Text(Proposal proposal) => TestText.Write(proposal.Test.Steps, new SubjectNames(House, Logic));

    [Theory]
    [InlineData("Above the high limit the extract fan runs, whatever the hour.")]
    [InlineData("When the room is warmer than 28 °C the extract fan runs.")]
    [InlineData("The extract fan is on above 82 °F.")]
    public void What_the_words_ask_for_is_tried_until_it_holds(string text)
    {
        Proposal proposal = Proposing.Of(House, Logic, Said(text), "t")!;
        Assert.True(proposal.Passes, Text(proposal));
        Assert.Equal(["c"], proposal.Test.Clauses);
        Assert.Contains("expect Extract fan on within", Text(proposal), StringComparison.Ordinal);
        Assert.Contains("wait until Extract fan off", Text(proposal), StringComparison.Ordinal);
        // It reads back to the very same, and notices when what it is about is taken away.
        Assert.Equal(proposal.Test.Steps, TestText.Read(Text(proposal), new SubjectNames(House, Logic)).Steps);
        var broken = Logic with { Commands = [] };
        Assert.False(ProofBench.Prove(House, broken, proposal.Test).Passed);
    }

    /// <summary>A figure that the story does not try is named, and the clause is not said to be proven.</summary>
    [Theory]
    [InlineData("Above the high limit the extract fan runs, until the room is 2 K below it.", "2 K")]
    [InlineData("Above 28 °C the extract fan runs for 10 min at least.", "10 min")]
    [InlineData("Above the high limit the extract fan runs, for half an hour at least and at 80 %.", "half an hour, 80 %")]
    public void What_is_not_tried_is_named(string text, string untried)
    {
        Proposal proposal = Proposing.Of(House, Logic, Said(text), "t")!;
        Assert.Empty(proposal.Test.Clauses);
        Assert.Contains($"# Not tried of the clause: {untried}.", Text(proposal), StringComparison.Ordinal);
    }

    /// <summary>Expectations are the clause's: where the logic does the contrary the proposal fails, rather than agreeing with it.</summary>
    [Theory]
    [InlineData("Below 20 °C the extract fan runs.")]
    [InlineData("Above 45 °C the extract fan stops.")]
    public void What_is_not_so_is_shown_as_it_fails(string text) => Assert.False(Proposing.Of(House, Logic, Said(text), "t")!.Passes);

    [Theory]
    [InlineData("All work is to be done with care.")]
    [InlineData("")]
    [InlineData("Above 28 °C.")]
    public void Words_that_ask_for_nothing_are_left(string text) => Assert.Null(Proposing.Of(House, Logic, Said(text), "t"));

    /// <summary>Of the clauses that ship with templates at least a third can be had by one press, and each of those notices when the claims it is about are taken off.</summary>
    [Fact]
    public void Of_the_clauses_that_ship_many_are_proven_by_one_press()
    {
        int all = 0, proven = 0;
        foreach (var (project, sequence) in Shipped())
        {
            foreach (Clause clause in sequence.Clauses)
            {
                all++;
                if (Proposing.Of(project, sequence, clause, "t") is not { Passes: true } proposal) continue;
                proven++;
                Assert.False(ProofBench.Prove(project, sequence with { Commands = [] }, proposal.Test).Passed, clause.Text);
                Assert.Equal(proposal.Test.Clauses.Count == 0, proposal.Test.Steps.OfType<NoteStep>().Any(n => n.Text.StartsWith("Not tried", StringComparison.Ordinal)));
            }
        }
        Assert.True(proven * 3 >= all, $"{proven} of {all}");
    }

    private static IEnumerable<(Project, Core.Sequences.Sequence)> Shipped()
    {
        foreach (Template template in StarterLibrary.Templates.Where(t => t.Records.OfType<Core.Sequences.Sequence>().Any(s => s.Clauses.Count > 0)))
        {
            PlacingPlan plan = Placing.Plan(House, template, new PlacingRequest([Room], 1, "Unit"));
            Project project = Accept(Project(), [.. plan.Records]);
            foreach (var sequence in plan.Records.OfType<Core.Sequences.Sequence>()) yield return (project, sequence);
        }
    }
}
