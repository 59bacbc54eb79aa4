using LoftyWren.Core.Hardware;
using System.Globalization;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using System.Runtime.CompilerServices;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using NodaTime;
using NodaTime.Text;

namespace LoftyWren.Core.Schedules;

/// <summary>A stretch of a day with a value: from one time of day to another, as texts 00:00 to 24:00.</summary>
public sealed record Span
{
    /// <summary>When it begins, such as 09:00.</summary>
    public required string From { get; init; }

    /// <summary>When it ends, such as 17:30 or 24:00; it does not include that moment.</summary>
    public required string To { get; init; }

    /// <summary>The value it gives.</summary>
    public required double Value { get; init; }

    /// <summary>Minutes since midnight of a text such as 9:00, 17:30 or 24:00; null when it is none.</summary>
    public static int? Minutes(string text)
    {
        string[] parts = text.Split(':');
        if (parts.Length > 2 || parts[0].Length is 0 or > 2 || !int.TryParse(parts[0], NumberStyles.None, CultureInfo.InvariantCulture, out int hours)) return null;
        int minutes = 0;
        if (parts.Length == 2 && (parts[1].Length != 2 || !int.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out minutes))) return null;
        int all = (hours * 60) + minutes;
        return minutes < 60 && all <= 1440 ? all : null;
    }

    /// <summary>The text of minutes since midnight: 0 is 00:00, 1440 is 24:00.</summary>
    public static string Text(int minutes) => $"{minutes / 60:00}:{minutes % 60:00}";

    internal int FromMinutes => Minutes(From) ?? 0;

    internal int ToMinutes => Minutes(To) ?? 0;
}

/// <summary>Days of the week that go alike.</summary>
public sealed record DayGroup
{
    /// <summary>Its days.</summary>
    public required IReadOnlyList<IsoDayOfWeek> Days { get; init; }

    /// <summary>Its stretches in order; outside them the schedule's default holds.</summary>
    public IReadOnlyList<Span> Spans { get; init; } = [];
}

/// <summary>A date, or some dates in a row, that go their own way instead of the week's.</summary>
public sealed record ExceptionDates
{
    /// <summary>Which dates a schedule reaches, in words.</summary>
    public const string Reach = "dates go from 1970-01-01 to 2199-12-31";

    /// <summary>Whether a schedule reaches a date.</summary>
    public static bool IsInReach(LocalDate date) => date.Year is >= 1970 and < 2200;

    /// <summary>Why: public holiday, stocktake.</summary>
    public required string Name { get; init; }

    /// <summary>The first date, as 2026-04-16.</summary>
    public required string From { get; init; }

    /// <summary>The last date; missing for a single date.</summary>
    public string? Through { get; init; }

    /// <summary>Its stretches in order; outside them the schedule's default holds.</summary>
    public IReadOnlyList<Span> Spans { get; init; } = [];

    internal LocalDate? FirstDate => LocalDatePattern.Iso.Parse(From) is { Success: true } r ? r.Value : null;

    internal LocalDate? LastDate => Through is null ? FirstDate : LocalDatePattern.Iso.Parse(Through) is { Success: true } r ? r.Value : null;
}

/// <summary>An output that the schedule claims.</summary>
public sealed record Drive(RecordId PointId, int Priority);

