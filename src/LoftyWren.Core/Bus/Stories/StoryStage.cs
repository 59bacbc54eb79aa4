using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Stories;

/// <summary>A device of a story: its record's id, what is in force on it, and the groups of its objects.</summary>
public sealed record StagedDevice(RecordId Id, string Name, DeviceValues Values, IReadOnlyList<(string Object, IReadOnlyList<GroupNumber> Groups)> Joins);

/// <summary>
/// Tells a story to devices on a line of their own and records what comes of it. The line carries one telegram at a time, each
/// with its real duration, the more urgent first, else in the order in which they were wanted; nothing is lost on it. The behaviours are those of the
/// installed devices, so that what is seen here is what will be.
/// </summary>
public sealed class StoryStage : IDeviceTeller
{
    /// <summary>The longest story, s; the most devices, events and steps of one.</summary>
    public const double Longest = 31 * 86_400;

    /// <inheritdoc cref="Longest"/>
    public const int MostDevices = 200, MostEvents = 500, MostSteps = 2_000_000, MostStretches = 20_000;

    private const int MostAtOnce = 1000;

    private readonly StagedDevice[] _devices;
    private readonly DeviceRunner[] _runners;
    private readonly Dictionary<(int Device, string What), (StoryLane Lane, List<StoryStretch> Stretches)> _lanes = [];
    private readonly Dictionary<string, double> _sensed = [];
    private readonly List<StoryTelegram> _telegrams = [];
    private readonly PriorityQueue<(int From, GroupTelegram Telegram), (int, long)> _waiting = new();
    private readonly Dictionary<long, (int Count, long Microseconds)> _bySecond = [];
    private long _wanted;
    private (int From, GroupTelegram Telegram, long ArrivesMicroseconds)? _onTheWay;
    private long _now;

    private StoryStage(IReadOnlyList<StagedDevice> devices)
    {
        _devices = [.. devices];
        _runners = [.. devices.Select(d => new DeviceRunner(d.Values, d.Joins, this))];
    }

    /// <summary>Tells a story for so many seconds.</summary>
    /// <exception cref="InvalidOperationException">It cannot be told; the message says why.</exception>
    public static StoryRun Tell(IReadOnlyList<StagedDevice> devices, IReadOnlyList<StoryEvent> events, IReadOnlyList<StoryExpectation> expectations, double seconds, CancellationToken cancel = default)
    {
        if (devices.Count > MostDevices) throw new InvalidOperationException($"A story has at most {MostDevices} devices; this one has {devices.Count}. Tell it to a room or a channel.");
        if (events.Count > MostEvents || expectations.Count > MostEvents) throw new InvalidOperationException($"A story has at most {MostEvents} events and as many expectations.");
        if (!(seconds is >= 1 and <= Longest)) throw new InvalidOperationException("A story lasts from 1 s to 31 days.");
        return new StoryStage(devices).Tell(events, expectations, seconds, cancel);
    }

