using System.Globalization;
using LoftyWren.Core.Points;
using NodaTime;

namespace LoftyWren.Core.Schedules;

/// <summary>What a phrase came to: the schedule with it applied and a sentence saying what it does; or where and why it was not understood.</summary>
public sealed record PhraseResult(Schedule? Schedule, string Sentence, int? ErrorAt);

/// <summary>
/// Understands lines such as <c>tue-fri 9:00-17:30 open</c>, <c>thu 9-20 open</c>, <c>mon closed</c> and
/// <c>2026-12-25 closed christmas</c>: days or a date, times (missing means all day), a state or number.
/// </summary>
public static class Phrase
{
    private static readonly string[] DayNames = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

    /// <summary>Applies a phrase to a schedule.</summary>
    public static PhraseResult Apply(Schedule schedule, string phrase)
    {
        var words = Words(phrase);
        if (words.Count == 0) return new PhraseResult(null, "Type days, times and a value, such as “tue-fri 9:00-17:30 open”.", 0);
        bool isDate = DateOf(words[0].Text) is not null;
        var days = new List<IsoDayOfWeek>();
        int next = 0;
        if (isDate) next = 1;
        else
        {
            while (next < words.Count && DaysOf(words[next].Text) is { } some)
            {
                days.AddRange(some);
                next++;
            }
            if (days.Count == 0) return new PhraseResult(null, $"‘{words[0].Text}’ is not a day or a date. Use mon, tue–fri, weekdays, weekend, daily or 2026-04-16.", words[0].At);
        }
        int from = 0, to = 1440;
        if (next < words.Count && TimesOf(words[next].Text) is { } times)
        {
            if (times.To is null || times.From is null) return new PhraseResult(null, $"‘{words[next].Text}’ is not a stretch of a day. Times go from 0:00 to 24:00, such as 9:00-17:30.", words[next].At);
            if (times.From >= times.To) return new PhraseResult(null, $"{words[next].Text} ends before it begins. To run past midnight, end at 24:00 and go on the next day.", words[next].At);
            (from, to) = (times.From.Value, times.To.Value);
            next++;
        }
        if (next >= words.Count) return new PhraseResult(null, $"A value is missing at the end: {Values(schedule)}.", phrase.Length);
        string rest = string.Join(' ', words.Skip(next).Select(w => w.Text));
        if (ValueOf(schedule, rest, out string name) is not { } value)
            return new PhraseResult(null, $"‘{words[next].Text}’ is not a value of this schedule. Use {Values(schedule)}.", words[next].At);
        // A value that is the default is not drawn: it is what holds outside all stretches.
        Span? span = schedule.Default == value ? null : new Span { From = Span.Text(from), To = Span.Text(to), Value = value };
        string when = from == 0 && to == 1440 ? "all day" : $"{Span.Text(from)}–{Span.Text(to)}";
        if (isDate)
        {
            string date = words[0].Text;
            ExceptionDates? old = schedule.Exceptions.FirstOrDefault(e => e.From == date && (e.Through is null || e.Through == date));
            var exception = new ExceptionDates { Name = name.Length > 0 ? name : old?.Name ?? "exception", From = date, Spans = Paint(old?.Spans ?? [], from, to, span) };
            Schedule dated = schedule with { Exceptions = [.. schedule.Exceptions.Where(e => e != old).Append(exception).OrderBy(e => e.From, StringComparer.Ordinal)] };
            return new PhraseResult(dated, $"{date}: {schedule.Say(value)} {when}", null);
        }
        var byDay = Enumerable.Range(1, 7).ToDictionary(d => (IsoDayOfWeek)d, d => schedule.SpansOf((IsoDayOfWeek)d));
        foreach (IsoDayOfWeek day in days) byDay[day] = Paint(byDay[day], from, to, span);
        Schedule changed = schedule with { Week = Group(byDay) };
        var split = schedule.Week.Where(g => g.Days.Any(days.Contains) && !g.Days.All(days.Contains)).ToList();
        string sentence = $"{Names(days)}: {schedule.Say(value)} {when}";
        if (split.Count > 0) sentence += $"; splits {Names(days.Where(d => split.Any(g => g.Days.Contains(d))))} from {Names(split.SelectMany(g => g.Days).Where(d => !days.Contains(d)))}";
        return new PhraseResult(changed, sentence, null);
    }

    /// <summary>Days with equal stretches form one group, in the order of the week.</summary>
    public static IReadOnlyList<DayGroup> Group(IReadOnlyDictionary<IsoDayOfWeek, IReadOnlyList<Span>> byDay) =>
    [
        .. byDay.OrderBy(d => d.Key).GroupBy(d => string.Join(';', d.Value.Select(s => $"{s.From}-{s.To}={s.Value.ToString(CultureInfo.InvariantCulture)}")))
            .Select(g => new DayGroup { Days = [.. g.Select(d => d.Key)], Spans = g.First().Value }),
    ];

