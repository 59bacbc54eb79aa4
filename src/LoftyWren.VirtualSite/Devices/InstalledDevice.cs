using System.Text.Json;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Images;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.VirtualSite.Devices;

/// <summary>
/// Something installed on the virtual site: a controller, or a device of another kind. It takes an image in pieces into a
/// staging area and changes over only when the whole is there and proves sound; until that moment, and if anything goes
/// wrong, it runs the program it had.
/// </summary>
public sealed class InstalledDevice(RecordId id, string kind = ControllerImageBuilder.KindKey)
{
    private readonly Dictionary<string, PartStaging> _parts = [];
    private byte[]? _staging;
    private int _staged;
    private string _expected = "";

    /// <summary>Its identity: that of the project's record.</summary>
    public RecordId Id { get; } = id;

    /// <summary>The key of its kind; see <see cref="HostKinds"/>.</summary>
    public string Kind { get; } = kind;

    /// <summary>What it runs; null while nothing was ever sent.</summary>
    public IDeviceProgram? Program { get; private set; }

    /// <summary>How its life stands: its supply, its phase, whether it answers.</summary>
    public DeviceLife Life { get; private set; } = new();

    /// <summary>What stands between it and whoever reaches it; null where nothing was ever hung there.</summary>
    public DeviceDoor? Door { get; set; }

    /// <summary>What it is called as far as it knows.</summary>
    public string CalledBy => Door?.Settings?.Name ?? Program?.Image.Host.Name ?? Door?.Serial ?? Id.Value;

    /// <summary>What whoever asks it meets: its program, or, where it does not answer or stands still, what is known of it last; null while nothing was ever sent.</summary>
    public IDeviceProgram? Front => Program is null || (Life.Runs && Life.Answers) ? Program : _silent ??= new SilentProgram(Program, WhyNot);

    private SilentProgram? _silent;

    private string WhyNot => Life.Answers ? $"the program of {Program!.Image.Host.Name} is stopped. Let it go on first." : $"{Program!.Image.Host.Name} does not answer. It is off, starting, cut off, or its communication is disabled; look at its state.";

    /// <summary>Takes another life, with what is known of it frozen at this moment where it stops answering; answers what takes it back.</summary>
    /// <exception cref="InvalidOperationException">It cannot start what it has; the message says why.</exception>
    internal Action Live(DeviceLife life, long now)
    {
        var (before, program, silent) = (Life, Program, _silent);
        DeviceLife next = life.Settled(now);
        if (Program is not null && next.Runs && !before.Runs) Program = StartAgain(next.Forgets);
        if (next.Runs && next.Answers) _silent = null;
        else if (Program is not null && (before.Runs && before.Answers || before.Answers != next.Answers && silent is null)) _silent = null;
        Life = next;
        // What was heard last is what stood at this moment.
        _ = Front;
        return () => (Life, Program, _silent) = (before, program, silent);
    }

    /// <summary>Takes up a life that was kept.</summary>
    public void Revive(DeviceLife life) => (Life, _silent) = (life, null);

    private IDeviceProgram StartAgain(bool forgets)
    {
        object kept = Program!.Remember();
        IDeviceProgram program = Start(Kind, ImageBytes!);
        if (program.MemoryType == kept.GetType()) program.Recall(kept, forgets ? Resumption.Forgets : Resumption.AfterPause);
        return program;
    }

    /// <summary>The bytes of the running image.</summary>
    public byte[]? ImageBytes { get; private set; }

    /// <summary>The hash of the running image, empty while there is none.</summary>
    public string Hash { get; private set; } = "";

    /// <summary>Counts the images that were ever changed over to.</summary>
    public int Version { get; private set; }

    /// <summary>Who sent the running image, and when (ms since 1970 UTC, of the machine's clock).</summary>
    public string SentBy { get; private set; } = "";

    /// <summary>When the running image was sent, ms since 1970 UTC.</summary>
    public long SentAt { get; private set; }

    /// <summary>How many bytes of an unfinished transfer are here, and how many it will have.</summary>
    public (int Have, int Of) Staged => (_staged, _staging?.Length ?? 0);

    /// <summary>Whether something is on its way to its second slot.</summary>
    public bool IsStaging => _staging is not null || _parts.Count > 0;

