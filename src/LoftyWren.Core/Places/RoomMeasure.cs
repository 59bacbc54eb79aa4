namespace LoftyWren.Core.Places;

/// <summary>Something that rooms are compared by on a floor.</summary>
/// <param name="Name">What people call it.</param>
/// <param name="Unit">The unit of the sensors that measure it; null for a state.</param>
/// <param name="DifferenceUnit">The unit of a distance from setpoint.</param>
/// <param name="Span">The distance from setpoint at which the scale of colours ends, in that unit; null where nothing is compared.</param>
public sealed record RoomMeasure(string Name, string? Unit, string? DifferenceUnit, double? Span)
{
    /// <summary>Whether somebody is there.</summary>
    public static RoomMeasure Presence { get; } = new("Presence", null, null, null);

    /// <summary>All there are, in the order they are offered in.</summary>
    public static IReadOnlyList<RoomMeasure> All { get; } = [new("Temperature", "°C", "K", 3), new("Humidity", "%RH", "%RH", 15), new("CO₂", "ppm", "ppm", 300), Presence];
}
