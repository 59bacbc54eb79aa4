using System.Collections.Concurrent;
using System.Globalization;
using System.Reflection;
using System.Reflection.Emit;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;

namespace LoftyWren.Core.Sequences;

/// <summary>
/// Calculates all steps of one shape of plan once. Each reference is the first of an array whose length the caller has
/// checked: the controller's readings, where in bytes those are that it takes up, the slots (with room for one step's inputs behind them),
/// the memory cells and the settings; then site time in s.
/// </summary>
internal delegate void PlanBody(ref PinValue readings, ref nint sources, ref PinValue slots, ref double memory, ref double numbers, double now);

/// <summary>
/// Machine code for plans. Plans of one shape (the same steps on the same slots; numbers may differ) share one piece of
/// code, so that a building of a thousand like fan-coils compiles theirs once.
/// </summary>
internal static class PlanCode
{
    private const int MostShapes = 4000;
    private static readonly ConcurrentDictionary<string, PlanBody> ByShape = new();
    private static readonly Type[] Families = [typeof(BlockMath), typeof(LogicMath), typeof(NumberMath), typeof(TimeMath), typeof(ControlMath), typeof(DriveMath), typeof(PlantMath), typeof(AirMath), typeof(ModeMath)];
    private static readonly Dictionary<BlockKind, MethodInfo> Methods = BlockType.All.Where(t => !t.IsShell).ToDictionary(t => t.Kind, Bound);
    private static readonly MethodInfo Heard = Of(typeof(BlockMath), nameof(BlockMath.Heard)), Well = Of(typeof(BlockMath), nameof(BlockMath.Well)), Convert = Of(typeof(BlockMath), nameof(BlockMath.Converted)), Carry = Of(typeof(BlockMath), nameof(BlockMath.Carried)), Open = typeof(PinValue).GetProperty(nameof(PinValue.Released))!.GetMethod!;
    private static readonly MethodInfo Rows = Of(typeof(MemoryMarshal), nameof(MemoryMarshal.CreateReadOnlySpan)).MakeGenericMethod(typeof(TableRow));
    private static readonly MethodInfo Cells = Of(typeof(MemoryMarshal), nameof(MemoryMarshal.CreateSpan)).MakeGenericMethod(typeof(double));
    private static readonly MethodInfo SideBySide = Of(typeof(MemoryMarshal), nameof(MemoryMarshal.CreateReadOnlySpan)).MakeGenericMethod(typeof(PinValue));

    /// <summary>The method that calculates a kind. Each of its parameters must be a pin, a setting, whether a pin is connected, or one of the few that all share: a name that binds to nothing would go unseen until somebody trusts it.</summary>
    private static MethodInfo Bound(BlockType type)
    {
        MethodInfo method = Families.Select(f => f.GetMethod(type.Kind.ToString())).FirstOrDefault(m => m is not null) ?? throw new InvalidOperationException($"No method calculates {type.Kind}.");
        foreach (ParameterInfo parameter in method.GetParameters())
        {
            string name = parameter.Name!;
            bool isBound = name is "inputs" or "pins" or "connected" or "now" or "cell" or "cells"
                || (parameter.ParameterType == typeof(PinValue) ? type.Inputs.Any(p => p.Name == name) || type.Facts.Any(f => NameOf(f) == name)
                    : parameter.ParameterType == typeof(PinValue).MakeByRefType() ? type.Outputs.Skip(1).Any(p => p.Name == name)
                    : parameter.ParameterType == typeof(ReadOnlySpan<TableRow>) ? type.Tables.Any(t => t.Name == name)
                    : parameter.ParameterType == typeof(double) ? type.Numbers.Any(n => n.Name == name) || type.Texts.Any(t => t.Name == name) || type.Derived.Any(d => d.Name == name)
                    : type.Choices.Any(c => c.Name == name) || type.Inputs.Any(p => $"{p.Name}Connected" == name));
            if (!isBound) throw new InvalidOperationException($"{type.Kind} is calculated with {name}, which is no pin and no setting of it.");
        }
        return method;
    }

    private static string NameOf(ControllerFact fact) => char.ToLowerInvariant(fact.ToString()[0]) + fact.ToString()[1..];

    /// <summary>Whether a kind takes its inputs laid side by side.</summary>
    public static bool TakesMany(BlockKind kind) => Methods[kind].GetParameters()[0].Name is "inputs" or "pins";

