using System.Globalization;
using System.Text.RegularExpressions;

namespace LoftyWren.Formats.Tests.Logic;

/// <summary>
/// Structured text read by the rules of IEC 61131-3:2013 and nothing else: its words (6.1), literals (6.3), types (6.4), variables
/// (6.5), program organisation units (6.6), configuration (6.8) and statements (7.3), as far as they can occur. Types are met
/// exactly, without a conversion that is not written; all that is not declared, or is a word of the language, is refused. What has
/// been read can be carried out, scan by scan, with the standard's function blocks (6.6.3.5) as they are described there.
/// </summary>
internal sealed partial class StrictText
{
    private static readonly HashSet<string> Elementary = ["BOOL", "INT", "DINT", "REAL", "TIME", "STRING"];
    private static readonly HashSet<string> Words = new(("ARRAY AND AT BY CASE CONFIGURATION CONSTANT DO ELSE ELSIF END_CASE END_CONFIGURATION END_FOR END_FUNCTION END_FUNCTION_BLOCK END_IF END_PROGRAM END_REPEAT END_RESOURCE END_STRUCT END_TYPE END_VAR END_WHILE "
        + "EN ENO EXIT FALSE FOR FUNCTION FUNCTION_BLOCK IF INTERVAL MOD NOT OF ON OR PRIORITY PROGRAM REPEAT RESOURCE RETAIN RETURN STRUCT TASK THEN TO TRUE TYPE UNTIL VAR VAR_EXTERNAL VAR_GLOBAL VAR_INPUT VAR_IN_OUT VAR_OUTPUT VAR_TEMP WHILE WITH XOR "
        + "BOOL BYTE WORD DWORD LWORD SINT INT DINT LINT USINT UINT UDINT ULINT REAL LREAL TIME LTIME DATE TOD DT STRING WSTRING CHAR WCHAR "
        + "ABS SQRT LN LOG EXP SIN COS TAN ASIN ACOS ATAN ADD SUB MUL DIV EXPT MOVE SHL SHR ROR ROL SEL MAX MIN LIMIT MUX GT GE EQ LE LT NE LEN LEFT RIGHT MID CONCAT INSERT DELETE REPLACE FIND TRUNC SR RS R_TRIG F_TRIG CTU CTD CTUD TP TON TOF").Split(' '), StringComparer.OrdinalIgnoreCase);

    // Table 43 to 46: inputs and outputs of the standard's function blocks.
    private static readonly Dictionary<string, (Dictionary<string, string> In, Dictionary<string, string> Out)> Standard = new()
    {
        ["SR"] = (new() { ["S1"] = "BOOL", ["R"] = "BOOL" }, new() { ["Q1"] = "BOOL" }),
        ["RS"] = (new() { ["S"] = "BOOL", ["R1"] = "BOOL" }, new() { ["Q1"] = "BOOL" }),
        ["R_TRIG"] = (new() { ["CLK"] = "BOOL" }, new() { ["Q"] = "BOOL" }),
        ["F_TRIG"] = (new() { ["CLK"] = "BOOL" }, new() { ["Q"] = "BOOL" }),
        ["TON"] = (new() { ["IN"] = "BOOL", ["PT"] = "TIME" }, new() { ["Q"] = "BOOL", ["ET"] = "TIME" }),
        ["TOF"] = (new() { ["IN"] = "BOOL", ["PT"] = "TIME" }, new() { ["Q"] = "BOOL", ["ET"] = "TIME" }),
        ["TP"] = (new() { ["IN"] = "BOOL", ["PT"] = "TIME" }, new() { ["Q"] = "BOOL", ["ET"] = "TIME" }),
        ["CTU"] = (new() { ["CU"] = "BOOL", ["R"] = "BOOL", ["PV"] = "INT" }, new() { ["Q"] = "BOOL", ["CV"] = "INT" }),
        ["CTD"] = (new() { ["CD"] = "BOOL", ["LD"] = "BOOL", ["PV"] = "INT" }, new() { ["Q"] = "BOOL", ["CV"] = "INT" }),
        ["CTUD"] = (new() { ["CU"] = "BOOL", ["CD"] = "BOOL", ["R"] = "BOOL", ["LD"] = "BOOL", ["PV"] = "INT" }, new() { ["QU"] = "BOOL", ["QD"] = "BOOL", ["CV"] = "INT" }),
    };

