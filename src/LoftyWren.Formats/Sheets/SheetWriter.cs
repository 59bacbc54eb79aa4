using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using LoftyWren.Core.PointLists;
using MiniExcelLibs;
using MiniExcelLibs.OpenXml;

namespace LoftyWren.Formats.Sheets;

/// <summary>Writes sheets as CSV (UTF-8 with a mark, lines ended by CR LF, RFC 4180) and as XLSX; the same sheet always gives the same bytes as CSV.</summary>
public static class SheetWriter
{
    /// <summary>As CSV.</summary>
    public static byte[] Csv(Sheet sheet)
    {
        using var bytes = new MemoryStream();
        using (var text = new StreamWriter(bytes, new UTF8Encoding(encoderShouldEmitUTF8Identifier: true)))
        using (var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\r\n", ShouldQuote = q => q.Field is { } field && (field.AsSpan().IndexOfAny(",\"\r\n") >= 0 || field != field.Trim()) }))
        {
            foreach (string[] row in sheet.Rows)
            {
                foreach (string cell in row) csv.WriteField(Safe(cell));
                csv.NextRecord();
            }
        }
        return bytes.ToArray();
    }

    /// <summary>As XLSX; cells that read as numbers are numbers, but for the first row.</summary>
    public static byte[] Xlsx(params IReadOnlyList<Sheet> sheets)
    {
        var content = new Dictionary<string, object>();
        foreach (Sheet sheet in sheets)
        {
            int columns = sheet.Rows.Count == 0 ? 0 : sheet.Rows.Max(r => r.Length);
            content[sheet.Name] = sheet.Rows.Select((row, r) => Enumerable.Range(0, columns).ToDictionary(Sheet.Letters, c => c < row.Length ? Cell(row[c], r) : null)).ToList();
        }
        using var bytes = new MemoryStream();
        bytes.SaveAs(content, printHeader: false, configuration: new OpenXmlConfiguration { TableStyles = TableStyles.None, AutoFilter = false });
        return bytes.ToArray();
    }

    /// <summary>Whether a text must be kept from being taken for a formula, or reads as one that was kept so; an apostrophe in front does it.</summary>
    internal static bool NeedsGuard(string cell) => LooksLikeFormula(cell) || (cell.StartsWith('\'') && NeedsGuard(cell[1..]));

    private static bool LooksLikeFormula(string cell) => cell.Length > 0 && cell[0] is '=' or '+' or '-' or '@' or '\t' or '\r' && !IsNumber(cell);

    private static object? Cell(string cell, int row) => cell.Length == 0 ? null : row > 0 && IsNumber(cell) && double.Parse(cell, CultureInfo.InvariantCulture).ToString("R", CultureInfo.InvariantCulture) == cell ? double.Parse(cell, CultureInfo.InvariantCulture) : Safe(cell);

    private static string Safe(string cell) => NeedsGuard(cell) ? "'" + cell : cell;

    private static bool IsNumber(string cell) => double.TryParse(cell, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out _);
}
