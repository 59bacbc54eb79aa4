using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Formats.Sheets;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Libraries;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Bus;

/// <summary>A device description in the library: what it is, and how many devices of the project are such.</summary>
public sealed record DescriptionLine(string Id, string Name, string? About, LineRole Role, int Revision, int WidthMillimetres, int BusMilliamps, int GivesMilliamps, int Price, bool CanBeSecured, IReadOnlyList<string> Channels, int Parameters, int Objects, bool IsOwn, int Uses);

/// <summary>What a file of descriptions holds: the devices it brings, or what is wrong with it and in which line.</summary>
public sealed record DescriptionReading(IReadOnlyList<string> Devices, IReadOnlyList<FileError> Errors, bool IsTaken);

/// <summary>A datapoint type: its key, name, unit and size.</summary>
public sealed record DatapointLine(string Key, string Name, string Unit, int Bits);

/// <summary>A line with its budgets: devices, and the current that they draw and supplies give, mA.</summary>
public sealed record LineLine(BusLine Line, long Revision, string Written, long Devices, long Drawn, long Given, int MostDevices, int MostLength, double AgainPerSecond, double MostPerSecond, int Findings);

/// <summary>A device in a list.</summary>
public sealed record BusDeviceLine(RecordId Id, long Revision, string Name, string Path, string DescriptionId, string Device, string? Address, RecordId? LineId, string? Serial, int Settings, int Joins, int Conversations, int Findings);

/// <summary>Devices to add: of one description, in a place, on a line or none; named after the device, numbered where several.</summary>
public sealed record NewDevices(string DescriptionId, RecordId PlaceId, RecordId? LineId, string Name, int Count = 1);

/// <summary>Devices that get an address: on a line, from a number on, in their order.</summary>
public sealed record AddressRequest(IReadOnlyList<RecordId> Ids, RecordId LineId, int? From = null, bool Apply = false);

/// <summary>What addresses would be.</summary>
public sealed record AddressProposal(RecordId Id, string Name, string? Was, string Now);

/// <summary>A conversation in a list: its kind, room, who takes part and under which addresses.</summary>
public sealed record ConversationLine(RecordId Id, long Revision, string Name, string Kind, string KindLabel, string Path, RecordId PlaceId, IReadOnlyList<PartLine> Parts, IReadOnlyList<AddressLine> Addresses, int Findings);

/// <summary>A channel that takes part.</summary>
public sealed record PartLine(RecordId DeviceId, string Channel, string Device, string Name, bool IsInUse);

/// <summary>A point that is said or heard under a group address, by which controller.</summary>
public sealed record BoundPoint(RecordId BindingId, RecordId PointId, string Name, string Path, string Controller, bool Says, int AgainMinutes);

/// <summary>A group address with who says it and who hears it.</summary>
public sealed record AddressLine(RecordId Id, long Revision, string Number, string Name, string Type, string TypeName, string? Role, IReadOnlyList<string> Says, IReadOnlyList<string> Hears, IReadOnlyList<BoundPoint> Points, RecordId? ConversationId, int Findings);

/// <summary>A point to be said or heard under a group address; by the controller that holds it, or another; a command again after so many minutes, left out as often as those who hear it ask for.</summary>
public sealed record BindRequest(RecordId GroupId, RecordId PointId, RecordId? ControllerId = null, int? AgainMinutes = null);

/// <summary>A kind of conversation, and what is said in it.</summary>
public sealed record ConversationKindLine(string Key, string Label, string About, IReadOnlyList<string> Roles);

/// <summary>A channel that could take part: in the room or elsewhere.</summary>
public sealed record ChannelChoice(RecordId DeviceId, string Channel, string Device, string Name, string Behaviour, string Path, bool IsHere);

/// <summary>What joining conversations comes to.</summary>
public sealed record JoinedView(IReadOnlyList<JoinedAddress> Made, IReadOnlyList<JoinLine> Lines, IReadOnlyList<JoinDoubt> Doubts, int Edits);

/// <summary>An address that is made.</summary>
public sealed record JoinedAddress(string Number, string Name, string Type);

/// <summary>A conversation as it is to be: its record, and whether to carry it out.</summary>
public sealed record JoinRequest(Conversation Conversation, long? From = null, bool Apply = false);

/// <summary>Rooms that are to be like another, or like a template of a room; only worked out, or done.</summary>
public sealed record FurnishRequest(RecordId? RoomId, string? Library, string? TemplateId, IReadOnlyList<RecordId> Rooms, bool Apply = false);

