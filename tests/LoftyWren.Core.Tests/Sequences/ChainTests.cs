using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>Blocks in chains and loops, on a controller that is sent to, switched off and on again, at any scan period.</summary>
public class ChainTests
{
    private static Block Make(string id, BlockKind kind, (string, double)[] numbers, params (string Pin, Source Source)[] inputs) =>
        new() { Id = id, Kind = kind, Numbers = numbers.ToDictionary(n => n.Item1, n => n.Item2), Inputs = inputs.ToDictionary(i => i.Pin, i => i.Source) };

    private static Project With(double scanSeconds, Block[] blocks, string commanded, double fallback = 0)
    {
        Project house = Project();
        var fan = (Point)house.Find(FanCommand)!;
        var sequence = (Sequence)house.Find(KilnRoom.Sequence)!;
        var hours = (Core.Schedules.Schedule)house.Find(Hours)!;
        return Accept(house,
            Edit.Of(fan with { Fallback = fallback }, 1),
            Edit.Of(hours with { Drives = [] }, 1),
            Edit.Of(sequence with { ScanSeconds = scanSeconds, Blocks = blocks, Commands = [new OutputCommand { PointId = FanCommand, Claims = [new Claim { Priority = 10, Source = new BlockSource(commanded) }] }] }, 1));
    }

    /// <summary>
    /// Whatever stands before them, however the sensor behaves, whenever the controller is sent to or restarted: in running
    /// time a state between two others lasts at least its minimum time.
    /// </summary>
    [Property(MaxTest = 40)]
    public Property Minimum_times_hold_in_every_chain() => Prop.ForAll(Gen.Choose(0, int.MaxValue).ToArbitrary(), seed =>
    {
        var random = new Random(seed);
        double period = new[] { 0.1, 0.5, 0.7, 1, 2, 7.3 }[random.Next(6)];
        double minOn = random.Next(20, 200), minOff = random.Next(20, 200);
        var blocks = new List<Block> { Make("b0", BlockKind.TwoPosition, [("differential", 0.5)], ("measured", new PointSource(Temperature)), ("limit", new PointSource(Limit))) };
        if (random.Next(2) == 0) blocks[0] = blocks[0] with { Choices = new Dictionary<string, string> { ["idle"] = random.Next(2) == 0 ? "release" : "off", ["acts"] = random.Next(2) == 0 ? "onRise" : "onFall" } };
        for (int n = random.Next(4); n > 0; n--)
        {
            Source last = new BlockSource($"b{blocks.Count - 1}"), loop = new BlockSource("times");
            blocks.Add(random.Next(6) switch
            {
                0 => Make($"b{blocks.Count}", BlockKind.Not, [], ("in", last)),
                1 => Make($"b{blocks.Count}", BlockKind.Ton, [("pt", random.Next(20))], ("in", last)),
                2 => Make($"b{blocks.Count}", BlockKind.Tof, [("pt", random.Next(20))], ("in", last)),
                3 => Make($"b{blocks.Count}", BlockKind.Xor, [], ("in1", last), ("in2", loop)),
                4 => Make($"b{blocks.Count}", BlockKind.Sr, [], ("s1", last), ("r", loop)),
                _ => Make($"b{blocks.Count}", BlockKind.Tp, [("pt", random.Next(1, 20))], ("in", last)),
            });
        }
        blocks.Add(Make("times", BlockKind.MinimumTimes, [("minOn", minOn), ("minOff", minOff)], ("in", new BlockSource($"b{blocks.Count - 1}"))));
        Project house = With(period, [.. blocks], "times");
        ControllerEngine engine = Engine(house);
        long now = At(2026, 4, 15, 12, 0);
        double ran = 0, sinceRan = double.NaN, before = double.NaN;
        bool first = true;
        for (int scan = 0; scan < 4000; scan++)
        {
            int luck = random.Next(100);
            if (luck == 0)
            {
                bool pause = random.Next(2) == 0;
                ControllerEngine next = Engine(house);
                next.Recall(engine.Remember(), pause ? Resumption.AfterPause : Resumption.TakesOver);
                engine = next;
                if (pause) now += random.Next(1, 3_600_000);
                else (now, ran) = (now + (long)(period * 1000), ran + period);
            }
            else (now, ran) = (now + (long)(period * 1000), ran + period);
            if (luck is 1 or 2) engine.RawInputs[0] = 100_000;
            else engine.RawInputs[0] = Core.Signals.Curve.Pt1000.RawOf(29 + (random.NextDouble() * 3) - 1.5);
            engine.Scan(now);
            double value = engine.Read(FanCommand)!.Value.Value;
            if (value == before) continue;
            double least = before == 1 ? minOn : minOff;
            if (!first && ran - sinceRan < least - 1e-3) return false;
            first = double.IsNaN(sinceRan);
            (before, sinceRan) = (value, ran);
        }
        return true;
    });

