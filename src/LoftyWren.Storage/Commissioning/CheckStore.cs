using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Commissioning;

/// <summary>A check of a point as it is kept: who, when (ms since 1970 UTC), how it was wired then, what was found, and whether it passed.</summary>
/// <param name="Id">Given by whoever enters it, so that it is kept once however often it is sent.</param>
/// <param name="PointId">The point.</param>
/// <param name="Who">Who checked it.</param>
/// <param name="AtMilliseconds">When it was entered, ms since 1970 UTC.</param>
/// <param name="Wiring">How it was wired.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="Reference">What the instrument showed or which state was made, in the unit of the point.</param>
/// <param name="Reading">What the controller read or gave.</param>
/// <param name="Raw">What stood at the terminal, in words with its unit.</param>
/// <param name="Allowed">How far off it was allowed to be.</param>
/// <param name="Verdict">In a sentence.</param>
/// <param name="Remark">What whoever checked it wants to say.</param>
/// <param name="Correction">The correction that was set for it.</param>
/// <param name="WasLate">Whether it was entered without a connection and came later.</param>
/// <param name="Photos">How many photos there are.</param>
public sealed record KeptCheck(string Id, string PointId, string Who, long AtMilliseconds, string Wiring, bool Passed, double? Reference, double? Reading, string? Raw, double? Allowed, string Verdict, string Remark, double? Correction, bool WasLate, int Photos = 0);

/// <summary>Point checks of a project: evidence, so nothing is changed or removed.</summary>
public sealed class CheckStore(string path, bool asItIs = false) : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, """
            CREATE TABLE checks (number INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, point TEXT NOT NULL, who TEXT NOT NULL, at INTEGER NOT NULL, wiring TEXT NOT NULL, passed INTEGER NOT NULL,
                reference REAL, reading REAL, raw TEXT, allowed REAL, verdict TEXT NOT NULL, remark TEXT NOT NULL, correction REAL, late INTEGER NOT NULL) STRICT;
            CREATE INDEX checks_point ON checks (point, number);
            CREATE TABLE photos (id TEXT PRIMARY KEY REFERENCES checks (id), type TEXT NOT NULL, bytes BLOB NOT NULL) STRICT;
            """),
        new(2, """
            CREATE TABLE pictures (number INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL REFERENCES checks (id), type TEXT NOT NULL, bytes BLOB NOT NULL) STRICT;
            CREATE INDEX pictures_check ON pictures (id, number);
            INSERT INTO pictures (id, type, bytes) SELECT id, type, bytes FROM photos;
            DROP TABLE photos;
            """),
    ];

    private const string Columns = "c.id, c.point, c.who, c.at, c.wiring, c.passed, c.reference, c.reading, c.raw, c.allowed, c.verdict, c.remark, c.correction, c.late, (SELECT COUNT(*) FROM pictures p WHERE p.id = c.id)";

    /// <summary>The database, for its backups.</summary>
    public Database Database { get; } = new(path, Form, asItIs: asItIs);

    /// <summary>Keeps a check; answers false where it is kept already.</summary>
    public bool Add(KeptCheck check)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, """
            INSERT INTO checks (id, point, who, at, wiring, passed, reference, reading, raw, allowed, verdict, remark, correction, late)
            VALUES ($id, $point, $who, $at, $wiring, $passed, $reference, $reading, $raw, $allowed, $verdict, $remark, $correction, $late) ON CONFLICT (id) DO NOTHING
            """, null,
            ("$id", check.Id), ("$point", check.PointId), ("$who", check.Who), ("$at", check.AtMilliseconds), ("$wiring", check.Wiring), ("$passed", check.Passed ? 1 : 0), ("$reference", check.Reference), ("$reading", check.Reading), ("$raw", check.Raw),
            ("$allowed", check.Allowed), ("$verdict", check.Verdict), ("$remark", check.Remark), ("$correction", check.Correction), ("$late", check.WasLate ? 1 : 0));
        return command.ExecuteNonQuery() > 0;
    }

    /// <summary>The newest check of each point.</summary>
    public IReadOnlyDictionary<string, KeptCheck> Newest() => Read("FROM checks c WHERE c.number IN (SELECT MAX(number) FROM checks GROUP BY point)").ToDictionary(c => c.PointId);

    /// <summary>All checks of a point, newest first.</summary>
    public IReadOnlyList<KeptCheck> Of(string point) => Read("FROM checks c WHERE c.point = $point ORDER BY c.number DESC LIMIT 100", ("$point", point));

    /// <summary>The check with an id, or null.</summary>
    public KeptCheck? Find(string id) => Read("FROM checks c WHERE c.id = $id", ("$id", id)).FirstOrDefault();

    /// <summary>Keeps a photo of a check beside those there are; false where there is no such check.</summary>
    public bool AddPhoto(string id, string type, byte[] bytes)
    {
        if (Find(id) is null) return false;
        using SqliteConnection connection = Database.Open();
        Database.Run(connection, "INSERT INTO pictures (id, type, bytes) VALUES ($id, $type, $bytes)", null, ("$id", id), ("$type", type), ("$bytes", bytes));
        return true;
    }

    /// <summary>A photo of a check and its media type, the first is 0; or null.</summary>
    public (string Type, byte[] Bytes)? Photo(string id, int n = 0)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT type, bytes FROM pictures WHERE id = $id ORDER BY number LIMIT 1 OFFSET $n", null, ("$id", id), ("$n", Math.Max(0, n)));
        using SqliteDataReader r = command.ExecuteReader();
        return r.Read() ? (r.GetString(0), (byte[])r[1]) : null;
    }

    private List<KeptCheck> Read(string from, params (string, object?)[] parameters)
    {
        using SqliteConnection connection = Database.Open();
        using SqliteCommand command = Database.Command(connection, $"SELECT {Columns} {from}", null, parameters);
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<KeptCheck>();
        double? Number(int i) => r.IsDBNull(i) ? null : r.GetDouble(i);
        while (r.Read())
            list.Add(new KeptCheck(r.GetString(0), r.GetString(1), r.GetString(2), r.GetInt64(3), r.GetString(4), r.GetInt64(5) == 1, Number(6), Number(7), r.IsDBNull(8) ? null : r.GetString(8), Number(9), r.GetString(10), r.GetString(11), Number(12), r.GetInt64(13) == 1, r.GetInt32(14)));
        return list;
    }

    /// <inheritdoc/>
    public void Dispose() => Database.Dispose();
}
