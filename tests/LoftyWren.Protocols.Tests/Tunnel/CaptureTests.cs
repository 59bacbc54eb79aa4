using System.Buffers.Binary;
using System.Diagnostics;
using System.Net;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Protocols.Tunnel;

namespace LoftyWren.Protocols.Tests.Tunnel;

/// <summary>Datagrams of tunnels as an independent protocol analyser decodes them (tshark, which ./test installs from Debian's packages).</summary>
public sealed class CaptureTests
{
    // What a program sends to an interface and gets back, written as a capture of IPv4 packets.
    private static string Decode(params byte[][] datagrams)
    {
        string file = Path.Combine(Path.GetTempPath(), $"tunnel-{Guid.NewGuid():N}.pcap");
        using (var stream = File.Create(file))
        {
            // Little-endian pcap of microseconds, link type 101: raw IP.
            stream.Write([0xD4, 0xC3, 0xB2, 0xA1, 2, 0, 4, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0xFF, 0xFF, 0, 0, 101, 0, 0, 0]);
            for (int i = 0; i < datagrams.Length; i++)
            {
                byte[] packet = Packet(datagrams[i]);
                byte[] head = new byte[16];
                BinaryPrimitives.WriteInt32LittleEndian(head, i);
                BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(8), packet.Length);
                BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(12), packet.Length);
                stream.Write(head);
                stream.Write(packet);
            }
        }
        try
        {
            var start = new ProcessStartInfo("tshark") { RedirectStandardOutput = true, RedirectStandardError = true };
            foreach (string a in (string[])["-r", file, "-V"]) start.ArgumentList.Add(a);
            using Process process = Process.Start(start)!;
            string output = process.StandardOutput.ReadToEnd();
            process.WaitForExit();
            return output;
        }
        finally
        {
            File.Delete(file);
        }
    }

    private static byte[] Packet(byte[] datagram)
    {
        byte[] all = new byte[28 + datagram.Length];
        all[0] = 0x45;
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(2), (ushort)all.Length);
        (all[8], all[9]) = (64, 17);
        IPAddress.Loopback.GetAddressBytes().CopyTo(all, 12);
        IPAddress.Loopback.GetAddressBytes().CopyTo(all, 16);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(20), 50_000);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(22), TunnelFrame.Port);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(24), (ushort)(8 + datagram.Length));
        datagram.CopyTo(all, 28);
        return all;
    }

    [Fact]
    public void An_analyser_sees_what_was_said()
    {
        byte[] nowhere = TunnelFrame.Endpoint(new IPEndPoint(IPAddress.Any, 0));
        BusFrame on = BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(1, 0, 1), [1], 1) with { From = IndividualAddress.Of(1, 1, 240) };
        BusFrame warm = BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(3, 2, 7), [0x0C, 0x1A], 16, BusPriority.Urgent) with { From = IndividualAddress.Of(1, 1, 10) };
        BusFrame label = BusFrame.ToDevice(IndividualAddress.Of(1, 1, 7), BusPids.Ask(BusPart.Device, BusPids.Serial)) with { From = IndividualAddress.Of(1, 1, 240) };
        string said = Decode(
            TunnelFrame.Of(TunnelService.SearchRequest, nowhere),
            TunnelFrame.Of(TunnelService.SearchResponse, [.. TunnelFrame.Endpoint(new IPEndPoint(IPAddress.Loopback, 3671)), .. TunnelFrame.Describe(new TunnelIdentity(IndividualAddress.Of(1, 1, 5), [0, 0xFA, 0x10, 0, 1, 5], "Interface of line 1.1"))]),
            TunnelFrame.Of(TunnelService.ConnectRequest, [.. nowhere, .. nowhere, 4, 4, 2, 0]),
            TunnelFrame.Of(TunnelService.ConnectResponse, [1, 0, .. TunnelFrame.Endpoint(new IPEndPoint(IPAddress.Loopback, 3671)), 4, 4, 0x11, 0xF0]),
            TunnelFrame.Of(TunnelService.Tunnelling, [4, 1, 0, 0, .. on.ToMessage(MessageCode.Request)]),
            TunnelFrame.Of(TunnelService.TunnellingAck, 4, 1, 0, 0),
            TunnelFrame.Of(TunnelService.Tunnelling, [4, 1, 1, 0, .. warm.ToMessage(MessageCode.Indication)]),
            TunnelFrame.Of(TunnelService.Tunnelling, [4, 1, 2, 0, .. label.ToMessage(MessageCode.Request)]),
            TunnelFrame.Of(TunnelService.StateRequest, [1, 0, .. nowhere]),
            TunnelFrame.Of(TunnelService.DisconnectRequest, [1, 0, .. nowhere]));
        Assert.DoesNotContain("Malformed", said, StringComparison.Ordinal);
        Assert.DoesNotContain("Expert Info (Error", said, StringComparison.Ordinal);
        foreach (string expected in Expected) Assert.Contains(expected, said, StringComparison.Ordinal);
    }

    private static readonly string[] Expected =
    [
        "Search Request", "Search Response, Control @ 127.0.0.1:3671, 1.1.5 \"Interface of line 1.1\"", "0x00fa10000105", "Connect Request", "Connect Response", "Tunneling Request", "Tunneling Acknowledgement",
        "L_Data.req, P=Low, H=6, Src=1.1.240, Dst=1/0/1, GroupValueWrite $01", "L_Data.ind, P=Urgent, H=6, Src=1.1.10, Dst=3/2/7, GroupValueWrite, $0C1A", "L_Data.req, P=System, H=6, Src=1.1.240, Dst=1.1.7, PropValueRead, OX=0, PID=11", "PID_SERIAL_NUMBER", "Disconnect Request",
    ];
}
