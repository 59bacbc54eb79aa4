using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Site;

/// <summary>The virtual site's own store: its plan, its clock, its controllers' images and memories, each under a key.</summary>
public sealed class SiteStore : IDisposable
{
    private static readonly Migration[] Form = [new(1, "CREATE TABLE kept (key TEXT PRIMARY KEY, body BLOB NOT NULL) STRICT;")];
    private readonly Database _database;

    /// <summary>Opens or makes the store.</summary>
    public SiteStore(string path) => _database = new Database(path, Form);

    /// <summary>Writes several parts together.</summary>
    public void Write(IEnumerable<(string Key, byte[] Body)> parts)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteTransaction transaction = connection.BeginTransaction();
        foreach (var (key, body) in parts)
            Database.Run(connection, "INSERT INTO kept (key, body) VALUES ($key, $body) ON CONFLICT (key) DO UPDATE SET body = $body", transaction, ("$key", key), ("$body", body));
        transaction.Commit();
    }

    /// <summary>Reads all parts.</summary>
    public IReadOnlyDictionary<string, byte[]> Read()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT key, body FROM kept");
        using SqliteDataReader reader = command.ExecuteReader();
        var parts = new Dictionary<string, byte[]>();
        while (reader.Read()) parts[reader.GetString(0)] = (byte[])reader.GetValue(1);
        return parts;
    }

    /// <inheritdoc/>
    public void Dispose() => _database.Dispose();
}
