using System.Text.Json.Serialization;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Records;

/// <summary>One thing of the project: immutable, with a stable id. Edits replace whole records through change sets.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "type", UnknownDerivedTypeHandling = JsonUnknownDerivedTypeHandling.FailSerialization)]
[JsonDerivedType(typeof(Place), "place")]
[JsonDerivedType(typeof(Equipment), "equipment")]
[JsonDerivedType(typeof(Point), "point")]
[JsonDerivedType(typeof(Controller), "controller")]
[JsonDerivedType(typeof(Fitting), "fitting")]
[JsonDerivedType(typeof(Sequence), "sequence")]
[JsonDerivedType(typeof(Schedule), "schedule")]
[JsonDerivedType(typeof(TrendLog), "trend")]
[JsonDerivedType(typeof(AlarmRule), "alarm")]
[JsonDerivedType(typeof(TaggingRule), "taggingRule")]
[JsonDerivedType(typeof(Silence), "silence")]
[JsonDerivedType(typeof(NamingConvention), "namingConvention")]
public abstract record ProjectRecord
{
    /// <summary>The record's identity.</summary>
    public required RecordId Id { get; init; }

    /// <summary>What people call it; unique among its siblings.</summary>
    public required string Name { get; init; }

    /// <summary>The trade's word for this sort of record, as a sentence would use it: room, point, controller.</summary>
    [JsonIgnore]
    public abstract string Noun { get; }

    /// <summary>The record this one belongs to, if any: the where of it. Removing that removes this.</summary>
    [JsonIgnore]
    public abstract RecordId? ParentId { get; }

    /// <summary>What to call it in a sentence about this project; a terminal is called after its point.</summary>
    public virtual string Called(Func<RecordId, ProjectRecord?> find) => Name;

    /// <summary>All records this one points to, the parent included.</summary>
    public abstract IEnumerable<Reference> References();

    /// <summary>What no two records may both have, each with the sentence that refuses the second.</summary>
    public virtual IEnumerable<UniqueKey> UniqueKeys() => [];

    /// <summary>Reasons why this record cannot stand in this project. Empty when it can.</summary>
    public abstract IEnumerable<Refusal> Check(Project project);

    /// <summary>The same record without any reference to the given ones; only called for references that are not owning.</summary>
    public virtual ProjectRecord Without(IReadOnlySet<RecordId> gone) => this;

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

    /// <summary>Refuses a reference that leads nowhere or to the wrong sort of record.</summary>
    protected IEnumerable<Refusal> CheckReference<T>(Project project, RecordId to, string field, string word) where T : ProjectRecord
    {
        if (project.Find(to) is not T) yield return new Refusal(Id, field, $"‘{Name}’ refers to a {word} that is not in the project ({to}).");
    }
}

/// <summary>One record pointing to another. <paramref name="Owning"/>: removing the target removes this record too.</summary>
public readonly record struct Reference(RecordId To, string As, bool Owning);

/// <summary>A key that only one record may hold, and the sentence for whoever comes second; {0} stands for the holder's name, {1} for the noun of the second.</summary>
public readonly record struct UniqueKey(string Key, string Field, string Sentence);

/// <summary>Why a change cannot be made: on which record, which field of it, and a sentence that says what to do.</summary>
public sealed record Refusal(RecordId RecordId, string Field, string Sentence);
