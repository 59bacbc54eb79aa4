using System.Text.Json.Serialization;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.OlderPrograms;
using LoftyWren.Core.Projects;
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

/// <summary>An input or output of a block; the unit of an output that always has the same.</summary>
public sealed record Pin(string Name, string Label, PinKind Kind, bool Required = false)
{
    /// <summary>Whether the diagram shows it only where something flows in that is no constant.</summary>
    public bool IsQuiet { get; init; }

    /// <summary>The symbol of the unit that it is always in; null where that follows from the inputs.</summary>
    [JsonIgnore]
    public string? Unit { get; init; }
}

/// <summary>A number that is set on a block. The unit is fixed, or <c>measured</c>, <c>difference</c> or <c>out</c>: that of the measured input, its difference, or the block's output.</summary>
public sealed record NumberSetting(string Name, string Label, string Unit, double Default, double Low, double High)
{
    /// <summary>The number setting while which is 0 this one means nothing; null where it always counts.</summary>
    [JsonIgnore]
    public string? With { get; init; }
}

/// <summary>A choice that is set on a block; the first option is the default.</summary>
public sealed record ChoiceSetting(string Name, string Label, IReadOnlyList<ChoiceOption> Options);

/// <summary>One row of a table: a place and the value there.</summary>
[method: JsonConstructor]
public readonly record struct TableRow(double X, double Y);

/// <summary>A table that is set on a block: what its columns are called, their units (as of numbers), how many rows it has, and those it begins with. Places rise from row to row.</summary>
public sealed record TableSetting(string Name, string Label, string XLabel, string XUnit, string YLabel, string YUnit, int Least, int Most, IReadOnlyList<TableRow> Default);

/// <summary>A text that is set on a block, of so many characters at most; empty until it is given.</summary>
public sealed record TextSetting(string Name, string Label, int Most)
{
    /// <summary>The number it stands for in a scan, which knows no texts, given what reaches the block; null, and why, where it stands for none.</summary>
    [JsonIgnore]
    public Func<BlockTyping, string, (double? Number, string? Problem)> Means { get; init; } = (_, _) => (null, null);

    /// <summary>Whether it is written freely; else one of those that are offered is chosen.</summary>
    public bool IsFree { get; init; }

    /// <summary>What it says in the example of the help.</summary>
    [JsonIgnore]
    public string Example { get; init; } = "";

    /// <summary>The texts that would do, given what reaches the block.</summary>
    [JsonIgnore]
    public Func<BlockTyping, IReadOnlyList<string>> Offers { get; init; } = _ => [];
}

/// <summary>A number that a block calculates with and that follows from what reaches it.</summary>
public sealed record DerivedNumber(string Name, Func<BlockTyping, double> From);

/// <summary>What a controller tells its blocks of itself.</summary>
public enum ControllerFact
{
    /// <summary>Why its program runs: the number of a state of <see cref="LoftyWren.Core.Devices.StartCauses"/>.</summary>
    StartCause,
    /// <summary>How long its program has run since then, s.</summary>
    SinceStart,
    /// <summary>How it stands: the number of a state of <see cref="LoftyWren.Core.Devices.SystemStates"/>.</summary>
    SystemStatus,
    /// <summary>The time of day by its clock, s since midnight.</summary>
    TimeOfDay,
    /// <summary>The day of the week by its clock, 1 being Monday (ISO 8601).</summary>
    Weekday,
    /// <summary>When its program began to run last, s of site time: what one start is told from another by.</summary>
    StartedAt,
}

/// <summary>One option of a choice.</summary>
public sealed record ChoiceOption(string Value, string Label);

/// <summary>How far a block always says something, as long as its inputs are well.</summary>
public enum BlockSpeech
{
    /// <summary>When all that it reads does.</summary>
    WithInputs,
    /// <summary>Always: it keeps a state of its own.</summary>
    Always,
    /// <summary>It releases by itself.</summary>
    Releases,
}

