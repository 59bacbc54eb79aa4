using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Records;
using LoftyWren.Server.Supervision;
using LoftyWren.VirtualSite;
using LoftyWren.VirtualSite.Bus;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.Server.Installation;

/// <summary>The site clock as screens show it. ActualSpeed tells how many seconds of site time a second really brings when the machine cannot keep the speed; Trouble, why the site stands still although its clock is set to run; Link, whether the site answers, and Heard when it last did (ms since 1970 UTC). Silent: how many controllers have not been heard for as long as each may.</summary>
public sealed record ClockView(long Now, bool Running, int Speed, double ActualSpeed, string TimeZone, double Outdoor, int Held, string? Trouble, LinkState Link = LinkState.Heard, long? HeardAt = null, int Silent = 0);

/// <summary>A device in its box: its model, the loader it has, and what will carry to it.</summary>
public sealed record BoxedDevice(string ModelId, string LoaderVersion, LinkQuality Link);

/// <summary>A device that hangs: where, the serial number on its label, and what carries to it.</summary>
public sealed record HungDevice(RecordId HostId, string Serial, LinkQuality Link, int Port = 0);

/// <summary>What somebody does at a bus device.</summary>
public enum BusDeed
{
    /// <summary>Presses its button: it waits for an address, or no more.</summary>
    Press,
    /// <summary>Holds its button for ten seconds: it is as out of its box.</summary>
    Reset,
    /// <summary>Takes it off the bus.</summary>
    TakeBus,
    /// <summary>Connects it again.</summary>
    GiveBus,
    /// <summary>Takes its mains.</summary>
    TakeMains,
    /// <summary>Gives its mains again.</summary>
    GiveMains,
}

/// <summary>A bus device as somebody sees it who stands before it: its label, its light for programming, whether it lives, and what its channels drive in the building: channel, what, value.</summary>
public sealed record SeenBusDevice(RecordId Id, string Line, string Serial, bool IsWaiting, bool HasBus, bool HasMains, IReadOnlyList<SeenLoad> Loads);

/// <summary>What a channel drives, in words.</summary>
public sealed record SeenLoad(string Channel, string Port, string Says, double? Value);

/// <summary>An interface of a line: of which device, and the port of this machine at which it is reached.</summary>
public sealed record BusGate(RecordId DeviceId, string Line, int Port);

/// <summary>
/// What can be done to a virtual site and to no real one: its clock is moved, its sensors are held, and it is built. Reached
/// over the link like all the rest.
/// </summary>
public interface IVirtualSite : ILink
{
    /// <summary>Takes up the kept site, or makes a new one at a moment of site time. Answers whether there was one.</summary>
    bool Open(long startAt);

    /// <summary>The clock.</summary>
    ClockView Clock();

    /// <summary>Pauses, runs, changes speed, or takes steps of one second while paused.</summary>
    void SetClock(string who, bool? running, int? speed, int? stepSeconds);

    /// <summary>Runs ahead at once, to a moment of site time or as far as one turn goes; answers where it is.</summary>
    long RunAhead(long milliseconds);

    /// <summary>Keeps all that there is to keep.</summary>
    void Keep();

    /// <summary>Lets the site stand still, since what it does could not be written down; null lets it go on.</summary>
    void StandStill(string? why);

    /// <summary>Puts an input by hand in place of its sensor.</summary>
    void HoldInput(string who, string what, RecordId host, string terminal, HoldOrder order);

    /// <summary>Lets an input follow its sensor again; answers whether it was held.</summary>
    bool ReleaseInput(string who, string what, RecordId host, string terminal, RecordId pointId);

    /// <summary>Hangs something out of its box, in place of what hung there: a model of the catalogue with its loader, at the end of a connection. It runs nothing and has the factory's credentials. Answers the serial number on the label in its door.</summary>
    string Hang(string who, string what, RecordId host, string kind, BoxedDevice box);

    /// <summary>Takes something down that hangs; what it runs and keeps goes with it.</summary>
    void TakeDown(string who, string what, RecordId host);

    /// <summary>The terminals whose inputs are held by hand.</summary>
    IReadOnlyList<HeldInput> HeldInputs();

    /// <summary>Makes the connection of something that hangs better or worse.</summary>
    void SetLink(string who, string what, RecordId host, LinkQuality link);

    /// <summary>All that hangs: the serial number on its label, and what carries to it.</summary>
    IReadOnlyList<HungDevice> Hung();

    /// <summary>The port of this machine at which who hangs is asked who is there; 0 while nothing hangs.</summary>
    int DiscoveryPort();

    /// <summary>Hangs bus devices on their lines; one whose label hangs there already stays, with its ties anew.</summary>
    void HangOnBus(string who, string what, IReadOnlyList<BoxedBusDevice> boxes);

    /// <summary>Takes bus devices down; what they know goes with them.</summary>
    void TakeOffBus(string who, string what, IReadOnlyList<RecordId> devices);

    /// <summary>Does something at a bus device.</summary>
    void ActOnBus(string who, string what, RecordId device, BusDeed deed);

    /// <summary>The bus devices that hang, as somebody who stands before them sees them.</summary>
    IReadOnlyList<SeenBusDevice> BusDevices();

    /// <summary>The interfaces of bus lines, and the port of this machine at which each is reached.</summary>
    IReadOnlyList<BusGate> BusGates();

    /// <summary>A copy of the site as it stands, without the secrets of its devices.</summary>
    SiteCopy Copy();

    /// <summary>Makes two copies of the site as it stands, one of them with another program on a host; answers by what number they are known.</summary>
    int BeginDay(RecordId host, string kind, byte[] image);

    /// <summary>Runs the two on by some minutes of site time; answers why the other program failed, once it has.</summary>
    string? RunDay(int number, int minutes);

    /// <summary>What went otherwise so far; the two are gone afterwards.</summary>
    IReadOnlyList<PointDay> EndDay(int number);

    /// <summary>The site as it stands, wires and all.</summary>
    SitePlan Plan();

    /// <summary>The wires of one host, as built.</summary>
    IReadOnlyList<Wire> WiresOf(RecordId host);

    /// <summary>Builds the wires of one host in place of those it has; answers false, and builds nothing, when one would lead to a room or machine that does not stand.</summary>
    bool Rewire(string who, string what, RecordId host, IReadOnlyList<Wire> wires);

    /// <summary>Builds the site to a plan: only the rooms, machines and wires that differ; of wires only those of the given hosts, where some are given.</summary>
    void Build(string who, string what, SitePlan wanted, IReadOnlyList<RecordId>? hosts);
}
