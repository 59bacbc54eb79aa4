using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Devices;

/// <summary>Who is told what a device says and drives, with why.</summary>
public interface IDeviceTeller
{
    /// <summary>An object has another value, and whether that is sent; <paramref name="by"/> is the setting that decides it, as its channel knows it.</summary>
    void Said(DeviceRunner device, ObjectForm what, double value, bool sends, ParameterDescription? by, string fact);

    /// <summary>An object took a value: from the bus, from another object of the device, or as it was told.</summary>
    void Heard(DeviceRunner device, ObjectForm what, double value);

    /// <summary>Something is driven along a course.</summary>
    void Drove(DeviceRunner device, int channel, BehaviourPort what, Course course, ParameterDescription? by, string fact);
}

/// <summary>A telegram to a group that a device wants to send.</summary>
public readonly record struct GroupTelegram(GroupNumber Group, DatapointType Type, double Value, BusPriority Priority, bool IsRead = false, bool IsAnswer = false);

/// <summary>What a device keeps over a restart: of each channel what it remembers and the courses along which it drives, of each object its value, and when it asks for the values it wants to know.</summary>
public sealed record DeviceMemory(IReadOnlyDictionary<string, System.Text.Json.JsonElement> Channels, IReadOnlyDictionary<string, double> Objects, bool HasBus, bool HasMains, IReadOnlyDictionary<string, IReadOnlyList<Course>>? Driven = null, long AsksAt = Behaviour.Never);

/// <summary>
/// A bus device at work: the behaviours of its channels, its objects and their groups, what it senses and drives. Whoever
/// owns it brings telegrams, sensors and time, and takes what it sends. The same calls at the same times always come to the same.
/// </summary>
public sealed class DeviceRunner : IBehaviourWorld
{
    private readonly Behaviour?[] _channels;
    private readonly int[][] _objectOf;
    private readonly Dictionary<Behaviour, int> _channelOf = [];
    private readonly double[] _values;
    private readonly Course[][] _loads;
    private readonly Dictionary<GroupNumber, int[]> _hears = [];
    private readonly GroupNumber?[] _sends;
    private readonly Queue<GroupTelegram> _out = new();
    private readonly IDeviceTeller? _teller;
    private ParameterDescription? _by;
    private string _fact = "";
    private long _now, _asksAt = Behaviour.Never;
    private bool _isAnswering;

    /// <summary>Puts a device to work.</summary>
    /// <param name="values">What is in force on it.</param>
    /// <param name="joins">The groups of its objects, by their paths; the first of each is that which it sends to.</param>
    /// <param name="teller">Who is told.</param>
    public DeviceRunner(DeviceValues values, IEnumerable<(string Object, IReadOnlyList<GroupNumber> Groups)> joins, IDeviceTeller? teller = null)
    {
        (Values, _teller) = (values, teller);
        DeviceForm form = values.Form;
        _channels = new Behaviour?[form.Channels.Count];
        _objectOf = new int[form.Channels.Count][];
        _loads = new Course[form.Channels.Count][];
        _values = new double[form.Objects.Count];
        _sends = new GroupNumber?[form.Objects.Count];
        Array.Fill(_values, double.NaN);
        for (int c = 0; c < _channels.Length; c++)
        {
            BehaviourKind kind = form.Channels[c].Behaviour;
            _objectOf[c] = new int[kind.Objects.Count];
            Array.Fill(_objectOf[c], -1);
            _loads[c] = [.. kind.Drives.Select(_ => Course.Standing(0, double.NaN))];
            if (!values.IsThere(form.Channels[c])) continue;
            Behaviour behaviour = kind.Make(values.SettingsOf(c));
            behaviour.World = this;
            _channels[c] = behaviour;
            _channelOf[behaviour] = c;
        }
        foreach (ObjectForm o in form.Objects)
        {
            if (values.IsThere(o)) _objectOf[o.Channel][o.Is.At] = o.At;
        }
        var hears = new Dictionary<GroupNumber, List<int>>();
        foreach (var (path, groups) in joins)
        {
            if (form.FindObject(path) is not { } o || groups.Count == 0 || !values.IsThere(o)) continue;
            if (o.Sends) _sends[o.At] = groups[0];
            foreach (GroupNumber group in groups)
            {
                if (!hears.TryGetValue(group, out List<int>? list)) hears[group] = list = [];
                if (!list.Contains(o.At)) list.Add(o.At);
            }
        }
        foreach (var (group, list) in hears) _hears[group] = [.. list];
    }

    /// <summary>What is in force on it.</summary>
    public DeviceValues Values { get; }

    /// <summary>By how much longer than the set delay it waits with its first telegrams after bus return, ms; by its individual address, so that the devices of a line do not transmit at once.</summary>
    public long StaggerMilliseconds { get; set; }

    /// <summary>Whether it has the bus, and the mains.</summary>
    public bool HasBus { get; private set; } = true;

