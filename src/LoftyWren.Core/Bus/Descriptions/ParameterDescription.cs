using System.Globalization;
using System.Text.Json.Serialization;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Proofs;

namespace LoftyWren.Core.Bus.Descriptions;

/// <summary>What a parameter is.</summary>
public enum ParameterSort
{
    /// <summary>One of several.</summary>
    Choice,
    /// <summary>A number with or without a unit.</summary>
    Number,
    /// <summary>A stretch of time, kept in seconds.</summary>
    Time,
    /// <summary>A percentage.</summary>
    Percent,
    /// <summary>Yes or no.</summary>
    YesNo,
    /// <summary>A text.</summary>
    Text,
}

/// <summary>One of the choices of a parameter.</summary>
/// <param name="Key">What conditions and values call it.</param>
/// <param name="Label">What people call it.</param>
public sealed record ParameterChoice(string Key, string Label);

/// <summary>
/// A parameter of a device as a description or a behaviour declares it. In a description, what is left out comes from the
/// setting of the channel's behaviour that has the same key.
/// </summary>
public sealed record ParameterDescription
{
    /// <summary>What conditions call it: letters and digits. <c>{i}</c> in it is the number of a repetition.</summary>
    public required string Key { get; init; }

    /// <summary>What people call it.</summary>
    public string? Label { get; init; }

    /// <summary>What it is.</summary>
    public ParameterSort? Sort { get; init; }

    /// <summary>What it is when nobody has set it: the key of a choice, a number, seconds, yes or no, a text.</summary>
    public string? Default { get; init; }

    /// <summary>The least number, %, or seconds.</summary>
    public double? Least { get; init; }

    /// <summary>The greatest number, %, or seconds.</summary>
    public double? Most { get; init; }

    /// <summary>Between which steps numbers go; none: any.</summary>
    public double? Step { get; init; }

    /// <summary>The symbol of the unit of a number.</summary>
    public string? Unit { get; init; }

    /// <summary>The choices.</summary>
    public IReadOnlyList<ParameterChoice>? Choices { get; init; }

    /// <summary>How many letters a text has at most.</summary>
    public int? Letters { get; init; }

    /// <summary>When it is there; see <see cref="Condition"/>. None: always.</summary>
    public string? When { get; init; }

    /// <summary>What it does, in a sentence or two.</summary>
    public string? Help { get; init; }

    /// <summary>More words that it is found by.</summary>
    public string? Words { get; init; }

    /// <summary>How many there are of it, from 1; its key, label and condition say <c>{i}</c>.</summary>
    public int? Repeat { get; init; }

    /// <summary>Of a behaviour's setting that is there once for heating and once for cooling: what it is for, and the key of the other; null for all others.</summary>
    [JsonIgnore]
    public (string Side, string Key)? Twin { get; init; }

    /// <summary>It with what it leaves out taken from another.</summary>
    public ParameterDescription Over(ParameterDescription? below) => below is null ? this : new ParameterDescription
    {
        Key = Key,
        Label = Label ?? below.Label,
        Sort = Sort ?? below.Sort,
        Default = Default ?? below.Default,
        Least = Least ?? below.Least,
        Most = Most ?? below.Most,
        Step = Step ?? below.Step,
        Unit = Unit ?? below.Unit,
        Choices = Choices is { } own && below.Choices is { } all ? [.. own.Select(c => c with { Label = c.Label.Length > 0 ? c.Label : all.FirstOrDefault(a => a.Key == c.Key)?.Label ?? "" })] : Choices ?? below.Choices,
        Letters = Letters ?? below.Letters,
        When = When ?? below.When,
        Help = Help ?? below.Help,
        Words = Words ?? below.Words,
        Repeat = Repeat ?? below.Repeat,
    };

    /// <summary>Its default as it is kept.</summary>
    [JsonIgnore]
    public string Begins => Default ?? Sort switch { ParameterSort.Choice => Choices is { Count: > 0 } choices ? choices[0].Key : "", ParameterSort.YesNo => Parameters.No, ParameterSort.Text => "", _ => Parameters.Write(Math.Max(0, Least ?? 0)) };

