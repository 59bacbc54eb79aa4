using System.Text.Json.Serialization;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>
/// A point whose value is said or heard under a group address: a sensor hears it, a command says it whenever it is another,
/// and again every so often where somebody who hears it takes what does not come for lost. The controller that holds it has an interface of its own to a two-wire line.
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

    /// <summary>After how many minutes a command is said again though it is the same, min; 0 for never: what somebody switches besides, at the wall, would be switched back.</summary>
    public int AgainMinutes { get; init; }

    /// <summary>The most of <see cref="AgainMinutes"/>: a day.</summary>
    public const int MostAgainMinutes = 1440;

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
    public override IEnumerable<Share> Shares() => AgainMinutes > 0 ? [new Share(GroupId, GroupAddress.Again, (long)Math.Round(1e6 / 60 / AgainMinutes))] : [];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        if (AgainMinutes is < 0 or > MostAgainMinutes) yield return new Refusal(Id, "againMinutes", $"A command is said again after 1 to {MostAgainMinutes} minutes, or 0 for never, not after {AgainMinutes}.");
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
        if (Turning.Of(type, point) is not null) return null;
        PointKind fits = type.Bits == 1 ? PointKind.Binary : type.Fields[0].Texts is null ? PointKind.Analog : PointKind.Multistate;
        string carries = $"{type.Key} {type.Name.ToLowerInvariant()}";
        if (point.Kind == PointKind.Multistate && fits == PointKind.Multistate)
            return $"Not all states of ‘{point.Name}’ are known to {group.Number} ‘{group.Name}’. It carries {carries}: {string.Join(" · ", type.Fields[0].Texts!.OrderBy(t => t.Key).Select(t => t.Value))}. Name those states of the point that are to be said or heard like these, or give it all of them in this order.";
        if (point.Kind != fits) return $"‘{point.Name}’ is {point.Kind.ToString().ToLowerInvariant()} and {group.Number} ‘{group.Name}’ carries {carries}. {(fits == PointKind.Analog ? "An" : "A")} {fits.ToString().ToLowerInvariant()} point fits it.";
        return $"‘{point.Name}’ is in {point.Unit} and {group.Number} ‘{group.Name}’ in {type.Unit}: neither can be turned into the other.";
    }

    private static IEnumerable<Finding> OnBinding(Project project, BusBinding binding)
    {
        if (project.Find<Controller>(binding.ControllerId) is { } controller && (controller.BusLineId is null || controller.BusNumber is null))
            yield return new Finding($"bus-no-line|{binding.Id}", "bus-no-line", Severity.High, binding.PointId, $"‘{controller.Name}’ hangs on no two-wire line.", "A point that it is to say or hear there stays without a value. Say in the controller's dossier on which line it hangs, and its number there.");
    }
}
