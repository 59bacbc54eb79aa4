using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>One block on the bench: its inputs are points a test sets, its output is read after each scan.</summary>
internal sealed class Bench
{
    private readonly Plan _plan;
    private readonly PlanState _state;
    private readonly string[] _pins;

    public Bench(BlockKind kind, string[] pins, (string Name, double Value)[]? numbers = null, (string Name, string Value)[]? choices = null, string unit = "", bool binary = false, (string Name, TableRow[] Rows)? table = null)
    {
        _pins = pins;
        BlockType definition = BlockType.Of(kind);
        var points = pins.Select((p, i) =>
        {
            bool isBinary = definition.Inputs.First(x => x.Name == p).Kind switch { PinKind.Binary => true, PinKind.Analog => false, _ => binary };
            bool plain = unit.Length == 0 || p == "track";
            return new Point { Id = new RecordId($"p{i}"), Name = p, OwnerId = KilnRoom.Room, Kind = isBinary ? PointKind.Binary : PointKind.Analog, Role = PointRole.Value, Unit = isBinary ? null : p == "track" ? "%" : plain ? null : unit, StateTexts = isBinary ? ["off", "on"] : [] };
        }).ToArray();
        var sequence = new Sequence
        {
            Id = new RecordId("seq"),
            Name = "bench",
            EquipmentId = KilnRoom.Fan,
            Blocks =
            [
                new Block
                {
                    Id = "b",
                    Kind = kind,
                    Numbers = (numbers ?? []).ToDictionary(n => n.Name, n => n.Value),
                    Tables = table is { } t ? new Dictionary<string, IReadOnlyList<TableRow>> { [t.Name] = t.Rows } : null,
                    Choices = (choices ?? []).ToDictionary(n => n.Name, n => n.Value),
                    Inputs = pins.Select((p, i) => (p, Source: (Source)new PointSource(new RecordId($"p{i}")))).ToDictionary(x => x.p, x => x.Source),
                },
            ],
        };
        Project project = points.Length == 0 ? KilnRoom.Project() : KilnRoom.Accept(KilnRoom.Project(), points);
        (_plan, _) = Compiler.Compile(sequence, project, id => int.Parse(id.Value[1..]), _ => -1);
        _state = _plan.NewState();
    }

    /// <summary>Sets the inputs in the order of the pins, scans at a second, answers value and status. NaN is released, ∞ is in fault.</summary>
    public (double Value, StatusFlags Status) Scan(double now, params double[] inputs)
    {
        _plan.Scan(_state, [.. inputs.Select(v => double.IsNaN(v) ? PinValue.Released : double.IsInfinity(v) ? PinValue.Fault : new PinValue(v, StatusFlags.None))], now);
        return Read("out");
    }

    /// <summary>The output's value; NaN when it says nothing.</summary>
    public double Out(double now, params double[] inputs) => Scan(now, inputs).Value;

    public (double Value, StatusFlags Status) Read(string pin) => (_state.Slots[_plan.Pins[$"b.{pin}"]].Value, _state.Slots[_plan.Pins[$"b.{pin}"]].Status);
}
