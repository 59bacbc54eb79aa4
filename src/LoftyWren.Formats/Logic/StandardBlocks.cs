using LoftyWren.Core.Sequences;

namespace LoftyWren.Formats.Logic;

/// <summary>A kind of block under the name that IEC 61131-3 has for it: a function or a function block, with the names of its pins there, and of settings that are inputs there.</summary>
/// <param name="Kind">The kind here.</param>
/// <param name="Type">Its name there.</param>
/// <param name="IsFunction">Whether it is a function, which has no instance and one result.</param>
/// <param name="Inputs">Pins here and there; <c>in#</c> stands for in1, in2 and so on.</param>
/// <param name="Outputs">Pins here and there.</param>
/// <param name="Settings">Settings here that are inputs there, and the type of each.</param>
internal sealed record StandardBlock(BlockKind Kind, string Type, bool IsFunction, IReadOnlyList<(string Ours, string Theirs)> Inputs, IReadOnlyList<(string Ours, string Theirs)> Outputs, IReadOnlyList<(string Ours, string Theirs, string Type)> Settings)
{
    /// <summary>The sign or word that structured text has for the function between its inputs, or before its only one (table 71); null where it is called by its name.</summary>
    public string? Operator { get; init; }

    /// <summary>The type that its inputs and its result have whatever reaches them; null where they are of the type of what reaches them.</summary>
    public string? Always { get; init; }

    /// <summary>How an input that may not count reaches it; as it is where nothing is said.</summary>
    public Func<Value, string>? Taking { get; init; }

    /// <summary>When the result counts, of its inputs; where nothing is said, when all of them do.</summary>
    public Func<IReadOnlyList<Value>, string>? Counting { get; init; }

    /// <summary>An input as it is read: what does not count is kept from having its say.</summary>
    public Value Reads(Value value) => value.Active == "TRUE" || Taking is null ? value : value with { Text = Taking(value) };

    /// <summary>The condition under which the result counts.</summary>
    public string Counts(IReadOnlyList<Value> inputs) => Counting?.Invoke(inputs) ?? Together(inputs);

    private static string Together(IEnumerable<Value> inputs) => Joined(inputs.Select(v => v.Active), " AND ", "TRUE");

    /// <summary>Conditions joined; one that says nothing in it is left out.</summary>
    private static string Joined(IEnumerable<string> conditions, string by, string idle) => string.Join(by, conditions.Where(c => c != idle).Distinct()) is { Length: > 0 } text ? text : idle;

    /// <summary>All count, or one that counts decides alone.</summary>
    private static string Decided(IReadOnlyList<Value> inputs, string deciding) => $"({Together(inputs)}) OR {string.Join(" OR ", inputs.Select(v => $"({v.Active} AND {deciding}{v.Text})"))}";

    /// <summary>Any counts.</summary>
    private static string Any(IReadOnlyList<Value> inputs) => inputs.Any(v => v.Active == "TRUE") ? "TRUE" : Joined(inputs.Select(v => v.Active), " OR ", "FALSE");

    /// <summary>Whether the result is BOOL whatever the inputs are.</summary>
    public bool IsComparison { get; init; }

    /// <summary>The types of outputs that are not BOOL, by their names there.</summary>
    public IReadOnlyDictionary<string, string> OutputTypes { get; init; } = new Dictionary<string, string>();

    /// <summary>All of them: what is here as the standard has it (IEC 61131-3, tables 27 to 46). What is told otherwise here has no place among them.</summary>
    public static IReadOnlyList<StandardBlock> All { get; } = Make();

