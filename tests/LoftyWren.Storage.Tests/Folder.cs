namespace LoftyWren.Storage.Tests;

/// <summary>A folder that is thrown away after a test.</summary>
public class Folder : IDisposable
{
    private readonly string _path = Directory.CreateTempSubdirectory("lofty-wren-storage-").FullName;

    protected string File(string name) => Path.Combine(_path, name);

    public void Dispose()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(_path, recursive: true);
        GC.SuppressFinalize(this);
    }
}
