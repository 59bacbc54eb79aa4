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

/// <summary>What a model is for. What it can do, its other fields say.</summary>
public enum HardwareKind
{
    /// <summary>Runs programs, with terminals of its own or without.</summary>
    Controller,
    /// <summary>Supervises controllers and runs programs.</summary>
    Server,
    /// <summary>Terminals beside a controller.</summary>
    Module,
    /// <summary>Gives current to what stands beside it.</summary>
    Supply,
    /// <summary>Leads to another network.</summary>
    Gateway,
}

/// <summary>Terminals of one sort on a model: UI1 to UI8.</summary>
/// <param name="Prefix">What their names begin with.</param>
/// <param name="Name">What people call them.</param>
/// <param name="Count">How many there are.</param>
/// <param name="Direction">Which way they work.</param>
/// <param name="Signals">What each can carry.</param>
public sealed record TerminalGroup(string Prefix, string Name, int Count, Direction Direction, IReadOnlyList<Signal> Signals)
{
    /// <summary>The most current that one output switches, A.</summary>
    public double? MostAmps { get; init; }

    /// <summary>The most current that one analog output gives, mA.</summary>
    public double? MostMilliamps { get; init; }

    /// <summary>How many neighbouring outputs share one feed; none or 1: each has its own.</summary>
    public int FeedOf { get; init; } = 1;

    /// <summary>The most current over one feed, A.</summary>
    public double? FeedAmps { get; init; }

    /// <summary>The feed, from 1, of the terminal with a number.</summary>
    public int FeedAt(int number) => ((number - 1) / Math.Max(1, FeedOf)) + 1;
}

/// <summary>Current that a device draws from a supply or gives to it, mA.</summary>
/// <param name="Supply">Which: 24 V, bus.</param>
/// <param name="Milliamps">How much.</param>
public sealed record SupplyCurrent(string Supply, int Milliamps);

/// <summary>A software part that runs on a model.</summary>
/// <param name="Key">What others need it by.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Version">Its version.</param>
/// <param name="Kilobytes">What it takes of the memory.</param>
/// <param name="Needs">The keys of the parts without which it does not run.</param>
public sealed record SoftwarePart(string Key, string Name, string Version, int Kilobytes, IReadOnlyList<string> Needs);

/// <summary>A model of the catalogue, which is data.</summary>
/// <param name="Id">The name that controllers and modules refer to.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Kind">What it is for.</param>
/// <param name="WidthMillimetres">How much of a rail it takes.</param>
public sealed record HardwareModel(string Id, string Name, HardwareKind Kind, int WidthMillimetres)
{
    /// <summary>Its terminals.</summary>
    public IReadOnlyList<TerminalGroup> Groups { get; init; } = [];

    /// <summary>What it draws.</summary>
    public IReadOnlyList<SupplyCurrent> Draws { get; init; } = [];

    /// <summary>What it gives.</summary>
    public IReadOnlyList<SupplyCurrent> Gives { get; init; } = [];

    /// <summary>How many modules a controller takes.</summary>
    public int MostModules { get; init; }

    /// <summary>How many points without a terminal its memory holds.</summary>
    public int Values { get; init; }

    /// <summary>How many trend samples its memory holds.</summary>
    public int TrendSamples { get; init; }

    /// <summary>How many operations of sequences it is good for a second, see <see cref="ControllerLoad"/>; 0 where nobody has said.</summary>
    public int OperationsPerSecond { get; init; }

    /// <summary>The versions of the runtime that it takes, newest first; one that takes none runs no program.</summary>
    public IReadOnlyList<string> Runtimes { get; init; } = [];

    /// <summary>The version of the loader that it comes with, which starts whatever else it runs.</summary>
    public string Loader { get; init; } = "1.0";

    /// <summary>How much memory it has for software parts and its application, kB; 0 where that is not told.</summary>
    public int MemoryKilobytes { get; init; }

    /// <summary>The software parts that can run on it.</summary>
    public IReadOnlyList<SoftwarePart> Parts { get; init; } = [];

    /// <summary>What it costs, in the catalogue's money; what is proposed is the cheapest by this.</summary>
    public int Price { get; init; }

    /// <summary>Whether it runs programs, so that it is a controller of a project; the rest stands beside one.</summary>
    public bool RunsPrograms => Runtimes.Count > 0;

    /// <summary>How many terminals it has.</summary>
    public int TerminalCount => (int)Math.Clamp(Groups.Sum(g => (long)g.Count), 0, int.MaxValue);

    /// <summary>Every terminal in panel order: its name on the model and its group.</summary>
    public IEnumerable<(string Terminal, TerminalGroup Group)> Terminals() =>
        Groups.SelectMany(g => Enumerable.Range(1, g.Count).Select(n => ($"{g.Prefix}{n}", g)));

    /// <summary>The group a terminal belongs to and its number there, or null if the model has no such terminal.</summary>
    public (TerminalGroup Group, int Number)? Find(string terminal)
    {
        foreach (TerminalGroup group in Groups)
        {
            if (terminal.StartsWith(group.Prefix, StringComparison.Ordinal) && int.TryParse(terminal.AsSpan(group.Prefix.Length), out int number) && number >= 1 && number <= group.Count && terminal == $"{group.Prefix}{number}") return (group, number);
        }
        return null;
    }

    /// <summary>The group a terminal belongs to, or null if the model has no such terminal.</summary>
    public TerminalGroup? GroupOf(string terminal) => Find(terminal)?.Group;

    /// <summary>Its terminals in a few words: UI1–UI8, RO1–RO4.</summary>
    public string TerminalsInWords => string.Join(", ", Groups.Select(g => $"{g.Prefix}1–{g.Prefix}{g.Count}"));

    /// <summary>Two models are the same when all about them is.</summary>
    public bool Equals(HardwareModel? other) => ReferenceEquals(this, other) || (other is not null && Id == other.Id && System.Text.Json.JsonSerializer.Serialize(this, Records.RecordJson.Options) == System.Text.Json.JsonSerializer.Serialize(other, Records.RecordJson.Options));

    /// <inheritdoc/>
    public override int GetHashCode() => Id.GetHashCode(StringComparison.Ordinal);
}
