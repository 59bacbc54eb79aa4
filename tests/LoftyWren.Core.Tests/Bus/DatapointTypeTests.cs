using LoftyWren.Core.Bus.Datapoints;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>
/// Datapoint types of ISO/IEC 14543-3 (KNX 03_07_02). The octets expected are worked out by hand from the standard's formats:
/// two-octet floats as 0.01·M·2^E, percentages as 255ths, times and dates by their bit fields.
/// </summary>
public sealed class DatapointTypeTests
{
    [Theory]
    [InlineData("1.001", "on", "01")]
    [InlineData("1.008", "down", "01")]
    [InlineData("2.001", "forced, on", "03")]
    [InlineData("2.001", "forced, off", "02")]
    [InlineData("3.007", "brighter, 1", "09")]
    [InlineData("3.007", "darker, 0", "00")]
    [InlineData("3.008", "down, 7", "0F")]
    [InlineData("4.001", "65", "41")]
    [InlineData("5.001", "100 %", "FF")]
    [InlineData("5.001", "20", "33")]
    [InlineData("5.003", "180 °", "80")]
    [InlineData("5.010", "200 pulses", "C8")]
    [InlineData("6.001", "-1 %", "FF")]
    [InlineData("6.010", "-128", "80")]
    [InlineData("6.020", "set, set, clear, set, set, mode 1", "22")]
    [InlineData("7.003", "120 ms", "000C")]
    [InlineData("7.013", "400 lx", "0190")]
    [InlineData("8.010", "-0.5 %", "FFCE")]
    [InlineData("8.011", "-90 °", "FFA6")]
    // 2150 = 1075 · 2¹; −3000 = −1500 · 2¹, the standard's own example of −30 °C.
    [InlineData("9.001", "21.5 °C", "0C33")]
    [InlineData("9.001", "-30 °C", "8A24")]
    [InlineData("9.001", "0", "0000")]
    [InlineData("9.004", "1000 lx", "361B")]
    [InlineData("10.001", "Tue 08:50:00", "483200")]
    [InlineData("10.001", "23:59:59", "173B3B")]
    [InlineData("11.001", "2026-04-14", "0E041A")]
    [InlineData("11.001", "1999-12-31", "1F0C63")]
    [InlineData("12.001", "4294967295", "FFFFFFFF")]
    [InlineData("13.002", "-1.5 m³/h", "FFFFC568")]
    [InlineData("13.010", "-1 Wh", "FFFFFFFF")]
    [InlineData("14.056", "100 W", "42C80000")]
    [InlineData("14.068", "-12.5 °C", "C1480000")]
    [InlineData("15.000", "digit 6 1, digit 5 2, digit 4 3, digit 3 4, digit 2 5, digit 1 6, no error, granted, left to right, plain, index 5", "12345645")]
    [InlineData("16.000", "Kiln", "4B696C6E00000000000000000000")]
    [InlineData("16.001", "50 °C", "353020B043000000000000000000")]
    [InlineData("17.001", "3", "03")]
    [InlineData("18.001", "store, scene 5", "85")]
    [InlineData("19.001", "2026-04-14 Tue 08:50:30, summer time, synchronised", "7E040E48321E0180")]
    [InlineData("20.102", "economy", "03")]
    [InlineData("20.105", "no demand", "14")]
    [InlineData("29.010", "-2 Wh", "FFFFFFFFFFFFFFFE")]
    [InlineData("206.100", "after 90 min, comfort", "005A01")]
    [InlineData("217.001", "magic 1, version 2, revision 3", "0883")]
    [InlineData("219.001", "log number 7, priority 1, application 11, error class 2, attributes 5, status 3", "07010B020503")]
    [InlineData("229.001", "value -1000, unit code 19, status 0", "FFFFFC181300")]
    [InlineData("232.600", "red 255, green 128, blue 0", "FF8000")]
    [InlineData("235.001", "energy 1500 Wh, tariff 2, energy valid, tariff not valid", "000005DC0201")]
    [InlineData("242.600", "x 0.5, y 1, brightness 100 %, colour valid, brightness valid", "8000FFFFFF03")]
    [InlineData("249.600", "over 2.5 s, temperature 3000 K, brightness 20 %, time valid, temperature valid, brightness not valid", "00190BB83306")]
    [InlineData("251.600", "red 100 %, green 20 %, blue 0 %, white 100 %, red valid, green valid, blue not valid, white valid", "FF3300FF000D")]
    public void Is_coded_as_the_standard_says(string key, string text, string hex)
    {
        DatapointType type = DatapointType.Find(key)!;
        byte[] octets = new byte[type.Octets];
        Assert.Null(type.Read(text, octets));
        Assert.Equal(hex, Convert.ToHexString(octets));
        byte[] again = new byte[type.Octets];
        Assert.Null(type.Read(type.Say(octets), again));
        Assert.Equal(hex, Convert.ToHexString(again));
    }

