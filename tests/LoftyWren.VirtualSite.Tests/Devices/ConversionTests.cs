using LoftyWren.Core.OlderPrograms;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>The change-over from an older program to what it was converted to moves nothing by itself: what the old blocks remembered the new ones take up.</summary>
public class ConversionTests
{
    private static readonly RecordId Old = new("old");

    private static (Site Site, Project Older, Project Converted) Up(params Block[] blocks)
    {
        Project older = Accept(Project(), new Sequence { Id = Old, Name = "Older", EquipmentId = Fan, ControllerId = Controller, ScanSeconds = 1, Blocks = blocks });
        Project converted = Accept(older, [.. ProgramConversion.Of(older, _ => []).Edits(older).Select(e => Edit.Of(e.Put!))]);
        return (Building.Up(older, At(2026, 4, 15, 9, 0)), older, converted);
    }

    private static void Hold(Site site, double celsius, int seconds)
    {
        site.HoldInput(new InputHold(Controller, "UI1", celsius, "engineer", "story", site.Now, null));
        site.RunUntil(site.Now + (seconds * 1000L));
    }

    private static double Out(Site site, string pin = "out") => site.Engine(Controller).SourceOfPin(Old, "b", pin)!.Read().Value;

    private static void Send(Site site, Project project) => site.Send(project, project.Find<Core.Hardware.Controller>(Controller)!);

    private static Dictionary<string, Source> Measured(params (string, Source)[] more) => new([new("measured", new PointSource(Temperature)), .. more.Select(m => KeyValuePair.Create(m.Item1, m.Item2))]);

    [Fact]
    public void What_was_on_between_its_limits_stays_on()
    {
        var (site, _, converted) = Up(new Block { Id = "b", Kind = BlockKind.TwoLimits, Numbers = new Dictionary<string, double> { ["on"] = 29, ["off"] = 20 }, Inputs = Measured() });
        Hold(site, 30, 10);
        Hold(site, 25, 10);
        Assert.Equal(1, Out(site));
        Send(site, converted);
        site.RunUntil(site.Now + 5000);
        Assert.Equal(1, Out(site));
        Hold(site, 19, 10);
        Assert.Equal(0, Out(site));
    }

    // Above 24 °C for 70 s before the change-over; of 2 min 50 s are left then.
    [Fact]
    public void A_delay_goes_on_counting()
    {
        var (site, _, converted) = Up(
            new Block { Id = "warm", Kind = BlockKind.Gt, Inputs = new Dictionary<string, Source> { ["in1"] = new PointSource(Temperature), ["in2"] = new ConstantSource(24, "°C") } },
            new Block { Id = "b", Kind = BlockKind.MinuteTimer, Numbers = new Dictionary<string, double> { ["minutes"] = 2 }, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("warm") } });
        Hold(site, 20, 5);
        Hold(site, 25, 70);
        Send(site, converted);
        site.RunUntil(site.Now + 40_000);
        Assert.Equal(0, Out(site));
        site.RunUntil(site.Now + 15_000);
        Assert.Equal(1, Out(site));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_loop_goes_on_with_its_integral(bool isEnabled)
    {
        (string, Source)[] more = [("setpoint", new ConstantSource(22, "°C")), .. isEnabled ? [("enable", (Source)new ConstantSource(1, Binary: true))] : Array.Empty<(string, Source)>()];
        var (site, _, converted) = Up(new Block { Id = "b", Kind = BlockKind.PiBand, Numbers = new Dictionary<string, double> { ["band"] = 10, ["reset"] = 10 }, Inputs = Measured(more) });
        Hold(site, 20, 600);
        double before = Out(site);
        // By hand: 10 %/K · 2 K is 20 %, and as much again after one reset time.
        Assert.Equal(40, before, 1.0);
        Send(site, converted);
        site.RunUntil(site.Now + 2000);
        Assert.Equal(before, Out(site), 0.3);
    }

    [Fact]
    public void What_an_older_version_kept_of_a_machine_begins_as_it_is_when_nobody_drives_it()
    {
        Project project = Accept(Project(), new Equipment { Id = new("fc"), Name = "Fan-coil", Kind = "fan-coil", PlaceId = Room }, new Equipment { Id = new("kiln-1"), Name = "Kiln 1", Kind = "kiln", PlaceId = Room });
        Site site = Building.Up(project, At(2026, 4, 15, 9, 0));
        site.RunUntil(site.Now + 60_000);
        SiteMemory kept = SiteMemory.FromBytes(site.Remember().ToBytes());
        // As it was kept before machines had more than six quantities: fans and contactors that nobody switched stood at 0.
        string[] known = ["run", "level", "status", "temperature", "state", "cool"];
        foreach (string name in kept.Quantities.Keys.Where(n => n.StartsWith("machine/", StringComparison.Ordinal) && !known.Contains(n.Split('/')[2])).ToList()) kept.Quantities.Remove(name);
        foreach (string name in kept.Quantities.Keys.Where(n => n.EndsWith("/run", StringComparison.Ordinal)).ToList()) kept.Quantities[name] = 0;
        kept.Quantities["machine/kiln-1/temperature"] = 400;
        var again = new Site(site.Plan, 0);
        again.Recall(kept);
        double At0(string quantity) => again.Plant[again.Plant.IndexOf(quantity)];
        Assert.Equal((1, 100, 1, 400), (At0("machine/fc/run"), At0("machine/fc/speed"), At0("machine/kiln-1/run"), At0("machine/kiln-1/temperature")));
        // What this version kept is taken up as it was.
        SiteMemory mine = SiteMemory.FromBytes(site.Remember().ToBytes());
        mine.Quantities["machine/fc/run"] = 0;
        again = new Site(site.Plan, 0);
        again.Recall(mine);
        Assert.Equal(0, again.Plant[again.Plant.IndexOf("machine/fc/run")]);
    }
}
