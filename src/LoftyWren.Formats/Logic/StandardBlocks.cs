using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;

namespace LoftyWren.Formats.Logic;

/// <summary>A kind of block under the name that IEC 61131-3 has for it: a function or a function block, with the names of its pins there, and of settings that are inputs there.</summary>
/// <param name="Kind">The kind here.</param>
/// <param name="Type">Its name there.</param>
/// <param name="IsFunction">Whether it is a function, which has no instance and one result.</param>
/// <param name="Inputs">Pins here and there; <c>in#</c> stands for in1, in2 and so on.</param>
/// <param name="Outputs">Pins here and there.</param>
/// <param name="Settings">Settings here that are inputs there, and whether each is a length of time.</param>
internal sealed record StandardBlock(BlockKind Kind, string Type, bool IsFunction, IReadOnlyList<(string Ours, string Theirs)> Inputs, IReadOnlyList<(string Ours, string Theirs)> Outputs, IReadOnlyList<(string Ours, string Theirs, bool IsTime)> Settings)
{
    /// <summary>All of them: what is here as the standard has it (IEC 61131-3, tables 27 to 46). What is told otherwise here has no place among them.</summary>
    public static IReadOnlyList<StandardBlock> All { get; } = Make();

    private static List<StandardBlock> Make()
    {
        (string, string)[] result = [("out", "OUT")], q = [("out", "Q")], many = [("in#", "IN#")];
        StandardBlock function(BlockKind kind, string type, params (string, string)[] inputs) => new(kind, type, true, inputs, result, []);
        StandardBlock block(BlockKind kind, string type, (string, string)[] inputs, (string, string)[]? outputs = null, (string, string, bool)[]? settings = null) => new(kind, type, false, inputs, outputs ?? q, settings ?? []);
        (string, string)[] timer = [("out", "Q"), ("et", "ET")];
        return
        [
            function(BlockKind.And, "AND", many), function(BlockKind.Or, "OR", many), function(BlockKind.Xor, "XOR", many), function(BlockKind.Not, "NOT", ("in", "IN")),
            function(BlockKind.Gt, "GT", many), function(BlockKind.Ge, "GE", many), function(BlockKind.Lt, "LT", many), function(BlockKind.Le, "LE", many), function(BlockKind.Eq, "EQ", many), function(BlockKind.Ne, "NE", many),
            function(BlockKind.Add, "ADD", many), function(BlockKind.Sub, "SUB", many), function(BlockKind.Mul, "MUL", many), function(BlockKind.Div, "DIV", many),
            function(BlockKind.Min, "MIN", many), function(BlockKind.Max, "MAX", many), function(BlockKind.Abs, "ABS", ("in", "IN")),
            function(BlockKind.Limit, "LIMIT", ("low", "MN"), ("in", "IN"), ("high", "MX")), function(BlockKind.Sel, "SEL", ("g", "G"), ("in0", "IN0"), ("in1", "IN1")),
            block(BlockKind.Sr, "SR", [("s1", "S1"), ("r", "R")], [("out", "Q1")]), block(BlockKind.Rs, "RS", [("s", "S"), ("r1", "R1")], [("out", "Q1")]),
            block(BlockKind.RisingEdge, "R_TRIG", [("in", "CLK")]), block(BlockKind.FallingEdge, "F_TRIG", [("in", "CLK")]),
            block(BlockKind.Ton, "TON", [("in", "IN")], timer, [("pt", "PT", true)]), block(BlockKind.Tof, "TOF", [("in", "IN")], timer, [("pt", "PT", true)]), block(BlockKind.Tp, "TP", [("in", "IN")], timer, [("pt", "PT", true)]),
            block(BlockKind.CountUp, "CTU", [("cu", "CU"), ("r", "R")], [("out", "Q"), ("cv", "CV")], [("pv", "PV", false)]),
            block(BlockKind.CountDown, "CTD", [("cd", "CD"), ("ld", "LD")], [("out", "Q"), ("cv", "CV")], [("pv", "PV", false)]),
            block(BlockKind.CountUpDown, "CTUD", [("cu", "CU"), ("cd", "CD"), ("r", "R"), ("ld", "LD")], [("out", "QU"), ("qd", "QD"), ("cv", "CV")], [("pv", "PV", false)]),
        ];
    }

