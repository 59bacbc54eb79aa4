using LoftyWren.Core.OlderPrograms;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using LoftyWren.Core.Tests.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.OlderPrograms;

public class ProgramConversionTests
{
    private static readonly RecordId Old = new("old");

    private static Block B(string id, BlockKind kind, (string, double)[] numbers, Dictionary<string, Source> inputs, params (string, string)[] choices) =>
        new() { Id = id, Kind = kind, Numbers = numbers.ToDictionary(n => n.Item1, n => n.Item2), Choices = choices.ToDictionary(c => c.Item1, c => c.Item2), Inputs = inputs };

    private static readonly Point Value = new() { Id = new("p0"), Name = "Value", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Value, Unit = "°C" },
        Wanted = new() { Id = new("p1"), Name = "Wanted", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Value, Unit = "°C" },
        Allowed = new() { Id = new("p2"), Name = "Allowed", OwnerId = Room, Kind = PointKind.Binary, Role = PointRole.Value, StateTexts = ["off", "on"] };

    private static Project With(params Block[] blocks) => Accept(KilnRoom.Project(), Value, Wanted, Allowed, new Sequence { Id = Old, Name = "Older", EquipmentId = Fan, Blocks = blocks, Clauses = [new Clause { Id = "c", Text = "It is kept.", Blocks = [.. blocks.Select(b => b.Id)] }] });

    private static ConversionPlan Plan(Project project) => ProgramConversion.Of(project, _ => []);

    private static Func<double, PinValue[], (double, StatusFlags)> Runs(Project project, Sequence sequence)
    {
        var (plan, _) = Compiler.Compile(sequence, project, id => int.Parse(id.Value[1..], System.Globalization.CultureInfo.InvariantCulture), _ => -1);
        PlanState state = plan.NewState();
        return (now, inputs) =>
        {
            plan.Scan(state, inputs, now);
            PinValue slot = state.Slots[plan.Pins["b.out"]];
            return (slot.Value, slot.Status);
        };
    }

    /// <summary>What is called changed and not risky does what it did: at every scan, with faults and gaps among the inputs.</summary>
    [Theory]
    [InlineData(BlockKind.TwoLimits, "on", 22, "off", 20)]
    [InlineData(BlockKind.TwoLimits, "on", 18, "off", 21.5)]
    [InlineData(BlockKind.MinuteTimer, "minutes", 2, "", 0)]
    [InlineData(BlockKind.MinuteTimer, "minutes", 0, "", 0)]
    public void What_is_changed_without_risk_does_what_it_did_at_every_scan(BlockKind kind, string one, double first, string two, double second)
    {
        (string, double)[] numbers = two.Length == 0 ? [(one, first)] : [(one, first), (two, second)];
        Project project = With(B("b", kind, numbers, new() { [kind == BlockKind.TwoLimits ? "measured" : "in"] = new PointSource(kind == BlockKind.TwoLimits ? Value.Id : Allowed.Id) }));
        ConversionPlan plan = Plan(project);
        Assert.Equal(ConversionSort.Changed, Assert.Single(plan.Lines).Sort);
        Project after = Accept(project, plan.Edits(project).Select(e => Edit.Of(e.Put!)).ToArray());
        Assert.False(ProgramConversion.IsOlder(after.Find<Sequence>(Old)!));
        var old = Runs(project, project.Find<Sequence>(Old)!);
        var next = Runs(after, after.Find<Sequence>(Old)!);
        var random = new Random(7);
        double now = 0, walk = 20;
        bool on = false;
        for (int scan = 0; scan < 5000; scan++)
        {
            now += random.Next(1, 30);
            walk += random.NextDouble() - 0.5;
            on = random.Next(8) == 0 ? !on : on;
            StatusFlags status = random.Next(40) == 0 ? StatusFlags.Fault : random.Next(40) == 0 ? StatusFlags.Stale : StatusFlags.None;
            PinValue[] inputs = [new(walk, status), new(20, StatusFlags.None), new(on ? 1 : 0, status)];
            Assert.Equal(old(now, inputs), next(now, inputs));
        }
    }

