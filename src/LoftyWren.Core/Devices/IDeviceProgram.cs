using LoftyWren.Core.Alarms;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Images;
using LoftyWren.Core.Live;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Devices;

/// <summary>How a program takes up what was remembered.</summary>
public enum Resumption
{
    /// <summary>The same program goes on at the moment it was kept at, as if nothing had been.</summary>
    GoesOn,
    /// <summary>Another program takes over while the device runs: no time is lost, but what was due is due anew.</summary>
    TakesOver,
    /// <summary>The device was off: the time in which it was off has not passed for it.</summary>
    AfterPause,
    /// <summary>The device was told to forget: of what was kept only logs and events go on.</summary>
    Forgets,
}

/// <summary>
/// What an installed thing does with its image: a controller, a bus device, a register slave, a meter, a gateway, the site
/// server's own engine. It meets the world by its ports alone. Time comes with each call, in ms of site time; it sleeps until
/// it is due or something comes to a port. The same calls at the same times always come to the same.
/// </summary>
public interface IDeviceProgram
{
    /// <summary>What it runs.</summary>
    IHostImage Image { get; }

    /// <summary>Where it meets media; the same ones for as long as it lives.</summary>
    IReadOnlyList<IDevicePort> Ports { get; }

    /// <summary>When it must run next, ms of site time; a moment that has passed means at once, <see cref="long.MaxValue"/> only when something comes.</summary>
    long NextDue { get; }

    /// <summary>Runs at a moment of site time: all that is due by then.</summary>
    void Run(long now);

    /// <summary>How far the device's own clock is off, ms: what goes by the hour of the day goes by that clock. Stretches of time do not.</summary>
    long ClockOffset
    {
        get => 0;
        set
        {
        }
    }

    /// <summary>What it is told of its own life; its logic may ask.</summary>
    DeviceStart Start
    {
        get => default;
        set
        {
        }
    }

    /// <summary>What is worth keeping, fit to be written as JSON; nothing in it changes afterwards. Trend samples up to the given numbers are collected already and left out.</summary>
    object Remember(IReadOnlyDictionary<RecordId, long>? collected = null);

    /// <summary>The type of what <see cref="Remember"/> gives.</summary>
    Type MemoryType { get; }

    /// <summary>Takes up what a program of the same memory remembered, wherever identities match.</summary>
    void Recall(object memory, Resumption how);

    /// <summary>What its blocks remember and another program, which takes over, does not take up.</summary>
    IReadOnlyList<StateLost> LosesTo(IDeviceProgram next) => [];

    /// <summary>The points whose values it holds and answers for.</summary>
    IEnumerable<RecordId> Home { get; }

    /// <summary>The present reading of a point, or null when it does not know it.</summary>
    Reading? Read(RecordId pointId);

    /// <summary>A value that can be watched: the record it is of, and which of its values, empty for the one it has; null when there is none.</summary>
    ILiveSource? Watch(RecordId recordId, string part);

    /// <summary>Why a record that it runs — a point, an alarm — is as it is, or null when it does not know it.</summary>
    Because? Explain(RecordId recordId);

    /// <summary>The claims on an output, or null when it commands none.</summary>
    LadderView? ViewLadder(RecordId pointId) => null;

    /// <summary>How a mode table of a sequence stands, or null when it runs none such.</summary>
    ModesView? ViewModes(RecordId sequenceId, string blockId) => null;

    /// <summary>What keeps its last scans; null when it has none.</summary>
    IScanKeeper? Scans => null;

    /// <summary>It as it stands, to try things with beside it; null when it is nothing that can be tried.</summary>
    Standstill? Standstill() => null;

    /// <summary>What is measured or given at each terminal that a point is on.</summary>
    IReadOnlyList<TerminalReading> Terminals => [];

    /// <summary>Outputs held by people now.</summary>
    IReadOnlyCollection<Hold> Holds => [];

    /// <summary>Holds an output by hand.</summary>
    /// <exception cref="InvalidOperationException">It is no output of this device; the message says so.</exception>
    void HoldByHand(Hold hold) => throw new InvalidOperationException("This device has no output that can be held by hand.");

    /// <summary>Lets an output go; answers whether it was held.</summary>
    bool ReleaseHold(RecordId pointId) => false;

    /// <summary>Its trend logs.</summary>
    IEnumerable<(TrendLog Log, TrendBuffer Buffer)> Trends => [];

    /// <summary>Empties a trend log; answers how to take that back, or null when it is not here.</summary>
    Action? EmptyTrend(RecordId trendId) => null;

    /// <summary>The states of its alarms.</summary>
    IEnumerable<(EventRule Rule, EventState State)> AlarmStates => [];

    /// <summary>The number of its last alarm event.</summary>
    long LastEventNumber => 0;

    /// <summary>Alarm events after a number, oldest first.</summary>
    IReadOnlyList<AlarmEvent> EventsAfter(long number) => [];

    /// <summary>Numbers the next event after this one at least.</summary>
    void NumberEventsAfter(long number)
    {
    }
}

/// <summary>What is measured or given at a terminal, in the unit of its signal, and what is wrong with it.</summary>
public sealed record TerminalReading(string Terminal, double? Raw, string Unit, string? Trouble);
