namespace LoftyWren.VirtualSite.Weather;

/// <summary>The weather at one moment.</summary>
/// <param name="Temperature">Outdoor air, °C.</param>
/// <param name="Humidity">Relative humidity, %.</param>
/// <param name="Wind">Wind speed, m/s.</param>
/// <param name="Solar">Sun on a level surface, W/m².</param>
/// <param name="Rain">Whether it rains.</param>
public readonly record struct Conditions(double Temperature, double Humidity, double Wind, double Solar, bool Rain);

/// <summary>
/// A made-up year of hourly weather: a yearly and a daily swing, with clouds, wind and warm or cold spells that come and go
/// by a first-order random walk. The same seed gives the same year; its last ten days lead back to its first hour, and it
/// comes again and again from the beginning of 2026 on, so that no hour ever jumps (a leap year puts it a day off the calendar).
/// </summary>
public sealed class WeatherYear
{
    private const int Hours = 8760, LeadBack = 240;
    private static readonly long Beginning = new DateTimeOffset(2026, 1, 1, 0, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();
    private readonly double[] _temperature = new double[Hours + 1], _humidity = new double[Hours + 1], _wind = new double[Hours + 1], _clear = new double[Hours + 1];
    private readonly double _latitude;

    /// <summary>Makes the year for a latitude in degrees.</summary>
    public WeatherYear(int seed, double latitudeDegrees = 51)
    {
        var random = new Random(seed);
        _latitude = latitudeDegrees * Math.PI / 180;
        double spell = 0, cloud = 0.4, gust = 0;
        (double Spell, double Cloud, double Gust)? start = null;
        for (int hour = 0; hour <= Hours; hour++)
        {
            spell = (0.985 * spell) + (0.55 * Normal(random));
            cloud = Math.Clamp((0.93 * cloud) + (0.07 * 0.5) + (0.13 * Normal(random)), 0, 1);
            gust = (0.9 * gust) + (0.8 * Normal(random));
            var first = start ??= (spell, cloud, gust);
            double back = Math.Max(0, (hour - Hours + LeadBack) / (double)LeadBack);
            double Towards(double now, double then) => now + (back * (then - now));
            double here = Towards(cloud, first.Cloud);
            double day = hour / 24.0, hourOfDay = hour % 24;
            double season = -7.5 * Math.Cos(2 * Math.PI * (day - 20) / 365);
            double daily = -(2 + (3 * (1 - here))) * Math.Cos(2 * Math.PI * (hourOfDay - 3) / 24);
            _temperature[hour] = 10 + season + daily + Towards(spell, first.Spell);
            _clear[hour] = 1 - (0.75 * here);
            _humidity[hour] = Math.Clamp(78 + (18 * (here - 0.5)) - (3 * daily), 25, 100);
            _wind[hour] = Math.Max(0, 4 + Towards(gust, first.Gust) + (2 * here));
        }
    }

    /// <summary>The weather at a moment of site time, ms since 1970 UTC.</summary>
    public Conditions At(long milliseconds)
    {
        DateTimeOffset at = DateTimeOffset.FromUnixTimeMilliseconds(milliseconds);
        double hours = (milliseconds - Beginning) / 3_600_000.0 % Hours;
        if (hours < 0) hours += Hours;
        int i = Math.Min((int)hours, Hours - 1);
        double share = hours - i;
        double Mix(double[] values) => values[i] + (share * (values[i + 1] - values[i]));
        // Height of the sun by day of year and hour; clear-sky strength 1000 W/m² at the zenith.
        double declination = 23.44 * Math.PI / 180 * Math.Sin(2 * Math.PI * (at.DayOfYear - 81) / 365);
        double hourAngle = (at.TimeOfDay.TotalHours - 12) * Math.PI / 12;
        double height = (Math.Sin(_latitude) * Math.Sin(declination)) + (Math.Cos(_latitude) * Math.Cos(declination) * Math.Cos(hourAngle));
        double clear = Mix(_clear);
        return new Conditions(Mix(_temperature), Mix(_humidity), Mix(_wind), Math.Max(0, height) * 1000 * clear, clear < 0.32);
    }

    private static double Normal(Random random) => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
}
