using System.Collections.Concurrent;
using System.Diagnostics;
using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using System.Text.Json;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Records;
using LoftyWren.Storage;
using LoftyWren.Storage.Site;
using LoftyWren.VirtualSite;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Plant;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Server.Installation;

/// <summary>The clock as it is kept. Plan and controllers are where older versions kept them; now each has a part of its own.</summary>
internal sealed record ClockMemory(int Speed, bool Running, long? Now = null, SitePlan? Plan = null, Dictionary<RecordId, ControllerMemory>? Controllers = null);

internal sealed record ControllerMemory(int Version, string SentBy, long SentAt, IReadOnlyList<Wire>? Wires = null, string? Kind = null);

/// <summary>
/// Runs a virtual site: moves its clock, and keeps its state in a store of its own. The site server reaches it over a link,
/// whether it is in the same process or in another; nothing here knows of the project. Everybody takes turns.
/// </summary>
/// <param name="store">Where the site is kept.</param>
/// <param name="clock">The clock of this machine.</param>
/// <param name="log">Where troubles go.</param>
/// <param name="seal">What the certificates and credentials of devices are sealed with in the store; null leaves them open, for tests alone.</param>
public sealed partial class SiteHost(SiteStore store, TimeProvider clock, ILogger log, IDataProtector? seal = null) : BackgroundService, IVirtualSite
{
    /// <summary>What the seal of the certificates and credentials of devices is for.</summary>
    public const string SealPurpose = "LoftyWren.Site";

    /// <summary>The speeds of the site clock, as multiples of real time.</summary>
    public static IReadOnlyList<int> Speeds { get; } = [1, 60, 600, 3600];

    // Who writes what the site keeps takes the pen first and then a turn, so that nothing older is written over what is newer.
    private readonly Lock _pen = new(), _turn = new();
    private const int DevicesAtOnce = 8, SliceMilliseconds = 15, BeatMilliseconds = 1000;

    /// <summary>After a kill somebody may have seen more alarm events than were kept; the next are numbered well beyond.</summary>
    private const int EventsBeyond = 1_000_000;

    private readonly Dictionary<RecordId, string> _keptImages = [];
    private readonly Dictionary<RecordId, DeviceLife> _keptLives = [];
    private readonly Dictionary<RecordId, DeviceDoor> _keptDoors = [];
    private readonly HashSet<RecordId> _gone = [];
    private readonly Dictionary<RecordId, (InstalledDevice Device, IDeviceProgram Program)> _indexed = [];
    private SitePlan? _keptPlan;
    private readonly Dictionary<RecordId, IReadOnlyList<Wire>> _keptWires = [];
    private readonly ConditionalWeakTable<object, byte[]> _made = [];
    private int _keptBuild = -1;
    private readonly ConcurrentDictionary<RecordId, InstalledDevice> _homes = [], _runs = [];
    private Site _site = new(new SitePlan(), 0);
    private int _speed = 1;
    private bool _isOpen;
    private string? _trouble, _standsStill;
    private double _actualSpeed;

