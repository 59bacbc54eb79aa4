using LoftyWren.Core.Explanations;
using LoftyWren.Core.Status;
using static LoftyWren.Core.Sequences.BlockMath;
using static LoftyWren.Core.Sequences.BlockParts;

namespace LoftyWren.Core.Sequences;

/// <summary>A mode table as it stands: the place of the present mode (from 1), since when it is (s of running time), what it waits for, and what it was before, the latest first.</summary>
public sealed record ModeStanding(int Place, double Since, double Seconds, IReadOnlyList<string> Waits, IReadOnlyList<(int Slot, double At)> Before, double Changes);

/// <summary>What mode tables do; bound as <see cref="BlockMath"/> is.</summary>
internal static class ModeMath
{
    private const int FirstHeld = 7, FirstSpent = FirstHeld + ModeTable.MostModes, FirstChange = FirstSpent + ModeTable.MostModes, KeptChanges = 8, RowsOfMode = 4;

    /// <summary>The kinds.</summary>
    public static IEnumerable<BlockType> Types()
    {
        var slots = Enumerable.Range(1, ModeTable.MostModes).ToList();
        Pin[] conditions = [.. slots.Select(s => In(ModeTable.When(s), $"{s} when", PinKind.Binary, false)), .. slots.Select(s => In(ModeTable.Until(s), $"{s} until", PinKind.Binary, false))];
        yield return Plain(BlockKind.Modes, "Mode table", "mode table modes states state machine operating occupied standby night sequence of operation start up restart precedence", "Select", conditions, [Out("out", "mode"), Out("time", "in it for", "s"), Out("changes", "changes", "")], true) with
        {
            Cells = FirstChange + (2 * KeptChanges),
            Facts = [ControllerFact.StartCause, ControllerFact.StartedAt],
            Tables = [new("modes", "modes", "", "", "", "", 1, 1 + (RowsOfMode * ModeTable.MostModes), ModeTable.Begin.Settings([]))],
            Infers = t => t.Out(new LineType(false, null) { States = [.. t.Block.Table!.Modes.Select(m => m.Name)] }),
            HasInside = true,
            Speaks = Always,
            Tells = Tell,
            Example = new("", 0, 1) { Others = [("when1", "", 0, 0)] },
        };
        yield return Plain(BlockKind.ModeValue, "Value by mode", "value by mode", "Select", [In("mode", "mode"), .. slots.Select(s => In($"in{s}", $"{s}", PinKind.Any, false))], AnyOut) with
        { IsInner = true, Infers = BlockTyping.ChosenByMode, Speaks = (_, block) => block.Inputs.Count > (block.Modes?.Modes.Count ?? ModeTable.MostModes) ? BlockSpeech.WithInputs : BlockSpeech.Releases, Tells = TellValue, Example = new("", 1, 3) { Others = [("mode", "", 1, 3.4), ("in1", "°C", 16, 16), ("in2", "°C", 19, 19), ("in3", "°C", 22, 22)] } };
    }

    // Cells: 0 = slot of the present mode, 1 = for how long it has been, s, 2 = time of the last scan, 3 = when the program began to run last,
    // 4 = for how long it is to be left, 5 = changes so far, 6 = whether its least time does not count; then by slot for how long each condition
    // has held, and whether a mode has lasted its most; then the last changes: slot and time.
    public static PinValue Modes(ReadOnlySpan<PinValue> pins, ReadOnlySpan<TableRow> modes, PinValue startCause, PinValue startedAt, double now, Span<double> cells, ref PinValue time, ref PinValue changes)
    {
        int count = (int)modes[0].X, at = PlaceOf(modes, count, cells[0]);
        double passed = double.IsNaN(cells[2]) ? 0 : Math.Max(0, now - cells[2]);
        bool isNew = at < 0, hasStarted = startedAt.IsUsable && startedAt.Value != cells[3];
        cells[2] = now;
        if (startedAt.IsUsable) cells[3] = startedAt.Value;
        if (isNew || (hasStarted && modes[0].Y > 0.5))
        {
            for (int i = FirstHeld; i < FirstChange; i++) cells[i] = double.NaN;
            Enter(modes, at = count - 1, now, cells);
            cells[6] = 1;
        }
        else cells[1] += passed;
        for (int place = 0; place < count && hasStarted && startCause.IsUsable; place++)
        {
            if (((int)Row(modes, place, 3).Y & (1 << (int)startCause.Value)) == 0) continue;
            Enter(modes, at = place, now, cells);
            break;
        }
        for (int place = 0; place < count - 1; place++) Watch(pins, modes, place, passed, cells);
        int next = Next(pins, modes, count, at, passed, cells, out bool isSpent);
        if (next >= 0)
        {
            if (isSpent) cells[FirstSpent + SlotAt(modes, at) - 1] = 1;
            Enter(modes, at = next, now, cells);
        }
        time = new(cells[1], StatusFlags.None);
        changes = new(cells[5], StatusFlags.None);
        return new(at + 1, StatusFlags.None);
    }

