using System.Text;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Security;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Tunnel;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Trends;
using LoftyWren.Storage.Accounts;
using LoftyWren.VirtualSite.Bus;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Bus.Work;

/// <summary>A device to be put to work: what it is by design, how it stands before somebody at the site, what it said when it was looked at last, and how long writing it takes, s.</summary>
public sealed record BusWorkRow(RecordId Id, string Name, string Path, string Device, RecordId? LineId, string? Address, string? Serial, SeenBusDevice? OnSite, BusState State, long? SeenAt, DeviceHealth? Health, IReadOnlyList<WorkChannel> Channels, double FullSeconds, double? DifferenceSeconds, int Parameters, int Groups, bool CanBeSecured = false, bool IsSecured = false);

/// <summary>A channel as it was seen: what it drives in words, for how many hours it was on, how often it came on, what it used in Wh.</summary>
public sealed record WorkChannel(string Name, string? Says, double? Hours, double? Cycles, double? WattHours);

/// <summary>All devices of the lines to be put to work; whether an interface leads to them; whether the clock of the virtual site runs.</summary>
public sealed record BusWorkView(IReadOnlyList<BusWorkRow> Rows, bool IsReached, bool ClockRuns);

/// <summary>Devices for some work.</summary>
public sealed record BusIds(IReadOnlyList<RecordId> Ids);

/// <summary>Devices that get their addresses.</summary>
public sealed record BusAddressWork(IReadOnlyList<RecordId> Ids, FoundBy By);

/// <summary>Devices that are written.</summary>
public sealed record BusSendWork(IReadOnlyList<RecordId> Ids, bool IsFull = false);

/// <summary>A serial number as it is read from a label.</summary>
public sealed record LabelRequest(string Label);

/// <summary>What somebody does at a device of the virtual site.</summary>
public sealed record BusDeedRequest(RecordId Id, BusDeed Do);

/// <summary>A channel driven by hand; no value lets it go. By its label where it has no address yet.</summary>
public sealed record TryRequest(string Channel, double? Value = null);

/// <summary>A channel to be tried: what it can be driven to, what it drives now, what it is for, and whether it runs between two ends, so that its run can be timed; where it stands in the virtual building, which a device reckons only.</summary>
public sealed record TryChannel(string Key, string Name, string Kind, double Low, double High, string Unit, IReadOnlyList<string>? States, double? Now, RecordId? PlaceId, string? Place, bool Travels, string? InBuilding);

/// <summary>A device whose channels are tried, and when it was told last, ms by the clock of the site.</summary>
public sealed record TryView(RecordId Id, string Name, string Path, string? Address, IReadOnlyList<TryChannel> Channels, long At);

/// <summary>A device read back: when (ms since 1970 UTC), and in what it is otherwise than designed.</summary>
public sealed record BusCompared(long At, IReadOnlyList<ImageDifference> Differences);

/// <summary>What a line says: whether somebody listens, the telegrams after a number, how loaded it is, who speaks most.</summary>
public sealed record MonitorView(bool IsListening, string? Trouble, long Heard, IReadOnlyList<HeardTelegram> Telegrams, LineLoad? Load, IReadOnlyList<LoadShare> Devices, IReadOnlyList<LoadShare> Groups);

/// <summary>The passphrase of the project's keys.</summary>
public sealed record PassphraseRequest(string Passphrase, string? Old = null);

/// <summary>How the keys stand, how many letters a passphrase has at least, of which devices the certificate is known, and how many are secured by design.</summary>
public sealed record BusKeysView(VaultState State, int Fewest, IReadOnlyList<RecordId> Known, int Secured);

/// <summary>What is printed on a device of the virtual site: its label, its certificate where it can be secured, and both as the square code holds them.</summary>
public sealed record StickerView(string Label, string? Certificate, string Code);

/// <summary>How often bus devices are looked at by themselves, min of site time; 0 for never.</summary>
public sealed record BusWatchView(int Minutes);

