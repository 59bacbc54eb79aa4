using System.Runtime.CompilerServices;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Sequences;

/// <summary>What the condition of a mode counts as while it is released or in fault.</summary>
public enum UnreadCondition
{
    /// <summary>As not holding: the mode is not entered, and is left.</summary>
    No,
    /// <summary>As holding: for what must be on the safe side, such as a fire stop.</summary>
    Yes,
    /// <summary>As what it was when it was last read.</summary>
    AsWas,
}

/// <summary>One mode: a row of a mode table. Its conditions and the values of its cells are inputs of the block, so that anything can be connected to them.</summary>
public sealed record Mode
{
    /// <summary>Its number in the table, which stays when rows move: what runs keeps its mode and its times by it.</summary>
    public required int Slot { get; init; }

    /// <summary>What it is called.</summary>
    [Most(30)]
    public required string Name { get; init; }

    /// <summary>For how long its condition must have held before it comes, s.</summary>
    public double EnterAfter { get; init; }

    /// <summary>For how long its condition must have gone, or what ends it must have held, before it goes, s.</summary>
    public double LeaveAfter { get; init; }

    /// <summary>How long it lasts at least, s; only a mode that comes at once cuts it short.</summary>
    public double Least { get; init; }

    /// <summary>How long it lasts at most, s; 0 for as long as its condition holds. It does not come again before its condition has gone.</summary>
    public double Most { get; init; }

    /// <summary>The modes, by slot, from which alone it comes; empty for any.</summary>
    [Most(ModeTable.MostModes)]
    public IReadOnlyList<int> From { get; init; } = [];

    /// <summary>Whether it comes although the mode before has not lasted its least time.</summary>
    public bool AtOnce { get; init; }

    /// <summary>The causes of a start of the controller after which it is the mode to begin with.</summary>
    [Most(6)]
    public IReadOnlyList<RestartReason> Starts { get; init; } = [];

    /// <summary>What its condition counts as while it cannot be read.</summary>
    public UnreadCondition Unread { get; init; }

    /// <summary>The columns, by slot, that it releases on purpose.</summary>
    [Most(ModeTable.MostColumns)]
    public IReadOnlyList<int> Releases { get; init; } = [];
}

/// <summary>A column of a mode table: what is commanded, or set, in each mode. Each is an output of the block.</summary>
public sealed record ModeColumn
{
    /// <summary>Its number in the table, which stays when columns move.</summary>
    public required int Slot { get; init; }

    /// <summary>What it is called.</summary>
    [Most(40)]
    public required string Name { get; init; }
}

/// <summary>
/// Modes as rows in order of precedence, commanded outputs and setpoints as columns, each cell a value or released. The last
/// row is where the table is when no other holds; it needs no condition.
/// </summary>
public sealed record ModeTable
{
    /// <summary>The most modes.</summary>
    public const int MostModes = 16;

    /// <summary>The most columns.</summary>
    public const int MostColumns = 12;

    /// <summary>The longest time that is set, s.</summary>
    public const double LongestTime = 604_800;

    internal const int AtOnceBit = 1, WhenBit = 2, UntilBit = 4, UnreadUnit = 8;

    private static readonly ConditionalWeakTable<ModeTable, BlockType> Types = [];

    /// <summary>What a table begins with.</summary>
    public static ModeTable Begin { get; } = new() { Modes = [new() { Slot = 1, Name = "On" }, new() { Slot = 2, Name = "Off" }] };

    /// <summary>The modes, the strongest first.</summary>
    [Most(MostModes)]
    public IReadOnlyList<Mode> Modes { get; init; } = [];

    /// <summary>The columns.</summary>
    [Most(MostColumns)]
    public IReadOnlyList<ModeColumn> Columns { get; init; } = [];

    /// <summary>Whether it begins anew after a start of the controller, in place of going on in the mode in which it was.</summary>
    public bool BeginsAgain { get; init; }

    /// <summary>The input with the condition of a mode.</summary>
    public static string When(int mode) => $"when{mode}";

    /// <summary>The input with what ends a mode.</summary>
    public static string Until(int mode) => $"until{mode}";

    /// <summary>The output of a column.</summary>
    public static string Column(int column) => $"c{column}";

    /// <summary>The input with the value of a column in a mode.</summary>
    public static string Cell(int column, int mode) => $"c{column}m{mode}";

    /// <summary>The kind with the pins of this table.</summary>
    public BlockType Type() => Types.GetValue(this, table =>
    {
        BlockType kind = BlockType.Of(BlockKind.Modes);
        var inputs = new List<Pin>();
        foreach (Mode mode in table.Modes.SkipLast(1))
        {
            inputs.Add(new Pin(When(mode.Slot), $"{mode.Name} when", PinKind.Binary) { IsQuiet = true });
            inputs.Add(new Pin(Until(mode.Slot), $"{mode.Name} until", PinKind.Binary) { IsQuiet = true });
        }
        foreach (ModeColumn column in table.Columns) inputs.AddRange(table.Modes.Select(m => new Pin(Cell(column.Slot, m.Slot), $"{column.Name} in {m.Name}", PinKind.Any) { IsQuiet = true }));
        return kind with { Inputs = inputs, Outputs = [.. kind.Outputs, .. table.Columns.Select(c => new Pin(Column(c.Slot), c.Name, PinKind.Any))], Tables = [] };
    });

