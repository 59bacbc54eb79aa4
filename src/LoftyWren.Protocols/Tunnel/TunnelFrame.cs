using System.Buffers.Binary;
using System.Net;
using System.Text;
using LoftyWren.Core.Bus;

namespace LoftyWren.Protocols.Tunnel;

/// <summary>What a datagram between a program and an interface is (ISO 22510, IP communication).</summary>
public enum TunnelService
{
    /// <summary>Who is there?</summary>
    SearchRequest = 0x0201,
    /// <summary>An interface is.</summary>
    SearchResponse = 0x0202,
    /// <summary>What are you?</summary>
    DescriptionRequest = 0x0203,
    /// <summary>It says.</summary>
    DescriptionResponse = 0x0204,
    /// <summary>A tunnel, please.</summary>
    ConnectRequest = 0x0205,
    /// <summary>Here it is, or why not.</summary>
    ConnectResponse = 0x0206,
    /// <summary>Is the tunnel still there?</summary>
    StateRequest = 0x0207,
    /// <summary>It says.</summary>
    StateResponse = 0x0208,
    /// <summary>The tunnel is closed.</summary>
    DisconnectRequest = 0x0209,
    /// <summary>Noted.</summary>
    DisconnectResponse = 0x020A,
    /// <summary>A message through the tunnel.</summary>
    Tunnelling = 0x0420,
    /// <summary>It came.</summary>
    TunnellingAck = 0x0421,
}

/// <summary>Why something was not done.</summary>
public enum TunnelStatus
{
    /// <summary>It was.</summary>
    Ok = 0x00,
    /// <summary>There is no such tunnel.</summary>
    NoSuchTunnel = 0x21,
    /// <summary>It has no such kind of connection.</summary>
    NoSuchKind = 0x22,
    /// <summary>It has no tunnel left.</summary>
    NoneLeft = 0x24,
    /// <summary>It does not tunnel on that layer.</summary>
    NoSuchLayer = 0x29,
}

/// <summary>What an interface says of itself.</summary>
public sealed record TunnelIdentity(IndividualAddress Address, byte[] Serial, string Name);

/// <summary>Datagrams between programs and interfaces: a head of six octets (length 06, version 10, service, length of all), then what the service says.</summary>
public static class TunnelFrame
{
    /// <summary>The port and the group at which interfaces listen.</summary>
    public const int Port = 3671, MostOctets = 512;

    private const int HeadOctets = 6, EndpointOctets = 8;

    /// <summary>A datagram.</summary>
    public static byte[] Of(TunnelService service, params ReadOnlySpan<byte> body)
    {
        byte[] all = new byte[HeadOctets + body.Length];
        (all[0], all[1]) = (0x06, 0x10);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(2), (ushort)service);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(4), (ushort)all.Length);
        body.CopyTo(all.AsSpan(HeadOctets));
        return all;
    }

    /// <summary>What a datagram is; null for none of these.</summary>
    public static (TunnelService Service, byte[] Body)? Read(ReadOnlySpan<byte> all)
    {
        if (all.Length < HeadOctets || all[0] != 0x06 || all[1] != 0x10 || BinaryPrimitives.ReadUInt16BigEndian(all[4..]) != all.Length) return null;
        var service = (TunnelService)BinaryPrimitives.ReadUInt16BigEndian(all[2..]);
        return Enum.IsDefined(service) ? (service, all[HeadOctets..].ToArray()) : null;
    }

    /// <summary>Where somebody is reached, in eight octets: UDP over IPv4.</summary>
    public static byte[] Endpoint(IPEndPoint at)
    {
        byte[] octets = new byte[EndpointOctets];
        (octets[0], octets[1]) = (EndpointOctets, 0x01);
        at.Address.MapToIPv4().GetAddressBytes().CopyTo(octets, 2);
        BinaryPrimitives.WriteUInt16BigEndian(octets.AsSpan(6), (ushort)at.Port);
        return octets;
    }

    /// <summary>Where somebody says that it is reached; all zeros: where the datagram came from. Null where that cannot be read.</summary>
    public static IPEndPoint? ReadEndpoint(ReadOnlySpan<byte> octets, IPEndPoint cameFrom)
    {
        if (octets.Length < EndpointOctets || octets[0] != EndpointOctets || octets[1] != 0x01) return null;
        var address = new IPAddress(octets.Slice(2, 4));
        int port = BinaryPrimitives.ReadUInt16BigEndian(octets[6..]);
        return address.Equals(IPAddress.Any) || port == 0 ? cameFrom : new IPEndPoint(address, port);
    }

    /// <summary>What an interface is, as two blocks: the device (54 octets: medium two-wire, address, serial number, name) and the families of services that it has.</summary>
    public static byte[] Describe(TunnelIdentity identity)
    {
        byte[] all = new byte[54 + 6];
        (all[0], all[1], all[2]) = (54, 0x01, 0x02);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(4), identity.Address.Raw);
        identity.Serial.AsSpan(0, 6).CopyTo(all.AsSpan(8));
        // The group in which interfaces that route would speak; this one does not.
        ((byte[])[224, 0, 23, 12]).CopyTo(all, 14);
        Encoding.Latin1.GetBytes(identity.Name.Length > 29 ? identity.Name[..29] : identity.Name).CopyTo(all, 24);
        // Core and tunnelling, the first version of each.
        ((byte[])[6, 0x02, 0x02, 0x01, 0x04, 0x01]).CopyTo(all, 54);
        return all;
    }

    /// <summary>What an interface says that it is; null where that cannot be read.</summary>
    public static TunnelIdentity? ReadDescription(ReadOnlySpan<byte> octets) => octets.Length < 54 || octets[0] != 54 || octets[1] != 0x01 ? null
        : new TunnelIdentity(new(BinaryPrimitives.ReadUInt16BigEndian(octets[4..])), octets.Slice(8, 6).ToArray(), Encoding.Latin1.GetString(octets.Slice(24, 30)).TrimEnd('\0'));
}
