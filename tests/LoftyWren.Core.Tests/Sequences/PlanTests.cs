using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Sequences;

public class PlanTests
{
    private static readonly Project House = Accept(KilnRoom.Project(),
        new Point { Id = new("p0"), Name = "a", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Value },
        new Point { Id = new("p1"), Name = "b", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Value });

    private static Block Make(string id, BlockKind kind, params (string Pin, Source Source)[] inputs) =>
        new() { Id = id, Kind = kind, Inputs = inputs.ToDictionary(i => i.Pin, i => i.Source) };

    private static Plan Compile(IReadOnlyList<Block> blocks, params OutputCommand[] commands) => Compiler.Compile(
        new Sequence { Id = new("s"), Name = "s", EquipmentId = Fan, Blocks = [.. blocks], Commands = [.. commands] }, House,
        id => id.Value switch { "p0" => 0, "p1" => 1, "room-temp" => 0, "fan-cmd" => 2, _ => -1 }, _ => -1).Plan;

    private static PinValue Run(Plan plan, string pin, params PinValue[] readings)
    {
        PlanState state = plan.NewState();
        plan.Scan(state, readings, 0);
        return state.Slots[plan.Pins[pin]];
    }

    private static PinValue Well(double value) => new(value, StatusFlags.None);

    /// <summary>Any chain of sums, products and choices gives what a plain recursion over the blocks gives.</summary>
    [Property(MaxTest = 60)]
    public Property A_plan_calculates_what_its_blocks_say() => Prop.ForAll(
        Gen.Choose(0, 1_000_000).ListOf(12).ToArbitrary(), Gen.Choose(-50, 50).Two().ToArbitrary(), (seeds, inputs) =>
        {
            BlockKind[] kinds = [BlockKind.Add, BlockKind.Sub, BlockKind.Min, BlockKind.Max, BlockKind.Average];
            var blocks = new List<Block>();
            var expected = new List<double>();
            Source Pick(int seed) => (seed % (blocks.Count + 2)) switch { 0 => new PointSource(new("p0")), 1 => new PointSource(new("p1")), int n => new BlockSource($"b{n - 2}") };
            double Worth(int seed) => (seed % (blocks.Count + 2)) switch { 0 => inputs.Item1, 1 => inputs.Item2, int n => expected[n - 2] };
            foreach (int seed in seeds)
            {
                int left = seed / 7, right = seed / 311;
                (double a, double b) = (Worth(left), Worth(right));
                BlockKind kind = kinds[seed % 5];
                Block block = Make($"b{blocks.Count}", kind, ("in1", Pick(left)), ("in2", Pick(right)));
                expected.Add(kind switch { BlockKind.Add => a + b, BlockKind.Sub => a - b, BlockKind.Min => a < b ? a : b, BlockKind.Max => a > b ? a : b, _ => (a + b) / 2 });
                blocks.Add(block);
            }
            return Run(Compile(blocks), $"b{blocks.Count - 1}.out", Well(inputs.Item1), Well(inputs.Item2)).Value == expected[^1];
        });

    [Fact]
    public void Plans_of_one_shape_keep_their_own_numbers_and_constants()
    {
        static Plan Of(double limit, double differential) => Compile([new Block { Id = "t", Kind = BlockKind.TwoPosition, Numbers = new Dictionary<string, double> { ["differential"] = differential }, Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(new("p0")), ["limit"] = new ConstantSource(limit, null) } }]);
        Plan first = Of(10, 1), second = Of(20, 5);
        Assert.Equal(1, Run(first, "t.out", Well(15)).Value);
        Assert.True(double.IsNaN(Run(second, "t.out", Well(15)).Value));
        PlanState state = second.NewState();
        second.Scan(state, [Well(21)], 0);
        second.Scan(state, [Well(15.1)], 1);
        Assert.Equal(1, state.Slots[second.Pins["t.out"]].Value);
        second.Scan(state, [Well(14.9)], 2);
        Assert.Equal(StatusFlags.Released, state.Slots[second.Pins["t.out"]].Status);
    }

    [Fact]
    public void A_line_that_converts_is_converted_in_the_scan()
    {
        // 84.2 °F is 29.0 °C: (84.2 − 32) / 1.8.
        Plan plan = Compile([Make("t", BlockKind.Gt, ("in1", new PointSource(Temperature)), ("in2", new ConstantSource(84.2, "°F")))]);
        Assert.Equal(0, Run(plan, "t.out", Well(28.99)).Value);
        Assert.Equal(1, Run(plan, "t.out", Well(29.01)).Value);
    }

    [Fact]
    public void A_claim_may_take_a_point_as_it_is_but_not_its_alarm()
    {
        Plan plan = Compile([], new OutputCommand { PointId = FanCommand, Claims = [new Claim { Priority = 12, Source = new PointSource(FanCommand) }] });
        PlanState state = plan.NewState();
        plan.Scan(state, [default, default, new PinValue(1, StatusFlags.InAlarm | StatusFlags.Stale)], 0);
        Assert.Equal(new PinValue(1, StatusFlags.Stale), state.Slots[plan.Claims[0].Slot]);
    }
}
