using System.Runtime.InteropServices;

namespace LoftyWren.Server.Safety;

/// <summary>Files and folders that this program makes are its user's alone: 0600 and 0700, whatever the session that started it allows.</summary>
internal static partial class PrivateFiles
{
    private const uint OthersNothing = 0x3F; // 077 in octal

    /// <summary>From now on, and for what is in a data folder already.</summary>
    public static void Make(string folder)
    {
        if (OperatingSystem.IsWindows()) return;
        _ = UMask(OthersNothing);
        if (!Directory.Exists(folder)) return;
        var all = new EnumerationOptions { RecurseSubdirectories = true, IgnoreInaccessible = true, AttributesToSkip = FileAttributes.ReparsePoint };
        foreach (string path in Directory.EnumerateDirectories(folder, "*", all).Prepend(folder)) File.SetUnixFileMode(path, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        foreach (string path in Directory.EnumerateFiles(folder, "*", all)) File.SetUnixFileMode(path, UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }

    [LibraryImport("libc", EntryPoint = "umask")]
    private static partial uint UMask(uint mask);
}
