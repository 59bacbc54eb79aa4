using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tests;
using LoftyWren.Core.Tests.Records;
using LoftyWren.VirtualSite.Devices;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>A device that only tests know, on a medium that only tests know, registered by a line each: installed like any other.</summary>
public class OtherDeviceTests
{
    private static readonly long Noon = KilnRoom.At(2026, 4, 15, 12, 0);

    private static Project WithHatches(int quick = 3) => KilnRoom.Accept(KilnRoom.Project(),
        new Hatch { Id = new("h1"), Name = "North hatch", OwnerId = KilnRoom.Room, Address = quick },
        new Hatch { Id = new("h2"), Name = "South hatch", OwnerId = KilnRoom.Room, Address = 7 });

    private static Site Up(Project project)
    {
        Site site = Building.Up(project, Noon);
        foreach (ProjectRecord hatch in project.AllOf(typeof(Hatch)).OrderBy(h => h.Id)) Send(site, project, hatch);
        return site;
    }

    private static void Send(Site site, Project project, ProjectRecord host) => site.Send(host.Id, HostKinds.Of(host)!.Key, HostKinds.Build(project, host).ToBytes());

    private static int WavesAt(Site site, string hatch) => (int)site.Devices[new(hatch)].Program!.Read(new(hatch))!.Value.Value;

    [Fact]
    public void It_is_mounted_sent_run_and_explained()
    {
        Project project = WithHatches();
        Assert.Equal(3, HostKinds.HostsOf(project).Count());
        Site site = Up(project);
        // h1 puts its flag up at 0, 3, 6, 9 s, seen at 1.5, 4.5, 7.5 and 10.5 s; h2 at 0 and 7 s, seen at 1.5 and 8.5 s.
        site.RunUntil(Noon + 10_000);
        Assert.Equal((3, 2), (WavesAt(site, "h2"), WavesAt(site, "h1")));
        site.RunUntil(Noon + 10_500);
        Assert.Equal((4, 2), (WavesAt(site, "h2"), WavesAt(site, "h1")));
        Assert.Equal("South hatch was waved at 4 times.", site.Devices[new("h2")].Program!.Explain(new("h2"))!.Fact);
        Assert.Equal("4.0", site.Devices[new("h2")].Program!.Watch(new("h2"), "")!.Form.Say(site.Devices[new("h2")].Program!.Read(new("h2"))!.Value));
        // It reads back as what was sent, and differs in what is changed.
        IHostImage back = HostKinds.Find("hatch").Read(site.Devices[new("h1")].ImageBytes);
        Assert.Empty(ImageComparison.Compare(back, HostKinds.Build(project, project.Find(new("h1"))!)));
        Project changed = WithHatches(quick: 5);
        Assert.Equal("address", Assert.Single(Assert.Single(ImageComparison.Compare(back, HostKinds.Build(changed, changed.Find(new("h1"))!))).Fields).Field);
    }

    [Fact]
    public void Sent_again_it_keeps_what_it_remembers_and_its_kiln_room_beside_it_runs_on()
    {
        Site site = Up(WithHatches());
        site.RunUntil(Noon + 10_500);
        Project changed = WithHatches(quick: 5);
        Send(site, changed, changed.Find(new("h1"))!);
        Assert.Equal(2, site.Devices[new("h1")].Version);
        site.RunUntil(Noon + 12_000);
        // It waves as soon as it has changed over, at 10.5 s, seen at 12 s.
        Assert.Equal((5, 2), (WavesAt(site, "h2"), WavesAt(site, "h1")));
        Assert.NotNull(site.Engine(KilnRoom.Controller).Read(KilnRoom.Temperature));
    }

    /// <summary>A program that fails on trial gives way to the one before it, by itself, and says why; nobody else notices.</summary>
    [Fact]
    public void A_program_that_fails_soon_after_it_took_over_gives_way_to_the_one_before_it()
    {
        Site site = Up(WithHatches());
        site.RunUntil(Noon + 10_500);
        int waves = WavesAt(site, "h1");
        Project jammed = WithHatches(quick: HatchProgram.Jams);
        Send(site, jammed, jammed.Find(new("h1"))!);
        InstalledDevice device = site.Devices[new("h1")];
        device.Revive(device.Life.Activated(site.Now, device.Version));
        site.RunUntil(Noon + 60_000);
        Assert.True(device.Life.Runs);
        Assert.Equal("version 2 failed: The hatch is jammed. The program of version 1 runs again, as version 3", device.Life.Events[^1].What);
        Assert.Equal((3, HostKinds.HashOf(HostKinds.Build(WithHatches(), WithHatches().Find(new("h1"))!).ToBytes())), (device.Version, device.Hash));
        // It goes on with what it remembers, and the others went on meanwhile.
        Assert.True(WavesAt(site, "h1") > waves);
        Assert.Equal(Noon + 60_000, site.Now);
        Assert.Equal(site.Now, site.Engine(KilnRoom.Controller).Now);
    }

    /// <summary>However far the site is run at a time, a failure is noticed at the same moment.</summary>
    [Fact]
    public void A_failure_falls_at_the_same_moment_at_once_and_in_pieces()
    {
        Site once = Up(WithHatches(quick: HatchProgram.Jams)), pieces = Up(WithHatches(quick: HatchProgram.Jams));
        once.RunUntil(Noon + 30_000);
        while (pieces.Now < Noon + 30_000) pieces.RunUntil(pieces.Now + 700);
        Assert.Equal(once.Devices[new("h1")].Life.Events, pieces.Devices[new("h1")].Life.Events);
    }

    [Fact]
    public void A_program_that_fails_later_is_stopped_and_the_site_goes_on()
    {
        Site site = Up(WithHatches(quick: HatchProgram.Jams));
        site.RunUntil(Noon + 30_000);
        InstalledDevice device = site.Devices[new("h1")];
        Assert.Equal(Core.Devices.DevicePhase.Stopped, device.Life.Phase);
        Assert.Equal("program failed: The hatch is jammed. Outputs at rest", device.Life.Events[^1].What);
        Assert.Contains("is stopped", Assert.Throws<InvalidOperationException>(() => device.Front!.HoldByHand(new(new("h1"), 1, "o", "x", 0, null))).Message, StringComparison.Ordinal);
        Assert.Equal(site.Now, site.Engine(KilnRoom.Controller).Now);
        // One that works takes its place.
        Send(site, WithHatches(), WithHatches().Find(new("h1"))!);
        site.Order(new("h1"), Core.Devices.DeviceOrder.Resume);
        site.RunUntil(Noon + 60_000);
        Assert.True(device.Life.Runs && WavesAt(site, "h2") > 0);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void Kept_and_taken_up_with_a_flag_in_the_air_it_comes_to_the_same(int seed)
    {
        var random = new Random(seed);
        Site calm = Up(WithHatches()), kept = Up(WithHatches());
        calm.RunUntil(Noon + 600_000);
        while (kept.Now < Noon + 600_000)
        {
            kept.RunUntil(Math.Min(Noon + 600_000, kept.Now + random.Next(1, 20_000)));
            kept = kept.Again();
        }
        // 600 s: h1 at 0, 3 … 597 s is seen 200 times; h2 at 0, 7 … 595 s 86 times.
        Assert.Equal((200, 86), (WavesAt(calm, "h2"), WavesAt(calm, "h1")));
        Assert.Equal(calm.Picture(), kept.Picture());
    }
}
