using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Tests;
using LoftyWren.VirtualSite.Plant;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Plant;

public class SiteBuilderTests
{
    [Fact]
    public void Terminals_are_wired_to_what_their_points_stand_for()
    {
        SitePlan plan = SiteBuilder.Build(Project());
        Assert.Equal([("RO1", "machine/fan-eq/run"), ("UI1", "room/kiln-room/temperature")], plan.Wires.Select(w => (w.Terminal, w.Quantity)).Order());
        Assert.Equal(60, Assert.Single(plan.Rooms).AreaSquareMetres);
    }

    [Theory]
    [InlineData("Outdoor temperature", "°C", "outdoor/temperature")]
    [InlineData("Wind", "m/s", "outdoor/wind")]
    [InlineData("Humidity", "%RH", "room/kiln-room/humidity")]
    [InlineData("CO₂", "ppm", "room/kiln-room/co2")]
    [InlineData("Pressure", "Pa", null)]
    public void Sensors_are_tied_by_unit_and_words(string name, string unit, string? quantity)
    {
        var point = new Point { Id = new("p"), Name = name, OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = unit };
        Assert.Equal(quantity, SiteBuilder.QuantityOf(Accept(Project(), point), point));
    }

    [Fact]
    public void Rooms_whose_outlines_touch_share_a_wall_three_metres_high()
    {
        Project project = Accept(Project(),
            Project().Find<Place>(Room)! with { Outline = [new(0, 0), new(10, 0), new(10, 7), new(0, 7)] },
            new Place { Id = new("next"), Name = "Next", Kind = PlaceKind.Room, In = Floor, Outline = [new(10, 2), new(15, 2), new(15, 9), new(10, 9)] },
            new Place { Id = new("apart"), Name = "Apart", Kind = PlaceKind.Room, In = Floor, Outline = [new(30, 0), new(35, 0), new(35, 9), new(30, 9)] });
        SitePlan plan = SiteBuilder.Build(project);
        // They run along each other from y = 2 m to y = 7 m: 5 m × 3 m.
        Assert.Equal(new SharedWall(new("next"), 15), Assert.Single(plan.Rooms.Single(r => r.Id == Room).Walls));
        Assert.Empty(plan.Rooms.Single(r => r.Id.Value == "apart").Walls);
    }

    [Fact]
    public void A_silent_sensor_is_a_fault_and_a_stuck_drive_does_not_move()
    {
        Project project = Accept(Project(),
            new Equipment { Id = new("fc"), Name = "Fan-coil", Kind = "fan-coil", PlaceId = Room },
            new Point { Id = new("valve"), Name = "Heating valve", OwnerId = new("fc"), Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Low = 0, High = 100, Fallback = 80 },
            new Fitting { Id = new("f9"), Name = "AO1", ControllerId = KilnRoom.Controller, PointId = new("valve"), Terminal = "AO1", Signal = Signal.Volts });
        SitePlan plan = SiteBuilder.Build(project) with { Faults = [new BuiltInFault(KilnRoom.Controller, "UI1", WireFault.Open), new BuiltInFault(KilnRoom.Controller, "AO1", WireFault.Stuck, 20)] };
        var site = new Site(plan, At(2026, 4, 14, 6, 0));
        site.Send(project, project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!);
        site.RunUntil(site.Now + 60_000);
        var engine = site.Controllers[KilnRoom.Controller].Engine!;
        Assert.Contains("open circuit", engine.Explain(Temperature)!.AsText());
        Assert.Equal(8, engine.RawOutputs[engine.IndexOf("AO1")], 1e-9);
        Assert.Equal(20, site.Plant[site.Plant.IndexOf("machine/fc/level")]);
    }

    [Fact]
    public void A_controller_that_reads_another_gets_its_value_and_marks_it_stale_when_it_is_gone()
    {
        Project project = Accept(Project(),
            new Core.Hardware.Controller { Id = new("c2"), Name = "KH-C2", PlaceId = Room, ModelId = "compact-20", DeviceInstance = 2102 },
            new Point { Id = new("outdoor"), Name = "Outdoor temperature", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
            new Fitting { Id = new("f9"), Name = "UI1", ControllerId = new("c2"), PointId = new("outdoor"), Terminal = "UI1", Signal = Signal.Pt1000 });
        var sequence = project.Find<Core.Sequences.Sequence>(KilnRoom.Sequence)!;
        project = Accept(project, sequence with { Blocks = [.. sequence.Blocks, new Core.Sequences.Block { Id = "cold", Kind = Core.Sequences.BlockKind.Lt, Inputs = new Dictionary<string, Core.Sequences.Source> { ["in1"] = new Core.Sequences.PointSource(new("outdoor")), ["in2"] = new Core.Sequences.ConstantSource(50, "°C") } }] });
        Site site = Building.Up(project, At(2026, 4, 14, 6, 0));
        site.RunUntil(site.Now + 10_000);
        var engine = site.Controllers[KilnRoom.Controller].Engine!;
        Assert.Equal(1, engine.SourceOfPin(KilnRoom.Sequence, "cold", "out")!.Read().Value);
        Assert.Contains("read from another controller", engine.Explain(new("outdoor"))!.AsText());

        // The other controller's program no longer knows the point.
        Project without = Accept(project, [Edit.Removing(new("f9"))]);
        site.Send(without, without.Find<Core.Hardware.Controller>(new("c2"))!);
        site.RunUntil(site.Now + 10_000);
        Assert.Equal(Core.Status.StatusFlags.Stale, engine.Read(new("outdoor"))!.Value.Status);
        Assert.Contains("no longer answers", engine.Explain(new("outdoor"))!.AsText());
    }
}
