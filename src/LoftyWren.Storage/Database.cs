using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage;

/// <summary>Thrown when a database cannot be opened as it is; the message says which file, why and what to do.</summary>
public sealed class StorageException(string message) : Exception(message);

/// <summary>One numbered step of a database's form.</summary>
public sealed record Migration(int Number, string Sql);

/// <summary>
/// One SQLite file: write-ahead log, foreign keys, full synchronisation, so that a commit that was answered is on disk.
/// Opening migrates it, after a backup copy beside it; a file of a newer program is refused.
/// </summary>
public sealed class Database : IDisposable
{
    private readonly string _connectionString;

    /// <summary>Opens or makes the file and brings it to the newest form.</summary>
    /// <exception cref="StorageException">The file is no database, damaged, or of a newer program.</exception>
    public Database(string path, IReadOnlyList<Migration> migrations)
    {
        FilePath = path;
        _connectionString = new SqliteConnectionStringBuilder { DataSource = path, Mode = SqliteOpenMode.ReadWriteCreate, ForeignKeys = true, DefaultTimeout = 10, Pooling = true }.ToString();
        try
        {
            using SqliteConnection connection = Open();
            Migrate(connection, migrations);
        }
        catch (SqliteException e) when (e.SqliteErrorCode is 26 or 11)
        {
            throw new StorageException($"{path} is not a database of Lofty Wren, or is damaged ({e.Message}). Put a backup in its place; the newest is beside it, ending in .backup.");
        }
    }

    /// <summary>Where it is.</summary>
    public string FilePath { get; }

    /// <summary>A connection of its own, ready for use; dispose of it soon.</summary>
    public SqliteConnection Open()
    {
        var connection = new SqliteConnection(_connectionString);
        connection.Open();
        Run(connection, "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;");
        return connection;
    }

    /// <summary>What SQLite's own integrity check says; “ok” when the file is whole.</summary>
    public string CheckIntegrity()
    {
        using SqliteConnection connection = Open();
        using SqliteCommand command = connection.CreateCommand();
        command.CommandText = "PRAGMA integrity_check";
        return (string)command.ExecuteScalar()!;
    }

    /// <summary>Runs statements that answer nothing.</summary>
    public static void Run(SqliteConnection connection, string sql, SqliteTransaction? transaction = null, params (string Name, object? Value)[] parameters)
    {
        using SqliteCommand command = Command(connection, sql, transaction, parameters);
        command.ExecuteNonQuery();
    }

    /// <summary>A command with its parameters.</summary>
    public static SqliteCommand Command(SqliteConnection connection, string sql, SqliteTransaction? transaction = null, params (string Name, object? Value)[] parameters)
    {
        SqliteCommand command = connection.CreateCommand();
        command.CommandText = sql;
        command.Transaction = transaction;
        foreach (var (name, value) in parameters) command.Parameters.AddWithValue(name, value ?? DBNull.Value);
        return command;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        using var connection = new SqliteConnection(_connectionString);
        SqliteConnection.ClearPool(connection);
    }

    private void Migrate(SqliteConnection connection, IReadOnlyList<Migration> migrations)
    {
        using SqliteCommand ask = Command(connection, "PRAGMA user_version");
        long version = (long)ask.ExecuteScalar()!;
        int newest = migrations[^1].Number;
        if (version > newest)
            throw new StorageException($"{FilePath} was written by a newer Lofty Wren (form {version}; this program knows up to {newest}). Start the newer program, or put back a backup of form {newest} or less. Nothing was changed.");
        foreach (Migration migration in migrations.Where(m => m.Number > version))
        {
            if (version > 0)
            {
                string backup = $"{FilePath}.{version}.backup";
                File.Delete(backup);
                Run(connection, "VACUUM INTO $to", null, ("$to", backup));
            }
            using SqliteTransaction transaction = connection.BeginTransaction();
            Run(connection, migration.Sql, transaction);
            Run(connection, $"PRAGMA user_version = {migration.Number}", transaction);
            transaction.Commit();
            version = migration.Number;
        }
    }
}
