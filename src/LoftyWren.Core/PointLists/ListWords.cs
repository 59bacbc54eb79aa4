using LoftyWren.Core.Points;

namespace LoftyWren.Core.PointLists;

/// <summary>The words that lists use for kinds, roles and units, and what they stand for.</summary>
internal static class ListWords
{
    /// <summary>The symbol of a unit, or null.</summary>
    public static string? Unit(string text) => Core.Units.Unit.Read(text)?.Symbol;

    /// <summary>A kind of point, or null.</summary>
    public static PointKind? Kind(string text) => text.ToLowerInvariant() switch
    {
        "analog" or "analogue" or "a" or "number" => PointKind.Analog,
        "binary" or "digital" or "b" or "d" or "bool" => PointKind.Binary,
        "multistate" or "multi-state" or "enum" or "m" => PointKind.Multistate,
        _ => null,
    };

    /// <summary>A role, or null.</summary>
    public static PointRole? Role(string text) => text.ToLowerInvariant() switch
    {
        "sensor" or "input" or "in" or "measurement" or "status" => PointRole.Sensor,
        "command" or "output" or "out" or "cmd" => PointRole.Command,
        "setpoint" or "set point" or "sp" => PointRole.Setpoint,
        "value" or "virtual" or "calculated" => PointRole.Value,
        _ => null,
    };

    /// <summary>Kind and role in one, as lists abbreviate them (AI: analog input, and so on), or null.</summary>
    public static (PointKind Kind, PointRole Role)? Type(string text) => text.ToUpperInvariant() switch
    {
        "AI" or "UI" or "ANALOG INPUT" or "ANALOGUE INPUT" => (PointKind.Analog, PointRole.Sensor),
        "AO" or "ANALOG OUTPUT" or "ANALOGUE OUTPUT" => (PointKind.Analog, PointRole.Command),
        "AV" or "ANALOG VALUE" => (PointKind.Analog, PointRole.Value),
        "SP" or "SETPOINT" => (PointKind.Analog, PointRole.Setpoint),
        "DI" or "BI" or "DIGITAL INPUT" or "BINARY INPUT" => (PointKind.Binary, PointRole.Sensor),
        "DO" or "BO" or "DIGITAL OUTPUT" or "BINARY OUTPUT" => (PointKind.Binary, PointRole.Command),
        "BV" or "DV" or "BINARY VALUE" => (PointKind.Binary, PointRole.Value),
        "MI" or "MSI" => (PointKind.Multistate, PointRole.Sensor),
        "MO" or "MSO" => (PointKind.Multistate, PointRole.Command),
        "MV" or "MSV" => (PointKind.Multistate, PointRole.Value),
        _ => null,
    };
}
