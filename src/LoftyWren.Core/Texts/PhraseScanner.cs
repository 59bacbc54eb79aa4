using System.Globalization;
using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Texts;

/// <summary>Reads the phrases that stories and courses are written in: words, values with their unit, lengths of time.</summary>
internal class PhraseScanner(string text) : Scanner(text)
{
    /// <summary>Passes words if they come next, letter case ignored.</summary>
    public bool Word(string words)
    {
        Space();
        int end = At + words.Length;
        if (string.Compare(Text, At, words, 0, words.Length, StringComparison.OrdinalIgnoreCase) != 0 || (end < Text.Length && Text[end] != ' ')) return false;
        At = end;
        return true;
    }

    /// <summary>Passes a word, which must come next.</summary>
    public void Need(string word)
    {
        if (!Word(word)) throw new SyntaxException(At, $"‘{word}’ is missing here{(Now == '\0' ? "" : $", before ‘{Rest}’")}.");
    }

    /// <summary>A value of a form: a state, or a number in a unit, converted to the form's.</summary>
    public double Value(ValueForm form)
    {
        Space();
        int at = At;
        foreach (var (state, i) in form.StateTexts.Select((s, i) => (s, i)).OrderByDescending(s => s.s.Length))
        {
            if (SubjectNames.LengthAt(Text, At, state) is > 0 and var length)
            {
                At += length;
                return form.Kind == PointKind.Binary ? i : i + 1;
            }
        }
        if (form.Kind == PointKind.Binary)
        {
            if (Word("on")) return 1;
            if (Word("off")) return 0;
        }
        if (form.Kind != PointKind.Analog) throw new SyntaxException(at, $"‘{Rest}’ is none of {string.Join(", ", form.StateTexts)}.");
        double number = Number();
        Space();
        // As much of what follows as is a unit; words of the grammar are none.
        string[] words = Text[At..].Split(' ');
        string unit = words[0];
        if (unit.Length == 0 || unit is "within" or "for" or "over" or "and") return number;
        if (Unit.Read(unit) is not { } given) throw new SyntaxException(At, $"‘{unit}’ is not a known unit.");
        Unit? wanted = Unit.Find(form.Unit);
        if (wanted is null || given.To(wanted) is not var (factor, offset)) throw new SyntaxException(At, $"A value in {(wanted is null ? "no unit" : wanted.Symbol)} is meant here, not {given.Word} ({given.Symbol}).");
        At += unit.Length;
        return (number * factor) + offset;
    }

    private double Number()
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
        return double.TryParse(Text[from..At].Replace('−', '-'), NumberStyles.Float, CultureInfo.InvariantCulture, out double value) ? value : throw new SyntaxException(from, Now == '\0' && from == At ? "A value is missing here." : $"‘{Text[from..Math.Min(Text.Length, from + 12)]}’ is not a number. Write digits, such as 21.5.");
    }

    /// <summary>A length of time, s.</summary>
    public double Length()
    {
        double number = Number();
        Space();
        foreach (var (unit, seconds) in TestStep.Units)
        {
            if (Word(unit)) return number * seconds;
        }
        throw new SyntaxException(At, "A time has a unit: s, min, h or d.");
    }
}
