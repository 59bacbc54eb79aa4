using LoftyWren.Core.Devices;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Status;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Controllers;

/// <summary>Why? in the engine's words, for outputs, for missing values, for alarms that are and that are not.</summary>
public class ExplanationTests
{
    private static readonly AlarmRule TooWarm = new() { Id = new("too-warm"), Name = "Kiln room too warm", PointId = Temperature, HighLimit = 29, Deadband = 0.5, DelaySeconds = 300, DelayNormalSeconds = 60 };

    private static ControllerEngine Watched() => Engine(Accept(Project(), TooWarm));

    private static string Alarm(ControllerEngine engine) => engine.ExplainAlarm(TooWarm.Id)!.AsText();

    [Fact]
    public void An_alarm_that_is_not_says_by_how_much_and_that_short_ones_do_not_count()
    {
        ControllerEngine engine = Watched();
        engine.ScanAt(At(2026, 4, 15, 10, 0), 25);
        Assert.Equal("‘Kiln room too warm’ is not in alarm: Room temperature is 25.0 °C, which is not above 29.0 °C.\n  A value beyond a limit must stay there for 5 min to count; a shorter one is not reported.", Alarm(engine));
    }

    [Fact]
    public void An_alarm_on_its_way_says_when_it_will_come_and_one_that_came_what_ends_it()
    {
        ControllerEngine engine = Watched();
        engine.ScanAt(At(2026, 4, 15, 10, 36), 29.7);
        Assert.Contains("is not in alarm yet: Room temperature is 29.7 °C, beyond 29.0 °C since 10:36, but must be so for 5 min.", Alarm(engine));
        Assert.Contains("It will be in alarm at 10:41 if it stays so.", Alarm(engine));
        engine.ScanAt(At(2026, 4, 15, 10, 41), 29.7);
        Assert.Contains("is in alarm since 10:41: Room temperature had been above 29.0 °C for 5 min.", Alarm(engine));
        Assert.Contains("It goes back to normal once it has been below 28.5 °C (the limit less 0.5 K deadband) for 60 s.", Alarm(engine));
        Assert.True((engine.Read(Temperature)!.Value.Status & StatusFlags.InAlarm) != 0);
        engine.ScanAt(At(2026, 4, 15, 10, 50), 28);
        Assert.Contains("It has been below 28.5 °C since 10:50; it goes back to normal 60 s after that.", Alarm(engine));
        AlarmEvent came = Assert.Single(engine.EventsAfter(0));
        Assert.Equal((1L, EventState.Normal, EventState.HighLimit), (came.Number, came.From, came.To));
    }

    [Fact]
    public void An_alarm_without_a_value_says_why_it_cannot_tell()
    {
        ControllerEngine engine = Watched();
        engine.Scan(At(2026, 4, 15, 10, 0));
        Assert.Contains("cannot tell: Room temperature has no value to compare with its limits, since 10:00.", Alarm(engine));
        Assert.Contains("KH-C1 UI1 reads nothing connected", Alarm(engine));
    }

    [Fact]
    public void An_event_nobody_has_collected_outlives_a_changed_program_and_no_number_is_given_twice()
    {
        ControllerEngine before = Watched();
        before.Scan(At(2026, 4, 15, 10, 0));
        before.ScanAt(At(2026, 4, 15, 10, 1), 25);
        ControllerEngine after = Watched();
        string kept = System.Text.Json.JsonSerializer.Serialize(before.Remember(), RecordJson.Options);
        after.Recall(System.Text.Json.JsonSerializer.Deserialize<EngineMemory>(kept, RecordJson.Options)!, Resumption.AfterPause);
        Assert.Equal(before.EventsAfter(0), after.EventsAfter(0));
        Assert.Equal([EventState.Fault, EventState.Normal], after.EventsAfter(0).Select(e => e.To));
        // Whoever collects has seen up to 7, more than was kept before a crash.
        after.NumberEventsAfter(7);
        after.Scan(At(2026, 4, 15, 10, 2));
        Assert.Equal([8], after.EventsAfter(7).Select(e => e.Number));
    }

    [Fact]
    public void Another_days_time_comes_with_its_date()
    {
        ControllerEngine engine = Watched();
        engine.ScanAt(At(2026, 4, 15, 22, 0), 30);
        engine.ScanAt(At(2026, 4, 15, 22, 5), 30);
        engine.ScanAt(At(2026, 4, 16, 7, 0), 30);
        Assert.Contains("is in alarm since 22:05 on Wed 15 Apr", Alarm(engine));
    }

    [Fact]
    public void A_measured_value_says_what_the_terminal_measures()
    {
        ControllerEngine engine = Engine(Project());
        engine.ScanAt(At(2026, 4, 15, 10, 0), 29.6);
        Assert.Equal("Room temperature is 29.6 °C.\n  KH-C1 UI1 measures 1115.2 Ω, Pt1000 by the IEC 60751 curve.", engine.Explain(Temperature)!.AsText());
    }

