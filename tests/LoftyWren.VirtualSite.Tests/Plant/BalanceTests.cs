using LoftyWren.Core.Plant;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Units;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Tests.Plant;

/// <summary>What the accounts of a plant say.</summary>
internal static class Balance
{
    /// <summary>Heat that has come in from outside of all rooms and machines since the start, J.</summary>
    public static double Of(VirtualSite.Plant.Plant plant)
    {
        PlantLedger l = plant.Ledger;
        return l.Gas - l.Flue + l.Electric + l.Outdoors + l.Unfed + l.Latent + plant.BackgroundHeat + plant.Rooms.Ledger.Sum(r => r.Outdoors + r.Air + r.Solar + r.People);
    }

    /// <summary>Heat stored in rooms and machines, J.</summary>
    public static double Stored(VirtualSite.Plant.Plant plant) => Enumerable.Range(0, plant.Rooms.Air.Length).Sum(plant.Rooms.Stored) + plant.Machines.Sum(m => m.Stored);
}

/// <summary>Nothing is lost and nothing comes from nowhere, whatever is switched and however warm the weather.</summary>
public class BalanceTests
{
    private static SiteMachine Machine(string id, string kind, string? room = null, string? partOf = null, string? water = null, string? cold = null, string? air = null)
    {
        RecordId? Id(string? name) => name is null ? null : new RecordId(name);
        return new SiteMachine { Id = new(id), Name = id, Kind = kind, Room = Id(room), PartOf = Id(partOf), WaterFrom = Id(water), ColdFrom = Id(cold), AirFrom = Id(air) };
    }

    /// <summary>Boilers and a heat pump, circuits on circuits, every kind of machine, in three rooms.</summary>
    private static SitePlan Plan(int seed) => new()
    {
        Seed = seed,
        Rooms =
        [
            new SiteRoom { Id = new("a"), Name = "A", AreaSquareMetres = 60, People = 6, Walls = [new SharedWall(new("b"), 20)] },
            new SiteRoom { Id = new("b"), Name = "B", AreaSquareMetres = 30, People = 2, Walls = [new SharedWall(new("a"), 20)] },
            new SiteRoom { Id = new("c"), Name = "C", AreaSquareMetres = 40, BackgroundHeating = true },
        ],
        Machines =
        [
            Machine("header", "water circuit", "c"), Machine("boiler-1", "boiler", "c", partOf: "header"), Machine("boiler-2", "boiler", "c", partOf: "header"),
            Machine("warm", "water circuit", "c", water: "header"), Machine("pump-1", "pump", "c", partOf: "warm"), Machine("pump-2", "pump", "c", partOf: "warm"),
            Machine("buffer", "water circuit"), Machine("hp", "heat pump", partOf: "buffer"), Machine("two-pipe", "water circuit", "c", water: "buffer"),
            Machine("fc-a", "fan-coil", "a", water: "warm", cold: "buffer"), Machine("fc-b", "fan-coil", "b", water: "two-pipe"), Machine("fc-own", "fan-coil", "b"), Machine("rad", "radiator", "b", water: "warm"), Machine("rad-own", "radiator", "c"),
            Machine("ahu", "air handler", "c", water: "warm", cold: "buffer"), Machine("zone-a", "supply zone", "a", air: "ahu"), Machine("zone-b", "supply zone", "b", air: "ahu"), Machine("free", "air handler", "c", water: "warm", cold: "buffer"),
            Machine("kiln", "kiln", "c"), Machine("fan", "extract fan", "a"), Machine("lamps", "lighting", "a"), Machine("blind", "blind", "a"), Machine("steam", "humidifier", "b"), Machine("thing", "other", "b"),
        ],
    };