    private static List<StandardBlock> Make()
    {
        (string, string)[] result = [("out", "OUT")], q = [("out", "Q")], many = [("in#", "IN#")];
        static string requested(Value v) => $"{v.Active} AND {v.Text}";
        StandardBlock function(BlockKind kind, string type, params (string, string)[] inputs) => new(kind, type, true, inputs, result, []);
        StandardBlock logic(BlockKind kind, string type, (string, string) input) => function(kind, type, input) with { Operator = type, Always = "BOOL" };
        StandardBlock compare(BlockKind kind, string type, string sign) => function(kind, type, many) with { Operator = sign, IsComparison = true };
        StandardBlock number(BlockKind kind, string type, string? sign, params (string, string)[] inputs) => function(kind, type, inputs) with { Operator = sign, Always = "REAL" };
        StandardBlock block(BlockKind kind, string type, (string, string)[] inputs, (string, string)[]? outputs = null, (string, string, string)[]? settings = null) => new(kind, type, false, inputs, outputs ?? q, settings ?? []);
        StandardBlock timer(BlockKind kind, string type) => block(kind, type, [("in", "IN")], [("out", "Q"), ("et", "ET")], [("pt", "PT", "TIME")]) with { OutputTypes = new Dictionary<string, string> { ["ET"] = "TIME" } };
        StandardBlock counter(BlockKind kind, string type, (string, string)[] inputs, params (string, string)[] outputs) => block(kind, type, inputs, [.. outputs, ("cv", "CV")], [("pv", "PV", "INT")]) with { Taking = requested, OutputTypes = new Dictionary<string, string> { ["CV"] = "INT" } };
        return
        [
            logic(BlockKind.And, "AND", many[0]) with { Counting = v => Decided(v, "NOT ") }, logic(BlockKind.Or, "OR", many[0]) with { Counting = v => Decided(v, "") }, logic(BlockKind.Xor, "XOR", many[0]), logic(BlockKind.Not, "NOT", ("in", "IN")),
            compare(BlockKind.Gt, "GT", ">"), compare(BlockKind.Ge, "GE", ">="), compare(BlockKind.Lt, "LT", "<"), compare(BlockKind.Le, "LE", "<="), compare(BlockKind.Eq, "EQ", "="), compare(BlockKind.Ne, "NE", "<>"),
            number(BlockKind.Add, "ADD", "+", many), number(BlockKind.Sub, "SUB", "-", many), number(BlockKind.Mul, "MUL", "*", many), number(BlockKind.Div, "DIV", "/", many),
            number(BlockKind.Min, "MIN", null, many) with { Taking = v => $"SEL(G := {v.Active}, IN0 := 3.4E38, IN1 := {v.Text})", Counting = Any }, number(BlockKind.Max, "MAX", null, many) with { Taking = v => $"SEL(G := {v.Active}, IN0 := (-3.4E38), IN1 := {v.Text})", Counting = Any }, number(BlockKind.Abs, "ABS", null, ("in", "IN")),
            number(BlockKind.Limit, "LIMIT", null, ("low", "MN"), ("in", "IN"), ("high", "MX")), function(BlockKind.Sel, "SEL", ("g", "G"), ("in0", "IN0"), ("in1", "IN1")) with { Counting = v => $"{v[0].Active} AND SEL(G := {v[0].Text}, IN0 := {v[1].Active}, IN1 := {v[2].Active})" },
            block(BlockKind.Sr, "SR", [("s1", "S1"), ("r", "R")], [("out", "Q1")]) with { Taking = requested }, block(BlockKind.Rs, "RS", [("s", "S"), ("r1", "R1")], [("out", "Q1")]) with { Taking = requested },
            block(BlockKind.RisingEdge, "R_TRIG", [("in", "CLK")]), block(BlockKind.FallingEdge, "F_TRIG", [("in", "CLK")]),
            timer(BlockKind.Ton, "TON"), timer(BlockKind.Tof, "TOF"), timer(BlockKind.Tp, "TP"),
            counter(BlockKind.CountUp, "CTU", [("cu", "CU"), ("r", "R")], ("out", "Q")),
            counter(BlockKind.CountDown, "CTD", [("cd", "CD"), ("ld", "LD")], ("out", "Q")),
            counter(BlockKind.CountUpDown, "CTUD", [("cu", "CU"), ("cd", "CD"), ("r", "R"), ("ld", "LD")], ("out", "QU"), ("qd", "QD")),
        ];
    }

    /// <summary>The standard's of a kind, or null.</summary>
    public static StandardBlock? Of(BlockKind kind) => All.FirstOrDefault(s => s.Kind == kind);

    /// <summary>The standard's by its name there, or null; counters of any whole number are counters.</summary>
    public static StandardBlock? Named(string type) => All.FirstOrDefault(s => s.Type.Equals(type, StringComparison.OrdinalIgnoreCase) || (s.IsCounter && type.StartsWith(s.Type + "_", StringComparison.OrdinalIgnoreCase)));

    /// <summary>The name of the type that a block of this kind has there: a counter to more than INT holds is one of DINT (table 45).</summary>
    public string TypeFor(Block block) => IsLong(block) ? $"{Type}_DINT" : Type;

    /// <summary>The type of one of its settings in a block.</summary>
    public string SettingType(string type, Block block) => type == "INT" && IsLong(block) ? "DINT" : type;

    /// <summary>The type of one of its outputs in a block, by its name there.</summary>
    public string OutputType(string theirs, Block block) => SettingType(OutputTypes.GetValueOrDefault(theirs, "BOOL"), block);

    private bool IsCounter => OutputTypes.ContainsKey("CV");

    private bool IsLong(Block block) => IsCounter && BlockType.Of(block.Kind).Number(block, "pv") > short.MaxValue;

    /// <summary>The name of an output there; one that is called like an input is told apart.</summary>
    public static string OutputName(IEnumerable<(string Ours, string Theirs)>? pins, BlockType type, string ours) => type.Inputs.Any(i => i.Name == ours) ? $"{Theirs(pins, ours)}_OUT" : Theirs(pins, ours);

    /// <summary>The name of a pin there.</summary>
    public static string Theirs(IEnumerable<(string Ours, string Theirs)>? pins, string ours)
    {
        foreach (var (mine, other) in pins ?? [])
        {
            if (mine == ours) return other;
            if (mine.EndsWith('#') && ours.StartsWith(mine[..^1], StringComparison.Ordinal) && int.TryParse(ours[(mine.Length - 1)..], out int n)) return $"{other[..^1]}{n}";
        }
        return NameScope.OfPin(ours);
    }

    /// <summary>The pin here of a name there, among those that a block has; null where it has none such.</summary>
    public static string? Ours(IEnumerable<(string Ours, string Theirs)>? pins, IEnumerable<Pin> has, string theirs) => has.FirstOrDefault(p => Theirs(pins, p.Name).Equals(theirs, StringComparison.OrdinalIgnoreCase))?.Name;
}
