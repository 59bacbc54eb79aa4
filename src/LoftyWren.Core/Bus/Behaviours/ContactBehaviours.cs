using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="ContactBehaviour"/> remembers.</summary>
public sealed class ContactState : BehaviourState
{
    /// <summary>Whether it is pressed; whether the press has become a long one; what it would toggle; which way it goes next; whether it is locked; its light.</summary>
    public bool Pressed, IsLong, Locked, Raw, HasBus = true;

    /// <summary>Whether its contact was ever sensed; before that it counts as open.</summary>
    public bool Sensed;

    /// <summary>What its objects are, as it knows: the first, the second, its light, what dimming or moving did last.</summary>
    public double First, Second, Status, Way = 1, Light = double.NaN;

    /// <summary>How many times it was pressed.</summary>
    public long Count;

    /// <summary>When a press becomes long, when bouncing is over, when something is sent again.</summary>
    public long LongAt = Behaviour.Never, SettledAt = Behaviour.Never, SayAt = Behaviour.Never;
}

/// <summary>
/// A contact: a push button or a binary input.
/// <list type="bullet">
/// <item>switch: pressing and releasing each switch on, off, over, or nothing.</item>
/// <item>dim: a short press switches over, a long one dims until it is released, brighter and darker in turn.</item>
/// <item>blind: a short press steps or stops, a long one moves, up and down in turn or always the same way.</item>
/// <item>scene: a short press recalls, a long one stores where that is allowed. value: a short press sends one value, a long one another. level: a short press switches the first object over, a long one the second.</item>
/// <item>state: says whether it is closed, and again every so often. count: counts and says so every so many.</item>
/// </list>
/// A press is long from <c>longPress</c> on; a contact is looked at <c>debounce</c> after it has moved. Its light shows what
/// its status object says, or is always on or off.
/// </summary>
public abstract class ContactBehaviour : Behaviour<ContactState>
{
    private readonly ContactDeclaration _d;
    private readonly string _function, _press, _release, _way, _light;
    private readonly long _longPress, _debounce, _every, _sendDelay;
    private readonly double _scene, _short, _long, _countEvery;
    private readonly bool _stores, _hasLong, _inverse, _hasLock;

    /// <summary>Makes one by its settings.</summary>
    private protected ContactBehaviour(ContactDeclaration declaration, SettingValues s)
    {
        ContactDeclaration d = _d = declaration;
        (_function, _press, _release, _way, _light) = (s.Text(d.Function), s.Text(d.Press), s.Text(d.Release), s.Text(d.Way), s.Text(d.Light));
        (_longPress, _debounce, _every, _sendDelay) = (s.Milliseconds(d.LongPress), s.Milliseconds(d.Debounce), s.Milliseconds(d.Every), s.Milliseconds(DeviceBehaviour.SendDelay));
        (_scene, _short, _long, _countEvery) = (s.Number(d.Scene) - 1, s.Number(d.Short), s.Number(d.Long), s.Number(d.CountEvery));
        (_stores, _hasLong, _inverse, _hasLock) = (s.Yes(d.Stores), s.Yes(d.HasLong), s.Text(d.Contact) == "opens", s.Yes(d.Lock));
    }

