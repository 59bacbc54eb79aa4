using LoftyWren.Core.Fields;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tags;

/// <summary>What a condition asks of a record: its texts, folded to small letters, and the tags it has so far.</summary>
internal sealed class RuleSubject(Project project, TaggedRecord record, IReadOnlyDictionary<string, DerivedTag> tags)
{
    private readonly string?[] _texts = new string?[RuleCondition.Fields.Count];
    private readonly RecordKind _kind = RecordKinds.Of(record);

    public bool Has(string tag) => tags.ContainsKey(tag);

    public string Text(int field) => _texts[field] ??= (_kind.Field(RuleCondition.Fields[field])?.Say(project, record) ?? "").ToLowerInvariant();
}

/// <summary>
/// A condition of a tagging rule: tests of fields, tied with <c>and</c>, <c>or</c>, <c>not</c> and parentheses. A test is
/// a field, one of <c>is</c>, <c>contains</c>, <c>begins</c>, <c>matches</c> (with * for any letters and ? for one), and
/// a text in quotes; or <c>has</c> and a tag. Letter case does not count.
/// </summary>
public sealed class RuleCondition
{
    private readonly Func<RuleSubject, bool> _holds;

    private RuleCondition(Func<RuleSubject, bool> holds) => _holds = holds;

    /// <summary>The fields a condition may test.</summary>
    public static IReadOnlyList<string> Fields { get; } =
        [.. CommonFields.All.Concat(RecordKinds.All.Where(k => k.IsTagged).SelectMany(k => k.Fields)).Where(f => f.Is(FieldUses.Condition)).Select(f => f.Key).Distinct()];

    /// <summary>Reads a condition.</summary>
    /// <exception cref="SyntaxException">It cannot be read; says where and what would be right.</exception>
    public static RuleCondition Parse(string text)
    {
        if (text.Length > 2000) throw new SyntaxException(2000, "A condition has at most 2000 characters.");
        var reader = new Zinc.ScalarReader(text, isFilter: true);
        var holds = Or(reader);
        reader.End();
        return new RuleCondition(holds);
    }

    internal bool Holds(RuleSubject subject) => _holds(subject);

    private static Func<RuleSubject, bool> Or(Zinc.ScalarReader reader)
    {
        var left = And(reader);
        while (reader.Joins("or"))
        {
            var (a, b) = (left, And(reader));
            left = s => a(s) || b(s);
        }
        return left;
    }

    private static Func<RuleSubject, bool> And(Zinc.ScalarReader reader)
    {
        var left = Test(reader);
        while (reader.Joins("and"))
        {
            var (a, b) = (left, Test(reader));
            left = s => a(s) && b(s);
        }
        return left;
    }

    private static Func<RuleSubject, bool> Test(Zinc.ScalarReader reader)
    {
        if (reader.Keyword("not"))
        {
            var inner = reader.Deeper(() => Test(reader));
            return s => !inner(s);
        }
        reader.Space();
        if (reader.Now == '(') return reader.Parenthesised(() => Or(reader));
        int from = reader.At;
        if (reader.Now == '\0') throw new SyntaxException(from, $"A test is missing here. Begin with one of: {string.Join(", ", Fields)}, has.");
        string field = reader.While(char.IsAsciiLetter, "a field");
        reader.Space();
        if (field == "has")
        {
            string tag = reader.While(c => char.IsAsciiLetterOrDigit(c) || c == '_', "a tag's name");
            return s => s.Has(tag);
        }
        int index = Fields.ToList().IndexOf(field);
        if (index < 0) throw new SyntaxException(from, $"‘{field}’ is no field. Use one of: {string.Join(", ", Fields)}, has.");
        int at = reader.At;
        string op = reader.While(char.IsAsciiLetter, "a comparison (is, contains, begins or matches)");
        reader.Space();
        if (reader.Now != '"') throw new SyntaxException(reader.At, $"Put what {field} {op} in quotes, such as {field} {op} \"supply\".");
        string text = ((TextValue)reader.Scalar()).Value.ToLowerInvariant();
        return op switch
        {
            "is" => s => s.Text(index) == text,
            "contains" => s => s.Text(index).Contains(text, StringComparison.Ordinal),
            "begins" => s => s.Text(index).StartsWith(text, StringComparison.Ordinal),
            "matches" => s => Matches(s.Text(index), text),
            _ => throw new SyntaxException(at, $"‘{op}’ is no comparison. Use is, contains, begins or matches."),
        };
    }

    /// <summary>Whether a text matches a pattern with * and ?; the time is proportional to their product, whatever the pattern.</summary>
    internal static bool Matches(string text, string pattern)
    {
        int t = 0, p = 0, star = -1, mark = 0;
        while (t < text.Length)
        {
            if (p < pattern.Length && pattern[p] == '*') (star, mark) = (p++, t);
            else if (p < pattern.Length && (pattern[p] == '?' || pattern[p] == text[t])) (p, t) = (p + 1, t + 1);
            else if (star >= 0) (p, t) = (star + 1, ++mark);
            else return false;
        }
        while (p < pattern.Length && pattern[p] == '*') p++;
        return p == pattern.Length;
    }
}
