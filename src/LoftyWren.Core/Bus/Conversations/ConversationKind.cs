namespace LoftyWren.Core.Bus.Conversations;

/// <summary>One thing that is said in a conversation.</summary>
/// <param name="Key">What group addresses keep it by.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Type">Its datapoint type.</param>
/// <param name="Says">What parts of channels say it: they send to its address.</param>
/// <param name="Hears">What parts of channels hear it: they listen to its address.</param>
public sealed record ConversationRole(string Key, string Label, string Type, IReadOnlyList<string> Says, IReadOnlyList<string> Hears)
{
    /// <summary>Whether it tells what was done: each channel that says it has an address of its own.</summary>
    public bool IsFeedback { get; init; }

    /// <summary>Whether it is made as soon as somebody hears it, so that points and operators can say it.</summary>
    public bool IsOpen { get; init; }
}

/// <summary>What one thing in a room says and hears: its roles, and the group of addresses by plan that it begins with.</summary>
/// <param name="Key">What records keep it by.</param>
/// <param name="Label">What people call it.</param>
/// <param name="About">What it is for.</param>
/// <param name="Main">The first level of its addresses where no plan says otherwise.</param>
/// <param name="Roles">What is said in it; the place of a role is the second level of its addresses where no plan says otherwise.</param>
public sealed record ConversationKind(string Key, string Label, string About, int Main, IReadOnlyList<ConversationRole> Roles)
{
    private static readonly ConversationRole
        Switch = new("switch", "switch", "1.001", ["switch sender"], ["switch"]) { IsOpen = true },
        SwitchState = new("state", "state", "1.001", ["switch state"], ["switch listener", "switch sender"]) { IsFeedback = true },
        Lock = new("lock", "lock", "1.003", ["lock sender"], ["lock"]) { IsOpen = true },
        Scene = new("scene", "scene", "18.001", ["scene sender"], ["scene"]) { IsOpen = true },
        Force = new("force", "force", "2.001", ["force sender"], ["force"]) { IsOpen = true },
        Night = new("night", "day or night", "1.024", ["night sender"], ["night"]),
        Hours = new("hours", "operating hours", "12.102", ["hours"], []) { IsFeedback = true },
        Cycles = new("cycles", "cycles", "12.001", ["cycles"], []) { IsFeedback = true },
        Energy = new("energy", "energy", "13.010", ["energy"], []) { IsFeedback = true },
        Movement = new("movement", "movement", "1.001", ["movement sender"], ["movement"]);

    /// <summary>All kinds.</summary>
    public static IReadOnlyList<ConversationKind> All { get; } =
    [
        new("lamp", "Light, switched", "a lamp or several that are switched together, with buttons and presence", 1, [Switch, SwitchState, Lock, Force, Scene, Movement, Hours, Energy]),
        new("dimmedLamp", "Light, dimmed", "a lamp or several that are dimmed together", 1,
        [
            Switch, SwitchState, new("dim", "dim", "3.007", ["dim sender"], ["dim"]), new("value", "brightness", "5.001", ["value sender"], ["value"]) { IsOpen = true }, new("valueState", "brightness in force", "5.001", ["value state"], ["value listener"]) { IsFeedback = true },
            Lock, Scene, Night, Movement, Energy,
        ]),
        new("blind", "Blind", "a blind, a shutter or an awning", 2,
        [
            new("move", "up or down", "1.008", ["move sender"], ["move"]) { IsOpen = true }, new("step", "step or stop", "1.007", ["step sender"], ["step"]) { IsOpen = true }, new("position", "height", "5.001", ["position sender"], ["position"]) { IsOpen = true },
            new("positionState", "height in force", "5.001", ["position state"], ["position listener"]) { IsFeedback = true }, new("slat", "slats", "5.001", ["slat sender"], ["slat"]) { IsOpen = true }, new("slatState", "slats in force", "5.001", ["slat state"], ["slat listener"]) { IsFeedback = true },
            new("alarm", "wind alarm", "1.005", ["alarm sender"], ["wind alarm"]), new("sun", "sun", "1.002", ["sun sender"], ["sun"]), Lock, Scene,
        ]),
        new("climate", "Heating and cooling", "a room's temperature: its controller, valves, fan-coil, window contacts", 3,
        [
            new("mode", "mode", "20.102", ["mode sender"], ["mode"]) { IsOpen = true }, new("modeState", "mode in force", "20.102", ["mode state"], []) { IsFeedback = true }, new("setpoint", "comfort setpoint", "9.001", [], ["setpoint"]) { IsOpen = true },
            new("setpointState", "setpoint in force", "9.001", ["setpoint state"], []) { IsFeedback = true }, new("temperature", "temperature", "9.001", ["measured"], ["temperature"]) { IsFeedback = true }, new("demand", "heating", "5.001", ["heating sender"], ["demand"]) { IsOpen = true },
            new("heatOn", "heating on", "1.001", ["heating switch sender"], ["switch"]), new("window", "window", "1.019", ["switch sender"], ["window"]), new("presence", "presence", "1.018", ["switch sender"], ["presence"]), new("changeover", "heating water", "1.100", [], ["changeover"]) { IsOpen = true },
            new("dew", "dew point", "1.005", ["alarm sender"], ["dew point"]), new("fanState", "fan stage in force", "5.100", ["fan stage state"], []) { IsFeedback = true }, new("demandState", "demand in force", "5.001", ["demand state", "heating state"], []) { IsFeedback = true },
            new("cooling", "cooling", "5.001", ["cooling sender"], ["cooling demand"]) { IsOpen = true }, new("release", "released", "1.003", [], ["release"]) { IsOpen = true },
        ]),
        new("presence", "Extract by presence", "a fan or another load that presence switches", 4, [Switch, SwitchState, Movement, Lock, Hours, Cycles, Energy]),
        new("weather", "Weather", "what the weather station tells the house", 5,
        [
            new("wind", "wind alarm", "1.005", ["alarm sender"], ["wind alarm"]) { IsFeedback = true }, new("sun", "sun", "1.002", ["sun sender"], ["sun"]) { IsFeedback = true }, new("value", "measured", "9.005", ["measured"], []) { IsFeedback = true },
        ]),
    ];

    /// <summary>The kind with a key, or null.</summary>
    public static ConversationKind? Find(string key)
    {
        foreach (ConversationKind kind in All)
        {
            if (kind.Key == key) return kind;
        }
        return null;
    }
}
