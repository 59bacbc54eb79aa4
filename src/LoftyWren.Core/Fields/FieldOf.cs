using System.Globalization;
using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Fields;

/// <summary>The usual fields: texts, numbers, choices, links.</summary>
/// <typeparam name="T">The sort of record.</typeparam>
public static class FieldOf<T>
    where T : ProjectRecord
{
    /// <summary>A text that may be missing.</summary>
    public static Field<T> Text(string key, string label, Func<T, string?> get, Func<T, string?, T> set, FieldUses uses, string[]? headers = null, string? column = null, string? hint = null, Func<T, bool>? only = null) => new(key, label)
    {
        Uses = uses,
        Headers = headers ?? [],
        Column = column,
        Hint = hint,
        Only = only,
        Says = (_, record) => get(record),
        Reads = (_, record, text) => FieldReading.Of(set(record, text.Length == 0 ? null : text)),
    };

    /// <summary>A number that may be missing.</summary>
    public static Field<T> Number(string key, string label, string? unit, Func<T, double?> get, Func<T, double?, T> set, FieldUses uses, string[]? headers = null, string? column = null, Func<T, bool>? only = null, string? words = null, bool required = false, Func<Project, T, string?>? units = null, bool unitBeside = false) => new(key, label)
    {
        IsUnitBeside = unitBeside,
        Units = units,
        Uses = uses,
        Unit = unit,
        Headers = headers ?? [],
        Column = column,
        IsNumber = true,
        Only = only,
        Words = words,
        Says = (_, record) => FieldTexts.Say(get(record)),
        Sorts = get,
        Reads = (project, record, text) =>
        {
            // A unit behind the number is that of the field, or the text is no number.
            string bare = FieldTexts.Bare(text, units?.Invoke(project, record) ?? unit);
            if (bare.Length == 0) return required ? FieldReading.Refused($"{label} needs a number{(unit is null ? "" : $" in {unit}")}.") : FieldReading.Of(set(record, null));
            return FieldTexts.Number(bare, out double value) is { } refusal ? FieldReading.Refused(refusal) : FieldReading.Of(set(record, value));
        },
    };

    /// <summary>A stretch of time in seconds: a number, or parts with their units such as 1 h 30 min.</summary>
    public static Field<T> Span(string key, string label, Func<T, double> get, Func<T, double, T> set, FieldUses uses, string words, double? empty = null) => new(key, label)
    {
        Uses = uses,
        Unit = "s",
        IsNumber = true,
        IsSpan = true,
        Words = words,
        Says = (_, record) => FieldTexts.Say(get(record)),
        Sorts = record => get(record),
        Reads = (_, record, text) => text.Length == 0
            ? empty is { } none ? FieldReading.Of(set(record, none)) : FieldReading.Refused($"{label} needs a time, such as 90, 5 min or 1 h 30 min.")
            : FieldTexts.Seconds(text, out double value) is { } refusal ? FieldReading.Refused(refusal) : FieldReading.Of(set(record, value)),
    };

    /// <summary>A whole number.</summary>
    public static Field<T> Whole(string key, string label, Func<T, int> get, Func<T, int, T> set, FieldUses uses, string[]? headers = null, string? column = null, Func<T, bool>? only = null, Func<T, string>? labels = null) => new(key, label)
    {
        Uses = uses,
        Headers = headers ?? [],
        Column = column,
        IsNumber = true,
        Only = only,
        Labels = labels,
        Says = (_, record) => get(record).ToString(CultureInfo.InvariantCulture),
        Sorts = record => get(record),
        Reads = (_, record, text) => text.Length == 0 ? FieldReading.Refused($"{label} needs a whole number.") : FieldTexts.Whole(text, out int value) is { } refusal ? FieldReading.Refused(refusal) : FieldReading.Of(set(record, value)),
    };

    /// <summary>One of some texts, letter case ignored; others that stand for them may be told.</summary>
    public static Field<T> Choice(string key, string label, IReadOnlyList<string> choices, Func<T, string> get, Func<T, string, T> set, FieldUses uses, IReadOnlyDictionary<string, string>? synonyms = null, string[]? headers = null, string? column = null, string? noun = null) => new(key, label)
    {
        Uses = uses,
        Choices = choices,
        Headers = headers ?? [],
        Column = column,
        Says = (_, record) => get(record),
        Reads = (_, record, text) =>
        {
            string? found = choices.FirstOrDefault(c => c.Equals(text, StringComparison.OrdinalIgnoreCase)) ?? synonyms?.GetValueOrDefault(text.ToLowerInvariant());
            return found is null ? FieldReading.Refused($"‘{text}’ is not a {noun ?? label.ToLowerInvariant()}. Use {Or(choices)}.") : FieldReading.Of(set(record, found));
        },
    };

    /// <summary>One of the values of an enumeration, said in small letters.</summary>
    public static Field<T> Choice<TValue>(string key, string label, Func<T, TValue> get, Func<T, TValue, T> set, FieldUses uses, IReadOnlyDictionary<string, string>? synonyms = null, string[]? headers = null, string? column = null, string? noun = null)
        where TValue : struct, Enum =>
        Choice(key, label, [.. Enum.GetNames<TValue>().Select(n => n.ToLowerInvariant())], record => get(record).ToString().ToLowerInvariant(), (record, text) => set(record, Enum.Parse<TValue>(text, ignoreCase: true)), uses, synonyms, headers, column, noun);

    /// <summary>A link to one record of a sort, or none: by its name, the nearest of that name, or by its id.</summary>
    public static Field<T> Link<TTo>(string key, string label, string noun, Func<T, RecordId?> get, Func<T, RecordId?, T> set, FieldUses uses, string[]? headers = null, string? column = null, bool far = true)
        where TTo : ProjectRecord => new(key, label)
        {
            Uses = uses,
            IsLink = true,
            LeadsTo = typeof(TTo),
            Headers = headers ?? [],
            Column = column,
            Says = (project, record) => get(record) is { } to ? project.Find(to)?.Called(project.Find) : null,
            Writes = (project, record) => get(record) is { } to ? NearestNamed.Write<TTo>(project, record, to, far) : null,
            Reads = (project, record, text) =>
            {
                if (text.Length == 0) return FieldReading.Of(set(record, null));
                return NearestNamed.Find<TTo>(project, record, text, noun, far, out string? refusal) is { } to ? FieldReading.Of(set(record, to.Id)) : FieldReading.Refused(refusal!);
            },
        };

    /// <summary>Links to any number of records of a sort, with semicolons between their names or ids.</summary>
    public static Field<T> Links<TTo>(string key, string label, string noun, Func<T, IReadOnlyList<RecordId>> get, Func<T, IReadOnlyList<RecordId>, T> set, FieldUses uses, string[]? headers = null)
        where TTo : ProjectRecord => new(key, label)
        {
            Uses = uses,
            IsLink = true,
            Headers = headers ?? [],
            Says = (project, record) => string.Join("; ", get(record).Select(to => project.Find(to)?.Called(project.Find)).OfType<string>()),
            Writes = (project, record) => string.Join("; ", get(record).Select(to => NearestNamed.Write<TTo>(project, record, to, true))),
            Reads = (project, record, text) =>
            {
                var ids = new List<RecordId>();
                foreach (string one in text.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
                {
                    if (NearestNamed.Find<TTo>(project, record, one, noun, true, out string? refusal) is { } to) ids.Add(to.Id);
                    else return FieldReading.Refused(refusal!);
                }
                return FieldReading.Of(set(record, ids));
            },
        };

    /// <summary>What follows from elsewhere and can only be read off; whoever writes is told where it comes from.</summary>
    public static Field<T> Shown(string key, string label, Func<Project, T, string?> says, string refusal, FieldUses uses, string? words = null, string? hint = null) => new(key, label)
    {
        Hint = hint,
        Uses = uses,
        Words = words,
        IsShown = true,
        Says = says,
        Reads = (project, record, text) => text == (says(project, record) ?? "") ? FieldReading.Of(record) : FieldReading.Refused(refusal),
    };

    private static string Or(IReadOnlyList<string> choices) => choices.Count < 5 ? $"{string.Join(", ", choices.Take(choices.Count - 1))} or {choices[^1]}" : $"one of: {string.Join(", ", choices)}";
}
