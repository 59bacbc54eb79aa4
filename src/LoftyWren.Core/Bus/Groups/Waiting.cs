using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>Who hears an address and takes it for lost when it does not come for some time (<see cref="Behaviours.BehaviourObject.Watch"/>), and how often it is said (<see cref="Behaviours.BehaviourObject.Again"/>).</summary>
public sealed record Waiting(BusDevice Device, ObjectForm Object, double Seconds)
{
    /// <summary>Who waits the shortest, or null where nobody does.</summary>
    public static Waiting? Shortest(Project project, GroupAddress group) =>
        group.JoinedIn(project).Select(j => (j.Device, Object: ObjectOf(project, j.Device, j.Join))).Where(j => j.Object is { Hears: true })
            .Select(j => new Waiting(j.Device, j.Object!, InForce(project, j.Device, j.Object!, j.Object!.Is.Watch))).Where(w => w.Seconds > 0).MinBy(w => w.Seconds);

    /// <summary>After how many minutes a command of a controller is said again so that nobody who hears it takes it for lost, even where a telegram is missed: a third of the shortest wait; 0 where nobody waits.</summary>
    public static int AgainMinutes(Project project, GroupAddress group) => Shortest(project, group) is { } shortest ? Math.Clamp((int)(shortest.Seconds / 180), 1, BusBinding.MostAgainMinutes) : 0;

    /// <summary>The finding where nobody says an address as often as somebody waits for it, or null.</summary>
    internal static Finding? Finds(Project project, GroupAddress group)
    {
        if (Shortest(project, group) is not { } waits) return null;
        List<BusBinding> commands = [.. project.Referrers<BusBinding>(group.Id).Where(b => project.Find<Point>(b.PointId) is { Role: not PointRole.Sensor })];
        List<(string Who, double Seconds)> says =
        [
            .. group.JoinedIn(project).Where(j => j.Sends).Select(j => (j.Device, Object: ObjectOf(project, j.Device, j.Join))).Where(j => j.Object is { Sends: true })
                .Select(j => ($"‘{j.Device.Name}’", InForce(project, j.Device, j.Object!, j.Object!.Is.Again))),
            .. commands.Select(b => ($"‘{project.Find(b.PointId)!.Name}’ by {project.Find(b.ControllerId)?.Name}", b.AgainMinutes * 60.0)),
        ];
        // Said again at the very moment at which it is lost may be too late.
        if (says.Count == 0 || says.Any(s => s.Seconds > 0 && s.Seconds < waits.Seconds)) return null;
        var (who, every) = says[0];
        ParameterDescription watch = waits.Object.Is.Watch!;
        string Length(double seconds) => watch.Say(Parameters.Write(seconds));
        int again = AgainMinutes(project, group);
        return new Finding($"group-watch|{group.Id}", "group-watch", Severity.Medium, group.Id, $"Nobody says {group.Number} ‘{group.Name}’ as often as it is waited for.",
            $"‘{waits.Device.Name}’, {waits.Device.SaidOf(waits.Object, waits.Device.ValuesIn(project)!.Form)}, takes it for lost when it does not come for {Length(waits.Seconds)}, and {who} says it {(every > 0 ? $"every {Length(every)}" : "only when it is another")}. Let it be said more often, or set ‘{watch.Label}’ to more, or to 0.")
        {
            Fixes = commands.Count == 0 || again * 60 >= waits.Seconds ? [] : [new Fix($"Say it again every {again} min", [.. commands.Select(b => Edit.Of(b with { AgainMinutes = again }, project.FindEntry(b.Id)!.Revision))])],
        };
    }

    private static ObjectForm? ObjectOf(Project project, BusDevice device, ObjectJoin join) => device.ValuesIn(project)?.Form.FindObject(join.Object);

    /// <summary>What a setting of an object says, s; 0 where it is not in force.</summary>
    private static double InForce(Project project, BusDevice device, ObjectForm o, ParameterDescription? setting) =>
        setting is not null && device.ValuesIn(project) is { } values && values.IsThere(o) && values.IsInUse(o.Channel) && values.Form.ParameterAt(o.Channel, setting.Key) is >= 0 and var at && values.IsThere(values.Form.Parameters[at]) ? values.SettingsOf(o.Channel).Number(setting) : 0;
}
