using System.Diagnostics.CodeAnalysis;
using System.Runtime.InteropServices;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.PointLists;

/// <summary>What a row comes to.</summary>
public enum RowVerdict
{
    /// <summary>It adds a record or more.</summary>
    Adds,
    /// <summary>It changes what is there.</summary>
    Changes,
    /// <summary>All it says is so already.</summary>
    Same,
    /// <summary>It cannot be taken as it is.</summary>
    Bad,
}

/// <summary>A cell that cannot be taken: sheet, row (from 1), column letters, and what would be right.</summary>
public sealed record BadCell(string Sheet, int Row, string Column, string Sentence);

/// <summary>One row of a list and what it comes to, in words.</summary>
public sealed record ImportLine(int Row, RowVerdict Verdict, string Words);

/// <summary>Exactly what an import would do. The edits are those of the good rows; the counts say them in words.</summary>
public sealed record ImportPlan(IReadOnlyList<Edit> Edits, IReadOnlyList<ImportLine> Lines, IReadOnlyList<BadCell> BadCells, IReadOnlyList<string> Counts)
{
    /// <summary>What the edits come to, for whoever applies them to the same state; null when there are none.</summary>
    public PlannedOutcome? Planned { get; init; }

    /// <summary>How many rows came to this.</summary>
    public int Count(RowVerdict verdict) => Lines.Count(l => l.Verdict == verdict);
}

/// <summary>Equipment that a row asks to be placed from a template, with the id it shall have and the values it names; answers its records, or a sentence why not.</summary>
public delegate (IReadOnlyList<ProjectRecord> Records, string? Refusal) PlaceTemplate(string template, string equipmentName, Place room, RecordId? id, string? values);

/// <summary>
/// Turns a list into edits: places, equipment, points and what else lists hold are found by their names, made where they are
/// missing, changed where a filled cell says otherwise. An empty cell says nothing. What leads to another record is read
/// when all rows have been, so that rows lead to each other whatever their order. Importing the same list twice changes
/// nothing.
/// </summary>
public sealed class ListImport
{
    private readonly Project _project;
    private readonly Sheet _sheet;
    private readonly ListMapping _mapping;
    private readonly PlaceTemplate? _place;
    private readonly Dictionary<string, RecordId> _byKey;
    private readonly Dictionary<RecordId, ProjectRecord> _now;
    private readonly Dictionary<RecordId, ProjectRecord> _thisRow = [];
    private readonly List<string> _keysOfThisRow = [];
    private readonly Dictionary<RecordId, int> _rowOf;
    private readonly List<BadCell> _bad = [];
    private readonly HashSet<int> _skip;
    private readonly FreeNumbers _free;
    private readonly (RecordId Parent, string? Name, string Key)[] _lastPlace = new (RecordId, string?, string)[Enum.GetValues<PlaceKind>().Length];
    private readonly ListColumn?[] _columns;
    private readonly List<(RecordId Id, Field Field, ListColumn Column, string Text, int Row)> _links = [];
    private readonly Dictionary<int, string> _refusedLinks = [];
    private Action<int>? _progress;
    private int _row;

    private ListImport(Project project, Sheet sheet, ListMapping mapping, PlaceTemplate? place, HashSet<int> skip)
    {
        _project = project;
        _sheet = sheet;
        _mapping = mapping;
        _place = place;
        _skip = skip;
        _free = new FreeNumbers(project);
        _columns = [.. mapping.Columns.Select(c => c == ListColumns.None ? null : ListColumns.Find(c))];
        (_byKey, _now, _rowOf) = (new(sheet.Rows.Count), new(sheet.Rows.Count), new(sheet.Rows.Count));
    }

