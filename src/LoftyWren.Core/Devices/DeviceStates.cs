namespace LoftyWren.Core.Devices;

/// <summary>How a device stands, by the names of ISO 16484-5 (BACnetDeviceStatus).</summary>
public enum SystemStatus
{
    /// <summary>It runs its program.</summary>
    Operational,
    /// <summary>It has no program; one must be sent.</summary>
    DownloadRequired,
    /// <summary>A program is on its way to it; the one it has runs on.</summary>
    DownloadInProgress,
    /// <summary>It runs nothing: it is off, starts, or was stopped.</summary>
    NonOperational,
}

/// <summary>Why a device started last, by the names of ISO 16484-5 (BACnetRestartReason).</summary>
public enum RestartReason
{
    /// <summary>It has run since it was mounted.</summary>
    Unknown,
    /// <summary>It was told to forget what it had and start.</summary>
    Coldstart,
    /// <summary>It was told to start again with what it had.</summary>
    Warmstart,
    /// <summary>Its supply was gone and came back.</summary>
    DetectedPowerLost,
    /// <summary>Its program was stopped and told to go on.</summary>
    Suspended,
    /// <summary>Another program took over.</summary>
    ActivateChanges,
}

/// <summary>The start cause as logic sees it: a value with named states, in the order of <see cref="RestartReason"/>.</summary>
public static class StartCauses
{
    /// <summary>What the states are called.</summary>
    public static IReadOnlyList<string> States { get; } = ["not known", "cold start", "warm start", "power return", "resumed", "new program"];

    /// <summary>The number of the state that a reason is, from 1.</summary>
    public static int NumberOf(RestartReason reason) => (int)reason + 1;
}

/// <summary>The system status as logic sees it, in the order of <see cref="SystemStatus"/>.</summary>
public static class SystemStates
{
    /// <summary>What the states are called.</summary>
    public static IReadOnlyList<string> States { get; } = ["operational", "download required", "download in progress", "not operational"];

    /// <summary>The number of the state that a status is, from 1.</summary>
    public static int NumberOf(SystemStatus status) => (int)status + 1;
}

/// <summary>What a device is told of its own life: why its program runs, since when (ms of site time), and how it stands.</summary>
public readonly record struct DeviceStart(RestartReason Reason, long At, SystemStatus Status);

/// <summary>What a device is doing.</summary>
public enum DevicePhase
{
    /// <summary>It has no supply; its outputs are at rest.</summary>
    Off,
    /// <summary>Its loader looks at what it has.</summary>
    Loader,
    /// <summary>Its runtime starts.</summary>
    Runtime,
    /// <summary>Its program is made ready; the outputs are still at rest.</summary>
    Application,
    /// <summary>Its program runs.</summary>
    Running,
    /// <summary>Its program was stopped; its outputs are at rest.</summary>
    Stopped,
}

/// <summary>What can be done to a device.</summary>
public enum DeviceOrder
{
    /// <summary>Its supply is taken away.</summary>
    PowerOff,
    /// <summary>Its supply comes back.</summary>
    PowerOn,
    /// <summary>It starts again with what it remembers.</summary>
    WarmStart,
    /// <summary>It starts again and forgets values, timers and what is held by hand; logs and events stay.</summary>
    ColdStart,
    /// <summary>Its program stops.</summary>
    Stop,
    /// <summary>Its program goes on.</summary>
    Resume,
    /// <summary>It is no longer reached; its program goes on.</summary>
    DisableCommunication,
    /// <summary>It is reached again.</summary>
    EnableCommunication,
}

/// <summary>Something that a device has noted of itself, stamped by its own clock (ms of site time); numbers count up and never repeat.</summary>
public sealed record DeviceEvent(long Number, long AtMilliseconds, DevicePhase Phase, string What);

/// <summary>The life of a device as it is now: its phase, since when and until when, why it started last, and what it noted.</summary>
public sealed record DeviceLife
{
    private const int MostEvents = 200;

    // How long each phase of a start takes at least, and up to how much more, ms.
    private const int LoaderLeast = 3000, LoaderMore = 2000, RuntimeLeast = 7000, RuntimeMore = 4000, ApplicationLeast = 1500, ApplicationMore = 1000;

    /// <summary>How long a start takes, s: at least, and at most.</summary>
    public static (double Least, double Most) StartSeconds => ((LoaderLeast + RuntimeLeast + ApplicationLeast) / 1000.0, (LoaderLeast + LoaderMore + RuntimeLeast + RuntimeMore + ApplicationLeast + ApplicationMore) / 1000.0);

    /// <summary>For how long a loader waits for a runtime that does not come up before it goes back to the one before, ms.</summary>
    public const int WatchMilliseconds = 60_000;

    /// <summary>What it is doing.</summary>
    public DevicePhase Phase { get; init; } = DevicePhase.Running;

    /// <summary>Since when, ms of site time.</summary>
    public long Since { get; init; }

    /// <summary>When the phase ends by itself; <see cref="long.MaxValue"/> where it does not.</summary>
    public long Until { get; init; } = long.MaxValue;

