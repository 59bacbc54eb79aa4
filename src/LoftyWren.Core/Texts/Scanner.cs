using System.Globalization;

namespace LoftyWren.Core.Texts;

/// <summary>A text could not be read; where, counted from 0, and what was expected.</summary>
public sealed class SyntaxException(int at, string message) : FormatException(message)
{
    /// <summary>The character at fault.</summary>
    public int At { get; } = at;
}

/// <summary>
/// Goes through a text character by character, for the small grammars of the trade: filters, conditions, phrases, patterns.
/// A grammar is written as methods over it; what cannot be read is refused at its place.
/// </summary>
/// <param name="text">The text.</param>
/// <param name="isBlank">What parts words and means nothing itself; spaces and tabs where not given.</param>
internal class Scanner(string text, Func<char, bool>? isBlank = null)
{
    /// <summary>How deep parentheses and negations may go in any of the grammars, and how many characters a text may have.</summary>
    public const int Deepest = 60, Longest = 1_000_000;

    /// <summary>How many tests one expression may join with ‘and’ and ‘or’: each of them is a step of its evaluation.</summary>
    public const int MostJoined = 1000;

    private int _depth, _joined;

    public string Text { get; } = text.Length <= Longest ? text : throw new SyntaxException(Longest, $"The text has {text.Length} characters; at most {Longest} are read.");

    public int At { get; set; }

    /// <summary>The character here; none at the end.</summary>
    public char Now => At < Text.Length ? Text[At] : '\0';

    /// <summary>The character after it.</summary>
    public char Next => At + 1 < Text.Length ? Text[At + 1] : '\0';

    public bool IsBlank(char c) => isBlank?.Invoke(c) ?? c is ' ' or '\t';

    /// <summary>Passes blanks.</summary>
    public void Space()
    {
        while (At < Text.Length && IsBlank(Text[At])) At++;
    }

    /// <summary>Whether nothing but blanks is left; those are passed.</summary>
    public bool IsAtEnd
    {
        get
        {
            Space();
            return At >= Text.Length;
        }
    }

    /// <summary>Refuses what is left over.</summary>
    public void End()
    {
        if (!IsAtEnd) throw new SyntaxException(At, $"‘{Rest}’ is left over here.");
    }

    /// <summary>The next few characters, for a refusal.</summary>
    public string Rest => Text[At..Math.Min(Text.Length, At + 12)];

    /// <summary>Passes a finite number, with a sign, a fraction and an exponent where it has them.</summary>
    public double FiniteNumber()
    {
        Space();
        int from = At;
        if (Now is '-' or '−' or '+') At++;
        while (char.IsAsciiDigit(Now) || Now is '.') At++;
        if (Now is 'e' or 'E' && At > from && (char.IsAsciiDigit(Next) || Next is '-' or '+'))
        {
            At += 2;
            while (char.IsAsciiDigit(Now)) At++;
        }
        if (double.TryParse(Text[from..At].Replace('−', '-'), NumberStyles.Float, CultureInfo.InvariantCulture, out double value) && double.IsFinite(value)) return value;
        throw new SyntaxException(from, from >= Text.Length ? "A number is missing here." : $"‘{Text[from..Math.Min(Text.Length, from + 12)]}’ is not a number. Write digits, such as 21.5.");
    }

    /// <summary>Passes characters as long as they hold; at least one, or what is missing is said.</summary>
    public string While(Func<char, bool> holds, string what)
    {
        int from = At;
        while (At < Text.Length && holds(Text[At])) At++;
        return At > from ? Text[from..At] : throw new SyntaxException(from, $"{char.ToUpperInvariant(what[0])}{what[1..]} is missing here{(Now == '\0' ? "" : $", before ‘{Now}’")}.");
    }

    /// <summary>Passes a word if it comes next and ends there.</summary>
    public bool Keyword(string word)
    {
        Space();
        int end = At + word.Length;
        if (!Text.AsSpan(At).StartsWith(word, StringComparison.Ordinal) || (end < Text.Length && (char.IsAsciiLetterOrDigit(Text[end]) || Text[end] == '_'))) return false;
        At = end;
        return true;
    }

    /// <summary>Passes a word that joins two tests, if it comes next.</summary>
    /// <exception cref="SyntaxException">More than <see cref="MostJoined"/> are joined.</exception>
    public bool Joins(string word)
    {
        if (!Keyword(word)) return false;
        if (++_joined >= MostJoined) throw new SyntaxException(At, $"More than {MostJoined} tests are joined; divide the expression.");
        return true;
    }

    /// <summary>Reads what is one level deeper, however that is opened: by a parenthesis, a bracket or a negation.</summary>
    /// <exception cref="SyntaxException">It goes deeper than <see cref="Deepest"/>.</exception>
    public T Deeper<T>(Func<T> inner)
    {
        if (_depth >= Deepest) throw new SyntaxException(At, $"It goes more than {Deepest} deep here; simplify it.");
        _depth++;
        T read = inner();
        _depth--;
        return read;
    }

    /// <summary>Reads what stands between parentheses that open here.</summary>
    public T Parenthesised<T>(Func<T> inner)
    {
        int open = At++;
        T read = Deeper(inner);
        Space();
        if (Now != ')') throw new SyntaxException(At, $"The parenthesis opened at character {open + 1} is not closed.");
        At++;
        return read;
    }
}
