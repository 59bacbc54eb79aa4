using System.Buffers.Binary;
using System.Text.Json;
using LoftyWren.Core.Records;

namespace LoftyWren.Protocols.Contact;

/// <summary>
/// A frame on the connection to a controller: two lengths of four bytes, most significant first, then a head as JSON and a
/// body as bytes. Who reads says how long each may be; what is longer ends the connection before anything is taken in.
/// </summary>
public sealed record ContactFrame(byte[] Head, byte[] Body)
{
    /// <summary>The most bytes of a head; of a body to a controller; of a body from one.</summary>
    public const int MostHead = 256 * 1024, MostPiece = 64 * 1024, MostBody = 64 * 1024 * 1024;

    /// <summary>A frame with a head of some type.</summary>
    public static ContactFrame Of<T>(T head, ReadOnlyMemory<byte> body = default) => new(JsonSerializer.SerializeToUtf8Bytes(head, RecordJson.Options), body.ToArray());

    /// <summary>What its head says.</summary>
    /// <exception cref="JsonException">It says something else.</exception>
    public T Read<T>() => JsonSerializer.Deserialize<T>(Head, RecordJson.Options) ?? throw new JsonException("The head of a frame is missing.");

    /// <summary>Writes it.</summary>
    public async Task WriteTo(Stream stream, CancellationToken stop)
    {
        byte[] all = new byte[8 + Head.Length + Body.Length];
        BinaryPrimitives.WriteInt32BigEndian(all, Head.Length);
        BinaryPrimitives.WriteInt32BigEndian(all.AsSpan(4), Body.Length);
        Head.CopyTo(all, 8);
        Body.CopyTo(all, 8 + Head.Length);
        await stream.WriteAsync(all, stop);
        await stream.FlushAsync(stop);
    }

    /// <summary>Reads the next, or null where the connection ended in order.</summary>
    /// <exception cref="EndOfStreamException">It broke off within a frame.</exception>
    /// <exception cref="InvalidDataException">It is longer than may be.</exception>
    public static async Task<ContactFrame?> ReadFrom(Stream stream, int mostBody, CancellationToken stop)
    {
        byte[] lengths = new byte[8];
        int first = await stream.ReadAtLeastAsync(lengths, 8, throwOnEndOfStream: false, stop);
        if (first == 0) return null;
        if (first < 8) throw new EndOfStreamException("The connection broke off within a frame.");
        int head = BinaryPrimitives.ReadInt32BigEndian(lengths), body = BinaryPrimitives.ReadInt32BigEndian(lengths.AsSpan(4));
        if (head is < 0 or > MostHead || body < 0 || body > mostBody) throw new InvalidDataException($"A frame of {head} and {body} bytes is longer than may be.");
        byte[] headBytes = new byte[head], bodyBytes = new byte[body];
        await stream.ReadExactlyAsync(headBytes, stop);
        await stream.ReadExactlyAsync(bodyBytes, stop);
        return new ContactFrame(headBytes, bodyBytes);
    }
}
