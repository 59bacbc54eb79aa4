using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.VirtualSite.Devices;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>What stands between a device and whoever reaches it, and its loader and runtime.</summary>
public class DoorTests
{
    private static readonly DeviceSecrets Secrets = new([new("contractor", "blue-glaze-77"), new("client", "red-clay-and-sand")], "three pots on a shelf");

    private static DeviceDoor Box(long now = 1_000_000) => DeviceDoor.OutOfTheBox("compact-20", "1.6", 1024, "h", now, new LinkQuality(1000, 0, 1));

    [Fact]
    public void New_credentials_hold_once_somebody_has_come_in_with_them()
    {
        DeviceDoor door = Box().Renewed(Secrets, 1_000_000);
        // Until they are confirmed the factory's do, and who signs in with the new ones is known as such.
        Assert.Null(door.SignIn(DeviceAccount.Factory, 1_000_001).Refusal);
        Assert.Equal((null, true), (door.SignIn(Secrets.Accounts[1], 1_000_001).Refusal, door.SignIn(Secrets.Accounts[1], 1_000_001).IsPending));
        Assert.False(door.Opens(Secrets.Passphrase));
        DeviceDoor held = door.Confirmed(1_000_001);
        Assert.NotNull(held.SignIn(DeviceAccount.Factory, 1_000_002).Refusal);
        Assert.Equal((null, false), (held.SignIn(Secrets.Accounts[0], 1_000_002).Refusal, held.IsFactory));
        Assert.True(held.Opens(Secrets.Passphrase));
        Assert.False(held.Opens("another passphrase"));
        // Nobody confirmed: a day later the factory's are the only ones, and nobody who came in before can confirm any more.
        Assert.Null(door.SignIn(Secrets.Accounts[0], 1_000_000 + 86_400_000).Refusal);
        Assert.NotNull(door.SignIn(Secrets.Accounts[0], 1_000_000 + 86_400_001).Refusal);
        Assert.Throws<InvalidOperationException>(() => door.Confirmed(1_000_000 + 86_400_001));
        Assert.Throws<InvalidOperationException>(() => Box().Confirmed(0));
    }

    [Fact]
    public void Five_wrong_secrets_close_the_door_for_a_minute_and_a_right_one_begins_anew()
    {
        DeviceDoor door = Box();
        for (int i = 0; i < 4; i++) door = door.SignIn(new("factory", "guess"), 0).Door;
        door = door.SignIn(DeviceAccount.Factory, 0).Door;
        for (int i = 0; i < 4; i++) door = door.SignIn(new("factory", "guess"), 0).Door;
        var (closed, said, _) = door.SignIn(new("factory", "guess"), 1000);
        Assert.Contains("Nobody can sign in for 60 s", said, StringComparison.Ordinal);
        Assert.Contains("opens again in 60 s", closed.SignIn(DeviceAccount.Factory, 1000).Refusal, StringComparison.Ordinal);
        Assert.Null(closed.SignIn(DeviceAccount.Factory, 61_000).Refusal);
    }

    [Fact]
    public void A_clock_out_of_its_box_is_wrong_and_once_set_goes_wrong_slowly()
    {
        DeviceDoor door = Box() with { DriftMillionths = 40 };
        Assert.InRange(door.OffsetAt(1_000_000), -400_060_000, -60_000);
        DeviceDoor set = door.WithClock(2_000_000, 2_000_000);
        Assert.Equal(2_000_000, set.ClockAt(2_000_000));
        // 40 millionths of a day are 3.456 s.
        Assert.Equal(3456, set.OffsetAt(2_000_000 + 86_400_000));
    }

    [Fact]
    public void No_two_boxes_are_alike_and_none_holds_a_secret_in_the_clear()
    {
        DeviceDoor a = Box(), b = Box();
        Assert.NotEqual(a.Serial, b.Serial);
        Assert.NotEqual(a.Certificate, b.Certificate);
        string kept = System.Text.Json.JsonSerializer.Serialize(a.Renewed(Secrets, 0).Confirmed(0), Core.Records.RecordJson.Options);
        Assert.DoesNotContain("blue-glaze-77", kept, StringComparison.Ordinal);
        Assert.DoesNotContain("three pots", kept, StringComparison.Ordinal);
    }

