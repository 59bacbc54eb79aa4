using LoftyWren.Core.Findings;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Sequences;

/// <summary>The checks of a sequence as a program: logic that leads nowhere, conditions that never change, mode tables, and what its clauses and tests leave out.</summary>
public static class SequenceChecks
{
    /// <summary>All findings of a sequence as a program.</summary>
    public static IEnumerable<Finding> On(Project project, Sequence sequence)
    {
        foreach (Finding finding in LeadsNowhere(sequence).Concat(Coverage(sequence))) yield return finding;
        Typing typing = Typing.Of(sequence, project);
        if (typing.Problems.Count > 0) yield break;
        Constancy constancy = Constancy.Of(typing, project);
        foreach (var (block, value) in constancy.All.Where(c => BlockType.Of(c.Block.Kind).Outputs[0].Kind == PinKind.Binary))
        {
            string says = value > 0.5 ? "on" : "off";
            yield return new Finding($"constant|{sequence.Id}|{block.Id}", "constant", Severity.Medium, sequence.Id, $"‘{block.Called()}’ can only ever be {says}.",
                $"Whatever happens, what reaches it cannot make it {(value > 0.5 ? "off" : "on")}: {(block.Inputs.Values.All(i => constancy.Of(i) is not null) ? "it is fed by constants" : "one of its inputs settles it, or its limit is beyond what the point can come to")}. Correct what it compares, or put a constant in its place.");
        }
        foreach (Finding finding in ModeChecks.On(project, sequence, typing, constancy)) yield return finding;
    }

    /// <summary>The blocks that something commanded depends on.</summary>
    private static HashSet<string> Alive(Sequence sequence)
    {
        var byId = sequence.Blocks.GroupBy(b => b.Id).ToDictionary(g => g.Key, g => g.First());
        var alive = new HashSet<string>();
        var stack = new Stack<string>(sequence.Commands.SelectMany(c => c.Claims).Select(c => c.Source).OfType<BlockSource>().Select(s => s.BlockId));
        while (stack.TryPop(out string? id))
        {
            if (!alive.Add(id) || !byId.TryGetValue(id, out Block? block)) continue;
            foreach (BlockSource source in block.Inputs.Values.OfType<BlockSource>()) stack.Push(source.BlockId);
        }
        return alive;
    }

    /// <summary>Logic that leads to no output: told once for each end of it, with how much leads there alone; of a ring, which has no end, once for its first block.</summary>
    private static IEnumerable<Finding> LeadsNowhere(Sequence sequence)
    {
        var alive = Alive(sequence);
        var dead = sequence.Blocks.Where(b => !alive.Contains(b.Id)).ToList();
        var byId = dead.ToDictionary(b => b.Id);
        var read = sequence.Sources().Select(s => s.Source).OfType<BlockSource>().Select(s => s.BlockId).ToHashSet();
        var told = new HashSet<string>();
        foreach (Block end in dead.OrderBy(b => read.Contains(b.Id)))
        {
            if (told.Contains(end.Id)) continue;
            int before = told.Count;
            var stack = new Stack<Block>([end]);
            while (stack.TryPop(out Block? block))
            {
                if (!told.Add(block.Id)) continue;
                foreach (BlockSource source in block.Inputs.Values.OfType<BlockSource>())
                {
                    if (byId.TryGetValue(source.BlockId, out Block? fed)) stack.Push(fed);
                }
            }
            int others = told.Count - before - 1;
            yield return new Finding($"unused-block|{sequence.Id}|{end.Id}", "unused-block", Severity.Low, sequence.Id, read.Contains(end.Id) ? $"‘{end.Called()}’ leads to no output." : $"Nothing reads ‘{end.Called()}’.",
                $"It is calculated for nothing{(others == 0 ? "" : others == 1 ? ", and so is a block that leads to it alone" : $", and so are {others} blocks that lead to it alone")}. Connect it to what it is for, or delete it.");
        }
    }

    /// <summary>Clauses that no test proves, and logic that no clause asks for; both only where clauses are written.</summary>
    private static IEnumerable<Finding> Coverage(Sequence sequence)
    {
        if (sequence.Clauses.Count == 0) yield break;
        var proven = sequence.Tests.SelectMany(t => t.Clauses).ToHashSet();
        if (sequence.Clauses.Select((c, i) => (c, Number: i + 1)).Where(c => c.c.IsMetIn(sequence) && !proven.Contains(c.c.Id)).Select(c => c.Number).ToList() is { Count: > 0 } unproven)
            yield return new Finding($"clause-unproven|{sequence.Id}", "clause-unproven", Severity.Low, sequence.Id, $"No test proves clause{(unproven.Count > 1 ? "s" : "")} {NumberRuns.Said(unproven)} of ‘{sequence.Name}’.", "Write tests of what they ask for, and say which clause each proves.");
        if (Unasked(sequence) is { Count: > 0 } unasked)
            yield return new Finding($"unasked|{sequence.Id}", "unasked", Severity.Low, sequence.Id, $"No clause of ‘{sequence.Name}’ asks for {Listed(unasked)}.", "Say which clause they meet, write the clause that is missing, or take them out: what nobody asked for nobody will test.");
    }

    private static string Listed(IReadOnlyList<Block> blocks) => string.Join(", ", blocks.Take(4).Select(b => $"‘{b.Called()}’")) + (blocks.Count > 4 ? $" and {blocks.Count - 4} more" : "");

    /// <summary>Logic that no clause asks for: blocks that are said to meet none, and that feed nothing which does.</summary>
    public static IReadOnlyList<Block> Unasked(Sequence sequence)
    {
        var asked = sequence.Clauses.SelectMany(c => c.Blocks).Concat(sequence.Clauses.SelectMany(c => c.Modes).Select(m => m.Split('/')[0])).ToHashSet();
        var outputs = sequence.Clauses.SelectMany(c => c.Outputs).ToHashSet();
        var byId = sequence.Blocks.GroupBy(b => b.Id).ToDictionary(g => g.Key, g => g.First());
        var stack = new Stack<string>(asked.Concat(sequence.Commands.Where(c => outputs.Contains(c.PointId)).SelectMany(c => c.Claims).Select(c => c.Source).OfType<BlockSource>().Select(s => s.BlockId)));
        var covered = new HashSet<string>();
        while (stack.TryPop(out string? id))
        {
            if (!covered.Add(id) || !byId.TryGetValue(id, out Block? block)) continue;
            foreach (BlockSource source in block.Inputs.Values.OfType<BlockSource>()) stack.Push(source.BlockId);
        }
        return [.. sequence.Blocks.Where(b => !covered.Contains(b.Id))];
    }
}