    private readonly List<(string Kind, string Text, int Line)> _tokens = [];
    private readonly Dictionary<string, Unit> _units = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, string> _globals = new(StringComparer.OrdinalIgnoreCase);
    private int _at;

    private StrictText(string text)
    {
        Tokenise(text);
        while (_at < _tokens.Count)
        {
            if (Is("CONFIGURATION")) Configuration();
            else ReadUnit();
        }
        foreach (Unit unit in _units.Values)
        {
            foreach (Variable external in unit.Variables.Values.Where(v => v.Section == "VAR_EXTERNAL"))
            {
                if (!_globals.TryGetValue(external.Name, out string? type) || type != external.Type) throw new FormatException($"{external.Name} is external, and there is no such global variable of its type.");
            }
        }
    }

    /// <summary>The text, read.</summary>
    /// <exception cref="FormatException">It is none; the message says why and where.</exception>
    public static StrictText Read(string text) => new(text);

    /// <summary>The program.</summary>
    public Unit Program => _units.Values.Single(u => u.Kind == "PROGRAM");

    public sealed record Variable(string Name, string Type, string Section, object? Initial);

    public sealed record Unit(string Kind, string Name, string? Returns, Dictionary<string, Variable> Variables, List<Action<Frame>> Body);

    /// <summary>The values of an instance of a unit.</summary>
    public sealed class Frame(StrictText text, Unit unit)
    {
        public Dictionary<string, object> Values { get; } = new(StringComparer.OrdinalIgnoreCase);

        public StrictText Text { get; } = text;

        public Unit Of { get; } = unit;

        /// <summary>The length of a scan, s.</summary>
        public double Scan { get; set; }

        public void Run()
        {
            foreach (Action<Frame> statement in Of.Body) statement(this);
        }
    }

    /// <summary>An instance of a unit, all of it as it begins.</summary>
    public Frame Begin(Unit unit, double scan)
    {
        var frame = new Frame(this, unit) { Scan = scan };
        foreach (Variable v in unit.Variables.Values) frame.Values[v.Name] = v.Initial ?? First(v.Type, scan);
        if (unit.Returns is { } returns) frame.Values[unit.Name] = First(returns, scan);
        return frame;
    }

    private object First(string type, double scan) => type switch
    {
        "BOOL" => false,
        "STRING" => "",
        _ when Elementary.Contains(type) => 0.0,
        _ when _units.TryGetValue(type, out Unit? unit) => Begin(unit, scan),
        _ when type.StartsWith("ARRAY", StringComparison.Ordinal) => Array.Empty<object>(),
        _ => new StandardInstance(Base(type)),
    };

    private static string Base(string type) => type.EndsWith("_DINT", StringComparison.Ordinal) ? type[..^5] : type;

    // Words, 6.1 to 6.3

    private void Tokenise(string text)
    {
        int line = 1;
        for (int i = 0; i < text.Length;)
        {
            if (text[i] is ' ' or '\n' or '\t')
            {
                if (text[i++] == '\n') line++;
                continue;
            }
            if (string.CompareOrdinal(text, i, "(*", 0, 2) == 0)
            {
                int end = text.IndexOf("*)", i + 2, StringComparison.Ordinal);
                if (end < 0) throw new FormatException($"Line {line}: a comment without an end.");
                string comment = text[(i + 2)..end];
                if (comment.Contains("(*", StringComparison.Ordinal)) throw new FormatException($"Line {line}: a comment in a comment.");
                line += comment.Count(c => c == '\n');
                i = end + 2;
                continue;
            }
            Match word = Token().Match(text, i);
            if (!word.Success || word.Index != i || word.Length == 0) throw new FormatException($"Line {line}: ‘{text[i..Math.Min(text.Length, i + 12)]}’ is no word of structured text.");
            string kind = word.Groups.Cast<Group>().Skip(1).First(g => g.Success).Name;
            if (kind == "name" && (word.Value.Contains("__", StringComparison.Ordinal) || word.Value.EndsWith('_'))) throw new FormatException($"Line {line}: ‘{word.Value}’ is no identifier.");
            // Two literals, or a literal and a name, never touch.
            if (kind is "real" or "int" or "time" && i + word.Length < text.Length && (char.IsLetterOrDigit(text[i + word.Length]) || text[i + word.Length] == '_' || (text[i + word.Length] == '.' && string.CompareOrdinal(text, i + word.Length, "..", 0, 2) != 0))) throw new FormatException($"Line {line}: ‘{word.Value}{text[i + word.Length]}’ is no literal.");
            _tokens.Add((kind, word.Value, line));
            i += word.Length;
        }
    }

