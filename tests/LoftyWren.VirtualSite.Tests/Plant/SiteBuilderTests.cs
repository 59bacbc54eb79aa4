using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Plant;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Templates;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
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
    [InlineData("outside", "°C", "outdoor/temperature")]
    [InlineData(null, "°C", "room/kiln-room/temperature")]
    [InlineData(null, "m/s", "outdoor/wind")]
    [InlineData(null, "%RH", "room/kiln-room/humidity")]
    [InlineData(null, "ppm", "room/kiln-room/co2")]
    [InlineData("outside", "ppm", null)]
    [InlineData(null, "Pa", null)]
    public void Sensors_are_tied_by_unit_and_tags_whatever_they_are_called(string? tag, string unit, string? quantity)
    {
        foreach (string name in new[] { "Outdoor temperature", "Raum", "Presence" })
        {
            var point = new Point { Id = new("p"), Name = name, OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = unit, Tags = tag is null ? null : new Dictionary<string, string> { [tag] = "M" } };
            Assert.Equal(quantity, SiteBuilder.QuantityOf(Accept(Project(), point), point));
        }
    }

    [Fact]
    public void What_somebody_chose_holds_and_what_is_built_stays_tied_when_it_is_called_something_else()
    {
        Project project = Accept(Project(), new TaggingRule { Id = new("rule"), Name = "Outside", Condition = "name contains \"outdoor\"", Gives = new Dictionary<string, string> { ["outside"] = "M" } });
        RecordId controller = KilnRoom.Controller;
        Wire[] built = [.. SiteBuilder.WiresOf(project, controller)];
        // A rule that looks at names would tie it elsewhere now; the wire that hangs there is not touched by a name.
        Project renamed = Accept(project, project.Find<Point>(Temperature)! with { Name = "Outdoor temperature" });
        Assert.Equal("outdoor/temperature", SiteBuilder.WiresOf(renamed, controller).Single(w => w.Terminal == "UI1").Quantity);
        Assert.Equal("room/kiln-room/temperature", SiteBuilder.WiresOf(renamed, controller, built).Single(w => w.Terminal == "UI1").Quantity);
        // A wire from before points were noted, tied by a word in its name then, is known by what it is called.
        Wire older = built.Single(w => w.Terminal == "UI1") with { PointId = null, Quantity = "outdoor/temperature" };
        Assert.Equal("outdoor/temperature", SiteBuilder.WiresOf(project, controller, [older]).Single(w => w.Terminal == "UI1").Quantity);
        Assert.Equal("room/kiln-room/temperature", SiteBuilder.WiresOf(project, controller, [older with { Name = "Another · thing" }]).Single(w => w.Terminal == "UI1").Quantity);
        var tie = new PlantTie { Id = new("tie"), Name = "tie", PointId = Temperature, Quantity = "humidity", ThingId = Room };
        Assert.Equal("room/kiln-room/humidity", SiteBuilder.WiresOf(Accept(renamed, tie), controller, built).Single(w => w.Terminal == "UI1").Quantity);
        // A wire that somebody chose goes back to what is proposed once nobody chooses any more.
        Wire[] chosen = [.. SiteBuilder.WiresOf(Accept(renamed, tie), controller, built)];
        Assert.Equal("room/kiln-room/temperature", SiteBuilder.WiresOf(project, controller, chosen).Single(w => w.Terminal == "UI1").Quantity);
        Refuses(renamed, tie with { Quantity = "run" }, "quantity", "‘Kiln room’ has no run; it has temperature, humidity, co2, presence, window, light, alarm.");
        Refuses(renamed, tie with { ThingId = Floor }, "thingId", "‘First floor’ is a floor; a point is tied to a room, to equipment or to the weather.");
    }

    [Fact]
    public void A_tie_goes_with_what_it_leads_to_and_leaves_the_point_to_the_proposal()
    {
        // Tied to another room than the one it stands in: without that room it must not become the weather's.
        var far = new Place { Id = new("far"), Name = "Far", Kind = PlaceKind.Room, In = Floor };
        var tie = new PlantTie { Id = new("tie"), Name = "tie", PointId = Temperature, Quantity = "temperature", ThingId = far.Id };
        Project project = Accept(Project(), far, tie);
        Assert.Equal("room/far/temperature", SiteBuilder.QuantityOf(project, project.Find<Point>(Temperature)!));
        Project without = Accept(project, [.. Removal.Of(project, [far.Id]).Edits]);
        Assert.Null(without.Find(tie.Id));
        Assert.Equal("room/kiln-room/temperature", SiteBuilder.QuantityOf(without, without.Find<Point>(Temperature)!));
    }

    [Fact]
    public void A_copied_fan_is_tied_to_itself_and_not_to_the_original()
    {
        Project project = Accept(Project(), new PlantTie { Id = new("tie"), Name = "tie", PointId = FanCommand, Quantity = "level", ThingId = Fan });
        CopyPlan copies = Copying.Plan(project, Fan, 2, "{name} {n}");
        Assert.Empty(copies.Refusals);
        foreach (PlantTie tie in copies.Records.OfType<PlantTie>()) Assert.Equal(copies.Records.OfType<Point>().Single(p => p.Id == tie.PointId).OwnerId, tie.ThingId);
        Assert.Equal(2, copies.Records.OfType<PlantTie>().Count());
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
        var engine = site.Engine(KilnRoom.Controller);
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
        var engine = site.Engine(KilnRoom.Controller);
        Assert.Equal(1, engine.SourceOfPin(KilnRoom.Sequence, "cold", "out")!.Read().Value);
        Assert.Contains("read from another controller", engine.Explain(new("outdoor"))!.AsText());

        // The other controller's program no longer knows the point.
        Project without = Accept(project, [Edit.Removing(new("f9"))]);
        site.Send(without, without.Find<Core.Hardware.Controller>(new("c2"))!);
        site.RunUntil(site.Now + 10_000);
        Assert.Equal(Core.Status.StatusFlags.Stale, engine.Read(new("outdoor"))!.Value.Status);
        Assert.Contains("no longer has this point", engine.Explain(new("outdoor"))!.AsText());
    }
}