/// <summary>A template of a room with conversations, and the library it is in.</summary>
public sealed record RoomTemplateLine(string Library, string LibraryName, string Id, string Name);

/// <summary>What furnishing comes to, room by room, with doubts and what stands in its way; of how many edits it is made.</summary>
public sealed record FurnishedView(IReadOnlyList<FurnishedRoom> Rooms, int Addresses, int Joins, IReadOnlyList<JoinDoubt> Doubts, IReadOnlyList<string> Refusals, int Edits);

internal static class BusEndpoints
{
    private const int MostNew = 200, MostChoices = 500;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/bus/descriptions", (Workspace workspace) =>
        {
            Project project = workspace.Project;
            var uses = project.All<BusDevice>().GroupBy(d => d.DescriptionId).ToDictionary(g => g.Key, g => g.Count());
            // What has been superseded is offered only where the project uses it already.
            return DescriptionShelf.Of(project).Where(d => d.SupersededBy is null || uses.ContainsKey(d.Id)).Select(d => new DescriptionLine(d.Id, d.Name, d.About, d.Role, d.Revision, d.WidthMillimetres, d.BusMilliamps, d.GivesMilliamps, d.Price, d.CanBeSecured,
                [.. d.Channels.Where(c => c.Behaviour != "device").Select(c => $"{c.Count} × {Core.Bus.Behaviours.BehaviourKinds.Find(c.Behaviour)!.Name.ToLowerInvariant()}")], d.Form.Parameters.Count, d.Form.Objects.Count, DescriptionShelf.Shipped.All(s => s.Id != d.Id), uses.GetValueOrDefault(d.Id))).ToList();
        }).For(Role.Viewer);
        api.MapPost("/bus/descriptions", async Task<Results<Ok<DescriptionReading>, ProblemHttpResult>> (HttpContext http, Workspace workspace, bool? take) =>
        {
            try
            {
                ListReading<DeviceDescription> read = DescriptionFile.Parse(System.Text.Encoding.UTF8.GetString(await Uploads.Read(http)).TrimStart('\uFEFF'));
                if (take == true)
                {
                    if (read.Errors.Count > 0) return Problems.Refused($"The file was not taken: {read.Errors[0]}");
                    if (read.Items.Count == 0) return Problems.Refused("The file has no device.");
                    Project project = workspace.Project;
                    var own = project.All<OwnDescription>().ToDictionary(m => m.Description.Id);
                    Edit[] edits = [.. read.Items.Select(d => own.GetValueOrDefault(d.Id) is { } there ? Edit.Of(there with { Name = d.Name, Description = d }, project.FindEntry(there.Id)!.Revision) : Edit.Of(new OwnDescription { Id = RecordId.New("description"), Name = d.Name, Description = d }, 0))];
                    ChangeOutcome outcome = workspace.Apply(edits, http.User.Identity!.Name!, $"Took {edits.Length} device descriptions into the bus library");
                    if (!outcome.Accepted) return Problems.Of(outcome);
                }
                return TypedResults.Ok(new DescriptionReading([.. read.Items.Select(m => $"{m.Name} ({m.Id})")], read.Errors, take == true));
            }
            catch (FileRefusedException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapGet("/schemas/bus-devices.json", () => TypedResults.File(System.Text.Encoding.UTF8.GetBytes(DescriptionFile.Schema()), "application/schema+json", "bus-devices.json")).For(Role.Viewer);
        api.MapGet("/bus/datapoint-types", () => DatapointType.All.Select(t => new DatapointLine(t.Key, t.Name, t.Unit, t.Bits)).ToList()).For(Role.Viewer);
        api.MapGet("/bus/lines", (Workspace workspace) =>
        {
            Project project = workspace.Project;
            return project.All<BusLine>().OrderBy(l => l.Area).ThenBy(l => l.Line).Select(l => new LineLine(l, project.FindEntry(l.Id)!.Revision, l.Written, project.Sum(l.Id, BusLine.Count), project.Sum(l.Id, BusLine.Drawn), project.Sum(l.Id, BusLine.Given), BusLine.MostDevices, BusLine.MostLength, BusLine.AgainOn(project, l), Math.Round(BusLine.MostTelegrams * BusLine.AgainShare), workspace.Findings.On(l.Id).Count)).ToList();
        }).For(Role.Viewer);
        api.MapGet("/bus/devices", (Workspace workspace) =>
        {
            Project project = workspace.Project;
            var talks = project.All<Conversation>().SelectMany(c => c.Channels.Select(p => (p.DeviceId, c.Id)).Distinct()).GroupBy(p => p.DeviceId).ToDictionary(g => g.Key, g => g.Count());
            return project.All<BusDevice>().Select(d => (Device: d, Address: d.AddressIn(project))).OrderBy(d => d.Address is null).ThenBy(d => d.Address?.Raw ?? 0).ThenBy(d => d.Device.Name, NaturalOrder.Names)
                .Select(d => new BusDeviceLine(d.Device.Id, project.FindEntry(d.Device.Id)!.Revision, d.Device.Name, project.PathOf(d.Device.Id), d.Device.DescriptionId, d.Device.DescriptionIn(project)?.Name ?? d.Device.DescriptionId, d.Address?.ToString(), d.Device.LineId, d.Device.Serial,
                    d.Device.Settings.Count, d.Device.Joins.Count, talks.GetValueOrDefault(d.Device.Id), workspace.Findings.On(d.Device.Id).Count)).ToList();
        }).For(Role.Viewer);
        api.MapPost("/bus/devices", Results<Ok<ChangeAnswer>, ProblemHttpResult> (NewDevices request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (DescriptionShelf.Find(project, request.DescriptionId) is not { } description) return Problems.Refused($"The bus library has no device ‘{request.DescriptionId}’.");
            if (project.Find<Place>(request.PlaceId) is not { } place) return Problems.Refused("Choose the room that it is in.");
            if (request.LineId is { } line && project.Find<BusLine>(line) is null) return Problems.Missing("line");
            if (request.Count is < 1 or > MostNew) return Problems.Refused($"1 to {MostNew} devices are added at once, not {request.Count}.");
            string name = request.Name.Trim() is { Length: > 0 } given ? given : description.Name;
            var names = project.Referrers<BusDevice>(place.Id).Select(d => d.Name.ToLowerInvariant()).ToHashSet();
            var numbers = new HashSet<int>();
            var edits = new List<Edit>();
            for (int n = 1, i = 0; i < request.Count; n++)
            {
                string each = request.Count == 1 && n == 1 ? name : $"{name} {n}";
                if (!names.Add(each.ToLowerInvariant())) continue;
                int number = request.LineId is { } on ? description.Role == LineRole.Coupler && project.Referrers<BusDevice>(on).All(d => d.Number != 0) ? 0 : BusDevice.FreeNumber(project, on, numbers) : 0;
                numbers.Add(number);
                edits.Add(Edit.Of(new BusDevice { Id = RecordId.New("bus"), Name = each, PlaceId = place.Id, DescriptionId = description.Id, Revision = description.Revision, LineId = request.LineId, Number = request.LineId is null || (number == 0 && description.Role != LineRole.Coupler) ? null : number }, 0));
                i++;
            }
            return ProjectEndpoints.Answer(workspace.Apply(edits, http.User.Identity!.Name!, edits.Count == 1 ? $"Added bus device ‘{name}’ to ‘{place.Name}’" : $"Added {edits.Count} bus devices to ‘{place.Name}’"));
        }).For(Role.Engineer);
        api.MapPost("/bus/addresses", Results<Ok<List<AddressProposal>>, ProblemHttpResult> (AddressRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (project.Find<BusLine>(request.LineId) is not { } line) return Problems.Missing("line");
            List<BusDevice> devices = [.. request.Ids.Select(id => project.Find<BusDevice>(id)).OfType<BusDevice>()];
            // Numbers of those that are moved are free for the others.
            var free = devices.Where(d => d.LineId == line.Id && d.Number is not null).Select(d => d.Number!.Value).ToHashSet();
            var held = project.Referrers<BusDevice>(line.Id).Where(d => d.LineId == line.Id && d.Number is not null && !free.Contains(d.Number.Value)).Select(d => d.Number!.Value).ToHashSet();
            int next = request.From ?? 1;
            var edits = new List<Edit>();
            var proposals = new List<AddressProposal>();
            foreach (BusDevice device in devices)
            {
                while (next <= IndividualAddress.MostDevice && held.Contains(next)) next++;
                if (next is < 0 or > IndividualAddress.MostDevice) return Problems.Refused($"Line {line.Written} has no number left for {devices.Count - proposals.Count} of the devices. Begin lower, or put some on another line.");
                proposals.Add(new AddressProposal(device.Id, device.Name, device.AddressIn(project)?.ToString(), IndividualAddress.Of(line.Area, line.Line, next).ToString()));
                edits.Add(Edit.Of(device with { LineId = line.Id, Number = next }, project.FindEntry(device.Id)!.Revision));
                next++;
            }
            if (!request.Apply) return TypedResults.Ok(proposals);
            ChangeOutcome outcome = workspace.Apply(edits, http.User.Identity!.Name!, $"Gave {edits.Count} bus devices addresses on line {line.Written}");
            return outcome.Accepted ? TypedResults.Ok(proposals) : Problems.Of(outcome);
        }).For(Role.Engineer);
        MapConversations(api);
        MapBindings(api);
        MapFurnishing(api);
    }

    private static void MapConversations(RouteGroupBuilder api)
    {
        api.MapGet("/bus/conversation-kinds", () => ConversationKind.All.Select(k => new ConversationKindLine(k.Key, k.Label, k.About, [.. k.Roles.Select(r => r.Label)])).ToList()).For(Role.Viewer);
        api.MapGet("/bus/conversations", (Workspace workspace) =>
        {
            Project project = workspace.Project;
            return project.All<Conversation>().Select(c => (Of: c, Path: project.PathOf(c.Id))).OrderBy(c => c.Path, NaturalOrder.Names).ThenBy(c => c.Of.Name, NaturalOrder.Names).Select(c => new ConversationLine(c.Of.Id, project.FindEntry(c.Of.Id)!.Revision, c.Of.Name, c.Of.Kind, ConversationKind.Find(c.Of.Kind)?.Label ?? c.Of.Kind, c.Path, c.Of.PlaceId,
                [.. c.Of.Channels.Select(p => PartOf(project, p)).OfType<PartLine>()], [.. project.Referrers<GroupAddress>(c.Of.Id).Where(g => g.ConversationId == c.Of.Id).OrderBy(g => g.Number).Select(g => AddressOf(workspace, project, g))], workspace.Findings.On(c.Of.Id).Count)).ToList();
        }).For(Role.Viewer);
        api.MapGet("/bus/groups", (Workspace workspace) =>
        {
            Project project = workspace.Project;
            return project.All<GroupAddress>().OrderBy(g => g.Number).Select(g => AddressOf(workspace, project, g)).ToList();
        }).For(Role.Viewer);
        api.MapGet("/bus/places/{placeId}/channels", Results<Ok<List<ChannelChoice>>, ProblemHttpResult> (string placeId, string kind, string? words, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(placeId) || project.Find<Place>(new RecordId(placeId)) is not { } place) return Problems.Missing("place");
            if (ConversationKind.Find(kind) is not { } about) return Problems.Refused($"There is no kind of conversation ‘{kind}’.");
            return TypedResults.Ok(ThoseWhoCouldTakePart(project, place.Id, about, (words ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)).Take(MostChoices).ToList());
        }).For(Role.Viewer);
        api.MapPost("/bus/join", Results<Ok<JoinedView>, ProblemHttpResult> (JoinRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            Conversation conversation = request.Conversation;
            if (ConversationKind.Find(conversation.Kind) is null) return Problems.Refused($"There is no kind of conversation ‘{conversation.Kind}’.");
            if (project.Find<Place>(conversation.PlaceId) is null) return Problems.Refused("Choose the room that the conversation is about.");
            if (conversation.Channels.Count > Conversation.Most) return Problems.Refused($"At most {Conversation.Most} channels take part in a conversation.");
            return Join(workspace, [conversation], request.Apply ? http.User.Identity!.Name! : null, $"Joined ‘{conversation.Name}’");
        }).For(Role.Engineer);
        api.MapPost("/bus/join-all", Results<Ok<JoinedView>, ProblemHttpResult> (IReadOnlyList<RecordId> ids, bool? apply, HttpContext http, Workspace workspace) =>
        {
            List<Conversation> conversations = [.. ids.Distinct().Select(id => workspace.Project.Find<Conversation>(id)).OfType<Conversation>()];
            return conversations.Count == 0 ? Problems.Missing("conversation") : Join(workspace, conversations, apply == true ? http.User.Identity!.Name! : null, $"Joined {conversations.Count} conversations");
        }).For(Role.Engineer);
    }

    private static void MapBindings(RouteGroupBuilder api)
    {
        api.MapPost("/bus/bind", Results<Ok<ChangeAnswer>, ProblemHttpResult> (BindRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (project.Find<GroupAddress>(request.GroupId) is not { } group) return Problems.Missing("group address");
            if (project.Find<Point>(request.PointId) is not { } point) return Problems.Refused("Choose the point that is said or heard under this address.");
            PointBinding? before = project.BindingOf(point.Id);
            // Whoever holds the point goes on holding it, unless another is named; else whoever hangs on a line.
            Controller? host = project.Find<Controller>(request.ControllerId) ?? project.Find<Controller>(before?.HostId) ?? project.All<Controller>().Where(c => c.BusLineId is not null).OrderBy(c => c.Id).FirstOrDefault();
            if (host is null) return Problems.Refused("No controller hangs on a two-wire line. Say in a controller's dossier on which line it hangs, and its number there.");
            var edits = new List<Edit>();
            if (before is not null) edits.Add(Edit.Removing(before.Id, project.FindEntry(before.Id)!.Revision));
            int again = request.AgainMinutes ?? (point.Role == PointRole.Sensor ? 0 : Waiting.AgainMinutes(project, group));
            edits.Add(Edit.Of(new BusBinding { Id = RecordId.New("bind"), Name = $"{group.Number}", ControllerId = host.Id, PointId = point.Id, GroupId = group.Id, AgainMinutes = again }, 0));
            return ProjectEndpoints.Answer(workspace.Apply(edits, http.User.Identity!.Name!, $"‘{point.Name}’ is {(point.Role == PointRole.Sensor ? "heard" : "said")} under {group.Number} by {host.Name}"));
        }).For(Role.Engineer);
    }

    private static void MapFurnishing(RouteGroupBuilder api)
    {
        api.MapGet("/bus/room-templates", (HttpContext http, Shelf shelf) => shelf.For(http.User.Identity!.Name!).SelectMany(l => shelf.Templates(l.Id).Select(h => (Library: l, Template: shelf.Find(http.User.Identity!.Name!, l.Id, h.Id)))).Where(t => t.Template?.Records[0] is Place { Kind: PlaceKind.Room } && t.Template.Records.Any(r => r is Conversation))
            .Select(t => new RoomTemplateLine(t.Library.Id, t.Library.Name, t.Template!.Id, t.Template.Name)).ToList()).For(Role.Viewer);
        api.MapPost("/bus/furnish", Results<Ok<FurnishedView>, ProblemHttpResult> (FurnishRequest request, HttpContext http, Workspace workspace, Shelf shelf) =>
        {
            Project project = workspace.Project;
            string author = http.User.Identity!.Name!;
            var links = new Dictionary<RecordId, RecordId>();
            Template template;
            if (request.Library is { } library && request.TemplateId is { } id)
            {
                if (shelf.Find(author, library, id) is not { } found) return Problems.Missing("template");
                template = found;
            }
            else if (project.Find<Place>(request.RoomId) is { } model) template = Capture.Of(project, model.Id, "room", model.Name, [], links);
            else return Problems.Refused("Choose the room or the template that the others are to be like.");
            Furnished furnished;
            try
            {
                furnished = Furnishing.Plan(project, template, request.Rooms, links);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
            if (request.Apply)
            {
                if (furnished.Refusals.Count > 0) return Problems.Refused(string.Join(" ", furnished.Refusals));
                ChangeOutcome outcome = workspace.Apply(furnished.Edits, author, $"Furnished {furnished.Rooms.Count} room{(furnished.Rooms.Count == 1 ? "" : "s")} like ‘{template.Name}’");
                if (!outcome.Accepted) return Problems.Of(outcome);
            }
            return TypedResults.Ok(new FurnishedView(furnished.Rooms, furnished.Addresses, furnished.Joins, [.. furnished.Doubts.Take(200)], furnished.Refusals, furnished.Edits.Count));
        }).For(Role.Engineer);
    }

    private static Results<Ok<JoinedView>, ProblemHttpResult> Join(Workspace workspace, IReadOnlyList<Conversation> conversations, string? author, string label)
    {
        Joined joined;
        try
        {
            joined = Joining.Of(workspace.Project, conversations);
        }
        catch (InvalidOperationException e)
        {
            return Problems.Refused(e.Message);
        }
        if (author is not null)
        {
            ChangeOutcome outcome = workspace.Apply(joined.Edits, author, label);
            if (!outcome.Accepted) return Problems.Of(outcome);
        }
        return TypedResults.Ok(new JoinedView([.. joined.Made.OrderBy(m => m.Number).Select(m => new JoinedAddress(m.Number.ToString(), m.Name, $"{m.Datapoint} {DatapointType.Find(m.Datapoint)?.Name}"))], joined.Lines, joined.Doubts, joined.Edits.Count));
    }

    private static PartLine? PartOf(Project project, TakingPart part) => project.Find<BusDevice>(part.DeviceId) is not { } device ? null
        : device.ValuesIn(project) is { } values && values.Form.ChannelAt(part.Channel) is >= 0 and var at ? new PartLine(device.Id, part.Channel, device.Name, device.ChannelName(values.Form.Channels[at]), values.IsInUse(at)) : new PartLine(device.Id, part.Channel, device.Name, part.Channel, false);

    /// <summary>Channels that have something to say or hear in a conversation: without words those of the room, with words all that have them, those of the room first.</summary>
    private static IEnumerable<ChannelChoice> ThoseWhoCouldTakePart(Project project, RecordId placeId, ConversationKind about, string[] words)
    {
        var devices = project.All<BusDevice>().Select(d => (Device: d, IsNear: d.PlaceId == placeId || d.Uses.Any(u => u.PlaceId == placeId))).Where(d => d.IsNear || words.Length > 0)
            .Select(d => (d.Device, d.IsNear, Path: project.PathOf(d.Device.Id))).OrderBy(d => d.Path, NaturalOrder.Names).ThenBy(d => d.Device.Name, NaturalOrder.Names).ToList();
        return devices.Where(d => d.IsNear).SelectMany(d => Of(d.Device, d.Path)).Where(c => c.IsHere).Concat(words.Length == 0 ? [] : devices.SelectMany(d => Of(d.Device, d.Path)).Where(c => !c.IsHere));

        IEnumerable<ChannelChoice> Of(BusDevice device, string path)
        {
            if (device.ValuesIn(project) is not { } values) yield break;
            for (int at = 0; at < values.Form.Channels.Count; at++)
            {
                ChannelForm channel = values.Form.Channels[at];
                if (channel.Behaviour.Key == "device" || !values.IsInUse(at)) continue;
                string name = device.ChannelName(channel);
                if (words.Length > 0 && !Array.TrueForAll(words, w => $"{device.Name} {name} {channel.Key} {path} {channel.Behaviour.Name}".Contains(w, StringComparison.OrdinalIgnoreCase))) continue;
                if (!values.Form.Objects.Any(o => o.Channel == at && o.Is.Part.Length > 0 && values.IsThere(o) && about.Roles.Any(r => r.Says.Contains(o.Is.Part) || r.Hears.Contains(o.Is.Part)))) continue;
                yield return new ChannelChoice(device.Id, channel.Key, device.Name, name, channel.Behaviour.Name, path, device.PlaceId == placeId || device.Uses.Any(u => u.Channel == channel.Key && u.PlaceId == placeId));
            }
        }
    }

    internal static AddressLine AddressOf(Workspace workspace, Project project, GroupAddress g)
    {
        var says = new List<string>();
        var hears = new List<string>();
        foreach (var (device, join, sends) in g.JoinedIn(project))
        {
            if (device.ValuesIn(project)?.Form is not { } form || form.FindObject(join.Object) is not { } o) continue;
            string said = $"{device.Name}: {device.SaidOf(o, form)}";
            if (sends && o.Sends) says.Add(said);
            if (o.Hears) hears.Add(said);
        }
        return new AddressLine(g.Id, project.FindEntry(g.Id)!.Revision, g.Number.ToString(), g.Name, g.Datapoint, DatapointType.Find(g.Datapoint)?.Name ?? "", g.Role, says, hears, [.. project.Referrers<BusBinding>(g.Id).Select(b => (Binding: b, Point: project.Find<Point>(b.PointId))).Where(b => b.Point is not null).Select(b => new BoundPoint(b.Binding.Id, b.Point!.Id, b.Point.Name, project.PathOf(b.Point.Id), project.Find(b.Binding.ControllerId)?.Name ?? "", b.Point.Role != PointRole.Sensor, b.Binding.AgainMinutes))], g.ConversationId, workspace.Findings.On(g.Id).Count);
    }
}
