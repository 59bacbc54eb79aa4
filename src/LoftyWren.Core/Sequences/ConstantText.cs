using System.Globalization;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences;

/// <summary>Constants as people type them: <c>29</c>, <c>29.5 °C</c>, <c>on</c>, <c>off</c>.</summary>
public static class ConstantText
{
    /// <summary>The constant a text stands for, or null when it stands for none.</summary>
    public static ConstantSource? Read(string text)
    {
        text = text.Trim();
        if (text.ToLowerInvariant() is "on" or "true" or "yes") return new ConstantSource(1, null, true);
        if (text.ToLowerInvariant() is "off" or "false" or "no") return new ConstantSource(0, null, true);
        int end = 0;
        while (end < text.Length && (char.IsAsciiDigit(text[end]) || text[end] is '.' or '-' or '+' or '−')) end++;
        if (end == 0 || !double.TryParse(text[..end].Replace('−', '-'), NumberStyles.Float, CultureInfo.InvariantCulture, out double value)) return null;
        string unit = text[end..].Trim();
        if (unit.Length == 0) return new ConstantSource(value);
        return Unit.Read(unit) is { } known ? new ConstantSource(value, known.Symbol) : null;
    }

    /// <summary>The constant in words.</summary>
    public static string Say(ConstantSource constant) =>
        constant.Binary ? constant.Value > 0.5 ? "on" : "off" : $"{constant.Value.ToString(CultureInfo.InvariantCulture)}{(string.IsNullOrEmpty(constant.Unit) ? "" : " " + constant.Unit)}";
}
