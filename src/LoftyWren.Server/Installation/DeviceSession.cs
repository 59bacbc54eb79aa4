using LoftyWren.Core.Commissioning;
using LoftyWren.VirtualSite.Devices;

namespace LoftyWren.Server.Installation;

/// <summary>One connection to a device of the virtual site: what the device answers to whoever is at the other end.</summary>
/// <param name="host">Who runs the device.</param>
/// <param name="device">The device.</param>
/// <param name="free">How many more may sign in.</param>
internal sealed class DeviceSession(SiteHost host, InstalledDevice device, SemaphoreSlim free) : IDeviceContact
{
    private const int MostBytes = 64 * 1024 * 1024, MostParts = 32;
    private string? _account;
    private bool _isPending, _isCounted;

    /// <inheritdoc/>
    public bool IsSignedIn => _account is not null;

    /// <summary>The connection has ended.</summary>
    public void End()
    {
        _account = null;
        if (_isCounted) free.Release();
        _isCounted = false;
    }

    // Whoever is cut off in the middle gets no answer at all.
    private void Reached()
    {
        if (!host.IsReached(device)) throw new IOException("It does not answer any more.");
    }

    private DeviceDoor SignedIn(bool factoryWillDo = false)
    {
        Reached();
        if (_account is null) throw new InvalidOperationException("Sign in first.");
        DeviceDoor door = device.Door!;
        if (_isPending && !factoryWillDo) throw new InvalidOperationException("These credentials wait to be confirmed. Confirm them first.");
        // Credentials that were taken away meanwhile open nothing any more.
        if (!_isPending && door.Accounts.All(a => a.Name != _account)) throw new InvalidOperationException("This account is not known any more. Sign in again.");
        if (door.IsFactory && !factoryWillDo) throw new InvalidOperationException("It still has the factory's credentials. Give it others first; nothing else can be done with these.");
        return door;
    }

    public Task<DeviceIdentity> Identify() => Done(() =>
    {
        DeviceDoor door = device.Door!;
        return host.Ask(s => new DeviceIdentity(door.Serial, door.ModelId, door.Settings?.Name ?? "", door.IsFactory, SiteHost.StandingOf(device).Status, door.ClockAt(s.Now)));
    });

    public Task SignIn(DeviceAccount account) => Done(() =>
    {
        _account = null;
        long now = host.Ask(s => s.Now);
        // Proving a secret takes its time; it takes none of the site's.
        var (door, refusal, isPending) = device.Door!.SignIn(account, now);
        // Whatever else was done to it meanwhile stays done.
        host.Ask(_ => device.Door = device.Door! with { Failures = door.Failures, LockedUntil = door.LockedUntil });
        if (refusal is not null) throw new InvalidOperationException(refusal);
        if (!_isCounted && !free.Wait(0)) throw new InvalidOperationException("As many have signed in as it takes at a time. Close another connection to it, then try again.");
        _isCounted = true;
        (_account, _isPending) = (account.Name, isPending);
        return true;
    });

    public Task Renew(DeviceSecrets secrets) => Done(() =>
    {
        DeviceDoor door = SignedIn(factoryWillDo: true);
        if (secrets.Accounts.Count is < 1 or > 4) throw new InvalidOperationException("It takes one to four accounts.");
        DeviceDoor renewed = door.Renewed(secrets, host.Ask(s => s.Now));
        Set(d => d with { PendingAccounts = renewed.PendingAccounts, PendingPassphrase = renewed.PendingPassphrase, PendingUntil = renewed.PendingUntil });
        return true;
    });

    public Task Confirm() => Done(() =>
    {
        SignedIn(factoryWillDo: true);
        if (!_isPending) throw new InvalidOperationException("New credentials are confirmed by whoever has signed in with them. Sign in with the new ones first.");
        long now = host.Ask(s => s.Now);
        Set(d => d.Confirmed(now));
        _isPending = false;
        return true;
    });

    public Task Configure(DeviceSettings settings) => Done(() =>
    {
        SignedIn();
        if (settings.Name.Length is < 1 or > 80) throw new InvalidOperationException("A name has 1 to 80 characters.");
        Set(d => d with { Settings = settings });
        return true;
    });

    public Task<ClockAnswer> SetClock(long milliseconds) => Done(() =>
    {
        SignedIn();
        return host.Ask(s =>
        {
            long before = device.Door!.ClockAt(s.Now);
            device.Door = device.Door.WithClock(milliseconds, s.Now);
            return new ClockAnswer(before, device.Door.ClockAt(s.Now));
        });
    });

    public Task<DeviceReport> Report() => Done(() =>
    {
        SignedIn(factoryWillDo: true);
        return host.Ask(_ => new DeviceReport(SiteHost.StandingOf(device), [.. device.Door!.Parts, .. device.ImageBytes is { } image ? [new Core.Images.InstalledPart(Core.Images.ImageParts.Application, Core.Images.PartLayer.Application, device.Hash[..8], device.Hash, image.Length)] : Array.Empty<Core.Images.InstalledPart>()],
            device.Door.Settings, device.Version, device.Life.Trouble));
    });

    public Task<int> Begin(PartOffer part) => Done(() =>
    {
        SignedIn();
        if (part.Bytes is < 1 or > MostBytes || part.Key.Length is < 1 or > 40) throw new InvalidOperationException($"A part has at most {MostBytes / 1024 / 1024} MB; this one has {part.Bytes} bytes.");
        return host.Ask(_ => part.Layer == Core.Images.PartLayer.Application ? device.BeginSend(part.Bytes, part.Hash) : device.PartsUnderWay < MostParts || device.IsUnderWay(part.Key) ? device.BeginPart(part) : throw new InvalidOperationException($"At most {MostParts} parts are under way at a time. Change over to them first."));
    });

    public Task Piece(string key, int offset, ReadOnlyMemory<byte> bytes) => Done(() => host.Ask(_ =>
    {
        SignedIn();
        if (key == Core.Images.ImageParts.Application) device.Receive(offset, bytes.Span);
        else device.ReceivePart(key, offset, bytes.Span);
        return true;
    }));

    public Task<int> Activate(ActivateOrder order) => Done(() =>
    {
        SignedIn();
        return host.ChangeOver(device, order);
    }, isLast: true);

    public Task<byte[]> ReadBack(string passphrase) => Done(() =>
    {
        if (!SignedIn().Opens(passphrase)) throw new InvalidOperationException("The passphrase is wrong. What is stored stays closed.");
        return host.Ask(_ => device.ImageBytes) ?? throw new InvalidOperationException("It runs nothing yet, so there is nothing to read back.");
    });

    private void Set(Func<DeviceDoor, DeviceDoor> change) => host.Keep(device, _ =>
    {
        DeviceDoor before = device.Door!;
        device.Door = change(before);
        return () => device.Door = before;
    });

    // Whoever starts again answers first; whoever is cut off in the middle has done it and tells nobody.
    private Task<T> Done<T>(Func<T> act, bool isLast = false)
    {
        Reached();
        try
        {
            T answer = act();
            if (!isLast) Reached();
            return Task.FromResult(answer);
        }
        catch (Storage.StorageException e)
        {
            // What it cannot keep it has not done, and says so.
            throw new InvalidOperationException(e.Message, e);
        }
    }
}
