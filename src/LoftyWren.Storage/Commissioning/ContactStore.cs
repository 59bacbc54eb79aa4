using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Commissioning;

/// <summary>What is remembered of the connection to a controller: where it is, who it is, since when.</summary>
/// <param name="HostId">The controller of the project.</param>
/// <param name="Serial">Its serial number.</param>
/// <param name="Host">Where it is reached.</param>
/// <param name="Port">At which port.</param>
/// <param name="Fingerprint">The SHA-256 of its certificate.</param>
/// <param name="Account">Which account is used there.</param>
/// <param name="SecondAccount">A second one that was made there, or null.</param>
/// <param name="SetUpAt">When it was set up, ms since 1970 UTC; null while that is not finished.</param>
/// <param name="SetUpBy">Who did.</param>
/// <param name="KilobitsPerSecond">How fast its connection was found to carry; 0 while that was not measured.</param>
/// <param name="RoundTripMilliseconds">How long an answer was found to take.</param>
/// <param name="ClockAt">When its clock was looked at last, ms of site time.</param>
/// <param name="ClockOffset">How far it was off then, ms.</param>
/// <param name="ClockDrift">How far it goes wrong, s a day, once it was looked at twice.</param>
public sealed record KeptContact(string HostId, string Serial, string Host, int Port, string Fingerprint, string Account, string? SecondAccount, long? SetUpAt, string SetUpBy, double KilobitsPerSecond = 0, double RoundTripMilliseconds = 0, long? ClockAt = null, long? ClockOffset = null, double? ClockDrift = null);

/// <summary>A comparison of what a controller runs with the design, as it was made on time or by somebody.</summary>
public sealed record KeptComparison(string HostId, long At, string InstalledHash, string DesignHash, int Changes, string Sentence);

