using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>What <see cref="WeatherBehaviour"/> remembers.</summary>
public sealed class WeatherState : BehaviourState
{
    /// <summary>What is measured; what was said of it; whether the threshold is passed, by what is said and by what is measured.</summary>
    public double Now = double.NaN, Said = double.NaN;

    /// <summary>As <see cref="Now"/>.</summary>
    public bool Raised, Beyond, HasBus = true;

    /// <summary>When the delay is over; when it is said again.</summary>
    public long DueAt = Behaviour.Never, SayAt = Behaviour.Never;
}

/// <summary>
/// One output of a weather station. As a threshold it is raised once what it looks at has been beyond <c>limit</c> for
/// <c>onDelay</c>, and ends once it has been back by the hysteresis for <c>offDelay</c>; wind, rain, light of the three sides
/// and warmth are beyond it above, frost and dusk below. As a value it is said when it has moved by <c>change</c>.
/// </summary>
public sealed class WeatherBehaviour : Behaviour<WeatherState>
{
    private static readonly ParameterDescription
        Function = Parameters.Choice(BehaviourKind.FunctionKey, "Function", "What the output is for.", ("threshold", "Threshold"), ("value", "Measured value"), (BehaviourKind.Disabled, "Disabled")),
        Of = Parameters.Choice("of", "Looks at", "What it is about.", ("wind", "wind"), ("rain", "rain"), ("frost", "frost"), ("warm", "warmth"), ("east", "sun in the east"), ("south", "sun in the south"), ("west", "sun in the west"), ("dusk", "dusk")).If("function != disabled"),
        WindLimit = Parameters.Numbered("windLimit", "Wind from", "", 10, 2, 30, "m/s", 0.5).If("function = threshold and of = wind"),
        ColdLimit = Parameters.Numbered("coldLimit", "Colder than", "", 3, -20, 10, "°C", 0.5).If("function = threshold and of = frost"),
        WarmLimit = Parameters.Numbered("warmLimit", "Warmer than", "", 24, 5, 45, "°C", 0.5).If("function = threshold and of = warm"),
        SunLimit = Parameters.Numbered("sunLimit", "Brighter than", "", 40_000, 1000, 100_000, "lx", 500).If("function = threshold and of in east, south, west"),
        DuskLimit = Parameters.Numbered("duskLimit", "Darker than", "", 20, 1, 500, "lx", 1).If("function = threshold and of = dusk"),
        Hysteresis = Parameters.Percent("hysteresis", "Hysteresis", "Of the limit; how far it must be back. Of temperatures it is 1 K.", 20, 0, 80).If("function = threshold and of in wind, east, south, west, dusk"),
        OnDelay = Parameters.Time("onDelay", "Raised after", "For how long it must be beyond.", 4, 0, 3600).If("function = threshold"),
        OffDelay = Parameters.Time("offDelay", "Over after", "For how long it must be back.", 300, 0, 7200).If("function = threshold"),
        Every = Parameters.Time("every", "Said every", "What listens may count it as raised when it falls silent; 0: only when changed.", 120, 0, 86_400).If("function != disabled"),
        Change = Parameters.Percent("change", "Said when changed by", "Of what was said last; of temperatures it is 0.5 K.", 10, 1).If("function = value");

    private static readonly BehaviourObject
        Alarm = new("alarm", "{channel} · raised", "1.005", "CRT", "alarm sender") { When = "function = threshold and of in wind, rain, frost", Priority = BusPriority.Urgent, Again = Every },
        Passed = new("passed", "{channel} · passed", "1.002", "CRT", "sun sender") { When = "function = threshold and of in warm, east, south, west, dusk", Again = Every },
        WindValue = new("windValue", "{channel} · wind", "9.005", "CRT", "measured") { When = "function = value and of = wind", Again = Every },
        Warmth = new("warmth", "{channel} · temperature", "9.001", "CRT", "measured") { When = "function = value and of in frost, warm", Again = Every },
        Light = new("light", "{channel} · brightness", "9.004", "CRT", "measured") { When = "function = value and of in east, south, west, dusk", Again = Every },
        RainValue = new("rainValue", "{channel} · rain", "1.002", "CRT", "measured") { When = "function = value and of = rain", Again = Every };

    private static readonly BehaviourPort
        Wind = new("wind", "Wind", "m/s", 0, 40) { Quantity = "wind", IsOutdoors = true }, Rain = new("rain", "Rain") { States = ["dry", "rain"], Quantity = "rain", IsOutdoors = true }, Temperature = new("temperature", "Temperature", "°C", -30, 50) { Quantity = "temperature", IsOutdoors = true }, East = new("east", "Brightness, east", "lx", 0, 100_000) { Quantity = "light", IsOutdoors = true }, South = new("south", "Brightness, south", "lx", 0, 100_000) { Quantity = "light", IsOutdoors = true }, West = new("west", "Brightness, west", "lx", 0, 100_000) { Quantity = "light", IsOutdoors = true };

    /// <summary>The declaration.</summary>
    public static BehaviourKind AsKind { get; } = new("weather", "Weather output", [Function, Of, WindLimit, ColdLimit, WarmLimit, SunLimit, DuskLimit, Hysteresis, OnDelay, OffDelay, Every, Change, DeviceBehaviour.SendDelay], [Alarm, Passed, WindValue, Warmth, Light, RainValue],
        [Wind, Rain, Temperature, East, South, West], [], s => new WeatherBehaviour(s));

