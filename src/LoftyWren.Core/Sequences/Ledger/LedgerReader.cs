using System.Globalization;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Texts;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences.Ledger;

/// <summary>What cannot be read of a ledger: on which line (from 1), at which character of it (from 0), and why.</summary>
public sealed record LedgerProblem(int Line, int At, string Sentence);

/// <summary>
/// Reads a ledger back into a sequence. Lines are matched to what is there by name, and a line that has only changed its name
/// by its place and kind, so that blocks keep their identity and with it what they remember.
/// </summary>
public sealed class LedgerReader
{
    /// <summary>The most characters, and the most lines, of one ledger.</summary>
    public const int MostText = 200_000, MostLines = 10_000;

    /// <summary>Operators that stand between names, as they are written.</summary>
    public static IReadOnlyList<string> Operators { get; } = [.. BlockType.All.Select(t => t.Operator).OfType<string>().Distinct()];

    private static readonly (string Typed, string Operator)[] AlsoTyped = [(">=", "≥"), ("<=", "≤"), ("<>", "≠"), ("!=", "≠"), ("-", "−"), ("*", "×"), ("/", "÷")];

    private readonly Project _project;
    private readonly Sequence _sequence;
    private readonly Func<string, Part?> _library;
    private readonly List<LedgerProblem> _problems = [];
    private readonly List<(int Line, string BlockId, string Setting, string Unit, int At)> _units = [];
    private LedgerNames _names;

    private LedgerReader(Project project, Sequence sequence, Func<string, Part?> library)
    {
        (_project, _sequence, _library) = (project, sequence, library);
        _names = new LedgerNames(project, sequence);
    }

    /// <summary>Whether a text at the beginning of a line reads as a source, and no more.</summary>
    internal static bool Reads(LedgerNames names, string text, Source source) => names.At(text, 0) is var (read, length) && length == text.Length && read.Equals(source);

    /// <summary>The sequence that a text comes to, and what of it cannot be read; the sequence is as it was where anything cannot.</summary>
    public static (Sequence Sequence, IReadOnlyList<LedgerProblem> Problems) Read(Project project, Sequence sequence, string text, Func<string, Part?>? library = null)
    {
        var reader = new LedgerReader(project, sequence, library ?? (_ => null));
        Sequence read = reader.Read(text);
        return reader._problems.Count == 0 ? (read, []) : (sequence, reader._problems);
    }

