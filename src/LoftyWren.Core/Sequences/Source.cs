using System.Text.Json.Serialization;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;

namespace LoftyWren.Core.Sequences;

/// <summary>Where an input of a block, or a claim, takes its value from.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "from")]
[JsonDerivedType(typeof(PointSource), "point")]
[JsonDerivedType(typeof(BlockSource), "block")]
[JsonDerivedType(typeof(ScheduleSource), "schedule")]
[JsonDerivedType(typeof(ConstantSource), "constant")]
[JsonDerivedType(typeof(PinSource), "pin")]
public abstract record Source
{
    /// <summary>The source with what its references come to, or null when that is let go of; see <see cref="ProjectRecord.Through"/>.</summary>
    public virtual Source? Through(ReferenceMap map) => this;
}

/// <summary>The present value of a point.</summary>
public sealed record PointSource(RecordId PointId) : Source
{
    private static readonly ReferenceSort Reads = ReferenceSort.Link<Point>("reads", "blocks", "point") with { IsValue = true };

    /// <inheritdoc/>
    public override Source? Through(ReferenceMap map) => map.InPlaceOf(PointId) is { } fix ? ConstantSource.Of(fix) : map.Link(Reads, PointId) is not { } point ? null : point == PointId ? this : new PointSource(point);
}

/// <summary>An output pin of another block of the same sequence.</summary>
public sealed record BlockSource(string BlockId, string Pin = "out") : Source;

/// <summary>An input of the own block in which the reading block stands.</summary>
public sealed record PinSource(string Pin) : Source;

/// <summary>The present value of a schedule; or, looking ahead, how long (s) until its value changes, released where it does not within eight days.</summary>
public sealed record ScheduleSource(RecordId ScheduleId, bool Ahead = false) : Source
{
    private static readonly ReferenceSort Reads = ReferenceSort.Link<Schedule>("reads", "blocks", "schedule") with { IsValue = true };

    /// <inheritdoc/>
    public override Source? Through(ReferenceMap map) => map.InPlaceOf(ScheduleId) is { } fix ? (Ahead ? null : ConstantSource.Of(fix)) : map.Link(Reads, ScheduleId) is not { } schedule ? null : schedule == ScheduleId ? this : this with { ScheduleId = schedule };
}

/// <summary>A fixed value; analog with a unit or without, or binary.</summary>
public sealed record ConstantSource(double Value, string? Unit = null, bool Binary = false) : Source
{
    /// <summary>A value that no longer changes.</summary>
    public static ConstantSource Of(FixedValue value) => new(value.Value, value.Unit, value.IsBinary);
}
