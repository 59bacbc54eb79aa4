using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.VirtualSite;
using LoftyWren.VirtualSite.Bus;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Plant;
using NodaTime;

namespace LoftyWren.Benchmarks;

/// <summary>
/// The demo's building through a year under its own controllers: heating and cooling season, both changes of the clocks, a
/// controller without supply for ten minutes every Wednesday afternoon, a room's thermometer broken for the first day of every
/// month. What a building must do is looked at every quarter of an hour; and at the end its energy balance closes.
/// </summary>
internal sealed class Year
{
    private static readonly DateTimeZone London = DateTimeZoneProviders.Tzdb["Europe/London"];
    private readonly Site _site;
    private readonly Wire[] _thermometers;
    private readonly RecordId[] _controllers;
    private readonly List<string> _failed = [];
    private long _looks;

    public Year(Project project)
    {
        _site = Sent(project, new LocalDateTime(2026, 1, 1, 0, 0).InZoneLeniently(London).ToInstant().ToUnixTimeMilliseconds());
        _controllers = [.. project.All<Controller>().Select(c => c.Id).Order()];
        _thermometers = [.. _site.Plan.Wires.Where(w => w.Quantity.StartsWith("room/", StringComparison.Ordinal) && w.Quantity.EndsWith("/temperature", StringComparison.Ordinal)).OrderBy(w => w.Quantity, StringComparer.Ordinal)];
    }

    /// <summary>The site of a project at a moment, with all its controllers sent and its bus devices hung.</summary>
    public static Site Sent(Project project, long now)
    {
        var site = new Site(SiteBuilder.Build(project), now);
        foreach (Controller controller in project.All<Controller>())
        {
            byte[] bytes = ControllerImage.Build(project, controller).ToBytes();
            InstalledDevice installed = site.Mount(controller.Id);
            installed.BeginSend(bytes.Length, HostKinds.HashOf(bytes));
            installed.Receive(0, bytes);
            installed.ChangeOver(InstalledDevice.MakeReady(installed.Sent()), "bench", 0);
            site.Connect(controller.Id);
        }
        // What hangs on lines was written at the bench.
        BusMedium bus = site.Media.OfType<BusMedium>().Single();
        var tables = FilterTables.Of(project);
        foreach (BusDevice device in project.All<BusDevice>().OrderBy(d => d.Id))
        {
            if (BusBuilder.BoxOf(project, device, null, isWritten: true, tables) is { } box) bus.Hang(box);
        }
        bus.Fed();
        return site;
    }

    /// <summary>Lives so many days; answers how often it looked, and what was not as it must be.</summary>
    public (long Looks, IReadOnlyList<string> Failed) Live(int days)
    {
        double energy = double.NaN, stored = double.NaN;
        Wire? broken = null;
        long end = _site.Now + (days * 86_400_000L);
        while (_site.Now < end)
        {
            _site.RunUntil(_site.Now + 900_000);
            ZonedDateTime now = Instant.FromUnixTimeMilliseconds(_site.Now).InZone(London);
            if (double.IsNaN(energy) && now.DayOfYear == 2) (energy, stored) = (Balance(), Stored());
            if (now is { DayOfWeek: IsoDayOfWeek.Wednesday, Hour: 14, Minute: 0 })
            {
                RecordId host = _controllers[now.DayOfYear / 7 % _controllers.Length];
                _site.Order(host, DeviceOrder.PowerOff);
                _site.RunUntil(_site.Now + 600_000);
                _site.Order(host, DeviceOrder.PowerOn);
                _site.RunUntil(_site.Now + 300_000);
                Look($"{host} runs again five minutes after its supply has returned", _site.Devices[host].Life is { Runs: true, Trouble: null });
            }
            if (now is { Day: 1, Hour: 8, Minute: 0 })
            {
                broken = _thermometers[now.Month % _thermometers.Length];
                _site.HoldInput(new InputHold(broken.ControllerId, broken.Terminal, 0, "bench", "a sensor fails", _site.Now, _site.Now + 86_400_000, new InputCourse([new CourseLeg(null, 0, 0)])));
            }
            if (broken is { PointId: { } point } && now.Minute == 30)
            {
                bool isHeld = _site.InputHolds.Count > 0;
                if (_site.Devices[broken.ControllerId].Program?.Read(point) is { } reading) Look($"{point} is in fault while its sensor is broken, and well afterwards", (reading.Status & StatusFlags.Fault) != 0 == isHeld);
                if (!isHeld) broken = null;
            }
            Building(now, broken);
        }
        double passed = _site.Plant.Ledger.Gas + _site.Plant.Ledger.Electric;
        Look($"the energy balance closes to a millionth of {passed / 3.6e9:0.0} MWh", Math.Abs(Balance() - energy - (Stored() - stored)) < passed * 1e-6);
        foreach (InstalledDevice device in _site.Devices.Values) Look($"{device.Id} runs, without a failure", device.Life is { Runs: true, Trouble: null });
        return (_looks, _failed);
    }

