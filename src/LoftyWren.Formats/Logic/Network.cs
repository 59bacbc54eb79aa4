using LoftyWren.Core.Sequences;
using LoftyWren.Core.Units;

namespace LoftyWren.Formats.Logic;

/// <summary>A value in structured text: how it is written, its type, and when it counts (<c>TRUE</c> where it always does).</summary>
internal readonly record struct Value(string Text, string Type, string Active);

/// <summary>The blocks of one scope, a sequence or an own block, as variables and statements in the order of calculation.</summary>
internal sealed class Network
{
    private readonly LogicProgram _program;
    private readonly string _prefix;
    private readonly Func<Source, Value?> _outside;
    private readonly Dictionary<string, Block> _blocks;
    private readonly Dictionary<string, string> _names = [], _types = [], _silent = [];
    private readonly Dictionary<(string Block, string Pin), Value> _outputs = [];
    private readonly List<Variable> _kept = [], _plain = [];
    private readonly List<string> _body = [];

    public Network(LogicProgram program, IReadOnlyList<Block> blocks, string prefix, Func<Source, Value?> outside, NameScope scope)
    {
        (_program, _prefix, _outside) = (program, prefix, outside);
        _blocks = blocks.GroupBy(b => b.Id).ToDictionary(g => g.Key, g => g.First());
        foreach (Block block in blocks) _names[block.Id] = scope.Fresh(block.Called());
        var ordered = _blocks.Values.OrderBy(b => LastPlace(prefix + b.Id)).ToList();
        foreach (Block block in ordered) Outputs(block, scope);
        foreach (Block block in ordered) Call(block);
    }

    /// <summary>What is declared: what is kept over a restart, and what is not.</summary>
    public IReadOnlyList<Section> Sections => [new("VAR RETAIN", _kept), new("VAR", _plain)];

    /// <summary>The statements.</summary>
    public IReadOnlyList<string> Body => _body;

    /// <summary>The name of the variable of a block: the instance of a function block, or the result of a function.</summary>
    public string NameOf(Block block) => _names[block.Id];

    /// <summary>The standard's function or block, or the one declared for it.</summary>
    public string TypeOf(Block block) => StandardBlock.Of(block.Kind)?.TypeFor(block) ?? _types[block.Id];

    /// <summary>A number where a sign before it would be taken for another.</summary>
    public static string Signed(double value) => value < 0 || double.IsNegative(value) ? $"({Literals.Of(value)})" : Literals.Of(value);

    /// <summary>What a source gives here, of its own type; null where there is nothing.</summary>
    public Value? Of(Source source) => source is BlockSource from ? (_outputs.TryGetValue((from.BlockId, from.Pin), out Value value) ? value : null) : _outside(source);

    /// <summary>What a source gives at a pin, in the type and unit that it takes; null where there is nothing.</summary>
    public Value? Read(Source source, string wanted, string block, string pin)
    {
        var conversion = _program.Typing.Conversions.TryGetValue((block, pin), out var by) ? by : null;
        if (source is ConstantSource constant && conversion is null) return new(wanted == "REAL" ? Signed(constant.Value) : Literals.Of(constant.Value, wanted), wanted, "TRUE");
        Value? own = source is ConstantSource number ? new(Signed(number.Value), "REAL", "TRUE") : Of(source);
        if (own is not { } given) return null;
        return given with { Text = Converted(given, wanted, conversion), Type = wanted };
    }

    private string Converted(Value given, string wanted, Conversion? conversion) =>
        _program.Through(given.Type, wanted, conversion).Aggregate(given.Text, (text, function) => function.StartsWith(NameScope.Own, StringComparison.Ordinal) ? $"{function}(IN := {text})" : $"{function}({text})");