    [Fact]
    public void The_main_types_that_are_asked_for_are_there()
    {
        int[] mains = [.. Enumerable.Range(1, 20), 29, 206, 217, 219, 229, 232, 235, 242, 249, 251];
        Assert.Equal(mains, DatapointType.All.Select(t => t.Main).Distinct());
        Assert.Equal(DatapointType.All.Count, DatapointType.All.Select(t => t.Key).Distinct().Count());
    }

    public static TheoryData<string> Keys => [.. DatapointType.All.Select(t => t.Key)];

    /// <summary>Every part of every type: its limits go and come back, one step beyond them is refused, in words.</summary>
    [Theory]
    [MemberData(nameof(Keys))]
    public void Limits_go_and_come_back_and_what_is_beyond_is_refused(string key)
    {
        DatapointType type = DatapointType.Find(key)!;
        byte[] octets = new byte[16];
        if (type.IsText)
        {
            Assert.Null(type.Read(new string('z', type.Octets), octets));
            Assert.Contains("14 letters", type.Read(new string('z', type.Octets + 1), octets));
            Assert.Contains("no letter", type.Read("→", octets));
            return;
        }
        double[] well = [.. type.Fields.Select(f => f.Texts?.Keys.First() ?? Math.Clamp(0, f.Low, f.High))];
        for (int i = 0; i < type.Fields.Count; i++)
        {
            DatapointField field = type.Fields[i];
            foreach (double limit in field.Texts is { } texts ? texts.Keys.Select(k => (double)k) : [field.Low, field.High])
            {
                double[] values = [.. well];
                values[i] = limit;
                Assert.Null(type.Encode(values, octets));
                double back = type.Decode(octets)[i];
                // A half float near its limits goes in steps of 0.01 · 2^15.
                double step = field.Code == FieldCode.Half ? 327.68 : field.Code == FieldCode.Single ? Math.Abs(limit) * 1e-7 : field.Step;
                Assert.InRange(back, limit - (step / 2) - 1e-9, limit + (step / 2) + 1e-9);
            }
            double beyond = field.Texts is not null ? field.Texts.Keys.Max() + 1 : field.Code == FieldCode.Single ? double.PositiveInfinity : field.High + Math.Max(field.Step * 1.01, Math.Abs(field.High) * 1e-9);
            double[] wrong = [.. well];
            wrong[i] = beyond;
            octets.AsSpan().Fill(0xAA);
            Assert.NotNull(type.Encode(wrong, octets));
            Assert.All(octets, o => Assert.Equal(0xAA, o));
            if (field.Texts is null)
            {
                wrong[i] = field.Low - Math.Max(field.Step * 1.01, Math.Abs(field.Low) * 1e-9) - (field.Code == FieldCode.Single ? double.PositiveInfinity : 0);
                Assert.NotNull(type.Encode(wrong, octets));
            }
        }
        Assert.NotEmpty(type.Name);
    }

    /// <summary>A law: whatever valid octets there are, what is printed is read back to the same octets.</summary>
    [Theory]
    [MemberData(nameof(Keys))]
    public void What_is_printed_is_read_back(string key)
    {
        DatapointType type = DatapointType.Find(key)!;
        var chance = new Random(type.GetHashCode());
        byte[] octets = new byte[type.Octets], again = new byte[type.Octets];
        for (int n = 0; n < 400; n++)
        {
            if (type.IsText) Assert.Null(type.Read(new string([.. Enumerable.Range(0, chance.Next(1, 15)).Select(_ => (char)chance.Next(33, 127))]), octets));
            else
            {
                double[] values = [.. type.Fields.Select(f => f.Texts is { } texts ? texts.Keys.ElementAt(chance.Next(texts.Count)) : f.Code == FieldCode.Single ? (float)((chance.NextDouble() - 0.5) * Math.Pow(10, chance.Next(-20, 20))) : f.Low + (chance.NextDouble() * (f.High - f.Low)))];
                Assert.Null(type.Encode(values, octets));
            }
            Assert.Null(type.Read(type.Say(octets), again));
            Assert.Equal(Convert.ToHexString(octets), Convert.ToHexString(again));
            if (!type.IsText && type.Bits <= 48)
            {
                type.Write(type.ToNumber(octets), again);
                Assert.Equal(Convert.ToHexString(octets), Convert.ToHexString(again));
            }
        }
    }

    [Fact]
    public void What_cannot_be_read_is_answered_with_what_would_be_right()
    {
        byte[] octets = new byte[16];
        Assert.Equal("‘warm’ is no value. Write a number from -273 to 670433.28 °C.", DatapointType.Find("9.001")!.Read("warm", octets));
        Assert.Equal("‘sideways’ is no state. There are up, down.", DatapointType.Find("1.008")!.Read("sideways", octets));
        Assert.Contains("Write it like", DatapointType.Find("10.001")!.Read("25:00", octets));
        Assert.Contains("2 parts with commas between: direction, step", DatapointType.Find("3.007")!.Read("3", octets));
        Assert.Equal("no value", DatapointType.Find("9.001")!.Say([0x7F, 0xFF]));
        Assert.Contains("too short", DatapointType.Find("9.001")!.Say([0x7F]));
    }
}
