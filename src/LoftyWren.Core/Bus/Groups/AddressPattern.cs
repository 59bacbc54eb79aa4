using System.Globalization;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>
/// How a set of group addresses moves: for each of the three levels a star (stays), a number (becomes that) or a sign with a number
/// (moves by so much): <c>3/*/+16</c>.
/// </summary>
public sealed class AddressPattern
{
    private readonly (bool IsShift, int? Number)[] _levels;

    private AddressPattern((bool, int?)[] levels) => _levels = levels;

    /// <summary>Reads a pattern; answers it, or a sentence that says what would be right.</summary>
    public static (AddressPattern? Pattern, string? Refusal) Read(string text)
    {
        string[] parts = text.Replace(" ", "", StringComparison.Ordinal).Split('/');
        if (parts.Length != 3) return (null, $"‘{text}’ is no pattern. Write the three levels with slashes between: a star stays, a number is set, +16 or -2 moves, such as 3/*/+16.");
        var levels = new (bool, int?)[3];
        for (int i = 0; i < 3; i++)
        {
            if (parts[i] == "*") continue;
            bool isShift = parts[i].StartsWith('+') || parts[i].StartsWith('-');
            if (!int.TryParse(parts[i], NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out int number) || Math.Abs(number) > GroupNumber.MostSub) return (null, $"‘{parts[i]}’ is no level of a pattern: a star, a number, or a number with a sign.");
            levels[i] = (isShift, number);
        }
        return (new AddressPattern(levels), null);
    }

    /// <summary>Where an address goes; null where that would be no address.</summary>
    public GroupNumber? Of(GroupNumber number)
    {
        int main = Level(0, number.Main), middle = Level(1, number.Middle), sub = Level(2, number.Sub);
        return main is >= 0 and <= GroupNumber.MostMain && middle is >= 0 and <= GroupNumber.MostMiddle && sub is >= 0 and <= GroupNumber.MostSub && GroupNumber.Of(main, middle, sub) is { Raw: > 0 } moved ? moved : null;
    }

    private int Level(int i, int was) => _levels[i] is (var isShift, { } number) ? isShift ? was + number : number : was;
}