    /// <summary>Begins a transfer, or goes on with one of the same hash; answers the offset to send from.</summary>
    public int BeginSend(int length, string hash)
    {
        if (_staging is null || _expected != hash || _staging.Length != length) (_staging, _staged, _expected) = (new byte[length], 0, hash);
        return _staged;
    }

    /// <summary>How many loader and software parts are on their way; whether one of them is this.</summary>
    public int PartsUnderWay => _parts.Count;

    /// <summary>Whether a part is on its way.</summary>
    public bool IsUnderWay(string key) => _parts.ContainsKey(key);

    /// <summary>Begins to take a loader or a software part, or goes on with the same; answers the offset to send from.</summary>
    public int BeginPart(PartOffer offer)
    {
        if (!_parts.TryGetValue(offer.Key, out PartStaging? staging) || staging.Offer != offer) _parts[offer.Key] = staging = new PartStaging(offer);
        return staging.Have;
    }

    /// <summary>Takes the next piece of a part.</summary>
    /// <exception cref="InvalidOperationException">It has not begun, or the piece does not follow on.</exception>
    public void ReceivePart(string key, int offset, ReadOnlySpan<byte> piece) =>
        (_parts.GetValueOrDefault(key) ?? throw new InvalidOperationException($"The part ‘{key}’ has not begun. Send again.")).Take(offset, piece);

    /// <summary>The parts that are on their way, each whole and what was promised.</summary>
    /// <exception cref="InvalidOperationException">One is not there, not whole or damaged.</exception>
    public IReadOnlyList<(InstalledPart Part, FirmwareHead? Head)> SentParts(IEnumerable<string> keys) =>
        [.. keys.Select(k => (_parts.GetValueOrDefault(k) ?? throw new InvalidOperationException($"The part ‘{k}’ has not begun. Send again.")).Whole())];

    /// <summary>Takes the next piece; pieces come in order.</summary>
    /// <exception cref="InvalidOperationException">No transfer has begun, or the piece does not follow on.</exception>
    public void Receive(int offset, ReadOnlySpan<byte> piece)
    {
        if (_staging is null || offset != _staged || offset + piece.Length > _staging.Length) throw new InvalidOperationException("This piece does not follow on what the device has.");
        piece.CopyTo(_staging.AsSpan(offset));
        _staged += piece.Length;
    }

    /// <summary>What was sent, once it is whole, with the hash that was promised; to be made ready outside of any turn.</summary>
    /// <exception cref="InvalidOperationException">It is not whole.</exception>
    public SentImage Sent() => _staging is not null && _staged == _staging.Length ? new SentImage(Kind, _staging, _expected)
        : throw new InvalidOperationException($"The image is not whole: {_staged} of {_staging?.Length ?? 0} bytes are here. Send again; it goes on from there.");

    /// <summary>Makes a program ready for what was sent, if it is sound. Touches no device.</summary>
    /// <exception cref="InvalidOperationException">It is damaged or cannot run.</exception>
    public static ReadyProgram MakeReady(SentImage sent)
    {
        if (HostKinds.HashOf(sent.Bytes) != sent.Expected) throw new InvalidOperationException("The image was damaged on the way: its hash differs. The old program goes on running; send again.");
        return new ReadyProgram(sent.Bytes, Start(sent.Kind, sent.Bytes));
    }

