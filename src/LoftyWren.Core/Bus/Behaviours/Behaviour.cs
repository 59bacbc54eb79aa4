using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>A communication object as a behaviour uses it.</summary>
/// <param name="Key">What descriptions call it.</param>
/// <param name="Name">What people call it; <c>{channel}</c> stands for the channel.</param>
/// <param name="Type">Its datapoint type.</param>
/// <param name="Flags">Its flags.</param>
/// <param name="Part">What it is in a conversation: switch, switch state, dim …; empty: it takes no part in one.</param>
public sealed record BehaviourObject(string Key, string Name, string Type, string Flags, string Part = "")
{
    /// <summary>When it is there, by the settings of the behaviour.</summary>
    public string? When { get; init; }

    /// <summary>How urgent what it sends is.</summary>
    public BusPriority Priority { get; init; } = BusPriority.Low;

    /// <summary>The objects, by key, that may be said because this one was heard.</summary>
    public IReadOnlyList<string> Passes { get; init; } = [];

    /// <summary>The setting that says how often it is said again though nothing has changed, s; null where it never is.</summary>
    public ParameterDescription? Again { get; init; }

    /// <summary>The setting that says within what time it must be heard again lest it counts as lost, s, 0 for never; null where nobody waits for it.</summary>
    public ParameterDescription? Watch { get; init; }

    /// <summary>The setting, repeated or not, that says which scenes it calls or answers to, from 1; null where it is about none.</summary>
    public ParameterDescription? Scenes { get; init; }

    /// <summary>Its place among the objects of its behaviour.</summary>
    internal int At { get; set; } = -1;
}

/// <summary>Something that a behaviour senses, or that it drives: a contact, a relay, a level.</summary>
/// <param name="Key">What it is called.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Unit">Its unit; empty for a contact or a relay.</param>
/// <param name="Low">The least it is.</param>
/// <param name="High">The most it is.</param>
public sealed record BehaviourPort(string Key, string Name, string Unit = "", double Low = 0, double High = 1)
{
    /// <summary>Its states in words, where it is no number.</summary>
    public IReadOnlyList<string>? States { get; init; }

    /// <summary>What it is in a building (see <see cref="Plant.PlantQuantities"/>): of what senses the quantity of its room or, where that says so, of the weather; of what drives that of its equipment. Null for what is nothing there.</summary>
    public string? Quantity { get; init; }

    /// <summary>Of a position that a device reckons from how long a motor ran: that motor, −1 to 1. What really stands in the building is moved by it, and need not be where the device believes. Null for what stands as it is driven.</summary>
    public BehaviourPort? MovedBy { get; init; }

    /// <summary>Whether what it senses is the weather.</summary>
    public bool IsOutdoors { get; init; }

    /// <summary>Its place among those of its behaviour.</summary>
    internal int At { get; set; } = -1;

    /// <summary>A value in words.</summary>
    public string Say(double value) => States is { } states && (int)Math.Round(value - Low) is var i && i >= 0 && i < states.Count ? states[i] : $"{Math.Round(value, 1)}{(Unit.Length > 0 ? " " + Unit : "")}";
}

/// <summary>
/// All there is to a behaviour: what can be set on it, what it says and hears, senses and drives, and what makes one. What it
/// does is the class that <see cref="Make"/> makes.
/// </summary>
public sealed class BehaviourKind
{
    /// <summary>The setting that says what a channel is for, and its value for nothing.</summary>
    public const string FunctionKey = "function", Disabled = "disabled";

    /// <summary>Declares a behaviour.</summary>
    public BehaviourKind(string key, string name, IReadOnlyList<ParameterDescription> settings, IReadOnlyList<BehaviourObject> objects, IReadOnlyList<BehaviourPort> senses, IReadOnlyList<BehaviourPort> drives, Func<SettingValues, Behaviour> make)
    {
        (Key, Name, Settings, Objects, Senses, Drives, Make) = (key, name, settings, objects, senses, drives, make);
        for (int i = 0; i < objects.Count; i++) objects[i].At = i;
        for (int i = 0; i < senses.Count; i++) senses[i].At = i;
        for (int i = 0; i < drives.Count; i++) drives[i].At = i;
    }

    /// <summary>What descriptions call it.</summary>
    public string Key { get; }

    /// <summary>What people call it.</summary>
    public string Name { get; }

    /// <summary>What can be set on it.</summary>
    public IReadOnlyList<ParameterDescription> Settings { get; }

    /// <summary>What it says and hears.</summary>
    public IReadOnlyList<BehaviourObject> Objects { get; }