    /// <summary>Wednesday at eleven: the pottery is open, so the fan runs; the controller hangs and runs what came over its connection.</summary>
    private static (Site Site, InstalledDevice Device) Up(string version = "3.3")
    {
        Project project = Project();
        Site site = Building.Up(project, At(2026, 4, 15, 10, 59));
        var device = new InstalledDevice(Controller) { Door = Box(site.Now).Renewed(Secrets, site.Now).Confirmed(site.Now) };
        site.Exchange(device);
        Parts(site, device, project, "compact-20", version);
        site.RunUntil(At(2026, 4, 15, 11, 0));
        return (site, device);
    }

    private static void Parts(Site site, InstalledDevice device, Project project, string model, string version, bool starts = true, double differential = 2)
    {
        byte[] kernel = Firmware.Bytes(model, "kernel", version, 64), image = Building.Image(Project(differential: differential));
        device.BeginPart(new PartOffer("kernel", PartLayer.Runtime, version, HostKinds.HashOf(kernel), kernel.Length));
        device.ReceivePart("kernel", 0, kernel);
        device.BeginSend(image.Length, HostKinds.HashOf(image));
        device.Receive(0, image);
        device.ChangeOver(InstalledDevice.MakeReady(device.Sent()), "technician", 0, device.SentParts(["kernel"]));
        site.StartRenewed(device, starts);
    }

    private static double Relay(InstalledDevice device) => ((Core.Controllers.ControllerEngine)device.Program!) is var engine ? engine.RawOutputs[engine.IndexOf("RO1")] : 0;

    [Fact]
    public void With_new_parts_it_starts_again_and_runs_them()
    {
        var (site, device) = Up();
        Assert.Equal((DevicePhase.Running, 1.0), (device.Life.Phase, Relay(device)));
        Parts(site, device, Project(), "compact-20", "3.4", differential: 1.5);
        Assert.Equal((DevicePhase.Loader, 0.0), (device.Life.Phase, Relay(device)));
        site.RunUntil(site.Now + 30_000);
        Assert.Equal((DevicePhase.Running, RestartReason.ActivateChanges, 2, 1.0), (device.Life.Phase, device.Life.Reason, device.Version, Relay(device)));
        Assert.Equal("3.4", device.Door!.Parts.Single(p => p.Key == "kernel").Version);
    }

    [Fact]
    public void A_runtime_that_does_not_come_up_gives_way_to_the_one_before_and_says_why()
    {
        var (site, device) = Up();
        string before = device.Hash;
        Parts(site, device, Project(), "room-8", "3.4", differential: 1.5);
        site.RunUntil(site.Now + 40_000);
        Assert.Equal(DevicePhase.Runtime, device.Life.Phase);
        site.RunUntil(site.Now + 120_000);
        Assert.Equal((DevicePhase.Running, before, 3, 1.0), (device.Life.Phase, device.Hash, device.Version, Relay(device)));
        Assert.Equal("3.3", device.Door!.Parts.Single(p => p.Key == "kernel").Version);
        Assert.Equal("version 2 did not come up in 60 s: the part ‘kernel’ is made for the model room-8 and this is a compact-20. The program of version 1 runs again, as version 3", device.Life.Trouble);
    }

    [Fact]
    public void Out_of_its_box_there_is_nothing_to_go_back_to_and_it_waits_for_right_parts()
    {
        var (site, device) = Up();
        site.Exchange(device = new InstalledDevice(Controller) { Door = Box(site.Now) });
        Parts(site, device, Project(), "room-8", "3.4");
        site.RunUntil(site.Now + 120_000);
        Assert.Equal((DevicePhase.Stopped, true), (device.Life.Phase, device.Life.Answers));
        Assert.StartsWith("the runtime did not come up", device.Life.Trouble, StringComparison.Ordinal);
        Parts(site, device, Project(), "compact-20", "3.4");
        site.RunUntil(site.Now + 60_000);
        Assert.Equal((DevicePhase.Running, null), (device.Life.Phase, device.Life.Trouble));
    }

