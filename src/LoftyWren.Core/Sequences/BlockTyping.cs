using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences;

/// <summary>
/// What reaches the inputs of one block, and what the rules of its kind make of it: what must agree, what is converted, what
/// means nothing, and what the output carries. A temperature and a difference of temperatures are told apart throughout.
/// </summary>
public sealed class BlockTyping(Typing typing, Block block, IReadOnlyDictionary<string, LineType> types, LineType first)
{
    /// <summary>The block.</summary>
    public Block Block { get; } = block;

    /// <summary>The types of the connected inputs, by pin.</summary>
    public IReadOnlyDictionary<string, LineType> Types { get; } = types;

    /// <summary>The first of them that is a number with a unit, or none of one.</summary>
    public LineType First { get; } = first;

    private string Called => $"‘{Block.Called()}’";

    private LineType this[string pin] => Types.GetValueOrDefault(pin);

    /// <summary>What the output carries.</summary>
    public void Out(LineType type) => typing.Give(Block, type);

    /// <summary>All given inputs must be of the type, or convertible to it.</summary>
    public void Agree(IEnumerable<KeyValuePair<string, LineType>> inputs, LineType wanted)
    {
        foreach (var (pin, type) in inputs) Meet(pin, type, wanted, Called);
    }

    private void Meet(string pin, LineType given, LineType wanted, string where) => typing.Meet(Block, pin, given, wanted, where);

    private void Problem(string pin, string sentence) => typing.Problem(Block, pin, sentence);

    private static bool IsTemperature(LineType type) => type.Unit?.Quantity == Quantity.Temperature;

    /// <summary>The states of what reaches the input; none where that has none.</summary>
    public static IReadOnlyList<string> States(BlockTyping t) => t["in"].States ?? [];

    /// <summary>The number of the state that is called so on what reaches the input.</summary>
    public static (double? Number, string? Problem) StateNamed(BlockTyping t, string state)
    {
        if (!t.Types.TryGetValue("in", out LineType type)) return (null, null);
        if (type.States is not { } states) return (null, $"{t.Called} takes a value with named states, not {type.Word}.");
        int at = states.ToList().FindIndex(s => string.Equals(s, state, StringComparison.OrdinalIgnoreCase));
        return at < 0 ? (null, $"{t.Called} waits for ‘{state}’, but what it reads has no such state: it has {string.Join(", ", states)}.") : (at + 1, null);
    }

    /// <summary>All inputs agree, and the output is like them.</summary>
    public static void Alike(BlockTyping t)
    {
        t.Agree(t.Types, t.First);
        t.Out(t.First);
    }

    /// <summary>Measured and setpoint agree; what is tracked is an output.</summary>
    public static void Loop(BlockTyping t)
    {
        if (t.Types.TryGetValue("track", out LineType track)) t.Meet("track", track, new LineType(false, Unit.Find("%")), "the output");
        t.Agree(t.Types.Where(x => x.Key is "measured" or "setpoint"), t.Types.GetValueOrDefault("measured", t.First));
    }

    /// <summary>Both ends agree with what is limited.</summary>
    public static void Limited(BlockTyping t)
    {
        LineType limited = t.Types.GetValueOrDefault("in", t.First);
        t.Agree(t.Types, limited);
        t.Out(limited);
    }

    /// <summary>What is chosen between agrees.</summary>
    public static void Chosen(BlockTyping t)
    {
        var chosen = t.Types.Where(x => x.Key != "g").ToList();
        LineType one = chosen.Count == 0 ? default : chosen.Select(x => x.Value).FirstOrDefault(x => !x.Open, chosen[0].Value);
        t.Agree(chosen, one);
        t.Out(one);
    }

    /// <summary>The size of a number.</summary>
    public static void Size(BlockTyping t)
    {
        if (IsTemperature(t.First)) t.Problem("in", $"{t.Called} of a temperature means nothing, since 0 °C is not nothing. Subtract another temperature first.");
        t.Out(t["in"]);
    }

    /// <summary>A sum: of one quantity, or of one temperature and differences.</summary>
    public static void Sum(BlockTyping t)
    {
        var temperatures = t.Types.Where(x => IsTemperature(x.Value)).ToList();
        if (temperatures.Count == 0)
        {
            Alike(t);
            return;
        }
        if (temperatures.Count > 1) t.Problem(temperatures[1].Key, $"{t.Called} would add two temperatures; the sum of two temperatures means nothing. Add a temperature difference (K), or take their average.");
        LineType sum = temperatures[0].Value;
        foreach (var (pin, type) in t.Types)
        {
            if (!IsTemperature(type)) t.Meet(pin, type, new LineType(false, sum.Unit!.Difference), $"{t.Called} beside a temperature");
        }
        t.Out(sum);
    }

    /// <summary>A difference: two temperatures give a difference, a temperature less a difference a temperature.</summary>
    public static void Difference(BlockTyping t)
    {
        LineType a = t["in1"], b = t["in2"];
        LineType result = a.Open || a.Unit is null ? (a.Open ? b : a) : a;
        if (IsTemperature(a))
        {
            if (IsTemperature(b))
            {
                t.Meet("in2", b, a, t.Called);
                result = new LineType(false, a.Unit!.Difference);
            }
            else if (t.Types.ContainsKey("in2")) t.Meet("in2", b, new LineType(false, a.Unit!.Difference), $"{t.Called} from a temperature");
        }
        else if (IsTemperature(b) && !a.Open && t.Types.ContainsKey("in1")) t.Problem("in2", $"{t.Called} cannot take a temperature away from {a.Word}. Turn the two inputs round.");
        else if (IsTemperature(b)) result = new LineType(false, b.Unit!.Difference);
        else t.Agree(t.Types, result);
        t.Out(result);
    }

    /// <summary>A product: at most one input with a unit, but for the products that have one of their own.</summary>
    public static void Product(BlockTyping t)
    {
        var withUnit = t.Types.Where(x => x.Value.Unit is not null && x.Value.Unit.Quantity != Quantity.None).ToList();
        LineType result = withUnit.Count > 0 ? withUnit[0].Value : t.Types.Values.FirstOrDefault();
        if (withUnit.Count == 2 && Unit.Product(withUnit[0].Value.Unit!.Quantity, withUnit[1].Value.Unit!.Quantity) is { } product)
        {
            foreach (var (pin, type) in withUnit) t.Meet(pin, type, new LineType(false, Unit.First(type.Unit!.Quantity)), t.Called);
            result = new LineType(false, product);
        }
        else if (withUnit.Count > 1) t.Problem(withUnit[1].Key, $"{t.Called} would multiply {withUnit[0].Value.Word} by {withUnit[1].Value.Word}. Only one input may have a unit, but for flow × temperature difference, power × time and voltage × current.");
        else if (IsTemperature(result)) t.Problem(withUnit[0].Key, $"{t.Called} cannot multiply a temperature, since 0 °C is not nothing. Subtract another temperature first.");
        t.Out(result);
    }

    /// <summary>A quotient: by a bare number, or by the same quantity.</summary>
    public static void Quotient(BlockTyping t)
    {
        LineType a = t["in1"], b = t["in2"];
        LineType result = a;
        if (IsTemperature(a) || IsTemperature(b)) t.Problem("in1", $"{t.Called} cannot divide temperatures, since 0 °C is not nothing. Subtract another temperature first.");
        else if (b.Unit is not null && b.Unit.Quantity != Quantity.None)
        {
            t.Meet("in1", a, b, t.Called);
            result = new LineType(false, null);
        }
        t.Out(result);
    }
}
