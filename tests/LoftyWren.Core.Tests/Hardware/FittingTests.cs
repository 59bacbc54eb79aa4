using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Hardware;

public class FittingTests
{
    private static readonly Project House = KilnRoom.Project();
    private static readonly Fitting Sensor = House.Find<Fitting>(new("f1"))!, Relay = House.Find<Fitting>(new("f2"))!, Value = House.Find<Fitting>(new("f3"))!;

    [Fact]
    public void A_controller_is_of_the_catalogue_and_answers_under_a_number_of_its_own()
    {
        Controller controller = House.Find<Controller>(KilnRoom.Controller)!;
        Refuses(House, controller with { ModelId = "wonder-9" }, "modelId", "The catalogue has no model ‘wonder-9’.");
        // ISO 16484-5, 12.11: instance numbers go from 0 to 4 194 302; 4 194 303 means “any”.
        Refuses(House, controller with { DeviceInstance = 4_194_303 }, "deviceInstance", "Device instance 4194303 is not between 0 and 4 194 302.");
        Refuses(House, controller with { Name = new string('k', 41) }, "name", "‘kkkkkkkkkkkkkkkkkkkkkkkk…’ is 41 characters long; a name has at most 40.");
        Controller second = controller with { Id = new("kh-c2"), Name = "KH-C2" };
        Refuses(House, second, "deviceInstance", "Device instance 2101 belongs to controller ‘KH-C1’. Choose another number.");
        Refuses(House, second with { Name = "kh-c1", DeviceInstance = 9 }, "name", "There is already a controller called ‘KH-C1’. Choose another name.");
    }

    [Fact]
    public void A_terminal_belongs_to_a_controller_and_carries_a_point()
    {
        Refuses(House, Sensor with { ControllerId = Room }, "controllerId", "The terminal ‘UI1’ refers to a controller that is not in the project (kiln-room).");
        Refuses(House, Sensor with { PointId = Room }, "pointId", "The terminal ‘UI1’ refers to a point that is not in the project (kiln-room).");
        Refuses(House, Sensor with { Name = "first" }, "name", "The name of a fitting is its terminal, ‘UI1’.");
        Refuses(House, Sensor with { Terminal = "UI9", Name = "UI9" }, "terminal", "KH-C1 has no terminal ‘UI9’. It has UI1–UI8, BI1–BI4, RO1–RO4, AO1–AO4.");
    }

    [Fact]
    public void What_a_terminal_carries_must_serve_the_point()
    {
        Refuses(House, Sensor with { Signal = Signal.DryContact }, "signal", "UI1 cannot carry dry contact for ‘Room temperature’; it can carry Pt1000, Pt100, Ni1000, NTC 10k, NTC 20k, 0–10 V, 2–10 V, 4–20 mA, potentiometer, resistance by curve.");
        Refuses(House, Sensor with { Signal = Signal.Volts, Low = 5, High = 5 }, "low", "The range of UI1 goes from 5 to 5; both ends must differ.");
        Refuses(House, Sensor with { Correction = -1001 }, "correction", "A correction of -1001 is not believable; use at most ±1000.");
        Assert.Contains("RO2 is an output and ‘Room temperature’ is a sensor", Refused(House, Edit.Of(Sensor with { Terminal = "RO2", Name = "RO2", Signal = Signal.Relay }))[0].Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void Memory_holds_values_and_no_sensors()
    {
        Refuses(House, Value with { Signal = Signal.Volts }, "signal", "A value in memory carries no signal.");
        Refuses(House, Sensor with { Terminal = "value", Name = "value", Signal = Signal.Memory }, "terminal", "‘Room temperature’ is a sensor; it needs a terminal that measures, not a value in memory.");
    }

    [Fact]
    public void A_point_has_one_source_and_a_terminal_one_point()
    {
        Refuses(House, Relay with { Id = new("again"), Terminal = "RO2", Name = "RO2" }, "pointId", "This point already has a source. Move it instead of adding a second.");
        Core.Points.Point lamp = new() { Id = new("lamp"), Name = "Lamp", OwnerId = Fan, Kind = Core.Points.PointKind.Binary, Role = Core.Points.PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 };
        Refuses(Accept(House, lamp), Relay with { Id = new("f9"), PointId = lamp.Id }, "terminal", "RO1 is taken by ‘Extract fan’. Choose a free terminal, or take that point off first.");
    }
}
