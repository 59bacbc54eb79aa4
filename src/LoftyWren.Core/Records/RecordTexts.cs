using System.Collections;
using System.Collections.Concurrent;
using System.Globalization;
using System.Linq.Expressions;
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

    private sealed record Field(Func<object, object?> Read, string Name, int Characters, int Members, bool Lines);

    private const int MostRefusals = 5;

    /// <summary>Adds the texts and lists of a record that are too long, or hold what no text may; the first few of a record.</summary>
    public static void Check(ProjectRecord record, List<Refusal> refusals) => Check(record, record, "", refusals, refusals.Count + MostRefusals);

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

    private static void Check(ProjectRecord record, object part, string path, List<Refusal> refusals, int most)
    {
        foreach (Field field in Fields.GetOrAdd(part.GetType(), FieldsOf))
        {
            if (refusals.Count >= most) return;
            if (field.Read(part) is not { } value) continue;
            // A name has its own checks, with sentences of its own.
            if (ReferenceEquals(part, record) && field.Name == "name") continue;
            if (value is string plain)
            {
                if (Refuse(plain, field) is { } what) Add(what, Where());
                continue;
            }
            if (value is ICollection { Count: var count })
            {
                if (count == 0) continue;
                if (count > field.Members)
                {
                    Add($"has {count} members; it has at most {field.Members}.", Where());
                    continue;
                }
            }
            switch (value)
            {
                case IDictionary table:
                    foreach (DictionaryEntry entry in table)
                    {
                        if (entry.Key is string key && Refuse(key, field) is { } ofKey) Add(ofKey, Where());
                        Member(entry.Value, field, Where());
                    }
                    break;
                case IEnumerable list:
                    int at = 0;
                    foreach (object? member in list) Member(member, field, $"{Where()}[{at++}]");
                    break;
                default:
                    Check(record, value, Where(), refusals, most);
                    break;
            }

            string Where() => path.Length == 0 ? field.Name : $"{path}.{field.Name}";
        }

        void Member(object? member, Field field, string where)
        {
            if (member is string text)
            {
                if (Refuse(text, field) is { } what) Add(what, where);
            }
            else if (member is not null && IsOurs(member.GetType())) Check(record, member, where, refusals, most);
        }

        void Add(string what, string where)
        {
            if (refusals.Count < most) refusals.Add(new Refusal(record.Id, where.Split('.', '[')[0], $"‘{where}’ {what}"));
        }
    }

    /// <summary>What is wrong with a text, to be said after its path; or null.</summary>
    private static string? Refuse(string text, Field field)
    {
        if (text.Length > field.Characters) return $"has {text.Length} characters; it has at most {field.Characters}.";
        if (!text.AsSpan().ContainsAnyExceptInRange(' ', '~')) return null;
        foreach (char c in text)
        {
            if (char.IsControl(c) && !(field.Lines && c is '\n' or '\r' or '\t')) return $"holds a {(c is '\n' or '\r' ? "line break" : "control character")}. Remove it.";
            if (c is >= '\u202a' and <= '\u202e' or >= '\u2066' and <= '\u2069') return $"holds a mark that turns the direction of what follows (U+{(int)c:X4}). Remove it.";
        }
        return null;
    }

    /// <summary>The properties that hold texts, lists or parts of ours; worked out once a type.</summary>
    private static Field[] FieldsOf(Type type) =>
    [
        .. type.GetProperties(BindingFlags.Public | BindingFlags.Instance)
            .Where(p => p.GetMethod is not null && p.GetIndexParameters().Length == 0 && p.Name is not "Noun" and not "ParentId" && (p.PropertyType == typeof(string) || typeof(IEnumerable).IsAssignableFrom(p.PropertyType) || IsOurs(p.PropertyType)))
            .Select(p => (Property: p, Most: p.GetCustomAttribute<MostAttribute>()))
            .Select(p => new Field(Reader(p.Property), JsonNamingPolicy.CamelCase.ConvertName(p.Property.Name), p.Most?.Characters ?? MostCharacters, p.Most?.Members ?? MostMembers, p.Most?.Lines ?? false)),
    ];

    /// <summary>Reads the property without reflection.</summary>
    private static Func<object, object?> Reader(PropertyInfo property)
    {
        ParameterExpression part = Expression.Parameter(typeof(object));
        return Expression.Lambda<Func<object, object?>>(Expression.Convert(Expression.Property(Expression.Convert(part, property.DeclaringType!), property), typeof(object)), part).Compile();
    }

    private static bool IsOurs(Type type) => type.IsClass && type.Namespace?.StartsWith("LoftyWren", StringComparison.Ordinal) == true;
}
