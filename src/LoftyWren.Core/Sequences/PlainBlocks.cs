namespace LoftyWren.Core.Sequences;

/// <summary>
/// A sequence as it is calculated: mode tables and own blocks are taken apart into plain blocks. What stands inside an own
/// block has that one's id before its own, with a dot between; ids of designed blocks have none.
/// </summary>
public static class PlainBlocks
{
    private const int LongestChain = 200;

    /// <summary>Where a source leads that was written at some place: in the sequence itself, or inside an own block.</summary>
    private sealed record Scope(string Prefix, IReadOnlyDictionary<string, Block> Blocks, Block? Owner, Scope? Outside);

    /// <summary>Whether anything has to be taken apart.</summary>
    public static bool IsPlain(Sequence sequence) => !sequence.Blocks.Any(b => BlockType.Of(b.Kind).HasInside);

    /// <summary>The sequence in plain blocks, and what the outputs of those that were taken apart come to.</summary>
    public static (Sequence Plain, IReadOnlyDictionary<(string Block, string Pin), BlockSource> Outputs) Of(Sequence sequence)
    {
        var outputs = new Dictionary<(string, string), BlockSource>();
        if (IsPlain(sequence)) return (sequence, outputs);
        var blocks = new List<Block>();
        var scope = new Scope("", ById(sequence.Blocks), null, null);
        Take(sequence.Blocks, scope, blocks, outputs, 0);
        Sequence plain = sequence with
        {
            Blocks = blocks,
            Commands = [.. sequence.Commands.Select(c => c with { Claims = [.. c.Claims.Select(k => k.Source is null ? k : k with { Source = Lead(k.Source, scope, 0) })] })],
        };
        return (plain, outputs);
    }

    /// <summary>The designed block and pin that a plain one stands for.</summary>
    public static (string Block, string Pin) Designed(Sequence sequence, string block, string pin)
    {
        int dot = block.IndexOf('.', StringComparison.Ordinal);
        if (dot < 0) return (block, pin);
        string outer = block[..dot];
        if (sequence.Blocks.FirstOrDefault(b => b.Id == outer)?.Table is not { } table || !pin.StartsWith("in", StringComparison.Ordinal)) return (outer, pin);
        Mode? mode = double.TryParse(pin[2..], out double place) ? table.At(place) : null;
        return (outer, mode is null ? pin : $"{block[(dot + 1)..]}m{mode.Slot}");
    }

    private static Dictionary<string, Block> ById(IEnumerable<Block> blocks) => blocks.GroupBy(b => b.Id).ToDictionary(g => g.Key, g => g.First());

    private static void Take(IReadOnlyList<Block> from, Scope scope, List<Block> into, Dictionary<(string, string), BlockSource> outputs, int depth)
    {
        foreach (Block block in from)
        {
            string id = scope.Prefix + block.Id;
            if (block.Table is { } table)
            {
                into.AddRange(table.Plain(id, block, s => Lead(s, scope, 0)));
                foreach (ModeColumn column in table.Columns) outputs[(id, ModeTable.Column(column.Slot))] = new BlockSource($"{id}.{ModeTable.Column(column.Slot)}");
            }
            else if (block.Inside is { } part)
            {
                if (depth >= Part.Deepest) continue;
                Scope inside = Inside(block, part, scope);
                Take([.. part.Blocks.Select(b => part.Set(b, block)).Select(b => b with { Label = $"{block.Called()} · {b.Called()}" })], inside, into, outputs, depth + 1);
                foreach (PartOutput output in part.Outputs)
                {
                    if (Lead(new BlockSource(output.BlockId, output.Pin), inside, 0) is BlockSource source) outputs[(id, output.Id)] = source;
                }
            }
            else if (!BlockType.Of(block.Kind).IsShell) into.Add(block with { Id = id, Inputs = block.Inputs.Select(i => (i.Key, Source: Lead(i.Value, scope, 0))).Where(i => i.Source is not null).ToDictionary(i => i.Key, i => i.Source!) });
        }
    }

    private static Scope Inside(Block block, Part part, Scope scope) => new($"{scope.Prefix}{block.Id}.", ById(part.Blocks), block, scope);

    /// <summary>A source as the plain blocks know it; null where an input that it stands for is open.</summary>
    private static Source? Lead(Source source, Scope scope, int steps)
    {
        if (steps > LongestChain) return null;
        switch (source)
        {
            case PinSource pin:
                return scope.Outside is { } outside && scope.Owner!.Inputs.TryGetValue(pin.Pin, out Source? fed) ? Lead(fed, outside, steps + 1) : null;
            case BlockSource from:
                string id = scope.Prefix + from.BlockId;
                if (!scope.Blocks.TryGetValue(from.BlockId, out Block? block)) return new BlockSource(id, from.Pin);
                if (block.Inside is { } part && part.Outputs.FirstOrDefault(o => o.Id == from.Pin) is { } output) return Lead(new BlockSource(output.BlockId, output.Pin), Inside(block, part, scope), steps + 1);
                if (block.Table?.Columns.Any(c => ModeTable.Column(c.Slot) == from.Pin) == true) return new BlockSource($"{id}.{from.Pin}");
                return scope.Prefix.Length == 0 ? from : new BlockSource(id, from.Pin);
            default:
                return source;
        }
    }
}
