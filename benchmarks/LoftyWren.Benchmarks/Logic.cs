using System.Diagnostics;
using System.Runtime.CompilerServices;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Benchmarks;

/// <summary>Chains of one kind of block each, and what a programmer would write for them, statuses included.</summary>
internal static class Logic
{
    private const int Length = 32, Scans = 20_000;
    private const StatusFlags Unusable = StatusFlags.Fault | StatusFlags.Released, Marks = StatusFlags.Stale | StatusFlags.Overridden;

    /// <summary>A family: a chain of 32 of its blocks, compiled, and the same by hand.</summary>
    public sealed record Family(string Name, Action Ours, Action Peer);

    /// <summary>One chain for each family of blocks of which a hand-written peer says something.</summary>
    public static IEnumerable<Family> Families()
    {
        yield return Of("Logic: AND", BlockKind.And, (pin, before) => pin == "in1" ? before : new ScheduleSource(new("hours")), static (PinValue before, PinValue[] r, ref Memory _, double _) => And(before, r[2]), isBinary: true);
        yield return Of("Arithmetic: add", BlockKind.Add, (pin, before) => pin == "in1" ? before : new ConstantSource(0.5, "K"), static (PinValue before, PinValue[] _, ref Memory _, double _) => (before.Status & Unusable) != 0 ? new(double.NaN, before.Status & Unusable) : new(before.Value + 0.5, before.Status & Marks));
        yield return Of("Select: choose", BlockKind.Sel, (pin, before) => pin == "in1" ? before : pin == "g" ? new ScheduleSource(new("hours")) : new ConstantSource(16, "°C"), static (PinValue before, PinValue[] r, ref Memory _, double _) => (r[2].Status & Unusable) != 0 ? new(double.NaN, r[2].Status & Unusable) : r[2].Value > 0.5 ? before with { Status = before.Status & (Unusable | Marks) } : new(16, r[2].Status & Marks));
        yield return Of("Time: on delay", BlockKind.Ton, (_, before) => before, static (PinValue before, PinValue[] _, ref Memory memory, double now) => memory.Delay(before, now, 60), isBinary: true);
        yield return Of("Control: PID", BlockKind.Pid, (pin, before) => pin == "setpoint" ? new PointSource(new("s0")) : new PointSource(new("t0")), static (PinValue _, PinValue[] r, ref Memory memory, double now) => memory.Loop(r[0], r[1], now));
    }

    private delegate PinValue ByHand(PinValue before, PinValue[] readings, ref Memory memory, double now);

    /// <summary>What a block written by hand would remember.</summary>
    private struct Memory
    {
        private double _since, _integral, _last, _gain;

        public PinValue Delay(PinValue input, double now, double seconds)
        {
            if ((input.Status & Unusable) != 0) return new(double.NaN, input.Status & Unusable);
            if (input.Value <= 0.5)
            {
                _since = 0;
                return new(0, input.Status & Marks);
            }
            if (_since == 0) _since = now;
            return new(now - _since >= seconds ? 1 : 0, input.Status & Marks);
        }

        public PinValue Loop(PinValue measured, PinValue setpoint, double now)
        {
            StatusFlags status = measured.Status | setpoint.Status;
            if ((status & Unusable) != 0)
            {
                _last = 0;
                return new(double.NaN, status & Unusable);
            }
            double proportional = 10 * (setpoint.Value - measured.Value), passed = _last == 0 ? 0 : now - _last;
            if (_gain != 10) _gain = 10;
            double grown = _integral + (proportional * passed / 600);
            if (proportional + grown > 100 && grown > _integral) grown = Math.Max(_integral, Math.Min(grown, Math.Max(0, 100 - proportional)));
            else if (proportional + grown < 0 && grown < _integral) grown = Math.Min(_integral, Math.Max(grown, Math.Min(0, -proportional)));
            (_integral, _last) = (grown, now);
            return new(Math.Clamp(proportional + grown, 0, 100), status & Marks);
        }
    }

    private static PinValue And(PinValue one, PinValue two)
    {
        // Off decides, whatever the other is.
        if ((one.Status & Unusable) == 0 && one.Value <= 0.5) return new(0, one.Status & Marks);
        if ((two.Status & Unusable) == 0 && two.Value <= 0.5) return new(0, two.Status & Marks);
        StatusFlags both = one.Status | two.Status;
        return (both & Unusable) != 0 ? new(double.NaN, both & Unusable) : new(1, both & Marks);
    }

