using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="RoomRegulator"/> remembers.</summary>
public sealed class RegulatorState
{
    /// <summary>What it measures and what the bus told, °C, and when the latter is too old.</summary>
    public double Local = double.NaN, Bus = double.NaN;

    /// <summary>As <see cref="Local"/>.</summary>
    public long BusUntil = Behaviour.Never;

    /// <summary>The mode by schedule, the forced one; whether a window is open, somebody there, comfort prolonged until when, water dripping soon, which water there is.</summary>
    public int Mode, Forced;

    /// <summary>As <see cref="Mode"/>.</summary>
    public bool Window, Presence, Dew, HeatingWater = true;

    /// <summary>As <see cref="Mode"/>.</summary>
    public long ComfortUntil = Behaviour.Never;

    /// <summary>The comfort setpoint as told, °C; what people shifted it by, K.</summary>
    public double Setpoint = double.NaN, Shift;

    /// <summary>What it sums up of heating and of cooling, % ; what it asks for, %; whether it was heating last.</summary>
    public double HeatSum, CoolSum, Heat, Cool;

    /// <summary>What was said last: setpoint, mode, temperature.</summary>
    public double SaidSetpoint = double.NaN, SaidMode = double.NaN, SaidTemperature = double.NaN;

    /// <summary>When the temperature was said last.</summary>
    public long SaidTemperatureAt;

    /// <summary>When it looks next; since when there has been no temperature at all.</summary>
    public long LooksAt = Behaviour.Never, WithoutSince = Behaviour.Never;

    /// <summary>Whether the temperature of the bus was told as lost; whether that is to be told once more.</summary>
    public bool IsLost, SaysLost;

    /// <summary>Another of the same values.</summary>
    public RegulatorState Copy() => (RegulatorState)MemberwiseClone();
}

/// <summary>
/// The regulation of a room that room controllers and fan-coil actuators share. Every 10 s it looks at the temperature (its
/// own, that of the bus, or both by weight; the other alone when one is lost), finds the mode in force — an open window, then
/// a forced mode, then presence or prolonged comfort, then the mode by schedule, then that of <c>startMode</c> — and from it
/// the setpoints of heating and cooling with the dead zone between them. What it asks for is PI:
/// 100 % / band · (e + ∫e dt / reset), each within 0 to 100 %, its sum held where it would leave them.
/// </summary>
internal sealed class RoomRegulator
{
    /// <summary>How often it looks, ms.</summary>
    public const long Period = 10_000;

    // How long there may be no temperature before heating takes its position for that, ms; and the cycle in which a drive that is only open or closed gives a share of time, ms.
    private const long Grace = 300_000, ShareCycle = 900_000;

    private readonly RegulatorSettings _d;
    private readonly string _system, _source;
    private readonly double _comfort, _deadZone, _standby, _economy, _frost, _hot, _mostShift, _weight, _heatBand, _heatReset, _coolBand, _coolReset, _without;
    private readonly int _startMode;
    private readonly long _watch, _prolong, _measuredEvery;
    private readonly bool _windowCounts, _presenceCounts;

    public RoomRegulator(RegulatorSettings d, SettingValues s)
    {
        _d = d;
        (_system, _source) = (s.Text(d.System), s.Text(d.Source));
        (_comfort, _deadZone, _standby, _economy, _frost, _hot, _mostShift) = (s.Number(d.Comfort), s.Number(d.DeadZone), s.Number(d.StandbyBy), s.Number(d.EconomyBy), s.Number(d.Frost), s.Number(d.Hot), s.Number(d.MostShift));
        (_weight, _heatBand, _heatReset, _coolBand, _coolReset) = (s.Number(d.Weight) / 100, s.Number(d.HeatBand), s.Number(d.HeatReset), s.Number(d.CoolBand), s.Number(d.CoolReset));
        (_startMode, _watch, _prolong) = (Modes.NumberOf(s.Text(d.StartMode)), s.Milliseconds(d.Watch), s.Milliseconds(d.Prolong));
        _measuredEvery = s.Milliseconds(d.MeasuredEvery);
        _without = s.Number(d.Without);
        (_windowCounts, _presenceCounts) = (s.Yes(d.WindowCounts), s.Yes(d.PresenceCounts));
    }

