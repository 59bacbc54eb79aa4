using System.Security.Cryptography;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Security;
using LoftyWren.Core.Bus.Topology;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Certificates of devices, sealed telegrams, and devices that take orders only over them.</summary>
public sealed class SecurityTests
{
    private static readonly string Serial = BusSerial.Label(0x00FA_1000_0105);
    private static readonly IndividualAddress Tool = IndividualAddress.Of(1, 1, 250), At = IndividualAddress.Of(1, 1, 5);

    private static readonly byte[] Key = [.. Enumerable.Range(0, 16).Select(i => (byte)(i * 7))];

    // RFC 4648 by hand: the octets 00 FA 10 00 01 05 are the bits 00000 00011 11101 00001 …, A D 5 B …
    [Fact]
    public void A_certificate_is_read_as_it_is_printed_however_it_is_typed()
    {
        string printed = BusCertificate.Of(Serial, Key).ToString();
        Assert.StartsWith("AD5BAA", printed, StringComparison.Ordinal);
        Assert.Equal(39 + 6, printed.Length);
        foreach (string typed in (string[])[printed, printed.ToLowerInvariant(), printed.Replace("-", "", StringComparison.Ordinal), printed.Replace('-', ' ')])
        {
            BusCertificate read = BusCertificate.Read(typed).Certificate!;
            Assert.Equal((Serial, Convert.ToHexString(Key)), (read.Serial, Convert.ToHexString(read.Key)));
        }
    }

    /// <summary>Law: no single wrong letter, and no two neighbours that changed places, pass for a certificate.</summary>
    [Fact]
    public void What_was_mistyped_does_not_add_up()
    {
        string plain = BusCertificate.Of(Serial, Key).ToString().Replace("-", "", StringComparison.Ordinal);
        for (int i = 0; i < plain.Length; i++)
        {
            foreach (char other in "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567".Where(c => c != plain[i])) Assert.Null(BusCertificate.Read($"{plain[..i]}{other}{plain[(i + 1)..]}").Certificate);
            if (i + 1 < plain.Length && plain[i] != plain[i + 1]) Assert.Null(BusCertificate.Read($"{plain[..i]}{plain[i + 1]}{plain[i]}{plain[(i + 2)..]}").Certificate);
        }
        Assert.Contains("no letter of a certificate", BusCertificate.Read(plain.Replace(plain[0], '0')).Trouble!, StringComparison.Ordinal);
        Assert.Contains("39 letters", BusCertificate.Read(plain[..20]).Trouble!, StringComparison.Ordinal);
    }

    [Fact]
    public void A_sticker_is_read_from_its_square_code_its_label_or_its_certificate()
    {
        BusCertificate certificate = BusCertificate.Of(Serial, Key);
        var sticker = new BusSticker(Serial, certificate);
        foreach (string text in (string[])[sticker.Code, sticker.Code.ToLowerInvariant(), certificate.ToString()])
        {
            BusSticker read = BusSticker.Read(text).Sticker!;
            Assert.Equal((Serial, certificate.ToString()), (read.Label, read.Certificate!.ToString()));
        }
        Assert.Equal((Serial, null), BusSticker.Read(new BusSticker(Serial, null).Code).Sticker is { } bare ? (bare.Label, bare.Certificate) : default);
        Assert.Null(BusSticker.Read(Serial).Sticker!.Certificate);
        Assert.Contains("is that of the device with the label", BusSticker.Read($"BUS1:{BusSerial.Plain(BusSerial.Label(7))}:{certificate}").Trouble!, StringComparison.Ordinal);
        foreach (string bad in (string[])["", "BUS1:", "BUS1:::", "http://example.test", new string('A', 39), "BUS1:00FA10000105BD:", "ÄÖ"]) Assert.NotNull(BusSticker.Read(bad).Trouble);
    }

    // The known answer of NIST SP 800-38C, example 1 (128-bit key, 7-octet nonce, 4-octet tag), that the machine's own cipher counts as that standard says.
    [Fact]
    public void The_cipher_is_that_of_the_standard()
    {
        using var aes = new AesCcm(Convert.FromHexString("404142434445464748494A4B4C4D4E4F"));
        byte[] cipher = new byte[4], tag = new byte[4];
        aes.Encrypt(Convert.FromHexString("10111213141516"), Convert.FromHexString("20212223"), cipher, tag, Convert.FromHexString("0001020304050607"));
        Assert.Equal("7162015B4DAC255D", Convert.ToHexString(cipher) + Convert.ToHexString(tag));
    }

