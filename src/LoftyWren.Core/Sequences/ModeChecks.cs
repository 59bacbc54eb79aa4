using LoftyWren.Core.Findings;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Sequences;

/// <summary>The checks of mode tables: modes that never come, modes without a way out, outputs that a mode leaves undefined.</summary>
internal static class ModeChecks
{
    public static IEnumerable<Finding> On(Project project, Sequence sequence, Typing typing, Constancy constancy)
    {
        var columns = typing.Plain.Blocks.Where(b => BlockType.Of(b.Kind).IsInner).ToDictionary(b => b.Id);
        foreach (Block plain in typing.Plain.Blocks)
        {
            if (plain.Table is not { } table) continue;
            string called = plain.Called();
            Finding Found(string rule, int mode, Severity severity, string what, string why) => new($"{rule}|{sequence.Id}|{plain.Id}|{mode}", rule, severity, sequence.Id, what, why);
            var reached = Reached(table, plain, constancy);
            foreach (var (mode, place) in table.Modes.Select((m, i) => (m, i)).SkipLast(1))
            {
                if (Unreachable(table, plain, constancy, reached, mode, place) is { } why) yield return Found("mode-unreachable", mode.Slot, Severity.Medium, $"‘{called}’ can never be in {mode.Name}.", why);
                else if (IsWithoutEnd(table, plain, constancy, reached, mode, place)) yield return Found("mode-endless", mode.Slot, Severity.High, $"‘{called}’ has no way out of {mode.Name}.", "What brings it never goes, nothing ends it, it has no longest time, and no stronger mode can take its place. Say what ends it, or how long it lasts at most.");
            }
            foreach (ModeColumn column in table.Columns)
            {
                Block cells = columns[$"{plain.Id}.{ModeTable.Column(column.Slot)}"];
                foreach (Mode mode in table.Modes.Where((m, place) => !m.Releases.Contains(column.Slot) && !cells.Inputs.ContainsKey($"in{place + 1}")))
                    yield return new Finding($"mode-open|{sequence.Id}|{plain.Id}|{column.Slot}|{mode.Slot}", "mode-open", Severity.Medium, sequence.Id, $"‘{called}’ does not say what {column.Name} is in {mode.Name}.", "It says nothing then. Fill the cell in, or release it on purpose.");
                foreach (Finding undefined in Undefined(project, typing.Plain, plain, table, column)) yield return undefined;
            }
        }
    }

    /// <summary>An output that is released in a mode, and that nothing else commands then.</summary>
    private static IEnumerable<Finding> Undefined(Project project, Sequence sequence, Block block, ModeTable table, ModeColumn column)
    {
        var released = table.Modes.Where(m => m.Releases.Contains(column.Slot)).ToList();
        foreach (OutputCommand command in sequence.Commands.Where(c => released.Count > 0 && c.Claims.Any(k => k.Source is BlockSource s && s.BlockId == $"{block.Id}.{ModeTable.Column(column.Slot)}")))
        {
            if (project.Find<Point>(command.PointId) is not { Fallback: null } point || Checks.ClaimsOn(project, point).Skip(1).Any()) continue;
            yield return new Finding($"mode-undefined|{sequence.Id}|{block.Id}|{column.Slot}", "mode-undefined", Severity.High, sequence.Id,
                $"‘{point.Name}’ has no value in {string.Join(", ", released.Select(m => m.Name))}.", $"‘{block.Called()}’ releases it then, nothing else claims it, and it has no fallback. Say a value, or give the point a fallback.");
        }
    }

    /// <summary>The modes that can be come to: the last, those that begin after a start, and those whose condition may hold and that follow one of these.</summary>
    private static HashSet<int> Reached(ModeTable table, Block plain, Constancy constancy)
    {
        var reached = table.Modes.Where((m, i) => i == table.Modes.Count - 1 || m.Starts.Count > 0).Select(m => m.Slot).ToHashSet();
        for (int before = -1; before != reached.Count;)
        {
            before = reached.Count;
            foreach (Mode mode in table.Modes.SkipLast(1).Where(m => MayHold(plain, constancy, m) && (m.From.Count == 0 || m.From.Any(reached.Contains)))) reached.Add(mode.Slot);
        }
        return reached;
    }

    private static bool MayHold(Block plain, Constancy constancy, Mode mode) =>
        plain.Inputs.TryGetValue(ModeTable.When(mode.Slot), out Source? when) && constancy.Of(when) is not <= 0.5 && constancy.Of(plain.Inputs.GetValueOrDefault(ModeTable.Until(mode.Slot))) is not > 0.5;

    private static string? Unreachable(ModeTable table, Block plain, Constancy constancy, HashSet<int> reached, Mode mode, int place)
    {
        bool hasWhen = plain.Inputs.TryGetValue(ModeTable.When(mode.Slot), out Source? when);
        if (!hasWhen && mode.Starts.Count == 0) return "Nothing brings it: it has no condition, and no start of the controller begins with it.";
        if (mode.Starts.Count > 0) return null;
        if (constancy.Of(when) is <= 0.5) return "What brings it is always off.";
        if (constancy.Of(plain.Inputs.GetValueOrDefault(ModeTable.Until(mode.Slot))) is > 0.5) return "What ends it is always on.";
        if (!reached.Contains(mode.Slot)) return $"It comes only from {string.Join(", ", mode.From.Select(f => table.Modes.FirstOrDefault(m => m.Slot == f)?.Name ?? "a mode that has gone"))}, which never {(mode.From.Count == 1 ? "is" : "are")}.";
        // Precedence decides between two that hold at once; where the stronger always does, the weaker has no turn.
        Mode? above = table.Modes.Take(place).FirstOrDefault(m => m.From.Count == 0 && m.Most <= 0 && m.EnterAfter <= mode.EnterAfter && !plain.Inputs.ContainsKey(ModeTable.Until(m.Slot)) && plain.Inputs.TryGetValue(ModeTable.When(m.Slot), out Source? other) && (Equals(other, when) || constancy.Of(other) is > 0.5));
        return above is null ? null : constancy.Of(plain.Inputs[ModeTable.When(above.Slot)]) is > 0.5 ? $"{above.Name} is above it and always holds." : $"{above.Name} is above it and comes by the very same condition, so it always takes its place.";
    }

    private static bool IsWithoutEnd(ModeTable table, Block plain, Constancy constancy, HashSet<int> reached, Mode mode, int place)
    {
        if (mode.Most > 0 || table.Modes.Take(place).Any(m => reached.Contains(m.Slot) && (m.From.Count == 0 || m.From.Contains(mode.Slot)) && MayHold(plain, constancy, m))) return false;
        return plain.Inputs.TryGetValue(ModeTable.Until(mode.Slot), out Source? until) ? constancy.Of(until) is <= 0.5 : constancy.Of(plain.Inputs.GetValueOrDefault(ModeTable.When(mode.Slot))) is > 0.5;
    }
}
