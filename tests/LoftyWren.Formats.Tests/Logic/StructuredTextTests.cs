using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using LoftyWren.Core.Templates;
using LoftyWren.Core.Tests;
using LoftyWren.Formats.Logic;
using LoftyWren.Formats.Projects;

namespace LoftyWren.Formats.Tests.Logic;

/// <summary>
/// What is written as structured text is complete and exact: a reader made from the standard alone takes it, and where it can
/// carry it out, it does what the controller does.
/// </summary>
public class StructuredTextTests
{
    private const double Scan = 0.5;

    private static Sequence Of(params Block[] blocks) => new() { Id = new("seq"), Name = "Seq", EquipmentId = KilnRoom.Fan, ScanSeconds = Scan, Blocks = blocks };

    private static Point Value(string id, string name, PointKind kind, string? unit = null, params string[] states) => new() { Id = new(id), Name = name, OwnerId = KilnRoom.Room, Kind = kind, Unit = unit, Role = PointRole.Value, StateTexts = kind == PointKind.Binary ? ["off", "on"] : states };

    private static StrictText Strict(Project project, Sequence sequence)
    {
        string text = StructuredText.Write(project, sequence);
        try
        {
            return StrictText.Read(text);
        }
        catch (FormatException e)
        {
            throw new FormatException($"{sequence.Name}: {e.Message}\n{text}", e);
        }
    }

    /// <summary>Each was written by the program once, and is refused by a strict compiler.</summary>
    [Theory]
    [InlineData("PROGRAM P\nVAR\n  Limit : REAL;\nEND_VAR\nEND_PROGRAM", "a name is expected, not ‘Limit’")]
    [InlineData("PROGRAM P\nVAR\n  p : REAL;\nEND_VAR\nEND_PROGRAM", "called like its unit")]
    [InlineData("PROGRAM P\nVAR\n  A_ : REAL;\nEND_VAR\nEND_PROGRAM", "‘A_’ is no identifier")]
    [InlineData("PROGRAM P\nVAR\n  a : REAL;\nEND_VAR\n  a := 1E-07;\nEND_PROGRAM", "no literal")]
    [InlineData("PROGRAM P\nVAR\n  a : REAL;\nEND_VAR\n  a := 1;\nEND_PROGRAM", "‘a’ is REAL and is given INT")]
    [InlineData("PROGRAM P\nVAR\n  a : REAL; b : BOOL;\nEND_VAR\n  a := SEL(G := b, IN0 := b, IN1 := b);\nEND_PROGRAM", "‘a’ is REAL and is given BOOL")]
    [InlineData("PROGRAM P\nVAR\n  t : TON; b : BOOL;\nEND_VAR\n  b := t.ET > 5.0;\nEND_PROGRAM", "cannot stand between TIME and REAL")]
    [InlineData("PROGRAM P\nVAR\n  c : CTU;\nEND_VAR\n  c(PV := 5.0);\nEND_PROGRAM", "input PV of CTU is INT and is given REAL")]
    [InlineData("PROGRAM P\nVAR\n  t : LW_TwoPosition;\nEND_VAR\nEND_PROGRAM", "no type that has been declared")]
    [InlineData("PROGRAM P\nVAR\n  a : REAL;\nEND_VAR\n  a := (* open *);\nEND_PROGRAM", "a value is expected")]
    [InlineData("PROGRAM P\nVAR_EXTERNAL\n  a : REAL;\nEND_VAR\n  a := 1.0;\nEND_PROGRAM", "no such global variable")]
    public void The_strict_reader_refuses_what_is_none(string text, string says) => Assert.Contains(says, Assert.Throws<FormatException>(() => StrictText.Read(text)).Message, StringComparison.Ordinal);

    public static TheoryData<BlockKind> Kinds() => LogicTests.Kinds();

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Every_kind_is_complete(BlockKind kind)
    {
        BlockType type = BlockType.Of(kind);
        Point[] points = [.. type.Inputs.Select((p, i) => Value($"p{i}", $"Point {i}", p.Kind == PinKind.Binary ? PointKind.Binary : PointKind.Analog))];
        Project project = points.Length == 0 ? KilnRoom.Project() : KilnRoom.Accept(KilnRoom.Project(), points);
        var block = new Block { Id = "b", Kind = kind, Inputs = type.Inputs.Select((p, i) => (p.Name, i)).ToDictionary(x => x.Name, x => (Source)new PointSource(points[x.i].Id)), Texts = type.Texts.Count == 0 ? null : type.Texts.ToDictionary(t => t.Name, _ => "it's $1") };
        foreach (bool isOpen in (bool[])[false, true]) Strict(project, Of(isOpen ? block with { Inputs = new Dictionary<string, Source>() } : block));
    }