    // Six weeks from all over the year, each with every command drawn anew every quarter of an hour.
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    [InlineData(5)]
    [InlineData(6)]
    public void Energy_air_and_water_are_closed(int seed)
    {
        var plant = new VirtualSite.Plant.Plant(Plan(seed));
        var random = new Random(seed);
        long now = new DateTimeOffset(2026, 1, 10, 0, 0, 0, TimeSpan.Zero).AddDays(55 * (seed - 1)).ToUnixTimeMilliseconds();
        var driven = plant.Machines.SelectMany(m => EquipmentKind.Find(m.Drawn.Kind).Quantities.Where(q => q.IsDriven).Select(q => (q.Unit, At: plant.IndexOf($"machine/{m.Drawn.Id}/{q.Key}")))).ToList();
        Assert.All(driven, d => Assert.True(d.At >= 0));
        plant.LookOutside(now);
        double stored = Balance.Stored(plant), water = Water();
        for (int step = 0; step < 7 * 17_280; step++)
        {
            if (step % 180 == 0)
            {
                foreach (var (unit, at) in driven) plant[at] = unit is null ? random.Next(2) : random.Next(-20, 121);
            }
            plant.Step(now += 5000);
            // As much air goes into the rooms as the handler blows.
            Assert.Equal(At("machine/ahu/flow"), At("machine/zone-a/flow") + At("machine/zone-b/flow"), 1e-9);
        }
        double passed = plant.Ledger.Gas + plant.Ledger.Electric + Math.Abs(plant.Ledger.Unfed);
        Assert.True(passed > 1e8);
        Assert.Equal(Balance.Of(plant), Balance.Stored(plant) - stored, passed * 1e-7);
        double brought = plant.Rooms.WaterOfPeople + plant.Ledger.Steam;
        Assert.Equal(brought + plant.Rooms.WaterOfAir - plant.Ledger.Condensed - plant.Rooms.WaterFallen, Water() - water, Math.Max(1, brought) * 1e-6);
        Assert.Equal(plant.Ledger.Latent, plant.Ledger.Condensed * 2470, plant.Ledger.Latent * 1e-9);
        // However it is driven, no node leaves what can be in a building.
        foreach (Machine machine in plant.Machines.Where(m => m.Drawn.Kind is not "kiln"))
        {
            foreach (var (name, value) in plant.Quantities.Where(q => q.Name.StartsWith($"machine/{machine.Drawn.Id}/", StringComparison.Ordinal) && q.Name.EndsWith("emperature", StringComparison.Ordinal))) Assert.True(value is > -30 and < 110, $"{name} is {value}");
        }

        double At(string name) => plant[plant.IndexOf(name)];
        double Water() => Enumerable.Range(0, 3).Sum(plant.Rooms.WaterIn);
    }

    // 60 m², four-pipe, room at 26 °C and 60 %: 12.65 g/kg (psychrometric tables, 1013 hPa). Water of 7 °C leaves a surface of 10 °C, which holds 7.65 g/kg:
    // with 900 m³/h, of which 0.6 meets it, 0.6 · 900 · 1.2 · 5.0 = 3240 g/h fall at the first moment.
    [Fact]
    public void Water_falls_on_a_coil_below_the_dew_point_and_not_above()
    {
        Assert.Equal(3240, Coil.Falls(Rooms.MoistureOf(26, 60), 10, 900), 40.0);
        Assert.Equal(0, Coil.Falls(Rooms.MoistureOf(26, 60), 18, 900));
    }

