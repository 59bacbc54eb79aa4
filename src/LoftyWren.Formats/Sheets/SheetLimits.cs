namespace LoftyWren.Formats.Sheets;

/// <summary>A file that is not taken, with the reason in words.</summary>
public sealed class FileRefusedException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>What a file may hold at most. Whatever it says of itself, no more than this is ever read.</summary>
public static class SheetLimits
{
    /// <summary>Bytes of the file.</summary>
    public const int Bytes = 10 * 1024 * 1024;

    /// <summary>Bytes a packed file may unpack to.</summary>
    public const long UnpackedBytes = 96 * 1024 * 1024;

    /// <summary>Files in a packed file.</summary>
    public const int Entries = 2000;

    /// <summary>Sheets of a workbook.</summary>
    public const int Sheets = 100;

    /// <summary>Rows of a sheet.</summary>
    public const int Rows = 100_000;

    /// <summary>Columns of a sheet.</summary>
    public const int Columns = 200;

    /// <summary>Letters of a cell.</summary>
    public const int CellLength = 4000;

    /// <summary>Letters of a line of text.</summary>
    public const int LineLength = Columns * CellLength;

    /// <summary>Quotation marks within cells of one row that are not quoted.</summary>
    public const int StrayQuotes = 50;

    /// <summary>Cells of a workbook.</summary>
    public const int Cells = 2_000_000;

    /// <summary>How long reading may take.</summary>
    public static TimeSpan Time { get; } = TimeSpan.FromSeconds(20);
}
