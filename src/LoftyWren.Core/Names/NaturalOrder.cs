namespace LoftyWren.Core.Names;

/// <summary>
/// The order in which people list names: letter case ignored, runs of digits by their number, so that Room 9 comes before
/// Room 10. Texts that differ only in case or leading zeros keep an order of their own, so that it is total.
/// </summary>
public sealed class NaturalOrder : IComparer<string>
{
    /// <summary>The one there is.</summary>
    public static NaturalOrder Names { get; } = new();

    /// <inheritdoc/>
    public int Compare(string? x, string? y)
    {
        if (x is null || y is null) return x is null ? (y is null ? 0 : -1) : 1;
        int i = 0, j = 0;
        while (i < x.Length && j < y.Length)
        {
            int order;
            if (char.IsAsciiDigit(x[i]) && char.IsAsciiDigit(y[j]))
            {
                ReadOnlySpan<char> a = Digits(x, ref i), b = Digits(y, ref j);
                order = a.Length != b.Length ? a.Length.CompareTo(b.Length) : a.CompareTo(b, StringComparison.Ordinal);
            }
            else order = char.ToUpperInvariant(x[i++]).CompareTo(char.ToUpperInvariant(y[j++]));
            if (order != 0) return order;
        }
        int left = (x.Length - i).CompareTo(y.Length - j);
        return left != 0 ? left : string.CompareOrdinal(x, y);
    }

    /// <summary>The run of digits at a position, leading zeros left out; the position goes on past it.</summary>
    private static ReadOnlySpan<char> Digits(string text, ref int at)
    {
        int from = at;
        while (at < text.Length && char.IsAsciiDigit(text[at])) at++;
        return text.AsSpan(from, at - from).TrimStart('0');
    }
}