/// <summary>The connections to the controllers of a project. Their secrets are here only as they were sealed by whoever gave them.</summary>
public sealed class ContactStore(string path, bool asItIs = false) : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, """
            CREATE TABLE contacts (host_id TEXT PRIMARY KEY, serial TEXT NOT NULL, host TEXT NOT NULL, port INTEGER NOT NULL, fingerprint TEXT NOT NULL, account TEXT NOT NULL, second TEXT, set_up_at INTEGER, set_up_by TEXT NOT NULL,
                kilobits REAL NOT NULL, round_trip REAL NOT NULL, clock_at INTEGER, clock_offset INTEGER, clock_drift REAL, secrets BLOB) STRICT;
            CREATE TABLE comparisons (number INTEGER PRIMARY KEY AUTOINCREMENT, host_id TEXT NOT NULL, at INTEGER NOT NULL, installed TEXT NOT NULL, design TEXT NOT NULL, changes INTEGER NOT NULL, sentence TEXT NOT NULL) STRICT;
            CREATE INDEX comparisons_host ON comparisons (host_id, number);
            CREATE TABLE settings (key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
            """),
    ];

    private const int MostComparisons = 200;

    /// <summary>The database, for its backups.</summary>
    public Database Database { get; } = new(path, Form, asItIs: asItIs);

    /// <summary>All connections.</summary>
    public IReadOnlyList<KeptContact> All() => Read("");

    /// <summary>The connection to a controller, or null.</summary>
    public KeptContact? Find(string hostId) => Read("WHERE host_id = $id", ("$id", hostId)).FirstOrDefault();

    private List<KeptContact> Read(string where, params (string, object?)[] parameters)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, $"SELECT host_id, serial, host, port, fingerprint, account, second, set_up_at, set_up_by, kilobits, round_trip, clock_at, clock_offset, clock_drift FROM contacts {where}", null, parameters);
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<KeptContact>();
        while (r.Read())
            list.Add(new KeptContact(r.GetString(0), r.GetString(1), r.GetString(2), r.GetInt32(3), r.GetString(4), r.GetString(5), r.IsDBNull(6) ? null : r.GetString(6), r.IsDBNull(7) ? null : r.GetInt64(7), r.GetString(8), r.GetDouble(9), r.GetDouble(10), r.IsDBNull(11) ? null : r.GetInt64(11), r.IsDBNull(12) ? null : r.GetInt64(12), r.IsDBNull(13) ? null : r.GetDouble(13)));
        return list;
    }

    /// <summary>Keeps a connection; its secrets stay as they are where none are given.</summary>
    public void Keep(KeptContact c, byte[]? secrets = null)
    {
        using SqliteConnection connection = Database.Open();
        Database.Run(connection, """
            INSERT INTO contacts (host_id, serial, host, port, fingerprint, account, second, set_up_at, set_up_by, kilobits, round_trip, clock_at, clock_offset, clock_drift, secrets)
            VALUES ($id, $serial, $host, $port, $fingerprint, $account, $second, $at, $by, $kilobits, $trip, $clockAt, $offset, $drift, $secrets)
            ON CONFLICT (host_id) DO UPDATE SET serial = $serial, host = $host, port = $port, fingerprint = $fingerprint, account = $account, second = $second, set_up_at = $at, set_up_by = $by,
                kilobits = $kilobits, round_trip = $trip, clock_at = $clockAt, clock_offset = $offset, clock_drift = $drift, secrets = COALESCE($secrets, secrets)
            """, null,
            ("$id", c.HostId), ("$serial", c.Serial), ("$host", c.Host), ("$port", c.Port), ("$fingerprint", c.Fingerprint), ("$account", c.Account), ("$second", c.SecondAccount), ("$at", c.SetUpAt), ("$by", c.SetUpBy),
            ("$kilobits", c.KilobitsPerSecond), ("$trip", c.RoundTripMilliseconds), ("$clockAt", c.ClockAt), ("$offset", c.ClockOffset), ("$drift", c.ClockDrift), ("$secrets", secrets));
    }

    /// <summary>The sealed secrets of a connection, or null.</summary>
    public byte[]? Secrets(string hostId)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT secrets FROM contacts WHERE host_id = $id", null, ("$id", hostId));
        return command.ExecuteScalar() as byte[];
    }

    /// <summary>Forgets a connection with its secrets; answers whether there was one.</summary>
    public bool Forget(string hostId)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, "DELETE FROM contacts WHERE host_id = $id", null, ("$id", hostId));
        return command.ExecuteNonQuery() > 0;
    }

    /// <summary>Keeps a comparison, and of each controller the last two hundred.</summary>
    public void Add(KeptComparison c)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteTransaction transaction = connection.BeginTransaction();
        Database.Run(connection, "INSERT INTO comparisons (host_id, at, installed, design, changes, sentence) VALUES ($id, $at, $installed, $design, $changes, $sentence)", transaction,
            ("$id", c.HostId), ("$at", c.At), ("$installed", c.InstalledHash), ("$design", c.DesignHash), ("$changes", c.Changes), ("$sentence", c.Sentence));
        Database.Run(connection, "DELETE FROM comparisons WHERE host_id = $id AND number <= (SELECT MAX(number) FROM comparisons WHERE host_id = $id) - $most", transaction, ("$id", c.HostId), ("$most", MostComparisons));
        transaction.Commit();
    }

    /// <summary>The comparisons of a controller, newest first; of all, the newest of each.</summary>
    public IReadOnlyList<KeptComparison> Comparisons(string? hostId)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = hostId is null
            ? Database.Command(connection, "SELECT host_id, at, installed, design, changes, sentence FROM comparisons WHERE number IN (SELECT MAX(number) FROM comparisons GROUP BY host_id)")
            : Database.Command(connection, "SELECT host_id, at, installed, design, changes, sentence FROM comparisons WHERE host_id = $id ORDER BY number DESC", null, ("$id", hostId));
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<KeptComparison>();
        while (r.Read()) list.Add(new KeptComparison(r.GetString(0), r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetInt32(4), r.GetString(5)));
        return list;
    }

    /// <summary>Since which comparison each controller that differs has done so without a break, ms of site time.</summary>
    public IReadOnlyDictionary<string, long> DiffersSince()
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT c.host_id, MIN(c.at) FROM comparisons c WHERE c.number > COALESCE((SELECT MAX(number) FROM comparisons s WHERE s.host_id = c.host_id AND s.changes <= 0), 0) GROUP BY c.host_id");
        using SqliteDataReader r = command.ExecuteReader();
        var since = new Dictionary<string, long>();
        while (r.Read()) since[r.GetString(0)] = r.GetInt64(1);
        return since;
    }

    /// <summary>A setting, or null.</summary>
    public string? Setting(string key)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT value FROM settings WHERE key = $key", null, ("$key", key));
        return command.ExecuteScalar() as string;
    }

    /// <summary>Keeps a setting.</summary>
    public void Set(string key, string value)
    {
        using SqliteConnection connection = Database.Open();
        Database.Run(connection, "INSERT INTO settings (key, value) VALUES ($key, $value) ON CONFLICT (key) DO UPDATE SET value = $value", null, ("$key", key), ("$value", value));
    }

    /// <inheritdoc/>
    public void Dispose() => Database.Dispose();
}
