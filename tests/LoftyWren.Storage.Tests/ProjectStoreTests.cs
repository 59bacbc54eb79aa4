using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tests;
using LoftyWren.Storage.Projects;

namespace LoftyWren.Storage.Tests;

public class ProjectStoreTests : Folder
{
    private static JournalEntry Entry(Project project, params Edit[] edits) => Changes.Apply(project, new ChangeSet(edits, "engineer", 77)).Entry!;

    [Fact]
    public void What_was_written_is_read_again_with_its_revisions()
    {
        Project project = Project.Empty;
        using (var store = new ProjectStore(File("p.db")))
        {
            foreach (Edit[] edits in new Edit[][] { [.. KilnRoom.Project().Records.Select(r => Edit.Of(r))], [Edit.Of(KilnRoom.Project().Find<Place>(KilnRoom.Room)! with { Name = "Kiln hall" })], [Edit.Removing(new("f1"))] })
            {
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "engineer", 77));
                store.Write(outcome.Entry!);
                project = outcome.After!;
            }
        }
        using var again = new ProjectStore(File("p.db"));
        Project read = again.Load();
        Assert.Equal(3, read.Revision);
        Assert.Equal(project.Records.OrderBy(r => r.Id).Select(RecordJson.Write), read.Records.OrderBy(r => r.Id).Select(RecordJson.Write));
        Assert.Equal(2, read.FindEntry(KilnRoom.Room)!.Revision);
        Assert.Equal(1, read.FindEntry(KilnRoom.Site)!.Revision);
        Assert.Contains(read.Referrers(KilnRoom.Room), r => r.Id == KilnRoom.Fan);
    }

    [Fact]
    public void The_journal_keeps_who_when_what_and_both_sides()
    {
        using var store = new ProjectStore(File("p.db"));
        store.Write(Entry(Project.Empty, [.. KilnRoom.Project().Records.Select(r => Edit.Of(r))]));
        Project project = store.Load();
        store.Write(Entry(project, Edit.Of(project.Find<Place>(KilnRoom.Room)! with { Name = "Kiln hall" })) with { Author = "technician", Kind = JournalKind.Undo, Of = 1 });
        JournalEntry entry = store.Find(2)!;
        Assert.Equal(("technician", 77L, "Renamed room ‘Kiln room’ to ‘Kiln hall’", JournalKind.Undo, 1L), (entry.Author, entry.AtMilliseconds, entry.Label, entry.Kind, entry.Of!.Value));
        RecordChange change = Assert.Single(entry.Changes);
        Assert.Equal(("Kiln room", "Kiln hall"), (change.Before!.Name, change.After!.Name));
        Assert.Equal([2, 1], store.Page(long.MaxValue, 10).Select(e => e.Revision));
        Assert.Equal([1], store.Page(2, 10).Select(e => e.Revision));
        Assert.Equal([1], store.Of("engineer").Select(e => e.Revision));
        Assert.Null(store.Find(9));
    }

    [Fact]
    public void The_same_revision_twice_is_refused_and_changes_nothing()
    {
        using var store = new ProjectStore(File("p.db"));
        store.Write(Entry(Project.Empty, [.. KilnRoom.Project().Records.Select(r => Edit.Of(r))]));
        Project project = store.Load();
        JournalEntry twice = Entry(project, Edit.Of(project.Find<Place>(KilnRoom.Room)! with { Name = "Twice" })) with { Revision = 1 };
        Assert.Throws<Microsoft.Data.Sqlite.SqliteException>(() => store.Write(twice));
        Assert.Equal("Kiln room", store.Load().Find(KilnRoom.Room)!.Name);
    }

    [Fact]
    public void The_label_of_a_revision_is_read_without_its_changes()
    {
        using var store = new ProjectStore(File("p.db"));
        store.Write(Entry(Project.Empty, [.. KilnRoom.Project().Records.Select(r => Edit.Of(r))]) with { Label = "Made the kiln room" });
        Assert.Equal(("Made the kiln room", null, null), (store.LabelOf(1), store.LabelOf(0), store.LabelOf(2)));
    }
}
