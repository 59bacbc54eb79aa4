using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>One put or removal. Exactly one of <see cref="Put"/> and <see cref="Remove"/> is given.</summary>
public sealed record Edit
{
    /// <summary>The record to write, new or changed.</summary>
    public ProjectRecord? Put { get; init; }

    /// <summary>The record to take out.</summary>
    public RecordId? Remove { get; init; }

    /// <summary>The revision of the record the author was looking at; 0 for a record that was not there. Null skips the question.</summary>
    public long? From { get; init; }

    /// <summary>A put of a record seen at a revision.</summary>
    public static Edit Of(ProjectRecord record, long? from = null) => new() { Put = record, From = from };

    /// <summary>A removal of a record seen at a revision.</summary>
    public static Edit Removing(RecordId id, long? from = null) => new() { Remove = id, From = from };
}

/// <summary>Everything one action changes, with who, when and a label in words. Accepted whole or refused whole.</summary>
public sealed record ChangeSet(IReadOnlyList<Edit> Edits, string Author, long AtMilliseconds, string? Label = null);

/// <summary>One record before and after a change set; null stands for absent.</summary>
public sealed record RecordChange(RecordId Id, ProjectRecord? Before, long BeforeRevision, ProjectRecord? After);

/// <summary>An accepted change set as the journal keeps it.</summary>
public sealed record JournalEntry(long Revision, long AtMilliseconds, string Author, string Label, IReadOnlyList<RecordChange> Changes, JournalKind Kind = JournalKind.Edit, long? Of = null);

/// <summary>Whether a journal entry is an edit, or takes one back, or makes it again.</summary>
public enum JournalKind
{
    /// <summary>An ordinary edit.</summary>
    Edit,
    /// <summary>Took the entry <see cref="JournalEntry.Of"/> back.</summary>
    Undo,
    /// <summary>Made again what the undo <see cref="JournalEntry.Of"/> had taken back.</summary>
    Redo,
}

/// <summary>Somebody else changed a record since the author saw it: both versions, and where they differ (before: theirs, after: yours).</summary>
public sealed record Conflict(RecordId RecordId, ProjectRecord? Theirs, long TheirRevision, ProjectRecord? Yours, IReadOnlyList<FieldDifference> Fields);

/// <summary>What became of a change set: accepted, refused with reasons, or in conflict.</summary>
public sealed record ChangeOutcome(Project? After, JournalEntry? Entry, IReadOnlyList<Refusal> Refusals, IReadOnlyList<Conflict> Conflicts)
{
    /// <summary>Whether it was accepted.</summary>
    public bool Accepted => After is not null;
}

/// <summary>What a change set would come to on one state of the project: a plan that need not be worked out again while that is still the state.</summary>
public sealed record PlannedOutcome(Project On, ChangeOutcome Outcome)
{
    /// <summary>The outcome as an author's own, at a time, by a label.</summary>
    public ChangeOutcome By(string author, long atMilliseconds, string label) => Outcome with { Entry = Outcome.Entry! with { Author = author, AtMilliseconds = atMilliseconds, Label = label } };
}

/// <summary>The one way a project changes.</summary>
public static class Changes
{
    /// <summary>The most edits one change set may carry.</summary>
    public const int MostEdits = 200_000;

    /// <summary>The most characters of what a change set is called.</summary>
    public const int MostLabel = 500;