    /// <summary>Why it started last.</summary>
    public RestartReason Reason { get; init; }

    /// <summary>When its program last began to run.</summary>
    public long StartedAt { get; init; }

    /// <summary>How many times it started.</summary>
    public int Starts { get; init; }

    /// <summary>Whether it forgets at this start what it remembers of values.</summary>
    public bool Forgets { get; init; }

    /// <summary>Whether its program is left standing at the end of this start.</summary>
    public bool StaysDown { get; init; }

    /// <summary>Whether its loader waits for a runtime that does not come up.</summary>
    public bool IsWatched { get; init; }

    /// <summary>What went wrong with what was sent last, or null.</summary>
    public string? Trouble { get; init; }

    /// <summary>Whether its communication was disabled.</summary>
    public bool IsSilenced { get; init; }

    /// <summary>Whether what carries to it is cut.</summary>
    public bool IsCut { get; init; }

    /// <summary>Whether nothing goes from it or to it but over its terminals.</summary>
    public bool IsOffTheNetwork => IsSilenced || IsCut;

    /// <summary>Since when it has not answered; null while it does.</summary>
    public long? SilentSince { get; init; }

    /// <summary>What it noted, oldest first, the last two hundred.</summary>
    public IReadOnlyList<DeviceEvent> Events { get; init; } = [];

    /// <summary>Whether its program runs.</summary>
    public bool Runs => Phase == DevicePhase.Running;

    /// <summary>Whether it answers whoever asks.</summary>
    public bool Answers => Phase is DevicePhase.Running or DevicePhase.Stopped && !IsOffTheNetwork;

    /// <summary>What it has noted as far as it has been heard.</summary>
    public IEnumerable<DeviceEvent> Heard => SilentSince is { } since ? Events.Where(e => e.AtMilliseconds <= since) : Events;

    /// <summary>The life after an order at a moment.</summary>
    /// <exception cref="InvalidOperationException">The order makes no sense as it stands; the message says why.</exception>
    public DeviceLife After(DeviceOrder order, string name, long now, uint chance)
    {
        if (Phase == DevicePhase.Off && order != DeviceOrder.PowerOn) throw new InvalidOperationException($"{name} has no supply. Give it power first.");
        if (Phase is DevicePhase.Loader or DevicePhase.Runtime or DevicePhase.Application && order is DeviceOrder.WarmStart or DeviceOrder.ColdStart or DeviceOrder.Stop or DeviceOrder.Resume && Phase is not (DevicePhase.Running or DevicePhase.Stopped))
            throw new InvalidOperationException($"{name} is starting. Wait until it runs.");
        return order switch
        {
            DeviceOrder.PowerOff => To(DevicePhase.Off, now, "supply lost; outputs at rest"),
            DeviceOrder.PowerOn when Phase == DevicePhase.Off => Starting(now, RestartReason.DetectedPowerLost, forgets: false, chance, "supply is back; the loader starts"),
            DeviceOrder.PowerOn => throw new InvalidOperationException($"{name} has its supply already."),
            DeviceOrder.WarmStart => Starting(now, RestartReason.Warmstart, forgets: false, chance, "told to start again; the loader starts"),
            DeviceOrder.ColdStart => Starting(now, RestartReason.Coldstart, forgets: true, chance, "told to forget its values and start; the loader starts"),
            DeviceOrder.Stop when Phase == DevicePhase.Stopped => throw new InvalidOperationException($"The program of {name} is stopped already."),
            DeviceOrder.Stop => To(DevicePhase.Stopped, now, "program stopped; outputs at rest"),
            DeviceOrder.Resume when Phase != DevicePhase.Stopped => throw new InvalidOperationException($"The program of {name} runs."),
            DeviceOrder.Resume => To(DevicePhase.Running, now, "program goes on") with { Reason = RestartReason.Suspended, StartedAt = now, Starts = Starts + 1, Forgets = false },
            DeviceOrder.DisableCommunication when IsSilenced => throw new InvalidOperationException($"The communication of {name} is disabled already."),
            DeviceOrder.DisableCommunication => Note(now, "communication disabled; the program goes on") with { IsSilenced = true },
            DeviceOrder.EnableCommunication when !IsSilenced => throw new InvalidOperationException($"The communication of {name} is enabled."),
            DeviceOrder.EnableCommunication => Note(now, "communication enabled") with { IsSilenced = false },
            _ => throw new ArgumentOutOfRangeException(nameof(order)),
        };
    }

    /// <summary>The life when the phase has come to its end.</summary>
    public DeviceLife Advance(uint chance) => Phase switch
    {
        DevicePhase.Loader => To(DevicePhase.Runtime, Until, "loader done; the runtime starts", Lasts(chance, RuntimeLeast, RuntimeMore)),
        DevicePhase.Runtime => To(DevicePhase.Application, Until, "runtime up; the program is made ready", Lasts(chance, ApplicationLeast, ApplicationMore)),
        DevicePhase.Application when StaysDown => To(DevicePhase.Stopped, Until, "ready; its program is left standing until somebody starts it") with { Starts = Starts + 1 },
        DevicePhase.Application => To(DevicePhase.Running, Until, "program runs; outputs follow it") with { StartedAt = Until, Starts = Starts + 1 },
        _ => this with { Until = long.MaxValue },
    };