    /// <summary>Whether it heats, and cools, at all.</summary>
    public bool Heats => _system != "cooling";

    /// <summary>As <see cref="Heats"/>.</summary>
    public bool Cools => _system != "heating";

    private bool HearsBus => _source != "local";

    /// <summary>It begins, or the bus is back: what is said is said once more, and a temperature of the bus has its time from now on.</summary>
    public void Begin(RegulatorState s, long now, Wake wake)
    {
        if (wake == Wake.Mains) return;
        (s.SaysLost, s.SaidSetpoint, s.SaidMode, s.SaidTemperature) = (wake == Wake.Bus || s.IsLost, double.NaN, double.NaN, double.NaN);
        s.BusUntil = HearsBus && _watch > 0 && !s.IsLost ? now + _watch : Behaviour.Never;
    }

    /// <summary>Whether a drive that is only open or closed is open while there is no temperature: for the share of time that is asked for.</summary>
    public static bool IsOpenWithout(RegulatorState s, long now) => now % ShareCycle < s.Heat / 100 * ShareCycle;

    /// <summary>The temperature that counts, °C; not a number where there is none.</summary>
    public double Temperature(RegulatorState s) => _source switch
    {
        "bus" => double.IsNaN(s.Bus) ? s.Local : s.Bus,
        "both" => double.IsNaN(s.Bus) ? s.Local : double.IsNaN(s.Local) ? s.Bus : (_weight * s.Local) + ((1 - _weight) * s.Bus),
        _ => double.IsNaN(s.Local) ? s.Bus : s.Local,
    };

    /// <summary>The mode in force, and which of its sources decides.</summary>
    public int Mode(RegulatorState s, long now, out ParameterDescription by)
    {
        if (s.Window && _windowCounts)
        {
            by = _d.WindowCounts;
            return Modes.Protection;
        }
        by = _d.StartMode;
        if (s.Forced != Modes.Auto) return s.Forced;
        if (s.Presence && _presenceCounts)
        {
            by = _d.PresenceCounts;
            return Modes.Comfort;
        }
        if (s.ComfortUntil != Behaviour.Never && now < s.ComfortUntil)
        {
            by = _d.Prolong;
            return Modes.Comfort;
        }
        return s.Mode != Modes.Auto ? s.Mode : _startMode;
    }

    /// <summary>The setpoints of heating and of cooling in a mode, °C.</summary>
    public (double Heating, double Cooling) Setpoints(RegulatorState s, int mode)
    {
        if (mode == Modes.Protection) return (_frost, _hot);
        double comfort = (double.IsNaN(s.Setpoint) ? _comfort : s.Setpoint) + s.Shift, by = mode == Modes.Standby ? _standby : mode == Modes.Economy ? _economy : 0;
        return _system == "cooling" ? (comfort - by, comfort + by) : (comfort - by, comfort + _deadZone + by);
    }

    /// <summary>Takes a telegram that is about the regulation; answers whether it was.</summary>
    public bool Hear(RegulatorState s, long now, BehaviourObject what, double value)
    {
        if (what == _d.ModeObject) s.Mode = (int)Math.Clamp(value, 0, 4);
        else if (what == _d.ForcedObject) s.Forced = (int)Math.Clamp(value, 0, 4);
        else if (what == _d.WindowObject) s.Window = value >= 0.5;
        else if (what == _d.PresenceObject) s.Presence = value >= 0.5;
        else if (what == _d.ProlongObject) s.ComfortUntil = value >= 0.5 && _prolong > 0 ? now + _prolong : Behaviour.Never;
        else if (what == _d.SetpointObject) s.Setpoint = Math.Clamp(value, 5, 40);
        else if (what == _d.ShiftObject) s.Shift = Math.Clamp(value, -_mostShift, _mostShift);
        else if (what == _d.BusObject)
        {
            s.Bus = value;
            s.BusUntil = _watch > 0 ? now + _watch : Behaviour.Never;
        }
        else if (what == _d.WaterObject) s.HeatingWater = value >= 0.5;
        else if (what == _d.DewObject) s.Dew = value >= 0.5;
        else return false;
        return true;
    }

