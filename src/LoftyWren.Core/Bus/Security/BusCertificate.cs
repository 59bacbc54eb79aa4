using System.Security.Cryptography;
using System.Text;
using LoftyWren.Core.Bus.Topology;

namespace LoftyWren.Core.Bus.Security;

/// <summary>
/// What is printed on the sticker of a device that can be secured: its six octets of serial number, the sixteen of the key it
/// left the factory with, and two that check both (CRC-16 of polynomial 1021 hex, from FFFF hex), written in base 32 (RFC 4648)
/// in groups of six letters.
/// </summary>
public sealed class BusCertificate
{
    private const int Letters = 39, Group = 6;
    private const string Alphabet = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567";
    private readonly byte[] _serial, _key;

    private BusCertificate(byte[] serial, byte[] key) => (_serial, _key) = (serial, key);

    /// <summary>The label of the device that it is of; see <see cref="BusSerial"/>.</summary>
    public string Serial => BusSerial.Label(_serial);

    /// <summary>The key.</summary>
    public byte[] Key => [.. _key];

    /// <summary>The certificate of a device with a label and a key.</summary>
    public static BusCertificate Of(string serial, byte[] key) => key.Length == SecureUnit.KeyOctets ? new(BusSerial.Octets(serial), [.. key]) : throw new ArgumentException($"A key has {SecureUnit.KeyOctets} octets.", nameof(key));

    /// <summary>The certificate that a device of the virtual site left its factory with. Such devices are stand-ins: their keys follow from their labels, so that stickers need not be kept.</summary>
    public static BusCertificate OfStandIn(string serial) => Of(serial, HMACSHA256.HashData("virtual site"u8, BusSerial.Octets(serial))[..SecureUnit.KeyOctets]);

    /// <summary>Reads one as people type it: with or without hyphens, in small letters or large. Or what is wrong with it.</summary>
    public static (BusCertificate? Certificate, string? Trouble) Read(string text)
    {
        string plain = new([.. text.ToUpperInvariant().Where(c => c is not ('-' or ' '))]);
        // A nought is no letter of base 32, nor are one, eight and nine.
        if (plain.FirstOrDefault(c => !Alphabet.Contains(c, StringComparison.Ordinal)) is var other and not '\0') return (null, $"‘{other}’ is no letter of a certificate: there are A–Z and 2–7. What looks like a nought is the letter O, what looks like a one the letter I.");
        if (plain.Length != Letters) return (null, $"A certificate has {Letters} letters, as on the sticker; these are {plain.Length}.");
        byte[] octets = new byte[24];
        int bits = 0, held = 0, at = 0;
        foreach (char letter in plain)
        {
            held = (held << 5) | Alphabet.IndexOf(letter, StringComparison.Ordinal);
            bits += 5;
            if (bits < 8) continue;
            bits -= 8;
            octets[at++] = (byte)(held >> bits);
            held &= (1 << bits) - 1;
        }
        if (held != 0 || Check(octets.AsSpan(0, 22)) != ((octets[22] << 8) | octets[23])) return (null, "The certificate does not add up: a letter is wrong, or two have changed places. Read the sticker again.");
        return (new BusCertificate(octets[..6], octets[6..22]), null);
    }

    /// <summary>As it is printed.</summary>
    public override string ToString()
    {
        byte[] octets = [.. _serial, .. _key, 0, 0];
        int check = Check(octets.AsSpan(0, 22));
        (octets[22], octets[23]) = ((byte)(check >> 8), (byte)check);
        var text = new StringBuilder();
        int bits = 0, held = 0, letters = 0;
        void Letter(int value)
        {
            if (letters > 0 && letters % Group == 0) text.Append('-');
            text.Append(Alphabet[value]);
            letters++;
        }
        foreach (byte octet in octets)
        {
            held = (held << 8) | octet;
            for (bits += 8; bits >= 5;)
            {
                bits -= 5;
                Letter(held >> bits);
                held &= (1 << bits) - 1;
            }
        }
        if (bits > 0) Letter(held << (5 - bits));
        return text.ToString();
    }

    private static int Check(ReadOnlySpan<byte> octets)
    {
        int check = 0xFFFF;
        foreach (byte octet in octets)
        {
            check ^= octet << 8;
            for (int bit = 0; bit < 8; bit++) check = ((check & 0x8000) != 0 ? (check << 1) ^ 0x1021 : check << 1) & 0xFFFF;
        }
        return check;
    }
}
