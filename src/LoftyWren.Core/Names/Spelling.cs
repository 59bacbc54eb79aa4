using System.Collections.Concurrent;
using System.Collections.Frozen;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Names;

/// <summary>A word that neither the word list nor the project knows: where it begins in the text, and what it may have been meant to be; null where nothing is near.</summary>
public readonly record struct UnknownWord(string Word, int At, string? Suggestion);

/// <summary>Checks the words of names and descriptions against the word list that ships (English, and the trade's own) and a project's own words.</summary>
public sealed class Spelling
{
    private static readonly FrozenSet<string> Shipped = Read("words.txt").Concat(Read("trade-words.txt")).ToFrozenSet(StringComparer.Ordinal);
    private static readonly FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> Known = Shipped.GetAlternateLookup<ReadOnlySpan<char>>();
    private static readonly ConcurrentDictionary<string, string?> Suggestions = new(StringComparer.Ordinal);
    private readonly HashSet<string> _own;

    private Spelling(HashSet<string> own) => _own = own;

    /// <summary>For a project; null when it does not want its words checked.</summary>
    public static Spelling? Of(Project project)
    {
        NamingConvention? convention = NamingConvention.Of(project);
        if (convention is { ChecksSpelling: false }) return null;
        var own = new HashSet<string>(StringComparer.Ordinal);
        foreach (string text in (convention?.Words ?? []).Concat(convention?.Abbreviations.Values ?? [])) Add(text);
        // The site and its buildings have names of their own, whatever they are.
        if (project.Site is { } site)
        {
            Add(site.Name);
            foreach (Place building in project.Referrers<Place>(site.Id)) Add(building.Name);
        }
        return new Spelling(own);

        void Add(string text)
        {
            foreach (var (at, length) in Words(text)) own.Add(text.Substring(at, length).ToLowerInvariant());
        }
    }

    /// <summary>Whether these own words are the same as another's, so that what was found stands.</summary>
    public bool Knows(Spelling other) => _own.SetEquals(other._own);

    /// <summary>The texts of a record whose words are checked: field and text.</summary>
    public static IEnumerable<(string Field, string Text)> Texts(ProjectRecord record)
    {
        if (!RecordKinds.Of(record).IsSpelled) yield break;
        yield return ("name", record.Name);
        foreach (Field field in RecordKinds.Of(record).Fields)
        {
            if (field.Is(FieldUses.Spelled) && field.Say(Project.Empty, record) is { Length: > 0 } text) yield return (field.Key, text);
        }
    }

    /// <summary>The unknown words of a text, in order.</summary>
    public IEnumerable<UnknownWord> Unknown(string text)
    {
        foreach (var (at, length) in Words(text))
        {
            if (!IsKnown(text.AsSpan(at, length))) yield return new UnknownWord(text.Substring(at, length), at, Suggest(text.Substring(at, length).ToLowerInvariant()));
        }
    }

    /// <summary>The record with a word written otherwise wherever it stands as a whole word; the letter case of its first letter is kept.</summary>
    public static ProjectRecord Correct(ProjectRecord record, string word, string to)
    {
        string Mended(string text)
        {
            foreach (var (at, length) in Words(text).Reverse())
            {
                if (!text.AsSpan(at, length).Equals(word, StringComparison.OrdinalIgnoreCase)) continue;
                string with = char.IsUpper(text[at]) ? char.ToUpperInvariant(to[0]) + to[1..] : to;
                text = text.Remove(at, length).Insert(at, with);
            }
            return text;
        }
        ProjectRecord mended = record with { Name = Mended(record.Name) };
        foreach (Field field in RecordKinds.Of(record).Fields.Where(f => f.Is(FieldUses.Spelled)))
        {
            if (field.Say(Project.Empty, mended) is { Length: > 0 } text) mended = field.Read(Project.Empty, mended, Mended(text)).Record ?? mended;
        }
        return mended;
    }

    private bool IsKnown(ReadOnlySpan<char> word)
    {
        Span<char> lower = stackalloc char[word.Length];
        word.ToLowerInvariant(lower);
        return Known.Contains(lower) || _own.GetAlternateLookup<ReadOnlySpan<char>>().Contains(lower);
    }

    /// <summary>Runs of three plain letters or more that stand by themselves. Capitals alone, and what touches a figure, are designations and no words.</summary>
    private static IEnumerable<(int At, int Length)> Words(string text)
    {
        for (int at = 0; at < text.Length;)
        {
            if (!char.IsLetterOrDigit(text[at]))
            {
                at++;
                continue;
            }
            int end = at;
            bool isPlain = true, hasSmall = false, isMixed = false;
            while (end < text.Length && (char.IsLetterOrDigit(text[end]) || char.IsNumber(text[end])))
            {
                isPlain &= char.IsAsciiLetter(text[end]);
                hasSmall |= char.IsLower(text[end]);
                isMixed |= end > at && char.IsUpper(text[end]);
                end++;
            }
            // “o’clock”, “potter's”: the s of a possessive is no word; other apostrophes are too rare to matter.
            if (isPlain && hasSmall && !isMixed && end - at is >= 3 and <= 40) yield return (at, end - at);
            at = end;
        }
    }

    /// <summary>A known word one step away: two letters swapped, one too many, one missing, one wrong; or two words run together.</summary>
    private static string? Suggest(string word)
    {
        if (Suggestions.Count > 50_000) Suggestions.Clear();
        return Suggestions.GetOrAdd(word, static w => Near(w).FirstOrDefault(Shipped.Contains) ?? TwoWords(w));

        static IEnumerable<string> Near(string w)
        {
            for (int i = 0; i + 1 < w.Length; i++) yield return w[..i] + w[i + 1] + w[i] + w[(i + 2)..];
            for (int i = w.Length; i > 0; i--)
            {
                for (char c = 'a'; c <= 'z'; c++) yield return w[..i] + c + w[i..];
            }
            for (int i = w.Length - 1; i > 0; i--) yield return w.Remove(i, 1);
            for (int i = w.Length - 1; i >= 0; i--)
            {
                for (char c = 'a'; c <= 'z'; c++) yield return w[..i] + c + w[(i + 1)..];
            }
        }

        static string? TwoWords(string w) =>
            Enumerable.Range(3, Math.Max(0, w.Length - 5)).Where(i => Shipped.Contains(w[..i]) && Shipped.Contains(w[i..])).Select(i => $"{w[..i]} {w[i..]}").FirstOrDefault();
    }

    private static IEnumerable<string> Read(string resource)
    {
        using var reader = new StreamReader(typeof(Spelling).Assembly.GetManifestResourceStream(resource)!);
        while (reader.ReadLine() is { } line)
        {
            if (line.Length > 0) yield return line;
        }
    }
}
