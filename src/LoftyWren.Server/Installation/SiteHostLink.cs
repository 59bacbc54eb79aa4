using LoftyWren.Core.Alarms;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Live;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.History;
using LoftyWren.VirtualSite;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.Server.Installation;

/// <content>What the site answers over its link.</content>
public sealed partial class SiteHost
{
    private const int MostSamplesAtOnce = 50_000, MostImageBytes = 64 * 1024 * 1024;
    private readonly Dictionary<RecordId, long> _written = [], _eventsWritten = [];
    private readonly Collection _collection = new([], [], [], [], []);
    private readonly List<ILiveSource> _live = [];
    private readonly Dictionary<string, int> _handles = [];
    private int _liveGeneration;
    private long _happenings;

    /// <inheritdoc/>
    public LinkPulse Pulse()
    {
        lock (_turn) return new LinkPulse(_site.Now, Generation, Interlocked.Read(ref _happenings));
    }

    /// <inheritdoc/>
    public IReadOnlyList<Installed> AllInstalled() => Ask(s => s.Devices.Values.Select(View).ToList());

    /// <inheritdoc/>
    public Installed? Find(RecordId host) => Ask(s => s.Devices.TryGetValue(host, out InstalledDevice? device) ? View(device) : null);

    private static Installed View(InstalledDevice device) => new(device.Id, device.Kind, device.Program is not null, device.Version, device.Hash, device.SentBy, device.SentAt);

    /// <inheritdoc/>
    public byte[]? ImageOf(RecordId host) => Ask(s => s.Devices.GetValueOrDefault(host)?.ImageBytes);

    /// <summary>A device that answers.</summary>
    /// <exception cref="InvalidOperationException">It does not; the message says what to do.</exception>
    private static InstalledDevice? Reached(InstalledDevice? device) => device is null or { Life.Answers: true } ? device
        : throw new InvalidOperationException($"{device.CalledBy} does not answer: it is {(device.Life.Phase == DevicePhase.Off ? "off" : device.Life.IsCut ? "cut off from the network" : device.Life.IsSilenced ? "there, and its communication is disabled" : "starting")}. What it runs stays as it is; try again when it answers.");

    /// <inheritdoc/>
    public Rehearsal Rehearse(RecordId host, string kind, byte[] image)
    {
        static ReadyProgram Ready(string kind, byte[] bytes) => InstalledDevice.MakeReady(new SentImage(kind, bytes, Core.Images.HostKinds.HashOf(bytes)));
        if (Ask(s => Reached(s.Devices.GetValueOrDefault(host)) is { ImageBytes: { } bytes } device ? (device.Kind, Bytes: bytes) : default((string Kind, byte[] Bytes)?)) is not { } runs) return Rehearsal.Nothing;
        ReadyProgram present = Ready(runs.Kind, runs.Bytes), next = Ready(kind, image);
        return Ask(s => Reached(s.Devices.GetValueOrDefault(host))?.Rehearse(present, next, s.Now) ?? Rehearsal.Nothing);
    }

    /// <inheritdoc/>
    public IReadOnlyList<DeviceStanding> Standings() => Ask(s => s.Devices.Values.Select(StandingOf).ToList());

    internal static DeviceStanding StandingOf(InstalledDevice d) => new(d.Id,
        d.Program is null ? SystemStatus.DownloadRequired : d.Life.Runs ? d.IsStaging ? SystemStatus.DownloadInProgress : SystemStatus.Operational : SystemStatus.NonOperational,
        d.Life.Phase, d.Life.Since, d.Life.Reason, d.Life.StartedAt, d.Life.Starts, d.Program is null && d.Door is null ? null : d.Life.SilentSince, [.. d.Life.Heard]);

    /// <inheritdoc/>
    public IReadOnlyList<UnheardHost> Unheard() => Ask(s => s.Devices.Values.Where(d => d.Life.SilentSince is not null && (d.Program is not null || d.Door is { IsFactory: false })).Select(d => new UnheardHost(d.Id, d.Life.SilentSince!.Value)).ToList());

    /// <inheritdoc/>
    public void Order(string who, string what, RecordId host, DeviceOrder order) => Command(who, what, host, s =>
    {
        Action back = s.Order(host, order);
        Generation++;
        return back;
    }, host);

    /// <inheritdoc/>
    public Reading? Read(RecordId pointId) => Ask(_ => HomeOf(pointId)?.Front?.Read(pointId));

