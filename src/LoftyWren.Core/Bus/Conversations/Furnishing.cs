using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;

namespace LoftyWren.Core.Bus.Conversations;

/// <summary>What a room gets: the devices that are made for it and those of its own that serve, the channels of devices elsewhere that serve it, its conversations and stories, by name.</summary>
public sealed record FurnishedRoom(RecordId PlaceId, string Name, IReadOnlyList<string> Made, IReadOnlyList<string> Own, IReadOnlyList<string> Channels, IReadOnlyList<string> Conversations, IReadOnlyList<string> Stories);

/// <summary>What furnishing comes to: room by room, how many addresses and joins, doubts, refusals, and the edits that do it.</summary>
public sealed record Furnished(IReadOnlyList<FurnishedRoom> Rooms, int Addresses, int Joins, IReadOnlyList<JoinDoubt> Doubts, IReadOnlyList<string> Refusals, IReadOnlyList<Edit> Edits);

/// <summary>
/// Gives rooms the bus devices, conversations and stories of a template of a room, all in one change. A device of the template is
/// one that the room has (by description and name, else by description) or is made, on the line of its model and with the next free number.
/// A channel of a device outside the template (an actuator in a panel) is one that serves the room: by what it does, the same
/// description and name first; else the next channel of a device alike that is for nothing yet, set as its model. Addresses are
/// made by plan, all objects are joined (<see cref="Joining"/>). Doing it again changes nothing.
/// </summary>
public static class Furnishing
{
    /// <summary>The most rooms at once.</summary>
    public const int MostRooms = 500;

    /// <summary>Works it out; nothing is changed.</summary>
    /// <param name="project">The project.</param>
    /// <param name="template">A template of a room.</param>
    /// <param name="rooms">The rooms.</param>
    /// <param name="links">Where references out of the template lead, as far as that is known; else the project is asked for their namesakes.</param>
    public static Furnished Plan(Project project, Template template, IReadOnlyList<RecordId> rooms, IReadOnlyDictionary<RecordId, RecordId>? links = null)
    {
        var refusals = new List<string>();
        if (template.Records[0] is not Place { Kind: PlaceKind.Room }) refusals.Add($"‘{template.Name}’ is no template of a room. Choose a room that is finished, or a template taken from one.");
        else if (!template.Records.Any(r => r is Conversation)) refusals.Add($"‘{template.Name}’ has no conversation. Join one room first; then others are made like it.");
        if (rooms.Count is 0 or > MostRooms) refusals.Add($"Choose 1 to {MostRooms} rooms.");
        foreach (RecordId id in rooms)
        {
            if (project.Find(id) is not Place { Kind: PlaceKind.Room }) refusals.Add("One of the places is no room any more.");
        }
        if (refusals.Count > 0) return new Furnished([], 0, 0, [], refusals, []);
        var work = new Work(project, template, links ?? new Dictionary<RecordId, RecordId>());
        foreach (RecordId room in rooms.Distinct()) work.Furnish(project.Find<Place>(room)!);
        return work.Done();
    }

    private sealed class Work(Project project, Template template, IReadOnlyDictionary<RecordId, RecordId> links)
    {
        private readonly Dictionary<RecordId, BusDevice> _devices = [];
        private readonly Dictionary<RecordId, HashSet<int>> _numbers = [];
        private readonly Dictionary<(RecordId Device, string Channel), RecordId> _given = [];
        private readonly List<Conversation> _conversations = [];
        private readonly List<Story> _stories = [];
        private readonly List<FurnishedRoom> _rooms = [];
        private readonly List<JoinDoubt> _doubts = [];
        private readonly HashSet<(RecordId, string)> _talking = [.. project.All<Conversation>().SelectMany(c => c.Channels).Select(p => (p.DeviceId, p.Channel))];
        private ILookup<RecordId, (BusDevice Device, ChannelForm Channel)>? _serving;

