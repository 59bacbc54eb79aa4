using System.Globalization;
using LoftyWren.Core.Points;
using LoftyWren.Core.Texts;
using LoftyWren.Core.Units;
using NodaTime;

namespace LoftyWren.Core.Schedules;

/// <summary>What a phrase came to: the schedule with it applied and a sentence saying what it does; or where and why it was not understood.</summary>
public sealed record PhraseResult(Schedule? Schedule, string Sentence, int? ErrorAt);

/// <summary>
/// Understands lines such as <c>tue-fri 9:00-17:30 open</c>, <c>thu 9-20 open</c>, <c>mon closed</c>,
/// <c>mon 9-12 open, 14-17 open; sat 10-16 open</c> and <c>2026-12-25 closed christmas</c>: days or a date, times (missing
/// means all day), a state or number. Several may follow each other; days need not be said again. All that is typed is
/// understood, or refused at the character where it is not.
/// </summary>
public static class Phrase
{
    private static readonly string[] DayNames = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

    /// <summary>Applies a phrase to a schedule.</summary>
    public static PhraseResult Apply(Schedule schedule, string phrase)
    {
        var line = new Line(phrase);
        if (line.IsAtEnd) return new PhraseResult(null, "Type days, times and a value, such as “tue-fri 9:00-17:30 open”.", 0);
        var sentences = new List<string>();
        Schedule changed = schedule;
        IReadOnlyList<IsoDayOfWeek> days = [];
        LocalDate? date = null;
        try
        {
            while (!line.IsAtEnd)
            {
                int at = line.At;
                if (ReadDate(line) is { } newDate) (date, days) = (newDate, []);
                else if (ReadDays(line) is { Count: > 0 } newDays) (date, days) = (null, newDays);
                else if (date is null && days.Count == 0) throw new SyntaxException(at, $"‘{line.Peek()}’ is not a day or a date. Use mon, tue–fri, weekdays, weekend, daily or 2026-04-16.");
                bool also = date is not null && line.Take("also");
                var (from, to) = ReadTimes(line) ?? (0, 1440);
                if (line.IsAtEnd) throw new SyntaxException(phrase.Length, $"A value is missing at the end: {Values(schedule)}.");
                double value = ReadValue(schedule, line);
                // A value that is the default is not drawn: it is what holds outside all stretches.
                Span? span = schedule.Default == value ? null : new Span { From = Span.Text(from), To = Span.Text(to), Value = value };
                string when = from == 0 && to == 1440 ? "all day" : $"{Span.Text(from)}–{Span.Text(to)}";
                changed = date is { } on
                    ? Date(changed, on, also, from, to, span, ReadName(line), $"{schedule.Say(value)} {when}", sentences)
                    : Week(changed, days, from, to, span, $"{schedule.Say(value)} {when}", sentences);
            }
        }
        catch (SyntaxException e)
        {
            return new PhraseResult(null, e.Message, e.At);
        }
        return new PhraseResult(changed, string.Join("; ", sentences), null);
    }

    private static Schedule Date(Schedule schedule, LocalDate date, bool also, int from, int to, Span? span, string name, string says, List<string> sentences)
    {
        string text = NodaTime.Text.LocalDatePattern.Iso.Format(date);
        ExceptionDates? old = schedule.Exceptions.FirstOrDefault(e => e.From == text && (e.Through is null || e.Through == text));
        IReadOnlyList<Span> usual = schedule.SpansOf(date.DayOfWeek);
        var exception = new ExceptionDates { Name = name.Length > 0 ? name : old?.Name ?? "exception", From = text, Spans = Paint(old?.Spans ?? (also ? usual : []), from, to, span) };
        string sentence = $"{text}: {says}";
        if (old is not null) sentence += $", painted over ‘{old.Name}’";
        else if (also) sentence += " besides that day's usual hours";
        else if (usual.Count > 0) sentence += $"; its usual {string.Join(", ", usual.Select(u => $"{schedule.Say(u.Value)} {u.From}–{u.To}"))} does not hold that day (“also” before the times keeps it)";
        sentences.Add(sentence);
        return schedule with { Exceptions = [.. schedule.Exceptions.Where(e => e != old).Append(exception).OrderBy(e => e.From, StringComparer.Ordinal)] };
    }