    // A loop with an enable becomes two blocks, so that one more block than a sequence holds would come of it.
    [Fact]
    public void A_sequence_that_would_be_refused_stays_and_keeps_no_other_from_being_converted()
    {
        Block loop = B("b", BlockKind.PiBand, [("band", 4), ("reset", 20)], new() { ["measured"] = new PointSource(Value.Id), ["setpoint"] = new PointSource(Wanted.Id), ["enable"] = new PointSource(Allowed.Id) });
        Block[] full = [loop, .. Enumerable.Range(1, Core.Sequences.Sequence.MostBlocks - 1).Select(i => B($"n{i}", BlockKind.Not, [], new() { ["in"] = new PointSource(Allowed.Id) }))];
        Project project = Accept(With(full), new Sequence { Id = new("other"), Name = "Other", EquipmentId = Fan, Blocks = [loop] });
        ConversionPlan plan = Plan(project);
        Assert.Equal(["Other"], plan.Sequences.Select(s => s.Name));
        ConversionLine stays = Assert.Single(plan.Lines, l => l.SequenceId == Old);
        Assert.Equal((ConversionSort.NotCarried, "‘Older’ stays as it is."), (stays.Sort, stays.What));
        Assert.Contains("Converted, it would be refused: ", stays.Why, StringComparison.Ordinal);
        Accept(project, [.. plan.Edits(project).Select(e => Edit.Of(e.Put!))]);
    }

    /// <summary>In what a loop with an enable differs once it is converted is said, and is so.</summary>
    [Fact]
    public void What_a_loop_with_an_enable_does_otherwise_is_said()
    {
        Project project = With(B("b", BlockKind.PiBand, [("band", 4), ("reset", 20)], new() { ["measured"] = new PointSource(Value.Id), ["setpoint"] = new PointSource(Wanted.Id), ["enable"] = new PointSource(Allowed.Id) }));
        ConversionPlan plan = Plan(project);
        string risk = Assert.Single(plan.Lines, l => l.Sort == ConversionSort.Risky).Why;
        Project after = Accept(project, plan.Edits(project).Select(e => Edit.Of(e.Put!)).ToArray());
        var old = Runs(project, project.Find<Sequence>(Old)!);
        var next = Runs(after, after.Find<Sequence>(Old)!);
        PinValue good = new(20, StatusFlags.None), wanted = new(22, StatusFlags.None), off = new(0, StatusFlags.None);
        Assert.Equal((0, StatusFlags.None), old(1, [good, wanted, PinValue.Fault]));
        Assert.Equal(StatusFlags.Fault, next(1, [good, wanted, PinValue.Fault]).Item2);
        Assert.Contains("While its enable is in fault or released, the old one commanded 0 %", risk, StringComparison.Ordinal);
        Assert.Equal(StatusFlags.Fault, old(2, [PinValue.Fault, wanted, off]).Item2);
        Assert.Equal((0, StatusFlags.None), next(2, [PinValue.Fault, wanted, off]));
        Assert.Contains("While it is disabled and its measurement or setpoint is in fault, the old one was in fault", risk, StringComparison.Ordinal);
        Assert.Equal((0, StatusFlags.Stale), old(3, [good with { Status = StatusFlags.Stale }, wanted, off]));
        Assert.Equal((0, StatusFlags.None), next(3, [good with { Status = StatusFlags.Stale }, wanted, off]));
        Assert.Contains("no longer do while it is disabled", risk, StringComparison.Ordinal);
    }

    // By hand: band 4 K is 25 %/K; 2 K below is 50 %. After 10 min of a reset of 20 min the integral has 25 · 2 · 0.5 = 25 %: 75 %.
    [Fact]
    public void A_loop_by_its_band_and_the_PID_in_its_place()
    {
        Block block = B("b", BlockKind.PiBand, [("band", 4), ("reset", 20)], new() { ["measured"] = new PointSource(Value.Id), ["setpoint"] = new PointSource(Wanted.Id), ["enable"] = new PointSource(Allowed.Id) });
        Project project = With(block);
        ConversionPlan plan = Plan(project);
        Assert.Equal([ConversionSort.Changed, ConversionSort.Risky], plan.Lines.Select(l => l.Sort));
        Assert.Contains("goes on with the integral", plan.Lines[1].Why);
        Sequence converted = Assert.Single(plan.Sequences);
        Assert.Equal(["b-loop", "b"], converted.Blocks.Select(b => b.Id));
        Assert.Equal((25, 1200.0), (converted.Blocks[0].Numbers["gain"], converted.Blocks[0].Numbers["ti"]));
        // What a paragraph was met by, all that came in its place meets.
        Assert.Equal(["b-loop", "b"], converted.Clauses[0].Blocks);
        Project after = Accept(project, plan.Edits(project).Select(e => Edit.Of(e.Put!)).ToArray());
        foreach (var (p, s) in new[] { (project, project.Find<Sequence>(Old)!), (after, after.Find<Sequence>(Old)!) })
        {
            var run = Runs(p, s);
            double Out(double now, double measured, bool on) => run(now, [new(measured, StatusFlags.None), new(20, StatusFlags.None), new(on ? 1 : 0, StatusFlags.None)]).Item1;
            Assert.Equal(0, Out(0, 18, false));
            Assert.Equal(50, Out(10, 18, true), 0.5);
            double last = 0;
            for (int t = 20; t <= 610; t += 10) last = Out(t, 18, true);
            Assert.Equal(75, last, 0.6);
            // Disabled both command 0 %. Enabled again the old one begins with its proportion, the PID goes on: that is the risk that is told.
            Assert.Equal(0, Out(620, 18, false));
            Assert.Equal(s.Blocks.Count == 1 ? 50 : 75, Out(630, 18, true), 1.0);
        }
    }