    /// <summary>Reads a text into a value as it is kept; or a sentence says what would be right.</summary>
    public (string? Value, string? Refusal) Read(string text)
    {
        text = text.Trim();
        switch (Sort)
        {
            case ParameterSort.Choice:
                ParameterChoice? choice = Choices!.FirstOrDefault(c => c.Key.Equals(text, StringComparison.OrdinalIgnoreCase)) ?? Choices!.FirstOrDefault(c => c.Label.Equals(text, StringComparison.OrdinalIgnoreCase));
                return choice is null ? (null, $"‘{text}’ is no choice of ‘{Label}’. There are {string.Join(", ", Choices!.Select(c => c.Label))}.") : (choice.Key, null);
            case ParameterSort.YesNo:
                return text.ToLowerInvariant() is "yes" or "y" or "true" or "1" or "on" ? (Parameters.Yes, null) : text.ToLowerInvariant() is "no" or "n" or "false" or "0" or "off" ? (Parameters.No, null) : (null, $"‘{Label}’ is yes or no, not ‘{text}’.");
            case ParameterSort.Text:
                return text.Length > (Letters ?? 14) ? (null, $"‘{Label}’ has at most {Letters ?? 14} letters; ‘{text}’ has {text.Length}.") : text.Any(char.IsControl) ? (null, $"‘{Label}’ takes no line breaks or other control characters.") : (text, null);
            default:
                double number;
                string? wrong = Sort == ParameterSort.Time ? Span(text, out number) : FieldTexts.Number(FieldTexts.Bare(text, SaidUnit), out number);
                if (wrong is not null || text.Length == 0) return (null, wrong ?? $"‘{Label}’ needs {(Sort == ParameterSort.Time ? "a time, such as 90 s or 5 min" : "a number")}.");
                if (number < (Least ?? double.MinValue) || number > (Most ?? double.MaxValue)) return (null, $"‘{Label}’ is from {Say(Parameters.Write(Least ?? 0))} to {Say(Parameters.Write(Most ?? 0))}, not {Say(Parameters.Write(number))}.");
                if (Step is > 0 and var step)
                {
                    double steps = (number - (Least ?? 0)) / step;
                    if (Math.Abs(steps - Math.Round(steps)) > 1e-6) return (null, $"‘{Label}’ goes in steps of {Say(Parameters.Write(step))} from {Say(Parameters.Write(Least ?? 0))}; {Say(Parameters.Write(number))} is between two.");
                }
                return (Parameters.Write(number), null);
        }
    }

    /// <summary>A value as it is kept, in words.</summary>
    public string Say(string value) => Sort switch
    {
        ParameterSort.Choice => Choices?.FirstOrDefault(c => c.Key == value)?.Label ?? value,
        ParameterSort.Time when Parameters.Number(value) is { } seconds => seconds is > 0 and < 1 ? $"{Parameters.Write(Math.Round(seconds * 1000, 3))} ms" : TestStep.Length(seconds),
        ParameterSort.Text => value.Length == 0 ? "–" : value,
        ParameterSort.Number or ParameterSort.Percent when SaidUnit is { } unit => $"{value} {unit}",
        _ => value,
    };

    /// <summary>The unit it is said in, or null.</summary>
    [JsonIgnore]
    public string? SaidUnit => Sort == ParameterSort.Percent ? "%" : string.IsNullOrEmpty(Unit) ? null : Unit;

    private static string? Span(string text, out double seconds)
    {
        if (text.EndsWith("ms", StringComparison.OrdinalIgnoreCase))
        {
            string? wrong = FieldTexts.Number(text[..^2].Trim(), out double milliseconds);
            seconds = milliseconds / 1000;
            return wrong;
        }
        return FieldTexts.Seconds(text, out seconds);
    }
}

/// <summary>How values of parameters are kept, and the usual declarations of settings.</summary>
public static class Parameters
{
    /// <summary>Yes and no.</summary>
    public const string Yes = "yes", No = "no";

    /// <summary>A number as it is kept.</summary>
    public static string Write(double number) => Math.Round(number, 6).ToString(CultureInfo.InvariantCulture);

    /// <summary>The number that a value is, or null.</summary>
    public static double? Number(string? value) => double.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out double number) ? number : null;

    /// <summary>A choice among some; the first is the default.</summary>
    public static ParameterDescription Choice(string key, string label, string help, params (string Key, string Label)[] choices) =>
        new() { Key = key, Label = label, Sort = ParameterSort.Choice, Help = help, Choices = [.. choices.Select(c => new ParameterChoice(c.Key, c.Label))] };

    /// <summary>A number.</summary>
    public static ParameterDescription Numbered(string key, string label, string help, double begins, double least, double most, string unit = "", double? step = null) =>
        new() { Key = key, Label = label, Sort = ParameterSort.Number, Help = help, Default = Write(begins), Least = least, Most = most, Unit = unit, Step = step };

    /// <summary>A percentage.</summary>
    public static ParameterDescription Percent(string key, string label, string help, double begins, double least = 0, double most = 100) =>
        new() { Key = key, Label = label, Sort = ParameterSort.Percent, Help = help, Default = Write(begins), Least = least, Most = most };

    /// <summary>A stretch of time, s.</summary>
    public static ParameterDescription Time(string key, string label, string help, double begins, double least, double most) =>
        new() { Key = key, Label = label, Sort = ParameterSort.Time, Help = help, Default = Write(begins), Least = least, Most = most };

    /// <summary>Yes or no.</summary>
    public static ParameterDescription YesNo(string key, string label, string help, bool begins = false) =>
        new() { Key = key, Label = label, Sort = ParameterSort.YesNo, Help = help, Default = begins ? Yes : No };

    /// <summary>A text.</summary>
    public static ParameterDescription Text(string key, string label, string help, int letters) => new() { Key = key, Label = label, Sort = ParameterSort.Text, Help = help, Letters = letters };

    /// <summary>The same setting, there only under a condition.</summary>
    public static ParameterDescription If(this ParameterDescription setting, string? when) => setting with { When = when };

    /// <summary>The same setting as often as this.</summary>
    public static ParameterDescription Times(this ParameterDescription setting, int repeat) => setting with { Repeat = repeat };
}