    // A fan-coil of 60 m² is built for 110 W/m² with water 35 K above the room; the circuit is built for it alone, a boiler for 10 kW at least.
    [Fact]
    public void A_fan_coil_gives_what_its_water_gives_and_nothing_without_its_pump()
    {
        var plant = new VirtualSite.Plant.Plant(new SitePlan
        {
            Rooms = [new SiteRoom { Id = new("a"), Name = "A", AreaSquareMetres = 60 }],
            Machines = [Machine("c", "water circuit"), Machine("b", "boiler", partOf: "c"), Machine("p", "pump", partOf: "c"), Machine("f", "fan-coil", "a", water: "c")],
        });
        long now = new DateTimeOffset(2026, 1, 13, 2, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();
        void Set(string quantity, double value) => plant[plant.IndexOf(quantity)] = value;
        double Get(string quantity) => plant[plant.IndexOf(quantity)];
        Set("machine/f/level", 100);
        Set("machine/b/run", 1);
        for (int i = 0; i < 720; i++) plant.Step(now += 5000);
        Assert.Equal(0, plant.Rooms.PlantHeat[0]);
        Set("machine/p/run", 1);
        for (int i = 0; i < 720; i++) plant.Step(now += 5000);
        Assert.Equal(110 * 60 / 35.0 * (Get("machine/c/temperature") - plant.Rooms.Air[0]), plant.Rooms.PlantHeat[0], 60.0);
        Assert.True(Get("machine/c/return") < Get("machine/c/temperature"));
        Assert.True(Get("machine/b/temperature") > Get("machine/c/temperature"));
    }

    // However many of a kind a room gets, they are built for it together: nothing runs away, and a hub is planned in one pass.
    [Fact]
    public void A_room_with_thousands_of_everything_stays_a_room()
    {
        string[] kinds = ["fan-coil", "radiator", "lighting", "blind", "extract fan", "supply zone"];
        var plant = new VirtualSite.Plant.Plant(new SitePlan
        {
            Rooms = [new SiteRoom { Id = new("a"), Name = "A", AreaSquareMetres = 60 }],
            Machines = [Machine("c", "water circuit"), Machine("b", "boiler", partOf: "c"), Machine("ahu", "air handler", water: "c"), .. kinds.SelectMany(k => Enumerable.Range(0, 3000).Select(n => Machine($"{k.Replace(' ', '-')}-{n}", k, "a", water: k is "fan-coil" or "radiator" ? "c" : null, air: k == "supply zone" ? "ahu" : null)))],
        });
        foreach (var (name, _) in plant.Quantities.Where(q => q.Name.EndsWith("/run", StringComparison.Ordinal)).ToList()) plant[plant.IndexOf(name)] = 1;
        foreach (var (name, _) in plant.Quantities.Where(q => q.Name.EndsWith("/level", StringComparison.Ordinal)).ToList()) plant[plant.IndexOf(name)] = 100;
        long now = new DateTimeOffset(2026, 1, 13, 2, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();
        double stored = double.NaN, before = 0;
        for (int i = 0; i < 720; i++)
        {
            if (i == 1) (stored, before) = (Balance.Stored(plant), Balance.Of(plant));
            plant.Step(now += 5000);
            Assert.InRange(plant.Rooms.Air[0], 0, 45);
        }
        Assert.Equal(Balance.Of(plant) - before, Balance.Stored(plant) - stored, plant.Ledger.Gas * 1e-6);
    }

    // The ends of the process are the water and 8 K, and the outdoor air less 8 K; at 7 °C outdoors and 45 °C: 0.45 · 326.15 / (326.15 − 272.15) = 2.72.
    [Fact]
    public void A_heat_pump_gives_more_than_it_takes_and_what_it_takes_from_outdoors_is_the_difference()
    {
        var plant = new VirtualSite.Plant.Plant(new SitePlan { Machines = [Machine("c", "water circuit"), Machine("h", "heat pump", partOf: "c")] });
        long now = new DateTimeOffset(2026, 4, 13, 2, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();
        plant[plant.IndexOf("machine/h/run")] = 1;
        plant.Step(now += 5000);
        plant[plant.IndexOf("machine/h/temperature")] = 45;
        double electric = plant.Ledger.Electric, outdoors = plant.Ledger.Outdoors, warm = 45 + 8 + 273.15, cold = plant.Weather.Temperature - 8 + 273.15;
        double loss = Lost();
        plant.Step(now += 5000);
        double taken = plant.Ledger.Electric - electric, from = plant.Ledger.Outdoors - outdoors + loss;
        Assert.Equal(0.45 * warm / (warm - cold), (taken + from) / taken, 0.05);

        // What its water and the circuit lose to the outdoors meanwhile, J: 8 kW · 3 l/kW · 4186 J/K over 20 000 s, and 0.5 ‰ of 2 kW a kelvin.
        double Lost() => ((8 * 3 * 4186 / 20_000.0 * (45 - plant.Weather.Temperature)) + (0.00005 * 2000 * (plant[plant.IndexOf("machine/c/temperature")] - plant.Weather.Temperature))) * 5;
    }

    [Fact]
    public void A_key_has_one_unit_wherever_it_is_declared()
    {
        foreach (var same in PlantQuantities.Weather.Concat(PlantQuantities.Room).Concat(EquipmentKind.All.SelectMany(k => k.Quantities)).Where(q => !q.IsDriven).GroupBy(q => q.Key))
        {
            Assert.Single(same.Select(q => q.Unit).Distinct());
            if (same.First().Unit is { Length: > 0 } unit) Assert.NotNull(Unit.Find(unit));
        }
    }

    [Fact]
    public void Every_kind_that_has_quantities_is_a_machine_that_knows_them()
    {
        foreach (EquipmentKind kind in EquipmentKind.All)
        {
            var plant = new VirtualSite.Plant.Plant(new SitePlan { Rooms = [new SiteRoom { Id = new("a"), Name = "A", AreaSquareMetres = 20 }], Machines = [Machine("m", kind.Name, "a")] });
            plant.Step(new DateTimeOffset(2026, 4, 13, 2, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds());
            foreach (PlantQuantity quantity in kind.Quantities) Assert.True(double.IsFinite(plant[plant.IndexOf($"machine/m/{quantity.Key}")]), $"{kind.Name} {quantity.Key}");
        }
    }
}
