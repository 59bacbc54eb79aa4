using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>What blocks of moist air do; bound as <see cref="BlockMath"/> is.</summary>
internal static class AirMath
{
    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        Pin[] air = [In("temperature", "temperature"), In("humidity", "humidity")];
        yield return Plain(BlockKind.DewPoint, "Dew point", "dew point condensation moist air psychrometrics", "Air", air, [Out("out", "out", "°C")]) with { Infers = BlockTyping.Air, Example = new("°C", 5, 30) { Others = [("humidity", "%RH", 60, 60)] } };
        yield return Plain(BlockKind.WetBulb, "Wet bulb", "wet bulb temperature cooling tower psychrometrics", "Air", air, [Out("out", "out", "°C")], false, [PlantMath.Pressure]) with { Infers = BlockTyping.Air, Example = new("°C", 5, 30) { Others = [("humidity", "%RH", 60, 60)] } };
        yield return Plain(BlockKind.Enthalpy, "Enthalpy", "enthalpy of air heat content psychrometrics", "Air", air, [Out("out", "out", "kJ/kg")], false, [PlantMath.Pressure]) with { Infers = BlockTyping.Air, Example = new("°C", 5, 30) { Others = [("humidity", "%RH", 60, 60)] } };
        yield return Plain(BlockKind.HumidityRatio, "Humidity ratio", "humidity ratio absolute humidity moisture content psychrometrics", "Air", air, [Out("out", "out", "g/kg")], false, [PlantMath.Pressure]) with { Infers = BlockTyping.Air, Example = new("°C", 5, 30) { Others = [("humidity", "%RH", 60, 60)] } };
        yield return Plain(BlockKind.RelativeHumidity, "Relative humidity", "relative humidity from dew point psychrometrics", "Air", [In("temperature", "temperature"), In("dewPoint", "dew point")], [Out("out", "out", "%RH")]) with { Infers = BlockTyping.Air, Example = new("°C", 12, 30) { Others = [("dewPoint", "°C", 10, 10)] } };
    }

    public static PinValue DewPoint(PinValue temperature, PinValue humidity) => Simple(temperature.Status | humidity.Status, MoistAir.DewPoint(temperature.Value, humidity.Value));

    public static PinValue WetBulb(PinValue temperature, PinValue humidity, double pressure) => Simple(temperature.Status | humidity.Status, MoistAir.WetBulb(temperature.Value, humidity.Value, pressure));

    public static PinValue Enthalpy(PinValue temperature, PinValue humidity, double pressure) => Simple(temperature.Status | humidity.Status, MoistAir.Enthalpy(temperature.Value, humidity.Value, pressure));

    public static PinValue HumidityRatio(PinValue temperature, PinValue humidity, double pressure) => Simple(temperature.Status | humidity.Status, MoistAir.HumidityRatio(temperature.Value, humidity.Value, pressure));

    public static PinValue RelativeHumidity(PinValue temperature, PinValue dewPoint) => Simple(temperature.Status | dewPoint.Status, MoistAir.RelativeHumidity(temperature.Value, dewPoint.Value));
}

/// <summary>
/// Moist air. The pressure of saturated vapour over water is that of the WMO's guide to instruments (WMO-No. 8, annex 4.B):
/// 6.112 hPa × exp(17.62 t ÷ (243.12 °C + t)), from −45 to 60 °C; the rest follows from the ideal gas law and the heat
/// capacities 1.006 kJ/kg·K of dry air and 1.86 kJ/kg·K of vapour, with 2501 kJ/kg to evaporate at 0 °C.
/// Outside of their range all answers are no number.
/// </summary>
internal static class MoistAir
{
    /// <summary>CO₂ outdoors where nobody measures it, ppm.</summary>
    public const double OutdoorCo2 = 420;

    private const double Coldest = -45, Hottest = 60, MassRatio = 0.62198;

    /// <summary>Pressure of saturated vapour over water, Pa.</summary>
    public static double Saturation(double celsius) => celsius is >= Coldest and <= Hottest ? 611.2 * Math.Exp(17.62 * celsius / (243.12 + celsius)) : double.NaN;

    /// <summary>Dew point, °C, of air at so many °C and % relative humidity.</summary>
    public static double DewPoint(double celsius, double percent)
    {
        if (!(percent is > 0 and <= 100)) return double.NaN;
        double ln = Math.Log(percent / 100 * Saturation(celsius) / 611.2), dew = 243.12 * ln / (17.62 - ln);
        return dew >= Coldest ? dew : double.NaN;
    }

    /// <summary>Water in dry air, g/kg, at a pressure in Pa.</summary>
    public static double HumidityRatio(double celsius, double percent, double pressure)
    {
        if (!(percent is >= 0 and <= 100)) return double.NaN;
        double vapour = percent / 100 * Saturation(celsius);
        return vapour < pressure ? 1000 * MassRatio * vapour / (pressure - vapour) : double.NaN;
    }

    /// <summary>Enthalpy of moist air, kJ for each kg of dry air, 0 at 0 °C and dry.</summary>
    public static double Enthalpy(double celsius, double percent, double pressure) => OfMixture(celsius, HumidityRatio(celsius, percent, pressure) / 1000);

    private static double OfMixture(double celsius, double ratio) => (1.006 * celsius) + (ratio * (2501 + (1.86 * celsius)));

    /// <summary>Relative humidity, %, of air with a dew point.</summary>
    public static double RelativeHumidity(double celsius, double dewPoint) => dewPoint <= celsius ? 100 * Saturation(dewPoint) / Saturation(celsius) : double.NaN;

    /// <summary>Temperature of adiabatic saturation, °C: where the enthalpy of the air, with that of the water it takes up, is that of saturated air.</summary>
    public static double WetBulb(double celsius, double percent, double pressure)
    {
        double ratio = HumidityRatio(celsius, percent, pressure) / 1000, low = Coldest, high = celsius;
        if (double.IsNaN(ratio)) return double.NaN;
        double enthalpy = OfMixture(celsius, ratio);
        // Halved until it is known to less than a thousandth of a degree.
        while (high - low > 1e-4)
        {
            double middle = (low + high) / 2, saturated = HumidityRatio(middle, 100, pressure) / 1000;
            if (OfMixture(middle, saturated) - ((saturated - ratio) * 4.186 * middle) > enthalpy) high = middle;
            else low = middle;
        }
        return (low + high) / 2;
    }
}