    /// <summary>The life once what carries to it is cut, or mended.</summary>
    public DeviceLife Carried(long now, bool isCut) => Note(now, isCut ? "the network is gone; the program goes on" : "the network is back") with { IsCut = isCut };

    /// <summary>The same life with something noted.</summary>
    public DeviceLife Noted(long now, string what) => Note(now, what);

    /// <summary>The life once its runtime was found not to come up: the loader waits a while.</summary>
    public DeviceLife Watched(string why) => To(DevicePhase.Runtime, Until, $"the runtime does not come up: {why}; the loader waits", WatchMilliseconds) with { IsWatched = true };

    /// <summary>The life once what was sent has given way to what was there before.</summary>
    public DeviceLife WentBack(long now, string why, bool startsAgain) => (startsAgain ? Starting(now, RestartReason.ActivateChanges, forgets: false, 0, why) : Note(now, why)) with { Trouble = why, IsWatched = false };

    /// <summary>The life once new parts were taken: it starts again with them.</summary>
    public DeviceLife Renewed(long now, int version, uint chance, bool starts) => Starting(now, RestartReason.ActivateChanges, forgets: false, chance, $"version {version} with new parts; the loader starts") with { Trouble = null, StaysDown = !starts };

    /// <summary>The life once its program has failed: stopped, until it is told to go on or gets another.</summary>
    public DeviceLife Failed(long now, string why) => To(DevicePhase.Stopped, now, $"program failed: {why} Outputs at rest") with { Trouble = why, IsWatched = false };

    /// <summary>The life once another program has taken over.</summary>
    public DeviceLife Activated(long now, int version) => (this with { Reason = RestartReason.ActivateChanges, StartedAt = now, Starts = Starts + 1, Trouble = null }).Note(now, $"version {version} took over");

    /// <summary>The same life with whether it answers settled at a moment.</summary>
    public DeviceLife Settled(long now) => Answers ? this with { SilentSince = null } : this with { SilentSince = SilentSince ?? now };

    private DeviceLife Starting(long now, RestartReason reason, bool forgets, uint chance, string what) => To(DevicePhase.Loader, now, what, Lasts(chance, LoaderLeast, LoaderMore)) with { Reason = reason, Forgets = forgets, StaysDown = false, IsWatched = false };

    // Of realistic and slightly varying length: a base and up to so much more, ms, by chance.
    private static long Lasts(uint chance, int least, int more) => least + (chance % (uint)more);

    private DeviceLife To(DevicePhase phase, long now, string what, long lasts = 0) => (this with { Phase = phase, Since = now, Until = lasts > 0 ? now + lasts : long.MaxValue }).Note(now, what);

    private DeviceLife Note(long now, string what) => this with { Events = [.. Events.TakeLast(MostEvents - 1), new DeviceEvent((Events.Count > 0 ? Events[^1].Number : 0) + 1, now, Phase, what)] };
}

/// <summary>How something installed stands, as far as it has been heard.</summary>
/// <param name="Id">What it is.</param>
/// <param name="Status">By the standard's names.</param>
/// <param name="Phase">What it does; what it did last where it is silent.</param>
/// <param name="Since">Since when, ms of site time.</param>
/// <param name="Reason">Why it started last.</param>
/// <param name="StartedAt">When its program began to run last, ms of site time; 0 where that is not known.</param>
/// <param name="Starts">How many times it started.</param>
/// <param name="SilentSince">Since when it has not answered, ms of site time; null while it does.</param>
/// <param name="Events">What it noted of itself.</param>
public sealed record DeviceStanding(Records.RecordId Id, SystemStatus Status, DevicePhase Phase, long Since, RestartReason Reason, long StartedAt, int Starts, long? SilentSince, IReadOnlyList<DeviceEvent> Events);

/// <summary>A point whose value would be another after a change-over; none where it was not there before, or is not there afterwards.</summary>
public sealed record PointMove(Records.RecordId PointId, Status.Reading? Before, Status.Reading? After);

/// <summary>A block that would begin anew after a change-over, with what it remembers: the sequence, what the block is called, and why.</summary>
public sealed record StateLost(Records.RecordId SequenceId, string Sequence, string Block, string Why);

/// <summary>What a change-over would bring: the points that move, how many holds by hand there are and stay, how many logs there are and go on, and what blocks remember that is lost.</summary>
public sealed record Rehearsal(IReadOnlyList<PointMove> Moves, int Holds, int HoldsKept, int Logs, int LogsKept, IReadOnlyList<StateLost> Lost)
{
    /// <summary>Nothing runs there, so nothing moves.</summary>
    public static Rehearsal Nothing { get; } = new([], 0, 0, 0, 0, []);
}
