using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tags;

/// <summary>
/// A filter of Project Haystack: <c>point and temp and sensor and spaceRef->floorRef == @first</c>. A name alone asks
/// whether the tag is there, <c>not name</c> whether it is missing; <c>== != &lt; &lt;= &gt; &gt;=</c> compare;
/// <c>-></c> walks through references; <c>and</c> binds closer than <c>or</c>. <c>^hot-water</c> asks for all tags of a
/// symbol, <c>*==@ref</c> for any tag that leads to a record, and <c>site? @ref</c> or <c>equip? ^ahu</c> for a reference of
/// that name (with or without <c>Ref</c>) to a record, or to one that a symbol describes.
/// </summary>
public sealed class Filter
{
    private const int LongestText = 4000;
    private readonly Node _root;

    private Filter(string text, Node root)
    {
        Text = text;
        _root = root;
    }

    /// <summary>As it was written.</summary>
    public string Text { get; }

    /// <summary>Reads a filter.</summary>
    /// <exception cref="SyntaxException">It cannot be read; says at which character and what would be right.</exception>
    public static Filter Parse(string text)
    {
        if (text.Length > LongestText) throw new SyntaxException(LongestText, $"A filter has at most {LongestText} characters.");
        var reader = new Zinc.ScalarReader(text, isFilter: true);
        reader.Space();
        if (reader.Now == '\0') throw new SyntaxException(0, "Type what to look for, such as: point and temp and sensor.");
        Node root = Or(reader);
        reader.Space();
        if (reader.Now != '\0') throw new SyntaxException(reader.At, $"Expected ‘and’, ‘or’ or the end before ‘{reader.Rest}’.");
        return new Filter(text, root);
    }

    /// <summary>Whether a record's tags match; <paramref name="resolve"/> finds the tags of what a reference leads to.</summary>
    public bool Matches(TagSet tags, Func<string, TagSet?> resolve) => _root.Matches(tags, resolve);

    /// <summary>The one term that keeps a record from matching, or null when it matches or more than one does.</summary>
    public string? NearMiss(TagSet tags, Func<string, TagSet?> resolve)
    {
        string? term = null;
        return _root.Missing(tags, resolve, ref term) == 1 ? term : null;
    }

    /// <summary>The tag names the filter asks for, in order of appearance; for completion and highlighting.</summary>
    public IEnumerable<string> Names() => _root.Names().Distinct();

    private static Node Or(Zinc.ScalarReader reader)
    {
        Node left = And(reader);
        while (reader.Joins("or")) left = new OrNode(left, And(reader));
        return left;
    }

    private static Node And(Zinc.ScalarReader reader)
    {
        Node left = Term(reader);
        while (reader.Joins("and")) left = new AndNode(left, Term(reader));
        return left;
    }

    private static Node Term(Zinc.ScalarReader reader)
    {
        reader.Space();
        int from = reader.At;
        if (reader.Now == '(') return reader.Parenthesised(() => Or(reader));
        if (reader.Now == '^')
        {
            var symbol = (SymbolValue)reader.Scalar();
            return new SymbolNode(symbol.Value, Written(reader, from));
        }
        if (reader.Now == '*' && reader.Text.AsSpan(reader.At).StartsWith("*=="))
        {
            reader.At += 3;
            int at = reader.At;
            return reader.Scalar() is RefValue to ? new AnyReferenceNode(to.Id, Written(reader, from)) : throw new SyntaxException(at, "Behind *== comes a reference, such as @kiln-room.");
        }
        bool missing = reader.Keyword("not");
        string[] path = Path(reader);
        if (reader.Now == '?' && path.Length == 1 && !missing)
        {
            reader.At++;
            reader.Space();
            string? symbol = reader.Now == '^' ? ((SymbolValue)reader.Scalar()).Value : null;
            reader.Space();
            string? target = reader.Now == '@' ? ((RefValue)reader.Scalar()).Id : null;
            return new RelationNode(path[0], symbol, target, Written(reader, from));
        }
        reader.Space();
        string? op = reader.Now switch
        {
            '=' when reader.Next == '=' => "==",
            '!' when reader.Next == '=' => "!=",
            '<' => reader.Next == '=' ? "<=" : "<",
            '>' => reader.Next == '=' ? ">=" : ">",
            '=' => throw new SyntaxException(reader.At, "Equality is written with two signs: ==."),
            _ => null,
        };
        if (missing)
        {
            if (op is not null) throw new SyntaxException(reader.At, "‘not’ asks whether a tag is missing; to say that a value differs, write !=.");
            return new HasNode(path, false, Written(reader, from));
        }
        if (op is null) return new HasNode(path, true, Written(reader, from));
        reader.At += op.Length;
        TagValue value = reader.Scalar();
        return new CompareNode(path, op, value, Written(reader, from));
    }

    private static string Written(Zinc.ScalarReader reader, int from) => reader.Text[from..reader.At].Trim();

    private static string[] Path(Zinc.ScalarReader reader)
    {
        var path = new List<string>();
        do
        {
            if (path.Count > 0) reader.At += 2;
            reader.Space();
            int from = reader.At;
            if (!char.IsAsciiLetterLower(reader.Now)) throw new SyntaxException(from, reader.Now == '\0' ? "A tag's name is missing at the end." : $"Expected a tag's name before ‘{reader.Rest}’; names begin with a small letter.");
            string name = reader.While(c => char.IsAsciiLetterOrDigit(c) || c == '_', "a tag's name");
            if (name is "and" or "or" or "not" or "true" or "false") throw new SyntaxException(from, $"Expected a tag's name, not ‘{name}’.");
            path.Add(string.Intern(name));
            reader.Space();
        }
        while (reader.Now == '-' && reader.Next == '>');
        return [.. path];
    }

