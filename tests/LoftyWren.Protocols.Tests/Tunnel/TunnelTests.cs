using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Security;
using LoftyWren.Protocols.Tunnel;

namespace LoftyWren.Protocols.Tests.Tunnel;

/// <summary>Tunnels to a line: who is there, opening and closing, what is lost on the way, and devices put to work through them.</summary>
public sealed class TunnelTests
{
    private static readonly IndividualAddress Address = IndividualAddress.Of(1, 1, 7);

    private static DeviceForm Form(string id) => DescriptionShelf.Shipped.Single(d => d.Id == id).Form;

    private static ApplicationImage Image(string id, params (string Path, string Value)[] set)
    {
        DeviceForm form = Form(id);
        return new ApplicationImage(set.ToDictionary(s => form.Find(s.Path)!.At, s => s.Value), [GroupNumber.Of(1, 0, 1), GroupNumber.Of(1, 1, 1)], [new ObjectTie(0, form.FindObject("output1.switch")!.Number), new ObjectTie(1, form.FindObject("output1.state")!.Number)]);
    }

    [Fact]
    public async Task An_interface_says_who_it_is_opens_four_tunnels_and_no_fifth()
    {
        using var line = new TestLine();
        using var server = new TunnelServer(line);
        FoundInterface found = Assert.Single(await TunnelClient.Search(server.At, TimeSpan.FromMilliseconds(300), CancellationToken.None));
        Assert.Equal((server.At.Port, "1.1.5", "Interface of a test", "00FA10000105"), (found.At.Port, found.Identity.Address.ToString(), found.Identity.Name, Convert.ToHexString(found.Identity.Serial)));
        var open = new List<TunnelClient>();
        for (int i = 0; i < 4; i++) open.Add(await TunnelClient.Connect(server.At, CancellationToken.None));
        Assert.Equal(["1.1.241", "1.1.242", "1.1.243", "1.1.244"], open.Select(c => c.Address.ToString()));
        Assert.Contains("no tunnel left", (await Assert.ThrowsAsync<TunnelLostException>(() => TunnelClient.Connect(server.At, CancellationToken.None))).Message, StringComparison.Ordinal);
        await open[1].DisposeAsync();
        await Task.Delay(100);
        Assert.Equal(3, server.Open);
        await using TunnelClient again = await TunnelClient.Connect(server.At, CancellationToken.None);
        Assert.Equal("1.1.242", again.Address.ToString());
        foreach (TunnelClient each in open) await each.DisposeAsync();
        await again.DisposeAsync();
        await Task.Delay(100);
        // Without a supply on its line there is no way to it.
        line.IsFed = false;
        Assert.Contains("no supply", (await Assert.ThrowsAsync<TunnelLostException>(() => TunnelClient.Connect(server.At, CancellationToken.None))).Message, StringComparison.Ordinal);
    }

