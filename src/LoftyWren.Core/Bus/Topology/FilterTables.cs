using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Topology;

/// <summary>
/// Which groups each coupler lets through: those of which somebody takes part below it, and somebody elsewhere. Made once for
/// all couplers by going through all joins and bound points; the work is proportional to them.
/// </summary>
public sealed class FilterTables
{
    private readonly Dictionary<RecordId, List<GroupNumber>> _ofLine = [], _ofArea = [];
    private readonly Dictionary<RecordId, BusLine> _lines;

    private FilterTables(Dictionary<RecordId, BusLine> lines) => _lines = lines;

    /// <summary>The tables of a project as it is designed.</summary>
    public static FilterTables Of(Project project)
    {
        var lines = project.All<BusLine>().ToDictionary(l => l.Id);
        var tables = new FilterTables(lines);
        // Which lines take part in each group, each line once.
        var taking = new Dictionary<RecordId, List<BusLine>>();
        foreach (BusDevice device in project.All<BusDevice>())
        {
            if (device.LineId is not { } at || !lines.TryGetValue(at, out BusLine? line)) continue;
            foreach (ObjectJoin join in device.Joins)
            {
                foreach (RecordId group in join.Groups) Takes(group, line);
            }
        }
        // A controller hears and says the groups of its points where it hangs.
        foreach (BusBinding binding in project.All<BusBinding>())
        {
            if (project.Find<Controller>(binding.ControllerId)?.BusLineId is { } at && lines.TryGetValue(at, out BusLine? line)) Takes(binding.GroupId, line);
        }
        var mains = lines.Values.Where(l => l.Line == 0).GroupBy(l => l.Area).ToDictionary(g => g.Key, g => g.First());
        foreach (var (id, list) in taking)
        {
            if (project.Find<GroupAddress>(id) is not { } group || list.Count < 2) continue;
            // One that hangs on the main line is below no line coupler.
            foreach (BusLine line in list.Where(l => l.Line != 0)) Add(tables._ofLine, line.Id, group.Number);
            if (list.Select(l => l.Area).Distinct().Count() < 2) continue;
            foreach (int area in list.Select(l => l.Area).Distinct())
            {
                if (mains.TryGetValue(area, out BusLine? main)) Add(tables._ofArea, main.Id, group.Number);
            }
        }
        foreach (List<GroupNumber> table in tables._ofLine.Values.Concat(tables._ofArea.Values)) table.Sort();
        return tables;

        void Takes(RecordId group, BusLine line)
        {
            if (!taking.TryGetValue(group, out List<BusLine>? list)) taking[group] = list = [];
            if (!list.Contains(line)) list.Add(line);
        }

        static void Add(Dictionary<RecordId, List<GroupNumber>> to, RecordId line, GroupNumber group)
        {
            if (!to.TryGetValue(line, out List<GroupNumber>? table)) to[line] = table = [];
            table.Add(group);
        }
    }

    /// <summary>The groups that a coupler lets through, in order: that of a line, or that of a whole area on its main line.</summary>
    public IReadOnlyList<GroupNumber> Of(BusDevice coupler) => coupler.LineId is { } at && _lines.TryGetValue(at, out BusLine? line) ? (line.Line == 0 ? _ofArea : _ofLine).GetValueOrDefault(at, []) : [];
}
