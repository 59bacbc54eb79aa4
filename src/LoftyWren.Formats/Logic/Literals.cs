using System.Globalization;
using System.Text.RegularExpressions;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Formats.Logic;

/// <summary>Fixed values as IEC 61131-3 writes them (6.3): <c>TRUE</c>, <c>29.5</c>, <c>T#1m30s</c>.</summary>
internal static partial class Literals
{
    /// <summary>A constant.</summary>
    public static string Of(ConstantSource constant) => constant.Binary ? constant.Value > 0.5 ? "TRUE" : "FALSE" : Of(constant.Value);

    /// <summary>A number, told as a real one to the last digit.</summary>
    public static string Of(double value) => value.ToString("R", CultureInfo.InvariantCulture) is var text && text.Any(c => c is '.' or 'E') ? text : text + ".0";

    /// <summary>A length of time, s.</summary>
    public static string Time(double seconds) => $"T#{seconds.ToString("0.###", CultureInfo.InvariantCulture)}s";

    /// <summary>The constant that a literal stands for, a type before it left out; lengths of time in s. Null where it is none.</summary>
    public static ConstantSource? Read(string text)
    {
        text = text.Trim();
        if (text.Equals("TRUE", StringComparison.OrdinalIgnoreCase) || text.Equals("BOOL#1", StringComparison.OrdinalIgnoreCase)) return new ConstantSource(1, null, true);
        if (text.Equals("FALSE", StringComparison.OrdinalIgnoreCase) || text.Equals("BOOL#0", StringComparison.OrdinalIgnoreCase)) return new ConstantSource(0, null, true);
        if (Seconds(text) is { } seconds) return new ConstantSource(seconds, "s");
        int type = text.IndexOf('#', StringComparison.Ordinal);
        return double.TryParse(text[(type + 1)..].Replace("_", "", StringComparison.Ordinal), NumberStyles.Float, CultureInfo.InvariantCulture, out double value) && double.IsFinite(value) ? new ConstantSource(value) : null;
    }

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