    /// <summary>Changes over to what was made ready; the old program's memory goes on where identities match. Loader and software parts take the place of those there.</summary>
    /// <exception cref="InvalidOperationException">Something else has been sent since; the old program goes on.</exception>
    public void ChangeOver(ReadyProgram ready, string by, long at, IReadOnlyList<(InstalledPart Part, FirmwareHead? Head)>? parts = null)
    {
        if (!ReferenceEquals(ready.Bytes, _staging)) throw new InvalidOperationException("Somebody else has sent another image since. The old program goes on running; send again.");
        if (Program is { } old && old.MemoryType == ready.Program.MemoryType) ready.Program.Recall(old.Remember(), Resumption.TakesOver);
        Slot = Program is null ? null : new DeviceSlot(ImageBytes!, Hash, Version, Door?.Parts ?? []);
        (Program, ImageBytes, Hash, SentBy, SentAt) = (ready.Program, ready.Bytes, _expected, by, at);
        Version++;
        _staging = null;
        _staged = 0;
        _parts.Clear();
        if (parts is not { Count: > 0 } || Door is not { } door) return;
        var fresh = parts.ToDictionary(p => p.Part.Key);
        string? wrong = parts.Where(p => p.Head is not { } head || head.Model != door.ModelId || head.Part != p.Part.Key).Select(p => p.Head is { } h && h.Part == p.Part.Key ? $"the part ‘{p.Part.Key}’ is made for the model {h.Model} and this is a {door.ModelId}" : $"the part ‘{p.Part.Key}’ is not what it says it is").FirstOrDefault();
        Door = door with { Parts = [.. door.Parts.Where(p => !fresh.ContainsKey(p.Key)), .. parts.Select(p => p.Part)], WillNotStart = wrong };
    }

    /// <summary>
    /// Rehearses a change-over: another program takes up what this one remembers and what stands at its terminals, and runs once;
    /// so does one of what runs already, since a loop that goes on a step is not the other's doing. Nothing here changes.
    /// Answers every point whose value would be another, and what would go on.
    /// </summary>
    public Rehearsal Rehearse(ReadyProgram present, ReadyProgram ready, long now)
    {
        if (Program is not { } runs) return Rehearsal.Nothing;
        IDeviceProgram old = present.Program, next = ready.Program;
        RunOnce(runs, old, now);
        RunOnce(runs, next, now);
        var there = next.Home.ToHashSet();
        List<PointMove> moves = [.. old.Home.Where(p => !there.Contains(p)).Select(p => new PointMove(p, old.Read(p), null))];
        foreach (RecordId point in there)
        {
            Reading? before = old.Read(point), after = next.Read(point);
            if (before is not { } b || after is not { } a || !b.Value.Equals(a.Value) || b.Status != a.Status) moves.Add(new PointMove(point, before, after));
        }
        var logs = next.Trends.Select(t => t.Log.Id).ToHashSet();
        return new Rehearsal(moves, old.Holds.Count, next.Holds.Count, old.Trends.Count(), old.Trends.Count(t => logs.Contains(t.Log.Id)), old.LosesTo(next));
    }

    private static void RunOnce(IDeviceProgram runs, IDeviceProgram other, long now)
    {
        if (runs.MemoryType == other.MemoryType) other.Recall(runs.Remember(), Resumption.TakesOver);
        foreach (TerminalPort port in other.Ports.OfType<TerminalPort>())
        {
            foreach (TerminalPort had in runs.Ports.OfType<TerminalPort>())
            {
                for (int i = 0; i < port.Terminals.Count; i++)
                {
                    if (had.IndexOf(port.Terminals[i]) is >= 0 and var at) port.Inputs[i] = had.Inputs[at];
                }
            }
        }
        other.Start = new DeviceStart(RestartReason.ActivateChanges, now, SystemStatus.Operational);
        other.Run(now);
    }

    /// <summary>The slot of what was there before, until the new has proved itself.</summary>
    public DeviceSlot? Slot { get; set; }

    /// <summary>For how long a program that took over is on trial: one that fails within that gives way to the one before it, ms of site time.</summary>
    public const int TrialMilliseconds = 30_000;

    /// <summary>
    /// Takes note that the program has failed while it ran. One on trial gives way to the program before it, which takes up
    /// what it remembers; any other is stopped, its outputs at rest. Either way the device lives and says why.
    /// </summary>
    public void Fail(string why, long now)
    {
        if (Slot is not null && Life.Reason == RestartReason.ActivateChanges && now - Life.StartedAt <= TrialMilliseconds) GoBackToSlot(now, $"failed: {why}", startsAgain: false);
        else Life = Life.Failed(now, why);
        _silent = null;
        _ = Front;
    }