    [GeneratedRegex(@"\G(?:(?<time>T#\d+(\.\d+)?(ms|s|m|h|d))|(?<real>\d+\.\d+(E[+-]?\d+)?)|(?<int>\d+)|(?<text>'(?:[^'$\n]|\$['$])*')|(?<name>[A-Za-z_][A-Za-z0-9_]*)|(?<sign>:=|<>|<=|>=|\.\.|[-+*/<>=()\[\];:,.]))", RegexOptions.ExplicitCapture)]
    private static partial Regex Token();

    private bool Is(string word) => _at < _tokens.Count && _tokens[_at].Text == word && _tokens[_at].Kind != "text";

    private bool Takes(string word)
    {
        if (!Is(word)) return false;
        _at++;
        return true;
    }

    private FormatException Wrong(string what) => new($"Line {(_at < _tokens.Count ? _tokens[_at].Line : -1)}: {what}, not ‘{(_at < _tokens.Count ? _tokens[_at].Text : "the end")}’.");

    private void Must(string word)
    {
        if (!Takes(word)) throw Wrong($"‘{word}’ is expected");
    }

    private string Name()
    {
        if (_at >= _tokens.Count || _tokens[_at].Kind != "name" || Words.Contains(_tokens[_at].Text)) throw Wrong("a name is expected");
        return _tokens[_at++].Text;
    }

    // Declarations, 6.5 and 6.6

    private void ReadUnit()
    {
        string kind = _tokens[_at++].Text;
        if (kind is not ("FUNCTION" or "FUNCTION_BLOCK" or "PROGRAM")) throw Wrong($"a unit is expected after ‘{kind}’");
        string name = Name();
        if (_units.ContainsKey(name)) throw Wrong($"‘{name}’ is declared twice");
        string? returns = null;
        if (kind == "FUNCTION")
        {
            Must(":");
            returns = Type();
        }
        var unit = new Unit(kind, name, returns, new(StringComparer.OrdinalIgnoreCase), []);
        while (_tokens[_at].Text.StartsWith("VAR", StringComparison.Ordinal)) Section(unit);
        while (!Is($"END_{kind}")) unit.Body.Add(Statement(unit));
        Must($"END_{kind}");
        _units[name] = unit;
    }

    private void Section(Unit unit)
    {
        string section = _tokens[_at++].Text;
        if (section == "VAR" && Takes("CONSTANT")) section = "VAR CONSTANT";
        else if (section == "VAR") Takes("RETAIN");
        if (section is not ("VAR" or "VAR CONSTANT" or "VAR_INPUT" or "VAR_OUTPUT" or "VAR_EXTERNAL")) throw Wrong($"‘{section}’ cannot stand here");
        int declared = 0;
        for (; !Takes("END_VAR"); declared++)
        {
            string name = Name();
            if (name.Equals(unit.Name, StringComparison.OrdinalIgnoreCase)) throw Wrong($"‘{name}’ is called like its unit");
            if (_units.ContainsKey(name)) throw Wrong($"‘{name}’ is called like a type");
            Must(":");
            string type = Type();
            object? initial = Takes(":=") ? Constant(type) : null;
            if (section == "VAR_EXTERNAL" && initial is not null) throw Wrong("an external variable begins as the global one does");
            Must(";");
            if (!unit.Variables.TryAdd(name, new(name, type, section, initial))) throw Wrong($"‘{name}’ is declared twice");
        }
        if (declared == 0) throw Wrong("a section declares something");
    }

