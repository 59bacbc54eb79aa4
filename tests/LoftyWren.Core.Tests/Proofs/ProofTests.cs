using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using NodaTime;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Proofs;

/// <summary>Function tests: stories as text, lived on a bench of their own, that fail when the logic they prove is broken.</summary>
public class ProofTests
{
    // The kiln room: the fan runs above 29 °C until the room is 2 K below, and in opening hours, Tuesday to Friday 9:00 to 17:30.
    private const string Hot = """
        start Monday 12:00
        set Room temperature to 28 °C
        expect Extract fan off
        ramp Room temperature to 30 °C over 10 min
        wait until Two-position on within 6 min
        expect Extract fan on within 1 s for 1 min
        # Back under the limit it runs on until it is 2 K below.
        set Room temperature to 27.5 °C
        expect Extract fan on for 30 min
        set Room temperature to 26.9 °C
        expect Extract fan off within 2 s
        """;

    private const string Hours = """
        start Tuesday 08:59
        set Room temperature to 20 °C
        expect Extract fan off
        expect Extract fan on within 61 s for 8 h
        go on at Tuesday 17:31
        expect Extract fan off
        expect Two-position released
        """;

    private static (Sequence Sequence, SubjectNames Names) Of(Project project) => (project.Find<Sequence>(KilnRoom.Sequence)!, new SubjectNames(project, project.Find<Sequence>(KilnRoom.Sequence)!));

    private static Proof Prove(Project project, string text)
    {
        var (sequence, names) = Of(project);
        var (steps, problems) = TestText.Read(text, names);
        Assert.Empty(problems);
        return ProofBench.Prove(project, sequence, new FunctionTest { Id = "t", Name = "t", Steps = steps });
    }

    private static string Failures(Proof proof) => string.Join("; ", proof.Steps.Where(s => s.Passed == false).Select(s => $"{s.Line}: {s.Says}"));

    [Theory]
    [InlineData(Hot)]
    [InlineData(Hours)]
    public void What_the_sequence_does_is_proven(string text) => Assert.True(Prove(Project(), text) is var proof && proof.Passed, Failures(proof));

    /// <summary>Each way of breaking the logic is caught by one of the two stories.</summary>
    [Fact]
    public void Broken_logic_is_caught()
    {
        Project house = Project();
        var (sequence, _) = Of(house);
        Block high = sequence.Blocks[0];
        Block[] broken =
        [
            high with { Numbers = new Dictionary<string, double> { ["differential"] = 1 } },
            high with { Numbers = new Dictionary<string, double> { ["differential"] = 4 } },
            high with { Choices = new Dictionary<string, string> { ["acts"] = "onFall" } },
            high with { Choices = new Dictionary<string, string> { ["idle"] = "off" } },
            high with { Inputs = new Dictionary<string, Source>(high.Inputs) { ["limit"] = new ConstantSource(30.5, "°C") } },
        ];
        foreach (Block block in broken) Assert.False(new[] { Hot, Hours }.All(t => Prove(Accept(house, Edit.Of(sequence with { Blocks = [block] }, 1)), t).Passed), RecordJson.Write(sequence with { Blocks = [block] }));
        Assert.False(Prove(Accept(house, Edit.Of(sequence with { Commands = [] }, 1)), Hot).Passed);
    }

    [Fact]
    public void What_fails_says_what_it_was_and_why()
    {
        Proof proof = Prove(Project(), "start Monday 12:00\nset Room temperature to 28 °C\nexpect Extract fan on within 10 s\nexpect Room temperature between 27 and 29 °C\nwait until Extract fan on within 1 min\nexpect Extract fan off");
        Assert.False(proof.Passed);
        Assert.Equal([null, null, false, true, false], proof.Steps.Select(s => s.Passed));
        Assert.Equal("off all the time", proof.Steps[2].Says);
        Assert.Contains("is not over the limit 29.0 °C", proof.Steps[2].Why!.AsText());
        // A story that waits in vain ends there.
        Assert.Equal("wait until Extract fan on within 1 min", proof.Steps[^1].Line);
    }

    [Fact]
    public void A_fault_and_a_hand_and_a_power_cut_are_part_of_stories()
    {
        Assert.True(Prove(Project(), """
            start Wednesday 03:00
            set Room temperature to 31 °C
            expect Extract fan on within 2 s
            fail Room temperature
            expect Two-position in fault within 2 s
            expect Extract fan off within 2 s
            set Room temperature to 31 °C
            expect Extract fan on within 2 s
            set Extract fan to off
            expect Extract fan off for 10 s
            let go Extract fan
            expect Extract fan on within 2 s
            let go Room temperature
            expect Room temperature released within 2 s
            set Room temperature to 28 °C
            # What it had decided stands over the cut: between its thresholds it goes on.
            cut power for 1 min
            expect Extract fan on within 2 s
            set Room temperature to 26 °C
            expect Extract fan off within 2 s
            """) is var proof && proof.Passed, Failures(proof));
    }