/// <summary>A value to be said to a group, in words; none: it is asked for.</summary>
public sealed record SayRequest(string Group, string? Value = null);

/// <summary>Recorded telegrams to be said again, from one number to another.</summary>
public sealed record ReplayRequest(long From, long Until);

internal static class BusWorkEndpoints
{
    private const int Most = 5000, MostShown = 500, MostLetters = 200;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/bus/work", (IVirtualSite site, BusLines lines) => Work(site, lines)).For(Role.Viewer);
        api.MapPost("/bus/work/hang", Results<Ok<BusWorkView>, ProblemHttpResult> (BusIds request, HttpContext http, Workspace workspace, IVirtualSite site, BusLines lines) => Done(() =>
        {
            Project project = workspace.Project;
            var there = site.BusDevices().ToDictionary(d => d.Id);
            List<BoxedBusDevice> boxes = [.. Of(project, request.Ids).Select(d => BusBuilder.BoxOf(project, d, there.GetValueOrDefault(d.Id)?.Serial)).OfType<BoxedBusDevice>()];
            if (boxes.Count == 0) throw new InvalidOperationException("None of these devices is on a line. Give them addresses first: that says on which line they hang.");
            site.HangOnBus(http.User.Identity!.Name!, boxes.Count == 1 ? $"Hung ‘{project.Find(boxes[0].Id)?.Name}’ on its line" : $"Hung {boxes.Count} bus devices on their lines", boxes);
            return Work(site, lines);
        })).For(Role.Technician);
        api.MapPost("/bus/work/take-down", Results<Ok<BusWorkView>, ProblemHttpResult> (BusIds request, HttpContext http, Workspace workspace, IVirtualSite site, BusLines lines) => Done(() =>
        {
            site.TakeOffBus(http.User.Identity!.Name!, request.Ids.Count == 1 ? $"Took ‘{workspace.Project.Find(request.Ids[0])?.Name}’ off its line" : $"Took {request.Ids.Count} bus devices off their lines", request.Ids);
            foreach (RecordId id in request.Ids) lines.See(id, BusState.Unknown);
            return Work(site, lines);
        })).For(Role.Technician);
        api.MapPost("/bus/work/act", Results<Ok<BusWorkView>, ProblemHttpResult> (BusDeedRequest request, HttpContext http, Workspace workspace, IVirtualSite site, BusLines lines) => Done(() =>
        {
            string name = workspace.Project.Find(request.Id)?.Name ?? request.Id.Value;
            site.ActOnBus(http.User.Identity!.Name!, request.Do switch
            {
                BusDeed.Press => $"Pressed the button of ‘{name}’",
                BusDeed.TakeBus => $"Took ‘{name}’ off the bus",
                BusDeed.GiveBus => $"Connected ‘{name}’ to the bus again",
                BusDeed.Reset => $"Held the button of ‘{name}’: it is as out of its box",
                BusDeed.TakeMains => $"Took the mains of ‘{name}’",
                _ => $"Gave ‘{name}’ its mains again",
            }, request.Id, request.Do);
            return Work(site, lines);
        })).For(Role.Technician);
        api.MapPost("/bus/work/addresses", Results<Ok<JobView>, ProblemHttpResult> (BusAddressWork request, HttpContext http, Workspace workspace, JobRunner jobs) =>
            Begin(workspace.Project, request.Ids, names => jobs.Start(BusWork.AddressJob, $"Addresses: {names}", http.User.Identity!.Name!, new AddressOrder([.. request.Ids.Distinct()], request.By)))).For(Role.Technician);
        api.MapPost("/bus/work/send", Results<Ok<JobView>, ProblemHttpResult> (BusSendWork request, HttpContext http, Workspace workspace, JobRunner jobs) =>
            Begin(workspace.Project, request.Ids, names => jobs.Start(BusWork.SendJob, $"Write {names}", http.User.Identity!.Name!, new BusSendOrder([.. request.Ids.Distinct()], request.IsFull)))).For(Role.Technician);
        api.MapPost("/bus/work/look", Results<Ok<JobView>, ProblemHttpResult> (BusIds request, HttpContext http, Workspace workspace, JobRunner jobs) =>
            Begin(workspace.Project, request.Ids, names => jobs.Start(BusWork.LookJob, $"Look at {names}", http.User.Identity!.Name!, new BusLookOrder([.. request.Ids.Distinct()])))).For(Role.Technician);
        MapKeys(api);
        api.MapPost("/bus/work/{id}/compare", Results<Ok<JobView>, ProblemHttpResult> (string id, HttpContext http, Workspace workspace, IVirtualSite site, BusLines lines, BusHistory history, JobRunner jobs, TimeProvider clock) =>
        {
            if (Find(workspace, id) is not { } device) return Problems.Missing("bus device");
            var work = new BusWork(workspace, site, lines, history);
            return TypedResults.Ok(jobs.Start("busCompare", $"Read {device.Name} back", http.User.Identity!.Name!, async job =>
            {
                IReadOnlyList<ImageDifference> differences = await work.Compare(device.Id, job);
                lines.Compared[device.Id] = new BusCompared(clock.GetUtcNow().ToUnixTimeMilliseconds(), differences);
                return differences.Count == 0 ? $"{device.Name} has what is designed." : $"{device.Name} is otherwise in {differences.Count}.";
            }, "Nothing was changed; resume to read it again."));
        }).For(Role.Technician);
        api.MapGet("/bus/work/{id}/compare", (string id, BusLines lines) => RecordId.IsValid(id) && lines.Compared.TryGetValue(new RecordId(id), out BusCompared? known) ? known : new BusCompared(0, [])).For(Role.Viewer);
        api.MapGet("/bus/work/health.csv", (IVirtualSite site, BusLines lines) => TypedResults.File(Encoding.UTF8.GetBytes(Health(Work(site, lines))), "text/csv", "bus-devices.csv")).For(Role.Viewer);
        api.MapGet("/bus/work/watch", (BusHistory history) => new BusWatchView(history.Minutes)).For(Role.Viewer);
        api.MapPost("/bus/work/watch", Results<Ok<BusWatchView>, ProblemHttpResult> (BusWatchView request, HttpContext http, BusHistory history, IVirtualSite site) =>
        {
            if (request.Minutes is < 0 or > BusHistory.MostMinutes) return Problems.Refused($"They are looked at every 1 to {BusHistory.MostMinutes} min of site time, or never (0).");
            history.Minutes = request.Minutes;
            site.Trail(http.User.Identity!.Name!, request.Minutes == 0 ? "Bus devices are not looked at by themselves any more" : $"Bus devices are looked at every {request.Minutes} min", null);
            return TypedResults.Ok(new BusWatchView(history.Minutes));
        }).For(Role.Technician);
        api.MapGet("/bus/work/{id}/history", Results<Ok<List<TrendData>>, ProblemHttpResult> (string id, string what, long from, long to, int? columns, Workspace workspace, BusHistory history) =>
        {
            if (Find(workspace, id) is not { } device || device.DescriptionIn(workspace.Project) is not { } description) return Problems.Missing("bus device");
            if (what != BusHistory.FailuresKey && Counted.All.All(c => c.Key != what)) return Problems.Refused($"Nothing called ‘{what}’ is counted. There are {string.Join(", ", Counted.All.Select(c => c.Key).Append(BusHistory.FailuresKey))}.");
            return to > from ? TypedResults.Ok(history.Read(device, description.Form, what, from, to, Math.Clamp(columns ?? 400, 10, 4000)).ToList()) : Problems.Refused("The end of the chart must be after its beginning.");
        }).For(Role.Viewer);
        api.MapGet("/bus/work/{id}/history.csv", Results<FileContentHttpResult, ProblemHttpResult> (string id, Workspace workspace, BusHistory history) => Find(workspace, id) is { } device && device.DescriptionIn(workspace.Project) is { } description
            ? TypedResults.File(Encoding.UTF8.GetBytes(history.Csv(device, description.Form)), "text/csv", "bus-device-history.csv") : Problems.Missing("bus device")).For(Role.Viewer);
        MapTry(api);
        MapMonitor(api);
    }

    private static void MapKeys(RouteGroupBuilder api)
    {
        api.MapPost("/bus/work/{id}/label", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, LabelRequest request, HttpContext http, Workspace workspace, BusKeys keys) =>
        {
            if (Find(workspace, id) is not { } device) return Problems.Missing("bus device");
            if (request.Label.Length > MostLetters) return Problems.Refused("A label or a certificate is much shorter than that.");
            var (sticker, trouble) = BusSticker.Read(request.Label);
            if (sticker is null) return Problems.Refused(trouble!);
            bool secures = sticker.Certificate is not null && device.DescriptionIn(workspace.Project)?.CanBeSecured == true;
            try
            {
                if (secures) keys.Keep(device.Id, sticker.Certificate!);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
            BusDevice after = device with { Serial = sticker.Label, IsSecured = device.IsSecured || secures };
            return ProjectEndpoints.Answer(workspace.Apply([Edit.Of(after, workspace.Project.FindEntry(device.Id)!.Revision)], http.User.Identity!.Name!, $"The label of ‘{device.Name}’ is {sticker.Label}{(secures ? "; its certificate is known" : "")}"));
        }).For(Role.Technician);
        api.MapGet("/bus/work/{id}/sticker", Results<Ok<StickerView>, ProblemHttpResult> (string id, Workspace workspace, IVirtualSite site) =>
        {
            if (Find(workspace, id) is not { } device || site.BusDevices().FirstOrDefault(d => d.Id == device.Id) is not { } hung) return Problems.Refused("It does not hang on the virtual site; a real device has its sticker on it.");
            var sticker = new BusSticker(hung.Serial, device.DescriptionIn(workspace.Project)?.CanBeSecured == true ? BusCertificate.OfStandIn(hung.Serial) : null);
            return TypedResults.Ok(new StickerView(sticker.Label, sticker.Certificate?.ToString(), sticker.Code));
        }).For(Role.Technician);
        api.MapPost("/bus/work/{id}/forget", Results<NoContent, ProblemHttpResult> (string id, HttpContext http, Workspace workspace, BusKeys keys, IVirtualSite site) =>
        {
            if (Find(workspace, id) is not { } device) return Problems.Missing("bus device");
            keys.Forget(device.Id);
            site.Trail(http.User.Identity!.Name!, $"Forgot the certificate of ‘{device.Name}’", device.Id);
            return TypedResults.NoContent();
        }).For(Role.Engineer);
        api.MapGet("/bus/keys", (Workspace workspace, BusKeys keys) => KeysOf(workspace, keys)).For(Role.Technician);
        Vault("open", Role.Technician, "Opened the keys of bus devices", (keys, request) => keys.Open(request.Passphrase));
        Vault("change", Role.Engineer, "Gave the keys of bus devices another passphrase", (keys, request) => keys.Change(request.Old ?? "", request.Passphrase));
        Vault("lock", Role.Technician, "Locked the keys of bus devices", (keys, _) => keys.Close());

        void Vault(string word, Role role, string said, Action<BusKeys, PassphraseRequest> deed) => api.MapPost($"/bus/keys/{word}", Results<Ok<BusKeysView>, ProblemHttpResult> (PassphraseRequest request, HttpContext http, Workspace workspace, BusKeys keys, IVirtualSite site) =>
        {
            if (request.Passphrase.Length > MostLetters || request.Old?.Length > MostLetters) return Problems.Refused($"A passphrase has {MostLetters} letters at most.");
            try
            {
                deed(keys, request);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
            site.Trail(http.User.Identity!.Name!, said, null);
            return TypedResults.Ok(KeysOf(workspace, keys));
        }).For(role);
    }

    private static BusKeysView KeysOf(Workspace workspace, BusKeys keys) => new(keys.State, BusKeys.Fewest, [.. workspace.Project.All<BusDevice>().Where(d => keys.Knows(d.Id)).Select(d => d.Id)], workspace.Project.All<BusDevice>().Count(d => d.IsSecured));

    private static void MapTry(RouteGroupBuilder api)
    {
        api.MapGet("/bus/try/{id}", async Task<Results<Ok<TryView>, ProblemHttpResult>> (string id, Workspace workspace, IVirtualSite site, BusLines lines, CancellationToken stop) =>
        {
            Project project = workspace.Project;
            if (Find(workspace, id) is not { } device || device.ValuesIn(project) is not { } values) return Problems.Missing("bus device");
            return await Refusing(async () =>
            {
                var now = new Dictionary<int, double>();
                if (device.LineId is { } line && device.AddressIn(project) is { } address)
                {
                    now = await lines.With(line, async m =>
                    {
                        await lines.Ready(m, device, address, stop);
                        return await m.Drives(address, values.Form, stop);
                    }, stop);
                }
                return TypedResults.Ok(View(project, device, values, now, site.Clock().Now, site.BusDevices().FirstOrDefault(d => d.Id == device.Id)));
            });
        }).For(Role.Technician);
        api.MapPost("/bus/try/{id}", async Task<Results<Ok<TryView>, ProblemHttpResult>> (string id, TryRequest request, HttpContext http, Workspace workspace, IVirtualSite site, BusLines lines, CancellationToken stop) =>
        {
            Project project = workspace.Project;
            if (Find(workspace, id) is not { } device || device.ValuesIn(project) is not { } values) return Problems.Missing("bus device");
            int channel = values.Form.ChannelAt(request.Channel);
            if (channel < 0 || values.Form.Channels[channel].Behaviour.Drives.Count == 0) return Problems.Refused($"‘{device.Name}’ has no channel ‘{request.Channel}’ that drives something.");
            if (device.LineId is not { } line || device.AddressIn(project) is not { } address) return Problems.Refused($"‘{device.Name}’ has no address. Give it one first; group addresses are not needed.");
            BehaviourPort port = values.Form.Channels[channel].Behaviour.Drives[0];
            if (request.Value is { } value && !(value >= port.Low && value <= port.High)) return Problems.Refused($"It is driven from {port.Low} to {port.High}{(port.Unit.Length > 0 ? " " + port.Unit : "")}.");
            return await Refusing(async () =>
            {
                long at = 0;
                var now = await lines.With(line, async m =>
                {
                    await lines.Ready(m, device, address, stop);
                    if (!await m.Drive(address, channel, request.Value, stop)) throw new BusRefusedException($"{address} did not take it. See which device hangs there.");
                    at = site.Clock().Now;
                    return await m.Drives(address, values.Form, stop);
                }, stop);
                string what = request.Value is { } v ? port.Say(v) : "let go";
                site.Trail(http.User.Identity!.Name!, $"Tried ‘{device.ChannelName(values.Form.Channels[channel])}’ of ‘{device.Name}’: {what}", device.Id);
                return TypedResults.Ok(View(project, device, values, now, at, site.BusDevices().FirstOrDefault(d => d.Id == device.Id)));
            });
        }).For(Role.Technician);
    }

    private static void MapMonitor(RouteGroupBuilder api)
    {
        api.MapGet("/bus/monitor/{line}", Results<Ok<MonitorView>, ProblemHttpResult> (string line, long? after, string? words, Workspace workspace, BusMonitors monitors) =>
        {
            if (LineOf(workspace, line) is not { } own) return Problems.Missing("line");
            if (monitors.Find(own.Id) is not { } monitor) return TypedResults.Ok(new MonitorView(false, null, 0, [], null, [], []));
            var (devices, groups) = monitor.Shares(workspace.Project, 8);
            return TypedResults.Ok(new MonitorView(monitor.Closed is null, monitor.Closed, monitor.Count, monitor.After(workspace.Project, after ?? 0, words, MostShown), monitor.Load(), devices, groups));
        }).For(Role.Viewer);
        api.MapPost("/bus/monitor/{line}", async Task<Results<NoContent, ProblemHttpResult>> (string line, bool on, HttpContext http, Workspace workspace, IVirtualSite site, BusMonitors monitors, CancellationToken stop) =>
        {
            if (LineOf(workspace, line) is not { } own) return Problems.Missing("line");
            try
            {
                if (on) await monitors.Listen(own.Id, stop);
                else await monitors.End(own.Id);
                site.Trail(http.User.Identity!.Name!, on ? $"Listens to line {own.Written}" : $"Listens to line {own.Written} no more", own.Id);
                return TypedResults.NoContent();
            }
            catch (Exception e) when (e is InvalidOperationException or TunnelLostException)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Technician);
        api.MapPost("/bus/monitor/{line}/say", async Task<Results<NoContent, ProblemHttpResult>> (string line, SayRequest request, HttpContext http, Workspace workspace, IVirtualSite site, BusLines lines, CancellationToken stop) =>
        {
            Project project = workspace.Project;
            if (LineOf(workspace, line) is not { } own) return Problems.Missing("line");
            GroupAddress? group = GroupNumber.Read(request.Group) is { } number ? GroupAddress.At(project, number) : project.All<GroupAddress>().FirstOrDefault(g => g.Name.Equals(request.Group.Trim(), StringComparison.OrdinalIgnoreCase));
            if (group is null || DatapointType.Find(group.Datapoint) is not { } type) return Problems.Refused($"There is no group address ‘{request.Group}’. Write it in three levels, or by its name.");
            byte[] octets = new byte[16];
            bool asks = string.IsNullOrWhiteSpace(request.Value);
            if (!asks && type.Read(request.Value!, octets) is { } refusal) return Problems.Refused(refusal);
            return await Refusing<NoContent>(async () =>
            {
                bool isTaken = await lines.With(own.Id, m => m.Say(BusFrame.OfGroup(asks ? BusService.GroupRead : BusService.GroupWrite, group.Number, octets.AsSpan(0, asks ? 0 : type.Octets), asks ? 1 : type.Bits), stop), stop);
                site.Trail(http.User.Identity!.Name!, asks ? $"Asked for {group.Number} ‘{group.Name}’" : $"Said {request.Value} to {group.Number} ‘{group.Name}’", group.Id);
                return isTaken ? TypedResults.NoContent() : throw new InvalidOperationException($"Nobody on line {own.Written} took it: no device there listens to {group.Number}, or none that does lives, or a coupler on the way to it lets the address not through.");
            });
        }).For(Role.Technician);
        api.MapPost("/bus/monitor/{line}/replay", Results<Ok<JobView>, ProblemHttpResult> (string line, ReplayRequest request, HttpContext http, Workspace workspace, IVirtualSite site, BusLines lines, BusMonitors monitors, JobRunner jobs) =>
        {
            if (LineOf(workspace, line) is not { } own || monitors.Find(own.Id) is not { } monitor) return Problems.Refused("Nothing is recorded of this line. Listen to it first.");
            var recorded = monitor.Recorded(request.From, request.Until);
            if (recorded.Count == 0) return Problems.Refused("Among these telegrams none says a value to a group; only such are said again.");
            string who = http.User.Identity!.Name!;
            return TypedResults.Ok(jobs.Start("busReplay", $"Say {recorded.Count} telegrams again on line {own.Written}", who, async job =>
            {
                site.Trail(who, $"Says {recorded.Count} recorded telegrams again on line {own.Written}", own.Id);
                for (int i = 0; i < recorded.Count; i++)
                {
                    job.Report(i, recorded.Count, $"Telegram {i + 1} of {recorded.Count}");
                    // As far apart as they were, by the clock of the site.
                    if (i > 0) await Task.Delay((int)Math.Clamp((recorded[i].At - recorded[i - 1].At) / Math.Max(1, site.Clock().Speed), 0, 60_000), job.Stop);
                    BusFrame frame = recorded[i].Frame with { IsRepeated = false, Hops = 6 };
                    await lines.With(own.Id, m => m.Say(frame, job.Stop), job.Stop);
                }
                return $"{recorded.Count} telegrams were said again.";
            }, "What was said was said."));
        }).For(Role.Technician);
        api.MapGet("/bus/monitor/{line}/record.csv", Results<FileContentHttpResult, ProblemHttpResult> (string line, Workspace workspace, BusMonitors monitors) =>
        {
            if (LineOf(workspace, line) is not { } own || monitors.Find(own.Id) is not { } monitor) return Problems.Missing("recording");
            var text = new StringBuilder("number,time,priority,from,from name,to,to name,service,value,repeated,octets\r\n");
            foreach (HeardTelegram t in monitor.After(workspace.Project, 0, null, int.MaxValue))
                text.Append(System.Globalization.CultureInfo.InvariantCulture, $"{t.Number},{DateTimeOffset.FromUnixTimeMilliseconds(t.At):yyyy-MM-ddTHH:mm:ss.fffZ},{t.Priority.ToString().ToLowerInvariant()},{t.From},{Cell(t.FromName)},{t.To},{Cell(t.ToName)},{t.Service},{Cell(t.Says)},{(t.IsRepeated ? "yes" : "")},{t.Octets}\r\n");
            return TypedResults.File(Encoding.UTF8.GetBytes(text.ToString()), "text/csv", $"line-{own.Written}.csv");
        }).For(Role.Viewer);
    }

    private static BusLine? LineOf(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<BusLine>(new RecordId(id)) : null;

    private static BusDevice? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<BusDevice>(new RecordId(id)) : null;

    private static IEnumerable<BusDevice> Of(Project project, IEnumerable<RecordId> ids) => ids.Distinct().Take(Most).Select(id => project.Find<BusDevice>(id)).OfType<BusDevice>();

    private static Results<Ok<JobView>, ProblemHttpResult> Begin(Project project, IReadOnlyList<RecordId> ids, Func<string, JobView> start)
    {
        List<BusDevice> devices = [.. Of(project, ids)];
        if (devices.Count == 0) return Problems.Missing("bus device");
        if (devices.FirstOrDefault(d => d.AddressIn(project) is null) is { } open) return Problems.Refused($"‘{open.Name}’ has no address by design. Give it one under Bus first.");
        return TypedResults.Ok(start(devices.Count == 1 ? devices[0].Name : $"{devices.Count} bus devices"));
    }

    private static Results<Ok<BusWorkView>, ProblemHttpResult> Done(Func<BusWorkView> deed)
    {
        try
        {
            return TypedResults.Ok(deed());
        }
        catch (InvalidOperationException e)
        {
            return Problems.Refused(e.Message);
        }
    }

    private static async Task<Results<T, ProblemHttpResult>> Refusing<T>(Func<Task<T>> work) where T : IResult
    {
        try
        {
            return await work();
        }
        catch (Exception e) when (e is InvalidOperationException or TunnelLostException)
        {
            return Problems.Refused(e.Message);
        }
    }

    private static BusWorkView Work(IVirtualSite site, BusLines lines)
    {
        var onSite = site.BusDevices().ToDictionary(d => d.Id);
        BusDesign design = lines.Design;
        Project project = design.Project;
        var rows = new List<BusWorkRow>();
        foreach (var (device, address) in project.All<BusDevice>().Select(d => (Device: d, Address: d.AddressIn(project))).OrderBy(d => d.Address is null).ThenBy(d => d.Address?.Raw ?? 0).ThenBy(d => d.Device.Name, StringComparer.Ordinal))
        {
            BusSeen seen = lines.SeenOf(device, design);
            var (image, full) = design.Of(device);
            DeviceForm? form = device.DescriptionIn(project)?.Form;
            double? difference = image is not null && form is not null && seen.There is { } there ? ApplicationTransfer.Of(image, there, form).Seconds : null;
            rows.Add(new BusWorkRow(device.Id, device.Name, project.PathOf(device.Id), form?.Description.Name ?? device.DescriptionId, device.LineId, address?.ToString(), device.Serial, onSite.GetValueOrDefault(device.Id), seen.State, seen.At == 0 ? null : seen.At, seen.Health, [.. Channels(device, form, seen.Health)], full, difference is { } d ? Math.Round(d, 1) : null, image?.Settings.Count ?? 0, image?.Groups.Count ?? 0, form?.Description.CanBeSecured == true, device.IsSecured));
        }
        // What hangs and was taken out of the project meanwhile can be taken down.
        foreach (SeenBusDevice left in onSite.Values.Where(s => project.Find<BusDevice>(s.Id) is null).OrderBy(s => s.Id))
            rows.Add(new BusWorkRow(left.Id, left.Serial, "not in the project any more", "", null, null, left.Serial, left, BusState.Unknown, null, null, [], 0, null, 0, 0));
        return new BusWorkView(rows, lines.HasInterface, site.Clock().Running);
    }

    private static IEnumerable<WorkChannel> Channels(BusDevice device, DeviceForm? form, DeviceHealth? health)
    {
        foreach (ChannelHealth each in health?.Channels ?? [])
        {
            if (form is null || form.ChannelAt(each.Channel) is not (>= 0 and var at)) continue;
            BehaviourPort port = form.Channels[at].Behaviour.Drives[0];
            yield return new WorkChannel(device.ChannelName(form.Channels[at]), each.Drives is { } value ? port.Say(value) : null, each.Hours, each.Cycles, each.WattHours);
        }
    }

    private static TryView View(Project project, BusDevice device, DeviceValues values, IReadOnlyDictionary<int, double> now, long at, SeenBusDevice? onSite) => new(device.Id, device.Name, project.PathOf(device.Id), device.AddressIn(project)?.ToString(),
    [
        .. values.Form.Channels.Select((c, i) => (Channel: c, At: i)).Where(c => c.Channel.Behaviour.Drives.Count > 0).Select(c =>
        {
            BehaviourPort port = c.Channel.Behaviour.Drives[0];
            ChannelUse? use = device.Uses.FirstOrDefault(u => u.Channel == c.Channel.Key);
            return new TryChannel(c.Channel.Key, device.ChannelName(c.Channel), c.Channel.Behaviour.Name, port.Low, port.High, port.Unit, port.States, now.TryGetValue(c.At, out double value) ? value : null, use?.PlaceId, use?.PlaceId is { } place ? project.Find(place)?.Name : null, values.Form.Find($"{c.Channel.Key}.{BlindBehaviour.DownTimeKey}") is not null, onSite?.Loads.FirstOrDefault(l => l.Channel == c.Channel.Key && l.Port == SiteHost.InBuilding)?.Says);
        }),
    ], at);

    private static string Health(BusWorkView view)
    {
        var text = new StringBuilder("address,name,device,label,state,firmware,bus failures,channel,drives,hours,cycles,Wh\r\n");
        foreach (BusWorkRow row in view.Rows)
        {
            string head = $"{row.Address},{Cell(row.Name)},{Cell(row.Device)},{row.Health?.Serial ?? row.Serial},{row.State.ToString().ToLowerInvariant()},{row.Health?.Firmware},{row.Health?.Failures}";
            if (row.Health is not { Channels.Count: > 0 } health) text.Append(head).Append(",,,,,\r\n");
            else
            {
                foreach (ChannelHealth c in health.Channels) text.Append(System.Globalization.CultureInfo.InvariantCulture, $"{head},{c.Channel},{Number(c.Drives)},{Number(c.Hours)},{Number(c.Cycles)},{Number(c.WattHours)}\r\n");
            }
        }
        return text.ToString();

        static string Number(double? value) => value?.ToString("0.###", System.Globalization.CultureInfo.InvariantCulture) ?? "";
    }

    // A cell that begins like a formula is made a text, as in every list that is written.
    internal static string Cell(string? text) => text is null ? "" : $"\"{("=+-@".Contains(text.FirstOrDefault(), StringComparison.Ordinal) ? "'" : "")}{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
}
