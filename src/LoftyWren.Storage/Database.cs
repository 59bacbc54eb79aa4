using System.Globalization;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage;

/// <summary>One numbered step of a database's form.</summary>
public sealed record Migration(int Number, string Sql);

/// <summary>
/// One SQLite file: write-ahead log, foreign keys, full synchronisation, so that a commit that was answered is on disk.
/// Opening checks it whole (<see cref="WholeCheck"/>) and migrates it, after a backup; a file of a newer program is refused.
/// Beside it lies <c>NAME.db.state</c>: the last revision that was acknowledged and whether the file is open, so that a
/// database that is gone, empty, or has lost its write-ahead log is found instead of made anew.
/// </summary>
public sealed class Database : IDisposable
{
    /// <summary>Up to which size opening checks every page; a larger file is checked when it is backed up.</summary>
    public const long WholeCheck = 256L * 1024 * 1024;

    private readonly string _connectionString;
    private readonly SqliteConnection _keeper;
    private readonly FileStream _state;
    private long _noted;
    private bool _isClosed;

    /// <summary>Opens or makes a file that no project hangs on. One that cannot be read is put aside, and another begun: nothing in it is worth a project that does not open.</summary>
    public static Database Dispensable(string path, IReadOnlyList<Migration> migrations)
    {
        try
        {
            return new Database(path, migrations);
        }
        catch (StorageException) when (File.Exists(path))
        {
            string aside = $".damaged-{DateTime.UtcNow:yyyyMMddHHmmssfff}";
            foreach (string part in new[] { path, path + "-wal", path + "-shm", path + ".state" }.Where(File.Exists)) File.Move(part, part + aside);
            return new Database(path, migrations);
        }
    }

    /// <summary>Opens or makes the file and brings it to the newest form.</summary>
    /// <param name="path">Where it is.</param>
    /// <param name="migrations">Its form, step by step.</param>
    /// <param name="revision">A statement that answers the revision it holds; none for databases that do not count.</param>
    /// <param name="asItIs">Goes on with what is there although acknowledged edits are missing.</param>
    /// <exception cref="StorageException">The file is no database, damaged, gone, or of a newer program; or its folder cannot be written. The message says what to do.</exception>
    public Database(string path, IReadOnlyList<Migration> migrations, string? revision = null, bool asItIs = false)
    {
        FilePath = path;
        RevisionSql = revision;
        _connectionString = new SqliteConnectionStringBuilder { DataSource = path, Mode = SqliteOpenMode.ReadWriteCreate, ForeignKeys = true, DefaultTimeout = 10, Pooling = true }.ToString();
        FileStream? state = null;
        SqliteConnection? keeper = null;
        try
        {
            state = new FileStream(path + ".state", FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.ReadWrite | FileShare.Delete, 0);
            var (noted, wasOpen, isKnown) = ReadState(state);
            bool isThere = File.Exists(path) && new FileInfo(path).Length > 0;
            if (!isThere && (isKnown || Backups.Of(path).Count > 0))
                throw new StorageException($"{path} is {(File.Exists(path) ? "empty" : "gone")}, though it was here. {Backups.Advice(path, noted)}");
            if (isThere && wasOpen && !asItIs && !File.Exists(path + "-wal"))
                throw new StorageException($"The write-ahead log {path}-wal is gone, though the program was not stopped in order: what was written last is missing. {Backups.Advice(path, noted)} Or start with --as-it-is to go on with what is there.");
            keeper = Open();
            if (isThere && new FileInfo(path).Length <= WholeCheck && Check(keeper) is { } wrong) throw Damaged(path, wrong, noted);
            _noted = noted;
            Migrate(keeper, migrations);
            long holds = RevisionOf(keeper);
            if (holds < noted && !asItIs)
                throw new StorageException($"{path} holds revision {holds}, though revision {noted} was acknowledged: {noted - holds} edit{(noted - holds == 1 ? " is" : "s are")} missing, since its write-ahead log was lost or damaged. {Backups.Advice(path, noted)} Or start with --as-it-is to go on from revision {holds}.");
            (_state, _keeper) = (state, keeper);
            Note(holds);
        }
        catch (Exception e) when (e is SqliteException or IOException or UnauthorizedAccessException or StorageException)
        {
            keeper?.Dispose();
            state?.Dispose();
            ClearPool();
            throw e switch
            {
                StorageException known => known,
                SqliteException { SqliteErrorCode: 11 or 26 } sqlite => Damaged(path, sqlite.Message, NotedIn(path)),
                SqliteException sqlite => new StorageException(StorageTrouble.Say(sqlite, path)),
                _ => new StorageException($"{path} cannot be opened: {e.Message} Check that the program may read and write in {Path.GetDirectoryName(path)}."),
            };
        }
    }

    /// <summary>Where it is.</summary>
    public string FilePath { get; }

    /// <summary>The statement that answers its revision, or null.</summary>
    public string? RevisionSql { get; }

