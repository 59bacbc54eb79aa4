using NodaTime;
using NodaTime.TimeZones;

namespace LoftyWren.Core.Schedules;

/// <summary>A moment at which a schedule's value becomes another, or stays what it was at the beginning of a day. Value null means released.</summary>
public sealed record Transition(Instant At, double? Value, string Because);

/// <summary>What a schedule does on one date, in the site's zone.</summary>
public sealed record DayPlan(LocalDate Date, string Because, bool IsException, IReadOnlyList<(ZonedDateTime From, ZonedDateTime To, double Value)> Stretches, Duration Length);

/// <summary>
/// A schedule laid out in real time in one zone. The rule over clock changes: each time of day written in the schedule
/// happens exactly once a date. A time that the clock jumps over happens at the jump; a time that comes twice happens
/// the first time.
/// </summary>
public sealed class Timetable(Schedule schedule, DateTimeZone zone)
{
    private static readonly ZoneLocalMappingResolver Resolve =
        Resolvers.CreateMappingResolver(Resolvers.ReturnEarlier, Resolvers.ReturnStartOfIntervalAfter);

    /// <summary>The schedule.</summary>
    public Schedule Schedule { get; } = schedule;

    /// <summary>Its zone.</summary>
    public DateTimeZone Zone { get; } = zone;

    /// <summary>The real moment of a time of day on a date; 1440 is the beginning of the next date.</summary>
    public ZonedDateTime At(LocalDate date, int minutes) => Zone.ResolveLocal(date.AtMidnight().PlusMinutes(minutes), Resolve);

    /// <summary>The exception that rules a date, if any: among several the one with the fewest dates, then the first.</summary>
    public ExceptionDates? ExceptionOn(LocalDate date) => Schedule.Exceptions
        .Where(e => e.FirstDate is { } first && e.LastDate is { } last && first <= date && date <= last)
        .OrderBy(e => Period.DaysBetween(e.FirstDate!.Value, e.LastDate!.Value))
        .FirstOrDefault();

    /// <summary>What happens on a date.</summary>
    public DayPlan Day(LocalDate date)
    {
        ExceptionDates? exception = ExceptionOn(date);
        IReadOnlyList<Span> spans = exception?.Spans ?? Schedule.SpansOf(date.DayOfWeek);
        var stretches = spans.Select(s => (At(date, s.FromMinutes), At(date, s.ToMinutes), s.Value)).ToList();
        return new DayPlan(date, exception?.Name ?? $"week: {date.DayOfWeek}", exception is not null, stretches, At(date, 1440) - At(date, 0));
    }

    /// <summary>The value at a moment, why, and the next moment at which it may be another.</summary>
    public (double? Value, string Because, Instant Until) ValueAt(Instant now)
    {
        LocalDate date = now.InZone(Zone).Date;
        ExceptionDates? exception = ExceptionOn(date);
        string because = exception is null ? $"the week's {date.DayOfWeek}" : $"the exception ‘{exception.Name}’";
        Instant next = At(date, 1440).ToInstant();
        foreach (Span span in exception?.Spans ?? Schedule.SpansOf(date.DayOfWeek))
        {
            Instant from = At(date, span.FromMinutes).ToInstant(), to = At(date, span.ToMinutes).ToInstant();
            if (now < from) return (Schedule.Default, $"outside the hours of {because}", from < next ? from : next);
            if (now < to) return (span.Value, $"{because}, {span.From}–{span.To}", to < next ? to : next);
        }
        return (Schedule.Default, $"outside the hours of {because}", next);
    }

    /// <summary>All changes of value from a moment, for so many days.</summary>
    public IEnumerable<Transition> Transitions(Instant from, int days)
    {
        Instant end = from + Duration.FromDays(days), at = from;
        double? last = null;
        bool first = true;
        while (at < end)
        {
            var (value, because, until) = ValueAt(at);
            if (first || value != last) yield return new Transition(at, value, because);
            (last, first, at) = (value, false, until);
        }
    }
}
