using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Tests;

public class DatabaseTests : Folder
{
    private static readonly Migration[] First = [new(1, "CREATE TABLE a (x INTEGER PRIMARY KEY) STRICT")], Second = [.. First, new(2, "CREATE TABLE b (y INTEGER REFERENCES a (x)) STRICT")];

    private static object? Ask(Database database, string sql)
    {
        using SqliteConnection connection = database.Open();
        using SqliteCommand command = Database.Command(connection, sql);
        return command.ExecuteScalar();
    }

    [Fact]
    public void It_writes_ahead_keeps_foreign_keys_and_waits_for_the_disk()
    {
        using var database = new Database(File("x.db"), Second);
        Assert.Equal("wal", Ask(database, "PRAGMA journal_mode"));
        Assert.Equal(1L, Ask(database, "PRAGMA foreign_keys"));
        Assert.Equal(2L, Ask(database, "PRAGMA synchronous"));
        Assert.Equal("ok", database.CheckIntegrity());
        using SqliteConnection connection = database.Open();
        Assert.Equal(19, Assert.Throws<SqliteException>(() => Database.Run(connection, "INSERT INTO b VALUES (7)")).SqliteErrorCode);
    }

    [Fact]
    public void A_migration_leaves_a_backup_of_what_was()
    {
        using (var database = new Database(File("x.db"), First))
        using (SqliteConnection connection = database.Open()) Database.Run(connection, "INSERT INTO a VALUES (41)");
        using (var database = new Database(File("x.db"), Second))
        {
            Assert.Equal(2L, Ask(database, "PRAGMA user_version"));
            Assert.Equal(41L, Ask(database, "SELECT x FROM a"));
        }
        using var backup = new Database(Backups.Of(File("x.db"))[0].Path, First);
        Assert.Equal(1L, Ask(backup, "PRAGMA user_version"));
        Assert.Equal(41L, Ask(backup, "SELECT x FROM a"));
    }

    [Fact]
    public void A_migration_that_fails_changes_nothing()
    {
        using (new Database(File("x.db"), First)) { }
        Assert.ThrowsAny<Exception>(() => new Database(File("x.db"), [.. First, new Migration(2, "CREATE TABLE b (y INTEGER); CREATE TABLE a (x INTEGER)")]));
        using var database = new Database(File("x.db"), First);
        Assert.Equal(1L, Ask(database, "PRAGMA user_version"));
        Assert.Equal(0L, Ask(database, "SELECT count(*) FROM sqlite_master WHERE name = 'b'"));
    }

    [Fact]
    public void A_newer_form_is_refused_in_words()
    {
        using (new Database(File("x.db"), Second)) { }
        string why = Assert.Throws<StorageException>(() => new Database(File("x.db"), First)).Message;
        Assert.Contains("was written by a newer Lofty Wren (form 2; this program knows up to 1)", why);
        Assert.Contains("Nothing was changed", why);
    }

    [Fact]
    public void A_file_that_is_no_database_is_refused_in_words_and_left_alone()
    {
        System.IO.File.WriteAllText(File("x.db"), new string('x', 5000));
        Assert.Contains("not a database of Lofty Wren", Assert.Throws<StorageException>(() => new Database(File("x.db"), First)).Message);
        Assert.Equal(5000, new FileInfo(File("x.db")).Length);
    }
}
