using System.Collections.Concurrent;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;
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

    /// <summary>The first of its numbers in <see cref="Plan.Numbers"/>: its number settings, then what its texts stand for.</summary>
    public int Number;

    /// <summary>The first of its tables in <see cref="Plan.Numbers"/>: each begins with how many rows it has, and each row is two numbers.</summary>
    public int Table;

    /// <summary>Its choices, <see cref="BitsPerChoice"/> bits each: the number of the option, from 0.</summary>
    public int Choices;

    /// <summary>Room for one choice.</summary>
    public const int BitsPerChoice = 4;
}

/// <summary>A value that is taken up first: from one of the controller's readings into a slot.</summary>
public readonly record struct Load(int Slot, int Source);

/// <summary>A line that closes a loop: after the scan, what the pin's slot gave goes into the slot that the next scan reads.</summary>
public readonly record struct Feedback(int From, int Slot, bool Binary);

/// <summary>A claim that is made after the scan.</summary>
public readonly record struct ClaimStep(int Slot, int Ladder, int Priority);

/// <summary>What a plan needs to remember between scans; apart from the plan, so that a changed program keeps what it may.</summary>
public sealed class PlanState
{
    internal PlanState(Plan plan)
    {
        Plan = plan;
        Slots = new PinValue[plan.Slots + plan.Beside];
        Memory = new double[plan.Cells];
    }

    /// <summary>The plan that it is of.</summary>
    public Plan Plan { get; }

    /// <summary>What every slot carries; behind them, room for the inputs of one step that takes any number of them.</summary>
    public PinValue[] Slots { get; }

    /// <summary>Memory cells of blocks.</summary>
    public double[] Memory { get; }
}

/// <summary>
/// A sequence compiled to flat arrays and, by <see cref="PlanCode"/>, to machine code that calculates them step by step. No allocation, no look-up and no text in a scan; the
/// same inputs and times always give the same outputs. Slot 0 is always released: where open inputs lead.
/// </summary>
public sealed class Plan
{
    private readonly PlanBody _body;
    private readonly nint[] _sources;
    private readonly int _readings;

    private const int MostShared = 20_000;
    private static readonly ConcurrentDictionary<string, Plan> ByContent = new();

    /// <summary>
    /// The plan that is like this one in all, if there is one already: a building of a thousand like fan-coils has one plan,
    /// which stays close at hand while one controller after the other is scanned.
    /// </summary>
    internal static Plan Shared(Plan plan)
    {
        var text = new StringBuilder(PlanCode.ShapeOf(plan));
        void Note<T>(char what, IEnumerable<T> all) => text.Append(what).AppendJoin(',', all);
        string Exact(double value) => BitConverter.DoubleToInt64Bits(value).ToString("x", CultureInfo.InvariantCulture);
        text.Append('S').Append(plan.Slots);
        Note('N', plan.Numbers.Select(Exact));
        Note('L', plan.Loads.Select(l => l.Source));
        Note('C', plan.Claims.Select(c => $"{c.Slot}>{c.Ladder}@{c.Priority}"));
        Note('K', plan.Constants.Select(c => $"{c.Slot}={Exact(c.Value)}"));
        Note('F', plan.Feedback.Select(f => $"{f.Key}:{f.Value.Slot}"));
        Note('P', plan.Pins.Select(p => $"{p.Key}:{p.Value}"));
        Note('M', plan.Memory.Select(m => $"{m.Key}:{m.Value.Cell}"));
        if (ByContent.Count > MostShared) ByContent.Clear();
        return ByContent.GetOrAdd(text.ToString(), plan);
    }

    internal Plan(Step[] steps, int[] operands, double[] numbers, (double Factor, double Offset)[] conversions, Load[] loads, ClaimStep[] claims, IReadOnlyDictionary<string, Feedback> feedback, (int Slot, double Value)[] constants, int slots, IReadOnlyDictionary<string, int> pins, IReadOnlyDictionary<string, (int Cell, BlockKind Kind)> memory, int cells)
    {
        Steps = steps;
        Operands = operands;
        Numbers = numbers;
        Conversions = conversions;
        Loads = loads;
        Claims = claims;
        Feedback = feedback;
        Constants = constants;
        Slots = slots;
        Pins = pins;
        Memory = memory;
        Cells = cells;
        _sources = [.. loads.Select(l => (nint)l.Source * Unsafe.SizeOf<PinValue>())];
        _readings = loads.Length == 0 ? 0 : loads.Max(l => l.Source) + 1;
        Beside = Steps.Select(s => PlanCode.TakesMany(s.Kind) ? s.OperandCount : 0).DefaultIfEmpty(0).Max();
        _body = PlanCode.For(this);
    }

    /// <summary>The steps in order of calculation.</summary>
    public Step[] Steps { get; }

    /// <summary>Input slots of all steps, one after the other.</summary>
    public int[] Operands { get; }

    /// <summary>Number settings of all steps, what their texts stand for, and their tables.</summary>
    public double[] Numbers { get; }

    /// <summary>For each operand, the conversion on its line.</summary>
    public (double Factor, double Offset)[] Conversions { get; }

    /// <summary>What is read first.</summary>
    public Load[] Loads { get; }

    /// <summary>What is claimed last.</summary>
    public ClaimStep[] Claims { get; }

    /// <summary>What closes loops, by <c>block.pin</c>.</summary>
    public IReadOnlyDictionary<string, Feedback> Feedback { get; }

    /// <summary>Slots with a fixed value.</summary>
    public (int Slot, double Value)[] Constants { get; }

    /// <summary>How many slots there are.</summary>
    public int Slots { get; }

    /// <summary>Room behind the slots for the inputs of one step that takes any number of them.</summary>
    internal int Beside { get; }

    /// <summary>The slot of each output pin, by <c>block.pin</c>.</summary>
    public IReadOnlyDictionary<string, int> Pins { get; }

    /// <summary>The memory of each block, by block id.</summary>
    public IReadOnlyDictionary<string, (int Cell, BlockKind Kind)> Memory { get; }

    /// <summary>How many memory cells there are.</summary>
    public int Cells { get; }

    /// <summary>A fresh state: nothing said, nothing remembered, and lines that close a loop off or 0.</summary>
    public PlanState NewState()
    {
        var state = new PlanState(this);
        Array.Fill(state.Slots, PinValue.Released);
        Array.Fill(state.Memory, double.NaN);
        foreach (var (slot, value) in Constants) state.Slots[slot] = new PinValue(value, StatusFlags.None);
        foreach (Feedback feedback in Feedback.Values) state.Slots[feedback.Slot] = new PinValue(0, StatusFlags.None);
        return state;
    }

    /// <summary>
    /// Calculates every step once from the controller's readings, of which a usable one is a finite number; <paramref name="now"/>
    /// is in seconds and counts only while the controller runs.
    /// </summary>
    /// <exception cref="ArgumentException">The state is of another plan, or readings are missing.</exception>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public void Scan(PlanState state, PinValue[] readings, double now)
    {
        // The code asks no array for its length; that all are long enough is known here.
        if (state.Plan != this || readings.Length < _readings) Refuse();
        _body(ref MemoryMarshal.GetArrayDataReference(readings), ref MemoryMarshal.GetArrayDataReference(_sources), ref MemoryMarshal.GetArrayDataReference(state.Slots), ref MemoryMarshal.GetArrayDataReference(state.Memory), ref MemoryMarshal.GetArrayDataReference(Numbers), now);
    }

    private static void Refuse() => throw new ArgumentException("These readings or this state are not of this plan.");
}
