using System.Text.Json.Nodes;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>
/// A catalogue as a file: JSON, <c>{"format": "lofty-wren-hardware-1", "models": […]}</c>, by the schema that is published at
/// <c>/api/schemas/hardware.json</c>.
/// </summary>
public static class CatalogueFile
{
    /// <summary>The most terminals of a model.</summary>
    public const int MostTerminals = 128;

    private const int Most = 1_000_000, MostMemory = 100_000_000;

    private static readonly ListFile<HardwareModel> File = new("lofty-wren-hardware-1", "models", "Hardware catalogue", "model", 500, m => m.Id, m => Check(m).Select(wrong => ("", wrong)),
        type => type == typeof(Signals.Signal) ? new JsonObject { ["enum"] = new JsonArray([.. Signals.Signal.All.Where(s => s != Signals.Signal.Memory).Select(s => (JsonNode)s.Key)]) } : null);

    /// <summary>Reads a file; all that is wrong with it is told at once, with lines.</summary>
    public static ListReading<HardwareModel> Parse(string json) => File.Parse(json);

    /// <summary>The published schema of such a file (JSON Schema 2020-12).</summary>
    public static string Schema() => File.Schema();

    /// <summary>What is wrong with a model, in words.</summary>
    public static IEnumerable<string> Check(HardwareModel model)
    {
        string which = $"Model ‘{model.Id}’";
        if (!RecordId.IsValid(model.Id)) yield return $"‘{model.Id}’ is no id: use small letters, digits and hyphens.";
        if (string.IsNullOrWhiteSpace(model.Name) || model.Name.Length > 80) yield return $"{which} needs a name of at most 80 characters.";
        if (model.WidthMillimetres is < 1 or > 600) yield return $"{which} is {model.WidthMillimetres} mm wide; 1 to 600 is believable.";
        if (model.Price is < 0 or > Most) yield return $"{which} has a price that is not between 0 and {Most}.";
        if (model.MostModules is < 0 or > 64) yield return $"{which} would take {model.MostModules} modules; 0 to 64 can be addressed.";
        if (model.MostModules > 0 && !model.RunsPrograms) yield return $"{which} takes modules but names no runtime, so nothing could run them.";
        if (model.Values is < 0 or > MostMemory || model.TrendSamples is < 0 or > MostMemory || model.OperationsPerSecond is < 0 or > MostMemory) yield return $"{which} has memory, or operations a second, that are not between 0 and {MostMemory}.";
        if (model.MemoryKilobytes is < 0 or > MostMemory || model.Parts.Any(p => p.Kilobytes is < 0 or > MostMemory)) yield return $"{which}: memory, and what a part takes of it, is between 0 and {MostMemory} kB.";
        if (model.TerminalCount > MostTerminals) yield return $"{which} has {model.TerminalCount} terminals; at most {MostTerminals} can be drawn and wired.";
        foreach (TerminalGroup group in model.Groups)
        {
            string its = $"{which}, terminals {group.Prefix}";
            if (group.Prefix.Length is < 1 or > 4 || !group.Prefix.All(char.IsAsciiLetterUpper)) yield return $"{its}: a prefix is one to four capital letters.";
            if (model.Groups.Count(g => g.Prefix == group.Prefix) > 1) yield return $"{its}: two groups have this prefix.";
            if (group.Count < 1) yield return $"{its}: there must be at least one.";
            if (group.Signals.Count == 0) yield return $"{its}: they carry no signal.";
            foreach (var signal in group.Signals.Where(s => !s.Goes(group.Direction))) yield return $"{its}: {signal.Name} is nothing that {(group.Direction == Direction.In ? "an input measures" : "an output gives")}.";
            if (group.FeedOf < 1) yield return $"{its}: a feed serves at least one.";
            if (group.MostAmps <= 0 || group.MostMilliamps <= 0 || group.FeedAmps <= 0) yield return $"{its}: a current must be above nothing.";
        }
        if (model.Draws.Concat(model.Gives).Any(c => c.Milliamps is < 0 or > Most || string.IsNullOrWhiteSpace(c.Supply))) yield return $"{which}: a current has a supply and is between 0 and {Most} mA.";
        foreach (SoftwarePart part in model.Parts)
        {
            if (model.Parts.Count(p => p.Key == part.Key) > 1) yield return $"{which} has the part ‘{part.Key}’ twice.";
            foreach (string need in part.Needs.Where(n => model.Parts.All(p => p.Key != n))) yield return $"{which}: part ‘{part.Key}’ needs ‘{need}’, which the model has not.";
        }
        if (PartClosure.Circle(model.Parts) is { } circle) yield return $"{which}: parts need each other in a circle, {string.Join(" → ", circle)}; none of them could start.";
    }
}
