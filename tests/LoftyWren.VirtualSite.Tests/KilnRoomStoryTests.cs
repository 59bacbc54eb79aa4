using LoftyWren.Core.Controllers;
using LoftyWren.Core.Projects;
using LoftyWren.VirtualSite.Plant;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests;

/// <summary>The kiln room story on the virtual site: the same steps, through wires, sensors and a running clock.</summary>
public class KilnRoomStoryTests
{
    private static void Hold(Site site, double celsius)
    {
        site.HoldInput(new InputHold(Controller, "UI1", celsius, "engineer", "story", site.Now, null));
        site.RunUntil(site.Now + 5000);
    }

    private static (double Fan, int By) Fan(Site site)
    {
        ControllerEngine engine = site.Engine(Controller);
        return (engine.Read(FanCommand)!.Value.Value, engine.LadderOf(FanCommand)!.Winner);
    }

    [Fact]
    public void The_story()
    {
        Site site = Building.Up(Project(), At(2026, 4, 15, 9, 59));
        Hold(site, 25.0);
        site.RunUntil(At(2026, 4, 15, 10, 0));
        Assert.Equal((1, 16), Fan(site));
        site.RunUntil(At(2026, 4, 15, 20, 0));
        Assert.Equal((0, 16), Fan(site));
        Hold(site, 29.6);
        Assert.Equal((1, 10), Fan(site));
        Hold(site, 27.4);
        Assert.Equal((1, 10), Fan(site));
        Hold(site, 26.9);
        Assert.Equal((0, 16), Fan(site));
        Assert.Equal("released", site.Engine(Controller).ViewLadder(FanCommand)!.Rungs.Single(r => r.Priority == 10).Says);
    }

    [Fact]
    public void With_command_off_the_fan_stays_off_in_opening_hours()
    {
        Site site = Building.Up(Project(idle: "off"), At(2026, 4, 15, 9, 59));
        Hold(site, 25.0);
        site.RunUntil(At(2026, 4, 15, 10, 0));
        Assert.Equal((0, 10), Fan(site));
    }

    [Fact]
    public void The_kilns_warm_the_room_and_the_fan_keeps_it_near_its_limit()
    {
        Project project = Accept(Project(), new Core.Points.Equipment { Id = new("kiln-1"), Name = "Kiln 1", Kind = "kiln", PlaceId = Room });
        // Monday, when the site is closed: only claim 10 can run the fan. A firing is begun by hand at noon.
        Site site = Building.Up(project, At(2026, 4, 13, 12, 0));
        int kiln = site.Plan.Machines.ToList().FindIndex(m => m.Kind == "kiln");
        ((KilnMachine)site.Plant.Machines[kiln]).Kiln.FiringSince = site.Now;
        double warmest = 0;
        int starts = 0;
        bool ran = false;
        while (site.Now < At(2026, 4, 13, 22, 0))
        {
            site.RunUntil(site.Now + 10_000);
            bool runs = Fan(site).Fan == 1;
            if (runs && !ran) starts++;
            ran = runs;
            warmest = Math.Max(warmest, site.Plant.Rooms.Air[0]);
        }
        Assert.True(starts >= 2, $"The fan started {starts} times.");
        Assert.InRange(warmest, 29, 33);
    }

    [Fact]
    public void The_same_site_run_twice_is_the_same_to_the_last_digit()
    {
        Site one = Building.Up(Project(), At(2026, 4, 14, 6, 0)), two = Building.Up(Project(), At(2026, 4, 14, 6, 0)), other = Building.Up(Project(), At(2026, 4, 14, 6, 0), seed: 42);
        foreach (Site site in new[] { one, two, other }) site.RunUntil(At(2026, 4, 14, 9, 0));
        Assert.Equal(one.Picture(), two.Picture());
        Assert.NotEqual(one.Picture(), other.Picture());
    }

    [Fact]
    public void Kept_and_taken_up_again_it_goes_on_as_if_nothing_had_been()
    {
        Site site = Building.Up(Project(), At(2026, 4, 15, 20, 0));
        Hold(site, 29.6);
        site.Engine(Controller).HoldByHand(new Hold(Limit, 30, "operator", "hot day", site.Now, null));
        site.RunUntil(site.Now + 60_000);
        Site again = site.Again();
        Assert.Equal(site.Now, again.Now);
        Assert.Single(again.InputHolds);
        again.RunUntil(again.Now + 5000);
        Assert.Equal(30, again.Engine(Controller).Read(Limit)!.Value.Value);
        // 29.6 °C is below the limit of 30 °C now and above 28 °C: only what remembers it was on stays on.
        Assert.Equal((1, 10), Fan(again));
    }

