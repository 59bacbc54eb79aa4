using System.Collections.Concurrent;
using System.Net;
using System.Text.Json;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Commissioning;
using Microsoft.AspNetCore.DataProtection;

namespace LoftyWren.Server.Commissioning;

/// <summary>What was seen at a connection: who is there, by which certificate, how far its clock is off, what it has; why nothing more can be seen, where something is in the way.</summary>
public sealed record ContactLook(SeenDevice Seen, ContactPlace Place, IReadOnlyList<InstalledPart> Parts, double RoundTripMilliseconds, string? Trouble);

/// <summary>
/// The connections to the controllers of a project: where each is, by which certificate it is known, and the credentials that
/// open it, sealed. Everything that goes to a controller goes through here.
/// </summary>
public sealed class Contacts(ContactStore store, Workspace workspace, ImageCache images, IVirtualSite site, IDataProtectionProvider protection)
{
    /// <summary>How many bytes go in one piece.</summary>
    public const int PieceBytes = 16 * 1024;

    private const int MostFound = 2000;
    private readonly IDataProtector _seal = protection.CreateProtector("LoftyWren.Contacts");

    // Credentials that were typed for a first contact that is under way, until the controller has confirmed them.
    private readonly ConcurrentDictionary<RecordId, DeviceSecrets> _typed = new();

    /// <summary>How long nobody must have answered before it is taken that nobody more will; and that is waited before a connection that broke off is tried again.</summary>
    public TimeSpan Patience { get; init; } = TimeSpan.FromMilliseconds(400);

    /// <summary>The store beneath.</summary>
    public ContactStore Store => store;

    /// <summary>Asks a network who is there: an address with a port, or the virtual site.</summary>
    /// <exception cref="InvalidOperationException">The address is none.</exception>
    public async Task<IReadOnlyList<Discovered>> Discover(string? network, CancellationToken stop)
    {
        if (string.IsNullOrWhiteSpace(network)) return site.DiscoveryPort() is > 0 and var port ? await Discovery.Find(new IPEndPoint(IPAddress.Loopback, port), MostFound, Patience, stop) : [];
        return IPEndPoint.TryParse(network.Trim(), out IPEndPoint? to) && to is { Port: > 0, AddressFamily: System.Net.Sockets.AddressFamily.InterNetwork } ? await Discovery.Find(to, MostFound, Patience, stop)
            : throw new InvalidOperationException($"‘{network}’ is no address with a port. Write one such as 192.168.1.255:47900.");
    }

    /// <summary>What is remembered of a connection, or null.</summary>
    public KeptContact? Find(RecordId host) => store.Find(host.Value);

    /// <summary>Keeps what was typed until the controller has confirmed it.</summary>
    public void Type(RecordId host, DeviceSecrets secrets) => _typed[host] = secrets;

    /// <summary>What was typed and is not confirmed yet, or null.</summary>
    public DeviceSecrets? Typed(RecordId host) => _typed.GetValueOrDefault(host);

    // Devices that are being set up, by serial number, with the controller each is to be.
    private readonly ConcurrentDictionary<string, RecordId> _claimed = new();

    /// <summary>The controller that a device is set up for already, or is being set up for, other than the one that is asked for; null where it is free for it.</summary>
    public ProjectRecord? OwnerOf(string serial, RecordId host)
    {
        RecordId? owner = store.All().Where(c => c.Serial == serial && c.HostId != host.Value).Select(c => (RecordId?)new RecordId(c.HostId)).FirstOrDefault(id => workspace.Project.Find(id!.Value) is not null);
        owner ??= _claimed.TryGetValue(serial, out RecordId claimed) && claimed != host ? claimed : null;
        return owner is { } id ? workspace.Project.Find(id) : null;
    }

    /// <summary>Has a device for one controller while it is set up; dispose of the answer afterwards.</summary>
    /// <exception cref="InvalidOperationException">It is, or is becoming, another controller.</exception>
    public IDisposable Claim(string serial, ProjectRecord host)
    {
        if (OwnerOf(serial, host.Id) is { } other || (_claimed.GetOrAdd(serial, host.Id) is var by && by != host.Id && (other = workspace.Project.Find(by)!) is not null))
            throw new InvalidOperationException($"{serial} is {other.Name}. A device is one controller only; forget the connection of {other.Name} first, or choose another device for {host.Name}. Nothing was written.");
        return new Claimed(() => _claimed.TryRemove(new KeyValuePair<string, RecordId>(serial, host.Id)));
    }