    private static Schedule Week(Schedule schedule, IReadOnlyList<IsoDayOfWeek> days, int from, int to, Span? span, string says, List<string> sentences)
    {
        var byDay = Enumerable.Range(1, 7).ToDictionary(d => (IsoDayOfWeek)d, d => schedule.SpansOf((IsoDayOfWeek)d));
        foreach (IsoDayOfWeek day in days) byDay[day] = Paint(byDay[day], from, to, span);
        var split = schedule.Week.Where(g => g.Days.Any(days.Contains) && !g.Days.All(days.Contains)).ToList();
        string sentence = $"{Names(days)}: {says}";
        if (split.Count > 0) sentence += $"; splits {Names(days.Where(d => split.Any(g => g.Days.Contains(d))))} from {Names(split.SelectMany(g => g.Days).Where(d => !days.Contains(d)))}";
        sentences.Add(sentence);
        return schedule with { Week = Group(byDay) };
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

    private static LocalDate? ReadDate(Line line)
    {
        string word = line.Peek();
        if (DateOf(word) is { } date)
        {
            if (!ExceptionDates.IsInReach(date)) throw new SyntaxException(line.At, $"{word} is out of reach: {ExceptionDates.Reach}.");
            line.Skip(word.Length);
            return date;
        }
        if (word.Count(c => c == '-') == 2 && word.Length > 0 && char.IsAsciiDigit(word[0])) throw new SyntaxException(line.At, $"‘{word}’ is not a date. Write 2026-04-16.");
        return null;
    }

    private static List<IsoDayOfWeek> ReadDays(Line line)
    {
        var days = new List<IsoDayOfWeek>();
        while (!line.IsAtEnd && DaysOf(line.Peek()) is { } some)
        {
            days.AddRange(some);
            line.Skip(line.Peek().Length);
        }
        return days;
    }

    private static (int From, int To)? ReadTimes(Line line)
    {
        string word = line.Peek();
        string[] ends = word.Split('-');
        if (ends.Length != 2 || ends[0].Length == 0 || !char.IsAsciiDigit(ends[0][0])) return null;
        if (Span.Minutes(ends[0]) is not { } from || Span.Minutes(ends[1]) is not { } to) throw new SyntaxException(line.At, $"‘{word}’ is not a stretch of a day. Times go from 0:00 to 24:00, such as 9:00-17:30.");
        if (from >= to) throw new SyntaxException(line.At, $"{word} ends before it begins. To run past midnight, end at 24:00 and go on the next day.");
        line.Skip(word.Length);
        return (from, to);
    }

    private static double ReadValue(Schedule schedule, Line line)
    {
        if (schedule.Kind != PointKind.Analog)
        {
            // The longest first: “open late” before “open”.
            foreach (var (text, i) in schedule.StateTexts.Select((t, i) => (t, i)).OrderByDescending(t => t.t.Length))
            {
                if (line.Take(text)) return schedule.Kind == PointKind.Binary ? i : i + 1;
            }
            throw new SyntaxException(line.At, $"‘{line.Peek()}’ is not a value of this schedule. Use {Values(schedule)}.");
        }
        int at = line.At;
        string number = line.Number();
        if (number.Length == 0 || !double.TryParse(number, NumberStyles.Float, CultureInfo.InvariantCulture, out double value) || !double.IsFinite(value))
            throw new SyntaxException(at, $"‘{line.Peek()}’ is not a value of this schedule. Use {Values(schedule)}.");
        return InUnit(schedule, value, line);
    }

    /// <summary>Takes the unit behind a number, if there is one, and brings the value into the schedule's.</summary>
    private static double InUnit(Schedule schedule, double value, Line line)
    {
        bool isAttached = line.IsAttached;
        int at = line.At;
        string word = line.Peek();
        if (word.Length == 0) return value;
        if (Unit.Read(word) is not { } unit)
            return isAttached ? throw new SyntaxException(at, $"‘{word}’ behind the number is not a known unit. Use {Values(schedule)}.") : value;
        if (Unit.Find(schedule.Unit) is not { } own) throw new SyntaxException(at, $"This schedule gives bare numbers, so {unit.Symbol} cannot stand here. Leave it out.");
        if (unit.To(own) is not { } by) throw new SyntaxException(at, $"{unit.Symbol} is {unit.Word}, and this schedule gives {own.Word}. Use {Values(schedule)}.");
        line.Skip(word.Length);
        return unit == own ? value : Math.Round((value * by.Factor) + by.Offset, 6);
    }

    /// <summary>The name behind a dated value: words up to a comma, a semicolon, the next date or day.</summary>
    private static string ReadName(Line line)
    {
        var words = new List<string>();
        while (!line.IsAtSeparator && DateOf(line.Peek()) is null)
        {
            string word = line.Peek();
            if (DaysOf(word) is not null && words.Count == 0) break;
            if (ReadsAsTimes(word))
            {
                if (words.Count == 0) break;
                throw new SyntaxException(line.At, $"‘{word}’ was not understood: behind a name there can be nothing but another date. Put a comma before the next stretch.");
            }
            words.Add(word);
            line.Skip(word.Length);
        }
        return string.Join(' ', words);

        static bool ReadsAsTimes(string word) => word.Split('-') is [{ Length: > 0 } a, { Length: > 0 } b] && Span.Minutes(a) is not null && Span.Minutes(b) is not null;
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

    private static string Values(Schedule schedule) =>
        schedule.Kind == PointKind.Analog ? $"a number{(string.IsNullOrEmpty(schedule.Unit) ? "" : $" in {schedule.Unit}")}" : string.Join(" or ", schedule.StateTexts);

    /// <summary>The line as it is read: words between blanks, commas and semicolons; dashes are hyphens; “ - ” joins its neighbours.</summary>
    private sealed class Line(string text) : Scanner(text, c => char.IsWhiteSpace(c) || c is ',' or ';')
    {
        /// <summary>Where the next word begins; blanks before it are passed.</summary>
        public new int At
        {
            get
            {
                Space();
                return base.At;
            }
        }

        /// <summary>Whether no blank stands before what comes next.</summary>
        public bool IsAttached => base.At > 0 && base.At < Text.Length && !IsBlank(Text[base.At]);

        /// <summary>Whether a comma or semicolon, or nothing, comes next.</summary>
        public bool IsAtSeparator
        {
            get
            {
                int at = base.At;
                while (at < Text.Length && char.IsWhiteSpace(Text[at])) at++;
                return at >= Text.Length || Text[at] is ',' or ';';
            }
        }

        /// <summary>The next word.</summary>
        public string Peek() => Word(At).Text;

        /// <summary>Passes so many characters of the word that <see cref="Peek"/> gave.</summary>
        public void Skip(int characters)
        {
            var (word, end) = Word(At);
            base.At = characters == word.Length ? end : base.At + characters;
        }

        /// <summary>Passes a text if it comes next and ends where a word does.</summary>
        public bool Take(string wanted)
        {
            int at = At;
            if (wanted.Length == 0 || string.Compare(Text, at, wanted, 0, wanted.Length, StringComparison.OrdinalIgnoreCase) != 0) return false;
            if (at + wanted.Length < Text.Length && !IsBlank(Text[at + wanted.Length])) return false;
            base.At = at + wanted.Length;
            return true;
        }

        /// <summary>Passes a number with a decimal point, or a decimal comma and one or two digits; answers it with a point.</summary>
        public string Number()
        {
            int end = At, from = end;
            if (end < Text.Length && Text[end] is '-' or '−' or '–' or '+') end++;
            int digits = end;
            while (end < Text.Length && char.IsAsciiDigit(Text[end])) end++;
            if (end == digits) return "";
            if (end + 1 < Text.Length && Text[end] is '.' or ',' && char.IsAsciiDigit(Text[end + 1]))
            {
                int decimals = end + 1;
                while (decimals < Text.Length && char.IsAsciiDigit(Text[decimals])) decimals++;
                if (Text[end] == ',' && decimals - end > 3) throw new SyntaxException(from, $"‘{Text[from..decimals]}’ could be thousands or decimals. Write it with a point for decimals and without a mark for thousands.");
                end = decimals;
            }
            base.At = end;
            return Text[from..end].Replace('−', '-').Replace('–', '-').Replace(',', '.');
        }

        private (string Text, int End) Word(int from)
        {
            int end = from;
            while (end < Text.Length && !IsBlank(Text[end])) end++;
            string word = Text[from..end];
            int dash = end;
            while (dash < Text.Length && Text[dash] == ' ') dash++;
            if (dash > end && dash + 1 < Text.Length && Text[dash] is '-' or '–' && Text[dash + 1] == ' ')
            {
                int next = dash + 1;
                while (next < Text.Length && Text[next] == ' ') next++;
                int last = next;
                while (last < Text.Length && !IsBlank(Text[last])) last++;
                (word, end) = ($"{word}-{Text[next..last]}", last);
            }
            return (word.Replace('–', '-'), end);
        }
    }
}
