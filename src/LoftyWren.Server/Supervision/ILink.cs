using LoftyWren.Core.Alarms;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Live;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using LoftyWren.Storage.History;
using LoftyWren.Storage.Site;

namespace LoftyWren.Server.Supervision;

/// <summary>Whether the far end of a link answers: it did a moment ago, some seconds ago, or not for long.</summary>
public enum LinkState
{
    /// <summary>It answers.</summary>
    Heard,
    /// <summary>It has not answered for some seconds.</summary>
    Late,
    /// <summary>It has not answered for so long that what is known of it is old.</summary>
    Silent,
}

/// <summary>Something installed: its kind (see <see cref="Core.Images.HostKinds"/>), whether it runs anything, and what was sent last, when (ms since 1970 UTC) and by whom.</summary>
public sealed record Installed(RecordId Id, string Kind, bool Runs, int Version, string Hash, string SentBy, long SentAt);

/// <summary>An output to be held by hand: in the unit of its point; minutes missing means for ever. An input may go from that value on along a course.</summary>
public sealed record HoldOrder(RecordId PointId, double Value, string Why, double? Minutes, InputCourse? Course = null);

/// <summary>Something that is held by hand, as it was installed: the point's name there, whether it is an input of the virtual site, what it is held at in words, who, why, since when and until when (ms of site time); the course as text where it follows one.</summary>
public sealed record Held(RecordId PointId, string Name, bool IsInput, string Says, string Who, string Why, long At, long? Until, string? Course = null);

/// <summary>Whether a host runs anything, and whether what it runs holds a point.</summary>
public sealed record Knowing(bool Runs, bool Knows);

/// <summary>How a trend log stands where it is kept: whether it has stopped, how many samples it took since it began, how many it holds.</summary>
public sealed record LogStanding(bool HasStopped, long Taken, int Holds);

/// <summary>What has been written down of what was collected: the number of the last sample of a log, of the last event of a device.</summary>
public sealed record Written(IReadOnlyDictionary<RecordId, long> Logs, IReadOnlyDictionary<RecordId, long> Events);

/// <summary>The fresh samples of one log: how many of the collection's samples, in order, are its, and how many it took in all.</summary>
public sealed record CollectedLog(RecordId LogId, int Count, long Total);

/// <summary>The fresh alarm events of one device, oldest first.</summary>
public sealed record CollectedEvents(RecordId HostId, IReadOnlyList<AlarmEntry> Events);

/// <summary>
/// What is fresh at the far end since what was written down. Unknown are those of which it has not been told how far they were
/// written: they come once that is known. There is more where it was cut short. The next collection may use the same lists again.
/// </summary>
public sealed record Collection(List<CollectedLog> Logs, List<Sample> Samples, List<CollectedEvents> Events, List<RecordId> UnknownLogs, List<RecordId> UnknownHosts)
{
    /// <summary>Whether there was more than is brought at a time.</summary>
    public bool IsCut { get; set; }
}

/// <summary>Values found to be watched, one for each address, all good for one generation of programs.</summary>
public sealed record LiveFound(int Generation, IReadOnlyList<LiveSpot> Spots);

/// <summary>A value that was found: its handle, −1 for one that is not there, and how it is said.</summary>
public sealed record LiveSpot(int Handle, ValueForm Form);

/// <summary>Values read by their handles; none when another generation of programs runs, and they must be found again.</summary>
public sealed record LiveRead(int Generation, IReadOnlyList<Reading>? Readings);

/// <summary>A turn of the far end: site time, the generation of its programs, and a count that grows with every hold, release and alarm.</summary>
public sealed record LinkPulse(long Now, int Generation, long Happenings);

/// <summary>Something installed that does not answer, since when, ms of site time.</summary>
public sealed record UnheardHost(RecordId HostId, long Since);

/// <summary>Nobody answers at the far end of a link; the message says where, and what to do.</summary>
public sealed class LinkException(string message, Exception? inner = null) : IOException(message, inner);

/// <summary>
/// The way from the site server to what is installed. All that is asked and told here can be told over a wire: what is at the
/// far end, a virtual site in this process, one in a process of its own, or controllers on a wall, makes no difference to
/// whoever asks. What cannot be done is refused by an <see cref="InvalidOperationException"/> with a sentence, and nothing
/// is changed; what cannot be written there by a <see cref="Storage.StorageException"/>; where nobody answers, by a
/// <see cref="LinkException"/>.
/// </summary>
public interface ILink
{
    /// <summary>A sign of life.</summary>
    LinkPulse Pulse();

