using FsCheck.Xunit;
using LoftyWren.Core.Schedules;
using NodaTime;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Schedules;

public class PhraseTests
{
    private static readonly Schedule Opening = Project().Find<Schedule>(Hours)!;

    private static string Day(Schedule schedule, IsoDayOfWeek day) => string.Join(' ', schedule.SpansOf(day).Select(s => $"{s.From}-{s.To}"));

    [Theory]
    [InlineData("tue-fri 9:00-17:30 open", IsoDayOfWeek.Friday, "09:00-17:30")]
    [InlineData("mon 8-12 open", IsoDayOfWeek.Monday, "08:00-12:00")]
    [InlineData("weekend 11-15 open", IsoDayOfWeek.Sunday, "10:00-16:00")]
    [InlineData("weekend closed", IsoDayOfWeek.Sunday, "")]
    [InlineData("daily 20:00–24:00 open", IsoDayOfWeek.Monday, "20:00-24:00")]
    [InlineData("fri-mon 20-22 open", IsoDayOfWeek.Monday, "20:00-22:00")]
    [InlineData("Tuesday, Thursday 12-13 closed", IsoDayOfWeek.Thursday, "09:00-12:00 13:00-17:30")]
    public void A_phrase_paints_over_what_was(string phrase, IsoDayOfWeek day, string expected) => Assert.Equal(expected, Day(Phrase.Apply(Opening, phrase).Schedule!, day));

    [Fact]
    public void Splitting_a_group_is_said_beforehand()
    {
        PhraseResult result = Phrase.Apply(Opening, "thu 9:00-20:00 open");
        Assert.Equal("Thu: open 09:00–20:00; splits Thu from Tue, Wed, Fri", result.Sentence);
        Assert.Equal(4, result.Schedule!.Week.Count);
        Assert.Equal("09:00-17:30", Day(result.Schedule, IsoDayOfWeek.Friday));
    }

    [Fact]
    public void A_date_makes_an_exception_with_a_name()
    {
        Schedule schedule = Phrase.Apply(Opening, "2026-12-25 closed midwinter").Schedule!;
        ExceptionDates exception = Assert.Single(schedule.Exceptions);
        Assert.Equal(("midwinter", "2026-12-25"), (exception.Name, exception.From));
        Assert.Empty(exception.Spans);
    }

    [Theory]
    [InlineData("tue-fri 9:00-17:30 opne", 19, "‘opne’ is not a value of this schedule. Use closed or open.")]
    [InlineData("tuf 9-17 open", 0, "‘tuf’ is not a day")]
    [InlineData("tue 17-9 open", 4, "ends before it begins")]
    [InlineData("tue 9-25 open", 4, "Times go from 0:00 to 24:00")]
    [InlineData("tue 9-17", 8, "A value is missing")]
    [InlineData("", 0, "Type days, times and a value")]
    public void A_phrase_that_is_not_understood_says_where_and_what_would_be_right(string phrase, int at, string sentence)
    {
        PhraseResult result = Phrase.Apply(Opening, phrase);
        Assert.Null(result.Schedule);
        Assert.Equal(at, result.ErrorAt);
        Assert.Contains(sentence, result.Sentence);
    }

    private static readonly Schedule Warmth = new() { Id = new("warmth"), Name = "Warmth", PlaceId = KilnRoom.Site, Kind = Core.Points.PointKind.Analog, Unit = "°C", Default = 16 };

    private static string Say(PhraseResult result) => result.Schedule is null ? $"{result.ErrorAt}: {result.Sentence}" : string.Join(' ', result.Schedule.SpansOf(IsoDayOfWeek.Monday).Select(x => $"{x.From}-{x.To}={x.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)}"));

    // 70 °F = (70 − 32) × 5/9 = 21.111 °C.
    [Theory]
    [InlineData("mon 6-22 70 °F", "06:00-22:00=21.111111")]
    [InlineData("mon 6-22 21,5", "06:00-22:00=21.5")]
    [InlineData("mon 6-22 21.5°C", "06:00-22:00=21.5")]
    [InlineData("mon 6-22 21.5 C", "06:00-22:00=21.5")]
    [InlineData("mon 6-22 −5", "06:00-22:00=-5")]
    [InlineData("mon 6 - 22 21", "06:00-22:00=21")]
    [InlineData("mon 6-9 21, 17-22 22", "06:00-09:00=21 17:00-22:00=22")]
    [InlineData("mon 6-22 21 kW", "12: kW is a power, and this schedule gives a temperature. Use a number in °C.")]
    [InlineData("mon 6-22 21K", "11: K is a temperature difference, and this schedule gives a temperature. Use a number in °C.")]
    [InlineData("mon 6-22 21x", "11: ‘x’ behind the number is not a known unit. Use a number in °C.")]
    [InlineData("mon 6-22 1,500", "9: ‘1,500’ could be thousands or decimals. Write it with a point for decimals and without a mark for thousands.")]
    [InlineData("mon 6-22 21 please", "12: ‘please’ is not a value of this schedule. Use a number in °C.")]
    public void A_number_takes_its_unit_with_it_or_says_why_not(string phrase, string expected) =>
        Assert.Equal(expected, Say(Phrase.Apply(Warmth, phrase)));