    /// <inheritdoc/>
    public Knowing Knows(RecordId host, RecordId pointId) => Ask(s => s.Devices.GetValueOrDefault(host)?.Program is not null ? new Knowing(true, HomeOf(pointId)?.Id == host) : new Knowing(false, false));

    /// <inheritdoc/>
    public Because? Explain(RecordId pointId, RecordId recordId) => Ask(_ => HomeOf(pointId)?.Front?.Explain(recordId));

    /// <inheritdoc/>
    public LadderView? Ladder(RecordId pointId) => Ask(_ => HomeOf(pointId)?.Front?.ViewLadder(pointId));

    /// <inheritdoc/>
    public ModesView? Modes(RecordId host, RecordId sequenceId, string blockId) => Ask(s => s.Devices.GetValueOrDefault(host)?.Front?.ViewModes(sequenceId, blockId));

    /// <inheritdoc/>
    public KeptScans? KeepScans(RecordId host, RecordId sequenceId, IReadOnlyList<string> addresses, ScanStop? stop) => Ask(s => s.Devices.GetValueOrDefault(host)?.Front?.Scans?.Keep(sequenceId, addresses, stop));

    /// <inheritdoc/>
    public KeptScans? Scans(RecordId host, RecordId sequenceId) => Ask(s => s.Devices.GetValueOrDefault(host)?.Front?.Scans?.Kept(sequenceId));

    /// <inheritdoc/>
    public IReadOnlyList<Reading>? Scan(RecordId host, RecordId sequenceId, long number) => Ask(s => s.Devices.GetValueOrDefault(host)?.Front?.Scans?.Scan(sequenceId, number));

    /// <inheritdoc/>
    public IReadOnlyList<Reading>? ScanCourse(RecordId host, RecordId sequenceId, string address) => Ask(s => s.Devices.GetValueOrDefault(host)?.Front?.Scans?.Course(sequenceId, address));

    // What runs is stopped only for as long as it takes to see how it stands.
    private Standstill? StandstillOf(RecordId pointId) => Ask(_ => HomeOf(pointId)?.Front?.Standstill());

    /// <inheritdoc/>
    public Because? WhyNot(RecordId pointId, TestCondition condition) => StandstillOf(pointId) is { } from ? Core.Proofs.WhyNot.Ask(from, pointId, condition) : null;

    /// <inheritdoc/>
    public IReadOnlyList<OutputTrial>? Trials(RecordId pointId) => StandstillOf(pointId) is { } from ? OutputTrials.Of(from, pointId) : null;

    /// <inheritdoc/>
    public IReadOnlyList<TerminalReading> Terminals(RecordId host) => Ask(s => s.Devices.GetValueOrDefault(host)?.Front?.Terminals ?? []);

    /// <inheritdoc/>
    public IReadOnlyDictionary<RecordId, int> Troubles() => Ask(s =>
        s.Devices.Values.Select(d => (d.Id, Count: d.Front?.Terminals.Count(t => t.Trouble is not null) ?? 0)).Where(d => d.Count > 0).ToDictionary(d => d.Id, d => d.Count));

    /// <inheritdoc/>
    public IReadOnlyDictionary<RecordId, EventState> AlarmStates() => Ask(s =>
    {
        var states = new Dictionary<RecordId, EventState>();
        foreach (InstalledDevice device in s.Devices.Values)
        {
            foreach (var (rule, state) in device.Front?.AlarmStates ?? []) states[rule.Id] = state;
        }
        return states;
    });

    /// <inheritdoc/>
    public IReadOnlyList<Held> AllHeld() => Ask(s =>
    {
        var list = new List<Held>();
        foreach (InstalledDevice device in s.Devices.Values)
        {
            if (device.Front is not { } program) continue;
            foreach (Hold hold in program.Holds) list.Add(new Held(hold.PointId, NameOf(program, hold.PointId), false, Say(program, hold.PointId, hold.Value), hold.Who, hold.Why, hold.AtMilliseconds, hold.UntilMilliseconds));
        }
        foreach (InputHold hold in s.InputHolds)
        {
            if (s.Devices.GetValueOrDefault(hold.ControllerId)?.Program is not { } program || PointAt(program, hold.Terminal) is not { } point) continue;
            list.Add(new Held(point, NameOf(program, point), true, hold.Course is { } course ? course.Say(FormOf(program, point)) : Say(program, point, hold.Value), hold.Who, hold.Why, hold.AtMilliseconds, hold.UntilMilliseconds, hold.Course?.Write(FormOf(program, point))));
        }
        return list.OrderBy(h => h.At).ToList();
    });

