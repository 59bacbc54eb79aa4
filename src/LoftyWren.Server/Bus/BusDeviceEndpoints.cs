using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Bus;

/// <summary>A bus device as its page shows it: its record, its description in short, its channels and pages.</summary>
public sealed record BusDeviceView(BusDevice Device, long Revision, string Path, string? Address, string Described, string? About, bool CanBeSecured, IReadOnlyList<ChannelView> Channels, int Differing, int Idle, IReadOnlyList<StoryIdea> Ideas);

/// <summary>A channel (an empty key: the device as a whole): what it is called, whether it is there and does anything, its pages, how many of its parameters differ from how they begin, how many objects it has and how many of them are joined; what it senses and drives; between which sides (heating, cooling) parameters are copied.</summary>
public sealed record ChannelView(string Key, string Title, string Name, string Behaviour, bool IsThere, bool IsInUse, IReadOnlyList<string> Pages, int Differing, int Objects, int Joined, IReadOnlyList<PortView> Senses, IReadOnlyList<PortView> Drives, ChannelUse? Use, IReadOnlyList<string> Sides);

/// <summary>Something that a channel senses or drives.</summary>
public sealed record PortView(string Key, string Name, string Unit, double Low, double High, IReadOnlyList<string>? States);

/// <summary>Parameters of a channel: those that are there, and of those that are not why.</summary>
public sealed record ParameterView(string Path, string Key, string Page, string Channel, string ChannelTitle, string Label, ParameterSort Sort, string Value, string Said, string Default, bool Differs, bool IsThere, string? Hidden, IReadOnlyList<Unmet> Needs, string? Unit, double? Least, double? Most, double? Step, IReadOnlyList<ParameterChoice>? Choices, string? Help);

/// <summary>Which parameters are wanted: of a channel (empty: of the device as a whole; null: of all), those that hold some words, those that differ from how they begin, those that are hidden too.</summary>
public sealed record ParameterQuery(string? Channel = null, string? Words = null, bool Differing = false, bool Hidden = false);

/// <summary>Parameters as texts; an empty one, or null, takes a setting back.</summary>
public sealed record SettingsRequest(IReadOnlyList<SettingText> Settings, long? From = null);

/// <summary>A parameter and what it is to be.</summary>
public sealed record SettingText(string Path, string? Text);

/// <summary>What of a channel is copied to which others; of this device or of others of the same kind. Everything, or only what is named; or what is set for one side (heating, cooling) onto the other.</summary>
public sealed record SettingCopy(string From, IReadOnlyList<string> ToChannels, IReadOnlyList<RecordId> ToDevices, bool Apply = false, string? Side = null);

/// <summary>A parameter that would be another.</summary>
public sealed record SettingDifference(string Device, string Channel, string Label, string Was, string Now);

/// <summary>A communication object, and its groups; the first is that which it sends to.</summary>
public sealed record ObjectView(string Path, int Number, string Channel, string ChannelTitle, string Name, string Type, string TypeName, string Flags, BusPriority Priority, bool Hears, bool Sends, string Part, bool IsThere, string? Hidden, IReadOnlyList<JoinedGroup> Groups);

/// <summary>A group address that an object is joined to.</summary>
public sealed record JoinedGroup(RecordId Id, string Number, string Name);

/// <summary>The groups of an object, by address or by name; the first is that which it sends to. An address that is not there is made where <paramref name="Make"/>.</summary>
public sealed record ObjectJoinRequest(string Object, IReadOnlyList<string> Groups, bool Make = false, long? From = null);

/// <summary>An object and its groups, by address or by name.</summary>
public sealed record ObjectGroups(string Object, IReadOnlyList<string> Groups);

/// <summary>Several objects of a device and their groups; see <see cref="ObjectJoinRequest"/>.</summary>
public sealed record ObjectJoinsRequest(IReadOnlyList<ObjectGroups> Joins, bool Make = false, long? From = null);

/// <summary>What a channel is for.</summary>
public sealed record ChannelUseRequest(string Channel, string? Name, RecordId? PlaceId, RecordId? EquipmentId);

/// <summary>A story to tell: to a device or to all of a room, what happens and must come of it; and settings to lay over, of one device.</summary>
public sealed record TellRequest(RecordId OwnerId, double Seconds, IReadOnlyList<StoryEvent> Events, IReadOnlyList<StoryExpectation> Expectations, IReadOnlyList<SettingText>? Over = null, RecordId? OverDevice = null);

/// <summary>What came of it; and under the settings laid over it, where there are any. What each device is called.</summary>
public sealed record ToldStory(StoryRun Run, StoryRun? Over, IReadOnlyDictionary<string, string> Devices);

