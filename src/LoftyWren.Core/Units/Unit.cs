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
    /// <summary>Volume.</summary>
    Volume,
    /// <summary>Mass.</summary>
    Mass,
    /// <summary>Mass flow.</summary>
    MassFlow,
    /// <summary>Apparent power of alternating current.</summary>
    ApparentPower,
    /// <summary>Reactive power of alternating current.</summary>
    ReactivePower,
    /// <summary>Periods a second.</summary>
    Frequency,
    /// <summary>Turns of a shaft in a time; not a frequency, since a machine may have several of each.</summary>
    RotationSpeed,
    /// <summary>Water in dry air, by mass.</summary>
    HumidityRatio,
    /// <summary>Enthalpy by mass.</summary>
    SpecificEnthalpy,
    /// <summary>Radiant power on a surface.</summary>
    Irradiance,
    /// <summary>Mass of particles or of a gas in a volume of air.</summary>
    MassConcentration,
    /// <summary>Angle.</summary>
    Angle,
    /// <summary>Volume flow times a difference of temperatures: heat carried, but for the heat capacity of what flows.</summary>
    FlowTimesDifference,
    /// <summary>Mass flow times a difference of temperatures.</summary>
    MassFlowTimesDifference,
    /// <summary>Heat capacity by volume; water has 1.163 kWh/m³·K.</summary>
    VolumetricHeat,
    /// <summary>Heat capacity by mass; water has 4.19 kJ/kg·K, air 1.006.</summary>
    SpecificHeat,
    /// <summary>Heat that flows for each degree of difference.</summary>
    HeatFlowByDifference,
    /// <summary>Mass by volume.</summary>
    Density,
    /// <summary>Length.</summary>
    Length,
    /// <summary>Area.</summary>
    Area,
    /// <summary>How often a shaft has turned.</summary>
    Turns,
    /// <summary>How often an alternating current has changed round.</summary>
    Periods,
}

/// <summary>A unit: <c>base value = value × Factor + Offset</c> in the quantity's first unit. Factors are exact by definition: foot 0.3048 m, US gallon 231 in³, pound 0.45359237 kg, standard gravity 9.80665 m/s².</summary>
/// <param name="Symbol">How it is written.</param>
/// <param name="Quantity">What it measures.</param>
/// <param name="Factor">Into the quantity's first unit.</param>
/// <param name="Offset">Into the quantity's first unit.</param>
/// <param name="Also">Other ways in which people and keyboards write it.</param>
public sealed record Unit(string Symbol, Quantity Quantity, double Factor, double Offset, params string[] Also)
{
    private const double Foot = 0.3048, GallonLitres = 231 * 0.0254 * 0.0254 * 0.0254 * 1000, PoundForce = 0.45359237 * 9.80665;

