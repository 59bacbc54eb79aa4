using System.Collections;
using System.Collections.Concurrent;
using System.Globalization;
using System.Reflection;
using System.Text.Json;

namespace LoftyWren.Core.Records;

/// <summary>How long a text of a record may be, in characters, or how many members a list of it may have; and whether the text may have several lines.</summary>
[AttributeUsage(AttributeTargets.Property)]
public sealed class MostAttribute(int most) : Attribute
{
    /// <summary>The most characters of each text.</summary>
    public int Characters { get; } = most;

    /// <summary>The most members of a list or table.</summary>
    public int Members { get; init; } = RecordTexts.MostMembers;

    /// <summary>Whether a text may have several lines.</summary>
    public bool Lines { get; init; }
}

/// <summary>
/// The limits of all texts and lists of all records, in one place: what a field says by <see cref="MostAttribute"/>, else
/// <see cref="MostCharacters"/> in one line and <see cref="MostMembers"/>. Every text refuses control characters and marks
/// that turn the direction of what follows; a name also refuses letters that cannot be seen.
/// </summary>
public static class RecordTexts
{
    /// <summary>Characters of a text that says nothing else.</summary>
    public const int MostCharacters = 200;

    /// <summary>Members of a list that says nothing else.</summary>
    public const int MostMembers = 2000;

    private static readonly ConcurrentDictionary<Type, Field[]> Fields = new();

    private sealed record Field(PropertyInfo Property, string Name, int Characters, int Members, bool Lines);

    /// <summary>The texts and lists of a record that are too long, or hold what no text may.</summary>
    public static IEnumerable<Refusal> Check(ProjectRecord record) => Check(record, record, "").Take(5);

    /// <summary>Why a name holds what cannot be seen, or null: marks that turn directions, letters without width, line and paragraph separators, half a letter.</summary>
    public static string? Unseen(string text)
    {
        for (int i = 0; i < text.Length; i++)
        {
            char c = text[i];
            if (char.IsHighSurrogate(c) && i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]))
            {
                i++;
                continue;
            }
            // The joiners of some scripts are letters' own; all other format characters are not seen by whoever reads a name.
            bool isUnseen = char.IsSurrogate(c) || c is '\u2028' or '\u2029' || (CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.Format && c is not ('\u200c' or '\u200d'));
            if (isUnseen) return $"It holds a character that cannot be seen (U+{(int)c:X4}) at place {i + 1}. Remove it; pasted texts often bring one along.";
        }
        return null;
    }

    private static IEnumerable<Refusal> Check(ProjectRecord record, object part, string path)
    {
        foreach (Field field in Fields.GetOrAdd(part.GetType(), FieldsOf))
        {
            if (field.Property.GetValue(part) is not { } value) continue;
            string where = path.Length == 0 ? field.Name : $"{path}.{field.Name}";
            string top = where.Split('.', '[')[0];
            switch (value)
            {
                case string text:
                    if (!ReferenceEquals(part, record) || field.Name != "name")
                    {
                        if (Refuse(text, field, where) is { } sentence) yield return new Refusal(record.Id, top, sentence);
                    }
                    break;
                case ICollection { Count: var count } when count > field.Members:
                    yield return new Refusal(record.Id, top, $"‘{where}’ has {count} members; it has at most {field.Members}.");
                    break;
                case IDictionary table:
                    foreach (DictionaryEntry entry in table)
                    {
                        if (entry.Key is string key && Refuse(key, field, where) is { } ofKey) yield return new Refusal(record.Id, top, ofKey);
                        foreach (Refusal refusal in Member(record, entry.Value, field, where, top)) yield return refusal;
                    }
                    break;
                case IEnumerable list:
                    int at = 0;
                    foreach (object? member in list)
                    {
                        foreach (Refusal refusal in Member(record, member, field, $"{where}[{at}]", top)) yield return refusal;
                        at++;
                    }
                    break;
                default:
                    foreach (Refusal refusal in Check(record, value, where)) yield return refusal;
                    break;
            }
        }
    }

    private static IEnumerable<Refusal> Member(ProjectRecord record, object? member, Field field, string where, string top)
    {
        if (member is string text) return Refuse(text, field, where) is { } sentence ? [new Refusal(record.Id, top, sentence)] : [];
        return member is not null && IsOurs(member.GetType()) ? Check(record, member, where) : [];
    }

    private static string? Refuse(string text, Field field, string where)
    {
        if (text.Length > field.Characters) return $"‘{where}’ has {text.Length} characters; it has at most {field.Characters}.";
        foreach (char c in text)
        {
            if (char.IsControl(c) && !(field.Lines && c is '\n' or '\r' or '\t')) return $"‘{where}’ holds a {(c is '\n' or '\r' ? "line break" : "control character")}. Remove it.";
            if (c is >= '\u202a' and <= '\u202e' or >= '\u2066' and <= '\u2069') return $"‘{where}’ holds a mark that turns the direction of what follows (U+{(int)c:X4}). Remove it.";
        }
        return null;
    }

    /// <summary>The properties that hold texts, lists or parts of ours; worked out once a type.</summary>
    private static Field[] FieldsOf(Type type) =>
    [
        .. type.GetProperties(BindingFlags.Public | BindingFlags.Instance)
            .Where(p => p.GetMethod is not null && p.GetIndexParameters().Length == 0 && p.Name is not "Noun" and not "ParentId" && (p.PropertyType == typeof(string) || typeof(IEnumerable).IsAssignableFrom(p.PropertyType) || IsOurs(p.PropertyType)))
            .Select(p => (Property: p, Most: p.GetCustomAttribute<MostAttribute>()))
            .Select(p => new Field(p.Property, JsonNamingPolicy.CamelCase.ConvertName(p.Property.Name), p.Most?.Characters ?? MostCharacters, p.Most?.Members ?? MostMembers, p.Most?.Lines ?? false)),
    ];

    private static bool IsOurs(Type type) => type.IsClass && type.Namespace?.StartsWith("LoftyWren", StringComparison.Ordinal) == true;
}