    [Fact]
    public void A_setpoint_is_as_the_design_sets_it_and_a_free_output_has_its_fallback()
    {
        ControllerEngine engine = Engine(Accept(Project(), [.. Removal.Of(Project(), [KilnRoom.Sequence, Hours]).Edits]));
        engine.ScanAt(At(2026, 4, 15, 10, 0), 25);
        Assert.Equal("High limit is 29.0 °C, as it is set in the design.", engine.Explain(Limit)!.Fact);
        Assert.Equal("Extract fan is off, its fallback: nothing claims it.", engine.Explain(FanCommand)!.Fact);
    }

    [Fact]
    public void A_hold_that_is_released_between_two_scans_is_explained_at_every_moment()
    {
        ControllerEngine engine = Watched();
        engine.ScanAt(At(2026, 4, 15, 10, 0), 25);
        engine.HoldByHand(new Hold(FanCommand, 1, "engineer", "test", 0, null));
        Assert.NotNull(engine.Explain(FanCommand));
        engine.ScanAt(At(2026, 4, 15, 10, 1), 25);
        Assert.Contains("held by hand by engineer", engine.Explain(FanCommand)!.Fact);
        engine.ReleaseHold(FanCommand);
        Assert.Equal("Extract fan is still on: the hold was released after the last scan; the next scan decides again.", engine.Explain(FanCommand)!.Fact);
        Assert.NotNull(engine.ViewLadder(FanCommand));
        engine.ScanAt(At(2026, 4, 15, 10, 2), 25);
        Assert.DoesNotContain("held", engine.Explain(FanCommand)!.Fact);
    }

    [Fact]
    public void Every_fact_rests_on_records_that_exist()
    {
        ControllerEngine engine = Watched();
        engine.ScanAt(At(2026, 4, 15, 20, 5), 29.6);
        var known = Project().Records.Select(r => r.Id).Append(TooWarm.Id).ToHashSet();
        void Walk(Because because)
        {
            Assert.All(because.Records, id => Assert.Contains(id, known));
            foreach (Because under in because.Under) Walk(under);
        }
        Walk(engine.Explain(FanCommand)!);
        Walk(engine.ExplainAlarm(TooWarm.Id)!);
    }

    [Fact]
    public void A_point_that_never_reached_the_site_says_where_it_stopped()
    {
        Project project = Project();
        Point point = project.Find<Point>(Temperature)!;
        Assert.Contains("KH-C1 runs nothing yet", NoValue.Explain(project, point, _ => (false, false)).Fact);
        Assert.Contains("the program that runs there does not know it", NoValue.Explain(project, point, _ => (true, false)).Fact);
        Assert.Contains("has not scanned since it was sent", NoValue.Explain(project, point, _ => (true, true)).Fact);
        Assert.Contains("is on no terminal", NoValue.Explain(Accept(project, Edit.Removing(new("f1"))), point, _ => (true, true)).Fact);
        Assert.Contains("is not watched on the site", NoValue.ExplainAlarm(Accept(project, TooWarm), TooWarm, _ => (true, false)).Fact);
    }

    [Fact]
    public void Sequences_run_at_their_own_periods_and_producers_before_consumers()
    {
        Project project = Accept(Project(),
            new Point { Id = new("a-flag"), Name = "Flag", OwnerId = Fan, Kind = PointKind.Binary, Role = PointRole.Value, StateTexts = ["off", "on"], Fallback = 0 },
            new Point { Id = new("lamp"), Name = "Lamp", OwnerId = Fan, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 },
            new Fitting { Id = new("f7"), Name = "value", ControllerId = KilnRoom.Controller, PointId = new("a-flag"), Terminal = "value", Signal = Signal.Memory },
            new Fitting { Id = new("f8"), Name = "RO2", ControllerId = KilnRoom.Controller, PointId = new("lamp"), Terminal = "RO2", Signal = Signal.Relay });
        Sequence Make(string id, string name, RecordId output, Block block) => new() { Id = new(id), Name = name, EquipmentId = Fan, ControllerId = KilnRoom.Controller, ScanSeconds = 10, Blocks = [block], Commands = [new OutputCommand { PointId = output, Claims = [new Claim { Priority = 12, Source = new BlockSource(block.Id) }] }] };
        // By its id the consumer would come first; it must see the flag of the same scan all the same.
        project = Accept(project,
            Make("a-consumer", "Consumer", new("lamp"), new Block { Id = "n", Kind = BlockKind.And, Inputs = new Dictionary<string, Source> { ["in1"] = new PointSource(new("a-flag")) } }),
            Make("z-producer", "Producer", new("a-flag"), new Block { Id = "g", Kind = BlockKind.Gt, Inputs = new Dictionary<string, Source> { ["in1"] = new PointSource(Temperature), ["in2"] = new ConstantSource(20, "°C") } }));
        ControllerEngine engine = Engine(project);
        long start = At(2026, 4, 15, 10, 0);
        engine.ScanAt(start, 25);
        Assert.Equal(1, engine.Read(new("lamp"))!.Value.Value);
        engine.ScanAt(start + 9000, 15);
        Assert.Equal(1, engine.Read(new("lamp"))!.Value.Value);
        engine.ScanAt(start + 10_000, 15);
        Assert.Equal(0, engine.Read(new("lamp"))!.Value.Value);
    }