    private readonly ConcurrentDictionary<RecordId, SemaphoreSlim> _turns = new();

    /// <summary>The turn of whoever writes to a controller: one at a time; the next waits. Dispose of the answer afterwards.</summary>
    public async Task<IDisposable> Turn(ProjectRecord host, Action waits, CancellationToken stop)
    {
        SemaphoreSlim turn = _turns.GetOrAdd(host.Id, _ => new SemaphoreSlim(1, 1));
        if (!await turn.WaitAsync(0, stop))
        {
            waits();
            await turn.WaitAsync(stop);
        }
        return new Claimed(() => turn.Release());
    }

    private sealed class Claimed(Action end) : IDisposable
    {
        public void Dispose() => end();
    }

    /// <summary>Remembers a connection; the secrets that were typed for it are sealed with it.</summary>
    public void Remember(RecordId host, KeptContact contact, DeviceSecrets? secrets = null)
    {
        store.Keep(contact, secrets is null ? null : _seal.Protect(JsonSerializer.SerializeToUtf8Bytes(secrets, RecordJson.Options)));
        if (secrets is not null) _typed.TryRemove(host, out _);
    }

    /// <summary>Forgets a connection with its secrets.</summary>
    public bool Forget(RecordId host)
    {
        _typed.TryRemove(host, out _);
        return store.Forget(host.Value);
    }

    /// <summary>The credentials that open a controller, or null where none are kept, or they were sealed on another machine.</summary>
    public DeviceSecrets? SecretsOf(RecordId host)
    {
        if (store.Secrets(host.Value) is not { } kept) return null;
        try
        {
            return JsonSerializer.Deserialize<DeviceSecrets>(_seal.Unprotect(kept), RecordJson.Options);
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return null;
        }
    }

    /// <summary>How a connection carries, as far as that was found out.</summary>
    public static LinkQuality QualityOf(KeptContact? contact) => contact is { KilobitsPerSecond: > 0 } c ? new LinkQuality(c.KilobitsPerSecond, 0, c.RoundTripMilliseconds) : new LinkQuality(10_000, 0, 2);

    /// <summary>Opens a controller that was set up, signed in; where it was last, and unless that is all that is wanted where it is now.</summary>
    /// <exception cref="InvalidOperationException">It was not set up, refuses, or is not the one that is remembered.</exception>
    /// <exception cref="ContactLostException">It does not answer.</exception>
    public async Task<ContactClient> Open(ProjectRecord host, CancellationToken stop, bool whereItWas = false)
    {
        KeptContact contact = Find(host.Id) ?? throw new InvalidOperationException($"{host.Name} was never set up from here, so nothing can be sent to it. Set it up under First contact.");
        DeviceSecrets secrets = SecretsOf(host.Id) ?? throw new InvalidOperationException($"The credentials of {host.Name} cannot be opened on this machine. Type them again under First contact.");
        ContactClient client;
        try
        {
            client = await Reach(contact, whereItWas, stop);
        }
        catch (ContactLostException e)
        {
            throw new ContactLostException($"{host.Name} does not answer at {contact.Host}:{contact.Port}. See that it has its supply and its connection; what it runs stays as it is.", e);
        }
        try
        {
            await client.SignIn(secrets.Accounts.First(a => a.Name == contact.Account));
            return client;
        }
        catch
        {
            await client.DisposeAsync();
            throw;
        }
    }

    /// <summary>
    /// Notes where the stand-ins of the virtual site listen now. A port that another has taken meanwhile, such as the same
    /// stand-in of a copy of this folder, must not be taken for it.
    /// </summary>
    public void FollowStandIns()
    {
        foreach (HungDevice hung in site.Hung())
        {
            if (store.Find(hung.HostId.Value) is { } contact && contact.Serial == hung.Serial && hung.Port > 0 && contact.Port != hung.Port && IPAddress.TryParse(contact.Host, out IPAddress? at) && IPAddress.IsLoopback(at)) store.Keep(contact with { Port = hung.Port });
        }
    }

