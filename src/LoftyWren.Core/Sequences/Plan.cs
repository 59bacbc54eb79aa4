using LoftyWren.Core.Status;

namespace LoftyWren.Core.Sequences;

/// <summary>One step of a plan. All fields are indices into the plan's arrays; what they mean depends on the kind.</summary>
public struct Step
{
    /// <summary>The block's kind.</summary>
    public BlockKind Kind;

    /// <summary>Where its input slots begin in <see cref="Plan.Operands"/>, and how many there are.</summary>
    public int FirstOperand, OperandCount;

    /// <summary>The first of its output slots.</summary>
    public int Output;

    /// <summary>The first of its memory cells in <see cref="PlanState.Memory"/>.</summary>
    public int Memory;

    /// <summary>The first of its numbers in <see cref="Plan.Numbers"/>.</summary>
    public int Number;

    /// <summary>Its choices, one bit each; set when not the first option.</summary>
    public int Choices;
}

/// <summary>A value that is read before the scan: from a point or a schedule of the controller, converted on the way.</summary>
public readonly record struct Load(int Slot, int Source, bool IsSchedule);

/// <summary>A claim that is made after the scan.</summary>
public readonly record struct ClaimStep(int Slot, int Ladder, int Priority);

/// <summary>What a plan needs to remember between scans; apart from the plan, so that a changed program keeps what it may.</summary>
public sealed class PlanState(int slots, int cells)
{
    /// <summary>The value of every slot.</summary>
    public double[] Values { get; } = new double[slots];

    /// <summary>The status of every slot.</summary>
    public StatusFlags[] Status { get; } = new StatusFlags[slots];

    /// <summary>Memory cells of blocks.</summary>
    public double[] Memory { get; } = new double[cells];
}

/// <summary>
/// A sequence compiled to flat arrays, calculated step by step. No allocation, no look-up and no text in a scan; the
/// same inputs and times always give the same outputs. Slot 0 is always released: where open inputs lead.
/// </summary>
public sealed class Plan
{
    /// <summary>Memory cells that every block has.</summary>
    public const int CellsPerBlock = 4;

    internal Plan(Step[] steps, int[] operands, double[] numbers, (double Factor, double Offset)[] conversions, Load[] loads, ClaimStep[] claims, (int Slot, double Value)[] constants, int slots, IReadOnlyDictionary<string, int> pins, IReadOnlyDictionary<string, (int Cell, BlockKind Kind)> memory)
    {
        Steps = steps;
        Operands = operands;
        Numbers = numbers;
        Conversions = conversions;
        Loads = loads;
        Claims = claims;
        Constants = constants;
        Slots = slots;
        Pins = pins;
        Memory = memory;
    }

    /// <summary>The steps in order of calculation.</summary>
    public Step[] Steps { get; }

    /// <summary>Input slots of all steps, one after the other.</summary>
    public int[] Operands { get; }

    /// <summary>Number settings of all steps.</summary>
    public double[] Numbers { get; }

    /// <summary>For each operand, the conversion on its line.</summary>
    public (double Factor, double Offset)[] Conversions { get; }

    /// <summary>What is read first.</summary>
    public Load[] Loads { get; }

    /// <summary>What is claimed last.</summary>
    public ClaimStep[] Claims { get; }

    /// <summary>Slots with a fixed value.</summary>
    public (int Slot, double Value)[] Constants { get; }

    /// <summary>How many slots there are.</summary>
    public int Slots { get; }

    /// <summary>The slot of each output pin, by <c>block.pin</c>.</summary>
    public IReadOnlyDictionary<string, int> Pins { get; }

    /// <summary>The memory of each block, by block id.</summary>
    public IReadOnlyDictionary<string, (int Cell, BlockKind Kind)> Memory { get; }

    /// <summary>A fresh state; with what an earlier program remembered wherever block identity and kind are the same.</summary>
    public PlanState NewState(Plan? earlier = null, PlanState? remembered = null)
    {
        var state = new PlanState(Slots, Steps.Length * CellsPerBlock);
        Array.Fill(state.Values, double.NaN);
        Array.Fill(state.Status, StatusFlags.Released);
        Array.Fill(state.Memory, double.NaN);
        foreach (var (slot, value) in Constants)
        {
            state.Values[slot] = value;
            state.Status[slot] = StatusFlags.None;
        }
        if (earlier is null || remembered is null) return state;
        foreach (var (block, (cell, kind)) in Memory)
        {
            if (earlier.Memory.TryGetValue(block, out var old) && old.Kind == kind)
                Array.Copy(remembered.Memory, old.Cell, state.Memory, cell, CellsPerBlock);
        }
        foreach (var (pin, slot) in Pins)
        {
            if (!earlier.Pins.TryGetValue(pin, out int old)) continue;
            state.Values[slot] = remembered.Values[old];
            state.Status[slot] = remembered.Status[old];
        }
        return state;
    }

    /// <summary>Calculates every step once. Loads must have been put into the state; <paramref name="now"/> is site time in seconds.</summary>
    public void Scan(PlanState state, double now)
    {
        double[] values = state.Values;
        StatusFlags[] status = state.Status;
        for (int i = 0; i < Steps.Length; i++)
        {
            ref readonly Step step = ref Steps[i];
            var context = new StepContext(this, state, in step, now);
            (values[step.Output], status[step.Output]) = BlockMath.Calculate(ref context);
        }
    }
}

/// <summary>One step's view of its inputs, settings and memory while it is calculated.</summary>
internal ref struct StepContext(Plan plan, PlanState state, ref readonly Step step, double now)
{
    private readonly ref readonly Step _step = ref step;

    public readonly double Now => now;

    public readonly int Count => _step.OperandCount;

    public readonly BlockKind Kind => _step.Kind;

    public readonly bool IsConnected(int i) => plan.Operands[_step.FirstOperand + i] != 0;

    public readonly StatusFlags Status(int i) => state.Status[plan.Operands[_step.FirstOperand + i]];

    public readonly bool IsUsable(int i) => (Status(i) & (StatusFlags.Fault | StatusFlags.Released)) == 0;

    public readonly double Value(int i)
    {
        int at = _step.FirstOperand + i;
        ref readonly var conversion = ref plan.Conversions[at];
        return (state.Values[plan.Operands[at]] * conversion.Factor) + conversion.Offset;
    }

    public readonly bool IsTrue(int i) => state.Values[plan.Operands[_step.FirstOperand + i]] > 0.5;

    public readonly double Number(int i) => plan.Numbers[_step.Number + i];

    public readonly bool IsOther(int choice) => (_step.Choices & (1 << choice)) != 0;

    public readonly ref double Cell(int i) => ref state.Memory[_step.Memory + i];

    public readonly void SetSecondOutput(double value, StatusFlags status)
    {
        state.Values[_step.Output + 1] = value;
        state.Status[_step.Output + 1] = status;
    }

    /// <summary>The common rule over the first so many inputs: fault before released; other marks are passed on.</summary>
    public readonly StatusFlags Common(int count)
    {
        StatusFlags all = StatusFlags.None;
        for (int i = 0; i < count; i++) all |= Status(i);
        return Settle(all);
    }

    public static StatusFlags Settle(StatusFlags all)
    {
        if ((all & StatusFlags.Fault) != 0) return StatusFlags.Fault;
        return (all & StatusFlags.Released) != 0 ? StatusFlags.Released : all & (StatusFlags.Stale | StatusFlags.Overridden);
    }
}
