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

    [Fact]
    public void A_records_past_is_read_by_itself_and_a_past_revision_by_its_changes()
    {
        using var store = new ProjectStore(File("p.db"));
        var states = new List<Project> { Project.Empty };
        void Do(params Edit[] edits)
        {
            ChangeOutcome outcome = Changes.Apply(states[^1], new ChangeSet(edits, "engineer", 77));
            Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
            store.Write(outcome.Entry!);
            states.Add(outcome.After!);
        }
        Place room = KilnRoom.Project().Find<Place>(KilnRoom.Room)!;
        Do([.. KilnRoom.Project().Records.Select(r => Edit.Of(r))]);
        Do(Edit.Of(room with { Name = "Kiln hall" }));
        Do(Edit.Of(states[^1].Find(KilnRoom.Building)! with { Name = "Kilns" }));
        Do(Edit.Of(room with { Name = "Kiln shed" }), Edit.Removing(new("f1")));
        var past = store.PastOf(KilnRoom.Room, 10);
        Assert.Equal([4L, 2L, 1L], past.Select(e => e.Revision));
        Assert.Equal(["Kiln shed", "Kiln hall", "Kiln room"], past.Select(e => Assert.Single(e.Changes).After!.Name));
        Assert.Equal([1L], store.PastOf(KilnRoom.Room, 10, below: 2).Select(e => e.Revision));
        Assert.Equal(["Kiln room", "Kiln hall", "Kiln hall", "Kiln shed"], new[] { 1L, 2L, 3L, 4L }.Select(r => store.RecordAt(KilnRoom.Room, r)!.Name));
        Assert.Equal((true, null), (store.RecordAt(new("f1"), 3) is not null, store.RecordAt(new("f1"), 4)));
        for (int revision = 0; revision <= 4; revision++)
        {
            Project then = Differences.Before(states[^1], revision, store.Above(revision));
            Assert.Empty(Differences.Between(then, states[revision]));
            Assert.All(states[revision].Records, r => Assert.Equal(states[revision].FindEntry(r.Id)!.Revision, then.FindEntry(r.Id)!.Revision));
        }
    }

    [Fact]
    public void A_store_of_the_form_before_keeps_its_journal_and_its_records()
    {
        // As version 2 wrote it: sorts by the names of their classes, changes as one text a revision.
        using (var old = new Database(File("p.db"), [new(1, """
            CREATE TABLE records (id TEXT PRIMARY KEY, type TEXT NOT NULL, name TEXT NOT NULL, parent TEXT, revision INTEGER NOT NULL, body TEXT NOT NULL) STRICT;
            CREATE INDEX records_by_type ON records (type);
            CREATE INDEX records_by_parent ON records (parent);
            CREATE TABLE journal (revision INTEGER PRIMARY KEY, at INTEGER NOT NULL, author TEXT NOT NULL, label TEXT NOT NULL, kind TEXT NOT NULL, of INTEGER, changes TEXT NOT NULL) STRICT;
            CREATE INDEX journal_by_author ON journal (author, revision);
            INSERT INTO records VALUES ('site', 'Place', 'Works', NULL, 2, '{"type":"place","id":"site","name":"Works","kind":"site","order":0,"outline":[],"timeZone":"Europe/London"}'), ('t', 'TrendLog', 'T', 'p', 1, '{"type":"trend","id":"t","name":"T","pointId":"p"}'), ('r', 'TaggingRule', 'R', NULL, 1, '{"type":"taggingRule","id":"r","name":"R","condition":"has x","gives":{"y":"M"}}');
            INSERT INTO journal VALUES
                (1, 5, 'engineer', 'Began', 'Edit', NULL, '[{"id":"site","beforeRevision":0,"after":{"type":"place","id":"site","name":"Site","kind":"site","timeZone":"Europe/London"}},{"id":"gone","beforeRevision":0,"after":{"type":"place","id":"gone","name":"Barn","kind":"building","in":"site"}}]'),
                (2, 6, 'engineer', 'Renamed', 'Edit', NULL, '[{"id":"site","before":{"type":"place","id":"site","name":"Site","kind":"site","timeZone":"Europe/London"},"beforeRevision":1,"after":{"type":"place","id":"site","name":"Works","kind":"site","timeZone":"Europe/London"}},{"id":"gone","before":{"type":"place","id":"gone","name":"Barn","kind":"building","in":"site"},"beforeRevision":1}]');
            """), new(2, "CREATE TABLE snapshots (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, at INTEGER NOT NULL, author TEXT NOT NULL, revision INTEGER NOT NULL, automatic INTEGER NOT NULL) STRICT;")]))
        {
        }
        using var store = new ProjectStore(File("p.db"));
        Assert.Equal((2, 3), ((int)store.Load().Revision, store.Load().Count));
        JournalEntry second = store.Find(2)!;
        Assert.Equal([("site", "Site", 1L, "Works"), ("gone", "Barn", 1L, null)], second.Changes.Select(c => (c.Id.Value, c.Before?.Name, c.BeforeRevision, c.After?.Name)));
        Assert.Equal(["Renamed", "Began"], store.PastOf(new("site"), 9).Select(e => e.Label));
        using Microsoft.Data.Sqlite.SqliteConnection connection = store.Database.Open();
        using Microsoft.Data.Sqlite.SqliteCommand types = Database.Command(connection, "SELECT group_concat(type, ' ') FROM (SELECT type FROM records ORDER BY id)");
        Assert.Equal("taggingRule place trend", types.ExecuteScalar());
    }

    [Fact]
    public void A_kind_that_only_tests_know_is_kept_and_journaled()
    {
        using var store = new ProjectStore(File("p.db"));
        var hatch = new Core.Tests.Records.Hatch { Id = new("h"), Name = "Hatch", OwnerId = KilnRoom.Room, Address = 3, Opens = [KilnRoom.Temperature] };
        store.Write(Entry(Project.Empty, [.. KilnRoom.Project().Records.Select(r => Edit.Of(r)), Edit.Of(hatch)]));
        Assert.True(RecordJson.Same(hatch, store.Load().Find(hatch.Id)));
        Assert.True(RecordJson.Same(hatch, store.PastOf(hatch.Id, 1)[0].Changes[0].After));
    }
}
