using LoftyWren.Core.Controllers;
using LoftyWren.Core.Proofs;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Controllers;

/// <summary>The last scans of a sequence, kept while somebody looks.</summary>
public class KeptScansTests
{
    private const string High = "b:fan-seq/high/out", Air = "p:room-temp", Fan = "p:fan-cmd";
    private static readonly long Noon = At(2026, 4, 13, 12, 0);

    [Fact]
    public void Each_scan_is_kept_as_it_was_and_one_steps_back_through_them()
    {
        ControllerEngine engine = Engine(Project());
        engine.ScanAt(Noon, 20);
        Assert.Null(engine.Kept(Sequence));
        Assert.Null(engine.Keep(new("nothing"), [Air], null));
        Assert.Empty(engine.Keep(Sequence, [Air, High, Fan, "p:gone"], null)!.At);
        for (int s = 1; s <= 30; s++) engine.ScanAt(Noon + (s * 1000), 20 + s);
        KeptScans kept = engine.Kept(Sequence)!;
        Assert.Equal((1L, 30, Noon + 1000), (kept.First, kept.At.Count, kept.At[0]));
        var keeper = (IScanKeeper)engine;
        // On above 29 °C: not at the ninth, which is at 29 °C; at the tenth.
        Assert.Equal(29, keeper.Scan(Sequence, 9)![0].Value, 3);
        Assert.True(keeper.Scan(Sequence, 9)![1].IsReleased);
        Assert.Equal((1d, 1d), (keeper.Scan(Sequence, 10)![1].Value, keeper.Scan(Sequence, 10)![2].Value));
        Assert.True(keeper.Scan(Sequence, 10)![3].IsReleased);
        Assert.Equal(Enumerable.Range(21, 30).Select(v => (double)v), engine.Course(Sequence, Air)!.Select(r => Math.Round(r.Value, 3)));
        Assert.Null(keeper.Scan(Sequence, 31));
        Assert.Null(keeper.Scan(Sequence, 0));
        Assert.Null(engine.Course(Sequence, "p:other"));
    }

    [Fact]
    public void What_is_old_falls_away_and_a_scan_takes_no_room_for_it()
    {
        ControllerEngine engine = Engine(Project());
        engine.Keep(Sequence, [Air, High, Fan], null);
        for (int s = 1; s <= 1000; s++) engine.ScanAt(Noon + (s * 1000), 20);
        KeptScans kept = engine.Kept(Sequence)!;
        Assert.Equal((401L, ControllerEngine.MostScans, Noon + 401_000), (kept.First, kept.At.Count, kept.At[0]));
        Assert.Null(((IScanKeeper)engine).Scan(Sequence, 400));
        engine.RawInputs[engine.IndexOf("UI1")] = Core.Signals.Curve.Pt1000.RawOf(20);
        long before = GC.GetAllocatedBytesForCurrentThread();
        for (int s = 1001; s <= 3000; s++) engine.Scan(Noon + (s * 1000));
        Assert.True(GC.GetAllocatedBytesForCurrentThread() - before < 20_000, "A scan that is kept takes room.");
    }

    [Fact]
    public void It_stops_when_the_condition_comes_to_be_met_with_what_came_before_and_a_little_after()
    {
        ControllerEngine engine = Engine(Project());
        var stop = new ScanStop(Fan, new TestCondition(TestRelation.Is, 1));
        engine.Keep(Sequence, [Air, Fan], stop);
        for (int s = 1; s <= 200; s++) engine.ScanAt(Noon + (s * 1000), s < 100 ? 20 : 35);
        KeptScans kept = engine.Kept(Sequence)!;
        Assert.Equal((100L, 100 + ControllerEngine.ScansAfterStop), (kept.StoppedAt, kept.At.Count));
        // Asked for anew it goes on, and what is met already does not stop it.
        Assert.Null(engine.Keep(Sequence, [Air, Fan], stop)!.StoppedAt);
        for (int s = 201; s <= 250; s++) engine.ScanAt(Noon + (s * 1000), 35);
        Assert.Null(engine.Kept(Sequence)!.StoppedAt);
        Assert.Equal(Noon + 250_000, engine.Kept(Sequence)!.At[^1]);
    }
}