/// <summary>
/// All there is to a kind of block, in one object: pins, settings, memory, what its lines carry, what it says of itself when
/// somebody asks why, what settings cannot go together, and whether it releases. Its arithmetic is the method of
/// <see cref="BlockMath"/> that has its name, whose parameters are bound to pins and settings by theirs (<see cref="PlanCode"/>
/// refuses to start where one does not bind); its help is the comment on its <see cref="BlockKind"/>.
/// </summary>
public sealed record BlockType(
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
    /// <summary>Whether the unit of its output is chosen on the block.</summary>
    public bool ChoosesUnit { get; init; }

    /// <summary>How many memory cells it has.</summary>
    [JsonIgnore]
    public int Cells { get; init; } = 6;

    /// <summary>Whether it is only part of what another kind is calculated by, and is not offered.</summary>
    public bool IsInner { get; init; }

    /// <summary>Whether it is taken apart into plain blocks before it is calculated.</summary>
    public bool HasInside { get; init; }

    /// <summary>Whether nothing of it is calculated but what is inside.</summary>
    [JsonIgnore]
    public bool IsShell { get; init; }

    /// <summary>What it is told of its controller, beside its inputs.</summary>
    [JsonIgnore]
    public IReadOnlyList<ControllerFact> Facts { get; init; } = [];

    /// <summary>Numbers that follow from what reaches it, such as the factor between two units.</summary>
    [JsonIgnore]
    public IReadOnlyList<DerivedNumber> Derived { get; init; } = [];

    /// <summary>What its chart in the help shows.</summary>
    [JsonIgnore]
    public BlockExample Example { get; init; } = new("", 0, 10);

    /// <summary>Tables that are set on it.</summary>
    public IReadOnlyList<TableSetting> Tables { get; init; } = [];

    /// <summary>Texts that are set on it.</summary>
    public IReadOnlyList<TextSetting> Texts { get; init; } = [];

    /// <summary>Works out what its outputs carry and what of its inputs must agree; none where pins say all.</summary>
    [JsonIgnore]
    public Action<BlockTyping>? Infers { get; init; }

    /// <summary>Tells why it says what it says, behind “gives on”; none where its inputs tell all.</summary>
    [JsonIgnore]
    public Func<IBlockTelling, string>? How { get; init; }

    /// <summary>Tells it all in words of its own; null from it where it cannot just now.</summary>
    [JsonIgnore]
    public Func<IBlockTelling, Because?>? Tells { get; init; }

    /// <summary>Why its settings cannot go together, or null.</summary>
    [JsonIgnore]
    public Func<BlockType, Block, string?>? Refuses { get; init; }

    /// <summary>How far it always says something.</summary>
    [JsonIgnore]
    public Func<BlockType, Block, BlockSpeech>? Speaks { get; init; }

    /// <summary>The choice that lets it release where it does not, by name and option; none where it has none.</summary>
    [JsonIgnore]
    public (string Name, string Option)? Releasing { get; init; }

    /// <summary>The sign that stands between its inputs in a ledger; none where they are named.</summary>
    public string? Operator { get; init; }

    /// <summary>The kind that says the contrary, or takes the other way, with the same inputs; none where there is none.</summary>
    [JsonIgnore]
    public BlockKind? Opposite { get; init; }

    /// <summary>What one input alone settles the result with, whatever the others say; none where none does.</summary>
    [JsonIgnore]
    public bool? Deciding { get; init; }

    /// <summary>What a comparison says of two ranges whatever the values in them; null where that depends.</summary>
    [JsonIgnore]
    public Func<(double Low, double High), (double Low, double High), double?>? Compares { get; init; }

    /// <summary>Whether it keeps a state for a time that only holds if nothing stands between it and the output.</summary>
    [JsonIgnore]
    public bool HoldsTimes { get; init; }

    /// <summary>What stands in its place today; set on the kinds of older versions, which run as they did and are offered no more.</summary>
    [JsonIgnore]
    public Func<Project, BlockType, Block, Succession>? Succeeds { get; init; }

    /// <summary>What of its memory those take up that come in its place, so that a change-over moves nothing.</summary>
    [JsonIgnore]
    public IReadOnlyList<Inheritance> Leaves { get; init; } = [];

    /// <summary>What a kind takes up of blocks of older versions in whose place it came.</summary>
    public static IEnumerable<(BlockType From, Inheritance Left)> HeirOf(BlockKind kind) => Heirs[kind];

    /// <summary>Whether it belongs to an older version.</summary>
    public bool IsRetired => Succeeds is not null;

    /// <summary>Whether it is a loop with gain, ti and td, which can be tried on its plant and tuned.</summary>
    public bool IsLoop { get; init; }

    // The families, in the order of the menu.
    private static readonly string[] Groups = ["Control", "Logic", "Select", "Time", "Compare", "Arithmetic", "Convert", "Count", "Drives", "Plant", "Air", "Controller", "Own", "Version 1"];

    /// <summary>How many inputs of one sort a block has at most.</summary>
    public const int MostInputs = 8;

    private static readonly Dictionary<BlockKind, BlockType> ByKind = Make().ToDictionary(d => d.Kind);

    private static readonly ILookup<BlockKind, (BlockType From, Inheritance Left)> Heirs = ByKind.Values.SelectMany(t => t.Leaves.Select(l => (From: t, Left: l))).ToLookup(h => h.Left.To);

    /// <summary>The kinds in the order of the menu.</summary>
    public static IReadOnlyList<BlockType> All { get; } = [.. ByKind.Values.OrderBy(t => Array.IndexOf(Groups, t.Group)).ThenBy(t => t.Kind)];

    /// <summary>The definition of a kind.</summary>
    public static BlockType Of(BlockKind kind) => ByKind[kind];

    /// <summary>The definition of a block: that of its kind, but for those whose pins are their own.</summary>
    public static BlockType Of(Block block) => block.Inside?.Type() ?? block.Table?.Type() ?? ByKind[block.Kind];

    /// <summary>The setting's value on a block, or its default.</summary>
    public double Number(Block block, string name) => block.Numbers.TryGetValue(name, out double value) ? value : Numbers.First(n => n.Name == name).Default;

    /// <summary>The chosen option of a block, or the default.</summary>
    public string Choice(Block block, string name) => block.Choices.TryGetValue(name, out string? value) ? value : Choices.First(c => c.Name == name).Options[0].Value;

    /// <summary>All settings that have a unit, with how it is found; columns of tables as <c>table.x</c> and <c>table.y</c>.</summary>
    public IEnumerable<(string Setting, string Unit)> UnitsOfSettings() => [.. Numbers.Select(n => (n.Name, n.Unit)), .. Tables.SelectMany(t => new[] { ($"{t.Name}.x", t.XUnit), ($"{t.Name}.y", t.YUnit) })];

    /// <summary>The rows of a table of a block, or those it begins with.</summary>
    public IReadOnlyList<TableRow> Table(Block block, string name) => block.Tables?.TryGetValue(name, out var rows) == true ? rows : Tables.First(t => t.Name == name).Default;

    /// <summary>A text of a block; empty where none is given.</summary>
    public static string Text(Block block, string name) => block.Texts?.GetValueOrDefault(name) ?? "";

    /// <summary>The unit of a setting, given the unit that reaches the measured input and the block's output unit.</summary>
    public static Unit? UnitOf(string unit, Unit? measured, Unit? output) => unit switch
    {
        "measured" => measured,
        "difference" => measured?.Difference,
        "out" => output,
        _ => Unit.Find(unit),
    };

    private static IEnumerable<BlockType> Make()
    {
        foreach (BlockType type in (BlockType[])[.. LogicMath.Types(), .. NumberMath.Types(), .. TimeMath.Types(), .. ControlMath.Types(), .. DriveMath.Types(), .. PlantMath.Types(), .. AirMath.Types(), .. ModeMath.Types()]) yield return type;
        yield return new(BlockKind.Own, "Own block", "", "Own", [], [], [], [], false) { IsInner = true, IsShell = true, HasInside = true };
        Pin[] many(PinKind kind) => [.. Enumerable.Range(1, MostInputs).Select(n => new Pin($"in{n}", $"{n}", kind, n <= 2))];
        Pin[] binaryOut = [new("out", "out", PinKind.Binary)], analogOut = [new("out", "out", PinKind.Analog)], anyOut = [new("out", "out", PinKind.Any)];
        Pin[] two(PinKind kind) => [new("in1", "1", kind, true), new("in2", "2", kind, true)];
        Pin[] binaryIn = [new("in", "in", PinKind.Binary, true)], analogIn = [new("in", "in", PinKind.Analog, true)];
        Pin[] timerOut = [new("out", "q", PinKind.Binary), new("et", "elapsed", PinKind.Analog) { Unit = "s" }];
        NumberSetting[] pt(string label) => [new("pt", label, "s", 60, 0, 604_800)];
        BlockType plain(BlockKind kind, string name, string words, string group, Pin[] inputs, Pin[] outputs, bool memory = false, NumberSetting[]? numbers = null, ChoiceSetting[]? choices = null) =>
            new(kind, name, words, group, inputs, outputs, numbers ?? [], choices ?? [], memory);
        ChoiceSetting choice(string name, string label, params (string, string)[] options) => new(name, label, [.. options.Select(o => new ChoiceOption(o.Item1, o.Item2))]);

        yield return plain(BlockKind.TwoPosition, "Two-position", "thermostat hysteresis on off control limit differential", "Control",
            [new("measured", "measured", PinKind.Analog, true), new("limit", "limit", PinKind.Analog, true)], binaryOut, true,
            [new("differential", "differential", "difference", 1, 0.01, 10_000)],
            [choice("acts", "acts", ("onRise", "on rise"), ("onFall", "on fall")), choice("idle", "when idle", ("release", "release"), ("off", "command off"))]) with
        { Infers = t => t.Agree(t.Types, t.First), Tells = TwoPosition.Tell, Speaks = (type, block) => type.Choice(block, "idle") == "release" ? BlockSpeech.Releases : BlockSpeech.WithInputs, Releasing = ("idle", "release"), Example = new("°C", 20, 32) };
        yield return plain(BlockKind.Pid, "PID", "pi pid proportional integral derivative loop control cascade feed forward tracking", "Control",
            [new("measured", "measured", PinKind.Analog, true), new("setpoint", "setpoint", PinKind.Analog, true), new("enable", "enable", PinKind.Binary), new("track", "track", PinKind.Analog), new("forward", "feed forward", PinKind.Analog)], [new("out", "out", PinKind.Analog) { Unit = "%" }], true,
            [new("gain", "gain (% per unit)", "", 10, 0, 10_000), new("ti", "integral time", "s", 600, 0, 86_400), new("td", "derivative time", "s", 0, 0, 86_400), new("filter", "derivative filter (share of td)", "", 0.25, 0.05, 1) { With = "td" }, new("low", "lowest output", "%", 0, -100, 100), new("high", "highest output", "%", 100, -100, 100)],
            [choice("action", "action", ("reverse", "reverse (heating)"), ("direct", "direct (cooling)"))]) with
        { Cells = 7, IsLoop = true, Infers = BlockTyping.Loop, Refuses = (type, block) => type.Number(block, "low") >= type.Number(block, "high") ? $"The lowest output of ‘{block.Called()}’ is not below its highest." : null, Speaks = (_, block) => block.Inputs.ContainsKey("enable") ? BlockSpeech.Releases : BlockSpeech.WithInputs, Example = new("°C", 19, 23) };
        yield return plain(BlockKind.MinimumTimes, "Minimum on and off", "minimum times run anti short cycle keep for at least do not chatter rest", "Control", binaryIn, binaryOut, true,
            [new("minOn", "on for at least", "s", 180, 0, 86_400), new("minOff", "off for at least", "s", 120, 0, 86_400)]) with
        { Speaks = (_, _) => BlockSpeech.Always, HoldsTimes = true, How = t => $" since {t.Time(t.Memory(1))}: at least {t.Length("minOn")} on and {t.Length("minOff")} off" };
        yield return plain(BlockKind.Scale, "Scale", "linear scaling map range reset", "Control", analogIn, analogOut, false,
            [new("inLow", "in, low end", "measured", 0, -1e6, 1e6), new("inHigh", "in, high end", "measured", 100, -1e6, 1e6), new("outLow", "out, low end", "out", 0, -1e6, 1e6), new("outHigh", "out, high end", "out", 100, -1e6, 1e6)],
            [choice("ends", "beyond ends", ("hold", "hold"), ("carryOn", "carry on"))]) with
        { ChoosesUnit = true, Infers = t => t.Out(new LineType(false, Unit.Find(t.Block.OutputUnit))), Refuses = (type, block) => type.Number(block, "inLow") == type.Number(block, "inHigh") ? $"Both ends of the input range of ‘{block.Called()}’ are {type.Number(block, "inLow")}; they must differ." : null, Example = new("%", 0, 100) };
        yield return plain(BlockKind.Curve, "Curve", "curve table characteristic heating curve reset by points interpolate", "Control", analogIn, analogOut, false, null,
            [choice("ends", "beyond ends", ("hold", "hold"), ("carryOn", "carry on"))]) with
        { ChoosesUnit = true, Tables = [new("points", "points", "in", "measured", "out", "out", 2, 32, [new(0, 0), new(100, 100)])], Infers = t => t.Out(new LineType(false, Unit.Find(t.Block.OutputUnit))), Example = new("%", 0, 100) };
        yield return plain(BlockKind.StateIs, "State is", "state is equals text multistate mode named", "Compare", analogIn, binaryOut) with
        { Texts = [new("state", "state", 60) { Means = BlockTyping.StateNamed, Example = "two", Offers = BlockTyping.States }], How = t => BlockType.Text(t.Block, "state") is { Length: > 0 } state ? $": its input must be ‘{state}’" : ": no state is chosen yet", Example = new(BlockExample.Named, 1, 3) };
        yield return plain(BlockKind.And, "AND", "and all both", "Logic", many(PinKind.Binary), binaryOut) with { Opposite = BlockKind.Or, Operator = "and", How = _ => ": all its inputs must be on", Deciding = false };
        yield return plain(BlockKind.Or, "OR", "or any either", "Logic", many(PinKind.Binary), binaryOut) with { Opposite = BlockKind.And, Operator = "or", How = _ => ": one input that is on is enough", Deciding = true };
        yield return plain(BlockKind.Xor, "XOR", "exclusive or odd", "Logic", many(PinKind.Binary), binaryOut) with { Operator = "xor" };
        yield return plain(BlockKind.Not, "NOT", "not invert negate", "Logic", binaryIn, binaryOut) with { Operator = "not" };
        yield return plain(BlockKind.Sr, "SR latch", "set reset latch flip flop set wins", "Logic", [new("s1", "set", PinKind.Binary, true), new("r", "reset", PinKind.Binary, true)], binaryOut, true) with { Speaks = (_, _) => BlockSpeech.Always, How = _ => ": it keeps its state until it is set or reset" };
        yield return plain(BlockKind.Rs, "RS latch", "reset set latch flip flop reset wins", "Logic", [new("s", "set", PinKind.Binary, true), new("r1", "reset", PinKind.Binary, true)], binaryOut, true) with { Speaks = (_, _) => BlockSpeech.Always, How = _ => ": it keeps its state until it is set or reset" };
        yield return plain(BlockKind.RisingEdge, "Rising edge", "r_trig edge trigger turns on", "Logic", binaryIn, binaryOut, true);
        yield return plain(BlockKind.FallingEdge, "Falling edge", "f_trig edge trigger turns off", "Logic", binaryIn, binaryOut, true);
        yield return plain(BlockKind.Sel, "Select", "sel choose switch", "Logic", [new("g", "choose", PinKind.Binary, true), new("in0", "if false", PinKind.Any, true), new("in1", "if true", PinKind.Any, true)], anyOut) with { Infers = BlockTyping.Chosen, Example = new("°C", 18, 24) { Others = [("in1", "°C", 21, 21)] } };
        yield return plain(BlockKind.Ton, "On-delay", "ton timer delay on for the whole of the last minutes true throughout", "Time", binaryIn, timerOut, true, pt("delay")) with { How = t => $": its input must be on for {t.Length("pt")}" };
        yield return plain(BlockKind.Tof, "Off-delay", "tof timer delay off hold for overrun", "Time", binaryIn, timerOut, true, pt("hold for")) with { How = t => $": it stays on for {t.Length("pt")} after its input goes off" };
        yield return plain(BlockKind.Tp, "Pulse", "tp timer one shot", "Time", binaryIn, timerOut, true, pt("length"));
        yield return plain(BlockKind.Gt, "Greater than", "gt above over >", "Compare", two(PinKind.Analog), binaryOut) with { Opposite = BlockKind.Lt, Operator = ">", Infers = t => t.Agree(t.Types, t.First), Compares = BlockParts.Above(orEqual: false) };
        yield return plain(BlockKind.Ge, "Greater or equal", "ge at least >=", "Compare", two(PinKind.Analog), binaryOut) with { Opposite = BlockKind.Le, Operator = "≥", Infers = t => t.Agree(t.Types, t.First), Compares = BlockParts.Above(orEqual: true) };
        yield return plain(BlockKind.Lt, "Less than", "lt below under <", "Compare", two(PinKind.Analog), binaryOut) with { Opposite = BlockKind.Gt, Operator = "<", Infers = t => t.Agree(t.Types, t.First), Compares = BlockParts.Below(orEqual: false) };
        yield return plain(BlockKind.Le, "Less or equal", "le at most <=", "Compare", two(PinKind.Analog), binaryOut) with { Opposite = BlockKind.Ge, Operator = "≤", Infers = t => t.Agree(t.Types, t.First), Compares = BlockParts.Below(orEqual: true) };
        yield return plain(BlockKind.Eq, "Equal", "eq same string text states =", "Compare", two(PinKind.Any), binaryOut) with { Opposite = BlockKind.Ne, Operator = "=", Infers = BlockTyping.Compared, Example = new(BlockExample.Named, 1, 3) };
        yield return plain(BlockKind.Ne, "Not equal", "ne differs", "Compare", two(PinKind.Any), binaryOut) with { Opposite = BlockKind.Eq, Operator = "≠", Infers = BlockTyping.Compared, Example = new(BlockExample.Named, 1, 3) };
        yield return plain(BlockKind.Add, "Add", "sum plus +", "Arithmetic", many(PinKind.Analog), analogOut) with { Opposite = BlockKind.Sub, Operator = "+", Infers = BlockTyping.Sum };
        yield return plain(BlockKind.Sub, "Subtract", "sub minus difference -", "Arithmetic", two(PinKind.Analog), analogOut) with { Opposite = BlockKind.Add, Operator = "−", Infers = BlockTyping.Difference };
        yield return plain(BlockKind.Mul, "Multiply", "mul times product *", "Arithmetic", many(PinKind.Analog), analogOut) with { Operator = "×", Infers = BlockTyping.Product, Example = new("", 0, 10) };
        yield return plain(BlockKind.Div, "Divide", "div quotient /", "Arithmetic", two(PinKind.Analog), analogOut) with { Operator = "÷", Infers = BlockTyping.Quotient };
        yield return plain(BlockKind.Min, "Least", "min minimum lowest", "Arithmetic", many(PinKind.Analog), analogOut) with { Infers = BlockTyping.Alike };
        yield return plain(BlockKind.Max, "Greatest", "max maximum highest", "Arithmetic", many(PinKind.Analog), analogOut) with { Infers = BlockTyping.Alike };
        yield return plain(BlockKind.Average, "Average", "mean average", "Arithmetic", many(PinKind.Analog), analogOut) with { Infers = BlockTyping.Alike };
        yield return plain(BlockKind.Abs, "Size", "abs absolute magnitude", "Arithmetic", analogIn, analogOut) with { Infers = BlockTyping.Size, Example = new("K", -5, 5) };
        yield return plain(BlockKind.Limit, "Limit", "limit clamp between", "Arithmetic", [new("low", "low", PinKind.Analog, true), new("in", "in", PinKind.Analog, true), new("high", "high", PinKind.Analog, true)], analogOut) with { Infers = BlockTyping.Limited, Example = new("°C", 10, 30) { Others = [("low", "°C", 16, 16), ("high", "°C", 26, 26)] } };
        yield return plain(BlockKind.PiBand, "PI by band", "proportional integral band version 1", "Version 1",
            [new("measured", "measured", PinKind.Analog, true), new("setpoint", "setpoint", PinKind.Analog, true), new("enable", "enable", PinKind.Binary)], [new("out", "out", PinKind.Analog) { Unit = "%" }], true,
            [new("band", "band", "difference", 4, 0.01, 10_000), new("reset", "reset", "min", 20, 0, 1440)], [choice("action", "action", ("reverse", "reverse (heating)"), ("direct", "direct (cooling)"))]) with
        { Infers = BlockTyping.Loop, Succeeds = Succession.OfPiBand, Leaves = [new(BlockKind.Pid, "", c => [c[0]]), new(BlockKind.Pid, Succession.Inner, c => [c[0]])], Example = new("°C", 19, 23) };
        yield return plain(BlockKind.TwoLimits, "Two limits", "on off hysteresis limits version 1", "Version 1", [new("measured", "measured", PinKind.Analog, true)], binaryOut, true,
            [new("on", "on at", "measured", 18, -1e6, 1e6), new("off", "off at", "measured", 20, -1e6, 1e6)]) with
        { Succeeds = Succession.OfTwoLimits, Leaves = [new(BlockKind.TwoPosition, "", c => [c[0]])], Example = new("°C", 16, 22) };
        yield return plain(BlockKind.MinuteTimer, "Timer in minutes", "timer delay pulse minutes version 1", "Version 1", binaryIn, binaryOut, true,
            [new("minutes", "minutes", "min", 5, 0, 10_080)], [choice("mode", "mode", ("delay", "on-delay"), ("pulse", "pulse"))]) with
        { Succeeds = Succession.OfMinuteTimer, Leaves = [new(BlockKind.Ton, "", c => [c[0], c[1], c[2]]), new(BlockKind.Tp, "", c => [c[0], c[1], c[3], c[2]])] };
    }
}
