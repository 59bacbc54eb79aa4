using System.Buffers.Binary;

namespace LoftyWren.Core.Bus.Lines;

/// <summary>The parts of a device that have properties (ISO/IEC 14543-3-7).</summary>
public enum BusPart
{
    /// <summary>The device itself.</summary>
    Device = 0,
    /// <summary>The table of its groups.</summary>
    Groups = 1,
    /// <summary>Which object takes part in which group.</summary>
    Ties = 2,
    /// <summary>Its application.</summary>
    Application = 3,
}

/// <summary>
/// Properties of the parts of a device. Below 200 they are those of the standard, from 201 on our own. An element of an array
/// is counted from 1; element 0 of one is how many there are.
/// </summary>
public static class BusPids
{
    /// <summary>Of the application: its state (see <see cref="LoadState"/>) in one octet; a writing is an order (see <see cref="LoadOrder"/>).</summary>
    public const int Load = 5;

    /// <summary>Of the device: the version of its firmware, two octets.</summary>
    public const int Firmware = 9;

    /// <summary>Of the device: its serial number, six octets.</summary>
    public const int Serial = 11;

    /// <summary>Of groups and ties: their table, elements of two and of four octets.</summary>
    public const int Table = 23;

    /// <summary>Of the device: whether it is in programming mode, one octet.</summary>
    public const int Programming = 54;

    /// <summary>Of the device: what it is, six octets; see <see cref="HardwareOf"/>.</summary>
    public const int Hardware = 78;

    /// <summary>Of the application: a value of a parameter by its place, eight octets.</summary>
    public const int Values = 201;

    /// <summary>Of the application: places of the parameters that were set, from 0, two octets each.</summary>
    public const int SetPlaces = 203;

    /// <summary>Of the application: the texts of parameters in pieces of ten octets, sixteen for each by its place among those that are texts.</summary>
    public const int Texts = 205;

    /// <summary>Of the application: the sum over all that was written, four octets; see <see cref="Devices.ApplicationImage.Check"/>.</summary>
    public const int Check = 206;

    /// <summary>Of the device: how often it lost the bus (two octets), when last (eight, ms of site time; 0: never), and since when it has it (ms).</summary>
    public const int Failures = 207, FailedAt = 208, FedSince = 209;

    /// <summary>Of the device: whether it is secured, one octet; and the last sequence number that it took, six octets.</summary>
    public const int Secured = 216, LastSequence = 217;

    /// <summary>Of the device: the key it is put to work with, sixteen octets; it is written sealed with the key of its certificate, and never read.</summary>
    public const int ToolKey = 218;

    /// <summary>Of the application: what each channel drives now, a single float; writing one drives it by hand, no octet or not a number lets it go.</summary>
    public const int Drive = 211;

    /// <summary>Of the application: the operating hours, cycles and energy in Wh of each channel, as doubles; not a number where none are counted.</summary>
    public const int Hours = 213, Cycles = 214, Energy = 215;

    /// <summary>How many elements an array has under one number: the line counts them in twelve bits. What is beyond is under further numbers.</summary>
    public const int Each = 4000;

    private static (int First, int Pages) Beyond(int pid) => pid switch { Table => (220, 16), Values => (202, 1), _ => (204, 1) };

    /// <summary>Under which number and as which element an element of a long array is, by its place from 0.</summary>
    public static (int Pid, int First) At(int pid, int index) => index < Each ? (pid, index + 1) : (Beyond(pid).First + (index / Each) - 1, (index % Each) + 1);

    /// <summary>The place from 0 of an element of a long array that is asked for; −1 for how many there are. Null where the number is none of that array.</summary>
    public static int? IndexOf(int pid, int asked, int first)
    {
        int page = asked == pid ? 0 : asked - Beyond(pid).First + 1;
        return page < 0 || page > Beyond(pid).Pages || (asked != pid && (page == 0 || first == 0)) ? null : (page * Each) + first - 1;
    }

