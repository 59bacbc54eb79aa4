using System.Text.Json.Serialization;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Records;

/// <summary>One thing of the project: immutable, with a stable id. Edits replace whole records through change sets.</summary>
public abstract record ProjectRecord
{
    /// <summary>The record's identity.</summary>
    public required RecordId Id { get; init; }

    /// <summary>What people call it; unique among its siblings.</summary>
    public required string Name { get; init; }

    /// <summary>The trade's word for this sort of record, as a sentence would use it: room, point, controller.</summary>
    [JsonIgnore]
    public virtual string Noun => RecordKinds.Of(this).Nouns[0].Noun;

    /// <summary>The record this one belongs to, if any: the where of it. Removing that removes this.</summary>
    [JsonIgnore]
    public abstract RecordId? ParentId { get; }

    /// <summary>What to call it in a sentence about this project; a terminal is called after its point.</summary>
    public virtual string Called(Func<RecordId, ProjectRecord?> find) => Name;

    /// <summary>
    /// Hands every reference of this record to a map and answers the record with what comes back; the same record where
    /// nothing changes. The one place in which a record says what it refers to.
    /// </summary>
    public virtual ProjectRecord Through(ReferenceMap map) => this;

    /// <summary>Of <see cref="Check"/>, what some changed records that this one refers to can have made wrong; all of it unless a record knows better.</summary>
    public virtual IEnumerable<Refusal> CheckAgainst(Project project, IReadOnlyCollection<RecordId> changed) => Check(project);

    /// <summary>Whether nobody else can tell this record from what it was before: only what it keeps to itself has changed, and what refers to it need not be looked at again.</summary>
    public virtual bool IsAlikeFromOutside(ProjectRecord before) => false;

    /// <summary>All records this one points to, the parent included.</summary>
    public IReadOnlyList<Reference> References()
    {
        var references = new References();
        Through(references);
        return references.Found;
    }

    /// <summary>What it adds to sums over what hangs on a record; see <see cref="SumSort"/>.</summary>
    public virtual IEnumerable<Share> Shares() => [];

    /// <summary>Of two records that it ties together: what adds up at the one counts at the other too; null where it ties none.</summary>
    [JsonIgnore]
    public virtual (RecordId From, RecordId To)? Carries => null;

    /// <summary>What no two records may both have, each with the sentence that refuses the second.</summary>
    public virtual IEnumerable<UniqueKey> UniqueKeys() => [];

    /// <summary>Reasons why this record cannot stand in this project. Empty when it can.</summary>
    public abstract IEnumerable<Refusal> Check(Project project);

    /// <summary>The same record without any link to the given ones.</summary>
    public ProjectRecord Without(IReadOnlySet<RecordId> gone) => Through(new LettingGo(gone));

    /// <summary>The same record belonging to another.</summary>
    public ProjectRecord MovedTo(RecordId owner) => ParentId is { } from && from != owner ? Through(new MovingTo(from, owner)) : this;

    /// <summary>The same record under the ids that a table gives for its own and for those it refers to; what is not named stays.</summary>
    public ProjectRecord Led(IReadOnlyDictionary<RecordId, RecordId> ids)
    {
        ProjectRecord led = Through(new LeadingElsewhere(ids));
        return ids.TryGetValue(Id, out RecordId own) ? led with { Id = own } : led;
    }

    /// <summary>
    /// Refuses references that lead nowhere or to a wrong sort of record. One that <paramref name="before"/> had already is
    /// let stand: what older versions left behind keeps nobody from editing the rest.
    /// </summary>
    public IEnumerable<Refusal> CheckReferences(Project project, ProjectRecord? before)
    {
        foreach (Reference reference in References())
        {
            ProjectRecord? to = project.Find(reference.To);
            if ((to is null || !Array.Exists(reference.Sort.To, t => t.IsInstanceOfType(to))) && before?.References().Contains(reference) != true)
                yield return new Refusal(Id, reference.Sort.Field, $"The {Noun} ‘{Name}’ refers to a {reference.Sort.Word} that is not in the project ({reference.To}).");
        }
    }

    /// <summary>The checks that hold for every name: present, short enough to print, no control characters.</summary>
    protected IEnumerable<Refusal> CheckName(int longest = 80)
    {
        // Nearly every name is plain and short, and an import asks twenty thousand of them.
        if (Name.Length > 0 && Name.Length <= longest && Name[0] != ' ' && Name[^1] != ' ' && !Name.AsSpan().ContainsAnyExceptInRange(' ', '~')) return [];
        string? sentence =
            string.IsNullOrWhiteSpace(Name) ? $"This {Noun} has no name. Type one."
            : Name.Length > longest ? $"‘{Name[..24]}…’ is {Name.Length} characters long; a name has at most {longest}."
            : Name.Any(char.IsControl) ? $"The name of this {Noun} holds a line break or another control character. Remove it."
            : RecordTexts.Unseen(Name) is { } unseen ? $"The name of this {Noun} cannot be read as it stands. {unseen}"
            : Name != Name.Trim() ? $"‘{Name}’ begins or ends with a space. Remove it." : null;
        return sentence is null ? [] : [new Refusal(Id, "name", sentence)];
    }
}

/// <summary>A key that only one record may hold, and the sentence for whoever comes second; {0} stands for the holder's name, {1} for the noun of the second.</summary>
public readonly record struct UniqueKey(string Key, string Field, string Sentence);

/// <summary>Why a change cannot be made: on which record, which field of it, and a sentence that says what to do.</summary>
public sealed record Refusal(RecordId RecordId, string Field, string Sentence);
