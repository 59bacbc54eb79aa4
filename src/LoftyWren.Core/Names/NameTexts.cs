namespace LoftyWren.Core.Names;

/// <summary>Words and their abbreviations.</summary>
public sealed class NameTexts
{
    private readonly Dictionary<string, string> _short;

    /// <summary>With the abbreviations of a convention.</summary>
    public NameTexts(IReadOnlyDictionary<string, string> abbreviations) => _short = new Dictionary<string, string>(abbreviations, StringComparer.OrdinalIgnoreCase);

    /// <summary>The text with every abbreviation used: whole texts first, then word by word.</summary>
    public string Shorten(string text)
    {
        if (_short.Count == 0) return text;
        if (_short.TryGetValue(text, out string? whole)) return whole;
        return string.Join(' ', text.Split(' ').Select(w => _short.GetValueOrDefault(w, w)));
    }

    /// <summary>The text with as few abbreviations as make it fit, those that save most first.</summary>
    public string ShortenTo(string text, int longest)
    {
        string[] words = text.Split(' ');
        foreach (int i in Enumerable.Range(0, words.Length).Where(i => _short.ContainsKey(words[i])).OrderByDescending(i => words[i].Length - _short[words[i]].Length).ToList())
        {
            if (string.Join(' ', words).Length <= longest) break;
            words[i] = _short[words[i]];
        }
        return string.Join(' ', words);
    }

    /// <summary>A text in a letter case.</summary>
    public static string In(LetterCase letters, string text) => letters switch
    {
        LetterCase.Upper => text.ToUpperInvariant(),
        LetterCase.Lower => text.ToLowerInvariant(),
        _ => text,
    };
}