    private Sequence Read(string text)
    {
        string[] lines = text.Split('\n').Select(l => l.TrimEnd('\r', ' ', '\t')).ToArray();
        if (lines.Length > MostLines)
        {
            Problem(MostLines, 0, $"A ledger has at most {MostLines} lines; this one has {lines.Length}. Split the sequence.");
            return _sequence;
        }
        var taken = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        var heads = new List<(int Line, string Name, int From)>();
        var outputs = new List<(int Line, int Arrow)>();
        for (int i = 0; i < lines.Length; i++)
        {
            if (lines[i].Length == 0 || char.IsWhiteSpace(lines[i][0])) continue;
            int arrow = Quoting.Outside(lines[i], " ←"), equals = Quoting.Outside(lines[i], " = ");
            if (arrow < 0) arrow = Quoting.Outside(lines[i], " <-");
            if (arrow >= 0 && (equals < 0 || arrow < equals)) outputs.Add((i, arrow));
            else if (equals < 0) Problem(i, 0, "A line is a named result, such as ‘Too warm = Room temperature > High limit’, or a claim, such as ‘Extract fan ← 10 High temperature: Too warm’.");
            else if (Quoting.Bare(lines[i][..equals]) is not { Length: > 0 and <= 120 } name) Problem(i, 0, "A name has 1 to 120 characters.");
            else if (heads.Count >= Sequence.MostBlocks) Problem(i, 0, $"A sequence has at most {Sequence.MostBlocks} blocks. Split it.");
            else if (!taken.Add(name)) Problem(i, 0, $"There are two lines called ‘{name}’. Give one of them another name.");
            else heads.Add((i, name, equals + 3));
        }
        List<Block> blocks = Matched(heads, lines);
        // Lines may read each other in any order, so all names are known before any is read.
        _names = new LedgerNames(_project, _sequence with { Blocks = blocks });
        for (int b = 0; b < heads.Count; b++)
        {
            var (line, _, rest) = heads[b];
            int at = b;
            Try(line, () => blocks[at] = ReadBlock(blocks[at], new Line(lines[line], rest, _names, line), Rows(lines, line)));
        }
        // Columns of tables and the pins of own blocks are names as well; where they were new, what reads them is read once more.
        if (_problems.Count > 0 || blocks.Exists(b => b.Table is not null || b.Inside is not null))
        {
            _names = new LedgerNames(_project, _sequence with { Blocks = blocks });
            _problems.RemoveAll(p => heads.Exists(h => h.Line == p.Line - 1) || (lines[p.Line - 1].Length > 0 && char.IsWhiteSpace(lines[p.Line - 1][0])));
            _units.Clear();
            for (int b = 0; b < heads.Count; b++)
            {
                var (line, _, rest) = heads[b];
                int at = b;
                Try(line, () => blocks[at] = ReadBlock(blocks[at], new Line(lines[line], rest, _names, line), Rows(lines, line)));
            }
        }
        Sequence next = _sequence with { Blocks = blocks };
        List<OutputCommand> commands = Commands(lines, outputs);
        if (_problems.Count > 0) return _sequence;
        next = next with { Commands = commands };
        return Converted(next);
    }

    /// <summary>The rows of the modes below a line.</summary>
    private static List<(int Line, string Text)> Rows(string[] lines, int head)
    {
        var rows = new List<(int, string)>();
        for (int i = head + 1; i < lines.Length && (lines[i].Length == 0 || char.IsWhiteSpace(lines[i][0])); i++)
        {
            if (lines[i].Trim().Length > 0) rows.Add((i, lines[i]));
        }
        return rows;
    }

    /// <summary>For each line the block it is: the one of that name, else one that has only been called otherwise, else a new one.</summary>
    private List<Block> Matched(List<(int Line, string Name, int From)> heads, string[] lines)
    {
        var byName = _sequence.Blocks.ToDictionary(b => _names.OfBlock(b.Id), StringComparer.OrdinalIgnoreCase);
        var left = _sequence.Blocks.Where(b => !heads.Exists(h => h.Name.Equals(_names.OfBlock(b.Id), StringComparison.OrdinalIgnoreCase))).ToList();
        var taken = _sequence.Blocks.Select(b => b.Id).ToHashSet();
        var blocks = new List<Block>();
        foreach (var (line, name, rest) in heads)
        {
            BlockKind? kind = null;
            Try(line, () => kind = KindAt(new Line(lines[line], rest, _names, line)), keeps: false);
            Block? was = byName.GetValueOrDefault(name);
            if (was is null && left.FirstOrDefault(b => b.Kind == kind && _sequence.Blocks.ToList().IndexOf(b) == heads.FindIndex(h => h.Line == line)) is { } renamed)
            {
                left.Remove(renamed);
                was = renamed with { Label = name };
            }
            if (was is null)
            {
                string made = Id(name, taken);
                was = new Block { Id = made, Kind = kind ?? BlockKind.And, Label = name };
            }
            else if (byName.ContainsKey(name) && name != _names.OfBlock(was.Id)) was = was with { Label = name };
            if (kind is { } now && now != was.Kind) was = was with { Kind = now, Numbers = new Dictionary<string, double>(), Choices = new Dictionary<string, string>(), Tables = null, Texts = null, Modes = null, Inside = null, OutputUnit = null };
            blocks.Add(was);
        }
        return blocks;
    }

