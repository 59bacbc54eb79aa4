using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Descriptions;

/// <summary>Device descriptions as a file: JSON, <c>{"format": "lofty-wren-bus-devices-1", "devices": […]}</c>, by the schema at <c>/api/schemas/bus-devices.json</c>.</summary>
public static class DescriptionFile
{
    private static readonly ListFile<DeviceDescription> File = new("lofty-wren-bus-devices-1", "devices", "Bus device descriptions", "device", 200, d => d.Id, Check);

    /// <summary>Reads a file; all that is wrong with it is told at once, with lines.</summary>
    public static ListReading<DeviceDescription> Parse(string json) => File.Parse(json);

    /// <summary>The published schema of such a file (JSON Schema 2020-12).</summary>
    public static string Schema() => File.Schema();

    /// <summary>What is wrong with a description, and where in it.</summary>
    public static IEnumerable<(string Under, string Sentence)> Check(DeviceDescription d)
    {
        if (!RecordId.IsValid(d.Id)) yield return (".id", $"‘{d.Id}’ is no id: use small letters, digits and hyphens.");
        if (string.IsNullOrWhiteSpace(d.Name) || d.Name.Length > 80) yield return (".name", $"Device ‘{d.Id}’ needs a name of at most 80 characters.");
        if (d.Revision is < 1 or > 9999) yield return (".revision", $"Device ‘{d.Id}’ has revision {d.Revision}; 1 to 9999 are taken.");
        if (d.WidthMillimetres is < 0 or > 600) yield return (".widthMillimetres", $"Device ‘{d.Id}’ is {d.WidthMillimetres} mm wide; 0 to 600 is believable.");
        if (d.BusMilliamps is < 0 or > 1000 || d.GivesMilliamps is < 0 or > 5000) yield return (".busMilliamps", $"Device ‘{d.Id}’ draws 0 to 1000 mA and gives 0 to 5000 mA.");
        if (d.Role == LineRole.Supply && d.GivesMilliamps == 0) yield return (".givesMilliamps", $"Device ‘{d.Id}’ is a supply and gives nothing.");
        foreach (var trouble in DeviceForm.Of(d).Troubles) yield return trouble;
    }
}

/// <summary>The device descriptions there are: those that ship, and what a project brings along.</summary>
public static class DescriptionShelf
{
    private static readonly Lazy<IReadOnlyList<DeviceDescription>> Loaded = new(() =>
    {
        using Stream stream = typeof(DescriptionShelf).Assembly.GetManifestResourceStream("bus-devices.json")!;
        using var text = new StreamReader(stream);
        ListReading<DeviceDescription> read = DescriptionFile.Parse(text.ReadToEnd());
        return read.Errors.Count == 0 ? read.Items : throw new InvalidOperationException($"The device descriptions that ship are wrong: {string.Join(" ", read.Errors)}");
    });

    /// <summary>Those that ship.</summary>
    public static IReadOnlyList<DeviceDescription> Shipped => Loaded.Value;

    /// <summary>All that a project can use: those that ship, then its own.</summary>
    public static IEnumerable<DeviceDescription> Of(Project project) => Shipped.Concat(project.All<OwnDescription>().OrderBy(m => m.Name, StringComparer.Ordinal).Select(m => m.Description));

    /// <summary>The description with this id, or null.</summary>
    public static DeviceDescription? Find(Project project, string id)
    {
        foreach (DeviceDescription description in Shipped)
        {
            if (description.Id == id) return description;
        }
        return project.Find<OwnDescription>(project.Holder(OwnDescription.Key(id)))?.Description;
    }
}

/// <summary>A device description that a project brings along, from a file of its makers.</summary>
public sealed record OwnDescription : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<OwnDescription> AsKind { get; } = new("deviceDescription") { Nouns = [new("device description", "device descriptions")], RunsInImage = true, IsSpelled = false };

    /// <summary>What it says of itself.</summary>
    public required DeviceDescription Description { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => null;

    internal static string Key(string id) => $"device-description|{id}";

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey(Key(Description.Id), "description", $"There is already a device description with the id ‘{Description.Id}’, called ‘{{0}}’.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (Name != Description.Name) yield return new Refusal(Id, "name", $"The name of this record is that of its device, ‘{Description.Name}’.");
        if (DescriptionShelf.Shipped.Any(m => m.Id == Description.Id)) yield return new Refusal(Id, "description", $"‘{Description.Id}’ is a device that ships. Give yours another id.");
        foreach (var (_, sentence) in DescriptionFile.Check(Description)) yield return new Refusal(Id, "description", sentence);
    }
}
