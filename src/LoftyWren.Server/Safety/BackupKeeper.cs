using LoftyWren.Server.Projects;
using LoftyWren.Storage;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Libraries;
using LoftyWren.Storage.Projects;

namespace LoftyWren.Server.Safety;

/// <summary>
/// Backs every database up on a timetable: when the server has started and every hour, if it was written since; history,
/// which is large, only every 24th time. What goes wrong is logged and shown, and tried again in an hour.
/// </summary>
public sealed class BackupKeeper(ProjectDirectory projects, AccountStore accounts, LibraryStore libraries, ProjectList list, TimeProvider clock, ILogger<BackupKeeper> log) : BackgroundService
{
    /// <summary>How often.</summary>
    public static readonly TimeSpan Every = TimeSpan.FromHours(1);

    private const int HistoryEvery = 24;
    private readonly Dictionary<string, (long Length, DateTime Written)> _seen = [];
    private readonly Lock _turn = new();
    private int _round;

    /// <summary>What went wrong last, or null.</summary>
    public string? Problem { get; private set; }

    /// <summary>Backs up what was written since the last time; answers how many databases.</summary>
    public int Round()
    {
        lock (_turn)
        {
            int made = 0;
            string? problem = null;
            bool withHistory = _round++ % HistoryEvery == 0;
            foreach (Database database in (Database[])[accounts.Database, libraries.Database, list.Database, .. projects.AllOpen.SelectMany(p => p.Databases)])
            {
                if (!withHistory && Path.GetFileName(database.FilePath) == "history.db") continue;
                var now = Mark(database.FilePath);
                if (_seen.TryGetValue(database.FilePath, out var before) && before == now && Backups.Of(database.FilePath).Count > 0) continue;
                try
                {
                    Backups.Make(database);
                    _seen[database.FilePath] = now;
                    made++;
                }
                catch (StorageException e)
                {
                    problem = e.Message;
                    log.LogWarning("{Problem}", e.Message);
                }
            }
            Problem = problem;
            return made;
        }
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await Task.Yield();
        using var timer = new PeriodicTimer(Every, clock);
        do Round();
        while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Length and last writing of a database and its log together: another mark, another state.</summary>
    private static (long, DateTime) Mark(string path)
    {
        var file = new FileInfo(path);
        var log = new FileInfo(path + "-wal");
        return (file.Length + (log.Exists ? log.Length : 0), log.Exists && log.LastWriteTimeUtc > file.LastWriteTimeUtc ? log.LastWriteTimeUtc : file.LastWriteTimeUtc);
    }
}
