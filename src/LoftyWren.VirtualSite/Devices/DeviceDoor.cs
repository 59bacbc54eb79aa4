using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Images;

namespace LoftyWren.VirtualSite.Devices;

/// <summary>An account of a device: its secret only as a salted hash.</summary>
public sealed record DoorAccount(string Name, string Hash);

/// <summary>
/// What stands between a device and whoever reaches it: its serial number and certificate, who may sign in, what it was told
/// of itself, its parts, its clock. An immutable record: each act makes another, which is kept or taken back whole.
/// </summary>
public sealed record DeviceDoor
{
    private const int Rounds = 60_000, MostFailures = 5, LockMilliseconds = 60_000;

    // A day: at 3600 times real time that is 24 s, enough to come in with them and confirm.
    private const long PendingMilliseconds = 86_400_000;

    /// <summary>For how long its clock goes on without a supply, ms; and what it shows once it was lost, ms since 1970 UTC.</summary>
    public const long ClockKeptMilliseconds = 72 * 3_600_000L, LostClock = 946_684_800_000;

    /// <summary>Its serial number.</summary>
    public required string Serial { get; init; }

    /// <summary>Its model.</summary>
    public required string ModelId { get; init; }

    /// <summary>Its certificate with its key, PKCS 12.</summary>
    public required byte[] Certificate { get; init; }

    /// <summary>The port of the machine at which it was reached last; 0 for none yet.</summary>
    public int Port { get; init; }

    /// <summary>Who may sign in.</summary>
    public required IReadOnlyList<DoorAccount> Accounts { get; init; }

    /// <summary>Whether it is as it came out of its box.</summary>
    public bool IsFactory { get; init; } = true;

    /// <summary>The hash of its passphrase; null from the factory.</summary>
    public string? Passphrase { get; init; }

    /// <summary>Credentials that wait for somebody to confirm them, and until when, ms of site time.</summary>
    public IReadOnlyList<DoorAccount>? PendingAccounts { get; init; }

    /// <summary>The passphrase that waits with them.</summary>
    public string? PendingPassphrase { get; init; }

    /// <summary>Until when they wait, ms of site time.</summary>
    public long PendingUntil { get; init; }

    /// <summary>Wrong secrets in a row.</summary>
    public int Failures { get; init; }

    /// <summary>Until when nobody may sign in, ms of site time.</summary>
    public long LockedUntil { get; init; }

    /// <summary>What it was told of itself.</summary>
    public DeviceSettings? Settings { get; init; }

    /// <summary>Loader and software parts that are there; the application is known by itself.</summary>
    public IReadOnlyList<InstalledPart> Parts { get; init; } = [];

    /// <summary>Why its runtime will not come up, or null.</summary>
    public string? WillNotStart { get; init; }

    /// <summary>How far its clock goes wrong, millionths.</summary>
    public int DriftMillionths { get; init; }

    /// <summary>When its clock was set, ms of site time.</summary>
    public long ClockSetAt { get; init; }

    /// <summary>How far it was off then, ms; a clock from the box shows the hour of its making.</summary>
    public long ClockOffset { get; init; }

    /// <summary>What carries to it.</summary>
    public LinkQuality Link { get; init; } = new(20_000, 0, 1);

    /// <summary>A device out of its box. By chance (any number) its clock goes wrong and is wrong.</summary>
    public static DeviceDoor OutOfTheBox(string modelId, string loader, int loaderBytes, string loaderHash, long now, LinkQuality link, uint chance = 0)
    {
        string serial = $"{RandomNumberGenerator.GetString("0123456789", 4)}-{RandomNumberGenerator.GetString("BCDFGHJKLMNPQRSTVWXZ", 4)}";
        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var request = new CertificateRequest($"CN={serial}", key, HashAlgorithmName.SHA256);
        using X509Certificate2 certificate = request.CreateSelfSigned(DateTimeOffset.UnixEpoch, new DateTimeOffset(9999, 12, 31, 0, 0, 0, TimeSpan.Zero));
        return new DeviceDoor
        {
            Serial = serial,
            ModelId = modelId,
            Certificate = certificate.Export(X509ContentType.Pkcs12),
            Accounts = [new DoorAccount(DeviceAccount.Factory.Name, Hash(DeviceAccount.Factory.Secret))],
            Parts = [new InstalledPart(ImageParts.Loader, PartLayer.Loader, loader, loaderHash, loaderBytes)],
            DriftMillionths = (int)(chance % 81) - 40,
            ClockSetAt = now,
            ClockOffset = -60_000 - (chance % 400_000_000),
            Link = link,
        };
    }