    private static readonly Unit[] Catalogue =
    [
        new("°C", Quantity.Temperature, 1, 0, "C", "ºC", "degC", "deg C", "Celsius"),
        new("°F", Quantity.Temperature, 5.0 / 9.0, -160.0 / 9.0, "F", "ºF", "degF", "deg F", "Fahrenheit"),
        new("K", Quantity.TemperatureDifference, 1, 0, "kelvin"),
        new("Δ°F", Quantity.TemperatureDifference, 5.0 / 9.0, 0, "delta °F"),
        new("%", Quantity.Ratio, 1, 0, "percent", "pct"),
        new("%RH", Quantity.RelativeHumidity, 1, 0, "RH", "% RH", "%r.h.", "% r.h."),
        new("ppm", Quantity.Concentration, 1, 0),
        new("Pa", Quantity.Pressure, 1, 0, "pascal"),
        new("hPa", Quantity.Pressure, 100, 0),
        new("mbar", Quantity.Pressure, 100, 0),
        new("kPa", Quantity.Pressure, 1000, 0),
        new("bar", Quantity.Pressure, 100_000, 0),
        new("MPa", Quantity.Pressure, 1e6, 0),
        new("psi", Quantity.Pressure, PoundForce / (0.0254 * 0.0254), 0),
        new("m³/h", Quantity.Flow, 1, 0, "m3/h", "cmh"),
        new("m³/s", Quantity.Flow, 3600, 0, "m3/s"),
        new("l/s", Quantity.Flow, 3.6, 0),
        new("l/min", Quantity.Flow, 0.06, 0),
        new("l/h", Quantity.Flow, 0.001, 0),
        new("cfm", Quantity.Flow, Foot * Foot * Foot * 60, 0, "ft³/min", "ft3/min"),
        new("gpm", Quantity.Flow, GallonLitres * 0.06, 0),
        new("W", Quantity.Power, 1, 0, "watt"),
        new("kW", Quantity.Power, 1000, 0, "kilowatt"),
        new("MW", Quantity.Power, 1e6, 0),
        new("J", Quantity.Energy, 1, 0),
        new("kJ", Quantity.Energy, 1000, 0),
        new("MJ", Quantity.Energy, 1e6, 0),
        new("Wh", Quantity.Energy, 3600, 0),
        new("kWh", Quantity.Energy, 3.6e6, 0),
        new("MWh", Quantity.Energy, 3.6e9, 0),
        new("VA", Quantity.ApparentPower, 1, 0),
        new("kVA", Quantity.ApparentPower, 1000, 0),
        new("var", Quantity.ReactivePower, 1, 0),
        new("kvar", Quantity.ReactivePower, 1000, 0, "kVAr"),
        new("A", Quantity.Current, 1, 0),
        new("mA", Quantity.Current, 0.001, 0),
        new("V", Quantity.Voltage, 1, 0),
        new("mV", Quantity.Voltage, 0.001, 0),
        new("Ω", Quantity.Resistance, 1, 0, "ohm", "ohms"),
        new("kΩ", Quantity.Resistance, 1000, 0, "kohm"),
        new("Hz", Quantity.Frequency, 1, 0, "hertz"),
        new("rpm", Quantity.RotationSpeed, 1, 0, "1/min"),
        new("lx", Quantity.Illuminance, 1, 0, "lux"),
        new("W/m²", Quantity.Irradiance, 1, 0, "W/m2"),
        new("m/s", Quantity.Speed, 1, 0),
        new("°", Quantity.Angle, 1, 0, "deg"),
        new("g/kg", Quantity.HumidityRatio, 1, 0),
        new("kJ/kg", Quantity.SpecificEnthalpy, 1, 0),
        new("µg/m³", Quantity.MassConcentration, 1, 0, "μg/m³", "ug/m3", "µg/m3"),
        new("mg/m³", Quantity.MassConcentration, 1000, 0, "mg/m3"),
        new("m³", Quantity.Volume, 1, 0, "m3"),
        new("l", Quantity.Volume, 0.001, 0, "litre", "litres"),
        new("kg", Quantity.Mass, 1, 0),
        new("kg/s", Quantity.MassFlow, 1, 0),
        new("kg/h", Quantity.MassFlow, 1 / 3600.0, 0),
        new("s", Quantity.Time, 1, 0, "sec", "seconds"),
        new("min", Quantity.Time, 60, 0, "minutes"),
        new("h", Quantity.Time, 3600, 0, "hours"),
        new("d", Quantity.Time, 86_400, 0, "days"),
        new("m³/h·K", Quantity.FlowTimesDifference, 1, 0, "m3/h*K", "m³/h*K"),
        new("kg/s·K", Quantity.MassFlowTimesDifference, 1, 0, "kg/s*K"),
        new("kWh/m³·K", Quantity.VolumetricHeat, 1, 0, "kWh/m3K", "kWh/(m³·K)"),
        new("kJ/kg·K", Quantity.SpecificHeat, 1, 0, "kJ/kgK", "kJ/(kg·K)"),
        new("kW/K", Quantity.HeatFlowByDifference, 1, 0),
        new("kg/m³", Quantity.Density, 1, 0, "kg/m3"),
        new("m", Quantity.Length, 1, 0, "metre", "metres"),
        new("mm", Quantity.Length, 0.001, 0),
        new("m²", Quantity.Area, 1, 0, "m2"),
        new("turns", Quantity.Turns, 1, 0),
        new("periods", Quantity.Periods, 1, 0),
    ];