    /// <summary>A property in words.</summary>
    public static string Say(BusPart part, int pid) => (part, pid) switch
    {
        (_, Load) => "its state",
        (_, Firmware) => "its firmware",
        (_, Serial) => "its label",
        (BusPart.Groups, _) when IndexOf(Table, pid, 1) is not null => "its groups",
        (BusPart.Ties, _) when IndexOf(Table, pid, 1) is not null => "which object takes part where",
        (_, Programming) => "whether it waits for an address",
        (_, Hardware) => "what it is",
        (BusPart.Application, _) when IndexOf(Values, pid, 1) is not null => "a parameter",
        (BusPart.Application, _) when IndexOf(SetPlaces, pid, 1) is not null => "which parameters are set",
        (_, Texts) => "a text",
        (_, Check) => "the sum over all",
        (_, Failures) => "how often it lost the bus",
        (_, FailedAt) => "when it lost the bus",
        (_, FedSince) => "since when it has the bus",
        (_, Secured) => "whether it is secured",
        (_, LastSequence) => "the last sequence number",
        (_, ToolKey) => "its key",
        (_, Drive) => "what a channel drives",
        (_, Hours) => "operating hours",
        (_, Cycles) => "cycles",
        (_, Energy) => "energy",
        _ => $"{part.ToString().ToLowerInvariant()} {pid}",
    };

    /// <summary>The six octets by which a description is known on the line: the first of SHA-256 over its id and revision.</summary>
    public static byte[] HardwareOf(string descriptionId, int revision) => System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes($"{descriptionId}|{revision}"))[..6];

    /// <summary>Asks for elements of a property.</summary>
    public static byte[] Ask(BusPart part, int pid, int first = 1, int count = 1) => BusFrame.Say(BusService.PropertyRead, Head(part, pid, first, count));

    /// <summary>Writes elements of a property.</summary>
    public static byte[] Write(BusPart part, int pid, ReadOnlySpan<byte> octets, int first = 1, int count = 1) => BusFrame.Say(BusService.PropertyWrite, [.. Head(part, pid, first, count), .. octets]);

    /// <summary>Answers with elements of a property; none where it is not there, or was not taken.</summary>
    public static byte[] Answer(BusPart part, int pid, ReadOnlySpan<byte> octets, int first, int count) => BusFrame.Say(BusService.PropertyAnswer, [.. Head(part, pid, first, count), .. octets]);

    private static byte[] Head(BusPart part, int pid, int first, int count)
    {
        byte[] head = [(byte)part, (byte)pid, 0, 0];
        BinaryPrimitives.WriteUInt16BigEndian(head.AsSpan(2), (ushort)((count << 12) | (first & 0xFFF)));
        return head;
    }

    /// <summary>What a telegram about a property is about; null for another.</summary>
    public static (BusPart Part, int Pid, int First, int Count, byte[] Octets)? Read(BusFrame frame)
    {
        if (frame.Service is not (BusService.PropertyRead or BusService.PropertyAnswer or BusService.PropertyWrite) || frame.Data.Length < 4) return null;
        int range = BinaryPrimitives.ReadUInt16BigEndian(frame.Data[2..]);
        return ((BusPart)frame.Data[0], frame.Data[1], range & 0xFFF, range >> 12, frame.Data[4..].ToArray());
    }
}

/// <summary>Whether a device has what it is to do.</summary>
public enum LoadState
{
    /// <summary>Nothing was ever written.</summary>
    Empty = 0,
    /// <summary>It has all.</summary>
    Loaded = 1,
    /// <summary>It is being written; what it had goes on.</summary>
    Loading = 2,
    /// <summary>What was written last was not whole; what it had goes on.</summary>
    Broken = 3,
}

/// <summary>What a device is told of its application.</summary>
public enum LoadOrder
{
    /// <summary>Begin from nothing: every parameter as it begins, no group.</summary>
    BeginEmpty = 1,
    /// <summary>That was all: change over if the sum is right.</summary>
    Complete = 2,
    /// <summary>Begin from what it has.</summary>
    BeginFromPresent = 3,
    /// <summary>Forget all.</summary>
    Unload = 4,
}