    [Theory]
    [InlineData("mon 9-12 open tue 18-20 open", "09:00-12:00=1", "09:00-17:30 18:00-20:00")]
    [InlineData("mon 9-12 open, 14-17 open", "09:00-12:00=1 14:00-17:00=1", "09:00-17:30")]
    [InlineData("mon, tue 9-12 open; 14-17 open", "09:00-12:00=1 14:00-17:00=1", "09:00-17:30")]
    public void Several_stretches_in_one_line_are_all_kept(string phrase, string monday, string tuesday)
    {
        PhraseResult result = Phrase.Apply(Opening, phrase);
        Assert.Equal(monday, Say(result));
        Assert.Equal(tuesday, Day(result.Schedule!, IsoDayOfWeek.Tuesday));
    }

    [Fact]
    public void The_longest_state_that_fits_is_meant()
    {
        Schedule modes = Opening with { Kind = Core.Points.PointKind.Multistate, StateTexts = ["closed", "open", "open late"], Default = 1, Week = [], Drives = [] };
        Assert.Equal("09:00-22:00=3", Say(Phrase.Apply(modes, "mon 9-22 open late")));
        Assert.Equal("09:00-22:00=2", Say(Phrase.Apply(modes, "mon 9-22 open")));
        Assert.StartsWith("14: ‘later’ is not a value", Say(Phrase.Apply(modes, "mon 9-22 open later")));
    }

    [Fact]
    public void What_a_date_takes_away_is_said_and_can_be_kept()
    {
        // 16 April 2026 is a Thursday, open 9:00 to 17:30.
        PhraseResult alone = Phrase.Apply(Opening, "2026-04-16 8-9 open"), also = Phrase.Apply(Opening, "2026-04-16 also 8-9 open early class");
        Assert.Contains("its usual open 09:00–17:30 does not hold that day", alone.Sentence);
        Assert.Equal("08:00-09:00", string.Join(' ', Assert.Single(alone.Schedule!.Exceptions).Spans.Select(x => $"{x.From}-{x.To}")));
        Assert.Equal("08:00-17:30", string.Join(' ', Assert.Single(also.Schedule!.Exceptions).Spans.Select(x => $"{x.From}-{x.To}")));
        Assert.Equal("early class", also.Schedule!.Exceptions[0].Name);
        Assert.Equal(24, Phrase.Apply(Opening, "2026-04-16 closed party 10-12 open").ErrorAt);
        Assert.Contains("out of reach", Phrase.Apply(Opening, "9999-12-31 closed").Sentence);
        Assert.Contains("is not a date", Phrase.Apply(Opening, "2026-02-30 closed").Sentence);
    }

    /// <summary>Nothing that is typed is passed over: a letter changed anywhere changes the outcome or is refused.</summary>
    [Fact]
    public void A_word_too_many_anywhere_is_refused()
    {
        const string phrase = "tue-fri 9:00-17:30 open; mon 10-12 open, 14-16 open";
        Assert.NotNull(Phrase.Apply(Opening, phrase).Schedule);
        for (int at = 0; at < phrase.Split(' ').Length; at++)
        {
            string longer = string.Join(' ', phrase.Split(' ').Take(at + 1).Append("zzz").Concat(phrase.Split(' ').Skip(at + 1)));
            PhraseResult result = Phrase.Apply(Opening, longer);
            Assert.True(result.Schedule is null, longer);
            Assert.Equal(longer.IndexOf("zzz", StringComparison.Ordinal), result.ErrorAt);
        }
    }

    [Property]
    public void Painting_gives_ordered_stretches_that_do_not_overlap((byte From, byte Length, bool Open)[] strokes)
    {
        IReadOnlyList<Span> spans = [];
        bool[] model = new bool[1440];
        foreach (var (start, length, open) in strokes)
        {
            int from = start * 5, to = Math.Min(1440, from + 5 + (length * 3));
            if (from >= to) continue;
            spans = Phrase.Paint(spans, from, to, open ? new Span { From = Span.Text(from), To = Span.Text(to), Value = 1 } : null);
            Array.Fill(model, open, from, to - from);
        }
        bool[] painted = new bool[1440];
        int end = -1;
        foreach (Span span in spans)
        {
            int from = Span.Minutes(span.From)!.Value, to = Span.Minutes(span.To)!.Value;
            // Equal neighbours have grown together, so a stretch never begins where the last one ended.
            Assert.True(from > end);
            Array.Fill(painted, true, from, to - from);
            end = to;
        }
        Assert.Equal(model, painted);
    }

    [Property]
    public void No_phrase_ever_throws(string text) => Assert.NotEmpty(Phrase.Apply(Opening, text ?? "").Sentence);
}
