namespace LoftyWren.Core.PointLists;

/// <summary>A sheet of cells as texts, row by row; rows may be of different lengths. Numbers are written with a point, dates as 2026-04-14.</summary>
public sealed record Sheet(string Name, IReadOnlyList<string[]> Rows)
{
    /// <summary>The cell, trimmed; empty where there is none.</summary>
    public string Cell(int row, int column) => row < Rows.Count && column < Rows[row].Length ? Rows[row][column].Trim() : "";

    /// <summary>The letters of a column as spreadsheet programs write them: 0 is A, 26 is AA.</summary>
    public static string Letters(int column) => (column >= 26 ? Letters((column / 26) - 1) : "") + (char)('A' + (column % 26));
}