    private readonly string _function, _of;
    private readonly double _limit, _back, _change;
    private readonly bool _isBelow;
    private readonly long _onDelay, _offDelay, _every, _sendDelay;
    private readonly BehaviourPort _port;
    private readonly BehaviourObject _value, _flag;
    private readonly ParameterDescription _by;

    private WeatherBehaviour(SettingValues s)
    {
        (_function, _of) = (s.Text(Function), s.Text(Of));
        (_port, _value, _by) = _of switch
        {
            "wind" => (Wind, WindValue, WindLimit),
            "rain" => (Rain, RainValue, Of),
            "frost" => (Temperature, Warmth, ColdLimit),
            "warm" => (Temperature, Warmth, WarmLimit),
            "east" => (East, Light, SunLimit),
            "west" => (West, Light, SunLimit),
            "dusk" => (South, Light, DuskLimit),
            _ => (South, Light, SunLimit),
        };
        _flag = _of is "wind" or "rain" or "frost" ? Alarm : Passed;
        _isBelow = _of is "frost" or "dusk";
        _limit = _of == "rain" ? 0.5 : s.Number(_by);
        double hysteresis = _port == Temperature ? 1 : _of == "rain" ? 0 : _limit * s.Number(Hysteresis) / 100;
        _back = _isBelow ? _limit + hysteresis : _limit - hysteresis;
        _change = s.Number(Change);
        (_onDelay, _offDelay, _every, _sendDelay) = (s.Milliseconds(OnDelay), s.Milliseconds(OffDelay), s.Milliseconds(Every), s.Milliseconds(DeviceBehaviour.SendDelay));
    }

    /// <inheritdoc/>
    public override long NextDue => !S.HasBus || _function == BehaviourKind.Disabled ? Never : Math.Min(S.DueAt, S.SayAt);

    /// <inheritdoc/>
    public override void Begin(long now, Wake wake)
    {
        if (wake == Wake.Mains || _function == BehaviourKind.Disabled) return;
        (S.HasBus, S.SayAt, S.DueAt, S.Beyond) = (true, FirstSendAt(now, _sendDelay), Never, S.Raised);
        if (_function != "threshold" || double.IsNaN(S.Now)) return;
        // What was passed while there was no bus, or whose delay was running when it failed, has its delay from now on.
        S.Beyond = IsBeyond(S.Now);
        if (S.Beyond != S.Raised) S.DueAt = Math.Max(S.SayAt, now + (S.Beyond ? _onDelay : _offDelay));
    }

    /// <inheritdoc/>
    public override void Hear(long now, BehaviourObject what, double value)
    {
    }

    /// <inheritdoc/>
    public override void Sense(long now, BehaviourPort what, double value)
    {
        if (what != _port) return;
        S.Now = value;
        if (!S.HasBus || _function == BehaviourKind.Disabled) return;
        if (_function == "value")
        {
            double moved = Math.Abs(value - S.Said);
            if (double.IsNaN(S.Said) || moved < (_port == Temperature ? 0.5 : _port == Rain ? 0.5 : Math.Max(1e-9, Math.Abs(S.Said) * _change / 100))) Keep(_value, value);
            else
            {
                Because(Change, "it has moved by so much");
                Tell(now);
            }
            return;
        }
        bool beyond = IsBeyond(value);
        if (beyond == S.Beyond) return;
        S.Beyond = beyond;
        S.DueAt = beyond == S.Raised ? Never : now + (beyond ? _onDelay : _offDelay);
        if (S.DueAt <= now) Run(now);
    }

    /// <inheritdoc/>
    public override void Run(long now)
    {
        if (!S.HasBus || _function == BehaviourKind.Disabled) return;
        if (now >= S.DueAt)
        {
            S.DueAt = Never;
            S.Raised = S.Beyond;
            Because(S.Raised ? OnDelay : OffDelay, S.Raised ? "beyond its limit for long enough" : "back for long enough");
            Tell(now);
            // What counts as back is otherwise once it is raised.
            if (!double.IsNaN(S.Now)) Sense(now, _port, S.Now);
        }
        if (now < S.SayAt) return;
        Because(_every > 0 ? Every : DeviceBehaviour.SendDelay, "once more");
        Tell(now);
    }

    /// <inheritdoc/>
    public override void Lose(long now, Supply supply)
    {
        if (supply == Supply.Bus) (S.HasBus, S.DueAt, S.SayAt) = (false, Never, Never);
    }

    // Held at the very limit of its hysteresis it counts as back.
    private bool IsBeyond(double value) => _isBelow ? S.Raised ? value < _back : value < _limit : S.Raised ? value > _back : value > _limit;

    private void Tell(long now)
    {
        S.SayAt = _every > 0 ? now + _every : Never;
        if (_function == "value")
        {
            if (double.IsNaN(S.Now)) return;
            S.Said = S.Now;
            Say(_value, S.Now);
        }
        else Say(_flag, S.Raised ? 1 : 0);
    }
}
