using System.Globalization;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.PointLists;

/// <summary>What a summary counts by.</summary>
public enum SummaryBy
{
    /// <summary>Floor by floor.</summary>
    Floor,
    /// <summary>Room by room.</summary>
    Room,
    /// <summary>Controller by controller.</summary>
    Panel,
    /// <summary>Kind of equipment by kind.</summary>
    EquipmentKind,
}

/// <summary>Counts of points by what they need: analog and binary inputs and outputs, and values that need no terminal.</summary>
public sealed record IoCounts(int AnalogIn, int BinaryIn, int AnalogOut, int BinaryOut, int Values)
{
    /// <summary>Points that need a terminal.</summary>
    public int Terminals => AnalogIn + BinaryIn + AnalogOut + BinaryOut;

    /// <summary>Both together.</summary>
    public static IoCounts operator +(IoCounts a, IoCounts b) => new(a.AnalogIn + b.AnalogIn, a.BinaryIn + b.BinaryIn, a.AnalogOut + b.AnalogOut, a.BinaryOut + b.BinaryOut, a.Values + b.Values);

    /// <summary>With a share of spare on each sort of terminal, rounded up; values need none.</summary>
    public IoCounts WithSpare(int percent)
    {
        int More(int n) => (int)Math.Ceiling(n * (100 + percent) / 100.0 - 1e-9);
        return new IoCounts(More(AnalogIn), More(BinaryIn), More(AnalogOut), More(BinaryOut), Values);
    }
}

/// <summary>One line: of what, how many there are, how many with spare, and for panels what is built in and which terminals with spare it lacks, in words.</summary>
public sealed record IoLine(string Group, IoCounts Counts, IoCounts WithSpare, string? BuiltIn, string? Lacks);

/// <summary>The I/O summary of a project.</summary>
public sealed record IoSummary(SummaryBy By, int SparePercent, IReadOnlyList<IoLine> Lines, IoLine Total)
{
    /// <summary>Counts every point once. A point that is on no controller counts under panels as “no panel yet”.</summary>
    public static IoSummary Of(Project project, SummaryBy by, int sparePercent)
    {
        var counts = new Dictionary<string, IoCounts>();
        foreach (Point point in project.All<Point>())
        {
            string group = GroupOf(project, point, by);
            counts[group] = counts.GetValueOrDefault(group, new IoCounts(0, 0, 0, 0, 0)) + One(project, point);
        }
        Dictionary<string, IReadOnlyList<TerminalGroup>> built = by == SummaryBy.Panel ? project.All<Controller>().ToDictionary(c => c.Name, c => GroupsOf(project, c)) : [];
        List<IoLine> lines = [.. counts.OrderBy(c => c.Key, StringComparer.Ordinal).Select(c => Line(c.Key, c.Value, c.Value.WithSpare(sparePercent), built.GetValueOrDefault(c.Key)))];
        IoCounts all = lines.Aggregate(new IoCounts(0, 0, 0, 0, 0), (sum, l) => sum + l.Counts), spare = lines.Aggregate(new IoCounts(0, 0, 0, 0, 0), (sum, l) => sum + l.WithSpare);
        return new IoSummary(by, sparePercent, lines, new IoLine("Total", all, spare, null, null));
    }

    /// <summary>As a sheet, the total last.</summary>
    public Sheet ToSheet()
    {
        static string[] Row(IoLine l) => [l.Group, .. Cells(l.Counts), .. Cells(l.WithSpare)[..4], l.BuiltIn ?? "", l.Lacks ?? ""];
        static string[] Cells(IoCounts c) => [.. new[] { c.AnalogIn, c.BinaryIn, c.AnalogOut, c.BinaryOut, c.Values }.Select(n => n.ToString(CultureInfo.InvariantCulture))];
        string spare = $"with {SparePercent} % spare";
        return new Sheet("I-O summary", [(string[])["Of", "AI", "BI", "AO", "BO", "Values", $"AI {spare}", $"BI {spare}", $"AO {spare}", $"BO {spare}", "Built in", "Lacks"], .. Lines.Select(Row), Row(Total)]);
    }

