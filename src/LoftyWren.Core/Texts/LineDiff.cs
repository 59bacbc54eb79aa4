namespace LoftyWren.Core.Texts;

/// <summary>A line of a comparison: in both, only in the first, or only in the second.</summary>
public sealed record DiffLine(int? First, int? Second, string Text);

/// <summary>What two texts have in common, line by line, by their longest common run of lines.</summary>
public static class LineDiff
{
    private const long MostCompared = 4_000_000;

    /// <summary>The lines of both in order: those that went before those that came.</summary>
    public static IReadOnlyList<DiffLine> Of(IReadOnlyList<string> first, IReadOnlyList<string> second)
    {
        int head = 0;
        while (head < first.Count && head < second.Count && first[head] == second[head]) head++;
        int tail = 0;
        while (tail < first.Count - head && tail < second.Count - head && first[^(tail + 1)] == second[^(tail + 1)]) tail++;
        int rows = first.Count - head - tail, columns = second.Count - head - tail;
        // What is this far apart is told as gone and come, rather than searched through.
        if ((long)rows * columns > MostCompared) return [.. first.Take(head).Select((t, i) => new DiffLine(i + 1, i + 1, t)), .. first.Skip(head).Take(rows).Select((t, i) => new DiffLine(head + i + 1, null, t)), .. second.Skip(head).Take(columns).Select((t, i) => new DiffLine(null, head + i + 1, t)), .. first.Skip(head + rows).Select((t, i) => new DiffLine(head + rows + i + 1, head + columns + i + 1, t))];
        var length = new int[rows + 1, columns + 1];
        for (int i = rows - 1; i >= 0; i--)
        {
            for (int j = columns - 1; j >= 0; j--) length[i, j] = first[head + i] == second[head + j] ? length[i + 1, j + 1] + 1 : Math.Max(length[i + 1, j], length[i, j + 1]);
        }
        var lines = new List<DiffLine>();
        for (int i = 0; i < head; i++) lines.Add(new DiffLine(i + 1, i + 1, first[i]));
        for (int i = 0, j = 0; i < rows || j < columns;)
        {
            if (i < rows && j < columns && first[head + i] == second[head + j]) lines.Add(new DiffLine(head + ++i, head + ++j, first[head + i - 1]));
            else if (i < rows && (j == columns || length[i + 1, j] >= length[i, j + 1])) lines.Add(new DiffLine(head + ++i, null, first[head + i - 1]));
            else lines.Add(new DiffLine(null, head + ++j, second[head + j - 1]));
        }
        for (int i = tail; i > 0; i--) lines.Add(new DiffLine(first.Count - i + 1, second.Count - i + 1, first[^i]));
        return lines;
    }
}
