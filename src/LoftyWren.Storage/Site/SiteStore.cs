using LoftyWren.Core.Records;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Site;

/// <summary>Something that somebody did to the installation.</summary>
public sealed record TrailEntry(long Id, long At, long SiteAt, string Who, string What, RecordId? RecordId);

/// <summary>The virtual site's own store: its plan, its clock, its controllers' images and memories, each under a key; and the trail of what people did to it, written in one transaction with what they did.</summary>
public sealed class SiteStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, "CREATE TABLE kept (key TEXT PRIMARY KEY, body BLOB NOT NULL) STRICT;"),
        new(2, "CREATE TABLE trail (id INTEGER PRIMARY KEY, at INTEGER NOT NULL, site_at INTEGER NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL, record TEXT) STRICT;"),
    ];

    private readonly Database _database;

    /// <summary>Opens or makes the store.</summary>
    public SiteStore(string path, bool asItIs = false) => _database = new Database(path, Form, asItIs: asItIs);

    /// <summary>The database beneath, for its backups.</summary>
    public Database Database => _database;

    /// <summary>Writes several parts together, and what was done beside them.</summary>
    public void Write(IEnumerable<(string Key, byte[] Body)> parts, params IEnumerable<TrailEntry> done)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteTransaction transaction = connection.BeginTransaction();
        foreach (var (key, body) in parts)
            Database.Run(connection, "INSERT INTO kept (key, body) VALUES ($key, $body) ON CONFLICT (key) DO UPDATE SET body = $body", transaction, ("$key", key), ("$body", body));
        foreach (TrailEntry entry in done)
            Database.Run(connection, "INSERT INTO trail (at, site_at, who, what, record) VALUES ($at, $site, $who, $what, $record)", transaction, ("$at", entry.At), ("$site", entry.SiteAt), ("$who", entry.Who), ("$what", entry.What), ("$record", entry.RecordId?.Value));
        transaction.Commit();
    }

    /// <summary>The trail, newest first, below an entry.</summary>
    public IReadOnlyList<TrailEntry> TrailPage(long below, int count)
    {
        using SqliteConnection connection = _database.Open();
        return ReadTrail(connection, below, count);
    }

    /// <summary>Reads entries of a trail, newest first, below one.</summary>
    internal static IReadOnlyList<TrailEntry> ReadTrail(SqliteConnection connection, long below, int count)
    {
        using SqliteCommand command = Database.Command(connection, "SELECT id, at, site_at, who, what, record FROM trail WHERE id < $below ORDER BY id DESC LIMIT $count", null, ("$below", below), ("$count", count));
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<TrailEntry>();
        while (r.Read()) list.Add(new TrailEntry(r.GetInt64(0), r.GetInt64(1), r.GetInt64(2), r.GetString(3), r.GetString(4), r.IsDBNull(5) ? null : new RecordId(r.GetString(5))));
        return list;
    }

    /// <summary>Whether anything is in the trail.</summary>
    public bool HasTrail => TrailPage(long.MaxValue, 1).Count > 0;

    /// <summary>Whether a site is kept here.</summary>
    public bool IsKept
    {
        get
        {
            using SqliteConnection connection = _database.Open();
            using SqliteCommand command = Database.Command(connection, "SELECT COUNT(*) FROM kept");
            return command.ExecuteScalar() is > 0L;
        }
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