    /// <summary>A limit holds for every claim that reaches the output, whatever calculates in front of it and whatever becomes of the sensor.</summary>
    [Property(MaxTest = 40)]
    public Property A_limit_holds_behind_every_chain() => Prop.ForAll(Gen.Choose(0, int.MaxValue).ToArbitrary(), seed =>
    {
        var random = new Random(seed);
        double period = new[] { 0.1, 0.7, 1, 7.3 }[random.Next(4)], low = 15 + random.Next(8), high = low + 1 + random.Next(5);
        var blocks = new List<Block> { Make("b0", BlockKind.Filter, [("time", random.Next(5))], ("in", new PointSource(Temperature))) };
        for (int n = random.Next(5); n > 0; n--)
        {
            Source last = new BlockSource($"b{blocks.Count - 1}");
            string id = $"b{blocks.Count}";
            blocks.Add(random.Next(8) switch
            {
                0 => Make(id, BlockKind.Ramp, [("up", random.Next(4)), ("down", random.Next(4))], ("in", last)),
                1 => Make(id, BlockKind.Window, [("length", 1 + random.Next(60))], ("in", last)),
                2 => Make(id, BlockKind.DeadTime, [("time", random.Next(60))], ("in", last)),
                3 => Make(id, BlockKind.Add, [], ("in1", last), ("in2", new ConstantSource(random.Next(-50, 50), "K"))),
                4 => Make(id, BlockKind.Deadband, [("by", random.Next(5))], ("in", last)),
                5 => Make(id, BlockKind.HoldGood, [("most", random.Next(20))], ("in", last)),
                6 => Make(id, BlockKind.Max, [], ("in1", last), ("in2", new PointSource(Limit))),
                _ => Make(id, BlockKind.Median, [], ("in1", last), ("in2", new PointSource(Limit)), ("in3", new PointSource(Temperature))),
            });
        }
        blocks.Add(Make("limit", BlockKind.Limit, [], ("low", new ConstantSource(low, "°C")), ("in", new BlockSource($"b{blocks.Count - 1}")), ("high", new ConstantSource(high, "°C"))));
        Project house = Project();
        var sequence = (Sequence)house.Find(KilnRoom.Sequence)!;
        house = Accept(house,
            Edit.Of(new Point { Id = new("flow-set"), Name = "Flow setpoint", OwnerId = KilnRoom.Fan, Kind = PointKind.Analog, Role = PointRole.Setpoint, Unit = "°C", Fallback = low }),
            Edit.Of(new Core.Hardware.Fitting { Id = new("flow-fit"), Name = "value", ControllerId = KilnRoom.Controller, PointId = new("flow-set"), Terminal = Core.Hardware.Fitting.MemoryTerminal, Signal = Core.Signals.Signal.Memory }),
            Edit.Of(sequence with { ScanSeconds = period, Blocks = blocks, Commands = [new OutputCommand { PointId = new("flow-set"), Claims = [new Claim { Priority = 10, Source = new BlockSource("limit") }] }] }, 1));
        ControllerEngine engine = Engine(house);
        long now = At(2026, 4, 15, 12, 0);
        for (int scan = 0; scan < 400; scan++)
        {
            engine.RawInputs[0] = random.Next(20) == 0 ? 100_000 : Core.Signals.Curve.Pt1000.RawOf(random.NextDouble() * 60);
            engine.Scan(now += (long)(period * 1000));
            if (!(engine.Read(new("flow-set"))!.Value.Value >= low && engine.Read(new("flow-set"))!.Value.Value <= high)) return false;
        }
        return true;
    });