    /// <summary>The code for a plan's steps.</summary>
    public static PlanBody For(Plan plan)
    {
        if (ByShape.Count > MostShapes) ByShape.Clear();
        return ByShape.GetOrAdd(ShapeOf(plan), _ => Compile(plan));
    }

    /// <summary>Whether a load's slot is looked at after the scan: only by a claim that takes it as it is.</summary>
    private static bool IsSeen(Plan plan, Load load) => plan.Claims.Any(c => c.Slot == load.Slot);

    internal static string ShapeOf(Plan plan)
    {
        var text = new StringBuilder();
        foreach (Load load in plan.Loads) text.Append(load.Slot).Append(IsSeen(plan, load) ? '!' : '<');
        foreach (var (slot, _) in plan.Constants) text.Append(slot).Append('=');
        foreach (Feedback back in plan.Feedback.Values) text.Append(back.From).Append(back.Binary ? '@' : '~').Append(back.Slot);
        foreach (Step step in plan.Steps)
        {
            text.Append((int)step.Kind).Append('>').Append(step.Output).Append('m').Append(step.Memory).Append('n').Append(step.Number).Append('c').Append(step.Choices);
            foreach (int at in Tables(plan, step)) text.Append('t').Append(at).Append(':').Append(plan.Numbers[at]);
            for (int i = 0; i < step.OperandCount; i++)
            {
                var (factor, offset) = plan.Conversions[step.FirstOperand + i];
                text.Append(' ').Append(plan.Operands[step.FirstOperand + i]);
                if (factor != 1 || offset != 0) text.Append(CultureInfo.InvariantCulture, $"*{factor:R}+{offset:R}");
            }
            text.Append(';');
        }
        return text.ToString();
    }

    /// <summary>Where among a plan's numbers each table of a step begins.</summary>
    private static IEnumerable<int> Tables(Plan plan, Step step)
    {
        int at = step.Table;
        foreach (TableSetting _ in BlockType.Of(step.Kind).Tables)
        {
            yield return at;
            at += 1 + (2 * (int)plan.Numbers[at]);
        }
    }