    /// <summary>Works out what a list would do to a project. Nothing is changed. <paramref name="progress"/> is told the row now and then, and may throw to stop.</summary>
    public static ImportPlan Plan(Project project, Sheet sheet, ListMapping mapping, PlaceTemplate? place = null, Action<int>? progress = null)
    {
        if (mapping.Columns.Select((key, at) => (key, at)).FirstOrDefault(c => c.key != ListColumns.None && ListColumns.Find(c.key) is null) is { key: { } unknown } column)
            return new ImportPlan([], [], [new BadCell(sheet.Name, mapping.HeaderRow + 1, Sheet.Letters(column.at), $"‘{unknown}’ is nothing that a column can say. Choose again what this column says.")], []);
        var skip = new HashSet<int>();
        var refused = new List<BadCell>();
        // A row can be right by itself and refused by the project; it is then left out and the rest tried again.
        for (int round = 0; ; round++)
        {
            var import = new ListImport(project, sheet, mapping, place, skip) { _progress = progress };
            ImportPlan plan = import.Work();
            if (import._refusedLinks.Count > 0)
            {
                // A row is taken whole or not at all; what leads nowhere is only known when all have been read.
                foreach (int row in import._refusedLinks.Keys) skip.Add(row);
                refused.AddRange(import._bad.Where(b => import._refusedLinks.ContainsKey(b.Row - 1) && !refused.Contains(b)));
                continue;
            }
            if (plan.Edits.Count == 0) return plan with { BadCells = Ordered(refused, plan.BadCells) };
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(plan.Edits, "import", 0, "Imported"));
            if (outcome.Accepted) return plan with { BadCells = Ordered(refused, plan.BadCells), Planned = new PlannedOutcome(project, outcome) };
            int before = skip.Count;
            foreach (Refusal refusal in outcome.Refusals)
            {
                int row = import._rowOf.GetValueOrDefault(refusal.RecordId, -1);
                if (row < 0 || !skip.Add(row)) continue;
                refused.Add(new BadCell(sheet.Name, row + 1, import.ColumnOf(refusal.RecordId, refusal.Field), refusal.Sentence));
            }
            if (skip.Count == before || round > 50)
            {
                string why = outcome.Refusals.Count > 0 ? outcome.Refusals[0].Sentence : "Somebody else is changing the same records.";
                return plan with { Edits = [], BadCells = [.. refused, new BadCell(sheet.Name, 0, "", why)] };
            }
        }

