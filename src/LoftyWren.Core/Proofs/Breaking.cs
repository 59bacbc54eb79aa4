using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Core.Proofs;

/// <summary>One way in which a sequence is broken on purpose: what was done to it, in which block or output, and what it is then.</summary>
public sealed record Breakage(string What, string Of, Sequence Broken);

/// <summary>
/// Breaks the logic of a sequence on purpose, one thing at a time, to see whether its tests notice: settings halved and doubled,
/// choices turned round, inputs taken off or their contacts turned, constants moved, claims taken off. What no test notices is
/// not proven.
/// </summary>
public static class Breaking
{
    /// <summary>All ways to break a sequence that can still be calculated.</summary>
    public static IEnumerable<Breakage> Ways(Project project, Sequence sequence) => Made(sequence).Where(b => Typing.Of(b.Broken, project).Problems.Count == 0 && b.Broken.Blocks.All(k => !Sequence.Wrong(k).Any()));

    /// <summary>Whether a test of the sequence fails once it is broken so: the first that does, or null. On the site what was sent runs, broken or not: tests there say nothing of it.</summary>
    public static FunctionTest? CaughtBy(Project project, Breakage breakage, ITestStands? stands = null) =>
        breakage.Broken.Tests.FirstOrDefault(t => t.On != TestGround.Site && (t.On == TestGround.Alone || stands is not null) && !ProofBench.Prove(project, breakage.Broken, t, stands?.For(project, breakage.Broken, t)).Passed);

    private static IEnumerable<Breakage> Made(Sequence sequence)
    {
        foreach (Block block in sequence.Blocks)
        {
            foreach (var (what, broken) in Changed(block)) yield return new Breakage(what, block.Id, sequence with { Blocks = [.. sequence.Blocks.Select(b => b.Id == block.Id ? broken : b)] });
        }
        foreach (OutputCommand command in sequence.Commands)
        {
            foreach (Claim claim in command.Claims)
                yield return new Breakage($"without claim {claim.Priority} {claim.Label}", $"o:{command.PointId}", sequence with { Commands = [.. sequence.Commands.Select(c => c.PointId == command.PointId ? c with { Claims = [.. c.Claims.Where(k => k != claim)] } : c)] });
        }
    }

    /// <summary>A block with one thing of it changed, for each that can be; of an own block also what is inside.</summary>
    private static IEnumerable<(string What, Block Broken)> Changed(Block block)
    {
        BlockType type = BlockType.Of(block);
        // Settings that were left as they begin are no less settings.
        foreach (NumberSetting setting in type.Numbers.Where(n => n.With is not { } with || type.Number(block, with) != 0))
        {
            double value = type.Number(block, setting.Name);
            foreach (double other in (double[])(value == 0 ? [setting.High / 2] : [value * 2, value / 2]))
            {
                if (other >= setting.Low && other <= setting.High) yield return ($"{setting.Label} {other:0.###} in place of {value:0.###}", block with { Numbers = new Dictionary<string, double>(block.Numbers) { [setting.Name] = other } });
            }
        }
        foreach (ChoiceSetting choice in type.Choices)
        {
            string now = type.Choice(block, choice.Name);
            foreach (ChoiceOption other in choice.Options.Where(o => o.Value != now)) yield return ($"{choice.Label}: {other.Label}", block with { Choices = new Dictionary<string, string>(block.Choices) { [choice.Name] = other.Value } });
        }
        foreach (var (pin, source) in block.Inputs)
        {
            string label = type.Inputs.FirstOrDefault(i => i.Name == pin)?.Label ?? pin;
            if (source is ConstantSource constant)
            {
                ConstantSource moved = constant.Binary ? constant with { Value = 1 - constant.Value } : constant with { Value = constant.Value == 0 ? 10 : constant.Value * 1.5 };
                yield return ($"{label}: {ConstantText.Say(moved)} in place of {ConstantText.Say(constant)}", block with { Inputs = new Dictionary<string, Source>(block.Inputs) { [pin] = moved } });
            }
            else yield return ($"{label} not connected", block with { Inputs = block.Inputs.Where(i => i.Key != pin).ToDictionary(i => i.Key, i => i.Value) });
        }
        if (block.Inputs.TryGetValue("in1", out Source? one) && block.Inputs.TryGetValue("in2", out Source? two) && type.Compares is not null)
            yield return ("its inputs turned round", block with { Inputs = new Dictionary<string, Source> { ["in1"] = two, ["in2"] = one } });
        if (type.Opposite is { } opposite && block.Inputs.Keys.All(k => BlockType.Of(opposite).Inputs.Any(i => i.Name == k))) yield return ($"{BlockType.Of(opposite).Name} in its place", block with { Kind = opposite });
        foreach (Mode mode in block.Table?.Modes.SkipLast(1) ?? [])
        {
            foreach (var (what, changed) in Changed(mode)) yield return ($"{mode.Name}: {what}", block with { Modes = block.Table! with { Modes = [.. block.Table.Modes.Select(m => m.Slot == mode.Slot ? changed : m)] } });
        }
        foreach (Block inner in block.Inside?.Blocks ?? [])
        {
            foreach (var (what, broken) in Changed(inner)) yield return ($"{inner.Called()}: {what}", block with { Inside = block.Inside! with { Blocks = [.. block.Inside.Blocks.Select(b => b.Id == inner.Id ? broken : b)] } });
        }
    }

    private static IEnumerable<(string What, Mode Changed)> Changed(Mode mode)
    {
        if (mode.EnterAfter > 0) yield return ("comes without delay", mode with { EnterAfter = 0 });
        if (mode.LeaveAfter > 0) yield return ("goes without delay", mode with { LeaveAfter = 0 });
        if (mode.Least > 0) yield return ("no least time", mode with { Least = 0 });
        if (mode.Most > 0) yield return ("no longest time", mode with { Most = 0 });
        if (mode.From.Count > 0) yield return ("from any mode", mode with { From = [] });
        if (mode.Starts.Count > 0) yield return ("not after a start", mode with { Starts = [] });
    }
}
