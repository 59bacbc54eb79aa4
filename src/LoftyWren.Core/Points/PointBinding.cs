using System.Text.Json.Serialization;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Points;

/// <summary>
/// Where a point's value comes from, or what it drives: a terminal of a controller, a value in memory; a group object, a
/// register, an object of a network and others are to come. A point has one at most.
/// </summary>
public abstract record PointBinding : ProjectRecord
{
    /// <summary>The point.</summary>
    public required RecordId PointId { get; init; }

    /// <summary>What holds the value and answers for it: a controller, a device.</summary>
    [JsonIgnore]
    public abstract RecordId HostId { get; }

    /// <summary>Where on its host, in a few words: UI3, value.</summary>
    [JsonIgnore]
    public abstract string Where { get; }

    /// <summary>Whether the value only lives in the host's memory, and nothing outside is measured or moved.</summary>
    [JsonIgnore]
    public abstract bool IsInMemory { get; }

    /// <summary>Host and place, as people read them.</summary>
    public virtual string Say(Project project) => $"{project.Find(HostId)?.Name} · {Where}";

    /// <summary>What adds up at the point counts at its host.</summary>
    [JsonIgnore]
    public override (RecordId From, RecordId To)? Carries => (PointId, HostId);

    private static string Key(RecordId point) => $"source|{point}";

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey(Key(PointId), "pointId", "This point already has a source. Move it instead of adding a second.")];

    /// <summary>The binding of a point, or null where it has none.</summary>
    public static PointBinding? Of(Project project, RecordId point) => project.Find<PointBinding>(project.Holder(Key(point)));
}

/// <summary>Asking for bindings.</summary>
public static class Bindings
{
    /// <summary>Where the value of a point comes from, or null where it comes from nowhere.</summary>
    public static PointBinding? BindingOf(this Project project, RecordId point) => PointBinding.Of(project, point);
}