    private static string Id(string name, HashSet<string> taken)
    {
        string word = new([.. name.ToLowerInvariant().Select(c => char.IsAsciiLetterOrDigit(c) ? c : '-').Take(24)]);
        word = string.Join('-', word.Split('-', StringSplitOptions.RemoveEmptyEntries));
        if (word.Length == 0) word = "b";
        string id = word;
        for (int n = 2; !taken.Add(id); n++) id = $"{word}-{n}";
        return id;
    }

    private static BlockType? KindNamed(Line line)
    {
        line.Space();
        BlockType? best = BlockType.All.Where(t => !t.IsInner && LedgerNames.Is(line.Text, line.At, t.Name)).MaxBy(t => t.Name.Length);
        if (best is null) return null;
        // A name of a kind is one only where its inputs follow; else a line may be called the same.
        int after = line.At + best.Name.Length;
        return line.Text[after..].TrimStart().StartsWith('(') ? best : null;
    }

    private BlockKind KindAt(Line line)
    {
        if (line.Word("own")) return BlockKind.Own;
        if (KindNamed(line) is { } type) return type.Kind;
        return Expression(line).Kind;
    }

    private Block ReadBlock(Block block, Line line, List<(int Line, string Text)> rows)
    {
        Block read;
        if (line.Word("own"))
        {
            string name = line.Quoted("the name of an own block, in ‘ ’");
            Part? part = block.Inside is { } inside && inside.Name.Equals(name, StringComparison.OrdinalIgnoreCase) ? inside : _sequence.Blocks.Select(b => b.Inside).FirstOrDefault(p => p?.Name.Equals(name, StringComparison.OrdinalIgnoreCase) == true) ?? _library(name);
            if (part is null) throw new SyntaxException(line.At, $"There is no own block called ‘{name}’ here or in the library.");
            read = Settled(block with { Kind = BlockKind.Own, Inside = part }, part.Type(), line);
        }
        else if (KindNamed(line) is { } type)
        {
            line.At += type.Name.Length;
            read = type.Kind == BlockKind.Modes ? Modes(block, line, rows) : Settled(block with { Kind = type.Kind }, type, line);
        }
        else
        {
            var (kind, operands) = Expression(line);
            BlockType of = BlockType.Of(kind);
            read = block with { Kind = kind, Numbers = new Dictionary<string, double>(), Choices = new Dictionary<string, string>(), Inputs = operands.Select((o, i) => (of.Inputs[i].Name, o)).ToDictionary(x => x.Name, x => x.o) };
        }
        if (line.Word("in"))
        {
            line.Space();
            int at = line.At;
            string unit = line.While(c => c is not ' ', "a unit");
            read = read with { OutputUnit = Unit.Read(unit)?.Symbol ?? throw new SyntaxException(at, $"‘{unit}’ is not a known unit.") };
        }
        else read = read with { OutputUnit = null };
        line.End();
        if (rows.Count > 0 && read.Table is null) Problem(rows[0].Line, 0, "A line that begins with a blank is a mode; it stands below a mode table.");
        return read;
    }

    private (BlockKind Kind, List<Source> Operands) Expression(Line line)
    {
        line.Space();
        int from = line.At;
        int named = _names.At(line.Text, line.At) is var (_, length) ? length : 0;
        foreach (BlockType prefix in BlockType.All.Where(t => t.Operator is not null && t.Operator.Length >= named).Where(t => t.Operator is not null && t.Inputs.Count == 1))
        {
            if (line.Word(prefix.Operator!)) return (prefix.Kind, [line.Source()]);
        }
        var operands = new List<Source> { line.Source() };
        string? op = null;
        while (!line.IsAtEnd && line.Operator() is { } next)
        {
            if (op is not null && op != next) throw new SyntaxException(line.At - next.Length, $"‘{op}’ and ‘{next}’ in one line: give what comes first a line of its own.");
            op = next;
            operands.Add(line.Source());
        }
        BlockType? type = BlockType.All.FirstOrDefault(t => t.Operator == op && op is not null && t.Inputs.Count > 1);
        if (type is null) throw new SyntaxException(from, "A result is what a kind of block makes of its inputs, such as ‘Two-position (measured: …, limit: …)’, or what stands between names, such as ‘A and B’ or ‘A > 21 °C’.");
        if (operands.Count > type.Inputs.Count) throw new SyntaxException(line.At, $"‘{op}’ takes at most {type.Inputs.Count}; there are {operands.Count}.");
        return (type.Kind, operands);
    }