    /// <summary>What the building must do whatever happens, and what it must do on open days.</summary>
    private void Building(ZonedDateTime now, Wire? broken)
    {
        foreach (string room in new[] { "kh-g-gallery", "kh-g-office", "kh-1-throwing-studio", "kh-1-packing-room", "bn-g-teaching-room", "kh-1-landing" })
            Look($"{room} is neither frozen nor boiling ({Now($"room/{room}/temperature"):0.0} °C)", Now($"room/{room}/temperature") is > 11 and < 34);
        // On days that an exception closes (stocktake, a public holiday) the ventilation stands as it should, whoever comes all the same.
        if (Says("hours") > 0.5) Look($"the air of the gallery is fit to breathe while the house is open ({Now("room/kh-g-gallery/co2"):0} ppm)", Now("room/kh-g-gallery/co2") < 1400);
        Look($"the buffer is no warmer than its heat pump may make it ({Now("machine/buffer/temperature"):0.0} °C)", !(Now("machine/buffer/temperature") > 60));
        if (now.Minute != 30) return;
        bool open = Plant.IsOpen(now);
        // Settled by the afternoon; a room whose thermometer is broken is not held to it, nor on the day after.
        if (open && now.Hour == 16 && now.DayOfWeek is >= IsoDayOfWeek.Tuesday and <= IsoDayOfWeek.Friday && broken?.Quantity != "room/kh-g-office/temperature")
            Look($"the office is warm on an open afternoon ({Now("room/kh-g-office/temperature"):0.0} °C)", Now("room/kh-g-office/temperature") > 19);
        // By the clock on the wall, on both sides of its changes.
        if (now.Hour == 10 && open && now.DayOfWeek is >= IsoDayOfWeek.Tuesday and <= IsoDayOfWeek.Friday) Look("the air handler runs on an open morning", Now("machine/ahu-1/status") > 0.5);
        if (now.Hour == 3) Look("the air handler stands at night", Now("machine/ahu-1/status") < 0.5);
    }

    private double Says(string schedule) => _site.Devices.Values.Select(d => d.Program?.Watch(new RecordId(schedule), "")).FirstOrDefault(w => w is not null)?.Read().Value ?? double.NaN;

    private double Now(string quantity) => _site.Plant.IndexOf(quantity) is >= 0 and var at ? _site.Plant[at] : double.NaN;

    private void Look(string what, bool isSo)
    {
        _looks++;
        if (!isSo) _failed.Add($"{Instant.FromUnixTimeMilliseconds(_site.Now).InZone(London):yyyy-MM-dd HH:mm} {what}");
    }

    private double Balance()
    {
        PlantLedger l = _site.Plant.Ledger;
        return l.Gas - l.Flue + l.Electric + l.Outdoors + l.Unfed + l.Latent + _site.Plant.BackgroundHeat + _site.Plant.Rooms.Ledger.Sum(r => r.Outdoors + r.Air + r.Solar + r.People);
    }

    private double Stored() => Enumerable.Range(0, _site.Plant.Rooms.Air.Length).Sum(_site.Plant.Rooms.Stored) + _site.Plant.Machines.Sum(m => m.Stored);
}
