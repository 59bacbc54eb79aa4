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

    /// <summary>A short way from an address back to it, on which each hears what another has said; null where there is none.</summary>
    public static IReadOnlyList<TelegramStep>? From(Project project, GroupAddress start)
    {
        var known = new Dictionary<RecordId, List<Way>>();
        // Shorter ways first, and before all those that are back already and may go on to the next who listens.
        var open = new PriorityQueue<(GroupAddress Group, Way? By), int>([((start, null), 0)]);
        int listeners = 0;
        for (int groups = 0; groups < MostGroups && open.TryDequeue(out var at, out _); groups++)
        {
            foreach (TelegramStep step in Steps(project, at.Group))
            {
                if (step.Device.Id == at.By?.Step.Device.Id) continue;
                if (at.Group.Id != start.Id && ++listeners > MostListeners) return null;
                var way = new Way(step, at.By);
                // It goes on from there only if whoever began it hears another.
                if (step.To.Id == start.Id && step.Device.Id != way.First.Device.Id) return way.Steps;
                if (!known.TryGetValue(step.To.Id, out List<Way>? there)) known[step.To.Id] = there = [];
                if (IsStoodFor(way, there)) continue;
                there.Add(way);
                open.Enqueue((step.To, way), step.To.Id == start.Id ? 0 : way.Length);
            }
        }
        return null;
    }

    /// <summary>
    /// Whether whatever a way to an address could lead to, one of those that are known leads to: it goes on by any other device than
    /// its last and ends by any other than its first. So a few ways stand for all.
    /// </summary>
    private static bool IsStoodFor(Way way, List<Way> known)
    {
        RecordId nobody = new("-");
        foreach (RecordId next in known.Select(k => k.Step.Device.Id).Append(nobody))
        {
            if (next == way.Step.Device.Id) continue;
            foreach (RecordId last in known.Select(k => k.First.Device.Id).Append(nobody))
            {
                if (last != way.First.Device.Id && !known.Exists(k => k.Step.Device.Id != next && k.First.Device.Id != last)) return false;
            }
        }
        return true;
    }

    private sealed record Way(TelegramStep Step, Way? Before)
    {
        public TelegramStep First { get; } = Before?.First ?? Step;

        public int Length { get; } = (Before?.Length ?? 0) + 1;

        public IReadOnlyList<TelegramStep> Steps => [.. Before?.Steps ?? [], Step];
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