    /// <inheritdoc cref="HasBus"/>
    public bool HasMains { get; private set; } = true;

    /// <summary>The groups it listens to or sends to.</summary>
    public IReadOnlyCollection<GroupNumber> Groups => _hears.Keys;

    /// <summary>When it must run next.</summary>
    public long NextDue
    {
        get
        {
            long next = _asksAt;
            foreach (Behaviour? channel in _channels)
            {
                if (channel is not null) next = Math.Min(next, channel.NextDue);
            }
            return next;
        }
    }

    /// <summary>Whether it wants to send something.</summary>
    public bool HasSaid => _out.Count > 0;

    /// <summary>What it wants to send next; it is taken away.</summary>
    public bool TryTake(out GroupTelegram telegram) => _out.TryDequeue(out telegram);

    /// <summary>What an object is; not a number where nothing has said.</summary>
    public double ValueOf(ObjectForm o) => _values[o.At];

    /// <summary>What a channel drives.</summary>
    public Course LoadOf(int channel, BehaviourPort port) => _loads[channel][port.At];

    /// <summary>What a channel does, or null where it is not there.</summary>
    public Behaviour? BehaviourOf(int channel) => _channels[channel];

    /// <summary>Begins to work.</summary>
    public void Begin(long now, Wake wake)
    {
        _now = now;
        if (wake == Wake.Mains) HasMains = true;
        else HasBus = true;
        foreach (Behaviour? channel in _channels)
        {
            Fresh();
            channel?.Begin(now, wake);
        }
        // Objects that ask when they start do so once the others may speak.
        if (wake != Wake.Mains && Values.Form.Objects.Any(o => o.Flags.Contains('I', StringComparison.Ordinal))) _asksAt = now + Delay + StaggerMilliseconds;
    }

    /// <summary>Loses a supply.</summary>
    public void Lose(long now, Supply supply)
    {
        _now = now;
        foreach (Behaviour? channel in _channels)
        {
            Fresh();
            channel?.Lose(now, supply);
        }
        if (supply == Supply.Mains) HasMains = false;
        else
        {
            (HasBus, _asksAt) = (false, Behaviour.Never);
            _out.Clear();
        }
    }

    /// <summary>Something that all its channels or one of them sense is otherwise.</summary>
    /// <param name="now">The moment.</param>
    /// <param name="channel">The channel, by place; −1 for all that sense it.</param>
    /// <param name="port">What is sensed, by its key.</param>
    /// <param name="value">What it is.</param>
    public void Sense(long now, int channel, string port, double value)
    {
        _now = now;
        for (int c = 0; c < _channels.Length; c++)
        {
            if ((channel >= 0 && c != channel) || _channels[c] is not { } behaviour) continue;
            IReadOnlyList<BehaviourPort> senses = Values.Form.Channels[c].Behaviour.Senses;
            for (int i = 0; i < senses.Count; i++)
            {
                if (senses[i].Key != port) continue;
                Fresh();
                behaviour.Sense(now, senses[i], value);
            }
        }
    }

    /// <summary>A telegram to a group has come: a value, or an answer to somebody who asked.</summary>
    public void Hear(long now, GroupNumber group, ReadOnlySpan<byte> octets, bool isAnswer = false)
    {
        if (!HasBus || !_hears.TryGetValue(group, out int[]? objects)) return;
        _now = now;
        for (int i = 0; i < objects.Length; i++)
        {
            ObjectForm o = Values.Form.Objects[objects[i]];
            if (!o.Flags.Contains(isAnswer ? 'U' : 'W', StringComparison.Ordinal)) continue;
            double value = o.Type.ToNumber(octets);
            if (!double.IsNaN(value)) Take(now, o, value);
        }
    }

    /// <summary>Somebody asks for the value of a group; the first object of it that may answer does.</summary>
    public void Asked(long now, GroupNumber group)
    {
        if (!HasBus || !_hears.TryGetValue(group, out int[]? objects)) return;
        _now = now;
        for (int i = 0; i < objects.Length; i++)
        {
            ObjectForm o = Values.Form.Objects[objects[i]];
            if (!o.Flags.Contains('R', StringComparison.Ordinal) || _sends[o.At] != group || double.IsNaN(_values[o.At])) continue;
            _out.Enqueue(new GroupTelegram(group, o.Type, _values[o.At], o.Priority, IsAnswer: true));
            return;
        }
    }

    /// <summary>Writes an object as a telegram would.</summary>
    public void Write(long now, ObjectForm o, double value)
    {
        if (!HasBus) return;
        _now = now;
        Take(now, o, value);
    }

