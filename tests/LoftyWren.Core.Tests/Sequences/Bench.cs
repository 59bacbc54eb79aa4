using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>One block on the bench: its inputs are points a test sets, its outputs are read after each scan.</summary>
internal sealed class Bench
{
    /// <summary>In place of a unit: a value with the states one, two and three.</summary>
    public const string Named = "states";

    private readonly Plan _plan;
    private PlanState _state;

    public Bench(BlockKind kind, string[] pins, (string Name, double Value)[]? numbers = null, (string Name, string Value)[]? choices = null, string unit = "", bool binary = false, (string Name, TableRow[] Rows)? table = null)
        : this(
            new Block
            {
                Id = "b",
                Kind = kind,
                Numbers = (numbers ?? []).ToDictionary(n => n.Name, n => n.Value),
                Tables = table is { } t ? new Dictionary<string, IReadOnlyList<TableRow>> { [t.Name] = t.Rows } : null,
                Choices = (choices ?? []).ToDictionary(n => n.Name, n => n.Value),
            },
            [.. pins.Select(p => (p, p is "track" or "forward" ? "%" : unit))], binary)
    {
    }

    /// <summary>A block whose inputs come in their units, in the order given.</summary>
    public Bench(Block block, (string Pin, string Unit)[] pins, bool binary = false)
    {
        (Block made, Point[] points) = Connected(block, pins, binary);
        _plan = Compile(made, points, out Typing typing);
        Typing = typing;
        _state = _plan.NewState();
    }

    /// <summary>What its lines carry.</summary>
    public Typing Typing { get; }

    /// <summary>What cannot be of a block whose inputs come in these units.</summary>
    public static IReadOnlyList<string> Problems(Block block, (string Pin, string Unit)[] pins, bool binary)
    {
        (Block made, Point[] points) = Connected(block, pins, binary);
        return [.. Typing.Of(Sequence(made), With(points)).Problems.Select(p => p.Sentence)];
    }

    private static (Block Block, Point[] Points) Connected(Block block, (string Pin, string Unit)[] pins, bool binary)
    {
        BlockType definition = BlockType.Of(block.Kind);
        var points = pins.Select((p, i) =>
        {
            bool isBinary = definition.Inputs.First(x => x.Name == p.Pin).Kind switch { PinKind.Binary => true, PinKind.Analog => false, _ => binary };
            bool isNamed = p.Unit == Named;
            return new Point { Id = new RecordId($"p{i}"), Name = p.Pin, OwnerId = KilnRoom.Room, Kind = isBinary ? PointKind.Binary : isNamed ? PointKind.Multistate : PointKind.Analog, Role = PointRole.Value, Unit = isBinary || isNamed || p.Unit.Length == 0 ? null : p.Unit, StateTexts = isBinary ? ["off", "on"] : isNamed ? ["one", "two", "three"] : [] };
        }).ToArray();
        return (block with { Inputs = pins.Select((p, i) => (p.Pin, Source: (Source)new PointSource(new RecordId($"p{i}")))).ToDictionary(x => x.Pin, x => x.Source) }, points);
    }

    private static Sequence Sequence(Block block) => new() { Id = new RecordId("seq"), Name = "bench", EquipmentId = KilnRoom.Fan, Blocks = [block] };

    private static Project With(Point[] points) => points.Length == 0 ? KilnRoom.Project() : KilnRoom.Accept(KilnRoom.Project(), points);

    /// <summary>What the controller tells of itself comes behind the inputs, in the order of the facts.</summary>
    private static Plan Compile(Block block, Point[] points, out Typing typing)
    {
        (Plan plan, typing) = Compiler.Compile(Sequence(block), With(points), id => int.Parse(id.Value[1..]), other => other.Fact is { } fact ? points.Length + (int)fact : -1);
        return plan;
    }

    /// <summary>Sets the inputs in the order of the pins, scans at a second, answers value and status. NaN is released, ∞ is in fault.</summary>
    public (double Value, StatusFlags Status) Scan(double now, params double[] inputs)
    {
        ScanAll(now, [.. inputs.Select(v => double.IsNaN(v) ? PinValue.Released : double.IsInfinity(v) ? PinValue.Fault : new PinValue(v, StatusFlags.None))]);
        return Read("out");
    }

    /// <summary>Scans with inputs of any status.</summary>
    public void ScanAll(double now, PinValue[] inputs) => _plan.Scan(_state, inputs, now);

    /// <summary>The output's value; NaN when it says nothing.</summary>
    public double Out(double now, params double[] inputs) => Scan(now, inputs).Value;

    public (double Value, StatusFlags Status) Read(string pin) => (_state.Slots[_plan.Pins[$"b.{pin}"]].Value, _state.Slots[_plan.Pins[$"b.{pin}"]].Status);

    /// <summary>The value of an output.</summary>
    public double this[string pin] => Read(pin).Value;

    /// <summary>What it remembers, as it is kept.</summary>
    public double?[] Remember() => [.. _state.Memory.Select(c => double.IsNaN(c) ? (double?)null : c)];

    /// <summary>A controller that starts anew takes up what was kept.</summary>
    public void Recall(double?[] kept)
    {
        _state = _plan.NewState();
        for (int i = 0; i < kept.Length; i++) _state.Memory[i] = kept[i] ?? double.NaN;
    }
}
