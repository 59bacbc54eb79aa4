using System.Net;
using System.Net.Security;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Images;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Contact;

namespace LoftyWren.Protocols.Tests.Contact;

/// <summary>The connection to a controller: over real sockets and TLS, with a stand-in that only notes what it was asked.</summary>
public sealed class ContactTests : IDisposable
{
    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly X509Certificate2 _certificate = Made("1234-BCDF");
    private readonly CancellationTokenSource _stop = new();
    private readonly Noting _device = new();
    private Func<int, Task<bool>> _carry = _ => Task.FromResult(true);

    public ContactTests()
    {
        _listener.Start();
        _ = Task.Run(async () =>
        {
            while (!_stop.IsCancellationRequested)
            {
                TcpClient caller = await _listener.AcceptTcpClientAsync(_stop.Token);
                _ = Task.Run(async () =>
                {
                    using (caller) await ContactServing.Serve(caller.GetStream(), SslStreamCertificateContext.Create(_certificate, null, offline: true), _device, b => _carry(b), _stop.Token);
                });
            }
        });
    }

    private ContactPlace Place => new("127.0.0.1", ((IPEndPoint)_listener.LocalEndpoint).Port);

    private static X509Certificate2 Made(string name)
    {
        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        using X509Certificate2 made = new CertificateRequest($"CN={name}", key, HashAlgorithmName.SHA256).CreateSelfSigned(DateTimeOffset.UnixEpoch, DateTimeOffset.UnixEpoch.AddYears(200));
        return X509CertificateLoader.LoadPkcs12(made.Export(X509ContentType.Pkcs12), null);
    }

    public void Dispose()
    {
        _stop.Cancel();
        _listener.Stop();
        _certificate.Dispose();
    }

    private sealed class Noting : IDeviceContact
    {
        public List<string> Asked { get; } = [];

        private T Note<T>(string what, T answer)
        {
            Asked.Add(what);
            return answer;
        }

        public Task<DeviceIdentity> Identify() => Task.FromResult(Note("identify", new DeviceIdentity("1234-BCDF", "compact-20", "", true, SystemStatus.DownloadRequired, 1_700_000_000_000)));
        public Task SignIn(DeviceAccount account) => account.Secret == "wrong" ? throw new InvalidOperationException("Account or secret is wrong.") : Task.FromResult(Note($"sign in {account.Name} {account.Secret}", 0));
        public Task Renew(DeviceSecrets secrets) => Task.FromResult(Note($"renew {secrets.Accounts.Count} {secrets.Passphrase}", 0));
        public Task Confirm() => Task.FromResult(Note("confirm", 0));
        public Task Configure(DeviceSettings settings) => Task.FromResult(Note($"configure {settings}", 0));
        public Task<ClockAnswer> SetClock(long milliseconds) => Task.FromResult(Note($"clock {milliseconds}", new ClockAnswer(5, milliseconds)));
        public Task<DeviceReport> Report() => Task.FromResult(Note("report", new DeviceReport(new DeviceStanding(new RecordId("c"), SystemStatus.Operational, DevicePhase.Running, 1, RestartReason.Coldstart, 2, 3, null, []), [new InstalledPart("kernel", PartLayer.Runtime, "3.4", "ab", 12)], null, 7, null)));
        public Task<int> Begin(PartOffer part) => Task.FromResult(Note($"begin {part.Key} {part.Layer} {part.Bytes}", 3));
        public Task Piece(string key, int offset, ReadOnlyMemory<byte> bytes) => Task.FromResult(Note($"piece {key} {offset} {Convert.ToHexString(bytes.Span)}", 0));
        public Task<int> Activate(ActivateOrder order) => Task.FromResult(Note($"activate {order.Who} {string.Join(',', order.Parts)} {order.StartsNow}", 8));
        public Task<byte[]> ReadBack(string passphrase) => Task.FromResult(Note($"read {passphrase}", (byte[])[1, 2, 3]));
    }