    /// <summary>The standard's of a kind, or null.</summary>
    public static StandardBlock? Of(BlockKind kind) => All.FirstOrDefault(s => s.Kind == kind);

    /// <summary>The standard's by its name there, or null.</summary>
    public static StandardBlock? Named(string type) => All.FirstOrDefault(s => s.Type.Equals(type, StringComparison.OrdinalIgnoreCase));

    /// <summary>What a block is called there: the standard's name, or one of ours.</summary>
    public static string TypeOf(Block block) => Of(block.Kind)?.Type ?? $"LW_{block.Kind}";

    /// <summary>The name of a pin there.</summary>
    public static string Theirs(IEnumerable<(string Ours, string Theirs)>? pins, string ours)
    {
        foreach (var (mine, other) in pins ?? [])
        {
            if (mine == ours) return other;
            if (mine.EndsWith('#') && ours.StartsWith(mine[..^1], StringComparison.Ordinal) && int.TryParse(ours[(mine.Length - 1)..], out int n)) return $"{other[..^1]}{n}";
        }
        return ours.ToUpperInvariant();
    }

    /// <summary>The pin here of a name there, among those that a block has; null where it has none such.</summary>
    public static string? Ours(IEnumerable<(string Ours, string Theirs)>? pins, IEnumerable<Pin> has, string theirs) => has.FirstOrDefault(p => Theirs(pins, p.Name).Equals(theirs, StringComparison.OrdinalIgnoreCase))?.Name;
}

/// <summary>Names as programs have them: letters, digits and underlines, each once, whatever its capitals; made of the names that the ledger has.</summary>
internal sealed class Identifiers
{
    private readonly Dictionary<Source, string> _of = [];
    private readonly Dictionary<string, Source> _named = new(StringComparer.OrdinalIgnoreCase);
    private readonly HashSet<string> _taken = new(StringComparer.OrdinalIgnoreCase);
    private readonly LedgerNames _names;

    public Identifiers(Project project, Sequence sequence)
    {
        _names = new LedgerNames(project, sequence);
        foreach (var (name, source) in _names.All.Where(a => a.Source is not BlockSource)) Add(source, name);
    }

    /// <summary>The identifier of a point or a schedule.</summary>
    public string Of(Source source) => _of.TryGetValue(source, out string? known) ? known : Add(source, _names.Of(source));

    /// <summary>What an identifier stands for, or null.</summary>
    public Source? Named(string identifier) => _named.GetValueOrDefault(identifier.Trim());

    /// <summary>An identifier that nothing else has, of words.</summary>
    public string Fresh(string words)
    {
        string plain = Plain(words), free = plain;
        for (int n = 2; !_taken.Add(free); n++) free = $"{plain}_{n}";
        return free;
    }

    /// <summary>Words as an identifier: of anything that is no letter, digit or underline one underline; it begins with a letter.</summary>
    public static string Plain(string words)
    {
        string plain = string.Concat(words.Normalize(System.Text.NormalizationForm.FormKD).Where(c => char.GetUnicodeCategory(c) != System.Globalization.UnicodeCategory.NonSpacingMark).Select(c => char.IsAsciiLetterOrDigit(c) ? c : '_'));
        plain = string.Join('_', plain.Split('_', StringSplitOptions.RemoveEmptyEntries));
        return plain.Length == 0 || char.IsAsciiDigit(plain[0]) ? $"V_{plain}".TrimEnd('_') : plain;
    }

    private string Add(Source source, string name)
    {
        string identifier = Fresh(name);
        _of[source] = identifier;
        _named[identifier] = source;
        return identifier;
    }
}
