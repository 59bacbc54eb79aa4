using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Conversations;

/// <summary>An object that is joined to an address, or no longer is.</summary>
/// <param name="Device">Its device.</param>
/// <param name="Object">What people call it.</param>
/// <param name="Role">The role it plays, in words.</param>
/// <param name="Address">The group address.</param>
/// <param name="Sends">Whether it sends to it.</param>
/// <param name="IsNew">Whether that is new; else it was so before, or is taken away.</param>
/// <param name="Goes">Whether it is taken away.</param>
public sealed record JoinLine(string Device, string Object, string Role, string Address, bool Sends, bool IsNew, bool Goes);

/// <summary>Something that could not be joined, or that somebody should look at, and why.</summary>
public sealed record JoinDoubt(string Device, string What, string Why);

/// <summary>What joining a conversation comes to: addresses that are made, objects that are joined or let go, doubts, and the edits that do it.</summary>
public sealed record Joined(IReadOnlyList<GroupAddress> Made, IReadOnlyList<JoinLine> Lines, IReadOnlyList<JoinDoubt> Doubts, IReadOnlyList<Edit> Edits);

/// <summary>
/// Joins all that takes part in a conversation at once. For each role: the objects that say it (by what their behaviour uses
/// them for and by their datapoint type) send to its address, those that hear it listen to it, feedback has an address for
/// each channel that says it. Addresses that are there stay; those that nobody needs any more go, with their joins.
/// </summary>
public static class Joining
{
    /// <summary>Works out what joining comes to; nothing is changed. The conversation may be one that is not in the project yet.</summary>
    public static Joined Of(Project project, Conversation conversation) => Of(project, [conversation]);

    /// <summary>Works out what joining several comes to.</summary>
    public static Joined Of(Project project, IReadOnlyList<Conversation> conversations)
    {
        var work = new Work(project);
        foreach (Conversation conversation in conversations) work.Join(conversation);
        return work.Done();
    }

    private sealed class Work(Project project)
    {
        private readonly List<GroupAddress> _made = [];
        private readonly List<JoinLine> _lines = [];
        private readonly List<JoinDoubt> _doubts = [];
        private readonly Dictionary<RecordId, BusDevice> _devices = [];
        private readonly HashSet<GroupNumber> _taken = [];
        private readonly List<GroupAddress> _gone = [];
        private readonly List<Conversation> _conversations = [];

