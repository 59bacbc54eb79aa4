using System.Globalization;
using System.Text;

namespace LoftyWren.Core.Names;

/// <summary>What names may be made of, as people write it: the words <c>letters</c> (A–Z, a–z), <c>digits</c>, <c>space</c>, and single characters between spaces.</summary>
public sealed class NameLetters
{
    private readonly bool _any, _letters, _digits;
    private readonly string _others = "";

    private NameLetters(string? text)
    {
        _any = string.IsNullOrWhiteSpace(text);
        foreach (string part in Parts(text))
        {
            if (part == "letters") _letters = true;
            else if (part == "digits") _digits = true;
            else _others += part == "space" ? " " : part;
        }
    }

    /// <summary>Reads it; nothing allows everything.</summary>
    public static NameLetters Parse(string? text) => new(text);

    /// <summary>Why it cannot be read, or null.</summary>
    public static string? Refuse(string? text) =>
        Parts(text).FirstOrDefault(p => p is not ("letters" or "digits" or "space") && new StringInfo(p).LengthInTextElements != 1) is { } part
            ? $"‘{part}’ is neither letters, digits, space nor a single character. Write for instance: letters digits space - ."
            : null;

    /// <summary>Whether a character may stand in a name.</summary>
    public bool Allows(char c) => _any || (_letters && char.IsAsciiLetter(c)) || (_digits && char.IsAsciiDigit(c)) || _others.Contains(c, StringComparison.Ordinal);

    /// <summary>The first character of a name that may not be in it, or null.</summary>
    public char? Wrong(string name)
    {
        foreach (char c in name)
        {
            if (!Allows(c)) return c;
        }
        return null;
    }

    /// <summary>The name with what is not allowed written otherwise: letters without accents, small figures as figures, the rest a hyphen or a space if those may be, else nothing.</summary>
    public string Clean(string name)
    {
        if (Wrong(name) is null) return name;
        var clean = new StringBuilder();
        foreach (char c in name)
        {
            if (Allows(c))
            {
                clean.Append(c);
                continue;
            }
            string plain = string.Concat(Plain(c).Where(Allows));
            if (plain.Length > 0) clean.Append(plain);
            else if (CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark && clean.Length > 0 && clean[^1] is not (' ' or '-' or '_'))
            {
                if (Allows('-')) clean.Append('-');
                else if (Allows(' ')) clean.Append(' ');
                else if (Allows('_')) clean.Append('_');
            }
        }
        return clean.ToString().Trim(' ', '-', '_');
    }

    /// <summary>A letter without its accents, a small figure as a figure; else nothing. Written out, since a machine without language data decomposes nothing.</summary>
    private static string Plain(char c)
    {
        int at = Accented.IndexOf(char.ToLowerInvariant(c), StringComparison.Ordinal);
        if (at >= 0) return (char.IsUpper(c) ? char.ToUpperInvariant(Bare[at]) : Bare[at]).ToString();
        return c switch
        {
            >= '₀' and <= '₉' => ((char)('0' + (c - '₀'))).ToString(),
            '¹' => "1",
            '²' => "2",
            '³' => "3",
            'ß' => "ss",
            'æ' or 'Æ' => "ae",
            'œ' or 'Œ' => "oe",
            _ => "",
        };
    }

    private const string Accented = "àáâãäåāăąçćčďđèéêëēėęěğģìíîïīįıķĺļľłñńņňòóôõöøōőŕřśşšťţùúûüūůűųýÿźżž";
    private const string Bare = "aaaaaaaaacccddeeeeeeeeggiiiiiiikllllnnnnoooooooorrsssttuuuuuuuuyyzzz";

    private static string[] Parts(string? text) => (text ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
}
