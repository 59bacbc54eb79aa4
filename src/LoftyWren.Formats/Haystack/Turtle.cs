using System.Globalization;
using System.Text;

namespace LoftyWren.Formats.Haystack;

/// <summary>One statement of a graph: subject and predicate as prefixed names, the object as a prefixed name or a text.</summary>
public readonly record struct Statement(string Subject, string Predicate, string Object, bool IsText);

/// <summary>
/// The part of RDF 1.1 Turtle (W3C Recommendation, 25 February 2014) that a Brick model needs: prefixes, prefixed names, <c>a</c>, texts in
/// quotation marks, and lists of predicates with semicolons.
/// </summary>
public static class Turtle
{
    /// <summary>Statements as text, those of one subject together, in the order they come.</summary>
    public static string Write(IReadOnlyList<(string Prefix, string Iri)> prefixes, IEnumerable<Statement> statements)
    {
        var text = new StringBuilder();
        foreach (var (prefix, iri) in prefixes) text.Append(CultureInfo.InvariantCulture, $"@prefix {prefix}: <{iri}> .\n");
        string? subject = null;
        foreach (Statement s in statements)
        {
            text.Append(s.Subject == subject ? " ;\n    " : $"{(subject is null ? "" : " .\n")}\n{s.Subject} ");
            text.Append(CultureInfo.InvariantCulture, $"{s.Predicate} {(s.IsText ? Quote(s.Object) : s.Object)}");
            subject = s.Subject;
        }
        return text.Append(subject is null ? "" : " .\n").ToString();
    }

    /// <summary>The statements of a text, and its prefixes.</summary>
    /// <exception cref="FormatException">It is no Turtle of this part; the message names the character.</exception>
    public static (IReadOnlyDictionary<string, string> Prefixes, IReadOnlyList<Statement> Statements) Read(string text)
    {
        var prefixes = new Dictionary<string, string>();
        var statements = new List<Statement>();
        int at = 0;
        while (true)
        {
            Skip();
            if (at == text.Length) return (prefixes, statements);
            if (text.AsSpan(at).StartsWith("@prefix"))
            {
                at += "@prefix".Length;
                string prefix = Name();
                Expect('<');
                int end = text.IndexOf('>', at);
                if (end < 0) throw Wrong("an address that ends with >");
                prefixes[prefix.TrimEnd(':')] = text[at..end];
                at = end + 1;
                Expect('.');
                continue;
            }
            string subject = Known(Name());
            do
            {
                string predicate = Name();
                Skip();
                bool isText = at < text.Length && text[at] == '"';
                statements.Add(new Statement(subject, predicate == "a" ? predicate : Known(predicate), isText ? Text() : Known(Name()), isText));
                Skip();
            }
            while (at < text.Length && text[at] == ';' && ++at > 0);
            Expect('.');
        }

        void Skip()
        {
            while (at < text.Length && char.IsWhiteSpace(text[at])) at++;
        }

        FormatException Wrong(string wanted) => new($"Character {at + 1}: {wanted} is missing here.");

        void Expect(char c)
        {
            Skip();
            if (at >= text.Length || text[at] != c) throw Wrong($"‘{c}’");
            at++;
        }

        string Name()
        {
            Skip();
            int from = at;
            while (at < text.Length && (char.IsLetterOrDigit(text[at]) || text[at] is ':' or '_' or '-')) at++;
            return at > from ? text[from..at] : throw Wrong("a name");
        }

        string Known(string name) => name.IndexOf(':', StringComparison.Ordinal) is >= 0 and var colon && prefixes.ContainsKey(name[..colon]) ? name : throw Wrong($"a prefix for {name}");

        string Text()
        {
            var said = new StringBuilder();
            for (at++; at < text.Length && text[at] != '"'; at++)
            {
                if (text[at] is '\n' or '\r') throw Wrong("a quotation mark");
                if (text[at] != '\\')
                {
                    said.Append(text[at]);
                    continue;
                }
                if (++at == text.Length) throw Wrong("what is escaped");
                if (text[at] == 'u')
                {
                    if (at + 4 >= text.Length || !ushort.TryParse(text.AsSpan(at + 1, 4), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out ushort code)) throw Wrong("a code of four digits");
                    said.Append((char)code);
                    at += 4;
                }
                else said.Append(Escapes.FirstOrDefault(e => e.Letter == text[at]) is { Letter: not '\0' } known ? known.Means : throw Wrong("a known escape"));
            }
            if (at >= text.Length) throw Wrong("a quotation mark");
            at++;
            return said.ToString();
        }
    }

    /// <summary>A text in quotation marks; what would break it or cannot be seen is escaped.</summary>
    private static string Quote(string said)
    {
        var text = new StringBuilder("\"");
        foreach (char c in said)
        {
            if (Escapes.FirstOrDefault(e => e.Means == c) is { Letter: not '\0' } known) text.Append('\\').Append(known.Letter);
            else if (char.IsControl(c)) text.Append(CultureInfo.InvariantCulture, $"\\u{(int)c:X4}");
            else text.Append(c);
        }
        return text.Append('"').ToString();
    }

    private static readonly (char Letter, char Means)[] Escapes = [('"', '"'), ('\\', '\\'), ('n', '\n'), ('r', '\r'), ('t', '\t')];
}
