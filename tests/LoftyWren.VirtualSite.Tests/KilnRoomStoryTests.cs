using LoftyWren.Core.Controllers;
using LoftyWren.Core.Projects;
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
        ControllerEngine engine = site.Controllers[Controller].Engine!;
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
        Assert.Equal("released", site.Controllers[Controller].Engine!.ViewLadder(FanCommand)!.Rungs.Single(r => r.Priority == 10).Says);
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
        site.Plant.Kilns[kiln]!.FiringSince = site.Now;
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
        site.Controllers[Controller].Engine!.HoldByHand(new Hold(Limit, 30, "operator", "hot day", site.Now, null));
        site.RunUntil(site.Now + 60_000);
        SiteMemory memory = SiteMemory.FromBytes(site.Remember().ToBytes());
        EngineMemory engine = site.Controllers[Controller].Engine!.Remember();

        var again = new Site(site.Plan, 0);
        again.Mount(Controller).Restart(site.Controllers[Controller].ImageBytes!, engine, 1, "technician", 0);
        again.Recall(memory);
        Assert.Equal(site.Now, again.Now);
        Assert.Single(again.InputHolds);
        again.RunUntil(again.Now + 5000);
        Assert.Equal(30, again.Controllers[Controller].Engine!.Read(Limit)!.Value.Value);
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
        site.Rebuild(site.Plan);
        site.Send(WithStatus(1), (Core.Hardware.Controller)WithStatus(1).Find(Controller)!);
        for (int s = 0; s < 12; s++)
        {
            site.Step();
            Assert.Equal(1, site.Plant[status]);
        }
        SiteMemory memory = SiteMemory.FromBytes(site.Remember().ToBytes());
        EngineMemory engine = site.Controllers[Controller].Engine!.Remember();
        var again = new Site(site.Plan, 0);
        again.Mount(Controller).Restart(site.Controllers[Controller].ImageBytes!, engine, 1, "technician", 0);
        again.Recall(memory);
        for (int s = 0; s < 12; s++)
        {
            again.Step();
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
        Assert.Equal((int)(Math.Min(scan, 1) * 1000), site.StepMilliseconds);
        for (int minute = 1; minute <= 70; minute++)
        {
            site.RunUntil(At(2026, 4, 15, 20, 0) + (minute * 60_000));
            if (minute % 7 == 0) site.Rebuild(site.Plan);
        }
        calm.RunUntil(At(2026, 4, 15, 21, 10));
        site.RunUntil(calm.Now);
        // The fan never runs, so the room is left to the plant alone: the same to the last digit.
        int air = site.Plant.IndexOf($"room/{Room}/temperature");
        Assert.Equal(calm.Plant[air], site.Plant[air]);
    }

    /// <summary>Sending one of four controllers ties one: an hour later the site is, to the last digit, what it would be had all been built anew.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Installing_one_controller_comes_to_the_same_as_building_all_anew(bool withANewRoom)
    {
        Project project = Project();
        project = Core.Tests.KilnRoom.Accept(project, [.. Core.Templates.Copying.Plan(project, Room, 3, "Kiln room {n}").Records]);
        Site one = Building.Up(project, At(2026, 4, 15, 12, 0)), all = Building.Up(project, At(2026, 4, 15, 12, 0));
        if (withANewRoom) project = Core.Tests.KilnRoom.Accept(project, new Core.Places.Place { Id = new("new-room"), Name = "Annexe", Kind = Core.Places.PlaceKind.Room, In = Core.Tests.KilnRoom.Floor, AreaSquareMetres = 30 });
        foreach (Core.Hardware.Controller controller in project.All<Core.Hardware.Controller>().OrderBy(c => c.Id))
        {
            foreach (Site site in (Site[])[one, all])
            {
                site.RunUntil(site.Now + 90_000);
                byte[] bytes = Core.Images.ControllerImage.Build(project, controller).ToBytes();
                VirtualSite.Controllers.InstalledController installed = site.Mount(controller.Id);
                installed.BeginSend(bytes.Length, Core.Images.ControllerImage.HashOf(bytes));
                installed.Receive(0, bytes);
                installed.ChangeOver(VirtualSite.Controllers.InstalledController.MakeReady(installed.Sent()), "technician", 0);
            }
            one.Install(LoftyWren.VirtualSite.Plant.SiteBuilder.Build(project), controller.Id, [.. LoftyWren.VirtualSite.Plant.SiteBuilder.WiresOf(project, controller)]);
            all.Rebuild(LoftyWren.VirtualSite.Plant.SiteBuilder.Build(project));
        }
        one.RunUntil(one.Now + 3_600_000);
        all.RunUntil(all.Now + 3_600_000);
        Assert.Equal(all.Picture(), one.Picture());
        Assert.Equal(all.Plan.Wires, one.Plan.Wires);
    }

    /// <summary>Scanned in turn, step by step, or one controller after the other between two steps of the plant: to the last digit the same, with one that reads another's sensor, one that is faster than the rest, and an input held for a while.</summary>
    [Fact]
    public void Many_steps_at_once_come_to_the_same_as_one_by_one()
    {
        Project project = Project();
        project = Core.Tests.KilnRoom.Accept(project, [.. Core.Templates.Copying.Plan(project, Room, 3, "Kiln room {n}").Records]);
        var copies = project.All<Core.Sequences.Sequence>().Where(s => s.Id != Core.Tests.KilnRoom.Sequence).OrderBy(s => s.Id).ToList();
        project = Core.Tests.KilnRoom.Accept(project,
            copies[0] with { Blocks = [copies[0].Blocks[0] with { Inputs = new Dictionary<string, Core.Sequences.Source>(copies[0].Blocks[0].Inputs) { ["measured"] = new Core.Sequences.PointSource(Temperature) } }] },
            copies[1] with { ScanSeconds = 0.4 });
        var pictures = new List<string>();
        foreach (bool stepByStep in (bool[])[true, false])
        {
            Site site = Building.Up(project, At(2026, 4, 15, 12, 0));
            Hold(site, 31);
            site.HoldInput(new InputHold(Controller, "UI1", 31, "technician", "trial", site.Now, site.Now + 1_803_000));
            long until = site.Now + 3_600_000;
            if (stepByStep) while (site.Now + site.StepMilliseconds <= until) site.Step();
            else site.RunUntil(until);
            Assert.Equal(400, site.StepMilliseconds);
            pictures.Add($"{site.Now}\n{site.Picture()}{string.Join(',', site.Controllers.Values.Select(c => c.Engine!.RunMilliseconds))}");
        }
        Assert.Equal(pictures[0], pictures[1]);
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
        Assert.Equal(35, site.Controllers[Controller].Engine!.Read(Temperature)!.Value.Value, 0.01);
        site.RunUntil(site.Now + 40_000);
        Assert.Empty(site.InputHolds);
        Assert.InRange(site.Controllers[Controller].Engine!.Read(Temperature)!.Value.Value, 10, 25);
    }

    [Fact]
    public void Holding_a_terminal_that_nothing_is_wired_to_says_what_to_do() =>
        Assert.Contains("Nothing is wired to UI5", Assert.Throws<InvalidOperationException>(() => Building.Up(Project(), 0).HoldInput(new InputHold(Controller, "UI5", 1, "x", "y", 0, null))).Message);
}
