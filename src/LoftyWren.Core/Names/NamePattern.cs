using System.Globalization;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Names;

/// <summary>
/// A pattern of a name: text, and tokens in braces. <c>{building}</c> and <c>{floor}</c> stand for the short names of those
/// (else their names), <c>{room}</c> for the room's name and <c>{short}</c> for its short name, <c>{kind}</c> for the kind of
/// equipment, <c>{equipment}</c> for its name, <c>{n}</c>, <c>{nn}</c>, <c>{nnn}</c> for a number of one, two, three digits or
/// more, <c>{name}</c> for any text (of a network name: the record's own name).
/// </summary>
public sealed class NamePattern
{
    /// <summary>All that can be said above a record, for kinds of which everything can be.</summary>
    public static IReadOnlyList<string> AllFills => Fixed;

    private static readonly string[] Fixed = ["building", "floor", "room", "short", "kind", "equipment"];
    private readonly Part[] _parts;

    private NamePattern(Part[] parts) => _parts = parts;

    private enum PartSort
    {
        Text,
        Token,
        Number,
        Free,
    }

    private readonly record struct Part(PartSort Sort, string Text, int Width = 0);

    /// <summary>The tokens a pattern of the convention may hold.</summary>
    public static IReadOnlyList<string> Tokens { get; } = [.. Fixed.Select(t => $"{{{t}}}"), "{n}", "{nn}", "{nnn}", "{name}"];

    /// <summary>The tokens in it that stand for what others are called.</summary>
    public IEnumerable<string> Fills => _parts.Where(p => p.Sort == PartSort.Token).Select(p => p.Text);

    /// <summary>Whether a number is part of such a name.</summary>
    public bool Counts => _parts.Any(p => p.Sort == PartSort.Number);

    /// <summary>Whether such a name holds text of one's own choice.</summary>
    public bool IsFree => _parts.Any(p => p.Sort == PartSort.Free);

    /// <summary>Why a rule's pattern cannot be used, or null.</summary>
    public static string? Refuse(NamingRule rule)
    {
        string? wrong = Read(rule.Pattern, out NamePattern? pattern);
        if (wrong is not null) return wrong;
        if (rule.For == NamingConvention.Network) return pattern!.Counts ? "a network name is derived and cannot count; take the number out." : pattern.IsFree ? null : "put {name} into it, or all points would be called the same.";
        if (pattern!._parts.Any(p => p.Sort == PartSort.Token && !Has(rule.For, p.Text))) return $"a {rule.For} has no {{{pattern._parts.First(p => p.Sort == PartSort.Token && !Has(rule.For, p.Text)).Text}}}.";
        return pattern.IsFree || pattern.Counts || RecordKinds.NounOf(rule.For) is { IsAlone: true } ? null : "put {name} or a number into it, or all would be called the same.";
    }

    /// <summary>Reads a pattern that has been checked.</summary>
    public static NamePattern Parse(string text) => Read(text, out NamePattern? pattern) is { } wrong ? throw new ArgumentException(wrong, nameof(text)) : pattern!;

    /// <summary>What a token stands for on a record; empty where there is no such thing above it.</summary>
    public static string Value(Project project, ProjectRecord record, string token, NameTexts texts)
    {
        Place? At(PlaceKind kind) => project.Lineage(record.Id).OfType<Place>().FirstOrDefault(p => p.Kind == kind);
        string Short(Place? place) => place is null ? "" : place.ShortName ?? texts.Shorten(place.Name);
        Equipment? equipment = token is "kind" or "equipment" ? project.Lineage(record.Id).OfType<Equipment>().FirstOrDefault() : null;
        return token switch
        {
            "building" => Short(At(PlaceKind.Building)),
            "floor" => Short(At(PlaceKind.Floor)),
            "room" => At(PlaceKind.Room)?.Name ?? "",
            "short" => Short(At(PlaceKind.Room)),
            "kind" => equipment is null ? "" : texts.Shorten(equipment.Kind),
            _ => equipment?.Name ?? "",
        };
    }

    /// <summary>The name with every part filled in. A token that stands for nothing takes the separators before it along.</summary>
    public string Fill(Func<string, string> token, string free, int number)
    {
        var text = new System.Text.StringBuilder();
        string held = "";
        foreach (Part part in _parts)
        {
            string value = part.Sort switch
            {
                PartSort.Token => token(part.Text),
                PartSort.Number => number.ToString(new string('0', part.Width), CultureInfo.InvariantCulture),
                PartSort.Free => free,
                _ => part.Text,
            };
            if (part.Sort == PartSort.Text && value.All(c => !char.IsLetterOrDigit(c)))
            {
                held += value;
                continue;
            }
            if (value.Length == 0)
            {
                held = "";
                continue;
            }
            if (text.Length > 0) text.Append(held);
            held = "";
            text.Append(value);
        }
        return text.ToString().Trim();
    }