    [Fact]
    public void Whether_it_starts_is_as_it_was_told()
    {
        var (site, device) = Up();
        device.Door = device.Door! with { Settings = new DeviceSettings("KH-C1", "10.20.1.11", 24, null, false) };
        site.Order(Controller, DeviceOrder.PowerOff);
        site.Order(Controller, DeviceOrder.PowerOn);
        site.RunUntil(site.Now + 60_000);
        Assert.Equal((DevicePhase.Stopped, 0.0), (device.Life.Phase, Relay(device)));
        site.Order(Controller, DeviceOrder.Resume);
        site.RunUntil(site.Now + 10_000);
        Assert.Equal(1, Relay(device));
        Parts(site, device, Project(), "compact-20", "3.4", starts: false);
        site.RunUntil(site.Now + 60_000);
        Assert.Equal(DevicePhase.Stopped, device.Life.Phase);
    }

    [Fact]
    public void Schedules_go_by_the_controllers_clock_and_timers_do_not()
    {
        var (site, device) = Up();
        // Ten minutes behind: the pottery closes at 17:30, the fan stops at 17:40.
        device.Door = (device.Door! with { DriftMillionths = 0 }).WithClock(site.Now - 600_000, site.Now);
        site.RunUntil(At(2026, 4, 15, 17, 39, 58));
        Assert.Equal(1, Relay(device));
        Assert.Contains("goes by its own clock, which is 600 s behind", System.Text.Json.JsonSerializer.Serialize(device.Program!.Explain(FanCommand), Core.Records.RecordJson.Options), StringComparison.Ordinal);
        site.RunUntil(At(2026, 4, 15, 17, 40, 1));
        Assert.Equal(0, Relay(device));
        // Put back to before the closing hour, it opens again: it goes by what its clock shows.
        device.Door = device.Door!.WithClock(At(2026, 4, 15, 12, 0), site.Now);
        site.RunUntil(site.Now + 2_000);
        Assert.Equal(1, Relay(device));
        device.Door = device.Door!.WithClock(site.Now, site.Now);
        site.RunUntil(site.Now + 2_000);
        Assert.Equal(0, Relay(device));
    }

    [Fact]
    public void A_clock_is_kept_for_three_days_without_a_supply_and_then_lost_until_it_is_set()
    {
        var (site, device) = Up();
        long Shows() => device.Door!.ClockAt(site.Now);
        device.Door = (device.Door! with { DriftMillionths = 0 }).WithClock(site.Now, site.Now);
        site.Order(Controller, DeviceOrder.PowerOff);
        site.RunUntil(site.Now + (71 * 3_600_000L));
        site.Order(Controller, DeviceOrder.PowerOn);
        Assert.Equal(site.Now, Shows());
        site.Order(Controller, DeviceOrder.PowerOff);
        site.RunUntil(site.Now + (73 * 3_600_000L));
        Action back = site.Order(Controller, DeviceOrder.PowerOn);
        Assert.Equal(new DateTimeOffset(2000, 1, 1, 0, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds(), Shows());
        Assert.Contains(device.Life.Events, e => e.What.StartsWith("the clock was lost", StringComparison.Ordinal));
        back();
        Assert.Equal(site.Now, Shows());
    }

    [Fact]
    public void A_part_that_is_cut_short_or_damaged_is_noticed_and_what_runs_goes_on()
    {
        var (_, device) = Up();
        byte[] kernel = Firmware.Bytes("compact-20", "kernel", "3.4", 64);
        var offer = new PartOffer("kernel", PartLayer.Runtime, "3.4", HostKinds.HashOf(kernel), kernel.Length);
        Assert.Equal(0, device.BeginPart(offer));
        device.ReceivePart("kernel", 0, kernel.AsSpan(0, 1000));
        Assert.Contains("not whole: 1000 of 65536", Assert.Throws<InvalidOperationException>(() => device.SentParts(["kernel"])).Message, StringComparison.Ordinal);
        Assert.Throws<InvalidOperationException>(() => device.ReceivePart("kernel", 5, kernel.AsSpan(5, 10)));
        Assert.Equal(1000, device.BeginPart(offer));
        kernel[2000] ^= 1;
        device.ReceivePart("kernel", 1000, kernel.AsSpan(1000));
        Assert.Contains("damaged on the way", Assert.Throws<InvalidOperationException>(() => device.SentParts(["kernel"])).Message, StringComparison.Ordinal);
        Assert.Equal("3.3", device.Door!.Parts.Single(p => p.Key == "kernel").Version);
        // Another of the same name begins from the start.
        Assert.Equal(0, device.BeginPart(offer with { Hash = "another" }));
    }
}
