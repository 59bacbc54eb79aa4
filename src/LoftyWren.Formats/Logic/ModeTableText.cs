using LoftyWren.Core.Sequences;

namespace LoftyWren.Formats.Logic;

/// <summary>
/// A mode table as a function block of its own, with all its times and rules: the modes are numbered by their rows. In which mode
/// it begins after which cause of a start has no form there, and is told in a comment.
/// </summary>
internal sealed class ModeTableText(Block block, ModeTable table, double scanSeconds, IReadOnlyList<(Pin Pin, string There, string Type)> inputs, IReadOnlyList<(Pin Pin, string There, string Type)> outputs)
{
    private readonly HashSet<string> _connected = [.. inputs.Select(i => i.Pin.Name)];

    private string Input(string pin) => inputs.First(i => i.Pin.Name == pin).There;

    private bool Has(string pin) => _connected.Contains(pin);

    /// <summary>An input that counts and is on.</summary>
    private string Requested(string pin) => $"({Network.Counting(Input(pin))} AND {Input(pin)})";

    /// <summary>The block.</summary>
    public Pou Unit()
    {
        var modes = table.Modes.Select((m, i) => (Mode: m, Row: i + 1, IsLast: i == table.Modes.Count - 1)).ToList();
        var variables = new List<Variable>
        {
            new("Row", "INT", null, "the row of the present mode, 0 before the first scan"),
            new("Lasted", "REAL", null, "how long it has been, s"),
            new("Leaving", "REAL", Literals.Of(-1), "for how long it is to be left, s; -1 where it is not"),
            new("Begun", "BOOL", null, "whether it is the one it began with, whose minimum time does not count"),
            new("Count", "REAL", null, "changes so far"),
        };
        var constants = new List<Variable> { new("Scan", "REAL", Literals.Of(scanSeconds), "s") };
        var body = new List<string>
        {
            "IF Row = 0 THEN", $"  Row := {modes.Count};", "  Begun := TRUE;", "  Count := 1.0;", "ELSE", "  Lasted := Lasted + Scan;", "END_IF;",
        };
        foreach (var (mode, row, isLast) in modes)
        {
            string starts = mode.Starts.Count == 0 ? "" : $"; the mode to begin with after: {string.Join(", ", mode.Starts)}";
            constants.Add(new($"Minimum_{row}", "REAL", Literals.Of(mode.Least), $"{mode.Name}: minimum time, s{starts}"));
            if (isLast) continue;
            constants.Add(new($"Enter_{row}", "REAL", Literals.Of(mode.EnterAfter), $"{mode.Name}: entry delay, s"));
            constants.Add(new($"Leave_{row}", "REAL", Literals.Of(mode.LeaveAfter), $"{mode.Name}: exit delay, s"));
            constants.Add(new($"Maximum_{row}", "REAL", Literals.Of(mode.Most), $"{mode.Name}: maximum time, s; 0 for none"));
            variables.Add(new($"Held_{row}", "REAL", Literals.Of(-1), "for how long its condition has held, s; -1 where it does not"));
            variables.Add(new($"Spent_{row}", "BOOL", null, "whether it has lasted its maximum"));
            variables.Add(new($"Comes_{row}", "BOOL"));
            Watch(body, mode, row);
        }
        variables.AddRange([new("Is_held", "BOOL"), new("Is_spent", "BOOL"), new("Is_to_end", "BOOL"), new("Leaves", "BOOL"), new("Decided", "BOOL"), new("Next", "INT")]);
        body.AddRange(["Is_spent := FALSE;", "Leaves := FALSE;", "CASE Row OF"]);
        foreach (var (mode, row, isLast) in modes) Present(body, mode, row, isLast);
        body.Add("END_CASE;");
        Choose(body, modes);
        body.Add("OUT := Row;");
        body.Add("TIME_V := Lasted;");
        body.Add("CHANGES := Count;");
        foreach (ModeColumn column in table.Columns) Column(body, modes, column);
        return new("FUNCTION_BLOCK", "",
        [
            new("VAR_INPUT", [.. inputs.SelectMany(i => Network.Taken(i.There, i.Type, i.Pin.Label))]),
            new("VAR_OUTPUT", Network.Given(outputs)),
            new("VAR CONSTANT", constants),
            new("VAR", variables),
        ], body, $"Mode table ‘{block.Called()}’: {string.Join(", ", modes.Select(m => $"{m.Row} {m.Mode.Name}"))}");
    }

    /// <summary>Whether a condition holds; what it is while it cannot be read, its mode says.</summary>
    private string Holds(Mode mode, int row, string when) => mode.Unread switch
    {
        UnreadCondition.Yes => $"NOT {Network.Counting(Input(when))} OR {Input(when)}",
        UnreadCondition.AsWas => $"SEL(G := {Network.Counting(Input(when))}, IN0 := Held_{row} >= 0.0, IN1 := {Input(when)})",
        _ => Requested(when),
    };

