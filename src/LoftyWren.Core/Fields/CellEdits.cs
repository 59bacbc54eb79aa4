using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Fields;

/// <summary>A text to be read into one field of one record. For a record that is not there yet, its kind and its owner.</summary>
/// <param name="Id">The record.</param>
/// <param name="Field">The key of the field.</param>
/// <param name="Text">What was typed, pasted or filled in.</param>
/// <param name="From">The revision of the record that whoever typed was looking at; null skips the question.</param>
/// <param name="Kind">The key of the kind, for a new record.</param>
/// <param name="OwnerId">What it belongs to, for a new record.</param>
public sealed record CellEdit(RecordId Id, string Field, string Text, long? From = null, string? Kind = null, RecordId? OwnerId = null);

/// <summary>One field before and after, in words; of a new record before is null.</summary>
public sealed record CellChange(RecordId Id, string Name, string Field, string Label, string? Before, string After);

/// <summary>What some cells come to: the edits, the changes, and why some cannot be taken.</summary>
public sealed record CellPlan(IReadOnlyList<Edit> Edits, IReadOnlyList<CellChange> Changes, IReadOnlyList<Refusal> Refusals)
{
    /// <summary>The changes in words: a line a field, a line for each new record.</summary>
    public IEnumerable<string> Lines => Changes.GroupBy(c => c.Id).SelectMany(of => of.First().Before is null
        ? [$"+ {of.First().Name}: {string.Join(' ', of.Where(c => c.Field != CommonFields.Name.Key).Select(c => c.After))}"]
        : of.Select(c => $"{c.Name}, {c.Label.ToLowerInvariant()}: {Or(c.Before!)} → {Or(c.After)}"));

    private static string Or(string text) => text.Length == 0 ? "none" : text;
}

/// <summary>
/// Turns texts in cells into edits: the one way from a grid, a form or the clipboard to the project. Fields of one record are
/// read in the order of its kind, links when all records have been, so that rows may lead to each other.
/// </summary>
public static class CellEdits
{
    /// <summary>The most cells read at once.</summary>
    public const int Most = 100_000;

    /// <summary>Works out what the cells come to. Nothing is changed.</summary>
    /// <param name="project">The project as it is.</param>
    /// <param name="cells">The texts.</param>
    /// <param name="past">A record as it was at a revision of its own; asked where somebody else changed a record of a kind whose fields are edited side by side.</param>
    public static CellPlan Plan(Project project, IReadOnlyList<CellEdit> cells, Func<RecordId, long, ProjectRecord?>? past = null)
    {
        var refusals = new List<Refusal>();
        if (cells.Count > Most) return new CellPlan([], [], [new Refusal(default, "cells", $"At most {Most:N0} cells are written at once; these are {cells.Count:N0}. Import a list instead.")]);
        var rows = new List<Row>();
        var free = new FreeNumbers(project);
        foreach (var cellsOfOne in cells.GroupBy(c => c.Id))
        {
            if (Begin(project, cellsOfOne.ToList(), free, refusals) is not { } row) continue;
            rows.Add(row);
            Read(project, row, links: false, refusals);
        }
        if (rows.Any(r => r.Cells.Any(c => c.Field.IsLink)))
        {
            Project with = project.With(project.Revision, rows.Select(r => r.Now), []);
            foreach (Row row in rows) Read(with, row, links: true, refusals);
        }
        var edits = new List<Edit>();
        var changes = new List<CellChange>();
        foreach (Row row in rows)
        {
            row.Now = row.Kind.Settle(row.Before, row.Now);
            if (RecordJson.Same(row.Before, row.Now)) continue;
            edits.Add(Edit.Of(row.Now, From(project, row, past)));
        }
        Project after = project.With(project.Revision, rows.Select(r => r.Now), []);
        foreach (Row row in rows)
        {
            foreach (Field field in row.Kind.Offered(FieldUses.Grid | FieldUses.Form))
            {
                if (!field.IsOf(row.Now) || (row.Before is null && field.IsShown)) continue;
                string? was = row.Before is null ? null : field.Say(project, row.Before);
                string now = field.Say(after, row.Now);
                if (was != now && !(was is null && now.Length == 0)) changes.Add(new CellChange(row.Now.Id, row.Before?.Name ?? row.Now.Name, field.Key, field.LabelOn(row.Now), was, now));
            }
        }
        return new CellPlan(refusals.Count > 0 ? [] : edits, changes, refusals);
    }