    [Fact]
    public void The_demo_and_the_starter_templates_are_complete_and_come_back_the_same()
    {
        string folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "LoftyWren.slnx"))) folder = Path.GetDirectoryName(folder)!;
        Project demo = Changes.Apply(Project.Empty, new ChangeSet(ProjectFolder.Read(Path.Combine(folder, "demo")), "engineer", 0)).After!;
        var all = demo.All<Sequence>().Select(s => (demo, s)).ToList();
        foreach (Template template in StarterLibrary.Templates.Where(t => t.Records.OfType<Sequence>().Any()))
        {
            PlacingPlan plan = Placing.Plan(KilnRoom.Project(), template, new PlacingRequest([KilnRoom.Room], 1, "Unit {k}"));
            Project project = KilnRoom.Accept(KilnRoom.Project(), [.. plan.Records]);
            all.AddRange(plan.Records.OfType<Sequence>().Select(s => (project, s)));
        }
        foreach (var (project, sequence) in all)
        {
            Strict(project, sequence);
            LogicTests.IsReadBack(project, sequence);
        }
        Assert.True(all.Count > 40);
    }

    /// <summary>Names that are words of the language, look like our own types, or come to the same letters.</summary>
    [Fact]
    public void Hard_names_are_told_apart()
    {
        string[] names = ["Limit", "Not", "TON", "End_If", "LW_modes", "LW Modes", "9 lives", "—", "ÄÖ", "AO", "a__b", "a b_", "x*)y(*", "seq", "Row", "Real"];
        Point[] points = [.. names.Select((n, i) => Value($"p{i}", n, PointKind.Binary))];
        Project project = KilnRoom.Accept(KilnRoom.Project(), points);
        var blocks = names.Select((n, i) => new Block { Id = $"b{i}", Kind = i % 3 == 0 ? BlockKind.Not : i % 3 == 1 ? BlockKind.Ton : BlockKind.Modes, Label = n, Modes = i % 3 == 2 ? new ModeTable { Modes = [new() { Slot = 1, Name = n }, new() { Slot = 2, Name = "x" }] } : null, Inputs = new Dictionary<string, Source> { [i % 3 == 2 ? "when1" : "in"] = new PointSource(points[i].Id) } });
        foreach (string name in names) Strict(project, Of([.. blocks]) with { Name = name });
    }

    // By hand: 68 °F is 20 °C; (68 − 32) × 5/9 = 20.
    [Fact]
    public void Units_and_types_that_differ_go_through_a_conversion_that_stands_there()
    {
        Project project = KilnRoom.Accept(KilnRoom.Project(), Value("f", "Fahrenheit", PointKind.Analog, "°F"), Value("c", "Celsius", PointKind.Analog, "°C"), Value("b", "Go", PointKind.Binary));
        Sequence sequence = Of(
            new Block { Id = "gt", Kind = BlockKind.Gt, Label = "Above", Inputs = new Dictionary<string, Source> { ["in1"] = new PointSource(new("c")), ["in2"] = new PointSource(new("f")) } },
            new Block { Id = "ton", Kind = BlockKind.Ton, Label = "Delay", Numbers = new Dictionary<string, double> { ["pt"] = 90 }, Inputs = new Dictionary<string, Source> { ["in"] = new PointSource(new("b")) } },
            new Block { Id = "late", Kind = BlockKind.Gt, Label = "Late", Inputs = new Dictionary<string, Source> { ["in1"] = new BlockSource("ton", "et"), ["in2"] = new ConstantSource(2, "s") } });
        StrictText text = Strict(project, sequence);
        StrictText.Frame run = text.Begin(text.Program, Scan);
        bool Above(double c, double f)
        {
            (run.Values["Celsius"], run.Values["Fahrenheit"]) = (c, f);
            run.Run();
            return (bool)run.Values["Above"];
        }
        Assert.True(Above(20.1, 68));
        Assert.False(Above(19.9, 68));
        Assert.False(Above(60, 200));
        run.Values["Go"] = true;
        // The first scan begins the time; 2 s are passed with the sixth.
        var late = Enumerable.Range(0, 7).Select(_ =>
        {
            run.Run();
            return (bool)run.Values["Late"];
        });
        Assert.Equal([false, false, false, false, false, true, true], late);
    }

    /// <summary>Networks of the standard's blocks by chance do, scan by scan, what the controller does; limits that cross are a fault here, which the standard does not know.</summary>
    [Fact]
    public void What_is_written_does_what_the_controller_does()
    {
        BlockKind[] binary = [BlockKind.And, BlockKind.Or, BlockKind.Xor, BlockKind.Not, BlockKind.Sr, BlockKind.Rs, BlockKind.Ton, BlockKind.Gt, BlockKind.Le, BlockKind.Sel], analog = [BlockKind.Add, BlockKind.Sub, BlockKind.Mul, BlockKind.Min, BlockKind.Max, BlockKind.Abs, BlockKind.Limit, BlockKind.Sel];
        Point[] points = [.. Enumerable.Range(0, 4).Select(i => Value($"b{i}", $"Binary {i}", PointKind.Binary)), .. Enumerable.Range(0, 3).Select(i => Value($"a{i}", $"Analog {i}", PointKind.Analog))];
        Project project = KilnRoom.Accept(KilnRoom.Project(), points);
        int compared = 0;
        for (int seed = 0; seed < 80; seed++)
        {
            var random = new Random(seed);
            var blocks = new List<Block>();
            List<Source> truths = [.. points.Take(4).Select(p => (Source)new PointSource(p.Id))], numbers = [.. points.Skip(4).Select(p => (Source)new PointSource(p.Id)), new ConstantSource(-1.5e-7), new ConstantSource(3)];
            // Sources that fall silent: a choice between something and nothing.
            var silent = new HashSet<string>();
            for (int i = 0; i < 12; i++)
            {
                bool isBinary = random.Next(2) == 0;
                BlockKind kind = isBinary ? binary[random.Next(binary.Length)] : analog[random.Next(analog.Length)];
                BlockType type = BlockType.Of(kind);
                var pins = type.Inputs.Take(kind is BlockKind.And or BlockKind.Or or BlockKind.Xor or BlockKind.Add or BlockKind.Mul or BlockKind.Min or BlockKind.Max ? random.Next(1, 4) : 3).ToList();
                Source Any(Pin pin) => (pin.Kind == PinKind.Binary || (pin.Kind == PinKind.Any && isBinary) ? truths : numbers) is var from ? from[random.Next(from.Count)] : null!;
                blocks.Add(new Block { Id = $"k{i}", Kind = kind, Label = $"Block {i}", Numbers = kind == BlockKind.Ton ? new Dictionary<string, double> { ["pt"] = random.Next(4) * Scan } : new Dictionary<string, double>(), Inputs = pins.ToDictionary(p => p.Name, p => kind != BlockKind.Limit || p.Name == "in" ? Any(p) : new ConstantSource(p.Name == "low" ? -2.5 : 3)) });
                if (kind == BlockKind.Sel && random.Next(2) == 0) blocks[^1] = blocks[^1] with { Inputs = blocks[^1].Inputs.Where(p => p.Key != $"in{random.Next(2)}").ToDictionary(p => p.Key, p => p.Value) };
                if (blocks[^1].Inputs.Values.OfType<BlockSource>().Any(b => silent.Contains(b.BlockId)) || (kind == BlockKind.Sel && blocks[^1].Inputs.Count < 3))
                {
                    // While its input is silent a timer stands still here, and that of the standard runs on.
                    if (kind == BlockKind.Ton) blocks[^1] = blocks[^1] with { Inputs = new Dictionary<string, Source> { ["in"] = truths[0] } };
                    else silent.Add($"k{i}");
                }
                (isBinary ? truths : numbers).Add(new BlockSource($"k{i}"));
            }
            Sequence sequence = Of([.. blocks]);
            if (Typing.Of(sequence, project).Problems.Count > 0) continue;
            compared += Compare(project, sequence, points, random, blocks.Select(b => (b.Id, $"Block_{b.Id[1..]}{(b.Kind is BlockKind.Sr or BlockKind.Rs ? ".Q1" : b.Kind == BlockKind.Ton ? ".Q" : "")}")));
        }
        Assert.True(compared > 20_000, $"{compared} values were compared");
    }

    /// <summary>Mode tables by chance, with delays, minimum and maximum times, what they come from and what cuts others short.</summary>
    [Fact]
    public void A_mode_table_does_what_the_controller_does()
    {
        int compared = 0;
        for (int seed = 0; seed < 150; seed++)
        {
            var random = new Random(seed);
            double Time() => random.Next(3) == 0 ? random.Next(1, 8) * Scan : 0;
            int count = random.Next(1, 6);
            var slots = Enumerable.Range(1, ModeTable.MostModes).OrderBy(_ => random.Next()).Take(count).ToList();
            var table = new ModeTable
            {
                Modes = [.. slots.Select(slot => (Slot: slot, Least: Time()) is var m ? new Mode { Slot = slot, Name = $"Mode {slot}", EnterAfter = Time(), LeaveAfter = Time(), Least = m.Least, Most = random.Next(4) == 0 ? m.Least + (random.Next(1, 8) * Scan) : 0, AtOnce = random.Next(4) == 0, Unread = (UnreadCondition)random.Next(3), From = random.Next(4) == 0 ? [.. slots.Where(_ => random.Next(2) == 0)] : [] } : null!)],
                Columns = [new() { Slot = 1, Name = "Value" }],
            };
            var pins = table.Modes.SkipLast(1).SelectMany(m => (string[])[ModeTable.When(m.Slot), ModeTable.Until(m.Slot)]).Where(_ => random.Next(5) > 0).ToList();
            Point[] points = [.. pins.Select((p, i) => Value($"p{i}", $"Point {i}", PointKind.Binary))];
            Project project = points.Length == 0 ? KilnRoom.Project() : KilnRoom.Accept(KilnRoom.Project(), points);
            var inputs = pins.Select((p, i) => (p, Source: (Source)new PointSource(points[i].Id))).ToDictionary(x => x.p, x => x.Source);
            foreach (int slot in slots) inputs[ModeTable.Cell(1, slot)] = random.Next(4) > 0 || pins.Count == 0 ? new ConstantSource(10 * slot) : new BlockSource("cell");
            // Conditions and cells that fall silent.
            var halves = pins.Where(_ => random.Next(3) == 0).Select((p, i) => (Pin: p, Block: new Block { Id = $"h{i}", Kind = BlockKind.Sel, Label = $"Half {i}", Inputs = new Dictionary<string, Source> { ["g"] = inputs[pins[random.Next(pins.Count)]], ["in1"] = inputs[p] } })).ToList();
            foreach (var (pin, half) in halves) inputs[pin] = new BlockSource(half.Id);
            var more = halves.ConvertAll(h => h.Block);
            if (pins.Count > 0) more.Add(new Block { Id = "cell", Kind = BlockKind.Sel, Label = "Cell", Inputs = new Dictionary<string, Source> { ["g"] = new PointSource(points[0].Id), ["in0"] = new ConstantSource(7) } });
            Sequence sequence = Of([.. more, new Block { Id = "m", Kind = BlockKind.Modes, Label = "Table", Modes = table, Inputs = inputs }]);
            compared += Compare(project, sequence, points, random, [("m", "Table.OUT"), ("m.time", "Table.TIME_V"), ("m.changes", "Table.CHANGES"), ("m.c1.out", "Table.C1")]);
        }
        Assert.True(compared > 20_000, $"{compared} values were compared");
    }

    /// <summary>The frost guard of an air handler: beside a loop that is released, 15 % counts; so does it inside an own block.</summary>
    [Fact]
    public void The_greater_goes_by_what_counts_inside_an_own_block_as_well()
    {
        Point[] points = [Value("b0", "Run", PointKind.Binary), Value("a0", "Loop", PointKind.Analog)];
        Project project = KilnRoom.Accept(KilnRoom.Project(), points);
        var loop = new Block { Id = "loop", Kind = BlockKind.Sel, Label = "Loop while it runs", Inputs = new Dictionary<string, Source> { ["g"] = new PointSource(new("b0")), ["in1"] = new PointSource(new("a0")) } };
        var part = new Part { Name = "Guard", Inputs = [new() { Id = "in", Label = "in" }], Outputs = [new() { Id = "in", Label = "greater", BlockId = "max" }, new() { Id = "out-active", Label = "same", BlockId = "same" }], Blocks = [new Block { Id = "max", Kind = BlockKind.Max, Inputs = new Dictionary<string, Source> { ["in1"] = new PinSource("in"), ["in2"] = new ConstantSource(15) } }, new Block { Id = "same", Kind = BlockKind.Add, Inputs = new Dictionary<string, Source> { ["in1"] = new PinSource("in") } }] };
        var guard = new Block { Id = "guard", Kind = BlockKind.Own, Label = "Guard", Inside = part, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("loop") } };
        Sequence sequence = Of(loop, guard);
        StrictText text = Strict(project, sequence);
        StrictText.Frame run = text.Begin(text.Program, Scan), own = (StrictText.Frame)run.Values["Guard"];
        string same = own.Of.Variables.Values.Single(v => v.Section == "VAR_OUTPUT" && v.Type == "REAL" && v.Name != "IN_OUT").Name;
        (double, bool, bool) After(bool runs, double asks)
        {
            (run.Values["Run"], run.Values["Loop"]) = (runs, asks);
            run.Run();
            return ((double)own.Values["IN_OUT"], (bool)own.Values["IN_OUT_ACTIVE"], (bool)own.Values[$"{same}_ACTIVE"]);
        }
        Assert.Equal((82, true, true), After(true, 82));
        Assert.Equal((15, true, false), After(false, 82));
        LogicTests.IsReadBack(project, sequence);
    }

    private static int Compare(Project project, Sequence sequence, Point[] points, Random random, IEnumerable<(string Ours, string Theirs)> outputs)
    {
        StrictText text = Strict(project, sequence);
        StrictText.Frame run = text.Begin(text.Program, Scan);
        var (plan, _) = Compiler.Compile(sequence, project, id => Array.FindIndex(points, p => p.Id == id), _ => points.Length);
        PlanState state = plan.NewState();
        PinValue[] readings = [.. points.Select(_ => new PinValue(0, StatusFlags.None)), new PinValue(0, StatusFlags.None)];
        int compared = 0;
        for (int scan = 0; scan < 60; scan++)
        {
            for (int i = 0; i < points.Length; i++)
            {
                if (scan > 0 && random.Next(4) > 0) continue;
                double value = points[i].Kind == PointKind.Binary ? random.Next(2) : random.Next(-8, 9) / 2.0;
                readings[i] = new PinValue(value, StatusFlags.None);
                string name = points[i].Name.Replace(' ', '_');
                if (run.Values.ContainsKey(name)) run.Values[name] = points[i].Kind == PointKind.Binary ? value > 0.5 : value;
            }
            plan.Scan(state, readings, scan * Scan);
            run.Run();
            foreach (var (ours, theirs) in outputs)
            {
                PinValue expected = state.Slots[plan.Pins[ours.Contains('.', StringComparison.Ordinal) ? ours : $"{ours}.out"]];
                string[] path = theirs.Split('.');
                StrictText.Frame at = path.Length > 1 && run.Values[path[0]] is StrictText.Frame inner ? inner : run;
                bool counts = at == run ? run.Values.GetValueOrDefault($"{path[0]}_active") is not false : (bool)at.Values[$"{path[1]}_ACTIVE"];
                Assert.True(counts == expected.IsUsable, $"{theirs} {(counts ? "counts" : "does not count")} and is {expected} in scan {scan}:\n{StructuredText.Write(project, sequence)}");
                if (!counts) continue;
                object given = path.Length == 1 ? run.Values[path[0]] : run.Values[path[0]] is StrictText.StandardInstance standard ? standard[path[1]] : ((StrictText.Frame)run.Values[path[0]]).Values[path[1]];
                double actual = given is bool b ? (b ? 1 : 0) : (double)given;
                Assert.True(Math.Abs(expected.Value - actual) <= 1e-9 * Math.Max(1, Math.Abs(actual)), $"{theirs} is {actual}, not {expected.Value}, in scan {scan}:\n{StructuredText.Write(project, sequence)}");
                compared++;
            }
        }
        return compared;
    }

    [Fact]
    public void Numbers_are_literals_to_the_last_digit()
    {
        var random = new Random(61131);
        for (int i = 0; i < 2000; i++)
        {
            double value = BitConverter.Int64BitsToDouble(random.NextInt64());
            if (!double.IsFinite(value)) continue;
            string literal = Literals.Of(value);
            // 6.3.2: digits, a point, digits, and an exponent.
            Assert.Matches(@"^-?\d+\.\d+(E-?\d+)?$", literal);
            Assert.Equal(value, double.Parse(literal, System.Globalization.CultureInfo.InvariantCulture));
        }
        Assert.Equal(("1.0E-7", "3.0", "-0.25", "1.5E20"), (Literals.Of(1e-7), Literals.Of(3), Literals.Of(-0.25), Literals.Of(1.5e20)));
    }
}