    /// <summary>Law: what is sealed opens with its key alone, and only as it was sealed: any octet changed, another sender or receiver, and it does not.</summary>
    [Fact]
    public void What_is_sealed_opens_whole_or_not_at_all()
    {
        for (int length = 2; length < 60; length += 7)
        {
            BusFrame plain = BusFrame.ToDevice(At, [.. Enumerable.Range(0, length).Select(i => (byte)(i + 3))]) with { From = Tool };
            BusFrame closed = SecureUnit.Seal(plain, Key, 1_000_000_000_000 + length);
            Assert.Equal(BusService.Secure, closed.Service);
            Assert.Equal(1_000_000_000_000 + length, SecureUnit.SequenceOf(closed));
            Assert.Equal(plain.Unit, SecureUnit.Open(closed, Key)!.Unit);
            Assert.Equal(plain.Unit, SecureUnit.Open(BusFrame.FromOctets(closed.ToOctets())!, Key)!.Unit);
            Assert.Null(SecureUnit.Open(closed, RandomNumberGenerator.GetBytes(16)));
            for (int i = 2; i < closed.Unit.Length; i++)
            {
                byte[] changed = [.. closed.Unit];
                changed[i] ^= 0x20;
                Assert.Null(SecureUnit.Open(closed with { Unit = changed }, Key));
            }
            Assert.Null(SecureUnit.Open(closed with { From = At }, Key));
            Assert.Null(SecureUnit.Open(closed with { To = Tool.Raw }, Key));
            Assert.Null(SecureUnit.Open(closed with { Unit = closed.Unit[..^1] }, Key));
        }
    }

    private sealed class Owner : IBusUnitOwner
    {
        public List<BusFrame> Said { get; } = [];

        public void Wants(BusUnit unit, BusFrame frame, long microseconds) => Said.Add(frame);

        public void Moved(BusUnit unit)
        {
        }
    }

    private readonly Owner _owner = new();
    private long _sequence = 10;

    private BusUnit Unit(string description = "switch-12")
    {
        var unit = new BusUnit("u", DescriptionShelf.Shipped.Single(d => d.Id == description), Serial, _owner, 0);
        unit.Write(0, ApplicationImage.Empty, At);
        _owner.Said.Clear();
        return unit;
    }

    // What a device answers to a unit, sealed with a key where there is one; null where it says nothing.
    private BusFrame? Ask(BusUnit device, byte[] unit, byte[]? key = null, long? sequence = null)
    {
        _owner.Said.Clear();
        BusFrame frame = BusFrame.ToDevice(At, unit) with { From = Tool };
        device.Hear(1000, key is null ? frame : SecureUnit.Seal(frame, key, sequence ?? ++_sequence));
        return _owner.Said.Count == 0 ? null : key is null ? _owner.Said[0] : SecureUnit.Open(_owner.Said[0], key);
    }

    private static bool IsTaken(BusFrame? answer) => answer is not null && BusPids.Read(answer) is { Count: > 0 };

    private static byte[] Drives(float value) => BusPids.Write(BusPart.Application, BusPids.Drive, [.. BitConverter.GetBytes(value).Reverse()], 2);