        public void Furnish(Place room)
        {
            var ids = new Dictionary<RecordId, RecordId> { [template.Records[0].Id] = room.Id };
            List<string> made = [], own = [], channels = [], conversations = [], stories = [];
            var used = new HashSet<RecordId>();
            foreach (BusDevice model in template.Records.OfType<BusDevice>())
            {
                BusDevice device = Own(model, room, used, ids, out bool isMade);
                used.Add(device.Id);
                ids[model.Id] = device.Id;
                (isMade ? made : own).Add(device.Name);
            }
            var elsewhere = new Dictionary<(RecordId, string), TakingPart?>();
            foreach (Conversation model in template.Records.OfType<Conversation>())
            {
                var parts = new List<TakingPart>();
                foreach (TakingPart part in model.Channels)
                {
                    if (ids.TryGetValue(part.DeviceId, out RecordId mine)) parts.Add(part with { DeviceId = mine });
                    else
                    {
                        if (!elsewhere.TryGetValue((part.DeviceId, part.Channel), out TakingPart? found)) elsewhere[(part.DeviceId, part.Channel)] = found = Elsewhere(part, room, elsewhere.Values, channels);
                        if (found is not null) parts.Add(found);
                    }
                }
                string name = Named(model.Name, room);
                Conversation? there = project.Referrers<Conversation>(room.Id).FirstOrDefault(c => c.Name.Equals(name, StringComparison.OrdinalIgnoreCase));
                if (there is not null && there.Kind != model.Kind)
                {
                    _doubts.Add(new JoinDoubt(room.Name, name, "The room has a conversation of this name that is about something else; it stays as it is."));
                    continue;
                }
                // What somebody let take part besides stays.
                _conversations.Add((there ?? model with { Id = RecordId.New("conv"), PlaceId = room.Id, Name = name }) with { Channels = [.. (there?.Channels ?? []).Concat(parts).Distinct()] });
                conversations.Add(name);
            }
            foreach (Story model in template.Records.OfType<Story>())
            {
                Story led = Led(model, ids);
                string name = Named(model.Name, room);
                if (project.Referrers<Story>(led.OwnerId).Any(s => s.OwnerId == led.OwnerId && s.Name.Equals(name, StringComparison.OrdinalIgnoreCase))) continue;
                _stories.Add(led with { Id = RecordId.New("story"), Name = name });
                stories.Add(name);
            }
            _rooms.Add(new FurnishedRoom(room.Id, room.Name, made, own, channels, conversations, stories));
        }

