using System.Text.Json;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Proofs;

/// <summary>What it would take: tried beside what runs. The figures are those of the two-position block of the kiln room: on above its limit of 29 °C.</summary>
public class WhyNotTests
{
    // A Monday: closed; open again on Tuesday at nine.
    private static readonly long Noon = At(2026, 4, 13, 12, 0);
    private static readonly TestCondition On = new(TestRelation.Is, 1);

    private static ControllerEngine Running(Project project, double celsius = 20)
    {
        ControllerEngine engine = Engine(project);
        for (int s = 0; s < 3; s++) engine.ScanAt(Noon + (s * 1000), celsius);
        return engine;
    }

    [Fact]
    public void Each_single_thing_that_would_do_is_named_with_the_least_that_does()
    {
        ControllerEngine engine = Running(Project());
        string before = JsonSerializer.Serialize(engine.Remember(), RecordJson.Options);
        Because why = WhyNot.Ask(engine.Standstill(), FanCommand, On)!;
        Assert.Equal("For Extract fan to be on within 15 min, any of these would do; all else stays as it is.", why.Fact);
        string[] ways = [.. why.Under.Select(u => u.Fact)];
        Assert.Contains("If nothing is otherwise, it comes to that by itself at Tue 09:00:00.", ways);
        Assert.Contains("If Room temperature were 29.1 °C or more (it is 20.0 °C), it would be so at once.", ways);
        Assert.Contains("If High limit were 19.9 °C or less (it is 29.0 °C), it would be so after 2 s.", ways);
        Assert.Contains("If Opening hours said open (it says closed), it would be so at once.", ways);
        // What runs is not touched.
        Assert.Equal(before, JsonSerializer.Serialize(engine.Remember(), RecordJson.Options));
    }

    [Fact]
    public void A_hold_that_keeps_it_is_named_and_what_is_so_already_is_said()
    {
        ControllerEngine engine = Running(Project(), 40);
        Assert.Equal("Extract fan is on already.", WhyNot.Ask(engine.Standstill(), FanCommand, On)!.Fact);
        engine.HoldByHand(new Hold(FanCommand, 0, "Technician", "smoke test", Noon, null));
        engine.ScanAt(Noon + 4000, 40);
        Because why = WhyNot.Ask(engine.Standstill(), FanCommand, On)!;
        Assert.Equal(["If Technician let Extract fan go, it would be so at once."], why.Under.Where(u => u.Weight == Weight.Decides).Select(u => u.Fact));
    }

