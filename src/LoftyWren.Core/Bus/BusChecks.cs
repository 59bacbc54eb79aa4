using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Bus;

/// <summary>The checks of bus devices, group addresses and conversations.</summary>
internal static class BusChecks
{
    private const int Shown = 4;

    public static IEnumerable<Finding> OnDevice(Project project, BusDevice device)
    {
        if (device.ValuesIn(project) is not { } values) yield break;
        DeviceForm form = values.Form;
        Finding Of(string code, Severity severity, string what, string why) => new($"{code}|{device.Id}", code, severity, device.Id, what, why);
        if (values.Idle.Select(p => $"{(p.Channel < 0 ? "" : device.ChannelName(form.Channels[p.Channel]) + " · ")}{p.Is.Label}").ToList() is { Count: > 0 } idle)
            yield return Of("bus-idle", Severity.Low, $"‘{device.Name}’ has {(idle.Count == 1 ? "a value that is" : $"{idle.Count} values that are")} set but not in force.", $"{Some(idle)}: hidden by other parameters. They come into force again when those say so; take them back if that is not meant.");
        if (device.LineId is null || device.Number is null)
        {
            yield return Of("bus-address", Severity.Low, $"‘{device.Name}’ has no individual address.", "Choose its line and a number on it; Wire › Bus does it for many at once.");
        }
        var joined = device.Joins.Select(j => j.Object).ToHashSet();
        var alone = Enumerable.Range(0, form.Channels.Count).Where(c => values.IsInUse(c) && form.Channels[c].Behaviour.Key is not ("device" or "function") && form.Objects.Any(o => o.Channel == c && values.IsThere(o)) && !form.Objects.Any(o => o.Channel == c && joined.Contains(o.Path))).Select(c => device.ChannelName(form.Channels[c])).ToList();
        if (alone.Count > 0) yield return Of("bus-unjoined", Severity.Low, $"{(alone.Count == 1 ? "A channel" : $"{alone.Count} channels")} of ‘{device.Name}’ {(alone.Count == 1 ? "is" : "are")} in use and joined to nothing.", $"{Some(alone)}. Let them take part in a conversation, or set their function to ‘disabled’.");
        var hidden = device.Joins.Where(j => form.FindObject(j.Object) is { } o && !values.IsThere(o)).Select(j => device.SaidOf(form.FindObject(j.Object)!, form)).ToList();
        if (hidden.Count > 0) yield return Of("bus-hidden-join", Severity.Medium, $"‘{device.Name}’ is joined by {(hidden.Count == 1 ? "an object that is" : $"{hidden.Count} objects that are")} not there.", $"{Some(hidden)}: hidden by its parameters, so nothing is said or heard. Set the parameters, or take the join away.");
        var differ = device.Joins.SelectMany(j => j.Groups.Select(g => (Join: j, Group: project.Find<GroupAddress>(g)))).Where(x => x.Group is not null && form.FindObject(x.Join.Object) is { } o && DatapointType.Find(x.Group.Datapoint) is { } type && (type.Main != o.Type.Main || (type.Unit != o.Type.Unit && o.Type.IsSingle)))
            .Select(x => $"{x.Group!.Number} is {x.Group.Datapoint}, {device.SaidOf(form.FindObject(x.Join.Object)!, form)} is {form.FindObject(x.Join.Object)!.Type.Key}").ToList();
        if (differ.Count > 0) yield return Of("bus-type", Severity.Medium, $"Datapoint types differ at ‘{device.Name}’.", $"{Some(differ)}. What is sent would be taken for something else.");
    }

    public static IEnumerable<Finding> OnGroup(Project project, GroupAddress group)
    {
        Finding Of(string code, Severity severity, string what, string why) => new($"{code}|{group.Id}", code, severity, group.Id, what, why);
        var joined = group.JoinedIn(project).Select(j => (j.Device, j.Join, j.Sends, Object: j.Device.ValuesIn(project)?.Form.FindObject(j.Join.Object))).Where(j => j.Object is not null).ToList();
        var points = project.Referrers<BusBinding>(group.Id).Select(b => project.Find<Point>(b.PointId)).OfType<Point>().ToList();
        if (joined.Count == 0 && points.Count == 0)
        {
            yield return Of("group-unused", Severity.Low, $"Nothing is joined to {group.Number} ‘{group.Name}’.", "Join objects to it, or remove it.");
            yield break;
        }
        bool hasListener = joined.Any(j => j.Object!.Hears) || points.Any(p => p.Role == PointRole.Sensor), hasSender = joined.Any(j => j.Sends && j.Object!.Sends) || points.Any(p => p.Role != PointRole.Sensor);
        ConversationRole? role = group.Role is { } key && group.ConversationId is { } id && project.Find<Conversation>(id) is { } conversation ? ConversationKind.Find(conversation.Kind)?.Roles.FirstOrDefault(r => key.Split(':')[0] == r.Key) : null;
        bool isFeedback = role?.IsFeedback == true;
        // An open role is kept for who may send to it later: a central command, an operator.
        if (!hasSender && role?.IsOpen != true) yield return Of("group-no-sender", Severity.Low, $"Nothing sends to {group.Number} ‘{group.Name}’.", "What receives it waits for ever. Add a member that sends, bind a point to it, or remove the address.");
        if (!hasListener && !isFeedback) yield return Of("group-no-listener", Severity.Low, $"Nothing listens to {group.Number} ‘{group.Name}’.", "What is sent to it is heard by nobody.");
        if (Waiting.Finds(project, group) is { } waits) yield return waits;
        var states = joined.Where(j => j.Sends && j.Object!.Is.Part.EndsWith(" state", StringComparison.Ordinal)).ToList();
        if (Scenes(joined.Select(j => (j.Device, j.Object!, j.Device.ValuesIn(project)!))) is { } scenes) yield return Of("group-scenes", Severity.Medium, $"Scene numbers are out of step at {group.Number} ‘{group.Name}’.", scenes);
        if (TelegramCircle.From(project, group) is { } circle && circle.All(s => group.Number.CompareTo(s.From.Number) <= 0))
            yield return Of("group-circle", Severity.High, $"What is said to {group.Number} ‘{group.Name}’ comes back to it.", $"{string.Join("; ", circle.Select(s => $"{s.From.Number} is heard by ‘{s.Device.Name}’, {s.Device.SaidOf(s.Heard, s.Device.ValuesIn(project)!.Form)}, which says {s.Device.SaidOf(s.Said, s.Device.ValuesIn(project)!.Form)} to {s.To.Number}"))}. Telegrams may go round without end. Take one of these joins away.");
        if (states.Count > 1) yield return Of("group-two-feedbacks", Severity.Medium, $"{states.Count} channels tell their state to {group.Number} ‘{group.Name}’.", $"{Some([.. states.Select(s => $"{s.Device.Name}: {s.Device.SaidOf(s.Object!, s.Device.ValuesIn(project)!.Form)}")])}: what is shown is that of whoever spoke last. Give each its own address.");
    }

