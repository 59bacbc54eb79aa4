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
