using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Projects;

/// <summary>A revision with a name. The journal holds every revision, so a snapshot needs no copy of its own.</summary>
public sealed record Snapshot(long Id, string Name, long AtMilliseconds, string Author, long Revision, bool Automatic);

/// <summary>The project on disk: current records and the journal of every accepted change set, written together in one transaction.</summary>
public sealed class ProjectStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, """
            CREATE TABLE records (id TEXT PRIMARY KEY, type TEXT NOT NULL, name TEXT NOT NULL, parent TEXT, revision INTEGER NOT NULL, body TEXT NOT NULL) STRICT;
            CREATE INDEX records_by_type ON records (type);
            CREATE INDEX records_by_parent ON records (parent);
            CREATE TABLE journal (revision INTEGER PRIMARY KEY, at INTEGER NOT NULL, author TEXT NOT NULL, label TEXT NOT NULL, kind TEXT NOT NULL, of INTEGER, changes TEXT NOT NULL) STRICT;
            CREATE INDEX journal_by_author ON journal (author, revision);
            """),
        new(2, "CREATE TABLE snapshots (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, at INTEGER NOT NULL, author TEXT NOT NULL, revision INTEGER NOT NULL, automatic INTEGER NOT NULL) STRICT;"),
        // What a change set changed stands in a row a record, so that a record's past is read without the rest; and a kind of
        // record goes by one name everywhere.
        new(3, """
            CREATE TABLE changes (revision INTEGER NOT NULL, record TEXT NOT NULL, place INTEGER NOT NULL, before_revision INTEGER NOT NULL, before TEXT, after TEXT, PRIMARY KEY (revision, record)) STRICT, WITHOUT ROWID;
            INSERT INTO changes (revision, record, place, before_revision, before, after)
                SELECT j.revision, json_extract(c.value, '$.id'), c.key, COALESCE(json_extract(c.value, '$.beforeRevision'), 0), json_extract(c.value, '$.before'), json_extract(c.value, '$.after') FROM journal j, json_each(j.changes) c;
            CREATE INDEX changes_by_record ON changes (record, revision);
            ALTER TABLE journal DROP COLUMN changes;
            UPDATE records SET type = CASE type WHEN 'TrendLog' THEN 'trend' WHEN 'AlarmRule' THEN 'alarm' ELSE lower(substr(type, 1, 1)) || substr(type, 2) END;
            """),
    ];

    private readonly Database _database;
    private readonly SqliteConnection _writer;

    /// <summary>Opens or makes the store.</summary>
    /// <param name="path">Where it is.</param>
    /// <param name="asItIs">Goes on although acknowledged edits are missing.</param>
    public ProjectStore(string path, bool asItIs = false)
    {
        _database = new Database(path, Form, "SELECT COALESCE(MAX(revision), 0) FROM journal", asItIs);
        _writer = _database.Open();
    }

    /// <summary>The database beneath, for its integrity check.</summary>
    public Database Database => _database;

    /// <summary>Lets the file have no more than so many pages, but at least those it has: a full disk for tests.</summary>
    internal void LimitPages(int most) => Database.Run(_writer, $"PRAGMA max_page_count = {most}");

    /// <summary>Reads the project as it was last accepted.</summary>
    public Project Load()
    {
        using SqliteConnection connection = _database.Open();
        return Load(connection);
    }

    private static Project Load(SqliteConnection connection)
    {
        using SqliteCommand top = Database.Command(connection, "SELECT COALESCE(MAX(revision), 0) FROM journal");
        long revision = (long)top.ExecuteScalar()!;
        var entries = new List<Entry>();
        using SqliteCommand all = Database.Command(connection, "SELECT body, revision FROM records");
        using SqliteDataReader reader = all.ExecuteReader();
        while (reader.Read()) entries.Add(new Entry(RecordJson.Read(reader.GetString(0)), reader.GetInt64(1)));
        return Project.Load(revision, entries);
    }

    /// <summary>Writes one accepted change set; when it returns, the edit is on disk. The caller takes turns.</summary>
    public void Write(JournalEntry entry)
    {
        using SqliteTransaction transaction = _writer.BeginTransaction();
        using SqliteCommand put = Database.Command(_writer, "INSERT INTO records (id, type, name, parent, revision, body) VALUES ($id, $type, $name, $parent, $revision, $body) ON CONFLICT (id) DO UPDATE SET type = $type, name = $name, parent = $parent, revision = $revision, body = $body", transaction);
        SqliteParameter id = put.Parameters.Add("$id", SqliteType.Text), type = put.Parameters.Add("$type", SqliteType.Text), name = put.Parameters.Add("$name", SqliteType.Text);
        SqliteParameter parent = put.Parameters.Add("$parent", SqliteType.Text), body = put.Parameters.Add("$body", SqliteType.Text);
        put.Parameters.AddWithValue("$revision", entry.Revision);
        using SqliteCommand remove = Database.Command(_writer, "DELETE FROM records WHERE id = $id", transaction);
        SqliteParameter gone = remove.Parameters.Add("$id", SqliteType.Text);
        using SqliteCommand note = Database.Command(_writer, "INSERT INTO changes (revision, record, place, before_revision, before, after) VALUES ($revision, $record, $place, $before_revision, $before, $after)", transaction);
        SqliteParameter changed = note.Parameters.Add("$record", SqliteType.Text), place = note.Parameters.Add("$place", SqliteType.Integer), since = note.Parameters.Add("$before_revision", SqliteType.Integer);
        SqliteParameter before = note.Parameters.Add("$before", SqliteType.Text), after = note.Parameters.Add("$after", SqliteType.Text);
        note.Parameters.AddWithValue("$revision", entry.Revision);
        for (int i = 0; i < entry.Changes.Count; i++)
        {
            RecordChange change = entry.Changes[i];
            after.Value = DBNull.Value;
            if (change.After is { } record)
            {
                id.Value = record.Id.Value;
                type.Value = RecordKinds.Of(record).Key;
                name.Value = record.Name;
                parent.Value = (object?)record.ParentId?.Value ?? DBNull.Value;
                body.Value = after.Value = RecordJson.Write(record);
                put.ExecuteNonQuery();
            }
            else
            {
                gone.Value = change.Id.Value;
                remove.ExecuteNonQuery();
            }
            changed.Value = change.Id.Value;
            place.Value = i;
            since.Value = change.BeforeRevision;
            before.Value = change.Before is { } was ? RecordJson.Write(was) : DBNull.Value;
            note.ExecuteNonQuery();
        }
        Database.Run(_writer, "INSERT INTO journal (revision, at, author, label, kind, of) VALUES ($revision, $at, $author, $label, $kind, $of)", transaction,
            ("$revision", entry.Revision), ("$at", entry.AtMilliseconds), ("$author", entry.Author), ("$label", entry.Label), ("$kind", entry.Kind.ToString()), ("$of", entry.Of));
        transaction.Commit();
        _database.Note(entry.Revision);
    }

    /// <summary>What was changed above a revision, newest first: what is to be taken back to come to it.</summary>
    public IEnumerable<RecordChange> Above(long revision)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT record, before, before_revision, after FROM changes WHERE revision > $revision ORDER BY revision DESC", null, ("$revision", revision));
        using SqliteDataReader reader = command.ExecuteReader();
        while (reader.Read()) yield return Change(reader);
    }

    /// <summary>The change sets that touched one record, newest first, each with that record's change alone; the rest of the journal is not read.</summary>
    public IReadOnlyList<JournalEntry> PastOf(RecordId id, int count, long below = long.MaxValue)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, """
            SELECT j.revision, j.at, j.author, j.label, j.kind, j.of, c.record, c.before, c.before_revision, c.after FROM changes c JOIN journal j ON j.revision = c.revision
            WHERE c.record = $id AND c.revision < $below ORDER BY c.revision DESC LIMIT $count
            """, null, ("$id", id.Value), ("$below", below), ("$count", count));
        using SqliteDataReader reader = command.ExecuteReader();
        var entries = new List<JournalEntry>();
        while (reader.Read()) entries.Add(Heading(reader) with { Changes = [Change(reader, 6)] });
        return entries;
    }

    /// <summary>A record as a revision of the project left it, or null where there was none.</summary>
    public ProjectRecord? RecordAt(RecordId id, long revision)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT after FROM changes WHERE record = $id AND revision <= $revision ORDER BY revision DESC LIMIT 1", null, ("$id", id.Value), ("$revision", revision));
        return command.ExecuteScalar() is string body ? RecordJson.Read(body) : null;
    }

    /// <summary>Reads the project out of a backup of this store.</summary>
    /// <exception cref="StorageException">The backup is not whole.</exception>
    public static Project Load(Backup backup)
    {
        if (Backups.Trouble(backup.Path) is { } wrong) throw new StorageException($"{backup.Name} is not whole ({wrong}).");
        using var connection = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = backup.Path, Mode = SqliteOpenMode.ReadOnly, Pooling = false }.ToString());
        connection.Open();
        return Load(connection);
    }

    /// <summary>Names a revision, so that it can be found again.</summary>
    public void AddSnapshot(string name, long atMilliseconds, string author, long revision, bool automatic)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "INSERT INTO snapshots (name, at, author, revision, automatic) VALUES ($name, $at, $author, $revision, $automatic)", null, ("$name", name), ("$at", atMilliseconds), ("$author", author), ("$revision", revision), ("$automatic", automatic ? 1 : 0));
    }

    /// <summary>All snapshots, newest first.</summary>
    public IReadOnlyList<Snapshot> Snapshots()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT id, name, at, author, revision, automatic FROM snapshots ORDER BY id DESC LIMIT 500");
        using SqliteDataReader reader = command.ExecuteReader();
        var snapshots = new List<Snapshot>();
        while (reader.Read()) snapshots.Add(new Snapshot(reader.GetInt64(0), reader.GetString(1), reader.GetInt64(2), reader.GetString(3), reader.GetInt64(4), reader.GetInt64(5) != 0));
        return snapshots;
    }

    /// <summary>Writes a whole copy, journal and snapshots with it, to a file that is not there yet.</summary>
    public void CopyTo(string path)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "VACUUM INTO $to", null, ("$to", path));
    }

    /// <summary>One journal entry with its changes, or null.</summary>
    public JournalEntry? Find(long revision)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand heading = Database.Command(connection, "SELECT revision, at, author, label, kind, of FROM journal WHERE revision = $revision", null, ("$revision", revision));
        JournalEntry? entry;
        using (SqliteDataReader reader = heading.ExecuteReader()) entry = reader.Read() ? Heading(reader) : null;
        if (entry is null) return null;
        using SqliteCommand command = Database.Command(connection, "SELECT record, before, before_revision, after FROM changes WHERE revision = $revision ORDER BY place", null, ("$revision", revision));
        using SqliteDataReader rows = command.ExecuteReader();
        var changes = new List<RecordChange>();
        while (rows.Read()) changes.Add(Change(rows));
        return entry with { Changes = changes };
    }

    /// <summary>What the change set of a revision was called, or null; its changes are not read.</summary>
    public string? LabelOf(long revision)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT label FROM journal WHERE revision = $revision", null, ("$revision", revision));
        return command.ExecuteScalar() as string;
    }

    /// <summary>Journal entries without their changes, newest first, below a revision.</summary>
    public IReadOnlyList<JournalEntry> Page(long below, int count)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT revision, at, author, label, kind, of FROM journal WHERE revision < $below ORDER BY revision DESC LIMIT $count", null, ("$below", below), ("$count", count));
        using SqliteDataReader reader = command.ExecuteReader();
        var entries = new List<JournalEntry>();
        while (reader.Read()) entries.Add(Heading(reader));
        return entries;
    }

    /// <summary>All headings of one author, oldest first: what undo and redo are worked out from.</summary>
    public IReadOnlyList<JournalEntry> Of(string author)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT revision, at, author, label, kind, of FROM journal WHERE author = $author ORDER BY revision", null, ("$author", author));
        using SqliteDataReader reader = command.ExecuteReader();
        var entries = new List<JournalEntry>();
        while (reader.Read()) entries.Add(Heading(reader));
        return entries;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _writer.Dispose();
        _database.Dispose();
    }

    private static RecordChange Change(SqliteDataReader reader, int from = 0)
    {
        ProjectRecord? Read(int column) => reader.IsDBNull(column) ? null : RecordJson.Read(reader.GetString(column));
        return new RecordChange(new RecordId(reader.GetString(from)), Read(from + 1), reader.GetInt64(from + 2), Read(from + 3));
    }

    private static JournalEntry Heading(SqliteDataReader reader) =>
        new(reader.GetInt64(0), reader.GetInt64(1), reader.GetString(2), reader.GetString(3), [], Enum.Parse<JournalKind>(reader.GetString(4)), reader.IsDBNull(5) ? null : reader.GetInt64(5));
}
