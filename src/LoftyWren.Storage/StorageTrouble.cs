using Microsoft.Data.Sqlite;

namespace LoftyWren.Storage;

/// <summary>Thrown when a database cannot be opened as it is; the message says which file, why and what to do.</summary>
public sealed class StorageException(string message) : Exception(message);

/// <summary>What a failure of the disk is in words: what, where, what to do.</summary>
public static class StorageTrouble
{
    /// <summary>Whether it is a matter of the disk, not of what was asked.</summary>
    public static bool Is(SqliteException e) => e.SqliteErrorCode is 8 or 10 or 11 or 13 or 14 or 26;

    /// <summary>The sentence for a failure; <paramref name="where"/> is the file or folder.</summary>
    public static string Say(SqliteException e, string where) => e.SqliteErrorCode switch
    {
        13 => $"There is no room left on the disk for {where}. Nothing was changed. Make room there; everything goes on by itself.",
        8 => $"{where} may not be written: the disk or the folder is read-only. Nothing was changed. Give the program the right to write there.",
        10 => $"{where} could not be written or read (input/output error). Nothing was changed. Make sure that the disk has room and is well.",
        14 => $"{where} could not be opened. Nothing was changed. Check that the folder is there and that the program may write into it.",
        11 or 26 => $"{where} is damaged ({e.Message}). Stop the program and start it with --restore, which puts back the newest good backup and keeps the damaged file beside it.",
        _ => $"{where}: {e.Message}",
    };
}
