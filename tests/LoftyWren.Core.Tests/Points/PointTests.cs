using LoftyWren.Core.Alarms;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Points;

public class PointTests
{
    private static readonly Project House = KilnRoom.Project();
    private static readonly Point Sensor = House.Find<Point>(Temperature)!, FanPoint = House.Find<Point>(FanCommand)!, HighLimit = House.Find<Point>(Limit)!;
    private static readonly Equipment Extract = House.Find<Equipment>(Fan)!;

    [Fact]
    public void A_point_belongs_to_a_place_or_to_equipment() =>
        Refuses(House, Sensor with { OwnerId = Controller }, "ownerId", "The point ‘Room temperature’ refers to a place or piece of equipment that is not in the project (kh-c1).");

    [Fact]
    public void An_analog_point_has_a_unit_and_no_states()
    {
        var refusals = Refused(House, Edit.Of(Sensor with { Unit = "bogus" }));
        Assert.Contains(refusals, r => r.Field == "unit" && r.Sentence.StartsWith("‘bogus’ is not a known unit. Use one of: ", StringComparison.Ordinal));
        Refuses(House, Sensor with { StateTexts = ["cold", "warm"] }, "stateTexts", "‘Room temperature’ is analog and has no state texts. Clear them or make it binary or multistate.");
        Refuses(House, Sensor with { Low = 30, High = 30 }, "low", "The low limit 30 of ‘Room temperature’ is not below its high limit 30.");
    }

    [Fact]
    public void A_binary_or_multistate_point_has_states_and_no_unit()
    {
        Refuses(House, FanPoint with { Unit = "%" }, "unit", "‘Extract fan’ is binary and has no unit. Clear it.");
        Refuses(House, FanPoint with { StateTexts = ["off"] }, "stateTexts", "‘Extract fan’ is binary and needs two state texts, such as “off · on”; it has 1.");
        Refuses(House, FanPoint with { Kind = PointKind.Multistate, StateTexts = ["only"] }, "stateTexts", "‘Extract fan’ is multistate and needs 2 to 64 state texts; it has 1.");
        Refuses(House, FanPoint with { StateTexts = ["off", " "] }, "stateTexts", "A state text has 1 to 40 characters.");
        Refuses(House, FanPoint with { StateTexts = ["On", "on"] }, "stateTexts", "Two states of ‘Extract fan’ have the same text. Give each its own.");
    }

    [Fact]
    public void A_fallback_is_a_value_the_point_can_take_and_sensors_have_none()
    {
        Refuses(House, Sensor with { Fallback = 20 }, "fallback", "‘Room temperature’ is a sensor; only commands, setpoints and values have a fallback. Clear it.");
        Refuses(House, HighLimit with { High = 25, Fallback = 29 }, "fallback", "The fallback 29 of ‘High limit’ is outside what the point can take.");
        Refuses(House, FanPoint with { Fallback = 2 }, "fallback", "The fallback 2 of ‘Extract fan’ is outside what the point can take.");
    }

    [Fact]
    public void A_setpoint_measures_what_is_compared_with_it()
    {
        Refuses(House, Sensor with { SetpointId = new("gone") }, "setpointId", "The point ‘Room temperature’ refers to a setpoint that is not in the project (gone).");
        Refuses(House, Sensor with { SetpointId = FanCommand }, "setpointId", "‘Room temperature’ and its setpoint ‘Extract fan’ do not measure the same quantity.");
        Project compared = Accept(House, Sensor with { SetpointId = Limit });
        // The setpoint cannot become a humidity while a temperature leans on it.
        Assert.Contains(Refused(compared, Edit.Of(HighLimit with { Unit = "%RH" })), r => r.RecordId == Temperature && r.Field == "setpointId");
    }

    [Fact]
    public void Equipment_is_of_a_known_kind_in_a_place_and_no_part_of_itself()
    {
        Assert.StartsWith("‘gadget’ is not a kind of equipment. Use one of: ", Refused(House, Edit.Of(Extract with { Kind = "gadget" }))[0].Sentence, StringComparison.Ordinal);
        Refuses(House, Extract with { PlaceId = new("gone") }, "placeId", "The equipment ‘Extract’ refers to a place that is not in the project (gone).");
        Refuses(House, Extract with { PartOf = new("gone") }, "partOf", "The equipment ‘Extract’ refers to a piece of equipment that is not in the project (gone).");
        Refuses(House, Extract with { PartOf = Fan }, "partOf", "‘Extract’ would be part of itself. Choose equipment that is not inside it.");
        Equipment motor = new() { Id = new("motor"), Name = "Motor", Kind = "pump", PlaceId = Room, PartOf = Fan };
        Refuses(Accept(House, motor), Extract with { PartOf = motor.Id }, "partOf", "‘Extract’ would be part of itself. Choose equipment that is not inside it.");
    }