    [Fact]
    public void A_schedule_as_a_source_follows_the_clock()
    {
        var sequence = Project().Find<Sequence>(KilnRoom.Sequence)!;
        Project project = Accept(Project(), sequence with { Blocks = [.. sequence.Blocks, new Block { Id = "closed", Kind = BlockKind.Not, Inputs = new Dictionary<string, Source> { ["in"] = new ScheduleSource(Hours) } }] });
        ControllerEngine engine = Engine(project);
        engine.ScanAt(At(2026, 4, 15, 8, 59, 59), 25);
        Assert.Equal(1, engine.SourceOfPin(KilnRoom.Sequence, "closed", "out")!.Read().Value);
        engine.ScanAt(At(2026, 4, 15, 9, 0), 25);
        Assert.Equal(0, engine.SourceOfPin(KilnRoom.Sequence, "closed", "out")!.Read().Value);
        Assert.Equal(1, engine.SourceOfSchedule(Hours)!.Read().Value);
        Assert.Null(engine.SourceOfPin(KilnRoom.Sequence, "no-such", "out"));
        Assert.Equal("open", project.Find<Schedule>(Hours)!.Say(1));
    }

    [Fact]
    public void An_image_that_names_no_known_model_does_not_start()
    {
        var image = Core.Images.ControllerImage.Build(Project(), Project().Find<Core.Hardware.Controller>(KilnRoom.Controller)!);
        Assert.Throws<InvalidOperationException>(() => (object)new ControllerEngine(image with { Controller = image.Controller with { ModelId = "zeppelin" } }));
    }

    // High limit removed and sent while at HIGH_LIMIT: Why? answers before the next scan, and that scan ends the alarm.
    [Fact]
    public void An_alarm_whose_limit_was_taken_away_says_so_and_ends_at_the_next_scan()
    {
        ControllerEngine engine = Watched();
        for (int minute = 0; minute <= 6; minute++) engine.ScanAt(At(2026, 4, 15, 10, minute), 35);
        Assert.Contains("is in alarm since 10:05", Alarm(engine));
        ControllerEngine sent = Engine(Accept(Project(), TooWarm with { HighLimit = null, LowLimit = 5 }));
        sent.Recall(engine.Remember(), Resumption.TakesOver);
        Assert.Contains("the limit it had passed is taken away: it is normal again at the next scan", Alarm(sent));
        sent.ScanAt(At(2026, 4, 15, 10, 7), 20);
        Assert.Contains("is not in alarm", Alarm(sent));
        Assert.Equal(EventState.Normal, sent.EventsAfter(0)[^1].To);
    }

    [Fact]
    public void A_delay_that_runs_goes_on_over_a_send()
    {
        ControllerEngine engine = Watched();
        engine.ScanAt(At(2026, 4, 15, 10, 0), 35);
        engine.ScanAt(At(2026, 4, 15, 10, 4), 35);
        ControllerEngine sent = Watched();
        sent.Recall(engine.Remember(), Resumption.TakesOver);
        sent.ScanAt(At(2026, 4, 15, 10, 5), 35);
        Assert.Contains("is in alarm since 10:05", Alarm(sent));
    }

    [Fact]
    public void A_claim_beyond_what_the_output_can_be_is_held_at_its_limit_and_Why_says_so()
    {
        Project house = Accept(Project(),
            new Point { Id = new("valve"), Name = "Valve", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Low = 0, High = 80, Fallback = 0 },
            new Fitting { Id = new("f9"), Name = "AO1", ControllerId = KilnRoom.Controller, PointId = new("valve"), Terminal = "AO1", Signal = Signal.Volts },
            new Sequence { Id = new("too-much"), Name = "Too much", EquipmentId = Fan, ControllerId = KilnRoom.Controller, Commands = [new OutputCommand { PointId = new("valve"), Claims = [new Claim { Priority = 14, Label = "Full", Source = new ConstantSource(150, "%") }] }] });
        ControllerEngine engine = Engine(house);
        engine.ScanAt(At(2026, 4, 15, 10, 0), 20);
        Assert.Equal(80, engine.Read(new("valve"))!.Value.Value);
        // 80 % of 0–100 % on 0–10 V.
        Assert.Equal(8, engine.RawOutputs[engine.IndexOf("AO1")], 1e-9);
        Assert.Contains("says 150.0 %, and 80.0 % is the nearest it can be", engine.Explain(new("valve"))!.AsText());
    }
}
