using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Hardware;

/// <summary>Addresses by RFC 791 and RFC 1122, worked out by hand.</summary>
public class NetworkSettingsTests
{
    private static Controller First => Project().Find<Controller>(KilnRoom.Controller)!;

    [Theory]
    [InlineData("10.20.1.11", true)]
    [InlineData("255.255.255.255", true)]
    [InlineData("10.20.1", false)]
    [InlineData("10.20.1.256", false)]
    [InlineData("10.20.01.1", false)]
    [InlineData("10.20.1.-1", false)]
    [InlineData("10.20.1.1 ", false)]
    [InlineData("1.2.3.4.5", false)]
    [InlineData("", false)]
    public void Four_bytes_with_dots_are_an_address(string text, bool isOne)
    {
        Assert.Equal(isOne, NetworkAddress.Parse(text) is not null);
        if (isOne) Assert.Equal(text, NetworkAddress.Parse(text)!.Value.ToString());
    }

    [Theory]
    [InlineData("10.20.1.0", 24, "10.20.1.0 is the network itself")]
    [InlineData("10.20.1.255", 24, "10.20.1.255 is the address of all in its network")]
    // 10.20.1.128/25 runs to .255; .127 is the address of all in the half before.
    [InlineData("10.20.1.127", 25, "10.20.1.127 is the address of all in its network")]
    [InlineData("10.20.1.127", 24, null)]
    [InlineData("127.0.0.1", 24, "127.0.0.1 is no address that a controller can have")]
    [InlineData("224.0.0.5", 24, "224.0.0.5 is no address that a controller can have")]
    [InlineData("0.1.2.3", 24, "0.1.2.3 is no address that a controller can have")]
    public void Not_every_address_is_a_machines(string address, int prefix, string? why) => Assert.Equal(why, NetworkAddress.Parse(address)!.Value.NotAHost(prefix));

    [Fact]
    public void What_cannot_stand_is_refused_with_its_field()
    {
        Refuses(Project(), First with { Address = "10.20.1.300" }, "address", "‘10.20.1.300’ is no address: four numbers from 0 to 255 with dots between, such as 10.20.1.11.");
        Refuses(Project(), First with { Address = "10.20.1.11", PrefixLength = 31 }, "prefixLength", "A network of controllers has a prefix of 8 to 30 bits, not 31.");
        Refuses(Project(), First with { Router = "router" }, "router", "‘router’ is no address: four numbers from 0 to 255 with dots between.");
        Refuses(Project(), First with { Runtime = "2.0" }, "runtime", "Compact controller, 20 terminals takes no runtime ‘2.0’. It takes 3.4, 3.3.");
        Refuses(Project(), First with { ExtraParts = ["karaoke"] }, "extraParts", "Compact controller, 20 terminals has no software part ‘karaoke’. It has kernel, network, logic, schedules, trends, alarms, modules.");
        Project two = Accept(Project(), First with { Address = "10.20.1.11" });
        Refuses(two, First with { Id = new("kh-c9"), Name = "KH-C9", DeviceInstance = 2109, Address = "10.20.1.11" }, "address", "10.20.1.11 is the address of controller ‘KH-C1’. Choose another.");
    }

    [Fact]
    public void The_next_free_address_goes_on_from_the_highest_and_fills_gaps_at_the_end()
    {
        Controller One(int n, string address, int prefix = 24) => First with { Id = new($"kh-c{n}"), Name = $"KH-C{n}", DeviceInstance = 2100 + n, Address = address, PrefixLength = prefix, Router = "10.20.1.1" };
        Assert.Equal(("10.20.1.11", 24, null), NetworkSettings.NextFree(Project()));
        Project some = Accept(Project(), One(1, "10.20.1.11"), One(2, "10.20.1.12"));
        Assert.Equal(("10.20.1.13", 24, "10.20.1.1"), NetworkSettings.NextFree(some));
        // After .254 comes the address of all: what is free below it, the router's left out.
        Assert.Equal(("10.20.1.2", 24, "10.20.1.1"), NetworkSettings.NextFree(Accept(some, One(3, "10.20.1.254"))));
        // A /30 has two machines; both are taken.
        Project full = Accept(Project(), One(1, "10.20.1.1", 30) with { Router = null }, One(2, "10.20.1.2", 30) with { Router = null });
        Assert.Null(NetworkSettings.NextFree(full));
    }

    [Fact]
    public void A_copy_has_its_address_open_and_its_number_next_free()
    {
        Project project = Accept(Project(), First with { Address = "10.20.1.11", Router = "10.20.1.1" });
        var copy = (Controller)new FreeNumbers(project).Give(project.Find<Controller>(KilnRoom.Controller)! with { Id = new("copy"), Name = "KH-C2" });
        Assert.Equal((null, "10.20.1.1", 2102), (copy.Address, copy.Router, copy.DeviceInstance));
        Accept(project, copy);
        var told = (Controller)new FreeNumbers(project).Give(copy with { Address = "10.20.1.12" }, field => field == "address");
        Assert.Equal("10.20.1.12", told.Address);
    }

    [Fact]
    public void A_router_elsewhere_and_a_controller_that_stays_down_are_found()
    {
        Project project = Accept(Project(), First with { Address = "10.20.1.11", Router = "10.20.2.1", StartsAfterPower = false });
        var findings = Checks.On(project, project.Find(KilnRoom.Controller)!).ToDictionary(f => f.Code);
        Assert.Contains("the router 10.20.2.1 is not in the network 10.20.1.0/24", findings["router"].Why, StringComparison.Ordinal);
        Finding down = findings["stays-down"];
        Assert.Equal(Severity.Medium, down.Severity);
        Project mended = Accept(project, (Controller)down.Fixes[0].Edits[0].Put!);
        Assert.DoesNotContain(Checks.On(mended, mended.Find(KilnRoom.Controller)!), f => f.Code == "stays-down");
    }
}
