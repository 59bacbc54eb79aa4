using System.Text.Json;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;
using LoftyWren.Core.Templates;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>A ledger says all of a sequence, and is read back to the very same; what cannot be read is said at its place.</summary>
public class LedgerTests
{
    private static string Json(Sequence sequence) => JsonSerializer.Serialize(sequence with
    {
        // An empty label and none are the same.
        Commands = [.. sequence.Commands.Select(c => c with { Claims = [.. c.Claims.Select(k => k with { Label = string.IsNullOrWhiteSpace(k.Label) ? null : k.Label })] })],
    }, RecordJson.Options);

    private static void IsReadBack(Project project, Sequence sequence)
    {
        string text = LedgerText.Whole(project, sequence);
        var (read, problems) = LedgerReader.Read(project, sequence, text);
        Assert.True(problems.Count == 0, $"{string.Join('\n', problems)}\n{text}");
        Assert.Equal(Json(sequence), Json(read));
        Assert.Equal(text, LedgerText.Whole(project, read));
    }

    public static TheoryData<BlockKind> Kinds() => [.. BlockType.All.Where(t => !t.IsInner && !t.HasInside).Select(t => t.Kind)];

    /// <summary>Every kind with every setting, table and text, and with all its inputs, with gaps, and with none.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void Every_kind_is_written_and_read_back(BlockKind kind)
    {
        BlockType type = BlockType.Of(kind);
        Point[] points = [.. type.Inputs.Select((p, i) => new Point { Id = new RecordId($"p{i}"), Name = i % 3 == 0 ? $"Not a {i} and, b" : $"Point {i}", OwnerId = KilnRoom.Room, Kind = p.Kind == PinKind.Binary ? PointKind.Binary : PointKind.Analog, Role = PointRole.Value, StateTexts = p.Kind == PinKind.Binary ? ["off", "on"] : [] })];
        Project project = points.Length == 0 ? KilnRoom.Project() : KilnRoom.Accept(KilnRoom.Project(), points);
        Source of(int i) => i % 4 == 3 ? new ConstantSource(type.Inputs[i].Kind == PinKind.Binary ? 1 : -1.25e-7, null, type.Inputs[i].Kind == PinKind.Binary) : new PointSource(points[i].Id);
        foreach (int gap in (int[])[0, 1, 2, 99])
        {
            Block block = new()
            {
                Id = "b",
                Kind = kind,
                Label = gap == 0 ? null : "Has = in it, and ←",
                Inputs = gap == 99 ? new Dictionary<string, Source>() : type.Inputs.Select((p, i) => (p.Name, i)).Where(x => gap == 0 || x.i % (gap + 1) == 0).ToDictionary(x => x.Name, x => of(x.i)),
                Numbers = gap == 0 ? new Dictionary<string, double>() : type.Numbers.ToDictionary(n => n.Name, n => n.Low + ((n.High - n.Low) / 3)),
                Choices = gap == 0 ? new Dictionary<string, string>() : type.Choices.ToDictionary(c => c.Name, c => c.Options[^1].Value),
                Texts = gap == 0 || type.Texts.Count == 0 ? null : type.Texts.ToDictionary(t => t.Name, _ => "one; (two), three"),
                Tables = gap == 0 || type.Tables.Count == 0 ? null : type.Tables.ToDictionary(t => t.Name, t => t.Default),
                OutputUnit = gap > 0 && type.ChoosesUnit ? "m³/h" : null,
            };
            Sequence sequence = new()
            {
                Id = new("seq"),
                Name = "ledger",
                EquipmentId = KilnRoom.Fan,
                Blocks = [block, new Block { Id = "after", Kind = BlockKind.StatusIs, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("b", type.Outputs[^1].Name) } }],
            };
            IsReadBack(project, sequence);
        }
    }

    [Fact]
    public void Sequences_of_the_starter_templates_are_read_back()
    {
        foreach (Template template in StarterLibrary.Templates.Where(t => t.Records.OfType<Sequence>().Any()))
        {
            PlacingPlan plan = Placing.Plan(KilnRoom.Project(), template, new PlacingRequest([KilnRoom.Room], 2, "Unit {k}"));
            Project project = KilnRoom.Accept(KilnRoom.Project(), [.. plan.Records]);
            foreach (Sequence sequence in plan.Records.OfType<Sequence>()) IsReadBack(project, sequence);
        }
    }

    private static readonly Point Temperature = new() { Id = new("t"), Name = "Temperature", OwnerId = KilnRoom.Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
        Contact = new() { Id = new("c"), Name = "Open", OwnerId = KilnRoom.Room, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["off", "on"] },
        Second = new() { Id = new("d"), Name = "Open or a course", OwnerId = KilnRoom.Room, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["off", "on"] },
        Output = new() { Id = new("o"), Name = "Valve", OwnerId = KilnRoom.Fan, Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Low = 0, High = 100 };

    private static readonly Project Site = KilnRoom.Accept(KilnRoom.Project(), Temperature, Contact, Second, Output);

    private static readonly Sequence Empty = new() { Id = new("seq"), Name = "ledger", EquipmentId = KilnRoom.Fan };

    [Fact]
    public void A_sequence_is_written_from_nothing()
    {
        const string text = """
            Too warm = Two-position (measured: Temperature, limit: 84.2 °F; differential: 1.8 K, acts: on rise)
            Either = Open or Too warm
            Course = Open or a course and Open
            Operation = Mode table (Opening, Setpoint; begins anew)
              Course time: when Course; comes after 10 s; at least 5 min; at once; Opening = 80 %; Setpoint = 21 °C
              Warm: when Too warm; until Course; from Course time; begins after power return; unread as holding; Opening = 50 %; Setpoint = 18 °C
              Shut: Opening = 0 %; Setpoint = released
            Valve ← 12 By mode: Operation · Opening
            Valve ← 14: open
            """;
        var (read, problems) = LedgerReader.Read(Site, Empty, text);
        Assert.Empty(problems);
        Assert.Empty(Typing.Of(read, Site).Problems);
        Assert.Equal(["too-warm", "either", "course", "operation"], read.Blocks.Select(b => b.Id));
        // A difference of 1.8 K stays one; the limit keeps its own unit and is converted on its line.
        Assert.Equal((1.8, new ConstantSource(84.2, "°F")), (read.Blocks[0].Numbers["differential"], read.Blocks[0].Inputs["limit"]));
        // The longest name wins, as people read it.
        Assert.Equal([new PointSource(Second.Id), new PointSource(Contact.Id)], read.Blocks[2].Inputs.OrderBy(i => i.Key).Select(i => i.Value));
        ModeTable table = read.Blocks[3].Modes!;
        Assert.Equal((3, 2, true, 300.0, true), (table.Modes.Count, table.Columns.Count, table.BeginsAgain, table.Modes[0].Least, table.Modes[0].AtOnce));
        Assert.Equal([2], table.Modes[2].Releases);
        Assert.Equal(new BlockSource("operation", "c1"), read.Commands.Single().Claims[0].Source);
        IsReadBack(Site, read);
    }

    private static readonly string[] Hard = ["on", "off", "Off", "true", "not", "A", "and", "or", "=", " = ", "←", " ← ", "<-", "‘", "’", "’’", "“", "”", "(", ")", ":", ";", ",", "{", "#", "14", "21 °C", "5", " of ", "→", " in m", "×", "+", "−", "released", "open", "own", "begins anew", "when", "until", "at least", "Two-position", " ", "Boost", ">", "≥"];

    /// <summary>A law: whatever can be stored is written so that it is read as the same, with names made to be taken for something else.</summary>
    [Fact]
    public void Whatever_things_are_called_a_ledger_is_read_back_to_the_very_same()
    {
        int kept = 0;
        for (int seed = 0; seed < 1500; seed++)
        {
            var chance = new Random(seed);
            string Any(int most)
            {
                string name = string.Concat(Enumerable.Range(0, chance.Next(1, 4)).Select(_ => Hard[chance.Next(Hard.Length)]));
                return name.Length > most ? name[..most] : name;
            }
            Point[] points = [.. Enumerable.Range(0, 4).Select(i => new Point { Id = new($"h{i}"), Name = Any(30).Trim() is { Length: > 0 } name ? $"{name}" : $"P{i}", OwnerId = i < 2 ? KilnRoom.Room : KilnRoom.Fan, Kind = PointKind.Binary, Role = i == 3 ? PointRole.Command : PointRole.Value, StateTexts = ["off", "on"] })];
            // Names that cannot be stored together are none of this.
            if (points.Select(p => p.Name.ToLowerInvariant()).Distinct().Count() < 4 || points.Any(p => p.Check(Site).Any() || Site.All<Point>().Any(s => s.Name.Equals(p.Name, StringComparison.OrdinalIgnoreCase)))) continue;
            Project project = KilnRoom.Accept(Site, points);
            Source Read(string[] blocks) => chance.Next(4) switch { 0 => new ConstantSource(chance.Next(2), null, true), 1 when blocks.Length > 0 => new BlockSource(blocks[chance.Next(blocks.Length)], "out"), _ => new PointSource(points[chance.Next(3)].Id) };
            string[] modes = [.. Enumerable.Range(0, 3).Select(i => Any(20)).DistinctBy(n => n.ToLowerInvariant())], columns = [.. Enumerable.Range(0, chance.Next(3)).Select(i => Any(20)).DistinctBy(n => n.ToLowerInvariant())];
            if (modes.Concat(columns).Any(string.IsNullOrWhiteSpace)) continue;
            var table = new ModeTable { BeginsAgain = chance.Next(2) == 0, Modes = [.. modes.Select((m, i) => new Mode { Slot = i + 1, Name = m, AtOnce = chance.Next(2) == 0, Least = chance.Next(2) * 30, From = i > 0 && chance.Next(2) == 0 ? [1] : [], Releases = i == 0 && columns.Length > 0 ? [1] : [] })], Columns = [.. columns.Select((c, i) => new ModeColumn { Slot = i + 1, Name = c })] };
            var inputs = new Dictionary<string, Source>();
            for (int m = 1; m <= modes.Length; m++)
            {
                if (m < modes.Length) inputs[ModeTable.When(m)] = Read([]);
                for (int c = 1; c <= columns.Length; c++)
                {
                    if (m > 1 || c > 1) inputs[ModeTable.Cell(c, m)] = Read([]);
                }
            }
            Sequence sequence = Empty with
            {
                Blocks =
                [
                    new Block { Id = "n", Kind = BlockKind.Not, Label = Any(40), Inputs = new Dictionary<string, Source> { ["in"] = Read([]) } },
                    new Block { Id = "a", Kind = BlockKind.And, Label = Any(40), Inputs = new Dictionary<string, Source> { ["in1"] = Read(["n"]), ["in2"] = Read(["n"]) } },
                    new Block { Id = "t", Kind = BlockKind.Modes, Label = Any(40), Modes = table, Inputs = inputs },
                ],
                Commands = [new OutputCommand { PointId = points[3].Id, Claims = [new Claim { Priority = 14, Label = Any(40), Source = Read(["n", "a"]) }, new Claim { Priority = 10, Label = chance.Next(2) == 0 ? null : Any(40), Source = chance.Next(3) == 0 ? null : Read(["n", "a"]) }] }],
            };
            if (sequence.Check(project).Any() || sequence.Blocks.Any(b => string.IsNullOrWhiteSpace(b.Label))) continue;
            kept++;
            IsReadBack(project, sequence);
        }
        Assert.True(kept > 300, $"{kept}");
    }

    [Fact]
    public void A_line_keeps_its_identity_when_it_moves_or_is_called_otherwise()
    {
        var (first, _) = LedgerReader.Read(Site, Empty, "A = Open and Open or a course\nB = not A\nValve ←");
        var (renamed, problems) = LedgerReader.Read(Site, first, "Both = Open and Open or a course\nB = not Both\nValve ←");
        Assert.Empty(problems);
        Assert.Equal(first.Blocks.Select(b => b.Id), renamed.Blocks.Select(b => b.Id));
        Assert.Equal("Both", renamed.Blocks[0].Label);
        var (moved, _) = LedgerReader.Read(Site, first, "B = not A\nNew = not B\nA = Open and Open or a course\nValve ←");
        Assert.Equal(["b", "new", "a"], moved.Blocks.Select(b => b.Id));
    }

    [Fact]
    public void Another_way_of_writing_a_name_is_kept_and_numbers_of_modes_are_used_again_where_all_have_been()
    {
        var (first, _) = LedgerReader.Read(Site, Empty, "too warm = Open and Open or a course");
        Assert.Equal("Too Warm", LedgerReader.Read(Site, first, "Too Warm = Open and Open or a course").Sequence.Blocks.Single().Label);
        Sequence now = Empty;
        for (int n = 0; n < 40; n++)
        {
            var (next, problems) = LedgerReader.Read(Site, now, $"M = Mode table (C{n})\n  A{n}: when Open; C{n} = 1\n  B: C{n} = 2\n  Z: C{n} = 3".Replace("  B:", "  B: when Open or a course;", StringComparison.Ordinal));
            Assert.Empty(problems);
            Assert.Empty(Sequence.Wrong(next.Blocks.Single()));
            now = next;
        }
        Assert.Equal(3, now.Blocks.Single().Modes!.Modes.Select(m => m.Slot).Distinct().Count());
    }

    [Fact]
    public void A_ledger_of_too_many_lines_is_refused_at_once()
    {
        Assert.Contains("at most 10000 lines", LedgerReader.Read(Site, Empty, new string('\n', 20_000)).Problems.Single().Sentence, StringComparison.Ordinal);
        Assert.Contains(LedgerReader.Read(Site, Empty, string.Join('\n', Enumerable.Range(0, 600).Select(n => $"B{n} = not Open"))).Problems, p => p.Line == 501 && p.Sentence.Contains("at most 500 blocks", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("Too warm", 1, 0, "A line is a named result")]
    [InlineData("X = Open", 1, 4, "A result is what a kind")]
    [InlineData("X = not Nothing", 1, 8, "There is nothing called ‘Nothing’")]
    [InlineData("X = Two-position (measured: Temperature, limt: 20 °C)", 1, 41, "has no input or setting ‘limt")]
    [InlineData("X = Two-position (measured: Temperature; acts: sideways)", 1, 47, "one of on rise, on fall")]
    [InlineData("X = Two-position (measured: Temperature", 1, 39, "‘,’ or ‘)’ is missing")]
    [InlineData("X = On delay (in: Open; time: 5 °C)", 1, 0, "")]
    [InlineData("A = not Open\nA = not Open", 2, 0, "two lines called ‘A’")]
    [InlineData("A = not Open\n  when: x", 2, 0, "stands below a mode table")]
    [InlineData("A = Open and Open or Open", 1, 18, "‘and’ and ‘or’ in one line")]
    [InlineData("Valve ← 8: Open", 1, 8, "which is for people")]
    [InlineData("Valve ← 10 x: Open\nValve ← 10 y: Open", 2, 8, "claimed twice")]
    [InlineData("Nowhere ← 10: Open", 1, 0, "no point that could be commanded")]
    [InlineData("M = Mode table (A)\n  One: whn Open; A = 1\n  Two: A = 2", 2, 7, "A mode is told with when")]
    public void What_cannot_be_read_is_said_at_its_line_and_character(string text, int line, int at, string says)
    {
        var (read, problems) = LedgerReader.Read(Site, Empty, text);
        if (says.Length > 0) Assert.Contains(problems, p => p.Line == line && p.At == at && p.Sentence.Contains(says, StringComparison.Ordinal));
        Assert.True(problems.Count > 0, "It was read.");
        Assert.Same(Empty, read);
    }

    /// <summary>Texts cut off, doubled and mixed up by chance are read or refused, and never break anything.</summary>
    [Fact]
    public void Broken_texts_are_refused_with_a_place_in_them()
    {
        var random = new Random(7);
        string[] whole = ["Too warm = Two-position (measured: Temperature, limit: 29 °C; differential: 1 K)", "Either = Open or Too warm", "M = Mode table (A; begins anew)", "  One: when Either; at least 5 min; A = 80 %", "  Two: A = released", "Valve ← 12 By mode: M · A"];
        for (int n = 0; n < 3000; n++)
        {
            var text = new System.Text.StringBuilder(string.Join('\n', whole.OrderBy(_ => random.Next(4) == 0 ? random.Next() : 0)));
            for (int cut = random.Next(4); cut >= 0; cut--)
            {
                int at = random.Next(text.Length), length = Math.Min(text.Length - at, random.Next(6));
                if (random.Next(2) == 0) text.Remove(at, length);
                else text.Insert(at, "‘’“:;,()=←12 not\n".AsSpan(random.Next(14), 3));
            }
            string[] lines = text.ToString().Split('\n');
            var (read, problems) = LedgerReader.Read(Site, Empty, text.ToString());
            Assert.All(problems, p => Assert.True(p.Line >= 1 && p.Line <= lines.Length && p.At >= 0 && p.At <= lines[p.Line - 1].Length, $"{p} in\n{text}"));
            if (problems.Count == 0) _ = LedgerText.Whole(Site, read);
        }
    }
}