    private abstract class Node
    {
        public abstract bool Matches(TagSet tags, Func<string, TagSet?> resolve);

        /// <summary>How many terms fail; the last one failing in <paramref name="term"/>.</summary>
        public abstract int Missing(TagSet tags, Func<string, TagSet?> resolve, ref string? term);

        public abstract IEnumerable<string> Names();
    }

    private sealed class AndNode(Node left, Node right) : Node
    {
        public override bool Matches(TagSet tags, Func<string, TagSet?> resolve) => left.Matches(tags, resolve) && right.Matches(tags, resolve);

        public override int Missing(TagSet tags, Func<string, TagSet?> resolve, ref string? term) => left.Missing(tags, resolve, ref term) + right.Missing(tags, resolve, ref term);

        public override IEnumerable<string> Names() => left.Names().Concat(right.Names());
    }

    private sealed class OrNode(Node left, Node right) : Node
    {
        public override bool Matches(TagSet tags, Func<string, TagSet?> resolve) => left.Matches(tags, resolve) || right.Matches(tags, resolve);

        public override int Missing(TagSet tags, Func<string, TagSet?> resolve, ref string? term)
        {
            string? a = null, b = null;
            int onLeft = left.Missing(tags, resolve, ref a), onRight = right.Missing(tags, resolve, ref b);
            if (Math.Min(onLeft, onRight) > 0) term = onLeft == onRight ? $"{a} or {b}" : onLeft < onRight ? a : b;
            return Math.Min(onLeft, onRight);
        }

        public override IEnumerable<string> Names() => left.Names().Concat(right.Names());
    }

    private abstract class Leaf(string[] path, string text) : Node
    {
        protected TagValue? Value(TagSet tags, Func<string, TagSet?> resolve)
        {
            TagValue? value = tags.Find(path[0]);
            for (int i = 1; i < path.Length; i++)
            {
                if (value is not RefValue reference || resolve(reference.Id) is not { } next) return null;
                value = next.Find(path[i]);
            }
            return value;
        }

        public override int Missing(TagSet tags, Func<string, TagSet?> resolve, ref string? term)
        {
            if (Matches(tags, resolve)) return 0;
            term = text;
            return 1;
        }

        public override IEnumerable<string> Names() => path;
    }

    private sealed class HasNode(string[] path, bool wanted, string text) : Leaf(path, text)
    {
        private readonly string? _only = path.Length == 1 ? path[0] : null;

        public override bool Matches(TagSet tags, Func<string, TagSet?> resolve) => ((_only is null ? Value(tags, resolve) : tags.Find(_only)) is not null) == wanted;
    }

    /// <summary>Whether a record has every tag that a symbol's name is made of: hot-water asks for hot and water.</summary>
    private static bool Is(TagSet tags, string symbol) => symbol.Split('-').All(part => tags[part] is not null);

    private abstract class WholeNode(string text) : Node
    {
        public override int Missing(TagSet tags, Func<string, TagSet?> resolve, ref string? term)
        {
            if (Matches(tags, resolve)) return 0;
            term = text;
            return 1;
        }

        public override IEnumerable<string> Names() => [];
    }

    private sealed class SymbolNode(string symbol, string text) : WholeNode(text)
    {
        public override bool Matches(TagSet tags, Func<string, TagSet?> resolve) => Is(tags, symbol);

        public override IEnumerable<string> Names() => symbol.Split('-');
    }

    private sealed class AnyReferenceNode(string id, string text) : WholeNode(text)
    {
        public override bool Matches(TagSet tags, Func<string, TagSet?> resolve) => tags.Any(t => t.Value is RefValue to && to.Id == id);
    }

    private sealed class RelationNode(string name, string? symbol, string? target, string text) : WholeNode(text)
    {
        private readonly string _own = string.Intern(name), _reference = string.Intern(name + "Ref");

        public override bool Matches(TagSet tags, Func<string, TagSet?> resolve) =>
            (tags.Find(_own) ?? tags.Find(_reference)) is RefValue to && (target is null || to.Id == target) && (symbol is null || (resolve(to.Id) is { } other && Is(other, symbol)));

        public override IEnumerable<string> Names() => [_reference];
    }

    private sealed class CompareNode(string[] path, string op, TagValue with, string text) : Leaf(path, text)
    {
        public override bool Matches(TagSet tags, Func<string, TagSet?> resolve)
        {
            if (Value(tags, resolve) is not { } value) return false;
            if (op == "==") return value.Equals(with);
            if (op == "!=") return !value.Equals(with);
            // Order is defined between values of one kind only, and between numbers of one unit.
            int? order = (value, with) switch
            {
                (NumberValue a, NumberValue b) when a.Unit == b.Unit && !double.IsNaN(a.Value) && !double.IsNaN(b.Value) => a.Value.CompareTo(b.Value),
                (TextValue a, TextValue b) => string.CompareOrdinal(a.Value, b.Value),
                (DateValue a, DateValue b) => a.Value.CompareTo(b.Value),
                (TimeValue a, TimeValue b) => a.Value.CompareTo(b.Value),
                (MomentValue a, MomentValue b) => a.Value.ToInstant().CompareTo(b.Value.ToInstant()),
                (BoolValue a, BoolValue b) => a.Value.CompareTo(b.Value),
                _ => null,
            };
            return order is { } sign && op switch { "<" => sign < 0, "<=" => sign <= 0, ">" => sign > 0, _ => sign >= 0 };
        }
    }
}
