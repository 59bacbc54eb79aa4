using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Secrets;

/// <summary>What a vault is locked by: the salt and the rounds from which a passphrase makes its key, and something sealed by that key, so that a wrong passphrase is known.</summary>
public sealed record VaultLock(byte[] Salt, int Rounds, byte[] Proof);

/// <summary>Keys of devices, sealed: what is in this store is of no use to whoever has not the passphrase.</summary>
public sealed class KeyStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, """
            CREATE TABLE vault (one INTEGER PRIMARY KEY CHECK (one = 1), salt BLOB NOT NULL, rounds INTEGER NOT NULL, proof BLOB NOT NULL) STRICT;
            CREATE TABLE keys (device TEXT PRIMARY KEY, sealed BLOB NOT NULL) STRICT, WITHOUT ROWID;
            """),
    ];

    private readonly Database _database;

    /// <summary>Opens or makes the store.</summary>
    public KeyStore(string path, bool asItIs = false) => _database = new Database(path, Form, asItIs: asItIs);

    /// <summary>Its database, for backups: they hold sealed keys alone.</summary>
    public Database Database => _database;

    /// <summary>What it is locked by; null where nobody has given a passphrase yet.</summary>
    public VaultLock? Lock()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT salt, rounds, proof FROM vault");
        using SqliteDataReader reader = command.ExecuteReader();
        return reader.Read() ? new VaultLock((byte[])reader.GetValue(0), reader.GetInt32(1), (byte[])reader.GetValue(2)) : null;
    }

    /// <summary>The sealed keys, by device.</summary>
    public IReadOnlyDictionary<string, byte[]> All()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT device, sealed FROM keys");
        using SqliteDataReader reader = command.ExecuteReader();
        var all = new Dictionary<string, byte[]>();
        while (reader.Read()) all[reader.GetString(0)] = (byte[])reader.GetValue(1);
        return all;
    }

    /// <summary>Keeps the sealed key of a device.</summary>
    public void Keep(string device, byte[] sealedKey)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "INSERT OR REPLACE INTO keys (device, sealed) VALUES ($device, $sealed)", null, ("$device", device), ("$sealed", sealedKey));
    }

    /// <summary>Forgets the key of a device.</summary>
    public void Forget(string device)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "DELETE FROM keys WHERE device = $device", null, ("$device", device));
    }

    /// <summary>Locks it by another passphrase, with all keys sealed anew: all of it or nothing.</summary>
    public void Relock(VaultLock by, IReadOnlyDictionary<string, byte[]> keys)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteTransaction transaction = connection.BeginTransaction();
        Database.Run(connection, "DELETE FROM vault; DELETE FROM keys", transaction);
        Database.Run(connection, "INSERT INTO vault (one, salt, rounds, proof) VALUES (1, $salt, $rounds, $proof)", transaction, ("$salt", by.Salt), ("$rounds", by.Rounds), ("$proof", by.Proof));
        foreach (var (device, sealedKey) in keys) Database.Run(connection, "INSERT INTO keys (device, sealed) VALUES ($device, $sealed)", transaction, ("$device", device), ("$sealed", sealedKey));
        transaction.Commit();
    }

    /// <inheritdoc/>
    public void Dispose() => _database.Dispose();
}
