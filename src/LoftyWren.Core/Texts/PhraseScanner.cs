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
        double number = FiniteNumber();
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

    /// <summary>A length of time, s.</summary>
    public double Length()
    {
        double number = FiniteNumber();
        Space();
        foreach (var (unit, seconds) in TestStep.Units)
        {
            if (Word(unit)) return number * seconds;
        }
        throw new SyntaxException(At, "A time has a unit: s, min, h or d.");
    }
}