    /// <summary>Clocks go forward on 29 March 2026 at 1:00 UTC: half past nine stays half past nine, and the night is an hour shorter.</summary>
    [Fact]
    public void A_story_lives_through_a_change_of_the_clocks()
    {
        Proof proof = Prove(Project(), "start 2026-03-28 15:59\nset Room temperature to 20 °C\nexpect Extract fan on\nexpect Extract fan off within 61 s for 1019 min\nexpect Extract fan on within 1 h\ngo on at Sunday 16:01\nexpect Extract fan off");
        Assert.True(proof.Passed, Failures(proof));
        // From Saturday 15:59 to Sunday 16:01 by the wall, less the hour.
        Assert.Equal((24 * 3600) + 120 - 3600, proof.Steps[^2].AtSeconds);
    }

    [Fact]
    public void A_test_comes_to_the_same_each_time_and_hides_nothing_short()
    {
        string text = "start Monday 12:00\nset Room temperature to 20 °C\nwait 3 h\nset Room temperature to 40 °C\nwait 2 s\nset Room temperature to 20 °C\nwait 3 h\nexpect Extract fan off";
        Proof proof = Prove(Project(), text), again = Prove(Project(), text);
        Assert.Equal(System.Text.Json.JsonSerializer.Serialize(proof, RecordJson.Options), System.Text.Json.JsonSerializer.Serialize(again, RecordJson.Options));
        // Two seconds in six hours, on a line of 160 stretches.
        Assert.Contains(40.0, proof.Story.Lines.First(l => l.Label == "Room temperature").Values);
        Assert.Contains(1.0, proof.Story.Lines.First(l => l.Label == "Extract fan").Values);
    }

    [Theory]
    [InlineData("set Room temperatur to 20 °C", 4, "‘Room tempera’ is none of what this sequence reads, decides or commands. There are Extract fan, Room temperature, High limit, Two-position.")]
    [InlineData("set Two-position to on", 4, "‘Two-position’ is a block, which says what follows from its inputs. Set a point that it reads.")]
    [InlineData("set Room temperature 20 °C", 21, "‘to’ is missing here, before ‘20 °C’.")]
    [InlineData("set Room temperature to warm", 24, "‘warm’ is not a number. Write digits, such as 21.5.")]
    [InlineData("set Room temperature to 20 kW", 27, "A value in °C is meant here, not a power (kW).")]
    [InlineData("set Room temperature to 20 furlong", 27, "‘furlong’ is not a known unit.")]
    [InlineData("expect Extract fan sideways", 19, "‘sideways’ is none of off, on.")]
    [InlineData("expect Extract fan on for 5", 27, "A time has a unit: s, min, h or d.")]
    [InlineData("expect Extract fan on for 5 min please", 32, "‘please’ is left over here.")]
    [InlineData("expect Room temperature between 30 and 20 °C", 31, "Nothing is between 30 and 20: write the lower one first.")]
    [InlineData("start Someday 08:00", 6, "‘Someday’ is neither a day of the week, such as Tuesday, nor a date, such as 2026-04-14.")]
    [InlineData("start 5 08:00", 6, "‘5’ is neither a day of the week, such as Tuesday, nor a date, such as 2026-04-14.")]
    [InlineData("go on at Monday 25:00", 16, "‘25:00’ is not a time of day, such as 08:50.")]
    [InlineData("wait 9 d", 0, "A step lasts from 0 s to 8 d, not 777600 s.")]
    [InlineData("wait -1 s", 0, "A step lasts from 0 s to 8 d, not -1 s.")]
    [InlineData("set ‘Room temperature to 20 °C", 4, "‘‘Room temper’ is none of what this sequence reads, decides or commands. There are Extract fan, Room temperature, High limit, Two-position.")]
    [InlineData("hope", 0, "A line begins with start, begin with, set, ramp, fail, let go, wait until, wait, expect, cut power for, go on at or #, such as ‘set Room temperature to 21 °C’.")]
    public void What_cannot_be_read_is_said_at_its_character(string line, int at, string sentence)
    {
        var (steps, problems) = TestText.Read("wait 1 s\n\n" + line, Of(Project()).Names);
        Assert.Single(steps);
        Assert.Equal([new TestProblem(3, at, sentence)], problems);
    }

