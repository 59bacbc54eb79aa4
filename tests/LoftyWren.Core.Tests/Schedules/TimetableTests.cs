using FsCheck.Xunit;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Schedules;
using NodaTime;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Schedules;

public class TimetableTests
{
    private static readonly Schedule Opening = Project().Find<Schedule>(Hours)!;

    private static Timetable Of(params Span[] sunday) => new(Opening with { Week = [new DayGroup { Days = [IsoDayOfWeek.Sunday], Spans = sunday }] }, London);

    private static Instant Utc(int month, int day, int hour, int minute = 0) => Instant.FromUtc(2026, month, day, hour, minute);

    // Figures for Europe/London: Saturdays and Sundays 10:00–16:00 local time, as UTC.
    [Theory]
    [InlineData(3, 28, 10, 16, 24)]
    [InlineData(3, 29, 9, 15, 23)]
    [InlineData(10, 24, 9, 15, 24)]
    [InlineData(10, 25, 10, 16, 25)]
    public void Hours_keep_to_the_wall_clock_over_both_changes(int month, int day, int fromUtc, int toUtc, int length)
    {
        DayPlan plan = new Timetable(Opening, London).Day(new LocalDate(2026, month, day));
        var (from, to, value) = Assert.Single(plan.Stretches);
        Assert.Equal(Utc(month, day, fromUtc), from.ToInstant());
        Assert.Equal(Utc(month, day, toUtc), to.ToInstant());
        Assert.Equal(1, value);
        Assert.Equal(Duration.FromHours(length), plan.Length);
    }

    [Fact]
    public void A_time_that_the_clock_jumps_over_happens_at_the_jump()
    {
        // On 2026-03-29 local time goes from 01:00 GMT to 02:00 BST, at 01:00 UTC.
        var (from, to, _) = Assert.Single(Of(new Span { From = "01:30", To = "03:00", Value = 1 }).Day(new LocalDate(2026, 3, 29)).Stretches);
        Assert.Equal(Utc(3, 29, 1), from.ToInstant());
        Assert.Equal(Utc(3, 29, 2), to.ToInstant());
    }

    [Fact]
    public void A_time_that_comes_twice_happens_the_first_time()
    {
        // On 2026-10-25 local 01:00–02:00 comes twice: from 00:00 UTC and again from 01:00 UTC.
        var (from, to, _) = Assert.Single(Of(new Span { From = "01:15", To = "01:45", Value = 1 }).Day(new LocalDate(2026, 10, 25)).Stretches);
        Assert.Equal(Utc(10, 25, 0, 15), from.ToInstant());
        Assert.Equal(Utc(10, 25, 0, 45), to.ToInstant());
    }

    [Fact]
    public void Neighbouring_stretches_neither_overlap_nor_flap_in_the_hour_that_comes_twice()
    {
        var timetable = Of(new Span { From = "00:00", To = "01:30", Value = 1 }, new Span { From = "01:30", To = "04:00", Value = 0 });
        var changes = timetable.Transitions(Utc(10, 24, 22), 1).ToList();
        Assert.Equal([(Utc(10, 24, 22), 0.0), (Utc(10, 24, 23), 1.0), (Utc(10, 25, 0, 30), 0.0)], changes.Select(c => (c.At, c.Value!.Value)));
    }

    [Fact]
    public void An_exception_replaces_the_week_and_the_shortest_exception_wins()
    {
        Schedule schedule = Opening with
        {
            Exceptions =
            [
                new ExceptionDates { Name = "Summer break", From = "2026-04-13", Through = "2026-04-19" },
                new ExceptionDates { Name = "Glaze firing course", From = "2026-04-16", Spans = [new Span { From = "08:00", To = "21:00", Value = 1 }] },
            ],
        };
        var timetable = new Timetable(schedule, London);
        Assert.Empty(timetable.Day(new LocalDate(2026, 4, 15)).Stretches);
        DayPlan course = timetable.Day(new LocalDate(2026, 4, 16));
        Assert.Equal("Glaze firing course", course.Because);
        Assert.Single(course.Stretches);
        Assert.Single(timetable.Day(new LocalDate(2026, 4, 21)).Stretches);
        Assert.Contains("exception ‘Glaze firing course’, 08:00–21:00", timetable.ValueAt(Utc(4, 16, 19)).Because);
    }