/// <summary>Values by day of the week and time of day, with exceptions, in the site's time zone.</summary>
public sealed record Schedule : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Schedule> AsKind { get; } = new("schedule")
    {
        Nouns = [new("schedule", "schedules") { NameTokens = ["building", "floor", "room", "short"] }],
        RunsInImage = true,
        TakesBack = (runs, design, runsThere) => runs with { Drives = [.. design.Drives.Where(d => !runsThere(d.PointId)), .. runs.Drives] },
        NeedsParts = [SoftwareParts.Schedules],
        Begins = (id, name, owner) => owner is Place ? new Schedule { Id = id, Name = name, PlaceId = owner.Id, StateTexts = ["off", "on"], Default = 0 } : null,
        Checks = Findings.Checks.OnSchedule,
        Fields =
        [
            FieldOf<Schedule>.Choice<PointKind>("kind", "Kind", s => s.Kind, (s, v) => s with { Kind = v }, FieldUses.None),
            FieldOf<Schedule>.Shown("placeId", "Place", (project, s) => project.Find(s.PlaceId)?.Name, "Move the schedule on its page.", FieldUses.None),
        ],
    };

    /// <summary>The place whose timetable it is.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>What sort of value it gives.</summary>
    public PointKind Kind { get; init; } = PointKind.Binary;

    /// <summary>The unit of analog values.</summary>
    public string? Unit { get; init; }

    /// <summary>The names of its states, as on points: closed, open.</summary>
    [Most(40, Members = 64)]
    public IReadOnlyList<string> StateTexts { get; init; } = [];

    /// <summary>What holds outside all stretches; missing means released.</summary>
    public double? Default { get; init; }

    /// <summary>The week. A day in no group has the default all day.</summary>
    public IReadOnlyList<DayGroup> Week { get; init; } = [];

    /// <summary>Dates that go another way.</summary>
    public IReadOnlyList<ExceptionDates> Exceptions { get; init; } = [];

    /// <summary>The outputs it claims, each at a priority; the hours of a site may drive all of its outputs.</summary>
    [Most(RecordTexts.MostCharacters, Members = 20_000)]
    public IReadOnlyList<Drive> Drives { get; init; } = [];

    /// <inheritdoc/>
    public override RecordId? ParentId => PlaceId;

    /// <inheritdoc/>
    public override bool IsAlikeFromOutside(ProjectRecord before) => before is Schedule schedule && RecordJson.Same(this with { Week = schedule.Week, Exceptions = schedule.Exceptions }, schedule);

    /// <summary>The drives on one output: one schedule can drive thousands, so they are looked up and not gone through.</summary>
    public IEnumerable<Drive> DrivesOn(RecordId pointId) => ByPoint.GetValue(Drives, d => d.ToLookup(x => x.PointId))[pointId];

    private static readonly ConditionalWeakTable<IReadOnlyList<Drive>, ILookup<RecordId, Drive>> ByPoint = [];

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId place = map.Owner(InPlace, PlaceId);
        IReadOnlyList<Drive> drives = map.Each(Drives, d => map.Link(Driven, d.PointId) is not { } point ? null : point == d.PointId ? d : d with { PointId = point });
        return place == PlaceId && ReferenceEquals(drives, Drives) ? this : this with { PlaceId = place, Drives = drives };
    }

    private static readonly ReferenceSort InPlace = ReferenceSort.Owner<Place>("in", "placeId", "place"), Driven = ReferenceSort.Link<Point>("drives", "drives", "point") with { Alone = true, Moves = true };

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => Drives
        .Select(d => new UniqueKey(Sequence.ClaimKey(d.PointId, d.Priority), "drives", $"Priority {d.Priority} of this output is already claimed by ‘{{0}}’. Choose a free priority."))
        .Prepend(new UniqueKey($"schedule|{PlaceId}|{Name.ToLowerInvariant()}", "name", "There is already a schedule called ‘{0}’ here. Choose another name."));

    /// <summary>The value in words.</summary>
    public string Say(double? value) => value is { } v ? ValueText.Of(v, Kind, Unit, StateTexts) : "released";

    /// <summary>The stretches of a weekday.</summary>
    public IReadOnlyList<Span> SpansOf(IsoDayOfWeek day) => Week.FirstOrDefault(g => g.Days.Contains(day))?.Spans ?? [];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (Kind != PointKind.Analog && StateTexts.Count < 2) yield return new Refusal(Id, "stateTexts", $"‘{Name}’ needs the names of its states, such as “closed · open”.");
        if (Kind == PointKind.Analog && !string.IsNullOrEmpty(Unit) && Units.Unit.Find(Unit) is null) yield return new Refusal(Id, "unit", $"‘{Unit}’ is not a known unit.");
        if (Default is { } value && !CanBe(value)) yield return new Refusal(Id, "default", $"‘{Name}’ cannot have {value} as its default.");
        if (Week.SelectMany(g => g.Days).GroupBy(d => d).FirstOrDefault(g => g.Count() > 1) is { } twice)
            yield return new Refusal(Id, "week", $"{twice.Key} is in two day groups. Leave it in one.");
        if (Week.SelectMany(g => g.Days).Contains(IsoDayOfWeek.None)) yield return new Refusal(Id, "week", "A day group holds something that is no day of the week.");
        foreach (var (spans, where) in Week.Select(g => (g.Spans, string.Join(", ", g.Days))).Concat(Exceptions.Select(e => (e.Spans, e.Name))))
        {
            int end = 0;
            if (spans.Count > 100) yield return new Refusal(Id, "week", $"{where}: a day has at most 100 stretches.");
            foreach (Span span in spans)
            {
                if (Span.Minutes(span.From) is not { } from || Span.Minutes(span.To) is not { } to) yield return new Refusal(Id, "week", $"{where}: ‘{span.From}–{span.To}’ is not a stretch of a day. Times go from 00:00 to 24:00.");
                else if (from >= to) yield return new Refusal(Id, "week", $"{where}: {span.From}–{span.To} ends before it begins. To run past midnight, end at 24:00 and go on the next day from 00:00.");
                else if (from < end) yield return new Refusal(Id, "week", $"{where}: {span.From}–{span.To} overlaps the stretch before it.");
                else end = to;
                if (!CanBe(span.Value)) yield return new Refusal(Id, "week", $"{where}: {span.Value} is not a value of ‘{Name}’.");
            }
        }
        if (Exceptions.Count > 1000) yield return new Refusal(Id, "exceptions", "A schedule has at most 1000 exceptions.");
        foreach (ExceptionDates exception in Exceptions)
        {
            if (string.IsNullOrWhiteSpace(exception.Name)) yield return new Refusal(Id, "exceptions", "An exception needs a name, such as “public holiday”.");
            if (exception.FirstDate is not { } first || exception.LastDate is not { } last) yield return new Refusal(Id, "exceptions", $"‘{exception.Name}’: ‘{exception.From}{(exception.Through is null ? "" : "–" + exception.Through)}’ is not a date. Write 2026-04-16.");
            else if (!(ExceptionDates.IsInReach(first) && ExceptionDates.IsInReach(last))) yield return new Refusal(Id, "exceptions", $"‘{exception.Name}’ is out of reach: {ExceptionDates.Reach}.");
            else if (last < first) yield return new Refusal(Id, "exceptions", $"‘{exception.Name}’ ends ({exception.Through}) before it begins ({exception.From}).");
        }
        foreach (Drive drive in Drives)
        {
            foreach (Refusal refusal in CheckDrive(project, drive)) yield return refusal;
        }
    }

    /// <inheritdoc/>
    public override IEnumerable<Refusal> CheckAgainst(Project project, IReadOnlyCollection<RecordId> changed) =>
        changed.All(id => project.Find(id) is Point) ? changed.SelectMany(DrivesOn).SelectMany(d => CheckDrive(project, d)) : Check(project);

    private IEnumerable<Refusal> CheckDrive(Project project, Drive drive)
    {
        if (drive.Priority is < 1 or > 16 or Sequence.ManualOperator) yield return new Refusal(Id, "drives", $"A schedule cannot claim at priority {drive.Priority}. Use 1 to 16 but not 8, which belongs to people.");
        if (project.Find(drive.PointId) is not Point point) yield break;
        if (point.Role == PointRole.Sensor) yield return new Refusal(Id, "drives", $"‘{point.Name}’ is a sensor; it cannot be commanded.");
        else if (point.Kind != Kind) yield return new Refusal(Id, "drives", $"‘{point.Name}’ is {point.Kind.ToString().ToLowerInvariant()} and ‘{Name}’ gives {Kind.ToString().ToLowerInvariant()} values.");
        else if (Kind == PointKind.Analog && (point.Unit ?? "") != (Unit ?? "")) yield return new Refusal(Id, "drives", $"‘{point.Name}’ is in {point.Unit} and ‘{Name}’ in {Unit}. Use one unit.");
    }

    private bool CanBe(double value) => Kind switch
    {
        PointKind.Analog => double.IsFinite(value),
        PointKind.Binary => value is 0 or 1,
        _ => value >= 1 && value <= StateTexts.Count && value == Math.Floor(value),
    };
}