    /// <summary>Law: whatever datagrams come from others, an interface goes on answering, and a tunnel stays whose it is.</summary>
    [Fact]
    public async Task Hostile_datagrams_break_nothing()
    {
        using var line = new TestLine();
        using var server = new TunnelServer(line);
        await using TunnelClient open = await TunnelClient.Connect(server.At, CancellationToken.None);
        using var hostile = new UdpClient(new IPEndPoint(IPAddress.Loopback, 0));
        var random = new Random(5);
        TunnelService[] services = Enum.GetValues<TunnelService>();
        for (int i = 0; i < 4000; i++)
        {
            byte[] body = new byte[random.Next(0, 60)];
            random.NextBytes(body);
            if (body.Length > 3 && random.Next(2) == 0) (body[0], body[1]) = (4, (byte)random.Next(1, 5));
            await hostile.SendAsync(random.Next(5) == 0 ? body : TunnelFrame.Of(services[random.Next(services.Length)], body), server.At);
        }
        // What came before is still being read, and a datagram may find no room among it: whoever searches asks again.
        IReadOnlyList<FoundInterface> found = [];
        for (int i = 0; i < 20 && found.Count == 0; i++) found = await TunnelClient.Search(server.At, TimeSpan.FromMilliseconds(500), CancellationToken.None);
        Assert.Single(found);
        // Whoever had a tunnel has it still: nobody else can close it or speak through it.
        await open.Send(BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(1, 0, 1), [1], 1), CancellationToken.None);
        Assert.Null(open.Closed);
    }

    [Fact]
    public async Task Where_nobody_answers_it_says_so()
    {
        using var nobody = new UdpClient(new IPEndPoint(IPAddress.Loopback, 0));
        Assert.Contains("No interface answers at 127.0.0.1", (await Assert.ThrowsAsync<TunnelLostException>(() => TunnelClient.Connect((IPEndPoint)nobody.Client.LocalEndPoint!, CancellationToken.None))).Message, StringComparison.Ordinal);
        Assert.Empty(await TunnelClient.Search((IPEndPoint)nobody.Client.LocalEndPoint!, TimeSpan.FromMilliseconds(100), CancellationToken.None));
    }

    [Fact]
    public async Task What_is_lost_once_on_the_way_goes_again_and_is_on_the_line_once()
    {
        using var line = new TestLine();
        BusUnit unit = line.Hang("u", "switch-4", Labels.Of(1));
        line.Do(unit, (u, now) => u.Write(now, Image("switch-4"), Address));
        using var server = new TunnelServer(line);
        // In both directions every fourth message is lost the first time, every fourth acknowledgement too, and some come twice.
        using var way = new LossyWay(server.At);
        await using TunnelClient client = await TunnelClient.Connect(way.At, CancellationToken.None);
        await using TunnelClient other = await TunnelClient.Connect(server.At, CancellationToken.None);
        var heard = new ConcurrentQueue<string>();
        other.Heard += f => heard.Enqueue(f.IsToGroup ? $"{f.Group} {f.Value[0]}" : "");
        for (int i = 0; i < 6; i++) Assert.True(await client.Send(BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(1, 0, 1), [(byte)(i % 2)], 1), CancellationToken.None));
        await Task.Delay(300);
        Assert.Equal(["1/0/1 0", "1/0/1 1", "1/0/1 0", "1/0/1 1", "1/0/1 0", "1/0/1 1"], heard.Where(h => h.StartsWith("1/0/1", StringComparison.Ordinal)));
        Assert.InRange(way.Lost, 4, 12);
    }

    [Fact]
    public async Task A_device_is_addressed_by_its_label_written_changed_read_back_tried_and_looked_at()
    {
        using var line = new TestLine();
        BusUnit unit = line.Hang("u", "switch-12", Labels.Of(1)), other = line.Hang("v", "dim-4", Labels.Of(2));
        using var server = new TunnelServer(line);
        await using TunnelClient client = await TunnelClient.Connect(server.At, CancellationToken.None);
        using var manager = new BusManager(client) { AnswerWithin = TimeSpan.FromMilliseconds(300) };
        DeviceForm form = Form("switch-12");
        await manager.AddressBySerial(Labels.Of(1), Address, CancellationToken.None);
        Assert.Equal((Address, IndividualAddress.Factory), (unit.Address, other.Address));
        Assert.Contains("No device on the line has the label", (await Assert.ThrowsAsync<BusRefusedException>(() => manager.AddressBySerial(Labels.Of(9), IndividualAddress.Of(1, 1, 9), CancellationToken.None))).Message, StringComparison.Ordinal);
        Assert.Contains($"is that of the device with the label {Labels.Of(1)}", (await Assert.ThrowsAsync<BusRefusedException>(() => manager.AddressBySerial(Labels.Of(2), Address, CancellationToken.None))).Message, StringComparison.Ordinal);
        // Another device than it was thought to be is not written.
        Assert.Contains("is no Dimming actuator, 4-fold", (await Assert.ThrowsAsync<BusRefusedException>(() => manager.MustBe(Address, DescriptionShelf.Shipped.Single(d => d.Id == "dim-4"), null, CancellationToken.None))).Message, StringComparison.Ordinal);
        await manager.MustBe(Address, DescriptionShelf.Shipped.Single(d => d.Id == "switch-12"), Labels.Of(1), CancellationToken.None);
        // Tried before it has anything to do.
        Assert.True(await manager.Drive(Address, form.ChannelAt("output3"), 1, CancellationToken.None));
        Assert.Equal([(form.ChannelAt("output3"), 1.0)], (await manager.Drives(Address, form, CancellationToken.None)).Select(d => (d.Key, d.Value)));
        ApplicationImage image = Image("switch-12", ("output1.function", "staircase"), ("output1.staircase", "90"));
        Assert.Equal((LoadState.Empty, false), await manager.Has(Address, image, form, CancellationToken.None));
        int steps = 0;
        await manager.Transfer(Address, ApplicationTransfer.Of(image, null, form), (_, of) => steps = of, CancellationToken.None);
        Assert.Equal((LoadState.Loaded, true), await manager.Has(Address, image, form, CancellationToken.None));
        ApplicationImage changed = image with { Settings = new Dictionary<int, string>(image.Settings) { [form.Find("output1.staircase")!.At] = "120" } };
        var difference = ApplicationTransfer.Of(changed, image, form);
        // An order, the value, the sum, an order.
        Assert.Equal(4, difference.Steps.Count);
        await manager.Transfer(Address, difference, (_, _) => { }, CancellationToken.None);
        ApplicationImage back = await manager.ReadBack(Address, form, (_, _) => { }, CancellationToken.None);
        Assert.Equal(changed, back);
        Assert.Equal(["Output A · Staircase time: 90 s, there 2 min"], image.DifferencesTo(back, form).Select(d => $"{d.Label}: {d.Designed}, there {d.There}"));
        DeviceHealth health = (await manager.Look(Address, form, CancellationToken.None))!;
        Assert.Equal((Labels.Of(1), LoadState.Loaded, 0), (health.Serial, health.State, health.Failures));
        Assert.Null(await manager.Look(IndividualAddress.Of(1, 1, 99), form, CancellationToken.None));
    }

    // From the sticker to a device that takes orders over sealed telegrams alone: written, read back, tried; a program without the key,
    // with that of another device, and one whose numbers are behind.
    [Fact]
    public async Task A_secured_device_is_written_and_read_over_sealed_telegrams_alone()
    {
        using var line = new TestLine();
        BusUnit unit = line.Hang("u", "switch-12", Labels.Of(1));
        using var server = new TunnelServer(line);
        await using TunnelClient client = await TunnelClient.Connect(server.At, CancellationToken.None);
        byte[] tool = [.. Enumerable.Range(1, 16).Select(i => (byte)(i * 13))], certified = BusCertificate.OfStandIn(Labels.Of(1)).Key, wrong = BusCertificate.OfStandIn(Labels.Of(2)).Key;
        byte[]? key = null;
        using var manager = new BusManager(client) { AnswerWithin = TimeSpan.FromMilliseconds(300), KeyOf = _ => key };
        DeviceForm form = Form("switch-12");
        await manager.AddressBySerial(Labels.Of(1), Address, CancellationToken.None);
        Assert.False(await manager.IsSecured(Address, CancellationToken.None));
        Assert.False(await manager.Secure(Address, wrong, tool, CancellationToken.None));
        Assert.True(await manager.Secure(Address, certified, tool, CancellationToken.None));
        Assert.True(unit.IsSecured && await manager.IsSecured(Address, CancellationToken.None));
        // Without the key nothing is taken, and nothing but what it is is told.
        Assert.False(await manager.Drive(Address, form.ChannelAt("output1"), 1, CancellationToken.None));
        await manager.MustBe(Address, DescriptionShelf.Shipped.Single(d => d.Id == "switch-12"), Labels.Of(1), CancellationToken.None);
        Assert.Null(await manager.Read(Address, BusPart.Application, BusPids.Load, CancellationToken.None));
        key = tool;
        ApplicationImage image = Image("switch-12", ("output1.function", "staircase"), ("output1.staircase", "90"));
        await manager.Transfer(Address, ApplicationTransfer.Of(image, null, form), (_, _) => { }, CancellationToken.None);
        Assert.Equal(image, await manager.ReadBack(Address, form, (_, _) => { }, CancellationToken.None));
        Assert.True(await manager.Drive(Address, form.ChannelAt("output1"), 1, CancellationToken.None));
        // A program with another key is answered by nobody.
        key = wrong;
        await Assert.ThrowsAsync<BusRefusedException>(() => manager.Drive(Address, form.ChannelAt("output1"), 0, CancellationToken.None));
        // Numbers above the clock's: whoever begins anew goes on above what the device took last.
        key = tool;
        line.Do(unit, (u, now) => u.Hear(now * 1000, SecureUnit.Seal(BusFrame.ToDevice(Address, BusPids.Ask(BusPart.Device, BusPids.Failures)) with { From = IndividualAddress.Of(1, 1, 250) }, tool, 1L << 46)));
        using var later = new BusManager(client) { AnswerWithin = TimeSpan.FromMilliseconds(300), KeyOf = _ => tool };
        await Assert.ThrowsAsync<BusRefusedException>(() => later.Drive(Address, form.ChannelAt("output1"), 0, CancellationToken.None));
        await later.GoOnAbove(Address, CancellationToken.None);
        Assert.True(await later.Drive(Address, form.ChannelAt("output1"), 0, CancellationToken.None));
    }

    // On a way that loses and doubles datagrams each order arrives, and none twice: what is said again is sealed anew.
    [Fact]
    public async Task Sealed_telegrams_survive_a_way_that_loses_some()
    {
        using var line = new TestLine();
        line.Hang("u", "switch-12", Labels.Of(1));
        using var server = new TunnelServer(line);
        using var way = new LossyWay(server.At);
        await using TunnelClient client = await TunnelClient.Connect(way.At, CancellationToken.None);
        byte[] tool = [.. Enumerable.Range(1, 16).Select(i => (byte)i)];
        using var manager = new BusManager(client) { AnswerWithin = TimeSpan.FromSeconds(2.5), KeyOf = _ => tool };
        DeviceForm form = Form("switch-12");
        await manager.AddressBySerial(Labels.Of(1), Address, CancellationToken.None);
        Assert.True(await manager.Secure(Address, BusCertificate.OfStandIn(Labels.Of(1)).Key, tool, CancellationToken.None));
        ApplicationImage image = Image("switch-12", ("output2.function", "pulse"));
        await manager.Transfer(Address, ApplicationTransfer.Of(image, null, form), (_, _) => { }, CancellationToken.None);
        Assert.Equal(image, await manager.ReadBack(Address, form, (_, _) => { }, CancellationToken.None));
        Assert.True(way.Lost > 3);
    }

    [Fact]
    public async Task By_button_nobody_gets_an_address_while_two_wait()
    {
        using var line = new TestLine();
        BusUnit unit = line.Hang("u", "switch-4", Labels.Of(1)), other = line.Hang("v", "dim-4", Labels.Of(2));
        using var server = new TunnelServer(line);
        await using TunnelClient client = await TunnelClient.Connect(server.At, CancellationToken.None);
        using var manager = new BusManager(client) { AnswerWithin = TimeSpan.FromMilliseconds(300) };
        Assert.Contains("Press the button", (await Assert.ThrowsAsync<BusRefusedException>(() => manager.AddressByButton(Address, CancellationToken.None))).Message, StringComparison.Ordinal);
        line.Do(unit, (u, _) => u.Press());
        line.Do(other, (u, _) => u.Press());
        Assert.Equal([Labels.Of(1), Labels.Of(2)], (await manager.WhoWaits(CancellationToken.None)).Select(w => w.Serial));
        Assert.Contains("2 devices are in programming mode", (await Assert.ThrowsAsync<BusRefusedException>(() => manager.AddressByButton(Address, CancellationToken.None))).Message, StringComparison.Ordinal);
        line.Do(other, (u, _) => u.Press());
        Assert.Equal(Labels.Of(1), await manager.AddressByButton(Address, CancellationToken.None));
        Assert.Equal((Address, IndividualAddress.Factory, false), (unit.Address, other.Address, unit.IsProgramming));
    }

    /// <summary>A way between a program and an interface on which datagrams are lost and doubled.</summary>
    private sealed class LossyWay : IDisposable
    {
        private readonly UdpClient _here = new(new IPEndPoint(IPAddress.Loopback, 0)), _there = new(new IPEndPoint(IPAddress.Loopback, 0));
        private readonly CancellationTokenSource _stop = new();
        private IPEndPoint? _caller;

        public LossyWay(IPEndPoint server)
        {
            _ = Carry(_here, got =>
            {
                _caller = got.RemoteEndPoint;
                return (_there, server);
            });
            _ = Carry(_there, _ => (_here, _caller!));
        }

        public IPEndPoint At => (IPEndPoint)_here.Client.LocalEndPoint!;

        public int Lost { get; private set; }

        private async Task Carry(UdpClient from, Func<UdpReceiveResult, (UdpClient By, IPEndPoint To)> way)
        {
            var seen = new HashSet<string>();
            while (!_stop.IsCancellationRequested)
            {
                try
                {
                    UdpReceiveResult got = await from.ReceiveAsync(_stop.Token);
                    var (by, to) = way(got);
                    byte[] datagram = [.. got.Buffer];
                    // Opening is not what this is about; that the data go to the server itself is put right.
                    if (got.Buffer[2] == 0x02 && got.Buffer[3] == 0x06 && got.Buffer.Length >= 16) TunnelFrame.Endpoint(At).CopyTo(datagram, 8);
                    if (got.Buffer[2] == 0x04)
                    {
                        // 20 carries a message, 21 acknowledges one; the third octet of what follows the head counts them.
                        int count = got.Buffer[8], loses = got.Buffer[3] == 0x20 ? 1 : 3;
                        if (count % 4 == loses && seen.Add(Convert.ToHexString(datagram)))
                        {
                            Lost++;
                            continue;
                        }
                        if (count % 3 == 0) await by.SendAsync(datagram, to, _stop.Token);
                    }
                    await by.SendAsync(datagram, to, _stop.Token);
                }
                catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException)
                {
                    return;
                }
            }
        }

        public void Dispose()
        {
            _stop.Cancel();
            _here.Dispose();
            _there.Dispose();
        }
    }
}
