using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Fields;

/// <summary>Where a field is offered.</summary>
[Flags]
public enum FieldUses
{
    /// <summary>Nowhere: it only gives its words to differences.</summary>
    None = 0,
    /// <summary>As a column of the grid.</summary>
    Grid = 1,
    /// <summary>In the form of one record.</summary>
    Form = 2,
    /// <summary>As a column of a list that is read.</summary>
    Import = 4,
    /// <summary>As a column of a list that is written.</summary>
    Export = 8,
    /// <summary>For finding and replacing texts.</summary>
    Replace = 16,
    /// <summary>In the conditions of rules.</summary>
    Condition = 32,
    /// <summary>As what the rows of a grid can be grouped by.</summary>
    Group = 64,
    /// <summary>Its words are checked for spelling.</summary>
    Spelled = 128,
}

/// <summary>What became of a text that was read into a field: the record with it, or a sentence that says what would be right.</summary>
public readonly record struct FieldReading(ProjectRecord? Record, string? Refusal)
{
    /// <summary>The record as it is now.</summary>
    public static FieldReading Of(ProjectRecord record) => new(record, null);

    /// <summary>Why the text cannot be taken.</summary>
    public static FieldReading Refused(string sentence) => new(null, sentence);
}

/// <summary>
/// One thing that a kind of record says of itself: what it is called, how it is said and how a text is read into it. Grids,
/// forms, lists, replacing, conditions of rules and the words of differences all come from it.
/// </summary>
public abstract class Field(string key, string label)
{
    /// <summary>The name of the field, as in the record's JSON where it stands there by itself.</summary>
    public string Key { get; } = key;

    /// <summary>What people call it.</summary>
    public string Label { get; } = label;

    /// <summary>The symbol of the unit its number is in, where that is always the same.</summary>
    public string? Unit { get; init; }

    /// <summary>Where it is offered.</summary>
    public FieldUses Uses { get; init; }

    /// <summary>The only texts it takes; empty where it takes any.</summary>
    public IReadOnlyList<string> Choices { get; init; } = [];

    /// <summary>Whether it is a number, and stands to the right in a column.</summary>
    public bool IsNumber { get; init; }

    /// <summary>Whether it leads to other records: it is read when all of its list have been.</summary>
    public bool IsLink { get; init; }

    /// <summary>The type of the records that it leads to, where it leads to one; its text may be an id.</summary>
    public Type? LeadsTo { get; init; }

    /// <summary>Whether it is read before the others of its record: it may decide what they mean.</summary>
    public bool IsFirst { get; init; }

    /// <summary>Whether it can only be read off, not written.</summary>
    public bool IsShown { get; init; }

    /// <summary>What to call its column in a list, where that is not <see cref="Key"/> behind the key of its kind.</summary>
    public string? Column { get; init; }

    /// <summary>What lists call it besides <see cref="Label"/>, in small letters.</summary>
    public IReadOnlyList<string> Headers { get; init; } = [];

    /// <summary>What differences call it, where the label does not read as part of a sentence.</summary>
    public string? Words { get; init; }

    /// <summary>What an empty field may suggest to whoever fills it.</summary>
    public string? Hint { get; init; }

    /// <summary>What it is, in a sentence for whoever fills it.</summary>
    public string? About { get; private protected set; }

    /// <summary>The least number that its records take, in its unit; null where none is too small. The check of the record keeps it.</summary>
    public double? Least { get; private protected set; }

    /// <summary>The greatest number that its records take, in its unit; null where none is too great. The check of the record keeps it.</summary>
    public double? Most { get; private protected set; }

    /// <summary>Whether it is a stretch of time in seconds, which can be written as 1 h 30 min.</summary>
    public bool IsSpan { get; init; }

    /// <summary>Whether it is offered there.</summary>
    public bool Is(FieldUses use) => (Uses & use) != 0;

    /// <summary>Whether this record has the field: only rooms have an area.</summary>
    public abstract bool IsOf(ProjectRecord record);