    private string Type()
    {
        if (Takes("ARRAY"))
        {
            Must("[");
            string low = Whole();
            Must("..");
            string high = Whole();
            Must("]");
            Must("OF");
            return $"ARRAY {low} {high} {Type()}";
        }
        string type = _tokens[_at++].Text;
        return Elementary.Contains(type) || Standard.ContainsKey(Base(type)) || _units.TryGetValue(type, out Unit? unit) && unit.Kind == "FUNCTION_BLOCK" ? type : throw Wrong($"‘{type}’ is no type that has been declared");
    }

    private string Whole() => _tokens[_at].Kind == "int" ? _tokens[_at++].Text : throw Wrong("a whole number is expected");

    private object Constant(string type)
    {
        if (type.StartsWith("ARRAY", StringComparison.Ordinal))
        {
            string[] parts = type.Split(' ', 4);
            var all = new List<object>();
            Must("[");
            do
            {
                all.Add(Constant(parts[3]));
            }
            while (Takes(","));
            Must("]");
            if (all.Count != int.Parse(parts[2], CultureInfo.InvariantCulture) - int.Parse(parts[1], CultureInfo.InvariantCulture) + 1) throw Wrong("an array has as many values as places");
            return all.ToArray();
        }
        bool minus = Takes("-");
        var (kind, text, _) = _tokens[_at++];
        return (type, kind) switch
        {
            ("REAL", "real") => double.Parse(text, CultureInfo.InvariantCulture) * (minus ? -1 : 1),
            ("INT" or "DINT", "int") => double.Parse(text, CultureInfo.InvariantCulture) * (minus ? -1 : 1),
            ("BOOL", "name") when text is "TRUE" or "FALSE" && !minus => text == "TRUE",
            ("TIME", "time") when !minus => Seconds(text),
            ("STRING", "text") when !minus => text,
            _ => throw Wrong($"a {type} cannot begin as ‘{text}’"),
        };
    }

    private static double Seconds(string text)
    {
        string unit = text.EndsWith("ms", StringComparison.Ordinal) ? "ms" : text[^1..];
        return double.Parse(text[2..^unit.Length], CultureInfo.InvariantCulture) * unit switch { "ms" => 0.001, "s" => 1, "m" => 60, "h" => 3600, _ => 86_400 };
    }

    private void Configuration()
    {
        Must("CONFIGURATION");
        Name();
        if (Takes("VAR_GLOBAL"))
        {
            while (!Takes("END_VAR"))
            {
                string name = Name();
                Must(":");
                if (!_globals.TryAdd(name, Type())) throw Wrong($"‘{name}’ is declared twice");
                Must(";");
            }
        }
        Must("RESOURCE");
        Name();
        Must("ON");
        Name();
        Must("TASK");
        string task = Name();
        foreach (string word in (string[])["(", "INTERVAL", ":="]) Must(word);
        if (_tokens[_at++].Kind != "time") throw Wrong("an interval is a time");
        foreach (string word in (string[])[",", "PRIORITY", ":="]) Must(word);
        Whole();
        foreach (string word in (string[])[")", ";", "PROGRAM"]) Must(word);
        Name();
        Must("WITH");
        if (Name() != task) throw Wrong("the program runs with the task");
        Must(":");
        if (!_units.TryGetValue(Name(), out Unit? program) || program.Kind != "PROGRAM") throw Wrong("what runs is a program");
        foreach (string word in (string[])[";", "END_RESOURCE", "END_CONFIGURATION"]) Must(word);
    }

    // Statements, 7.3.3

    private List<Action<Frame>> Statements(Unit unit, params string[] ends)
    {
        var all = new List<Action<Frame>>();
        while (!ends.Any(Is) && !(ends.Contains("LABEL") && _tokens[_at].Kind == "int")) all.Add(Statement(unit));
        return all;
    }

    private static void Run(List<Action<Frame>> statements, Frame frame)
    {
        foreach (Action<Frame> statement in statements) statement(frame);
    }

