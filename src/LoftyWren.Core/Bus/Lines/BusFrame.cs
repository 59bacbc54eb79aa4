using System.Buffers.Binary;
using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Lines;

/// <summary>What a telegram asks for or says, by its code in the application layer (ISO/IEC 14543-3-3); ten bits, of which the low six are data where the code has four.</summary>
public enum BusService
{
    /// <summary>Asks for the value of a group.</summary>
    GroupRead = 0x000,
    /// <summary>Answers that.</summary>
    GroupAnswer = 0x040,
    /// <summary>Says the value of a group.</summary>
    GroupWrite = 0x080,
    /// <summary>Gives an individual address to whoever is in programming mode.</summary>
    AddressWrite = 0x0C0,
    /// <summary>Asks who is in programming mode.</summary>
    AddressRead = 0x100,
    /// <summary>Answers that.</summary>
    AddressAnswer = 0x140,
    /// <summary>Asks a device what sort of device it is.</summary>
    DescriptorRead = 0x300,
    /// <summary>Answers that.</summary>
    DescriptorAnswer = 0x340,
    /// <summary>Lets a device start again.</summary>
    Restart = 0x380,
    /// <summary>Asks a device for a property.</summary>
    PropertyRead = 0x3D5,
    /// <summary>Answers that, and a writing.</summary>
    PropertyAnswer = 0x3D6,
    /// <summary>Writes a property of a device.</summary>
    PropertyWrite = 0x3D7,
    /// <summary>Asks for the address of the device with a serial number.</summary>
    SerialRead = 0x3DC,
    /// <summary>Answers that.</summary>
    SerialAnswer = 0x3DD,
    /// <summary>Gives an address to the device with a serial number.</summary>
    SerialWrite = 0x3DE,
    /// <summary>Something that is sealed; see <see cref="Security.SecureUnit"/>.</summary>
    Secure = 0x3F1,
    /// <summary>Something else, or nothing of the application: a connection is opened or closed.</summary>
    Other = -1,
}

/// <summary>
/// A telegram of a two-wire line (ISO/IEC 14543-3-6): from whom, to a device or a group, how urgent, how many couplers it may
/// still pass, and what it says. <see cref="Unit"/> begins with the octet of the transport layer, whose last two bits are the
/// first of the application's code.
/// </summary>
public sealed record BusFrame
{
    /// <summary>The most octets of <see cref="Unit"/>; up to <see cref="MostStandard"/> go in a frame of the standard form.</summary>
    public const int MostUnit = 255, MostStandard = 16;

    /// <summary>The number of couplers that none takes anything off: a telegram with it passes for ever.</summary>
    public const int AnyHops = 7;

    /// <summary>Who sent it.</summary>
    public IndividualAddress From { get; init; }

    /// <summary>To whom: an individual address or, of a group, its number; group 0 is everybody.</summary>
    public ushort To { get; init; }

    /// <summary>Whether it is to a group.</summary>
    public bool IsToGroup { get; init; }

    /// <summary>How urgent it is.</summary>
    public BusPriority Priority { get; init; } = BusPriority.Low;

    /// <summary>How many couplers it may still pass, 0 to 6; 7 for any number.</summary>
    public int Hops { get; init; } = 6;

    /// <summary>Whether it was sent before and not understood.</summary>
    public bool IsRepeated { get; init; }

    /// <summary>What it says: transport octet, application octet, data.</summary>
    public required byte[] Unit { get; init; }

    /// <summary>Whether it is to everybody.</summary>
    public bool IsBroadcast => IsToGroup && To == 0;

    /// <summary>The group it is to.</summary>
    public GroupNumber Group => new(To);

    /// <summary>The device it is to.</summary>
    public IndividualAddress Device => new(To);

    /// <summary>What it asks for or says.</summary>
    public BusService Service
    {
        get
        {
            // The high bit of the transport octet means that it is about the connection itself.
            if (Unit.Length < 2 || (Unit[0] & 0x80) != 0) return BusService.Other;
            int code = ((Unit[0] & 3) << 8) | Unit[1], four = code & 0x3C0;
            int whole = four == 0x3C0 ? code : four;
            return Enum.IsDefined((BusService)whole) ? (BusService)whole : BusService.Other;
        }
    }

    /// <summary>The data of a group's value: the low six bits of the application octet where it has no more, else the octets after it.</summary>
    public ReadOnlySpan<byte> Value => Unit.Length == 2 ? new byte[] { (byte)(Unit[1] & 0x3F) } : Unit.Length > 2 ? Unit.AsSpan(2) : [];

    /// <summary>The octets after the application's code.</summary>
    public ReadOnlySpan<byte> Data => Unit.Length > 2 ? Unit.AsSpan(2) : [];

    /// <summary>How many octets it has on the line.</summary>
    public int Octets => Unit.Length <= MostStandard ? 7 + Unit.Length : 8 + Unit.Length;

    /// <summary>A telegram that asks for or says something.</summary>
    /// <param name="service">What.</param>
    /// <param name="data">The octets after its code.</param>
    /// <param name="low">The low six bits of its code, where they are data.</param>
    public static byte[] Say(BusService service, ReadOnlySpan<byte> data, int low = 0)
    {
        byte[] unit = new byte[2 + data.Length];
        unit[0] = (byte)((int)service >> 8);
        unit[1] = (byte)((int)service | (low & 0x3F));
        data.CopyTo(unit.AsSpan(2));
        return unit;
    }

