using LoftyWren.Storage;

namespace LoftyWren.Server.Safety;

/// <summary>Putting backups back by one command, while no server runs: <c>--restore</c> for every database that is not whole, <c>--restore FILE</c> for one.</summary>
public static class Restoring
{
    /// <summary>Does it; answers what was done, a sentence each.</summary>
    /// <exception cref="StorageException">Something could not be put back; what was there is as it was.</exception>
    public static IReadOnlyList<string> Run(string dataFolder, string? file)
    {
        using FolderLock taken = FolderLock.Take(dataFolder);
        var done = new List<string>();
        if (file is not null)
        {
            string path = Path.GetFullPath(file);
            string? owner = DatabasesIn(dataFolder).Concat(GoneIn(dataFolder)).FirstOrDefault(d => Backups.Of(d).Any(b => b.Path == path));
            if (owner is null) throw new StorageException($"{path} is no backup of this folder. Backups lie in {Path.Combine(Path.GetFullPath(dataFolder), "backups")}, each below the name of its database.");
            done.Add(Put(owner, Backups.Of(owner).First(b => b.Path == path)));
            return done;
        }
        foreach (string path in DatabasesIn(dataFolder).Concat(GoneIn(dataFolder)).Distinct())
        {
            string? trouble = Backups.Trouble(path);
            bool lacks = trouble is null && path.EndsWith("project.db", StringComparison.Ordinal) && MissesEdits(path);
            if (trouble is null && !lacks) continue;
            if (Backups.NewestGood(path) is { } good) done.Add(Put(path, good));
            else done.Add($"{path} is not as it should be ({trouble ?? "edits are missing"}), and there is no good backup of it. Put a copy of your own in its place, or move it away and start without it.");
        }
        if (done.Count == 0) done.Add($"Every database in {Path.GetFullPath(dataFolder)} is whole; nothing was put back. Name a file to put back an older state: --restore FILE.");
        return done;
    }

    private static string Put(string path, Backup backup)
    {
        string? aside = Backups.Restore(path, backup);
        return $"{path} is the backup made {backup.At:yyyy-MM-dd HH:mm} UTC{(backup.Revision > 0 ? $", revision {backup.Revision}" : "")}, again.{(aside is null ? "" : $" What was there is kept as {aside}.")}";
    }

    private static bool MissesEdits(string path)
    {
        // Opening says in words whether acknowledged edits are missing.
        try
        {
            new Storage.Projects.ProjectStore(path).Dispose();
            return false;
        }
        catch (StorageException)
        {
            return true;
        }
    }

    private static IEnumerable<string> Folders(string dataFolder)
    {
        string full = Path.GetFullPath(dataFolder), projects = Path.Combine(full, "projects");
        return Directory.Exists(projects) ? Directory.GetDirectories(projects).Prepend(full) : [full];
    }

    private static IEnumerable<string> DatabasesIn(string dataFolder) => Folders(dataFolder).SelectMany(f => Directory.GetFiles(f, "*.db")).Where(p => !Path.GetFileName(p).Contains(".replaced-", StringComparison.Ordinal));

    /// <summary>Databases of which there are backups, but which are gone.</summary>
    private static IEnumerable<string> GoneIn(string dataFolder) => Folders(dataFolder).Select(f => (Folder: f, Backups: Path.Combine(f, "backups"))).Where(x => Directory.Exists(x.Backups))
        .SelectMany(x => Directory.GetDirectories(x.Backups).Select(d => Path.Combine(x.Folder, Path.GetFileName(d) + ".db"))).Where(p => !File.Exists(p));
}