    /// <summary>Looks: finds what is asked for, and says what is otherwise. <paramref name="passed"/> is the time since the last look, s.</summary>
    public void Look(RegulatorState s, long now, double passed, Behaviour who)
    {
        if (now >= s.BusUntil)
        {
            (s.Bus, s.BusUntil, s.IsLost) = (double.NaN, Behaviour.Never, true);
            who.World.Because(_d.Watch, "no temperature came from the bus for too long");
            who.World.Say(who, _d.LostObject, 1, true);
        }
        else if (s.IsLost && !double.IsNaN(s.Bus))
        {
            s.IsLost = false;
            who.World.Because(_d.Watch, "a temperature has come from the bus again");
            who.World.Say(who, _d.LostObject, 0, true);
        }
        else if (s.SaysLost && HearsBus && _watch > 0) who.World.Say(who, _d.LostObject, s.IsLost ? 1 : 0, true);
        s.SaysLost = false;
        if (now >= s.ComfortUntil) s.ComfortUntil = Behaviour.Never;
        int mode = Mode(s, now, out ParameterDescription by);
        var (heating, cooling) = Setpoints(s, mode);
        double temperature = Temperature(s);
        if (double.IsNaN(temperature))
        {
            s.WithoutSince = Math.Min(s.WithoutSince, now);
            // Blind regulation does not let the room freeze.
            bool isWithout = s.IsLost || now - s.WithoutSince >= Grace;
            if (isWithout) who.World.Because(_d.Without, "there is no temperature");
            (s.Heat, s.Cool, s.HeatSum, s.CoolSum) = (isWithout && Heats ? _without : 0, 0, 0, 0);
        }
        else
        {
            s.WithoutSince = Behaviour.Never;
            s.Heat = Heats ? Answer(heating - temperature, _heatBand, _heatReset, passed, ref s.HeatSum) : 0;
            s.Cool = Cools ? Answer(temperature - cooling, _coolBand, _coolReset, passed, ref s.CoolSum) : 0;
        }
        if (mode != s.SaidMode)
        {
            s.SaidMode = mode;
            who.World.Because(by, "another mode is in force");
            who.World.Say(who, _d.ModeState, mode, true);
        }
        double setpoint = s.Cool > 0 || !Heats ? cooling : heating;
        if (setpoint != s.SaidSetpoint)
        {
            s.SaidSetpoint = setpoint;
            who.World.Because(by, "another setpoint is in force");
            who.World.Say(who, _d.SetpointState, setpoint, true);
        }
        if (double.IsNaN(temperature)) return;
        bool hasMoved = !(Math.Abs(temperature - s.SaidTemperature) < 0.2);
        if (!hasMoved && !(_measuredEvery > 0 && now - s.SaidTemperatureAt >= _measuredEvery)) return;
        (s.SaidTemperature, s.SaidTemperatureAt) = (temperature, now);
        if (hasMoved) who.World.Because(_d.Source, "the temperature has moved by 0.2 K");
        else who.World.Because(_d.MeasuredEvery, "the temperature is said again");
        who.World.Say(who, _d.TemperatureState, temperature, true);
    }

    private static double Answer(double error, double band, double reset, double passed, ref double sum)
    {
        double now = 100 / band * error;
        if (reset <= 0)
        {
            sum = 0;
            return Math.Clamp(now, 0, 100);
        }
        double next = sum + (now * passed / reset);
        // The sum does not run away while the answer stands at an end.
        if ((now + next <= 100 || next < sum) && (now + next >= 0 || next > sum)) sum = next;
        sum = Math.Clamp(sum, 0, 100);
        return Math.Clamp(now + sum, 0, 100);
    }
}

/// <summary>Settings and objects of one kind of regulation; each behaviour has its own.</summary>
internal sealed class RegulatorSettings(string? when = null)
{
    // Of settings of the same regulation, so made once those are there.
    private BehaviourObject? _busObject, _temperatureState;

    // What is about the regulation itself is there where there is one.
    private static string? Own(string? when, string? of) => when is null ? of : of is null ? when : $"({of}) and {when}";

