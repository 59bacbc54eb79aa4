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
            new Field<Controller>("modelId", "Model")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                Choices = [.. Catalogue.Shipped.Where(m => m.RunsPrograms).Select(m => m.Id)],
                Says = (_, c) => c.ModelId,
                Reads = (project, c, text) => Catalogue.Find(project, text.ToLowerInvariant()) is { RunsPrograms: true } model ? FieldReading.Of(c with { ModelId = model.Id })
                    : FieldReading.Refused($"‘{text}’ is no controller of the catalogue. There are {string.Join(", ", Catalogue.Of(project).Where(m => m.RunsPrograms).Select(m => m.Id))}."),
            }.Told("The model of the catalogue, which says its terminals and memory."),
            FieldOf<Controller>.Whole("rails", "Rails", c => c.Rails, (c, v) => c with { Rails = v }, FieldUses.Form).Told("How many rails its enclosure has.", 1, MostRails),
            FieldOf<Controller>.Whole("railMillimetres", "Rail width, mm", c => c.RailMillimetres, (c, v) => c with { RailMillimetres = v }, FieldUses.Form).Told("How wide each rail of its enclosure is, in mm.", LeastRail, MostRail),
            FieldOf<Controller>.Whole("deviceInstance", "Device instance", c => c.DeviceInstance, (c, v) => c with { DeviceInstance = v }, FieldUses.Grid | FieldUses.Form).Told("The number by which the network knows it, once on the whole network.", 0, MostDeviceInstance),
            FieldOf<Controller>.Shown("placeId", "Place", (project, c) => project.Find(c.PlaceId)?.Name, "Move the controller on its panel.", FieldUses.Grid),
        ],
    };

    /// <summary>The most rails of an enclosure.</summary>
    public const int MostRails = 8;

    private const int MostDeviceInstance = 4_194_302, LeastRail = 50, MostRail = 3000;

    /// <summary>Where its panel hangs.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>Which model of the catalogue.</summary>
    public required string ModelId { get; init; }

    /// <summary>Its device instance on the supervisory network, 0 to 4 194 302 (ISO 16484-5, 12.11).</summary>
    public int DeviceInstance { get; init; }

    /// <summary>How many rails its enclosure has.</summary>
    public int Rails { get; init; } = 2;

    /// <summary>How wide each rail is, mm.</summary>
    public int RailMillimetres { get; init; } = 540;

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
        if (Catalogue.Find(project, ModelId) is not { } model) yield return new Refusal(Id, "modelId", $"The catalogue has no model ‘{ModelId}’.");
        else if (!model.RunsPrograms) yield return new Refusal(Id, "modelId", $"{model.Name} runs no programs; put it beside a controller as a module.");
        else if (project.Sum(Id, IoModule.Count) is var modules && modules > model.MostModules) yield return new Refusal(Id, "modelId", $"{Name} has {modules} modules beside it and {model.Name} takes {model.MostModules}. Choose a larger model, or move modules to another controller first.");
        if (Rails is < 1 or > MostRails) yield return new Refusal(Id, "rails", $"An enclosure has 1 to {MostRails} rails, not {Rails}.");
        if (RailMillimetres is < LeastRail or > MostRail) yield return new Refusal(Id, "railMillimetres", $"A rail is {LeastRail} to {MostRail} mm wide, not {RailMillimetres}.");
        if (DeviceInstance is < 0 or > MostDeviceInstance) yield return new Refusal(Id, "deviceInstance", $"Device instance {DeviceInstance} is not between 0 and 4 194 302.");
    }
}