    /// <summary>What is wrong with it, called so in a sentence.</summary>
    public IEnumerable<string> Wrong(string called)
    {
        if (Modes.Count is < 1 or > MostModes) yield return $"‘{called}’ has {Modes.Count} modes; a mode table has 1 to {MostModes}.";
        if (Columns.Count > MostColumns) yield return $"‘{called}’ has {Columns.Count} columns; a mode table has at most {MostColumns}.";
        if (Modes.Any(m => m.Slot is < 1 or > MostModes) || Modes.DistinctBy(m => m.Slot).Count() != Modes.Count) yield return $"The modes of ‘{called}’ must be numbered apart, from 1 to {MostModes}.";
        if (Columns.Any(c => c.Slot is < 1 or > MostColumns) || Columns.DistinctBy(c => c.Slot).Count() != Columns.Count) yield return $"The columns of ‘{called}’ must be numbered apart, from 1 to {MostColumns}.";
        foreach (string name in Modes.Select(m => m.Name).Concat(Columns.Select(c => c.Name)))
        {
            if (string.IsNullOrWhiteSpace(name) || name.Any(char.IsControl)) yield return $"A mode or a column of ‘{called}’ has no name.";
        }
        if (Modes.GroupBy(m => m.Name, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Skip(1).Any()) is { } twice) yield return $"‘{called}’ has two modes called ‘{twice.Key}’. Choose another name for one.";
        if (Columns.GroupBy(c => c.Name, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Skip(1).Any()) is { } alike) yield return $"‘{called}’ has two columns called ‘{alike.Key}’. Choose another name for one.";
        foreach (Mode mode in Modes)
        {
            if (mode.Name.Length > 30) yield return $"The name of a mode has at most 30 characters; ‘{mode.Name}’ has {mode.Name.Length}.";
            foreach (double time in (double[])[mode.EnterAfter, mode.LeaveAfter, mode.Least, mode.Most])
            {
                if (!(time is >= 0 and <= LongestTime)) yield return $"A time of mode ‘{mode.Name}’ of ‘{called}’ is {time} s; it must be from 0 to {LongestTime:0} s.";
            }
            if (mode.Most > 0 && mode.Most < mode.Least) yield return $"Mode ‘{mode.Name}’ of ‘{called}’ would last at most {mode.Most} s, which is less than its least, {mode.Least} s.";
        }
    }

    /// <summary>The number for something new: one that nothing has had as far as can be told, so that what runs is not taken for it; 0 where there is no room.</summary>
    public static int FreeSlot(IEnumerable<int> taken, int most)
    {
        var had = taken.ToHashSet();
        int next = had.DefaultIfEmpty(0).Max() + 1;
        return next <= most ? next : Enumerable.Range(1, most).FirstOrDefault(n => !had.Contains(n));
    }

    /// <summary>The mode at a place from 1, or null.</summary>
    public Mode? At(double place) => place >= 1 && place <= Modes.Count ? Modes[(int)place - 1] : null;

    /// <summary>
    /// What the machine is set with, two numbers a row: how many modes and whether it begins anew, then of each mode its slot and
    /// delays, its times, from where and how it comes, and which of its two inputs are connected in the design: a condition that
    /// is connected and cannot be read is another thing than none.
    /// </summary>
    internal IReadOnlyList<TableRow> Settings(IEnumerable<string> connected)
    {
        var pins = connected.ToHashSet();
        var rows = new List<TableRow> { new(Modes.Count, BeginsAgain ? 1 : 0) };
        foreach (Mode mode in Modes)
        {
            rows.Add(new(mode.Slot, mode.EnterAfter));
            rows.Add(new(mode.LeaveAfter, mode.Least));
            rows.Add(new(mode.Most, Bits(mode.From)));
            rows.Add(new((mode.AtOnce ? AtOnceBit : 0) + (pins.Contains(When(mode.Slot)) ? WhenBit : 0) + (pins.Contains(Until(mode.Slot)) ? UntilBit : 0) + (UnreadUnit * (int)mode.Unread), Bits(mode.Starts.Select(StartCauses.NumberOf))));
        }
        return rows;
    }

    private static double Bits(IEnumerable<int> numbers) => numbers.Aggregate(0, (bits, n) => bits | (1 << n));

    /// <summary>The plain blocks that calculate it: the machine under the block's own id, and one block for each column.</summary>
    internal IEnumerable<Block> Plain(string id, Block block, Func<Source, Source?> lead)
    {
        var inputs = Lead(block.Inputs.Where(i => Modes.SkipLast(1).Any(m => i.Key == When(m.Slot) || i.Key == Until(m.Slot))));
        yield return block with { Id = id, Modes = this, Tables = new Dictionary<string, IReadOnlyList<TableRow>> { ["modes"] = Settings(inputs.Keys) }, Inputs = inputs };
        foreach (ModeColumn column in Columns)
        {
            var cells = Modes.Select((m, place) => (Pin: $"in{place + 1}", Source: m.Releases.Contains(column.Slot) ? null : block.Inputs.GetValueOrDefault(Cell(column.Slot, m.Slot)))).Where(c => c.Source is not null);
            yield return new Block
            {
                Id = $"{id}.{Column(column.Slot)}",
                Kind = BlockKind.ModeValue,
                Label = $"{block.Called()} · {column.Name}",
                Modes = this,
                Inputs = Lead([new("mode", new BlockSource(id)), .. cells.Select(c => new KeyValuePair<string, Source>(c.Pin, c.Source!))], keeps: "mode"),
            };
        }
        Dictionary<string, Source> Lead(IEnumerable<KeyValuePair<string, Source>> from, string? keeps = null) =>
            from.Select(i => (i.Key, Source: i.Key == keeps ? i.Value : lead(i.Value))).Where(i => i.Source is not null).ToDictionary(i => i.Key, i => i.Source!);
    }
}
