using System.Globalization;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Sequences.Ledger;

/// <summary>
/// One line of a ledger: its number from 1, its text, the block, or the output (as <c>o:</c> and its id), that it is of,
/// the numbers of the lines it reads and of those that read it, and its place in the order of calculation (0 for outputs).
/// </summary>
public sealed record LedgerLine(int Number, string Text, string? Of, IReadOnlyList<int> Reads, IReadOnlyList<int> ReadBy, int Order);

/// <summary>
/// A sequence as numbered lines, each a named result in words and trade notation:
/// <code>
/// Too warm = Two-position (measured: Room temperature, limit: High limit; differential: 1 K)
/// Both = Too warm and Door closed
/// Extract fan ← 10 High temperature: Both
/// </code>
/// A block is a line, an output is a line for each of its claims, a mode is a line below its table. <see cref="LedgerReader"/>
/// reads it back.
/// </summary>
public static class LedgerText
{
    /// <summary>The ledger of a sequence.</summary>
    /// <param name="project">The project.</param>
    /// <param name="sequence">The sequence, or what is inside an own block as one.</param>
    /// <param name="inputs">What the inputs of the own block are called, by pin.</param>
    public static IReadOnlyList<LedgerLine> Write(Project project, Sequence sequence, IReadOnlyDictionary<string, string>? inputs = null)
    {
        var names = new LedgerNames(project, sequence, inputs);
        Typing typing = Typing.Of(sequence, project);
        var lines = new List<(string Text, string Of, List<Source> Reads)>();
        foreach (Block block in sequence.Blocks)
        {
            lines.Add((OfBlock(block, names, typing), block.Id, [.. block.Inputs.Values]));
            if (block.Table is { } table) lines.AddRange(table.Modes.Select((m, i) => (OfMode(block, table, m, names, i == table.Modes.Count - 1), block.Id, new List<Source>())));
        }
        foreach (OutputCommand command in sequence.Commands)
        {
            string output = Quoted(names.Of(command.PointId), "=<←");
            if (command.Claims.Count == 0) lines.Add(($"{output} ←", $"o:{command.PointId}", []));
            foreach (Claim claim in command.Claims)
                lines.Add(($"{output} ← {claim.Priority}{(string.IsNullOrWhiteSpace(claim.Label) ? "" : $" {Quoted(claim.Label, ":")}")}: {(claim.Source is { } source ? Named(names, source) : "open")}", $"o:{command.PointId}", claim.Source is { } read ? [read] : []));
        }
        var numberOf = new Dictionary<string, int>();
        for (int i = 0; i < lines.Count; i++) numberOf.TryAdd(lines[i].Of, i + 1);
        var reads = lines.ConvertAll(l => l.Reads.OfType<BlockSource>().Select(b => numberOf.GetValueOrDefault(b.BlockId)).Where(n => n > 0).Distinct().Order().ToList());
        var readBy = new List<int>[lines.Count];
        for (int i = 0; i < lines.Count; i++) readBy[i] = [];
        for (int i = 0; i < lines.Count; i++)
        {
            foreach (int n in reads[i]) readBy[n - 1].Add(i + 1);
        }
        var order = new Dictionary<string, int>();
        foreach (Block plain in typing.Order) order[plain.Id.Split('.')[0]] = order.Count + 1;
        return [.. lines.Select((l, i) => new LedgerLine(i + 1, l.Text, l.Of, reads[i], readBy[i], order.GetValueOrDefault(l.Of)))];
    }

    // What a line says of a table, and words that begin what is no name where a name may stand.
    private const string Again = "begins anew";
    private static readonly string[] Words = ["open", "released", "own"];

    /// <summary>The whole text of a ledger.</summary>
    public static string Whole(Project project, Sequence sequence) => string.Join('\n', Write(project, sequence).Select(l => l.Text));

    /// <summary>A label of a kind's pin or setting as a ledger writes it: its own where no other has it.</summary>
    internal static string LabelOf(BlockType type, string name, string label) => Labels(type).Count(l => l.Equals(label, StringComparison.OrdinalIgnoreCase)) == 1 ? label : name;

    private static IEnumerable<string> Labels(BlockType type) => [.. type.Inputs.Select(i => i.Label), .. type.Numbers.Select(n => n.Label), .. type.Choices.Select(c => c.Label), .. type.Texts.Select(t => t.Label), .. type.Tables.Select(t => t.Label)];

    /// <summary>The inputs of a block that stand in order between operators, or null where its line is not written with them.</summary>
    internal static IReadOnlyList<Source>? Operands(Block block, BlockType type)
    {
        if (type.Operator is null || block.Numbers.Count > 0 || block.Choices.Count > 0) return null;
        if (type.Inputs.Count == 1) return block.Inputs.TryGetValue(type.Inputs[0].Name, out Source? one) ? [one] : null;
        var sources = type.Inputs.TakeWhile(i => block.Inputs.ContainsKey(i.Name)).Select(i => block.Inputs[i.Name]).ToList();
        return sources.Count >= 2 && sources.Count == block.Inputs.Count ? sources : null;
    }

