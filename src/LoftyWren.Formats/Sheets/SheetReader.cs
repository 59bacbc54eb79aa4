using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using LoftyWren.Core.PointLists;
using MiniExcelLibs;

namespace LoftyWren.Formats.Sheets;

/// <summary>What a file held: its sheets, and what a person should know of how it was read.</summary>
public sealed record Workbook(IReadOnlyList<Sheet> Sheets, IReadOnlyList<string> Notes);

/// <summary>Reads CSV and XLSX files from strangers, within <see cref="SheetLimits"/>. Formulas count with the result they were saved with; macros are never looked at.</summary>
public static class SheetReader
{
    /// <summary>Reads a file; what it is is told by its bytes, not by its name.</summary>
    /// <exception cref="FileRefusedException">It is neither, is damaged, or is larger than the limits.</exception>
    public static Workbook Read(byte[] bytes, CancellationToken stop = default)
    {
        if (bytes.Length == 0) throw new FileRefusedException("The file is empty.");
        if (bytes.Length > SheetLimits.Bytes) throw new FileRefusedException($"The file has {bytes.Length / 1_048_576.0:0.0} MB; at most {SheetLimits.Bytes / 1_048_576} MB are read. Split it into several lists.");
        if (bytes is [0xD0, 0xCF, 0x11, 0xE0, ..]) throw new FileRefusedException("This is a spreadsheet in the old binary form. Save it as XLSX or CSV and try again.");
        var clock = Stopwatch.StartNew();
        return bytes is [(byte)'P', (byte)'K', ..] ? ReadPacked(bytes, clock, stop) : ReadText(bytes, clock, stop);
    }

    private static Workbook ReadPacked(byte[] bytes, Stopwatch clock, CancellationToken stop)
    {
        try
        {
            Measure(bytes);
            using var stream = new MemoryStream(bytes, writable: false);
            var names = stream.GetSheetNames();
            if (names.Count > SheetLimits.Sheets) throw new FileRefusedException($"The file has {names.Count} sheets; at most {SheetLimits.Sheets} are read.");
            var sheets = new List<Sheet>();
            int cells = 0;
            foreach (string name in names)
            {
                var rows = new List<string[]>();
                stream.Position = 0;
                foreach (IDictionary<string, object?> row in stream.Query(useHeaderRow: false, sheetName: name, excelType: ExcelType.XLSX).Cast<IDictionary<string, object?>>())
                {
                    if (row.Count > SheetLimits.Columns && row.Values.Skip(SheetLimits.Columns).Any(v => v is not null)) throw new FileRefusedException($"Sheet ‘{Short(name)}’ has more than {SheetLimits.Columns} columns.");
                    Take(rows, [.. row.Values.Take(SheetLimits.Columns).Select(Text)], name, ref cells, clock, stop);
                }
                sheets.Add(new Sheet(Short(name), Trimmed(rows)));
            }
            return new Workbook(sheets, []);
        }
        catch (Exception e) when (e is not FileRefusedException and not OutOfMemoryException and not OperationCanceledException)
        {
            throw new FileRefusedException($"This is a packed file, but no spreadsheet that can be read: {Short(e.Message)} Open it in a spreadsheet program, save it as XLSX or CSV, and try again.", e);
        }
    }

    /// <summary>Unpacks everything once, counting, and keeps nothing: a small file that would unpack to a great one is refused before anything else reads it.</summary>
    private static void Measure(byte[] bytes)
    {
        using var zip = new ZipArchive(new MemoryStream(bytes, writable: false), ZipArchiveMode.Read);
        if (zip.Entries.Count > SheetLimits.Entries) throw new FileRefusedException($"The file holds {zip.Entries.Count} parts; a spreadsheet has at most {SheetLimits.Entries}.");
        long total = 0;
        foreach (ZipArchiveEntry entry in zip.Entries) Packing.Count(entry, ref total, SheetLimits.UnpackedBytes);
    }

