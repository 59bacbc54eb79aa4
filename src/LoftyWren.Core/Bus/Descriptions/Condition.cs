using System.Globalization;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Bus.Descriptions;

/// <summary>What conditions are asked about: the value in force of a parameter, by its place in the form.</summary>
public interface IConditionScope
{
    /// <summary>The value in force.</summary>
    string ValueOf(int parameter);
}

/// <summary>
/// When something of a device is there: a condition over its parameters. <c>mode = valve and cooling</c>, <c>stages &gt;= 2</c>,
/// <c>function in staircase, pulse</c>, <c>not (lock or forced)</c>. A name alone is a yes-or-no parameter; values of choices
/// are their keys. A parameter that is not in force counts with its default.
/// </summary>
public abstract record Condition
{
    /// <summary>Reads a condition.</summary>
    /// <exception cref="SyntaxException">It cannot be read; where, and what was expected.</exception>
    public static Condition Parse(string text)
    {
        var reader = new ConditionReader(text);
        Condition read = reader.Any();
        reader.End();
        return read;
    }

    /// <summary>The parameters it asks about.</summary>
    public abstract IEnumerable<Asked> Leaves { get; }

    /// <summary>The same condition with each question led to another.</summary>
    public abstract Condition Bound(Func<Asked, Condition> to);

    /// <summary>Whether it holds.</summary>
    public abstract bool Holds(IConditionScope scope);

    /// <summary>It in words.</summary>
    public abstract string Say(Func<Asked, string> leaf);

    /// <summary>What it is bound to by parts: two conditions that must both hold.</summary>
    public static Condition? Both(Condition? one, Condition? other) => one is null ? other : other is null ? one : new AllOf([one, other]);
}

/// <summary>A question about one parameter.</summary>
/// <param name="Name">The parameter's key.</param>
/// <param name="Relation">=, ≠, &lt;, ≤, &gt; or ≥.</param>
/// <param name="Values">What it is compared with; one of them, where there are several.</param>
/// <param name="At">Its place in the form, once that is known.</param>
public sealed record Asked(string Name, string Relation, IReadOnlyList<string> Values, int At = -1) : Condition
{
    /// <inheritdoc/>
    public override IEnumerable<Asked> Leaves => [this];

    /// <inheritdoc/>
    public override Condition Bound(Func<Asked, Condition> to) => to(this);

    /// <inheritdoc/>
    public override bool Holds(IConditionScope scope) => HoldsFor(scope.ValueOf(At));

    /// <summary>Whether it holds for a value.</summary>
    public bool HoldsFor(string value)
    {
        if (Relation is "=" or "≠")
        {
            bool isOne = false;
            for (int i = 0; i < Values.Count && !isOne; i++) isOne = Values[i] == value || (Number(Values[i]) is { } a && Number(value) is { } b && a == b);
            return isOne == (Relation == "=");
        }
        return Number(value) is { } number && Number(Values[0]) is { } limit && Relation switch { "<" => number < limit, "≤" => number <= limit, ">" => number > limit, _ => number >= limit };
    }

    /// <inheritdoc/>
    public override string Say(Func<Asked, string> leaf) => leaf(this);

    private static double? Number(string text) => text.Length > 0 && (char.IsAsciiDigit(text[0]) || text[0] is '-' or '.') && double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out double number) ? number : null;
}

/// <summary>Always so, or never: what a question comes to where the device does not offer the parameter.</summary>
public sealed record Fixed(bool Is) : Condition
{
    /// <inheritdoc/>
    public override IEnumerable<Asked> Leaves => [];

    /// <inheritdoc/>
    public override Condition Bound(Func<Asked, Condition> to) => this;

    /// <inheritdoc/>
    public override bool Holds(IConditionScope scope) => Is;

    /// <inheritdoc/>
    public override string Say(Func<Asked, string> leaf) => Is ? "always" : "this device never has it";
}

/// <summary>Not so.</summary>
public sealed record NotSo(Condition Of) : Condition
{
    /// <inheritdoc/>
    public override IEnumerable<Asked> Leaves => Of.Leaves;

    /// <inheritdoc/>
    public override Condition Bound(Func<Asked, Condition> to) => Of.Bound(to) switch
    {
        Fixed f => new Fixed(!f.Is),
        NotSo twice => twice.Of,
        var bound => new NotSo(bound),
    };

    /// <inheritdoc/>
    public override bool Holds(IConditionScope scope) => !Of.Holds(scope);

