using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace LoftyWren.Core.Records;

/// <summary>The stable identity of one record: 1 to 64 characters of a–z, 0–9 and hyphen. It never changes and is never reused.</summary>
[JsonConverter(typeof(RecordIdJson))]
public readonly record struct RecordId(string Value) : IComparable<RecordId>
{
    private const string Alphabet = "0123456789abcdefghjkmnpqrstvwxyz";

    // Random bytes are fetched for many ids at once.
    [ThreadStatic]
    private static byte[]? _random;

    [ThreadStatic]
    private static int _used;

    /// <summary>A fresh identity with 80 random bits behind a readable prefix, such as <c>room-7k2…</c>.</summary>
    public static RecordId New(string prefix)
    {
        if (_random is null || _used + 16 > _random.Length) (_random, _used) = (RandomNumberGenerator.GetBytes(4096), 0);
        ReadOnlySpan<byte> random = _random.AsSpan(_used, 16);
        _used += 16;
        Span<char> text = stackalloc char[16];
        for (int i = 0; i < 16; i++) text[i] = Alphabet[random[i] & 31];
        return new RecordId($"{prefix}-{text}");
    }

    /// <summary>Whether the text may be an identity. Anything else is refused at the door.</summary>
    public static bool IsValid(string? text)
    {
        if (string.IsNullOrEmpty(text) || text.Length > 64) return false;
        foreach (char c in text)
        {
            if (c is not ((>= 'a' and <= 'z') or (>= '0' and <= '9') or '-')) return false;
        }
        return true;
    }

    /// <inheritdoc/>
    public bool Equals(RecordId other) => string.Equals(Value, other.Value);

    /// <inheritdoc/>
    public override int GetHashCode() => Value?.GetHashCode() ?? 0;

    /// <inheritdoc/>
    public int CompareTo(RecordId other) => string.CompareOrdinal(Value, other.Value);

    /// <inheritdoc/>
    public override string ToString() => Value ?? "";
}

internal sealed class RecordIdJson : JsonConverter<RecordId>
{
    public override RecordId Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => Parse(reader.GetString());

    public override void Write(Utf8JsonWriter writer, RecordId value, JsonSerializerOptions options) => writer.WriteStringValue(value.Value);

    public override RecordId ReadAsPropertyName(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => Parse(reader.GetString());

    public override void WriteAsPropertyName(Utf8JsonWriter writer, RecordId value, JsonSerializerOptions options) => writer.WritePropertyName(value.Value);

    private static RecordId Parse(string? text) => RecordId.IsValid(text)
        ? new RecordId(text!)
        : throw new JsonException($"‘{text}’ is not a record id: use 1 to 64 of a–z, 0–9 and hyphen.");
}
