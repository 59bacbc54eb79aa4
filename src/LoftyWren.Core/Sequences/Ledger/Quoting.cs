using System.Text;

namespace LoftyWren.Core.Sequences.Ledger;

/// <summary>Texts between quotation marks: ‘ ’ around names, “ ” around messages. A closing mark inside is written twice, so that every text can stand between them.</summary>
internal static class Quoting
{
    /// <summary>A name in ‘ ’.</summary>
    public static string Name(string name) => $"‘{name.Replace("’", "’’", StringComparison.Ordinal)}’";

    /// <summary>A message in “ ”.</summary>
    public static string Words(string words) => $"“{words.Replace("”", "””", StringComparison.Ordinal)}”";

    /// <summary>What stands between marks that open at a place, and the place behind them; null where they are not closed.</summary>
    public static (string Inside, int End)? At(string text, int at, char close = '’')
    {
        var inside = new StringBuilder();
        for (int i = at + 1; i < text.Length; i++)
        {
            if (text[i] == close)
            {
                if (i + 1 >= text.Length || text[i + 1] != close) return (inside.ToString(), i + 1);
                i++;
            }
            inside.Append(text[i]);
        }
        return null;
    }

    /// <summary>A name as it stands for itself: without its marks where it has some.</summary>
    public static string Bare(string text) => text.Trim() is var t && t.StartsWith('‘') && At(t, 0) is var (inside, end) && end == t.Length ? inside : t;

    /// <summary>Where a mark stands outside of ‘ ’; −1 where it does not.</summary>
    public static int Outside(string text, string mark)
    {
        // Where one mark is not closed none after it is, so that the text is gone through once.
        bool mayClose = true;
        for (int i = 0; i < text.Length; i++)
        {
            if (mayClose && text[i] == '‘')
            {
                if (At(text, i) is var (_, end)) i = end - 1;
                else mayClose = false;
            }
            else if (text.AsSpan(i).StartsWith(mark)) return i;
        }
        return -1;
    }
}
