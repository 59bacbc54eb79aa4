using System.Security.Cryptography;
using System.Text;
using LoftyWren.Core.Bus.Security;
using LoftyWren.Core.Records;
using LoftyWren.Storage.Secrets;

namespace LoftyWren.Server.Bus.Work;

/// <summary>How the keys of a project stand.</summary>
public enum VaultState
{
    /// <summary>Nobody has given a passphrase yet.</summary>
    None,
    /// <summary>They need the passphrase.</summary>
    Locked,
    /// <summary>Devices can be put to work with them.</summary>
    Open,
}

/// <summary>The keys of a device: that of its certificate, and that which it is put to work with.</summary>
internal sealed record DeviceKeys(byte[] Certified, byte[] Tool);

/// <summary>
/// The keys of secured bus devices. At rest each is sealed (AES-256-GCM, the device's id authenticated with it) by a key that
/// the project's passphrase makes (PBKDF2 with SHA-256); open, they are in memory alone until the program ends or somebody locks
/// them. They leave over no endpoint, and stand in no journal, log, export or copy.
/// </summary>
public sealed class BusKeys(KeyStore store) : IDisposable
{
    /// <summary>The fewest letters of a passphrase.</summary>
    public const int Fewest = 12;

    private const int SaltOctets = 16, NonceOctets = 12, TagOctets = 16;
    private const string ProofOf = "vault";
    private readonly Lock _gate = new();
    private byte[]? _key;
    private readonly Dictionary<RecordId, DeviceKeys> _keys = [];
    private HashSet<string> _known = [.. store.All().Keys];

    /// <summary>The database of sealed keys, for backups.</summary>
    public Storage.Database Database => store.Database;

    // How many rounds a new passphrase goes through; fewer in tests.
    internal static int Rounds { get; set; } = 600_000;

    /// <summary>How they stand.</summary>
    public VaultState State
    {
        get
        {
            lock (_gate) return _key is not null ? VaultState.Open : store.Lock() is null ? VaultState.None : VaultState.Locked;
        }
    }

    /// <summary>Whether the certificate of a device is known.</summary>
    public bool Knows(RecordId device)
    {
        lock (_gate) return _known.Contains(device.Value);
    }

    /// <summary>Gives the passphrase: the first one locks what comes, the right one opens.</summary>
    /// <exception cref="InvalidOperationException">It is too short, or wrong.</exception>
    public void Open(string passphrase)
    {
        lock (_gate)
        {
            if (_key is not null) throw new InvalidOperationException("The keys are open already.");
            if (store.Lock() is not { } by)
            {
                (_key, VaultLock made) = Made(passphrase);
                store.Relock(made, new Dictionary<string, byte[]>());
                return;
            }
            byte[] key = KeyOf(passphrase, by);
            if (Unsealed(key, ProofOf, by.Proof) is null) throw new InvalidOperationException("That is not the passphrase of this project's keys. Nothing was opened.");
            _key = key;
            foreach (var (device, sealedKey) in store.All())
            {
                if (Unsealed(key, device, sealedKey) is { Length: 2 * SecureUnit.KeyOctets } octets) _keys[new RecordId(device)] = new DeviceKeys(octets[..SecureUnit.KeyOctets], octets[SecureUnit.KeyOctets..]);
            }
        }
    }

    /// <summary>Gives another passphrase in place of the present one, which whoever asks must know.</summary>
    /// <exception cref="InvalidOperationException">They are locked, the present passphrase is wrong, or the new one is too short.</exception>
    public void Change(string present, string passphrase)
    {
        lock (_gate)
        {
            if (_key is null || store.Lock() is not { } lockedBy) throw new InvalidOperationException("Open the keys with the present passphrase first.");
            if (Unsealed(KeyOf(present, lockedBy), ProofOf, lockedBy.Proof) is null) throw new InvalidOperationException("That is not the present passphrase. Type the one that opens the keys now; nothing was changed.");
            var (key, by) = Made(passphrase);
            store.Relock(by, _keys.ToDictionary(k => k.Key.Value, k => Sealed(key, k.Key.Value, [.. k.Value.Certified, .. k.Value.Tool])));
            CryptographicOperations.ZeroMemory(_key);
            _key = key;
        }
    }