    [Fact]
    public void A_machine_that_runs_goes_on_running_over_a_send_and_a_restart()
    {
        Site site = Building.Up(WithStatus(1), At(2026, 4, 15, 20, 0));
        Hold(site, 29.6);
        site.RunUntil(site.Now + 60_000);
        int status = site.Plant.IndexOf($"machine/{Core.Tests.KilnRoom.Fan}/status");
        Assert.Equal(1, site.Plant[status]);
        site.Build(site.Plan with { Seed = site.Plan.Seed + 1 });
        site.Send(WithStatus(1), (Core.Hardware.Controller)WithStatus(1).Find(Controller)!);
        for (int s = 0; s < 12; s++)
        {
            site.RunUntil(site.Now + 1000);
            Assert.Equal(1, site.Plant[status]);
        }
        Site again = site.Again();
        for (int s = 0; s < 12; s++)
        {
            again.RunUntil(again.Now + 1000);
            Assert.Equal(1, again.Plant[status]);
        }
    }

    // The plant moves on in steps of 5 s: 4200 s are 840 steps, whatever the scans.
    [Theory]
    [InlineData(0.7)]
    [InlineData(0.3)]
    [InlineData(1)]
    public void The_plant_keeps_its_pace_at_every_scan_period_and_over_sends(double scan)
    {
        Site site = Building.Up(WithStatus(scan), At(2026, 4, 15, 20, 0)), calm = Building.Up(WithStatus(1), At(2026, 4, 15, 20, 0));
        for (int minute = 1; minute <= 70; minute++)
        {
            site.RunUntil(At(2026, 4, 15, 20, 0) + (minute * 60_000));
            if (minute % 7 == 0) site.Build(site.Plan with { MediumFaults = [new MediumFault("ip", "nobody", DelayMilliseconds: minute)] });
        }
        calm.RunUntil(At(2026, 4, 15, 21, 10));
        site.RunUntil(calm.Now);
        // The fan never runs, so the room is left to the plant alone: the same to the last digit.
        int air = site.Plant.IndexOf($"room/{Room}/temperature");
        Assert.Equal(calm.Plant[air], site.Plant[air]);
    }

    /// <summary>Building by delta names what differs alone, and an hour later all that stayed is, to the last digit, as if nothing had been built beside it.</summary>
    [Fact]
    public void Building_touches_only_what_differs()
    {
        Project project = Four();
        Site site = Building.Up(project, At(2026, 4, 15, 12, 0)), calm = Building.Up(project, At(2026, 4, 15, 12, 0));
        Assert.Null(Site.MakeReady(site.Standing, SiteBuilder.Build(project, site.Plan)));
        foreach (Site each in (Site[])[site, calm]) each.RunUntil(each.Now + 90_000);

        project = Accept(project, new Core.Places.Place { Id = new("a-room"), Name = "Annexe", Kind = Core.Places.PlaceKind.Room, In = Floor, AreaSquareMetres = 30 });
        ReadyBuild room = Site.MakeReady(site.Standing, SiteBuilder.Build(project, site.Plan))!;
        Assert.NotNull(room.Plant);
        Assert.Empty(room.Wires);
        site.Build(room);

        Core.Hardware.Controller other = project.All<Core.Hardware.Controller>().OrderBy(c => c.Id).First(c => c.Id != Controller);
        Core.Hardware.Fitting sensor = project.Referrers<Core.Hardware.Fitting>(other.Id).First(f => f.Terminal == "UI1");
        project = Accept(project, new Core.Plant.PlantTie { Id = new("tie"), Name = "", PointId = sensor.PointId, Quantity = "temperature" });
        ReadyBuild wire = Site.MakeReady(site.Standing, SiteBuilder.Build(project, site.Plan))!;
        Assert.Null(wire.Plant);
        Assert.Equal([other.Id], wire.Wires.Keys);
        site.Build(wire);
        Assert.Equal("outdoor/temperature", site.WiresOf(other.Id).Single(w => w.Terminal == "UI1").Quantity);
        // Taken back, it is as if it had never been, with what the sensor saw.
        Wire[] now = [.. site.WiresOf(other.Id)];
        Action back = site.Build(Site.MakeReady(site.Standing, site.Plan with { Wires = [.. site.Plan.Wires.Where(w => w.ControllerId != other.Id)], Rooms = [site.Plan.Rooms[0]] })!);
        Assert.Empty(site.WiresOf(other.Id));
        back();
        Assert.Equal(now, site.WiresOf(other.Id));
        Assert.Equal(5, site.Plan.Rooms.Count);
        // What was worked out before somebody else built is not built over that.
        Assert.Contains("meanwhile", Assert.Throws<InvalidOperationException>(() => site.Build(room)).Message);

        foreach (Site each in (Site[])[site, calm]) each.RunUntil(each.Now + 3_600_000);
        var mine = project.Referrers<Core.Hardware.Fitting>(other.Id).Select(f => f.PointId.Value).ToHashSet();
        string Rest(Site of) => string.Join('\n', of.Picture().Split('\n').Where(line => !line.Contains("a-room", StringComparison.Ordinal) && !mine.Contains(line.Split('=')[0])));
        Assert.Equal(Rest(calm), Rest(site));
    }

