using LoftyWren.Core.Units;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Sequences;

/// <summary>What a plan takes up that is no point: a schedule's value, how long until it changes, or what the controller tells of itself.</summary>
public readonly record struct OtherReading(RecordId? ScheduleId, bool Ahead, ControllerFact? Fact);

/// <summary>Turns a sequence into a plan.</summary>
public static class Compiler
{
    /// <summary>
    /// Compiles. <paramref name="pointIndex"/> says where among the controller's readings each point is, and <paramref
    /// name="otherIndex"/> where each schedule, what is ahead of it, and what the controller tells of itself; −1 for none: such
    /// an input then stays released.
    /// </summary>
    /// <exception cref="InvalidOperationException">The sequence has type problems; change sets do not let such a one in.</exception>
    public static (Plan Plan, Typing Typing) Compile(Sequence sequence, Project project, Func<RecordId, int> pointIndex, Func<OtherReading, int> otherIndex)
    {
        Typing typing = Typing.Of(sequence, project);
        if (typing.Problems.Count > 0) throw new InvalidOperationException($"{sequence.Name}: {typing.Problems[0].Sentence}");
        int slots = 1;
        var pins = new Dictionary<string, int>();
        foreach (Block block in typing.Order)
        {
            foreach (Pin pin in BlockType.Of(block.Kind).Outputs) pins[$"{block.Id}.{pin.Name}"] = slots++;
        }
        var loads = new Dictionary<int, int>();
        var constants = new Dictionary<double, int>();
        var feedback = new Dictionary<string, Feedback>();
        var place = typing.Order.Select((b, i) => (b.Id, i)).ToDictionary(x => x.Id, x => x.i);
        int at = int.MaxValue;
        int SlotOf(Source? source)
        {
            switch (source)
            {
                case BlockSource block:
                    string pin = $"{block.BlockId}.{block.Pin}";
                    if (place[block.BlockId] < at) return pins[pin];
                    // Read before it is calculated: the line closes a loop.
                    if (!feedback.TryGetValue(pin, out Feedback back)) feedback[pin] = back = new Feedback(pins[pin], slots++, typing.Outputs.GetValueOrDefault((block.BlockId, block.Pin)).Binary);
                    return back.Slot;
                case ConstantSource constant:
                    if (!constants.TryGetValue(constant.Value, out int fixedSlot)) constants[constant.Value] = fixedSlot = slots++;
                    return fixedSlot;
                case PointSource p:
                    return Load(pointIndex(p.PointId));
                case ScheduleSource s:
                    return Load(otherIndex(new OtherReading(s.ScheduleId, s.Ahead, null)));
                default:
                    return 0;
            }
        }
        int Load(int index)
        {
            if (index < 0) return 0;
            if (!loads.TryGetValue(index, out int slot)) loads[index] = slot = slots++;
            return slot;
        }
        (double, double) ConversionOf(string blockId, string pin) =>
            typing.Conversions.TryGetValue((blockId, pin), out Conversion? c) ? (c.Factor, c.Offset) : (1, 0);

        var steps = new List<Step>();
        var operands = new List<int>();
        var conversions = new List<(double, double)>();
        var numbers = new List<double>();
        var memory = new Dictionary<string, (int, BlockKind)>();
        int cells = 0;
        foreach (Block block in typing.Order)
        {
            at = place[block.Id];
            BlockType definition = BlockType.Of(block.Kind);
            var step = new Step
            {
                Kind = block.Kind,
                FirstOperand = operands.Count,
                OperandCount = definition.Inputs.Count + definition.Facts.Count,
                Output = pins[$"{block.Id}.{definition.Outputs[0].Name}"],
                Memory = cells,
                Number = numbers.Count,
            };
            cells += definition.Cells;
            foreach (Pin pin in definition.Inputs)
            {
                operands.Add(SlotOf(block.Inputs.GetValueOrDefault(pin.Name)));
                conversions.Add(ConversionOf(block.Id, pin.Name));
            }
            foreach (ControllerFact fact in definition.Facts)
            {
                operands.Add(Load(otherIndex(new OtherReading(null, false, fact))));
                conversions.Add((1, 0));
            }
            numbers.AddRange(definition.Numbers.Select(n => definition.Number(block, n.Name)));
            numbers.AddRange(definition.Texts.Select(t => typing.TextNumber(block.Id, t.Name)));
            numbers.AddRange(definition.Derived.Select(d => typing.DerivedNumber(block.Id, d.Name)));
            step.Table = numbers.Count;
            foreach (var rows in definition.Tables.Select(t => definition.Table(block, t.Name)))
            {
                numbers.Add(rows.Count);
                numbers.AddRange(rows.SelectMany(r => new[] { r.X, r.Y }));
            }
            for (int i = 0; i < definition.Choices.Count; i++)
            {
                string chosen = definition.Choice(block, definition.Choices[i].Name);
                step.Choices |= definition.Choices[i].Options.TakeWhile(o => o.Value != chosen).Count() << (i * Step.BitsPerChoice);
            }
            memory[block.Id] = (step.Memory, block.Kind);
            steps.Add(step);
        }
        at = int.MaxValue;
        var claims = new List<ClaimStep>();
        foreach (OutputCommand command in typing.Plain.Commands)
        {
            int ladder = pointIndex(command.PointId);
            if (ladder < 0) continue;
            foreach (Claim claim in command.Claims)
            {
                int slot = SlotOf(claim.Source);
                string pin = $"{command.PointId}@{claim.Priority}";
                if (typing.Conversions.TryGetValue(("", pin), out Conversion? conversion))
                {
                    // A claim's conversion becomes a step of its own, so that claims stay plain copies.
                    steps.Add(new Step { Kind = BlockKind.Add, FirstOperand = operands.Count, OperandCount = 1, Output = slots, Memory = cells, Number = numbers.Count });
                    operands.Add(slot);
                    conversions.Add((conversion.Factor, conversion.Offset));
                    slot = slots++;
                }
                claims.Add(new ClaimStep(slot, ladder, claim.Priority));
            }
        }
        foreach (var ((block, pin), source) in typing.Taken) pins[$"{block}.{pin}"] = SlotOf(source);
        var plan = Plan.Shared(new Plan([.. steps], [.. operands], [.. numbers], [.. conversions],
            [.. loads.Select(l => new Load(l.Value, l.Key))], [.. claims], feedback,
            [.. constants.Select(c => (c.Value, c.Key))], slots, pins, memory, cells));
        return (plan, typing);
    }
}