    /// <summary>The type that each input of a block takes.</summary>
    public string Wanted(Block block, string pin)
    {
        if (StandardBlock.Of(block.Kind) is { } standard) return !standard.IsFunction || (block.Kind == BlockKind.Sel && pin == "g") ? "BOOL" : standard.Always ?? Common(block);
        if (block.Table is not null) return pin.StartsWith('c') ? OutputType(block, pin[..pin.IndexOf('m', StringComparison.Ordinal)], PinKind.Any) : "BOOL";
        if (BlockType.Of(block).Inputs.FirstOrDefault(p => p.Name == pin) is { Kind: PinKind.Binary }) return "BOOL";
        return block.Inside is not null || BlockType.Of(block).Inputs.FirstOrDefault(p => p.Name == pin) is { Kind: PinKind.Any } ? TypeOfSource(block.Inputs.GetValueOrDefault(pin)) : "REAL";
    }

    /// <summary>The type of a source alone; a constant without a unit is REAL.</summary>
    private string TypeOfSource(Source? source) => source switch
    {
        null => "REAL",
        ConstantSource c => c.Binary ? "BOOL" : "REAL",
        BlockSource from when !_outputs.ContainsKey((from.BlockId, from.Pin)) => _program.Typing.Outputs.TryGetValue((_prefix + from.BlockId, from.Pin), out LineType type) ? LogicProgram.TypeOf(type) : "REAL",
        _ => Of(source)?.Type is { } known and not "TIME" ? known : "REAL",
    };

    /// <summary>What the inputs of a function agree on: BOOL, INT where all are states or counts, else REAL.</summary>
    private string Common(Block block)
    {
        var sources = block.Inputs.Where(i => i.Key != "g").Select(i => i.Value).ToList();
        if (sources.Any(s => TypeOfSource(s) == "BOOL")) return "BOOL";
        return sources.Any(s => s is not ConstantSource) && sources.All(s => s is ConstantSource c ? c.Value == Math.Floor(c.Value) && Math.Abs(c.Value) <= short.MaxValue : TypeOfSource(s) == "INT") ? "INT" : "REAL";
    }

    private string OutputType(Block block, string pin, PinKind kind) => kind == PinKind.Binary ? "BOOL" : _program.Typing.Outputs.TryGetValue((_prefix + block.Id, pin), out LineType type) ? LogicProgram.TypeOf(type) : "REAL";

    /// <summary>The place at which all of a block has been calculated.</summary>
    private int LastPlace(string id) => _program.Place.Where(p => p.Key == id || p.Key.StartsWith(id + ".", StringComparison.Ordinal)).Select(p => p.Value).DefaultIfEmpty(-1).Max();

    /// <summary>Says what each output of a block is called and of what type, before anything reads it: a loop reads what is calculated later.</summary>
    private void Outputs(Block block, NameScope scope)
    {
        string name = _names[block.Id];
        if (StandardBlock.Of(block.Kind) is { } standard)
        {
            if (standard.IsFunction)
            {
                string type = standard.IsComparison ? "BOOL" : standard.Always ?? Common(block);
                _plain.Add(new Variable(name, type));
                _outputs[(block.Id, "out")] = new(name, type, Speaks(block, scope));
                return;
            }
            (BlockType.Of(block).HasMemory ? _kept : _plain).Add(new Variable(name, standard.TypeFor(block)));
            string active = Speaks(block, scope);
            foreach (var (ours, theirs) in standard.Outputs) _outputs[(block.Id, ours)] = new($"{name}.{theirs}", standard.OutputType(theirs, block), active);
            return;
        }
        foreach (Pin pin in BlockType.Of(block).Outputs)
        {
            string there = StandardBlock.OutputName(null, BlockType.Of(block), pin.Name);
            _outputs[(block.Id, pin.Name)] = new($"{name}.{there}", OutputType(block, pin.Name, pin.Kind), $"{name}.{Counting(there)}");
        }
    }