    /// <summary>What its clock shows at a moment of site time, ms.</summary>
    public long ClockAt(long now) => now + OffsetAt(now);

    /// <summary>How far its clock is off at a moment of site time, ms.</summary>
    public long OffsetAt(long now) => ClockOffset + ((now - ClockSetAt) * DriftMillionths / 1_000_000);

    /// <summary>Its clock set, ms.</summary>
    public DeviceDoor WithClock(long shows, long now) => this with { ClockSetAt = now, ClockOffset = shows - now };

    /// <summary>Somebody signs in; answers what is so then, and why it was refused, or null.</summary>
    public (DeviceDoor Door, string? Refusal, bool IsPending) SignIn(DeviceAccount account, long now)
    {
        DeviceDoor here = PendingAccounts is not null && now > PendingUntil ? this with { PendingAccounts = null, PendingPassphrase = null } : this;
        if (now < LockedUntil) return (here, $"Too many wrong secrets. It opens again in {(LockedUntil - now + 999) / 1000} s.", false);
        if (Knows(here.Accounts, account)) return (here with { Failures = 0 }, null, false);
        if (here.PendingAccounts is { } pending && Knows(pending, account)) return (here with { Failures = 0 }, null, true);
        int failures = here.Failures + 1;
        if (failures >= MostFailures) return (here with { Failures = 0, LockedUntil = now + LockMilliseconds }, $"Account or secret is wrong, for the {failures}th time. Nobody can sign in for {LockMilliseconds / 1000} s.", false);
        return (here with { Failures = failures }, $"Account or secret is wrong. After {MostFailures - failures} more it lets nobody in for {LockMilliseconds / 1000} s.", false);
    }

    /// <summary>New credentials wait to be confirmed.</summary>
    public DeviceDoor Renewed(DeviceSecrets secrets, long now) => this with
    {
        PendingAccounts = [.. secrets.Accounts.Select(a => new DoorAccount(a.Name, Hash(a.Secret)))],
        PendingPassphrase = Hash(secrets.Passphrase),
        PendingUntil = now + PendingMilliseconds,
    };

    /// <summary>They hold from now on.</summary>
    /// <exception cref="InvalidOperationException">None wait any more.</exception>
    public DeviceDoor Confirmed(long now) => PendingAccounts is not { } pending || now > PendingUntil ? throw new InvalidOperationException("No new credentials wait to be confirmed. Give them again.")
        : this with { Accounts = pending, Passphrase = PendingPassphrase, PendingAccounts = null, PendingPassphrase = null, IsFactory = false };

    /// <summary>Whether a passphrase is its.</summary>
    public bool Opens(string passphrase) => Passphrase is { } hash && Is(hash, passphrase);

    private static bool Knows(IEnumerable<DoorAccount> accounts, DeviceAccount account) => accounts.FirstOrDefault(a => a.Name == account.Name) is { } known && Is(known.Hash, account.Secret);

    private static string Hash(string secret)
    {
        byte[] salt = RandomNumberGenerator.GetBytes(16);
        return $"{Convert.ToBase64String(salt)}.{Convert.ToBase64String(Derive(secret, salt))}";
    }

    private static bool Is(string hash, string secret)
    {
        string[] parts = hash.Split('.');
        return CryptographicOperations.FixedTimeEquals(Derive(secret, Convert.FromBase64String(parts[0])), Convert.FromBase64String(parts[1]));
    }

    private static byte[] Derive(string secret, byte[] salt) => Rfc2898DeriveBytes.Pbkdf2(secret, salt, Rounds, HashAlgorithmName.SHA256, 32);
}
