using LoftyWren.Core.Hardware;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Alarms;

/// <summary>Watches one analog point for leaving its range: the out-of-range algorithm of ISO 16484-5, 13.3.6.</summary>
public sealed record AlarmRule : EventRule
{
    /// <summary>One week, in seconds: the longest that an alarm may wait to come or to go.</summary>
    private const double LongestDelaySeconds = 604_800;

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<AlarmRule> AsKind { get; } = new("alarm")
    {
        Nouns = [new("alarm", "alarms") { NameTokens = NamePattern.AllFills, IsAlone = true }],
        RunsInImage = true,
        NeedsParts = [SoftwareParts.Alarms],
        HasVariables = true,
        Handicap = 0.5,
        Fields =
        [
            FieldOf<AlarmRule>.Number("lowLimit", "Low limit", null, a => a.LowLimit, (a, v) => a with { LowLimit = v }, FieldUses.Grid | FieldUses.Form, units: (project, a) => project.Find<Point>(a.PointId)?.Unit).Told("Below this value the point is in alarm; empty for no low limit. It lies below the high limit."),
            FieldOf<AlarmRule>.Number("highLimit", "High limit", null, a => a.HighLimit, (a, v) => a with { HighLimit = v }, FieldUses.Grid | FieldUses.Form, units: (project, a) => project.Find<Point>(a.PointId)?.Unit).Told("Above this value the point is in alarm; empty for no high limit."),
            FieldOf<AlarmRule>.Number("deadband", "Deadband", null, a => a.Deadband, (a, v) => a with { Deadband = v ?? 0 }, FieldUses.Grid | FieldUses.Form, units: (project, a) => Units.Unit.Find(project.Find<Point>(a.PointId)?.Unit)?.Difference.Symbol).Told("How far back from the limit the value must come before it is normal again.", least: 0),
            FieldOf<AlarmRule>.Span("delaySeconds", "Delay", a => a.DelaySeconds, (a, v) => a with { DelaySeconds = v }, FieldUses.Grid | FieldUses.Form, "delay in s", empty: 0).Told("How long the value must lie beyond the limit before the alarm comes.", 0, LongestDelaySeconds),
            FieldOf<AlarmRule>.Span("delayNormalSeconds", "Delay back to normal", a => a.DelayNormalSeconds, (a, v) => a with { DelayNormalSeconds = v }, FieldUses.Grid | FieldUses.Form, "delay back to normal in s", empty: 0).Told("How long the value must be back within the limits before the alarm goes.", 0, LongestDelaySeconds),
            FieldOf<AlarmRule>.Text("advice", "Advice", a => a.Advice, (a, v) => a with { Advice = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Replace).Told("What whoever takes the call should look at first."),
        ],
    };

    /// <summary>Off-normal above this, in the point's unit; missing when only the low side is watched.</summary>
    public double? HighLimit { get; init; }

    /// <summary>Off-normal below this, in the point's unit; missing when only the high side is watched.</summary>
    public double? LowLimit { get; init; }

    /// <summary>How far back inside a limit the value must come to be normal; a difference in the point's unit.</summary>
    public double Deadband { get; init; }

    /// <summary>How long a value must be outside before it is off-normal, in seconds.</summary>
    public double DelaySeconds { get; init; }

    /// <summary>How long a value must be back inside before it is normal, in seconds.</summary>
    public double DelayNormalSeconds { get; init; }

    /// <summary>What whoever sees it should do.</summary>
    [Most(500, Lines = true)]
    public string? Advice { get; init; }

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId point = map.Owner(Of, PointId);
        return point == PointId ? this : this with { PointId = point };
    }

