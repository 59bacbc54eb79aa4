using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Sequences;

/// <summary>Puts a block behind what is picked: it takes what leaves there, and whoever read that reads the new block from now on.</summary>
public static class Wrapping
{
    /// <summary>The sequence with a block of a kind behind some of its blocks, and that block's id.</summary>
    /// <exception cref="InvalidOperationException">They cannot be wrapped in it; the message says why.</exception>
    public static (Sequence Sequence, string BlockId) Around(Project project, Sequence sequence, IReadOnlyCollection<string> ids, BlockKind kind, string id)
    {
        var inside = sequence.Blocks.Where(b => ids.Contains(b.Id)).Select(b => b.Id).ToHashSet();
        if (inside.Count == 0) throw new InvalidOperationException("Pick the blocks that it is to stand behind.");
        BlockType type = BlockType.Of(kind);
        if (type.IsRetired || type.IsInner || type.Outputs.Count == 0) throw new InvalidOperationException($"{type.Name} cannot be put behind anything: insert it, and connect it.");
        if (type.Inputs.Count == 0) throw new InvalidOperationException($"{type.Name} takes nothing in, so it cannot stand behind anything.");
        bool isRead(Source? source, out BlockSource read) => (read = (source as BlockSource)!) is not null && inside.Contains(read.BlockId);
        var leaves = sequence.Sources().Where(s => (s.Block is null || !inside.Contains(s.Block.Id)) && isRead(s.Source, out _)).Select(s => (BlockSource)s.Source).Distinct().ToList();
        if (leaves.Count > 1) throw new InvalidOperationException($"{leaves.Count} values leave what is picked ({string.Join(", ", leaves.Select(l => sequence.Blocks.First(b => b.Id == l.BlockId).Says(l.Pin)))}); one block can stand behind one of them. Pick the block that gives it alone.");
        BlockSource gives = leaves.Count == 1 ? leaves[0] : new BlockSource(sequence.Blocks.Last(b => inside.Contains(b.Id)).Id, BlockType.Of(sequence.Blocks.Last(b => inside.Contains(b.Id))).Outputs[0].Name);
        Source Led(Source source) => source.Equals(gives) ? new BlockSource(id, type.Outputs[0].Name) : source;
        Sequence With(string pin) => sequence with
        {
            Blocks = [.. sequence.Blocks.Select(b => inside.Contains(b.Id) ? b : b with { Inputs = b.Inputs.ToDictionary(i => i.Key, i => Led(i.Value)) }), new Block { Id = id, Kind = kind, Inputs = new Dictionary<string, Source> { [pin] = gives } }],
            Commands = [.. sequence.Commands.Select(c => c with { Claims = [.. c.Claims.Select(k => k.Source is null ? k : k with { Source = Led(k.Source) })] })],
        };
        // Of its inputs the first that makes the fewest mistakes: what else it needs is asked for as of any block.
        return (type.Inputs.Select(p => With(p.Name)).MinBy(s => Typing.Of(s, project).Problems.Count)!, id);
    }
}