    private Action<Frame> Statement(Unit unit)
    {
        if (Is("IF")) return If(unit);
        if (Is("CASE")) return Case(unit);
        string name = Name();
        if (unit.Variables.TryGetValue(name, out Variable? variable) && (_units.ContainsKey(variable.Type) || Standard.ContainsKey(Base(variable.Type)))) return Call(unit, variable);
        string type = name.Equals(unit.Name, StringComparison.OrdinalIgnoreCase) && unit.Returns is { } returns ? returns : variable?.Type ?? throw Wrong($"‘{name}’ is not declared");
        if (variable?.Section is "VAR_INPUT" or "VAR CONSTANT") throw Wrong($"‘{name}’ is given, and cannot be assigned");
        Must(":=");
        var (given, value) = Expression(unit);
        if (given != type) throw Wrong($"‘{name}’ is {type} and is given {given}");
        Must(";");
        return f => f.Values[name] = value(f);
    }

    private Action<Frame> If(Unit unit)
    {
        var ways = new List<(Func<Frame, object>? When, List<Action<Frame>> Then)>();
        Must("IF");
        do
        {
            var (type, value) = Expression(unit);
            if (type != "BOOL") throw Wrong($"a condition is BOOL, not {type}");
            Must("THEN");
            ways.Add((value, Statements(unit, "ELSIF", "ELSE", "END_IF")));
        }
        while (Takes("ELSIF"));
        if (Takes("ELSE")) ways.Add((null, Statements(unit, "END_IF")));
        Must("END_IF");
        Must(";");
        return f => Run(ways.FirstOrDefault(w => w.When is null || (bool)w.When(f)).Then ?? [], f);
    }

    private Action<Frame> Case(Unit unit)
    {
        Must("CASE");
        var (type, value) = Expression(unit);
        if (type != "INT") throw Wrong($"a case is of a whole number, not {type}");
        Must("OF");
        var ways = new Dictionary<double, List<Action<Frame>>>();
        while (!Takes("END_CASE"))
        {
            double label = double.Parse(Whole(), CultureInfo.InvariantCulture);
            Must(":");
            if (!ways.TryAdd(label, Statements(unit, "LABEL", "END_CASE"))) throw Wrong("a case stands twice");
        }
        if (ways.Count == 0) throw Wrong("there is a case");
        Must(";");
        return f => Run(ways.GetValueOrDefault((double)value(f)) ?? [], f);
    }

    private Action<Frame> Call(Unit unit, Variable instance)
    {
        var inputs = _units.TryGetValue(instance.Type, out Unit? own) ? own.Variables.Values.Where(v => v.Section == "VAR_INPUT").ToDictionary(v => v.Name, v => v.Type) : Standard[Base(instance.Type)].In.ToDictionary(i => i.Key, i => i.Value == "INT" && instance.Type.EndsWith("_DINT", StringComparison.Ordinal) ? "DINT" : i.Value);
        var given = new Dictionary<string, Func<Frame, object>>();
        Must("(");
        for (bool more = !Takes(")"); more; more = !Takes(")"))
        {
            if (given.Count > 0) Must(",");
            string input = _tokens[_at++].Text;
            if (!inputs.TryGetValue(input, out string? wanted)) throw Wrong($"{instance.Type} has no input ‘{input}’");
            Must(":=");
            var (type, value) = Expression(unit);
            if (type != wanted) throw Wrong($"input {input} of {instance.Type} is {wanted} and is given {type}");
            if (!given.TryAdd(input, value)) throw Wrong($"input {input} is given twice");
        }
        Must(";");
        return f =>
        {
            if (f.Values[instance.Name] is Frame inner)
            {
                foreach (var (input, value) in given) inner.Values[input] = value(f);
                inner.Run();
            }
            else ((StandardInstance)f.Values[instance.Name]).Run(given.ToDictionary(g => g.Key, g => g.Value(f)), f.Scan);
        };
    }

    // Expressions, table 71: the weakest first

    private (string Type, Func<Frame, object> Value) Expression(Unit unit) => Joined(unit, ["OR"], u => Joined(u, ["XOR"], v => Joined(v, ["AND"], Equality)));

