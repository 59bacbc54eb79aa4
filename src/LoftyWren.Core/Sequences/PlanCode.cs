using System.Collections.Concurrent;
using System.Globalization;
using System.Linq.Expressions;
using System.Reflection;
using System.Text;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Sequences;

/// <summary>Calculates all steps of one shape of plan once: the controller's readings and which of them to take up, slots, memory cells, number settings, room for inputs, site time in s.</summary>
internal delegate void PlanBody(PinValue[] readings, int[] sources, PinValue[] slots, double[] memory, double[] numbers, PinValue[] inputs, double now);

/// <summary>
/// Machine code for plans. Plans of one shape (the same steps on the same slots; numbers may differ) share one piece of
/// code, so that a building of a thousand like fan-coils compiles theirs once.
/// </summary>
internal static class PlanCode
{
    private const int MostShapes = 4000;
    private static readonly ConcurrentDictionary<string, PlanBody> ByShape = new();
    private static readonly ConstructorInfo MakeValue = typeof(PinValue).GetConstructor([typeof(double), typeof(StatusFlags)])!;
    private static readonly Dictionary<BlockKind, MethodInfo> Methods = Enum.GetValues<BlockKind>().ToDictionary(k => k, k => typeof(BlockMath).GetMethod(k.ToString()) ?? throw new InvalidOperationException($"No method calculates {k}."));

    /// <summary>The code for a plan's steps.</summary>
    public static PlanBody For(Plan plan)
    {
        if (ByShape.Count > MostShapes) ByShape.Clear();
        return ByShape.GetOrAdd(ShapeOf(plan), _ => Compile(plan));
    }

    /// <summary>Whether a load's slot is looked at after the scan: only by a claim that takes it as it is.</summary>
    private static bool IsSeen(Plan plan, Load load) => plan.Claims.Any(c => c.Slot == load.Slot);

    private static string ShapeOf(Plan plan)
    {
        var text = new StringBuilder();
        foreach (Load load in plan.Loads) text.Append(load.Slot).Append(IsSeen(plan, load) ? '!' : '<');
        foreach (var (slot, _) in plan.Constants) text.Append(slot).Append('=');
        foreach (Feedback back in plan.Feedback.Values) text.Append(back.From).Append(back.Binary ? '@' : '~').Append(back.Slot);
        foreach (Step step in plan.Steps)
        {
            text.Append((int)step.Kind).Append('>').Append(step.Output).Append('m').Append(step.Memory).Append('n').Append(step.Number).Append('c').Append(step.Choices);
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

    private static PlanBody Compile(Plan plan)
    {
        ParameterExpression readings = Expression.Parameter(typeof(PinValue[])), sources = Expression.Parameter(typeof(int[])), slots = Expression.Parameter(typeof(PinValue[])), memory = Expression.Parameter(typeof(double[])), numbers = Expression.Parameter(typeof(double[])), inputs = Expression.Parameter(typeof(PinValue[])), now = Expression.Parameter(typeof(double));
        var body = new List<Expression>();
        // What an earlier step gave stays in a local of the code; a slot is read only where a feedback loop closes.
        var given = new Dictionary<int, ParameterExpression>();
        var constants = plan.Constants.Select(c => c.Slot).ToHashSet();
        void Give(int slot, Expression value, bool isSeen)
        {
            ParameterExpression local = Expression.Variable(typeof(PinValue));
            body.Add(Expression.Assign(local, value));
            if (isSeen) body.Add(Expression.Assign(Expression.ArrayAccess(slots, Expression.Constant(slot)), local));
            given[slot] = local;
        }
        for (int i = 0; i < plan.Loads.Length; i++)
            Give(plan.Loads[i].Slot, Expression.Call(Expression.ArrayIndex(readings, Expression.ArrayIndex(sources, Expression.Constant(i))), nameof(PinValue.Unalarmed), null), IsSeen(plan, plan.Loads[i]));
        foreach (Step step in plan.Steps)
        {
            BlockDefinition definition = BlockDefinition.Of(step.Kind);
            int count = 0;
            Expression Input(int i)
            {
                int operand = plan.Operands[step.FirstOperand + i];
                Expression slot = given.TryGetValue(operand, out ParameterExpression? local) ? local : Expression.ArrayIndex(slots, Expression.Constant(operand));
                // That a constant is well is known beforehand, and the machine need not ask.
                if (constants.Contains(operand)) slot = Expression.New(MakeValue, Expression.Property(slot, nameof(PinValue.Value)), Expression.Constant(StatusFlags.None));
                var (factor, offset) = plan.Conversions[step.FirstOperand + i];
                return factor == 1 && offset == 0 ? slot : Expression.Call(slot, nameof(PinValue.Converted), null, Expression.Constant(factor), Expression.Constant(offset));
            }
            bool IsConnected(int i) => plan.Operands[step.FirstOperand + i] != 0;
            int PinOf(string name) => definition.Inputs.TakeWhile(p => p.Name != name).Count();
            MethodInfo method = Methods[step.Kind];
            ParameterInfo[] parameters = method.GetParameters();
            if (parameters[0].Name == "inputs")
            {
                for (int i = 0; i < step.OperandCount; i++)
                {
                    if (IsConnected(i)) body.Add(Expression.Assign(Expression.ArrayAccess(inputs, Expression.Constant(count++)), Input(i)));
                }
            }
            Expression Argument(ParameterInfo parameter)
            {
                string name = parameter.Name!;
                if (name == "inputs") return inputs;
                if (name == "count") return Expression.Constant(count);
                if (name == "now") return now;
                if (name == "cell") return Expression.ArrayAccess(memory, Expression.Constant(step.Memory));
                if (name == "second") return Expression.ArrayAccess(slots, Expression.Constant(step.Output + 1));
                if (parameter.ParameterType == typeof(PinValue)) return Input(PinOf(name));
                if (parameter.ParameterType == typeof(double)) return Expression.ArrayIndex(numbers, Expression.Constant(step.Number + definition.Numbers.TakeWhile(n => n.Name != name).Count()));
                if (name.EndsWith("Connected", StringComparison.Ordinal)) return Expression.Constant(IsConnected(PinOf(name[..^"Connected".Length])));
                return Expression.Constant((step.Choices & (1 << definition.Choices.TakeWhile(c => c.Name != name).Count())) != 0);
            }
            Give(step.Output, Expression.Call(method, parameters.Select(Argument)), true);
        }
        foreach (Feedback back in plan.Feedback.Values)
        {
            Expression slot = Expression.ArrayAccess(slots, Expression.Constant(back.Slot));
            Expression from = given.TryGetValue(back.From, out ParameterExpression? local) ? local : Expression.ArrayIndex(slots, Expression.Constant(back.From));
            body.Add(Expression.Assign(slot, Expression.Call(typeof(BlockMath), nameof(BlockMath.Carried), null, from, slot, Expression.Constant(back.Binary))));
        }
        if (body.Count == 0) return (_, _, _, _, _, _, _) => { };
        return Expression.Lambda<PlanBody>(Expression.Block(typeof(void), given.Values, body), readings, sources, slots, memory, numbers, inputs, now).Compile();
    }
}