    /// <summary>Inputs and settings of a block, between parentheses.</summary>
    private Block Settled(Block block, BlockType type, Line line)
    {
        var inputs = new Dictionary<string, Source>();
        var numbers = new Dictionary<string, double>();
        var choices = new Dictionary<string, string>();
        var texts = new Dictionary<string, string>();
        var tables = new Dictionary<string, IReadOnlyList<TableRow>>();
        line.Open();
        while (!line.Close())
        {
            int at = line.At;
            if (line.Label(type.Inputs.Select(i => (i.Name, LedgerText.LabelOf(type, i.Name, i.Label)))) is { } pin) inputs[pin] = line.Source();
            else if (line.Label(type.Numbers.Select(n => (n.Name, LedgerText.LabelOf(type, n.Name, n.Label)))) is { } number)
            {
                NumberSetting setting = type.Numbers.First(n => n.Name == number);
                double value = line.FiniteNumber();
                int unitAt = line.At;
                if (line.UnitText() is { } unit)
                {
                    if (Unit.Find(setting.Unit) is { } wanted && setting.Unit.Length > 0) value = line.Turned(value, unit, wanted, unitAt, setting.Label);
                    else _units.Add((line.Number0, block.Id, number, unit, unitAt));
                }
                numbers[number] = value;
            }
            else if (line.Label(type.Choices.Select(c => (c.Name, LedgerText.LabelOf(type, c.Name, c.Label)))) is { } choice)
            {
                ChoiceSetting setting = type.Choices.First(c => c.Name == choice);
                choices[choice] = line.OneOf(setting.Options.Select(o => (o.Value, o.Label)), setting.Label);
            }
            else if (line.Label(type.Texts.Select(t => (t.Name, LedgerText.LabelOf(type, t.Name, t.Label)))) is { } text) texts[text] = line.Words();
            else if (line.Label(type.Tables.Select(t => (t.Name, LedgerText.LabelOf(type, t.Name, t.Label)))) is { } table) tables[table] = line.Table();
            else throw new SyntaxException(at, $"‘{type.Name}’ has no input or setting ‘{line.Rest}’. It has {string.Join(", ", type.Inputs.Where(i => !i.Name.StartsWith("in", StringComparison.Ordinal) || i.Required).Select(i => i.Label).Concat(type.Numbers.Select(n => n.Label)).Concat(type.Choices.Select(c => c.Label)))}.");
            line.Comma();
        }
        return block with { Inputs = inputs, Numbers = numbers, Choices = choices, Texts = texts.Count > 0 ? texts : null, Tables = tables.Count > 0 ? tables : null };
    }

