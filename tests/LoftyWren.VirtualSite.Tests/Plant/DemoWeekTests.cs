using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Formats.Projects;

namespace LoftyWren.VirtualSite.Tests.Plant;

/// <summary>The demo's building over a week of its weather, under its own controllers and without the demo's faults: what a building does.</summary>
public sealed class DemoWeekTests
{
    private const int Hours = 24 * 7;

    private static Project Demo()
    {
        string root = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(root, "LoftyWren.slnx"))) root = Path.GetDirectoryName(root)!;
        return Changes.Apply(Project.Empty, new ChangeSet([.. ProjectFolder.Read(Path.Combine(root, "demo"))], "engineer", 0)).After!;
    }

    [Fact]
    public void It_looks_like_a_real_building()
    {
        Project project = Demo();
        Assert.InRange(project.All<Point>().Count(), 420, 470);
        Assert.InRange(project.All<Core.Hardware.Controller>().Count(), 6, 12);
        // Saturday first, so that Monday comes after two days in which the building found its warmth.
        Site site = Building.Up(project, new DateTimeOffset(2026, 4, 11, 4, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds());
        double Now(string quantity) => site.Plant[site.Plant.IndexOf(quantity)];
        var open = new List<double>();
        double energyBefore = double.NaN, roomsBefore = double.NaN, warmest = 0, coldest = 99, most = 0;
        int boiler = 0, changes = 0, shaded = 0;
        bool ran = false;
        for (int hour = 0; hour < Hours; hour++)
        {
            site.RunUntil(site.Now + 3_600_000);
            if (hour == 24) (energyBefore, roomsBefore) = (Balance.Of(site.Plant), Balance.Stored(site.Plant));
            DateTimeOffset local = DateTimeOffset.FromUnixTimeMilliseconds(site.Now).AddHours(1);
            if (hour > 24 && local.DayOfWeek is >= DayOfWeek.Tuesday and <= DayOfWeek.Friday && local.Hour is >= 13 and <= 17) open.Add(Now("room/kh-g-office/temperature"));
            foreach (string room in new[] { "kh-g-gallery", "kh-g-office", "kh-1-throwing-studio", "kh-1-packing-room", "bn-g-teaching-room", "kh-1-landing" })
                (warmest, coldest) = (Math.Max(warmest, Now($"room/{room}/temperature")), Math.Min(coldest, Now($"room/{room}/temperature")));
            most = Math.Max(most, Now("room/kh-g-gallery/co2"));
            boiler += Now("machine/boiler-1/status") > 0.5 ? 1 : 0;
            changes += ran != Now("machine/ahu-1/status") > 0.5 ? 1 : 0;
            ran = Now("machine/ahu-1/status") > 0.5;
            shaded += Now("machine/kh-g-gallery-blinds/position") > 10 ? 1 : 0;
            // Water is warmer where it comes from: boiler, header, circuit, room.
            if (hour > 12) Assert.True(Now("machine/header/temperature") > Now("machine/circ-fc/temperature") - 0.5, $"hour {hour}: the fan-coil circuit is warmer than what feeds it");
        }
        // Office, setpoint 21 °C: in the afternoons of open days within 1.5 K of it (heating only: the sun may carry it above).
        Assert.All(open, t => Assert.InRange(t, 19.5, 23));
        // Outside hours rooms are let down to 16 °C (landing 15 °C) and not below; with people and sun nobody boils.
        Assert.InRange(coldest, 14, 17.5);
        Assert.InRange(warmest, 20, 27);
        // 122 m² with 9 people and supply air: stale at times, never beyond what the alarm says.
        Assert.InRange(most, 650, 1200);
        Assert.InRange(boiler, 5, Hours - 1);
        // 375 m² of barn lose about 1.06 W/(m²·K) (skin, windows, air) to weather some 8 K cooler than they; people and sun give half of
        // that back: 4 to 5 W/m² over 168 h, 250 to 320 kWh of heat, at a performance of 3 to 4 some 60 to 110 kWh.
        Assert.InRange(Now("machine/hp-1/energy"), 50, 150);
        // On and off once each open day: Saturday, Sunday (the second Saturday's start falls beyond the week), Tuesday to Friday.
        Assert.InRange(changes, 10, 14);
        Assert.InRange(shaded, 1, 80);
        // Over six days, what is stored has changed by what came in and went out, to a millionth of what passed.
        double passed = site.Plant.Ledger.Gas + site.Plant.Ledger.Electric;
        Assert.Equal(Balance.Of(site.Plant) - energyBefore, Balance.Stored(site.Plant) - roomsBefore, passed * 1e-6);
    }
}
