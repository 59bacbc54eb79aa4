using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Core.Tests;
using LoftyWren.Storage.Libraries;
using LoftyWren.Storage.Projects;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Tests;

/// <summary>The list of projects, copies of projects, and libraries on disk.</summary>
public class ListsAndLibrariesTests : Folder
{
    private static Template Fan(string comment) => new() { Id = "fan", Name = "Fan", Comment = comment, Author = "engineer", Records = [new Core.Points.Equipment { Id = new("t-root"), Name = "Fan", Kind = "extract fan", PlaceId = Template.Parent }] };

    [Fact]
    public void Projects_are_listed_by_name_archived_and_brought_back()
    {
        using (var list = new ProjectList(File("projects.db")))
        {
            Assert.True(list.Add(new ListedProject("quay", "Quay", 5, "engineer", null, null)));
            Assert.True(list.Add(new ListedProject("barn", "Barn", 6, "engineer", "main", null)));
            // Neither an id nor a name is there twice, whatever its letter case; and nothing is overwritten.
            Assert.False(list.Add(new ListedProject("quay", "Other", 7, "engineer", null, null)));
            Assert.False(list.Add(new ListedProject("other", "QUAY", 7, "engineer", null, null)));
            Assert.False(list.Rename("barn", "quay"));
            Assert.True(list.Rename("barn", "Long barn"));
            Assert.True(list.Archive("quay", 99));
            Assert.False(list.Archive("nothing", 99));
            list.Set("copies", "a");
            list.Set("copies", "b");
        }
        using var again = new ProjectList(File("projects.db"));
        Assert.Equal([new ListedProject("barn", "Long barn", 6, "engineer", "main", null), new ListedProject("quay", "Quay", 5, "engineer", null, 99)], again.All());
        Assert.True(again.Archive("quay", null));
        Assert.Null(again.Find("quay")!.ArchivedAt);
        Assert.Null(again.Find("nothing"));
        Assert.Equal(("b", null), (again.Setting("copies"), again.Setting("other")));
    }

    [Fact]
    public void A_copy_of_a_project_holds_records_journal_and_snapshots_and_goes_its_own_way()
    {
        using var store = new ProjectStore(File("p.db"));
        store.Write(Changes.Apply(Project.Empty, new ChangeSet([.. KilnRoom.Project().Records.Select(r => Edit.Of(r))], "engineer", 77)).Entry!);
        store.AddSnapshot("As drawn", 78, "engineer", 1, false);
        store.CopyTo(File("copy.db"));
        store.Write(Changes.Apply(store.Load(), new ChangeSet([Edit.Of(store.Load().Find<Place>(KilnRoom.Room)! with { Name = "Kiln hall" })], "engineer", 79)).Entry!);
        using var copy = new ProjectStore(File("copy.db"));
        Assert.Equal((1L, "Kiln room"), (copy.Load().Revision, copy.Load().Find(KilnRoom.Room)!.Name));
        Assert.Equal("As drawn", Assert.Single(copy.Snapshots()).Name);
        Assert.Equal(KilnRoom.Project().Records.OrderBy(r => r.Id).Select(RecordJson.Write), copy.Load().Records.OrderBy(r => r.Id).Select(RecordJson.Write));
        Assert.Equal("ok", copy.Database.CheckIntegrity());
        // Over a file that is there nothing is written.
        Assert.Throws<SqliteException>(() => store.CopyTo(File("copy.db")));
    }

    [Fact]
    public void A_library_of_the_first_form_is_read_and_can_be_closed_for_writing()
    {
        using (var old = new Database(File("l.db"), [new Migration(1, """
            CREATE TABLE libraries (id TEXT PRIMARY KEY, name TEXT NOT NULL COLLATE NOCASE, owner TEXT, UNIQUE (name, owner)) STRICT;
            CREATE TABLE templates (library TEXT NOT NULL REFERENCES libraries (id), id TEXT NOT NULL, revision INTEGER NOT NULL, name TEXT NOT NULL, folder TEXT NOT NULL, author TEXT NOT NULL, comment TEXT NOT NULL, at INTEGER NOT NULL, body TEXT NOT NULL, PRIMARY KEY (library, id, revision)) STRICT;
            INSERT INTO libraries VALUES ('house', 'House', NULL), ('mine', 'Mine', 'engineer');
            """)])) Assert.Equal("ok", old.CheckIntegrity());
        using var store = new LibraryStore(File("l.db"));
        Assert.Equal([new Library("house", "House", null), new Library("mine", "Mine", "engineer")], store.All());
        store.SetForReading("house", true);
        Assert.Equal([true, false], store.All().Select(l => l.IsForReading));
        store.SetForReading("house", false);
        Assert.DoesNotContain(store.All(), l => l.IsForReading);
    }

    [Fact]
    public void Every_revision_of_a_template_stays_and_the_slower_of_two_is_told()
    {
        using var store = new LibraryStore(File("l.db"));
        Assert.True(store.Add(new Library("house", "House", null)));
        Assert.False(store.Add(new Library("other", "house", null)));
        Assert.True(store.Add(new Library("own", "House", "engineer")));
        Assert.Equal(1, store.Save("house", Fan("first"), 0, 10)!.Revision);
        Assert.Equal(2, store.Save("house", Fan("second"), 1, 11)!.Revision);
        Assert.Null(store.Save("house", Fan("too late"), 1, 12));
        Assert.Equal(["second", "first"], store.Revisions("house", "fan").Select(r => r.Comment));
        Assert.Equal(("first", "second"), (store.Find("house", "fan", 1)!.Comment, store.Find("house", "fan")!.Comment));
        Assert.Equal("second", Assert.Single(store.Templates("house")).Comment);
        Assert.Null(store.Find("own", "fan"));
        Assert.Equal("second", store.FindAnywhere("fan")!.Comment);
    }
}
