using LoftyWren.Core.Devices;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Findings;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Controllers;

/// <summary>The kiln room story, step by step. 2026-04-15 is a Wednesday; every figure is the story's own.</summary>
public class KilnRoomStoryTests
{
    [Fact]
    public void The_extract_fan_follows_hours_at_16_and_heat_at_10()
    {
        ControllerEngine engine = Engine(Project());

        engine.ScanAt(At(2026, 4, 15, 10, 0), 25.0);
        AssertFan(engine, on: true, by: 16);

        engine.ScanAt(At(2026, 4, 15, 20, 0), 25.0);
        AssertFan(engine, on: false, by: 16);

        engine.ScanAt(At(2026, 4, 15, 20, 5), 29.6);
        AssertFan(engine, on: true, by: 10);
        Assert.Contains("29.6 °C is over the limit 29.0 °C; on since 20:05", engine.Explain(FanCommand)!.AsText());
        Assert.Contains("It will release below 27.0 °C.", engine.Explain(FanCommand)!.AsText());

        engine.ScanAt(At(2026, 4, 15, 20, 30), 27.4);
        AssertFan(engine, on: true, by: 10);

        engine.ScanAt(At(2026, 4, 15, 20, 40), 26.9);
        AssertFan(engine, on: false, by: 16);
        Assert.Equal("released", engine.ViewLadder(FanCommand)!.Rungs.Single(r => r.Priority == 10).Says);
    }

    [Fact]
    public void Command_off_keeps_the_fan_off_in_opening_hours_and_a_finding_says_why_beforehand()
    {
        var project = Project(idle: "off");
        Finding finding = Assert.Single(FindingsIndex.Full(project).All, f => f.Code == "masked-claim");
        Assert.Equal("On ‘Extract fan’, claim 16 ‘Opening hours’ can never speak.", finding.What);
        Assert.Equal(Severity.High, finding.Severity);

        ControllerEngine engine = Engine(project);
        engine.ScanAt(At(2026, 4, 15, 10, 0), 25.0);
        AssertFan(engine, on: false, by: 10);

        var mended = Accept(project, [.. finding.Fixes[0].Edits]);
        Assert.DoesNotContain(FindingsIndex.Full(mended).All, f => f.Code == "masked-claim");
        ControllerEngine after = Engine(mended);
        after.ScanAt(At(2026, 4, 15, 10, 0), 25.0);
        AssertFan(after, on: true, by: 16);
    }

    [Fact]
    public void A_broken_sensor_releases_the_claim_and_the_explanation_names_the_terminal()
    {
        ControllerEngine engine = Engine(Project());
        engine.ScanAt(At(2026, 4, 15, 20, 5), 29.6);
        engine.RawInputs[engine.IndexOf("UI1")] = 100_000;
        engine.Scan(At(2026, 4, 15, 20, 6));
        AssertFan(engine, on: false, by: 16);
        Assert.Contains("KH-C1 UI1 reads 100000.0 Ω, open circuit", engine.Explain(Temperature)!.AsText());
        Assert.Contains("says nothing: Room temperature has no usable value", engine.Explain(FanCommand)!.AsText());
    }

    [Fact]
    public void A_changed_program_keeps_the_state_of_blocks_that_stay()
    {
        ControllerEngine engine = Engine(Project());
        engine.ScanAt(At(2026, 4, 15, 20, 5), 29.6);
        ControllerEngine next = Engine(Project(differential: 1.9));
        next.Recall(engine.Remember(), Resumption.TakesOver);
        // 27.4 °C lies between 27.1 and 29.0: only a block that remembers it was on stays on.
        next.ScanAt(At(2026, 4, 15, 20, 6), 27.4);
        AssertFan(next, on: true, by: 10);
        ControllerEngine fresh = Engine(Project(differential: 1.9));
        fresh.ScanAt(At(2026, 4, 15, 20, 6), 27.4);
        AssertFan(fresh, on: false, by: 16);
    }

    [Fact]
    public void A_hold_by_hand_wins_at_8_ends_by_itself_and_says_who_and_why()
    {
        ControllerEngine engine = Engine(Project());
        engine.ScanAt(At(2026, 4, 15, 20, 5), 29.6);
        engine.HoldByHand(new Hold(FanCommand, 0, "operator", "belt being changed", At(2026, 4, 15, 20, 5), At(2026, 4, 15, 21, 0)));
        engine.ScanAt(At(2026, 4, 15, 20, 6), 29.6);
        AssertFan(engine, on: false, by: 8);
        Assert.Contains("held by hand by operator until 21:00, “belt being changed”", engine.Explain(FanCommand)!.AsText());
        Assert.Equal("If 8 let go, 10 High temperature would make it on.", engine.ViewLadder(FanCommand)!.IfReleased);
        engine.ScanAt(At(2026, 4, 15, 21, 0), 29.6);
        AssertFan(engine, on: true, by: 10);
    }

    [Fact]
    public void A_scan_allocates_nothing()
    {
        ControllerEngine engine = Engine(Project());
        long now = At(2026, 4, 15, 12, 0);
        for (int i = 0; i < 100; i++) engine.ScanAt(now + (i * 1000), 28 + (i % 3));
        long before = GC.GetAllocatedBytesForCurrentThread();
        for (int i = 100; i < 1100; i++) engine.ScanAt(now + (i * 1000), 28 + (i % 3));
        Assert.Equal(before, GC.GetAllocatedBytesForCurrentThread());
    }

    private static void AssertFan(ControllerEngine engine, bool on, int by)
    {
        Assert.Equal(on ? 1 : 0, engine.Read(FanCommand)!.Value.Value);
        Assert.Equal(by, engine.LadderOf(FanCommand)!.Winner);
        Assert.Equal(on ? 1 : 0, engine.RawOutputs[engine.IndexOf("RO1")]);
    }
}
