using System.Text.RegularExpressions;
using LoftyWren.Core.Points;

namespace LoftyWren.Core.PointLists;

/// <summary>How a list is read: where its headers are, what each column says, and what other words stand for.</summary>
public sealed record ListMapping
{
    /// <summary>The row of the headers, from 0; what comes before is not read. −1: there are none.</summary>
    public int HeaderRow { get; init; }

    /// <summary>What each column says, in order: keys of <see cref="ListColumns"/>, or <see cref="ListColumns.None"/>. Columns beyond are not read.</summary>
    public required IReadOnlyList<string> Columns { get; init; }

    /// <summary>An empty cell of building, floor or room stands for the one above.</summary>
    public bool BlankIsAbove { get; init; } = true;

    /// <summary>The building of rows that name none.</summary>
    public string? Building { get; init; }

    /// <summary>The list's words and what they stand for in ours, by column: a unit, a kind of equipment, a place, a type.</summary>
    public IReadOnlyDictionary<string, IReadOnlyDictionary<string, string>> Words { get; init; } = new Dictionary<string, IReadOnlyDictionary<string, string>>();

    /// <summary>A mapping proposed from headers and contents.</summary>
    public static ListMapping Propose(Sheet sheet)
    {
        int best = 0, most = -1;
        for (int r = 0; r < Math.Min(20, sheet.Rows.Count); r++)
        {
            int known = sheet.Rows[r].Count(c => Guess(c) is not null);
            if (known > most) (best, most) = (r, known);
        }
        int columns = sheet.Rows.Count == 0 ? 0 : sheet.Rows.Take(best + 50).Max(r => r.Length);
        var taken = new HashSet<ListColumn>();
        string[] fields = new string[columns];
        for (int c = 0; c < columns; c++)
        {
            fields[c] = ListColumns.None;
            ListColumn? guess = Guess(sheet.Cell(best, c));
            // “Kind” alone may be that of the equipment, or the type of the point; “point kind” says what it is.
            if (guess?.Key == "kind" && sheet.Cell(best, c).Equals("kind", StringComparison.OrdinalIgnoreCase) && !Contents(sheet, best, c).Any(IsKind)) guess = ListColumns.Find(Contents(sheet, best, c).Any(v => PointTypes.Read(v) is not null) ? "type" : "equipmentKind");
            guess ??= ByContents(Contents(sheet, best, c));
            if (guess is not null && taken.Add(guess)) fields[c] = guess.Key;
        }
        // Where every row names its building, an empty cell means that there is none, not the one above.
        int building = Array.IndexOf(fields, ListColumns.Building.Key);
        bool named = building >= 0 && Enumerable.Range(best + 1, Math.Max(0, sheet.Rows.Count - best - 1)).All(r => sheet.Cell(r, building).Length > 0 || sheet.Rows[r].All(string.IsNullOrWhiteSpace));
        return new ListMapping { HeaderRow = best, Columns = fields, BlankIsAbove = !named };
    }

    private static List<string> Contents(Sheet sheet, int header, int column) =>
        [.. Enumerable.Range(header + 1, Math.Max(0, Math.Min(50, sheet.Rows.Count - header - 1))).Select(r => sheet.Cell(r, column)).Where(v => v.Length > 0).Distinct()];

    private static ListColumn? ByContents(List<string> values)
    {
        if (values.Count == 0) return null;
        if (values.All(v => PointTypes.Read(v) is not null)) return ListColumns.Find("type");
        return values.All(v => Units.Unit.Read(v) is not null) ? ListColumns.Find("unit") : null;
    }

    private static bool IsKind(string text) => PointFields.Kind.Read(Projects.Project.Empty, PointFields.Blank, text).Record is not null;

    private static ListColumn? Guess(string header) => ListColumns.Named(Regex.Replace(header.ToLowerInvariant(), "[^a-z²0-9]+", " ").Trim());
}