    [Fact]
    public async Task What_is_asked_arrives_and_what_is_answered_comes_back()
    {
        await using ContactClient client = await ContactClient.Connect(Place, null, default);
        Assert.Equal(Convert.ToHexStringLower(SHA256.HashData(_certificate.RawData)), client.Fingerprint);
        Assert.Equal(new DeviceIdentity("1234-BCDF", "compact-20", "", true, SystemStatus.DownloadRequired, 1_700_000_000_000), await client.Identify());
        await client.SignIn(new DeviceAccount("contractor", "blue-glaze"));
        await client.Renew(new DeviceSecrets([new("a", "b"), new("c", "d")], "pass"));
        await client.Confirm();
        await client.Configure(new DeviceSettings("KH-C1", "10.20.1.11", 24, null, true));
        Assert.Equal(new ClockAnswer(5, 99), await client.SetClock(99));
        DeviceReport report = await client.Report();
        Assert.Equal((7, new InstalledPart("kernel", PartLayer.Runtime, "3.4", "ab", 12), DevicePhase.Running), (report.Version, report.Parts[0], report.Standing.Phase));
        Assert.Equal(3, await client.Begin(new PartOffer("kernel", PartLayer.Runtime, "3.4", "ab", 12)));
        await client.Piece("kernel", 3, new byte[] { 0xAB, 0, 1 });
        Assert.Equal(8, await client.Activate(new ActivateOrder("technician", "KH-C1", ["kernel"], true)));
        Assert.Equal([1, 2, 3], await client.ReadBack("pass"));
        Assert.Equal(["identify", "sign in contractor blue-glaze", "renew 2 pass", "confirm", "configure DeviceSettings { Name = KH-C1, Address = 10.20.1.11, PrefixLength = 24, Router = , StartsAfterPower = True }", "clock 99", "report", "begin kernel Runtime 12", "piece kernel 3 AB0001", "activate technician kernel True", "read pass"], _device.Asked);
        Assert.Equal("Account or secret is wrong.", (await Assert.ThrowsAsync<InvalidOperationException>(() => client.SignIn(new("x", "wrong")))).Message);
        // Who is refused may go on.
        await client.Identify();
    }

    [Fact]
    public async Task Another_certificate_than_is_remembered_is_told_and_nothing_is_asked()
    {
        var changed = await Assert.ThrowsAsync<CertificateChangedException>(() => ContactClient.Connect(Place, new string('0', 64), default));
        Assert.Contains("Remembered is 0000 0000 0000 0000, it shows", changed.Message, StringComparison.Ordinal);
        Assert.Empty(_device.Asked);
        await using ContactClient again = await ContactClient.Connect(Place, changed.Shown, default);
        Assert.Equal("1234-BCDF", (await again.Identify()).Serial);
    }

    [Fact]
    public async Task Who_is_not_there_or_speaks_otherwise_is_told_as_lost()
    {
        var deaf = new TcpListener(IPAddress.Loopback, 0);
        deaf.Start();
        int port = ((IPEndPoint)deaf.LocalEndpoint).Port;
        _ = Task.Run(async () =>
        {
            using TcpClient caller = await deaf.AcceptTcpClientAsync();
            await caller.GetStream().WriteAsync(Encoding.ASCII.GetBytes("220 mail.example ready\r\n"));
        });
        await Assert.ThrowsAsync<ContactLostException>(() => ContactClient.Connect(new ContactPlace("127.0.0.1", port), null, default));
        deaf.Stop();
        await Assert.ThrowsAsync<ContactLostException>(() => ContactClient.Connect(new ContactPlace("127.0.0.1", port), null, default));
    }

    [Fact]
    public async Task A_way_that_is_cut_ends_without_an_answer_and_the_next_connection_is_taken()
    {
        int frames = 0;
        // Question and answer are carried each: the third frame is the second question.
        _carry = _ => Task.FromResult(++frames != 3);
        await using ContactClient client = await ContactClient.Connect(Place, null, default);
        await client.Identify();
        await Assert.ThrowsAsync<ContactLostException>(client.Identify);
        await using ContactClient again = await ContactClient.Connect(Place, client.Fingerprint, default);
        await again.Identify();
    }

    /// <summary>Whatever comes instead of TLS or of frames ends that connection and no other.</summary>
    [Fact]
    public async Task Nonsense_ends_its_connection_and_no_other()
    {
        var chance = new Random(7);
        for (int i = 0; i < 30; i++)
        {
            using var raw = new TcpClient("127.0.0.1", Place.Port);
            byte[] bytes = new byte[chance.Next(1, 4000)];
            chance.NextBytes(bytes);
            try
            {
                await raw.GetStream().WriteAsync(bytes);
            }
            catch (IOException)
            {
                // Hung up on already.
            }
        }
        await using ContactClient client = await ContactClient.Connect(Place, null, default);
        Assert.Equal("1234-BCDF", (await client.Identify()).Serial);
    }