    private (string Type, Func<Frame, object> Value) Joined(Unit unit, string[] signs, Func<Unit, (string, Func<Frame, object>)> next)
    {
        var (type, value) = next(unit);
        while (signs.FirstOrDefault(Is) is { } sign)
        {
            _at++;
            var (other, right) = next(unit);
            bool isTruth = sign is "OR" or "XOR" or "AND", compares = sign is "=" or "<>" or "<" or "<=" or ">" or ">=";
            if (type != other || (isTruth ? type != "BOOL" : !compares ? type is not ("REAL" or "INT" or "DINT") : sign is not ("=" or "<>") && type is "BOOL" or "STRING")) throw Wrong($"‘{sign}’ cannot stand between {type} and {other}");
            var left = value;
            value = sign switch
            {
                "OR" => f => (bool)left(f) | (bool)right(f),
                "XOR" => f => (bool)left(f) ^ (bool)right(f),
                "AND" => f => (bool)left(f) & (bool)right(f),
                "=" => f => left(f).Equals(right(f)),
                "<>" => f => !left(f).Equals(right(f)),
                "<" => f => (double)left(f) < (double)right(f),
                "<=" => f => (double)left(f) <= (double)right(f),
                ">" => f => (double)left(f) > (double)right(f),
                ">=" => f => (double)left(f) >= (double)right(f),
                "+" => f => (double)left(f) + (double)right(f),
                "-" => f => (double)left(f) - (double)right(f),
                "*" => f => (double)left(f) * (double)right(f),
                _ => f => (double)left(f) / (double)right(f),
            };
            if (compares) type = "BOOL";
        }
        return (type, value);
    }

    private (string Type, Func<Frame, object> Value) Equality(Unit unit) => Joined(unit, ["=", "<>"], u => Joined(u, ["<", "<=", ">", ">="], v => Joined(v, ["+", "-"], w => Joined(w, ["*", "/"], Unary))));

    private (string Type, Func<Frame, object> Value) Unary(Unit unit)
    {
        if (Takes("NOT"))
        {
            var (type, value) = Primary(unit);
            return type == "BOOL" ? ("BOOL", f => !(bool)value(f)) : throw Wrong($"NOT takes BOOL, not {type}");
        }
        if (Takes("-"))
        {
            var (type, value) = Primary(unit);
            return type is "REAL" or "INT" or "DINT" ? (type, f => -(double)value(f)) : throw Wrong($"a minus takes a number, not {type}");
        }
        return Primary(unit);
    }

    private (string Type, Func<Frame, object> Value) Primary(Unit unit)
    {
        if (Takes("("))
        {
            var inner = Expression(unit);
            Must(")");
            return inner;
        }
        var (kind, text, _) = _tokens[_at++];
        if (kind is "real" or "int") return (kind == "real" ? "REAL" : "INT", double.Parse(text, CultureInfo.InvariantCulture) is var number ? _ => number : null!);
        if (kind == "time") return ("TIME", Seconds(text) is var seconds ? _ => seconds : null!);
        if (kind == "text") return ("STRING", _ => text);
        if (kind != "name") throw Wrong($"a value is expected where ‘{text}’ stands");
        if (text is "TRUE" or "FALSE") return ("BOOL", _ => text == "TRUE");
        if (Is("(")) return Function(unit, text);
        if (!unit.Variables.TryGetValue(text, out Variable? variable)) throw Wrong($"‘{text}’ is not declared");
        if (!Takes(".")) return Elementary.Contains(variable.Type) ? (variable.Type, f => f.Values[variable.Name]) : throw Wrong($"‘{text}’ is an instance, not a value");
        string output = _tokens[_at++].Text;
        if (_units.TryGetValue(variable.Type, out Unit? own))
            return own.Variables.TryGetValue(output, out Variable? there) && there.Section == "VAR_OUTPUT" ? (there.Type, f => ((Frame)f.Values[variable.Name]).Values[output]) : throw Wrong($"{variable.Type} has no output ‘{output}’");
        if (!Standard.TryGetValue(Base(variable.Type), out var standard) || !standard.Out.TryGetValue(output, out string? type)) throw Wrong($"{variable.Type} has no output ‘{output}’");
        return (type == "INT" && variable.Type.EndsWith("_DINT", StringComparison.Ordinal) ? "DINT" : type, f => ((StandardInstance)f.Values[variable.Name])[output]);
    }