    /// <summary>When a block of the standard counts: always where it keeps a state or nothing that it reads can fall silent, else by a variable of its own.</summary>
    private string Speaks(Block block, NameScope scope)
    {
        BlockType type = BlockType.Of(block);
        if (type.Speaks?.Invoke(type, block) == BlockSpeech.Always) return "TRUE";
        return block.Inputs.Values.Any(MayFallSilent) || IsOpen(block) || IsHalf(block) ? _silent[block.Id] = scope.Fresh($"{block.Called()} active") : "TRUE";
    }

    /// <summary>What is calculated later, around a loop, may.</summary>
    private bool MayFallSilent(Source source) => source is not ConstantSource && Of(source) is not { Active: "TRUE" };

    /// <summary>Whether something that it cannot do without is not connected; of many inputs one is enough.</summary>
    private static bool IsOpen(Block block)
    {
        BlockType type = BlockType.Of(block);
        if (IsHalf(block)) return !block.Inputs.ContainsKey("g");
        return StandardBlock.Of(block.Kind) is { IsFunction: true } standard && (block.Inputs.Count == 0 || ((type.Inputs.Count < 3 || !standard.Inputs[0].Ours.EndsWith('#')) && type.Inputs.Any(p => p.Required && !block.Inputs.ContainsKey(p.Name))));
    }

    /// <summary>Whether it chooses between something and nothing.</summary>
    private static bool IsHalf(Block block) => block.Kind == BlockKind.Sel && !(block.Inputs.ContainsKey("in0") && block.Inputs.ContainsKey("in1"));

    private void Call(Block block)
    {
        if (StandardBlock.Of(block.Kind) is not { } standard)
        {
            Instance(block);
            return;
        }
        BlockType type = BlockType.Of(block);
        var given = type.Inputs.Where(p => block.Inputs.ContainsKey(p.Name)).Select(p => (p.Name, Value: Read(block.Inputs[p.Name], Wanted(block, p.Name), _prefix + block.Id, p.Name))).Where(g => g.Value is not null).Select(g => (Name: StandardBlock.Theirs(standard.Inputs, g.Name), Value: standard.Reads(g.Value!.Value))).ToList();
        string name = _names[block.Id];
        bool isOpen = IsOpen(block) || (standard.IsFunction && given.Count < block.Inputs.Count);
        // What is chosen and not there: nothing, that does not count.
        if (IsHalf(block) && !isOpen)
        {
            Value nothing = new(Literals.Of(0, _outputs[(block.Id, "out")].Type), _outputs[(block.Id, "out")].Type, "FALSE");
            var there = given.ToDictionary(g => g.Name, g => g.Value);
            given = [.. ((string[])["G", "IN0", "IN1"]).Select(pin => (pin, there.GetValueOrDefault(pin, nothing)))];
        }
        string all = string.Join(", ", given.Select(g => $"{g.Name} := {g.Value.Text}"));
        if (!standard.IsFunction)
            _body.Add($"{name}({string.Join(", ", given.Select(g => $"{g.Name} := {g.Value.Text}").Concat(standard.Settings.Select(s => $"{s.Theirs} := {Literals.Of(type.Number(block, s.Ours), standard.SettingType(s.Type, block))}")))});");
        else if (isOpen) _body.Add($"{name} := {Literals.Of(0, _outputs[(block.Id, "out")].Type)}; (* an input is not connected *)");
        else if (standard.Operator is { } sign) _body.Add(given.Count == 1 ? $"{name} := {(block.Kind == BlockKind.Not ? "NOT " : "")}{given[0].Value.Text};" : $"{name} := {string.Join($" {sign} ", given.Select(g => g.Value.Text))};");
        // One of one is itself; a function of several takes two at least.
        else _body.Add(given.Count == 1 && standard.Inputs[0].Ours.EndsWith('#') ? $"{name} := {given[0].Value.Text};" : $"{name} := {standard.Type}({all});");
        if (!_silent.TryGetValue(block.Id, out string? active)) return;
        _plain.Add(new Variable(active, "BOOL"));
        _body.Add($"{active} := {(isOpen ? "FALSE" : standard.Counts([.. given.Select(g => g.Value)]))};");
    }

