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

    /// <summary>What the output carries, or another of several.</summary>
    public void Out(LineType type, string pin = "out") => typing.Give(Block, pin, type);

    /// <summary>What reaches an input must be of a unit, or convertible to it.</summary>
    public void As(string pin, string? symbol, string? where = null)
    {
        if (Types.TryGetValue(pin, out LineType type)) Meet(pin, type, new LineType(false, Unit.Find(symbol)), where ?? Called);
    }

    /// <summary>What reaches an input must be a number without a unit.</summary>
    public void Bare(string pin)
    {
        if (Types.TryGetValue(pin, out LineType type) && type.Unit is { } unit && unit.Quantity != Quantity.None) Problem(pin, $"{Called} takes a bare number at ‘{BlockType.Of(Block.Kind).Inputs.First(p => p.Name == pin).Label}’, not {type.Word}.");
    }

    /// <summary>Its first input keeps its type, temperatures excepted.</summary>
    public void NoTemperature(string pin, string does)
    {
        if (IsTemperature(this[pin])) Problem(pin, $"{Called} cannot {does} a temperature, since 0 °C is not nothing. Subtract another temperature first.");
    }

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

    /// <summary>The output is a difference in the unit of the input.</summary>
    public static void Slope(BlockTyping t) => t.Out(t["in"].Unit is { } unit ? new LineType(false, unit.Difference) : t["in"]);

    /// <summary>Two quantities of one kind give a bare number, and what is left over is like the first.</summary>
    public static void Whole(BlockTyping t)
    {
        t.NoTemperature("in1", "divide");
        t.Agree(t.Types, t.First);
        t.Out(new LineType(false, null));
        t.Out(t["in1"], "rest");
    }

    /// <summary>Angles are given in radians to functions of angles.</summary>
    public static double Angle(BlockTyping t) => t["in"].Unit?.Quantity == Quantity.Angle ? Math.PI / 180 : 1;

    /// <summary>A function takes a bare number, or an angle where it is a function of angles.</summary>
    public static void OfNumber(BlockTyping t)
    {
        bool ofAngles = BlockType.Of(t.Block.Kind).Choice(t.Block, "of") is "sin" or "cos" or "tan";
        if (!(ofAngles && t["in"].Unit?.Quantity == Quantity.Angle)) t.Bare("in");
        t.Out(new LineType(false, null));
    }

    /// <summary>The states that are written on the block, separated by commas.</summary>
    public static IReadOnlyList<string> Written(Block block) => BlockType.Text(block, "states").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    /// <summary>The number of the last of the written states, for what none of the inputs says.</summary>
    public static (double? Number, string? Problem) LastState(BlockTyping t, string _)
    {
        var states = Written(t.Block);
        int inputs = t.Types.Keys.Select(k => int.Parse(k[2..], System.Globalization.CultureInfo.InvariantCulture)).DefaultIfEmpty(0).Max();
        if (states.Distinct(StringComparer.OrdinalIgnoreCase).Count() != states.Count) return (null, $"{t.Called} has two states of one name.");
        return states.Count <= inputs ? (null, $"{t.Called} needs {inputs + 1} states, separated by commas: one for each input up to the last, and one for when none is on; it has {states.Count}.") : (states.Count, null);
    }

    /// <summary>The output has the written states.</summary>
    public static void StatesWritten(BlockTyping t) => t.Out(new LineType(false, null) { States = Written(t.Block) is { Count: > 0 } states ? states : null });

    /// <summary>What is chosen among agrees; what chooses is a bare number or a state.</summary>
    public static void ChosenByNumber(BlockTyping t)
    {
        t.Bare("k");
        var chosen = t.Types.Where(x => x.Key != "k").ToList();
        LineType one = chosen.Count == 0 ? default : chosen.Select(x => x.Value).FirstOrDefault(x => !x.Open, chosen[0].Value);
        t.Agree(chosen, one);
        t.Out(one);
    }

    /// <summary>What the modes say agrees.</summary>
    public static void ChosenByMode(BlockTyping t)
    {
        var chosen = t.Types.Where(x => x.Key != "mode").ToList();
        // A column that says nothing yet goes with whatever takes it.
        if (chosen.Count == 0) return;
        LineType one = chosen.Select(x => x.Value).FirstOrDefault(x => !x.Open, chosen[0].Value);
        t.Agree(chosen, one);
        t.Out(one);
    }

    /// <summary>Both are of one sort, and where both have named states those are the same.</summary>
    public static void Compared(BlockTyping t)
    {
        t.Agree(t.Types, t.Types.Values.FirstOrDefault(x => !x.Open, t.Types.Values.FirstOrDefault()));
        if (t["in1"].States is { } one && t["in2"].States is { } other && !one.SequenceEqual(other, StringComparer.OrdinalIgnoreCase))
            t.Problem("in2", $"{t.Called} compares states by their numbers, and these are not called alike: {string.Join(", ", one)}; and {string.Join(", ", other)}. Ask each with ‘State is’ instead.");
    }

    /// <summary>What is sampled is given.</summary>
    public static void SampledBy(BlockTyping t) => t.Out(t["in"]);

    /// <summary>All inputs agree, on or off as well, and the output is like them.</summary>
    public static void AnyAlike(BlockTyping t)
    {
        LineType one = t.Types.Values.FirstOrDefault(x => !x.Open, t.Types.Values.FirstOrDefault());
        t.Agree(t.Types, one);
        t.Out(one);
    }

    /// <summary>A total of a rate: its product with time, in the unit chosen on the block; a bare rate counts by the hour.</summary>
    public static void Totalled(BlockTyping t)
    {
        LineType rate = t["in"];
        Unit? chosen = Unit.Find(t.Block.OutputUnit);
        if (rate.Unit is null)
        {
            t.Out(new LineType(false, chosen));
            return;
        }
        if (Unit.Product(rate.Unit.Quantity, Quantity.Time) is not { } product)
        {
            t.Problem("in", $"{t.Called} cannot add up {rate.Word} over time: that comes to nothing that has a unit. It takes a power, a flow, a mass flow, a speed or a bare number.");
            return;
        }
        if (chosen is not null && chosen.Quantity != product.Product.Quantity) t.Problem("in", $"{t.Called} adds up {rate.Word} to {product.Product.Word}, which is not given in {chosen.Symbol}. Choose {product.Product.Symbol} or another unit of it.");
        t.Out(new LineType(false, chosen ?? product.Product));
    }

    /// <summary>What one unit of the rate makes of the total in a second.</summary>
    public static double TotalPerSecond(BlockTyping t)
    {
        LineType rate = t["in"];
        if (rate.Unit is null) return 1 / 3600.0;
        if (Unit.Product(rate.Unit.Quantity, Quantity.Time) is not { } product) return double.NaN;
        bool isFirst = product.One.Quantity == rate.Unit.Quantity;
        Unit one = isFirst ? product.One : product.Other, time = isFirst ? product.Other : product.One, total = Unit.Find(t.Block.OutputUnit) ?? product.Product;
        return rate.Unit.To(one)!.Value.Factor * Unit.Find("s")!.To(time)!.Value.Factor * (product.Product.To(total)?.Factor ?? double.NaN);
    }

    /// <summary>Moist air is given in °C and % relative humidity.</summary>
    public static void Air(BlockTyping t)
    {
        foreach (string pin in t.Types.Keys) t.As(pin, pin.EndsWith("umidity", StringComparison.Ordinal) ? "%RH" : "°C");
    }

    /// <summary>Measured and setpoint agree; what is tracked or fed forward is an output.</summary>
    public static void Loop(BlockTyping t)
    {
        foreach (string pin in (string[])["track", "forward"]) t.As(pin, "%", "the output");
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
        if (withUnit.Count is 2 or 3 && OfUnits(withUnit.ConvertAll(x => x.Value.Unit!)) is var (product, each))
        {
            for (int i = 0; i < withUnit.Count; i++) t.Meet(withUnit[i].Key, withUnit[i].Value, new LineType(false, each[i]), t.Called);
            result = new LineType(false, product);
        }
        else if (withUnit.Count > 1) t.Problem(withUnit[1].Key, $"{t.Called} would multiply {string.Join(" by ", withUnit.Select(x => x.Value.Word))}, which makes nothing that has a unit. The help of this block lists the products that do.");
        else if (IsTemperature(result)) t.Problem(withUnit[0].Key, $"{t.Called} cannot multiply a temperature, since 0 °C is not nothing. Subtract another temperature first.");
        t.Out(result);
    }

    /// <summary>What two or three units come to, multiplied in whatever order works, and the unit each of them must be in for it.</summary>
    private static (Unit Product, Unit[] Each)? OfUnits(List<Unit> units)
    {
        int[][] orders = units.Count == 2 ? [[0, 1]] : [[0, 1, 2], [0, 2, 1], [1, 2, 0]];
        foreach (int[] order in orders)
        {
            if (Unit.Product(units[order[0]].Quantity, units[order[1]].Quantity) is not { } product) continue;
            var each = new Unit[units.Count];
            bool isFirst = product.One.Quantity == units[order[0]].Quantity;
            (each[order[0]], each[order[1]]) = isFirst ? (product.One, product.Other) : (product.Other, product.One);
            if (order.Length == 2) return (product.Product, each);
            // What two of them make must be in the very unit that the third asks for: nothing converts it on the way.
            if (Unit.Product(product.Product.Quantity, units[order[2]].Quantity) is not { } whole) continue;
            bool asFirst = whole.One.Quantity == product.Product.Quantity;
            if ((asFirst ? whole.One : whole.Other) != product.Product) continue;
            each[order[2]] = asFirst ? whole.Other : whole.One;
            return (whole.Product, each);
        }
        return null;
    }

    /// <summary>A quotient: by a bare number, by the same quantity, or of a product by one of its factors.</summary>
    public static void Quotient(BlockTyping t)
    {
        LineType a = t["in1"], b = t["in2"];
        LineType result = a;
        if (IsTemperature(a) || IsTemperature(b)) t.Problem("in1", $"{t.Called} cannot divide temperatures, since 0 °C is not nothing. Subtract another temperature first.");
        else if (a.Unit is not null && b.Unit is not null && Unit.Quotient(a.Unit.Quantity, b.Unit.Quantity) is { } quotient)
        {
            t.Meet("in1", a, new LineType(false, quotient.Product), t.Called);
            t.Meet("in2", b, new LineType(false, quotient.Other), t.Called);
            result = new LineType(false, quotient.One);
        }
        else if (b.Unit is not null && b.Unit.Quantity != Quantity.None)
        {
            t.Meet("in1", a, b, t.Called);
            result = new LineType(false, null);
        }
        t.Out(result);
    }
}
