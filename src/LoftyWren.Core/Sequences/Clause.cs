using LoftyWren.Core.Records;

namespace LoftyWren.Core.Sequences;

/// <summary>One paragraph of the specification that a sequence must meet, with the blocks and outputs of the sequence that meet it. It runs nowhere, so controllers are not sent it.</summary>
public sealed record Clause
{
    /// <summary>The most characters of one paragraph.</summary>
    public const int MostText = 1000;

    /// <summary>Its identity within the sequence; its number is its place in the list, from 1.</summary>
    public required string Id { get; init; }

    /// <summary>What is asked, in words.</summary>
    [Most(MostText, Lines = true)]
    public required string Text { get; init; }

    /// <summary>The ids of the blocks that meet it.</summary>
    [Most(64)]
    public IReadOnlyList<string> Blocks { get; init; } = [];

    /// <summary>The outputs of the sequence whose claims meet it.</summary>
    public IReadOnlyList<RecordId> Outputs { get; init; } = [];

    /// <summary>Whether anything that the sequence still has meets it.</summary>
    public bool IsMetIn(Sequence sequence) => sequence.Blocks.Any(b => Blocks.Contains(b.Id)) || sequence.Commands.Any(c => c.Claims.Count > 0 && Outputs.Contains(c.PointId));
}
