using System.Net.Security;
using System.Security.Authentication;
using System.Text.Json;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Records;

namespace LoftyWren.Protocols.Contact;

/// <summary>The other end of the connection: a controller that answers.</summary>
public static class ContactServing
{
    /// <summary>For how long a connection may be silent before it is closed, once somebody has signed in and before.</summary>
    private static readonly TimeSpan MostSilence = TimeSpan.FromMinutes(2), MostUnknown = TimeSpan.FromSeconds(10);

    /// <summary>Answers over a stream until it ends: TLS first, with the controller's certificate, then frame by frame.</summary>
    /// <param name="raw">The bare connection.</param>
    /// <param name="certificate">Its certificate with its key, made ready once for all who call.</param>
    /// <param name="contact">Who answers.</param>
    /// <param name="carry">Waits as long as the way takes for so many bytes; false: the way is cut, and the connection ends without an answer.</param>
    /// <param name="stop">Ends it.</param>
    public static async Task Serve(Stream raw, SslStreamCertificateContext certificate, IDeviceContact contact, Func<int, Task<bool>> carry, CancellationToken stop)
    {
        await using var stream = new SslStream(raw);
        try
        {
            using (var patience = CancellationTokenSource.CreateLinkedTokenSource(stop))
            {
                patience.CancelAfter(TimeSpan.FromSeconds(10));
                await stream.AuthenticateAsServerAsync(new SslServerAuthenticationOptions { ServerCertificateContext = certificate, EnabledSslProtocols = SslProtocols.Tls12 | SslProtocols.Tls13 }, patience.Token);
            }
            while (await Next(stream, contact.IsSignedIn ? MostSilence : MostUnknown, stop) is { } frame)
            {
                if (!await carry(frame.Head.Length + frame.Body.Length)) return;
                ContactFrame answer;
                try
                {
                    (object? said, byte[]? body) = await frame.Read<ContactAsk>().Of(contact, frame.Body);
                    answer = ContactFrame.Of(new ContactAnswer(said is null ? null : JsonSerializer.SerializeToElement(said, said.GetType(), RecordJson.Options), null), body);
                }
                catch (InvalidOperationException e)
                {
                    answer = ContactFrame.Of(new ContactAnswer(null, e.Message));
                }
                if (!await carry(answer.Body.Length)) return;
                await answer.WriteTo(stream, stop);
            }
        }
        catch (Exception e) when (e is IOException or InvalidDataException or AuthenticationException or JsonException or NotSupportedException or OperationCanceledException or ObjectDisposedException)
        {
            // Who sends what cannot be read, or hangs up, is let go; the next is answered like the first.
        }
    }

    private static async Task<ContactFrame?> Next(Stream stream, TimeSpan silence, CancellationToken stop)
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(silence);
        return await ContactFrame.ReadFrom(stream, ContactFrame.MostPiece, patience.Token);
    }
}