    private static string OfBlock(Block block, LedgerNames names, Typing typing)
    {
        BlockType type = BlockType.Of(block);
        string name = Quoted(names.OfBlock(block.Id), "=<←");
        string unit = string.IsNullOrEmpty(block.OutputUnit) ? "" : $" in {block.OutputUnit}";
        if (Operands(block, type) is { } operands)
            return $"{name} = {(operands.Count == 1 ? $"{type.Operator} {Named(names, operands[0])}" : string.Join($" {type.Operator} ", operands.Select(o => Named(names, o))))}{unit}";
        if (block.Table is { } table)
        {
            string columns = string.Join(", ", table.Columns.Select(c => Quoted(c.Name, ",;)")));
            return $"{name} = {type.Name} ({string.Join("; ", new[] { columns, table.BeginsAgain ? Again : "" }.Where(x => x.Length > 0))})";
        }
        var inputs = type.Inputs.Where(i => block.Inputs.ContainsKey(i.Name)).Select(i => $"{LabelOf(type, i.Name, i.Label)}: {Named(names, block.Inputs[i.Name])}");
        var settings = type.Numbers.Where(n => block.Numbers.ContainsKey(n.Name)).Select(n => $"{LabelOf(type, n.Name, n.Label)}: {Number(block.Numbers[n.Name], typing.UnitOf(block, n.Name)?.Symbol)}")
            .Concat(type.Choices.Where(c => block.Choices.ContainsKey(c.Name)).Select(c => $"{LabelOf(type, c.Name, c.Label)}: {c.Options.FirstOrDefault(o => o.Value == block.Choices[c.Name])?.Label}"))
            .Concat(type.Texts.Where(t => block.Texts?.ContainsKey(t.Name) == true).Select(t => $"{LabelOf(type, t.Name, t.Label)}: {Quoting.Words(block.Texts![t.Name])}"))
            .Concat(type.Tables.Where(t => block.Tables?.ContainsKey(t.Name) == true).Select(t => $"{LabelOf(type, t.Name, t.Label)}: {{{string.Join("; ", block.Tables![t.Name].Select(r => $"{Number(r.X, null)} → {Number(r.Y, null)}"))}}}"));
        string kind = block.Inside is { } part ? $"own {Quoting.Name(part.Name)}" : type.Name;
        string inside = string.Join("; ", new[] { string.Join(", ", inputs), string.Join(", ", settings) }.Where(x => x.Length > 0));
        return $"{name} = {kind} ({inside}){unit}";
    }

    private static string OfMode(Block block, ModeTable table, Mode mode, LedgerNames names, bool isLast)
    {
        var parts = new List<string>();
        if (block.Inputs.TryGetValue(ModeTable.When(mode.Slot), out Source? when) && !isLast) parts.Add($"when {Named(names, when)}");
        if (mode.EnterAfter > 0) parts.Add($"comes after {Number(mode.EnterAfter, "s")}");
        if (block.Inputs.TryGetValue(ModeTable.Until(mode.Slot), out Source? until) && !isLast) parts.Add($"until {Named(names, until)}");
        if (mode.LeaveAfter > 0) parts.Add($"goes after {Number(mode.LeaveAfter, "s")}");
        if (mode.Least > 0) parts.Add($"at least {Number(mode.Least, "s")}");
        if (mode.Most > 0) parts.Add($"at most {Number(mode.Most, "s")}");
        if (mode.From.Count > 0) parts.Add($"from {string.Join(", ", mode.From.Select(f => table.Modes.FirstOrDefault(m => m.Slot == f)).OfType<Mode>().Select(m => Quoted(m.Name, ",;")))}");
        if (mode.AtOnce) parts.Add("at once");
        if (mode.Starts.Count > 0) parts.Add($"begins after {string.Join(", ", mode.Starts.Select(s => StartCauses.States[StartCauses.NumberOf(s) - 1]))}");
        if (mode.Unread != UnreadCondition.No) parts.Add(mode.Unread == UnreadCondition.Yes ? "unread as holding" : "unread as it was");
        foreach (ModeColumn column in table.Columns)
        {
            if (mode.Releases.Contains(column.Slot)) parts.Add($"{Quoted(column.Name, "=;")} = released");
            else if (block.Inputs.TryGetValue(ModeTable.Cell(column.Slot, mode.Slot), out Source? cell)) parts.Add($"{Quoted(column.Name, "=;")} = {Named(names, cell)}");
        }
        return $"  {Quoted(mode.Name, ":;")}:{(parts.Count > 0 ? " " : "")}{string.Join("; ", parts)}";
    }

    /// <summary>The text of a source, in ‘ ’ where it would be taken for something else, bare.</summary>
    private static string Named(LedgerNames names, Source source)
    {
        string name = names.Of(source);
        if (source is ConstantSource) return names.All.Any(a => a.Name.StartsWith(name, StringComparison.OrdinalIgnoreCase)) || names.At(name, 0) is not null ? $"{LedgerNames.ConstantMark}{name}" : name;
        // What would read otherwise with anything that may follow it is put in quotes.
        bool isClear = !Words.Any(w => LedgerNames.Is(name, 0, w)) && LedgerNames.CanBeBare(name) && LedgerReader.Reads(names, name, source) && !name.Any(c => c is ',' or ';' or ')' or '(' or ':' or '→' or '←') && !LedgerReader.Operators.Any(o => name.Equals(o, StringComparison.OrdinalIgnoreCase) || name.Contains($" {o} ", StringComparison.OrdinalIgnoreCase) || name.StartsWith($"{o} ", StringComparison.OrdinalIgnoreCase))
            && !names.All.Any(a => a.Name.Length > name.Length && a.Name.StartsWith(name, StringComparison.OrdinalIgnoreCase) && !char.IsLetterOrDigit(a.Name[name.Length]));
        return isClear ? name : Quoting.Name(name);
    }

    private static string Quoted(string name, string ends) => !LedgerNames.CanBeBare(name) || char.IsDigit(name[0]) || LedgerNames.Is(name, 0, Again) || ends.Any(name.Contains) ? Quoting.Name(name) : name;

    private static string Number(double value, string? unit) => $"{value.ToString("R", CultureInfo.InvariantCulture)}{(string.IsNullOrEmpty(unit) ? "" : $" {unit}")}";
}