        static IReadOnlyList<BadCell> Ordered(List<BadCell> a, IReadOnlyList<BadCell> b) => [.. a.Concat(b).OrderBy(c => c.Row)];
    }

    private ImportPlan Work()
    {
        var lines = new List<ImportLine>(_sheet.Rows.Count);
        var above = new Dictionary<ListColumn, string>();
        var cells = new RowCells();
        var words = new List<string>();
        for (_row = _mapping.HeaderRow + 1; _row < _sheet.Rows.Count; _row++)
        {
            if (_row % 200 == 0) _progress?.Invoke(_row);
            if (_sheet.Rows[_row].All(string.IsNullOrWhiteSpace)) continue;
            if (_skip.Contains(_row))
            {
                lines.Add(new ImportLine(_row + 1, RowVerdict.Bad, "The project does not take it"));
                continue;
            }
            cells.Clear();
            for (int c = 0; c < _columns.Length; c++)
            {
                if (_columns[c] is { } column && _sheet.Cell(_row, c) is { Length: > 0 } cell) cells[column] = Translate(column, cell);
            }
            FillFromAbove(cells, above);
            int bad = _bad.Count;
            words.Clear();
            bool added = false, changed = false;
            _thisRow.Clear();
            _keysOfThisRow.Clear();
            Read(cells);
            if (_bad.Count == bad && _thisRow.Count == 0) Bad(_columns.FirstOrDefault(c => c is not null), "This row names no place, no equipment and no point.");
            if (_bad.Count > bad)
            {
                // Nothing of a bad row is taken, neither now nor by a later row that names the same records.
                foreach (string key in _keysOfThisRow) _byKey.Remove(key);
                lines.Add(new ImportLine(_row + 1, RowVerdict.Bad, _bad[bad].Sentence));
                continue;
            }
            foreach (ProjectRecord write in _thisRow.Values)
            {
                ProjectRecord? before = _now.GetValueOrDefault(write.Id) ?? _project.Find(write.Id);
                if (before is null) added = true;
                else if (!RecordJson.Same(before, write)) changed = true;
                else continue;
                words.Add(before is null ? $"adds {write.Noun} ‘{write.Name}’" : $"changes {write.Noun} ‘{write.Name}’: {string.Join(", ", Differences.Fields(before, write, _project.Find).Take(3).Select(f => $"{f.Words} {f.Before ?? "none"} → {f.After ?? "none"}"))}");
                _now[write.Id] = write;
                _rowOf.TryAdd(write.Id, _row);
            }
            lines.Add(new ImportLine(_row + 1, added ? RowVerdict.Adds : changed ? RowVerdict.Changes : RowVerdict.Same, words.Count switch { 0 => "is so already", 1 => words[0], _ => string.Join("; ", words.Take(6)) }));
        }
        Lead(lines);
        var edits = new List<Edit>(_now.Count);
        var made = new Dictionary<(string Verb, string Noun), int>();
        foreach (ProjectRecord record in _now.Values)
        {
            Entry? before = _project.FindEntry(record.Id);
            if (RecordJson.Same(before?.Record, record)) continue;
            edits.Add(Edit.Of(record, before?.Revision ?? 0));
            CollectionsMarshal.GetValueRefOrAddDefault(made, (before is null ? "adds" : "changes", record.Noun), out _)++;
        }
        List<string> counts = [.. made.OrderBy(g => g.Key.Verb).Select(g => $"{g.Key.Verb} {ChangeLabel.Count(g.Value, g.Key.Noun)}")];
        return new ImportPlan(edits, lines, _bad, counts);
    }

    private void FillFromAbove(RowCells cells, Dictionary<ListColumn, string> above)
    {
        if (_mapping.BlankIsAbove)
        {
            foreach (ListColumn column in (ListColumn[])[ListColumns.Building, ListColumns.Floor, ListColumns.Room])
            {
                if (cells.TryGetValue(column, out string? named))
                {
                    above[column] = named;
                    // A new floor begins: the room above was on another one.
                    if (column == ListColumns.Floor) above.Remove(ListColumns.Room);
                    if (column == ListColumns.Building)
                    {
                        above.Remove(ListColumns.Floor);
                        above.Remove(ListColumns.Room);
                    }
                }
                else if (above.TryGetValue(column, out string? before)) cells[column] = before;
            }
        }
        if (!cells.ContainsKey(ListColumns.Building) && _mapping.Building is { Length: > 0 } one) cells[ListColumns.Building] = one;
    }

    /// <summary>The names of places, outermost first.</summary>
    private static readonly (ListColumn Column, PlaceKind Kind)[] PlaceColumns = [(ListColumns.Building, PlaceKind.Building), (ListColumns.Floor, PlaceKind.Floor), (ListColumns.Room, PlaceKind.Room)];

    /// <summary>The kinds whose records a row can be about, innermost first.</summary>
    private static readonly RecordKind[] RowKinds = [.. RecordKinds.All.Where(k => k.IsListed).Reverse()];

    private static readonly ListColumn[] Abouts = [.. RowKinds.Select(ListColumns.Of), .. PlaceColumns.Select(p => p.Column).Reverse()];

    private void Read(RowCells cells)
    {
        if (_project.Site is not { } site)
        {
            Bad(ListColumns.Building, "The project has no site yet. Name the site first.");
            return;
        }
        // An id is that of the innermost record the row names.
        ListColumn? about = Abouts.FirstOrDefault(cells.ContainsKey);
        RecordId? id = null;
        if (cells.TryGetValue(ListColumns.Id, out string? idText))
        {
            if (!RecordId.IsValid(idText))
            {
                Bad(ListColumns.Id, $"‘{idText}’ is no id: it has 1 to 64 small letters, digits and hyphens. Leave the cell empty for a new record.");
                return;
            }
            id = new RecordId(idText);
            if (ById(id.Value) is { } there && there.GetType() != (about?.Kind?.Type ?? typeof(Place)))
            {
                Bad(ListColumns.Id, $"The id {idText} belongs to the {there.Noun} ‘{there.Name}’, which this row is not about.");
                return;
            }
        }
        RecordId? IdOf(ListColumn column) => column == about ? id : null;
        Place? place = null;
        foreach (var (column, kind) in PlaceColumns)
        {
            if (!cells.TryGetValue(column, out string? name))
            {
                if (kind == PlaceKind.Building && _project.Referrers<Place>(site.Id).Where(p => p.Kind == PlaceKind.Building).Take(2).ToList() is [var only]) place = only;
                continue;
            }
            Place? parent = kind == PlaceKind.Building ? site : place?.Kind == kind - 1 ? place : null;
            if (parent is null)
            {
                Bad(column, kind == PlaceKind.Floor ? $"‘{name}’ is a floor, but of which building? Fill the building's column, or name one building for the whole list." : $"‘{name}’ is a room, but on which floor? Fill the floor's column.");
                return;
            }
            place = PlaceAt(kind, parent, name, cells, column == about, IdOf(column));
        }
        ProjectRecord? inner = place;
        var owners = new List<ProjectRecord>();
        if (place is not null) owners.Add(place);
        if (cells.ContainsKey(ListColumns.Template) && !cells.ContainsKey(ListColumns.Of(Equipment.AsKind))) Bad(ListColumns.Template, "A template needs the name of the equipment to be placed. Fill the equipment's column.");
        for (int i = RowKinds.Length - 1; i >= 0; i--)
        {
            RecordKind kind = RowKinds[i];
            ListColumn column = ListColumns.Of(kind);
            if (!cells.TryGetValue(column, out string? name)) continue;
            if (Named(kind, name, column, cells, owners, IdOf(column)) is not { } record) return;
            owners.Insert(0, record);
        }
    }

    private Place PlaceAt(PlaceKind kind, Place parent, string name, RowCells cells, bool isAbout, RecordId? id)
    {
        // Rows of one room follow each other.
        ref var last = ref _lastPlace[(int)kind];
        if (last.Parent != parent.Id || last.Name != name) last = (parent.Id, name, $"place|{parent.Id}|{name.ToLowerInvariant()}");
        string key = last.Key;
        Place place = Meant<Place>(key, id) ?? new Place { Id = id ?? RecordId.New(kind.ToString().ToLowerInvariant()), Name = name, Kind = kind, In = parent.Id };
        if (id is not null) place = place with { Name = name, In = parent.Id };
        if (kind == PlaceKind.Floor && cells.TryGetValue(ListColumns.Level, out string? level) && Whole(ListColumns.Level, level) is { } at) place = place with { Order = at };
        if (isAbout && cells.TryGetValue(ListColumns.Position, out string? position) && Whole(ListColumns.Position, position) is { } order) place = place with { Order = order };
        // A short name in a row about equipment or a point is still that of its room.
        if (isAbout || kind == PlaceKind.Room) place = (Place)Filled(Place.AsKind, place, cells);
        return Write(key, place);
    }

    /// <summary>The record of a kind that a row names, made or changed by its cells; null where it cannot be.</summary>
    private ProjectRecord? Named(RecordKind kind, string name, ListColumn column, RowCells cells, List<ProjectRecord> owners, RecordId? id)
    {
        string noun = kind.Nouns[0].One ?? kind.Nouns[0].Noun;
        ProjectRecord? begun = null, owner = null;
        foreach (ProjectRecord one in owners)
        {
            if ((begun = kind.Begin(id ?? NoId, name, owner = one)) is not null) break;
        }
        if (begun is null)
        {
            Bad(column, kind == Equipment.AsKind ? $"‘{name}’ is equipment, but where? Fill a column of its place." : $"‘{name}’ is a {noun}, but of what? Fill a column of its place or its equipment.");
            return null;
        }
        string key = begun.UniqueKeys().Where(k => k.Field == "name").Select(k => k.Key).FirstOrDefault() ?? "";
        ProjectRecord? there = id is { } known ? ById(known) : Known(key, kind.Type);
        if (there is null && kind == Equipment.AsKind && cells.TryGetValue(ListColumns.Template, out string? template) && _place is not null)
        {
            // The kind is that of the template; a cell that says something else is still looked at.
            int wrong = _bad.Count;
            Filled(kind, begun, cells);
            if (_bad.Count > wrong) return null;
            var (records, refusal) = _place(template, name, (Place)owner!, id, cells.GetValueOrDefault(ListColumns.Values));
            if (refusal is not null)
            {
                Bad(ListColumns.Template, refusal);
                return null;
            }
            foreach (ProjectRecord record in records) Write(KeyOf(record), record);
            return records.OfType<Equipment>().First();
        }
        int bad = _bad.Count;
        ProjectRecord now = there is null ? id is null ? begun with { Id = RecordId.New(kind.Key) } : begun : id is null ? there : (there with { Name = name }).MovedTo(owner!.Id);
        now = kind.Settle(there, Filled(kind, now, cells));
        if (_bad.Count > bad) return null;
        if (there is null) now = _free.Give(now, field => kind.Field(field) is { } told && ListColumns.Of(kind, told) is { } of && cells.ContainsKey(of));
        return Write(key, now);
    }

    private static readonly RecordId NoId = new("new");

    /// <summary>A record with what the cells say of it. What cannot be read is told; links wait until all rows have been read.</summary>
    private ProjectRecord Filled(RecordKind kind, ProjectRecord record, RowCells cells)
    {
        foreach (var (field, column) in FieldsOf(kind))
        {
            if (!cells.TryGetValue(column, out string? text) || !field.IsOf(record)) continue;
            if (field.IsLink)
            {
                _links.Add((record.Id, field, column, text, _row));
                continue;
            }
            FieldReading reading = field.Read(_project, record, text);
            if (reading.Record is { } read) record = read;
            else Bad(column, reading.Refusal!);
        }
        return record;
    }

    /// <summary>Leads what waited for all rows: by name beside it or in its room, or by id.</summary>
    private void Lead(List<ImportLine> lines)
    {
        if (_links.Count == 0) return;
        Project with = _project.With(_project.Revision, _now.Values, []);
        var lineOf = new Dictionary<int, int>(lines.Count);
        for (int i = 0; i < lines.Count; i++) lineOf[lines[i].Row - 1] = i;
        foreach (var (id, field, column, text, row) in _links)
        {
            // A row that is not taken writes nothing.
            if ((_now.GetValueOrDefault(id) ?? _project.Find(id)) is not { } record || lines[lineOf[row]].Verdict == RowVerdict.Bad) continue;
            _row = row;
            FieldReading reading = field.Read(with, record, text);
            if (reading.Record is not { } led)
            {
                Bad(column, reading.Refusal!);
                _refusedLinks[row] = reading.Refusal!;
            }
            else if (!RecordJson.Same(led, record))
            {
                _now[id] = led;
                _rowOf.TryAdd(id, row);
                int at = lineOf[row];
                if (lines[at].Verdict == RowVerdict.Same) lines[at] = new ImportLine(row + 1, RowVerdict.Changes, $"changes {led.Noun} ‘{led.Name}’: {field.Label.ToLowerInvariant()} {text}");
            }
        }
    }

    private (Field Field, ListColumn Column)[] FieldsOf(RecordKind kind)
    {
        if (!_fields.TryGetValue(kind, out var fields)) _fields[kind] = fields = [.. kind.Reading.Select(f => (f, ListColumns.Of(kind, f)!)).Where(f => f.Item2 is not null && _columns.Contains(f.Item2))];
        return fields;
    }

    private readonly Dictionary<RecordKind, (Field Field, ListColumn Column)[]> _fields = [];

    private int? Whole(ListColumn column, string text)
    {
        if (FieldTexts.Number(text, out double number) is { } refusal) Bad(column, refusal);
        else if (number == Math.Floor(number) && Math.Abs(number) < 1000) return (int)number;
        else Bad(column, $"‘{text}’ is no level. Write a whole number, with 0 for the ground.");
        return null;
    }

    private string Translate(ListColumn column, string cell) =>
        _mapping.Words.TryGetValue(column.Key, out var words) && words.TryGetValue(cell, out string? ours) ? ours : cell;

    /// <summary>The record of a sort that holds a key, in this list or in the project.</summary>
    private ProjectRecord? Known(string key, Type sort)
    {
        RecordId? id = _byKey.TryGetValue(key, out RecordId mine) ? mine : _project.Holder(key);
        return id is { } known && ById(known) is { } record && record.GetType() == sort ? record : null;
    }

    /// <summary>The record a row means: the one with its id if it names one, else the one of that name.</summary>
    private T? Meant<T>(string key, RecordId? id) where T : ProjectRecord => (id is { } known ? ById(known) : Known(key, typeof(T))) as T;

    private ProjectRecord? ById(RecordId id) => _thisRow.GetValueOrDefault(id) ?? _now.GetValueOrDefault(id) ?? _project.Find(id);

    private T Write<T>(string key, T record) where T : ProjectRecord
    {
        if (key.Length > 0 && _byKey.TryAdd(key, record.Id)) _keysOfThisRow.Add(key);
        _thisRow[record.Id] = record;
        return record;
    }

    private static string KeyOf(ProjectRecord record) => record.UniqueKeys().Select(k => k.Key).FirstOrDefault() ?? "";

    private void Bad(ListColumn? column, string sentence) => _bad.Add(new BadCell(_sheet.Name, _row + 1, ColumnFor(column), sentence));

    private string ColumnFor(ListColumn? column) => column is not null && Array.IndexOf(_columns, column) is >= 0 and int at ? Sheet.Letters(at) : "";

    /// <summary>The column a refused field of a record came from, as well as can be told.</summary>
    private string ColumnOf(RecordId id, string field)
    {
        if ((_now.GetValueOrDefault(id) ?? _project.Find(id)) is not { } record) return "";
        RecordKind kind = RecordKinds.Of(record);
        ListColumn? named = kind == Place.AsKind ? Array.Find(PlaceColumns, p => p.Kind == ((Place)record).Kind).Column : kind.IsListed ? ListColumns.Of(kind) : null;
        // States and unit may have come from a column for both.
        return new[] { kind.Field(field) is { } declared ? ListColumns.Of(kind, declared) : null, kind.Fields.FirstOrDefault(f => f.Key == field || StatesOf(f, field)) is { } like ? ListColumns.Of(kind, like) : null, named }
            .Select(ColumnFor).FirstOrDefault(c => c.Length > 0) ?? "";

        static bool StatesOf(Field field, string refused) => refused == "stateTexts" && field.Key == "states";
    }

    /// <summary>The filled cells of one row, by what they say.</summary>
    private sealed class RowCells
    {
        private readonly string?[] _texts = new string?[ListColumns.All.Count];

        public string this[ListColumn column]
        {
            set => _texts[column.Index] = value;
        }

        public bool ContainsKey(ListColumn column) => _texts[column.Index] is not null;

        public bool TryGetValue(ListColumn column, [NotNullWhen(true)] out string? text) => (text = _texts[column.Index]) is not null;

        public string? GetValueOrDefault(ListColumn column) => _texts[column.Index];

        public void Clear() => Array.Clear(_texts);
    }
}
