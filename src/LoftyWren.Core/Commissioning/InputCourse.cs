using System.Globalization;
using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Commissioning;

/// <summary>One leg of a course: to a value in a straight line over so many s (0: at once), then there for so many s more. Without a value the sensor is broken, at once.</summary>
/// <param name="To">The value in the unit of the point; null for a broken sensor.</param>
/// <param name="Over">How long it takes to come there, s.</param>
/// <param name="For">How long it stays there, s; that of the last leg is of no matter unless the course begins again.</param>
public sealed record CourseLeg(double? To, double Over, double For);

/// <summary>
/// What stands at an input in place of its sensor, as time goes on: leg after leg, and then as the last one left it, or from
/// the beginning again. As text a leg is a line:
/// <code>
/// 30 °C over 20 min
/// 30 °C for 5 min
/// broken for 2 min
/// again
/// </code>
/// </summary>
public sealed record InputCourse(IReadOnlyList<CourseLeg> Legs, bool Again = false)
{
    /// <summary>The most legs of one course.</summary>
    public const int MostLegs = 100;

    /// <summary>The shortest that something stands there, s: the plant is looked at no more often.</summary>
    public const double ShortestSeconds = 5;

    /// <summary>How long it lasts, s.</summary>
    public double Seconds => Legs.Sum(l => l.Over + l.For);

    /// <summary>What stands there so many s after the course began from a value; not a number where the sensor is broken.</summary>
    public double At(double from, double seconds)
    {
        double length = Seconds, before = from;
        if (Again && length > 0 && seconds >= length)
        {
            before = End(from);
            seconds %= length;
        }
        foreach (CourseLeg leg in Legs)
        {
            if (leg.To is not { } to)
            {
                if (seconds < leg.For) return double.NaN;
            }
            else
            {
                if (seconds < leg.Over) return before + ((to - before) * seconds / leg.Over);
                before = to;
                if (seconds < leg.Over + leg.For) return to;
            }
            seconds -= leg.Over + leg.For;
        }
        return Legs.Count > 0 && Legs[^1].To is null ? double.NaN : before;
    }

    private double End(double from) => Legs.LastOrDefault(l => l.To is not null)?.To ?? from;

    /// <summary>Reads a course of a point whose values have a form.</summary>
    /// <exception cref="SyntaxException">A line cannot be read; the message names the line, and the character is that of the line.</exception>
    public static InputCourse Read(string text, ValueForm form)
    {
        var legs = new List<CourseLeg>();
        bool again = false;
        string[] lines = text.Split('\n');
        for (int i = 0; i < lines.Length; i++)
        {
            string line = lines[i].Trim();
            if (line.Length == 0) continue;
            try
            {
                if (again) throw new SyntaxException(0, "nothing comes after ‘again’.");
                var words = new PhraseScanner(line);
                again = words.Word("again");
                if (!again) legs.Add(Leg(words, form));
                words.End();
                if (legs.Count > MostLegs) throw new SyntaxException(0, $"a course has at most {MostLegs} legs.");
            }
            catch (SyntaxException e)
            {
                throw new SyntaxException(e.At, $"Line {i + 1}, character {e.At + 1}: {e.Message}");
            }
        }
        if (legs.Count == 0) throw new SyntaxException(0, "A course has at least one leg, such as ‘30 °C over 20 min’.");
        if (again && legs.Sum(l => l.Over + l.For) < ShortestSeconds) throw new SyntaxException(0, $"A course that begins again lasts at least {ShortestSeconds:0} s. Say for how long each stays, such as ‘for 10 min’.");
        return new InputCourse(legs, again);
    }

    private static CourseLeg Leg(PhraseScanner words, ValueForm form)
    {
        double? to = words.Word("broken") ? null : words.Value(form);
        int at = words.At;
        double over = words.Word("over") ? words.Length() : 0;
        if (over > 0 && (to is null || form.Kind != PointKind.Analog)) throw new SyntaxException(at, to is null ? "a sensor breaks at once: leave ‘over’ out." : "only a number goes there little by little: leave ‘over’ out.");
        double stays = words.Word("for") ? words.Length() : 0;
        foreach (double seconds in (double[])[over, stays])
        {
            if (seconds is not 0 and not (>= ShortestSeconds and <= FunctionTest.LongestSeconds)) throw new SyntaxException(at, $"a time here is from {ShortestSeconds:0} s to {FunctionTest.LongestSeconds / 86_400:0} d.");
        }
        return new CourseLeg(to, over, stays);
    }

    /// <summary>The course as text that can be read back.</summary>
    public string Write(ValueForm form) => string.Join('\n', Legs.Select(l => Say(l, form)).Concat(Again ? ["again"] : []));

    /// <summary>The course in a few words.</summary>
    public string Say(ValueForm form) => Legs.Count == 1 && !Again ? Say(Legs[0], form) : string.Create(CultureInfo.InvariantCulture, $"a course of {Legs.Count} leg{(Legs.Count == 1 ? "" : "s")}{(Again ? ", again and again" : "")}");

    private static string Say(CourseLeg leg, ValueForm form) => $"{(leg.To is { } to ? SubjectNames.Say(form, to) : "broken")}{(leg.Over > 0 ? $" over {TestStep.Length(leg.Over)}" : "")}{(leg.For > 0 ? $" for {TestStep.Length(leg.For)}" : "")}";
}