    /// <summary>What of the scenes that are called and answered under an address does not fit; null where all does, or nobody calls any.</summary>
    private static string? Scenes(IEnumerable<(BusDevice Device, ObjectForm Object, DeviceValues Values)> joined)
    {
        var called = new SortedDictionary<int, string>();
        var answered = new SortedDictionary<int, string>();
        foreach (var (device, o, values) in joined)
        {
            if (o.Is.Scenes is not { } setting || !values.IsThere(o)) continue;
            SettingValues settings = values.SettingsOf(o.Channel);
            for (int i = 1; i <= (setting.Repeat ?? 1); i++)
            {
                int number = (int)settings.Number(setting, setting.Repeat is null ? 0 : i);
                if (number > 0) (o.Sends ? called : answered).TryAdd(number, $"{device.Name}, {device.ChannelName(values.Form.Channels[o.Channel])}");
            }
        }
        if (called.Count == 0) return null;
        var unheard = called.Where(c => !answered.ContainsKey(c.Key)).Select(c => $"scene {c.Key} is called by {c.Value} and nobody answers to it").ToList();
        var uncalled = answered.Where(a => !called.ContainsKey(a.Key)).Select(a => $"{a.Value} answers to scene {a.Key}, which nobody calls").ToList();
        return unheard.Count == 0 ? null : $"{Some([.. unheard.Concat(uncalled)])}. A scene has the same number, 1 to 64, at who calls it and at who answers.";
    }

    /// <summary>Whether a device on a bus line commands what a point stands for: it sends to the point's own group address, or to one by which its conversation is commanded.</summary>
    public static bool IsCommanded(Project project, Point point)
    {
        if (project.BindingOf(point.Id) is not BusBinding binding || project.Find<GroupAddress>(binding.GroupId) is not { } own) return false;
        IEnumerable<GroupAddress> groups = own.ConversationId is { } id && project.Find<Conversation>(id) is { } conversation
            ? project.Referrers<GroupAddress>(conversation.Id).Where(g => ConversationKind.Find(conversation.Kind)?.Roles.FirstOrDefault(r => r.Key == g.Role?.Split(':')[0]) is not { IsFeedback: true }) : [own];
        return groups.Any(g => g.JoinedIn(project).Any(j => j.Sends && j.Device.ValuesIn(project)?.Form.FindObject(j.Join.Object) is { Sends: true }));
    }

    public static IEnumerable<Finding> OnConversation(Project project, Conversation conversation)
    {
        if (conversation.Channels.Count == 0)
        {
            yield return new Finding($"conversation-empty|{conversation.Id}", "conversation-empty", Severity.Low, conversation.Id, $"Nobody takes part in ‘{conversation.Name}’.", "Choose the channels that do.");
            yield break;
        }
        Joined joined = Joining.Of(project, conversation);
        int missing = joined.Lines.Count(l => l.IsNew || l.Goes);
        if (joined.Made.Count > 0 || missing > 0)
            yield return new Finding($"conversation-behind|{conversation.Id}", "conversation-behind", Severity.Medium, conversation.Id, $"‘{conversation.Name}’ is not joined as its channels are now.", $"{joined.Made.Count} addresses and {missing} joins are missing or too many. Join it again.")
            { Fixes = [new Fix($"Join ‘{conversation.Name}’", joined.Edits)] };
        // Who talks to points alone has nobody here to tell.
        if (conversation.Channels.Count > 1 && ConversationKind.Find(conversation.Kind)!.Roles.Any(r => r.IsFeedback) && !conversation.Channels.Any(c => project.Find<BusDevice>(c.DeviceId) is { } told && told.Joins.Any(j => j.Groups.Any(g => project.Find<GroupAddress>(g)?.Role?.EndsWith($":{c.DeviceId}/{c.Channel}", StringComparison.Ordinal) == true))) && joined.Lines.All(l => !l.Sends || !ConversationKind.Find(conversation.Kind)!.Roles.Any(r => r.IsFeedback && r.Label == l.Role)))
            yield return new Finding($"conversation-feedback|{conversation.Id}", "conversation-feedback", Severity.Low, conversation.Id, $"Nobody tells in ‘{conversation.Name}’ what was done.", "No channel that takes part says its state, so that nothing shows it. Let the actuator take part.");
    }

    private static string Some(List<string> names) => names.Count <= Shown + 1 ? string.Join(", ", names) : $"{string.Join(", ", names.Take(Shown))} and {names.Count - Shown} more";
}