    private static string NameOf(IDeviceProgram program, RecordId point) => program.Image.Records.FirstOrDefault(r => r.Id == point)?.Name ?? point.Value;

    private static RecordId? PointAt(IDeviceProgram program, string terminal) => program.Image.Records.OfType<Fitting>().FirstOrDefault(f => f.Terminal == terminal)?.PointId;

    private static ValueForm FormOf(IDeviceProgram program, RecordId point) => program.Watch(point, "")?.Form ?? ValueForm.Number;

    private static string Say(IDeviceProgram program, RecordId point, double value) => program.Watch(point, "") is { } source ? source.Form.Say(new Reading(value, StatusFlags.None, 0)) : $"{value}";

    /// <inheritdoc/>
    public void Hold(string who, string what, HoldOrder order) => Command(who, what, order.PointId, s =>
    {
        IDeviceProgram program = HomeOf(order.PointId)?.Front ?? throw new InvalidOperationException("It is not installed on the site yet. Review and send its controller first.");
        Hold? before = program.Holds.FirstOrDefault(h => h.PointId == order.PointId);
        program.HoldByHand(new Hold(order.PointId, order.Value, who, order.Why, s.Now, Until(s, order)));
        return () =>
        {
            program.ReleaseHold(order.PointId);
            if (before is not null) program.HoldByHand(before);
        };
    }, HomesOf(order.PointId));

    private static long? Until(Site site, HoldOrder order) => order.Minutes is { } minutes ? site.Now + (long)(minutes * 60_000) : null;

    /// <inheritdoc/>
    public bool Release(string who, string what, RecordId pointId) => Command(who, what, pointId, _ =>
    {
        if (HomeOf(pointId)?.Front is not { } program || program.Holds.FirstOrDefault(h => h.PointId == pointId) is not { } held) return null;
        program.ReleaseHold(pointId);
        return () => program.HoldByHand(held);
    }, HomesOf(pointId));

    /// <inheritdoc/>
    public void HoldInput(string who, string what, RecordId host, string terminal, HoldOrder order) => Command(who, what, order.PointId, s =>
    {
        InputHold? before = s.InputHolds.FirstOrDefault(h => h.ControllerId == host && h.Terminal == terminal);
        s.HoldInput(new InputHold(host, terminal, order.Value, who, order.Why, s.Now, Until(s, order), order.Course));
        return () =>
        {
            s.ReleaseInput(host, terminal);
            if (before is not null) s.HoldInput(before);
        };
    });

    /// <inheritdoc/>
    public bool ReleaseInput(string who, string what, RecordId host, string terminal, RecordId pointId) => Command(who, what, pointId, s =>
    {
        if (s.InputHolds.FirstOrDefault(h => h.ControllerId == host && h.Terminal == terminal) is not { } held) return null;
        s.ReleaseInput(host, terminal);
        return () => s.HoldInput(held);
    });

    /// <inheritdoc/>
    public LogStanding? LogOf(RecordId pointId, RecordId logId) => Ask(_ =>
    {
        foreach (var (log, buffer) in HomeOf(pointId)?.Front?.Trends ?? [])
        {
            if (log.Id == logId) return new LogStanding(buffer.HasStopped, buffer.Total - buffer.EmptiedAt, log.BufferSize);
        }
        return null;
    });

    /// <inheritdoc/>
    public bool EmptyLog(string who, string what, RecordId pointId, RecordId logId) => Command(who, what, logId, _ => HomeOf(pointId)?.Front?.EmptyTrend(logId), HomesOf(pointId));

