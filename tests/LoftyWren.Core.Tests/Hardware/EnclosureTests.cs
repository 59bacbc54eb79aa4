using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Hardware;

public class EnclosureTests
{
    private static IoModule Module(int address, string model, int rail = 1, int turn = 0) => new() { Id = new($"mod{address}"), Name = $"A{address}", ControllerId = KilnRoom.Controller, ModelId = model, Address = address, Rail = rail, Turn = turn == 0 ? address : turn };

    private static Core.Hardware.Controller Panel(Project project) => project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!;

    private static Project Plant(params IoModule[] modules)
    {
        Project project = Project();
        project = Accept(project, Edit.Of(Panel(project) with { ModelId = "plant-12" }, project.FindEntry(KilnRoom.Controller)!.Revision));
        return modules.Length == 0 ? project : Accept(project, modules);
    }

    // plant-12 is 162 mm wide, ui-16 126 mm, ps-24-1 54 mm; two rails of 540 mm. It gives 900 mA to the module bus; ui-16 draws 80 of it and 55 mA of 24 V, plant-12 240 mA of 24 V.
    [Fact]
    public void Widths_and_currents_add_up_and_what_does_not_suffice_is_found()
    {
        Project project = Plant(Module(1, "ui-16"), Module(2, "ui-16"), Module(3, "ui-16", rail: 2), Module(4, "ps-24-1", rail: 2));
        Enclosure built = Enclosure.Of(project, Panel(project));
        Assert.Equal([414, 180], built.Rails.Select(r => r.UsedMillimetres));
        Assert.Equal([0, 162, 288], built.Rails[0].Devices.Select(d => d.FromMillimetres));
        Assert.Equal([("24 V", 405, 1300), ("module bus", 240, 900)], built.Supplies.Select(s => (s.Supply, s.DrawnMilliamps, s.GivenMilliamps)));
        Assert.Equal(720 + (3 * 320) + 95, built.Price);
        Assert.Empty(Checks.On(project, Panel(project)));
        // 414 + 126 = 540 just fits; one more is too much, and twelve of ui-16 draw 960 mA of 900.
        project = Accept(project, Module(5, "ui-16"));
        Assert.Empty(Checks.On(project, Panel(project)));
        project = Accept(project, [.. Enumerable.Range(6, 7).Select(a => Module(a, "ui-16", rail: a < 7 ? 1 : 2))]);
        Assert.Equal(["rail-full", "rail-full"], Checks.On(project, Panel(project)).Select(f => f.Code).Where(c => c.StartsWith("rail", StringComparison.Ordinal)));
        Assert.Contains("What stands on it takes 666 mm and the rail has 540 mm.", Checks.On(project, Panel(project)).First().Why, StringComparison.Ordinal);
    }

