using System.Globalization;
using System.Text.Json;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Formats.Projects;

namespace LoftyWren.Server.Projects;

/// <summary>Where each day's project files go, and how many of each project stay; an empty folder: nowhere.</summary>
public sealed record DailyCopySettings(string Folder, int KeepDays = 90);

/// <summary>The settings, and what came of the last copies: when (Unix ms), how many, or what went wrong.</summary>
public sealed record DailyCopyView(string Folder, int KeepDays, long? LastAt, int LastCount, string? Problem);

/// <summary>Writes each day's project file of every open project into a folder of the server, once a day and when asked.</summary>
public sealed class DailyCopies(ProjectDirectory projects, TimeProvider clock, ILogger<DailyCopies> log) : BackgroundService
{
    private const string Setting = "daily-copies";
    private readonly Lock _turn = new();
    private (long At, int Count, string? Problem)? _last;

    /// <summary>What is set, and what came of it.</summary>
    public DailyCopyView View()
    {
        DailyCopySettings settings = Read();
        lock (_turn) return new DailyCopyView(settings.Folder, settings.KeepDays, _last?.At, _last?.Count ?? 0, _last?.Problem);
    }

    /// <summary>Sets the folder after trying it with a copy; answers why not, or null.</summary>
    public string? Set(DailyCopySettings settings)
    {
        string folder = settings.Folder?.Trim() ?? "";
        if (settings.KeepDays is < 1 or > 3650) return "Keep 1 to 3650 copies of each project.";
        if (folder.Length > 0)
        {
            if (!Path.IsPathFullyQualified(folder)) return $"‘{folder}’ is no whole path. Write it from the root, such as /srv/copies.";
            if (!Directory.Exists(folder)) return $"There is no folder {folder} on the server. Make it first; a misspelt path must not become a new folder.";
        }
        var wanted = settings with { Folder = folder };
        if (folder.Length > 0 && Write(wanted) is { } problem) return problem;
        projects.List.Set(Setting, JsonSerializer.Serialize(wanted, RecordJson.Options));
        return null;
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMinutes(1), clock);
        do
        {
            try
            {
                DailyCopySettings settings = Read();
                if (settings.Folder.Length > 0 && Begun.Any(p => !File.Exists(PathOf(settings.Folder, p, Today)))) Write(settings);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // A copy that fails must not take the server with it; it is tried again in a minute.
                log.LogError(e, "The daily copies failed: {Message}", e.Message);
            }
        }
        while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Open projects with anything in them; an empty one has nothing to copy, and none is missed of it.</summary>
    private IEnumerable<OpenProject> Begun => projects.AllOpen.Where(p => p.Get<Workspace>().Project.Revision > 0);

    private DateTime Today => clock.GetLocalNow().Date;

    private DailyCopySettings Read() => projects.List.Setting(Setting) is { } text ? JsonSerializer.Deserialize<DailyCopySettings>(text, RecordJson.Options)! : new DailyCopySettings("");

    private static string PathOf(string folder, OpenProject project, DateTime day) => Path.Combine(folder, $"{project.Id}_{day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}.wren");

    /// <summary>Writes today's copies and takes away the oldest beyond how many should stay. Answers what went wrong, or null.</summary>
    private string? Write(DailyCopySettings settings)
    {
        int count = 0;
        string? problem = null;
        try
        {
            foreach (OpenProject project in Begun)
            {
                Project state = project.Get<Workspace>().Project;
                string path = PathOf(settings.Folder, project, Today);
                // Whole or not at all: a copy that broke off must not pass for one.
                File.WriteAllBytes(path + ".part", ProjectFile.Write(state));
                File.Move(path + ".part", path, overwrite: true);
                count++;
                // The newest so many stay, by their names: a clock that is wrong for a while takes away one copy, not all.
                foreach (string old in Directory.GetFiles(settings.Folder, $"{project.Id}_????-??-??.wren").OrderByDescending(f => f, StringComparer.Ordinal).Skip(settings.KeepDays)) File.Delete(old);
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            problem = $"The daily copies could not be written: {e.Message} Check that the server may write into {settings.Folder}.";
            log.LogWarning("{Problem}", problem);
        }
        lock (_turn) _last = (clock.GetUtcNow().ToUnixTimeMilliseconds(), count, problem);
        return problem;
    }
}
