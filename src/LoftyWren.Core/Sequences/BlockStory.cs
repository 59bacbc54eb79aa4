using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Sequences;

/// <summary>
/// What comes to a block in the chart of its help: the first number rises from <paramref name="Low"/> to <paramref name="High"/>
/// and falls again, others stand in the middle; contacts close and open. All in <paramref name="Unit"/>.
/// </summary>
public sealed record BlockExample(string Unit, double Low, double High)
{
    /// <summary>In place of a unit: a value whose states have names.</summary>
    public const string Named = "states";

    /// <summary>Whether its numbers are whole.</summary>
    public bool IsWhole { get; init; }

    /// <summary>Whether its first input is in fault for a while.</summary>
    public bool Fails { get; init; }

    /// <summary>Inputs that are otherwise: in another unit, from one value to another.</summary>
    public IReadOnlyList<(string Pin, string Unit, double From, double To)> Others { get; init; } = [];
}

/// <summary>A pin through a story: what it carried at even steps of time, null where it said nothing.</summary>
public sealed record StoryLine(string Pin, string Label, bool IsInput, bool IsBinary, string? Unit, IReadOnlyList<double?> Values);

/// <summary>What a block makes of an example over so many seconds.</summary>
public sealed record BlockStory(double Seconds, IReadOnlyList<StoryLine> Lines)
{
    private const int Steps = 160;
    private const double ShortestTime = 60, LengthsOfTime = 5.5;

    // When contacts are closed, in shares of the story: the first one, the second, and all others.
    private static readonly (double From, double To)[][] Closed = [[(0.06, 0.42), (0.55, 0.6), (0.72, 0.94)], [(0.3, 0.5), (0.86, 0.9)], [(0.2, 0.58)]];
    private static readonly (double From, double To) Failing = (0.3, 0.42);

    /// <summary>Lives the example of a block's kind with the block's own settings.</summary>
    public static BlockStory Of(Block block)
    {
        BlockType type = BlockType.Of(block.Kind);
        double longest = type.Numbers.Where(n => n.Unit is "s" or "min" or "h").Select(n => type.Number(block, n.Name) * (Units.Unit.Find(n.Unit)!.To(Units.Unit.Find("s")!)!.Value.Factor)).DefaultIfEmpty(0).Max();
        double seconds = Math.Max(ShortestTime, longest * LengthsOfTime);
        Pin[] pins = [.. type.Inputs.Where(p => p.Required || type.Example.Others.Any(o => o.Pin == p.Name))];
        Point[] points = [.. pins.Select((p, i) => PointOf(type, p, i))];
        Block shown = block with
        {
            Id = "b",
            Inputs = pins.Select((p, i) => (p.Name, Source: (Source)new PointSource(points[i].Id))).ToDictionary(x => x.Name, x => x.Source),
            Texts = type.Texts.Count == 0 ? null : type.Texts.ToDictionary(t => t.Name, t => t.Example),
            OutputUnit = Units.Unit.Find(block.OutputUnit)?.Symbol,
        };
        Project project = Project.Load(0, points.Select(p => new Entry(p, 0)));
        var sequence = new Sequence { Id = new("story"), Name = "story", EquipmentId = new("story"), Blocks = [shown] };
        Typing typing = Typing.Of(sequence, project);
        // A unit that was chosen for what the block is really fed may not go with the example.
        if (typing.Problems.Count > 0) typing = Typing.Of(sequence = sequence with { Blocks = [shown with { OutputUnit = null }] }, project);
        if (typing.Problems.Count > 0) return new BlockStory(seconds, []);
        var facts = Enum.GetValues<ControllerFact>();
        var (plan, _) = Compiler.Compile(sequence, project, id => Array.FindIndex(points, p => p.Id == id), other => other.Fact is { } fact ? points.Length + (int)fact : -1);
        PlanState state = plan.NewState();
        var readings = new PinValue[points.Length + facts.Length];
        var lines = pins.Select((p, i) => new StoryLine(p.Name, p.Label, true, points[i].Kind == PointKind.Binary, points[i].Unit, new double?[Steps]))
            .Concat(type.Outputs.Select(p => new StoryLine(p.Name, p.Label, false, typing.Outputs.GetValueOrDefault(("b", p.Name)).Binary, typing.Outputs.GetValueOrDefault(("b", p.Name)).Unit?.Symbol, new double?[Steps]))).ToList();
        for (int step = 0; step < Steps; step++)
        {
            double share = step / (double)(Steps - 1), now = share * seconds;
            int contacts = 0;
            bool isFirst = true;
            for (int i = 0; i < pins.Length; i++)
            {
                double value = points[i].Kind == PointKind.Binary ? Closed[Math.Min(contacts++, Closed.Length - 1)].Any(c => share >= c.From && share < c.To) ? 1 : 0 : Number(type.Example, pins[i].Name, share, ref isFirst);
                readings[i] = new PinValue(points[i].Kind == PointKind.Multistate || type.Example.IsWhole ? Math.Round(value) : value, StatusFlags.None);
                if (type.Example.Fails && i == 0 && share >= Failing.From && share < Failing.To) readings[i] = PinValue.Fault;
            }
            foreach (ControllerFact fact in facts)
                readings[points.Length + (int)fact] = new PinValue(fact switch { ControllerFact.StartCause => 4, ControllerFact.SinceStart => now, ControllerFact.TimeOfDay => now, _ => 1 }, StatusFlags.None);
            plan.Scan(state, readings, now);
            for (int i = 0; i < lines.Count; i++)
            {
                PinValue value = lines[i].IsInput ? readings[i] : state.Slots[plan.Pins[$"b.{lines[i].Pin}"]];
                ((double?[])lines[i].Values)[step] = value.IsUsable ? Shown(value.Value) : null;
            }
        }
        return new BlockStory(seconds, lines);
    }

    private static Point PointOf(BlockType type, Pin pin, int at)
    {
        string unit = type.Example.Others.Where(o => o.Pin == pin.Name).Select(o => o.Unit).FirstOrDefault() ?? type.Example.Unit;
        bool isNamed = unit == BlockExample.Named;
        PointKind kind = pin.Kind == PinKind.Binary ? PointKind.Binary : isNamed ? PointKind.Multistate : PointKind.Analog;
        return new Point
        {
            Id = new RecordId($"p{at}"),
            Name = pin.Label,
            OwnerId = new("story"),
            Kind = kind,
            Role = PointRole.Value,
            Unit = kind == PointKind.Analog && unit.Length > 0 ? unit : null,
            StateTexts = kind == PointKind.Binary ? ["off", "on"] : isNamed ? ["one", "two", "three"] : [],
        };
    }

    /// <summary>Up and down again for the first, from one value to the other where that is said, else the middle.</summary>
    private static double Number(BlockExample example, string pin, double share, ref bool isFirst)
    {
        double height = share < 0.45 ? share / 0.45 : Math.Max(0, (0.9 - share) / 0.45);
        foreach (var (name, _, from, to) in example.Others)
        {
            if (name == pin) return from + ((to - from) * share);
        }
        bool rises = isFirst;
        isFirst = false;
        return rises ? example.Low + ((example.High - example.Low) * height) : (example.Low + example.High) / 2;
    }

    // Four digits are more than a small chart shows.
    private static double Shown(double value) => value == 0 ? 0 : Math.Round(value, Math.Clamp(3 - (int)Math.Floor(Math.Log10(Math.Abs(value))), 0, 9));
}