    [Fact]
    public void The_next_sixty_days_hold_each_opening_once()
    {
        // 60 days from Monday 2026-03-16 are eight weeks and four days: 6 openings each of eight weeks, then Tue, Wed, Thu.
        var opened = new Timetable(Opening, London).Transitions(Utc(3, 16, 0), 60).Where(t => t.Value == 1).ToList();
        Assert.Equal((8 * 6) + 3, opened.Count);
    }

    [Property]
    public void The_value_holds_until_the_moment_it_names(uint minutes)
    {
        var timetable = new Timetable(Opening, London);
        Instant at = Utc(1, 1, 0) + Duration.FromMinutes(minutes % (365 * 1440));
        var (value, _, until) = timetable.ValueAt(at);
        Assert.True(until > at);
        Assert.Equal(value, timetable.ValueAt(until - Duration.FromMilliseconds(1)).Value);
    }

    [Fact]
    public void A_missing_default_releases()
    {
        var timetable = new Timetable(Opening with { Default = null }, London);
        Assert.Null(timetable.ValueAt(Utc(4, 13, 12)).Value);
    }

    [Theory]
    [InlineData("09:00", "09:00", "ends before it begins")]
    [InlineData("22:00", "06:00", "To run past midnight, end at 24:00")]
    [InlineData("9 am", "17:30", "is not a stretch of a day")]
    [InlineData("09:00", "25:00", "is not a stretch of a day")]
    public void A_stretch_that_cannot_be_is_refused(string from, string to, string sentence)
    {
        Schedule wrong = Opening with { Week = [new DayGroup { Days = [IsoDayOfWeek.Monday], Spans = [new Span { From = from, To = to, Value = 1 }] }] };
        Assert.Contains(Refused(Project(), Edit.Of(wrong)), r => r.Sentence.Contains(sentence));
    }

    [Fact]
    public void Overlaps_doubled_days_and_impossible_dates_are_refused()
    {
        Project project = Project();
        DayGroup monday = new() { Days = [IsoDayOfWeek.Monday], Spans = [new Span { From = "09:00", To = "12:00", Value = 1 }, new Span { From = "11:00", To = "13:00", Value = 1 }] };
        Assert.Contains(Refused(project, Edit.Of(Opening with { Week = [monday] })), r => r.Sentence.Contains("overlaps the stretch before it"));
        Assert.Contains(Refused(project, Edit.Of(Opening with { Week = [.. Opening.Week, new DayGroup { Days = [IsoDayOfWeek.Sunday] }] })), r => r.Sentence.Contains("Sunday is in two day groups"));
        Assert.Contains(Refused(project, Edit.Of(Opening with { Exceptions = [new ExceptionDates { Name = "x", From = "2026-02-30" }] })), r => r.Sentence.Contains("is not a date"));
        Assert.Contains(Refused(project, Edit.Of(Opening with { Drives = [new Drive(FanCommand, 8)] })), r => r.Sentence.Contains("belongs to people"));
        Assert.Contains(Refused(project, Edit.Of(Opening with { Drives = [new Drive(FanCommand, 10)] })), r => r.Sentence.Contains("already claimed by ‘Kiln room extract’") || r.Sentence.Contains("already claimed by ‘Opening hours’"));
        Assert.Contains(Refused(project, Edit.Of(Opening with { Drives = [new Drive(Temperature, 16)] })), r => r.Sentence.Contains("is a sensor"));
    }
}