    // Opening hours on a Wednesday are 9:00 to 17:30, on Sunday 10:00 to 16:00, and Mondays are closed: from Sunday at 16:00 it is 41 h to Tuesday at 9:00.
    [Theory]
    [InlineData(15, 8, 0, 3600)]
    [InlineData(15, 9, 0, 8.5 * 3600)]
    [InlineData(15, 17, 29, 60)]
    [InlineData(19, 16, 0, 41 * 3600)]
    public void A_sequence_looks_ahead_to_when_a_schedule_changes(int day, int hour, int minute, double seconds)
    {
        Block left = Make("left", BlockKind.Deadband, [("by", 0)], ("in", new ScheduleSource(Hours, Ahead: true)));
        Project house = Accept(Project(), new Sequence { Id = new("ahead"), Name = "Ahead", EquipmentId = KilnRoom.Fan, ControllerId = KilnRoom.Controller, Blocks = [left] });
        ControllerEngine engine = Engine(house);
        engine.ScanAt(At(2026, 4, day, hour, minute) - 1000, 20);
        engine.ScanAt(At(2026, 4, day, hour, minute), 20);
        Assert.Equal((seconds, "s"), (engine.SourceOfPin(new("ahead"), "left", "out")!.Read().Value, engine.SourceOfPin(new("ahead"), "left", "out")!.Form.Unit));
        Assert.Equal(seconds, engine.Watch(Hours, "ahead")!.Read().Value);
        // It goes by the controller's own clock.
        engine.ClockOffset = -60_000;
        engine.ScanAt(At(2026, 4, day, hour, minute) + 60_000, 20);
        Assert.Equal(seconds, engine.SourceOfPin(new("ahead"), "left", "out")!.Read().Value);
    }

    // IEC 61131-3: variables start FALSE, so NOT gives TRUE and the delay begins: on at 2 s for one scan, a scan of FALSE into the delay, and so every 4 s.
    [Fact]
    public void An_on_delay_fed_by_NOT_of_its_own_output_ticks()
    {
        ControllerEngine engine = Engine(With(1, [Make("delay", BlockKind.Ton, [("pt", 2)], ("in", new BlockSource("not"))), Make("not", BlockKind.Not, [], ("in", new BlockSource("delay")))], "delay"));
        long start = At(2026, 4, 15, 12, 0);
        Assert.Equal("00100010001", string.Concat(Enumerable.Range(0, 11).Select(s => Fan(engine, start + (s * 1000)))));
    }

    private static Project Oscillator() => With(1,
    [
        Make("hold", BlockKind.Tof, [("pt", 3)], ("in", new BlockSource("not"))),
        Make("rest", BlockKind.Ton, [("pt", 3)], ("in", new BlockSource("hold"))),
        Make("either", BlockKind.Or, [], ("in1", new BlockSource("rest")), ("in2", new BlockSource("rest"))),
        Make("not", BlockKind.Not, [], ("in", new BlockSource("either"))),
    ], "hold");

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void An_oscillator_goes_on_over_a_changed_program_and_a_restart(bool pause)
    {
        long start = At(2026, 4, 15, 12, 0);
        ControllerEngine straight = Engine(Oscillator()), broken = Engine(Oscillator());
        string expected = string.Concat(Enumerable.Range(0, 60).Select(s => Fan(straight, start + (s * 1000))));
        Assert.Contains("01", expected);
        Assert.Contains("10", expected);
        string seen = "";
        long off = 0;
        for (int s = 0; s < 60; s++)
        {
            if (s % 7 == 6)
            {
                ControllerEngine next = Engine(Oscillator());
                next.Recall(broken.Remember(), pause ? Resumption.AfterPause : Resumption.TakesOver);
                broken = next;
                // One scan's time is lost by switching off; the loop's state is not.
                if (pause) off += 86_400_000;
            }
            seen += Fan(broken, start + off + (s * 1000));
        }
        if (!pause) Assert.Equal(expected, seen);
        else Assert.InRange(Turns(seen), Turns(expected) - 2, Turns(expected));

        static int Turns(string text) => text.Zip(text.Skip(1)).Count(p => p.First != p.Second);
    }

    [Fact]
    public void A_fault_in_a_loop_ends_with_the_fault()
    {
        // The loop runs only while it is warm; AND lets the fault of the sensor into it.
        Project house = With(1,
        [
            Make("warm", BlockKind.Gt, [], ("in1", new PointSource(Temperature)), ("in2", new PointSource(Limit))),
            Make("delay", BlockKind.Ton, [("pt", 2)], ("in", new BlockSource("and"))),
            Make("not", BlockKind.Not, [], ("in", new BlockSource("delay"))),
            Make("and", BlockKind.And, [], ("in1", new BlockSource("warm")), ("in2", new BlockSource("not"))),
        ], "delay");
        ControllerEngine engine = Engine(house);
        long now = At(2026, 4, 15, 12, 0);
        string Run(int scans, double ohms) => string.Concat(Enumerable.Range(0, scans).Select(_ =>
        {
            engine.RawInputs[0] = ohms;
            return Fan(engine, now += 1000);
        }));
        Assert.Contains("1", Run(6, 1150));
        Run(5, 100_000);
        Assert.Contains("1", Run(6, 1150));
    }