    /// <summary>What it senses.</summary>
    public IReadOnlyList<BehaviourPort> Senses { get; }

    /// <summary>What it drives.</summary>
    public IReadOnlyList<BehaviourPort> Drives { get; }

    /// <summary>Makes one by the settings of a channel.</summary>
    public Func<SettingValues, Behaviour> Make { get; }

    /// <summary>Whether it counts hours, cycles and energy; see <see cref="IMetered"/>.</summary>
    public bool IsMetered => Setting(MeterSettings.Key) is not null;

    /// <summary>The setting with a key, or null; of a repeated one the declaration.</summary>
    public ParameterDescription? Setting(string key)
    {
        foreach (ParameterDescription setting in Settings)
        {
            if (setting.Key == key || (setting.Repeat is not null && key.StartsWith(setting.Key[..setting.Key.IndexOf('{', StringComparison.Ordinal)], StringComparison.Ordinal))) return setting;
        }
        return null;
    }
}

/// <summary>The registry of behaviours.</summary>
public static class BehaviourKinds
{
    /// <summary>All of them.</summary>
    public static IReadOnlyList<BehaviourKind> All { get; } =
    [
        DeviceBehaviour.AsKind, SwitchingBehaviour.AsKind, DimmingBehaviour.AsKind, BlindBehaviour.AsKind, PresenceBehaviour.AsKind, ButtonBehaviour.AsKind, BinaryInputBehaviour.AsKind, AnalogInputBehaviour.AsKind,
        FanCoilBehaviour.AsKind, RoomControlBehaviour.AsKind, WeatherBehaviour.AsKind, FunctionBehaviour.AsKind,
    ];

    /// <summary>The behaviour with a key, or null.</summary>
    public static BehaviourKind? Find(string key)
    {
        foreach (BehaviourKind kind in All)
        {
            if (kind.Key == key) return kind;
        }
        return null;
    }
}

/// <summary>What a behaviour is told of its settings, each by its declaration; what the device does not offer is as it begins.</summary>
public readonly struct SettingValues(DeviceValues values, int channel)
{
    /// <summary>A value as it is kept.</summary>
    public string Text(ParameterDescription setting, int i = 0)
    {
        int at = values.Form.ParameterAt(channel, i > 0 ? setting.Key.Replace("{i}", $"{i}", StringComparison.Ordinal) : setting.Key);
        return at >= 0 ? values.ValueOf(at) : setting.Begins;
    }

    /// <summary>A number, a percentage.</summary>
    public double Number(ParameterDescription setting, int i = 0) => Parameters.Number(Text(setting, i)) ?? 0;

    /// <summary>A stretch of time, ms.</summary>
    public long Milliseconds(ParameterDescription setting, int i = 0) => (long)Math.Round(Number(setting, i) * 1000);

    /// <summary>Yes or no.</summary>
    public bool Yes(ParameterDescription setting, int i = 0) => Text(setting, i) == Parameters.Yes;

    /// <summary>The number of the channel among those alike, from 1.</summary>
    public int ChannelNumber => values.Form.Channels[channel].Number;
}

/// <summary>What made a behaviour begin.</summary>
public enum Wake
{
    /// <summary>It was put to work, or got other settings.</summary>
    New,
    /// <summary>The bus came back.</summary>
    Bus,
    /// <summary>The mains came back.</summary>
    Mains,
}

/// <summary>What a device can lose.</summary>
public enum Supply
{
    /// <summary>The bus: it hears and says nothing, and what lives from the bus stands still.</summary>
    Bus,
    /// <summary>The mains: loads have no power.</summary>
    Mains,
}

/// <summary>A quantity on its way, straight from one value at one moment (ms of site time) to another at another; before and after it stands.</summary>
public readonly record struct Course(long From, double At, long Until, double To)
{
    /// <summary>One that stands.</summary>
    public static Course Standing(long now, double value) => new(now, value, now, value);

    /// <summary>What it is at a moment.</summary>
    public double Now(long now) => now >= Until || Until <= From ? To : now <= From ? At : At + ((To - At) * (now - From) / (Until - From));

    /// <summary>Whether it still moves at a moment.</summary>
    public bool Moves(long now) => now < Until && At != To;
}

/// <summary>What a behaviour lives in: who carries what it says and moves what it drives.</summary>
public interface IBehaviourWorld
{
    /// <summary>An object has a value; it is sent, or only answered when it is asked for.</summary>
    void Say(Behaviour who, BehaviourObject what, double value, bool sends);

