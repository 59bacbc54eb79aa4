using System.Runtime.CompilerServices;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Names;

/// <summary>A name that departs from the convention: why, and the name it would have; null where none fits.</summary>
public sealed record Departure(RecordId Id, string Why, string? Proposed);

/// <summary>The naming convention of a project, read once.</summary>
public sealed class Naming
{
    private readonly Dictionary<string, (NamingRule Rule, NamePattern Pattern, NameLetters Letters)> _rules;
    private readonly NameTexts _texts;

    private Naming(NamingConvention convention)
    {
        _texts = new NameTexts(convention.Abbreviations);
        _rules = convention.Rules.ToDictionary(r => r.For, r => (r, NamePattern.Parse(r.Pattern), NameLetters.Parse(r.Letters)));
    }

    /// <summary>The convention of a project; null where there is none, and names are free.</summary>
    public static Naming? Of(Project project) => NamingConvention.Of(project) is { } convention ? Of(convention) : null;

    /// <summary>A convention; read once.</summary>
    public static Naming Of(NamingConvention convention) => ReadOnce.GetValue(convention, c => new Naming(c));

    private static readonly ConditionalWeakTable<NamingConvention, Naming> ReadOnce = [];

    /// <summary>Whether there is a rule for records like this.</summary>
    public bool HasRuleFor(ProjectRecord record) => _rules.ContainsKey(record.Noun);

    /// <summary>The name that networks show for a point, or null when the convention says nothing of them. Too long a name is shortened by abbreviations as far as they go.</summary>
    public string? NetworkName(Project project, Point point)
    {
        if (!_rules.TryGetValue(NamingConvention.Network, out var rule)) return null;
        string Make(Func<string, string> shape) => NameTexts.In(rule.Rule.Case, rule.Letters.Clean(rule.Pattern.Fill(t => shape(NamePattern.Value(project, point, t, _texts)), shape(point.Name), 0)));
        string name = Make(text => text);
        return rule.Rule.Longest is { } longest && name.Length > longest ? Make(_texts.Shorten) : name;
    }

    /// <summary>What no other record's name may share with this one's.</summary>
    public IEnumerable<string> Keys(Project project, ProjectRecord record)
    {
        if (_rules.TryGetValue(record.Noun, out var rule) && Key(project, record, record.Name, rule.Rule) is { } own) yield return own;
        if (record is Point point && NetworkName(project, point) is { } network && Key(project, point, network, _rules[NamingConvention.Network].Rule) is { } key) yield return key;
    }

    /// <summary>Whether and how a record's name departs.</summary>
    public Departure? Check(Project project, ProjectRecord record, NameIndex names)
    {
        if (!_rules.TryGetValue(record.Noun, out var found)) return null;
        var (rule, pattern, letters) = found;
        string Token(string token) => NameTexts.In(rule.Case, NamePattern.Value(project, record, token, _texts));
        bool matches = pattern.Matches(record.Name, Token, out string free, out int? number);
        string? why = !matches ? $"does not follow {rule.Pattern}"
            : NameTexts.In(rule.Case, free) != free ? $"is not in {(rule.Case == LetterCase.Upper ? "capitals" : "small letters")}"
            : letters.Wrong(record.Name) is { } wrong ? $"holds ‘{wrong}’, which is not among {rule.Letters}"
            : record.Name.Length > rule.Longest ? $"is {record.Name.Length} characters long; at most {rule.Longest}"
            : Key(project, record, record.Name, rule) is { } key && names.Other(key, record.Id) is { } other ? $"is also the name of {project.Find(other)?.Noun} {project.PathOf(other)} › {project.Find(other)?.Name}"
            : null;
        return why is null ? null : new Departure(record.Id, why, Propose());

        string? Propose()
        {
            if (!matches) (free, number) = Guess(record, pattern, Token);
            string text = NameTexts.In(rule.Case, letters.Clean(free));
            string Make(string of, int n) => pattern.Fill(t => letters.Clean(Token(t)), of, n);
            for (int n = number ?? 1, tried = 0; tried < 1000; tried++, n = pattern.Counts ? n + 1 : n)
            {
                string of = tried == 0 || pattern.Counts ? text : text + (letters.Allows(' ') ? " " : letters.Allows('-') ? "-" : "") + (tried + 1);
                string name = Make(of, n);
                if (name.Length > rule.Longest) name = Make(NameTexts.In(rule.Case, letters.Clean(_texts.ShortenTo(of, rule.Longest.Value - (name.Length - of.Length)))), n);
                if (name.Length > rule.Longest || letters.Wrong(name) is not null || name.Length == 0) return null;
                if (IsFree(project, record, name, rule, names)) return name == record.Name ? null : name;
                if (!pattern.Counts && !pattern.IsFree) return null;
            }
            return null;
        }
    }

