using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using LoftyWren.VirtualSite.Devices;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>A controller's life: supply, starts, its program stopped, its communication disabled; nothing is lost that was recorded, and what was not is marked.</summary>
public class LifeTests
{
    private static readonly TrendLog Log = new() { Id = new("log"), Name = "Room temperature", PointId = Temperature, IntervalSeconds = 60, BufferSize = 1000 };

    /// <summary>Wednesday at eleven: the pottery is open, so the fan runs.</summary>
    private static Site Open()
    {
        Site site = Building.Up(Accept(Project(), Log), At(2026, 4, 15, 10, 59));
        site.RunUntil(At(2026, 4, 15, 11, 0));
        return site;
    }

    private static InstalledDevice Device(Site site) => site.Devices[Controller];

    private static double Relay(Site site)
    {
        ControllerEngine engine = (ControllerEngine)Device(site).Program!;
        return engine.RawOutputs[engine.IndexOf("RO1")];
    }

    private static List<Sample> Samples(Site site) => ((ControllerEngine)Device(site).Program!).Trends.Single().Buffer.After(0);

    private static List<(DevicePhase Phase, long Seconds)> Phases(Site site)
    {
        var events = Device(site).Life.Events;
        return [.. events.Zip(events.Skip(1), (a, b) => (a.Phase, (b.AtMilliseconds - a.AtMilliseconds) / 1000))];
    }

    [Fact]
    public void A_power_cut_shows_every_phase_and_loses_nothing_that_was_recorded()
    {
        Site site = Open();
        Assert.Equal(1, Relay(site));
        int before = Samples(site).Count;
        site.Order(Controller, DeviceOrder.PowerOff);
        Assert.Equal(0, Relay(site));
        site.RunUntil(site.Now + 600_000);
        // Nothing runs, nothing is recorded, and what was known is stale.
        Assert.Equal(before, Samples(site).Count);
        Assert.True((Device(site).Front!.Read(Temperature)!.Value.Status & StatusFlags.Stale) != 0);
        Assert.Empty(Device(site).Front!.Terminals);
        site.Order(Controller, DeviceOrder.PowerOn);
        long on = site.Now;
        site.RunUntil(on + 2_000);
        Assert.Equal(DevicePhase.Loader, Device(site).Life.Phase);
        Assert.Equal(0, Relay(site));
        site.RunUntil(on + 60_000);
        Assert.Equal([DevicePhase.Off, DevicePhase.Loader, DevicePhase.Runtime, DevicePhase.Application, DevicePhase.Running], Device(site).Life.Events.Select(e => e.Phase));
        // Of realistic length: 3–5 s, 7–11 s, 1.5–2.5 s.
        Assert.Collection(Phases(site), p => Assert.Equal(600, p.Seconds), p => Assert.InRange(p.Seconds, 3, 5), p => Assert.InRange(p.Seconds, 7, 11), p => Assert.InRange(p.Seconds, 1, 2));
        Assert.Equal((RestartReason.DetectedPowerLost, 1, null), (Device(site).Life.Reason, Device(site).Life.Starts, Device(site).Life.SilentSince));
        Assert.Equal(1, Relay(site));
        // The trend goes on, with a mark from when on nothing was recorded.
        List<Sample> samples = Samples(site);
        Assert.Equal(samples.Select((_, i) => i + 1L), samples.Select(s => s.Number));
        Sample mark = Assert.Single(samples, s => (s.Status & StatusFlags.Interrupted) != 0);
        Assert.InRange(mark.AtMilliseconds, on - 600_000 - 1000, on - 600_000 + 1000);
        Assert.True(samples[^1].AtMilliseconds > on);
    }

