using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Tests;
using LoftyWren.Storage.Projects;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Tests;

/// <summary>What is damaged, gone, empty or full is found and said, with what to do; nothing acknowledged is lost without a word.</summary>
public class BackupTests : Folder
{
    private string Path => File("p.db");

    private static void Edit(ProjectStore store, string name)
    {
        Project project = store.Load();
        Edit[] edits = project.Revision == 0 ? [.. KilnRoom.Project().Records.Select(r => Core.Projects.Edit.Of(r))] : [Core.Projects.Edit.Of((Place)project.Find(KilnRoom.Room)! with { Name = name }, project.FindEntry(KilnRoom.Room)!.Revision)];
        store.Write(Changes.Apply(project, new ChangeSet(edits, "engineer", 77)).Entry!);
    }

    /// <summary>A store with a number of edits, backed up after some of them.</summary>
    private void Make(int edits, params int[] backedUpAfter)
    {
        using var store = new ProjectStore(Path);
        for (int i = 1; i <= edits; i++)
        {
            Edit(store, $"Room {i}");
            if (backedUpAfter.Contains(i)) Backups.Make(store.Database);
        }
    }

    private string Refusal() => Assert.Throws<StorageException>(() => new ProjectStore(Path)).Message;

    [Fact]
    public void A_backup_is_whole_says_its_revision_and_only_so_many_are_kept()
    {
        Make(3, 1, 3);
        Assert.Equal([(2, 3L), (1, 1L)], Backups.Of(Path).Select(b => (b.Number, b.Revision)));
        Assert.All(Backups.Of(Path), b => Assert.Null(Backups.Trouble(b.Path)));
        using var store = new ProjectStore(Path);
        for (int i = 0; i < Backups.Kept + 3; i++) Backups.Make(store.Database);
        Assert.Equal(Enumerable.Range(0, Backups.Kept).Select(i => Backups.Kept + 5 - i), Backups.Of(Path).Select(b => b.Number));
        Assert.Equal("Room 3", ProjectStore.Load(Backups.Of(Path)[0]).Find(KilnRoom.Room)!.Name);
    }

    // The first 24 bytes overwritten, an empty file, no file: each once took the project with it.
    [Theory]
    [InlineData("header", "is damaged")]
    [InlineData("middle", "is damaged")]
    [InlineData("empty", "is empty, though it was here")]
    [InlineData("gone", "is gone, though it was here")]
    public void A_damaged_database_is_refused_with_the_newest_good_backup_and_what_it_lacks(string damage, string what)
    {
        Make(5, 2, 3);
        switch (damage)
        {
            case "header": Overwrite(Path, 0, 24); break;
            case "middle": Overwrite(Path, 4096, (int)new FileInfo(Path).Length - 4096); break;
            case "empty": System.IO.File.WriteAllBytes(Path, []); break;
            default: System.IO.File.Delete(Path); break;
        }
        // The newest backup is damaged too: only a good one may be named.
        Overwrite(Backups.Of(Path)[0].Path, 0, 24);
        string why = Refusal();
        Assert.Contains(what, why);
        Assert.Contains($"The newest good backup is {Backups.Of(Path)[1].Path}, of revision 2", why);
        Assert.Contains("3 later edits are not in it", why);
        Assert.Contains("--restore", why);
        Assert.Contains(what, Refusal());

        string? aside = Backups.Restore(Path, Backups.NewestGood(Path)!);
        Assert.Equal(damage != "gone", aside is not null && System.IO.File.Exists(aside));
        using var again = new ProjectStore(Path);
        Assert.Equal(2, again.Load().Revision);
    }

    [Fact]
    public void A_backup_that_is_not_whole_is_never_put_back()
    {
        Make(2, 2);
        Overwrite(Backups.Of(Path)[0].Path, 0, 24);
        byte[] before = System.IO.File.ReadAllBytes(Path);
        Assert.Contains("nothing was put back", Assert.Throws<StorageException>(() => Backups.Restore(Path, Backups.Of(Path)[0])).Message);
        Assert.Equal(before, System.IO.File.ReadAllBytes(Path));
        Assert.Null(Backups.NewestGood(Path));
    }

    [Fact]
    public void An_orderly_stop_leaves_everything_in_the_file_and_no_log()
    {
        Make(5);
        Assert.False(System.IO.File.Exists(Path + "-wal"));
        System.IO.File.Copy(Path, File("alone.db"));
        using var alone = new ProjectStore(File("alone.db"));
        Assert.Equal(5, alone.Load().Revision);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void A_lost_or_damaged_log_is_found_and_going_on_without_it_is_a_choice(bool gone)
    {
        // What a kill leaves: the file, its log with three edits, and the note of five acknowledged ones.
        using (var store = new ProjectStore(Path))
        {
            Edit(store, "one");
            Edit(store, "two");
            using (SqliteConnection connection = store.Database.Open()) Database.Run(connection, "PRAGMA wal_checkpoint(TRUNCATE)");
            for (int i = 3; i <= 5; i++) Edit(store, $"Room {i}");
            foreach (string suffix in new[] { "", "-wal", ".state" }) System.IO.File.Copy(Path + suffix, File("killed.db") + suffix);
        }
        string killed = File("killed.db");
        if (gone) System.IO.File.Delete(killed + "-wal");
        else Overwrite(killed + "-wal", 32, 200);
        string why = Assert.Throws<StorageException>(() => new ProjectStore(killed)).Message;
        Assert.Contains(gone ? "is gone, though the program was not stopped in order" : "holds revision 2, though revision 5 was acknowledged: 3 edits are missing", why);
        using (var store = new ProjectStore(killed, asItIs: true)) Assert.Equal(2, store.Load().Revision);
        using (var store = new ProjectStore(killed)) Assert.Equal(2, store.Load().Revision);
    }

    [Fact]
    public void Killed_with_its_log_it_loses_nothing()
    {
        using (var store = new ProjectStore(Path))
        {
            for (int i = 1; i <= 5; i++) Edit(store, $"Room {i}");
            foreach (string suffix in new[] { "", "-wal", ".state" }) System.IO.File.Copy(Path + suffix, File("killed.db") + suffix);
        }
        using var again = new ProjectStore(File("killed.db"));
        Assert.Equal(5, again.Load().Revision);
    }

    [Fact]
    public void A_disk_without_room_changes_nothing_and_says_so_and_it_goes_on_when_there_is_room()
    {
        using var store = new ProjectStore(Path);
        Edit(store, "one");
        Project before = store.Load();
        JournalEntry large = Changes.Apply(before, new ChangeSet([.. Enumerable.Range(0, 2000).Select(i => Core.Projects.Edit.Of(new Place { Id = new($"r{i}"), Name = $"Room {i}", Kind = PlaceKind.Room, In = KilnRoom.Floor }))], "engineer", 1)).Entry!;
        store.LimitPages(1);
        var full = Assert.Throws<SqliteException>(() => store.Write(large));
        Assert.True(StorageTrouble.Is(full));
        Assert.Contains("There is no room left on the disk", StorageTrouble.Say(full, Path));
        Assert.Equal((before.Revision, before.Count), (store.Load().Revision, store.Load().Count));
        store.LimitPages(1_000_000);
        store.Write(large);
        Assert.Equal(before.Count + 2000, store.Load().Count);
    }

    private static void Overwrite(string path, int from, int count)
    {
        using var file = new FileStream(path, FileMode.Open);
        file.Position = from;
        file.Write([.. Enumerable.Repeat((byte)0x5A, count)]);
    }
}
