using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>A controller in the building.</summary>
public sealed record Controller : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Controller> AsKind { get; } = new("controller")
    {
        Nouns = [new("controller", "controllers") { NameTokens = ["building", "floor", "room", "short"] }],
        RunsInImage = true,
        Numbers = [new UniqueNumber<Controller>("deviceInstance", 2101, MostDeviceInstance, c => c.DeviceInstance, (c, n) => c with { DeviceInstance = n })],
        Checks = Findings.Checks.OnController,
        Fields =
        [
            FieldOf<Controller>.Choice("modelId", "Model", [.. ControllerModel.Catalogue.Select(m => m.Id)], c => c.ModelId, (c, v) => c with { ModelId = v }, FieldUses.Grid | FieldUses.Form).Told("The model of the catalogue, which says its terminals and memory."),
            FieldOf<Controller>.Whole("deviceInstance", "Device instance", c => c.DeviceInstance, (c, v) => c with { DeviceInstance = v }, FieldUses.Grid | FieldUses.Form).Told("The number by which the network knows it, once on the whole network.", 0, MostDeviceInstance),
            FieldOf<Controller>.Shown("placeId", "Place", (project, c) => project.Find(c.PlaceId)?.Name, "Move the controller on its panel.", FieldUses.Grid),
        ],
    };

    private const int MostDeviceInstance = 4_194_302;

    /// <summary>Where its panel hangs.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>Which model of the catalogue.</summary>
    public required string ModelId { get; init; }

    /// <summary>Its device instance on the supervisory network, 0 to 4 194 302 (ISO 16484-5, 12.11).</summary>
    public int DeviceInstance { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => PlaceId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId place = map.Owner(InPlace, PlaceId);
        return place == PlaceId ? this : this with { PlaceId = place };
    }

    private static readonly ReferenceSort InPlace = ReferenceSort.Owner<Place>("in", "placeId", "place");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() =>
    [
        new UniqueKey($"controller|{Name.ToLowerInvariant()}", "name", "There is already a controller called ‘{0}’. Choose another name."),
        new UniqueKey($"device|{DeviceInstance}", "deviceInstance", $"Device instance {DeviceInstance} belongs to controller ‘{{0}}’. Choose another number."),
    ];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName(40)) yield return refusal;
        if (ControllerModel.Find(ModelId) is null) yield return new Refusal(Id, "modelId", $"The catalogue has no model ‘{ModelId}’.");
        if (DeviceInstance is < 0 or > MostDeviceInstance) yield return new Refusal(Id, "deviceInstance", $"Device instance {DeviceInstance} is not between 0 and 4 194 302.");
    }
}