    /// <summary>A block that the standard does not have: an instance of one that is declared for it.</summary>
    private void Instance(Block block)
    {
        string name = _names[block.Id];
        var inputs = BlockType.Of(block).Inputs.Where(p => block.Inputs.ContainsKey(p.Name)).Select(p => (Pin: p, There: StandardBlock.Theirs(null, p.Name), Type: Wanted(block, p.Name))).ToList();
        var outputs = BlockType.Of(block).Outputs.Select(p => (Pin: p, There: StandardBlock.OutputName(null, BlockType.Of(block), p.Name), Type: _outputs[(block.Id, p.Name)].Type)).ToList();
        Pou unit = block.Table is { } table ? new ModeTableText(block, table, _program.Sequence.ScanSeconds, inputs, outputs).Unit()
            : block.Inside is { } part ? OwnBlock(block, part, inputs, outputs)
            : Interface(block, inputs, outputs);
        _types[block.Id] = _program.Declare(block.Table is not null ? $"Modes {block.Called()}" : block.Inside?.Name ?? $"{block.Kind}", unit);
        bool isKept = BlockType.Of(block).HasMemory && block.Table is not { BeginsAgain: true };
        (isKept ? _kept : _plain).Add(new Variable(name, _types[block.Id]));
        var given = inputs.SelectMany(i => Read(block.Inputs[i.Pin.Name], i.Type, PlainPin(block.Id, i.Pin.Name).Block, PlainPin(block.Id, i.Pin.Name).Pin) is { } value
            ? (string[])[$"{i.There} := {value.Text}", .. value.Active == "TRUE" ? (string[])[] : [$"{Counting(i.There)} := {value.Active}"]] : [$"{Counting(i.There)} := FALSE"]);
        _body.Add($"{name}({string.Join(", ", given.Concat(block.Table is null && block.Inside is null ? Settings(block).Select(s => $"{s.Name} := {s.Initial}") : []))});");
    }

    /// <summary>The input or output beside another that tells whether that counts.</summary>
    public static string Counting(string pin) => $"{pin}_ACTIVE";

    /// <summary>Inputs, each with whether it counts.</summary>
    public static IEnumerable<Variable> Taken(string there, string type, string label) => [new(there, type, null, label), new(Counting(there), "BOOL", "TRUE")];

    /// <summary>Where the plain block of a designed pin notes what is converted.</summary>
    public (string Block, string Pin) PlainPin(string block, string pin)
    {
        string id = _prefix + block;
        if (!_blocks.TryGetValue(block, out Block? of) || of.Table is not { } table || !pin.StartsWith('c')) return (id, pin);
        int split = pin.IndexOf('m', StringComparison.Ordinal), slot = int.Parse(pin[(split + 1)..], System.Globalization.CultureInfo.InvariantCulture);
        return ($"{id}.{pin[..split]}", $"in{table.Modes.ToList().FindIndex(m => m.Slot == slot) + 1}");
    }

    /// <summary>The settings of a block as inputs with what they are set to.</summary>
    public static IReadOnlyList<Variable> Settings(Block block)
    {
        BlockType type = BlockType.Of(block);
        var taken = type.Inputs.Concat(type.Outputs).Select(p => StandardBlock.Theirs(null, p.Name)).ToHashSet();
        string named(string name) => taken.Add(StandardBlock.Theirs(null, name)) ? StandardBlock.Theirs(null, name) : $"{StandardBlock.Theirs(null, name)}_S";
        return
        [
            .. type.Numbers.Select(n => new Variable(named(n.Name), "REAL", Literals.Of(type.Number(block, n.Name)), n.Label)),
            .. type.Choices.Select(c => new Variable(named(c.Name), "STRING", Literals.OfText(type.Choice(block, c.Name)), c.Label)),
            .. type.Texts.Select(t => new Variable(named(t.Name), "STRING", Literals.OfText(BlockType.Text(block, t.Name)), t.Label)),
        ];
    }

