using LoftyWren.Core.Records;

namespace LoftyWren.Core.Proofs;

/// <summary>
/// A function test of a sequence: a story of steps that sets what comes to it and says what must follow, and the clauses that
/// it proves. Like clauses it runs nowhere, so controllers are not sent it.
/// </summary>
public sealed record FunctionTest
{
    /// <summary>The most steps of one test.</summary>
    public const int MostSteps = 200;

    /// <summary>The longest that one test may last, s of site time.</summary>
    public const double LongestSeconds = 8 * 86_400;

    /// <summary>Its identity within the sequence.</summary>
    public required string Id { get; init; }

    /// <summary>What it is called.</summary>
    [Most(80)]
    public required string Name { get; init; }

    /// <summary>The clauses that it proves, by their identities.</summary>
    [Most(64)]
    public IReadOnlyList<string> Clauses { get; init; } = [];

    /// <summary>What it is lived against.</summary>
    public TestGround On { get; init; }

    /// <summary>Its steps, in order.</summary>
    public IReadOnlyList<TestStep> Steps { get; init; } = [];

    /// <summary>The test with what the references of its steps come to.</summary>
    public FunctionTest Through(ReferenceMap map)
    {
        IReadOnlyList<TestStep> steps = map.Each(Steps, step => step.Subject?.Through(map) is var subject && ReferenceEquals(subject, step.Subject) ? step : step with { Subject = subject });
        return ReferenceEquals(steps, Steps) ? this : this with { Steps = steps };
    }

    /// <summary>What is wrong with it in itself.</summary>
    public IEnumerable<string> Wrong()
    {
        if (!RecordId.IsValid(Id)) yield return $"‘{Id}’ is not a test identity: use 1 to 64 of a–z, 0–9 and hyphen.";
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > 80) yield return $"A test needs a name of 1 to 80 characters; this one has {Name.Length}.";
        if (Steps.Count > MostSteps) yield return $"A test has at most {MostSteps} steps; ‘{Name}’ has {Steps.Count}. Split it.";
        if (Steps.Sum(s => s.Seconds) is var seconds && !(seconds <= LongestSeconds)) yield return $"‘{Name}’ would last {seconds / 86_400:0.#} days; a test lasts at most {LongestSeconds / 86_400:0}.";
        foreach (string why in Steps.SelectMany(s => s.Wrong())) yield return $"‘{Name}’: {why}";
    }
}

/// <summary>A moment that a story begins or goes on at: a time of day on a date, or on the next such day of the week.</summary>
public sealed record TestMoment
{
    /// <summary>The Monday of the week in which a story begins that names only a day.</summary>
    public static NodaTime.LocalDate Week { get; } = new(2026, 4, 13);

    /// <summary>The date, <c>2026-04-14</c>; null where a day of the week is given.</summary>
    public string? Date { get; init; }

    /// <summary>The day of the week; none where a date is given.</summary>
    public NodaTime.IsoDayOfWeek Day { get; init; }

    /// <summary>The time of day, s since midnight.</summary>
    public double Seconds { get; init; }

    /// <summary>What is wrong with it.</summary>
    public IEnumerable<string> Wrong()
    {
        if (Date is null == (Day == NodaTime.IsoDayOfWeek.None)) yield return "a moment has a date or a day of the week.";
        if (Date is { } date && !(NodaTime.Text.LocalDatePattern.Iso.Parse(date).TryGetValue(default, out NodaTime.LocalDate read) && read.Year is >= 1970 and < 2200)) yield return $"‘{date}’ is no date such as 2026-04-14.";
        if (!(Seconds is >= 0 and < 86_400) || Seconds != Math.Floor(Seconds)) yield return $"a time of day is a whole number of seconds from 0 to 86 399, not {Seconds}.";
    }

    /// <summary>The moment in words.</summary>
    public string Say() => $"{Date ?? Day.ToString()} {(int)Seconds / 3600:00}:{(int)Seconds / 60 % 60:00}{(Seconds % 60 == 0 ? "" : $":{(int)Seconds % 60:00}")}";

    /// <summary>The first such moment at or after another, in a zone; null for one that lies before it. A time that the clocks leave out is the first there is after it.</summary>
    public NodaTime.Instant? From(NodaTime.Instant earliest, NodaTime.DateTimeZone zone)
    {
        NodaTime.LocalDate date = Date is { } text ? NodaTime.Text.LocalDatePattern.Iso.Parse(text).Value : earliest.InZone(zone).Date;
        for (int ahead = 0; ahead < 8; ahead++)
        {
            NodaTime.LocalDate day = Date is null ? date.PlusDays(ahead) : date;
            if (Date is null && day.DayOfWeek != Day) continue;
            NodaTime.Instant at = zone.AtLeniently(day + NodaTime.LocalTime.FromSecondsSinceMidnight((int)Seconds)).ToInstant();
            if (at >= earliest) return at;
            if (Date is not null) return null;
        }
        return null;
    }
}
