using System.Globalization;

namespace LoftyWren.Core.Bus.Datapoints;

/// <summary>The tables of datapoint types, in the order of the standard (KNX 03_07_02, clauses 3 and 4).</summary>
internal static class DatapointTypes
{
    private static readonly string[] Weekdays = ["no day", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

    /// <summary>Types of one part: a state, a number, letters.</summary>
    public static IEnumerable<DatapointType> Plain =>
    [
        // 1: one bit.
        Two(1, "Switch", "off", "on"), Two(2, "Boolean", "false", "true"), Two(3, "Enable", "disable", "enable"), Two(4, "Ramp", "no ramp", "ramp"), Two(5, "Alarm", "no alarm", "alarm"),
        Two(6, "Binary value", "low", "high"), Two(7, "Step", "decrease", "increase"), Two(8, "Up or down", "up", "down"), Two(9, "Open or close", "open", "close"), Two(10, "Start or stop", "stop", "start"),
        Two(11, "State", "inactive", "active"), Two(12, "Inversion", "not inverted", "inverted"), Two(13, "Sending of dimming", "start and stop", "cyclic"), Two(14, "Source of an input", "fixed", "calculated"),
        Two(15, "Reset", "no action", "reset"), Two(16, "Acknowledge", "no action", "acknowledge"), Two(17, "Trigger", "trigger, 0", "trigger, 1"), Two(18, "Occupancy", "not occupied", "occupied"),
        Two(19, "Window or door", "closed", "open"), Two(21, "Logical function", "or", "and"), Two(22, "Scene of two", "scene A", "scene B"), Two(23, "Blind mode", "only moves", "moves and steps"),
        Two(24, "Day or night", "day", "night"), Two(100, "Cooling or heating", "cooling", "heating"), Two(1200, "Consumer or producer", "consumer", "producer"), Two(1201, "Direction of energy", "positive", "negative"),
        // 4: one letter, as its number.
        Number(4, 1, "Letter (ASCII)", 8, "", 0, 127), Number(4, 2, "Letter (8859-1)", 8, "", 0, 255),
        // 5, 6: one octet.
        Number(5, 1, "Percentage (0–100 %)", 8, "%", 0, 100, 100 / 255.0, 1), Number(5, 3, "Angle", 8, "°", 0, 360, 360 / 255.0, 1), Number(5, 4, "Percentage (0–255 %)", 8, "%", 0, 255), Number(5, 5, "Ratio (0–255)", 8, "", 0, 255),
        Number(5, 6, "Tariff", 8, "", 0, 254), Number(5, 10, "Count, unsigned octet", 8, "pulses", 0, 255), Number(5, 100, "Fan stage", 8, "", 0, 255),
        Number(6, 1, "Percentage (−128–127 %)", 8, "%", -128, 127, code: FieldCode.Signed), Number(6, 10, "Count, signed octet", 8, "pulses", -128, 127, code: FieldCode.Signed),
        // 7, 8: two octets.
        Number(7, 1, "Count, two unsigned octets", 16, "pulses", 0, 65535), Number(7, 2, "Time, ms", 16, "ms", 0, 65535), Number(7, 3, "Time, 10 ms", 16, "ms", 0, 655350, 10), Number(7, 4, "Time, 100 ms", 16, "ms", 0, 6553500, 100),
        Number(7, 5, "Time, s", 16, "s", 0, 65535), Number(7, 6, "Time, min", 16, "min", 0, 65535), Number(7, 7, "Time, h", 16, "h", 0, 65535), Number(7, 10, "Property type", 16, "", 0, 65535), Number(7, 11, "Length, mm", 16, "mm", 0, 65535),
        Number(7, 12, "Current, mA", 16, "mA", 0, 65535), Number(7, 13, "Brightness", 16, "lx", 0, 65535), Number(7, 600, "Colour temperature", 16, "K", 0, 65535),
        Number(8, 1, "Count, two signed octets", 16, "pulses", -32768, 32767, code: FieldCode.Signed), Number(8, 2, "Time difference, ms", 16, "ms", -32768, 32767, code: FieldCode.Signed), Number(8, 3, "Time difference, 10 ms", 16, "ms", -327680, 327670, 10, code: FieldCode.Signed),
        Number(8, 4, "Time difference, 100 ms", 16, "ms", -3276800, 3276700, 100, code: FieldCode.Signed), Number(8, 5, "Time difference, s", 16, "s", -32768, 32767, code: FieldCode.Signed), Number(8, 6, "Time difference, min", 16, "min", -32768, 32767, code: FieldCode.Signed),
        Number(8, 7, "Time difference, h", 16, "h", -32768, 32767, code: FieldCode.Signed), Number(8, 10, "Percentage difference", 16, "%", -327.68, 327.67, 0.01, 2, FieldCode.Signed), Number(8, 11, "Rotation angle", 16, "°", -32768, 32767, code: FieldCode.Signed),
        Number(8, 12, "Length, m", 16, "m", -32768, 32767, code: FieldCode.Signed),
        // 9: two-octet float.
        Half(1, "Temperature", "°C", -273), Half(2, "Temperature difference", "K"), Half(3, "Temperature gradient", "K/h"), Half(4, "Illuminance", "lx", 0), Half(5, "Wind speed", "m/s", 0), Half(6, "Air pressure", "Pa", 0), Half(7, "Humidity", "%", 0),
        Half(8, "Air quality", "ppm", 0), Half(9, "Air flow", "m³/h"), Half(10, "Time, s", "s"), Half(11, "Time, ms", "ms"), Half(20, "Voltage", "mV"), Half(21, "Current", "mA"), Half(22, "Power density", "W/m²"), Half(23, "Kelvin by percent", "K/%"),
        Half(24, "Power", "kW"), Half(25, "Volume flow", "l/h"), Half(26, "Rain", "l/m²", -671088.64), Half(27, "Temperature, °F", "°F", -459.6), Half(28, "Wind speed, km/h", "km/h", 0), Half(29, "Absolute humidity", "g/m³", 0), Half(30, "Concentration", "µg/m³", 0),
        // 12, 13, 29: four and eight octets.
        Number(12, 1, "Count, four unsigned octets", 32, "pulses", 0, uint.MaxValue), Number(12, 100, "Long time, s", 32, "s", 0, uint.MaxValue), Number(12, 101, "Long time, min", 32, "min", 0, uint.MaxValue), Number(12, 102, "Long time, h", 32, "h", 0, uint.MaxValue),
        Number(12, 1200, "Volume of liquid, l", 32, "l", 0, uint.MaxValue), Number(12, 1201, "Volume, m³", 32, "m³", 0, uint.MaxValue),
        Long(1, "Count, four signed octets", "pulses"), Number(13, 2, "Flow rate", 32, "m³/h", -214748.3648, 214748.3647, 0.0001, 4, FieldCode.Signed), Long(10, "Active energy, Wh", "Wh"), Long(11, "Apparent energy, VAh", "VAh"), Long(12, "Reactive energy, varh", "varh"),
        Long(13, "Active energy, kWh", "kWh"), Long(14, "Apparent energy, kVAh", "kVAh"), Long(15, "Reactive energy, kvarh", "kvarh"), Long(16, "Active energy, MWh", "MWh"), Long(100, "Long time difference, s", "s"), Long(1200, "Volume difference of liquid, l", "l"), Long(1201, "Volume difference, m³", "m³"),
        Number(29, 10, "Active energy, eight octets", 64, "Wh", long.MinValue, long.MaxValue, code: FieldCode.Signed), Number(29, 11, "Apparent energy, eight octets", 64, "VAh", long.MinValue, long.MaxValue, code: FieldCode.Signed), Number(29, 12, "Reactive energy, eight octets", 64, "varh", long.MinValue, long.MaxValue, code: FieldCode.Signed),
        // 14: four-octet float.
        .. Singles(),
        // 16: fourteen letters.
        new(16, 0, "Text (ASCII)", 112, []) { IsText = true }, new(16, 1, "Text (8859-1)", 112, []) { IsText = true, IsLatin = true },
        // 17: a scene; on the bus from 0, for people from 1.
        Number(17, 1, "Scene number", 8, "", 0, 63),
        // 20: one of several.
        .. Choices(),
    ];

    /// <summary>Types of several parts.</summary>
    public static IEnumerable<DatapointType> Joined =>
    [
        // 2: control with priority.
        .. new (int Sub, string Name, string Off, string On)[]
        {
            (1, "Switch, forced", "off", "on"), (2, "Boolean, forced", "false", "true"), (3, "Enable, forced", "disable", "enable"), (4, "Ramp, forced", "no ramp", "ramp"), (5, "Alarm, forced", "no alarm", "alarm"), (6, "Binary value, forced", "low", "high"),
            (7, "Step, forced", "decrease", "increase"), (8, "Direction, forced", "up", "down"), (9, "Open or close, forced", "open", "close"), (10, "Start or stop, forced", "stop", "start"), (11, "State, forced", "inactive", "active"), (12, "Inversion, forced", "not inverted", "inverted"),
        }.Select(t => new DatapointType(2, t.Sub, t.Name, 2, [Named("control", 0, 1, "free", "forced"), Named("value", 1, 1, t.Off, t.On)])),
        // 3: a direction and how far; nothing is a stop.
        new(3, 7, "Dimming", 4, [Named("direction", 0, 1, "darker", "brighter"), Part("step", 1, 3, 0, 7)]), new(3, 8, "Blinds", 4, [Named("direction", 0, 1, "up", "down"), Part("step", 1, 3, 0, 7)]),
        new(6, 20, "State with mode", 8, [Named("A", 0, 1, "set", "clear"), Named("B", 1, 1, "set", "clear"), Named("C", 2, 1, "set", "clear"), Named("D", 3, 1, "set", "clear"), Named("E", 4, 1, "set", "clear"),
            new DatapointField("mode", 5, 3) { Texts = new Dictionary<int, string> { [1] = "mode 0", [2] = "mode 1", [4] = "mode 2" } }]),
        // 10, 11, 19: time and date.
        new(10, 1, "Time of day", 24, [Named("weekday", 0, 3, Weekdays), Part("hour", 3, 5, 0, 23), Part("minute", 10, 6, 0, 59), Part("second", 18, 6, 0, 59)]) { Says = SayTime, Reads = ReadTime },
        new(11, 1, "Date", 24, [Part("day", 3, 5, 1, 31), Part("month", 12, 4, 1, 12), Part("year", 17, 7, 0, 99)]) { Says = v => SayDate(Year(v[2]), v[1], v[0]), Reads = t => ReadDate(t) is var (y, m, d) && y is >= 1990 and <= 2089 ? [d, m, y % 100] : null },
        new(15, 0, "Access data", 32, [.. Enumerable.Range(0, 6).Select(i => Part($"digit {6 - i}", i * 4, 4, 0, 9)), Named("error", 24, 1, "no error", "error"), Named("permission", 25, 1, "refused", "granted"), Named("direction", 26, 1, "left to right", "right to left"),
            Named("encryption", 27, 1, "plain", "encrypted"), Part("index", 28, 4, 0, 15)]),
        new(18, 1, "Scene control", 8, [Named("control", 0, 1, "recall", "store"), Part("scene", 2, 6, 0, 63)]),
        new(19, 1, "Date and time", 64,
            [
                Part("year", 0, 8, 0, 255), Part("month", 12, 4, 1, 12), Part("day", 19, 5, 1, 31), Named("weekday", 24, 3, ["any day", .. Weekdays[1..]]), Part("hour", 27, 5, 0, 24), Part("minute", 34, 6, 0, 59), Part("second", 42, 6, 0, 59),
                Named("fault", 48, 1, "clock well", "clock faulty"), Named("working day", 49, 1, "no working day", "working day"), Named("working day known", 50, 1, "working day known", "working day not known"), Named("year known", 51, 1, "year known", "year not known"),
                Named("date known", 52, 1, "date known", "date not known"), Named("weekday known", 53, 1, "weekday known", "weekday not known"), Named("time known", 54, 1, "time known", "time not known"), Named("summer time", 55, 1, "standard time", "summer time"),
                Named("quality", 56, 1, "not synchronised", "synchronised"),
            ])
        { Says = SayMoment, Reads = ReadMoment },
        // 206: a mode that is to come.
        .. new[] { (100, "Next heating mode", 102), (102, "Next hot-water mode", 103), (104, "Next occupancy", 3), (105, "Next building mode", 2) }.Select(t => new DatapointType(206, t.Item1, t.Item2, 24, [new DatapointField("after", 0, 16) { High = 65535, Unit = "min" }, new DatapointField("mode", 16, 8) { Texts = ChoiceTexts[t.Item3] }])),
        new(217, 1, "Version", 16, [Part("magic", 0, 5, 0, 31), Part("version", 5, 5, 0, 31), Part("revision", 10, 6, 0, 63)]),
        new(219, 1, "Alarm information", 48, [Part("log number", 0, 8, 0, 255), Part("priority", 8, 8, 0, 3), Part("application", 16, 8, 0, 255), Part("error class", 24, 8, 0, 255), Part("attributes", 32, 8, 0, 255), Part("status", 40, 8, 0, 255)]),
        new(229, 1, "Metered value", 48, [new DatapointField("value", 0, 32, FieldCode.Signed) { Low = int.MinValue, High = int.MaxValue }, Part("unit code", 32, 8, 0, 255), Part("status", 40, 8, 0, 255)]),
        new(232, 600, "Colour RGB", 24, [Part("red", 0, 8, 0, 255), Part("green", 8, 8, 0, 255), Part("blue", 16, 8, 0, 255)]),
        new(235, 1, "Energy by tariff", 48, [new DatapointField("energy", 0, 32, FieldCode.Signed) { Low = int.MinValue, High = int.MaxValue, Unit = "Wh" }, Part("tariff", 32, 8, 0, 254), Named("energy valid", 46, 1, "energy valid", "energy not valid"), Named("tariff valid", 47, 1, "tariff valid", "tariff not valid")]),
        new(242, 600, "Colour xyY", 48, [Fine("x", 0, 1 / 65535.0), Fine("y", 16, 1 / 65535.0), Share("brightness", 32), Named("colour valid", 46, 1, "colour not valid", "colour valid"), Named("brightness valid", 47, 1, "brightness not valid", "brightness valid")]),
        new(249, 600, "Brightness and colour temperature", 48,
            [new DatapointField("over", 0, 16) { Step = 0.1, High = 6553.5, Unit = "s", Decimals = 1 }, new DatapointField("temperature", 16, 16) { High = 65535, Unit = "K" }, Share("brightness", 32), Named("time valid", 45, 1, "time not valid", "time valid"), Named("temperature valid", 46, 1, "temperature not valid", "temperature valid"), Named("brightness valid", 47, 1, "brightness not valid", "brightness valid")]),
        new(251, 600, "Colour RGBW", 48,
            [Share("red", 0), Share("green", 8), Share("blue", 16), Share("white", 24), Named("red valid", 44, 1, "red not valid", "red valid"), Named("green valid", 45, 1, "green not valid", "green valid"), Named("blue valid", 46, 1, "blue not valid", "blue valid"), Named("white valid", 47, 1, "white not valid", "white valid")]),
    ];

    // The values of main type 20 by its sub types, from the list of datapoint types of ISO 22510 and its supplements as it is
    // known to us. Of 20.022, 20.1001 and 20.1202 no independent list was at hand: a value that this one lacks is shown as its number.
    private static readonly Dictionary<int, Dictionary<int, string>> ChoiceTexts = new()
    {
        [1] = From(0, "autonomous", "slave", "master"),
        [2] = From(0, "building in use", "building not used", "building protection"),
        [3] = From(0, "occupied", "standby", "not occupied"),
        [4] = From(0, "high", "medium", "low", "void"),
        [5] = From(0, "normal", "presence simulation", "night round"),
        [6] = new() { [0] = "no fault", [1] = "system and functions of common interest", [10] = "HVAC general", [11] = "HVAC hot water heating", [12] = "HVAC direct electrical heating", [13] = "HVAC terminal units", [14] = "HVAC ventilation", [20] = "lighting", [30] = "security", [40] = "load management", [50] = "shutters and blinds" },
        [7] = From(1, "simple alarm", "basic alarm", "extended alarm"),
        [8] = From(0, "disabled", "enabled", "auto"),
        [11] = From(0, "no fault", "general device fault", "communication fault", "configuration fault", "hardware fault", "software fault", "insufficient non-volatile memory", "insufficient volatile memory", "memory allocation of size 0", "CRC error", "watchdog reset", "invalid opcode", "general protection fault", "maximal table length exceeded", "undefined load command", "group address table not sorted", "invalid connection number", "invalid group object number", "group object type too long"),
        [12] = From(0, "no fault", "sensor fault", "process or controller fault", "actuator fault", "other fault"),
        [13] = From(0, "not active", "1 s", "2 s", "3 s", "5 s", "10 s", "15 s", "20 s", "30 s", "45 s", "1 min", "1.25 min", "1.5 min", "2 min", "2.5 min", "3 min", "5 min", "15 min", "20 min", "30 min", "1 h", "2 h", "3 h", "5 h", "12 h", "24 h"),
        [14] = From(0, "calm", "light air", "light breeze", "gentle breeze", "moderate breeze", "fresh breeze", "strong breeze", "near gale", "fresh gale", "strong gale", "whole gale", "violent storm", "hurricane"),
        [17] = From(0, "inactive", "digital input not inverted", "digital input inverted", "analog input 0–100 %", "temperature sensor input"),
        [20] = From(1, "sensor connection", "controller connection"),
        [100] = From(0, "auto", "oil", "gas", "solid state fuel"),
        [101] = From(0, "reserved", "1 stage", "2 stage", "modulating"),
        [102] = From(0, "auto", "comfort", "standby", "economy", "building protection"),
        [103] = From(0, "auto", "legionella protection", "normal", "reduced", "off or frost protection"),
        [104] = From(0, "none", "shift load priority", "absolute load priority"),
        [105] = new() { [0] = "auto", [1] = "heat", [2] = "morning warm-up", [3] = "cool", [4] = "night purge", [5] = "precool", [6] = "off", [7] = "test", [8] = "emergency heat", [9] = "fan only", [10] = "free cool", [11] = "ice", [12] = "maximum heating", [13] = "economic heating or cooling", [14] = "dehumidification", [15] = "calibration", [16] = "emergency cool", [17] = "emergency steam", [20] = "no demand" },
        [106] = From(0, "normal", "emergency pressure", "emergency depressure", "emergency purge", "emergency shutdown", "emergency fire"),
        [107] = From(0, "auto", "cooling only", "heating only"),
        [108] = From(1, "heat stage A for normal heating", "heat stage B for heating with two stages", "cool stage A for normal cooling", "cool stage B for cooling with two stages", "heating and cooling by change-over"),
        [109] = From(1, "fresh air", "supply air", "extract air", "exhaust air"),
        [110] = From(1, "heat stage A on and off", "heat stage A proportional", "heat stage B proportional"),
        [111] = From(0, "not running", "permanently running", "running in intervals"),
        [112] = From(0, "autonomous", "master", "slave"),
        [113] = From(0, "normal setpoint", "alternative setpoint", "building protection setpoint"),
        [21] = From(0, "cloudless", "sunny", "sunshiny", "lightly cloudy", "scattered clouds", "cloudy", "heavily cloudy", "mostly overcast", "overcast", "sky not visible"),
        [22] = From(0, "off", "on", "last state before the failure"),
        [120] = From(1, "air damper", "variable air volume"),
        [121] = From(0, "backup value", "keep last state"),
        [122] = From(0, "position unchanged", "single close", "single open"),
        [600] = From(0, "off", "on", "no change", "value by parameter", "memory function value", "updated value", "value before locking"),
        [601] = From(0, "off", "on", "no change", "value by parameter", "last value before loss of bus power"),
        [602] = From(0, "0 s", "0.7 s", "1 s", "1.4 s", "2 s", "2.8 s", "4 s", "5.7 s", "8 s", "11.3 s", "16 s", "22.6 s", "32 s", "45.3 s", "64 s", "90.5 s"),
        [603] = From(0, "blinking disabled", "without acknowledgement", "with acknowledgement"),
        [604] = From(0, "automatic control", "manual control"),
        [605] = From(1, "one push button or binary input", "two push buttons or binary inputs"),
        [606] = From(0, "inactive", "sends off", "sends on", "sends the inverse of the state"),
        [607] = From(1, "one push button, inverts on each press", "one push button, on or brighter", "one push button, off or darker", "two push buttons"),
        [608] = From(0, "last actual value", "value by parameter", "last received setpoint"),
        [609] = From(0, "automatic", "leading edge (inductive load)", "trailing edge (capacitive load)"),
        [610] = From(0, "undefined", "leading edge (inductive load)", "trailing edge (capacitive load)", "detection not possible"),
        [801] = From(0, "up", "down", "no change", "value by parameter", "stop"),
        [802] = From(0, "up", "down", "no change", "value by parameter", "stop", "updated value", "value before locking"),
        [803] = From(1, "one push button", "one push button, inverted", "two push buttons", "two push buttons, inverted"),
        [804] = From(0, "automatic control", "manual control"),
        [1000] = new() { [0] = "data link layer", [1] = "bus monitor", [2] = "raw frames", [6] = "transport layer", [255] = "no layer" },
        [1001] = From(0, "reserved", "power line information", "radio medium", "bus monitor status", "time stamp", "time delay", "external time stamp", "BiBat information"),
        [1002] = From(0, "asynchronous", "asynchronous and BiBat master", "asynchronous and BiBat slave"),
        [1003] = From(0, "all supported frames", "by domain address", "by table of serial numbers", "by domain address and table of serial numbers"),
        [1200] = new() { [0] = "closed", [1] = "open", [2] = "released", [255] = "invalid" },
        [1202] = From(0, "unknown", "temperature converted", "at base conditions", "at measurement conditions"),
    };

    private static IEnumerable<DatapointType> Choices()
    {
        (int, string)[] names =
        [
            (1, "Clock mode"), (2, "Building mode"), (3, "Occupancy"), (4, "Priority"), (5, "Light application mode"), (6, "Application area"), (7, "Alarm class"), (8, "Supply mode"), (11, "Error class, system"), (12, "Error class, HVAC"), (13, "Time delay"), (14, "Wind force (Beaufort)"),
            (17, "Sensor selection"), (20, "Actuator connection"), (21, "Cloud cover"), (22, "Reaction to the return of power"), (100, "Fuel"), (101, "Burner"), (102, "Heating mode"), (103, "Hot-water mode"), (104, "Load priority"), (105, "Control mode"), (106, "Emergency mode"), (107, "Change-over mode"), (108, "Valve mode"), (109, "Damper mode"), (110, "Heater mode"),
            (111, "Fan mode"), (112, "Master or slave"), (113, "Room setpoint state"), (120, "Air damper actuator"), (121, "Backup mode"), (122, "Start synchronisation"), (600, "Behaviour at lock and unlock"), (601, "Behaviour at loss and return of bus power"), (602, "Fade time"), (603, "Blinking"), (604, "Control of a light"), (605, "Push buttons of a switch"), (606, "Action of a push button"), (607, "Push buttons of a dimmer"), (608, "Switch-on value"), (609, "Load type, set"), (610, "Load type, detected"), (801, "Blind behaviour at an exception"), (802, "Blind behaviour at lock and unlock"), (803, "Push buttons of a blind"), (804, "Control of a blind"), (1000, "Communication mode"), (1001, "Additional information"), (1002, "Radio mode"), (1003, "Radio filter"), (1200, "Breaker or valve state of a meter"), (1202, "Condition of a gas measurement"),
        ];
        return names.Select(n => new DatapointType(20, n.Item1, n.Item2, 8, [new DatapointField("state", 0, 8) { Texts = ChoiceTexts[n.Item1], High = ChoiceTexts[n.Item1].Keys.Max() }]));
    }

    private static IEnumerable<DatapointType> Singles()
    {
        (int, string, string)[] names =
        [
            (0, "Acceleration", "m/s²"), (1, "Angular acceleration", "rad/s²"), (2, "Activation energy", "J/mol"), (3, "Activity", "1/s"), (4, "Amount of substance", "mol"), (5, "Amplitude", ""), (6, "Angle, rad", "rad"), (7, "Angle, °", "°"), (8, "Angular momentum", "J·s"), (9, "Angular velocity", "rad/s"), (10, "Area", "m²"),
            (11, "Capacitance", "F"), (12, "Charge density, surface", "C/m²"), (13, "Charge density, volume", "C/m³"), (14, "Compressibility", "m²/N"), (15, "Conductance", "S"), (16, "Electrical conductivity", "S/m"), (17, "Density", "kg/m³"), (18, "Electric charge", "C"), (19, "Electric current", "A"), (20, "Electric current density", "A/m²"),
            (21, "Electric dipole moment", "C·m"), (22, "Electric displacement", "C/m²"), (23, "Electric field strength", "V/m"), (24, "Electric flux", "C"), (25, "Electric flux density", "C/m²"), (26, "Electric polarisation", "C/m²"), (27, "Electric potential", "V"), (28, "Electric potential difference", "V"), (29, "Electromagnetic moment", "A·m²"), (30, "Electromotive force", "V"),
            (31, "Energy", "J"), (32, "Force", "N"), (33, "Frequency", "Hz"), (34, "Angular frequency", "rad/s"), (35, "Heat capacity", "J/K"), (36, "Heat flow rate", "W"), (37, "Quantity of heat", "J"), (38, "Impedance", "Ω"), (39, "Length", "m"), (40, "Quantity of light", "lm·s"), (41, "Luminance", "cd/m²"), (42, "Luminous flux", "lm"), (43, "Luminous intensity", "cd"),
            (44, "Magnetic field strength", "A/m"), (45, "Magnetic flux", "Wb"), (46, "Magnetic flux density", "T"), (47, "Magnetic moment", "A·m²"), (48, "Magnetic polarisation", "T"), (49, "Magnetisation", "A/m"), (50, "Magnetomotive force", "A"), (51, "Mass", "kg"), (52, "Mass flux", "kg/s"), (53, "Momentum", "N·s"), (54, "Phase angle, rad", "rad"), (55, "Phase angle, °", "°"),
            (56, "Power", "W"), (57, "Power factor", ""), (58, "Pressure", "Pa"), (59, "Reactance", "Ω"), (60, "Resistance", "Ω"), (61, "Resistivity", "Ω·m"), (62, "Self-inductance", "H"), (63, "Solid angle", "sr"), (64, "Sound intensity", "W/m²"), (65, "Speed", "m/s"), (66, "Stress", "Pa"), (67, "Surface tension", "N/m"), (68, "Temperature", "°C"), (69, "Absolute temperature", "K"),
            (70, "Temperature difference", "K"), (71, "Thermal capacity", "J/K"), (72, "Thermal conductivity", "W/m·K"), (73, "Thermoelectric power", "V/K"), (74, "Time", "s"), (75, "Torque", "N·m"), (76, "Volume", "m³"), (77, "Volume flow", "m³/s"), (78, "Weight", "N"), (79, "Work", "J"), (80, "Apparent power", "VA"), (1200, "Volume flow of a meter, m³/h", "m³/h"), (1201, "Volume flow of a meter, l/s", "l/s"),
        ];
        return names.Select(n => new DatapointType(14, n.Item1, n.Item2, 32, [new DatapointField("value", 0, 32, FieldCode.Single) { Low = -float.MaxValue, High = float.MaxValue, Unit = n.Item3, Step = 0 }]));
    }

    private static DatapointType Two(int sub, string name, string off, string on) => new(1, sub, name, 1, [Named("state", 0, 1, off, on)]);

    private static DatapointType Number(int main, int sub, string name, int bits, string unit, double low, double high, double step = 1, int decimals = 0, FieldCode code = FieldCode.Unsigned) =>
        new(main, sub, name, bits, [new DatapointField("value", 0, bits, code) { Unit = unit, Low = low, High = high, Step = step, Decimals = decimals }]);

    private static DatapointType Half(int sub, string name, string unit, double low = -671088.64) => new(9, sub, name, 16, [new DatapointField("value", 0, 16, FieldCode.Half) { Unit = unit, Low = low, High = 670433.28, Step = 0.01, Decimals = 2 }]);

    private static DatapointType Long(int sub, string name, string unit) => Number(13, sub, name, 32, unit, int.MinValue, int.MaxValue, code: FieldCode.Signed);

    private static DatapointField Named(string name, int from, int width, params string[] texts) => new(name, from, width) { Texts = From(0, texts), High = texts.Length - 1 };

    private static DatapointField Part(string name, int from, int width, double low, double high) => new(name, from, width) { Low = low, High = high };

    private static DatapointField Share(string name, int from) => new(name, from, 8) { High = 100, Step = 100 / 255.0, Unit = "%", Decimals = 1 };

    private static DatapointField Fine(string name, int from, double step) => new(name, from, 16) { High = 1, Step = step, Decimals = 5 };

    private static Dictionary<int, string> From(int first, params string[] texts) => texts.Select((t, i) => (t, i)).ToDictionary(x => x.i + first, x => x.t);

    private static string SayTime(double[] v) => $"{(v[0] > 0 ? Weekdays[(int)v[0]] + " " : "")}{v[1]:00}:{v[2]:00}:{v[3]:00}";

    private static double[]? ReadTime(string text)
    {
        int day = 0;
        string[] words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (words.Length == 2) day = Array.FindIndex(Weekdays, 1, d => d.Equals(words[0], StringComparison.OrdinalIgnoreCase));
        if (words.Length is < 1 or > 2 || day < 0) return null;
        return Clock(words[^1]) is var (h, m, s) && h is <= 23 ? [day, h, m, s] : null;
    }

    private static (int Hour, int Minute, int Second)? Clock(string text)
    {
        string[] parts = text.Split(':');
        int second = 0;
        return parts.Length is 2 or 3 && Small(parts[0], out int hour) && Small(parts[1], out int minute) && (parts.Length == 2 || Small(parts[2], out second)) ? (hour, minute, second) : null;
    }

    private static bool Small(string text, out int number) => int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out number) && text.Length <= 4;