    private StoryRun Tell(IReadOnlyList<StoryEvent> events, IReadOnlyList<StoryExpectation> expectations, double seconds, CancellationToken cancel)
    {
        foreach (DeviceRunner runner in _runners) runner.Begin(0, Wake.New);
        Collect();
        var due = new PriorityQueue<(StoryEvent Event, double? Back), (long, int)>();
        int number = 0;
        foreach (StoryEvent e in events.OrderBy(e => e.At))
        {
            if (!double.IsFinite(e.At) || e.At < 0 || (e.For is { } length && !(length >= 0))) throw new InvalidOperationException("An event happens at a time from the beginning on, and lasts for a time.");
            due.Enqueue((e, null), (Milliseconds(e.At), number++));
        }
        long end = Milliseconds(seconds);
        int atOnce = 0;
        for (int step = 0; ; step++)
        {
            if (step >= MostSteps) throw new InvalidOperationException($"More happens in this story than is worth looking at: at {_now / 1000.0:0.###} s {MostSteps} steps had been made. Look for objects that answer each other in a circle.");
            if ((step & 1023) == 0) cancel.ThrowIfCancellationRequested();
            long next = long.MaxValue;
            foreach (DeviceRunner runner in _runners) next = Math.Min(next, runner.NextDue);
            if (due.TryPeek(out _, out var first)) next = Math.Min(next, first.Item1);
            if (_onTheWay is { } way) next = Math.Min(next, (way.ArrivesMicroseconds + 999) / 1000);
            if (next > end) break;
            atOnce = next <= _now ? atOnce + 1 : 0;
            if (atOnce > MostAtOnce) throw new InvalidOperationException($"At {_now / 1000.0:0.###} s something wants to happen again and again without time passing. This is an error of a behaviour; please keep the story.");
            _now = Math.Max(_now, next);
            if (_onTheWay is { } arriving && arriving.ArrivesMicroseconds <= _now * 1000) Arrive(arriving.From, arriving.Telegram);
            while (due.TryPeek(out var e, out var at) && at.Item1 <= _now)
            {
                due.Dequeue();
                double? back = Happens(e.Event, e.Back);
                if (e.Back is null && e.Event.For is { } length) due.Enqueue((e.Event, back), (Milliseconds(e.Event.At + length), number++));
            }
            foreach (DeviceRunner runner in _runners)
            {
                if (runner.NextDue <= _now) runner.Run(_now);
            }
            Collect();
        }
        StoryLane[] lanes = [.. _lanes.OrderBy(l => l.Key.Device).Select(l => l.Value.Lane with { Stretches = l.Value.Stretches })];
        return new StoryRun(seconds, lanes, _telegrams, [.. expectations.Select(e => Judge(e, lanes))], Load());
    }

    private StoryLoad Load()
    {
        var busiest = _bySecond.OrderByDescending(s => s.Value.Microseconds).ThenBy(s => s.Key).FirstOrDefault();
        return new StoryLoad(_bySecond.Values.Sum(s => s.Count), busiest.Key, busiest.Value.Count, Math.Round(Math.Min(100, busiest.Value.Microseconds / 10_000.0), 1));
    }

    private static long Milliseconds(double seconds) => (long)Math.Round(seconds * 1000);

    /// <summary>An event comes, or is over; answers what it is to go back to.</summary>
    private double? Happens(StoryEvent e, double? back)
    {
        foreach (int d in Targets(e))
        {
            DeviceRunner runner = _runners[d];
            switch (e.Do)
            {
                case StoryDeed.Lose:
                    Supply supply = e.What == "mains" ? Supply.Mains : e.What == "bus" ? Supply.Bus : throw new InvalidOperationException($"‘{e.What}’ is no supply; there are bus and mains.");
                    if (back is null) runner.Lose(_now, supply);
                    else runner.Begin(_now, supply == Supply.Mains ? Wake.Mains : Wake.Bus);
                    Record(d, "", e.What, e.What == "mains" ? "Mains" : "Bus", "sensed", "", ["gone", "there"], 0, 1, Course.Standing(_now, back ?? 0), null, "", false);
                    break;
                case StoryDeed.Tell:
                    ObjectForm o = runner.Values.Form.FindObject(e.What) ?? throw new InvalidOperationException($"‘{_devices[d].Name}’ has no object ‘{e.What}’.");
                    double told = back ?? e.Value, was = runner.ValueOf(o);
                    // Others in its group hear it as well.
                    if (_devices[d].Joins.FirstOrDefault(j => j.Object == e.What).Groups is { Count: > 0 } groups) Wait(-1, new GroupTelegram(groups[0], o.Type, told, BusPriority.Low));
                    else runner.Write(_now, o, told);
                    return double.IsNaN(was) ? 0 : was;
                default:
                    int dot = e.What.IndexOf('.', StringComparison.Ordinal);
                    string key = dot < 0 ? "" : e.What[..dot], port = e.What[(dot + 1)..];
                    int channel = key.Length == 0 ? -1 : runner.Values.Form.ChannelAt(key);
                    BehaviourPort? what = runner.Values.Form.Channels.Where((c, i) => channel < 0 ? key.Length == 0 : i == channel).SelectMany(c => c.Behaviour.Senses).FirstOrDefault(s => s.Key == port);
                    if (what is null)
                    {
                        if (e.DeviceId is null && _runners.Length > 1) break;
                        throw new InvalidOperationException($"‘{_devices[d].Name}’ senses no ‘{e.What}’.");
                    }
                    double value = back ?? e.Value, before = _sensed.GetValueOrDefault($"{d}|{e.What}", what.Unit.Length == 0 ? 0 : double.NaN);
                    _sensed[$"{d}|{e.What}"] = value;
                    Record(d, key, e.What, Named(what.Name, d, channel), "sensed", what.Unit, what.States, what.Low, what.High, Course.Standing(_now, value), null, "", false);
                    runner.Sense(_now, channel, port, value);
                    if (_runners.Length == 1 || e.DeviceId is not null) return before;
                    break;
            }
        }
        return e.Do == StoryDeed.Lose ? 1 : 0;
    }

