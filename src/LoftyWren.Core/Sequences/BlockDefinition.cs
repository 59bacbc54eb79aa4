using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences;

/// <summary>What a pin carries.</summary>
public enum PinKind
{
    /// <summary>A number.</summary>
    Analog,
    /// <summary>True or false.</summary>
    Binary,
    /// <summary>Either, as long as all such pins of the block agree.</summary>
    Any,
}

/// <summary>An input or output of a block.</summary>
public sealed record Pin(string Name, string Label, PinKind Kind, bool Required = false);

/// <summary>A number that is set on a block. The unit is fixed, or <c>measured</c>, <c>difference</c> or <c>out</c>: that of the measured input, its difference, or the block's output.</summary>
public sealed record NumberSetting(string Name, string Label, string Unit, double Default, double Low, double High);

/// <summary>A choice that is set on a block; the first option is the default.</summary>
public sealed record ChoiceSetting(string Name, string Label, IReadOnlyList<ChoiceOption> Options);

/// <summary>One option of a choice.</summary>
public sealed record ChoiceOption(string Value, string Label);

/// <summary>What a kind of block is made of: its pins and settings. Its behaviour is in <see cref="Plan"/>, its help in <see cref="BlockKind"/>.</summary>
public sealed record BlockDefinition(
    BlockKind Kind,
    string Name,
    string Words,
    string Group,
    IReadOnlyList<Pin> Inputs,
    IReadOnlyList<Pin> Outputs,
    IReadOnlyList<NumberSetting> Numbers,
    IReadOnlyList<ChoiceSetting> Choices,
    bool HasMemory)
{
    /// <summary>How many inputs a block has at most.</summary>
    public const int MostInputs = 8;

    private static readonly Dictionary<BlockKind, BlockDefinition> ByKind = Make().ToDictionary(d => d.Kind);

    /// <summary>The kinds in the order of the menu.</summary>
    public static IReadOnlyList<BlockDefinition> All { get; } = [.. ByKind.Values];

    /// <summary>The definition of a kind.</summary>
    public static BlockDefinition Of(BlockKind kind) => ByKind[kind];

    /// <summary>The setting's value on a block, or its default.</summary>
    public double Number(Block block, string name) => block.Numbers.TryGetValue(name, out double value) ? value : Numbers.First(n => n.Name == name).Default;

    /// <summary>The chosen option of a block, or the default.</summary>
    public string Choice(Block block, string name) => block.Choices.TryGetValue(name, out string? value) ? value : Choices.First(c => c.Name == name).Options[0].Value;

    /// <summary>The unit a number setting is in, given the unit that reaches the measured input and the block's output unit.</summary>
    public static Unit? UnitOf(NumberSetting setting, Unit? measured, Unit? output) => setting.Unit switch
    {
        "measured" => measured,
        "difference" => measured?.Difference,
        "out" => output,
        _ => Unit.Find(setting.Unit),
    };

    private static IEnumerable<BlockDefinition> Make()
    {
        Pin[] many(PinKind kind) => [.. Enumerable.Range(1, MostInputs).Select(n => new Pin($"in{n}", $"{n}", kind, n <= 2))];
        Pin[] binaryOut = [new("out", "out", PinKind.Binary)], analogOut = [new("out", "out", PinKind.Analog)], anyOut = [new("out", "out", PinKind.Any)];
        Pin[] two(PinKind kind) => [new("in1", "1", kind, true), new("in2", "2", kind, true)];
        Pin[] binaryIn = [new("in", "in", PinKind.Binary, true)], analogIn = [new("in", "in", PinKind.Analog, true)];
        Pin[] timerOut = [new("out", "q", PinKind.Binary), new("et", "elapsed", PinKind.Analog)];
        NumberSetting[] pt(string label) => [new("pt", label, "s", 60, 0, 604_800)];
        BlockDefinition plain(BlockKind kind, string name, string words, string group, Pin[] inputs, Pin[] outputs, bool memory = false, NumberSetting[]? numbers = null, ChoiceSetting[]? choices = null) =>
            new(kind, name, words, group, inputs, outputs, numbers ?? [], choices ?? [], memory);
        ChoiceSetting choice(string name, string label, params (string, string)[] options) => new(name, label, [.. options.Select(o => new ChoiceOption(o.Item1, o.Item2))]);

        yield return plain(BlockKind.TwoPosition, "Two-position", "thermostat hysteresis on off control limit differential", "Control",
            [new("measured", "measured", PinKind.Analog, true), new("limit", "limit", PinKind.Analog, true)], binaryOut, true,
            [new("differential", "differential", "difference", 1, 0.01, 10_000)],
            [choice("acts", "acts", ("onRise", "on rise"), ("onFall", "on fall")), choice("idle", "when idle", ("release", "release"), ("off", "command off"))]);
        yield return plain(BlockKind.Pid, "PID", "proportional integral derivative loop control", "Control",
            [new("measured", "measured", PinKind.Analog, true), new("setpoint", "setpoint", PinKind.Analog, true), new("enable", "enable", PinKind.Binary), new("track", "track", PinKind.Analog)], analogOut, true,
            [new("gain", "gain (% per unit)", "", 10, 0, 10_000), new("ti", "integral time", "s", 600, 0, 86_400), new("td", "derivative time", "s", 0, 0, 86_400), new("filter", "derivative filter (share of td)", "", 0.25, 0.05, 1), new("low", "lowest output", "%", 0, -100, 100), new("high", "highest output", "%", 100, -100, 100)],
            [choice("action", "action", ("reverse", "reverse (heating)"), ("direct", "direct (cooling)"))]);
        yield return plain(BlockKind.MinimumTimes, "Minimum on and off", "minimum times run anti short cycle", "Control", binaryIn, binaryOut, true,
            [new("minOn", "on for at least", "s", 180, 0, 86_400), new("minOff", "off for at least", "s", 120, 0, 86_400)]);
        yield return plain(BlockKind.Scale, "Scale", "linear scaling map range reset", "Control", analogIn, analogOut, false,
            [new("inLow", "in, low end", "measured", 0, -1e6, 1e6), new("inHigh", "in, high end", "measured", 100, -1e6, 1e6), new("outLow", "out, low end", "out", 0, -1e6, 1e6), new("outHigh", "out, high end", "out", 100, -1e6, 1e6)],
            [choice("ends", "beyond the ends", ("hold", "hold the end"), ("carryOn", "carry on"))]);
        yield return plain(BlockKind.And, "AND", "and all both", "Logic", many(PinKind.Binary), binaryOut);
        yield return plain(BlockKind.Or, "OR", "or any either", "Logic", many(PinKind.Binary), binaryOut);
        yield return plain(BlockKind.Xor, "XOR", "exclusive or odd", "Logic", many(PinKind.Binary), binaryOut);
        yield return plain(BlockKind.Not, "NOT", "not invert negate", "Logic", binaryIn, binaryOut);
        yield return plain(BlockKind.Sr, "SR latch", "set reset latch flip flop set wins", "Logic", [new("s1", "set", PinKind.Binary, true), new("r", "reset", PinKind.Binary, true)], binaryOut, true);
        yield return plain(BlockKind.Rs, "RS latch", "reset set latch flip flop reset wins", "Logic", [new("s", "set", PinKind.Binary, true), new("r1", "reset", PinKind.Binary, true)], binaryOut, true);
        yield return plain(BlockKind.RisingEdge, "Rising edge", "r_trig edge trigger turns on", "Logic", binaryIn, binaryOut, true);
        yield return plain(BlockKind.FallingEdge, "Falling edge", "f_trig edge trigger turns off", "Logic", binaryIn, binaryOut, true);
        yield return plain(BlockKind.Sel, "Select", "sel choose switch", "Logic", [new("g", "choose", PinKind.Binary, true), new("in0", "if false", PinKind.Any, true), new("in1", "if true", PinKind.Any, true)], anyOut);
        yield return plain(BlockKind.Ton, "On-delay", "ton timer delay on", "Time", binaryIn, timerOut, true, pt("delay"));
        yield return plain(BlockKind.Tof, "Off-delay", "tof timer delay off hold for overrun", "Time", binaryIn, timerOut, true, pt("hold for"));
        yield return plain(BlockKind.Tp, "Pulse", "tp timer one shot", "Time", binaryIn, timerOut, true, pt("length"));
        yield return plain(BlockKind.Gt, "Greater than", "gt above over >", "Compare", two(PinKind.Analog), binaryOut);
        yield return plain(BlockKind.Ge, "Greater or equal", "ge at least >=", "Compare", two(PinKind.Analog), binaryOut);
        yield return plain(BlockKind.Lt, "Less than", "lt below under <", "Compare", two(PinKind.Analog), binaryOut);
        yield return plain(BlockKind.Le, "Less or equal", "le at most <=", "Compare", two(PinKind.Analog), binaryOut);
        yield return plain(BlockKind.Eq, "Equal", "eq same =", "Compare", two(PinKind.Any), binaryOut);
        yield return plain(BlockKind.Ne, "Not equal", "ne differs", "Compare", two(PinKind.Any), binaryOut);
        yield return plain(BlockKind.Add, "Add", "sum plus +", "Arithmetic", many(PinKind.Analog), analogOut);
        yield return plain(BlockKind.Sub, "Subtract", "sub minus difference -", "Arithmetic", two(PinKind.Analog), analogOut);
        yield return plain(BlockKind.Mul, "Multiply", "mul times product *", "Arithmetic", many(PinKind.Analog), analogOut);
        yield return plain(BlockKind.Div, "Divide", "div quotient /", "Arithmetic", two(PinKind.Analog), analogOut);
        yield return plain(BlockKind.Min, "Least", "min minimum lowest", "Arithmetic", many(PinKind.Analog), analogOut);
        yield return plain(BlockKind.Max, "Greatest", "max maximum highest", "Arithmetic", many(PinKind.Analog), analogOut);
        yield return plain(BlockKind.Average, "Average", "mean average", "Arithmetic", many(PinKind.Analog), analogOut);
        yield return plain(BlockKind.Abs, "Size", "abs absolute magnitude", "Arithmetic", analogIn, analogOut);
        yield return plain(BlockKind.Limit, "Limit", "limit clamp between", "Arithmetic", [new("low", "low", PinKind.Analog, true), new("in", "in", PinKind.Analog, true), new("high", "high", PinKind.Analog, true)], analogOut);
    }
}