    private static byte[] KeyOf(string passphrase, VaultLock by) => Rfc2898DeriveBytes.Pbkdf2(Encoding.UTF8.GetBytes(passphrase.Normalize()), by.Salt, by.Rounds, HashAlgorithmName.SHA256, 32);

    /// <summary>Locks them: what is open is forgotten.</summary>
    public void Close()
    {
        lock (_gate)
        {
            if (_key is not null) CryptographicOperations.ZeroMemory(_key);
            foreach (DeviceKeys keys in _keys.Values)
            {
                CryptographicOperations.ZeroMemory(keys.Certified);
                CryptographicOperations.ZeroMemory(keys.Tool);
            }
            _keys.Clear();
            _key = null;
        }
    }

    /// <summary>Keeps the certificate of a device, and makes the key that it is put to work with. One that is known keeps its key.</summary>
    /// <exception cref="InvalidOperationException">The keys are locked.</exception>
    public void Keep(RecordId device, BusCertificate certificate)
    {
        lock (_gate)
        {
            if (_key is null) throw new InvalidOperationException(store.Lock() is null ? "Give the project a passphrase for its keys first." : "The keys are locked. Give the project's passphrase first.");
            byte[] certified = certificate.Key;
            if (_keys.TryGetValue(device, out DeviceKeys? before) && before.Certified.AsSpan().SequenceEqual(certified)) return;
            var keys = new DeviceKeys(certified, RandomNumberGenerator.GetBytes(SecureUnit.KeyOctets));
            store.Keep(device.Value, Sealed(_key, device.Value, [.. keys.Certified, .. keys.Tool]));
            _keys[device] = keys;
            _known = [.. _known, device.Value];
        }
    }

    /// <summary>Forgets the keys of a device that was reset, or is gone.</summary>
    public void Forget(RecordId device)
    {
        lock (_gate)
        {
            store.Forget(device.Value);
            _keys.Remove(device);
            _known = [.. _known.Where(k => k != device.Value)];
        }
    }

    /// <summary>The keys of a device; null where they are not known, or locked.</summary>
    internal DeviceKeys? Of(RecordId device)
    {
        lock (_gate) return _keys.GetValueOrDefault(device);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        Close();
        store.Dispose();
    }

    private static (byte[] Key, VaultLock Lock) Made(string passphrase)
    {
        if (passphrase.Length < Fewest) throw new InvalidOperationException($"A passphrase has {Fewest} letters at least; a few words that you will remember are good. Whoever loses it must read all certificates again.");
        byte[] salt = RandomNumberGenerator.GetBytes(SaltOctets), key = Rfc2898DeriveBytes.Pbkdf2(Encoding.UTF8.GetBytes(passphrase.Normalize()), salt, Rounds, HashAlgorithmName.SHA256, 32);
        return (key, new VaultLock(salt, Rounds, Sealed(key, ProofOf, Encoding.UTF8.GetBytes(ProofOf))));
    }

    private static byte[] Sealed(byte[] key, string of, byte[] octets)
    {
        byte[] all = new byte[NonceOctets + octets.Length + TagOctets];
        RandomNumberGenerator.Fill(all.AsSpan(0, NonceOctets));
        using var aes = new AesGcm(key, TagOctets);
        aes.Encrypt(all.AsSpan(0, NonceOctets), octets, all.AsSpan(NonceOctets, octets.Length), all.AsSpan(NonceOctets + octets.Length), Encoding.UTF8.GetBytes(of));
        return all;
    }

    private static byte[]? Unsealed(byte[] key, string of, byte[] all)
    {
        if (all.Length < NonceOctets + TagOctets) return null;
        byte[] octets = new byte[all.Length - NonceOctets - TagOctets];
        using var aes = new AesGcm(key, TagOctets);
        try
        {
            aes.Decrypt(all.AsSpan(0, NonceOctets), all.AsSpan(NonceOctets, octets.Length), all.AsSpan(NonceOctets + octets.Length), octets, Encoding.UTF8.GetBytes(of));
            return octets;
        }
        catch (AuthenticationTagMismatchException)
        {
            return null;
        }
    }
}