    private static TableRow Row(ReadOnlySpan<TableRow> modes, int place, int row) => modes[1 + (RowsOfMode * place) + row];

    private static int SlotAt(ReadOnlySpan<TableRow> modes, int place) => (int)Row(modes, place, 0).X;

    private static int PlaceOf(ReadOnlySpan<TableRow> modes, int count, double slot)
    {
        for (int place = 0; place < count; place++)
        {
            if (Row(modes, place, 0).X == slot) return place;
        }
        return -1;
    }

    private static void Enter(ReadOnlySpan<TableRow> modes, int place, double now, Span<double> cells)
    {
        double changes = double.IsNaN(cells[5]) ? 0 : cells[5];
        int at = FirstChange + (2 * (int)(changes % KeptChanges));
        (cells[at], cells[at + 1]) = (SlotAt(modes, place), now);
        (cells[0], cells[1], cells[4], cells[5], cells[6]) = (SlotAt(modes, place), 0, double.NaN, changes + 1, double.NaN);
    }

    /// <summary>Counts for how long the condition of a mode has held.</summary>
    private static void Watch(ReadOnlySpan<PinValue> pins, ReadOnlySpan<TableRow> modes, int place, double passed, Span<double> cells)
    {
        int slot = SlotAt(modes, place);
        ref double held = ref cells[FirstHeld + slot - 1];
        bool holds = Has(modes, place, ModeTable.WhenBit) && (pins[slot - 1] is { IsUsable: true } condition ? condition.IsTrue : (UnreadCondition)((int)Row(modes, place, 3).X / ModeTable.UnreadUnit) switch { UnreadCondition.No => false, UnreadCondition.Yes => true, _ => !double.IsNaN(held) });
        if (!holds) cells[FirstSpent + slot - 1] = double.NaN;
        held = !holds ? double.NaN : double.IsNaN(held) ? 0 : held + passed;
    }

    private static bool Has(ReadOnlySpan<TableRow> modes, int place, int bit) => ((int)Row(modes, place, 3).X & bit) != 0;

    private static bool Ends(ReadOnlySpan<PinValue> pins, int slot) => pins[ModeTable.MostModes + slot - 1].IsUsableTrue;

    /// <summary>Whether a mode would come now, seen from the present one.</summary>
    private static bool Comes(ReadOnlySpan<PinValue> pins, ReadOnlySpan<TableRow> modes, int count, int place, int present, Span<double> cells)
    {
        if (place == count - 1) return true;
        int slot = SlotAt(modes, place), from = (int)Row(modes, place, 2).Y;
        double held = cells[FirstHeld + slot - 1];
        return !double.IsNaN(held) && IsOver(held, Row(modes, place, 0).Y) && double.IsNaN(cells[FirstSpent + slot - 1]) && !Ends(pins, slot) && (from == 0 || (from & (1 << present)) != 0);
    }

    /// <summary>The place of the mode that follows, −1 where the present one stays; and whether that has lasted its most.</summary>
    private static int Next(ReadOnlySpan<PinValue> pins, ReadOnlySpan<TableRow> modes, int count, int at, double passed, Span<double> cells, out bool isSpent)
    {
        int present = SlotAt(modes, at);
        double least = Row(modes, at, 1).Y, most = Row(modes, at, 2).X;
        bool isHeld = double.IsNaN(cells[6]) && !IsOver(cells[1], least);
        isSpent = at < count - 1 && most > 0 && IsOver(cells[1], most);
        bool isToEnd = Has(modes, at, ModeTable.UntilBit) ? Ends(pins, present) : Has(modes, at, ModeTable.WhenBit) ? double.IsNaN(cells[FirstHeld + present - 1]) : most <= 0;
        bool leaves = at < count - 1 && (Lasts(isToEnd, passed, Row(modes, at, 1).X, ref cells[4]) || isSpent);
        for (int place = 0; place < count; place++)
        {
            if (place == at)
            {
                if (!leaves || isHeld) return -1;
            }
            else if (Comes(pins, modes, count, place, present, cells) && (!isHeld || Has(modes, place, ModeTable.AtOnceBit))) return place;
        }
        return -1;
    }

    /// <summary>The cell of the present mode; released where there is none.</summary>
    public static PinValue ModeValue(ReadOnlySpan<PinValue> pins)
    {
        PinValue mode = pins[0];
        if (!mode.IsUsable) return new(double.NaN, Settle(mode.Status));
        if (mode.Value != Math.Floor(mode.Value) || mode.Value < 1 || mode.Value >= pins.Length) return PinValue.Fault;
        PinValue chosen = pins[(int)mode.Value];
        return Chosen(chosen.Status | mode.Status, chosen.Value);
    }

