using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences;

/// <summary>The type of a value on a line: binary, or a number with a unit, or a number whose unit is open (a bare constant).</summary>
public readonly record struct LineType(bool Binary, Unit? Unit, bool Open = false)
{
    /// <summary>What its states are called, the first being 1; null for what has none.</summary>
    public IReadOnlyList<string>? States { get; init; }

    /// <summary>True or false.</summary>
    public static LineType Bool => new(true, null);

    /// <summary>The type as a sentence would name it.</summary>
    public string Word => Binary ? "on or off" : Unit is { } unit ? $"{unit.Word} ({unit.Symbol})" : "a bare number";
}

/// <summary>Why a connection cannot be.</summary>
public sealed record TypeProblem(string? BlockId, string Pin, string Sentence);

/// <summary>
/// What every line of a sequence carries, which conversions happen, and the order of calculation.
/// A temperature and a difference of temperatures are told apart throughout.
/// </summary>
public sealed class Typing
{
    private readonly Sequence _sequence;
    private readonly Project _project;
    private readonly IReadOnlyDictionary<(string Block, string Pin), BlockSource> _taken;
    private readonly Dictionary<(string Block, string Pin), LineType> _outputs = [];
    private readonly Dictionary<(string Block, string Pin), Conversion> _conversions = [];
    private readonly Dictionary<string, Unit?> _measured = [];
    private readonly Dictionary<(string Block, string Text), double> _texts = [];
    private readonly List<(string Block, string Text, IReadOnlyList<string> Offers)> _offers = [];
    private readonly List<TypeProblem> _problems = [];
    private readonly List<Block> _order = [];
    private readonly Dictionary<string, Block> _byId = [];

    private Typing(Sequence sequence, Project project)
    {
        (Plain, _taken) = PlainBlocks.Of(sequence);
        _sequence = Plain;
        _project = project;
        // Two blocks of one identity are refused elsewhere; the first is looked at here.
        foreach (Block block in Plain.Blocks) _byId.TryAdd(block.Id, block);
    }

    /// <summary>Works out the types of a sequence in a project.</summary>
    public static Typing Of(Sequence sequence, Project project)
    {
        var typing = new Typing(sequence, project);
        typing.Sort();
        typing.Infer();
        foreach (var (pin, source) in typing._taken)
        {
            if (typing._outputs.TryGetValue((source.BlockId, source.Pin), out LineType type)) typing._outputs[pin] = type;
        }
        return typing;
    }

    /// <summary>The sequence as it is calculated: mode tables and own blocks are taken apart.</summary>
    public Sequence Plain { get; }

    /// <summary>What the outputs of blocks that were taken apart come to.</summary>
    public IReadOnlyDictionary<(string Block, string Pin), BlockSource> Taken => _taken;

    /// <summary>Type by block and output pin.</summary>
    public IReadOnlyDictionary<(string Block, string Pin), LineType> Outputs => _outputs;

    /// <summary>Conversions by block and input pin; a claim's block is the empty text and its pin <c>point@priority</c>.</summary>
    public IReadOnlyDictionary<(string Block, string Pin), Conversion> Conversions => _conversions;

    /// <summary>The unit that reaches a block: of its measured input, or of its first one that has a unit. Settings such as a differential are given in it.</summary>
    public Unit? MeasuredUnit(string blockId) => _measured.GetValueOrDefault(blockId);

    /// <summary>The unit that a setting of a designed block is given in; of an own block, that of the block inside.</summary>
    public Unit? UnitOf(Block block, string setting, string within = "")
    {
        if (block.Inside is { } part && part.Settings.FirstOrDefault(s => s.Id == setting) is { } led && part.Blocks.FirstOrDefault(b => b.Id == led.BlockId) is { } inner)
            return UnitOf(inner, led.Setting, $"{within}{block.Id}.");
        return BlockType.UnitOf(BlockType.Of(block).UnitsOfSettings().FirstOrDefault(u => u.Setting == setting).Unit ?? "", MeasuredUnit(within + block.Id), Unit.Find(block.OutputUnit));
    }

    /// <summary>The texts that would do for the text settings of blocks.</summary>
    public IReadOnlyList<(string Block, string Text, IReadOnlyList<string> Offers)> TextOffers => _offers;

    /// <summary>The number that a text setting of a block stands for; not a number where it stands for none.</summary>
    public double TextNumber(string blockId, string text) => _texts.GetValueOrDefault((blockId, text), double.NaN);

