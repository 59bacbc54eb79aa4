using System.Text.Json;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Hardware;

/// <summary>Which way a terminal works.</summary>
public enum Direction
{
    /// <summary>It measures.</summary>
    In,
    /// <summary>It drives.</summary>
    Out,
}

/// <summary>Terminals of one sort on a model: UI1 to UI8.</summary>
public sealed record TerminalGroup(string Prefix, string Name, int Count, Direction Direction, IReadOnlyList<Signal> Signals);

/// <summary>A model of the catalogue, which is a data file.</summary>
/// <param name="Id">The name that controllers refer to.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Groups">Its terminals.</param>
/// <param name="Values">How many points without a terminal its memory holds.</param>
/// <param name="TrendSamples">How many trend samples its memory holds.</param>
public sealed record ControllerModel(string Id, string Name, IReadOnlyList<TerminalGroup> Groups, int Values, int TrendSamples)
{
    private static readonly Lazy<IReadOnlyList<ControllerModel>> Shipped = new(() =>
    {
        using Stream stream = typeof(ControllerModel).Assembly.GetManifestResourceStream("catalogue.json")!;
        return JsonSerializer.Deserialize<List<ControllerModel>>(stream, RecordJson.Options)!;
    });

    /// <summary>The catalogue that ships.</summary>
    public static IReadOnlyList<ControllerModel> Catalogue => Shipped.Value;

    /// <summary>The model with this id, or null.</summary>
    public static ControllerModel? Find(string id) => Catalogue.FirstOrDefault(m => m.Id == id);

    /// <summary>Every terminal in panel order: its name and its group.</summary>
    public IEnumerable<(string Terminal, TerminalGroup Group)> Terminals() =>
        Groups.SelectMany(g => Enumerable.Range(1, g.Count).Select(n => ($"{g.Prefix}{n}", g)));

    /// <summary>The group a terminal belongs to, or null if the model has no such terminal.</summary>
    public TerminalGroup? GroupOf(string terminal) => Terminals().FirstOrDefault(t => t.Terminal == terminal).Group;
}