    /// <summary>How a table stands, of what it remembers.</summary>
    public static ModeStanding Standing(IBlockTelling t, ModeTable table)
    {
        int place = Math.Max(1, table.Modes.ToList().FindIndex(m => m.Slot == t.Memory(0)) + 1);
        Mode present = table.Modes[place - 1];
        double seconds = t.Memory(1);
        double held(Mode m) => t.Memory(FirstHeld + m.Slot - 1);
        var waits = new List<string>();
        bool isHeld = double.IsNaN(t.Memory(6)) && seconds < present.Least - 1e-6;
        if (isHeld) waits.Add($"{present.Name} lasts at least {t.Span(present.Least)}: {t.Span(Math.Ceiling(present.Least - seconds))} more");
        if (!double.IsNaN(t.Memory(4)) && present.LeaveAfter > t.Memory(4)) waits.Add($"{present.Name} goes in {t.Span(Math.Ceiling(present.LeaveAfter - t.Memory(4)))}");
        if (present.Most > 0 && place < table.Modes.Count) waits.Add($"{present.Name} lasts at most {t.Span(present.Most)}: {t.Span(Math.Max(0, Math.Ceiling(present.Most - seconds)))} more");
        foreach (Mode other in table.Modes.SkipLast(1).Where(m => m.Slot != present.Slot && !double.IsNaN(held(m))))
        {
            if (!double.IsNaN(t.Memory(FirstSpent + other.Slot - 1))) waits.Add($"{other.Name} has lasted its most; it comes again once its condition has gone");
            else if (held(other) < other.EnterAfter) waits.Add($"{other.Name} comes in {t.Span(Math.Ceiling(other.EnterAfter - held(other)))}, if its condition goes on holding");
            else if (other.From.Count > 0 && !other.From.Contains(present.Slot)) waits.Add($"{other.Name} would come, but not from {present.Name}");
            else if (isHeld && !other.AtOnce && table.Modes.ToList().IndexOf(other) < place - 1) waits.Add($"{other.Name} comes when {present.Name} has lasted its least");
        }
        double changes = double.IsNaN(t.Memory(5)) ? 0 : t.Memory(5);
        var before = new List<(int, double)>();
        for (double n = changes - 1; n >= 0 && n >= changes - KeptChanges; n--)
        {
            int at = FirstChange + (2 * (int)(n % KeptChanges));
            before.Add(((int)t.Memory(at), t.Memory(at + 1)));
        }
        return new ModeStanding(place, before.Count > 0 ? before[0].Item2 : 0, seconds, waits, before, changes);
    }

    private static Because? Tell(IBlockTelling t)
    {
        if (t.Block.Modes is not { } table || double.IsNaN(t.Memory(0))) return null;
        ModeStanding now = Standing(t, table);
        Mode mode = table.Modes[now.Place - 1];
        bool isLast = now.Place == table.Modes.Count;
        string why = isLast ? "no other mode holds" : t.Block.Inputs.ContainsKey(ModeTable.When(mode.Slot)) ? "its condition holds" : "it is what the controller began with";
        if (!isLast && double.IsNaN(t.Memory(FirstHeld + mode.Slot - 1)) && t.Block.Inputs.ContainsKey(ModeTable.When(mode.Slot))) why = "its condition has gone, but it has not been left yet";
        var under = new List<Because>();
        under.AddRange(t.Why(ModeTable.When(mode.Slot)));
        // Of the stronger ones it matters why they do not hold.
        if (isLast) under.AddRange(table.Modes.SkipLast(1).SelectMany(m => t.Why(ModeTable.When(m.Slot)).Select(b => Because.Of($"{m.Name} does not hold.", t.Records, [b], Weight.Outranked))));
        under.AddRange(now.Waits.Select(w => Because.Of($"{w}.", t.Records, weight: Weight.Note)));
        return Because.Of($"{t.Block.Called()} is in {mode.Name} since {t.Time(now.Since)}: {why}.", t.Records, under);
    }

    private static Because? TellValue(IBlockTelling t)
    {
        if (t.Block.Modes is not { } table || t.Input("mode") is not var (reading, _, _) || !reading.IsUsable || table.At(reading.Value) is not { } mode) return null;
        string pin = $"in{(int)reading.Value}";
        bool isReleased = !t.Block.Inputs.ContainsKey(pin);
        return Because.Of(isReleased ? $"{t.Block.Called()} is released in {mode.Name}." : $"{t.Block.Called()} is what {mode.Name} says.", t.Records, [.. t.Why("mode"), .. t.Why(pin)]);
    }
}
