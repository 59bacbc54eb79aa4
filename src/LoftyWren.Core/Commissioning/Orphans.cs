using LoftyWren.Core.Alarms;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Commissioning;

/// <summary>What sort of thing is left over.</summary>
public enum OrphanSort
{
    /// <summary>Samples of a log that no controller keeps.</summary>
    Log,
    /// <summary>An alarm that is open and that nobody watches.</summary>
    Alarm,
    /// <summary>An input held by hand at a terminal that no point is on.</summary>
    Hold,
    /// <summary>The certificate and credentials of a controller that is not in the project.</summary>
    Connection,
    /// <summary>A controller that hangs on the site and is not in the project.</summary>
    Device,
}

/// <summary>Something that is left over: its key among all, what it is called, why nothing needs it, and what removing it does.</summary>
public sealed record Orphan(string Key, OrphanSort Sort, RecordId Id, string Name, string Why, string Removing);

/// <summary>Something that a controller has and the project does not know: offered to be taken in, a point also to be taken for one that the project has.</summary>
public sealed record UnknownRecord(RecordId HostId, string Host, RecordId Id, string Noun, string Name, string? Terminal, string? Refusal);

/// <summary>An alarm that is open where alarms are kept.</summary>
public sealed record OpenAlarm(RecordId AlarmId, string Name);

/// <summary>An input that is held by hand.</summary>
public sealed record HeldInput(RecordId HostId, string Terminal);

/// <summary>What the server still supervises and no controller has any more; and what controllers have and the project does not know.</summary>
public static class Orphans
{
    /// <summary>What is left over.</summary>
    /// <param name="project">The project.</param>
    /// <param name="installed">What runs where; null for something that hangs and runs nothing.</param>
    /// <param name="logs">The logs of which samples are kept, with what each was called last, where that is known.</param>
    /// <param name="alarms">The alarms that are open.</param>
    /// <param name="held">The inputs that are held.</param>
    /// <param name="connections">The controllers whose connections are remembered.</param>
    public static IReadOnlyList<Orphan> Of(Project project, IReadOnlyDictionary<RecordId, IHostImage?> installed, IEnumerable<(RecordId Id, string? Name)> logs, IEnumerable<OpenAlarm> alarms, IEnumerable<HeldInput> held, IEnumerable<RecordId> connections)
    {
        var runs = installed.Values.OfType<IHostImage>().SelectMany(i => i.Records).Select(r => r.Id).ToHashSet();
        var found = new List<Orphan>();
        foreach (var (log, name) in logs.Where(l => !runs.Contains(l.Id) && project.Find<TrendLog>(l.Id) is null))
            found.Add(new Orphan($"log|{log}", OrphanSort.Log, log, $"Samples of ‘{name ?? log.Value}’", "The log was removed: no controller keeps it, so nothing is added to it and no page shows it.", "Its samples are deleted; that cannot be undone."));
        foreach (OpenAlarm alarm in alarms.Where(a => !runs.Contains(a.AlarmId)).DistinctBy(a => a.AlarmId))
            found.Add(new Orphan($"alarm|{alarm.AlarmId}", OrphanSort.Alarm, alarm.AlarmId, alarm.Name, project.Find<AlarmRule>(alarm.AlarmId) is null ? "Its rule was removed and sent: nobody watches it, so it would stay open for ever." : "Its rule is in the project but on no controller: nobody watches it until it is sent.", "It is closed and acknowledged, with a note that nobody watches it any more."));
        foreach (HeldInput hold in held)
        {
            if (installed.GetValueOrDefault(hold.HostId)?.Records.OfType<Fitting>().Any(f => f.Terminal == hold.Terminal) == true) continue;
            found.Add(new Orphan($"hold|{hold.HostId}|{hold.Terminal}", OrphanSort.Hold, hold.HostId, $"{project.Find(hold.HostId)?.Name ?? hold.HostId.Value} {hold.Terminal}, held by hand", "No point of what runs there is on this terminal any more, so no list of held points shows it.", "It follows its sensor again."));
        }
        foreach (RecordId connection in connections.Where(c => project.Find(c) is null))
            found.Add(new Orphan($"connection|{connection}", OrphanSort.Connection, connection, $"Connection to {NameOf(connection)}", "The controller is not in the project any more; its certificate and credentials are still kept.", "They are forgotten."));
        foreach (RecordId device in installed.Keys.Where(d => project.Find(d) is null))
            found.Add(new Orphan($"device|{device}", OrphanSort.Device, device, NameOf(device), installed[device] is { } image ? $"It hangs on the site and runs {image.Records.Count} records; the project does not know it." : "It hangs on the site, and the project does not know it.", "It is taken down; what it runs and keeps goes with it."));
        return [.. found.OrderBy(o => o.Sort).ThenBy(o => o.Name, StringComparer.Ordinal)];

        string NameOf(RecordId id) => installed.GetValueOrDefault(id)?.Host.Name ?? id.Value;
    }

    /// <summary>What controllers of the project have and the project does not know.</summary>
    public static IReadOnlyList<UnknownRecord> Unknown(Project project, IReadOnlyDictionary<RecordId, IHostImage?> installed) =>
        [.. installed.Where(i => i.Value is not null && project.Find(i.Key) is not null).OrderBy(i => i.Key).SelectMany(i => TakeOver.Lines(project, project.Find(i.Key)!, i.Value!).Where(l => project.Find(l.Difference.Id) is null)
            .Select(l => new UnknownRecord(i.Key, project.Find(i.Key)!.Name, l.Difference.Id, l.Difference.Noun, l.Difference.Name, i.Value!.Records.OfType<Fitting>().FirstOrDefault(f => f.PointId == l.Difference.Id)?.Terminal, l.Refusal)))];

    /// <summary>The edits that take a point of a controller for one that the project has: it is put where the other is.</summary>
    /// <exception cref="InvalidOperationException">It cannot be; the message says why.</exception>
    public static IReadOnlyList<Edit> Mapped(Project project, RecordId host, IHostImage installed, RecordId unknown, RecordId to)
    {
        if (project.Find<Point>(to) is not { } point) throw new InvalidOperationException("The point that it is to be taken for is not in the project any more.");
        if (installed.Records.FirstOrDefault(r => r.Id == unknown) is not Point there || installed.Records.OfType<Fitting>().FirstOrDefault(f => f.PointId == unknown) is not { } fitting) throw new InvalidOperationException("This is no point that is on a terminal there, so it can be taken for none.");
        if (there.Kind != point.Kind) throw new InvalidOperationException($"‘{there.Name}’ is {there.Kind.ToString().ToLowerInvariant()} and ‘{point.Name}’ is {point.Kind.ToString().ToLowerInvariant()}. Choose a point of the same kind.");
        if (project.BindingOf(to) is { } source) throw new InvalidOperationException($"‘{point.Name}’ is on {project.Find(source.HostId)?.Name} {source.Where} already. Take it off there first, or choose another.");
        return [Edit.Of(fitting with { PointId = to, ControllerId = host }, project.FindEntry(fitting.Id)?.Revision ?? 0)];
    }
}
