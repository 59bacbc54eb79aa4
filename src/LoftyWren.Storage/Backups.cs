using System.Globalization;
using System.Text.RegularExpressions;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage;

/// <summary>One backup of a database: its number among all ever made of it, the revision it holds (0 for a database that does not count), when it was made.</summary>
public sealed record Backup(string Path, int Number, long Revision, DateTimeOffset At)
{
    /// <summary>Its name, by which it is asked for.</summary>
    public string Name => System.IO.Path.GetFileName(Path);
}

/// <summary>
/// Backups of databases, in <c>backups/NAME</c> beside them: made by SQLite's backup interface while the database is in use,
/// each opened and checked before it counts. The newest <see cref="Kept"/> stay, by their number: no look at the clock
/// decides what goes.
/// </summary>
public static partial class Backups
{
    /// <summary>How many of each database are kept.</summary>
    public const int Kept = 24;

    [GeneratedRegex(@"^.+\.(\d{6})\.r(\d+)\.(\d{8}T\d{6}Z)\.db$")]
    private static partial Regex NamePattern();

    /// <summary>The backups of a database, newest first.</summary>
    public static IReadOnlyList<Backup> Of(string databasePath)
    {
        string folder = FolderOf(databasePath);
        if (!Directory.Exists(folder)) return [];
        return [.. Directory.GetFiles(folder).Select(Read).OfType<Backup>().OrderByDescending(b => b.Number)];
    }

    /// <summary>Makes one of a database, checks it, and lets the oldest beyond <see cref="Kept"/> go.</summary>
    /// <exception cref="StorageException">It could not be written, or did not prove whole; the ones there stay.</exception>
    public static Backup Make(Database database)
    {
        using SqliteConnection connection = database.Open();
        return Make(connection, database.FilePath, database.Revision());
    }

    /// <summary>Makes one over a connection.</summary>
    internal static Backup Make(SqliteConnection connection, string databasePath, long revision)
    {
        string folder = FolderOf(databasePath);
        string part = Path.Combine(folder, $"{Stem(databasePath)}.{Guid.NewGuid():N}.part");
        try
        {
            Directory.CreateDirectory(folder);
            foreach (string left in Directory.GetFiles(folder, "*.part")) File.Delete(left);
            using (SqliteConnection copy = OpenFile(part, SqliteOpenMode.ReadWriteCreate))
            {
                connection.BackupDatabase(copy);
                // So that it is one file, without a log beside it.
                Database.Run(copy, "PRAGMA journal_mode = DELETE");
            }
            if (Trouble(part) is { } wrong) throw new StorageException($"A backup of {databasePath} was made but is not whole ({wrong}), so it does not count. The database itself may be damaged.");
            int number = (Of(databasePath).FirstOrDefault()?.Number ?? 0) + 1;
            DateTimeOffset at = DateTimeOffset.UtcNow;
            string path = Path.Combine(folder, string.Create(CultureInfo.InvariantCulture, $"{Stem(databasePath)}.{number:000000}.r{revision}.{at:yyyyMMdd'T'HHmmss'Z'}.db"));
            File.Move(part, path);
            foreach (Backup old in Of(databasePath).Skip(Kept)) File.Delete(old.Path);
            return new Backup(path, number, revision, at);
        }
        catch (Exception e) when (e is SqliteException or IOException or UnauthorizedAccessException)
        {
            File.Delete(part);
            throw new StorageException(e is SqliteException sqlite && StorageTrouble.Is(sqlite) ? StorageTrouble.Say(sqlite, folder) : $"A backup of {databasePath} could not be written: {e.Message}");
        }
    }

    /// <summary>What is wrong with a database file, opened for reading alone and checked page by page; null when it is whole.</summary>
    public static string? Trouble(string path)
    {
        if (!File.Exists(path)) return "it is gone";
        if (new FileInfo(path).Length == 0) return "it is empty";
        try
        {
            using SqliteConnection connection = OpenFile(path, SqliteOpenMode.ReadOnly);
            using SqliteCommand version = Database.Command(connection, "PRAGMA user_version");
            return (long)version.ExecuteScalar()! == 0 ? "it has no form" : Database.Check(connection);
        }
        catch (SqliteException e)
        {
            return e.Message;
        }
    }

    /// <summary>The newest backup that proves whole, or null.</summary>
    public static Backup? NewestGood(string databasePath) => Of(databasePath).FirstOrDefault(b => Trouble(b.Path) is null);

    /// <summary>What to do about a database that is not as it should be, when a revision was acknowledged last.</summary>
    public static string Advice(string databasePath, long acknowledged)
    {
        if (NewestGood(databasePath) is not { } good) return $"There is no good backup of it in {FolderOf(databasePath)}. Put a copy of your own in its place, or a project file once the program runs with another --data folder.";
        long missing = acknowledged - good.Revision;
        string lacks = good.Revision == 0 ? "" : missing <= 0 ? ", with every edit that was acknowledged" : $"; {missing} later edit{(missing == 1 ? " is" : "s are")} not in it";
        return $"The newest good backup is {good.Path}{(good.Revision == 0 ? "" : $", of revision {good.Revision}")}, made {good.At:yyyy-MM-dd HH:mm} UTC{lacks}. Start with --restore to put it back; the file that is there now is kept beside it.";
    }

    /// <summary>Puts a backup in the place of a database that nothing has open; what was there is kept beside it. Answers where, or null when there was nothing.</summary>
    /// <exception cref="StorageException">The backup is not whole, or cannot be put there.</exception>
    public static string? Restore(string databasePath, Backup backup)
    {
        if (Trouble(backup.Path) is { } wrong) throw new StorageException($"{backup.Path} is not whole ({wrong}), so nothing was put back.");
        try
        {
            string? aside = null;
            string mark = $".replaced-{DateTimeOffset.UtcNow.ToString("yyyyMMdd'T'HHmmss'Z'", CultureInfo.InvariantCulture)}";
            File.Copy(backup.Path, databasePath + ".part", overwrite: true);
            foreach (string suffix in new[] { "", "-wal", "-shm" })
            {
                if (!File.Exists(databasePath + suffix)) continue;
                File.Move(databasePath + suffix, databasePath + mark + suffix, overwrite: true);
                if (suffix.Length == 0) aside = databasePath + mark;
            }
            File.Move(databasePath + ".part", databasePath);
            // What was acknowledged later is known to be missing now, and must not be missed again.
            File.Delete(databasePath + ".state");
            return aside;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new StorageException($"{backup.Path} could not be put in the place of {databasePath}: {e.Message}");
        }
    }

    private static string FolderOf(string databasePath) => Path.Combine(Path.GetDirectoryName(Path.GetFullPath(databasePath))!, "backups", Stem(databasePath));

    private static string Stem(string databasePath) => Path.GetFileNameWithoutExtension(databasePath);

    private static SqliteConnection OpenFile(string path, SqliteOpenMode mode)
    {
        var connection = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = path, Mode = mode, Pooling = false }.ToString());
        connection.Open();
        return connection;
    }

    private static Backup? Read(string path)
    {
        Match match = NamePattern().Match(Path.GetFileName(path));
        return match.Success && DateTimeOffset.TryParseExact(match.Groups[3].Value, "yyyyMMdd'T'HHmmss'Z'", CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out DateTimeOffset at)
            ? new Backup(path, int.Parse(match.Groups[1].Value, CultureInfo.InvariantCulture), long.Parse(match.Groups[2].Value, CultureInfo.InvariantCulture), at)
            : null;
    }
}