    /// <summary>Logic that asks for the start cause finds it, for as long as it asks for, and the next cause after that.</summary>
    [Fact]
    public void Logic_sees_why_its_controller_started()
    {
        // The fan runs for a minute after power has come back, whatever else.
        Block[] blocks =
        [
            new Block { Id = "cause", Kind = BlockKind.StartCause },
            new Block { Id = "power", Kind = BlockKind.StateIs, Texts = new Dictionary<string, string> { ["state"] = "power return" }, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("cause") } },
            new Block { Id = "soon", Kind = BlockKind.Lt, Inputs = new Dictionary<string, Source> { ["in1"] = new BlockSource("cause", "since"), ["in2"] = new ConstantSource(60, "s") } },
            new Block { Id = "both", Kind = BlockKind.And, Inputs = new Dictionary<string, Source> { ["in1"] = new BlockSource("power"), ["in2"] = new BlockSource("soon") } },
        ];
        Project house = Project();
        var sequence = (Sequence)house.Find(Core.Tests.KilnRoom.Sequence)!;
        house = Accept(house, Edit.Of(sequence with { Blocks = blocks, Commands = [new OutputCommand { PointId = FanCommand, Claims = [new Claim { Priority = 5, Source = new BlockSource("both") }] }] }, 1));
        Site site = Building.Up(house, At(2026, 4, 15, 5, 0));
        site.RunUntil(site.Now + 100_000);
        Assert.Equal(0, Relay(site));
        site.Order(Controller, DeviceOrder.PowerOff);
        site.RunUntil(site.Now + 600_000);
        site.Order(Controller, DeviceOrder.PowerOn);
        site.RunUntil(site.Now + 40_000);
        Assert.Equal(1, Relay(site));
        Assert.Contains("power return", System.Text.Json.JsonSerializer.Serialize(Device(site).Program!.Explain(FanCommand), Core.Records.RecordJson.Options));
        site.RunUntil(site.Now + 60_000);
        Assert.Equal(0, Relay(site));
        site.Order(Controller, DeviceOrder.WarmStart);
        site.RunUntil(site.Now + 40_000);
        Assert.Equal(0, Relay(site));
    }

    [Fact]
    public void What_is_held_is_remembered_over_a_warm_start_and_forgotten_at_a_cold_one()
    {
        foreach (var (order, still) in new[] { (DeviceOrder.WarmStart, 1), (DeviceOrder.ColdStart, 0) })
        {
            Site site = Open();
            Device(site).Program!.HoldByHand(new Hold(FanCommand, 0, "operator", "quiet", site.Now, null));
            site.RunUntil(site.Now + 5_000);
            int samples = Samples(site).Count;
            site.Order(Controller, order);
            site.RunUntil(site.Now + 30_000);
            Assert.Equal(DevicePhase.Running, Device(site).Life.Phase);
            Assert.Equal(still, Device(site).Front!.Holds.Count);
            Assert.Equal(still == 1 ? 0 : 1, Relay(site));
            // Logs go on either way.
            Assert.True(Samples(site).Count > samples);
        }
    }

    [Fact]
    public void With_its_communication_disabled_the_program_goes_on_and_hands_over_what_it_kept()
    {
        Site site = Open();
        site.Order(Controller, DeviceOrder.DisableCommunication);
        Reading then = Device(site).Front!.Read(FanCommand)!.Value;
        Assert.Equal((1, StatusFlags.Stale), (then.Value, then.Status & StatusFlags.Stale));
        site.HoldInput(new InputHold(Controller, "UI1", 31, "engineer", "story", site.Now, null));
        site.RunUntil(At(2026, 4, 15, 20, 0));
        // At eight the pottery is closed; the room is too warm, so the fan runs by claim 10. Nobody outside knows.
        Assert.Equal(1, Relay(site));
        Assert.Equal(then, Device(site).Front!.Read(FanCommand));
        Assert.Empty(Device(site).Front!.Trends);
        Assert.Equal(["communication disabled; the program goes on"], Device(site).Life.Heard.Select(e => e.What));
        Assert.Contains("does not answer", Assert.Throws<InvalidOperationException>(() => Device(site).Front!.HoldByHand(new Hold(FanCommand, 0, "operator", "x", site.Now, null))).Message, StringComparison.Ordinal);
        site.Order(Controller, DeviceOrder.EnableCommunication);
        Assert.Equal(31, Device(site).Front!.Read(Temperature)!.Value.Value, 0.1);
        // Nine hours of a sample a minute: none missing, no mark.
        List<Sample> samples = Device(site).Front!.Trends.Single().Buffer.After(0);
        Assert.All(samples.Zip(samples.Skip(1)), p => Assert.Equal(60_000, p.Second.AtMilliseconds - p.First.AtMilliseconds));
        Assert.DoesNotContain(samples, s => (s.Status & StatusFlags.Interrupted) != 0);
    }

    [Fact]
    public void A_stopped_program_rests_and_goes_on_with_what_it_remembers()
    {
        Site site = Open();
        site.Order(Controller, DeviceOrder.Stop);
        Assert.Equal(0, Relay(site));
        Assert.Null(Device(site).Life.SilentSince);
        site.RunUntil(site.Now + 60_000);
        Assert.Equal(0, Relay(site));
        site.Order(Controller, DeviceOrder.Resume);
        site.RunUntil(site.Now + 2_000);
        Assert.Equal((1, RestartReason.Suspended), (Relay(site), Device(site).Life.Reason));
    }

    [Theory]
    [InlineData(DeviceOrder.PowerOn, "has its supply already")]
    [InlineData(DeviceOrder.Resume, "runs.")]
    [InlineData(DeviceOrder.EnableCommunication, "is enabled")]
    public void What_makes_no_sense_is_refused_and_changes_nothing(DeviceOrder order, string sentence)
    {
        Site site = Open();
        DeviceLife before = Device(site).Life;
        Assert.Contains(sentence, Assert.Throws<InvalidOperationException>(() => site.Order(Controller, order)).Message, StringComparison.Ordinal);
        Assert.Same(before, Device(site).Life);
        site.Order(Controller, DeviceOrder.PowerOff);
        Assert.Contains("has no supply", Assert.Throws<InvalidOperationException>(() => site.Order(Controller, DeviceOrder.Stop)).Message, StringComparison.Ordinal);
        site.Order(Controller, DeviceOrder.PowerOn);
        Assert.Contains("is starting", Assert.Throws<InvalidOperationException>(() => site.Order(Controller, DeviceOrder.WarmStart)).Message, StringComparison.Ordinal);
    }

    /// <summary>What cannot be written down is taken back as if it had never been.</summary>
    [Fact]
    public void An_order_taken_back_leaves_the_device_as_it_was()
    {
        Site site = Open(), other = Open();
        foreach (DeviceOrder order in new[] { DeviceOrder.PowerOff, DeviceOrder.Stop, DeviceOrder.WarmStart, DeviceOrder.DisableCommunication })
        {
            DeviceLife before = Device(site).Life;
            site.Order(Controller, order)();
            Assert.Same(before, Device(site).Life);
        }
        site.RunUntil(site.Now + 120_000);
        other.RunUntil(other.Now + 120_000);
        Assert.Equal(Relay(other), Relay(site));
        Assert.Equal(Samples(other), Samples(site));
    }

    /// <summary>Run at once, in pieces of any length, or kept and taken up in between, a power cut comes to the same to the last digit.</summary>
    [Fact]
    public void However_far_it_is_run_at_a_time_a_power_cut_comes_to_the_same()
    {
        Site once = Open(), pieces = Open();
        var random = new Random(3);
        foreach (Site site in new[] { once, pieces }) site.Order(Controller, DeviceOrder.PowerOff);
        void To(long until)
        {
            once.RunUntil(until);
            while (pieces.Now < until) pieces.RunUntil(Math.Min(until, pieces.Now + random.Next(1, 7000)));
        }
        To(once.Now + 90_000);
        foreach (Site site in new[] { once, pieces }) site.Order(Controller, DeviceOrder.PowerOn);
        To(once.Now + 300_000);
        Assert.Equal(Device(once).Life.Events, Device(pieces).Life.Events);
        Assert.Equal(once.Picture(), pieces.Picture());
    }
}