    /// <inheritdoc/>
    public override long NextDue => !S.HasBus || _function == BehaviourKind.Disabled ? Never : Sooner(S.LongAt, S.SettledAt, S.SayAt);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake == Wake.Mains || _function == BehaviourKind.Disabled) return;
        S.HasBus = true;
        // The contact is taken as it is found: a press or release during the failure is ignored, and a state is the present one.
        if (!S.Sensed) S.Raw = _inverse;
        (S.Pressed, S.IsLong, S.LongAt, S.SettledAt) = (S.Raw, false, Never, Never);
        S.SayAt = _function == "state" ? FirstSendAt(now, _sendDelay) : Never;
        Lit(now);
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
        if (!S.HasBus || _function == BehaviourKind.Disabled) return;
        if (what == _d.Switch) S.First = value;
        else if (what == _d.SecondObject) S.Second = value;
        else if (what == _d.StatusObject)
        {
            S.Status = value;
            S.First = value;
            Lit(now);
        }
        else if (what == _d.LockObject && _hasLock)
        {
            S.Locked = value >= 0.5;
            if (!S.Locked) return;
            // A dimming run is stopped now, since the button cannot stop it while it is locked.
            if (S.IsLong) Let();
            (S.LongAt, S.IsLong) = (Never, false);
        }
    }

    /// <inheritdoc/>
    public override void Sense(long now, BehaviourPort what, double value)
    {
        if (_function == BehaviourKind.Disabled) return;
        (S.Raw, S.Sensed) = (value >= 0.5 != _inverse, true);
        if (!S.HasBus) return;
        if (_debounce == 0) Settled(now);
        else S.SettledAt = now + _debounce;
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (!S.HasBus || _function == BehaviourKind.Disabled) return;
        if (now >= S.SettledAt)
        {
            S.SettledAt = Never;
            Settled(now);
        }
        if (now >= S.LongAt)
        {
            (S.LongAt, S.IsLong) = (Never, true);
            Held();
        }
        if (now < S.SayAt) return;
        S.SayAt = _every > 0 ? now + _every : Never;
        Because(_every > 0 ? _d.Every : DeviceBehaviour.SendDelay, "its state once more");
        Say(_d.Switch, S.Pressed ? 1 : 0);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply != Supply.Bus) return;
        (S.HasBus, S.IsLong, S.LongAt, S.SettledAt, S.SayAt) = (false, false, Never, Never, Never);
    }

    private void Settled(long now)
    {
        if (S.Raw == S.Pressed) return;
        S.Pressed = S.Raw;
        if (_function == "state")
        {
            Because(_d.Function, S.Pressed ? "closed" : "opened");
            Say(_d.Switch, S.Pressed ? 1 : 0);
            if (_every > 0) S.SayAt = now + _every;
            return;
        }
        if (_function == "count")
        {
            if (!S.Pressed) return;
            S.Count++;
            if (S.Count % Math.Max(1, (long)_countEvery) != 0) return;
            Because(_d.CountEvery, "so many more were counted");
            Say(_d.CountObject, S.Count % 4_294_967_296);
            return;
        }
        if (S.Locked) return;
        if (_function == "switch")
        {
            Switched(S.Pressed ? _press : _release, S.Pressed ? _d.Press : _d.Release, S.Pressed ? "pressed" : "released");
            return;
        }
        if (S.Pressed)
        {
            S.IsLong = false;
            if (HasLong) S.LongAt = now + _longPress;
            else Short(now);
            return;
        }
        bool wasLong = S.IsLong, waited = S.LongAt != Never;
        (S.LongAt, S.IsLong) = (Never, false);
        if (wasLong) Let();
        else if (waited) Short(now);
    }

    private bool HasLong => _function is "dim" or "blind" or "level" || (_function == "scene" && _stores) || (_function == "value" && _hasLong);

    private void Switched(string how, ParameterDescription by, string fact)
    {
        if (how == "none") return;
        S.First = how switch { "on" => 1, "off" => 0, _ => S.First >= 0.5 ? 0 : 1 };
        Because(by, fact);
        Say(_d.Switch, S.First);
    }

    private void Short(long now)
    {
        switch (_function)
        {
            case "dim":
                Switched("toggle", _d.Function, "a short press");
                break;
            case "blind":
                Because(_d.Function, "a short press");
                // What stands turns its slats the way it was moved last; what moves is stopped by either.
                Say(_d.StepObject, _way == "up" ? 0 : _way == "down" ? 1 : S.Way > 0 ? 1 : 0);
                break;
            case "scene":
                Because(_d.Scene, "a short press");
                Say(_d.SceneObject, _scene);
                break;
            case "value":
                Because(_d.Short, "a short press");
                Say(_d.ValueObject, _short);
                break;
            case "level":
                Switched("toggle", _d.Function, "a short press");
                break;
        }
    }

    private void Held()
    {
        Because(_d.LongPress, "a long press");
        switch (_function)
        {
            case "dim":
                S.Way = _way == "up" ? 1 : _way == "down" ? -1 : S.First >= 0.5 ? -S.Way : 1;
                Say(_d.DimObject, S.Way > 0 ? 9 : 1);
                S.First = 1;
                break;
            case "blind":
                S.Way = _way == "up" ? -1 : _way == "down" ? 1 : -S.Way;
                Say(_d.MoveObject, S.Way > 0 ? 1 : 0);
                break;
            case "scene":
                Say(_d.SceneObject, _scene + 128);
                break;
            case "value":
                Say(_d.ValueObject, _long);
                break;
            case "level":
                S.Second = S.Second >= 0.5 ? 0 : 1;
                Say(_d.SecondObject, S.Second);
                break;
        }
    }

    private void Let()
    {
        if (_function != "dim") return;
        Because(_d.LongPress, "released after a long press");
        Say(_d.DimObject, S.Way > 0 ? 8 : 0);
    }

    private void Lit(long now)
    {
        if (_d.LightPort.At < 0) return;
        double light = _light switch { "on" => 1, "status" => S.Status >= 0.5 ? 1 : 0, _ => 0 };
        if (light == S.Light) return;
        S.Light = light;
        Because(_d.Light, "its light follows");
        Drive(now, _d.LightPort, light);
    }
}