    public ParameterDescription System { get; } = Parameters.Choice("system", "The room is", "Which of both there is.", ("both", "heated and cooled"), ("heating", "heated"), ("cooling", "cooled"));

    public ParameterDescription Source { get; } = Parameters.Choice("source", "Temperature", "Which one counts; when it is lost, the other does.", ("local", "its own"), ("bus", "that of the bus"), ("both", "both by weight")).If(Own(when, null));

    public ParameterDescription Weight { get; } = Parameters.Percent("weight", "Weight of its own", "The rest is that of the bus.", 50).If(Own(when, "source = both"));

    public ParameterDescription Watch { get; } = Parameters.Time("watch", "Temperature of the bus every", "If it does not come for so long it counts as lost; 0: never.", 1800, 0, 86_400).If(Own(when, "source in bus, both"));

    public ParameterDescription MeasuredEvery { get; } = Parameters.Time("measuredEvery", "Temperature again every", "It is said when it has moved by 0.2 K, and again so often; 0: only then.", 900, 0, 86_400).If(Own(when, null));

    public ParameterDescription StartMode { get; } = Parameters.Choice("startMode", "Mode until told", "When no schedule has said anything.", [.. Modes.All.Skip(1)]) with { When = Own(when, null), Default = "standby" };

    public ParameterDescription Comfort { get; } = Parameters.Numbered("comfort", "Comfort setpoint", "Of heating; cooling begins a dead zone above it.", 21, 5, 35, "°C", 0.1).If(Own(when, null));

    public ParameterDescription DeadZone { get; } = Parameters.Numbered("deadZone", "Dead zone", "Between heating and cooling in comfort.", 3, 0.5, 10, "K", 0.1).If(Own(when, "system = both"));

    public ParameterDescription StandbyBy { get; } = Parameters.Numbered("standbyBy", "Standby: off by", "How much less it heats or cools.", 2, 0, 10, "K", 0.1).If(Own(when, null));

    public ParameterDescription EconomyBy { get; } = Parameters.Numbered("economyBy", "Economy: off by", "How much less it heats or cools.", 4, 0, 15, "K", 0.1).If(Own(when, null));

    public ParameterDescription Without { get; } = Parameters.Percent("withoutTemperature", "Heating without temperature", "Output of heating while no temperature is available, so that the room does not freeze; 0 %: closed.", 20).If(Own(when, "system in both, heating"));

    public ParameterDescription Frost { get; } = Parameters.Numbered("frost", "Protection from frost", "What it never falls below.", 7, 4, 15, "°C", 0.1).If(Own(when, "system in both, heating"));

    public ParameterDescription Hot { get; } = Parameters.Numbered("hot", "Protection from heat", "What it never rises above.", 35, 26, 45, "°C", 0.1).If(Own(when, "system in both, cooling"));

    public ParameterDescription MostShift { get; } = Parameters.Numbered("mostShift", "People may shift by", "At most, up and down.", 3, 0, 10, "K", 0.5).If(Own(when, null));

    public ParameterDescription WindowCounts { get; } = Parameters.YesNo("windowCounts", "An open window protects", "Whether an open window brings the protection setpoints.", true).If(Own(when, null));

    public ParameterDescription PresenceCounts { get; } = Parameters.YesNo("presenceCounts", "Presence brings comfort", "Whether somebody in the room brings the comfort setpoints.").If(Own(when, null));

    public ParameterDescription Prolong { get; } = Parameters.Time("prolong", "Comfort prolonged for", "What a press at the room's button brings; 0: nothing.", 3600, 0, 86_400).If(Own(when, null));

    public ParameterDescription HeatBand { get; } = Parameters.Numbered("heatBand", "Heating: proportional band", "How far below the setpoint heating is at 100 %.", 4, 0.5, 20, "K", 0.1).If(Own(when, "system in both, heating")) with { Twin = ("heating", "coolBand") };

    public ParameterDescription HeatReset { get; } = Parameters.Time("heatReset", "Heating: reset time", "In which the sum grows by as much as the proportional part; 0: none.", 9000, 0, 36_000).If(Own(when, "system in both, heating")) with { Twin = ("heating", "coolReset") };