    /// <summary>The life when the present phase has come to its end. A runtime that does not come up gives way to what was there before.</summary>
    internal DeviceLife Advance(uint chance)
    {
        if (Life.Phase != DevicePhase.Runtime || Door is not { WillNotStart: { } why } door) return Life.Advance(chance);
        if (!Life.IsWatched) return Life.Watched(why);
        if (Slot is null)
        {
            // There is nothing to go back to: it waits for parts that are right.
            Door = door with { WillNotStart = null, Parts = [.. door.Parts.Where(p => p.Layer == PartLayer.Loader)] };
            return Life.Failed(Life.Until, $"the runtime did not come up: {why}.");
        }
        GoBackToSlot(Life.Until, $"did not come up in {DeviceLife.WatchMilliseconds / 1000} s: {why}.", startsAgain: true);
        return Life;
    }

    private void GoBackToSlot(long now, string why, bool startsAgain)
    {
        DeviceSlot before = Slot!;
        object? kept = Kept();
        IDeviceProgram old = Start(Kind, before.Image);
        if (kept is not null && old.MemoryType == kept.GetType()) old.Recall(kept, Resumption.TakesOver);
        (Program, ImageBytes, Hash, Slot) = (old, before.Image, before.Hash, null);
        if (Door is { } door) Door = door with { Parts = before.Parts, WillNotStart = null };
        int failed = Version++;
        Life = Life.WentBack(now, $"version {failed} {why} The program of version {before.Version} runs again, as version {Version}", startsAgain);
    }

    // What failed may not be able to tell what it remembers either.
    private object? Kept()
    {
        try
        {
            return Program?.Remember();
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return null;
        }
    }

    /// <summary>What it runs now, to go back to when a change-over cannot be written down.</summary>
    public DevicePresent Present => new(Program, ImageBytes, Hash, Version, SentBy, SentAt, _staging, _staged, Door, Slot);

    /// <summary>Goes back to what <see cref="Present"/> was.</summary>
    public void GoBack(DevicePresent to) => (Program, ImageBytes, Hash, Version, SentBy, SentAt, _staging, _staged, Door, Slot) = to;

    /// <summary>
    /// Starts again from a kept image and, as JSON, what its program remembered; null for nothing. What was kept with the site's
    /// clock goes on as if nothing had been; what was kept before, and should have run since, was off meanwhile.
    /// </summary>
    /// <exception cref="InvalidOperationException">The image cannot run; the message says why.</exception>
    public void Restart(byte[] image, byte[]? memory, long now, int version, string sentBy, long sentAt)
    {
        IDeviceProgram program = Recalled(image, memory, Resumption.GoesOn);
        if (program.NextDue < now) program = Recalled(image, memory, Resumption.AfterPause);
        (Program, ImageBytes, Hash, Version, SentBy, SentAt) = (program, image, HostKinds.HashOf(image), version, sentBy, sentAt);
    }

    private IDeviceProgram Recalled(byte[] image, byte[]? memory, Resumption how)
    {
        IDeviceProgram program = Start(Kind, image);
        if (memory is not null && JsonSerializer.Deserialize(memory, program.MemoryType, RecordJson.Options) is { } kept) program.Recall(kept, how);
        return program;
    }

    private static IDeviceProgram Start(string kind, byte[] bytes)
    {
        try
        {
            IImageBuilder builder = HostKinds.Find(kind);
            return builder.Start(builder.Read(bytes));
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or KeyNotFoundException or ArgumentException or TimeZoneNotFoundException)
        {
            throw new InvalidOperationException($"The image cannot run: {e.Message} The old program goes on running.", e);
        }
    }
}

/// <summary>An image as it was sent: of which kind of thing, its bytes, and the hash that was promised.</summary>
public sealed record SentImage(string Kind, byte[] Bytes, string Expected);

/// <summary>An image that is whole and sound, with a program that waits to take over.</summary>
public sealed record ReadyProgram(byte[] Bytes, IDeviceProgram Program);

/// <summary>The second slot of a device: what it ran before, with the parts that belong to it.</summary>
public sealed record DeviceSlot(byte[] Image, string Hash, int Version, IReadOnlyList<InstalledPart> Parts);

/// <summary>All that a change-over changes of a device.</summary>
public sealed record DevicePresent(IDeviceProgram? Program, byte[]? Image, string Hash, int Version, string SentBy, long SentAt, byte[]? Staging, int Staged, DeviceDoor? Door, DeviceSlot? Slot);
