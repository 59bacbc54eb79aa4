using System.Text.Json.Serialization;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences;

/// <summary>One block of a sequence.</summary>
public sealed record Block
{
    /// <summary>Its identity within the sequence; state is kept over a changed program where it stays the same.</summary>
    public required string Id { get; init; }

    /// <summary>Its kind.</summary>
    public required BlockKind Kind { get; init; }

    /// <summary>What the engineer calls it, if the kind's name does not say enough.</summary>
    public string? Label { get; init; }

    /// <summary>Number settings that differ from the default, by name.</summary>
    public IReadOnlyDictionary<string, double> Numbers { get; init; } = new Dictionary<string, double>();

    /// <summary>Choices that differ from the default, by name.</summary>
    public IReadOnlyDictionary<string, string> Choices { get; init; } = new Dictionary<string, string>();

    /// <summary>Tables that differ from those it begins with, by name; missing where none does.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<TableRow>>? Tables { get; init; }

    /// <summary>Texts that are given, by name; missing where none is.</summary>
    public IReadOnlyDictionary<string, string>? Texts { get; init; }

    /// <summary>The unit of the output where the block leaves it open (scale, curve).</summary>
    public string? OutputUnit { get; init; }

    /// <summary>The modes and columns of a mode table; missing on other kinds.</summary>
    public ModeTable? Modes { get; init; }

    /// <summary>The mode table that it is, which begins with two modes; null for other kinds.</summary>
    [JsonIgnore]
    public ModeTable? Table => Kind == BlockKind.Modes ? Modes ?? ModeTable.Begin : null;

    /// <summary>What is inside an own block; missing on other kinds.</summary>
    public Part? Inside { get; init; }

    /// <summary>Sources by input pin; a pin that is missing is not connected.</summary>
    public IReadOnlyDictionary<string, Source> Inputs { get; init; } = new Dictionary<string, Source>();

    /// <summary>What to call it in a sentence.</summary>
    public string Called() => string.IsNullOrWhiteSpace(Label) ? BlockType.Of(this).Name : Label;

    /// <summary>How many plain blocks it is calculated in.</summary>
    [JsonIgnore]
    public int Calculated => Inside is { } part ? part.Blocks.Sum(b => b.Calculated) : 1 + (Table?.Columns.Count ?? 0);

    /// <summary>How many operations it takes: itself and each line to it; of what is inside, all that is there.</summary>
    [JsonIgnore]
    public int Operations => Inside is { } inner ? inner.Blocks.Sum(b => b.Operations) : Calculated + Inputs.Count;

    /// <summary>The block with what the references of its inputs, and of what is inside, come to.</summary>
    public Block Through(ReferenceMap map)
    {
        var inputs = map.Each(Inputs, source => source.Through(map));
        var inside = Inside is null ? null : map.Each(Inside.Blocks, block => block.Through(map));
        return ReferenceEquals(inputs, Inputs) && ReferenceEquals(inside, Inside?.Blocks) ? this : this with { Inputs = inputs, Inside = Inside is null ? null : Inside with { Blocks = inside! } };
    }

    /// <summary>What to call one of its outputs: its own name for the first, and which it is for the others.</summary>
    public string Says(string pin, BlockType? type = null) => (type ?? BlockType.Of(this)).Outputs is var outputs && outputs is [{ } first, ..] && first.Name == pin ? Called() : $"{Called()} · {outputs.FirstOrDefault(o => o.Name == pin)?.Label ?? pin}";
}

/// <summary>One claim of a sequence on an output: at a priority, from a source.</summary>
public sealed record Claim
{
    /// <summary>1 (strongest) to 16, ISO 16484-5, 19.2.</summary>
    public required int Priority { get; init; }

    /// <summary>What the ladder calls it.</summary>
    public string? Label { get; init; }

    /// <summary>What it says; missing until it is connected.</summary>
    public Source? Source { get; init; }
}

