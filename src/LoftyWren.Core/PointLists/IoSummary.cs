using System.Globalization;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;

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

/// <summary>One line: of what, how many there are, how many with spare, and for panels how many terminals are built in.</summary>
public sealed record IoLine(string Group, IoCounts Counts, IoCounts WithSpare, int? BuiltIn);

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
        var builtIn = by == SummaryBy.Panel ? project.All<Controller>().ToDictionary(c => c.Name, c => ControllerModel.Find(c.ModelId)?.Terminals().Count() ?? 0) : [];
        List<IoLine> lines = [.. counts.OrderBy(c => c.Key, StringComparer.Ordinal).Select(c => new IoLine(c.Key, c.Value, c.Value.WithSpare(sparePercent), builtIn.TryGetValue(c.Key, out int n) ? n : null))];
        IoCounts all = lines.Aggregate(new IoCounts(0, 0, 0, 0, 0), (sum, l) => sum + l.Counts), spare = lines.Aggregate(new IoCounts(0, 0, 0, 0, 0), (sum, l) => sum + l.WithSpare);
        return new IoSummary(by, sparePercent, lines, new IoLine("Total", all, spare, by == SummaryBy.Panel ? builtIn.Values.Sum() : null));
    }

    /// <summary>As a sheet, the total last.</summary>
    public Sheet ToSheet()
    {
        static string[] Row(IoLine l) => [l.Group, .. Cells(l.Counts), .. Cells(l.WithSpare)[..4], l.BuiltIn?.ToString(CultureInfo.InvariantCulture) ?? ""];
        static string[] Cells(IoCounts c) => [.. new[] { c.AnalogIn, c.BinaryIn, c.AnalogOut, c.BinaryOut, c.Values }.Select(n => n.ToString(CultureInfo.InvariantCulture))];
        string spare = $"with {SparePercent} % spare";
        return new Sheet("I-O summary", [(string[])["Of", "AI", "BI", "AO", "BO", "Values", $"AI {spare}", $"BI {spare}", $"AO {spare}", $"BO {spare}", "Terminals built in"], .. Lines.Select(Row), Row(Total)]);
    }

    private static IoCounts One(Project project, Point point)
    {
        bool isValue = point.Role is PointRole.Setpoint or PointRole.Value || project.Find<Fitting>(project.Holder($"source|{point.Id}")) is { Terminal: Fitting.MemoryTerminal };
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
                return project.Find<Fitting>(project.Holder($"source|{point.Id}")) is { } fitting ? project.Find(fitting.ControllerId)?.Name ?? "no panel yet" : "no panel yet";
            case SummaryBy.EquipmentKind:
                return project.Lineage(point.Id).OfType<Equipment>().FirstOrDefault()?.Kind ?? "room itself";
            default:
                PlaceKind kind = by == SummaryBy.Room ? PlaceKind.Room : PlaceKind.Floor;
                return project.Lineage(point.Id).OfType<Place>().FirstOrDefault(p => p.Kind == kind) is { } place ? $"{project.PathOf(place.Id)} › {place.Name}" : "elsewhere";
        }
    }
}