    /// <summary>A number that follows from what reaches a block.</summary>
    public double DerivedNumber(string blockId, string name) => _texts.GetValueOrDefault((blockId, name), double.NaN);

    /// <summary>What is wrong; empty when the sequence can be calculated.</summary>
    public IReadOnlyList<TypeProblem> Problems => _problems;

    /// <summary>The blocks in an order of calculation: each after those it reads, but for loops, which a block with memory opens.</summary>
    public IReadOnlyList<Block> Order => _order;

    /// <summary>Each block after those it reads, in the order of the list where that leaves a choice; the work is that of the lines between them, loops apart.</summary>
    private void Sort()
    {
        var place = new Dictionary<string, int>();
        for (int i = 0; i < _sequence.Blocks.Count; i++) place.TryAdd(_sequence.Blocks[i].Id, i);
        var waiting = _sequence.Blocks.ToDictionary(b => b.Id, b => b.Inputs.Values.OfType<BlockSource>().Select(s => s.BlockId).Where(place.ContainsKey).ToHashSet());
        var readers = waiting.SelectMany(w => w.Value.Select(read => (read, reader: w.Key))).ToLookup(x => x.read, x => x.reader);
        var ready = new SortedSet<int>(waiting.Where(w => w.Value.Count == 0).Select(w => place[w.Key]));
        var opened = new HashSet<string>();
        var done = new HashSet<string>();
        void Release(string id)
        {
            foreach (string reader in readers[id])
            {
                if (waiting[reader].Remove(id) && waiting[reader].Count == 0 && !done.Contains(reader)) ready.Add(place[reader]);
            }
        }
        while (done.Count < _sequence.Blocks.Count)
        {
            if (ready.Count == 0)
            {
                var left = _sequence.Blocks.Where(b => !done.Contains(b.Id)).ToList();
                Block? open = left.FirstOrDefault(b => !opened.Contains(b.Id) && BlockType.Of(b.Kind).HasMemory && Reaches(b.Id, b.Id, waiting));
                if (open is null)
                {
                    var loop = left.Where(b => Reaches(b.Id, b.Id, waiting)).ToList();
                    _problems.Add(new TypeProblem(loop[0].Id, "in", $"{string.Join(" → ", loop.Take(4).Select(b => $"‘{b.Called()}’"))} feed each other in a loop without memory. Put a block with memory (a latch, a delay, two-position) into the loop."));
                    _order.AddRange(left);
                    return;
                }
                opened.Add(open.Id);
                Release(open.Id);
                continue;
            }
            int next = ready.Min;
            ready.Remove(next);
            Block block = _sequence.Blocks[next];
            done.Add(block.Id);
            _order.Add(block);
            Release(block.Id);
        }
    }

    private static bool Reaches(string from, string to, Dictionary<string, HashSet<string>> waitsFor)
    {
        var seen = new HashSet<string>();
        var stack = new Stack<string>(waitsFor[from]);
        while (stack.TryPop(out string? id))
        {
            if (id == to) return true;
            if (!seen.Add(id)) continue;
            foreach (string next in waitsFor[id]) stack.Push(next);
        }
        return false;
    }

    private void Infer()
    {
        // The outputs of blocks with memory do not depend on what reaches them, so a loop's type is known beforehand.
        foreach (Block block in _sequence.Blocks)
        {
            foreach (Pin pin in BlockType.Of(block.Kind).Outputs)
            {
                if (pin.Kind == PinKind.Binary) _outputs[(block.Id, pin.Name)] = LineType.Bool;
                else if (pin.Unit is { } unit) _outputs[(block.Id, pin.Name)] = new LineType(false, Unit.Find(unit));
            }
        }
        foreach (Block block in _order) Infer(block);
        foreach (OutputCommand command in _sequence.Commands)
        {
            if (_project.Find(command.PointId) is not Point point) continue;
            foreach (Claim claim in command.Claims)
            {
                if (claim.Source is null || TypeOf(claim.Source, null, "", $"{command.PointId}@{claim.Priority}") is not { } type) continue;
                Meet(null, $"{command.PointId}@{claim.Priority}", type, TypeOf(point), $"the output ‘{point.Name}’");
            }
        }
    }

