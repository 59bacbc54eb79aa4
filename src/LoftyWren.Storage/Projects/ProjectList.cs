using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Projects;

/// <summary>A project of the installation as its list keeps it. Archived projects are closed, and kept whole.</summary>
public sealed record ListedProject(string Id, string Name, long MadeAt, string MadeBy, string? CopyOf, long? ArchivedAt);

/// <summary>Which projects the installation has, and what it is set to.</summary>
public sealed class ProjectList : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, """
            CREATE TABLE projects (id TEXT PRIMARY KEY, name TEXT NOT NULL COLLATE NOCASE UNIQUE, made_at INTEGER NOT NULL, made_by TEXT NOT NULL, copy_of TEXT, archived_at INTEGER) STRICT;
            CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
            """),
    ];

    private readonly Database _database;

    /// <summary>Opens or makes the list.</summary>
    public ProjectList(string path, bool asItIs = false) => _database = new Database(path, Form, asItIs: asItIs);

    /// <summary>The database beneath, for its backups.</summary>
    public Database Database => _database;

    /// <summary>All projects but the first, which needs no entry, by name.</summary>
    public IReadOnlyList<ListedProject> All()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT id, name, made_at, made_by, copy_of, archived_at FROM projects ORDER BY name");
        using SqliteDataReader reader = command.ExecuteReader();
        var all = new List<ListedProject>();
        while (reader.Read()) all.Add(new ListedProject(reader.GetString(0), reader.GetString(1), reader.GetInt64(2), reader.GetString(3), reader.IsDBNull(4) ? null : reader.GetString(4), reader.IsDBNull(5) ? null : reader.GetInt64(5)));
        return all;
    }

    /// <summary>The project with this id, or null.</summary>
    public ListedProject? Find(string id) => All().FirstOrDefault(p => p.Id == id);

    /// <summary>Adds a project; answers whether id and name were free.</summary>
    public bool Add(ListedProject project) => Change("INSERT OR IGNORE INTO projects (id, name, made_at, made_by, copy_of) VALUES ($id, $name, $at, $by, $copy)", ("$id", project.Id), ("$name", project.Name), ("$at", project.MadeAt), ("$by", project.MadeBy), ("$copy", project.CopyOf));

    /// <summary>Gives a project another name; answers whether that was free.</summary>
    public bool Rename(string id, string name) => Change("UPDATE OR IGNORE projects SET name = $name WHERE id = $id", ("$id", id), ("$name", name));

    /// <summary>Archives a project, or brings it back with null.</summary>
    public bool Archive(string id, long? atMilliseconds) => Change("UPDATE projects SET archived_at = $at WHERE id = $id", ("$id", id), ("$at", atMilliseconds));

    /// <summary>A setting of the installation, or null.</summary>
    public string? Setting(string name)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT value FROM settings WHERE name = $name", null, ("$name", name));
        return command.ExecuteScalar() as string;
    }

    /// <summary>Sets a setting.</summary>
    public void Set(string name, string value) => Change("INSERT INTO settings (name, value) VALUES ($name, $value) ON CONFLICT (name) DO UPDATE SET value = excluded.value", ("$name", name), ("$value", value));

    /// <inheritdoc/>
    public void Dispose() => _database.Dispose();

    private bool Change(string sql, params (string Name, object? Value)[] parameters)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, sql, null, parameters);
        return command.ExecuteNonQuery() == 1;
    }
}