    private Block Modes(Block block, Line line, List<(int Line, string Text)> rows)
    {
        ModeTable was = block.Modes ?? new ModeTable();
        var columns = new List<ModeColumn>();
        bool beginsAgain = false;
        line.Open();
        while (!line.Close())
        {
            if (line.Word("begins anew")) beginsAgain = true;
            else
            {
                string name = line.Name(",;)", "a column");
                columns.Add(was.Columns.FirstOrDefault(c => c.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) ?? new ModeColumn { Slot = 0, Name = name });
            }
            line.Comma();
        }
        for (int i = 0; i < columns.Count; i++)
        {
            if (columns[i].Slot == 0) columns[i] = columns[i] with { Slot = ModeTable.FreeSlot(columns.Concat(was.Columns).Select(c => c.Slot).Where(n => n > 0), ModeTable.MostColumns) };
        }
        var heads = rows.ConvertAll(r => (r.Line, Row: new Line(r.Text, 0, _names, r.Line)));
        var modes = new List<Mode>();
        foreach (var (at, row) in heads)
        {
            Try(at, () =>
            {
                row.Space();
                string name = row.Name(":", "the name of a mode");
                row.Need(":");
                Mode? known = was.Modes.FirstOrDefault(m => m.Name.Equals(name, StringComparison.OrdinalIgnoreCase));
                modes.Add(known ?? new Mode { Slot = ModeTable.FreeSlot(modes.Concat(was.Modes).Select(m => m.Slot), ModeTable.MostModes), Name = name });
            });
        }
        // A mode that was only called otherwise keeps its number, by its place.
        if (modes.Count == was.Modes.Count)
        {
            for (int i = 0; i < modes.Count; i++)
            {
                if (was.Modes.All(m => m.Slot != modes[i].Slot) && modes.TrueForAll(m => m.Slot != was.Modes[i].Slot)) modes[i] = modes[i] with { Slot = was.Modes[i].Slot };
            }
        }
        var inputs = new Dictionary<string, Source>();
        for (int i = 0; i < modes.Count; i++)
        {
            int at = i;
            Try(heads[i].Line, () => modes[at] = Row(new Mode { Slot = modes[at].Slot, Name = modes[at].Name }, modes, columns, heads[at].Row, inputs, at == modes.Count - 1));
        }
        return block with { Kind = BlockKind.Modes, Modes = new ModeTable { Modes = modes, Columns = columns, BeginsAgain = beginsAgain }, Inputs = inputs, Numbers = new Dictionary<string, double>(), Choices = new Dictionary<string, string>(), Tables = null, Texts = null };
    }

    private static Mode Row(Mode mode, List<Mode> modes, List<ModeColumn> columns, Line row, Dictionary<string, Source> inputs, bool isLast)
    {
        while (!row.IsAtEnd)
        {
            int at = row.At;
            if (row.Label(columns.Select(c => ($"{c.Slot}", c.Name)), '=') is { } column)
            {
                int slot = int.Parse(column, CultureInfo.InvariantCulture);
                if (row.Now != '‘' && row.Word("released")) mode = mode with { Releases = [.. mode.Releases, slot] };
                else inputs[ModeTable.Cell(slot, mode.Slot)] = row.Source();
            }
            else if (row.Word("when"))
            {
                if (isLast) throw new SyntaxException(at, "The last mode stands when no other holds: it needs no condition.");
                inputs[ModeTable.When(mode.Slot)] = row.Source();
            }
            else if (row.Word("until")) inputs[ModeTable.Until(mode.Slot)] = row.Source();
            else if (row.Word("comes after")) mode = mode with { EnterAfter = row.Seconds() };
            else if (row.Word("goes after")) mode = mode with { LeaveAfter = row.Seconds() };
            else if (row.Word("at least")) mode = mode with { Least = row.Seconds() };
            else if (row.Word("at most")) mode = mode with { Most = row.Seconds() };
            else if (row.Word("at once")) mode = mode with { AtOnce = true };
            else if (row.Word("unread as holding")) mode = mode with { Unread = UnreadCondition.Yes };
            else if (row.Word("unread as it was")) mode = mode with { Unread = UnreadCondition.AsWas };
            else if (row.Word("from")) mode = mode with { From = row.List(() => row.OneOf(modes.Select(m => (m.Slot, m.Name)), "mode")) };
            else if (row.Word("begins after")) mode = mode with { Starts = row.List(() => row.OneOf(Enum.GetValues<RestartReason>().Select(r => (r, StartCauses.States[StartCauses.NumberOf(r) - 1])), "start cause")) };
            else throw new SyntaxException(at, $"A mode is told with when, comes after, until, goes after, at least, at most, from, at once, begins after, unread as holding, unread as it was, and its columns ({string.Join(", ", columns.Select(c => $"{c.Name} = …"))}), parted by ‘;’.");
            if (!row.IsAtEnd) row.Need(";");
        }
        return mode;
    }