/// <summary>An output that a sequence commands, with its claims.</summary>
public sealed record OutputCommand
{
    /// <summary>The commanded point.</summary>
    public required RecordId PointId { get; init; }

    /// <summary>The claims of this sequence, at most one a priority.</summary>
    public IReadOnlyList<Claim> Claims { get; init; } = [];
}

/// <summary>The logic of one piece of equipment, run on a controller at a scan period.</summary>
public sealed record Sequence : ProjectRecord
{
    /// <summary>The most blocks of one sequence.</summary>
    public const int MostBlocks = 500;

    /// <summary>The most plain blocks that one sequence is calculated in.</summary>
    public const int MostCalculated = 2000;

    /// <summary>The priorities that only people use: 8 is the standard's manual operator.</summary>
    public const int ManualOperator = 8;

    /// <summary>The priorities that logic is given unless somebody chooses: every second one below the operators' first, so that others fit between.</summary>
    private static readonly int[] Offered = [10, 12, 14, 16, 9, 11, 13, 15, 7, 6, 5];

    /// <summary>A priority for one claim more beside those that are taken; null where none is left that logic should take.</summary>
    public static int? FreePriority(IEnumerable<int> taken) => taken.ToHashSet() is var held && Offered.Where(p => !held.Contains(p)).Take(1).ToList() is [var free] ? free : null;

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Sequence> AsKind { get; } = new("sequence")
    {
        Nouns = [new("sequence", "sequences") { NameTokens = NamePattern.AllFills, IsAlone = true }],
        RunsInImage = true,
        Grain = ConflictGrain.Part,
        Parts = [new("blocks", "id"), new("commands", "pointId", new("claims", "priority")), new("clauses", "id"), new("tests", "id")],
        TakesBack = (runs, design, _) => runs with { Clauses = design.Clauses, Tests = design.Tests },
        NeedsParts = [SoftwareParts.Logic],
        HasVariables = true,
        Begins = (id, name, owner) => owner is Equipment ? new Sequence { Id = id, Name = name, EquipmentId = owner.Id } : null,
        Checks = Findings.Checks.OnSequence,
        Fields =
        [
            FieldOf<Sequence>.Link<Controller>("controllerId", "Runs on", "controller", s => s.ControllerId, (s, v) => s with { ControllerId = v }, FieldUses.Grid | FieldUses.Form).Told("The controller that runs it; empty until one is chosen."),
            FieldOf<Sequence>.Span("scanSeconds", "Scan period", s => s.ScanSeconds, (s, v) => s with { ScanSeconds = v }, FieldUses.Grid | FieldUses.Form, "scan period in s").Told("The time from one pass through its blocks to the next.", 0.1, 3600),
        ],
    };

    /// <summary>The equipment whose logic it is.</summary>
    public required RecordId EquipmentId { get; init; }

    /// <summary>The controller it runs on; none until it is chosen.</summary>
    public RecordId? ControllerId { get; init; }

    /// <summary>How often it is calculated, in seconds.</summary>
    public double ScanSeconds { get; init; } = 1;

    /// <summary>The paragraphs of the specification that it must meet, in order.</summary>
    public IReadOnlyList<Clause> Clauses { get; init; } = [];

    /// <summary>The tests that prove it, in order.</summary>
    [Most(100)]
    public IReadOnlyList<FunctionTest> Tests { get; init; } = [];

    /// <summary>Its blocks.</summary>
    public IReadOnlyList<Block> Blocks { get; init; } = [];

    /// <summary>The outputs it commands.</summary>
    public IReadOnlyList<OutputCommand> Commands { get; init; } = [];

    /// <inheritdoc/>
    public override RecordId? ParentId => EquipmentId;

    /// <summary>How many operations one scan takes: its blocks, the lines to them, its claims.</summary>
    [JsonIgnore]
    public int Operations => Blocks.Sum(b => b.Operations) + Commands.Sum(c => c.Claims.Count);