    /// <summary>Whether connections opened from now on refuse to write, as on a disk that has become read-only: for tests.</summary>
    internal bool? RefusesWrites { get; set; }

    /// <summary>A connection of its own, ready for use; dispose of it soon.</summary>
    public SqliteConnection Open()
    {
        var connection = new SqliteConnection(_connectionString);
        connection.Open();
        Run(connection, "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;");
        if (RefusesWrites is { } refuses) Run(connection, $"PRAGMA query_only = {(refuses ? 1 : 0)}");
        return connection;
    }

    /// <summary>Notes the revision that was acknowledged last, beside the database.</summary>
    public void Note(long revision)
    {
        _noted = revision;
        WriteState(isOpen: true);
    }

    /// <summary>The revision it holds; 0 for one that does not count.</summary>
    public long Revision()
    {
        using SqliteConnection connection = Open();
        return RevisionOf(connection);
    }

    /// <summary>What SQLite's own integrity check says; “ok” when the file is whole.</summary>
    public string CheckIntegrity()
    {
        using SqliteConnection connection = Open();
        using SqliteCommand command = connection.CreateCommand();
        command.CommandText = "PRAGMA integrity_check";
        return (string)command.ExecuteScalar()!;
    }

    /// <summary>What is wrong with a database that is open, or null.</summary>
    public static string? Check(SqliteConnection connection)
    {
        using SqliteCommand command = Command(connection, "PRAGMA quick_check(1)");
        return command.ExecuteScalar() is string said && said != "ok" ? said : null;
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

    /// <summary>The revision that was noted beside a database; 0 when none was.</summary>
    internal static long NotedIn(string path)
    {
        try
        {
            using var state = new FileStream(path + ".state", FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
            return ReadState(state).Noted;
        }
        catch (IOException)
        {
            return 0;
        }
    }

    /// <summary>Brings everything from the write-ahead log into the file and closes it.</summary>
    public void Dispose()
    {
        if (_isClosed) return;
        _isClosed = true;
        bool isWhole = false;
        try
        {
            Run(_keeper, "PRAGMA wal_checkpoint(TRUNCATE)");
            isWhole = true;
        }
        catch (SqliteException)
        {
            // A disk without room: the log stays beside the file and is taken in at the next start.
        }
        _keeper.Dispose();
        ClearPool();
        if (isWhole) WriteState(isOpen: false);
        _state.Dispose();
    }

    private void ClearPool()
    {
        using var connection = new SqliteConnection(_connectionString);
        SqliteConnection.ClearPool(connection);
    }

    private long RevisionOf(SqliteConnection connection)
    {
        if (RevisionSql is null) return 0;
        using SqliteCommand command = Command(connection, RevisionSql);
        return (long)command.ExecuteScalar()!;
    }

    private static StorageException Damaged(string path, string what, long noted) =>
        new($"{path} is damaged, or not a database of Lofty Wren ({what.Trim().TrimEnd('.')}). It was left as it is. {Backups.Advice(path, noted)}");

    // The state is one line of fixed length, written in its place: the noted revision and whether the database is open.
    private void WriteState(bool isOpen)
    {
        try
        {
            _state.Position = 0;
            _state.Write(System.Text.Encoding.ASCII.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{_noted,19} {(isOpen ? "open  " : "closed")}\n")));
        }
        catch (IOException)
        {
            // Without room even for this, the noted revision stays behind what is on disk, which is safe: it only ever warns of less.
        }
    }

    private static (long Noted, bool WasOpen, bool IsKnown) ReadState(FileStream state)
    {
        byte[] bytes = new byte[27];
        state.Position = 0;
        string text = System.Text.Encoding.ASCII.GetString(bytes, 0, state.ReadAtLeast(bytes, bytes.Length, throwOnEndOfStream: false));
        return text.Length < 25 || !long.TryParse(text[..19], NumberStyles.AllowLeadingWhite, CultureInfo.InvariantCulture, out long noted)
            ? (0, false, false)
            : (noted, text[20..].StartsWith("open", StringComparison.Ordinal), true);
    }

    private void Migrate(SqliteConnection connection, IReadOnlyList<Migration> migrations)
    {
        using SqliteCommand ask = Command(connection, "PRAGMA user_version");
        long version = (long)ask.ExecuteScalar()!;
        int newest = migrations[^1].Number;
        if (version > newest)
            throw new StorageException($"{FilePath} was written by a newer Lofty Wren (form {version}; this program knows up to {newest}). Start the newer program, or put back a backup of form {newest} or less. Nothing was changed.");
        if (version > 0 && version < newest) Backups.Make(connection, FilePath, RevisionOf(connection));
        foreach (Migration migration in migrations.Where(m => m.Number > version))
        {
            using SqliteTransaction transaction = connection.BeginTransaction();
            Run(connection, migration.Sql, transaction);
            Run(connection, $"PRAGMA user_version = {migration.Number}", transaction);
            transaction.Commit();
        }
    }
}