/// <summary>Settings, objects and ports of one kind of contact.</summary>
internal sealed class ContactDeclaration
{
    private static readonly ParameterDescription
        WhichScene = Parameters.Numbered("sceneNumber", "Scene", "Its number, 1 to 64.", 1, 1, 64, step: 1).If("function = scene"),
        StateAgain = Parameters.Time("stateEvery", "State again every", "It is sent when it changes, and again so often; 0: only then.", 0, 0, 86_400).If("function = state");

    private const string InUse = "function != disabled";

    public ContactDeclaration(string key, string name, bool isButton, Func<ContactDeclaration, SettingValues, Behaviour> make)
    {
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What it is for.", ("switch", "Switch"), ("dim", "Dim"), ("blind", "Blind"), ("scene", "Scene"), ("value", "Value"), ("level", "Two levels"), ("state", "State"), ("count", "Counter"), (BehaviourKind.Disabled, "Disabled"));
        if (!isButton) Function = Function with { Default = "state" };
        Debounce = Parameters.Time("debounce", "Debounce", "How long a contact must be quiet before it counts.", isButton ? 0.02 : 0.05, 0, 1).If(InUse);
        Kind = new BehaviourKind(key, name,
            [Function, Contact, Press, Release, Way, LongPress, Scene, Stores, Short, HasLong, Long, CountEvery, Every, Debounce, .. isButton ? [Light] : Array.Empty<ParameterDescription>(), Lock, DeviceBehaviour.SendDelay],
            [Switch, DimObject, MoveObject, StepObject, SceneObject, ValueObject, SecondObject, CountObject, StatusObject, LockObject], [new BehaviourPort("contact", "{channel}") { States = ["open", "closed"] }], isButton ? [LightPort] : [], s => make(this, s));
    }

    public BehaviourKind Kind { get; }

    public ParameterDescription Function { get; }

    public ParameterDescription Debounce { get; }

    public ParameterDescription Contact { get; } = Parameters.Choice("contact", "Contact", "What counts as pressed.", ("closes", "closed"), ("opens", "open")).If(InUse);

    public ParameterDescription Press { get; } = Parameters.Choice("press", "When pressed", "What it says.", ("toggle", "over"), ("on", "on"), ("off", "off"), ("none", "nothing")).If("function = switch");

    public ParameterDescription Release { get; } = Parameters.Choice("release", "When released", "What it says.", ("none", "nothing"), ("on", "on"), ("off", "off"), ("toggle", "over")).If("function = switch");

    public ParameterDescription Way { get; } = Parameters.Choice("way", "Direction", "Which way a long press goes.", ("turn", "in turn"), ("up", "brighter, or up"), ("down", "darker, or down")).If("function in dim, blind");