    public ParameterDescription CoolBand { get; } = Parameters.Numbered("coolBand", "Cooling: proportional band", "How far above the setpoint cooling is at 100 %.", 4, 0.5, 20, "K", 0.1).If(Own(when, "system in both, cooling")) with { Twin = ("cooling", "heatBand") };

    public ParameterDescription CoolReset { get; } = Parameters.Time("coolReset", "Cooling: reset time", "In which the sum grows by as much as the proportional part; 0: none.", 9000, 0, 36_000).If(Own(when, "system in both, cooling")) with { Twin = ("cooling", "heatReset") };

    public BehaviourObject ModeObject { get; } = new("mode", "{channel} · mode", "20.102", "CWU", "mode") { When = Own(when, null), Passes = ["modeState", "setpointState"] };

    public BehaviourObject ForcedObject { get; } = new("forcedMode", "{channel} · forced mode", "20.102", "CWU", "forced mode") { When = Own(when, null), Passes = ["modeState", "setpointState"] };

    public BehaviourObject WindowObject { get; } = new("window", "{channel} · window", "1.019", "CWU", "window") { When = Own(when, "windowCounts"), Passes = ["modeState", "setpointState"] };

    public BehaviourObject PresenceObject { get; } = new("presence", "{channel} · presence", "1.018", "CWU", "presence") { When = Own(when, "presenceCounts"), Passes = ["modeState", "setpointState"] };

    public BehaviourObject ProlongObject { get; } = new("prolongIt", "{channel} · prolong comfort", "1.017", "CW", "prolong") { When = Own(when, "prolong > 0"), Passes = ["modeState", "setpointState"] };

    public BehaviourObject SetpointObject { get; } = new("setpoint", "{channel} · comfort setpoint", "9.001", "CW", "setpoint") { When = Own(when, null), Passes = ["modeState", "setpointState"] };

    public BehaviourObject ShiftObject { get; } = new("shift", "{channel} · setpoint shifted by", "9.002", "CW", "shift") { When = Own(when, null), Passes = ["modeState", "setpointState"] };

    public BehaviourObject BusObject => _busObject ??= new("temperature", "{channel} · temperature of the bus", "9.001", "CWU", "temperature") { Watch = Watch, When = Own(when, "source in bus, both"), Passes = ["temperatureState", "heatValue", "coolValue", "heatOn", "coolOn", "heat", "cool"] };

    public BehaviourObject LostObject { get; } = new("lost", "{channel} · temperature lost", "1.005", "CRT") { When = Own(when, "source in bus, both and watch > 0"), Priority = BusPriority.Urgent };

    public BehaviourObject WaterObject { get; } = new("water", "{channel} · heating water", "1.100", "CWU", "changeover") { When = "pipes = two" };

    public BehaviourObject DewObject { get; } = new("dew", "{channel} · dew point", "1.005", "CWU", "dew point") { When = "system in both, cooling" };

    public BehaviourObject ModeState { get; } = new("modeState", "{channel} · mode in force", "20.102", "CRT", "mode state") { When = Own(when, null) };

    public BehaviourObject SetpointState { get; } = new("setpointState", "{channel} · setpoint in force", "9.001", "CRT", "setpoint state") { When = Own(when, null) };

    public BehaviourObject TemperatureState => _temperatureState ??= new("temperatureState", "{channel} · temperature", "9.001", "CRT", "measured") { Again = MeasuredEvery, When = Own(when, null) };

    public IEnumerable<ParameterDescription> Settings => [System, Source, Weight, Watch, MeasuredEvery, StartMode, Comfort, DeadZone, StandbyBy, EconomyBy, Frost, Without, Hot, MostShift, WindowCounts, PresenceCounts, Prolong, HeatBand, HeatReset, CoolBand, CoolReset];

    public IEnumerable<BehaviourObject> Objects => [ModeObject, ForcedObject, WindowObject, PresenceObject, ProlongObject, SetpointObject, ShiftObject, BusObject, LostObject, WaterObject, DewObject, ModeState, SetpointState, TemperatureState];
}
