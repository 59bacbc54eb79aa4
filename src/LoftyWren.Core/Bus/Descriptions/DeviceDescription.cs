using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Descriptions;

/// <summary>What a bus device is to its line.</summary>
public enum LineRole
{
    /// <summary>It takes part.</summary>
    Device,
    /// <summary>It feeds the line.</summary>
    Supply,
    /// <summary>It joins the line to the one above.</summary>
    Coupler,
    /// <summary>It leads from the line to IP.</summary>
    Interface,
}

/// <summary>How urgent a telegram is, by the bits that say so in its control field.</summary>
public enum BusPriority
{
    /// <summary>Management of the system.</summary>
    System = 0,
    /// <summary>Before ordinary ones.</summary>
    Normal = 1,
    /// <summary>Alarms.</summary>
    Urgent = 2,
    /// <summary>Ordinary ones.</summary>
    Low = 3,
}

/// <summary>A page of parameters: one topic.</summary>
/// <param name="Key">What its description calls it.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Parameters">The keys of its parameters, in order.</param>
public sealed record PageDescription(string Key, string Title, IReadOnlyList<string> Parameters)
{
    /// <summary>When it is there.</summary>
    public string? When { get; init; }
}

/// <summary>A communication object; in a channel, what is left out comes from the object of its behaviour that has the same key.</summary>
/// <param name="Key">What the description calls it.</param>
/// <param name="Number">Its number; in channels counted from the first of the channel.</param>
public sealed record ObjectDescription(string Key, int Number)
{
    /// <summary>What people call it; <c>{channel}</c> in it is the channel's title.</summary>
    public string? Name { get; init; }

    /// <summary>Its datapoint type, such as 1.001.</summary>
    public string? Type { get; init; }

    /// <summary>Its flags: C communicates, R answers reads, W takes writes, T sends, U takes answers, I asks when it starts.</summary>
    public string? Flags { get; init; }

    /// <summary>How urgent what it sends is.</summary>
    public BusPriority? Priority { get; init; }

    /// <summary>When it is there.</summary>
    public string? When { get; init; }
}

/// <summary>Channels that are alike: what each does, its pages, parameters and objects.</summary>
/// <param name="Key">What the description calls them; the third is key3.</param>
/// <param name="Title">What people call one: <c>{n}</c> is its number, <c>{letter}</c> its letter.</param>
/// <param name="Count">How many there are.</param>
/// <param name="Behaviour">What their parameters drive, by its key.</param>
public sealed record ChannelDescription(string Key, string Title, int Count, string Behaviour)
{
    /// <summary>When they are there.</summary>
    public string? When { get; init; }

    /// <summary>Their pages.</summary>
    public IReadOnlyList<PageDescription> Pages { get; init; } = [];

    /// <summary>Parameters of their own, and what is otherwise of those of the behaviour.</summary>
    public IReadOnlyList<ParameterDescription> Parameters { get; init; } = [];

    /// <summary>The number of the first object of the first channel.</summary>
    public int FirstObject { get; init; }

    /// <summary>How many object numbers each channel has.</summary>
    public int ObjectStep { get; init; }

    /// <summary>Their objects.</summary>
    public IReadOnlyList<ObjectDescription> Objects { get; init; } = [];
}

/// <summary>A bus device as data: what it is, what can be set on it, and what it says and hears.</summary>
/// <param name="Id">The name that devices refer to it by.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Revision">Which revision of its description.</param>
/// <param name="WidthMillimetres">How much of a rail it takes; 0: it is no device for a rail.</param>
/// <param name="BusMilliamps">What it draws from the bus.</param>
public sealed record DeviceDescription(string Id, string Name, int Revision, int WidthMillimetres, int BusMilliamps)
{
    /// <summary>What it is for, in a sentence.</summary>
    public string? About { get; init; }

    /// <summary>What it is to its line.</summary>
    public LineRole Role { get; init; }

    /// <summary>What it gives to the bus, mA.</summary>
    public int GivesMilliamps { get; init; }

    /// <summary>Whether it has a mains supply besides the bus, without which its outputs do nothing.</summary>
    public bool NeedsMains { get; init; }

    /// <summary>Whether it can be put to work with a certificate, so that what it says is encrypted.</summary>
    public bool CanBeSecured { get; init; }

    /// <summary>The id of the description that has taken its place; it is offered for new devices no longer, and those that have it keep it. Null for what is offered.</summary>
    public string? SupersededBy { get; init; }

    /// <summary>The version of its firmware.</summary>
    public string Firmware { get; init; } = "1.0";

    /// <summary>What it costs, in the catalogue's money.</summary>
    public int Price { get; init; }

    /// <summary>Pages about the device as a whole.</summary>
    public IReadOnlyList<PageDescription> Pages { get; init; } = [];

    /// <summary>Parameters of the device as a whole.</summary>
    public IReadOnlyList<ParameterDescription> Parameters { get; init; } = [];

    /// <summary>Its channels.</summary>
    public IReadOnlyList<ChannelDescription> Channels { get; init; } = [];

    /// <summary>Two descriptions are the same when all about them is.</summary>
    public bool Equals(DeviceDescription? other) => ReferenceEquals(this, other) || (other is not null && Id == other.Id && Revision == other.Revision && System.Text.Json.JsonSerializer.Serialize(this, RecordJson.Options) == System.Text.Json.JsonSerializer.Serialize(other, RecordJson.Options));

    /// <inheritdoc/>
    public override int GetHashCode() => Id.GetHashCode(StringComparison.Ordinal);
}
