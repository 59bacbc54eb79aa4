using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.Jobs;

/// <summary>A job as it is kept: what was asked for, as JSON of its kind, and how far it came.</summary>
public sealed record KeptJob(string Id, int Number, string Kind, string Label, string Who, string Request, string State, int Done, int Total, string Message);

/// <summary>The long work of a project, kept so that what was interrupted is there after a restart.</summary>
public sealed class JobStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, "CREATE TABLE jobs (id TEXT PRIMARY KEY, number INTEGER NOT NULL, kind TEXT NOT NULL, label TEXT NOT NULL, who TEXT NOT NULL, request TEXT NOT NULL, state TEXT NOT NULL, done INTEGER NOT NULL, total INTEGER NOT NULL, message TEXT NOT NULL) STRICT;"),
    ];

    private readonly Database _database;

    /// <summary>Opens or makes the store. What cannot be read is put aside: no kept job is worth a project that does not open.</summary>
    public JobStore(string path) => _database = Database.Dispensable(path, Form);

    /// <summary>All kept jobs, oldest first.</summary>
    public IReadOnlyList<KeptJob> All()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT id, number, kind, label, who, request, state, done, total, message FROM jobs ORDER BY number");
        using SqliteDataReader r = command.ExecuteReader();
        var jobs = new List<KeptJob>();
        while (r.Read()) jobs.Add(new KeptJob(r.GetString(0), r.GetInt32(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetString(5), r.GetString(6), r.GetInt32(7), r.GetInt32(8), r.GetString(9)));
        return jobs;
    }

    /// <summary>Keeps a job that begins.</summary>
    public void Add(KeptJob job)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "INSERT INTO jobs (id, number, kind, label, who, request, state, done, total, message) VALUES ($id, $number, $kind, $label, $who, $request, $state, $done, $total, $message)", null,
            ("$id", job.Id), ("$number", job.Number), ("$kind", job.Kind), ("$label", job.Label), ("$who", job.Who), ("$request", job.Request), ("$state", job.State), ("$done", job.Done), ("$total", job.Total), ("$message", job.Message));
    }

    /// <summary>Writes how far a job is; of one that is done, what was asked for (a whole list, perhaps) is not kept any longer.</summary>
    public void Move(string id, string state, int done, int total, string message)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "UPDATE jobs SET state = $state, done = $done, total = $total, message = $message, request = CASE WHEN $state = 'Done' THEN '' ELSE request END WHERE id = $id", null, ("$id", id), ("$state", state), ("$done", done), ("$total", total), ("$message", message));
    }

    /// <summary>Forgets a job.</summary>
    public void Drop(string id)
    {
        using SqliteConnection connection = _database.Open();
        Database.Run(connection, "DELETE FROM jobs WHERE id = $id", null, ("$id", id));
    }

    /// <inheritdoc/>
    public void Dispose() => _database.Dispose();
}