    /// <summary>Paints a stretch over others: what lies under it is cut away; equal neighbours grow together. A null stretch only cuts.</summary>
    public static IReadOnlyList<Span> Paint(IReadOnlyList<Span> spans, int from, int to, Span? paint)
    {
        var pieces = new List<(int From, int To, double Value)>();
        foreach (Span span in spans)
        {
            if (span.FromMinutes < from) pieces.Add((span.FromMinutes, Math.Min(from, span.ToMinutes), span.Value));
            if (span.ToMinutes > to) pieces.Add((Math.Max(to, span.FromMinutes), span.ToMinutes, span.Value));
        }
        if (paint is not null) pieces.Add((from, to, paint.Value));
        pieces.Sort();
        var joined = new List<(int From, int To, double Value)>();
        foreach (var piece in pieces)
        {
            if (joined.Count > 0 && joined[^1].To == piece.From && joined[^1].Value == piece.Value) joined[^1] = (joined[^1].From, piece.To, piece.Value);
            else joined.Add(piece);
        }
        return [.. joined.Select(p => new Span { From = Span.Text(p.From), To = Span.Text(p.To), Value = p.Value })];
    }

    /// <summary>Days as people write them: Tue–Fri, Sat, Sun.</summary>
    public static string Names(IEnumerable<IsoDayOfWeek> days)
    {
        var sorted = days.Distinct().Order().ToList();
        var parts = new List<string>();
        for (int i = 0; i < sorted.Count;)
        {
            int j = i;
            while (j + 1 < sorted.Count && (int)sorted[j + 1] == (int)sorted[j] + 1) j++;
            if (j - i >= 2) parts.Add($"{Short(sorted[i])}–{Short(sorted[j])}");
            else parts.AddRange(sorted[i..(j + 1)].Select(Short));
            i = j + 1;
        }
        return string.Join(", ", parts);

        static string Short(IsoDayOfWeek day) => day.ToString()[..3];
    }

    private static List<(string Text, int At)> Words(string phrase)
    {
        var words = new List<(string, int)>();
        for (int i = 0; i < phrase.Length;)
        {
            if (char.IsWhiteSpace(phrase[i]) || phrase[i] == ',')
            {
                i++;
                continue;
            }
            int start = i;
            while (i < phrase.Length && !char.IsWhiteSpace(phrase[i]) && phrase[i] != ',') i++;
            words.Add((phrase[start..i].Replace('–', '-'), start));
        }
        return words;
    }

    private static LocalDate? DateOf(string word) => NodaTime.Text.LocalDatePattern.Iso.Parse(word) is { Success: true } r ? r.Value : null;

    private static IReadOnlyList<IsoDayOfWeek>? DaysOf(string word)
    {
        word = word.ToLowerInvariant();
        if (word is "daily" or "everyday") return [.. Enumerable.Range(1, 7).Select(d => (IsoDayOfWeek)d)];
        if (word is "weekdays" or "weekday") return [.. Enumerable.Range(1, 5).Select(d => (IsoDayOfWeek)d)];
        if (word is "weekend" or "weekends") return [IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday];
        string[] ends = word.Split('-');
        if (ends.Length > 2 || Day(ends[0]) is not { } first) return null;
        if (ends.Length == 1) return [(IsoDayOfWeek)(first + 1)];
        if (Day(ends[1]) is not { } last) return null;
        return [.. Enumerable.Range(0, ((last - first + 7) % 7) + 1).Select(n => (IsoDayOfWeek)(((first + n) % 7) + 1))];

        // Three letters or more of the English name: tue, tues, tuesday.
        static int? Day(string text)
        {
            int at = text.Length < 3 ? -1 : Array.IndexOf(DayNames, text[..3]);
            return at >= 0 && ((IsoDayOfWeek)(at + 1)).ToString().StartsWith(text, StringComparison.OrdinalIgnoreCase) ? at : null;
        }
    }

    private static (int? From, int? To)? TimesOf(string word)
    {
        string[] ends = word.Split('-');
        if (ends.Length != 2 || ends[0].Length == 0 || !char.IsAsciiDigit(ends[0][0])) return null;
        return (Span.Minutes(ends[0]), Span.Minutes(ends[1]));
    }

    private static double? ValueOf(Schedule schedule, string rest, out string name)
    {
        name = "";
        if (schedule.Kind != PointKind.Analog)
        {
            for (int i = 0; i < schedule.StateTexts.Count; i++)
            {
                string text = schedule.StateTexts[i];
                if (!rest.StartsWith(text, StringComparison.OrdinalIgnoreCase) || (rest.Length > text.Length && rest[text.Length] != ' ')) continue;
                name = rest[text.Length..].Trim();
                return schedule.Kind == PointKind.Binary ? i : i + 1;
            }
            return null;
        }
        string[] parts = rest.Split(' ', 2);
        if (!double.TryParse(parts[0], NumberStyles.Float, CultureInfo.InvariantCulture, out double value) || !double.IsFinite(value)) return null;
        name = parts.Length > 1 ? parts[1] : "";
        if (schedule.Unit is { Length: > 0 } unit && name.StartsWith(unit, StringComparison.Ordinal)) name = name[unit.Length..].Trim();
        return value;
    }

    private static string Values(Schedule schedule) =>
        schedule.Kind == PointKind.Analog ? $"a number{(string.IsNullOrEmpty(schedule.Unit) ? "" : $" in {schedule.Unit}")}" : string.Join(" or ", schedule.StateTexts);
}