    public ParameterDescription LongPress { get; } = Parameters.Time("longPress", "A press is long from", "How long it must be pressed.", 0.4, 0.2, 5).If("function in dim, blind, level or (function = scene and stores) or (function = value and hasLong)");

    public ParameterDescription Scene { get; } = WhichScene;

    public ParameterDescription Stores { get; } = Parameters.YesNo("stores", "A long press stores it", "Whether the scene may be stored from here.").If("function = scene");

    public ParameterDescription Short { get; } = Parameters.Percent("shortValue", "Value of a short press", "What it sends.", 100).If("function = value");

    public ParameterDescription HasLong { get; } = Parameters.YesNo("hasLong", "A long press sends another", "Whether it does.").If("function = value");

    public ParameterDescription Long { get; } = Parameters.Percent("longValue", "Value of a long press", "What it sends.", 0).If("function = value and hasLong");

    public ParameterDescription CountEvery { get; } = Parameters.Numbered("countEvery", "Sends every", "After how many it says its count.", 10, 1, 10_000, "pulses", 1).If("function = count");

    public ParameterDescription Every { get; } = StateAgain;

    public ParameterDescription Light { get; } = Parameters.Choice("light", "Light", "What its light shows.", ("off", "nothing"), ("on", "always on"), ("status", "what its status object says")).If("function in switch, dim, blind, scene, value, level");

    public ParameterDescription Lock { get; } = Parameters.YesNo("lock", "Lock", "Whether it can be locked.").If("function in switch, dim, blind, scene, value, level");

    public BehaviourObject Switch { get; } = new("switch", "{channel} · switch", "1.001", "CWTU", "switch sender") { When = "function in switch, dim, level, state", Again = StateAgain };

    public BehaviourObject DimObject { get; } = new("dim", "{channel} · dim", "3.007", "CT", "dim sender") { When = "function = dim" };

    public BehaviourObject MoveObject { get; } = new("move", "{channel} · up or down", "1.008", "CT", "move sender") { When = "function = blind" };

    public BehaviourObject StepObject { get; } = new("stepIt", "{channel} · step or stop", "1.007", "CT", "step sender") { When = "function = blind" };

    public BehaviourObject SceneObject { get; } = new("scene", "{channel} · scene", "18.001", "CT", "scene sender") { When = "function = scene", Scenes = WhichScene };

    public BehaviourObject ValueObject { get; } = new("value", "{channel} · value", "5.001", "CT", "value sender") { When = "function = value" };

    public BehaviourObject SecondObject { get; } = new("second", "{channel} · second level", "1.001", "CWTU", "second sender") { When = "function = level" };

    public BehaviourObject CountObject { get; } = new("count", "{channel} · count", "12.001", "CRT", "count") { When = "function = count" };

    public BehaviourObject StatusObject { get; } = new("status", "{channel} · status", "1.001", "CWU", "switch listener") { When = "function in switch, dim, scene, value, level" };

    public BehaviourObject LockObject { get; } = new("lockIt", "{channel} · lock", "1.003", "CW", "lock") { When = "function in switch, dim, blind, scene, value, level and lock" };

    public BehaviourPort LightPort { get; } = new("light", "{channel} · light") { States = ["off", "on"] };
}

/// <summary>A push button.</summary>
public sealed class ButtonBehaviour : ContactBehaviour
{
    private static readonly ContactDeclaration Declared = new("button", "Push button", true, (d, s) => new ButtonBehaviour(d, s));

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind => Declared.Kind;

    private ButtonBehaviour(ContactDeclaration d, SettingValues s)
        : base(d, s)
    {
    }
}

/// <summary>A binary input.</summary>
public sealed class BinaryInputBehaviour : ContactBehaviour
{
    private static readonly ContactDeclaration Declared = new("binaryInput", "Binary input", false, (d, s) => new BinaryInputBehaviour(d, s));

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind => Declared.Kind;

    private BinaryInputBehaviour(ContactDeclaration d, SettingValues s)
        : base(d, s)
    {
    }
}
