using System.Text.RegularExpressions;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Sequences;

/// <summary>One paragraph of the specification that a sequence must meet, with the blocks and outputs of the sequence that meet it. It runs nowhere, so controllers are not sent it.</summary>
public sealed partial record Clause
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

    /// <summary>The modes that meet it: the id of a mode table and the slot of the mode, with a slash between.</summary>
    [Most(64)]
    public IReadOnlyList<string> Modes { get; init; } = [];

    /// <summary>Whether the client has agreed to it as it is worded; rewording takes that back.</summary>
    public bool Approved { get; init; }

    /// <summary>The outputs of the sequence whose claims meet it.</summary>
    public IReadOnlyList<RecordId> Outputs { get; init; } = [];

    /// <summary>
    /// The paragraphs of a specification's text, each to be a clause: parted by blank lines, or by numbers and dashes at the
    /// beginning of lines, which are left out; lines that only go on are joined. What is longer than a clause may be is parted
    /// at the end of a sentence.
    /// </summary>
    public static IReadOnlyList<string> Split(string text)
    {
        var paragraphs = new List<System.Text.StringBuilder>();
        bool isOpen = false;
        foreach (string line in text.ReplaceLineEndings("\n").Split('\n').Select(l => l.Trim()))
        {
            Match number = Beginning().Match(line);
            string words = line[number.Length..].Trim();
            // 12.5 K is a value, not a number of a paragraph.
            int begins = number.Success && char.IsAsciiDigit(number.Value.TrimEnd()[^1]) && Units.Unit.Read(words.Split(' ')[0]) is not null ? 0 : number.Length;
            words = line[begins..].Trim();
            if (words.Length == 0)
            {
                isOpen = false;
                continue;
            }
            if (!isOpen || begins > 0) paragraphs.Add(new());
            isOpen = true;
            if (paragraphs[^1].Length > 0) paragraphs[^1].Append(' ');
            paragraphs[^1].Append(words);
        }
        return [.. paragraphs.SelectMany(p => Parted(p.ToString()))];
    }

    private static IEnumerable<string> Parted(string paragraph)
    {
        while (paragraph.Length > MostText)
        {
            int end = paragraph.LastIndexOf(". ", MostText - 1, StringComparison.Ordinal) + 1;
            if (end <= 0) end = paragraph.LastIndexOf(' ', MostText - 1);
            if (end <= 0) end = MostText;
            yield return paragraph[..end].Trim();
            paragraph = paragraph[end..].Trim();
        }
        if (paragraph.Length > 0) yield return paragraph;
    }

    // 1. 1.2 1.2.3) (a) a) iv. • – - *
    [GeneratedRegex(@"^(?:\(?(?:\d+(?:\.\d+)*|[a-z]|[ivx]+)[.)]\)?|\d+(?:\.\d+)+|[•–*-])\s+", RegexOptions.IgnoreCase)]
    private static partial Regex Beginning();

    /// <summary>Whether anything that the sequence still has meets it.</summary>
    public bool IsMetIn(Sequence sequence) => sequence.Blocks.Any(b => Blocks.Contains(b.Id) || (b.Table is { } table && table.Modes.Any(m => Modes.Contains($"{b.Id}/{m.Slot}")))) || sequence.Commands.Any(c => c.Claims.Count > 0 && Outputs.Contains(c.PointId));
}
