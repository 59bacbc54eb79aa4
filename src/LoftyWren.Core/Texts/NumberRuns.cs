namespace LoftyWren.Core.Texts;

/// <summary>Whole numbers as people list them: “1, 3–7, 9”.</summary>
public static class NumberRuns
{
    /// <summary>
    /// The numbers, ascending, with three or more in a row as first–last. After <paramref name="most"/> such runs the rest is
    /// counted: “1–5, 7–11 and 20 more”.
    /// </summary>
    public static string Said(IEnumerable<int> numbers, int most = 8)
    {
        int[] sorted = [.. numbers.Distinct().Order()];
        var said = new List<string>();
        int i = 0;
        while (i < sorted.Length && said.Count < most)
        {
            int last = i;
            while (last + 1 < sorted.Length && sorted[last + 1] == sorted[last] + 1) last++;
            if (last - i < 2) last = i;
            said.Add(last == i ? $"{sorted[i]}" : $"{sorted[i]}–{sorted[last]}");
            i = last + 1;
        }
        return string.Join(", ", said) + (i < sorted.Length ? $" and {sorted.Length - i} more" : "");
    }
}
