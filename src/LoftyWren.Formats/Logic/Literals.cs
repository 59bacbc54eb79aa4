using System.Globalization;
using System.Text.RegularExpressions;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Formats.Logic;

/// <summary>Fixed values as IEC 61131-3 writes them (6.3): <c>TRUE</c>, <c>29.5</c>, <c>T#1m30s</c>.</summary>
internal static partial class Literals
{
    /// <summary>A number as a literal of type REAL, INT, BOOL or TIME; for TIME the number is in seconds.</summary>
    public static string Of(double value, string type) => type switch
    {
        "BOOL" => value > 0.5 ? "TRUE" : "FALSE",
        "INT" => Math.Round(value).ToString("0", CultureInfo.InvariantCulture),
        "TIME" => Time(value),
        _ => Of(value),
    };

    /// <summary>A text of one-byte characters; any that is none stands as a question mark.</summary>
    public static string OfText(string text) => $"'{string.Concat(text.Select(c => c switch { '$' => "$$", '\'' => "$'", >= ' ' and <= '~' => $"{c}", _ => "?" }))}'";

    /// <summary>A number, told as a real one to the last digit: with a point, and a digit on both sides of it (6.3.2).</summary>
    public static string Of(double value)
    {
        string[] parts = value.ToString("R", CultureInfo.InvariantCulture).Split('E');
        string mantissa = parts[0].Contains('.', StringComparison.Ordinal) ? parts[0] : parts[0] + ".0";
        return parts.Length == 1 ? mantissa : $"{mantissa}E{int.Parse(parts[1], CultureInfo.InvariantCulture).ToString(CultureInfo.InvariantCulture)}";
    }

    /// <summary>A length of time, s.</summary>
    public static string Time(double seconds) => $"T#{seconds.ToString("0.###", CultureInfo.InvariantCulture)}s";

    /// <summary>The constant that a literal stands for, a type before it left out; lengths of time in s. Null where it is none.</summary>
    public static ConstantSource? Read(string text)
    {
        text = text.Trim();
        if (Truth(text) is { } truth) return truth;
        if (Seconds(text) is { } seconds) return new ConstantSource(seconds, "s");
        if (Types().Match(text) is { Success: true } typed) text = text[typed.Length..];
        // An underscore stands between two digits and means nothing.
        if (Number().Match(text) is not { Success: true } number) return null;
        string digits = number.Groups["digits"].Value.Replace("_", "", StringComparison.Ordinal);
        if (!number.Groups["base"].Success) return double.TryParse(digits, NumberStyles.Float, CultureInfo.InvariantCulture, out double value) && double.IsFinite(value) ? new ConstantSource(value) : null;
        int radix = int.Parse(number.Groups["base"].Value, CultureInfo.InvariantCulture);
        double sum = 0;
        foreach (char c in digits)
        {
            int digit = char.IsAsciiDigit(c) ? c - '0' : char.ToUpperInvariant(c) - 'A' + 10;
            if (digit < 0 || digit >= radix) return null;
            sum = (sum * radix) + digit;
        }
        return sum <= ulong.MaxValue ? new ConstantSource(sum) : null;
    }

    private static ConstantSource? Truth(string text) => text.ToUpperInvariant() switch
    {
        "TRUE" or "BOOL#TRUE" or "BOOL#1" or "BOOL#2#1" or "BOOL#16#1" => new ConstantSource(1, null, true),
        "FALSE" or "BOOL#FALSE" or "BOOL#0" or "BOOL#2#0" or "BOOL#16#0" => new ConstantSource(0, null, true),
        _ => null,
    };

    [GeneratedRegex(@"^(SINT|INT|DINT|LINT|USINT|UINT|UDINT|ULINT|BYTE|WORD|DWORD|LWORD|REAL|LREAL)#", RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex Types();

    [GeneratedRegex(@"^((?<base>2|8|16)#(?<digits>[0-9A-F]+(_[0-9A-F]+)*)|(?<digits>[+-]?\d+(_\d+)*(\.\d+(_\d+)*)?(E[+-]?\d+)?))$", RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex Number();

    /// <summary>The s of a length of time, such as <c>T#1h30m</c>, <c>TIME#500ms</c>; null where it is none.</summary>
    public static double? Seconds(string text)
    {
        Match whole = WholeTime().Match(text.Trim().Replace("_", "", StringComparison.Ordinal));
        if (!whole.Success) return null;
        double seconds = 0;
        foreach (Match part in TimePart().Matches(whole.Groups["parts"].Value))
        {
            double unit = part.Groups["unit"].Value.ToLowerInvariant() switch { "d" => 86_400, "h" => 3600, "m" => 60, "s" => 1, _ => 0.001 };
            seconds += double.Parse(part.Groups["number"].Value, CultureInfo.InvariantCulture) * unit;
        }
        return whole.Groups["minus"].Success ? -seconds : seconds;
    }

    [GeneratedRegex(@"^(T|TIME|LT|LTIME)#(?<minus>-)?(?<parts>(\d+(\.\d+)?(ms|d|h|m|s))+)$", RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex WholeTime();

    [GeneratedRegex(@"(?<number>\d+(\.\d+)?)(?<unit>ms|d|h|m|s)", RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex TimePart();
}
