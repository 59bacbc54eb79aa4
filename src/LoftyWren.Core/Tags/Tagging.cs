using System.Runtime.CompilerServices;
using System.Text.Json;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tags;

/// <summary>Where a tag comes from.</summary>
public enum TagOrigin
{
    /// <summary>Written on the record.</summary>
    Direct,
    /// <summary>Given by the template it was placed from.</summary>
    Template,
    /// <summary>Follows from what it is and where it is.</summary>
    Model,
    /// <summary>Given by a tagging rule.</summary>
    Rule,
}

/// <summary>One tag of a record, where it comes from, and why in words.</summary>
public sealed record DerivedTag(string Name, TagValue Value, TagOrigin Origin, string Why, RecordId? RuleId = null);

/// <summary>Two sources give one tag different values: the one that won and the rule that lost.</summary>
public sealed record TagConflict(DerivedTag Winner, TaggingRule Loser, TagValue Value);

/// <summary>The tagging rules of a project, read once and in order.</summary>
public sealed class TaggingRules
{
    private readonly (TaggingRule Rule, RuleCondition Condition, (string Name, TagValue Value)[] Gives)[] _rules;

    private TaggingRules((TaggingRule, RuleCondition, (string, TagValue)[])[] rules) => _rules = rules;

    private static readonly ConditionalWeakTable<Project, TaggingRules> ReadOnce = [];

    /// <summary>The rules of a project; read once.</summary>
    public static TaggingRules Of(Project project) => ReadOnce.GetValue(project, Read);

    /// <summary>Whether some rule gives a record a tag.</summary>
    public bool Gives(Project project, TaggedRecord record, string tag) => Array.Exists(_rules, r => Array.Exists(r.Gives, g => g.Name == tag)) && Derive(project, record).ContainsKey(tag);

    private static TaggingRules Read(Project project) => new([.. project.All<TaggingRule>()
        .OrderBy(r => r.Order).ThenBy(r => r.Name, StringComparer.Ordinal)
        .Select(r => (r, RuleCondition.Parse(r.Condition), r.Gives.Select(g => (string.Intern(g.Key), Zinc.Read(g.Value))).ToArray()))]);

    /// <summary>All tags of a record: direct ones first, then the template's, the model's, the rules'. Rules may build on each other's tags.</summary>
    public IReadOnlyDictionary<string, DerivedTag> Derive(Project project, TaggedRecord record, List<TagConflict>? conflicts = null)
    {
        var tags = new Dictionary<string, DerivedTag>();
        foreach (var (name, text) in record.Tags ?? None) tags[name] = new DerivedTag(name, Zinc.Read(text), TagOrigin.Direct, "written on the record");
        foreach (var (name, text) in record.TemplateTags ?? None) tags.TryAdd(name, new DerivedTag(name, Zinc.Read(text), TagOrigin.Template, "from its template"));
        Model.Give(project, record, (name, value, why) => tags.TryAdd(name, new DerivedTag(name, value, TagOrigin.Model, why)));
        var held = new bool[_rules.Length];
        var subject = new RuleSubject(project, record, tags);
        // Tags are only ever added, so this ends; a rule that leans on a later rule's tag gets its turn in the next round.
        for (bool more = true; more;)
        {
            more = false;
            for (int i = 0; i < _rules.Length; i++)
            {
                var (rule, condition, gives) = _rules[i];
                if (held[i] || !condition.Holds(subject)) continue;
                held[i] = true;
                foreach (var (name, value) in gives)
                {
                    if (tags.TryGetValue(name, out DerivedTag? there))
                    {
                        if (!there.Value.Equals(value) && there.Origin == TagOrigin.Rule) conflicts?.Add(new TagConflict(there, rule, value));
                    }
                    else
                    {
                        tags[name] = new DerivedTag(name, value, TagOrigin.Rule, $"rule ‘{rule.Name}’: {rule.Condition}", rule.Id);
                        more = true;
                    }
                }
            }
        }
        return tags;
    }

    /// <summary>How many records each rule holds for, in one pass.</summary>
    public IReadOnlyDictionary<RecordId, int> Counts(Project project)
    {
        var counts = _rules.ToDictionary(r => r.Rule.Id, _ => 0);
        foreach (TaggedRecord record in project.Records.OfType<TaggedRecord>())
        {
            var subject = new RuleSubject(project, record, Derive(project, record));
            foreach (var (rule, condition, _) in _rules)
            {
                if (condition.Holds(subject)) counts[rule.Id]++;
            }
        }
        return counts;
    }

    /// <summary>The records a condition holds for, with the tags these rules give.</summary>
    public IEnumerable<TaggedRecord> Holding(Project project, RuleCondition condition) =>
        project.Records.OfType<TaggedRecord>().Where(r => condition.Holds(new RuleSubject(project, r, Derive(project, r))));

    private static readonly Dictionary<string, string> None = [];
}

/// <summary>The common definitions that ship, and the tags that follow from what a record is and where it stands.</summary>
public static class Model
{
    private static readonly Shipped Data = JsonSerializer.Deserialize<Shipped>(typeof(Model).Assembly.GetManifestResourceStream("definitions.json")!, RecordJson.Options)!;

    /// <summary>The common tags: name, sort (marker, number, text, ref …) and what it means.</summary>
    public static IReadOnlyList<Definition> Definitions => Data.Tags;

    /// <summary>Tagging rules to begin with.</summary>
    public static IReadOnlyList<TaggingRule> StarterRules { get; } = [.. Data.Rules.Select((r, i) => new TaggingRule { Id = new($"rule-{r.Name.ToLowerInvariant().Replace(' ', '-').Replace("₂", "2")}"), Name = r.Name, Condition = r.Condition, Gives = r.Gives.ToDictionary(g => g, _ => "M"), Order = i + 1 })];

    /// <summary>The name of one of our units in the open unit list.</summary>
    public static string UnitName(string symbol) => Data.Units.GetValueOrDefault(symbol, symbol);

    /// <summary>The tags that each kind of equipment has.</summary>
    public static IReadOnlyDictionary<string, IReadOnlyList<string>> EquipmentTags { get; } = Data.Equipment.ToDictionary(e => e.Key, e => (IReadOnlyList<string>)e.Value);

    /// <summary>Gives every tag that follows from the model.</summary>
    public static void Give(Project project, TaggedRecord record, Action<string, TagValue, string> give)
    {
        var giver = new TagGiver(project, record, give);
        giver.Give("dis", new TextValue(record.Name), "its name");
        giver.Refer("siteRef", giver.At(PlaceKind.Site), "where it is");
        RecordKinds.Of(record).Tag(record, giver);
    }

    /// <summary>A common tag.</summary>
    public sealed record Definition(string Name, string Sort, string Meaning);

    private sealed record Shipped(IReadOnlyList<Definition> Tags, IReadOnlyDictionary<string, string[]> Equipment, IReadOnlyDictionary<string, string> Units, IReadOnlyList<ShippedRule> Rules);

    private sealed record ShippedRule(string Name, string Condition, IReadOnlyList<string> Gives);
}
