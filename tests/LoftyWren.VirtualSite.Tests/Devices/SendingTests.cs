using LoftyWren.Core.Images;
using LoftyWren.VirtualSite.Devices;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Devices;

/// <summary>An interruption at any step of sending: the controller runs a whole program, the old or the new.</summary>
public class SendingTests
{
    private static readonly byte[] Old = Building.Image(Project()), New = Building.Image(Project(differential: 1.5));

    private static InstalledDevice Running()
    {
        var controller = new InstalledDevice(Controller);
        controller.BeginSend(Old.Length, HostKinds.HashOf(Old));
        controller.Receive(0, Old);
        controller.ChangeOver(InstalledDevice.MakeReady(controller.Sent()), "engineer", 0);
        return controller;
    }

    [Fact]
    public void Broken_off_after_any_byte_the_old_program_runs_on_and_the_rest_can_follow()
    {
        string hash = HostKinds.HashOf(New);
        for (int cut = 0; cut < New.Length; cut += 37)
        {
            InstalledDevice controller = Running();
            controller.BeginSend(New.Length, hash);
            controller.Receive(0, New.AsSpan(0, cut));
            Assert.Contains($"{cut} of {New.Length} bytes", Assert.Throws<InvalidOperationException>(() => controller.ChangeOver(InstalledDevice.MakeReady(controller.Sent()), "engineer", 0)).Message);
            Assert.Equal(Old, controller.ImageBytes);
            Assert.Equal(1, controller.Version);
            int from = controller.BeginSend(New.Length, hash);
            Assert.Equal(cut, from);
            controller.Receive(from, New.AsSpan(from));
            controller.ChangeOver(InstalledDevice.MakeReady(controller.Sent()), "technician", 5);
            Assert.Equal((hash, 2, "technician", 5L), (controller.Hash, controller.Version, controller.SentBy, controller.SentAt));
            Assert.Equal(New, controller.ImageBytes);
        }
    }

    [Fact]
    public void Any_damaged_byte_is_noticed_and_the_old_program_runs_on()
    {
        for (int at = 0; at < New.Length; at += 53)
        {
            InstalledDevice controller = Running();
            byte[] damaged = [.. New];
            damaged[at] ^= 1;
            controller.BeginSend(New.Length, HostKinds.HashOf(New));
            controller.Receive(0, damaged);
            Assert.Contains("damaged on the way", Assert.Throws<InvalidOperationException>(() => controller.ChangeOver(InstalledDevice.MakeReady(controller.Sent()), "engineer", 0)).Message);
            Assert.Equal(Old, controller.ImageBytes);
        }
    }

    [Theory]
    [InlineData("{}")]
    [InlineData("not an image at all")]
    [InlineData("{\"controller\":{\"placeId\":\"x\",\"modelId\":\"no-such\",\"id\":\"c\",\"name\":\"c\"},\"timeZone\":\"Europe/London\",\"records\":[]}")]
    [InlineData("{\"controller\":{\"placeId\":\"x\",\"modelId\":\"compact-20\",\"id\":\"c\",\"name\":\"c\"},\"timeZone\":\"Nowhere\",\"records\":[]}")]
    public void What_arrives_whole_but_cannot_run_is_refused_and_the_old_program_runs_on(string image)
    {
        InstalledDevice controller = Running();
        byte[] bytes = System.Text.Encoding.UTF8.GetBytes(image);
        controller.BeginSend(bytes.Length, HostKinds.HashOf(bytes));
        controller.Receive(0, bytes);
        Assert.Contains("cannot run", Assert.Throws<InvalidOperationException>(() => controller.ChangeOver(InstalledDevice.MakeReady(controller.Sent()), "engineer", 0)).Message);
        Assert.Equal(Old, controller.ImageBytes);
    }

    [Fact]
    public void Pieces_that_do_not_follow_on_are_refused()
    {
        InstalledDevice controller = Running();
        controller.BeginSend(New.Length, HostKinds.HashOf(New));
        Assert.Throws<InvalidOperationException>(() => controller.Receive(10, New.AsSpan(10, 5)));
        Assert.Throws<InvalidOperationException>(() => controller.Receive(0, new byte[New.Length + 1]));
    }

    [Fact]
    public void Another_image_begins_from_the_start()
    {
        InstalledDevice controller = Running();
        controller.BeginSend(New.Length, HostKinds.HashOf(New));
        controller.Receive(0, New.AsSpan(0, 100));
        Assert.Equal(0, controller.BeginSend(Old.Length, HostKinds.HashOf(Old)));
    }
}