    /// <summary>Any test that can be made is written as text that reads back to the same.</summary>
    [Property(MaxTest = 300)]
    public Property A_test_is_read_as_it_was_written() => Prop.ForAll(Gen.Choose(0, int.MaxValue).ToArbitrary(), seed =>
    {
        var random = new Random(seed);
        Project house = Project();
        var (_, names) = Of(house);
        TestSubject fan = new() { PointId = FanCommand }, room = new() { PointId = Temperature }, block = new() { BlockId = "high" };
        double Time() => random.Next(4) switch { 0 => random.Next(1, 100), 1 => 60 * random.Next(1, 100), 2 => 3600 * random.Next(1, 10), _ => Math.Round(random.NextDouble() * 100, 2) };
        double Number() => Math.Round((random.NextDouble() * 100) - 50, random.Next(4));
        TestMoment Moment() => random.Next(2) == 0 ? new TestMoment { Day = (IsoDayOfWeek)random.Next(1, 8), Seconds = random.Next(86_400) } : new TestMoment { Date = "2026-10-25", Seconds = 60 * random.Next(1440) };
        (TestSubject, TestCondition) Condition() => random.Next(7) switch
        {
            0 => (fan, new TestCondition(TestRelation.Is, random.Next(2))),
            1 => (block, new TestCondition(TestRelation.Released)),
            2 => (room, new TestCondition(TestRelation.InFault)),
            3 => (room, new TestCondition(TestRelation.Above, Number())),
            4 => (room, new TestCondition(TestRelation.Below, Number())),
            5 => (room, new TestCondition(TestRelation.Between, -50, Math.Abs(Number()))),
            _ => (room, new TestCondition(TestRelation.Is, Number())),
        };
        TestStep[] steps = [.. Enumerable.Range(0, random.Next(1, 12)).Select(TestStep (_) =>
        {
            var (subject, condition) = Condition();
            return random.Next(10) switch
            {
                0 => new StartStep(Moment()),
                1 => new SetStep(Number()) { Subject = room },
                2 => new SetStep(random.Next(2)) { Subject = fan },
                3 => new RampStep(Number(), Time()) { Subject = room },
                4 => new FailStep { Subject = room },
                5 => new LetGoStep { Subject = fan },
                6 => new WaitUntilStep(condition, Time()) { Subject = subject },
                7 => new CutPowerStep(Time()),
                8 => new GoOnAtStep(Moment()),
                _ => new ExpectStep(condition, random.Next(2) * Time(), random.Next(2) * Time()) { Subject = subject },
            };
        }), new NoteStep("as asked"), new WaitStep(Time())];
        var (read, problems) = TestText.Read(TestText.Write(steps, names), names);
        return problems.Count == 0 && read.SequenceEqual(steps);
    });

    /// <summary>Names that begin like others, names that are words of the grammar, states that are called like conditions.</summary>
    [Fact]
    public void Odd_names_are_read_as_they_were_written()
    {
        string[] texts = ["on", "on for", "released", "above all", "in fault", "‘odd’"];
        string[] called = ["Fan", "Fan status", "Fan ‘odd’ 2", "Fan on", "Fan on for", "to", "‘Quoted’", "within 5 s"];
        Project house = Accept(Project(), [.. called.Select((n, i) => (ProjectRecord)new Point { Id = new($"odd-{i}"), Name = n, OwnerId = Fan, Kind = PointKind.Multistate, Role = PointRole.Value, StateTexts = texts })]);
        var (sequence, names) = Of(house);
        TestStep[] steps =
        [
            .. called.SelectMany((_, i) => texts.SelectMany((_, s) => new TestStep[]
            {
                new SetStep(s + 1) { Subject = new TestSubject { PointId = new($"odd-{i}") } },
                new ExpectStep(new TestCondition(TestRelation.Is, s + 1), 5, 7) { Subject = new TestSubject { PointId = new($"odd-{i}") } },
            })),
            .. called.Select((_, i) => new ExpectStep(new TestCondition(TestRelation.Released)) { Subject = new TestSubject { PointId = new($"odd-{i}") } }),
            new WaitStep(1e-5),
            new SetStep(1e20) { Subject = new TestSubject { PointId = Temperature } },
        ];
        string text = TestText.Write(steps, names);
        var (read, problems) = TestText.Read(text, names);
        Assert.Empty(problems);
        Assert.Equal(steps, read);
        // Only what could be taken for another is put in quotes.
        Assert.Contains("expect Fan status ‘on’ within 5 s for 7 s", text);
        Assert.Contains("expect Extract fan on", TestText.Write(TestText.Read("expect Extract fan on", names).Steps, names));
        Assert.True(ProofBench.Prove(house, sequence, new FunctionTest { Id = "t", Name = "t", Steps = [.. steps.Take(60)] }).Passed);
    }