    /// <summary>The moment at which the clock of a new site begins, in Unix ms.</summary>
    public static long Beginning { get; } = new DateTimeOffset(2026, 4, 14, 7, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();

    /// <summary>Counts the programs that were ever changed over to, from anywhere, so that no two processes count alike: what was found by it holds while it stands. Only within a turn.</summary>
    public int Generation { get; private set; } = RandomNumberGenerator.GetInt32(1 << 30);

    /// <summary>Whether the clock runs.</summary>
    public bool Running { get; private set; }

    /// <summary>Takes up the kept site, or makes a new one at a moment of site time. Answers whether there was one.</summary>
    public bool Open(long startAt)
    {
        lock (_turn)
        {
            if (_isOpen) return true;
            _isOpen = true;
            var parts = store.Read();
            if (!parts.TryGetValue("site", out byte[]? head))
            {
                _site = new Site(new SitePlan(), startAt);
                Running = true;
                return false;
            }
            ClockMemory memory = JsonSerializer.Deserialize<ClockMemory>(head, RecordJson.Options)!;
            SitePlan plan = memory.Plan ?? (parts.TryGetValue("plan", out byte[]? drawn) ? JsonSerializer.Deserialize<SitePlan>(drawn, RecordJson.Options)! : new SitePlan());
            var controllers = memory.Controllers ?? parts.Where(p => p.Value.Length > 0 && p.Key.StartsWith(ControllerPart, StringComparison.Ordinal)).ToDictionary(p => new RecordId(p.Key[ControllerPart.Length..]), p => JsonSerializer.Deserialize<ControllerMemory>(p.Value, RecordJson.Options)!);
            // Older versions kept the wires with the plan, or with their controllers.
            var wires = parts.Where(p => p.Key.StartsWith(WiresPart, StringComparison.Ordinal)).ToDictionary(p => new RecordId(p.Key[WiresPart.Length..]), p => JsonSerializer.Deserialize<List<Wire>>(p.Value, RecordJson.Options)!);
            IEnumerable<Wire> all = [.. plan.Wires, .. controllers.Where(c => !wires.ContainsKey(c.Key)).OrderBy(c => c.Key).SelectMany(c => c.Value.Wires ?? []), .. wires.OrderBy(w => w.Key).SelectMany(w => w.Value)];
            _site = new Site(plan with { Wires = [.. all.Select(Directed)] }, startAt);
            SiteMemory site = parts.TryGetValue("plant", out byte[]? plant) ? SiteMemory.FromBytes(plant) : new SiteMemory { Now = memory.Now ?? startAt };
            long now = Math.Max(site.Now, memory.Now ?? 0);
            // Whoever was not stopped in order may have run on after what was kept last, and been heard.
            bool isStopped = parts.TryGetValue(StoppedPart, out byte[]? stopped) && stopped is [1];
            if (isStopped) store.Write([(StoppedPart, [0])]);
            foreach (var (id, kept) in controllers)
            {
                InstalledDevice device = _site.Mount(id, kept.Kind ?? ControllerImageBuilder.KindKey);
                if (parts.TryGetValue($"door/{id}", out byte[]? door) && door.Length > 0) device.Door = DoorOf(door);
                if (parts.TryGetValue($"life/{id}", out byte[]? life) && life.Length > 0) device.Revive(JsonSerializer.Deserialize<DeviceLife>(life, RecordJson.Options)!);
                if (!parts.TryGetValue($"image/{id}", out byte[]? image) || image.Length == 0) continue;
                if (parts.TryGetValue($"slot/{id}", out byte[]? slot) && slot.Length > 0) device.Slot = JsonSerializer.Deserialize<DeviceSlot>(slot, RecordJson.Options);
                device.Restart(image, parts.GetValueOrDefault($"memory/{id}") is { Length: > 0 } memoryOf ? memoryOf : null, now, kept.Version, kept.SentBy, kept.SentAt);
                // Installed before there were connections: met like one out of its box, but that it runs on and its clock is right.
                device.Door ??= Unmet(device, now);
                if (!isStopped) device.Program!.NumberEventsAfter(device.Program.LastEventNumber + EventsBeyond);
            }
            // What somebody commanded is written with the clock of that moment; the plant is written with the rest, a little later.
            _site.Recall(site with
            {
                Now = now,
                InputHolds = parts.TryGetValue("holds", out byte[]? holds) ? JsonSerializer.Deserialize<List<InputHold>>(holds, RecordJson.Options)! : site.InputHolds,
            });
            (_speed, Running) = (memory.Speed, memory.Running);
            Index(_site.Devices.Values);
            if (parts.ContainsKey("plan")) _keptPlan = _site.Built;
            // Kept as older versions did, all in one part: before anything is written beside it, each gets its own.
            if (memory.Controllers is not null) Write([.. _site.Devices.Values.SelectMany(Of), .. Clock(hasPlant: true)]);
            OpenDoors();
            OpenGates();
            return true;
        }
    }

    // Older versions kept doors open; one that was sealed on another machine is met like one out of its box.
    private DeviceDoor? DoorOf(byte[] kept)
    {
        try
        {
            return JsonSerializer.Deserialize<DeviceDoor>(kept[0] == '{' || seal is null ? kept : seal.Unprotect(kept), RecordJson.Options);
        }
        catch (CryptographicException)
        {
            log.LogWarning("The certificate of a device of the virtual site was sealed on another machine; the device is as out of its box.");
            return null;
        }
    }

    private static DeviceDoor Unmet(InstalledDevice device, long now)
    {
        IHostImage image = device.Program!.Image;
        string model = (image.Host as Controller)?.ModelId ?? image.Host.Noun;
        string loader = (Catalogue.Shipped.FirstOrDefault(m => m.Id == model) ?? image.Records.OfType<OwnModel>().FirstOrDefault(m => m.Model.Id == model)?.Model)?.Loader ?? "1.0";
        return DeviceDoor.OutOfTheBox(model, loader, ImageParts.LoaderKilobytes * 1024, Firmware.HashOf(model, ImageParts.Loader, loader, ImageParts.LoaderKilobytes), now, new LinkQuality(20_000, 0, 1), Chance.SeedOf(device.Id.Value)).WithClock(now, now);
    }

    // Older versions had one model of controller and told by the terminal's letters which way a wire goes.
    private static Wire Directed(Wire wire) => wire.Direction is null ? wire with { Direction = wire.Terminal.StartsWith("RO", StringComparison.Ordinal) || wire.Terminal.StartsWith("AO", StringComparison.Ordinal) ? Direction.Out : Direction.In } : wire;

    /// <summary>Has a turn with the site.</summary>
    public T Ask<T>(Func<Site, T> question)
    {
        lock (_turn) return question(_site);
    }

    /// <summary>Has a turn with the site.</summary>
    public void Ask(Action<Site> deed)
    {
        lock (_turn) deed(_site);
    }

    /// <summary>
    /// Lets somebody do something to the installation: it is done, and with what it changed the state and the trail are
    /// written in one transaction before anybody sees it; what cannot be written is taken back as if it had never been.
    /// </summary>
    /// <param name="who">Who does it.</param>
    /// <param name="what">What the trail says of it.</param>
    /// <param name="record">The record it is about.</param>
    /// <param name="change">Does it; answers how to take it back, or null when there was nothing to do.</param>
    /// <param name="touched">The controllers that it changes.</param>
    /// <returns>Whether it was done.</returns>
    /// <exception cref="StorageException">It could not be written, and was not done.</exception>
    public bool Command(string who, string what, RecordId? record, Func<Site, Action?> change, params IEnumerable<RecordId> touched) => Kept((who, what, record), change, touched);

    /// <summary>As <see cref="Command"/>; what a device does of itself when somebody has signed in there leaves no trail of its own.</summary>
    private bool Kept((string Who, string What, RecordId? Record)? trail, Func<Site, Action?> change, IEnumerable<RecordId> touched)
    {
        lock (_pen)
        {
            lock (_turn)
            {
                if (change(_site) is not { } undo) return false;
                InstalledDevice[] changed = [.. touched.Distinct().Select(id => _site.Devices.GetValueOrDefault(id)).OfType<InstalledDevice>()];
                try
                {
                    Index(changed);
                    Write([.. Clock(hasPlant: false), .. changed.SelectMany(Of)], trail is { } t ? [new TrailEntry(0, clock.GetUtcNow().ToUnixTimeMilliseconds(), _site.Now, t.Who, t.What, t.Record)] : []);
                }
                catch (Exception e) when (e is SqliteException or IOException)
                {
                    undo();
                    Index(changed);
                    throw new StorageException(e is SqliteException sqlite ? StorageTrouble.Say(sqlite, store.Database.FilePath) : $"The site's state could not be written: {e.Message} Nothing was changed.");
                }
            }
        }
        Interlocked.Increment(ref _happenings);
        return true;
    }

    /// <summary>What a point lives on, as installed, or null. Only within a turn.</summary>
    public InstalledDevice? HomeOf(RecordId point) => _homes.GetValueOrDefault(point);

    /// <summary>The id of what a point lives on, or nothing: what a command touches that is about the point. Found when it is gone through, in the command's own turn, so that a point that has moved meanwhile is kept where it is.</summary>
    public IEnumerable<RecordId> HomesOf(RecordId point)
    {
        if (_homes.TryGetValue(point, out InstalledDevice? home)) yield return home.Id;
    }

    /// <summary>The clock.</summary>
    public ClockView Clock()
    {
        lock (_turn) return new ClockView(_site.Now, Running, _speed, Math.Round(_actualSpeed), _site.Built.TimeZone, Math.Round(_site.Plant.Weather.Temperature, 1), HeldCount(), _trouble ?? _standsStill);
    }

    /// <summary>Pauses, runs, changes speed, or takes steps of one second while paused.</summary>
    public void SetClock(string who, bool? running, int? speed, int? stepSeconds)
    {
        string what = string.Join(", ", new[]
        {
            speed is { } s ? $"Set the site clock to {s}×" : null,
            running is { } r ? r ? "Let the site clock run" : "Paused the site clock" : null,
            stepSeconds is { } seconds ? $"Moved the paused site clock on by {seconds} s" : null,
        }.OfType<string>());
        if (what.Length == 0) return;
        Command(who, what, null, site =>
        {
            var before = (Running, _speed);
            (Running, _speed) = (stepSeconds is null && (running ?? Running), speed ?? _speed);
            return () => (Running, _speed) = before;
        });
        if (stepSeconds is not { } step) return;
        long until;
        lock (_turn) until = _site.Now + (step * 1000L);
        // A long step goes in slices, so that everybody else has a turn between them.
        while (true)
        {
            lock (_turn)
            {
                if ((_trouble ?? _standsStill) is { } trouble) throw new StorageException(trouble);
                long sliceEnd = Stopwatch.GetTimestamp() + (Stopwatch.Frequency * SliceMilliseconds / 1000);
                while (_site.Now < until && Stopwatch.GetTimestamp() < sliceEnd) RunTo(Math.Min(until, _site.Now + (Plant.StepSeconds * 1000)));
                if (_site.Now >= until) return;
            }
            Thread.Sleep(1);
        }
    }

    /// <summary>Runs on; a device that started meanwhile is found anew. Only within a turn.</summary>
    private void RunTo(long milliseconds)
    {
        long ended = _site.HoldsEnded;
        _site.RunUntil(milliseconds);
        if (_site.HoldsEnded != ended) Interlocked.Increment(ref _happenings);
        if (_site.Lives == _knownLives) return;
        _knownLives = _site.Lives;
        Generation++;
        Index(_site.Devices.Values);
        Interlocked.Increment(ref _happenings);
    }

    private long _knownLives;

    /// <inheritdoc/>
    public long RunAhead(long milliseconds)
    {
        lock (_turn)
        {
            RunTo(Math.Min(milliseconds, _site.Now + 600_000));
            return _site.Now;
        }
    }

    /// <inheritdoc/>
    public void Keep() => Save();

    /// <inheritdoc/>
    public void StandStill(string? why)
    {
        lock (_turn) _standsStill = why;
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        // A thread of its own: the site's clock must not wait for requests, nor they for it longer than a slice.
        await Task.Factory.StartNew(() => Run(stopping), stopping, TaskCreationOptions.LongRunning, TaskScheduler.Default);
    }

    private void Run(CancellationToken stopping)
    {
        long last = Stopwatch.GetTimestamp(), lastSave = last, measuredFrom = last;
        double owed = 0;
        long measured = 0;
        bool isBehind = false;
        // Between two slices everybody else may have a turn; behind time, only just.
        // Whoever speaks to a bus line waits for each answer: it goes on in shorter steps then.
        while (!stopping.WaitHandle.WaitOne(isBehind ? 2 : IsGateOpen ? 10 : 50))
        {
            try
            {
                double passed = Stopwatch.GetElapsedTime(last).TotalMilliseconds;
                last = Stopwatch.GetTimestamp();
                lock (_turn)
                {
                    // Nothing is simulated that could not be written down: the site stands still until there is room again.
                    owed = Running && _trouble is null && _standsStill is null ? Math.Min(owed + (passed * _speed), 2000.0 * _speed) : 0;
                    long sliceEnd = Stopwatch.GetTimestamp() + (Stopwatch.Frequency * SliceMilliseconds / 1000);
                    while (owed >= 1)
                    {
                        // As far as the plant's next step at most, so that a slice ends in time.
                        long piece = Math.Min((long)owed, Plant.StepSeconds * 1000);
                        RunTo(_site.Now + piece);
                        owed -= piece;
                        measured += piece;
                        if (Stopwatch.GetTimestamp() > sliceEnd) break;
                    }
                    isBehind = owed >= BeatMilliseconds;
                }
                double window = Stopwatch.GetElapsedTime(measuredFrom).TotalMilliseconds;
                if (window > 2000) (_actualSpeed, measured, measuredFrom) = (measured / window, 0, Stopwatch.GetTimestamp());
                bool isInTrouble = _trouble is not null;
                if (Stopwatch.GetElapsedTime(lastSave).TotalSeconds > (isInTrouble ? 2 : 5))
                {
                    lastSave = Stopwatch.GetTimestamp();
                    if (_isOpen) Save();
                    _trouble = null;
                }
            }
            catch (SqliteException e) when (StorageTrouble.Is(e))
            {
                string trouble = $"The site stands still: {StorageTrouble.Say(e, Path.GetDirectoryName(store.Database.FilePath)!)}";
                if (_trouble is null) log.LogWarning("{Trouble}", trouble);
                _trouble = trouble;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                log.LogError(e, "The virtual site stopped: {Message}. The clock is paused.", e.Message);
                lock (_turn) Running = false;
            }
        }
        CloseDoors();
        CloseGates();
        try
        {
            if (_isOpen)
            {
                Save();
                store.Write([(StoppedPart, [1])]);
            }
        }
        catch (SqliteException e)
        {
            log.LogWarning("The last state of the site could not be written: {Message}", StorageTrouble.Say(e, store.Database.FilePath));
        }
    }

    private int HeldCount() => _site.InputHolds.Count + _site.Devices.Values.Sum(d => d.Program?.Holds.Count ?? 0);

    /// <summary>Notes of everything whose program is another than before which points are at home on it, and which other records it runs.</summary>
    private void Index(IEnumerable<InstalledDevice> devices)
    {
        foreach (InstalledDevice device in devices)
        {
            bool wasThere = _indexed.TryGetValue(device.Id, out var before);
            if (wasThere ? before.Device == device && ReferenceEquals(before.Program, device.Program) : device.Program is null) continue;
            Forget(device.Id);
            if (device.Program is not { } program) continue;
            _indexed[device.Id] = (device, program);
            foreach (RecordId point in program.Home) _homes[point] = device;
            foreach (ProjectRecord record in program.Image.Records) _runs[record.Id] = device;
        }
        if (_indexed.Count > _site.Devices.Count)
        {
            foreach (RecordId gone in _indexed.Keys.Where(id => !_site.Devices.ContainsKey(id)).ToList()) Forget(gone);
        }

        void Forget(RecordId id)
        {
            Generation++;
            if (!_indexed.Remove(id, out var was)) return;
            foreach (RecordId point in was.Program.Home) Off(_homes, point, was.Device);
            foreach (ProjectRecord record in was.Program.Image.Records) Off(_runs, record.Id, was.Device);
        }

        static void Off(ConcurrentDictionary<RecordId, InstalledDevice> on, RecordId id, InstalledDevice device)
        {
            if (on.TryGetValue(id, out InstalledDevice? home) && home == device) on.TryRemove(id, out _);
        }
    }

    private const string ControllerPart = "controller/", WiresPart = "wires/", StoppedPart = "stopped";

    /// <summary>A part of what is kept: taken in a turn, made into bytes outside of it where there is time.</summary>
    private sealed record Part(string Key, Func<byte[]> Bytes, Action? Kept = null);

    private Part Json<T>(string key, T value) where T : class => new(key, () => _made.TryGetValue(value, out byte[]? bytes) ? bytes : JsonSerializer.SerializeToUtf8Bytes(value, RecordJson.Options));

    /// <summary>A part that is sealed where there is a seal: what opens a device does not lie open in a file.</summary>
    private Part Sealed<T>(string name, T value) => new(name, () => JsonSerializer.SerializeToUtf8Bytes(value, RecordJson.Options) is var open && seal is not null ? seal.Protect(open) : open);

    /// <summary>Makes the bytes of something that will be kept within a turn before that turn.</summary>
    private void MakeBytes<T>(T value) where T : class => _made.AddOrUpdate(value, JsonSerializer.SerializeToUtf8Bytes(value, RecordJson.Options));

    /// <summary>Clock, plan and inputs held, with or without the plant. Only within a turn.</summary>
    private List<Part> Clock(bool hasPlant)
    {
        SitePlan plan = _site.Built;
        var parts = new List<Part> { Json("site", new ClockMemory(_speed, Running, _site.Now)), Json("holds", _site.InputHolds.ToList()) };
        bool isBuiltAnew = _keptPlan is null || !_keptPlan.IsBuiltLike(plan);
        if (isBuiltAnew) parts.Add(Json("plan", plan) with { Kept = () => _keptPlan = plan });
        if (_site.Builds is var builds && builds != _keptBuild)
        {
            foreach (RecordId host in _site.WiredHosts.Concat(_keptWires.Keys).Distinct())
            {
                IReadOnlyList<Wire> wires = _site.WiresOf(host);
                if (!ReferenceEquals(_keptWires.GetValueOrDefault(host), wires)) parts.Add(Json($"{WiresPart}{host}", wires) with { Kept = () => _keptWires[host] = wires });
            }
            parts[0] = parts[0] with { Kept = () => _keptBuild = builds };
        }
        foreach (RecordId gone in _gone.Where(g => !_site.Devices.ContainsKey(g)))
        {
            foreach (string part in (string[])[ControllerPart, "door/", "life/", "image/", "slot/", "memory/"]) parts.Add(new Part($"{part}{gone}", () => [], () => _gone.Remove(gone)));
            _keptImages.Remove(gone);
            _keptDoors.Remove(gone);
            _keptLives.Remove(gone);
        }
        if (hasPlant)
        {
            Func<SiteMemory> copy = _site.Copy();
            parts.Add(new Part("plant", () => copy().ToBytes()));
        }
        return parts;
    }

    /// <summary>What is kept of something installed. Only within a turn.</summary>
    private List<Part> Of(InstalledDevice controller)
    {
        var parts = new List<Part>();
        if (controller.Door is { } door && !ReferenceEquals(_keptDoors.GetValueOrDefault(controller.Id), door)) parts.Add(Sealed($"door/{controller.Id}", door) with { Kept = () => _keptDoors[controller.Id] = door });
        if (controller.Life is var life && !ReferenceEquals(_keptLives.GetValueOrDefault(controller.Id), life)) parts.Add(Json($"life/{controller.Id}", life) with { Kept = () => _keptLives[controller.Id] = life });
        // An image is large and changes only when it is sent; what a controller remembers changes all the time.
        string hash = $"{controller.Version} {controller.Hash}";
        if (_keptImages.GetValueOrDefault(controller.Id) != hash && (controller.ImageBytes is not null || controller.Door is not null))
        {
            byte[] image = controller.ImageBytes ?? [];
            parts.Add(Json($"{ControllerPart}{controller.Id}", new ControllerMemory(controller.Version, controller.SentBy, controller.SentAt, Kind: controller.Kind)));
            parts.Add(new Part($"image/{controller.Id}", () => image, () => _keptImages[controller.Id] = hash));
            // What it ran before stays beside it for as long as it may have to go back.
            DeviceSlot? slot = controller.Slot;
            parts.Add(new Part($"slot/{controller.Id}", () => slot is null ? [] : JsonSerializer.SerializeToUtf8Bytes(slot, RecordJson.Options)));
        }
        if (controller.Program is not { } program) return parts;
        object memory = program.Remember(_written);
        parts.Add(new Part($"memory/{controller.Id}", () => JsonSerializer.SerializeToUtf8Bytes(memory, memory.GetType(), RecordJson.Options)));
        return parts;
    }

    private void Write(List<Part> parts, params IEnumerable<TrailEntry> done)
    {
        store.Write(parts.Select(p => (p.Key, p.Bytes())), done);
        foreach (Part part in parts) part.Kept?.Invoke();
    }

    /// <summary>Writes all that the site keeps, a few controllers at a time, so that nobody waits long for a turn or for the pen.</summary>
    private void Save()
    {
        InstalledDevice[] all;
        lock (_turn) all = [.. _site.Devices.Values];
        foreach (InstalledDevice[] some in all.Chunk(DevicesAtOnce)) SaveSome(() => [.. some.SelectMany(Of)]);
        SaveSome(() => Clock(hasPlant: true));
    }

    private void SaveSome(Func<List<Part>> take)
    {
        lock (_pen)
        {
            List<Part> parts;
            lock (_turn) parts = take();
            Write(parts);
        }
    }

    /// <inheritdoc/>
    public void Trail(string who, string what, RecordId? record) => store.Write([], new TrailEntry(0, clock.GetUtcNow().ToUnixTimeMilliseconds(), Ask(s => s.Now), who, what, record));

    /// <inheritdoc/>
    public IReadOnlyList<TrailEntry> TrailPage(long below, int count) => store.TrailPage(below, count);
}