    [Fact]
    public void Two_together_are_found_where_none_alone_does_and_delays_are_told()
    {
        var (doorId, keyId) = (new RecordId("door"), new RecordId("key"));
        Project project = Accept(Project(),
            new Point { Id = doorId, Name = "Door", OwnerId = Room, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["open", "shut"] },
            new Point { Id = keyId, Name = "Key", OwnerId = Room, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["out", "in"] },
            new Fitting { Id = new("f8"), Name = "UI2", ControllerId = KilnRoom.Controller, PointId = doorId, Terminal = "UI2", Signal = Signal.Find("dryContact")! },
            new Fitting { Id = new("f9"), Name = "UI3", ControllerId = KilnRoom.Controller, PointId = keyId, Terminal = "UI3", Signal = Signal.Find("dryContact")! });
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        project = Accept(project,
            project.Find<Core.Schedules.Schedule>(Hours)! with { Drives = [] },
            sequence with
            {
                Blocks =
                [
                    new Block { Id = "both", Kind = BlockKind.And, Inputs = new Dictionary<string, Source> { ["in1"] = new PointSource(doorId), ["in2"] = new PointSource(keyId) } },
                    new Block { Id = "wait", Kind = BlockKind.Ton, Numbers = new Dictionary<string, double> { ["pt"] = 60 }, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("both") } },
                ],
                Commands = [new OutputCommand { PointId = FanCommand, Claims = [new Claim { Priority = 10, Source = new BlockSource("wait") }] }],
            });
        ControllerEngine engine = Engine(project);
        foreach (string terminal in (string[])["UI2", "UI3"]) engine.RawInputs[engine.IndexOf(terminal)] = 0;
        for (int s = 0; s < 3; s++) engine.Scan(Noon + (s * 1000));
        Because why = WhyNot.Ask(engine.Standstill(), FanCommand, On)!;
        Assert.Equal("If Door were shut (it is open) and Key were in (it is out), it would be so after 61 s.", Assert.Single(why.Under).Fact);
        // Where nothing that is read can do it, that is said.
        Because never = WhyNot.Ask(Running(Accept(project, project.Find<Sequence>(KilnRoom.Sequence)! with { Blocks = [], Commands = [new OutputCommand { PointId = FanCommand }] })).Standstill(), FanCommand, On)!;
        Assert.Equal("Nothing that leads to it makes Extract fan to be on within 15 min, neither alone nor two together: no logic reads anything for it. Holding it by hand would, where nothing stronger speaks.", never.Fact);
    }

    /// <summary>Every number that is named does what is said when the controller itself comes to it, and a little less does not.</summary>
    [Fact]
    public void What_is_said_comes_true_on_the_controller_itself()
    {
        var random = new Random(13);
        for (int round = 0; round < 12; round++)
        {
            double differential = 0.5 + (random.NextDouble() * 6), celsius = 10 + (random.NextDouble() * 15);
            Project project = Project(random.Next(2) == 0 ? "release" : "off", differential);
            Because why = WhyNot.Ask(Running(project, celsius).Standstill(), FanCommand, On)!;
            string way = why.Under.Select(u => u.Fact).Single(f => f.StartsWith("If Room temperature were", StringComparison.Ordinal));
            double value = double.Parse(way.Split(' ')[4], System.Globalization.CultureInfo.InvariantCulture);
            foreach (var (at, expected) in ((double, double)[])[(value + 0.01, 1), (value - 0.2, 0)])
            {
                ControllerEngine engine = Running(project, celsius);
                for (int s = 4; s < 10; s++) engine.ScanAt(Noon + (s * 1000), at);
                Assert.Equal((way, at, expected), (way, at, engine.Read(FanCommand)!.Value.Value));
            }
        }
    }

    /// <summary>The worst shape: as many blocks as a sequence holds, ten scans a second. It is bounded by what is calculated, says that it was, and what it names is true all the same.</summary>
    [Fact]
    public void A_large_sequence_is_asked_no_longer_than_a_small_one()
    {
        Project project = Project();
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        project = Accept(project, sequence with { ScanSeconds = 0.1, Blocks = [.. sequence.Blocks, .. Enumerable.Range(0, Core.Sequences.Sequence.MostBlocks - 1).Select(i => new Block { Id = $"n{i}", Kind = BlockKind.Not, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource(i == 0 ? "high" : $"n{i - 1}") } })] });
        var watch = System.Diagnostics.Stopwatch.StartNew();
        Because why = WhyNot.Ask(Running(project).Standstill(), FanCommand, On)!;
        Assert.Contains(why.Under, u => u.Fact == "There is more than could be tried in one go.");
        Assert.Contains(why.Under, u => u.Fact.StartsWith("If Room temperature were", StringComparison.Ordinal));
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(30), $"It took {watch.Elapsed}.");
        Assert.NotNull(OutputTrials.Of(Running(project).Standstill(), FanCommand));
    }

    [Fact]
    public void What_an_output_does_when_something_befalls_it_is_tried()
    {
        ControllerEngine engine = Running(Project(), 40);
        var trials = OutputTrials.Of(engine.Standstill(), FanCommand)!.ToDictionary(t => t.When, t => t.Says);
        Assert.Equal("on", trials["power was gone for 30 s"]);
        Assert.Equal("RO1 is at rest: open", trials["its program is stopped, or power is gone"]);
        // The block has no value then and lets go; the schedule is closed.
        Assert.Equal("off", trials["Room temperature is lost"]);
        Assert.Null(OutputTrials.Of(engine.Standstill(), Temperature));
        Assert.Null(WhyNot.Ask(engine.Standstill(), new("nothing"), On));
    }
}