    /// <summary>
    /// Validates a change set against the whole project and answers the new project, or why not. Nothing is changed in place.
    /// With <paramref name="past"/>, which gives a record as it was at a revision, what two people changed side by side in one
    /// record goes together where its kind allows it; where what comes of that cannot be, it is a conflict like any other.
    /// </summary>
    public static ChangeOutcome Apply(Project before, ChangeSet change, JournalKind kind = JournalKind.Edit, long? of = null, Func<RecordId, long, ProjectRecord?>? past = null)
    {
        var refusals = new List<Refusal>();
        if (change.Edits.Count == 0) return Refuse(new Refusal(default, "edits", "There is nothing to change."));
        if (RefuseLabel(change.Label) is { } unfit) return Refuse(unfit);
        if (change.Edits.Count > MostEdits) return Refuse(new Refusal(default, "edits", $"One change set carries at most {MostEdits} edits; this one has {change.Edits.Count}."));

        var puts = new Dictionary<RecordId, ProjectRecord>(change.Edits.Count);
        var removes = new HashSet<RecordId>();
        List<Conflict> conflicts = [], merged = [];
        foreach (Edit edit in change.Edits)
        {
            if ((edit.Put is null) == (edit.Remove is null)) return Refuse(new Refusal(default, "edits", "Each edit either puts a record or removes one."));
            RecordId id = edit.Put?.Id ?? edit.Remove!.Value;
            if (puts.ContainsKey(id) || removes.Contains(id)) return Refuse(new Refusal(id, "edits", $"The record {id} is edited twice in one change set."));
            Entry? current = before.FindEntry(id);
            ProjectRecord? mine = edit.Put;
            if (edit.From is { } from && from != (current?.Revision ?? 0))
            {
                Merged? both = current is not null && mine is not null && RecordKinds.Of(mine).Grain == ConflictGrain.Part && past?.Invoke(id, from) is { } was ? Merging.Of(was, current.Record, mine) : null;
                mine = both?.Record ?? mine;
                (both is { Clashes.Count: 0 } ? merged : conflicts).Add(new Conflict(id, current?.Record, current?.Revision ?? 0, mine, current is null || mine is null ? [] : Differences.Fields(current.Record, mine, before.Find)));
            }
            if (mine is { } put)
            {
                if (current is not null && current.Record.GetType() != put.GetType()) return Refuse(new Refusal(id, "type", $"‘{current.Record.Name}’ is a record of the sort {current.Record.Noun}; it cannot become one of the sort {put.Noun}."));
                puts.Add(id, put);
            }
            else if (current is null) return Refuse(new Refusal(id, "edits", "This record is no longer in the project."));
            else removes.Add(id);
        }
        if (conflicts.Count > 0) return new ChangeOutcome(null, null, [], conflicts);

        long revision = before.Revision + 1;
        Project after = before.With(revision, puts.Values, removes, refusals);
        var leaning = new Dictionary<RecordId, (ProjectRecord Record, List<RecordId> On)>();
        foreach (ProjectRecord put in puts.Values)
        {
            foreach (Refusal refusal in put.CheckReferences(after, before.Find(put.Id))) refusals.Add(refusal);
            foreach (Refusal refusal in put.Check(after)) refusals.Add(refusal);
            RecordTexts.Check(put, refusals);
            // A changed record may make those that lean on it wrong: a point's unit, a controller's model.
            if (before.Find(put.Id) is not { } was || put.IsAlikeFromOutside(was)) continue;
            foreach (ProjectRecord referrer in after.Referrers(put.Id))
            {
                if (puts.ContainsKey(referrer.Id)) continue;
                if (!leaning.TryGetValue(referrer.Id, out var lean)) leaning[referrer.Id] = lean = (referrer, []);
                lean.On.Add(put.Id);
            }
        }
        foreach (var (record, on) in leaning.Values) refusals.AddRange(record.CheckAgainst(after, on));
        foreach (RecordId id in removes)
        {
            foreach (ProjectRecord referrer in after.Referrers(id))
                refusals.Add(new Refusal(referrer.Id, "", $"‘{before.Find(id)!.Name}’ cannot go while {referrer.Noun} ‘{referrer.Name}’ still uses it."));
        }
        if (refusals.Count > 0) return merged.Count > 0 ? new ChangeOutcome(null, null, [], merged) : new ChangeOutcome(null, null, refusals, []);

        var changes = new List<RecordChange>(puts.Count + removes.Count);
        foreach (ProjectRecord put in puts.Values)
        {
            Entry? was = before.FindEntry(put.Id);
            changes.Add(new RecordChange(put.Id, was?.Record, was?.Revision ?? 0, put));
        }
        foreach (RecordId id in removes)
        {
            Entry was = before.FindEntry(id)!;
            changes.Add(new RecordChange(id, was.Record, was.Revision, null));
        }
        string label = string.IsNullOrWhiteSpace(change.Label) ? ChangeLabel.Describe(before, after, changes) : change.Label.Trim();
        return new ChangeOutcome(after, new JournalEntry(revision, change.AtMilliseconds, change.Author, label, changes, kind, of), [], []);

        static ChangeOutcome Refuse(Refusal refusal) => new(null, null, [refusal], []);
    }

    /// <summary>Why a change cannot be called so, or null.</summary>
    public static Refusal? RefuseLabel(string? label) => label is { Length: > MostLabel } || label?.Any(char.IsControl) == true
        ? new Refusal(default, "label", $"What a change is called has at most {MostLabel} characters, in one line.") : null;

    /// <summary>
    /// The edits that take a journal entry back. Refused when a later change rests on it: each such record is named
    /// with what it is now, since taking back must never silently take more.
    /// </summary>
    public static (IReadOnlyList<Edit> Edits, IReadOnlyList<Refusal> Refusals) Inverse(Project now, JournalEntry entry)
    {
        var edits = new List<Edit>();
        var refusals = new List<Refusal>();
        foreach (RecordChange change in entry.Changes)
        {
            Entry? current = now.FindEntry(change.Id);
            if (!RecordJson.Same(current?.Record, change.After))
            {
                // What was changed since in other parts stays.
                if (current is not null && change is { After: { } after, Before: { } was } && Merging.Of(after, current.Record, was) is { Clashes.Count: 0 } apart)
                {
                    edits.Add(Edit.Of(apart.Record, current.Revision));
                    continue;
                }
                string name = current?.Record.Name ?? change.After?.Name ?? change.Before?.Name ?? change.Id.Value;
                string noun = (current?.Record ?? change.After ?? change.Before)?.Noun ?? "record";
                refusals.Add(new Refusal(change.Id, "", current is null
                    ? $"The {noun} ‘{name}’ has been removed since; bring it back first."
                    : $"The {noun} ‘{name}’ was changed again since, at revision {current.Revision}; undo that first."));
            }
            else if (change.Before is { } back) edits.Add(Edit.Of(back, current?.Revision ?? 0));
            else edits.Add(Edit.Removing(change.Id, current?.Revision ?? 0));
        }
        return (refusals.Count > 0 ? [] : edits, refusals);
    }
}