    [Fact]
    public void Logic_that_reads_its_own_output_keeps_it_over_a_restart()
    {
        // Sealed in: on at 29 °C, and then for as long as the output itself is on.
        Project house = With(1,
        [
            Make("start", BlockKind.Gt, [], ("in1", new PointSource(Temperature)), ("in2", new PointSource(Limit))),
            Make("seal", BlockKind.Or, [], ("in1", new BlockSource("start")), ("in2", new PointSource(FanCommand))),
        ], "seal");
        ControllerEngine engine = Engine(house);
        long now = At(2026, 4, 15, 12, 0);
        engine.ScanAt(now, 30);
        engine.ScanAt(now + 1000, 20);
        Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
        foreach (bool pause in new[] { false, true })
        {
            ControllerEngine next = Engine(house);
            next.Recall(engine.Remember(), pause ? Resumption.AfterPause : Resumption.TakesOver);
            (engine, now) = (next, now + 5000);
            engine.ScanAt(now, 20);
            Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
        }
    }

    /// <summary>Time in which a controller is off is no time: any chain of blocks with memory does the same with pauses as without.</summary>
    [Property(MaxTest = 40)]
    public Property A_pause_is_no_time_passed() => Prop.ForAll(Gen.Choose(0, int.MaxValue).ToArbitrary(), seed =>
    {
        var random = new Random(seed);
        BlockKind[] kinds = [BlockKind.Ton, BlockKind.Tof, BlockKind.Tp, BlockKind.MinimumTimes];
        var blocks = new List<Block> { Make("b0", BlockKind.TwoPosition, [("differential", 0.5)], ("measured", new PointSource(Temperature)), ("limit", new PointSource(Limit))) with { Choices = new Dictionary<string, string> { ["idle"] = "off" } } };
        for (int n = 1 + random.Next(5); n > 0; n--)
        {
            BlockKind kind = kinds[random.Next(kinds.Length)];
            (string, double)[] numbers = kind switch { BlockKind.MinimumTimes => [("minOn", random.Next(1, 60)), ("minOff", random.Next(1, 60))], _ => [("pt", random.Next(1, 60))] };
            blocks.Add(Make($"b{blocks.Count}", kind, numbers, ("in", new BlockSource($"b{blocks.Count - 1}"))));
        }
        Project house = With(1, [.. blocks], $"b{blocks.Count - 1}");
        ControllerEngine straight = Engine(house), paused = Engine(house);
        long now = At(2026, 4, 15, 12, 0), off = 0;
        for (int s = 0; s < 600; s++)
        {
            if (s > 0 && random.Next(40) == 0)
            {
                ControllerEngine next = Engine(house);
                next.Recall(paused.Remember(), Resumption.AfterPause);
                paused = next;
                off += random.Next(1, 1_000_000);
                // The scan after a pause repeats the moment before it.
                paused.RawInputs[0] = straight.RawInputs[0];
                paused.Scan(now + off);
            }
            now += 1000;
            double celsius = 29 + (random.NextDouble() * 3) - 1.5;
            straight.ScanAt(now, celsius);
            paused.ScanAt(now + off, celsius);
            if (straight.Read(FanCommand)!.Value.Value != paused.Read(FanCommand)!.Value.Value) return false;
        }
        return true;
    });

    [Fact]
    public void A_loop_does_not_jump_when_its_controller_was_off()
    {
        var pid = Make("pid", BlockKind.Pid, [("gain", 10), ("ti", 600)], ("measured", new PointSource(Temperature)), ("setpoint", new PointSource(Limit)));
        Project house = Accept(Project(), new Sequence { Id = new("loop"), Name = "Loop", EquipmentId = KilnRoom.Fan, ControllerId = KilnRoom.Controller, Blocks = [pid] });
        ControllerEngine engine = Engine(house);
        long now = At(2026, 4, 15, 12, 0);
        for (int s = 0; s < 50; s++) engine.ScanAt(now += 1000, 28);
        double before = engine.SourceOfPin(new("loop"), "pid", "out")!.Read().Value;
        ControllerEngine next = Engine(house);
        next.Recall(engine.Remember(), Resumption.AfterPause);
        next.ScanAt(now + 86_400_000, 28);
        Assert.Equal(before, next.SourceOfPin(new("loop"), "pid", "out")!.Read().Value, 1e-9);
        next.ScanAt(now + 86_401_000, 28);
        // One second: 10 % ÷ 600 s.
        Assert.Equal(before + (10 / 600.0), next.SourceOfPin(new("loop"), "pid", "out")!.Read().Value, 1e-9);
    }

    private static char Fan(ControllerEngine engine, long now)
    {
        if (double.IsNaN(engine.RawInputs[0])) engine.RawInputs[0] = 1000;
        engine.Scan(now);
        return engine.Read(FanCommand) is { IsUsable: true, Value: 1 } ? '1' : '0';
    }
}