    /// <summary>Its label on this record: the order of a floor is its level.</summary>
    public virtual string LabelOn(ProjectRecord record) => Label;

    /// <summary>The symbol of the unit its number is in on this record, or null.</summary>
    public virtual string? UnitOn(Project project, ProjectRecord record) => Unit;

    /// <summary>What it says in a column: with the unit behind a number, where neither the head of the column nor another column tells it. It is read back like that.</summary>
    public string SayInColumn(Project project, ProjectRecord record) =>
        Say(project, record) is { Length: > 0 } said && IsNumber && Unit is null && !IsUnitBeside && UnitOn(project, record) is { Length: > 0 } unit ? $"{said} {unit}" : Say(project, record);

    /// <summary>Whether another column of the record tells the unit of its number.</summary>
    public bool IsUnitBeside { get; init; }

    /// <summary>What it says, for people; empty where it says nothing.</summary>
    public abstract string Say(Project project, ProjectRecord record);

    /// <summary>What it says so that <see cref="Read"/> reads it back.</summary>
    public virtual string Write(Project project, ProjectRecord record) => Say(project, record);

    /// <summary>Reads a text into a record; an empty one takes away what may be missing.</summary>
    public abstract FieldReading Read(Project project, ProjectRecord record, string text);

    /// <summary>Its number, to sort by; null where it sorts by what it says.</summary>
    public abstract double? Number(Project project, ProjectRecord record);
}

/// <summary>A field of one sort of record.</summary>
/// <typeparam name="T">The sort.</typeparam>
public sealed class Field<T>(string key, string label) : Field(key, label)
    where T : ProjectRecord
{
    /// <summary>What it says; null for nothing.</summary>
    public required Func<Project, T, string?> Says { get; init; }

    /// <summary>What it says so that it can be read back; <see cref="Says"/> where not given.</summary>
    public Func<Project, T, string?>? Writes { get; init; }

    /// <summary>Reads a trimmed text into the record.</summary>
    public required Func<Project, T, string, FieldReading> Reads { get; init; }

    /// <summary>Its number.</summary>
    public Func<T, double?>? Sorts { get; init; }

    /// <summary>Which records have it; all where not given.</summary>
    public Func<T, bool>? Only { get; init; }

    /// <summary>Its label on a record; <see cref="Field.Label"/> where not given.</summary>
    public Func<T, string>? Labels { get; init; }

    /// <summary>The unit on a record; <see cref="Field.Unit"/> where not given.</summary>
    public Func<Project, T, string?>? Units { get; init; }

    /// <summary>The same field with what it is, and between which numbers its records take it.</summary>
    public Field<T> Told(string about, double? least = null, double? most = null)
    {
        (About, Least, Most) = (about, least, most);
        return this;
    }

    /// <inheritdoc/>
    public override string? UnitOn(Project project, ProjectRecord record) => IsOf(record) && Units is not null ? Units(project, (T)record) : Unit;

    /// <inheritdoc/>
    public override bool IsOf(ProjectRecord record) => record is T own && (Only is null || Only(own));

    /// <inheritdoc/>
    public override string LabelOn(ProjectRecord record) => Labels?.Invoke((T)record) ?? Label;

    /// <inheritdoc/>
    public override string Say(Project project, ProjectRecord record) => IsOf(record) ? Says(project, (T)record) ?? "" : "";

    /// <inheritdoc/>
    public override string Write(Project project, ProjectRecord record) => IsOf(record) ? (Writes ?? Says)(project, (T)record) ?? "" : "";

    /// <inheritdoc/>
    public override FieldReading Read(Project project, ProjectRecord record, string text) =>
        IsOf(record) ? Reads(project, (T)record, text.Trim()) : FieldReading.Refused($"A {record.Noun} has no {Label.ToLowerInvariant()}.");

    /// <inheritdoc/>
    public override double? Number(Project project, ProjectRecord record) => IsOf(record) ? Sorts?.Invoke((T)record) : null;
}
