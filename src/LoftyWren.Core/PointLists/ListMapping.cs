using System.Text.RegularExpressions;

namespace LoftyWren.Core.PointLists;

/// <summary>What a column of a list can say.</summary>
public enum ListField
{
    /// <summary>Nothing that is taken.</summary>
    None,
    /// <summary>Name of the building.</summary>
    Building,
    /// <summary>Name of the floor.</summary>
    Floor,
    /// <summary>Order of the floor, a whole number; the ground is 0.</summary>
    Level,
    /// <summary>Name of the room.</summary>
    Room,
    /// <summary>Short name of the place the row is about.</summary>
    ShortName,
    /// <summary>Floor area of the room, m².</summary>
    Area,
    /// <summary>Name of the equipment.</summary>
    Equipment,
    /// <summary>Kind of the equipment.</summary>
    EquipmentKind,
    /// <summary>The template the equipment is placed from.</summary>
    Template,
    /// <summary>Values of the template's parameters and where its references lead, as <c>setpoint = 21; Opening hours = Opening hours</c>.</summary>
    Values,
    /// <summary>Name of the point.</summary>
    Point,
    /// <summary>Kind and role of the point in one: AI, DO, sensor …</summary>
    Type,
    /// <summary>Kind of the point: analog, binary, multistate.</summary>
    Kind,
    /// <summary>Role of the point: sensor, command, setpoint, value.</summary>
    Role,
    /// <summary>Unit of the point.</summary>
    Unit,
    /// <summary>State texts, with · or / or | between them.</summary>
    States,
    /// <summary>Low limit.</summary>
    Low,
    /// <summary>High limit.</summary>
    High,
    /// <summary>Fallback: a number, or one of the state texts.</summary>
    Fallback,
    /// <summary>Description.</summary>
    Description,
    /// <summary>Direct tags: names with spaces between them, or name:value in Zinc.</summary>
    Tags,
    /// <summary>The id of what the row is about: it is found again by it, whatever it is called now.</summary>
    Id,
    /// <summary>Order of the place among its siblings, a whole number.</summary>
    Position,
    /// <summary>Outline of the room: corners as east,south in metres, with spaces between them.</summary>
    Outline,
    /// <summary>The setpoint a sensor is compared with: its name beside it, or its id.</summary>
    ComparedWith,
}

/// <summary>How a list is read: where its headers are, what each column says, and what other words stand for.</summary>
public sealed record ListMapping
{
    /// <summary>The row of the headers, from 0; what comes before is not read. −1: there are none.</summary>
    public int HeaderRow { get; init; }

    /// <summary>What each column says, in order; columns beyond are not read.</summary>
    public required IReadOnlyList<ListField> Columns { get; init; }

    /// <summary>An empty cell of building, floor or room stands for the one above.</summary>
    public bool BlankIsAbove { get; init; } = true;

    /// <summary>The building of rows that name none.</summary>
    public string? Building { get; init; }

    /// <summary>The list's words and what they stand for in ours, by field: a unit, a kind of equipment, a place, a type.</summary>
    public IReadOnlyDictionary<ListField, IReadOnlyDictionary<string, string>> Words { get; init; } = new Dictionary<ListField, IReadOnlyDictionary<string, string>>();

    /// <summary>A mapping proposed from headers and contents.</summary>
    public static ListMapping Propose(Sheet sheet)
    {
        int best = 0, most = -1;
        for (int r = 0; r < Math.Min(20, sheet.Rows.Count); r++)
        {
            int known = sheet.Rows[r].Count(c => Guess(c) != ListField.None);
            if (known > most) (best, most) = (r, known);
        }
        int columns = sheet.Rows.Count == 0 ? 0 : sheet.Rows.Take(best + 50).Max(r => r.Length);
        var taken = new HashSet<ListField>();
        var fields = new ListField[columns];
        for (int c = 0; c < columns; c++)
        {
            ListField guess = Guess(sheet.Cell(best, c));
            // “Kind” alone may be that of the equipment, or the type of the point; “point kind” says what it is.
            if (guess == ListField.Kind && sheet.Cell(best, c).Equals("kind", StringComparison.OrdinalIgnoreCase) && !Contents(sheet, best, c).Any(v => ListWords.Kind(v) is not null)) guess = Contents(sheet, best, c).Any(v => ListWords.Type(v) is not null) ? ListField.Type : ListField.EquipmentKind;
            if (guess == ListField.None) guess = ByContents(Contents(sheet, best, c));
            if (guess != ListField.None && taken.Add(guess)) fields[c] = guess;
        }
        // Where every row names its building, an empty cell means that there is none, not the one above.
        int building = Array.IndexOf(fields, ListField.Building);
        bool named = building >= 0 && Enumerable.Range(best + 1, Math.Max(0, sheet.Rows.Count - best - 1)).All(r => sheet.Cell(r, building).Length > 0 || sheet.Rows[r].All(string.IsNullOrWhiteSpace));
        return new ListMapping { HeaderRow = best, Columns = fields, BlankIsAbove = !named };
    }

    private static List<string> Contents(Sheet sheet, int header, int column) =>
        [.. Enumerable.Range(header + 1, Math.Max(0, Math.Min(50, sheet.Rows.Count - header - 1))).Select(r => sheet.Cell(r, column)).Where(v => v.Length > 0).Distinct()];

    private static ListField ByContents(List<string> values)
    {
        if (values.Count == 0) return ListField.None;
        if (values.All(v => ListWords.Type(v) is not null)) return ListField.Type;
        return values.All(v => ListWords.Unit(v) is not null) ? ListField.Unit : ListField.None;
    }

    private static ListField Guess(string header)
    {
        string words = Regex.Replace(header.ToLowerInvariant(), "[^a-z²0-9]+", " ").Trim();
        return words switch
        {
            "building" or "block" or "house" => ListField.Building,
            "floor" or "storey" or "story" or "floor name" => ListField.Floor,
            "level" or "floor no" or "floor number" => ListField.Level,
            "room" or "space" or "room name" or "location" => ListField.Room,
            "room no" or "room number" or "number" or "short name" or "short" => ListField.ShortName,
            "area" or "m²" or "m2" or "area m²" or "area m2" or "size" => ListField.Area,
            "equipment" or "plant" or "unit name" or "device" or "equipment name" or "system" => ListField.Equipment,
            "equipment kind" or "equipment type" or "plant type" => ListField.EquipmentKind,
            "template" => ListField.Template,
            "values" or "parameters" or "template values" => ListField.Values,
            "point" or "point name" or "object" or "signal name" or "name" => ListField.Point,
            "type" or "io type" or "i o type" or "i o" or "io" or "point type" or "signal" or "signal type" => ListField.Type,
            "kind" or "point kind" => ListField.Kind,
            "role" or "function" => ListField.Role,
            "unit" or "units" or "uom" or "eng unit" or "engineering unit" or "engineering units" => ListField.Unit,
            "states" or "state texts" or "state text" or "unit or states" => ListField.States,
            "low" or "min" or "minimum" or "low limit" or "range low" => ListField.Low,
            "high" or "max" or "maximum" or "high limit" or "range high" => ListField.High,
            "fallback" or "default" or "relinquish default" or "initial value" => ListField.Fallback,
            "description" or "remarks" or "remark" or "notes" or "comment" or "text" => ListField.Description,
            "tags" or "tag" => ListField.Tags,
            "id" or "record id" => ListField.Id,
            "position" or "order" => ListField.Position,
            "outline" or "corners" => ListField.Outline,
            "compared with" or "setpoint" => ListField.ComparedWith,
            _ => ListField.None,
        };
    }
}
