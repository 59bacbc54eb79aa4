using LoftyWren.Core.Findings;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;
using LoftyWren.Core.Templates;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>An own block does what its blocks would do in its place, also in another own block, and keeps what they remember.</summary>
public class OwnBlockTests
{
    private static readonly Point
        Warm = new() { Id = new("w"), Name = "Warm", OwnerId = KilnRoom.Fan, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
        Contact = new() { Id = new("c"), Name = "Contact", OwnerId = KilnRoom.Fan, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["off", "on"] },
        Output = new() { Id = new("o"), Name = "Fan", OwnerId = KilnRoom.Fan, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 };

    private static readonly Project Site = KilnRoom.Accept(KilnRoom.Project(), Warm, Contact, Output);

    private static Part Delayed => new()
    {
        Name = "Limit with delay",
        Inputs = [new PartInput { Id = "t", Label = "temperature", Required = true }, new PartInput { Id = "too", Label = "or" }],
        Outputs = [new PartOutput { Id = "late", Label = "late", BlockId = "delay" }, new PartOutput { Id = "now", Label = "now", BlockId = "either" }],
        Settings = [new PartSetting { Id = "after", Label = "after", BlockId = "delay", Setting = "pt" }],
        Blocks =
        [
            new Block { Id = "over", Kind = BlockKind.TwoPosition, Numbers = new Dictionary<string, double> { ["differential"] = 2 }, Choices = new Dictionary<string, string> { ["idle"] = "off" }, Inputs = new Dictionary<string, Source> { ["measured"] = new PinSource("t"), ["limit"] = new ConstantSource(77, "°F") } },
            new Block { Id = "either", Kind = BlockKind.Or, Inputs = new Dictionary<string, Source> { ["in1"] = new BlockSource("over"), ["in2"] = new PinSource("too") } },
            new Block { Id = "delay", Kind = BlockKind.Ton, Numbers = new Dictionary<string, double> { ["pt"] = 60 }, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("either") } },
        ],
    };

    private static Sequence With(Block own, string pin) => new()
    {
        Id = new("seq"),
        Name = "own",
        EquipmentId = KilnRoom.Fan,
        Blocks = [own],
        Commands = [new OutputCommand { PointId = Output.Id, Claims = [new Claim { Priority = 10, Source = new BlockSource(own.Id, pin) }] }],
    };

    private static Block Own(Part part, double? after = null) => new()
    {
        Id = "own",
        Kind = BlockKind.Own,
        Inside = part,
        Numbers = after is { } a ? new Dictionary<string, double> { ["after"] = a } : new Dictionary<string, double>(),
        Inputs = new Dictionary<string, Source> { ["t"] = new PointSource(Warm.Id), ["too"] = new PointSource(Contact.Id) },
    };

    private static (Plan Plan, PlanState State) Compiled(Sequence sequence)
    {
        Assert.Empty(sequence.Check(Site).Select(r => r.Sentence));
        var (plan, _) = Compiler.Compile(sequence, Site, id => id == Warm.Id ? 0 : id == Contact.Id ? 1 : 2, _ => -1);
        return (plan, plan.NewState());
    }

    [Fact]
    public void It_gives_what_the_blocks_inside_give_with_the_settings_from_outside()
    {
        var (plan, state) = Compiled(With(Own(Delayed, after: 10), "late"));
        bool at(double now, double warm, double contact, string pin)
        {
            plan.Scan(state, [new(warm, 0), new(contact, 0), default], now);
            return state.Slots[plan.Pins[$"own.{pin}"]].IsTrue;
        }
        // 77 °F are 25 °C.
        Assert.False(at(0, 24.9, 0, "now"));
        Assert.True(at(1, 25.1, 0, "now"));
        Assert.False(at(10, 25.1, 0, "late"));
        Assert.True(at(11, 25.1, 0, "late"));
        Assert.False(at(12, 22, 0, "now"));
        Assert.True(at(13, 22, 1, "now"));
        // What stands inside is seen under the id of the own block.
        Assert.Contains("own.delay.et", plan.Pins.Keys);
    }

