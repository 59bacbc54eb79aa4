using System.Text.Json.Serialization;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>
/// A point whose value is said or heard under a group address: a sensor hears it, a command says it whenever it is another. The
/// controller that holds it has an interface of its own to a two-wire line.
/// </summary>
public sealed record BusBinding : PointBinding
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<BusBinding> AsKind { get; } = new("busBinding")
    {
        Nouns = [new("bus binding", "bus bindings")],
        RunsInImage = true,
        IsSearched = false,
        IsSpelled = false,
        Checks = OnBinding,
    };

    /// <summary>The controller.</summary>
    public required RecordId ControllerId { get; init; }

    /// <summary>The group address.</summary>
    public required RecordId GroupId { get; init; }

    /// <inheritdoc/>
    [JsonIgnore]
    public override RecordId HostId => ControllerId;

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Where => "bus";

    /// <inheritdoc/>
    [JsonIgnore]
    public override bool IsInMemory => false;

    /// <inheritdoc/>
    public override RecordId? ParentId => ControllerId;

    /// <inheritdoc/>
    public override string Say(Project project) => $"{project.Find(HostId)?.Name} · {project.Find<GroupAddress>(GroupId)?.Number.ToString() ?? Where}";

    /// <inheritdoc/>
    public override string Called(Func<RecordId, ProjectRecord?> find) => find(PointId)?.Name ?? Name;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId controller = map.Owner(On, ControllerId), point = map.Owner(SourceOf, PointId), group = map.Owner(Under, GroupId);
        return controller == ControllerId && point == PointId && group == GroupId ? this : this with { ControllerId = controller, PointId = point, GroupId = group };
    }

    private static readonly ReferenceSort On = ReferenceSort.Owner<Controller>("on", "controllerId", "controller"), SourceOf = ReferenceSort.Owner<Point>("source of", "pointId", "point"), Under = ReferenceSort.Owner<GroupAddress>("under", "groupId", "group address");

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        if (project.Find<Point>(PointId) is { } point && project.Find<GroupAddress>(GroupId) is { } group && Why(point, group) is { } sentence) yield return new Refusal(Id, "groupId", sentence);
    }

    /// <inheritdoc/>
    public override IEnumerable<Refusal> CheckAgainst(Project project, IReadOnlyCollection<RecordId> changed) => Check(project);

    /// <summary>Why a point cannot be said or heard under a group address, in words, or null when it can.</summary>
    public static string? Why(Point point, GroupAddress group)
    {
        if (DatapointType.Find(group.Datapoint) is not { } type) return $"{group.Number} has no datapoint type that is known.";
        if (Fitting.IsForMemory(point)) return $"‘{point.Name}’ is a {point.Role.ToString().ToLowerInvariant()}; it lives in a controller's memory. Sensors hear a group and commands say one.";
        if (!type.IsSingle || type.IsText) return $"{group.Number} ‘{group.Name}’ carries {type.Name.ToLowerInvariant()}, which is no single value. Only single values are points.";
        bool isSwitch = type.Bits == 1;
        if (point.Kind == PointKind.Multistate || isSwitch != (point.Kind == PointKind.Binary)) return $"‘{point.Name}’ is {point.Kind.ToString().ToLowerInvariant()} and {group.Number} ‘{group.Name}’ carries {type.Key} {type.Name.ToLowerInvariant()}. {(isSwitch ? "A binary point fits it." : "An analog point fits it.")}";
        if (!isSwitch && Turned(type, point) is null) return $"‘{point.Name}’ is in {point.Unit} and {group.Number} ‘{group.Name}’ in {type.Unit}: neither can be turned into the other.";
        return null;
    }

    /// <summary>How what is heard becomes the value of a point: <c>point = heard × Factor + Offset</c>; null where the quantities differ.</summary>
    public static (double Factor, double Offset)? Turned(DatapointType type, Point point) =>
        Unit.Find(type.Unit) is { } from && Unit.Find(point.Unit) is { } to ? from.To(to) : (1, 0);

    private static IEnumerable<Finding> OnBinding(Project project, BusBinding binding)
    {
        if (project.Find<Controller>(binding.ControllerId) is { } controller && (controller.BusLineId is null || controller.BusNumber is null))
            yield return new Finding($"bus-no-line|{binding.Id}", "bus-no-line", Severity.High, binding.PointId, $"‘{controller.Name}’ hangs on no two-wire line.", "A point that it is to say or hear there stays without a value. Say in the controller's dossier on which line it hangs, and its number there.");
    }
}