    private IEnumerable<int> Targets(StoryEvent e)
    {
        if (e.DeviceId is { } id)
        {
            int at = Array.FindIndex(_devices, d => d.Id == id);
            return at >= 0 ? [at] : throw new InvalidOperationException("An event is about a device that is not part of the story.");
        }
        return _devices.Length == 1 || e.Do is StoryDeed.Lose or StoryDeed.Sense ? Enumerable.Range(0, _devices.Length) : throw new InvalidOperationException("Of several devices, an event that tells an object names its device.");
    }

    /// <summary>What devices want to send goes to the line, the most urgent first.</summary>
    private void Collect()
    {
        for (int d = 0; d < _runners.Length; d++)
        {
            while (_runners[d].TryTake(out GroupTelegram telegram)) Wait(d, telegram);
        }
        if (_onTheWay is null && _waiting.TryDequeue(out var next, out _)) _onTheWay = (next.From, next.Telegram, (_now * 1000) + FrameTime.Microseconds(FrameTime.Octets(next.Telegram.Type.Bits)));
    }

    private void Wait(int from, GroupTelegram telegram) => _waiting.Enqueue((from, telegram), (telegram.Priority switch { BusPriority.System => 0, BusPriority.Urgent => 1, BusPriority.Normal => 2, _ => 3 }, _wanted++));

    private void Arrive(int from, GroupTelegram telegram)
    {
        _onTheWay = null;
        var (count, taken) = _bySecond.GetValueOrDefault(_now / 1000);
        _bySecond[_now / 1000] = (count + 1, taken + FrameTime.OnTheLine(FrameTime.Octets(telegram.IsRead ? 1 : telegram.Type.Bits)));
        Span<byte> octets = stackalloc byte[16];
        octets = octets[..telegram.Type.Write(telegram.Value, octets)];
        if (_telegrams.Count < MostStretches) _telegrams.Add(new StoryTelegram(_now / 1000.0, from < 0 ? "" : _devices[from].Id.Value, telegram.Group.ToString(), telegram.IsRead ? "asks" : telegram.Type.Say(octets)));
        for (int d = 0; d < _runners.Length; d++)
        {
            if (d == from) continue;
            if (telegram.IsRead) _runners[d].Asked(_now, telegram.Group);
            else _runners[d].Hear(_now, telegram.Group, octets, telegram.IsAnswer);
        }
    }

    private static StoryVerdict Judge(StoryExpectation e, StoryLane[] lanes)
    {
        StoryLane? lane = Array.Find(lanes, l => l.What == e.What && (e.DeviceId is null || l.Device == e.DeviceId.Value.Value));
        double? was = lane?.ValueAt(e.At);
        bool passed = was is { } value && Math.Abs(value - e.Value) <= e.Within + 1e-9;
        string Say(double? v) => v is not { } number ? "nothing" : lane?.States is { } states && (int)(number - lane.Low) is var i && i >= 0 && i < states.Count ? states[i] : $"{Math.Round(number, 2)}{(lane?.Unit.Length > 0 ? " " + lane.Unit : "")}";
        return new StoryVerdict(e, was, passed, $"{lane?.Label ?? e.What} {(passed ? "is" : "is not")} {Say(e.Value)}{(passed ? "" : $" but {Say(was)}")}");
    }