    /// <summary>The terminals of a controller and of what stands beside it, those of a sort together.</summary>
    private static IReadOnlyList<TerminalGroup> GroupsOf(Project project, Controller controller) =>
        [.. PanelTerminals.Of(project, controller).GroupBy(t => (t.Group.Prefix, Signals: string.Join(' ', t.Group.Signals))).Select(g => g.First().Group with { Count = g.Count() })];

    private static IoLine Line(string group, IoCounts counts, IoCounts spare, IReadOnlyList<TerminalGroup>? built) => built is null
        ? new IoLine(group, counts, spare, null, null)
        : new IoLine(group, counts, spare, string.Join(" · ", built.Select(g => $"{g.Count} {g.Prefix}")), Lacks(spare, built));

    /// <summary>Which terminals are lacking for these counts, such as “2 AO, 1 BO”; null for none. A universal input takes an analog or a binary one: what analog inputs leave of them is there for binary ones.</summary>
    public static string? Lacks(IoCounts spare, IReadOnlyList<TerminalGroup> built)
    {
        int Terminals(Func<TerminalGroup, bool> which) => built.Where(which).Sum(g => g.Count);
        int analogIn = Terminals(g => g.Direction == Direction.In && g.Signals.Any(s => IsAnalog(s))), binaryOnly = Terminals(g => g.Direction == Direction.In && g.Signals.All(s => !IsAnalog(s)));
        int universal = Terminals(g => g.Direction == Direction.In && g.Signals.Any(s => !IsAnalog(s)) && g.Signals.Any(s => IsAnalog(s)));
        (int Short, string Sort)[] lacks =
        [
            (spare.AnalogIn - analogIn, "AI"),
            (spare.BinaryIn - binaryOnly - Math.Max(0, universal - spare.AnalogIn), "BI"),
            (spare.AnalogOut - Terminals(g => g.Direction == Direction.Out && g.Signals.Any(s => IsAnalog(s))), "AO"),
            (spare.BinaryOut - Terminals(g => g.Direction == Direction.Out && g.Signals.Any(s => !IsAnalog(s))), "BO"),
        ];
        string missing = string.Join(", ", lacks.Where(l => l.Short > 0).Select(l => $"{l.Short} {l.Sort}"));
        return missing.Length == 0 ? null : missing;
    }

    /// <summary>Whether a signal makes its terminal an analog one; pulses are counted at a contact.</summary>
    private static bool IsAnalog(Signal signal) => signal.Carries == PointKind.Analog && (signal.Asks & SignalAsks.PerPulse) == 0;

    private static IoCounts One(Project project, Point point)
    {
        bool isValue = Fitting.IsForMemory(point) || project.BindingOf(point.Id) is { IsInMemory: true };
        if (isValue) return new IoCounts(0, 0, 0, 0, 1);
        return (point.Kind == PointKind.Analog, point.Role == PointRole.Sensor) switch
        {
            (true, true) => new IoCounts(1, 0, 0, 0, 0),
            (false, true) => new IoCounts(0, 1, 0, 0, 0),
            (true, false) => new IoCounts(0, 0, 1, 0, 0),
            _ => new IoCounts(0, 0, 0, 1, 0),
        };
    }

    private static string GroupOf(Project project, Point point, SummaryBy by)
    {
        switch (by)
        {
            case SummaryBy.Panel:
                return project.BindingOf(point.Id) is { } binding ? project.Find(binding.HostId)?.Name ?? "no panel yet" : "no panel yet";
            case SummaryBy.EquipmentKind:
                return project.Lineage(point.Id).OfType<Equipment>().FirstOrDefault()?.Kind ?? "room itself";
            default:
                PlaceKind kind = by == SummaryBy.Room ? PlaceKind.Room : PlaceKind.Floor;
                return project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == kind) is { } place ? $"{project.PathOf(place.Id)} › {place.Name}" : "elsewhere";
        }
    }
}