    private void Infer(Block block)
    {
        BlockType definition = BlockType.Of(block.Kind);
        var types = new Dictionary<string, LineType>();
        foreach (Pin pin in definition.Inputs)
        {
            if (!block.Inputs.TryGetValue(pin.Name, out Source? source) || TypeOf(source, block, block.Id, pin.Name) is not { } type) continue;
            if (pin.Kind == PinKind.Binary && !type.Binary) Problem(block, pin.Name, $"‘{block.Called()}’ takes on or off at ‘{pin.Label}’, not {type.Word}. Compare it with a limit first.");
            else if (pin.Kind == PinKind.Analog && type.Binary) Problem(block, pin.Name, $"‘{block.Called()}’ takes a number at ‘{pin.Label}’, not on or off. Select between two numbers instead.");
            else types[pin.Name] = type;
        }
        var first = types.Values.FirstOrDefault(t => !t.Open && !t.Binary);
        _measured[block.Id] = types.TryGetValue("measured", out LineType measured) ? measured.Unit : first.Unit;
        var about = new BlockTyping(this, block, types, first);
        definition.Infers?.Invoke(about);
        foreach (DerivedNumber derived in definition.Derived) _texts[(block.Id, derived.Name)] = derived.From(about);
        foreach (TextSetting text in definition.Texts)
        {
            if (text.Offers(about) is { Count: > 0 } offers) _offers.Add((block.Id, text.Name, offers));
            if (BlockType.Text(block, text.Name) is not { Length: > 0 } given) continue;
            var (number, problem) = text.Means(about, given);
            if (problem is not null) Problem(block, definition.Inputs[0].Name, problem);
            if (number is { } stands) _texts[(block.Id, text.Name)] = stands;
        }
    }

    /// <summary>A given type must be the wanted one, or convertible to it.</summary>
    internal void Meet(Block? block, string pin, LineType given, LineType wanted, string where)
    {
        if (given.Binary != wanted.Binary) Problem(block, pin, $"{Capital(where)} takes {wanted.Word}, not {given.Word}.");
        else if (given.Binary || given.Open || wanted.Open || given.Unit == wanted.Unit) return;
        else if (given.Unit is { } from && wanted.Unit is { } to && from.To(to) is { } factors)
            _conversions[(block?.Id ?? "", pin)] = new Conversion(from.Symbol, to.Symbol, factors.Factor, factors.Offset);
        else Problem(block, pin, $"{Capital(where)} takes {wanted.Word}, not {given.Word}.");
    }

    internal void Problem(Block? block, string pin, string sentence) => _problems.Add(new TypeProblem(block?.Id, pin, sentence));

    private static string Capital(string text) => text.Length > 0 && char.IsLower(text[0]) ? char.ToUpperInvariant(text[0]) + text[1..] : text;

    private LineType? TypeOf(Source source, Block? block, string blockId, string pin)
    {
        switch (source)
        {
            case PointSource p when _project.Find(p.PointId) is Point point:
                return TypeOf(point);
            case ScheduleSource { Ahead: true }:
                return new LineType(false, Unit.Find("s"));
            case ScheduleSource s when _project.Find(s.ScheduleId) is Schedule schedule:
                return schedule.Kind == PointKind.Binary ? LineType.Bool : new LineType(false, Unit.Find(schedule.Unit)) { States = schedule.Kind == PointKind.Multistate ? schedule.StateTexts : null };
            case ConstantSource constant:
                if (!double.IsFinite(constant.Value)) Problem(block, pin, "A constant must be a number.");
                if (constant.Unit is { Length: > 0 } && Unit.Find(constant.Unit) is null) Problem(block, pin, $"‘{constant.Unit}’ is not a known unit.");
                return constant.Binary ? LineType.Bool : new LineType(false, Unit.Find(constant.Unit), string.IsNullOrEmpty(constant.Unit));
            case BlockSource b:
                if (!_byId.TryGetValue(b.BlockId, out Block? other) || BlockType.Of(other.Kind).Outputs.All(o => o.Name != b.Pin))
                {
                    Problem(block, pin, $"{(block is null ? "A claim" : $"‘{block.Called()}’")} is connected to a block or pin that is not there ({b.BlockId}.{b.Pin}).");
                    return null;
                }
                return _outputs.TryGetValue((b.BlockId, b.Pin), out LineType type) ? type : null;
            default:
                return null;
        }
    }

    internal void Give(Block block, string pin, LineType type) => _outputs[(block.Id, pin)] = type;

    /// <summary>The type of a point's value.</summary>
    public static LineType TypeOf(Point point) => point.Kind == PointKind.Binary ? LineType.Bool : new LineType(false, Unit.Find(point.Unit)) { States = point.Kind == PointKind.Multistate ? point.StateTexts : null };
}
