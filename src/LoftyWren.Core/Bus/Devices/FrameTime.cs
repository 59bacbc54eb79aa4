namespace LoftyWren.Core.Bus.Devices;

/// <summary>
/// How long telegrams take on a two-wire line at 9600 bit/s (ISO/IEC 14543-3-6): before each the line is free for 50 bits'
/// time, before one that can wait for three more; each octet takes 13 (start, 8, parity, stop and two of pause); after 15 more comes an acknowledgement of one octet.
/// </summary>
public static class FrameTime
{
    /// <summary>How many bits' time the line is free before a telegram, between it and its acknowledgement, and how many an octet takes.</summary>
    public const int IdleBits = 50, AckGapBits = 15, OctetBits = 13;

    /// <summary>For how many bits' time more an ordinary telegram lets others go first, and how long one waits whose receiver was busy.</summary>
    public const int PolitenessBits = 3, BusyBits = 150;

    private const double BitMicroseconds = 1e6 / 9600;

    /// <summary>The octets of a telegram to a group whose datapoint has so many bits: control, from, to, length, two of the application, its own octets where it has more than six bits, and the check.</summary>
    public static int Octets(int datapointBits) => 9 + (datapointBits <= 6 ? 0 : (datapointBits + 7) / 8);

    /// <summary>What a telegram of so many octets takes with its acknowledgement, µs.</summary>
    public static long Microseconds(int octets) => (long)Math.Round((IdleBits + (octets * OctetBits) + AckGapBits + OctetBits) * BitMicroseconds);

    /// <summary>How long so many bits take, µs.</summary>
    public static long OfBits(int bits) => (long)Math.Round(bits * BitMicroseconds);

    /// <summary>How long a telegram of so many octets occupies the line from its first bit to the end of its acknowledgement, µs.</summary>
    public static long OnTheLine(int octets) => OfBits((octets * OctetBits) + AckGapBits + OctetBits);
}