    [Fact]
    public void It_stands_in_another_and_says_the_same()
    {
        var outer = new Part
        {
            Name = "Outer",
            Inputs = [new PartInput { Id = "x", Label = "x" }, new PartInput { Id = "y", Label = "y" }],
            Outputs = [new PartOutput { Id = "late", Label = "late", BlockId = "inner", Pin = "late" }],
            Settings = [new PartSetting { Id = "after", Label = "after", BlockId = "inner", Setting = "after" }],
            Blocks = [new Block { Id = "inner", Kind = BlockKind.Own, Inside = Delayed, Inputs = new Dictionary<string, Source> { ["t"] = new PinSource("x"), ["too"] = new PinSource("y") } }],
        };
        Block nested = Own(outer, after: 10) with { Inputs = new Dictionary<string, Source> { ["x"] = new PointSource(Warm.Id), ["y"] = new PointSource(Contact.Id) } };
        var (one, first) = Compiled(With(Own(Delayed, after: 10), "late"));
        var (two, second) = Compiled(With(nested, "late"));
        var random = new Random(3);
        for (double now = 0; now < 3000; now += random.Next(1, 7))
        {
            PinValue[] readings = [new(20 + random.Next(10), 0), new(random.Next(9) == 0 ? 1 : 0, 0), default];
            one.Scan(first, readings, now);
            two.Scan(second, readings, now);
            Assert.Equal(first.Slots[one.Pins["own.late"]], second.Slots[two.Pins["own.late"]]);
        }
    }

    [Theory]
    [InlineData("reads a point or schedule by itself")]
    [InlineData("connected to an input that is not there")]
    [InlineData("comes from a block or pin that is not inside it")]
    [InlineData("has no output")]
    [InlineData("at most 5 deep")]
    [InlineData("it must be from 0 to 604800")]
    public void What_is_wrong_with_it_is_said(string says)
    {
        Part part = Delayed;
        Block changed(IReadOnlyDictionary<string, Source> inputs) => part.Blocks[2] with { Inputs = inputs };
        Part wrong = says switch
        {
            "reads a point or schedule by itself" => part with { Blocks = [part.Blocks[0], part.Blocks[1], changed(new Dictionary<string, Source> { ["in"] = new PointSource(Contact.Id) })] },
            "connected to an input that is not there" => part with { Blocks = [part.Blocks[0], part.Blocks[1], changed(new Dictionary<string, Source> { ["in"] = new PinSource("gone") })] },
            "has no output" => part with { Outputs = [] },
            "comes from a block or pin that is not inside it" => part with { Outputs = [part.Outputs[0] with { BlockId = "gone" }] },
            "at most 5 deep" => Enumerable.Range(0, 6).Aggregate(part, (inner, n) => new Part { Name = $"P{n}", Outputs = [new PartOutput { Id = "late", Label = "late", BlockId = "i", Pin = "late" }], Blocks = [new Block { Id = "i", Kind = BlockKind.Own, Inside = inner }] }),
            _ => part with { Blocks = [part.Blocks[0], part.Blocks[1], part.Blocks[2] with { Numbers = new Dictionary<string, double> { ["pt"] = -1 } }] },
        };
        Assert.Contains(Sequence.Wrong(Own(wrong) with { Inputs = new Dictionary<string, Source>() }), w => w.Contains(says, StringComparison.Ordinal));
    }