    [Fact]
    public void A_trend_samples_at_a_pace_and_size_that_can_be()
    {
        TrendLog trend = new() { Id = new("tr"), Name = "Room temperature", PointId = Temperature };
        Refuses(House, trend with { PointId = Room }, "pointId", "The trend ‘Room temperature’ refers to a point that is not in the project (kiln-room).");
        Refuses(House, trend with { IntervalSeconds = 0 }, "intervalSeconds", "An interval of 0 s cannot be; use 1 s to one day (86 400 s).");
        Refuses(House, trend with { ChangeBy = -1 }, "changeBy", "A change of -1 cannot be; use 0 or more.");
        Refuses(House, trend with { BufferSize = 9 }, "bufferSize", "A buffer of 9 samples cannot be; use 10 to 100 000.");
        Refuses(Accept(House, trend), trend with { Id = new("second") }, "pointId", "This point already has the trend ‘Room temperature’. Change that one.");
    }

    [Fact]
    public void An_alarm_watches_a_number_between_limits_that_leave_room()
    {
        AlarmRule warm = new() { Id = new("al"), Name = "Too warm", PointId = Temperature, HighLimit = 30, LowLimit = 10, Deadband = 1 };
        Refuses(House, warm with { PointId = new("gone") }, "pointId", "The alarm ‘Too warm’ refers to a point that is not in the project (gone).");
        Refuses(House, warm with { PointId = FanCommand }, "pointId", "‘Extract fan’ is not analog; limits need a number.");
        Refuses(House, warm with { HighLimit = null, LowLimit = null }, "highLimit", "An alarm needs a high limit, a low limit or both.");
        Refuses(House, warm with { LowLimit = 30 }, "lowLimit", "The low limit 30 is not below the high limit 30.");
        Refuses(House, warm with { Deadband = -0.5 }, "deadband", "A deadband is 0 or more.");
        Refuses(House, warm with { Deadband = 20 }, "deadband", "A deadband of 20 leaves no room between 10 and 30 to be normal in.");
        Refuses(House, warm with { DelayNormalSeconds = 604_801 }, "delayNormalSeconds", "A delay is between 0 s and one week (604 800 s).");
        Refuses(House, warm with { Advice = new string('x', 501) }, "advice", "‘advice’ has 501 characters; it has at most 500.");
        Refuses(Accept(House, warm), warm with { Id = new("second"), Name = "TOO WARM" }, "name", "This point already has an alarm called ‘Too warm’. Choose another name.");
    }

    [Fact]
    public void A_silence_gives_its_reason_and_stands_on_a_record()
    {
        Silence silence = new() { Id = new("si"), Name = "x", OnId = Fan, FindingKey = "key", Reason = "Comes with the next delivery.", Who = "engineer" };
        Refuses(House, silence with { Reason = " " }, "reason", "Say in up to 400 characters why this finding may stand; whoever comes after you will ask.");
        Refuses(House, silence with { OnId = new("gone") }, "onId", "The silence ‘x’ refers to a record that is not in the project (gone).");
        Refuses(Accept(House, silence), silence with { Id = new("second") }, "findingKey", "This finding is silenced already.");
    }

    [Fact]
    public void Water_and_air_come_from_what_gives_them_and_never_from_itself()
    {
        Equipment E(string id, string kind, string? water = null, string? cold = null, string? air = null) => new() { Id = new(id), Name = id, Kind = kind, PlaceId = Room, WaterFrom = water is null ? null : new(water), ColdFrom = cold is null ? null : new(cold), AirFrom = air is null ? null : new(air) };
        Project fed = Accept(House, E("header", "water circuit"), E("warm", "water circuit", water: "header"), E("coil", "fan-coil", water: "warm", cold: "header"), E("ahu", "air handler", water: "warm"), E("zone", "supply zone", air: "ahu"));
        Refuses(fed, E("header", "water circuit", water: "warm"), "waterFrom", "‘header’ would get its water from itself. Choose a circuit that does not depend on it.");
        Refuses(fed, E("warm", "water circuit", water: "warm"), "waterFrom", "‘warm’ would get its water from itself. Choose a circuit that does not depend on it.");
        Refuses(fed, E("coil", "fan-coil", water: "ahu"), "waterFrom", "‘ahu’ is of the kind air handler, which gives no water. Choose one of the kind water circuit.");
        Refuses(fed, E("lamp", "lighting", water: "warm"), "waterFrom", "Equipment of the kind lighting takes no water. Leave it empty.");
        // What feeds others stays what it is, however it is changed, until they get it from elsewhere.
        Refuses(fed, E("header", "pump"), "kind", "‘header’ gives water to 1 other piece of equipment; the kind pump gives none. Let those get it from elsewhere first.");
        Refuses(fed, E("ahu", "extract fan"), "kind", "‘ahu’ gives air to 1 other piece of equipment; the kind extract fan gives none. Let those get it from elsewhere first.");
        Accept(Accept(fed, E("zone", "supply zone")), E("ahu", "extract fan"));
    }
}