    /// <summary>Connects to where a controller was; where nobody answers there, to where one with its serial number says that it is.</summary>
    private async Task<ContactClient> Reach(KeptContact contact, bool whereItWas, CancellationToken stop)
    {
        try
        {
            return await ContactClient.Connect(new ContactPlace(contact.Host, contact.Port), contact.Fingerprint, stop);
        }
        catch (Exception e) when (!whereItWas && (e is ContactLostException or CertificateChangedException))
        {
            if ((await Discover(null, stop)).FirstOrDefault(d => d.Serial == contact.Serial) is not { } moved || (moved.Host, moved.Port) == (contact.Host, contact.Port)) throw;
            ContactClient client = await ContactClient.Connect(new ContactPlace(moved.Host, moved.Port), contact.Fingerprint, stop);
            store.Keep(contact with { Host = moved.Host, Port = moved.Port });
            return client;
        }
    }

    /// <summary>Looks at who is at a connection. Nothing is written there.</summary>
    public async Task<ContactLook> Look(ProjectRecord host, ContactPlace place, CancellationToken stop)
    {
        KeptContact? kept = Find(host.Id);
        await using ContactClient client = await ContactClient.Connect(place, null, stop);
        long began = System.Diagnostics.Stopwatch.GetTimestamp();
        DeviceIdentity identity = await client.Identify();
        double trip = System.Diagnostics.Stopwatch.GetElapsedTime(began).TotalMilliseconds;
        long offset = identity.ClockMilliseconds - site.Clock().Now;
        DeviceSecrets? secrets = SecretsOf(host.Id);
        ContactLook Seen(DeviceReport? report, string? trouble, bool hasSecrets = true) => new(new SeenDevice(identity, client.Fingerprint, kept?.Fingerprint, hasSecrets && secrets is not null, kept?.SecondAccount is not null, offset, report?.Settings), place, report?.Parts ?? [], Math.Round(trip, 2), trouble);
        if (kept is not null && kept.Fingerprint != client.Fingerprint) return Seen(null, new CertificateChangedException(place, kept.Fingerprint, client.Fingerprint).Message);
        try
        {
            if (identity.IsFactory) await client.SignIn(DeviceAccount.Factory);
            else if (kept is not null && secrets is not null) await client.SignIn(secrets.Accounts.First(a => a.Name == kept.Account));
            else return Seen(null, null);
            return Seen(await client.Report(), null);
        }
        catch (InvalidOperationException e)
        {
            // What is kept does not open it any more: it is typed anew.
            return Seen(null, e.Message, hasSecrets: false);
        }
    }

    /// <summary>The parts that a host is to have, and what cannot be.</summary>
    public (IReadOnlyList<ImagePart> Parts, IReadOnlyList<string> Troubles, byte[] Application, int Memory) Design(ProjectRecord host)
    {
        DesignImage design = images.Design(host.Id) ?? throw new InvalidOperationException($"{host.Name} is not in the project any more.");
        if (host is Controller controller && Catalogue.Find(workspace.Project, controller.ModelId) is { } model)
        {
            var (parts, troubles) = ImageParts.Of(model, controller, design.Image, design.Bytes);
            return (parts, troubles, design.Bytes, model.MemoryKilobytes);
        }
        return ([new ImagePart(ImageParts.Application, "Application", PartLayer.Application, design.Hash[..8], design.Hash, design.Bytes.Length, $"{design.Image.Records.Count} records of the project", true)], [], design.Bytes, 0);
    }

    /// <summary>What a send to a host would transfer.</summary>
    public SendPlan Plan(ProjectRecord host, IReadOnlyList<InstalledPart> there)
    {
        var (parts, troubles, _, memory) = Design(host);
        return SendPlan.Of(parts, troubles, there, memory, QualityOf(Find(host.Id)), PieceBytes);
    }

    /// <summary>The bytes of a part of a host.</summary>
    public byte[] BytesOf(ProjectRecord host, ImagePart part, byte[] application) =>
        part.Layer == PartLayer.Application ? application : Firmware.Bytes(((Controller)host).ModelId, part.Key, part.Version, part.Bytes / 1024);
}
