using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Plant;
using LoftyWren.VirtualSite.Weather;

namespace LoftyWren.VirtualSite.Tests.Plant;

public class RoomsTests
{
    private static readonly RecordId A = new("a"), B = new("b"), C = new("c");

    private static Rooms Three(double start = 18) => new(
    [
        new SiteRoom { Id = A, Name = "A", AreaSquareMetres = 20, Walls = [new SharedWall(B, 12)] },
        new SiteRoom { Id = B, Name = "B", AreaSquareMetres = 60, Walls = [new SharedWall(A, 12), new SharedWall(C, 18)] },
        new SiteRoom { Id = C, Name = "C", AreaSquareMetres = 35, Walls = [new SharedWall(B, 18)] },
    ], start);

    [Fact]
    public void What_the_nodes_gain_is_what_the_accounts_say()
    {
        Rooms rooms = Three();
        double[] before = [rooms.Stored(0), rooms.Stored(1), rooms.Stored(2)];
        var weather = new WeatherYear(3);
        var random = new Random(4);
        for (int step = 0; step < 20_000; step++)
        {
            for (int i = 0; i < 3; i++)
            {
                rooms.PlantHeat[i] = random.Next(0, 3000);
                rooms.ExtraAir[i] = random.Next(0, 400);
                rooms.People[i] = random.Next(0, 5);
            }
            rooms.Step(5, weather.At(step * 5000L));
        }
        for (int i = 0; i < 3; i++)
        {
            double gained = rooms.Stored(i) - before[i];
            Assert.Equal(rooms.Ledger[i].Sum, gained, Math.Abs(rooms.Ledger[i].Plant) * 1e-9);
            Assert.NotEqual(0, gained);
        }
    }

    [Fact]
    public void What_one_room_gives_through_a_wall_the_others_get()
    {
        Rooms rooms = Three();
        rooms.PlantHeat[0] = 2000;
        for (int step = 0; step < 5000; step++) rooms.Step(5, new Conditions(5, 80, 3, 0, false));
        Assert.Equal(0, rooms.Ledger.Sum(l => l.Neighbours), 1e-3);
        Assert.True(rooms.Ledger[0].Neighbours < 0 && rooms.Ledger[1].Neighbours > 0);
    }

    [Fact]
    public void Left_alone_in_the_cold_every_room_comes_to_the_outdoor_temperature()
    {
        Rooms rooms = Three(25);
        for (int step = 0; step < 60 * 1440; step++) rooms.Step(60, new Conditions(5, 80, 3, 0, false));
        Assert.All(rooms.Air.Concat(rooms.Structure), t => Assert.Equal(5, t, 0.05));
    }

    [Fact]
    public void A_heated_room_settles_where_heat_in_equals_heat_out()
    {
        // One room of 20 m², 3 m high, no neighbours, 0 °C outside. Steady state by hand: from the air, windows 0.2·20 = 4 W/K,
        // air change 0.3·60 m³/h·1206 J/(m³·K)/3600 = 6.03 W/K, and through the structure 9·20 in series with 0.6·20:
        // 180·12/192 = 11.25 W/K. Together 21.28 W/K; 425.6 W hold 20.0 °C.
        var rooms = new Rooms([new SiteRoom { Id = A, Name = "A", AreaSquareMetres = 20 }], 10);
        rooms.PlantHeat[0] = 425.6;
        for (int step = 0; step < 90 * 1440; step++) rooms.Step(60, new Conditions(0, 80, 3, 0, false));
        Assert.Equal(20.0, rooms.Air[0], 0.05);
    }

    [Fact]
    public void People_raise_carbon_dioxide_towards_what_the_air_change_carries_off()
    {
        // 2 people × 18 l/h into 0.3 × 60 m³/h of fresh air: 36/18 000 = 2000 ppm above the 420 ppm outside.
        var rooms = new Rooms([new SiteRoom { Id = A, Name = "A", AreaSquareMetres = 20 }]);
        rooms.People[0] = 2;
        for (int step = 0; step < 2 * 1440; step++) rooms.Step(60, new Conditions(15, 60, 3, 0, false));
        Assert.Equal(2420, rooms.Co2[0], 0.01);
    }

    // Saturated air at 20 °C holds 14.7 g/kg (psychrometric tables, 1013 hPa).
    [Fact]
    public void Humidity_by_the_Magnus_formula()
    {
        Assert.Equal(14.7, Rooms.MoistureOf(20, 100), 0.1);
        Assert.Equal(50, Rooms.RelativeHumidity(Rooms.MoistureOf(22, 50), 22), 1e-6);
        Assert.Equal(100, Rooms.RelativeHumidity(50, 10));
    }

    // A humidifier of 1500 g/h in a room of 180 m³ at 20 °C: without a dew point it would come to over 90 g/kg; saturation is 14.7 g/kg.
    [Fact]
    public void Air_holds_no_more_water_than_saturation()
    {
        var rooms = new Rooms([new SiteRoom { Id = A, Name = "A", AreaSquareMetres = 60 }]);
        rooms.Steam[0] = 15_000;
        for (int step = 0; step < 1440; step++) rooms.Step(60, new Conditions(rooms.Air[0], 80, 3, 0, false));
        Assert.InRange(rooms.Moisture[0], 0.9 * Rooms.MoistureOf(rooms.Air[0], 100), Rooms.MoistureOf(rooms.Air[0], 100) * 1.001);
    }

    // An hour of this year never differs by more than the walk's own steps: 0.55 K × 4 and the daily swing's 1.3 K/h.
    [Theory]
    [InlineData(2026)]
    [InlineData(2027)]
    [InlineData(2028)]
    public void The_weather_does_not_jump_at_New_Year_nor_at_any_other_hour(int year)
    {
        var weather = new WeatherYear(41);
        long begin = new DateTimeOffset(year, 12, 1, 0, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();
        for (int minute = 0; minute < 62 * 1440; minute++)
        {
            Conditions now = weather.At(begin + (minute * 60_000L)), next = weather.At(begin + ((minute + 1) * 60_000L));
            Assert.InRange(Math.Abs(next.Temperature - now.Temperature), 0, 0.08);
            Assert.InRange(Math.Abs(next.Wind - now.Wind), 0, 0.15);
        }
    }
}