    private List<OutputCommand> Commands(string[] lines, List<(int Line, int Arrow)> outputs)
    {
        var commands = new List<OutputCommand>();
        foreach (var (line, arrow) in outputs)
        {
            Try(line, () =>
            {
                string name = Quoting.Bare(lines[line][..arrow]);
                if ((_names.All.FirstOrDefault(a => a.Source is PointSource && a.Name.Equals(name, StringComparison.OrdinalIgnoreCase)).Source ?? _names.Named(name)) is not PointSource { PointId: var point })
                    throw new SyntaxException(0, $"‘{name}’ is no point that could be commanded here. Write a point of this place, or ‘name of owner’.");
                var rest = new Line(lines[line], arrow + (lines[line].AsSpan(arrow).StartsWith(" ←") ? 2 : 3), _names, line);
                int at = commands.FindIndex(c => c.PointId == point);
                if (at < 0)
                {
                    commands.Add(new OutputCommand { PointId = point });
                    at = commands.Count - 1;
                }
                if (rest.IsAtEnd) return;
                int from = rest.At;
                double priority = rest.FiniteNumber();
                if (priority is < 1 or > 16 || priority != Math.Floor(priority) || priority == Sequence.ManualOperator) throw new SyntaxException(from, $"A claim has a priority from 1 (strongest) to 16, but not {Sequence.ManualOperator}, which is for people.");
                if (commands[at].Claims.Any(c => c.Priority == (int)priority)) throw new SyntaxException(from, $"Priority {priority} of ‘{name}’ is claimed twice.");
                rest.Space();
                string label = rest.Now == ':' ? "" : rest.Name(":", "the name of the claim");
                rest.Need(":");
                rest.Space();
                // In small letters it is the word; a name is written as it is called, or in ‘ ’.
                bool isOpen = rest.Text[rest.At..].TrimEnd() == "open";
                if (isOpen) rest.At = rest.Text.Length;
                Source? source = isOpen ? null : rest.Source();
                rest.End();
                string? was = label.Length > 0 ? label : null;
                commands[at] = commands[at] with { Claims = [.. commands[at].Claims, new Claim { Priority = (int)priority, Label = was, Source = source }] };
            });
        }
        return commands;
    }

    /// <summary>Settings whose unit follows from what reaches the block are turned into it.</summary>
    private Sequence Converted(Sequence next)
    {
        if (_units.Count == 0) return next;
        Typing typing = Typing.Of(next, _project);
        var blocks = next.Blocks.ToList();
        foreach (var (line, id, setting, text, at) in _units)
        {
            int b = blocks.FindIndex(x => x.Id == id);
            NumberSetting? number = BlockType.Of(blocks[b]).Numbers.FirstOrDefault(n => n.Name == setting);
            Unit? wanted = typing.UnitOf(blocks[b], setting);
            if (wanted is null || Unit.Read(text) is not { } given || given == wanted) continue;
            if (given.To(wanted) is not var (factor, offset)) Problem(line, at, $"‘{number?.Label ?? setting}’ is given in {wanted.Symbol} here, not in {given.Symbol}.");
            else blocks[b] = blocks[b] with { Numbers = new Dictionary<string, double>(blocks[b].Numbers) { [setting] = (blocks[b].Numbers[setting] * factor) + offset } };
        }
        return next with { Blocks = blocks };
    }

    private void Problem(int line, int at, string sentence) => _problems.Add(new LedgerProblem(line + 1, at, sentence));

    private void Try(int line, Action read, bool keeps = true)
    {
        try
        {
            read();
        }
        catch (SyntaxException e)
        {
            if (keeps) Problem(line, e.At, e.Message);
        }
    }

    /// <summary>A line as it is read.</summary>
    private sealed class Line : Scanner
    {
        private readonly LedgerNames _names;