    /// <inheritdoc/>
    public override string Say(Func<Asked, string> leaf) => $"it is not so that {Of.Say(leaf)}";
}

/// <summary>All of some.</summary>
public sealed record AllOf(IReadOnlyList<Condition> Parts) : Condition
{
    /// <inheritdoc/>
    public override IEnumerable<Asked> Leaves => Parts.SelectMany(p => p.Leaves);

    /// <inheritdoc/>
    public override Condition Bound(Func<Asked, Condition> to)
    {
        Condition[] bound = [.. Parts.Select(p => p.Bound(to)).Where(p => p is not Fixed { Is: true })];
        return Array.Exists(bound, p => p is Fixed) ? new Fixed(false) : bound.Length switch { 0 => new Fixed(true), 1 => bound[0], _ => new AllOf(bound) };
    }

    /// <inheritdoc/>
    public override bool Holds(IConditionScope scope)
    {
        for (int i = 0; i < Parts.Count; i++)
        {
            if (!Parts[i].Holds(scope)) return false;
        }
        return true;
    }

    /// <inheritdoc/>
    public override string Say(Func<Asked, string> leaf) => string.Join(" and ", Flat.Select(p => p is AnyOf ? $"({p.Say(leaf)})" : p.Say(leaf)).Distinct());

    private IEnumerable<Condition> Flat => Parts.SelectMany(p => p is AllOf all ? all.Flat : [p]);
}

/// <summary>Any of some.</summary>
public sealed record AnyOf(IReadOnlyList<Condition> Parts) : Condition
{
    /// <inheritdoc/>
    public override IEnumerable<Asked> Leaves => Parts.SelectMany(p => p.Leaves);

    /// <inheritdoc/>
    public override Condition Bound(Func<Asked, Condition> to)
    {
        Condition[] bound = [.. Parts.Select(p => p.Bound(to)).Where(p => p is not Fixed { Is: false })];
        return Array.Exists(bound, p => p is Fixed) ? new Fixed(true) : bound.Length switch { 0 => new Fixed(false), 1 => bound[0], _ => new AnyOf(bound) };
    }

    /// <inheritdoc/>
    public override bool Holds(IConditionScope scope)
    {
        for (int i = 0; i < Parts.Count; i++)
        {
            if (Parts[i].Holds(scope)) return true;
        }
        return false;
    }

    /// <inheritdoc/>
    public override string Say(Func<Asked, string> leaf) => string.Join(" or ", Parts.Select(p => p.Say(leaf)).Distinct());
}

/// <summary>The grammar of conditions.</summary>
internal sealed class ConditionReader(string text) : Scanner(text)
{
    private static readonly (string Sign, string Relation)[] Signs = [("<=", "≤"), (">=", "≥"), ("!=", "≠"), ("≤", "≤"), ("≥", "≥"), ("≠", "≠"), ("=", "="), ("<", "<"), (">", ">")];

    public Condition Any()
    {
        var parts = new List<Condition> { All() };
        while (Joins("or")) parts.Add(All());
        return parts.Count == 1 ? parts[0] : new AnyOf(parts);
    }

    private Condition All()
    {
        var parts = new List<Condition> { One() };
        while (Joins("and")) parts.Add(One());
        return parts.Count == 1 ? parts[0] : new AllOf(parts);
    }

    private Condition One()
    {
        if (Keyword("not")) return new NotSo(Deeper(One));
        Space();
        if (Now == '(') return Parenthesised(Any);
        string name = While(IsOfName, "the key of a parameter");
        Space();
        if (Keyword("in"))
        {
            var values = new List<string> { Value() };
            while (true)
            {
                Space();
                if (Now != ',') return new Asked(name, "=", values);
                At++;
                values.Add(Value());
            }
        }
        foreach (var (sign, relation) in Signs)
        {
            if (!Text.AsSpan(At).StartsWith(sign, StringComparison.Ordinal)) continue;
            At += sign.Length;
            int at = At;
            string value = Value();
            if (relation is not ("=" or "≠") && FieldTexts.Number(value, out _) is not null) throw new SyntaxException(at, $"Behind ‘{sign}’ stands a number, not ‘{value}’.");
            return new Asked(name, relation, [value]);
        }
        return new Asked(name, "=", [Parameters.Yes]);
    }

    private string Value()
    {
        Space();
        return While(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '.' or '_', "a value");
    }

    private static bool IsOfName(char c) => char.IsAsciiLetterOrDigit(c) || c is '_' or '{' or '}';
}
