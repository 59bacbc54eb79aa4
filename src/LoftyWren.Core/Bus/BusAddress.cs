using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace LoftyWren.Core.Bus;

/// <summary>An individual address (ISO/IEC 14543-3): area, line and device in 4, 4 and 8 bits, written 1.2.34. Device 0 is the line's coupler.</summary>
[JsonConverter(typeof(IndividualAddressJson))]
public readonly record struct IndividualAddress(ushort Raw) : IComparable<IndividualAddress>
{
    /// <summary>What a device has that was never given one: 15.15.255.</summary>
    public static IndividualAddress Factory { get; } = new(0xFFFF);

    /// <summary>The highest area and line, and the highest device.</summary>
    public const int MostArea = 15, MostLine = 15, MostDevice = 255;

    /// <summary>The address of a device on a line.</summary>
    /// <exception cref="ArgumentOutOfRangeException">A part is too large.</exception>
    public static IndividualAddress Of(int area, int line, int device)
    {
        if (area is < 0 or > MostArea) throw new ArgumentOutOfRangeException(nameof(area));
        if (line is < 0 or > MostLine) throw new ArgumentOutOfRangeException(nameof(line));
        if (device is < 0 or > MostDevice) throw new ArgumentOutOfRangeException(nameof(device));
        return new((ushort)((area << 12) | (line << 8) | device));
    }

    /// <summary>Its area, 0 to 15.</summary>
    public int Area => Raw >> 12;

    /// <summary>Its line within the area, 0 to 15.</summary>
    public int Line => (Raw >> 8) & 0xF;

    /// <summary>Its number on the line, 0 to 255.</summary>
    public int Device => Raw & 0xFF;

    /// <summary>
    /// How much later than its set delay a device of this address sends its first telegrams after bus return, ms: 100 ms for each
    /// number on the line, room for five telegrams of 20 ms, and 6 ms for each line, so that neither the devices of a line nor
    /// those of the same number on several lines transmit at once.
    /// </summary>
    public long StaggerMilliseconds => this == Factory ? 0 : (Device * 100) + (((Area * 16) + Line) * 6 % 100);

    /// <summary>Whether another is on the same line.</summary>
    public bool IsOnLineOf(IndividualAddress other) => Raw >> 8 == other.Raw >> 8;

    /// <summary>Reads 1.2.34; null for anything else.</summary>
    public static IndividualAddress? Read(string? text)
    {
        string[] parts = (text ?? "").Trim().Split('.');
        return parts.Length == 3 && Part(parts[0], MostArea, out int area) && Part(parts[1], MostLine, out int line) && Part(parts[2], MostDevice, out int device) ? Of(area, line, device) : null;
    }

    /// <inheritdoc/>
    public int CompareTo(IndividualAddress other) => Raw.CompareTo(other.Raw);

    /// <inheritdoc/>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Area}.{Line}.{Device}");

    internal static bool Part(string text, int most, out int number) => int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out number) && number <= most && text.Length <= 4;
}

/// <summary>A group address (ISO/IEC 14543-3) in three levels of 5, 3 and 8 bits, written 1/2/34. 0/0/0 is that of broadcasts and nobody's.</summary>
[JsonConverter(typeof(GroupNumberJson))]
public readonly record struct GroupNumber(ushort Raw) : IComparable<GroupNumber>
{
    /// <summary>The highest of each level.</summary>
    public const int MostMain = 31, MostMiddle = 7, MostSub = 255;

    /// <summary>The address of three levels.</summary>
    /// <exception cref="ArgumentOutOfRangeException">A level is too large.</exception>
    public static GroupNumber Of(int main, int middle, int sub)
    {
        if (main is < 0 or > MostMain) throw new ArgumentOutOfRangeException(nameof(main));
        if (middle is < 0 or > MostMiddle) throw new ArgumentOutOfRangeException(nameof(middle));
        if (sub is < 0 or > MostSub) throw new ArgumentOutOfRangeException(nameof(sub));
        return new((ushort)((main << 11) | (middle << 8) | sub));
    }

    /// <summary>The first level, 0 to 31.</summary>
    public int Main => Raw >> 11;

    /// <summary>The second level, 0 to 7.</summary>
    public int Middle => (Raw >> 8) & 7;

    /// <summary>The third level, 0 to 255.</summary>
    public int Sub => Raw & 0xFF;

    /// <summary>Reads 1/2/34; null for anything else.</summary>
    public static GroupNumber? Read(string? text)
    {
        string[] parts = (text ?? "").Trim().Split('/');
        return parts.Length == 3 && IndividualAddress.Part(parts[0], MostMain, out int main) && IndividualAddress.Part(parts[1], MostMiddle, out int middle) && IndividualAddress.Part(parts[2], MostSub, out int sub) ? Of(main, middle, sub) : null;
    }

    /// <inheritdoc/>
    public int CompareTo(GroupNumber other) => Raw.CompareTo(other.Raw);

    /// <inheritdoc/>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Main}/{Middle}/{Sub}");
}

internal sealed class IndividualAddressJson : JsonConverter<IndividualAddress>
{
    public override IndividualAddress Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
        IndividualAddress.Read(reader.GetString()) ?? throw new JsonException("An individual address is written area.line.device, such as 1.2.34: up to 15, 15 and 255.");

    public override void Write(Utf8JsonWriter writer, IndividualAddress value, JsonSerializerOptions options) => writer.WriteStringValue(value.ToString());
}

internal sealed class GroupNumberJson : JsonConverter<GroupNumber>
{
    public override GroupNumber Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) =>
        GroupNumber.Read(reader.GetString()) ?? throw new JsonException("A group address is written in three levels, such as 1/2/34: up to 31, 7 and 255.");

    public override void Write(Utf8JsonWriter writer, GroupNumber value, JsonSerializerOptions options) => writer.WriteStringValue(value.ToString());
}