    /// <summary>Does all that is due by then.</summary>
    public void Run(long now)
    {
        _now = now;
        for (int c = 0; c < _channels.Length; c++)
        {
            if (_channels[c] is not { } channel || channel.NextDue > now) continue;
            Fresh();
            channel.Run(now);
        }
        if (now < _asksAt) return;
        _asksAt = Behaviour.Never;
        foreach (ObjectForm o in Values.Form.Objects)
        {
            if (o.Flags.Contains('I', StringComparison.Ordinal) && _hears.FirstOrDefault(h => Array.IndexOf(h.Value, o.At) >= 0) is { Value: not null } first) _out.Enqueue(new GroupTelegram(first.Key, o.Type, 0, o.Priority, IsRead: true));
        }
    }

    /// <summary>What it keeps over a restart.</summary>
    public DeviceMemory Remember()
    {
        var channels = new Dictionary<string, System.Text.Json.JsonElement>();
        for (int c = 0; c < _channels.Length; c++)
        {
            if (_channels[c] is { } channel) channels[Values.Form.Channels[c].Key] = System.Text.Json.JsonSerializer.SerializeToElement(channel.Remember(), channel.MemoryType, Kept);
        }
        // What is not a number yet has never been driven.
        var driven = new Dictionary<string, IReadOnlyList<Course>>();
        for (int c = 0; c < _loads.Length; c++)
        {
            if (_loads[c].Length > 0 && _loads[c].All(l => double.IsFinite(l.To))) driven[Values.Form.Channels[c].Key] = [.. _loads[c]];
        }
        return new DeviceMemory(channels, Values.Form.Objects.Where(o => double.IsFinite(_values[o.At])).ToDictionary(o => o.Path, o => _values[o.At]), HasBus, HasMains, driven, _asksAt);
    }

    /// <summary>Takes up what a device of the same description remembered, channel by channel, where the channel does the same.</summary>
    public void Recall(DeviceMemory memory)
    {
        (HasBus, HasMains, _asksAt) = (memory.HasBus, memory.HasMains, memory.AsksAt);
        for (int c = 0; c < _channels.Length; c++)
        {
            if (memory.Driven?.GetValueOrDefault(Values.Form.Channels[c].Key) is { } driven && driven.Count == _loads[c].Length) _loads[c] = [.. driven];
            if (_channels[c] is not { } channel || !memory.Channels.TryGetValue(Values.Form.Channels[c].Key, out var kept)) continue;
            try
            {
                if (System.Text.Json.JsonSerializer.Deserialize(kept, channel.MemoryType, Kept) is { } state) channel.Recall(state);
            }
            catch (System.Text.Json.JsonException)
            {
                // It remembers in another form: it begins anew.
            }
        }
        foreach (var (path, value) in memory.Objects)
        {
            if (Values.Form.FindObject(path) is { } o) _values[o.At] = value;
        }
    }

    /// <inheritdoc/>
    void IBehaviourWorld.Because(ParameterDescription? setting, string fact) => (_by, _fact) = (setting, fact);

    /// <inheritdoc/>
    void IBehaviourWorld.Drive(Behaviour who, BehaviourPort what, Course course)
    {
        int channel = _channelOf[who];
        _loads[channel][what.At] = course;
        _teller?.Drove(this, channel, what, course, _by, _fact);
    }

    /// <inheritdoc/>
    void IBehaviourWorld.Say(Behaviour who, BehaviourObject what, double value, bool sends)
    {
        int at = _objectOf[_channelOf[who]][what.At];
        if (at < 0) return;
        ObjectForm o = Values.Form.Objects[at];
        _values[at] = value;
        sends = sends && HasBus && o.Sends;
        _teller?.Said(this, o, value, sends, _by, _fact);
        if (!sends || _sends[at] is not { } group) return;
        _out.Enqueue(new GroupTelegram(group, o.Type, value, o.Priority));
        // Others of its own objects in the group take it as they would from the bus; one answering another goes no further.
        if (_isAnswering || !_hears.TryGetValue(group, out int[]? objects) || objects.Length < 2) return;
        _isAnswering = true;
        try
        {
            for (int i = 0; i < objects.Length; i++)
            {
                ObjectForm other = Values.Form.Objects[objects[i]];
                if (other.At != at && other.Flags.Contains('W', StringComparison.Ordinal)) Take(_now, other, value);
            }
        }
        finally
        {
            _isAnswering = false;
        }
    }

    private static readonly System.Text.Json.JsonSerializerOptions Kept = new() { IncludeFields = true, NumberHandling = System.Text.Json.Serialization.JsonNumberHandling.AllowNamedFloatingPointLiterals };

    private long Delay => Values.Form.ParameterAt(-1, DeviceBehaviour.SendDelay.Key) is >= 0 and var at ? (long)((Parameters.Number(Values.ValueOf(at)) ?? 0) * 1000) : 0;

    private void Take(long now, ObjectForm o, double value)
    {
        _values[o.At] = value;
        _teller?.Heard(this, o, value);
        if (_channels[o.Channel] is not { } channel) return;
        Fresh();
        channel.Hear(now, o.Is, value);
    }

    // Each call has its own reason; what was decided last explains nothing of the next.
    private void Fresh() => (_by, _fact) = (null, "");
}