    /// <inheritdoc/>
    public Collection Collect(Written written)
    {
        lock (_turn)
        {
            foreach (var (log, number) in written.Logs) _written[log] = number;
            foreach (var (host, number) in written.Events) _eventsWritten[host] = number;
            Collection fresh = _collection;
            fresh.Logs.Clear();
            fresh.Samples.Clear();
            fresh.Events.Clear();
            fresh.UnknownLogs.Clear();
            fresh.UnknownHosts.Clear();
            fresh.IsCut = false;
            foreach (InstalledDevice device in _site.Devices.Values)
            {
                if (device.Front is not { } program) continue;
                foreach (var (log, buffer) in program.Trends)
                {
                    if (!_written.TryGetValue(log.Id, out long known))
                    {
                        fresh.UnknownLogs.Add(log.Id);
                        continue;
                    }
                    // A buffer that counts less than was collected began anew, after a crash or on another controller.
                    if (buffer.Total < known) known = 0;
                    if (buffer.Total == known) continue;
                    if (fresh.Samples.Count >= MostSamplesAtOnce)
                    {
                        fresh.IsCut = true;
                        continue;
                    }
                    int before = fresh.Samples.Count;
                    buffer.After(known, fresh.Samples);
                    fresh.Logs.Add(new CollectedLog(log.Id, fresh.Samples.Count - before, buffer.Total));
                }
                if (!_eventsWritten.TryGetValue(device.Id, out long seen))
                {
                    fresh.UnknownHosts.Add(device.Id);
                    continue;
                }
                if (program.LastEventNumber <= seen) continue;
                var rules = program.AlarmStates.ToDictionary(a => a.Rule.Id, a => a.Rule);
                var events = program.EventsAfter(seen).Where(e => rules.ContainsKey(e.AlarmId)).Select(e => new AlarmEntry(e.Number, e.AlarmId, rules[e.AlarmId].PointId, rules[e.AlarmId].Name, e.To, e.AtMilliseconds, e.Value, rules[e.AlarmId].LimitOf(e.To))).ToList();
                if (events.Count > 0) fresh.Events.Add(new CollectedEvents(device.Id, events));
            }
            return fresh;
        }
    }

    /// <inheritdoc/>
    public LiveFound FindLive(IReadOnlyList<string> addresses) => Ask(s =>
    {
        if (_liveGeneration != Generation)
        {
            _live.Clear();
            _handles.Clear();
            _liveGeneration = Generation;
        }
        var spots = new LiveSpot[addresses.Count];
        for (int i = 0; i < spots.Length; i++)
        {
            if (!_handles.TryGetValue(addresses[i], out int handle))
            {
                handle = -1;
                if (Find(addresses[i]) is { } source)
                {
                    handle = _live.Count;
                    _live.Add(source);
                }
                _handles[addresses[i]] = handle;
            }
            spots[i] = new LiveSpot(handle, handle < 0 ? ValueForm.Number : _live[handle].Form);
        }
        return new LiveFound(Generation, spots);
    });

    private ILiveSource? Find(string address)
    {
        if (LiveAddress.Read(address) is not var (record, part)) return null;
        return (_homes.GetValueOrDefault(record) ?? _runs.GetValueOrDefault(record))?.Front?.Watch(record, part);
    }

    /// <inheritdoc/>
    public LiveRead ReadLive(int generation, int[] handles) => Ask(_ =>
    {
        if (generation != Generation || generation != _liveGeneration) return new LiveRead(Generation, null);
        var readings = new Reading[handles.Length];
        for (int i = 0; i < handles.Length; i++) readings[i] = handles[i] < 0 || handles[i] >= _live.Count ? Reading.Released(_site.Now) : _live[handles[i]].Read();
        return new LiveRead(generation, readings);
    });

    /// <inheritdoc/>
    public SitePlan Plan() => Ask(s => s.Plan);

    /// <inheritdoc/>
    public IReadOnlyList<Wire> WiresOf(RecordId host) => Ask(s => s.WiresOf(host));

    /// <inheritdoc/>
    public bool Rewire(string who, string what, RecordId host, IReadOnlyList<Wire> wires)
    {
        bool isThere = true;
        Command(who, what, host, s =>
        {
            isThere = wires.All(w => s.Plant.IndexOf(w.Quantity) >= 0);
            return !isThere || s.WiresOf(host).SequenceEqual(wires) ? null : s.Rewire(host, wires);
        });
        return isThere;
    }

    /// <inheritdoc/>
    public void Build(string who, string what, SitePlan wanted, IReadOnlyList<RecordId>? hosts)
    {
        for (int attempt = 0; ; attempt++)
        {
            // What is made ready outside of the turn is quickly taken into use within it.
            if (Site.MakeReady(Ask(s => s.Standing), wanted, hosts) is not { } ready) return;
            MakeBytes(ready.Plan);
            foreach (IReadOnlyList<Wire> wires in ready.Wires.Values) MakeBytes(wires);
            bool isOvertaken = false;
            Command(who, what, null, s =>
            {
                // Of named hosts the wires are what they are to be, whatever was built elsewhere meanwhile; of all, somebody must look again.
                isOvertaken = hosts is not null && s.Builds != ready.After && attempt < 50;
                return isOvertaken ? null : s.Build(ready);
            });
            if (!isOvertaken) return;
        }
    }
}