    /// <summary>Findings on the network name of a point: what departs, in words, or null.</summary>
    public string? CheckNetwork(Project project, Point point, NameIndex names)
    {
        if (NetworkName(project, point) is not { } network) return null;
        NamingRule rule = _rules[NamingConvention.Network].Rule;
        if (network.Length > rule.Longest) return $"‘{network}’ is {network.Length} characters long; at most {rule.Longest}. Shorten a name in it, or add abbreviations to the naming convention.";
        return Key(project, point, network, rule) is { } key && names.Other(key, point.Id) is { } other ? $"‘{network}’ is also the network name of {project.PathOf(other)} › {project.Find(other)?.Name}. Give one of the two another name." : null;
    }

    /// <summary>
    /// The edits that give these records the names they would have: places before what stands in them, since their names are
    /// part of others. Those for which no name fits are left out.
    /// </summary>
    public static IReadOnlyList<Edit> Fix(Project project, IEnumerable<RecordId> ids)
    {
        if (Of(project) is not { } naming) return [];
        var edits = new List<Edit>();
        Project now = project;
        NameIndex names = NameIndex.Full(project, naming);
        foreach (RecordId id in ids.Distinct().Where(id => project.Find(id) is not null).OrderBy(id => project.Lineage(id).Count()).ThenBy(id => id).ToList())
        {
            ProjectRecord record = now.Find(id)!;
            if (naming.Check(now, record, names)?.Proposed is not { } proposed) continue;
            ProjectRecord renamed = record with { Name = proposed };
            edits.Add(Edit.Of(renamed, project.FindEntry(id)!.Revision));
            now = now.With(now.Revision, [renamed], []);
            names = names.After(now, naming, [(record, renamed)]).Index;
        }
        return edits;
    }

    private static bool IsFree(Project project, ProjectRecord record, string name, NamingRule rule, NameIndex names)
    {
        if ((record with { Name = name }).UniqueKeys().Any(k => project.Holder(k.Key) is { } holder && holder != record.Id)) return false;
        return Key(project, record, name, rule) is not { } key || names.Other(key, record.Id) is null;
    }

    private static string? Key(Project project, ProjectRecord record, string name, NamingRule rule)
    {
        if (rule.Unique == NameScope.Siblings) return null;
        RecordId? scope = rule.Unique == NameScope.Project ? null : project.Lineage(record.Id).Skip(1).OfType<Place>()
            .FirstOrDefault(p => p.Kind == (rule.Unique switch { NameScope.Room => PlaceKind.Room, NameScope.Floor => PlaceKind.Floor, _ => PlaceKind.Building }))?.Id;
        return $"{rule.For}|{scope}|{name.ToLowerInvariant()}";
    }

    /// <summary>What of a name that departs could be its own text and its number: the rest after the parts that others say.</summary>
    private static (string Free, int? Number) Guess(ProjectRecord record, NamePattern pattern, Func<string, string> token)
    {
        string rest = record.Name;
        foreach (string known in pattern.Fills.Select(token).Where(v => v.Length > 1).OrderByDescending(v => v.Length))
        {
            int at = pattern.IsFree ? rest.IndexOf(known, StringComparison.OrdinalIgnoreCase) : -1;
            bool isWhole = at >= 0 && (at == 0 || !char.IsLetterOrDigit(rest[at - 1])) && (at + known.Length == rest.Length || !char.IsLetterOrDigit(rest[at + known.Length]));
            // A name that is nothing but a part others say keeps it.
            if (isWhole && known.Length < rest.Length) rest = rest.Remove(at, known.Length);
        }
        int? number = null;
        if (pattern.Counts)
        {
            int end = rest.Length;
            while (end > 0 && !char.IsAsciiDigit(rest[end - 1])) end--;
            int start = end;
            while (start > 0 && end - start < 6 && char.IsAsciiDigit(rest[start - 1])) start--;
            if (start < end)
            {
                number = int.Parse(rest[start..end], System.Globalization.CultureInfo.InvariantCulture);
                rest = rest.Remove(start, end - start);
            }
        }
        rest = string.Join(' ', rest.Split(' ', StringSplitOptions.RemoveEmptyEntries)).Trim(' ', '-', '_', '.', '/', ',', ':', '·');
        return (rest.Length > 0 ? rest : record.Name, number);
    }
}