    /// <summary>
    /// Whichever blocks of a proven sequence are taken together, its tests pass, and pass again when they are taken apart; the
    /// ledger says both, and clauses and tests go on being about what they were about.
    /// </summary>
    [Fact]
    public void Taking_together_and_apart_changes_nothing_of_what_is_proven()
    {
        foreach (Template template in StarterLibrary.Templates.Where(t => t.Records.OfType<Sequence>().Any(s => s.Blocks.Count > 2)))
        {
            PlacingPlan plan = Placing.Plan(KilnRoom.Project(), template, new PlacingRequest([KilnRoom.Room], 1, "Unit"));
            Project project = KilnRoom.Accept(KilnRoom.Project(), [.. plan.Records]);
            Sequence sequence = plan.Records.OfType<Sequence>().Single();
            var random = new Random(11);
            for (int n = 0; n < 3; n++)
            {
                string[] chosen = [.. sequence.Blocks.Where(_ => random.Next(2) == 0).Select(b => b.Id)];
                if (chosen.Length == 0) continue;
                var (together, own) = Parting.Together(project, sequence, chosen, "Taken");
                Assert.Empty(together.Check(project).Select(r => r.Sentence));
                Sequence apart = Parting.TakenApart(together, own);
                Assert.Empty(apart.Check(project).Select(r => r.Sentence));
                foreach (Sequence now in (Sequence[])[together, apart])
                {
                    Assert.All(now.Clauses, c => Assert.True(c.IsMetIn(now)));
                    Assert.All(now.Tests, t => Assert.True(ProofBench.Prove(project, now, t).Passed, $"{template.Name}, {string.Join(' ', chosen)}: {t.Name}"));
                    var (read, problems) = LedgerReader.Read(project, now, LedgerText.Whole(project, now));
                    Assert.Empty(problems);
                    Assert.Equal(now.Blocks.Select(b => b.Id), read.Blocks.Select(b => b.Id));
                }
            }
        }
    }

    [Fact]
    public void The_library_has_the_latest_revision_and_brings_others_up_to_it()
    {
        Sequence sequence = With(Own(Delayed with { Revision = 1 }, after: 10), "late");
        var later = Delayed with { Revision = 2, Settings = [] };
        Project project = Project.Load(0, [new Entry(sequence, 0), new Entry(sequence with { Id = new("other"), Blocks = [Own(later)] }, 0)]);
        Assert.Equal(2, Parting.Library(project)["limit WITH delay"].Revision);
        Sequence updated = Parting.Updated(sequence, "own", later);
        Assert.Equal((2, 0, 2), (updated.Blocks[0].Inside!.Revision, updated.Blocks[0].Numbers.Count, updated.Blocks[0].Inputs.Count));
        // Taken apart, changed and taken together under its name it is the next revision.
        Assert.Equal(3, Parting.Together(project, Parting.TakenApart(sequence, "own"), ["over", "either"], "Limit with delay").Sequence.Blocks.Single(b => b.Inside is not null).Inside!.Revision);
        Assert.Throws<InvalidOperationException>(() => Parting.Together(project, sequence, [], "x"));
        Assert.Throws<InvalidOperationException>(() => Parting.TakenApart(sequence, "nothing"));
    }

    /// <summary>A pin is what it is called: the next revision keeps the identity of each, however its blocks stand now, so that an update connects nothing in place of another.</summary>
    [Fact]
    public void The_next_revision_keeps_pins_by_what_they_are_called()
    {
        Project site = Site;
        Sequence Written(string text)
        {
            var (read, problems) = LedgerReader.Read(site, new Sequence { Id = new("seq"), Name = "own", EquipmentId = KilnRoom.Fan }, text);
            Assert.Empty(problems);
            return read;
        }
        var (first, own) = Parting.Together(site, Written("Over = Warm > 25 °C\nBoth = Over and Contact\nFan ← 10: Both"), ["over", "both"], "Limit");
        Part one = first.Blocks.Single(b => b.Id == own).Inside!;
        Project kept = KilnRoom.Accept(site, first);
        // Now the contact comes first, and something new with it.
        var (second, _) = Parting.Together(kept, Written("Shut = not Contact\nOver = Warm > 25 °C\nBoth = Over and Contact\nFan ← 10: Both\nFan ← 12: Shut"), ["shut", "over", "both"], "limit");
        Part two = second.Blocks.Single(b => b.Inside is not null).Inside!;
        Assert.Equal(2, two.Revision);
        foreach (PartInput pin in one.Inputs) Assert.Equal(pin.Id, two.Inputs.Single(p => p.Label == pin.Label).Id);
        Assert.Equal(one.Outputs.Single().Id, two.Outputs.Single(o => o.Label == "Both").Id);
        Assert.DoesNotContain(two.Outputs.Single(o => o.Label == "Shut").Id, one.Outputs.Select(o => o.Id));
        Block updated = Parting.Updated(first, own, two).Blocks.Single(b => b.Id == own);
        Assert.Equal(new PointSource(Warm.Id), updated.Inputs[two.Inputs.Single(p => p.Label == "Warm").Id]);
        Assert.Equal(new PointSource(Contact.Id), updated.Inputs[two.Inputs.Single(p => p.Label == "Contact").Id]);
    }

