using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>One step of telegrams that follow from each other: what is said to an address is heard by an object of a device, which then says another to an address.</summary>
public sealed record TelegramStep(GroupAddress From, BusDevice Device, ObjectForm Heard, ObjectForm Said, GroupAddress To);

/// <summary>Finds telegrams that come back to the address they began at, by what behaviours pass on (<see cref="Behaviours.BehaviourObject.Passes"/>).</summary>
public static class TelegramCircle
{
    // What is further away than this is not looked at, so that one address of a large project never asks for all others; who listens to the address itself is.
    private const int MostGroups = 200, MostListeners = 2000;

    /// <summary>The shortest way from an address back to it; null where there is none.</summary>
    public static IReadOnlyList<TelegramStep>? From(Project project, GroupAddress start)
    {
        var cameBy = new Dictionary<RecordId, TelegramStep>();
        var open = new Queue<GroupAddress>([start]);
        int listeners = 0;
        for (int groups = 0; groups < MostGroups && open.TryDequeue(out GroupAddress? group); groups++)
        {
            foreach (TelegramStep step in Steps(project, group))
            {
                if (group.Id != start.Id && ++listeners > MostListeners) return null;
                if (step.To.Id == start.Id) return [.. Back(step)];
                if (cameBy.TryAdd(step.To.Id, step)) open.Enqueue(step.To);
            }
        }
        return null;

        IEnumerable<TelegramStep> Back(TelegramStep last)
        {
            var way = new List<TelegramStep> { last };
            while (way[^1].From.Id != start.Id) way.Add(cameBy[way[^1].From.Id]);
            way.Reverse();
            return way;
        }
    }

    private static IEnumerable<TelegramStep> Steps(Project project, GroupAddress group)
    {
        foreach (var (device, join, _) in group.JoinedIn(project))
        {
            if (device.ValuesIn(project) is not { } values || values.Form.FindObject(join.Object) is not { Hears: true, Is.Passes.Count: > 0 } heard || !values.IsThere(heard)) continue;
            foreach (string key in heard.Is.Passes)
            {
                if (values.Form.FindObject($"{values.Form.Channels[heard.Channel].Key}.{key}") is not { Sends: true } said || !values.IsThere(said)) continue;
                if (device.GroupsOf(said.Path) is [var to, ..] && project.Find<GroupAddress>(to) is { } next) yield return new TelegramStep(group, device, heard, said, next);
            }
        }
    }
}