    private static Workbook ReadText(byte[] bytes, Stopwatch clock, CancellationToken stop)
    {
        var notes = new List<string>();
        string text = Decode(bytes, notes);
        if (text.AsSpan(0, Math.Min(text.Length, 4096)).Contains('\0')) throw new FileRefusedException("This is neither a text nor a spreadsheet. Save the list as CSV or XLSX.");
        char delimiter = Delimiter(text);
        if (UnclosedQuote(text) is { } unclosed) throw new FileRefusedException($"A quotation mark is opened in row {unclosed} and never closed. Close it, or write a quotation mark inside a quoted cell twice.");
        var rows = new List<string[]>();
        int cells = 0;
        int strayRow = 0, stray = 0;
        // The parser copies the row so far for each stray quotation mark, so a row may have only some of them.
        void Stray(BadDataFoundArgs bad)
        {
            int row = bad.Context.Parser?.RawRow ?? 0;
            (strayRow, stray) = (row, row == strayRow ? stray + 1 : 1);
            if (stray > SheetLimits.StrayQuotes) throw new FileRefusedException($"Row {row} has more than {SheetLimits.StrayQuotes} quotation marks inside cells that are not quoted. Put such cells into quotation marks and write those within twice.");
        }
        var configuration = new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = delimiter.ToString(),
            HasHeaderRecord = false,
            IgnoreBlankLines = false,
            BadDataFound = Stray,
            MaxFieldSize = 0,
        };
        using var parser = new CsvParser(new StringReader(text), configuration);
        while (parser.Read()) Take(rows, [.. (parser.Record ?? []).Select(c => Plain(c))], "the list", ref cells, clock, stop);
        return new Workbook([new Sheet("list", Trimmed(rows))], notes);
    }

    /// <summary>The row in which the quotation mark is opened that is never closed, or null when all are.</summary>
    private static int? UnclosedQuote(string text)
    {
        int row = 1, openedIn = 0;
        bool isOpen = false;
        int length = 0;
        foreach (char c in text)
        {
            length = c == '\n' ? 0 : length + 1;
            if (length > SheetLimits.LineLength) throw new FileRefusedException($"Row {row} is longer than {SheetLimits.LineLength:N0} characters; a row of {SheetLimits.Columns} columns is not.");
            if (c == '"') (isOpen, openedIn) = (!isOpen, isOpen ? openedIn : row);
            else if (c == '\n') row++;
        }
        return isOpen ? openedIn : null;
    }

    private static string Decode(byte[] bytes, List<string> notes)
    {
        if (bytes is [0xFF, 0xFE, ..]) return Encoding.Unicode.GetString(bytes, 2, bytes.Length - 2);
        if (bytes is [0xFE, 0xFF, ..]) return Encoding.BigEndianUnicode.GetString(bytes, 2, bytes.Length - 2);
        int skip = bytes is [0xEF, 0xBB, 0xBF, ..] ? 3 : 0;
        try
        {
            return new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(bytes, skip, bytes.Length - skip);
        }
        catch (DecoderFallbackException)
        {
            notes.Add("The file is not UTF-8; it was read as Western European (Latin 1). Look whether names with accents and signs such as ° are right.");
            return Encoding.Latin1.GetString(bytes);
        }
    }

    /// <summary>The delimiter that comes most evenly in the first lines.</summary>
    private static char Delimiter(string text)
    {
        string[] lines = [.. text.Split('\n').Take(20).Where(l => l.Trim().Length > 0)];
        return new[] { ',', ';', '\t' }.MaxBy(d => lines.Length == 0 ? 0 : lines.Count(l => l.Contains(d)) * 1000 + lines.Min(l => l.Count(c => c == d)) * 10 + lines.Average(l => l.Count(c => c == d)));
    }

    private static void Take(List<string[]> rows, string[] row, string sheet, ref int cells, Stopwatch clock, CancellationToken stop)
    {
        if (rows.Count >= SheetLimits.Rows) throw new FileRefusedException($"‘{Short(sheet)}’ has more than {SheetLimits.Rows:N0} rows. Split it into several lists.");
        if (row.Length > SheetLimits.Columns) throw new FileRefusedException($"Row {rows.Count + 1} has {row.Length} columns; at most {SheetLimits.Columns} are read.");
        cells += row.Length;
        if (cells > SheetLimits.Cells) throw new FileRefusedException($"The file has more than {SheetLimits.Cells:N0} cells. Split it into several lists.");
        for (int i = 0; i < row.Length; i++)
        {
            if (row[i].Length > SheetLimits.CellLength) throw new FileRefusedException($"Cell {Sheet.Letters(i)}{rows.Count + 1} holds {row[i].Length} characters; at most {SheetLimits.CellLength} are read.");
        }
        stop.ThrowIfCancellationRequested();
        if (clock.Elapsed > SheetLimits.Time) throw new FileRefusedException($"Reading took longer than {SheetLimits.Time.TotalSeconds:0} s and was stopped.");
        rows.Add(row);
    }

    /// <summary>Without the empty rows at the end.</summary>
    private static List<string[]> Trimmed(List<string[]> rows)
    {
        while (rows.Count > 0 && rows[^1].All(string.IsNullOrWhiteSpace)) rows.RemoveAt(rows.Count - 1);
        return rows;
    }

    private static string Text(object? value) => value switch
    {
        null => "",
        string s => Plain(s),
        double d => d.ToString("R", CultureInfo.InvariantCulture),
        DateTime t => t.TimeOfDay == TimeSpan.Zero ? t.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) : t.ToString("yyyy-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture),
        bool b => b ? "TRUE" : "FALSE",
        IFormattable f => f.ToString(null, CultureInfo.InvariantCulture),
        _ => value.ToString() ?? "",
    };

    /// <summary>A cell that was kept from being taken for a formula, as <see cref="SheetWriter"/> does, without what kept it.</summary>
    private static string Plain(string cell) => cell.StartsWith('\'') && SheetWriter.NeedsGuard(cell[1..]) ? cell[1..] : cell;

    private static string Short(string text) => text.Length > 60 ? text[..60] + "…" : text;
}
