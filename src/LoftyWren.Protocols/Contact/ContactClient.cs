using System.Net.Security;
using System.Net.Sockets;
using System.Security.Authentication;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text.Json;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Records;

namespace LoftyWren.Protocols.Contact;

/// <summary>Where a controller is reached.</summary>
public sealed record ContactPlace(string Host, int Port)
{
    private const int MostHost = 253;

    /// <summary>Why it can be no place, or null.</summary>
    public string? Wrong() => string.IsNullOrWhiteSpace(Host) || Host.Length > MostHost ? "Say at which host it is: a name or an address." : Port is < 1 or > 65535 ? $"A port is between 1 and 65535, not {Port}." : null;

    /// <inheritdoc/>
    public override string ToString() => $"{Host}:{Port}";
}

/// <summary>A controller does not answer, or its connection broke; what it runs stays as it is.</summary>
public sealed class ContactLostException(string message, Exception? inner = null) : IOException(message, inner);

/// <summary>A controller shows another certificate than the one that is remembered.</summary>
public sealed class CertificateChangedException(ContactPlace place, string remembered, string shown)
    : InvalidOperationException($"The controller at {place} shows another certificate than before. Remembered is {Short(remembered)}, it shows {Short(shown)}. Either it was exchanged, or somebody stands between. Nothing was sent to it. If it was exchanged, say so under First contact and set it up again.")
{
    /// <summary>What it shows.</summary>
    public string Shown { get; } = shown;

    /// <summary>The beginning of a fingerprint, as people compare it.</summary>
    public static string Short(string fingerprint) => string.Join(' ', Enumerable.Range(0, Math.Min(4, fingerprint.Length / 4)).Select(i => fingerprint.Substring(i * 4, 4)));
}

/// <summary>
/// A connection to a controller: TLS, whose certificate is compared with a fingerprint that is remembered. Without one the
/// certificate is looked at and nothing but who it is should be asked.
/// </summary>
public sealed class ContactClient : IDeviceContact, IAsyncDisposable
{
    // A frame takes its time on a slow line: 8 ms a byte are 1 kbit/s.
    private const int MillisecondsPerByte = 8;

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(10), ReadingPatience = TimeSpan.FromMinutes(5);
    private readonly TcpClient _tcp;
    private readonly SslStream _stream;
    private readonly ContactPlace _place;
    private readonly CancellationToken _stop;

    private ContactClient(TcpClient tcp, SslStream stream, ContactPlace place, string fingerprint, CancellationToken stop) => (_tcp, _stream, _place, Fingerprint, _stop) = (tcp, stream, place, fingerprint, stop);

    /// <summary>The SHA-256 of its certificate, in hexadecimal.</summary>
    public string Fingerprint { get; }

    /// <summary>Connects.</summary>
    /// <exception cref="ContactLostException">Nobody answers there, or not by TLS.</exception>
    /// <exception cref="CertificateChangedException">It shows another certificate than the one remembered.</exception>
    /// <exception cref="InvalidOperationException">There can be no such place.</exception>
    public static async Task<ContactClient> Connect(ContactPlace place, string? remembered, CancellationToken stop)
    {
        if (place.Wrong() is { } wrong) throw new InvalidOperationException(wrong);
        var tcp = new TcpClient { NoDelay = true };
        SslStream? tls = null;
        try
        {
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
            patience.CancelAfter(Patience);
            await tcp.ConnectAsync(place.Host, place.Port, patience.Token);
            string shown = "";
            tls = new SslStream(tcp.GetStream());
            await tls.AuthenticateAsClientAsync(new SslClientAuthenticationOptions
            {
                TargetHost = place.Host,
                EnabledSslProtocols = SslProtocols.Tls12 | SslProtocols.Tls13,
                // It is its own authority, so those of this machine are not asked: what counts is that it is the one that was met before.
                CertificateChainPolicy = new X509ChainPolicy { TrustMode = X509ChainTrustMode.CustomRootTrust, RevocationMode = X509RevocationMode.NoCheck, DisableCertificateDownloads = true },
                RemoteCertificateValidationCallback = (_, certificate, _, _) =>
                {
                    shown = certificate is null ? "" : FingerprintOf(certificate);
                    return shown.Length > 0;
                },
            }, patience.Token);
            if (remembered is not null && remembered != shown) throw new CertificateChangedException(place, remembered, shown);
            return new ContactClient(tcp, tls, place, shown, stop);
        }
        catch (Exception e)
        {
            if (tls is not null) await tls.DisposeAsync();
            tcp.Dispose();
            stop.ThrowIfCancellationRequested();
            if (e is IOException or SocketException or AuthenticationException or OperationCanceledException or ArgumentException) throw new ContactLostException($"Nobody answers at {place} as a controller does. See that it has its supply and that its address is right.", e);
            throw;
        }
    }