    [Fact]
    public void A_supply_that_does_not_suffice_is_found_and_one_from_outside_is_not()
    {
        // Eleven modules of 8 relays draw 130 mA of 24 V each: with 240 mA of the controller 1670 mA.
        Project project = Plant([.. Enumerable.Range(1, 11).Select(a => Module(a, "ro-8", rail: a % 2 + 1))]);
        Assert.DoesNotContain("supply", Checks.On(project, Panel(project)).Select(f => f.Code));
        project = Accept(project, Module(12, "ps-24-1"));
        Assert.Contains("1670 mA are drawn from 24 V and 1300 mA are given.", Checks.On(project, Panel(project)).Single(f => f.Code == "supply").Why, StringComparison.Ordinal);
        // plant-12 takes twelve.
        Assert.Contains("takes 12 modules", Refused(project, Edit.Of(Module(13, "bi-8")))[0].Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void A_module_moves_before_another_and_its_wires_stay()
    {
        Project project = Plant(Module(1, "ri-8"), Module(2, "bi-8"), Module(3, "bi-8"));
        project = Accept(project, new Point { Id = new("t"), Name = "Shelf temperature", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" });
        project = Accept(project, Fit.Make(project, Panel(project), project.Find<Point>(new RecordId("t"))!, "1.RI3")!);
        var moved = Enclosure.Moved(project, project.Find<IoModule>(new RecordId("mod1"))!, 1, new RecordId("mod3"));
        project = Accept(project, [.. moved.Select(m => Edit.Of(m, project.FindEntry(m.Id)!.Revision))]);
        Assert.Equal(["A2", "A1", "A3"], Enclosure.Of(project, Panel(project)).Rails[0].Devices.Skip(1).Select(d => d.Module!.Name));
        Assert.Equal("1.RI3", project.BindingOf(new RecordId("t"))!.Where);
        Assert.Empty(Enclosure.Moved(project, project.Find<IoModule>(new RecordId("mod1"))!, 1, new RecordId("mod3")));
    }

    // ri-8 has 8 resistance inputs; ui-8 has eight universal ones called otherwise, ci-8 none for resistance.
    [Fact]
    public void A_module_is_exchanged_and_its_points_stay_move_or_are_named()
    {
        Project project = Plant(Module(1, "ri-8"), Module(2, "ui-8"));
        project = Accept(project, new Point { Id = new("t"), Name = "t", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" }, new Point { Id = new("u"), Name = "u", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" });
        project = Accept(project, Fit.Make(project, Panel(project), project.Find<Point>(new RecordId("t"))!, "1.RI3")!, Fit.Make(project, Panel(project), project.Find<Point>(new RecordId("u"))!, "2.UI5")!);
        HardwareModel Model(string id) => Catalogue.Find(project, id)!;
        Exchange larger = Exchange.Of(project, Panel(project), project.Find<IoModule>(new RecordId("mod2")), Model("ui-16"));
        Assert.Equal((1, 0), (larger.Stays, larger.Moves.Count));
        Exchange other = Exchange.Of(project, Panel(project), project.Find<IoModule>(new RecordId("mod1")), Model("ui-8"));
        Assert.Equal([new ExchangedPoint(new("t"), "1.RI3", "1.UI1", null)], other.Moves);
        Project after = Accept(project, [.. other.Edits]);
        Assert.Equal("1.UI1", after.BindingOf(new RecordId("t"))!.Where);
        Exchange none = Exchange.Of(project, Panel(project), project.Find<IoModule>(new RecordId("mod1")), Model("ci-8"));
        Assert.Equal("8 current and voltage inputs has no terminal left that carries Pt1000.", Assert.Single(none.Moves).Why);
        Assert.Null(Accept(project, [.. none.Edits]).BindingOf(new RecordId("t")));
        // The controller itself: the kiln room's fan and thermometer find their terminals on the large one.
        Exchange controller = Exchange.Of(project, Panel(project), null, Model("plant-large"));
        Assert.Equal((2, 0), (controller.Stays, controller.Moves.Count));
        Assert.Equal("plant-large", Panel(Accept(project, [.. controller.Edits])).ModelId);
    }

    // compact-20: an output switches 6 A, a feed of two carries 8 A.
    [Fact]
    public void An_output_and_its_feed_are_not_loaded_beyond_what_they_are_made_for()
    {
        Project project = Project();
        project = Accept(project, [.. Enumerable.Range(1, 2).Select(i => new Point { Id = new($"c{i}"), Name = $"c{i}", OwnerId = Fan, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 })]);
        Fitting On(string point, string terminal, double amps) => Fit.Make(project, Panel(project), project.Find<Point>(new RecordId(point))!, terminal)! with { LoadAmps = amps };
        Fitting one = On("c1", "RO3", 7), two = On("c2", "RO4", 3);
        project = Accept(project, one, two);
        Assert.Equal(["overload", "feed"], Checks.On(project, one).Select(f => f.Code));
        Assert.Contains("The outputs that share it take 10 A together and it carries 8 A.", Checks.On(project, two).Single().Why, StringComparison.Ordinal);
    }

    [Fact]
    public void Lists_name_every_terminal_cable_and_part_once()
    {
        Project project = Plant(Module(1, "ri-8"));
        Core.PointLists.Sheet List(string key) => HardwareList.All.First(l => l.Key == key).Of(project, [Panel(project)]);
        Assert.Equal(1 + 12 + 8, List("terminals").Rows.Count);
        Assert.Contains(List("terminals").Rows, r => r[0] == "KH-C1" && r[2] == "UI1" && r[4] == "Pt1000" && r[6] == "Room temperature" && r[8] == "KH-C1-W001");
        Assert.Equal([("KH-C1-W001", "UI1", "2"), ("KH-C1-W007", "RO1", "2")], List("cables").Rows.Skip(1).Select(r => (r[0], r[2], r[3])));
        Assert.Equal([("plant-12", "1", "720"), ("ri-8", "1", "150"), ("Total", "2", "870")], List("parts").Rows.Skip(1).Select(r => (r[0], r[4], r[6])));
        // Two points in one cable are one line with both their cores.
        Fitting first = project.Referrers<Fitting>(KilnRoom.Controller).First(f => f.Terminal == "UI1"), second = project.Referrers<Fitting>(KilnRoom.Controller).First(f => f.Terminal == "RO1");
        project = Accept(project, [.. new[] { first, second }.Select(f => Edit.Of(f with { Cable = "W9" }, project.FindEntry(f.Id)!.Revision))]);
        Assert.Equal([("W9", "UI1, RO1", "4")], List("cables").Rows.Skip(1).Select(r => (r[0], r[2], r[3])));
    }

    [Fact]
    public void A_terminal_says_what_it_still_needs()
    {
        Project project = Plant(Module(1, "tp-4"), Module(2, "ri-8"));
        project = Accept(project, new Point { Id = new("v"), Name = "v", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Fallback = 0 }, new Point { Id = new("t"), Name = "t", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" });
        Fitting drive = Fit.Make(project, Panel(project), project.Find<Point>(new RecordId("v"))!, "1.TP1")!;
        Assert.Equal(Signal.ThreePoint, drive.Signal);
        Refuses(project, drive with { RunTimeSeconds = 0 }, "runTimeSeconds", "1.TP1 drives by opening and closing, so it must know how long the drive takes from end to end. Give its run time.");
        Fitting sensor = Fit.Make(project, Panel(project), project.Find<Point>(new RecordId("t"))!, "2.RI1")!;
        Refuses(project, sensor with { Signal = Signal.Resistance }, "curveId", "2.RI1 measures a resistance, and only a curve says what that means. Choose one, or make one first.");
        Refuses(project, sensor with { ToleranceClass = "Z" }, "toleranceClass", "Pt1000 comes in the classes B, A, AA, C; ‘Z’ is none of them.");
        Refuses(project, sensor with { ModuleId = new RecordId("mod1") }, "moduleId", "‘2.RI1’ is a terminal of module ‘A2’; the record says otherwise.");
        // With a curve it measures by that, in the controller as well.
        var curve = new SensorCurve { Id = new("curve"), Name = "Shelf probe", Points = [new(9200, -10), new(5000, 10), new(2500, 30)] };
        project = Accept(project, curve, sensor with { Signal = Signal.Resistance, CurveId = curve.Id });
        var engine = new Core.Controllers.ControllerEngine(Core.Images.ControllerImage.FromBytes(Core.Images.ControllerImage.Build(project, Panel(project)).ToBytes()));
        engine.RawInputs[engine.IndexOf("2.RI1")] = 3750;
        engine.Scan(1000);
        Assert.Equal(20, engine.Read(new RecordId("t"))!.Value.Value, 1e-9);
    }
}