    [Fact]
    public void What_a_test_looks_at_is_followed_into_an_own_block_and_out_of_it()
    {
        Sequence sequence = With(Own(Delayed, after: 10), "late") with
        {
            Tests = [new FunctionTest { Id = "t", Name = "t", Steps = TestText.Read("set Warm to 26 °C\nexpect Limit with delay on within 20 s", new SubjectNames(Site, With(Own(Delayed, after: 10), "late"))).Steps }],
        };
        Assert.True(ProofBench.Prove(Site, sequence, sequence.Tests[0]).Passed);
        Sequence apart = Parting.TakenApart(sequence, "own");
        Assert.Equal(("delay", "out"), (apart.Tests[0].Steps[1].Subject!.BlockId, apart.Tests[0].Steps[1].Subject!.Pin));
        Assert.True(ProofBench.Prove(Site, apart, apart.Tests[0]).Passed);
        // What is broken inside is noticed as well.
        Assert.Contains(Breaking.Ways(Site, sequence), w => w.What.Contains("in its place", StringComparison.Ordinal));
    }

    /// <summary>What is inside decides whether a claim releases: an own block is no claim that hides weaker ones for ever.</summary>
    [Fact]
    public void An_own_block_that_releases_masks_no_claim()
    {
        Block releasing = Own(Delayed with { Blocks = [Delayed.Blocks[0] with { Choices = new Dictionary<string, string>() }], Outputs = [new PartOutput { Id = "late", Label = "late", BlockId = "over" }], Settings = [] });
        Sequence two(Block own) => With(own, "late") with { Commands = [new OutputCommand { PointId = Output.Id, Claims = [new Claim { Priority = 10, Source = new BlockSource("own", "late") }, new Claim { Priority = 12, Source = new ConstantSource(1, null, true) }] }] };
        bool masks(Block own)
        {
            Project project = KilnRoom.Accept(Site, two(own));
            return Checks.On(project, two(own)).Any(f => f.Code == "masked-claim");
        }
        Assert.False(masks(releasing));
        Assert.True(masks(Own(Delayed)));
    }

    [Fact]
    public void Blocks_of_older_versions_and_too_many_are_refused()
    {
        Part old = Delayed with { Blocks = [.. Delayed.Blocks, new Block { Id = "old", Kind = BlockType.All.First(t => t.IsRetired).Kind }] };
        Assert.Contains(Sequence.Wrong(Own(old)), w => w.Contains("older version", StringComparison.Ordinal));
        Part large = Delayed with { Blocks = [.. Delayed.Blocks, .. Enumerable.Range(0, 197).Select(n => new Block { Id = $"n{n}", Kind = BlockKind.Not })] };
        Sequence sequence = With(Own(large), "late") with { Blocks = [.. Enumerable.Range(0, 11).Select(n => Own(large) with { Id = $"own{n}" })] };
        Assert.Contains(sequence.Check(Site), r => r.Sentence.Contains("at most 2000 blocks", StringComparison.Ordinal));
    }
}
