using System.Text.Json.Serialization;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Sequences;

/// <summary>Where an input of a block, or a claim, takes its value from.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "from")]
[JsonDerivedType(typeof(PointSource), "point")]
[JsonDerivedType(typeof(BlockSource), "block")]
[JsonDerivedType(typeof(ScheduleSource), "schedule")]
[JsonDerivedType(typeof(ConstantSource), "constant")]
public abstract record Source;

/// <summary>The present value of a point.</summary>
public sealed record PointSource(RecordId PointId) : Source;

/// <summary>An output pin of another block of the same sequence.</summary>
public sealed record BlockSource(string BlockId, string Pin = "out") : Source;

/// <summary>The present value of a schedule.</summary>
public sealed record ScheduleSource(RecordId ScheduleId) : Source;

/// <summary>A fixed value; analog with a unit or without, or binary.</summary>
public sealed record ConstantSource(double Value, string? Unit = null, bool Binary = false) : Source;
