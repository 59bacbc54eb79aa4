using LoftyWren.Core.Images;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>A software part that a controller is to have: the part, in which version, and why.</summary>
/// <param name="Part">The part, as the model has it.</param>
/// <param name="Version">In which version: that of the runtime where the part moves with it, its own where it does not.</param>
/// <param name="Why">Who needs it, in words.</param>
/// <param name="IsNeeded">Whether the program needs it, itself or through another part; false for one by choice.</param>
public sealed record PartWanted(SoftwarePart Part, string Version, string Why, bool IsNeeded);

/// <summary>The software parts that a controller needs: those that the kinds of its records ask for, and all that these need in turn.</summary>
public sealed record SoftwareParts(IReadOnlyList<PartWanted> Parts, IReadOnlyList<string> Troubles)
{
    /// <summary>The part that everything runs on.</summary>
    public const string Kernel = "kernel";

    /// <summary>The part by which a controller is reached.</summary>
    public const string Network = "network";

    /// <summary>The part that runs sequences.</summary>
    public const string Logic = "logic";

    /// <summary>The part that runs schedules.</summary>
    public const string Schedules = "schedules";

    /// <summary>The part that keeps trend logs.</summary>
    public const string Trends = "trends";

    /// <summary>The part that watches alarms.</summary>
    public const string Alarms = "alarms";

    /// <summary>The part that reaches modules.</summary>
    public const string Modules = "modules";

    /// <summary>What they take of the memory, kB.</summary>
    public int Kilobytes => Parts.Sum(p => p.Part.Kilobytes);

    /// <summary>The version of the runtime that a controller is to run: as decided, or the newest that its model takes.</summary>
    public static string RuntimeOf(Controller controller, HardwareModel model) => controller.Runtime ?? model.Runtimes[0];

    /// <summary>Works out what a controller needs for an image.</summary>
    public static SoftwareParts Of(HardwareModel model, Controller controller, IHostImage image)
    {
        // A model of one's own may bring all in one: then there is nothing to choose.
        if (model.Parts.Count == 0) return new SoftwareParts([], []);
        var asked = image.Records.Prepend(image.Host).SelectMany(r => RecordKinds.Of(r).NeedsParts.Select(p => (Part: p, Record: r)))
            .GroupBy(n => n.Part).ToDictionary(g => g.Key, g => Count([.. g.Select(n => n.Record)]));
        IReadOnlyList<string> extra = controller.ExtraParts ?? [];
        var troubles = new List<string>();
        if (PartClosure.Circle(model.Parts) is { } circle) troubles.Add($"Parts of {model.Name} need each other in a circle, {string.Join(" → ", circle)}; none of them could start. Mend the model in its catalogue file.");
        var (needed, missing) = PartClosure.Of(model, asked.Keys);
        foreach (var (key, by) in missing)
            troubles.Add(asked.TryGetValue(key, out string? why) ? $"The part ‘{key}’ is needed by {why}, and {model.Name} has no such part. Move them to another controller, or choose a model that has it." : $"The part {by} needs ‘{key}’, which {model.Name} has not. Mend the model in its catalogue file.");
        string runtime = RuntimeOf(controller, model);
        IReadOnlyList<SoftwarePart> all = PartClosure.Of(model, [.. asked.Keys, .. extra]).Parts;
        var wanted = all.Select(part => new PartWanted(part, part.Version == model.Runtimes[0] ? runtime : part.Version,
            asked.TryGetValue(part.Key, out string? by) ? $"needed by {by}" : (extra.Contains(part.Key) ? "by choice" : $"{all.First(p => p.Needs.Contains(part.Key)).Name} needs it"), needed.Contains(part))).ToList();
        return new SoftwareParts(wanted, troubles);
    }

    private static string Count(IReadOnlyList<ProjectRecord> records) =>
        records is [Controller] ? "every controller" : string.Join(", ", records.GroupBy(r => RecordKinds.Of(r)).Select(g => $"{g.Count()} {(g.Count() == 1 ? g.Key.Nouns[0].Noun : g.Key.Nouns[0].Plural)}"));
}