        public void Join(Conversation conversation)
        {
            _conversations.Add(conversation);
            if (ConversationKind.Find(conversation.Kind) is not { } kind) return;
            var there = project.Referrers<GroupAddress>(conversation.Id).Where(g => g.ConversationId == conversation.Id && g.Role is not null).ToDictionary(g => g.Role!);
            var parts = new List<(BusDevice Device, DeviceValues Values, int Channel)>();
            foreach (TakingPart part in conversation.Channels)
            {
                if (Device(part.DeviceId) is not { } device) continue;
                if (device.ValuesIn(project) is not { } values || values.Form.ChannelAt(part.Channel) is not (>= 0 and var channel)) _doubts.Add(new JoinDoubt(device.Name, part.Channel, "Its description does not know this channel."));
                else if (!values.IsInUse(channel)) _doubts.Add(new JoinDoubt(device.Name, device.ChannelName(values.Form.Channels[channel]), "The channel is not in use: its function is ‘disabled’. Choose a function, then join again."));
                else parts.Add((device, values, channel));
            }
            var kept = new HashSet<string>();
            var wanted = new Dictionary<RecordId, List<(string Object, GroupAddress Address, bool Sends, string Role)>>();
            var playing = new HashSet<(RecordId, int)>();
            for (int r = 0; r < kind.Roles.Count; r++)
            {
                ConversationRole role = kind.Roles[r];
                DatapointType type = DatapointType.Find(role.Type)!;
                var says = Matching(parts, role.Says, type, role, true).ToList();
                var hears = Matching(parts, role.Hears, type, role, false).ToList();
                if (role.IsFeedback)
                {
                    for (int i = 0; i < says.Count; i++)
                    {
                        var (device, o) = says[i];
                        string key = $"{role.Key}:{device.Id}/{device.ValuesIn(project)!.Form.Channels[o.Channel].Key}";
                        // What tells its state elsewhere already tells it once: whoever wants to know here listens there.
                        GroupAddress? elsewhere = there.ContainsKey(key) ? null : ToldElsewhere(conversation, device, o, key);
                        GroupAddress address = elsewhere ?? AddressOf(key, r, role, o.Type, says.Count == 1 ? "" : $" of {device.ChannelName(device.ValuesIn(project)!.Form.Channels[o.Channel])}");
                        if (elsewhere is null) Want(device, o, address, true, role);
                        else playing.Add((device.Id, o.Channel));
                        // A light shows one state: that of the first who tells it. The others have addresses for points and views.
                        if (i > 0) continue;
                        foreach (var (hearer, heard) in hears) Want(hearer, heard, address, false, role);
                    }
                    continue;
                }
                if (hears.Count == 0 || (says.Count == 0 && !role.IsOpen)) continue;
                // What hears and says the same is one object of the channel: it is no conversation with oneself.
                GroupAddress common = AddressOf(role.Key, r, role, (says.Count > 0 ? says[0] : hears[0]).Object.Type, "");
                foreach (var (device, o) in says) Want(device, o, common, true, role);
                foreach (var (device, o) in hears) Want(device, o, common, false, role);
            }
            foreach (var (device, values, channel) in parts)
            {
                if (!playing.Contains((device.Id, channel))) _doubts.Add(new JoinDoubt(device.Name, device.ChannelName(values.Form.Channels[channel]), $"Nothing of this channel is said or heard in ‘{kind.Label}’. Its function may be another than is meant, or nobody takes part who would hear it."));
            }
            foreach (GroupAddress old in there.Values.Where(g => !kept.Contains(g.Role!)))
            {
                // What a point is bound to is not taken from under it.
                if (project.Referrers<BusBinding>(old.Id).FirstOrDefault() is { } bound) _doubts.Add(new JoinDoubt(project.Find(bound.ControllerId)?.Name ?? "", project.Find(bound.PointId)?.Name ?? "", $"{old.Number} ‘{old.Name}’ is needed by nobody here any more but by this point, so it stays. Bind the point to another address, or take it off."));
                else _gone.Add(old);
            }
            var of = there.Values.Select(g => g.Id).Concat(_made.Where(g => g.ConversationId == conversation.Id).Select(g => g.Id)).ToHashSet();
            var leaving = (project.Find<Conversation>(conversation.Id)?.Channels ?? []).Select(c => c.DeviceId).Except(conversation.Channels.Select(c => c.DeviceId)).ToHashSet();
            foreach (BusDevice device in Everybody(of, wanted.Keys.Concat(leaving)))
            {
                // Who listens here since it takes part elsewhere with whoever tells stays; who leaves lets go of what is told to it elsewhere.
                HashSet<RecordId> settled = [.. of.Concat(leaving.Contains(device.Id) ? device.Joins.SelectMany(j => j.Groups).Where(g => IsToldBy(g, project.Find<Conversation>(conversation.Id)!)) : []).Where(g => !ListensFromElsewhere(conversation, device, g))];
                Settle(device, settled, wanted.GetValueOrDefault(device.Id, []));
            }

            void Want(BusDevice device, ObjectForm o, GroupAddress address, bool sends, ConversationRole role)
            {
                if (!wanted.TryGetValue(device.Id, out var list)) wanted[device.Id] = list = [];
                list.Add((o.Path, address, sends, role.Label));
                playing.Add((device.Id, o.Channel));
            }

            GroupAddress AddressOf(string key, int middle, ConversationRole role, DatapointType type, string of)
            {
                kept.Add(key);
                if (there.TryGetValue(key, out GroupAddress? known)) return known;
                if (_made.FirstOrDefault(g => g.ConversationId == conversation.Id && g.Role == key) is { } made) return made;
                GroupNumber number = Free(conversation, kind, role, middle);
                _taken.Add(number);
                string name = $"{conversation.Name} · {role.Label}{of}";
                var fresh = new GroupAddress { Id = RecordId.New("ga"), Name = name.Length > 120 ? name[..120] : name, Number = number, Datapoint = type.Key, ConversationId = conversation.Id, Role = key };
                _made.Add(fresh);
                return fresh;
            }
        }

        public Joined Done()
        {
            var edits = new List<Edit>();
            foreach (Conversation conversation in _conversations) edits.Add(Edit.Of(conversation, project.FindEntry(conversation.Id)?.Revision ?? 0));
            foreach (GroupAddress address in _made) edits.Add(Edit.Of(address, 0));
            foreach (BusDevice device in _devices.Values)
            {
                if (!RecordJson.Same(device, project.Find(device.Id))) edits.Add(Edit.Of(device, project.FindEntry(device.Id)!.Revision));
            }
            foreach (GroupAddress gone in _gone) edits.Add(Edit.Removing(gone.Id, project.FindEntry(gone.Id)!.Revision));
            return new Joined(_made, _lines, _doubts, edits);
        }

        private BusDevice? Device(RecordId id)
        {
            if (_devices.TryGetValue(id, out BusDevice? device)) return device;
            if (project.Find<BusDevice>(id) is { } found) return _devices[id] = found;
            return null;
        }

        private bool IsToldBy(RecordId group, Conversation conversation) => project.Find<GroupAddress>(group)?.Role is { } role && conversation.Channels.Any(p => role.EndsWith($":{p.DeviceId}/{p.Channel}", StringComparison.Ordinal));