    private static Project Four()
    {
        Project project = Project();
        return Accept(project, [.. Core.Templates.Copying.Plan(project, Room, 3, "Kiln room {n}").Records]);
    }

    /// <summary>Four controllers: one reads another's sensor over the network, one is faster than the rest and out of step with them.</summary>
    private static Project Entangled()
    {
        Project project = Four();
        var copies = project.All<Core.Sequences.Sequence>().Where(s => s.Id != Core.Tests.KilnRoom.Sequence).OrderBy(s => s.Id).ToList();
        return Accept(project,
            copies[0] with { Blocks = [copies[0].Blocks[0] with { Inputs = new Dictionary<string, Core.Sequences.Source>(copies[0].Blocks[0].Inputs) { ["measured"] = new Core.Sequences.PointSource(Temperature) } }] },
            copies[1] with { ScanSeconds = 0.37 });
    }

    /// <summary>
    /// The law of the queue: run at once, in pieces of any length as a slow or a fast clock would, and with the site kept and
    /// taken up again anywhere in between, it comes to the same to the last digit: with a controller that reads another's
    /// sensor over a network that loses and delays, and with an input held for a while.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    [InlineData(5)]
    [InlineData(6)]
    public void At_every_speed_and_over_restarts_it_comes_to_the_same(int seed)
    {
        Project project = Entangled();
        var random = new Random(seed);
        var pictures = new List<string>();
        foreach (bool inPieces in (bool[])[false, true])
        {
            Site site = Building.Up(project, At(2026, 4, 15, 12, 0));
            site.Build(site.Plan with { MediumFaults = [new MediumFault(Core.Devices.Carriers.Ip, null, LostPercent: 20, DelayMilliseconds: 130 * seed)] });
            Hold(site, 31);
            site.HoldInput(new InputHold(Controller, "UI1", 31, "technician", "trial", site.Now, site.Now + 1_803_111));
            long until = site.Now + 2_400_000;
            while (inPieces && site.Now < until)
            {
                site.RunUntil(Math.Min(until, site.Now + (random.Next(4) == 0 ? random.Next(1, 900) : random.Next(1, 90_000))));
                if (random.Next(3) == 0) site = site.Again();
            }
            site.RunUntil(until);
            pictures.Add($"{site.Now}\n{site.Picture()}{string.Join(',', site.Devices.Keys.Select(c => site.Engine(c).RunMilliseconds))}");
        }
        Assert.Equal(pictures[0], pictures[1]);
    }