    /// <summary>What can be said of a block whose calculation is the controller's own: its pins and settings, its tables, and its formula.</summary>
    private static Pou Interface(Block block, IReadOnlyList<(Pin Pin, string There, string Type)> inputs, IReadOnlyList<(Pin Pin, string There, string Type)> outputs)
    {
        BlockType type = BlockType.Of(block);
        BlockHelp help = BlockHelp.Of(block.Kind);
        var tables = type.Tables.SelectMany(t => (Variable[])[Array(t.Name, "X", t.XLabel, type.Table(block, t.Name).Select(r => r.X)), Array(t.Name, "Y", t.YLabel, type.Table(block, t.Name).Select(r => r.Y))]).ToList();
        // What every instance may be set to begins as the kind begins, so that all instances are of one type.
        var settings = Settings(new Block { Id = block.Id, Kind = block.Kind });
        return new("FUNCTION_BLOCK", "",
        [
            new("VAR_INPUT", [.. type.Inputs.Where(p => p.Kind != PinKind.Any).SelectMany(p => Taken(StandardBlock.Theirs(null, p.Name), p.Kind == PinKind.Binary ? "BOOL" : "REAL", p.Label)), .. inputs.Where(i => i.Pin.Kind == PinKind.Any).SelectMany(i => Taken(i.There, i.Type, i.Pin.Label)), .. settings]),
            new("VAR_OUTPUT", Given(outputs)),
            new("VAR CONSTANT", tables),
        ], [$"(* The calculation is the controller's own: {NameScope.Comment(help.Formula)} *)"], $"{type.Name}: {help.Summary}");

        static Variable Array(string table, string axis, string label, IEnumerable<double> values)
        {
            var all = values.ToList();
            return new($"{StandardBlock.Theirs(null, table)}_{axis}", $"ARRAY [1..{all.Count}] OF REAL", $"[{string.Join(", ", all.Select(Literals.Of))}]", label);
        }
    }

    /// <summary>Outputs, each with whether it counts.</summary>
    public static IReadOnlyList<Variable> Given(IEnumerable<(Pin Pin, string There, string Type)> outputs) => [.. outputs.SelectMany(o => (Variable[])[new(o.There, o.Type, null, o.Pin.Label), new(Counting(o.There), "BOOL", "TRUE")])];

    private Pou OwnBlock(Block block, Part part, IReadOnlyList<(Pin Pin, string There, string Type)> inputs, IReadOnlyList<(Pin Pin, string There, string Type)> outputs)
    {
        var scope = new NameScope();
        foreach (string pin in inputs.Select(i => i.There).Concat(outputs.Select(o => o.There)).SelectMany(p => (string[])[p, Counting(p)])) scope.Fresh(pin);
        var pins = inputs.ToDictionary(i => i.Pin.Name, i => new Value(i.There, i.Type, MayFallSilent(block.Inputs[i.Pin.Name]) ? Counting(i.There) : "TRUE"));
        var inside = new Network(_program, [.. part.Blocks.Select(b => part.Set(b, block))], $"{_prefix}{block.Id}.", s => s is PinSource pin && pins.TryGetValue(pin.Pin, out Value value) ? value : null, scope);
        var body = new List<string>(inside.Body);
        foreach (var (pin, there, type) in outputs)
        {
            PartOutput output = part.Outputs.First(o => o.Id == pin.Name);
            if (inside.Of(new BlockSource(output.BlockId, output.Pin)) is not { } value) continue;
            body.Add($"{there} := {Converted(value, type, null)};");
            body.Add($"{Counting(there)} := {value.Active};");
        }
        return new("FUNCTION_BLOCK", "", [new("VAR_INPUT", [.. inputs.SelectMany(i => Taken(i.There, i.Type, i.Pin.Label))]), new("VAR_OUTPUT", Given(outputs)), .. inside.Sections], body, $"{part.Name}, revision {part.Revision}.");
    }
}