    [Fact]
    public void What_is_commanded_cannot_fail_and_a_story_without_end_is_cut_short()
    {
        Assert.Equal("it is commanded, not measured: only what is measured can fail.", Prove(Project(), "fail Extract fan").Steps[0].Says);
        Project house = Project();
        var (sequence, _) = Of(house);
        house = Accept(house, Edit.Of(sequence with { ScanSeconds = 0.1 }, 1));
        Proof proof = Prove(house, "set Room temperature to 20 °C\nwait 7 d\nexpect Extract fan off");
        Assert.Contains("1,000,000 scans", proof.Steps[^1].Says);
        Assert.False(proof.Passed);
    }

    [Fact]
    public void Tests_stay_with_the_design_follow_their_points_and_say_when_one_has_gone()
    {
        Project house = Project();
        var (sequence, names) = Of(house);
        FunctionTest test = new() { Id = "t", Name = "Hot", Steps = TestText.Read(Hot, names).Steps };
        house = Accept(house, Edit.Of(sequence with { Tests = [test] }, 1));
        sequence = house.Find<Sequence>(KilnRoom.Sequence)!;
        // No controller is sent a test, so that rewriting one leaves none behind.
        Assert.Empty(ControllerImage.Build(house, house.Find<Core.Hardware.Controller>(Controller)!).Records.OfType<Sequence>().Single().Tests);
        // Renamed, a point is called by its new name.
        var point = (Point)house.Find(Temperature)!;
        Project renamed = Accept(house, Edit.Of(point with { Name = "Air" }, 1));
        Assert.Contains("set Air to 28 °C", TestText.Write(test.Steps, new SubjectNames(renamed, sequence)));
        Assert.True(ProofBench.Prove(renamed, sequence, test).Passed);
        // What rests on what: another limit makes it another proof, another clause does not.
        string rests = ProofBench.Rests(house, sequence, test);
        Assert.Equal(rests, ProofBench.Rests(house, sequence with { Clauses = [new Clause { Id = "c", Text = "Words." }] }, test));
        Assert.NotEqual(rests, ProofBench.Rests(Accept(house, Edit.Of((Point)house.Find(Limit)! with { Fallback = 30 }, 1)), sequence, test));
        Assert.NotEqual(rests, ProofBench.Rests(house, sequence, test with { Steps = [.. test.Steps.Skip(1)] }));
        // Let go of, a point is missed where the story needs it.
        TestStep gone = test.Steps[1] with { Subject = new TestSubject() };
        Proof proof = ProofBench.Prove(house, sequence, test with { Steps = [gone] });
        Assert.Equal((false, "what it is about is no longer there."), (proof.Passed, proof.Steps[0].Says));
    }

    [Fact]
    public void What_no_test_can_be_is_refused()
    {
        Project house = Project();
        var (sequence, _) = Of(house);
        void Refused(FunctionTest test, string sentence) => Assert.Contains(KilnRoom.Refused(house, Edit.Of(sequence with { Tests = [test] }, 1)), r => r.Sentence == sentence);
        Refused(new FunctionTest { Id = "t", Name = " " }, "A test needs a name of 1 to 80 characters; this one has 1.");
        Refused(new FunctionTest { Id = "T", Name = "x" }, "‘T’ is not a test identity: use 1 to 64 of a–z, 0–9 and hyphen.");
        Refused(new FunctionTest { Id = "t", Name = "x", Steps = [.. Enumerable.Repeat(new WaitStep(1), 201)] }, "A test has at most 200 steps; ‘x’ has 201. Split it.");
        Refused(new FunctionTest { Id = "t", Name = "x", Steps = [new WaitStep(500_000), new WaitStep(500_000)] }, "‘x’ would last 11.6 days; a test lasts at most 8.");
        Refused(new FunctionTest { Id = "t", Name = "x", Steps = [new StartStep(new TestMoment { Date = "2026-02-30" })] }, "‘x’: ‘2026-02-30’ is no date such as 2026-04-14.");
        // A story of moments ends where it would last too long.
        Assert.Contains("days from the beginning", ProofBench.Prove(house, sequence, new FunctionTest { Id = "t", Name = "x", Steps = [new WaitStep(500_000), new GoOnAtStep(new TestMoment { Date = "2026-05-01" })] }).Steps[^1].Says);
    }
}
