using LoftyWren.Core.Fields;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Records;

/// <summary>One of the words for records of a kind, and what goes by the word: most kinds have one, places have four.</summary>
/// <param name="Noun">As a sentence uses it: room, point, controller.</param>
/// <param name="Plural">Of many.</param>
public sealed record KindNoun(string Noun, string Plural)
{
    /// <summary>What one of them is counted as, where that is not the noun: a piece of equipment.</summary>
    public string? One { get; init; }

    /// <summary>What of the places and the equipment above can be part of its name by the naming convention; null where the convention says nothing of such records.</summary>
    public IReadOnlyList<string>? NameTokens { get; init; }

    /// <summary>Whether what it belongs to has one of it as a rule, so that a name may say nothing of its own.</summary>
    public bool IsAlone { get; init; }
}

/// <summary>Why two people's edits of one record clash.</summary>
public enum ConflictGrain
{
    /// <summary>Whoever changes a record that was changed since it was seen is asked.</summary>
    Record,
    /// <summary>Only if the same field was changed since; the rest of both goes together.</summary>
    Field,
    /// <summary>Only if the same field, or the same part of one of its <see cref="RecordKind.Parts"/>, was changed since.</summary>
    Part,
}

/// <summary>A number that no two records of a kind may share, and what comes next that is free.</summary>
/// <param name="Field">The field it stands in.</param>
/// <param name="First">The lowest that is given out.</param>
/// <param name="Last">The highest that may be.</param>
public abstract record UniqueNumber(string Field, int First, int Last)
{
    /// <summary>The number of a record.</summary>
    public abstract int Of(ProjectRecord record);

    /// <summary>The record with another.</summary>
    public abstract ProjectRecord With(ProjectRecord record, int number);
}

/// <summary>A number that no two records of one sort may share.</summary>
public sealed record UniqueNumber<T>(string Field, int First, int Last, Func<T, int> Get, Func<T, int, T> Set) : UniqueNumber(Field, First, Last)
    where T : ProjectRecord
{
    /// <inheritdoc/>
    public override int Of(ProjectRecord record) => Get((T)record);

    /// <inheritdoc/>
    public override ProjectRecord With(ProjectRecord record, int number) => Set((T)record, number);
}

/// <summary>
/// Everything about a kind of record that others need to know and that is not in a record itself. Registered once in
/// <see cref="RecordKinds"/>; JSON, storage, project file, finder, spelling, names, tags, templates, lists, grids, forms,
/// checks and the client read it.
/// </summary>
public abstract class RecordKind(string key, Type type)
{
    /// <summary>Its name in JSON, database, project file and addresses. It never changes.</summary>
    public string Key { get; } = key;

    /// <summary>The records of this kind.</summary>
    public Type Type { get; } = type;

    /// <summary>Its words.</summary>
    public required IReadOnlyList<KindNoun> Nouns { get; init; }

    /// <summary>What its records say of themselves, in the order of a form or a list; their name comes first by itself.</summary>
    public IReadOnlyList<Field> Fields { get; init; } = [];

    /// <summary>Numbers of which every record has its own.</summary>
    public IReadOnlyList<UniqueNumber> Numbers { get; init; } = [];

    /// <summary>Whether find or do looks among them.</summary>
    public bool IsSearched { get; init; } = true;

    /// <summary>How far its hits stand behind others that match as well.</summary>
    public double Handicap { get; init; }

    /// <summary>Whether the words of its names are checked.</summary>
    public bool IsSpelled { get; init; } = true;

    /// <summary>Whether numbers anywhere in it may become parameters of a template.</summary>
    public bool HasVariables { get; init; }

    /// <summary>What lists call the column of its names besides its noun, in small letters.</summary>
    public IReadOnlyList<string> ListHeaders { get; init; } = [];

    /// <summary>Whether it is part of what a controller or device runs.</summary>
    public bool RunsInImage { get; init; }

    /// <summary>The keys of the software parts that a controller needs to run records of this kind.</summary>
    public IReadOnlyList<string> NeedsParts { get; init; } = [];

    /// <summary>When two people's edits of one record clash.</summary>
    public ConflictGrain Grain { get; init; }

    /// <summary>The lists of its records whose parts are edited side by side, where it is of that grain.</summary>
    public IReadOnlyList<PartList> Parts { get; init; } = [];

    /// <summary>Whether its records carry tags.</summary>
    public bool IsTagged => typeof(TaggedRecord).IsAssignableFrom(Type);

    /// <summary>The letter its records are numbered under in a template.</summary>
    public char Letter => Nouns[0].Noun[0];

    /// <summary>Whether records of it can be made with a name and an owner alone.</summary>
    public abstract bool CanBegin { get; }

    /// <summary>A new record of this owner, or null where such an owner has none.</summary>
    public abstract ProjectRecord? Begin(RecordId id, string name, ProjectRecord owner);

    /// <summary>A record as it runs, with what no controller carries of it as it is designed; <paramref name="runsThere"/> tells whether a record is part of what runs.</summary>
    public abstract ProjectRecord TakeBack(ProjectRecord runs, ProjectRecord design, Func<RecordId, bool> runsThere);