    private static PlanBody Compile(Plan plan)
    {
        Type value = typeof(PinValue).MakeByRefType(), number = typeof(double).MakeByRefType();
        // Bound to an object, so that a call goes straight to the code.
        var method = new DynamicMethod("Plan", typeof(void), [typeof(object), value, typeof(nint).MakeByRefType(), value, number, number, typeof(double)], typeof(BlockMath).Module, skipVisibility: true);
        ILGenerator il = method.GetILGenerator();
        const int readings = 1, sources = 2, slots = 3, memory = 4, numbers = 5, now = 6;
        // What an earlier step gave stays in a local of the code; a slot is read only where a feedback loop closes.
        var given = new Dictionary<int, LocalBuilder>();
        var constants = plan.Constants.Select(c => c.Slot).ToHashSet();

        void At(int array, int index, int size)
        {
            il.Emit(OpCodes.Ldarg, array);
            if (index == 0) return;
            il.Emit(OpCodes.Ldc_I4, index * size);
            il.Emit(OpCodes.Conv_I);
            il.Emit(OpCodes.Add);
        }
        void Slot(int slot) => At(slots, slot, Unsafe.SizeOf<PinValue>());
        void Give(int slot, bool isSeen)
        {
            LocalBuilder local = given[slot] = il.DeclareLocal(typeof(PinValue));
            il.Emit(OpCodes.Stloc, local);
            if (!isSeen) return;
            Slot(slot);
            il.Emit(OpCodes.Ldloc, local);
            il.Emit(OpCodes.Stobj, typeof(PinValue));
        }
        void Take(int slot)
        {
            if (slot == 0)
            {
                il.Emit(OpCodes.Call, Open);
                return;
            }
            if (given.TryGetValue(slot, out LocalBuilder? local))
            {
                il.Emit(OpCodes.Ldloc, local);
                return;
            }
            Slot(slot);
            // That a constant is well is known beforehand, and the machine need not ask.
            if (constants.Contains(slot)) il.Emit(OpCodes.Call, Well);
            else il.Emit(OpCodes.Ldobj, typeof(PinValue));
        }

        for (int i = 0; i < plan.Loads.Length; i++)
        {
            il.Emit(OpCodes.Ldarg, readings);
            At(sources, i, Unsafe.SizeOf<nint>());
            il.Emit(OpCodes.Ldind_I);
            il.Emit(OpCodes.Add);
            il.Emit(OpCodes.Ldobj, typeof(PinValue));
            bool isSeen = IsSeen(plan, plan.Loads[i]);
            if (isSeen) il.Emit(OpCodes.Call, Heard);
            Give(plan.Loads[i].Slot, isSeen);
        }
        foreach (Step step in plan.Steps)
        {
            BlockType definition = BlockType.Of(step.Kind);
            void Input(int i)
            {
                Take(plan.Operands[step.FirstOperand + i]);
                var (factor, offset) = plan.Conversions[step.FirstOperand + i];
                if (factor == 1 && offset == 0) return;
                il.Emit(OpCodes.Ldc_R8, factor);
                il.Emit(OpCodes.Ldc_R8, offset);
                il.Emit(OpCodes.Call, Convert);
            }
            bool IsConnected(int i) => plan.Operands[step.FirstOperand + i] != 0;
            int PinOf(string name) => definition.Inputs.Select(p => p.Name).Concat(definition.Facts.Select(NameOf)).TakeWhile(n => n != name).Count();
            foreach (ParameterInfo parameter in Methods[step.Kind].GetParameters())
            {
                string name = parameter.Name!;
                if (name is "inputs" or "pins")
                {
                    int count = 0;
                    for (int i = 0; i < step.OperandCount; i++)
                    {
                        if (name == "inputs" && !IsConnected(i)) continue;
                        Slot(plan.Slots + count++);
                        Input(i);
                        il.Emit(OpCodes.Stobj, typeof(PinValue));
                    }
                    Slot(plan.Slots);
                    il.Emit(OpCodes.Ldc_I4, count);
                    il.Emit(OpCodes.Call, SideBySide);
                }
                else if (name == "connected") il.Emit(OpCodes.Ldc_I4, Enumerable.Range(0, definition.Inputs.Count).Where(IsConnected).Aggregate(0, (bits, i) => bits | (1 << i)));
                else if (name == "now") il.Emit(OpCodes.Ldarg, now);
                else if (name == "cell") At(memory, step.Memory, sizeof(double));
                else if (name == "cells")
                {
                    At(memory, step.Memory, sizeof(double));
                    il.Emit(OpCodes.Ldc_I4, definition.Cells);
                    il.Emit(OpCodes.Call, Cells);
                }
                else if (parameter.ParameterType == value) Slot(step.Output + definition.Outputs.TakeWhile(p => p.Name != name).Count());
                else if (parameter.ParameterType == typeof(PinValue)) Input(PinOf(name));
                else if (parameter.ParameterType == typeof(ReadOnlySpan<TableRow>))
                {
                    // A row is two numbers, and lies as such among the settings.
                    int at = Tables(plan, step).ElementAt(definition.Tables.TakeWhile(t => t.Name != name).Count());
                    At(numbers, at + 1, sizeof(double));
                    il.Emit(OpCodes.Ldc_I4, (int)plan.Numbers[at]);
                    il.Emit(OpCodes.Call, Rows);
                }
                else if (parameter.ParameterType == typeof(double))
                {
                    At(numbers, step.Number + definition.Numbers.Select(n => n.Name).Concat(definition.Texts.Select(t => t.Name)).Concat(definition.Derived.Select(d => d.Name)).TakeWhile(n => n != name).Count(), sizeof(double));
                    il.Emit(OpCodes.Ldind_R8);
                }
                else
                {
                    int answer = name.EndsWith("Connected", StringComparison.Ordinal)
                        ? IsConnected(PinOf(name[..^"Connected".Length])) ? 1 : 0
                        : (step.Choices >> (definition.Choices.TakeWhile(c => c.Name != name).Count() * Step.BitsPerChoice)) & ((1 << Step.BitsPerChoice) - 1);
                    il.Emit(OpCodes.Ldc_I4, parameter.ParameterType == typeof(bool) ? Math.Min(answer, 1) : answer);
                }
            }
            il.Emit(OpCodes.Call, Methods[step.Kind]);
            Give(step.Output, true);
        }
        foreach (Feedback back in plan.Feedback.Values)
        {
            Slot(back.Slot);
            Take(back.From);
            Take(back.Slot);
            il.Emit(back.Binary ? OpCodes.Ldc_I4_1 : OpCodes.Ldc_I4_0);
            il.Emit(OpCodes.Call, Carry);
            il.Emit(OpCodes.Stobj, typeof(PinValue));
        }
        il.Emit(OpCodes.Ret);
        return method.CreateDelegate<PlanBody>(method);
    }

    private static MethodInfo Of(Type type, string name) => type.GetMethod(name) ?? throw new InvalidOperationException($"{type.Name} has no {name}.");
}
