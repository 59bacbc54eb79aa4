using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text.Json;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using LoftyWren.Storage;
using LoftyWren.Storage.History;
using LoftyWren.Storage.Site;
using LoftyWren.VirtualSite;
using LoftyWren.VirtualSite.Controllers;
using LoftyWren.VirtualSite.Plant;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Server.Installation;

/// <summary>The site clock as screens show it. ActualSpeed tells how many seconds of site time a second really brings when the machine cannot keep the speed; Trouble, why the site stands still although its clock is set to run.</summary>
public sealed record ClockView(long Now, bool Running, int Speed, double ActualSpeed, string TimeZone, double Outdoor, int Held, string? Trouble);

/// <summary>The clock as it is kept. Plan and controllers are where older versions kept them; now each has a part of its own.</summary>
internal sealed record ClockMemory(int Speed, bool Running, long? Now = null, SitePlan? Plan = null, Dictionary<RecordId, ControllerMemory>? Controllers = null);

internal sealed record ControllerMemory(int Version, string SentBy, long SentAt, IReadOnlyList<Wire>? Wires = null);

/// <summary>
/// Runs the virtual site inside the server: moves its clock, collects trends and alarm events, and keeps its state in a
/// store of its own. Everybody else takes turns through <see cref="Ask{T}"/>.
/// </summary>
public sealed class SiteHost(SiteStore store, HistoryStore history, TimeProvider clock, ILogger<SiteHost> log) : BackgroundService
{
    /// <summary>The speeds of the site clock, as multiples of real time.</summary>
    public static IReadOnlyList<int> Speeds { get; } = [1, 60, 600, 3600];

    // Who writes what the site keeps takes the pen first and then a turn, so that nothing older is written over what is newer.
    private readonly Lock _pen = new(), _turn = new(), _collecting = new(), _drawing = new();
    private const int ControllersAtOnce = 8, SliceMilliseconds = 15;
    private readonly Dictionary<RecordId, string> _keptImages = [];
    private readonly Dictionary<RecordId, ControllerEngine> _indexed = [];
    private (Project? Project, SitePlan Plan) _drawn = (null, new SitePlan());
    private SitePlan? _keptPlan;
    private readonly Dictionary<RecordId, long> _collected = [];
    private readonly Dictionary<RecordId, long> _eventsSeen = [];
    private readonly ConcurrentDictionary<RecordId, InstalledController> _homes = [];
    private Site _site = new(new SitePlan(), 0);
    private int _speed = 1;
    private string? _trouble;
    private double _actualSpeed;