        public Line(string text, int at, LedgerNames names, int number) : base(text)
        {
            (_names, Number0) = (names, number);
            At = at;
        }

        /// <summary>Its number, from 0.</summary>
        public int Number0 { get; }

        /// <summary>Passes words if they come next, letter case ignored.</summary>
        public bool Word(string words)
        {
            Space();
            if (!LedgerNames.Is(Text, At, words)) return false;
            At += words.Length;
            return true;
        }

        public void Need(string mark)
        {
            Space();
            if (string.CompareOrdinal(Text, At, mark, 0, mark.Length) != 0) throw new SyntaxException(At, $"‘{mark}’ is missing here{(Now == '\0' ? "" : $", before ‘{Rest}’")}.");
            At += mark.Length;
        }

        public void Open() => Need("(");

        public bool Close()
        {
            Space();
            if (Now == '\0') throw new SyntaxException(At, "‘)’ is missing at the end.");
            if (Now != ')') return false;
            At++;
            return true;
        }

        /// <summary>Passes what parts two inputs or settings.</summary>
        public void Comma()
        {
            Space();
            if (Now is ',' or ';') At++;
            else if (Now != ')') throw new SyntaxException(At, $"‘,’ or ‘)’ is missing here{(Now == '\0' ? "" : $", before ‘{Rest}’")}.");
        }

        /// <summary>The longest of some labels that comes next with a mark behind it; passes both.</summary>
        public string? Label(IEnumerable<(string Name, string Label)> labels, char mark = ':')
        {
            Space();
            foreach (var (name, label) in labels.OrderByDescending(l => l.Label.Length))
            {
                int end = At + label.Length;
                if (Now == '‘')
                {
                    if (Quoting.At(Text, At) is not var (inside, after) || !inside.Equals(label, StringComparison.OrdinalIgnoreCase)) continue;
                    end = after;
                }
                else if (string.Compare(Text, At, label, 0, label.Length, StringComparison.OrdinalIgnoreCase) != 0) continue;
                while (end < Text.Length && Text[end] == ' ') end++;
                if (end >= Text.Length || Text[end] != mark) continue;
                At = end + 1;
                return name;
            }
            return null;
        }

        public Source Source()
        {
            Space();
            int at = At;
            if (Now == '\0') throw new SyntaxException(at, "A name, or a constant such as 21 °C or on, is missing here.");
            // A constant that would read as a name has a mark before it that no bare name begins with.
            bool isConstant = Now == LedgerNames.ConstantMark;
            if (!isConstant && _names.At(Text, At) is var (source, length))
            {
                At += length;
                return source;
            }
            if (isConstant) At++;
            if (Word("on") || Word("true")) return new ConstantSource(1, null, true);
            if (Word("off") || Word("false")) return new ConstantSource(0, null, true);
            if (char.IsAsciiDigit(Now) || (Now is '-' or '−' or '+' && char.IsAsciiDigit(Next)))
            {
                double value = FiniteNumber();
                return UnitText() is { } unit ? new ConstantSource(value, Unit.Read(unit)!.Symbol) : new ConstantSource(value);
            }
            string word = new([.. Text.Skip(at).TakeWhile(c => c is not (',' or ';' or ')' or '(')).Take(40)]);
            throw new SyntaxException(at, $"There is nothing called ‘{word.Trim()}’ here. Write the name of a line, a point or a schedule; of a point elsewhere, ‘name of owner’; or a constant.");
        }

        /// <summary>The unit that comes next, if one does; passes it.</summary>
        public string? UnitText()
        {
            int back = At;
            Space();
            int from = At, end = from;
            while (end < Text.Length && Text[end] is not (' ' or ',' or ';' or ')')) end++;
            string unit = Text[from..end];
            if (unit.Length > 0 && Unit.Read(unit) is not null)
            {
                At = end;
                return unit;
            }
            At = back;
            return null;
        }

