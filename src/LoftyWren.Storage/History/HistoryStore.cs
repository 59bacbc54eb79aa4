using LoftyWren.Core.Alarms;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using LoftyWren.Storage.Site;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage.History;

/// <summary>An alarm's time off normal, from the event that began it until normal again.</summary>
public sealed record AlarmOccurrence(long Id, RecordId AlarmId, RecordId PointId, string Name, EventState State, long Since, double? Value, double? Limit, long? Until, string? AcknowledgedBy, long? AcknowledgedAt, string? Note);

/// <summary>An alarm that went to another state, as it is taken in: its number among its host's events, its rule with the rule's point and name, to which state, when (ms of site time), with which value, and the limit it passed.</summary>
public sealed record AlarmEntry(long Number, RecordId AlarmId, RecordId PointId, string Name, EventState To, long At, double Value, double? Limit);

/// <summary>One stretch of a chart: least, greatest and last value in it, how many samples, and the worst status.</summary>
public readonly record struct Bucket(long From, double Least, double Greatest, double Last, int Count, StatusFlags Status);

/// <summary>What the installation did: trend samples and alarms.</summary>
public sealed class HistoryStore : IDisposable
{
    private static readonly Migration[] Form =
    [
        new(1, """
            CREATE TABLE logs (key INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, collected INTEGER NOT NULL DEFAULT 0) STRICT;
            CREATE TABLE samples (log INTEGER NOT NULL, at INTEGER NOT NULL, value REAL, status INTEGER NOT NULL, PRIMARY KEY (log, at)) STRICT, WITHOUT ROWID;
            CREATE TABLE alarms (id INTEGER PRIMARY KEY, alarm TEXT NOT NULL, point TEXT NOT NULL, name TEXT NOT NULL, state TEXT NOT NULL, since INTEGER NOT NULL, value REAL, bound REAL, until INTEGER, acknowledged_by TEXT, acknowledged_at INTEGER, note TEXT) STRICT;
            CREATE INDEX alarms_open ON alarms (alarm, until);
            CREATE TABLE events_seen (controller TEXT PRIMARY KEY, number INTEGER NOT NULL) STRICT;
            CREATE TABLE trail (id INTEGER PRIMARY KEY, at INTEGER NOT NULL, site_at INTEGER NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL, record TEXT) STRICT;
            """),
    ];

    // What a statement costs beyond its rows is shared by so many.
    private const int SamplesAtOnce = 16;

    private readonly Database _database;
    private readonly SqliteConnection _writer;
    private readonly Lock _turn = new();

    // Prepared once: samples come several times a second, a few of each log.
    private readonly SqliteCommand _key;
    private readonly SampleInsert _many;
    private readonly SampleInsert _one;

    /// <summary>Opens or makes the store.</summary>
    public HistoryStore(string path, bool asItIs = false)
    {
        _database = new Database(path, Form, asItIs: asItIs);
        _writer = _database.Open();
        // Samples are collected again after a crash from the controllers' buffers, so they need not wait for the disk.
        Database.Run(_writer, "PRAGMA synchronous = NORMAL");
        _key = Database.Command(_writer, "INSERT INTO logs (id, collected) VALUES ($id, $collected) ON CONFLICT (id) DO UPDATE SET collected = $collected RETURNING key", null, ("$id", ""), ("$collected", 0L));
        _many = new SampleInsert(_writer, SamplesAtOnce);
        _one = new SampleInsert(_writer, 1);
    }

    /// <summary>The database beneath, for its backups.</summary>
    public Database Database => _database;