    private static readonly ReferenceSort Of = ReferenceSort.Owner<Point>("of", "pointId", "point");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"alarm|{PointId}|{Name.ToLowerInvariant()}", "name", "This point already has an alarm called ‘{0}’. Choose another name.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (project.Find(PointId) is Point point && point.Kind != PointKind.Analog) yield return new Refusal(Id, "pointId", $"‘{point.Name}’ is not analog; limits need a number.");
        if (HighLimit is null && LowLimit is null) yield return new Refusal(Id, "highLimit", "An alarm needs a high limit, a low limit or both.");
        if (HighLimit is { } high && LowLimit is { } low && !(low < high)) yield return new Refusal(Id, "lowLimit", $"The low limit {low} is not below the high limit {high}.");
        if (!(Deadband >= 0 && double.IsFinite(Deadband))) yield return new Refusal(Id, "deadband", "A deadband is 0 or more.");
        else if (HighLimit is { } h && LowLimit is { } l && Deadband >= h - l) yield return new Refusal(Id, "deadband", $"A deadband of {Deadband} leaves no room between {l} and {h} to be normal in.");
        if (!(DelaySeconds is >= 0 and <= LongestDelaySeconds)) yield return new Refusal(Id, "delaySeconds", "A delay is between 0 s and one week (604 800 s).");
        if (!(DelayNormalSeconds is >= 0 and <= LongestDelaySeconds)) yield return new Refusal(Id, "delayNormalSeconds", "A delay is between 0 s and one week (604 800 s).");
    }

    /// <inheritdoc/>
    public override IEventAlgorithm Begin() => new OutOfRange(HighLimit, LowLimit, Deadband, DelaySeconds, DelayNormalSeconds);

    /// <inheritdoc/>
    public override double? LimitOf(EventState state) => state switch { EventState.HighLimit => HighLimit, EventState.LowLimit => LowLimit, _ => null };

    /// <inheritdoc/>
    public override Because Tell(IEventAlgorithm algorithm, IEventTelling about)
    {
        RecordId[] on = [Id, PointId];
        string since = about.Time(algorithm.Since);
        var under = new List<Because>();
        string fact = algorithm.State switch
        {
            EventState.Fault => TellFault(),
            EventState.Normal => TellNormal(),
            _ when LimitOf(algorithm.State) is { } limit => TellAlarm(limit, algorithm.State == EventState.HighLimit ? limit - Deadband : limit + Deadband, algorithm.State == EventState.HighLimit),
            _ => TellLimitGone(),
        };
        if ((about.Reading.Status & StatusFlags.Stale) != 0) under.Add(Because.Of($"{about.Point} is stale: nothing has been heard of it since {about.Time(about.Reading.AtMilliseconds)}, so this rests on its last value.", on));
        return Because.Of(fact, on, under);

        string TellFault()
        {
            under.Add(about.WhyPoint());
            return $"‘{Name}’ cannot tell: {about.Point} has no value to compare with its limits, since {since}.";
        }
        string TellLimitGone()
        {
            under.Add(Because.Of($"{about.Point} is {about.Now} now.", on));
            return $"‘{Name}’ has been in alarm since {since}, but the limit it had passed is taken away: it is normal again at the next scan.";
        }
        string TellAlarm(double limit, double back, bool isHigh)
        {
            (string beyond, string inside) = isHigh ? ("above", "below") : ("below", "above");
            under.Add(Because.Of($"{about.Point} is {about.Now} now.", on));
            under.Add(Because.Of(algorithm.Pending == EventState.Normal
                ? $"It has been {inside} {about.Say(back)} since {about.Time(algorithm.PendingSince)}; it goes back to normal {about.Length(DelayNormalSeconds)} after that."
                : $"It goes back to normal once it has been {inside} {about.Say(back)} (the limit {(isHigh ? "less" : "and")} {about.SayDifference(Deadband)} deadband) for {about.Length(DelayNormalSeconds)}.", weight: Weight.Note));
            return $"‘{Name}’ is in alarm since {since}: {about.Point} had been {beyond} {about.Say(limit)} for {about.Length(DelaySeconds)}.";
        }
        string TellNormal()
        {
            if (algorithm.Pending != EventState.Normal)
            {
                under.Add(Because.Of($"It will be in alarm at {about.Time(algorithm.PendingSince + (long)(DelaySeconds * 1000))} if it stays so.", on, weight: Weight.Note));
                return $"‘{Name}’ is not in alarm yet: {about.Point} is {about.Now}, beyond {about.Say(LimitOf(algorithm.Pending)!.Value)} since {about.Time(algorithm.PendingSince)}, but must be so for {about.Length(DelaySeconds)}.";
            }
            under.Add(Because.Of(DelaySeconds > 0 ? $"A value beyond a limit must stay there for {about.Length(DelaySeconds)} to count; a shorter one is not reported." : "A value beyond a limit counts at once.", on, weight: Weight.Note));
            string limits = string.Join(" and ", new[] { HighLimit is { } h ? $"not above {about.Say(h)}" : null, LowLimit is { } l ? $"not below {about.Say(l)}" : null }.OfType<string>());
            return $"‘{Name}’ is not in alarm: {about.Point} is {about.Now}, which is {limits}.";
        }
    }
}
