using System.Buffers.Binary;
using System.Security.Cryptography;
using LoftyWren.Core.Bus.Lines;

namespace LoftyWren.Core.Bus.Security;

/// <summary>
/// What a telegram between two devices says, sealed so that nobody else can read or make it: AES-128 in counter mode with
/// CBC-MAC (NIST SP 800-38C), four octets of authentication. The nonce is the sequence number (six octets), from and to, and the
/// code of the service; what is authenticated besides are control octet, from and to. A sequence number comes once: whoever
/// hears one that is not above the last takes it for a recording.
/// </summary>
public static class SecureUnit
{
    /// <summary>How long a key is, and a seal.</summary>
    public const int KeyOctets = 16, SealOctets = 4;

    // After the code: control, sequence number.
    private const int Head = 2 + 1 + 6, NonceOctets = 13;
    private const byte Control = 0x10;

    /// <summary>Whether this machine can.</summary>
    public static bool IsSupported => AesCcm.IsSupported;

    /// <summary>The frame with what it says sealed.</summary>
    public static BusFrame Seal(BusFrame plain, byte[] key, long sequence)
    {
        byte[] unit = new byte[Head + plain.Unit.Length + SealOctets];
        unit[0] = (int)BusService.Secure >> 8;
        unit[1] = unchecked((byte)BusService.Secure);
        unit[2] = Control;
        WriteSequence(unit.AsSpan(3), sequence);
        using var aes = new AesCcm(key);
        aes.Encrypt(Nonce(plain, sequence), plain.Unit, unit.AsSpan(Head, plain.Unit.Length), unit.AsSpan(Head + plain.Unit.Length), Beside(plain));
        return plain with { Unit = unit };
    }

    /// <summary>The sequence number of a sealed frame; null where it is none.</summary>
    public static long? SequenceOf(BusFrame sealedFrame) => sealedFrame.Service == BusService.Secure && sealedFrame.Unit.Length >= Head + 2 + SealOctets && sealedFrame.Unit[2] == Control ? ReadSequence(sealedFrame.Unit.AsSpan(3)) : null;

    /// <summary>What a sealed frame says; null where it was not sealed with this key, or something of it was changed.</summary>
    public static BusFrame? Open(BusFrame sealedFrame, byte[] key)
    {
        if (SequenceOf(sealedFrame) is not { } sequence) return null;
        byte[] unit = new byte[sealedFrame.Unit.Length - Head - SealOctets];
        try
        {
            using var aes = new AesCcm(key);
            aes.Decrypt(Nonce(sealedFrame, sequence), sealedFrame.Unit.AsSpan(Head, unit.Length), sealedFrame.Unit.AsSpan(Head + unit.Length), unit, Beside(sealedFrame));
        }
        catch (AuthenticationTagMismatchException)
        {
            return null;
        }
        return sealedFrame with { Unit = unit };
    }

    private static byte[] Nonce(BusFrame frame, long sequence)
    {
        byte[] nonce = new byte[NonceOctets];
        WriteSequence(nonce, sequence);
        BinaryPrimitives.WriteUInt16BigEndian(nonce.AsSpan(6), frame.From.Raw);
        BinaryPrimitives.WriteUInt16BigEndian(nonce.AsSpan(8), frame.To);
        nonce[10] = (byte)(frame.IsToGroup ? 0x80 : 0);
        BinaryPrimitives.WriteUInt16BigEndian(nonce.AsSpan(11), (ushort)BusService.Secure);
        return nonce;
    }

    private static byte[] Beside(BusFrame frame)
    {
        byte[] beside = new byte[6];
        beside[0] = Control;
        BinaryPrimitives.WriteUInt16BigEndian(beside.AsSpan(1), frame.From.Raw);
        BinaryPrimitives.WriteUInt16BigEndian(beside.AsSpan(3), frame.To);
        beside[5] = (byte)(frame.IsToGroup ? 0x80 : 0);
        return beside;
    }

    private static void WriteSequence(Span<byte> to, long sequence)
    {
        for (int i = 0; i < 6; i++) to[i] = (byte)(sequence >> (8 * (5 - i)));
    }

    private static long ReadSequence(ReadOnlySpan<byte> from)
    {
        long sequence = 0;
        for (int i = 0; i < 6; i++) sequence = (sequence << 8) | from[i];
        return sequence;
    }
}
