using System.Globalization;
using LoftyWren.Storage;

namespace LoftyWren.Server.Safety;

/// <summary>The data folder belongs to one server at a time: a lock that the operating system lets go with the process, however it ends.</summary>
public sealed class FolderLock : IDisposable
{
    private readonly FileStream _file;

    private FolderLock(FileStream file) => _file = file;

    /// <summary>Takes the folder, after making sure that it is there, can be written and has room.</summary>
    /// <exception cref="StorageException">Another server has it, or it cannot be used; the message says what to do.</exception>
    public static FolderLock Take(string folder)
    {
        string path = Path.Combine(folder, "lock");
        try
        {
            Directory.CreateDirectory(folder);
            var file = new FileStream(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
            try
            {
                file.SetLength(0);
                file.Write(System.Text.Encoding.ASCII.GetBytes(Environment.ProcessId.ToString(CultureInfo.InvariantCulture)));
                file.Flush(flushToDisk: true);
            }
            catch (IOException e)
            {
                file.Dispose();
                throw new StorageException($"Nothing can be written in {Path.GetFullPath(folder)}: {e.Message} Make room on its disk, or choose another folder with --data.");
            }
            return new FolderLock(file);
        }
        catch (UnauthorizedAccessException e)
        {
            throw new StorageException($"The folder {Path.GetFullPath(folder)} may not be written: {e.Message} Give this user the right to write there, or choose another folder with --data.");
        }
        catch (IOException e)
        {
            // 11 is what Unix says of a file that somebody else has locked, 32 what Windows says.
            throw new StorageException((e.HResult & 0xFFFF) is 11 or 32
                ? $"Another Lofty Wren already works on the folder {Path.GetFullPath(folder)}. Stop that one first, or start this one on another folder with --data."
                : $"The folder {Path.GetFullPath(folder)} cannot be used: {e.Message} Make sure that its disk has room, or choose another folder with --data.");
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _file.Dispose();
}