    /// <summary>The record with a number of its own where numbers are no row that counts up; the keys in <paramref name="taken"/> are given out already.</summary>
    public abstract ProjectRecord NumberedAnew(Project project, ProjectRecord record, ISet<string> taken);

    /// <summary>The record without what only one can have and nobody has told; a copy has that open.</summary>
    public abstract ProjectRecord LeftOpen(ProjectRecord record, Func<string, bool>? isTold);

    /// <summary>The record with what follows from its other fields, after some of them were written; <paramref name="before"/> is null for a new one.</summary>
    public abstract ProjectRecord Settle(ProjectRecord? before, ProjectRecord now);

    /// <summary>What the project's checks find on a record of this kind.</summary>
    public abstract IEnumerable<Finding> Check(Project project, ProjectRecord record);

    /// <summary>Gives the tags that follow from what a record is.</summary>
    public abstract void Tag(ProjectRecord record, TagGiver tags);

    /// <summary>The field with this key, or null; the common ones too.</summary>
    public Field? Field(string key)
    {
        foreach (Field field in Fields)
        {
            if (field.Key == key) return field;
        }
        return CommonFields.Find(key);
    }

    /// <summary>The fields offered somewhere, name first.</summary>
    public IEnumerable<Field> Offered(FieldUses use) => CommonFields.All.Take(1).Concat(Fields).Where(f => f.Is(use));

    /// <summary>What its rows in a grid can be grouped by: where they are, and what they say.</summary>
    public IEnumerable<Field> Groups => CommonFields.All.Concat(Fields).Where(f => f.Is(FieldUses.Group));

    /// <summary>Its own fields in the order in which the texts of one row are read: what may decide first, what leads elsewhere last.</summary>
    public IReadOnlyList<Field> Reading => _reading ??= [.. Fields.OrderBy(f => f.IsFirst ? 0 : f.IsLink ? 2 : 1)];

    private IReadOnlyList<Field>? _reading;

    /// <summary>Whether lists are read that hold such records.</summary>
    public bool IsListed => CanBegin && Fields.Any(f => f.Is(FieldUses.Import));
}

/// <summary>A kind of record.</summary>
/// <typeparam name="T">Its records.</typeparam>
public sealed class RecordKind<T>(string key) : RecordKind(key, typeof(T))
    where T : ProjectRecord
{
    /// <summary>Makes a record with an id, a name and an owner; null where such an owner has none. Not given: such a record needs a page of its own.</summary>
    public Func<RecordId, string, ProjectRecord, T?>? Begins { get; init; }

    /// <summary>What follows from other fields; see <see cref="RecordKind.Settle"/>.</summary>
    public Func<T?, T, T>? Settles { get; init; }

    /// <summary>What only one record can have besides its numbers: the field, and the record without it.</summary>
    public IReadOnlyList<(string Field, Func<T, T> Without)> OnlyOnce { get; init; } = [];

    /// <summary>Gives a copy a number of its own; see <see cref="RecordKind.NumberedAnew"/>. Not given: it has none, or one of <see cref="RecordKind.Numbers"/>.</summary>
    public Func<Project, T, ISet<string>, T>? Numbered { get; init; }

    /// <summary>What of the design stays when what runs is taken over; see <see cref="RecordKind.TakeBack"/>. Not given: nothing does.</summary>
    public Func<T, T, Func<RecordId, bool>, T>? TakesBack { get; init; }

    /// <summary>The checks of such a record.</summary>
    public Func<Project, T, IEnumerable<Finding>>? Checks { get; init; }

    /// <summary>The tags of such a record.</summary>
    public Action<T, TagGiver>? Tags { get; init; }

    /// <inheritdoc/>
    public override bool CanBegin => Begins is not null;

    /// <inheritdoc/>
    public override ProjectRecord? Begin(RecordId id, string name, ProjectRecord owner) => Begins?.Invoke(id, name, owner);

    /// <inheritdoc/>
    public override ProjectRecord Settle(ProjectRecord? before, ProjectRecord now) => Settles?.Invoke((T?)before, (T)now) ?? now;

    /// <inheritdoc/>
    public override ProjectRecord TakeBack(ProjectRecord runs, ProjectRecord design, Func<RecordId, bool> runsThere) => TakesBack?.Invoke((T)runs, (T)design, runsThere) ?? runs;

    /// <inheritdoc/>
    public override ProjectRecord NumberedAnew(Project project, ProjectRecord record, ISet<string> taken) => Numbered?.Invoke(project, (T)record, taken) ?? record;

    /// <inheritdoc/>
    public override ProjectRecord LeftOpen(ProjectRecord record, Func<string, bool>? isTold) =>
        OnlyOnce.Where(o => isTold?.Invoke(o.Field) != true).Aggregate((T)record, (r, o) => o.Without(r));

    /// <inheritdoc/>
    public override IEnumerable<Finding> Check(Project project, ProjectRecord record) => Checks?.Invoke(project, (T)record) ?? [];

    /// <inheritdoc/>
    public override void Tag(ProjectRecord record, TagGiver tags) => Tags?.Invoke((T)record, tags);
}