    [Fact]
    public void What_cannot_be_carried_over_stays_runs_on_and_is_named()
    {
        Project project = With(
            B("same", BlockKind.TwoLimits, [("on", 20), ("off", 20)], new() { ["measured"] = new PointSource(Value.Id) }),
            B("most", BlockKind.Max, [], new() { ["in1"] = new PointSource(Value.Id), ["in2"] = new PointSource(Wanted.Id) }),
            B("inner", BlockKind.TwoLimits, [("on", 20), ("off", 22)], new() { ["measured"] = new BlockSource("most") }),
            B("bare", BlockKind.TwoLimits, [("on", 20), ("off", 22)], []));
        ConversionPlan plan = Plan(project);
        Assert.Equal([("same", ConversionSort.NotCarried), ("inner", ConversionSort.NotCarried), ("bare", ConversionSort.NotCarried)], plan.Lines.Select(l => (l.BlockId!, l.Sort)));
        Assert.Contains("needs a differential", plan.Lines[0].Why);
        Assert.Empty(plan.Sequences);
        Assert.Contains(LoftyWren.Core.Findings.Checks.On(project, project.Find<Sequence>(Old)!), f => f.Code == "older-program");
        var run = Runs(project, project.Find<Sequence>(Old)! with { Blocks = [project.Find<Sequence>(Old)!.Blocks[0] with { Id = "b" }] });
        Assert.Equal(1, run(1, [new(20.1, StatusFlags.None), default, default]).Item1);
        Assert.Equal(0, run(2, [new(19.9, StatusFlags.None), default, default]).Item1);
    }

    [Fact]
    public void A_pulse_is_risky_and_in_what_is_told()
    {
        Project project = With(B("b", BlockKind.MinuteTimer, [("minutes", 1)], new() { ["in"] = new PointSource(Allowed.Id) }, ("mode", "pulse")));
        ConversionPlan plan = Plan(project);
        Assert.Equal([ConversionSort.Changed, ConversionSort.Risky], plan.Lines.Select(l => l.Sort));
        Assert.Contains("began anew at every edge", plan.Lines[1].Why);
        var bench = new Bench(BlockKind.MinuteTimer, ["in"], [("minutes", 1)], [("mode", "pulse")]);
        // An edge at 1 s, another at 41 s: on until 101 s.
        Assert.Equal([0, 1, 1, 1, 1, 1, 0], new[] { (0, 0), (1, 1), (20, 0), (41, 1), (70, 1), (100, 1), (102, 1) }.Select(x => (int)bench.Out(x.Item1, x.Item2)));
    }

    [Fact]
    public void Customised_parts_are_listed_one_by_one_and_what_was_converted_since_is_known()
    {
        Project project = With(B("b", BlockKind.TwoLimits, [("on", 22), ("off", 20)], new() { ["measured"] = new PointSource(Value.Id) }));
        project = Accept(project, project.Find<Equipment>(Fan)! with { Placed = new LoftyWren.Core.Templates.Placement("t", "Extract", 1, new Dictionary<string, string>()) });
        ConversionPlan plan = ProgramConversion.Of(project, e => [$"{e.Name} one", $"{e.Name} two"]);
        Assert.Equal(2, plan.Lines.Count(l => l.Sort == ConversionSort.Customised));
        Project after = Accept(project, plan.Edits(project).Select(e => Edit.Of(e.Put!)).ToArray());
        Assert.Equal(["Older"], ProgramConversion.ConvertedSince(project.All<Sequence>(), after.All<Sequence>()));
        Assert.Empty(ProgramConversion.ConvertedSince(project.All<Sequence>(), project.All<Sequence>()));
        Assert.Empty(ProgramConversion.ConvertedSince(after.All<Sequence>(), after.All<Sequence>()));
        // The project that it was made from is as it was.
        Assert.True(ProgramConversion.IsOlder(project.Find<Sequence>(Old)!));
        Assert.Empty(ProgramConversion.Of(project, _ => [], new HashSet<RecordId>()).Lines);
    }
}
