namespace LoftyWren.Core.Units;

/// <summary>What a number measures. A temperature and a difference of temperatures are two quantities, not one.</summary>
public enum Quantity
{
    /// <summary>A bare number.</summary>
    None,
    /// <summary>A temperature on a scale with a zero of its own.</summary>
    Temperature,
    /// <summary>A difference of two temperatures.</summary>
    TemperatureDifference,
    /// <summary>A share of a whole.</summary>
    Ratio,
    /// <summary>Relative humidity.</summary>
    RelativeHumidity,
    /// <summary>Amount of a gas in air.</summary>
    Concentration,
    /// <summary>Pressure or difference of pressures.</summary>
    Pressure,
    /// <summary>Volume flow.</summary>
    Flow,
    /// <summary>Power.</summary>
    Power,
    /// <summary>Energy.</summary>
    Energy,
    /// <summary>Electric current.</summary>
    Current,
    /// <summary>Electric tension.</summary>
    Voltage,
    /// <summary>Electric resistance.</summary>
    Resistance,
    /// <summary>Light on a surface.</summary>
    Illuminance,
    /// <summary>Speed.</summary>
    Speed,
    /// <summary>Duration.</summary>
    Time,
}

/// <summary>A unit: <c>base value = value × Factor + Offset</c> in the quantity's first unit.</summary>
public sealed record Unit(string Symbol, Quantity Quantity, double Factor, double Offset)
{
    private static readonly Unit[] Catalogue =
    [
        new("°C", Quantity.Temperature, 1, 0),
        new("°F", Quantity.Temperature, 5.0 / 9.0, -160.0 / 9.0),
        new("K", Quantity.TemperatureDifference, 1, 0),
        new("Δ°F", Quantity.TemperatureDifference, 5.0 / 9.0, 0),
        new("%", Quantity.Ratio, 1, 0),
        new("%RH", Quantity.RelativeHumidity, 1, 0),
        new("ppm", Quantity.Concentration, 1, 0),
        new("Pa", Quantity.Pressure, 1, 0),
        new("kPa", Quantity.Pressure, 1000, 0),
        new("bar", Quantity.Pressure, 100_000, 0),
        new("m³/h", Quantity.Flow, 1, 0),
        new("l/s", Quantity.Flow, 3.6, 0),
        new("W", Quantity.Power, 1, 0),
        new("kW", Quantity.Power, 1000, 0),
        new("kWh", Quantity.Energy, 1, 0),
        new("A", Quantity.Current, 1, 0),
        new("mA", Quantity.Current, 0.001, 0),
        new("V", Quantity.Voltage, 1, 0),
        new("Ω", Quantity.Resistance, 1, 0),
        new("lx", Quantity.Illuminance, 1, 0),
        new("m/s", Quantity.Speed, 1, 0),
        new("s", Quantity.Time, 1, 0),
        new("min", Quantity.Time, 60, 0),
        new("h", Quantity.Time, 3600, 0),
    ];

    /// <summary>All units there are.</summary>
    public static IReadOnlyList<Unit> All => Catalogue;

    /// <summary>The unit with this symbol, or null.</summary>
    public static Unit? Find(string? symbol)
    {
        foreach (Unit unit in Catalogue)
        {
            if (unit.Symbol == symbol) return unit;
        }
        return null;
    }

    /// <summary>How to turn a value in this unit into another of the same quantity: <c>to = from × Factor + Offset</c>. Null when the quantities differ.</summary>
    public (double Factor, double Offset)? To(Unit other) =>
        other.Quantity == Quantity ? (Factor / other.Factor, (Offset - other.Offset) / other.Factor) : null;

    /// <summary>The unit in which a difference of two values in this unit is given; the same unit for all but temperatures.</summary>
    public Unit Difference => Symbol switch { "°C" => Find("K")!, "°F" => Find("Δ°F")!, _ => this };

    /// <summary>The quantity as a sentence would name it.</summary>
    public string Word => Quantity switch
    {
        Quantity.None => "a bare number",
        Quantity.Temperature => "a temperature",
        Quantity.TemperatureDifference => "a temperature difference",
        Quantity.Ratio => "a percentage",
        Quantity.RelativeHumidity => "a relative humidity",
        Quantity.Concentration => "a concentration",
        Quantity.Pressure => "a pressure",
        Quantity.Flow => "a flow",
        Quantity.Power => "a power",
        Quantity.Energy => "an energy",
        Quantity.Current => "a current",
        Quantity.Voltage => "a voltage",
        Quantity.Resistance => "a resistance",
        Quantity.Illuminance => "an illuminance",
        Quantity.Speed => "a speed",
        Quantity.Time => "a time",
        _ => throw new InvalidOperationException($"{Quantity} has no word."),
    };
}
