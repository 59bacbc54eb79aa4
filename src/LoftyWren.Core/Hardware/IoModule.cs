using System.Globalization;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>
/// What stands beside a controller on its rails: terminals, a power supply, a gateway. Its address is fixed for its life, so
/// that what is wired to it stays wired wherever it is moved.
/// </summary>
public sealed record IoModule : ProjectRecord
{
    /// <summary>The most modules that can be addressed.</summary>
    public const int MostAddress = 64;

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<IoModule> AsKind { get; } = new("module")
    {
        Nouns = [new("module", "modules")],
        RunsInImage = true,
        NeedsParts = [SoftwareParts.Modules],
        IsSpelled = false,
        Fields =
        [
            FieldOf<IoModule>.Shown("modelId", "Model", (project, m) => Catalogue.Find(project, m.ModelId)?.Name ?? m.ModelId, "Replace the module on its panel.", FieldUses.Form),
            FieldOf<IoModule>.Shown("address", "Address", (_, m) => m.Address.ToString(CultureInfo.InvariantCulture), "The address of a module stays for its life.", FieldUses.Form),
            FieldOf<IoModule>.Whole("rail", "Rail", m => m.Rail, (m, v) => m with { Rail = v }, FieldUses.Form).Told("On which rail of the enclosure it stands, from the top.", 1, Controller.MostRails),
        ],
    };

    /// <summary>The controller that it stands beside.</summary>
    public required RecordId ControllerId { get; init; }

    /// <summary>Which model of the catalogue.</summary>
    public required string ModelId { get; init; }

    /// <summary>Its address on the controller's module bus, 1 to 64; the first part of its terminals' names: 2.UI1.</summary>
    public required int Address { get; init; }

    /// <summary>On which rail it stands, from the top.</summary>
    public int Rail { get; init; } = 1;

    /// <summary>Its turn on the rail, from the left, after the controller.</summary>
    public int Turn { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => ControllerId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId controller = map.Owner(Beside, ControllerId);
        return controller == ControllerId ? this : this with { ControllerId = controller };
    }

    private static readonly ReferenceSort Beside = ReferenceSort.Owner<Controller>("beside", "controllerId", "controller");

    internal static string Key(RecordId controller, int address) => $"module|{controller}|{address}";

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() =>
    [
        new UniqueKey(Key(ControllerId, Address), "address", $"Address {Address} is that of module ‘{{0}}’. Choose a free one."),
        new UniqueKey($"module-name|{ControllerId}|{Name.ToLowerInvariant()}", "name", "There is already a module called ‘{0}’ on this controller. Choose another name."),
    ];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName(24)) yield return refusal;
        if (Catalogue.Find(project, ModelId) is not { } model) yield return new Refusal(Id, "modelId", $"The catalogue has no model ‘{ModelId}’.");
        else if (model.RunsPrograms) yield return new Refusal(Id, "modelId", $"{model.Name} runs programs: it is a controller of its own, and no module beside another.");
        if (Address is < 1 or > MostAddress) yield return new Refusal(Id, "address", $"Address {Address} is not between 1 and {MostAddress}.");
        if (Rail is < 1 or > Controller.MostRails) yield return new Refusal(Id, "rail", $"There is no rail {Rail}; an enclosure has 1 to {Controller.MostRails}.");
        if (project.Find<Controller>(ControllerId) is { } controller && Catalogue.Find(project, controller.ModelId) is { } host && project.Sum(controller.Id, Count) > host.MostModules)
            yield return new Refusal(Id, "controllerId", host.MostModules == 0 ? $"{host.Name} takes no modules. Choose a larger controller." : $"{host.Name} takes {host.MostModules} modules, and {controller.Name} has them. Choose a larger controller, or another one.");
    }

    /// <summary>Modules beside a controller.</summary>
    public static Derivation.SumSort Count { get; } = new("modules beside it", "modules");

    /// <inheritdoc/>
    public override IEnumerable<Derivation.Share> Shares() => [new Derivation.Share(ControllerId, Count, 1)];

    /// <summary>What the lowest address is that no module of a controller has.</summary>
    public static int FreeAddress(Project project, RecordId controller)
    {
        for (int address = 1; address <= MostAddress; address++)
        {
            if (project.Holder(Key(controller, address)) is null) return address;
        }
        return MostAddress + 1;
    }
}