    [Fact]
    public async Task A_frame_that_is_too_long_or_cut_short_is_not_taken_in()
    {
        async Task<ContactFrame?> Read(params byte[] bytes) => await ContactFrame.ReadFrom(new MemoryStream(bytes), 100, default);
        Assert.Null(await Read());
        await Assert.ThrowsAsync<EndOfStreamException>(() => Read(0, 0, 0));
        await Assert.ThrowsAsync<EndOfStreamException>(() => Read(0, 0, 0, 2, 0, 0, 0, 0, 1));
        await Assert.ThrowsAsync<InvalidDataException>(() => Read(0x7F, 0xFF, 0xFF, 0xFF, 0, 0, 0, 0));
        await Assert.ThrowsAsync<InvalidDataException>(() => Read(0xFF, 0xFF, 0xFF, 0xFF, 0, 0, 0, 0));
        await Assert.ThrowsAsync<InvalidDataException>(() => Read(0, 0, 0, 0, 0, 0, 0, 101));
        ContactFrame frame = (await Read(0, 0, 0, 1, 0, 0, 0, 2, 5, 6, 7))!;
        Assert.Equal([5], frame.Head);
        Assert.Equal([6, 7], frame.Body);
        var stream = new MemoryStream();
        await frame.WriteTo(stream, default);
        Assert.Equal([0, 0, 0, 1, 0, 0, 0, 2, 5, 6, 7], stream.ToArray());
    }

    [Fact]
    public void An_answer_counts_only_for_its_question()
    {
        var one = new Discovered("1234-BCDF", "compact-20", "KH-C1", false, "127.0.0.1", 4711);
        Assert.Equal("n1", Discovery.NonceOf(Discovery.Ask("n1")));
        Assert.Null(Discovery.NonceOf("something else"u8));
        Assert.Equal(one, Discovery.Read(Discovery.Say("n1", one), "n1", "127.0.0.1"));
        Assert.Null(Discovery.Read(Discovery.Say("n1", one), "n2", "127.0.0.1"));
        Assert.Null(Discovery.Read(Discovery.Say("n1", one with { Port = 70_000 }), "n1", "127.0.0.1"));
        Assert.Null(Discovery.Read("{"u8, "n1", "127.0.0.1"));
        Assert.Null(Discovery.Read(new byte[Discovery.MostBytes + 1], "n1", "127.0.0.1"));
    }

    /// <summary>Whoever answers where a controller should be is believed nothing: a body where none belongs, nonsense in a head, a length beyond all.</summary>
    [Theory]
    [InlineData(new byte[] { 0, 0, 0, 2, 3, 0, 0, 0, 123, 125 })]
    [InlineData(new byte[] { 0, 0, 0, 2, 0, 0, 0, 0, 91, 93 })]
    [InlineData(new byte[] { 0, 0, 0, 3, 0, 0, 0, 0, 1, 2, 3 })]
    [InlineData(new byte[] { 127, 255, 255, 255, 127, 255, 255, 255 })]
    [InlineData(new byte[] { 255, 255, 255, 255, 0, 0, 0, 0 })]
    public async Task A_false_controller_is_told_as_lost(byte[] says)
    {
        var liar = new TcpListener(IPAddress.Loopback, 0);
        liar.Start();
        _ = Task.Run(async () =>
        {
            using TcpClient caller = await liar.AcceptTcpClientAsync();
            await using var tls = new System.Net.Security.SslStream(caller.GetStream());
            await tls.AuthenticateAsServerAsync(_certificate);
            _ = await tls.ReadAsync(new byte[1000]);
            await tls.WriteAsync(says);
            await Task.Delay(2000);
        });
        await using ContactClient client = await ContactClient.Connect(new ContactPlace("127.0.0.1", ((IPEndPoint)liar.LocalEndpoint).Port), null, default);
        await Assert.ThrowsAsync<ContactLostException>(client.Identify);
        liar.Stop();
    }
}