    private static Row? Begin(Project project, List<CellEdit> cells, FreeNumbers free, List<Refusal> refusals)
    {
        CellEdit first = cells[0];
        Entry? entry = project.FindEntry(first.Id);
        RecordKind? kind = entry is not null ? RecordKinds.Of(entry.Record) : first.Kind is { } key ? RecordKinds.Find(key) : null;
        if (kind is null)
        {
            refusals.Add(new Refusal(first.Id, first.Field, first.Kind is { } unknown ? $"There is no kind of record called ‘{unknown}’." : "This record is no longer in the project."));
            return null;
        }
        var read = new List<(Field Field, string Text)>();
        foreach (CellEdit cell in cells)
        {
            if (kind.Field(cell.Field) is not { } field) refusals.Add(new Refusal(cell.Id, cell.Field, $"A {kind.Nouns[0].Noun} has no field ‘{cell.Field}’."));
            else read.Add((field, cell.Text));
        }
        if (entry is null)
        {
            string name = cells.LastOrDefault(c => c.Field == CommonFields.Name.Key)?.Text.Trim() ?? "";
            ProjectRecord? begun = first.OwnerId is { } owner && project.Find(owner) is { } of ? kind.Begin(first.Id, name, of) : null;
            if (begun is null)
            {
                refusals.Add(new Refusal(first.Id, "", $"Such a record ({kind.Nouns[0].Noun}) cannot be added here by its name alone. Choose what it belongs to, or add it on its own page."));
                return null;
            }
            return new Row(kind, null, free.Give(begun, field => read.Any(r => r.Field.Key == field)), 0, read);
        }
        return new Row(kind, entry.Record, entry.Record, first.From, read);
    }

    /// <summary>
    /// The revision that an edit stands on. Where the fields of a record are edited side by side, only those count that the edit
    /// changes, those that follow from what was written among them: none of them may be another than its author saw.
    /// </summary>
    private static long? From(Project project, Row row, Func<RecordId, long, ProjectRecord?>? past)
    {
        if (row.Before is not { } now || row.Kind.Grain != ConflictGrain.Field || row.From is not { } seen || past is null) return row.From;
        long revision = project.FindEntry(now.Id)!.Revision;
        if (seen == revision || past(now.Id, seen) is not { } was) return row.From;
        bool isApart = row.Kind.Fields.Prepend(CommonFields.Name).Where(f => !f.IsShown && f.Write(project, now) != f.Write(project, row.Now)).All(f => f.Write(project, was) == f.Write(project, now));
        return isApart ? revision : seen;
    }

    private static void Read(Project project, Row row, bool links, List<Refusal> refusals)
    {
        foreach (var (field, text) in row.Cells.Where(c => c.Field.IsLink == links).OrderBy(c => c.Field == CommonFields.Name ? 0 : c.Field.IsFirst ? 1 : 2))
        {
            FieldReading reading = field.Read(project, row.Now, text);
            if (reading.Record is { } now) row.Now = now;
            else refusals.Add(new Refusal(row.Now.Id, field.Key, $"{field.LabelOn(row.Now)} of ‘{row.Now.Name}’: {reading.Refusal}"));
        }
    }

    private sealed class Row(RecordKind kind, ProjectRecord? before, ProjectRecord now, long? from, List<(Field Field, string Text)> cells)
    {
        public RecordKind Kind { get; } = kind;

        public ProjectRecord? Before { get; } = before;

        public ProjectRecord Now { get; set; } = now;

        public long? From { get; } = from;

        public List<(Field Field, string Text)> Cells { get; } = cells;
    }
}
