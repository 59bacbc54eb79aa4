using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Accounts;

/// <summary>What an account may do; each role may do what those before it may.</summary>
public enum Role
{
    /// <summary>Looks.</summary>
    Viewer,
    /// <summary>Runs the building: acknowledges, holds by hand.</summary>
    Operator,
    /// <summary>Works on site: sends, sets inputs by hand, checks.</summary>
    Technician,
    /// <summary>Changes the project.</summary>
    Engineer,
    /// <summary>Manages accounts.</summary>
    Administrator,
}

/// <summary>One account. The stamp changes with the password, which ends every session made with the old one.</summary>
public sealed record Account(string Name, Role Role, string PasswordHash, string Stamp, int FailedTries, long LockedUntil);

/// <summary>Accounts on disk.</summary>
public sealed class AccountStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, "CREATE TABLE accounts (name TEXT PRIMARY KEY COLLATE NOCASE, role TEXT NOT NULL, hash TEXT NOT NULL, stamp TEXT NOT NULL, failed INTEGER NOT NULL DEFAULT 0, locked_until INTEGER NOT NULL DEFAULT 0) STRICT;"),
        new(2, "CREATE TABLE sessions (id TEXT PRIMARY KEY, name TEXT NOT NULL, at INTEGER NOT NULL) STRICT;"),
    ];
    /// <summary>How many sessions of one account are kept.</summary>
    public const int MostSessions = 200;

    private readonly Database _database;

    /// <summary>Opens or makes the store.</summary>
    public AccountStore(string path, bool asItIs = false) => _database = new Database(path, Form, asItIs: asItIs);

    /// <summary>The database beneath, for its backups.</summary>
    public Database Database => _database;

    /// <summary>Whether there is any account.</summary>
    public bool IsEmpty => All().Count == 0;

    /// <summary>All accounts by name.</summary>
    public IReadOnlyList<Account> All() => Query("SELECT name, role, hash, stamp, failed, locked_until FROM accounts ORDER BY name");

    /// <summary>The account of this name, letter case ignored, or null.</summary>
    public Account? Find(string name) => Query("SELECT name, role, hash, stamp, failed, locked_until FROM accounts WHERE name = $name", ("$name", name)).FirstOrDefault();

    /// <summary>Makes an account; answers false when the name is taken.</summary>
    public bool Add(Account account)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "INSERT OR IGNORE INTO accounts (name, role, hash, stamp) VALUES ($name, $role, $hash, $stamp)", null, ("$name", account.Name), ("$role", account.Role.ToString()), ("$hash", account.PasswordHash), ("$stamp", account.Stamp));
        return command.ExecuteNonQuery() > 0;
    }

    /// <summary>Writes an account's role, password, stamp and lock.</summary>
    public void Update(Account account)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "UPDATE accounts SET role = $role, hash = $hash, stamp = $stamp, failed = $failed, locked_until = $locked WHERE name = $name", null, ("$name", account.Name), ("$role", account.Role.ToString()), ("$hash", account.PasswordHash), ("$stamp", account.Stamp), ("$failed", account.FailedTries), ("$locked", account.LockedUntil));
    }

    /// <summary>The sessions that go on, by the hash of what their cookies carry.</summary>
    public IReadOnlyList<(string Id, string Name)> Sessions()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT id, name FROM sessions");
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<(string, string)>();
        while (r.Read()) list.Add((r.GetString(0), r.GetString(1)));
        return list;
    }

    /// <summary>Adds a session; of one account the newest <see cref="MostSessions"/> stay.</summary>
    public void AddSession(string id, string name, long at)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "INSERT INTO sessions (id, name, at) VALUES ($id, $name, $at); DELETE FROM sessions WHERE name = $name AND rowid NOT IN (SELECT rowid FROM sessions WHERE name = $name ORDER BY rowid DESC LIMIT $most)", null, ("$id", id), ("$name", name), ("$at", at), ("$most", MostSessions));
    }

    /// <summary>Removes sessions.</summary>
    public void RemoveSessions(IEnumerable<string> ids)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteTransaction transaction = connection.BeginTransaction();
        foreach (string id in ids) Database.Run(connection, "DELETE FROM sessions WHERE id = $id", transaction, ("$id", id));
        transaction.Commit();
    }

    /// <inheritdoc/>
    public void Dispose() => _database.Dispose();

    private List<Account> Query(string sql, params (string, object?)[] parameters)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, sql, null, parameters);
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<Account>();
        while (r.Read()) list.Add(new Account(r.GetString(0), Enum.Parse<Role>(r.GetString(1)), r.GetString(2), r.GetString(3), r.GetInt32(4), r.GetInt64(5)));
        return list;
    }
}