    /// <summary>Quantities whose product is one, each in the unit in which the product holds without a factor.</summary>
    public static IReadOnlyList<UnitProduct> Products { get; } =
    [
        .. new (string One, string Other, string Product)[]
        {
            ("m³/h", "K", "m³/h·K"), ("m³/h·K", "kWh/m³·K", "kW"), ("kg/s", "K", "kg/s·K"), ("kg/s·K", "kJ/kg·K", "kW"), ("m³/h", "kWh/m³·K", "kW/K"), ("kg/s", "kJ/kg·K", "kW/K"), ("kW/K", "K", "kW"),
            ("kg/s", "kJ/kg", "kW"), ("kg", "kJ/kg", "kJ"), ("m³/h", "kg/m³", "kg/h"), ("m³", "kg/m³", "kg"),
            ("kW", "h", "kWh"), ("m³/h", "h", "m³"), ("kg/h", "h", "kg"), ("m/s", "s", "m"), ("m/s", "m²", "m³/s"), ("W/m²", "m²", "W"), ("Pa", "m³/s", "W"),
            ("V", "A", "VA"), ("A", "Ω", "V"), ("rpm", "min", "turns"), ("Hz", "s", "periods"),
        }.Select(p => new UnitProduct(Find(p.One)!, Find(p.Other)!, Find(p.Product)!)),
    ];

    /// <summary>What two quantities make when they are multiplied, with the units in which that holds; null when they make none.</summary>
    public static UnitProduct? Product(Quantity one, Quantity other) =>
        Products.FirstOrDefault(p => (p.One.Quantity == one && p.Other.Quantity == other) || (p.One.Quantity == other && p.Other.Quantity == one));

    /// <summary>The product that a quantity is, with the given one as its other factor; null when it is none.</summary>
    public static UnitProduct? Quotient(Quantity product, Quantity by) =>
        Products.FirstOrDefault(p => p.Product.Quantity == product && p.Other.Quantity == by) ?? (Products.FirstOrDefault(p => p.Product.Quantity == product && p.One.Quantity == by) is { } turned ? new UnitProduct(turned.Other, turned.One, turned.Product) : null);

    /// <summary>
    /// The unit that a text means, by its symbol or another way of writing it, or null. Upper and lower case may differ where
    /// that cannot turn milli into mega.
    /// </summary>
    public static Unit? Read(string text)
    {
        text = text.Trim();
        if (text.Length == 0) return null;
        if (Find(text) is { } unit) return unit;
        foreach (StringComparison how in new[] { StringComparison.Ordinal, StringComparison.OrdinalIgnoreCase })
        {
            foreach (Unit known in Catalogue)
            {
                foreach (string way in known.Also.Prepend(known.Symbol))
                {
                    bool shifts = char.ToLowerInvariant(text[0]) == 'm' && text[0] != way[0];
                    if (way.Equals(text, how) && !shifts) return known;
                }
            }
        }
        return null;
    }

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
        Quantity.Volume => "a volume",
        Quantity.Mass => "a mass",
        Quantity.MassFlow => "a mass flow",
        Quantity.ApparentPower => "an apparent power",
        Quantity.ReactivePower => "a reactive power",
        Quantity.Frequency => "a frequency",
        Quantity.RotationSpeed => "a speed of rotation",
        Quantity.HumidityRatio => "a humidity ratio",
        Quantity.SpecificEnthalpy => "an enthalpy",
        Quantity.Irradiance => "an irradiance",
        Quantity.MassConcentration => "a concentration by mass",
        Quantity.Angle => "an angle",
        Quantity.FlowTimesDifference => "a flow times a temperature difference",
        Quantity.MassFlowTimesDifference => "a mass flow times a temperature difference",
        Quantity.VolumetricHeat => "a heat capacity by volume",
        Quantity.SpecificHeat => "a heat capacity by mass",
        Quantity.HeatFlowByDifference => "a heat flow for each degree",
        Quantity.Density => "a density",
        Quantity.Length => "a length",
        Quantity.Area => "an area",
        Quantity.Turns => "a number of turns",
        Quantity.Periods => "a number of periods",
        _ => throw new InvalidOperationException($"{Quantity} has no word."),
    };
}

/// <summary>Two units whose quantities multiplied make a third, without any factor.</summary>
public sealed record UnitProduct(Unit One, Unit Other, Unit Product);

/// <summary>A conversion on a line, shown where it happens: <c>to = from × Factor + Offset</c>.</summary>
public sealed record Conversion(string From, string To, double Factor, double Offset);