        private bool ListensFromElsewhere(Conversation conversation, BusDevice device, RecordId group) =>
            (project.Find<GroupAddress>(group) ?? _made.Find(m => m.Id == group))?.Role is { } role && role.Contains(':', StringComparison.Ordinal) && !role.Contains($":{device.Id}/", StringComparison.Ordinal)
            && project.Referrers<Conversation>(device.Id).Concat(_conversations).Any(c => c.Id != conversation.Id && c.Channels.Any(p => p.DeviceId == device.Id) && c.Channels.Any(p => role.EndsWith($":{p.DeviceId}/{p.Channel}", StringComparison.Ordinal)));

        private GroupAddress? ToldElsewhere(Conversation conversation, BusDevice device, ObjectForm o, string key) =>
            device.GroupsOf(o.Path).Select(id => project.Find<GroupAddress>(id) ?? _made.Find(m => m.Id == id)).FirstOrDefault(g => g is not null && g.Role == key && g.ConversationId is { } other && other != conversation.Id);

        /// <summary>The devices that are joined to any of some addresses, and those that are to be.</summary>
        private List<BusDevice> Everybody(HashSet<RecordId> addresses, IEnumerable<RecordId> wanted) =>
            [.. addresses.SelectMany(a => project.Referrers<BusDevice>(a)).Select(d => d.Id).Concat(wanted).Distinct().Select(Device).OfType<BusDevice>()];

        private void Settle(BusDevice device, HashSet<RecordId> of, List<(string Object, GroupAddress Address, bool Sends, string Role)> wanted)
        {
            DeviceForm? form = device.ValuesIn(project)?.Form;
            BusDevice before = device;
            foreach (string path in device.Joins.Select(j => j.Object).Concat(wanted.Select(w => w.Object)).Distinct().ToList())
            {
                IReadOnlyList<RecordId> had = before.GroupsOf(path);
                var mine = wanted.Where(w => w.Object == path).ToList();
                // The address that it sends to stands first; what others have joined it to stays behind.
                List<RecordId> groups = [.. mine.Where(m => m.Sends).Select(m => m.Address.Id), .. had.Where(g => !of.Contains(g)), .. mine.Where(m => !m.Sends).Select(m => m.Address.Id)];
                groups = [.. groups.Distinct()];
                if (mine.Count(m => m.Sends) is 0 && had.Count > 0 && !of.Contains(had[0])) groups = [had[0], .. groups.Where(g => g != had[0])];
                string said = form?.FindObject(path) is { } o ? device.SaidOf(o, form) : path;
                foreach (var m in mine.DistinctBy(m => m.Address.Id)) _lines.Add(new JoinLine(device.Name, said, m.Role, m.Address.Number.ToString(), m.Sends, !had.Contains(m.Address.Id), false));
                foreach (RecordId gone in had.Where(g => of.Contains(g) && !groups.Contains(g)))
                {
                    if (project.Find<GroupAddress>(gone) is { } address) _lines.Add(new JoinLine(device.Name, said, address.Name, address.Number.ToString(), had[0] == gone, false, true));
                }
                if (!groups.SequenceEqual(had)) device = device.With(path, groups);
            }
            _devices[device.Id] = device;
        }

        private IEnumerable<(BusDevice Device, ObjectForm Object)> Matching(List<(BusDevice Device, DeviceValues Values, int Channel)> parts, IReadOnlyList<string> wanted, DatapointType type, ConversationRole role, bool says)
        {
            foreach (var (device, values, channel) in parts)
            {
                foreach (ObjectForm o in values.Form.Objects)
                {
                    if (o.Channel != channel || !wanted.Contains(o.Is.Part) || !values.IsThere(o)) continue;
                    if (o.Type.Bits != type.Bits && !(role.IsFeedback && says))
                    {
                        _doubts.Add(new JoinDoubt(device.Name, device.SaidOf(o, values.Form), $"It is {o.Type.Key} {o.Type.Name.ToLowerInvariant()} and the role ‘{role.Label}’ is {type.Key} {type.Name.ToLowerInvariant()}."));
                        continue;
                    }
                    if (o.Type.Main != type.Main && !(role.IsFeedback && says)) _doubts.Add(new JoinDoubt(device.Name, device.SaidOf(o, values.Form), $"It is joined, but it is {o.Type.Key} {o.Type.Name.ToLowerInvariant()} and not {type.Key} {type.Name.ToLowerInvariant()}: both have {type.Bits} bits and may mean different things."));
                    if (says ? o.Sends : o.Hears) yield return (device, o);
                }
            }
        }

        private GroupNumber Free(Conversation conversation, ConversationKind kind, ConversationRole role, int middle) => AddressPlan.Free(project, _taken, conversation, kind, role, middle);
    }
}