    /// <summary>All that is installed, by id.</summary>
    IReadOnlyList<Installed> AllInstalled();

    /// <summary>Something installed, or null.</summary>
    Installed? Find(RecordId host);

    /// <summary>The image that something runs, or null while nothing was ever sent.</summary>
    byte[]? ImageOf(RecordId host);

    /// <summary>What changing over to an image would bring, worked out beside what runs; nothing there changes.</summary>
    Rehearsal Rehearse(RecordId host, string kind, byte[] image);

    /// <summary>How everything that is mounted stands, as far as it has been heard.</summary>
    IReadOnlyList<DeviceStanding> Standings();

    /// <summary>What is installed and does not answer, since when, ms of site time.</summary>
    IReadOnlyList<UnheardHost> Unheard();

    /// <summary>Does something to a device: its program, its communication; on a virtual site its supply too.</summary>
    void Order(string who, string what, RecordId host, DeviceOrder order);

    /// <summary>The present reading of a point, or null when nothing installed knows it.</summary>
    Reading? Read(RecordId pointId);

    /// <summary>Whether a host runs anything, and whether what it runs holds this point.</summary>
    Knowing Knows(RecordId host, RecordId pointId);

    /// <summary>Why a point, or something of that point, is as it is; null when nothing installed knows it.</summary>
    Because? Explain(RecordId pointId, RecordId recordId);

    /// <summary>The claims on an output, or null.</summary>
    LadderView? Ladder(RecordId pointId);

    /// <summary>How a mode table of a sequence of a host stands, or null.</summary>
    ModesView? Modes(RecordId host, RecordId sequenceId, string blockId);

    /// <summary>Begins to keep the last scans of a sequence of a host, or goes on; null where it does not run there.</summary>
    KeptScans? KeepScans(RecordId host, RecordId sequenceId, IReadOnlyList<string> addresses, ScanStop? stop);

    /// <summary>The scans of a sequence that are kept, or null.</summary>
    KeptScans? Scans(RecordId host, RecordId sequenceId);

    /// <summary>The values of one kept scan, in the order of its addresses, or null.</summary>
    IReadOnlyList<Reading>? Scan(RecordId host, RecordId sequenceId, long number);

    /// <summary>One value over all kept scans, or null.</summary>
    IReadOnlyList<Reading>? ScanCourse(RecordId host, RecordId sequenceId, string address);

    /// <summary>What it would take for an output to be something, tried beside what runs; null when nothing installed commands it.</summary>
    Because? WhyNot(RecordId pointId, TestCondition condition);

    /// <summary>What an output does when something befalls it, tried beside what runs; null when nothing installed commands it.</summary>
    IReadOnlyList<OutputTrial>? Trials(RecordId pointId);

    /// <summary>What is measured and given at the terminals of a host.</summary>
    IReadOnlyList<TerminalReading> Terminals(RecordId host);

    /// <summary>How many terminals are in trouble at each host that has any.</summary>
    IReadOnlyDictionary<RecordId, int> Troubles();

    /// <summary>The states of all alarms that are watched.</summary>
    IReadOnlyDictionary<RecordId, EventState> AlarmStates();

    /// <summary>Everything held by hand, oldest first.</summary>
    IReadOnlyList<Held> AllHeld();

    /// <summary>Holds an output by hand; <paramref name="what"/> is what the trail says of it.</summary>
    void Hold(string who, string what, HoldOrder order);

    /// <summary>Lets an output go; answers whether it was held.</summary>
    bool Release(string who, string what, RecordId pointId);

    /// <summary>How a trend log of a point stands, or null when it is not installed.</summary>
    LogStanding? LogOf(RecordId pointId, RecordId logId);

    /// <summary>Empties a trend log where it is kept; answers whether it is there.</summary>
    bool EmptyLog(string who, string what, RecordId pointId, RecordId logId);

    /// <summary>Takes note of what was written down, and gives what is fresh.</summary>
    Collection Collect(Written written);

    /// <summary>Finds values to be watched by their addresses: a letter, a colon, a record, and with a slash one of its parts.</summary>
    LiveFound FindLive(IReadOnlyList<string> addresses);

    /// <summary>Reads values that were found.</summary>
    LiveRead ReadLive(int generation, int[] handles);

    /// <summary>Writes into the trail what somebody did that changed nothing there.</summary>
    void Trail(string who, string what, RecordId? record);

    /// <summary>The trail, newest first, below an entry.</summary>
    IReadOnlyList<TrailEntry> TrailPage(long below, int count);
}
