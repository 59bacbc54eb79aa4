using LoftyWren.Core.Fields;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Alarms;

/// <summary>Watches one analog point for leaving its range: the out-of-range algorithm of ISO 16484-5, 13.3.6.</summary>
public sealed record AlarmRule : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<AlarmRule> AsKind { get; } = new("alarm")
    {
        Nouns = [new("alarm", "alarms") { NameTokens = NamePattern.AllFills, IsAlone = true }],
        RunsInImage = true,
        HasVariables = true,
        Handicap = 0.5,
        Fields =
        [
            FieldOf<AlarmRule>.Number("lowLimit", "Low limit", null, a => a.LowLimit, (a, v) => a with { LowLimit = v }, FieldUses.Grid | FieldUses.Form, units: (project, a) => project.Find<Point>(a.PointId)?.Unit),
            FieldOf<AlarmRule>.Number("highLimit", "High limit", null, a => a.HighLimit, (a, v) => a with { HighLimit = v }, FieldUses.Grid | FieldUses.Form, units: (project, a) => project.Find<Point>(a.PointId)?.Unit),
            FieldOf<AlarmRule>.Number("deadband", "Deadband", null, a => a.Deadband, (a, v) => a with { Deadband = v ?? 0 }, FieldUses.Grid | FieldUses.Form, units: (project, a) => Units.Unit.Find(project.Find<Point>(a.PointId)?.Unit)?.Difference.Symbol),
            FieldOf<AlarmRule>.Number("delaySeconds", "Delay", "s", a => a.DelaySeconds, (a, v) => a with { DelaySeconds = v ?? 0 }, FieldUses.Grid | FieldUses.Form, words: "delay in s"),
            FieldOf<AlarmRule>.Number("delayNormalSeconds", "Delay back to normal", "s", a => a.DelayNormalSeconds, (a, v) => a with { DelayNormalSeconds = v ?? 0 }, FieldUses.Grid | FieldUses.Form, words: "delay back to normal in s"),
            FieldOf<AlarmRule>.Text("advice", "Advice", a => a.Advice, (a, v) => a with { Advice = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Replace),
        ],
    };

    /// <summary>The point.</summary>
    public required RecordId PointId { get; init; }

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
    public override RecordId? ParentId => PointId;

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
        if (!(DelaySeconds is >= 0 and <= 604_800) || !(DelayNormalSeconds is >= 0 and <= 604_800)) yield return new Refusal(Id, "delaySeconds", "A delay is between 0 s and one week (604 800 s).");
    }
}
