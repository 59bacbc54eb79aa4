namespace LoftyWren.Core.Points;

/// <summary>Kind and role in one, as lists abbreviate them: AI for an analog input, and so on.</summary>
internal static class PointTypes
{
    /// <summary>What a text stands for, or null.</summary>
    public static (PointKind Kind, PointRole Role)? Read(string text) => text.ToUpperInvariant() switch
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
