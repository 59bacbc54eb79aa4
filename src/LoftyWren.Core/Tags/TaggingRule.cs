using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tags;

/// <summary>A rule that gives tags to every record its condition holds for.</summary>
public sealed record TaggingRule : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<TaggingRule> AsKind { get; } = new("taggingRule") { Nouns = [new("tagging rule", "tagging rules")], IsSpelled = false };

    /// <summary>The condition as text; see <see cref="RuleCondition"/>.</summary>
    [Most(4000, Lines = true)]
    public required string Condition { get; init; }

    /// <summary>The tags it gives: name to Zinc scalar, <c>M</c> for a marker.</summary>
    [Most(1000, Members = 100)]
    public required IReadOnlyDictionary<string, string> Gives { get; init; }

    /// <summary>Rules go in this order; where two give one tag different values, the first wins and a finding says so.</summary>
    public int Order { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => null;

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"tagging-rule|{Name.ToLowerInvariant()}", "name", "There is already a tagging rule called ‘{0}’. Choose another name.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        SyntaxException? wrong = null;
        try
        {
            RuleCondition.Parse(Condition);
        }
        catch (SyntaxException e)
        {
            wrong = e;
        }
        if (wrong is not null) yield return new Refusal(Id, "condition", $"The condition of ‘{Name}’ cannot be read at character {wrong.At + 1}: {wrong.Message}");
        if (Gives.Count == 0) yield return new Refusal(Id, "gives", $"‘{Name}’ gives no tag. Name at least one.");
        foreach (var (name, text) in Gives)
        {
            if (TaggedRecord.Refuse(name, text) is { } sentence) yield return new Refusal(Id, "gives", sentence);
        }
    }
}
