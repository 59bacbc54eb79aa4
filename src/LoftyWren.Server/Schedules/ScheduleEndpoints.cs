using System.Globalization;
using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Supervision;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using NodaTime.Text;

namespace LoftyWren.Server.Schedules;

/// <summary>A schedule in a list: what it says now and until when, the outputs it drives (the first ten by name), and its seven days of this week, Monday first; today is one of them, 0 to 6.</summary>
public sealed record ScheduleLine(RecordId Id, string Name, string Path, string Says, string Until, int Drives, IReadOnlyList<string> Outputs, IReadOnlyList<WeekDay> Week, int Today, int Exceptions, int Findings);

/// <summary>A day of a week, with its stretches in minutes of local time since midnight.</summary>
public sealed record WeekDay(string Day, string? Exception, IReadOnlyList<WeekStretch> Stretches);

/// <summary>A stretch of a day.</summary>
public sealed record WeekStretch(int From, int To, string Says);

/// <summary>A schedule as its page shows it.</summary>
public sealed record ScheduleView(Schedule Schedule, long Revision, string Path, string Zone, IReadOnlyList<DriveView> Drives, IReadOnlyList<RuleLine> Today, string Now);

/// <summary>An output it drives, and whether it is in charge there now.</summary>
public sealed record DriveView(RecordId PointId, string Name, string Path, int Priority, string State, bool InCharge);

/// <summary>One rule of today's order: what could decide, and whether it does.</summary>
public sealed record RuleLine(string Rule, string Says, bool Decides);

/// <summary>What a schedule will do on one date.</summary>
public sealed record DayLine(string Date, string Weekday, string Because, bool IsException, IReadOnlyList<StretchLine> Stretches, double Hours, string? ClockChange);

/// <summary>One stretch of a date: local times with the offset from UTC, and the moments in UTC.</summary>
public sealed record StretchLine(string From, string To, string FromUtc, string ToUtc, string Says, double Value);

/// <summary>A phrase to understand.</summary>
public sealed record PhraseRequest(string Text, bool Apply);

/// <summary>What a phrase does, or where it was not understood.</summary>
public sealed record PhraseAnswer(string Sentence, int? ErrorAt, bool Applied);