    /// <inheritdoc/>
    public override IEnumerable<Share> Shares() => ControllerId is { } host && ScanSeconds > 0 ? [new Share(host, ControllerLoad.OperationCount, (long)Math.Ceiling(Operations / ScanSeconds))] : [];

    /// <summary>All sources in use with the place that uses them.</summary>
    public IEnumerable<(Source Source, Block? Block, string Pin)> Sources()
    {
        foreach (Block block in Blocks)
        {
            foreach (var (pin, source) in block.Inputs) yield return (source, block, pin);
        }
        foreach (OutputCommand command in Commands)
        {
            foreach (Claim claim in command.Claims)
            {
                if (claim.Source is { } source) yield return (source, null, $"{command.PointId}@{claim.Priority}");
            }
        }
    }

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId equipment = map.Owner(Of, EquipmentId);
        RecordId? controller = map.Link(RunsOn, ControllerId);
        IReadOnlyList<Block> blocks = map.Each(Blocks, block => block.Through(map));
        IReadOnlyList<OutputCommand> commands = map.Each(Commands, command =>
        {
            // With its output a command goes; a claim stays and is open when its source goes.
            if (map.Link(Commanded, command.PointId) is not { } point) return null;
            var claims = map.Each(command.Claims, claim =>
            {
                Source? source = claim.Source?.Through(map);
                return ReferenceEquals(source, claim.Source) ? claim : claim with { Source = source };
            });
            return point == command.PointId && ReferenceEquals(claims, command.Claims) ? command : command with { PointId = point, Claims = claims };
        });
        IReadOnlyList<Clause> clauses = map.Each(Clauses, clause =>
        {
            IReadOnlyList<RecordId> outputs = map.Links(Meets, clause.Outputs);
            return ReferenceEquals(outputs, clause.Outputs) ? clause : clause with { Outputs = outputs };
        });
        IReadOnlyList<FunctionTest> tests = map.Each(Tests, test => test.Through(map));
        return equipment == EquipmentId && controller == ControllerId && ReferenceEquals(blocks, Blocks) && ReferenceEquals(commands, Commands) && ReferenceEquals(clauses, Clauses) && ReferenceEquals(tests, Tests) ? this
            : this with { EquipmentId = equipment, ControllerId = controller, Blocks = blocks, Commands = commands, Clauses = clauses, Tests = tests };
    }

    private static readonly ReferenceSort
        Of = ReferenceSort.Owner<Equipment>("of", "equipmentId", "piece of equipment"),
        RunsOn = ReferenceSort.Link<Controller>("runs on", "controllerId", "controller") with { Alone = true },
        Commanded = ReferenceSort.Link<Point>("commands", "commands", "point") with { Alone = true, Moves = true },
        Meets = ReferenceSort.Link<Point>("meets a clause by", "clauses", "point");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys()
    {
        yield return new UniqueKey($"sequence|{EquipmentId}|{Name.ToLowerInvariant()}", "name", "There is already a sequence called ‘{0}’ for this equipment. Choose another name.");
        foreach (OutputCommand command in Commands)
        {
            foreach (Claim claim in command.Claims)
                yield return new UniqueKey(ClaimKey(command.PointId, claim.Priority), "commands", $"Priority {claim.Priority} of this output is already claimed by ‘{{0}}’. Choose a free priority.");
        }
    }

    /// <summary>The unique key of one rung of a claim ladder.</summary>
    public static string ClaimKey(RecordId pointId, int priority) => $"claim|{pointId}|{priority}";

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (!(ScanSeconds is >= 0.1 and <= 3600)) yield return new Refusal(Id, "scanSeconds", $"A scan period of {ScanSeconds} s cannot be; use 0.1 to 3600 s.");
        if (Blocks.Count > MostBlocks) yield return new Refusal(Id, "blocks", $"A sequence has at most {MostBlocks} blocks; this one has {Blocks.Count}. Split it.");
        if (Blocks.Sum(b => b.Calculated) is > MostCalculated and var calculated)
        {
            yield return new Refusal(Id, "blocks", $"With what is inside its own blocks and mode tables a sequence is calculated in at most {MostCalculated} blocks; this one would be in {calculated}. Split it.");
            yield break;
        }
        if (Blocks.GroupBy(b => b.Id).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            yield return new Refusal(Id, "blocks", $"Two blocks have the identity ‘{twice.Key}’.");
            yield break;
        }
        if (Clauses.Count > 200) yield return new Refusal(Id, "clauses", $"A sequence has at most 200 clauses; this one has {Clauses.Count}.");
        if (Clauses.DistinctBy(c => c.Id).Count() != Clauses.Count) yield return new Refusal(Id, "clauses", "Two clauses have the same identity.");
        foreach (var (clause, number) in Clauses.Select((c, i) => (c, i + 1)))
        {
            if (!RecordId.IsValid(clause.Id)) yield return new Refusal(Id, "clauses", $"‘{clause.Id}’ is not a clause identity: use 1 to 64 of a–z, 0–9 and hyphen.");
            if (string.IsNullOrWhiteSpace(clause.Text) || clause.Text.Length > Clause.MostText) yield return new Refusal(Id, "clauses", $"Clause {number} needs a text of 1 to {Clause.MostText} characters; it has {clause.Text.Length}.");
        }
        if (Tests.Count > 100) yield return new Refusal(Id, "tests", $"A sequence has at most 100 tests; this one has {Tests.Count}.");
        if (Tests.DistinctBy(t => t.Id).Count() != Tests.Count) yield return new Refusal(Id, "tests", "Two tests have the same identity.");
        foreach (string why in Tests.SelectMany(t => t.Wrong())) yield return new Refusal(Id, "tests", why);
        foreach (Block block in Blocks)
        {
            foreach (string why in Wrong(block)) yield return new Refusal(Id, "blocks", why);
        }
        if (Sources().Any(s => s.Source is PinSource)) yield return new Refusal(Id, "blocks", "Only what is inside an own block can read one of its inputs.");
        foreach (OutputCommand command in Commands)
        {
            if (project.Find(command.PointId) is Point { Role: PointRole.Sensor } point) yield return new Refusal(Id, "commands", $"‘{point.Name}’ is a sensor; it cannot be commanded. Use a point whose role is command, setpoint or value.");
            if (Commands.Count(c => c.PointId == command.PointId) > 1) yield return new Refusal(Id, "commands", $"The output ‘{project.Find(command.PointId)?.Name}’ is listed twice; put all its claims together.");
            foreach (Claim claim in command.Claims)
            {
                if (claim.Priority is < 1 or > 16) yield return new Refusal(Id, "commands", $"Priority {claim.Priority} does not exist; priorities go from 1 (strongest) to 16.");
                else if (claim.Label?.Any(char.IsControl) == true) yield return new Refusal(Id, "commands", "The label of a claim holds a line break or another control character. Remove it.");
                else if (claim.Priority == ManualOperator) yield return new Refusal(Id, "commands", "Priority 8 belongs to people who hold outputs by hand. Choose another.");
            }
        }
        foreach (TypeProblem problem in Typing.Of(this, project).Problems) yield return new Refusal(Id, "blocks", problem.Sentence);
    }

    /// <summary>What is wrong with a block in itself, whatever it is connected to.</summary>
    public static IEnumerable<string> Wrong(Block block, int depth = 0)
    {
        if (!RecordId.IsValid(block.Id)) yield return $"‘{block.Id}’ is not a block identity: use 1 to 64 of a–z, 0–9 and hyphen.";
        if (block.Label is { Length: > 60 }) yield return "A block's label has at most 60 characters.";
        if (block.Label?.Any(char.IsControl) == true || block.Texts?.Values.Any(t => t.Any(char.IsControl)) == true) yield return $"The label or a text of ‘{block.Id}’ holds a line break or another control character. Remove it.";
        if (block.Modes is not null && block.Kind != BlockKind.Modes) yield return $"‘{block.Called()}’ is no mode table, but has modes.";
        if (block.Kind == BlockKind.Own != block.Inside is not null) yield return block.Inside is null ? "An own block has nothing inside." : $"‘{block.Called()}’ is no own block, but has blocks inside.";
        bool isSound = true;
        foreach (string why in (block.Table?.Wrong(block.Label ?? "Mode table") ?? []).Concat(block.Inside?.Wrong(block.Label ?? block.Inside.Name, depth + 1) ?? []))
        {
            isSound = false;
            yield return why;
        }
        if (!isSound) yield break;
        BlockType definition = BlockType.Of(block);
        foreach (var (name, value) in block.Numbers)
        {
            NumberSetting? setting = definition.Numbers.FirstOrDefault(n => n.Name == name);
            if (setting is null) yield return $"‘{block.Called()}’ has no setting ‘{name}’.";
            else if (!(value >= setting.Low && value <= setting.High)) yield return $"The {setting.Label} of ‘{block.Called()}’ is {value}; it must be from {setting.Low} to {setting.High}.";
        }
        foreach (var (name, value) in block.Choices)
        {
            ChoiceSetting? setting = definition.Choices.FirstOrDefault(n => n.Name == name);
            if (setting is null || setting.Options.All(o => o.Value != value)) yield return $"‘{block.Called()}’ has no choice ‘{name}: {value}’.";
        }
        foreach (string why in TablesAndTexts(block, definition)) yield return why;
        if (definition.Refuses?.Invoke(definition, block) is { } together) yield return together;
        if (block.OutputUnit is { Length: > 0 } && Unit.Find(block.OutputUnit) is null) yield return $"‘{block.OutputUnit}’ is not a known unit.";
        if (block.Inputs.Keys.FirstOrDefault(p => definition.Inputs.All(i => i.Name != p)) is { } unknown)
            yield return $"‘{block.Called()}’ has no input ‘{unknown}’.";
    }

    private static IEnumerable<string> TablesAndTexts(Block block, BlockType definition)
    {
        foreach (var (name, rows) in block.Tables ?? new Dictionary<string, IReadOnlyList<TableRow>>())
        {
            TableSetting? setting = definition.Tables.FirstOrDefault(t => t.Name == name);
            if (setting is null) yield return $"‘{block.Called()}’ has no table ‘{name}’.";
            else if (rows.Count < setting.Least || rows.Count > setting.Most) yield return $"The {setting.Label} of ‘{block.Called()}’ are {setting.Least} to {setting.Most} rows; there {(rows.Count == 1 ? "is 1" : $"are {rows.Count}")}.";
            else if (rows.Any(r => !double.IsFinite(r.X) || !double.IsFinite(r.Y) || Math.Abs(r.X) > 1e9 || Math.Abs(r.Y) > 1e9)) yield return $"The {setting.Label} of ‘{block.Called()}’ must be numbers up to 1 000 000 000.";
            else if (rows.Zip(rows.Skip(1)).FirstOrDefault(p => !(p.First.X < p.Second.X)) is { First: var before, Second: var after } && before != after) yield return $"The {setting.Label} of ‘{block.Called()}’ must rise: {after.X} comes after {before.X}.";
            else if (rows.Distinct().Count() != rows.Count) yield return $"Two {setting.Label} of ‘{block.Called()}’ are the same.";
        }
        foreach (var (name, text) in block.Texts ?? new Dictionary<string, string>())
        {
            TextSetting? setting = definition.Texts.FirstOrDefault(t => t.Name == name);
            if (setting is null) yield return $"‘{block.Called()}’ has no text ‘{name}’.";
            else if (text.Length > setting.Most || text.Any(char.IsControl)) yield return $"The {setting.Label} of ‘{block.Called()}’ has at most {setting.Most} characters, in one line.";
        }
    }
}
