using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences;

/// <summary>The type of a value on a line: binary, or a number with a unit, or a number whose unit is open (a bare constant).</summary>
public readonly record struct LineType(bool Binary, Unit? Unit, bool Open = false)
{
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
    private readonly Dictionary<(string Block, string Pin), LineType> _outputs = [];
    private readonly Dictionary<(string Block, string Pin), Conversion> _conversions = [];
    private readonly Dictionary<string, Unit?> _measured = [];
    private readonly List<TypeProblem> _problems = [];
    private readonly List<Block> _order = [];

    private Typing(Sequence sequence, Project project)
    {
        _sequence = sequence;
        _project = project;
    }

    /// <summary>Works out the types of a sequence in a project.</summary>
    public static Typing Of(Sequence sequence, Project project)
    {
        var typing = new Typing(sequence, project);
        typing.Sort();
        typing.Infer();
        return typing;
    }

    /// <summary>Type by block and output pin.</summary>
    public IReadOnlyDictionary<(string Block, string Pin), LineType> Outputs => _outputs;

    /// <summary>Conversions by block and input pin; a claim's block is the empty text and its pin <c>point@priority</c>.</summary>
    public IReadOnlyDictionary<(string Block, string Pin), Conversion> Conversions => _conversions;

    /// <summary>The unit that reaches a block: of its measured input, or of its first one that has a unit. Settings such as a differential are given in it.</summary>
    public Unit? MeasuredUnit(string blockId) => _measured.GetValueOrDefault(blockId);

    /// <summary>What is wrong; empty when the sequence can be calculated.</summary>
    public IReadOnlyList<TypeProblem> Problems => _problems;

    /// <summary>The blocks in an order of calculation: each after those it reads, but for loops, which a block with memory opens.</summary>
    public IReadOnlyList<Block> Order => _order;

    private void Sort()
    {
        var byId = _sequence.Blocks.ToDictionary(b => b.Id);
        var waiting = _sequence.Blocks.ToDictionary(b => b.Id, b => b.Inputs.Values.OfType<BlockSource>().Select(s => s.BlockId).Where(byId.ContainsKey).ToHashSet());
        var left = _sequence.Blocks.ToList();
        var opened = new HashSet<string>();
        while (left.Count > 0)
        {
            int ready = left.FindIndex(b => waiting[b.Id].Count == 0);
            if (ready < 0)
            {
                Block? open = left.FirstOrDefault(b => !opened.Contains(b.Id) && BlockDefinition.Of(b.Kind).HasMemory && Reaches(b.Id, b.Id, waiting));
                if (open is null)
                {
                    var loop = left.Where(b => Reaches(b.Id, b.Id, waiting)).ToList();
                    _problems.Add(new TypeProblem(loop[0].Id, "in", $"{string.Join(" → ", loop.Take(4).Select(b => $"‘{b.Called()}’"))} feed each other in a loop without memory. Put a block with memory (a latch, a delay, two-position) into the loop."));
                    _order.AddRange(left);
                    return;
                }
                opened.Add(open.Id);
                foreach (var set in waiting.Values) set.Remove(open.Id);
                continue;
            }
            Block next = left[ready];
            left.RemoveAt(ready);
            _order.Add(next);
            foreach (var set in waiting.Values) set.Remove(next.Id);
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
            foreach (Pin pin in BlockDefinition.Of(block.Kind).Outputs)
            {
                if (pin.Kind == PinKind.Binary) _outputs[(block.Id, pin.Name)] = LineType.Bool;
                else if (pin.Name == "et") _outputs[(block.Id, pin.Name)] = new LineType(false, Unit.Find("s"));
                else if (block.Kind == BlockKind.Pid) _outputs[(block.Id, pin.Name)] = new LineType(false, Unit.Find("%"));
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
        BlockDefinition definition = BlockDefinition.Of(block.Kind);
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
        switch (block.Kind)
        {
            case BlockKind.Gt or BlockKind.Ge or BlockKind.Lt or BlockKind.Le or BlockKind.Eq or BlockKind.Ne:
            case BlockKind.Min or BlockKind.Max or BlockKind.Average:
                Agree(block, types, first);
                if (block.Kind is BlockKind.Min or BlockKind.Max or BlockKind.Average) _outputs[(block.Id, "out")] = first;
                break;
            case BlockKind.TwoPosition:
                Agree(block, types, first);
                break;
            case BlockKind.Pid:
                if (types.TryGetValue("track", out LineType track)) Meet(block, "track", track, new LineType(false, Unit.Find("%")), "the output");
                Agree(block, types.Where(t => t.Key is "measured" or "setpoint").ToDictionary(), types.GetValueOrDefault("measured", first));
                break;
            case BlockKind.Limit:
                LineType limited = types.GetValueOrDefault("in", first);
                Agree(block, types, limited);
                _outputs[(block.Id, "out")] = limited;
                break;
            case BlockKind.Sel:
                var chosen = types.Where(t => t.Key != "g").ToDictionary();
                LineType one = chosen.Count == 0 ? default : chosen.Values.FirstOrDefault(t => !t.Open, chosen.Values.First());
                Agree(block, chosen, one);
                _outputs[(block.Id, "out")] = one;
                break;
            case BlockKind.Scale:
                _outputs[(block.Id, "out")] = new LineType(false, Unit.Find(block.OutputUnit));
                break;
            case BlockKind.Abs:
                if (first.Unit?.Quantity == Quantity.Temperature) Problem(block, "in", $"‘{block.Called()}’ of a temperature means nothing, since 0 °C is not nothing. Subtract another temperature first.");
                _outputs[(block.Id, "out")] = types.GetValueOrDefault("in");
                break;
            case BlockKind.Add:
                InferSum(block, types, first);
                break;
            case BlockKind.Sub:
                InferDifference(block, types);
                break;
            case BlockKind.Mul:
                InferProduct(block, types);
                break;
            case BlockKind.Div:
                InferQuotient(block, types);
                break;
        }
    }

    private void InferSum(Block block, Dictionary<string, LineType> types, LineType first)
    {
        var temperatures = types.Where(t => t.Value.Unit?.Quantity == Quantity.Temperature).ToList();
        if (temperatures.Count == 0)
        {
            Agree(block, types, first);
            _outputs[(block.Id, "out")] = first;
            return;
        }
        if (temperatures.Count > 1) Problem(block, temperatures[1].Key, $"‘{block.Called()}’ would add two temperatures; the sum of two temperatures means nothing. Add a temperature difference (K), or take their average.");
        LineType sum = temperatures[0].Value;
        foreach (var (pin, type) in types)
        {
            if (type.Unit?.Quantity != Quantity.Temperature) Meet(block, pin, type, new LineType(false, sum.Unit!.Difference), $"‘{block.Called()}’ beside a temperature");
        }
        _outputs[(block.Id, "out")] = sum;
    }

    private void InferDifference(Block block, Dictionary<string, LineType> types)
    {
        LineType a = types.GetValueOrDefault("in1"), b = types.GetValueOrDefault("in2");
        LineType result = a.Open || a.Unit is null ? (a.Open ? b : a) : a;
        if (a.Unit?.Quantity == Quantity.Temperature)
        {
            if (b.Unit?.Quantity == Quantity.Temperature)
            {
                Meet(block, "in2", b, a, $"‘{block.Called()}’");
                result = new LineType(false, a.Unit.Difference);
            }
            else if (types.ContainsKey("in2")) Meet(block, "in2", b, new LineType(false, a.Unit.Difference), $"‘{block.Called()}’ from a temperature");
        }
        else if (b.Unit?.Quantity == Quantity.Temperature && !a.Open && types.ContainsKey("in1"))
            Problem(block, "in2", $"‘{block.Called()}’ cannot take a temperature away from {a.Word}. Turn the two inputs round.");
        else if (b.Unit?.Quantity == Quantity.Temperature) result = new LineType(false, b.Unit.Difference);
        else Agree(block, types, result);
        _outputs[(block.Id, "out")] = result;
    }

    private void InferProduct(Block block, Dictionary<string, LineType> types)
    {
        var withUnit = types.Where(t => t.Value.Unit is not null && t.Value.Unit.Quantity != Quantity.None).ToList();
        LineType result = withUnit.Count > 0 ? withUnit[0].Value : types.Values.FirstOrDefault();
        if (withUnit.Count == 2 && Unit.Product(withUnit[0].Value.Unit!.Quantity, withUnit[1].Value.Unit!.Quantity) is { } product)
        {
            foreach (var (pin, type) in withUnit) Meet(block, pin, type, new LineType(false, Unit.First(type.Unit!.Quantity)), $"‘{block.Called()}’");
            result = new LineType(false, product);
        }
        else if (withUnit.Count > 1) Problem(block, withUnit[1].Key, $"‘{block.Called()}’ would multiply {withUnit[0].Value.Word} by {withUnit[1].Value.Word}. Only one input may have a unit, but for flow × temperature difference, power × time and voltage × current.");
        else if (result.Unit?.Quantity == Quantity.Temperature) Problem(block, withUnit[0].Key, $"‘{block.Called()}’ cannot multiply a temperature, since 0 °C is not nothing. Subtract another temperature first.");
        _outputs[(block.Id, "out")] = result;
    }

    private void InferQuotient(Block block, Dictionary<string, LineType> types)
    {
        LineType a = types.GetValueOrDefault("in1"), b = types.GetValueOrDefault("in2");
        LineType result = a;
        if (a.Unit?.Quantity == Quantity.Temperature || b.Unit?.Quantity == Quantity.Temperature)
            Problem(block, "in1", $"‘{block.Called()}’ cannot divide temperatures, since 0 °C is not nothing. Subtract another temperature first.");
        else if (b.Unit is not null && b.Unit.Quantity != Quantity.None)
        {
            Meet(block, "in1", a, b, $"‘{block.Called()}’");
            result = new LineType(false, null);
        }
        _outputs[(block.Id, "out")] = result;
    }

    /// <summary>All given inputs must be of the type, or convertible to it.</summary>
    private void Agree(Block block, Dictionary<string, LineType> types, LineType wanted)
    {
        foreach (var (pin, type) in types) Meet(block, pin, type, wanted, $"‘{block.Called()}’");
    }

    private void Meet(Block? block, string pin, LineType given, LineType wanted, string where)
    {
        if (given.Binary != wanted.Binary) Problem(block, pin, $"{Capital(where)} takes {wanted.Word}, not {given.Word}.");
        else if (given.Binary || given.Open || wanted.Open || given.Unit == wanted.Unit) return;
        else if (given.Unit is { } from && wanted.Unit is { } to && from.To(to) is { } factors)
            _conversions[(block?.Id ?? "", pin)] = new Conversion(from.Symbol, to.Symbol, factors.Factor, factors.Offset);
        else Problem(block, pin, $"{Capital(where)} takes {wanted.Word}, not {given.Word}.");
    }

    private void Problem(Block? block, string pin, string sentence) => _problems.Add(new TypeProblem(block?.Id, pin, sentence));

    private static string Capital(string text) => text.Length > 0 && char.IsLower(text[0]) ? char.ToUpperInvariant(text[0]) + text[1..] : text;

    private LineType? TypeOf(Source source, Block? block, string blockId, string pin)
    {
        switch (source)
        {
            case PointSource p when _project.Find(p.PointId) is Point point:
                return TypeOf(point);
            case ScheduleSource s when _project.Find(s.ScheduleId) is Schedule schedule:
                return schedule.Kind == PointKind.Binary ? LineType.Bool : new LineType(false, Unit.Find(schedule.Unit));
            case ConstantSource constant:
                if (!double.IsFinite(constant.Value)) Problem(block, pin, "A constant must be a number.");
                if (constant.Unit is { Length: > 0 } && Unit.Find(constant.Unit) is null) Problem(block, pin, $"‘{constant.Unit}’ is not a known unit.");
                return constant.Binary ? LineType.Bool : new LineType(false, Unit.Find(constant.Unit), string.IsNullOrEmpty(constant.Unit));
            case BlockSource b:
                if (_sequence.Blocks.FirstOrDefault(x => x.Id == b.BlockId) is not { } other || BlockDefinition.Of(other.Kind).Outputs.All(o => o.Name != b.Pin))
                {
                    Problem(block, pin, $"{(block is null ? "A claim" : $"‘{block.Called()}’")} is connected to a block or pin that is not there ({b.BlockId}.{b.Pin}).");
                    return null;
                }
                return _outputs.TryGetValue((b.BlockId, b.Pin), out LineType type) ? type : null;
            default:
                return null;
        }
    }

    /// <summary>The type of a point's value.</summary>
    public static LineType TypeOf(Point point) => point.Kind == PointKind.Binary ? LineType.Bool : new LineType(false, Unit.Find(point.Unit));
}