    /// <summary>The number of the last sample collected of a log; 0 when none.</summary>
    public long Collected(RecordId log)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT collected FROM logs WHERE id = $id", null, ("$id", log.Value));
        return command.ExecuteScalar() is long number ? number : 0;
    }

    /// <summary>
    /// Writes collected samples of several logs in one transaction; the same samples again change nothing. The log's own row is
    /// written beside them, so that samples need no foreign key, which would be looked up once a sample.
    /// </summary>
    public void Write(IReadOnlyList<(RecordId Log, IReadOnlyList<Sample> Samples, long Collected)> batches)
    {
        lock (_turn)
        {
            using SqliteTransaction transaction = _writer.BeginTransaction();
            _key.Transaction = _many.Transaction = _one.Transaction = transaction;
            foreach (var (id, samples, collected) in batches)
            {
                _key.Parameters[0].Value = id.Value;
                _key.Parameters[1].Value = collected;
                long log = (long)_key.ExecuteScalar()!;
                int next = 0;
                while (samples.Count - next >= SamplesAtOnce) _many.Write(log, samples, ref next);
                while (next < samples.Count) _one.Write(log, samples, ref next);
            }
            transaction.Commit();
        }
    }

    /// <summary>Samples of a log in a stretch of time, oldest first, one by one.</summary>
    public IEnumerable<Sample> Samples(RecordId log, long from, long to)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT at, value, status FROM samples WHERE log = (SELECT key FROM logs WHERE id = $id) AND at >= $from AND at < $to ORDER BY at", null, ("$id", log.Value), ("$from", from), ("$to", to));
        using SqliteDataReader reader = command.ExecuteReader();
        while (reader.Read()) yield return new Sample(0, reader.GetInt64(0), reader.IsDBNull(1) ? double.NaN : reader.GetDouble(1), (StatusFlags)reader.GetInt32(2));
    }

    /// <summary>The last sample of a log before a moment, or null: what a log by change still says when the moment comes.</summary>
    public Sample? LastBefore(RecordId log, long at)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT at, value, status FROM samples WHERE log = (SELECT key FROM logs WHERE id = $id) AND at < $at ORDER BY at DESC LIMIT 1", null, ("$id", log.Value), ("$at", at));
        using SqliteDataReader reader = command.ExecuteReader();
        return reader.Read() ? new Sample(0, reader.GetInt64(0), reader.IsDBNull(1) ? double.NaN : reader.GetDouble(1), (StatusFlags)reader.GetInt32(2)) : null;
    }

    /// <summary>
    /// A log drawn into so many columns: one pass over its rows, keeping least, greatest and last of each column.
    /// Columns without samples are left out: a gap is a gap.
    /// </summary>
    public IReadOnlyList<Bucket> Buckets(RecordId log, long from, long to, int columns)
    {
        var buckets = new List<Bucket>(columns);
        double width = Math.Max(1, (to - from) / (double)columns);
        int current = -1;
        Bucket open = default;
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT at, value, status FROM samples WHERE log = (SELECT key FROM logs WHERE id = $id) AND at >= $from AND at < $to ORDER BY at", null, ("$id", log.Value), ("$from", from), ("$to", to));
        using SqliteDataReader reader = command.ExecuteReader();
        while (reader.Read())
        {
            long at = reader.GetInt64(0);
            double value = reader.IsDBNull(1) ? double.NaN : reader.GetDouble(1);
            var status = (StatusFlags)reader.GetInt32(2);
            int column = (int)((at - from) / width);
            if (column != current)
            {
                if (current >= 0) buckets.Add(open);
                current = column;
                open = new Bucket(at, value, value, value, 0, StatusFlags.None);
            }
            open = new Bucket(open.From, double.IsNaN(open.Least) ? value : double.IsNaN(value) ? open.Least : Math.Min(open.Least, value), double.IsNaN(open.Greatest) ? value : double.IsNaN(value) ? open.Greatest : Math.Max(open.Greatest, value), value, open.Count + 1, open.Status | status);
        }
        if (current >= 0) buckets.Add(open);
        return buckets;
    }

    /// <summary>The last number seen of a controller's alarm events.</summary>
    public long EventsSeen(RecordId controller)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT number FROM events_seen WHERE controller = $id", null, ("$id", controller.Value));
        return command.ExecuteScalar() is long number ? number : 0;
    }

    /// <summary>Takes an alarm event in: closes the occurrence that was open, opens another unless it is normal again. Events are taken once, in order.</summary>
    public void Take(RecordId controller, IReadOnlyList<AlarmEntry> events)
    {
        lock (_turn)
        {
            using SqliteTransaction transaction = _writer.BeginTransaction();
            foreach (var (number, alarm, point, name, to, at, value, limit) in events)
            {
                Database.Run(_writer, "UPDATE alarms SET until = $at WHERE alarm = $alarm AND until IS NULL", transaction, ("$at", at), ("$alarm", alarm.Value));
                if (to != EventState.Normal)
                {
                    Database.Run(_writer, "INSERT INTO alarms (alarm, point, name, state, since, value, bound) VALUES ($alarm, $point, $name, $state, $since, $value, $bound)", transaction,
                        ("$alarm", alarm.Value), ("$point", point.Value), ("$name", name), ("$state", to.ToString()), ("$since", at), ("$value", double.IsNaN(value) ? null : value), ("$bound", limit));
                }
                Database.Run(_writer, "INSERT INTO events_seen (controller, number) VALUES ($id, $number) ON CONFLICT (controller) DO UPDATE SET number = $number", transaction, ("$id", controller.Value), ("$number", number));
            }
            transaction.Commit();
        }
    }

    /// <summary>Alarm occurrences, newest first: those that are still so or not acknowledged, or all.</summary>
    public IReadOnlyList<AlarmOccurrence> Alarms(bool all, int most = 500)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, $"SELECT id, alarm, point, name, state, since, value, bound, until, acknowledged_by, acknowledged_at, note FROM alarms {(all ? "" : "WHERE until IS NULL OR acknowledged_at IS NULL")} ORDER BY until IS NOT NULL, since DESC LIMIT $most", null, ("$most", most));
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<AlarmOccurrence>();
        while (r.Read())
        {
            list.Add(new AlarmOccurrence(r.GetInt64(0), new RecordId(r.GetString(1)), new RecordId(r.GetString(2)), r.GetString(3), Enum.Parse<EventState>(r.GetString(4)), r.GetInt64(5),
                r.IsDBNull(6) ? null : r.GetDouble(6), r.IsDBNull(7) ? null : r.GetDouble(7), r.IsDBNull(8) ? null : r.GetInt64(8), r.IsDBNull(9) ? null : r.GetString(9), r.IsDBNull(10) ? null : r.GetInt64(10), r.IsDBNull(11) ? null : r.GetString(11)));
        }
        return list;
    }

    /// <summary>Acknowledges an occurrence; answers whether there was one that nobody had acknowledged.</summary>
    public bool Acknowledge(long id, string who, long at, string? note)
    {
        lock (_turn)
        {
            using SqliteCommand command = Database.Command(_writer, "UPDATE alarms SET acknowledged_by = $who, acknowledged_at = $at, note = $note WHERE id = $id AND acknowledged_at IS NULL", null, ("$who", who), ("$at", at), ("$note", note), ("$id", id));
            return command.ExecuteNonQuery() > 0;
        }
    }

    /// <summary>All logs of which samples are kept.</summary>
    public IReadOnlyList<RecordId> Logs()
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT id FROM logs");
        using SqliteDataReader r = command.ExecuteReader();
        var list = new List<RecordId>();
        while (r.Read()) list.Add(new RecordId(r.GetString(0)));
        return list;
    }

    /// <summary>How many samples of a log are kept.</summary>
    public long Count(RecordId log)
    {
        using SqliteConnection connection = _database.Open();
        using SqliteCommand command = Database.Command(connection, "SELECT COUNT(*) FROM samples WHERE log = (SELECT key FROM logs WHERE id = $id)", null, ("$id", log.Value));
        return (long)command.ExecuteScalar()!;
    }

    /// <summary>Leaves of all logs, between two moments (ms), only the last sample of each stretch of so many ms, counted from 1970 UTC; answers how many went.</summary>
    public int Thin(long from, long until, long stretch)
    {
        lock (_turn)
        {
            using SqliteTransaction transaction = _writer.BeginTransaction();
            var logs = new List<long>();
            using (SqliteCommand all = Database.Command(_writer, "SELECT key FROM logs", transaction))
            using (SqliteDataReader r = all.ExecuteReader())
            {
                while (r.Read()) logs.Add(r.GetInt64(0));
            }
            // A log at a time: so each finds its samples by the key of the table.
            using SqliteCommand thin = Database.Command(_writer, """
                DELETE FROM samples WHERE log = $log AND at >= $from AND at < $until
                AND EXISTS (SELECT 1 FROM samples later WHERE later.log = $log AND later.at > samples.at AND later.at < (samples.at / $stretch + 1) * $stretch AND later.at < $until)
                """, transaction, ("$log", 0L), ("$from", from), ("$until", until), ("$stretch", stretch));
            int gone = 0;
            foreach (long log in logs)
            {
                thin.Parameters[0].Value = log;
                gone += thin.ExecuteNonQuery();
            }
            transaction.Commit();
            return gone;
        }
    }

    /// <summary>Deletes all samples of a log; answers whether there was such a log.</summary>
    public bool Drop(RecordId log)
    {
        lock (_turn)
        {
            using SqliteTransaction transaction = _writer.BeginTransaction();
            Database.Run(_writer, "DELETE FROM samples WHERE log = (SELECT key FROM logs WHERE id = $id)", transaction, ("$id", log.Value));
            using SqliteCommand command = Database.Command(_writer, "DELETE FROM logs WHERE id = $id", transaction, ("$id", log.Value));
            bool was = command.ExecuteNonQuery() > 0;
            transaction.Commit();
            return was;
        }
    }

    /// <summary>Closes what is open of an alarm and acknowledges it; answers how many occurrences that were.</summary>
    public int Close(RecordId alarm, string who, long at, string note)
    {
        lock (_turn)
        {
            using SqliteCommand command = Database.Command(_writer, "UPDATE alarms SET until = COALESCE(until, $at), acknowledged_by = COALESCE(acknowledged_by, $who), acknowledged_at = COALESCE(acknowledged_at, $at), note = COALESCE(note, $note) WHERE alarm = $alarm AND (until IS NULL OR acknowledged_at IS NULL)", null, ("$alarm", alarm.Value), ("$who", who), ("$at", at), ("$note", note));
            return command.ExecuteNonQuery();
        }
    }

    /// <summary>The trail that older versions kept here, oldest first.</summary>
    public IReadOnlyList<TrailEntry> OlderTrail()
    {
        using SqliteConnection connection = _database.Open();
        return [.. SiteStore.ReadTrail(connection, long.MaxValue, int.MaxValue).Reverse()];
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _key.Dispose();
        _many.Dispose();
        _one.Dispose();
        _writer.Dispose();
        _database.Dispose();
    }

    /// <summary>A statement that writes some samples of one log at a time.</summary>
    private sealed class SampleInsert : IDisposable
    {
        private readonly SqliteCommand _command;
        private readonly SqliteParameter _log;
        private readonly (SqliteParameter At, SqliteParameter Value, SqliteParameter Status)[] _rows;
        private readonly StatusFlags[] _said;

        public SampleInsert(SqliteConnection connection, int rows)
        {
            _command = Database.Command(connection, $"INSERT OR REPLACE INTO samples (log, at, value, status) VALUES {string.Join(", ", Enumerable.Range(0, rows).Select(i => $"($log, $at{i}, $value{i}, $status{i})"))}");
            _log = _command.Parameters.Add("$log", SqliteType.Integer);
            _rows = [.. Enumerable.Range(0, rows).Select(i => (_command.Parameters.Add($"$at{i}", SqliteType.Integer), _command.Parameters.Add($"$value{i}", SqliteType.Real), _command.Parameters.Add($"$status{i}", SqliteType.Integer)))];
            _said = new StatusFlags[rows];
            foreach (var row in _rows) row.Status.Value = 0L;
        }

        public SqliteTransaction? Transaction
        {
            set => _command.Transaction = value;
        }

        /// <summary>Writes as many samples as it has rows, from the next on.</summary>
        public void Write(long log, IReadOnlyList<Sample> samples, ref int next)
        {
            _log.Value = log;
            for (int i = 0; i < _rows.Length; i++)
            {
                Sample sample = samples[next++];
                _rows[i].At.Value = sample.AtMilliseconds;
                _rows[i].Value.Value = double.IsNaN(sample.Value) ? DBNull.Value : sample.Value;
                if (sample.Status != _said[i]) _rows[i].Status.Value = (long)(_said[i] = sample.Status);
            }
            _command.ExecuteNonQuery();
        }

        public void Dispose() => _command.Dispose();
    }
}
