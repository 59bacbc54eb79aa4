using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Proofs;

/// <summary>How a test went when it was run last: what it rested on as a hash, at which revision of the project and when (ms since 1970), and its story as JSON.</summary>
public sealed record KeptProof(string Sequence, string Test, string Rests, long Revision, long At, bool Passed, string Story);

/// <summary>How the tests of a project went, the last time of each.</summary>
public sealed class ProofStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, "CREATE TABLE proofs (sequence TEXT NOT NULL, test TEXT NOT NULL, rests TEXT NOT NULL, revision INTEGER NOT NULL, at INTEGER NOT NULL, passed INTEGER NOT NULL, story TEXT NOT NULL, PRIMARY KEY (sequence, test)) STRICT, WITHOUT ROWID;"),
    ];

    private readonly Database _database;

    /// <summary>Opens or makes the store. What cannot be read is put aside: tests can be run again.</summary>
    public ProofStore(string path) => _database = Database.Dispensable(path, Form);

    /// <summary>Keeps how a test went, in place of the time before.</summary>
    public void Keep(KeptProof proof)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "INSERT OR REPLACE INTO proofs (sequence, test, rests, revision, at, passed, story) VALUES ($sequence, $test, $rests, $revision, $at, $passed, $story)", null,
            ("$sequence", proof.Sequence), ("$test", proof.Test), ("$rests", proof.Rests), ("$revision", proof.Revision), ("$at", proof.At), ("$passed", proof.Passed ? 1 : 0), ("$story", proof.Story));
    }

    /// <summary>How the tests of a sequence went.</summary>
    public IReadOnlyList<KeptProof> Of(string sequence) => Read("SELECT sequence, test, rests, revision, at, passed, story FROM proofs WHERE sequence = $sequence", ("$sequence", sequence));

    /// <summary>How all tests went, without their stories.</summary>
    public IReadOnlyList<KeptProof> All() => Read("SELECT sequence, test, rests, revision, at, passed, '' FROM proofs");

    /// <summary>Forgets how a test went that is no longer there.</summary>
    public void Forget(string sequence, string test)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "DELETE FROM proofs WHERE sequence = $sequence AND test = $test", null, ("$sequence", sequence), ("$test", test));
    }

    private List<KeptProof> Read(string sql, params (string, object)[] values)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, sql);
        foreach (var (name, value) in values) command.Parameters.AddWithValue(name, value);
        using SqliteDataReader r = command.ExecuteReader();
        var proofs = new List<KeptProof>();
        while (r.Read()) proofs.Add(new KeptProof(r.GetString(0), r.GetString(1), r.GetString(2), r.GetInt64(3), r.GetInt64(4), r.GetInt64(5) != 0, r.GetString(6)));
        return proofs;
    }

    /// <inheritdoc/>
    public void Dispose() => _database.Dispose();
}
