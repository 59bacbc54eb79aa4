using System.Text.Json;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Libraries;

/// <summary>A shelf of templates; without an owner it is shared by all of the installation. One that is for reading takes no change until it is opened for writing.</summary>
public sealed record Library(string Id, string Name, string? Owner, bool IsForReading = false);

/// <summary>One revision of a template in a list.</summary>
public sealed record TemplateHeading(string Id, string Name, string Folder, string Author, string Comment, int Revision, long AtMilliseconds);

/// <summary>Libraries on disk. Templates are only ever added to: every revision stays.</summary>
public sealed class LibraryStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, """
            CREATE TABLE libraries (id TEXT PRIMARY KEY, name TEXT NOT NULL COLLATE NOCASE, owner TEXT, UNIQUE (name, owner)) STRICT;
            CREATE TABLE templates (library TEXT NOT NULL REFERENCES libraries (id), id TEXT NOT NULL, revision INTEGER NOT NULL, name TEXT NOT NULL, folder TEXT NOT NULL, author TEXT NOT NULL, comment TEXT NOT NULL, at INTEGER NOT NULL, body TEXT NOT NULL, PRIMARY KEY (library, id, revision)) STRICT;
            """),
        new(2, "ALTER TABLE libraries ADD COLUMN reading INTEGER NOT NULL DEFAULT 0;"),
    ];

    private readonly Database _database;

    /// <summary>Opens or makes the store.</summary>
    public LibraryStore(string path, bool asItIs = false) => _database = new Database(path, Form, asItIs: asItIs);

    /// <summary>The database beneath, for its backups.</summary>
    public Database Database => _database;

    /// <summary>All libraries by name.</summary>
    public IReadOnlyList<Library> All() => Query("SELECT id, name, owner, reading FROM libraries ORDER BY name", r => new Library(r.GetString(0), r.GetString(1), r.IsDBNull(2) ? null : r.GetString(2), r.GetBoolean(3)));

    /// <summary>Sets whether a library is for reading.</summary>
    public void SetForReading(string id, bool isForReading)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "UPDATE libraries SET reading = $reading WHERE id = $id", null, ("$reading", isForReading), ("$id", id));
    }

    /// <summary>Adds a library; answers whether the name was free.</summary>
    public bool Add(Library library)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand add = Database.Command(connection, "INSERT INTO libraries (id, name, owner) SELECT $id, $name, $owner WHERE NOT EXISTS (SELECT 1 FROM libraries WHERE name = $name AND owner IS $owner)", null, ("$id", library.Id), ("$name", library.Name), ("$owner", library.Owner));
        return add.ExecuteNonQuery() == 1;
    }

    /// <summary>The newest revision of each template of a library.</summary>
    public IReadOnlyList<TemplateHeading> Templates(string library) =>
        Query("SELECT id, name, folder, author, comment, MAX(revision), at FROM templates WHERE library = $library GROUP BY id ORDER BY folder, name", Heading, ("$library", library));

    /// <summary>All revisions of a template, newest first.</summary>
    public IReadOnlyList<TemplateHeading> Revisions(string library, string id) =>
        Query("SELECT id, name, folder, author, comment, revision, at FROM templates WHERE library = $library AND id = $id ORDER BY revision DESC", Heading, ("$library", library), ("$id", id));

    /// <summary>One revision of a template, the newest if none is said; null when it is not there.</summary>
    public Template? Find(string library, string id, int? revision = null) =>
        Query("SELECT body FROM templates WHERE library = $library AND id = $id AND ($revision IS NULL OR revision = $revision) ORDER BY revision DESC LIMIT 1", r => JsonSerializer.Deserialize<Template>(r.GetString(0), RecordJson.Options)!, ("$library", library), ("$id", id), ("$revision", revision)).FirstOrDefault();

    /// <summary>The revision of a template wherever it is; placements remember the template, not the library.</summary>
    public Template? FindAnywhere(string id, int? revision = null) =>
        Query("SELECT body FROM templates WHERE id = $id AND ($revision IS NULL OR revision = $revision) ORDER BY revision DESC LIMIT 1", r => JsonSerializer.Deserialize<Template>(r.GetString(0), RecordJson.Options)!, ("$id", id), ("$revision", revision)).FirstOrDefault();

    /// <summary>Writes a template as the revision after the newest, which must be the one its author saw (0: none); null when somebody was quicker.</summary>
    public Template? Save(string library, Template template, int from, long atMilliseconds)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteTransaction transaction = connection.BeginTransaction();
        using SqliteCommand newest = Database.Command(connection, "SELECT COALESCE(MAX(revision), 0) FROM templates WHERE library = $library AND id = $id", transaction, ("$library", library), ("$id", template.Id));
        if ((long)newest.ExecuteScalar()! != from) return null;
        Template saved = template with { Revision = from + 1 };
        Database.Run(connection, "INSERT INTO templates (library, id, revision, name, folder, author, comment, at, body) VALUES ($library, $id, $revision, $name, $folder, $author, $comment, $at, $body)", transaction,
            ("$library", library), ("$id", saved.Id), ("$revision", saved.Revision), ("$name", saved.Name), ("$folder", saved.Folder), ("$author", saved.Author), ("$comment", saved.Comment), ("$at", atMilliseconds), ("$body", JsonSerializer.Serialize(saved, RecordJson.Options)));
        transaction.Commit();
        return saved;
    }

    /// <inheritdoc/>
    public void Dispose() => _database.Dispose();

    private static TemplateHeading Heading(SqliteDataReader r) => new(r.GetString(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetInt32(5), r.GetInt64(6));

    private List<T> Query<T>(string sql, Func<SqliteDataReader, T> read, params (string, object?)[] parameters)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, sql, null, parameters);
        using SqliteDataReader reader = command.ExecuteReader();
        var rows = new List<T>();
        while (reader.Read()) rows.Add(read(reader));
        return rows;
    }
}