/// <summary>A story that is kept, with its revision.</summary>
public sealed record KeptStory(Story Story, long Revision);

internal static class BusDeviceEndpoints
{
    private const int MostParameters = 2000;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/bus/devices/{id}", Results<Ok<BusDeviceView>, ProblemHttpResult> (string id, Workspace workspace) =>
            Find(workspace, id) is { } device && device.ValuesIn(workspace.Project) is { } values ? TypedResults.Ok(View(workspace.Project, device, values)) : Problems.Missing("bus device")).For(Role.Viewer);
        api.MapPost("/bus/devices/{id}/parameters", Results<Ok<List<ParameterView>>, ProblemHttpResult> (string id, ParameterQuery query, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } device || device.ValuesIn(workspace.Project) is not { } values) return Problems.Missing("bus device");
            string[] words = (query.Words ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
            int channel = query.Channel is { Length: > 0 } key ? values.Form.ChannelAt(key) : -1;
            return TypedResults.Ok(values.Form.Parameters.Where(p => (query.Channel is null || p.Channel == channel) && (query.Hidden || values.IsThere(p)) && (!query.Differing || (values.SetOf(p) is { } set && set != p.Is.Begins)))
                .Where(p => words.Length == 0 || Array.TrueForAll(words, w => $"{p.Is.Label} {p.Is.Help} {p.Is.Words} {values.Form.Pages[p.Page].Title} {(p.Channel < 0 ? "" : values.Form.Channels[p.Channel].Title)}".Contains(w, StringComparison.OrdinalIgnoreCase)))
                .Take(MostParameters).Select(p => Of(device, values, p)).ToList());
        }).For(Role.Viewer);
        api.MapPost("/bus/devices/{id}/settings", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, SettingsRequest request, HttpContext http, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } device || device.ValuesIn(workspace.Project) is not { } values) return Problems.Missing("bus device");
            if (request.Settings.Count is 0 or > BusDevice.Most) return Problems.Refused("There is nothing to set.");
            string label = "";
            foreach (SettingText setting in request.Settings)
            {
                if (values.Form.Find(setting.Path) is not { } parameter) return Problems.Refused($"‘{device.Name}’ has no parameter ‘{setting.Path}’.");
                string? value = null;
                if (!string.IsNullOrWhiteSpace(setting.Text))
                {
                    var read = parameter.Is.Read(setting.Text);
                    if (read.Refusal is not null) return Problems.Refused(read.Refusal);
                    value = read.Value;
                }
                device = device.With(parameter, value);
                label = $"{(parameter.Channel < 0 ? "" : values.Form.Channels[parameter.Channel].Title + " · ")}{parameter.Is.Label} of ‘{device.Name}’ is {parameter.Is.Say(value ?? parameter.Is.Begins)}";
            }
            return ProjectEndpoints.Answer(workspace.Apply([Edit.Of(device, request.From ?? workspace.Project.FindEntry(device.Id)!.Revision)], http.User.Identity!.Name!, request.Settings.Count == 1 ? Short(label) : Short($"Set {request.Settings.Count} parameters of ‘{device.Name}’")));
        }).For(Role.Engineer);
        api.MapPost("/bus/devices/{id}/copy", Results<Ok<List<SettingDifference>>, ProblemHttpResult> (string id, SettingCopy request, HttpContext http, Workspace workspace) => Copy(id, request, http, workspace)).For(Role.Engineer);
        api.MapPost("/bus/devices/{id}/uses", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, ChannelUseRequest request, HttpContext http, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } device) return Problems.Missing("bus device");
            var use = new ChannelUse(request.Channel) { Name = string.IsNullOrWhiteSpace(request.Name) ? null : request.Name.Trim(), PlaceId = request.PlaceId, EquipmentId = request.EquipmentId };
            bool says = use.Name is not null || use.PlaceId is not null || use.EquipmentId is not null;
            BusDevice after = device with { Uses = [.. device.Uses.Where(u => u.Channel != request.Channel).Concat(says ? [use] : []).OrderBy(u => u.Channel, StringComparer.Ordinal)] };
            return ProjectEndpoints.Answer(workspace.Apply([Edit.Of(after, workspace.Project.FindEntry(device.Id)!.Revision)], http.User.Identity!.Name!, Short($"Channel {request.Channel} of ‘{device.Name}’ is {use.Name ?? "for what it was"}")));
        }).For(Role.Engineer);
        api.MapGet("/bus/devices/{id}/objects", Results<Ok<List<ObjectView>>, ProblemHttpResult> (string id, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (Find(workspace, id) is not { } device || device.ValuesIn(project) is not { } values) return Problems.Missing("bus device");
            return TypedResults.Ok(values.Form.Objects.Where(o => values.IsThere(o) || device.GroupsOf(o.Path).Count > 0).Select(o => new ObjectView(o.Path, o.Number, values.Form.Channels[o.Channel].Key, device.ChannelName(values.Form.Channels[o.Channel]), device.SaidOf(o, values.Form), o.Type.Key, o.Type.Name, o.Flags, o.Priority, o.Hears, o.Sends, o.Is.Part, values.IsThere(o),
                values.WhyHidden(o.Name.Replace("{channel} · ", "", StringComparison.Ordinal), o.When)?.Sentence, [.. device.GroupsOf(o.Path).Select(g => project.Find<GroupAddress>(g)).OfType<GroupAddress>().Select(g => new JoinedGroup(g.Id, g.Number.ToString(), g.Name))])).ToList());
        }).For(Role.Viewer);
        api.MapPost("/bus/devices/{id}/joins", (string id, ObjectJoinRequest request, HttpContext http, Workspace workspace) => Join(id, [new ObjectGroups(request.Object, request.Groups)], request.Make, request.From, http, workspace)).For(Role.Engineer);
        api.MapPost("/bus/devices/{id}/joins/several", (string id, ObjectJoinsRequest request, HttpContext http, Workspace workspace) => Join(id, request.Joins, request.Make, request.From, http, workspace)).For(Role.Engineer);
        api.MapGet("/bus/stories/{owner}", Results<Ok<List<KeptStory>>, ProblemHttpResult> (string owner, Workspace workspace) => !RecordId.IsValid(owner) ? Problems.Missing("story")
            : TypedResults.Ok(workspace.Project.Referrers<Story>(new RecordId(owner)).Where(s => s.OwnerId.Value == owner).OrderBy(s => s.Name, NaturalOrder.Names).Select(s => new KeptStory(s, workspace.Project.FindEntry(s.Id)!.Revision)).ToList())).For(Role.Viewer);
        api.MapPost("/bus/stories/tell", async Task<Results<Ok<ToldStory>, ProblemHttpResult>> (TellRequest request, Workspace workspace, CancellationToken cancel) =>
        {
            Project project = workspace.Project;
            if (project.Find<BusDevice>(request.OwnerId) is null && project.Find<Place>(request.OwnerId) is null) return Problems.Missing("bus device or room");
            IReadOnlyList<StagedDevice> cast = Story.Cast(project, request.OwnerId);
            if (cast.Count == 0) return Problems.Refused("There is no bus device here that a story could be told to.");
            IReadOnlyList<StagedDevice>? over = null;
            if (request.Over is { Count: > 0 } settings)
            {
                RecordId about = request.OverDevice ?? request.OwnerId;
                if (project.Find<BusDevice>(about) is not { } device || device.ValuesIn(project) is not { } values) return Problems.Missing("bus device");
                foreach (SettingText setting in settings)
                {
                    if (values.Form.Find(setting.Path) is not { } parameter) return Problems.Refused($"‘{device.Name}’ has no parameter ‘{setting.Path}’.");
                    var read = string.IsNullOrWhiteSpace(setting.Text) ? (Value: null, Refusal: null) : parameter.Is.Read(setting.Text);
                    if (read.Refusal is not null) return Problems.Refused(read.Refusal);
                    device = device.With(parameter, read.Value);
                }
                over = [.. cast.Select(c => c.Id == about ? Story.Staged(project, device)! : c)];
            }
            try
            {
                // A long story is told beside the request's own thread, and ends with it.
                return await Task.Run<Results<Ok<ToldStory>, ProblemHttpResult>>(() => TypedResults.Ok(new ToldStory(StoryStage.Tell(cast, request.Events, request.Expectations, request.Seconds, cancel), over is null ? null : StoryStage.Tell(over, request.Events, request.Expectations, request.Seconds, cancel), cast.ToDictionary(c => c.Id.Value, c => c.Name))), cancel);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Viewer);
    }

    /// <summary>Joins objects of a device to groups, all of them in one change or none.</summary>
    private static Results<Ok<ChangeAnswer>, ProblemHttpResult> Join(string id, IReadOnlyList<ObjectGroups> joins, bool makes, long? from, HttpContext http, Workspace workspace)
    {
        Project project = workspace.Project;
        if (Find(workspace, id) is not { } device || device.ValuesIn(project) is not { } values) return Problems.Missing("bus device");
        if (joins.Count is 0 or > BusDevice.Most) return Problems.Refused($"1 to {BusDevice.Most} objects are joined at once.");
        var edits = new List<Edit>();
        var made = new Dictionary<GroupNumber, GroupAddress>();
        BusDevice after = device;
        string said = "";
        foreach (ObjectGroups join in joins)
        {
            if (values.Form.FindObject(join.Object) is not { } o) return Problems.Refused($"‘{device.Name}’ has no object ‘{join.Object}’.");
            var groups = new List<RecordId>();
            foreach (string text in join.Groups.Select(g => g.Trim()).Where(g => g.Length > 0))
            {
                GroupNumber? number = GroupNumber.Read(text);
                GroupAddress? group = number is { } at ? GroupAddress.At(project, at) ?? made.GetValueOrDefault(at) : project.All<GroupAddress>().FirstOrDefault(g => g.Name.Equals(text, StringComparison.OrdinalIgnoreCase));
                if (group is null && number is { Raw: > 0 } open && makes)
                {
                    made[open] = group = new GroupAddress { Id = RecordId.New("ga"), Name = Short($"{device.Name} · {device.SaidOf(o, values.Form)}", 120), Number = open, Datapoint = o.Type.Key };
                    edits.Add(Edit.Of(group, 0));
                }
                if (group is null) return Problems.Refused($"{(number is null ? $"‘{text}’ is neither a group address (1/2/34) nor the name of one." : $"There is no group address {number}. Make it, or choose another.")}{(joins.Count > 1 ? $" It stands at {device.SaidOf(o, values.Form)}; nothing was joined." : "")}");
                if (!groups.Contains(group.Id)) groups.Add(group.Id);
            }
            after = after.With(o.Path, groups);
            said = groups.Count == 0 ? $"‘{device.SaidOf(o, values.Form)}’ of ‘{device.Name}’ is joined to nothing" : $"Joined ‘{device.SaidOf(o, values.Form)}’ of ‘{device.Name}’ to {string.Join(", ", join.Groups)}";
        }
        edits.Add(Edit.Of(after, from ?? project.FindEntry(device.Id)!.Revision));
        return ProjectEndpoints.Answer(workspace.Apply(edits, http.User.Identity!.Name!, Short(joins.Count == 1 ? said : $"Joined {joins.Count} objects of ‘{device.Name}’")));
    }

    private static Results<Ok<List<SettingDifference>>, ProblemHttpResult> Copy(string id, SettingCopy request, HttpContext http, Workspace workspace)
    {
        Project project = workspace.Project;
        if (Find(workspace, id) is not { } source || source.ValuesIn(project) is not { } values) return Problems.Missing("bus device");
        bool whole = request.From.Length == 0;
        int from = whole ? -1 : values.Form.ChannelAt(request.From);
        if (!whole && from < 0) return Problems.Refused($"‘{source.Name}’ has no channel ‘{request.From}’.");
        if (request.Side is { } named && (whole || values.Form.Channels[from].Behaviour.Settings.All(s => s.Twin?.Side != named))) return Problems.Refused($"Choose a channel that has settings for ‘{named}’; they are copied onto its other side.");
        var differences = new List<SettingDifference>();
        var edits = new List<Edit>();
        foreach (BusDevice device in request.ToDevices.Count == 0 ? [source] : request.ToDevices.Distinct().Select(d => project.Find<BusDevice>(d)).OfType<BusDevice>())
        {
            if (device.DescriptionId != source.DescriptionId) return Problems.Refused($"‘{device.Name}’ is another device than ‘{source.Name}’; parameters are copied among devices of one description.");
            BusDevice after = device;
            foreach (ParameterForm target in values.Form.Parameters)
            {
                // All of the device, or one channel onto others alike.
                ParameterForm? origin = request.Side is { } side ? Across(values.Form, request, target, side) : whole ? target : target.Channel >= 0 && request.ToChannels.Contains(values.Form.Channels[target.Channel].Key) && values.Form.Channels[target.Channel].Is.Key == values.Form.Channels[from].Is.Key ? values.Form.Find($"{request.From}.{target.Is.Key}") : null;
                if (origin is null) continue;
                string? now = values.SetOf(origin), was = device.Settings.FirstOrDefault(s => s.Path == target.Path)?.Value;
                if ((now ?? target.Is.Begins) == (was ?? target.Is.Begins)) continue;
                after = after.With(target, now);
                differences.Add(new SettingDifference(device.Name, target.Channel < 0 ? "" : device.ChannelName(values.Form.Channels[target.Channel]), target.Is.Label!, target.Is.Say(was ?? target.Is.Begins), target.Is.Say(now ?? target.Is.Begins)));
            }
            if (!ReferenceEquals(after, device)) edits.Add(Edit.Of(after, project.FindEntry(device.Id)!.Revision));
        }
        if (!request.Apply || edits.Count == 0) return TypedResults.Ok(differences);
        ChangeOutcome outcome = workspace.Apply(edits, http.User.Identity!.Name!, Short($"Copied {(request.Side is { } copied ? $"what is set for {copied} onto the other side, at" : whole ? "all parameters" : $"those of {source.ChannelName(values.Form.Channels[from])}")} of ‘{source.Name}’"));
        return outcome.Accepted ? TypedResults.Ok(differences) : Problems.Of(outcome);
    }

    /// <summary>What a parameter takes when that of one side (heating, cooling) is copied onto the other; null where it has no other side.</summary>
    private static ParameterForm? Across(DeviceForm form, SettingCopy request, ParameterForm target, string side) =>
        target.Channel >= 0 && (request.ToChannels.Contains(form.Channels[target.Channel].Key) || (request.ToChannels.Count == 0 && form.Channels[target.Channel].Key == request.From)) && form.Channels[target.Channel].Behaviour.Setting(target.Is.Key)?.Twin is { } twin && twin.Side != side ? form.Find($"{request.From}.{twin.Key}") : null;

    private static BusDevice? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<BusDevice>(new RecordId(id)) : null;

    private static string Short(string text, int most = 160) => text.Length > most ? text[..(most - 1)] + "…" : text;

    private static BusDeviceView View(Project project, BusDevice device, DeviceValues values)
    {
        DeviceForm form = values.Form;
        var differing = values.Differing.GroupBy(p => p.Channel).ToDictionary(g => g.Key, g => g.Count());
        var joined = device.Joins.Select(j => j.Object).ToHashSet();
        ChannelView Of(int at)
        {
            ChannelForm? c = at < 0 ? null : form.Channels[at];
            PortView[] Ports(IReadOnlyList<BehaviourPort> ports) => [.. ports.Select(p => new PortView(p.Key, p.Name.Replace("{channel}", c is null ? "" : device.ChannelName(c), StringComparison.Ordinal), p.Unit, p.Low, p.High, p.States))];
            return new ChannelView(c?.Key ?? "", c?.Title ?? "The device", c is null ? "The device" : device.ChannelName(c), c?.Behaviour.Key ?? "", c is null || values.IsThere(c), c is null || values.IsInUse(at),
                [.. form.Pages.Where(p => p.Channel == at && values.IsThere(p)).Select(p => p.Title)], differing.GetValueOrDefault(at), form.Objects.Count(o => o.Channel == at && values.IsThere(o)), form.Objects.Count(o => o.Channel == at && joined.Contains(o.Path)),
                c is null ? [] : Ports(c.Behaviour.Senses), c is null ? [] : Ports(c.Behaviour.Drives), c is null ? null : device.Uses.FirstOrDefault(u => u.Channel == c.Key), c is null ? [] : [.. c.Behaviour.Settings.Select(s => s.Twin?.Side).OfType<string>().Distinct()]);
        }
        return new BusDeviceView(device, project.FindEntry(device.Id)!.Revision, project.PathOf(device.Id), device.AddressIn(project)?.ToString(), form.Description.Name, form.Description.About, form.Description.CanBeSecured,
            [.. Enumerable.Range(-1, form.Channels.Count + 1).Select(Of).Where(c => c.Key.Length > 0 || form.Pages.Any(p => p.Channel < 0)).Where(c => c.Behaviour != "device")], differing.Values.Sum(), values.Idle.Count(), StoryIdeas.Of(values));
    }

    private static ParameterView Of(BusDevice device, DeviceValues values, ParameterForm p)
    {
        var hidden = values.WhyHidden(p.Is.Label!, p.When);
        string value = values.SetOf(p) ?? p.Is.Begins;
        return new ParameterView(p.Path, p.Is.Key, values.Form.Pages[p.Page].Title, p.Channel < 0 ? "" : values.Form.Channels[p.Channel].Key, p.Channel < 0 ? "The device" : device.ChannelName(values.Form.Channels[p.Channel]), p.Is.Label!, p.Is.Sort!.Value, value, p.Is.Say(value), p.Is.Say(p.Is.Begins), value != p.Is.Begins, hidden is null,
            hidden?.Sentence, hidden?.Needs ?? [], p.Is.SaidUnit, p.Is.Least, p.Is.Most, p.Is.Step, p.Is.Choices, p.Is.Help is { Length: > 0 } help ? help : null);
    }
}
