using LoftyWren.VirtualSite.Plant;
using LoftyWren.VirtualSite.Weather;

namespace LoftyWren.VirtualSite.Tests.Plant;

public class KilnTests
{
    [Fact]
    public void A_firing_reaches_its_top_ends_and_cools_and_no_energy_is_lost()
    {
        var kiln = new Kiln { FiringSince = 0 };
        double top = 0;
        for (long s = 0; s < 48 * 3600; s += 5)
        {
            kiln.Step(5, s * 1000, 20);
            top = Math.Max(top, kiln.Temperature);
        }
        Assert.InRange(top, 1040, 1062);
        Assert.Null(kiln.FiringSince);
        double stored = Kiln.Capacity * (kiln.Temperature - 20);
        Assert.Equal(kiln.EnergyTaken, kiln.HeatGiven + stored, kiln.EnergyTaken * 1e-9);
        Assert.InRange(kiln.EnergyTaken / 3.6e6, 30, 150);
    }

    [Fact]
    public void It_rises_150_kelvin_an_hour()
    {
        var kiln = new Kiln { FiringSince = 0 };
        for (long s = 0; s < 4 * 3600; s += 5) kiln.Step(5, s * 1000, 20);
        Assert.Equal(20 + (4 * 150), kiln.Temperature, 10.0);
        Assert.Equal(2, kiln.State);
    }

    [Fact]
    public void A_motor_answers_after_a_few_seconds_and_not_to_a_blip()
    {
        var motor = new Motor();
        motor.Step(1, true);
        Assert.False(motor.Turns);
        motor.Step(5, true);
        Assert.True(motor.Turns);
        motor.Step(1, false);
        Assert.True(motor.Turns);
        motor.Step(5, false);
        Assert.False(motor.Turns);
    }

    [Fact]
    public void The_weather_of_a_seed_is_always_the_same_and_believable()
    {
        WeatherYear one = new(41), again = new(41), other = new(42);
        long start = new DateTimeOffset(2026, 1, 1, 0, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();
        double coldest = 99, warmest = -99, nightSun = 0, differs = 0;
        for (int hour = 0; hour < 365 * 24; hour++)
        {
            long at = start + (hour * 3_600_000L);
            Conditions now = one.At(at);
            Assert.Equal(now, again.At(at));
            differs += Math.Abs(now.Temperature - other.At(at).Temperature);
            (coldest, warmest) = (Math.Min(coldest, now.Temperature), Math.Max(warmest, now.Temperature));
            Assert.InRange(now.Humidity, 0, 100);
            Assert.True(now.Wind >= 0);
            if (hour % 24 == 0) nightSun += now.Solar;
        }
        Assert.InRange(coldest, -20, 3);
        Assert.InRange(warmest, 22, 40);
        Assert.Equal(0, nightSun);
        Assert.True(differs > 1000);
    }
}