    /// <summary>Whether a name follows the pattern, with its free text and its number where it does.</summary>
    public bool Matches(string name, Func<string, string> token, out string free, out int? number)
    {
        // A token without value drops the separators around it, so the parts are laid out afresh with what is there.
        var parts = new List<Part>();
        string held = "";
        foreach (Part part in _parts)
        {
            string value = part.Sort == PartSort.Token ? token(part.Text) : part.Text;
            if (part.Sort == PartSort.Text && value.All(c => !char.IsLetterOrDigit(c))) held += value;
            else if (part.Sort == PartSort.Token && value.Length == 0) held = "";
            else
            {
                if (parts.Count > 0 && held.Length > 0) parts.Add(new Part(PartSort.Text, held));
                held = "";
                parts.Add(part.Sort == PartSort.Token ? new Part(PartSort.Text, value) : part);
            }
        }
        free = "";
        number = null;
        return Match(parts, 0, name, 0, ref free, ref number);
    }

    private static bool Match(List<Part> parts, int i, string name, int at, ref string free, ref int? number)
    {
        if (i == parts.Count) return at == name.Length;
        Part part = parts[i];
        switch (part.Sort)
        {
            case PartSort.Number:
                int end = at;
                while (end < name.Length && end - at < 9 && char.IsAsciiDigit(name[end])) end++;
                for (int stop = end; stop >= at + part.Width; stop--)
                {
                    // More digits than the width only when the number needs them.
                    if (stop - at > part.Width && name[at] == '0') continue;
                    if (!Match(parts, i + 1, name, stop, ref free, ref number)) continue;
                    number = int.Parse(name.AsSpan(at, stop - at), CultureInfo.InvariantCulture);
                    return true;
                }
                return false;
            case PartSort.Free:
                for (int stop = name.Length; stop > at; stop--)
                {
                    if (!Match(parts, i + 1, name, stop, ref free, ref number)) continue;
                    free = name[at..stop];
                    return free.Trim().Length == free.Length;
                }
                return false;
            default:
                return name.AsSpan(at).StartsWith(part.Text, StringComparison.Ordinal) && Match(parts, i + 1, name, at + part.Text.Length, ref free, ref number);
        }
    }

    private static bool Has(string noun, string token) => RecordKinds.NounOf(noun)?.NameTokens?.Contains(token) == true;

    private static Part ReadPart(Scanner scanner)
    {
        int at = scanner.At;
        if (scanner.Now != '{')
        {
            string plain = scanner.While(c => c != '{', "text");
            int stray = plain.IndexOf('}', StringComparison.Ordinal);
            return stray < 0 ? new Part(PartSort.Text, plain) : throw new SyntaxException(at + stray, $"the brace at character {at + stray + 1} closes nothing.");
        }
        scanner.At++;
        string token = scanner.Now == '}' ? "" : scanner.While(c => c != '}', "a token");
        if (scanner.Now != '}') throw new SyntaxException(at, $"the brace at character {at + 1} is not closed.");
        scanner.At++;
        return token is "n" or "nn" or "nnn" ? new Part(PartSort.Number, "", token.Length)
            : token == "name" ? new Part(PartSort.Free, "")
            : Fixed.Contains(token) ? new Part(PartSort.Token, token)
            : throw new SyntaxException(at, $"{{{token}}} is no token; use {string.Join(", ", Tokens)}.");
    }

    private static string? Read(string text, out NamePattern? pattern)
    {
        pattern = null;
        if (string.IsNullOrWhiteSpace(text)) return "it is empty; {name} stands for any text.";
        if (text.Length > 120) return "it is longer than 120 characters.";
        var parts = new List<Part>();
        var scanner = new Scanner(text);
        try
        {
            while (scanner.Now != '\0') parts.Add(ReadPart(scanner));
        }
        catch (SyntaxException e)
        {
            return e.Message;
        }
        if (parts.Count(p => p.Sort == PartSort.Free) > 1 || parts.Count(p => p.Sort == PartSort.Number) > 1) return "it may hold {name} once and one number.";
        pattern = new NamePattern([.. parts]);
        return null;
    }
}
