using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Sequences;

/// <summary>
/// What of a sequence can only ever say one thing: blocks without memory that are fed by constants, an AND one of whose inputs
/// is always off, a comparison with a limit that its point cannot come to. Known without running it.
/// </summary>
public sealed class Constancy
{
    private readonly Typing _typing;
    private readonly Project _project;
    private readonly Dictionary<(string Block, string Pin), double> _values = [];

    private Constancy(Typing typing, Project project)
    {
        (_typing, _project) = (typing, project);
        foreach (Block block in typing.Order)
        {
            if (Of(block) is { } value) _values[(block.Id, BlockType.Of(block.Kind).Outputs[0].Name)] = value;
        }
    }

    /// <summary>Looks through a sequence that can be calculated.</summary>
    public static Constancy Of(Typing typing, Project project) => new(typing, project);

    /// <summary>The plain blocks whose first output never changes, with what it says.</summary>
    public IEnumerable<(Block Block, double Value)> All => _typing.Order.Where(b => _values.ContainsKey((b.Id, BlockType.Of(b.Kind).Outputs[0].Name))).Select(b => (b, _values[(b.Id, BlockType.Of(b.Kind).Outputs[0].Name)]));

    /// <summary>What a source always says; null where it may change, or say nothing.</summary>
    public double? Of(Source? source) => source switch
    {
        ConstantSource constant => constant.Value,
        BlockSource block when _values.TryGetValue((block.BlockId, block.Pin), out double value) => value,
        _ => null,
    };

    private double? Of(Block block)
    {
        BlockType type = BlockType.Of(block.Kind);
        if (type.HasMemory || type.IsShell || type.Facts.Count > 0 || block.Inputs.Count == 0) return null;
        if (type.Deciding is { } deciding && block.Inputs.Values.Any(i => Of(i) is { } v && v > 0.5 == deciding)) return deciding ? 1 : 0;
        if (block.Inputs.Values.All(i => Of(i) is not null)) return Calculated(block);
        return type.Compares is { } compares && block.Inputs.TryGetValue("in1", out Source? one) && block.Inputs.TryGetValue("in2", out Source? two)
            ? compares(Range(block, "in1", one), Range(block, "in2", two)) : null;
    }

    /// <summary>From where to where what reaches a pin can go, in the unit it is compared in.</summary>
    private (double Low, double High) Range(Block block, string pin, Source source)
    {
        var by = _typing.Conversions.GetValueOrDefault((block.Id, pin));
        double turned(double value) => by is null ? value : (value * by.Factor) + by.Offset;
        if (Of(source) is { } fix) return (turned(fix), turned(fix));
        // What is commanded is brought within its limits; a sensor may measure anything.
        return source is PointSource p && _project.Find<Point>(p.PointId) is { Kind: PointKind.Analog, Role: not PointRole.Sensor } point
            ? (turned(point.Low ?? double.NegativeInfinity), turned(point.High ?? double.PositiveInfinity)) : (double.NegativeInfinity, double.PositiveInfinity);
    }

    /// <summary>What the very code that controllers run makes of it.</summary>
    private double? Calculated(Block block)
    {
        Block alone = block with { Inputs = block.Inputs.ToDictionary(i => i.Key, i => (Source)(i.Value as ConstantSource ?? ConstantOf((BlockSource)i.Value))) };
        Sequence sequence = _typing.Plain with { Blocks = [alone], Commands = [] };
        if (Typing.Of(sequence, _project).Problems.Count > 0) return null;
        var (plan, _) = Compiler.Compile(sequence, _project, _ => -1, _ => -1);
        PlanState state = plan.NewState();
        plan.Scan(state, [], 0);
        PinValue value = state.Slots[plan.Pins[$"{block.Id}.{BlockType.Of(block.Kind).Outputs[0].Name}"]];
        return value.IsUsable ? value.Value : null;
    }

    private ConstantSource ConstantOf(BlockSource source)
    {
        LineType type = _typing.Outputs.GetValueOrDefault((source.BlockId, source.Pin));
        return new ConstantSource(_values[(source.BlockId, source.Pin)], type.Unit?.Symbol, type.Binary);
    }
}
