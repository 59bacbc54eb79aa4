using System.Globalization;
using System.Text.RegularExpressions;

namespace LoftyWren.Core.Fields;

/// <summary>How numbers are written in fields and read from them.</summary>
public static partial class FieldTexts
{
    /// <summary>A number with as many figures as it has, with a point.</summary>
    public static string? Say(double? value) => value?.ToString("R", CultureInfo.InvariantCulture);

    /// <summary>Reads a number with a point or a decimal comma; answers why not, or null. Where a comma could as well group thousands, it is not guessed at.</summary>
    public static string? Number(string text, out double value)
    {
        value = 0;
        if (text.Contains(',') && Thousands().IsMatch(text)) return $"‘{text}’ can be read in two ways. Write {text.Replace(",", "", StringComparison.Ordinal)} or {text.Replace(',', '.')}.";
        string plain = (text.Contains('.') ? text : text.Replace(',', '.')).Replace('−', '-');
        return double.TryParse(plain, NumberStyles.Float, CultureInfo.InvariantCulture, out value) && double.IsFinite(value) ? null : $"‘{text}’ is not a number. Write digits, such as 21.5.";
    }

    /// <summary>Reads a whole number; answers why not, or null.</summary>
    public static string? Whole(string text, out int value)
    {
        value = 0;
        if (Number(text, out double number) is { } refusal) return refusal;
        if (number != Math.Floor(number) || Math.Abs(number) > int.MaxValue) return $"‘{text}’ is not a whole number.";
        value = (int)number;
        return null;
    }

    /// <summary>Reads a stretch of time in seconds: a number, or parts with d, h, min or s behind each, the greatest first; answers why not, or null.</summary>
    public static string? Seconds(string text, out double seconds)
    {
        if (Number(Bare(text, "s"), out seconds) is null) return null;
        if (Parts().Match(text.Trim()) is not { Success: true } parts) return $"‘{text}’ is not a stretch of time. Write seconds, such as 90, or parts such as 1 h 30 min.";
        seconds = 0;
        (string Part, double Seconds)[] units = [("d", 86_400), ("h", 3600), ("min", 60), ("s", 1)];
        foreach (var (part, each) in units)
        {
            if (!parts.Groups[part].Success) continue;
            if (Number(parts.Groups[part].Value, out double number) is { } wrong) return wrong;
            seconds += number * each;
        }
        return null;
    }

    /// <summary>A text without the unit behind its number, where that is the one the number is in.</summary>
    public static string Bare(string text, string? unit)
    {
        int end = text.LastIndexOfAny(Digits) + 1;
        return unit is not null && end > 0 && end < text.Length && IsUnit(text[end..].Trim(), unit) ? text[..end] : text;

        static bool IsUnit(string rest, string unit) => rest == unit || rest.Replace('2', '²').Replace('3', '³') == unit || Units.Unit.Read(rest)?.Symbol == unit;
    }

    private static readonly char[] Digits = [.. "0123456789"];

    // Each space belongs to one part, so that a text of many is told from a stretch of time at once.
    [GeneratedRegex(@"^(?=[0-9])(?:(?<d>[0-9.,]+)\s*d\s*)?(?:(?<h>[0-9.,]+)\s*h\s*)?(?:(?<min>[0-9.,]+)\s*min\s*)?(?:(?<s>[0-9.,]+)\s*s\s*)?$", RegexOptions.IgnoreCase)]
    private static partial Regex Parts();

    [GeneratedRegex("^[-+−]?[1-9][0-9]{0,2}(,[0-9]{3})+$")]
    private static partial Regex Thousands();
}
