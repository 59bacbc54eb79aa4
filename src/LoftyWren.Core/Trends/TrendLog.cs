using LoftyWren.Core.Derivation;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Trends;

/// <summary>When a trend log takes a sample.</summary>
public enum TrendMode
{
    /// <summary>At fixed times.</summary>
    Interval,
    /// <summary>When the value has changed by enough, or its status at all.</summary>
    Change,
}

/// <summary>What a trend log does when its buffer is full.</summary>
public enum WhenFull
{
    /// <summary>The newest sample replaces the oldest.</summary>
    Roll,
    /// <summary>It stops and keeps what it has.</summary>
    Stop,
}

/// <summary>A trend log of one point, kept in its controller and collected by the server.</summary>
public sealed record TrendLog : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<TrendLog> AsKind { get; } = new("trend")
    {
        Nouns = [new("trend", "trends") { NameTokens = NamePattern.AllFills, IsAlone = true }],
        RunsInImage = true,
        NeedsParts = [SoftwareParts.Trends],
        HasVariables = true,
        Handicap = 0.5,
        Begins = (id, name, owner) => owner is Point { Kind: var kind } ? new TrendLog { Id = id, Name = name, PointId = owner.Id, Mode = kind == PointKind.Analog ? TrendMode.Interval : TrendMode.Change } : null,
        Fields =
        [
            FieldOf<TrendLog>.Choice<TrendMode>("mode", "Mode", t => t.Mode, (t, v) => t with { Mode = v }, FieldUses.Grid | FieldUses.Form).Told("Whether a sample is taken at even times or when the value has changed."),
            FieldOf<TrendLog>.Span("intervalSeconds", "Interval", t => t.IntervalSeconds, (t, v) => t with { IntervalSeconds = v }, FieldUses.Grid | FieldUses.Form, "interval in s").Told("The time from one sample to the next.", 1, 86_400),
            FieldOf<TrendLog>.Number("changeBy", "Change by", null, t => t.ChangeBy, (t, v) => t with { ChangeBy = v ?? t.ChangeBy }, FieldUses.Grid | FieldUses.Form, required: true, units: (project, t) => Units.Unit.Find(project.Find<Point>(t.PointId)?.Unit)?.Difference.Symbol).Told("How far the value must move from the last sample before the next is taken.", 0, 1e6),
            FieldOf<TrendLog>.Whole("bufferSize", "Buffer size", t => t.BufferSize, (t, v) => t with { BufferSize = v }, FieldUses.Grid | FieldUses.Form).Told("How many samples the controller keeps until they are collected.", 10, 100_000),
            FieldOf<TrendLog>.Choice<WhenFull>("whenFull", "When full", t => t.WhenFull, (t, v) => t with { WhenFull = v }, FieldUses.Grid | FieldUses.Form).Told("What becomes of new samples when the buffer is full."),
        ],
    };

    /// <summary>The point.</summary>
    public required RecordId PointId { get; init; }

    /// <summary>By interval or by change.</summary>
    public TrendMode Mode { get; init; } = TrendMode.Interval;

    /// <summary>The interval in seconds.</summary>
    public double IntervalSeconds { get; init; } = 60;

    /// <summary>The least change that counts, in the point's unit.</summary>
    public double ChangeBy { get; init; } = 0.1;

    /// <summary>How many samples the controller keeps.</summary>
    public int BufferSize { get; init; } = 1000;

    /// <summary>What it does when that is full.</summary>
    public WhenFull WhenFull { get; init; } = WhenFull.Roll;

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
    public override IEnumerable<Share> Shares() => [new Share(PointId, ControllerMemory.SampleCount, BufferSize)];

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"trend|{PointId}", "pointId", "This point already has the trend ‘{0}’. Change that one.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (!(IntervalSeconds is >= 1 and <= 86_400)) yield return new Refusal(Id, "intervalSeconds", $"An interval of {IntervalSeconds} s cannot be; use 1 s to one day (86 400 s).");
        if (!(ChangeBy is >= 0 and <= 1e6)) yield return new Refusal(Id, "changeBy", $"A change of {ChangeBy} cannot be; use 0 or more.");
        if (BufferSize is < 10 or > 100_000) yield return new Refusal(Id, "bufferSize", $"A buffer of {BufferSize} samples cannot be; use 10 to 100 000.");
        if (project.BindingOf(PointId) is { } home && project.Find<Controller>(home.HostId) is { } controller && ControllerMemory.Of(project, controller) is { SamplesOver: { } over })
            yield return new Refusal(Id, "bufferSize", over);
    }
}