    /// <summary>Something is driven along a course.</summary>
    void Drive(Behaviour who, BehaviourPort what, Course course);

    /// <summary>Why what comes next comes: the setting that decides it, or none, and a fact.</summary>
    void Because(ParameterDescription? setting, string fact);

    /// <summary>By how much longer than its set delay this device waits with its first telegrams after the bus has returned, ms: devices of one line do not transmit at once.</summary>
    long StaggerMilliseconds { get; }
}

/// <summary>
/// What a channel of a bus device does: a state machine that is told what comes (from the bus, from its contacts and sensors,
/// from its supplies) and at which moment it must run next. Time is ms of site time and comes with each call, never going
/// back. The same calls at the same times always come to the same; no call allocates.
/// </summary>
public abstract class Behaviour
{
    /// <summary>A moment that does not come.</summary>
    public const long Never = long.MaxValue;

    /// <summary>Whom it talks to; set before anything else is called.</summary>
    public IBehaviourWorld World { get; set; } = Nobody.Is;

    /// <summary>When it must run next; <see cref="Never"/> only when something comes.</summary>
    public abstract long NextDue { get; }

    /// <summary>It begins, or goes on after a supply came back.</summary>
    public abstract void Begin(long now, Wake wake);

    /// <summary>An object was written.</summary>
    public abstract void Hear(long now, BehaviourObject what, double value);

    /// <summary>Something that it senses is otherwise.</summary>
    public virtual void Sense(long now, BehaviourPort what, double value)
    {
    }

    /// <summary>Does all that is due by then.</summary>
    public abstract void Run(long now);

    /// <summary>A supply is gone.</summary>
    public virtual void Lose(long now, Supply supply)
    {
    }

    /// <summary>What it remembers; nobody changes what is handed out.</summary>
    public abstract object Remember();

    /// <summary>The type of that.</summary>
    public abstract Type MemoryType { get; }

    /// <summary>Takes up what one of the same kind remembered.</summary>
    public abstract void Recall(object memory);

    /// <summary>The earlier of some moments.</summary>
    protected static long Sooner(long a, long b, long c = Never, long d = Never, long e = Never, long f = Never) => Math.Min(Math.Min(Math.Min(a, b), Math.Min(c, d)), Math.Min(e, f));

    /// <summary>A moment so many ms from another; never stays never.</summary>
    protected static long After(long from, long milliseconds) => from >= Never - milliseconds ? Never : from + milliseconds;

    /// <summary>Says a value, which is sent.</summary>
    protected void Say(BehaviourObject what, double value) => World.Say(this, what, value, true);

    /// <summary>Has a value ready for whoever asks.</summary>
    protected void Keep(BehaviourObject what, double value) => World.Say(this, what, value, false);

    /// <summary>Drives something to a value at once.</summary>
    protected void Drive(long now, BehaviourPort what, double value) => World.Drive(this, what, Course.Standing(now, value));

    /// <summary>When the first telegrams after bus return are sent: after the delay that is set (ms), and the device's own share of it.</summary>
    protected long FirstSendAt(long now, long sendDelay) => After(now, sendDelay + World.StaggerMilliseconds);

    /// <summary>Why what comes next comes.</summary>
    protected void Because(ParameterDescription? setting, string fact) => World.Because(setting, fact);

    private sealed class Nobody : IBehaviourWorld
    {
        public static Nobody Is { get; } = new();

        public long StaggerMilliseconds => 0;

        public void Say(Behaviour who, BehaviourObject what, double value, bool sends)
        {
        }

        public void Drive(Behaviour who, BehaviourPort what, Course course)
        {
        }

        public void Because(ParameterDescription? setting, string fact)
        {
        }
    }
}

/// <summary>A behaviour with its state: what it remembers over restarts, by name.</summary>
/// <typeparam name="TState">Public fields of numbers, truths and arrays of them.</typeparam>
public abstract class Behaviour<TState> : Behaviour
    where TState : BehaviourState, new()
{
    /// <summary>Its state.</summary>
    protected TState S { get; private set; } = new();

    /// <inheritdoc/>
    public override object Remember() => S.Copy();

    /// <inheritdoc/>
    public override Type MemoryType => typeof(TState);

    /// <inheritdoc/>
    public override void Recall(object memory)
    {
        if (memory is TState state) S = (TState)state.Copy();
    }
}

/// <summary>What a behaviour remembers.</summary>
public abstract class BehaviourState
{
    /// <summary>Another of the same values.</summary>
    public virtual BehaviourState Copy() => (BehaviourState)MemberwiseClone();
}