internal static class ScheduleEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/schedules", (Workspace workspace, ILink site) =>
        {
            Instant now = Instant.FromUnixTimeMilliseconds(site.Pulse().Now);
            return workspace.Project.All<Schedule>().OrderBy(s => s.Name, NaturalOrder.Names).Select(s => Line(workspace, s, now)).ToList();
        }).For(Role.Viewer);
        api.MapGet("/schedules/{id}", Results<Ok<ScheduleView>, ProblemHttpResult> (string id, Workspace workspace, ILink site) =>
            Find(workspace, id) is { } schedule ? TypedResults.Ok(View(workspace, schedule, site)) : Problems.Missing("schedule")).For(Role.Viewer);
        api.MapGet("/schedules/{id}/days", Results<Ok<List<DayLine>>, ProblemHttpResult> (string id, string? from, int? days, Workspace workspace, ILink site) =>
        {
            if (Find(workspace, id) is not { } schedule) return Problems.Missing("schedule");
            DateTimeZone zone = ZoneOf(workspace.Project);
            LocalDate first = Instant.FromUnixTimeMilliseconds(site.Pulse().Now).InZone(zone).Date;
            if (!string.IsNullOrEmpty(from))
            {
                if (LocalDatePattern.Iso.Parse(from) is not { Success: true } parsed) return Problems.Refused($"‘{from}’ is not a date. Write 2026-03-29.");
                if (!ExceptionDates.IsInReach(parsed.Value)) return Problems.Refused($"{from} is out of reach: {ExceptionDates.Reach}.");
                first = parsed.Value;
            }
            var timetable = new Timetable(schedule, zone);
            return TypedResults.Ok(Enumerable.Range(0, Math.Clamp(days ?? 60, 1, 400)).Select(n => Line(schedule, timetable.Day(first.PlusDays(n)))).ToList());
        }).For(Role.Viewer);
        api.MapPost("/schedules/{id}/phrase", Results<Ok<PhraseAnswer>, ProblemHttpResult> (string id, PhraseRequest request, HttpContext http, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } schedule) return Problems.Missing("schedule");
            if (request.Text.Length > 200) return Problems.Refused("A phrase has at most 200 characters.");
            PhraseResult result = Phrase.Apply(schedule, request.Text);
            if (result.Schedule is not { } changed) return TypedResults.Ok(new PhraseAnswer(result.Sentence, result.ErrorAt, false));
            if (!request.Apply) return TypedResults.Ok(new PhraseAnswer(result.Sentence, null, false));
            if (!http.User.HasClaim(c => c.Type == Least.RoleClaim && Enum.Parse<Role>(c.Value) >= Role.Engineer)) return TypedResults.Problem("Only an engineer changes schedules in the design.", statusCode: 403, title: "Not allowed");
            ChangeOutcome outcome = workspace.Apply([Edit.Of(changed, workspace.Project.FindEntry(schedule.Id)!.Revision)], http.User.Identity!.Name!, $"Schedule ‘{schedule.Name}’: {result.Sentence}");
            return outcome.Accepted ? TypedResults.Ok(new PhraseAnswer(result.Sentence, null, true)) : Problems.Of(outcome);
        }).For(Role.Viewer);
    }

    private static Schedule? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Schedule>(new RecordId(id)) : null;

    private static DateTimeZone ZoneOf(Project project) => DateTimeZoneProviders.Tzdb.GetZoneOrNull(project.Site?.TimeZone ?? "UTC") ?? DateTimeZone.Utc;

    private static ScheduleLine Line(Workspace workspace, Schedule schedule, Instant now)
    {
        Project project = workspace.Project;
        DateTimeZone zone = ZoneOf(project);
        var timetable = new Timetable(schedule, zone);
        LocalDate today = now.InZone(zone).Date, monday = today.PlusDays(1 - (int)today.DayOfWeek);
        var (value, _, until) = timetable.ValueAt(now);
        var week = Enumerable.Range(0, 7).Select(n => timetable.Day(monday.PlusDays(n))).Select(day => new WeekDay(day.Date.DayOfWeek.ToString()[..3], day.IsException ? day.Because : null,
            [.. day.Stretches.Select(s => new WeekStretch(Minutes(s.From, day.Date), Minutes(s.To, day.Date), $"{schedule.Say(s.Value)} {Clock(s.From, day.Date)}–{Clock(s.To, day.Date)}"))])).ToList();
        return new ScheduleLine(schedule.Id, schedule.Name, project.PathOf(schedule.Id), schedule.Say(value), until.InZone(zone).ToString("ddd HH:mm", CultureInfo.InvariantCulture), schedule.Drives.Count,
            [.. schedule.Drives.Select(d => project.Find<Core.Points.Point>(d.PointId)).OfType<Core.Points.Point>().Select(p => $"{project.Find(p.OwnerId)?.Name} · {p.Name}").Order(NaturalOrder.Names).Take(10)],
            week, (int)today.DayOfWeek - 1, schedule.Exceptions.Count, workspace.Findings.On(schedule.Id).Count);

        static int Minutes(ZonedDateTime at, LocalDate date) => at.Date > date ? 1440 : (at.Hour * 60) + at.Minute;
        static string Clock(ZonedDateTime at, LocalDate date) => at.Date > date ? "24:00" : at.ToString("HH:mm", CultureInfo.InvariantCulture);
    }

    private static ScheduleView View(Workspace workspace, Schedule schedule, ILink site)
    {
        Project project = workspace.Project;
        DateTimeZone zone = ZoneOf(project);
        var drives = schedule.Drives.Select(d =>
        {
            int? winner = site.Ladder(d.PointId)?.Winner;
            string state = winner switch { null => "not installed", 0 => "fallback holds", { } w when w == d.Priority => "in charge", { } w when w < d.Priority => $"outranked by {w}", _ => "released" };
            return new DriveView(d.PointId, project.Find<Core.Points.Point>(d.PointId) is { } driven ? $"{project.Find(driven.OwnerId)?.Name} · {driven.Name}" : "", project.PathOf(d.PointId), d.Priority, state, winner == d.Priority);
        }).ToList();
        var timetable = new Timetable(schedule, zone);
        ZonedDateTime now = Instant.FromUnixTimeMilliseconds(site.Pulse().Now).InZone(zone);
        ExceptionDates? ruling = timetable.ExceptionOn(now.Date);
        var (value, because, until) = timetable.ValueAt(now.ToInstant());
        bool inSpan = !because.StartsWith("outside", StringComparison.Ordinal);
        string untilText = until.InZone(zone).ToString("HH:mm", CultureInfo.InvariantCulture);
        var today = schedule.Exceptions.Select(e => new RuleLine($"Exception: {e.Name}", e == ruling ? inSpan ? $"{schedule.Say(value)} until {untilText}" : "no hours now" : "not today", e == ruling && inSpan)).Take(8).ToList();
        today.Add(new RuleLine($"Week: {now.DayOfWeek}", ruling is not null ? "replaced by the exception" : inSpan ? $"{schedule.Say(value)} until {untilText}" : "no hours now", ruling is null && inSpan));
        today.Add(new RuleLine("Otherwise", $"{schedule.Say(schedule.Default)}{(inSpan ? "" : $" until {untilText} at least")}", !inSpan));
        return new ScheduleView(schedule, project.FindEntry(schedule.Id)!.Revision, project.PathOf(schedule.Id), zone.Id, drives, today, schedule.Say(value));
    }

    private static DayLine Line(Schedule schedule, DayPlan day)
    {
        double hours = day.Length.TotalHours;
        string? change = hours == 24 ? null : hours < 24 ? "clocks go forward: 23 h" : "clocks go back: 25 h";
        return new DayLine(day.Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture), day.Date.DayOfWeek.ToString()[..3], day.Because, day.IsException,
            [.. day.Stretches.Select(s => new StretchLine(Text(s.From), s.To.Date > day.Date && s.To.TimeOfDay == LocalTime.Midnight ? "24:00" : Text(s.To), Utc(s.From), Utc(s.To), schedule.Say(s.Value), s.Value))], hours, change);

        static string Text(ZonedDateTime at) => at.ToString("HH:mm", CultureInfo.InvariantCulture);
        static string Utc(ZonedDateTime at) => at.WithZone(DateTimeZone.Utc).ToString("HH:mm'Z'", CultureInfo.InvariantCulture);
    }
}