    // Years from 90 are of the century before (main type 11).
    private static double Year(double two) => two >= 90 ? 1900 + two : 2000 + two;

    private static string SayDate(double year, double month, double day) => $"{year:0000}-{month:00}-{day:00}";

    private static (int Year, int Month, int Day)? ReadDate(string text)
    {
        string[] parts = text.Split('-');
        return parts.Length == 3 && Small(parts[0], out int year) && Small(parts[1], out int month) && Small(parts[2], out int day) ? (year, month, day) : null;
    }

    private static string SayMoment(double[] v)
    {
        string said = $"{SayDate(1900 + v[0], v[1], v[2])}{(v[3] > 0 ? " " + Weekdays[(int)v[3]] : "")} {v[4]:00}:{v[5]:00}:{v[6]:00}";
        string[] notes = ["clock faulty", "working day", "working day not known", "year not known", "date not known", "weekday not known", "time not known", "summer time", "synchronised"];
        return said + string.Concat(notes.Where((_, i) => v[7 + i] > 0).Select(n => ", " + n));
    }

    private static double[]? ReadMoment(string text)
    {
        string[] notes = ["clock faulty", "working day", "working day not known", "year not known", "date not known", "weekday not known", "time not known", "summer time", "synchronised"];
        string[] parts = text.Split(',', StringSplitOptions.TrimEntries);
        string[] words = parts[0].Split(' ', StringSplitOptions.RemoveEmptyEntries);
        int day = 0;
        if (words.Length == 3) day = Array.FindIndex(Weekdays, 1, d => d.Equals(words[1], StringComparison.OrdinalIgnoreCase));
        if (words.Length is < 2 or > 3 || day < 0 || ReadDate(words[0]) is not var (year, month, dayOfMonth) || Clock(words[^1]) is not var (hour, minute, second)) return null;
        double[] values = new double[16];
        (values[0], values[1], values[2], values[3], values[4], values[5], values[6]) = (year - 1900, month, dayOfMonth, day, hour, minute, second);
        foreach (string part in parts[1..])
        {
            int at = Array.FindIndex(notes, n => n.Equals(part, StringComparison.OrdinalIgnoreCase));
            if (at < 0) return null;
            values[7 + at] = 1;
        }
        return values;
    }
}
