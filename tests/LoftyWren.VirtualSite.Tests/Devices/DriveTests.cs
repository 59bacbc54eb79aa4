using LoftyWren.Core.Controllers;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>A three-point drive takes its run time, and goes on from where it stood when the site was kept.</summary>
public class DriveTests
{
    private static Site Up()
    {
        Project project = Accept(Project(), new Equipment { Id = new("fc"), Name = "Fan-coil", Kind = "fan-coil", PlaceId = Room }, new IoModule { Id = new("m1"), Name = "A1", ControllerId = KilnRoomController, ModelId = "tp-4", Address = 1 });
        project = Accept(project, new Point { Id = new("valve"), Name = "Heating valve", OwnerId = new("fc"), Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Low = 0, High = 100, Fallback = 0 });
        project = Accept(project, Fit.Make(project, project.Find<Core.Hardware.Controller>(KilnRoomController)!, project.Find<Point>(new("valve"))!, "1.TP1")!);
        return Building.Up(project, At(2026, 4, 15, 12, 0));
    }

    private static Core.Records.RecordId KilnRoomController => Core.Tests.KilnRoom.Controller;

    private static double Position(Site site) => site.Plant[site.Plant.IndexOf(site.WiresOf(KilnRoomController).Single(w => w.Signal == Signal.ThreePoint).Quantity)];

    // 120 s from end to end: 5 s make 100·5/120 = 4.17 %, half a minute 25 %; after two minutes it is there.
    [Fact]
    public void It_travels_at_its_run_time_and_no_keeping_in_between_changes_that()
    {
        Site calm = Up(), kept = Up();
        foreach (Site site in new[] { calm, kept }) site.RunUntil(site.Now + 10_000);
        foreach (Site site in new[] { calm, kept }) site.Engine(KilnRoomController).HoldByHand(new Hold(new("valve"), 100, "technician", "test", site.Now, null));
        long from = calm.Now;
        var random = new Random(4);
        for (long at = from + 3_000; at <= from + 60_000; at += 3_000)
        {
            calm.RunUntil(at);
            kept.RunUntil(at);
            if (random.Next(2) == 0) kept = kept.Again();
            Assert.Equal(Position(calm), Position(kept), 1e-9);
            Assert.InRange(Position(calm), ((at - from) / 1200.0) - 9, ((at - from) / 1200.0) + 1e-6 + 4.2);
        }
        calm.RunUntil(from + 140_000);
        Assert.Equal(100, Position(calm), 1e-9);
    }
}