    private (string Type, Func<Frame, object> Value) Function(Unit unit, string name)
    {
        var given = new List<(string? Name, string Type, Func<Frame, object> Value)>();
        Must("(");
        do
        {
            string? formal = _tokens[_at + 1].Text == ":=" ? _tokens[_at].Text : null;
            if (formal is not null) _at += 2;
            var (type, value) = Expression(unit);
            given.Add((formal, type, value));
        }
        while (Takes(","));
        Must(")");
        string all = string.Join(",", given.Select(g => $"{g.Name}:{g.Type}"));
        double number(Frame f, string input) => (double)given.First(g => g.Name == input).Value(f);
        if (_units.TryGetValue(name, out Unit? own) && own.Kind == "FUNCTION")
        {
            if (all != string.Join(",", own.Variables.Values.Where(v => v.Section == "VAR_INPUT").Select(v => $"{v.Name}:{v.Type}"))) throw Wrong($"{name} is not called with what it takes: {all}");
            return (own.Returns!, f =>
            {
                Frame call = Begin(own, f.Scan);
                foreach (var g in given) call.Values[g.Name!] = g.Value(f);
                call.Run();
                return call.Values[own.Name];
            }
            );
        }
        switch (name)
        {
            case "MIN" or "MAX" when given.Count > 1 && given.Select((g, i) => g.Name == $"IN{i + 1}" && g.Type == "REAL").All(b => b):
            case "MIN" or "MAX" when given.Count > 1 && given.All(g => g.Name is { } n && n.StartsWith("IN", StringComparison.Ordinal) && g.Type == "REAL"):
                return ("REAL", f => name == "MIN" ? given.Min(g => (double)g.Value(f)) : given.Max(g => (double)g.Value(f)));
            case "ABS" when all == "IN:REAL":
                return ("REAL", f => Math.Abs(number(f, "IN")));
            case "LIMIT" when all == "MN:REAL,IN:REAL,MX:REAL":
                return ("REAL", f => Math.Min(Math.Max(number(f, "IN"), number(f, "MN")), number(f, "MX")));
            case "SEL" when given.Count == 3 && all == $"G:BOOL,IN0:{given[1].Type},IN1:{given[1].Type}":
                return (given[1].Type, f => (bool)given[0].Value(f) ? given[2].Value(f) : given[1].Value(f));
            case "TIME_TO_REAL" when all == ":TIME":
                return ("REAL", f => (double)given[0].Value(f) * 1000);
            case "INT_TO_REAL" when all == ":INT":
            case "DINT_TO_REAL" when all == ":DINT":
                return ("REAL", given[0].Value);
            case "REAL_TO_INT" when all == ":REAL":
                return ("INT", f => Math.Round((double)given[0].Value(f)));
            default:
                throw Wrong($"{name} is no function that takes {all}");
        }
    }

    /// <summary>A function block of the standard, as its figures 8 to 15 and tables 43 to 46 have it.</summary>
    public sealed class StandardInstance(string type)
    {
        private readonly Dictionary<string, object> _in = Standard[type].In.ToDictionary(i => i.Key, i => i.Value == "BOOL" ? (object)false : 0.0);
        private readonly Dictionary<string, object> _out = Standard[type].Out.ToDictionary(i => i.Key, i => i.Value == "BOOL" ? (object)false : 0.0);
        private bool _before;

        public object this[string output] => _out[output];

        private bool On(string input) => (bool)_in[input];

        public void Run(Dictionary<string, object> given, double scan)
        {
            foreach (var (input, value) in given) _in[input] = value;
            switch (type)
            {
                case "SR":
                    _out["Q1"] = On("S1") || (!On("R") && (bool)_out["Q1"]);
                    break;
                case "RS":
                    _out["Q1"] = !On("R1") && (On("S") || (bool)_out["Q1"]);
                    break;
                case "TON":
                    double waited = !On("IN") ? 0 : _before ? Math.Min((double)_in["PT"], (double)_out["ET"] + scan) : 0;
                    (_out["ET"], _out["Q"], _before) = (waited, On("IN") && waited > (double)_in["PT"] - 1e-6, On("IN"));
                    break;
                default:
                    throw new NotSupportedException($"{type} is only read, not carried out.");
            }
        }
    }
}
