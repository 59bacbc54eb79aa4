using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>The hardware there is: what ships, and what a project brings along.</summary>
public static class Catalogue
{
    private static readonly Lazy<IReadOnlyList<HardwareModel>> Loaded = new(() =>
    {
        using Stream stream = typeof(Catalogue).Assembly.GetManifestResourceStream("catalogue.json")!;
        using var text = new StreamReader(stream);
        ListReading<HardwareModel> read = CatalogueFile.Parse(text.ReadToEnd());
        return read.Errors.Count == 0 ? read.Items : throw new InvalidOperationException($"The catalogue that ships is wrong: {read.Errors[0]}");
    });

    /// <summary>The models that ship.</summary>
    public static IReadOnlyList<HardwareModel> Shipped => Loaded.Value;

    /// <summary>All models that a project can use: those that ship, then its own.</summary>
    public static IEnumerable<HardwareModel> Of(Project project) => Shipped.Concat(project.All<OwnModel>().OrderBy(m => m.Name, StringComparer.Ordinal).Select(m => m.Model));

    /// <summary>The model with this id, or null.</summary>
    public static HardwareModel? Find(Project project, string id)
    {
        foreach (HardwareModel model in Shipped)
        {
            if (model.Id == id) return model;
        }
        return project.Find<OwnModel>(project.Holder(OwnModel.Key(id)))?.Model;
    }
}

/// <summary>A model that a project brings along, from a catalogue file of its makers.</summary>
public sealed record OwnModel : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<OwnModel> AsKind { get; } = new("hardwareModel") { Nouns = [new("hardware model", "hardware models")], RunsInImage = true, IsSpelled = false };

    /// <summary>What it says of itself.</summary>
    public required HardwareModel Model { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => null;

    internal static string Key(string id) => $"hardware-model|{id}";

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey(Key(Model.Id), "model", $"There is already a model with the id ‘{Model.Id}’, called ‘{{0}}’.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (Name != Model.Name) yield return new Refusal(Id, "name", $"The name of this record is that of its model, ‘{Model.Name}’.");
        if (Catalogue.Shipped.Any(m => m.Id == Model.Id)) yield return new Refusal(Id, "model", $"‘{Model.Id}’ is a model that ships. Give yours another id.");
        foreach (string wrong in CatalogueFile.Check(Model)) yield return new Refusal(Id, "model", wrong);
    }
}
