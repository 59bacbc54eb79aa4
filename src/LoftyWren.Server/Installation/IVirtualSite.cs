using LoftyWren.Core.Records;
using LoftyWren.Server.Supervision;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.Server.Installation;

/// <summary>The site clock as screens show it. ActualSpeed tells how many seconds of site time a second really brings when the machine cannot keep the speed; Trouble, why the site stands still although its clock is set to run; Link, whether the site answers, and Heard when it last did (ms since 1970 UTC).</summary>
public sealed record ClockView(long Now, bool Running, int Speed, double ActualSpeed, string TimeZone, double Outdoor, int Held, string? Trouble, LinkState Link = LinkState.Heard, long? HeardAt = null);

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

    /// <summary>The site as it stands, wires and all.</summary>
    SitePlan Plan();

    /// <summary>The wires of one host, as built.</summary>
    IReadOnlyList<Wire> WiresOf(RecordId host);

    /// <summary>Builds the wires of one host in place of those it has; answers false, and builds nothing, when one would lead to a room or machine that does not stand.</summary>
    bool Rewire(string who, string what, RecordId host, IReadOnlyList<Wire> wires);

    /// <summary>Builds the site to a plan: only the rooms, machines and wires that differ; of wires only those of the given hosts, where some are given.</summary>
    void Build(string who, string what, SitePlan wanted, IReadOnlyList<RecordId>? hosts);
}