    /// <summary>Controllers hear of each other over the network alone: cut off, what is known grows stale within its time; joined again, it is heard again.</summary>
    [Fact]
    public void What_another_controller_says_comes_over_the_network_or_not_at_all()
    {
        Project project = Entangled();
        Site site = Building.Up(project, At(2026, 4, 15, 12, 0));
        Core.Images.ControllerImage reader = project.All<Core.Hardware.Controller>().Select(c => Core.Images.ControllerImage.Build(project, c)).Single(i => i.Remote.Count > 0);
        ControllerEngine Reader() => site.Engine(reader.Controller.Id);
        site.RunUntil(site.Now + 5000);
        Hold(site, 31);
        site.RunUntil(site.Now + 1500);
        Assert.Equal(31, Reader().Read(Temperature)!.Value.Value, 0.01);
        Assert.Equal(Core.Status.StatusFlags.None, Reader().Read(Temperature)!.Value.Status);
        Assert.DoesNotContain("no longer", Reader().Explain(Temperature)!.Fact);
        // A send to the reader, and one to the other, and not a scan goes by in which the value is missing.
        foreach (Core.Hardware.Controller each in project.All<Core.Hardware.Controller>().Where(c => c.Id == reader.Controller.Id || c.Id == Controller).OrderBy(c => c.Id))
        {
            site.Send(project, each);
            for (int i = 0; i < 40; i++)
            {
                site.RunUntil(site.Now + 100);
                Assert.Equal((31, Core.Status.StatusFlags.None), (Math.Round(Reader().Read(Temperature)!.Value.Value, 2), Reader().Read(Temperature)!.Value.Status));
            }
        }

        site.Build(site.Plan with { MediumFaults = [new MediumFault(Core.Devices.Carriers.Ip, Controller.Value, IsCut: true)] });
        Hold(site, 20);
        site.RunUntil(site.Now + ControllerEngine.SilentAfter + 2000);
        Assert.Equal(31, Reader().Read(Temperature)!.Value.Value, 0.01);
        Assert.Equal(Core.Status.StatusFlags.Stale, Reader().Read(Temperature)!.Value.Status);
        Assert.Contains("no longer answers", Reader().Explain(Temperature)!.Fact);

        site.Build(site.Plan with { MediumFaults = [] });
        site.RunUntil(site.Now + 7000);
        Assert.Equal(20, Reader().Read(Temperature)!.Value.Value, 0.01);
        Assert.Equal(Core.Status.StatusFlags.None, Reader().Read(Temperature)!.Value.Status);
    }

    private static Project WithStatus(double scan)
    {
        Project project = Project();
        return Accept(project, Edit.Of((Core.Sequences.Sequence)project.Find(Core.Tests.KilnRoom.Sequence)! with { ScanSeconds = scan }, 1));
    }

    [Fact]
    public void An_input_held_for_a_time_lets_go_by_itself()
    {
        Site site = Building.Up(Project(), At(2026, 4, 15, 20, 0));
        site.HoldInput(new InputHold(Controller, "UI1", 35, "technician", "trying", site.Now, site.Now + 60_000));
        site.RunUntil(site.Now + 30_000);
        Assert.Equal(35, site.Engine(Controller).Read(Temperature)!.Value.Value, 0.01);
        site.RunUntil(site.Now + 40_000);
        Assert.Empty(site.InputHolds);
        Assert.InRange(site.Engine(Controller).Read(Temperature)!.Value.Value, 10, 25);
    }

    /// <summary>By hand: from 20 °C to 32 °C in 10 min is 26 °C after 5. What is simulated says so wherever it is read and recorded, and no longer once it is let go; logic takes it as it takes any other.</summary>
    [Fact]
    public void A_course_goes_on_over_restarts_and_is_marked_wherever_it_is_seen()
    {
        Site site = Building.Up(Project(), At(2026, 4, 15, 20, 0));
        var course = Core.Commissioning.InputCourse.Read("32 °C over 10 min for 5 min\nbroken for 2 min\n24 °C", new(Core.Points.PointKind.Analog, "°C", []));
        site.HoldInput(new InputHold(Controller, "UI1", 20, "technician", "trying", site.Now, site.Now + 1_800_000, course));
        long begun = site.Now;
        Core.Status.Reading At_(long seconds)
        {
            site.RunUntil(begun + (seconds * 1000));
            site = site.Again();
            return site.Engine(Controller).Read(Temperature)!.Value;
        }
        Core.Status.Reading half = At_(301);
        Assert.Equal(26, half.Value, 0.03);
        Assert.Equal(Core.Status.StatusFlags.OutOfService, half.Status);
        Assert.Contains("simulated", site.Engine(Controller).Explain(Temperature)!.Fact);
        Assert.Equal(32, At_(800).Value, 0.01);
        Assert.Equal((1, 10), Fan(site));
        Assert.True((At_(960).Status & Core.Status.StatusFlags.Fault) != 0);
        Assert.Equal((0, 16), Fan(site));
        Assert.Equal(24, At_(1200).Value, 0.01);
        Assert.Equal(Core.Status.StatusFlags.None, At_(1810).Status & Core.Status.StatusFlags.OutOfService);
        Assert.Empty(site.InputHolds);
    }

    [Fact]
    public void Holding_a_terminal_that_nothing_is_wired_to_says_what_to_do() =>
        Assert.Contains("Nothing is wired to UI5", Assert.Throws<InvalidOperationException>(() => Building.Up(Project(), 0).HoldInput(new InputHold(Controller, "UI5", 1, "x", "y", 0, null))).Message);
}