    /// <summary>Counts for how long a condition has held, and says whether its mode would come.</summary>
    private void Watch(List<string> body, Mode mode, int row)
    {
        string when = ModeTable.When(mode.Slot), until = ModeTable.Until(mode.Slot);
        if (Has(when)) body.AddRange([$"IF {Holds(mode, row, when)} THEN", $"  IF Held_{row} < 0.0 THEN Held_{row} := 0.0; ELSE Held_{row} := Held_{row} + Scan; END_IF;", "ELSE", $"  Held_{row} := -1.0;", $"  Spent_{row} := FALSE;", "END_IF;"]);
        var from = table.Modes.Select((m, i) => (m.Slot, Row: i + 1)).Where(m => mode.From.Contains(m.Slot)).Select(m => $"(Row = {m.Row})").ToList();
        // From a mode that is no longer there it never comes.
        string may = mode.From.Count == 0 ? "" : from.Count == 0 ? " AND FALSE" : $" AND ({string.Join(" OR ", from)})";
        body.Add($"Comes_{row} := (Held_{row} >= 0.0) AND (Held_{row} > Enter_{row} - 0.000001) AND NOT Spent_{row}{(Has(until) ? $" AND NOT {Requested(until)}" : "")}{may};");
    }

    /// <summary>What holds the present mode, and what ends it.</summary>
    private void Present(List<string> body, Mode mode, int row, bool isLast)
    {
        body.Add($"  {row}:");
        body.Add($"    Is_held := NOT Begun AND (Lasted < Minimum_{row} - 0.000001);");
        if (isLast) return;
        string when = ModeTable.When(mode.Slot), until = ModeTable.Until(mode.Slot);
        body.Add($"    Is_spent := (Maximum_{row} > 0.0) AND (Lasted > Maximum_{row} - 0.000001);");
        body.Add($"    Is_to_end := {(Has(until) ? Requested(until) : Has(when) ? $"Held_{row} < 0.0" : $"Maximum_{row} <= 0.0")};");
        body.AddRange(["    IF NOT Is_to_end THEN Leaving := -1.0;", "    ELSIF Leaving < 0.0 THEN Leaving := 0.0;", "    ELSE Leaving := Leaving + Scan;", "    END_IF;"]);
        body.Add($"    Leaves := (Is_to_end AND (Leaving > Leave_{row} - 0.000001)) OR Is_spent;");
    }

    /// <summary>The first that would come, where the present one may be left for it.</summary>
    private static void Choose(List<string> body, List<(Mode Mode, int Row, bool IsLast)> modes)
    {
        body.AddRange(["Next := 0;", "Decided := FALSE;"]);
        foreach (var (mode, row, isLast) in modes)
        {
            body.Add("IF NOT Decided THEN");
            body.Add($"  IF Row = {row} THEN Decided := {(isLast ? "TRUE" : "NOT Leaves OR Is_held")};");
            string cuts = mode.AtOnce ? "" : " AND NOT Is_held";
            body.Add(isLast ? $"  ELSE Next := {row}; Decided := TRUE;" : $"  ELSIF Comes_{row}{cuts} THEN Next := {row}; Decided := TRUE;");
            body.AddRange(["  END_IF;", "END_IF;"]);
        }
        body.Add("IF Next > 0 THEN");
        if (modes.Count > 1)
        {
            body.AddRange(["  IF Is_spent THEN", "    CASE Row OF"]);
            body.AddRange(modes.Where(m => !m.IsLast).Select(m => $"      {m.Row}: Spent_{m.Row} := TRUE;"));
            body.AddRange(["    END_CASE;", "  END_IF;"]);
        }
        body.AddRange(["  Row := Next;", "  Lasted := 0.0;", "  Leaving := -1.0;", "  Begun := FALSE;", "  Count := Count + 1.0;", "END_IF;"]);
    }

    private void Column(List<string> body, List<(Mode Mode, int Row, bool IsLast)> modes, ModeColumn column)
    {
        var (_, there, _) = outputs.First(o => o.Pin.Name == ModeTable.Column(column.Slot));
        body.Add("CASE Row OF");
        foreach (var (mode, row, _) in modes)
        {
            string cell = ModeTable.Cell(column.Slot, mode.Slot);
            body.Add(Has(cell) && !mode.Releases.Contains(column.Slot) ? $"  {row}: {there} := {Input(cell)}; {Network.Counting(there)} := {Network.Counting(Input(cell))}; (* {NameScope.Comment($"{column.Name} in {mode.Name}")} *)" : $"  {row}: {Network.Counting(there)} := FALSE; (* {NameScope.Comment($"{column.Name} in {mode.Name}: released")} *)");
        }
        body.Add("END_CASE;");
    }
}