        public double Turned(double value, string unit, Unit wanted, int at, string what) =>
            Unit.Read(unit)!.To(wanted) is var (factor, offset) ? (value * factor) + offset : throw new SyntaxException(at, $"‘{what}’ is given in {wanted.Symbol}, not in {unit}.");

        public double Seconds()
        {
            double value = FiniteNumber();
            int at = At;
            return UnitText() is { } unit ? Turned(value, unit, Unit.Find("s")!, at, "A time") : throw new SyntaxException(At, "A time has a unit: s, min or h.");
        }

        /// <summary>The operator that comes next; passes it.</summary>
        public string? Operator()
        {
            Space();
            foreach (var (typed, stands) in AlsoTyped.Concat(Operators.Select(o => (o, o))).OrderByDescending(o => o.Item1.Length))
            {
                if (!(char.IsLetter(typed[0]) ? LedgerNames.Is(Text, At, typed) : Text.AsSpan(At).StartsWith(typed))) continue;
                At += typed.Length;
                return stands;
            }
            return null;
        }

        /// <summary>A text up to one of some marks, or in ‘ ’.</summary>
        public string Name(string marks, string what)
        {
            Space();
            if (Now == '‘') return Quoted(what);
            int from = At;
            while (At < Text.Length && !marks.Contains(Text[At])) At++;
            string name = Text[from..At].Trim();
            return name.Length > 0 ? name : throw new SyntaxException(from, $"{char.ToUpperInvariant(what[0])}{what[1..]} is missing here.");
        }

        public string Quoted(string what)
        {
            Space();
            int from = At;
            if (Now != '‘' || Quoting.At(Text, At) is not var (inside, end)) throw new SyntaxException(from, $"{char.ToUpperInvariant(what[0])}{what[1..]} is missing here.");
            At = end;
            return inside;
        }

        /// <summary>A text in “ ” or " ".</summary>
        public string Words()
        {
            Space();
            char close = Now switch { '“' => '”', '"' => '"', _ => throw new SyntaxException(At, "A text stands in “ ”.") };
            if (Quoting.At(Text, At, close) is not var (inside, end)) throw new SyntaxException(At, "The “ that is opened here is not closed.");
            At = end;
            return inside;
        }

        public T OneOf<T>(IEnumerable<(T Value, string Label)> options, string what)
        {
            Space();
            var all = options.ToList();
            if (Now == '‘' && Quoting.At(Text, At) is var (inside, after))
            {
                int found = all.FindIndex(o => o.Label.Equals(inside, StringComparison.OrdinalIgnoreCase));
                if (found >= 0)
                {
                    At = after;
                    return all[found].Value;
                }
            }
            else
            {
                foreach (var (value, label) in all.OrderByDescending(o => o.Label.Length))
                {
                    if (!LedgerNames.Is(Text, At, label)) continue;
                    At += label.Length;
                    return value;
                }
            }
            throw new SyntaxException(At, $"The {what} is one of {string.Join(", ", all.Select(o => o.Label))}, not ‘{Rest}’.");
        }

        public IReadOnlyList<T> List<T>(Func<T> read)
        {
            var list = new List<T> { read() };
            while (!IsAtEnd && Now == ',')
            {
                At++;
                list.Add(read());
            }
            return list;
        }

        /// <summary>Rows of a table in braces: {0 → 10; 20 → 50}.</summary>
        public IReadOnlyList<TableRow> Table()
        {
            Need("{");
            var rows = new List<TableRow>();
            Space();
            while (Now != '}')
            {
                double x = FiniteNumber();
                Space();
                if (Text.AsSpan(At).StartsWith("->")) At += 2;
                else Need("→");
                rows.Add(new TableRow(x, FiniteNumber()));
                Space();
                if (Now == ';') At++;
                else if (Now != '}') throw new SyntaxException(At, "‘;’ or ‘}’ is missing here.");
                Space();
            }
            At++;
            return rows;
        }
    }
}