    /// <summary>The moment at which the clock of a new site begins, in Unix ms.</summary>
    public static long Beginning { get; } = new DateTimeOffset(2026, 4, 14, 7, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();

    /// <summary>Counts the programs that were ever changed over to: what was found by it holds while it stands. Only within a turn.</summary>
    public int Generation { get; private set; }

    /// <summary>Whether the clock runs.</summary>
    public bool Running { get; private set; }

    /// <summary>Told when alarm states changed or outputs were held or released.</summary>
    public event Action? EventsChanged;

    /// <summary>Takes up the kept site, or makes a new one at a moment of site time. Answers whether there was one.</summary>
    public bool Open(long startAt)
    {
        lock (_turn)
        {
            if (!store.HasTrail && history.OlderTrail() is { Count: > 0 } older) store.Write([], older);
            var parts = store.Read();
            if (!parts.TryGetValue("site", out byte[]? head))
            {
                _site = new Site(new SitePlan(), startAt);
                Running = true;
                return false;
            }
            ClockMemory memory = JsonSerializer.Deserialize<ClockMemory>(head, RecordJson.Options)!;
            SitePlan plan = memory.Plan ?? (parts.TryGetValue("plan", out byte[]? drawn) ? JsonSerializer.Deserialize<SitePlan>(drawn, RecordJson.Options)! : new SitePlan());
            var controllers = memory.Controllers ?? parts.Where(p => p.Key.StartsWith(ControllerPart, StringComparison.Ordinal)).ToDictionary(p => new RecordId(p.Key[ControllerPart.Length..]), p => JsonSerializer.Deserialize<ControllerMemory>(p.Value, RecordJson.Options)!);
            _site = new Site(plan with { Wires = [.. plan.Wires, .. controllers.OrderBy(c => c.Key).SelectMany(c => c.Value.Wires ?? [])] }, startAt);
            foreach (var (id, kept) in controllers)
            {
                InstalledController controller = _site.Mount(id);
                if (!parts.TryGetValue($"image/{id}", out byte[]? image)) continue;
                EngineMemory? engine = parts.TryGetValue($"memory/{id}", out byte[]? bytes) ? JsonSerializer.Deserialize<EngineMemory>(bytes, RecordJson.Options) : null;
                controller.Restart(image, engine, kept.Version, kept.SentBy, kept.SentAt);
                controller.Engine!.NumberEventsAfter(history.EventsSeen(id));
            }
            SiteMemory site = parts.TryGetValue("plant", out byte[]? plant) ? SiteMemory.FromBytes(plant) : new SiteMemory { Now = memory.Now ?? startAt };
            // What somebody commanded is written with the clock of that moment; the plant is written with the rest, a little later.
            _site.Recall(site with
            {
                Now = Math.Max(site.Now, memory.Now ?? 0),
                InputHolds = parts.TryGetValue("holds", out byte[]? holds) ? JsonSerializer.Deserialize<List<InputHold>>(holds, RecordJson.Options)! : site.InputHolds,
            });
            (_speed, Running) = (memory.Speed, memory.Running);
            Index(_site.Controllers.Values);
            if (parts.ContainsKey("plan")) _keptPlan = _site.Built;
            // Kept as older versions did, all in one part: before anything is written beside it, each gets its own.
            if (memory.Controllers is not null) Keep([.. _site.Controllers.Values.SelectMany(Of), .. Clock(hasPlant: true)]);
            return true;
        }
    }

    /// <summary>Has a turn with the site.</summary>
    public T Ask<T>(Func<Site, T> question)
    {
        lock (_turn) return question(_site);
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
    public bool Command(string who, string what, RecordId? record, Func<Site, Action?> change, params IEnumerable<RecordId> touched)
    {
        lock (_pen)
        {
            lock (_turn)
            {
                if (change(_site) is not { } undo) return false;
                InstalledController[] changed = [.. touched.Distinct().Select(id => _site.Controllers.GetValueOrDefault(id)).OfType<InstalledController>()];
                try
                {
                    Index(changed);
                    Keep([.. Clock(hasPlant: false), .. changed.SelectMany(Of)], new TrailEntry(0, clock.GetUtcNow().ToUnixTimeMilliseconds(), _site.Now, who, what, record));
                }
                catch (Exception e) when (e is SqliteException or IOException)
                {
                    undo();
                    Index(changed);
                    throw new StorageException(e is SqliteException sqlite ? StorageTrouble.Say(sqlite, store.Database.FilePath) : $"The site's state could not be written: {e.Message} Nothing was changed.");
                }
            }
        }
        EventsChanged?.Invoke();
        return true;
    }

    /// <summary>The controller that a point lives on, as installed, or null. Only within a turn.</summary>
    public InstalledController? HomeOf(RecordId point) => _homes.GetValueOrDefault(point);

    /// <summary>The id of the controller that a point lives on, or nothing: what a command touches that is about the point. Found when it is gone through, in the command's own turn, so that a point that has moved meanwhile is kept where it is.</summary>
    public IEnumerable<RecordId> HomesOf(RecordId point)
    {
        if (_homes.TryGetValue(point, out InstalledController? home)) yield return home.Id;
    }

    /// <summary>The present reading of a point on the site, or null when nothing installed knows it.</summary>
    public Reading? Read(RecordId point) => _homes.TryGetValue(point, out InstalledController? controller) ? controller.Engine?.Read(point) : null;

    /// <summary>The clock.</summary>
    public ClockView Clock()
    {
        lock (_turn) return new ClockView(_site.Now, Running, _speed, Math.Round(_actualSpeed), _site.Built.TimeZone, Math.Round(_site.Plant.Weather.Temperature, 1), HeldCount(), _trouble);
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
        lock (_turn)
        {
            if (_trouble is { } trouble) throw new StorageException(trouble);
            _site.RunUntil(_site.Now + (step * 1000L));
        }
        Collect();
    }

    /// <summary>Runs ahead to a moment of site time at once, collecting on the way; for preparing the demo.</summary>
    public void RunAheadTo(long milliseconds)
    {
        while (true)
        {
            lock (_turn)
            {
                if (_site.Now >= milliseconds) break;
                _site.RunUntil(Math.Min(milliseconds, _site.Now + 600_000));
                if (_site.Now + _site.StepMilliseconds > milliseconds) break;
            }
            Collect();
        }
        Collect();
        Save();
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        // A thread of its own: the site's clock must not wait for requests, nor they for it longer than a slice.
        await Task.Factory.StartNew(() => Run(stopping), stopping, TaskCreationOptions.LongRunning, TaskScheduler.Default);
    }

    private void Run(CancellationToken stopping)
    {
        long last = Stopwatch.GetTimestamp(), lastCollect = last, lastSave = last, measuredFrom = last;
        double owed = 0;
        long measured = 0;
        bool isBehind = false;
        // Between two slices everybody else may have a turn; behind time, only just.
        while (!stopping.WaitHandle.WaitOne(isBehind ? 2 : 50))
        {
            try
            {
                double passed = Stopwatch.GetElapsedTime(last).TotalMilliseconds;
                last = Stopwatch.GetTimestamp();
                lock (_turn)
                {
                    // Nothing is simulated that could not be written down: the site stands still until there is room again.
                    owed = Running && _trouble is null ? Math.Min(owed + (passed * _speed), 2000.0 * _speed) : 0;
                    long sliceEnd = Stopwatch.GetTimestamp() + (Stopwatch.Frequency * SliceMilliseconds / 1000);
                    while (owed >= _site.StepMilliseconds)
                    {
                        long from = _site.Now;
                        _site.RunUntil(from + Math.Clamp((long)owed, _site.StepMilliseconds, Plant.StepSeconds * 1000));
                        owed -= _site.Now - from;
                        measured += _site.Now - from;
                        if (Stopwatch.GetTimestamp() > sliceEnd) break;
                    }
                    isBehind = owed >= _site.StepMilliseconds;
                }
                double window = Stopwatch.GetElapsedTime(measuredFrom).TotalMilliseconds;
                if (window > 2000) (_actualSpeed, measured, measuredFrom) = (measured / window, 0, Stopwatch.GetTimestamp());
                bool isInTrouble = _trouble is not null;
                if (!isInTrouble && Stopwatch.GetElapsedTime(lastCollect).TotalMilliseconds > 250)
                {
                    lastCollect = Stopwatch.GetTimestamp();
                    Collect();
                }
                if (Stopwatch.GetElapsedTime(lastSave).TotalSeconds > (isInTrouble ? 2 : 5))
                {
                    lastSave = Stopwatch.GetTimestamp();
                    Save();
                    if (isInTrouble) Collect();
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
        try
        {
            Collect();
            Save();
        }
        catch (SqliteException e)
        {
            log.LogWarning("The last state of the site could not be written: {Message}", StorageTrouble.Say(e, store.Database.FilePath));
        }
    }

    /// <summary>Brings trend samples and alarm events home from the controllers.</summary>
    public void Collect()
    {
        lock (_collecting) CollectNow();
    }

    private void CollectNow()
    {
        var batches = new List<(RecordId, IReadOnlyList<Sample>, long)>();
        var events = new List<(RecordId Controller, List<(long, Core.Alarms.AlarmRule, Core.Alarms.EventState, long, double)> Events)>();
        lock (_turn)
        {
            foreach (InstalledController controller in _site.Controllers.Values)
            {
                if (controller.Engine is not { } engine) continue;
                foreach (var (trend, buffer) in engine.Trends)
                {
                    if (!_collected.TryGetValue(trend.Id, out long known)) _collected[trend.Id] = known = history.Collected(trend.Id);
                    // A buffer that counts less than was collected began anew, after a crash or on another controller.
                    if (buffer.Total < known) known = 0;
                    if (buffer.Total == known) continue;
                    batches.Add((trend.Id, buffer.After(known, int.MaxValue), buffer.Total));
                }
                if (!_eventsSeen.TryGetValue(controller.Id, out long seen)) _eventsSeen[controller.Id] = seen = history.EventsSeen(controller.Id);
                if (engine.LastEventNumber <= seen) continue;
                var rules = engine.Alarms.ToDictionary(a => a.Rule.Id, a => a.Rule);
                var fresh = engine.EventsAfter(seen).Where(e => rules.ContainsKey(e.AlarmId)).Select(e => (e.Number, rules[e.AlarmId], e.To, e.AtMilliseconds, e.Value)).ToList();
                if (fresh.Count == 0) continue;
                events.Add((controller.Id, fresh));
            }
        }
        // What is not written yet counts as not collected, so that a full disk loses nothing.
        if (batches.Count > 0) history.Write(batches);
        lock (_turn)
        {
            foreach (var (trend, _, total) in batches) _collected[trend] = total;
        }
        foreach (var (controller, list) in events)
        {
            history.Take(controller, list);
            lock (_turn) _eventsSeen[controller] = list[^1].Item1;
        }
        if (events.Count > 0) EventsChanged?.Invoke();
    }

    private int HeldCount() => _site.InputHolds.Count + _site.Controllers.Values.Sum(c => c.Engine?.Holds.Count ?? 0);

    /// <summary>Notes of every controller whose engine is another than before which points are at home on it.</summary>
    private void Index(IEnumerable<InstalledController> controllers)
    {
        foreach (InstalledController controller in controllers)
        {
            ControllerEngine? before = _indexed.GetValueOrDefault(controller.Id);
            if (ReferenceEquals(before, controller.Engine)) continue;
            Generation++;
            foreach (var point in before?.Points ?? [])
            {
                if (_homes.TryGetValue(point.Id, out InstalledController? home) && home == controller) _homes.TryRemove(point.Id, out _);
            }
            _indexed.Remove(controller.Id);
            if (controller.Engine is not { } engine) continue;
            _indexed[controller.Id] = engine;
            foreach (var point in engine.Points)
            {
                if (engine.IsHome(point.Id)) _homes[point.Id] = controller;
            }
        }
    }

    private const string ControllerPart = "controller/";

    /// <summary>A part of what is kept: taken in a turn, made into bytes outside of it where there is time.</summary>
    private sealed record Part(string Key, Func<byte[]> Bytes, Action? Kept = null);

    private static Part Json<T>(string key, T value) => new(key, () => JsonSerializer.SerializeToUtf8Bytes(value, RecordJson.Options));

    /// <summary>Clock, plan and inputs held, with or without the plant. Only within a turn.</summary>
    private List<Part> Clock(bool hasPlant)
    {
        SitePlan plan = _site.Built;
        var parts = new List<Part> { Json("site", new ClockMemory(_speed, Running, _site.Now)), Json("holds", _site.InputHolds.ToList()) };
        // Wires are kept with their controllers, so that sending one writes one.
        // What is built anew is kept at once with the state it begins in.
        bool isBuiltAnew = _keptPlan is null || !_keptPlan.IsBuiltLike(plan);
        if (isBuiltAnew) parts.Add(Json("plan", plan) with { Kept = () => _keptPlan = plan });
        if (hasPlant || isBuiltAnew) parts.Add(new Part("plant", _site.Remember().ToBytes));
        return parts;
    }

    /// <summary>What is kept of a controller. Only within a turn.</summary>
    private List<Part> Of(InstalledController controller)
    {
        if (controller.ImageBytes is not { } image) return [];
        var parts = new List<Part> { Json($"memory/{controller.Id}", controller.Engine!.Remember(_collected)) };
        // An image is large and changes only when it is sent; what a controller remembers changes all the time.
        string hash = $"{controller.Version} {controller.Hash}";
        if (_keptImages.GetValueOrDefault(controller.Id) != hash)
        {
            parts.Add(Json($"{ControllerPart}{controller.Id}", new ControllerMemory(controller.Version, controller.SentBy, controller.SentAt, _site.WiresOf(controller.Id))));
            parts.Add(new Part($"image/{controller.Id}", () => image, () => _keptImages[controller.Id] = hash));
        }
        return parts;
    }

    private void Keep(List<Part> parts, params IEnumerable<TrailEntry> done)
    {
        store.Write(parts.Select(p => (p.Key, p.Bytes())), done);
        foreach (Part part in parts) part.Kept?.Invoke();
    }

    /// <summary>Writes all that the site keeps, a few controllers at a time, so that nobody waits long for a turn or for the pen.</summary>
    private void Save()
    {
        InstalledController[] all;
        lock (_turn) all = [.. _site.Controllers.Values];
        foreach (InstalledController[] some in all.Chunk(ControllersAtOnce)) SaveSome(() => [.. some.SelectMany(Of)]);
        SaveSome(() => Clock(hasPlant: true));
    }

    private void SaveSome(Func<List<Part>> take)
    {
        lock (_pen)
        {
            List<Part> parts;
            lock (_turn) parts = take();
            Keep(parts);
        }
    }

    /// <summary>The site as the project draws it; worked out once for each state of the project, outside of any turn.</summary>
    public SitePlan Draw(Project project)
    {
        lock (_drawing)
        {
            if (!ReferenceEquals(_drawn.Project, project)) _drawn = (project, SiteBuilder.Build(project));
            return _drawn.Plan;
        }
    }

    /// <summary>Writes into the trail what somebody did that changed nothing on the site itself.</summary>
    public void Trail(string who, string what, RecordId? record) => store.Write([], new TrailEntry(0, clock.GetUtcNow().ToUnixTimeMilliseconds(), Ask(s => s.Now), who, what, record));
}