    private string Named(string name, int device, int channel) => channel < 0 ? name : name.Replace("{channel}", _devices[device].Values.Form.Channels[channel].Title, StringComparison.Ordinal);

    /// <inheritdoc/>
    void IDeviceTeller.Said(DeviceRunner device, ObjectForm what, double value, bool sends, ParameterDescription? by, string fact) => Recorded(Array.IndexOf(_runners, device), what, value, sends, by, fact);

    /// <inheritdoc/>
    void IDeviceTeller.Heard(DeviceRunner device, ObjectForm what, double value) => Recorded(Array.IndexOf(_runners, device), what, value, false, null, "heard");

    /// <inheritdoc/>
    void IDeviceTeller.Drove(DeviceRunner device, int channel, BehaviourPort what, Course course, ParameterDescription? by, string fact)
    {
        int d = Array.IndexOf(_runners, device);
        ChannelForm form = device.Values.Form.Channels[channel];
        Record(d, form.Key, $"{form.Key}.{what.Key}", Named(what.Name, d, channel), "driven", what.Unit, what.States, what.Low, what.High, course, PathOf(d, channel, by), fact, false);
    }

    private void Recorded(int d, ObjectForm o, double value, bool sends, ParameterDescription? by, string fact)
    {
        IReadOnlyList<string>? states = o.Type is { IsSingle: true } && o.Type.Fields[0].Texts is { } texts ? [.. Enumerable.Range(0, texts.Keys.Max() + 1).Select(k => texts.GetValueOrDefault(k, ""))] : null;
        DatapointField? field = o.Type.IsSingle ? o.Type.Fields[0] : null;
        Record(d, _devices[d].Values.Form.Channels[o.Channel].Key, o.Path, Named(o.Name, d, o.Channel), "said", field?.Unit ?? "", states, field?.Low ?? 0, field?.High ?? Math.Pow(2, o.Type.Bits) - 1, Course.Standing(_now, value), PathOf(d, o.Channel, by), fact, sends);
    }

    private string? PathOf(int d, int channel, ParameterDescription? by)
    {
        if (by is null) return null;
        int at = _devices[d].Values.Form.ParameterAt(channel, by.Key);
        return at >= 0 ? _devices[d].Values.Form.Parameters[at].Path : null;
    }

    private void Record(int d, string channel, string what, string label, string sort, string unit, IReadOnlyList<string>? states, double low, double high, Course course, string? parameter, string fact, bool sends)
    {
        if (!_lanes.TryGetValue((d, what), out var lane)) _lanes[(d, what)] = lane = (new StoryLane(_devices[d].Id.Value, channel, what, label, sort, unit, states, low, high, []), []);
        if (lane.Stretches.Count >= MostStretches) return;
        double at = Math.Max(_now, course.From) / 1000.0, until = course.Until / 1000.0;
        double? from = Known(course.Now(Math.Max(_now, course.From))), to = Known(course.To);
        // A course that begins later leaves what is until then.
        if (lane.Stretches.Count > 0 && lane.Stretches[^1] is var last && course.From <= _now && last.Until > at) lane.Stretches[^1] = last with { Until = at, To = last.Value is { } v && last.To is { } t && last.Until > last.At ? v + ((t - v) * (at - last.At) / (last.Until - last.At)) : last.To };
        while (lane.Stretches.Count > 0 && lane.Stretches[^1].At > at) lane.Stretches.RemoveAt(lane.Stretches.Count - 1);
        lane.Stretches.Add(new StoryStretch(at, from, Math.Max(at, until), to, fact, parameter, sends));
    }

    private static double? Known(double value) => double.IsNaN(value) ? null : value;
}
