using System.Globalization;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Points;

/// <summary>How a value is said to people: a state by its text, a number with one decimal and its unit.</summary>
public static class ValueText
{
    /// <summary>The value in words and figures, such as <c>on</c>, <c>firing</c> or <c>29.6 °C</c>.</summary>
    public static string Of(double value, PointKind kind, string? unit, IReadOnlyList<string> stateTexts)
    {
        if (double.IsNaN(value)) return "no value";
        int state = kind == PointKind.Binary ? (int)value : (int)value - 1;
        if (kind != PointKind.Analog) return state >= 0 && state < stateTexts.Count ? stateTexts[state] : $"state {value.ToString(CultureInfo.InvariantCulture)}";
        string number = value.ToString(Math.Abs(value) >= 1000 ? "0" : "0.0", CultureInfo.InvariantCulture).Replace("-", "−");
        return string.IsNullOrEmpty(unit) ? number : $"{number} {unit}";
    }

    /// <summary>The reading in words, with released and fault said as such.</summary>
    public static string Of(Reading reading, PointKind kind, string? unit, IReadOnlyList<string> stateTexts)
    {
        if (reading.IsReleased) return "released";
        if ((reading.Status & StatusFlags.Fault) != 0) return "fault";
        string text = Of(reading.Value, kind, unit, stateTexts);
        return (reading.Status & StatusFlags.Stale) != 0 ? $"{text} (stale)" : text;
    }
}