        public Furnished Done()
        {
            // What is joined are the devices as they will be.
            var edits = _devices.Values.Where(d => !RecordJson.Same(d, project.Find(d.Id))).Select(d => Edit.Of(d, project.FindEntry(d.Id)?.Revision ?? 0)).ToList();
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "furnishing", 0, "Furnishing"));
            if (outcome.After is not { } with) return new Furnished([], 0, 0, [], [.. outcome.Refusals.Select(r => r.Sentence).Distinct().Take(20)], []);
            Joined joined = Joining.Of(with, _conversations);
            var all = edits.ToDictionary(e => e.Put!.Id);
            foreach (Edit edit in joined.Edits)
            {
                if (edit.Put is { } put) all[put.Id] = Edit.Of(put, project.FindEntry(put.Id)?.Revision ?? 0);
                else all[edit.Remove!.Value] = edit;
            }
            // Devices stand before what refers to them, stories after.
            IReadOnlyList<Edit> ordered = [.. all.Values.Where(e => e.Put is null || !RecordJson.Same(e.Put, project.Find(e.Put.Id))), .. _stories.Select(s => Edit.Of(s, 0))];
            return new Furnished(_rooms, joined.Made.Count, joined.Lines.Count(l => l.IsNew), [.. _doubts, .. joined.Doubts], [], ordered);
        }

        /// <summary>A story about the devices of the room; what it tells to a device that this project has not is told to nobody.</summary>
        private Story Led(Story model, Dictionary<RecordId, RecordId> ids)
        {
            var all = new Dictionary<RecordId, RecordId>(ids);
            foreach (TemplateExternal external in template.Externals)
            {
                if (Real(external.Id) is { } real) all[external.Id] = real.Id;
            }
            var lost = model.References().Select(r => r.To).Where(to => !all.ContainsKey(to)).ToHashSet();
            model = model with { Events = [.. model.Events.Where(e => e.DeviceId is not { } d || !lost.Contains(d))], Expectations = [.. model.Expectations.Where(e => e.DeviceId is not { } d || !lost.Contains(d))] };
            return (Story)model.Led(all);
        }

        private string Named(string name, Place room) => name.Replace("{name}", room.Name, StringComparison.Ordinal);

        private BusDevice Now(BusDevice device) => _devices.GetValueOrDefault(device.Id, device);

        private BusDevice? Real(RecordId external) => (links.TryGetValue(external, out RecordId to) ? project.Find(to) : template.Externals.FirstOrDefault(e => e.Id == external) is { } named ? PlacingWords.Origin(project, named) : null) as BusDevice;

        private BusDevice Own(BusDevice model, Place room, HashSet<RecordId> used, Dictionary<RecordId, RecordId> ids, out bool isMade)
        {
            string name = Named(model.Name, room);
            var alike = project.Referrers<BusDevice>(room.Id).Where(d => d.PlaceId == room.Id && d.DescriptionId == model.DescriptionId && !used.Contains(d.Id)).OrderBy(d => d.Name, NaturalOrder.Names).ToList();
            isMade = false;
            if ((alike.Find(d => d.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) ?? alike.FirstOrDefault()) is { } there)
            {
                // One that nobody has set yet is set like its model; what somebody set stays.
                return _devices[there.Id] = Now(there) with { Settings = there.Settings.Count == 0 ? model.Settings : there.Settings, Uses = there.Uses.Count == 0 ? Uses(model, room, ids) : there.Uses };
            }
            isMade = true;
            RecordId? line = model.LineId is { } at ? links.TryGetValue(at, out RecordId led) ? led : template.Externals.FirstOrDefault(e => e.Id == at) is { } named ? PlacingWords.Origin(project, named)?.Id : null : null;
            if (line is { } on && project.Find<BusLine>(on) is null) line = null;
            int number = line is { } numbered ? BusDevice.FreeNumber(project, numbered, _numbers.GetValueOrDefault(numbered)) : 0;
            if (line is { } taken)
            {
                if (!_numbers.TryGetValue(taken, out HashSet<int>? numbers)) _numbers[taken] = numbers = [];
                numbers.Add(number);
                if (number == 0) _doubts.Add(new JoinDoubt(name, room.Name, "The line of its model has no number left. Put it on another line."));
            }
            var made = model with { Id = RecordId.New("bus"), Name = name, PlaceId = room.Id, LineId = number == 0 ? null : line, Number = number == 0 ? null : number, Serial = null, Joins = [], Uses = Uses(model, room, ids) };
            return _devices[made.Id] = made;
        }

        /// <summary>What channels are for in another room: its own equipment of the same kind and name.</summary>
        private IReadOnlyList<ChannelUse> Uses(BusDevice model, Place room, Dictionary<RecordId, RecordId> ids) =>
            [.. model.Uses.Select(u => u with { Name = u.Name is { } n ? Named(n, room) : null, PlaceId = u.PlaceId is { } p && ids.TryGetValue(p, out RecordId to) ? to : null, EquipmentId = u.EquipmentId is { } e ? Equipment(e, room)?.Id : null })];

        private Equipment? Equipment(RecordId of, Place room)
        {
            Equipment? model = template.Records.OfType<Equipment>().FirstOrDefault(e => e.Id == of);
            if (model is null) return null;
            string name = Named(model.Name, room);
            var alike = project.Referrers<Equipment>(room.Id).Where(e => e.PlaceId == room.Id && e.Kind == model.Kind).OrderBy(e => e.Name, NaturalOrder.Names).ToList();
            int turn = template.Records.OfType<Equipment>().Where(e => e.Kind == model.Kind).OrderBy(e => e.Name, NaturalOrder.Names).ToList().IndexOf(model);
            return alike.Find(e => e.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) ?? alike.ElementAtOrDefault(turn);
        }

        private TakingPart? Elsewhere(TakingPart part, Place room, IEnumerable<TakingPart?> taken, List<string> told)
        {
            if (Real(part.DeviceId) is not { } model || model.ValuesIn(project) is not { } values || values.Form.ChannelAt(part.Channel) is not (>= 0 and var at))
            {
                string called = template.Externals.FirstOrDefault(e => e.Id == part.DeviceId)?.Called() ?? "a device";
                _doubts.Add(new JoinDoubt(called, room.Name, $"Its channel ‘{part.Channel}’ takes part in the model and this project has no such device. Let the channels of this room take part by hand."));
                return null;
            }
            ChannelForm wanted = values.Form.Channels[at];
            string? use = model.Uses.FirstOrDefault(u => u.Channel == part.Channel)?.Name;
            // What serves a whole house serves this room too: it stands in no room of its own use and has told no room.
            if (!values.Form.Channels[at].Behaviour.Drives.Any()) return new TakingPart(model.Id, part.Channel);
            _serving ??= project.All<BusDevice>().SelectMany(d => d.Uses.Where(u => u.PlaceId is not null).Select(u => (Device: d, Use: u))).Where(x => x.Device.ValuesIn(project)?.Form.ChannelAt(x.Use.Channel) is >= 0)
                .ToLookup(x => x.Use.PlaceId!.Value, x => (x.Device, x.Device.ValuesIn(project)!.Form.Channels[x.Device.ValuesIn(project)!.Form.ChannelAt(x.Use.Channel)]));
            var here = _serving[room.Id].Where(c => c.Channel.Behaviour == wanted.Behaviour && !taken.Contains(new TakingPart(c.Device.Id, c.Channel.Key)))
                .OrderBy(c => c.Device.DescriptionId == model.DescriptionId ? 0 : 1).ThenBy(c => use is not null && c.Device.Uses.Any(u => u.Channel == c.Channel.Key && u.Name == use) ? 0 : 1).ThenBy(c => c.Device.Name, NaturalOrder.Names).ThenBy(c => c.Channel.Number).ToList();
            if (here.Count > 0)
            {
                told.Add($"{here[0].Device.Name} · {here[0].Device.ChannelName(here[0].Channel)}");
                return new TakingPart(here[0].Device.Id, here[0].Channel.Key);
            }
            // The next channel that is for nothing yet: of the model's own device, then of others alike on its line.
            foreach (BusDevice device in project.All<BusDevice>().Where(d => d.DescriptionId == model.DescriptionId && d.LineId == model.LineId).OrderBy(d => d.Id == model.Id ? 0 : 1).ThenBy(d => d.Name, NaturalOrder.Names))
            {
                foreach (ChannelForm channel in values.Form.Channels.Where(c => c.Behaviour == wanted.Behaviour))
                {
                    BusDevice now = Now(device);
                    if (_talking.Contains((device.Id, channel.Key)) || _given.ContainsKey((device.Id, channel.Key)) || now.Uses.Any(u => u.Channel == channel.Key) || now.Joins.Any(j => j.Object.StartsWith($"{channel.Key}.", StringComparison.Ordinal))) continue;
                    _given[(device.Id, channel.Key)] = room.Id;
                    foreach (ParameterForm parameter in values.Form.Parameters.Where(p => p.Channel == at))
                    {
                        if (values.Form.Find($"{channel.Key}{parameter.Path[wanted.Key.Length..]}") is { } same) now = now.With(same, model.Settings.FirstOrDefault(s => s.Path == parameter.Path)?.Value);
                    }
                    _devices[device.Id] = now with { Uses = [.. now.Uses.Append(new ChannelUse(channel.Key) { Name = use, PlaceId = room.Id })] };
                    told.Add($"{device.Name} · {channel.Title}");
                    return new TakingPart(device.Id, channel.Key);
                }
            }
            _doubts.Add(new JoinDoubt(model.Name, room.Name, $"No channel like ‘{wanted.Title}’ is free for this room on the line. Add another {model.DescriptionIn(project)?.Name ?? "device"}, or say which channel serves the room."));
            return null;
        }
    }
}
