using System.Runtime.CompilerServices;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Sequences;

/// <summary>An input of an own block.</summary>
public sealed record PartInput
{
    /// <summary>Its identity within the block.</summary>
    public required string Id { get; init; }

    /// <summary>What it is called.</summary>
    [Most(40)]
    public required string Label { get; init; }

    /// <summary>Whether it must be connected.</summary>
    public bool Required { get; init; }
}

/// <summary>An output of an own block: an output of one of the blocks inside.</summary>
public sealed record PartOutput
{
    /// <summary>Its identity within the block.</summary>
    public required string Id { get; init; }

    /// <summary>What it is called.</summary>
    [Most(40)]
    public required string Label { get; init; }

    /// <summary>The block inside.</summary>
    public required string BlockId { get; init; }

    /// <summary>Which of its outputs.</summary>
    public string Pin { get; init; } = "out";
}

/// <summary>A number setting of a block inside that is set from outside.</summary>
public sealed record PartSetting
{
    /// <summary>Its identity within the block.</summary>
    public required string Id { get; init; }

    /// <summary>What it is called.</summary>
    [Most(40)]
    public required string Label { get; init; }

    /// <summary>The block inside.</summary>
    public required string BlockId { get; init; }

    /// <summary>Which of its number settings.</summary>
    public required string Setting { get; init; }
}

/// <summary>
/// What is inside an own block: blocks with named pins and settings, in one of the revisions that the block of that name has had.
/// Nothing inside reaches outside but through the pins.
/// </summary>
public sealed record Part
{
    /// <summary>How deep own blocks may stand in each other.</summary>
    public const int Deepest = 5;

    private static readonly ConditionalWeakTable<Part, BlockType> Types = [];

    /// <summary>What it is called in the library.</summary>
    [Most(60)]
    public required string Name { get; init; }

    /// <summary>The revision of the own block of that name that this is.</summary>
    public int Revision { get; init; }

    /// <summary>Its inputs.</summary>
    [Most(24)]
    public IReadOnlyList<PartInput> Inputs { get; init; } = [];

    /// <summary>Its outputs.</summary>
    [Most(24)]
    public IReadOnlyList<PartOutput> Outputs { get; init; } = [];

    /// <summary>Its settings.</summary>
    [Most(24)]
    public IReadOnlyList<PartSetting> Settings { get; init; } = [];

    /// <summary>The blocks inside.</summary>
    [Most(200)]
    public IReadOnlyList<Block> Blocks { get; init; } = [];

    /// <summary>The kind with the pins and settings of this block.</summary>
    public BlockType Type() => Types.GetValue(this, part => BlockType.Of(BlockKind.Own) with
    {
        Name = part.Name,
        Inputs = [.. part.Inputs.Select(i => new Pin(i.Id, i.Label, PinKind.Any, i.Required))],
        Outputs = [.. part.Outputs.Select(o => new Pin(o.Id, o.Label, KindOf(o)))],
        Numbers = [.. part.Settings.Select(s => NumberOf(s)).OfType<NumberSetting>()],
        HasMemory = part.Blocks.Any(b => BlockType.Of(b).HasMemory),
    });

    private PinKind KindOf(PartOutput output) => Inside(output.BlockId) is { } block ? BlockType.Of(block).Outputs.FirstOrDefault(o => o.Name == output.Pin)?.Kind ?? PinKind.Any : PinKind.Any;

    private Block? Inside(string id) => Blocks.FirstOrDefault(b => b.Id == id);

    private NumberSetting? NumberOf(PartSetting setting) => Inside(setting.BlockId) is { } block && BlockType.Of(block).Numbers.FirstOrDefault(n => n.Name == setting.Setting) is { } number
        ? number with { Name = setting.Id, Label = setting.Label, Default = BlockType.Of(block).Number(block, number.Name) } : null;

    /// <summary>What is wrong with it, called so in a sentence.</summary>
    public IEnumerable<string> Wrong(string called, int depth = 1)
    {
        if (depth > Deepest)
        {
            yield return $"Own blocks stand in each other at most {Deepest} deep; ‘{called}’ is deeper.";
            yield break;
        }
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > 60) yield return $"An own block needs a name of 1 to 60 characters; this one has {Name.Length}.";
        if (Blocks.Count is 0 or > 200) yield return $"‘{called}’ has {Blocks.Count} blocks inside; an own block has 1 to 200.";
        if (Outputs.Count == 0) yield return $"‘{called}’ has no output, so nothing could read it.";
        foreach (string twice in Blocks.GroupBy(b => b.Id).Where(g => g.Skip(1).Any()).Select(g => g.Key)) yield return $"Two blocks inside ‘{called}’ have the identity ‘{twice}’.";
        foreach (string id in Inputs.Select(i => i.Id).Concat(Outputs.Select(o => o.Id)).Concat(Settings.Select(s => s.Id)).Where(id => !RecordId.IsValid(id))) yield return $"‘{id}’ is not the identity of a pin: use 1 to 64 of a–z, 0–9 and hyphen.";
        foreach (IEnumerable<string> labels in (IEnumerable<string>[])[Inputs.Select(i => i.Label), Outputs.Select(o => o.Label)])
        {
            foreach (string label in labels.GroupBy(l => l, StringComparer.OrdinalIgnoreCase).Where(g => g.Skip(1).Any()).Select(g => g.Key)) yield return $"Two pins of ‘{called}’ are called ‘{label}’.";
        }
        foreach (Block old in Blocks.Where(b => BlockType.Of(b.Kind).IsRetired)) yield return $"‘{old.Called()}’ is a block of an older version. Convert the sequence first (Program › Older programs); then it can be part of an own block.";
        foreach (PartOutput output in Outputs)
        {
            if (Inside(output.BlockId) is not { } block || BlockType.Of(block).Outputs.All(o => o.Name != output.Pin)) yield return $"The output ‘{output.Label}’ of ‘{called}’ comes from a block or pin that is not inside it.";
        }
        foreach (PartSetting setting in Settings)
        {
            if (NumberOf(setting) is null) yield return $"The setting ‘{setting.Label}’ of ‘{called}’ is of a block or number that is not inside it.";
        }
        foreach (var (id, source) in Blocks.SelectMany(b => b.Inputs.Values.Select(s => (b.Called(), s))))
        {
            if (source is PointSource or ScheduleSource) yield return $"‘{id}’ inside ‘{called}’ reads a point or schedule by itself. Lead it in through an input, or the block could stand in one place only.";
            if (source is PinSource pin && Inputs.All(i => i.Id != pin.Pin)) yield return $"‘{id}’ inside ‘{called}’ is connected to an input that is not there ({pin.Pin}).";
            if (source is BlockSource inner && (Inside(inner.BlockId) is not { } other || BlockType.Of(other).Outputs.All(o => o.Name != inner.Pin))) yield return $"‘{id}’ inside ‘{called}’ is connected to a block or pin that is not there ({inner.BlockId}.{inner.Pin}).";
        }
        foreach (string why in Blocks.SelectMany(b => Sequence.Wrong(b, depth))) yield return why;
    }

    /// <summary>A block inside with what is set from outside.</summary>
    public Block Set(Block inside, Block outside)
    {
        var set = Settings.Where(s => s.BlockId == inside.Id && outside.Numbers.ContainsKey(s.Id)).ToList();
        if (set.Count == 0) return inside;
        var numbers = new Dictionary<string, double>(inside.Numbers);
        foreach (PartSetting setting in set) numbers[setting.Setting] = outside.Numbers[setting.Id];
        return inside with { Numbers = numbers };
    }
}
