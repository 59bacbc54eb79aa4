using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using LoftyWren.Core.Records;

namespace LoftyWren.Protocols.Contact;

/// <summary>A controller that answered when it was asked who is there.</summary>
public sealed record Discovered(string Serial, string ModelId, string Name, bool IsFactory, string Host, int Port);

/// <summary>
/// Who is there: one datagram to an address, each controller answers with one of its own. It is told in the clear and believed
/// by nobody: it says only where to look.
/// </summary>
public static class Discovery
{
    /// <summary>The most bytes of a datagram.</summary>
    public const int MostBytes = 1200;

    private const string Question = "lofty-wren who-is-there ";

    private sealed record Answer(string Nonce, string Serial, string ModelId, string Name, bool IsFactory, int Port);

    /// <summary>The question, with a number that answers repeat.</summary>
    public static byte[] Ask(string nonce) => Encoding.UTF8.GetBytes(Question + nonce);

    /// <summary>The number of a question, or null for what is none.</summary>
    public static string? NonceOf(ReadOnlySpan<byte> datagram)
    {
        if (datagram.Length > 100) return null;
        string text = Encoding.UTF8.GetString(datagram);
        return text.StartsWith(Question, StringComparison.Ordinal) ? text[Question.Length..] : null;
    }

    /// <summary>The answer of one controller.</summary>
    public static byte[] Say(string nonce, Discovered one) => JsonSerializer.SerializeToUtf8Bytes(new Answer(nonce, one.Serial, one.ModelId, one.Name, one.IsFactory, one.Port), RecordJson.Options);

    /// <summary>What an answer says, or null for what is none, or answers another question.</summary>
    public static Discovered? Read(ReadOnlySpan<byte> datagram, string nonce, string host)
    {
        if (datagram.Length > MostBytes) return null;
        try
        {
            return JsonSerializer.Deserialize<Answer>(datagram, RecordJson.Options) is { } a && a.Nonce == nonce && a.Port is > 0 and < 65536 && a.Serial is { Length: > 0 and <= 40 } && a.ModelId is { Length: <= 80 } && a.Name is { Length: <= 80 }
                ? new Discovered(a.Serial, a.ModelId, a.Name, a.IsFactory, host, a.Port) : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>Asks who is there and gathers the answers until nothing has come for a while; the same controller once.</summary>
    /// <param name="to">Where the question goes.</param>
    /// <param name="most">The most that are gathered.</param>
    /// <param name="wait">How long nothing must have come.</param>
    /// <param name="stop">Ends it.</param>
    /// <exception cref="ContactLostException">The question could not be sent.</exception>
    public static async Task<IReadOnlyList<Discovered>> Find(IPEndPoint to, int most, TimeSpan wait, CancellationToken stop)
    {
        using var socket = new UdpClient(new IPEndPoint(IPAddress.Any, 0)) { EnableBroadcast = true };
        string nonce = Guid.NewGuid().ToString("N");
        var found = new Dictionary<string, Discovered>();
        try
        {
            await socket.SendAsync(Ask(nonce), to, stop);
            while (found.Count < most)
            {
                using var quiet = CancellationTokenSource.CreateLinkedTokenSource(stop);
                quiet.CancelAfter(wait);
                UdpReceiveResult got = await socket.ReceiveAsync(quiet.Token);
                if (Read(got.Buffer, nonce, got.RemoteEndPoint.Address.ToString()) is { } one) found[one.Serial] = one;
            }
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            // Nothing more comes.
        }
        catch (SocketException e)
        {
            throw new ContactLostException($"The question who is there could not be sent to {to}: {e.Message}. Check the address of the network.", e);
        }
        return [.. found.Values.OrderBy(d => d.Serial, StringComparer.Ordinal)];
    }
}
