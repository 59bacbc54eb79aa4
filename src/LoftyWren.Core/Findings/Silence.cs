using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Findings;

/// <summary>Somebody has looked at a finding and says why it may stand. It goes with the record, and comes back when the silence is lifted.</summary>
public sealed record Silence : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Silence> AsKind { get; } = new("silence") { Nouns = [new("silence", "silences")], IsSpelled = false };

    /// <summary>The record the finding is about.</summary>
    public required RecordId OnId { get; init; }

    /// <summary>The finding's key.</summary>
    [Most(400)]
    public required string FindingKey { get; init; }

    /// <summary>Why it may stand.</summary>
    [Most(400, Lines = true)]
    public required string Reason { get; init; }

    /// <summary>Who says so.</summary>
    public required string Who { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => OnId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId on = map.Owner(On, OnId);
        // The key names the record again, and sometimes others: a copy silences what is found on the copy.
        string key = map.Mentions(FindingKey);
        return on == OnId && key == FindingKey ? this : this with { OnId = on, FindingKey = key };
    }

    private static readonly ReferenceSort On = ReferenceSort.Owner<ProjectRecord>("silences", "onId", "record");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"silence|{FindingKey}", "findingKey", "This finding is silenced already.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        if (string.IsNullOrWhiteSpace(Reason) || Reason.Length > 400) yield return new Refusal(Id, "reason", "Say in up to 400 characters why this finding may stand; whoever comes after you will ask.");
    }
}
