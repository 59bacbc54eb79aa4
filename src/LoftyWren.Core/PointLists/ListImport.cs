using System.Diagnostics.CodeAnalysis;
using System.Globalization;
using System.Runtime.InteropServices;
using System.Text.RegularExpressions;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;

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
/// Turns a list into edits: places, equipment and points are found by their names, made where they are missing, changed
/// where a filled cell says otherwise. An empty cell says nothing. Importing the same list twice changes nothing.
/// </summary>
public sealed partial class ListImport
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
    private readonly (RecordId Parent, string? Name, string Key)[] _lastPlace = new (RecordId, string?, string)[Enum.GetValues<PlaceKind>().Length];
    private Action<int>? _progress;
    private int _row;

    private ListImport(Project project, Sheet sheet, ListMapping mapping, PlaceTemplate? place, HashSet<int> skip)
    {
        _project = project;
        _sheet = sheet;
        _mapping = mapping;
        _place = place;
        _skip = skip;
        (_byKey, _now, _rowOf) = (new(sheet.Rows.Count), new(sheet.Rows.Count), new(sheet.Rows.Count));
    }

    /// <summary>Works out what a list would do to a project. Nothing is changed. <paramref name="progress"/> is told the row now and then, and may throw to stop.</summary>
    public static ImportPlan Plan(Project project, Sheet sheet, ListMapping mapping, PlaceTemplate? place = null, Action<int>? progress = null)
    {
        var skip = new HashSet<int>();
        var refused = new List<BadCell>();
        // A row can be right by itself and refused by the project; it is then left out and the rest tried again.
        for (int round = 0; ; round++)
        {
            var import = new ListImport(project, sheet, mapping, place, skip) { _progress = progress };
            ImportPlan plan = import.Work();
            if (plan.Edits.Count == 0) return plan with { BadCells = Ordered(refused, plan.BadCells) };
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(plan.Edits, "import", 0, "Imported"));
            if (outcome.Accepted) return plan with { BadCells = Ordered(refused, plan.BadCells), Planned = new PlannedOutcome(project, outcome) };
            int before = skip.Count;
            foreach (Refusal refusal in outcome.Refusals)
            {
                int row = import._rowOf.GetValueOrDefault(refusal.RecordId, -1);
                if (row < 0 || !skip.Add(row)) continue;
                refused.Add(new BadCell(sheet.Name, row + 1, import.ColumnOf(refusal.Field), refusal.Sentence));
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
        var above = new Dictionary<ListField, string>();
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
            for (int c = 0; c < _mapping.Columns.Count; c++)
            {
                string cell = _sheet.Cell(_row, c);
                if (_mapping.Columns[c] != ListField.None && cell.Length > 0) cells[_mapping.Columns[c]] = Translate(_mapping.Columns[c], cell);
            }
            FillFromAbove(cells, above);
            int bad = _bad.Count;
            words.Clear();
            bool added = false, changed = false;
            _thisRow.Clear();
            _keysOfThisRow.Clear();
            Read(cells);
            if (_bad.Count == bad && _thisRow.Count == 0) Bad(_mapping.Columns.FirstOrDefault(c => c != ListField.None), "This row names no place, no equipment and no point.");
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
        Compare();
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

    private void FillFromAbove(RowCells cells, Dictionary<ListField, string> above)
    {
        if (_mapping.BlankIsAbove)
        {
            foreach (ListField field in (ListField[])[ListField.Building, ListField.Floor, ListField.Room])
            {
                if (cells.TryGetValue(field, out string? named))
                {
                    above[field] = named;
                    // A new floor begins: the room above was on another one.
                    if (field == ListField.Floor) above.Remove(ListField.Room);
                    if (field == ListField.Building)
                    {
                        above.Remove(ListField.Floor);
                        above.Remove(ListField.Room);
                    }
                }
                else if (above.TryGetValue(field, out string? before)) cells[field] = before;
            }
        }
        if (!cells.ContainsKey(ListField.Building) && _mapping.Building is { Length: > 0 } one) cells[ListField.Building] = one;
    }

    private void Read(RowCells cells)
    {
        if (_project.Site is not { } site)
        {
            Bad(ListField.Building, "The project has no site yet. Name the site first.");
            return;
        }
        Place? building = null, floor = null, room = null;
        // An id is that of the innermost record the row names.
        ListField about = ((ListField[])[ListField.Point, ListField.Equipment, ListField.Room, ListField.Floor, ListField.Building]).FirstOrDefault(cells.ContainsKey);
        RecordId? id = null;
        if (cells.TryGetValue(ListField.Id, out string? idText))
        {
            if (!RecordId.IsValid(idText))
            {
                Bad(ListField.Id, $"‘{idText}’ is no id: it has 1 to 64 small letters, digits and hyphens. Leave the cell empty for a new record.");
                return;
            }
            id = new RecordId(idText);
            Type sort = about switch { ListField.Point => typeof(Point), ListField.Equipment => typeof(Equipment), _ => typeof(Place) };
            if (ById(id.Value) is { } there && there.GetType() != sort)
            {
                Bad(ListField.Id, $"The id {idText} belongs to the {there.Noun} ‘{there.Name}’, which this row is not about.");
                return;
            }
        }
        RecordId? IdOf(ListField field) => field == about ? id : null;
        int? position = cells.TryGetValue(ListField.Position, out string? order) ? Whole(ListField.Position, order) : null;
        Place Own(ListField field, Place p) => field != about ? p : p with { ShortName = cells.GetValueOrDefault(ListField.ShortName) ?? p.ShortName, Order = position ?? p.Order };
        if (cells.TryGetValue(ListField.Building, out string? name)) building = PlaceAt(PlaceKind.Building, site, name, p => Own(ListField.Building, p), IdOf(ListField.Building));
        else if (_project.Referrers<Place>(site.Id).Where(p => p.Kind == PlaceKind.Building).Take(2).ToList() is [var only]) building = only;
        if (cells.TryGetValue(ListField.Floor, out name))
        {
            if (building is null)
            {
                Bad(ListField.Floor, $"‘{name}’ is a floor, but of which building? Fill the building's column, or name one building for the whole list.");
                return;
            }
            int? level = cells.TryGetValue(ListField.Level, out string? text) ? Whole(ListField.Level, text) : null;
            floor = PlaceAt(PlaceKind.Floor, building, name, p => Own(ListField.Floor, level is { } at ? p with { Order = at } : p), IdOf(ListField.Floor));
        }
        if (cells.TryGetValue(ListField.Room, out name))
        {
            if (floor is null)
            {
                Bad(ListField.Room, $"‘{name}’ is a room, but on which floor? Fill the floor's column.");
                return;
            }
            double? area = cells.TryGetValue(ListField.Area, out string? text) ? Number(ListField.Area, text.Replace("m²", "").Replace("m2", "").Trim()) : null;
            IReadOnlyList<Corner>? outline = cells.TryGetValue(ListField.Outline, out text) ? Corners(text) : null;
            // A short name in a row about equipment or a point is still that of its room.
            room = PlaceAt(PlaceKind.Room, floor, name, p => Own(ListField.Room, p) with { AreaSquareMetres = area ?? p.AreaSquareMetres, Outline = outline ?? p.Outline, ShortName = cells.GetValueOrDefault(ListField.ShortName) ?? p.ShortName }, IdOf(ListField.Room));
        }
        Place? place = room ?? floor ?? building;
        Equipment? equipment = null;
        if (cells.TryGetValue(ListField.Equipment, out name))
        {
            if (place is null)
            {
                Bad(ListField.Equipment, $"‘{name}’ is equipment, but where? Fill a column of its place.");
                return;
            }
            equipment = EquipmentAt(place, name, cells, IdOf(ListField.Equipment));
            if (equipment is null) return;
        }
        else if (cells.ContainsKey(ListField.Template)) Bad(ListField.Template, "A template needs the name of the equipment to be placed. Fill the equipment's column.");
        if (cells.TryGetValue(ListField.Point, out name)) PointOf((ProjectRecord?)equipment ?? place, name, cells, id);
    }

    private Place PlaceAt(PlaceKind kind, Place parent, string name, Func<Place, Place> fill, RecordId? id)
    {
        // Rows of one room follow each other.
        ref var last = ref _lastPlace[(int)kind];
        if (last.Parent != parent.Id || last.Name != name) last = (parent.Id, name, $"place|{parent.Id}|{name.ToLowerInvariant()}");
        string key = last.Key;
        Place place = Named<Place>(key, id) ?? new Place { Id = id ?? RecordId.New(kind.ToString().ToLowerInvariant()), Name = name, Kind = kind, In = parent.Id };
        return Write(key, fill(id is null ? place : place with { Name = name, In = parent.Id }));
    }

    private Equipment? EquipmentAt(Place place, string name, RowCells cells, RecordId? id)
    {
        string key = $"equipment|{place.Id}|{name.ToLowerInvariant()}";
        string? kind = null;
        if (cells.TryGetValue(ListField.EquipmentKind, out string? text))
        {
            kind = Equipment.Kinds.FirstOrDefault(k => k.Equals(text, StringComparison.OrdinalIgnoreCase));
            if (kind is null)
            {
                Bad(ListField.EquipmentKind, $"‘{text}’ is not a kind of equipment. Use one of: {string.Join(", ", Equipment.Kinds)}; or say below what it stands for.");
                return null;
            }
        }
        if (Named<Equipment>(key, id) is { } there) return Write(key, (id is null ? there : there with { Name = name, PlaceId = place.Id }) with { Kind = kind ?? there.Kind });
        if (cells.TryGetValue(ListField.Template, out string? template) && _place is not null)
        {
            var (records, refusal) = _place(template, name, place, id, cells.GetValueOrDefault(ListField.Values));
            if (refusal is not null)
            {
                Bad(ListField.Template, refusal);
                return null;
            }
            foreach (ProjectRecord record in records) Write(KeyOf(record), record);
            return records.OfType<Equipment>().First();
        }
        return Write(key, new Equipment { Id = id ?? RecordId.New("equipment"), Name = name, Kind = kind ?? "other", PlaceId = place.Id });
    }

    private void PointOf(ProjectRecord? owner, string name, RowCells cells, RecordId? id)
    {
        if (owner is null)
        {
            Bad(ListField.Point, $"‘{name}’ is a point, but of what? Fill a column of its place or its equipment.");
            return;
        }
        string key = $"point|{owner.Id}|{name.ToLowerInvariant()}";
        Point? there = Named<Point>(key, id);
        (PointKind Kind, PointRole Role)? type = null;
        if (cells.TryGetValue(ListField.Type, out string? text))
        {
            type = ListWords.Type(text);
            if (type is null) Bad(ListField.Type, $"‘{text}’ is not a type of point. Use AI, AO, AV, DI, DO, BV, MI, MO, MV or SP; or say below what it stands for.");
        }
        string? unit = null;
        if (cells.TryGetValue(ListField.Unit, out text) && text is not ("-" or "–"))
        {
            unit = ListWords.Unit(text);
            if (unit is null) Bad(ListField.Unit, $"‘{text}’ is not a known unit. Use one of: {string.Join(", ", Units.Unit.All.Select(u => u.Symbol))}; or say below what it stands for.");
        }
        string[]? states = cells.TryGetValue(ListField.States, out text) ? text.Split(text.Contains('·') ? ['·'] : ['/', '|', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) : null;
        PointKind? kind = null;
        if (cells.TryGetValue(ListField.Kind, out text) && (kind = ListWords.Kind(text)) is null) Bad(ListField.Kind, $"‘{text}’ is not a kind of point. Use analog, binary or multistate.");
        PointRole? role = null;
        if (cells.TryGetValue(ListField.Role, out text) && (role = ListWords.Role(text)) is null) Bad(ListField.Role, $"‘{text}’ is not a role. Use sensor, command, setpoint or value.");
        PointKind itsKind = kind ?? type?.Kind ?? there?.Kind ?? (states is null ? PointKind.Analog : states.Length == 2 ? PointKind.Binary : PointKind.Multistate);
        PointRole itsRole = role ?? type?.Role ?? there?.Role ?? PointRole.Sensor;
        Point point = there is null ? new Point { Id = id ?? RecordId.New("point"), Name = name, OwnerId = owner.Id, Kind = itsKind, Role = itsRole } : id is null ? there : there with { Name = name, OwnerId = owner.Id };
        IReadOnlyList<string> itsStates = states ?? (itsKind == PointKind.Analog ? [] : point.StateTexts.Count > 0 ? point.StateTexts : itsKind == PointKind.Binary ? ["off", "on"] : point.StateTexts);
        point = point with
        {
            Kind = itsKind,
            Role = itsRole,
            Unit = itsKind == PointKind.Analog ? unit ?? point.Unit : null,
            StateTexts = itsKind == PointKind.Analog ? [] : itsStates,
            Low = cells.TryGetValue(ListField.Low, out text) ? Number(ListField.Low, text) : point.Low,
            High = cells.TryGetValue(ListField.High, out text) ? Number(ListField.High, text) : point.High,
            Fallback = itsRole == PointRole.Sensor ? null : cells.TryGetValue(ListField.Fallback, out text) ? Fallback(text, itsStates, itsKind) : point.Fallback ?? (there is null && itsRole == PointRole.Command && itsKind != PointKind.Multistate ? 0 : null),
            Description = cells.GetValueOrDefault(ListField.Description) ?? point.Description,
            Tags = cells.TryGetValue(ListField.Tags, out text) ? TagsIn(text) : point.Tags,
        };
        Write(key, point);
        // The setpoint may stand in a later row, so it is looked for when all have been read.
        if (cells.TryGetValue(ListField.ComparedWith, out text)) _compared[point.Id] = (text, _row);
    }

    /// <summary>Leads sensors to the setpoints they are compared with: beside them by name, in the same room by name, or by id.</summary>
    private void Compare()
    {
        foreach (var (id, (text, row)) in _compared)
        {
            if (_now.GetValueOrDefault(id) is not Point point) continue;
            _row = row;
            Point? to = RecordId.IsValid(text) ? ById(new RecordId(text)) as Point : null;
            if (to is null)
            {
                RecordId? room = Upward(point.OwnerId).OfType<Place>().FirstOrDefault()?.Id;
                var named = _now.Values.Concat(_project.Referrers(point.OwnerId)).OfType<Point>()
                    .Where(p => p.Id != id && p.Name.Equals(text, StringComparison.OrdinalIgnoreCase)).DistinctBy(p => p.Id).ToList();
                to = named.FirstOrDefault(p => p.OwnerId == point.OwnerId) ?? named.FirstOrDefault(p => Upward(p.OwnerId).OfType<Place>().FirstOrDefault()?.Id == room);
            }
            if (to is null) Bad(ListField.ComparedWith, $"There is no setpoint ‘{text}’ beside ‘{point.Name}’ or in its room. Write its name there, or its id.");
            else _now[id] = point with { SetpointId = to.Id };
        }

        IEnumerable<ProjectRecord> Upward(RecordId from)
        {
            for (ProjectRecord? at = ById(from); at is not null; at = at.ParentId is { } up ? ById(up) : null) yield return at;
        }
    }

    private readonly Dictionary<RecordId, (string Text, int Row)> _compared = [];

    private List<Corner> Corners(string text)
    {
        var corners = new List<Corner>();
        foreach (string one in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            if (one.Split(',') is [var east, var south] && double.TryParse(east, NumberStyles.Float, CultureInfo.InvariantCulture, out double x) && double.TryParse(south, NumberStyles.Float, CultureInfo.InvariantCulture, out double y)) corners.Add(new Corner(x, y));
            else
            {
                Bad(ListField.Outline, $"‘{one}’ is no corner. Write corners as east,south in metres with spaces between: 0,0 12.5,0 12.5,8 0,8.");
                break;
            }
        }
        return corners;
    }

    private double? Fallback(string text, IReadOnlyList<string> states, PointKind kind)
    {
        int state = states.ToList().FindIndex(s => s.Equals(text, StringComparison.OrdinalIgnoreCase));
        if (state >= 0) return kind == PointKind.Binary ? state : state + 1;
        return Number(ListField.Fallback, text);
    }

    private Dictionary<string, string>? TagsIn(string text)
    {
        var tags = new Dictionary<string, string>();
        try
        {
            var reader = new Zinc.ScalarReader(text);
            for (reader.Space(); reader.Now != '\0'; reader.Space())
            {
                string name = reader.While(c => char.IsAsciiLetterOrDigit(c) || c == '_', "a tag's name");
                TagValue value = TagValue.Marker;
                if (reader.Now == ':')
                {
                    reader.At++;
                    value = reader.Scalar();
                }
                tags[name] = value.ToString();
                if (TaggedRecord.Refuse(name, tags[name]) is { } sentence) Bad(ListField.Tags, sentence);
            }
        }
        catch (TagSyntaxException e)
        {
            Bad(ListField.Tags, $"‘{text}’ cannot be read at character {e.At + 1}: {e.Message}");
        }
        return tags.Count == 0 ? null : new Dictionary<string, string>(tags.OrderBy(t => t.Key, StringComparer.Ordinal));
    }

    private double? Number(ListField field, string text)
    {
        // A comma is a decimal comma; where it could as well group thousands, it is not guessed at.
        if (text.Contains(',') && Thousands().IsMatch(text))
        {
            Bad(field, $"‘{text}’ can be read in two ways. Write {text.Replace(",", "", StringComparison.Ordinal)} or {text.Replace(',', '.')}.");
            return null;
        }
        string plain = text.Contains('.') ? text : text.Replace(',', '.');
        if (double.TryParse(plain, NumberStyles.Float, CultureInfo.InvariantCulture, out double value) && double.IsFinite(value)) return value;
        Bad(field, $"‘{text}’ is not a number. Write digits, such as 21.5.");
        return null;
    }

    private int? Whole(ListField field, string text)
    {
        if (Number(field, text) is not { } number) return null;
        if (number == Math.Floor(number) && Math.Abs(number) < 1000) return (int)number;
        Bad(field, $"‘{text}’ is no level. Write a whole number, with 0 for the ground.");
        return null;
    }

    [GeneratedRegex("^[-+]?[1-9][0-9]{0,2}(,[0-9]{3})+$")]
    private static partial Regex Thousands();

    private string Translate(ListField field, string cell) =>
        _mapping.Words.TryGetValue(field, out var words) && words.TryGetValue(cell, out string? ours) ? ours : cell;

    /// <summary>The record that holds a key, in this list or in the project.</summary>
    private T? Known<T>(string key) where T : ProjectRecord
    {
        RecordId? id = _byKey.TryGetValue(key, out RecordId mine) ? mine : _project.Holder(key);
        return id is { } known ? (_thisRow.GetValueOrDefault(known) ?? _now.GetValueOrDefault(known) ?? _project.Find(known)) as T : null;
    }

    /// <summary>The record a row means: the one with its id if it names one, else the one of that name.</summary>
    private T? Named<T>(string key, RecordId? id) where T : ProjectRecord => id is { } known ? ById(known) as T : Known<T>(key);

    private ProjectRecord? ById(RecordId id) => _thisRow.GetValueOrDefault(id) ?? _now.GetValueOrDefault(id) ?? _project.Find(id);

    private T Write<T>(string key, T record) where T : ProjectRecord
    {
        if (key.Length > 0 && _byKey.TryAdd(key, record.Id)) _keysOfThisRow.Add(key);
        _thisRow[record.Id] = record;
        return record;
    }

    private static string KeyOf(ProjectRecord record) => record.UniqueKeys().Select(k => k.Key).FirstOrDefault() ?? "";

    private void Bad(ListField field, string sentence) => _bad.Add(new BadCell(_sheet.Name, _row + 1, ColumnFor(field), sentence));

    private string ColumnFor(ListField field) => _mapping.Columns.ToList().IndexOf(field) is >= 0 and int at ? Sheet.Letters(at) : "";

    /// <summary>The column a refused field of a record came from, as well as can be told.</summary>
    private string ColumnOf(string field) => ColumnFor(field switch
    {
        "unit" => ListField.Unit,
        "stateTexts" => ListField.States,
        "low" => ListField.Low,
        "fallback" => ListField.Fallback,
        "areaSquareMetres" => ListField.Area,
        "shortName" => ListField.ShortName,
        "tags" => ListField.Tags,
        _ => ListField.Point,
    });

    /// <summary>The filled cells of one row, by what they say.</summary>
    private sealed class RowCells
    {
        private readonly string?[] _texts = new string?[Enum.GetValues<ListField>().Length];

        public string this[ListField field]
        {
            set => _texts[(int)field] = value;
        }

        public bool ContainsKey(ListField field) => _texts[(int)field] is not null;

        public bool TryGetValue(ListField field, [NotNullWhen(true)] out string? text) => (text = _texts[(int)field]) is not null;

        public string? GetValueOrDefault(ListField field) => _texts[(int)field];

        public void Clear() => Array.Clear(_texts);
    }
}