    /// <summary>A telegram about the value of a group.</summary>
    /// <param name="service">Asks, answers or says.</param>
    /// <param name="group">The group.</param>
    /// <param name="octets">The datapoint; nothing where it asks.</param>
    /// <param name="bits">How many bits the datapoint has: up to six travel in the head.</param>
    /// <param name="priority">How urgent it is.</param>
    public static BusFrame OfGroup(BusService service, GroupNumber group, ReadOnlySpan<byte> octets, int bits, BusPriority priority = BusPriority.Low) =>
        new() { To = group.Raw, IsToGroup = true, Priority = priority, Unit = bits <= 6 ? Say(service, [], octets.Length > 0 ? octets[0] : 0) : Say(service, octets) };

    /// <summary>A telegram to one device.</summary>
    public static BusFrame ToDevice(IndividualAddress to, byte[] unit) => new() { To = to.Raw, Priority = BusPriority.System, Unit = unit };

    /// <summary>A telegram to everybody.</summary>
    public static BusFrame ToAll(byte[] unit) => new() { To = 0, IsToGroup = true, Priority = BusPriority.System, Unit = unit };

    /// <summary>
    /// As it goes over the line. Standard form: control (1 0 r 1 p p 0 0; r is 0 in a repetition), from, to, a bit for groups with
    /// hops and length, the unit, and a check in which each column of bits has an odd number of ones. Extended form: control
    /// begins 0 0, then a bit for groups with hops, from, to, length, unit, check.
    /// </summary>
    public byte[] ToOctets()
    {
        bool isStandard = Unit.Length <= MostStandard;
        byte[] all = new byte[Octets];
        all[0] = (byte)((isStandard ? 0x80 : 0) | (IsRepeated ? 0 : 0x20) | 0x10 | ((int)Priority << 2));
        int group = (IsToGroup ? 0x80 : 0) | (Hops << 4), at = 1;
        if (!isStandard) all[at++] = (byte)group;
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(at), From.Raw);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(at + 2), To);
        all[at + 4] = (byte)(isStandard ? group | (Unit.Length - 1) : Unit.Length - 1);
        Unit.CopyTo(all, at + 5);
        all[^1] = Check(all.AsSpan(0, all.Length - 1));
        return all;
    }

    /// <summary>Reads what went over a line; null where it is no telegram or its check is wrong.</summary>
    public static BusFrame? FromOctets(ReadOnlySpan<byte> all)
    {
        if (all.Length < 8 || (all[0] & 0x53) != 0x10 || Check(all[..^1]) != all[^1]) return null;
        bool isStandard = (all[0] & 0x80) != 0;
        int at = isStandard ? 1 : 2, group = isStandard ? all[5] : all[1], length = isStandard ? all[5] & 0xF : all[6];
        if (all.Length != at + 6 + length + 1) return null;
        return new BusFrame
        {
            From = new(BinaryPrimitives.ReadUInt16BigEndian(all[at..])),
            To = BinaryPrimitives.ReadUInt16BigEndian(all[(at + 2)..]),
            IsToGroup = (group & 0x80) != 0,
            Hops = (group >> 4) & 7,
            Priority = (BusPriority)((all[0] >> 2) & 3),
            IsRepeated = (all[0] & 0x20) == 0,
            Unit = all.Slice(at + 5, length + 1).ToArray(),
        };
    }

    /// <summary>The check of a telegram: each column of bits, itself included, has an odd number of ones.</summary>
    public static byte Check(ReadOnlySpan<byte> octets)
    {
        byte sum = 0xFF;
        foreach (byte octet in octets) sum ^= octet;
        return sum;
    }

    /// <summary>
    /// As it goes between a program and an interface (the common external message interface of ISO/IEC 14543-3-7): a code, no
    /// additional information, two octets of control, from, to, length, unit.
    /// </summary>
    public byte[] ToMessage(MessageCode code, bool hasFailed = false)
    {
        byte[] all = new byte[9 + Unit.Length];
        all[0] = (byte)code;
        all[2] = (byte)((Unit.Length <= MostStandard ? 0x80 : 0) | (IsRepeated ? 0 : 0x20) | 0x10 | ((int)Priority << 2) | (hasFailed ? 1 : 0));
        all[3] = (byte)((IsToGroup ? 0x80 : 0) | (Hops << 4));
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(4), From.Raw);
        BinaryPrimitives.WriteUInt16BigEndian(all.AsSpan(6), To);
        all[8] = (byte)(Unit.Length - 1);
        Unit.CopyTo(all, 9);
        return all;
    }

    /// <summary>Reads a message between a program and an interface; null where it is none of a telegram.</summary>
    public static (MessageCode Code, BusFrame Frame, bool HasFailed)? FromMessage(ReadOnlySpan<byte> all)
    {
        if (all.Length < 2 || !Enum.IsDefined((MessageCode)all[0])) return null;
        int at = 2 + all[1];
        if (all.Length < at + 8 || all.Length != at + 8 + all[at + 6]) return null;
        return ((MessageCode)all[0], new BusFrame
        {
            From = new(BinaryPrimitives.ReadUInt16BigEndian(all[(at + 2)..])),
            To = BinaryPrimitives.ReadUInt16BigEndian(all[(at + 4)..]),
            IsToGroup = (all[at + 1] & 0x80) != 0,
            Hops = (all[at + 1] >> 4) & 7,
            Priority = (BusPriority)((all[at] >> 2) & 3),
            IsRepeated = (all[at] & 0x20) == 0,
            Unit = all[(at + 7)..].ToArray(),
        }, (all[at] & 1) != 0);
    }
}

/// <summary>What a message between a program and an interface is.</summary>
public enum MessageCode
{
    /// <summary>Send this.</summary>
    Request = 0x11,
    /// <summary>It was sent, or could not be.</summary>
    Confirmation = 0x2E,
    /// <summary>This was heard.</summary>
    Indication = 0x29,
}