    private static Family Of(string name, BlockKind kind, Func<string, Source, Source> feed, ByHand hand, bool isBinary = false)
    {
        Sequence sequence = Chain(kind, Length, feed, isBinary ? new ScheduleSource(new("hours")) : new PointSource(new("t0")));
        var (plan, _) = Compiler.Compile(sequence, Generator.Make(12), id => id.Value[0] == 't' ? 0 : id.Value[0] == 's' ? 1 : 3, _ => 2);
        PlanState state = plan.NewState();
        int last = plan.Pins[$"b{Length - 1}.{BlockType.Of(kind).Outputs[0].Name}"];
        PinValue[] readings = [new(19.5, StatusFlags.None), new(20.5, StatusFlags.None), new(1, StatusFlags.None)];
        double now = 0, later = 0, sink = 0;
        var memory = new Memory[Length];
        void Ours()
        {
            for (int i = 0; i < Scans; i++)
            {
                plan.Scan(state, readings, now += 1);
                sink += state.Slots[last].Value;
            }
        }
        void Peer()
        {
            for (int i = 0; i < Scans; i++) sink += Run(hand, isBinary, readings, memory, later += 1).Value;
        }
        return new Family(name, Ours, Peer);
    }

    [MethodImpl(MethodImplOptions.NoInlining)]
    private static PinValue Run(ByHand hand, bool isBinary, PinValue[] readings, Memory[] memory, double now)
    {
        PinValue value = isBinary ? readings[2] : readings[0];
        for (int i = 0; i < memory.Length; i++) value = hand(value, readings, ref memory[i], now);
        return value;
    }

    private static Sequence Chain(BlockKind kind, int length, Func<string, Source, Source> feed, Source first)
    {
        var blocks = new List<Block>();
        for (int i = 0; i < length; i++)
        {
            Source before = i == 0 ? first : new BlockSource($"b{i - 1}");
            blocks.Add(new Block { Id = $"b{i}", Kind = kind, Inputs = BlockType.Of(kind).Inputs.Where(p => p.Required || p.Name is "in1" or "in2" or "in0" or "g").ToDictionary(p => p.Name, p => feed(p.Name, before)) });
        }
        return new Sequence { Id = new("chain"), Name = "Chain", EquipmentId = new("e0"), Blocks = blocks };
    }

    /// <summary>A chain of additions of a length, which has been compiled.</summary>
    public static object Compiled(int length) => Compiler.Compile(Chain(BlockKind.Add, length, (pin, before) => pin == "in1" ? before : new ConstantSource(0.5, "K"), new PointSource(new("t0"))), Twelve, id => id.Value[0] == 't' ? 0 : id.Value[0] == 's' ? 1 : 3, _ => 2);

    private static readonly Project Twelve = Generator.Make(12);

    /// <summary>A controller with 2,000 blocks, forty in each of fifty sequences, that runs a scan a second: how many times faster than real, and what it allocates in a scan.</summary>
    public static (double Times, double Allocated) Large()
    {
        Project project = Generator.Make(12);
        Controller controller = project.All<Controller>().First();
        Sequence[] sequences = [.. Enumerable.Range(0, 50).Select(i => Chain(BlockKind.Pid, 40, (pin, before) => pin == "setpoint" ? new PointSource(new("s0")) : new PointSource(new("t0")), new PointSource(new("t0"))) with { Id = new($"large-{i}"), ControllerId = controller.Id })];
        ControllerImage image = ControllerImage.Build(project, controller);
        var engine = new ControllerEngine(image with { Records = [.. image.Records, .. sequences] });
        long now = 1_776_150_000_000;
        for (int i = 0; i < 2000; i++) engine.Scan(now += 1000);
        long allocated = GC.GetAllocatedBytesForCurrentThread();
        var watch = Stopwatch.StartNew();
        int scans = 0;
        for (; watch.Elapsed.TotalSeconds < 2; scans++) engine.Scan(now += 1000);
        return (scans / watch.Elapsed.TotalSeconds, (GC.GetAllocatedBytesForCurrentThread() - allocated) / (double)scans);
    }

    /// <summary>All controllers of a project for a day, each by itself with nothing wired: how many times faster than real.</summary>
    public static double Day(Project project)
    {
        var engines = project.All<Controller>().Select(c => new ControllerEngine(ControllerImage.Build(project, c))).ToList();
        long begin = 1_776_150_000_000;
        foreach (ControllerEngine engine in engines) engine.Scan(begin);
        var watch = Stopwatch.StartNew();
        foreach (ControllerEngine engine in engines)
        {
            for (long now = begin; now < begin + 86_400_000; now = Math.Max(now + 1, engine.NextDue)) engine.Scan(now);
        }
        return 86_400 / watch.Elapsed.TotalSeconds;
    }

    /// <summary>All tests of a project's sequences: how many, how long that takes, and how long their stories are.</summary>
    public static (int Tests, double Seconds, double Lived) Suite(Project project)
    {
        var watch = Stopwatch.StartNew();
        int tests = 0;
        double lived = 0;
        foreach (Sequence sequence in project.All<Sequence>())
        {
            foreach (FunctionTest test in sequence.Tests.Where(t => t.On == TestGround.Alone))
            {
                Proof proof = ProofBench.Prove(project, sequence, test);
                if (!proof.Passed) throw new InvalidOperationException($"‘{test.Name}’ of ‘{sequence.Name}’ fails.");
                lived += proof.Steps[^1].AtSeconds;
                tests++;
            }
        }
        return (tests, watch.Elapsed.TotalSeconds, lived);
    }
}
