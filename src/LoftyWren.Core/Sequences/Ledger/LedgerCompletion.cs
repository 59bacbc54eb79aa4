using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Sequences.Ledger;

/// <summary>What could be written at a place of a ledger's line: the text in place of what stands from a character on, and what it is.</summary>
public sealed record LedgerOffer(string Insert, string What, int From);

/// <summary>What could be written next in a line of a ledger.</summary>
public static class LedgerCompletion
{
    private const int Most = 12;
    private static readonly string[] ModeWords = ["when ", "until ", "comes after ", "goes after ", "at least ", "at most ", "from ", "at once", "begins after ", "unread as holding", "unread as it was"];

    /// <summary>What could stand where the line has been written up to a character.</summary>
    public static IReadOnlyList<LedgerOffer> Of(Project project, Sequence sequence, string line, int at)
    {
        var names = new LedgerNames(project, sequence);
        var (before, cut, from, typed) = Written(line, at);
        char mark = cut > 0 ? before[cut - 1] : ' ';
        var offers = new List<LedgerOffer>();
        void Offer(IEnumerable<(string Insert, string What)> all) => offers.AddRange(all.Where(o => Fits(o.Insert, o.What, typed)).Select(o => new LedgerOffer(o.Insert, o.What, from)));

        if (before.Length > 0 && char.IsWhiteSpace(before[0]))
        {
            if (mark is ':' or ';') Offer(ModeWords.Select(w => (w, "mode")));
            else Offer(Names(names));
            if (mark is ':' or ';') Offer(Names(names).Where(_ => before.TrimEnd().EndsWith("when", StringComparison.Ordinal)));
        }
        else if (mark == '←') Offer([]);
        else if (cut == 0)
        {
            // At the beginning of a line: an output to command.
            Offer(names.All.Where(a => a.Source is PointSource).Select(a => ($"{a.Name} ← ", "output")));
        }
        else if (KindBefore(before) is { } kind && mark is '(' or ',' or ';')
        {
            Offer(kind.Inputs.Select(i => ($"{LedgerText.LabelOf(kind, i.Name, i.Label)}: ", "input")).Concat(kind.Numbers.Select(n => ($"{LedgerText.LabelOf(kind, n.Name, n.Label)}: ", $"setting{(n.Unit.Length > 0 ? $", {n.Unit}" : "")}")))
                .Concat(kind.Choices.Select(c => ($"{LedgerText.LabelOf(kind, c.Name, c.Label)}: ", "choice"))).Concat(kind.Texts.Select(t => ($"{LedgerText.LabelOf(kind, t.Name, t.Label)}: “", "text"))));
        }
        else if (KindBefore(before) is { } of && mark == ':' && ChoiceBefore(of, before[..(cut - 1)]) is { } choice) Offer(choice.Options.Select(o => (o.Label, choice.Label)));
        else
        {
            Offer(Names(names));
            if (mark == '=') Offer(BlockType.All.Where(t => !t.IsInner && !t.IsRetired).Select(t => ($"{t.Name} (", $"{t.Group}: {t.Words}")));
        }
        // What begins with the very words comes first.
        return [.. offers.OrderBy(o => o.Insert.StartsWith(typed, StringComparison.OrdinalIgnoreCase) ? 0 : 1).ThenBy(o => o.Insert.Length).Take(Most)];
    }

    /// <summary>What has been written so far of the name that stands at a place, and where it begins.</summary>
    public static (string Typed, int From) Fragment(string line, int at) => Written(line, at) is var (_, _, from, typed) ? (typed, from) : default;

    private static (string Before, int Cut, int From, string Typed) Written(string line, int at)
    {
        string before = line[..Math.Clamp(at, 0, line.Length)];
        int cut = before.LastIndexOfAny(['=', '(', ',', ';', ':', '←', '>', '<', '≥', '≤', '≠', '+', '−', '×', '÷']) + 1;
        foreach (string word in LedgerReader.Operators.Where(o => char.IsLetter(o[0])))
        {
            int end = before.LastIndexOf($" {word} ", StringComparison.OrdinalIgnoreCase);
            if (end >= 0) cut = Math.Max(cut, end + word.Length + 2);
        }
        int from = cut + before[cut..].TakeWhile(c => c == ' ').Count();
        return (before, cut, from, before[from..].TrimStart('‘'));
    }

    private static IEnumerable<(string, string)> Names(LedgerNames names) => names.All.Select(a => (a.Name, a.Source switch { PointSource => "point", ScheduleSource => "schedule", _ => "line" }));

    private static bool Fits(string insert, string what, string typed) => typed.Split(' ', StringSplitOptions.RemoveEmptyEntries).All(w => insert.Contains(w, StringComparison.OrdinalIgnoreCase) || what.Contains(w, StringComparison.OrdinalIgnoreCase));

    private static BlockType? KindBefore(string before)
    {
        int open = before.LastIndexOf('('), equals = before.IndexOf(" = ", StringComparison.Ordinal);
        if (open < 0 || equals < 0 || open < equals) return null;
        string name = before[(equals + 3)..open].Trim();
        return BlockType.All.FirstOrDefault(t => t.Name.Equals(name, StringComparison.OrdinalIgnoreCase));
    }

    private static ChoiceSetting? ChoiceBefore(BlockType kind, string before) => kind.Choices.FirstOrDefault(c => before.EndsWith(LedgerText.LabelOf(kind, c.Name, c.Label), StringComparison.OrdinalIgnoreCase));
}