    [Fact]
    public void A_secured_device_takes_orders_from_nobody_without_its_key()
    {
        BusUnit device = Unit();
        byte[] certified = BusCertificate.OfStandIn(Serial).Key, key = RandomNumberGenerator.GetBytes(16);
        byte[] secure = BusPids.Write(BusPart.Device, BusPids.ToolKey, key);
        Assert.True(IsTaken(Ask(device, Drives(1))));
        // The key is taken sealed with that of the certificate, not openly, and not with another.
        Assert.False(IsTaken(Ask(device, secure)));
        Assert.Null(Ask(device, secure, Key));
        Assert.False(device.IsSecured);
        Assert.True(IsTaken(Ask(device, secure, certified)));
        Assert.True(device.IsSecured);
        // From now on: what it is anybody may ask, the rest only whoever has the key; the certificate's is no longer taken.
        Assert.Equal([1], BusPids.Read(Ask(device, BusPids.Ask(BusPart.Device, BusPids.Secured))!)!.Value.Octets);
        Assert.Equal(BusSerial.Octets(Serial), BusPids.Read(Ask(device, BusPids.Ask(BusPart.Device, BusPids.Serial))!)!.Value.Octets);
        foreach (byte[] order in (byte[][])[Drives(1), BusPids.Write(BusPart.Application, BusPids.Load, [(byte)LoadOrder.Unload]), BusPids.Write(BusPart.Device, BusPids.Programming, [1]), BusPids.Ask(BusPart.Application, BusPids.Values), secure]) Assert.False(IsTaken(Ask(device, order)));
        Assert.Null(Ask(device, Drives(0), certified));
        Assert.True(IsTaken(Ask(device, Drives(0), key)));
        Assert.Equal(0, device.HandOf(1));
        // Its key is never told.
        Assert.False(IsTaken(Ask(device, BusPids.Ask(BusPart.Device, BusPids.ToolKey), key)));
        // An answer has the number of its question, so that none that was recorded stands for another.
        Ask(device, BusPids.Ask(BusPart.Application, BusPids.Load), key, _sequence += 5);
        Assert.Equal(_sequence, SecureUnit.SequenceOf(_owner.Said[0]));
        // Another address by its label it takes from nobody; only while somebody stands before it.
        BusFrame elsewhere = BusFrame.ToAll(BusFrame.Say(BusService.SerialWrite, [.. BusSerial.Octets(Serial), 0x11, 0x63, 0, 0, 0, 0])) with { From = Tool };
        device.Hear(2000, elsewhere);
        Assert.Equal(At, device.Address);
        device.Press();
        device.Hear(2000, elsewhere);
        Assert.Equal(IndividualAddress.Of(1, 1, 0x63), device.Address);
        device.Hear(2000, BusFrame.ToAll(BusFrame.Say(BusService.AddressWrite, [(byte)(At.Raw >> 8), (byte)At.Raw])) with { From = Tool });
        device.Press();
        // What was heard once is no order a second time.
        long last = _sequence;
        Assert.Null(Ask(device, Drives(1), key, last));
        Assert.Null(Ask(device, Drives(1), key, last - 1));
        Assert.Equal(0, device.HandOf(1));
        // Over a restart it stays so; its key does not stand in what is kept.
        BusUnitMemory memory = device.Remember();
        string kept = System.Text.Json.JsonSerializer.Serialize(memory, Core.Records.RecordJson.Options);
        Assert.DoesNotContain(Convert.ToHexString(key), kept, StringComparison.OrdinalIgnoreCase);
        Assert.DoesNotContain(Convert.ToBase64String(key), kept, StringComparison.Ordinal);
        BusUnit again = new("u", device.Description, Serial, _owner, 0);
        again.Recall(memory, true);
        Assert.False(IsTaken(Ask(again, Drives(1))));
        Assert.Null(Ask(again, Drives(1), key, last));
        Assert.True(IsTaken(Ask(again, Drives(1), key)));
        // Held at its button it is as out of its box.
        again.Reset(2000);
        Assert.False(again.IsSecured);
        Assert.Equal((IndividualAddress.Factory, LoadState.Empty), (again.Address, again.State));
    }

    [Fact]
    public void A_device_that_cannot_be_secured_takes_no_key()
    {
        BusUnit device = Unit(DescriptionShelf.Shipped.First(d => !d.CanBeSecured && d.Role == LineRole.Device).Id);
        Assert.Null(Ask(device, BusPids.Write(BusPart.Device, BusPids.ToolKey, Key), BusCertificate.OfStandIn(Serial).Key));
        Assert.False(device.IsSecured);
    }

    /// <summary>Law: whatever octets come as a sealed telegram, nothing is taken and nothing breaks.</summary>
    [Fact]
    public void Hostile_seals_break_nothing()
    {
        BusUnit device = Unit();
        var random = new Random(3);
        for (int i = 0; i < 5000; i++)
        {
            byte[] unit = new byte[random.Next(2, 60)];
            random.NextBytes(unit);
            (unit[0], unit[1]) = ((int)BusService.Secure >> 8, unchecked((byte)BusService.Secure));
            if (unit.Length > 2 && i % 2 == 0) unit[2] = 0x10;
            Assert.Null(Ask(device, unit));
        }
        Assert.False(device.IsSecured);
    }
}