    /// <summary>The SHA-256 of a certificate, in hexadecimal.</summary>
    public static string FingerprintOf(X509Certificate certificate) => Convert.ToHexStringLower(SHA256.HashData(certificate.GetRawCertData()));

    private async Task<ContactFrame> Ask(ContactAsk ask, ReadOnlyMemory<byte> body = default, int mostBody = 0, TimeSpan? wait = null)
    {
        try
        {
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(_stop);
            patience.CancelAfter(wait ?? Patience + TimeSpan.FromMilliseconds(body.Length * MillisecondsPerByte));
            await ContactFrame.Of(ask, body).WriteTo(_stream, patience.Token);
            ContactFrame answer = await ContactFrame.ReadFrom(_stream, mostBody, patience.Token) ?? throw new EndOfStreamException("The connection was closed.");
            if (answer.Read<ContactAnswer>().Refused is { } refused) throw new InvalidOperationException(refused);
            return answer;
        }
        catch (Exception e) when (e is IOException or SocketException or InvalidDataException or JsonException or OperationCanceledException or ObjectDisposedException)
        {
            _stop.ThrowIfCancellationRequested();
            throw new ContactLostException($"The connection to the controller at {_place} broke off. What it runs stays as it is; try again when it answers.", e);
        }
    }

    private async Task<T> Ask<T>(ContactAsk ask)
    {
        ContactFrame answer = await Ask(ask);
        try
        {
            return answer.Read<ContactAnswer>().Said!.Value.Deserialize<T>(RecordJson.Options)!;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            throw new ContactLostException($"What the controller at {_place} answers is not understood. It may be of another make or version.", e);
        }
    }

    /// <inheritdoc/>
    public Task<DeviceIdentity> Identify() => Ask<DeviceIdentity>(new AskIdentify());

    /// <inheritdoc/>
    public Task SignIn(DeviceAccount account) => Ask(new AskSignIn(account));

    /// <inheritdoc/>
    public Task Renew(DeviceSecrets secrets) => Ask(new AskRenew(secrets));

    /// <inheritdoc/>
    public Task Confirm() => Ask(new AskConfirm());

    /// <inheritdoc/>
    public Task Configure(DeviceSettings settings) => Ask(new AskConfigure(settings));

    /// <inheritdoc/>
    public Task<ClockAnswer> SetClock(long milliseconds) => Ask<ClockAnswer>(new AskSetClock(milliseconds));

    /// <inheritdoc/>
    public Task<DeviceReport> Report() => Ask<DeviceReport>(new AskReport());

    /// <inheritdoc/>
    public Task<int> Begin(PartOffer part) => Ask<int>(new AskBegin(part));

    /// <inheritdoc/>
    public Task Piece(string key, int offset, ReadOnlyMemory<byte> bytes) => Ask(new AskPiece(key, offset), bytes);

    /// <inheritdoc/>
    public Task<int> Activate(ActivateOrder order) => Ask<int>(new AskActivate(order));

    /// <inheritdoc/>
    public async Task<byte[]> ReadBack(string passphrase) => (await Ask(new AskReadBack(passphrase), default, ContactFrame.MostBody, ReadingPatience)).Body;

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _stream.DisposeAsync();
        _tcp.Dispose();
    }
}
